//! Stand-ins for what is outside: lighting nodes on loopback, a controller of serial pixels, and what sends to Splimo.

pub mod controller;
pub mod node;
pub mod node_screen;
pub mod sim;
