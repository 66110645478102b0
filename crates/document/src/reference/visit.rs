//! Visiting every reference of a show.

use super::commands::{self, Known};
use super::{CueAt, LaneAt, LayerAt, Site, control_of, named_by, named_by_source};
use splimo_show::palette;
use splimo_show::reference::ReferenceKind;
use splimo_show::{Cue, GoesOn, Lane, Layer, OutTarget, Param, Show};

/// Calls `found` with every reference of a show: where it is and what is named there.
pub fn visit<'s>(show: &'s Show, mut found: impl FnMut(Site<'s>, &str)) {
    for (index, fixture) in show.fixtures.iter().enumerate() {
        found(Site::Profile(index), &fixture.profile);
    }
    for (group, one) in show.groups.iter().enumerate() {
        one.members.iter().enumerate().for_each(|(at, name)| found(Site::Member { group, at }, name));
    }
    for (supply, one) in show.supplies.iter().enumerate() {
        one.feeds.iter().enumerate().for_each(|(at, name)| found(Site::Feed { supply, at }, name));
    }
    for (aim, one) in show.aims.iter().enumerate() {
        one.heads.iter().enumerate().for_each(|(at, head)| found(Site::AimedHead(aim, at), &head.fixture));
    }
    for (region, one) in show.regions.iter().enumerate().filter(|(_, one)| !one.of.is_empty()) {
        found(Site::RegionOf(region), &one.of);
    }
    for (look, one) in show.looks.iter().enumerate() {
        for (layer, one) in one.layers.iter().enumerate() {
            visit_layer(one, LayerAt { look, layer }, &mut found);
        }
        for (lane, one) in one.pattern.iter().flat_map(|pattern| pattern.lanes.iter().enumerate()) {
            visit_lane(one, LaneAt { look, lane }, &mut found);
        }
    }
    visit_play(show, &Known::of(show), &mut found);
}

/// Visits the references of what a show is played with: tiers, pads, settings and the rotation.
fn visit_play<'s>(show: &'s Show, known: &Known, found: &mut impl FnMut(Site<'s>, &str)) {
    for (tier, one) in show.tiers.iter().enumerate() {
        one.lights.iter().enumerate().for_each(|(at, name)| found(Site::TierLight { tier, at }, name));
    }
    for (bank, one) in show.banks.iter().enumerate() {
        one.plays.tier.iter().for_each(|name| found(Site::PadTier { bank, pad: None }, name));
        for (pad, one) in one.pads.iter().enumerate() {
            one.plays.tier.iter().for_each(|name| found(Site::PadTier { bank, pad: Some(pad) }, name));
            one.look.iter().for_each(|name| found(Site::PadLook { bank, pad }, name));
            if let Some(command) = &one.command {
                commands::visit(command, known, |kinds, name| found(Site::PadCommand { bank, pad, kinds }, name));
            }
        }
    }
    visit_cues(show, known, found);
    visit_schedule(show, known, found);
    visit_timelines(show, known, found);
    visit_inputs(show, known, found);
    visit_values_out(show, found);
    for (key, name) in [("fallback_look", &show.settings.fallback_look), ("safe_look", &show.settings.safe_look)] {
        if !name.is_empty() {
            found(Site::SettingLook(key), name);
        }
    }
    let rotation = &show.rotation;
    rotation.tier.iter().for_each(|name| found(Site::RotationTier, name));
    for (list, names) in [("looks", &rotation.looks), ("banks", &rotation.banks), ("without", &rotation.without)] {
        names.iter().enumerate().for_each(|(at, name)| found(Site::InRotation(list, at), name));
    }
}

/// Visits the references of cue lists.
fn visit_cues<'s>(show: &'s Show, known: &Known, found: &mut impl FnMut(Site<'s>, &str)) {
    for (list, one) in show.cue_lists.iter().enumerate() {
        if let GoesOn::OnEvent(input, _) = &one.then {
            found(Site::ListInput(list), input);
        }
        for (cue, one) in one.cues.iter().enumerate() {
            visit_cue(one, CueAt { list, cue }, known, found);
        }
    }
}

/// Visits the references of timelines.
fn visit_timelines<'s>(show: &'s Show, known: &Known, found: &mut impl FnMut(Site<'s>, &str)) {
    for (line, one) in show.timelines.iter().enumerate() {
        for (at, clip) in one.clips.iter().enumerate() {
            if !clip.tier.is_empty() {
                found(Site::ClipTier(line, at), &clip.tier);
            }
            clip.look.iter().for_each(|look| found(Site::ClipLook(line, at), look));
            clip.list.iter().for_each(|list| found(Site::ClipList(line, at), list));
            for command in &clip.does {
                commands::visit(command, known, |kinds, name| found(Site::ClipCommand(line, at, kinds), name));
            }
        }
    }
}

