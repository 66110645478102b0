//! The page of inputs, bindings and what came in.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_link::inputs::{EventLine, InputState, InputStatus};
use splimo_show::command::{Command, EngineCommand};
use splimo_show::{Binding, Show};

use super::InputsView;
use super::bands::value_of;
use super::part::Part;
use crate::kit::bars::bar;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::model::ViewContext;

/// The width from which what is in whose charge stands beside the rest.
const WIDE: u16 = 130;
/// The width of it.
const CHARGES: u16 = 34;
/// The time for which an event is new, in seconds.
const NEW: f64 = 0.4;

impl InputsView {
    pub(super) fn draw_lists(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let beside = if area.width >= WIDE { CHARGES } else { 0 };
        let main = Rect { x: area.x + 1, width: area.width.saturating_sub(beside + 2), ..area };
        let count = context.inputs.inputs.len().max(1) as u16;
        let inputs = (count + 2).min(area.height / 3).max(3);
        let events = (area.height / 4).clamp(3, 9);
        let bindings = area.height.saturating_sub(inputs + events);
        let at = |y: u16, height: u16| Rect { y: area.y + y, height, ..main };
        self.draw_inputs(context, theme, at(0, inputs), buffer);
        match self.part {
            Part::ValuesOut => self.draw_values_out(context, theme, at(inputs, bindings), buffer),
            Part::Programs => self.draw_programs(context, theme, at(inputs, bindings), buffer),
            Part::Hearing | Part::Inputs | Part::Bindings | Part::Events => {
                self.draw_bindings(context, theme, at(inputs, bindings), buffer);
            }
        }
        self.draw_events(context, theme, at(inputs + bindings, events), buffer);
        if beside > 0 {
            let right = Rect { x: area.right() - beside, width: beside - 1, ..area };
            charges(context, theme, right, buffer);
        }
    }

    fn head(&self, part: Part, words: &str, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let mut pen = Pen::new(Rect { height: 1, ..area }, buffer);
        let style = if self.part == part { theme.bright() } else { theme.dim() };
        pen.put(if self.part == part { "▸ " } else { "  " }, theme.bright());
        pen.put(words, style);
    }

    fn draw_inputs(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.head(Part::Inputs, "inputs", theme, area, buffer);
        let rows = Rect { y: area.y + 1, height: area.height.saturating_sub(2), ..area };
        let all = &context.inputs.inputs;
        if all.is_empty() {
            let words = "No inputs yet: a adds MIDI, OSC, Art-Net, sACN or lines.";
            Pen::new(rows, buffer).to(2).put(words, theme.text());
        }
        let seen = self.inputs.lay_out(all.len(), rows);
        for place in seen {
            let chosen = self.part == Part::Inputs && place == self.inputs.chosen;
            input_line(&all[place], context.inputs.now, chosen, theme, self.inputs.row(place), buffer);
        }
    }

    fn draw_bindings(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let show = context.show;
        let many = show.bindings.len();
        let words = if many == 0 { "bindings".to_owned() } else { format!("bindings  {many}") };
        self.head(Part::Bindings, &words, theme, area, buffer);
        let rows = Rect { y: area.y + 1, height: area.height.saturating_sub(2), ..area };
        if many == 0 {
            let words =
                "No bindings yet: on a pad, a tier or a look press Ctrl-K, then move a control. a binds by hand.";
            Pen::new(rows, buffer).to(2).put(words, theme.text());
        }
        for place in self.bindings.lay_out(many, rows) {
            let chosen = self.part == Part::Bindings && place == self.bindings.chosen;
            let binding = &show.bindings[place];
            let event = named(context, &binding.source, &binding.event.to_string());
            let value = value_of(context, binding);
            binding_line(binding, (&event, value), show, chosen, theme, self.bindings.row(place), buffer);
        }
    }

