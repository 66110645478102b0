//! The cues of a list as a table: as many columns as there is room for, those that matter most first.

use splimo_show::{Cue, CueList, CueTier, GoesOn, Show};

use crate::kit::words::shortened;

/// A column: its head, its width, and where its words come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Of {
    Number,
    Name,
    Tier(usize),
    FadeIn,
    FadeOut,
    Delay,
    GoesOn,
}

/// The columns of the table for a width.
pub(super) struct Columns(Vec<(Of, usize)>);

/// The widths of tiers, of names, and of the way to go on.
const TIER: usize = 13;
const NAME: usize = 16;
const GOES: usize = 18;

impl Columns {
    /// Chooses columns: the number, the name and the way to go on; then tiers, from the lowest, as far as the list says something of
    /// them; then the times.
    pub(super) fn new(list: &CueList, show: &Show, width: usize) -> Self {
        let number = list.cues.iter().map(|cue| cue.number.to_string().len()).max().unwrap_or(1).max(2) + 2;
        let narrow = width < 70;
        let (name, goes) = if narrow { (12, 14) } else { (NAME, GOES) };
        let mut room = width.saturating_sub(number + name + goes + 2);
        let mut take = |of: Of, wanted: usize| {
            let fits = room > wanted;
            room -= if fits { wanted + 1 } else { 0 };
            fits.then_some((of, wanted))
        };
        let used = |tier: &str| list.cues.iter().any(|cue| cue.tier(tier).is_some() || cue.others_out);
        let stack = show.stack().iter().enumerate().filter(|(_, tier)| used(&tier.name));
        let tiers: Vec<_> =
            stack.filter_map(|(place, _)| take(Of::Tier(place), if narrow { 10 } else { TIER })).collect();
        let times: Vec<_> =
            [(Of::FadeIn, 5), (Of::FadeOut, 5), (Of::Delay, 5)].into_iter().filter_map(|(of, w)| take(of, w)).collect();
        let mut columns = vec![(Of::Number, number), (Of::Name, name)];
        columns.extend(tiers);
        columns.extend(times);
        columns.push((Of::GoesOn, goes));
        Self(columns)
    }

    /// The heads.
    pub(super) fn heads(&self, show: &Show) -> Vec<(String, usize)> {
        let head = |of: &Of| match of {
            Of::Number => " n".to_owned(),
            Of::Name => "name".to_owned(),
            Of::Tier(place) => show.stack()[*place].name.clone(),
            Of::FadeIn => "in".to_owned(),
            Of::FadeOut => "out".to_owned(),
            Of::Delay => "delay".to_owned(),
            Of::GoesOn => "goes on".to_owned(),
        };
        self.0.iter().map(|(of, width)| (shortened(&head(of), *width), *width)).collect()
    }

    /// The words of a cue.
    pub(super) fn cells(&self, cue: &Cue, place: usize, list: &CueList, show: &Show) -> Vec<(String, usize)> {
        let cell = |of: &Of| match of {
            Of::Number => cue.number.to_string(),
            Of::Name => cue.name.clone(),
            Of::Tier(tier) => match cue.tier(&show.stack()[*tier].name) {
                Some(said) => told(said),
                None if cue.others_out => "out".to_owned(),
                None => "·".to_owned(),
            },
            Of::FadeIn => brief(&cue.fade_in.to_string()),
            Of::FadeOut => brief(&cue.fade_out.to_string()),
            Of::Delay => brief(&cue.delay.to_string()),
            Of::GoesOn => goes_on(cue, place, list),
        };
        self.0.iter().map(|(of, width)| (shortened(&cell(of), *width), *width)).collect()
    }
}

fn told(said: &CueTier) -> String {
    if said.look.is_none() && !said.out { format!("· {}", said.words()) } else { said.words() }
}

/// A time in few letters: `2 bt` is two beats, `1 br` a bar.
fn brief(time: &str) -> String {
    match time {
        "0" => "-".to_owned(),
        time => time.replace(" beats", " bt").replace(" beat", " bt").replace(" bars", " br").replace(" bar", " br"),
    }
}

fn goes_on(cue: &Cue, place: usize, list: &CueList) -> String {
    let way = list.goes_on(place);
    let inherited = cue.then == GoesOn::ByHand && *way != GoesOn::ByHand;
    let words = if inherited { format!("({way})") } else { way.to_string() };
    match (cue.back_to, cue.times) {
        (None, _) => words,
        (Some(back), 0) => format!("↺{back} {words}"),
        (Some(back), times) => format!("↺{back} x{times} {words}"),
    }
}
