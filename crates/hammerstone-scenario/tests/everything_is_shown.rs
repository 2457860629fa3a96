//! Every step, every way of applying again and every topic appears in a shipped scenario: the one who adds one adds a scenario.

use hammerstone::event::{RuleFired, StatusApplied, StatusRefreshed, StatusStacked};
use std::collections::BTreeSet;
use std::path::Path;

use hammerstone::amount::{HealStep, Step};
use hammerstone::event::{Event, LedgerStep, Note};
use hammerstone::flow::{Condition, Limit};
use hammerstone::prelude::*;
use hammerstone::status::{Stacking, Strength, Trigger};
use hammerstone_scenario::{Options, Play, Scenario};

/// What only code can bring about; the examples and the library's own tests show it.
const ONLY_CODE: [&str; 2] = ["step amended", "topic encounter.adopted"];

const REACTIONS: [&str; 30] = [
    "drain",
    "fill",
    "set-gauge",
    "teleport",
    "push",
    "change-team",
    "time-scale",
    "transform",
    "let-go",
    "request",
    "stop-waves",
    "raise-flag",
    "lower-flag",
    "count",
    "score",
    "start-waves",
    "next-round",
    "apply",
    "lift",
    "damage",
    "heal",
    "start",
    "spawn-attack",
    "send-away",
    "bring-back",
    "remove",
    "publish",
    "say",
    "end",
    "reset",
];

const CONDITIONS: [&str; 26] = [
    "all",
    "any",
    "not",
    "subject",
    "other",
    "compare",
    "counters",
    "scores",
    "line-of-sight",
    "threshold",
    "direction",
    "crosses",
    "status",
    "attack",
    "flags",
    "time",
    "round",
    "standing",
    "out-of-lives",
    "waves-over",
    "since",
    "fact",
    "chance",
    "flag of a party",
    "phase of a party",
    "health",
];

#[test]
fn every_variant_appears_in_a_shipped_scenario() {
    let mut seen = BTreeSet::new();
    for folder in ["", "craft", "faults", "flow", "ledger", "yard"] {
        let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../scenarios").join(folder);
        for entry in std::fs::read_dir(&folder).unwrap() {
            let path = entry.unwrap().path();
            let name = path.to_string_lossy().into_owned();
            if name.ends_with(".toml") && !name.ends_with(".rules.toml") {
                look(&path, &mut seen);
            }
        }
    }
    let missing: Vec<String> = wanted()
        .into_iter()
        .filter(|one| !seen.contains(one) && !ONLY_CODE.contains(&one.as_str()))
        .collect();
    assert!(missing.is_empty(), "no scenario shows: {missing:#?}");
    let shown: Vec<_> = ONLY_CODE.iter().filter(|one| seen.contains(**one)).collect();
    assert!(shown.is_empty(), "a scenario shows what is listed as only for code: {shown:?}");
}

/// Each fault of the list has a proof that is there, and each scenario of the faults stands in the list.
#[test]
fn every_fault_has_its_proof() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let text = std::fs::read_to_string(root.join("docs/faults.md")).unwrap();
    let rows: Vec<&str> =
        text.lines().filter(|line| line.starts_with("| ") && !line.starts_with("| #")).collect();
    assert_eq!(rows.len(), 28);
    let mut cited = BTreeSet::new();
    for (place, row) in rows.iter().enumerate() {
        assert!(row.starts_with(&format!("| {} |", place + 1)), "{row}");
        let proofs: Vec<&str> = row.rsplit('|').nth(1).unwrap().split('`').skip(1).step_by(2).collect();
        assert!(!proofs.is_empty(), "{row}");
        for proof in proofs {
            assert!(root.join(proof).exists(), "{proof} is not there");
            cited.insert(proof.to_owned());
        }
    }
    for entry in std::fs::read_dir(root.join("scenarios/faults")).unwrap() {
        let name = format!("scenarios/faults/{}", entry.unwrap().file_name().to_string_lossy());
        assert!(cited.contains(&name), "{name} is not in the list");
    }
}

