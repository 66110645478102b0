//! Response curves: how the light of an emitter answers to a value.

use serde::{Deserialize, Serialize};

/// The way the light of an emitter answers to a value; its inverse makes values out of light.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Curve {
    /// Light rises with the value, as with LEDs driven by pulse width.
    #[default]
    Linear,
    /// Light is the square of the value, as with dimmers of a square law.
    Square,
    /// Light is a power of the value, 0.1..10.
    Gamma(f32),
    /// Light goes straight from point to point: `[value, light]`, both 0..1, and both rise.
    Points(Vec<[f32; 2]>),
}

impl Curve {
    /// The most points of a curve.
    pub const MOST_POINTS: usize = 64;

    /// The value that gives some light, both 0..1, along the points of a curve. What lies outside of them goes straight
    /// to 0 and to 1.
    #[must_use]
    pub fn value_on(points: &[[f32; 2]], light: f32) -> f32 {
        let after = points.partition_point(|p| p[1] < light);
        let from = after.checked_sub(1).map_or([0.0, 0.0], |i| points[i]);
        let to = points.get(after).copied().unwrap_or([1.0, 1.0]);
        if to[1] <= from[1] {
            return to[0];
        }
        from[0] + (to[0] - from[0]) * (light - from[1]) / (to[1] - from[1])
    }

    /// The fault in it, if there is one.
    #[must_use]
    pub fn fault(&self) -> Option<String> {
        match self {
            Self::Linear | Self::Square => None,
            Self::Gamma(gamma) if (0.1..=10.0).contains(gamma) => None,
            Self::Gamma(gamma) => Some(format!("a gamma of {gamma} is out of range; write a number from 0.1 to 10")),
            Self::Points(points) if points.is_empty() || points.len() > Self::MOST_POINTS => {
                Some(format!("a curve has 1 to {} points, and this has {}", Self::MOST_POINTS, points.len()))
            }
            Self::Points(points) => {
                let inside = points.iter().flatten().all(|x| (0.0..=1.0).contains(x));
                let rises = points.windows(2).all(|pair| pair[0][0] < pair[1][0] && pair[0][1] <= pair[1][1]);
                (!inside || !rises).then(|| "the points of a curve lie within 0 and 1, and rise".to_owned())
            }
        }
    }
}

/// A curve as one types it: `linear`, `square`, `gamma 2.2`, or points such as `0.25 0.04; 0.5 0.2`.
impl std::fmt::Display for Curve {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Linear => f.write_str("linear"),
            Self::Square => f.write_str("square"),
            Self::Gamma(gamma) => write!(f, "gamma {gamma}"),
            Self::Points(points) => {
                let points: Vec<String> = points.iter().map(|[value, light]| format!("{value} {light}")).collect();
                f.write_str(&points.join("; "))
            }
        }
    }
}

impl std::str::FromStr for Curve {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let text = text.trim();
        let odd = || {
            format!("\"{text}\" is not a curve: write linear, square, gamma 2.2, or points such as 0.25 0.04; 0.5 0.2")
        };
        let curve = match text.split_once(' ') {
            None if text == "linear" => Self::Linear,
            None if text == "square" => Self::Square,
            Some(("gamma", number)) => Self::Gamma(number.trim().parse().map_err(|_| odd())?),
            _ => {
                let pair = |text: &str| {
                    let (value, light) = text.trim().split_once(' ')?;
                    Some([value.trim().parse().ok()?, light.trim().parse().ok()?])
                };
                Self::Points(text.split(';').map(pair).collect::<Option<_>>().ok_or_else(odd)?)
            }
        };
        curve.fault().map_or(Ok(curve), Err)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn points_are_followed_and_completed() {
        let points = [[0.5, 0.2], [0.8, 0.6]];
        for (light, value) in [(0.0, 0.0), (0.1, 0.25), (0.2, 0.5), (0.4, 0.65), (0.6, 0.8), (0.8, 0.9), (1.0, 1.0)] {
            let is = Curve::value_on(&points, light);
            assert!((is - value).abs() < 1e-5, "{light} gave {is}");
        }
    }

    #[test]
    fn what_cannot_be_followed_is_refused() {
        for text in ["gamma 0", "gamma x", "0.5", "0.5 0.5; 0.2 0.7", "1.5 0.2", "", "cubic"] {
            assert!(text.parse::<Curve>().is_err(), "{text}");
        }
    }

    proptest! {
        #[test]
        fn curves_round_trip_as_text(gamma in 0.1f32..10.0, value in 0f32..0.5, light in 0f32..0.5) {
            let points = Curve::Points(vec![[value, light], [value + 0.25, light + 0.5]]);
            for curve in [Curve::Linear, Curve::Square, Curve::Gamma(gamma), points] {
                prop_assert_eq!(curve.to_string().parse(), Ok(curve));
            }
        }
    }
}
