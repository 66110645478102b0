//! The view's keys and forms.

use ratatui::crossterm::event::KeyCode;
use splimo_document::{Command, DocumentCommand};
use splimo_show::{Cue, CueList, CueTime, GoesOn, Look, Tier};

use super::*;

/// A view of a show with a list of three cues, and an empty one.
pub(super) fn view() -> CuesView {
    let mut show = Show::empty("Cues");
    show.looks = ["Tide", "Gale", "Foam"].map(|name| Look::new(name, Vec::new())).to_vec();
    show.tiers = ["base", "top"].map(Tier::new).to_vec();
    let mut list = CueList::new("Opening");
    for (number, look) in [("1", "Tide"), ("2", "Gale"), ("4.5", "Foam")] {
        list.cues.push(Cue::of_look(number.parse().expect("a number"), "base", look));
    }
    show.cue_lists = vec![list, CueList::new("Encore")];
    let mut view = CuesView { show: Some(Arc::new(show)), ..CuesView::default() };
    lay_out(&mut view);
    view
}

/// Draws once, so that lists know how long they are.
fn lay_out(view: &mut CuesView) {
    let area = Rect::new(0, 0, 100, 20);
    let show = view.show.clone().expect("a show");
    view.lists.lay_out(show.cue_lists.len(), area);
    view.cues.lay_out(show.cue_lists[view.lists.chosen].cues.len(), area);
}

pub(super) fn press(view: &mut CuesView, keys: &[KeyCode]) -> Vec<Command> {
    let mut asked = Vec::new();
    for key in keys {
        let asks = match view.key(KeyEvent::from(*key)) {
            Handled::Done(asks) | Handled::First(asks) => asks,
            Handled::Not => match KEYS.iter().find(|binding| binding.code == *key).map(|binding| (binding.ask)()) {
                Some(Ask::Action(action)) => view.act(&action),
                Some(_) | None => panic!("{key:?} means nothing"),
            },
        };
        asked.extend(
            asks.into_iter().filter_map(|ask| if let Ask::Command(command) = ask { Some(command) } else { None }),
        );
    }
    asked
}

pub(super) fn typed(text: &str) -> Vec<KeyCode> {
    text.chars().map(KeyCode::Char).collect()
}

/// The words of a form that is not kept.
fn error(view: &CuesView) -> String {
    let form = match &view.form {
        Some(Opened::Cues(open)) => &open.form,
        Some(Opened::Schedule(open)) => &open.form,
        Some(Opened::Sheet(_) | Opened::Timeline(_) | Opened::Pattern(_) | Opened::Aim(_)) | None => {
            panic!("no form of cues or the schedule is open")
        }
    };
    form.error.clone().expect("it says why")
}

/// The show after the one edit that keys asked for.
pub(super) fn edited(view: &CuesView, asked: &[Command]) -> Show {
    let [Command::Document(DocumentCommand::Edit(edit))] = asked else { panic!("{asked:?}") };
    edit.apply(view.show.as_ref().expect("a show")).expect("a good edit")
}

#[test]
fn the_list_and_the_cue_that_are_chosen_are_asked_for() {
    let mut view = view();
    let texts = |asked: Vec<Command>| asked.iter().map(Command::to_string).collect::<Vec<_>>();
    let keys: Vec<KeyCode> = "nuxsbzrco".chars().map(KeyCode::Char).collect();
    let wanted = [
        "go-cue Opening",
        "back-cue Opening",
        "pause-cues Opening",
        "skip-cue Opening",
        "reset-cues Opening",
        "release-cues Opening",
        "record-cue Opening",
        "record-changes Opening",
        "update-cue Opening",
    ];
    assert_eq!(texts(press(&mut view, &keys)), wanted);
    let asked = press(&mut view, &[KeyCode::End, KeyCode::Char('g'), KeyCode::Up, KeyCode::Char('G')]);
    assert_eq!(texts(asked), ["go-to-cue Opening/4.5", "go-to-cue Opening/2 1"]);
    let asked = press(&mut view, &[KeyCode::Tab, KeyCode::Down, KeyCode::Char('n')]);
    assert_eq!(texts(asked), ["go-cue Encore"]);
    assert_eq!(view.learn(), Learn::Target("go-cue Encore".into()));
}

#[test]
fn a_cue_is_added_and_changed_in_a_form() {
    let mut view = view();
    let mut keys = vec![KeyCode::Down, KeyCode::Char('a')];
    keys.extend(typed("Build"));
    keys.extend([KeyCode::Down; 3]);
    keys.extend(typed("ti 60"));
    keys.push(KeyCode::Down);
    keys.extend(typed("out"));
    keys.extend([KeyCode::Down; 2]);
    keys.extend(typed("2 bars"));
    keys.extend([KeyCode::Down; 3]);
    keys.extend(typed("on music part drop"));
    keys.push(KeyCode::Enter);
    let asked = press(&mut view, &keys);
    let show = edited(&view, &asked);
    let cue = &show.cue_lists[0].cues[2];
    assert_eq!((cue.number.to_string(), cue.name.as_str()), ("3".to_owned(), "Build"));
    assert_eq!(cue.tiers.iter().map(|tier| tier.words()).collect::<Vec<_>>(), ["Tide 60", "out"]);
    assert_eq!((cue.fade_in, cue.then.to_string()), (CueTime::Bars(2.0), "on music part drop".to_owned()));
}

