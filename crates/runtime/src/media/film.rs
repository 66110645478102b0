//! Films in YUV4MPEG2, the plain format that players write into pipes (mjpegtools, yuv4mpeg(5)): a line that says size, rate
//! and how colour is kept, then for each picture `FRAME` and its three planes. Late pictures are left out; when a film ends or
//! breaks, its last picture stays, and a trouble says so.

use std::fs::File;
use std::io::{self, BufRead, BufReader, Read};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::thread::Builder;

use splimo_light::media::{Film, Picture, Screening};

use crate::clock::Instant;
use crate::trouble::Troubles;

/// The longest line, and the longest side of a picture.
const LONGEST_LINE: usize = 256;
const LONGEST_SIDE: usize = 4096;
/// The longest side that is kept of a picture: lights are few.
const KEPT_SIDE: usize = 192;

/// Begins to show a film, on a thread of its own.
pub(super) fn run(name: &str, folder: &Path, film: Arc<Film>, troubles: Troubles) {
    let path = (name != "-").then(|| folder.join(name));
    let subject = format!("film {name}");
    let work = {
        let (subject, troubles) = (subject.clone(), troubles.clone());
        move || {
            let ended = play(path.as_deref(), film, &subject, &troubles);
            let words = match ended {
                Ok(Ended::Left) => return troubles.over(&subject),
                Ok(Ended::Over) => "it is over; its last picture stays".to_owned(),
                Err(why) => why,
            };
            troubles.tell(&subject, words);
        }
    };
    if let Err(error) = Builder::new().name("film".into()).spawn(work) {
        troubles.tell(&subject, format!("there is no thread for it: {error}"));
    }
}

/// The timing of a picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Timing {
    /// It is seen when it is due.
    Seen,
    /// It should be gone already.
    LeftOut,
    /// The film stood still for a while: time is counted from here on.
    Anew,
}

/// The most that a film may be late before it counts as having stood still, in seconds.
const STOOD_STILL: f64 = 0.5;

impl Timing {
    fn of(late: f64, rate: f64) -> Self {
        match late {
            late if late > STOOD_STILL => Self::Anew,
            late if late > 1.0 / rate => Self::LeftOut,
            _ => Self::Seen,
        }
    }
}

/// The way a film came to its end.
enum Ended {
    /// There is no more of it.
    Over,
    /// Nobody wants it any more.
    Left,
}

fn play(path: Option<&Path>, film: Arc<Film>, subject: &str, troubles: &Troubles) -> Result<Ended, String> {
    let mut source = open(path)?;
    let header = Header::read(&mut source)?;
    troubles.over(subject);
    let mut screening = Screening::of(film);
    let mut planes = Planes::of(&header);
    let mut began = Instant::now();
    for number in 0u64.. {
        match planes.read(&mut source) {
            Ok(true) => {}
            Ok(false) => return Ok(Ended::Over),
            Err(why) => return Err(format!("it breaks off at picture {}: {why}; its last picture stays", number + 1)),
        }
        if screening.is_left() {
            return Ok(Ended::Left);
        }
        let place = (number as f64 / header.rate * 1e9) as i64;
        match Timing::of(Instant::now().seconds_since(began.plus(place)), header.rate) {
            Timing::Seen => {}
            Timing::LeftOut => continue,
            Timing::Anew => began = Instant::now().plus(-place),
        }
        let due = began.plus(place);
        screening.show(planes.picture(&header)?);
        due.plus((1e9 / header.rate) as i64).sleep();
    }
    Ok(Ended::Over)
}

/// Looks at the beginning of a film, unless it is a pipe, which gives its bytes only once.
pub(super) fn looked_at(path: &Path) -> Result<(), String> {
    let meta = std::fs::metadata(path);
    if meta.as_ref().is_ok_and(|meta| !meta.is_file() && !meta.is_dir()) {
        return Ok(());
    }
    Header::read(&mut open(Some(path))?).map(drop)
}

/// A film that goes on when it is told to.
pub(super) struct Reel {
    source: Box<dyn BufRead>,
    header: Header,
    planes: Planes,
    screening: Screening,
    /// The number of pictures that were read, and whether there are more.
    read: u64,
    over: bool,
}

impl Reel {
    /// Opens a film that is a file.
    pub(super) fn open(path: &Path, film: Arc<Film>) -> Result<Self, String> {
        if !std::fs::metadata(path).is_ok_and(|meta| meta.is_file()) && path.exists() {
            return Err("it is a pipe, which nobody feeds here; name a file".to_owned());
        }
        let mut source = open(Some(path))?;
        let header = Header::read(&mut source)?;
        Ok(Self { planes: Planes::of(&header), header, source, screening: Screening::of(film), read: 0, over: false })
    }

