//! FLAC files whose samples stand as they are (RFC 9639: verbatim subframes), to be read by others in tests.

/// Samples of a frame.
const BLOCK: usize = 4096;

/// The file of some mono samples, -1..1, at so many a second, in 16 bits.
#[must_use]
pub fn flac(samples: &[f32], rate: u32) -> Vec<u8> {
    let mut file = b"fLaC\x80\0\0\x22".to_vec();
    file.extend([(BLOCK as u16).to_be_bytes(), (BLOCK as u16).to_be_bytes()].concat());
    // The sizes of frames are not told.
    file.extend([0; 6]);
    // Rate in 20 bits, channels less one in 3, bits less one in 5, samples in 36 (section 8.2).
    let packed = u64::from(rate) << 44 | 15 << 36 | samples.len() as u64;
    file.extend(packed.to_be_bytes());
    file.extend([0; 16]);
    for (number, block) in samples.chunks(BLOCK).enumerate() {
        frame(number as u32, block, &mut file);
    }
    file
}

fn frame(number: u32, block: &[f32], file: &mut Vec<u8>) {
    let start = file.len();
    // Blocks of one length, whose length is told in 16 bits; one channel of 16 bits (section 9.1).
    file.extend([0xff, 0xf8, 0x70, 0x08]);
    let mut coded = [0; 4];
    // Numbers are coded as characters are, and those of short files are characters.
    let character = char::from_u32(number).unwrap_or_default();
    file.extend(character.encode_utf8(&mut coded).as_bytes());
    file.extend((block.len() as u16 - 1).to_be_bytes());
    file.push(check(&file[start..], 8, 0x07) as u8);
    file.push(0x02);
    file.extend(block.iter().flat_map(|sample| ((sample.clamp(-1.0, 1.0) * 32_767.0) as i16).to_be_bytes()));
    let sum = check(&file[start..], 16, 0x8005);
    file.extend((sum as u16).to_be_bytes());
}

/// A cyclic redundancy check of so many bits, from zero on.
fn check(bytes: &[u8], bits: u32, polynomial: u32) -> u32 {
    let mask = (1u32 << bits) - 1;
    bytes.iter().fold(0u32, |sum, byte| {
        (0..8).fold(sum ^ u32::from(*byte) << (bits - 8), |sum, _| {
            let over = sum >> (bits - 1) & 1 == 1;
            (sum << 1 & mask) ^ if over { polynomial } else { 0 }
        })
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn checks_are_those_of_the_catalogue() {
        // CRC-8/SMBUS and CRC-16/UMTS of "123456789".
        assert_eq!((check(b"123456789", 8, 0x07), check(b"123456789", 16, 0x8005)), (0xf4, 0xfee8));
    }
}
