//! The monitor: every slot of a universe, as it goes out or as it comes in, and how a value came about.

use ratatui::buffer::Buffer;
use ratatui::layout::{Position, Rect};
use splimo_engine::{ChannelPart, SlotTrace};
use splimo_light::rig::Rig;
use splimo_show::{Curve, Function, Show};
use splimo_wire::Protocol;

use crate::kit::bars::EIGHTHS;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::model::ViewContext;
use splimo_link::network::{NetworkStatus, Received};
use splimo_link::output::StreamStatus;

/// Lines of a bar.
const BAR_LINES: u16 = 3;
/// Lines above the slots.
const HEAD: u16 = 2;

/// The state of the monitor.
#[derive(Default)]
pub(super) struct Slots {
    /// The chosen universe of the list.
    chosen: usize,
    /// The universes that go out: the block of slots, and the route if one carries it.
    blocks: Vec<(usize, Option<usize>)>,
    /// The entries of the list, so that the same stays chosen where others come and go.
    listed: Vec<Listed>,
    /// The slot, 0..511.
    slot: usize,
    bars: bool,
    /// True if what comes in is shown.
    received: bool,
    incoming: Vec<(Protocol, u16)>,
    /// A universe that was asked for by its number, whether it comes in or not.
    asked: Option<(Protocol, u16)>,
    area: Rect,
    per_line: u16,
    /// The first line of slots that is drawn.
    first: usize,
    /// The last slots, and the block of the rig that they are of.
    last: (Option<usize>, Vec<u8>),
    /// Since when they have been the same, in the time of the engine; none before they change under one's eyes.
    changed: Option<f64>,
}

/// The identity of a universe of the list.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Listed {
    /// One that goes out, which of its variants in the rig, and the route if one carries it.
    Sent(u32, usize, Option<usize>),
    Received(Protocol, u16),
}

impl Slots {
    fn count(&self) -> usize {
        if self.received { self.incoming.len() } else { self.blocks.len() }
    }

    pub(super) fn choose_by(&mut self, by: i32) {
        self.chosen = (self.chosen as i64 + i64::from(by)).clamp(0, self.count().saturating_sub(1) as i64) as usize;
    }

    /// Goes to the first universe of a route.
    pub(super) fn go_to_route(&mut self, route: usize, streams: &[StreamStatus]) {
        let source = streams.iter().find(|s| s.route == route).map(|s| s.source);
        if let Some(place) = self.blocks.iter().position(|(block, _)| Some(*block) == source).filter(|_| !self.received)
        {
            self.chosen = place;
        }
    }

    pub(super) fn move_by(&mut self, by: i32) {
        self.slot = (self.slot as i64 + i64::from(by)).clamp(0, 511) as usize;
    }

    pub(super) fn move_down(&mut self, by: i32) {
        self.move_by(by * i32::from(self.per_line.max(1)));
    }

    pub(super) fn turn_bars(&mut self) {
        self.bars = !self.bars;
    }

    pub(super) fn turn_received(&mut self) {
        self.received = !self.received;
        self.chosen = 0;
        self.listed.clear();
    }

    /// Looks at a universe by its name: `12` and `sacn 12`, `0:1:0` and `art-net 16`.
    ///
    /// # Errors
    /// A text that names no universe.
    pub(super) fn look_at(&mut self, text: &str) -> Result<(), String> {
        let asked = universe_of(text)?;
        (self.received, self.asked) = (true, Some(asked));
        self.listed.clear();
        self.gather_incoming(&NetworkStatus::default());
        self.chosen = self.incoming.iter().position(|known| *known == asked).unwrap_or(0);
        self.listed = self.incoming.iter().map(|&(protocol, universe)| Listed::Received(protocol, universe)).collect();
        Ok(())
    }