    fn draw_values_out(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let all = &context.show.values_out;
        let words = if all.is_empty() { "values out".to_owned() } else { format!("values out  {}", all.len()) };
        self.head(Part::ValuesOut, &words, theme, area, buffer);
        let rows = Rect { y: area.y + 1, height: area.height.saturating_sub(2), ..area };
        if all.is_empty() {
            let words =
                "None yet: a has a level or a colour leave as channels, OSC or MIDI, for the picture of somebody else.";
            Pen::new(rows, buffer).to(2).put(words, theme.text());
        }
        for place in self.values.lay_out(all.len(), rows) {
            let (out, chosen) = (&all[place], place == self.values.chosen);
            let mut pen = Pen::new(self.values.row(place), buffer);
            mark(&mut pen, chosen, theme);
            let style = if chosen { theme.bright() } else { theme.text() };
            pen.put(&format!("{:<28} ", shortened(&out.what.to_string(), 28)), style);
            pen.put(&format!("→ {:<36} ", shortened(&out.to.to_string(), 36)), style);
            let order = if out.what.is_colour() { format!("{}, ", out.order) } else { String::new() };
            pen.fit(&format!("{order}{}", out.range.name()), theme.dim());
        }
    }

    fn draw_programs(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let all = &context.show.programs;
        let words = match (all.is_empty(), context.inputs.allowed.as_str()) {
            (true, _) => "programs and sounds",
            (false, "on") => "programs and sounds: this machine may start them",
            (false, "network") => "programs and sounds: this machine may start them, for the network too",
            (false, _) => "programs and sounds: not allowed on this machine; x allows them",
        };
        self.head(Part::Programs, words, theme, area, buffer);
        let rows = Rect { y: area.y + 1, height: area.height.saturating_sub(2), ..area };
        if all.is_empty() {
            let words = "None yet: a names a program or a sound, which run NAME starts from a binding or a pad.";
            Pen::new(rows, buffer).to(2).put(words, theme.text());
        }
        for place in self.programs.lay_out(all.len(), rows) {
            let (program, chosen) = (&all[place], place == self.programs.chosen);
            let mut pen = Pen::new(self.programs.row(place), buffer);
            mark(&mut pen, chosen, theme);
            let style = if chosen { theme.bright() } else { theme.text() };
            let runs = context.inputs.running.contains(&program.name);
            pen.put(if runs { "● runs  " } else { "○       " }, if runs { theme.bright() } else { theme.dim() });
            pen.put(&format!("{:<20} ", shortened(&program.name, 20)), style);
            let what = if program.sound.is_empty() { program.command.join(" ") } else { program.sound.clone() };
            pen.put(if program.sound.is_empty() { "program  " } else { "sound    " }, theme.dim());
            let room = usize::from(area.width.saturating_sub(pen.column()));
            pen.put(&shortened(&what, room), style);
        }
    }

    fn draw_events(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.head(Part::Events, "came in last", theme, area, buffer);
        let rows = Rect { y: area.y + 1, height: area.height.saturating_sub(1), ..area };
        let events = &context.inputs.events;
        if events.is_empty() {
            Pen::new(rows, buffer).to(2).put("Nothing yet.", theme.dim());
        }
        for place in self.events.lay_out(events.len(), rows) {
            let line = &events[events.len() - 1 - place];
            let chosen = self.part == Part::Events && place == self.events.chosen;
            let event = named(context, &line.source, &line.event);
            event_line(line, &event, context.inputs.now, chosen, theme, self.events.row(place), buffer);
        }
    }
}

/// An event with the name of its control, as the model of the controller has it.
fn named(context: &ViewContext<'_>, source: &str, event: &str) -> String {
    let input = context.inputs.inputs.iter().find(|status| status.input.name == source);
    let plain = event.split(" channel ").next().unwrap_or(event);
    let known = input.into_iter().flat_map(|status| &status.controls).find(|(known, _)| known == plain);
    known.map_or_else(|| event.to_owned(), |(_, name)| format!("{name} ({plain})"))
}

/// A mark for what is chosen, in a column of its own.
fn mark(pen: &mut Pen<'_>, chosen: bool, theme: Theme) {
    pen.put(if chosen { "▶ " } else { "  " }, theme.bright());
}

