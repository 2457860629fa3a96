//! Saved states on their way through bytes: what an encounter wrote is read, what was changed is refused, and nothing that is accepted
//! can make a later tick panic.

use hammerstone::amount::Keep;
use hammerstone::audit::seal_again;
use hammerstone::geometry::Obstacle;
use hammerstone::ids::HookId;
use hammerstone::orders::Unsubscribe;
use hammerstone::prelude::*;
use hammerstone::{RestoreError, Saved, SavedBytesError};
use proptest::prelude::*;
use serde_json::Value;
use testkit::{busy, fights, json, play};

/// Every number of a document, by the way to it.
fn numbers(value: &Value, way: String, found: &mut Vec<String>) {
    match value {
        Value::Number(_) | Value::Bool(_) => found.push(way),
        Value::Array(items) => {
            items.iter().enumerate().for_each(|(i, item)| numbers(item, format!("{way}/{i}"), found));
        }
        Value::Object(map) => {
            map.iter().for_each(|(key, item)| numbers(item, format!("{way}/{key}"), found));
        }
        _ => {}
    }
}

/// The same number, but for a change.
fn changed(value: &Value, how: u8) -> Value {
    match value {
        Value::Bool(so) => Value::Bool(!so),
        Value::Number(number) => match (number.as_u64(), number.as_i64(), how % 8) {
            (Some(n), _, 0) => n.wrapping_add(1).into(),
            (Some(n), _, 1) => n.saturating_sub(1).into(),
            (Some(n), _, 2) => (n ^ 0xff).into(),
            (Some(_), _, 3) => 0.into(),
            (Some(_), _, 4) => u64::from(u32::MAX).into(),
            (Some(n), _, 5) => n.wrapping_mul(1 << 20).into(),
            (Some(_), _, 6) => u64::from(u16::MAX).into(),
            (Some(_), _, _) => (i64::MAX as u64).into(),
            (None, Some(n), _) => n.wrapping_neg().into(),
            _ => (number.as_f64().unwrap_or(0.0) * 1.0e9 + 1.0).into(),
        },
        other => other.clone(),
    }
}

/// The document of a saved state with one number changed, for each pick that changes anything; and the way to that number.
fn damaged(saved: &Saved, picks: &[(usize, u8)]) -> Vec<(String, Value)> {
    let whole = json::save_value(saved);
    let mut ways = Vec::new();
    numbers(&whole, String::new(), &mut ways);
    let damage = |&(pick, how): &(usize, u8)| {
        let way = ways[pick % ways.len()].clone();
        let mut other = whole.clone();
        let place = other.pointer_mut(&way).unwrap();
        *place = changed(place, how);
        (other != whole).then_some((way, other))
    };
    picks.iter().filter_map(damage).collect()
}

/// The states of a fight after some of its ticks, each with its ruleset.
fn states(fight: &testkit::Fight, every: usize) -> Vec<(Ruleset, Saved)> {
    let mut states = Vec::new();
    let mut tick = 0;
    play(fight, false, |encounter| {
        tick += 1;
        if tick % every == 0 {
            states.push((encounter.rules().clone(), encounter.save().unwrap()));
        }
    });
    states
}

