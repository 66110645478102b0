//! The bytes that make one screen of another: only what differs, with as few changes of the colour as can be. What glows a
//! little differently is left for a moment, since most of what a busy stage takes are changes that nobody sees.
//!
//! Control sequences are those of ECMA-48 (cursor position 8.3.21, cursor right 8.3.20, select graphic rendition 8.3.117)
//! and of ISO/IEC 8613-6 (13.1.8) for colours.

use std::io::Write;

use ratatui::buffer::{Buffer, Cell};
use ratatui::layout::Rect;
use ratatui::style::{Color, Modifier};
use unicode_width::UnicodeWidthStr;

/// By how much a colour may differ from what is shown and still be left for a moment, of 255.
const NEAR: i32 = 10;
/// The same where the line is to be spared.
const NEAR_SPARING: i32 = 40;
/// Each screen, one in so many cells is brought up to date whatever it differs by.
const SETTLE: usize = 24;
/// As many cells that stay are written anew rather than stepped over.
const STEP_OVER: u16 = 1;

/// Writes screens over one another.
pub(crate) struct Encoder {
    shown: Buffer,
    bytes: Vec<u8>,
    /// The cells that are brought up to date next.
    turn: usize,
    foreground: Color,
    background: Color,
    modifier: Modifier,
    /// True if the terminal has the letters of ASCII alone.
    ascii: bool,
}

impl Encoder {
    /// An encoder for a terminal that has every letter, or those of ASCII alone.
    pub(crate) fn new(ascii: bool) -> Self {
        Self {
            ascii,
            shown: Buffer::empty(Rect::ZERO),
            bytes: Vec::new(),
            turn: 0,
            foreground: Color::Reset,
            background: Color::Reset,
            modifier: Modifier::empty(),
        }
    }

    /// Has everything be written anew with the next screen, as after the terminal has become larger or smaller.
    pub(crate) fn forget(&mut self) {
        self.shown = Buffer::empty(Rect::ZERO);
    }

    /// The bytes that make `next` of what is shown.
    pub(crate) fn encode(&mut self, next: &Buffer, sparing: bool) -> &[u8] {
        self.bytes.clear();
        let anew = self.shown.area != next.area;
        if anew {
            self.shown = Buffer::empty(next.area);
            self.reset();
            self.bytes.extend_from_slice(b"\x1b[2J");
        }
        self.turn = (self.turn + 1) % SETTLE;
        let near = if sparing { NEAR_SPARING } else { NEAR };
        let width = usize::from(next.area.width).max(1);
        // Where the cursor is; none where that is not known.
        let mut cursor: Option<(u16, u16)> = None;
        let mut covered = None;
        for (place, cell) in next.content.iter().enumerate() {
            if covered == Some(place) {
                self.shown.content[place] = cell.clone();
                continue;
            }
            let known = &self.shown.content[place];
            let differs =
                anew || if place % SETTLE == self.turn { cell != known } else { !looks_alike(cell, known, near) };
            if !differs {
                continue;
            }
            let at = ((place % width) as u16, (place / width) as u16);
            self.go_to(at, cursor, &next.content, width);
            self.put(cell);
            self.shown.content[place] = cell.clone();
            // A wide letter takes the column behind it too, which is not written.
            let columns = cell.symbol().width().clamp(1, 2) as u16;
            if columns == 2 && usize::from(at.0) + 1 < width {
                covered = Some(place + 1);
            }
            // Behind the last column the cursor may be anywhere.
            cursor = (usize::from(at.0 + columns) < width).then_some((at.0 + columns, at.1));
        }
        &self.bytes
    }

    fn reset(&mut self) {
        (self.foreground, self.background, self.modifier) = (Color::Reset, Color::Reset, Modifier::empty());
        self.bytes.extend_from_slice(b"\x1b[0m");
    }

    fn go_to(&mut self, (x, y): (u16, u16), cursor: Option<(u16, u16)>, cells: &[Cell], width: usize) {
        match cursor {
            Some(here) if here == (x, y) => {}
            Some((from, row)) if row == y && x > from => {
                let gap = x - from;
                if gap <= STEP_OVER {
                    for column in from..x {
                        let place = usize::from(y) * width + usize::from(column);
                        self.put(&cells[place]);
                        self.shown.content[place] = cells[place].clone();
                    }
                } else {
                    let _ = write!(self.bytes, "\x1b[{gap}C");
                }
            }
            Some(_) | None => {
                let _ = write!(self.bytes, "\x1b[{};{}H", y + 1, x + 1);
            }
        }
    }

