//! The keys and the mouse of timelines.

use ratatui::crossterm::event::KeyCode;
use splimo_document::{Command, DocumentCommand};
use splimo_engine::TimelineState;
use splimo_show::{Clip, Marks, PartMark, TimeUnit, Timeline};

use super::tests::{edited, press, typed, view};
use super::*;

/// A view at the timeline of its show.
fn at_timeline() -> CuesView {
    let mut view = view();
    let mut show = Show::clone(view.show.as_ref().expect("a show"));
    let clip =
        |at: f32, look: &str| Clip { at, length: 4.0, tier: "base".into(), look: Some(look.into()), ..Clip::default() };
    show.timelines = vec![Timeline {
        name: "Song".into(),
        unit: TimeUnit::Bars,
        length: 16.0,
        clips: vec![clip(0.0, "Tide"), clip(4.0, "Gale")],
        ..Timeline::default()
    }];
    (view.show, view.part) = (Some(Arc::new(show)), Part::Timeline);
    view
}

#[test]
fn clips_are_moved_stretched_split_copied_and_made_by_keys() {
    let mut view = at_timeline();
    let clips = |view: &mut CuesView, keys: &[KeyEvent]| {
        let mut asked = Vec::new();
        for key in keys {
            if let Handled::Done(asks) = view.key(*key) {
                asked.extend(
                    asks.into_iter().filter_map(|ask| if let Ask::Command(one) = ask { Some(one) } else { None }),
                );
            }
        }
        let show = edited(view, &asked);
        let told = show.timelines[0].clips.iter();
        told.map(|clip| format!("{} {} {}", clip.at, clip.length, clip.look.clone().unwrap_or_default()))
            .collect::<Vec<_>>()
    };
    let key = KeyEvent::from;
    let right = KeyEvent::new(KeyCode::Right, KeyModifiers::SHIFT);
    assert_eq!(clips(&mut view, &[right]), ["0.25 4 Tide", "4 4 Gale"]);
    assert_eq!(clips(&mut view, &[key(KeyCode::Char('>'))]), ["0 4.25 Tide", "4 4 Gale"]);
    assert_eq!(clips(&mut view, &[key(KeyCode::Right), key(KeyCode::Char('s'))]), ["0 4 Tide", "4 2 Gale", "6 2 Gale"]);
    assert_eq!(clips(&mut view, &[key(KeyCode::Char('d'))]), ["0 4 Tide", "4 4 Gale", "8 4 Gale"]);
    assert_eq!(clips(&mut view, &[key(KeyCode::Delete)]), ["0 4 Tide"]);
    let asked = press(&mut view, &typed("gnxz"));
    let told: Vec<String> = asked.iter().map(Command::to_string).collect();
    assert_eq!(told, ["seek-timeline Song 4", "play-timeline Song", "hold-timeline Song", "stop-timeline Song"]);
    let mut keys = vec![KeyCode::Char('a')];
    keys.extend(typed("foam"));
    keys.push(KeyCode::Enter);
    let asked = press(&mut view, &keys);
    let show = edited(&view, &asked);
    assert_eq!(show.timelines[0].clips.len(), 3);
    assert!(show.timelines[0].clips.iter().any(|clip| clip.look.as_deref() == Some("Foam") && clip.length == 4.0));
    press(&mut view, &[KeyCode::Char('N')]);
    assert!(view.said().is_some_and(|said| said.contains("for cues")), "what is not seen is not numbered");
}

