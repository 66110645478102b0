//! Blocks of network addresses: who may send something.

use std::fmt;
use std::net::IpAddr;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// A block of addresses that begin alike, in the notation of RFC 4632, section 3.1: `10.20.0.0/24`; one address alone is a block
/// of one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct AddressBlock {
    address: IpAddr,
    /// The number of leading bits that are the block's.
    bits: u8,
}

/// A text that is no block of addresses.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is no address: write one such as 10.20.0.11, or a network such as 10.20.0.0/24")]
pub struct BadAddressBlock(String);

impl AddressBlock {
    /// True if an address lies in the block.
    #[must_use]
    pub fn contains(&self, address: IpAddr) -> bool {
        match (self.address, address.to_canonical()) {
            (IpAddr::V4(own), IpAddr::V4(other)) => alike(own.to_bits().into(), other.to_bits().into(), self.bits, 32),
            (IpAddr::V6(own), IpAddr::V6(other)) => alike(own.to_bits(), other.to_bits(), self.bits, 128),
            (IpAddr::V4(_), IpAddr::V6(_)) | (IpAddr::V6(_), IpAddr::V4(_)) => false,
        }
    }

    /// True if a list allows an address: one that is empty allows all.
    #[must_use]
    pub fn allow(list: &[Self], address: IpAddr) -> bool {
        list.is_empty() || list.iter().any(|block| block.contains(address))
    }

    /// A list as it was typed, with commas or blanks between; an empty one allows all.
    ///
    /// # Errors
    /// [`BadAddressBlock`] for the first that is none.
    pub fn list(text: &str) -> Result<Vec<Self>, BadAddressBlock> {
        text.split([',', ' ']).filter(|part| !part.is_empty()).map(str::parse).collect()
    }

    /// A list as it is shown: with commas between.
    #[must_use]
    pub fn words(list: &[Self]) -> String {
        list.iter().map(ToString::to_string).collect::<Vec<_>>().join(", ")
    }

    fn whole(address: IpAddr) -> u8 {
        if address.is_ipv4() { 32 } else { 128 }
    }
}

/// True if the first bits of two numbers of `width` bits are the same.
fn alike(a: u128, b: u128, bits: u8, width: u32) -> bool {
    let rest = width - u32::from(bits).min(width);
    (a ^ b).checked_shr(rest).unwrap_or(0) == 0
}

impl From<IpAddr> for AddressBlock {
    fn from(address: IpAddr) -> Self {
        Self { address, bits: Self::whole(address) }
    }
}

impl FromStr for AddressBlock {
    type Err = BadAddressBlock;

    fn from_str(text: &str) -> Result<Self, BadAddressBlock> {
        let bad = || BadAddressBlock(text.chars().take(80).collect());
        let (address, bits) = text.trim().split_once('/').map_or((text.trim(), None), |(a, b)| (a, Some(b)));
        let address: IpAddr = address.parse().map_err(|_| bad())?;
        let bits = bits.map_or(Ok(Self::whole(address)), |bits| bits.parse().map_err(|_| bad()))?;
        if bits > Self::whole(address) { Err(bad()) } else { Ok(Self { address, bits }) }
    }
}

impl fmt::Display for AddressBlock {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.bits == Self::whole(self.address) {
            return self.address.fmt(f);
        }
        write!(f, "{}/{}", self.address, self.bits)
    }
}

impl TryFrom<String> for AddressBlock {
    type Error = BadAddressBlock;

    fn try_from(text: String) -> Result<Self, BadAddressBlock> {
        text.parse()
    }
}

impl From<AddressBlock> for String {
    fn from(block: AddressBlock) -> Self {
        block.to_string()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn a_block_contains_what_begins_alike() {
        for (block, inside, outside) in [
            ("10.20.0.0/24", "10.20.0.255", "10.20.1.0"),
            ("10.20.0.7", "10.20.0.7", "10.20.0.8"),
            ("0.0.0.0/0", "203.0.113.9", "::1"),
            ("fd00::/8", "fdff::1", "fe80::1"),
            ("10.20.0.0/24", "::ffff:10.20.0.9", "::10.20.0.9"),
        ] {
            let read: AddressBlock = block.parse().expect(block);
            assert_eq!(read.to_string(), block);
            assert!(read.contains(inside.parse().expect("an address")), "{block} {inside}");
            assert!(!read.contains(outside.parse().expect("an address")), "{block} {outside}");
        }
        for bad in ["", "10.20.0", "10.20.0.0/33", "10.20.0.0/", "/8", "fd00::/129", "ten"] {
            assert!(bad.parse::<AddressBlock>().is_err(), "{bad}");
        }
        let list = AddressBlock::list("10.20.0.7, 10.20.1.0/24").expect("a list");
        assert_eq!(AddressBlock::words(&list), "10.20.0.7, 10.20.1.0/24");
        assert!(AddressBlock::allow(&[], IpAddr::from([9, 9, 9, 9])));
        assert!(!AddressBlock::allow(&list, IpAddr::from([9, 9, 9, 9])));
    }

    proptest! {
        #[test]
        fn any_text_is_a_block_or_an_error(text in "[0-9a-f:./]{0,24}", address in any::<u32>()) {
            if let Ok(block) = text.parse::<AddressBlock>() {
                prop_assert_eq!(block.to_string().parse(), Ok(block));
                let _ = block.contains(IpAddr::from(address.to_be_bytes()));
            }
        }
    }
}
