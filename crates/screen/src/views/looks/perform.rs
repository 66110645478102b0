//! The work of the view on looks: its actions, and what panels ask for. Everything that changes a look ends in one edit.

use std::time::Instant;

use splimo_document::DocumentCommand;
use splimo_document::edit::Edit;
use splimo_document::making::{self, Property};
use splimo_light::effect::{ParamKind, ParamSpec};
use splimo_show::command::{EngineCommand, LayerPlace, SessionCommand};
use splimo_show::{Bank, Layer, Look, Param};

use super::action::Ask;
use super::area::AreaPanel;
use super::bulk_edit::BulkEdit;
use super::colours::{Colours, Whose};
use super::entry::Entry;
use super::menu::{Item, Menu};
use super::modulators::ModulatorPanel;
use super::panel::{LookPanel, PanelReply, PanelRequest};
use super::rows::{Row, rows_of, spec_of};
use super::spread::Spread;
use super::state::{LooksView, Pane};
use super::target::Target;
use super::variations::Variations;
use crate::kit::selection::swapped;

impl LooksView {
    pub(super) fn arm(&mut self) -> Vec<Ask> {
        match self.index().and_then(|index| self.show.looks.get(index)) {
            Some(look) => vec![Ask::engine(EngineCommand::FireLook(look.name.clone()))],
            None => self.say("there is no look to arm"),
        }
    }

    pub(super) fn copy_layer(&mut self) -> Vec<Ask> {
        self.with_layer(|view, layer| {
            view.said = Some(format!("{} is copied; Y puts it, or a part of it, onto others", layer.effect));
            view.copied = Some(layer);
            Vec::new()
        })
    }

    pub(super) fn choose_light(&mut self, by: i32) {
        let last = self.rig.len().saturating_sub(1) as i64;
        self.light = (self.light as i64 + i64::from(by)).clamp(0, last) as usize;
        self.values = true;
    }

    pub(super) fn say(&mut self, words: &str) -> Vec<Ask> {
        self.said = Some(words.to_owned());
        Vec::new()
    }

    pub(super) fn open(&mut self, panel: Box<dyn LookPanel>) -> Vec<Ask> {
        self.panel = Some(panel);
        Vec::new()
    }

    pub(super) fn if_look(&mut self, work: impl FnOnce(&mut Self) -> Vec<Ask>) -> Vec<Ask> {
        if self.look().is_none() {
            return self.say("there is no look here yet: n makes one");
        }
        work(self)
    }

    pub(super) fn with_layer(&mut self, work: impl FnOnce(&mut Self, Layer) -> Vec<Ask>) -> Vec<Ask> {
        match self.layer().cloned() {
            Some(layer) => work(self, layer),
            None => self.say("there is no layer yet: a adds one"),
        }
    }

    /// Moves the chosen layer in its cycles.
    pub(super) fn shift_phase(&mut self, how: impl FnOnce(LayerPlace) -> EngineCommand) -> Vec<Ask> {
        match self.place() {
            Some(place) => vec![Ask::engine(how(place))],
            None => self.say("there is no layer yet: a adds one"),
        }
    }

    pub(super) fn place(&self) -> Option<LayerPlace> {
        let look = self.show.looks.get(self.index()?)?;
        Some(LayerPlace { look: look.name.clone(), layer: Some(self.layer_index()?) })
    }

    pub(super) fn choose_by(&mut self, by: i32) -> Vec<Ask> {
        let kept = self.keep_work();
        match self.pane {
            Pane::Looks => {
                self.looks.choose_by(by);
                self.more_looks.clear();
                self.another_look();
            }
            Pane::Layers => {
                self.layers.choose_by(by);
                self.more_layers.clear();
                self.lines.chosen = 0;
            }
            Pane::Lines => self.lines.choose_by(by),
        }
        kept
    }

    pub(super) fn choose_more(&mut self, by: i32) -> Vec<Ask> {
        let kept = self.keep_work();
        match self.pane {
            Pane::Looks => {
                self.more_looks.extend(self.index());
                self.looks.choose_by(by);
                self.more_looks.extend(self.index());
            }
            Pane::Layers => {
                self.more_layers.extend(self.layer_index());
                self.layers.choose_by(by);
                self.more_layers.extend(self.layer_index());
            }
            Pane::Lines => self.lines.choose_by(by),
        }
        kept
    }

