//! Writes a made piece as a WAV file, to be listened to: `cargo run --release -p splimo-corpus --bin make -- STYLE SEED OUT.wav
//! [SECONDS]`. The style may also be the name of a noise, such as `applause`.

use std::io::Write;

use splimo_corpus::noises::{Noise, noise};
use splimo_corpus::{piece, style};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let [name, seed, out, rest @ ..] = &arguments[..] else {
        let names: Vec<&str> = style::STYLES.iter().map(|style| style.name).collect();
        return Err(format!("say which style, a seed and a file; styles are: {}", names.join(", ")).into());
    };
    let seconds: f64 = rest.first().map_or(Ok(60.0), |text| text.parse())?;
    let kind = Noise::ALL.into_iter().find(|kind| format!("{kind:?}").to_lowercase() == *name);
    let samples = match (style::find(name), kind) {
        (Some(style), _) => piece(style, seconds, seed.parse()?).samples,
        (None, Some(kind)) => noise(kind, seconds, seed.parse()?),
        (None, None) => return Err(format!("there is no style \"{name}\"").into()),
    };
    let bytes = 2 * samples.len() as u32;
    let mut file = std::io::BufWriter::new(std::fs::File::create(out)?);
    file.write_all(b"RIFF")?;
    file.write_all(&(36 + bytes).to_le_bytes())?;
    file.write_all(b"WAVEfmt ")?;
    // 16 bytes of format: PCM, one channel, 48 kHz, 16 bits.
    for field in [16u32, 0x0001_0001, 48_000, 96_000, 0x0010_0002] {
        file.write_all(&field.to_le_bytes())?;
    }
    file.write_all(b"data")?;
    file.write_all(&bytes.to_le_bytes())?;
    for sample in samples {
        file.write_all(&((sample * 32_767.0) as i16).to_le_bytes())?;
    }
    Ok(())
}
