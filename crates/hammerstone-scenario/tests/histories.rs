//! How everything stood over a run: the history of a page tells at each tick what the table of that tick tells, in every shipped fight of
//! the craft.

use hammerstone_record::{GaugeLine, Lanes, Names, Record, StateHistory, StateLine, StateTable, Tick};
use hammerstone_scenario::{Options, Play, Scenario, Wanted};
use testkit::forms::shipped;

fn scenario(name: &str) -> Scenario {
    let (path, text) =
        shipped(".toml").into_iter().find(|(path, _)| path.ends_with(name)).expect("it is shipped");
    let open = |wanted: Wanted<'_>| {
        let found = wanted.path(&path);
        let bytes = std::fs::read(&found).map_err(|error| error.to_string())?;
        Ok((found.display().to_string(), bytes))
    };
    Scenario::read(&path.display().to_string(), &text, &open)
        .unwrap_or_else(|error| panic!("{}", error.text()))
}

/// What stays until something happens, so that both tell it alike.
fn lasts(what: &str) -> bool {
    !what.starts_with("status ") && what != "life"
}

#[test]
fn the_history_is_the_table_of_each_tick() {
    let (mut told, mut statuses, mut gone) = (0, 0, 0);
    let all = shipped(".toml").into_iter().map(|(path, _)| path);
    let fights = all.filter(|path| {
        path.components().any(|folder| ["craft", "flow"].map(Some).contains(&folder.as_os_str().to_str()))
    });
    for path in fights.filter(|path| !path.to_string_lossy().ends_with(".rules.toml")) {
        let name = &path.to_string_lossy()[..];
        let scenario = scenario(name);
        let mut play = Play::new(&scenario, Options::default());
        let (mut history, mut tables) = (StateHistory::new(), Vec::new());
        while play.tick().expect("it ticks") {
            let seen = play.seen();
            history.observe(&seen);
            tables.push((seen.clock, StateTable::of(&seen)));
        }
        for (tick, table) in &tables {
            for line in &table.lines {
                let then = history.at(line.of.as_deref(), &line.what, *tick);
                if !lasts(&line.what) {
                    // Told without what counts down.
                    assert!(
                        then.is_some_and(|then| line.what != "life" || line.value.starts_with(then)),
                        "{name}, tick {tick}: {line:?}"
                    );
                    statuses += 1;
                    continue;
                }
                assert_eq!(
                    then,
                    Some(line.value.as_str()),
                    "{name}, tick {tick}: {:?} {}",
                    line.of,
                    line.what
                );
                told += 1;
            }
        }
        // What is there no longer is told no longer.
        for ((_, before), (tick, after)) in tables.iter().zip(&tables[1..]) {
            let is_there = |line: &StateLine| {
                after.lines.iter().any(|now| (&now.of, &now.what) == (&line.of, &line.what))
            };
            for line in before.lines.iter().filter(|line| !is_there(line)) {
                assert_eq!(
                    history.at(line.of.as_deref(), &line.what, *tick),
                    None,
                    "{name}, tick {tick}: {line:?}"
                );
                gone += 1;
            }
        }
        // What is not there is not told.
        let (first, _) = tables[0];
        assert_eq!(history.at(Some("nobody"), "health", first), None);
    }
    assert!(told > 10_000 && statuses > 10_000 && gone > 50, "{told}, {statuses}, {gone}");
    let scenario = scenario("craft/grab.toml");
    let mut play = Play::new(&scenario, Options::default());
    let mut history = StateHistory::new();
    play.through(&mut [&mut history]).expect("it ticks");
    let held = |tick| history.at(Some("hound"), "held by", tick);
    assert_eq!([held(30), held(60), held(130)], [None, Some("odo"), None]);
}

