//! The form of a route.

use splimo_show::{Destinations, Pacing, Route, RouteFields, Show, Transport, TransportKind, Unchanged, UniverseRange};
use splimo_transport::{self as transport, FieldKind, FieldValue};

use crate::kit::form::{Field, Form};
use splimo_link::network::NetworkStatus;

/// The word for leaving the choice to the system.
const ANY: &str = "any";
/// Words for what is sent of a universe that does not change.
const UNCHANGED: [(&str, Unchanged); 2] = [("keep-alive", Unchanged::KeepAlive), ("repeat", Unchanged::Repeat)];

/// A route that carries the first universes which wait for one, or what comes behind all routes.
pub(super) fn fresh(show: &Show, unrouted: &[u32]) -> Route {
    let behind = show.routes.iter().map(|r| r.universes.last + 1).max().unwrap_or(1).min(32_768);
    let waiting = unrouted.chunk_by(|a, b| a + 1 == *b).next().and_then(|run| Some((*run.first()?, *run.last()?)));
    let (first, last) = waiting.unwrap_or((behind, behind));
    let number = (1..).find(|n| show.routes.iter().all(|r| r.name != format!("Route {n}"))).unwrap_or(1);
    let kind = TransportKind::ArtNet;
    let (port, to) = (kind.usual().usual_number(first), kind.usual().usual_destination().into());
    Route::new(&format!("Route {number}"), UniverseRange { first, last }, kind, port, to)
}

pub(super) fn form_of(route: &Route, network: &NetworkStatus) -> Form {
    let route = RouteFields::from(route.clone());
    let interfaces = network.interfaces.iter().filter(|i| i.v4.is_some() || i.v6.is_some()).map(|i| i.name.clone());
    let mut choices = vec![ANY.to_owned()];
    choices.extend(interfaces);
    // One that is not there at the moment stays what it is.
    choices.extend(route.interface.iter().filter(|name| !choices.contains(name)).cloned().collect::<Vec<_>>());
    let unchanged = UNCHANGED.iter().find(|(_, u)| *u == route.unchanged).map_or("", |(word, _)| word);
    let own =
        TransportKind::ALL.iter().flat_map(|kind| kind.usual().fields().iter().map(|field| own_field(field, &route)));
    let mut fields = vec![
        Field::text("name", "name", &route.name),
        Field::text("universes", "universes", route.universes.to_string()),
        Field::choice("protocol", "protocol", TransportKind::ALL.iter().map(|kind| kind.name()), route.protocol.name()),
        Field::text("to", "to", route.to.to_string()),
        Field::text("first", "first is", route.protocol.usual().number_form(route.first)),
        Field::number("limit", "brightness", f64::from(route.limit), 0.0, 100.0, 1.0),
        Field::text("white", "white point", route.white.to_string()),
        Field::text("rate", "rate", route.rate.map_or_else(|| "usual".to_owned(), |rate| rate.to_string())),
        Field::choice("unchanged", "what rests", UNCHANGED.map(|(word, _)| word), unchanged),
        Field::choice("pacing", "packets leave", Pacing::ALL.map(Pacing::name), route.pacing.name()),
        Field::flag("sync", "sync after", route.sync),
    ];
    fields.extend(own);
    fields.push(Field::choice("interface", "interface", choices, route.interface.as_deref().unwrap_or(ANY)));
    let mut form = Form::new(fields);
    follow(&mut form);
    form
}

/// A field that only some transports have, with the value of the route where it has one.
fn own_field(field: &transport::Field, route: &RouteFields) -> Field {
    let usual = transport::field_value(field.name);
    let value = route.own.iter().find(|(name, _)| *name == field.name).map_or(usual, |(_, value)| *value);
    match field.kind {
        FieldKind::Flag => Field::flag(field.name, field.label, value.flag()),
        FieldKind::Whole { from, to, offered: [] } => {
            Field::number(field.name, field.label, f64::from(value.whole()), f64::from(from), f64::from(to), 1.0)
        }
        FieldKind::Whole { offered, .. } => {
            // One that a file has and the form does not offer stays what it is.
            let other = Some(value.whole()).filter(|number| !offered.contains(number));
            let words = offered.iter().copied().chain(other).map(|number| number.to_string());
            Field::choice(field.name, field.label, words, &value.whole().to_string())
        }
    }
}

/// The value of a field in the form.
fn own_value(form: &Form, field: &transport::Field) -> FieldValue {
    match field.kind {
        FieldKind::Flag => FieldValue::Flag(form.flag(field.name)),
        FieldKind::Whole { from, to, offered: [] } => FieldValue::Whole(form.whole(field.name).clamp(from, to)),
        FieldKind::Whole { .. } => FieldValue::Whole(form.text(field.name).parse().unwrap_or_default()),
    }
}

fn protocol(form: &Form) -> TransportKind {
    let word = form.text("protocol");
    TransportKind::ALL.iter().copied().find(|p| p.name() == word).unwrap_or(TransportKind::ArtNet)
}

