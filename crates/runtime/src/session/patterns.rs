//! Patterns that are written while they play.

use splimo_document::DocumentCommand;
use splimo_document::Outcome;
use splimo_document::edit::Edit;
use splimo_document::making::patterns;
use splimo_show::command::{LanePlace, Origin};

use super::Session;
use super::dispatch::told;

impl Session {
    /// Puts an event into a lane of a pattern that plays, at the place of the grid where it is.
    pub(super) fn strike(&mut self, place: &LanePlace, by: Origin) -> Outcome {
        let (edition, show) = (self.document.edition(), self.document.shown().clone());
        let Some((at, look)) = show.look(&place.pattern) else {
            return Outcome::Refused(format!("there is no pattern \"{}\"", place.pattern));
        };
        let mut look = look.clone();
        let Some(pattern) = &mut look.pattern else {
            return Outcome::Refused(format!("{} is no pattern: it has no lanes", place.pattern));
        };
        // The places of looks on stage are those of the edition that the engine plays.
        let snapshot = &self.outlook.published.read().snapshot;
        let played = self.runtime.editions().get(snapshot.edition);
        let plays = |look: usize| played.show.looks.get(look).is_some_and(|look| look.name == place.pattern);
        let beats = snapshot.stage.iter().filter(|on| plays(on.look)).find_map(|on| on.place);
        let Some(beats) = beats else {
            return Outcome::Nothing(format!("{} does not play; what is struck is put where it is", place.pattern));
        };
        // Lanes are counted from 1; one that is 0 is as little there as one behind the last.
        let lane = place.lane.checked_sub(1).unwrap_or(usize::MAX - 1);
        if let Err(why) = patterns::strike(pattern, lane, beats, None) {
            return Outcome::Refused(format!("{}: {why}", place.pattern));
        }
        let edit = DocumentCommand::Edit(Edit::PutLooks(vec![(at, look)]));
        match self.dispatch(&edit.into(), by, Some(edition), None) {
            Outcome::Done => told(&format!("struck into {}, lane {}", place.pattern, place.lane)),
            other => other,
        }
    }
}
