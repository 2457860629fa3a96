//! Frames of a whole run, small enough to be carried in one file.

use crate::{Record, Tick};
use std::collections::BTreeMap;

use hammerstone::Life;
use hammerstone::geometry::{Axis, Obstacle, Shape};
use hammerstone::ids::CombatantId;
use serde::ser::{Serialize, SerializeSeq, Serializer};

use super::frames::{end_of, near_triangles, touches};
use crate::Came;

/// How many numbers a playback holds before it keeps only every other frame.
const MOST: usize = 300_000;

/// A shape in whole centimetres in the world: a ball is its middle and radius, a rod its ends and radius, a box its middle and three
/// half-axes, a triangle its corners; 4, 7, 12 or 9 numbers.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Solid(pub Vec<i64>);

/// One combatant in a frame.
#[derive(Clone, PartialEq, Eq, Debug)]
struct Pictured {
    stands: bool,
    health: (i64, i64),
    at: [i64; 3],
    /// Seen from where it stands, so that they stay the same while it walks straight.
    parts: Vec<Solid>,
}

/// One kept frame.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct PlaybackFrame {
    tick: u32,
    figures: BTreeMap<usize, Pictured>,
    /// Open hitboxes: the side, where they began the tick, and where they ended it.
    hitboxes: Vec<(usize, Solid, Solid)>,
    /// Where hitboxes met parts: the place, and what came of it.
    touches: Vec<([i64; 3], Came)>,
    obstacles: Vec<Solid>,
}

/// No page has more triangles of a level than this.
const MOST_TRIANGLES: usize = 1_500;

/// Gathers frames; where they become too many, it keeps every second, fourth and so on.
#[derive(Clone, Debug, Default)]
pub struct Playback {
    up: Option<Axis>,
    step: u32,
    /// After how many ticks it begins.
    began: u32,
    ticks: u32,
    names: Vec<(String, usize)>,
    by_name: BTreeMap<String, usize>,
    /// What never moves; none before the first frame.
    level: Option<Vec<Solid>>,
    frames: Vec<PlaybackFrame>,
    weight: usize,
}

impl Playback {
    /// No frames.
    pub fn new() -> Playback {
        Playback { step: 1, ..Playback::default() }
    }

    fn place(&mut self, name: &str, side: usize) -> usize {
        if let Some(&place) = self.by_name.get(name) {
            return place;
        }
        self.by_name.insert(name.to_owned(), self.names.len());
        self.names.push((name.to_owned(), side));
        self.names.len() - 1
    }

    /// How many ticks lie between two frames.
    pub fn step(&self) -> u32 {
        self.step
    }

    /// The last tick, counted on through resets.
    pub fn last_tick(&self) -> u32 {
        self.ticks
    }

    /// How many frames there are.
    pub fn count(&self) -> usize {
        self.frames.len()
    }
}

