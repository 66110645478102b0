//! How well what was heard fits the truth (measures after M. E. P. Davies, N. Degara and M. D. Plumbley, "Evaluation methods
//! for musical audio beat tracking algorithms", 2009).

/// Precision and recall in one number: the share of events that have a partner within `tolerance` seconds, each used once.
/// 1 where both lists are empty.
#[must_use]
pub fn f_measure(truth: &[f64], found: &[f64], tolerance: f64) -> f64 {
    if truth.is_empty() && found.is_empty() {
        return 1.0;
    }
    let hits = hits(truth, found, tolerance);
    2.0 * hits as f64 / (truth.len() + found.len()) as f64
}

/// The same where some events may be found or not: `asked` has to be found, and what is near any of `there` is no mistake.
#[must_use]
pub fn f_measure_of_some(asked: &[f64], there: &[f64], found: &[f64], tolerance: f64) -> f64 {
    if asked.is_empty() || found.is_empty() {
        return f64::from(u8::from(asked.is_empty() && found.is_empty()));
    }
    let near = |time: &f64| there.iter().any(|other| (other - time).abs() <= tolerance);
    let precision = found.iter().filter(|time| near(time)).count() as f64 / found.len() as f64;
    let recall = hits(asked, found, tolerance) as f64 / asked.len() as f64;
    2.0 * precision * recall / (precision + recall).max(1e-9)
}

/// How many events have a partner. Both lists are in order.
fn hits(truth: &[f64], found: &[f64], tolerance: f64) -> usize {
    let (mut i, mut j, mut hits) = (0, 0, 0);
    while i < truth.len() && j < found.len() {
        let apart = found[j] - truth[i];
        if apart.abs() <= tolerance {
            hits += 1;
            i += 1;
            j += 1;
        } else if apart < 0.0 {
            j += 1;
        } else {
            i += 1;
        }
    }
    hits
}

/// The share of the truth that lies in the longest run of beats without a mistake, within this share of a beat.
#[must_use]
pub fn continuity(truth: &[f64], found: &[f64], share: f64) -> f64 {
    if truth.len() < 2 {
        return 1.0;
    }
    let good = |index: usize| {
        let gap = if index > 0 { truth[index] - truth[index - 1] } else { truth[1] - truth[0] };
        found.iter().any(|beat| (beat - truth[index]).abs() <= gap * share)
            && found
                .iter()
                .filter(|beat| **beat > truth[index] - gap * 0.5 && **beat <= truth[index] + gap * 0.5)
                .count()
                == 1
    };
    let (mut longest, mut run) = (0, 0);
    for index in 0..truth.len() {
        run = if good(index) { run + 1 } else { 0 };
        longest = longest.max(run);
    }
    longest as f64 / truth.len() as f64
}

/// The events from a time on.
#[must_use]
pub fn after(events: &[f64], time: f64) -> Vec<f64> {
    events.iter().copied().filter(|event| *event >= time).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_event_is_used_once() {
        assert_eq!(f_measure(&[1.0, 2.0], &[1.01, 1.02, 2.5], 0.07), 0.4);
        assert_eq!(f_measure(&[], &[], 0.07), 1.0);
        assert_eq!(f_measure(&[1.0], &[], 0.07), 0.0);
    }

    #[test]
    fn what_may_be_found_is_no_mistake_and_what_is_asked_for_is_missed() {
        let (asked, there) = ([1.0, 2.0], [1.0, 1.5, 2.0]);
        assert_eq!(f_measure_of_some(&asked, &there, &[1.0, 1.51, 2.0], 0.05), 1.0);
        assert_eq!(f_measure_of_some(&asked, &there, &[1.0, 2.0], 0.05), 1.0);
        // One of two is missed, and one of two is nowhere.
        assert_eq!(f_measure_of_some(&asked, &there, &[1.0, 3.0], 0.05), 0.5);
        assert_eq!(f_measure_of_some(&asked, &there, &[], 0.05), 0.0);
    }

    #[test]
    fn a_run_ends_with_a_mistake() {
        let truth: Vec<f64> = (0..10).map(f64::from).collect();
        let mut found = truth.clone();
        found[4] += 0.4;
        assert_eq!(continuity(&truth, &truth, 0.175), 1.0);
        assert_eq!(continuity(&truth, &found, 0.175), 0.5);
    }
}
