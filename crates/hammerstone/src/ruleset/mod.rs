//! Everything that a designer may tune, as data: built once, checked whole, then never changed.

mod builder;
#[cfg(feature = "serde")]
mod bytes;
mod compile;
pub(crate) mod def;
mod findings;
mod loops;
mod question;
mod read;
#[cfg(feature = "serde")]
mod renumber;
mod steps_taken;
mod timing;
mod validate;

use std::sync::Arc;

pub use builder::RulesetBuilder;
#[cfg(feature = "serde")]
pub use bytes::BytesError;
pub(crate) use compile::{AttackPlan, Bounds, PartPlan, Rules, TemplatePlan, Window};
pub(crate) use def::Metres;
pub use def::{
    Amount, AmountChange, Armour, AtEnd, Attack, Audience, Away, Beam, Broken, Cancel, CancelOn, Charge,
    Clash, ClosingSpeed, Comparison, Condition, Cooldown, Cost, Count, Counting, Credit, Critical, Crossings,
    Damage, Dealing, Direction, FallOff, Filter, FirstPulse, Form, FormKind, Gauge, GaugeChange, Grant, Grip,
    Group, Growth, Guard, HealStep, Healing, Held, HitStop, IfItKills, Keep, Knockback, Limit, Limits, Line,
    Lives, Modifier, OF_A_HIT, Overheal, Parry, Part, Party, Policy, Pool, Portion, Prefer, PreventsDeath,
    Projectile, Pulse, Reaction, Reading, Refill, Relation, Relations, ReturnTo, Role, Rounding, Rule,
    RuleValue, Scaling, ScoreValue, SharedDamage, Sharing, Shield, Side, Stacking, Stagger, StatChange,
    Status, Step, Strength, SwingPhase, Tactic, Target, Template, Term, Tie, Trigger, Uses, WaveLeader,
    Waves, When,
};
pub(crate) use def::{Chance, GaugeMaximum, Given, MOST_IN_A_WAVE, MOST_REWOUND, Spot, Stat, Threshold};
pub use findings::{Finding, Findings, Place, Problem};
pub use question::Question;
#[cfg(feature = "serde")]
pub(crate) use read::NameList;
use read::{Names, places_of_names};
#[cfg(feature = "serde")]
pub(crate) use renumber::NotNumbered;
pub use timing::Timings;
pub(crate) use validate::{Check, LONGEST};

/// A checked ruleset. Cloning it shares it: one ruleset may serve any number of encounters and threads.
///
/// Made by [`Ruleset::builder`]; all that is asked by name is asked here, so that nothing is looked up
/// while a fight runs.
#[derive(Clone, Debug)]
pub struct Ruleset(Arc<Rules>);

impl Ruleset {
    /// The same, where every amount takes every step, also those for which there is nothing in it; for holding the two against each other.
    #[cfg(feature = "audit")]
    #[doc(hidden)]
    pub fn taking_all_steps(&self) -> Ruleset {
        let mut rules = (*self.0).clone();
        rules.take_all_steps();
        Ruleset(Arc::new(rules))
    }

    /// Starts an empty ruleset in which one second has `rate` ticks.
    ///
    /// ```
    /// use hammerstone::prelude::*;
    /// use hammerstone::Findings;
    /// let mut b = Ruleset::builder(60);
    /// let crush = b.damage_type("crush");
    /// let masons = b.team("masons");
    /// b.template(Template::new("mason", masons, 40).part(Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.4 })));
    /// let rules = b.build()?;
    /// assert_eq!(rules.damage_type_name(crush), Some("crush"));
    /// # Ok::<(), Findings>(())
    /// ```
    pub fn builder(rate: u32) -> RulesetBuilder {
        RulesetBuilder::new(rate)
    }

    fn new(rules: Rules) -> Ruleset {
        Ruleset(Arc::new(rules))
    }

    /// What a tick uses.
    pub(crate) fn compiled(&self) -> &Rules {
        &self.0
    }
}
