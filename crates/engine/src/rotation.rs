//! The rotation: looks that take turns by themselves, on bars or where the part of the music changes.

use serde::{Deserialize, Serialize};

use splimo_base::maths::hash;
use splimo_show::{Rotation, Show};
use splimo_time::music::Section;

/// A rotation compiled for a show.
#[derive(Debug, Clone, PartialEq, Default)]
pub(super) struct RotationPlan {
    pub tier: usize,
    /// The bars after which the next look comes; none where it comes with another part of the music.
    pub bars: Option<u32>,
    pub fade: f32,
    pub seed: u32,
    /// The bars after which it takes its tier back from a hand.
    pub back_after: Option<u32>,
    /// The looks that are in it, by their places in the show, each with the parts that it fits: a bit each, none for all.
    looks: Vec<(usize, u8)>,
}

fn bit(section: Section) -> u8 {
    1 << section as u8
}

impl RotationPlan {
    pub(super) fn of(show: &Show) -> Self {
        let Rotation { tier, bars, fade, seed, back_after, .. } = &show.rotation;
        let within = show.looks.iter().enumerate().filter(|(_, look)| show.rotation.has(look, show));
        Self {
            tier: tier.as_deref().and_then(|tier| show.tier(tier)).unwrap_or(0),
            bars: Some(*bars).filter(|bars| *bars > 0),
            fade: *fade,
            seed: *seed,
            back_after: Some(*back_after).filter(|bars| *bars > 0),
            looks: within
                .map(|(place, look)| (place, look.fits.iter().map(|part| bit(*part)).fold(0, |a, b| a | b)))
                .collect(),
        }
    }

    /// The looks that fit a part of the music: those that say so, else those that say nothing, else all.
    fn fitting(&self, section: Section) -> impl Iterator<Item = usize> + Clone {
        let says = move |parts: u8| parts & bit(section) != 0;
        let [any_says, any_open] =
            [self.looks.iter().any(|(_, parts)| says(*parts)), self.looks.iter().any(|(_, parts)| *parts == 0)];
        let fits = move |parts: u8| match (any_says, any_open) {
            (true, _) => says(parts),
            (false, true) => parts == 0,
            (false, false) => true,
        };
        self.looks.iter().filter(move |(_, parts)| fits(*parts)).map(|(look, _)| *look)
    }
}

/// The state of the rotation for a screen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum RotationState {
    /// It is off.
    #[default]
    Off,
    /// It is on.
    On,
    /// It is on, and has given way to a hand.
    GaveWay,
}

/// The choice of a rotation.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Choice {
    pub look: usize,
    pub section: Section,
    /// The number of looks that fitted.
    pub of: u32,
}

/// The thing that a rotation asks for at a moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Turn {
    /// Nothing.
    None,
    /// A look, to land at a beat.
    Choose(Choice, f64),
    /// A look in place of the one that waits: another part of the music began before it landed.
    Rechoose(Choice, f64),
}

/// The rotation at a moment.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct RotationNow {
    on: bool,
    /// The beat at which it gave way to a hand.
    gave_way: Option<f64>,
    /// The beat at which the choice that waits lands, and the part for which it was made.
    next: Option<(f64, Section)>,
    /// The part of the music for which the look that is on was chosen.
    section: Option<Section>,
    last: Option<usize>,
    draws: u32,
}

impl RotationNow {
    pub(super) fn state(&self) -> RotationState {
        match (self.on, self.gave_way) {
            (false, _) => RotationState::Off,
            (true, None) => RotationState::On,
            (true, Some(_)) => RotationState::GaveWay,
        }
    }

    /// Switches it on or off. On, it takes its tier back if a hand has it.
    pub(super) fn switch(&mut self, on: bool) {
        *self = Self { on, gave_way: None, next: None, section: None, ..*self };
    }

    /// Gives way to a hand. Whether it had the tier.
    pub(super) fn give_way(&mut self, beat: f64) -> bool {
        let had = self.state() == RotationState::On;
        if had {
            (self.gave_way, self.next, self.section) = (Some(beat), None, None);
        }
        had
    }

    /// Moves the count of beats.
    pub(super) fn shift(&mut self, by: f64) {
        self.gave_way = self.gave_way.map(|beat| beat + by);
        // What waits was aimed anew; when that lands it chooses the next.
        self.next = None;
    }

    /// Finds the looks again in another list.
    pub(super) fn follow(&mut self, place: &[Option<usize>]) {
        self.last = self.last.and_then(|look| place.get(look).copied().flatten());
    }

    /// Forgets the choice that was to land, which waits no more.
    pub(super) fn forget_choice(&mut self) {
        self.next = None;
    }

    /// Takes its tier back where it is time. Whether it does.
    pub(super) fn take_back(&mut self, plan: &RotationPlan, beat: f64, bar: f64) -> bool {
        let (Some(since), Some(bars)) = (self.gave_way, plan.back_after) else { return false };
        let back = self.on && beat - since >= f64::from(bars) * bar;
        if back {
            self.gave_way = None;
        }
        back
    }

    /// Takes note that its look landed.
    pub(super) fn landed(&mut self) {
        self.section = self.next.take().map(|(_, section)| section).or(self.section);
    }

