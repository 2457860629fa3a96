//! What is authored about a status.

mod parts;

pub use parts::{
    FirstPulse, Grant, Guard, Parry, PreventsDeath, Pulse, SharedDamage, Stacking, Strength, Trigger,
};

use std::hash::{Hash, Hasher};

use super::{AmountChange, Condition, Damage, FormKind, Limits, Modifier, StatChange};
use crate::Fixed;
use crate::ids::*;

/// An authored status.
#[doc(alias("buff", "debuff", "effect", "condition"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Status {
    pub(crate) name: String,
    pub(crate) lasts: Option<u32>,
    pub(crate) stacking: Stacking,
    pub(crate) strength: Strength,
    pub(crate) pulse: Option<Pulse>,
    pub(crate) stuns: bool,
    pub(crate) roots: bool,
    pub(crate) invulnerable: bool,
    /// Shares of what is drained of gauges that it keeps.
    pub(crate) protects: Vec<(GaugeId, Fixed)>,
    /// What its pulses may deal, and what its bearer may take.
    pub(crate) limits: Option<Limits>,
    pub(crate) limits_taken: Option<Limits>,
    /// Tags of attacks that its protection and its guard let through.
    pub(crate) lets: u64,
    pub(crate) guard: Option<Guard>,
    pub(crate) parries: Option<Parry>,
    pub(crate) deflects: Option<Parry>,
    pub(crate) shield: Option<(ShieldId, i64)>,
    pub(crate) prevents_death: Option<PreventsDeath>,
    pub(crate) reflects: Option<SharedDamage>,
    pub(crate) transfers: Option<SharedDamage>,
    pub(crate) stats: Vec<StatChange>,
    pub(crate) amounts: Vec<AmountChange>,
    pub(crate) grants: Vec<Grant>,
    pub(crate) tags: u64,
    pub(crate) adds_tags: u64,
    pub(crate) hides_parts: u64,
    pub(crate) shows_parts: u64,
    pub(crate) barred_by: u64,
    pub(crate) lifted_by: u64,
    pub(crate) lifts: u64,
    pub(crate) across_lives: bool,
    pub(crate) kills_on_expiry: Option<DamageTypeId>,
}

impl Status {
    /// Whether it deals damage or kills.
    pub fn hurts(&self) -> bool {
        self.kills_on_expiry.is_some() || self.pulse.as_ref().is_some_and(|pulse| !pulse.damage.is_empty())
    }

    /// Whether its bearer starts nothing.
    pub fn is_stun(&self) -> bool {
        self.stuns
    }

    /// A status that lasts until it is lifted and does nothing.
    pub fn new(name: &str) -> Status {
        Status {
            name: name.to_owned(),
            lasts: None,
            stacking: Stacking::Refresh,
            strength: Strength::Given,
            pulse: None,
            stuns: false,
            roots: false,
            invulnerable: false,
            protects: Vec::new(),
            limits: None,
            limits_taken: None,
            lets: 0,
            guard: None,
            parries: None,
            deflects: None,
            shield: None,
            prevents_death: None,
            reflects: None,
            transfers: None,
            stats: Vec::new(),
            amounts: Vec::new(),
            grants: Vec::new(),
            tags: 0,
            adds_tags: 0,
            hides_parts: 0,
            shows_parts: 0,
            barred_by: 0,
            lifted_by: 0,
            lifts: 0,
            across_lives: false,
            kills_on_expiry: None,
        }
    }

    /// Expires `ticks` after it was applied or renewed.
    pub fn lasts(mut self, ticks: u32) -> Status {
        self.lasts = Some(ticks);
        self
    }

    /// What becomes of it when it is applied again.
    pub fn stacking(mut self, stacking: Stacking) -> Status {
        self.stacking = stacking;
        self
    }

    /// What its strength is.
    pub fn strength(mut self, strength: Strength) -> Status {
        self.strength = strength;
        self
    }

    /// Damages or heals at an interval.
    pub fn pulse(mut self, pulse: Pulse) -> Status {
        self.pulse = Some(pulse);
        self
    }

    /// Its bearer stays where it is: a move under way ends, and others are refused. It may be teleported.
    pub fn roots(mut self) -> Status {
        self.roots = true;
        self
    }

    /// Its bearer starts nothing; swings that the bearer carries are cancelled when it is applied.
    #[doc(alias("stun", "crowd control"))]
    pub fn stuns(mut self) -> Status {
        self.stuns = true;
        self
    }

    /// The least and the most that its pulses deal of one damage type.
    pub fn limits(mut self, limits: Limits) -> Status {
        self.limits = Some(limits);
        self
    }

    /// The least and the most that its bearer takes of one damage type in one blow.
    pub fn limits_taken(mut self, limits: Limits) -> Status {
        self.limits_taken = Some(limits);
        self
    }

    /// Of what hits and rules drain of a gauge of its bearer it keeps a share.
    pub fn protects(mut self, gauge: GaugeId, share: Fixed) -> Status {
        self.protects.push((gauge, share));
        self
    }

