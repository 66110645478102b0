//! Beside the stage: the tiers, what each shows and who put it there, what waits for it, the masters, and what is heard.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_engine::{Armed, RotationState, TierState};
use splimo_show::command::{EngineCommand, Origin};

use super::action::{Ask, PlayAction};
use super::pads::key_of;
use super::part::Part;
use crate::kit::bars::{EIGHTHS, bar};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::short_name;
use crate::model::ViewContext;
use crate::view::Targets;

/// The cells of the bar of a level.
const BAR: u16 = 8;

/// Everything besides the context that the side is drawn from.
pub(super) struct SideState {
    pub part: Part,
    /// The tier that is chosen.
    pub tier: usize,
    /// The number of the waiting thing that is chosen.
    pub waiting: Option<usize>,
}

/// The side while it is drawn.
struct Side<'a, 'c> {
    context: &'a ViewContext<'c>,
    state: &'a SideState,
    theme: Theme,
    area: Rect,
    y: u16,
}

/// Draws the side, and tells where the bars of levels are, each with its tier.
pub(super) fn draw(
    context: &ViewContext<'_>,
    state: &SideState,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
    targets: &mut Targets<PlayAction>,
) -> Vec<(Rect, usize)> {
    let mut side = Side { context, state, theme, area, y: area.y };
    let bars = side.tiers(buffer, targets);
    side.others(buffer);
    side.y += u16::from(area.height > 16);
    side.heard(buffer);
    let spectrum = Rect { y: side.y, height: area.bottom().saturating_sub(side.y + 1).min(6), ..area };
    draw_spectrum(context, theme, spectrum, buffer);
    bars
}

impl Side<'_, '_> {
    /// The next line, if there is room for it.
    fn line(&mut self) -> Option<Rect> {
        let line = Rect { y: self.y, height: 1, ..self.area };
        self.y += 1;
        (line.y < self.area.bottom()).then_some(line)
    }

    fn heading(&mut self, words: &str, chosen: bool, buffer: &mut Buffer) {
        if let Some(line) = self.line() {
            let style = if chosen { self.theme.bright() } else { self.theme.dim() };
            Pen::new(line, buffer).put(words, style);
        }
    }

    /// The tiers, the topmost first, as they lie.
    fn tiers(&mut self, buffer: &mut Buffer, targets: &mut Targets<PlayAction>) -> Vec<(Rect, usize)> {
        let tiers = &self.context.snapshot.tiers;
        let part = self.state.part;
        let title = match part {
            Part::Pads => "tiers",
            Part::Tiers => "tiers  ◂",
            Part::Waiting if self.context.snapshot.queue.is_empty() => "waiting  ◂ nothing",
            Part::Waiting => "waiting  ◂",
        };
        self.heading(title, part != Part::Pads, buffer);
        let mut bars = Vec::new();
        for (place, state) in tiers.iter().enumerate().rev() {
            if let Some(line) = self.line() {
                bars.extend(self.tier(place, state, line, buffer, targets).map(|bar| (bar, place)));
            }
            let waiting: Vec<Armed> =
                self.context.snapshot.queue.iter().filter(|armed| armed.wish.tier == place).copied().collect();
            for armed in waiting {
                if let Some(line) = self.line() {
                    self.armed(&armed, line, buffer);
                }
            }
        }
        if let Some(look) = self.context.snapshot.fallback
            && let Some(line) = self.line()
        {
            let mut pen = Pen::new(line, buffer);
            pen.put("  fallback ", self.theme.dim());
            pen.put(self.look(Some(look)), self.theme.text());
        }
        bars
    }

    fn look(&self, look: Option<usize>) -> &str {
        look.and_then(|look| self.context.show.looks.get(look)).map_or("(clear)", |look| look.name.as_str())
    }

