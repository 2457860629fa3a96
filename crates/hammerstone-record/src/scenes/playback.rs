//! Frames of a whole run, small enough to be carried in one file.

use crate::{Record, Tick};
use std::collections::BTreeMap;

use hammerstone::Life;
use hammerstone::geometry::{Axis, Obstacle, Shape};
use hammerstone::ids::CombatantId;
use serde::ser::{Serialize, SerializeSeq, Serializer};

use super::frames::{end_of, near_triangles, touches};
use crate::Came;

/// How many numbers a playback holds before it keeps only every other frame, unless it is told otherwise.
const MOST: usize = 1_200_000;

/// Shapes in whole centimetres: a ball is its middle and radius, a rod its ends and radius, a box its middle and three half-axes, a triangle its
/// corners; 4, 7, 12 or 9 numbers. All numbers in a row, and where each shape ends.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
struct Solids {
    numbers: Vec<i64>,
    ends: Vec<usize>,
}

impl Solids {
    fn clear(&mut self) {
        self.numbers.clear();
        self.ends.clear();
    }

    fn push(&mut self, numbers: impl IntoIterator<Item = f32>) {
        self.numbers.extend(numbers.into_iter().map(centimetres));
        self.ends.push(self.numbers.len());
    }

    /// A shape as it is seen from a place.
    fn add(&mut self, shape: &Shape, from: [f32; 3]) {
        let seen = |at: [f32; 3]| [at[0] - from[0], at[1] - from[1], at[2] - from[2]];
        match *shape {
            Shape::Sphere { at, radius } => self.push(seen(at).into_iter().chain([radius])),
            Shape::Capsule { from, to, radius } => {
                self.push(seen(from).into_iter().chain(seen(to)).chain([radius]));
            }
            Shape::Box { pose, half } => {
                let axes = half.into_iter().enumerate().flat_map(|(axis, half)| {
                    let mut unit = [0.0; 3];
                    unit[axis] = 1.0;
                    pose.direction(unit).map(|along| along * half)
                });
                self.push(seen(pose.at).into_iter().chain(axes));
            }
        }
    }

    /// Planes have no end, and are left out.
    fn add_obstacle(&mut self, obstacle: &Obstacle) {
        match *obstacle {
            Obstacle::Box { pose, half } => self.add(&Shape::Box { pose, half }, [0.0; 3]),
            Obstacle::Sphere { at, radius } => self.add(&Shape::Sphere { at, radius }, [0.0; 3]),
            Obstacle::Capsule { from, to, radius } => {
                self.add(&Shape::Capsule { from, to, radius }, [0.0; 3]);
            }
            Obstacle::HalfSpace { .. } => {}
        }
    }

    /// One that is open has one number more.
    fn add_open(&mut self, obstacle: &Obstacle) {
        let before = self.ends.len();
        self.add_obstacle(obstacle);
        if self.ends.len() > before {
            self.numbers.push(1);
            self.ends[before] += 1;
        }
    }

    /// Each shape.
    fn each(&self) -> impl Iterator<Item = &[i64]> {
        let begins = std::iter::once(0).chain(self.ends.iter().copied());
        begins.zip(&self.ends).map(|(begin, &end)| &self.numbers[begin..end])
    }
}

/// So many combatants are kept tick by tick.
const CROWD: usize = 64;

/// One combatant in a frame.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
struct Pictured {
    stands: bool,
    health: (i64, i64),
    at: [i64; 3],
    /// Where it looks, in hundredths of a metre for one metre.
    facing: [i64; 3],
    /// Seen from where it stands, so that they stay the same while it walks straight.
    parts: Solids,
}

/// How all combatants stand after some frames, by the number of each.
type Figures = Vec<Option<Pictured>>;

