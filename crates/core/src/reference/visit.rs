//! Visiting every reference of a show.

use super::{LayerAt, ReferenceKind, Site, control_of, named_by};
use crate::palette;
use crate::show::{Layer, Param, Show};

/// Calls `found` with every reference of a show: where it is and what is named there.
pub fn visit<'s>(show: &'s Show, mut found: impl FnMut(Site<'s>, &'s str)) {
    for (index, fixture) in show.fixtures.iter().enumerate() {
        found(Site::Profile(index), &fixture.profile);
    }
    for (group, one) in show.groups.iter().enumerate() {
        one.members.iter().enumerate().for_each(|(at, name)| found(Site::Member { group, at }, name));
    }
    for (supply, one) in show.supplies.iter().enumerate() {
        one.feeds.iter().enumerate().for_each(|(at, name)| found(Site::Feed { supply, at }, name));
    }
    for (look, one) in show.looks.iter().enumerate() {
        for (layer, one) in one.layers.iter().enumerate() {
            visit_layer(one, LayerAt { look, layer }, &mut found);
        }
    }
}

fn visit_layer<'s>(layer: &'s Layer, of: LayerAt, found: &mut impl FnMut(Site<'s>, &'s str)) {
    layer.target.iter().enumerate().for_each(|(at, name)| found(Site::Target { of, at }, name));
    layer.lights.keys().for_each(|fixture| found(Site::Light { of, fixture }, fixture));
    for (param, value) in &layer.params {
        match named_by(&layer.effect, param) {
            Some(ReferenceKind::Look) => {
                texts(value).iter().enumerate().for_each(|(at, name)| found(Site::Turn { of, param, at }, name));
            }
            Some(ReferenceKind::Swatch) => {
                let names =
                    texts(value).iter().enumerate().filter_map(|(at, text)| Some((at, palette::referred(text)?.0)));
                names.for_each(|(at, name)| found(Site::Colour { of, param, at }, name));
            }
            Some(
                ReferenceKind::Fixture
                | ReferenceKind::Group
                | ReferenceKind::Profile
                | ReferenceKind::Supply
                | ReferenceKind::Control,
            )
            | None => {}
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
