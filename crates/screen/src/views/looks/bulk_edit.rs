//! One change in all chosen looks, or in all chosen layers.

use std::collections::BTreeSet;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_base::colour_words;
use splimo_document::making::{AREAS, LayerChange, area_named, change_all};
use splimo_engine::Snapshot;
use splimo_light::effect::ParamKind;
use splimo_show::{Blend, Look, Param, Repeat, Span};

use super::panel::{BulkChange, FORM_HINTS, LookPanel, PanelContext, PanelReply, PanelRequest};
use super::rows::spec_of;
use crate::kit::form::{Field, Form, Reply};
use crate::kit::theme::Theme;

/// The form of the change.
pub(super) struct BulkEdit {
    form: Form,
    title: String,
}

impl BulkEdit {
    /// `looks` are those that are chosen.
    pub(super) fn of(looks: &[&Look], context: &PanelContext<'_>) -> Box<Self> {
        let layers = looks.iter().flat_map(|look| &look.layers);
        let params = layers.filter_map(spec_of).flat_map(|spec| spec.params).map(|param| param.name);
        let names: BTreeSet<&str> = params.collect();
        let what = ["opacity", "blend", "span", "area", "repeat", "target", "palette"].into_iter().chain(names);
        let names = |all: Vec<&'static str>| all;
        let swatches: Vec<String> = context.show.palette.iter().map(|swatch| swatch.name.clone()).collect();
        let groups: Vec<String> = context
            .show
            .groups
            .iter()
            .map(|g| g.name.clone())
            .chain(context.show.fixtures.iter().map(|f| f.name.clone()))
            .collect();
        let first = |list: &[String]| list.first().cloned().unwrap_or_default();
        let form = Form::new(vec![
            Field::choice("what", "change", what, "opacity"),
            Field::text("value", "to", "100"),
            Field::choice("blend", "to", names(Blend::ALL.iter().map(|b| b.name()).collect()), "normal"),
            Field::choice("span", "to", names(Span::ALL.iter().map(|s| s.name()).collect()), "canvas"),
            Field::choice("area", "to", names(AREAS.iter().map(|(n, _)| *n).collect()), "whole"),
            Field::choice("repeat", "to", names(Repeat::ALL.iter().map(|r| r.name()).collect()), "alike"),
            Field::choice("target", "to", groups.clone(), &first(&groups)),
            Field::choice("old", "from", swatches.clone(), &first(&swatches)),
            Field::choice("new", "to", swatches.clone(), &first(&swatches)),
        ]);
        let title = match looks.len() {
            1 if context.layers.len() > 1 => format!("one change in {} layers", context.layers.len()),
            1 => "one change in all layers of the look".to_owned(),
            count => format!("one change in all layers of {count} looks"),
        };
        let mut panel = Self { form, title };
        panel.follow();
        Box::new(panel)
    }

    fn follow(&mut self) {
        let what = self.form.text("what");
        let own = ["blend", "span", "area", "repeat", "target"];
        for id in own {
            self.form.show(id, what == id);
        }
        self.form.show("old", what == "palette");
        self.form.show("new", what == "palette");
        self.form.show("value", what != "palette" && !own.contains(&what.as_str()));
        self.form.hint(
            "value",
            if what == "opacity" { "%" } else { "a number, a rate, a word, or colours with commas between" }.into(),
        );
    }

    fn change(&self, context: &PanelContext<'_>) -> Result<LayerChange, String> {
        let text = self.form.text("value");
        let word = |id: &str| self.form.text(id);
        Ok(match self.form.text("what").as_str() {
            "opacity" => {
                let percent =
                    text.trim_end_matches('%').trim().parse::<f32>().ok().filter(|p| (0.0..=100.0).contains(p));
                LayerChange::Opacity(percent.ok_or("opacity goes from 0 to 100; type a number")? / 100.0)
            }
            "blend" => {
                LayerChange::Blend(Blend::ALL.into_iter().find(|b| b.name() == word("blend")).unwrap_or_default())
            }
            "span" => LayerChange::Span(Span::ALL.into_iter().find(|s| s.name() == word("span")).unwrap_or_default()),
            "area" => LayerChange::Area(area_named(&word("area")).unwrap_or_default()),
            "repeat" => {
                LayerChange::Repeat(Repeat::ALL.into_iter().find(|r| r.name() == word("repeat")).unwrap_or_default())
            }
            "target" => LayerChange::Target(vec![word("target")]),
            "palette" => LayerChange::Swatch(word("old"), word("new")),
            name => {
                let colours = context.look.layers.iter().filter_map(spec_of).flat_map(|spec| spec.params);
                let is_colour = colours.filter(|p| p.name == name).any(|p| matches!(p.kind, ParamKind::Colours { .. }));
                let value = match text.parse::<f64>() {
                    Ok(number) => Param::Number(number),
                    Err(_) if is_colour || text.starts_with('#') => Param::List(colour_words::list(&text)),
                    Err(_) => Param::Text(text),
                };
                LayerChange::Param(name.to_owned(), value)
            }
        })
    }
}

fn changed(look: &Look, layers: &[usize], bulk_change: &BulkChange) -> Look {
    let mut look = look.clone();
    if let BulkChange::Change(change) = bulk_change {
        change_all(&mut look, (layers.len() > 1).then_some(layers), change);
    }
    look
}

impl LookPanel for BulkEdit {
    fn title(&self) -> String {
        self.title.clone()
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        FORM_HINTS.to_vec()
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        match self.form.key(key) {
            Reply::Pass => None,
            Reply::Quiet => PanelReply::stay(),
            Reply::Restore => PanelReply::close(PanelRequest::Drop),
            Reply::Changed => {
                self.follow();
                match self.change(context) {
                    Ok(change) => PanelReply::with(PanelRequest::Try(changed(
                        context.look,
                        context.layers,
                        &BulkChange::Change(change),
                    ))),
                    Err(_) => PanelReply::stay(),
                }
            }
            Reply::Keep => match self.change(context) {
                Ok(change) => PanelReply::close(PanelRequest::Each(changed, Box::new(BulkChange::Change(change)))),
                Err(why) => {
                    self.form.error = Some(why);
                    PanelReply::stay()
                }
            },
        }
    }

    fn draw(&mut self, _: &PanelContext<'_>, _: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.form.draw(theme, area, buffer);
    }
}
