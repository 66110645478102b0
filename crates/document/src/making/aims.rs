//! Aims made out of where heads point.

use crate::edit::Edit;
use crate::patch::Profiles;
use splimo_engine::HeadState;
use splimo_show::{Aim, AimedHead, Profile, Show};

/// A percentage with as many decimals as tell all values of two slots apart.
fn short(percent: f32) -> f64 {
    (f64::from(percent) * 1000.0).round() / 1000.0
}

/// The edit that records where some fixtures point, or are about to, as an aim: a new one, or one that has this name, in which other heads stay
/// as they are.
///
/// # Errors
/// Words, where there is nothing to record.
pub fn recorded(show: &Show, heads: &[HeadState], fixtures: &[usize], name: &str) -> Result<Edit, String> {
    let found = show.aims.iter().position(|aim| aim.name == name);
    let mut aim = found.map_or_else(|| Aim::new(name), |at| show.aims[at].clone());
    let mut any = false;
    for head in heads.iter().filter(|head| fixtures.contains(&head.fixture)) {
        let Some(fixture) = show.fixtures.get(head.fixture) else { continue };
        let [pan, tilt] = head.goes_to.map(short);
        let now = AimedHead { fixture: fixture.name.clone(), pan, tilt };
        match aim.heads.iter_mut().find(|one| one.fixture == now.fixture) {
            Some(one) => *one = now,
            None => aim.heads.push(now),
        }
        any = true;
    }
    match (any, found) {
        (false, _) => Err("no head is chosen; choose some that turn".to_owned()),
        (true, Some(at)) => Ok(Edit::PutAim(at, aim)),
        (true, None) => Ok(Edit::AddAim(aim)),
    }
}

/// The same aim in a mirror that stands upright in the middle of its heads: each points as the one opposite did, with left and
/// right exchanged.
#[must_use]
pub fn mirrored(show: &Show, aim: &Aim) -> Aim {
    let place = |name: &str| show.fixtures.iter().find(|fixture| fixture.name == name).map(|fixture| fixture.x);
    let mut order: Vec<usize> = (0..aim.heads.len()).collect();
    let x = |at: usize| place(&aim.heads[at].fixture).unwrap_or(0.0);
    order.sort_by(|a, b| x(*a).total_cmp(&x(*b)));
    let mut mirrored = aim.clone();
    for (at, opposite) in order.iter().zip(order.iter().rev()) {
        let other = &aim.heads[*opposite];
        (mirrored.heads[*at].pan, mirrored.heads[*at].tilt) = (100.0 - other.pan, other.tilt);
    }
    mirrored
}

/// The fixtures of a show that turn, by their places.
#[must_use]
pub fn heads_of(show: &Show) -> Vec<usize> {
    // Profiles are looked up once each: screens ask this whenever they draw.
    let mut profiles = Profiles::of(show);
    let fixtures = show.fixtures.iter().enumerate();
    let turning = fixtures.filter(|(_, fixture)| profiles.get(&fixture.profile).is_some_and(Profile::aims));
    turning.map(|(at, _)| at).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Fixture, Shape};

    fn show() -> Show {
        let mut show = Show::empty("Heads");
        let head = |name: &str, x: f32| Fixture::new(name, "moving head", Shape::Line { cells: 1 }).at(x, 0.0);
        let bar = Fixture::new("Bar", "rgb", Shape::Line { cells: 8 });
        show.fixtures = vec![head("Right", 30.0), bar, head("Left", 10.0)];
        show
    }

    fn state(fixture: usize, pan: f32, tilt: f32) -> HeadState {
        HeadState { fixture, pan, tilt: 0.0, goes_to: [pan, tilt], live: false }
    }

    #[test]
    fn what_is_recorded_joins_what_an_aim_has() {
        let mut show = show();
        assert_eq!(heads_of(&show), [0, 2]);
        let heads = [state(0, 33.333_33, 20.0), state(2, 70.0, 80.0)];
        for chosen in [vec![0], vec![2]] {
            show =
                recorded(&show, &heads, &chosen, "Booth").expect("there are heads").apply(&show).expect("it is kept");
        }
        assert_eq!(show.aims.len(), 1);
        assert_eq!(show.aims[0].of("Right"), Some([33.333, 20.0]));
        assert_eq!(show.aims[0].of("Left"), Some([70.0, 80.0]));
        let later = [state(0, 40.0, 20.0), state(2, 0.0, 0.0)];
        let updated = recorded(&show, &later, &[0], "Booth").expect("a head").apply(&show).expect("it is kept");
        assert_eq!((updated.aims[0].of("Right"), updated.aims[0].of("Left")), (Some([40.0, 20.0]), Some([70.0, 80.0])));
        assert!(recorded(&show, &later, &[1], "Booth").is_err(), "a bar does not turn");
    }

    #[test]
    fn a_mirror_exchanges_left_and_right_and_twice_it_is_the_same() {
        let show = show();
        let aim = recorded(&show, &[state(0, 40.0, 20.0), state(2, 30.0, 80.0)], &[0, 2], "Booth").expect("heads");
        let Edit::AddAim(aim) = aim else { panic!("it is new") };
        let turned = mirrored(&show, &aim);
        assert_eq!((turned.of("Right"), turned.of("Left")), (Some([70.0, 80.0]), Some([60.0, 20.0])));
        assert_eq!(mirrored(&show, &turned), aim);
    }
}
