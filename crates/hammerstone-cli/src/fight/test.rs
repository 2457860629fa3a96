//! `test`: files held against what they expect.

use std::fs;
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::atomic::Ordering;
use std::time::Instant;

use hammerstone_scenario::Tested;
use miette::{IntoDiagnostic, miette};
use serde::Serialize;

use crate::args::{ReportFormat, TestOptions};
use crate::{Failure, Outcome, files, output, progress};

/// What came of one file.
#[derive(Serialize)]
struct Ran {
    file: String,
    title: String,
    passed: bool,
    /// With what the fight ended; `time` if its time was up.
    #[serde(skip_serializing_if = "Option::is_none")]
    outcome: Option<String>,
    /// How long the fight was, in seconds.
    seconds: f64,
    expectations: Vec<Expected>,
    /// How long it took, in seconds of the machine; in no answer but that of JUnit.
    #[serde(skip)]
    took: f64,
}

#[derive(Serialize)]
struct Expected {
    expected: String,
    holds: bool,
    /// What was found instead.
    #[serde(skip_serializing_if = "Option::is_none")]
    found: Option<String>,
}

/// A line for each scenario, then what was found instead for each expectation that does not hold. A scenario without any has failed, unless it
/// may be so.
pub(crate) fn test(paths: &[PathBuf], options: &TestOptions) -> Result<Outcome, Failure> {
    let paths = files::scenarios(paths)?;
    let json = options.format == ReportFormat::Json;
    let to = options.out.out.as_deref();
    let mut out = if json { output::open_plain(to)? } else { output::open(to)? };
    let (stop, bar) = (progress::stop(), progress::bar(paths.len() as u64, "scenarios"));
    let mut all = Vec::new();
    for path in &paths {
        if stop.load(Ordering::Relaxed) {
            break;
        }
        let ran = one(path, options.allow_empty)?;
        if !json {
            let written = bar.suspend(|| text(&mut out, &ran));
            output::written(written)?;
        }
        bar.inc(1);
        all.push(ran);
    }
    bar.finish_and_clear();
    let passed = all.iter().filter(|ran| ran.passed).count();
    let failed = all.len() - passed;
    let written = match json {
        true => {
            serde_json::to_writer_pretty(&mut out, &all).map_err(io::Error::from).and_then(|()| writeln!(out))
        }
        false => writeln!(out, "{passed} passed, {failed} failed"),
    };
    output::written(written.and_then(|()| out.flush()))?;
    if let Some(path) = &options.junit {
        fs::write(path, junit(&all)).map_err(|error| files::unwritable(path, &error))?;
        output::wrote("the results", path);
    }
    if let Some(path) = to {
        output::wrote("the answer", path);
    }
    if all.len() < paths.len() {
        return Err(miette!(
            help = "the rest was not run; what ran is kept",
            "interrupted: {} of {}",
            all.len(),
            paths.len()
        ));
    }
    Ok(if failed == 0 { Outcome::Fine } else { Outcome::Failed })
}

fn one(path: &Path, allow_empty: bool) -> Result<Ran, Failure> {
    let began = Instant::now();
    let (title, Tested { verdicts, outcome, seconds }) = match files::case(path)? {
        Some(case) => (case.title.clone(), case.tested().into_diagnostic()?),
        None => {
            let scenario = files::scenario(path)?;
            (scenario.title.clone(), scenario.tested().into_diagnostic()?)
        }
    };
    let holds = verdicts.iter().all(|verdict| verdict.holds);
    let expected = verdicts.into_iter().map(|verdict| Expected {
        expected: verdict.wanted,
        holds: verdict.holds,
        found: verdict.found,
    });
    let expectations: Vec<Expected> = expected.collect();
    let passed = holds && (allow_empty || !expectations.is_empty());
    let (file, took) = (path.display().to_string(), began.elapsed().as_secs_f64());
    Ok(Ran { file, title, passed, outcome, seconds, expectations, took })
}

fn text(out: &mut dyn Write, ran: &Ran) -> io::Result<()> {
    let wrong: Vec<&Expected> = ran.expectations.iter().filter(|expected| !expected.holds).collect();
    let said = match (wrong.len(), ran.expectations.len()) {
        (0, 0) if ran.passed => "expects nothing".to_owned(),
        (0, 0) => "expects nothing; add [[expect]], or give --allow-empty".to_owned(),
        (0, 1) => "its expectation holds".to_owned(),
        (0, all) => format!("all {all} expectations hold"),
        (1, 1) => "its expectation does not hold".to_owned(),
        (wrong, all) => format!("{wrong} of {all} expectations do not hold"),
    };
    let word = if ran.passed { "passed" } else { "\x1b[1mFAILED\x1b[0m" };
    let ended = match ran.outcome.as_deref() {
        None => format!("{:.2}s", ran.seconds),
        Some("time") => format!("time is up at {:.2}s", ran.seconds),
        Some(outcome) => format!("{outcome} at {:.2}s", ran.seconds),
    };
    writeln!(out, "{word}  {}  {}: {said} \x1b[2m({ended})\x1b[0m", ran.file, ran.title)?;
    for expected in wrong {
        let found = expected.found.as_deref().unwrap_or_default();
        writeln!(out, "        expected {}\n        found    {found}", expected.expected)?;
    }
    Ok(())
}

/// The results as machines that run tests read them: a suite for each file, a case for each expectation.
fn junit(all: &[Ran]) -> String {
    let escaped = |text: &str| {
        let text = text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;");
        text.replace('"', "&quot;").replace('\n', "&#10;")
    };
    let count = |ran: &Ran| ran.expectations.len().max(1);
    let failures = |ran: &Ran| {
        let wrong = ran.expectations.iter().filter(|expected| !expected.holds).count();
        if ran.passed { 0 } else { wrong.max(1) }
    };
    let (tests, failed): (usize, usize) = (all.iter().map(count).sum(), all.iter().map(failures).sum());
    let mut text = format!(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites tests=\"{tests}\" failures=\"{failed}\">\n"
    );
    for ran in all {
        let (file, title) = (escaped(&ran.file), escaped(&ran.title));
        text.push_str(&format!(
            "  <testsuite name=\"{title}\" file=\"{file}\" tests=\"{}\" failures=\"{}\" time=\"{:.3}\">\n",
            count(ran),
            failures(ran),
            ran.took
        ));
        if ran.expectations.is_empty() {
            let case = format!("    <testcase classname=\"{file}\" name=\"expects something\"");
            text.push_str(&match ran.passed {
                true => format!("{case}/>\n"),
                false => format!("{case}><failure message=\"expects nothing\"/></testcase>\n"),
            });
        }
        for expected in &ran.expectations {
            let case = format!("    <testcase classname=\"{file}\" name=\"{}\"", escaped(&expected.expected));
            text.push_str(&match &expected.found {
                Some(found) if !expected.holds => {
                    format!("{case}><failure message=\"found {}\"/></testcase>\n", escaped(found))
                }
                _ => format!("{case}/>\n"),
            });
        }
        text.push_str("  </testsuite>\n");
    }
    text + "</testsuites>\n"
}
