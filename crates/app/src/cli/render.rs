//! `splimo render`: a look without a network, faster than real time, the same bytes every time.

use std::collections::BTreeSet;
use std::fs::File;
use std::io::{BufWriter, Write};
use std::path::Path;
use std::process::ExitCode;
use std::sync::Arc;

use image::codecs::gif::{GifEncoder, Repeat};
use image::{Delay, Frame as GifFrame, Rgb, RgbImage};
use splimo_core::colour::to_screen;
use splimo_core::engine::{Engine, Frame, Inputs, Prepared};
use splimo_core::music::Hearing;
use splimo_core::rig::Rig;
use splimo_core::show::{Look, Param, Show, file};
use splimo_hear::{HOP, Listener, SAMPLE_RATE};

use super::Failure;
use super::play::opened;
use splimo_runtime::files;
use splimo_runtime::media::{Library, Reels};
use splimo_runtime::sound::Set;
use splimo_runtime::sound::{self, SoundSource};

/// The longest that is rendered, in seconds.
const LONGEST: f64 = 3600.0;
/// Every how many frames one goes into a GIF: 22 a second of 44.
const GIF_EVERY: u64 = 2;
/// The part of the set that the music begins with, the drop, and how long it is heard before the first frame.
const MUSIC_PART: usize = 2;
const WARM_UP: f64 = 8.0;

/// Renders a look.
pub(super) fn run(path: &Path, look: &str, seconds: f64, out: &Path, audio: &str) -> Result<ExitCode, Failure> {
    if !(seconds > 0.0 && seconds <= LONGEST) {
        return Err(format!("--seconds has to be above 0 and at most {LONGEST}").into());
    }
    let show = if path.as_os_str() == "demo" { file::read(files::LANTERN_QUAY)?.show } else { opened(path)? };
    let Some((index, _)) = show.look(look) else {
        let known: Vec<_> = show.looks.iter().map(|l| l.name.as_str()).collect();
        return Err(format!("there is no look \"{look}\" in this show; it has: {}", known.join(", ")).into());
    };
    let ending = out.extension().and_then(|e| e.to_str()).unwrap_or_default().to_owned();
    if !matches!(ending.as_str(), "frames" | "png" | "gif") {
        return Err(format!("{} has to end in .frames, .png or .gif", out.display()).into());
    }
    let folder = out.parent().filter(|f| !f.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let failed = |e: std::io::Error| format!("cannot write {}: {e}", out.display());
    // Written beside its place and renamed when it is whole: a render that fails leaves what was there.
    let temporary = tempfile::NamedTempFile::new_in(folder).map_err(failed)?;
    let mut file = BufWriter::new(temporary.as_file().try_clone()?);
    let mut studio = Studio::new(show, index, audio, &Library::folder_of(Some(path)))?;
    let frames = (seconds * studio.rate).round().max(1.0) as u64;
    match ending.as_str() {
        "frames" => studio.frames(frames, |frame, _, _| Ok(file.write_all(&frame.slots)?))?,
        "png" => studio.png(frames, &mut file)?,
        _ => studio.gif(frames, &mut file)?,
    }
    file.flush().map_err(failed)?;
    drop(file);
    set_usual_permissions(temporary.as_file())?;
    temporary.persist(out).map_err(|e| failed(e.error))?;
    say_aside!("{frames} frames of {look} in {}", out.display());
    Ok(ExitCode::SUCCESS)
}

fn set_usual_permissions(file: &File) -> std::io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    file.set_permissions(std::fs::Permissions::from_mode(0o644))
}

/// An engine with its music, off line.
struct Studio {
    show: Arc<Show>,
    engine: Engine,
    music: Option<Music>,
    reels: Reels,
    rate: f64,
}

impl Studio {
    fn new(show: Show, look: usize, audio: &str, folder: &Path) -> Result<Self, Failure> {
        let show = Arc::new(show);
        let mut rig = Rig::compile(&show);
        // What other looks name is not needed here.
        let seen = Show { looks: looks_of(&show, look), ..Show::empty("") };
        let reels = Reels::open(&seen, folder).map_err(|why| format!("nothing is rendered: {why}"))?;
        rig.media = reels.media();
        let mut engine = Engine::start(Prepared::new(show.clone(), Arc::new(rig), 0));
        let mut music = Music::open(audio)?;
        if let Some(music) = &mut music {
            music.hear_until(0.0);
        }
        engine.cut_to(look);
        let rate = f64::from(show.settings.rate);
        Ok(Self { show, engine, music, reels, rate })
    }

