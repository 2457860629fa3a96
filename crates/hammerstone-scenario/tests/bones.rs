//! Fights in files with bodies that follow skeletons: against the same done by hand, with mistakes in their files, and with findings.

use std::path::Path;

use hammerstone::event::{Event, HitLanded};
use hammerstone::geometry::{Axis, Frame};
use hammerstone::prelude::*;
use hammerstone_motion::{Animator, Axes, Clip, Skeleton};
use hammerstone_rules::RulesFile;
use hammerstone_scenario::{Options, Play, Scenario, Wanted, check_rules, check_skeleton};

const FOLDER: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../scenarios");

fn text(name: &str) -> String {
    std::fs::read_to_string(format!("{FOLDER}/{name}")).expect("it is shipped")
}

fn beside(wanted: &str) -> Result<(String, Vec<u8>), String> {
    let path = Path::new(FOLDER).join(wanted);
    let bytes = std::fs::read(&path).map_err(|error| error.to_string())?;
    Ok((wanted.to_owned(), bytes))
}

fn scenario(name: &str) -> Scenario {
    let path = Path::new(FOLDER).join(name);
    let open = |wanted: Wanted<'_>| {
        let path = wanted.path(&path);
        let bytes = std::fs::read(&path).map_err(|error| error.to_string())?;
        Ok((path.display().to_string(), bytes))
    };
    Scenario::read(&path.display().to_string(), &text(name), &open)
        .unwrap_or_else(|error| panic!("{}", error.text()))
}

fn rules() -> String {
    text("bones.rules.toml")
}

fn wrong(changed: &str) -> String {
    match RulesFile::read_with("bones.rules.toml", changed, &beside) {
        Ok(_) => panic!("it can be read"),
        Err(error) => error.text(),
    }
}

/// `text` with one thing in place of another, which is there.
fn with(text: &str, from: &str, to: &str) -> String {
    assert!(text.contains(from), "{from}");
    text.replacen(from, to, 1)
}

fn hits(encounter: &Encounter, landed: &mut Vec<(u32, u16)>) {
    for event in encounter.facts().events() {
        if let Event::HitLanded(HitLanded { part, .. }) = event {
            landed.push((encounter.view().tick(), *part));
        }
    }
}

/// What a file says is what a host does with the same calls.
#[test]
fn a_fight_in_a_file_poses_as_a_host_would() {
    let scenario = scenario("bones/ducking.toml");
    let mut played = Vec::new();
    let mut play = Play::new(&scenario, Options::default());
    while play.tick().unwrap() {
        hits(&play.encounter, &mut played);
    }
    assert_eq!(played.len(), 2);

    let file = &scenario.rules;
    let rules = &file.ruleset;
    let read = |name: &str, axes: Axes| {
        let bytes = beside(name).unwrap().1;
        let stem = name.rsplit('/').next().unwrap().split('.').next().unwrap();
        Skeleton::from_bytes(&bytes, stem, axes, &mut |_| Err(String::new())).unwrap()
    };
    let mason_bones = read("bones/mason.glb", Axes::same(Axis::Y));
    let centimetres = Axes { from: Axis::Z, to: Axis::Y, turn: 0.0, scale: 0.01 };
    let gaunt_bones = read("bones/gaunt-ducks.bvh", centimetres);
    let joints = |names: &[&str], bones: &Skeleton| -> Vec<usize> {
        names.iter().map(|name| bones.joint(name).unwrap()).collect()
    };
    let mason_parts = joints(
        &[
            "pelvis",
            "chest",
            "head",
            "arm.l",
            "forearm.l",
            "arm.r",
            "forearm.r",
            "thigh.l",
            "shin.l",
            "thigh.r",
            "shin.r",
        ],
        &mason_bones,
    );
    let gaunt_parts = joints(
        &["hips", "back", "skull", "skull", "claw.l", "claw.r", "leg.l", "shank.l", "leg.r", "shank.r"],
        &gaunt_bones,
    );
    let hitboxes = [("sweep", vec!["maul", "maul.head"]), ("overhead", vec!["maul.head"])];
    let mut fight = Encounter::new(rules, 1);
    let [mason, gaunt] = ["mason", "gaunt"].map(|name| rules.find_template(name).unwrap());
    let east = Pose::IDENTITY.facing(Axis::Y, 90.0);
    let mason = fight.orders().spawn(mason, east);
    let gaunt = fight.orders().spawn(gaunt, Pose::at([1.65, 0.0, 0.0]).facing(Axis::Y, -90.0));
    let (mut of_mason, mut of_gaunt) = (Animator::default(), Animator::default());
    let mut by_hand = Vec::new();
    let starts = [(30, "sweep"), (222, "sweep"), (324, "overhead")];
    for tick in 0..480u32 {
        let seconds = f64::from(tick + 1) / 60.0;
        let view = fight.view();
        if tick > 0 {
            let swing = view.swings_of(mason).next();
            let clip = match &swing {
                Some(swing) => {
                    let name = rules.attack_name(swing.attack).unwrap();
                    let at = f64::from(swing.whole.passed + 1) / 60.0;
                    Clip { of: swing.id.number() + 1, ..Clip::once(mason_bones.animation(name), at) }
                }
                None => Clip::again(mason_bones.animation("stand"), seconds),
            };
            of_mason.play(&mason_bones, clip, 6);
            let poses = of_mason.poses(&mason_bones);
            let pick = |joints: &[usize]| joints.iter().map(|&joint| poses[joint]).collect::<Vec<_>>();
            fight.orders().pose_parts(mason, Frame::Body, &pick(&mason_parts));
            if let Some(swing) = swing {
                let name = rules.attack_name(swing.attack).unwrap();
                let (_, names) = hitboxes.iter().find(|(attack, _)| *attack == name).unwrap();
                fight.orders().guide_hitboxes(swing.id, Frame::Body, &pick(&joints(names, &mason_bones)));
            }
            if fight.view().life(gaunt) == Life::Standing {
                of_gaunt.play(&gaunt_bones, Clip::again(gaunt_bones.animation("gaunt-ducks"), seconds), 6);
                let poses = of_gaunt.poses(&gaunt_bones);
                let parts: Vec<Pose> = gaunt_parts.iter().map(|&joint| poses[joint]).collect();
                fight.orders().pose_parts(gaunt, Frame::Body, &parts);
            }
        }
        for (_, attack) in starts.iter().filter(|(at, _)| *at == tick) {
            fight.orders().start(mason, rules.find_attack(attack).unwrap());
        }
        fight.tick().unwrap();
        hits(&fight, &mut by_hand);
    }
    assert_eq!(played, by_hand);
}

