//! The sender's thread: each frame leaves at its deadline, and what became of it is counted.

use std::io;

use crossbeam_channel::{Receiver, Sender};
use splimo_show::Pacing;
use splimo_wire::burst::{Burst, TERMINATIONS};
use splimo_wire::socket::{self, Sent};

use super::record::Tap;
use super::{LaneOutlet, Meter, NewOutput, OutputStatus, OutputTotals, Refusals};
use crate::clock::Instant;
use crate::engine::frames::OutFrame;
use crate::fault;
use crate::trouble::{Troubles, keep_alive};

/// In how many steps the packets of a frame are spread.
const STEPS: usize = 10;
/// Over which part of a frame's time.
const SPREAD: f64 = 0.5;

/// The ends of the channels that the sender talks through.
pub struct SenderEnds {
    /// Frames from the engine.
    pub full: Receiver<OutFrame>,
    /// Frames back to the engine.
    pub empty: Sender<OutFrame>,
    /// The way of snapshots to screens.
    pub status: triple_buffer::Input<OutputStatus>,
    /// The tap from which a recording takes its packets.
    pub tap: Tap,
    /// The troubles, where failures are told.
    pub troubles: Troubles,
}

/// Everything that the sender's thread has in its hands.
pub struct SendLoop {
    ends: SenderEnds,
    now: NewOutput,
    socket: socket::Sender,
    totals: OutputTotals,
    meter: Meter,
    /// The packets of each lane in the present second, by what became of them.
    lanes: Vec<Sent>,
    /// Routes whose packets were refused in the last second.
    refused: Vec<usize>,
}

impl SendLoop {
    /// A sender for some streams.
    #[must_use]
    pub fn new(mut first: NewOutput, ends: SenderEnds) -> Self {
        let meter = Meter::new(std::mem::take(&mut first.streams));
        let lanes = vec![Sent::default(); first.outlets.len()];
        let (socket, totals) = (socket::Sender::default(), OutputTotals::default());
        Self { ends, now: first, socket, totals, meter, lanes, refused: Vec::new() }
    }

    /// Sends until the engine is gone, then says that the streams end.
    ///
    /// # Errors
    /// None at present; a refused packet is counted and told of.
    pub fn run(mut self) -> io::Result<OutputTotals> {
        let troubles = self.ends.troubles.clone();
        let mut restarts = false;
        keep_alive("sender", &troubles, || {
            if std::mem::replace(&mut restarts, true) {
                // The frame that was in hand is gone; another takes its place in the round.
                let _ = self.ends.empty.try_send(OutFrame::default());
            }
            self.frames();
        });
        let NewOutput { burst, outlets, .. } = &mut self.now;
        terminate(burst, outlets, &mut self.socket, &mut self.totals);
        Ok(self.totals)
    }

    /// Goes over to other streams, and says of those that are not there any more that they end.
    fn go_over(&mut self, mut output: NewOutput) {
        let next = std::mem::take(&mut output.burst);
        let mut ended = self.now.burst.replace(next);
        terminate(&mut ended, &self.now.outlets, &mut self.socket, &mut self.totals);
        self.meter.go_over(std::mem::take(&mut output.streams));
        self.lanes = vec![Sent::default(); output.outlets.len()];
        // The packets are there already; the rest takes the place of what was.
        std::mem::swap(&mut output.burst, &mut self.now.burst);
        self.now = output;
    }

    fn frames(&mut self) {
        while let Ok(mut frame) = self.ends.full.recv() {
            fault::strike("sender");
            let deadline = frame.deadline.take().unwrap_or_else(Instant::now);
            deadline.sleep();
            if let Some(output) = frame.output.take() {
                self.go_over(*output);
            }
            let began = Instant::now();
            let seconds = self.meter.seconds(deadline);
            self.now.burst.prepare(&frame.slots, seconds, frame.sudden);
            for port in &mut self.now.ports {
                port.offer(&frame.slots, seconds);
            }
            // The engine takes the frame back; it is gone only when all ends.
            let _ = self.ends.empty.try_send(frame);
            let sent = self.send(deadline);
            let done = Instant::now();
            self.ends.tap.take(&self.now.burst, &self.now.outlets);
            let late = began.since(deadline) as f32 / 1e6;
            self.totals.frames += 1;
            self.totals.seconds = seconds;
            self.totals.packets += sent.packets;
            self.totals.errors += sent.errors;
            self.totals.late.add(late);
            self.totals.send.add(done.since(began) as f32 / 1e6);
            if self.meter.count(self.now.burst.due(), late, deadline) {
                self.tell();
            }
        }
    }

