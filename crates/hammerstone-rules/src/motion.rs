//! Skeletons of a ruleset's file, and what follows their joints.

use std::ops::Range;

#[cfg(feature = "motion")]
mod with;
#[cfg(not(feature = "motion"))]
mod without;

#[cfg(feature = "motion")]
pub use with::Skeleton;
#[cfg(not(feature = "motion"))]
pub use without::Skeleton;

#[cfg(feature = "motion")]
use with::read;
#[cfg(not(feature = "motion"))]
use without::read;

use hammerstone::geometry::{Axis, Pose, Shape};
use hammerstone::ids::{AttackId, TemplateId};

use crate::raw;
use crate::rules::{Ids, Resolver};
use crate::values::Shapes;

/// Gives the full name and the bytes of a file that a ruleset names, relative to itself, or says why it cannot.
pub type Opener<'a> = dyn Fn(&str) -> Result<(String, Vec<u8>), String> + 'a;

/// A skeleton of a ruleset, with what its bodies do by themselves.
#[derive(Clone, Debug)]
pub struct Rig {
    /// Its name.
    pub name: String,
    /// The full name of its file.
    pub file: String,
    /// What was read from it.
    pub skeleton: Skeleton,
    /// The animation of a body that stands and does nothing.
    pub idle: Option<usize>,
    /// The animation of a body that moves.
    pub walk: Option<usize>,
    /// How fast that walks, in metres a second; none if it runs at its own pace, however fast the body is.
    pub walk_speed: Option<f32>,
    /// How many ticks lead from one animation to the next.
    pub blend: u32,
    /// Where it stands in the ruleset's file.
    pub span: Range<usize>,
}

/// A skeleton, with the joints of it that something follows, in the order of its parts or hitboxes; none for one that follows the body.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Bound {
    /// The skeleton, by its number.
    pub rig: usize,
    /// By part or hitbox, its joint.
    pub joints: Vec<Option<usize>>,
}

/// What an attack plays.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Played {
    /// The animation, by its number.
    pub animation: usize,
    /// The skeleton, and the joints of hitboxes.
    pub bound: Bound,
    /// Where it stands in the ruleset's file.
    pub span: Range<usize>,
}

/// Skeletons, and what follows their joints.
#[derive(Clone, Debug, Default)]
pub struct Motion {
    /// All skeletons, in the order of the file.
    pub rigs: Vec<Rig>,
    pub(crate) templates: Vec<(TemplateId, Bound)>,
    pub(crate) attacks: Vec<(AttackId, Played)>,
}

impl Motion {
    /// What the parts of a template follow.
    pub fn template(&self, template: TemplateId) -> Option<&Bound> {
        self.templates.iter().find(|(id, _)| *id == template).map(|(_, bound)| bound)
    }

    /// What an attack plays.
    pub fn attack(&self, attack: AttackId) -> Option<&Played> {
        self.attacks.iter().find(|(id, _)| *id == attack).map(|(_, played)| played)
    }

    /// All attacks that play an animation.
    pub fn attacks(&self) -> impl Iterator<Item = (AttackId, &Played)> {
        self.attacks.iter().map(|(id, played)| (*id, played))
    }
}

/// The shape of what follows a joint, and the joint.
pub(crate) struct Following {
    pub(crate) shape: Shape,
    pub(crate) joint: Option<usize>,
}

impl Resolver<'_, '_> {
    /// Reads all skeletons.
    pub(crate) fn skeletons(&mut self) {
        for (name, raw) in &self.raw.skeleton {
            if let Some(rig) = self.skeleton(name, raw) {
                self.rigs.push((name.as_ref().clone(), self.motion.rigs.len()));
                self.motion.rigs.push(rig);
            }
        }
    }

    fn skeleton(&mut self, name: &raw::Name, raw: &raw::Skeleton) -> Option<Rig> {
        let frame = self.frame(raw)?;
        let (file, mut skeleton) = read(self.reading, self.open, &raw.file, frame)?;
        for (animation, more) in &raw.animations {
            if let Some(other) = &more.file {
                let (_, taken) = read(self.reading, self.open, other, frame)?;
                skeleton.take_in_as(taken, animation.as_ref());
            }
            let known: Vec<String> = skeleton.names_of_animations();
            self.reading.find("animation", animation, known.iter().map(|name| (name.as_str(), ())))?;
            let mut markers = Vec::new();
            for (marker, at) in &more.markers {
                let ticks = self.reading.time(at, self.rate)?;
                markers.push((marker.as_ref().clone(), f64::from(ticks) / f64::from(self.rate)));
            }
            skeleton.mark_with(animation.as_ref(), markers);
        }
        let known = skeleton.names_of_animations();
        let mut named = |name: &Option<raw::Name>| {
            let name = name.as_ref()?;
            self.reading.find("animation", name, known.iter().zip(0..).map(|(name, number)| (name.as_str(), number)))
        };
        let (idle, walk) = (named(&raw.idle), named(&raw.walk));
        let walk_speed = match &raw.walk_speed {
            Some(speed) => Some(self.above_zero(speed, "the speed of a walk", "1.4, in metres a second")?),
            None => None,
        };
        let blend = match &raw.blend {
            Some(blend) => self.reading.time(blend, self.rate)?,
            None => (self.rate + 5) / 10,
        };
        let name = name.as_ref().clone();
        Some(Rig { name, file, skeleton, idle, walk, walk_speed, blend, span: raw.file.span() })
    }

