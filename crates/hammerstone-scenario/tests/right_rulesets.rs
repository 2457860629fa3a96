//! Rulesets in which everything is meant: a check finds nothing in any of them, and finds what is taken out of them.

use hammerstone_scenario::{Doubt, Pool, RulesFile, Scenario};
use proptest::prelude::*;

/// One attack of a ruleset that is right.
#[derive(Clone, Copy, Debug)]
enum Sort {
    Melee,
    Path,
    Touch,
    Projectile,
    Area,
    Stance,
    Chain,
}

#[derive(Clone, Debug)]
struct Sheet {
    attacks: Vec<(Sort, u32, bool)>,
    lives: Option<u32>,
    flags: usize,
    counters: usize,
    thresholds: bool,
    waves: bool,
    other_team: bool,
    once: bool,
    host_topic: bool,
}

fn sheets() -> impl Strategy<Value = Sheet> {
    let sort = prop_oneof![
        Just(Sort::Melee),
        Just(Sort::Path),
        Just(Sort::Touch),
        Just(Sort::Projectile),
        Just(Sort::Area),
        Just(Sort::Stance),
        Just(Sort::Chain),
    ];
    let attacks = proptest::collection::vec((sort, 1..30u32, any::<bool>()), 1..7);
    let flow = (0..3usize, 0..3usize, any::<bool>(), any::<bool>());
    (attacks, proptest::option::of(2..5u32), flow, any::<(bool, bool, bool)>()).prop_map(
        |(attacks, lives, (flags, counters, thresholds, waves), (other_team, once, host_topic))| Sheet {
            attacks,
            lives,
            flags,
            counters,
            thresholds,
            waves,
            other_team,
            once,
            host_topic,
        },
    )
}