impl Record for Playback {
    fn observe(&mut self, tick: &Tick<'_>) {
        if self.ticks == 0 {
            self.began = tick.clock - 1;
        }
        self.ticks = tick.clock;
        if !(self.ticks - 1).is_multiple_of(self.step) {
            return;
        }
        let (scene, rules, names, facts) = (tick.scene(), tick.rules, tick.names, &tick.facts);
        let view = scene.view();
        self.up = Some(rules.up());
        let mut figures = BTreeMap::new();
        for who in view.combatants() {
            let stands = view.life(who) == Life::Standing;
            let here = stands || view.life(who) == Life::Dead;
            let Some((_, pose)) = scene.way(who).filter(|_| here) else { continue };
            let side = view.team(who).map_or(0, |team| team.index());
            let pictured = Pictured {
                stands,
                health: view.health(who).unwrap_or_default(),
                at: pose.at.map(centimetres),
                parts: scene.parts(who).map(|part| solid(&part.moving.at(1.0), pose.at)).collect(),
            };
            figures.insert(self.place(names.of(who), side), pictured);
        }
        let side = |attacker: Option<CombatantId>| {
            attacker.and_then(|who| view.team(who)).map_or(usize::MAX, |team| team.index())
        };
        let mut beams = tick.encounter.beams().iter();
        let hitboxes = scene.hitboxes().filter(|hitbox| hitbox.open).map(|hitbox| {
            let end = end_of(&hitbox, rules, &mut beams);
            (side(hitbox.attacker), solid(&hitbox.moving.at(0.0), [0.0; 3]), solid(&end, [0.0; 3]))
        });
        let hitboxes = hitboxes.collect();
        let touches = touches(facts);
        let kept = PlaybackFrame {
            tick: self.ticks,
            hitboxes,
            touches: touches.iter().map(|touch| (touch.point.map(centimetres), touch.came)).collect(),
            figures,
            obstacles: scene.obstacles().filter_map(|(_, of)| obstacle(&of)).collect(),
        };
        if self.level.is_none() {
            let places: Vec<[f32; 3]> =
                view.combatants().filter_map(|who| Some(scene.way(who)?.1.at)).collect();
            let solids = scene.level().solids().filter_map(|(_, of)| obstacle(&of));
            let triangles = near_triangles(scene.level(), &places).into_iter().take(MOST_TRIANGLES);
            let flat =
                |corners: [[f32; 3]; 3]| Solid(corners.concat().into_iter().map(centimetres).collect());
            self.level = Some(solids.chain(triangles.map(flat)).collect());
        }
        self.weight += weight(self.frames.last(), &kept);
        self.frames.push(kept);
        while self.weight > MOST && self.frames.len() > 2 {
            self.step *= 2;
            let step = self.step;
            self.frames.retain(|frame| (frame.tick - 1).is_multiple_of(step));
            let earlier = std::iter::once(None).chain(self.frames.iter().map(Some));
            self.weight = earlier.zip(&self.frames).map(|(earlier, frame)| weight(earlier, frame)).sum();
        }
    }
}

/// How many numbers a frame takes: only what changed is kept.
fn weight(earlier: Option<&PlaybackFrame>, frame: &PlaybackFrame) -> usize {
    let size = |(place, figure): (&usize, &Pictured)| {
        let known = earlier.and_then(|earlier| earlier.figures.get(place));
        let parts = || figure.parts.iter().map(|part| part.0.len()).sum::<usize>();
        match known {
            Some(known) if known == figure => 0,
            Some(known) if known.parts == figure.parts => 8,
            _ => 8 + parts(),
        }
    };
    let moved = earlier.is_none_or(|earlier| earlier.obstacles != frame.obstacles);
    let obstacles = if moved { frame.obstacles.iter().map(|solid| solid.0.len()).sum() } else { 0 };
    let hitboxes: usize = frame.hitboxes.iter().map(|(_, from, to)| 1 + from.0.len() + to.0.len()).sum();
    1 + frame.figures.iter().map(size).sum::<usize>() + hitboxes + obstacles + 4 * frame.touches.len()
}

fn centimetres(metres: f32) -> i64 {
    (metres * 100.0).round() as i64
}

/// A shape as it is seen from a place.
fn solid(shape: &Shape, from: [f32; 3]) -> Solid {
    let seen = |at: [f32; 3]| [at[0] - from[0], at[1] - from[1], at[2] - from[2]];
    let mut numbers: Vec<f32> = Vec::new();
    match *shape {
        Shape::Sphere { at, radius } => {
            numbers.extend(seen(at));
            numbers.push(radius);
        }
        Shape::Capsule { from, to, radius } => {
            numbers.extend(seen(from));
            numbers.extend(seen(to));
            numbers.push(radius);
        }
        Shape::Box { pose, half } => {
            numbers.extend(seen(pose.at));
            for (axis, half) in half.into_iter().enumerate() {
                let mut unit = [0.0; 3];
                unit[axis] = 1.0;
                numbers.extend(pose.direction(unit).map(|along| along * half));
            }
        }
    }
    Solid(numbers.into_iter().map(centimetres).collect())
}

