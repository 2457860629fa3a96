//! The text of a file as messages show it: never more of a line than can be read.

use std::ops::Range;
use std::sync::Arc;

#[cfg(feature = "miette")]
use miette::{MietteError, MietteSpanContents, SourceCode, SourceSpan, SpanContents};

/// So much of a line is shown before and after what is marked, in bytes.
#[cfg(feature = "miette")]
const AROUND: usize = 160;
/// The most that is marked, and the most of a name that a message says, in bytes.
const MOST: usize = 400;

/// A file's text with its name; or those of several, one after the other.
#[derive(Clone, Debug)]
pub struct Excerpt {
    /// The first file.
    pub file: String,
    pub text: Arc<str>,
    /// Where each file begins, with its name; none if there is one.
    pieces: Arc<[(usize, String)]>,
}

impl Excerpt {
    pub fn new(file: &str, text: impl Into<Arc<str>>) -> Excerpt {
        Excerpt { file: file.to_owned(), text: text.into(), pieces: Arc::from([]) }
    }

    /// Of files that stand one after the other, from 0.
    pub fn joined(text: String, pieces: Vec<(usize, String)>) -> Excerpt {
        let file = pieces.first().map_or_else(String::new, |(_, file)| file.clone());
        Excerpt { file, text: text.into(), pieces: pieces.into() }
    }

    /// The file in which an offset lies, and from where to where that is.
    fn piece(&self, at: usize) -> (&str, Range<usize>) {
        let next = self.pieces.partition_point(|(start, _)| *start <= at);
        let end = self.pieces.get(next).map_or(self.text.len(), |(start, _)| start - 1);
        match next.checked_sub(1).map(|place| &self.pieces[place]) {
            Some((start, file)) => (file, *start..end),
            None => (&self.file, 0..end),
        }
    }

    /// The file of an offset, with line and column, from 1; columns count characters.
    pub fn place(&self, at: usize) -> (&str, usize, usize) {
        let (file, piece) = self.piece(at);
        let before = self.text.get(piece.start..at).unwrap_or_default();
        let line = before.rsplit('\n').next().unwrap_or_default();
        (file, before.matches('\n').count() + 1, line.chars().count() + 1)
    }
}

#[cfg(feature = "miette")]
impl SourceCode for Excerpt {
    fn read_span<'a>(
        &'a self,
        span: &SourceSpan,
        before: usize,
        after: usize,
    ) -> Result<Box<dyn SpanContents<'a> + 'a>, MietteError> {
        let (file, piece) = self.piece(span.offset());
        let (base, text) = (piece.start, &self.text[piece.start..piece.end]);
        // As it is within its file; what is given back is as it is in the whole.
        let within = SourceSpan::from((span.offset() - base, span.len().min(piece.end - span.offset())));
        let whole = text.read_span(&within, before, after)?;
        let (from, len) = (whole.span().offset(), whole.span().len());
        let (marked, end) = (within.offset(), within.offset() + within.len());
        // Short lines are shown as they are.
        let longest = text[from..from + len].lines().map(str::len).max().unwrap_or(0);
        if longest <= 4 * AROUND {
            let (line, column, count) = (whole.line(), whole.column(), whole.line_count());
            let contents = MietteSpanContents::new_named(
                file.to_owned(),
                whole.data(),
                (base + from, len).into(),
                line,
                column,
                count,
            );
            return Ok(Box::new(contents.with_language("toml")));
        }
        let line_start = text[..marked].rfind('\n').map_or(0, |at| at + 1);
        let line_end = text[end..].find('\n').map_or(text.len(), |at| end + at);
        let start = boundary(text, marked.saturating_sub(AROUND).max(line_start));
        let stop = boundary(text, (end + AROUND).min(line_end));
        let line = text[..line_start].matches('\n').count();
        let count = text[start..stop].matches('\n').count();
        let contents = MietteSpanContents::new_named(
            file.to_owned(),
            &text.as_bytes()[start..stop],
            (base + start, stop - start).into(),
            line,
            start - line_start,
            count,
        );
        Ok(Box::new(contents.with_language("toml")))
    }
}

/// The start of the character at or before `at`.
fn boundary(text: &str, at: usize) -> usize {
    let mut at = at.min(text.len());
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}

/// A span that lies within the text and is short enough to be shown.
pub fn shown(text: &str, span: std::ops::Range<usize>) -> std::ops::Range<usize> {
    let start = boundary(text, span.start);
    start..boundary(text, span.end.clamp(start, start.saturating_add(MOST)))
}

/// A message in which nothing goes on for pages.
pub fn shortened(message: String) -> String {
    if message.len() <= 2 * MOST {
        return message;
    }
    let (head, tail) = (boundary(&message, MOST), boundary(&message, message.len() - MOST / 2));
    format!("{} … {}", &message[..head], &message[tail..])
}
