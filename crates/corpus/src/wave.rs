//! WAV files (IBM and Microsoft, "Multimedia Programming Interface and Data Specifications 1.0", 1991).

/// A WAV file of 16-bit samples, which are interleaved where there are several channels.
#[must_use]
pub fn wav(samples: &[f32], rate: u32, channels: u16) -> Vec<u8> {
    let length = 2 * samples.len() as u32;
    let frame = 2 * channels;
    let mut bytes = Vec::with_capacity(44 + length as usize);
    bytes.extend(b"RIFF");
    bytes.extend((36 + length).to_le_bytes());
    bytes.extend(b"WAVEfmt ");
    bytes.extend(16u32.to_le_bytes());
    // PCM.
    bytes.extend(1u16.to_le_bytes());
    bytes.extend(channels.to_le_bytes());
    bytes.extend(rate.to_le_bytes());
    bytes.extend((rate * u32::from(frame)).to_le_bytes());
    bytes.extend(frame.to_le_bytes());
    bytes.extend(16u16.to_le_bytes());
    bytes.extend(b"data");
    bytes.extend(length.to_le_bytes());
    bytes.extend(samples.iter().flat_map(|sample| ((sample.clamp(-1.0, 1.0) * 32_767.0) as i16).to_le_bytes()));
    bytes
}
