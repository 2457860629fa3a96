//! Skeletons, their animations, and where the joints are at a time.

use hammerstone::geometry::{Axis, Pose};

use crate::remarks::Remark;
use crate::turns::{Local, Place, Turn, on_arc, on_line, unit};

/// No skeleton has more joints.
pub(crate) const MOST_JOINTS: usize = 4096;
/// No animation lasts longer, in seconds.
pub(crate) const LONGEST: f64 = 3600.0;
/// No file has animations of more seconds, times its joints: 100 joints for more than an hour.
const MOST_JOINT_SECONDS: f64 = 400_000.0;
/// No file has more numbers in its animations.
pub(crate) const MOST_NUMBERS: usize = 1 << 26;

/// Why a file is no skeleton.
#[derive(Clone, PartialEq, Eq, Debug, thiserror::Error)]
#[error("{place}: {problem}")]
pub struct MotionError {
    /// Where it is: a line, a node, a channel of an animation.
    pub place: String,
    /// The problem there, and its fix.
    pub problem: String,
}

impl MotionError {
    pub(crate) fn new(place: impl Into<String>, problem: impl Into<String>) -> MotionError {
        MotionError { place: place.into(), problem: problem.into() }
    }
}

/// A joint of a skeleton.
#[derive(Clone, PartialEq, Debug)]
pub struct Joint {
    /// Its name; of a joint without one, that of its place in the file.
    pub name: String,
    /// The joint that carries it, by its number, which is below its own.
    pub parent: Option<usize>,
    /// Where it is at rest, in the frame of its parent.
    pub(crate) rest: Local,
}

/// A moment of an animation that has a name.
#[derive(Clone, PartialEq, Debug)]
pub struct Marker {
    /// Its name.
    pub name: String,
    /// When it is, in seconds from the start.
    pub at: f64,
}

/// How what a joint does goes on from key to key.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Between {
    /// It stays until the next key.
    Stays,
    /// Places along a line, turns along the shorter arc.
    Evenly,
    /// On a cubic with a slope before and behind each key: three values for each.
    Cubic,
}

/// Keys of one joint: places, or turns.
#[derive(Clone, PartialEq, Debug)]
pub(crate) struct Track<const N: usize> {
    pub(crate) between: Between,
    /// Rising, in seconds.
    pub(crate) times: Vec<f64>,
    pub(crate) values: Vec<[f64; N]>,
}

impl<const N: usize> Track<N> {
    /// The value at a time: that of the first key before it, of the last behind it.
    fn at(&self, seconds: f64, mix: fn([f64; N], [f64; N], f64) -> [f64; N]) -> [f64; N] {
        let value = |key: usize| match self.between {
            Between::Cubic => self.values[3 * key + 1],
            Between::Stays | Between::Evenly => self.values[key],
        };
        let next = self.times.partition_point(|&time| time <= seconds);
        if next == 0 || next == self.times.len() {
            return value(next.saturating_sub(1));
        }
        let (from, to) = (self.times[next - 1], self.times[next]);
        let long = to - from;
        let share = (seconds - from) / long;
        match self.between {
            Between::Stays => value(next - 1),
            Between::Evenly => mix(value(next - 1), value(next), share),
            Between::Cubic => {
                let (square, cube) = (share * share, share * share * share);
                let (start, end) = (value(next - 1), value(next));
                let (leaves, comes) = (self.values[3 * next - 1], self.values[3 * next]);
                let mut out = [0.0; N];
                for (i, out) in out.iter_mut().enumerate() {
                    *out = (2.0 * cube - 3.0 * square + 1.0) * start[i]
                        + long * (cube - 2.0 * square + share) * leaves[i]
                        + (3.0 * square - 2.0 * cube) * end[i]
                        + long * (cube - square) * comes[i];
                }
                out
            }
        }
    }
}

/// What one joint does in an animation.
#[derive(Clone, PartialEq, Debug, Default)]
pub(crate) struct Tracks {
    pub(crate) at: Option<Track<3>>,
    pub(crate) turn: Option<Track<4>>,
}

/// An animation of a skeleton.
#[derive(Clone, PartialEq, Debug)]
pub struct Animation {
    /// Its name.
    pub name: String,
    /// How long it lasts.
    pub seconds: f64,
    /// Moments with names, in order of time.
    pub markers: Vec<Marker>,
    /// By joint; those behind the last stay at rest.
    pub(crate) tracks: Vec<Tracks>,
}

