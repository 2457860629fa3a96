//! Tactics: every way of moving, targets, acts, answers to attacks; what they may know; and that the same seed gives the same bits.

use std::collections::BTreeMap;

use hammerstone::Life;
use hammerstone::event::{
    AttackStarted, CombatantReturned, Event, HitLanded, HitRefused, Payload, TacticsChose, TacticsDropped,
};
use hammerstone::ids::CombatantId;
use hammerstone_scenario::{Options, Play, Scenario, Wanted};
use proptest::prelude::*;
use testkit::cases;

const RULES: &str = r#"
[rules]
rate = 60
damage-types = ["crush"]
combatant-flags = ["scattered", "fleeing"]
reasons = ["drill"]
outcomes = ["over"]
stats = { swiftness = 4 }
[topic."host.scatter"]
who = "who"
[topic."host.calm"]
who = "who"
[team.masons]
[team.beasts]
[spot.gully]
at = [0, 0, 12]
[waves.pack]
template = "hound"
size = 2
times = 1
at = ["gully"]
apart = [2, 0, 0]

[attack.poke]
form = "melee"
startup = "0.3s"
active = "0.1s"
recovery = "0.3s"
damage = { crush = 3 }
chain = { next = "jab", opens = "0.4s", lapses = "0.7s" }
hitboxes = [{ capsule = { from = [0, 1, 0.4], to = [0, 1, 1.5], radius = 0.15 } }]
[attack.jab]
based-on = "poke"
chain = { next = "poke-down", opens = "0.4s", lapses = "0.7s" }
[attack.poke-down]
form = "melee"
startup = "0.3s"
active = "0.1s"
recovery = "0.3s"
damage = { crush = 3 }
hitboxes = [{ capsule = { from = [0, 1, 0.4], to = [0, 1, 1.5], radius = 0.15 } }]
[attack.shove]
form = "melee"
startup = "0.3s"
active = "0.1s"
recovery = "0.3s"
knockback = { metres = 2, over = "0.3s" }
hitboxes = [{ capsule = { from = [0, 1, 0.4], to = [0, 1, 1.5], radius = 0.15 } }]
[attack.heave]
form = "melee"
startup = "0.1s"
active = "0.1s"
recovery = "0.3s"
damage = { crush = 3 }
charge = { least = "0.2s", most = "2s", full = 3 }
hitboxes = [{ capsule = { from = [0, 1, 0.4], to = [0, 1, 1.5], radius = 0.15 } }]
[attack.stone]
form = "projectile"
startup = "0.2s"
active = "0.05s"
recovery = "0.5s"
damage = { crush = 3 }
projectile = { from = [0, 1, 0.6], speed = 8, lifetime = "3s" }
hitboxes = [{ sphere = { at = [0, 0, 0], radius = 0.12 } }]
[attack.sidestep]
form = "melee"
startup = "0.05s"
active = "0.05s"
recovery = "0.3s"
strikes = []
self-status = [{ status = "sidestepping", from = "0s", to = "0.3s" }]
hitboxes = [{ sphere = { at = [0, 1, 0], radius = 0.1 } }]
[status.sidestepping]
invulnerable = true
[status.dazed]
lasts = "1s"
stuns = true

[template.mason]
team = "masons"
health = 40
corpse-time = "9s"
attacks = ["poke", "jab", "poke-down", "shove", "heave", "stone", "sidestep"]
[template.mason.part.trunk]
capsule = { from = [0, 0.4, 0], to = [0, 1.35, 0], radius = 0.26 }
[template.hound]
based-on = "mason"
team = "beasts"
stats = { swiftness = 6 }
[template.post]
team = "beasts"
health = 1000
[template.post.part.trunk]
capsule = { from = [0, 0.4, 0], to = [0, 1.35, 0], radius = 0.26 }

[rule.scatters]
on = "host.scatter"
do = [{ request = "flee", to = "subject" }]
[rule.calms]
on = "host.calm"
do = [{ request = "as-usual", to = "subject" }]
"#;

const HEAD: &str = r#"
[scenario]
title = "Minds"
rules = "minds.rules.toml"
lasts = "20s"
outcome = "over"
"#;

fn read(text: &str) -> Result<Scenario, String> {
    let open = |_: Wanted<'_>| Ok(("minds.rules.toml".to_owned(), RULES.as_bytes().to_vec()));
    Scenario::read("minds.toml", &format!("{HEAD}{text}"), &open).map_err(|unusable| unusable.text())
}

/// A mason at the origin and a post so far ahead of it, and the mason's tactics.
fn against_a_post(far: f32, tactics: &str) -> String {
    format!(
        "[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n\
         [combatant.post]\ntemplate = \"post\"\nat = [0, 0, {far}]\nfacing = 180\n\
         [tactics.try]\nfor = {{ template = \"mason\" }}\n{tactics}"
    )
}

type Flat = [f32; 2];

/// What a run left: places of everyone by name and tick, and everything that was told.
struct Ran {
    places: BTreeMap<String, Vec<Option<Flat>>>,
    facings: BTreeMap<String, Vec<[f32; 2]>>,
    events: Vec<(u32, Event)>,
    texts: Vec<(u32, String)>,
    checksum: u64,
    orders_refused: usize,
}

