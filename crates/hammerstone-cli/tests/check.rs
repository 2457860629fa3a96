//! `check`: every sort of finding is found where it is planted, and nowhere else.

mod common;

use std::fs;

use common::{FIGHT, in_folder, root, rules, run};

/// What is added to a ruleset in which nothing is hardly meant, and to its fight, so that there is one finding.
const PLANTED: [(u16, &str, &str); 32] = [
    (1, "[attack.bite]\nform = \"touch\"\nactive = \"0.1s\"\n", ""),
    (
        2,
        "[attack.maul2]\nform = \"touch\"\nactive = \"0.1s\"\nstrikes = [\"ally\"]\n\
        [template.mason2]\nteam = \"masons\"\nhealth = 9\nattacks = [\"maul2\"]\n[template.mason2.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (
        3,
        "[attack.haunt]\nform = \"touch\"\nactive = \"0.1s\"\nmeets = [\"ghost\"]\n\
        [template.mason2]\nteam = \"masons\"\nhealth = 9\nattacks = [\"haunt\"]\n[template.mason2.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (4, "[rule.echo]\non = \"health.changed\"\ndo = [{ damage = { crush = 1 } }]\n", ""),
    (
        5,
        "[attack.kick]\nform = \"touch\"\nactive = \"0.1s\"\n\
        [template.kicker]\nteam = \"masons\"\nhealth = 9\nattacks = [\"kick\"]\n[template.kicker.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "[combatant.tam]\ntemplate = \"kicker\"\nat = [9, 0, 0]\n",
    ),
    (
        6,
        "[rule.waits]\non = \"combatant.died\"\nwhen = { flags-up = [\"open\"] }\ndo = [{ send-away = true }]\n",
        "",
    ),
    (
        7,
        "[rule.waits]\non = \"combatant.died\"\nwhen = { waves-over = [\"tide\"] }\ndo = [{ send-away = true }]\n\
        [waves.tide]\ntemplate = \"mason\"\nat = [\"ramp\"]\nsize = 1\ntimes = 1\n[spot.ramp]\nat = [0, 0, 20]\n",
        "",
    ),
    (8, "[topic.\"host.bell\"]\n[rule.hears]\non = \"host.bell\"\ndo = [{ send-away = true }]\n", ""),
    (
        9,
        "[attack.hug]\nform = \"melee\"\nactive = \"0.1s\"\nhitboxes = [{ sphere = { at = [0, 0, 0], radius = 0.2 } }]\n\
        [template.hugger]\nteam = \"masons\"\nhealth = 9\nattacks = [\"hug\"]\n[template.hugger.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (10, "[template.mason.part.shade]\nlayer = \"ghost\"\nsphere = { at = [0, 1, 0], radius = 0.2 }\n", ""),
    (11, "[status.dazed]\nlasts = \"1s\"\n", ""),
    (12, "[status.cursed]\nstuns = true\n", "[[script]]\nat = \"0.1s\"\nwho = \"odo\"\napply = \"cursed\"\n"),
    (13, "[rule.hears]\non = \"shield.broken\"\ndo = [{ send-away = true }]\n", ""),
    (
        14,
        "[rule.hears]\non = \"health.crossed\"\nwhen = { threshold = \"half\" }\ndo = [{ send-away = true }]\n\
        [template.other]\nteam = \"masons\"\nhealth = 9\nthresholds = { half = 0.5 }\n[template.other.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (
        15,
        "[rule.hears]\non = \"combatant.died\"\nwhen = { subject = { template = \"keeper\" } }\ndo = [{ send-away = true }]\n\
        [template.keeper]\nteam = \"beasts\"\nhealth = 9\n[template.keeper.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (16, "[rule.opens]\non = \"combatant.died\"\ndo = [{ raise-flag = \"open\" }]\n", ""),
    (
        17,
        "[status.tide-in]\nlasts = \"1s\"\nkills-on-expiry = \"crush\"\ntags = [\"in\"]\nlifts = [\"out\"]\n\
        [status.tide-out]\nlasts = \"1s\"\nkills-on-expiry = \"crush\"\ntags = [\"out\"]\nlifts = [\"in\"]\n\
        [template.buoy]\nteam = \"masons\"\nhealth = 9\n\
        grants = [{ on = \"returns\", status = \"tide-in\" }, { on = \"returns\", status = \"tide-out\" }]\n[template.buoy.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (
        18,
        "",
        "[combatant.tam]\ntemplate = \"mason\"\nat = [9, 0, 0]\nfollows = \"tom\"\n\
        [combatant.tom]\ntemplate = \"mason\"\nat = [12, 0, 0]\nfollows = \"tam\"\n",
    ),
    (
        19,
        "[status.ember]\nlasts = \"1s\"\npulse = { every = \"0.2s\", damage = { crush = 1 } }\n\
        [rule.kindles]\non = \"hit.landed\"\ndo = [{ apply = \"ember\" }]\n",
        "",
    ),
    (
        20,
        "[attack.jab]\nform = \"touch\"\nstartup = \"0.2s\"\nactive = \"0.1s\"\nchain = { next = \"maul\", opens = \"0.1s\", lapses = \"0.3s\" }\n\
        [template.jabber]\nteam = \"masons\"\nhealth = 9\nattacks = [\"jab\"]\n[template.jabber.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (
        21,
        "[attack.fling]\nform = \"melee\"\nactive = \"0.1s\"\nhitboxes = [{ sphere = { at = [0, 0, 3], radius = 0.2 } }]\n\
        path = [{ at = \"0s\", turn = { about = [0, 1, 0], degrees = 40 } }, { at = \"0.1s\", turn = { about = [1, 0, 0], degrees = 40 } }]\n\
        [template.flinger]\nteam = \"masons\"\nhealth = 9\nattacks = [\"fling\"]\n[template.flinger.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (
        22,
        "[skeleton.lever]\nfile = \"lever.bvh\"\n\
        [attack.pull]\nform = \"melee\"\nanimation = { skeleton = \"lever\", name = \"lever\" }\nstartup = \"0.1s\"\nactive = \"1s\"\n\
        hitboxes = [{ joint = \"arm\", sphere = { at = [0, 1, 0], radius = 0.2 } }]\n\
        [template.puller]\nteam = \"masons\"\nhealth = 9\nattacks = [\"pull\"]\nskeleton = \"lever\"\n[template.puller.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (
        23,
        "[skeleton.lever]\nfile = \"lever.bvh\"\n\
        [attack.pull]\nform = \"melee\"\nanimation = { skeleton = \"lever\", name = \"lever\" }\nstartup = \"0.1s\"\nactive = \"0.1s\"\n\
        hitboxes = [{ joint = \"arm\", sphere = { at = [0, 1, 0], radius = 0.2 } }]\n\
        [template.puller]\nteam = \"masons\"\nhealth = 9\nattacks = [\"pull\"]\nskeleton = \"lever\"\n[template.puller.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n# short\n",
        "",
    ),
    (
        24,
        "[skeleton.lever]\nfile = \"lever.bvh\"\n\
        [attack.pull]\nform = \"melee\"\nanimation = { skeleton = \"lever\", name = \"lever\" }\nstartup = \"0.1s\"\nactive = \"0.1s\"\n\
        hitboxes = [{ joint = \"arm\", sphere = { at = [0, 1, 0], radius = 0.2 } }]\n\
        [template.puller]\nteam = \"masons\"\nhealth = 9\nattacks = [\"pull\"]\n[template.puller.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (
        25,
        "[skeleton.lever]\nfile = \"lever.bvh\"\n\
        [attack.pull]\nform = \"melee\"\nanimation = { skeleton = \"lever\", name = \"lever\" }\nactive = \"0.1s\"\n\
        hitboxes = [{ joint = \"arm\", sphere = { at = [0, 1, 0], radius = 0.2 } }]\n\
        [template.puller]\nteam = \"masons\"\nhealth = 9\nattacks = [\"pull\"]\nskeleton = \"lever\"\n[template.puller.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (
        26,
        "[skeleton.lever]\nfile = \"lever.bvh\"\nscale = 20\n\
        [attack.pull]\nform = \"melee\"\nanimation = { skeleton = \"lever\", name = \"lever\" }\nstartup = \"0.1s\"\nactive = \"0.1s\"\n\
        hitboxes = [{ joint = \"arm\", sphere = { at = [0, 1, 0], radius = 0.2 } }]\n\
        [template.puller]\nteam = \"masons\"\nhealth = 9\nattacks = [\"pull\"]\nskeleton = \"lever\"\n[template.puller.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (
        27,
        "[attack.brush]\nform = \"touch\"\nactive = \"0.1s\"\n[template.wisp]\nteam = \"masons\"\nhealth = 9\nattacks = [\"brush\"]\n# one of them has no part\n",
        "",
    ),
    (
        28,
        "[attack.swing]\nform = \"melee\"\nstartup = \"0.6s\"\nactive = \"0.2s\"\nhitboxes = [{ sphere = { at = [0, 1, 1], radius = 0.2 } }]\n\
        path = [{ at = \"0.2s\", turn = { about = [0, 1, 0], degrees = 40 } }, { at = \"0.4s\", turn = { about = [0, 1, 0], degrees = -40 } }]\n\
        [template.swinger]\nteam = \"masons\"\nhealth = 9\nattacks = [\"swing\"]\n[template.swinger.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (
        29,
        "[template.brave]\nteam = \"masons\"\nhealth = 9\nlives = { count = 3 }\n[template.brave.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n",
        "",
    ),
    (30, "# allow 20\n", ""),
    (31, "", "[tactics.lost]\n[[tactics.lost.choice]]\ndo = { wait = true }\n"),
    (
        32,
        "",
        "[tactics.idle]\nfor = { template = \"mason\" }\n[[tactics.idle.choice]]\ndo = { wait = true }\n\
        [[tactics.idle.choice]]\ndo = { approach = 1 }\n",
    ),
];

