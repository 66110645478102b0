//! Choosing an effect: each moves as a miniature on one's own rig, on the lights that the layer would have.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_document::making;
use splimo_engine::Snapshot;
use splimo_light::effect::{EFFECTS, EffectSpec, Holds, ParamKind};
use splimo_show::{Layer, Look, Param};

use super::panel::{LookPanel, PanelContext, PanelReply, PanelRequest};
use super::rows;
use crate::kit::gallery::Gallery;
use crate::kit::pen::Pen;
use crate::kit::text_field::{TextField, Typed};
use crate::kit::theme::Theme;
use crate::kit::words::cut_at_a_word;

/// The least room of an effect, in cells, and the most lines of it.
const CELL: (u16, u16) = (20, 4);
const TALLEST: u16 = 8;

/// The list of effects.
#[derive(Default)]
pub(super) struct Chooser {
    /// True if the chosen layer gets another effect, instead of a layer being added.
    replaces: bool,
    filter: TextField,
    at: usize,
    columns: usize,
    first: usize,
    gallery: Gallery,
}

impl Chooser {
    pub(super) fn adding() -> Box<Self> {
        Box::default()
    }

    pub(super) fn replacing(layer: &Layer) -> Box<Self> {
        let at = EFFECTS.iter().position(|spec| spec.name == layer.effect).unwrap_or(0);
        Box::new(Self { replaces: true, at, ..Self::default() })
    }

    /// The effects that are shown: those whose name begins with what was typed first, then those in whose name or help it is.
    fn found(&self) -> Vec<&'static EffectSpec> {
        let wanted = self.filter.text().to_lowercase();
        let rank = |spec: &&EffectSpec| match () {
            () if spec.name.starts_with(&wanted) => Some(0),
            () if spec.name.contains(&wanted) || spec.family.starts_with(&wanted) => Some(1),
            () if spec.help.to_lowercase().contains(&wanted) => Some(2),
            () => None,
        };
        // What holds the colours of a frozen look is of no use without them.
        let all = EFFECTS.iter().copied().filter(|spec| spec.name != "still");
        let mut found: Vec<(i32, &EffectSpec)> = all.filter_map(|spec| Some((rank(&spec)?, spec))).collect();
        found.sort_by_key(|(rank, _)| *rank);
        found.into_iter().map(|(_, spec)| spec).collect()
    }

    fn move_by(&mut self, by: i64) {
        let last = self.found().len().saturating_sub(1) as i64;
        self.at = (self.at as i64 + by).clamp(0, last) as usize;
    }

    fn take(&self, context: &PanelContext<'_>) -> Option<PanelReply> {
        let Some(spec) = self.found().get(self.at).copied() else { return PanelReply::stay() };
        if self.replaces {
            return PanelReply::close(PanelRequest::Keep(context.with_layer(|layer| rows::change_effect(layer, spec))));
        }
        let mut look = context.look.clone();
        look.layers.push(fresh(spec, context));
        let last = look.layers.len() - 1;
        PanelReply::close(PanelRequest::KeepAndGoTo(look, last))
    }
}

/// A layer as it is added: on the lights of the layer below it. One that turns heads is on all of them where nothing of those turns.
fn fresh(spec: &EffectSpec, context: &PanelContext<'_>) -> Layer {
    let mut target = context.chosen().map_or_else(Vec::new, |below| below.target.clone());
    if spec.turns_heads() {
        let heads = making::aims::heads_of(context.show);
        if !context.show.fixtures_of(&target).iter().any(|fixture| heads.contains(fixture)) {
            target.clear();
        }
    }
    Layer { target, ..shown(spec, context) }
}

/// A layer of an effect that shows what it does; one that needs other looks has a few of them.
fn shown(spec: &EffectSpec, context: &PanelContext<'_>) -> Layer {
    let mut layer = Layer::new(spec.name);
    for param in spec.params {
        match param.kind {
            ParamKind::Looks => return making::in_turn(&making::next_looks(context.show, &context.look.name)),
            ParamKind::Aim => {
                let first = context.show.aims.first().map(|aim| Param::Text(aim.name.clone()));
                layer.params.extend(first.map(|first| (param.name.to_owned(), first)));
            }
            ParamKind::Number { .. }
            | ParamKind::Rate { .. }
            | ParamKind::Times
            | ParamKind::Colours { .. }
            | ParamKind::Choice { .. }
            | ParamKind::Text { .. }
            | ParamKind::File { .. } => {}
        }
    }
    layer
}

