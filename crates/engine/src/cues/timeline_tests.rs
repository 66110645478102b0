//! Timelines on a clock that the tests turn.

use std::sync::Arc;

use proptest::prelude::*;

use crate::{Engine, Happening, Inputs, Lead, Prepared, Published, StageEvent, TimelineState};
use splimo_light::rig::Rig;
use splimo_show::command::Command;
use splimo_show::command::Origin;
use splimo_show::{Clip, Cue, CueList, CueTier, Follows, Look, Marks, Show, Tier, TimeUnit, Timeline};

const FPS: f64 = 50.0;

struct Desk {
    engine: Engine,
    frames: u32,
    published: Published,
    happened: Vec<Happening>,
}

fn clip(at: f32, length: f32, tier: &str, look: &str) -> Clip {
    Clip { at, length, tier: tier.to_owned(), look: Some(look.to_owned()), ..Clip::default() }
}

fn song(unit: TimeUnit, follows: Follows, clips: Vec<Clip>) -> Timeline {
    Timeline { name: "Song".into(), unit, length: 20.0, follows, clips, ..Timeline::default() }
}

fn clips() -> Vec<Clip> {
    let mut clips = vec![clip(1.0, 4.0, "base", "A"), clip(5.0, 5.0, "base", "B"), clip(3.0, 4.0, "top", "C")];
    clips[1].fade_in = 2.0;
    clips[2].fade_out = 1.0;
    clips.push(Clip { at: 6.0, does: vec!["master 40".into()], ..Clip::default() });
    clips
}

impl Desk {
    fn new(timeline: Timeline) -> Self {
        let mut show = Show::empty("Timeline");
        show.settings.cue_back_fade = 0.0;
        show.tiers = ["base", "top"].map(Tier::new).to_vec();
        show.looks = ["A", "B", "C", "D"].map(|name| Look::new(name, Vec::new())).to_vec();
        show.timelines = vec![timeline];
        Self::of(show)
    }

    fn of(show: Show) -> Self {
        let engine = Engine::new(Arc::new(show));
        let mut desk = Self { engine, frames: 0, published: Published::default(), happened: Vec::new() };
        desk.frame(None);
        desk
    }

    fn say(&mut self, text: &str) {
        let Ok(Command::Engine(command)) = text.parse::<Command>() else { panic!("{text} is for the engine") };
        self.engine.apply_from(&command, Origin::Screen(1), f64::from(self.frames) / FPS);
    }

    fn frame(&mut self, lead: Option<Lead>) {
        let inputs = Inputs { recording: lead, time_code: lead, ..Inputs::default() };
        self.engine.tick(f64::from(self.frames) / FPS, &inputs);
        self.frames += 1;
        self.happened.extend(self.engine.take_happenings());
        self.engine.publish(&mut self.published);
    }

    /// Has the engine play a changed show.
    fn edit(&mut self, show: Show) {
        let show = Arc::new(show);
        let rig = Arc::new(Rig::compile(&show));
        drop(self.engine.adopt(Box::new(Prepared::new(show, rig, 1))));
    }

    /// Another engine where one stands, a frame later.
    fn restored(show: Show, of: &Self) -> Self {
        let mut desk = Self::of(show);
        desk.engine.restore(&of.engine.state());
        desk.frames = of.frames;
        desk.frame(None);
        desk
    }

    fn seconds(&mut self, seconds: f64) {
        for _ in 0..(seconds * FPS).round() as u32 {
            self.frame(None);
        }
    }

    fn stage(&self) -> String {
        let tiers = &self.published.snapshot.tiers;
        tiers.iter().map(|tier| tier.look.map_or('-', |look| ['A', 'B', 'C', 'D'][look])).collect()
    }

    fn state(&self) -> TimelineState {
        self.published.snapshot.timelines[0]
    }

    fn weight(&self, look: usize) -> f32 {
        self.published.snapshot.stage.iter().filter(|on| on.look == look).map(|on| on.weight).sum()
    }

    fn given(&self) -> usize {
        self.happened.iter().filter(|one| matches!(one.event, StageEvent::ClipBegan { .. })).count()
    }
}

