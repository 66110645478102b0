//! Commands to the engine: what they need is looked for first, and the night log takes note of them.

use splimo_base::Seconds;
use splimo_base::nearest::meant;
use splimo_document::Command;
use splimo_document::Outcome;
use splimo_engine::Happening;
use splimo_show::LightTest;
use splimo_show::command::{EngineCommand, Origin};
use splimo_show::{PADS, PadMode, Show};

use super::dispatch::told;
use super::{Session, aims, cues};

impl Session {
    pub(super) fn dispatch_to_engine(&mut self, command: &EngineCommand, by: Origin, at: Option<Seconds>) -> Outcome {
        if let Some(why) = refusal(command, self.document.shown()) {
            return Outcome::Nothing(why);
        }
        if let Some(given) = self.given_by_pad(command) {
            return self.dispatch_of_pad(command, &given, by, at);
        }
        self.note_asked(command, by);
        let outcome = self.take_note(command, by);
        self.runtime.apply_at(command, by, at.unwrap_or_else(|| self.runtime.now()));
        outcome
    }

    /// The command that a pad gives which is fired or held.
    fn given_by_pad(&self, command: &EngineCommand) -> Option<String> {
        let (EngineCommand::FirePad(pad) | EngineCommand::HoldPad(pad) | EngineCommand::LetPadGo(pad)) = command else {
            return None;
        };
        self.document.shown().pad(*pad)?.1.command.clone()
    }

    /// Carries the command of a pad out.
    fn dispatch_of_pad(&mut self, pad: &EngineCommand, given: &str, by: Origin, at: Option<Seconds>) -> Outcome {
        if matches!(pad, EngineCommand::LetPadGo(_)) {
            return Outcome::Done;
        }
        match given.parse::<Command>() {
            Ok(Command::Engine(EngineCommand::FirePad(_) | EngineCommand::HoldPad(_))) => {
                Outcome::Nothing("a pad cannot fire another; give this one the look itself".to_owned())
            }
            Ok(command) => self.dispatch(&command, by, None, at),
            Err(why) => Outcome::Refused(format!("the command of this pad, {given}: {why}")),
        }
    }

    /// Takes note of who tests and who holds, and says what there is to say.
    fn take_note(&mut self, command: &EngineCommand, by: Origin) -> Outcome {
        match command {
            EngineCommand::Test(test) => self.tester = (*test != LightTest::Off).then_some(by),
            EngineCommand::HoldPad(pad) => {
                self.held.retain(|held| *held != (by, *pad));
                self.held.push((by, *pad));
            }
            EngineCommand::LetPadGo(pad) => self.held.retain(|held| *held != (by, *pad)),
            EngineCommand::Panic => return self.note_panic(),
            EngineCommand::SeekTimeline(place) => self.wind_recording(&place.name, place.at),
            EngineCommand::FollowMusic => return told("following the music"),
            EngineCommand::BarHere => return told("a bar begins here"),
            EngineCommand::PhraseHere => return told("a phrase begins here"),
            EngineCommand::TempoTimes(by) => {
                return told(if *by > 1.0 { "twice as many beats" } else { "half as many beats" });
            }
            EngineCommand::NudgeBeat(by) => {
                return told(&format!("the beat comes {}", if *by > 0 { "earlier" } else { "later" }));
            }
            EngineCommand::NextSection(_) => return told("the part is set by hand, until another is heard"),
            EngineCommand::Speed(times) => {
                return told(&match *times {
                    0.0 => "effects are held".to_owned(),
                    1.0 => "effects run at their own speed".to_owned(),
                    times => format!("effects run at {times} times their speed"),
                });
            }
            EngineCommand::Rotate(on) => {
                return told(if *on { "the rotation turns" } else { "the rotation is off" });
            }
            EngineCommand::NextLands(boundary) => return told(&format!("the next lands on {}", boundary.name())),
            EngineCommand::NextFade(beats) => return told(&format!("the next fades over {beats} beats")),
            EngineCommand::CallAim(aim) => return told(&format!("pointed by hand: {aim}; until they are let go")),
            EngineCommand::LetHeads(lights) => return told(&format!("the stage points {lights} again")),
            EngineCommand::LetAllHeads => return told("the stage points all heads again"),
            EngineCommand::ReleaseTier(tier) => return told(&format!("{tier} fades out")),
            EngineCommand::ClearTiers => return told("all tiers but the lowest fade out"),
            EngineCommand::PlayTimeline(_)
            | EngineCommand::HoldTimeline(_)
            | EngineCommand::StopTimeline(_)
            | EngineCommand::GoCue(_)
            | EngineCommand::BackCue(_)
            | EngineCommand::GoToCue(_)
            | EngineCommand::SkipCue(_)
            | EngineCommand::PauseCues(_)
            | EngineCommand::ResetCues(_)
            | EngineCommand::ReleaseCues(_)
            | EngineCommand::CueGoesOn(_)
            | EngineCommand::FirePad(_)
            | EngineCommand::FireLook(_)
            | EngineCommand::CutTo(_)
            | EngineCommand::Go
            | EngineCommand::Disarm
            | EngineCommand::Land(_)
            | EngineCommand::Push(_)
            | EngineCommand::TakeBack(_)
            | EngineCommand::TierLevel(_)
            | EngineCommand::NudgeTier(_)
            | EngineCommand::MuteTier(_)
            | EngineCommand::SoloTier(_)
            | EngineCommand::GroupLevel(_)
            | EngineCommand::HeadPan(_)
            | EngineCommand::HeadTilt(_)
            | EngineCommand::NudgePan(_)
            | EngineCommand::NudgeTilt(_)
            | EngineCommand::Blackout
            | EngineCommand::SetBlackout(_)
            | EngineCommand::Strobe(_)
            | EngineCommand::ColourPart(_)
            | EngineCommand::Recolour(_)
            | EngineCommand::Master(_)
            | EngineCommand::NudgeMaster(_)
            | EngineCommand::Tap
            | EngineCommand::Tempo(_)
            | EngineCommand::WalkStep(_)
            | EngineCommand::Control(_)
            | EngineCommand::CountForward
            | EngineCommand::CountBack
            | EngineCommand::CountReset
            | EngineCommand::CentrePhase(_)
            | EngineCommand::RestartPhase(_)
            | EngineCommand::StepForward(_)
            | EngineCommand::StepBack(_)
            | EngineCommand::ResetPeaks => {}
        }
        Outcome::Done
    }