fn run(scenario: &Scenario, options: Options) -> Ran {
    let mut play = Play::new(scenario, options);
    let mut ran = Ran {
        places: BTreeMap::new(),
        facings: BTreeMap::new(),
        events: Vec::new(),
        texts: Vec::new(),
        checksum: 0,
        orders_refused: 0,
    };
    while play.tick().unwrap() {
        let (view, facts) = (play.encounter.view(), play.encounter.facts());
        for who in view.combatants() {
            let pose = view.pose(who).filter(|_| view.life(who) == Life::Standing);
            let at = pose.map(|pose| [pose.at[0], pose.at[2]]);
            ran.places.entry(play.run.names.of(who).to_owned()).or_default().push(at);
            if let Some(pose) = pose {
                let [x, _, z] = pose.direction([0.0, 0.0, 1.0]);
                ran.facings.entry(play.run.names.of(who).to_owned()).or_default().push([x, z]);
            }
        }
        for event in facts.events() {
            ran.events.push((facts.tick, *event));
            if let Some(chose) = TacticsChose::of(event) {
                let [choice, passed] = [chose.choice, chose.passed].map(|text| facts.text_of(text));
                ran.texts.push((facts.tick, format!("{choice}|{passed}")));
            }
            if let Some(dropped) = TacticsDropped::of(event) {
                let [choice, reason] = [dropped.choice, dropped.reason].map(|text| facts.text_of(text));
                ran.texts.push((facts.tick, format!("drops {choice}|{reason}")));
            }
            ran.orders_refused += usize::from(matches!(event, Event::OrderRefused(_)));
        }
    }
    ran.checksum = play.encounter.checksum();
    ran
}

fn told(text: &str) -> Ran {
    let options = Options { choices: true, ..Options::default() };
    run(&read(text).unwrap(), options)
}

impl Ran {
    fn way(&self, name: &str) -> Vec<Flat> {
        self.places[name].iter().flatten().copied().collect()
    }

    fn last(&self, name: &str) -> Flat {
        *self.way(name).last().unwrap()
    }

    fn starts(&self) -> Vec<u32> {
        let started = |(tick, event): &(u32, Event)| AttackStarted::of(event).map(|_| *tick);
        self.events.iter().filter_map(started).collect()
    }

    fn count(&self, is: impl Fn(&Event) -> bool) -> usize {
        self.events.iter().filter(|(_, event)| is(event)).count()
    }
}

fn far([x, z]: Flat, [u, v]: Flat) -> f32 {
    ((x - u) * (x - u) + (z - v) * (z - v)).sqrt()
}

fn near(found: f32, wanted: f32) {
    assert!((found - wanted).abs() < 0.1, "{found} and {wanted}");
}

#[test]
fn it_goes_up_to_its_target_and_no_nearer() {
    let ran = told(&against_a_post(8.0, "speed = 3\n[[tactics.try.choice]]\ndo = { approach = 2 }"));
    near(far(ran.last("odo"), [0.0, 8.0]), 2.0);
    // 6 m at 3 m a second, from the first look on.
    let there = ran.way("odo").iter().position(|at| far(*at, [0.0, 8.0]) < 2.1).unwrap();
    assert!((114..=130).contains(&there), "{there}");
}

#[test]
fn it_keeps_a_distance() {
    for far_off in [1.0, 9.0] {
        let text = against_a_post(far_off, "[[tactics.try.choice]]\ndo = { keep-distance = [3, 4] }");
        let ran = told(&text);
        let off = far(ran.last("odo"), [0.0, far_off]);
        assert!((2.9..=4.1).contains(&off), "{off}");
    }
}

#[test]
fn it_circles_the_way_that_is_asked() {
    for (way, sign) in [("left", 1.0), ("right", -1.0)] {
        let text = against_a_post(
            3.0,
            &format!("speed = 2\n[[tactics.try.choice]]\ndo = {{ circle = 2.5, way = \"{way}\" }}"),
        );
        let way = told(&text).way("odo");
        let mut turned = 0.0;
        for two in way.windows(2) {
            let [[x, z], [u, v]] = [two[0], two[1]].map(|[x, z]| [x, z - 3.0]);
            turned += (x * v - z * u) / (x * x + z * z);
        }
        near(far(*way.last().unwrap(), [0.0, 3.0]), 2.5);
        assert!(turned * sign > std::f32::consts::TAU, "{turned}");
    }
}