    pub(super) fn choose_all(&mut self) -> Vec<Ask> {
        if self.pane == Pane::Looks {
            self.more_looks = self.listed().into_iter().collect();
        } else {
            self.more_layers = (0..self.look().map_or(0, |look| look.layers.len())).collect();
        }
        Vec::new()
    }

    /// Shows a look without keeping it.
    pub(super) fn try_look(&mut self, look: Look) -> Vec<Ask> {
        let Some(index) = self.index() else { return Vec::new() };
        self.worked = Instant::now();
        self.work = Some(look.clone());
        if self.drafts.blind { Vec::new() } else { vec![Ask::try_edit(Edit::PutLooks(vec![(index, look)]))] }
    }

    /// Keeps what is tried.
    pub(super) fn keep_work(&mut self) -> Vec<Ask> {
        let (Some(look), Some(index)) = (self.work.take(), self.index()) else { return Vec::new() };
        self.put(vec![(index, look)])
    }

    pub(super) fn drop_work(&mut self) -> Vec<Ask> {
        self.work = None;
        vec![Ask::drop_tried()]
    }

    /// Puts looks in the place of others, or keeps them back where one edits blind.
    pub(super) fn put(&mut self, looks: Vec<(usize, Look)>) -> Vec<Ask> {
        if !self.drafts.blind {
            return vec![Ask::edit(Edit::PutLooks(looks))];
        }
        let named = |(index, look): (usize, Look)| Some((self.show.looks.get(index)?.name.clone(), look));
        vec![Ask::Command(DocumentCommand::Draft(looks.into_iter().filter_map(named).collect()).into())]
    }

    /// Takes back what was done blind, or does it again.
    /// Takes back or makes again what was done blind. What was done before one went blind is the document's, and out of reach:
    /// it goes out.
    pub(super) fn step_blind(&mut self, back: bool) -> Vec<Ask> {
        let [can_undo, can_redo] = self.drafts.steps;
        if self.panel.take().is_some() | self.work.take().is_some() {
            self.said = Some("as it was".to_owned());
            return Vec::new();
        }
        match (back, can_undo, can_redo) {
            (true, true, _) => vec![Ask::Command(DocumentCommand::UndoDraft.into())],
            (false, _, true) => vec![Ask::Command(DocumentCommand::RedoDraft.into())],
            (true, false, _) | (false, _, false) => {
                let word = if back { "undo" } else { "redo" };
                self.said = Some(format!("nothing to {word}, blind; b ends it"));
                Vec::new()
            }
        }
    }

    pub(super) fn take_reply(&mut self, reply: PanelReply) -> Vec<Ask> {
        if let Some(next) = reply.next {
            self.panel = Some(next);
        } else if !reply.open {
            self.panel = None;
        }
        if reply.said.is_some() {
            self.said = reply.said;
        }
        self.do_request(reply.request)
    }

    pub(super) fn do_request(&mut self, request: PanelRequest) -> Vec<Ask> {
        match request {
            PanelRequest::Nothing => Vec::new(),
            PanelRequest::Try(look) => self.try_look(look),
            PanelRequest::Keep(look) => {
                self.work = Some(look);
                self.keep_work()
            }
            PanelRequest::KeepAfter(mut asks, look) => {
                self.work = Some(look);
                asks.extend(self.keep_work());
                asks
            }
            PanelRequest::KeepAndGoTo(look, layer) => {
                self.layers.chosen = look.layers.len().saturating_sub(1 + layer);
                (self.lines.chosen, self.pane) = (1, Pane::Lines);
                self.more_layers.clear();
                self.work = Some(look);
                self.keep_work()
            }
            PanelRequest::Drop => self.drop_work(),
            PanelRequest::Ask(asks) => asks,
            PanelRequest::Each(change, bulk_change) => {
                self.work = None;
                let layers = self.chosen_layers();
                let chosen = self.chosen_looks();
                let layers = if chosen.len() > 1 { &[][..] } else { &layers };
                let changed = |index: &usize| Some((*index, change(self.base(*index)?, layers, &bulk_change)));
                let looks: Vec<(usize, Look)> = chosen.iter().filter_map(changed).collect();
                let different = looks.iter().filter(|(index, look)| self.base(*index) != Some(look)).count();
                let mut actions = vec![Ask::drop_tried()];
                self.said = Some(match different {
                    0 => "nothing there takes it; all is as it was".to_owned(),
                    1 => "changed in one look".to_owned(),
                    count => format!("changed in {count} looks"),
                });
                if different > 0 {
                    actions.extend(self.put(looks));
                }
                actions
            }
        }
    }

