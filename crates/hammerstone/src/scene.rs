//! What stood where in the last tick, for pictures and explanations.

use std::sync::OnceLock;

pub use crate::detect::BeamLine;
use crate::detect::{Detection, OpenHitbox, PartsNow, past_body};
use crate::forms::gather_closed;
use crate::geometry::Pose;
use crate::geometry::{Motion, Moving, Obstacle, Swept};
use crate::ids::*;
use crate::level::Level;
use crate::ruleset::Ruleset;
use crate::state::State;
use crate::terms::Life;
pub use crate::view::FlyingBody;
use crate::view::View;

/// What stood where in the last tick, and how it moved in its course: every part, every hitbox of every swing, every obstacle.
///
/// Made when asked for, and no part of the state. After a saved state was restored it has no open hitboxes until a tick has run.
#[derive(Clone, Debug)]
pub struct Scene<'a> {
    ruleset: &'a Ruleset,
    level: &'a Level,
    state: &'a State,
    detection: &'a Detection,
    /// Hitboxes with a shut window: gathered when they are asked for.
    closed: OnceLock<Vec<OpenHitbox>>,
}

/// A part on its way through the tick.
#[derive(Clone, Copy, Debug)]
pub struct ScenePart {
    /// Whose it is.
    pub who: CombatantId,
    /// Which part of its template.
    pub part: u16,
    /// The layer that it lies on.
    pub layer: LayerId,
    /// Its hitbox and its way.
    pub moving: Moving,
}

/// A hitbox of a swing on its way through the tick.
#[derive(Clone, Copy, Debug)]
pub struct SceneHitbox {
    /// Its swing.
    pub swing: SwingId,
    /// The swing's attack.
    pub attack: AttackId,
    /// Who swings, if anyone does.
    pub attacker: Option<CombatantId>,
    /// The projectile, from 1.
    pub body: Option<u16>,
    /// Which hitbox of the attack, or which part of the attacker's for attacks by touch.
    pub hitbox: u16,
    /// Whether a window was open, so that it could meet a part.
    pub open: bool,
    /// When in the tick something in its way holds it, from 0 to 1: it goes no farther then ([`Moving::until`]).
    pub held: Option<f32>,
    /// Its hitbox and its way. A beam has its whole reach; where it stopped, [`beams`](crate::Encounter::beams) tell.
    pub moving: Moving,
}

impl<'a> Scene<'a> {
    pub(crate) fn of(
        ruleset: &'a Ruleset,
        level: &'a Level,
        state: &'a State,
        detection: &'a Detection,
    ) -> Scene<'a> {
        Scene { ruleset, level, state, detection, closed: OnceLock::new() }
    }

    fn closed(&self) -> &[OpenHitbox] {
        self.closed.get_or_init(|| {
            let mut closed = Vec::new();
            let Scene { ruleset, level, state, detection, .. } = *self;
            gather_closed(ruleset.compiled(), level, state, &detection.posed, &mut closed);
            // What opened and closed again within the tick counts as open.
            closed.retain(|hitbox| detection.hitboxes.iter().all(|open| open.id != hitbox.id));
            closed
        })
    }

    /// The encounter as it stands.
    pub fn view(&self) -> View<'a> {
        View::of(self.ruleset, self.state)
    }

    /// Where one was when the tick began, and is now; none for one who is gone.
    pub fn way(&self, who: CombatantId) -> Option<(Pose, Pose)> {
        let combatants = &self.state.combatants;
        let here = combatants.life_of(who) != Life::Gone;
        here.then(|| (combatants.pose_before[who.slot()], combatants.pose[who.slot()]))
    }

    /// The parts of one who stands, or lies where it died, but those that are hidden, or broken and gone.
    pub fn parts(&self, who: CombatantId) -> impl Iterator<Item = ScenePart> + use<'a> {
        let (rules, state, detection) = (self.ruleset.compiled(), self.state, self.detection);
        let answered = detection.answered(who);
        let combatants = &state.combatants;
        let there = matches!(combatants.life_of(who), Life::Standing | Life::Dead);
        let slot = there.then(|| who.slot());
        slot.into_iter().flat_map(move |slot| {
            let way = Motion::between(combatants.pose_before[slot], combatants.pose[slot]);
            let parts = rules.template_plan(combatants.template[slot]).parts.iter().enumerate();
            let now = PartsNow::of(combatants, slot);
            let mut posed = detection.posed.parts(rules, combatants, slot, way);
            parts.filter_map(move |(number, part)| {
                let swept = match (&mut posed, answered) {
                    (Some(posed), _) => posed.next()??,
                    (None, Some(body)) => body.part(rules, &detection.ways, number)?,
                    (None, None) => Swept::fixed(now.still(part, number)?, way),
                };
                Some(ScenePart { who, part: number as u16, layer: part.layer, moving: swept.into() })
            })
        })
    }

    /// The parts of one as a swing meets them: where they were, if it is rewound. Of one who was not there then, none.
    pub fn parts_met_by(&self, swing: SwingId, who: CombatantId) -> Vec<ScenePart> {
        let (rules, state) = (self.ruleset.compiled(), self.state);
        let back = state.past.of(swing);
        if back == 0 {
            return self.parts(who).collect();
        }
        let Some((past, of)) = state.past.body(state.tick, back, who) else { return Vec::new() };
        let mut ways = Vec::new();
        let body = past_body(rules, past, of, back, &mut ways);
        let parts = rules.template_plan(of.template).parts.iter().enumerate();
        let parts = parts.filter_map(|(number, part)| {
            let moving = body.part(rules, &ways, number)?.into();
            Some(ScenePart { who, part: number as u16, layer: part.layer, moving })
        });
        parts.collect()
    }

    /// The hitboxes of all swings: first those that were open, then those whose window is shut, each by swing, body and hitbox.
    pub fn hitboxes(&self) -> impl Iterator<Item = SceneHitbox> + use<'_, 'a> {
        let of = |open: bool| {
            move |hitbox: &OpenHitbox| SceneHitbox {
                swing: hitbox.id,
                attack: hitbox.attack,
                attacker: hitbox.attacker,
                body: (hitbox.body > 0).then_some(hitbox.body),
                hitbox: hitbox.hitbox,
                open,
                moving: hitbox.swept.into(),
                held: (hitbox.held_from <= 1.0).then_some(hitbox.held_from),
            }
        };
        self.detection.hitboxes.iter().map(of(true)).chain(self.closed().iter().map(of(false)))
    }

    /// The obstacles where they are when the tick is over, in the world, in the order in which they were added; without those that are
    /// [open](Self::open_obstacles).
    pub fn obstacles(&self) -> impl Iterator<Item = (ObstacleId, Obstacle)> + use<'a> {
        self.state.obstacles.iter().map(|raised| (raised.id, raised.placed(1.0)))
    }

    /// The obstacles that let everything through ([`crate::orders::Orders::open_obstacle`]), likewise.
    pub fn open_obstacles(&self) -> impl Iterator<Item = (ObstacleId, Obstacle)> + use<'a> {
        self.state.opened.0.iter().map(|raised| (raised.id, raised.placed(1.0)))
    }

    /// What the level puts in the way.
    pub fn level(&self) -> &'a Level {
        self.level
    }
}
