//! Rulesets of several files: one names others, and all that they define is as if it stood in the first.

use std::collections::BTreeMap;
use std::ops::Range;

use toml::Spanned;
use toml::de::{DeTable, DeValue};

use crate::excerpt::Excerpt;
use crate::motion::Opener;
use crate::problem::{Reading, text_of};

/// How many files one may include.
const MOST: usize = 256;

/// Sections that only the first file has: what they say is for all.
const OF_THE_FIRST: [&str; 3] = ["rules", "amount", "include"];

/// A problem before it is noted: where, the mark, the message and the fix.
type Found = (Range<usize>, &'static str, String, String);

/// The text of a file and of those that it includes, one after the other, with what is wrong with them.
pub(crate) struct Joined {
    pub(crate) code: Excerpt,
    found: Vec<Found>,
}

impl Joined {
    /// Of a file that includes none, the file. `open` gives the others, by their names beside it.
    pub(crate) fn of(file: &str, text: &str, open: &Opener<'_>) -> Joined {
        let mut joined = Joined { code: Excerpt::new(file, text), found: Vec::new() };
        // What is wrong with the form of the first file is told as it is of every file.
        let Ok(table) = DeTable::parse(text) else { return joined };
        let Some((_, value)) = table.get_ref().get_key_value("include") else { return joined };
        let Some(names) = joined.names(value) else { return joined };
        // From here on it names none: the text is read once more where values are set in it.
        let mut whole = text.to_owned();
        whole.replace_range(value.span(), &format!("[]{}", " ".repeat(value.span().len() - 2)));
        let mut pieces = vec![(0, file.to_owned())];
        let mut entries = BTreeMap::new();
        joined.define(&mut entries, (0, file), table.get_ref());
        for (span, name) in names {
            let opened = open(&name).and_then(|(full, bytes)| Ok((full, text_of(bytes)?)));
            let (full, text) = match opened {
                Ok(opened) => opened,
                Err(why) => {
                    let message = format!("`{name}` cannot be read: {why}");
                    joined.find(span, "this file", message, "name a file, relative to this one");
                    continue;
                }
            };
            if pieces.iter().any(|(_, known)| *known == full) {
                joined.find(span, "here", format!("`{name}` is included already"), "take it out");
                continue;
            }
            // A mark at the start of a file means nothing within a text.
            let text = text.trim_start_matches('\u{feff}');
            whole.push('\n');
            let start = whole.len();
            whole.push_str(text);
            pieces.push((start, full.clone()));
            match first_word(text) {
                Some(at) if !text[at..].starts_with('[') => {
                    let message = "a file that is included begins with a table".to_owned();
                    let span = start + at..start + at + 1;
                    joined.find(span, "here", message, "begin with a line such as [attack.maul]");
                }
                // What is wrong with its form is told with the whole.
                _ => {
                    if let Ok(table) = DeTable::parse(text) {
                        joined.define(&mut entries, (start, &full), table.get_ref());
                    }
                }
            }
        }
        joined.code = Excerpt::joined(whole, pieces);
        joined
    }

    /// The names that a list holds, where they stand.
    fn names(&mut self, list: &Spanned<DeValue<'_>>) -> Option<Vec<(Range<usize>, String)>> {
        let text = |value: &Spanned<DeValue<'_>>| {
            value.get_ref().as_str().map(|name| (value.span(), name.to_owned()))
        };
        let names =
            list.get_ref().as_array().and_then(|all| all.iter().map(text).collect::<Option<Vec<_>>>());
        let fix = "write include = [\"hounds.rules.toml\"]";
        match names {
            Some(names) if names.len() <= MOST => return Some(names),
            Some(names) => {
                let message = format!("{} files are included, and {MOST} are the most", names.len());
                self.find(list.span(), "here", message, "join some of them");
            }
            None => self.find(list.span(), "here", "expected a list of names of files".to_owned(), fix),
        }
        None
    }

    /// Notes what a file defines: each entry once, over all files.
    fn define(
        &mut self,
        entries: &mut BTreeMap<(String, String), (Range<usize>, String)>,
        (start, file): (usize, &str),
        table: &DeTable<'_>,
    ) {
        let at = |span: Range<usize>| start + span.start..start + span.end;
        for (section, value) in table {
            let name = section.get_ref().as_ref();
            if start > 0 && OF_THE_FIRST.contains(&name) {
                let message = format!("`{name}` stands in the file that includes the others, and only there");
                self.find(at(section.span()), "here", message, "put it there");
                continue;
            }
            let Some(within) = value.get_ref().as_table().filter(|_| !OF_THE_FIRST.contains(&name)) else {
                continue;
            };
            for entry in within.keys() {
                let (key, span) = (entry.get_ref().as_ref(), at(entry.span()));
                let known = entries.get(&(name.to_owned(), key.to_owned())).cloned();
                let Some((first, other)) = known else {
                    entries.insert((name.to_owned(), key.to_owned()), (span, file.to_owned()));
                    continue;
                };
                let fix = "give one of the two another name, or take it out";
                self.find(first, "here", format!("{name} `{key}` is defined in `{file}` as well"), fix);
                self.find(span, "and here", format!("{name} `{key}` is defined in `{other}` as well"), fix);
            }
        }
    }

    fn find(&mut self, span: Range<usize>, mark: &'static str, message: String, fix: &str) {
        self.found.push((span, mark, message, fix.to_owned()));
    }

    /// A reading of the whole, which knows what is wrong so far.
    pub(crate) fn reading(&self) -> Reading<'_> {
        let mut reading = Reading::of(&self.code);
        for (span, mark, message, fix) in &self.found {
            reading.problem(span.clone(), mark, message.clone(), Some(fix.clone()));
        }
        reading
    }
}

/// Where the first thing stands that is neither space nor a comment.
fn first_word(text: &str) -> Option<usize> {
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        let rest = line.trim_start();
        if !rest.is_empty() && !rest.starts_with('#') {
            return Some(at + line.len() - rest.len());
        }
        at += line.len();
    }
    None
}