/// The ruleset, and its fights: what one leaves alone the other uses.
fn written(sheet: &Sheet) -> (String, [String; 2]) {
    let mut rules = String::from(
        "[rules]\nrate = 60\ndamage-types = [\"crush\"]\nreasons = [\"drill\"]\noutcomes = [\"over\"]\n",
    );
    let names = |sort: &str, count: usize| {
        (0..count).map(|n| format!("\"{sort}-{n}\"")).collect::<Vec<_>>().join(", ")
    };
    rules += &format!(
        "flags = [{}]\ncounters = [{}]\n",
        names("flag", sheet.flags),
        names("counter", sheet.counters)
    );
    rules += "[team.masons]\n[team.beasts]\n";
    let mut fights = [String::new(), String::new()];
    for fight in &mut fights {
        *fight += "[scenario]\ntitle = \"Right\"\nrules = \"right.rules.toml\"\nlasts = \"9s\"\noutcome = \"over\"\n";
        let team = if sheet.other_team { "team = \"beasts\"\n" } else { "" };
        *fight += &format!("[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n{team}");
        *fight += "[combatant.hound]\ntemplate = \"hound\"\nat = [0, 0, 2]\n[combatant.bram]\ntemplate = \"mason\"\nat = [3, 0, 0]\n";
    }
    let mut uses = Vec::new();
    for (n, (sort, ticks, in_first)) in sheet.attacks.iter().enumerate() {
        let name = format!("attack-{n}");
        let startup =
            format!("startup = \"{ticks} ticks\"\nactive = \"12 ticks\"\nrecovery = \"30 ticks\"\n");
        let hitbox = "hitboxes = [{ sphere = { at = [0, 1, 1.5], radius = 0.5 } }]\n";
        let hurts = format!("damage = {{ crush = 3 }}\ninflicts = [\"winded-{n}\"]\n");
        rules += &format!("[attack.{name}]\n");
        rules += &match sort {
            Sort::Melee => format!("form = \"melee\"\n{startup}{hitbox}{hurts}"),
            Sort::Path => {
                let turn = "turn = { about = [0, 1, 0], degrees =";
                let (opens, shuts) = (ticks, ticks + 12);
                format!(
                    "form = \"melee\"\n{startup}{hitbox}{hurts}path = [{{ at = \"{opens} ticks\", {turn} 40 }} }}, {{ at = \"{shuts} ticks\", {turn} -40 }} }}]\n"
                )
            }
            Sort::Touch => format!("form = \"touch\"\n{startup}{hurts}"),
            Sort::Projectile => format!(
                "form = \"projectile\"\nstartup = \"{ticks} ticks\"\nprojectile = {{ from = [0, 1, 0.3], speed = 9, lifetime = \"2s\" }}\nhitboxes = [{{ sphere = {{ at = [0, 0, 0], radius = 0.1 }} }}]\n{hurts}"
            ),
            Sort::Area => format!("form = \"area\"\n{startup}{hitbox}{hurts}"),
            Sort::Stance => format!(
                "form = \"melee\"\nstrikes = []\n{startup}hitboxes = [{{ sphere = {{ at = [0, 0, 0], radius = 0.1 }} }}]\nself-status = [{{ from = \"0s\", to = \"4 ticks\", status = \"winded-{n}\" }}]\n"
            ),
            Sort::Chain => {
                let opens = ticks + 12;
                format!(
                    "form = \"touch\"\n{startup}{hurts}chain = {{ next = \"{name}-next\", opens = \"{opens} ticks\", lapses = \"{} ticks\" }}\n",
                    opens + 10
                )
            }
        };
        uses.push(format!("\"{name}\""));
        if let Sort::Chain = sort {
            rules += &format!("[attack.{name}-next]\nform = \"touch\"\n{startup}damage = {{ crush = 1 }}\n");
            uses.push(format!("\"{name}-next\""));
        }
        rules += &format!("[status.winded-{n}]\nlasts = \"{ticks} ticks\"\nstuns = true\n");
        let fight = &mut fights[usize::from(!in_first)];
        *fight += &format!("[[script]]\nat = \"{}s\"\nwho = \"odo\"\nstart = \"{name}\"\n", n + 1);
    }
    rules += &format!("[template.mason]\nteam = \"masons\"\nhealth = 30\nattacks = [{}]\n", uses.join(", "));
    if let Some(count) = sheet.lives {
        rules += &format!(
            "lives = {{ count = {count}, delay = \"1s\" }}\ngrants = [{{ on = \"returns\", status = \"grace\" }}]\n"
        );
    }
    rules += "[template.mason.part.trunk]\nsphere = { at = [0, 1, 0], radius = 0.4 }\n";
    rules += "[template.hound]\nteam = \"beasts\"\nhealth = 20\n";
    if sheet.thresholds {
        rules += "thresholds = { half = 0.5 }\n";
    }
    rules += "[template.hound.part.trunk]\nsphere = { at = [0, 1, 0], radius = 0.4 }\n";
    if sheet.thresholds {
        rules += "[rule.flees]\non = \"health.crossed\"\nwhen = { threshold = \"half\" }\ndo = [{ send-away = true }]\n";
    }
    if sheet.lives.is_some() {
        rules += "[status.grace]\nlasts = \"1s\"\ninvulnerable = true\n";
    }
    for n in 0..sheet.flags {
        rules += &format!(
            "[rule.asks-{n}]\non = \"combatant.died\"\nwhen = {{ flags-up = [\"flag-{n}\"] }}\ndo = [{{ send-away = true }}]\n"
        );
        fights[n % 2] += &format!("[[script]]\nat = \"2s\"\nraise-flag = \"flag-{n}\"\n");
    }
    for n in 0..sheet.counters {
        rules += &format!(
            "[rule.counts-{n}]\non = \"combatant.died\"\nwhen = {{ counters = {{ counter-{n} = {{ at-least = 1 }} }} }}\ndo = [{{ send-away = true }}]\n"
        );
        fights[n % 2] += &format!("[[script]]\nat = \"2s\"\ncount = {{ of = \"counter-{n}\", add = 1 }}\n");
    }
    if sheet.once {
        rules += "[rule.echo]\non = \"health.changed\"\nlimit = \"once\"\ndo = [{ damage = { crush = 1 }, by = \"nobody\" }]\n";
    }
    if sheet.host_topic {
        rules += "[topic.\"host.bell\"]\n[rule.rings]\non = \"host.bell\"\ndo = [{ end = \"over\" }]\n";
        fights[1] += "[[script]]\nat = \"3s\"\npublish = \"host.bell\"\n";
    }
    if sheet.waves {
        rules += "[spot.ramp]\nat = [0, 0, 20]\n[waves.tide]\ntemplate = \"hound\"\nat = [\"ramp\"]\nsize = 1\ntimes = 2\n";
        rules += "[rule.held]\non = \"combatant.died\"\nwhen = { waves-over = [\"tide\"] }\ndo = [{ end = \"over\" }]\n";
        fights[0] += "[[script]]\nat = \"1s\"\nstart-waves = \"tide\"\n";
    }
    (rules, fights)
}