/// Visits the references of the schedule.
fn visit_schedule<'s>(show: &'s Show, known: &Known, found: &mut impl FnMut(Site<'s>, &str)) {
    let start = show.schedule.start.iter().map(|text| (None, text));
    let events = show.schedule.events.iter().enumerate();
    let events = events.flat_map(|(event, one)| one.does.iter().map(move |text| (Some(event), text)));
    for (event, text) in start.chain(events) {
        commands::visit(text, known, |kinds, name| found(Site::ScheduleCommand(event, kinds), name));
    }
}

fn visit_cue<'s>(cue: &'s Cue, of: CueAt, known: &Known, found: &mut impl FnMut(Site<'s>, &str)) {
    for (at, said) in cue.tiers.iter().enumerate() {
        found(Site::CueTier { of, at }, &said.tier);
        said.look.iter().for_each(|look| found(Site::CueLook { of, at }, look));
    }
    for command in &cue.does {
        commands::visit(command, known, |kinds, name| found(Site::CueCommand(of, kinds), name));
    }
    if let GoesOn::OnEvent(input, _) = &cue.then {
        found(Site::CueInput(of), input);
    }
}

/// Visits the references of inputs and bindings.
fn visit_inputs<'s>(show: &'s Show, known: &Known, found: &mut impl FnMut(Site<'s>, &str)) {
    for (input, one) in show.inputs.iter().enumerate() {
        for command in &one.when_silent {
            commands::visit(command, known, |kinds, name| found(Site::SilentCommand(input, kinds), name));
        }
    }
    for (binding, one) in show.bindings.iter().enumerate() {
        found(Site::BindingInput(binding), &one.source);
        for text in one.commands() {
            commands::visit(text, known, |kinds, name| found(Site::BindingCommand(binding, kinds), name));
        }
    }
}

/// Visits the references of values that leave.
fn visit_values_out<'s>(show: &'s Show, found: &mut impl FnMut(Site<'s>, &str)) {
    for (index, out) in show.values_out.iter().enumerate() {
        if let Some((kinds, name)) = named_by_source(&out.what) {
            found(Site::OutSource(index, kinds), name);
        }
        if let OutTarget::Midi(input, ..) = &out.to {
            found(Site::OutInput(index), input);
        }
    }
}

fn visit_lane<'s>(lane: &'s Lane, of: LaneAt, found: &mut impl FnMut(Site<'s>, &str)) {
    lane.lights.iter().enumerate().for_each(|(at, name)| found(Site::LaneLight(of, at), name));
    for (at, event) in lane.events.iter().enumerate() {
        event.look.iter().for_each(|name| found(Site::LaneLook(of, at), name));
        event.aim.iter().for_each(|name| found(Site::LaneAim(of, at), name));
        if let Some((name, _)) = event.colour.as_deref().and_then(palette::referred) {
            found(Site::LaneColour(of, at), name);
        }
    }
}

fn visit_layer<'s>(layer: &'s Layer, of: LayerAt, found: &mut impl FnMut(Site<'s>, &str)) {
    layer.target.iter().enumerate().for_each(|(at, name)| found(Site::Target { of, at }, name));
    if !layer.region.is_empty() {
        found(Site::LayerRegion(of), &layer.region);
    }
    layer.lights.keys().for_each(|fixture| found(Site::Light { of, fixture }, fixture));
    for (param, value) in &layer.params {
        match named_by(&layer.effect, param) {
            Some([ReferenceKind::Swatch]) => {
                let names =
                    texts(value).iter().enumerate().filter_map(|(at, text)| Some((at, palette::referred(text)?.0)));
                names.for_each(|(at, name)| found(Site::Colour { of, param, at }, name));
            }
            Some([ReferenceKind::Aim]) => {
                let named = texts(value).iter().filter(|name| !name.is_empty());
                named.for_each(|name| found(Site::LayerAim { of, param }, name));
            }
            // Looks that take turns.
            Some(_) => {
                texts(value).iter().enumerate().for_each(|(at, name)| found(Site::Turn { of, param, at }, name));
            }
            None => {}
        }
    }
    for (modulator, one) in layer.modulators.iter().enumerate() {
        if let Some(name) = control_of(one) {
            found(Site::Control { of, modulator }, name);
        }
    }
}

fn texts(param: &Param) -> &[String] {
    match param {
        Param::List(list) => list,
        Param::Text(text) => std::slice::from_ref(text),
        _ => &[],
    }
}
