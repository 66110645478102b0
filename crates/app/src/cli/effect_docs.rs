//! The documentation of the effects, written out of their declarations, with a contact sheet of all of them on the demo's rig.

use std::fmt::Write as _;
use std::fs;
use std::path::Path;
use std::sync::Arc;

use image::{Rgb, RgbImage};
use splimo_base::colour::to_screen;
use splimo_base::formula::{FUNCTIONS, NAMES};
use splimo_document::file;
use splimo_document::making;
use splimo_engine::miniature::Preview;
use splimo_light::effect::{EFFECTS, EffectSpec, Holds, Moment, ParamKind, find};
use splimo_light::lettering::Lettering;
use splimo_light::media::{Film, Media, Picture, Screening};
use splimo_light::rig::Rig;
use splimo_light::still;
use splimo_show::{CountEvent, Layer, Look, ModulatorKind, Param, Show};
use splimo_time::rate::Step;

use super::Failure;
use super::music::Music;
use splimo_runtime::files;

/// The size of an effect on the contact sheet, and how many stand side by side.
const CELL: (u32, u32) = (300, 176);
const COLUMNS: u32 = 4;
/// Seconds of music that go by before an effect is drawn, and the frames of them.
const SECONDS: f64 = 6.0;
const RATE: f64 = 30.0;

/// Writes `effects.md` and `effects.png` into a folder.
pub(super) fn write(folder: &Path) -> Result<(), Failure> {
    fs::create_dir_all(folder)?;
    fs::write(folder.join("effects.md"), text())?;
    sheet()?.save(folder.join("effects.png"))?;
    say_aside!("{} effects in {}", EFFECTS.len(), folder.join("effects.md").display());
    Ok(())
}

fn text() -> String {
    let mut out = String::from(
        "# Effects\n\nWritten by `splimo effects --docs docs`; do not edit.\n\n![Every effect](effects.png)\n",
    );
    for spec in EFFECTS {
        let _ = write!(out, "\n## {}\n\n*{}.* {}.\n", spec.name, spec.family, spec.help);
        if !spec.params.is_empty() {
            out.push_str("\n| parameter | values, default | what it does |\n|---|---|---|\n");
        }
        for param in spec.params {
            let values = range(param.kind).replace('|', "\\|");
            let _ = writeln!(out, "| {} | {values} | {} |", param.name, param.help);
        }
    }
    out.push_str(
        "\n# Modulators\n\nA modulator moves a number, the opacity, or the hue, brightness or position of colours: the value is \
         what the layer says, plus the offset, plus the depth times what the source gives.\n\nSources: ",
    );
    out.push_str(&ModulatorKind::ALL.iter().map(|s| s.name()).collect::<Vec<_>>().join(", "));
    out.push_str(". A counter is moved by: ");
    out.push_str(&CountEvent::ALL.iter().map(|e| e.name()).collect::<Vec<_>>().join(", "));
    out.push_str(
        ".\n\n# Formulas\n\nNumbers, `+ - * / % ^`, `< <= > >= == !=`, `and or not`, parentheses; angles are in turns.\n\n\
         | name | what it is |\n|---|---|\n",
    );
    for (name, help) in NAMES {
        let _ = writeln!(out, "| {name} | {help} |");
    }
    for function in FUNCTIONS {
        let arguments = ["", "x", "x, y", "x, y, z"][function.arguments.min(3)];
        let _ = writeln!(out, "| {}({arguments}) | {} |", function.name, function.help);
    }
    out
}

/// The name of the painted sunset.
const SUNSET: &str = "sunset";

/// A sun over water.
fn sunset() -> Result<Media, Failure> {
    let (width, height) = (96, 48);
    let pixel = |i: usize| {
        let (x, y) = ((i % width) as f32 / width as f32 - 0.5, (i / width) as f32 / height as f32);
        let (dx, dy) = (x * 2.0, y - 0.55);
        let glow = (1.0 - (dx * dx + dy * dy).sqrt() * 1.6).clamp(0.0, 1.0);
        let sun = if dx * dx + dy * dy < 0.05 && y < 0.6 { 1.0 } else { 0.0 };
        let water = if y >= 0.6 {
            0.55 + 0.45 * f32::from(u8::from(((y * 60.0) as u32).is_multiple_of(3))) * glow
        } else {
            1.0
        };
        let light = [0.25 + 0.75 * glow + sun, 0.05 + 0.45 * glow * glow + 0.8 * sun, 0.25 * (1.0 - glow) + 0.35 * sun];
        let [r, g, b] = light.map(|c| ((c * water).clamp(0.0, 1.0) * 255.0) as u8);
        [r, g, b, 255]
    };
    let picture = || Picture::new(width, height, vec![((0..width * height).map(pixel).collect(), 0.0)]);
    let mut media = Media::default();
    media.pictures.insert(SUNSET.to_owned(), Arc::new(picture()?));
    Ok(media)
}

