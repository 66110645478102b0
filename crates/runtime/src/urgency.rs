//! Real-time scheduling for the threads that have deadlines, where the system permits it.

use thread_priority::unix::{
    RealtimeThreadSchedulePolicy, ThreadSchedulePolicy, set_thread_priority_and_policy, thread_native_id,
};
use thread_priority::{ThreadPriority, ThreadPriorityValue};

/// The urgency of a thread among the real-time ones.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Urgency {
    /// It makes frames, which takes a while.
    Engine,
    /// It lets frames leave, which has to be on time.
    Sender,
}

/// Asks for `SCHED_FIFO` for this thread. Without the right to it the usual scheduler goes on, which is well enough on an
/// idle machine; the log says so. Returns whether it was given.
pub fn claim(urgency: Urgency) -> bool {
    let level: u8 = match urgency {
        Urgency::Engine => 10,
        Urgency::Sender => 20,
    };
    let Ok(value) = ThreadPriorityValue::try_from(level) else { return false };
    let policy = ThreadSchedulePolicy::Realtime(RealtimeThreadSchedulePolicy::Fifo);
    let given = set_thread_priority_and_policy(thread_native_id(), ThreadPriority::Crossplatform(value), policy);
    match &given {
        Ok(()) => tracing::info!(?urgency, "has real-time scheduling"),
        Err(error) => tracing::info!(?urgency, ?error, "has the usual scheduling"),
    }
    given.is_ok()
}

/// The part that gives way where the machine has not time for all: frames go first, then what is heard, then what is seen here.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Patience {
    /// It hears.
    Hearing,
    /// It compiles what was edited, or draws a screen.
    Rest,
}

/// Has this thread give way to others (setpriority(2); Linux: of the thread alone). Everybody may be more patient.
pub fn give_way(patience: Patience) {
    let nice = match patience {
        Patience::Hearing => 2,
        Patience::Rest => 5,
    };
    if let Err(error) = rustix::process::setpriority_process(Some(rustix::thread::gettid()), nice) {
        tracing::debug!(?patience, %error, "does not give way");
    }
}

/// Prepares the threads that help the engine with very large shows, so that they are as urgent as it is.
pub fn prepare_helpers() {
    let helpers = rayon::ThreadPoolBuilder::new().thread_name(|n| format!("engine {n}")).start_handler(|_| {
        let _ = claim(Urgency::Engine);
    });
    // Where another show of this process has done so, they are there.
    let _ = helpers.build_global();
}
