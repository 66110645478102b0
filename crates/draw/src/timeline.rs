//! Timelines on paper: the clips of each tier over time, with their fades as slopes.

use splimo_show::{Clip, Follows, Marks, Show, TimeUnit, Timeline, bar_at};

use crate::metrics;
use crate::page::{Anchor, Item, Page, number};

/// The left end of the lanes, and the height of one.
const LEFT: f32 = 34.0;
const LANE: f32 = 9.0;
/// Units on a line: what is longer goes on below.
const SECONDS: f32 = 60.0;
const BARS: f32 = 32.0;
const TOP: f32 = 26.0;
const LEGEND: &str = "a block: a look on its tier, or a cue list   a slope at its end: a fade   a mark on the last lane: commands, written below it   above the lanes: the parts and bars of its recording";

/// Pages with every timeline of a show.
#[must_use]
pub fn timelines(show: &Show) -> Vec<Page> {
    let mut pages = vec![Page::a4_lying()];
    let mut y = TOP;
    for (place, line) in show.timelines.iter().enumerate() {
        if place > 0 {
            pages.push(Page::a4_lying());
            y = TOP;
        }
        draw(line, show, &mut pages, &mut y);
    }
    if show.timelines.is_empty() {
        pages[0].text([Page::MARGIN, TOP], 4.0, Anchor::Start, "There is no timeline yet.");
    }
    number(&mut pages, &format!("{}: timelines", show.name), LEGEND);
    pages
}

/// A part of a timeline that stands on one line of the page.
struct Part {
    from: f32,
    /// Millimetres for each unit.
    scale: f32,
    to: f32,
}

impl Part {
    fn x(&self, at: f32) -> f32 {
        LEFT + (at.clamp(self.from, self.to) - self.from) * self.scale
    }
}

/// The thing whose clips a lane shows.
enum Lane<'s> {
    Tier(&'s str),
    List(&'s str),
}

impl Lane<'_> {
    fn name(&self) -> &str {
        match self {
            Self::Tier(name) | Self::List(name) => name,
        }
    }

    fn has(&self, clip: &Clip) -> bool {
        match self {
            Self::Tier(name) => clip.look.is_some() && clip.tier == *name,
            Self::List(name) => clip.list.as_deref() == Some(name),
        }
    }
}

fn draw(line: &Timeline, show: &Show, pages: &mut Vec<Page>, y: &mut f32) {
    let of_line = if line.unit == TimeUnit::Bars { BARS } else { SECONDS };
    let tiers: Vec<&str> = show.stack().iter().rev().map(|tier| tier.name.as_str()).collect();
    let lists = show.cue_lists.iter().map(|list| list.name.as_str());
    let lanes = tiers.into_iter().map(Lane::Tier).chain(lists.map(Lane::List));
    let used: Vec<Lane<'_>> = lanes.filter(|lane| line.clips.iter().any(|clip| lane.has(clip))).collect();
    let height = LANE * (used.len() + 1) as f32 + 14.0;
    let scale = (Page::a4_lying().room() + Page::MARGIN - LEFT) / of_line;
    let mut from = 0.0;
    while from < line.length {
        if *y + height > Page::a4_lying().height - 12.0 {
            pages.push(Page::a4_lying());
            *y = TOP;
        }
        let Some(page) = pages.last_mut() else { return };
        if from == 0.0 {
            let follows = if line.follows == Follows::Nobody { "" } else { line.follows.name() };
            let about = format!("{} {}   {follows}", line.length, line.unit.name());
            page.bold([Page::MARGIN, *y - 2.0], 4.5, Anchor::Start, line.name.clone());
            page.grey([Page::MARGIN + page.room(), *y - 2.0], 2.8, Anchor::End, about);
        }
        part(line, &used, &Part { from, scale, to: (from + of_line).min(line.length) }, *y + 4.0, page);
        *y += height;
        from += of_line;
    }
}

