//! `wiring --topics` and `wiring --handler`: what there is to hear, from the table of facts.

use std::io::{self, Write};
use std::path::Path;

use hammerstone_record::{FieldRow, TopicRow, handler as rust_handler, topics as rows};
use miette::miette;

use crate::args::{Out, ReportFormat, WiringFormat};
use crate::{Failure, Outcome, files, output};

/// Every topic with its fields.
pub(crate) fn topics(path: Option<&Path>, (format, to): (WiringFormat, &Out)) -> Result<Outcome, Failure> {
    let rules = path.map(files::rules_of).transpose()?;
    let rows = rows(rules.as_ref());
    match format {
        WiringFormat::Text => output::answer((ReportFormat::Text, to), &rows, |out| text(out, &rows))?,
        WiringFormat::Json => output::answer((ReportFormat::Json, to), &rows, |_| Ok(()))?,
        WiringFormat::Dot => {
            return Err(miette!(
                help = "leave `--topics` out, or write `--format json`",
                "topics have no graph of their own"
            ));
        }
    }
    Ok(Outcome::Fine)
}

fn text(out: &mut dyn Write, rows: &[TopicRow]) -> io::Result<()> {
    for row in rows {
        writeln!(out, "\x1b[1m{}\x1b[0m  {}", row.topic, row.meaning)?;
        let parties = [("subject", &row.subject), ("other", &row.other)];
        let parties: Vec<String> = parties
            .iter()
            .filter_map(|(role, field)| field.as_ref().map(|field| format!("{role}: {field}")))
            .collect();
        let by = row.published_by.join(", ");
        let parties = if parties.is_empty() { String::new() } else { format!("; {}", parties.join(", ")) };
        writeln!(out, "  \x1b[2mpublished by {by}{parties}; {} in Rust\x1b[0m", row.payload)?;
        let width = row.fields.iter().map(|field| label(field).chars().count()).max().unwrap_or(0);
        for field in row.fields.iter().filter(|field| !field.keys.is_empty()) {
            let label = label(field);
            let unit = field.unit.map_or(String::new(), |unit| format!(" ({unit})"));
            let kind = if field.optional { format!("{}, if any", field.sort) } else { field.sort.clone() };
            writeln!(out, "  {label:width$}  {}{unit} \x1b[2m{kind}\x1b[0m", field.meaning)?;
        }
        writeln!(out)?;
    }
    Ok(())
}

/// The names of a field in the feed.
fn label(field: &FieldRow) -> String {
    field.keys.join(", ")
}

/// A hook for facts of a topic, in Rust.
pub(crate) fn handler(topic: &str, to: &Out) -> Result<Outcome, Failure> {
    let Some(text) = rust_handler(topic) else {
        let known = rows(None);
        let nearest = files::nearest(topic, known.iter().map(|row| row.topic.as_str()));
        let help = match nearest {
            Some(nearest) => format!("did you mean `{nearest}`? `wiring --topics` lists them all"),
            None => "`wiring --topics` lists them all".to_owned(),
        };
        return Err(miette!(help = help, "there is no topic `{topic}`"));
    };
    let mut out = output::open_plain(to.out.as_deref())?;
    output::written(write!(out, "{text}").and_then(|()| out.flush()))?;
    Ok(Outcome::Fine)
}