impl Animation {
    /// When a marker is, in seconds from the start.
    pub fn marker(&self, name: &str) -> Option<f64> {
        self.markers.iter().find(|marker| marker.name == name).map(|marker| marker.at)
    }

    /// Whether it moves a joint, by its number.
    pub fn moves(&self, joint: usize) -> bool {
        self.tracks.get(joint).is_some_and(|tracks| tracks.at.is_some() || tracks.turn.is_some())
    }
}

/// Where every joint is in the frame of the one that carries it.
#[derive(Clone, PartialEq, Debug, Default)]
pub struct Stance(pub(crate) Vec<Local>);

/// Joints that carry each other, and what they do.
///
/// *Frame:* that of the body that it moves. *Units:* metres and seconds. *Determinism:* the same bits everywhere.
#[derive(Clone, PartialEq, Debug)]
pub struct Skeleton {
    /// Parents stand before those that they carry.
    pub(crate) joints: Vec<Joint>,
    pub(crate) animations: Vec<Animation>,
    pub(crate) remarks: Vec<Remark>,
    pub(crate) up: Axis,
}

impl Skeleton {
    /// The axis that is up in its frame.
    pub fn up(&self) -> Axis {
        self.up
    }

    /// Its joints; one that carries another stands before it.
    pub fn joints(&self) -> &[Joint] {
        &self.joints
    }

    /// What it can do.
    pub fn animations(&self) -> &[Animation] {
        &self.animations
    }

    /// The number of the first joint of that name.
    pub fn joint(&self, name: &str) -> Option<usize> {
        self.joints.iter().position(|joint| joint.name == name)
    }

    /// The number of the first animation of that name.
    pub fn animation(&self, name: &str) -> Option<usize> {
        self.animations.iter().position(|animation| animation.name == name)
    }

    /// The stance at rest.
    pub fn rest(&self) -> Stance {
        Stance(self.joints.iter().map(|joint| joint.rest).collect())
    }

    /// The stance at a time of an animation: that of its start before it, that of its end behind it. At rest for one that is not there.
    pub fn stance(&self, animation: usize, seconds: f64) -> Stance {
        let mut stance = self.rest();
        if let Some(animation) = self.animations.get(animation) {
            for (local, tracks) in stance.0.iter_mut().zip(&animation.tracks) {
                if let Some(track) = &tracks.at {
                    local.at = track.at(seconds, on_line);
                }
                if let Some(track) = &tracks.turn {
                    local.turn = unit(track.at(seconds, on_arc)).unwrap_or(local.turn);
                }
            }
        }
        stance
    }

    /// Between two stances: places along lines, turns evenly along the shorter arcs. `share` is 0 for the first, and 1 for the other.
    pub fn between(&self, one: &Stance, other: &Stance, share: f64) -> Stance {
        let both = one.0.iter().zip(&other.0);
        Stance(both.map(|(&one, &other)| one.between(other, share)).collect())
    }

    /// Where the joints of a stance are in the frame of the body.
    pub fn poses(&self, stance: &Stance) -> Vec<Pose> {
        self.placed(stance).into_iter().map(Local::pose).collect()
    }

    pub(crate) fn placed(&self, stance: &Stance) -> Vec<Local> {
        let mut placed: Vec<Local> = Vec::with_capacity(self.joints.len());
        for (joint, &local) in self.joints.iter().zip(&stance.0) {
            let carrier = joint.parent.map_or(Local::SAME, |parent| placed[parent]);
            placed.push(carrier.then(local));
        }
        placed
    }

    /// Where a joint is at rest in the frame of another, in metres: what a shape from joint to joint is fitted to.
    pub fn offset(&self, from: usize, to: usize) -> Option<[f32; 3]> {
        let placed = self.placed(&self.rest());
        let to = placed.get(to)?.at;
        Some(placed.get(from)?.within(to).map(|x| x as f32 + 0.0))
    }

    /// How far any of these joints gets from the origin of the body, at rest and in all animations, in metres.
    pub fn reach(&self, joints: &[usize]) -> f32 {
        let mut reach = 0.0f64;
        let mut look = |stance: &Stance| {
            let placed = self.placed(stance);
            for local in joints.iter().filter_map(|&joint| placed.get(joint)) {
                let far = crate::turns::distance(local.at, [0.0; 3]);
                reach = if far > reach { far } else { reach };
            }
        };
        look(&self.rest());
        for number in 0..self.animations.len() {
            for seconds in self.moments(number, crate::speeds::RATE) {
                look(&self.stance(number, seconds));
            }
        }
        reach as f32
    }

