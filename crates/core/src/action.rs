//! The one list of everything that a person or a machine can ask for. Keys, mouse, the action palette, the command
//! line and tests all send [`Action`]s; nothing reaches around them.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

use crate::edit::Edit;
use crate::engine::LightTest;
use crate::show::Boundary;

/// Who carries an action out.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scope {
    /// The engine, at its next tick.
    Engine,
    /// The document: it makes a new show.
    Show,
    /// The runtime around the engine: the network and the recorder.
    Runtime,
    /// The screen that sent it.
    Screen,
}

/// A view of the screen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum View {
    /// What hangs there.
    Rig,
    /// Universes and what is in them.
    Output,
    /// Making looks.
    Looks,
    /// Performing.
    Play,
    /// What comes in: the music.
    Inputs,
}

macro_rules! actions {
    ($($(#[doc = $doc:literal])* $variant:ident $(($argument:ident: $kind:ty))? = $name:literal, $scope:ident;)*) => {
        /// Something to be done. The text form is its name, and its argument behind a space: `fire-pad 3`.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
        #[serde(rename_all = "kebab-case")]
        pub enum Action {
            $($(#[doc = $doc])* $variant $(($kind))?,)*
        }

        /// What there is to be known of an action without doing it.
        #[derive(Debug, Clone, Copy, PartialEq, Eq)]
        pub struct ActionInfo {
            /// The name by which it is asked for.
            pub name: &'static str,
            doc: &'static str,
            /// The name of its argument, if it takes one.
            pub argument: Option<&'static str>,
            /// Who carries it out.
            pub scope: Scope,
        }

        impl ActionInfo {
            /// What it does, in one line.
            #[must_use]
            pub fn help(&self) -> &'static str {
                // As a doc comment it stands behind a space.
                self.doc.trim_start()
            }
        }

        /// Every action.
        pub const ACTIONS: &[ActionInfo] = &[$(ActionInfo {
            name: $name,
            doc: concat!($($doc),*),
            argument: actions!(@argument $($argument)?),
            scope: Scope::$scope,
        },)*];

        impl Action {
            /// What there is to be known of it.
            #[must_use]
            pub fn info(&self) -> &'static ActionInfo {
                let name = match self { $(actions!(@pattern $variant $($argument)?) => $name,)* };
                ACTIONS.iter().find(|info| info.name == name).unwrap_or(&ACTIONS[0])
            }
        }

        impl FromStr for Action {
            type Err = BadAction;

            fn from_str(text: &str) -> Result<Self, BadAction> {
                let (name, argument) = text.trim().split_once(' ').unwrap_or((text.trim(), ""));
                match name {
                    $($name => actions!(@parse $variant argument $($argument: $kind)?),)*
                    _ => Err(BadAction::Unknown(name.to_owned())),
                }
            }
        }

        impl fmt::Display for Action {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                match self {
                    $(actions!(@bind $variant argument $($argument)?) => actions!(@show f $name argument $($argument)?),)*
                }
            }
        }
    };
    (@argument) => { None };
    (@argument $argument:ident) => { Some(stringify!($argument)) };
    (@pattern $variant:ident) => { Action::$variant };
    (@pattern $variant:ident $argument:ident) => { Action::$variant(_) };
    (@bind $variant:ident $bound:ident) => { Action::$variant };
    (@bind $variant:ident $bound:ident $argument:ident) => { Action::$variant($bound) };
    (@show $f:ident $name:literal $bound:ident) => { $f.write_str($name) };
    (@show $f:ident $name:literal $bound:ident $argument:ident) => {
        write!($f, "{} {}", $name, Argument::text($bound))
    };
    (@parse $variant:ident $text:ident) => { Ok(Action::$variant) };
    (@parse $variant:ident $text:ident $argument:ident: $kind:ty) => {
        <$kind as Argument>::parse($text)
            .map(Action::$variant)
            .ok_or_else(|| BadAction::Argument { argument: stringify!($argument), text: $text.to_owned() })
    };
}

actions! {
    /// Arm the look on a pad, to land on its boundary
    FirePad(pad: usize) = "fire-pad", Engine;
    /// Arm a look by its name
    FireLook(look: String) = "fire-look", Engine;
    /// Land what is armed now
    Go = "go", Engine;
    /// Take back what is armed
    Disarm = "disarm", Engine;
    /// Black out, or come back
    Blackout = "blackout", Engine;
    /// Set the master, in percent
    Master(percent: f32) = "master", Engine;
    /// Move the master up or down, in percent
    NudgeMaster(percent: f32) = "nudge-master", Engine;
    /// Tap the tempo; the first tap begins a bar
    Tap = "tap", Engine;
    /// Set the tempo, in beats a minute
    Tempo(bpm: f32) = "tempo", Engine;
    /// Follow the tempo that is heard
    FollowMusic = "follow-music", Engine;
    /// Count twice as many beats (2), or half as many (0.5), as are heard
    TempoTimes(by: f32) = "tempo-times", Engine;
    /// Move the beat against the music by so many hundredths of a beat
    NudgeBeat(hundredths: i32) = "nudge-beat", Engine;
    /// The next part (1) or the one before (-1): intro, build, drop, breakdown, outro; until another is heard
    NextSection(by: i32) = "next-section", Engine;
    /// This beat is the first of a bar; what waits for one lands
    BarHere = "bar-here", Engine;
    /// This beat is the first of a phrase; what waits for one lands
    PhraseHere = "phrase-here", Engine;
    /// Prove something on the lights: they flash, a pixel walks, or slots are held
    Prove(proof: LightTest) = "prove", Engine;
    /// The walking pixel goes on (1) or back (-1)
    WalkStep(by: i32) = "walk-step", Engine;
    /// Set a control (1 to 16) to a percentage: 3 50
    Control(setting: ControlSetting) = "control", Engine;
    /// Counters that wait for it go on by one
    CountForward = "count-forward", Engine;
    /// Counters that wait for it go back by one
    CountBack = "count-back", Engine;
    /// Counters that wait for it begin anew
    CountReset = "count-reset", Engine;
    /// Glide a look, or one of its layers (2/Undertow), to the middle of its cycle
    CentrePhase(layer: LayerPlace) = "centre-phase", Engine;
    /// A look, or one of its layers (2/Undertow), begins anew on the next beat
    RestartPhase(layer: LayerPlace) = "restart-phase", Engine;
    /// Forget the highest currents that were measured
    ResetPeaks = "reset-peaks", Engine;
    /// Set something off at every node (Art-Net): ascii 65, macro 3, soft-key 2 or show 1
    Trigger(what: String) = "trigger", Runtime;
    /// Record what leaves into a file (pcapng)
    Record(file: String) = "record", Runtime;
    /// End the recording
    StopRecording = "stop-recording", Runtime;
    /// Hold the recording that is heard where it is, or let it go on
    PauseMusic = "pause-music", Runtime;
    /// Go on (or back, below zero) by so many seconds in the recording that is heard
    SeekMusic(seconds: f32) = "seek-music", Runtime;
    /// Change the show by an edit
    Edit(edit: Edit) = "edit", Show;
    /// See what an edit does, without keeping it
    TryEdit(edit: Edit) = "try-edit", Show;
    /// Go back to the show as it was before an edit was tried
    DropTried = "drop-tried", Show;
    /// Where armed looks land: now, beat, bar or phrase
    LandOn(boundary: Boundary) = "land-on", Show;
    /// Armed looks wait for a longer (1) or a shorter (-1) boundary
    NudgeLanding(by: i32) = "nudge-landing", Show;
    /// How long a look takes to fade in, in beats
    Fade(beats: f32) = "fade", Show;
    /// Fade in over twice as long (1) or half as long (-1)
    NudgeFade(by: i32) = "nudge-fade", Show;
    /// Let another lead the clock: the music, MIDI clock, time code, OSC
    NextLeader = "next-leader", Show;
    /// Have light so many milliseconds earlier, or later where it is below zero
    NudgeLatency(milliseconds: f32) = "nudge-latency", Show;
    /// Turn what is heard up or down, in decibels
    NudgeHearingGain(decibels: f32) = "nudge-hearing-gain", Show;
    /// Raise or lower the level below which what is heard is silence, in decibels
    NudgeHearingFloor(decibels: f32) = "nudge-hearing-floor", Show;
    /// Flash all lights and click each second, to find out how late light is; again to end it
    FlashAndClick = "flash-and-click", Runtime;
    /// Hear in so many bands more, or fewer
    NudgeBands(bands: i32) = "nudge-bands", Show;
    /// Have bands rise more slowly by so many milliseconds, or faster
    NudgeAttack(milliseconds: f32) = "nudge-attack", Show;
    /// Have bands fall more slowly by so many milliseconds, or faster
    NudgeDecay(milliseconds: f32) = "nudge-decay", Show;
    /// Take the last change of the show back
    Undo = "undo", Show;
    /// Make the change again that was taken back
    Redo = "redo", Show;
    /// Save the show
    Save = "save", Show;
    /// Save the show under another name
    SaveAs(file: String) = "save-as", Show;
    /// Write the patch into a CSV file
    ExportPatch(file: String) = "export-patch", Show;
    /// Take over work that was not saved the last time
    Recover = "recover", Show;
    /// Put work that was not saved the last time aside
    LeaveFound = "leave-found", Show;
    /// Go to a view: rig, output, looks or play
    ShowView(view: View) = "view", Screen;
    /// Choose the next fixture (1) or the one before (-1)
    ChooseFixture(by: i32) = "choose-fixture", Screen;
    /// Choose up to the next (1) or the one before (-1) as well
    ChooseMore(by: i32) = "choose-more", Screen;
    /// Choose everything in the list
    ChooseAll = "choose-all", Screen;
    /// Choose no fixture
    ChooseNone = "choose-none", Screen;
    /// Add fixtures: what, how many, where, and which addresses
    AddFixtures = "add", Screen;
    /// Change the chosen fixtures: name, profile, shape, wiring, place
    ChangeFixtures = "change", Screen;
    /// Move, turn, mirror, scale, align or distribute the chosen fixtures
    ArrangeFixtures = "arrange", Screen;
    /// Give the chosen fixtures addresses by a rule
    PatchFixtures = "patch", Screen;
    /// Copy what is chosen
    Duplicate = "duplicate", Screen;
    /// Take what is chosen out
    Remove = "remove", Screen;
    /// Groups: make, change, merge, choose
    ShowGroups = "groups", Screen;
    /// Profiles of your own: make, change
    ShowProfiles = "profiles", Screen;
    /// Every problem of the show, and go to where it is
    ShowProblems = "problems", Screen;
    /// The chosen fixtures flash at full until you leave
    Identify = "identify", Screen;
    /// One lit pixel walks along the wiring of the chosen fixtures
    Walk = "walk", Screen;
    /// Hold any slot at a value until you leave
    HoldSlots = "channel-test", Screen;
    /// Colour lights live, by fixture, universe, group or wiring order
    ColourLights = "colour-lights", Screen;
    /// Look nearer (1) or from farther off (-1)
    Zoom(by: i32) = "zoom", Screen;
    /// Look farther to the right (1) or to the left (-1)
    PanAcross(by: i32) = "pan-across", Screen;
    /// Look farther down (1) or up (-1)
    PanDown(by: i32) = "pan-down", Screen;
    /// Have all lights in sight, the chosen ones, or the whole canvas
    Fit = "fit", Screen;
    /// Set the size of the canvas
    SizeCanvas = "canvas", Screen;
    /// Read a patch from a CSV file, with a look at it first
    ImportPatch(file: String) = "import-patch", Screen;
    /// Go on with what ran when Splimo ended badly the last time
    Resume = "resume", Screen;
    /// Ask for what another action needs
    Ask(action: String) = "ask", Screen;
    /// Show other pads: the next bank (1) or the one before (-1)
    PadBank(by: i32) = "pad-bank", Screen;
    /// Choose the next universe (1) or the one before (-1)
    NextUniverse(by: i32) = "next-universe", Screen;
    /// Go to the next part of the view
    NextPane = "next-pane", Screen;
    /// Choose the next line (1) or the one before (-1)
    ChooseRow(by: i32) = "choose-row", Screen;
    /// Choose the next slot (1) or the one before (-1), or universe
    ChooseSlot(by: i32) = "choose-slot", Screen;
    /// Add a route: which universes go where, and how
    AddRoute = "add-route", Screen;
    /// Change the chosen route
    ChangeRoute = "change-route", Screen;
    /// Switch the chosen route off, or on again
    SwitchRoute = "switch-route", Screen;
    /// Take the chosen route out
    RemoveRoute = "remove-route", Screen;
    /// Make routes for the ports of the chosen node that nothing feeds
    RouteToNode = "route-to-node", Screen;
    /// Show the slots that come in, or those that go out
    ShowReceived = "received", Screen;
    /// Supplies: what the lights take, and what a supply may give
    ShowSupplies = "supplies", Screen;
    /// Show the slots as numbers, or as bars
    SlotBars = "slot-bars", Screen;
    /// Make a new look
    NewLook = "new-look", Screen;
    /// Add a layer: choose among all effects, moving on your own rig
    AddLayer = "add-layer", Screen;
    /// Change what is chosen: the look, the layer or the parameter
    ChangeHere = "change-here", Screen;
    /// Move the value of the chosen line up (1) or down (-1)
    NudgeValue(by: i32) = "nudge-value", Screen;
    /// Move the chosen layer, or look, up (1) or down (-1)
    MoveLayer(by: i32) = "move-layer", Screen;
    /// Leave the chosen layer out, or take it in again
    MuteLayer = "mute-layer", Screen;
    /// Only the chosen layer, and others that are solo
    SoloLayer = "solo-layer", Screen;
    /// Which groups and fixtures the chosen layer lights
    TargetLayer = "target-layer", Screen;
    /// Which groups and fixtures all layers of the chosen looks light
    Retarget = "retarget", Screen;
    /// The next span (1) or the one before (-1) for the chosen layer
    NextSpan(by: i32) = "next-span", Screen;
    /// The area of the chosen layer on its span
    ShowArea = "area", Screen;
    /// Have something move the chosen parameter
    ShowModulator = "modulator", Screen;
    /// The colours of the chosen layer
    ShowColours = "colours", Screen;
    /// The palette: colours and gradients with names, and where they are used
    ShowPalette = "colour-palette", Screen;
    /// Spread two colours over the target, straight or mirrored
    SpreadColours = "spread-colours", Screen;
    /// Edit blind: nothing goes out until you say so; or live again
    EditBlind = "edit-blind", Screen;
    /// Hold the look as it was saved against the look as it is
    Compare = "compare", Screen;
    /// Eight variations of the look, side by side
    Vary = "vary", Screen;
    /// What is on the lights now becomes a still look
    Freeze = "freeze", Screen;
    /// A new look in which the chosen looks take turns
    ChaseLooks = "chase-looks", Screen;
    /// Copy the chosen layer, to put all or some of it onto others
    CopyLayer = "copy-layer", Screen;
    /// Put what was copied onto the chosen layers
    PasteLayer = "paste-layer", Screen;
    /// Change one thing in all chosen looks or layers
    ChangeMany = "change-many", Screen;
    /// Find a look by a part of its name or a tag
    FindLook = "find-look", Screen;
    /// Arm the chosen look
    ArmLook = "arm-look", Screen;
    /// The chosen layer glides to the middle of its cycle
    CentreLayer = "centre-layer", Screen;
    /// The chosen layer begins anew on the next beat
    RestartLayer = "restart-layer", Screen;
    /// Show the numbers of the next light (1) or the one before (-1)
    ChooseLight(by: i32) = "choose-light", Screen;
    /// The numbers that leave for the chosen light
    ShowValues = "values", Screen;
    /// Help for this place
    Help = "help", Screen;
    /// Find any action by its name
    FindAction = "find-action", Screen;
    /// Back out of what is open, or take back what is armed
    Back = "back", Screen;
    /// Leave Splimo, when asked again
    Quit = "quit", Screen;
    /// Leave Splimo now; sACN streams are terminated
    QuitNow = "quit-now", Screen;
}

/// Why a text is not an action.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BadAction {
    /// No action has this name.
    #[error("there is no action \"{0}\"")]
    Unknown(String),
    /// The argument is missing or of the wrong kind.
    #[error("\"{text}\" is not a {argument}")]
    Argument {
        /// The argument's name.
        argument: &'static str,
        /// What was written.
        text: String,
    },
}

