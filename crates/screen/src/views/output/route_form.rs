//! The form of a route.

use splimo_show::{Destination, Pacing, Route, RouteFields, Show, TransportKind, Unchanged, UniverseRange, net_form};

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
    let to = Destination::Nodes.into();
    let port = (first - 1).min(32_767) as u16;
    Route::new(&format!("Route {number}"), UniverseRange { first, last }, TransportKind::ArtNet, port, to)
}

pub(super) fn form_of(route: &Route, network: &NetworkStatus) -> Form {
    let route = RouteFields::from(route.clone());
    let interfaces = network.interfaces.iter().filter(|i| i.v4.is_some() || i.v6.is_some()).map(|i| i.name.clone());
    let mut choices = vec![ANY.to_owned()];
    choices.extend(interfaces);
    // One that is not there at the moment stays what it is.
    choices.extend(route.interface.iter().filter(|name| !choices.contains(name)).cloned().collect::<Vec<_>>());
    let unchanged = UNCHANGED.iter().find(|(_, u)| *u == route.unchanged).map_or("", |(word, _)| word);
    let mut form = Form::new(vec![
        Field::text("name", "name", &route.name),
        Field::text("universes", "universes", route.universes.to_string()),
        Field::choice("protocol", "protocol", TransportKind::ALL.map(TransportKind::name), route.protocol.name()),
        Field::text("to", "to", route.to.to_string()),
        Field::text("first", "first is", first_text(route.protocol, route.first)),
        Field::number("limit", "brightness", f64::from(route.limit), 0.0, 100.0, 1.0),
        Field::text("white", "white point", route.white.to_string()),
        Field::text("rate", "rate", route.rate.map_or_else(|| "usual".to_owned(), |rate| rate.to_string())),
        Field::choice("unchanged", "what rests", UNCHANGED.map(|(word, _)| word), unchanged),
        Field::choice("pacing", "packets leave", Pacing::ALL.map(Pacing::name), route.pacing.name()),
        Field::flag("sync", "sync after", route.sync),
        Field::number("priority", "priority", f64::from(route.priority), 0.0, 200.0, 1.0),
        Field::flag("preview", "preview only", route.preview),
        Field::choice("interface", "interface", choices, route.interface.as_deref().unwrap_or(ANY)),
        Field::choice("baud", "speed", Route::BAUDS.map(|b| b.to_string()), &route.baud.to_string()),
    ]);
    follow(&mut form);
    form
}

/// The number of the first universe as the protocol has it.
fn first_text(protocol: TransportKind, first: u16) -> String {
    match protocol {
        TransportKind::ArtNet => net_form(first),
        TransportKind::Sacn | TransportKind::Serial => first.to_string(),
    }
}

fn protocol(form: &Form) -> TransportKind {
    let word = form.text("protocol");
    TransportKind::ALL.into_iter().find(|p| p.name() == word).unwrap_or(TransportKind::ArtNet)
}

/// Shows the fields that apply, and says what stands behind them.
pub(super) fn follow(form: &mut Form) {
    let protocol = protocol(form);
    let (art_net, sacn, serial) =
        (protocol == TransportKind::ArtNet, protocol == TransportKind::Sacn, protocol == TransportKind::Serial);
    for (id, shown) in [
        ("first", !serial),
        ("unchanged", !serial),
        ("pacing", !serial),
        ("sync", !serial),
        ("interface", !serial),
        ("priority", sacn),
        ("preview", sacn),
        ("baud", serial),
    ] {
        form.show(id, shown);
    }
    form.hint("universes", "of the show, such as 1-8".into());
    let to = match protocol {
        TransportKind::ArtNet => "addresses or names with commas, nodes, or broadcast",
        TransportKind::Sacn => "multicast, multicast v6, or addresses with commas",
        TransportKind::Serial => "the path of the port, such as /dev/ttyUSB0",
    };
    form.hint("to", to.into());
    let first = match number(form, protocol) {
        Ok(number) if art_net => format!("port-address {number} = {}", net_form(number)),
        Ok(number) => format!("sACN universe {number}"),
        Err(why) => why,
    };
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
    form.hint("baud", "bits a second".into());
}

/// The number of the first universe: of Art-Net in any form.
fn number(form: &Form, protocol: TransportKind) -> Result<u16, String> {
    number_in(&form.text("first"), protocol)
}

/// The number that a text names in a protocol.
pub(super) fn number_in(text: &str, protocol: TransportKind) -> Result<u16, String> {
    let odd = || format!("\"{text}\" is no universe of {}", protocol.name());
    let parts: Vec<u32> = text.split(':').map(|p| p.trim().parse()).collect::<Result<_, _>>().map_err(|_| odd())?;
    let number = match (protocol, &parts[..]) {
        (TransportKind::ArtNet, [net, sub, universe]) if *net < 128 && *sub < 16 && *universe < 16 => {
            net << 8 | sub << 4 | universe
        }
        (_, [number]) if protocol.numbers().contains(number) => *number,
        _ => return Err(odd()),
    };
    u16::try_from(number).map_err(|_| odd())
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
        first: if protocol == TransportKind::Serial { 0 } else { number(form, protocol)? },
        to: form.text("to").parse().map_err(|e| format!("{e}"))?,
        interface,
        priority: form.whole("priority").min(200) as u8,
        preview: form.flag("preview"),
        rate,
        pacing: Pacing::ALL.into_iter().find(|p| p.name() == pacing).unwrap_or_default(),
        sync: form.flag("sync"),
        unchanged: UNCHANGED.iter().find(|(word, _)| *word == unchanged).map(|(_, u)| *u).unwrap_or_default(),
        limit: form.number("limit") as f32,
        white: form.text("white").parse().map_err(|e| format!("{e}"))?,
        baud: form.text("baud").parse().unwrap_or(before.baud),
        enabled: before.enabled,
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
    let (number, to) = match now {
        TransportKind::ArtNet => (net_form((first - 1).min(32_767) as u16), "nodes"),
        TransportKind::Sacn => (first.to_string(), "multicast"),
        TransportKind::Serial => ("0".to_owned(), "/dev/ttyUSB0"),
    };
    form.set_text("first", number);
    // An address is one for both of the network's protocols.
    let both = before != TransportKind::Serial && now != TransportKind::Serial;
    let words = ["nodes", "broadcast", "multicast", "multicast v6"];
    if !both || words.contains(&form.text("to").as_str()) {
        form.set_text("to", to.to_owned());
    }
}
