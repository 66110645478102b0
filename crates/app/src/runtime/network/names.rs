//! Names of machines: resolved on a thread of its own, as asking may take long.

use std::collections::HashMap;
use std::net::{IpAddr, ToSocketAddrs};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::Builder;
use std::time::Duration;

use crossbeam_channel::{RecvTimeoutError, Sender, unbounded};

/// How often names are asked for again.
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
    /// Where the system gives no thread.
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
                    let result = resolve(name);
                    kept.lock().unwrap_or_else(PoisonError::into_inner).insert(name.clone(), result);
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

/// The address of a name; IPv4 first, as that is what most nodes speak.
fn resolve(name: &str) -> Result<IpAddr, String> {
    let all: Vec<IpAddr> = (name, 0).to_socket_addrs().map_err(|e| e.to_string())?.map(|a| a.ip()).collect();
    let first = all.iter().find(|a| a.is_ipv4()).or_else(|| all.first());
    first.copied().ok_or_else(|| "it has no address".to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_is_found_or_told_of() {
        assert!(resolve("localhost").is_ok_and(|a| a.is_loopback()));
        assert!(resolve("no-such-box.invalid").is_err());
    }
}
