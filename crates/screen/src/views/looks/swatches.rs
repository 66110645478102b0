//! The palette: its entries, where each is used, and the colours of the chosen layer taken from it.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_base::colour::to_screen;
use splimo_base::ramp::{Mixing, Ramp};
use splimo_document::edit::Edit;
use splimo_document::making;
use splimo_document::reference;
use splimo_engine::Snapshot;
use splimo_light::effect::ParamKind;
use splimo_show::Param;
use splimo_show::palette;
use splimo_show::reference::ReferenceKind;

use super::action::Ask;
use super::colours::{Colours, Whose};
use super::panel::{LookPanel, PanelContext, PanelReply, PanelRequest};
use super::rows::spec_of;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;

/// The list of entries.
#[derive(Default)]
pub(super) struct Swatches {
    at: usize,
    first: usize,
}

impl Swatches {
    pub(super) fn list() -> Box<Self> {
        Box::default()
    }

    /// The colours that the chosen layer has now, for a new entry.
    fn colours_of_layer(context: &PanelContext<'_>) -> Vec<String> {
        let found = context.chosen().and_then(|layer| {
            let spec = spec_of(layer)?.params.iter().find(|p| matches!(p.kind, ParamKind::Colours { .. }))?;
            Some(making::value_of(layer, spec))
        });
        let texts = match found {
            Some(Param::List(list)) => list,
            Some(Param::Text(text)) => vec![text],
            _ => vec!["#ffffff".to_owned()],
        };
        let stops = palette::stops(texts.iter().map(String::as_str), &context.show.palette).unwrap_or_default();
        stops.iter().map(ToString::to_string).collect()
    }

    fn use_it(&self, context: &PanelContext<'_>) -> Option<PanelReply> {
        let Some(swatch) = context.show.palette.get(self.at) else { return PanelReply::stay() };
        let mut used = 0;
        let mut look = context.look.clone();
        for &index in context.layers {
            let Some(layer) = look.layers.get_mut(index) else { continue };
            let spec =
                spec_of(layer).and_then(|s| s.params.iter().find(|p| matches!(p.kind, ParamKind::Colours { .. })));
            if let Some(spec) = spec {
                making::set_value(layer, spec, Param::List(vec![palette::reference(&swatch.name)]));
                used += 1;
            }
        }
        if used == 0 {
            return PanelReply::said(PanelRequest::Nothing, "this layer has no colours".to_owned());
        }
        PanelReply::said(PanelRequest::Keep(look), format!("the layer has {} of the palette", swatch.name))
    }
}

impl LookPanel for Swatches {
    fn title(&self) -> String {
        "the palette: what changes here changes in every look that uses it".to_owned()
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        vec![
            ("↑ ↓", "choose"),
            ("Enter", "the layer takes it"),
            ("n", "new from the layer's colours"),
            ("e", "change"),
            ("Del", "take out"),
            ("Esc", "close"),
        ]
    }

    fn types(&self) -> bool {
        false
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        if key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) {
            return None;
        }
        let palette = &context.show.palette;
        match key.code {
            KeyCode::Esc => return PanelReply::close(PanelRequest::Nothing),
            KeyCode::Up => self.at = self.at.saturating_sub(1),
            KeyCode::Down => self.at = (self.at + 1).min(palette.len().saturating_sub(1)),
            KeyCode::Enter => return self.use_it(context),
            KeyCode::Char('n') => {
                let whose = Whose::Swatch(None, String::new());
                return PanelReply::open(Colours::of(whose, Self::colours_of_layer(context), palette));
            }
            KeyCode::Char('e') => {
                let Some(swatch) = palette.get(self.at) else { return PanelReply::stay() };
                let whose = Whose::Swatch(Some(self.at), swatch.name.clone());
                return PanelReply::open(Colours::of(whose, swatch.colours.clone(), palette));
            }
            KeyCode::Delete => {
                if self.at >= palette.len() {
                    return PanelReply::stay();
                }
                return PanelReply::with(PanelRequest::Ask(vec![Ask::edit(Edit::RemoveSwatch(self.at))]));
            }
            _ => return None,
        }
        PanelReply::stay()
    }

    fn draw(&mut self, context: &PanelContext<'_>, _: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let entries = &context.show.palette;
        if entries.is_empty() {
            let words = "The palette is empty: n keeps the colours of the layer under a name.";
            Pen::new(Rect { height: 1, ..area }, buffer).put(words, theme.text());
            return;
        }
        self.at = self.at.min(entries.len() - 1);
        let uses = reference::uses(context.show, ReferenceKind::Swatch, &entries[self.at].name);
        let below = (uses.len() as u16 + 2).min(area.height / 3).max(2);
        let rows = usize::from(area.height.saturating_sub(below + 1).max(1));
        self.first = self.first.min(self.at).max((self.at + 1).saturating_sub(rows));
        for (line, swatch) in entries.iter().enumerate().skip(self.first).take(rows) {
            let row = Rect { y: area.y + (line - self.first) as u16, height: 1, ..area };
            let mut pen = Pen::new(row, buffer);
            let here = line == self.at;
            pen.put(if here { "▸ " } else { "  " }, theme.bright());
            pen.put(&format!("{:<18} ", swatch.name), if here { theme.bright() } else { theme.text() });
            let start = row.x + pen.column();
            let stops = palette::stops(swatch.colours.iter().map(String::as_str), &[]).unwrap_or_default();
            let ramp = Ramp::open(&stops, Mixing::default());
            for column in 0..16u16 {
                let [r, g, b, a] = ramp.at(f32::from(column) / 15.0);
                if let Some(cell) = buffer.cell_mut((start + column, row.y)).filter(|_| start + column < area.right()) {
                    cell.set_symbol(" ").set_bg(theme.colour(to_screen([r * a, g * a, b * a])));
                }
            }
            let count = reference::uses(context.show, ReferenceKind::Swatch, &swatch.name).len();
            let words = if count == 0 { "not used".to_owned() } else { format!("used {count} times") };
            let mut pen =
                Pen::new(Rect { x: start + 17, width: area.right().saturating_sub(start + 17), ..row }, buffer);
            pen.put(&words.replace("1 times", "once"), theme.dim());
        }
        let foot = Rect { y: area.bottom() - below, height: 1, ..area };
        Pen::new(foot, buffer).put(&format!("where {} is used", entries[self.at].name), theme.dim());
        for (line, user) in uses.iter().enumerate().take(usize::from(below.saturating_sub(1))) {
            let row = Rect { y: foot.y + 1 + line as u16, height: 1, ..area };
            Pen::new(row, buffer).put(&format!("  {}, layer {}", user.name, user.layer.unwrap_or(0) + 1), theme.text());
        }
    }
}
