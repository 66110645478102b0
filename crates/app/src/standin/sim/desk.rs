//! A lighting desk: faders that leave as a universe of Art-Net or sACN, forty times a second.

use std::io;
use std::net::{Ipv4Addr, SocketAddr, UdpSocket};

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_screen::kit::bars::bar;
use splimo_screen::kit::pen::Pen;
use splimo_screen::kit::theme::Theme;
use splimo_wire::{Data, Protocol, USUAL_PRIORITY, data_of};

use super::Sim;

/// Frames a second.
const RATE: f64 = 40.0;
/// Faders that are shown at a time.
const SHOWN: usize = 16;
/// The times that the end of a stream is said (E1.31, 6.2.6).
const ENDS: usize = 3;

/// A way of a fader to a value.
#[derive(Debug, Clone, Copy)]
struct Fade {
    slot: usize,
    from: f64,
    to: f64,
    began: f64,
    seconds: f64,
}

/// The desk.
pub struct FaderDesk {
    socket: UdpSocket,
    to: SocketAddr,
    protocol: Protocol,
    universe: u16,
    name: String,
    identity: [u8; 16],
    priority: u8,
    sequence: u8,
    slots: [u8; 512],
    fades: Vec<Fade>,
    silent: bool,
    sent: f64,
    frames: u64,
    chosen: usize,
    now: f64,
}

impl FaderDesk {
    /// One that sends a universe from an address of this machine to another address; without one, to everybody on this machine.
    ///
    /// # Errors
    /// If the address is not this machine's.
    pub fn new(
        protocol: Protocol,
        universe: u16,
        own: Ipv4Addr,
        to: Option<Ipv4Addr>,
        name: &str,
        priority: Option<u8>,
    ) -> io::Result<Self> {
        let socket = UdpSocket::bind((own, 0))?;
        socket.set_broadcast(true)?;
        let to = SocketAddr::from((to.unwrap_or(Ipv4Addr::new(127, 255, 255, 255)), protocol.port()));
        let mut identity = *b"splimo-sim-desk-";
        for (place, byte) in identity.iter_mut().zip(name.bytes().chain(own.octets())) {
            *place ^= byte;
        }
        Ok(Self {
            socket,
            to,
            protocol,
            universe,
            name: name.to_owned(),
            identity,
            priority: priority.unwrap_or(USUAL_PRIORITY),
            sequence: 0,
            slots: [0; 512],
            fades: Vec::new(),
            silent: false,
            sent: f64::MIN,
            frames: 0,
            chosen: 0,
            now: 0.0,
        })
    }

    fn send(&mut self, terminated: bool) {
        self.sequence = self.sequence % 255 + 1;
        let data = Data {
            source: Some((self.identity, &self.name)),
            priority: self.priority,
            terminated,
            slots: &self.slots,
            ..data_of(self.protocol, self.universe, self.sequence)
        };
        // A desk that nobody hears goes on.
        let _ = self.socket.send_to(&data.emit(), self.to);
        self.frames += 1;
    }

    fn follow_fades(&mut self) {
        let now = self.now;
        for fade in &self.fades {
            let part = if fade.seconds > 0.0 { ((now - fade.began) / fade.seconds).clamp(0.0, 1.0) } else { 1.0 };
            self.slots[fade.slot] = (fade.from + (fade.to - fade.from) * part).round() as u8;
        }
        self.fades.retain(|fade| now - fade.began < fade.seconds);
    }
}

fn parsed<T: std::str::FromStr>(words: &[&str], place: usize, what: &str) -> Result<T, String> {
    let text = words.get(place).ok_or_else(|| format!("the {what} is missing"))?;
    text.parse().map_err(|_| format!("\"{text}\" is no {what}"))
}

