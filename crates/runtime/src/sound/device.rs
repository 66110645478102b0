//! Capture devices. The callback of the device only hands samples over; it neither locks nor allocates.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use cpal::traits::{DeviceTrait, HostTrait, StreamTrait};
use cpal::{SampleFormat, SizedSample, StreamConfig};

use super::{Arrival, Ear, ToMono48k};
use crate::clock::Instant;

/// The time that a device that is gone is left alone before it is looked for again.
const RETRY: Duration = Duration::from_secs(1);
/// Samples that wait for the listener, at the most: 0.7 s of eight channels.
const WAITING: usize = 262_144;
/// A device that is silent for so long, without even a silent sample, is taken for gone.
const GONE: f64 = 2.0;

/// The names of the devices that can be listened to.
#[must_use]
pub fn devices() -> Vec<String> {
    let inputs = cpal::default_host().input_devices().map(|d| d.filter_map(|d| name(&d)).collect());
    inputs.unwrap_or_default()
}

fn name(device: &cpal::Device) -> Option<String> {
    device.description().ok().map(|d| d.name().to_owned())
}

/// Listens to a device, and waits for it again whenever it is gone.
pub(super) fn capture(wanted: &str, ear: &mut Ear) {
    while !ear.stopped() {
        if let Err(reason) = capture_once(wanted, ear) {
            ear.troubles.tell("sound", format!("{reason}; it is tried again every second"));
            let until = Instant::now().plus(RETRY.as_nanos() as i64);
            while Instant::now() < until && !ear.stopped() {
                std::thread::sleep(Duration::from_millis(20));
            }
        }
    }
}

fn find(wanted: &str) -> Result<cpal::Device, String> {
    let host = cpal::default_host();
    let by_id = || {
        host.input_devices().ok()?.find(|d| {
            d.id().is_ok_and(|id| id.to_string() == wanted || id.to_string().ends_with(&format!(":{wanted}")))
        })
    };
    let by_name = || host.input_devices().ok()?.find(|d| name(d).as_deref() == Some(wanted));
    let found = if wanted == "default" { host.default_input_device() } else { by_name().or_else(by_id) };
    found.ok_or_else(|| {
        let known = devices();
        let known =
            if known.is_empty() { "there is none".to_owned() } else { format!("there are: {}", known.join(", ")) };
        format!("there is no capture device \"{wanted}\" ({known})")
    })
}

fn capture_once(wanted: &str, ear: &mut Ear) -> Result<(), String> {
    let device = find(wanted)?;
    let failed = |e: cpal::Error| format!("the capture device \"{wanted}\" cannot be used: {e}");
    let supported = device.default_input_config().map_err(failed)?;
    let config: StreamConfig = supported.into();
    let (channels, rate) = (usize::from(config.channels), config.sample_rate);
    let (samples_in, mut samples_out) = rtrb::RingBuffer::<f32>::new(WAITING);
    let lost = Arc::new(AtomicBool::new(false));
    let broke = lost.clone();
    let on_error = move |error: cpal::Error| {
        use cpal::ErrorKind::{DeviceChanged, RealtimeDenied, Xrun};
        if !matches!(error.kind(), Xrun | RealtimeDenied | DeviceChanged) {
            broke.store(true, Ordering::Relaxed);
        }
    };
    let stream = match supported.sample_format() {
        SampleFormat::F32 => open::<f32>(&device, config, samples_in, on_error, |s| s),
        SampleFormat::I16 => open::<i16>(&device, config, samples_in, on_error, |s| f32::from(s) / 32_768.0),
        SampleFormat::I32 => open::<i32>(&device, config, samples_in, on_error, |s| s as f32 / 2_147_483_648.0),
        SampleFormat::U8 => open::<u8>(&device, config, samples_in, on_error, |s| (f32::from(s) - 128.0) / 128.0),
        other => {
            return Err(format!("the capture device \"{wanted}\" has samples of a kind that is not known ({other})"));
        }
    }
    .map_err(failed)?;
    stream.play().map_err(failed)?;
    ear.troubles.over("sound");
    ear.begin_anew();
    follow(ear, &mut samples_out, ToMono48k::picking(channels, rate, ear.channels), &lost);
    // What waits for the device that is gone sees that nothing is heard any more.
    ear.silence();
    leave(stream);
    if ear.stopped() { Ok(()) } else { Err(format!("the capture device \"{wanted}\" is gone")) }
}

/// Lets go of a stream without waiting for it: a sound server that died may never answer again, and what it left behind with
/// us waits for it (seen with PulseAudio's plug-in for ALSA).
fn leave(stream: cpal::Stream) {
    // Where there is no thread to be had, it stays for good, which is better than to hang.
    let stream = std::mem::ManuallyDrop::new(stream);
    let _ = std::thread::Builder::new()
        .name("device".into())
        .spawn(move || drop(std::mem::ManuallyDrop::into_inner(stream)));
}

fn open<T: SizedSample + 'static>(
    device: &cpal::Device,
    config: StreamConfig,
    mut samples: rtrb::Producer<f32>,
    on_error: impl FnMut(cpal::Error) + Send + 'static,
    convert: fn(T) -> f32,
) -> Result<cpal::Stream, cpal::Error> {
    let heard = move |data: &[T], _: &cpal::InputCallbackInfo| hand_over(&mut samples, data, convert);
    device.build_input_stream(config, heard, on_error, None)
}

/// Hands a piece over, all of it or nothing: where the listener does not keep up it is left out rather than waited for, and no
/// channel takes the place of another behind it.
fn hand_over<T: Copy>(samples: &mut rtrb::Producer<f32>, data: &[T], convert: fn(T) -> f32) {
    if let Ok(chunk) = samples.write_chunk_uninit(data.len()) {
        chunk.fill_from_iter(data.iter().map(|&sample| convert(sample)));
    }
}

/// Listens to what the callback hands over, until it is stopped or nothing comes any more.
fn follow(ear: &mut Ear, samples: &mut rtrb::Consumer<f32>, mut converter: ToMono48k, lost: &AtomicBool) {
    let mut interleaved = Vec::with_capacity(WAITING);
    let mut mono = Vec::with_capacity(WAITING);
    let mut arrival = Arrival::default();
    let mut last = Instant::now();
    while !ear.stopped() && !lost.load(Ordering::Relaxed) {
        interleaved.clear();
        mono.clear();
        let count = samples.slots();
        if let Ok(chunk) = samples.read_chunk(count) {
            interleaved.extend(chunk);
        }
        let now = Instant::now();
        if interleaved.is_empty() {
            if now.seconds_since(last) > GONE {
                return;
            }
            std::thread::sleep(Duration::from_millis(3));
            continue;
        }
        last = now;
        converter.convert(&interleaved, &mut mono);
        ear.hear_as_it_comes(&mono, &mut arrival);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn where_nobody_keeps_up_whole_pieces_are_left_out_and_channels_stay_in_their_places() {
        let (mut samples_in, mut samples_out) = rtrb::RingBuffer::<f32>::new(20);
        let piece: Vec<i16> = [16_384, -16_384].repeat(3);
        for _ in 0..5 {
            hand_over(&mut samples_in, &piece, |s| f32::from(s) / 32_768.0);
        }
        let heard: Vec<f32> =
            samples_out.read_chunk(samples_out.slots()).expect("as many as there are").into_iter().collect();
        assert_eq!(heard, [0.5, -0.5].repeat(9), "three pieces of three frames have room");
        hand_over(&mut samples_in, &piece, |s| f32::from(s) / 32_768.0);
        assert_eq!(samples_out.slots(), 6);
    }
}