    fn put(&mut self, cell: &Cell) {
        let (symbol, foreground, background) = cheapest(cell, self.foreground, self.background);
        if cell.modifier != self.modifier {
            // Switching off one by one differs from terminal to terminal; from nothing on all are alike.
            self.reset();
            for (modifier, code) in [
                (Modifier::BOLD, 1),
                (Modifier::DIM, 2),
                (Modifier::ITALIC, 3),
                (Modifier::UNDERLINED, 4),
                (Modifier::REVERSED, 7),
            ] {
                if cell.modifier.contains(modifier) {
                    let _ = write!(self.bytes, "\x1b[{code}m");
                }
            }
            self.modifier = cell.modifier;
        }
        let first = foreground.filter(|colour| *colour != self.foreground);
        let second = background.filter(|colour| *colour != self.background);
        if first.is_some() || second.is_some() {
            self.bytes.extend_from_slice(b"\x1b[");
            if let Some(colour) = first {
                colour_code(colour, 30, &mut self.bytes);
                self.foreground = colour;
            }
            if let Some(colour) = second {
                if first.is_some() {
                    self.bytes.push(b';');
                }
                colour_code(colour, 40, &mut self.bytes);
                self.background = colour;
            }
            self.bytes.push(b'm');
        }
        if self.ascii {
            let columns = symbol.width().max(1);
            self.bytes.extend(symbol.chars().map(in_ascii).chain([b' '; 2]).take(columns));
        } else {
            self.bytes.extend_from_slice(symbol.as_bytes());
        }
    }
}

/// The sign of ASCII that looks most like another one.
pub(crate) fn in_ascii(letter: char) -> u8 {
    match letter {
        ' '..='~' => letter as u8,
        '█' | '▓' | '■' | '▣' | '▪' => b'#',
        '▀' => b'"',
        '▄' | '▂' | '▃' | '▁' => b'_',
        '▅' | '▆' | '▇' | '▒' => b'=',
        '░' | '·' | '•' | '○' | '◔' => b'.',
        '●' | '◆' | '◇' => b'o',
        '│' | '┃' | '▏' | '▎' | '▍' | '▌' | '▋' | '▊' | '▉' | '▕' | '▐' | '╷' | '╵' | '║' => {
            b'|'
        }
        '─' | '━' | '—' | '–' | '═' | '−' => b'-',
        '┌' | '┐' | '└' | '┘' | '├' | '┤' | '┬' | '┴' | '┼' | '╭' | '╮' | '╰' | '╯' | '×' => {
            b'+'
        }
        '▶' | '▸' | '→' | '›' | '⟩' | '»' => b'>',
        '◀' | '◂' | '←' | '‹' | '⟨' | '«' => b'<',
        '▲' | '↑' | '˄' => b'^',
        '▼' | '↓' | '˅' => b'v',
        '…' => b'~',
        '↺' | '↻' => b'@',
        '±' => b'+',
        '°' => b'o',
        '’' | '‘' => b'\'',
        '“' | '”' => b'"',
        'ä' | 'à' | 'á' | 'â' | 'å' | 'ã' => b'a',
        'ö' | 'ò' | 'ó' | 'ô' | 'ø' | 'õ' => b'o',
        'ü' | 'ù' | 'ú' | 'û' => b'u',
        'é' | 'è' | 'ê' | 'ë' => b'e',
        'í' | 'ì' | 'î' | 'ï' => b'i',
        'ñ' => b'n',
        'ç' => b'c',
        'ß' => b's',
        _ => b'?',
    }
}

