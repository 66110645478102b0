//! The walk through every reference of a show, to read it or to change it.

use super::access::{Access, Change, Read};
use super::commands::Known;
use super::{CueAt, LaneAt, LayerAt, Named, Site, control_of, named_by};
use splimo_light::effect;
use splimo_show::reference::{Fate, ReferenceKind};
use splimo_show::{Clip, CommandTemplate, Cue, GoesOn, Lane, Layer, Look, OutSource, OutTarget, Pad, Show, ValueOut};

/// A list of lights that was limited to some, and has none left.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Emptied {
    /// The target of a layer.
    Layer(LayerAt),
    /// The lights of a tier, by its place.
    Tier(usize),
}

/// Calls `found` with every reference of a show: where it is and what is named there.
pub fn visit(show: &Show, found: impl FnMut(Site<'_>, &str)) {
    walk(&mut Read(found), &Known::of(show), show);
}

/// Asks about every reference of a show, by what may be named there and what is, and does with it what the answer says. Two
/// that became the same in a list that says *which* are made one. Returns what lit some lights and has none left.
pub fn rewrite<'n>(show: &mut Show, ask: impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>) -> Vec<Emptied> {
    let known = Known::of(show);
    walk(&mut Change(ask), &known, show)
}

/// The same for one look. Returns the layers that had a target and have none left.
pub fn rewrite_look<'n>(look: &mut Look, ask: impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>) -> Vec<usize> {
    walk_look(&mut Change(ask), 0, look)
}

/// The same for one layer. Whether it had a target and has none left.
pub fn rewrite_layer<'n>(layer: &mut Layer, ask: impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>) -> bool {
    walk_layer(&mut Change(ask), LayerAt { look: 0, layer: 0 }, layer)
}

/// A field of a part.
macro_rules! field {
    ($access:ident, $of:ident . $($field:ident).+) => {
        $access::part(&mut $of, |of| &of.$($field).+, |of| &mut of.$($field).+)
    };
}

/// The content of a part that is of one kind among others.
macro_rules! content {
    ($access:ident, $of:expr, $kind:pat => $content:ident) => {
        $access::inside(
            $of,
            |of| if let $kind = of { Some($content) } else { None },
            |of| if let $kind = of { Some($content) } else { None },
        )
    };
}

fn walk<A: Access>(access: &mut A, known: &Known, mut show: A::Ref<'_, Show>) -> Vec<Emptied> {
    let mut emptied = Vec::new();
    A::each(field!(A, show.fixtures), |index, mut fixture| {
        access.name(Site::Profile(index), field!(A, fixture.profile));
        true
    });
    A::each(field!(A, show.groups), |group, mut one| {
        access.set(field!(A, one.members), |at| Site::Member { group, at });
        true
    });
    A::each(field!(A, show.supplies), |supply, mut one| {
        access.set(field!(A, one.feeds), |at| Site::Feed { supply, at });
        true
    });
    A::each(field!(A, show.aims), |aim, mut one| {
        A::each(field!(A, one.heads), |at, mut head| access.name(Site::AimedHead(aim, at), field!(A, head.fixture)));
        true
    });
    A::each(field!(A, show.regions), |region, mut one| {
        name_or_none(access, Site::RegionOf(region), field!(A, one.of));
        true
    });
    A::each(field!(A, show.looks), |look, one| {
        let layers = walk_look(access, look, one).into_iter();
        emptied.extend(layers.map(|layer| Emptied::Layer(LayerAt { look, layer })));
        true
    });
    A::each(field!(A, show.tiers), |tier, mut one| {
        let had_lights = !one.lights.is_empty();
        access.set(field!(A, one.lights), |at| Site::TierLight { tier, at });
        emptied.extend((had_lights && one.lights.is_empty()).then_some(Emptied::Tier(tier)));
        true
    });
    walk_play(access, known, show);
    emptied
}

