//! The one list of everything that a person or a machine can ask of a session. Keys, mouse, palette, MIDI, OSC, DMX, the
//! command line, cues and tests all send [`Command`]s through one dispatch; nothing reaches around it.
//!
//! The text form of a command is its name, and its argument behind a space: `fire-pad 3`.

pub mod argument;
mod template;

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

pub use argument::{
    Argument, ColourPart, ControlLevel, CuePlace, CueSet, CueTarget, JSON, LanePlace, LayerPlace, MOST_SPEED,
    MOST_STROBE, NamedLevel, Number, SettingChange, SettingNudge, TimelinePlace, Unwritten, Visitor,
};
pub use template::{CommandTemplate, VALUE};

use crate::reference::{ReferenceKind, names};
use crate::{Boundary, LightTest, Show};
use argument::{
    AimCalled, BeatStep, BeatTimes, BlindLooks, Bpm, FadeBeats, File, FlashRate, GroupLevel, HeadPlace, HeadStep,
    Input, InputModel, Key, LightsNamed, List, ListAndFile, LookOnTier, MasterLevel, MasterStep, MusicSeconds, NewAim,
    NewCue, NewLook, ProgramNamed, Recolouring, Target, TierLevel, TierNamed, TierStep, TimelineAndFile, TimelineNamed,
    Times, Word,
};

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
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ArgumentInfo {
    /// Its name.
    pub name: &'static str,
    /// The forms in which it is written, in words.
    pub takes: &'static str,
    /// The number in it, if there is one that can be moved.
    pub number: Option<Number>,
    /// The kinds of things of the show that it names: what completes it.
    pub names: &'static [ReferenceKind],
}

/// The description of a command.
#[derive(Debug, Clone, Copy, PartialEq)]
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
    /// True if an input may ask for it although the show does not say that inputs may do everything: it writes no file, changes
    /// neither show nor routes, and ends nothing.
    pub is_safe: bool,
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

/// True if a word is among some.
const fn has(words: &[&str], word: &str) -> bool {
    let mut at = 0;
    while at < words.len() {
        if equal(words[at].as_bytes(), word.as_bytes()) {
            return true;
        }
        at += 1;
    }
    false
}

const fn equal(a: &[u8], b: &[u8]) -> bool {
    let mut at = 0;
    while at < a.len() && at < b.len() && a[at] == b[at] {
        at += 1;
    }
    at == a.len() && at == b.len()
}

