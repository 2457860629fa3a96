//! `generate`: schemas of both sorts of files, completions of shells, the page of the manual.

use std::io::{self, Write};

use clap::CommandFactory;
use hammerstone_scenario::{FileSort, schema};

use crate::args::{Args, Generated, SchemaSort};
use crate::{Failure, Outcome, output};

pub(crate) fn generate(what: &Generated) -> Result<Outcome, Failure> {
    let (name, to) = match what {
        Generated::Schema { out, .. } => ("the schema", out),
        Generated::Completions { out, .. } => ("the completions", out),
        Generated::Man { out } => ("the page", out),
    };
    let to = to.out.as_deref();
    let mut out = output::open_plain(to)?;
    let mut command = Args::command();
    // In memory first: what writes completions gives up where no one reads on.
    let mut text = Vec::new();
    match what {
        Generated::Schema { sort, .. } => {
            let sort = match sort {
                SchemaSort::Ruleset => FileSort::Ruleset,
                SchemaSort::Scenario => FileSort::Scenario,
                SchemaSort::Sweep => FileSort::Sweep,
            };
            let written = serde_json::to_writer_pretty(&mut text, &schema(sort)).map_err(io::Error::from);
            output::written(written.and_then(|()| writeln!(text)))?;
        }
        Generated::Completions { shell, .. } => {
            clap_complete::generate(*shell, &mut command, "hammerstone", &mut text);
        }
        Generated::Man { .. } => output::written(clap_mangen::Man::new(command).render(&mut text))?,
    }
    output::written(out.write_all(&text).and_then(|()| out.flush()))?;
    if let Some(path) = to {
        output::wrote(name, path);
    }
    Ok(Outcome::Fine)
}