/// What a show is played with: pads, cues, the schedule, timelines, inputs, settings and the rotation.
fn walk_play<A: Access>(access: &mut A, known: &Known, mut show: A::Ref<'_, Show>) {
    A::each(field!(A, show.banks), |bank, mut one| {
        optional(access, Site::PadTier { bank, pad: None }, field!(A, one.plays.tier));
        A::each(field!(A, one.pads), |pad, one| walk_pad(access, known, bank, pad, one));
        true
    });
    A::each(field!(A, show.cue_lists), |list, mut one| {
        goes_on(access, Site::ListInput(list), field!(A, one.then));
        A::each(field!(A, one.cues), |cue, one| {
            walk_cue(access, known, CueAt { list, cue }, one);
            true
        });
        true
    });
    commands(access, known, field!(A, show.schedule.start), |kinds| Site::ScheduleCommand(None, kinds));
    A::each(field!(A, show.schedule.events), |event, mut one| {
        commands(access, known, field!(A, one.does), |kinds| Site::ScheduleCommand(Some(event), kinds));
        true
    });
    A::each(field!(A, show.timelines), |line, mut one| {
        A::each(field!(A, one.clips), |at, one| walk_clip(access, known, line, at, one));
        true
    });
    walk_inputs(access, known, &mut show);
    A::each(field!(A, show.values_out), |index, one| walk_value_out(access, index, one));
    name_or_none(access, Site::SettingLook("fallback_look"), field!(A, show.settings.fallback_look));
    name_or_none(access, Site::SettingLook("safe_look"), field!(A, show.settings.safe_look));
    optional(access, Site::RotationTier, field!(A, show.rotation.tier));
    access.set(field!(A, show.rotation.looks), |at| Site::InRotation("looks", at));
    access.set(field!(A, show.rotation.banks), |at| Site::InRotation("banks", at));
    access.set(field!(A, show.rotation.without), |at| Site::InRotation("without", at));
}

/// A pad goes with its look, and with its command.
fn walk_pad<A: Access>(access: &mut A, known: &Known, bank: usize, pad: usize, mut one: A::Ref<'_, Pad>) -> bool {
    optional(access, Site::PadTier { bank, pad: Some(pad) }, field!(A, one.plays.tier));
    let look = optional(access, Site::PadLook { bank, pad }, field!(A, one.look));
    let mut command = field!(A, one.command);
    let command = A::inside(&mut command, Option::as_ref, Option::as_mut);
    let site = |kinds| Site::PadCommand { bank, pad, kinds };
    look & command.is_none_or(|command| access.command(known, site, command))
}

/// A cue stays, whatever is taken out: the times of a list hang on every one.
fn walk_cue<A: Access>(access: &mut A, known: &Known, of: CueAt, mut cue: A::Ref<'_, Cue>) {
    A::each(field!(A, cue.tiers), |at, mut said| {
        let stays = access.name(Site::CueTier { of, at }, field!(A, said.tier));
        optional(access, Site::CueLook { of, at }, field!(A, said.look));
        stays && (said.look.is_some() || said.out || said.level.is_some())
    });
    commands(access, known, field!(A, cue.does), |kinds| Site::CueCommand(of, kinds));
    goes_on(access, Site::CueInput(of), field!(A, cue.then));
}

/// A clip goes with its look, its list or its tier.
fn walk_clip<A: Access>(access: &mut A, known: &Known, line: usize, at: usize, mut clip: A::Ref<'_, Clip>) -> bool {
    let tier = clip.tier.is_empty() || access.name(Site::ClipTier(line, at), field!(A, clip.tier));
    let look = optional(access, Site::ClipLook(line, at), field!(A, clip.look));
    let list = optional(access, Site::ClipList(line, at), field!(A, clip.list));
    commands(access, known, field!(A, clip.does), |kinds| Site::ClipCommand(line, at, kinds));
    tier && look && list
}

/// A binding of an input that is taken out goes with it, and so does one that has nothing left to ask for. A band stays: what lies
/// beside it means the same as before.
fn walk_inputs<A: Access>(access: &mut A, known: &Known, show: &mut A::Ref<'_, Show>) {
    A::each(A::part(show, |show| &show.inputs, |show| &mut show.inputs), |input, mut one| {
        commands(access, known, field!(A, one.when_silent), |kinds| Site::SilentCommand(input, kinds));
        true
    });
    A::each(A::part(show, |show| &show.bindings, |show| &mut show.bindings), |binding, mut one| {
        let site = |kinds| Site::BindingCommand(binding, kinds);
        let source = access.name(Site::BindingInput(binding), field!(A, one.source));
        let had = one.commands().count();
        commands(access, known, field!(A, one.does), site);
        commands(access, known, field!(A, one.let_go), site);
        A::each(field!(A, one.bands), |_, mut band| {
            commands(access, known, field!(A, band.does), site);
            true
        });
        source && (had == 0 || one.commands().count() > 0)
    });
}

