//! Words for what a list does and waits for.

use splimo_engine::{ListState, Snapshot};
use splimo_show::{CueList, CueTime, GoesOn};

/// The event that the chosen list waits for at the cue where it is: how much is left of how much, and in words.
pub(super) struct Waits {
    /// The number that counts down, with its unit; none where it does not.
    pub(super) left: Option<String>,
    pub(super) words: String,
    /// The share that is over, 0..1.
    pub(super) share: Option<f32>,
}

/// The state of a list in a few words.
pub(super) fn state(list: &CueList, state: Option<&ListState>) -> String {
    match state.and_then(|state| Some((state, list.cues.get(state.at?)?))) {
        None => "rests".to_owned(),
        Some((state, cue)) if state.paused => format!("{} held", cue.number),
        Some((_, cue)) => match list.cues.last() {
            Some(last) => format!("{} of {}", cue.number, last.number),
            None => cue.number.to_string(),
        },
    }
}

/// The event that a list waits for.
pub(super) fn waits(list: &CueList, state: &ListState, snapshot: &Snapshot) -> Waits {
    let Some(at) = state.at else {
        return Waits { left: None, words: "rests".to_owned(), share: None };
    };
    let seconds = |beats: f64| beats * 60.0 / f64::from(snapshot.clock.bpm.max(1.0));
    let share =
        (state.stays > 0.0).then(|| (1.0 - state.goes_on_in.unwrap_or(0.0) / state.stays).clamp(0.0, 1.0) as f32);
    let last = state.next.is_none();
    let counted = |left: String, of: String| {
        let words = if last { format!("{left} {of}, the last") } else { format!("{left} {of}") };
        Waits { left: Some(left), words, share }
    };
    let left = state.goes_on_in.unwrap_or(0.0);
    match list.goes_on(at) {
        _ if state.paused => Waits { left: None, words: "held: x lets it go on".to_owned(), share },
        GoesOn::ByHand if last => Waits { left: None, words: "the last cue".to_owned(), share: None },
        GoesOn::ByHand => Waits { left: None, words: "waits for go".to_owned(), share: None },
        GoesOn::OnEvent(input, event) => Waits { left: None, words: format!("waits for {input} {event}"), share: None },
        GoesOn::PatternEnd => Waits { left: None, words: "waits for the end of a pattern".to_owned(), share: None },
        GoesOn::After(CueTime::Seconds(of)) => counted(format!("{:.1} s", seconds(left)), format!("of {of} s")),
        GoesOn::After(CueTime::Beats(of)) => counted(format!("{left:.1} beats"), format!("of {of}")),
        GoesOn::After(CueTime::Bars(of)) => {
            counted(format!("{:.1} bars", left / f64::from(snapshot.clock.bar_beats.max(1))), format!("of {of}"))
        }
        GoesOn::On(boundary) => counted(format!("{left:.1} beats"), format!("to the {}", boundary.name())),
    }
}