/// An arm that goes down within half a second.
const LEVER: &str = "HIERARCHY\nROOT base\n{\nOFFSET 0 0 0\nCHANNELS 1 Xrotation\nJOINT arm\n{\nOFFSET 0 0.6 0\nCHANNELS 1 Xrotation\n\
    End Site\n{\nOFFSET 0 1 0\n}\n}\n}\nMOTION\nFrames: 3\nFrame Time: 0.25\n0 0\n20 0\n40 0\n";

/// The ruleset with someone to strike, and so nothing that is hardly meant but what is added.
fn with_a_hound(extra: &str) -> String {
    rules(&format!(
        "\n[template.hound]\nteam = \"beasts\"\nhealth = 9\n[template.hound.part.trunk]\nsphere = {{ at = [0, 0, 0], radius = 0.4 }}\n{extra}"
    ))
}

/// The numbers that are found in a scenario, with the exit status.
fn found(extra: &str, fight: &str, more: &[&str]) -> (i32, Vec<u64>) {
    let rules = with_a_hound(extra).replace(
        "layers = [\"ghost\"]",
        "layers = [\"ghost\"]\nflags = [\"open\"]\ntags = [\"in\", \"out\"]",
    );
    let rules = if extra.contains("part.shade") {
        rules.replace("damage = {", "meets = [\"body\"]\ndamage = {")
    } else {
        rules
    };
    let rules = if extra.contains("# allow 20") {
        rules.replace("rate = 60", "rate = 60\nallow = [{ finding = 20, because = \"it was so once\" }]")
    } else {
        rules
    };
    let rules = if extra.contains("# short") {
        rules.replace("rate = 60", "rate = 60\nmove-limit = 0.5")
    } else {
        rules
    };
    let files = [("a.rules.toml", rules.as_str()), ("fight.toml", fight), ("lever.bvh", LEVER)];
    let (status, text, errors) =
        in_folder(&files, &[&["check", "fight.toml", "a.rules.toml", "--format", "json"], more].concat());
    assert_eq!(errors, "", "{extra}");
    let all: Vec<serde_json::Value> = serde_json::from_str(&text).unwrap();
    let mut numbers: Vec<u64> = all.iter().map(|one| one["finding"].as_u64().unwrap()).collect();
    // One without a part is never met, either.
    numbers.retain(|&number| number != 3 || !extra.contains("# one of them has no part"));
    numbers.dedup();
    (status, numbers)
}

