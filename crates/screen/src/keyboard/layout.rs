//! Layouts of keyboards: what their keys say, row by row, and which of their letters stand for those of a US keyboard that they have
//! only with AltGr, or on a dead key. The rows are those of the X keyboard extension (`xkeyboard-config`, the `basic` kind of each).

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

/// A layout of a keyboard.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Layout {
    /// United States.
    #[default]
    Us,
    /// Britain and Ireland.
    Gb,
    /// Germany and Austria.
    De,
    /// France.
    Fr,
    /// Spain.
    Es,
    /// Sweden and Finland.
    Se,
    /// Denmark.
    Dk,
    /// Norway.
    No,
}

/// A key that waits for another one.
#[cfg(test)]
pub(super) const DEAD: char = '†';
/// A key that is not there, or whose letter is not told.
#[cfg(test)]
pub(super) const NONE: char = '∅';

/// The letters of the keys: from the key left of 1 on, from that of Q on, from that of A on, and from the one beside Shift on.
pub(super) struct Rows {
    /// By themselves.
    pub(super) plain: [&'static str; 4],
    /// With Shift.
    pub(super) shifted: [&'static str; 4],
}

/// The letters of a layout that stand for another one.
type StandIns = &'static [(char, char)];

impl Layout {
    /// Every layout with its name and its help.
    pub const ALL: &'static [(&'static str, Self, &'static str)] = &[
        ("us", Self::Us, "United States"),
        ("gb", Self::Gb, "Britain and Ireland"),
        ("de", Self::De, "Germany and Austria"),
        ("fr", Self::Fr, "France"),
        ("es", Self::Es, "Spain"),
        ("se", Self::Se, "Sweden and Finland"),
        ("dk", Self::Dk, "Denmark"),
        ("no", Self::No, "Norway"),
    ];

    /// The layout of a name.
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.iter().find(|(own, ..)| *own == name).map(|(_, layout, _)| *layout)
    }

    /// The layout that a locale lets expect (POSIX: `LC_ALL` before `LC_CTYPE` before `LANG`), such as `de_DE.UTF-8`.
    #[must_use]
    pub fn of_locale(locale: &str) -> Self {
        let place = locale.split(['.', '@']).next().unwrap_or_default();
        match (place.split('_').next().unwrap_or_default(), place) {
            (_, "en_GB" | "en_IE") => Self::Gb,
            // Switzerland and Canada have layouts of their own, which are nearest to that of the United States in what matters here.
            (_, "de_CH" | "fr_CH" | "fr_CA" | "it_CH") => Self::Us,
            ("de", _) => Self::De,
            ("fr", _) => Self::Fr,
            ("es", _) => Self::Es,
            ("sv" | "fi", _) => Self::Se,
            ("da", _) => Self::Dk,
            ("nb" | "nn" | "no", _) => Self::No,
            _ => Self::Us,
        }
    }