#[test]
fn what_cannot_be_is_told_in_the_form_and_nothing_is_lost() {
    let mut view = view();
    let mut keys = vec![KeyCode::Char('e')];
    keys.extend([KeyCode::Down; 3]);
    keys.extend(typed("Storm"));
    keys.push(KeyCode::Enter);
    assert!(press(&mut view, &keys).is_empty());
    let error = error(&view);
    assert!(error.contains("there is no look \"Storm\""), "{error}");
    press(&mut view, &[KeyCode::Esc]);
    assert!(view.form.is_none());
}

#[test]
fn several_cues_are_changed_copied_and_taken_out_together() {
    let mut view = view();
    let mut keys = vec![KeyCode::Char('v'), KeyCode::Char('v'), KeyCode::Char('e')];
    keys.extend([KeyCode::Down; 6]);
    keys.extend(typed("1 s"));
    keys.push(KeyCode::Enter);
    let asked = press(&mut view, &keys);
    let show = edited(&view, &asked);
    let fades = show.cue_lists[0].cues.iter().map(|cue| cue.fade_in.to_string()).collect::<Vec<_>>();
    assert_eq!(fades, ["1 s", "1 s", "0"], "and their looks are as they were");
    assert_eq!(show.cue_lists[0].cues[1].tiers[0].look.as_deref(), Some("Gale"));
    view.marked = [0, 1].into();
    let asked = press(&mut view, &[KeyCode::Delete]);
    assert_eq!(edited(&view, &asked).cue_lists[0].cues.len(), 1);
    let asked = press(&mut view, &[KeyCode::Home, KeyCode::Char('d')]);
    assert_eq!(edited(&view, &asked).cue_lists[0].cues[1].number.to_string(), "1.5");
    let asked = press(&mut view, &[KeyCode::Char('N')]);
    assert_eq!(edited(&view, &asked).cue_lists[0].cues[2].number.to_string(), "3");
}

#[test]
fn a_list_is_made_of_looks_in_one_form() {
    let mut view = view();
    let mut keys = vec![KeyCode::Char('w')];
    keys.extend(typed("Window"));
    keys.extend([KeyCode::Down; 2]);
    keys.extend(typed("foam, tide"));
    keys.push(KeyCode::Enter);
    let asked = press(&mut view, &keys);
    let show = edited(&view, &asked);
    let list = &show.cue_lists[2];
    assert_eq!((list.name.as_str(), list.wrap, list.cues.len()), ("Window", true, 2));
    assert_eq!(list.then, GoesOn::After(CueTime::Seconds(3.0)));
    assert_eq!(list.cues[0].tiers[0].look.as_deref(), Some("Foam"));
    assert_eq!(list.cues[1].fade_in, CueTime::Seconds(1.0));
    assert_eq!(view.lists.chosen, 2, "it is chosen");
}

#[test]
fn a_list_goes_with_its_cues_only_when_asked_twice() {
    let mut view = view();
    assert!(press(&mut view, &[KeyCode::Tab, KeyCode::Delete]).is_empty());
    assert!(view.said().is_some_and(|said| said.contains("3 cues go with Opening")));
    let asked = press(&mut view, &[KeyCode::Delete]);
    assert_eq!(edited(&view, &asked).cue_lists.len(), 1);
    let asked = press(&mut view, &[KeyCode::Down, KeyCode::Delete]);
    assert_eq!(edited(&view, &asked).cue_lists.len(), 1, "an empty one goes at once");
}

