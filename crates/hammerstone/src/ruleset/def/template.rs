//! What a combatant is made from.

use super::{AmountChange, Grant, IfItKills, Limits, Lives, Metres, Stagger, Threshold};
use crate::Fixed;
use crate::geometry::{Pose, Shape};
use crate::ids::*;

/// A named hitbox that can be struck.
///
/// *Frame:* the combatant's. It lies on one layer; a multiplier of 1 is an ordinary part.
#[doc(alias("hurtbox", "weak point", "hit zone"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Part {
    pub(crate) name: String,
    pub(crate) shape: Shape,
    /// Where the frame of its shape is until it is posed.
    pub(crate) rest: Option<Pose>,
    pub(crate) layer: LayerId,
    pub(crate) multiplier: Fixed,
    pub(crate) tags: u64,
    /// Points of its own, and what it is once they are gone.
    pub(crate) points: Option<i64>,
    pub(crate) broken: Broken,
    /// Whether it is hidden until it is shown.
    pub(crate) hidden: bool,
}

/// What becomes of a part whose points are gone. What is not said stays as it was.
#[doc(alias("breakable part", "destructible"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Debug, Default, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Broken {
    pub(crate) gone: bool,
    pub(crate) shape: Option<Shape>,
    pub(crate) multiplier: Option<Fixed>,
    pub(crate) tags: Option<u64>,
}

impl Broken {
    /// The part cannot be touched any longer.
    pub fn gone() -> Broken {
        Broken { gone: true, ..Broken::default() }
    }

    /// The part's hitbox is another.
    pub fn shape(mut self, shape: Shape) -> Broken {
        self.shape = Some(shape);
        self
    }

    /// The part's multiplier is another.
    pub fn multiplier(mut self, multiplier: Fixed) -> Broken {
        self.multiplier = Some(multiplier);
        self
    }

    /// The part carries `tag`, in place of its own. Called again, all that were named.
    pub fn tag(mut self, tag: TagId) -> Broken {
        self.tags = Some(self.tags.unwrap_or(0) | tag.bit());
        self
    }
}

impl Part {
    /// A part on the layer that every ruleset has, `body`, with a multiplier of 1.
    pub fn new(name: &str, shape: Shape) -> Part {
        Part {
            name: name.to_owned(),
            shape,
            rest: None,
            layer: LayerId(0),
            multiplier: Fixed::ONE,
            tags: 0,
            points: None,
            broken: Broken::default(),
            hidden: false,
        }
    }

    /// Where the frame of the part is, in the frame of the body, until the host [poses](Template::posed) it: at the joint of a skeleton at
    /// rest. Called again, the last counts.
    pub fn rest(mut self, pose: Pose) -> Part {
        self.rest = Some(pose);
        self
    }

    /// The part carries `tag`: for attacks that need or spare it, as if its bearer did.
    pub fn tag(mut self, tag: TagId) -> Part {
        self.tags |= tag.bit();
        self
    }

    /// The part has points of its own: what health loses by blows on it, it loses too. Once in a life it breaks, and is `broken`.
    pub fn points(mut self, points: i64, broken: Broken) -> Part {
        (self.points, self.broken) = (Some(points), broken);
        self
    }

    /// Puts the part on `layer`.
    pub fn layer(mut self, layer: LayerId) -> Part {
        self.layer = layer;
        self
    }

    /// What damage of a blow on this part is multiplied by; not below 0.
    pub fn multiplier(mut self, multiplier: Fixed) -> Part {
        self.multiplier = multiplier;
        self
    }

