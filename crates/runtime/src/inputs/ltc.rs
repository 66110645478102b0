//! Linear time code in a sound: of a capture device, a recording, or raw samples. It leads the clock as other time code does, and each
//! of its seconds can be bound to.

use std::time::Duration;

use splimo_show::InputKind;
use splimo_show::event::{Edge, EventAddress};
use splimo_time::sync::{MusicPlace, SyncPosition, SyncSource};
use splimo_wire::ltc::{Frame, Reader};

use super::{Follower, InputSource, spawn};
use crate::sound::{self, SoundSource};
use crate::trouble::Troubles;

/// Samples a second of what is listened to.
const RATE: f64 = 48_000.0;
/// The time between two looks whether the sound has failed.
const LOOK: Duration = Duration::from_millis(200);

/// Linear time code.
pub(super) const SOURCE: InputSource = InputSource {
    kind: InputKind::Ltc,
    name: "ltc",
    takes: "SOUND",
    help: "Where linear time code (LTC) sounds: a capture device, a recording, or \"raw:PATH,RATE,CHANNELS,s16|f32\"; \"NAME#2\" is its second channel",
    check: |text| parts(text).map(|_| ()),
    start: |follower, text| {
        let (source, channels) = parts(text)?;
        spawn("ltc", follower, move |follower| follow(follower, &source, channels))
    },
};

/// The sound, and the channel behind a `#`.
fn parts(text: &str) -> Result<(SoundSource, sound::Channels), String> {
    let (sound, channel) = text.rsplit_once('#').unwrap_or((text, "mono"));
    let channels = channel.parse().map_err(|_| format!("\"{channel}\" is no channel; write 1, 2, left or right"))?;
    match SoundSource::parse(sound)? {
        SoundSource::Silence | SoundSource::Set => {
            Err(format!("there is no time code in \"{sound}\"; write a device or a recording"))
        }
        source => Ok((source, channels)),
    }
}

fn follow(follower: &Follower, source: &SoundSource, channels: sound::Channels) {
    let mut ear =
        Ear { follower: follower.clone(), reader: Reader::default(), told: f64::MIN, second: None, malformed: 0 };
    // What goes wrong with the sound is a trouble of this input, not of the music.
    let own = Troubles::default();
    let ended = std::sync::atomic::AtomicBool::new(false);
    std::thread::scope(|scope| {
        scope.spawn(|| {
            while !ended.load(std::sync::atomic::Ordering::Relaxed) && !follower.stopped() {
                match own.list().pop() {
                    Some(trouble) => follower.failed(trouble.message),
                    None => follower.well(),
                }
                std::thread::sleep(LOOK);
            }
        });
        let take = move |samples: &[f32]| ear.take(samples);
        sound::tap(source, channels, follower.epoch, &follower.stop, &own, Box::new(take));
        while !follower.stopped() {
            std::thread::sleep(LOOK);
        }
        ended.store(true, std::sync::atomic::Ordering::Relaxed);
    });
}

struct Ear {
    follower: Follower,
    reader: Reader,
    told: f64,
    second: Option<u32>,
    malformed: u64,
}

impl Ear {
    fn take(&mut self, samples: &[f32]) {
        let now = self.follower.now();
        let mut frames: Vec<Frame> = Vec::new();
        self.reader.take(samples, |frame| frames.push(frame));
        let malformed = self.reader.malformed - std::mem::replace(&mut self.malformed, self.reader.malformed);
        self.follower.counts.malformed.fetch_add(malformed, std::sync::atomic::Ordering::Relaxed);
        for frame in frames {
            let rate = self.reader.rate();
            let at = now - (samples.len() - frame.ends) as f64 / RATE;
            let seconds = frame.seconds(rate);
            self.follower.counts.events.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
            // A tape that runs backward leads nobody: the clock stands until it goes on.
            let place = match frame.backward {
                true => MusicPlace::Stopped,
                // The numbers are of the beginning of the frame, which is over now.
                false => MusicPlace::Seconds(seconds + 1.0 / f64::from(rate)),
            };
            let position = SyncPosition { source: SyncSource::TimeCode, time: at, place };
            self.follower.tell(Some(position), &mut self.told);
            let second = seconds as u32;
            if self.second.replace(second) != Some(second) {
                self.follower.event(EventAddress::At(second % 86_400), 1.0, Edge::Press, at);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_channel_stands_behind_the_sound() {
        assert_eq!(parts("take.wav#2").map(|(source, _)| source), Ok(SoundSource::File("take.wav".into())));
        assert_eq!(parts("Interface").map(|(source, _)| source), Ok(SoundSource::Device("Interface".into())));
        assert!(parts("take.wav#many").is_err() && parts("set").is_err() && parts("raw:x,1").is_err());
    }
}