    fn note_panic(&mut self) -> Outcome {
        self.tester = None;
        self.held.clear();
        let blackout = self.outlook.published.read().snapshot.blackout;
        let safe = &self.document.shown().settings.safe_look;
        let left = match safe.is_empty() {
            true => "panic: what the lowest tier shows stays, alone; F9 sets a safe look".to_owned(),
            false => format!("panic: {safe} is on, alone"),
        };
        told(&if blackout { format!("{left}; still blacked out") } else { left })
    }

    /// Lets everything go that somebody holds, who is gone.
    pub(super) fn let_go_of(&mut self, gone: Origin) {
        let held: Vec<usize> = self.held.iter().filter(|(by, _)| *by == gone).map(|(_, pad)| *pad).collect();
        for pad in held {
            self.dispatch_to_engine(&EngineCommand::LetPadGo(pad), gone, None);
        }
    }

    /// Has the night log take note of a command, with the look of the pad.
    fn note_asked(&mut self, command: &EngineCommand, by: Origin) {
        let named = Command::from(command.clone());
        let show = self.document.shown();
        // Letting go of what does not stay for being held is nothing that one would look for.
        if let EngineCommand::LetPadGo(pad) = command
            && show.pad(*pad).is_some_and(|(bank, pad)| bank.manner_of(Some(pad), show).mode != PadMode::Flash)
        {
            return;
        }
        let mut what = named.to_string();
        if let EngineCommand::FirePad(pad) | EngineCommand::HoldPad(pad) | EngineCommand::LetPadGo(pad) = command
            && let Some((bank, pad)) = show.pad(*pad)
        {
            what = format!("{what} ({} in {})", pad.label(), bank.name);
        }
        self.note(by, &named, what);
    }

    /// Has the night log take note of a change of the show, or of a command to the session.
    pub(super) fn note(&mut self, by: Origin, command: &Command, what: String) {
        let clock = self.outlook.published.read().snapshot.clock;
        self.night.asked(by, command, what, &clock);
    }

    /// Has the night log take note of what happened on the stage since.
    pub(super) fn note_happenings(&mut self) {
        while let Ok(happening) = self.outlook.happened.try_recv() {
            self.take_happening(&happening);
        }
        self.night.settle();
    }

    /// Has the night log take note of what happened, and carries out what comes of it.
    pub(super) fn take_happening(&mut self, happening: &Happening) {
        let edition = self.runtime.editions().get(happening.edition);
        self.night.happened(happening, &edition.show);
        self.say_what_is_kept(happening, &edition.show);
        self.give_what_began(happening, &edition.show);
    }
}