    /// Gathers what comes in, what others announce, and what was asked for.
    fn gather_incoming(&mut self, network: &NetworkStatus) {
        let received = network.received.iter().map(|r| (r.protocol, r.universe));
        let announced = network.directory.sources().iter().flat_map(|source| &source.universes);
        let announced = announced.map(|universe| (Protocol::Sacn, *universe));
        self.incoming = received.chain(announced).chain(self.asked).collect();
        self.incoming.sort_unstable();
        self.incoming.dedup();
    }

    /// The slots that are shown: which 512 of the frame, and the one that is traced.
    pub(super) fn wanted(&self) -> Option<(usize, u16)> {
        let (block, _) = self.blocks.get(self.chosen).filter(|_| !self.received)?;
        Some((*block, self.slot as u16))
    }

    /// The universe that comes in and is looked at.
    pub(super) fn watched(&self) -> Option<(Protocol, u16)> {
        self.incoming.get(self.chosen).copied().filter(|_| self.received)
    }

    /// Chooses the slot at a place.
    pub(super) fn click(&mut self, at: Position) -> bool {
        if !self.area.contains(at) || at.x < self.area.x + 5 {
            return false;
        }
        let (across, down) = (at.x - self.area.x - 5, at.y - self.area.y);
        let (column, line) = if self.bars { (across, down / (BAR_LINES + 1)) } else { (across / 4, down) };
        let slot = (self.first + usize::from(line)) * usize::from(self.per_line) + usize::from(column);
        if column < self.per_line && slot < 512 {
            self.slot = slot;
        }
        true
    }

    /// The lines that it wants of an area.
    pub(super) fn lines(&self, area: Rect) -> u16 {
        let lines = 512u16.div_ceil(per_line(area, self.bars));
        let wanted = if self.bars { lines * (BAR_LINES + 1) } else { lines };
        // The lists keep their place where there is little.
        (wanted + HEAD).min(if area.height < 30 { area.height / 2 } else { area.height * 6 / 10 })
    }

    pub(super) fn draw(
        &mut self,
        context: &ViewContext<'_>,
        rig: &Rig,
        focus: bool,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) {
        self.list(context, rig);
        self.per_line = per_line(area, self.bars);
        let lines = area.height.saturating_sub(HEAD) / if self.bars { BAR_LINES + 1 } else { 1 };
        self.first = first_line(focus.then_some(self.slot), self.per_line, lines);
        let body = Rect { y: area.y + HEAD, height: area.height.saturating_sub(HEAD), ..area };
        self.area = body;
        if self.received {
            self.draw_received(context, focus, theme, area, body, buffer);
        } else {
            self.draw_sent(context, rig, focus, theme, area, body, buffer);
        }
    }

    /// Finds which universes there are.
    fn list(&mut self, context: &ViewContext<'_>, rig: &Rig) {
        self.blocks.clear();
        for stream in &context.output.streams {
            if !self.blocks.iter().any(|(block, _)| *block == stream.source) {
                self.blocks.push((stream.source, Some(stream.route)));
            }
        }
        for port in context.ports {
            let Some(route) = context.show.routes.get(port.route) else { continue };
            for universe in route.universes.numbers().take(1024) {
                let block = rig.block_of(universe, route.gain());
                self.blocks.extend(block.map(|block| (block, Some(port.route))));
            }
        }
        let carried: std::collections::HashSet<usize> =
            self.blocks.iter().map(|(block, _)| block % rig.universes.len().max(1)).collect();
        let rest = (0..rig.universes.len()).filter(|block| !carried.contains(block));
        self.blocks.extend(rest.map(|block| (block, None)));
        self.gather_incoming(context.network);
        let listed = if self.received {
            self.incoming.iter().map(|(protocol, universe)| Listed::Received(*protocol, *universe)).collect()
        } else {
            let count = rig.universes.len().max(1);
            let universe = |block: usize| rig.universes.get(block % count).copied().unwrap_or(0);
            self.blocks.iter().map(|&(block, route)| Listed::Sent(universe(block), block / count, route)).collect()
        };
        let before = std::mem::replace(&mut self.listed, listed);
        let same = before.get(self.chosen).and_then(|chosen| self.listed.iter().position(|now| now == chosen));
        self.chosen = same.unwrap_or(self.chosen).min(self.count().saturating_sub(1));
    }

