//! Rewriting every reference of a show.

use std::collections::HashSet;

use super::commands::{self, Known};
use super::{LayerAt, control_of, named_by};
use splimo_show::palette;
use splimo_show::reference::{Fate, ReferenceKind};
use splimo_show::{Clip, Cue, GoesOn, Lane, Layer, Look, OutSource, OutTarget, Param, Show};

/// A list of lights that was limited to some, and has none left.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Emptied {
    /// The target of a layer.
    Layer(LayerAt),
    /// The lights of a tier, by its place.
    Tier(usize),
}

/// Asks about every reference of a show, by what may be named there and what is, and does with it what the answer says. Two
/// that became the same in a list that says *which* are made one. Returns what lit some lights and has none left.
pub fn rewrite<'n>(show: &mut Show, mut ask: impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>) -> Vec<Emptied> {
    let known = Known::of(show);
    for fixture in &mut show.fixtures {
        if let Fate::Rename(new) = ask(&[ReferenceKind::Profile], &fixture.profile) {
            new.clone_into(&mut fixture.profile);
        }
    }
    for group in &mut show.groups {
        rewrite_set(&mut group.members, |name| ask(&[ReferenceKind::Fixture], name));
    }
    for supply in &mut show.supplies {
        rewrite_set(&mut supply.feeds, |name| ask(&[ReferenceKind::Group, ReferenceKind::Fixture], name));
    }
    for aim in &mut show.aims {
        aim.heads.retain_mut(|head| ask(&[ReferenceKind::Fixture], &head.fixture).befall(&mut head.fixture));
    }
    for region in show.regions.iter_mut().filter(|region| !region.of.is_empty()) {
        rewrite_name(&mut region.of, |name| ask(&[ReferenceKind::Group, ReferenceKind::Fixture], name));
    }
    let mut emptied = Vec::new();
    for (index, look) in show.looks.iter_mut().enumerate() {
        let layers = rewrite_look(look, &mut ask).into_iter();
        emptied.extend(layers.map(|layer| Emptied::Layer(LayerAt { look: index, layer })));
    }
    for (index, tier) in show.tiers.iter_mut().enumerate() {
        let had_lights = !tier.lights.is_empty();
        rewrite_set(&mut tier.lights, |name| ask(&[ReferenceKind::Group, ReferenceKind::Fixture], name));
        emptied.extend((had_lights && tier.lights.is_empty()).then_some(Emptied::Tier(index)));
    }
    rewrite_play(show, &known, &mut ask);
    emptied
}

/// Rewrites what pads, settings and the rotation name. A pad whose look is taken out goes with it.
fn rewrite_play<'n>(show: &mut Show, known: &Known, ask: &mut impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>) {
    for bank in &mut show.banks {
        rewrite_one(&mut bank.plays.tier, |name| ask(&[ReferenceKind::Tier], name));
        bank.pads.retain_mut(|pad| {
            rewrite_one(&mut pad.plays.tier, |name| ask(&[ReferenceKind::Tier], name));
            let had_look = pad.look.is_some();
            rewrite_one(&mut pad.look, |name| ask(&[ReferenceKind::Look], name));
            let keeps_command = pad.command.as_mut().is_none_or(|text| commands::rewrite(text, known, &mut *ask));
            (pad.look.is_some() || !had_look) && keeps_command
        });
    }
    for list in &mut show.cue_lists {
        rewrite_goes_on(&mut list.then, ask);
        list.cues.iter_mut().for_each(|cue| rewrite_cue(cue, known, ask));
    }
    show.timelines.iter_mut().for_each(|timeline| timeline.clips.retain_mut(|clip| rewrite_clip(clip, known, ask)));
    show.schedule.start.retain_mut(|text| commands::rewrite(text, known, &mut *ask));
    for event in &mut show.schedule.events {
        event.does.retain_mut(|text| commands::rewrite(text, known, &mut *ask));
    }
    rewrite_inputs(show, known, ask);
    rewrite_values_out(show, ask);
    let looks = [&mut show.settings.fallback_look, &mut show.settings.safe_look];
    for name in looks.into_iter().filter(|name| !name.is_empty()) {
        rewrite_name(name, |name| ask(&[ReferenceKind::Look], name));
    }
    let rotation = &mut show.rotation;
    rewrite_one(&mut rotation.tier, |name| ask(&[ReferenceKind::Tier], name));
    rewrite_set(&mut rotation.looks, |name| ask(&[ReferenceKind::Look], name));
    rewrite_set(&mut rotation.without, |name| ask(&[ReferenceKind::Look], name));
    rewrite_set(&mut rotation.banks, |name| ask(&[ReferenceKind::Bank], name));
}

