//! The machine's own sound: samples that are asked for as they are to be heard. The callback of the device neither locks nor allocates.

use cpal::traits::{DeviceTrait, HostTrait, StreamTrait};
use cpal::{FromSample, SampleFormat, SizedSample, StreamConfig};

use super::samples::Samples;

/// A source that is heard until this is dropped.
pub(super) struct Speaker {
    _stream: cpal::Stream,
}

impl Speaker {
    /// Begins to let a source be heard.
    ///
    /// # Errors
    /// Where this machine has no sound, or none of a kind that is known.
    pub(super) fn start(source: impl Samples) -> Result<Self, String> {
        let device = cpal::default_host().default_output_device().ok_or("this machine has no sound to play with")?;
        let failed = |e: cpal::Error| format!("the sound of this machine cannot be used: {e}");
        let supported = device.default_output_config().map_err(failed)?;
        let config: StreamConfig = supported.into();
        let stream = match supported.sample_format() {
            SampleFormat::F32 => build::<f32>(&device, config, source),
            SampleFormat::I16 => build::<i16>(&device, config, source),
            SampleFormat::I32 => build::<i32>(&device, config, source),
            SampleFormat::U8 => build::<u8>(&device, config, source),
            other => {
                return Err(format!("the sound of this machine has samples of a kind that is not known ({other})"));
            }
        }
        .map_err(failed)?;
        stream.play().map_err(failed)?;
        Ok(Self { _stream: stream })
    }
}

fn build<T: SizedSample + FromSample<f32>>(
    device: &cpal::Device,
    config: StreamConfig,
    mut source: impl Samples,
) -> Result<cpal::Stream, cpal::Error> {
    let (channels, rate) = (usize::from(config.channels).max(1), f64::from(config.sample_rate));
    let fill = move |out: &mut [T], info: &cpal::OutputCallbackInfo| {
        let times = info.timestamp();
        let ahead = times.playback.duration_since(times.callback).as_secs_f64();
        source.begin(ahead, out.len() / channels, rate);
        for frame in out.chunks_mut(channels) {
            frame.fill(T::from_sample(source.next()));
        }
    };
    device.build_output_stream(config, fill, |_| {}, None)
}
