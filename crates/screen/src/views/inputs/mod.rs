//! The view Inputs: what is heard on one page; inputs, bindings and what came in on the other.

mod action;
mod bands;
mod choice;
mod drawing;
mod forms;
mod hearing;
mod part;
#[cfg(test)]
mod tests;

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_document::edit::Edit;
use splimo_document::{Command, DocumentCommand};
use splimo_link::inputs::InputsStatus;
use splimo_link::subscription::Subscription;
use splimo_show::Show;
use splimo_show::command::SessionCommand;

use action::{Ask, InputsAction, KEYS};
use bands::OpenBands;
use forms::{OpenForm, Reply};
use hearing::HearingPage;
use part::Part;

use crate::kit::list::List;
use crate::kit::stage_map::enough_of;
use crate::kit::theme::Theme;
use crate::model::{Model, ViewContext};
use crate::view::{Handled, Hints, KeyBinding, Learn, Memory, Modality, Targets, View, ViewSpec};

/// The state of the view.
#[derive(Default)]
pub(crate) struct InputsView {
    hearing: HearingPage,
    part: Part,
    inputs: List,
    bindings: List,
    values: List,
    programs: List,
    events: List,
    form: Option<OpenForm>,
    /// The bands of a choice by value, while they are changed.
    bands: Option<OpenBands>,
    /// The show as it is edited, and the inputs as they are.
    show: Option<Arc<Show>>,
    status: InputsStatus,
    said: Option<String>,
    /// The binding that is to be taken out, once it is asked for again.
    doomed: Option<(Part, usize)>,
}

impl View for InputsView {
    type Action = InputsAction;

    const SPEC: ViewSpec = ViewSpec {
        name: "inputs",
        function_key: 7,
        digit: '6',
        help: &[
            "What is heard: how loud, which tempo, bar, part, key and notes, how sure each is, and how it went.",
            "The clock follows the music while it is sure of it, and holds its tempo where it is not. { and } halve and",
            "double it, Ctrl-← → moves the beat, / and | set bar and phrase, F8 says which part it is, \\ gives all back",
            "to the music. Light is made early by the milliseconds that lamps and the way to them take.",
            "c flashes all lights and clicks each second: turn ← → until they are one. b, a and d are for more bands,",
            "slower to rise, slower to fall; B, A and D for fewer and faster.",
            "Tab goes on to the inputs (x on and off, a adds, e changes, m brings in the bindings of its model, Del takes out), to the",
            "bindings (a binds by hand, v has bands of one channel pick looks, e changes either, Del), to the values that leave for",
            "others, to programs and sounds (x lets this machine start them), and to what came in last (a binds it).",
            "Ctrl-K learns: on a pad, a tier, a look, a parameter or a line of the palette press Ctrl-K, then move the control. What comes in is never asked to save, edit or end the show.",
        ],
        other_keys: &[],
        shift_arrows: false,
    };

    const KEYS: &'static [KeyBinding<InputsAction>] = KEYS;

    fn sync(&mut self, model: &Model) {
        self.hearing.listen(&model.snapshot.hearing);
        self.show = Some(model.document.shown().clone());
        self.status.clone_from(&model.inputs);
    }