/// The stage that the clips ask for at a place.
fn wanted(at: f64, below: &str) -> String {
    let on = |from: f64, to: f64| at >= from && at < to;
    let base = if on(1.0, 5.0) {
        'A'
    } else if on(5.0, 10.0) {
        'B'
    } else {
        below.chars().next().unwrap_or('-')
    };
    let top = if on(3.0, 7.0) { 'C' } else { '-' };
    format!("{base}{top}")
}

#[test]
fn clips_come_and_go_at_their_places_with_their_fades_and_all_is_given_back() {
    let mut desk = Desk::new(song(TimeUnit::Seconds, Follows::Nobody, clips()));
    desk.say("cut-to base/D");
    desk.say("play-timeline Song");
    for _ in 0..950 {
        desk.frame(None);
        let at = desk.state().at;
        assert_eq!(desk.stage(), wanted(at, "D"), "at {at}");
        if (5.5..6.9).contains(&at) {
            assert!(
                (f64::from(desk.weight(1)) - (at - 5.0) / 2.0).abs() < 0.011,
                "B comes within two seconds, at {at}"
            );
        }
        if (7.2..7.9).contains(&at) {
            assert!((f64::from(desk.weight(2)) - (8.0 - at)).abs() < 0.021, "C goes within one, at {at}");
        }
    }
    assert_eq!(desk.given(), 1);
    desk.seconds(2.0);
    assert_eq!((desk.state(), desk.stage()), (TimelineState::default(), "D-".to_owned()), "it has ended");
}

#[test]
fn it_is_held_sought_looped_and_stopped() {
    let mut desk = Desk::new(Timeline { loops: true, ..song(TimeUnit::Seconds, Follows::Nobody, clips()) });
    desk.say("seek-timeline Song 4");
    desk.frame(None);
    assert_eq!((desk.stage(), desk.state().paused, desk.state().at), ("AC".to_owned(), true, 4.0));
    desk.say("seek-timeline Song 6");
    desk.frame(None);
    assert_eq!(desk.stage(), "BC");
    assert!((desk.weight(1) - 0.5).abs() < 0.02, "half of its fade is over: {}", desk.weight(1));
    assert_eq!(desk.given(), 1, "what begins there begins");
    desk.say("play-timeline Song");
    desk.seconds(1.0);
    assert!((desk.state().at - 7.0).abs() < 0.021);
    desk.say("hold-timeline Song");
    desk.seconds(3.0);
    assert!((desk.state().at - 7.0).abs() < 0.041);
    desk.say("hold-timeline Song");
    desk.seconds(15.5);
    assert!((desk.state().at - 2.5).abs() < 0.061, "it began again: {}", desk.state().at);
    assert_eq!((desk.stage(), desk.given()), ("A-".to_owned(), 1));
    desk.say("stop-timeline Song");
    desk.frame(None);
    assert_eq!((desk.stage(), desk.state().runs), ("--".to_owned(), false));
}

#[test]
fn bars_are_those_of_the_clock_over_changes_of_tempo() {
    let mut desk = Desk::new(song(TimeUnit::Bars, Follows::Nobody, clips()));
    desk.say("play-timeline Song");
    let mut at = 0.0;
    for tempo in [120, 60, 200] {
        desk.say(&format!("tempo {tempo}"));
        desk.seconds(3.0);
        at += 3.0 * f64::from(tempo) / 240.0;
        assert!((desk.state().at - at).abs() < 0.02, "{} for {at}", desk.state().at);
        assert_eq!(desk.stage(), wanted(desk.state().at, "-"));
    }
}

#[test]
fn where_its_leader_is_silent_it_goes_on_for_a_while_then_keeps_its_place_and_says_so() {
    for follows in [Follows::Recording, Follows::TimeCode] {
        let mut desk = Desk::new(song(TimeUnit::Seconds, follows, clips()));
        desk.say("play-timeline Song");
        for frame in 0..100 {
            desk.frame(Some(Lead { seconds: 2.0 + f64::from(frame) / FPS, runs: true }));
        }
        assert!((desk.state().at - 3.98).abs() < 1e-6);
        desk.seconds(3.0);
        assert!((desk.state().at - 6.98).abs() < 0.01 && !desk.state().waits, "{:?}", desk.state());
        desk.frame(Some(Lead { seconds: 7.0, runs: true }));
        assert_eq!((desk.state().at, desk.stage()), (7.0, "B-".to_owned()));
        desk.seconds(10.0);
        assert!(desk.state().waits && (desk.state().at - 11.0).abs() < 0.03, "{:?}", desk.state());
        desk.frame(Some(Lead { seconds: 1.5, runs: true }));
        assert_eq!((desk.stage(), desk.state().waits), ("A-".to_owned(), false));
    }
}