    /// Its bearer is invulnerable: attacks pass, except those that [ignore](crate::attack::Attack::ignores) it and those that
    /// [carry a tag](crate::attack::Attack::tag) which it [lets through](Status::lets_through).
    #[doc(alias("i-frames", "iframes", "invincibility"))]
    pub fn invulnerable(mut self) -> Status {
        self.invulnerable = true;
        self
    }

    /// Attacks that carry `tag` go through its protection and its guard.
    pub fn lets_through(mut self, tag: TagId) -> Status {
        self.lets |= tag.bit();
        self
    }

    /// Guards its bearer.
    pub fn guard(mut self, guard: Guard) -> Status {
        self.guard = Some(guard);
        self
    }

    /// Its bearer parries. Attacks that [ignore](crate::attack::Attack::ignores) it and those with a tag that it
    /// [lets through](Status::lets_through) are not parried.
    pub fn parries(mut self, parry: Parry) -> Status {
        self.parries = Some(parry);
        self
    }

    /// Its bearer deflects; otherwise as [`parries`](Self::parries).
    pub fn deflects(mut self, parry: Parry) -> Status {
        self.deflects = Some(parry);
        self
    }

    /// Brings `points` of a shield, times its strength, for each time that it counts. Where the shield is broken, the status ends.
    pub fn shield(mut self, shield: ShieldId, points: i64) -> Status {
        self.shield = Some((shield, points));
        self
    }

    /// Keeps its bearer alive at a lethal moment.
    pub fn prevents_death(mut self, prevents_death: PreventsDeath) -> Status {
        self.prevents_death = Some(prevents_death);
        self
    }

    /// Gives back a share of the damage that its bearer took and lived through, to the one who dealt it.
    pub fn reflects(mut self, passing: SharedDamage) -> Status {
        self.reflects = Some(passing);
        self
    }

    /// Moves a share of the damage from its bearer to the one who applied the status, while that one stands.
    pub fn transfers(mut self, passing: SharedDamage) -> Status {
        self.transfers = Some(passing);
        self
    }

    /// Changes a stat.
    pub fn changes(mut self, stat: StatId, by: Modifier) -> Status {
        self.stats.push(StatChange { stat, by });
        self
    }

    /// Changes amounts.
    pub fn changes_amounts(mut self, change: AmountChange) -> Status {
        self.amounts.push(change);
        self
    }

    /// Gives another status on an occasion.
    pub fn grant(mut self, grant: Grant) -> Status {
        self.grants.push(grant);
        self
    }

    /// Belongs to the family `tag`, for what lifts families.
    pub fn tag(mut self, tag: TagId) -> Status {
        self.tags |= tag.bit();
        self
    }

    /// Its bearer carries `tag` while it lasts.
    pub fn adds_tags(mut self, tag: TagId) -> Status {
        self.adds_tags |= tag.bit();
        self
    }

    /// Parts of its bearer with `tag` cannot be touched while it lasts.
    pub fn hides_parts(mut self, tag: TagId) -> Status {
        self.hides_parts |= tag.bit();
        self
    }

    /// Parts of its bearer with `tag` that are [hidden](crate::template::Part::hidden), by the template or by order, can be touched while it
    /// lasts; unless another status hides them.
    pub fn shows_parts(mut self, tag: TagId) -> Status {
        self.shows_parts |= tag.bit();
        self
    }

    /// Is refused by one who carries `tag`.
    pub fn barred_by(mut self, tag: TagId) -> Status {
        self.barred_by |= tag.bit();
        self
    }

    /// Is lifted when its bearer is given `tag`.
    pub fn lifted_by(mut self, tag: TagId) -> Status {
        self.lifted_by |= tag.bit();
        self
    }

    /// When it is applied, lifts every other status of the family `tag` from its bearer.
    pub fn lifts(mut self, tag: TagId) -> Status {
        self.lifts |= tag.bit();
        self
    }

    /// When its bearer dies or goes away it is suspended, and resumed with what was left when they return.
    pub fn across_lives(mut self) -> Status {
        self.across_lives = true;
        self
    }

    /// Its bearer dies when it expires, by as much damage of this damage type as health is left: down, but not out. If it is lifted before,
    /// its bearer has returned.
    pub fn kills_on_expiry(mut self, damage_type: DamageTypeId) -> Status {
        self.kills_on_expiry = Some(damage_type);
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// What becomes of it when it is applied again.
    pub fn stacking_of(&self) -> Stacking {
        self.stacking
    }

    /// Whether its bearer starts nothing.
    pub fn is_stunning(&self) -> bool {
        self.stuns
    }

    /// What its strength is.
    pub fn strength_of(&self) -> Strength {
        self.strength
    }

    /// What it gives on which occasions.
    pub fn grants(&self) -> &[Grant] {
        &self.grants
    }

    /// How long it lasts, in ticks.
    pub fn duration(&self) -> Option<u32> {
        self.lasts
    }
}