#[test]
fn it_patrols_goes_to_a_place_and_home_again() {
    let patrol = "speed = 4\n[[tactics.try.choice]]\ndo = { patrol = [[3, 0, 0], [3, 0, 3], [-2, 0, 1]] }";
    let way = told(&against_a_post(60.0, patrol)).way("odo");
    let visits = |place: Flat| {
        let there = way.iter().map(|at| far(*at, place) < 0.2).collect::<Vec<_>>();
        there.windows(2).filter(|two| !two[0] && two[1]).count()
    };
    assert!([[3.0, 0.0], [3.0, 3.0], [-2.0, 1.0]].into_iter().all(|place| visits(place) >= 3));
    let go = "[[tactics.try.choice]]\nwhen = { time = { to = \"6s\" } }\ndo = { go-to = [4, 0, -4] }\n\
              [[tactics.try.choice]]\ndo = { hold-place = true }";
    let ran = told(&against_a_post(60.0, go));
    let way = ran.way("odo");
    near(far(way[355], [4.0, -4.0]), 0.0);
    near(far(ran.last("odo"), [0.0, 0.0]), 0.0);
}

#[test]
fn it_follows_its_leader_and_flees_from_its_target() {
    let text = "[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n\
                path = [{ by = \"8s\", to = [12, 0, 0] }, { by = \"12s\", to = [12, 0, 6] }]\n\
                [combatant.ilse]\ntemplate = \"mason\"\nat = [0, 0, -3]\nfollows = \"odo\"\ntactics = \"behind\"\n\
                [tactics.behind]\n[[tactics.behind.choice]]\ndo = { follow = 1.5 }";
    let ran = told(text);
    near(far(ran.last("ilse"), ran.last("odo")), 1.5);
    assert!(ran.places["ilse"].iter().zip(&ran.places["odo"]).all(|both| match both {
        (Some(one), Some(other)) => far(*one, *other) < 3.2,
        _ => true,
    }));
    let ran = told(&against_a_post(1.0, "[[tactics.try.choice]]\ndo = { flee = 6 }"));
    near(far(ran.last("odo"), [0.0, 1.0]), 6.0);
}

#[test]
fn rocks_drift_and_come_in_on_the_other_side() {
    let drift =
        "[[tactics.try.choice]]\ndo = { drift = [3, 0, 1], wrap = { from = [-5, -1, -5], to = [5, 1, 5] } }";
    let ran = told(&against_a_post(60.0, drift));
    let way = ran.way("odo");
    assert!(way.iter().all(|[x, z]| x.abs() <= 5.1 && z.abs() <= 5.1));
    let jumps = way.windows(2).filter(|two| far(two[0], two[1]) > 5.0).count();
    // 60 m to the side in 20 s, through a box of 10 m; it comes to the other sides in two of the same ticks.
    assert_eq!(jumps, 6);
    assert!(ran.facings["odo"].iter().all(|facing| *facing == [0.0, 1.0]));
}

#[test]
fn a_stat_and_a_share_of_it_are_its_speed() {
    let speed = "speed = { stat = \"swiftness\", times = 0.5 }\n[[tactics.try.choice]]\ndo = { approach = 1, pace = 0.5 }";
    let way = told(&against_a_post(40.0, speed)).way("odo");
    // Swiftness 4, times 0.5, at half the pace.
    near((way[1100][1] - way[500][1]) / 10.0, 1.0);
}

#[test]
fn walls_are_slid_along_and_never_entered() {
    let wall = "[level.wall]\nbox = { at = [0, 1, 4], half = [3, 1, 0.5] }\n";
    // It steps over what is lower than its knees.
    let low = "[level.wall]\nbox = { at = [0, 0.1, 4], half = [3, 0.2, 0.5] }\n";
    let go = "room = 0.4\n[[tactics.try.choice]]\ndo = { go-to = [1, 0, 9] }";
    let ran = told(&format!("{wall}{}", against_a_post(60.0, go)));
    let way = ran.way("odo");
    let inside = |[x, z]: &Flat| x.abs() < 3.0 && (z - 4.0).abs() < 0.5 + 0.38;
    assert!(!way.iter().any(inside));
    assert!(way.iter().any(|[x, _]| *x > 0.9), "it went along the wall as far as the place lies");
    let ran = told(&format!("{low}{}", against_a_post(60.0, go)));
    near(far(ran.last("odo"), [1.0, 9.0]), 0.0);
}

#[test]
fn what_is_covered_is_not_seen() {
    let wall = "[level.wall]\nbox = { at = [0, 1, 4], half = [3, 2, 0.5] }\n";
    let text = "[[tactics.try.choice]]\ndo = { approach = 1 }\n[[tactics.try.choice]]\ndo = { wait = true }";
    let ran = told(&format!("{wall}{}", against_a_post(8.0, text)));
    assert!(
        ran.texts.iter().all(|(_, text)| text.starts_with("wait|approach (no target)")),
        "{:?}",
        ran.texts
    );
    // A wall that comes down later: it goes to where it saw its target last, and no farther than it knows.
    let falls = "[obstacle.gate]\nbox = { at = [0, 1, 0], half = [30, 2, 0.2] }\nat = [0, -20, 6]\n\
                 [[script]]\nat = \"1s\"\nplace-obstacle = { obstacle = \"gate\", at = [0, 0, 6] }\n\
                 [[script]]\nat = \"1.2s\"\nwho = \"post\"\nteleport = { at = [20, 0, 12] }\n";
    let ran = told(&format!("{falls}{}", against_a_post(8.0, text)));
    let [x, z] = ran.last("odo");
    assert!(x.abs() < 0.2 && z < 5.8, "{x} {z}");
}

