//! The view Rig: what hangs there, how it is wired, where it lies, and which channels it has.

mod adding;
mod arranging;
mod camera;
mod canvas;
mod changing;
mod fields;
mod groups;
mod importing;
mod list;
mod panel;
mod patching;
mod pointer;
mod profiles;
mod proving;
mod strips;

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_core::action::Action;
use splimo_core::check::Problem;
use splimo_core::edit::{Bounds, Edit, bounds};
use splimo_core::engine::{LightTest, Walked};
use splimo_core::patch::Occupancy;
use splimo_core::rig::{Rig, runs};
use splimo_core::show::Show;

use self::camera::{Camera, Fit};
use self::canvas::{ColourBy, Dots, Mark};
use self::panel::Panel;
use crate::kit::pen::Pen;
use crate::kit::selection::followed;
use crate::kit::theme::Theme;

/// The show as it is edited.
#[derive(Debug, Clone)]
pub(super) struct Desk {
    /// With an edit that is tried.
    pub(super) show: Arc<Show>,
    /// Without it.
    pub(super) kept: Arc<Show>,
    /// What is wrong with it.
    pub(super) problems: Arc<Vec<Problem>>,
}

/// What follows from the show, and is made anew only when that changes.
#[derive(Debug, Clone)]
struct Derived {
    show: Arc<Show>,
    rig: Rig,
    occupancy: Occupancy,
    bounds: Bounds,
}

impl Derived {
    fn of(show: &Arc<Show>) -> Self {
        let rig = Rig::compile(show);
        let canvas = Bounds { left: 0.0, top: 0.0, right: show.canvas.width, bottom: show.canvas.height };
        let bounds = canvas::bounds_of(&rig, 0..rig.len()).unwrap_or(canvas);
        Self { occupancy: Occupancy::of(show), rig, bounds, show: show.clone() }
    }
}

/// The state of the view.
pub(super) struct RigView {
    desk: Desk,
    derived: Derived,
    /// The fixture that the arrows are at.
    at: usize,
    /// The chosen fixtures, in the order in which they were chosen.
    chosen: Vec<usize>,
    /// Where choosing with Shift began.
    anchor: usize,
    /// Fixtures that are chosen as soon as they are there.
    coming: std::ops::Range<usize>,
    panel: Option<Panel>,
    colour_by: ColourBy,
    camera: Camera,
    dots: Dots,
    pointer: pointer::Pointer,
    walked: Option<Walked>,
    /// The first universe of the strips; none for those of the chosen.
    strip: Option<u32>,
    list: list::List,
    left: Rect,
    said: Option<String>,
}

impl RigView {
    pub(super) fn new(show: &Arc<Show>) -> Self {
        Self {
            desk: Desk { show: show.clone(), kept: show.clone(), problems: Arc::default() },
            derived: Derived::of(show),
            at: 0,
            chosen: Vec::new(),
            anchor: 0,
            coming: 0..0,
            panel: None,
            colour_by: ColourBy::default(),
            camera: Camera::default(),
            dots: Dots::default(),
            pointer: pointer::Pointer::default(),
            walked: None,
            strip: None,
            list: list::List::default(),
            left: Rect::ZERO,
            said: None,
        }
    }

    /// Takes note of the show as it is now.
    pub(super) fn see(&mut self, desk: Desk) {
        let fixtures = desk.show.fixtures.len();
        if !Arc::ptr_eq(&self.desk.show, &desk.show) {
            self.follow(&desk.show);
        }
        self.desk = desk;
        if !self.coming.is_empty() && self.desk.kept.fixtures.len() >= self.coming.end {
            let coming = std::mem::take(&mut self.coming);
            (self.at, self.anchor, self.strip) = (coming.start, coming.start, None);
            self.chosen = coming.collect();
        }
        self.at = self.at.min(fixtures.saturating_sub(1));
        self.chosen.retain(|index| *index < fixtures);
    }

    /// Has the same fixtures be chosen in another show that were in the one before.
    fn follow(&mut self, show: &Arc<Show>) {
        let [before, after] =
            [&self.desk.show, show].map(|show| show.fixtures.iter().map(|f| f.name.as_str()).collect::<Vec<_>>());
        let places = followed(&before, &after);
        let place = |index: usize| places.get(index).copied().flatten();
        self.chosen = self.chosen.iter().filter_map(|index| place(*index)).collect();
        self.at = place(self.at).unwrap_or(self.at);
        self.anchor = place(self.anchor).unwrap_or(self.at);
    }

