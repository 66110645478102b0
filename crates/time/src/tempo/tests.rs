use proptest::prelude::*;

use super::*;

fn heard(time: f64, bpm: f32, beat: f64) -> Hearing {
    Hearing { time, tempo_bpm: bpm, beat, confidence: 1.0, ..Hearing::SILENCE }
}

#[test]
fn it_slews_to_the_music_without_a_jump() {
    let mut clock = Clock::new(120.0);
    let mut time = 0.0;
    for _ in 0..400 {
        time += 0.01;
        let step = clock.advance(time, &heard(time, 128.0, time * 128.0 / 60.0 + 0.4));
        assert!(step.beats >= 0.0 && step.beats < 0.01 * 128.0 / 60.0 * 1.26, "{step:?}");
    }
    let off = clock.beat() - (time * 128.0 / 60.0 + 0.4);
    assert!((off - off.round()).abs() < 0.01, "{off} beats off");
    assert_eq!(clock.source(), ClockSource::Heard);
}

fn position_at(time: f64, place: MusicPlace) -> Option<SyncPosition> {
    Some(SyncPosition {
        source: if let MusicPlace::Seconds(_) = place { SyncSource::TimeCode } else { SyncSource::Midi },
        time,
        place,
    })
}

#[test]
fn somebody_outside_leads_before_the_music_and_the_music_where_it_is_silent() {
    let mut clock = Clock::new(120.0);
    for tick in 0..600 {
        let time = f64::from(tick) * 0.01;
        // It is at beat 64 when the show begins, and is not heard of any more after three seconds.
        let told = time.min(3.0);
        clock.lead(position_at(told, MusicPlace::Beats { beat: 64.0 + told * 2.5, bpm: 150.0, counted: true }));
        let step = clock.advance(time, &heard(time, 128.0, time * 128.0 / 60.0));
        assert!(step.beats >= 0.0 && step.beats < 0.032, "{step:?}");
        if tick == 290 {
            assert!((clock.beat() - 64.0 - 2.9 * 2.5).abs() < 0.02, "{}", clock.beat());
            assert_eq!((clock.source(), clock.bpm().round()), (ClockSource::Midi, 150.0));
        }
    }
    assert_eq!((clock.source(), clock.bpm().round()), (ClockSource::Heard, 128.0));
}

#[test]
fn who_stands_leaves_the_tempo_and_who_winds_takes_the_bars_along() {
    let mut clock = Clock::new(120.0);
    let silence = Hearing::SILENCE;
    for tick in 0..300 {
        let time = f64::from(tick) * 0.01;
        let place =
            MusicPlace::Beats { beat: time * 2.5 + if tick < 200 { 0.0 } else { 101.0 }, bpm: 150.0, counted: true };
        clock.lead(position_at(time, place));
        clock.advance(time, &silence);
    }
    assert!((clock.beat() - 101.0 - 2.99 * 2.5).abs() < 0.05, "{}", clock.beat());
    clock.lead(position_at(3.0, MusicPlace::Stopped));
    clock.advance(3.0, &silence);
    assert_eq!((clock.source(), clock.bpm().round()), (ClockSource::Held, 150.0));
}

#[test]
fn time_code_leads_at_a_tempo_that_is_set() {
    let mut clock = Clock::new(120.0);
    for tick in 0..500 {
        let time = f64::from(tick) * 0.01;
        clock.lead(position_at(time, MusicPlace::Seconds(60.0 + time)));
        clock.advance(time, &Hearing::SILENCE);
        if tick == 100 {
            clock.set(90.0);
        }
    }
    assert_eq!(clock.source(), ClockSource::TimeCode);
    assert!((clock.beat() - 64.99 * 1.5).abs() < 0.05, "{}", clock.beat());
}

#[test]
fn bars_that_are_heard_for_a_while_are_taken_over_unless_they_are_set_by_hand() {
    for by_hand in [false, true] {
        let mut clock = Clock::new(120.0);
        for tick in 0..1200 {
            let time = f64::from(tick) * 0.01;
            // The music is two beats ahead of the clock, and its bars begin at its beat 3, 7, 11...
            let heard = Hearing {
                bar_beats: 4,
                bar_start: ((time * 2.0 + 2.0 - 3.0) / 4.0).floor() * 4.0 + 3.0,
                bar_confidence: 0.9,
                ..heard(time, 120.0, time * 2.0 + 2.0)
            };
            clock.advance(time, &heard);
            if by_hand && tick == 50 {
                clock.phrase_here();
            }
        }
        // At 11.99 s the music is at beat 25.98, so its bar began at 23: 2.98 beats ago.
        let in_bar = clock.beat().rem_euclid(4.0);
        let expected = if by_hand { (23.98 - 1.0f64).rem_euclid(4.0) } else { 2.98 };
        assert!((in_bar - expected).abs() < 0.02, "{by_hand}: {in_bar}");
    }
}