/// Where every part of someone is, as their scene has it.
fn parts(play: &Play<'_>, who: CombatantId) -> Vec<String> {
    play.encounter.scene().parts(who).map(|part| format!("{:?}", part.moving)).collect()
}

#[test]
fn the_pose_at_death_stays_and_a_living_body_goes_on() {
    let scenario = scenario("bones/ducking.toml");
    let mut play = Play::new(&scenario, Options::default());
    let [mason, gaunt] = ["mason", "gaunt"].map(|name| play.combatant(name).unwrap());
    while play.encounter.view().tick() == 0 || play.encounter.view().life(gaunt) == Life::Standing {
        assert!(play.tick().unwrap());
    }
    play.tick().unwrap();
    let (lies, stands) = (parts(&play, gaunt), parts(&play, mason));
    assert_eq!(lies.len(), 9, "nine of ten: the spines are hidden");
    for _ in 0..30 {
        play.tick().unwrap();
    }
    assert_eq!(parts(&play, gaunt), lies);
    assert_ne!(parts(&play, mason), stands);
}

#[test]
fn bodies_that_move_walk_and_bodies_that_stand_do_not() {
    let scenario = scenario("bones/drill.toml");
    let mut play = Play::new(&scenario, Options::default());
    let apprentice = play.combatant("apprentice").unwrap();
    // The left foot, ahead of the body's place: it goes to and fro, and on the ground.
    let mut foot = Vec::new();
    for _ in 0..200 {
        play.tick().unwrap();
        let body = play.encounter.view().pose(apprentice).unwrap();
        let shin = play.encounter.scene().parts(apprentice).nth(8).unwrap();
        let Shape::Capsule { to, .. } = shin.moving.at(1.0) else { panic!("a shin is a capsule") };
        foot.push(to[0] - body.at[0]);
    }
    let spread = |ticks: &[f32]| {
        let most = ticks.iter().copied().fold(f32::MIN, f32::max);
        most - ticks.iter().copied().fold(f32::MAX, f32::min)
    };
    assert!(spread(&foot[20..110]) > 0.2, "{}", spread(&foot[20..110]));
    assert!(spread(&foot[140..]) < 0.01, "{}", spread(&foot[140..]));
}

#[test]
fn runs_are_the_same_and_a_reading_of_the_files_changes_none() {
    let feed = || {
        let scenario = scenario("bones/drill.toml");
        let mut play = Play::new(&scenario, Options::default());
        let mut hashes = Vec::new();
        while play.tick().unwrap() {
            hashes.push(play.encounter.checksum());
        }
        hashes
    };
    let first = feed();
    assert_eq!(first, feed());
    assert_eq!(first.len(), 420);
}

