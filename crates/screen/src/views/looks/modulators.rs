//! The form of a modulator. Only what the chosen source needs is shown.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_base::formula::{FUNCTIONS, NAMES};
use splimo_engine::Snapshot;
use splimo_light::modulate::{self, Target};
use splimo_show::{CountEvent, Layer, Look, Modulator, ModulatorFields, ModulatorKind};

use super::panel::{FORM_HINTS, LookPanel, PanelContext, PanelReply, PanelRequest};
use super::rows::{nudged_rate, plain, spec_of};
use crate::kit::form::{Field, Form, Reply};
use crate::kit::theme::Theme;

/// The word for no modulator at all.
const NOTHING: &str = "nothing";

/// The form of a modulator.
pub(super) struct ModulatorPanel {
    /// The place of the modulator in the layer, if it is no new one.
    index: Option<usize>,
    form: Form,
}

impl ModulatorPanel {
    /// The form for what moves `name`: the modulator that is there, or a new one.
    pub(super) fn of(layer: &Layer, index: Option<usize>, name: &str) -> Box<Self> {
        let spec = spec_of(layer);
        let fair = spec.and_then(|spec| Target::named(name, spec)).map_or(10.0, Target::fair_depth);
        let known = index.and_then(|index| layer.modulators.get(index)).cloned();
        let modulator = known.unwrap_or_else(|| Modulator::new(name, ModulatorKind::Sine, fair));
        let modulator = ModulatorFields::from(modulator);
        let names = spec.map(Target::names).unwrap_or_default();
        let words = || std::iter::once(NOTHING).chain(ModulatorKind::ALL.iter().map(|s| s.name()));
        let events = || CountEvent::ALL.iter().map(|e| e.name());
        let number = |id, label, value: f32, from, to, step| Field::number(id, label, f64::from(value), from, to, step);
        let steps: Vec<String> = modulator.steps.iter().map(|s| plain(f64::from(*s))).collect();
        let form = Form::new(vec![
            Field::choice("source", "moved by", words(), modulator.source.name()),
            number("depth", "depth", modulator.depth, -10_000.0, 10_000.0, if fair < 3.0 { 0.1 } else { 1.0 }),
            Field::text("rate", "rate", modulator.rate.clone()),
            Field::choice("param", "moves", names, &modulator.param),
            number("number", "which one", modulator.number as f32, 1.0, 24.0, 1.0),
            Field::text("steps", "steps", steps.join(" ")),
            Field::text("formula", "formula", modulator.formula.clone()),
            Field::choice("forward", "forward on", events(), modulator.forward.name()),
            Field::choice("backward", "backward on", events(), modulator.backward.name()),
            Field::choice("reset", "begins anew on", events(), modulator.reset.name()),
            number("count", "steps around", modulator.count as f32, 1.0, 10_000.0, 1.0),
            number("offset", "offset", modulator.offset, -10_000.0, 10_000.0, if fair < 3.0 { 0.1 } else { 1.0 }),
            number("phase", "begins at", modulator.phase, -64.0, 64.0, 0.05),
            number("curve", "curve", modulator.curve, 0.05, 20.0, 0.1),
            number("smooth", "smoothing", modulator.smooth, 0.0, 60.0, 0.05),
        ]);
        let mut panel = Self { index, form };
        panel.form.hint("steps", "percent of the depth, one after the other".into());
        panel.form.hint("curve", "above 1 it stays low and shoots up".into());
        panel.form.hint("phase", "turns".into());
        panel.form.hint("smooth", "s".into());
        panel.follow();
        Box::new(panel)
    }

    /// Shows what the source needs.
    fn follow(&mut self) {
        let source = ModulatorKind::named(&self.form.text("source"));
        let shown = |id: &str| match (id, source) {
            ("source", _) => true,
            (_, None) => false,
            ("rate", Some(source)) => takes_rate(source),
            ("phase", Some(source)) => {
                takes_rate(source) && !matches!(source, ModulatorKind::Onset | ModulatorKind::Beat)
            }
            ("number", Some(source)) => matches!(source, ModulatorKind::Band | ModulatorKind::Control),
            ("steps", Some(source)) => source == ModulatorKind::Steps,
            ("formula", Some(source)) => source == ModulatorKind::Formula,
            ("forward" | "backward" | "reset" | "count", Some(source)) => source == ModulatorKind::Counter,
            _ => true,
        };
        let ids: Vec<&'static str> = self.form.fields.iter().map(|field| field.id).collect();
        for id in ids {
            self.form.show(id, shown(id));
        }
        let word = if source == Some(ModulatorKind::Control) { "control 1 to 64" } else { "band 1 (low) to 24 (high)" };
        self.form.hint("number", word.into());
    }