fn sheet() -> Result<RgbImage, Failure> {
    let show = file::read(files::LANTERN_QUAY)?.show;
    let mut rig = Rig::compile(&show);
    let media = sunset()?;
    let film = Arc::new(Film::default());
    let mut screening = Screening::of(film.clone());
    if let Some(picture) = media.pictures.get(SUNSET) {
        screening.show(Picture::clone(picture));
    }
    let films = Media { films: [(SUNSET.to_owned(), film)].into(), ..Media::default() };
    let (media, films) = (Arc::new(media), Arc::new(films));
    // What turns heads gives no light.
    let effects = || EFFECTS.iter().filter(|spec| !spec.turns_heads());
    let rows = (effects().count() as u32).div_ceil(COLUMNS);
    let mut sheet = RgbImage::from_pixel(COLUMNS * CELL.0, rows * CELL.1, Rgb([12, 14, 18]));
    for (index, spec) in effects().enumerate() {
        let at = (index as u32 % COLUMNS * CELL.0, index as u32 / COLUMNS * CELL.1);
        rig.media = if spec.name == "video" { films.clone() } else { media.clone() };
        let light = seen(spec, &show, &rig)?;
        draw(&light, &show, &rig, at, &mut sheet);
        label(spec.name, at, &mut sheet);
    }
    Ok(sheet)
}

/// The light of an effect on all of the rig, as it is by itself.
fn seen(spec: &'static EffectSpec, show: &Show, rig: &Rig) -> Result<Vec<[f32; 3]>, Failure> {
    let mut layer = Layer::new(spec.name);
    // What needs a file gets a painted sunset, and what holds lights those of a rainbow.
    match spec.name {
        "picture" | "video" => {
            layer.params.insert("file".to_owned(), Param::Text(SUNSET.to_owned()));
            layer.params.insert("fit".to_owned(), Param::Text("fill".to_owned()));
        }
        "still" => layer.lights = still::hold(&seen(find("rainbow").unwrap_or(spec), show, rig)?, show, rig),
        // Half way from one look to the next.
        "looks" => {
            layer = making::in_turn(&["Undercurrent", "Bonfire"]);
            layer.phase = 0.5;
        }
        "strobe" => drop(layer.params.insert("duty".to_owned(), Param::Number(99.0))),
        _ => {}
    }
    let look = Look::new("Sheet", vec![layer]);
    let mut preview = Preview::new(&look, show, rig);
    let mut music = Music::open("set")?;
    let step = Step { seconds: 1.0 / RATE, beats: 124.0 / 60.0 / RATE };
    for frame in 0..(SECONDS * RATE) as u32 {
        let time = f64::from(frame) / RATE;
        let hearing = music.as_mut().map(|music| music.hear_until(time)).unwrap_or_default();
        preview.draw(&Moment::at(time, time * 124.0 / 60.0, step, &hearing));
    }
    Ok(preview.light().to_vec())
}

fn draw(light: &[[f32; 3]], show: &Show, rig: &Rig, (left, top): (u32, u32), sheet: &mut RgbImage) {
    let scale = ((CELL.0 - 16) as f32 / show.canvas.width).min((CELL.1 - 32) as f32 / show.canvas.height);
    let dot = (scale * 0.9).max(1.0) as u32;
    for (led, light) in light.iter().enumerate() {
        let (x, y) = rig.position(led);
        let (x, y) = (left + 8 + (x * scale) as u32, top + 22 + (y * scale) as u32);
        let colour = Rgb(to_screen(*light).map(|c| c.max(22)));
        for (dx, dy) in (0..dot).flat_map(|dy| (0..dot).map(move |dx| (dx, dy))) {
            if x + dx < sheet.width() && y + dy < sheet.height() {
                sheet.put_pixel(x + dx, y + dy, colour);
            }
        }
    }
}

fn label(words: &str, (left, top): (u32, u32), sheet: &mut RgbImage) {
    let lettering = Lettering::built_in(0, words, 100.0, false);
    for (index, character) in words.chars().enumerate() {
        let place = lettering.place(character);
        for (x, y) in (0..8u32).flat_map(|y| (0..8u32).map(move |x| (x, y))) {
            let cover = lettering.cover(place, x as f32 + 0.5, y as f32 + 0.5);
            if cover > 0.5 {
                sheet.put_pixel(left + 8 + index as u32 * 8 + x, top + 8 + y, Rgb([158, 162, 170]));
            }
        }
    }
}

/// The values that a parameter may have, in words.
pub(super) fn range(kind: ParamKind) -> String {
    match kind {
        ParamKind::Number { min, max, default, unit } => format!("{min} to {max} {unit}, {default}"),
        ParamKind::Rate { default } => format!("rate, {default}"),
        ParamKind::Colours { default } => format!("colours, {}", default.join(" ")),
        ParamKind::Choice { options } => options.join(" | "),
        ParamKind::Text { default } => format!("text, \"{default}\""),
        ParamKind::Looks => "names of looks".to_owned(),
        ParamKind::Times => "times, one for each look".to_owned(),
        ParamKind::Aim => "the name of an aim".to_owned(),
        ParamKind::File { holds: Holds::Picture } => "a PNG, JPEG or GIF file".to_owned(),
        ParamKind::File { holds: Holds::Film } => "a YUV4MPEG2 file, pipe, or -".to_owned(),
        ParamKind::File { holds: Holds::Font } => "a TTF or OTF file".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_documentation_in_the_repository_is_of_these_effects() {
        let kept = include_str!("../../../../docs/effects.md");
        assert!(kept == text(), "docs/effects.md is old: splimo effects --docs docs writes it anew");
    }
}
