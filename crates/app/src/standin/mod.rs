//! Stand-ins for what is outside: music for the demo, and lighting nodes on loopback.

pub mod controller;
pub mod node;
pub mod node_screen;
