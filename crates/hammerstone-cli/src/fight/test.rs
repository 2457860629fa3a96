//! `test`: files held against what they expect.

use std::io::Write;
use std::path::PathBuf;

use miette::IntoDiagnostic;

use crate::{Failure, Outcome, files, output};

/// A line for each scenario, then what was seen instead for each expectation that does not hold. A scenario without any has failed, unless it may
/// be so.
pub(crate) fn test(paths: &[PathBuf], allow_empty: bool) -> Result<Outcome, Failure> {
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
        let (word, said) = match (wrong.clone().count(), verdicts.len()) {
            (0, 0) if allow_empty => ("passed", "expects nothing".to_owned()),
            (0, 0) => ("FAILED", "expects nothing; add [[expect]], or give --allow-empty".to_owned()),
            (0, 1) => ("passed", "its expectation holds".to_owned()),
            (0, all) => ("passed", format!("all {all} expectations hold")),
            (1, 1) => ("FAILED", "its expectation does not hold".to_owned()),
            (wrong, all) => ("FAILED", format!("{wrong} of {all} expectations do not hold")),
        };
        if word == "passed" {
            passed += 1
        } else {
            failed += 1
        }
        output::written(writeln!(out, "{word}  {}  {title}: {said}", path.display()))?;
        for verdict in wrong {
            output::written(writeln!(out, "        expected {}", verdict.text))?;
        }
    }
    output::written(writeln!(out, "{passed} passed, {failed} failed"))?;
    output::written(out.flush())?;
    Ok(if failed == 0 { Outcome::Fine } else { Outcome::Failed })
}