#[test]
fn bars_are_as_early_and_as_far_nudged_as_beats_are() {
    for (latency, nudge) in [(0.0, 0.0), (0.2, 0.0), (0.9, 0.0), (0.2, 0.3), (0.0, 0.5), (0.0, -0.5)] {
        let mut clock = Clock::new(174.0);
        clock.set_latency(latency);
        clock.nudge = nudge;
        for tick in 0..1200 {
            let time = f64::from(tick) * 0.01;
            let beat = time * 2.9;
            let bar_start = (beat / 4.0).floor() * 4.0;
            clock.advance(time, &Hearing { bar_beats: 4, bar_start, bar_confidence: 0.9, ..heard(time, 174.0, beat) });
        }
        let off = (clock.beat() - (11.99 + latency) * 2.9 - nudge + 2.0).rem_euclid(4.0) - 2.0;
        assert!(off.abs() < 0.01, "{latency} s early, nudged by {nudge}: {off}");
    }
}

#[test]
fn a_count_from_outside_stays_the_same_however_far_the_beat_is_nudged() {
    for nudge in [0.5, -0.5] {
        let mut clock = Clock::new(150.0);
        clock.nudge = nudge;
        for tick in 0..1000 {
            let time = f64::from(tick) * 0.01;
            let beat = 64.0 + time * 2.5 + f64::from(tick * 7919 % 41) / 4000.0;
            clock.lead(position_at(time, MusicPlace::Beats { beat, bpm: 150.0, counted: true }));
            clock.advance(time, &Hearing::SILENCE);
            let off = clock.beat() - 64.0 - time * 2.5;
            assert!(tick < 200 || (off - nudge).abs() < 0.02, "{time}: {off}");
        }
    }
}

#[test]
fn music_in_three_is_counted_in_three_and_bars_of_two_are_halves_of_four() {
    for (heard_bar, counted) in [(3u32, 3.0), (2, 4.0)] {
        let mut clock = Clock::new(120.0);
        let mut last = Hearing::SILENCE;
        for tick in 0..1200 {
            let time = f64::from(tick) * 0.01;
            let bar = f64::from(heard_bar);
            // Its bars begin at beat 1, 4, 7... and at 1, 3, 5...
            let start = ((time * 2.0 - 1.0) / bar).floor() * bar + 1.0;
            last = Hearing {
                bar_beats: heard_bar,
                bar_start: start,
                bar_confidence: 0.9,
                ..heard(time, 120.0, time * 2.0)
            };
            clock.advance(time, &last);
        }
        assert_eq!(clock.bar(), counted);
        let since = (last.beat - last.bar_start).rem_euclid(f64::from(heard_bar));
        assert!((clock.beat().rem_euclid(f64::from(heard_bar)) - since).abs() < 0.03, "{} {since}", clock.beat());
    }
}

#[test]
fn half_and_double_keep_the_music_as_leader() {
    let mut clock = Clock::new(120.0);
    let mut time = 0.0;
    let mut run = |clock: &mut Clock| {
        for _ in 0..500 {
            time += 0.01;
            let step = clock.advance(time, &heard(time, 90.0, time * 1.5));
            assert!(step.beats >= 0.0 && step.beats < 0.05);
        }
        (clock.bpm(), clock.source())
    };
    assert_eq!(run(&mut clock), (90.0, ClockSource::Heard));
    clock.multiply(2.0);
    assert_eq!(run(&mut clock), (180.0, ClockSource::Heard));
    clock.multiply(0.5);
    clock.multiply(0.5);
    assert_eq!(run(&mut clock), (45.0, ClockSource::Heard));
    clock.set(100.0);
    clock.multiply(2.0);
    assert_eq!(clock.bpm(), 200.0);
}

