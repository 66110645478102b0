//! `splimo render`: a look without a network, faster than real time, the same bytes every time.

use std::collections::BTreeSet;
use std::fs::File;
use std::io::{BufWriter, Seek, Write};
use std::path::{Path, PathBuf};
use std::process::ExitCode;
use std::sync::Arc;

use clap::{Args, ValueEnum};
use gif::{Encoder, Repeat};
use rayon::prelude::*;
use splimo_base::nearest;
use splimo_document::file;
use splimo_engine::{Engine, Frame, Inputs, Prepared};
use splimo_light::rig::Rig;
use splimo_runtime::file_error::Cause;
use splimo_runtime::files;
use splimo_runtime::media::{Library, Reels};
use splimo_show::{Look, Param, Show};
use splimo_time::music::Hearing;

use super::music::Music;
use super::picture::{Places, colours};
use super::progress::Progress;
use super::{Failure, standard};

/// The longest that is rendered, in seconds.
const LONGEST: f64 = 3600.0;
/// Every how many frames one goes into a GIF: 22 a second of 44.
const GIF_EVERY: u64 = 2;
/// Pictures that are made side by side before they are written.
const BATCH: usize = 64;

/// The arguments of `splimo render`.
#[derive(Debug, Args)]
pub(super) struct RenderArguments {
    /// The show's file, "demo", or "-" for standard input
    show: PathBuf,
    /// The name of the look or pattern
    #[arg(long, visible_alias = "pattern")]
    look: String,
    /// Length of the animation, in seconds
    #[arg(long, default_value_t = 4.0, allow_negative_numbers = true)]
    seconds: f64,
    /// File to write: .gif, .png (the last frame) or .frames (512 bytes a universe, frame after frame); "-" is standard output
    #[arg(long)]
    out: PathBuf,
    /// Kind of file, where its name does not tell
    #[arg(long = "as", value_name = "KIND")]
    kind: Option<Kind>,
    /// Music for the effects that hear it: a recording, "set" or "none"
    #[arg(long, default_value = "set")]
    audio: String,
}

/// A kind of file that a look is rendered to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
enum Kind {
    /// An animation
    Gif,
    /// A picture of the last frame
    Png,
    /// The slots, 512 bytes a universe, frame after frame
    Frames,
}

impl Kind {
    fn of(out: &Path, named: Option<Self>) -> Result<Self, Failure> {
        let ending = out.extension().and_then(|e| e.to_str()).unwrap_or_default().to_lowercase();
        match (named, ending.as_str()) {
            (Some(kind), _) => Ok(kind),
            (None, "gif") => Ok(Self::Gif),
            (None, "png") => Ok(Self::Png),
            (None, "frames") => Ok(Self::Frames),
            (None, _) => Err(format!("{} has to end in .frames, .png or .gif; or say --as gif", out.display()).into()),
        }
    }
}

/// Renders a look.
pub(super) fn run(arguments: &RenderArguments) -> Result<ExitCode, Failure> {
    let RenderArguments { show: path, look, seconds, out, kind, audio } = arguments;
    if !(*seconds > 0.0 && *seconds <= LONGEST) {
        return Err(format!("--seconds has to be above 0 and at most {LONGEST}").into());
    }
    let kind = Kind::of(out, *kind)?;
    let show = if path.as_os_str() == "demo" { file::read(files::LANTERN_QUAY)?.show } else { standard::opened(path)? };
    let index = found(&show, look)?;
    let standard = standard::is_meant(out);
    if standard {
        standard::not_a_terminal()?;
    }
    let own = out.parent().filter(|f| !f.as_os_str().is_empty()).map_or_else(|| PathBuf::from("."), Path::to_owned);
    let folder = if standard { std::env::temp_dir() } else { own };
    let failed = |error: std::io::Error| format!("cannot write {}: {}", out.display(), Cause::of(out, &error));
    // Written beside its place and renamed when it is whole: a render that fails leaves what was there.
    let temporary = tempfile::NamedTempFile::new_in(folder).map_err(failed)?;
    let mut file = BufWriter::new(temporary.as_file().try_clone()?);
    let mut studio = Studio::new(show, index, audio, &Library::folder_of(Some(path)))?;
    let count = (seconds * studio.rate).round().max(1.0) as u64;
    let progress = Progress::begin(&format!("rendering {look}"))?;
    match kind {
        Kind::Frames => studio.frames(count, &progress, |frame, _| Ok(file.write_all(&frame.slots)?))?,
        Kind::Png => studio.png(count, &progress, &mut file)?,
        Kind::Gif => studio.gif(count, &progress, &mut file)?,
    }
    file.flush().map_err(failed)?;
    drop(file);
    let took = progress.end();
    if standard {
        let mut whole = temporary.as_file();
        whole.rewind()?;
        standard::copy(whole)?;
    } else {
        set_usual_permissions(temporary.as_file())?;
        temporary.persist(out).map_err(|e| failed(e.error))?;
    }
    let ratio = seconds / took.max(1e-6);
    say_aside!(
        "{count} frames of {look} in {}: {seconds} s in {took:.1} s, {ratio:.1} times as fast as it plays",
        out.display()
    );
    Ok(ExitCode::SUCCESS)
}