#[test]
fn another_engine_goes_on_where_one_stood() {
    let mut desk = Desk::new(song(TimeUnit::Seconds, Follows::Nobody, clips()));
    desk.say("cut-to base/D");
    desk.say("seek-timeline Song 4");
    desk.say("play-timeline Song");
    desk.seconds(2.0);
    let state = desk.engine.state();
    let mut next = Desk::new(song(TimeUnit::Seconds, Follows::Nobody, clips()));
    next.engine.restore(&state);
    next.frames = desk.frames;
    next.seconds(0.5);
    assert!((next.state().at - 6.5).abs() < 0.05, "{}", next.state().at);
    assert_eq!(next.stage(), "BC");
}

/// A show of two lists of two cues each, which a timeline has at 2 to 8 and at 5 to 9.
fn with_lists() -> Show {
    let mut show = Show::empty("Timeline");
    show.settings.cue_back_fade = 0.0;
    show.tiers = ["base", "top"].map(Tier::new).to_vec();
    show.looks = ["A", "B", "C", "D"].map(|name| Look::new(name, Vec::new())).to_vec();
    let cue = |number: u32, tier: &str, look: &str| Cue {
        tiers: vec![CueTier { tier: tier.into(), look: Some(look.into()), ..CueTier::default() }],
        then: "after 2".parse().expect("a good way"),
        ..Cue::new(number.to_string().parse().expect("a good number"), "")
    };
    let list = |name: &str, tier: &str, looks: [&str; 2]| CueList {
        cues: vec![cue(1, tier, looks[0]), cue(2, tier, looks[1])],
        ..CueList::new(name)
    };
    show.cue_lists = vec![list("One", "base", ["A", "B"]), list("Two", "top", ["C", "D"])];
    let clip = |at: f32, length: f32, list: &str| Clip { at, length, list: Some(list.into()), ..Clip::default() };
    show.timelines = vec![song(TimeUnit::Seconds, Follows::Nobody, vec![clip(2.0, 6.0, "One"), clip(5.0, 4.0, "Two")])];
    show
}

#[test]
fn lists_begin_with_their_clips_are_held_with_them_and_are_released_where_they_end() {
    let mut desk = Desk::of(with_lists());
    desk.say("play-timeline Song");
    let mut stages = Vec::new();
    for _ in 0..10 {
        desk.seconds(1.0);
        stages.push(desk.stage());
    }
    assert_eq!(stages, ["--", "A-", "A-", "B-", "BC", "BC", "BD", "-D", "--", "--"]);
    desk.say("seek-timeline Song 6");
    desk.seconds(1.0);
    assert_eq!(desk.stage(), "AC", "where it is put into a clip, its list begins");
    desk.say("hold-timeline Song");
    desk.seconds(5.0);
    assert_eq!(desk.stage(), "AC", "a list stands with its timeline");
    desk.say("hold-timeline Song");
    desk.seconds(0.5);
    desk.say("seek-timeline Song 0");
    desk.frame(None);
    assert_eq!(desk.stage(), "--");
    desk.say("seek-timeline Song 3");
    desk.seconds(0.5);
    desk.say("stop-timeline Song");
    desk.frame(None);
    assert_eq!(desk.stage(), "--");
}

