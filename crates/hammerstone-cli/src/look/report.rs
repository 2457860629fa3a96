//! `report`: a fight as one page.

use std::fs::File;
use std::io::{BufWriter, Write};
use std::path::Path;

use hammerstone::audit::Auditor;
use hammerstone_record::Record;
use hammerstone_scenario::Doubt;
use hammerstone_view::{Checked, Reporter};
use miette::IntoDiagnostic;

use crate::args::Asked;
use crate::source::Fight;
use crate::{Failure, Outcome, files, output};

/// How many ticks lie between two times at which the auditor holds its account against the whole state.
const BETWEEN: u32 = 30;

pub(crate) fn report(asked: &Asked, out: &Path) -> Result<Outcome, Failure> {
    let fight = Fight::of(asked)?;
    // A page that cannot be written is better known before the fight is played.
    let mut page = BufWriter::new(File::create(out).map_err(|error| files::unwritable(out, &error))?);
    let rules = fight.rules();
    let mut play = fight.play(true)?;
    play.encounter_mut().keep_deliveries(true);
    play.encounter_mut().keep_gates(true);
    let (mut reporter, mut auditor) = (Reporter::new(rules), Auditor::new(rules));
    let mut ticks = 0;
    while play.tick()? {
        ticks += 1;
        reporter.observe(&play.seen());
        auditor.observe(&play.encounter().facts());
        if ticks % BETWEEN == 0 {
            auditor.compare(&play.encounter().view());
        }
    }
    let checks = checks(&fight, &auditor)?;
    let written = reporter.write(&mut page, fight.title(), fight.seed(), (rules, play.names()), &checks);
    written.and_then(|()| page.flush()).map_err(|error| files::unwritable(out, &error))?;
    output::wrote("the page", out);
    Ok(Outcome::Fine)
}

/// The laws, as the auditor saw them; the expectations; and what the files are doubtful about.
fn checks(fight: &Fight, auditor: &Auditor) -> Result<Vec<Checked>, Failure> {
    let mut checks = Vec::new();
    match auditor.breaches() {
        _ if fight.begins_in_the_middle() => {
            let text = "the auditor: it was not asked, since it does not know how the log began".to_owned();
            checks.push(Checked { fine: true, text });
        }
        [] => {
            checks.push(Checked { fine: true, text: "the auditor: every law held in every tick".to_owned() })
        }
        breaches => {
            checks.extend(breaches.iter().map(|breach| Checked { fine: false, text: breach.to_string() }))
        }
    }
    let Some(scenario) = fight.scenario() else {
        let text = "the log: every tick ran as it was recorded".to_owned();
        checks.push(Checked { fine: true, text });
        return Ok(checks);
    };
    // Expectations are about the scenario as its file has it.
    if fight.is_as_written() && scenario.expectations() > 0 {
        let verdicts = scenario.test().into_diagnostic()?;
        let held = verdicts.iter().filter(|verdict| verdict.holds).count();
        if held > 0 {
            checks.push(Checked { fine: true, text: format!("{held} expectations of the scenario hold") });
        }
        let failed = verdicts.into_iter().filter(|verdict| !verdict.holds);
        checks.extend(failed.map(|verdict| Checked { fine: false, text: format!("expected {verdict}") }));
    }
    let doubts = scenario.check();
    let before = checks.len();
    let found = |doubt: Doubt| Checked { fine: false, text: format!("{doubt}: {}", doubt.fix) };
    checks.extend(doubts.into_iter().map(found));
    if checks.len() == before {
        let text = "the files: nothing that is hardly meant".to_owned();
        checks.push(Checked { fine: true, text });
    }
    Ok(checks)
}