/// Planes have no end, and are left out.
fn obstacle(obstacle: &Obstacle) -> Option<Solid> {
    match *obstacle {
        Obstacle::Box { pose, half } => Some(solid(&Shape::Box { pose, half }, [0.0; 3])),
        Obstacle::Sphere { at, radius } => Some(solid(&Shape::Sphere { at, radius }, [0.0; 3])),
        Obstacle::Capsule { from, to, radius } => Some(solid(&Shape::Capsule { from, to, radius }, [0.0; 3])),
        Obstacle::HalfSpace { .. } => None,
    }
}

impl Serialize for Solid {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        self.0.serialize(serializer)
    }
}

/// As a program reads it: `up`, `step`, `ticks`, the names with their sides, what of the level never moves, and frames of what changed: the tick; of each
/// combatant that changed its number, whether it stands, health, maximum, place, and, if they changed, its parts as seen from there, or
/// its number alone if it is gone; open hitboxes; touches; the obstacles, if one moved, came or went.
impl Serialize for Playback {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        use serde::ser::SerializeMap;
        let up = match self.up {
            Some(Axis::X) => "x",
            Some(Axis::Z) => "z",
            Some(Axis::Y) | None => "y",
        };
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("up", up)?;
        map.serialize_entry("step", &self.step)?;
        map.serialize_entry("ticks", &self.ticks)?;
        if self.began > 0 {
            map.serialize_entry("began", &self.began)?;
        }
        map.serialize_entry("names", &self.names)?;
        map.serialize_entry("level", self.level.as_deref().unwrap_or_default())?;
        map.serialize_entry("frames", &Changes(&self.frames))?;
        map.end()
    }
}

struct Changes<'a>(&'a [PlaybackFrame]);

impl Serialize for Changes<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut frames = serializer.serialize_seq(Some(self.0.len()))?;
        let mut earlier: Option<&PlaybackFrame> = None;
        for frame in self.0 {
            let mut figures: Vec<serde_json::Value> = Vec::new();
            for (place, figure) in &frame.figures {
                let known = earlier.and_then(|earlier| earlier.figures.get(place));
                if known == Some(figure) {
                    continue;
                }
                let Pictured { stands, health, at, parts } = figure;
                let stands = u8::from(*stands);
                figures.push(if known.is_some_and(|known| known.parts == *parts) {
                    serde_json::json!([place, stands, health.0, health.1, at])
                } else {
                    let parts: Vec<&Vec<i64>> = parts.iter().map(|part| &part.0).collect();
                    serde_json::json!([place, stands, health.0, health.1, at, parts])
                });
            }
            let gone = earlier.map(|earlier| earlier.figures.keys()).into_iter().flatten();
            figures.extend(
                gone.filter(|place| !frame.figures.contains_key(place))
                    .map(|place| serde_json::json!([place])),
            );
            let side = |side: usize| if side == usize::MAX { -1 } else { side as i64 };
            let hitboxes: Vec<_> = frame
                .hitboxes
                .iter()
                .map(|(of, from, to)| {
                    // One that rests needs no way.
                    if from == to {
                        serde_json::json!([side(*of), to])
                    } else {
                        serde_json::json!([side(*of), to, from])
                    }
                })
                .collect();
            let came = |came: &Came| match came {
                Came::Nothing => 0,
                Came::Hit => 1,
                Came::Refused => 2,
            };
            let touches: Vec<_> =
                frame.touches.iter().map(|([x, y, z], of)| serde_json::json!([x, y, z, came(of)])).collect();
            let moved = earlier.is_none_or(|earlier| earlier.obstacles != frame.obstacles);
            let obstacles = moved.then_some(&frame.obstacles);
            frames.serialize_element(&(frame.tick, figures, hitboxes, touches, obstacles))?;
            earlier = Some(frame);
        }
        frames.end()
    }
}
