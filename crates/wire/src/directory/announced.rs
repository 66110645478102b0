//! A source that announces what it sends (ANSI E1.31, section 8).

use std::net::IpAddr;

use serde::{Deserialize, Serialize};

use crate::sacn::discovery;
use crate::shown;

/// The most universes of a source.
const MOST_UNIVERSES: usize = 16_384;

/// A source that announced itself.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Announced {
    /// Its UUID.
    pub cid: [u8; 16],
    /// Its place.
    pub address: IpAddr,
    /// Its name.
    pub name: String,
    /// The universes that it sends, ascending.
    pub universes: Vec<u16>,
    /// The time of its last announcement, in the caller's seconds.
    pub last: f64,
    /// The pages that have come of the announcement under way, and what they told.
    pages: (u16, Vec<u16>),
}

impl Announced {
    pub(super) fn new(cid: [u8; 16], address: IpAddr, now: f64) -> Self {
        Self { cid, address, name: String::new(), universes: Vec::new(), last: now, pages: (0, Vec::new()) }
    }

    /// Takes a page of an announcement.
    pub(super) fn take(&mut self, page: &discovery::Repr<'_>, from: IpAddr, now: f64) {
        let (came, list) = &mut self.pages;
        if page.page == 0 {
            (*came, self.last) = (0, now);
            list.clear();
        }
        // Pages come in order; one that is missing makes the list wait for the next announcement.
        if u16::from(page.page) != *came {
            return;
        }
        *came += 1;
        let room = MOST_UNIVERSES.saturating_sub(list.len());
        list.extend(page.universes().take(room));
        if page.page == page.last_page {
            list.sort_unstable();
            list.dedup();
            self.universes = std::mem::take(list);
            self.address = from;
            self.name = shown(page.source_name);
        }
    }
}
