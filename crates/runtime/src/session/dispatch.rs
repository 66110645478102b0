//! The one dispatch: whoever sends a command, it is carried out here.

use splimo_base::Seconds;
use splimo_document::making;
use splimo_document::{Command, DocumentCommand};
use splimo_document::{KeptChange, Outcome};
use splimo_link::document::DocumentUpdate;
use splimo_link::message::Update;
use splimo_show::LightTest;
use splimo_show::command::{EngineCommand, Origin, SessionCommand};
use splimo_show::setting::SettingValue;
use splimo_wire::artnet::trigger;

use super::{Ending, Session};
use crate::asked::Asked;
use crate::file_error::Cause;
use crate::files::with_ending_of;

/// The setting that limits flashes.
const LIMIT: &str = "strobe-limit";

impl Session {
    /// Carries a command out. `base` is the edition of the document on which it was made, if that is known, and `at` the time
    /// at which it was asked for, if that is not now.
    pub fn dispatch(&mut self, command: &Command, by: Origin, base: Option<u64>, at: Option<Seconds>) -> Outcome {
        if let Some(why) = self.forbidden(command, by) {
            return Outcome::Refused(why);
        }
        self.overrule_inputs(command, by);
        match command {
            Command::Engine(command) => self.dispatch_to_engine(command, by, at),
            Command::Document(document_command) => {
                let edition = self.document.edition();
                let outcome = self.dispatch_to_document(document_command, by, base);
                if self.document.edition() != edition {
                    self.note_edit(command, document_command, by);
                }
                outcome
            }
            Command::Session(session_command) => {
                if !is_small(session_command) {
                    self.note(by, command, command.to_string());
                }
                self.dispatch_here(session_command, by)
            }
        }
    }

    /// The reason why an input may not ask for a command.
    fn forbidden(&self, command: &Command, by: Origin) -> Option<String> {
        let outside = match by {
            Origin::Input(_) | Origin::ArtNet => true,
            Origin::Session
            | Origin::Screen(_)
            | Origin::CommandLine
            | Origin::Rotation
            | Origin::List(_)
            | Origin::Timeline(_)
            | Origin::Schedule => false,
        };
        if !outside || self.document.kept().settings.inputs_may_all {
            return None;
        }
        let limit = match command {
            Command::Document(command) => self.document.setting_after(command, LIMIT).is_some(),
            Command::Engine(_) | Command::Session(_) => false,
        };
        (limit || !command.is_safe())
            .then(|| "inputs may not do that in this show; the setting inputs-may-all lets them (F9)".to_owned())
    }

    /// Has the night log take note of a change of the show. What is only tried changes the light too, but goes with its screen.
    fn note_edit(&mut self, command: &Command, of: &DocumentCommand, by: Origin) {
        let what = match of {
            DocumentCommand::Edit(edit) => edit.words(),
            // One line for all that is tried one after the other, as while one types.
            DocumentCommand::TryEdit(_) => "tries a change".to_owned(),
            DocumentCommand::Draft(_) => return,
            DocumentCommand::Set(_)
            | DocumentCommand::Nudge(_)
            | DocumentCommand::DropTried
            | DocumentCommand::Undo
            | DocumentCommand::Redo
            | DocumentCommand::EditBlind
            | DocumentCommand::UndoDraft
            | DocumentCommand::RedoDraft
            | DocumentCommand::KeepDrafts
            | DocumentCommand::DropDrafts => command.to_string(),
        };
        self.note(by, command, what);
    }

    fn dispatch_to_document(&mut self, command: &DocumentCommand, by: Origin, base: Option<u64>) -> Outcome {
        if self.asks_about_the_limit(command) {
            let why = "without a strobe limit the output may flash at any rate; ask once more to switch it off";
            return Outcome::Refused(why.to_owned());
        }
        let outcome = self.document.apply(command, by, base);
        self.document_changed();
        outcome
    }