#[test]
fn rooms_keep_bodies_apart() {
    let text = "[combatant.hound]\ntemplate = \"hound\"\ncount = 12\nat = [-3, 0, 6]\napart = [0.5, 0, 0]\n\
                [combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n\
                [tactics.rush]\nfor = { template = \"hound\" }\nroom = 0.35\n[[tactics.rush.choice]]\ndo = { approach = 1 }";
    let ran = told(text);
    let last: Vec<Flat> = (1..=12).map(|n| ran.last(&format!("hound#{n}"))).collect();
    for (n, one) in last.iter().enumerate() {
        assert!(last[n + 1..].iter().all(|other| far(*one, *other) > 0.5), "{last:?}");
    }
}

#[test]
fn knockback_that_the_host_moves_is_walked() {
    let shoved = "[combatant.post]\ntemplate = \"hound\"\nat = [0, 0, 1.2]\nfacing = 180\ntactics = \"stand\"\n\
                  [combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n\
                  [tactics.stand]\n[[tactics.stand.choice]]\ndo = { wait = true }\n\
                  [[script]]\nat = \"1s\"\nwho = \"odo\"\nstart = \"shove\"\n";
    near(far(told(shoved).last("post"), [0.0, 1.2]), 2.0);
}

#[test]
fn targets_are_picked_as_asked() {
    let text = |pick: &str| {
        format!(
            "[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n\
             [combatant.near]\ntemplate = \"post\"\nat = [-3, 0, 3]\n\
             [combatant.weak]\ntemplate = \"hound\"\nat = [4, 0, 4]\n\
             [tactics.try]\nfor = {{ template = \"mason\" }}\ntarget = {{ {pick} }}\n\
             [[tactics.try.choice]]\ndo = {{ approach = 1 }}"
        )
    };
    let end = |pick: &str| told(&text(pick)).last("odo");
    near(far(end("pick = \"nearest\""), [-3.0, 3.0]), 1.0);
    near(far(end("pick = \"weakest\""), [4.0, 4.0]), 1.0);
    near(far(end("pick = \"strongest\""), [-3.0, 3.0]), 1.0);
    near(far(end("template = \"hound\""), [4.0, 4.0]), 1.0);
    near(far(end("within = 2"), [0.0, 0.0]), 0.0);
    near(far(end("friends = true"), [0.0, 0.0]), 0.0);
    // The one who struck last, though another is nearer.
    let struck = text("pick = \"last-attacker\", keep = \"0s\"")
        .replace("at = [4, 0, 4]", "at = [1.2, 0, 0]\nfacing = 270");
    let struck = format!("{struck}\n[[script]]\nat = \"0.5s\"\nwho = \"weak\"\nstart = \"poke\"")
        .replace("[-3, 0, 3]", "[-0.6, 0, 0.6]")
        .replace("do = { approach = 1 }", "when = { time = { from = \"2s\" } }\ndo = { flee = 5 }");
    let [x, _] = told(&struck).last("odo");
    assert!(x < -2.0, "it flees from the one on the right: {x}");
}

#[test]
fn it_strikes_within_reach_and_arc_after_its_reaction() {
    let text = "every = \"1 ticks\"\nreaction = \"0.2s\"\nspeed = 3\n[[tactics.try.choice]]\ndo = { start = \"poke\" }\n\
                [[tactics.try.choice]]\ndo = { approach = 1 }";
    let ran = told(&against_a_post(5.0, text));
    let chose = ran.texts.iter().find(|(_, text)| text.starts_with("poke")).unwrap().0;
    // Chosen before a tick, it is carried out in the twelfth after.
    assert_eq!(ran.starts()[0], chose + 12);
    assert_eq!(ran.orders_refused, 0);
    let landed = ran.count(|event| HitLanded::of(event).is_some());
    let started = ran.starts().len();
    assert!(started > 10 && landed + 1 >= started, "{landed} of {started}");
    // Its back to the post, and never turning: the post stays out of its arc.
    let turned =
        against_a_post(1.2, "turns = 0\n[[tactics.try.choice]]\ndo = { start = \"poke\", arc = 30 }")
            .replace("at = [0, 0, 0]\n", "at = [0, 0, 0]\nfacing = 100\n");
    assert_eq!(told(&turned).starts().len(), 0);
}

#[test]
fn combos_go_on_by_skill_alone() {
    let text = |press: f32, skill: f32| {
        against_a_post(
            1.2,
            &format!(
                "skill = {skill}\n[[tactics.try.choice]]\ndo = {{ start = \"poke\", press-on = {press} }}"
            ),
        )
    };
    let chained =
        |press, skill| told(&text(press, skill)).count(|event| matches!(event, Event::AttackChained(_)));
    assert_eq!(chained(0.0, 1.0), 0);
    assert_eq!(chained(1.0, 0.0), 0);
    let all = chained(1.0, 1.0);
    let half = chained(0.5, 1.0);
    assert!(all >= 12 && half > 0 && half < all, "{all} {half}");
}

