//! Whether the drums are away that have led the music: a breakdown.

/// The times in which strokes of drums are forgotten, and in which it is taken for usual that there are any, and that there
/// are none, in hops: 2 s, 7 s and 2 minutes, as long as a breakdown lasts.
const STROKES: f32 = 190.0;
const USUAL: [f32; 2] = [700.0, 11_000.0];
/// The measure at which they are usual enough for the beat to be held without them, and the share of it below which they are
/// gone.
const DRIVEN: f32 = 0.5;
const GONE: f32 = 0.5;

/// Whether drums that have led for long are away: pads and voices tell little of the beat and, believed as much, would lead
/// it astray before the drums come back.
#[derive(Debug, Clone, Default)]
pub(crate) struct Breakdown {
    /// The strength with which drums were struck of late, and with which they usually are, 0..1.
    strokes: f32,
    usual: f32,
    held: bool,
}

impl Breakdown {
    /// Takes how far a low or middle drum is told, 0..1, whether one is sure of the beat, and whether there is music at all:
    /// what comes after it has ended is another piece. Returns whether the beat is held.
    pub(crate) fn hop(&mut self, struck: f32, sure: bool, music: bool) -> bool {
        self.strokes = struck.max(self.strokes * (1.0 - 1.0 / STROKES));
        self.usual += (self.strokes - self.usual) / USUAL[usize::from(self.strokes <= self.usual)];
        let gone = self.usual > DRIVEN && self.strokes < GONE * self.usual;
        self.held = gone && music && (self.held || sure);
        self.held
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::HOPS_PER_SECOND;

    #[test]
    fn drums_are_missed_only_where_they_led_for_long_by_one_who_was_sure_and_until_they_are_back() {
        for (seconds, sure, held) in [(20.0, true, true), (20.0, false, false), (3.0, true, false)] {
            let mut breakdown = Breakdown::default();
            let mut hops = |seconds: f64, struck: f32, sure: bool| {
                (0..(seconds * HOPS_PER_SECOND) as u32).fold(false, |_, _| breakdown.hop(struck, sure, true))
            };
            assert!(!hops(seconds, 0.9, sure), "they are there");
            assert!(!hops(1.0, 0.05, sure), "a pause is no breakdown");
            assert_eq!(hops(5.0, 0.05, sure), held, "{seconds} s, {sure}");
            // It lasts, though one is less sure without them.
            assert_eq!(hops(50.0, 0.05, false), held);
            assert!(!hops(0.1, 0.9, false));
        }
    }
    #[test]
    fn where_the_music_has_ended_nothing_is_held_any_more() {
        let mut breakdown = Breakdown::default();
        assert!((0..2000).all(|_| !breakdown.hop(0.9, true, true)));
        assert!((0..500).any(|_| breakdown.hop(0.05, true, true)));
        assert!(!breakdown.hop(0.05, false, false));
        assert!((0..500).all(|_| !breakdown.hop(0.05, false, true)), "another piece");
    }
}
