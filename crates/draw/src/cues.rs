//! Cue lists as sheets of paper: a row for each cue, with its times as a chart.

use splimo_show::{Cue, CueList, CueTier, CueTime, GoesOn, Show};

use crate::metrics;
use crate::page::{Anchor, Page, number};

const TOP: f32 = 22.0;
const FOOT: f32 = 16.0;
const ROW: f32 = 10.0;
/// The heights of letters.
const LARGE: f32 = 4.0;
const SMALL: f32 = 2.6;
/// The widths of the columns besides those of tiers.
const NUMBER: f32 = 14.0;
const NAME: f32 = 40.0;
const TIME: f32 = 13.0;
const GOES: f32 = 34.0;
const CHART: f32 = 46.0;
/// The most tiers that have a column; those above are left out, and that is said.
const TIERS: usize = 5;
/// The seconds that the chart is wide.
const SECONDS: f32 = 30.0;
const LEGEND: &str = "a dot: as it was before   chart: white is the delay, dark the fade, light the time until it goes on; each is 30 s wide, an arrow goes on longer   beats at the tempo of the show";

/// The columns of a list: where each begins, and how wide tiers are.
struct Columns<'s> {
    tiers: Vec<&'s str>,
    left_out: usize,
    tier_width: f32,
    chart: f32,
}

impl<'s> Columns<'s> {
    fn of(list: &CueList, show: &'s Show, page: &Page) -> Self {
        let used = |tier: &str| list.cues.iter().any(|cue| cue.tier(tier).is_some());
        let all: Vec<&str> = show.stack().iter().map(|tier| tier.name.as_str()).filter(|tier| used(tier)).collect();
        let tiers: Vec<&str> = all.iter().copied().take(TIERS).collect();
        let room = page.room() - NUMBER - NAME - 3.0 * TIME - GOES - CHART;
        let tier_width = (room / tiers.len().max(1) as f32).min(40.0);
        let chart = Page::MARGIN + page.room() - CHART;
        Self { left_out: all.len() - tiers.len(), tiers, tier_width, chart }
    }

    fn tier(&self, place: usize) -> f32 {
        Page::MARGIN + NUMBER + NAME + place as f32 * self.tier_width
    }

    fn time(&self, place: usize) -> f32 {
        self.tier(self.tiers.len()) + place as f32 * TIME
    }
}

/// Pages with every cue list of a show.
#[must_use]
pub fn cues(show: &Show) -> Vec<Page> {
    let mut pages = vec![Page::a4_lying()];
    let mut y = TOP;
    for (place, list) in show.cue_lists.iter().enumerate() {
        if place > 0 {
            pages.push(Page::a4_lying());
            y = TOP;
        }
        sheet(list, show, &mut pages, &mut y);
    }
    if show.cue_lists.is_empty() {
        pages[0].text([Page::MARGIN, TOP + 6.0], LARGE, Anchor::Start, "There is no cue list yet.");
    }
    number(&mut pages, &format!("{}: cues", show.name), LEGEND);
    pages
}

fn sheet(list: &CueList, show: &Show, pages: &mut Vec<Page>, y: &mut f32) {
    let columns = Columns::of(list, show, &pages[0]);
    for (place, cue) in list.cues.iter().enumerate() {
        let Some(page) = pages.last_mut() else { return };
        let height = ROW + if cue_line(cue).is_empty() { 0.0 } else { 4.0 };
        if place == 0 || *y + height > page.height - FOOT {
            if place > 0 {
                pages.push(Page::a4_lying());
                *y = TOP;
            }
            let Some(page) = pages.last_mut() else { return };
            head(list, &columns, place > 0, *y, page);
            *y += 14.0;
        }
        let Some(page) = pages.last_mut() else { return };
        row(list, place, cue, show, &columns, *y, page);
        *y += height;
    }
    if list.cues.is_empty()
        && let Some(page) = pages.last_mut()
    {
        head(list, &columns, false, *y, page);
    }
}

fn head(list: &CueList, columns: &Columns<'_>, goes_on: bool, y: f32, page: &mut Page) {
    let mut words = list.name.clone();
    words.push_str(if goes_on { " (continued)" } else { "" });
    page.bold([Page::MARGIN, y + 3.0], 5.0, Anchor::Start, words);
    let mut about = Vec::new();
    about.extend((list.priority > 0).then(|| format!("priority {}", list.priority)));
    about.extend(list.wrap.then(|| "begins again".to_owned()));
    about.extend((columns.left_out > 0).then(|| format!("{} more tiers have no column here", columns.left_out)));
    page.grey([Page::MARGIN + page.room(), y + 3.0], SMALL, Anchor::End, about.join("   "));
    let line = y + 10.0;
    let mut title = |x: f32, words: &str| page.grey([x, line], SMALL, Anchor::Start, words);
    title(Page::MARGIN, "cue");
    title(Page::MARGIN + NUMBER, "name");
    for (place, tier) in columns.tiers.iter().enumerate() {
        title(columns.tier(place), tier);
    }
    for (place, words) in ["in", "out", "delay", "goes on"].iter().enumerate() {
        title(columns.time(place), words);
    }
    title(columns.chart, "0 s");
    page.grey([columns.chart + CHART, line], SMALL, Anchor::End, format!("{SECONDS} s"));
    page.line([Page::MARGIN, y + 12.0, Page::MARGIN + page.room(), y + 12.0], 0.3, 0.0);
}

/// A time on paper: nothing where there is none.
fn told(time: CueTime) -> String {
    if time.count() == 0.0 { "-".to_owned() } else { time.to_string() }
}

