//! What the view does to looks: the actions, and what sheets ask for. Everything that changes a look ends in one edit.

use splimo_core::action::{Action, LayerPlace};
use splimo_core::edit::Edit;
use splimo_core::effect::Kind;
use splimo_core::making::{self, Property};
use splimo_core::show::{Layer, Look, Param};

use super::area::AreaSheet;
use super::chooser::Chooser;
use super::colours::{Colours, Whose};
use super::entry::Entry;
use super::many::Many;
use super::menu::{Item, Menu};
use super::modulators::ModulatorSheet;
use super::rows::{Row, rows_of, spec_of};
use super::sheet::{Answer, Deed, Sheet};
use super::swatches::Swatches;
use super::target::Target;
use super::variations::Variations;
use super::{COMPARED, LooksView, Pane};
use crate::kit::selection::swapped;
use splimo_runtime::clock::Instant;

impl LooksView {
    /// Carries out an action that is this view's; none where it is not. `here` tells whether the view is seen.
    pub(crate) fn act(&mut self, action: &Action, here: bool) -> Option<Vec<Action>> {
        if here {
            match action {
                Action::NextPane => {
                    self.pane = self.pane.next();
                    return Some(Vec::new());
                }
                Action::ChooseRow(by) => return Some(self.choose_by(*by)),
                Action::ChooseMore(by) => return Some(self.choose_more(*by)),
                Action::ChooseAll => return Some(self.choose_all()),
                Action::ChooseNone => {
                    self.more_looks.clear();
                    self.more_layers.clear();
                    return Some(Vec::new());
                }
                Action::Duplicate => return Some(self.duplicate()),
                Action::Remove => return Some(self.remove()),
                _ => {}
            }
        }
        Some(match action {
            Action::NewLook => self.new_look(),
            Action::AddLayer => self.if_look(|view| view.open(Chooser::adding())),
            Action::ChangeHere => self.change_here(),
            Action::NudgeValue(by) => self.nudge(*by),
            Action::MoveLayer(by) => self.move_by(*by),
            Action::MuteLayer => self.switch(|layer| &mut layer.mute, "is left out", "is seen again"),
            Action::SoloLayer => self.switch(|layer| &mut layer.solo, "is seen alone", "is not alone any more"),
            Action::TargetLayer => self.open_target(false),
            Action::Retarget => self.open_target(true),
            Action::NextSpan(by) => self.change_layer(|layer| Row::Span.nudge(layer, *by)),
            Action::ShowArea => self.with_layer(|view, layer| view.open(AreaSheet::of(layer.area))),
            Action::ShowModulator => self.open_modulator(),
            Action::ShowColours => self.open_colours(),
            Action::ShowPalette => self.open(Swatches::list()),
            Action::SpreadColours => self.open_spread(),
            Action::EditBlind => self.turn_blind(),
            Action::Compare => {
                self.compared = Some(Instant::now());
                Vec::new()
            }
            Action::Vary => self.open_variations(),
            Action::Freeze => self.open_freeze(),
            Action::ChaseLooks => self.chase_looks(),
            Action::CopyLayer => self.with_layer(|view, layer| {
                view.said = Some(format!("{} is copied; Y puts it, or a part of it, onto others", layer.effect));
                view.copied = Some(layer);
                Vec::new()
            }),
            Action::PasteLayer => self.open_paste(),
            Action::ChangeMany => self.open_many(),
            Action::FindLook => {
                (self.filtering, self.pane) = (true, Pane::Looks);
                Vec::new()
            }
            Action::ArmLook => match self.index().and_then(|index| self.show.looks.get(index)) {
                Some(look) => vec![Action::FireLook(look.name.clone())],
                None => self.say("there is no look to arm"),
            },
            Action::CentreLayer => self.place().map(Action::CentrePhase).into_iter().collect(),
            Action::RestartLayer => self.place().map(Action::RestartPhase).into_iter().collect(),
            Action::ChooseLight(by) => {
                let last = self.rig.len().saturating_sub(1) as i64;
                self.light = (self.light as i64 + i64::from(*by)).clamp(0, last) as usize;
                self.values = true;
                Vec::new()
            }
            Action::ShowValues => {
                self.values = !self.values;
                Vec::new()
            }
            _ => return None,
        })
    }

