//! Weights as they lie in the program, packed by its build: see `build.rs` of this crate.

use std::io::Read;

use flate2::read::DeflateDecoder;

/// The numbers that were packed, `count` of them.
///
/// # Panics
/// If there are not as many, which the build of the program has seen to.
pub(crate) fn unpacked(packed: &[u8], count: usize) -> Vec<f32> {
    let mut planes = Vec::with_capacity(4 * count);
    let read = DeflateDecoder::new(packed).read_to_end(&mut planes);
    assert!(read.is_ok_and(|bytes| bytes == 4 * count), "weights are packed whole");
    (0..count).map(|i| f32::from_le_bytes(std::array::from_fn(|place| planes[place * count + i]))).collect()
}