    fn key(&mut self, key: KeyEvent) -> Handled<InputsAction> {
        if let Some(handled) = self.key_of_form(key) {
            return handled;
        }
        if self.part == Part::Hearing || key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) {
            return Handled::Not;
        }
        self.key_of_list(key)
    }

    fn mouse(&mut self, mouse: MouseEvent) -> Option<Vec<Ask>> {
        if self.part == Part::Hearing
            || self.form.is_some()
            || self.bands.is_some()
            || mouse.kind != MouseEventKind::Down(MouseButton::Left)
        {
            return None;
        }
        let at = Position::new(mouse.column, mouse.row);
        for (part, list) in
            [(Part::Inputs, &mut self.inputs), (Part::Bindings, &mut self.bindings), (Part::Events, &mut self.events)]
        {
            if list.click(at) {
                self.part = part;
            }
        }
        Some(Vec::new())
    }

    fn wheel(&self, by: i32) -> Ask {
        Ask::nudge("gain", by)
    }

    fn paste(&mut self, text: &str) -> Vec<Ask> {
        if let Some(open) = &mut self.form {
            open.form.paste(text);
            open.follow();
        }
        if let Some(open) = &mut self.bands {
            open.paste(text);
        }
        Vec::new()
    }

    fn act(&mut self, action: &InputsAction) -> Vec<Ask> {
        match action {
            InputsAction::NextList => self.part = self.part.next(1),
            InputsAction::AddInput => {
                self.part = Part::Inputs;
                self.form = self.show.as_ref().map(|show| OpenForm::input(None, show));
            }
            InputsAction::AddBinding => {
                self.part = Part::Bindings;
                self.form = self.show.as_ref().map(|show| OpenForm::binding(None, show, &self.status));
            }
            InputsAction::ChooseByValue => {
                self.part = Part::Bindings;
                self.form = self.show.as_ref().map(|show| OpenForm::choice(show, &self.status));
            }
        }
        Vec::new()
    }

    fn draw(
        &mut self,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        _targets: &mut Targets<InputsAction>,
    ) {
        match self.part {
            Part::Hearing => self.hearing.draw(context, theme, area, buffer),
            Part::Inputs | Part::Bindings | Part::ValuesOut | Part::Programs | Part::Events => {
                self.draw_lists(context, theme, area, buffer);
            }
        }
        if let Some(open) = &mut self.form {
            open.draw(theme, area, buffer);
        }
        if let Some(open) = &mut self.bands {
            let value = bands::value_of(context, open.binding());
            open.draw(value, theme, area, buffer);
        }
    }

    fn hints(&self) -> Option<Hints> {
        if self.form.is_some() || self.bands.as_ref().is_some_and(OpenBands::types) {
            return Some(vec![
                ("↑ ↓", "field"),
                ("← →", "change"),
                ("type", "replaces"),
                ("Enter", "keeps"),
                ("Esc", "not"),
            ]);
        }
        if self.bands.is_some() {
            return Some(vec![
                ("↑ ↓", "band"),
                ("← →", "first value"),
                ("e", "what it asks for"),
                ("a", "split"),
                ("s", "share out"),
                ("Del", "take out"),
                ("c", "channel"),
                ("Enter", "keeps"),
                ("Esc", "not"),
            ]);
        }
        let own: &[(&'static str, &'static str)] = match self.part {
            Part::Hearing => return None,
            Part::Inputs => {
                &[("x", "on, off"), ("a", "add"), ("e", "change"), ("m", "bindings of its model"), ("Del", "take out")]
            }
            Part::Bindings => &[
                ("Ctrl-K", "learn again"),
                ("a", "bind"),
                ("v", "looks by value"),
                ("e", "change"),
                ("Del", "take out"),
            ],
            Part::ValuesOut => &[("a", "add"), ("e", "change"), ("Del", "take out")],
            Part::Programs => &[
                ("Enter", "start, end"),
                ("x", "allow here, forbid"),
                ("a", "add"),
                ("e", "change"),
                ("Del", "take out"),
            ],
            Part::Events => &[("a", "bind it"), ("v", "looks by value")],
        };
        let mut hints = vec![("Tab", "next"), ("↑ ↓", "choose")];
        hints.extend_from_slice(own);
        hints.extend([("`", "black out"), ("F12", "panic"), ("F1", "help")]);
        Some(hints)
    }

    fn modality(&self) -> Modality {
        if self.form.is_some() || self.bands.is_some() { Modality::Typing } else { Modality::Free }
    }

    fn leave(&mut self) -> Vec<Ask> {
        (self.form, self.bands) = (None, None);
        Vec::new()
    }

    fn refused(&mut self, why: &str) {
        if let Some(open) = &mut self.form {
            open.form.error = Some(why.to_owned());
        }
        if let Some(open) = &mut self.bands {
            open.refuse(why);
        }
    }

    fn said(&mut self) -> Option<String> {
        self.said.take()
    }

    fn learn(&mut self) -> Learn {
        let Some(show) = &self.show else { return Learn::Nothing("there is no show yet") };
        match self.part {
            Part::Bindings => match show.bindings.get(self.bindings.chosen).and_then(|binding| binding.does.first()) {
                Some(command) => Learn::Target(command.to_string()),
                None => Learn::Nothing("choose a binding that asks for one command"),
            },
            Part::Programs => match show.programs.get(self.programs.chosen) {
                Some(program) => Learn::Target(format!("run {}", program.name)),
                None => Learn::Nothing("there is no program to be started; a adds one"),
            },
            Part::Hearing | Part::Inputs | Part::ValuesOut | Part::Events => Learn::Nothing(
                "Ctrl-K learns what a pad, a tier, a look or a line of the palette (Ctrl-P) does; a binds by hand",
            ),
        }
    }

    fn subscribe(&self, subscription: &mut Subscription) {
        if self.part == Part::Hearing {
            subscription.light = Some(enough_of(self.hearing.lights));
        }
    }

    fn remember(&self, memory: &mut Memory) {
        memory.insert("inputs".into(), self.part.name().to_owned());
    }

    fn recall(&mut self, memory: &Memory) {
        self.part = memory.get("inputs").and_then(|name| Part::named(name)).unwrap_or(self.part);
    }
}

