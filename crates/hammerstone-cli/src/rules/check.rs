//! `check`: files looked through without running them.

use std::io::{self, IsTerminal, Write};
use std::path::PathBuf;

use hammerstone_scenario::{Doubt, FINDINGS, check_rules, check_skeleton};
use miette::miette;

use crate::args::{CheckOptions, ReportFormat};
use crate::files::Authored;
use crate::{Failure, Outcome, files, output};

/// Every doubt about every file; a file that cannot be used at all is reported too, and the others are still looked at.
pub(crate) fn check(paths: &[PathBuf], options: &CheckOptions) -> Result<Outcome, Failure> {
    let numbers = options.deny.iter().flatten().chain(&options.allow);
    if let Some(unknown) =
        numbers.into_iter().find(|number| FINDINGS.iter().all(|one| one.number != **number))
    {
        let (first, last) = (FINDINGS[0].number, FINDINGS[FINDINGS.len() - 1].number);
        let help = format!("they are numbered from {first} to {last}; `check --list` shows them");
        return Err(miette!(help = help, "there is no finding {unknown}"));
    }
    let json = options.format == ReportFormat::Json;
    let mut out = if json { output::open_plain(None)? } else { output::open(None)? };
    if options.list {
        output::written(list(&mut out, json).and_then(|()| out.flush()))?;
        return Ok(Outcome::Fine);
    }
    let terminal = io::stdout().is_terminal();
    let denied = |doubt: &Doubt| match options.deny.as_deref() {
        None => false,
        Some([]) => true,
        Some(numbers) => numbers.contains(&doubt.finding.number),
    };
    let (mut failed, mut unusable) = (false, None);
    let mut all = Vec::new();
    for path in paths {
        let looked = match files::is_skeleton(path) {
            true => files::skeleton(path, options.frame)
                .map(|skeleton| check_skeleton(&path.display().to_string(), &skeleton)),
            false => files::authored(path).map(|authored| match authored {
                Authored::Ruleset(rules) => check_rules(&rules),
                Authored::Scenario(scenario) => scenario.check(),
            }),
        };
        let found = match looked {
            Ok(found) => found,
            Err(failure) => {
                if let Some(earlier) = unusable.replace(failure) {
                    output::complain(&earlier);
                }
                continue;
            }
        };
        let found: Vec<Doubt> =
            found.into_iter().filter(|doubt| !options.allow.contains(&doubt.finding.number)).collect();
        failed |= found.iter().any(denied);
        if json {
            all.extend(found.iter().map(|doubt| in_json(&path.display().to_string(), doubt)));
            continue;
        }
        const SHOWN: usize = 100;
        for doubt in found.iter().take(SHOWN) {
            output::written(write!(out, "{}", output::rendered(doubt, terminal)))?;
        }
        if found.len() > SHOWN {
            let more = found.len() - SHOWN;
            output::written(writeln!(
                out,
                "and {more} more; `--format json` has them all, `--allow` leaves some out"
            ))?;
        }
        let verdict = match found.len() {
            0 => "no problems found".to_owned(),
            count => format!("{count} to look at"),
        };
        output::written(writeln!(out, "{}: {verdict}", path.display()))?;
    }
    if json {
        let written = serde_json::to_writer_pretty(&mut out, &all).map_err(io::Error::from);
        output::written(written.and_then(|()| writeln!(out)))?;
    }
    output::written(out.flush())?;
    match unusable {
        Some(failure) => Err(failure),
        None if failed => Ok(Outcome::Failed),
        None => Ok(Outcome::Fine),
    }
}

fn in_json(asked: &str, doubt: &Doubt) -> serde_json::Value {
    let (file, line) = doubt.place();
    serde_json::json!({
        "finding": doubt.finding.number,
        "name": doubt.finding.name,
        "asked": asked,
        "file": file,
        "line": line,
        "message": doubt.message,
        "reason": doubt.finding.reason,
        "fix": doubt.fix,
    })
}

const LIST: [output::Column<'static>; 3] = [("number", true), ("finding", false), ("why it matters", false)];

fn list(out: &mut impl Write, json: bool) -> io::Result<()> {
    if json {
        let all: Vec<serde_json::Value> = FINDINGS
            .iter()
            .map(|one| serde_json::json!({ "finding": one.number, "name": one.name, "reason": one.reason }))
            .collect();
        serde_json::to_writer_pretty(&mut *out, &all)?;
        return writeln!(out);
    }
    let rows: Vec<[String; 3]> = FINDINGS
        .iter()
        .map(|one| [one.number.to_string(), one.name.to_owned(), one.reason.to_owned()])
        .collect();
    output::table(out, &LIST, &rows, "")
}
