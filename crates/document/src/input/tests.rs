//! Bindings against events on made-up times.

use std::cell::Cell;

use super::*;
use splimo_show::RemoteLayout;
use splimo_show::event::{Condition, Edge, EventAddress, InputEvent};
use splimo_show::{Answer, Band, Binding, Coding, Input, InputKind, Look, Remote, Show, Tier};

struct Desk {
    show: Show,
    evaluator: Evaluator,
    now: f64,
    /// The place of what is moved, in the unit of the command.
    there: Cell<Option<f32>>,
}

impl Desk {
    fn new(bindings: Vec<Binding>) -> Self {
        let mut show = Show::empty("Bound");
        show.looks = ["Tide", "Gale", "Foam"].map(|name| Look::new(name, Vec::new())).to_vec();
        show.tiers = ["base", "top"].map(Tier::new).to_vec();
        show.give_banks();
        show.inputs = vec![
            Input::new("box", InputKind::Midi, "box"),
            Input { priority: 150, ..Input::new("desk", InputKind::Sacn, "1") },
        ];
        show.bindings = bindings;
        let mut evaluator = Evaluator::default();
        evaluator.adopt(&show, 0.0, &mut Vec::new());
        Self { show, evaluator, now: 0.0, there: Cell::new(None) }
    }

    /// The commands that a value asks for.
    fn value(&mut self, source: &str, event: &str, raw: f32) -> Vec<String> {
        self.send(source, event, raw, Edge::Value)
    }

    fn press(&mut self, event: &str, down: bool) -> Vec<String> {
        let raw = if down { 100.0 } else { 0.0 };
        self.send("box", event, raw, if down { Edge::Press } else { Edge::Release })
    }

    fn send(&mut self, source: &str, event: &str, raw: f32, edge: Edge) -> Vec<String> {
        self.now += 0.03;
        let address: EventAddress = event.parse().expect("an event");
        let most = address.most();
        let event = InputEvent { source: source.into(), address, raw, most, edge, at: self.now };
        let there = self.there.get();
        let mut made = Vec::new();
        self.evaluator.take(&event, &self.show, &|_| there, &mut made);
        texts(&made)
    }
}

fn texts(made: &[Made]) -> Vec<String> {
    made.iter().map(|made| made.command.to_string()).collect()
}

fn binding(event: &str, does: &str) -> Binding {
    Binding::new("box", event.parse().expect("an event"), does)
}

fn none() -> Vec<String> {
    Vec::new()
}

#[test]
fn a_held_control_holds_and_lets_go_and_a_toggle_takes_turns() {
    let held =
        Binding { answer: Answer::Held, let_go: vec!["let-pad-go 1".into()], ..binding("note 36", "hold-pad 1") };
    let toggle = Binding { answer: Answer::Toggle, let_go: vec!["speed 1".into()], ..binding("note 37", "speed 0") };
    let mut desk = Desk::new(vec![held, toggle, binding("note 36 channel 2", "go")]);
    assert_eq!(desk.press("note 36", true), ["hold-pad 1"]);
    assert_eq!(desk.press("note 36", false), ["let-pad-go 1"]);
    assert_eq!(desk.press("note 36 channel 2", true), ["go", "hold-pad 1"], "one event, two bindings");
    assert_eq!(desk.press("note 36 channel 2", false), ["let-pad-go 1"]);
    assert_eq!((desk.press("note 37", true), desk.press("note 37", false)), (vec!["speed 0".into()], none()));
    assert_eq!(desk.press("note 37", true), ["speed 1"]);
}

#[test]
fn what_is_held_is_let_go_when_its_input_ends_or_its_binding_goes() {
    let held =
        Binding { answer: Answer::Held, let_go: vec!["let-pad-go 1".into()], ..binding("note 36", "hold-pad 1") };
    let mut desk = Desk::new(vec![held]);
    desk.press("note 36", true);
    let mut made = Vec::new();
    desk.evaluator.end("box", 1.0, &desk.show, &mut made);
    assert_eq!(texts(&made), ["let-pad-go 1"]);
    desk.press("note 36", true);
    desk.show.bindings.clear();
    made.clear();
    desk.evaluator.adopt(&desk.show, 2.0, &mut made);
    assert_eq!(texts(&made), ["let-pad-go 1"]);
}