/// Goes on with a state that was let in, with orders to everyone.
fn go_on(rules: &Ruleset, saved: &Saved) -> Result<(), RestoreError> {
    let mut encounter = Encounter::new(rules, 1);
    encounter.restore(saved)?;
    let all: Vec<CombatantId> = encounter.view().combatants().collect();
    for tick in 0..12 {
        for (i, &who) in all.iter().enumerate() {
            let mut orders = encounter.orders();
            match (tick + i) % 6 {
                0 => drop(orders.move_to(who, Pose::at([i as f32, 0.0, tick as f32]))),
                1 => drop(orders.start(
                    who,
                    rules.attacks().len().checked_sub(1).map_or_else(
                        || unreachable!(),
                        |_| rules.find_attack(rules.attacks()[tick % rules.attacks().len()].name()).unwrap(),
                    ),
                )),
                2 => drop(orders.bring_back(who, Pose::IDENTITY)),
                3 => drop(orders.follow(who, Some(all[(i + 1) % all.len()]))),
                4 if tick == 7 => drop(orders.remove(who)),
                _ => {}
            }
        }
        if tick == 9 {
            encounter.orders().reset();
        }
        // A hook of another run may be subscribed; then no tick runs.
        if encounter.tick().is_err() {
            let hooks: Vec<HookId> = encounter.view().subscriptions().map(|(_, hook, _)| hook).collect();
            for hook in hooks {
                encounter.orders().unsubscribe(Unsubscribe::Hook(hook));
            }
            if encounter.tick().is_err() {
                encounter.drop_orders();
            }
        }
        encounter.view().combatants().for_each(|who| {
            let _ = (encounter.view().statuses_of(who).count(), encounter.view().shields(who));
        });
    }
    Ok(())
}

proptest! {
    #![proptest_config(testkit::cases(60))]

    #[test]
    fn what_an_encounter_wrote_is_sound(fight in fights()) {
        for (rules, saved) in states(&fight, 3) {
            let text = json::save_text(&saved);
            let read = json::read_save_text(&text).unwrap();
            let (mut one, mut other) = (Encounter::new(&rules, 1), Encounter::new(&rules, 2));
            one.restore(&saved).unwrap();
            prop_assert_eq!(other.restore(&read), Ok(()), "{}", text);
            prop_assert!(one.same_state(&other));
            prop_assert_eq!(one.epoch(), other.epoch());
        }
    }

    #[test]
    fn no_number_can_be_changed_unnoticed(fight in fights(), picks in prop::collection::vec((any::<usize>(), any::<u8>()), 40)) {
        let Some((_, saved)) = states(&fight, 7).pop() else { return Ok(()) };
        for (way, other) in damaged(&saved, &picks) {
            prop_assert!(json::read_save(other).is_err(), "{} was changed", way);
        }
    }

    #[test]
    fn what_is_changed_and_sealed_again_is_refused_or_harmless(
        fight in fights(),
        picks in prop::collection::vec((any::<usize>(), any::<u8>()), 40),
    ) {
        let Some((rules, saved)) = states(&fight, 5).pop() else { return Ok(()) };
        for (way, other) in damaged(&saved, &picks) {
            let Ok(read) = json::read_unsealed(other) else { continue };
            let went = std::panic::catch_unwind(|| go_on(&rules, &read).is_ok());
            prop_assert!(went.is_ok(), "{} was changed", way);
        }
    }
}

/// Bytes with some changed: turned over, cut, or with a stretch of them elsewhere.
fn damaged_bytes(bytes: &[u8], (pick, how): (usize, u8)) -> Vec<u8> {
    let (mut other, place) = (bytes.to_vec(), pick % bytes.len());
    match how % 5 {
        0 => other[place] ^= 1 << (how / 5 % 8),
        1 => other[place] = other[place].wrapping_add(1),
        2 => other.truncate(place),
        3 => other[place..].rotate_left(usize::from(how) % (bytes.len() - place)),
        _ => {
            // A number of four bytes is a large one.
            let end = (place + 4).min(other.len());
            other[place..end].fill(how);
        }
    }
    other
}