    fn frame(&mut self, raw: &raw::Skeleton) -> Option<Frame> {
        let axes = [("x", Axis::X), ("y", Axis::Y), ("z", Axis::Z)];
        let from = raw.up.as_ref().map_or(Some(Axis::Y), |up| self.reading.find("axis", up, axes))?;
        let turn = raw.turn.as_ref().map_or(Some(0.0), |turn| self.reading.number(turn))?;
        let scale = match &raw.scale {
            Some(scale) => self.above_zero(scale, "the scale of a skeleton", "metres in a unit of its file, such as 0.01")?,
            None => 1.0,
        };
        Some(Frame { from, to: self.up, turn, scale })
    }

    fn above_zero(&mut self, number: &raw::Number, what: &str, example: &str) -> Option<f32> {
        let value = self.reading.number(number)?;
        if value > 0.0 {
            return Some(value);
        }
        let message = format!("{what} is not above zero");
        self.reading.problem(number.span(), "here", message, Some(format!("give {example}")));
        None
    }

    /// The skeleton that a template or an attack names.
    pub(crate) fn rig(&mut self, name: &raw::Name) -> Option<usize> {
        self.reading.find_id("skeleton", name, &self.rigs)
    }

    /// An animation of a skeleton.
    pub(crate) fn animation(&mut self, rig: usize, name: &raw::Name) -> Option<usize> {
        let known = self.motion.rigs[rig].skeleton.names_of_animations();
        let known = known.iter().zip(0..).map(|(name, number)| (name.as_str(), number));
        self.reading.find("animation", name, known)
    }

    fn joint(&mut self, rig: usize, name: &raw::Name) -> Option<usize> {
        let known = self.motion.rigs[rig].skeleton.names_of_joints();
        let known = known.iter().zip(0..).map(|(name, number)| (name.as_str(), number));
        self.reading.find("joint", name, known)
    }

    /// The shape of a part or a hitbox, which may follow a joint of a skeleton.
    pub(crate) fn following(
        &mut self,
        rig: Option<usize>,
        (what, span): (&str, Range<usize>),
        shapes: Shapes<'_>,
        (joint, bone): (&Option<raw::Name>, &Option<raw::Bone>),
    ) -> Option<Following> {
        let Some(joint) = joint else {
            if let Some(bone) = bone {
                let fix = Some("add `joint = \"elbow.l\"`, from which it goes".to_owned());
                self.reading.problem(bone.to.span(), "here", format!("{what} has a bone that begins at no joint"), fix);
                return None;
            }
            return Some(Following { shape: self.reading.shape(what, span, shapes)?, joint: None });
        };
        let Some(rig) = rig else {
            let fix = "name its skeleton: `skeleton = \"mason\"` in the template, `animation = { skeleton = \"mason\", name = \"sweep\" }` in the attack";
            let message = format!("{what} follows a joint, and there is no skeleton");
            self.reading.problem(joint.span(), "here", message, Some(fix.to_owned()));
            return None;
        };
        let from = self.joint(rig, joint)?;
        let Some(bone) = bone else {
            return Some(Following { shape: self.reading.shape(what, span, shapes)?, joint: Some(from) });
        };
        if shapes.sphere.is_some() || shapes.capsule.is_some() || shapes.block.is_some() {
            let fix = Some("keep the bone, or the other shape".to_owned());
            self.reading.problem(bone.to.span(), "here", format!("{what} has a bone and another shape"), fix);
            return None;
        }
        let to = self.joint(rig, &bone.to)?;
        let radius = self.reading.number(&bone.radius)?;
        let (start, end) = ([0.0; 3], self.motion.rigs[rig].skeleton.offset_of(from, to)?);
        let long = end.iter().map(|x| x * x).sum::<f32>().sqrt();
        // Joints at one place have no line between them.
        let shape = match long > 1.0e-4 {
            true => Shape::Capsule { from: start, to: end, radius },
            false => Shape::Sphere { at: start, radius },
        };
        Some(Following { shape, joint: Some(from) })
    }

    /// Where a joint is at rest in the frame of the body.
    pub(crate) fn at_rest(&self, rig: usize, joint: usize) -> Option<Pose> {
        self.motion.rigs[rig].skeleton.rest_poses().get(joint).copied()
    }
}

/// From the frame of a file to that of the ruleset.
#[derive(Clone, Copy)]
#[cfg_attr(not(feature = "motion"), expect(dead_code, reason = "only what reads a skeleton asks"))]
struct Frame {
    from: Axis,
    to: Axis,
    turn: f32,
    scale: f32,
}

/// What a ruleset asks of a skeleton.
trait Bones: Sized {
    fn names_of_joints(&self) -> Vec<String>;
    fn names_of_animations(&self) -> Vec<String>;
    /// Where joints are at rest in the frame of the body.
    fn rest_poses(&self) -> Vec<Pose>;
    /// The animations of another file; one alone gets this name.
    fn take_in_as(&mut self, other: Self, name: &str);
    fn mark_with(&mut self, animation: &str, markers: Vec<(String, f64)>);
    /// From a joint to another, at rest.
    fn offset_of(&self, from: usize, to: usize) -> Option<[f32; 3]>;
    fn farthest(&self, joints: &[usize]) -> f32;
    fn length(&self, animation: usize) -> f64;
    fn markers(&self, animation: usize) -> Vec<(String, f64)>;
}

impl Rig {
    /// How far any of these joints gets from the body's place, in metres.
    pub(crate) fn farthest(&self, joints: &[usize]) -> f32 {
        self.skeleton.farthest(joints)
    }

    /// How long an animation lasts, in seconds.
    pub(crate) fn length(&self, animation: usize) -> f64 {
        self.skeleton.length(animation)
    }

    /// The markers of an animation with their times in seconds.
    pub(crate) fn markers(&self, animation: usize) -> Vec<(String, f64)> {
        self.skeleton.markers(animation)
    }
}

/// Names of skeletons with their numbers.
pub(crate) type Rigs = Ids<usize>;