/// Rewrites what a cue names. It stays, whatever is taken out: the times of a list hang on every one.
fn rewrite_cue<'n>(cue: &mut Cue, known: &Known, ask: &mut impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>) {
    cue.tiers.retain_mut(|said| {
        let fate = ask(&[ReferenceKind::Tier], &said.tier);
        if let Fate::Rename(new) = fate {
            new.clone_into(&mut said.tier);
        }
        rewrite_one(&mut said.look, |name| ask(&[ReferenceKind::Look], name));
        let says = said.look.is_some() || said.out || said.level.is_some();
        fate != Fate::Remove && says
    });
    cue.does.retain_mut(|text| commands::rewrite(text, known, &mut *ask));
    rewrite_goes_on(&mut cue.then, ask);
}

/// Rewrites what a clip names. Whether it stays: one whose look, list or tier is taken out goes with it.
fn rewrite_clip<'n>(
    clip: &mut Clip,
    known: &Known,
    ask: &mut impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>,
) -> bool {
    let had = [clip.look.is_some(), clip.list.is_some()];
    rewrite_one(&mut clip.look, |name| ask(&[ReferenceKind::Look], name));
    rewrite_one(&mut clip.list, |name| ask(&[ReferenceKind::CueList], name));
    let mut stays = had == [clip.look.is_some(), clip.list.is_some()];
    if !clip.tier.is_empty() {
        match ask(&[ReferenceKind::Tier], &clip.tier) {
            Fate::Keep => {}
            Fate::Rename(new) => new.clone_into(&mut clip.tier),
            Fate::Remove => stays = false,
        }
    }
    clip.does.retain_mut(|text| commands::rewrite(text, known, &mut *ask));
    stays
}

/// Rewrites the input that a list waits for. Without one it goes on by hand.
fn rewrite_goes_on<'n>(then: &mut GoesOn, ask: &mut impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>) {
    let GoesOn::OnEvent(input, _) = then else { return };
    match ask(&[ReferenceKind::Input], input) {
        Fate::Keep => {}
        Fate::Rename(new) => new.clone_into(input),
        Fate::Remove => *then = GoesOn::ByHand,
    }
}

/// Rewrites what inputs and bindings name. A binding of an input that is taken out goes with it, and so does one that has nothing
/// left to ask for. A band stays: what lies beside it means the same as before.
fn rewrite_inputs<'n>(
    show: &mut Show,
    known: &Known,
    ask: &mut impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>,
) {
    for input in &mut show.inputs {
        input.when_silent.retain_mut(|text| commands::rewrite(text, known, &mut *ask));
    }
    show.bindings.retain_mut(|binding| {
        let fate = ask(&[ReferenceKind::Input], &binding.source);
        if let Fate::Rename(new) = fate {
            new.clone_into(&mut binding.source);
        }
        let had = binding.commands().count();
        binding.does.retain_mut(|text| commands::rewrite(text, known, &mut *ask));
        binding.let_go.retain_mut(|text| commands::rewrite(text, known, &mut *ask));
        for band in &mut binding.bands {
            band.does.retain_mut(|text| commands::rewrite(text, known, &mut *ask));
        }
        fate != Fate::Remove && (had == 0 || binding.commands().count() > 0)
    });
}

/// Rewrites what values that leave name. One that has nothing to tell, or nobody to tell it, goes.
fn rewrite_values_out<'n>(show: &mut Show, ask: &mut impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>) {
    show.values_out.retain_mut(|out| {
        let mut stays = match &mut out.what {
            OutSource::Master | OutSource::Control(_) => true,
            OutSource::Tier(name) => ask(&[ReferenceKind::Tier], name).befall(name),
            OutSource::Group(name) => ask(&[ReferenceKind::Group], name).befall(name),
            OutSource::Colour(name) => ask(&[ReferenceKind::Swatch], name).befall(name),
            OutSource::Light(name, _) => ask(&[ReferenceKind::Fixture], name).befall(name),
        };
        if let OutTarget::Midi(input, ..) = &mut out.to {
            stays &= ask(&[ReferenceKind::Input], input).befall(input);
        }
        stays
    });
}

/// Rewrites a name that is empty where there is none.
fn rewrite_name<'n>(name: &mut String, mut ask: impl FnMut(&str) -> Fate<'n>) {
    match ask(name) {
        Fate::Keep => {}
        Fate::Rename(new) => new.clone_into(name),
        Fate::Remove => name.clear(),
    }
}

