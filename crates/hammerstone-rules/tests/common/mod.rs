//! What the tests of this crate share.

use std::path::PathBuf;

/// The names and texts of all rulesets that are shipped.
pub(crate) fn shipped() -> Vec<(String, String)> {
    let mut folders = vec![PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../scenarios")];
    let mut found = Vec::new();
    while let Some(folder) = folders.pop() {
        for entry in std::fs::read_dir(folder).expect("a folder of scenarios").flatten() {
            let path = entry.path();
            if path.is_dir() {
                folders.push(path);
            } else if path.to_string_lossy().ends_with(".rules.toml") {
                let name = path.file_name().expect("a name").to_string_lossy().into_owned();
                found.push((name, std::fs::read_to_string(&path).expect("a text")));
            }
        }
    }
    found.sort();
    assert!(found.len() >= 6, "{}", found.len());
    found
}