    /// Makes frames and hands each with its number to `take`.
    fn frames(
        &mut self,
        count: u64,
        mut take: impl FnMut(&Frame, u64, &Rig) -> Result<(), Failure>,
    ) -> Result<(), Failure> {
        let rig = self.engine.rig().clone();
        for number in 0..count {
            let time = number as f64 / self.rate;
            self.reels.go_to(time)?;
            let hearing = self.music.as_mut().map_or(Hearing::SILENCE, |music| music.hear_until(time));
            let frame = self.engine.tick(time, &Inputs { hearing, ..Inputs::default() });
            take(frame, number, &rig)?;
        }
        Ok(())
    }

    fn png(&mut self, count: u64, file: &mut impl Write) -> Result<(), Failure> {
        let show = self.show.clone();
        let mut last = RgbImage::new(1, 1);
        self.frames(count, |frame, number, rig| {
            if number + 1 == count {
                last = picture(&show, rig, frame);
            }
            Ok(())
        })?;
        let mut bytes = std::io::Cursor::new(Vec::new());
        last.write_to(&mut bytes, image::ImageFormat::Png)?;
        Ok(file.write_all(bytes.get_ref())?)
    }

    fn gif(&mut self, count: u64, file: &mut impl Write) -> Result<(), Failure> {
        let show = self.show.clone();
        let delay = Delay::from_numer_denom_ms((1000.0 * GIF_EVERY as f64 / self.rate).round() as u32, 1);
        let mut encoder = GifEncoder::new_with_speed(file, 10);
        encoder.set_repeat(Repeat::Infinite)?;
        self.frames(count, |frame, number, rig| {
            if number % GIF_EVERY == 0 {
                let picture = image::DynamicImage::from(picture(&show, rig, frame)).into_rgba8();
                encoder.encode_frame(GifFrame::from_parts(picture, 0, 0, delay))?;
            }
            Ok(())
        })
    }
}

/// A look, and the looks that it leads to.
fn looks_of(show: &Show, look: usize) -> Vec<Look> {
    let (mut found, mut at) = (vec![look], 0);
    while let Some(index) = found.get(at).copied() {
        at += 1;
        let named = show.looks[index].layers.iter().filter_map(|layer| layer.params.get("looks"));
        let named = named.filter_map(|param| if let Param::List(names) = param { Some(names) } else { None }).flatten();
        let places: Vec<usize> = named.filter_map(|name| Some(show.look(name)?.0)).collect();
        found.extend(places.into_iter().filter(|place| !found.contains(place)).collect::<BTreeSet<_>>());
    }
    found.into_iter().map(|index| show.looks[index].clone()).collect()
}

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

/// The lights at their places: each a square on a near-black ground.
fn picture(show: &Show, rig: &Rig, frame: &Frame) -> RgbImage {
    let scale = (1200.0 / show.canvas.width).clamp(1.0, 8.0);
    let size = |pitches: f32| ((pitches * scale).ceil() as u32).clamp(1, 4096);
    let (width, height) = (size(show.canvas.width), size(show.canvas.height));
    let mut picture = RgbImage::from_pixel(width, height, Rgb([8, 9, 12]));
    let dot = (scale * 0.8).max(1.0) as i64;
    for (led, light) in frame.light.iter().enumerate() {
        let colour = Rgb(to_screen([light[0], light[1], light[2]]));
        let (x, y) = rig.position(led);
        let (left, top) = ((x * scale) as i64 - dot / 2, (y * scale) as i64 - dot / 2);
        for y in top.max(0)..(top + dot).min(i64::from(height)) {
            for x in left.max(0)..(left + dot).min(i64::from(width)) {
                picture.put_pixel(x as u32, y as u32, colour);
            }
        }
    }
    picture
}
