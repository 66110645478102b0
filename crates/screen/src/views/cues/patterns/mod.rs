//! The patterns: the lanes of the chosen one over its bars, a cursor on their grid, and the editing of events.

mod drag;
mod drawing;
mod form;
mod grid;
mod pointing;

use std::collections::BTreeSet;

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use splimo_document::edit::Edit;
use splimo_document::making::patterns::{self, Clipping};
use splimo_show::command::EngineCommand;
use splimo_show::{Bank, Lane, LaneKind, Look, Note, PATTERN_BAR, Pattern, PatternEvent, Show, TICKS, Ticks, Tier};

pub(super) use form::PatternForm;

use super::action::Ask;
use drag::{Drag, Rows};
use grid::Window;

const NO_PATTERN: &str = "there is no pattern yet; T adds one";
const NO_LANE: &str = "the pattern has no lane yet; L adds one";

/// The reply of the part to a key.
pub(super) enum Reply {
    /// These are asked for.
    Asks(Vec<Ask>),
    /// A form opens.
    Opens(Box<PatternForm>),
    /// There is something to say.
    Says(String),
}

impl Reply {
    const NOTHING: Self = Self::Asks(Vec::new());

    fn says(words: &str) -> Self {
        Self::Says(words.to_owned())
    }
}

/// The part of the view for patterns.
#[derive(Default)]
pub(super) struct PatternPart {
    /// The name of the pattern that is chosen.
    name: String,
    lane: usize,
    at: Ticks,
    /// The corner from which a time of some lanes is chosen.
    mark: Option<(usize, Ticks)>,
    clipping: Option<Clipping>,
    /// The event that was put or changed last in each kind of lane: the next is like it.
    last: Vec<(LaneKind, PatternEvent)>,
    window: Window,
    /// The looks that landed last on their tiers.
    plays: Vec<usize>,
    rows: Rows,
    dragged: Option<Drag>,
    /// The place where the chosen one is, in beats, as it was drawn last.
    place: Option<f64>,
    /// The names of patterns that are marked, to be changed along with the chosen one.
    marked: BTreeSet<String>,
}

/// The patterns of a show, by their places among its looks.
fn all(show: &Show) -> Vec<(usize, &Look, &Pattern)> {
    let looks = show.looks.iter().enumerate();
    looks.filter_map(|(place, look)| Some((place, look, look.pattern.as_ref()?))).collect()
}

