//! Commands to the engine: what they need is looked for first, and the night log takes note of them.

use splimo_base::Seconds;
use splimo_document::Command;
use splimo_document::Outcome;
use splimo_document::reference;
use splimo_engine::Happening;
use splimo_show::CommandTemplate;
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
    fn given_by_pad(&self, command: &EngineCommand) -> Option<CommandTemplate> {
        let (EngineCommand::FirePad(pad) | EngineCommand::HoldPad(pad) | EngineCommand::LetPadGo(pad)) = command else {
            return None;
        };
        self.document.shown().pad(*pad)?.1.command.clone()
    }

    /// Carries the command of a pad out.
    fn dispatch_of_pad(
        &mut self,
        pad: &EngineCommand,
        given: &CommandTemplate,
        by: Origin,
        at: Option<Seconds>,
    ) -> Outcome {
        if matches!(pad, EngineCommand::LetPadGo(_)) {
            return Outcome::Done;
        }
        match given.command() {
            Ok(splimo_show::command::Command::Engine(EngineCommand::FirePad(_) | EngineCommand::HoldPad(_))) => {
                Outcome::Nothing("a pad cannot fire another; give this one the look itself".to_owned())
            }
            Ok(command) => self.dispatch(&command.widened(), by, None, at),
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

/// The reason why a command cannot be carried out on a show: its number, what it names, and what that has.
pub(super) fn refusal(command: &EngineCommand, show: &Show) -> Option<String> {
    let unknown = || reference::unknown(&Command::from(command.clone()), show);
    command.out_of_range().or_else(unknown).or_else(|| lack(command, show))
}

/// What a pad, a list or a head lacks for what is asked of it.
fn lack(command: &EngineCommand, show: &Show) -> Option<String> {
    if let EngineCommand::FirePad(pad) | EngineCommand::HoldPad(pad) | EngineCommand::LetPadGo(pad) = command {
        let Some(bank) = show.banks.get(pad.checked_sub(1)? / PADS) else {
            return Some(format!("there is no pad {pad}; the last is {}", show.banks.len() * PADS));
        };
        let place = (pad - 1) % PADS + 1;
        return show.pad(*pad).is_none().then(|| format!("there is nothing on pad {place} of {}", bank.name));
    }
    if let EngineCommand::HeadPan(to)
    | EngineCommand::HeadTilt(to)
    | EngineCommand::NudgePan(to)
    | EngineCommand::NudgeTilt(to) = command
    {
        return aims::refuse_heads(&to.name, show);
    }
    if let EngineCommand::LetHeads(lights) = command {
        return aims::refuse_heads(lights, show);
    }
    if let EngineCommand::CallAim(text) = command {
        return show.called_aim(text)?.0.and_then(|lights| aims::refuse_heads(lights, show));
    }
    if let EngineCommand::GoCue(list) = command {
        return cues::refuse_go(list, show);
    }
    if let EngineCommand::GoToCue(target) = command {
        return cues::refuse_cue(&target.cue, show);
    }
    None
}
