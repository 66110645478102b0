//! A step of the tutorial: its words, its keys, and what tells that it is done. They are read from a page of Markdown, in which each step
//! is a heading of the second order, a paragraph, a line of keys, and a comment that says what is to be done.

use splimo_show::Show;
use splimo_time::tempo::ClockSource;

use crate::model::Model;
use crate::views::ViewId;

/// A step.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Step {
    pub(super) title: String,
    pub(super) words: String,
    pub(super) keys: Vec<String>,
    /// The conditions that end it: words, and a number or a name behind each.
    pub(super) wanted: Vec<(String, String)>,
}

/// Reads the steps of a page.
pub(super) fn read(page: &str) -> Vec<Step> {
    page.split("\n## ").skip(1).filter_map(step).collect()
}

fn step(text: &str) -> Option<Step> {
    let (title, rest) = text.split_once('\n')?;
    let title = title.split_once(". ").map_or(title, |(_, title)| title);
    let (words, rest) = rest.split_once("**Keys:**")?;
    // A key that is a back quote stands between two of them, as Markdown has it.
    let line = rest.lines().next()?.replace("`` ` ``", "`\u{1}`");
    let keys = line.split('`').skip(1).step_by(2).map(|key| key.replace('\u{1}', "`")).collect();
    let wanted = rest.split_once("<!-- done:")?.1.split_once("-->")?.0;
    let wanted = wanted.split(',').map(|one| {
        let one = one.trim();
        let (word, value) = one.split_once(' ').unwrap_or((one, ""));
        (word.to_owned(), value.to_owned())
    });
    // On the screen nothing is slanted.
    let words = words.replace(['*', '`'], "").split_whitespace().collect::<Vec<_>>().join(" ");
    Some(Step { title: title.trim().to_owned(), words, keys, wanted: wanted.collect() })
}

impl Step {
    /// True if the person has done all of it.
    pub(super) fn is_done(&self, model: &Model, view: ViewId) -> bool {
        self.wanted.iter().all(|(word, value)| is_so(word, value, model, view) == Some(true))
    }

    /// True if everything that it wants is something that can be told.
    #[cfg(test)]
    pub(super) fn is_understood(&self) -> bool {
        let model = Model::default();
        !self.wanted.is_empty()
            && self.wanted.iter().all(|(word, value)| is_so(word, value, &model, ViewId::Rig).is_some())
    }
}

/// True if something is as a step wants it; none where that cannot be told.
fn is_so(word: &str, value: &str, model: &Model, view: ViewId) -> Option<bool> {
    let show: &Show = model.document.kept();
    let snapshot = &model.snapshot;
    let at_least = |count: usize| value.parse::<usize>().ok().map(|wanted| count >= wanted);
    let layers = || show.looks.iter().flat_map(|look| &look.layers);
    match word {
        "view" => Some(view.spec().name == value),
        "fixtures" => at_least(show.fixtures.len()),
        "addressed" => Some(!show.fixtures.is_empty() && show.fixtures.iter().all(|fixture| fixture.address.is_some())),
        "groups" => at_least(show.groups.len()),
        "routes" => at_least(show.routes.len()),
        "sends-to" => Some(show.routes.iter().any(|route| route.to.to_string().contains(value))),
        "answers" => Some(model.network.directory.devices().iter().any(|node| node.address.to_string() == value)),
        "looks" => at_least(show.looks.len()),
        "layers" => at_least(layers().count()),
        "effect" => Some(layers().any(|layer| layer.effect == value)),
        "coloured" => Some(layers().any(|layer| layer.params.contains_key("colours"))),
        "tapped" => Some(snapshot.clock.source == ClockSource::Tapped),
        "on-stage" => at_least(snapshot.tiers.iter().filter(|tier| tier.look.is_some()).count()),
        "dark" => Some(snapshot.blackout),
        "light" => Some(!snapshot.blackout),
        "cues" => at_least(show.cue_lists.iter().map(|list| list.cues.len()).sum()),
        "runs" => Some(snapshot.lists.iter().any(|list| list.at.is_some())),
        "saved" => Some(model.session.is_some() && !model.state.unsaved && !show.fixtures.is_empty()),
        _ => None,
    }
}
