//! Problems of what a show is played with: tiers and banks of pads.

use super::Found;
use splimo_show::Severity;
use splimo_show::{Bank, MOST_BANKS, MOST_TIERS, Manner, PADS, Pad, Place, Show};

impl Found {
    pub(super) fn play(&mut self, show: &Show) {
        let place = |list: &str| Place::root().key(list);
        for (list, count, most) in [("tiers", show.tiers.len(), MOST_TIERS), ("banks", show.banks.len(), MOST_BANKS)] {
            if count > most {
                let mend = format!("keep it to {most}");
                self.add(Severity::Broken, place(list), list, format!("there are {count}"), mend);
            }
        }
        for (index, bank) in show.banks.iter().enumerate() {
            self.bank(&place("banks").index(index), bank);
        }
        let rotation = &show.rotation;
        let of = |key: &str| Place::root().key("rotation").key(key);
        self.range(of("bars"), "rotation", rotation.bars as f32, 0.0, 64.0);
        self.range(of("back_after"), "rotation", rotation.back_after as f32, 0.0, 256.0);
        self.range(of("fade"), "rotation", rotation.fade, 0.0, 64.0);
    }

    fn bank(&mut self, place: &Place, bank: &Bank) {
        let subject = format!("bank {}", bank.name);
        self.manner(&place.clone().key("plays"), &subject, &bank.plays);
        let mut taken = [false; PADS + 1];
        for (index, pad) in bank.pads.iter().enumerate() {
            let place = place.clone().key("pads").index(index);
            let subject = format!("{subject}, pad {}", pad.place);
            self.range(place.clone().key("place"), &subject, pad.place as f32, 1.0, PADS as f32);
            if pad.place <= PADS && std::mem::replace(&mut taken[pad.place], true) {
                self.add(
                    Severity::Broken,
                    place.clone().key("place"),
                    &subject,
                    "two pads are there",
                    "take one of them out",
                );
            }
            self.does(&place, &subject, pad);
            self.manner(&place.key("plays"), &subject, &pad.plays);
        }
    }

    fn does(&mut self, place: &Place, subject: &str, pad: &Pad) {
        let mend = "give it one of the two, such as look = \"Tide\" or command = \"blackout\"";
        match (&pad.look, &pad.command) {
            (Some(_), None) => {}
            (None, Some(command)) => {
                if let Err(why) = command.command() {
                    let mend = "splimo do --help lists what there is";
                    self.add(Severity::Broken, place.clone().key("command"), subject, why.to_string(), mend);
                }
            }
            (None, None) => {
                self.add(Severity::Broken, place.clone(), subject, "it has neither a look nor a command", mend);
            }
            (Some(_), Some(_)) => {
                self.add(Severity::Broken, place.clone(), subject, "it has a look and a command", mend);
            }
        }
    }

    fn manner(&mut self, place: &Place, subject: &str, manner: &Manner) {
        for (key, value, from) in
            [("fade_in", manner.fade_in, 0.0), ("fade_out", manner.fade_out, 0.0), ("beats", manner.beats, 0.25)]
        {
            if let Some(value) = value {
                self.range(place.clone().key(key), subject, value, from, 64.0);
            }
        }
    }
}
