//! Saved states that strangers wrote.

use hammerstone::audit::AnySeal;
use hammerstone::hooks::{Hooks, Listen};
use hammerstone::ids::HookId;
use hammerstone::{Encounter, Ruleset, Saved};
use serde_json::Value;

use crate::bytes::Bytes;
use crate::game::{Game, hooks};

/// From this the ruleset of all saves is made.
const RULES: &[u8] = b"a ruleset that has something of everything, and is always the same: \x07\x21\x43\x65\x87\xa9\xcb\xed \
    0123456789 the quick mason braces over the lazy hound, and then over again, until the tide has come and gone \
    \x01\x11\x31\x51\x71\x91\xb1\xd1\xf1\x02\x12\x32\x52\x72\x92\xb2\xd2\xf2 and what is left is counted by the keeper at dawn";

pub(crate) fn rules() -> Ruleset {
    let sound = |first: u8| Game::rules(&mut Bytes(&[&[first], RULES].concat()));
    (0..=u8::MAX).find_map(sound).expect("one of these is a sound ruleset")
}

/// A document as a saved state, whatever its seal; if it is let in, the fight goes on.
pub fn save(data: &[u8]) {
    let Ok(mut document) = serde_json::from_slice::<Value>(data) else { return };
    // As it is, it is refused or sound.
    let rules = rules();
    if let Ok(saved) = serde_json::from_value::<Saved>(document.clone()) {
        _ = Encounter::new(&rules, 1).restore(&saved);
    }
    // Corpora outlive changes of the ruleset's print.
    if let Value::Object(fields) = &mut document {
        fields.insert("ruleset".to_owned(), rules.fingerprint().into());
    }
    let Ok(AnySeal(saved)) = serde_json::from_value(document) else { return };
    go_on(&rules, &saved);
}

/// A state that is let in goes on, with orders to everyone.
pub(crate) fn go_on(rules: &Ruleset, saved: &Saved) {
    let mut encounter = Encounter::new(rules, 1);
    if encounter.restore(saved).is_err() {
        return;
    }
    let hooks: Hooks<u64> = hooks(rules);
    let all: Vec<_> = encounter.view().combatants().collect();
    for tick in 0..8usize {
        for (i, &who) in all.iter().enumerate().take(20) {
            match (tick + i) % 4 {
                0 => _ = encounter.orders().start(who, attack(rules, tick)),
                1 => _ = encounter.orders().bring_back(who, hammerstone::geometry::Pose::IDENTITY),
                2 => _ = encounter.orders().follow(who, all.get((i + 1) % all.len()).copied()),
                _ => {}
            }
        }
        if tick == 6 {
            encounter.orders().reset();
        }
        if encounter.tick_with(&hooks, &mut 0).is_err() {
            return;
        }
        let view = encounter.view();
        view.combatants()
            .for_each(|who| _ = (view.statuses_of(who).count(), view.shields(who), view.leader(who)));
    }
}

fn attack(rules: &Ruleset, place: usize) -> hammerstone::ids::AttackId {
    let attack = &rules.attacks()[place % rules.attacks().len()];
    rules.find_attack(attack.name()).expect("an attack is found by its name")
}

/// Saves of one fight, as documents: where a corpus begins.
pub fn seed_saves() -> Vec<String> {
    let rules = rules();
    let hooks: Hooks<u64> = hooks(&rules);
    let mut encounter = Encounter::new(&rules, 3);
    let mut saves = Vec::new();
    for tick in 0..24usize {
        begun(&rules, &hooks, &mut encounter, tick);
        if encounter.tick_with(&hooks, &mut 0).is_err() {
            break;
        }
        if tick % 6 == 0 {
            let saved = encounter.save().expect("a whole tick can be saved");
            saves.push(serde_json::to_string(&saved).expect("a state can be written"));
        }
    }
    saves
}

/// The orders of a tick of a fight that all seeds are of.
pub(crate) fn begun(rules: &Ruleset, hooks: &Hooks<u64>, encounter: &mut Encounter, tick: usize) {
    if tick == 0 {
        let ids: Vec<HookId> = hooks.names().map(|(id, _)| id).collect();
        encounter.orders().subscribe(ids[0], Listen::all());
    }
    if tick < 4 {
        let template = &rules.templates()[tick % rules.templates().len()];
        let id = rules.find_template(template.name()).expect("a template is found by its name");
        encounter.orders().spawn(id, hammerstone::geometry::Pose::at([tick as f32 * 0.4, 0.0, 0.3]));
    }
    let all: Vec<_> = encounter.view().combatants().collect();
    if let Some(&who) = all.get(tick % all.len().max(1)) {
        encounter.orders().start(who, attack(rules, tick));
    }
}
