//! Supplies that have to be spared, as troubles.

use splimo_engine::Snapshot;
use splimo_show::Show;

use super::trouble::Troubles;

/// Tells of each supply whether the lights are dimmed for its sake.
pub fn tell(show: &Show, snapshot: &Snapshot, troubles: &Troubles) {
    for (supply, state) in show.supplies.iter().zip(&snapshot.supplies) {
        let subject = format!("supply {}", supply.name);
        if state.gain < 0.995 {
            let limit = supply.limit.unwrap_or(0.0);
            let words = format!(
                "its lights are dimmed to {:.0} % to stay within {limit} A; lower the master, or give it less to feed",
                state.gain * 100.0
            );
            troubles.tell(&subject, words);
        } else {
            troubles.over(&subject);
        }
    }
}
