//! Colour as light: linear, unclamped `f32` components with the primaries of sRGB (IEC 61966-2-1) and white D65.

use std::fmt;
use std::sync::LazyLock;

use crate::maths;

/// Linear red, green, blue and alpha, straight (not premultiplied). 1.0 is the full light of an emitter.
pub type Rgba = [f32; 4];

/// No light that covers nothing.
pub const CLEAR: Rgba = [0.0; 4];

/// Decodes one sRGB component (0..1) to linear light (IEC 61966-2-1, 4.2).
#[must_use]
pub fn srgb_to_linear(value: f32) -> f32 {
    if value <= 0.040_45 { value / 12.92 } else { maths::powf((value + 0.055) / 1.055, 2.4) }
}

/// Encodes linear light (clamped to 0..1) as one sRGB component (IEC 61966-2-1, 4.2).
#[must_use]
pub fn linear_to_srgb(light: f32) -> f32 {
    let light = light.clamp(0.0, 1.0);
    if light <= 0.003_130_8 { light * 12.92 } else { 1.055 * maths::powf(light, 1.0 / 2.4) - 0.055 }
}

/// Linear light as the 8-bit sRGB triple that a screen shows.
#[must_use]
pub fn to_screen(light: [f32; 3]) -> [u8; 3] {
    let codes = &*SCREEN_CODES;
    light.map(|c| codes.of(c))
}

/// Screen codes by light. Screens are drawn from thousands of lights many times a second, so that a power for each would be
/// most of what drawing costs.
static SCREEN_CODES: LazyLock<ScreenCodes> = LazyLock::new(ScreenCodes::new);

/// The number of equal parts of 0..1 that have an entry: so many that at most one code begins within each.
const PARTS: usize = 4096;

struct ScreenCodes {
    /// The least light of each code.
    begins: [f32; 256],
    /// The code at the beginning of each part.
    parts: [u8; PARTS + 1],
}

impl ScreenCodes {
    fn new() -> Self {
        let code = |light: f32| (linear_to_srgb(light) * 255.0 + 0.5) as u8;
        // Of numbers from 0 on, the bits are in the same order as the numbers themselves.
        let begin = |wanted: usize| {
            let (mut low, mut high) = (0, 1.0f32.to_bits());
            while low < high {
                let middle = low + (high - low) / 2;
                let reached = usize::from(code(f32::from_bits(middle))) >= wanted;
                (low, high) = if reached { (low, middle) } else { (middle + 1, high) };
            }
            f32::from_bits(low)
        };
        Self { begins: std::array::from_fn(begin), parts: std::array::from_fn(|part| code(part as f32 / PARTS as f32)) }
    }

    fn of(&self, light: f32) -> u8 {
        let light = light.clamp(0.0, 1.0);
        let code = self.parts[(light * PARTS as f32) as usize];
        let begins_next = self.begins.get(usize::from(code) + 1).is_some_and(|next| light >= *next);
        code + u8::from(begins_next)
    }
}

/// A colour in OKLab (B. Ottosson, "A perceptual color space for image processing", 2020): lightness 0..1, then the
/// green-red and the blue-yellow axis, about -0.4..0.4 each.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OkLab {
    /// Perceived lightness, 0..1.
    pub l: f32,
    /// Green (negative) to red.
    pub a: f32,
    /// Blue (negative) to yellow.
    pub b: f32,
}

impl OkLab {
    /// From linear sRGB.
    #[must_use]
    pub fn from_linear([r, g, b]: [f32; 3]) -> Self {
        let l = maths::cbrt(0.412_221_46 * r + 0.536_332_55 * g + 0.051_445_995 * b);
        let m = maths::cbrt(0.211_903_5 * r + 0.680_699_5 * g + 0.107_396_96 * b);
        let s = maths::cbrt(0.088_302_46 * r + 0.281_718_85 * g + 0.629_978_7 * b);
        Self {
            l: 0.210_454_26 * l + 0.793_617_8 * m - 0.004_072_047 * s,
            a: 1.977_998_5 * l - 2.428_592_2 * m + 0.450_593_7 * s,
            b: 0.025_904_037 * l + 0.782_771_77 * m - 0.808_675_77 * s,
        }
    }

    /// To linear sRGB; components outside 0..1 (colours that the emitters cannot make) are clamped.
    #[must_use]
    pub fn to_linear(self) -> [f32; 3] {
        let l = self.l + 0.396_337_78 * self.a + 0.215_803_76 * self.b;
        let m = self.l - 0.105_561_346 * self.a - 0.063_854_17 * self.b;
        let s = self.l - 0.089_484_18 * self.a - 1.291_485_5 * self.b;
        let (l, m, s) = (l * l * l, m * m * m, s * s * s);
        [
            4.076_741_7 * l - 3.307_711_6 * m + 0.230_969_94 * s,
            -1.268_438 * l + 2.609_757_4 * m - 0.341_319_38 * s,
            -0.004_196_086_3 * l - 0.703_418_6 * m + 1.707_614_7 * s,
        ]
        .map(|c| c.clamp(0.0, 1.0))
    }

    /// The colour a share `t` (0..1) of the way to `other`.
    #[must_use]
    pub fn mix(self, other: Self, t: f32) -> Self {
        let lerp = |from: f32, to: f32| from + (to - from) * t;
        Self { l: lerp(self.l, other.l), a: lerp(self.a, other.a), b: lerp(self.b, other.b) }
    }
}