    pub(super) fn change_layer(&mut self, change: impl FnOnce(&mut Layer)) -> Vec<Ask> {
        let (Some(mut look), Some(index)) = (self.look().cloned(), self.layer_index()) else {
            return self.say("there is no layer yet: a adds one");
        };
        change(&mut look.layers[index]);
        self.try_look(look)
    }

    /// Moves the value of the chosen line; on a layer that is its opacity.
    pub(super) fn nudge(&mut self, by: i32) -> Vec<Ask> {
        let row = match self.pane {
            Pane::Looks => return Vec::new(),
            Pane::Layers => Row::Opacity,
            Pane::Lines => match self.row() {
                Some(row) => row,
                None => return Vec::new(),
            },
        };
        if row == Row::Target {
            return self.say("t chooses the lights");
        }
        let by = if self.pane == Pane::Layers { by * 5 } else { by };
        let aims: Vec<String> = self.show.aims.iter().map(|aim| aim.name.clone()).collect();
        self.change_layer(|layer| match row.param(layer).filter(|spec| matches!(spec.kind, ParamKind::Aim)) {
            Some(spec) => turn_aim(layer, spec, &aims, by),
            None => row.nudge(layer, by),
        })
    }

    pub(super) fn switch(&mut self, flag: fn(&mut Layer) -> &mut bool, on: &str, off: &str) -> Vec<Ask> {
        let chosen = self.chosen_layers();
        let (Some(mut look), Some(index)) = (self.look().cloned(), self.layer_index()) else {
            return self.say("there is no layer yet: a adds one");
        };
        let next = !*flag(&mut look.layers[index]);
        chosen.iter().for_each(|&index| *flag(&mut look.layers[index]) = next);
        self.said = Some(format!("{} {}", look.layers[index].effect, if next { on } else { off }));
        self.work = Some(look);
        self.keep_work()
    }

    pub(super) fn move_by(&mut self, by: i32) -> Vec<Ask> {
        if self.pane == Pane::Looks {
            let (Some(from), true) = (self.index(), self.filter.is_empty()) else {
                return self.say("looks are moved where all are listed");
            };
            let to = (from as i64 - i64::from(by)).clamp(0, self.show.looks.len() as i64 - 1) as usize;
            self.looks.chosen = to;
            return if from == to { Vec::new() } else { vec![Ask::edit(Edit::MoveLook(from, to))] };
        }
        let (Some(mut look), Some(from)) = (self.look().cloned(), self.layer_index()) else { return Vec::new() };
        let to = (from as i64 + i64::from(by)).clamp(0, look.layers.len() as i64 - 1) as usize;
        if from == to {
            return self.say(if by > 0 { "it is the topmost already" } else { "it is the lowest already" });
        }
        look.layers.swap(from, to);
        self.more_layers = swapped(&self.more_layers, from, to);
        self.layers.chosen = look.layers.len() - 1 - to;
        self.work = Some(look);
        self.keep_work()
    }

    pub(super) fn new_look(&mut self) -> Vec<Ask> {
        let at = self.index().map_or(0, |index| index + 1);
        self.filter.clear();
        self.another_look();
        self.more_looks.clear();
        (self.looks.chosen, self.pane) = (at, Pane::Looks);
        self.said = Some("a new look: a adds a layer, e names it".to_owned());
        vec![Ask::edit(Edit::AddLooks(at, vec![Look::new("New look", Vec::new())]))]
    }

