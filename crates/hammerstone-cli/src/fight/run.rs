//! `demo` and `run`: a fight, written as it goes.

use std::io::{self, Write};
use std::path::Path;

use hammerstone_record::{Feed, Format};
use hammerstone_scenario::{Options, Play, Scenario};
use miette::IntoDiagnostic;

use crate::args::{OutputFormat, RunOptions};
use crate::{Failure, Outcome, files, output};

pub(crate) fn demo(options: &RunOptions) -> Result<Outcome, Failure> {
    run(&files::demo()?, options)
}

pub(crate) fn file(path: &Path, options: &RunOptions) -> Result<Outcome, Failure> {
    run(&files::scenario(path)?, options)
}

fn run(scenario: &Scenario, options: &RunOptions) -> Result<Outcome, Failure> {
    let path = options.out.as_deref();
    let (format, mut out) = match options.format {
        OutputFormat::Text => (Format::Text, output::open(path)?),
        OutputFormat::Jsonl => (Format::JsonLines, output::open_plain(path)?),
    };
    let seed = options.seed.unwrap_or(scenario.seed);
    if format == Format::Text {
        let (title, rate) = (&scenario.title, scenario.rules.ruleset.rate());
        let heading = writeln!(out, "{title}\n{} ticks a second, seed {seed}\n", rate);
        if let Err(error) = heading {
            return output::written(Err(error)).map(|()| Outcome::Fine);
        }
    }
    let play = Options { seed: Some(seed), ticks: options.ticks, ledgers: !options.no_ledgers };
    let mut play = Play::new(scenario, play);
    let mut feed = Feed::new(out, format);
    if options.contacts {
        feed = feed.show_contacts();
    }
    while play.tick().into_diagnostic()? {
        let written = feed.write(&play.seen());
        if let Err(error) = written {
            return output::written(Err(error)).map(|()| Outcome::Fine);
        }
    }
    let finished = feed.finish(&scenario.rules.ruleset, &play.run.names);
    output::written(finished.map(|_| ()) as io::Result<()>)?;
    Ok(Outcome::Fine)
}