#[test]
fn a_charge_is_held_as_long_as_asked() {
    let text = against_a_post(
        1.2,
        "[[tactics.try.choice]]\ndo = { start = \"heave\", hold = [\"0.8s\", \"1.2s\"] }",
    );
    let ran = told(&text);
    let ticks = |is: fn(&Event) -> bool| -> Vec<u32> {
        ran.events.iter().filter(|(_, event)| is(event)).map(|(tick, _)| *tick).collect()
    };
    let starts = ticks(|event| matches!(event, Event::AttackStarted(_)));
    let opens = ticks(|event| matches!(event, Event::AttackOpened(_)));
    assert!(starts.len() >= 6);
    for (start, open) in starts.iter().zip(&opens) {
        // Held, then 0.1 s of startup.
        assert!((48 + 6..=72 + 8).contains(&(open - start)), "{start} {open}");
    }
}

/// A hound that throws or pokes again and again at odo, who answers.
fn answered(attack: &str, far: f32, skill: f32, answer: &str) -> Ran {
    told(&format!(
        "[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n[combatant.hound]\ntemplate = \"hound\"\nat = [0, 0, {far}]\nfacing = 180\n\
         [[script]]\nat = \"1s\"\nwho = \"hound\"\nstart = \"{attack}\"\nevery = \"1.3s\"\n\
         [tactics.try]\nfor = {{ template = \"mason\" }}\nevery = \"1 ticks\"\nreaction = \"0.05s\"\nskill = {skill}\n\
         [[tactics.try.choice]]\ndo = {{ start = \"sidestep\", {answer} }}\n"
    ))
}

#[test]
fn answers_come_in_time_by_skill() {
    let hits = |ran: &Ran| ran.count(|event| HitLanded::of(event).is_some());
    let dodged = |ran: &Ran| {
        ran.count(|event| HitRefused::of(event).is_some_and(|refused| refused.gate.name() == "invulnerable"))
    };
    for (attack, far) in [("poke", 1.2), ("stone", 5.0)] {
        let skilled = answered(attack, far, 1.0, "lead = \"0.1s\"");
        assert_eq!(hits(&skilled), 0, "{attack}");
        assert!(dodged(&skilled) >= 13, "{attack}: {}", dodged(&skilled));
        let unskilled = answered(attack, far, 0.0, "lead = \"0.1s\"");
        assert!(hits(&unskilled) >= 13 && unskilled.starts().len() < 16, "{attack}: {}", hits(&unskilled));
        let half = answered(attack, far, 0.5, "lead = \"0.1s\"");
        assert!(hits(&half) > 1 && dodged(&half) > 1, "{attack}");
    }
    // So early that it is over before the hitbox comes.
    let early = answered("stone", 7.0, 1.0, "lead = \"0.7s\"");
    assert!(hits(&early) >= 13, "{}", hits(&early));
}

#[test]
fn what_comes_too_late_is_dropped_with_the_reason() {
    let text = "[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n[combatant.hound]\ntemplate = \"hound\"\nat = [0, 0, 1.2]\nfacing = 180\n\
         [[script]]\nat = \"1s\"\nwho = \"hound\"\nstart = \"poke\"\nevery = \"1.3s\"\n\
         [tactics.try]\nfor = { template = \"mason\" }\nreaction = \"0.5s\"\n\
         [[tactics.try.choice]]\ndo = { start = \"sidestep\", lead = \"0.1s\" }\n";
    let ran = told(text);
    assert!(ran.texts.iter().any(|(_, text)| text == "drops sidestep|it came too late"), "{:?}", ran.texts);
    // One that is stunned meanwhile does nothing.
    let stunned = against_a_post(1.2, "reaction = \"1s\"\n[[tactics.try.choice]]\ndo = { start = \"poke\" }");
    let stunned = format!("{stunned}\n[[script]]\nat = \"0.5s\"\nwho = \"odo\"\napply = \"dazed\"");
    let ran = told(&stunned);
    assert!(ran.texts.iter().any(|(_, text)| text == "drops poke|it is stunned"), "{:?}", ran.texts);
    assert!(ran.starts()[0] > 90);
}

#[test]
fn dashes_go_with_the_start() {
    let dash = |way: &str| {
        let ran = answered(
            "poke",
            1.2,
            1.0,
            &format!("lead = \"0.1s\", dash = {{ metres = 1.5, over = \"0.2s\", way = \"{way}\" }}"),
        );
        ran.last("odo")
    };
    let [x, z] = dash("back");
    assert!(z < -1.3 && x.abs() < 0.1, "{x} {z}");
    let [x, _] = dash("aside");
    assert!(x.abs() > 1.0, "{x}");
}

