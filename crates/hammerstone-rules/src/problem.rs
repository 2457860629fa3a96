//! What is wrong with a file, where, and how to fix it.

use std::ops::Range;

use toml::Spanned;
use toml::de::{DeTable, DeValue};

use crate::excerpt::{Excerpt, shortened, shown};
use crate::read::Read;
use crate::rules::Ids;
use crate::synonyms;

/// The most problems that are told one by one.
const MOST_TOLD: usize = 100;

/// One thing that is wrong in a file.
#[derive(Debug, thiserror::Error)]
#[cfg_attr(feature = "miette", derive(miette::Diagnostic))]
#[error("{message}")]
pub struct Problem {
    message: String,
    #[cfg_attr(feature = "miette", help)]
    fix: Option<String>,
    #[cfg_attr(feature = "miette", label("{mark}"))]
    span: Range<usize>,
    mark: String,
}

impl Problem {
    /// What could be done about it, if that can be told.
    pub fn fix(&self) -> Option<&str> {
        self.fix.as_deref()
    }

    /// Where in the text it is, in bytes.
    pub fn span(&self) -> Range<usize> {
        self.span.clone()
    }
}

/// A file that cannot be used, with everything that is wrong in it.
///
/// It says how many problems there are; [`text`](Self::text) tells each with its place. With the feature `miette` it is a diagnostic that
/// shows the lines.
#[derive(Debug, thiserror::Error)]
#[cfg_attr(feature = "miette", derive(miette::Diagnostic))]
#[error("{} cannot be used: {}", code.file, count(*number))]
pub struct Unusable {
    number: usize,
    #[cfg_attr(feature = "miette", source_code)]
    code: Excerpt,
    #[cfg_attr(feature = "miette", related)]
    problems: Vec<Problem>,
    #[cfg_attr(feature = "miette", help)]
    more: Option<String>,
}

fn count(problems: usize) -> String {
    if problems == 1 { "one problem".to_owned() } else { format!("{problems} problems") }
}

impl Unusable {
    /// How many problems there are.
    pub fn count(&self) -> usize {
        self.number
    }

    /// The first hundred of them, in the order in which they were found.
    pub fn problems(&self) -> &[Problem] {
        &self.problems
    }

    /// Line and column at which a problem begins, from 1; columns count characters.
    pub fn place(&self, problem: &Problem) -> (usize, usize) {
        let (_, line, column) = self.code.place(problem.span.start);
        (line, column)
    }

    /// The file in which a problem is: that which was read, or one that it includes.
    pub fn file(&self, problem: &Problem) -> &str {
        self.code.place(problem.span.start).0
    }

    /// Everything that is wrong, a line for each problem and one for its fix: `file:line:column: message`.
    pub fn text(&self) -> String {
        let mut text = format!("{self}\n");
        for problem in &self.problems {
            let (file, line, column) = self.code.place(problem.span.start);
            text += &format!("{file}:{line}:{column}: {problem}\n");
            text.extend(problem.fix.iter().map(|fix| format!("    {fix}\n")));
        }
        text.extend(self.more.iter().map(|more| format!("{more}\n")));
        text
    }
}

/// A file that is being read, and what was found wrong so far.
pub struct Reading<'a> {
    code: Excerpt,
    text: &'a str,
    /// The first of them, and how many there are.
    problems: Vec<Problem>,
    number: usize,
}

