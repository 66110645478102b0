//! Recordings played out of the machine's own sound, once from beginning to end.

use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::Builder;
use std::time::Duration;

use cpal::traits::{DeviceTrait, HostTrait, StreamTrait};
use cpal::{FromSample, SampleFormat, SizedSample, StreamConfig};
use splimo_hear::{HOP, SAMPLE_RATE};

use super::file::File;
use crate::trouble::Troubles;

/// Samples that wait for the device: half a second.
const AHEAD: usize = SAMPLE_RATE as usize / 2;

/// A recording that plays until it ends, or this is dropped.
pub struct SoundPlayer {
    stop: Arc<AtomicBool>,
    ended: Arc<AtomicBool>,
}

impl SoundPlayer {
    /// Begins to play a recording.
    ///
    /// # Errors
    /// If it is none, or the system gives no thread.
    pub fn start(path: &Path, troubles: &Troubles) -> Result<Self, String> {
        let mut file = File::open(path).map_err(|e| e.to_string())?;
        let (stop, ended) = (Arc::new(AtomicBool::new(false)), Arc::new(AtomicBool::new(false)));
        let (stopped, over, troubles) = (stop.clone(), ended.clone(), troubles.clone());
        let work = move || {
            if let Err(why) = play(&mut file, &stopped) {
                troubles.tell("sound out", why);
            }
            over.store(true, Ordering::Relaxed);
        };
        Builder::new().name("sound out".into()).spawn(work).map_err(|e| e.to_string())?;
        Ok(Self { stop, ended })
    }

    /// True if it has ended.
    #[must_use]
    pub fn is_over(&self) -> bool {
        self.ended.load(Ordering::Relaxed)
    }
}

impl Drop for SoundPlayer {
    fn drop(&mut self) {
        // Its thread is not waited for: a sound server that died may hold it.
        self.stop.store(true, Ordering::Relaxed);
    }
}

fn play(file: &mut File, stop: &AtomicBool) -> Result<(), String> {
    let device = cpal::default_host().default_output_device().ok_or("this machine has no sound to play with")?;
    let failed = |e: cpal::Error| format!("the sound of this machine cannot be used: {e}");
    let supported = device.default_output_config().map_err(failed)?;
    let config: StreamConfig = supported.into();
    let (mut samples, taken) = rtrb::RingBuffer::<f32>::new(AHEAD);
    let stream = match supported.sample_format() {
        SampleFormat::F32 => build::<f32>(&device, config, taken),
        SampleFormat::I16 => build::<i16>(&device, config, taken),
        SampleFormat::I32 => build::<i32>(&device, config, taken),
        SampleFormat::U8 => build::<u8>(&device, config, taken),
        other => return Err(format!("the sound of this machine has samples of a kind that is not known ({other})")),
    }
    .map_err(failed)?;
    stream.play().map_err(failed)?;
    let mut hop = [0.0; HOP];
    while !stop.load(Ordering::Relaxed) && file.next(&mut hop) {
        while samples.slots() < HOP && !stop.load(Ordering::Relaxed) {
            std::thread::sleep(Duration::from_millis(5));
        }
        for sample in hop {
            // There is room for all of them.
            let _ = samples.push(sample);
        }
    }
    while samples.slots() < AHEAD && !stop.load(Ordering::Relaxed) && !samples.is_abandoned() {
        std::thread::sleep(Duration::from_millis(10));
    }
    Ok(())
}

fn build<T: SizedSample + FromSample<f32>>(
    device: &cpal::Device,
    config: StreamConfig,
    mut samples: rtrb::Consumer<f32>,
) -> Result<cpal::Stream, cpal::Error> {
    let channels = usize::from(config.channels).max(1);
    let step = f64::from(SAMPLE_RATE) / f64::from(config.sample_rate);
    let (mut place, mut pair) = (0.0, [0.0f32; 2]);
    // Neither locks nor allocates. Between two samples it goes straight.
    let fill = move |out: &mut [T], _: &cpal::OutputCallbackInfo| {
        for frame in out.chunks_mut(channels) {
            while place >= 1.0 {
                pair = [pair[1], samples.pop().unwrap_or(0.0)];
                place -= 1.0;
            }
            frame.fill(T::from_sample(pair[0] + (pair[1] - pair[0]) * place as f32));
            place += step;
        }
    };
    device.build_output_stream(config, fill, |_| {}, None)
}