/// Shows the fields that apply, and says what stands behind them.
pub(super) fn follow(form: &mut Form) {
    let protocol = protocol(form);
    let transport = protocol.usual();
    let numbered = transport.numbering().is_some();
    for id in ["first", "unchanged", "pacing", "sync", "interface"] {
        form.show(id, numbered);
    }
    for field in TransportKind::ALL.iter().flat_map(|kind| kind.usual().fields()) {
        form.show(field.name, transport.fields().iter().any(|own| own.name == field.name));
        form.hint(field.name, field.hint.into());
    }
    form.hint("universes", "of the show, such as 1-8".into());
    form.hint("to", transport.destination_hint().into());
    let first = number(form, transport).map_or_else(|why| why, |number| transport.number_hint(number));
    form.hint("first", first);
    form.hint("limit", "percent of the light".into());
    form.hint("white", "plain, 4500 K, or 100 90 75".into());
    form.hint("rate", "frames a second; usual is 44 at the most".into());
    form.hint(
        "pacing",
        match form.text("pacing").as_str() {
            "spread" => "over half a frame: kind to small switches".into(),
            "burst" => "cut up by the network card: kind to this machine".into(),
            _ => "as fast as they can".into(),
        },
    );
    form.hint("interface", String::new());
}

/// The number of the first universe, in any form of the protocol.
fn number(form: &Form, transport: &dyn Transport) -> Result<u16, String> {
    let text = form.text("first");
    transport.read_number(&text).ok_or_else(|| format!("\"{text}\" is no universe of {}", transport.name()))
}

/// The route that a form tells of.
///
/// # Errors
/// The field that does not fit, and the way to mend it.
pub(super) fn route_of(form: &Form, before: &Route) -> Result<Route, String> {
    let before = RouteFields::from(before.clone());
    let protocol = protocol(form);
    let rate = match form.text("rate").as_str() {
        "usual" | "" => None,
        text => Some(text.parse::<f32>().map_err(|_| format!("rate: \"{text}\" is no number; write one, or usual"))?),
    };
    let interface = Some(form.text("interface")).filter(|name| name != ANY);
    let unchanged = form.text("unchanged");
    let pacing = form.text("pacing");
    let fields = RouteFields {
        name: form.text("name"),
        universes: form.text("universes").parse().map_err(|e| format!("{e}"))?,
        protocol,
        first: if protocol.usual().numbering().is_some() { number(form, protocol.usual())? } else { 0 },
        to: form.text("to").parse().map_err(|e| format!("{e}"))?,
        interface,
        rate,
        pacing: Pacing::ALL.into_iter().find(|p| p.name() == pacing).unwrap_or_default(),
        sync: form.flag("sync"),
        unchanged: UNCHANGED.iter().find(|(word, _)| *word == unchanged).map(|(_, u)| *u).unwrap_or_default(),
        limit: form.number("limit") as f32,
        white: form.text("white").parse().map_err(|e| format!("{e}"))?,
        enabled: before.enabled,
        own: protocol.usual().fields().iter().map(|field| (field.name, own_value(form, field))).collect(),
    };
    Ok(fields.into())
}

/// Changes what goes along when another protocol is chosen: a number and destinations that it has.
pub(super) fn protocol_changed(form: &mut Form, before: TransportKind) {
    let now = protocol(form);
    if now == before {
        return;
    }
    let universes: Option<UniverseRange> = form.text("universes").parse().ok();
    let first = universes.map_or(1, |u| u.first);
    let transport = now.usual();
    form.set_text("first", transport.number_form(transport.usual_number(first)));
    // A place that both can go to is kept.
    let there: Option<Destinations> = form.text("to").parse().ok();
    if there.is_some_and(|to| !to.0.iter().all(|to| transport.reaches(to))) {
        form.set_text("to", transport.usual_destination().to_string());
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kit::form::Value;

    fn route(kind: TransportKind) -> Route {
        let transport = kind.usual();
        let (first, to) = (transport.usual_number(3), transport.usual_destination().into());
        Route::new("A", UniverseRange { first: 3, last: 4 }, kind, first, to)
    }

    #[test]
    fn every_transport_and_each_of_its_fields_goes_through_the_form() {
        let network = NetworkStatus::default();
        for kind in TransportKind::ALL {
            let mut changed = route(*kind);
            assert_eq!(route_of(&form_of(&changed, &network), &changed), Ok(changed.clone()));
            for field in kind.usual().fields() {
                let value = match field.kind {
                    FieldKind::Whole { from, .. } => FieldValue::Whole(from + 7),
                    FieldKind::Flag => FieldValue::Flag(!kind.usual().value(field.name).flag()),
                };
                changed.transport.set(field.name, value);
                let form = form_of(&changed, &network);
                assert_eq!(route_of(&form, &changed), Ok(changed.clone()), "{}", field.name);
                assert!(form.fields.iter().any(|shown| shown.id == field.name && shown.shown), "{}", field.name);
            }
        }
    }

    #[test]
    fn another_protocol_brings_a_number_and_destinations_that_it_has() {
        let network = NetworkStatus::default();
        for before in TransportKind::ALL {
            for now in TransportKind::ALL {
                let from = route(*before);
                let mut form = form_of(&from, &network);
                if let Some(Value::Choice { words, at }) = form.field_mut("protocol").map(|field| &mut field.value) {
                    *at = words.iter().position(|word| word == now.name()).expect("every protocol can be chosen");
                }
                protocol_changed(&mut form, *before);
                follow(&mut form);
                let changed =
                    route_of(&form, &from).unwrap_or_else(|why| panic!("{} to {}: {why}", before.name(), now.name()));
                assert_eq!(changed.kind(), *now);
                assert!(changed.to.0.iter().all(|to| changed.transport.reaches(to)), "{}", changed.to);
            }
        }
    }
}