fn wanted() -> Vec<String> {
    let mut wanted = Vec::new();
    wanted.extend(Step::ALL.map(|step| format!("step {}", step.name())));
    wanted.push("step own".to_owned());
    wanted.extend(HealStep::ALL.map(|step| format!("heal step {}", step.name())));
    wanted.extend(LedgerStep::BESIDE.map(|line| format!("line {}", line.name())));
    wanted.extend(Stacking::ALL.map(|again| format!("again {}", again.name())));
    wanted.extend(Trigger::ALL.map(|on| format!("upon {}", on.name())));
    wanted.extend(["add", "add-share", "multiply", "set"].map(|by| format!("by {by}")));
    wanted.extend(["given", "captured", "live"].map(|strength| format!("strength {strength}")));
    wanted.extend(Limit::ALL.map(|limit| format!("limit {}", limit.name())));
    wanted.extend(REACTIONS.map(|action| format!("action {action}")));
    wanted.extend(CONDITIONS.map(|condition| format!("provided {condition}")));
    let mut b = Ruleset::builder(60);
    for damage_type in ["crush", "cut", "heat", "caustic"] {
        b.damage_type(damage_type);
    }
    let rules = b.build().unwrap();
    wanted.extend(rules.topics().paths().iter().map(|path| format!("topic {path}")));
    wanted
}

fn look(path: &Path, seen: &mut BTreeSet<String>) {
    let text = std::fs::read_to_string(path).unwrap();
    let open = |wanted: hammerstone_scenario::Wanted<'_>| {
        let found = wanted.path(path);
        Ok((found.display().to_string(), std::fs::read(&found).map_err(|error| error.to_string())?))
    };
    let scenario = Scenario::read(&path.display().to_string(), &text, &open).unwrap();
    let mut play = Play::new(&scenario, Options { ledgers: true, choices: true, ..Options::default() });
    while play.tick().unwrap() {
        let (rules, facts) = (play.encounter.rules(), play.encounter.facts());
        for line in facts.ledger {
            seen.insert(match line.step {
                LedgerStep::Step(step) => format!("step {}", step.name()),
                LedgerStep::Heal(step) => format!("heal step {}", step.name()),
                line => format!("line {}", line.name()),
            });
            if let Note::Changed { by, .. } = line.note {
                seen.insert(format!("by {}", by.name()));
            }
        }
        for event in facts.events() {
            seen.insert(format!("topic {}", rules.topics().path(event.topic()).unwrap_or_default()));
            match *event {
                Event::StatusApplied(StatusApplied { subject, status, source, .. }) => {
                    let authored = &rules.statuses()[status.index()];
                    seen.insert(match authored.strength_of() {
                        Strength::Given => "strength given".to_owned(),
                        Strength::Captured(_) => "strength captured".to_owned(),
                        Strength::Live(_) => "strength live".to_owned(),
                    });
                    if authored.stacking_of() == Stacking::PerSource
                        && others(&play.encounter, subject, status)
                    {
                        seen.insert("again apart".to_owned());
                    }
                    grants(&play.encounter, source.unwrap_or(subject), status, seen);
                }
                Event::RuleFired(RuleFired { rule, .. }) => {
                    let rule = &rules.rules()[rule.index()];
                    seen.insert(format!("limit {}", rule.limit_of().name()));
                    seen.extend(rule.reactions().map(|(_, action)| format!("action {}", action.name())));
                    let all = rule.all_conditions();
                    seen.extend(all.into_iter().map(|one| format!("provided {}", name_of(one))));
                }
                Event::StatusRefreshed(StatusRefreshed { status, .. })
                | Event::StatusStacked(StatusStacked { status, .. }) => {
                    seen.insert(format!("again {}", rules.statuses()[status.index()].stacking_of().name()));
                }
                _ => {}
            }
        }
    }
}

/// Whether someone bears two of one status.
fn others(encounter: &Encounter, subject: CombatantId, status: StatusId) -> bool {
    encounter.view().statuses(subject).filter(|other| *other == status).count() > 1
}

/// The occasions on which `bearer` gives the status that has just been applied.
fn grants(encounter: &Encounter, bearer: CombatantId, status: StatusId, seen: &mut BTreeSet<String>) {
    let (rules, view) = (encounter.rules(), encounter.view());
    let template = view
        .template(bearer)
        .map(|template| rules.templates()[template.index()].grants())
        .unwrap_or_default();
    let statuses_of = rules.statuses().iter().map(|status| status.grants());
    for grant in statuses_of.chain([template]).flatten().filter(|grant| grant.status == status) {
        seen.insert(format!("upon {}", grant.on.name()));
    }
}

/// The name of a condition; those that have the name of a party are told apart.
fn name_of(condition: &Condition) -> &'static str {
    match condition {
        Condition::CombatantFlag(..) => "flag of a party",
        Condition::Phase(..) => "phase of a party",
        other => other.name(),
    }
}