    pub(super) fn rows(self) -> &'static Rows {
        match self {
            Self::Us => &US,
            Self::Gb => &GB,
            Self::De => &DE,
            Self::Fr => &FR,
            Self::Es => &ES,
            Self::Se => &SE,
            Self::Dk => &DK,
            Self::No => &NO,
        }
    }

    /// The letters that stand for another one where nothing is typed.
    fn stand_ins(self) -> StandIns {
        match self {
            Self::Us | Self::Gb => &[],
            Self::De => {
                &[('ß', '`'), ('ö', '['), ('ä', ']'), ('Ö', '{'), ('Ä', '}'), ('#', '\\'), ('\'', '|'), ('*', '\'')]
            }
            Self::Fr => &[
                (')', '-'),
                ('ù', '['),
                ('*', ']'),
                ('%', '{'),
                ('µ', '}'),
                ('$', '\\'),
                ('£', '|'),
                (';', ','),
                (':', '.'),
                ('!', ';'),
                ('°', ')'),
            ],
            Self::Es => &[('ñ', '['), ('ç', ']'), ('Ñ', '{'), ('Ç', '}'), ('¡', '\\'), ('¿', '|')],
            Self::Se => &[('ö', '['), ('ä', ']'), ('Ö', '{'), ('Ä', '}'), ('\'', '\\'), ('*', '|'), ('å', '\'')],
            Self::Dk => &[('æ', '['), ('ø', ']'), ('Æ', '{'), ('Ø', '}'), ('\'', '\\'), ('*', '|'), ('å', '\'')],
            Self::No => &[('|', '`'), ('ø', '['), ('æ', ']'), ('Ø', '{'), ('Æ', '}'), ('*', '|')],
        }
    }

    /// The letters that black out whatever is typed into.
    fn always_dark(self) -> &'static [char] {
        match self {
            Self::Us | Self::Gb => &['`'],
            Self::De => &['°'],
            Self::Fr => &['²'],
            Self::Es => &['º'],
            Self::Se | Self::Dk => &['§', '½'],
            Self::No => &['§'],
        }
    }

    /// The letter of a US keyboard that one stands for; itself where it stands for no other.
    #[must_use]
    pub fn meant_by(self, letter: char, typing: bool) -> char {
        if self.always_dark().contains(&letter) {
            return '`';
        }
        let stand_in = self.stand_ins().iter().find(|(own, _)| *own == letter && !typing);
        stand_in.map_or(letter, |(_, meant)| *meant)
    }

    /// The letter that is pressed for one of a US keyboard.
    #[must_use]
    pub fn pressed_for(self, meant: char) -> char {
        let stand_in = self.stand_ins().iter().find(|(_, own)| *own == meant).map(|(own, _)| *own);
        let dark = (meant == '`').then(|| self.always_dark()[0]);
        stand_in.or(dark).unwrap_or(meant)
    }

    /// The letter of a US keyboard on the key where this layout has another one.
    #[must_use]
    pub fn at_the_place_of(self, letter: char) -> Option<char> {
        let (rows, us) = (self.rows(), &US);
        let rows = rows.plain.iter().zip(us.plain).chain(rows.shifted.iter().zip(us.shifted));
        rows.flat_map(|(own, us)| own.chars().zip(us.chars())).find(|(own, _)| *own == letter).map(|(_, us)| us)
    }

    /// The letters of the pads, row by row: ten of the numbers, ten below, nine and seven.
    #[must_use]
    pub fn pad_rows(self) -> [String; 4] {
        let [numbers, upper, middle, lower] = self.rows().plain;
        let part = |row: &str, from: usize, count: usize| row.chars().skip(from).take(count).collect();
        [part(numbers, 1, 10), part(upper, 0, 10), part(middle, 0, 9), part(lower, 1, 7)]
    }
}

impl Layout {
    /// The key of a US keyboard that one stands for: on pads by its place, else by its letter. What is typed into something stays as it
    /// is.
    pub(crate) fn translated(self, key: KeyEvent, typing: bool, by_place: bool) -> KeyEvent {
        let KeyCode::Char(letter) = key.code else { return key };
        let held = key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT);
        let meant = if held {
            // With Alt the numbers show views, which a French keyboard has with Shift alone.
            let number = self.at_the_place_of(letter).filter(char::is_ascii_digit);
            number.filter(|_| key.modifiers.contains(KeyModifiers::ALT)).unwrap_or(letter)
        } else if by_place && !typing {
            match self.pad_of(letter) {
                Some(pad) => pad,
                // A letter that lies on no pad here is none, whatever lies there elsewhere.
                None if letter.is_alphabetic() && is_pad(letter) => return KeyEvent { code: KeyCode::Null, ..key },
                None => self.meant_by(letter, typing),
            }
        } else {
            self.meant_by(letter, typing)
        };
        KeyEvent { code: KeyCode::Char(meant), ..key }
    }

    /// The letter of a US keyboard on the key of a pad.
    fn pad_of(self, letter: char) -> Option<char> {
        let us = self.at_the_place_of(letter)?;
        is_pad(us).then_some(us)
    }

    /// The words of a binding with the letters that this keyboard has for them.
    pub(crate) fn words(self, keys: &str) -> String {
        let one = |key: &str| {
            let mut letters = key.chars();
            match (letters.next(), letters.next()) {
                (Some(letter), None) => self.pressed_for(letter).to_string(),
                _ => key.to_owned(),
            }
        };
        keys.split(' ').map(one).collect::<Vec<_>>().join(" ")
    }

    /// The rows of the pads in words, such as `1-0 q-p a-l z-m`.
    pub(crate) fn pads_in_words(self) -> String {
        let row = |row: &String| {
            let mut letters = row.chars();
            let ends = (letters.next().unwrap_or(' '), letters.next_back().unwrap_or(' '));
            format!("{}-{}", ends.0, ends.1)
        };
        self.pad_rows().iter().map(row).collect::<Vec<_>>().join(" ")
    }
}

