//! The forms of the view: of pads, a bank, a tier, and the rotation.

use std::collections::BTreeSet;

use splimo_document::edit::Edit;
use splimo_show::CONTROLS;
use splimo_show::{Bank, Blend, Pad, Rotation, Show, Tier};

use super::manner;
use crate::kit::form::{Field, Form};

/// The word for what the bank says.
const BANKS: &str = "the bank's";
/// The word for what the show says.
const SHOWS: &str = "the show's";
/// The words for what a pad does.
const DOES: [&str; 3] = ["look", "command", "nothing"];
/// The word for the lowest tier.
const LOWEST: &str = "the lowest";

/// A form that is open.
pub(super) struct OpenForm {
    pub title: String,
    pub form: Form,
    of: Of,
}

/// The thing that a form is of.
enum Of {
    /// Pads, by their banks and places.
    Pads(BTreeSet<(usize, usize)>),
    /// A bank, by its place; a new one has the place where it comes.
    Bank(usize, bool),
    /// A tier, by its place; a new one has the place where it comes.
    Tier(usize, bool),
    /// The rotation.
    Rotation,
    /// The name of a control.
    Control,
}

impl OpenForm {
    /// The form of chosen pads.
    pub(super) fn pads(chosen: &BTreeSet<(usize, usize)>, show: &Show) -> Self {
        let pads: Vec<Pad> = chosen.iter().map(|at| pad_at(show, *at)).collect();
        let first = pads.first().cloned().unwrap_or_default();
        let does = |pad: &Pad| match (&pad.look, &pad.command) {
            (_, Some(_)) => DOES[1],
            (Some(_), None) => DOES[0],
            (None, None) => {
                if show.looks.is_empty() {
                    DOES[2]
                } else {
                    DOES[0]
                }
            }
        };
        let looks = show.looks.iter().map(|look| look.name.clone());
        let mut fields = vec![
            Field::choice("does", "does", DOES, does(&first)),
            Field::choice("look", "look", looks, first.look.as_deref().unwrap_or("")),
            Field::text("command", "command", first.command.as_deref().unwrap_or("")),
        ];
        fields[0].mixed = pads.iter().any(|pad| does(pad) != does(&first));
        fields[1].mixed = pads.iter().any(|pad| pad.look != first.look);
        fields[2].mixed = pads.iter().any(|pad| pad.command != first.command);
        fields[1].hint = "type to find".to_owned();
        fields[2].hint = "as splimo do takes it, such as blackout".to_owned();
        // One pad without anything gets the look that the form shows.
        fields[1].touched = chosen.len() == 1 && first.look.is_none() && first.command.is_none();
        let manners: Vec<_> = pads.iter().map(|pad| &pad.plays).collect();
        fields.extend(manner::fields(&manners, show, BANKS));
        let title = if chosen.len() == 1 { "the pad".to_owned() } else { format!("{} pads", chosen.len()) };
        let mut open = Self { title, form: Form::new(fields), of: Of::Pads(chosen.clone()) };
        open.follow();
        open
    }

    /// The form of a bank, or of a new one.
    pub(super) fn bank(place: usize, new: bool, show: &Show) -> Self {
        let bank = if new { Bank::default() } else { show.banks.get(place).cloned().unwrap_or_default() };
        let name = if new { free_name("Bank", show.banks.iter().map(|bank| bank.name.as_str())) } else { bank.name };
        let mut fields = vec![Field::text("name", "name", name)];
        if new {
            let mut tags: Vec<&str> = show.looks.iter().flat_map(|look| &look.tags).map(String::as_str).collect();
            tags.sort_unstable();
            tags.dedup();
            let words = ["no looks".to_owned(), "all looks".to_owned()].into_iter();
            let words = words.chain(tags.into_iter().map(|tag| format!("tag {tag}")));
            let mut from = Field::choice("from", "begins with", words, "no looks");
            from.hint = "a pad for each".to_owned();
            fields.push(from);
        }
        fields.extend(manner::fields(&[&bank.plays], show, SHOWS));
        let title = if new { "a new bank" } else { "the bank" }.to_owned();
        Self { title, form: Form::new(fields), of: Of::Bank(place, new) }
    }