#[test]
fn every_finding_is_found_where_it_is_planted_and_nowhere_else() {
    assert_eq!(found("", FIGHT, &["--deny"]), (0, vec![]), "nothing is hardly meant");
    for (number, extra, script) in PLANTED {
        let fight = format!("{FIGHT}\n{script}");
        let (status, numbers) = found(extra, &fight, &[]);
        assert_eq!((status, numbers.as_slice()), (0, &[u64::from(number)][..]), "{extra}{script}");
        assert_eq!(found(extra, &fight, &["--deny"]).0, 1, "{number}");
        assert_eq!(found(extra, &fight, &[&format!("--deny={number}")]).0, 1, "{number}");
        let other = if number == 1 { 2 } else { 1 };
        assert_eq!(found(extra, &fight, &[&format!("--deny={other}")]).0, 0, "{number}");
        assert_eq!(
            found(extra, &fight, &[&format!("--allow={number},3"), "--deny"]),
            (0, vec![]),
            "{number}"
        );
    }
}

#[test]
fn what_is_outside_is_not_asked_about() {
    for (number, extra, name) in
        [(8, PLANTED[7].1, "host.bell"), (11, PLANTED[10].1, "dazed"), (16, PLANTED[15].1, "open")]
    {
        assert_eq!(found(extra, FIGHT, &[]).1, [number]);
        let rules = with_a_hound(extra)
            .replace("layers = ", &format!("outside = [\"{name}\"]\nflags = [\"open\"]\nlayers = "));
        let files = [("a.rules.toml", rules.as_str()), ("fight.toml", FIGHT)];
        let (status, text, _) = in_folder(&files, &["check", "--deny", "fight.toml", "a.rules.toml"]);
        assert_eq!((status, text.as_str()), (0, "a.rules.toml with fight.toml: no problems found\n"));
        let rules = rules.replace(&format!("outside = [\"{name}\"]"), "outside = [\"opn\"]");
        let files = [("a.rules.toml", rules.as_str()), ("fight.toml", FIGHT)];
        let (status, _, errors) = in_folder(&files, &["check", "fight.toml"]);
        assert!(
            status == 2 && errors.contains("there is no status, flag, counter or topic `opn`"),
            "{errors}"
        );
    }
}