impl Sim for FaderDesk {
    fn line(&mut self, words: &[&str]) -> Result<(), String> {
        let slot = |place: usize| -> Result<usize, String> {
            let slot: usize = parsed(words, place, "slot")?;
            if (1..=512).contains(&slot) { Ok(slot - 1) } else { Err(format!("{slot} is no slot; write 1 to 512")) }
        };
        match words.first().copied() {
            Some("slot") => {
                let (slot, value) = (slot(1)?, parsed::<u8>(words, 2, "value from 0 to 255")?);
                self.fades.retain(|fade| fade.slot != slot);
                self.slots[slot] = value;
            }
            Some("fade") => {
                let (slot, to) = (slot(1)?, parsed::<u8>(words, 2, "value from 0 to 255")?);
                let seconds: f64 = parsed(words, 3, "time in seconds")?;
                let from = f64::from(self.slots[slot]);
                self.fades.retain(|fade| fade.slot != slot);
                self.fades.push(Fade { slot, from, to: f64::from(to), began: self.now, seconds });
            }
            Some("priority") => self.priority = parsed::<u8>(words, 1, "priority from 0 to 200")?.min(200),
            Some("silent") => self.silent = true,
            Some("back") => self.silent = false,
            Some("end") => {
                (0..ENDS).for_each(|_| self.send(true));
                self.silent = true;
            }
            Some("wait") => {}
            _ => {
                return Err(format!(
                    "\"{}\" is nothing that a desk does; write slot 5 128, fade 5 255 2.0, priority 150, silent, back, end or wait",
                    words.join(" ")
                ));
            }
        }
        Ok(())
    }

    fn key(&mut self, key: KeyEvent) {
        let value = i16::from(self.slots[self.chosen]);
        let to = match key.code {
            KeyCode::Left => return self.chosen = self.chosen.saturating_sub(1),
            KeyCode::Right => return self.chosen = (self.chosen + 1).min(511),
            KeyCode::Char('s') => return self.silent = !self.silent,
            KeyCode::Up => value + 1,
            KeyCode::Down => value - 1,
            KeyCode::PageUp => value + 16,
            KeyCode::PageDown => value - 16,
            KeyCode::Home => 255,
            KeyCode::End => 0,
            KeyCode::Char(digit @ '0'..='9') => (digit as i16 - i16::from(b'0')) * 255 / 9,
            _ => return,
        };
        self.slots[self.chosen] = to.clamp(0, 255) as u8;
    }

    fn turn(&mut self, now: f64) {
        self.now = now;
        self.follow_fades();
        if !self.silent && now - self.sent >= 1.0 / RATE {
            self.sent = now;
            self.send(false);
        }
    }

    fn draw(&self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let row = |y: u16| {
            Rect { x: area.x + 2, y: area.y + y, width: area.width.saturating_sub(2), height: 1 }.intersection(area)
        };
        let mut pen = Pen::new(row(1), buffer);
        pen.put(&format!("desk \"{}\"", self.name), theme.bright());
        let protocol = self.protocol.transport().name();
        pen.put(&format!("   {protocol} {} to {}", self.universe, self.to), theme.text());
        pen.put(&format!("   priority {}   {} frames", self.priority, self.frames), theme.dim());
        if self.silent {
            pen.put("   SILENT", theme.filled());
        }
        let first = self.chosen / SHOWN * SHOWN;
        for (line, slot) in (first..(first + SHOWN).min(512)).enumerate() {
            let mut pen = Pen::new(row(3 + line as u16), buffer);
            let chosen = slot == self.chosen;
            pen.put(if chosen { "▶ " } else { "  " }, theme.bright());
            pen.put(&format!("slot {:>3} ", slot + 1), if chosen { theme.bright() } else { theme.text() });
            pen.put("▕", theme.faint());
            pen.put(&bar(f32::from(self.slots[slot]) / 255.0, 24), theme.text());
            pen.put(&format!("▏ {:>3}", self.slots[slot]), theme.text());
        }
        let foot = Rect { y: area.bottom().saturating_sub(1), ..row(0) };
        Pen::new(foot, buffer)
            .put("← → slot   ↑ ↓ PgUp PgDn Home End 0-9 move it   s silent, and back   Esc ends", theme.dim());
    }
}
