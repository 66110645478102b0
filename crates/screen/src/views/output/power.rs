//! The supplies: what each gives, at most gave, and may give; and which fixtures take the most.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_show::command::EngineCommand;
use splimo_show::{Show, Supply};

use super::action::Ask;
use super::reply::PanelReply;
use crate::kit::bars::bar;
use crate::kit::form::{Field, Form, Reply};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::model::ViewContext;

/// The list of supplies, and the form of one.
#[derive(Default)]
pub(super) struct Power {
    at: usize,
    /// The one that is changed, if it is no new one, and its form.
    form: Option<(Option<usize>, Form)>,
}

impl Power {
    pub(super) fn types(&self) -> bool {
        self.form.is_some()
    }

    pub(super) fn hints(&self) -> Vec<(&'static str, &'static str)> {
        match self.form {
            Some(_) => {
                vec![("↑ ↓", "field"), ("← →", "nudge"), ("type", "replaces"), ("Enter", "keep"), ("Esc", "restore")]
            }
            None => vec![
                ("↑ ↓", "supply"),
                ("n", "new"),
                ("e", "change"),
                ("r", "forget peaks"),
                ("Del", "take out"),
                ("Esc", "close"),
            ],
        }
    }

    pub(super) fn refused(&mut self, why: &str) {
        if let Some((_, form)) = &mut self.form {
            form.error = Some(why.to_owned());
        }
    }

    fn open(&mut self, index: Option<usize>, supply: &Supply) {
        let mut form = Form::new(vec![
            Field::text("name", "name", &supply.name),
            Field::text("feeds", "feeds", supply.feeds.join(", ")),
            Field::text("limit", "gives at most", supply.limit.map_or_else(String::new, |limit| limit.to_string())),
        ]);
        form.hint("feeds", "groups and fixtures, with commas".into());
        form.hint("limit", "amperes; the lights are dimmed to stay within, without it never".into());
        self.form = Some((index, form));
    }

    pub(super) fn paste(&mut self, text: &str, _: &Show) {
        if let Some((_, form)) = &mut self.form {
            form.paste(text);
        }
    }

    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Option<PanelReply> {
        if let Some((index, form)) = &mut self.form {
            return match form.key(key) {
                Reply::Pass => None,
                Reply::Restore => {
                    self.form = None;
                    PanelReply::stay(Vec::new())
                }
                Reply::Changed | Reply::Quiet => PanelReply::stay(Vec::new()),
                Reply::Keep => match edit_of(*index, form, show) {
                    Ok(edit) => {
                        self.form = None;
                        PanelReply::stay(vec![Ask::edit(edit)])
                    }
                    Err(why) => {
                        form.error = Some(why);
                        PanelReply::stay(Vec::new())
                    }
                },
            };
        }
        self.at = self.at.min(show.supplies.len().saturating_sub(1));
        match (key.code, show.supplies.get(self.at)) {
            (KeyCode::Esc, _) => return PanelReply::close(Vec::new()),
            (KeyCode::Up, _) => self.at = self.at.saturating_sub(1),
            (KeyCode::Down, _) => self.at += 1,
            (KeyCode::Char('n'), _) => {
                let feeds = show.groups.first().map(|g| g.name.clone()).into_iter().collect();
                let name = format!("Supply {}", show.supplies.len() + 1);
                self.open(None, &Supply { name, feeds, limit: None });
            }
            (KeyCode::Char('e'), Some(supply)) => self.open(Some(self.at), supply),
            (KeyCode::Char('r'), _) => return PanelReply::stay(vec![Ask::engine(EngineCommand::ResetPeaks)]),
            (KeyCode::Delete, Some(_)) => return PanelReply::stay(vec![Ask::edit(Edit::RemoveSupply(self.at))]),
            _ => return None,
        }
        PanelReply::stay(Vec::new())
    }

    pub(super) fn draw(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        if let Some((_, form)) = &mut self.form {
            form.draw(theme, area, buffer);
            return;
        }
        let supplies = &context.show.supplies;
        self.at = self.at.min(supplies.len().saturating_sub(1));
        let mut y = area.y;
        let row = |y: &mut u16| {
            let row = Rect { y: *y, height: u16::from(*y < area.bottom()), ..area };
            *y += 1;
            row
        };
        if supplies.is_empty() {
            let words = "No supplies yet: n makes one. Without a limit nothing is dimmed for its sake.";
            Pen::new(row(&mut y), buffer).put(words, theme.text());
        } else {
            let heading = "  supply                  now A    peak A    limit A";
            Pen::new(row(&mut y), buffer).put(heading, theme.dim());
        }
        for (index, supply) in supplies.iter().enumerate() {
            let Some(state) = context.snapshot.supplies.get(index) else { continue };
            let chosen = index == self.at;
            let style = if chosen { theme.bright() } else { theme.text() };
            let mut pen = Pen::new(row(&mut y), buffer);
            let name = shortened(&supply.name, 20);
            pen.put(if chosen { "▸ " } else { "  " }, theme.bright());
            pen.put(&format!("{name:<20} {:>8.2}  {:>8.2}  ", state.load.now, state.load.peak), style);
            match supply.limit {
                None => drop(pen.put("        -", theme.dim())),
                Some(limit) => {
                    pen.put(&format!("{limit:>9.2}  "), style);
                    pen.put(&format!("▕{}▏", bar(state.load.now / limit, 12)), theme.text());
                    if state.gain < 0.995 {
                        let words = format!("  dimmed to {:.0} %", state.gain * 100.0);
                        pen.put(&words, theme.armed());
                    }
                }
            }
        }
        y += 1;
        let mut most: Vec<usize> = (0..context.loads.len()).collect();
        most.sort_by(|a, b| context.loads[*b].now.total_cmp(&context.loads[*a].now));
        let all: f32 = context.loads.iter().map(|load| load.now).sum();
        Pen::new(row(&mut y), buffer)
            .put(&format!("  all fixtures {all:.2} A; those that take the most:"), theme.dim());
        for index in most {
            let Some(fixture) = context.show.fixtures.get(index).filter(|_| y < area.bottom()) else { break };
            let load = context.loads[index];
            let name = shortened(&fixture.name, 20);
            Pen::new(row(&mut y), buffer)
                .put(&format!("  {name:<20} {:>8.2}  {:>8.2}", load.now, load.peak), theme.text());
        }
    }
}

fn edit_of(index: Option<usize>, form: &Form, show: &Show) -> Result<Edit, String> {
    let limit = form.text("limit");
    let limit = match limit.as_str() {
        "" => None,
        text => Some(
            text.parse::<f32>().map_err(|_| format!("\"{text}\" is no number of amperes; write one, or nothing"))?,
        ),
    };
    let feeds = form.text("feeds");
    let feeds = feeds.split(',').map(str::trim).filter(|name| !name.is_empty()).map(str::to_owned).collect();
    let supply = Supply { name: form.text("name"), feeds, limit };
    let edit = match index {
        None => Edit::AddSupply(supply),
        Some(index) => Edit::PutSupply(index, supply),
    };
    edit.apply(show).map(|_| edit).map_err(|refused| refused.to_string())
}
