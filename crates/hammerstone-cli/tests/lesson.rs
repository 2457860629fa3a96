//! The lesson: every command of its chapters runs, in order, and says what the text quotes; every piece of a file stands in that file.
//!
//! A block `sh` holds one command, a block `text` after it lines that stand in its output in that order, each somewhere in a line; `sh fails`
//! is a command that must fail. A block `toml` begins with the file in which the rest of it stands.

mod common;

use std::fs;
use std::path::PathBuf;

use common::{blocks, hammerstone, in_its_file, root};

fn chapters() -> Vec<PathBuf> {
    let all = fs::read_dir(root().join("docs/lesson")).unwrap().map(|entry| entry.unwrap().path());
    let is_chapter = |path: &PathBuf| {
        path.file_name().is_some_and(|name| name.to_string_lossy().ends_with(".md") && name != "README.md")
    };
    let mut chapters: Vec<PathBuf> = all.filter(is_chapter).collect();
    chapters.sort();
    chapters
}

#[test]
fn the_lesson_says_what_is_so() {
    let mut commands = 0;
    for chapter in chapters() {
        let text = fs::read_to_string(&chapter).unwrap();
        let (name, mut said) = (chapter.file_stem().unwrap().to_string_lossy().into_owned(), String::new());
        for (sort, lines) in blocks(&text) {
            match sort.as_str() {
                "toml" => {
                    in_its_file(&name, &lines);
                }
                "sh" | "sh fails" => {
                    let [line] = lines.as_slice() else { panic!("{name}: one command a block: {lines:?}") };
                    let folder = tempfile::tempdir().unwrap();
                    let mut out = false;
                    let words = line.split(' ').skip(1).map(|word| {
                        let word = if out {
                            folder.path().join(word).display().to_string()
                        } else {
                            word.to_owned()
                        };
                        out = word == "-o";
                        word
                    });
                    let words: Vec<String> = words.collect();
                    let words: Vec<&str> = words.iter().map(String::as_str).collect();
                    let answer = hammerstone(&words).current_dir(root()).output().unwrap();
                    let [answered, errors] =
                        [answer.stdout, answer.stderr].map(|bytes| String::from_utf8(bytes).unwrap());
                    assert_eq!(answer.status.success(), sort == "sh", "{name}: {line}\n{answered}{errors}");
                    said = answered + &errors;
                    commands += 1;
                    drawn(&name, line, folder.path());
                }
                "text" => {
                    let mut rest = said.lines();
                    for wanted in &lines {
                        let found = rest.any(|line| line.contains(wanted.as_str()));
                        assert!(found, "{name}: `{wanted}` is not said, or not in this order:\n{said}");
                    }
                }
                other => panic!("{name}: a block of sort `{other}`"),
            }
        }
    }
    assert_eq!(chapters().len(), 12);
    assert!(commands >= 24, "{commands}");
}

/// Pictures that the chapters show are those that their commands draw.
fn drawn(name: &str, line: &str, folder: &std::path::Path) {
    let Some(picture) = line.split("-o ").nth(1).filter(|picture| picture.ends_with(".svg")) else { return };
    let new = fs::read_to_string(folder.join(picture)).unwrap();
    let kept = root().join("docs/lesson").join(picture);
    if std::env::var_os("HAMMERSTONE_WRITE").is_some() {
        fs::write(&kept, &new).unwrap();
    }
    assert!(
        fs::read_to_string(&kept).is_ok_and(|old| old == new),
        "{name}: {picture} is drawn otherwise; HAMMERSTONE_WRITE=1 writes it anew"
    );
}

/// Every chapter leads to the next, every file of the lesson has a chapter, and links lead somewhere.
#[test]
fn the_chapters_hang_together() {
    let first = fs::read_to_string(root().join("docs/lesson/README.md")).unwrap();
    for (place, chapter) in chapters().iter().enumerate() {
        let (text, name) = (fs::read_to_string(chapter).unwrap(), format!("{:02}", place + 1));
        assert!(text.starts_with(&format!("# {}. ", place + 1)), "{name}");
        assert!(first.contains(&format!("({name}.md)")), "{name}");
        assert!(
            place == 11 || text.contains("\nNext: [") && text.contains(&format!("({:02}.md)\n", place + 2)),
            "{name}"
        );
        for file in [format!("scenarios/lesson/{name}.toml"), format!("scenarios/lesson/{name}.rules.toml")] {
            assert!(text.contains(&file) && root().join(&file).exists(), "{name}: {file}");
        }
        for link in text.split("](").skip(1).filter_map(|rest| rest.split(')').next()) {
            assert!(chapter.parent().unwrap().join(link).exists(), "{name}: {link}");
        }
    }
}
