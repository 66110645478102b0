//! The ranges of the numbers that commands take. A number outside of its range is refused, whoever gives it; none is cut to
//! what fits.

use super::{Argument, Command, EngineCommand};
use splimo_time::tempo::{FASTEST, SLOWEST};

/// The highest speed of effects, in times their own.
pub const MOST_SPEED: f32 = 8.0;
/// The highest rate of the strobe, in flashes a second.
pub const MOST_STROBE: f32 = 25.0;

impl<E: Argument> Command<E> {
    /// The reason why a number of the command is out of range, with the range; none if it is within.
    #[must_use]
    pub fn out_of_range(&self) -> Option<String> {
        match self {
            Self::Engine(command) => command.out_of_range(),
            Self::Document(_) | Self::Session(_) => None,
        }
    }
}

impl EngineCommand {
    /// [`Command::out_of_range`] of what the engine carries out.
    #[must_use]
    pub fn out_of_range(&self) -> Option<String> {
        let (what, number, from, to) = match self {
            Self::Master(percent) => ("a master of", *percent, 0.0, 100.0),
            Self::Recolour(percent) => ("a recolouring of", *percent, 0.0, 100.0),
            Self::Tempo(bpm) => ("a tempo of", *bpm, SLOWEST as f32, FASTEST as f32),
            Self::Speed(times) => ("a speed of", *times, 0.0, MOST_SPEED),
            Self::Strobe(rate) => ("a strobe of", *rate, 0.0, MOST_STROBE),
            Self::NextFade(beats) => ("a fade of", *beats, 0.0, 64.0),
            Self::NudgeMaster(percent) => ("a nudge of", *percent, -100.0, 100.0),
            Self::TempoTimes(by) => ("a tempo times", *by, 0.125, 8.0),
            Self::TierLevel(to) | Self::GroupLevel(to) | Self::HeadPan(to) | Self::HeadTilt(to) => {
                ("a level of", to.percent, 0.0, 100.0)
            }
            Self::NudgeTier(by) | Self::NudgePan(by) | Self::NudgeTilt(by) => ("a nudge of", by.percent, -100.0, 100.0),
            Self::ColourPart(part) => ("a part of", part.percent, 0.0, 100.0),
            Self::Control(control) => ("a level of", control.percent, 0.0, 100.0),
            Self::FirePad(_)
            | Self::HoldPad(_)
            | Self::LetPadGo(_)
            | Self::FireLook(_)
            | Self::CutTo(_)
            | Self::CentrePhase(_)
            | Self::RestartPhase(_)
            | Self::StepForward(_)
            | Self::StepBack(_)
            | Self::ReleaseTier(_)
            | Self::MuteTier(_)
            | Self::SoloTier(_)
            | Self::CallAim(_)
            | Self::LetHeads(_)
            | Self::LetAllHeads
            | Self::GoCue(_)
            | Self::BackCue(_)
            | Self::SkipCue(_)
            | Self::PauseCues(_)
            | Self::ResetCues(_)
            | Self::ReleaseCues(_)
            | Self::GoToCue(_)
            | Self::CueGoesOn(_)
            | Self::PlayTimeline(_)
            | Self::HoldTimeline(_)
            | Self::StopTimeline(_)
            | Self::SeekTimeline(_)
            | Self::Go
            | Self::Disarm
            | Self::Land(_)
            | Self::Push(_)
            | Self::TakeBack(_)
            | Self::NextLands(_)
            | Self::ClearTiers
            | Self::Rotate(_)
            | Self::Panic
            | Self::Blackout
            | Self::SetBlackout(_)
            | Self::Tap
            | Self::FollowMusic
            | Self::NudgeBeat(_)
            | Self::NextSection(_)
            | Self::BarHere
            | Self::PhraseHere
            | Self::Test(_)
            | Self::WalkStep(_)
            | Self::CountForward
            | Self::CountBack
            | Self::CountReset
            | Self::ResetPeaks => return None,
        };
        let within = (from..=to).contains(&number);
        (!within).then(|| format!("{what} {number} is out of range; give it a number from {from} to {to}"))
    }
}

#[cfg(test)]
mod tests {
    use crate::command::Command;

    #[test]
    fn numbers_out_of_range_are_refused_with_the_range() {
        for (text, words) in [
            ("master 300", "from 0 to 100"),
            ("master -1", "from 0 to 100"),
            ("tempo 9999", "from 20 to 400"),
            ("speed 9", "from 0 to 8"),
            ("strobe 26", "from 0 to 25"),
            ("next-fade 65", "from 0 to 64"),
            ("nudge-master 101", "from -100 to 100"),
            ("tempo-times 100", "from 0.125 to 8"),
            ("tier-level top -5", "from 0 to 100"),
            ("recolour 120", "from 0 to 100"),
        ] {
            let error = text.parse::<Command>().expect_err(text).to_string();
            assert!(error.contains(words), "{text}: {error}");
        }
        for text in ["master 0", "master 100", "tempo 20", "tempo 400", "nudge-master -5", "tempo-times 0.5"] {
            assert!(text.parse::<Command>().is_ok(), "{text}");
        }
    }
}