/// Music at 160 beats a minute, whose bars of four begin with its beat `first`, told with some confidence.
fn in_four(time: f64, first: f64, sure: f32) -> Hearing {
    let beat = time * 160.0 / 60.0;
    let bar_start = ((beat - first) / 4.0).floor() * 4.0 + first;
    Hearing { bar_beats: 4, bar_start, bar_confidence: sure, ..heard(time, 160.0, beat) }
}

/// The distance of the clock from a beat of its bar, counted round by so many.
fn off(clock: &Clock, beat: f64, round: f64) -> f64 {
    (clock.beat() - beat + round / 2.0).rem_euclid(round) - round / 2.0
}

#[test]
fn half_the_beats_are_those_with_which_bars_begin_and_double_ones_are_counted_from_there() {
    for (first, by_hand) in (0..4).flat_map(|first| [(first, false), (first, true)]) {
        let (mut clock, first) = (Clock::new(120.0), f64::from(first));
        let (mut time, mut since) = (0.0, 0.0);
        let mut run = |clock: &mut Clock, seconds: f64, mark: f64| {
            let end = time + seconds;
            while time < end {
                time += 0.01;
                since = time * 160.0 / 60.0 - first;
                clock.advance(time, &in_four(time, first, if by_hand { 0.0 } else { 0.9 }));
                // The hand is a little late.
                if by_hand && since >= mark + 0.05 && since < mark + 0.076 {
                    clock.bar_here();
                }
            }
            since
        };
        let since = run(&mut clock, 10.0, 12.0);
        assert!(off(&clock, since, 4.0).abs() < 0.02, "{first}, by hand: {by_hand}: {}", off(&clock, since, 4.0));
        clock.multiply(0.5);
        let since = run(&mut clock, 5.0, f64::MAX);
        assert!(off(&clock, since / 2.0, 2.0).abs() < 0.02, "{first}, by hand: {by_hand}");
        clock.multiply(2.0);
        clock.multiply(2.0);
        let since = run(&mut clock, 5.0, f64::MAX);
        assert!(off(&clock, since * 2.0, 4.0).abs() < 0.02, "{first}, by hand: {by_hand}");
    }
}

#[test]
fn where_bars_are_heard_elsewhere_it_is_the_other_half_of_the_beats_that_counts() {
    let mut clock = Clock::new(120.0);
    clock.advance(0.01, &in_four(0.01, 0.0, 0.9));
    clock.multiply(0.5);
    let mut last = clock.beat;
    for tick in 2..2000u32 {
        let time = f64::from(tick) * 0.01;
        clock.advance(time, &in_four(time, if tick < 800 { 0.0 } else { 3.0 }, 0.9));
        assert!(clock.beat > last && clock.beat - last < 0.02, "it glides");
        last = clock.beat;
    }
    let since = 19.99 * 160.0 / 60.0 - 3.0;
    assert!(off(&clock, since / 2.0, 2.0).abs() < 0.02, "{}", clock.beat());
}

#[test]
fn phrases_stay_where_they_are_in_bars_of_two_and_where_beats_are_halved() {
    for (bar, by) in [(2u32, 1.0), (4, 0.5), (4, 0.25), (3, 0.5), (4, 2.0)] {
        let mut clock = Clock::new(120.0);
        let mut moves = Vec::new();
        for tick in 0..6000u32 {
            let time = f64::from(tick) * 0.01;
            let (beat, bar_long) = (time * 2.0, f64::from(bar));
            let start = |every: f64| ((beat - 1.0) / every).floor() * every + 1.0;
            let hearing = Hearing {
                bar_beats: bar,
                bar_start: start(bar_long),
                bar_confidence: 0.9,
                phrase_start: start(8.0 * bar_long),
                phrase_confidence: 0.9,
                ..heard(time, 120.0, beat)
            };
            let before = clock.origin;
            clock.advance(time, &hearing);
            if clock.origin != before {
                moves.push(time);
            }
            if tick == 500 {
                clock.multiply(by);
            }
        }
        assert!(moves.iter().all(|time| *time < 12.0), "bars of {bar}, {by} as many: {moves:?}");
    }
}