    /// The form of a tier, or of a new one.
    pub(super) fn tier(place: usize, new: bool, show: &Show) -> Self {
        let name = free_name("tier", show.stack().iter().map(|tier| tier.name.as_str()));
        let tier = match show.stack().get(place) {
            Some(tier) if !new => tier.clone(),
            _ => Tier::new(&name),
        };
        let mut fields = vec![
            Field::text("name", "name", tier.name),
            Field::choice("blend", "blend", Blend::ALL.map(Blend::name), tier.blend.name()),
            Field::text("lights", "lights", tier.lights.join(", ")),
        ];
        fields[2].hint = "groups and fixtures, with commas; empty is every light".to_owned();
        let title = if new { "a new tier" } else { "the tier" }.to_owned();
        Self { title, form: Form::new(fields), of: Of::Tier(place, new) }
    }

    /// The form of a control's name.
    pub(super) fn control(number: u8, show: &Show) -> Self {
        let name = show.control_name(u32::from(number)).unwrap_or_default();
        let mut fields = vec![
            Field::number("number", "control", f64::from(number), 1.0, CONTROLS as f64, 1.0),
            Field::text("name", "name", name),
        ];
        fields[1].hint = "for people; empty takes it".to_owned();
        let mut form = Form::new(fields);
        form.go_to("name");
        Self { title: "a control".to_owned(), form, of: Of::Control }
    }

    /// The form of the rotation.
    pub(super) fn rotation(show: &Show) -> Self {
        let rotation = &show.rotation;
        let tiers = std::iter::once(LOWEST.to_owned()).chain(show.stack().iter().map(|tier| tier.name.clone()));
        let list = |names: &[String]| names.join(", ");
        let mut fields = vec![
            Field::choice("tier", "tier", tiers, rotation.tier.as_deref().unwrap_or(LOWEST)),
            Field::number("bars", "every", rotation.bars.into(), 0.0, 64.0, 1.0),
            Field::number("fade", "fade", rotation.fade.into(), 0.0, 64.0, 1.0),
            Field::number("back", "takes back after", rotation.back_after.into(), 0.0, 256.0, 4.0),
            Field::number("seed", "seed", rotation.seed.into(), 0.0, 4_000_000_000.0, 1.0),
            Field::text("looks", "looks", list(&rotation.looks)),
            Field::text("banks", "banks", list(&rotation.banks)),
            Field::text("tags", "tags", list(&rotation.tags)),
            Field::text("without", "kept out", list(&rotation.without)),
        ];
        fields[1].hint = "bars; 0 is when the part of the music changes".to_owned();
        fields[2].hint = "beats".to_owned();
        fields[3].hint = "bars; 0 is when told to".to_owned();
        fields[4].hint = "the same gives the same choices".to_owned();
        fields[5].hint = "names, with commas; with no looks, banks and tags: all".to_owned();
        fields[8].hint = "looks that never come".to_owned();
        Self { title: "the rotation".to_owned(), form: Form::new(fields), of: Of::Rotation }
    }

    /// Shows the fields that apply.
    pub(super) fn follow(&mut self) {
        if matches!(self.of, Of::Pads(_)) {
            let does = self.form.text("does");
            self.form.show("look", does == DOES[0]);
            self.form.show("command", does == DOES[1]);
        }
    }

    /// The change of the show that the form asks for.
    ///
    /// # Errors
    /// The field that cannot be, and what it may be.
    pub(super) fn edit(&self, show: &Show) -> Result<Edit, String> {
        match &self.of {
            Of::Pads(chosen) => self.pads_edit(chosen, show),
            Of::Bank(place, new) => self.bank_edit(*place, *new, show),
            Of::Tier(place, new) => self.tier_edit(*place, *new, show),
            Of::Rotation => self.rotation_edit(show),
            Of::Control => Ok(Edit::NameControl(self.form.whole("number") as u8, self.form.text("name"))),
        }
    }

    fn pads_edit(&self, chosen: &BTreeSet<(usize, usize)>, show: &Show) -> Result<Edit, String> {
        let mut banks: Vec<(usize, Bank)> = Vec::new();
        for (place, bank) in show.banks.iter().enumerate().filter(|(place, _)| chosen.iter().any(|(b, _)| b == place)) {
            let mut bank = bank.clone();
            for (_, pad) in chosen.iter().filter(|(of, _)| *of == place) {
                let before = pad_at(show, (place, *pad));
                let after = self.pad(before)?;
                bank.pads.retain(|other| other.place != *pad);
                bank.pads.extend(after);
            }
            bank.pads.sort_by_key(|pad| pad.place);
            banks.push((place, bank));
        }
        Ok(Edit::PutBanks(banks))
    }

