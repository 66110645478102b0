//! The running of cue lists: go, back, go to, skip, pause, reset and release, and what goes on by itself.

use super::super::Engine;
use super::super::fade::{Fade, Length};
use super::super::night::StageEvent;
use super::super::wish::{Stay, Wish};
use super::Put;
use super::claimant::Claimant;
use super::claims::{Claims, Owner};
use super::moment::Late;
use super::moment::Moment;
use super::plan::{Named, length};
use super::running::{Entry, Goes, Waiting, begun};
use super::values::{Glide, Value, ValueId};
use splimo_show::MOST_TIERS;
use splimo_show::command::{CueSet, CueTarget, Origin};
use splimo_time::rate::Step;

/// The most cues that a list goes on by in a frame: one whose cues take no time runs no further.
const MOST_A_FRAME: usize = 32;

impl Engine {
    /// Goes on to the next cue of a list.
    pub(crate) fn go_cue(&mut self, name: &str) {
        if let Some(list) = self.now.show.cue_list(name) {
            self.go_on(list, Late::default(), false);
        }
    }

    /// Goes back to the cue before, by the fade of the setting.
    pub(crate) fn back_cue(&mut self, name: &str) {
        let Some(list) = self.now.show.cue_list(name) else { return };
        let back = self.cues.lists[list].at.and_then(|at| self.now.cues.lists[list].before(at));
        if let Some(place) = back {
            self.go_to(list, place, self.now.show.settings.cue_back_fade);
        }
    }

    /// Goes to a cue at once, or in a time.
    pub(crate) fn go_to_cue(&mut self, target: &CueTarget) {
        let Some(list) = self.now.show.cue_list(&target.cue.list) else { return };
        if let Some(place) = self.now.show.cue_lists[list].place(target.cue.number) {
            self.go_to(list, place, target.seconds);
        }
    }

    /// Goes to the first cue, by the fade of the setting.
    pub(crate) fn reset_cues(&mut self, name: &str) {
        let Some(list) = self.now.show.cue_list(name) else { return };
        if !self.now.cues.lists[list].cues.is_empty() {
            self.go_to(list, 0, self.now.show.settings.cue_back_fade);
        }
    }

    /// Passes over the cue that comes next.
    pub(crate) fn skip_cue(&mut self, name: &str) {
        let Some(list) = self.now.show.cue_list(name) else { return };
        let (plan, now) = (&self.now.cues.lists[list], &mut self.cues.lists[list]);
        let Some((next, _)) = now.next(plan, false) else { return };
        now.instead = plan.next(Some(next), &now.passes, false).map(|(place, _)| place);
    }

    /// Holds a list and its fades where they are, or lets them go on.
    pub(crate) fn pause_cues(&mut self, name: &str) {
        if let Some(list) = self.now.show.cue_list(name) {
            self.pause_list(list, !self.cues.lists[list].paused);
        }
    }

    /// Holds a list that runs, or lets it go on.
    pub(super) fn pause_list(&mut self, list: usize, paused: bool) {
        let now = &self.cues.lists[list];
        if now.at.is_some() && now.paused != paused {
            self.pause(list, paused);
            self.happen(Claimant::List(list).origin(), StageEvent::CuesPaused { list, paused });
        }
    }

    /// Begins a list at its first cue, by the fades of that.
    pub(super) fn begin_list(&mut self, list: usize, late: Late) {
        self.release_list(list);
        self.go_on(list, late, false);
    }

    /// Ends a list and gives back what it had, by the fade of the setting.
    pub(crate) fn release_cues(&mut self, name: &str) {
        if let Some(list) = self.now.show.cue_list(name) {
            self.release_list(list);
        }
    }

