//! Raw samples from standard input or a pipe: any player can feed it.

use std::fmt;
use std::io;
use std::path::PathBuf;
use std::time::Duration;

use splimo_hear::{HOP, SAMPLE_RATE};

use super::{Arrival, Channels, Ear, ToMono48k};
use crate::clock::Instant;
use crate::stream::{PATIENCE, Stream, There};

/// The time that a stream that cannot be read is left alone.
const RETRY: Duration = Duration::from_secs(1);
/// The most that sound may be ahead of the time, in seconds.
const AHEAD: f64 = 0.1;

/// The layout of samples in a stream.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RawSpec {
    /// The pipe or file; none is standard input.
    pub path: Option<PathBuf>,
    /// Samples a second, 8,000..384,000.
    pub rate: u32,
    /// Channels, 1..32.
    pub channels: usize,
    /// 32-bit floats rather than 16-bit whole numbers, both with the least byte first.
    pub float: bool,
}

impl RawSpec {
    /// Reads what stands behind `raw:`: `PATH[,RATE[,CHANNELS[,s16|f32]]]`, where `-` is standard input.
    ///
    /// # Errors
    /// The fault in it, and the way it is written.
    pub fn parse(text: &str) -> Result<Self, String> {
        let mut parts = text.split(',');
        let path = parts.next().filter(|path| !path.is_empty()).ok_or_else(|| wrong(text))?;
        let mut spec =
            Self { path: (path != "-").then(|| PathBuf::from(path)), rate: 48_000, channels: 1, float: false };
        if let Some(rate) = parts.next() {
            spec.rate = rate.parse().ok().filter(|rate| (8_000..=384_000).contains(rate)).ok_or_else(|| wrong(text))?;
        }
        if let Some(channels) = parts.next() {
            spec.channels = channels.parse().ok().filter(|c| (1..=32).contains(c)).ok_or_else(|| wrong(text))?;
        }
        spec.float = match parts.next() {
            None | Some("s16") => false,
            Some("f32") => true,
            Some(_) => return Err(wrong(text)),
        };
        parts.next().map_or(Ok(spec), |_| Err(wrong(text)))
    }
}

fn wrong(text: &str) -> String {
    format!(
        "\"raw:{text}\" is not understood; write raw:PATH,48000,2,s16 (rate, channels, s16 or f32), with - for standard input"
    )
}

impl fmt::Display for RawSpec {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match &self.path {
            None => f.write_str("standard input"),
            Some(path) => path.display().fmt(f),
        }
    }
}

/// Listens to a stream as it comes, and to the next where one ends.
pub(super) fn listen(spec: &RawSpec, channels: Channels, ear: &mut Ear) {
    while !ear.stopped() {
        match Stream::open(spec.path.as_deref()).and_then(|stream| hear(spec, channels, ear, &stream)) {
            Ok(()) if ear.stopped() => return,
            Ok(()) => ear.silence(),
            Err(error) => {
                ear.silence();
                ear.troubles.tell("sound", format!("cannot read {spec}: {error}; it is tried again every second"));
                wait(ear, RETRY);
            }
        }
        if spec.path.is_none() {
            ear.troubles.tell("sound", "standard input has ended; what comes is silence".to_owned());
            return;
        }
    }
}

/// Waits, but not for somebody who wants to leave.
fn wait(ear: &Ear, time: Duration) {
    let until = Instant::now().plus(time.as_nanos() as i64);
    while Instant::now() < until && !ear.stopped() {
        std::thread::sleep(Duration::from_millis(10));
    }
}

/// Listens until a stream that something came of has ended.
fn hear(spec: &RawSpec, channels: Channels, ear: &mut Ear, stream: &Stream) -> io::Result<()> {
    let width = if spec.float { 4 } else { 2 };
    let mut converter = ToMono48k::picking(spec.channels, spec.rate, channels);
    // A hop at a time, so that it is heard as it comes.
    let frames = (HOP as u64 * u64::from(spec.rate)).div_ceil(u64::from(SAMPLE_RATE)) as usize;
    let mut bytes = vec![0u8; frames * spec.channels * width];
    let (mut kept, mut began) = (0, None);
    let (mut interleaved, mut mono) = (Vec::new(), Vec::new());
    let mut arrival = Arrival::default();
    while !ear.stopped() {
        match stream.read(&mut bytes[kept..])? {
            There::Bytes(count) => kept += count,
            There::Nothing => continue,
            There::End if began.is_some() || spec.path.is_none() => return Ok(()),
            // Nobody writes into the pipe yet.
            There::End => {
                wait(ear, Duration::from_millis(PATIENCE.into()));
                continue;
            }
        }
        ear.troubles.over("sound");
        let whole = kept / width * width;
        interleaved.clear();
        if spec.float {
            interleaved.extend(bytes[..whole].as_chunks::<4>().0.iter().map(|b| f32::from_le_bytes(*b)));
        } else {
            let sample = |b: &[u8; 2]| f32::from(i16::from_le_bytes(*b)) / 32_768.0;
            interleaved.extend(bytes[..whole].as_chunks::<2>().0.iter().map(sample));
        }
        bytes.copy_within(whole..kept, 0);
        kept -= whole;
        mono.clear();
        converter.convert(&interleaved, &mut mono);
        ear.hear_as_it_comes(&mono, &mut arrival);
        // What is no player but a file comes faster than it sounds.
        let ahead = arrival.seconds() - Instant::now().seconds_since(*began.get_or_insert_with(Instant::now)) - AHEAD;
        if ahead > 0.0 {
            wait(ear, Duration::from_secs_f64(ahead));
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn streams_are_written_as_the_help_says() {
        let spec = RawSpec::parse("/tmp/pipe,44100,2,f32").expect("good");
        assert_eq!((spec.rate, spec.channels, spec.float), (44_100, 2, true));
        let spec = RawSpec::parse("-").expect("good");
        assert_eq!((spec.path, spec.rate, spec.channels, spec.float), (None, 48_000, 1, false));
        for bad in ["", "-,1", "-,48000,0", "-,48000,2,mp3", "-,48000,2,s16,more"] {
            assert!(RawSpec::parse(bad).is_err_and(|why| why.contains("standard input")), "{bad}");
        }
    }
}
