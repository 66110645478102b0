//! The origin of a slot's value: the fixture, cell and channel that it belongs to, and the trace from light to value.

use serde::{Deserialize, Serialize};

use super::Published;
use super::emitters::Emitters;
use super::pack::level;
use splimo_light::rig::{HeadSlot, PatchRun, Rig, carries_light, lay};
use splimo_show::{Channel, Curve, Function, SLOTS, Show};

/// The part of a channel that a slot carries.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum ChannelPart {
    /// All of it.
    Whole,
    /// The upper eight bits of sixteen.
    Coarse,
    /// The lower eight bits of sixteen.
    Fine,
}

/// The trace from light to value.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Lit {
    /// The light of the emitter, linear, before the master.
    pub light: f32,
    /// The factor for the whole stage.
    pub master: f32,
    /// The factor of the output: its limit and its white point.
    pub output: f32,
    /// The curve of the profile.
    pub curve: Curve,
    /// The level that the curve makes of it, 0..1.
    pub level: f32,
    /// The value before it is dithered or rounded: 0..255, or 0..65535 for two slots.
    pub exact: f32,
}

/// The fixture, cell and channel that a slot belongs to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SlotTrace {
    /// Index of the fixture.
    pub fixture: usize,
    /// The cell in the order of the wiring, from 0; none for a channel of the fixture as a whole.
    pub cell: Option<u32>,
    /// The function of the channel.
    pub does: Function,
    /// The part of the channel.
    pub part: ChannelPart,
    /// The light that its value comes from; none where it rests at a value.
    pub lit: Option<Lit>,
}

/// The trace of a slot (0..511) of one of the 512-slot blocks of a frame. `light` is that of every LED after the master.
#[must_use]
pub fn trace_slot(
    show: &Show,
    rig: &Rig,
    light: &[[f32; 3]],
    master: f32,
    block: usize,
    slot: u16,
) -> Option<SlotTrace> {
    let place = block * usize::from(SLOTS) + usize::from(slot);
    let of_cell = rig.runs.iter().find_map(|run| {
        let profile = &rig.profiles[run.profile as usize];
        let layout = profile.layout();
        let start = run.slot as usize;
        let cells = (u32::from(run.within) + run.cells).div_ceil(u32::from(layout.cells)) as usize;
        let within = (start..start + cells * usize::from(layout.block)).contains(&place).then(|| place - start)?;
        let (channel, part) = channel_at(profile.block(), within % usize::from(layout.block))?;
        let in_block = (within / usize::from(layout.block)) as u32 * u32::from(layout.cells);
        let led = (run.first + in_block + u32::from(channel.cell) - 1).checked_sub(u32::from(run.within))?;
        // Where several runs share a block of cells, the others have the rest of it.
        run.leds().contains(&(led as usize)).then(|| of_cell(rig, run, light, master, led, channel, part))
    });
    of_cell.or_else(|| of_fixture(show, rig, place % rig.stride().max(1)))
}

/// The numbers that leave for one light.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct LedValues {
    /// The LED.
    pub led: u32,
    /// Index of its fixture.
    pub fixture: usize,
    /// Its cell in the order of the wiring, from 0.
    pub cell: u32,
    /// Its light, linear, after the master.
    pub light: [f32; 3],
    /// Its slots (0..511) in their order, each with what the channel does and its value. None where it is not patched.
    pub slots: Vec<(u16, Function, u8)>,
}

/// The numbers that leave for an LED.
#[must_use]
pub fn led_values(show: &Show, rig: &Rig, published: &Published, led: u32) -> Option<LedValues> {
    let at = led as usize;
    let fixture = rig.fixtures.iter().position(|patched| patched.leds().contains(&at))?;
    let cell = led - rig.fixtures[fixture].first;
    let light = published.light.get(at).copied().unwrap_or_default();
    let mut values = LedValues { led, fixture, cell, light, slots: Vec::new() };
    if let Some(run) = rig.runs.iter().find(|run| run.leds().contains(&at) && rig.is_first_variant(run)) {
        // Cells of a profile may be interleaved: each slot of the universe says itself to whom it belongs.
        let block = (run.slot / u32::from(SLOTS)) as usize;
        let master = published.snapshot.master;
        values.slots = (0..SLOTS)
            .filter_map(|slot| {
                let trace = trace_slot(show, rig, &published.light, master, block, slot)?;
                let value = published.slots.get(block * usize::from(SLOTS) + usize::from(slot)).copied();
                let own = trace.fixture == fixture && trace.cell == Some(cell);
                own.then_some((slot, trace.does, value.unwrap_or(0)))
            })
            .collect();
    }
    Some(values)
}

fn of_cell(
    rig: &Rig,
    run: &PatchRun,
    light: &[[f32; 3]],
    master: f32,
    led: u32,
    channel: &Channel,
    part: ChannelPart,
) -> SlotTrace {
    let profile = &rig.profiles[run.profile as usize];
    let block = profile.block();
    let fixture = run.fixture as usize;
    let carries = carries_light(channel, block);
    let lit = light.get(led as usize).filter(|_| carries).map(|&after| {
        let emitters = block.iter().filter(|c| carries_light(c, block)).map(|c| c.does);
        let emitters = Emitters::new(emitters, profile.white);
        let share = |[r, g, b]: [f32; 3]| emitters.share([r, g, b, 0.0]).of(channel.does);
        let gain = rig.gains[usize::from(run.gain)];
        let (stage, leaves) = (share(after), share(std::array::from_fn(|c| after[c] * gain[c])));
        let level = level(leaves, &profile.curve);
        Lit {
            light: if master > 0.0 { stage / master } else { 0.0 },
            master,
            output: if stage > 0.0 { leaves / stage } else { gain.into_iter().fold(0.0, f32::max) },
            curve: profile.curve.clone(),
            level,
            exact: level * if channel.wide { 65_535.0 } else { 255.0 },
        }
    });
    SlotTrace { fixture, cell: Some(led - rig.fixtures[fixture].first), does: channel.does, part, lit }
}

/// A channel that belongs to a fixture as a whole.
fn of_fixture(show: &Show, rig: &Rig, place: usize) -> Option<SlotTrace> {
    let turns = |slot: &HeadSlot| (slot.slot as usize..).take(usize::from(slot.channel.slots())).any(|at| at == place);
    if !rig.held.iter().any(|held| held.slot as usize == place) && !rig.head_slots.iter().any(turns) {
        return None;
    }
    show.fixtures.iter().enumerate().find_map(|(fixture, f)| {
        let profile = show.profile(&f.profile)?;
        let laid = lay(f, &profile);
        let parts = [(laid.head, profile.head()), (laid.tail, profile.tail())];
        parts.into_iter().find_map(|(start, channels)| {
            let (universe, slot) = start?;
            let within = place.checked_sub(rig.slot_index(universe, slot)?)?;
            let (channel, part) = channel_at(channels, within)?;
            Some(SlotTrace { fixture, cell: None, does: channel.does, part, lit: None })
        })
    })
}

/// The channel that a slot lies in, among channels one behind another.
fn channel_at(channels: &[Channel], slot: usize) -> Option<(&Channel, ChannelPart)> {
    let mut start = 0;
    for channel in channels {
        let end = start + usize::from(channel.slots());
        if slot < end {
            let part = match (channel.wide, slot - start) {
                (false, _) => ChannelPart::Whole,
                (true, 0) => ChannelPart::Coarse,
                (true, _) => ChannelPart::Fine,
            };
            return Some((channel, part));
        }
        start = end;
    }
    None
}