#[test]
fn clips_are_dragged_and_the_ruler_goes_there() {
    let mut view = at_timeline();
    let area = Rect::new(0, 0, 93, 20);
    let show = view.show.clone().expect("a show");
    let theme = Theme::plain();
    view.timeline.draw(&show, &[], theme, area, &mut Buffer::empty(area));
    let mouse = |kind, column, row| MouseEvent { kind, column, row, modifiers: KeyModifiers::NONE };
    // 78 columns are 16 bars; the lanes begin at column 13, top first.
    let (down, up) = (MouseEventKind::Down(MouseButton::Left), MouseEventKind::Up(MouseButton::Left));
    assert_eq!(view.mouse(mouse(down, 40, 5)), Some(Vec::new()));
    let Some(asks) = view.mouse(mouse(up, 60, 5)) else { panic!("it is the view's business") };
    let [Ask::Command(Command::Document(DocumentCommand::Edit(edit)))] = asks.as_slice() else { panic!("{asks:?}") };
    let moved = edit.apply(&show).expect("a good edit");
    assert_eq!(moved.timelines[0].clips[1].at, 8.0);
    let Some(asks) = view.mouse(mouse(down, 13 + 39, 2)) else { panic!("it is the view's business") };
    let [Ask::Command(command)] = asks.as_slice() else { panic!("{asks:?}") };
    assert_eq!(command.to_string(), "seek-timeline Song 8");
}

/// A view at a timeline in seconds whose recording has beats each 0.4 s from 0.2 s on, four to a bar.
fn heard() -> CuesView {
    let mut view = at_timeline();
    let mut show = Show::clone(view.show.as_ref().expect("a show"));
    let beats: Vec<f64> = (0..100).map(|beat| 0.2 + 0.4 * f64::from(beat)).collect();
    let part = |at: f64, kind: &str| PartMark { at, kind: kind.to_owned() };
    show.timelines[0].marks = Some(Marks {
        recording: "song.wav".into(),
        bars: beats.iter().step_by(4).copied().collect(),
        beats,
        parts: vec![part(0.0, "intro"), part(19.4, "drop")],
    });
    (show.timelines[0].unit, show.timelines[0].length) = (TimeUnit::Seconds, 40.0);
    view.show = Some(Arc::new(show));
    view
}

fn drawn(view: &mut CuesView, state: TimelineState) -> Vec<String> {
    let (area, show) = (Rect::new(0, 0, 95, 20), view.show.clone().expect("a show"));
    let mut buffer = Buffer::empty(area);
    view.timeline.draw(&show, &[state], Theme::plain(), area, &mut buffer);
    let symbols: Vec<&str> = buffer.content.iter().map(ratatui::buffer::Cell::symbol).collect();
    symbols.chunks(95).map(|row| row.concat().trim_end().to_owned()).collect()
}

#[test]
fn clips_go_from_beat_to_beat_of_what_was_heard() {
    let mut view = heard();
    let shifted = |code| KeyEvent::new(code, KeyModifiers::SHIFT);
    let mut moved = |keys: &[KeyEvent]| {
        let mut asked = Vec::new();
        for key in keys {
            let Handled::Done(asks) = view.key(*key) else { panic!("{key:?} means something") };
            asked.extend(asks.into_iter().filter_map(|ask| if let Ask::Command(one) = ask { Some(one) } else { None }));
        }
        let clips = edited(&view, &asked).timelines[0].clips.clone();
        clips.iter().map(|clip| format!("{:.2} {:.2}", clip.at, clip.length)).collect::<Vec<_>>()
    };
    assert_eq!(moved(&[shifted(KeyCode::Right)]), ["0.20 4.00", "4.00 4.00"]);
    assert_eq!(moved(&[KeyCode::Char('>').into()]), ["0.00 4.20", "4.00 4.00"]);
    assert_eq!(moved(&[KeyCode::Right.into(), shifted(KeyCode::Left)]), ["0.00 4.00", "3.80 4.00"]);
    assert_eq!(moved(&[KeyCode::Char('s').into()]), ["0.00 4.00", "4.00 1.80", "5.80 2.20"]);
}

