//! Writes where the corpora begin: the shipped files, saves of a fight, and a few games.

use std::path::Path;
use std::{fs, io};

fn main() -> io::Result<()> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    let corpus = root.join("fuzz/corpus");
    for (target, _) in hostile::TARGETS {
        fs::create_dir_all(corpus.join(target))?;
    }
    let mut folders = vec![root.join("scenarios")];
    while let Some(folder) = folders.pop() {
        for entry in fs::read_dir(folder)? {
            let path = entry?.path();
            let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
            if path.is_dir() {
                folders.push(path);
            } else if name.ends_with(".toml") {
                let target = if name.ends_with(".rules.toml") { "ruleset" } else { "scenario" };
                fs::copy(&path, corpus.join(target).join(name))?;
            }
        }
    }
    for (i, save) in hostile::seed_saves().iter().enumerate() {
        fs::write(corpus.join("save").join(format!("seed-{i}.json")), save)?;
    }
    for (i, record) in hostile::seed_records().iter().enumerate() {
        fs::write(corpus.join("record").join(format!("seed-{i}")), record)?;
    }
    for i in 0..8u32 {
        // Bytes that differ from seed to seed, and are the same each time.
        let bytes: Vec<u8> =
            (0..600u32).map(|k| ((k * 31 + i * 97) ^ (k * k * (i + 3)) >> 3) as u8).collect();
        fs::write(corpus.join("game").join(format!("seed-{i}")), bytes)?;
    }
    Ok(())
}