    /// Lets a frame leave.
    fn send(&mut self, deadline: Instant) -> Sent {
        let mut sent = Sent::default();
        let mut spread = 0;
        for lane in 0..self.now.outlets.len() {
            if self.now.outlets[lane].pacing == Pacing::Spread {
                spread = spread.max(self.now.burst.due_of(lane));
            } else {
                let due = self.now.burst.due_of(lane);
                sent.add(self.send_part(lane, 0..due));
                sent.add(self.send_syncs(lane));
            }
        }
        if spread > 0 {
            sent.add(self.send_spread(deadline, spread));
        }
        sent
    }

    /// Lets the lanes that are to be spread leave a bit at a time.
    fn send_spread(&mut self, deadline: Instant, most: usize) -> Sent {
        let mut sent = Sent::default();
        let steps = STEPS.min(most);
        let pause = (1e9 / f64::from(self.now.rate.max(1.0)) * SPREAD / steps as f64) as i64;
        for step in 0..steps {
            if step > 0 {
                deadline.plus(pause * step as i64).sleep();
            }
            for lane in 0..self.now.outlets.len() {
                if self.now.outlets[lane].pacing == Pacing::Spread {
                    let due = self.now.burst.due_of(lane);
                    sent.add(self.send_part(lane, due * step / steps..due * (step + 1) / steps));
                    if step + 1 == steps {
                        sent.add(self.send_syncs(lane));
                    }
                }
            }
        }
        sent
    }

    fn send_part(&mut self, lane: usize, range: std::ops::Range<usize>) -> Sent {
        let outlet = &self.now.outlets[lane];
        let burst = outlet.pacing == Pacing::Burst;
        let sent = self.socket.send(&outlet.socket, self.now.burst.packets(lane, range), burst);
        self.lanes[lane].add(sent);
        sent
    }

    fn send_syncs(&mut self, lane: usize) -> Sent {
        let sent = self.socket.send(&self.now.outlets[lane].socket, self.now.burst.syncs(lane), false);
        self.lanes[lane].add(sent);
        sent
    }

    fn tell(&mut self) {
        let status = self.ends.status.input_buffer_mut();
        status.frames = self.totals.frames;
        status.packets = self.totals.packets;
        status.errors = self.totals.errors;
        status.recording = self.ends.tap.status();
        status.refused.clear();
        for (lane, outlet) in self.lanes.iter().zip(&self.now.outlets).filter(|(lane, _)| lane.errors > 0) {
            let why = lane.last_error.map(|e| e.desc().to_owned());
            status.refused.push((outlet.route, Refusals { count: lane.errors, why }));
        }
        self.meter.write(status);
        let refused = std::mem::take(&mut status.refused);
        status.refused.clone_from(&refused);
        self.ends.status.publish();
        self.lanes.fill(Sent::default());
        self.tell_of_refusals(&refused);
        self.tell_of_rate();
    }

    fn tell_of_refusals(&mut self, refused: &[(usize, Refusals)]) {
        let subject = |name: &str| format!("sending {name}");
        let name = |route: usize| self.now.routes.get(route).map_or("", String::as_str);
        for (route, refusals) in refused {
            let why = refusals.why.as_deref().unwrap_or("refused by the system");
            let mend = "see to the cable, the address of the route and this machine's network";
            let message = format!("{} packets could not be sent in the last second ({why}); {mend}", refusals.count);
            self.ends.troubles.tell(&subject(name(*route)), message);
        }
        for route in self.refused.iter().filter(|route| refused.iter().all(|(other, _)| other != *route)) {
            self.ends.troubles.over(&subject(name(*route)));
        }
        self.refused = refused.iter().map(|(route, _)| *route).collect();
    }

    /// Tells of it where fewer frames leave than the show asks for.
    fn tell_of_rate(&self) {
        let (fps, rate) = (self.meter.fps, self.now.rate);
        if fps < rate * 0.9 {
            let message = format!(
                "only {fps:.0} of {rate:.0} frames a second leave; the machine is busy elsewhere: end other programs, or lower the rate"
            );
            self.ends.troubles.tell("frame rate", message);
        } else {
            self.ends.troubles.over("frame rate");
        }
    }
}

fn terminate(burst: &mut Burst, outlets: &[LaneOutlet], socket: &mut socket::Sender, totals: &mut OutputTotals) {
    for _ in 0..TERMINATIONS {
        burst.terminate();
        for (lane, outlet) in outlets.iter().enumerate().take(burst.lanes()) {
            let sent = socket.send(&outlet.socket, burst.packets(lane, 0..burst.due_of(lane)), false);
            totals.packets += sent.packets;
            totals.errors += sent.errors;
        }
    }
}
