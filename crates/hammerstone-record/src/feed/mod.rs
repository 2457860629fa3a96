//! Writes the feed, tick by tick.

use std::io::{self, Write};

mod fields;
mod line;
mod sentence;
mod text;
mod topics;
mod transcript;
mod words;

use hammerstone::Ruleset;

pub use fields::fields_of;
pub use line::Line;
pub(crate) use text::*;
pub use topics::{FieldRow, TopicRow, handler, topics, topics_as_markdown};
use transcript::TextFeed;
pub use transcript::{Told, Transcript, told};
pub(crate) use words::*;

use crate::{Names, Record, Summary, Tick};

/// How a feed is written.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Format {
    /// One JSON object a line, for programs.
    JsonLines,
    /// One sentence a line, then a summary, for people. With ANSI colours, which the caller may strip.
    Text,
}

/// Writes facts as they come.
#[derive(Debug)]
pub struct Feed<W: Write> {
    out: W,
    writer: Writer,
    /// Sentences of the tick.
    told: Vec<Told>,
}

#[derive(Debug)]
enum Writer {
    JsonLines,
    Text(Box<(TextFeed, Summary)>),
}

impl<W: Write> Feed<W> {
    /// A feed that goes to `out`, which should be buffered.
    pub fn new(out: W, format: Format) -> Feed<W> {
        let writer = match format {
            Format::JsonLines => Writer::JsonLines,
            Format::Text => Writer::Text(Box::default()),
        };
        Feed { out, writer, told: Vec::new() }
    }

    /// Contacts are written as well; in JSON Lines they always are.
    pub fn show_contacts(mut self) -> Feed<W> {
        if let Writer::Text(text) = &mut self.writer {
            text.0.contacts = true;
        }
        self
    }

    /// Writes the facts of one tick. *Errors:* those of the writer.
    pub fn write(&mut self, tick: &Tick<'_>) -> io::Result<()> {
        for fact in tick.facts.facts {
            let line = tick.line(fact);
            match &mut self.writer {
                Writer::JsonLines => {
                    serde_json::to_writer(&mut self.out, &line)?;
                    self.out.write_all(b"\n")?;
                }
                Writer::Text(text) => text.0.observe(&line, &mut self.told),
            }
        }
        if let Writer::Text(text) = &mut self.writer {
            text.0.end_tick(&mut self.told);
            text.1.observe(tick);
            self.told.drain(..).try_for_each(|told| told.write(&mut self.out, tick.rules))?;
        }
        Ok(())
    }

    /// Writes what comes at the end, and gives the writer back.
    pub fn finish(mut self, rules: &Ruleset, names: &Names) -> io::Result<W> {
        if let Writer::Text(text) = &self.writer {
            text.1.write(&mut self.out, rules, names)?;
        }
        self.out.flush()?;
        Ok(self.out)
    }
}