    pub(super) fn duplicate(&mut self) -> Vec<Ask> {
        if self.pane == Pane::Looks {
            let looks: Vec<Look> = self.chosen_looks().into_iter().filter_map(|i| self.base(i).cloned()).collect();
            let Some(last) = self.chosen_looks().last().copied() else { return self.say("there is no look to copy") };
            self.filter.clear();
            self.more_looks.clear();
            self.looks.chosen = last + 1;
            return vec![Ask::edit(Edit::AddLooks(last + 1, looks))];
        }
        let chosen = self.chosen_layers();
        let (Some(mut look), Some(last)) = (self.look().cloned(), chosen.last().copied()) else { return Vec::new() };
        let copies: Vec<Layer> = chosen.iter().map(|&index| look.layers[index].clone()).collect();
        look.layers.splice(last + 1..last + 1, copies);
        self.work = Some(look);
        self.keep_work()
    }

    pub(super) fn remove(&mut self) -> Vec<Ask> {
        if self.pane == Pane::Looks {
            let chosen = self.chosen_looks();
            let Some(first) = chosen.first().copied() else { return self.say("there is no look to take out") };
            self.said = Some(match chosen.len() {
                1 => format!("{} is gone; Ctrl-Z brings it back", self.show.looks[first].name),
                count => format!("{count} looks are gone; Ctrl-Z brings them back"),
            });
            self.more_looks.clear();
            return vec![Ask::edit(Edit::RemoveLooks(chosen))];
        }
        let chosen = self.chosen_layers();
        let (Some(mut look), false) = (self.look().cloned(), chosen.is_empty()) else {
            return self.say("there is no layer to take out");
        };
        for index in chosen.iter().rev() {
            look.layers.remove(*index);
        }
        self.more_layers.clear();
        self.said = Some("the layer is gone; Ctrl-Z brings it back".to_owned());
        self.work = Some(look);
        self.keep_work()
    }

    /// Opens what the chosen line, layer or look is changed by.
    pub(super) fn change_here(&mut self) -> Vec<Ask> {
        match (self.pane, self.row()) {
            (Pane::Looks, _) => self.if_look(|view| {
                let Some(look) = view.look().cloned() else { return Vec::new() };
                view.open(Entry::look(&look))
            }),
            (Pane::Layers, _) | (_, None) => {
                self.pane = Pane::Lines;
                self.with_layer(|_, _| Vec::new())
            }
            (Pane::Lines, Some(row)) => self.change_line(row),
        }
    }

    pub(super) fn change_line(&mut self, row: Row) -> Vec<Ask> {
        let kind = self.layer().and_then(|layer| row.param(layer)).map(|spec| spec.kind);
        match (row, kind) {
            (Row::Effect, _) => self.with_layer(|view, layer| view.open(super::chooser::Chooser::replacing(&layer))),
            (Row::Target, _) => self.open_target(false),
            (Row::Area, _) => self.with_layer(|view, layer| view.open_area(&layer)),
            (_, Some(ParamKind::Colours { .. })) => self.open_colours(),
            (Row::Blend | Row::Span | Row::Repeat, _) | (_, Some(ParamKind::Choice { .. })) => {
                self.say("← and → go through the words")
            }
            _ => match self.in_context(|context| Entry::line(row, context)).flatten() {
                Some(entry) => self.open(entry),
                None => Vec::new(),
            },
        }
    }

    pub(super) fn open_target(&mut self, whole_looks: bool) -> Vec<Ask> {
        if whole_looks {
            return self.if_look(|view| view.open(Target::of(&[], true)));
        }
        self.with_layer(|view, layer| view.open(Target::of(&layer.target, false)))
    }

    pub(super) fn open_modulator(&mut self) -> Vec<Ask> {
        let row = if self.pane == Pane::Lines { self.row() } else { Some(Row::Opacity) };
        self.with_layer(|view, layer| {
            let named = row.and_then(|row| Some((row, row.moved_name(&layer)?)));
            let Some((row, name)) = named else {
                return view.say("numbers, colours and the opacity can be moved; choose one of them");
            };
            let index = row.modulators(&layer).first().map(|(index, _)| *index);
            view.open(ModulatorPanel::of(&layer, index, &name))
        })
    }

