//! Learning: the next control that somebody moves is bound to what they chose.

use splimo_document::DocumentCommand;
use splimo_document::Outcome;
use splimo_document::edit::Edit;
use splimo_document::input::{Learned, Learner, Target, bind};
use splimo_link::message::Update;
use splimo_show::command::Origin;
use splimo_show::event::InputEvent;

use crate::session::Session;
use crate::session::dispatch::told;

/// Somebody who learns.
pub(super) struct Learning {
    by: Origin,
    /// The target that they chose, as they wrote it.
    pub(super) text: String,
    target: Target,
    learner: Learner,
}

impl Session {
    /// Begins to learn, or ends it.
    pub(super) fn learn(&mut self, what: &str, by: Origin) -> Outcome {
        if what == "off" {
            return match self.inputs.learning.take() {
                Some(_) => told("nothing is learnt any more"),
                None => Outcome::Nothing("nothing is being learnt".to_owned()),
            };
        }
        match Target::of(what) {
            Ok(target) => {
                let text = what.to_owned();
                self.inputs.learning = Some(Learning { by, text, target, learner: Learner::default() });
                told(&format!("move the control that is to do {what}; Esc ends it"))
            }
            Err(why) => Outcome::Refused(format!(
                "{why}; learn a command such as fire-pad 3, or one without its value, such as master"
            )),
        }
    }

    /// Learns from an event; true if somebody does, and nothing else is to come of it.
    pub(super) fn learn_from(&mut self, event: &InputEvent) -> bool {
        let Some(learning) = &mut self.inputs.learning else { return false };
        if let Some((source, learned)) = learning.learner.take(event) {
            self.bind_learned(&source, &learned);
        }
        true
    }

    /// Learns from the time that has passed.
    pub(super) fn learn_from_rest(&mut self) {
        let now = self.runtime.now();
        if let Some((source, learned)) = self.inputs.learning.as_mut().and_then(|one| one.learner.pass_time(now)) {
            self.bind_learned(&source, &learned);
        }
    }

    /// Nobody learns any more whose screen is gone.
    pub(in crate::session) fn end_learning_of(&mut self, gone: Origin) {
        if self.inputs.learning.as_ref().is_some_and(|learning| learning.by == gone) {
            self.inputs.learning = None;
        }
    }

    fn bind_learned(&mut self, source: &str, learned: &Learned) {
        let Some(learning) = self.inputs.learning.take() else { return };
        let binding = bind(source, learned, &learning.target);
        let words = format!("{source} {} is bound to {}, as a {}", binding.event, learning.text, learned.moved.name());
        // Inputs of the command line are not in the show, and a binding to one comes to life whenever there is one of the name.
        let edit = DocumentCommand::Edit(Edit::AddBindings(vec![binding]));
        let outcome = self.dispatch(&edit.into(), learning.by, None, None);
        let said = match outcome {
            Outcome::Refused(why) | Outcome::Nothing(why) => format!("{} cannot be bound: {why}", learning.text),
            _ => words,
        };
        self.guests.put_all(&Update::Said(said));
        self.follow_show();
    }
}
