use super::*;
use crate::making::{aims, patterns};
use splimo_show::setting::SettingValue;
use splimo_show::{Aim, Boundary, Canvas, Fixture, Layer, Look, Shape};

const ONE: Origin = Origin::Screen(1);
const OTHER: Origin = Origin::Screen(2);

fn do_one(document: &mut Document, command: &DocumentCommand) -> Outcome {
    document.apply(command, ONE, None)
}

fn nudge(name: &str, by: i32) -> DocumentCommand {
    DocumentCommand::Nudge(SettingNudge { name: name.to_owned(), by })
}

fn set(name: &str, value: f32) -> DocumentCommand {
    DocumentCommand::Set(SettingChange { name: name.to_owned(), value: SettingValue::Number(value) })
}

fn canvas(width: f32) -> Edit {
    Edit::Canvas(Canvas { width, height: 10.0 })
}

fn changed(outcome: &Outcome) -> bool {
    matches!(outcome, Outcome::Done | Outcome::Told(_))
}

fn document() -> Document {
    let mut show = Show::empty("Test");
    show.fixtures = ["A", "B"].map(|name| Fixture::new(name, "rgb", Shape::Line { cells: 1 })).to_vec();
    show.looks = ["Tide", "Gale"].map(|name| Look::new(name, Vec::new())).to_vec();
    Document::new(show)
}

#[test]
fn undo_and_redo_are_each_others_inverse() {
    let mut document = document();
    let edits = [nudge("lands", 1), nudge("fade", 1), nudge("fade", 1), nudge("lands", -1)];
    let mut seen = vec![document.kept().clone()];
    for edit in &edits {
        assert!(changed(&do_one(&mut document, edit)));
        seen.push(document.kept().clone());
    }
    for wanted in seen.iter().rev().skip(1) {
        do_one(&mut document, &DocumentCommand::Undo);
        assert_eq!(document.kept(), wanted);
    }
    assert_eq!(do_one(&mut document, &DocumentCommand::Undo), Outcome::Nothing("nothing to undo".into()));
    assert!(!document.unsaved());
    for wanted in seen.iter().skip(1) {
        do_one(&mut document, &DocumentCommand::Redo);
        assert_eq!(document.kept(), wanted);
    }
    assert!(document.unsaved());
    document.mark_saved();
    assert!(!document.unsaved());
}

#[test]
fn a_setting_that_was_changed_is_told_in_words() {
    let mut document = document();
    assert_eq!(
        do_one(&mut document, &nudge("lands", 2)),
        Outcome::Told("looks land on the phrase, fading in over 1 beat".into())
    );
    assert_eq!(document.kept().settings.lands, Boundary::Phrase);
    assert_eq!(do_one(&mut document, &set("latency", 20.0)), Outcome::Told("latency 20 ms".into()));
    assert!(
        matches!(do_one(&mut document, &set("fade", 99.0)), Outcome::Refused(why) if why.contains("0 to 64 beats"))
    );
    assert_eq!(do_one(&mut document, &nudge("lands", 1)), Outcome::Nothing(String::new()), "there is none beyond it");
}

#[test]
fn what_is_tried_is_seen_and_leaves_no_step() {
    let mut document = document();
    let tried = |width| DocumentCommand::TryEdit(canvas(width));
    assert_eq!(do_one(&mut document, &tried(50.0)), Outcome::Done);
    assert_eq!(do_one(&mut document, &tried(60.0)), Outcome::Done);
    assert_eq!((document.shown().canvas.width, document.kept().canvas.width), (60.0, 120.0));
    assert!(!document.unsaved());
    assert!(matches!(do_one(&mut document, &tried(-1.0)), Outcome::Refused(why) if why.contains("-1")));
    assert_eq!(do_one(&mut document, &DocumentCommand::DropTried), Outcome::Done);
    assert_eq!(document.shown().canvas.width, 120.0);
    do_one(&mut document, &tried(60.0));
    assert_eq!(do_one(&mut document, &DocumentCommand::Edit(canvas(70.0))), Outcome::Done);
    assert!(changed(&do_one(&mut document, &DocumentCommand::Undo)));
    assert_eq!(do_one(&mut document, &DocumentCommand::Undo), Outcome::Nothing("nothing to undo".into()));
}