    fn modulator(&self) -> Result<Option<Modulator>, String> {
        let form = &self.form;
        let event = |id| CountEvent::named(&form.text(id)).unwrap_or_default();
        let steps = form.text("steps");
        let words = steps.split([' ', ',']).filter(|word| !word.is_empty());
        let number = |word: &str| word.parse().map_err(|_| format!("steps: \"{word}\" is not a number"));
        let steps = words.map(number).collect::<Result<_, _>>()?;
        let Some(source) = ModulatorKind::named(&form.text("source")) else { return Ok(None) };
        let fields = ModulatorFields {
            param: form.text("param"),
            source,
            depth: form.number("depth") as f32,
            offset: form.number("offset") as f32,
            rate: form.text("rate"),
            phase: form.number("phase") as f32,
            curve: form.number("curve") as f32,
            smooth: form.number("smooth") as f32,
            steps,
            number: form.whole("number"),
            formula: form.text("formula"),
            forward: event("forward"),
            backward: event("backward"),
            reset: event("reset"),
            count: form.whole("count"),
        };
        Ok(Some(fields.into()))
    }

    /// The look with the modulator as the form says; why not, where it cannot be.
    fn look(&self, context: &PanelContext<'_>) -> Result<Look, String> {
        let modulator = self.modulator()?;
        if let (Some(modulator), Some(spec)) = (&modulator, context.chosen().and_then(spec_of)) {
            modulate::check(modulator, spec).map_err(|bad| format!("{}; {}", bad.message, bad.mend))?;
        }
        Ok(context.with_layer(|layer| match (self.index.filter(|i| *i < layer.modulators.len()), modulator) {
            (Some(index), Some(modulator)) => layer.modulators[index] = modulator,
            (Some(index), None) => drop(layer.modulators.remove(index)),
            (None, Some(modulator)) => layer.modulators.push(modulator),
            (None, None) => {}
        }))
    }

    /// The look as it was when the form was opened, to which the form is applied anew each time.
    fn tried(&mut self, context: &PanelContext<'_>) -> PanelRequest {
        match self.look(context) {
            Ok(look) => {
                self.form.error = None;
                PanelRequest::Try(look)
            }
            Err(why) => {
                self.form.error = Some(why);
                PanelRequest::Nothing
            }
        }
    }
}

impl LookPanel for ModulatorPanel {
    fn title(&self) -> String {
        match self.form.text("source").as_str() {
            "formula" => {
                let names = NAMES.iter().map(|(name, _)| *name).chain(FUNCTIONS.iter().map(|f| f.name));
                format!("a formula may hold {}", names.collect::<Vec<_>>().join(" "))
            }
            _ => format!("what moves {}", self.form.text("param")),
        }
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        FORM_HINTS.to_vec()
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        let plain = !key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT);
        if let (true, "rate", KeyCode::Left | KeyCode::Right) = (plain, self.form.current(), key.code) {
            let next = nudged_rate(&self.form.text("rate"), if key.code == KeyCode::Right { 1 } else { -1 });
            self.form.set_text("rate", next);
            return PanelReply::with(self.tried(context));
        }
        match self.form.key(key) {
            Reply::Pass => None,
            Reply::Quiet => PanelReply::stay(),
            Reply::Restore => PanelReply::close(PanelRequest::Drop),
            Reply::Keep => match self.look(context) {
                Ok(look) => PanelReply::close(PanelRequest::Keep(look)),
                Err(why) => {
                    self.form.error = Some(why);
                    PanelReply::stay()
                }
            },
            Reply::Changed => {
                self.follow();
                PanelReply::with(self.tried(context))
            }
        }
    }

    fn paste(&mut self, text: &str, context: &PanelContext<'_>) -> PanelRequest {
        if self.form.paste(text) { self.tried(context) } else { PanelRequest::Nothing }
    }

    fn draw(&mut self, _: &PanelContext<'_>, _: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.form.draw(theme, area, buffer);
    }
}

/// True if a source of this kind takes its time.
fn takes_rate(kind: ModulatorKind) -> bool {
    let fields = ModulatorFields { source: kind, ..ModulatorFields::default() };
    Modulator::from(fields).source.rate().is_some()
}
