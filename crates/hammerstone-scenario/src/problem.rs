//! What is wrong with a file, where, and how to mend it.

use std::ops::Range;

use miette::{Diagnostic, NamedSource, SourceSpan};
use toml::Spanned;

/// One thing that is wrong in a file.
#[derive(Debug, thiserror::Error, Diagnostic)]
#[error("{message}")]
pub struct Problem {
    message: String,
    #[help]
    mend: Option<String>,
    #[label("{mark}")]
    span: SourceSpan,
    mark: String,
}

/// A file that cannot be used, with everything that is wrong in it.
#[derive(Debug, thiserror::Error, Diagnostic)]
#[error("{file} cannot be used: {}", count(problems.len()))]
pub struct Unusable {
    file: String,
    #[source_code]
    code: NamedSource<String>,
    #[related]
    problems: Vec<Problem>,
}

fn count(problems: usize) -> String {
    if problems == 1 { "one problem".to_owned() } else { format!("{problems} problems") }
}

impl Unusable {
    /// How many problems there are.
    pub fn count(&self) -> usize {
        self.problems.len()
    }
}

/// A file that is being read, and what was found wrong so far.
pub(crate) struct Reading<'a> {
    file: &'a str,
    text: &'a str,
    problems: Vec<Problem>,
}

impl<'a> Reading<'a> {
    pub(crate) fn new(file: &'a str, text: &'a str) -> Reading<'a> {
        Reading { file, text, problems: Vec::new() }
    }

    /// The file's own form, or what the first thing wrong with it is.
    pub(crate) fn parse<T: serde::de::DeserializeOwned>(mut self) -> Result<(T, Reading<'a>), Box<Unusable>> {
        match toml::from_str(self.text) {
            Ok(raw) => Ok((raw, self)),
            Err(error) => {
                let span = error.span().unwrap_or(0..0);
                let message = error.message().to_owned();
                let mend = nearest_expected(&message);
                self.problem(span, "here", message, mend);
                Err(self.unusable())
            }
        }
    }

    pub(crate) fn problem(&mut self, span: Range<usize>, mark: &str, message: String, mend: Option<String>) {
        self.problems.push(Problem { message, mend, span: span.into(), mark: mark.to_owned() });
    }

    /// Looks a name up; if it is not there, notes the problem and proposes the nearest.
    pub(crate) fn find<'n, T>(
        &mut self,
        what: &str,
        name: &Spanned<String>,
        known: impl IntoIterator<Item = (&'n str, T)>,
    ) -> Option<T> {
        let mut names = Vec::new();
        for (candidate, value) in known {
            if candidate == name.as_ref() {
                return Some(value);
            }
            names.push(candidate);
        }
        let mend = propose(name.as_ref(), &names);
        let message = format!("there is no {what} `{}`", name.as_ref());
        self.problem(name.span(), &format!("no such {what}"), message, Some(mend));
        None
    }

    /// A name that was looked up already; if it was not there, notes the problem.
    pub(crate) fn known<T>(&mut self, what: &str, name: &Spanned<String>, found: Option<T>) -> Option<T> {
        if found.is_none() {
            let message = format!("there is no {what} `{}`", name.as_ref());
            let mend = Some("declare it in the ruleset".to_owned());
            self.problem(name.span(), &format!("no such {what}"), message, mend);
        }
        found
    }

    pub(crate) fn done<T>(self, value: Option<T>) -> Result<T, Box<Unusable>> {
        match value {
            Some(value) if self.problems.is_empty() => Ok(value),
            _ => Err(self.unusable()),
        }
    }

    pub(crate) fn is_sound(&self) -> bool {
        self.problems.is_empty()
    }

    pub(crate) fn unusable(self) -> Box<Unusable> {
        let code = NamedSource::new(self.file, self.text.to_owned()).with_language("toml");
        Box::new(Unusable { file: self.file.to_owned(), code, problems: self.problems })
    }
}

/// The nearest of the names, or all of them if none is near.
fn propose(name: &str, known: &[&str]) -> String {
    let nearest = known.iter().min_by_key(|candidate| strsim::damerau_levenshtein(name, candidate));
    match nearest {
        None => "none is declared".to_owned(),
        Some(near) if strsim::damerau_levenshtein(name, near) <= 1 + name.chars().count() / 3 => {
            format!("did you mean `{near}`?")
        }
        Some(_) if known.len() <= 12 => format!("there are: {}", known.join(", ")),
        Some(near) => format!("the nearest of {} is `{near}`", known.len()),
    }
}

/// For an unknown word of the form, the nearest of those that the parser expected.
fn nearest_expected(message: &str) -> Option<String> {
    let quoted: Vec<&str> = message.split('`').skip(1).step_by(2).collect();
    match quoted.split_first() {
        Some((unknown, expected)) if message.starts_with("unknown") && !expected.is_empty() => {
            Some(propose(unknown, expected))
        }
        _ => None,
    }
}