    /// What there is to say since the last time.
    pub(super) fn said(&mut self) -> Option<String> {
        self.said.take()
    }

    /// Why the document would not have the last edit.
    pub(super) fn refused(&mut self, why: &str) {
        if let Some(panel) = &mut self.panel {
            panel.refused(why);
        }
    }

    /// Whether a panel is open, which has the keys first.
    pub(super) fn has_open(&self) -> bool {
        self.panel.is_some()
    }

    /// The keys that work in what is open.
    pub(super) fn hints(&self) -> Option<Vec<(&'static str, &'static str)>> {
        self.panel.as_ref().map(Panel::hints)
    }

    /// Ends whatever is open, as when another view is shown: what was tried goes, and so does what lies over the lights.
    pub(super) fn leave(&mut self) -> Vec<Action> {
        match self.panel.take() {
            Some(Panel::LightTest(_)) => vec![Action::Prove(LightTest::Off)],
            Some(_) => vec![Action::DropTried],
            None => Vec::new(),
        }
    }

    /// Ends what was begun on a show that is about to be another, as by undoing.
    pub(super) fn leave_editing(&mut self) -> Vec<Action> {
        if matches!(self.panel, Some(Panel::LightTest(_))) { Vec::new() } else { self.leave() }
    }

    /// What an edit is for: the chosen fixtures, else the one that the arrows are at.
    fn meant(&self) -> Vec<usize> {
        match self.chosen.is_empty() {
            true if self.at < self.desk.show.fixtures.len() => vec![self.at],
            _ => self.chosen.clone(),
        }
    }

    fn choose_one(&mut self, index: usize) {
        (self.at, self.anchor) = (index, index);
        self.chosen = vec![index];
        self.strip = None;
    }

    fn choose_by(&mut self, by: i32, more: bool) {
        let last = self.desk.show.fixtures.len() as i64 - 1;
        if last < 0 {
            return;
        }
        let at = if self.chosen.is_empty() && !more { self.at as i64 } else { self.at as i64 + i64::from(by) };
        let at = at.clamp(0, last) as usize;
        if more {
            self.at = at;
            let run = self.anchor.min(at)..=self.anchor.max(at);
            self.chosen = if at < self.anchor { run.rev().collect() } else { run.collect() };
            self.strip = None;
        } else {
            self.choose_one(at);
        }
    }

    /// Carries out an action that is the view's; what follows from it for others.
    pub(super) fn act(&mut self, action: &Action) -> Vec<Action> {
        let show = self.desk.kept.clone();
        match action {
            Action::ChooseFixture(by) => self.choose_by(*by, false),
            Action::ChooseMore(by) => self.choose_by(*by, true),
            Action::ChooseAll => self.chosen = (0..show.fixtures.len()).collect(),
            Action::ChooseNone => self.chosen.clear(),
            Action::ColourLights => {
                self.colour_by = self.colour_by.next();
                self.said = Some(format!("coloured by {}", self.colour_by.name()));
            }
            Action::Zoom(by) => self.camera.zoom(*by, None),
            Action::PanAcross(by) => self.camera.pan(*by, 0),
            Action::PanDown(by) => self.camera.pan(0, *by),
            Action::Fit => self.camera.fit = self.next_fit(),
            Action::NextUniverse(by) => self.turn_strips(*by),
            Action::Remove => return self.of_meant(Edit::Remove),
            Action::Duplicate => {
                let fixtures = show.fixtures.len();
                let copies = self.meant().len();
                let actions = self.of_meant(Edit::Duplicate);
                self.coming = fixtures..fixtures + copies;
                return actions;
            }
            other => return self.open(other),
        }
        Vec::new()
    }

    fn of_meant(&mut self, edit: impl FnOnce(Vec<usize>) -> Edit) -> Vec<Action> {
        let meant = self.meant();
        if meant.is_empty() {
            self.said = Some("there is no fixture yet: a adds some".to_owned());
            return Vec::new();
        }
        vec![Action::Edit(edit(meant))]
    }

