//! Sunrise and sunset at a place.
//!
//! After Meeus, Astronomical Algorithms (2nd edition, chapter 25), in the form in which NOAA's solar calculator has it: the equation of
//! time and the declination of the sun from its mean longitude and anomaly, and the hour angle at which its upper edge is on the horizon,
//! 90.833 degrees from the zenith with the usual refraction. Good to a minute or so between the polar circles.

use chrono::{DateTime, Duration, NaiveDate, Utc};

/// The angle from the zenith at which the upper edge of the sun is on the horizon, in degrees.
const HORIZON: f64 = 90.833;
/// The Julian day of the midnight at which 1970 began.
const EPOCH: f64 = 2_440_587.5;

/// The moment that is meant.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Edge {
    /// Sunrise.
    Rises,
    /// Sunset.
    Sets,
}

/// The declination of the sun in degrees, and the equation of time in minutes.
fn sun(julian_day: f64) -> (f64, f64) {
    let t = (julian_day - 2_451_545.0) / 36_525.0;
    let longitude = (280.466_46 + t * (36_000.769_83 + t * 0.000_303_2)).rem_euclid(360.0);
    let anomaly = (357.529_11 + t * (35_999.050_29 - 0.000_153_7 * t)).to_radians();
    let eccentricity = 0.016_708_634 - t * (0.000_042_037 + 0.000_000_126_7 * t);
    let centre = anomaly.sin() * (1.914_602 - t * (0.004_817 + 0.000_014 * t))
        + (2.0 * anomaly).sin() * (0.019_993 - 0.000_101 * t)
        + (3.0 * anomaly).sin() * 0.000_289;
    let node = (125.04 - 1934.136 * t).to_radians();
    let apparent = (longitude + centre - 0.005_69 - 0.004_78 * node.sin()).to_radians();
    let mean_tilt = 23.0 + (26.0 + (21.448 - t * (46.815 + t * (0.000_59 - t * 0.001_813))) / 60.0) / 60.0;
    let tilt = (mean_tilt + 0.002_56 * node.cos()).to_radians();
    let declination = (tilt.sin() * apparent.sin()).asin().to_degrees();
    let y = (tilt / 2.0).tan().powi(2);
    let l = longitude.to_radians();
    let equation = y * (2.0 * l).sin() - 2.0 * eccentricity * anomaly.sin()
        + 4.0 * eccentricity * y * anomaly.sin() * (2.0 * l).cos()
        - 0.5 * y * y * (4.0 * l).sin()
        - 1.25 * eccentricity * eccentricity * (2.0 * anomaly).sin();
    (declination, 4.0 * equation.to_degrees())
}

/// The time of sunrise or sunset on a date at a latitude and a longitude in degrees, north and east above zero; nothing where the sun
/// stays above or below the horizon on that day.
#[must_use]
pub fn time(date: NaiveDate, latitude: f64, longitude: f64, edge: Edge) -> Option<DateTime<Utc>> {
    let midnight = date.and_hms_opt(0, 0, 0)?.and_utc();
    let day = EPOCH + midnight.timestamp() as f64 / 86_400.0;
    // Minutes since midnight in the world's time: begun at noon there, and again where the sun is then.
    let mut minutes = 720.0 - 4.0 * longitude;
    for _ in 0..3 {
        let (declination, equation) = sun(day + minutes / 1440.0);
        let (here, sun) = (latitude.to_radians(), declination.to_radians());
        let cosine = HORIZON.to_radians().cos() / (here.cos() * sun.cos()) - here.tan() * sun.tan();
        if !(-1.0..=1.0).contains(&cosine) {
            return None;
        }
        let angle = cosine.acos().to_degrees();
        let from_noon = if edge == Edge::Rises { -angle } else { angle };
        minutes = 720.0 - 4.0 * longitude - equation + 4.0 * from_noon;
    }
    Some(midnight + Duration::seconds((minutes * 60.0).round() as i64))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Sunrise and sunset as almanacs print them, to the minute.
    const PUBLISHED: [(&str, chrono_tz::Tz, f64, f64, &str, &str, &str); 6] = [
        ("London", chrono_tz::Europe::London, 51.5074, -0.1278, "2024-06-20", "04:43", "21:21"),
        ("New York", chrono_tz::America::New_York, 40.7128, -74.0060, "2024-12-21", "07:17", "16:32"),
        ("Sydney", chrono_tz::Australia::Sydney, -33.8688, 151.2093, "2024-01-01", "05:47", "20:09"),
        ("Tokyo", chrono_tz::Asia::Tokyo, 35.6762, 139.6503, "2024-03-20", "05:45", "17:53"),
        ("Berlin", chrono_tz::Europe::Berlin, 52.52, 13.405, "2024-12-21", "08:15", "15:54"),
        ("Quito", chrono_tz::America::Guayaquil, -0.1807, -78.4678, "2024-09-22", "06:03", "18:09"),
    ];

    #[test]
    fn the_sun_rises_and_sets_as_the_tables_say() {
        for (city, zone, latitude, longitude, date, rises, sets) in PUBLISHED {
            let date: NaiveDate = date.parse().expect("a date");
            for (edge, printed) in [(Edge::Rises, rises), (Edge::Sets, sets)] {
                let at = time(date, latitude, longitude, edge).expect("it does").with_timezone(&zone);
                let printed = date.and_time(format!("{printed}:00").parse().expect("a time"));
                let off = (at.naive_local() - printed).num_seconds();
                assert!(off.abs() <= 120, "{city} {edge:?}: {at}, {off} s from {printed}");
            }
        }
    }

    #[test]
    fn where_the_sun_stays_up_or_down_nothing_comes() {
        let date = |text: &str| text.parse::<NaiveDate>().expect("a date");
        assert_eq!(time(date("2024-06-21"), 78.22, 15.65, Edge::Sets), None);
        assert_eq!(time(date("2024-12-21"), 78.22, 15.65, Edge::Rises), None);
        assert!(time(date("2024-03-21"), 78.22, 15.65, Edge::Rises).is_some());
    }
}
