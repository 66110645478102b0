//! The one list of everything that a person or a machine can ask of a session. Keys, mouse, palette, MIDI, OSC, DMX, the
//! command line, cues and tests all send [`Command`]s through one dispatch; nothing reaches around it.
//!
//! The text form of a command is its name, and its argument behind a space: `fire-pad 3`.

mod argument;
mod range;

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

pub use argument::{
    Argument, ColourPart, ControlLevel, CuePlace, CueSet, CueTarget, JSON, LanePlace, LayerPlace, NamedLevel,
    SettingChange, SettingNudge, TimelinePlace, Unwritten,
};
pub use range::{MOST_SPEED, MOST_STROBE};

use crate::{Boundary, LightTest, Look};

/// The part of a session that carries a command out.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Addressee {
    /// The engine, at its next tick.
    Engine,
    /// The document: it makes a new show.
    Document,
    /// The session around both: files, devices, and what is kept.
    Session,
}

/// The sender of a command.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Origin {
    /// The session itself, as at its start.
    Session,
    /// A screen, by its number in the session.
    Screen(u32),
    /// The command line (`splimo do`).
    CommandLine,
    /// A trigger from the network (Art-Net).
    ArtNet,
    /// An input source, by its place in the list of those of the runtime.
    Input(u8),
    /// The rotation.
    Rotation,
    /// A cue list, by its place in the show.
    List(u8),
    /// The schedule.
    Schedule,
    /// A timeline, by its place in the show.
    Timeline(u8),
}

/// The argument of a command.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ArgumentInfo {
    /// Its name.
    pub name: &'static str,
    /// The forms in which it is written, in words.
    pub takes: &'static str,
}

/// The description of a command.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CommandInfo {
    /// The name by which it is asked for.
    pub name: &'static str,
    doc: &'static str,
    /// Its argument, if it takes one.
    pub argument: Option<ArgumentInfo>,
    /// The part that carries it out.
    pub addressee: Addressee,
    /// True if the stage may flash or go dark at once: such a command is never what another word finds first.
    pub startles: bool,
}

impl CommandInfo {
    /// The help, in one line.
    #[must_use]
    pub fn help(&self) -> &'static str {
        // As a doc comment it stands behind a space.
        self.doc.trim_start()
    }

    /// True if a person can write its argument: what only programs write is JSON.
    #[must_use]
    pub fn is_for_people(&self) -> bool {
        self.argument.is_none_or(|argument| argument.takes != JSON)
    }
}