/// The words of a state, and a sign that tells it without a colour.
fn state_words(status: &InputStatus, now: f64) -> (&'static str, String) {
    let ago = (now - status.last_at).max(0.0);
    match &status.state {
        InputState::Off => ("○", "off: x switches it on".to_owned()),
        InputState::Waiting => ("◌", "on, nothing came yet".to_owned()),
        InputState::Working => ("●", format!("{:5.1}/s  {} ago", status.rate, since(ago))),
        InputState::Silent => ("!", format!("silent for {}", since(ago))),
        InputState::Failed(why) => ("!", why.clone()),
    }
}

fn since(seconds: f64) -> String {
    match seconds {
        seconds if seconds < 10.0 => format!("{seconds:.1} s"),
        seconds if seconds < 120.0 => format!("{seconds:.0} s"),
        seconds => format!("{:.0} min", seconds / 60.0),
    }
}

fn input_line(status: &InputStatus, now: f64, chosen: bool, theme: Theme, row: Rect, buffer: &mut Buffer) {
    let input = &status.input;
    let mut pen = Pen::new(row, buffer);
    mark(&mut pen, chosen, theme);
    let (sign, words) = state_words(status, now);
    let trouble = matches!(status.state, InputState::Silent | InputState::Failed(_));
    let style = match status.state {
        InputState::Silent | InputState::Failed(_) => theme.armed(),
        InputState::Working => theme.bright(),
        InputState::Off | InputState::Waiting => theme.dim(),
    };
    let wide = row.width >= 96;
    let (name, address) = if wide { (18, 24) } else { (12, 16) };
    pen.put(&format!("{sign} "), style);
    pen.put(&format!("{:<name$} ", shortened(&input.name, name)), if chosen { theme.bright() } else { theme.text() });
    pen.put(&format!("{:<8}", input.kind.name()), theme.dim());
    pen.put(&format!("{:<address$} ", shortened(&input.address, address)), theme.text());
    if wide {
        let priority = if input.priority == 100 { String::new() } else { format!("prio {}", input.priority) };
        pen.put(&format!("{priority:<9}"), theme.dim());
    }
    let column = pen.column();
    let left = usize::from(row.width.saturating_sub(column));
    pen.put(&shortened(&words, left), if trouble { theme.armed() } else { theme.text() });
    if status.state == InputState::Working {
        pen.fit(&format!("   {}", status.last), theme.dim());
        for (count, what) in
            [(status.malformed, "not understood"), (status.refused, "refused"), (status.left_out, "left out")]
        {
            if count > 0 {
                pen.fit(&format!("   {count} {what}"), theme.armed());
            }
        }
    }
}

fn binding_line(
    binding: &Binding,
    (event_words, value): (&str, Option<f32>),
    show: &Show,
    chosen: bool,
    theme: Theme,
    row: Rect,
    buffer: &mut Buffer,
) {
    let mut pen = Pen::new(row, buffer);
    mark(&mut pen, chosen, theme);
    let wide = row.width >= 96;
    let (source, event) = if wide { (14, 22) } else { (10, 16) };
    let style = if chosen { theme.bright() } else { theme.text() };
    pen.put(&format!("{:<source$} ", shortened(&binding.source, source)), theme.dim());
    pen.put(&format!("{:<event$} ", shortened(event_words, event)), style);
    pen.put("▕", theme.faint());
    pen.put(&value.map_or("      ".to_owned(), |value| bar(value, 6)), theme.text());
    pen.put("▏ ", theme.faint());
    let room = if wide { 34 } else { 24 };
    let asks = binding.asks_for();
    let labelled = labelled(binding, show).unwrap_or(asks);
    pen.put(&format!("{:<room$} ", shortened(&labelled, room)), style);
    pen.fit(&manner(binding), theme.dim());
}

/// The effect of a binding of a pad or a control, with the name of what is on the pad, or of the control.
fn labelled(binding: &Binding, show: &Show) -> Option<String> {
    let does = binding.does.first()?;
    let Command::Engine(command) = does.whole().or(does.moves())? else { return None };
    if let EngineCommand::Control(level) = command {
        let number = u32::from(level.control);
        return show.control_name(number).map(|_| show.control_words(number));
    }
    if let EngineCommand::HoldPad(number) | EngineCommand::FirePad(number) = command {
        let (_, pad) = show.pad(*number)?;
        return Some(format!("pad {number}: {}", pad.label()));
    }
    None
}