    pub(super) fn open_colours(&mut self) -> Vec<Ask> {
        let row = self.row();
        self.with_layer(|view, layer| {
            let Some(spec) = spec_of(&layer) else { return Vec::new() };
            let is_colours =
                |row: &Row| row.param(&layer).is_some_and(|param| matches!(param.kind, ParamKind::Colours { .. }));
            let found = row.filter(is_colours).or_else(|| rows_of(&layer).into_iter().find(is_colours));
            let Some(param) = found.and_then(|row| row.param(&layer)) else {
                return view.say(&format!("{} has no colours", spec.name));
            };
            let texts = match making::value_of(&layer, param) {
                Param::List(list) => list,
                Param::Text(text) => vec![text],
                _ => Vec::new(),
            };
            let palette = view.show.palette.clone();
            view.open(Colours::of(Whose::Param(param.name), texts, &palette))
        })
    }

    /// Two colours over the target: those of the chosen layer, or two that go with each other.
    pub(super) fn open_area(&mut self, layer: &Layer) -> Vec<Ask> {
        match self.in_context(|context| AreaPanel::of(layer, context)) {
            Some(panel) => self.open(panel),
            None => Vec::new(),
        }
    }

    pub(super) fn open_spread(&mut self, mirrored: bool) -> Vec<Ask> {
        match self.in_context(|context| Spread::of(context, mirrored)) {
            Some(panel) => self.open(panel),
            None => Vec::new(),
        }
    }

    pub(super) fn turn_blind(&mut self) -> Vec<Ask> {
        let ask = |command: DocumentCommand| vec![Ask::Command(command.into())];
        if !self.drafts.blind {
            return ask(DocumentCommand::EditBlind);
        }
        if self.drafts.looks.is_empty() {
            return ask(DocumentCommand::DropDrafts);
        }
        let count = self.drafts.looks.len();
        let whose = if count == 1 { self.drafts.looks[0].0.clone() } else { format!("{count} looks") };
        let item = |letter, words: &str, command: DocumentCommand| Item {
            letter,
            words: words.to_owned(),
            request: PanelRequest::Ask(vec![Ask::Command(command.into())]),
            said: None,
        };
        let items = vec![
            item('k', "keep it: it goes out now", DocumentCommand::KeepDrafts),
            item('d', "drop it", DocumentCommand::DropDrafts),
        ];
        self.open(Menu::of(&format!("{whose} was edited blind"), items))
    }

    pub(super) fn open_variations(&mut self) -> Vec<Ask> {
        let Some(index) = self.index() else { return self.say("there is no look to vary") };
        match self.in_context(|context| Variations::of(index, context)) {
            Some(panel) => self.open(panel),
            None => Vec::new(),
        }
    }

    pub(super) fn open_freeze(&mut self) -> Vec<Ask> {
        let on_stage = self.snapshot.stage.first().map(|entry| entry.look);
        let mut items = Vec::new();
        let at = self.index().map_or(0, |index| index + 1);
        let add = |look: Look| PanelRequest::Ask(vec![Ask::edit(Edit::AddLooks(at, vec![look]))]);
        if let Some((index, look)) = on_stage.and_then(|index| Some((index, self.show.looks.get(index)?))) {
            let phases = self.snapshot.phases.iter().filter(|phase| phase.look == index);
            let phases: Vec<(usize, f64)> = phases.map(|phase| (phase.layer, phase.turns)).collect();
            items.push(Item {
                letter: 's',
                words: format!("the layers of {}, stopped where they are", look.name),
                request: add(making::frozen_layers(look, &phases)),
                said: Some(format!("{} still is a look", look.name)),
            });
        }
        let name = on_stage.and_then(|index| self.show.looks.get(index)).map_or("Dark", |look| look.name.as_str());
        let name = format!("{name} held");
        items.push(Item {
            letter: 'c',
            words: "a colour for each light, as they are now".to_owned(),
            request: PanelRequest::Ask(vec![Ask::Command(SessionCommand::HoldLight(name.clone()).into())]),
            said: Some(format!("{name} is a look")),
        });
        self.open(Menu::of("what is on the lights now becomes a still look", items))
    }

