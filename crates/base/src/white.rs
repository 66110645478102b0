//! White points: what the white of an output is to look like.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// The white point of an output: factors by which white looks as it is to.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum WhitePoint {
    /// As it comes.
    #[default]
    Plain,
    /// Like a black body of so many kelvin, 1700..25000, where the white of the lights is that of 6500.
    Kelvin(f32),
    /// So much of red, green and blue, in percent, 0..100.
    Percent([f32; 3]),
}

/// A text that is no white point.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "\"{0}\" is not a white point: write plain, a temperature such as 4500 K (1700 to 25000), or percent of red, green and blue such as 100 90 75"
)]
pub struct BadWhitePoint(String);

impl WhitePoint {
    /// The factors of red, green and blue, 0..1.
    #[must_use]
    pub fn gains(self) -> [f32; 3] {
        match self {
            Self::Plain => [1.0; 3],
            Self::Percent(percent) => percent.map(|p| p / 100.0),
            Self::Kelvin(kelvin) => {
                let (wanted, usual) = (black_body(f64::from(kelvin)), black_body(6500.0));
                let ratio: [f64; 3] = std::array::from_fn(|i| (wanted[i] / usual[i]).max(0.0));
                let most = ratio.into_iter().fold(f64::MIN_POSITIVE, f64::max);
                ratio.map(|r| (r / most) as f32)
            }
        }
    }

    /// True if it leaves colours as they are.
    #[must_use]
    pub fn is_plain(&self) -> bool {
        *self == Self::Plain
    }
}

/// The colour of a black body in linear sRGB, of any brightness.
///
/// Source: B. Kang et al., "Design of advanced color temperature control system for HDTV applications", Journal of the Korean
/// Physical Society 41 (2002), cubic approximations of the Planckian locus; IEC 61966-2-1 for the matrix.
fn black_body(kelvin: f64) -> [f64; 3] {
    let t = kelvin.clamp(1667.0, 25_000.0);
    let cubic = |[a, b, c, d]: [f64; 4], x: f64| ((a * x + b) * x + c) * x + d;
    let inverse = 1000.0 / t;
    let x = if t < 4000.0 {
        cubic([-0.266_123_9, -0.234_358_9, 0.877_695_6, 0.179_910], inverse)
    } else {
        cubic([-3.025_846_9, 2.107_037_9, 0.222_634_7, 0.240_390], inverse)
    };
    let y = if t < 2222.0 {
        cubic([-1.106_381_4, -1.348_110_20, 2.185_558_32, -0.202_196_83], x)
    } else if t < 4000.0 {
        cubic([-0.954_947_6, -1.374_185_93, 2.091_370_15, -0.167_488_67], x)
    } else {
        cubic([3.081_758_0, -5.873_386_70, 3.751_129_97, -0.370_014_83], x)
    };
    let (big_x, big_z) = (x / y, (1.0 - x - y) / y);
    [
        3.240_97 * big_x - 1.537_383 - 0.498_611 * big_z,
        -0.969_244 * big_x + 1.875_968 + 0.041_555 * big_z,
        0.055_63 * big_x - 0.203_977 + 1.056_972 * big_z,
    ]
}

impl FromStr for WhitePoint {
    type Err = BadWhitePoint;

    fn from_str(text: &str) -> Result<Self, BadWhitePoint> {
        let text = text.trim();
        let bad = || BadWhitePoint(text.chars().take(60).collect());
        if text == "plain" {
            return Ok(Self::Plain);
        }
        if let Some(number) = text.strip_suffix('K').or_else(|| text.strip_suffix('k')) {
            let kelvin: f32 = number.trim().parse().map_err(|_| bad())?;
            return if (1700.0..=25_000.0).contains(&kelvin) { Ok(Self::Kelvin(kelvin)) } else { Err(bad()) };
        }
        let percent: Vec<f32> = text.split_whitespace().map(str::parse).collect::<Result<_, _>>().map_err(|_| bad())?;
        match <[f32; 3]>::try_from(percent) {
            Ok(percent) if percent.iter().all(|p| (0.0..=100.0).contains(p)) => Ok(Self::Percent(percent)),
            _ => Err(bad()),
        }
    }
}

impl fmt::Display for WhitePoint {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Plain => f.write_str("plain"),
            Self::Kelvin(kelvin) => write!(f, "{kelvin} K"),
            Self::Percent([r, g, b]) => write!(f, "{r} {g} {b}"),
        }
    }
}

impl TryFrom<String> for WhitePoint {
    type Error = BadWhitePoint;
    fn try_from(text: String) -> Result<Self, BadWhitePoint> {
        text.parse()
    }
}

impl From<WhitePoint> for String {
    fn from(white: WhitePoint) -> Self {
        white.to_string()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn warm_whites_take_from_blue_and_cool_ones_from_red() {
        assert_eq!(WhitePoint::Kelvin(6500.0).gains(), [1.0; 3]);
        let [r, g, b] = WhitePoint::Kelvin(3200.0).gains();
        assert!(r == 1.0 && (0.4..0.65).contains(&g) && (0.1..0.35).contains(&b), "{r} {g} {b}");
        let [r, g, b] = WhitePoint::Kelvin(10_000.0).gains();
        assert!(b == 1.0 && r < g && g < b, "{r} {g} {b}");
    }

    proptest! {
        #[test]
        fn gains_stay_within_range_and_have_no_steps(kelvin in 1700f32..24_900.0) {
            let (here, there) = (WhitePoint::Kelvin(kelvin).gains(), WhitePoint::Kelvin(kelvin * 1.002).gains());
            for (a, b) in here.into_iter().zip(there) {
                prop_assert!((0.0..=1.0).contains(&a) && (a - b).abs() < 0.01);
            }
        }

        #[test]
        fn any_text_is_a_white_point_or_an_error(text in "[0-9 Kk.]{0,12}|\\PC{0,8}") {
            if let Ok(read) = text.parse::<WhitePoint>() {
                prop_assert_eq!(read.to_string().parse(), Ok(read));
            }
        }
    }
}
