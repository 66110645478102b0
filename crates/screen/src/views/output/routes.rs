//! The routes: what goes where, how fast, and whether it is well.

use std::net::IpAddr;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_show::{Route, TransportKind};
use splimo_transport::Leaves;

use crate::kit::list::List;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::model::ViewContext;
use splimo_link::advice::Advice;

/// The way a route is, in a word or two, and whether that is trouble.
struct State {
    words: String,
    trouble: bool,
    rate: f32,
}

pub(super) fn draw(
    list: &mut List,
    context: &ViewContext<'_>,
    advice: &Advice,
    focus: bool,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) {
    let wide = area.width >= 90;
    let head = Rect { height: 1, ..area };
    let heading = match wide {
        true => "routes          uni      as                  to                  fps  state",
        false => "routes       uni      to               fps  state",
    };
    let mut pen = Pen::new(head, buffer);
    pen.put(if focus { "▪ " } else { "  " }, theme.bright());
    pen.put(heading, if focus { theme.text() } else { theme.dim() });
    let unrouted = &advice.unrouted;
    let waits = u16::from(!unrouted.is_empty());
    let body = Rect { y: area.y + 1, height: area.height.saturating_sub(2 + waits), ..area };
    if waits > 0 && area.height > 2 {
        let row = Rect { y: area.bottom() - 2, height: 1, ..area };
        let (word, has) = if unrouted.len() == 1 { ("universe", "has") } else { ("universes", "have") };
        let words = format!("  {word} {} {has} no route: a adds one, n on a node too", runs(unrouted));
        Pen::new(row, buffer).put(&words, theme.armed());
    }
    let routes = &context.edited.show.routes;
    if routes.is_empty() {
        let words = "  Nothing leaves yet: a adds a route, or n on a node makes the routes to it.";
        Pen::new(body, buffer).put(words, theme.text());
    }
    for index in list.lay_out(routes.len(), body) {
        let route = &routes[index];
        let state = state(index, route, context, advice);
        let chosen = index == list.chosen;
        let style = match (chosen, route.enabled) {
            (true, _) => theme.bright(),
            (false, true) => theme.text(),
            (false, false) => theme.dim(),
        };
        let mut pen = Pen::new(list.row(index), buffer);
        pen.put(if chosen { "▸ " } else { "  " }, theme.bright());
        pen.put(&line(route, wide), style);
        let rate = if route.enabled { format!("{:>5.1}  ", state.rate) } else { "    -  ".to_owned() };
        pen.put(&rate, style);
        pen.put(&state.words, if state.trouble { theme.armed() } else { style });
        if chosen && state.trouble && area.height > 2 {
            // There is not always room behind the route: what is wrong with the chosen one stands below in full.
            let foot = Rect { y: area.bottom() - 1, height: 1, ..area };
            Pen::new(foot, buffer).put(&format!("  {}: {}", route.name, state.words), theme.armed());
        }
    }
}

/// Numbers in few words: `1-7, 9`.
fn runs(numbers: &[u32]) -> String {
    let words = numbers.chunk_by(|a, b| a + 1 == *b).map(|run| match run {
        [first, .., last] => format!("{first}-{last}"),
        [one] => one.to_string(),
        [] => String::new(),
    });
    words.collect::<Vec<_>>().join(", ")
}

fn line(route: &Route, wide: bool) -> String {
    let to = route.to.to_string();
    let universes = route.universes.to_string();
    if !wide {
        return format!(
            "{:<11}  {:<7}  {:<15} ",
            shortened(&route.name, 11),
            shortened(&universes, 7),
            shortened(&to, 15)
        );
    }
    let name = route.transport.universes(route.first(), route.last());
    format!(
        "{:<14}  {:<7}  {:<18}  {:<16} ",
        shortened(&route.name, 14),
        shortened(&universes, 7),
        shortened(&name, 18),
        shortened(&to, 16)
    )
}

fn state(index: usize, route: &Route, context: &ViewContext<'_>, advice: &Advice) -> State {
    let streams: Vec<_> = context.output.streams.iter().filter(|s| s.route == index).collect();
    let fastest = streams.iter().map(|s| s.rate).fold(0.0, f32::max);
    let say = |words: &str, trouble: bool, rate: f32| State { words: words.to_owned(), trouble, rate };
    if !route.enabled {
        return say("off", false, 0.0);
    }
    if let Some(trouble) = context.troubles.iter().find(|t| t.subject == format!("route {}", route.name)) {
        return State { words: trouble.message.clone(), trouble: true, rate: fastest };
    }
    if let Leaves::Port { .. } = route.transport.leaves() {
        return port_state(index, context);
    }
    if let Some((_, refused)) = context.output.refused.iter().find(|(r, _)| *r == index) {
        let why = refused.why.as_deref().unwrap_or("the system");
        return State { words: format!("{} refused: {why}", refused.count), trouble: true, rate: fastest };
    }
    if let Some((_, universe, why)) = advice.untaken.iter().find(|(of, ..)| *of == index) {
        return State { words: format!("universe {universe}: {why}"), trouble: true, rate: fastest };
    }
    if streams.is_empty() {
        return say("no light is patched there", false, 0.0);
    }
    if streams.iter().all(|s| s.packets == 0) {
        return say("starting", false, fastest);
    }
    let wanted = route.fastest().min(context.show.settings.rate);
    if route.unchanged == splimo_show::Unchanged::Repeat && fastest < wanted * 0.9 {
        return say("slow", true, fastest);
    }
    // A node that answers is the best sign that it arrives.
    let answered =
        context.network.directory.devices().iter().find(|d| streams.iter().any(|s| s.to.ip() == IpAddr::V4(d.address)));
    match answered.filter(|_| route.kind() == TransportKind::ArtNet) {
        Some(device) => {
            let ago = (context.network.now - device.last).max(0.0);
            State { words: format!("well, answered {ago:.0} s ago"), trouble: false, rate: fastest }
        }
        None => say("well", false, fastest),
    }
}

fn port_state(index: usize, context: &ViewContext<'_>) -> State {
    let Some(port) = context.ports.iter().find(|p| p.route == index) else {
        return State { words: "no light is patched there".into(), trouble: false, rate: 0.0 };
    };
    match &port.controller {
        None => State { words: "waits for the controller".into(), trouble: true, rate: 0.0 },
        Some((name, room)) => {
            State { words: format!("well: {name}, room for {room} channels"), trouble: false, rate: port.rate }
        }
    }
}