/// One kept frame: what is other than in the kept frame before it.
#[derive(Clone, Debug)]
struct Frame {
    tick: u32,
    /// Combatants of which anything changed since then, also if it changed back; none for one that is gone.
    changed: Vec<(usize, Option<Pictured>)>,
    /// Open hitboxes: the number of the attacker of each; where they began the tick, and where they ended it.
    attackers: Vec<usize>,
    began: Solids,
    ended: Solids,
    /// Where hitboxes met parts: the place, and what came of it.
    touches: Vec<([i64; 3], Came)>,
    /// All obstacles, if they are others than in the frame before.
    obstacles: Option<Solids>,
}

/// No page has more triangles of a level than this.
const MOST_TRIANGLES: usize = 1_500;

/// Gathers frames; where they become too many, it keeps every second, fourth and so on.
#[derive(Clone, Debug)]
pub struct Playback {
    up: Option<Axis>,
    step: u32,
    /// After how many ticks it begins.
    began: u32,
    ticks: u32,
    names: Vec<(String, usize)>,
    by_name: BTreeMap<String, usize>,
    /// What never moves; none before the first frame.
    level: Option<Solids>,
    frames: Vec<Frame>,
    weight: usize,
    /// How all stand after the last kept frame, and the obstacles of it.
    figures: Figures,
    obstacles: Option<Solids>,
    /// The number of the combatant in each slot.
    known: Vec<Option<(CombatantId, usize)>>,
    /// How often combatants had been named by then.
    namings: u64,
    /// One combatant at hand.
    at_hand: Pictured,
    /// How many numbers it holds at most.
    most: usize,
}

impl Default for Playback {
    fn default() -> Playback {
        Playback::keeping(MOST)
    }
}

impl Playback {
    /// No frames.
    pub fn new() -> Playback {
        Playback::default()
    }

    /// No frames; it holds at most so many numbers, if only two frames have no more.
    pub fn keeping(most: usize) -> Playback {
        Playback {
            up: None,
            step: 1,
            began: 0,
            ticks: 0,
            names: Vec::new(),
            by_name: BTreeMap::new(),
            level: None,
            frames: Vec::new(),
            weight: 0,
            figures: Figures::new(),
            obstacles: None,
            known: Vec::new(),
            namings: 0,
            at_hand: Pictured::default(),
            most,
        }
    }

    fn place(&mut self, name: &str, side: usize) -> usize {
        if let Some(&place) = self.by_name.get(name) {
            return place;
        }
        self.by_name.insert(name.to_owned(), self.names.len());
        self.names.push((name.to_owned(), side));
        self.names.len() - 1
    }