    /// A pad with what was touched; none where it does nothing.
    fn pad(&self, mut pad: Pad) -> Result<Option<Pad>, String> {
        let form = &self.form;
        let does = form.text("does");
        let touched = ["does", "look", "command"].iter().any(|id| form.touched(id));
        if touched && does == DOES[2] {
            return Ok(None);
        }
        if touched && does == DOES[0] {
            let one = form.touched("look") || pad.look.is_none();
            (pad.look, pad.command) = (if one { Some(form.text("look")) } else { pad.look }, None);
        }
        if touched && does == DOES[1] {
            if form.text("command").is_empty() {
                return Err("command: type one, such as blackout".to_owned());
            }
            (pad.look, pad.command) = (None, Some(form.text("command").into()));
        }
        pad.plays = manner::taken(form, &pad.plays, BANKS)?;
        Ok(Some(pad).filter(|pad| pad.look.is_some() || pad.command.is_some()))
    }

    fn bank_edit(&self, place: usize, new: bool, show: &Show) -> Result<Edit, String> {
        let form = &self.form;
        let before = if new { Bank::default() } else { show.banks.get(place).cloned().unwrap_or_default() };
        let name = form.text("name");
        let plays = manner::taken(form, &before.plays, SHOWS)?;
        if !new {
            return Ok(Edit::PutBanks(vec![(place, Bank { name, plays, ..before })]));
        }
        let from = form.text("from");
        let tag = from.strip_prefix("tag ");
        let looks = show.looks.iter().filter(|look| match tag {
            Some(tag) => look.tags.iter().any(|one| one == tag),
            None => from == "all looks",
        });
        let mut banks = Bank::of_looks(&name, looks.map(|look| look.name.as_str()));
        if banks.is_empty() {
            banks.push(Bank { name, ..Bank::default() });
        }
        banks.iter_mut().for_each(|bank| bank.plays = plays.clone());
        Ok(Edit::AddBanks(place, banks))
    }

    fn tier_edit(&self, place: usize, new: bool, show: &Show) -> Result<Edit, String> {
        let lights = names(&self.form.text("lights"));
        let known = |name: &String| {
            show.groups.iter().any(|group| group.name == *name) || show.fixtures.iter().any(|one| one.name == *name)
        };
        if let Some(other) = lights.iter().find(|name| !known(name)) {
            return Err(format!("lights: there is no group or fixture \"{other}\"; type names with commas between"));
        }
        let blend = self.form.text("blend");
        let blend = Blend::ALL.into_iter().find(|one| one.name() == blend).unwrap_or_default();
        let tier = Tier { name: self.form.text("name"), blend, lights };
        Ok(if new { Edit::AddTier(place, tier) } else { Edit::PutTier(place, tier) })
    }

    fn rotation_edit(&self, show: &Show) -> Result<Edit, String> {
        let form = &self.form;
        let list = |id: &str, known: &dyn Fn(&str) -> bool, kind: &str| {
            let all = names(&form.text(id));
            match all.iter().find(|name| !known(name)) {
                Some(other) => Err(format!("{id}: there is no {kind} \"{other}\"; type names with commas between")),
                None => Ok(all),
            }
        };
        let look = |name: &str| show.look(name).is_some();
        let bank = |name: &str| show.banks.iter().any(|bank| bank.name == name);
        let tag = |name: &str| show.looks.iter().any(|look| look.tags.iter().any(|tag| tag == name));
        Ok(Edit::PutRotation(Box::new(Rotation {
            tier: Some(form.text("tier")).filter(|tier| tier != LOWEST),
            bars: form.whole("bars"),
            seed: form.whole("seed"),
            fade: form.number("fade") as f32,
            back_after: form.whole("back"),
            looks: list("looks", &look, "look")?,
            banks: list("banks", &bank, "bank")?,
            tags: list("tags", &tag, "tag")?,
            without: list("without", &look, "look")?,
        })))
    }
}

/// The pad at a place of a bank; one that does nothing where there is none.
pub(super) fn pad_at(show: &Show, (bank, place): (usize, usize)) -> Pad {
    let pad = show.banks.get(bank).and_then(|bank| bank.pad(place));
    pad.cloned().unwrap_or(Pad { place, ..Pad::default() })
}

fn names(text: &str) -> Vec<String> {
    text.split(',').map(str::trim).filter(|name| !name.is_empty()).map(str::to_owned).collect()
}

fn free_name<'n>(stem: &str, taken: impl Iterator<Item = &'n str> + Clone) -> String {
    (2..).map(|n| format!("{stem} {n}")).find(|name| taken.clone().all(|other| other != name)).unwrap_or_default()
}
