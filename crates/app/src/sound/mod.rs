//! Where the music comes from, and the thread that listens to it.

mod device;
mod file;
mod resample;

pub use device::devices;
pub use file::{File, OpenError};
pub use resample::ToMono48k;

use std::io;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::{Builder, JoinHandle};

use splimo_core::music::Hearing;
use splimo_hear::{HOP, Listener, SAMPLE_RATE};

use crate::runtime::clock::{Deadlines, Instant};
use crate::runtime::fault;
use crate::runtime::trouble::{Troubles, keep_alive};
use crate::standin::set::Set;

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
}

impl SoundSource {
    /// What a person wrote behind `--audio`: `none`, `set`, a file that is there, or else the name of a device.
    #[must_use]
    pub fn parse(text: &str) -> Self {
        match text {
            "none" => Self::Silence,
            "set" => Self::Set,
            _ if looks_like_a_file(text) => Self::File(PathBuf::from(text)),
            _ => Self::Device(text.to_owned()),
        }
    }
}

fn looks_like_a_file(text: &str) -> bool {
    let known = ["wav", "flac", "mp3", "ogg"];
    let path = std::path::Path::new(text);
    let ending = path.extension().and_then(|e| e.to_str()).map(str::to_ascii_lowercase);
    path.is_file() || text.contains('/') || ending.is_some_and(|e| known.contains(&e.as_str()))
}

/// What the listening thread has its hands on.
struct Ear {
    epoch: Instant,
    hearing: triple_buffer::Input<Hearing>,
    stop: Arc<AtomicBool>,
    troubles: Troubles,
    listener: Listener,
}

impl Ear {
    fn stopped(&self) -> bool {
        self.stop.load(Ordering::Relaxed)
    }

    /// Listens to samples of which the first was heard at `start`, in seconds of the show, if nothing else was heard by
    /// this listener; `start` is where its count of samples began.
    fn hear(&mut self, samples: &[f32], start: f64) {
        let hearing = &mut self.hearing;
        self.listener.listen(samples, |heard| hearing.write(Hearing { time: start + heard.time, ..*heard }));
    }

    /// Hears samples in real time as `next` gives them, which fills a hop and tells whether there was one.
    fn in_real_time(&mut self, mut next: impl FnMut(&mut [f32; HOP]) -> bool) {
        let start = Instant::now();
        let zero = start.seconds_since(self.epoch);
        self.listener = Listener::default();
        // A hop can be heard when its last sample is over.
        let period = 1e9 * HOP as f64 / f64::from(SAMPLE_RATE);
        let mut deadlines = Deadlines::new(start.plus(period as i64), 1e9 / period);
        let mut samples = [0.0; HOP];
        while !self.stopped() {
            fault::strike("sound");
            if !next(&mut samples) {
                return;
            }
            deadlines.next(Instant::now()).sleep();
            self.hear(&samples, zero);
        }
    }
}

/// Starts to listen, unless there is nothing to listen to.
///
/// # Errors
/// Where the system gives no thread.
pub fn listen(
    source: SoundSource,
    epoch: Instant,
    hearing: triple_buffer::Input<Hearing>,
    stop: Arc<AtomicBool>,
    troubles: Troubles,
) -> io::Result<Option<JoinHandle<()>>> {
    if source == SoundSource::Silence {
        return Ok(None);
    }
    let mut ear = Ear { epoch, hearing, stop, troubles: troubles.clone(), listener: Listener::default() };
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
    }
}
