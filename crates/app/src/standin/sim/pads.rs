//! A pad controller: sixteen pads, eight faders, four encoders and a bank of programs, as MIDI. It shows how its pads are lit.

use std::io;
use std::path::Path;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_runtime::inputs::midi_port::VirtualPort;
use splimo_screen::kit::bars::bar;
use splimo_screen::kit::pen::Pen;
use splimo_screen::kit::theme::Theme;
use splimo_wire::midi::{Message, Reader, Voice, emit};

use super::Sim;
use super::midi_out::MidiPipe;

/// The note of the first pad.
const FIRST_PAD: u8 = 36;
/// The controller of the first fader, and of the first encoder.
const FIRST_FADER: u8 = 1;
const FIRST_ENCODER: u8 = 16;
/// The pads as keys, the first at the top left.
const KEYS: [char; 16] = ['1', '2', '3', '4', 'q', 'w', 'e', 'r', 'a', 's', 'd', 'f', 'z', 'x', 'c', 'v'];
const FADERS: usize = 8;
const ENCODERS: usize = 4;
/// The time for which a key holds its pad: a terminal does not say when it is let go.
const HELD: f64 = 0.25;

/// The controller.
pub struct PadBox {
    out: MidiPipe,
    port: Option<VirtualPort>,
    lit: MidiPipe,
    reader: Reader,
    /// The time at which each pad is let go, while it is held.
    held: [Option<f64>; 16],
    lights: [u8; 16],
    faders: [u8; FADERS],
    /// The place to which a motor has put each fader.
    chosen: usize,
    now: f64,
    last: String,
}

impl PadBox {
    /// One that sends into a pipe, and by a port of a name as well; how its pads are lit comes by another, whose name ends in `.lit`.
    ///
    /// # Errors
    /// If the pipes or the port cannot be made.
    pub fn new(path: &Path, port: Option<&str>) -> io::Result<Self> {
        let lit = path.with_file_name(format!("{}.lit", path.file_name().unwrap_or_default().to_string_lossy()));
        Ok(Self {
            out: MidiPipe::at(path)?,
            port: port.map(VirtualPort::open).transpose()?,
            lit: MidiPipe::at(&lit)?,
            reader: Reader::default(),
            held: [None; 16],
            lights: [0; 16],
            faders: [0; FADERS],
            chosen: 0,
            now: 0.0,
            last: String::new(),
        })
    }

    fn send(&mut self, voice: Voice) {
        let (bytes, count) = emit(1, voice);
        self.out.send(&bytes[..count]);
        if let Some(port) = &mut self.port {
            port.send(&bytes[..count]);
        }
        self.last = format!("{voice:?}");
    }

    fn press(&mut self, pad: usize, until: Option<f64>) {
        if self.held[pad].is_none() {
            self.send(Voice::NoteOn(FIRST_PAD + pad as u8, 100));
        }
        self.held[pad] = Some(until.unwrap_or(f64::MAX));
    }

    fn let_go(&mut self, pad: usize) {
        if self.held[pad].take().is_some() {
            self.send(Voice::NoteOff(FIRST_PAD + pad as u8, 0));
        }
    }

    fn fader(&mut self, fader: usize, value: u8) {
        self.faders[fader] = value.min(127);
        self.send(Voice::Control(FIRST_FADER + fader as u8, value.min(127)));
    }

    /// Messages that come back: pads are lit, and motors put faders where they belong.
    fn see(&mut self) {
        for byte in self.lit.receive() {
            match self.reader.byte(byte) {
                Some(Message::Channel(_, Voice::NoteOn(note, value))) => self.light(note, value),
                Some(Message::Channel(_, Voice::NoteOff(note, _))) => self.light(note, 0),
                Some(Message::Channel(_, Voice::Control(number, value))) => {
                    let fader = usize::from(number.wrapping_sub(FIRST_FADER));
                    if let Some(place) = self.faders.get_mut(fader) {
                        *place = value;
                    }
                }
                Some(_) | None => {}
            }
        }
    }

    fn light(&mut self, note: u8, value: u8) {
        if let Some(light) = self.lights.get_mut(usize::from(note.wrapping_sub(FIRST_PAD))) {
            *light = value;
        }
    }
}

fn number(words: &[&str], place: usize, what: &str, most: u16) -> Result<u16, String> {
    let text = words.get(place).ok_or_else(|| format!("the {what} is missing"))?;
    text.parse().ok().filter(|n| *n <= most).ok_or_else(|| format!("\"{text}\" is no {what}; write 0 to {most}"))
}

