//! Recordings in the formats of [`FORMATS`], decoded piece by piece.

use std::io::Cursor;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use splimo_hear::HOP;
use symphonia::core::errors::{Error, SeekErrorKind};
use symphonia::core::formats::probe::Hint;
use symphonia::core::formats::{FormatOptions, FormatReader, SeekMode, SeekTo, TrackType};
use symphonia::core::io::{MediaSource, MediaSourceStream, ReadOnlySource};
use symphonia::core::meta::MetadataOptions;
use symphonia::core::units::{Time, TimeBase};

use super::damage::damage;
use super::decoder::{Decoded, Decoder};
use super::{Channels, Ear, ToMono48k};
use crate::file_error::Cause;

/// The formats of recordings that are read.
pub const FORMATS: &str = "WAV, AIFF, FLAC, MP3, OGG (Vorbis or Opus) and M4A (AAC or ALAC)";

/// The reason why a recording cannot be played.
#[derive(Debug, thiserror::Error)]
pub enum OpenError {
    /// It cannot be read.
    #[error("cannot read {}: {}", .path.display(), Cause::of(.path, .source))]
    Read {
        /// The file.
        path: PathBuf,
        /// The reason.
        source: std::io::Error,
    },
    /// It is no recording of a kind that is known.
    #[error("{path} is not a recording that can be played ({reason}); {FORMATS} can", path = path.display())]
    Format {
        /// The file.
        path: PathBuf,
        /// The fault in it.
        reason: String,
    },
}

/// The rates of recordings that are played, in hertz.
const RATES: std::ops::RangeInclusive<u32> = 4_000..=768_000;

/// A recording, read from its start to its end as mono at 48 kHz.
pub struct File {
    format: Box<dyn FormatReader>,
    decoder: Decoder,
    track: u32,
    /// The length in seconds, where the recording says it.
    seconds: Option<f64>,
    /// The length of a tick of the track's time stamps, in seconds.
    time_base: Option<TimeBase>,
    converter: Option<(usize, u32, ToMono48k)>,
    interleaved: Vec<f32>,
    ready: Vec<f32>,
    taken: usize,
    channels: Channels,
    /// Frames that were decoded, at the rate of the recording, and that rate.
    decoded: (u64, u32),
    /// True if it was wound beyond its end.
    over: bool,
    /// The fault of a recording that ended too early.
    pub broken: Option<String>,
}

impl File {
    /// Opens a recording.
    ///
    /// # Errors
    /// [`OpenError`] for a file that cannot be read or is no recording.
    pub fn open(path: &Path) -> Result<Self, OpenError> {
        let mut hint = Hint::new();
        if let Some(ending) = path.extension().and_then(|e| e.to_str()) {
            hint.with_extension(ending);
        }
        let file = std::fs::File::open(path).map_err(|source| OpenError::Read { path: path.to_owned(), source })?;
        if !file.metadata().is_ok_and(|kind| kind.is_file()) {
            let reason = "it is a folder, a device or a pipe and no file".into();
            return Err(OpenError::Format { path: path.to_owned(), reason });
        }
        Self::of(path, &hint, || Ok(Box::new(std::fs::File::open(path)?)))
    }

    /// Takes a recording that was read from somewhere else as a whole.
    ///
    /// # Errors
    /// [`OpenError`] for bytes that are no recording.
    pub fn of_bytes(bytes: Vec<u8>) -> Result<Self, OpenError> {
        let bytes: Arc<[u8]> = bytes.into();
        Self::of(Path::new("standard input"), &Hint::new(), || Ok(Box::new(Cursor::new(bytes.clone()))))
    }