/// What can stand behind an action's name.
trait Argument: Sized {
    fn parse(text: &str) -> Option<Self>;
    fn text(&self) -> String;
}

impl Argument for usize {
    fn parse(text: &str) -> Option<Self> {
        text.parse().ok()
    }
    fn text(&self) -> String {
        self.to_string()
    }
}

impl Argument for i32 {
    fn parse(text: &str) -> Option<Self> {
        if text.is_empty() { Some(1) } else { text.parse().ok() }
    }
    fn text(&self) -> String {
        self.to_string()
    }
}

impl Argument for f32 {
    fn parse(text: &str) -> Option<Self> {
        text.parse().ok().filter(|x: &f32| x.is_finite())
    }
    fn text(&self) -> String {
        self.to_string()
    }
}

impl Argument for String {
    fn parse(text: &str) -> Option<Self> {
        (!text.is_empty()).then(|| text.to_owned())
    }
    fn text(&self) -> String {
        self.clone()
    }
}

impl Argument for Boundary {
    fn parse(text: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|b| b.name() == text)
    }
    fn text(&self) -> String {
        self.name().to_owned()
    }
}

/// A control and where it is to be.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct ControlSetting {
    /// Which control, from 1.
    pub control: u8,
    /// Where it is to be, 0..100.
    pub percent: f32,
}

