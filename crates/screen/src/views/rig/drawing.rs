//! The drawing of the view.

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_document::edit::{Bounds, bounds};
use splimo_engine::Walked;
use splimo_light::rig::runs;
use splimo_show::Show;

use super::action::{Ask, RigAction};
use super::camera::Fit;
use super::canvas::{self, ColourBy, Mark};
use super::panel::RigPanel;
use super::state::{Derived, RigView};
use super::strips;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::view::Targets;

impl RigView {
    pub(super) fn draw_all(
        &mut self,
        light: &[[f32; 3]],
        walked: Option<Walked>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        targets: &mut Targets<RigAction>,
    ) {
        if !(Arc::ptr_eq(&self.derived.show, &self.edited.show) && Arc::ptr_eq(&self.derived.rig, &self.edited.rig)) {
            self.derived = Derived::of(&self.edited);
        }
        self.walked = walked;
        let bottom = match area.height {
            36.. => 8,
            26.. => 6,
            _ => 5,
        };
        let left = match area.width {
            140.. => 52,
            110.. => 46,
            76.. => 36,
            _ => 28,
        };
        let top = Rect { height: area.height.saturating_sub(bottom), ..area };
        self.left = Rect { x: area.x + 1, width: left - 2, ..top };
        let map =
            Rect { x: area.x + left, y: top.y + 1, width: area.width - left, height: top.height.saturating_sub(1) };
        self.draw_left(theme, buffer);
        self.headline(theme, Rect { y: top.y, height: 1, ..map }, buffer, targets);
        self.draw_map(light, theme, map, buffer);
        self.draw_bottom(theme, Rect { y: top.bottom(), height: bottom, ..area }, buffer);
    }

    fn draw_left(&mut self, theme: Theme, buffer: &mut Buffer) {
        let area = self.left;
        let inside = Rect { y: area.y + 1, height: area.height.saturating_sub(1), ..area };
        let mut pen = Pen::new(Rect { height: 1, ..area }, buffer);
        if let Some(panel) = &mut self.panel {
            pen.put(panel.title(), theme.bright());
            let inside = Rect { y: inside.y + 1, height: inside.height.saturating_sub(1), ..inside };
            panel.draw(&self.edited, &self.derived.rig, self.walked, theme, inside, buffer);
            return;
        }
        let count = self.edited.show.fixtures.len();
        pen.put(&format!("{count} fixture{}", if count == 1 { "" } else { "s" }), theme.dim());
        if self.chosen.len() > 1 {
            pen.put(&format!("   {} chosen", self.chosen.len()), theme.bright());
        }
        let tinted = self.colour_by == ColourBy::Fixture;
        self.list.draw(&self.edited.show, (self.at, &self.chosen), tinted, theme, inside, buffer);
    }

    fn headline(&self, theme: Theme, row: Rect, buffer: &mut Buffer, targets: &mut Targets<RigAction>) {
        let canvas = self.edited.show.canvas;
        let mut pen = Pen::new(row, buffer);
        let start = pen.put("canvas ", theme.dim());
        let size = pen.put(&format!("{} x {}", canvas.width, canvas.height), theme.text());
        targets.push((start.union(size), Ask::Action(RigAction::SizeCanvas)));
        pen.put("   coloured by ", theme.dim());
        let by = pen.put(self.colour_by.name(), theme.text());
        targets.push((by, Ask::Action(RigAction::ColourLights)));
        let zoom = match self.camera.fit {
            Fit::Lights if !self.added().is_empty() => "what is added".to_owned(),
            Fit::Lights => "all lights".to_owned(),
            Fit::Canvas => "the canvas".to_owned(),
            Fit::Chosen => "the chosen".to_owned(),
            Fit::Free => format!("zoom {:.0} %", self.camera.scale * 100.0),
        };
        let column = row.width.saturating_sub(zoom.chars().count() as u16 + 2);
        if column > pen.column() {
            let fit = pen.to(column).put(&zoom, theme.dim());
            targets.push((fit, Ask::Action(RigAction::Fit)));
        }
    }