#[test]
fn the_ruler_has_parts_bars_and_nearer_its_beats_and_follows_what_plays() {
    let mut view = heard();
    let rests = TimelineState::default();
    let rows = drawn(&mut view, rests);
    assert!(rows[0].contains("song.wav"), "{rows:?}");
    assert!(rows[1].contains("╷intro") && rows[1].contains("╷drop"), "{rows:?}");
    assert!(rows[2].contains("╷1·") && rows[2].contains("╷9") && !rows[2].contains('\''), "{rows:?}");
    press(&mut view, &typed("iii"));
    let rows = drawn(&mut view, rests);
    assert!(rows[2].contains("╷2") && rows[2].contains('\''), "{rows:?}");
    assert!(rows.iter().any(|row| row.contains("0.0 to 5.0 s in sight")), "{rows:?}");
    let plays = TimelineState { runs: true, at: 20.0, ..rests };
    let rows = drawn(&mut view, plays);
    assert!(rows[0].contains("plays, 20.0 of 40 seconds, bar 13, drop"), "{rows:?}");
    assert!(rows[2].contains('▼'), "what plays is in sight: {rows:?}");
    press(&mut view, &typed("ooo"));
    assert!(!drawn(&mut view, rests).iter().any(|row| row.contains("in sight")));
}

#[test]
fn a_recording_is_asked_for_and_a_list_gets_a_clip() {
    let mut view = heard();
    let asked = press(&mut view, &[KeyCode::Char('h'), KeyCode::Enter]);
    let told: Vec<String> = asked.iter().map(Command::to_string).collect();
    assert_eq!(told, ["hear-recording Song song.wav"]);
    let mut keys = vec![KeyCode::Char('a')];
    keys.extend([KeyCode::Down; 3]);
    keys.extend([KeyCode::Right, KeyCode::Enter]);
    let asked = press(&mut view, &keys);
    let show = edited(&view, &asked);
    let clip = show.timelines[0].clips.iter().find(|clip| clip.list.is_some()).expect("a clip of a list");
    assert_eq!((clip.list.as_deref(), clip.tier.as_str()), (Some("Opening"), ""));
    view.show = Some(Arc::new(show));
    let rows = drawn(&mut view, TimelineState::default());
    assert!(rows.iter().any(|row| row.contains("Opening") && row.contains("cues")), "{rows:?}");
}

#[test]
fn ends_are_dragged_copies_made_and_clips_split_with_the_mouse() {
    let mut view = at_timeline();
    drawn(&mut view, TimelineState::default());
    let show = view.show.clone().expect("a show");
    let mut clips = |events: &[(MouseEventKind, u16, KeyModifiers)]| {
        let mut asks = Vec::new();
        for (kind, column, modifiers) in events {
            let event = MouseEvent { kind: *kind, column: *column, row: 5, modifiers: *modifiers };
            asks = view.mouse(event).expect("it is the view's business");
        }
        let [Ask::Command(Command::Document(DocumentCommand::Edit(edit)))] = asks.as_slice() else {
            panic!("{asks:?}")
        };
        let show = edit.apply(&show).expect("a good edit");
        show.timelines[0].clips.iter().map(|clip| format!("{} {}", clip.at, clip.length)).collect::<Vec<_>>()
    };
    let left = MouseButton::Left;
    let (down, drag, up) = (MouseEventKind::Down(left), MouseEventKind::Drag(left), MouseEventKind::Up(left));
    let none = KeyModifiers::NONE;
    // 80 columns are 16 bars, from column 13 on: the second clip has columns 33 to 52.
    assert_eq!(clips(&[(down, 52, none), (drag, 60, none), (up, 62, none)]), ["0 4", "4 6"]);
    assert_eq!(clips(&[(down, 40, KeyModifiers::CONTROL), (up, 60, none)]), ["0 4", "4 4", "8 4"]);
    assert_eq!(clips(&[(MouseEventKind::Down(MouseButton::Right), 38, none)]), ["0 4", "4 1", "5 3"]);
    // A click beside the clips asks for a new one there.
    let event = MouseEvent { kind: down, column: 63, row: 5, modifiers: none };
    assert_eq!(view.mouse(event), Some(Vec::new()));
    let asked = press(&mut view, &[typed("tide"), vec![KeyCode::Enter]].concat());
    let clip = edited(&view, &asked).timelines[0].clips.last().cloned().expect("a clip");
    assert_eq!((clip.at, clip.tier.as_str(), clip.look.as_deref()), (10.0, "base", Some("Tide")));
}