    /// Name, look, who put it there, its fade, and the level. Returns where the bar of the level is.
    fn tier(
        &self,
        place: usize,
        state: &TierState,
        line: Rect,
        buffer: &mut Buffer,
        targets: &mut Targets<PlayAction>,
    ) -> Option<Rect> {
        let theme = self.theme;
        let chosen = self.state.part == Part::Tiers && self.state.tier == place;
        let solo = self.context.snapshot.tiers.iter().any(|tier| tier.solo);
        let seen = !state.mute && (state.solo || !solo);
        let name = self.context.show.stack().get(place).map_or("", |tier| tier.name.as_str());
        let mut pen = Pen::new(line, buffer);
        pen.put(if chosen { "▸ " } else { "  " }, theme.bright());
        let style = if chosen { theme.bright() } else { theme.dim() };
        pen.put(&format!("{:<7}", short_name(name, 6)), style);
        let look_style = match (state.look, seen) {
            (None, _) => theme.faint_text(),
            (Some(_), false) => theme.dim(),
            (Some(_), true) => theme.bright(),
        };
        let look = short_name(self.look(state.look), 12);
        let look = if state.held { format!("▣{}", short_name(&look, 11)) } else { look };
        pen.put(&format!("{look:<13}"), look_style);
        pen.put(&format!("{:<8}", short_name(&self.doing(state), 8)), theme.dim());
        let marks = match (state.mute, state.solo) {
            (true, _) => "mute",
            (_, true) => "solo",
            (false, false) => "",
        };
        if marks.is_empty() {
            pen.put("▕", theme.faint());
            let lit = if !seen {
                theme.dim()
            } else if chosen {
                theme.bright()
            } else {
                theme.text()
            };
            let bar = pen.put(&bar(state.level, usize::from(BAR)), lit);
            pen.put("▏", theme.faint());
            pen.put(&format!("{:3.0}", state.level * 100.0), theme.text());
            targets.push((Rect { width: line.width.saturating_sub(BAR + 5), ..line }, self.choose(place)));
            return Some(bar);
        }
        pen.put(&format!("{marks:>9} "), theme.bright());
        pen.put(&format!("{:3.0}", state.level * 100.0), theme.text());
        targets.push((line, self.choose(place)));
        None
    }

    fn choose(&self, place: usize) -> Ask {
        Ask::Action(PlayAction::ChooseTier(place as i32 - self.state.tier as i32))
    }

    /// The fade of a tier while there is one; else who put there what is there.
    fn doing(&self, state: &TierState) -> String {
        let clock = self.context.snapshot.clock.beat;
        if let Some(until) = state.until {
            return format!("ends {:.1}", (until - clock).max(0.0));
        }
        if state.fade_left > 0.05 {
            let way = if state.look.is_some() { "in" } else { "out" };
            return format!("{way} {:.1}", state.fade_left);
        }
        match (state.look, state.pad) {
            (None, _) => String::new(),
            (Some(_), Some(pad)) => {
                format!("pad {}", key_of((pad - 1) % splimo_show::PADS + 1, self.context.layout))
            }
            (Some(_), None) => match state.by {
                Origin::Rotation => "turns",
                Origin::List(_) => "list",
                Origin::Timeline(_) => "timeline",
                Origin::Schedule => "by time",
                Origin::CommandLine => "do",
                Origin::ArtNet => "art-net",
                Origin::Input(_) => "input",
                Origin::Screen(_) => "screen",
                Origin::Session => "",
            }
            .to_owned(),
        }
    }

    /// Something that waits: where it lands, in how many beats, and who asked for it.
    fn armed(&self, armed: &Armed, line: Rect, buffer: &mut Buffer) {
        let theme = self.theme;
        let chosen = self.state.part == Part::Waiting && self.state.waiting == Some(armed.number);
        let left = (armed.lands_at - self.context.snapshot.clock.beat).max(0.0);
        let mut pen = Pen::new(line, buffer);
        pen.put(if chosen { "      ▸ " } else { "        " }, theme.bright());
        let name = if armed.wish.look.is_none() { "clear" } else { self.look(armed.wish.look) };
        pen.put(&format!("{:<15}", format!("⟨{}⟩", short_name(name, 12))), theme.armed());
        pen.put(&format!("{:<7}", armed.boundary.name()), theme.text());
        pen.put(&format!("{left:5.1}"), theme.armed());
        let who = match (armed.wish.pad, armed.wish.by) {
            (Some(pad), _) => format!("  {}", key_of((pad - 1) % splimo_show::PADS + 1, self.context.layout)),
            (None, Origin::Rotation) => " turns".to_owned(),
            (None, _) => String::new(),
        };
        pen.put(&who, theme.dim());
    }

    /// Rotation, speed, groups that are not whole, and the strobe limit: a line each where there is something to say.
    fn others(&mut self, buffer: &mut Buffer) {
        let (context, theme) = (self.context, self.theme);
        let snapshot = context.snapshot;
        let rotation = match snapshot.rotation {
            RotationState::Off => "off",
            RotationState::On => "turns",
            RotationState::GaveWay => "gave way: Ctrl-R takes back",
        };
        let rows = [("rotation", rotation.to_owned(), snapshot.rotation != RotationState::Off)];
        let speed = (snapshot.frame > 0 && snapshot.speed != 1.0).then(|| match snapshot.speed {
            0.0 => "held".to_owned(),
            times => format!("{times} times"),
        });
        let groups = context.show.groups.iter().zip(&snapshot.groups).filter(|(_, level)| **level < 1.0);
        let groups: Vec<String> = groups.map(|(group, level)| format!("{} {:.0}", group.name, level * 100.0)).collect();
        let limit = context.show.settings.strobe_limit;
        let limited = match (limit, snapshot.flash_limit.acts) {
            (0, _) => Some("none".to_owned()),
            (_, true) => Some(format!("holds light back, {limit} a second")),
            (_, false) => None,
        };
        let rows = rows.into_iter().chain(speed.map(|speed| ("speed", speed, true)));
        let rows = rows.chain((!groups.is_empty()).then(|| ("groups", groups.join(", "), true)));
        let rows: Vec<_> = rows.chain(limited.map(|words| ("strobe limit", words, true))).collect();
        for (name, words, matters) in rows {
            if let Some(line) = self.line() {
                let mut pen = Pen::new(line, buffer);
                pen.put(&format!("{name}  "), theme.dim());
                pen.put(&words, if matters { theme.bright() } else { theme.faint_text() });
            }
        }
    }

