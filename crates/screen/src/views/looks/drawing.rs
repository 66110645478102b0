//! The drawing of the view.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use super::state::LooksView;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::folded;
use crate::model::ViewContext;

impl LooksView {
    pub(super) fn draw_all(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.rig = context.rig.clone();
        self.snapshot.clone_from(context.snapshot);
        let (list, middle, stage) = parts(area);
        let wide = self.panel.as_ref().is_some_and(|panel| panel.wide());
        if wide {
            let both = Rect { width: middle.right() - list.x, ..list };
            self.draw_panel(theme, both, buffer);
        } else {
            self.draw_looks(context, theme, list, buffer);
            let count = self.look().map_or(0, |look| look.layers.len()) as u16;
            let height = (count + 2).clamp(3, (area.height / 3).max(4)).min(middle.height);
            self.draw_layers(theme, Rect { height, ..middle }, buffer);
            let below = Rect { y: middle.y + height, height: middle.height - height, ..middle };
            if self.panel.is_some() {
                self.draw_panel(theme, below, buffer);
            } else {
                self.draw_lines(theme, below, buffer);
            }
        }
        self.draw_stage(context, theme, stage, buffer);
    }

    fn draw_panel(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let Some(mut panel) = self.panel.take() else { return };
        let title = Rect { x: area.x + 1, width: area.width.saturating_sub(2), height: 1, ..area };
        let lines = folded(&panel.title(), usize::from(title.width.max(10)));
        for (line, words) in lines.iter().enumerate().take(4) {
            Pen::new(Rect { y: title.y + line as u16, ..title }, buffer).put(words, theme.dim());
        }
        let above = lines.len().min(4) as u16 + 1;
        let inside = Rect { y: area.y + above, height: area.height.saturating_sub(above), ..title };
        self.in_context(|context| panel.draw(context, &self.snapshot, theme, inside, buffer));
        self.panel = Some(panel);
    }
}

/// The list of looks, what is edited, and the stage.
fn parts(area: Rect) -> (Rect, Rect, Rect) {
    let (list, middle) = match area.width {
        140.. => (27, 59),
        100.. => (27, 48),
        _ => (17, 36),
    };
    let stage = area.width.saturating_sub(list + middle);
    (
        Rect { width: list, ..area },
        Rect { x: area.x + list, width: middle, ..area },
        Rect { x: area.x + list + middle, width: stage.saturating_sub(1), ..area },
    )
}
