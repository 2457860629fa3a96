//! What is odd in a file, though it can be read.

use std::collections::BTreeMap;

use crate::skeleton::{Skeleton, Tracks};
use crate::speeds::RATE;
use crate::turns::{degrees_between, distance};

/// Something in a skeleton's file that is hardly meant, or that is not used.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Remark {
    /// Where it is: a joint, an animation.
    pub place: String,
    /// What it is.
    pub text: String,
    /// What to do about it.
    pub fix: String,
}

/// No one is that large, in metres.
const TALL: f64 = 30.0;
/// No joint moves as fast, in metres a second.
const TORN: f64 = 150.0;
/// No joint turns so far within a sixtieth of a second, in degrees.
const WRUNG: f64 = 90.0;
/// So far a root wanders without being told, in metres.
const WANDERED: f64 = 0.5;

impl Skeleton {
    /// What is odd in its file: what was passed over, joints and animations that are hardly meant so. In the order of the file.
    pub fn remarks(&self) -> &[Remark] {
        &self.remarks
    }

    pub(crate) fn remark(&mut self, place: impl Into<String>, text: impl Into<String>, fix: &str) {
        self.remarks.push(Remark { place: place.into(), text: text.into(), fix: fix.to_owned() });
    }
}

/// Looks through a skeleton that was read.
pub(crate) fn look(skeleton: &mut Skeleton) {
    names(skeleton);
    size(skeleton);
    for number in 0..skeleton.animations.len() {
        motion(skeleton, number);
    }
}

fn names(skeleton: &mut Skeleton) {
    let mut count: BTreeMap<String, usize> = BTreeMap::new();
    for joint in &skeleton.joints {
        *count.entry(joint.name.clone()).or_default() += 1;
    }
    for (name, count) in count.into_iter().filter(|(_, count)| *count > 1) {
        let text = format!("{count} joints have this name, and a ruleset reaches only the first");
        skeleton.remark(format!("joint `{name}`"), text, "give each joint a name of its own");
    }
    let mut count: BTreeMap<String, usize> = BTreeMap::new();
    for animation in &skeleton.animations {
        *count.entry(animation.name.clone()).or_default() += 1;
    }
    for (name, count) in count.into_iter().filter(|(_, count)| *count > 1) {
        let text = format!("{count} animations have this name, and a ruleset reaches only the first");
        skeleton.remark(format!("animation `{name}`"), text, "give each animation a name of its own");
    }
}

fn size(skeleton: &mut Skeleton) {
    let placed = skeleton.placed(&skeleton.rest());
    let (mut low, mut high) = ([f64::INFINITY; 3], [f64::NEG_INFINITY; 3]);
    for local in &placed {
        for axis in 0..3 {
            low[axis] = low[axis].min(local.at[axis]);
            high[axis] = high[axis].max(local.at[axis]);
        }
    }
    let size = [0, 1, 2].map(|axis| high[axis] - low[axis]);
    let long = size.into_iter().fold(0.0, f64::max);
    if long > TALL {
        let text = format!("it is {long:.0} m long");
        skeleton.remark(
            "skeleton",
            text,
            "if its file is in centimetres, say `scale = 0.01`; in inches, `scale = 0.0254`",
        );
    } else if long < 0.02 && skeleton.joints.len() > 1 {
        let text = format!("it is {:.1} mm long", long * 1000.0);
        skeleton.remark("skeleton", text, "say how many metres a unit of the file is: `scale = 100`");
    }
}

fn motion(skeleton: &mut Skeleton, number: usize) {
    let animation = &skeleton.animations[number];
    let place = format!("animation `{}`", animation.name);
    if animation.tracks.iter().all(|tracks| *tracks == Tracks::default()) {
        skeleton.remark(place, "it moves no joint", "export it with its keys, or take it out");
        return;
    }
    if animation.seconds == 0.0 {
        skeleton.remark(
            place,
            "it has no length: all of its keys are at one time",
            "give it a second key, or take it out",
        );
        return;
    }
    let up = skeleton.up() as usize;
    let moments: Vec<f64> = skeleton.moments(number, RATE).collect();
    let mut before: Option<(f64, Vec<_>, Vec<_>)> = None;
    let mut found: BTreeMap<usize, (f64, f64, bool)> = BTreeMap::new();
    let mut start = Vec::new();
    let mut wandered = BTreeMap::new();
    for seconds in moments {
        let stance = skeleton.stance(number, seconds);
        let placed = skeleton.placed(&stance);
        if let Some((then, before, turns)) = &before {
            for joint in 0..placed.len() {
                let speed = distance(placed[joint].at, {
                    let before: &Vec<crate::turns::Local> = before;
                    before[joint].at
                }) / (seconds - then).max(1.0e-9);
                let turns: &Vec<crate::turns::Local> = turns;
                let turned = degrees_between(turns[joint].turn, stance.0[joint].turn);
                if speed > TORN {
                    found.entry(joint).or_insert((seconds, speed, true));
                } else if turned > WRUNG {
                    found.entry(joint).or_insert((seconds, turned, false));
                }
            }
        } else {
            start.clone_from(&placed);
        }
        for (joint, root) in skeleton.joints.iter().enumerate().filter(|(_, joint)| joint.parent.is_none()) {
            let far: &mut f64 = wandered.entry(root.name.clone()).or_default();
            // Going down and up is no wandering.
            let (mut now, mut first) = (placed[joint].at, start[joint].at);
            (now[up], first[up]) = (0.0, 0.0);
            *far = far.max(distance(now, first));
        }
        before = Some((seconds, placed, stance.0));
    }
    let mut told = found.into_iter();
    if let Some((joint, (at, much, far))) = told.next() {
        let name = &skeleton.joints[joint].name;
        let more = match told.count() {
            0 => String::new(),
            more => format!(", and {more} more joints like it"),
        };
        let text = match far {
            true => format!("joint `{name}` moves at {much:.0} m/s at {at:.2} s{more}"),
            false => format!(
                "joint `{name}` turns by {much:.0} degrees in a sixtieth of a second at {at:.2} s{more}"
            ),
        };
        skeleton.remark(
            place.clone(),
            text,
            "look at its keys: what lies between them is swept, and strikes",
        );
    }
    for (name, far) in wandered.into_iter().filter(|(_, far)| *far > WANDERED) {
        let text =
            format!("root `{name}` goes {far:.2} m from where it begins, and the body does not go with it");
        skeleton.remark(place.clone(), text, "let the animation stay in its place, and move the combatant");
    }
}