/// A counter that is read by its name, in a comparison, an amount or a line, is asked for.
#[test]
fn counters_that_are_read_are_asked_for() {
    let counts = "[rule.counts]\non = \"combatant.died\"\ndo = [{ count = { of = \"falls\" } }]\n[rule.more]\non = \"combatant.died\"\n";
    for (reads, asked) in [
        ("do = [{ heal = 3, by = \"nobody\" }]", false),
        ("do = [{ heal = { terms = [{ of = \"counter.falls\" }] }, by = \"nobody\" }]", true),
        ("do = [{ say = \"{counter.falls} have fallen.\" }]", true),
        (
            "when = { compare = [{ left = \"counter.falls\", above = 2 }] }\ndo = [{ say = \"Enough.\" }]",
            true,
        ),
    ] {
        let rules = with_a_hound(&format!("{counts}{reads}\n"))
            .replace("layers = ", "counters = [\"falls\"]\nlayers = ");
        let files = [("a.rules.toml", rules.as_str()), ("fight.toml", FIGHT)];
        let (_, text, errors) = in_folder(&files, &["check", "fight.toml", "a.rules.toml"]);
        assert_eq!(errors, "", "{reads}");
        assert_eq!(!text.contains("`falls` of the counters is changed"), asked, "{reads}: {text}");
    }
}

#[test]
fn findings_are_shown_at_their_place_and_listed_by_number() {
    let extra = format!("\n{}{}", PLANTED[0].1, PLANTED[2].1);
    let (rules, fight) = (rules(&extra), FIGHT.to_owned());
    let files = [("a.rules.toml", rules.as_str()), ("fight.toml", fight.as_str())];
    let (status, text, _) = in_folder(&files, &["check", "a.rules.toml", "fight.toml", "--deny"]);
    assert_eq!(status, 1);
    insta::assert_snapshot!("check", text);
    let listed = run(&["check", "--list", "--format", "json"]).1;
    let listed: Vec<serde_json::Value> = serde_json::from_str(&listed).unwrap();
    assert_eq!(listed.len(), PLANTED.len());
    let page = fs::read_to_string(root().join("docs/checks.md")).unwrap();
    for one in &listed {
        let (name, reason) = (one["name"].as_str().unwrap(), one["reason"].as_str().unwrap());
        let row = format!("| {} | {name} | {reason} |", one["finding"]);
        assert!(page.contains(&row), "docs/checks.md lacks: {row}");
    }
    let (status, _, errors) = run(&["check", "--deny=99", "scenarios/skirmish.toml"]);
    assert!(status == 2 && errors.contains("there is no finding 99"), "{errors}");
}

/// Of one fight alone, what others may use is one note, which no `--deny` takes up; with its ruleset, or with the fight that uses it, it is
/// found or answered.
#[test]
fn what_other_fights_may_use_is_a_note() {
    let (extra, line) = (PLANTED[4].1, PLANTED[4].2);
    let rules = with_a_hound(extra);
    let fight = format!("{FIGHT}\n{line}");
    let other = format!("{fight}\n[[script]]\nat = \"0.1s\"\nwho = \"tam\"\nstart = \"kick\"\n");
    let files =
        [("a.rules.toml", rules.as_str()), ("fight.toml", fight.as_str()), ("other.toml", other.as_str())];
    let (status, text, _) = in_folder(&files, &["check", "--deny", "fight.toml"]);
    assert_eq!(status, 0);
    assert!(text.starts_with("fight.toml: no problems found\n  note: 1 of its ruleset"), "{text}");
    let (_, json, _) = in_folder(&files, &["check", "fight.toml", "--format", "json"]);
    let json: serde_json::Value = serde_json::from_str(&json).unwrap();
    assert_eq!((json[0]["finding"].as_u64(), json[0]["note"].as_bool()), (Some(5), Some(true)));
    let (status, text, _) = in_folder(&files, &["check", "--deny", "fight.toml", "a.rules.toml"]);
    assert!(status == 1 && text.contains("no combatant starts attack `kick`"), "{text}");
    let (status, text, _) = in_folder(&files, &["check", "--deny", "fight.toml", "other.toml"]);
    assert_eq!((status, text.as_str()), (0, "fight.toml and 1 more: no problems found\n"));
    // A folder has both.
    assert_eq!(
        in_folder(&files, &["check", "--deny", "."]).1,
        "./a.rules.toml with 2 fights: no problems found\n"
    );
}