#[test]
fn two_who_try_at_once_see_both_and_each_drops_his_own() {
    let mut document = document();
    document.apply(&DocumentCommand::TryEdit(canvas(50.0)), ONE, None);
    document.apply(&DocumentCommand::TryEdit(Edit::Set("fade".into(), SettingValue::Number(4.0))), OTHER, None);
    let shown = |document: &Document| (document.shown().canvas.width, document.shown().settings.fade_beats);
    assert_eq!(shown(&document), (50.0, 4.0));
    document.apply(&DocumentCommand::Edit(Edit::Remove(vec![0])), OTHER, None);
    assert_eq!(shown(&document), (50.0, 1.0), "who keeps something else has done with what they tried");
    document.forget(ONE);
    assert_eq!(shown(&document), (120.0, 1.0));
    assert!(document.tried().is_empty());
}

#[test]
fn edits_on_an_older_edition_are_understood_or_refused_in_words() {
    let mut document = document();
    let base = document.edition();
    let edit = |edit| DocumentCommand::Edit(edit);
    assert_eq!(document.apply(&edit(Edit::RemoveLooks(vec![0])), ONE, Some(base)), Outcome::Done);
    let tagged = Look { tags: vec!["wild".into()], ..Look::new("Gale", Vec::new()) };
    assert_eq!(document.apply(&edit(Edit::PutLooks(vec![(1, tagged)])), OTHER, Some(base)), Outcome::Done);
    assert_eq!(document.kept().looks[0].tags, ["wild"], "it is found where it is now");
    let again = document.apply(&edit(Edit::RemoveLooks(vec![1])), ONE, Some(base));
    assert!(matches!(again, Outcome::Refused(why) if why.contains("Gale was changed on another screen meanwhile")));
    let gone = document.apply(&edit(Edit::RemoveLooks(vec![0])), ONE, Some(base));
    assert!(matches!(gone, Outcome::Refused(why) if why.contains("Tide was taken out on another screen meanwhile")));
    assert!(matches!(document.apply(&edit(canvas(9.0)), ONE, Some(base + 900)), Outcome::Refused(_)), "none such yet");
    for step in 0..2 * EDITIONS {
        do_one(&mut document, &set("fade", (step % 2) as f32 + 2.0));
    }
    let late = document.apply(&edit(canvas(9.0)), ONE, Some(base));
    assert!(matches!(late, Outcome::Refused(why) if why.contains("too often")));
}

#[test]
fn who_follows_the_changes_has_the_same_show() {
    let mut document = document();
    let mut follower = document.kept().clone();
    let commands = [
        DocumentCommand::Edit(canvas(50.0)),
        DocumentCommand::TryEdit(canvas(60.0)),
        nudge("fade", 2),
        DocumentCommand::Undo,
        DocumentCommand::Redo,
        DocumentCommand::DropTried,
        DocumentCommand::Edit(Edit::Remove(vec![1])),
    ];
    let mut edition = document.edition();
    for command in &commands {
        document.apply(command, ONE, None);
        for change in document.take_changes() {
            assert_eq!(change.edition, edition + 1);
            edition = change.edition;
            match change.kept {
                KeptChange::None => {}
                KeptChange::Edited(edit) => follower = Arc::new(edit.apply(&follower).expect("it applied there")),
                KeptChange::Whole(show) => follower = show,
            }
            let shown = change.tried.iter().fold(Show::clone(&follower), |show, edit| edit.apply(&show).expect("so"));
            assert_eq!(shown, **document.shown());
        }
        assert_eq!(&follower, document.kept());
    }
}