/// The reason why a command cannot be carried out on a show.
pub(super) fn refusal(command: &EngineCommand, show: &Show) -> Option<String> {
    let no_tier = |name: &str| {
        let known: Vec<&str> = show.stack().iter().map(|tier| tier.name.as_str()).collect();
        show.tier(name).is_none().then(|| format!("there is no tier \"{name}\"; there is {}", known.join(", ")))
    };
    let no_look = |name: &str| {
        format!("there is no look \"{name}\"{}", meant(name, show.looks.iter().map(|look| look.name.as_str())))
    };
    if let Some(why) = command.out_of_range() {
        return Some(why);
    }
    match command {
        EngineCommand::FirePad(pad) | EngineCommand::HoldPad(pad) | EngineCommand::LetPadGo(pad) => {
            let Some(bank) = show.banks.get(pad.checked_sub(1)? / PADS) else {
                return Some(format!("there is no pad {pad}; the last is {}", show.banks.len() * PADS));
            };
            let within = format!(" of {}", bank.name);
            let place = (pad - 1) % PADS + 1;
            show.pad(*pad).is_none().then(|| format!("there is nothing on pad {place}{within}"))
        }
        EngineCommand::FireLook(name) | EngineCommand::CutTo(name) => {
            show.look_on_tier(name).is_none().then(|| no_look(name))
        }
        EngineCommand::CentrePhase(place)
        | EngineCommand::RestartPhase(place)
        | EngineCommand::StepForward(place)
        | EngineCommand::StepBack(place) => show.look(&place.look).is_none().then(|| no_look(&place.look)),
        EngineCommand::ReleaseTier(tier) | EngineCommand::MuteTier(tier) | EngineCommand::SoloTier(tier) => {
            no_tier(tier)
        }
        EngineCommand::TierLevel(to) | EngineCommand::NudgeTier(to) => no_tier(&to.name),
        EngineCommand::HeadPan(to)
        | EngineCommand::HeadTilt(to)
        | EngineCommand::NudgePan(to)
        | EngineCommand::NudgeTilt(to) => aims::refuse_heads(&to.name, show),
        EngineCommand::CallAim(aim) => aims::refuse_aim(aim, show),
        EngineCommand::LetHeads(lights) => aims::refuse_heads(lights, show),
        EngineCommand::GroupLevel(to) => {
            let known = show.groups.iter().any(|group| group.name == to.name);
            (!known).then(|| format!("there is no group \"{}\"", to.name))
        }
        EngineCommand::GoCue(list) => cues::refuse_go(list, show),
        EngineCommand::BackCue(list)
        | EngineCommand::SkipCue(list)
        | EngineCommand::PauseCues(list)
        | EngineCommand::ResetCues(list)
        | EngineCommand::ReleaseCues(list) => cues::refuse_list(list, show),
        EngineCommand::PlayTimeline(name) | EngineCommand::HoldTimeline(name) | EngineCommand::StopTimeline(name) => {
            cues::refuse_timeline(name, show)
        }
        EngineCommand::SeekTimeline(place) => cues::refuse_timeline(&place.name, show),
        EngineCommand::GoToCue(target) => cues::refuse_cue(&target.cue, show),
        EngineCommand::CueGoesOn(cues) => cues::refuse_list(&cues.list, show),
        EngineCommand::Go
        | EngineCommand::LetAllHeads
        | EngineCommand::Disarm
        | EngineCommand::Land(_)
        | EngineCommand::Push(_)
        | EngineCommand::TakeBack(_)
        | EngineCommand::NextLands(_)
        | EngineCommand::ClearTiers
        | EngineCommand::Rotate(_)
        | EngineCommand::Panic
        | EngineCommand::Blackout
        | EngineCommand::SetBlackout(_)
        | EngineCommand::ColourPart(_)
        | EngineCommand::Recolour(_)
        | EngineCommand::Master(_)
        | EngineCommand::NudgeMaster(_)
        | EngineCommand::Speed(_)
        | EngineCommand::Strobe(_)
        | EngineCommand::NextFade(_)
        | EngineCommand::Tempo(_)
        | EngineCommand::Tap
        | EngineCommand::FollowMusic
        | EngineCommand::TempoTimes(_)
        | EngineCommand::NudgeBeat(_)
        | EngineCommand::NextSection(_)
        | EngineCommand::BarHere
        | EngineCommand::PhraseHere
        | EngineCommand::Test(_)
        | EngineCommand::WalkStep(_)
        | EngineCommand::Control(_)
        | EngineCommand::CountForward
        | EngineCommand::CountBack
        | EngineCommand::CountReset
        | EngineCommand::ResetPeaks => None,
    }
}
