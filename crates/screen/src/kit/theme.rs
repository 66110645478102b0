//! The colours of the chrome, and what becomes of colours where the terminal has fewer of them.

use ratatui::style::{Color, Modifier, Style};

/// The number of colours that the terminal has.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Depth {
    /// 24 bit.
    True,
    /// The 256 of the indexed palette.
    Indexed,
    /// The 16 that a terminal has names for (ISO 6429, and the bright ones).
    Sixteen,
    /// None at all.
    None,
}

impl Depth {
    /// The number that the environment tells.
    #[must_use]
    pub fn of_environment() -> Self {
        let var = |name: &str| std::env::var(name).unwrap_or_default();
        Self::of(&var("NO_COLOR"), &var("COLORTERM"), &var("TERM"))
    }

    fn of(no_color: &str, colorterm: &str, term: &str) -> Self {
        if !no_color.is_empty() || matches!(term, "dumb" | "vt100" | "vt102" | "vt220" | "") {
            return Self::None;
        }
        if matches!(colorterm, "truecolor" | "24bit") || term.ends_with("-direct") {
            return Self::True;
        }
        let few = ["linux", "ansi", "cygwin", "xterm", "screen", "tmux", "rxvt", "vt"];
        let sixteen = few.contains(&term) || term.ends_with("-16color") || term.ends_with("-color");
        if sixteen { Self::Sixteen } else { Self::Indexed }
    }
}

/// The colours of the chrome.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Palette {
    /// Quiet greys on a dark ground.
    #[default]
    Dark,
    /// Dark words on a light ground. The stage stays dark: light is drawn on it.
    Light,
    /// White and yellow on black.
    Contrast,
    /// Hues that are told apart with any of the three common deficiencies of colour vision.
    Safe,
}

impl Palette {
    /// Every palette with its name and its help.
    pub const ALL: &'static [(&'static str, Self, &'static str)] = &[
        ("dark", Self::Dark, "quiet greys on a dark ground"),
        ("light", Self::Light, "dark words on a light ground; the stage stays dark"),
        ("contrast", Self::Contrast, "white and yellow on black"),
        ("safe", Self::Safe, "hues that are told apart with any common deficiency of colour vision"),
    ];

    fn inks(self) -> &'static Inks {
        match self {
            Self::Dark => &DARK,
            Self::Light => &LIGHT,
            Self::Contrast => &CONTRAST,
            Self::Safe => &SAFE,
        }
    }
}

/// The colours of a palette, in sRGB.
struct Inks {
    ground: [u8; 3],
    text: [u8; 3],
    dim: [u8; 3],
    rule: [u8; 3],
    hint: [u8; 3],
    /// The colour of what matters most, and the ground of what is on stage.
    paper: [u8; 3],
    armed: [u8; 3],
    selected: [u8; 3],
}

const DARK: Inks = Inks {
    ground: [12, 14, 18],
    text: [166, 170, 178],
    dim: [132, 137, 146],
    rule: [52, 56, 64],
    hint: [123, 127, 136],
    paper: [238, 230, 211],
    armed: [242, 178, 66],
    selected: [176, 196, 226],
};
const LIGHT: Inks = Inks {
    ground: [246, 244, 238],
    text: [52, 55, 62],
    dim: [88, 92, 100],
    rule: [196, 194, 188],
    hint: [98, 102, 110],
    paper: [18, 20, 26],
    armed: [140, 74, 0],
    selected: [40, 84, 150],
};
const CONTRAST: Inks = Inks {
    ground: [0, 0, 0],
    text: [255, 255, 255],
    dim: [224, 224, 224],
    rule: [150, 150, 150],
    hint: [210, 210, 210],
    paper: [255, 255, 255],
    armed: [255, 222, 0],
    selected: [120, 220, 255],
};
/// The sky blue and the colours after Okabe and Ito, "Color Universal Design" (2002), which differ with any deficiency.
const SAFE: Inks = Inks { armed: [86, 180, 233], selected: [230, 159, 0], ..DARK };
/// The ground of the stage, on which light is drawn.
const STAGE: [u8; 3] = DARK.ground;
/// The hues after Okabe and Ito, by which things are marked where hues are to be told apart.
const MARKS: [[u8; 3]; 7] =
    [[230, 159, 0], [86, 180, 233], [0, 158, 115], [240, 228, 66], [0, 114, 178], [213, 94, 0], [204, 121, 167]];