    fn of(
        path: &Path,
        hint: &Hint,
        source: impl Fn() -> std::io::Result<Box<dyn MediaSource>>,
    ) -> Result<Self, OpenError> {
        let refused = |reason: String| OpenError::Format { path: path.to_owned(), reason };
        let source = || source().map_err(|source| OpenError::Read { path: path.to_owned(), source });
        let format = match probed(hint, source()?) {
            Ok(format) => format,
            // An Ogg that is cut off has no last page to tell how long it is, which is looked for where it can be wound. From its
            // start on it is heard as far as it goes.
            Err(error) => {
                probed(hint, Box::new(ReadOnlySource::new(Bytes(source()?)))).map_err(|_| refused(damage(&error)))?
            }
        };
        let track = format.default_track(TrackType::Audio).ok_or_else(|| refused("no sound in it".into()))?;
        let params = track.codec_params.as_ref().and_then(|p| p.audio());
        let params = params.ok_or_else(|| refused("no sound in it".into()))?;
        let decoder = Decoder::of(params).map_err(refused)?;
        // Only what is decoded tells for sure, but it may be wound before that.
        let rate = params.sample_rate.unwrap_or(48_000);
        if !RATES.contains(&rate) {
            let (from, to) = (RATES.start() / 1000, RATES.end() / 1000);
            return Err(refused(format!("its rate of {rate} Hz is none of {from} to {to} kHz")));
        }
        let frames = track.num_frames.map(|frames| frames as f64 / f64::from(rate.max(1)));
        let seconds = frames.filter(|seconds| *seconds > 0.0);
        let (track, time_base) = (track.id, track.time_base);
        Ok(Self {
            format,
            decoder,
            track,
            seconds,
            time_base,
            converter: None,
            interleaved: Vec::new(),
            ready: Vec::new(),
            taken: 0,
            channels: Channels::All,
            decoded: (0, rate),
            over: false,
            broken: None,
        })
    }

    /// The length in seconds, where the recording says it.
    #[must_use]
    pub fn seconds(&self) -> Option<f64> {
        self.seconds
    }

    /// The same from some of its channels.
    #[must_use]
    pub fn picking(mut self, channels: Channels) -> Self {
        self.channels = channels;
        self
    }

    /// Goes on by so many seconds, or back. Beyond its ends it goes to them.
    ///
    /// # Errors
    /// The reason why it cannot, as the recording says.
    pub fn seek_by(&mut self, seconds: f64) -> Result<(), String> {
        let now = self.decoded.0 as f64 / f64::from(self.decoded.1.max(1));
        let to = (now + seconds).max(0.0);
        let time = Time::try_from_secs_f64(to).unwrap_or_default();
        let sought = self.format.seek(SeekMode::Coarse, SeekTo::Time { time, track_id: Some(self.track) });
        let there = match sought {
            // It is wound to where a packet begins, which some recordings do not know exactly.
            Ok(sought) => {
                let at = self.time_base.and_then(|base| base.calc_time(sought.actual_ts));
                Some(at.map_or(to, |time| time.as_secs_f64()))
            }
            Err(Error::SeekError(SeekErrorKind::OutOfRange)) if seconds > 0.0 => None,
            Err(Error::IoError(error)) if seconds > 0.0 && error.kind() == std::io::ErrorKind::UnexpectedEof => None,
            Err(error) => return Err(damage(&error)),
        };
        self.over = there.is_none();
        self.decoder.reset();
        self.decoded.0 = (there.unwrap_or(to).max(0.0) * f64::from(self.decoded.1)) as u64;
        // What sounded before belongs to nothing that is to come.
        (self.converter, self.taken) = (None, 0);
        self.ready.clear();
        Ok(())
    }

    /// The place that the samples lead to which were taken last, in seconds.
    fn place(&self) -> f64 {
        let decoded = self.decoded.0 as f64 / f64::from(self.decoded.1.max(1));
        // What is decoded and not taken yet is to come.
        decoded - (self.ready.len() - self.taken) as f64 / f64::from(splimo_hear::SAMPLE_RATE)
    }

    /// Fills a hop; `false` at the end of the recording. The last hop is filled up with silence.
    pub fn next(&mut self, hop: &mut [f32; HOP]) -> bool {
        while self.ready.len() - self.taken < HOP {
            if !self.decode() {
                break;
            }
        }
        let count = (self.ready.len() - self.taken).min(HOP);
        hop[..count].copy_from_slice(&self.ready[self.taken..self.taken + count]);
        hop[count..].fill(0.0);
        self.taken += count;
        if self.taken > 64 * HOP {
            self.ready.drain(..self.taken);
            self.taken = 0;
        }
        count > 0
    }

