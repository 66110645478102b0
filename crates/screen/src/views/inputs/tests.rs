//! The page of inputs, as text, and its keys.

use ratatui::crossterm::event::{KeyCode, KeyEvent};
use splimo_document::edit::Edit;
use splimo_document::{Command, DocumentCommand};
use splimo_show::command::SessionCommand;
use splimo_show::{Answer, Binding, Input, InputKind, Look, Program, Show};

use super::*;

/// A view of a show with two inputs and a binding.
fn view() -> InputsView {
    let mut show = Show::empty("Inputs");
    show.looks = ["Tide", "Gale", "Foam"].map(|name| Look::new(name, Vec::new())).to_vec();
    show.give_banks();
    show.inputs = vec![Input::new("box", InputKind::Midi, "/dev/midi1"), Input::new("desk", InputKind::Sacn, "101")];
    let event = "note 36".parse().expect("an event");
    show.bindings = vec![Binding { answer: Answer::Held, ..Binding::new("box", event, "hold-pad 1") }];
    InputsView { show: Some(Arc::new(show)), part: Part::Inputs, ..InputsView::default() }
}

fn press(view: &mut InputsView, keys: &[KeyCode]) -> Vec<Command> {
    let mut asked = Vec::new();
    for key in keys {
        if let Handled::Done(asks) = view.key(KeyEvent::from(*key)) {
            asked.extend(
                asks.into_iter().filter_map(|ask| if let Ask::Command(command) = ask { Some(command) } else { None }),
            );
        }
    }
    asked
}

fn typed(text: &str) -> Vec<KeyCode> {
    text.chars().map(KeyCode::Char).collect()
}

/// Draws once, so that lists know how long they are.
fn lay_out(view: &mut InputsView) {
    let area = ratatui::layout::Rect::new(0, 0, 100, 20);
    let show = view.show.clone().expect("a show");
    view.inputs.lay_out(show.inputs.len(), area);
    view.bindings.lay_out(show.bindings.len(), area);
}

#[test]
fn an_input_is_switched_added_and_taken_out_when_asked_twice() {
    let mut view = view();
    lay_out(&mut view);
    let switched = press(&mut view, &[KeyCode::Down, KeyCode::Char('x')]);
    assert_eq!(switched, [SessionCommand::SwitchInput("desk".into()).into()]);
    assert!(press(&mut view, &[KeyCode::Up, KeyCode::Delete]).is_empty(), "a binding would go with it");
    assert!(view.said().is_some_and(|said| said.contains("a binding goes with box")));
    assert_eq!(press(&mut view, &[KeyCode::Delete]), [DocumentCommand::Edit(Edit::RemoveInput(0)).into()]);
    // Name, kind and address are typed one after the other.
    let mut keys = vec![KeyCode::Char('a')];
    keys.extend(typed("strings"));
    keys.push(KeyCode::Down);
    keys.extend(typed("OSC"));
    keys.push(KeyCode::Down);
    keys.extend(typed("0.0.0.0:9000"));
    keys.push(KeyCode::Enter);
    let added = Input { on: true, ..Input::new("strings", InputKind::Osc, "0.0.0.0:9000") };
    assert_eq!(press(&mut view, &keys), [DocumentCommand::Edit(Edit::AddInput(added)).into()]);
}

#[test]
fn what_cannot_be_is_told_in_the_form_and_nothing_is_lost() {
    let mut view = view();
    lay_out(&mut view);
    let mut keys = vec![KeyCode::Char('a'), KeyCode::Down];
    keys.extend(typed("sACN"));
    keys.push(KeyCode::Down);
    keys.extend(typed("70000"));
    keys.push(KeyCode::Enter);
    assert!(press(&mut view, &keys).is_empty());
    let open = view.form.as_ref().expect("it stays open");
    assert!(open.form.error.as_ref().is_some_and(|why| why.contains("1 to 63999")), "{:?}", open.form.error);
    assert_eq!(open.form.text("address"), "70000");
}

#[test]
fn a_choice_by_value_is_one_form() {
    let mut view = view();
    lay_out(&mut view);
    let asked = press(&mut view, &[KeyCode::Tab, KeyCode::Char('v'), KeyCode::Enter]);
    let [Command::Document(DocumentCommand::Edit(Edit::AddBindings(added)))] = asked.as_slice() else {
        panic!("{asked:?}")
    };
    let bands: Vec<(u16, &str)> = added[0].bands.iter().map(|band| (band.from, band.does[0].as_str())).collect();
    assert_eq!(added[0].source, "desk");
    let wanted = [
        (0, "release-tier base"),
        (1, "fire-look base/Tide"),
        (86, "fire-look base/Gale"),
        (171, "fire-look base/Foam"),
    ];
    assert_eq!(bands, wanted);
}

