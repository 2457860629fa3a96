//! One tick of a fight, as it would be seen: who stood where, what they swung, what touched.

use hammerstone::attack::Form;
use hammerstone::event::{ContactMet, HitLanded, HitRefused};
use hammerstone::event::{Event, Facts};
use hammerstone::geometry::Moving;
use hammerstone::geometry::{Axis, Obstacle, Shape};
use hammerstone::ids::CombatantId;
use hammerstone::level::Level;
use hammerstone::scene::{BeamLine, SceneHitbox};
use hammerstone::{Life, Ruleset};

use crate::feed::{begins, sentence};
use crate::totals::between;
use crate::{Line, Tick};

/// One tick of a fight.
#[derive(Clone, Debug)]
pub struct Frame {
    /// The tick, and when it begins, in seconds. After a reset both count anew.
    pub tick: u32,
    /// When the tick begins, in seconds.
    pub time: f64,
    /// The axis that points up.
    pub up: Axis,
    /// Everybody who is not away or gone, in the order of their places.
    pub figures: Vec<Figure>,
    /// The hitboxes of swings, the open ones first.
    pub hitboxes: Vec<Hitbox>,
    /// What stands in the way: obstacles, and the solids of the level.
    pub obstacles: Vec<Obstacle>,
    /// Obstacles that are open: nothing meets them.
    pub open: Vec<Obstacle>,
    /// The triangles of the level that are near anyone, in metres in the world.
    pub triangles: Vec<[[f32; 3]; 3]>,
    /// Where hitboxes met parts in this tick.
    pub touches: Vec<Touched>,
    /// Events in this tick, in sentences.
    pub told: Vec<String>,
}

/// One combatant.
#[derive(Clone, Debug)]
pub struct Figure {
    /// Who it is.
    pub id: CombatantId,
    /// Its name.
    pub name: String,
    /// Its team.
    pub team: String,
    /// The team's number in the ruleset.
    pub side: usize,
    /// Whether it stands; if not, it lies where it died.
    pub stands: bool,
    /// Health and its maximum, in points.
    pub health: (i64, i64),
    /// Where it is at the end of the tick, in metres in the world.
    pub at: [f32; 3],
    /// Where it looks, of length 1.
    pub facing: [f32; 3],
    /// Its parts.
    pub parts: Vec<Moving>,
    /// Its gauges beside health, with what each holds and its maximum.
    pub gauges: Vec<(String, i64, i64)>,
    /// The statuses that it bears, in the order in which they were applied.
    pub statuses: Vec<String>,
    /// What is between it and others, and how its time goes, where that is not as usual: `held by odo`, `time x 0.5`.
    pub notes: Vec<String>,
}

impl Figure {
    /// Everything beside health in a few words: gauges, notes, statuses.
    pub fn rest(&self) -> String {
        let gauges = self.gauges.iter().map(|(name, points, max)| format!("{name} {points}/{max}"));
        gauges.chain(Some(self.borne()).filter(|borne| !borne.is_empty())).collect::<Vec<_>>().join(", ")
    }

    /// Notes and statuses, in a few words.
    pub fn borne(&self) -> String {
        self.notes.iter().chain(&self.statuses).map(String::as_str).collect::<Vec<_>>().join(", ")
    }
}

/// One hitbox of a swing.
#[derive(Clone, Debug)]
pub struct Hitbox {
    /// Who swings, if anyone.
    pub attacker: Option<CombatantId>,
    /// The attack.
    pub attack: String,
    /// Whether a window is open.
    pub open: bool,
    /// Its way through the tick.
    pub moving: Moving,
    /// Where it is at the end of the tick; for a beam, as far as it reached.
    pub end: Shape,
}

/// Where a hitbox met a part.
#[derive(Clone, Debug)]
pub struct Touched {
    /// The place, in metres in the world.
    pub point: [f32; 3],
    /// Out of the part, of length 1.
    pub normal: [f32; 3],
    /// What came of it.
    pub came: Came,
    /// The attacker, if the swing has one.
    pub attacker: Option<CombatantId>,
    /// The target.
    pub target: CombatantId,
}

/// What came of a touch.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Came {
    /// Nothing.
    Nothing,
    /// A hit.
    Hit,
    /// A gate refused.
    Refused,
}