    /// True if a command switches the strobe limit off for the first time in this session.
    fn asks_about_the_limit(&mut self, command: &DocumentCommand) -> bool {
        let Some(after) = self.document.setting_after(command, LIMIT) else { return false };
        let off = after == SettingValue::Number(0.0) && self.document.kept().settings.strobe_limit > 0;
        off && !std::mem::replace(&mut self.asked_about_limit, true)
    }

    /// Has the engine, the autosave and the screens follow the document.
    pub(super) fn document_changed(&mut self) {
        let changes = self.document.take_changes();
        let Some(last) = changes.last() else { return };
        self.runtime.go_over(last.edition, self.document.shown().clone());
        if changes.iter().any(|change| change.kept != KeptChange::None) {
            self.keep_work();
        }
        // Who asks for the whole from here on has all of this in it.
        self.whole.store(DocumentUpdate::whole(&self.document).into());
        for change in changes {
            self.guests.put_all(&Update::Document(Box::new(change.into())));
        }
    }

    /// Ends the test of the lights that is going on.
    pub(super) fn end_test(&mut self) {
        self.tester = None;
        self.runtime.apply(&EngineCommand::Test(LightTest::Off));
    }

    fn dispatch_here(&mut self, command: &SessionCommand, by: Origin) -> Outcome {
        match command {
            SessionCommand::Save => self.save(None),
            SessionCommand::SaveAs(file) => self.save(Some(crate::files::with_ending(file))),
            SessionCommand::ExportPatch(file) => self.export_patch(file),
            SessionCommand::ExportCues(what) => self.export_cues(what),
            SessionCommand::Recover => self.recover(),
            SessionCommand::LeaveFound => self.leave_found(),
            SessionCommand::Resume => self.resume(),
            SessionCommand::BeginAnew => self.begin_anew(),
            SessionCommand::HoldLight(name) => self.hold_light(name, by),
            SessionCommand::Trigger(what) => match what.parse::<trigger::Repr>() {
                Ok(what) => {
                    self.runtime.trigger(what);
                    told(&format!("{what} is set off"))
                }
                Err(why) => Outcome::Refused(why),
            },
            SessionCommand::Record(file) => {
                let path = with_ending_of(file, "pcapng");
                match self.runtime.record(&path) {
                    Ok(()) => told(&format!("recording into {}; R ends it", crate::files::told(&path))),
                    Err(error) => {
                        let why = Cause::of(&path, &error);
                        Outcome::Refused(format!("{} cannot be recorded into: {why}", path.display()))
                    }
                }
            }
            SessionCommand::TakeTheirs => self.take_theirs(),
            SessionCommand::KeepMine => self.keep_mine(),
            SessionCommand::ForgetNodes => {
                self.runtime.exchange().forget_nodes();
                told("nodes that are gone are forgotten; one that answers comes back")
            }
            SessionCommand::StopRecording => match self.runtime.stop_recording() {
                Some(done) => told(&format!("{} packets in {}", done.packets, done.path.display())),
                None => Outcome::Nothing("nothing is being recorded; r begins to".to_owned()),
            },
            SessionCommand::Learn(_)
            | SessionCommand::SwitchInput(_)
            | SessionCommand::BindModel(_)
            | SessionCommand::PressKey(_)
            | SessionCommand::LetKeyGo(_)
            | SessionCommand::ChooseBank(_)
            | SessionCommand::BankPad(_)
            | SessionCommand::HoldBankPad(_)
            | SessionCommand::LetBankPadGo(_) => self.dispatch_to_inputs(command, by).unwrap_or(Outcome::Done),
            SessionCommand::RecordCue(cue) => self.record_cue(cue, by),
            SessionCommand::RecordChanges(list) => self.record_changes(list, by),
            SessionCommand::UpdateCue(list) => self.update_cue(list, by),
            SessionCommand::Strike(lane) => self.strike(lane, by),
            SessionCommand::RecordAim(aim) => self.record_aim(aim, by),
            SessionCommand::HearRecording(what) => self.hear_recording(what, by),
            SessionCommand::Run(name) => self.run_program(name, by),
            SessionCommand::EndRun(name) => self.end_program(name),
            SessionCommand::AllowPrograms(who) => self.allow_programs(who),
            SessionCommand::PauseMusic => told(match self.runtime.toggle_pause() {
                true => "the recording is held; p lets it go on",
                false => "the recording goes on",
            }),
            SessionCommand::SeekMusic(seconds) => {
                self.runtime.seek(*seconds);
                told(&format!("{} by {:.0} s", if *seconds < 0.0 { "back" } else { "on" }, seconds.abs()))
            }
            SessionCommand::FlashAndClick => match self.runtime.flash_and_click() {
                Ok(true) => {
                    self.tester = Some(by);
                    told("← → until light and click are one; c ends it")
                }
                Ok(false) => {
                    self.tester = None;
                    told("flash and click have ended")
                }
                Err(error) => Outcome::Refused(format!("there is no click: {error}")),
            },
            SessionCommand::End => {
                self.ending = Some(Ending::Asked);
                Outcome::Done
            }
        }
    }

