//! Where the music comes from, and the thread that listens to it.

mod arrival;
mod click;
mod device;
mod dials;
mod file;
mod raw;
mod resample;

pub use click::Clicker;
pub use device::devices;
pub use dials::Dials;
pub use file::{File, OpenError};
pub use raw::RawSpec;
pub use resample::{Channels, ToMono48k};

use std::io;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::{Builder, JoinHandle};
use std::time::Duration;

use splimo_core::music::{Bands, Hearing};
use splimo_hear::{HOP, Listener, SAMPLE_RATE};

use crate::runtime::clock::{Deadlines, Instant};
use crate::runtime::fault;
use crate::runtime::trouble::{Troubles, keep_alive};
use crate::standin::set::Set;
use arrival::Arrival;

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
    /// Where it comes from.
    pub source: SoundSource,
    /// Which channels.
    pub channels: Channels,
}

impl From<SoundSource> for Sound {
    fn from(source: SoundSource) -> Self {
        Self { source, channels: Channels::All }
    }
}

impl SoundSource {
    /// What a person wrote behind `--audio`: `none`, `set`, `-` or `raw:...` for raw samples, a file that is there, or else the
    /// name of a device.
    ///
    /// # Errors
    /// What is wrong with how raw samples are described.
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

/// How often one looks whether a recording that is held goes on.
const HELD: Duration = Duration::from_millis(20);

/// What was heard, with its times on the time line of the show, where the count of samples began at `start`.
fn on_the_time_line(heard: &Hearing, start: f64) -> Hearing {
    Hearing { time: start + heard.time, section_start: start + heard.section_start, ..*heard }
}

/// What is known of the music where it has just been stopped: nothing sounds, and counts go on from where they were.
fn fallen_silent(last: Hearing) -> Hearing {
    let bands = Bands::silent(last.bands.len());
    let Hearing { level, peak, rms, loudness, centroid, pitch, confidence, .. } = Hearing::SILENCE;
    Hearing { level, peak, rms, loudness, centroid, pitch, confidence, bands, ..last }
}

/// What the listening thread has its hands on.
struct Ear {
    epoch: Instant,
    hearing: triple_buffer::Input<Hearing>,
    stop: Arc<AtomicBool>,
    troubles: Troubles,
    listener: Listener,
    dials: Arc<Dials>,
    channels: Channels,
}

impl Ear {
    fn stopped(&self) -> bool {
        self.stop.load(Ordering::Relaxed)
    }

    /// Listens to samples of which the first was heard at `start`, in seconds of the show, if nothing else was heard by
    /// this listener; `start` is where its count of samples began.
    fn hear(&mut self, samples: &[f32], start: f64) {
        let hearing = &mut self.hearing;
        self.listener.set_ears(self.dials.ears());
        self.listener.listen(samples, |heard| hearing.write(on_the_time_line(heard, start)));
    }

    /// Hears samples that have just come, and how they arrive is kept by whoever has them.
    fn hear_as_it_comes(&mut self, samples: &[f32], arrival: &mut Arrival) {
        let start = arrival.came(Instant::now().seconds_since(self.epoch), samples.len());
        self.hear(samples, start);
    }

    /// Nothing is heard any more.
    fn silence(&mut self) {
        self.listener = Listener::default();
        self.hearing.write(Hearing::SILENCE);
    }

    /// Hears samples in real time as `next` gives them, which fills a hop and tells whether there was one.
    fn in_real_time(&mut self, mut next: impl FnMut(&mut [f32; HOP]) -> bool) {
        let start = Instant::now();
        let mut zero = start.seconds_since(self.epoch);
        self.listener = Listener::default();
        // A hop can be heard when its last sample is over.
        let period = 1e9 * HOP as f64 / f64::from(SAMPLE_RATE);
        let mut deadlines = Deadlines::new(start.plus(period as i64), 1e9 / period);
        let mut samples = [0.0; HOP];
        let mut held = false;
        while !self.stopped() {
            fault::strike("sound");
            if self.dials.paused() {
                if !std::mem::replace(&mut held, true) {
                    let last = on_the_time_line(self.listener.hearing(), zero);
                    self.hearing.write(fallen_silent(last));
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
            if std::mem::take(&mut held) {
                // What was heard last is over now, however long it was held.
                let heard = self.listener.hearing().time + HOP as f64 / f64::from(SAMPLE_RATE);
                zero = due.seconds_since(self.epoch) - heard;
            }
            self.hear(&samples, zero);
        }
    }
}

/// Starts to listen, unless there is nothing to listen to.
///
/// # Errors
/// Where the system gives no thread.
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
    let listener = Listener::default();
    let mut ear = Ear { epoch, hearing, stop, troubles: troubles.clone(), listener, dials, channels };
    let work = move || keep_alive("sound", &troubles, || play(&source, &mut ear));
    Builder::new().name("sound".into()).spawn(work).map(Some)
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