    /// Ends a list, if it runs.
    pub(super) fn release_list(&mut self, list: usize) {
        if self.cues.lists[list].at.is_none() {
            return;
        }
        self.pause(list, false);
        self.cues.lists[list].rest();
        let fade = Length::Seconds(f64::from(self.now.show.settings.cue_back_fade));
        let moment = self.moment_of(Late::default());
        for tier in 0..self.playing.tiers.tiers.len() {
            self.release_claim(Claimant::List(list), tier, moment, fade);
        }
        for id in ValueId::all() {
            self.release_value(list, id, moment, fade);
        }
        self.happen(Claimant::List(list).origin(), StageEvent::CuesReleased { list });
    }

    /// Goes on from cues for which an event came, if the list is at one of them.
    pub(crate) fn cue_goes_on(&mut self, cues: &CueSet) {
        let Some(list) = self.now.show.cue_list(&cues.list) else { return };
        let now = &self.cues.lists[list];
        let there = now.at.is_some_and(|at| cues.numbers.contains(&self.now.cues.lists[list].cues[at].number));
        if there && !now.paused {
            self.go_on(list, Late::default(), true);
        }
    }

    /// True if a list waits for the end of a pattern, and one that it shows has come to its end since the last step.
    fn pattern_has_ended(&mut self, list: usize) -> bool {
        let Goes::AtEnd(mut ends) = self.cues.lists[list].goes else { return false };
        let mut ended = false;
        for (tier, (seen, claims)) in ends.iter_mut().zip(&self.cues.tiers).enumerate() {
            let put = claims
                .of(Claimant::List(list))
                .and_then(|put| put.look)
                .filter(|_| tier < self.playing.tiers.tiers.len());
            let Some(now) = put.and_then(|look| self.now.players[look].pattern_ends(self.conductor.look_beat())) else {
                continue;
            };
            // One that has begun anew meanwhile counts from there.
            ended |= *seen != u64::MAX && now > *seen;
            *seen = now;
        }
        // An end that comes while the list is held is none of its own.
        self.cues.lists[list].goes = Goes::AtEnd(ends);
        ended && !self.cues.lists[list].paused
    }

    /// For each tier the look to which heads go ahead in the dark: that of the next cue of a list that runs, where the cue says so.
    pub(crate) fn looks_ahead(&self) -> [Option<usize>; MOST_TIERS] {
        let mut looks = [None; MOST_TIERS];
        for (plan, now) in self.now.cues.lists.iter().zip(&self.cues.lists).filter(|(_, now)| now.at.is_some()) {
            let Some(cue) = now.next(plan, false).and_then(|(place, _)| plan.cues.get(place)) else { continue };
            if cue.ahead {
                for (look, said) in looks.iter_mut().zip(cue.tiers) {
                    *look = said.flatten().or(*look);
                }
            }
        }
        looks
    }

    /// Goes on by a step: what is due begins, what has waited fades.
    pub(crate) fn run_lists(&mut self, step: Step) {
        self.glide(step);
        for list in 0..self.cues.lists.len() {
            if self.cues.lists[list].at.is_none() {
                continue;
            }
            self.cues.lists[list].advance(step);
            self.end_wait(list);
            if self.pattern_has_ended(list) {
                self.go_on(list, Late::default(), true);
            }
            for _ in 0..MOST_A_FRAME {
                let (beat, pace) = (self.conductor.beat(), self.pace());
                let Some(late) = self.cues.lists[list].due(beat, pace, self.conductor.metre()) else { break };
                if !self.go_on(list, late, true) {
                    break;
                }
                self.end_wait(list);
            }
        }
    }

    pub(super) fn pace(&self) -> f64 {
        self.conductor.clock().bpm() / 60.0
    }

