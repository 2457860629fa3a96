//! Values that are tried on the page: in memory only.

use hammerstone_scenario::with_literal;

use crate::Failure;
use crate::files::Texts;

/// Values that are other than the files have them, in the order in which they were tried.
#[derive(Clone, Debug, Default)]
pub(super) struct Edits(Vec<(String, String)>);

impl Edits {
    pub(super) fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    pub(super) fn all(&self) -> impl Iterator<Item = (&str, &str)> {
        self.0.iter().map(|(path, value)| (path.as_str(), value.as_str()))
    }

    /// Tries a value at a path; without one it is as in the files again.
    pub(super) fn set(&mut self, path: &str, value: Option<String>) {
        self.0.retain(|(known, _)| known != path);
        self.0.extend(value.map(|value| (path.to_owned(), value)));
    }

    pub(super) fn apply(&self, texts: &mut Texts) -> Result<(), Failure> {
        self.all().try_for_each(|(path, value)| texts.set(path, |text| with_literal(text, path, value)))
    }
}

/// The line of a file as it would be with a value, and where it is.
pub(super) fn line_to_paste(texts: &Texts, path: &str, value: &str) -> (String, String) {
    let mut other = texts.copy();
    if other.set(path, |text| with_literal(text, path, value)).is_err() {
        return (format!("{path} = {value}"), "the files".to_owned());
    }
    let both = [(&texts.rules, &other.rules), (&texts.scenario, &other.scenario)];
    for ((file, before), (_, after)) in both {
        let mut lines = before.lines().zip(after.lines()).enumerate();
        if let Some((place, (_, line))) = lines.find(|(_, (before, after))| before != after) {
            return (line.trim().to_owned(), format!("{file}:{}", place + 1));
        }
    }
    (format!("{path} = {value}"), "the files, which have it already".to_owned())
}
