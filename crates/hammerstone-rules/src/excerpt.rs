//! The text of a file as messages show it: never more of a line than can be read.

use std::sync::Arc;

#[cfg(feature = "miette")]
use miette::{MietteError, MietteSpanContents, SourceCode, SourceSpan, SpanContents};

/// So much of a line is shown before and after what is marked, in bytes.
#[cfg(feature = "miette")]
const AROUND: usize = 160;
/// The most that is marked, and the most of a name that a message says, in bytes.
const MOST: usize = 400;

/// A file's text with its name.
#[derive(Clone, Debug)]
pub struct Excerpt {
    pub file: String,
    pub text: Arc<str>,
}

impl Excerpt {
    pub fn new(file: &str, text: impl Into<Arc<str>>) -> Excerpt {
        Excerpt { file: file.to_owned(), text: text.into() }
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
        let text = &*self.text;
        let whole = text.read_span(span, before, after)?;
        let (from, len) = (whole.span().offset(), whole.span().len());
        let (marked, end) = (span.offset(), span.offset() + span.len());
        // Short lines are shown as they are.
        let longest = text[from..from + len].lines().map(str::len).max().unwrap_or(0);
        if longest <= 4 * AROUND {
            let (line, column, count) = (whole.line(), whole.column(), whole.line_count());
            let contents = MietteSpanContents::new_named(
                self.file.clone(),
                whole.data(),
                *whole.span(),
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
            self.file.clone(),
            &text.as_bytes()[start..stop],
            (start, stop - start).into(),
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