    /// Goes on to the next cue. Returns false at the end of the list.
    fn go_on(&mut self, list: usize, late: Late, by_itself: bool) -> bool {
        let (plan, now) = (&self.now.cues.lists[list], &mut self.cues.lists[list]);
        let Some((place, pass)) = now.next(plan, by_itself) else {
            // It stays at its end and waits no more.
            if by_itself {
                now.wait_to_go_on(&super::plan::ListPlan::default(), 0.0, Late::default(), 1.0);
            }
            return false;
        };
        now.count(pass);
        let (cue, bar) = (&plan.cues[place], self.conductor.clock().bar());
        let entry = Entry { named: cue.named, fade_in: length(cue.fade_in, bar), fade_out: length(cue.fade_out, bar) };
        let delay = length(cue.delay, bar);
        self.begin(list, place, late);
        let moment = self.moment_of(late);
        let earlier = self.cues.lists[list].waiting.take();
        let entry =
            Entry { named: earlier.map_or(entry.named, |earlier| earlier.entry.named.and(entry.named)), ..entry };
        if delay.count() > 0.0 {
            let timer = begun(moment.beat, late, delay);
            self.cues.lists[list].waiting = Some(Waiting { timer, entry });
        } else {
            self.enter(list, entry, late);
        }
        true
    }

    fn go_to(&mut self, list: usize, place: usize, seconds: f32) {
        let now = &mut self.cues.lists[list];
        now.waiting = None;
        now.passes.fill(0);
        self.begin(list, place, Late::default());
        let fade = Length::Seconds(f64::from(seconds));
        self.enter(list, Entry { named: Named::ALL, fade_in: fade, fade_out: fade }, Late::default());
    }

    fn begin(&mut self, list: usize, place: usize, late: Late) {
        if self.cues.lists[list].paused {
            self.pause(list, false);
        }
        let (beat, bar) = (self.conductor.beat(), self.conductor.clock().bar());
        let (plan, now) = (&self.now.cues.lists[list], &mut self.cues.lists[list]);
        (now.at, now.instead) = (Some(place), None);
        now.wait_to_go_on(plan, beat, late, bar);
        let cue = plan.cues[place].number;
        self.happen(Claimant::List(list).origin(), StageEvent::CueBegan { list, cue });
    }

    /// Begins the fades of a cue whose delay is over.
    fn end_wait(&mut self, list: usize) {
        let (beat, pace) = (self.conductor.beat(), self.pace());
        let now = &mut self.cues.lists[list];
        let over = now.waiting.and_then(|waiting| Some((waiting.entry, waiting.timer.over_by(beat, pace)?)));
        if let Some((entry, beats)) = over {
            now.waiting = None;
            self.enter(list, entry, Late { beats, seconds: beats / pace });
        }
    }

    pub(super) fn moment_of(&self, late: Late) -> Moment {
        Moment { beat: self.conductor.beat(), late }
    }

    /// Has the stage become what the list says at the cue where it is.
    fn enter(&mut self, list: usize, entry: Entry, late: Late) {
        let Some(place) = self.cues.lists[list].at else { return };
        let moment = self.moment_of(late);
        let Entry { named, fade_in, fade_out } = entry;
        self.cues.order += 1;
        for tier in 0..self.playing.tiers.tiers.len() {
            let wanted = self.now.cues.lists[list].cues[place].tiers[tier];
            let said = self.cues.tiers[tier].of(Claimant::List(list)).map(|put| put.look);
            match wanted {
                Some(look) if said != wanted || named.tiers >> tier & 1 == 1 => {
                    let fade = if look.is_some() { fade_in } else { fade_out };
                    self.claim(Claimant::List(list), tier, look, moment, fade);
                }
                Some(_) => {}
                None => self.release_claim(Claimant::List(list), tier, moment, fade_out),
            }
        }
        for id in ValueId::all() {
            let wanted = self.now.cues.lists[list].cues[place].value(id);
            let said = self.cues.values[id.place()].of(Claimant::List(list));
            match wanted {
                Some(value) if said != wanted || named.values >> id.place() & 1 == 1 => {
                    self.claim_value(list, id, value, moment, fade_in);
                }
                Some(_) => {}
                None => self.release_value(list, id, moment, fade_out),
            }
        }
        if let Some(tempo) = self.now.cues.lists[list].cues[place].tempo.filter(|_| named.tempo) {
            self.move_clock(|clock| clock.set(tempo));
        }
        let longer = if self.beats(fade_in) >= self.beats(fade_out) { fade_in } else { fade_out };
        self.cues.lists[list].fade = begun(moment.beat, late, longer);
    }

