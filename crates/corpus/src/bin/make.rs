//! Writes a made piece as a WAV file, to be listened to: `cargo run --release -p splimo-corpus --bin make -- STYLE SEED OUT.wav
//! [SECONDS]`. The style may also be the name of a noise, such as `applause`.

use splimo_corpus::noises::{Noise, noise};
use splimo_corpus::{piece, style, wav};

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
    std::fs::write(out, wav(&samples, 48_000, 1))?;
    Ok(())
}
