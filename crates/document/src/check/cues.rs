//! Problems of cue lists.

use super::Found;
use splimo_base::colour_words;
use splimo_show::CONTROLS;
use splimo_show::Severity;
use splimo_show::command::MOST_SPEED;
use splimo_show::{Cue, CueList, CueTier, MOST_CUES, MOST_LISTS, Place, Show};
use splimo_time::tempo::{FASTEST, SLOWEST};

impl Found {
    pub(super) fn cues(&mut self, show: &Show) {
        let place = Place::root().key("cue_lists");
        if show.cue_lists.len() > MOST_LISTS {
            let message = format!("there are {}", show.cue_lists.len());
            self.add(Severity::Broken, place.clone(), "cue lists", message, format!("keep it to {MOST_LISTS}"));
        }
        for (index, list) in show.cue_lists.iter().enumerate() {
            self.list(&place.clone().index(index), list);
        }
    }

    fn list(&mut self, place: &Place, list: &CueList) {
        let subject = format!("cue list {}", list.name);
        self.range(place.clone().key("priority"), &subject, f32::from(list.priority), 0.0, 100.0);
        if list.cues.len() > MOST_CUES {
            let (message, mend) = (format!("it has {} cues", list.cues.len()), format!("keep it to {MOST_CUES}"));
            self.add(Severity::Broken, place.clone().key("cues"), &subject, message, mend);
        }
        let mut before = None;
        for (index, cue) in list.cues.iter().enumerate() {
            let place = place.clone().key("cues").index(index);
            let subject = format!("{subject}, cue {}", cue.number);
            match before.replace(cue.number) {
                Some(number) if number == cue.number => {
                    let message = format!("two cues have the number {number}");
                    self.add(
                        Severity::Broken,
                        place.clone().key("number"),
                        &subject,
                        message,
                        "give one another number",
                    );
                }
                Some(number) if number > cue.number => {
                    let message = format!("it stands behind cue {number}");
                    let mend = "put the cues in the order of their numbers";
                    self.add(Severity::Broken, place.clone().key("number"), &subject, message, mend);
                }
                Some(_) | None => {}
            }
            self.cue(&place, &subject, cue, list);
        }
    }

    fn cue(&mut self, place: &Place, subject: &str, cue: &Cue, list: &CueList) {
        for (at, said) in cue.tiers.iter().enumerate() {
            self.cue_tier(&place.clone().key("tiers").index(at), subject, said);
        }
        for (key, value, from, to) in [
            ("master", cue.master, 0.0, 100.0),
            ("tempo", cue.tempo, SLOWEST as f32, FASTEST as f32),
            ("speed", cue.speed, 0.0, MOST_SPEED),
        ] {
            if let Some(value) = value {
                self.range(place.clone().key(key), subject, value, from, to);
            }
        }
        for (at, one) in cue.controls.iter().enumerate() {
            let place = place.clone().key("controls").index(at);
            self.range(place.clone().key("control"), subject, f32::from(one.control), 1.0, CONTROLS as f32);
            self.range(place.key("percent"), subject, one.percent, 0.0, 100.0);
        }
        self.commands(&place.clone().key("do"), subject, &cue.does);
        if !cue.colour.is_empty() && colour_words::parse(&cue.colour).is_none() {
            let message = format!("\"{}\" is no colour", cue.colour);
            self.add(
                Severity::Broken,
                place.clone().key("colour"),
                subject,
                message,
                "write one such as #ff8800 or orange",
            );
        }
        if let Some(back) = cue.back_to.filter(|back| *back > cue.number || list.place(*back).is_none()) {
            let message = format!("it goes back to cue {back}, which is not before it");
            self.add(
                Severity::Broken,
                place.clone().key("back_to"),
                subject,
                message,
                "name a cue before it, or itself",
            );
        }
    }

    fn cue_tier(&mut self, place: &Place, subject: &str, said: &CueTier) {
        if said.look.is_some() && said.out {
            let message = format!("on {} it shows a look and goes out", said.tier);
            self.add(Severity::Broken, place.clone(), subject, message, "keep one of the two");
        }
        if let Some(level) = said.level {
            self.range(place.clone().key("level"), subject, level, 0.0, 100.0);
        }
    }
}