    fn beats(&self, length: Length) -> f64 {
        Fade::new(0.0, length).whole(self.pace())
    }

    pub(super) fn claim(&mut self, by: Claimant, tier: usize, look: Option<usize>, moment: Moment, fade: Length) {
        let before = || {
            let (look, by, pad) = self.playing.tiers.tiers[tier].for_good();
            // What a list left there that is gone is nobody's.
            let look = look.filter(|_| !matches!(by, Origin::List(_) | Origin::Timeline(_)));
            Put { look, by, pad }
        };
        let put = Put { look, by: by.origin(), pad: None };
        self.cues.tiers[tier].say(by, put, self.cues.order, before);
        self.yield_to(tier, by.origin());
        self.show_top(tier, Owner::Claimant(by), moment, fade);
    }

    pub(super) fn release_claim(&mut self, by: Claimant, tier: usize, moment: Moment, fade: Length) {
        let plans = &self.now.cues;
        let claims = &mut self.cues.tiers[tier];
        if claims.of(by).is_none() {
            return;
        }
        let had = claims.top(|one| plans.priority(one)).is_some_and(|(owner, _)| owner == Owner::Claimant(by));
        claims.release(by);
        let top = claims.top(|list| plans.priority(list));
        if !claims.is_claimed() {
            *claims = Claims::NONE;
        }
        if let Some((_, put)) = top.filter(|_| had) {
            self.put(tier, put, moment, fade);
        }
    }

    /// Shows what somebody said of a tier if they have it.
    fn show_top(&mut self, tier: usize, owner: Owner, moment: Moment, fade: Length) {
        let top = self.cues.tiers[tier].top(|list| self.now.cues.priority(list));
        if let Some((_, put)) = top.filter(|(top, _)| *top == owner) {
            self.put(tier, put, moment, fade);
        }
    }

    fn put(&mut self, tier: usize, put: Put, moment: Moment, fade: Length) {
        let Put { look, by, pad } = put;
        let Moment { beat, late } = moment;
        let same = self.playing.tiers.tiers[tier].stage().target() == look;
        if let Some(look) = look {
            self.come_on(look);
        }
        let wish =
            Wish { tier, look, fade: 0.0, fade_out: self.now.show.settings.fade_beats, stay: Stay::ForGood, by, pad };
        let now = &mut self.playing.tiers.tiers[tier];
        now.land_in(&wish, beat - late.beats, fade);
        if !same {
            now.advance(beat, Step { seconds: late.seconds, beats: 0.0 });
            let fade = self.beats(fade) as f32;
            let event = match look {
                Some(look) => StageEvent::Landed { tier, look, fade },
                None => StageEvent::Cleared { tier },
            };
            self.happen(by, event);
        }
    }

    /// Takes note of what hands put on a tier. Whether they may: a list of priority keeps it, and gives it to them later.
    pub(crate) fn hands_put(&mut self, wish: &Wish) -> bool {
        let tier = wish.tier;
        let Some(claims) = self.cues.tiers.get_mut(tier).filter(|claims| claims.is_claimed()) else { return true };
        if wish.stay == Stay::ForGood {
            self.cues.order += 1;
            claims.hands_say(Put { look: wish.look, by: wish.by, pad: wish.pad }, self.cues.order);
        }
        let Some((Owner::Claimant(owner), _)) = claims.top(|list| self.now.cues.priority(list)) else { return true };
        let kept = self.now.cues.priority(owner) > 0;
        if kept {
            self.happen(wish.by, StageEvent::Kept { tier, owner });
        }
        !kept
    }

