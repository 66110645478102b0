//! OSC from the network.

use std::io;
use std::net::{SocketAddr, UdpSocket};
use std::time::Duration;

use splimo_core::command::{EngineCommand, Origin};
use splimo_core::sync::{Pulses, SyncSource};
use splimo_wire::osc::{LONGEST, TempoMessage, parse};

use super::Follower;
use crate::asked::Asked;

/// The time that one waits for a packet before one looks whether one is still wanted, and tells of a tempo that lasts.
const PATIENCE: Duration = Duration::from_millis(100);
/// Taps that are closer than this are no person's, in seconds.
const TAPS: f64 = 0.1;

pub(super) fn listen(address: SocketAddr) -> io::Result<UdpSocket> {
    let socket = UdpSocket::bind(address)?;
    socket.set_read_timeout(Some(PATIENCE))?;
    Ok(socket)
}

/// Follows what comes.
pub(super) fn follow(follower: &Follower, socket: &UdpSocket) {
    let mut pulses = Pulses::new(SyncSource::Osc, 1.0);
    // A tempo lasts until there are beats; beats have to go on.
    let (mut lasts, mut last, mut tapped) = (false, f64::MIN, f64::MIN);
    let mut bytes = [0; LONGEST + 1];
    while !follower.stopped() {
        let received = socket.recv_from(&mut bytes);
        let now = follower.now();
        let Ok((count, from)) = received else {
            if lasts {
                follower.tell(pulses.position(now), &mut last);
            }
            continue;
        };
        let parsed = parse(&bytes[..count], |told| match told {
            TempoMessage::Beat(number) => {
                if let Some(number) = number {
                    pulses.seek(number);
                }
                pulses.run(true);
                pulses.pulse(now);
                lasts = false;
            }
            TempoMessage::Tempo(bpm) => {
                pulses.set(now, bpm);
                pulses.run(true);
                lasts = true;
            }
            TempoMessage::Tap if now - tapped > TAPS => {
                tapped = now;
                let _ =
                    follower.asks.try_send(Asked { command: EngineCommand::Tap.into(), origin: Origin::Osc, at: now });
            }
            TempoMessage::Tap => {}
            TempoMessage::Stop => {
                pulses.run(false);
                (lasts, last) = (false, f64::MIN);
            }
        });
        match parsed {
            Ok(()) => follower.troubles.over("osc"),
            Err(error) => follower.troubles.tell("osc", format!("a packet from {from} is not understood: {error}")),
        }
        follower.tell(pulses.position(now), &mut last);
    }
}
