//! Music that is heard off line, for looks that are rendered.

use splimo_hear::{HOP, Listener, SAMPLE_RATE};
use splimo_runtime::sound::{self, Set, SoundSource};
use splimo_time::music::Hearing;

use super::Failure;

/// The part of the set that the music begins with, the drop, and how long it is heard before the first frame.
const MUSIC_PART: usize = 2;
const WARM_UP: f64 = 8.0;

/// Fills a hop, and tells whether there was one.
type NextHop = Box<dyn FnMut(&mut [f32; HOP]) -> bool>;

/// Music heard off line, hop by hop.
pub(super) struct Music {
    next: NextHop,
    listener: Listener,
    start: f64,
}

impl Music {
    pub(super) fn open(audio: &str) -> Result<Option<Self>, Failure> {
        let next: NextHop = match SoundSource::parse(audio)? {
            SoundSource::Silence => return Ok(None),
            SoundSource::Set => {
                let mut set = Set::from_part(MUSIC_PART);
                Box::new(move |hop| {
                    set.fill(hop);
                    true
                })
            }
            SoundSource::File(path) => {
                let mut file = sound::File::open(&path)?;
                Box::new(move |hop| file.next(hop))
            }
            SoundSource::Raw(spec) => {
                return Err(format!("{spec} comes as it plays; a render hears a file, \"set\" or \"none\"").into());
            }
            SoundSource::Device(name) => {
                return Err(format!("\"{name}\" is no recording; a render hears a file, \"set\" or \"none\"").into());
            }
        };
        let start = if audio == "set" { -WARM_UP } else { 0.0 };
        Ok(Some(Self { next, listener: Listener::default(), start }))
    }

    /// Hears what has sounded by `time`, and tells what is known then.
    pub(super) fn hear_until(&mut self, time: f64) -> Hearing {
        let mut hop = [0.0; HOP];
        let length = HOP as f64 / f64::from(SAMPLE_RATE);
        while self.start + self.listener.hearing().time + length <= time {
            if !(self.next)(&mut hop) {
                hop.fill(0.0);
            }
            self.listener.listen(&hop, |_| {});
        }
        let heard = *self.listener.hearing();
        Hearing { time: self.start + heard.time, ..heard }
    }
}