    fn say(&mut self, words: &str) -> Vec<Action> {
        self.said = Some(words.to_owned());
        Vec::new()
    }

    fn open(&mut self, sheet: Box<dyn Sheet>) -> Vec<Action> {
        self.sheet = Some(sheet);
        Vec::new()
    }

    fn if_look(&mut self, work: impl FnOnce(&mut Self) -> Vec<Action>) -> Vec<Action> {
        if self.look().is_none() {
            return self.say("there is no look here yet: n makes one");
        }
        work(self)
    }

    fn with_layer(&mut self, work: impl FnOnce(&mut Self, Layer) -> Vec<Action>) -> Vec<Action> {
        match self.layer().cloned() {
            Some(layer) => work(self, layer),
            None => self.say("there is no layer yet: a adds one"),
        }
    }

    fn place(&self) -> Option<LayerPlace> {
        let look = self.show.looks.get(self.index()?)?;
        Some(LayerPlace { look: look.name.clone(), layer: Some(self.layer_index()?) })
    }

    pub(super) fn choose_by(&mut self, by: i32) -> Vec<Action> {
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

    fn choose_more(&mut self, by: i32) -> Vec<Action> {
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

    fn choose_all(&mut self) -> Vec<Action> {
        if self.pane == Pane::Looks {
            self.more_looks = self.listed().into_iter().collect();
        } else {
            self.more_layers = (0..self.look().map_or(0, |look| look.layers.len())).collect();
        }
        Vec::new()
    }

    /// Shows a look without keeping it.
    fn try_look(&mut self, look: Look) -> Vec<Action> {
        let Some(index) = self.index() else { return Vec::new() };
        self.worked = Instant::now();
        self.work = Some(look.clone());
        if self.blind { Vec::new() } else { vec![Action::TryEdit(Edit::PutLooks(vec![(index, look)]))] }
    }

    /// Keeps what is tried.
    pub(super) fn keep_work(&mut self) -> Vec<Action> {
        let (Some(look), Some(index)) = (self.work.take(), self.index()) else { return Vec::new() };
        self.put(vec![(index, look)])
    }

    pub(super) fn drop_work(&mut self) -> Vec<Action> {
        self.work = None;
        vec![Action::DropTried]
    }

    /// Puts looks in the place of others, or keeps them back where one edits blind.
    fn put(&mut self, looks: Vec<(usize, Look)>) -> Vec<Action> {
        if !self.blind {
            return vec![Action::Edit(Edit::PutLooks(looks))];
        }
        self.drafts_before.push(self.drafts.clone());
        self.drafts_after.clear();
        for (index, look) in looks {
            let Some(name) = self.show.looks.get(index).map(|l| l.name.clone()) else { continue };
            self.drafts.retain(|(known, _)| *known != name);
            self.drafts.push((name, look));
        }
        Vec::new()
    }

    /// Takes back what was done blind, or does it again.
    pub(super) fn step_blind(&mut self, back: bool) -> Option<Vec<Action>> {
        if self.work.take().is_some() {
            return Some(Vec::new());
        }
        let (from, to) = match back {
            true => (&mut self.drafts_before, &mut self.drafts_after),
            false => (&mut self.drafts_after, &mut self.drafts_before),
        };
        // What was done before one went blind is the document's.
        let before = from.pop()?;
        to.push(std::mem::replace(&mut self.drafts, before));
        self.said = Some(if back { "taken back, blind" } else { "made again, blind" }.to_owned());
        Some(Vec::new())
    }

    pub(super) fn take_answer(&mut self, answer: Answer) -> Vec<Action> {
        if let Some(next) = answer.next {
            self.sheet = Some(next);
        } else if !answer.open {
            self.sheet = None;
        }
        if answer.said.is_some() {
            self.said = answer.said;
        }
        self.carry_out(answer.deed)
    }

    pub(super) fn carry_out(&mut self, deed: Deed) -> Vec<Action> {
        match deed {
            Deed::Nothing => Vec::new(),
            Deed::Try(look) => self.try_look(look),
            Deed::Keep(look) => {
                self.work = Some(look);
                self.keep_work()
            }
            Deed::KeepAndGoTo(look, layer) => {
                self.layers.chosen = look.layers.len().saturating_sub(1 + layer);
                (self.lines.chosen, self.pane) = (1, Pane::Lines);
                self.more_layers.clear();
                self.work = Some(look);
                self.keep_work()
            }
            Deed::Drop => self.drop_work(),
            Deed::Do(actions) => actions,
            Deed::Each(change, parcel) => {
                self.work = None;
                let layers = self.chosen_layers();
                let chosen = self.chosen_looks();
                let layers = if chosen.len() > 1 { &[][..] } else { &layers };
                let changed = |index: &usize| Some((*index, change(self.base(*index)?, layers, &parcel)));
                let looks: Vec<(usize, Look)> = chosen.iter().filter_map(changed).collect();
                let different = looks.iter().filter(|(index, look)| self.base(*index) != Some(look)).count();
                let mut actions = vec![Action::DropTried];
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
            Deed::EndBlind { keep } => self.end_blind(keep),
        }
    }

    fn change_layer(&mut self, change: impl FnOnce(&mut Layer)) -> Vec<Action> {
        let (Some(mut look), Some(index)) = (self.look().cloned(), self.layer_index()) else {
            return self.say("there is no layer yet: a adds one");
        };
        change(&mut look.layers[index]);
        self.try_look(look)
    }

    /// Moves the value of the chosen line; on a layer that is its opacity.
    pub(super) fn nudge(&mut self, by: i32) -> Vec<Action> {
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
        self.change_layer(|layer| row.nudge(layer, by))
    }

    fn switch(&mut self, flag: fn(&mut Layer) -> &mut bool, on: &str, off: &str) -> Vec<Action> {
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

    fn move_by(&mut self, by: i32) -> Vec<Action> {
        if self.pane == Pane::Looks {
            let (Some(from), true) = (self.index(), self.filter.is_empty()) else {
                return self.say("looks are moved where all are listed");
            };
            let to = (from as i64 - i64::from(by)).clamp(0, self.show.looks.len() as i64 - 1) as usize;
            self.looks.chosen = to;
            return if from == to { Vec::new() } else { vec![Action::Edit(Edit::MoveLook(from, to))] };
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

    fn new_look(&mut self) -> Vec<Action> {
        let at = self.index().map_or(0, |index| index + 1);
        self.filter.clear();
        self.another_look();
        self.more_looks.clear();
        (self.looks.chosen, self.pane) = (at, Pane::Looks);
        self.said = Some("a new look: a adds a layer, e names it".to_owned());
        vec![Action::Edit(Edit::AddLooks(at, vec![Look::new("New look", Vec::new())]))]
    }

    fn duplicate(&mut self) -> Vec<Action> {
        if self.pane == Pane::Looks {
            let looks: Vec<Look> = self.chosen_looks().into_iter().filter_map(|i| self.base(i).cloned()).collect();
            let Some(last) = self.chosen_looks().last().copied() else { return self.say("there is no look to copy") };
            self.filter.clear();
            self.more_looks.clear();
            self.looks.chosen = last + 1;
            return vec![Action::Edit(Edit::AddLooks(last + 1, looks))];
        }
        let chosen = self.chosen_layers();
        let (Some(mut look), Some(last)) = (self.look().cloned(), chosen.last().copied()) else { return Vec::new() };
        let copies: Vec<Layer> = chosen.iter().map(|&index| look.layers[index].clone()).collect();
        look.layers.splice(last + 1..last + 1, copies);
        self.work = Some(look);
        self.keep_work()
    }

    fn remove(&mut self) -> Vec<Action> {
        if self.pane == Pane::Looks {
            let chosen = self.chosen_looks();
            let Some(first) = chosen.first().copied() else { return self.say("there is no look to take out") };
            self.said = Some(match chosen.len() {
                1 => format!("{} is gone; Ctrl-Z brings it back", self.show.looks[first].name),
                count => format!("{count} looks are gone; Ctrl-Z brings them back"),
            });
            self.more_looks.clear();
            return vec![Action::Edit(Edit::RemoveLooks(chosen))];
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
    fn change_here(&mut self) -> Vec<Action> {
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

    fn change_line(&mut self, row: Row) -> Vec<Action> {
        let kind = self.layer().and_then(|layer| row.param(layer)).map(|spec| spec.kind);
        match (row, kind) {
            (Row::Effect, _) => self.with_layer(|view, layer| view.open(Chooser::replacing(&layer))),
            (Row::Target, _) => self.open_target(false),
            (Row::Area, _) => self.with_layer(|view, layer| view.open(AreaSheet::of(layer.area))),
            (_, Some(Kind::Colours { .. })) => self.open_colours(),
            (Row::Blend | Row::Span | Row::Repeat, _) | (_, Some(Kind::Choice { .. })) => {
                self.say("← and → go through the words")
            }
            _ => match self.on_bench(|bench| Entry::line(row, bench)).flatten() {
                Some(entry) => self.open(entry),
                None => Vec::new(),
            },
        }
    }

    fn open_target(&mut self, whole_looks: bool) -> Vec<Action> {
        if whole_looks {
            return self.if_look(|view| view.open(Target::of(&[], true)));
        }
        self.with_layer(|view, layer| view.open(Target::of(&layer.target, false)))
    }

    fn open_modulator(&mut self) -> Vec<Action> {
        let row = if self.pane == Pane::Lines { self.row() } else { Some(Row::Opacity) };
        self.with_layer(|view, layer| {
            let named = row.and_then(|row| Some((row, row.moved_name(&layer)?)));
            let Some((row, name)) = named else {
                return view.say("numbers, colours and the opacity can be moved; choose one of them");
            };
            let index = row.modulators(&layer).first().map(|(index, _)| *index);
            view.open(ModulatorSheet::of(&layer, index, &name))
        })
    }

    fn open_colours(&mut self) -> Vec<Action> {
        let row = self.row();
        self.with_layer(|view, layer| {
            let Some(spec) = spec_of(&layer) else { return Vec::new() };
            let is_colours =
                |row: &Row| row.param(&layer).is_some_and(|param| matches!(param.kind, Kind::Colours { .. }));
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
    fn open_spread(&mut self) -> Vec<Action> {
        let Some(look) = self.look().cloned() else { return self.say("there is no look here yet: n makes one") };
        let ends = self.layer().and_then(|layer| {
            let param = spec_of(layer)?.params.iter().find(|p| matches!(p.kind, Kind::Colours { .. }))?;
            let Param::List(list) = making::value_of(layer, param) else { return None };
            (list.len() > 1).then(|| vec![list[0].clone(), list[list.len() - 1].clone()])
        });
        let ends = ends.unwrap_or_else(|| vec!["#ff7a3d".to_owned(), "#2f6bff".to_owned()]);
        let target = self.layer().map_or_else(Vec::new, |layer| layer.target.clone());
        let item = |letter, form: &str, words: &str| {
            let mut layer = Layer { target: target.clone(), ..Layer::new("gradient") };
            layer.params.insert("colours".to_owned(), Param::List(ends.clone()));
            layer.params.insert("form".to_owned(), Param::Text(form.to_owned()));
            let mut look = look.clone();
            look.layers.push(layer);
            let last = look.layers.len() - 1;
            Item { letter, words: words.to_owned(), deed: Deed::KeepAndGoTo(look, last), said: None }
        };
        let items = vec![
            item('s', "straight", "straight, from one end to the other"),
            item('m', "mirrored", "mirrored, there and back"),
        ];
        self.open(Menu::of(&format!("spread {} and {} over the lights", ends[0], ends[1]), items))
    }

    fn turn_blind(&mut self) -> Vec<Action> {
        if !self.blind {
            self.blind = true;
            self.drafts_before.clear();
            self.drafts_after.clear();
            return self.say("blind: what you change does not go out until b ends it");
        }
        if self.drafts.is_empty() {
            self.blind = false;
            return self.say("live: what you change is seen at once");
        }
        let count = self.drafts.len();
        let whose = if count == 1 { self.drafts[0].0.clone() } else { format!("{count} looks") };
        let item = |letter, words: &str, keep| Item {
            letter,
            words: words.to_owned(),
            deed: Deed::EndBlind { keep },
            said: None,
        };
        let items = vec![item('k', "keep it: it goes out now", true), item('d', "drop it", false)];
        self.open(Menu::of(&format!("{whose} was edited blind"), items))
    }

    /// What was edited blind goes into the document, so that it is not lost with the screen.
    pub(crate) fn rescue(&mut self) -> Vec<Action> {
        if self.drafts.is_empty() { Vec::new() } else { self.end_blind(true) }
    }

    fn end_blind(&mut self, keep: bool) -> Vec<Action> {
        self.blind = false;
        let drafts = std::mem::take(&mut self.drafts);
        if !keep {
            return self.say("dropped; live again");
        }
        let place = |name: &str| self.show.looks.iter().position(|look| look.name == name);
        let looks: Vec<(usize, Look)> =
            drafts.into_iter().filter_map(|(name, look)| Some((place(&name)?, look))).collect();
        self.said = Some("kept; live again".to_owned());
        vec![Action::Edit(Edit::PutLooks(looks))]
    }

    /// Whether the look is held against how it was saved at this moment.
    pub(super) fn compares(&self) -> bool {
        self.compared.is_some_and(|since| Instant::now().seconds_since(since) < COMPARED)
    }

    fn open_variations(&mut self) -> Vec<Action> {
        let Some(index) = self.index() else { return self.say("there is no look to vary") };
        match self.on_bench(|bench| Variations::of(index, bench)) {
            Some(sheet) => self.open(sheet),
            None => Vec::new(),
        }
    }

    fn open_freeze(&mut self) -> Vec<Action> {
        let on_stage = self.snapshot.stage.first().map(|entry| entry.look);
        let mut items = Vec::new();
        let at = self.index().map_or(0, |index| index + 1);
        let add = |look: Look| Deed::Do(vec![Action::Edit(Edit::AddLooks(at, vec![look]))]);
        if let Some((index, look)) = on_stage.and_then(|index| Some((index, self.show.looks.get(index)?))) {
            let phases = self.snapshot.phases.iter().filter(|phase| phase.look == index);
            let phases: Vec<(usize, f64)> = phases.map(|phase| (phase.layer, phase.turns)).collect();
            items.push(Item {
                letter: 's',
                words: format!("the layers of {}, stopped where they are", look.name),
                deed: add(making::frozen_layers(look, &phases)),
                said: Some(format!("{} still is a look", look.name)),
            });
        }
        let name = on_stage.and_then(|index| self.show.looks.get(index)).map_or("Dark", |look| look.name.as_str());
        let name = format!("{name} held");
        let held = making::frozen_light(&name, &self.snapshot.light, &self.show, &self.rig);
        items.push(Item {
            letter: 'c',
            words: "a colour for each light, as they are now".to_owned(),
            deed: add(held),
            said: Some(format!("{name} is a look")),
        });
        self.open(Menu::of("what is on the lights now becomes a still look", items))
    }

    /// A new look in which the chosen ones take turns.
    fn chase_looks(&mut self) -> Vec<Action> {
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
        vec![Action::Edit(Edit::AddLooks(at, vec![look]))]
    }

    fn open_paste(&mut self) -> Vec<Action> {
        let Some(copied) = self.copied.clone() else { return self.say("nothing is copied yet: y copies a layer") };
        let Some(look) = self.look().cloned() else { return self.say("there is no look here yet: n makes one") };
        let chosen = self.chosen_layers();
        let on_top = {
            let mut look = look.clone();
            look.layers.push(copied.clone());
            let last = look.layers.len() - 1;
            Item { letter: 't', words: "as a new layer on top".into(), deed: Deed::KeepAndGoTo(look, last), said: None }
        };
        let mut items = vec![on_top];
        for (letter, property) in ['w', 'c', 'm', 'p', 'o'].into_iter().zip(Property::ALL) {
            let mut look = look.clone();
            for &index in &chosen {
                look.layers[index] = making::put_on(&look.layers[index], &copied, property);
            }
            let words = format!("{} onto the chosen layer{}", property.name(), if chosen.len() > 1 { "s" } else { "" });
            items.push(Item { letter, words, deed: Deed::Keep(look), said: None });
        }
        if chosen.is_empty() {
            items.truncate(1);
        }
        self.open(Menu::of(&format!("put {} here", copied.effect), items))
    }

    fn open_many(&mut self) -> Vec<Action> {
        let looks: Vec<&Look> = self.chosen_looks().into_iter().filter_map(|index| self.base(index)).collect();
        if looks.is_empty() {
            return self.say("there is no look here yet: n makes one");
        }
        match self.on_bench(|bench| Many::of(&looks, bench)) {
            Some(sheet) => self.open(sheet),
            None => Vec::new(),
        }
    }
}