impl Sim for PadBox {
    fn line(&mut self, words: &[&str]) -> Result<(), String> {
        match words.first().copied() {
            Some("press") => {
                let note = number(words, 1, "note", 127)? as u8;
                let velocity = if words.len() > 2 { number(words, 2, "velocity", 127)? as u8 } else { 100 };
                self.send(Voice::NoteOn(note, velocity));
            }
            Some("let-go") => {
                let note = number(words, 1, "note", 127)? as u8;
                self.send(Voice::NoteOff(note, 0));
            }
            Some("fader") => {
                let (fader, value) = (number(words, 1, "fader", 8)?, number(words, 2, "value", 127)?);
                self.fader(usize::from(fader.max(1)) - 1, value as u8);
            }
            Some("control") => {
                let (control, value) = (number(words, 1, "controller", 127)?, number(words, 2, "value", 127)?);
                self.send(Voice::Control(control as u8, value as u8));
            }
            Some("program") => {
                let program = number(words, 1, "program", 127)? as u8;
                self.send(Voice::Program(program));
            }
            Some("bend") => {
                let bend = number(words, 1, "bend", 16_383)?;
                self.send(Voice::Bend(bend));
            }
            Some("bytes") => {
                let bytes: Option<Vec<u8>> = words[1..].iter().map(|word| u8::from_str_radix(word, 16).ok()).collect();
                self.out.send(&bytes.ok_or("write bytes as in: bytes 90 24 64")?);
            }
            Some("wait") => {}
            _ => {
                return Err(format!(
                    "\"{}\" is nothing that a controller does; write press, let-go, fader, control, program, bend, bytes or wait",
                    words.join(" ")
                ));
            }
        }
        Ok(())
    }

    fn key(&mut self, key: KeyEvent) {
        let step = |by: i16| move |value: u8| (i16::from(value) + by).clamp(0, 127) as u8;
        let moved = match key.code {
            KeyCode::Char(letter) => {
                if let Some(pad) = KEYS.iter().position(|known| *known == letter) {
                    let until = self.now + HELD;
                    self.press(pad, Some(until));
                }
                match letter {
                    '[' => self.send(Voice::Control(FIRST_ENCODER + (self.chosen % ENCODERS) as u8, 127)),
                    ']' => self.send(Voice::Control(FIRST_ENCODER + (self.chosen % ENCODERS) as u8, 1)),
                    _ => {}
                }
                return;
            }
            KeyCode::Left => {
                self.chosen = self.chosen.saturating_sub(1);
                return;
            }
            KeyCode::Right => {
                self.chosen = (self.chosen + 1).min(FADERS - 1);
                return;
            }
            KeyCode::Up => step(4)(self.faders[self.chosen]),
            KeyCode::Down => step(-4)(self.faders[self.chosen]),
            KeyCode::Home => 127,
            KeyCode::End => 0,
            _ => return,
        };
        self.fader(self.chosen, moved);
    }

    fn turn(&mut self, now: f64) {
        self.now = now;
        self.out.connect();
        for pad in 0..16 {
            if self.held[pad].is_some_and(|until| until <= now) {
                self.let_go(pad);
            }
        }
        self.see();
    }

    fn draw(&self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let row = |y: u16| {
            Rect { x: area.x + 2, y: area.y + y, width: area.width.saturating_sub(2), height: 1 }.intersection(area)
        };
        let mut pen = Pen::new(row(1), buffer);
        pen.put("pad controller", theme.bright());
        pen.put(if self.out.is_connected() { "   somebody listens" } else { "   nobody listens yet" }, theme.dim());
        for line in 0..4 {
            let mut pen = Pen::new(row(3 + line * 2), buffer);
            for column in 0..4 {
                let pad = usize::from(line) * 4 + column;
                let sign = match (self.held[pad].is_some(), self.lights[pad]) {
                    (true, _) => "▣",
                    (false, 0) => "·",
                    (false, 1..=64) => "◐",
                    (false, _) => "●",
                };
                let style = if self.lights[pad] > 0 { theme.bright() } else { theme.text() };
                pen.put(&format!(" {} {sign} {:<3}", KEYS[pad], FIRST_PAD + pad as u8), style);
                pen.put("   ", theme.dim());
            }
        }
        for fader in 0..FADERS {
            let mut pen = Pen::new(row(12 + fader as u16), buffer);
            let chosen = fader == self.chosen;
            pen.put(if chosen { "▶ " } else { "  " }, theme.bright());
            pen.put(&format!("fader {} ", fader + 1), if chosen { theme.bright() } else { theme.text() });
            pen.put("▕", theme.faint());
            pen.put(&bar(f32::from(self.faders[fader]) / 127.0, 16), theme.text());
            pen.put(&format!("▏ {:>3}", self.faders[fader]), theme.text());
        }
        let last = Rect { y: area.bottom().saturating_sub(3), ..row(0) };
        Pen::new(last, buffer).put(&format!("sent last  {}", self.last), theme.dim());
        let foot = Rect { y: area.bottom().saturating_sub(1), ..row(0) };
        Pen::new(foot, buffer)
            .put("1234 qwer asdf zxcv pads   ← → fader   ↑ ↓ Home End move it   [ ] encoder   Esc ends", theme.dim());
    }
}