#[test]
fn a_value_gives_a_number_by_its_range_and_curve() {
    let level = Binding { answer: Answer::Value, ..binding("control 7", "master {}") };
    let squared = Binding { curve: splimo_show::Response::Square, ..level.clone() };
    let turned = Binding { invert: true, range: [20.0, 40.0], ..level.clone() };
    for (binding, raw, said) in
        [(&level, 127.0, "master 100"), (&squared, 63.5, "master 25"), (&turned, 0.0, "master 40")]
    {
        assert_eq!(Desk::new(vec![binding.clone()]).value("box", "control 7", raw), [said]);
    }
    let fine = Binding { event: "control 7 fine".parse().expect("one"), ..level };
    assert_eq!(Desk::new(vec![fine]).value("box", "control 7 fine", 8191.5), ["master 50"]);
}

#[test]
fn conditions_choose_among_values_and_rising_comes_once() {
    let when =
        |text: &str, does: &str| Binding { when: Some(text.parse().expect("one")), ..binding("control 7", does) };
    let mut desk = Desk::new(vec![when("rising 64", "go"), when("between 10 20", "disarm"), when("equal 5", "tap")]);
    let mut all = none();
    for raw in [0.0, 5.0, 5.0, 15.0, 18.0, 63.0, 66.0, 63.0, 66.0, 90.0, 10.0, 70.0] {
        all.extend(desk.value("box", "control 7", raw));
    }
    assert_eq!(all, ["tap", "disarm", "go", "disarm", "go"], "noise about the level does not rise twice");
    let hard = Binding { when: Some(Condition::Above(110.0)), ..binding("note 36", "go") };
    let mut desk = Desk::new(vec![hard]);
    assert_eq!(desk.send("box", "note 36", 100.0, Edge::Press), none());
    assert_eq!(desk.send("box", "note 36", 120.0, Edge::Press), ["go"]);
    assert_eq!(desk.send("box", "note 36", 121.0, Edge::Press), ["go"], "each blow counts");
}

#[test]
fn a_shift_layer_counts_while_it_is_held_and_a_release_goes_to_what_was_pressed() {
    let shift = Binding { shifts: "red".into(), ..binding("note 1", "") };
    let plain =
        Binding { answer: Answer::Held, let_go: vec!["let-pad-go 1".into()], ..binding("note 36", "hold-pad 1") };
    let red = Binding { layer: "red".into(), ..binding("note 36", "go") };
    let mut desk = Desk::new(vec![shift, plain, red]);
    assert_eq!(desk.press("note 36", true), ["hold-pad 1"]);
    assert_eq!(desk.press("note 1", true), none());
    assert_eq!(desk.press("note 36", false), ["let-pad-go 1"]);
    assert_eq!(desk.press("note 36", true), ["go"]);
    desk.press("note 36", false);
    desk.press("note 1", false);
    assert_eq!(desk.press("note 36", true), ["hold-pad 1"]);
}

#[test]
fn soft_take_over_moves_nothing_until_the_fader_has_come_past() {
    let soft = Binding { answer: Answer::Value, soft: true, ..binding("control 7", "master {}") };
    let mut desk = Desk::new(vec![soft]);
    desk.there.set(Some(80.0));
    assert_eq!(desk.value("box", "control 7", 20.0), none());
    assert_eq!(desk.value("box", "control 7", 60.0), none());
    assert_eq!(desk.value("box", "control 7", 110.0), ["master 86.61"]);
    desk.there.set(Some(86.61));
    assert_eq!(desk.value("box", "control 7", 30.0), ["master 23.62"], "it has it now");
    desk.now += 5.0;
    desk.there.set(Some(70.0));
    assert_eq!(desk.value("box", "control 7", 31.0), none(), "somebody else has moved it");
}

#[test]
fn an_encoder_moves_on_from_where_things_are_by_each_of_the_codings() {
    for (coding, up, down) in [
        (Coding::TwosComplement, 1.0, 127.0),
        (Coding::Offset, 65.0, 63.0),
        (Coding::SignBit, 1.0, 65.0),
        (Coding::SignBitReversed, 65.0, 1.0),
    ] {
        let knob = Binding { answer: Answer::Relative, coding, ..binding("control 7", "master {}") };
        let mut desk = Desk::new(vec![knob]);
        desk.there.set(Some(50.0));
        assert_eq!(desk.value("box", "control 7", up), ["master 51"], "{}", coding.name());
        assert_eq!(desk.value("box", "control 7", up), ["master 52"], "the engine has not told yet");
        desk.now += 5.0;
        assert_eq!(desk.value("box", "control 7", down), ["master 49"]);
    }
}