    /// Asks for the next look, as soon as it is known where that lands.
    pub(super) fn turn(&mut self, plan: &RotationPlan, beat: f64, bar: f64, section: Section) -> Turn {
        if self.state() != RotationState::On || plan.looks.is_empty() {
            return Turn::None;
        }
        let next_bar = ((beat / bar).floor() + 1.0) * bar;
        match (self.next, plan.bars) {
            // Another part began before what waits has landed.
            (Some((at, chosen_for)), _) if chosen_for != section && at > beat => {
                let choice = self.choose(plan, section);
                self.next = Some((at, section));
                Turn::Rechoose(choice, at)
            }
            (Some(_), _) => Turn::None,
            // At first, at once; then every so many bars, as they are counted.
            (None, Some(bars)) => {
                let every = f64::from(bars) * bar;
                let next = ((beat / every).floor() + 1.0) * every;
                let at = match self.section {
                    None => next_bar,
                    // The first stays for a while, wherever in the count it came.
                    Some(_) if next - beat < every / 2.0 => next + every,
                    Some(_) => next,
                };
                self.arm(plan, section, at)
            }
            (None, None) if self.section != Some(section) => self.arm(plan, section, next_bar),
            (None, None) => Turn::None,
        }
    }

    fn arm(&mut self, plan: &RotationPlan, section: Section, at: f64) -> Turn {
        self.next = Some((at, section));
        Turn::Choose(self.choose(plan, section), at)
    }

    /// Chooses a look that fits, never the last again where there is another.
    fn choose(&mut self, plan: &RotationPlan, section: Section) -> Choice {
        let fitting = plan.fitting(section);
        let of = fitting.clone().count() as u32;
        let others = fitting.clone().filter(|look| of == 1 || Some(*look) != self.last);
        let count = others.clone().count().max(1) as u32;
        self.draws = self.draws.wrapping_add(1);
        let drawn = hash(plan.seed ^ hash(self.draws)) % count;
        let look = others.clone().nth(drawn as usize).unwrap_or(0);
        self.last = Some(look);
        Choice { look, section, of }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::Look;

    fn plan(bars: u32) -> RotationPlan {
        let mut show = Show::empty("Turns");
        let fits = |name: &str, fits: &[Section]| Look { fits: fits.to_vec(), ..Look::new(name, Vec::new()) };
        show.looks = vec![
            fits("calm", &[Section::Intro, Section::Breakdown]),
            fits("loud", &[Section::Drop]),
            fits("louder", &[Section::Drop]),
            fits("any", &[]),
        ];
        show.rotation = Rotation { bars, ..Rotation::default() };
        RotationPlan::of(&show)
    }

    /// The choices over some bars of parts, with where each lands.
    fn choices(plan: &RotationPlan, parts: &[Section]) -> Vec<(usize, f64)> {
        let mut rotation = RotationNow::default();
        rotation.switch(true);
        let mut choices: Vec<(usize, f64)> = Vec::new();
        for (bar, section) in parts.iter().enumerate() {
            let beat = bar as f64 * 4.0;
            if choices.last().is_some_and(|(_, at)| *at == beat) {
                rotation.landed();
            }
            match rotation.turn(plan, beat + 0.5, 4.0, *section) {
                Turn::None => {}
                Turn::Choose(choice, at) => choices.push((choice.look, at)),
                Turn::Rechoose(choice, at) => {
                    choices.pop();
                    choices.push((choice.look, at));
                }
            }
        }
        choices
    }

    #[test]
    fn it_chooses_what_fits_never_the_same_twice_and_the_same_again_from_the_same_seed() {
        let parts = [Section::Drop; 64];
        let chosen = choices(&plan(4), &parts);
        assert_eq!(chosen, choices(&plan(4), &parts));
        assert_eq!(chosen.iter().map(|(_, at)| *at).take(4).collect::<Vec<_>>(), [4.0, 16.0, 32.0, 48.0]);
        assert!(chosen.iter().all(|(look, _)| [1, 2].contains(look)), "{chosen:?}");
        assert!(chosen.windows(2).all(|pair| pair[0].0 != pair[1].0));
        let alone = choices(&plan(4), &[Section::Breakdown; 24]);
        assert!(alone.iter().all(|(look, _)| *look == 0), "there is one that fits");
        assert!(
            choices(&plan(4), &[Section::Build; 24]).iter().all(|(look, _)| *look == 3),
            "none says so, one is open"
        );
    }

    #[test]
    fn with_the_part_of_the_music_it_changes_on_the_next_bar() {
        let mut parts = vec![Section::Breakdown; 6];
        parts.extend([Section::Drop; 6]);
        parts.extend([Section::Breakdown; 6]);
        let chosen = choices(&plan(0), &parts);
        assert_eq!(chosen.iter().map(|(_, at)| *at).collect::<Vec<_>>(), [4.0, 28.0, 52.0]);
        assert_eq!((chosen[0].0, chosen[2].0), (0, 0));
    }

    #[test]
    fn another_part_before_it_landed_makes_it_choose_again() {
        let mut parts = vec![Section::Breakdown; 4];
        parts.extend([Section::Drop; 10]);
        let chosen = choices(&plan(8), &parts);
        assert_eq!((chosen[0].0, chosen[1].1), (0, 32.0));
        assert!([1, 2].contains(&chosen[1].0), "{chosen:?}");
    }

    #[test]
    fn it_gives_way_to_a_hand_and_takes_back_after_some_bars() {
        let mut rotation = RotationNow::default();
        assert!(!rotation.give_way(0.0));
        rotation.switch(true);
        assert!(rotation.give_way(8.0));
        let patient = plan(8);
        assert_eq!((rotation.state(), rotation.take_back(&patient, 1000.0, 4.0)), (RotationState::GaveWay, false));
        assert_eq!(rotation.turn(&patient, 9.0, 4.0, Section::Drop), Turn::None);
        let plan = RotationPlan { back_after: Some(4), ..patient };
        assert!(!rotation.take_back(&plan, 23.9, 4.0) && rotation.take_back(&plan, 24.0, 4.0));
        assert!(matches!(rotation.turn(&plan, 24.5, 4.0, Section::Drop), Turn::Choose(_, 28.0)));
    }
}