    #[expect(clippy::too_many_arguments, reason = "a place to draw on, and what is drawn")]
    fn draw_sent(
        &mut self,
        context: &ViewContext<'_>,
        rig: &Rig,
        focus: bool,
        theme: Theme,
        area: Rect,
        body: Rect,
        buffer: &mut Buffer,
    ) {
        let Some(&(block, route)) = self.blocks.get(self.chosen) else {
            let words = "No light is patched yet: F2 is the rig, where fixtures get their addresses.";
            Pen::new(Rect { x: area.x + 1, ..area }, buffer).put(words, theme.text());
            return;
        };
        // Until the session tells of this universe, nothing is known of it.
        let told = context.slots.filter(|told| told.block == block && told.slots.len() == 512);
        let now = context.snapshot.time;
        if self.last.0 != Some(block) {
            self.changed = None;
        } else if told.is_some_and(|told| self.last.1 != told.slots && !self.last.1.is_empty()) {
            self.changed = Some(now);
        }
        self.last.0 = Some(block);
        self.last.1.clear();
        self.last.1.extend(told.iter().flat_map(|told| &told.slots));
        let universe = rig.universes.get(block % rig.universes.len().max(1)).copied().unwrap_or(0);
        let mut pen = Pen::new(Rect { height: 1, ..area }, buffer);
        pen.put(if focus { "▪" } else { " " }, theme.bright());
        pen.put(&format!("universe {universe}"), theme.bright());
        let streams: Vec<_> = context.output.streams.iter().filter(|s| s.source == block).collect();
        match route.and_then(|route| context.show.routes.get(route)) {
            None => drop(pen.put("   no route carries it", theme.armed())),
            Some(route) => {
                let name = route.name_of(universe).unwrap_or_default();
                pen.put(&format!(" = {name}  {}", route.name), theme.text());
                let to = streams.first().map_or_else(|| route.to.to_string(), |s| s.to.ip().to_string());
                let more = if streams.len() > 1 { format!(" and {} more", streams.len() - 1) } else { String::new() };
                pen.put(&format!(" to {to}{more}"), theme.dim());
            }
        }
        if let Some(stream) = streams.first() {
            let header = if stream.to.port() == splimo_wire::artnet::PORT { 530.0 } else { 638.0 };
            let bytes = stream.rate * header / 1000.0;
            let words = format!("   {:.1} fps, gaps {:.1} ms at most, {bytes:.1} kB/s", stream.rate, stream.gap_ms);
            pen.put(&words, theme.dim());
        }
        match self.changed {
            Some(changed) => pen.put(&format!(", changed {:.1} s ago", (now - changed).max(0.0)), theme.dim()),
            None => pen.put(", no change seen yet", theme.dim()),
        };
        let line = Rect { y: area.y + 1, height: 1.min(area.height.saturating_sub(1)), ..area };
        let Some(told) = told else { return };
        if usize::from(told.slot) == self.slot {
            let (trace, value) = (told.trace.as_ref(), told.slots[self.slot]);
            let words = trace_words(context.show, trace, self.slot, value, context.show.settings.dither);
            draw_trace(&words, theme, line, buffer);
        }
        let slots = told.slots.clone();
        self.grid(&slots, focus, theme, body, buffer);
    }