    /// Decodes a packet; `false` when there is none any more.
    fn decode(&mut self) -> bool {
        while !self.over {
            let packet = match self.format.next_packet() {
                Ok(Some(packet)) => packet,
                Ok(None) => return false,
                Err(error) => {
                    self.broken = Some(damage(&error));
                    return false;
                }
            };
            if packet.track_id != self.track {
                continue;
            }
            match self.decoder.decode(&packet, &mut self.interleaved) {
                Ok(Decoded { channels, rate }) => {
                    if !RATES.contains(&rate) {
                        self.broken = Some(format!("its rate becomes {rate} Hz"));
                        return false;
                    }
                    self.decoded = (self.decoded.0 + (self.interleaved.len() / channels.max(1)) as u64, rate);
                    // A recording may change its mind about what it is.
                    if self.converter.as_ref().is_none_or(|(c, r, _)| (*c, *r) != (channels, rate)) {
                        self.converter = Some((channels, rate, ToMono48k::picking(channels, rate, self.channels)));
                    }
                    if let Some((_, _, converter)) = &mut self.converter {
                        converter.convert(&self.interleaved, &mut self.ready);
                    }
                    return true;
                }
                // A packet that is damaged is passed over, as a player would.
                Err(Error::DecodeError(_)) => {}
                Err(error) => {
                    self.broken = Some(damage(&error));
                    return false;
                }
            }
        }
        false
    }
}

/// A source that is read from its start to its end.
struct Bytes(Box<dyn MediaSource>);

impl std::io::Read for Bytes {
    fn read(&mut self, bytes: &mut [u8]) -> std::io::Result<usize> {
        self.0.read(bytes)
    }
}

/// The reader of the format of a recording.
fn probed(hint: &Hint, source: Box<dyn MediaSource>) -> Result<Box<dyn FormatReader>, Error> {
    let stream = MediaSourceStream::new(source, Default::default());
    symphonia::default::get_probe().probe(hint, stream, FormatOptions::default(), MetadataOptions::default())
}