    /// A new look in which the chosen ones take turns.
    pub(super) fn chase_looks(&mut self) -> Vec<Ask> {
        let chosen = self.chosen_looks();
        let names: Vec<&str> = chosen.iter().filter_map(|i| Some(self.show.looks.get(*i)?.name.as_str())).collect();
        if names.len() < 2 {
            return self
                .say("choose several looks first, with Shift-↑ and Shift-↓ in the list; then i has them take turns");
        }
        let look = Look::new("In turn", vec![making::in_turn(&names)]);
        let at = chosen.last().map_or(0, |last| last + 1);
        self.said = Some(format!("{} looks take turns in a new one, a bar each", names.len()));
        self.filter.clear();
        self.more_looks.clear();
        self.another_look();
        self.looks.chosen = at;
        vec![Ask::edit(Edit::AddLooks(at, vec![look]))]
    }

    /// A new bank with a pad for each of the chosen looks.
    pub(super) fn bank_of_looks(&mut self) -> Vec<Ask> {
        let chosen = self.chosen_looks();
        let names: Vec<&str> = chosen.iter().filter_map(|i| Some(self.show.looks.get(*i)?.name.as_str())).collect();
        if names.is_empty() {
            return self
                .say("choose looks first, with Shift-↑ and Shift-↓ in the list; then Ctrl-B makes a bank of them");
        }
        let taken = |name: &str| self.show.banks.iter().any(|bank| bank.name == name);
        let name = (1..).map(|n| format!("Bank {n}")).find(|name| !taken(name)).unwrap_or_default();
        let banks = Bank::of_looks(&name, names.iter().copied());
        self.said = Some(format!("{name} has {} pads; F6 plays them, Ctrl-B there names it", names.len()));
        vec![Ask::edit(Edit::AddBanks(self.show.banks.len(), banks))]
    }

    pub(super) fn open_paste(&mut self) -> Vec<Ask> {
        let Some(copied) = self.copied.clone() else { return self.say("nothing is copied yet: y copies a layer") };
        let Some(look) = self.look().cloned() else { return self.say("there is no look here yet: n makes one") };
        let chosen = self.chosen_layers();
        let on_top = {
            let mut look = look.clone();
            look.layers.push(copied.clone());
            let last = look.layers.len() - 1;
            Item {
                letter: 't',
                words: "as a new layer on top".into(),
                request: PanelRequest::KeepAndGoTo(look, last),
                said: None,
            }
        };
        let mut items = vec![on_top];
        for (letter, property) in ['w', 'c', 'm', 'p', 'o'].into_iter().zip(Property::ALL) {
            let mut look = look.clone();
            for &index in &chosen {
                look.layers[index] = making::put_on(&look.layers[index], &copied, property);
            }
            let words = format!("{} onto the chosen layer{}", property.name(), if chosen.len() > 1 { "s" } else { "" });
            items.push(Item { letter, words, request: PanelRequest::Keep(look), said: None });
        }
        if chosen.is_empty() {
            items.truncate(1);
        }
        self.open(Menu::of(&format!("put {} here", copied.effect), items))
    }

    pub(super) fn open_bulk_edit(&mut self) -> Vec<Ask> {
        let looks: Vec<&Look> = self.chosen_looks().into_iter().filter_map(|index| self.base(index)).collect();
        if looks.is_empty() {
            return self.say("there is no look here yet: n makes one");
        }
        match self.in_context(|context| BulkEdit::of(&looks, context)) {
            Some(panel) => self.open(panel),
            None => Vec::new(),
        }
    }
}

/// Goes on to the next aim, or the one before it.
fn turn_aim(layer: &mut Layer, spec: &ParamSpec, aims: &[String], by: i32) {
    let now = making::value_of(layer, spec);
    let at = aims.iter().position(|aim| now == Param::Text(aim.clone()));
    let next = match at {
        Some(at) => (at as i64 + i64::from(by.signum())).rem_euclid(aims.len() as i64) as usize,
        None => 0,
    };
    if let Some(aim) = aims.get(next) {
        making::set_value(layer, spec, Param::Text(aim.clone()));
    }
}