#[test]
fn a_binding_is_made_by_hand_changed_and_learnt_again() {
    let mut view = view();
    lay_out(&mut view);
    press(&mut view, &[KeyCode::Tab]);
    assert_eq!(view.learn(), Learn::Target("hold-pad 1".into()));
    let mut keys = vec![KeyCode::Char('a'), KeyCode::Down];
    keys.extend(typed("control 7"));
    keys.extend([KeyCode::Down, KeyCode::Down]);
    keys.extend(typed("master {}"));
    keys.push(KeyCode::Down);
    keys.extend(typed("value"));
    keys.push(KeyCode::Enter);
    let event = "control 7".parse().expect("an event");
    let added = Binding { answer: Answer::Value, ..Binding::new("box", event, "master {}") };
    assert_eq!(press(&mut view, &keys), [DocumentCommand::Edit(Edit::AddBindings(vec![added])).into()]);
    assert_eq!(press(&mut view, &[KeyCode::Delete]), [DocumentCommand::Edit(Edit::RemoveBindings(vec![0])).into()]);
    // Letters of the other page do nothing here, and say so.
    assert!(press(&mut view, &[KeyCode::Char('c')]).is_empty());
    assert!(view.said().is_some_and(|said| said.contains("Tab goes there")));
}

#[test]
fn a_value_that_leaves_is_added_changed_and_taken_out() {
    let mut view = view();
    lay_out(&mut view);
    let mut keys = vec![KeyCode::Tab, KeyCode::Tab, KeyCode::Char('a')];
    keys.extend(typed("control 3"));
    keys.push(KeyCode::Down);
    keys.extend(typed("dmx 9.5"));
    keys.push(KeyCode::Down);
    keys.extend(typed("16 bits"));
    keys.push(KeyCode::Enter);
    let asked = press(&mut view, &keys);
    let [Command::Document(DocumentCommand::Edit(Edit::PutValuesOut(values)))] = asked.as_slice() else {
        panic!("{asked:?}")
    };
    assert_eq!((values[0].what.to_string(), values[0].to.to_string()), ("control 3".to_owned(), "dmx 9.5".to_owned()));
    assert_eq!(values[0].range, splimo_show::OutRange::Word);
    // What cannot be says so.
    let mut keys = vec![KeyCode::Char('a')];
    keys.extend(typed("moon"));
    keys.push(KeyCode::Enter);
    assert!(press(&mut view, &keys).is_empty());
    assert!(view.form.as_ref().is_some_and(|open| open.form.error.as_ref().is_some_and(|why| why.contains("moon"))));
}

#[test]
fn a_model_is_brought_in_and_a_program_is_made_allowed_and_started() {
    let mut view = view();
    lay_out(&mut view);
    assert_eq!(press(&mut view, &[KeyCode::Char('m')]), [SessionCommand::BindModel("box".into()).into()]);
    let mut keys = vec![KeyCode::Tab, KeyCode::Tab, KeyCode::Tab, KeyCode::Char('a')];
    keys.extend(typed("Fog"));
    keys.extend([KeyCode::Down, KeyCode::Down]);
    keys.extend(typed("fogger"));
    keys.push(KeyCode::Down);
    keys.extend(typed("--for \"two s\""));
    keys.push(KeyCode::Enter);
    let fog = Program {
        name: "Fog".into(),
        command: ["fogger", "--for", "two s"].map(str::to_owned).to_vec(),
        sound: String::new(),
    };
    assert_eq!(press(&mut view, &keys), [DocumentCommand::Edit(Edit::AddProgram(fog.clone())).into()]);
    let show = Show { programs: vec![fog], ..Show::clone(view.show.as_ref().expect("a show")) };
    view.show = Some(Arc::new(show));
    view.status.allowed = "off".into();
    assert_eq!(view.learn(), Learn::Target("run Fog".into()));
    let asked = press(&mut view, &[KeyCode::Char('x'), KeyCode::Enter]);
    assert_eq!(asked, [SessionCommand::AllowPrograms("on".into()).into(), SessionCommand::Run("Fog".into()).into()]);
    view.status.running = vec!["Fog".into()];
    assert_eq!(press(&mut view, &[KeyCode::Enter]), [SessionCommand::EndRun("Fog".into()).into()]);
}

#[test]
fn a_choice_that_was_made_is_changed_band_by_band() {
    let mut view = view();
    lay_out(&mut view);
    let asked = press(&mut view, &[KeyCode::Tab, KeyCode::Char('v'), KeyCode::Enter]);
    let [Command::Document(DocumentCommand::Edit(edit))] = asked.as_slice() else { panic!("{asked:?}") };
    view.show = Some(Arc::new(edit.apply(view.show.as_ref().expect("a show")).expect("a good edit")));
    lay_out(&mut view);
    press(&mut view, &[KeyCode::Down, KeyCode::Char('e')]);
    assert!(view.bands.is_some() && view.modality() == Modality::Typing);
    assert!(press(&mut view, &[KeyCode::Esc]).is_empty() && view.bands.is_none());
    let asked = press(&mut view, &[KeyCode::Char('e'), KeyCode::Enter]);
    assert!(matches!(asked.as_slice(), [Command::Document(DocumentCommand::Edit(Edit::PutBindings(_)))]));
}