/// Plays a recording over and over, in real time.
pub(super) fn play(path: &Path, ear: &mut Ear) {
    while !ear.stopped() {
        let mut file = match File::open(path) {
            Ok(file) => file.picking(ear.channels),
            Err(error) => {
                ear.silence();
                ear.troubles.tell("sound", error.to_string());
                return;
            }
        };
        let mut heard = 0u64;
        let (dials, troubles) = (ear.dials.clone(), ear.troubles.clone());
        ear.in_real_time(|hop| {
            if let Some(seconds) = dials.take_seek()
                && let Err(why) = file.seek_by(seconds)
            {
                troubles.tell("sound", format!("{} cannot be wound: {why}", path.display()));
            }
            let more = file.next(hop);
            dials.set_place(more.then(|| file.place()));
            heard += u64::from(more);
            more
        });
        if let Some(reason) = &file.broken {
            let path = path.display();
            ear.troubles.tell("sound", format!("{path} is damaged ({reason}); it is played as far as it goes"));
        }
        if heard == 0 {
            ear.troubles.tell("sound", format!("there is no sound in {}; choose another file", path.display()));
            return;
        }
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;
    use std::sync::atomic::{AtomicBool, Ordering};

    use splimo_hear::Listener;
    use splimo_time::music::Hearing;

    use super::super::tally::Tally;
    use super::*;
    use crate::clock::Instant;
    use crate::trouble::Troubles;

    fn wav(channels: u16, rate: u32, samples: &[i16]) -> Vec<u8> {
        let data: Vec<u8> = samples.iter().flat_map(|s| s.to_le_bytes()).collect();
        let mut bytes = b"RIFF".to_vec();
        bytes.extend((36 + data.len() as u32).to_le_bytes());
        bytes.extend(b"WAVEfmt ");
        bytes.extend(16u32.to_le_bytes());
        bytes.extend([1, 0]);
        bytes.extend(channels.to_le_bytes());
        bytes.extend(rate.to_le_bytes());
        bytes.extend((rate * u32::from(channels) * 2).to_le_bytes());
        bytes.extend((channels * 2).to_le_bytes());
        bytes.extend([16, 0]);
        bytes.extend(b"data");
        bytes.extend((data.len() as u32).to_le_bytes());
        bytes.extend(data);
        bytes
    }

    fn read(name: &str, bytes: &[u8]) -> Result<Vec<f32>, OpenError> {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join(name);
        std::fs::write(&path, bytes).expect("written");
        let mut file = File::open(&path)?;
        let (mut all, mut hop) = (Vec::new(), [0.0; HOP]);
        while file.next(&mut hop) {
            all.extend(hop);
        }
        Ok(all)
    }

    #[test]
    fn a_wav_is_read_to_its_end() {
        let samples: Vec<i16> = (0..2 * 24_000).map(|i| if i % 2 == 0 { 16_384 } else { 0 }).collect();
        let heard = read("tone.wav", &wav(2, 24_000, &samples)).expect("a good file");
        assert!(heard.len().abs_diff(48_000) <= HOP, "{}", heard.len());
        assert!((heard[1000] - 0.25).abs() < 1e-3, "{}", heard[1000]);
    }

    #[test]
    fn what_is_no_recording_is_refused_with_its_name() {
        for bytes in [&b""[..], b"not sound at all", b"RIFF\x00\x00"] {
            let error = read("noise.wav", bytes).expect_err("no recording").to_string();
            assert!(error.contains("noise.wav") && error.contains(FORMATS), "{error}");
        }
        let error = File::open(Path::new("/nowhere/at-all.wav")).err().map(|e| e.to_string());
        assert!(error.is_some_and(|e| e.contains("/nowhere/at-all.wav")));
    }

    #[test]
    fn a_recording_that_is_cut_short_is_played_as_far_as_it_goes() {
        let bytes = wav(1, 48_000, &[8_192; 48_000]);
        let heard = read("cut.wav", &bytes[..40_000]).expect("opens");
        assert!(heard.len() > 10_000, "{}", heard.len());
    }

    #[test]
    fn an_ogg_that_is_cut_off_is_played_as_far_as_it_goes() {
        // Six seconds of noise over a tone; made by code, encoded with oggenc.
        let whole = include_bytes!("noise.ogg");
        let heard = |bytes: &[u8]| read("noise.ogg", bytes).map(|samples| samples.len() as f64 / 48_000.0);
        let seconds = heard(whole).expect("a good file");
        assert!((seconds - 6.0).abs() < 0.2, "{seconds}");
        let seconds = heard(&whole[..whole.len() * 6 / 10]).expect("it opens");
        assert!((2.0..4.0).contains(&seconds), "{seconds}");
    }

    #[test]
    fn every_format_that_is_told_is_heard() {
        // The noise of above, shorter, written by other programs.
        let files: [(&str, &[u8], f64); 4] = [
            ("noise.opus", include_bytes!("noise.opus"), 1.5),
            ("noise-aac.m4a", include_bytes!("noise-aac.m4a"), 1.5),
            ("noise-alac.m4a", include_bytes!("noise-alac.m4a"), 1.0),
            ("noise.aiff", include_bytes!("noise.aiff"), 1.0),
        ];
        for (name, bytes, length) in files {
            let heard = read(name, bytes).unwrap_or_else(|why| panic!("{name}: {why}"));
            let seconds = heard.len() as f64 / 48_000.0;
            // What an encoder of AAC puts before and behind is heard too.
            assert!((seconds - length).abs() < 0.2, "{name}: {seconds}");
            let power = heard.iter().map(|sample| sample * sample).sum::<f32>() / heard.len() as f32;
            assert!(power.sqrt() > 0.01, "{name} is silent: {power}");
            // The same from a pipe, of which there is no name.
            let mut piped = File::of_bytes(bytes.to_vec()).unwrap_or_else(|why| panic!("{name}: {why}"));
            assert!(piped.next(&mut [0.0; HOP]), "{name}");
            // Cut off and changed bytes end it, at most.
            for cut in [bytes.len() / 3, bytes.len() - 7] {
                let mut wrong = bytes[..cut].to_vec();
                for place in (cut / 2..cut).step_by(41) {
                    wrong[place] ^= 0x5a;
                }
                let _ = read(name, &wrong);
            }
        }
    }

    #[test]
    fn a_rate_that_no_recording_has_is_refused() {
        for rate in [0, 1, 3_999, 768_001, u32::MAX / 4] {
            let error = read("rate.wav", &wav(1, rate, &[0; 4_000])).expect_err("no rate").to_string();
            assert!(error.contains("rate.wav"), "{rate}: {error}");
        }
        assert!(read("slow.wav", &wav(1, 4_000, &[0; 4_000])).is_ok());
    }

    /// Ten seconds, each as loud as its number says.
    fn ten_seconds(folder: &Path) -> PathBuf {
        let samples: Vec<i16> = (0..480_000).map(|i| (i / 48_000 + 1) * 2_000).map(|level: i32| level as i16).collect();
        let path = folder.join("ten.wav");
        std::fs::write(&path, wav(1, 48_000, &samples)).expect("written");
        path
    }

    /// The second that is played next.
    fn second(file: &mut File) -> Option<usize> {
        let mut hop = [0.0; HOP];
        file.next(&mut hop).then(|| (hop[0] * 32_768.0 / 2_000.0).round() as usize)
    }

    #[test]
    fn a_recording_is_wound_on_and_back_and_no_further_than_its_ends() {
        let folder = tempfile::tempdir().expect("a folder");
        let mut file = File::open(&ten_seconds(folder.path())).expect("a good file");
        assert_eq!(second(&mut file), Some(1));
        file.seek_by(4.5).expect("winds");
        assert_eq!(second(&mut file), Some(5));
        file.seek_by(-2.0).expect("winds");
        assert_eq!(second(&mut file), Some(3));
        file.seek_by(-60.0).expect("winds to the start");
        assert_eq!(second(&mut file), Some(1));
        file.seek_by(60.0).expect("winds to the end");
        assert_eq!(second(&mut file), None, "it is over there");
    }

    #[test]
    fn a_recording_that_is_wound_before_it_begins_knows_where_it_is() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("slow.wav");
        let samples: Vec<i16> = (0..80_000).map(|i| (i / 8_000 + 1) * 2_000).map(|level: i32| level as i16).collect();
        std::fs::write(&path, wav(1, 8_000, &samples)).expect("written");
        let mut file = File::open(&path).expect("a good file");
        file.seek_by(4.5).expect("winds");
        assert_eq!(second(&mut file), Some(5));
        file.seek_by(-2.0).expect("winds back from there");
        assert_eq!(second(&mut file), Some(3));
    }

    /// The hearing of an ear that plays a recording, and its fault.
    fn played(path: PathBuf, until: impl Fn(&Hearing, &Troubles) -> bool) -> Hearing {
        let (input, mut output) = triple_buffer::triple_buffer(&Hearing::SILENCE);
        let (stop, troubles) = (Arc::new(AtomicBool::new(false)), Troubles::default());
        let mut ear = Ear {
            epoch: Instant::now(),
            hearing: input,
            stop: stop.clone(),
            troubles: troubles.clone(),
            listener: Listener::default(),
            tally: Tally::default(),
            dials: Arc::default(),
            channels: Channels::All,
            tap: None,
        };
        let player = std::thread::spawn(move || play(&path, &mut ear));
        let end = Instant::now().plus(20_000_000_000);
        while !until(output.read(), &troubles) {
            assert!(Instant::now() < end, "it never came to that");
            std::thread::sleep(std::time::Duration::from_millis(5));
        }
        stop.store(true, Ordering::Relaxed);
        player.join().expect("ends");
        *output.read()
    }

    #[test]
    fn where_a_recording_goes_away_nothing_is_heard_any_more() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("short.wav");
        let samples: Vec<i16> = (0..4_800).map(|i| if i % 100 < 50 { 12_000 } else { -12_000 }).collect();
        std::fs::write(&path, wav(1, 48_000, &samples)).expect("written");
        let heard = played(path.clone(), |heard, troubles| {
            if heard.rms > 0.1 {
                let _ = std::fs::remove_file(&path);
            }
            troubles.list().iter().any(|trouble| trouble.message.contains("short.wav"))
        });
        assert!(heard.rms < 0.001, "{heard:?}");
        assert!(heard.time > 0.1 && heard.section_start > 0.1, "not before it was played: {heard:?}");
    }
}
