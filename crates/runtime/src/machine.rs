//! The grants of this machine to a program with deadlines: those that it gives, those that it does not, and how a person gives them.

use std::fs;
use std::thread::Builder;
use std::time::Duration;

use nix::sys::resource::{RLIM_INFINITY, Resource, getrlimit};
use rustix::mm::MlockAllFlags;
use serde::Serialize;

use crate::clock::Instant;
use crate::urgency::{self, Urgency};

/// Room for packets that a flood of a second needs, in bytes.
const RECEIVE_BUFFER: u64 = 4 << 20;
/// Naps that are timed, and how long each is.
const NAPS: usize = 200;
const NAP: Duration = Duration::from_millis(2);
/// The lateness from which on frames suffer, in milliseconds.
const LATE_MS: f64 = 4.0;
/// The share of the processors that others may take, in percent.
const TAKEN: f64 = 30.0;

/// Something that a machine gives, or does not.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Grant {
    /// Its name.
    pub what: &'static str,
    /// True if the machine gives it.
    pub granted: bool,
    /// The finding, in words.
    pub found: String,
    /// The way to grant it; empty where it is granted.
    pub mend: String,
}

impl Grant {
    fn new(what: &'static str, granted: bool, found: String, mend: &str) -> Self {
        Self { what, granted, found, mend: if granted { String::new() } else { mend.to_owned() } }
    }
}

/// Looks at the machine, for about half a second.
#[must_use]
pub fn look() -> Vec<Grant> {
    let before = processor_time();
    let lateness = lateness_of_naps();
    let after = processor_time();
    vec![real_time(), memory_lock(), receive_buffer(), governor(), lateness, taken(before, after)]
}

fn real_time() -> Grant {
    let tried = Builder::new().name("try".into()).spawn(|| urgency::claim(Urgency::Sender));
    let granted = tried.ok().and_then(|thread| thread.join().ok()).unwrap_or(false);
    let found = if granted { "frames leave before other programs run" } else { "frames wait for their turn as all do" };
    let mend = "a service: LimitRTPRIO=20 in its unit; a person: the line `@audio - rtprio 20` in /etc/security/limits.d/splimo.conf, and membership in that group";
    Grant::new("real-time priority", granted, found.to_owned(), mend)
}

/// True if the system allows this process to keep all its memory.
fn may_lock_memory() -> bool {
    let unlimited = getrlimit(Resource::RLIMIT_MEMLOCK).is_ok_and(|(soft, _)| soft == RLIM_INFINITY);
    unlimited || nix::unistd::Uid::effective().is_root()
}

fn memory_lock() -> Grant {
    let granted = may_lock_memory();
    let found = if granted { "the show stays in memory" } else { "a full memory may move the show to the disk" };
    let mend = "a service: LimitMEMLOCK=infinity in its unit; a person: the line `@audio - memlock unlimited` in /etc/security/limits.d/splimo.conf";
    Grant::new("memory lock", granted, found.to_owned(), mend)
}

/// Asks for all memory of this process to stay where it is once it is used, where that is allowed without a bound: with one, a later
/// want of memory would fail.
pub fn lock_memory() {
    if !may_lock_memory() {
        tracing::info!("memory is not locked: no right to it");
        return;
    }
    match rustix::mm::mlockall(MlockAllFlags::CURRENT | MlockAllFlags::FUTURE | MlockAllFlags::ONFAULT) {
        Ok(()) => tracing::info!("memory is locked"),
        Err(error) => tracing::info!(%error, "memory is not locked"),
    }
}

fn receive_buffer() -> Grant {
    let most = number("/proc/sys/net/core/rmem_max");
    let found = most.map_or("unknown".to_owned(), |most| format!("{} kB", most >> 10));
    let mend = "sysctl -w net.core.rmem_max=4194304, and the same in /etc/sysctl.d/splimo.conf: a burst of packets is then not lost";
    Grant::new("room for packets", most.is_none_or(|most| most >= RECEIVE_BUFFER), found, mend)
}

fn governor() -> Grant {
    let path = "/sys/devices/system/cpu/cpu0/cpufreq/scaling_governor";
    let found = fs::read_to_string(path).map_or("the machine's own".to_owned(), |text| text.trim().to_owned());
    let slow = matches!(found.as_str(), "powersave" | "conservative");
    Grant::new("processor speed", !slow, found, "cpupower frequency-set -g performance, or the same in the firmware")
}

fn lateness_of_naps() -> Grant {
    let mut late: Vec<f64> = (0..NAPS)
        .map(|_| {
            let due = Instant::now().plus(NAP.as_nanos() as i64);
            due.sleep();
            Instant::now().since(due) as f64 / 1e6
        })
        .collect();
    late.sort_by(f64::total_cmp);
    let at = |share: usize| late[(NAPS * share / 100).min(NAPS - 1)];
    let found = format!("{:.2} ms late at the median, {:.2} at p99", at(50), at(99));
    Grant::new("waking on time", at(99) < LATE_MS, found, "end other programs, or grant real-time priority")
}

/// Jiffies of all processors: those of others' work on the same hardware, and all (proc(5), /proc/stat).
fn processor_time() -> Option<(u64, u64)> {
    let stat = fs::read_to_string("/proc/stat").ok()?;
    let all: Vec<u64> = stat.lines().next()?.split_whitespace().skip(1).filter_map(|word| word.parse().ok()).collect();
    let idle = all.get(3)? + all.get(4)?;
    let sum: u64 = all.iter().take(8).sum();
    Some((sum - idle, sum))
}

fn taken(before: Option<(u64, u64)>, after: Option<(u64, u64)>) -> Grant {
    let share = before.zip(after).and_then(|(before, after)| {
        let all = after.1.checked_sub(before.1).filter(|all| *all > 0)?;
        Some(after.0.saturating_sub(before.0) as f64 / all as f64 * 100.0)
    });
    let found = share.map_or("unknown".to_owned(), |share| format!("{share:.0} % are busy"));
    let mend = "end what else runs here, or move the show to a machine of its own";
    Grant::new("processors", share.is_none_or(|share| share < TAKEN), found, mend)
}

fn number(path: &str) -> Option<u64> {
    fs::read_to_string(path).ok()?.trim().parse().ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_missing_says_how_it_is_granted() {
        let all = look();
        assert_eq!(all.len(), 6);
        for grant in all {
            assert_eq!(grant.granted, grant.mend.is_empty(), "{grant:?}");
            assert!(!grant.found.is_empty());
        }
        let busy = taken(Some((0, 100)), Some((90, 200)));
        assert!(!busy.granted && busy.found == "90 % are busy", "{busy:?}");
    }
}
