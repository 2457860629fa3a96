//! `test` and `check`: files held against what they expect, and looked through without running.

use std::io::{IsTerminal, Write};
use std::path::PathBuf;

use miette::IntoDiagnostic;

use crate::files::Authored;
use crate::{Failure, Outcome, files, output};

/// A line for each scenario, then what was seen instead for each expectation that failed.
pub(crate) fn test(paths: &[PathBuf]) -> Result<Outcome, Failure> {
    let mut out = output::open(None)?;
    let (mut passed, mut failed) = (0, 0);
    for path in files::scenarios(paths)? {
        let scenario = files::scenario(&path)?;
        let verdicts = scenario.test().into_diagnostic()?;
        let wrong = verdicts.iter().filter(|verdict| !verdict.holds);
        let (word, count) = match wrong.clone().count() {
            0 => ("pass", format!("{} expectations", verdicts.len())),
            wrong => ("FAIL", format!("{wrong} of {} expectations", verdicts.len())),
        };
        if word == "pass" {
            passed += 1
        } else {
            failed += 1
        }
        output::written(writeln!(out, "{word}  {}  {}: {count}", path.display(), scenario.title))?;
        for verdict in wrong {
            output::written(writeln!(out, "        expected {}", verdict.text))?;
        }
    }
    output::written(writeln!(out, "{passed} passed, {failed} failed"))?;
    output::written(out.flush())?;
    Ok(if failed == 0 { Outcome::Fine } else { Outcome::Failed })
}

/// Every doubt about every file; a file that cannot be used at all is reported too, and the others are still looked at.
pub(crate) fn check(paths: &[PathBuf]) -> Result<Outcome, Failure> {
    let terminal = std::io::stdout().is_terminal();
    let mut out = output::open(None)?;
    let (mut doubts, mut unusable) = (0, None);
    for path in paths {
        let found = match files::authored(path) {
            Ok(Authored::Rules(rules)) => rules.check(),
            Ok(Authored::Scenario(scenario)) => scenario.check(),
            Err(failure) => {
                if let Some(earlier) = unusable.replace(failure) {
                    output::complain(&earlier);
                }
                continue;
            }
        };
        doubts += found.len();
        for doubt in &found {
            output::written(write!(out, "{}", output::rendered(doubt, terminal)))?;
        }
        let verdict = if found.is_empty() {
            "nothing to mend".to_owned()
        } else {
            format!("{} to look at", found.len())
        };
        output::written(writeln!(out, "{}: {verdict}", path.display()))?;
    }
    output::written(out.flush())?;
    match unusable {
        Some(failure) => Err(failure),
        None if doubts > 0 => Ok(Outcome::Failed),
        None => Ok(Outcome::Fine),
    }
}