    fn draw_map(&mut self, light: &[[f32; 3]], theme: Theme, area: Rect, buffer: &mut Buffer) {
        let show = self.edited.show.clone();
        let added = self.added();
        let canvas = Bounds { left: 0.0, top: 0.0, right: show.canvas.width, bottom: show.canvas.height };
        let chosen = || bounds(&show, &self.meant()).unwrap_or(self.derived.bounds);
        let seen = match self.camera.fit {
            _ if !added.is_empty() && self.camera.fit != Fit::Free => {
                bounds(&show, &added.clone().collect::<Vec<_>>()).unwrap_or(self.derived.bounds)
            }
            Fit::Canvas => canvas,
            Fit::Chosen => chosen(),
            _ => self.derived.bounds,
        };
        self.pointer.area = area;
        self.camera.look(area, seen);
        canvas::frame(&show, &self.camera, theme, area, buffer);
        if self.derived.rig.is_empty() {
            let words = "Nothing hangs here yet: a adds fixtures.";
            let row = Rect { y: area.y + area.height / 2, height: 1, ..area };
            Pen::new(row, buffer).to(area.width.saturating_sub(words.len() as u16) / 2).put(words, theme.text());
            return;
        }
        // What is tested is to be seen.
        let testing = matches!(self.panel, Some(RigPanel::Test(_)));
        let by = if testing { ColourBy::Live } else { self.colour_by };
        let rig = &self.derived.rig;
        let colours;
        // Between an edit and the engine's next frame the lights may not be the same yet.
        let painted = if by == ColourBy::Live && light.len() == rig.len() {
            (light, canvas::LIGHT)
        } else {
            colours = canvas::colours(by, &show, rig);
            (colours.as_slice(), canvas::COLOUR)
        };
        self.dots.draw(rig, painted, &self.camera, theme, area, buffer);
        if !testing {
            self.draw_marks(&show, added, theme, area, buffer);
        }
        self.pointer.draw_band(theme, buffer);
    }

    fn draw_marks(&self, show: &Show, added: std::ops::Range<usize>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        // More of them than this would be a tangle, and slow.
        const MOST: usize = 1000;
        // Up to this many, each has its name and the order of its pixels.
        const FEW: usize = 3;
        let adding = !added.is_empty();
        let marked: Vec<usize> = if adding { added.collect() } else { self.chosen.clone() };
        let (rig, camera) = (&self.derived.rig, &self.camera);
        if marked.len() > FEW
            && let Some(bounds) = bounds(show, &marked)
        {
            let words = if adding { "to be added" } else { "chosen" };
            canvas::bracket(bounds, &format!("{} {words}", marked.len()), camera, theme, area, buffer);
        }
        for (place, &index) in marked.iter().enumerate().take(MOST) {
            let Some((fixture, patched)) = show.fixtures.get(index).zip(rig.fixtures.get(index)) else { continue };
            let (columns, rows) = fixture.shape.lattice();
            let mark = Mark { leds: patched.leds(), run: runs(columns, rows, &fixture.wiring).1 as usize };
            if marked.len() > FEW {
                canvas::number(&mark, (place + 1, marked.len()), rig, camera, theme, area, buffer);
                continue;
            }
            if let Some(bounds) = canvas::bounds_of(rig, patched.leds()) {
                canvas::bracket(bounds, &fixture.name, camera, theme, area, buffer);
            }
            canvas::order(&mark, rig, camera, theme, area, buffer);
        }
    }

    fn draw_bottom(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        for column in area.left() + 1..area.right().saturating_sub(1) {
            buffer[(column, area.y)].set_symbol("─").set_style(theme.faint());
        }
        let strips = Rect { y: area.y + 1, height: area.height.saturating_sub(3), ..area };
        let chosen: Vec<usize> = match self.added() {
            added if added.is_empty() => self.meant(),
            added => added.collect(),
        };
        let first = (self.first_strip(), self.colour_by == ColourBy::Universe);
        strips::draw(&self.edited.show, &self.derived.occupancy, &chosen, first, theme, strips, buffer);
        let address = Rect { y: area.bottom() - 2, height: 1, ..area };
        if let Some(&fixture) = chosen.first() {
            strips::address_line(&self.edited.show, fixture, theme, address, buffer);
        }
        self.problem_line(theme, Rect { y: area.bottom() - 1, height: 1, ..area }, buffer);
    }

    fn problem_line(&self, theme: Theme, row: Rect, buffer: &mut Buffer) {
        let mut pen = Pen::new(row, buffer);
        let problems = &self.edited.problems;
        pen.to(1);
        match problems.first() {
            None => {
                pen.put("no problems", theme.dim());
            }
            Some(problem) => {
                let count =
                    if problems.len() == 1 { "1 problem".to_owned() } else { format!("{} problems", problems.len()) };
                let grave = problem.severity > splimo_show::Severity::Warning;
                pen.put(&format!("{count}  "), if grave { theme.filled() } else { theme.text() });
                pen.put(&format!("  {problem}"), if grave { theme.bright() } else { theme.dim() });
            }
        }
    }
}