#[test]
fn what_is_edited_blind_does_not_go_out_until_it_is_kept() {
    let mut document = document();
    let wild = |name: &str| (name.to_owned(), Look { tags: vec!["wild".into()], ..Look::new(name, Vec::new()) });
    let draft = |name: &str| DocumentCommand::Draft(vec![wild(name)]);
    assert!(matches!(do_one(&mut document, &draft("Tide")), Outcome::Refused(_)), "nobody is blind");
    assert!(changed(&do_one(&mut document, &DocumentCommand::EditBlind)));
    assert_eq!(do_one(&mut document, &draft("Tide")), Outcome::Done);
    assert_eq!(do_one(&mut document, &draft("Gale")), Outcome::Done);
    assert!(matches!(do_one(&mut document, &draft("Foam")), Outcome::Refused(_)), "there is none");
    assert!(!document.unsaved() && document.drafts().looks().len() == 2);
    do_one(&mut document, &DocumentCommand::UndoDraft);
    assert_eq!(document.drafts().looks(), [wild("Tide")]);
    do_one(&mut document, &DocumentCommand::RedoDraft);
    // Looks that move, go or are called otherwise meanwhile are found.
    do_one(&mut document, &DocumentCommand::Edit(Edit::PutLooks(vec![(0, Look::new("Ebb", Vec::new()))])));
    do_one(&mut document, &DocumentCommand::Edit(Edit::RemoveLooks(vec![1])));
    assert_eq!(document.drafts().looks(), [("Ebb".to_owned(), wild("Ebb").1)]);
    assert!(changed(&do_one(&mut document, &DocumentCommand::KeepDrafts)));
    assert_eq!((document.kept().looks.len(), document.kept().looks[0].tags.len()), (1, 1));
    assert!(!document.drafts().is_blind() && document.drafts().looks().is_empty());
    do_one(&mut document, &DocumentCommand::EditBlind);
    do_one(&mut document, &draft("Ebb"));
    do_one(&mut document, &DocumentCommand::DropDrafts);
    assert!(document.drafts().looks().is_empty());
}

#[test]
fn what_is_edited_blind_follows_the_names_of_its_lights() {
    let mut document = document();
    let fixture = document.kept().fixtures[0].clone();
    let lit = Layer { target: vec![fixture.name.clone()], ..Layer::new("plasma") };
    let look = Look::new(&document.kept().looks[0].name, vec![lit]);
    do_one(&mut document, &DocumentCommand::EditBlind);
    do_one(&mut document, &DocumentCommand::Draft(vec![(look.name.clone(), look)]));
    let renamed = Fixture { name: "Mast".into(), ..fixture };
    do_one(&mut document, &DocumentCommand::Edit(Edit::Put(vec![(0, renamed)])));
    assert_eq!(document.drafts().looks()[0].1.layers[0].target, ["Mast"]);
    do_one(&mut document, &DocumentCommand::Edit(Edit::Remove(vec![0])));
    assert_eq!(document.drafts().looks()[0].1.layers[0].target, ["Mast"], "none would light everything");
    assert!(
        matches!(do_one(&mut document, &DocumentCommand::KeepDrafts), Outcome::Refused(why) if why.contains("Mast"))
    );
}

#[test]
fn the_past_has_an_end_and_a_large_show_a_nearer_one() {
    let mut document = document();
    for step in 0..STEPS + 40 {
        do_one(&mut document, &set("fade", if step % 2 == 0 { 3.0 } else { 4.0 }));
    }
    assert_eq!(document.past.len(), STEPS);
}

#[test]
fn an_edit_that_changes_nothing_is_no_step() {
    let mut document = document();
    assert_eq!(do_one(&mut document, &set("fade", 1.0)), Outcome::Nothing(String::new()));
    assert_eq!(do_one(&mut document, &DocumentCommand::Undo), Outcome::Nothing("nothing to undo".into()));
    assert!(document.take_changes().is_empty());
}

/// The first pattern of a show with an event struck into one of its lanes.
fn struck(show: &Show, lane: usize, beats: f64) -> (usize, Look) {
    let (place, look) = show.look("Drop Hits").expect("it is there");
    let mut look = look.clone();
    let pattern = look.pattern.as_mut().expect("a pattern");
    let lane = lane % pattern.lanes.len();
    patterns::strike(pattern, lane, beats, None).expect("there is room");
    (place, look)
}

