//! The parts of a cue as people write them, in forms and in sheets: `Undertow 60` for a tier, `3 50, 4 0` for controls.

use super::{CueControl, CueTier, Look};

/// What a cue says of tiers, as one line.
#[must_use]
pub fn says_of_tiers(tiers: &[CueTier], others_out: bool) -> String {
    let mut words: Vec<String> = tiers.iter().map(|one| format!("{}: {}", one.tier, one.words())).collect();
    if others_out {
        words.push("all others out".to_owned());
    }
    if words.is_empty() { "says nothing of any tier".to_owned() } else { words.join(", ") }
}

impl CueTier {
    /// The thing that it says, in words: a look, its level in percent, or `out`.
    #[must_use]
    pub fn words(&self) -> String {
        let shows = self.look.as_deref().or(self.out.then_some("out"));
        match (shows, self.level) {
            (Some(shows), Some(level)) => format!("{shows} {level}"),
            (Some(shows), None) => shows.to_owned(),
            (None, Some(level)) => level.to_string(),
            (None, None) => String::new(),
        }
    }

    /// The thing that some words say of a tier; nothing where there are none. A look may be meant by the beginning of its name, or by
    /// a part of it, where only one fits.
    ///
    /// # Errors
    /// Words for a person: the fault, and how to mend it.
    pub fn of_words(tier: &str, words: &str, looks: &[Look]) -> Result<Option<Self>, String> {
        let words = words.trim();
        let said = |look: Option<String>, out: bool, level: Option<f32>| {
            Ok(Some(Self { tier: tier.to_owned(), look, out, level }))
        };
        if words.is_empty() || words == "keep" {
            return Ok(None);
        }
        // A look whose own name ends in a number comes first.
        if looks.iter().any(|look| look.name == words) {
            return said(Some(words.to_owned()), false, None);
        }
        let last = words.rsplit(' ').next().unwrap_or(words);
        let (shows, level) = match last.trim_end_matches('%').parse::<f32>() {
            Ok(level) => (words[..words.len() - last.len()].trim(), Some(level)),
            Err(_) => (words, None),
        };
        if let Some(level) = level.filter(|level| !(0.0..=100.0).contains(level)) {
            return Err(format!("{tier}: {level} is no level; write a number from 0 to 100"));
        }
        match shows {
            "" => said(None, false, level),
            "out" => said(None, true, level),
            name => said(Some(look_meant(tier, name, looks)?), false, level),
        }
    }
}

/// The name of the one look that is meant.
fn look_meant(tier: &str, name: &str, looks: &[Look]) -> Result<String, String> {
    let lower = name.to_lowercase();
    let tests: [fn(&str, &str) -> bool; 3] = [|a, b| a == b, |a, b| a.starts_with(b), |a, b| a.contains(b)];
    for test in tests {
        let mut fit = looks.iter().filter(|look| test(&look.name.to_lowercase(), &lower));
        match (fit.next(), fit.next()) {
            (Some(one), None) => return Ok(one.name.clone()),
            (Some(one), Some(two)) => {
                return Err(format!("{tier}: \"{name}\" may be {} or {}; write more of it", one.name, two.name));
            }
            (None, _) => {}
        }
    }
    Err(format!("{tier}: there is no look \"{name}\"; write one of the show's, or out"))
}

impl CueControl {
    /// Some controls with their levels, in words: `3 50, 4 0`.
    #[must_use]
    pub fn words(controls: &[Self]) -> String {
        let words: Vec<String> = controls.iter().map(|one| format!("{} {}", one.control, one.percent)).collect();
        words.join(", ")
    }

    /// The controls that some words tell of.
    ///
    /// # Errors
    /// Words for a person: the fault, and how to mend it.
    pub fn of_words(words: &str) -> Result<Vec<Self>, String> {
        let parts = words.split(',').map(str::trim).filter(|part| !part.is_empty());
        parts
            .map(|part| {
                let (control, percent) = part.split_once(' ')?;
                let control = control.parse().ok().filter(|number| (1..=64).contains(number))?;
                let percent = percent.trim().parse().ok().filter(|percent| (0.0..=100.0).contains(percent))?;
                Some(Self { control, percent })
            })
            .collect::<Option<Vec<Self>>>()
            .ok_or_else(|| format!("controls: \"{words}\" tells of none; write such as 3 50, 4 0"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn looks() -> Vec<Look> {
        ["Undertow", "Undercurrent", "Gale", "Nets 2"].map(|name| Look::new(name, Vec::new())).to_vec()
    }

    #[test]
    fn what_is_said_of_a_tier_is_read_back() {
        for words in ["Undertow", "Undertow 60", "out", "out 40", "12.5", "Nets 2", "Nets 2 50"] {
            let said = CueTier::of_words("base", words, &looks()).expect(words).expect("something");
            assert_eq!(said.words(), words);
        }
        for (words, meant) in [("gale 60%", "Gale 60"), ("undert", "Undertow"), ("current 5", "Undercurrent 5")] {
            let said = CueTier::of_words("base", words, &looks()).expect(words).expect("something");
            assert_eq!(said.words(), meant);
        }
        assert_eq!(CueTier::of_words("base", " ", &looks()), Ok(None));
        for (words, why) in
            [("under", "may be Undertow or Undercurrent"), ("fog", "no look \"fog\""), ("out 101", "no level")]
        {
            let said = CueTier::of_words("base", words, &looks()).expect_err(words);
            assert!(said.contains(why), "{said}");
        }
    }

    #[test]
    fn controls_are_read_back() {
        let controls = CueControl::of_words("3 50, 64 0.5").expect("two");
        assert_eq!((controls.len(), CueControl::words(&controls)), (2, "3 50, 64 0.5".to_owned()));
        assert_eq!(CueControl::of_words("").expect("none").len(), 0);
        for bad in ["3", "0 5", "65 5", "3 101", "a b"] {
            assert!(CueControl::of_words(bad).is_err(), "{bad}");
        }
    }
}
