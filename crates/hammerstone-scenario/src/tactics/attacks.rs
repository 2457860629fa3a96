//! What anyone knows who has seen an attack before: how far it reaches, and when it strikes.

use hammerstone::Ruleset;
use hammerstone::attack::{Form, SwingView, Timings};
use hammerstone::geometry::Shape;
use hammerstone::ids::AttackId;
use hammerstone::team::Relations;
use hammerstone::template::Template;

use super::plane::{Plane, length};

/// How far off its facing an attack is taken to strike, in radians; beams and projectiles less.
const WIDE: f32 = 1.3;
const NARROW: f32 = 0.26;
/// So much nearer than an attack reaches a target is taken to be in reach, in metres.
const SURE: f32 = 0.05;

/// An attack, as one knows it who has seen it.
#[derive(Clone, Debug)]
pub(crate) struct Known {
    pub(crate) timings: Timings,
    /// Metres; 0 for what strikes no one.
    pub(crate) reach: f32,
    /// How far off its facing it strikes, in radians.
    pub(crate) arc: f32,
    /// Whether it is struck by bodies that fly, and not by the swing itself.
    pub(crate) flies: bool,
}

/// All attacks and templates of a ruleset.
#[derive(Clone, Debug)]
pub(crate) struct Lore {
    pub(crate) attacks: Vec<Known>,
    /// How far each template reaches to every side, in metres, at size 1.
    pub(crate) girths: Vec<f32>,
    /// The height of its middle above its place.
    pub(crate) middles: Vec<f32>,
}

impl Lore {
    pub(crate) fn of(rules: &Ruleset) -> Lore {
        let plane = Plane::across(rules.up());
        let known = |attack: &hammerstone::attack::Attack| {
            let id = rules.find_attack(attack.name())?;
            let timings = rules.timings(id)?;
            // What strikes no one is a stance.
            let strikes = attack.struck_relations() != Relations::NONE;
            let reach = timings.reach.filter(|_| strikes).unwrap_or(0.0);
            let arc = match attack.form() {
                Form::Area => std::f32::consts::PI,
                Form::Beam(_) | Form::Projectile(_) => NARROW,
                Form::Melee | Form::Touch => WIDE,
            };
            Some(Known { reach, arc, flies: matches!(attack.form(), Form::Projectile(_)), timings })
        };
        let templates = rules.templates();
        Lore {
            attacks: rules.attacks().iter().filter_map(known).collect(),
            girths: templates.iter().map(|template| girth(template, &plane)).collect(),
            middles: templates.iter().map(|template| middle(template, &plane)).collect(),
        }
    }
}

impl Lore {
    /// How near its target an attack must be started, at a size; none for one that strikes no one.
    pub(crate) fn reach(&self, attack: AttackId, size: f32) -> Option<f32> {
        let reach = self.attacks[attack.index()].reach;
        (reach > 0.0).then_some(reach * size - SURE)
    }
}

impl Known {
    /// In how many ticks a swing of it strikes next; none if it no longer does, or if that cannot be seen yet.
    pub(crate) fn strikes_in(&self, swing: &SwingView) -> Option<u32> {
        if swing.phase == hammerstone::attack::Phase::Charging {
            return None;
        }
        let passed = swing.whole.passed;
        self.timings.windows.iter().find(|(first, _)| *first > passed).map(|(first, _)| first - passed)
    }
}

/// The least and the most of a shape along the up axis, how far its middle is from that axis, and how far it reaches from there.
fn extent(shape: Shape, plane: &Plane) -> [f32; 4] {
    let flat = |at: [f32; 3]| length(plane.flat(at));
    match shape {
        Shape::Sphere { at, radius } => {
            let height = plane.height(at);
            [height - radius, height + radius, flat(at), radius]
        }
        Shape::Capsule { from, to, radius } => {
            let (low, high) = (plane.height(from), plane.height(to));
            let (low, high) = if low < high { (low, high) } else { (high, low) };
            let off = if flat(from) < flat(to) { flat(from) } else { flat(to) };
            [low - radius, high + radius, off, radius]
        }
        Shape::Box { pose, half } => {
            let (height, up) = (plane.height(pose.at), plane.height(half).abs());
            let [aside, ahead] = plane.flat(half);
            let least = if aside.abs() < ahead.abs() { aside.abs() } else { ahead.abs() };
            [height - up, height + up, flat(pose.at), least]
        }
    }
}

/// How far a template's parts reach to every side of its place.
fn girth(template: &Template, plane: &Plane) -> f32 {
    let to_every_side = |shape: Shape| {
        let [_, _, off, radius] = extent(shape, plane);
        radius - off
    };
    template
        .parts()
        .iter()
        .map(|part| to_every_side(part.shape_of()))
        .fold(0.0, |most, one| if one > most { one } else { most })
}

fn middle(template: &Template, plane: &Plane) -> f32 {
    let mut parts = template.parts().iter().map(|part| extent(part.shape_of(), plane));
    let Some([low, high, ..]) = parts.next() else { return 0.0 };
    let wider = |[low, high]: [f32; 2], [l, h, ..]: [f32; 4]| {
        [if l < low { l } else { low }, if h > high { h } else { high }]
    };
    let [low, high] = parts.fold([low, high], wider);
    (low + high) * 0.5
}
