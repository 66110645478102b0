//! The directory of the network: devices that answered, sources that share our universes, and the interfaces of this machine.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_wire::artnet::poll_reply::Style as DeviceStyle;
use splimo_wire::directory::Device;
use splimo_wire::interface::Interface;

use crate::kit::list::List;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::model::ViewContext;
use splimo_link::advice::{Advice, ports};

pub(super) fn draw(
    list: &mut List,
    context: &ViewContext<'_>,
    advice: &Advice,
    focus: bool,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) {
    if area.height < 2 {
        return;
    }
    let network = context.network;
    let mut pen = Pen::new(Rect { height: 1, ..area }, buffer);
    pen.put(if focus { "▪ " } else { "  " }, theme.bright());
    pen.put("nodes", if focus { theme.text() } else { theme.dim() });
    pen.put(&format!("   on {}", interfaces(&network.interfaces)), theme.faint_text());
    let gone = network.directory.devices().iter().filter(|device| device.is_gone(network.now)).count();
    if gone > 0 {
        pen.put(&format!("   {gone} gone, g forgets"), theme.dim());
    }
    // What comes from elsewhere and matters stands at the foot.
    let notes = notes(context, advice);
    let foot = (notes.len() as u16).min(area.height.saturating_sub(2));
    let body = Rect { y: area.y + 1, height: area.height - 1 - foot, ..area };
    let devices = network.directory.devices();
    if devices.is_empty() {
        let words = "  Nobody has answered yet: nodes are asked every 3 s. Routes by address work all the same.";
        Pen::new(body, buffer).put(words, theme.dim());
    }
    let wide = area.width >= 90;
    for index in list.lay_out(devices.len(), body) {
        let device = &devices[index];
        let chosen = index == list.chosen && focus;
        let gone = device.is_gone(network.now);
        let style = match (chosen, gone) {
            (true, _) => theme.bright(),
            (false, false) => theme.text(),
            (false, true) => theme.dim(),
        };
        let mut pen = Pen::new(list.row(index), buffer);
        pen.put(if chosen { "▸ " } else { "  " }, theme.bright());
        pen.put(&line(device, network.now, wide), style);
        let told = advice.devices.get(index).map_or(&[][..], Vec::as_slice);
        pen.put(&told.join("; "), theme.armed());
    }
    for (line, (words, trouble)) in notes.iter().take(usize::from(foot)).enumerate() {
        let row = Rect { y: area.bottom() - foot + line as u16, height: 1, ..area };
        Pen::new(row, buffer).put(&format!("  {words}"), if *trouble { theme.armed() } else { theme.dim() });
    }
}

fn line(device: &Device, now: f64, wide: bool) -> String {
    let address = device.address.to_string();
    let ago = (now - device.last).max(0.0);
    let kind = match device.style {
        DeviceStyle::Controller => "controller".to_owned(),
        _ if device.outputs.is_empty() => "no port".to_owned(),
        _ => ports(&device.outputs),
    };
    if wide {
        let answered = format!("{ago:.1} s ago");
        format!("{address:<15}  {:<14}  {:<20}  {answered:>9}   ", shortened(&device.name, 14), shortened(&kind, 20))
    } else {
        format!("{address:<15}  {:<14}  {ago:>3.0} s  ", shortened(&kind, 14))
    }
}

fn interfaces(all: &[Interface]) -> String {
    let told: Vec<String> = all
        .iter()
        .filter(|i| i.v4.is_some())
        .map(|i| {
            let address = i.v4.map(|a| a.to_string()).unwrap_or_default();
            match (i.up, i.link) {
                (true, true) => format!("{} {address}", i.name),
                (true, false) => format!("{} {address} no link", i.name),
                (false, _) => format!("{} {address} off", i.name),
            }
        })
        .collect();
    if told.is_empty() { "no network".to_owned() } else { told.join(" · ") }
}

/// Notes that are worth a line of their own, and whether each is trouble.
fn notes(context: &ViewContext<'_>, advice: &Advice) -> Vec<(String, bool)> {
    let network = context.network;
    let mut notes: Vec<(String, bool)> = advice.rivals.iter().map(|words| (words.clone(), true)).collect();
    if let Some(flood) = &network.flood {
        notes.insert(0, (format!("{}: some is lost, and nodes stay as they were", flood.words()), true));
    }
    if let Some(doubted) = network.directory.doubted().first() {
        let words = format!("{} says it is {} ({}x): {}", doubted.from, doubted.claimed, doubted.count, doubted.why);
        notes.insert(0, (words, true));
    }
    if let Some(time) = network.time_code.filter(|t| network.now - t.at < 2.0) {
        let t = time.what;
        let words = format!("{:02}:{:02}:{:02}:{:02}", t.hours, t.minutes, t.seconds, t.frames);
        notes.push((format!("time code {words} from {}", time.from), false));
    }
    if let Some(trigger) = network.trigger.filter(|t| network.now - t.at < 10.0) {
        notes.push((format!("{} set off by {}", trigger.what, trigger.from), false));
    }
    if let Some(recording) = &context.output.recording {
        let left_out =
            if recording.left_out > 0 { format!(", {} frames left out", recording.left_out) } else { String::new() };
        let name = recording.path.display();
        notes.push((format!("recording {name}: {} packets{left_out}", recording.packets), recording.left_out > 0));
    }
    let refused =
        if context.output.errors > 0 { format!("{} refused, ", context.output.errors) } else { String::new() };
    let late = context.output.late_ms;
    notes.push((
        format!(
            "{} packets out, {refused}late by {:.2} ms, p99 {:.2}; {:.0} packets a second in",
            context.output.packets, late.p50, late.p99, network.packets
        ),
        false,
    ));
    notes
}