macro_rules! commands {
    ($($(#[$about:meta])* $addressee:ident $kind:ident $(<$edit:ident>)? {
        $($(#[doc = $doc:literal])* $variant:ident $(($argument:ident: $type:ty))? = $name:literal $($startles:ident)?;)*
    })*) => {
        $(
            $(#[$about])*
            #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
            #[serde(rename_all = "kebab-case")]
            pub enum $kind $(<$edit = Unwritten>)? {
                $($(#[doc = $doc])* $variant $(($type))?,)*
            }

            impl<E> From<$kind $(<$edit>)?> for Command<E> {
                fn from(command: $kind $(<$edit>)?) -> Self {
                    Self::$addressee(command)
                }
            }

            impl $(<$edit: Argument>)? $kind $(<$edit>)? {
                /// The name by which it is asked for.
                #[must_use]
                pub fn name(&self) -> &'static str {
                    match self { $(commands!(@pattern $kind $variant $($argument)?) => $name,)* }
                }

                fn argument(&self) -> Option<String> {
                    match self {
                        $(commands!(@bind $kind $variant bound $($argument)?) => commands!(@text bound $($argument)?),)*
                    }
                }

                fn parse(name: &str, argument: &str) -> Result<Self, BadCommand> {
                    match name {
                        $($name => commands!(@parse $kind $variant argument $($argument: $type)?),)*
                        _ => Err(BadCommand::Unknown(name.to_owned())),
                    }
                }
            }
        )*

        /// Every command.
        pub const COMMANDS: &[CommandInfo] = {
            // Edits are written in the same form, whatever their type.
            type E = Unwritten;
            &[$($(CommandInfo {
            name: $name,
            doc: concat!($($doc),*),
            argument: commands!(@info $($argument: $type)?),
            addressee: Addressee::$addressee,
            startles: commands!(@startles $($startles)?),
        },)*)*]
        };

        /// Something asked of a session. Edits are of a type that this crate does not know; a show holds none, so its own commands have
        /// [`Unwritten`] in the place of them.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
        #[serde(rename_all = "kebab-case")]
        pub enum Command<E = Unwritten> {
            $($(#[$about])* $addressee($kind $(<$edit>)?),)*
        }

        impl<E: Argument> Command<E> {
            /// The name by which it is asked for.
            #[must_use]
            pub fn name(&self) -> &'static str {
                match self { $(Self::$addressee(command) => command.name(),)* }
            }

            fn argument(&self) -> Option<String> {
                match self { $(Self::$addressee(command) => command.argument(),)* }
            }
        }

        impl<E: Argument> FromStr for Command<E> {
            type Err = BadCommand;

            fn from_str(text: &str) -> Result<Self, BadCommand> {
                let (name, argument) = text.trim().split_once(' ').unwrap_or((text.trim(), ""));
                let info = info(name).ok_or_else(|| BadCommand::Unknown(name.to_owned()))?;
                let command = match info.addressee {
                    $(Addressee::$addressee => $kind::parse(name, argument.trim()).map(Self::$addressee),)*
                }?;
                match command.out_of_range() {
                    Some(why) => Err(BadCommand::Range(why)),
                    None => Ok(command),
                }
            }
        }
    };
    (@pattern $kind:ident $variant:ident) => { $kind::$variant };
    (@pattern $kind:ident $variant:ident $argument:ident) => { $kind::$variant(_) };
    (@bind $kind:ident $variant:ident $bound:ident) => { $kind::$variant };
    (@bind $kind:ident $variant:ident $bound:ident $argument:ident) => { $kind::$variant($bound) };
    (@text $bound:ident) => { None };
    (@text $bound:ident $argument:ident) => { Some(Argument::text($bound)) };
    (@parse $kind:ident $variant:ident $text:ident) => {
        if $text.is_empty() { Ok($kind::$variant) } else { Err(BadCommand::NoArgument($text.to_owned())) }
    };
    (@parse $kind:ident $variant:ident $text:ident $argument:ident: $type:ty) => {
        <$type as Argument>::parse($text).map($kind::$variant).ok_or_else(|| BadCommand::Argument {
            argument: stringify!($argument),
            takes: <$type as Argument>::TAKES,
            text: $text.to_owned(),
        })
    };
    (@info) => { None };
    (@info $argument:ident: $type:ty) => {
        Some(ArgumentInfo { name: stringify!($argument), takes: <$type as Argument>::TAKES })
    };
    (@startles) => { false };
    (@startles startles) => { true };
}

commands! {
    /// A command to the engine.
    Engine EngineCommand {
        /// Fire a pad, counted through all banks; once more takes back what waits
        FirePad(pad: usize) = "fire-pad";
        /// Fire a pad and hold it: a flash stays until it is let go
        HoldPad(pad: usize) = "hold-pad";
        /// Let a pad go that is held
        LetPadGo(pad: usize) = "let-pad-go";
        /// Arm a look by its name, on the lowest tier or on one that is named, as in top/Tide
        FireLook(look: String) = "fire-look";
        /// Put a look on a tier at once, whole
        CutTo(look: String) = "cut-to";
        /// Land all that is armed now
        Go = "go";
        /// Take back all that is armed
        Disarm = "disarm";
        /// Land one thing that is armed now, by the number that Play shows
        Land(number: usize) = "land";
        /// Push one thing that is armed to its next boundary
        Push(number: usize) = "push";
        /// Take one thing back that is armed
        TakeBack(number: usize) = "take-back";
        /// Choose the boundary of what is fired next, once
        NextLands(boundary: Boundary) = "next-lands";
        /// Choose the fade of what is fired next, once, in beats
        NextFade(beats: f32) = "next-fade";
        /// Release a tier: what it shows fades out by its own time
        ReleaseTier(tier: String) = "release-tier";
        /// Release all tiers but the lowest
        ClearTiers = "clear-tiers";
        /// Set the level of a tier
        TierLevel(level: NamedLevel) = "tier-level";
        /// Move the level of a tier up, or down below zero
        NudgeTier(level: NamedLevel) = "nudge-tier";
        /// Mute a tier, or let it be seen again
        MuteTier(tier: String) = "mute-tier";
        /// Show only a tier, and others that are solo, or all again
        SoloTier(tier: String) = "solo-tier";
        /// Pan heads by hand to a percentage of what they can turn
        HeadPan(level: NamedLevel) = "head-pan";
        /// Tilt heads by hand to a percentage of what they can turn
        HeadTilt(level: NamedLevel) = "head-tilt";
        /// Pan heads by hand to the right, or to the left below zero, in percent
        NudgePan(level: NamedLevel) = "nudge-pan";
        /// Tilt heads by hand on, or back below zero, in percent
        NudgeTilt(level: NamedLevel) = "nudge-tilt";
        /// Point heads by hand as an aim says: all of them, or those of a group, as in Gulls/Booth
        CallAim(aim: String) = "call-aim";
        /// Let heads go that were pointed by hand: what is on stage points them again
        LetHeads(name: String) = "let-heads";
        /// Let all heads go that were pointed by hand
        LetAllHeads = "let-all-heads";
        /// Set the level of a group of lights
        GroupLevel(level: NamedLevel) = "group-level";
        /// Go on to the next cue of a list
        GoCue(list: String) = "go-cue";
        /// Go back to the cue before in a list, by the fade that is set for it
        BackCue(list: String) = "back-cue";
        /// Go to a cue of a list, at once or in some seconds
        GoToCue(cue: CueTarget) = "go-to-cue";
        /// Pass over the next cue of a list
        SkipCue(list: String) = "skip-cue";
        /// Hold a cue list and its fades where they are, or let it go on
        PauseCues(list: String) = "pause-cues";
        /// Go to the first cue of a list, by the fade that is set for going back
        ResetCues(list: String) = "reset-cues";
        /// Release a cue list: who had its tiers has them again
        ReleaseCues(list: String) = "release-cues";
        /// Go on from some cues of a list if it is at one of them, as the event does that they wait for
        CueGoesOn(cues: CueSet) = "cue-goes-on";
        /// Play a timeline, from where it is held or from its beginning
        PlayTimeline(name: String) = "play-timeline";
        /// Hold a timeline where it is, or let it go on
        HoldTimeline(name: String) = "hold-timeline";
        /// End a timeline: who had its tiers has them again
        StopTimeline(name: String) = "stop-timeline";
        /// Go to a place of a timeline, in its seconds or bars
        SeekTimeline(place: TimelinePlace) = "seek-timeline";
        /// Set the speed of all effects, in times of their own; 0 holds them
        Speed(times: f32) = "speed";
        /// Switch the rotation on or off; on, it takes its tier back from a hand
        Rotate(on: bool) = "rotate";
        /// End every test, flash, hold, rotation, cue list and armed thing, and leave the safe look
        Panic = "panic" startles;
        /// Black out, or bring the light back
        Blackout = "blackout" startles;
        /// Black out, or bring the light back, whatever it is now
        SetBlackout(on: bool) = "set-blackout" startles;
        /// Have all light flash, in flashes a second and within the strobe limit; 0 ends it
        Strobe(rate: f32) = "strobe";
        /// Set a part of one of the two colours of the stage
        ColourPart(part: ColourPart) = "colour-part";
        /// Give the stage its two colours, in percent: bright light the first, dark light the second
        Recolour(percent: f32) = "recolour";
        /// Set the master, in percent
        Master(percent: f32) = "master";
        /// Move the master up, or down below zero, in percent
        NudgeMaster(percent: f32) = "nudge-master";
        /// Tap the tempo; the first tap begins a bar
        Tap = "tap";
        /// Set the tempo, in beats a minute
        Tempo(bpm: f32) = "tempo";
        /// Follow the tempo that is heard
        FollowMusic = "follow-music";
        /// Count twice as many beats as are heard, or half as many (0.5)
        TempoTimes(by: f32) = "tempo-times";
        /// Move the beat against the music, in hundredths of a beat
        NudgeBeat(hundredths: i32) = "nudge-beat";
        /// Say which part of the music it is, until another is heard: on to the next part, or back below zero
        NextSection(by: i32) = "next-section";
        /// Begin a bar with this beat; what waits for a bar lands
        BarHere = "bar-here";
        /// Begin a phrase with this beat; what waits for a phrase lands
        PhraseHere = "phrase-here";
        /// Test the lights: they flash, a pixel walks, or slots are held
        Test(test: LightTest) = "test" startles;
        /// Move the walking pixel on, or back below zero
        WalkStep(by: i32) = "walk-step";
        /// Set a control to a percentage
        Control(level: ControlLevel) = "control";
        /// Move counters that wait for it on by one
        CountForward = "count-forward";
        /// Move counters that wait for it back by one
        CountBack = "count-back";
        /// Begin counters that wait for it anew
        CountReset = "count-reset";
        /// Glide a look, or one of its layers, to the middle of its cycle
        CentrePhase(layer: LayerPlace) = "centre-phase";
        /// Begin a look, or one of its layers, anew on the next beat
        RestartPhase(layer: LayerPlace) = "restart-phase";
        /// Step a look, or one of its layers, on by one cycle: of looks that take turns, to the next
        StepForward(layer: LayerPlace) = "step-forward";
        /// Step a look, or one of its layers, back by one cycle
        StepBack(layer: LayerPlace) = "step-back";
        /// Forget the highest currents that were measured
        ResetPeaks = "reset-peaks";
    }

    /// A command to the document.
    Document DocumentCommand<E> {
        /// Change the show
        Edit(edit: E) = "edit";
        /// Show what a change of the show would look like
        TryEdit(edit: E) = "try-edit";
        /// Drop what is only tried
        DropTried = "drop-tried";
        /// Set a setting
        Set(setting: SettingChange) = "set";
        /// Move a setting up by a step, or by several, or down below zero
        Nudge(setting: SettingNudge) = "nudge";
        /// Take the last change of the show back
        Undo = "undo";
        /// Make the change again that was taken back
        Redo = "redo";
        /// Edit looks blind: nothing goes out until it is kept
        EditBlind = "edit-blind";
        /// Keep looks that are edited blind back
        Draft(looks: Vec<(String, Look)>) = "draft";
        /// Take the last blind change back
        UndoDraft = "undo-draft";
        /// Make the blind change again that was taken back
        RedoDraft = "redo-draft";
        /// Keep what was edited blind: it goes out
        KeepDrafts = "keep-drafts";
        /// Drop what was edited blind
        DropDrafts = "drop-drafts";
    }

    /// A command to the session.
    Session SessionCommand {
        /// Save the show
        Save = "save";
        /// Save the show under another name
        SaveAs(file: String) = "save-as";
        /// Write the patch into a CSV file
        ExportPatch(file: String) = "export-patch";
        /// Write a cue list into a CSV file: the name of the list, then the file
        ExportCues(what: String) = "export-cues";
        /// Take over work that was not saved the last time
        Recover = "recover";
        /// Put work that was not saved the last time aside
        LeaveFound = "leave-found";
        /// Go on with what was on stage when the session ended badly
        Resume = "resume";
        /// Begin as usual, whatever was on stage when the session ended badly
        BeginAnew = "begin-anew";
        /// Make a still look of what is on the lights now, a colour for each light
        HoldLight(name: String) = "hold-light";
        /// Record what is on stage as a new cue of a list, all of it; Opening/4.5 says which number it gets
        RecordCue(cue: String) = "record-cue";
        /// Record the tiers that are not as the last cue of a list has them as a new cue
        RecordChanges(list: String) = "record-changes";
        /// Change the cue that a list is at to what is on stage
        UpdateCue(list: String) = "update-cue";
        /// Strike an event into a lane of a pattern that plays: it comes onto the grid, where the pattern is
        Strike(lane: LanePlace) = "strike";
        /// Record where heads point as an aim: those that a hand points, or else all
        RecordAim(aim: String) = "record-aim";
        /// Hear a recording for a timeline, whose ruler gets its beats, bars and parts: the name of the timeline, then the file; without a
        /// file the recording that plays
        HearRecording(what: String) = "hear-recording";
        /// Set something off at every node (Art-Net)
        Trigger(what: String) = "trigger";
        /// Record what leaves into a file (pcapng)
        Record(file: String) = "record";
        /// End the recording
        StopRecording = "stop-recording";
        /// Take what somebody else wrote into the show's file
        TakeTheirs = "take-theirs";
        /// Keep this show, where somebody else wrote its file too: the next save writes over theirs
        KeepMine = "keep-mine";
        /// Forget the nodes that are gone
        ForgetNodes = "forget-nodes";
        /// Bind the next control that is moved to a command, such as master or fire-pad 3; off ends it
        Learn(what: String) = "learn";
        /// Switch an input on, or off again
        SwitchInput(name: String) = "switch-input";
        /// Bring in the bindings that the model of an input's controller comes with
        BindModel(name: String) = "bind-model";
        /// Press a key of the show's own layout
        PressKey(key: String) = "press-key";
        /// Let a key of the show's own layout go
        LetKeyGo(key: String) = "let-key-go";
        /// Choose the bank whose pads bank-pad fires, for whoever asks
        ChooseBank(bank: usize) = "choose-bank";
        /// Fire a pad, 1 to 36, of the bank that whoever asks has chosen
        BankPad(pad: usize) = "bank-pad";
        /// Fire a pad of the bank that was chosen, and hold it
        HoldBankPad(pad: usize) = "hold-bank-pad";
        /// Let a pad of the bank that was chosen go
        LetBankPadGo(pad: usize) = "let-bank-pad-go";
        /// Start a program or a sound of the show, where this machine lets it
        Run(name: String) = "run";
        /// End a program or a sound that was started
        EndRun(name: String) = "end-run";
        /// Let this show start its programs on this machine: off, on, or network
        AllowPrograms(who: String) = "allow-programs";
        /// Hold the recording that is heard where it is, or let it go on
        PauseMusic = "pause-music";
        /// Go on, or back below zero, in the recording that is heard, in seconds
        SeekMusic(seconds: f32) = "seek-music";
        /// Flash all lights and click each second, to find out how late light is; again to end it
        FlashAndClick = "flash-and-click" startles;
        /// End the session: the lights go out, and sACN streams are told that they end
        End = "end" startles;
    }
}

/// The command of a name.
#[must_use]
pub fn info(name: &str) -> Option<&'static CommandInfo> {
    COMMANDS.iter().find(|info| info.name == name)
}

impl<E: Argument> Command<E> {
    /// The same with another name for each file that it names, such as the whole path of one that a person gave from where they
    /// sit.
    #[must_use]
    pub fn with_files(self, name: impl Fn(&str) -> String) -> Self {
        match self {
            Self::Session(SessionCommand::SaveAs(file)) => SessionCommand::SaveAs(name(&file)).into(),
            Self::Session(SessionCommand::Record(file)) => SessionCommand::Record(name(&file)).into(),
            Self::Session(SessionCommand::ExportPatch(file)) => SessionCommand::ExportPatch(name(&file)).into(),
            Self::Engine(_) | Self::Document(_) | Self::Session(_) => self,
        }
    }

    /// True if an input may ask for it although the show does not say that inputs may do everything: it writes no file, changes
    /// neither show nor routes, and ends nothing.
    #[must_use]
    pub fn is_safe(&self) -> bool {
        match self {
            Self::Engine(_) => true,
            Self::Document(command) => match command {
                DocumentCommand::Set(_) | DocumentCommand::Nudge(_) => true,
                DocumentCommand::Edit(_)
                | DocumentCommand::TryEdit(_)
                | DocumentCommand::DropTried
                | DocumentCommand::Undo
                | DocumentCommand::Redo
                | DocumentCommand::EditBlind
                | DocumentCommand::Draft(_)
                | DocumentCommand::UndoDraft
                | DocumentCommand::RedoDraft
                | DocumentCommand::KeepDrafts
                | DocumentCommand::DropDrafts => false,
            },
            Self::Session(command) => match command {
                SessionCommand::Trigger(_)
                | SessionCommand::ChooseBank(_)
                | SessionCommand::BankPad(_)
                | SessionCommand::HoldBankPad(_)
                | SessionCommand::LetBankPadGo(_)
                | SessionCommand::Run(_)
                | SessionCommand::EndRun(_)
                | SessionCommand::PauseMusic
                | SessionCommand::SeekMusic(_)
                | SessionCommand::FlashAndClick => true,
                SessionCommand::RecordCue(_)
                | SessionCommand::RecordChanges(_)
                | SessionCommand::UpdateCue(_)
                | SessionCommand::RecordAim(_)
                | SessionCommand::Strike(_)
                | SessionCommand::HearRecording(_)
                | SessionCommand::Save
                | SessionCommand::SaveAs(_)
                | SessionCommand::ExportPatch(_)
                | SessionCommand::ExportCues(_)
                | SessionCommand::Recover
                | SessionCommand::LeaveFound
                | SessionCommand::Resume
                | SessionCommand::BeginAnew
                | SessionCommand::HoldLight(_)
                | SessionCommand::Record(_)
                | SessionCommand::StopRecording
                | SessionCommand::TakeTheirs
                | SessionCommand::KeepMine
                | SessionCommand::ForgetNodes
                | SessionCommand::Learn(_)
                | SessionCommand::SwitchInput(_)
                | SessionCommand::BindModel(_)
                | SessionCommand::PressKey(_)
                | SessionCommand::LetKeyGo(_)
                | SessionCommand::AllowPrograms(_)
                | SessionCommand::End => false,
            },
        }
    }

    /// True if it moves something on and on, as a fader does, and is not done once, as a pad is fired.
    #[must_use]
    pub fn is_gradual(&self) -> bool {
        let name = self.name();
        name.contains("level")
            || name.contains("nudge")
            || matches!(name, "master" | "control" | "speed" | "strobe" | "recolour" | "colour-part")
    }

    /// Its description.
    #[must_use]
    pub fn info(&self) -> &'static CommandInfo {
        info(self.name()).unwrap_or(&COMMANDS[0])
    }
}

impl<E: Argument> fmt::Display for Command<E> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.argument() {
            None => f.write_str(self.name()),
            Some(argument) => write!(f, "{} {argument}", self.name()),
        }
    }
}

/// A text that is no command.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BadCommand {
    /// No command has this name.
    #[error("there is no command \"{0}\"")]
    Unknown(String),
    /// The argument is missing or of the wrong kind.
    #[error("{}; give it {takes}", missing_or_wrong(text, argument))]
    Argument {
        /// The argument's name.
        argument: &'static str,
        /// The forms in which it is written.
        takes: &'static str,
        /// The text as it was written.
        text: String,
    },
    /// A number is out of range: why, with the range.
    #[error("{0}")]
    Range(String),
    /// Something stands behind a command that takes nothing.
    #[error("nothing is to stand behind it, and there stands \"{0}\"")]
    NoArgument(String),
}

