//! Packs the weights of the networks, which are most of the size of the program: the bytes of all numbers by their place in a number,
//! since signs and exponents are alike, then deflated (RFC 1951). What comes out again is the same to the last bit.

use std::io::Write;
use std::path::Path;
use std::{env, fs, io};

use flate2::Compression;
use flate2::write::DeflateEncoder;

fn main() -> io::Result<()> {
    let out = env::var("OUT_DIR").map_err(io::Error::other)?;
    println!("cargo::rerun-if-changed=data");
    for entry in fs::read_dir("data")? {
        let path = entry?.path();
        let name = path.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        fs::write(Path::new(&out).join(format!("{name}.packed")), packed(&fs::read(&path)?)?)?;
    }
    Ok(())
}

fn packed(bytes: &[u8]) -> io::Result<Vec<u8>> {
    let mut deflated = DeflateEncoder::new(Vec::new(), Compression::best());
    for place in 0..4 {
        let plane: Vec<u8> = bytes.iter().skip(place).step_by(4).copied().collect();
        deflated.write_all(&plane)?;
    }
    deflated.finish()
}