#[test]
fn bars_that_were_marked_begin_where_they_began_when_a_tempo_that_nobody_leads_is_halved_or_doubled() {
    for (tapped, by) in [(false, 0.5), (true, 0.5), (false, 2.0), (true, 2.0)] {
        let mut clock = Clock::new(120.0);
        clock.set_latency(0.1);
        for tick in 0..1500u32 {
            let time = f64::from(tick) * 0.01;
            clock.advance(time, &Hearing::SILENCE);
            // The music goes at 120 a minute, and a bar of it begins at 1 s.
            match tick {
                100 | 150 | 200 | 250 if tapped => clock.tap(time),
                100 => clock.phrase_here(),
                613 => clock.multiply(by),
                _ => {}
            }
        }
        // Only who is led knows of sound, and is early.
        let early = if tapped { 0.1 } else { 0.0 };
        let off = off(&clock, (14.99 + early - 1.0) * 2.0 * by, 4.0);
        assert!(off.abs() < 0.02, "tapped: {tapped}, times {by}: {off}");
    }
}

#[test]
fn light_is_early_by_the_latency_and_by_the_nudge() {
    let mut clock = Clock::new(120.0);
    clock.set_latency(0.05);
    for tick in 0..600 {
        let time = f64::from(tick) * 0.01;
        clock.advance(time, &heard(time, 120.0, time * 2.0));
        if tick == 300 {
            let off = clock.beat() - time * 2.0;
            assert!((off - off.round() - 0.1).abs() < 0.005, "{off}");
            clock.nudge(-0.04);
        }
    }
    let off = clock.beat() - 5.99 * 2.0;
    assert!((off - off.round() - 0.06).abs() < 0.005, "{off}");
}

#[test]
fn taps_are_of_the_sound_and_their_light_is_early_too() {
    for latency in [0.0, 0.05, 0.3, 0.9] {
        let mut clock = Clock::new(120.0);
        clock.set_latency(latency);
        for tick in 0..600 {
            let time = f64::from(tick) * 0.01;
            clock.advance(time, &Hearing::SILENCE);
            if tick % 50 == 0 && tick <= 300 {
                clock.tap(time);
            }
        }
        let off = clock.beat() - (5.99 + latency) * 2.0;
        assert!(off.abs() < 0.005, "{latency} s early: {off}");
    }
}

#[test]
fn a_bar_that_is_marked_begins_with_the_beat_that_is_seen() {
    let phrase: fn(&mut Clock) = Clock::phrase_here;
    for mark in [phrase, Clock::bar_here, |clock| clock.tap(clock.time)] {
        let mut clock = Clock::new(150.0);
        clock.set_latency(0.28);
        for tick in 0..1000 {
            let time = f64::from(tick) * 0.01;
            clock.advance(time, &heard(time, 150.0, time * 2.5));
            // The music's beat 13 sounds at 5.2 s.
            if tick == 521 {
                mark(&mut clock);
            }
        }
        let off = clock.beat().rem_euclid(4.0) - ((9.99 + 0.28) * 2.5 - 13.0f64).rem_euclid(4.0);
        assert!(off.abs() < 0.01, "{off}");
    }
}

#[test]
fn where_nobody_leads_a_nudge_glides_even_after_taps() {
    let typed: fn(&mut Clock) = |clock| clock.set(120.0);
    for then in [typed, |clock| clock.tap(9.0)] {
        let mut clock = Clock::new(120.0);
        for time in [0.0, 0.5, 1.0] {
            clock.advance(time, &Hearing::SILENCE);
            clock.tap(time);
        }
        clock.advance(9.0, &Hearing::SILENCE);
        then(&mut clock);
        let before = clock.beat();
        clock.nudge(-0.1);
        clock.nudge(-0.1);
        assert_eq!(clock.beat(), before);
        for tick in 1..300 {
            let step = clock.advance(9.0 + f64::from(tick) * 0.01, &Hearing::SILENCE);
            assert!(step.beats > 0.0149, "{step:?}");
        }
        assert!((clock.beat() - before - 2.99 * 2.0 + 0.2).abs() < 0.005, "{} {before}", clock.beat());
    }
}

#[test]
fn music_that_is_halved_while_it_is_silent_comes_back_halved() {
    let mut clock = Clock::new(120.0);
    clock.advance(1.0, &heard(1.0, 90.0, 0.0));
    clock.advance(2.0, &Hearing::SILENCE);
    clock.multiply(0.5);
    assert_eq!((clock.bpm(), clock.source()), (45.0, ClockSource::Held));
    clock.advance(3.0, &heard(3.0, 90.0, 3.0));
    assert_eq!((clock.bpm(), clock.source()), (45.0, ClockSource::Heard));
}

