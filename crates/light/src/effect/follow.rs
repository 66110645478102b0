//! Levels that follow what is heard: up within an attack, down within a decay, whatever the frame rate.

use splimo_base::maths::exp2;

/// The share of the way to another level that is left after some seconds; after `whole` it is a sixteenth.
fn left(seconds: f32, whole: f32) -> f32 {
    if whole <= 0.0 { 0.0 } else { exp2(-4.0 * seconds / whole) }
}

/// Moves a level towards `wanted`.
pub(super) fn follow(level: &mut f32, wanted: f32, seconds: f32, attack: f32, decay: f32) {
    let whole = if wanted > *level { attack } else { decay };
    *level = wanted + (*level - wanted) * left(seconds, whole);
}

/// A level as loud as a sensitivity makes it, 0..1.
pub(super) fn sensed(level: f32, sensitivity: f32) -> f32 {
    (level * sensitivity).clamp(0.0, 1.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn following_does_not_depend_on_the_frame_rate() {
        let after = |rate: u32| {
            let mut level = 0.0;
            for frame in 0..rate {
                let wanted = if frame < rate / 2 { 1.0 } else { 0.0 };
                follow(&mut level, wanted, 1.0 / rate as f32, 0.3, 0.8);
            }
            level
        };
        assert!((after(30) - after(120)).abs() < 1e-3, "{} {}", after(30), after(120));
        assert!(after(40) > 0.01 && after(40) < 0.3);
    }

    #[test]
    fn without_an_attack_it_is_there_at_once() {
        let mut level = 0.2;
        follow(&mut level, 0.9, 0.01, 0.0, 1.0);
        assert_eq!(level, 0.9);
    }
}