    fn claim_value(&mut self, list: usize, id: ValueId, value: f32, moment: Moment, fade: Length) {
        // What is on its way back to the hands is theirs where it arrives.
        let now = self.value(id);
        let before = self.cues.glides[id.place()].filter(|glide| glide.has(now)).map_or(now, |glide| glide.to);
        self.cues.values[id.place()].say(Claimant::List(list), value, self.cues.order, || before);
        let top = self.cues.values[id.place()].top(|list| self.now.cues.priority(list));
        if top.is_some_and(|(owner, _)| owner == Owner::Claimant(Claimant::List(list))) {
            self.glide_to(list, id, value, moment, fade);
        }
    }

    fn release_value(&mut self, list: usize, id: ValueId, moment: Moment, fade: Length) {
        let by = Claimant::List(list);
        let Some(said) = self.cues.values[id.place()].of(by) else { return };
        let now = self.value(id);
        let plans = &self.now.cues;
        let claims = &mut self.cues.values[id.place()];
        let had = claims.top(|one| plans.priority(one)).is_some_and(|(owner, _)| owner == Owner::Claimant(by));
        claims.release(by);
        let top = claims.top(|list| plans.priority(list));
        if !claims.is_claimed() {
            *claims = Claims::NONE;
        }
        // Where a hand has moved it, it stays where the hand left it.
        let untouched = now == said || self.cues.glides[id.place()].is_some_and(|glide| glide.has(now));
        if let Some((_, value)) = top.filter(|_| had && untouched) {
            self.glide_to(list, id, value, moment, fade);
        }
    }

    fn glide_to(&mut self, list: usize, id: ValueId, to: f32, moment: Moment, fade: Length) {
        let Moment { beat, late } = moment;
        let from = self.value(id);
        let mut glide = Glide::new(from, to, beat - late.beats, fade, list);
        if let Some(value) = glide.advance(from, beat, Step { seconds: late.seconds, beats: 0.0 }) {
            self.set_value(id, value);
        }
        self.cues.glides[id.place()] = Some(glide).filter(|glide| !glide.is_over());
    }

    /// Moves every value that is on its way.
    fn glide(&mut self, step: Step) {
        let beat = self.conductor.beat();
        for id in ValueId::all() {
            let Some(mut glide) = self.cues.glides[id.place()] else { continue };
            let value = glide.advance(self.value(id), beat, step);
            if let Some(value) = value {
                self.set_value(id, value);
            }
            self.cues.glides[id.place()] = Some(glide).filter(|glide| value.is_some() && !glide.is_over());
        }
    }

    fn value(&self, id: ValueId) -> f32 {
        match id.value() {
            Value::Level(tier) => self.playing.tiers.tiers.get(tier).map_or(1.0, |tier| tier.level),
            Value::Master => self.playing.master,
            Value::Speed => self.conductor.speed.speed(),
            Value::Control(control) => self.conductor.controls[control],
        }
    }

    fn set_value(&mut self, id: ValueId, value: f32) {
        match id.value() {
            Value::Level(tier) => {
                if let Some(tier) = self.playing.tiers.tiers.get_mut(tier) {
                    tier.set_level(value);
                }
            }
            Value::Master => self.playing.master = value.clamp(0.0, 1.0),
            Value::Speed => self.conductor.speed.set(value),
            Value::Control(control) => self.conductor.controls[control] = value.clamp(0.0, 1.0),
        }
    }

    /// Holds a list, the fades on the tiers that it has, and the values that it moves; or lets all go on.
    fn pause(&mut self, list: usize, paused: bool) {
        self.cues.lists[list].pause(paused);
        for (claims, tier) in self.cues.tiers.iter().zip(&mut self.playing.tiers.tiers) {
            let top = claims.top(|list| self.now.cues.priority(list));
            if top.is_some_and(|(owner, _)| owner == Owner::Claimant(Claimant::List(list))) {
                tier.hold(paused);
            }
        }
        for glide in self.cues.glides.iter_mut().flatten().filter(|glide| glide.list == list) {
            glide.hold(paused);
        }
    }
}