    fn heard(&mut self, buffer: &mut Buffer) {
        let (hearing, theme) = (&self.context.snapshot.hearing, self.theme);
        let Some(line) = self.line() else { return };
        let mut pen = Pen::new(line, buffer);
        pen.put("heard  ", theme.dim());
        if hearing.peak <= 0.001 && hearing.level <= 0.01 {
            pen.put("silence", theme.faint_text());
            return;
        }
        pen.put("▕", theme.faint());
        pen.put(&bar(hearing.level, 10), theme.text());
        pen.put("▏", theme.faint());
        pen.put(&format!(" {:5.1} ", hearing.tempo_bpm), theme.text());
        let sure = match hearing.confidence {
            c if c >= 0.75 => "sure",
            c if c >= splimo_time::tempo::TRUSTED => "fairly sure",
            _ => "unsure",
        };
        pen.put(sure, theme.dim());
    }
}

/// Draws the tiers in one line, the lowest first, where there is no room beside the stage.
pub(super) fn draw_line(context: &ViewContext<'_>, state: &SideState, theme: Theme, line: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(line, buffer);
    pen.to(1);
    if let Some(armed) = context.snapshot.queue.iter().find(|armed| Some(armed.number) == state.waiting)
        && state.part == Part::Waiting
    {
        let look = armed.wish.look.and_then(|look| context.show.looks.get(look)).map_or("clear", |look| &look.name);
        let left = (armed.lands_at - context.snapshot.clock.beat).max(0.0);
        pen.put("waiting ▸ ", theme.bright());
        pen.put(&format!("⟨{look}⟩ {} {left:.1}", armed.boundary.name()), theme.armed());
        return;
    }
    if state.part == Part::Waiting {
        pen.put("waiting ▸ nothing", theme.bright());
        return;
    }
    let solo = context.snapshot.tiers.iter().any(|tier| tier.solo);
    for (place, (tier, now)) in context.show.stack().iter().zip(&context.snapshot.tiers).enumerate() {
        let chosen = state.part == Part::Tiers && state.tier == place;
        pen.put(if chosen { "▸" } else { " " }, theme.bright());
        pen.put(&format!("{} ", short_name(&tier.name, 6)), if chosen { theme.bright() } else { theme.dim() });
        let look = now.look.and_then(|look| context.show.looks.get(look)).map_or("(clear)", |look| &look.name);
        let seen = !now.mute && (now.solo || !solo);
        let mark = if now.held { "▣" } else { "" };
        let style = if seen && now.look.is_some() { theme.bright() } else { theme.dim() };
        pen.put(&format!("{mark}{} ", short_name(look, 11)), style);
        let level = match (now.mute, now.solo) {
            (true, _) => "mute  ".to_owned(),
            (_, true) => "solo  ".to_owned(),
            (false, false) => format!("{:.0}  ", now.level * 100.0),
        };
        pen.put(&level, theme.text());
    }
}

/// The bands as bars, low to the left.
fn draw_spectrum(context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    if area.height < 2 {
        return;
    }
    let lines = area.height;
    let width = (area.width / context.snapshot.hearing.bands.len() as u16).max(1);
    for (band, &level) in context.snapshot.hearing.bands.iter().enumerate() {
        let eighths = (level * f32::from(lines) * 8.0).round() as i32;
        for line in 0..lines {
            let here = (eighths - i32::from(lines - 1 - line) * 8).clamp(0, 8) as usize;
            let x = area.x + band as u16 * width;
            let cell = Rect::new(x, area.y + line, width, 1).intersection(area);
            for column in cell.left()..cell.right() {
                buffer[(column, cell.y)].set_symbol(EIGHTHS[here]).set_style(theme.text());
            }
        }
    }
}

/// The level that a click on a bar means, in percent.
pub(super) fn level_at(bar: Rect, column: u16) -> f32 {
    let at = f32::from(column.saturating_sub(bar.x)) + 0.5;
    // Its ends are none and all.
    ((at / f32::from(bar.width.max(1)) * 1.14 - 0.07).clamp(0.0, 1.0) * 20.0).round() * 5.0
}

/// The command for the level of a tier that is named.
pub(super) fn level_of(name: &str, percent: f32) -> EngineCommand {
    EngineCommand::TierLevel(splimo_show::command::NamedLevel { name: name.to_owned(), percent })
}