#[test]
fn what_is_wrong_is_told_at_its_place() {
    let rules = rules();
    let cases = [
        ("joint = \"head\"", "joint = \"heat\"", true, "there is no joint `heat`"),
        ("to = \"chest\", radius = 0.16", "to = \"chets\", radius = 0.16", true, "there is no joint `chets`"),
        ("name = \"sweep\" }", "name = \"sweeps\" }", true, "there is no animation `sweeps`"),
        ("from = \"opens\"", "from = \"open\"", true, "there is no marker `open`"),
        (
            "from = \"opens\", to = \"shuts\"",
            "from = \"shuts\", to = \"opens\"",
            true,
            "the window shuts at tick 27 and opens at tick 45",
        ),
        (
            "from = \"opens\", to = \"shuts\"",
            "from = \"opens\"",
            true,
            "a window has either `after` and `lasts`, or `from` and `to`, and all are alike",
        ),
        ("active = [", "startup = \"0.1s\"\nactive = [", true, "the markers say when the first window opens"),
        ("bones/mason.glb", "bones/masons.glb", true, "the skeleton `bones/masons.glb` cannot be read"),
        (
            "bones/mason.glb",
            "bones.rules.toml",
            true,
            "it is neither glTF 2.0 nor BVH; export it as one of these",
        ),
        ("scale = 0.01", "scale = 0", false, "the scale of a skeleton is not above zero"),
        ("idle = \"stand\"", "idle = \"sit\"", true, "there is no animation `sit`"),
        (
            "skeleton = \"gaunt\"\n",
            "",
            false,
            "part `back` of template `gaunt` follows a joint, and there is no skeleton",
        ),
        (
            "joint = \"hips\", bone",
            "bone",
            false,
            "part `back` of template `gaunt` has a bone that begins at no joint",
        ),
        (
            "joint = \"hips\", bone",
            "sphere = { at = [0, 0, 0], radius = 1 }, joint = \"hips\", bone",
            false,
            "has a bone and another shape",
        ),
    ];
    for (from, to, there, message) in cases {
        let told = wrong(&with(&rules, from, to));
        let line =
            told.lines().find(|line| line.contains(message)).unwrap_or_else(|| panic!("{from}: {told}"));
        // Most are told where the change is; the others at what depends on it.
        let changed = rules.split(from).next().map_or(0, |before| before.matches('\n').count() + 1);
        let place = format!("bones.rules.toml:{changed}:");
        assert!(!there || line.starts_with(&place), "{place} {line}");
    }
    let told = RulesFile::read("bones.rules.toml", &rules).unwrap_err().text();
    assert!(
        told.contains("the skeleton `bones/mason.glb` cannot be read: no other file is read with it"),
        "{told}"
    );
}

#[test]
fn what_is_hardly_meant_is_found() {
    let rules = rules();
    let found = |changed: &str| -> Vec<(u16, String)> {
        let file = RulesFile::read_with("bones.rules.toml", changed, &beside)
            .unwrap_or_else(|error| panic!("{}", error.text()));
        check_rules(&file).into_iter().map(|doubt| (doubt.finding.number, doubt.message)).collect()
    };
    assert_eq!(found(&rules), []);
    let markers = "active = [{ from = \"opens\", to = \"shuts\" }]";
    let cases = [
        (
            markers,
            "startup = \"1.2s\"\nactive = \"0.2s\"",
            22,
            "a window of `sweep` is open in ticks 73 to 84, and its animation `sweep` ends with tick 75",
        ),
        ("move-limit = 4", "move-limit = 1.2", 23, "a hitbox of `sweep` gets"),
        (
            "attacks = [\"claw\"]",
            "attacks = [\"claw\", \"sweep\"]",
            24,
            "`gaunt` uses attack `sweep`, which plays an animation of skeleton `mason`",
        ),
        (
            markers,
            "startup = \"1 tick\"\nactive = \"0.2s\"",
            25,
            "a window of `sweep` opens in its first two ticks",
        ),
        ("scale = 0.01", "scale = 1", 26, "`bones/gaunt-ducks.bvh`, skeleton: it is 215 m long"),
    ];
    for (from, to, number, message) in cases {
        let told = found(&with(&rules, from, to));
        assert!(
            told.iter().any(|(found, text)| *found == number && text.starts_with(message)),
            "{number}: {told:?}"
        );
    }
    // An animation that is cut short begins again elsewhere.
    let bytes = beside("bones/gaunt-ducks.bvh").unwrap().1;
    let cut = String::from_utf8(bytes).unwrap();
    let (head, _) = cut.split_at(cut.lines().take(90).map(|line| line.len() + 1).sum());
    let cut = with(head, "Frames: 51", &format!("Frames: {}", 90 - 63 + 1));
    let frames = cut.lines().filter(|line| line.split_whitespace().count() == 14).count();
    let cut = with(&cut, &format!("Frames: {}", 90 - 63 + 1), &format!("Frames: {frames}"));
    let open = |wanted: &str| match wanted.ends_with(".bvh") {
        true => Ok((wanted.to_owned(), cut.clone().into_bytes())),
        false => beside(wanted),
    };
    let file = RulesFile::read_with("bones.rules.toml", &rules, &open)
        .unwrap_or_else(|error| panic!("{}", error.text()));
    let told: Vec<String> = check_rules(&file).into_iter().map(|doubt| doubt.message).collect();
    assert!(
        told.iter()
            .any(|text| text
                .starts_with("animation `gaunt-ducks` of skeleton `gaunt` begins again, and joint")),
        "{told:?}"
    );
}