impl LookPanel for Chooser {
    fn title(&self) -> String {
        let what = if self.replaces { "another effect for this layer" } else { "a new layer: choose its effect" };
        match self.filter.text() {
            "" => format!("{what}; type to find one"),
            _ => format!("{what}   {}", self.filter.with_cursor()),
        }
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        vec![("← → ↑ ↓", "choose"), ("type", "find"), ("Enter", "take"), ("Esc", "back")]
    }

    fn wide(&self) -> bool {
        true
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        let row = self.columns.max(1) as i64;
        match key.code {
            KeyCode::Esc => return PanelReply::close(PanelRequest::Nothing),
            KeyCode::Enter => return self.take(context),
            KeyCode::Left => self.move_by(-1),
            KeyCode::Right => self.move_by(1),
            KeyCode::Up => self.move_by(-row),
            KeyCode::Down => self.move_by(row),
            _ => match self.filter.key_of_search(key) {
                Typed::Changed => self.at = 0,
                Typed::Moved => {}
                Typed::Not => return None,
            },
        }
        PanelReply::stay()
    }

    fn draw(&mut self, context: &PanelContext<'_>, snapshot: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let found = self.found();
        if found.is_empty() {
            let words = format!("No effect is called \"{}\". Backspace takes letters away.", self.filter.text());
            Pen::new(Rect { height: 1, ..area }, buffer).put(&words, theme.text());
            return;
        }
        self.at = self.at.min(found.len() - 1);
        self.columns = usize::from((area.width / CELL.0).max(1));
        let width = area.width / self.columns as u16;
        // As tall as there is room for, so that all are seen at once where they can be.
        let lines = found.len().div_ceil(self.columns) as u16;
        let height = (area.height.saturating_sub(2) / lines.max(1)).clamp(CELL.1, TALLEST);
        let rows = usize::from((area.height.saturating_sub(2) / height).max(1));
        let row = self.at / self.columns;
        self.first = self.first.min(row).max((row + 1).saturating_sub(rows));
        let seen: Vec<&EffectSpec> =
            found.iter().copied().skip(self.first * self.columns).take(rows * self.columns).collect();
        // On all lights, whatever the layer will have: so one sees best what it is like.
        let looks: Vec<Look> = seen.iter().map(|spec| Look::new(spec.name, vec![shown(spec, context)])).collect();
        let hung: Vec<&Look> = looks.iter().collect();
        self.gallery.hold(context.still);
        self.gallery.advance(&hung, context.show, context.rig, snapshot, (width - 2, height - 2));
        for (index, spec) in seen.iter().enumerate() {
            let (column, line) = ((index % self.columns) as u16, (index / self.columns) as u16);
            let cell = Rect::new(area.x + column * width, area.y + line * height, width - 1, height);
            let chosen = self.first * self.columns + index == self.at;
            let mut pen = Pen::new(Rect { height: 1, ..cell }, buffer);
            if chosen {
                pen.put(&format!(" {} ", spec.name), theme.filled());
            } else {
                pen.put(&format!(" {} ", spec.name), theme.text());
            }
            pen.put(&format!(" {}", spec.family), theme.faint_text());
            let picture = Rect { x: cell.x + 1, y: cell.y + 1, width: cell.width - 1, height: height - 2 };
            self.gallery.draw(index, picture, theme, buffer);
            if spec.params.iter().any(|p| matches!(p.kind, ParamKind::File { holds: Holds::Picture | Holds::Film })) {
                let words =
                    Rect { x: picture.x + 2, y: picture.y + picture.height / 2, width: picture.width - 2, height: 1 };
                Pen::new(words, buffer).put(" from a file ", theme.dim());
            }
        }
        let below = found.len().saturating_sub((self.first + rows) * self.columns);
        if below > 0 {
            let words = format!("↓ {below} more");
            let row = Rect { y: area.bottom().saturating_sub(2), height: 1, ..area };
            Pen::new(row, buffer).put(&words, theme.dim());
        }
        let foot = Rect { y: area.bottom() - 1, height: 1, ..area };
        let words = format!(" {}", found[self.at].help);
        Pen::new(foot, buffer).put(&cut_at_a_word(&words, usize::from(foot.width)), theme.bright());
    }
}
