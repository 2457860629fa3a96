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
use hammerstone::event::{Event, Fact};

pub use fields::fields_of;
pub use line::Line;
pub(crate) use text::*;
pub use topics::{FieldRow, TopicRow, handler, topics, topics_as_markdown};
use transcript::TextFeed;
pub use transcript::{InFlow, Told, Transcript, told};
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
            Format::Text => Writer::Text(Box::new((TextFeed::folding(), Summary::default()))),
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

    /// In text, every line is written. Otherwise a refusal that repeats one of before is counted and told in the end, and that a chain goes on
    /// is written once.
    pub fn show_repeated(mut self) -> Feed<W> {
        if let Writer::Text(text) = &mut self.writer {
            text.0.folded = None;
        }
        self
    }

    /// Writes the facts of one tick. *Errors:* those of the writer.
    pub fn write(&mut self, tick: &Tick<'_>) -> io::Result<()> {
        self.write_some(tick, |_| true)
    }

    /// As [`write`](Self::write), but only the facts that are `shown`. What comes at the end is about all of them.
    pub fn write_some(&mut self, tick: &Tick<'_>, shown: impl Fn(&Fact) -> bool) -> io::Result<()> {
        let mut with_amount = false;
        for fact in tick.facts.facts {
            // In a sentence, what health lost belongs to the amount that it lost.
            let is_health = matches!(fact.event, Event::HealthChanged(_));
            let is_shown =
                shown(fact) || (is_health && with_amount && matches!(self.writer, Writer::Text(_)));
            if matches!(fact.event, Event::DamageDealt(_) | Event::HealApplied(_)) {
                with_amount = is_shown;
            }
            if !is_shown {
                continue;
            }
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