#[test]
fn it_holds_the_tempo_when_the_music_is_gone() {
    let mut clock = Clock::new(120.0);
    clock.advance(1.0, &heard(1.0, 90.0, 0.0));
    clock.advance(2.0, &Hearing::SILENCE);
    assert_eq!((clock.bpm(), clock.source()), (90.0, ClockSource::Held));
}

#[test]
fn taps_set_tempo_and_bar() {
    let mut clock = Clock::new(120.0);
    let mut next_tap = 0;
    for tick in 0..400 {
        let time = f64::from(tick) * 0.01;
        clock.advance(time, &heard(time, 174.0, time));
        if tick >= 100 && (tick - 100) % 60 == 0 && next_tap < 5 {
            clock.tap(time);
            next_tap += 1;
        }
    }
    assert!((clock.bpm() - 100.0).abs() < 0.1, "{}", clock.bpm());
    assert_eq!(clock.source(), ClockSource::Tapped);
    // The first tap came at 1.0 s, so at 3.99 s almost 5 beats have gone.
    assert!((clock.beat() - 2.99 / 0.6).abs() < 0.05, "{}", clock.beat());
    clock.follow_music();
    clock.advance(5.0, &heard(5.0, 174.0, 0.0));
    assert_eq!(clock.bpm(), 174.0);
}

#[test]
fn a_single_tap_marks_a_bar_and_leaves_the_music_as_it_is_counted() {
    let mut clock = Clock::new(120.0);
    for tick in 0..800 {
        let time = f64::from(tick) * 0.01;
        clock.advance(time, &heard(time, 160.0, time * 160.0 / 60.0));
        match tick {
            100 => clock.multiply(0.5),
            // At 5.25 s the music's fourteenth beat begins, which is the seventh as it is counted.
            525 => clock.tap(time),
            _ => {}
        }
    }
    assert_eq!((clock.bpm(), clock.source()), (80.0, ClockSource::Heard));
    assert!((clock.beat() - 2.74 * 80.0 / 60.0).abs() < 0.05, "{}", clock.beat());
}

#[test]
fn one_bad_tap_does_not_spoil_the_tempo() {
    let mut clock = Clock::new(120.0);
    for time in [0.0, 0.5, 1.0, 1.1, 1.5, 2.0, 2.5] {
        clock.advance(time, &Hearing::SILENCE);
        clock.tap(time);
    }
    assert!((clock.bpm() - 120.0).abs() < 1.0, "{}", clock.bpm());
}

#[test]
fn one_bad_tap_does_not_move_the_beat_and_a_hand_that_goes_on_elsewhere_does() {
    let beat_after = |taps: &[f64]| {
        let mut clock = Clock::new(120.0);
        let mut taps = taps.iter().peekable();
        for tick in 0..=600 {
            let time = f64::from(tick) * 0.01;
            clock.advance(time, &Hearing::SILENCE);
            if taps.next_if(|tap| **tap <= time).is_some() {
                clock.tap(time);
            }
        }
        clock.beat().rem_euclid(1.0)
    };
    let off = |taps: &[f64], wanted: f64| {
        let off = (beat_after(taps) - wanted).rem_euclid(1.0);
        off.min(1.0 - off)
    };
    for slip in [2.1, 2.2, 2.3] {
        assert!(off(&[0.5, 1.0, 1.5, 2.0, slip], 0.0) < 0.01, "{slip}");
        assert!(off(&[0.5, 1.0, 1.5, 2.0, slip, 2.5], 0.0) < 0.02, "{slip}");
    }
    assert!(off(&[0.5, 1.0, 1.5, 2.0, 2.75, 3.25, 3.75], 0.5) < 0.02);
}

#[test]
fn a_bar_can_be_moved_without_moving_the_beat() {
    let mut clock = Clock::new(60.0);
    clock.advance(5.1, &Hearing::SILENCE);
    let fraction = clock.beat().fract();
    clock.bar_here();
    assert!((clock.beat() - 4.1).abs() < 1e-9, "{}", clock.beat());
    assert!((clock.beat().fract() - fraction).abs() < 1e-9);
    clock.phrase_here();
    assert!((clock.beat() - 0.1).abs() < 1e-9);
}

