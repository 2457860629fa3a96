//! Files that are damaged in known places.

use std::ops::Range;
use std::path::{Path, PathBuf};

use proptest::sample::Index;
use toml::de::{DeTable, DeValue};

/// What a file names, relative to itself.
pub fn beside(path: &Path) -> impl Fn(&str) -> Result<(String, Vec<u8>), String> {
    let folder = path.parent().unwrap_or(Path::new("")).to_owned();
    move |name| {
        let bytes = std::fs::read(folder.join(name)).map_err(|error| error.to_string())?;
        Ok((name.to_owned(), bytes))
    }
}

/// The names and texts of all shipped files whose names end so, with the folder that each lies in. Rulesets that others include are left
/// out: those have them in their texts.
///
/// *Panics:* if the files cannot be read.
pub fn shipped(ending: &str) -> Vec<(PathBuf, String)> {
    let mut folders = vec![PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../scenarios")];
    let mut found = Vec::new();
    while let Some(folder) = folders.pop() {
        for entry in std::fs::read_dir(&folder).expect("a folder of scenarios").flatten() {
            let path = entry.path();
            if path.is_dir() {
                folders.push(path);
            } else if path.to_string_lossy().ends_with(ending) {
                let text = joined(&folder, std::fs::read_to_string(&path).expect("a text"));
                if text.contains("\n[rules]") || !ending.ends_with("rules.toml") {
                    found.push((path, text));
                }
            }
        }
    }
    found.sort();
    found
}

/// A ruleset with those that it includes after it, in its place.
fn joined(folder: &Path, text: String) -> String {
    let Some(line) = text.lines().find(|line| line.starts_with("include = ")) else { return text };
    let others = line.split('"').skip(1).step_by(2);
    let others = others.map(|name| std::fs::read_to_string(folder.join(name)).expect("an included file"));
    let others: Vec<String> = others.collect();
    format!("{}\n{}", text.replace(line, ""), others.join("\n"))
}

/// Where the names of fields stand in a file, and where its plain values do.
#[derive(Debug, Default)]
pub struct Places {
    /// Names of fields.
    pub fields: Vec<Range<usize>>,
    /// Values that are no tables or lists.
    pub values: Vec<Range<usize>>,
}

impl Places {
    /// Those of a text, where `is_field` tells by the keys that lead there what is a field and not a name of the author's.
    ///
    /// *Panics:* if the text is no TOML.
    pub fn of(text: &str, is_field: impl Fn(&[&str]) -> bool) -> Places {
        let mut places = Places::default();
        let table = DeTable::parse(text).expect("the text is TOML");
        places.walk(&mut Vec::new(), &DeValue::Table(table.into_inner()), 0..0, &is_field);
        places
    }

    fn walk(
        &mut self,
        keys: &mut Vec<String>,
        value: &DeValue<'_>,
        span: Range<usize>,
        is_field: &dyn Fn(&[&str]) -> bool,
    ) {
        match value {
            DeValue::Table(table) => {
                for (key, value) in table {
                    keys.push(key.get_ref().to_string());
                    if is_field(&keys.iter().map(String::as_str).collect::<Vec<_>>()) {
                        self.fields.push(key.span());
                    }
                    self.walk(keys, value.get_ref(), value.span(), is_field);
                    keys.pop();
                }
            }
            DeValue::Array(list) => {
                list.iter().for_each(|value| self.walk(keys, value.get_ref(), value.span(), is_field));
            }
            _ => self.values.push(span),
        }
    }
}

/// Some of all places, each once, in the order of the file.
pub fn some(all: &[Range<usize>], chosen: &[Index]) -> Vec<Range<usize>> {
    let mut some: Vec<_> = chosen.iter().map(|index| index.get(all).clone()).collect();
    some.sort_by_key(|span| span.start);
    some.dedup();
    some
}

/// The text with something else at each of the places, and where that stands now.
pub fn replaced(
    text: &str,
    places: &[Range<usize>],
    by: impl Fn(&str) -> String,
) -> (String, Vec<Range<usize>>) {
    let (mut out, mut done, mut now) = (String::new(), 0, Vec::new());
    for place in places {
        out += &text[done..place.start];
        let start = out.len();
        out += &by(&text[place.clone()]);
        now.push(start..out.len());
        done = place.end;
    }
    out += &text[done..];
    (out, now)
}
