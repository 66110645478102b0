//! Packs the fonts of drawings, deflated (RFC 1951): half their size.

use std::io::Write;
use std::path::Path;
use std::{env, fs, io};

use flate2::Compression;
use flate2::write::DeflateEncoder;

fn main() -> io::Result<()> {
    let out = env::var("OUT_DIR").map_err(io::Error::other)?;
    println!("cargo::rerun-if-changed=build.rs");
    for (name, font) in [("regular", dejavu::sans_condensed::regular()), ("bold", dejavu::sans_condensed::bold())] {
        let mut deflated = DeflateEncoder::new(Vec::new(), Compression::best());
        deflated.write_all(font)?;
        fs::write(Path::new(&out).join(format!("{name}.packed")), deflated.finish()?)?;
    }
    Ok(())
}