#[test]
fn a_skeleton_by_itself_is_looked_through() {
    let bytes = beside("bones/gaunt-ducks.bvh").unwrap().1;
    let read = |scale: f32| {
        let axes = Axes { from: Axis::Z, to: Axis::Y, turn: 0.0, scale };
        Skeleton::from_bytes(&bytes, "ducks", axes, &mut |_| Err(String::new())).unwrap()
    };
    assert!(check_skeleton("gaunt.bvh", &read(0.01)).is_empty());
    let told = check_skeleton("gaunt.bvh", &read(1.0));
    assert_eq!(told[0].finding.number, 26);
    assert_eq!(told[0].place(), ("gaunt.bvh", 1));
    assert!(told[0].fix.contains("`scale = 0.01`"));
}

/// An animation in a file of its own, with markers beside it, in a ruleset that has another axis up.
#[test]
fn animations_may_have_files_of_their_own() {
    let rules = with(&rules(), "[rules]", "[rules]\nup = \"z\"");
    let rules = with(&rules, "[skeleton.gaunt.animations.gaunt-ducks]", "[skeleton.gaunt.animations.again]");
    let file = RulesFile::read_with("bones.rules.toml", &rules, &beside)
        .unwrap_or_else(|error| panic!("{}", error.text()));
    let gaunt = &file.motion.rigs[1];
    assert_eq!(gaunt.skeleton.up(), Axis::Z);
    let names: Vec<&str> =
        gaunt.skeleton.animations().iter().map(|animation| animation.name.as_str()).collect();
    assert_eq!(names, ["gaunt-ducks", "again"]);
    let [first, again] = [0, 1].map(|number| gaunt.skeleton.stance(number, 0.9));
    assert_eq!(first, again);
    assert_eq!(gaunt.skeleton.animations()[1].marker("down"), Some(0.85));
    // Its hips are 1.1 m above the ground, whichever axis that is.
    assert_eq!(gaunt.skeleton.poses(&gaunt.skeleton.rest())[0].at, [0.0, 0.0, 1.1]);
}

#[test]
fn larger_bodies_have_longer_bones_and_hidden_parts_are_not_there() {
    let scenario = scenario("bones/spines.toml");
    let mut play = Play::new(&scenario, Options::default());
    let [gaunt, whelp] = ["gaunt", "whelp"].map(|name| play.combatant(name).unwrap());
    for _ in 0..20 {
        play.tick().unwrap();
    }
    // Both do the same; the whelp is half as large, and turned otherwise.
    let heights = |play: &Play<'_>, who| -> Vec<f32> {
        let of = |shape: Shape| match shape {
            Shape::Capsule { to, .. } => to[1],
            Shape::Sphere { at, .. } => at[1],
            Shape::Box { pose, .. } => pose.at[1],
        };
        play.encounter.scene().parts(who).map(|part| of(part.moving.at(1.0))).collect()
    };
    let (whole, half) = (heights(&play, gaunt), heights(&play, whelp));
    assert_eq!((whole.len(), half.len()), (9, 9));
    assert!(
        whole.iter().zip(&half).all(|(whole, half)| (whole * 0.5 - half).abs() < 1e-4),
        "{whole:?} {half:?}"
    );
    let view = play.encounter.view();
    assert_eq!(
        (view.is_hidden(gaunt, 2), view.is_hidden(gaunt, 3), view.is_hidden(gaunt, 10)),
        (Some(true), Some(false), None)
    );
    assert_eq!(view.size(whelp), Some(hammerstone::Fixed::raw(5_000)));
    for _ in 20..210 {
        play.tick().unwrap();
    }
    assert_eq!(play.encounter.view().is_hidden(gaunt, 2), Some(false), "it bristles");
}