impl PatternPart {
    /// The pattern that is chosen: its place among the looks, and itself.
    pub(super) fn chosen<'s>(&self, show: &'s Show) -> Option<(usize, &'s Look, &'s Pattern)> {
        let patterns = all(show);
        patterns.iter().find(|(_, look, _)| look.name == self.name).or(patterns.first()).copied()
    }

    /// Chooses a pattern that is about to be there.
    pub(super) fn go_to(&mut self, name: &str) {
        self.name = name.to_owned();
        (self.lane, self.at, self.mark) = (0, Ticks(0), None);
    }

    /// The lane at the cursor, as a command names it: by the name of its pattern and its number.
    pub(super) fn lane_name(&self, show: &Show) -> Option<String> {
        let (_, look, pattern) = self.chosen(show)?;
        self.lane_of(pattern).map(|_| format!("{}/{}", look.name, self.lane.min(pattern.lanes.len() - 1) + 1))
    }

    fn lane_of<'s>(&self, pattern: &'s Pattern) -> Option<&'s Lane> {
        pattern.lanes.get(self.lane.min(pattern.lanes.len().checked_sub(1)?))
    }

    /// The lanes that are chosen, and from where to where: what was marked, or the event or place of the grid at the cursor.
    fn choice(&self, pattern: &Pattern) -> (Vec<usize>, Ticks, Ticks) {
        let step = pattern.grid.ticks();
        if let Some((lane, at)) = self.mark {
            let (first, last) = (lane.min(self.lane), lane.max(self.lane));
            let (from, to) = (at.min(self.at), at.max(self.at));
            let end = Ticks((to.0 + step.0).min(pattern.length().0));
            return ((first..=last.min(pattern.lanes.len().saturating_sub(1))).collect(), from, end);
        }
        let event = self.lane_of(pattern).and_then(|lane| Some(&lane.events[lane.event_at(self.at)?]));
        let (from, to) = event.map_or((self.at, Ticks(self.at.0 + step.0)), |event| (event.at, event.end()));
        (vec![self.lane], from, Ticks(to.0.min(pattern.length().0)))
    }

    /// Handles a key; none where it means nothing here.
    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Option<Reply> {
        if let KeyCode::Char('T') = key.code {
            return Some(Reply::Opens(Box::new(PatternForm::new(show))));
        }
        let known = matches!(
            key.code,
            KeyCode::Char(
                '(' | ')'
                    | 'n'
                    | 'P'
                    | 'L'
                    | 'l'
                    | 'X'
                    | 'a'
                    | 'e'
                    | 's'
                    | 'd'
                    | 'c'
                    | 'v'
                    | 'r'
                    | 'R'
                    | 'g'
                    | 'G'
                    | 'm'
                    | 'w'
                    | '<'
                    | '>'
                    | 'b'
                    | 't'
                    | 'S'
                    | 'M'
                    | 'W'
                    | '1'..='9'
            )
        ) || matches!(
            key.code,
            KeyCode::Left | KeyCode::Right | KeyCode::Up | KeyCode::Down | KeyCode::Home | KeyCode::End
        ) || matches!(
            key.code,
            KeyCode::PageUp | KeyCode::PageDown | KeyCode::Delete | KeyCode::Backspace | KeyCode::Esc
        );
        let Some((look, of, pattern)) = self.chosen(show) else { return known.then(|| Reply::says(NO_PATTERN)) };
        self.name.clone_from(&of.name);
        self.lane = self.lane.min(pattern.lanes.len().saturating_sub(1));
        self.at = Ticks(self.at.0.min(pattern.length().0.saturating_sub(1)));
        let shift = key.modifiers.contains(KeyModifiers::SHIFT);
        let forward =
            matches!(key.code, KeyCode::Right | KeyCode::Down | KeyCode::PageDown | KeyCode::Char(')' | '>' | 'g'));
        Some(match key.code {
            KeyCode::Left | KeyCode::Right if shift => self.move_event(look, of, pattern, forward),
            KeyCode::Left | KeyCode::Right => self.step(pattern, pattern.grid.ticks(), forward),
            KeyCode::PageUp | KeyCode::PageDown => self.step(pattern, Ticks(PATTERN_BAR * TICKS), forward),
            KeyCode::Home => self.to(Ticks(0)),
            KeyCode::End => self.to(Ticks(pattern.length().0 - pattern.grid.ticks().0)),
            KeyCode::Up => self.go_to_lane(self.lane.saturating_sub(1)),
            KeyCode::Down => self.go_to_lane((self.lane + 1).min(pattern.lanes.len().saturating_sub(1))),
            KeyCode::Char('(' | ')') => self.go_to_other(show, forward),
            KeyCode::Char('n') => self.play(show, look, of),
            KeyCode::Char('P') => Reply::Opens(Box::new(PatternForm::pattern(look, of, pattern, self.others(show)))),
            KeyCode::Char('M') => self.mark_pattern(&of.name),
            KeyCode::Char('L') => Reply::Opens(Box::new(PatternForm::new_lane(look, self.lane_of(pattern)))),
            KeyCode::Char('l') => match self.lane_of(pattern) {
                Some(lane) => Reply::Opens(Box::new(PatternForm::lane(look, self.lane, lane))),
                None => Reply::says(NO_LANE),
            },
            KeyCode::Char('g' | 'G') => changed(look, of, |pattern| {
                pattern.grid = beside(pattern.grid, forward);
                Ok(())
            }),
            KeyCode::Char('w') => {
                let marked = self.marked.iter().map(String::as_str).filter(|name| *name != of.name);
                let names = std::iter::once(of.name.as_str()).chain(marked);
                Reply::Asks(vec![Ask::edit(kept_out(show, &names.collect::<Vec<_>>()))])
            }
            KeyCode::Char('v') => {
                self.mark = if self.mark.is_some() { None } else { Some((self.lane, self.at)) };
                Reply::NOTHING
            }
            KeyCode::Esc if self.mark.is_some() => {
                self.mark = None;
                Reply::NOTHING
            }
            KeyCode::Char('W') => self.keep_bank_out(show, &of.name),
            KeyCode::Char('b') => self.paste(look, of, show),
            KeyCode::Char('a' | 'e' | 's' | 'd' | 'c' | 'r' | 'R' | 'm' | 'X' | '<' | '>' | 't' | 'S' | '1'..='9')
            | KeyCode::Delete
            | KeyCode::Backspace
                if pattern.lanes.is_empty() =>
            {
                Reply::says(NO_LANE)
            }
            KeyCode::Char('a') => self.put(look, of, pattern),
            KeyCode::Char('t') => self.strike(look, of, self.lane),
            KeyCode::Char(digit @ '1'..='9') => self.strike(look, of, digit as usize - '1' as usize),
            KeyCode::Char('S') => {
                let (lanes, from, to) = self.choice(pattern);
                Reply::Opens(Box::new(PatternForm::draw_over(look, lanes, from, to)))
            }
            KeyCode::Char('e') => self.change(look, pattern),
            KeyCode::Char('s') => {
                self.with_event(look, of, pattern, |lane, event, at, _| patterns::split(lane, event, at))
            }
            KeyCode::Char('<' | '>') => self.stretch(look, of, pattern, forward),
            KeyCode::Char('c') => self.copy(pattern),
            KeyCode::Char('r' | 'd') => self.repeat(look, of, pattern, key.code == KeyCode::Char('d')),
            KeyCode::Char('R') => {
                let (lanes, from, to) = self.choice(pattern);
                Reply::Opens(Box::new(PatternForm::repeat(look, lanes, from, to)))
            }
            KeyCode::Char('m') => {
                let place = self.lane;
                changed(look, of, |pattern| {
                    pattern.lanes[place].mute = !pattern.lanes[place].mute;
                    Ok(())
                })
            }
            KeyCode::Char('X') => {
                let place = self.lane;
                self.mark = None;
                changed(look, of, |pattern| {
                    pattern.lanes.remove(place);
                    Ok(())
                })
            }
            KeyCode::Delete | KeyCode::Backspace => self.take_out(look, of, pattern),
            _ => return None,
        })
    }

    /// Plays it on the tier above the lowest, so that it works on what that shows; one that plays is released.
    fn play(&self, show: &Show, look: usize, of: &Look) -> Reply {
        let tier = pattern_tier(show).name.clone();
        Reply::Asks(vec![match self.plays.contains(&look) {
            true => Ask::engine(EngineCommand::ReleaseTier(tier)),
            false => Ask::engine(EngineCommand::FireLook(format!("{tier}/{}", of.name))),
        }])
    }

    fn to(&mut self, at: Ticks) -> Reply {
        self.at = at;
        Reply::NOTHING
    }

    fn go_to_lane(&mut self, lane: usize) -> Reply {
        self.lane = lane;
        Reply::NOTHING
    }

    fn step(&mut self, pattern: &Pattern, step: Ticks, forward: bool) -> Reply {
        // A cursor that lies beside the grid goes onto it.
        let place = if forward { self.at.0 / step.0 + 1 } else { self.at.0.div_ceil(step.0).saturating_sub(1) };
        let last = (pattern.length().0 - 1) / step.0;
        self.to(Ticks(place.min(last) * step.0))
    }

    fn go_to_other(&mut self, show: &Show, forward: bool) -> Reply {
        let patterns = all(show);
        let now = patterns.iter().position(|(_, look, _)| look.name == self.name).unwrap_or(0);
        let next = if forward { (now + 1).min(patterns.len() - 1) } else { now.saturating_sub(1) };
        // The clipping goes along: it may be pasted at the same place.
        let (lane, at) = (self.lane, self.at);
        self.go_to(&patterns[next].1.name.clone());
        (self.lane, self.at) = (lane, at);
        Reply::NOTHING
    }

    /// The event that the next one in a lane is like.
    fn like(&self, kind: LaneKind) -> PatternEvent {
        let last = self.last.iter().find(|(known, _)| *known == kind).map(|(_, event)| event.clone());
        last.unwrap_or_else(|| PatternEvent {
            level: (kind == LaneKind::Level).then_some(100.0),
            colour: (kind == LaneKind::Colour).then(|| "#ffffff".to_owned()),
            rate: (kind == LaneKind::Strobe).then_some(8.0),
            ..PatternEvent::default()
        })
    }

    /// Takes note of an event, which the next is to be like.
    fn note(&mut self, kind: LaneKind, event: PatternEvent) {
        self.last.retain(|(known, _)| *known != kind);
        self.last.push((kind, event));
    }

    /// Puts an event at the cursor, or over what is marked; one of a look or an aim asks for it first.
    fn put(&mut self, look: usize, of: &Look, pattern: &Pattern) -> Reply {
        let kind = pattern.lanes[self.lane].kind;
        let (lanes, from, to) = match self.mark {
            Some(_) => self.choice(pattern),
            None => (vec![self.lane], self.at, Ticks(self.at.0 + pattern.grid.ticks().0)),
        };
        let event = PatternEvent { at: from, length: Ticks(to.0 - from.0), ..self.like(kind) };
        let names_nothing = match kind {
            LaneKind::Look => event.look.is_none(),
            LaneKind::Aim => event.aim.is_none(),
            LaneKind::Level | LaneKind::Colour | LaneKind::Strobe => false,
        };
        if names_nothing {
            return Reply::Opens(Box::new(PatternForm::event(look, self.lane, kind, &event)));
        }
        self.note(kind, event.clone());
        let reply = changed(look, of, |pattern| {
            let length = pattern.length();
            let alike = |lane: &usize| pattern.lanes[*lane].kind == kind;
            let lanes: Vec<usize> = lanes.iter().copied().filter(alike).collect();
            lanes.iter().try_for_each(|lane| patterns::put(&mut pattern.lanes[*lane], event.clone(), length))
        });
        self.mark = None;
        self.at = Ticks(to.0.min(pattern.length().0 - 1));
        reply
    }

    /// Opens the form of the event at the cursor, or of a new one.
    fn change(&mut self, look: usize, pattern: &Pattern) -> Reply {
        let lane = &pattern.lanes[self.lane];
        let (_, from, to) = self.choice(pattern);
        let known = lane.event_at(self.at).filter(|_| self.mark.is_none()).map(|event| lane.events[event].clone());
        let event =
            known.unwrap_or_else(|| PatternEvent { at: from, length: Ticks(to.0 - from.0), ..self.like(lane.kind) });
        self.mark = None;
        Reply::Opens(Box::new(PatternForm::event(look, self.lane, lane.kind, &event)))
    }

    /// Takes note of what a form has put: the next event is like it.
    pub(super) fn learn(&mut self, edit: &Edit, show: &Show) {
        if let Edit::AddLooks(_, looks) = edit
            && let Some(look) = looks.first().filter(|look| look.pattern.is_some())
        {
            return self.go_to(&look.name.clone());
        }
        let Edit::PutLooks(looks) = edit else { return };
        let Some((place, Look { name, pattern: Some(now), .. })) = looks.first() else { return };
        self.name.clone_from(name);
        let before = show.looks.get(*place).and_then(|look| look.pattern.as_ref());
        if before.is_some_and(|before| before.lanes.len() < now.lanes.len()) {
            self.lane = now.lanes.len() - 1;
            return;
        }
        let Some(lane) = now.lanes.get(self.lane) else { return };
        let known = before.and_then(|before| before.lanes.get(self.lane));
        let fresh = lane.events.iter().find(|event| known.is_none_or(|known| !known.events.contains(event)));
        if let Some(event) = fresh {
            self.note(lane.kind, event.clone());
        }
    }

    fn with_event(
        &self,
        look: usize,
        of: &Look,
        pattern: &Pattern,
        change: impl FnOnce(&mut Lane, usize, Ticks, Ticks) -> Result<(), String>,
    ) -> Reply {
        let Some(event) = pattern.lanes.get(self.lane).and_then(|lane| lane.event_at(self.at)) else {
            return Reply::says("there is no event here; a puts one");
        };
        let (lane, at) = (self.lane, self.at);
        changed(look, of, |pattern| {
            let length = pattern.length();
            change(&mut pattern.lanes[lane], event, at, length)
        })
    }

    fn stretch(&self, look: usize, of: &Look, pattern: &Pattern, longer: bool) -> Reply {
        let step = pattern.grid.ticks();
        self.with_event(look, of, pattern, |lane, event, _, length| {
            let end = lane.events[event].end().0;
            let end = if longer { end + step.0 } else { end.saturating_sub(step.0) };
            patterns::end_at(lane, event, Ticks(end), step, length);
            Ok(())
        })
    }

    fn move_event(&mut self, look: usize, of: &Look, pattern: &Pattern, later: bool) -> Reply {
        let step = pattern.grid.ticks().0;
        let Some(lane) = pattern.lanes.get(self.lane) else { return Reply::says(NO_LANE) };
        let place = lane.event_at(self.at);
        let mut moved = lane.clone();
        if let Some(place) = place {
            let at = lane.events[place].at.0;
            let to = if later { at + step } else { at.saturating_sub(step) };
            patterns::move_to(&mut moved, place, Ticks(to), pattern.length());
            self.at = moved.events[place].at;
        }
        self.with_moved(look, of, pattern, place.is_some(), moved)
    }

    fn with_moved(&self, look: usize, of: &Look, pattern: &Pattern, found: bool, lane: Lane) -> Reply {
        if !found {
            return Reply::says("there is no event here to move; a puts one");
        }
        if lane == pattern.lanes[self.lane] {
            return Reply::NOTHING;
        }
        let place = self.lane;
        changed(look, of, |pattern| {
            pattern.lanes[place] = lane;
            Ok(())
        })
    }

    fn copy(&mut self, pattern: &Pattern) -> Reply {
        let (lanes, from, to) = self.choice(pattern);
        let clipping = patterns::copy(pattern, &lanes, from, to);
        let events: usize = clipping.lanes.iter().map(|lane| lane.events.len()).sum();
        let words = format!("{events} events of {} lanes are copied; b puts them down", lanes.len());
        (self.clipping, self.at, self.mark) = (Some(clipping), from, None);
        Reply::Says(words)
    }

    /// Puts what is copied down, in the chosen pattern and in those that are marked.
    fn paste(&mut self, look: usize, of: &Look, show: &Show) -> Reply {
        let Some(clipping) = self.clipping.clone() else { return Reply::says("nothing is copied yet; c copies") };
        let others = self.others(show).into_iter().map(|other| (other, show.looks[other].clone()));
        let mut looks: Vec<(usize, Look)> = std::iter::once((look, of.clone())).chain(others).collect();
        for (_, look) in &mut looks {
            let Some(pattern) = &mut look.pattern else { continue };
            if let Err(why) = patterns::paste(pattern, &clipping, self.at) {
                return Reply::Says(format!("{}: {why}", look.name));
            }
        }
        Reply::Asks(vec![Ask::edit(Edit::PutLooks(looks))])
    }

    /// The patterns that are marked besides the chosen one, by their places among the looks.
    fn others(&self, show: &Show) -> Vec<usize> {
        let marked = all(show).into_iter().filter(|(_, look, _)| self.marked.contains(&look.name));
        marked.filter(|(_, look, _)| look.name != self.name).map(|(place, ..)| place).collect()
    }

    /// Keeps all of the bank out of the rotation that has the pattern on a pad, or lets it in again.
    fn keep_bank_out(&self, show: &Show, name: &str) -> Reply {
        let has = |bank: &&Bank| bank.pads.iter().any(|pad| pad.look.as_deref() == Some(name));
        let Some(bank) = show.banks.iter().find(has) else {
            return Reply::Says(format!("{name} is on no pad; w keeps it out alone"));
        };
        let mut names = vec![name];
        for other in bank.pads.iter().filter_map(|pad| pad.look.as_deref()) {
            if !names.contains(&other) {
                names.push(other);
            }
        }
        Reply::Asks(vec![Ask::edit(kept_out(show, &names))])
    }

    /// Marks the pattern, or does so no more.
    fn mark_pattern(&mut self, name: &str) -> Reply {
        if !self.marked.remove(name) {
            self.marked.insert(name.to_owned());
        }
        Reply::NOTHING
    }

    /// Puts an event like the last one where the pattern is that plays.
    fn strike(&mut self, look: usize, of: &Look, lane: usize) -> Reply {
        let Some(beats) = self.place else {
            return Reply::says("it does not play: n plays it, and what is struck then stays");
        };
        let kind = of.pattern.as_ref().and_then(|pattern| pattern.lanes.get(lane)).map(|lane| lane.kind);
        let like =
            kind.and_then(|kind| self.last.iter().find(|(known, _)| *known == kind).map(|(_, event)| event.clone()));
        changed(look, of, |pattern| patterns::strike(pattern, lane, beats, like).map(drop))
    }

    /// Repeats what is chosen: to the end, or once behind itself.
    fn repeat(&mut self, look: usize, of: &Look, pattern: &Pattern, once: bool) -> Reply {
        let (lanes, from, to) = self.choice(pattern);
        let reply = changed(look, of, |pattern| {
            let every = Ticks(to.0 - from.0);
            let length = if once { Ticks((to.0 + every.0).min(pattern.length().0)) } else { pattern.length() };
            lanes.iter().try_for_each(|lane| patterns::repeat(&mut pattern.lanes[*lane], from, to, every, length))
        });
        if once {
            self.at = Ticks(to.0.min(pattern.length().0 - 1));
        }
        reply
    }

    fn take_out(&mut self, look: usize, of: &Look, pattern: &Pattern) -> Reply {
        let (lanes, from, to) = self.choice(pattern);
        let empty =
            |lane: &usize| pattern.lanes[*lane].events.iter().all(|event| event.end() <= from || event.at >= to);
        if lanes.iter().all(empty) {
            return Reply::says("there is no event here to take out; X takes the lane out");
        }
        self.mark = None;
        changed(look, of, |pattern| {
            lanes.iter().for_each(|lane| patterns::clear(&mut pattern.lanes[*lane], from, to));
            Ok(())
        })
    }
}

