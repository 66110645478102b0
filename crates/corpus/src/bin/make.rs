//! Writes a made piece as a WAV file, to be listened to: `cargo run --release -p splimo-corpus --bin make -- STYLE SEED OUT.wav
//! [SECONDS]`. Beside it go its beats as `score --folder` reads them: a line each, its time and, where it begins a bar, a 1. The
//! style may also be the name of a noise, such as `applause`, which has none.

use std::path::Path;

use splimo_corpus::noises::{Noise, noise};
use splimo_corpus::{Piece, piece, style, wav};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let [name, seed, out, rest @ ..] = &arguments[..] else {
        let names: Vec<&str> = style::STYLES.iter().map(|style| style.name).collect();
        return Err(format!("say which style, a seed and a file; styles are: {}", names.join(", ")).into());
    };
    let seconds: f64 = rest.first().map_or(Ok(60.0), |text| text.parse())?;
    let kind = Noise::ALL.into_iter().find(|kind| format!("{kind:?}").to_lowercase() == *name);
    let samples = match (style::find(name), kind) {
        (Some(style), _) => {
            let piece = piece(style, seconds, seed.parse()?);
            std::fs::write(Path::new(out).with_extension("beats"), beats(&piece))?;
            piece.samples
        }
        (None, Some(kind)) => noise(kind, seconds, seed.parse()?),
        (None, None) => return Err(format!("there is no style \"{name}\"").into()),
    };
    std::fs::write(out, wav(&samples, 48_000, 1))?;
    Ok(())
}

/// A line for each beat.
fn beats(piece: &Piece) -> String {
    let first = |time: &f64| piece.downbeats.iter().any(|first| (first - time).abs() < 1e-6);
    piece.beats.iter().map(|time| format!("{time:.6}{}\n", if first(time) { " 1" } else { "" })).collect()
}