#[test]
fn a_sheet_is_looked_at_before_it_is_kept() {
    let mut view = view();
    let path = std::env::temp_dir().join(format!("splimo-cues-{}.csv", std::process::id()));
    std::fs::write(&path, "number,name,on base\n1,Doors,gale\n2,Stab,fog\n9,End,out\n").expect("written");
    let mut keys = vec![KeyCode::Char('i')];
    keys.extend(typed(&path.display().to_string()));
    keys.push(KeyCode::Enter);
    assert!(press(&mut view, &keys).is_empty(), "nothing is done yet");
    let show = view.show.clone().expect("a show");
    let area = Rect::new(0, 0, 110, 30);
    let mut buffer = Buffer::empty(area);
    let open = view.form.as_mut().expect("a preview");
    open.draw(&show, Theme::plain(), area, &mut buffer);
    let text: String = buffer.content.iter().map(ratatui::buffer::Cell::symbol).collect();
    for words in
        ["1 new cues, 1 changed, 0 the same, 2 go", "line 3: base: there is no look \"fog\"", "9 End: base: out"]
    {
        assert!(text.contains(words), "{words}: {text}");
    }
    let asked = press(&mut view, &[KeyCode::Enter]);
    let numbers: Vec<String> =
        edited(&view, &asked).cue_lists[0].cues.iter().map(|cue| cue.number.to_string()).collect();
    assert_eq!(numbers, ["1", "9"]);
    // What another hand changed meanwhile is seen before anything is kept.
    press(&mut view, &keys);
    let mut moved = (*show).clone();
    moved.cue_lists[0].cues.pop();
    view.show = Some(moved.into());
    assert!(press(&mut view, &[KeyCode::Enter]).is_empty());
    let mut buffer = Buffer::empty(area);
    view.form.as_mut().expect("it is still open").draw(&show, Theme::plain(), area, &mut buffer);
    let text: String = buffer.content.iter().map(ratatui::buffer::Cell::symbol).collect();
    assert!(text.contains("the show has changed meanwhile") && text.contains("0 the same, 1 go"), "{text}");
    assert_eq!(press(&mut view, &[KeyCode::Enter]).len(), 1);
    std::fs::remove_file(&path).expect("it was there");
    let mut keys = vec![KeyCode::Char('i')];
    keys.extend(typed("/nowhere.csv"));
    keys.push(KeyCode::Enter);
    press(&mut view, &keys);
    assert!(view.form.is_some(), "it stays, and says why");
}

#[test]
fn an_event_is_added_to_the_schedule_and_what_cannot_be_is_told() {
    let mut view = view();
    let mut keys = vec![KeyCode::Tab, KeyCode::Tab, KeyCode::Char('a')];
    keys.extend(typed("Late"));
    keys.push(KeyCode::Down);
    keys.extend(typed("25:00"));
    keys.push(KeyCode::Enter);
    assert!(press(&mut view, &keys).is_empty());
    let error = error(&view);
    assert!(error.contains("\"25:00\" is no time of the day"), "{error}");
    let mut keys = vec![KeyCode::Down, KeyCode::Up];
    keys.extend(typed("22:00"));
    keys.push(KeyCode::Down);
    keys.extend(typed("Fri Sat"));
    keys.push(KeyCode::Enter);
    let asked = press(&mut view, &keys);
    let schedule = edited(&view, &asked).schedule;
    let told =
        (schedule.events[0].name.as_str(), schedule.events[0].at.to_string(), schedule.events[0].days.to_string());
    assert_eq!(told, ("Late", "22:00".to_owned(), "Fri Sat".to_owned()));
    assert_eq!(schedule.events[0].does, ["go-cue Opening"]);
}

#[test]
fn a_cue_sends_heads_ahead_where_its_form_says_so() {
    let mut view = view();
    let mut keys = vec![KeyCode::Char('e')];
    keys.extend([KeyCode::Down; 40]);
    keys.extend([KeyCode::Char('y'), KeyCode::Enter]);
    let asked = press(&mut view, &keys);
    let show = edited(&view, &asked);
    assert_eq!(show.cue_lists[0].cues.iter().map(|cue| cue.ahead).collect::<Vec<_>>(), [true, false, false]);
}

#[test]
fn tab_goes_through_the_parts_and_shift_tab_back_and_each_learns_its_own() {
    let mut view = view();
    let mut seen = vec![view.part];
    for _ in 0..Part::ALL.len() {
        press(&mut view, &[KeyCode::Tab]);
        seen.push(view.part);
    }
    assert_eq!(seen[..6], Part::ALL);
    assert_eq!(seen[6], Part::Cues);
    press(&mut view, &[KeyCode::BackTab]);
    assert_eq!(view.part, Part::Aims);
    assert!(matches!(view.learn(), Learn::Nothing(why) if why.contains("no aim")));
    press(&mut view, &[KeyCode::BackTab]);
    assert!(matches!(view.learn(), Learn::Nothing(why) if why.contains("no lane")));
    let mut show = Show::clone(view.show.as_ref().expect("a show"));
    show.aims.push(splimo_show::Aim::new("Booth"));
    let mut pattern = splimo_show::Pattern::new(1);
    pattern.lanes.push(splimo_show::Lane::new(splimo_show::LaneKind::Level));
    show.looks.push(Look { pattern: Some(pattern), ..Look::new("Hits", Vec::new()) });
    view.show = Some(Arc::new(show));
    assert_eq!(view.learn(), Learn::Target("strike Hits/1".into()));
    press(&mut view, &[KeyCode::Tab]);
    assert_eq!(view.learn(), Learn::Target("call-aim Booth".into()));
}