fn found(show: &Show, look: &str) -> Result<usize, Failure> {
    if let Some((index, _)) = show.look(look) {
        return Ok(index);
    }
    let known: Vec<_> = show.looks.iter().map(|l| l.name.as_str()).collect();
    let meant = nearest::meant(look, known.iter().copied());
    Err(format!("there is no look \"{look}\" in this show{meant}; it has: {}", known.join(", ")).into())
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
        progress: &Progress,
        mut take: impl FnMut(&Frame, u64) -> Result<(), Failure>,
    ) -> Result<(), Failure> {
        for number in 0..count {
            progress.at(number as f64 / count as f64)?;
            let time = number as f64 / self.rate;
            self.reels.go_to(time)?;
            let hearing = self.music.as_mut().map_or(Hearing::SILENCE, |music| music.hear_until(time));
            let frame = self.engine.tick(time, &Inputs { hearing, ..Inputs::default() });
            take(frame, number)?;
        }
        Ok(())
    }

    fn png(&mut self, count: u64, progress: &Progress, file: &mut impl Write) -> Result<(), Failure> {
        let places = Places::of(&self.show, self.engine.rig());
        let mut last = Vec::new();
        self.frames(count, progress, |frame, number| {
            if number + 1 == count {
                last = colours(frame);
            }
            Ok(())
        })?;
        let mut bytes = std::io::Cursor::new(Vec::new());
        places.picture(&last).write_to(&mut bytes, image::ImageFormat::Png)?;
        Ok(file.write_all(bytes.get_ref())?)
    }

    /// An animation. The engine goes from frame to frame; the pictures are made side by side, which is nearly all of the work.
    fn gif(&mut self, count: u64, progress: &Progress, file: &mut impl Write) -> Result<(), Failure> {
        let places = Places::of(&self.show, self.engine.rig());
        let (width, height) = places.size();
        let mut encoder = Encoder::new(file, width, height, &[])?;
        encoder.set_repeat(Repeat::Infinite)?;
        let rate = self.rate;
        // Of hundredths of a second, so that none is lost by rounding over the frames.
        let ends = |frame: u64| (frame as f64 / rate * 100.0).round() as u64;
        let mut waiting: Vec<(Vec<[u8; 3]>, u16)> = Vec::with_capacity(BATCH);
        let mut write = |waiting: &mut Vec<(Vec<[u8; 3]>, u16)>| -> Result<(), Failure> {
            let made = waiting.par_iter().map(|(colours, delay)| places.gif_frame(colours, *delay));
            for frame in made.collect::<Vec<_>>() {
                encoder.write_lzw_pre_encoded_frame(&frame)?;
            }
            waiting.clear();
            Ok(())
        };
        self.frames(count, progress, |frame, number| {
            if number % GIF_EVERY == 0 {
                let delay = ends(number + GIF_EVERY) - ends(number);
                waiting.push((colours(frame), delay as u16));
            }
            if waiting.len() == BATCH { write(&mut waiting) } else { Ok(()) }
        })?;
        write(&mut waiting)
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