/// A value that leaves goes where it has nothing to tell, or nobody to tell it.
fn walk_value_out<A: Access>(access: &mut A, index: usize, mut out: A::Ref<'_, ValueOut>) -> bool {
    let source = {
        let mut what = field!(A, out.what);
        let kinds: &[ReferenceKind] = match *what {
            OutSource::Master | OutSource::Control(_) => &[],
            OutSource::Tier(_) => &[ReferenceKind::Tier],
            OutSource::Group(_) => &[ReferenceKind::Group],
            OutSource::Colour(_) => &[ReferenceKind::Swatch],
            OutSource::Light(..) => &[ReferenceKind::Fixture],
        };
        let named = content!(A, &mut what, OutSource::Tier(name) | OutSource::Group(name) | OutSource::Colour(name) | OutSource::Light(name, _) => name);
        named.is_none_or(|name| access.name(Site::OutSource(index, kinds), name))
    };
    let mut to = field!(A, out.to);
    let input = content!(A, &mut to, OutTarget::Midi(input, ..) => input);
    source & input.is_none_or(|input| access.name(Site::OutInput(index), input))
}

/// Returns the layers that had a target and have none left.
fn walk_look<A: Access>(access: &mut A, look: usize, mut one: A::Ref<'_, Look>) -> Vec<usize> {
    let mut emptied = Vec::new();
    A::each(field!(A, one.layers), |layer, one| {
        emptied.extend(walk_layer(access, LayerAt { look, layer }, one).then_some(layer));
        true
    });
    let mut pattern = field!(A, one.pattern);
    if let Some(mut pattern) = A::inside(&mut pattern, Option::as_ref, Option::as_mut) {
        A::each(field!(A, pattern.lanes), |lane, one| walk_lane(access, LaneAt { look, lane }, one));
    }
    emptied
}

/// A lane that was for some lights and has none left goes. An event goes with its look, aim or colour.
fn walk_lane<A: Access>(access: &mut A, of: LaneAt, mut lane: A::Ref<'_, Lane>) -> bool {
    let had_lights = !lane.lights.is_empty();
    access.set(field!(A, lane.lights), |at| Site::LaneLight(of, at));
    A::each(field!(A, lane.events), |at, mut event| {
        let look = optional(access, Site::LaneLook(of, at), field!(A, event.look));
        let aim = optional(access, Site::LaneAim(of, at), field!(A, event.aim));
        let mut colour = field!(A, event.colour);
        let colour = A::inside(&mut colour, Option::as_ref, Option::as_mut);
        look & aim & colour.is_none_or(|text| access.colour(Site::LaneColour(of, at), text))
    });
    !had_lights || !lane.lights.is_empty()
}

/// Whether it had a target and has none left.
fn walk_layer<A: Access>(access: &mut A, of: LayerAt, mut layer: A::Ref<'_, Layer>) -> bool {
    let had_target = !layer.target.is_empty();
    access.set(field!(A, layer.target), |at| Site::Target { of, at });
    name_or_none(access, Site::LayerRegion(of), field!(A, layer.region));
    access.lights(of, field!(A, layer.lights));
    let effect = effect::find(&layer.effect);
    A::each_named(field!(A, layer.params), |param, value| match named_by(effect, param) {
        None => true,
        Some(named) => A::texts(value, |at, text| match named {
            Named::Swatch => access.colour(Site::Colour { of, param, at }, text),
            Named::Aim => text.is_empty() || access.name(Site::LayerAim { of, param }, text),
            Named::Look => access.name(Site::Turn { of, param, at }, text),
        }),
    });
    A::each(field!(A, layer.modulators), |modulator, one| {
        control_of(&one).is_none_or(|name| access.fixed(Site::Control { of, modulator }, name))
    });
    had_target && layer.target.is_empty()
}

/// The input that a list waits for. Without one it goes on by hand.
fn goes_on<A: Access>(access: &mut A, site: Site<'_>, mut then: A::Ref<'_, GoesOn>) {
    let input = content!(A, &mut then, GoesOn::OnEvent(input, _) => input);
    if !input.is_none_or(|input| access.name(site, input)) {
        A::put(&mut then, GoesOn::ByHand);
    }
}

/// Commands, of which those go that name what is gone.
fn commands<A: Access>(
    access: &mut A,
    known: &Known,
    all: A::Ref<'_, Vec<CommandTemplate>>,
    site: impl Fn(&'static [ReferenceKind]) -> Site<'static> + Copy,
) {
    A::each(all, |_, command| access.command(known, site, command));
}

/// A name that is empty where there is none.
fn name_or_none<A: Access>(access: &mut A, site: Site<'_>, mut name: A::Ref<'_, String>) {
    if !name.is_empty() && !access.name(site, A::part(&mut name, |name| name, |name| name)) {
        A::put(&mut name, String::new());
    }
}

/// A name that may be none. False if it was taken out.
fn optional<A: Access>(access: &mut A, site: Site<'_>, mut name: A::Ref<'_, Option<String>>) -> bool {
    let stays = A::inside(&mut name, Option::as_ref, Option::as_mut).is_none_or(|name| access.name(site, name));
    if !stays {
        A::put(&mut name, None);
    }
    stays
}
