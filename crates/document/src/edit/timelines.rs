//! Edits of timelines.

use super::{Refused, outputs};
use splimo_show::{MOST_TIMELINES, Show, Timeline};

impl outputs::Named for Timeline {
    const KIND: &'static str = "timeline";
    fn name(&self) -> &str {
        &self.name
    }
}

fn in_order(timeline: &Timeline) -> Timeline {
    let mut timeline = timeline.clone();
    timeline.clips.sort_by(|a, b| a.at.total_cmp(&b.at));
    timeline
}

pub(super) fn add(show: &mut Show, timeline: &Timeline) -> Result<(), Refused> {
    if show.timelines.len() >= MOST_TIMELINES {
        return Err(Refused(format!("a show has {MOST_TIMELINES} timelines at the most; take one out first")));
    }
    outputs::add(&mut show.timelines, &in_order(timeline))
}

pub(super) fn put(show: &mut Show, index: usize, timeline: &Timeline) -> Result<(), Refused> {
    let before = show.timelines.get(index).map(|one| one.name.clone());
    outputs::put(&mut show.timelines, index, &in_order(timeline))?;
    if let Some(before) = before.filter(|before| *before != timeline.name) {
        super::names::rename(show, splimo_show::reference::ReferenceKind::Timeline, &before, &timeline.name);
    }
    Ok(())
}

/// Takes a timeline out, and what plays it.
pub(super) fn remove(show: &mut Show, index: usize) -> Result<(), Refused> {
    let name = show.timelines.get(index).map(|one| one.name.clone());
    outputs::remove(&mut show.timelines, index)?;
    super::names::remove(show, splimo_show::reference::ReferenceKind::Timeline, &name.into_iter().collect())
}

#[cfg(test)]
mod tests {
    use crate::edit::Edit;
    use splimo_show::{Clip, Look, Show, Timeline};

    #[test]
    fn clips_stand_in_order_and_follow_names_and_what_plays_goes_along() {
        let mut show = Show::empty("Line");
        show.looks = vec![Look::new("Tide", Vec::new())];
        let clip = |at: f32, does: &str| Clip { at, does: vec![does.into()], ..Clip::default() };
        let look = Clip { at: 1.0, length: 2.0, tier: "base".into(), look: Some("Tide".into()), ..Clip::default() };
        let timeline: Timeline = Timeline {
            name: "Song".into(),
            unit: Default::default(),
            length: 10.0,
            loops: false,
            follows: Default::default(),
            priority: 0,
            clips: vec![clip(5.0, "stop-timeline Song"), look],
            marks: None,
        };
        let show = Edit::AddTimeline(timeline.clone()).apply(&show).expect("a good edit");
        assert_eq!(show.timelines[0].clips[0].at, 1.0);
        let show = Edit::PutLooks(vec![(0, Look::new("Ebb", Vec::new()))]).apply(&show).expect("a good edit");
        assert_eq!(show.timelines[0].clips[0].look.as_deref(), Some("Ebb"));
        let other = Timeline { name: "Air".into(), ..show.timelines[0].clone() };
        let show = Edit::PutTimeline(0, other).apply(&show).expect("a good edit");
        assert_eq!(show.timelines[0].clips[1].does, ["stop-timeline Air"]);
        let bad = Timeline { clips: vec![clip(1.0, "jump")], ..timeline };
        assert!(Edit::AddTimeline(bad).apply(&show).is_err());
        let show = Edit::RemoveLooks(vec![0]).apply(&show).expect("a good edit");
        assert_eq!(show.timelines[0].clips.len(), 1, "a clip goes with its look");
        assert!(Edit::RemoveTimeline(0).apply(&show).expect("a good edit").timelines.is_empty());
    }
}