/// The colours, and how many of them there are.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Theme {
    /// The number of colours.
    pub depth: Depth,
    /// The colours of the chrome.
    pub palette: Palette,
}

impl Theme {
    /// The usual palette in as many colours as there are.
    #[must_use]
    pub fn of(depth: Depth) -> Self {
        Self { depth, palette: Palette::Dark }
    }

    /// The theme without colours.
    #[must_use]
    pub fn plain() -> Self {
        Self::of(Depth::None)
    }

    /// A colour, as near to it as the terminal comes.
    #[must_use]
    pub fn colour(self, rgb: [u8; 3]) -> Color {
        match self.depth {
            Depth::True => Color::Rgb(rgb[0], rgb[1], rgb[2]),
            Depth::Indexed => Color::Indexed(indexed(rgb)),
            Depth::Sixteen => named(rgb),
            Depth::None => Color::Reset,
        }
    }

    fn style(self, rgb: [u8; 3]) -> Style {
        Style::new().fg(self.colour(rgb)).bg(self.ground())
    }

    /// The style of words. With sixteen colours, dark grey is too near to black for them.
    fn words(self, rgb: [u8; 3]) -> Style {
        let style = self.style(rgb);
        if self.depth != Depth::Sixteen || style.fg != Some(Color::DarkGray) {
            return style;
        }
        style.fg(if style.bg == Some(Color::Black) { Color::Gray } else { Color::Black })
    }

    /// Behind everything.
    #[must_use]
    pub fn ground(self) -> Color {
        self.colour(self.palette.inks().ground)
    }

    /// Behind the lights of the stage, dark in any palette.
    #[must_use]
    pub fn stage(self) -> Color {
        if self.palette == Palette::Light { self.colour(STAGE) } else { self.ground() }
    }

    /// A grey between the ground, at 0, and half as bright as can be, at 1: the stage is brighter.
    #[must_use]
    pub fn glow(self, level: f32) -> Color {
        const BRIGHTEST: f32 = 128.0;
        let level = level.clamp(0.0, 1.0);
        let ground = self.palette.inks().ground;
        self.colour(ground.map(|ground| (f32::from(ground) + (BRIGHTEST - f32::from(ground)) * level) as u8))
    }

    /// The hue by which something is marked among others, such as a universe or a group.
    #[must_use]
    pub fn mark(self, rgb: [u8; 3]) -> [u8; 3] {
        if self.palette != Palette::Safe {
            return rgb;
        }
        MARKS[((hue(rgb) * MARKS.len() as f32) as usize).min(MARKS.len() - 1)]
    }

    /// The style of what is read.
    #[must_use]
    pub fn text(self) -> Style {
        self.words(self.palette.inks().text)
    }

    /// The style of what is read only when looked for.
    #[must_use]
    pub fn dim(self) -> Style {
        self.words(self.palette.inks().dim)
    }

    /// Rules and empty places.
    #[must_use]
    pub fn faint(self) -> Style {
        self.style(self.palette.inks().rule)
    }

    /// Words that explain, read only when looked for.
    #[must_use]
    pub fn faint_text(self) -> Style {
        self.words(self.palette.inks().hint)
    }

    /// The style of what is chosen or matters most.
    #[must_use]
    pub fn bright(self) -> Style {
        self.words(self.palette.inks().paper).add_modifier(Modifier::BOLD)
    }

    /// The style of what is on stage: filled.
    #[must_use]
    pub fn filled(self) -> Style {
        let inks = self.palette.inks();
        let style = Style::new().fg(self.colour(inks.ground)).bg(self.colour(inks.paper)).add_modifier(Modifier::BOLD);
        match self.depth {
            Depth::None => style.add_modifier(Modifier::REVERSED),
            // Many terminals brighten what is bold, which makes grey of black.
            Depth::Sixteen => style.remove_modifier(Modifier::BOLD),
            Depth::True | Depth::Indexed => style,
        }
    }

