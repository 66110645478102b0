//! Channels of a source that are listened to.

/// The channels that are listened to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Channels {
    /// The mean of all.
    #[default]
    All,
    /// One, counted from 0.
    One(usize),
    /// The mean of two.
    Pair(usize, usize),
}

impl std::str::FromStr for Channels {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let number = |text: &str| text.trim().parse::<usize>().ok().filter(|n| (1..=64).contains(n)).map(|n| n - 1);
        let found = match text {
            "mono" | "all" => Some(Self::All),
            "left" => Some(Self::One(0)),
            "right" => Some(Self::One(1)),
            _ => match text.split_once('+') {
                Some((one, other)) => number(one).zip(number(other)).map(|(one, other)| Self::Pair(one, other)),
                None => number(text).map(Self::One),
            },
        };
        found.ok_or_else(|| format!("\"{text}\" is no choice of channels: write mono, left, right, 3, or 3+4"))
    }
}

impl std::fmt::Display for Channels {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::All => f.write_str("mono"),
            Self::One(channel) => write!(f, "{}", channel + 1),
            Self::Pair(one, other) => write!(f, "{}+{}", one + 1, other + 1),
        }
    }
}

impl Channels {
    /// The sample of a frame. A channel that it does not have is its last.
    pub(super) fn of(self, frame: &[f32]) -> f32 {
        let one = |channel: usize| frame.get(channel).or(frame.last()).copied().unwrap_or(0.0);
        match self {
            Self::All => frame.iter().sum::<f32>() / frame.len().max(1) as f32,
            Self::One(channel) => one(channel),
            Self::Pair(left, right) => (one(left) + one(right)) / 2.0,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn channels_are_picked_as_they_are_named() {
        for (name, expected) in [("mono", 0.5), ("left", 0.0), ("right", 1.0), ("2", 1.0), ("1+3", 0.25), ("9", 0.5)] {
            let channels: Channels = name.parse().expect("a choice");
            assert_eq!(channels.of(&[0.0, 1.0, 0.5]), expected, "{name}");
        }
        for bad in ["", "middle", "0", "1+", "65"] {
            assert!(bad.parse::<Channels>().is_err(), "{bad}");
        }
    }
}
