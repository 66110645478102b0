//! Decoders of recordings: those of symphonia, and Opus (RFC 6716), which it finds in files and does not decode.

use opus_decoder::OpusDecoder;
use symphonia::core::codecs::audio::well_known::CODEC_ID_OPUS;
use symphonia::core::codecs::audio::{AudioCodecParameters, AudioDecoder, AudioDecoderOptions};
use symphonia::core::errors::Error;
use symphonia::core::packet::Packet;

use super::damage::damage;

/// The rate at which Opus is decoded, in hertz (RFC 7845, section 4).
const OPUS_RATE: u32 = 48_000;
/// The most samples of a channel in a packet: 120 ms (RFC 6716, section 3.2.5).
const OPUS_MOST: usize = 5_760;
/// The place of the samples to leave out at the start in an Opus header (RFC 7845, section 5.1).
const PRE_SKIP: std::ops::Range<usize> = 10..12;

/// A decoder of one recording.
pub(super) enum Decoder {
    /// One of symphonia's.
    Known(Box<dyn AudioDecoder>),
    /// Opus.
    Opus(Box<Opus>),
}

/// Opus, mono or stereo.
pub(super) struct Opus {
    decoder: OpusDecoder,
    channels: usize,
    pcm: Vec<f32>,
    /// Samples of a channel that are left out at the start.
    skip: usize,
}

/// A decoded packet.
pub(super) struct Decoded {
    pub(super) channels: usize,
    /// In hertz.
    pub(super) rate: u32,
}

impl Decoder {
    /// The decoder for what a recording says of itself.
    ///
    /// # Errors
    /// The reason why there is none.
    pub(super) fn of(params: &AudioCodecParameters) -> Result<Self, String> {
        if params.codec != CODEC_ID_OPUS {
            let decoder = symphonia::default::get_codecs().make_audio_decoder(params, &AudioDecoderOptions::default());
            return decoder.map(Self::Known).map_err(|error| damage(&error));
        }
        let channels = params.channels.as_ref().map_or(2, symphonia::core::audio::Channels::count);
        if !matches!(channels, 1 | 2) {
            return Err(format!("it is Opus of {channels} channels; mono and stereo can be played"));
        }
        let header = params.extra_data.as_deref().and_then(|header| header.get(PRE_SKIP));
        let skip = header.map_or(0, |bytes| usize::from(u16::from_le_bytes([bytes[0], bytes[1]])));
        let decoder = OpusDecoder::new(OPUS_RATE, channels).map_err(|error| error.to_string())?;
        Ok(Self::Opus(Box::new(Opus { decoder, channels, pcm: vec![0.0; OPUS_MOST * channels], skip })))
    }

    /// Decodes a packet into samples, channel by channel within each moment.
    ///
    /// # Errors
    /// [`Error::DecodeError`] for a packet that is damaged; any other for a recording that cannot go on.
    pub(super) fn decode(&mut self, packet: &Packet, samples: &mut Vec<f32>) -> Result<Decoded, Error> {
        match self {
            Self::Known(decoder) => {
                let buffer = decoder.decode(packet)?;
                let decoded = Decoded { channels: buffer.spec().channels().count(), rate: buffer.spec().rate() };
                samples.resize(buffer.samples_interleaved(), 0.0);
                buffer.copy_to_slice_interleaved(samples);
                Ok(decoded)
            }
            Self::Opus(opus) => {
                let count = opus.decoder.decode_float(&packet.data, &mut opus.pcm, false);
                let count = count.map_err(|_| Error::DecodeError("a packet of Opus is damaged"))?;
                let skipped = opus.skip.min(count);
                opus.skip -= skipped;
                samples.clear();
                samples.extend_from_slice(&opus.pcm[skipped * opus.channels..count * opus.channels]);
                Ok(Decoded { channels: opus.channels, rate: OPUS_RATE })
            }
        }
    }

    /// Forgets what sounded, as the recording is wound.
    pub(super) fn reset(&mut self) {
        match self {
            Self::Known(decoder) => decoder.reset(),
            Self::Opus(opus) => {
                opus.decoder.reset();
                opus.skip = 0;
            }
        }
    }
}