fn choice() -> Binding {
    let band = |from, does: &str| Band { from, does: vec![does.into()] };
    let bands = vec![band(0, "release-tier base"), band(1, "fire-look base/Tide"), band(17, "fire-look base/Gale")];
    Binding { source: "desk".into(), bands, ..binding("slot 1", "") }
}

#[test]
fn one_channel_picks_a_look_by_its_value_and_rests_at_nothing() {
    let mut desk = Desk::new(vec![choice()]);
    assert_eq!(desk.value("desk", "slot 1", 0.0), ["release-tier base"]);
    assert_eq!(desk.value("desk", "slot 1", 8.0), ["fire-look base/Tide"]);
    assert_eq!(desk.value("desk", "slot 1", 9.0), none());
    assert_eq!(desk.value("desk", "slot 1", 255.0), ["fire-look base/Gale"]);
    assert_eq!(desk.value("desk", "slot 1", 0.0), ["release-tier base"]);
    // When the desk is back, what it says counts anew.
    desk.evaluator.end("desk", desk.now, &desk.show, &mut Vec::new());
    assert_eq!(desk.value("desk", "slot 1", 0.0), ["release-tier base"]);
}

#[test]
fn a_value_that_stands_still_near_an_edge_counts_in_the_end() {
    let mut desk = Desk::new(vec![choice()]);
    desk.value("desk", "slot 1", 16.0);
    assert_eq!(desk.value("desk", "slot 1", 17.0), none());
    let mut made = Vec::new();
    desk.evaluator.pass_time(desk.now + 0.5, &desk.show, &mut made);
    assert!(made.is_empty());
    desk.evaluator.pass_time(desk.now + 1.1, &desk.show, &mut made);
    desk.evaluator.pass_time(desk.now + 9.0, &desk.show, &mut made);
    assert_eq!(texts(&made), ["fire-look base/Gale"]);
}

#[test]
fn an_input_of_a_higher_priority_keeps_what_it_moved_until_it_is_silent() {
    let own = Binding { answer: Answer::Value, ..binding("control 7", "master {}") };
    let theirs = Binding { source: "desk".into(), event: "slot 1".parse().expect("one"), ..own.clone() };
    let mut desk = Desk::new(vec![own, theirs, binding("note 1", "panic")]);
    assert_eq!(desk.value("box", "control 7", 127.0), ["master 100"]);
    assert_eq!(desk.value("desk", "slot 1", 51.0), ["master 20"]);
    assert_eq!(desk.value("box", "control 7", 100.0), none());
    assert_eq!(desk.press("note 1", true), ["panic"], "that is everybody's");
    let charges: Vec<(String, String)> =
        desk.evaluator.charges().map(|(what, who)| (what.to_owned(), who.to_string())).collect();
    assert_eq!(charges, [("master".to_owned(), "desk".to_owned())]);
    let gone = desk.evaluator.end("desk", desk.now, &desk.show, &mut Vec::new());
    assert_eq!(gone, ["master"]);
    assert_eq!(desk.value("box", "control 7", 64.0), ["master 50.39"]);
}

#[test]
fn a_layout_moves_everything_that_it_names() {
    let mut desk = Desk::new(Vec::new());
    desk.show.inputs[1].remote = Some(Remote { layout: RemoteLayout::Compact, first: 101 });
    desk.evaluator.adopt(&desk.show, 0.0, &mut Vec::new());
    for (slot, raw, said) in [
        ("slot 101", 255.0, &["master 100"][..]),
        ("slot 102", 200.0, &["set-blackout on"]),
        ("slot 103", 0.0, &["strobe 0"]),
        ("slot 105", 128.0, &[]),
        ("slot 104", 6.0, &["next-fade 8.03", "fire-look base/Gale"]),
        ("slot 106", 0.0, &[]),
        ("slot 106", 255.0, &["speed 2"]),
        ("slot 107", 3.0, &["choose-bank 1"]),
        ("slot 108", 10.0, &["bank-pad 2"]),
    ] {
        assert_eq!(desk.value("desk", slot, raw), said, "{slot} at {raw}");
    }
}