    fn draw_received(
        &mut self,
        context: &ViewContext<'_>,
        focus: bool,
        theme: Theme,
        area: Rect,
        body: Rect,
        buffer: &mut Buffer,
    ) {
        let mut pen = Pen::new(Rect { height: 1, ..area }, buffer);
        pen.put(if focus { "▪" } else { " " }, theme.bright());
        let Some(&(protocol, universe)) = self.incoming.get(self.chosen) else {
            pen.put("comes in: nothing; v shows what goes out, u looks at any universe", theme.text());
            return;
        };
        pen.put(&format!("comes in: {}", name_of(protocol, universe)), theme.bright());
        let known = |r: &&Received| (r.protocol, r.universe) == (protocol, universe);
        let Some(received) = context.network.received.iter().find(known) else {
            pen.put(&format!("   no packet yet   {} of {}", self.chosen + 1, self.incoming.len()), theme.dim());
            let mut pen = Pen::new(Rect { y: area.y + 1, height: 1, ..area }, buffer);
            let sources = context.network.directory.sources().iter();
            for source in sources.filter(|s| protocol == Protocol::Sacn && s.universes.contains(&universe)) {
                pen.put(&format!(" announced by {} {}  ", source.name, source.address), theme.text());
            }
            return;
        };
        let (frames, bytes, lost) = received.counts;
        let ago = (context.network.now - received.changed).max(0.0);
        let gap = received.gap_ms;
        let words = format!(
            "   {:.1} fps, gaps {:.1} ms, p99 {:.1}, {frames} frames, {bytes} bytes, {lost} lost, changed {ago:.1} s ago   {} of {}",
            received.rate,
            gap.p50,
            gap.p99,
            self.chosen + 1,
            self.incoming.len()
        );
        pen.put(&words, theme.dim());
        let mut pen = Pen::new(Rect { y: area.y + 1, height: 1, ..area }, buffer);
        pen.put(" ", theme.dim());
        let winners = received.sources.iter().filter(|s| s.wins).count();
        for source in &received.sources {
            let priority = source.priority.map_or_else(String::new, |p| format!(" priority {p}"));
            let name = if source.own { "this show" } else { source.name.as_str() };
            let state = match (source.wins, winners) {
                (true, 1) => "has it",
                (true, _) => "shares it",
                (false, _) => "waits",
            };
            let style = if winners > 1 { theme.armed() } else { theme.text() };
            pen.put(&format!("{} {name}{priority} {state}   ", source.address), style);
        }
        if received.slots.len() == 512 {
            let slots = received.slots.clone();
            self.grid(&slots, focus, theme, body, buffer);
        }
    }

    fn grid(&self, slots: &[u8], focus: bool, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let chosen = focus.then_some(self.slot);
        if self.bars {
            bars(slots, self.first, chosen, theme, area, buffer);
        } else {
            numbers(slots, self.first, chosen, theme, area, buffer);
        }
    }
}

fn name_of(protocol: Protocol, universe: u16) -> String {
    protocol.transport().universe(universe)
}

/// A universe by its name on a network.
fn universe_of(text: &str) -> Result<(Protocol, u16), String> {
    let words = text.trim().to_lowercase();
    let (protocol, number) = match (words.strip_prefix("art-net"), words.strip_prefix("sacn")) {
        (Some(rest), _) => (Protocol::ArtNet, rest.trim()),
        (_, Some(rest)) => (Protocol::Sacn, rest.trim()),
        _ if words.contains(':') => (Protocol::ArtNet, words.as_str()),
        _ => (Protocol::Sacn, words.as_str()),
    };
    let number = protocol
        .transport()
        .read_number(number)
        .ok_or_else(|| format!("\"{text}\" is no universe: type such as 12, sacn 12, 0:1:0 or art-net 16"))?;
    Ok((protocol, number))
}