    /// The number of a combatant that is called so.
    fn place_of(&mut self, who: CombatantId, name: &str, side: impl FnOnce() -> usize) -> usize {
        if let Some(Some((of, place))) = self.known.get(who.slot())
            && *of == who
        {
            return *place;
        }
        let place = self.place(name, side());
        if self.known.len() <= who.slot() {
            self.known.resize(who.slot() + 1, None);
        }
        self.known[who.slot()] = Some((who, place));
        place
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
        // Of a crowd every other frame says as much, and takes half the time; of a large one every fourth, and so on.
        if view.combatants().count() > CROWD * self.step as usize {
            self.step *= 2;
            self.thin_out();
            if !(self.ticks - 1).is_multiple_of(self.step) {
                return;
            }
        }
        self.up = Some(rules.up());
        if self.namings != names.namings() {
            self.namings = names.namings();
            self.known.clear();
        }
        let mut present = vec![false; self.names.len()];
        let mut changed: Vec<(usize, Option<Pictured>)> = Vec::new();
        for who in view.combatants() {
            let stands = view.life(who) == Life::Standing;
            let here = stands || view.life(who) == Life::Dead;
            let Some((_, pose)) = scene.way(who).filter(|_| here) else { continue };
            let at_hand = &mut self.at_hand;
            at_hand.parts.clear();
            scene.parts(who).for_each(|part| at_hand.parts.add(&part.moving.at(1.0), pose.at));
            at_hand.stands = stands;
            at_hand.health = view.health(who).unwrap_or_default();
            at_hand.at = pose.at.map(centimetres);
            at_hand.facing = pose.direction([0.0, 0.0, 1.0]).map(centimetres);
            let place = self.place_of(who, names.of(who), || view.team(who).map_or(0, |team| team.index()));
            if place >= present.len() {
                present.resize(place + 1, false);
            }
            // Of two of one name the last is told.
            let before = match present[place] {
                true => changed.iter().rposition(|(of, _)| *of == place),
                false => None,
            };
            present[place] = true;
            if let Some(before) = before {
                changed.remove(before);
            }
            if self.figures.get(place).and_then(Option::as_ref) != Some(&self.at_hand) {
                changed.push((place, Some(self.at_hand.clone())));
            }
        }
        let is_gone = |&(place, figure): &(usize, &Option<Pictured>)| figure.is_some() && !present[place];
        let gone = self.figures.iter().enumerate().filter(is_gone);
        changed.extend(gone.map(|(place, _)| (place, None)));
        changed.sort_by_key(|(place, _)| *place);
        let mut beams = tick.encounter.beams().iter();
        let (mut attackers, mut began, mut ended) = (Vec::new(), Solids::default(), Solids::default());
        for hitbox in scene.hitboxes().filter(|hitbox| hitbox.open) {
            let attacker = hitbox.attacker.map(|who| {
                self.place_of(who, names.of(who), || view.team(who).map_or(0, |team| team.index()))
            });
            attackers.push(attacker.unwrap_or(usize::MAX));
            began.add(&hitbox.moving.at(0.0), [0.0; 3]);
            ended.add(&end_of(&hitbox, rules, &mut beams), [0.0; 3]);
        }
        let mut obstacles = Solids::default();
        scene.obstacles().for_each(|(_, of)| obstacles.add_obstacle(&of));
        scene.open_obstacles().for_each(|(_, of)| obstacles.add_open(&of));
        let obstacles = Some(obstacles).filter(|now| self.obstacles.as_ref() != Some(now));
        let touches = touches(facts);
        let kept = Frame {
            tick: self.ticks,
            changed,
            attackers,
            began,
            ended,
            touches: touches.iter().map(|touch| (touch.point.map(centimetres), touch.came)).collect(),
            obstacles,
        };
        if self.level.is_none() {
            let places: Vec<[f32; 3]> =
                view.combatants().filter_map(|who| Some(scene.way(who)?.1.at)).collect();
            let mut level = Solids::default();
            scene.level().solids().for_each(|(_, of)| level.add_obstacle(&of));
            let triangles = near_triangles(scene.level(), &places).into_iter().take(MOST_TRIANGLES);
            triangles.for_each(|corners| level.push(corners.concat()));
            self.level = Some(level);
        }
        self.weight += weight(&mut self.figures, &kept);
        self.obstacles = kept.obstacles.clone().or(self.obstacles.take());
        self.frames.push(kept);
        while self.weight > self.most && self.frames.len() > 2 {
            self.step *= 2;
            self.thin_out();
        }
    }
}

impl Playback {
    /// Keeps the frames of whole steps, each with what changed in those that are left out before it.
    fn thin_out(&mut self) {
        let mut skipped: BTreeMap<usize, Option<Pictured>> = BTreeMap::new();
        let mut obstacles = None;
        for mut frame in std::mem::take(&mut self.frames) {
            skipped.extend(frame.changed.drain(..));
            obstacles = frame.obstacles.take().or(obstacles);
            if (frame.tick - 1).is_multiple_of(self.step) {
                frame.changed.extend(std::mem::take(&mut skipped));
                frame.obstacles = obstacles.take();
                self.frames.push(frame);
            }
        }
        // What those changed that are left out at the end is found anew.
        let mut figures = Figures::new();
        self.weight = self.frames.iter().map(|frame| weight(&mut figures, frame)).sum();
        self.figures = figures;
        self.obstacles = self.frames.iter().rev().find_map(|frame| frame.obstacles.clone());
    }
}

