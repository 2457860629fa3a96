//! Texts as rulesets and scenarios: read, looked through, shown, and played for a while.

use hammerstone::geometry::Axis;
use hammerstone_motion::{Axes, Skeleton};
use hammerstone_scenario::{Options, Play, RulesFile, Scenario};
use miette::Diagnostic;

/// The ruleset under which scenarios are read.
const RULES: &str = include_str!("../../scenarios/quarry.rules.toml");
/// So many combatants and orders of the set-up are still played.
const MOST_AT_ONCE: usize = 300;

/// A message with every mark that it makes in the text.
fn show(diagnostic: &dyn Diagnostic) {
    let mut text = diagnostic.to_string();
    text.extend(diagnostic.help().map(|help| help.to_string()));
    assert!(text.len() < 10_000, "{} bytes of message", text.len());
    for related in diagnostic.related().into_iter().flatten() {
        text = related.to_string();
        assert!(text.len() < 10_000, "{} bytes of message", text.len());
        let Some(code) = related.source_code().or(diagnostic.source_code()) else { continue };
        for label in related.labels().into_iter().flatten() {
            let shown = code.read_span(label.inner(), 1, 1).expect("a mark lies within its text");
            assert!(shown.data().len() < 10_000, "{} bytes of excerpt", shown.data().len());
        }
    }
}

/// A ruleset's text.
pub fn ruleset(data: &[u8]) {
    let Ok(text) = std::str::from_utf8(data) else { return };
    match RulesFile::read("any.rules.toml", text) {
        Err(unusable) => show(&*unusable),
        Ok(rules) => {
            hammerstone_scenario::check_rules(&rules).iter().take(100).for_each(|doubt| show(doubt));
            for attack in rules.ruleset.attacks() {
                let id = rules.ruleset.find_attack(attack.name()).expect("an attack is found by its name");
                assert!(rules.ruleset.timings(id).is_some());
            }
        }
    }
}

/// A skeleton's file: read, looked through, drawn, and posed.
pub fn skeleton(data: &[u8]) {
    let mut alone = |_: &str| Err("it is not there".to_owned());
    let axes = Axes { from: Axis::Z, to: Axis::Y, turn: 30.0, scale: 0.01 };
    match Skeleton::from_bytes(data, "any", axes, &mut alone) {
        Err(error) => assert!(!error.place.is_empty() && error.to_string().len() < 10_000),
        Ok(skeleton) => {
            let doubts = hammerstone_scenario::check_skeleton("any.glb", &skeleton);
            doubts.iter().take(100).for_each(|doubt| show(doubt));
            for animation in 0..skeleton.animations().len().min(8) {
                let poses = skeleton.poses(&skeleton.stance(animation, 0.7));
                assert!(poses.iter().all(|pose| pose.at.iter().chain(&pose.turn).all(|x| !x.is_nan())));
                assert_eq!(skeleton.speeds(animation, 10).len(), poses.len());
            }
        }
    }
}

/// A scenario's text.
pub fn scenario(data: &[u8]) {
    let Ok(text) = std::str::from_utf8(data) else { return };
    let open = |_: hammerstone_scenario::Wanted<'_>| Ok(("quarry.rules.toml".to_owned(), RULES.into()));
    match Scenario::read("any.toml", text, &open) {
        Err(unusable) => show(&*unusable),
        Ok(scenario) => {
            scenario.check().iter().take(100).for_each(|doubt| show(doubt));
            let mut play = Play::new(&scenario, Options { ticks: Some(90), ..Options::default() });
            if play.encounter.pending_orders().len() > MOST_AT_ONCE {
                return;
            }
            while play.tick().expect("a file subscribes no hooks") {
                assert!(play.encounter.facts().facts.len() < 200_000);
            }
        }
    }
}
