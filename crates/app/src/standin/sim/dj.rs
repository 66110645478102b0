//! A DJ program: MIDI clock into a pipe, beats and parts of the music as OSC.

use std::io;
use std::net::{SocketAddr, UdpSocket};
use std::path::Path;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_screen::kit::pen::Pen;
use splimo_screen::kit::theme::Theme;
use splimo_time::music::Section;
use splimo_wire::midi::CLOCKS_A_BEAT;
use splimo_wire::osc::{Argument, emit, emit_whole};

use super::Sim;
use super::midi_out::MidiPipe;

/// The tempo that it can have, in beats a minute.
const TEMPI: std::ops::RangeInclusive<f64> = 40.0..=240.0;

/// The DJ program.
pub struct DeckSim {
    clock: Option<MidiPipe>,
    osc: Option<(UdpSocket, SocketAddr)>,
    bpm: f64,
    runs: bool,
    /// Clocks since it was started, and the time of the last turn.
    clocks: f64,
    now: f64,
    part: Section,
}

impl DeckSim {
    /// One that sends its clock into a pipe, and OSC to an address, as far as it is given them.
    ///
    /// # Errors
    /// If the pipe or a socket cannot be made.
    pub fn new(pipe: Option<&Path>, osc: Option<SocketAddr>, bpm: f64) -> io::Result<Self> {
        let osc = osc.map(|to| Ok::<_, io::Error>((UdpSocket::bind("0.0.0.0:0")?, to))).transpose()?;
        let clock = pipe.map(MidiPipe::at).transpose()?;
        let bpm = bpm.clamp(*TEMPI.start(), *TEMPI.end());
        Ok(Self { clock, osc, bpm, runs: false, clocks: 0.0, now: 0.0, part: Section::Intro })
    }

    fn clock(&mut self, bytes: &[u8]) {
        if let Some(pipe) = &mut self.clock {
            pipe.send(bytes);
        }
    }

    fn osc(&self, packet: Result<Vec<u8>, splimo_wire::Error>) {
        if let (Some((socket, to)), Ok(bytes)) = (&self.osc, packet) {
            // A program that nobody hears plays on.
            let _ = socket.send_to(&bytes, to);
        }
    }

    fn start(&mut self) {
        (self.runs, self.clocks) = (true, 0.0);
        self.clock(&[0xfa, 0xf8]);
        self.osc(emit_whole("/splimo/beat", &[0]));
    }

    fn stop(&mut self) {
        self.runs = false;
        self.clock(&[0xfc]);
        self.osc(emit("/splimo/stop", &[]));
    }

    fn set_part(&mut self, part: Section) {
        self.part = part;
        self.osc(emit(&format!("/deck/part/{}", part.name()), &[Argument::Number(1.0)]));
        self.osc(emit(&format!("/deck/part/{}", part.name()), &[Argument::Number(0.0)]));
    }
}

impl Sim for DeckSim {
    fn line(&mut self, words: &[&str]) -> Result<(), String> {
        match words {
            ["start"] => self.start(),
            ["stop"] => self.stop(),
            ["bpm", text] => {
                let bpm = text.parse().ok().filter(|bpm| TEMPI.contains(bpm));
                self.bpm = bpm.ok_or_else(|| format!("\"{text}\" is no tempo; write 40 to 240"))?;
            }
            ["part", name] => {
                let part = Section::ALL.into_iter().find(|part| part.name() == *name);
                let known = Section::ALL.map(Section::name).join(", ");
                self.set_part(part.ok_or_else(|| format!("\"{name}\" is no part; write one of {known}"))?);
            }
            ["wait"] => {}
            _ => {
                return Err(format!(
                    "\"{}\" is nothing that a DJ program does; write start, stop, bpm 128, part drop or wait",
                    words.join(" ")
                ));
            }
        }
        Ok(())
    }

    fn key(&mut self, key: KeyEvent) {
        let place = Section::ALL.iter().position(|part| *part == self.part).unwrap_or(0);
        match key.code {
            KeyCode::Char(' ') if self.runs => self.stop(),
            KeyCode::Char(' ') => self.start(),
            KeyCode::Up => self.bpm = (self.bpm + 1.0).min(*TEMPI.end()),
            KeyCode::Down => self.bpm = (self.bpm - 1.0).max(*TEMPI.start()),
            KeyCode::Right => self.set_part(Section::ALL[(place + 1) % Section::ALL.len()]),
            KeyCode::Left => self.set_part(Section::ALL[(place + Section::ALL.len() - 1) % Section::ALL.len()]),
            _ => {}
        }
    }

    fn turn(&mut self, now: f64) {
        let passed = now - std::mem::replace(&mut self.now, now);
        if let Some(pipe) = &mut self.clock {
            pipe.connect();
        }
        if !self.runs {
            return;
        }
        let before = self.clocks;
        self.clocks += passed.clamp(0.0, 1.0) * self.bpm / 60.0 * CLOCKS_A_BEAT;
        for _ in before as u64..self.clocks as u64 {
            self.clock(&[0xf8]);
        }
        let beat = |clocks: f64| (clocks / CLOCKS_A_BEAT) as i32;
        if beat(self.clocks) > beat(before) {
            self.osc(emit_whole("/splimo/beat", &[beat(self.clocks)]));
        }
    }

    fn draw(&self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let row = |y: u16| {
            Rect { x: area.x + 2, y: area.y + y, width: area.width.saturating_sub(2), height: 1 }.intersection(area)
        };
        Pen::new(row(1), buffer).put("DJ program", theme.bright());
        let mut pen = Pen::new(row(3), buffer);
        pen.put(&format!("{:5.1} bpm  ", self.bpm), theme.bright());
        let beat = (self.clocks / CLOCKS_A_BEAT) as u64;
        for place in 0..4 {
            let here = self.runs && beat % 4 == place;
            pen.put(if here { "█" } else { "▁" }, if here { theme.bright() } else { theme.dim() });
        }
        pen.put(if self.runs { "   plays" } else { "   stands" }, theme.text());
        let mut pen = Pen::new(row(5), buffer);
        for part in Section::ALL {
            let here = part == self.part;
            let words = if here { format!("[{}]", part.name()) } else { format!(" {} ", part.name()) };
            pen.put(&words, if here { theme.bright() } else { theme.dim() });
        }
        let foot = Rect { y: area.bottom().saturating_sub(1), ..row(0) };
        Pen::new(foot, buffer).put("Space plays, stops   ↑ ↓ tempo   ← → part   Esc ends", theme.dim());
    }
}
