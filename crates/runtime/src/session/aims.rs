//! Aims: heads pointed by hand, and where they point recorded.

use splimo_document::DocumentCommand;
use splimo_document::Outcome;
use splimo_document::making::aims;
use splimo_show::Show;
use splimo_show::command::Origin;

use super::Session;
use super::cues::stage_of_now;
use super::dispatch::told;

impl Session {
    /// Records where heads point as an aim: those that a hand points, or all where it points none.
    pub(super) fn record_aim(&mut self, name: &str, by: Origin) -> Outcome {
        let (edition, show) = (self.document.edition(), self.document.shown().clone());
        let heads = stage_of_now(&mut self.outlook, &self.runtime, show.settings.rate).heads;
        let any_live = heads.iter().any(|head| head.live);
        let chosen: Vec<usize> = heads.iter().filter(|head| head.live || !any_live).map(|head| head.fixture).collect();
        let edit = match aims::recorded(&show, &heads, &chosen, name.trim()) {
            Ok(edit) => edit,
            Err(_) => {
                return Outcome::Refused("no fixture of this show turns; give some a profile with pan".to_owned());
            }
        };
        let outcome = self.dispatch(&DocumentCommand::Edit(edit).into(), by, Some(edition), None);
        if outcome != Outcome::Done {
            return outcome;
        }
        let heads = if chosen.len() == 1 { "1 head".to_owned() } else { format!("{} heads", chosen.len()) };
        told(&format!("{} is where {heads} point{}", name.trim(), if chosen.len() == 1 { "s" } else { "" }))
    }
}

/// The reason why heads of a name cannot be turned.
pub(super) fn refuse_heads(name: &str, show: &Show) -> Option<String> {
    let members = show.fixtures_of(&[name.to_owned()]);
    let heads = aims::heads_of(show);
    (!members.iter().any(|fixture| heads.contains(fixture))).then(|| format!("nothing of {name} turns"))
}