/// An event between two ticks, and what is heard or told from outside from then on.
#[derive(Debug, Clone)]
enum Happening {
    Tap,
    Set(f32),
    Times(f64),
    Nudge(f64),
    Follow,
    BarHere,
    PhraseHere,
    Hear(Box<Hearing>),
    Led(Option<SyncPosition>),
    Pause(f64),
}

fn happening() -> impl Strategy<Value = Happening> {
    let music = (50f32..210.0, 0f64..8.0, 0f32..1.0, 1u32..9, 0f32..1.0).prop_map(|(bpm, beat, sure, bar, bars)| {
        let (bar_start, bar_confidence) = ((beat / f64::from(bar)).floor() * f64::from(bar), bars);
        let heard = heard(0.0, bpm, beat);
        Happening::Hear(Box::new(Hearing { confidence: sure, bar_beats: bar, bar_start, bar_confidence, ..heard }))
    });
    let place = prop_oneof![
        Just(MusicPlace::Stopped),
        (0f64..5000.0).prop_map(MusicPlace::Seconds),
        (0f64..900.0, 30f64..300.0, any::<bool>()).prop_map(|(beat, bpm, counted)| MusicPlace::Beats {
            beat,
            bpm,
            counted
        }),
    ];
    prop_oneof![
        3 => Just(Happening::Tap),
        1 => (0f32..500.0).prop_map(Happening::Set),
        1 => prop_oneof![Just(0.5), Just(2.0)].prop_map(Happening::Times),
        2 => (-0.1f64..0.1).prop_map(Happening::Nudge),
        1 => Just(Happening::Follow),
        1 => Just(Happening::BarHere),
        1 => Just(Happening::PhraseHere),
        3 => music,
        2 => proptest::option::of(place).prop_map(|place| Happening::Led(place.and_then(|place| position_at(0.0, place)))),
        1 => (0f64..4.0).prop_map(Happening::Pause),
    ]
}

proptest! {
    // Whoever leads and whatever is done to it: what follows the clock is never thrown back or forth.
    #[test]
    fn it_never_jumps(happenings in proptest::collection::vec((happening(), 1u32..120), 1..40)) {
        let mut clock = Clock::new(120.0);
        let (mut time, mut music, mut told) = (0.0, (Hearing::SILENCE, 0.0), None::<(SyncPosition, f64)>);
        for (happening, ticks) in happenings {
            let before = clock.beat;
            match happening {
                Happening::Tap => clock.tap(time),
                Happening::Set(bpm) => clock.set(bpm),
                Happening::Times(by) => clock.multiply(by),
                Happening::Nudge(by) => clock.nudge(by),
                Happening::Follow => clock.follow_music(),
                Happening::BarHere => clock.bar_here(),
                Happening::PhraseHere => clock.phrase_here(),
                Happening::Hear(hearing) => music = (*hearing, time),
                Happening::Led(beacon) => told = beacon.map(|beacon| (beacon, time)),
                Happening::Pause(seconds) => time += seconds,
            }
            prop_assert_eq!(clock.beat, before);
            for _ in 0..ticks {
                time += 1.0 / 44.0;
                let (heard, since) = (music.0, time - music.1);
                let beat = heard.beat + since * f64::from(heard.tempo_bpm) / 60.0;
                clock.lead(told.map(|(beacon, since)| SyncPosition { time, place: on(beacon.place, time - since), ..beacon }));
                let (time_before, beat_before) = (clock.time, clock.beat);
                let step = clock.advance(time, &Hearing { time, beat, ..heard });
                let beats = (time - time_before) * clock.bpm / 60.0;
                prop_assert!(step.beats >= 0.749 * beats && step.beats <= 1.251 * beats, "{:?} at {}", step, clock.bpm);
                prop_assert_eq!(clock.beat, beat_before + step.beats);
                prop_assert!((7.0..=1250.0).contains(&clock.bpm) && clock.bar >= 1.0 && clock.beat().is_finite());
            }
        }
    }
}

/// The place of a source so many seconds later.
fn on(place: MusicPlace, seconds: f64) -> MusicPlace {
    match place {
        MusicPlace::Beats { beat, bpm, counted } => {
            MusicPlace::Beats { beat: beat + seconds * bpm / 60.0, bpm, counted }
        }
        MusicPlace::Seconds(at) => MusicPlace::Seconds(at + seconds),
        MusicPlace::Stopped => MusicPlace::Stopped,
    }
}
