//! The service manager that may have started the program (systemd): it is told when light goes out, and then, again and again, that it
//! still does (sd_notify(3)). Without one there is nobody to tell.

use std::time::Duration;

use sd_notify::NotifyState;

use super::Session;
use crate::clock::Instant;

/// The state that the manager was told.
#[derive(Default)]
pub(super) struct Manager {
    ready: bool,
    /// The time between two signs of life, once it is known: half of what the manager waits.
    every: Option<f64>,
    told: Option<Instant>,
    /// The frame at the last sign of life.
    frame: u64,
}

impl Session {
    /// Tells the manager that light goes out. Where no new frame has been made since the last time, nothing is told: then the manager
    /// starts the program again.
    pub(super) fn notify_manager(&mut self) {
        let frame = self.outlook.published.read().snapshot.frame;
        let manager = &mut self.manager;
        if frame == 0 {
            return;
        }
        if !std::mem::replace(&mut manager.ready, true) {
            let mut waits = 0;
            if sd_notify::watchdog_enabled(false, &mut waits) {
                manager.every = Some(Duration::from_micros(waits).as_secs_f64() / 2.0);
            }
            tell(&[NotifyState::Ready, NotifyState::Status("light goes out")]);
        }
        let Some(every) = manager.every else { return };
        let now = Instant::now();
        if manager.told.is_none_or(|told| now.seconds_since(told) >= every) && frame > manager.frame {
            (manager.told, manager.frame) = (Some(now), frame);
            tell(&[NotifyState::Watchdog]);
        }
    }
}

fn tell(what: &[NotifyState<'_>]) {
    if let Err(error) = sd_notify::notify(false, what) {
        tracing::debug!(%error, "the service manager cannot be told");
    }
}