    /// Keeps what was on stage when the session ended badly the last time; it is on stage since the first frame.
    pub(super) fn resume(&mut self) -> Outcome {
        match self.ran.take() {
            Some(_) => Outcome::Done,
            None => Outcome::Nothing("there is nothing to go on with".to_owned()),
        }
    }

    /// Winds the recordings of timelines that run again after a crash.
    pub(super) fn wind_recordings(&mut self) {
        let places: Vec<_> = self.ran.iter().flat_map(|ran| &ran.timelines).map(|running| running.at.clone()).collect();
        places.iter().for_each(|place| self.wind_recording(&place.name, place.at));
    }

    /// Begins as a show does that is started: what ran before a crash is off.
    fn begin_anew(&mut self) -> Outcome {
        if self.ran.take().is_none() {
            return Outcome::Nothing("nothing ran before that could be left".to_owned());
        }
        let show = self.document.shown();
        self.runtime.begin_anew((!show.looks.is_empty()).then_some(0));
        Outcome::Done
    }

    /// Makes a still look of the light as it is.
    fn hold_light(&mut self, name: &str, by: Origin) -> Outcome {
        let published = self.outlook.published.read();
        let edition = self.runtime.editions().get(published.snapshot.edition);
        let add = making::frozen_light(name, published, &edition.show, &edition.rig);
        let base = Some(published.snapshot.edition);
        let outcome = self.dispatch_to_document(&DocumentCommand::Edit(add), by, base);
        if outcome == Outcome::Done { told(&format!("{name} is a look")) } else { outcome }
    }

    /// Tells every screen of a command that somebody outside sent and that could not be carried out.
    pub(super) fn say_what_came_in(&self, asked: &Asked, outcome: &Outcome) {
        if let Outcome::Nothing(why) | Outcome::Refused(why) = outcome {
            let who = self.night.who(asked.origin);
            self.say(&format!("{who} asked for {}: {why}", asked.command));
        }
    }

    /// Tells every screen something.
    pub(super) fn say(&self, words: &str) {
        self.guests.put_all(&Update::Said(splimo_wire::shown(words)));
    }
}

/// True for what is no line in the night log: what comes of it is one.
fn is_small(command: &SessionCommand) -> bool {
    matches!(
        command,
        SessionCommand::PressKey(_)
            | SessionCommand::LetKeyGo(_)
            | SessionCommand::ChooseBank(_)
            | SessionCommand::BankPad(_)
            | SessionCommand::HoldBankPad(_)
            | SessionCommand::LetBankPadGo(_)
    )
}

pub(super) fn told(words: &str) -> Outcome {
    Outcome::Told(words.to_owned())
}