fn missing_or_wrong(text: &str, argument: &str) -> String {
    if text.is_empty() { format!("the {argument} is missing") } else { format!("\"{text}\" is no {argument}") }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::HeldSlot;
    use crate::setting::SettingValue;

    #[test]
    fn commands_round_trip_as_text_and_as_data() {
        let all: [Command; 13] = [
            EngineCommand::FirePad(3).into(),
            EngineCommand::FireLook("Ember Night".into()).into(),
            EngineCommand::Master(62.5).into(),
            EngineCommand::Test(LightTest::Identify(vec![3, 4])).into(),
            EngineCommand::Control(ControlLevel { control: 3, percent: 50.0 }).into(),
            EngineCommand::CentrePhase(LayerPlace { look: "Undertow".into(), layer: Some(1) }).into(),
            EngineCommand::RestartPhase(LayerPlace { look: "Ember Night".into(), layer: None }).into(),
            EngineCommand::StepForward(LayerPlace { look: "Undertow".into(), layer: Some(2) }).into(),
            DocumentCommand::Set(SettingChange { name: "fade".into(), value: SettingValue::Number(2.5) }).into(),
            DocumentCommand::Set(SettingChange { name: "dither".into(), value: SettingValue::Flag(false) }).into(),
            DocumentCommand::Nudge(SettingNudge { name: "lands".into(), by: -1 }).into(),
            SessionCommand::SaveAs("two words.splimo".into()).into(),
            SessionCommand::End.into(),
        ];
        for command in all {
            assert_eq!(command.to_string().parse(), Ok(command.clone()));
            let data = serde_json::to_string(&command).expect("serialises");
            assert_eq!(serde_json::from_str::<Command>(&data).expect("deserialises"), command);
        }
    }

    #[test]
    fn nonsense_is_refused_with_a_reason() {
        let held = "test hold 2.10 255 2.11 7".parse::<Command>().expect("two slots");
        let slot = |channel, value| HeldSlot { universe: 2, channel, value };
        assert_eq!(held, EngineCommand::Test(LightTest::Hold(vec![slot(10, 255), slot(11, 7)])).into());
        for (text, why) in [
            ("dance", "there is no command \"dance\""),
            ("master loud", "\"loud\" is no percent; give it a number"),
            ("master nan", "give it a number"),
            ("control 65 50", "a control from 1 to 64 and a percentage"),
            ("fire-look", "the look is missing"),
            ("set fade", "a setting and its value"),
            ("set fade loud", "a setting and its value"),
            ("set colour 3", "a setting and its value"),
            ("test", "the test is missing"),
            ("test identify", "off, flash, identify 3 4"),
            ("test identify 0", "off, flash, identify 3 4"),
            ("test hold 1.513 9", "off, flash, identify 3 4"),
            ("go 3", "there stands \"3\""),
            ("fire-pad 0", "from 1"),
        ] {
            let error = text.parse::<Command>().expect_err(text).to_string();
            assert!(error.contains(why), "{text}: {error}");
        }
    }

    #[test]
    fn names_are_unique_and_every_command_says_what_it_does() {
        for (i, info) in COMMANDS.iter().enumerate() {
            assert!(COMMANDS[..i].iter().all(|other| other.name != info.name), "{}", info.name);
            assert!(info.help().len() > 5 && !info.help().ends_with('.'), "{}", info.name);
            assert!(info.help().starts_with(char::is_uppercase), "{}", info.name);
            assert!(!info.help().contains("(1)") && !info.help().contains("(-1)"), "{}", info.name);
        }
    }
}
