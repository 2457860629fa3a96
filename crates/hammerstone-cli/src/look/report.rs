//! `report`: a fight as one page.

use std::fs::File;
use std::io::{BufWriter, Write};
use std::path::Path;

use hammerstone::audit::Auditor;
use hammerstone_record::{Names, Record};
use hammerstone_scenario::Doubt;
use hammerstone_view::{Checked, Heading, Reporter};
use miette::IntoDiagnostic;

use crate::args::Asked;
use crate::fight::NO_TACTICS;
use crate::source::Fight;
use crate::{Failure, Outcome, files, output};

/// How many ticks lie between two times at which the auditor holds its account against the whole state.
const BETWEEN: u32 = 30;

pub(crate) fn report(asked: &Asked, out: &Path) -> Result<Outcome, Failure> {
    let fight = Fight::of(asked)?.telling_choices();
    // A page that cannot be written is better known before the fight is played.
    let mut page = BufWriter::new(File::create(out).map_err(|error| files::unwritable(out, &error))?);
    let Gathered { reporter, names, checks } = gather(&fight)?;
    let heading = Heading { title: fight.title(), seed: fight.seed(), checks: &checks };
    let written = reporter.write(&mut page, &heading, fight.rules(), &names);
    written.and_then(|()| page.flush()).map_err(|error| files::unwritable(out, &error))?;
    output::wrote("the page", out);
    Ok(Outcome::Fine)
}

/// All that a page shows of a fight.
pub(crate) struct Gathered {
    pub(crate) reporter: Reporter,
    pub(crate) names: Names,
    pub(crate) checks: Vec<Checked>,
}

/// Plays a fight for a page.
pub(crate) fn gather(fight: &Fight) -> Result<Gathered, Failure> {
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
    let checks = checks(fight, &auditor, play.seen().clock)?;
    Ok(Gathered { reporter, names: play.names().clone(), checks })
}

/// The laws, as the auditor saw them; the expectations; and what the files are doubtful about.
fn checks(fight: &Fight, auditor: &Auditor, ticks: u32) -> Result<Vec<Checked>, Failure> {
    let mut checks = Vec::new();
    match auditor.breaches() {
        _ if fight.begins_in_the_middle() => {
            let text = "the auditor: it was not asked, since it does not know how the log began".to_owned();
            checks.push(fine(text));
        }
        [] => checks.push(fine("the auditor: every law held in every tick".to_owned())),
        breaches => checks.extend(breaches.iter().map(|breach| troubled(breach.to_string(), None))),
    }
    if fight.scenario().is_some_and(|scenario| !scenario.has_tactics()) {
        checks.push(fine(NO_TACTICS.to_owned()));
    }
    let Some(scenario) = fight.scenario() else {
        let text = "the log: every tick ran as it was recorded".to_owned();
        checks.push(fine(text));
        return Ok(checks);
    };
    // Expectations are about the scenario as its file has it.
    if fight.is_as_written() && scenario.expectations() > 0 {
        let verdicts = scenario.test().into_diagnostic()?;
        let held = verdicts.iter().filter(|verdict| verdict.holds).count();
        if held > 0 {
            checks.push(fine(format!("{held} expectations of the scenario hold")));
        }
        let failed = verdicts.into_iter().filter(|verdict| !verdict.holds);
        checks.extend(failed.map(|verdict| {
            troubled(
                format!("expected {verdict}"),
                Some(verdict.until.map_or(ticks, |until| until.min(ticks))),
            )
        }));
    }
    // What other fights may use of the ruleset is no fault of this one.
    let (of_use, doubts): (Vec<Doubt>, Vec<Doubt>) =
        scenario.check().into_iter().partition(|doubt| doubt.finding.of_use);
    if !of_use.is_empty() {
        let text = format!("the ruleset: {} that this fight does not use; `check` lists them", of_use.len());
        checks.push(fine(text));
    }
    let before = checks.len();
    let found = |doubt: Doubt| troubled(format!("{doubt}: {}", doubt.fix), None);
    checks.extend(doubts.into_iter().map(found));
    if checks.len() == before {
        let text = "the files: nothing that is hardly meant".to_owned();
        checks.push(fine(text));
    }
    Ok(checks)
}

fn fine(text: String) -> Checked {
    Checked { fine: true, text, at: None }
}

fn troubled(text: String, at: Option<u32>) -> Checked {
    Checked { fine: false, text, at }
}