    fn next_fit(&self) -> Fit {
        match self.camera.fit {
            Fit::Lights if !self.chosen.is_empty() => Fit::Chosen,
            Fit::Lights | Fit::Chosen => Fit::Canvas,
            Fit::Canvas | Fit::Free => Fit::Lights,
        }
    }

    fn first_strip(&self) -> u32 {
        let of = |index: &usize| self.desk.show.fixtures.get(*index)?.address.map(|a| a.universe);
        self.strip.or_else(|| self.added().chain(self.meant()).find_map(|index| of(&index))).unwrap_or(1)
    }

    fn turn_strips(&mut self, by: i32) {
        let first = self.first_strip();
        let universes: Vec<u32> = self.derived.occupancy.universes().collect();
        let place = universes.partition_point(|universe| *universe < first) as i64;
        let next = (place + i64::from(by)).clamp(0, universes.len().saturating_sub(1) as i64);
        self.strip = universes.get(next as usize).copied();
    }

    /// The fixtures that are being added.
    fn added(&self) -> std::ops::Range<usize> {
        match &self.panel {
            Some(Panel::Add(_)) => self.desk.kept.fixtures.len()..self.desk.show.fixtures.len(),
            _ => 0..0,
        }
    }

    pub(super) fn draw(
        &mut self,
        light: &[[f32; 3]],
        walked: Option<Walked>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        targets: &mut Vec<(Rect, Action)>,
    ) {
        if !Arc::ptr_eq(&self.derived.show, &self.desk.show) {
            self.derived = Derived::of(&self.desk.show);
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
            panel.draw(&self.desk, &self.derived.rig, self.walked, theme, inside, buffer);
            return;
        }
        let count = self.desk.show.fixtures.len();
        pen.put(&format!("{count} fixtures"), theme.dim());
        if self.chosen.len() > 1 {
            pen.put(&format!("   {} chosen", self.chosen.len()), theme.bright());
        }
        let tinted = self.colour_by == ColourBy::Fixture;
        self.list.draw(&self.desk.show, (self.at, &self.chosen), tinted, theme, inside, buffer);
    }

    fn headline(&self, theme: Theme, row: Rect, buffer: &mut Buffer, targets: &mut Vec<(Rect, Action)>) {
        let canvas = self.desk.show.canvas;
        let mut pen = Pen::new(row, buffer);
        let start = pen.put("canvas ", theme.dim());
        let size = pen.put(&format!("{} x {}", canvas.width, canvas.height), theme.text());
        targets.push((start.union(size), Action::SizeCanvas));
        pen.put("   coloured by ", theme.dim());
        let by = pen.put(self.colour_by.name(), theme.text());
        targets.push((by, Action::ColourLights));
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
            targets.push((fit, Action::Fit));
        }
    }

    fn draw_map(&mut self, light: &[[f32; 3]], theme: Theme, area: Rect, buffer: &mut Buffer) {
        let show = self.desk.show.clone();
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
        // What is proved is to be seen.
        let proving = matches!(self.panel, Some(Panel::LightTest(_)));
        let by = if proving { ColourBy::Live } else { self.colour_by };
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
        if !proving {
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
        strips::draw(&self.desk.show, &self.derived.occupancy, &chosen, first, theme, strips, buffer);
        let address = Rect { y: area.bottom() - 2, height: 1, ..area };
        if let Some(&fixture) = chosen.first() {
            strips::address_line(&self.desk.show, fixture, theme, address, buffer);
        }
        self.problem_line(theme, Rect { y: area.bottom() - 1, height: 1, ..area }, buffer);
    }

    fn problem_line(&self, theme: Theme, row: Rect, buffer: &mut Buffer) {
        let mut pen = Pen::new(row, buffer);
        let problems = &self.desk.problems;
        pen.to(1);
        match problems.first() {
            None => {
                pen.put("no problems", theme.dim());
            }
            Some(problem) => {
                let count =
                    if problems.len() == 1 { "1 problem".to_owned() } else { format!("{} problems", problems.len()) };
                let grave = problem.severity > splimo_core::check::Severity::Warning;
                pen.put(&format!("{count}  "), if grave { theme.filled() } else { theme.text() });
                pen.put(&format!("  {problem}"), if grave { theme.bright() } else { theme.dim() });
            }
        }
    }
}
