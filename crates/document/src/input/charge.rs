//! Charge: which input has moved what last, and from whom its priority keeps it.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::Command;
use splimo_show::command::EngineCommand;
use splimo_show::{BASE, Show};

/// The charges: who is in charge of what.
#[derive(Debug, Clone, Default, PartialEq)]
pub(super) struct Charges {
    of: BTreeMap<String, (Arc<str>, u8)>,
}

impl Charges {
    /// Takes what is moved over for an input of a priority; false where another keeps it.
    pub(super) fn take(&mut self, subject: String, source: &Arc<str>, priority: u8) -> bool {
        match self.of.get(&subject) {
            Some((by, higher)) if by != source && *higher > priority => false,
            Some(_) | None => {
                self.of.insert(subject, (source.clone(), priority));
                true
            }
        }
    }

    /// Everything that an input was in charge of, which nobody is now.
    pub(super) fn let_go(&mut self, source: &str) -> Vec<String> {
        let gone: Vec<String> =
            self.of.iter().filter(|(_, (by, _))| **by == *source).map(|(subject, _)| subject.clone()).collect();
        gone.iter().for_each(|subject| drop(self.of.remove(subject)));
        gone
    }

    /// Nobody is in charge of something any more: a person has moved it.
    pub(super) fn free(&mut self, subject: &str) {
        self.of.remove(subject);
    }

    /// Subjects and the inputs that are in charge of them.
    pub(super) fn all(&self) -> impl Iterator<Item = (&str, &Arc<str>)> {
        self.of.iter().map(|(subject, (by, _))| (subject.as_str(), by))
    }
}

/// The thing that a command moves, in a few words; none where it is nothing that somebody could be in charge of. Blackout and panic
/// are everybody's.
pub(super) fn subject(command: &Command, show: &Show) -> Option<String> {
    let Command::Engine(command) = command else { return None };
    let tier_of_look = |name: &str| {
        let place = show.look_on_tier(name).and_then(|(tier, _)| tier).unwrap_or(0);
        show.stack().get(place).map_or(BASE, |tier| &tier.name).to_owned()
    };
    match command {
        EngineCommand::FirePad(pad) | EngineCommand::HoldPad(pad) | EngineCommand::LetPadGo(pad) => {
            let (bank, pad) = show.pad(*pad)?;
            pad.look.as_ref()?;
            let tier = pad.plays.tier.as_ref().or(bank.plays.tier.as_ref());
            let lowest = || show.stack().first().map_or(BASE.to_owned(), |tier| tier.name.clone());
            Some(tier.cloned().unwrap_or_else(lowest))
        }
        EngineCommand::FireLook(name) | EngineCommand::CutTo(name) => Some(tier_of_look(name)),
        EngineCommand::ReleaseTier(tier) => Some(tier.clone()),
        EngineCommand::TierLevel(level) | EngineCommand::NudgeTier(level) => Some(format!("{} level", level.name)),
        EngineCommand::GroupLevel(level) => Some(format!("{} level", level.name)),
        EngineCommand::HeadPan(level)
        | EngineCommand::HeadTilt(level)
        | EngineCommand::NudgePan(level)
        | EngineCommand::NudgeTilt(level) => Some(format!("{} aim", level.name)),
        EngineCommand::Master(_) | EngineCommand::NudgeMaster(_) => Some("master".to_owned()),
        EngineCommand::Speed(_) => Some("speed".to_owned()),
        EngineCommand::Strobe(_) => Some("strobe".to_owned()),
        EngineCommand::ColourPart(_) | EngineCommand::Recolour(_) => Some("colours".to_owned()),
        EngineCommand::Tempo(_) | EngineCommand::Tap | EngineCommand::FollowMusic | EngineCommand::TempoTimes(_) => {
            Some("tempo".to_owned())
        }
        EngineCommand::Control(level) => Some(format!("control {}", level.control)),
        EngineCommand::Rotate(_) => Some("rotation".to_owned()),
        EngineCommand::GoCue(list)
        | EngineCommand::BackCue(list)
        | EngineCommand::SkipCue(list)
        | EngineCommand::PauseCues(list)
        | EngineCommand::ResetCues(list)
        | EngineCommand::ReleaseCues(list) => Some(format!("list {list}")),
        EngineCommand::GoToCue(target) => Some(format!("list {}", target.cue.list)),
        EngineCommand::PlayTimeline(name) | EngineCommand::HoldTimeline(name) | EngineCommand::StopTimeline(name) => {
            Some(format!("timeline {name}"))
        }
        EngineCommand::SeekTimeline(place) => Some(format!("timeline {}", place.name)),
        EngineCommand::CueGoesOn(cues) => Some(format!("list {}", cues.list)),
        EngineCommand::Go
        | EngineCommand::Disarm
        | EngineCommand::Land(_)
        | EngineCommand::Push(_)
        | EngineCommand::TakeBack(_)
        | EngineCommand::NextLands(_)
        | EngineCommand::NextFade(_)
        | EngineCommand::ClearTiers
        | EngineCommand::MuteTier(_)
        | EngineCommand::SoloTier(_)
        | EngineCommand::Panic
        | EngineCommand::Blackout
        | EngineCommand::SetBlackout(_)
        | EngineCommand::NudgeBeat(_)
        | EngineCommand::NextSection(_)
        | EngineCommand::BarHere
        | EngineCommand::PhraseHere
        | EngineCommand::Test(_)
        | EngineCommand::WalkStep(_)
        | EngineCommand::CountForward
        | EngineCommand::CountBack
        | EngineCommand::CountReset
        | EngineCommand::CentrePhase(_)
        | EngineCommand::RestartPhase(_)
        | EngineCommand::StepForward(_)
        | EngineCommand::StepBack(_)
        | EngineCommand::CallAim(_)
        | EngineCommand::LetHeads(_)
        | EngineCommand::LetAllHeads
        | EngineCommand::ResetPeaks => None,
    }
}
