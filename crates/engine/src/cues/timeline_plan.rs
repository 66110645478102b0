//! A timeline compiled: its clips by the tier or list that they are for.

use splimo_show::{Clip, Follows, MOST_LISTS, MOST_TIERS, MOST_TIMELINES, Show, TimeUnit, bar_at};

/// The most rows of a timeline.
pub(super) const MOST_ROWS: usize = MOST_TIERS + MOST_LISTS;

/// The thing that the clips of a row are for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Row {
    Tier(usize),
    List(usize),
}

/// A clip compiled.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Span {
    pub(super) at: f64,
    pub(super) end: f64,
    /// The look, in the row of a tier.
    pub(super) look: Option<usize>,
    pub(super) fade_in: f64,
    pub(super) fade_out: f64,
}

impl Span {
    fn of(clip: &Clip, look: Option<usize>) -> Self {
        let [at, end, fade_in, fade_out] = [clip.at, clip.end(), clip.fade_in, clip.fade_out].map(f64::from);
        Self { at, end, look, fade_in, fade_out }
    }
}

/// A timeline compiled.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct TimelinePlan {
    pub priority: u8,
    pub(super) unit: TimeUnit,
    pub(super) length: f64,
    pub(super) loops: bool,
    pub(super) follows: Follows,
    /// The clips of each tier and each list that has any, in their order.
    pub(super) rows: Vec<(Row, Vec<Span>)>,
    /// The times at which the bars of its recording begin, for one that counts in them.
    pub(super) bars: Vec<f64>,
    /// The places of clips that give commands, and the clips.
    pub(super) gives: Vec<(f64, usize)>,
}

impl TimelinePlan {
    pub(super) fn all(show: &Show) -> Vec<Self> {
        show.timelines.iter().take(MOST_TIMELINES).map(|one| Self::of(one, show)).collect()
    }

    fn of(timeline: &splimo_show::Timeline, show: &Show) -> Self {
        let stack = show.stack().len().min(MOST_TIERS);
        let span = |clip: &Clip, row: Row| match row {
            Row::Tier(tier) => {
                let (look, _) = show.look(clip.look.as_deref()?)?;
                (show.tier(&clip.tier) == Some(tier)).then(|| Span::of(clip, Some(look)))
            }
            Row::List(list) => (show.cue_list(clip.list.as_deref()?) == Some(list)).then(|| Span::of(clip, None)),
        };
        let spans = |row: Row| {
            let mut spans: Vec<Span> = timeline.clips.iter().filter_map(|clip| span(clip, row)).collect();
            spans.sort_by(|a, b| a.at.total_cmp(&b.at));
            (row, spans)
        };
        let lists = show.cue_lists.len().min(MOST_LISTS);
        let rows = (0..stack).map(Row::Tier).chain((0..lists).map(Row::List));
        let heard = timeline.marks.as_ref().map(|marks| marks.bars.clone());
        let bars = heard.filter(|_| timeline.follows == Follows::Recording && timeline.unit == TimeUnit::Bars);
        let clips = timeline.clips.iter().enumerate();
        let mut gives: Vec<(f64, usize)> =
            clips.filter(|(_, clip)| !clip.does.is_empty()).map(|(place, clip)| (f64::from(clip.at), place)).collect();
        gives.sort_by(|a, b| a.0.total_cmp(&b.0));
        Self {
            priority: timeline.priority,
            unit: timeline.unit,
            length: f64::from(timeline.length),
            loops: timeline.loops,
            follows: timeline.follows,
            rows: rows.map(spans).filter(|(_, spans)| !spans.is_empty()).collect(),
            bars: bars.unwrap_or_default(),
            gives,
        }
    }

    /// The place of a time of its leader, in its unit. Bars are those that were heard in the recording, or else those of the show's
    /// tempo.
    pub(super) fn units_of(&self, seconds: f64, tempo: f32) -> f64 {
        match self.unit {
            TimeUnit::Seconds => seconds,
            TimeUnit::Bars => bar_at(&self.bars, seconds).unwrap_or(seconds * f64::from(tempo) / 240.0),
        }
    }

    /// The row of a tier or a list, and the clip that is on in it at a place.
    pub(super) fn on_in(&self, of: Row, at: f64) -> Option<(usize, usize)> {
        let row = self.rows.iter().position(|(row, _)| *row == of)?;
        Some((row, self.span(row, at)?.0))
    }

    /// The clip that is on in a row at a place: of those that lie over one another the latest.
    pub(super) fn span(&self, row: usize, at: f64) -> Option<(usize, Span)> {
        let spans = &self.rows[row].1;
        let begun = spans.partition_point(|span| span.at <= at);
        let on = spans[..begun].iter().enumerate().rev().find(|(_, span)| at < span.end)?;
        Some((on.0, *on.1))
    }
}
