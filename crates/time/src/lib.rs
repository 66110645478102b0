//! Musical and civil time: tempo, rates, phrases, what leads the clock, the sun, and what is heard, as data.
//!
//! It may use `splimo-base`. Its main types: [`tempo::Clock`], the one musical clock; [`rate::Rate`], how often something comes, in
//! seconds, hertz or beats; [`music::Hearing`], what is heard at a moment.

mod bands;
pub mod music;
pub mod rate;
pub mod sun;
pub mod sync;
pub mod tempo;