impl Argument for ControlSetting {
    fn parse(text: &str) -> Option<Self> {
        let (control, percent) = text.split_once(' ')?;
        let control = control.parse().ok().filter(|c| (1..=crate::effect::CONTROLS).contains(&usize::from(*c)))?;
        let percent = percent.trim().parse().ok().filter(|p| (0.0..=100.0).contains(p))?;
        Some(Self { control, percent })
    }
    fn text(&self) -> String {
        format!("{} {}", self.control, self.percent)
    }
}

/// A look, or one of its layers.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct LayerPlace {
    /// The name of the look.
    pub look: String,
    /// Which layer, from 0; none means all.
    pub layer: Option<usize>,
}

impl Argument for LayerPlace {
    fn parse(text: &str) -> Option<Self> {
        let numbered = text.split_once('/').and_then(|(number, look)| Some((number.parse::<usize>().ok()?, look)));
        match numbered {
            Some((number, look)) if number > 0 => Some(Self { look: look.to_owned(), layer: Some(number - 1) }),
            _ => (!text.is_empty()).then(|| Self { look: text.to_owned(), layer: None }),
        }
    }
    fn text(&self) -> String {
        match self.layer {
            Some(layer) => format!("{}/{}", layer + 1, self.look),
            None => self.look.clone(),
        }
    }
}