/// What is found in a ruleset and its fights; `Err` for what cannot be read.
fn found(rules: &str, fights: &[String]) -> Result<Vec<Doubt>, String> {
    let file = RulesFile::read("right.rules.toml", rules).map_err(|error| format!("{error:?}\n{rules}"))?;
    let open =
        |_: hammerstone_scenario::Wanted<'_>| Ok(("right.rules.toml".to_owned(), rules.as_bytes().to_vec()));
    let read = |text: &String| {
        Scenario::read("right.toml", text, &open).map_err(|error| format!("{error:?}\n{text}"))
    };
    let scenarios: Vec<Scenario> = fights.iter().map(read).collect::<Result<_, _>>()?;
    Ok(Pool::of(&file, &scenarios).check().found)
}

/// The fight without the lines of its script that say `what`.
fn without(fight: &str, what: &str) -> String {
    let (head, script) = fight.split_at(fight.find("[[script]]").unwrap_or(fight.len()));
    let lines = script.split_inclusive("[[script]]").collect::<Vec<_>>().concat();
    let kept = lines.split("[[script]]").filter(|line| !line.trim().is_empty() && !line.contains(what));
    kept.fold(head.to_owned(), |all, line| all + "[[script]]" + line)
}

proptest! {
    #![proptest_config(testkit::cases(100))]

    #[test]
    fn nothing_is_found_where_everything_is_meant(sheet in sheets()) {
        let (rules, fights) = written(&sheet);
        let found_all = found(&rules, &fights).map_err(TestCaseError::fail)?;
        let said: Vec<String> = found_all.iter().map(ToString::to_string).collect();
        prop_assert!(said.is_empty(), "{said:?}\n{rules}\n{}", fights[0]);
        // A control: what no fight starts any more is found.
        let name = "attack-0\"";
        let fewer = [without(&fights[0], name), without(&fights[1], name)];
        let numbers: Vec<u16> = found(&rules, &fewer).map_err(TestCaseError::fail)?.iter().map(|doubt| doubt.finding.number).collect();
        prop_assert!(numbers.contains(&5), "{numbers:?}");
        // And so is a status that is given no longer, and what no fight gives, raises or publishes.
        let ungiven = rules.replace("inflicts = [\"winded-0\"]\n", "").replace("status = \"winded-0\"", "status = \"winded-1\"");
        if ungiven != rules && sheet.attacks.len() > 1 {
            let numbers: Vec<u16> = found(&ungiven, &fights).map_err(TestCaseError::fail)?.iter().map(|doubt| doubt.finding.number).collect();
            prop_assert!(numbers.contains(&11), "{numbers:?}");
        }
        for (is, what, number) in [(sheet.flags > 0, "flag-0", 6), (sheet.waves, "start-waves", 7), (sheet.host_topic, "publish", 8)] {
            if is {
                let fewer = [without(&fights[0], what), without(&fights[1], what)];
                let numbers: Vec<u16> = found(&rules, &fewer).map_err(TestCaseError::fail)?.iter().map(|doubt| doubt.finding.number).collect();
                prop_assert!(numbers.contains(&number), "{what}: {numbers:?}");
            }
        }
    }
}
