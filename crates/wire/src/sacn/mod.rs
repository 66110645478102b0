//! ANSI E1.31-2018, "Lightweight streaming protocol for transport of DMX512 using ACN".

pub mod data;

use std::net::Ipv4Addr;

/// The UDP port of E1.31 (section 9: the port of SDT, ANSI E1.17).
pub const PORT: u16 = 5568;
/// The first universe (section 6.2.7).
pub const FIRST_UNIVERSE: u16 = 1;
/// The last universe (section 6.2.7).
pub const LAST_UNIVERSE: u16 = 63_999;
/// The highest priority (section 6.2.3).
pub const HIGHEST_PRIORITY: u8 = 200;

/// The IPv4 multicast group of a universe (section 9.3.1, table 9-10).
#[must_use]
pub fn multicast(universe: u16) -> Ipv4Addr {
    let [high, low] = universe.to_be_bytes();
    Ipv4Addr::new(239, 255, high, low)
}