/// With room for few changes none is lost but in time: each value stood so at most a step of time ago, and the end is as it is.
#[test]
fn a_history_with_little_room_tells_the_whole_fight_in_coarser_steps() {
    let scenario = scenario("scenarios/skirmish.toml");
    let mut play = Play::new(&scenario, Options::default());
    let (mut whole, mut coarse) = (StateHistory::new(), StateHistory::keeping(150));
    let mut tables = Vec::new();
    while play.tick().expect("it ticks") {
        let seen = play.seen();
        whole.observe(&seen);
        coarse.observe(&seen);
        tables.push((seen.clock, StateTable::of(&seen)));
    }
    assert_eq!(whole.grain(), 1);
    let grain = coarse.grain();
    assert!((4..=256).contains(&grain), "{grain}");
    let mut late = 0;
    for (tick, table) in &tables {
        for line in table.lines.iter().filter(|line| lasts(&line.what)) {
            let at = |history: &StateHistory, tick: u32| -> Option<String> {
                history.at(line.of.as_deref(), &line.what, tick).map(str::to_owned)
            };
            let told = at(&coarse, *tick);
            let since = tick.saturating_sub(grain - 1)..=*tick;
            assert!(since.clone().any(|then| at(&whole, then) == told), "tick {tick}: {told:?} of {line:?}");
            late += usize::from(told.as_deref() != Some(&line.value));
        }
    }
    assert!(late > 0, "something is told late");
    let (last, table) = tables.last().expect("ticks ran");
    for line in table.lines.iter().filter(|line| lasts(&line.what)) {
        assert_eq!(coarse.at(line.of.as_deref(), &line.what, *last), Some(&line.value[..]));
    }
}

/// A host may call combatants otherwise at any time, swap their names, and call two alike.
#[test]
fn the_history_follows_names() {
    let scenario = scenario("craft/grab.toml");
    let mut play = Play::new(&scenario, Options::default());
    let mut history = StateHistory::new();
    let mut names = Names::new();
    for tick in 1..=4 {
        assert!(play.tick().expect("it ticks"));
        let seen = play.seen();
        let [one, other] = seen.view().combatants().collect::<Vec<_>>()[..2] else { panic!("two") };
        let called = [["odo", "hound"], ["hound", "odo"], ["pair", "pair"], ["bram", "hound"]][tick - 1];
        names.call(one, called[0]);
        names.call(other, called[1]);
        history.observe(&Tick { names: &names, ..seen });
    }
    let play = play.seen();
    let [one, other] = play.view().combatants().collect::<Vec<_>>()[..2] else { panic!("two") };
    let [one, other] = [one, other].map(|who| {
        let (health, max) = play.view().health(who).expect("they are there");
        format!("{health} of {max}")
    });
    assert_ne!(one, other);
    let health = |of: &str| -> Vec<Option<&str>> {
        (1..=4).map(|tick| history.at(Some(of), "health", tick)).collect()
    };
    let both = format!("{one}; {other}");
    assert_eq!(health("odo"), [Some(&one[..]), Some(&other), None, None]);
    assert_eq!(health("hound"), [Some(&other[..]), Some(&one), None, Some(&other)]);
    assert_eq!(health("pair"), [None, None, Some(&both[..]), None]);
    assert_eq!(health("bram"), [None, None, None, Some(&one[..])]);
}

#[test]
fn lanes_have_gauges_holds_and_time_scales() {
    let lanes = |name: &str| {
        let scenario = scenario(name);
        let mut lanes = Lanes::new();
        Play::new(&scenario, Options::default()).through(&mut [&mut lanes]).expect("it ticks");
        lanes
    };
    let wind = lanes("craft/wind.toml");
    let odo = wind.all().iter().find(|lane| lane.name == "odo").expect("he is there");
    let GaugeLine { name, held } = &odo.gauges[0];
    assert_eq!(name, "wind");
    assert!(held.len() > 10 && held.is_sorted_by_key(|(tick, ..)| *tick));
    assert!(held.iter().all(|&(_, points, max)| (0..=max).contains(&points)));
    let bars = |lanes: &Lanes, of: &str| -> Vec<(String, u32, Option<u32>)> {
        let lane = lanes.all().iter().find(|lane| lane.name == of).expect("it is there");
        lane.statuses.iter().map(|bar| (bar.status.clone(), bar.from, bar.to)).collect()
    };
    let grab = lanes("craft/grab.toml");
    let hound = bars(&grab, "hound");
    assert!(hound.iter().any(|(name, from, to)| name == "held by odo" && Some(*from) < *to), "{hound:?}");
    assert!(bars(&grab, "odo").iter().any(|(name, ..)| name == "holds hound"));
    let slow = bars(&lanes("craft/slow-motion.toml"), "odo");
    let slow = slow.iter().find(|(name, ..)| name == "time x 0.25").expect("his time goes slower");
    assert_eq!(slow.2, Some(slow.1 + 30));
}