    /// The part cannot be touched at first in each life, until an order shows it ([`crate::orders::Orders::show_part`]), or as long as a
    /// status does ([`crate::status::Status::shows_parts`]). It must be one of the first 64.
    pub fn hidden(mut self) -> Part {
        self.hidden = true;
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The layer that it lies on.
    pub fn layer_of(&self) -> LayerId {
        self.layer
    }

    /// Its shape while it is whole, in the frame of the body, in metres; of a part that is posed, at rest.
    pub fn shape_of(&self) -> Shape {
        self.rest.map_or(self.shape, |rest| self.shape.moved(rest))
    }

    pub(crate) fn multiplier_when(&self, broken: bool) -> Fixed {
        self.broken.multiplier.filter(|_| broken).unwrap_or(self.multiplier)
    }

    pub(crate) fn tags_when(&self, broken: bool) -> u64 {
        self.broken.tags.filter(|_| broken).unwrap_or(self.tags)
    }
}

/// A template: what combatants of one sort have in common.
#[doc(alias("archetype", "unit type"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Template {
    pub(crate) name: String,
    pub(crate) team: TeamId,
    pub(crate) health: i64,
    pub(crate) parts: Vec<Part>,
    pub(crate) tags: u64,
    pub(crate) resistance: Vec<(DamageTypeId, Fixed)>,
    pub(crate) stats: Vec<(StatId, Fixed)>,
    pub(crate) shields: Vec<(ShieldId, i64)>,
    pub(crate) gauges: Vec<GaugeId>,
    pub(crate) pool: Option<PoolId>,
    pub(crate) limits_taken: Option<Limits>,
    pub(crate) amounts: Vec<AmountChange>,
    pub(crate) grants: Vec<Grant>,
    pub(crate) stagger: Option<Stagger>,
    pub(crate) never_critical: bool,
    pub(crate) corpse_time: Option<u32>,
    pub(crate) lives: Option<Lives>,
    /// From the highest.
    pub(crate) thresholds: Vec<Threshold>,
    pub(crate) values: Vec<(ValueId, i64)>,
    /// Parts follow poses of the host's, none of them farther from the body's place than this.
    pub(crate) posed: Option<Metres>,
}

impl Template {
    /// Parts that are hidden at first: bit `n` for part number `n`.
    pub(crate) fn hidden_at_first(&self) -> u64 {
        let hidden = self.parts.iter().take(64).enumerate().filter(|(_, part)| part.hidden);
        hidden.fold(0, |mask, (number, _)| mask | 1 << number)
    }

    /// A template of `team` with `health` whole points, no parts, and a body that lies until it is removed.
    pub fn new(name: &str, team: TeamId, health: i64) -> Template {
        Template {
            name: name.to_owned(),
            team,
            health,
            parts: Vec::new(),
            tags: 0,
            resistance: Vec::new(),
            stats: Vec::new(),
            shields: Vec::new(),
            gauges: Vec::new(),
            pool: None,
            limits_taken: None,
            amounts: Vec::new(),
            grants: Vec::new(),
            stagger: None,
            never_critical: false,
            corpse_time: None,
            lives: None,
            thresholds: Vec::new(),
            values: Vec::new(),
            posed: None,
        }
    }

    /// Its parts follow a skeleton: the host gives a pose for each ([`crate::orders::Orders::pose_parts`]), each tick or now and then, and
    /// shapes of parts are in the frames of those poses. Until the first pose, the frame of each is where it [rests](Part::rest). No pose may be farther from
    /// the body's place than `reach` metres.
    #[doc(alias("skeleton", "bones", "ragdoll"))]
    pub fn posed(mut self, reach: f32) -> Template {
        self.posed = Some(Metres(reach));
        self
    }

    /// The farthest that a pose of a part may be from the body's place, in metres, if its parts are [posed](Self::posed).
    pub fn pose_reach(&self) -> Option<f32> {
        self.posed.map(|reach| reach.0)
    }

    /// Adds a part. Its place in the order of adding is its number in facts and reports.
    pub fn part(mut self, part: Part) -> Template {
        self.parts.push(part);
        self
    }

    /// Carries `tag`.
    pub fn tag(mut self, tag: TagId) -> Template {
        self.tags |= tag.bit();
        self
    }