proptest! {
    #![proptest_config(testkit::cases(60))]

    /// Bytes lead to the same state, and to the same bytes again.
    #[test]
    fn a_save_goes_through_bytes_whole(fight in fights()) {
        let mut before = Vec::new();
        for (rules, saved) in states(&fight, 3) {
            let bytes = saved.to_bytes();
            saved.write_into(&mut before);
            prop_assert_eq!(&bytes, &before, "into memory that was used before");
            let read = Saved::from_bytes(&bytes).unwrap();
            prop_assert_eq!(&read.to_bytes(), &bytes, "what was read is written alike");
            let (mut one, mut other) = (Encounter::new(&rules, 1), Encounter::new(&rules, 2));
            one.restore(&saved).unwrap();
            prop_assert_eq!(other.restore(&read), Ok(()));
            prop_assert!(one.same_state(&other));
            prop_assert_eq!(one.epoch(), other.epoch());
            prop_assert_eq!(other.save().unwrap().to_bytes(), bytes);
        }
    }

    #[test]
    fn no_byte_can_be_changed_unnoticed(fight in fights(), picks in prop::collection::vec((any::<usize>(), any::<u8>()), 60)) {
        let Some((_, saved)) = states(&fight, 7).pop() else { return Ok(()) };
        let bytes = saved.to_bytes();
        for pick in picks {
            let other = damaged_bytes(&bytes, pick);
            prop_assert!(other == bytes || Saved::from_bytes(&other).is_err(), "{:?}", pick);
        }
    }

    /// A stranger can seal anything: it is refused, or the fight goes on.
    #[test]
    fn bytes_that_are_changed_and_sealed_again_are_refused_or_harmless(
        fight in fights(),
        picks in prop::collection::vec((any::<usize>(), any::<u8>()), 60),
    ) {
        let Some((rules, saved)) = states(&fight, 5).pop() else { return Ok(()) };
        let bytes = saved.to_bytes();
        let mut let_in = 0;
        for pick in picks {
            let mut other = damaged_bytes(&bytes, pick);
            seal_again(&mut other);
            let Ok(read) = Saved::from_bytes(&other) else { continue };
            let went = std::panic::catch_unwind(|| go_on(&rules, &read).is_ok());
            prop_assert!(went.is_ok(), "{:?}", pick);
            let_in += 1;
        }
        // Most of what a save holds is numbers of which others would do as well.
        prop_assert!(let_in > 0);
    }
}

/// A save of each version of the layout is kept, and stays readable: by name where the ruleset is laid out otherwise by now.
/// `HAMMERSTONE_WRITE=1` writes that of the present version, if it is not there yet.
#[test]
fn saves_of_every_version_are_read() {
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/saves");
    let (rules, hooks, mut fight) = busy();
    let (maul, burn) = (rules.find_attack("maul").unwrap(), rules.find_status("burn").unwrap());
    let mut calls = 0;
    // So that swings, statuses, waves, delayed reactions, a wall and orders that wait are in it.
    fight.orders().add_obstacle(Obstacle::Sphere { at: [3.0, 0.0, 0.0], radius: 1.0 });
    for tick in 0..60 {
        fight.tick_with(&hooks, &mut calls).unwrap();
        let mason = fight.view().combatants().next().unwrap();
        if tick % 29 == 28 {
            fight.orders().start(mason, maul);
        }
        fight.orders().move_over(mason, Pose::at([0.1 * (tick % 3) as f32, 0.0, 0.0]), 2);
        if tick % 17 == 4 {
            fight.orders().apply(mason, burn, None);
        }
    }
    let now = fight.save().unwrap().to_bytes();
    let version = u16::from_le_bytes([now[6], now[7]]);
    let path = |version: u16| folder.join(format!("version-{version}.save"));
    if std::env::var_os("HAMMERSTONE_WRITE").is_some() && !path(version).exists() {
        std::fs::create_dir_all(&folder).unwrap();
        std::fs::write(path(version), &now).unwrap();
    }
    for version in 1..=version {
        let bytes = std::fs::read(path(version)).unwrap_or_else(|_| panic!("no save of version {version}"));
        let saved = Saved::from_bytes(&bytes).unwrap_or_else(|error| panic!("version {version}: {error}"));
        let mut fight = Encounter::new(&rules, 1);
        fight
            .restore_adopting(&saved, Keep::Share)
            .unwrap_or_else(|error| panic!("version {version}: {error}"));
        let view = fight.view();
        let mason = view.combatants().next().unwrap();
        let health = |who| view.health(who).unwrap();
        let of = (view.combatants().count(), view.swings().count(), view.statuses_of(mason).count());
        assert_eq!((view.tick(), of, health(mason)), (60, (3, 1, 1), (29, 40)), "version {version}");
        assert_eq!((fight.counts().hits, fight.pending_orders().count()), (4, 1), "version {version}");
        for _ in 0..300 {
            fight.tick_with(&hooks, &mut calls).unwrap();
        }
    }
}

