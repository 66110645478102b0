//! The state of the view: what is chosen, what is open, and where the camera is.

use std::sync::Arc;

use ratatui::layout::Rect;
use splimo_document::edit::{Bounds, Edit};
use splimo_document::patch::Occupancy;
use splimo_engine::Walked;
use splimo_light::rig::Rig;
use splimo_show::LightTest;
use splimo_show::Show;
use splimo_show::followed;

use super::action::Ask;
use super::camera::{Camera, Fit};
use super::canvas::{self, ColourBy, Dots};
use super::panel::RigPanel;
use super::{list, pointer};
use crate::model::EditedShow;

/// Values derived from the show, made anew only when that changes.
#[derive(Debug, Clone)]
pub(super) struct Derived {
    pub(super) show: Arc<Show>,
    pub(super) rig: Arc<Rig>,
    pub(super) occupancy: Occupancy,
    pub(super) bounds: Bounds,
}

impl Derived {
    pub(super) fn of(edited: &EditedShow) -> Self {
        let (show, rig) = (&edited.show, edited.rig.clone());
        let canvas = Bounds { left: 0.0, top: 0.0, right: show.canvas.width, bottom: show.canvas.height };
        let bounds = canvas::bounds_of(&rig, 0..rig.len()).unwrap_or(canvas);
        Self { occupancy: Occupancy::of(show), rig, bounds, show: show.clone() }
    }
}

/// The state of the view.
pub(crate) struct RigView {
    pub(super) edited: EditedShow,
    pub(super) derived: Derived,
    /// The fixture that the arrows are at.
    pub(super) at: usize,
    /// The chosen fixtures, in the order in which they were chosen.
    pub(super) chosen: Vec<usize>,
    /// The row where choosing with Shift began.
    pub(super) anchor: usize,
    /// Fixtures that are chosen as soon as they are there.
    pub(super) coming: std::ops::Range<usize>,
    pub(super) panel: Option<RigPanel>,
    pub(super) colour_by: ColourBy,
    pub(super) camera: Camera,
    pub(super) dots: Dots,
    pub(super) pointer: pointer::Pointer,
    pub(super) walked: Option<Walked>,
    /// The first universe of the strips; none for those of the chosen.
    pub(super) strip: Option<u32>,
    pub(super) list: list::List,
    pub(super) left: Rect,
    pub(super) said: Option<String>,
    /// The folder of the show's file; empty where it has none.
    pub(super) folder: String,
}

impl Default for RigView {
    fn default() -> Self {
        let show = Arc::new(Show::empty(""));
        let edited = EditedShow { show: show.clone(), kept: show, rig: Arc::default(), problems: Arc::default() };
        Self {
            derived: Derived::of(&edited),
            edited,
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
            folder: String::new(),
            list: list::List::default(),
            left: Rect::ZERO,
            said: None,
        }
    }
}

impl RigView {
    /// Takes note of the show as it is now.
    pub(super) fn see(&mut self, edited: EditedShow) {
        let fixtures = edited.show.fixtures.len();
        if !Arc::ptr_eq(&self.edited.show, &edited.show) {
            self.follow(&edited.show);
        }
        self.edited = edited;
        if !self.coming.is_empty() && self.edited.kept.fixtures.len() >= self.coming.end {
            let coming = std::mem::take(&mut self.coming);
            (self.at, self.anchor, self.strip) = (coming.start, coming.start, None);
            self.chosen = coming.collect();
        }
        self.at = self.at.min(fixtures.saturating_sub(1));
        self.chosen.retain(|index| *index < fixtures);
    }

    /// Has the same fixtures be chosen in another show that were in the one before.
    pub(super) fn follow(&mut self, show: &Arc<Show>) {
        let [before, after] =
            [&self.edited.show, show].map(|show| show.fixtures.iter().map(|f| f.name.as_str()).collect::<Vec<_>>());
        let places = followed(&before, &after);
        let place = |index: usize| places.get(index).copied().flatten();
        self.chosen = self.chosen.iter().filter_map(|index| place(*index)).collect();
        self.at = place(self.at).unwrap_or(self.at);
        self.anchor = place(self.anchor).unwrap_or(self.at);
    }

    /// Ends whatever is open, as when another view is shown: what was tried goes, and so does what lies over the lights.
    pub(super) fn close(&mut self) -> Vec<Ask> {
        match self.panel.take() {
            Some(RigPanel::Test(_)) => vec![Ask::test(LightTest::Off)],
            Some(_) => vec![Ask::drop_tried()],
            None => Vec::new(),
        }
    }

    /// The fixtures that an edit is for: the chosen ones, else the one that the arrows are at.
    pub(super) fn meant(&self) -> Vec<usize> {
        match self.chosen.is_empty() {
            true if self.at < self.edited.show.fixtures.len() => vec![self.at],
            _ => self.chosen.clone(),
        }
    }

    pub(super) fn choose_one(&mut self, index: usize) {
        (self.at, self.anchor) = (index, index);
        self.chosen = vec![index];
        self.strip = None;
    }

    /// Chooses a fixture, or the fixtures of a group.
    pub(super) fn choose_named(&mut self, name: &str) {
        let fixtures = self.edited.kept.fixtures_of(&[name.to_owned()]);
        match fixtures.first() {
            None => self.said = Some(format!("there is no fixture and no group \"{name}\"")),
            Some(&first) => {
                (self.at, self.anchor, self.strip) = (first, first, None);
                self.chosen = fixtures;
            }
        }
    }

    pub(super) fn choose_by(&mut self, by: i32, more: bool) {
        let last = self.edited.show.fixtures.len() as i64 - 1;
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

    pub(super) fn of_meant(&mut self, edit: impl FnOnce(Vec<usize>) -> Edit) -> Vec<Ask> {
        let meant = self.meant();
        if meant.is_empty() {
            self.said = Some("there is no fixture yet: a adds some".to_owned());
            return Vec::new();
        }
        vec![Ask::edit(edit(meant))]
    }

    pub(super) fn next_fit(&self) -> Fit {
        match self.camera.fit {
            Fit::Lights if !self.chosen.is_empty() => Fit::Chosen,
            Fit::Lights | Fit::Chosen => Fit::Canvas,
            Fit::Canvas | Fit::Free => Fit::Lights,
        }
    }

    pub(super) fn first_strip(&self) -> u32 {
        let of = |index: &usize| self.edited.show.fixtures.get(*index)?.address.map(|a| a.universe);
        self.strip.or_else(|| self.added().chain(self.meant()).find_map(|index| of(&index))).unwrap_or(1)
    }

    pub(super) fn turn_strips(&mut self, by: i32) {
        let first = self.first_strip();
        let universes: Vec<u32> = self.derived.occupancy.universes().collect();
        let place = universes.partition_point(|universe| *universe < first) as i64;
        let next = (place + i64::from(by)).clamp(0, universes.len().saturating_sub(1) as i64);
        self.strip = universes.get(next as usize).copied();
    }

    /// The fixtures that are being added.
    pub(super) fn added(&self) -> std::ops::Range<usize> {
        match &self.panel {
            Some(RigPanel::Add(_)) => self.edited.kept.fixtures.len()..self.edited.show.fixtures.len(),
            _ => 0..0,
        }
    }
}