#[test]
fn what_is_meant_so_is_allowed_in_the_file() {
    let allow = |line: &str| {
        let rules = with_a_hound(PLANTED[1].1).replace("rate = 60", &format!("rate = 60\nallow = [{line}]"));
        let files = [("a.rules.toml", rules.as_str()), ("fight.toml", FIGHT)];
        in_folder(&files, &["check", "--deny", "a.rules.toml", "fight.toml"])
    };
    let (status, text, _) = allow("{ finding = 2, about = \"maul2\", because = \"a salute\" }");
    assert_eq!(
        (status, text.as_str()),
        (0, "a.rules.toml with fight.toml: no problems found, 1 allowed in the file\n")
    );
    let (status, text, _) = allow("{ finding = 2, about = \"maul3\", because = \"a salute\" }");
    assert!(status == 1 && text.contains("finding 2 about `maul3` is allowed, and is not there"), "{text}");
    let (status, _, errors) = allow("{ finding = 2, because = \" \" }");
    assert!(status == 2 && errors.contains("say why it is meant so"), "{errors}");
}

/// What was found where nothing was wrong: each of these was a false finding.
#[test]
fn what_is_right_is_not_found() {
    let trunk =
        |name: &str| format!("[template.{name}.part.trunk]\nsphere = {{ at = [0, 0, 0], radius = 0.4 }}\n");
    for (what, extra, script) in [
        (
            "an attack that only a chain starts",
            "[attack.one]\nform = \"touch\"\nactive = \"0.1s\"\nrecovery = \"0.3s\"\nchain = { next = \"two\", opens = \"0.1s\", lapses = \"0.4s\" }\n\
            [attack.two]\nform = \"touch\"\nactive = \"0.1s\"\n[template.boxer]\nteam = \"masons\"\nhealth = 9\nattacks = [\"one\", \"two\"]\n"
                .to_owned()
                + &trunk("boxer"),
            "[combatant.tam]\ntemplate = \"boxer\"\nat = [9, 0, 0]\n[[script]]\nat = \"0.1s\"\nwho = \"tam\"\nstart = \"one\"\n",
        ),
        (
            "a combatant of another team than its template",
            "[team.gulls]\n[attack.peck]\nform = \"touch\"\nactive = \"0.1s\"\n\
            [template.gull]\nteam = \"gulls\"\nhealth = 9\nattacks = [\"peck\"]\n"
                .to_owned()
                + &trunk("gull"),
            "[combatant.tam]\ntemplate = \"gull\"\nteam = \"masons\"\nat = [9, 0, 0]\n[[script]]\nat = \"0.1s\"\nwho = \"tam\"\nstart = \"peck\"\n",
        ),
        (
            "a stance that strikes no one",
            "[attack.brace]\nform = \"melee\"\nstrikes = []\nactive = \"0.1s\"\nhitboxes = [{ sphere = { at = [0, 0, 0], radius = 0.1 } }]\n\
            [template.guard]\nteam = \"masons\"\nhealth = 9\nattacks = [\"brace\"]\n"
                .to_owned()
                + &trunk("guard"),
            "[combatant.tam]\ntemplate = \"guard\"\nat = [9, 0, 0]\n[[script]]\nat = \"0.1s\"\nwho = \"tam\"\nstart = \"brace\"\n",
        ),
        (
            "a rule that fires once in a loop",
            "[rule.echo]\non = \"health.changed\"\nlimit = \"once\"\ndo = [{ damage = { crush = 1 } }]\n".to_owned(),
            "",
        ),
    ] {
        let (status, found) = found(&extra, &format!("{FIGHT}\n{script}"), &["--deny"]);
        assert_eq!((status, found.as_slice()), (0, &[][..]), "{what}");
    }
}