/// The trace of a slot in words: what it belongs to, and how its value came about.
fn trace_words(show: &Show, trace: Option<&SlotTrace>, slot: usize, value: u8, dither: bool) -> (String, String) {
    let number = slot + 1;
    let Some(trace) = trace else { return (format!("slot {number} = nothing"), format!("   {value}")) };
    let fixture = show.fixtures.get(trace.fixture).map_or("", |f| f.name.as_str());
    let cell = trace.cell.map_or_else(String::new, |cell| format!(" cell {}", cell + 1));
    let part = match trace.part {
        ChannelPart::Whole => "",
        ChannelPart::Coarse => " coarse",
        ChannelPart::Fine => " fine",
    };
    let what = format!("slot {number} = {fixture}{cell} {}{part}", trace.does.name());
    let Some(lit) = &trace.lit else {
        let why = if trace.does == Function::Fixed { "fixed" } else { "rests" };
        return (what, format!("   {why} at {value}"));
    };
    let mut words = format!("   light {:.3}", lit.light);
    words += &format!(" × master {:.0} %", lit.master * 100.0);
    if lit.output < 0.9995 {
        words += &format!(" × output {:.0} %", lit.output * 100.0);
    }
    if lit.curve != Curve::Linear {
        let curve = match &lit.curve {
            Curve::Points(_) => "curve".to_owned(),
            curve => curve.to_string(),
        };
        words += &format!(" → {curve} {:.3}", lit.level);
    }
    words += &format!(" → {:.1}", lit.exact);
    let last = if dither && trace.part == ChannelPart::Whole { "dither" } else { "rounded" };
    (what, format!("{words} → {last} → {value}"))
}

fn draw_trace((what, words): &(String, String), theme: Theme, area: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(area, buffer);
    pen.to(1).put(what, theme.bright());
    pen.put(words, theme.text());
}

/// Slots side by side: a multiple of eight that fits.
fn per_line(area: Rect, bars: bool) -> u16 {
    let room = area.width.saturating_sub(6);
    let fits = if bars { room } else { room / 4 };
    (fits / 8 * 8).clamp(8, if bars { 512 } else { 32 })
}

/// The first line that is drawn, so that the chosen one is context.
fn first_line(chosen: Option<usize>, per_line: u16, lines: u16) -> usize {
    chosen.map_or(0, |slot| (slot / usize::from(per_line) + 1).saturating_sub(usize::from(lines.max(1))))
}

fn numbers(slots: &[u8], first: usize, chosen: Option<usize>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let per_line = per_line(area, false);
    let rows = slots.chunks(usize::from(per_line)).enumerate().skip(first).take(usize::from(area.height));
    for (line, (index, row)) in rows.enumerate() {
        let mut pen = Pen::new(Rect { y: area.y + line as u16, height: 1, ..area }, buffer);
        let start = index * usize::from(per_line);
        pen.to(1).put(&format!("{:>3} ", start + 1), theme.faint_text());
        for (column, &value) in row.iter().enumerate() {
            let style = match value {
                _ if chosen == Some(start + column) => theme.filled(),
                0 => theme.faint_text(),
                1..=254 => theme.text(),
                255 => theme.bright(),
            };
            pen.put(&format!("{value:>4}"), style);
        }
    }
}

fn bars(slots: &[u8], first: usize, chosen: Option<usize>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let per_line = per_line(area, true);
    for (line, (index, row)) in slots.chunks(usize::from(per_line)).enumerate().skip(first).enumerate() {
        let top = area.y + line as u16 * (BAR_LINES + 1);
        if top + BAR_LINES > area.bottom() {
            return;
        }
        let mut pen = Pen::new(Rect { y: top + BAR_LINES - 1, height: 1, ..area }, buffer);
        pen.to(1).put(&format!("{:>3} ", index * usize::from(per_line) + 1), theme.faint_text());
        for (slot, &value) in row.iter().enumerate() {
            let eighths = (f32::from(value) / 255.0 * f32::from(BAR_LINES) * 8.0).ceil() as i32;
            let marked = chosen == Some(index * usize::from(per_line) + slot);
            for step in 0..BAR_LINES {
                let here = (eighths - i32::from(BAR_LINES - 1 - step) * 8).clamp(0, 8) as usize;
                let style = match (marked, value) {
                    (true, _) => theme.armed(),
                    (false, 0) => theme.faint(),
                    (false, _) => theme.text(),
                };
                // An empty slot keeps its foot, so that the eye can count.
                let symbol = if here == 0 && step == BAR_LINES - 1 { "·" } else { EIGHTHS[here] };
                if let Some(cell) = buffer.cell_mut((area.x + 5 + slot as u16, top + step)) {
                    cell.set_symbol(symbol).set_style(style);
                }
            }
        }
    }
}