/// Writes the parameters that select a colour; `base` is 30 for the foreground and 40 for the background.
fn colour_code(colour: Color, base: u8, bytes: &mut Vec<u8>) {
    let _ = match colour {
        Color::Rgb(r, g, b) => write!(bytes, "{};2;{r};{g};{b}", base + 8),
        Color::Indexed(index) => write!(bytes, "{};5;{index}", base + 8),
        Color::Reset => write!(bytes, "{}", base + 9),
        named => match sixteen(named) {
            // The bright ones are beyond those of ECMA-48 (aixterm; every terminal of today has them).
            Some(place @ 8..) => write!(bytes, "{}", base + 52 + place),
            Some(place) => write!(bytes, "{}", base + place),
            None => write!(bytes, "{}", base + 9),
        },
    };
}

/// The place of a named colour among the sixteen.
fn sixteen(colour: Color) -> Option<u8> {
    let all = [
        Color::Black,
        Color::Red,
        Color::Green,
        Color::Yellow,
        Color::Blue,
        Color::Magenta,
        Color::Cyan,
        Color::Gray,
        Color::DarkGray,
        Color::LightRed,
        Color::LightGreen,
        Color::LightYellow,
        Color::LightBlue,
        Color::LightMagenta,
        Color::LightCyan,
        Color::White,
    ];
    all.iter().position(|named| *named == colour).map(|place| place as u8)
}

/// A cell's symbol and colours, in the way that changes the least of the present colours: an upper half block is a lower one
/// with the colours exchanged, and where both halves are alike one colour is enough. A colour that is not seen is none.
fn cheapest(cell: &Cell, foreground: Color, background: Color) -> (&str, Option<Color>, Option<Color>) {
    let (fg, bg) = (cell.fg, cell.bg);
    let plain = cell.modifier.is_empty();
    match cell.symbol() {
        " " if plain => (" ", None, Some(bg)),
        "▀" | "▄" if plain && fg == bg => {
            if fg == foreground {
                ("█", Some(fg), None)
            } else {
                (" ", None, Some(bg))
            }
        }
        symbol @ ("▀" | "▄") if plain => {
            let cost = |f: Color, b: Color| u8::from(f != foreground) + u8::from(b != background);
            if cost(bg, fg) < cost(fg, bg) {
                (if symbol == "▀" { "▄" } else { "▀" }, Some(bg), Some(fg))
            } else {
                (if symbol == "▀" { "▀" } else { "▄" }, Some(fg), Some(bg))
            }
        }
        symbol => (symbol, Some(fg), Some(bg)),
    }
}

/// True if two cells are the same but for colours that differ by little.
fn looks_alike(a: &Cell, b: &Cell, near: i32) -> bool {
    a.symbol() == b.symbol()
        && a.modifier == b.modifier
        && colours_alike(a.fg, b.fg, near)
        && colours_alike(a.bg, b.bg, near)
}

