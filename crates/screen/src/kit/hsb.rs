//! Colours as a person turns them: hue, saturation and brightness of screen codes (sRGB), and whites by their temperature.

use splimo_base::colour::Hex;
use splimo_base::colour_words;

/// Hue in degrees 0..360, saturation and brightness 0..100, of a screen code.
pub(crate) fn hsb(rgb: [u8; 3]) -> [f64; 3] {
    let [r, g, b] = rgb.map(f64::from);
    let (high, low) = (r.max(g).max(b), r.min(g).min(b));
    let range = high - low;
    let hue = if range == 0.0 {
        0.0
    } else if high == r {
        ((g - b) / range).rem_euclid(6.0)
    } else if high == g {
        (b - r) / range + 2.0
    } else {
        (r - g) / range + 4.0
    };
    let saturation = if high == 0.0 { 0.0 } else { range / high * 100.0 };
    [(hue * 60.0).round(), saturation.round(), (high / 2.55).round()]
}

/// The screen code of hue, saturation and brightness.
pub(crate) fn rgb([hue, saturation, brightness]: [f64; 3]) -> [u8; 3] {
    let (h, s, b) = (hue.rem_euclid(360.0) / 60.0, saturation / 100.0, brightness / 100.0);
    let part = |n: f64| {
        let k = (n + h).rem_euclid(6.0);
        let value = b - b * s * k.min(4.0 - k).clamp(0.0, 1.0);
        (value * 255.0).round() as u8
    };
    [part(5.0), part(3.0), part(1.0)]
}

/// The screen code of a white of so many kelvin, as bright as it can be.
pub(crate) fn white(kelvin: f64) -> [u8; 3] {
    let Hex([r, g, b, _]) = colour_words::white(kelvin as f32);
    [r, g, b]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hues_come_back() {
        for code in [[255, 0, 0], [255, 128, 0], [18, 200, 90], [0, 0, 255], [255, 255, 255], [0, 0, 0], [120, 60, 130]]
        {
            let back = rgb(hsb(code));
            for (was, is) in code.iter().zip(back) {
                assert!(was.abs_diff(is) <= 2, "{code:?} became {back:?}");
            }
        }
        assert_eq!(rgb([120.0, 100.0, 100.0]), [0, 255, 0]);
    }

    #[test]
    fn warm_whites_are_red_and_cold_ones_blue() {
        let (warm, cold) = (white(2700.0), white(9000.0));
        assert!(warm[0] == 255 && warm[2] < 150 && cold[2] == 255 && cold[0] < 240, "{warm:?} {cold:?}");
    }
}
