//! A long night in fast forward: seeded random operation on the synthesised set, with a rotation, for six hours. Nothing fails,
//! memory stays as it is, and the night log explains every change of the stage.

use std::sync::Arc;

use splimo_document::file;
use splimo_engine::{Engine, Happening, Inputs, Published, StageEvent, TierState};
use splimo_hear::{HOP, Listener};
use splimo_runtime::sound::Set;
use splimo_show::command::{EngineCommand, NamedLevel, Origin};
use splimo_show::{Boundary, PADS};
use splimo_time::music::Hearing;

/// Frames a second.
const RATE: f64 = 44.0;

/// The hearing of the set, frame by frame, for so many seconds from where it is in full swing.
fn heard(seconds: f64) -> Vec<Hearing> {
    let (mut set, mut listener) = (Set::from_part(0), Listener::default());
    let mut samples = [0.0; HOP];
    let (mut all, mut next) = (Vec::new(), 0.0);
    while all.len() < (seconds * RATE) as usize {
        set.fill(&mut samples);
        listener.listen(&samples, |_| {});
        let hearing = listener.hearing();
        while hearing.time >= next {
            all.push(*hearing);
            next += 1.0 / RATE;
        }
    }
    all
}

/// The same again and again: time, beats and counts go on.
fn again(all: &[Hearing], frame: usize) -> Hearing {
    let (round, last) = ((frame / all.len()) as f64, all[all.len() - 1]);
    let hearing = all[frame % all.len()];
    let later = round * all.len() as f64 / RATE;
    Hearing {
        time: hearing.time + later,
        section_start: hearing.section_start + later,
        beat: hearing.beat + round * last.beat.round(),
        onsets: hearing.onsets + round as u64 * last.onsets,
        ..hearing
    }
}

/// Chance with a seed (SplitMix64: Steele, Lea and Flood, 2014).
struct Chance(u64);

impl Chance {
    fn below(&mut self, most: u64) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut mixed = self.0;
        mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        (mixed ^ (mixed >> 31)) % most
    }

    fn command(&mut self, tiers: &[&str]) -> EngineCommand {
        let pad = [0, PADS, 2 * PADS][self.below(3) as usize] + self.below(PADS as u64) as usize + 1;
        let tier = tiers[self.below(tiers.len() as u64) as usize].to_owned();
        let percent = self.below(101) as f32;
        let waiting = self.below(6) as usize + 1;
        match self.below(40) {
            0..=14 => EngineCommand::FirePad(pad),
            15..=17 => EngineCommand::HoldPad(pad),
            18..=20 => EngineCommand::LetPadGo(pad),
            21 => EngineCommand::Go,
            22 => EngineCommand::Disarm,
            23 => EngineCommand::Land(waiting),
            24 => EngineCommand::Push(waiting),
            25 => EngineCommand::TakeBack(waiting),
            26 => EngineCommand::NextLands(Boundary::ALL[self.below(5) as usize]),
            27 => EngineCommand::NextFade(percent / 8.0),
            28 => EngineCommand::ReleaseTier(tier),
            29 => EngineCommand::ClearTiers,
            30 => EngineCommand::TierLevel(NamedLevel { name: tier, percent }),
            31 => EngineCommand::MuteTier(tier),
            32 => EngineCommand::SoloTier(tier),
            33 => EngineCommand::GroupLevel(NamedLevel { name: "Sail".into(), percent }),
            34 => EngineCommand::Speed(percent / 40.0),
            35 => EngineCommand::Rotate(percent > 20.0),
            36 => EngineCommand::Blackout,
            37 => EngineCommand::Master(percent),
            38 => EngineCommand::Tap,
            _ => EngineCommand::Panic,
        }
    }
}

/// The memory of this process that is in use, in bytes.
fn memory() -> u64 {
    let statm = std::fs::read_to_string("/proc/self/statm").unwrap_or_default();
    statm.split(' ').nth(1).and_then(|pages| pages.parse::<u64>().ok()).unwrap_or(0) * 4096
}

/// True if a change of a tier between two frames is told by what happened meanwhile, or was asked for.
fn is_explained(tier: usize, before: &TierState, now: &TierState, happened: &[Happening], asked: bool) -> bool {
    let told = happened.iter().any(|happening| match happening.event {
        StageEvent::Landed { tier: on, .. } | StageEvent::Cleared { tier: on } | StageEvent::Back { tier: on, .. } => {
            on == tier
        }
        StageEvent::Chose { .. }
        | StageEvent::GaveWay
        | StageEvent::TookBack
        | StageEvent::FellBack { .. }
        | StageEvent::CueBegan { .. }
        | StageEvent::CuesPaused { .. }
        | StageEvent::CuesReleased { .. }
        | StageEvent::Kept { .. }
        | StageEvent::ClipBegan { .. }
        | StageEvent::Limited(_) => false,
    });
    let levels = |state: &TierState| (state.level, state.mute, state.solo);
    (before.look == now.look || told) && (levels(before) == levels(now) || asked)
}

#[test]
fn six_hours_of_anything_leave_nothing_behind_and_everything_told() {
    let mut show = file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show;
    // A few of its lights are enough, so that six hours are over soon.
    let few = ["Sail 1", "Sail 2", "Gangway 1", "Flood 1"];
    let rest =
        (0..show.fixtures.len()).filter(|at| !few.contains(&show.fixtures[*at].name.as_str())).collect::<Vec<_>>();
    show.fixtures =
        show.fixtures.iter().enumerate().filter(|(at, _)| !rest.contains(at)).map(|(_, one)| one.clone()).collect();
    show.rotation.back_after = 8;
    let tiers: Vec<String> = show.stack().iter().map(|tier| tier.name.clone()).collect();
    let tiers: Vec<&str> = tiers.iter().map(String::as_str).collect();
    let music = heard(180.0);
    let hours: f64 = std::env::var("SPLIMO_HOURS").ok().and_then(|hours| hours.parse().ok()).unwrap_or(6.0);

    let mut engine = Engine::new(Arc::new(show));
    let (mut published, mut before) = (Published::default(), Vec::new());
    let mut chance = Chance(27);
    let mut warm = 0;
    let (mut landed, mut next) = (0u64, 0);
    let frames = (hours * 3600.0 * RATE) as usize;
    let mut happened = Vec::new();
    for frame in 0..frames {
        let time = frame as f64 / RATE;
        let mut asked = false;
        if frame >= next {
            engine.apply_from(&chance.command(&tiers), Origin::Screen(1), time);
            next = frame + chance.below(150) as usize;
            asked = true;
        }
        engine.tick(time, &Inputs { hearing: again(&music, frame), ..Inputs::default() });
        engine.publish(&mut published);
        happened.clear();
        happened.extend(engine.take_happenings());
        landed += happened.iter().filter(|one| matches!(one.event, StageEvent::Landed { .. })).count() as u64;
        let now = &published.snapshot.tiers;
        for (tier, (before, now)) in std::iter::zip(&before, now).enumerate() {
            assert!(
                is_explained(tier, before, now, &happened, asked),
                "frame {frame}: {before:?}, {now:?}: {happened:?}"
            );
        }
        before.clone_from(now);
        assert!(published.light.iter().flatten().all(|part| part.is_finite() && *part >= 0.0), "frame {frame}");
        if frame == frames / 6 {
            warm = memory();
        }
    }
    let grown = memory().saturating_sub(warm);
    assert!(grown < 1 << 20, "{grown} bytes more than after the first hour");
    assert!(landed > (hours * 100.0) as u64, "{landed} looks landed");
}