proptest::proptest! {
    #![proptest_config(proptest::prelude::ProptestConfig::with_cases(40))]

    #[test]
    fn undoing_all_and_redoing_all_is_the_identity(steps in proptest::collection::vec((0usize..40, -9f32..9.0, 0u8..12), 1..20)) {
        use crate::edit::{Arrangement, Axis};
        let demo = crate::file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show;
        let mut document = Document::new(demo);
        let first = document.kept().clone();
        for (index, by, what) in steps {
            let edit = match what {
                0 => Edit::Arrange(vec![index], Arrangement::Move(by, 1.0)),
                1 => Edit::Arrange(vec![index, 3], Arrangement::Mirror(Axis::Y)),
                2 => Edit::Remove(vec![index]),
                3 => Edit::Duplicate(vec![index]),
                4 => Edit::Unpatch(vec![index]),
                5 => Edit::Reorder(vec![index], 2),
                6 => Edit::AddAim(Aim { heads: document.kept().aims[0].heads.clone(), ..Aim::new(&format!("Aim {index}")) }),
                7 => Edit::PutAim(index % 4, aims::mirrored(document.kept(), &document.kept().aims[index % 4])),
                8 => Edit::PutAim(index % 4, Aim { name: format!("Renamed {by}"), ..document.kept().aims[index % 4].clone() }),
                9 => Edit::RemoveAim(document.kept().aims.len() - 1),
                10 => Edit::PutLooks(vec![struck(document.kept(), index, f64::from(by.abs()))]),
                _ => Edit::MergeGroups(vec![0, 1]),
            };
            do_one(&mut document, &DocumentCommand::Edit(edit));
        }
        let last = document.kept().clone();
        while changed(&do_one(&mut document, &DocumentCommand::Undo)) {}
        proptest::prop_assert_eq!(document.kept(), &first);
        while changed(&do_one(&mut document, &DocumentCommand::Redo)) {}
        proptest::prop_assert_eq!(document.kept(), &last);
    }
}

#[test]
fn undo_and_redo_say_what_they_take_back_and_make_again() {
    let mut document = document();
    do_one(&mut document, &DocumentCommand::Edit(canvas(20.0)));
    do_one(&mut document, &DocumentCommand::Edit(Edit::MoveLook(0, 1)));
    let told = |document: &mut Document, command| match do_one(document, &command) {
        Outcome::Told(words) => words,
        other => panic!("{other:?}"),
    };
    let words = told(&mut document, DocumentCommand::Undo);
    assert_eq!(words, "taken back: moves a look in the list; Ctrl-Y makes it again");
    let words = told(&mut document, DocumentCommand::Undo);
    assert_eq!(words, "taken back: sets the canvas to 20 x 10; Ctrl-Y makes it again");
    assert_eq!(told(&mut document, DocumentCommand::Redo), "made again: sets the canvas to 20 x 10");
}

#[test]
fn undo_reaches_no_live_look_while_looks_are_edited_blind() {
    let mut document = document();
    do_one(&mut document, &DocumentCommand::Edit(Edit::MoveLook(0, 1)));
    do_one(&mut document, &DocumentCommand::Edit(canvas(20.0)));
    do_one(&mut document, &DocumentCommand::EditBlind);
    assert!(matches!(do_one(&mut document, &DocumentCommand::Undo), Outcome::Told(_)), "the canvas is no look");
    let before = document.kept().clone();
    let Outcome::Nothing(words) = do_one(&mut document, &DocumentCommand::Undo) else { panic!("it went out") };
    assert!(words.contains("moves a look in the list") && words.contains("b ends it"), "{words}");
    assert_eq!(*document.kept(), before);
    do_one(&mut document, &DocumentCommand::DropDrafts);
    assert!(matches!(do_one(&mut document, &DocumentCommand::Undo), Outcome::Told(_)), "it is there again");
}

#[test]
fn commands_with_edits_round_trip_as_text_and_as_data() {
    let command = Command::from(DocumentCommand::Edit(Edit::Remove(vec![0, 7])));
    assert_eq!(command.to_string(), "edit {\"remove\":[0,7]}");
    assert_eq!(command.to_string().parse(), Ok(command.clone()));
    let data = serde_json::to_string(&command).expect("serialises");
    assert_eq!(serde_json::from_str::<Command>(&data).expect("deserialises"), command);
}