/// The text below a row: the note, and what has no column.
fn cue_line(cue: &Cue) -> String {
    let mut words: Vec<String> = Vec::new();
    let mut add = |name: &str, value: Option<f32>| words.extend(value.map(|value| format!("{name} {value}")));
    add("master", cue.master);
    add("tempo", cue.tempo);
    add("speed", cue.speed);
    words.extend(cue.controls.iter().map(|one| format!("control {} at {}", one.control, one.percent)));
    words.extend(cue.does.iter().map(|command| command.to_string()));
    words.extend((!cue.note.is_empty()).then(|| cue.note.clone()));
    words.join("   ")
}

fn row(list: &CueList, place: usize, cue: &Cue, show: &Show, columns: &Columns<'_>, y: f32, page: &mut Page) {
    let line = y + 5.5;
    page.bold([Page::MARGIN, line], LARGE, Anchor::Start, cue.number.to_string());
    let name = metrics::cut(&cue.name, LARGE * 0.85, NAME - 2.0);
    page.text([Page::MARGIN + NUMBER, line], LARGE * 0.85, Anchor::Start, name);
    for (at, tier) in columns.tiers.iter().enumerate() {
        let words = match cue.tier(tier) {
            Some(said) => CueTier::words(said),
            None if cue.others_out => "out".to_owned(),
            None => "·".to_owned(),
        };
        page.text([columns.tier(at), line], 3.0, Anchor::Start, metrics::cut(&words, 3.0, columns.tier_width - 2.0));
    }
    for (at, time) in [cue.fade_in, cue.fade_out, cue.delay].into_iter().enumerate() {
        page.text([columns.time(at), line], SMALL, Anchor::Start, told(time));
    }
    let mut goes = list.goes_on(place).to_string();
    if let Some(back) = cue.back_to {
        let times = if cue.times == 0 { "until go".to_owned() } else { format!("{} times", cue.times) };
        goes = format!("{goes}, from {back} {times}");
    }
    page.text([columns.time(3), line], SMALL, Anchor::Start, metrics::cut(&goes, SMALL, GOES - 2.0));
    chart(list, place, cue, show, columns.chart, y, page);
    let below = cue_line(cue);
    let mut foot = y + ROW - 1.5;
    if !below.is_empty() {
        page.text(
            [Page::MARGIN + NUMBER, y + 10.0],
            SMALL,
            Anchor::Start,
            metrics::cut(&below, SMALL, page.room() - NUMBER),
        );
        foot += 4.0;
    }
    page.line([Page::MARGIN, foot, Page::MARGIN + page.room(), foot], 0.1, 0.6);
}

/// Seconds of a time at the tempo of the show.
fn seconds(time: CueTime, show: &Show) -> f32 {
    let beat = 60.0 / show.settings.tempo.max(1.0);
    match time {
        CueTime::Seconds(seconds) => seconds,
        CueTime::Beats(beats) => beats * beat,
        CueTime::Bars(bars) => bars * 4.0 * beat,
    }
}

fn chart(list: &CueList, place: usize, cue: &Cue, show: &Show, left: f32, y: f32, page: &mut Page) {
    let x = |at: f32| left + (at / SECONDS).min(1.0) * CHART;
    let delay = seconds(cue.delay, show);
    let fade = delay + seconds(cue.fade_in, show).max(seconds(cue.fade_out, show));
    let stays = match list.goes_on(place) {
        GoesOn::After(time) => Some(seconds(*time, show)),
        GoesOn::ByHand | GoesOn::On(_) | GoesOn::PatternEnd | GoesOn::OnEvent(..) => None,
    };
    let end = stays.unwrap_or(fade).max(fade);
    let (top, height) = (y + 2.6, 3.6);
    page.rect([left, top, CHART, height], None, 0.05);
    if let Some(stays) = stays {
        page.rect([left, top, x(stays) - left, height], Some(0.85), 0.1);
    }
    if fade > delay {
        page.rect([x(delay), top, x(fade) - x(delay), height], Some(0.35), 0.1);
    }
    if delay > 0.0 {
        page.rect([left, top, x(delay) - left, height], Some(1.0), 0.2);
    }
    if end > SECONDS {
        page.arrow([left + CHART - 4.0, top + height / 2.0, left + CHART, top + height / 2.0], 0.3);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::page::Item;
    use splimo_document::file;

    #[test]
    fn every_cue_is_on_a_sheet_and_nothing_leaves_the_page() {
        let mut show = file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show;
        let more: Vec<Cue> =
            (20..70).map(|number| Cue::new(f64::from(number).try_into().expect("a number"), "More")).collect();
        show.cue_lists.push(CueList { cues: more, ..CueList::new("Long") });
        let pages = cues(&show);
        assert!(pages.len() >= 4, "{}", pages.len());
        let words: Vec<String> = pages
            .iter()
            .flat_map(|page| &page.items)
            .filter_map(|item| if let Item::Text { words, .. } = item { Some(words.clone()) } else { None })
            .collect();
        for list in &show.cue_lists {
            for cue in &list.cues {
                assert!(words.contains(&cue.number.to_string()), "cue {}", cue.number);
            }
        }
        assert!(words.iter().any(|words| words.contains("from 7 2 times")));
        for page in &pages {
            for item in &page.items {
                if let Item::Rect { area: [left, top, width, height], .. } = item {
                    assert!(*left >= 0.0 && left + width <= page.width + 0.01 && *top + height <= page.height);
                }
            }
        }
        assert_eq!(cues(&Show::empty("None")).len(), 1);
    }
}
