//! What is published is whole by itself: no crate needs a file that lies outside of its folder.

mod common;

use std::fs;
use std::path::{Component, Path, PathBuf};

use common::root;

/// The files of a folder and of those in it, with this ending.
fn files(folder: &Path, ending: &str) -> Vec<PathBuf> {
    let entries = fs::read_dir(folder).into_iter().flatten().map(|entry| entry.unwrap().path());
    let mut found: Vec<PathBuf> = entries
        .flat_map(|path| if path.is_dir() { files(&path, ending) } else { vec![path] })
        .filter(|path| path.to_string_lossy().ends_with(ending))
        .collect();
    found.sort();
    found
}

/// The files that a source includes, by their ways from its folder; but for those of pages, which only tests of documents read.
fn included(source: &str) -> Vec<String> {
    let mut ways = Vec::new();
    for mark in ["include_str!(", "include_bytes!(", "starter!("] {
        for (at, _) in source.match_indices(mark) {
            if source[..at].lines().rev().nth(1).is_some_and(|line| line.contains("cfg(doctest)")) {
                continue;
            }
            let given = source[at + mark.len()..].split(')').next().unwrap();
            ways.extend(given.split('"').skip(1).step_by(2).map(str::to_owned));
        }
    }
    ways
}

/// Where a way from a folder leads, without `..` in it.
fn led(folder: &Path, way: &str) -> PathBuf {
    let mut at = folder.to_path_buf();
    for part in Path::new(way).components() {
        match part {
            Component::ParentDir => assert!(at.pop()),
            other => at.push(other),
        }
    }
    at
}

#[test]
fn no_crate_includes_a_file_that_lies_outside_of_it() {
    let outside = |folder: &Path, source: &Path, text: &str| -> Vec<String> {
        let from = source.parent().unwrap();
        let leaves = |way: &String| !led(from, way).starts_with(folder) || !led(from, way).exists();
        included(text).into_iter().filter(leaves).collect()
    };
    let (mut seen, crates) = (0, root().canonicalize().unwrap().join("crates"));
    for folder in fs::read_dir(crates).unwrap().map(|entry| entry.unwrap().path()) {
        let manifest = fs::read_to_string(folder.join("Cargo.toml")).unwrap();
        if manifest.contains("publish = false") {
            continue;
        }
        for source in files(&folder.join("src"), ".rs") {
            let text = fs::read_to_string(&source).unwrap();
            seen += included(&text).len();
            assert_eq!(outside(&folder, &source, &text), Vec::<String>::new(), "{}", source.display());
            // It can fail.
            let other = format!("{text}\nconst X: &str = include_str!(\"../../../../scenarios/duel.toml\");");
            assert_eq!(outside(&folder, &source, &other).len(), 1);
        }
    }
    assert!(seen > 20, "{seen}");
}

/// Fights that come with the command lie in its folder as well: `HAMMERSTONE_WRITE=1` copies them anew.
#[test]
fn fights_that_come_with_the_command_are_those_of_the_folder() {
    let shipped = files(&root().join("crates/hammerstone-cli/shipped"), ".toml");
    assert_eq!(shipped.len(), 4);
    for copy in shipped {
        let text = fs::read_to_string(root().join("scenarios").join(copy.file_name().unwrap())).unwrap();
        if std::env::var_os("HAMMERSTONE_WRITE").is_some() {
            fs::write(&copy, &text).unwrap();
        }
        let kept = fs::read_to_string(&copy).unwrap();
        assert!(kept == text, "{} is another: HAMMERSTONE_WRITE=1 copies it", copy.display());
    }
}