#[test]
fn a_friend_who_lies_is_brought_back() {
    let text = "[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n[combatant.ilse]\ntemplate = \"mason\"\nat = [4, 0, 0]\n\
         [[script]]\nat = \"1s\"\nwho = \"ilse\"\ndamage = { crush = 99 }\nreason = \"drill\"\n\
         [tactics.help]\nfor = { template = \"mason\" }\n\
         [[tactics.help.choice]]\ntarget = { friends = true, dead = true }\ndo = { revive = 0.5, within = 1.2, takes = \"2s\" }\n\
         [[tactics.help.choice]]\ntarget = { friends = true, dead = true }\ndo = { approach = 1 }\n\
         [[tactics.help.choice]]\ndo = { wait = true }\n";
    let ran = told(text);
    let back: Vec<(u32, i64)> = ran
        .events
        .iter()
        .filter_map(|(tick, event)| Some((*tick, CombatantReturned::of(event)?.health)))
        .collect();
    // 3 m at 3 m a second, then two seconds beside her.
    assert_eq!(back.len(), 1);
    assert!((230..=260).contains(&back[0].0) && back[0].1 == 20, "{back:?}");
}

#[test]
fn waves_have_the_tactics_of_their_group() {
    let text = "[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n[[script]]\nat = \"1s\"\nstart-waves = \"pack\"\n\
                [tactics.rush]\nfor = { team = \"beasts\" }\nspeed = 5\n[[tactics.rush.choice]]\ndo = { approach = 1 }";
    let ran = told(text);
    let came = ran.places.keys().filter(|name| name.starts_with("hound")).count();
    assert_eq!(came, 2);
    assert!(
        ran.places
            .keys()
            .filter(|name| name.starts_with("hound"))
            .all(|name| far(ran.last(name), [0.0, 0.0]) < 1.5)
    );
}

#[test]
fn scripts_rules_and_flags_replace_tactics() {
    let base = "[combatant.hound]\ntemplate = \"hound\"\nat = [0, 0, 6]\n[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n\
                [tactics.scattered]\nfor = { template = \"hound\" }\nwhen = { subject = { flags-up = [\"scattered\"] } }\n\
                [[tactics.scattered.choice]]\ndo = { flee = 9 }\n\
                [tactics.rush]\nfor = { template = \"hound\" }\n[[tactics.rush.choice]]\ndo = { approach = 1 }\n\
                [tactics.rest]\n[[tactics.rest.choice]]\ndo = { wait = true }\n";
    let end = |script: &str| told(&format!("{base}{script}")).last("hound");
    let line = |at: &str, what: &str| format!("[[script]]\nat = \"{at}\"\nwho = \"hound\"\n{what}\n");
    near(far(end(""), [0.0, 0.0]), 1.0);
    near(far(end(&line("0s", "tactics = \"none\"")), [0.0, 6.0]), 0.0);
    let rested = line("1s", "tactics = \"rest\"");
    assert!((2.8..3.4).contains(&end(&rested)[1]), "a second of the way to odo");
    near(far(end(&format!("{rested}{}", line("2s", "tactics = \"usual\""))), [0.0, 0.0]), 1.0);
    near(far(end(&line("1s", "raise-flag = \"scattered\"")), [0.0, 0.0]), 9.0);
    let asked = "[[script]]\nat = \"1s\"\npublish = \"host.scatter\"\nwith = { who = \"hound\" }\n";
    assert!(far(end(asked), [0.0, 0.0]) > 30.0, "a rule asked it to flee");
    let calm = "[[script]]\nat = \"3s\"\npublish = \"host.calm\"\nwith = { who = \"hound\" }\n";
    near(far(end(&format!("{asked}{calm}")), [0.0, 0.0]), 1.0);
}

#[test]
fn a_choice_is_told_with_what_did_not_fit() {
    let text = "[[tactics.try.choice]]\nwhen = { subject = { health = { at-most = 0.3 } } }\ndo = { flee = 4 }\n\
                [[tactics.try.choice]]\ndo = { start = \"poke\" }\n[[tactics.try.choice]]\nwhen = { chance = 0 }\ndo = { circle = 2 }\n\
                [[tactics.try.choice]]\ndo = { follow = 1 }\n[[tactics.try.choice]]\nname = \"come-near\"\ndo = { approach = 3 }";
    let ran = told(&against_a_post(5.0, text));
    let wanted = "come-near|flee (wanted the share of health of odo 0 to 0.3, found 1); poke (5.00 m away, wanted at most 1.86 m); \
                  circle (no luck, at a chance of 0.0000); follow (no leader)";
    assert_eq!(ran.texts[0].1, wanted);
    // Only by those that are asked to tell.
    let untold = run(&read(&against_a_post(5.0, text)).unwrap(), Options::default());
    assert!(untold.texts.is_empty());
    assert_eq!(untold.places, ran.places);
}

#[test]
fn it_keeps_to_a_way_of_moving_for_as_long_as_asked() {
    let text = |lasts: &str| {
        format!(
            "[[tactics.try.choice]]\nwhen = {{ chance = 0.2 }}\n{lasts}do = {{ circle = 2 }}\n[[tactics.try.choice]]\ndo = {{ keep-distance = [1, 3] }}"
        )
    };
    let changes = |lasts: &str| told(&against_a_post(2.0, &text(lasts))).texts.len();
    assert!(
        changes("") > 30 && changes("lasts = \"3s\"\n") < 20,
        "{} {}",
        changes(""),
        changes("lasts = \"3s\"\n")
    );
}