/// Where two states differ is told by the name of the part, the combatant and the bytes.
#[test]
fn a_difference_is_found_by_name() {
    let (_, hooks, mut fight) = busy();
    (0..30).for_each(|_| _ = fight.tick_with(&hooks, &mut 0).unwrap());
    let saved = fight.save().unwrap();
    assert_eq!(saved.differences(&saved.clone()), []);
    let all: Vec<CombatantId> = fight.view().combatants().collect();
    let label = |labels: [u64; 2]| {
        let mut other = fight.clone();
        all.iter().zip(labels).for_each(|(who, label)| _ = other.orders().label(*who, label));
        other.tick_with(&hooks, &mut 0).unwrap();
        other.save().unwrap()
    };
    let found = label([7, 9]).differences(&label([7, 0x102]));
    assert_eq!(found.len(), 1);
    assert_eq!((found[0].field.as_str(), found[0].combatant), ("combatants.label", Some(all[1])));
    assert_eq!(found[0].to_string(), "`combatants.label`, row 1: 9 in the first, 258 in the second");
    fight.orders().next_round();
    let waiting = fight.save().unwrap().differences(&saved);
    let fields: Vec<&str> = waiting.iter().map(|one| one.field.as_str()).collect();
    assert_eq!(fields, ["registrar.orders", "pending"]);
    assert!(waiting.iter().all(|one| one.combatant.is_none()));
}

/// What bytes of a save are told to be.
#[test]
fn bytes_that_are_no_save_are_told_so() {
    let (_, hooks, mut fight) = busy();
    fight.tick_with(&hooks, &mut 0).unwrap();
    let bytes = fight.save().unwrap().to_bytes();
    assert_eq!(Saved::from_bytes(b"").err(), Some(SavedBytesError::OtherSort));
    assert_eq!(Saved::from_bytes(b"HMRULES7").err(), Some(SavedBytesError::OtherSort));
    for end in 6..bytes.len() {
        assert_eq!(Saved::from_bytes(&bytes[..end]).err(), Some(SavedBytesError::Damaged), "cut at {end}");
    }
    let newer = [&bytes[..6], &9u16.to_le_bytes(), &bytes[8..]].concat();
    assert_eq!(Saved::from_bytes(&newer).err(), Some(SavedBytesError::Newer { found: 9, known: 1 }));
    let older = [&bytes[..6], &0u16.to_le_bytes(), &bytes[8..]].concat();
    assert_eq!(Saved::from_bytes(&older).err(), Some(SavedBytesError::Damaged));
    // Names are there, and sections are called what they hold.
    let has = |name: &str| bytes.windows(name.len()).any(|window| window == name.as_bytes());
    for name in ["names", "maul", "hound", "state.tick", "state.combatants.health", "first.pending"] {
        assert!(has(name), "{name}");
    }
    // A section that is missing, or is there twice, is no state.
    let place = bytes.windows(10).position(|window| window == b"state.seed").unwrap() - 1;
    let section = place..place + 1 + 10 + 4 + 8;
    let mut without = bytes.clone();
    without.drain(section.clone());
    let mut twice = bytes.clone();
    twice.splice(place..place, bytes[section].iter().copied());
    for mut other in [without, twice] {
        seal_again(&mut other);
        assert_eq!(Saved::from_bytes(&other).err(), Some(SavedBytesError::Damaged));
    }
}