impl InputsView {
    fn key_of_form(&mut self, key: KeyEvent) -> Option<Handled<InputsAction>> {
        let show = self.show.as_ref()?;
        if let Some(open) = &mut self.bands {
            return match open.key(key, show) {
                bands::Reply::Stay => Some(Handled::Done(Vec::new())),
                bands::Reply::Pass => None,
                bands::Reply::Close => {
                    self.bands = None;
                    Some(Handled::Done(Vec::new()))
                }
                bands::Reply::Keep(edit) => {
                    self.bands = None;
                    Some(Handled::Done(vec![Ask::Command(DocumentCommand::Edit(*edit).into())]))
                }
            };
        }
        let open = self.form.as_mut()?;
        match open.key(key, show) {
            Reply::Stay => Some(Handled::Done(Vec::new())),
            Reply::Close => {
                self.form = None;
                Some(Handled::Done(Vec::new()))
            }
            Reply::Keep(edit) => {
                self.form = None;
                Some(Handled::Done(vec![Ask::Command(DocumentCommand::Edit(*edit).into())]))
            }
            Reply::Pass => None,
        }
    }

    fn list(&mut self) -> &mut List {
        match self.part {
            Part::Hearing | Part::Inputs => &mut self.inputs,
            Part::Bindings => &mut self.bindings,
            Part::ValuesOut => &mut self.values,
            Part::Programs => &mut self.programs,
            Part::Events => &mut self.events,
        }
    }

    fn key_of_list(&mut self, key: KeyEvent) -> Handled<InputsAction> {
        let Some(show) = self.show.clone() else { return Handled::Not };
        let doomed = self.doomed.take();
        let mut asks = Vec::new();
        match key.code {
            KeyCode::Tab => self.part = self.part.next(1),
            KeyCode::BackTab => self.part = self.part.next(-1),
            KeyCode::Up => self.list().choose_by(-1),
            KeyCode::Down => self.list().choose_by(1),
            KeyCode::PageUp => self.list().choose_by(-10),
            KeyCode::PageDown => self.list().choose_by(10),
            KeyCode::Char('x') if self.part == Part::Inputs => asks.extend(self.switch(&show)),
            KeyCode::Char('a') if self.part == Part::Inputs => self.form = Some(OpenForm::input(None, &show)),
            KeyCode::Char('a') if self.part == Part::ValuesOut => self.form = Some(OpenForm::value_out(None, &show)),
            KeyCode::Char('a') if self.part == Part::Programs => self.form = Some(OpenForm::program(None, &show)),
            KeyCode::Char('x') if self.part == Part::Programs => asks.push(self.allow()),
            KeyCode::Enter if self.part == Part::Programs => asks.extend(self.start_or_end(&show)),
            KeyCode::Char('m') if self.part == Part::Inputs => asks.extend(self.bind_model(&show)),
            KeyCode::Char('a') => self.bind(&show),
            KeyCode::Char('v') => self.form = Some(self.choice(&show)),
            KeyCode::Char('e') => self.change(&show),
            KeyCode::Delete | KeyCode::Backspace => asks.extend(self.take_out(&show, doomed)),
            // Left and right mean nothing here, and nothing unseen is moved by them.
            KeyCode::Left | KeyCode::Right => {}
            KeyCode::Char(letter) if KEYS.iter().any(|binding| binding.code == KeyCode::Char(letter)) => {
                self.said = Some(format!("{letter} is for the page of what is heard: Tab goes there"));
            }
            _ => return Handled::Not,
        }
        Handled::Done(asks)
    }

    fn switch(&mut self, show: &Show) -> Option<Ask> {
        match show.inputs.get(self.inputs.chosen) {
            Some(input) => Some(Ask::Command(Command::from(SessionCommand::SwitchInput(input.name.clone())))),
            None => {
                self.said = Some("there is no input of the show here to be switched; a adds one".to_owned());
                None
            }
        }
    }