fn colours_alike(a: Color, b: Color, near: i32) -> bool {
    match (a, b) {
        (Color::Rgb(r, g, b), Color::Rgb(s, t, u)) => {
            let differ = |x: u8, y: u8| (i32::from(x) - i32::from(y)).abs();
            // What is dark differs sooner.
            let bright = i32::from(r.max(g).max(b).max(s).max(t).max(u));
            differ(r, s).max(differ(g, t)).max(differ(b, u)) <= near * bright / 255
        }
        (a, b) => a == b,
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// A terminal of the smallest kind: it knows what the encoder writes.
    struct Glass {
        cells: Vec<(String, Color, Color)>,
        width: usize,
        at: (usize, usize),
        colours: (Color, Color),
    }

    impl Glass {
        fn new(area: Rect) -> Self {
            let cells = vec![(" ".to_owned(), Color::Reset, Color::Reset); area.area() as usize];
            Self { cells, width: usize::from(area.width), at: (0, 0), colours: (Color::Reset, Color::Reset) }
        }

        fn take(&mut self, bytes: &[u8]) {
            let text = std::str::from_utf8(bytes).expect("text");
            let mut rest = text.chars();
            while let Some(letter) = rest.next() {
                if letter != '\u{1b}' {
                    let place = self.at.1 * self.width + self.at.0;
                    self.cells[place] = (letter.to_string(), self.colours.0, self.colours.1);
                    self.at.0 += 1;
                    continue;
                }
                assert_eq!(rest.next(), Some('['));
                let parameters: String = rest.by_ref().take_while(|c| !c.is_ascii_alphabetic()).collect();
                let ended = text.len() - rest.as_str().len();
                let last = text[..ended].chars().last().expect("one");
                let numbers: Vec<usize> = parameters.split(';').filter_map(|n| n.parse().ok()).collect();
                match last {
                    'H' => self.at = (numbers[1] - 1, numbers[0] - 1),
                    'C' => self.at.0 += numbers[0],
                    'm' => self.colour(&numbers),
                    'J' => self.cells.fill((" ".to_owned(), Color::Reset, Color::Reset)),
                    other => panic!("{other} is unknown"),
                }
            }
        }

        fn colour(&mut self, mut numbers: &[usize]) {
            while let Some(&code) = numbers.first() {
                let rgb = |n: &[usize]| Color::Rgb(n[2] as u8, n[3] as u8, n[4] as u8);
                match code {
                    0 => self.colours = (Color::Reset, Color::Reset),
                    38 if numbers[1] == 2 => self.colours.0 = rgb(numbers),
                    48 if numbers[1] == 2 => self.colours.1 = rgb(numbers),
                    39 => self.colours.0 = Color::Reset,
                    49 => self.colours.1 = Color::Reset,
                    1..=7 => {}
                    other => panic!("{other} is unknown"),
                }
                numbers = &numbers[if matches!(code, 38 | 48) { 5 } else { 1 }..];
            }
        }

        /// The upper and the lower half of each cell as they look, or its symbol and colours.
        fn halves(&self) -> Vec<(String, Color, Color)> {
            self.cells.iter().map(|(symbol, fg, bg)| half(symbol, *fg, *bg)).collect()
        }
    }

    fn half(symbol: &str, fg: Color, bg: Color) -> (String, Color, Color) {
        match symbol {
            "▀" => ("half".to_owned(), fg, bg),
            "▄" => ("half".to_owned(), bg, fg),
            "█" => ("half".to_owned(), fg, fg),
            " " => ("half".to_owned(), bg, bg),
            other => (other.to_owned(), fg, bg),
        }
    }

    fn cell() -> impl Strategy<Value = (usize, u8, u8)> {
        (0usize..4, prop_oneof![Just(0u8), Just(200), any::<u8>()], prop_oneof![Just(0u8), Just(200), any::<u8>()])
    }

    fn screen(area: Rect, cells: &[(usize, u8, u8)]) -> Buffer {
        let mut buffer = Buffer::empty(area);
        for (cell, (symbol, fg, bg)) in buffer.content.iter_mut().zip(cells) {
            cell.set_symbol(["▀", "▄", " ", "x"][*symbol]).set_fg(Color::Rgb(*fg, 7, 9)).set_bg(Color::Rgb(*bg, 7, 9));
        }
        buffer
    }

    proptest! {
        #[test]
        fn every_screen_is_seen_in_the_end(
            screens in proptest::collection::vec(proptest::collection::vec(cell(), 60), 1..5),
            sparing in any::<bool>(),
        ) {
            let area = Rect::new(0, 0, 12, 5);
            let (mut encoder, mut glass) = (Encoder::new(false), Glass::new(area));
            for cells in &screens {
                glass.take(encoder.encode(&screen(area, cells), sparing));
            }
            // What differs by little is brought up to date while all stays as it is.
            let last = screen(area, screens.last().expect("one"));
            (0..SETTLE).for_each(|_| glass.take(encoder.encode(&last, sparing)));
            let wanted: Vec<_> = last.content.iter().map(|cell| half(cell.symbol(), cell.fg, cell.bg)).collect();
            prop_assert_eq!(glass.halves(), wanted);
            prop_assert!(encoder.encode(&last, sparing).is_empty(), "nothing is left to say");
        }
    }

    #[test]
    fn what_differs_by_little_waits_and_takes_no_bytes_meanwhile() {
        let area = Rect::new(0, 0, 40, 10);
        let grey = |level: u8| screen(area, &[(0, level, level / 2); 400]);
        let mut encoder = Encoder::new(false);
        let whole = encoder.encode(&grey(200), false).len();
        let little = encoder.encode(&grey(203), false).len();
        assert!(little * 5 < whole, "{little} of {whole}");
        let much = encoder.encode(&grey(120), false).len();
        assert!(much > 400, "what is seen to differ is written at once: {much}");
    }
}