#[test]
fn a_save_of_another_ruleset_is_refused_also_with_a_forged_print() {
    let build = |tags: usize| {
        let mut b = Ruleset::builder(60);
        let team = b.team("masons");
        for i in 0..tags {
            b.status(Status::new(&format!("status-{i}")));
        }
        b.template(Template::new("mason", team, 40));
        b.build().unwrap()
    };
    let (rules, other) = (build(9), build(1));
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(rules.find_template("mason").unwrap(), Pose::IDENTITY);
    fight.orders().apply(odo, rules.find_status("status-8").unwrap(), None);
    fight.tick().unwrap();
    let mut value = json::save_value(&fight.save().unwrap());
    let mut elsewhere = Encounter::new(&other, 1);
    let read = json::read_save(value.clone()).unwrap();
    assert!(matches!(elsewhere.restore(&read), Err(RestoreError::OtherRuleset { .. })));
    value["ruleset"] = other.fingerprint().into();
    assert!(json::read_save(value.clone()).is_err(), "the seal covers the print");
    let read = json::read_unsealed(value).unwrap();
    assert!(matches!(elsewhere.restore(&read), Err(RestoreError::Unsound { .. })));
    assert_eq!(elsewhere.tick().unwrap().tick, 1, "the encounter is as it was");
}

/// Obstacles that are open are looked through as all others: whatever number of one is changed, it is refused or harmless, and what no
/// obstacle can have is refused.
#[test]
fn open_obstacles_that_are_changed_are_refused_or_harmless() {
    let mut b = Ruleset::builder(60);
    let team = b.team("masons");
    let mason = b.template(Template::new("mason", team, 40));
    b.attack(Attack::touch("shove").timeline(0, 2, 0));
    let gate = b.obstacle_name("gate");
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    fight.orders().spawn(mason, Pose::IDENTITY);
    for z in [3.0, 6.0] {
        let id = fight.orders().add_obstacle(Obstacle::Sphere { at: [0.0, 0.0, z], radius: 1.0 });
        fight.orders().name_obstacle(id, gate);
        fight.orders().move_obstacle_over(id, Pose::at([0.0, 2.0, z]), 9);
        fight.orders().open_obstacle(id);
    }
    fight.tick().unwrap();
    let whole = json::save_value(&fight.save().unwrap());
    let mut ways = Vec::new();
    numbers(&whole["state"]["opened"], "/state/opened".to_owned(), &mut ways);
    assert!(ways.len() > 40, "{ways:?}");
    let goes_on = |other: &Value| {
        let read = json::read_unsealed(other.clone()).ok()?;
        let mut again = Encounter::new(&rules, 1);
        again.restore(&read).ok()?;
        let ids: Vec<_> = again.scene().open_obstacles().map(|(id, _)| id).collect();
        ids.into_iter().for_each(|id| _ = again.orders().close_obstacle(id));
        again.tick().unwrap();
        go_on(&rules, &read).ok()
    };
    assert_eq!(goes_on(&whole), Some(()));
    let refused = |way: &str, how: u8| {
        let mut other = whole.clone();
        let place = other.pointer_mut(way).unwrap();
        *place = changed(place, how);
        goes_on(&other).is_none()
    };
    let mut told: Vec<&str> = Vec::new();
    for way in &ways {
        for how in 0..8 {
            if refused(way, how) {
                told.push(way);
            }
        }
    }
    for field in ["name", "pose/at/1", "goal/at/2", "Sphere/radius", "id"] {
        let found = told.iter().any(|way| way.contains(field));
        assert!(found, "no change of `{field}` was refused: {told:?}");
    }
}

/// What the set-up was refused for does not stay in what is written.
#[test]
fn an_order_that_is_not_finite_leaves_every_save_readable() {
    let mut b = Ruleset::builder(60);
    let team = b.team("masons");
    let mason = b.template(Template::new("mason", team, 40));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    fight.orders().spawn(mason, Pose::at([f32::NAN, f32::INFINITY, 0.0]));
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    for _ in 0..3 {
        fight.orders().move_to(odo, Pose { at: [0.0; 3], turn: [f32::NAN; 4] });
        let text = json::save_text(&fight.save().unwrap());
        let read = json::read_save_text(&text).unwrap();
        let mut other = Encounter::new(&rules, 9);
        other.restore(&read).unwrap();
        assert!(other.same_state(&fight));
        fight.tick().unwrap();
        other.tick().unwrap();
        assert!(other.same_state(&fight));
    }
}