    /// Shows the picture that is due so many seconds after the start.
    pub(super) fn go_to(&mut self, seconds: f64) -> Result<(), String> {
        // A hair of a frame more: times are sums.
        let due = (seconds * self.header.rate + 1e-6).floor() as u64 + 1;
        let before = self.read;
        while self.read < due && !self.over {
            match self.planes.read(&mut *self.source) {
                Ok(true) => self.read += 1,
                Ok(false) => self.over = true,
                Err(why) => return Err(format!("the film breaks off at picture {}: {why}", self.read + 1)),
            }
        }
        if self.read > before {
            self.screening.show(self.planes.picture(&self.header)?);
        }
        Ok(())
    }
}

fn open(path: Option<&Path>) -> Result<Box<dyn BufRead>, String> {
    match path {
        None => Ok(Box::new(BufReader::new(io::stdin()))),
        Some(path) => {
            let named = |error| {
                format!("{} cannot be opened: {error}; make the pipe with mkfifo, or name another file", path.display())
            };
            Ok(Box::new(BufReader::with_capacity(1 << 16, File::open(PathBuf::from(path)).map_err(named)?)))
        }
    }
}

/// The size of the planes of colour against that of brightness.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Chroma {
    across: usize,
    down: usize,
    planes: bool,
}

/// The first line of a film.
#[derive(Debug, Clone, PartialEq)]
struct Header {
    width: usize,
    height: usize,
    rate: f64,
    chroma: Chroma,
}

fn line(source: &mut dyn BufRead) -> Result<Option<String>, String> {
    let mut bytes = Vec::new();
    let mut limited = source.take(LONGEST_LINE as u64);
    limited.read_until(b'\n', &mut bytes).map_err(|e| e.to_string())?;
    match bytes.pop() {
        None => Ok(None),
        Some(b'\n') => String::from_utf8(bytes).map(Some).map_err(|_| "a line is not text".to_owned()),
        Some(_) => Err("a line does not end".to_owned()),
    }
}

impl Header {
    fn read(source: &mut dyn BufRead) -> Result<Self, String> {
        let mend = "feed it with a player that writes yuv4mpegpipe";
        let first = line(source).map_err(|why| format!("it is no YUV4MPEG2: {why}; {mend}"))?;
        let first = first.ok_or_else(|| format!("it is empty; {mend}"))?;
        Self::parse(&first).ok_or_else(|| format!("\"{first}\" is no start of a YUV4MPEG2 film; {mend}"))
    }

    fn parse(text: &str) -> Option<Self> {
        let mut words = text.split(' ');
        if words.next() != Some("YUV4MPEG2") {
            return None;
        }
        let mut header = Self { width: 0, height: 0, rate: 25.0, chroma: Chroma { across: 2, down: 2, planes: true } };
        for word in words.filter(|word| !word.is_empty()) {
            let (mark, value) = word.split_at_checked(1)?;
            match mark {
                "W" => header.width = value.parse().ok()?,
                "H" => header.height = value.parse().ok()?,
                "F" => {
                    let (over, under) = value.split_once(':')?;
                    header.rate = over.parse::<f64>().ok()? / under.parse::<f64>().ok()?;
                }
                "C" => header.chroma = chroma(value)?,
                _ => {}
            }
        }
        let fits = (1..=LONGEST_SIDE).contains(&header.width) && (1..=LONGEST_SIDE).contains(&header.height);
        (fits && (1.0..=240.0).contains(&header.rate)).then_some(header)
    }

    fn colour_size(&self) -> (usize, usize) {
        (self.width.div_ceil(self.chroma.across), self.height.div_ceil(self.chroma.down))
    }
}

/// The ways of keeping colour in 8 bits.
fn chroma(value: &str) -> Option<Chroma> {
    let of = |across, down, planes| Some(Chroma { across, down, planes });
    match value {
        "444" => of(1, 1, true),
        "422" => of(2, 1, true),
        "mono" => of(1, 1, false),
        "420" | "420jpeg" | "420mpeg2" | "420paldv" => of(2, 2, true),
        _ => None,
    }
}

/// The planes of a picture.
struct Planes {
    bright: Vec<u8>,
    blue: Vec<u8>,
    red: Vec<u8>,
}

impl Planes {
    fn of(header: &Header) -> Self {
        let (width, height) = header.colour_size();
        let colour = if header.chroma.planes { width * height } else { 0 };
        Self { bright: vec![0; header.width * header.height], blue: vec![128; colour], red: vec![128; colour] }
    }

    /// Reads the next picture; false where there is none.
    fn read(&mut self, source: &mut dyn BufRead) -> Result<bool, String> {
        match line(source)? {
            None => return Ok(false),
            Some(mark) if mark == "FRAME" || mark.starts_with("FRAME ") => {}
            Some(mark) => {
                return Err(format!(
                    "\"{}\" stands where a picture should begin",
                    mark.chars().take(20).collect::<String>()
                ));
            }
        }
        for plane in [&mut self.bright, &mut self.blue, &mut self.red] {
            source.read_exact(plane).map_err(|_| "it is cut off in the middle".to_owned())?;
        }
        Ok(true)
    }