    /// Moments of an animation, so many in a second, with its end.
    pub(crate) fn moments(&self, animation: usize, rate: u32) -> impl Iterator<Item = f64> + use<> {
        let seconds = self.animations.get(animation).map_or(0.0, |animation| animation.seconds);
        let whole = (seconds * f64::from(rate)).ceil() as u32;
        (0..=whole).map(move |step| (f64::from(step) / f64::from(rate)).min(seconds))
    }

    /// Takes in the animations of another file for the same skeleton, by the names of joints. A joint that this skeleton does not have is
    /// passed over, with a remark; one that moves there and here only at rest stays as it is there.
    pub fn take_in(&mut self, other: Skeleton) {
        let places: Vec<Option<usize>> = other.joints.iter().map(|joint| self.joint(&joint.name)).collect();
        for animation in other.animations {
            let mut tracks: Vec<Tracks> = Vec::new();
            tracks.resize_with(self.joints.len(), Tracks::default);
            for (joint, moved) in animation.tracks.into_iter().enumerate() {
                match places[joint] {
                    Some(place) => tracks[place] = moved,
                    None if moved != Tracks::default() => self.remarks.push(Remark {
                        place: format!("animation `{}`", animation.name),
                        text: format!(
                            "it moves joint `{}`, which the skeleton does not have",
                            other.joints[joint].name
                        ),
                        fix: "name the joints alike in both files".to_owned(),
                    }),
                    None => {}
                }
            }
            self.animations.push(Animation { tracks, ..animation });
        }
        self.remarks.extend(other.remarks);
    }

    /// Calls an animation otherwise.
    pub fn rename(&mut self, animation: usize, name: &str) {
        if let Some(animation) = self.animations.get_mut(animation) {
            name.clone_into(&mut animation.name);
        }
    }

    /// A skeleton with its animations from the bytes of a glTF or BVH file, whichever it is. `animation` is what the one of a BVH file is
    /// called; `open` gives the bytes of a buffer that a glTF file names beside itself.
    ///
    /// *Errors:* those of [`from_gltf`](Self::from_gltf) and [`from_bvh`](Self::from_bvh); a file that is neither.
    pub fn from_bytes(
        bytes: &[u8],
        animation: &str,
        axes: crate::Axes,
        open: &mut dyn FnMut(&str) -> Result<Vec<u8>, String>,
    ) -> Result<Skeleton, MotionError> {
        let first = bytes.iter().find(|byte| !byte.is_ascii_whitespace());
        if bytes.starts_with(b"glTF") || first == Some(&b'{') {
            return Skeleton::from_gltf(bytes, axes, open);
        }
        match std::str::from_utf8(bytes) {
            Ok(text) if text.trim_start().starts_with("HIERARCHY") => {
                Skeleton::from_bvh(text, animation, axes)
            }
            _ => Err(MotionError::new("file", "it is neither glTF 2.0 nor BVH; export it as one of these")),
        }
    }

    /// Gives an animation markers beside those of its file; one of the same name is replaced. Gives whether the animation is there.
    pub fn mark(&mut self, animation: &str, markers: impl IntoIterator<Item = Marker>) -> bool {
        let Some(number) = self.animation(animation) else { return false };
        let own = &mut self.animations[number].markers;
        for marker in markers {
            own.retain(|known| known.name != marker.name);
            own.push(marker);
        }
        own.sort_by(|a, b| a.at.total_cmp(&b.at));
        true
    }

    /// What was read from a file, looked through.
    ///
    /// *Errors:* animations that last too long for so many joints: each moment of each joint is looked at, here and when speeds are asked for.
    pub(crate) fn new(
        joints: Vec<Joint>,
        animations: Vec<Animation>,
        up: Axis,
    ) -> Result<Skeleton, MotionError> {
        let seconds: f64 = animations.iter().map(|animation| animation.seconds).sum();
        if seconds * joints.len() as f64 > MOST_JOINT_SECONDS {
            let problem = format!(
                "its animations last {seconds:.0} s with {} joints; more than {MOST_JOINT_SECONDS} s times joints are not read: cut it, or split it",
                joints.len()
            );
            return Err(MotionError::new("file", problem));
        }
        let mut skeleton = Skeleton { joints, animations, remarks: Vec::new(), up };
        crate::remarks::look(&mut skeleton);
        Ok(skeleton)
    }
}

/// A number of a file that is finite and no giant.
pub(crate) fn sound(value: f64) -> bool {
    value.abs() <= 1.0e9
}

pub(crate) type Places = Vec<Place>;
pub(crate) type Turns = Vec<Turn>;