    /// What the stat is for combatants of this entry.
    pub fn stat(mut self, stat: StatId, base: Fixed) -> Template {
        self.stats.push((stat, base));
        self
    }

    /// Joins, and returns, with `points` of a shield.
    pub fn shield(mut self, shield: ShieldId, points: i64) -> Template {
        self.shields.push((shield, points));
        self
    }

    /// The least and the most that it takes of one damage type in one blow.
    pub fn limits_taken(mut self, limits: Limits) -> Template {
        self.limits_taken = Some(limits);
        self
    }

    /// It has this gauge.
    pub fn gauge(mut self, gauge: GaugeId) -> Template {
        self.gauges.push(gauge);
        self
    }

    /// It shares the health of a [pool](crate::gauge::Pool): its own counts for nothing, and no stat adds to its maximum.
    #[doc(alias("shared health", "shared hit points"))]
    pub fn pool(mut self, pool: PoolId) -> Template {
        self.pool = Some(pool);
        self
    }

    /// Changes amounts that it deals or takes.
    pub fn changes_amounts(mut self, change: AmountChange) -> Template {
        self.amounts.push(change);
        self
    }

    /// Gives a status on an occasion.
    pub fn grant(mut self, grant: Grant) -> Template {
        self.grants.push(grant);
        self
    }

    /// Staggers when enough damage has been gathered.
    pub fn stagger(mut self, stagger: Stagger) -> Template {
        self.stagger = Some(stagger);
        self
    }

    /// Is never struck critically.
    pub fn never_critical(mut self) -> Template {
        self.never_critical = true;
        self
    }

    /// Resists `damage type`: 0.25 takes a quarter off, 1 takes all, 1.5 heals by half, −0.5 is a weakness that adds half.
    pub fn resistance(mut self, damage_type: DamageTypeId, share: Fixed) -> Template {
        self.resistance.push((damage_type, share));
        self
    }

    /// The bodies of the dead lie for `ticks` and are then removed.
    pub fn corpse_time(mut self, ticks: u32) -> Template {
        self.corpse_time = Some(ticks);
        self
    }

    /// Has several lives. Unless said, its corpse time is then 0.
    pub fn lives(mut self, lives: Lives) -> Template {
        self.lives = Some(lives);
        self
    }

    /// Has a threshold at this share of health.
    pub fn threshold(mut self, id: ThresholdId, share: Fixed, if_it_kills: IfItKills) -> Template {
        self.thresholds.push(Threshold { id, share, if_it_kills });
        self
    }

    /// Is worth `amount` of `value`, for the record of its death.
    pub fn values(mut self, value: ValueId, amount: i64) -> Template {
        self.values.push((value, amount));
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Its thresholds with their shares, from the highest.
    pub fn thresholds(&self) -> impl Iterator<Item = (ThresholdId, Fixed)> {
        self.thresholds.iter().map(|threshold| (threshold.id, threshold.share))
    }

    /// The pool whose health it shares.
    pub fn pool_of(&self) -> Option<PoolId> {
        self.pool
    }

    /// The team.
    pub fn team(&self) -> TeamId {
        self.team
    }

    /// Its lives, if it has several.
    pub fn lives_of(&self) -> Option<Lives> {
        self.lives
    }

    /// The parts, in their order.
    pub fn parts(&self) -> &[Part] {
        &self.parts
    }

    /// What it gives on which occasions.
    pub fn grants(&self) -> &[Grant] {
        &self.grants
    }

    /// Whether it carries `tag`.
    pub fn has_tag(&self, tag: TagId) -> bool {
        self.tags & tag.bit() != 0
    }

    pub(crate) fn resistance_to(&self, damage_type: DamageTypeId) -> Fixed {
        self.resistance.iter().find(|(k, _)| *k == damage_type).map_or(Fixed::ZERO, |&(_, share)| share)
    }
}
