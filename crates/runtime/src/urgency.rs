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
/// idle machine; the log says so.
pub fn claim(urgency: Urgency) {
    let level: u8 = match urgency {
        Urgency::Engine => 10,
        Urgency::Sender => 20,
    };
    let Ok(value) = ThreadPriorityValue::try_from(level) else { return };
    let policy = ThreadSchedulePolicy::Realtime(RealtimeThreadSchedulePolicy::Fifo);
    match set_thread_priority_and_policy(thread_native_id(), ThreadPriority::Crossplatform(value), policy) {
        Ok(()) => tracing::info!(?urgency, "has real-time scheduling"),
        Err(error) => tracing::info!(?urgency, ?error, "has the usual scheduling"),
    }
}

/// Prepares the threads that help the engine with very large shows, so that they are as urgent as it is.
pub fn prepare_helpers() {
    let helpers = rayon::ThreadPoolBuilder::new()
        .thread_name(|n| format!("engine {n}"))
        .start_handler(|_| claim(Urgency::Engine));
    // Where another show of this process has done so, they are there.
    let _ = helpers.build_global();
}
