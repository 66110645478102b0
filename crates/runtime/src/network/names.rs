//! Names of machines: resolved on a thread of its own, as asking may take long.

use std::collections::HashMap;
use std::net::{IpAddr, ToSocketAddrs};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::Builder;
use std::time::Duration;

use crossbeam_channel::{RecvTimeoutError, Sender, unbounded};

/// The number of times that names are asked for again.
const AGAIN: Duration = Duration::from_secs(10);

type Found = HashMap<String, Result<IpAddr, String>>;

/// Resolves names.
pub(super) struct Names {
    wanted: Sender<Vec<String>>,
    found: Arc<Mutex<Found>>,
}

impl Names {
    /// Starts the thread, which ends with this.
    ///
    /// # Errors
    /// If the system gives no thread.
    pub(super) fn start() -> std::io::Result<Self> {
        let (wanted, asked) = unbounded::<Vec<String>>();
        let found = Arc::new(Mutex::new(Found::new()));
        let kept = found.clone();
        let work = move || {
            let mut names: Vec<String> = Vec::new();
            loop {
                let patience = if names.is_empty() { Duration::from_secs(3600) } else { AGAIN };
                match asked.recv_timeout(patience) {
                    Ok(wanted) => names = asked.try_iter().last().unwrap_or(wanted),
                    Err(RecvTimeoutError::Timeout) => {}
                    Err(RecvTimeoutError::Disconnected) => return,
                }
                for name in &names {
                    let all = addresses(name);
                    let mut kept = kept.lock().unwrap_or_else(PoisonError::into_inner);
                    let found = renewed(kept.get(name), all);
                    kept.insert(name.clone(), found);
                }
                kept.lock().unwrap_or_else(PoisonError::into_inner).retain(|name, _| names.contains(name));
            }
        };
        Builder::new().name("names".into()).spawn(work)?;
        Ok(Self { wanted, found })
    }

    pub(super) fn want(&self, names: Vec<String>) {
        // The thread is there as long as this is.
        let _ = self.wanted.send(names);
    }

    pub(super) fn found(&self) -> Found {
        self.found.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }
}

fn addresses(name: &str) -> Result<Vec<IpAddr>, String> {
    Ok((name, 0).to_socket_addrs().map_err(|e| e.to_string())?.map(|a| a.ip()).collect())
}

/// The address of a name that was asked for again. Light goes on to the one that was found before for as long as that is not
/// known to be wrong: where nobody answers for a moment, or tells of several in another order. Otherwise IPv4 first, as that
/// is what most nodes speak.
fn renewed(before: Option<&Result<IpAddr, String>>, all: Result<Vec<IpAddr>, String>) -> Result<IpAddr, String> {
    let before = before.and_then(|before| before.as_ref().ok()).copied();
    let all = match (all, before) {
        (Ok(all), _) => all,
        (Err(_), Some(before)) => return Ok(before),
        (Err(why), None) => return Err(why),
    };
    let same = before.filter(|before| all.contains(before));
    let first = same.or_else(|| all.iter().copied().find(IpAddr::is_ipv4)).or_else(|| all.first().copied());
    first.or(before).ok_or_else(|| "it has no address".to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_is_found_or_told_of() {
        assert!(renewed(None, addresses("localhost")).is_ok_and(|a| a.is_loopback()));
        assert!(renewed(None, addresses("no-such-box.invalid")).is_err());
    }

    #[test]
    fn light_goes_on_to_where_it_went_until_that_is_known_to_be_wrong() {
        let [one, other, v6] = ["10.0.0.1", "10.0.0.2", "fe80::1"].map(|text| text.parse::<IpAddr>().expect("one"));
        let was = Ok(one);
        assert_eq!(renewed(None, Ok(vec![v6, other, one])), Ok(other));
        assert_eq!(renewed(None, Ok(vec![v6])), Ok(v6));
        assert_eq!(renewed(Some(&was), Ok(vec![v6, other, one])), Ok(one));
        assert_eq!(renewed(Some(&was), Ok(vec![other])), Ok(other));
        for nobody in [Ok(vec![]), Err("no answer".to_owned())] {
            assert_eq!(renewed(Some(&was), nobody.clone()), Ok(one));
            assert!(renewed(Some(&Err("no answer".into())), nobody).is_err());
        }
    }
}