impl Frame {
    /// A tick, as it stands when it is over.
    pub fn of(tick: &Tick<'_>) -> Frame {
        let Tick { encounter, rules, names, facts, .. } = *tick;
        let (scene, view) = (tick.scene(), tick.view());
        let figure = |id: CombatantId| {
            let stands = view.life(id) == Life::Standing;
            let (_, pose) = scene.way(id).filter(|_| stands || view.life(id) == Life::Dead)?;
            Some(Figure {
                id,
                name: names.of(id).to_owned(),
                team: view.team(id).map_or("", |team| rules.team_name(team).unwrap_or_default()).to_owned(),
                side: view.team(id).map_or(0, |team| team.index()),
                stands,
                health: view.health(id).unwrap_or_default(),
                at: pose.at,
                facing: pose.direction([0.0, 0.0, 1.0]),
                parts: scene.parts(id).map(|part| part.moving).collect(),
                gauges: view
                    .gauges(id)
                    .map(|(gauge, points, max)| {
                        (rules.gauge_name(gauge).unwrap_or_default().to_owned(), points, max)
                    })
                    .collect(),
                notes: between(tick, id).into_iter().map(|(what, value)| format!("{what} {value}")).collect(),
                statuses: view
                    .statuses(id)
                    .map(|status| rules.status_name(status).unwrap_or_default().to_owned())
                    .collect(),
            })
        };
        let mut beams = encounter.beams().iter();
        let hitboxes = scene.hitboxes().map(|hitbox| {
            let attack = rules.attacks()[hitbox.attack.index()].name().to_owned();
            let end = end_of(&hitbox, rules, &mut beams);
            let (attacker, open) = (hitbox.attacker, hitbox.open);
            let moving = hitbox.held.map_or(hitbox.moving, |held| hitbox.moving.until(held));
            Hitbox { attacker, attack, open, moving, end }
        });
        let figures: Vec<Figure> = view.combatants().filter_map(figure).collect();
        let places: Vec<[f32; 3]> = figures.iter().map(|figure| figure.at).collect();
        let mut frame = Frame {
            tick: facts.tick,
            time: begins(facts.tick, rules),
            up: rules.up(),
            figures,
            hitboxes: hitboxes.collect(),
            obstacles: { scene.level().solids().map(|(_, solid)| solid) }
                .chain(scene.obstacles().map(|(_, obstacle)| obstacle))
                .collect(),
            open: scene.open_obstacles().map(|(_, obstacle)| obstacle).collect(),
            triangles: near_triangles(scene.level(), &places),
            touches: touches(&facts),
            told: Vec::new(),
        };
        for fact in facts.facts {
            if let Some((.., text)) = sentence(&Line { fact, facts: &facts, rules, names, before: 0 }) {
                frame.told.push(text);
            }
        }
        frame
    }
}

/// The triangles of a level that have a corner near the box about all places, in the order of the level; so many at most.
pub(crate) fn near_triangles(level: &Level, places: &[[f32; 3]]) -> Vec<[[f32; 3]; 3]> {
    const NEAR: f32 = 30.0;
    const MOST: usize = 5_000;
    let bound = |axis: usize, pick: fn(f32, f32) -> f32, start: f32| {
        places.iter().map(|place| place[axis]).fold(start, pick)
    };
    let (low, high) = (f32::INFINITY, f32::NEG_INFINITY);
    let bounds: [(f32, f32); 3] =
        std::array::from_fn(|axis| (bound(axis, f32::min, low) - NEAR, bound(axis, f32::max, high) + NEAR));
    let is_near = |corners: &[[f32; 3]; 3]| {
        corners.iter().any(|corner| (0..3).all(|i| (bounds[i].0..=bounds[i].1).contains(&corner[i])))
    };
    let mut all: Vec<_> = level.triangles().filter(|(_, corners)| is_near(corners)).collect();
    all.sort_by_key(|(place, _)| *place);
    all.into_iter().take(MOST).map(|(_, corners)| corners).collect()
}

/// Where a hitbox is at the end of the tick; for a beam, as far as it reached. Beams come in the order of open hitboxes.
pub(crate) fn end_of<'a>(
    hitbox: &SceneHitbox,
    rules: &Ruleset,
    beams: &mut impl Iterator<Item = &'a BeamLine>,
) -> Shape {
    let whole = hitbox.moving.at(hitbox.held.unwrap_or(1.0));
    match rules.attacks()[hitbox.attack.index()].form() {
        Form::Beam(beam) if hitbox.open => {
            let line = beams.find(|line| line.swing == hitbox.swing);
            line.map_or(whole, |line| Shape::Capsule { from: line.from, to: line.to, radius: beam.radius })
        }
        _ => whole,
    }
}

/// Where hitboxes met parts in a tick, and what came of each.
pub(crate) fn touches(facts: &Facts<'_>) -> Vec<Touched> {
    let (mut touches, mut refused, mut met) = (Vec::new(), Vec::new(), Vec::new());
    for event in facts.events() {
        match *event {
            Event::ContactMet(ContactMet { swing, attacker, target, point, normal, .. }) => {
                met.push((swing, attacker, target, point, normal))
            }
            Event::HitLanded(HitLanded { attacker, target, point, normal, .. }) => {
                touches.push(Touched { point, normal, came: Came::Hit, attacker, target })
            }
            Event::HitRefused(HitRefused { swing, target, .. }) => refused.push((swing, target)),
            _ => {}
        }
    }
    for (swing, attacker, target, point, normal) in met {
        let came = if refused.contains(&(swing, target)) { Came::Refused } else { Came::Nothing };
        if !touches.iter().any(|touch: &Touched| touch.point == point) {
            touches.push(Touched { point, normal, came, attacker, target });
        }
    }
    touches
}