/// How many numbers a frame takes, as only what changed is kept; brings the figures to how they stand in it.
fn weight(figures: &mut Figures, frame: &Frame) -> usize {
    let mut weight = 1 + 4 * frame.touches.len() + frame.attackers.len();
    weight += frame.began.numbers.len() + frame.ended.numbers.len();
    weight += frame.obstacles.as_ref().map_or(0, |obstacles| obstacles.numbers.len());
    for (place, now) in &frame.changed {
        if figures.len() <= *place {
            figures.resize(place + 1, None);
        }
        let known = &mut figures[*place];
        weight += match (&known, now) {
            (_, None) => 0,
            (Some(known), Some(now)) if known == now => 0,
            (Some(known), Some(now)) if known.parts == now.parts => 11,
            (_, Some(now)) => 11 + now.parts.numbers.len(),
        };
        known.clone_from(now);
    }
    weight
}

fn centimetres(metres: f32) -> i64 {
    (metres * 100.0).round() as i64
}

impl Serialize for Solids {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_seq(self.each())
    }
}

/// As a program reads it: `up`, `step`, `ticks`, the names with their sides, what of the level never moves, and frames of what changed: the tick; of each
/// combatant that changed its number, whether it stands, health, maximum, place, where it looks, and, if they changed, its parts as seen from
/// there, or its number alone if it is gone; open hitboxes with the number of the attacker; touches; the obstacles, if one moved, came, went, opened or closed; one that is open has one number more.
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
        map.serialize_entry("level", self.level.as_ref().unwrap_or(&Solids::default()))?;
        map.serialize_entry("frames", &Changes(&self.frames))?;
        map.end()
    }
}

struct Changes<'a>(&'a [Frame]);

impl Serialize for Changes<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut frames = serializer.serialize_seq(Some(self.0.len()))?;
        let mut standing: BTreeMap<usize, &Pictured> = BTreeMap::new();
        let mut in_the_way: Option<&Solids> = None;
        for frame in self.0 {
            let (mut figures, mut gone) = (Vec::new(), Vec::new());
            for (place, now) in &frame.changed {
                let Some(figure) = now else {
                    gone.extend(standing.remove(place).map(|_| serde_json::json!([place])));
                    continue;
                };
                let known = standing.insert(*place, figure);
                if known == Some(figure) {
                    continue;
                }
                let Pictured { stands, health, at, facing, parts } = figure;
                let stands = u8::from(*stands);
                figures.push(if known.is_some_and(|known| known.parts == *parts) {
                    serde_json::json!([place, stands, health.0, health.1, at, facing])
                } else {
                    serde_json::json!([place, stands, health.0, health.1, at, facing, parts])
                });
            }
            figures.extend(gone);
            let number = |of: usize| if of == usize::MAX { -1 } else { of as i64 };
            let ways = frame.began.each().zip(frame.ended.each());
            let hitboxes = frame.attackers.iter().zip(ways).map(|(&of, (from, to))| {
                // One that rests needs no way.
                match from == to {
                    true => serde_json::json!([number(of), to]),
                    false => serde_json::json!([number(of), to, from]),
                }
            });
            let hitboxes: Vec<_> = hitboxes.collect();
            let came = |came: &Came| match came {
                Came::Nothing => 0,
                Came::Hit => 1,
                Came::Refused => 2,
            };
            let touches: Vec<_> =
                frame.touches.iter().map(|([x, y, z], of)| serde_json::json!([x, y, z, came(of)])).collect();
            let obstacles = frame.obstacles.as_ref().filter(|now| in_the_way != Some(now));
            in_the_way = frame.obstacles.as_ref().or(in_the_way);
            frames.serialize_element(&(frame.tick, figures, hitboxes, touches, obstacles))?;
        }
        frames.end()
    }
}
