//! The file of the log, bounded: it is begun anew where it has grown large, lines that come again and again are folded into one, and
//! of a flood of others only so many a second are written.

use std::fs::{self, File, OpenOptions};
use std::io::{self, Write};
use std::path::PathBuf;
use std::time::{Duration, Instant};

use splimo_base::outside::Outside;

/// The file is begun anew when it is larger than this, in bytes; the one before is kept.
const LARGEST: u64 = 4 << 20;
/// Lines that are written in a second at the most.
const A_SECOND: u32 = 40;
/// The longest line, in bytes; the rest is cut off.
const LONGEST: usize = 16 << 10;

/// A log that is written line by line. One that cannot be written is left out: the subscriber would tell of it on standard error,
/// which may be on the same full disk, and panic there.
pub(super) struct LogFile {
    path: PathBuf,
    file: Option<File>,
    size: u64,
    /// The last line without its time, and how often it came since it was written.
    last: (String, u64),
    /// The second that is counted, its lines, and those that were left out.
    second: (Instant, u32, u64),
}

impl LogFile {
    /// Goes on with the log at a path, or begins it.
    pub(super) fn open(path: PathBuf) -> io::Result<Self> {
        let file = OpenOptions::new().create(true).append(true).open(&path)?;
        let size = file.metadata()?.len();
        Ok(Self { path, file: Some(file), size, last: Default::default(), second: (Instant::now(), 0, 0) })
    }

    /// Takes a line as it was made, with its time before the first blank.
    fn line(&mut self, line: &str, now: Instant) {
        let line = line.trim_end_matches('\n');
        let (time, words) = line.split_once(' ').unwrap_or(("", line));
        if now - self.second.0 >= Duration::from_secs(1) {
            self.tell_left_out(time);
            self.second = (now, 0, 0);
        }
        if words == self.last.0 {
            self.last.1 += 1;
            return;
        }
        if self.second.1 >= A_SECOND {
            self.second.2 += 1;
            return;
        }
        self.tell_folded(time);
        self.last = (words.to_owned(), 0);
        self.second.1 += 1;
        self.put(line);
    }

    fn tell_folded(&mut self, time: &str) {
        match std::mem::take(&mut self.last).1 {
            0 => {}
            times => self.put(&format!("{time}  the line before came {times} times more")),
        }
    }

    fn tell_left_out(&mut self, time: &str) {
        match self.second.2 {
            0 => {}
            count => {
                self.tell_folded(time);
                self.put(&format!("{time}  {count} lines left out: more than {A_SECOND} a second"));
            }
        }
    }

    fn put(&mut self, line: &str) {
        let page = Outside(line).page();
        let end = page.floor_char_boundary(LONGEST);
        if self.size > LARGEST {
            self.begin_anew();
        }
        if let Some(file) = &mut self.file {
            let _ = file.write_all(format!("{}\n", &page[..end]).as_bytes());
            self.size += end as u64 + 1;
        }
    }

    fn begin_anew(&mut self) {
        let _ = fs::rename(&self.path, self.path.with_extension("log.1"));
        // Where no new one can be made, the old one goes on being written.
        if let Ok(file) = OpenOptions::new().create(true).append(true).open(&self.path) {
            self.file = Some(file);
        }
        self.size = 0;
    }
}

impl Write for LogFile {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.line(&String::from_utf8_lossy(bytes), Instant::now());
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

impl Drop for LogFile {
    fn drop(&mut self) {
        self.tell_left_out("");
        self.tell_folded("");
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn log() -> (tempfile::TempDir, LogFile) {
        let folder = tempfile::tempdir().expect("a folder");
        let log = LogFile::open(folder.path().join("splimo.log")).expect("it opens");
        (folder, log)
    }

    #[test]
    fn lines_that_come_again_are_folded_and_floods_are_counted() {
        let (folder, mut log) = log();
        let start = Instant::now();
        for i in 0..1000 {
            log.line(&format!("12:00:{i} WARN the same\n"), start);
        }
        for i in 0..100_000 {
            log.line(&format!("12:01:{i} WARN another, {i}\n"), start);
        }
        log.line("12:02:00 WARN \u{1b}]0;mine\u{7} and \u{202e}\n", start + Duration::from_secs(2));
        drop(log);
        let text = fs::read_to_string(folder.path().join("splimo.log")).expect("it is there");
        let lines: Vec<&str> = text.lines().collect();
        assert_eq!(lines[0], "12:00:0 WARN the same");
        assert_eq!(lines[1], "12:01:0  the line before came 999 times more");
        assert_eq!(lines[41], "12:02:00  99961 lines left out: more than 40 a second");
        assert_eq!(lines[42], "12:02:00 WARN \\u001b]0;mine\\u0007 and \\u202e");
        assert_eq!(lines.len(), 43);
    }

    #[test]
    fn a_log_that_has_grown_large_is_begun_anew_while_it_is_written() {
        let (folder, mut log) = log();
        let start = Instant::now();
        for i in 0..20_000 {
            let words = "x".repeat(900);
            log.line(&format!("time {i} {words}"), start + Duration::from_millis(i * 30));
        }
        let size = |name: &str| fs::metadata(folder.path().join(name)).map_or(0, |file| file.len());
        assert!(size("splimo.log") <= LARGEST + 5000, "{}", size("splimo.log"));
        assert!(size("splimo.log.1") > LARGEST / 2, "{}", size("splimo.log.1"));
        log.line(&format!("time {}", "y".repeat(100_000)), start + Duration::from_secs(4000));
        drop(log);
        let text = fs::read_to_string(folder.path().join("splimo.log")).expect("it is there");
        assert!(text.lines().all(|line| line.len() <= LONGEST));
    }
}