fn part(line: &Timeline, lanes: &[Lane<'_>], part: &Part, y: f32, page: &mut Page) {
    let end = part.x(part.to);
    let step = if line.unit == TimeUnit::Bars { 4.0 } else { 5.0 };
    let mut at = part.from;
    while at < part.to {
        let shown = if line.unit == TimeUnit::Bars { at + 1.0 } else { at };
        page.grey([part.x(at) + 0.6, y], 2.4, Anchor::Start, shown.to_string());
        page.line([part.x(at), y - 2.0, part.x(at), y + 1.0 + LANE * (lanes.len() + 1) as f32], 0.05, 0.6);
        at += step;
    }
    if let Some(marks) = &line.marks {
        draw_marks(marks, line, part, y, page);
    }
    for (row, lane) in lanes.iter().enumerate() {
        let top = y + 2.0 + row as f32 * LANE;
        let name = metrics::cut(lane.name(), 2.8, LEFT - Page::MARGIN - 2.0);
        page.text([Page::MARGIN, top + 4.8], 2.8, Anchor::Start, name);
        page.line([LEFT, top + LANE - 1.5, end, top + LANE - 1.5], 0.05, 0.5);
        for clip in line.clips.iter().filter(|clip| lane.has(clip)) {
            block(clip, part, top, page);
        }
    }
    let top = y + 2.0 + lanes.len() as f32 * LANE;
    for clip in line.clips.iter().filter(|clip| !clip.does.is_empty() && (part.from..part.to).contains(&clip.at)) {
        let x = part.x(clip.at);
        page.items.push(Item::Triangle([x, top + 2.4, x - 1.1, top + 0.4, x + 1.1, top + 0.4]));
        page.text([x, top + 5.4], 2.2, Anchor::Start, metrics::cut(&clip.does.join("; "), 2.2, 60.0));
    }
}

/// The strokes of bars and the names of parts, above the lanes.
fn draw_marks(marks: &Marks, line: &Timeline, part: &Part, y: f32, page: &mut Page) {
    let unit = |seconds: f64| match line.unit {
        TimeUnit::Seconds => seconds as f32,
        TimeUnit::Bars => bar_at(&marks.bars, seconds).unwrap_or(0.0).max(0.0) as f32,
    };
    if line.unit == TimeUnit::Seconds {
        for bar in marks.bars.iter().map(|bar| unit(*bar)).filter(|bar| (part.from..part.to).contains(bar)) {
            page.line([part.x(bar), y + 0.6, part.x(bar), y + 1.8], 0.15, 0.3);
        }
    }
    for (place, mark) in marks.parts.iter().enumerate() {
        let (from, to) = (unit(mark.at), marks.parts.get(place + 1).map_or(line.length, |next| unit(next.at)));
        if to > part.from && from < part.to {
            let (left, right) = (part.x(from), part.x(to));
            let words = metrics::cut(&mark.kind, 2.4, (right - left - 2.0).max(0.0));
            page.text([left + 5.0, y], 2.4, Anchor::Start, words);
        }
    }
}

fn block(clip: &Clip, part: &Part, top: f32, page: &mut Page) {
    if clip.end() <= part.from || clip.at >= part.to {
        return;
    }
    let (left, right, height) = (part.x(clip.at), part.x(clip.end()), LANE - 3.0);
    page.rect([left, top + 0.5, right - left, height], Some(0.85), 0.15);
    let (low, high) = (top + 0.5 + height, top + 0.5);
    for (edge, inner) in [(clip.at, clip.at + clip.fade_in), (clip.end(), clip.end() - clip.fade_out)] {
        let (edge, inner) = (part.x(edge), part.x(inner));
        if (edge - inner).abs() > 0.2 {
            page.line([edge, low, inner, high], 0.35, 0.0);
        }
    }
    let name = clip.look.as_deref().or(clip.list.as_deref()).unwrap_or_default();
    // The name stands clear of the slopes where there is room for it.
    let (from, to) = (part.x(clip.at + clip.fade_in), part.x(clip.end() - clip.fade_out));
    let from = if to - from > 8.0 { from } else { left };
    page.text([from + 1.5, top + 4.6], 2.6, Anchor::Start, metrics::cut(name, 2.6, (right - from - 2.0).max(0.0)));
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_document::file;
    use splimo_show::PartMark;

    #[test]
    fn every_clip_is_on_paper_within_its_page() {
        let mut show = file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show;
        let long =
            Timeline { name: "Night".into(), unit: TimeUnit::Seconds, length: 900.0, ..show.timelines[0].clone() };
        show.timelines.push(long);
        let part = |at: f64, kind: &str| PartMark { at, kind: kind.to_owned() };
        show.timelines[1].marks = Some(Marks {
            recording: "song.wav".into(),
            beats: (0..1800).map(|beat| 0.5 * f64::from(beat)).collect(),
            bars: (0..450).map(|bar| 2.0 * f64::from(bar)).collect(),
            parts: vec![part(0.0, "intro"), part(200.0, "drop")],
        });
        let list = show.cue_lists[0].name.clone();
        show.timelines[1].clips.push(Clip { at: 300.0, length: 30.0, list: Some(list.clone()), ..Clip::default() });
        let pages = timelines(&show);
        assert!(pages.len() > 2, "{}", pages.len());
        let words: String = pages
            .iter()
            .flat_map(|page| &page.items)
            .filter_map(|item| if let Item::Text { words, .. } = item { Some(words.as_str()) } else { None })
            .collect();
        assert!(words.contains("intro") && words.contains("drop") && words.matches(&list).count() > 1);
        for clip in &show.timelines[0].clips {
            // A short clip has room for the beginning of its name.
            let name = clip.look.as_deref().unwrap_or("recolour");
            assert!(words.contains(&name[..3]), "{name}");
        }
        for page in &pages {
            for item in &page.items {
                if let Item::Rect { area: [left, top, width, height], .. } = item {
                    assert!(*left >= 0.0 && left + width <= page.width && top + height <= page.height, "{item:?}");
                }
            }
        }
        show.timelines.clear();
        assert_eq!(timelines(&show).len(), 1);
    }
}