#[test]
fn an_edit_leaves_lists_that_have_their_clip_still_and_gives_back_what_has_none() {
    let mut desk = Desk::of(with_lists());
    desk.say("play-timeline Song");
    desk.seconds(7.5);
    assert_eq!(desk.stage(), "BD");
    let mut show = with_lists();
    show.timelines[0].clips.truncate(1);
    show.timelines[0].clips[0].at = 1.0;
    show.timelines[0].clips[0].length = 8.0;
    show.cue_lists.swap(0, 1);
    desk.edit(show.clone());
    desk.seconds(0.1);
    assert_eq!(desk.stage(), "B-", "One goes on where it was, Two has no clip");
    let again = Desk::restored(show.clone(), &desk);
    assert_eq!(again.stage(), "B-", "another engine goes on so too");
    // A look whose clip is taken out goes.
    show.timelines[0].clips = vec![clip(0.0, 20.0, "top", "C")];
    desk.edit(show.clone());
    desk.seconds(0.1);
    assert_eq!(desk.stage(), "-C");
    show.timelines[0].clips.clear();
    desk.edit(show);
    desk.seconds(0.1);
    assert_eq!(desk.stage(), "--");
}

#[test]
fn bars_of_a_recording_are_those_that_were_heard_in_it() {
    // Bars of two seconds, from 0.5 on, that become shorter.
    let bars: Vec<f64> =
        (0..12).scan(0.5, |at, bar| Some(std::mem::replace(at, *at + 2.0 - 0.1 * f64::from(bar)))).collect();
    let marks = Marks { recording: "song.wav".into(), beats: bars.clone(), bars: bars.clone(), ..Marks::default() };
    let line = song(TimeUnit::Bars, Follows::Recording, vec![clip(2.0, 1.0, "base", "A"), clip(4.0, 2.0, "base", "B")]);
    let mut desk = Desk::new(Timeline { marks: Some(marks), ..line });
    desk.say("play-timeline Song");
    // Played on, wound back, held, and begun again at the end: the look is always that of the bar that sounds.
    let played = (0..600).map(|frame| (f64::from(frame) / FPS, true));
    let wound = (0..200).map(|frame| (5.9 + f64::from(frame) / FPS, true));
    let held = (0..50).map(|_| (6.3, false));
    let again = (0..300).map(|frame| (f64::from(frame) / FPS, true));
    for (seconds, runs) in played.chain(wound).chain(held).chain(again) {
        desk.frame(Some(Lead { seconds, runs }));
        let within = |bar: usize, end: usize| seconds >= bars[bar] && seconds < bars[end];
        let wanted = if within(2, 3) {
            "A-"
        } else if within(4, 6) {
            "B-"
        } else {
            "--"
        };
        assert_eq!(desk.stage(), wanted, "at {seconds} s, bar {}", desk.state().at);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// Frames of time code come 24 to 30 times a second, each with the place of its beginning, and now and then some are missing.
    #[test]
    fn with_time_code_it_is_within_a_frame_of_its_place(
        rate in prop_oneof![Just(24.0), Just(25.0), Just(30_000.0 / 1001.0), Just(30.0)],
        start in 0.0f64..4.0,
        gone in 20u32..200,
        jump in 0.0f64..12.0,
    ) {
        let mut desk = Desk::new(song(TimeUnit::Seconds, Follows::TimeCode, clips()));
        desk.say("play-timeline Song");
        for frame in 0..300u32 {
            let time = f64::from(frame) / FPS;
            let truth = if frame < 200 { start + time } else { jump + time - 4.0 };
            // The last whole frame of the code, as it says where it began.
            let seconds = (truth * rate).floor() / rate;
            let lead = (!(gone..gone + 100).contains(&frame)).then_some(Lead { seconds, runs: true });
            desk.frame(lead);
            if lead.is_some() || frame < 200 {
                let off = (desk.state().at - truth).abs();
                prop_assert!(off <= 1.0 / rate + 1.0 / FPS + 1e-9, "{} for {truth} at {frame}", desk.state().at);
                prop_assert_eq!(desk.stage(), wanted(desk.state().at, "-"));
            }
        }
    }

    #[test]
    fn wherever_it_is_put_the_stage_is_what_its_clips_say(places in prop::collection::vec((0.0f64..19.9, 0u32..60), 1..20)) {
        let mut desk = Desk::new(Timeline { loops: true, ..song(TimeUnit::Seconds, Follows::Nobody, clips()) });
        desk.say("play-timeline Song");
        for (place, frames) in places {
            desk.say(&format!("seek-timeline Song {place}"));
            for _ in 0..=frames {
                desk.frame(None);
                prop_assert_eq!(desk.stage(), wanted(desk.state().at, "-"), "at {}", desk.state().at);
            }
        }
    }
}