/// True if a letter of a US keyboard is one of a pad.
pub(crate) fn is_pad(letter: char) -> bool {
    Layout::Us.pad_rows().iter().any(|row| row.contains(letter.to_ascii_lowercase()))
}

const US: Rows = Rows {
    plain: ["`1234567890-=", "qwertyuiop[]", "asdfghjkl;'\\", "∅zxcvbnm,./"],
    shifted: ["~!@#$%^&*()_+", "QWERTYUIOP{}", "ASDFGHJKL:\"|", "∅ZXCVBNM<>?"],
};
const GB: Rows = Rows {
    plain: ["`1234567890-=", "qwertyuiop[]", "asdfghjkl;'#", "\\zxcvbnm,./"],
    shifted: ["¬!\"£$%^&*()_+", "QWERTYUIOP{}", "ASDFGHJKL:@~", "|ZXCVBNM<>?"],
};
const DE: Rows = Rows {
    plain: ["†1234567890ß†", "qwertzuiopü+", "asdfghjklöä#", "<yxcvbnm,.-"],
    shifted: ["°!\"§$%&/()=?†", "QWERTZUIOPÜ*", "ASDFGHJKLÖÄ'", ">YXCVBNM;:_"],
};
const FR: Rows = Rows {
    plain: ["²&é\"'(-è_çà)=", "azertyuiop†$", "qsdfghjklmù*", "<wxcvbn,;:!"],
    shifted: ["~1234567890°+", "AZERTYUIOP†£", "QSDFGHJKLM%µ", ">WXCVBN?./§"],
};
const ES: Rows = Rows {
    plain: ["º1234567890'¡", "qwertyuiop†+", "asdfghjklñ†ç", "<zxcvbnm,.-"],
    shifted: ["ª!\"·$%&/()=?¿", "QWERTYUIOP†*", "ASDFGHJKLÑ†Ç", ">ZXCVBNM;:_"],
};
const SE: Rows = Rows {
    plain: ["§1234567890+†", "qwertyuiopå†", "asdfghjklöä'", "<zxcvbnm,.-"],
    shifted: ["½!\"#¤%&/()=?†", "QWERTYUIOPÅ†", "ASDFGHJKLÖÄ*", ">ZXCVBNM;:_"],
};
const DK: Rows = Rows {
    plain: ["½1234567890+†", "qwertyuiopå†", "asdfghjklæø'", "<zxcvbnm,.-"],
    shifted: ["§!\"#¤%&/()=?†", "QWERTYUIOPÅ†", "ASDFGHJKLÆØ*", ">ZXCVBNM;:_"],
};
const NO: Rows = Rows {
    plain: ["|1234567890+\\", "qwertyuiopå†", "asdfghjkløæ'", "<zxcvbnm,.-"],
    shifted: ["§!\"#¤%&/()=?†", "QWERTYUIOPÅ†", "ASDFGHJKLØÆ*", ">ZXCVBNM;:_"],
};
