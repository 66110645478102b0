//! The source of the music, and the thread that listens to it.

mod arrival;
mod beforehand;
mod channels;
mod click;
mod damage;
mod decoder;
#[cfg_attr(not(feature = "devices"), path = "no_device.rs")]
mod device;
mod dials;
mod file;
mod player;
mod raw;
mod resample;
mod samples;
mod set;
#[cfg_attr(not(feature = "devices"), path = "no_speaker.rs")]
mod speaker;
mod tally;

pub use beforehand::score;
pub use channels::Channels;
pub use click::Clicker;
pub use device::devices;
pub use dials::Dials;
pub use file::{FORMATS, File, OpenError};
pub use player::SoundPlayer;
pub use raw::RawSpec;
pub use resample::ToMono48k;
pub use set::Set;

use std::io;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::{Builder, JoinHandle};
use std::time::Duration;

use splimo_hear::{HOP, Listener, SAMPLE_RATE};
use splimo_time::music::{Bands, Hearing};

use crate::clock::{Deadlines, Instant};
use crate::fault;
use crate::trouble::{Troubles, keep_alive};
use crate::urgency::{Patience, give_way};

use arrival::Arrival;
use tally::Tally;

/// A source of music.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum SoundSource {
    /// None.
    Silence,
    /// The synthesised DJ set of the demo.
    Set,
    /// A recording, in real time; it starts again at its end.
    File(PathBuf),
    /// A capture device of this name.
    Device(String),
    /// Raw samples as they come.
    Raw(RawSpec),
}

/// A source, and which of its channels are listened to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sound {
    /// Its source.
    pub source: SoundSource,
    /// The channels.
    pub channels: Channels,
}

impl From<SoundSource> for Sound {
    fn from(source: SoundSource) -> Self {
        Self { source, channels: Channels::All }
    }
}

impl SoundSource {
    /// Reads what a person wrote behind `--audio`: `none`, `set`, `-` or `raw:...` for raw samples, a file that is there, or else the
    /// name of a device.
    ///
    /// # Errors
    /// The fault in the description of raw samples.
    pub fn parse(text: &str) -> Result<Self, String> {
        Ok(match text {
            "none" => Self::Silence,
            "set" => Self::Set,
            "-" => Self::Raw(RawSpec::parse("-")?),
            _ if text.starts_with("raw:") => Self::Raw(RawSpec::parse(&text["raw:".len()..])?),
            _ if looks_like_a_file(text) => Self::File(PathBuf::from(text)),
            _ => Self::Device(text.to_owned()),
        })
    }
}

fn looks_like_a_file(text: &str) -> bool {
    let known = ["wav", "flac", "mp3", "ogg"];
    let path = std::path::Path::new(text);
    let ending = path.extension().and_then(|e| e.to_str()).map(str::to_ascii_lowercase);
    path.is_file() || text.contains('/') || ending.is_some_and(|e| known.contains(&e.as_str()))
}

/// From how far off the time of a recording is set anew, in seconds.
const SLEPT: f64 = 0.001;
/// The number of times that one looks whether a recording that is held goes on.
const HELD: Duration = Duration::from_millis(20);

/// The hearing with its times on the time line of the show, where the count of samples began at `start`.
fn on_the_time_line(heard: &Hearing, start: f64) -> Hearing {
    Hearing { time: start + heard.time, section_start: start + heard.section_start, ..*heard }
}

/// The hearing of music that has just been stopped: nothing sounds, and counts go on from where they were.
fn fallen_silent(last: Hearing) -> Hearing {
    let bands = Bands::silent(last.bands.len());
    let Hearing { level, peak, rms, loudness, centroid, chroma, wave, pitch, confidence, .. } = Hearing::SILENCE;
    Hearing { level, peak, rms, loudness, centroid, chroma, wave, pitch, confidence, bands, ..last }
}

/// A receiver of samples as they come.
pub(crate) type Tap = Box<dyn FnMut(&[f32]) + Send>;

/// Everything that the listening thread has in its hands.
struct Ear {
    epoch: Instant,
    hearing: triple_buffer::Input<Hearing>,
    stop: Arc<AtomicBool>,
    troubles: Troubles,
    listener: Listener,
    tally: Tally,
    dials: Arc<Dials>,
    channels: Channels,
    /// The receiver of the samples in the place of the listener.
    tap: Option<Tap>,
}

