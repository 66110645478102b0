//! OSC from the network.

use std::io;
use std::net::{SocketAddr, UdpSocket};
use std::time::Duration;

use splimo_core::command::EngineCommand;
use splimo_core::sync::{Pulses, SyncSource};
use splimo_wire::osc::{LONGEST, TempoMessage, parse};

use super::{Follower, InputSource, spawn};

/// The time that one waits for a packet before one looks whether one is still wanted, and tells of a tempo that lasts.
const PATIENCE: Duration = Duration::from_millis(100);
/// Taps that are closer than this are no person's, in seconds.
const TAPS: f64 = 0.1;

/// OSC from the network.
pub(super) const SOURCE: InputSource = InputSource {
    name: "osc",
    called: "OSC",
    takes: "ADDRESS:PORT",
    help: "Where OSC messages come to, such as 0.0.0.0:9000",
    check: |text| address_of(text).map(|_| ()),
    start: |follower, text| {
        let address = address_of(text)?;
        let socket = listen(address)
            .map_err(|e| format!("OSC cannot be listened for at {address}: {e}; choose another port"))?;
        spawn("osc", follower, move |follower| follow(follower, &socket))
    },
};

fn address_of(text: &str) -> Result<SocketAddr, String> {
    text.parse().map_err(|_| "it is no address with a port; write one, such as 0.0.0.0:9000".to_owned())
}

fn listen(address: SocketAddr) -> io::Result<UdpSocket> {
    let socket = UdpSocket::bind(address)?;
    socket.set_read_timeout(Some(PATIENCE))?;
    Ok(socket)
}

/// Follows what comes.
fn follow(follower: &Follower, socket: &UdpSocket) {
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
                follower.ask(EngineCommand::Tap.into(), now);
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