/// What has no shorter text form is written as JSON.
macro_rules! as_json {
    ($kind:ty) => {
        impl Argument for $kind {
            fn parse(text: &str) -> Option<Self> {
                serde_json::from_str(text).ok()
            }
            fn text(&self) -> String {
                serde_json::to_string(self).unwrap_or_default()
            }
        }
    };
}

as_json!(Edit);
as_json!(LightTest);

impl View {
    /// Every view, in the order of the tabs.
    pub const ALL: [Self; 5] = [Self::Rig, Self::Output, Self::Looks, Self::Play, Self::Inputs];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Rig => "rig",
            Self::Output => "output",
            Self::Looks => "looks",
            Self::Play => "play",
            Self::Inputs => "inputs",
        }
    }
}

impl Argument for View {
    fn parse(text: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|view| view.name() == text)
    }
    fn text(&self) -> String {
        self.name().to_owned()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn actions_round_trip_as_text_and_as_data() {
        let all = [
            Action::FirePad(3),
            Action::FireLook("Ember Night".into()),
            Action::LandOn(Boundary::Phrase),
            Action::Master(62.5),
            Action::NudgeFade(-1),
            Action::ShowView(View::Output),
            Action::Prove(LightTest::Identify(vec![3, 4])),
            Action::Edit(Edit::Remove(vec![0, 7])),
            Action::Control(ControlSetting { control: 3, percent: 50.0 }),
            Action::CentrePhase(LayerPlace { look: "Undertow".into(), layer: Some(1) }),
            Action::RestartPhase(LayerPlace { look: "Ember Night".into(), layer: None }),
            Action::QuitNow,
        ];
        for action in all {
            assert_eq!(action.to_string().parse(), Ok(action.clone()));
            let data = serde_json::to_string(&action).expect("serialises");
            assert_eq!(serde_json::from_str::<Action>(&data).expect("deserialises"), action);
        }
    }

    #[test]
    fn nonsense_is_refused_with_a_reason() {
        assert_eq!("dance".parse::<Action>(), Err(BadAction::Unknown("dance".into())));
        assert!("master loud".parse::<Action>().is_err());
        assert!("master nan".parse::<Action>().is_err());
        assert!("control 17 50".parse::<Action>().is_err() && "control 1".parse::<Action>().is_err());
        assert!("fire-look".parse::<Action>().is_err());
    }

    #[test]
    fn names_are_unique_and_every_action_says_what_it_does() {
        for (i, info) in ACTIONS.iter().enumerate() {
            assert!(ACTIONS[..i].iter().all(|other| other.name != info.name), "{}", info.name);
            assert!(info.help().len() > 5 && !info.help().ends_with('.'), "{}", info.name);
            assert!(info.help().starts_with(char::is_uppercase), "{}", info.name);
        }
    }
}
