//! Beams: on the stage, lines that show where heads point, as seen from the audience. Straight down is the middle of pan and tilt;
//! a fixture that is turned on the canvas has its beam turned along.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_engine::HeadState;
use splimo_light::rig::Rig;
use splimo_show::Show;

use super::stage_map::{StageMap, shown};
use super::theme::{Depth, Theme};
use crate::model::ViewContext;

/// The first of the characters that hold two by four dots.
const BRAILLE: u32 = 0x2800;
/// The bit of each dot, by row and column.
const DOTS: [[u32; 2]; 4] = [[0x01, 0x08], [0x02, 0x10], [0x04, 0x20], [0x40, 0x80]];
/// The length of a beam that lies flat before the audience, as a share of the height of the canvas.
const REACH: f32 = 0.45;

/// The direction of a beam on the picture, across and down, 0..1 long: shorter where it comes towards the audience or leaves it.
fn direction(rig: &Rig, show: &Show, head: &HeadState) -> Option<(f32, f32)> {
    let compiled = &rig.heads[rig.head_of(head.fixture)?];
    let fixture = show.fixtures.get(head.fixture)?;
    let from_middle = |percent: f32, range: f64| ((percent - 50.0) / 100.0 * range as f32).to_radians();
    let (pan, tilt) = (from_middle(head.pan, compiled.ranges[0]), from_middle(head.tilt, compiled.ranges[1]));
    let (across, down) = (tilt.sin() * pan.sin(), tilt.cos());
    let across = if fixture.mirror { -across } else { across };
    let (sin, cos) = fixture.angle.to_radians().sin_cos();
    Some((across * cos - down * sin, across * sin + down * cos))
}

/// Draws the stage as it is, with where its heads point.
pub(crate) fn live_stage(map: &mut StageMap, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    map.draw(context.rig, context.show.canvas, context.light, area, theme, buffer);
    draw(map, (context.rig, context.show), &context.snapshot.heads, context.light, theme, buffer);
}

/// Draws the beams of heads over the stage that `map` has drawn, where it left room, in the colour of their light. A dark head has
/// a faint one.
pub(crate) fn draw(
    map: &StageMap,
    (rig, show): (&Rig, &Show),
    heads: &[HeadState],
    light: &[[f32; 3]],
    theme: Theme,
    buffer: &mut Buffer,
) {
    let area = map.area();
    for head in heads {
        let Some((across, down)) = direction(rig, show, head) else { continue };
        let Some(leds) = rig.fixtures.get(head.fixture).map(|patched| patched.leds()) else { continue };
        let Some((x, y)) = map.middle_of(leds.start) else { continue };
        let rgb = leds
            .clone()
            .filter_map(|led| light.get(led))
            .fold([0.0f32; 3], |sum, light| std::array::from_fn(|part| sum[part].max(light[part])));
        let lit = rgb.iter().any(|part| *part > 0.0);
        // Less bright than the lights themselves: the stage is to be read first.
        let colour = if lit { theme.colour(shown(rgb.map(|part| part * 0.6))) } else { theme.colour([74; 3]) };
        let reach = REACH * map.height();
        let steps = (reach * 2.0) as u32;
        for step in 0..=steps {
            let along = step as f32 / steps.max(1) as f32 * reach;
            dot(buffer, area, (x + across * along, y + down * along), theme, |cell| {
                cell.set_fg(colour);
            });
        }
    }
}

/// Sets a dot at a place in columns and half rows, if nothing else is drawn there.
fn dot(
    buffer: &mut Buffer,
    area: Rect,
    (x, y): (f32, f32),
    theme: Theme,
    paint: impl FnOnce(&mut ratatui::buffer::Cell),
) {
    if x < 0.0 || y < 0.0 || x >= f32::from(area.width) || y >= f32::from(area.height) * 2.0 {
        return;
    }
    let (column, row) = (x as u16, (y / 2.0) as u16);
    let Some(cell) = buffer.cell_mut((area.x + column, area.y + row)) else { return };
    let now = cell.symbol().chars().next().map_or(0, u32::from);
    let drawn = (BRAILLE..BRAILLE + 256).contains(&now);
    if !drawn && now != u32::from(' ') {
        return;
    }
    let (right, low) = (((x.fract()) * 2.0) as usize, ((y / 2.0).fract() * 4.0) as usize);
    let bits = if drawn { now - BRAILLE } else { 0 } | DOTS[low.min(3)][right.min(1)];
    let symbol = if theme.depth == Depth::None { '.' } else { char::from_u32(BRAILLE + bits).unwrap_or('.') };
    cell.set_char(symbol);
    paint(cell);
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Canvas, Fixture, Shape};
    use std::sync::Arc;

    fn drawn(pan: f32, tilt: f32, angle: f32) -> Vec<(u16, u16)> {
        let mut show = Show::empty("Head");
        let head = Fixture::new("Gull", "moving head", Shape::Line { cells: 1 }).at(20.0, 10.0);
        show.fixtures = vec![Fixture { angle, ..head }];
        let rig = Arc::new(Rig::compile(&show));
        let area = Rect::new(0, 0, 40, 10);
        let (mut buffer, mut map) = (Buffer::empty(area), StageMap::default());
        let theme = Theme::of(Depth::True);
        map.draw(&rig, Canvas { width: 40.0, height: 20.0 }, &[], area, theme, &mut buffer);
        let heads = [HeadState { fixture: 0, pan, tilt, goes_to: [pan, tilt], live: false }];
        draw(&map, (&rig, &show), &heads, &[], theme, &mut buffer);
        let is_beam = |x: u16, y: u16| buffer[(x, y)].symbol().chars().any(|c| u32::from(c) > BRAILLE);
        (0..10).flat_map(|y| (0..40).map(move |x| (x, y))).filter(|(x, y)| is_beam(*x, *y)).collect()
    }

    #[test]
    fn a_beam_points_down_in_the_middle_and_sideways_where_it_is_turned() {
        let down = drawn(50.0, 50.0, 0.0);
        assert!(down.len() > 2 && down.iter().all(|(x, y)| (19..=20).contains(x) && *y >= 5), "{down:?}");
        // A quarter turn of pan and of tilt: 540 and 270 degrees.
        let right = drawn(50.0 + 90.0 / 5.4, 50.0 + 90.0 / 2.7, 0.0);
        assert!(right.len() > 2 && right.iter().all(|(x, y)| *x >= 19 && (4..=5).contains(y)), "{right:?}");
        let up = drawn(50.0, 50.0, 180.0);
        assert!(up.len() > 2 && up.iter().all(|(x, y)| (19..=20).contains(x) && *y <= 5), "{up:?}");
        assert!(drawn(50.0, 50.0 + 90.0 / 2.7, 0.0).len() <= 1, "straight at the audience");
    }
}