/// Declares every command: who carries it out, its help, its argument by its kind, its name, and behind that `startles` and `safe`, as
/// [`CommandInfo`] has them. Whatever can be said of all commands alike is made of this table.
macro_rules! commands {
    ($($(#[$about:meta])* $addressee:ident $kind:ident $(<$edit:ident>)? {
        $($(#[doc = $doc:literal])* $variant:ident $(($argument:ident: $type:ident))? = $name:literal $($flag:ident)*;)*
    })*) => {
        $(
            $(#[$about])*
            #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
            #[serde(rename_all = "kebab-case", bound = "")]
            pub enum $kind $(<$edit: Argument = Unwritten>)? {
                $($(#[doc = $doc])* $variant $((<$type as Argument>::Value))?,)*
            }

            impl<E: Argument> From<$kind $(<$edit>)?> for Command<E> {
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
                        $(commands!(@bind $kind $variant bound $($argument)?) => commands!(@text bound $($type)?),)*
                    }
                }

                fn parse(name: &str, argument: &str) -> Result<Self, BadCommand> {
                    match name {
                        $($name => commands!(@parse $kind $variant argument $($argument: $type)?),)*
                        _ => Err(BadCommand::Unknown(name.to_owned())),
                    }
                }

                /// The reason why its number is out of range, with the range; none if it is within.
                #[must_use]
                pub fn out_of_range(&self) -> Option<String> {
                    match self {
                        $(commands!(@bind $kind $variant bound $($argument)?) => commands!(@ask refusal bound $($type)?),)*
                    }
                }

                /// The number of its argument: what a fader may move.
                #[must_use]
                pub fn number(&self) -> Option<f32> {
                    match self {
                        $(commands!(@bind $kind $variant bound $($argument)?) => commands!(@ask number bound $($type)?),)*
                    }
                }

                fn set_number(&mut self, number: f32) -> bool {
                    match self {
                        $(commands!(@bind $kind $variant bound $($argument)?) => {
                            commands!(@put number bound $($type)?)
                        })*
                    }
                }

                fn visit(&mut self, visitor: &mut dyn Visitor) -> bool {
                    match self {
                        $(commands!(@bind $kind $variant bound $($argument)?) => {
                            commands!(@visit visitor bound $($type)?)
                        })*
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
                startles: has(&[$(stringify!($flag)),*], "startles"),
                // The engine writes no file and ends nothing.
                is_safe: matches!(Addressee::$addressee, Addressee::Engine) || has(&[$(stringify!($flag)),*], "safe"),
            },)*)*]
        };

        /// Something asked of a session. Edits are of a type that this crate does not know; a show holds none, so its own commands have
        /// [`Unwritten`] in the place of them.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
        #[serde(rename_all = "kebab-case", bound = "")]
        pub enum Command<E: Argument = Unwritten> {
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

            /// The reason why its number is out of range, with the range; none if it is within.
            #[must_use]
            pub fn out_of_range(&self) -> Option<String> {
                match self { $(Self::$addressee(command) => command.out_of_range(),)* }
            }

            /// The number of its argument: what a fader may move.
            #[must_use]
            pub fn number(&self) -> Option<f32> {
                match self { $(Self::$addressee(command) => command.number(),)* }
            }

            /// Puts another number into its argument, rounded to what that takes. False if there is none, or it does not take this one.
            pub fn set_number(&mut self, number: f32) -> bool {
                match self { $(Self::$addressee(command) => command.set_number(number),)* }
            }

            /// Shows a visitor what it names. False if it is to go with what is gone.
            pub fn visit(&mut self, visitor: &mut dyn Visitor) -> bool {
                match self { $(Self::$addressee(command) => command.visit(visitor),)* }
            }
        }

        $(impl $kind {
            #[allow(clippy::extra_unused_type_parameters, reason = "only the list with edits needs it")]
            fn widened<W: Argument>(self) -> $kind $(<commands!(@wide $edit)>)? {
                match self {
                    $(commands!(@bind $kind $variant bound $($argument)?) => commands!(@widen $kind $variant bound $($type)?),)*
                }
            }
        })*

        impl Command {
            /// The same where edits can be asked for too.
            #[must_use]
            pub fn widened<E: Argument>(self) -> Command<E> {
                match self { $(Self::$addressee(command) => Command::$addressee(command.widened::<E>()),)* }
            }
        }

        impl<E: Argument> FromStr for Command<E> {
            type Err = BadCommand;

            fn from_str(text: &str) -> Result<Self, BadCommand> {
                let command = Self::read(text)?;
                match command.out_of_range() {
                    Some(why) => Err(BadCommand::Range(why)),
                    None => Ok(command),
                }
            }
        }

        impl<E: Argument> Command<E> {
            /// The command of a text, whatever its number is.
            fn read(text: &str) -> Result<Self, BadCommand> {
                let (name, argument) = text.trim().split_once(' ').unwrap_or((text.trim(), ""));
                let info = info(name).ok_or_else(|| BadCommand::Unknown(name.to_owned()))?;
                match info.addressee {
                    $(Addressee::$addressee => $kind::parse(name, argument.trim()).map(Self::$addressee),)*
                }
            }
        }
    };
    (@pattern $kind:ident $variant:ident) => { $kind::$variant };
    (@pattern $kind:ident $variant:ident $argument:ident) => { $kind::$variant(_) };
    (@bind $kind:ident $variant:ident $bound:ident) => { $kind::$variant };
    (@bind $kind:ident $variant:ident $bound:ident $argument:ident) => { $kind::$variant($bound) };
    // A command of a show has no edit in it; everything else is what it was.
    (@wide $edit:ident) => { W };
    (@widen $kind:ident $variant:ident $bound:ident) => { $kind::$variant };
    (@widen $kind:ident $variant:ident $bound:ident E) => { match $bound {} };
    (@widen $kind:ident $variant:ident $bound:ident $type:ident) => { $kind::$variant($bound) };
    (@text $bound:ident) => { None };
    (@text $bound:ident $type:ident) => { Some(<$type as Argument>::text($bound)) };
    (@ask $what:ident $bound:ident) => { None };
    (@ask $what:ident $bound:ident $type:ident) => { <$type as Argument>::$what($bound) };
    (@put $number:ident $bound:ident) => { false };
    (@put $number:ident $bound:ident $type:ident) => { <$type as Argument>::set_number($bound, $number) };
    (@visit $visitor:ident $bound:ident) => { true };
    (@visit $visitor:ident $bound:ident $type:ident) => { <$type as Argument>::visit($bound, $visitor) };
    (@parse $kind:ident $variant:ident $text:ident) => {
        if $text.is_empty() { Ok($kind::$variant) } else { Err(BadCommand::NoArgument($text.to_owned())) }
    };
    (@parse $kind:ident $variant:ident $text:ident $argument:ident: $type:ident) => {
        <$type as Argument>::parse($text).map($kind::$variant).ok_or_else(|| BadCommand::Argument {
            argument: stringify!($argument),
            takes: <$type as Argument>::TAKES,
            text: $text.to_owned(),
        })
    };
    (@info) => { None };
    (@info $argument:ident: $type:ident) => {
        Some(ArgumentInfo {
            name: stringify!($argument),
            takes: <$type as Argument>::TAKES,
            number: <$type as Argument>::NUMBER,
            names: <$type as Argument>::NAMES,
        })
    };
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
        FireLook(look: LookOnTier) = "fire-look";
        /// Put a look on a tier at once, whole
        CutTo(look: LookOnTier) = "cut-to";
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
        NextFade(beats: FadeBeats) = "next-fade";
        /// Release a tier: what it shows fades out by its own time
        ReleaseTier(tier: TierNamed) = "release-tier";
        /// Release all tiers but the lowest
        ClearTiers = "clear-tiers";
        /// Set the level of a tier
        TierLevel(level: TierLevel) = "tier-level";
        /// Move the level of a tier up, or down below zero
        NudgeTier(level: TierStep) = "nudge-tier";
        /// Mute a tier, or let it be seen again
        MuteTier(tier: TierNamed) = "mute-tier";
        /// Show only a tier, and others that are solo, or all again
        SoloTier(tier: TierNamed) = "solo-tier";
        /// Pan heads by hand to a percentage of what they can turn
        HeadPan(level: HeadPlace) = "head-pan";
        /// Tilt heads by hand to a percentage of what they can turn
        HeadTilt(level: HeadPlace) = "head-tilt";
        /// Pan heads by hand to the right, or to the left below zero, in percent
        NudgePan(level: HeadStep) = "nudge-pan";
        /// Tilt heads by hand on, or back below zero, in percent
        NudgeTilt(level: HeadStep) = "nudge-tilt";
        /// Point heads by hand as an aim says: all of them, or those of a group, as in Gulls/Booth
        CallAim(aim: AimCalled) = "call-aim";
        /// Let heads go that were pointed by hand: what is on stage points them again
        LetHeads(name: LightsNamed) = "let-heads";
        /// Let all heads go that were pointed by hand
        LetAllHeads = "let-all-heads";
        /// Set the level of a group of lights
        GroupLevel(level: GroupLevel) = "group-level";
        /// Go on to the next cue of a list
        GoCue(list: List) = "go-cue";
        /// Go back to the cue before in a list, by the fade that is set for it
        BackCue(list: List) = "back-cue";
        /// Go to a cue of a list, at once or in some seconds
        GoToCue(cue: CueTarget) = "go-to-cue";
        /// Pass over the next cue of a list
        SkipCue(list: List) = "skip-cue";
        /// Hold a cue list and its fades where they are, or let it go on
        PauseCues(list: List) = "pause-cues";
        /// Go to the first cue of a list, by the fade that is set for going back
        ResetCues(list: List) = "reset-cues";
        /// Release a cue list: who had its tiers has them again
        ReleaseCues(list: List) = "release-cues";
        /// Go on from some cues of a list if it is at one of them, as the event does that they wait for
        CueGoesOn(cues: CueSet) = "cue-goes-on";
        /// Play a timeline, from where it is held or from its beginning
        PlayTimeline(name: TimelineNamed) = "play-timeline";
        /// Hold a timeline where it is, or let it go on
        HoldTimeline(name: TimelineNamed) = "hold-timeline";
        /// End a timeline: who had its tiers has them again
        StopTimeline(name: TimelineNamed) = "stop-timeline";
        /// Go to a place of a timeline, in its seconds or bars
        SeekTimeline(place: TimelinePlace) = "seek-timeline";
        /// Set the speed of all effects, in times of their own; 0 holds them
        Speed(times: Times) = "speed";
        /// Switch the rotation on or off; on, it takes its tier back from a hand
        Rotate(on: bool) = "rotate";
        /// End every test, flash, hold, rotation, cue list and armed thing, and leave the safe look
        Panic = "panic" startles;
        /// Black out, or bring the light back
        Blackout = "blackout" startles;
        /// Black out, or bring the light back, whatever it is now
        SetBlackout(on: bool) = "set-blackout" startles;
        /// Have all light flash, in flashes a second and within the strobe limit; 0 ends it
        Strobe(rate: FlashRate) = "strobe";
        /// Set a part of one of the two colours of the stage
        ColourPart(part: ColourPart) = "colour-part";
        /// Give the stage its two colours, in percent: bright light the first, dark light the second
        Recolour(percent: Recolouring) = "recolour";
        /// Set the master, in percent
        Master(percent: MasterLevel) = "master";
        /// Move the master up, or down below zero, in percent
        NudgeMaster(percent: MasterStep) = "nudge-master";
        /// Tap the tempo; the first tap begins a bar
        Tap = "tap";
        /// Set the tempo, in beats a minute
        Tempo(bpm: Bpm) = "tempo";
        /// Follow the tempo that is heard
        FollowMusic = "follow-music";
        /// Count twice as many beats as are heard, or half as many (0.5)
        TempoTimes(by: BeatTimes) = "tempo-times";
        /// Move the beat against the music, in hundredths of a beat
        NudgeBeat(hundredths: BeatStep) = "nudge-beat";
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
        Set(setting: SettingChange) = "set" safe;
        /// Move a setting up by a step, or by several, or down below zero
        Nudge(setting: SettingNudge) = "nudge" safe;
        /// Take the last change of the show back
        Undo = "undo";
        /// Make the change again that was taken back
        Redo = "redo";
        /// Edit looks blind: nothing goes out until it is kept
        EditBlind = "edit-blind";
        /// Keep looks that are edited blind back
        Draft(looks: BlindLooks) = "draft";
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
        SaveAs(file: File) = "save-as";
        /// Write the patch into a CSV file
        ExportPatch(file: File) = "export-patch";
        /// Write a cue list into a CSV file: the name of the list, then the file
        ExportCues(what: ListAndFile) = "export-cues";
        /// Take over work that was not saved the last time
        Recover = "recover";
        /// Put work that was not saved the last time aside
        LeaveFound = "leave-found";
        /// Go on with what was on stage when the session ended badly
        Resume = "resume";
        /// Begin as usual, whatever was on stage when the session ended badly
        BeginAnew = "begin-anew";
        /// Make a still look of what is on the lights now, a colour for each light
        HoldLight(name: NewLook) = "hold-light";
        /// Record what is on stage as a new cue of a list, all of it; Opening/4.5 says which number it gets
        RecordCue(cue: NewCue) = "record-cue";
        /// Record the tiers that are not as the last cue of a list has them as a new cue
        RecordChanges(list: List) = "record-changes";
        /// Change the cue that a list is at to what is on stage
        UpdateCue(list: List) = "update-cue";
        /// Strike an event into a lane of a pattern that plays: it comes onto the grid, where the pattern is
        Strike(lane: LanePlace) = "strike";
        /// Record where heads point as an aim: those that a hand points, or else all
        RecordAim(aim: NewAim) = "record-aim";
        /// Hear a recording for a timeline, whose ruler gets its beats, bars and parts: the name of the timeline, then the file; without a
        /// file the recording that plays
        HearRecording(what: TimelineAndFile) = "hear-recording";
        /// Set something off at every node (Art-Net)
        Trigger(what: Word) = "trigger" safe;
        /// Record what leaves into a file (pcapng)
        Record(file: File) = "record";
        /// End the recording
        StopRecording = "stop-recording";
        /// Take what somebody else wrote into the show's file
        TakeTheirs = "take-theirs";
        /// Keep this show, where somebody else wrote its file too: the next save writes over theirs
        KeepMine = "keep-mine";
        /// Forget the nodes that are gone
        ForgetNodes = "forget-nodes";
        /// Bind the next control that is moved to a command, such as master or fire-pad 3; off ends it
        Learn(what: Target) = "learn";
        /// Switch an input on, or off again
        SwitchInput(name: Input) = "switch-input";
        /// Bring in the bindings that the model of an input's controller comes with
        BindModel(name: InputModel) = "bind-model";
        /// Press a key of the show's own layout
        PressKey(key: Key) = "press-key";
        /// Let a key of the show's own layout go
        LetKeyGo(key: Key) = "let-key-go";
        /// Choose the bank whose pads bank-pad fires, for whoever asks
        ChooseBank(bank: usize) = "choose-bank" safe;
        /// Fire a pad, 1 to 36, of the bank that whoever asks has chosen
        BankPad(pad: usize) = "bank-pad" safe;
        /// Fire a pad of the bank that was chosen, and hold it
        HoldBankPad(pad: usize) = "hold-bank-pad" safe;
        /// Let a pad of the bank that was chosen go
        LetBankPadGo(pad: usize) = "let-bank-pad-go" safe;
        /// Start a program or a sound of the show, where this machine lets it
        Run(name: ProgramNamed) = "run" safe;
        /// End a program or a sound that was started
        EndRun(name: ProgramNamed) = "end-run" safe;
        /// Let this show start its programs on this machine: off, on, or network
        AllowPrograms(who: Word) = "allow-programs";
        /// Hold the recording that is heard where it is, or let it go on
        PauseMusic = "pause-music" safe;
        /// Go on, or back below zero, in the recording that is heard, in seconds
        SeekMusic(seconds: MusicSeconds) = "seek-music" safe;
        /// Flash all lights and click each second, to find out how late light is; again to end it
        FlashAndClick = "flash-and-click" startles safe;
        /// End the session: the lights go out, and sACN streams are told that they end
        End = "end" startles;
    }
}

/// The command of a name.
#[must_use]
pub fn info(name: &str) -> Option<&'static CommandInfo> {
    COMMANDS.iter().find(|info| info.name == name)
}