    fn bind_model(&mut self, show: &Show) -> Option<Ask> {
        let input = show.inputs.get(self.inputs.chosen)?;
        Some(Ask::Command(Command::from(SessionCommand::BindModel(input.name.clone()))))
    }

    /// Lets this machine start what the show names, or not any more.
    fn allow(&self) -> Ask {
        let word = if self.status.allowed == "off" { "on" } else { "off" };
        Ask::Command(Command::from(SessionCommand::AllowPrograms(word.to_owned())))
    }

    /// Starts the chosen program, or ends it.
    fn start_or_end(&mut self, show: &Show) -> Option<Ask> {
        let name = show.programs.get(self.programs.chosen)?.name.clone();
        let command = match self.status.running.contains(&name) {
            true => SessionCommand::EndRun(name),
            false => SessionCommand::Run(name),
        };
        Some(Ask::Command(command.into()))
    }

    /// Opens the form of a binding: of what came in last, or of a new one.
    fn bind(&mut self, show: &Show) {
        let event = (self.part == Part::Events).then(|| self.event()).flatten();
        self.form = Some(match event {
            Some((source, event)) => OpenForm::binding_of(&source, &event, show, &self.status),
            None => OpenForm::binding(None, show, &self.status),
        });
    }

    fn choice(&self, show: &Show) -> OpenForm {
        match (self.part == Part::Events).then(|| self.event()).flatten() {
            Some((source, event)) => OpenForm::choice_of(&source, &event, show, &self.status),
            None => OpenForm::choice(show, &self.status),
        }
    }

    /// The chosen event: its input, and what it is.
    fn event(&self) -> Option<(String, String)> {
        let last = self.status.events.len().checked_sub(1)?;
        let line = self.status.events.get(last.checked_sub(self.events.chosen)?)?;
        Some((line.source.clone(), line.event.clone()))
    }

    fn change(&mut self, show: &Show) {
        match self.part {
            Part::Inputs if self.inputs.chosen < show.inputs.len() => {
                self.form = Some(OpenForm::input(Some(self.inputs.chosen), show));
            }
            Part::Inputs => self.said = Some("that one is of the command line; a adds one to the show".to_owned()),
            Part::Bindings if self.bindings.chosen < show.bindings.len() => {
                let (place, binding) = (self.bindings.chosen, &show.bindings[self.bindings.chosen]);
                match binding.bands.is_empty() {
                    true => self.form = Some(OpenForm::binding(Some(place), show, &self.status)),
                    false => self.bands = Some(OpenBands::new(place, binding.clone())),
                }
            }
            Part::ValuesOut if self.values.chosen < show.values_out.len() => {
                self.form = Some(OpenForm::value_out(Some(self.values.chosen), show));
            }
            Part::Programs if self.programs.chosen < show.programs.len() => {
                self.form = Some(OpenForm::program(Some(self.programs.chosen), show));
            }
            Part::Hearing | Part::Bindings | Part::ValuesOut | Part::Programs | Part::Events => {}
        }
    }

    /// Takes out what is chosen: a binding at once, an input with bindings when it is asked for again.
    fn take_out(&mut self, show: &Show, doomed: Option<(Part, usize)>) -> Option<Ask> {
        let edit = |edit: Edit| Some(Ask::Command(DocumentCommand::Edit(edit).into()));
        match self.part {
            Part::Inputs => {
                let (place, input) = (self.inputs.chosen, show.inputs.get(self.inputs.chosen)?);
                let bound = show.bindings.iter().filter(|binding| binding.source == input.name).count();
                if bound > 0 && doomed != Some((Part::Inputs, place)) {
                    self.doomed = Some((Part::Inputs, place));
                    let many = if bound == 1 { "a binding goes".to_owned() } else { format!("{bound} bindings go") };
                    self.said = Some(format!("{many} with {}; Del again takes it out", input.name));
                    return None;
                }
                edit(Edit::RemoveInput(place))
            }
            Part::Bindings if self.bindings.chosen < show.bindings.len() => {
                edit(Edit::RemoveBindings(vec![self.bindings.chosen]))
            }
            Part::ValuesOut if self.values.chosen < show.values_out.len() => {
                let mut values = show.values_out.clone();
                values.remove(self.values.chosen);
                edit(Edit::PutValuesOut(values))
            }
            Part::Programs if self.programs.chosen < show.programs.len() => {
                edit(Edit::RemoveProgram(self.programs.chosen))
            }
            Part::Hearing | Part::Bindings | Part::ValuesOut | Part::Programs | Part::Events => None,
        }
    }
}