fn rewrite_one<'n>(name: &mut Option<String>, mut ask: impl FnMut(&str) -> Fate<'n>) {
    let Some(named) = name else { return };
    match ask(named) {
        Fate::Keep => {}
        Fate::Rename(new) => new.clone_into(named),
        Fate::Remove => *name = None,
    }
}

/// The same for one look. Returns the layers that had a target and have none left.
pub fn rewrite_look<'n>(
    look: &mut Look,
    ask: &mut impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>,
) -> Vec<usize> {
    if let Some(pattern) = &mut look.pattern {
        pattern.lanes.retain_mut(|lane| rewrite_lane(lane, ask));
    }
    let layers = look.layers.iter_mut().enumerate();
    layers.filter_map(|(index, layer)| rewrite_layer(layer, ask).then_some(index)).collect()
}

/// The same for one lane. Whether it stays: one that was for some lights and has none left goes. An event goes with its look or colour.
fn rewrite_lane<'n>(lane: &mut Lane, ask: &mut impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>) -> bool {
    let had_lights = !lane.lights.is_empty();
    rewrite_set(&mut lane.lights, |name| ask(&[ReferenceKind::Group, ReferenceKind::Fixture], name));
    lane.events.retain_mut(|event| {
        let had = [event.look.is_some(), event.aim.is_some()];
        rewrite_one(&mut event.look, |name| ask(&[ReferenceKind::Look], name));
        rewrite_one(&mut event.aim, |name| ask(&[ReferenceKind::Aim], name));
        let colour = event.colour.as_mut().is_none_or(|text| rewrite_text(text, &[ReferenceKind::Swatch], ask));
        colour && had == [event.look.is_some(), event.aim.is_some()]
    });
    !had_lights || !lane.lights.is_empty()
}

/// The same for one layer. Whether it had a target and has none left.
pub fn rewrite_layer<'n>(layer: &mut Layer, ask: &mut impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>) -> bool {
    let had_target = !layer.target.is_empty();
    rewrite_set(&mut layer.target, |name| ask(&[ReferenceKind::Group, ReferenceKind::Fixture], name));
    if !layer.region.is_empty() {
        rewrite_name(&mut layer.region, |name| ask(&[ReferenceKind::Region], name));
    }
    rewrite_lights(layer, |name| ask(&[ReferenceKind::Fixture], name));
    let Layer { effect, params, modulators, .. } = layer;
    params.retain(|param, value| {
        let Some(kind) = named_by(effect, param) else { return true };
        match value {
            Param::List(list) => list.retain_mut(|text| rewrite_text(text, kind, ask)),
            Param::Text(text) => return rewrite_text(text, kind, ask),
            Param::Flag(_) | Param::Number(_) => {}
        }
        true
    });
    modulators.retain(|one| control_of(one).is_none_or(|name| ask(&[ReferenceKind::Control], name) != Fate::Remove));
    had_target && layer.target.is_empty()
}

fn rewrite_set<'n>(names: &mut Vec<String>, mut ask: impl FnMut(&str) -> Fate<'n>) {
    let mut renamed = false;
    names.retain_mut(|name| match ask(name) {
        Fate::Keep => true,
        Fate::Rename(new) => {
            renamed = true;
            new.clone_into(name);
            true
        }
        Fate::Remove => false,
    });
    if renamed {
        let mut seen = HashSet::new();
        names.retain(|name| seen.insert(name.clone()));
    }
}

fn rewrite_lights<'n>(layer: &mut Layer, mut ask: impl FnMut(&str) -> Fate<'n>) {
    let mut renamed = Vec::new();
    layer.lights.retain(|name, lights| match ask(name) {
        Fate::Keep => true,
        Fate::Rename(new) => {
            renamed.push((new.to_owned(), std::mem::take(lights)));
            false
        }
        Fate::Remove => false,
    });
    layer.lights.extend(renamed);
}

/// Changes what is named in a text of a parameter. Whether the text stays.
fn rewrite_text<'n>(
    text: &mut String,
    kinds: &'static [ReferenceKind],
    ask: &mut impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>,
) -> bool {
    if kinds != [ReferenceKind::Swatch] {
        return ask(kinds, text).befall(text);
    }
    let Some((name, behind)) = palette::referred(text) else { return true };
    match ask(kinds, name) {
        Fate::Keep => true,
        Fate::Rename(new) => {
            *text = format!("{} {behind}", palette::reference(new)).trim_end().to_owned();
            true
        }
        Fate::Remove => false,
    }
}
