//! Patterns on paper: the lanes of each over its bars, level as height, colours and looks by name.

use splimo_show::{Lane, LaneKind, Look, PATTERN_BAR, Pattern, PatternEvent, Show};

use crate::metrics;
use crate::page::{Anchor, Page, number};

/// The left end of the lanes, and the height of one.
const LEFT: f32 = 52.0;
const LANE: f32 = 10.0;
const TOP: f32 = 26.0;
/// Bars on a line: what is longer goes on below.
const BARS: u32 = 8;
/// The steps in which the course of a level is drawn, for each event.
const STEPS: u32 = 12;
const LEGEND: &str = "a slope: a level, the top is 100 %   a grey line across: the level without an event   a box: a colour, a look, a strobe in flashes a second, or an aim   an arrow: it fades to the next";

/// Pages with every pattern of a show.
#[must_use]
pub fn patterns(show: &Show) -> Vec<Page> {
    let mut pages: Vec<Page> = Vec::new();
    for look in &show.looks {
        if let Some(pattern) = &look.pattern {
            pages.push(Page::a4_lying());
            draw(look, pattern, &mut pages);
        }
    }
    if pages.is_empty() {
        let mut page = Page::a4_lying();
        page.text([Page::MARGIN, TOP], 4.0, Anchor::Start, "There is no pattern yet.");
        pages.push(page);
    }
    number(&mut pages, &format!("{}: patterns", show.name), LEGEND);
    pages
}

/// A part of a pattern that stands on one line of the page, in beats.
struct Part {
    from: f64,
    to: f64,
    /// Millimetres a beat.
    scale: f32,
}

impl Part {
    fn x(&self, beats: f64) -> f32 {
        LEFT + (beats.clamp(self.from, self.to) - self.from) as f32 * self.scale
    }

    fn has(&self, event: &PatternEvent) -> bool {
        event.at.beats() < self.to && event.end().beats() > self.from
    }
}

fn draw(look: &Look, pattern: &Pattern, pages: &mut Vec<Page>) {
    let height = LANE * pattern.lanes.len() as f32 + 12.0;
    let scale = (Page::a4_lying().room() + Page::MARGIN - LEFT) / (BARS * PATTERN_BAR) as f32;
    let (mut from, mut y) = (0, TOP);
    while from < pattern.bars {
        if from > 0 && y + height > Page::a4_lying().height - 12.0 {
            pages.push(Page::a4_lying());
            y = TOP;
        }
        let Some(page) = pages.last_mut() else { return };
        if from == 0 {
            page.bold([Page::MARGIN, y - 2.0], 4.5, Anchor::Start, look.name.clone());
            page.grey([Page::MARGIN + page.room(), y - 2.0], 2.8, Anchor::End, about(look, pattern));
        }
        let beats = |bars: u32| f64::from(bars * PATTERN_BAR);
        let part = Part { from: beats(from), to: beats((from + BARS).min(pattern.bars)), scale };
        draw_part(pattern, &part, y + 4.0, page);
        y += height;
        from += BARS;
    }
}

fn about(look: &Look, pattern: &Pattern) -> String {
    let mut words = vec![format!("{} bars, grid {}", pattern.bars, pattern.grid)];
    words.extend(pattern.once.then(|| "once".to_owned()));
    words.extend((pattern.speed != 1.0).then(|| format!("{} times faster", pattern.speed)));
    words.extend(pattern.tempo.map(|tempo| format!("at {tempo} a minute")));
    if !look.fits.is_empty() {
        let fits: Vec<&str> = look.fits.iter().map(|section| section.name()).collect();
        words.push(format!("for {}", fits.join(", ")));
    }
    words.join("   ")
}

fn draw_part(pattern: &Pattern, part: &Part, y: f32, page: &mut Page) {
    let below = y + 2.0 + LANE * pattern.lanes.len() as f32;
    let mut beat = part.from;
    while beat < part.to {
        let first = beat % f64::from(PATTERN_BAR) == 0.0;
        let x = part.x(beat);
        if first {
            page.grey([x + 0.6, y], 2.4, Anchor::Start, format!("{}", beat / f64::from(PATTERN_BAR) + 1.0));
        }
        page.line([x, if first { y - 2.0 } else { y + 1.0 }, x, below], 0.05, if first { 0.5 } else { 0.8 });
        beat += 1.0;
    }
    for (row, lane) in pattern.lanes.iter().enumerate() {
        let top = y + 2.0 + row as f32 * LANE;
        let lights = if lane.lights.is_empty() { "all lights".to_owned() } else { lane.lights.join(", ") };
        let room = LEFT - Page::MARGIN - 2.0;
        page.bold([Page::MARGIN, top + 3.6], 2.6, Anchor::Start, metrics::cut_bold(lane.kind.name(), 2.6, room));
        let later = lane.later.map_or(String::new(), |note| format!(", each {note} later"));
        let left_out = if lane.mute { ", left out" } else { "" };
        let words = metrics::cut(&format!("{lights}{later}{left_out}"), 2.2, room);
        page.grey([Page::MARGIN, top + 7.2], 2.2, Anchor::Start, words);
        page.line([LEFT, top + LANE - 1.0, part.x(part.to), top + LANE - 1.0], 0.05, 0.4);
        draw_lane(lane, part, top, page);
    }
}