impl Ear {
    fn stopped(&self) -> bool {
        self.stop.load(Ordering::Relaxed)
    }

    /// Listens to samples of which the first was heard at `start`, in seconds of the show, if nothing else was heard by
    /// this listener; `start` is where its count of samples began.
    fn hear(&mut self, samples: &[f32], start: f64) {
        if let Some(tap) = &mut self.tap {
            return tap(samples);
        }
        let (hearing, tally) = (&mut self.hearing, &self.tally);
        self.listener.set_ears(self.dials.ears());
        self.listener.listen(samples, |heard| hearing.write(on_the_time_line(&tally.on(heard), start)));
    }

    /// Hears samples that have just come, and how they arrive is kept by whoever has them.
    fn hear_as_it_comes(&mut self, samples: &[f32], arrival: &mut Arrival) {
        let start = arrival.came(Instant::now().seconds_since(self.epoch), samples.len());
        self.hear(samples, start);
    }

    /// Something else is listened to from here on.
    fn begin_anew(&mut self) {
        self.tally.keep(self.listener.hearing());
        self.listener = Listener::default();
    }

    /// Nothing is heard any more.
    fn silence(&mut self) {
        self.begin_anew();
        let now = Instant::now().seconds_since(self.epoch);
        self.hearing.write(on_the_time_line(&self.tally.on(&Hearing::SILENCE), now));
    }

    /// Hears samples in real time as `next` gives them, which fills a hop and tells whether there was one.
    fn in_real_time(&mut self, mut next: impl FnMut(&mut [f32; HOP]) -> bool) {
        let start = Instant::now();
        let mut zero = start.seconds_since(self.epoch);
        self.begin_anew();
        // A hop can be heard when its last sample is over.
        let period = 1e9 * HOP as f64 / f64::from(SAMPLE_RATE);
        let mut deadlines = Deadlines::new(start.plus(period as i64), 1e9 / period);
        let mut samples = [0.0; HOP];
        let (mut held, mut hops) = (false, 1u64);
        while !self.stopped() {
            fault::strike("sound");
            if self.dials.paused() {
                if !std::mem::replace(&mut held, true) {
                    self.dials.held();
                    let last = on_the_time_line(&self.tally.on(self.listener.hearing()), zero);
                    self.hearing.write(fallen_silent(last));
                }
                // One that is wound while it is held stands there from then on.
                if self.dials.is_sought() {
                    if !next(&mut samples) {
                        return;
                    }
                    self.dials.held();
                }
                // The deadlines that go by are skipped where it goes on.
                std::thread::sleep(HELD);
                continue;
            }
            if !next(&mut samples) {
                return;
            }
            let due = deadlines.next(Instant::now());
            due.sleep();
            self.dials.heard_at(due.seconds_since(self.epoch));
            // What was heard last is over now, however long it was held, or the machine slept.
            let over = due.seconds_since(self.epoch) - hops as f64 * period / 1e9;
            if std::mem::take(&mut held) || (over - zero).abs() > SLEPT {
                zero = over;
            }
            hops += 1;
            self.hear(&samples, zero);
        }
    }
}

/// Starts to listen, unless there is nothing to listen to.
///
/// # Errors
/// If the system gives no thread.
pub fn listen(
    sound: Sound,
    dials: Arc<Dials>,
    epoch: Instant,
    hearing: triple_buffer::Input<Hearing>,
    stop: Arc<AtomicBool>,
    troubles: Troubles,
) -> io::Result<Option<JoinHandle<()>>> {
    let Sound { source, channels } = sound;
    if source == SoundSource::Silence {
        return Ok(None);
    }
    let (listener, tally) = (Listener::default(), Tally::default());
    let work = move || {
        give_way(Patience::Hearing);
        let told = troubles.clone();
        let mut ear = Ear { epoch, hearing, stop, troubles, listener, tally, dials, channels, tap: None };
        keep_alive("sound", &told, || play(&source, &mut ear));
    };
    Builder::new().name("sound".into()).spawn(work).map(Some)
}

