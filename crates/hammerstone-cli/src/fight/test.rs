//! `test`: files held against what they expect.

use std::io::Write;
use std::path::PathBuf;

use miette::IntoDiagnostic;

use crate::{Failure, Outcome, files, output};

/// A line for each scenario, then what was seen instead for each expectation that failed.
pub(crate) fn test(paths: &[PathBuf]) -> Result<Outcome, Failure> {
    let mut out = output::open(None)?;
    let (mut passed, mut failed) = (0, 0);
    for path in files::scenarios(paths)? {
        let (title, verdicts) = match files::case(&path)? {
            Some(case) => (case.title.clone(), case.test().into_diagnostic()?),
            None => {
                let scenario = files::scenario(&path)?;
                (scenario.title.clone(), scenario.test().into_diagnostic()?)
            }
        };
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
        output::written(writeln!(out, "{word}  {}  {}: {count}", path.display(), title))?;
        for verdict in wrong {
            output::written(writeln!(out, "        expected {}", verdict.text))?;
        }
    }
    output::written(writeln!(out, "{passed} passed, {failed} failed"))?;
    output::written(out.flush())?;
    Ok(if failed == 0 { Outcome::Fine } else { Outcome::Failed })
}
