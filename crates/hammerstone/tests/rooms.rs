//! Which room of the core imports which, held against the diagram in ARCHITECTURE.md.
//!
//! `HAMMERSTONE_WRITE=1` writes the diagram anew; the order of its rooms, from the ground up, is by hand.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

const BEGIN: &str = "```text\nrooms, from the ground up";

fn architecture() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../ARCHITECTURE.md")
}

/// The files of a folder and of those below it, but for tests, which may import everything.
fn files(folder: &Path, all: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).expect("a folder") {
        let path = entry.expect("an entry").path();
        if path.is_dir() {
            files(&path, all);
        } else if path.to_str().is_some_and(|path| path.ends_with(".rs") && !path.ends_with("_tests.rs")) {
            all.push(path);
        }
    }
}

/// The room of a file: its folder below `src`, or its name. The definitions of a ruleset are a room by
/// themselves, `def`: they stand at the ground, what is compiled from them does not.
fn room_of(path: &Path, src: &Path) -> String {
    let below = path.strip_prefix(src).expect("it lies below");
    let mut parts = below.components().map(|part| part.as_os_str().to_string_lossy().into_owned());
    let first = parts.next().expect("a name");
    if first == "ruleset" && parts.next().is_some_and(|second| second == "def") {
        return "def".to_owned();
    }
    first.trim_end_matches(".rs").to_owned()
}

/// For each room the others that it names.
fn imports() -> BTreeMap<String, BTreeSet<String>> {
    let src = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut all = Vec::new();
    files(&src, &mut all);
    let rooms: BTreeSet<String> =
        all.iter().map(|path| room_of(path, &src)).filter(|room| room != "lib").collect();
    let mut imports: BTreeMap<String, BTreeSet<String>> =
        rooms.iter().map(|room| (room.clone(), BTreeSet::new())).collect();
    for path in &all {
        let room = room_of(path, &src);
        let Some(own) = imports.get_mut(&room) else { continue };
        let text = std::fs::read_to_string(path).expect("a text");
        own.extend(named(&text, &rooms).into_iter().filter(|other| *other != room));
    }
    imports
}

/// The rooms that a text of code names.
fn named(text: &str, rooms: &BTreeSet<String>) -> BTreeSet<String> {
    let code = text.lines().filter(|line| !line.trim_start().starts_with("//"));
    let code = code.collect::<Vec<_>>().join("\n");
    let mut found = BTreeSet::new();
    let mut take = |rest: &str| {
        let rest = rest.strip_prefix("ruleset::").filter(|rest| rest.starts_with("def::")).unwrap_or(rest);
        let name: String = rest.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect();
        // What stands at the root comes from one of these.
        let name = if name == "Fixed" { "fixed".to_owned() } else { name };
        if rooms.contains(&name) {
            found.insert(name);
        }
    };
    for (at, start) in code.match_indices("crate::") {
        let rest = &code[at + start.len()..];
        // A list: the names at its outermost level.
        let Some(list) = rest.strip_prefix('{') else {
            take(rest);
            continue;
        };
        let (mut depth, mut begins) = (0, 0);
        for (place, sign) in list.char_indices() {
            match sign {
                '{' => depth += 1,
                '}' if depth > 0 => depth -= 1,
                ',' | '}' if depth == 0 => {
                    take(list[begins..place].trim());
                    begins = place + 1;
                }
                _ => {}
            }
            if sign == '}' && depth == 0 && begins == place + 1 {
                break;
            }
        }
    }
    found
}

/// The order of rooms as the diagram has it.
fn order(text: &str) -> Vec<String> {
    let start = text.find(BEGIN).expect("the diagram");
    let block = &text[start..start + text[start..].find("\n```\n").expect("its end")];
    let rows = block.lines().skip(2).filter(|line| !line.trim().is_empty());
    rows.map(|line| line.split_whitespace().next().expect("a room").to_owned()).collect()
}

/// The diagram: a row for each room, with the rooms that it imports; those from above are marked.
fn diagram(order: &[String], imports: &BTreeMap<String, BTreeSet<String>>) -> String {
    let place = |room: &str| order.iter().position(|known| known == room).unwrap_or(usize::MAX);
    let mut text = format!("{BEGIN}; ^ marks an import from above");
    for room in order {
        let own = imports.get(room).map(|own| own.iter().map(String::as_str).collect()).unwrap_or_default();
        let mut own: Vec<&str> = own;
        own.sort_by_key(|other| place(other));
        let own = own
            .into_iter()
            .map(|other| if place(other) > place(room) { format!("^{other}") } else { other.to_owned() });
        let own: Vec<String> = own.collect();
        text.push('\n');
        text.push_str(format!("{room:<11}{}", own.join(" ")).trim_end());
    }
    text
}

#[test]
fn rooms_import_what_the_diagram_says() {
    let text = std::fs::read_to_string(architecture()).expect("ARCHITECTURE.md");
    let (imports, mut order) = (imports(), order(&text));
    order.retain(|room| imports.contains_key(room));
    order.extend(imports.keys().filter(|room| !order.contains(room)).cloned().collect::<Vec<_>>());
    let new = diagram(&order, &imports);
    let start = text.find(BEGIN).expect("the diagram");
    let end = start + text[start..].find("\n```\n").expect("its end");
    if std::env::var_os("HAMMERSTONE_WRITE").is_some() {
        let written = format!("{}{new}{}", &text[..start], &text[end..]);
        std::fs::write(architecture(), written).expect("it can be written");
        return;
    }
    assert_eq!(&text[start..end], new, "HAMMERSTONE_WRITE=1 writes the diagram anew");
    // Each import from above is named below the diagram, with its reason.
    let below = &text[end..end + text[end..].find("\n## ").unwrap_or(text.len() - end)];
    let rank = |room: &str| order.iter().position(|known| known == room).unwrap_or(usize::MAX);
    for (room, own) in &imports {
        for other in own.iter().filter(|other| rank(other) > rank(room)) {
            let reason = format!("`{room}` → `{other}`");
            assert!(below.contains(&reason), "no reason is given why {reason}");
        }
    }
}

/// The look for imports can fail: it finds what is named, and passes over comments.
#[test]
fn imports_are_found_in_code_only() {
    let rooms: BTreeSet<String> =
        ["state", "swing", "fixed", "def", "ruleset", "log", "work"].map(str::to_owned).into();
    let text = "//! crate::swing\nuse crate::state::State;\nfn f() -> crate::Fixed { todo() } // it is\n\
                use crate::ruleset::def::Attack;\nuse crate::{log::{Log, swing}, work, b::state};\n";
    let found: Vec<String> = named(text, &rooms).into_iter().collect();
    assert_eq!(found, ["def", "fixed", "log", "state", "work"]);
}