/// Hands the samples of a sound on as they come, 48,000 a second, until it is to stop or the sound ends for good. Nothing is heard in
/// them.
pub(crate) fn tap(
    source: &SoundSource,
    channels: Channels,
    epoch: Instant,
    stop: &Arc<AtomicBool>,
    troubles: &Troubles,
    take: Tap,
) {
    let (hearing, _) = triple_buffer::triple_buffer(&Hearing::SILENCE);
    let (listener, tally, dials) = (Listener::default(), Tally::default(), Arc::new(Dials::default()));
    let (stop, troubles, tap) = (stop.clone(), troubles.clone(), Some(take));
    play(source, &mut Ear { epoch, hearing, stop, troubles, listener, tally, dials, channels, tap });
}

fn play(source: &SoundSource, ear: &mut Ear) {
    match source {
        SoundSource::Silence => {}
        SoundSource::Set => {
            let mut set = Set::default();
            ear.in_real_time(|samples| {
                set.fill(samples);
                true
            });
        }
        SoundSource::File(path) => file::play(path, ear),
        SoundSource::Device(name) => device::capture(name, ear),
        SoundSource::Raw(spec) => raw::listen(spec, ear.channels, ear),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sources_are_told_apart_by_how_they_are_written() {
        let parsed = |text: &str| SoundSource::parse(text).expect("a source");
        assert_eq!(parsed("none"), SoundSource::Silence);
        assert_eq!(parsed("set"), SoundSource::Set);
        for file in ["take.wav", "a.FLAC", "b.Mp3", "c.ogg", "./plain", "/no/such/file"] {
            assert_eq!(parsed(file), SoundSource::File(file.into()), "{file}");
        }
        // A card may be called anything, even with dots.
        for card in ["default", "Scarlett 2i2", "hw:1,0", "v1.2", "wav"] {
            assert_eq!(parsed(card), SoundSource::Device(card.to_owned()), "{card}");
        }
        let SoundSource::Raw(standard) = parsed("-") else { panic!("raw samples from standard input") };
        assert_eq!((standard.path, standard.rate), (None, 48_000));
        let SoundSource::Raw(pipe) = parsed("raw:/tmp/pipe,44100,2,f32") else { panic!("raw samples from a pipe") };
        assert_eq!((pipe.rate, pipe.channels, pipe.float), (44_100, 2, true));
    }

    #[test]
    fn raw_samples_that_nobody_understands_are_refused_with_how_to_write_them() {
        for text in ["raw:", "raw:p,7999", "raw:p,48000,0", "raw:p,48000,33", "raw:p,48000,1,s24", "raw:p,1,2,3,4"] {
            let error = SoundSource::parse(text).expect_err(text);
            assert!(error.contains(text) && error.contains("write raw:PATH,48000,2,s16"), "{error}");
        }
    }

    #[test]
    fn where_music_is_stopped_nothing_sounds_and_what_was_counted_stays() {
        let mut bands = Bands::silent(32);
        bands[4] = 0.7;
        let playing = Hearing {
            level: 0.8,
            peak: 0.9,
            rms: 0.3,
            loudness: -14.0,
            confidence: 0.95,
            chroma: [0.5; 12],
            wave: splimo_time::music::Wave([0.25; splimo_time::music::WAVE]),
            tempo_bpm: 128.0,
            beat: 77.5,
            onsets: 140,
            hits: [40, 20, 80],
            bands,
            ..Hearing::SILENCE
        };
        let silent = fallen_silent(playing);
        assert_eq!((silent.level, silent.peak, silent.rms, silent.confidence), (0.0, 0.0, 0.0, 0.0));
        assert_eq!((silent.wave, silent.chroma), (Hearing::SILENCE.wave, [0.0; 12]));
        assert!(silent.loudness < -70.0 && silent.bands.iter().all(|band| *band == 0.0));
        assert_eq!(silent.bands.len(), 32, "as many bands as the show asked for");
        let counted = (silent.tempo_bpm, silent.beat, silent.onsets, silent.hits);
        assert_eq!(counted, (128.0, 77.5, 140, [40, 20, 80]));
    }

    #[test]
    fn times_are_moved_to_the_time_line_of_the_show() {
        let heard = Hearing { time: 3.0, section_start: 1.25, beat: 6.0, ..Hearing::SILENCE };
        let moved = on_the_time_line(&heard, 100.0);
        assert_eq!((moved.time, moved.section_start, moved.beat), (103.0, 101.25, 6.0));
    }
}