impl<'a> Reading<'a> {
    pub fn new(file: &'a str, text: &'a str) -> Reading<'a> {
        Reading::with(Excerpt::new(file, text), text)
    }

    fn with(code: Excerpt, text: &'a str) -> Reading<'a> {
        Reading { code, text, problems: Vec::new(), number: 0 }
    }

    /// Of files that stand one after the other.
    pub(crate) fn of(code: &'a Excerpt) -> Reading<'a> {
        Reading::with(code.clone(), &code.text)
    }

    /// The file's own form, or everything that is wrong with the form.
    pub fn parse<T: Read>(mut self) -> Result<(T, Reading<'a>), Box<Unusable>> {
        if !self.is_sound() {
            return Err(self.unusable());
        }
        let table = match DeTable::parse(self.text) {
            Ok(table) => table,
            Err(error) => {
                let span = error.span().unwrap_or_else(|| deepest(self.text));
                self.problem(span, "here", error.message().to_owned(), None);
                return Err(self.unusable());
            }
        };
        let span = table.span();
        let mut table = table.into_inner();
        crate::bases::inherit(&mut table, &mut self);
        let root = Spanned::new(span, DeValue::Table(table));
        match T::read(&root, &mut self) {
            Some(raw) if self.is_sound() => Ok((raw, self)),
            _ => Err(self.unusable()),
        }
    }

    /// A table has a field that it does not have here. The nearest is proposed, or what the word is called here.
    pub fn unknown_field(&mut self, field: &str, span: Range<usize>, known: &[&str]) {
        let fix = match synonyms::meant(field, known) {
            Some(field) => format!("it is called `{field}` here"),
            None => propose_field(field, known),
        };
        self.problem(span, "no such field", format!("unknown field `{field}`"), Some(fix));
    }

    pub fn problem(&mut self, span: Range<usize>, mark: &str, message: String, fix: Option<String>) {
        let (span, message) = (shown(self.text, span), shortened(message));
        // What several entries have from one base is wrong once.
        if self.problems.iter().any(|known| known.span == span && known.message == message) {
            return;
        }
        self.number += 1;
        if self.problems.len() < MOST_TOLD {
            let fix = fix.map(shortened);
            self.problems.push(Problem { message, fix, span, mark: mark.to_owned() });
        }
    }

    /// Whether a further problem is only counted.
    pub fn is_full(&self) -> bool {
        self.problems.len() >= MOST_TOLD
    }

    /// As [`find`](Self::find), among names that have been gathered before.
    pub fn find_id<T: Clone>(
        &mut self,
        what: &str,
        name: &Spanned<String>,
        known: &Ids<T>,
    ) -> Option<T> {
        known.get(name.as_ref()).or_else(|| self.find(what, name, crate::rules::pairs(known)))
    }

    /// Looks a name up; if it is not there, notes the problem and proposes the nearest.
    pub fn find<'n, T>(
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
        // What is only counted needs no proposal, which looks at every name.
        let fix = if self.is_full() { String::new() } else { propose(name.as_ref(), &names) };
        let message = format!("there is no {what} `{}`", name.as_ref());
        self.problem(name.span(), &format!("no such {what}"), message, Some(fix));
        None
    }

    /// A name that was looked up already; if it was not there, notes the problem.
    pub fn known<T>(&mut self, what: &str, name: &Spanned<String>, found: Option<T>) -> Option<T> {
        if found.is_none() {
            let message = format!("there is no {what} `{}`", name.as_ref());
            let fix = Some("declare it in the ruleset".to_owned());
            self.problem(name.span(), &format!("no such {what}"), message, fix);
        }
        found
    }

    pub fn done<T>(self, value: Option<T>) -> Result<T, Box<Unusable>> {
        match value {
            Some(value) if self.number == 0 => Ok(value),
            _ => Err(self.unusable()),
        }
    }

    /// How many problems there are so far.
    pub(crate) fn count(&self) -> usize {
        self.number
    }

    pub fn is_sound(&self) -> bool {
        self.number == 0
    }

    pub fn unusable(mut self) -> Box<Unusable> {
        self.problems.sort_by_key(|problem| problem.span.start);
        let code = self.code;
        let more = self.number - self.problems.len();
        let more = (more > 0).then(|| format!("and {more} more"));
        Box::new(Unusable { number: self.number, code, problems: self.problems, more })
    }
}

/// The nearest of the fields; or the table in which there is one of that name; or those of the most likely.
fn propose_field(field: &str, known: &[&str]) -> String {
    let is_near = |one: &str| strsim::damerau_levenshtein(field, one) <= 1 + field.chars().count() / 3;
    if field.len() <= 200 {
        let elsewhere: Vec<String> = crate::raw::tables_with(field).map(|table| format!("[{table}]")).collect();
        if !elsewhere.is_empty() {
            return format!("it is a field of {}", elsewhere.join(" and "));
        }
        if known.iter().any(|one| is_near(one)) {
            return propose(field, known);
        }
        // Of many fields, those that have a word of it.
        let words = |one: &str| one.split('-').map(str::to_owned).collect::<Vec<_>>();
        let wanted = words(field);
        let alike: Vec<&str> =
            known.iter().filter(|one| words(one).iter().any(|word| wanted.contains(word))).copied().collect();
        if known.len() > 12 {
            return match alike.as_slice() {
                [] => format!("there are {} fields here, and none is like it; docs/files.md lists them", known.len()),
                [one] => format!("did you mean `{one}`?"),
                some => format!("did you mean one of `{}`?", some.join("`, `")),
            };
        }
    }
    propose(field, known)
}

/// The nearest of the names, or all of them if none is near.
fn propose(name: &str, known: &[&str]) -> String {
    // What is longer than any name is near to none.
    if name.len() > 200 {
        return "give one of the names that are declared".to_owned();
    }
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

/// Where a text nests deepest: a reader that gives up on that does not say where.
fn deepest(text: &str) -> Range<usize> {
    let (mut depth, mut most, mut place) = (0u32, 0, 0..0);
    let mut quoted = None;
    for (at, c) in text.char_indices() {
        match (c, quoted) {
            ('\n', _) => (depth, quoted) = (if depth > 0 && quoted.is_none() { depth } else { 0 }, None),
            ('"' | '\'', None) => quoted = Some(c),
            (c, Some(quote)) if c == quote => quoted = None,
            ('[' | '{' | '.', None) => {
                depth += 1;
                if depth > most {
                    (most, place) = (depth, at..at + 1);
                }
            }
            (']' | '}', None) => depth = depth.saturating_sub(1),
            _ => {}
        }
    }
    place
}

/// The text of a file.
///
/// *Errors:* where it is no UTF-8.
pub fn text_of(bytes: Vec<u8>) -> Result<String, String> {
    String::from_utf8(bytes).map_err(|error| {
        let place = error.utf8_error().valid_up_to();
        let line = error.as_bytes()[..place].iter().filter(|&&byte| byte == b'\n').count() + 1;
        format!("it is not UTF-8 at offset {place}, in line {line}; save it as UTF-8")
    })
}
