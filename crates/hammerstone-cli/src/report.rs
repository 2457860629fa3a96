//! `report`: a fight as one page.

use std::fs::File;
use std::io::{BufWriter, Write};
use std::path::Path;

use hammerstone::Event;
use hammerstone::audit::Auditor;
use hammerstone_record::{Accounts, Frame, Lanes, Reel, Tale, Tally, Wiring};
use hammerstone_scenario::{Doubt, Options, Play, Scenario};
use hammerstone_view::{Checked, Report, report as write_page};
use miette::IntoDiagnostic;

use crate::{Failure, Outcome, files};

/// How many ticks lie between two times at which the auditor holds its account against the whole state.
const BETWEEN: u32 = 30;

pub(crate) fn report(path: Option<&Path>, out: &Path, seed: Option<u64>) -> Result<Outcome, Failure> {
    let scenario = match path {
        Some(path) => files::scenario(path)?,
        None => files::demo()?,
    };
    // A page that cannot be written is better known before the fight is played.
    let mut page = BufWriter::new(File::create(out).map_err(|error| files::unwritable(out, &error))?);
    let rules = &scenario.rules.ruleset;
    let mut play = Play::new(&scenario, Options { seed, ledgers: true, ..Options::default() });
    play.encounter.keep_deliveries(true);
    let (mut lanes, mut tale, mut accounts) = (Lanes::new(), Tale::new(), Accounts::new());
    let (mut tally, mut reel, mut wiring) = (Tally::new(), Reel::new(), Wiring::new(rules));
    let mut auditor = Auditor::new(rules);
    let mut moment = None;
    let mut ticks = 0;
    while play.tick().into_diagnostic()? {
        let (encounter, names) = (&play.encounter, &play.names);
        let facts = encounter.facts();
        ticks += 1;
        lanes.take_in(rules, names, &facts);
        tale.take_in(rules, names, &facts);
        accounts.take_in(encounter, names);
        tally.take_in(encounter, names);
        reel.take_in(encounter, names);
        wiring.take_in(encounter);
        auditor.take_in(&facts);
        if ticks % BETWEEN == 0 {
            auditor.compare(&encounter.view());
        }
        if moment.is_none() && facts.events().any(|event| matches!(event, Event::HitLanded { .. })) {
            moment = Some(Frame::of(encounter, names));
        }
    }
    let diagram = wiring.diagram(rules, &play.names);
    let checks = checks(&scenario, &auditor, seed)?;
    let moment = moment.or_else(|| (ticks > 0).then(|| Frame::of(&play.encounter, &play.names)));
    let report = Report {
        title: &scenario.title,
        seed: seed.unwrap_or(scenario.seed),
        rules,
        lanes: &lanes,
        tale: &tale,
        accounts: accounts.all(),
        tally: &tally,
        reel: &reel,
        moment: moment.as_ref(),
        wiring: &diagram,
        checks: &checks,
    };
    write_page(&mut page, &report)
        .and_then(|()| page.flush())
        .map_err(|error| files::unwritable(out, &error))?;
    Ok(Outcome::Fine)
}

/// The laws, as the auditor saw them; the expectations; and what the files are doubtful about.
fn checks(scenario: &Scenario, auditor: &Auditor, seed: Option<u64>) -> Result<Vec<Checked>, Failure> {
    let mut checks = Vec::new();
    match auditor.breaches() {
        [] => {
            checks.push(Checked { fine: true, text: "the auditor: every law held in every tick".to_owned() })
        }
        breaches => {
            checks.extend(breaches.iter().map(|breach| Checked { fine: false, text: breach.to_string() }))
        }
    }
    // Expectations are about the scenario as its file has it.
    if seed.is_none() && scenario.expectations() > 0 {
        let verdicts = scenario.test().into_diagnostic()?;
        let held = verdicts.iter().filter(|verdict| verdict.holds).count();
        if held > 0 {
            checks.push(Checked { fine: true, text: format!("{held} expectations of the scenario hold") });
        }
        let failed = verdicts.into_iter().filter(|verdict| !verdict.holds);
        checks.extend(
            failed.map(|verdict| Checked { fine: false, text: format!("expected {}", verdict.text) }),
        );
    }
    let doubts = scenario.check();
    let before = checks.len();
    let found = |doubt: Doubt| Checked { fine: false, text: format!("{doubt}: {}", doubt.mend) };
    checks.extend(doubts.into_iter().map(found));
    if checks.len() == before {
        let text = "the files: nothing that is hardly meant".to_owned();
        checks.push(Checked { fine: true, text });
    }
    Ok(checks)
}