/// Gives each file another name. Names that the show has tell where a file begins behind them.
struct Files<'s, F> {
    show: Option<&'s Show>,
    rename: F,
}

impl<F: Fn(&str) -> String> Visitor for Files<'_, F> {
    fn name(&mut self, _kinds: &'static [ReferenceKind], _name: &mut String) -> bool {
        true
    }
    fn new_name(&mut self, _kinds: &'static [ReferenceKind], _name: &mut String) -> bool {
        true
    }
    fn file(&mut self, path: &mut String) {
        *path = (self.rename)(path);
    }
    fn is_known(&mut self, kinds: &'static [ReferenceKind], name: &str) -> bool {
        let known = |show: &Show| kinds.iter().any(|kind| names(show, *kind).any(|known| known == name));
        self.show.is_some_and(known)
    }
}

impl<E: Argument> Command<E> {
    /// The same with another name for each file that it names, such as the whole path of one that a person gave from where they
    /// sit. A file behind the name of a cue list or timeline is found where the show is given, which says where the name ends.
    #[must_use]
    pub fn with_files(mut self, show: Option<&Show>, rename: impl Fn(&str) -> String) -> Self {
        self.visit(&mut Files { show, rename });
        self
    }

    /// True if an input may ask for it although the show does not say that inputs may do everything; see [`CommandInfo::is_safe`].
    #[must_use]
    pub fn is_safe(&self) -> bool {
        self.info().is_safe
    }