/// The tier on which a pattern is played from here: the one above the lowest, so that it works on what that shows.
pub(super) fn pattern_tier(show: &Show) -> &Tier {
    let stack = show.stack();
    stack.get(1).unwrap_or(&stack[0])
}

/// The edit of a pattern, or why there is none.
fn changed(look: usize, of: &Look, change: impl FnOnce(&mut Pattern) -> Result<(), String>) -> Reply {
    let mut of = of.clone();
    let Some(pattern) = &mut of.pattern else { return Reply::NOTHING };
    match change(pattern) {
        Ok(()) => Reply::Asks(vec![Ask::edit(Edit::PutLooks(vec![(look, of)]))]),
        Err(why) => Reply::Says(why),
    }
}

/// The next finer grid, or the next coarser one.
fn beside(grid: Note, finer: bool) -> Note {
    let place = Note::ALL.iter().position(|note| *note == grid).unwrap_or(0);
    let next = if finer { (place + 1).min(Note::ALL.len() - 1) } else { place.saturating_sub(1) };
    Note::ALL[next]
}

/// The edit that keeps patterns out of the rotation, or lets them in again: as the first of them is not.
fn kept_out(show: &Show, names: &[&str]) -> Edit {
    let mut rotation = show.rotation.clone();
    let is_out = names.first().is_some_and(|first| rotation.without.iter().any(|one| one == first));
    rotation.without.retain(|one| !names.contains(&one.as_str()));
    if !is_out {
        rotation.without.extend(names.iter().map(|name| (*name).to_owned()));
    }
    Edit::PutRotation(Box::new(rotation))
}