    /// The style of letters that are selected in a field.
    #[must_use]
    pub fn selected(self) -> Style {
        let inks = self.palette.inks();
        let style = Style::new().fg(self.colour(inks.ground)).bg(self.colour(inks.selected));
        style.add_modifier(Modifier::UNDERLINED)
    }

    /// The style of the letter that the cursor of a field is on: as the text around, not filled.
    #[must_use]
    pub fn cursor(self) -> Style {
        let inks = self.palette.inks();
        let style = Style::new().fg(self.colour(inks.paper)).bg(self.colour(inks.ground));
        style.remove_modifier(Modifier::REVERSED).add_modifier(Modifier::UNDERLINED)
    }

    /// The style of what waits.
    #[must_use]
    pub fn armed(self) -> Style {
        self.words(self.palette.inks().armed).add_modifier(Modifier::BOLD)
    }
}

/// The hue of a colour, 0 to 1 from red through green and blue.
fn hue(rgb: [u8; 3]) -> f32 {
    let [r, g, b] = rgb.map(f32::from);
    let (most, least) = (r.max(g).max(b), r.min(g).min(b));
    let span = (most - least).max(1.0);
    let sixths = if most == r {
        ((g - b) / span).rem_euclid(6.0)
    } else if most == g {
        (b - r) / span + 2.0
    } else {
        (r - g) / span + 4.0
    };
    sixths / 6.0
}

/// The sixteen colours that terminals have names for, as xterm shows them.
const NAMED: [(Color, [u8; 3]); 16] = [
    (Color::Black, [0, 0, 0]),
    (Color::Red, [205, 0, 0]),
    (Color::Green, [0, 205, 0]),
    (Color::Yellow, [205, 205, 0]),
    (Color::Blue, [0, 0, 238]),
    (Color::Magenta, [205, 0, 205]),
    (Color::Cyan, [0, 205, 205]),
    (Color::Gray, [205, 205, 205]),
    (Color::DarkGray, [100, 100, 100]),
    (Color::LightRed, [255, 0, 0]),
    (Color::LightGreen, [0, 255, 0]),
    (Color::LightYellow, [255, 255, 0]),
    (Color::LightBlue, [92, 92, 255]),
    (Color::LightMagenta, [255, 0, 255]),
    (Color::LightCyan, [0, 255, 255]),
    (Color::White, [255, 255, 255]),
];

/// The nearest of the named colours. What has hardly any hue is a grey: words are to stay words.
fn named(rgb: [u8; 3]) -> Color {
    let distance =
        |other: [u8; 3]| -> i32 { rgb.iter().zip(other).map(|(a, b)| (i32::from(*a) - i32::from(b)).pow(2)).sum() };
    let spread = rgb.iter().max().unwrap_or(&0) - rgb.iter().min().unwrap_or(&0);
    let greys = |colour: Color| matches!(colour, Color::Black | Color::DarkGray | Color::Gray | Color::White);
    // What has a hue keeps it, since there are so few greys between light and dark.
    let hued = spread > 40 && u16::from(spread) * 3 > u16::from(*rgb.iter().max().unwrap_or(&0));
    let fitting = NAMED.iter().filter(|(colour, _)| hued != greys(*colour) || (hued && *colour == Color::Black));
    fitting.min_by_key(|(_, rgb)| distance(*rgb)).map_or(Color::Reset, |(colour, _)| *colour)
}

/// The nearest of the 6x6x6 cube and the greys of the indexed palette.
fn indexed([r, g, b]: [u8; 3]) -> u8 {
    let step = |c: u8| if c < 48 { 0 } else { (u16::from(c).saturating_sub(35) / 40).min(5) as u8 };
    let level = |s: u8| if s == 0 { 0i32 } else { 55 + 40 * i32::from(s) };
    let (sr, sg, sb) = (step(r), step(g), step(b));
    let grey = (((i32::from(r) + i32::from(g) + i32::from(b)) / 3 - 3) / 10).clamp(0, 23);
    let distance =
        |x: [i32; 3]| (x[0] - i32::from(r)).pow(2) + (x[1] - i32::from(g)).pow(2) + (x[2] - i32::from(b)).pow(2);
    let cube = distance([level(sr), level(sg), level(sb)]);
    if distance([8 + 10 * grey; 3]) < cube { 232 + grey as u8 } else { 16 + 36 * sr + 6 * sg + sb }
}

