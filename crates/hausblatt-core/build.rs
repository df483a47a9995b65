//! Gives the program a name that changes with what it is compiled of: its own code, and the versions of its libraries.

use std::path::Path;
use std::{env, fs, io};

use xxhash_rust::xxh3::Xxh3;

fn main() -> io::Result<()> {
    let mut digest = Xxh3::new();
    for folder in ["src", "../hausblatt-images/src", "../hausblatt-lang/src", "../hausblatt-small/src"] {
        println!("cargo::rerun-if-changed={folder}");
        add(Path::new(folder), &mut digest)?;
    }
    // A library that is compiled on its own has none.
    let libraries = Path::new("../../Cargo.lock");
    if libraries.exists() {
        println!("cargo::rerun-if-changed={}", libraries.display());
        add(libraries, &mut digest)?;
    }
    let version = env::var("CARGO_PKG_VERSION").unwrap_or_default();
    println!("cargo::rustc-env=HAUSBLATT_PROGRAM={version}-{:016x}", digest.digest());
    Ok(())
}

fn add(path: &Path, digest: &mut Xxh3) -> io::Result<()> {
    if path.is_dir() {
        let mut names: Vec<_> = fs::read_dir(path)?.map(|entry| Ok(entry?.file_name())).collect::<io::Result<_>>()?;
        names.sort();
        return names.iter().try_for_each(|name| add(&path.join(name), digest));
    }
    let text = fs::read(path)?;
    digest.update(path.as_os_str().as_encoded_bytes());
    digest.update(&text.len().to_le_bytes());
    digest.update(&text);
    Ok(())
}
