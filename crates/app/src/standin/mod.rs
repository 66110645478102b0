//! Stand-ins for what is outside: lighting nodes on loopback, a controller of serial pixels, and what sends to Splimo.

pub mod controller;
pub mod controller_screen;
pub mod node;
pub mod node_screen;
mod screen;
pub mod sim;