impl OkLab {
    /// The colour a share `t` (0..1) of the way to `other` along the hue circle: upward through yellow and green to blue,
    /// or downward. A grey has no hue and takes that of the other.
    #[must_use]
    pub fn mix_along_hue(self, other: Self, t: f32, up: bool) -> Self {
        let chroma = |c: Self| (c.a * c.a + c.b * c.b).sqrt();
        let (from, to) = (chroma(self), chroma(other));
        let grey = |chroma: f32| chroma < 0.02;
        let hue = |c: Self| maths::angle_turns(c.a, c.b);
        let (start, end) = match (grey(from), grey(to)) {
            (true, _) => (hue(other), hue(other)),
            (_, true) => (hue(self), hue(self)),
            _ => (hue(self), hue(other)),
        };
        let way = maths::fract(end - start);
        let way = if up || way == 0.0 { way } else { way - 1.0 };
        let (hue, chroma) = (start + way * t, from + (to - from) * t);
        Self {
            l: self.l + (other.l - self.l) * t,
            a: chroma * maths::cos_turns(hue),
            b: chroma * maths::sin_turns(hue),
        }
    }
}

/// A colour as a person writes it: sRGB with alpha, 8 bits each, `#rrggbb` or `#rrggbbaa`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Hex(pub [u8; 4]);

impl Hex {
    /// Reads `#rrggbb` or `#rrggbbaa`; `None` for anything else.
    #[must_use]
    pub fn parse(text: &str) -> Option<Self> {
        let digits = text.strip_prefix('#')?;
        if !digits.bytes().all(|b| b.is_ascii_hexdigit()) {
            return None;
        }
        let value = u32::from_str_radix(digits, 16).ok()?;
        match digits.len() {
            6 => Some(Self(((value << 8) | 0xff).to_be_bytes())),
            8 => Some(Self(value.to_be_bytes())),
            _ => None,
        }
    }

    /// The colour as linear light.
    #[must_use]
    pub fn to_linear(self) -> Rgba {
        let [r, g, b, a] = self.0.map(|c| f32::from(c) / 255.0);
        [srgb_to_linear(r), srgb_to_linear(g), srgb_to_linear(b), a]
    }
}

impl fmt::Display for Hex {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let [r, g, b, a] = self.0;
        write!(f, "#{r:02x}{g:02x}{b:02x}")?;
        if a == 255 { Ok(()) } else { write!(f, "{a:02x}") }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn srgb_matches_the_standard_at_its_corners() {
        assert_eq!(srgb_to_linear(0.0), 0.0);
        assert!((srgb_to_linear(1.0) - 1.0).abs() < 1e-6);
        assert!((srgb_to_linear(0.5) - 0.214_041).abs() < 1e-5);
        assert!((linear_to_srgb(0.214_041) - 0.5).abs() < 1e-5);
    }

    #[test]
    fn screen_codes_are_those_of_the_formula() {
        let formula = |light: f32| (linear_to_srgb(light) * 255.0 + 0.5) as u8;
        let all = (0..=1 << 18).map(|step| step as f32 / (1 << 18) as f32).chain([-1.0, 2.0]);
        for light in all {
            assert_eq!(to_screen([light; 3]), [formula(light); 3], "{light}");
        }
        assert_eq!(to_screen([f32::NAN; 3]), [0; 3], "what is no number is dark");
        for begins in SCREEN_CODES.begins {
            for light in [begins.next_down(), begins, begins.next_up()] {
                assert_eq!(to_screen([light; 3]), [formula(light); 3], "{light}");
            }
        }
    }

    #[test]
    fn oklab_of_white_and_red_match_the_paper() {
        let white = OkLab::from_linear([1.0, 1.0, 1.0]);
        assert!((white.l - 1.0).abs() < 1e-3 && white.a.abs() < 1e-3 && white.b.abs() < 1e-3);
        let red = OkLab::from_linear([1.0, 0.0, 0.0]);
        assert!((red.l - 0.628).abs() < 1e-3 && (red.a - 0.225).abs() < 1e-3 && (red.b - 0.126).abs() < 1e-3);
    }

    #[test]
    fn hex_refuses_what_is_not_a_colour() {
        for bad in ["", "#", "112233", "#12345", "#12345g", "#+12345", "#1234567", "#éé"] {
            assert_eq!(Hex::parse(bad), None, "{bad}");
        }
        assert_eq!(Hex::parse("#0A141eff").map(|h| h.to_string()), Some("#0a141e".into()));
    }

    proptest! {
        #[test]
        fn screen_codes_survive_the_road_through_light_and_oklab(rgb in any::<[u8; 3]>()) {
            let [r, g, b, _] = Hex([rgb[0], rgb[1], rgb[2], 255]).to_linear();
            prop_assert_eq!(to_screen([r, g, b]), rgb);
            let back = to_screen(OkLab::from_linear([r, g, b]).to_linear());
            for (was, is) in rgb.iter().zip(back) {
                prop_assert!(was.abs_diff(is) <= 1, "{:?} became {:?}", rgb, back);
            }
        }

        #[test]
        fn hex_text_round_trips(rgba in any::<[u8; 4]>()) {
            prop_assert_eq!(Hex::parse(&Hex(rgba).to_string()), Some(Hex(rgba)));
        }
    }
}