/// The manner of a binding in a few words.
fn manner(binding: &Binding) -> String {
    use splimo_show::{Answer, Response};
    let mut words: Vec<String> = Vec::new();
    if let Some(when) = binding.when {
        words.push(when.to_string());
    }
    if !binding.bands.is_empty() {
        let looks = binding.bands.iter().flat_map(|band| &band.does).filter_map(|does| match does.whole() {
            Some(Command::Engine(EngineCommand::FireLook(look))) => Some(look.as_str()),
            Some(_) | None => None,
        });
        let names: Vec<&str> = looks.map(|look| look.split_once('/').map_or(look, |(_, name)| name)).collect();
        words.push(names.join(", "));
    } else {
        match binding.answer {
            Answer::Press => {}
            Answer::Held | Answer::Toggle => words.push(binding.answer.name().to_owned()),
            Answer::Value => words.push(format!("{} to {}", binding.range[0], binding.range[1])),
            Answer::Relative => words.push(format!("encoder, {}", binding.coding.name())),
        }
    }
    if binding.curve != Response::Linear {
        words.push(binding.curve.name().to_owned());
    }
    for (is, word) in [(binding.invert, "inverted"), (binding.soft, "soft")] {
        if is {
            words.push(word.to_owned());
        }
    }
    if !binding.layer.is_empty() {
        words.push(format!("in layer {}", binding.layer));
    }
    words.join(", ")
}

fn event_line(
    line: &EventLine,
    event_words: &str,
    now: f64,
    chosen: bool,
    theme: Theme,
    row: Rect,
    buffer: &mut Buffer,
) {
    let mut pen = Pen::new(row, buffer);
    mark(&mut pen, chosen, theme);
    let wide = row.width >= 96;
    let (source, event) = if wide { (14, 22) } else { (10, 16) };
    let is_new = now - line.at < NEW;
    let style = if is_new || chosen { theme.bright() } else { theme.text() };
    if wide {
        pen.put(&format!("{} ", clock_words(line.clock)), theme.dim());
    }
    pen.put(&format!("{:<source$} ", shortened(&line.source, source)), theme.dim());
    pen.put(&format!("{:<event$} ", shortened(event_words, event)), style);
    let [raw, most] = line.raw;
    if most > 1.0 {
        let value = (raw / most).clamp(0.0, 1.0);
        pen.put(&format!("{raw:>5.0} "), style);
        pen.put("▕", theme.faint());
        pen.put(&bar(value, 6), theme.text());
        pen.put("▏ ", theme.faint());
    }
    if let Some(number) = line.number {
        pen.put(&format!("→ {} ", (number * 100.0).round() / 100.0), theme.text());
    }
    let rest = usize::from(row.width.saturating_sub(pen.column()));
    let asked = if line.asked.is_empty() { "nothing answers to it; a binds it" } else { &line.asked };
    pen.put(&shortened(asked, rest), if line.asked.is_empty() { theme.faint_text() } else { style });
}

fn clock_words(seconds: Option<f64>) -> String {
    seconds.map_or("        ".to_owned(), |all| {
        let whole = all as u32;
        format!("{:02}:{:02}:{:02}", whole / 3600, whole / 60 % 60, whole % 60)
    })
}

/// The values and tiers that are in somebody's charge.
fn charges(context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    Pen::new(Rect { height: 1, ..area }, buffer).put("in charge", theme.dim());
    let all = &context.inputs.charges;
    if all.is_empty() {
        let row = Rect { y: area.y + 1, height: 1, ..area };
        Pen::new(row, buffer).put("hands: no input moved anything", theme.dim());
    }
    for (line, (what, who)) in all.iter().enumerate().take(usize::from(area.height.saturating_sub(1))) {
        let row = Rect { y: area.y + 1 + line as u16, height: 1, ..area };
        let mut pen = Pen::new(row, buffer);
        pen.put(&format!("{:<18} ", shortened(what, 18)), theme.text());
        pen.put(&shortened(who, 14), theme.bright());
    }
}