fn draw_lane(lane: &Lane, part: &Part, top: f32, page: &mut Page) {
    let (low, high) = (top + LANE - 1.0, top + 1.0);
    let height = |percent: f32| low - (low - high) * percent / 100.0;
    if let Some(rest) = lane.rest.filter(|rest| *rest > 0.0) {
        page.line([LEFT, height(rest), part.x(part.to), height(rest)], 0.15, 0.7);
    }
    for event in lane.events.iter().filter(|event| part.has(event)) {
        let (left, right) = (part.x(event.at.beats()), part.x(event.end().beats()));
        if lane.kind == LaneKind::Level {
            draw_level(event, part, height, page);
            continue;
        }
        page.rect([left + 0.1, high, (right - left - 0.2).max(0.2), low - high], Some(0.88), 0.15);
        let words = metrics::cut(&words(lane.kind, event), 2.3, (right - left - 1.6).max(0.0));
        page.text([left + 0.8, (low + high) / 2.0 + 0.9], 2.3, Anchor::Start, words);
        if event.fades {
            page.line([right - 2.2, low - 1.0, right - 0.8, (low + high) / 2.0], 0.3, 0.0);
            page.line([right - 2.2, high + 1.0, right - 0.8, (low + high) / 2.0], 0.3, 0.0);
        }
    }
}

/// The course of a level, from the ground up and back to it.
fn draw_level(event: &PatternEvent, part: &Part, height: impl Fn(f32) -> f32, page: &mut Page) {
    let at = |step: u32| {
        let share = step as f32 / STEPS as f32;
        let beats = event.at.beats() + f64::from(share) * event.length.beats();
        // What lies on the line before or behind is cut off where that ends.
        [part.x(beats), height(event.level_at(share.min(0.999)))]
    };
    let ground = height(0.0);
    let (first, last) = (at(0), at(STEPS));
    page.line([first[0], ground, first[0], first[1]], 0.3, 0.0);
    for step in 0..STEPS {
        let (from, to) = (at(step), at(step + 1));
        if to[0] > from[0] {
            page.line([from[0], from[1], to[0], to[1]], 0.3, 0.0);
        }
    }
    page.line([last[0], last[1], last[0], ground], 0.3, 0.0);
}

fn words(kind: LaneKind, event: &PatternEvent) -> String {
    match kind {
        LaneKind::Level => String::new(),
        LaneKind::Colour => event.colour.as_deref().unwrap_or_default().trim_matches(['{', '}']).to_owned(),
        LaneKind::Look => event.look.clone().unwrap_or_default(),
        LaneKind::Strobe => format!("{}/s", event.rate.unwrap_or(0.0)),
        LaneKind::Aim => {
            let aim = event.aim.clone().unwrap_or_default();
            match event.glide.map(|glide| (glide.beats() * 100.0).round() / 100.0) {
                None => aim,
                Some(1.0) => format!("{aim}, in 1 beat"),
                Some(beats) => format!("{aim}, in {beats} beats"),
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::page::Item;
    use splimo_document::file;

    #[test]
    fn every_pattern_has_its_lanes_and_its_bars_on_paper() {
        let mut show = file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show;
        let pages = patterns(&show);
        assert_eq!(pages.len(), 4);
        let words: Vec<&str> = pages[0]
            .items
            .iter()
            .filter_map(|item| if let Item::Text { words, .. } = item { Some(words.as_str()) } else { None })
            .collect();
        for wanted in [
            "Drop Hits",
            "8",
            "Signal red",
            "4/s",
            "strobe",
            "Floor, in 1 beat",
            "Beams, in 4 beats",
            "8 bars, grid 1/8   for drop",
        ] {
            assert!(words.contains(&wanted), "{wanted}: {words:?}");
        }
        for page in &pages {
            for item in &page.items {
                match item {
                    Item::Line { ends: [x, y, to_x, to_y], .. } => {
                        assert!([*x, *to_x].iter().all(|x| (0.0..=page.width).contains(x)), "{item:?}");
                        assert!([*y, *to_y].iter().all(|y| (0.0..=page.height).contains(y)), "{item:?}");
                    }
                    Item::Rect { area: [left, _, width, _], .. } => {
                        assert!(*width > 0.0 && left + width <= page.width, "{item:?}");
                    }
                    Item::Triangle(_) | Item::Text { .. } => {}
                }
            }
        }
        show.looks.iter_mut().for_each(|look| look.pattern = None);
        assert_eq!(patterns(&show).len(), 1);
    }
}