#[test]
fn mistakes_are_told_with_their_place_and_mend() {
    let said = |tactics: &str| read(&against_a_post(5.0, tactics)).unwrap_err();
    for (tactics, wanted) in [
        ("[[tactics.try.choice]]\ndo = { start = \"poek\" }", "did you mean `poke`?"),
        (
            "[[tactics.try.choice]]\ndo = { approach = 1, flee = 2 }",
            "the choice moves in 2 ways: approach, flee",
        ),
        ("[[tactics.try.choice]]\ndo = { start = \"poke\", revive = 1 }", "the choice does two things"),
        ("[[tactics.try.choice]]\ndo = { pace = 1 }", "the choice does nothing"),
        ("skill = 2\n[[tactics.try.choice]]\ndo = { wait = true }", "2 is out of range"),
        (
            "reaction = [\"0.3s\", \"0.1s\"]\n[[tactics.try.choice]]\ndo = { wait = true }",
            "not one time, nor the shortest and the longest",
        ),
        ("every = \"0s\"\n[[tactics.try.choice]]\ndo = { wait = true }", "no time at all"),
        (
            "target = { pick = \"nearset\" }\n[[tactics.try.choice]]\ndo = { wait = true }",
            "did you mean `nearest`?",
        ),
        ("[[tactics.try.choice]]\nwhen = { any = [{ chance = 0.5 }] }\ndo = { wait = true }", "chance"),
        ("", "choice"),
        ("[[tactics.try.choice]]\ndo = { patrol = [] }", "a patrol without places"),
        (
            "[[tactics.try.choice]]\ndo = { drift = [1, 0, 0], wrap = { from = [1, 0, 0], to = [0, 1, 1] } }",
            "the box has no room",
        ),
    ] {
        let text = said(tactics);
        assert!(text.contains(wanted), "{tactics}\n{text}");
    }
    let text = read("[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\ntactics = \"tyr\"\n[tactics.try]\n[[tactics.try.choice]]\ndo = { wait = true }").unwrap_err();
    assert!(text.contains("did you mean `try`?"), "{text}");
}

/// A choice out of a pool that uses all of the language.
fn choice(number: u8) -> &'static str {
    const POOL: [&str; 14] = [
        "do = { approach = 1.2 }",
        "do = { start = \"poke\", press-on = 0.7 }",
        "when = { chance = 0.3 }\ndo = { start = \"stone\", within = 8 }",
        "do = { start = \"sidestep\", lead = \"0.1s\", error = \"0.05s\", dash = { metres = 1, over = \"0.2s\", way = \"aside\" } }",
        "when = { compare = [{ left = \"distance\", below = 2 }] }\nlasts = \"1s\"\ndo = { flee = 4 }",
        "do = { circle = 2.5 }",
        "do = { keep-distance = [2, 4], pace = 0.5 }",
        "do = { patrol = [[2, 0, 2], [-3, 0, 1]] }",
        "when = { subject = { health = { at-most = 0.5 } } }\ndo = { hold-place = true }",
        "target = { friends = true, dead = true }\ndo = { revive = 0.5 }",
        "when = { other = { phase = \"startup\" } }\ndo = { wait = true }",
        "do = { start = \"heave\", hold = [\"0.2s\", \"0.9s\"] }",
        "do = { start = \"shove\" }",
        "do = { drift = [1, 0, -1], wrap = { from = [-9, -1, -9], to = [9, 1, 9] } }",
    ];
    POOL[usize::from(number) % POOL.len()]
}

