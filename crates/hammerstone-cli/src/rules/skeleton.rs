//! Skeletons by themselves, and attacks against their animations.

use std::io::{self, Write};
use std::path::Path;

use hammerstone_motion::{Skeleton, Speed};
use hammerstone_scenario::RulesFile;

use crate::args::{FrameOptions, Up};
use crate::{Failure, Outcome, files, output};

/// How often in a second a file is looked at.
const RATE: u32 = 60;
/// How many animations have a column each; of more, a joint shows the one that moves it fastest.
const MOST: usize = 6;

/// The joints of a skeleton as a tree, with their speeds; its animations, and where an end moves fastest in each.
pub(super) fn timings(path: &Path, frame: FrameOptions) -> Result<Outcome, Failure> {
    let skeleton = files::skeleton(path, frame)?;
    let mut out = output::open(None)?;
    output::written(written(&mut out, path, frame, &skeleton).and_then(|()| out.flush()))?;
    Ok(Outcome::Fine)
}

fn written(out: &mut dyn Write, path: &Path, frame: FrameOptions, skeleton: &Skeleton) -> io::Result<()> {
    let (joints, animations) = (skeleton.joints(), skeleton.animations());
    let up = match frame.up {
        Up::X => "x",
        Up::Y => "y",
        Up::Z => "z",
    };
    writeln!(
        out,
        "{}: {} joints, {} animation{}; read with {up} up and {} m in a unit, shown with y up in metres\n",
        path.display(),
        joints.len(),
        animations.len(),
        if animations.len() == 1 { "" } else { "s" },
        frame.scale
    )?;
    let speeds: Vec<Vec<Speed>> =
        (0..animations.len()).map(|animation| skeleton.speeds(animation, RATE)).collect();
    let each = animations.len() <= MOST;
    let mut columns = vec![("joint", false), ("at rest", false)];
    match each {
        true => columns.extend(animations.iter().map(|animation| (animation.name.as_str(), true))),
        false => columns.extend([("fastest, m/s", true), ("in", false)]),
    }
    let rest = skeleton.poses(&skeleton.rest());
    let mut rows = Vec::new();
    for number in tree(skeleton) {
        let (joint, pose) = (&joints[number], rest[number]);
        let mut row = vec![
            format!("{}{}", "  ".repeat(depth(skeleton, number)), joint.name),
            pose.at.map(|x| format!("{x:.2}")).join(" "),
        ];
        let speed = |animation: usize| speeds[animation][number].most;
        if each {
            row.extend((0..animations.len()).map(|animation| format!("{:.1}", speed(animation))));
        } else {
            let fastest =
                (0..animations.len()).max_by(|&a, &b| speed(a).total_cmp(&speed(b)).then(b.cmp(&a)));
            row.extend(fastest.map(|fastest| format!("{:.1}", speed(fastest))));
            row.extend(fastest.map(|fastest| animations[fastest].name.clone()));
        }
        rows.push(row);
    }
    if each && !animations.is_empty() {
        writeln!(out, "the most that a joint moves in each animation, in m/s")?;
    }
    output::table(out, &columns, &rows, "")?;
    if animations.is_empty() {
        return Ok(());
    }
    writeln!(out, "\nwhere the end that moves fastest is fast: where a window would open")?;
    let columns = [
        ("animation", false),
        ("seconds", true),
        ("joint", false),
        ("m/s", true),
        ("at", true),
        ("above half of it", false),
        ("markers", false),
    ];
    let rows: Vec<[String; 7]> = (0..animations.len())
        .map(|number| {
            let animation = &animations[number];
            let markers: Vec<String> =
                animation.markers.iter().map(|marker| format!("{} {:.2}", marker.name, marker.at)).collect();
            let head = [animation.name.clone(), format!("{:.2}", animation.seconds)];
            let tail = if markers.is_empty() { "-".to_owned() } else { markers.join(", ") };
            let [name, seconds] = head;
            match skeleton.fastest_ends(number, RATE).first() {
                Some(speed) => [
                    name,
                    seconds,
                    joints[speed.joint].name.clone(),
                    format!("{:.1}", speed.most),
                    format!("{:.2}", speed.at),
                    format!("{:.2} to {:.2} s", speed.fast[0], speed.fast[1]),
                    tail,
                ],
                None => [name, seconds, "-".into(), "-".into(), "-".into(), "-".into(), tail],
            }
        })
        .collect();
    output::table(out, &columns, &rows, "")
}

/// All joints, each before those that it carries and right behind those that are carried with it.
fn tree(skeleton: &Skeleton) -> Vec<usize> {
    let joints = skeleton.joints();
    let carried_by =
        |parent: Option<usize>| (0..joints.len()).rev().filter(move |&joint| joints[joint].parent == parent);
    let (mut order, mut waiting): (Vec<usize>, Vec<usize>) = (Vec::new(), carried_by(None).collect());
    while let Some(joint) = waiting.pop() {
        order.push(joint);
        waiting.extend(carried_by(Some(joint)));
    }
    order
}

fn depth(skeleton: &Skeleton, joint: usize) -> usize {
    std::iter::successors(skeleton.joints()[joint].parent, |&above| skeleton.joints()[above].parent).count()
}

/// The windows of attacks against the animations that they play; silent where none plays one.
pub(super) fn animated(out: &mut dyn Write, file: &RulesFile) -> io::Result<()> {
    let rules = &file.ruleset;
    let columns = [
        ("attack", false),
        ("animation", false),
        ("ticks", true),
        ("windows", false),
        ("hitbox", false),
        ("fastest", true),
        ("in tick", true),
        ("in a window", false),
        ("way in a tick", true),
    ];
    let mut rows: Vec<[String; 9]> = Vec::new();
    for (attack, played) in file.motion.attacks() {
        let rig = &file.motion.rigs[played.bound.rig];
        let animation = &rig.skeleton.animations()[played.animation];
        let Some(times) = rules.timings(attack) else { continue };
        let windows: Vec<String> =
            times.windows.iter().map(|(first, last)| format!("{first}-{last}")).collect();
        let speeds = rig.skeleton.speeds(played.animation, rules.rate());
        let fastest = played.bound.joints.iter().flatten().map(|&joint| speeds[joint]);
        let fastest = fastest.max_by(|a, b| a.most.total_cmp(&b.most));
        let rate = f64::from(rules.rate());
        let mut row = [
            rules.attacks()[attack.index()].name().to_owned(),
            format!("{} of {}", animation.name, rig.name),
            format!("{:.0}", (animation.seconds * rate - 1.0e-3).ceil()),
            if windows.is_empty() { "by markers".to_owned() } else { windows.join(" ") },
            "-".to_owned(),
            "-".to_owned(),
            "-".to_owned(),
            "-".to_owned(),
            "-".to_owned(),
        ];
        if let Some(speed) = fastest {
            let tick = (speed.at * rate).round() as u32 + 1;
            let open = times.windows.iter().any(|(first, last)| (*first..=*last).contains(&tick));
            row[4].clone_from(&rig.skeleton.joints()[speed.joint].name);
            row[5] = format!("{:.1} m/s", speed.most);
            row[6] = tick.to_string();
            row[7] = if open { "yes".to_owned() } else { "no".to_owned() };
            row[8] = format!("{:.2} m", speed.most / rate);
        }
        rows.push(row);
    }
    if rows.is_empty() {
        return Ok(());
    }
    writeln!(out, "\nanimations: windows should be open while a hitbox is fast")?;
    output::table(out, &columns, &rows, "")
}