/// The contrast of two colours of sRGB, 1 to 21 (WCAG 2.2, 1.4.3).
#[cfg(test)]
pub(crate) fn contrast(a: [u8; 3], b: [u8; 3]) -> f32 {
    let linear = |part: u8| {
        let part = f32::from(part) / 255.0;
        if part <= 0.040_45 { part / 12.92 } else { ((part + 0.055) / 1.055).powf(2.4) }
    };
    let light = |[r, g, b]: [u8; 3]| 0.2126 * linear(r) + 0.7152 * linear(g) + 0.0722 * linear(b);
    let (a, b) = (light(a).max(light(b)), light(a).min(light(b)));
    (a + 0.05) / (b + 0.05)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_environment_tells_the_depth() {
        assert_eq!(Depth::of("", "truecolor", "xterm"), Depth::True);
        assert_eq!(Depth::of("", "", "tmux-256color"), Depth::Indexed);
        assert_eq!(Depth::of("1", "truecolor", "xterm"), Depth::None);
        assert_eq!(["vt100", "dumb", ""].map(|term| Depth::of("", "", term)), [Depth::None; 3]);
        let few = ["linux", "xterm", "ansi", "xterm-16color"].map(|term| Depth::of("", "", term));
        assert_eq!(few, [Depth::Sixteen; 4]);
        assert_eq!(Depth::of("", "", "xterm-256color"), Depth::Indexed);
    }

    #[test]
    fn a_glow_begins_at_the_ground_and_stays_darker_than_the_stage() {
        let theme = Theme::of(Depth::True);
        assert_eq!([-1.0, 0.0].map(|level| theme.glow(level)), [theme.ground(); 2]);
        assert_eq!([1.0, 7.0].map(|level| theme.glow(level)), [Color::Rgb(128, 128, 128); 2]);
    }

    #[test]
    fn indexed_colours_are_the_nearest() {
        assert_eq!(indexed([0, 0, 0]), 16);
        assert_eq!(indexed([255, 255, 255]), 231);
        assert_eq!(indexed([255, 0, 0]), 196);
        assert_eq!(indexed([12, 14, 18]), 233);
        assert_eq!(indexed([128, 128, 128]), 244);
    }

    #[test]
    fn words_can_be_read_in_every_palette() {
        for (name, palette, _) in Palette::ALL {
            let inks = palette.inks();
            for (what, ink) in [
                ("text", inks.text),
                ("dim", inks.dim),
                ("hint", inks.hint),
                ("paper", inks.paper),
                ("armed", inks.armed),
                ("selected", inks.selected),
            ] {
                let contrast = contrast(ink, inks.ground);
                assert!(contrast >= 4.5, "{name}: {what} has {contrast:.2} to 1");
            }
        }
        assert!(contrast(CONTRAST.hint, CONTRAST.ground) > 7.0);
    }

    #[test]
    fn words_stay_words_in_sixteen_colours() {
        for (name, palette, _) in Palette::ALL {
            let theme = Theme { depth: Depth::Sixteen, palette: *palette };
            for style in [theme.text(), theme.dim(), theme.faint_text(), theme.bright(), theme.armed(), theme.filled()]
            {
                assert_ne!(style.fg, style.bg, "{name}");
                let black = matches!(style.bg, Some(Color::Black | Color::DarkGray));
                assert!(!black || style.fg != Some(Color::DarkGray), "{name}: dark grey on black");
            }
        }
        assert_eq!(named([250, 20, 10]), Color::LightRed);
        assert_eq!(named([20, 20, 26]), Color::Black);
        assert_eq!(named([160, 60, 80]), Color::Red);
        assert_eq!(named([60, 10, 10]), Color::Black);
        assert_eq!(named([255, 240, 210]), Color::White);
    }
}