    /// True if it moves something on and on, as a fader does, and is not done once, as a pad is fired.
    #[must_use]
    pub fn is_gradual(&self) -> bool {
        self.number_info().is_some_and(|number| number.gradual)
    }

    /// The number that it takes, if there is one that can be moved.
    #[must_use]
    pub fn number_info(&self) -> Option<Number> {
        self.info().argument?.number
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
    fn a_file_is_found_behind_the_name_of_a_list() {
        let mut show = Show::empty("Files");
        show.cue_lists = ["Night", "Night two"].map(crate::CueList::new).into();
        let whole = |text: &str, show: Option<&Show>| {
            text.parse::<Command>().expect(text).with_files(show, |file| format!("/there/{file}")).to_string()
        };
        assert_eq!(whole("export-cues Night two out.csv", Some(&show)), "export-cues Night two /there/out.csv");
        assert_eq!(whole("export-cues Night my cues.csv", Some(&show)), "export-cues Night /there/my cues.csv");
        assert_eq!(whole("export-cues Morning out.csv", Some(&show)), "export-cues Morning out.csv", "no such list");
        assert_eq!(whole("save-as two words.splimo", None), "save-as /there/two words.splimo");
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

    /// Commands that are in no table but this one: each has all that is derived of its line.
    #[expect(unreachable_pub, reason = "the table makes them public")]
    mod added {
        use super::super::*;
        use crate::command::argument::{File, LookOnTier, TierLevel};

        commands! {
            /// A command to the engine.
            Engine EngineCommand {
                /// Show a look
                Show(look: LookOnTier) = "show";
                /// Lift a tier
                Lift(level: TierLevel) = "lift" startles;
                /// Wait
                Wait = "wait";
            }
            /// A command to the session.
            Session SessionCommand {
                /// Write a file
                Keep(file: File) = "keep";
                /// Look up
                Ask = "ask" safe;
            }
            /// A change of the show.
            Document DocumentCommand<E> {
                /// Change it
                Edit(edit: E) = "edit";
            }
        }

        fn info(name: &str) -> Option<&'static CommandInfo> {
            COMMANDS.iter().find(|info| info.name == name)
        }

        impl Command {
            /// The command as it is written.
            pub fn words(&self) -> String {
                self.argument().map_or(self.name().to_owned(), |argument| format!("{} {argument}", self.name()))
            }
        }
    }

    /// Renames whatever look is named, and lets whatever tier is named go.
    struct Renames(Vec<&'static [ReferenceKind]>);

    impl Visitor for Renames {
        fn name(&mut self, kinds: &'static [ReferenceKind], name: &mut String) -> bool {
            self.0.push(kinds);
            "New".clone_into(name);
            kinds != [ReferenceKind::Tier]
        }

        fn new_name(&mut self, _kinds: &'static [ReferenceKind], _name: &mut String) -> bool {
            true
        }

        fn file(&mut self, _path: &mut String) {}

        fn is_known(&mut self, _kinds: &'static [ReferenceKind], _name: &str) -> bool {
            false
        }
    }

    #[test]
    fn a_command_that_is_added_has_all_that_is_derived_of_its_line() {
        use added::{COMMANDS, Command, SessionCommand};
        let infos: Vec<_> = COMMANDS.iter().map(|info| (info.name, info.startles, info.is_safe, info.help())).collect();
        assert_eq!(
            infos,
            [
                ("show", false, true, "Show a look"),
                ("lift", true, true, "Lift a tier"),
                ("wait", false, true, "Wait"),
                ("keep", false, false, "Write a file"),
                ("ask", false, true, "Look up"),
                ("edit", false, false, "Change it"),
            ]
        );
        let lift = COMMANDS[1].argument.expect("a level");
        assert!(lift.names.contains(&ReferenceKind::Tier), "what completes it");
        assert!(lift.number.is_some_and(|number| number.gradual), "a fader may move it");
        assert!(COMMANDS[0].argument.is_some_and(|look| look.names.contains(&ReferenceKind::Look)));

        let parsed = |text: &str| text.parse::<Command>();
        let words = Command::words;
        let mut command = parsed("lift top 40").expect("a command");
        assert_eq!((words(&command), command.number()), ("lift top 40".to_owned(), Some(40.0)));
        assert!(command.set_number(55.0) && words(&command) == "lift top 55");
        let mut kinds = Renames(Vec::new());
        assert!(!command.visit(&mut kinds) && words(&command) == "lift New 55", "its tier is gone, and it with it");
        assert_eq!(kinds.0, [&[ReferenceKind::Tier][..]]);
        let refusal = |text: &str| parsed(text).expect_err(text).to_string();
        assert!(refusal("lift top 400").contains("100"), "{}", refusal("lift top 400"));
        assert!(refusal("show").contains("look is missing") && refusal("wait 3").contains("nothing is to stand"));
        assert!(refusal("edit {}").contains("give it") && refusal("fly").contains("no command"));
        let keep = parsed("keep night.splimo").expect("a command");
        assert_eq!(keep.clone().widened::<Unwritten>(), keep);
        let data = serde_json::to_string(&keep).expect("serialises");
        assert_eq!(
            serde_json::from_str::<Command>(&data).expect("deserialises"),
            Command::from(SessionCommand::Keep("night.splimo".into()))
        );
    }
}