    /// The picture in the colours of a screen, no larger than lights need it.
    fn picture(&self, header: &Header) -> Result<Picture, String> {
        let every = header.width.max(header.height).div_ceil(KEPT_SIDE).max(1);
        let (width, height) = (header.width.div_ceil(every), header.height.div_ceil(every));
        let mut pixels = Vec::with_capacity(width * height);
        for y in 0..height {
            for x in 0..width {
                pixels.push(self.pixel(header, x * every, y * every));
            }
        }
        Picture::new(width, height, vec![(pixels, 0.0)]).map_err(|e| e.to_string())
    }

    /// ITU-R BT.601 with the range of video, 16..235.
    fn pixel(&self, header: &Header, x: usize, y: usize) -> [u8; 4] {
        let bright = f32::from(self.bright[y * header.width + x]) - 16.0;
        let (width, _) = header.colour_size();
        let at = (y / header.chroma.down) * width + x / header.chroma.across;
        let colour = |plane: &[u8]| plane.get(at).map_or(0.0, |c| f32::from(*c) - 128.0);
        let (blue, red) = (colour(&self.blue), colour(&self.red));
        let code = |c: f32| c.round().clamp(0.0, 255.0) as u8;
        let bright = 1.164_384 * bright;
        [
            code(bright + 1.596_027 * red),
            code(bright - 0.391_762 * blue - 0.812_968 * red),
            code(bright + 2.017_232 * blue),
            255,
        ]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headers_are_read_and_refused() {
        let header = Header::parse("YUV4MPEG2 W64 H48 F30000:1001 Ip A1:1 C420jpeg").expect("a header");
        assert_eq!((header.width, header.height, header.colour_size()), (64, 48, (32, 24)));
        assert!((header.rate - 29.97).abs() < 0.01);
        for bad in [
            "YUV4MPEG W64 H48",
            "YUV4MPEG2 W0 H48",
            "YUV4MPEG2 W64",
            "YUV4MPEG2 W64 H48 F0:1",
            "YUV4MPEG2 W64 H99999",
            "YUV4MPEG2 W64 H48 C420p10",
            "YUV4MPEG2 W64 H48 Fx",
            "YUV4MPEG2 Wé H48",
        ] {
            assert_eq!(Header::parse(bad), None, "{bad}");
        }
    }

    fn film(pictures: usize) -> Vec<u8> {
        let mut bytes = b"YUV4MPEG2 W4 H2 F100:1 C444\n".to_vec();
        for _ in 0..pictures {
            bytes.extend(b"FRAME\n");
            // Full red.
            bytes.extend([82; 8]);
            bytes.extend([90; 8]);
            bytes.extend([240; 8]);
        }
        bytes
    }

    #[test]
    fn a_picture_has_its_colours() {
        let bytes = film(1);
        let mut source = &bytes[..];
        let header = Header::read(&mut source).expect("a header");
        let mut planes = Planes::of(&header);
        assert_eq!(planes.read(&mut source), Ok(true));
        let [r, g, b, _] = planes.pixel(&header, 1, 1);
        assert!(r > 250 && g < 5 && b < 5, "{r} {g} {b}");
        assert_eq!(planes.read(&mut source), Ok(false));
    }

    #[test]
    fn wherever_a_film_is_cut_off_it_is_told_and_the_last_picture_stays() {
        let whole = film(2);
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("cut.y4m");
        for length in [0, 5, 28, 33, 40, whole.len() - 1] {
            std::fs::write(&path, &whole[..length]).expect("writes");
            let film = Arc::new(Film::default());
            let ended = play(Some(&path), film.clone(), "film", &Troubles::default());
            assert!(ended.is_err() || length == 28, "{length}");
            assert_eq!(film.newest().is_some(), length == whole.len() - 1, "{length}");
        }
    }

    #[test]
    fn late_pictures_are_left_out_and_a_film_that_stood_still_goes_on() {
        assert_eq!([-0.1, 0.0, 0.03].map(|late| Timing::of(late, 25.0)), [Timing::Seen; 3]);
        assert_eq!([0.05, 0.4].map(|late| Timing::of(late, 25.0)), [Timing::LeftOut; 2]);
        assert_eq!(Timing::of(7.0, 25.0), Timing::Anew);
    }

    #[test]
    fn a_film_that_is_there_is_shown_to_its_end() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("whole.y4m");
        std::fs::write(&path, film(3)).expect("writes");
        let film = Arc::new(Film::default());
        assert!(matches!(play(Some(&path), film.clone(), "film", &Troubles::default()), Ok(Ended::Over)));
        assert_eq!(film.newest().map(|p| p.size()), Some((4.0, 2.0)));
        assert!(play(Some(Path::new("/nowhere/at.all")), film, "film", &Troubles::default()).is_err());
    }
}
