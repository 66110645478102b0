//! Scripts of stand-ins: lines of a time in seconds from the beginning and what is done then, such as `1.5 press 36`. `#` begins a
//! comment. A line `again` begins anew from there.

/// A line of a script.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// Its number in the file, from 1.
    pub number: usize,
    at: f64,
    text: String,
}

impl Line {
    /// Its words behind the time.
    #[must_use]
    pub fn words(&self) -> Vec<&str> {
        self.text.split_whitespace().collect()
    }
}

/// A script.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Script {
    lines: Vec<Line>,
    next: usize,
    /// The time at which it began, or began anew.
    from: f64,
}

impl Script {
    /// Reads a script.
    ///
    /// # Errors
    /// The line that is wrong, and what it could be.
    pub fn read(text: &str) -> Result<Self, String> {
        let mut lines: Vec<Line> = Vec::new();
        for (number, line) in (1..).zip(text.lines()) {
            let line = line.split('#').next().unwrap_or_default().trim();
            if line.is_empty() {
                continue;
            }
            let (time, text) = line.split_once(char::is_whitespace).unwrap_or((line, ""));
            let odd =
                || format!("line {number}: \"{time}\" is no time in seconds; write one first, such as 1.5 press 36");
            let at = time.parse().ok().filter(|at: &f64| (0.0..1e6).contains(at)).ok_or_else(odd)?;
            if lines.last().is_some_and(|before| before.at > at) {
                return Err(format!("line {number}: {at} lies before the line above it"));
            }
            lines.push(Line { number, at, text: text.trim().to_owned() });
        }
        Ok(Self { lines, next: 0, from: 0.0 })
    }

    /// The lines that are due, once each.
    pub fn due(&mut self, now: f64) -> Vec<Line> {
        let mut due = Vec::new();
        while let Some(line) = self.lines.get(self.next).filter(|line| self.from + line.at <= now) {
            self.next += 1;
            if line.text == "again" && line.at > 0.0 {
                (self.from, self.next) = (self.from + line.at, 0);
                break;
            }
            due.push(line.clone());
        }
        due
    }

    /// True if there is nothing more to come.
    #[must_use]
    pub fn is_done(&self) -> bool {
        self.next >= self.lines.len()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_are_due_once_and_again_begins_anew() {
        let mut script = Script::read("0 press 36 # the first\n\n0.5 let-go 36\n1 again\n").expect("a script");
        let words = |due: Vec<Line>| due.iter().map(|line| line.text.clone()).collect::<Vec<_>>();
        assert_eq!(words(script.due(0.0)), ["press 36"]);
        assert_eq!(words(script.due(0.9)), ["let-go 36"]);
        assert!(words(script.due(1.0)).is_empty() && !script.is_done());
        assert_eq!(words(script.due(1.1)), ["press 36"]);
        assert_eq!(words(script.due(1.6)), ["let-go 36"]);
        for (bad, why) in [("soon press 36", "line 1"), ("2 a\n1 b", "line 2"), ("-1 a", "line 1")] {
            assert!(Script::read(bad).expect_err(bad).contains(why), "{bad}");
        }
    }
}