proptest! {
    #![proptest_config(cases(24))]

    /// About each up axis, from any facing to any target: a body turns no faster than it may and always nearer to it, stays upright, and
    /// ends up facing it.
    #[test]
    fn it_turns_no_faster_than_it_may(
        up in prop::sample::select(vec!["x", "y", "z"]),
        facing in -180.0f32..180.0,
        bearing in prop_oneof![-180.0f32..180.0, Just(0.0), Just(180.0)],
        turns in prop_oneof![20.0f32..400.0, Just(20_000.0)],
    ) {
        // The up axis, and the axes ahead and aside of a body that is not turned.
        let [upright, ahead, aside] = match up {
            "x" => [[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]],
            "y" => [[0.0, 1.0, 0.0], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0]],
            _ => [[0.0, 0.0, 1.0], [0.0, 1.0, 0.0], [-1.0, 0.0, 0.0f32]],
        };
        let dot = |a: [f32; 3], b: [f32; 3]| a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
        let (sine, cosine) = bearing.to_radians().sin_cos();
        let post: [f32; 3] = std::array::from_fn(|axis| 5.0 * (ahead[axis] * cosine + aside[axis] * sine));
        let rules = RULES.replace("rate = 60", &format!("rate = 60\nup = \"{up}\""));
        let open = |_: Wanted<'_>| Ok(("minds.rules.toml".to_owned(), rules.as_bytes().to_vec()));
        let text = format!(
            "{HEAD}[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\nfacing = {facing}\n\
             [combatant.post]\ntemplate = \"post\"\nat = {post:?}\n\
             [tactics.try]\nfor = {{ template = \"mason\" }}\nturns = {turns}\n[[tactics.try.choice]]\ndo = {{ wait = true }}"
        );
        let scenario = Scenario::read("minds.toml", &text, &open).map_err(|unusable| unusable.text()).unwrap();
        let mut play = Play::new(&scenario, Options { ticks: Some(640), ..Options::default() });
        let (mut before, mut off_before, mut first) = (None, 181.0, None);
        while play.tick().unwrap() {
            let view = play.encounter.view();
            let odo = view.combatants().find(|&who| play.run.names.of(who) == "odo").unwrap();
            let pose = view.pose(odo).unwrap();
            prop_assert!(dot(pose.direction(upright), upright) > 1.0 - 1.0e-5, "{pose:?}");
            prop_assert!((pose.turn.iter().map(|x| x * x).sum::<f32>() - 1.0).abs() < 1.0e-5, "{pose:?}");
            let now = pose.direction(ahead);
            let degrees = |a, b| dot(a, b).clamp(-1.0, 1.0).acos().to_degrees();
            let off = degrees(now, post.map(|x| x / 5.0));
            let turned = before.map_or(0.0, |before| degrees(before, now));
            prop_assert!(turned <= turns / 60.0 + 0.05, "{turned}");
            prop_assert!(off <= off_before + 0.05, "{off} after {off_before}");
            (before, off_before) = (Some(now), off);
            first.get_or_insert(off);
        }
        prop_assert!(off_before < 0.1, "{off_before}, from {first:?}");
    }

    /// Whatever the tactics: the same seed gives the same bits, told or not; nothing is ordered that is refused for what was known; no one
    /// is faster or turns faster than it may, or stands in a wall.
    #[test]
    fn any_tactics_keep_to_what_is_possible(
        ours in prop::collection::vec(any::<u8>(), 1..6),
        theirs in prop::collection::vec(any::<u8>(), 1..6),
        seed in any::<u64>(),
        speed in 1u32..6,
    ) {
        let choices = |name: &str, all: &[u8]| -> String {
            all.iter().map(|&one| format!("[[tactics.{name}.choice]]\n{}\n", choice(one))).collect()
        };
        let text = format!(
            "[combatant.odo]\ntemplate = \"mason\"\ncount = 2\nat = [-1, 0, -3]\napart = [2, 0, 0]\n\
             [combatant.hound]\ntemplate = \"hound\"\ncount = 3\nat = [-2, 0, 3]\napart = [2, 0, 0]\nfacing = 180\n\
             [level.rock]\nsphere = {{ at = [0, 0.5, 0], radius = 1 }}\n\
             [tactics.ours]\nfor = {{ template = \"mason\" }}\nspeed = {speed}\nturns = 300\nreaction = [\"0.05s\", \"0.2s\"]\n{}\
             [tactics.theirs]\nfor = {{ template = \"hound\" }}\nspeed = {speed}\nturns = 300\n{}",
            choices("ours", &ours), choices("theirs", &theirs)
        );
        let scenario = read(&text).unwrap();
        let options = Options { seed: Some(seed), ticks: Some(480), ..Options::default() };
        let one = run(&scenario, options);
        let again = run(&scenario, options);
        prop_assert_eq!(one.checksum, again.checksum);
        let told = run(&scenario, Options { choices: true, ..options });
        prop_assert_eq!(&one.places, &told.places);
        // Another seed goes another way, unless nothing in it rolls.
        let refused: Vec<&Event> = told.events.iter().map(|(_, event)| event).filter(|event| matches!(event, Event::OrderRefused(_))).collect();
        // What changes within the tick itself cannot be known: a death or a stun of the same tick.
        prop_assert!(refused.len() * 20 <= told.starts().len().max(20), "{refused:?}");
        let most = speed as f32 / 60.0 + 0.05 + 2.0 / 18.0 + 1.0 / 12.0 + 0.01;
        for (name, way) in &one.places {
            for two in way.windows(2) {
                if let [Some(from), Some(to)] = two {
                    let step = far(*from, *to);
                    prop_assert!(step <= most || step > 5.0, "{name}: {step}");
                }
            }
            let drifts = ours.iter().chain(&theirs).any(|one| usize::from(*one) % 14 == 13);
            let inside = |at: &Flat| far(*at, [0.0, 0.0]) < 0.9;
            prop_assert!(drifts || !way.iter().flatten().any(inside), "{name} stands in the rock");
        }
    }
}

#[test]
fn everyone_else_is_left_to_the_host() {
    let ran = told(
        "[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n[combatant.hound]\ntemplate = \"hound\"\nat = [0, 0, 3]\n\
                    [tactics.try]\nfor = { template = \"hound\" }\n[[tactics.try.choice]]\ndo = { approach = 1 }",
    );
    assert!(ran.way("odo").iter().all(|at| *at == [0.0, 0.0]));
    let ids: Vec<CombatantId> =
        ran.events.iter().filter_map(|(_, event)| Some(TacticsChose::of(event)?.subject)).collect();
    assert!(!ids.is_empty() && ids.windows(2).all(|two| two[0] == two[1]));
}
