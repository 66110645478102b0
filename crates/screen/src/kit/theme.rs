//! The colours of the chrome, and what becomes of colours where the terminal has fewer of them.

use ratatui::style::{Color, Modifier, Style};

/// The number of colours that the terminal has.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Depth {
    /// 24 bit.
    True,
    /// The 256 of the indexed palette.
    Indexed,
    /// None at all.
    None,
}

impl Depth {
    /// The theme that the environment asks for.
    #[must_use]
    pub fn of_environment() -> Self {
        let var = |name: &str| std::env::var(name).unwrap_or_default();
        Self::of(&var("NO_COLOR"), &var("COLORTERM"), &var("TERM"))
    }

    fn of(no_color: &str, colorterm: &str, term: &str) -> Self {
        if !no_color.is_empty() || matches!(term, "dumb" | "vt100" | "vt220" | "") {
            return Self::None;
        }
        let direct = matches!(colorterm, "truecolor" | "24bit") || term.ends_with("-direct");
        if direct { Self::True } else { Self::Indexed }
    }
}

/// The colours.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Theme {
    /// The number of colours.
    pub depth: Depth,
}

const GROUND: [u8; 3] = [12, 14, 18];
const TEXT: [u8; 3] = [158, 162, 170];
const DIM: [u8; 3] = [104, 109, 118];
const FAINT: [u8; 3] = [52, 56, 64];
const HINT: [u8; 3] = [84, 89, 98];
const PAPER: [u8; 3] = [238, 230, 211];
const ARMED: [u8; 3] = [242, 178, 66];

impl Theme {
    /// A colour, as near to it as the terminal comes.
    #[must_use]
    pub fn colour(self, rgb: [u8; 3]) -> Color {
        match self.depth {
            Depth::True => Color::Rgb(rgb[0], rgb[1], rgb[2]),
            Depth::Indexed => Color::Indexed(indexed(rgb)),
            Depth::None => Color::Reset,
        }
    }

    fn style(self, rgb: [u8; 3]) -> Style {
        Style::new().fg(self.colour(rgb)).bg(self.ground())
    }

    /// Behind everything.
    #[must_use]
    pub fn ground(self) -> Color {
        self.colour(GROUND)
    }

    /// A grey between the ground, at 0, and half as bright as can be, at 1: the stage is brighter.
    #[must_use]
    pub fn glow(self, level: f32) -> Color {
        const BRIGHTEST: f32 = 128.0;
        let level = level.clamp(0.0, 1.0);
        self.colour(GROUND.map(|ground| (f32::from(ground) + (BRIGHTEST - f32::from(ground)) * level) as u8))
    }

    /// The style of what is read.
    #[must_use]
    pub fn text(self) -> Style {
        self.style(TEXT)
    }

    /// The style of what is read only when looked for.
    #[must_use]
    pub fn dim(self) -> Style {
        self.style(DIM)
    }

    /// Rules and empty places.
    #[must_use]
    pub fn faint(self) -> Style {
        self.style(FAINT)
    }

    /// Words that explain, read only when looked for.
    #[must_use]
    pub fn faint_text(self) -> Style {
        self.style(HINT)
    }

    /// The style of what is chosen or matters most.
    #[must_use]
    pub fn bright(self) -> Style {
        self.style(PAPER).add_modifier(Modifier::BOLD)
    }

    /// The style of what is on stage: filled.
    #[must_use]
    pub fn filled(self) -> Style {
        let style = Style::new().fg(self.colour(GROUND)).bg(self.colour(PAPER)).add_modifier(Modifier::BOLD);
        if self.depth == Depth::None { style.add_modifier(Modifier::REVERSED) } else { style }
    }

    /// The style of what waits.
    #[must_use]
    pub fn armed(self) -> Style {
        self.style(ARMED).add_modifier(Modifier::BOLD)
    }
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_environment_tells_the_depth() {
        assert_eq!(Depth::of("", "truecolor", "xterm"), Depth::True);
        assert_eq!(Depth::of("", "", "tmux-256color"), Depth::Indexed);
        assert_eq!(Depth::of("1", "truecolor", "xterm"), Depth::None);
        assert_eq!(Depth::of("", "", "vt100"), Depth::None);
    }

    #[test]
    fn a_glow_begins_at_the_ground_and_stays_darker_than_the_stage() {
        let theme = Theme { depth: Depth::True };
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
}
