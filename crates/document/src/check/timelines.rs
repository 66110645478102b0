//! Problems of timelines.

use super::Found;
use splimo_show::Severity;
use splimo_show::{Clip, LONGEST_TIMELINE, MOST_CLIPS, MOST_MARKS, MOST_TIMELINES, Marks, Place, Show, Timeline};

impl Found {
    pub(super) fn timelines(&mut self, show: &Show) {
        let place = Place::root().key("timelines");
        if show.timelines.len() > MOST_TIMELINES {
            let message = format!("there are {}", show.timelines.len());
            self.add(Severity::Broken, place.clone(), "timelines", message, format!("keep it to {MOST_TIMELINES}"));
        }
        for (index, timeline) in show.timelines.iter().enumerate() {
            self.timeline(&place.clone().index(index), timeline);
        }
    }

    fn timeline(&mut self, place: &Place, timeline: &Timeline) {
        let subject = format!("timeline {}", timeline.name);
        self.range(place.clone().key("length"), &subject, timeline.length, 0.1, LONGEST_TIMELINE);
        self.range(place.clone().key("priority"), &subject, f32::from(timeline.priority), 0.0, 100.0);
        if timeline.clips.len() > MOST_CLIPS {
            let (message, mend) =
                (format!("it has {} clips", timeline.clips.len()), format!("keep it to {MOST_CLIPS}"));
            self.add(Severity::Broken, place.clone().key("clips"), &subject, message, mend);
        }
        for (index, clip) in timeline.clips.iter().enumerate() {
            let place = place.clone().key("clips").index(index);
            self.clip(&place, &format!("{subject}, clip at {}", clip.at), clip);
        }
        if let Some(marks) = &timeline.marks {
            self.marks(&place.clone().key("marks"), &subject, marks);
        }
    }

    fn marks(&mut self, place: &Place, subject: &str, marks: &Marks) {
        let parts: Vec<f64> = marks.parts.iter().map(|part| part.at).collect();
        for (key, times) in [("beats", &marks.beats), ("bars", &marks.bars), ("parts", &parts)] {
            let mend = "hear the recording again";
            let known = |time: &f64| (0.0..=f64::from(LONGEST_TIMELINE)).contains(time);
            let in_order = times.is_sorted() && times.iter().all(known);
            let fault = match times.len() {
                count if count > MOST_MARKS => format!("there are {count} {key}, and {MOST_MARKS} at the most"),
                _ if !in_order => format!("the {key} are not times one after the other"),
                _ => continue,
            };
            self.add(Severity::Broken, place.clone().key(key), subject, fault, mend);
        }
    }

    fn clip(&mut self, place: &Place, subject: &str, clip: &Clip) {
        for (key, value) in
            [("at", clip.at), ("length", clip.length), ("fade_in", clip.fade_in), ("fade_out", clip.fade_out)]
        {
            self.range(place.clone().key(key), subject, value, 0.0, LONGEST_TIMELINE);
        }
        self.commands(&place.clone().key("do"), subject, &clip.does);
        if clip.look.is_some() && clip.tier.is_empty() {
            let mend = "name the tier on which its look is to be";
            self.add(Severity::Broken, place.clone().key("tier"), subject, "its look has no tier", mend);
        }
        if clip.look.is_some() && clip.list.is_some() {
            let mend = "keep one of them, and make a second clip of the other";
            self.add(Severity::Broken, place.clone().key("list"), subject, "it has a look and a cue list", mend);
        }
        if clip.list.is_some() && clip.length <= 0.0 {
            let mend = "give it a length: the list is released where it ends";
            self.add(Severity::Warning, place.clone().key("length"), subject, "its list ends where it begins", mend);
        }
        if clip.look.is_none() && clip.list.is_none() && clip.does.is_empty() {
            let mend = "give it a look, a cue list, or commands";
            self.add(Severity::Warning, place.clone(), subject, "it shows and does nothing", mend);
        }
    }
}
