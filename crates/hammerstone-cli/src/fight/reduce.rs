//! `reduce`: the smallest part of a log that shows the same facts, as a scenario with expectations.

use std::fs;
use std::io::Write;
use std::path::Path;

use hammerstone_scenario::Case;
use miette::{IntoDiagnostic, miette};

use crate::args::ReduceOptions;
use crate::{Failure, Outcome, files, output};

/// Writes the scenario, and its log beside it.
pub(crate) fn reduce(path: &Path, options: &ReduceOptions) -> Result<Outcome, Failure> {
    let Some(log) = files::log(path)? else {
        let help = "write one with `run FILE --log fight.log`, or let the game record";
        return Err(miette!(help = help, "{} is no log", path.display()));
    };
    for topic in &options.topic {
        let topics = log.rules().topics();
        if !topics.family_paths().any(|known| known == topic) {
            let help = "`wiring --topics` lists them";
            return Err(miette!(help = help, "there is no topic `{topic}`"));
        }
    }
    let ReduceOptions { out, never, .. } = options;
    let beside = out.with_extension("log");
    if beside == *out || same_file(&beside, path) || same_file(out, path) {
        let help = "name a scenario that ends in .toml, and has another name than the log";
        return Err(miette!(help = help, "the log would be written over"));
    }
    // Only what was reduced before is written over.
    let before = match fs::read_to_string(out) {
        Ok(text) => Case::is_one(&text),
        Err(_) => !out.exists() && !beside.exists(),
    };
    if !before {
        let help = "name another file with -o, or remove both";
        let (out, beside) = (out.display(), beside.display());
        return Err(miette!(help = help, "{out} or {beside} is there, and no case that was reduced before"));
    }
    let ((from, to), about) = (options.between, options.about.clone());
    let wanted = hammerstone_record::ReduceOptions { about, from, to, topics: options.topic.clone() };
    let reduced = hammerstone_record::reduce(&log, &wanted).into_diagnostic()?;
    let name = beside.file_name().unwrap_or_default().to_string_lossy().into_owned();
    fs::write(&beside, &reduced.log).map_err(|error| files::unwritable(&beside, &error))?;
    fs::write(out, reduced.to_toml(&name, *never)).map_err(|error| files::unwritable(out, &error))?;
    let mut text = output::open(None)?;
    let ((left, given), (stay, were)) = (&reduced.orders, reduced.combatants);
    let told = format!(
        "{} facts about {}; {} of {given} orders and {stay} of {were} combatants are left, after {} runs\n{} and {}",
        reduced.facts.len(),
        wanted.about,
        left.len(),
        reduced.runs,
        out.display(),
        beside.display(),
    );
    output::written(writeln!(text, "{told}"))?;
    output::written(text.flush())?;
    Ok(Outcome::Fine)
}

fn same_file(one: &Path, other: &Path) -> bool {
    matches!((fs::canonicalize(one), fs::canonicalize(other)), (Ok(one), Ok(other)) if one == other)
}
