//! What a status is made of: how it stacks, pulses, protects, and what it gives.

use super::*;

/// When the first pulse of a status comes.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum FirstPulse {
    /// One interval after it was applied.
    #[default]
    After,
    /// In the tick in which it was applied.
    AtOnce,
}

/// Damage or healing that comes back at an interval while a status lasts.
#[doc(alias("damage over time", "DoT", "HoT", "regeneration"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Pulse {
    /// Ticks from one pulse to the next, at least 1.
    pub every: u32,
    /// When the first one comes.
    pub first: FirstPulse,
    /// What each pulse deals.
    pub damage: Vec<Damage>,
    /// What each pulse heals, in points: the least and the most.
    pub heal: Option<(i64, i64)>,
    /// Whether no prevention of death can stop its damage.
    pub absolute: bool,
}

impl Pulse {
    /// A pulse of damage every so many ticks, the first one interval after the status was applied.
    pub fn damage(every: u32, damage: Vec<Damage>) -> Pulse {
        Pulse { every, damage, ..Pulse::default() }
    }

    /// A pulse of healing.
    pub fn heal(every: u32, low: i64, high: i64) -> Pulse {
        Pulse { every, heal: Some((low, high)), ..Pulse::default() }
    }

    /// The first pulse comes in the tick in which the status is applied.
    pub fn at_once(mut self) -> Pulse {
        self.first = FirstPulse::AtOnce;
        self
    }
}

/// What becomes of a status that is applied to one who bears it. Its pulses go on as they were.
#[doc(alias("stacks", "refresh duration"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Stacking {
    /// Its end moves to a whole duration from now; strength and credit stay those of the first.
    #[default]
    Refresh,
    /// Its end moves on by a whole duration; strength and credit stay those of the first.
    Extend,
    /// If the new one is stronger, it takes the old one's place, with its strength, its credit and a whole duration;
    /// otherwise it is refused.
    Strongest,
    /// It counts once more, up to so many times, and its end moves to a whole duration from now.
    Stack(u16),
    /// Each source has an application of its own, which it renews.
    PerSource,
}

impl Stacking {
    /// All ways, with a stack of 2.
    pub const ALL: [Stacking; 5] =
        [Stacking::Refresh, Stacking::Extend, Stacking::Strongest, Stacking::Stack(2), Stacking::PerSource];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Stacking::Refresh => "refresh",
            Stacking::Extend => "extend",
            Stacking::Strongest => "strongest",
            Stacking::Stack(_) => "stack",
            Stacking::PerSource => "per-source",
        }
    }
}

/// What the strength of a status is. It multiplies pulses, additions, shares and factors.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Strength {
    /// The strength with which it is given, 1 unless said.
    #[default]
    Given,
    /// That, times a stat of its source when it is applied.
    Captured(StatId),
    /// That, times a stat of its source at the beginning of stage 5 of each tick, as long as the source is in the encounter.
    Live(StatId),
}

/// A guard: it takes a share of blows that come from before its bearer.
#[doc(alias("block", "parry"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Guard {
    /// The share that it takes off, 0 to 1.
    pub takes: Fixed,
    /// The cosine of the angle about the bearer's forward within which it guards.
    pub(crate) cosine: f32,
    /// It breaks after having taken so much; never, if nothing is said.
    pub breaks_after: Option<i64>,
    /// The damage types that it is good against; every damage type if there are none.
    pub damage_types: Vec<DamageTypeId>,
}

impl Hash for Guard {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        let Guard { takes, cosine, breaks_after, damage_types } = self;
        (takes, cosine.to_bits(), breaks_after, damage_types).hash(hasher);
    }
}

impl Guard {
    /// A guard that takes the share `takes` off what comes from within `degrees` of the bearer's forward, looked at from above.
    pub fn new(takes: Fixed, degrees: f32) -> Guard {
        let cosine = libm::cosf(degrees * (std::f32::consts::PI / 180.0));
        Guard { takes, cosine, breaks_after: None, damage_types: Vec::new() }
    }

    /// It breaks after having taken `points`.
    pub fn breaks_after(mut self, points: i64) -> Guard {
        self.breaks_after = Some(points);
        self
    }

    /// Only against `damage type`. Called again, against all that were named.
    pub fn against(mut self, damage_type: DamageTypeId) -> Guard {
        self.damage_types.push(damage_type);
        self
    }
}

/// A parry or a deflection: attacks that come from before its bearer are refused, and use up their turn at it.
///
/// What is parried does nothing; a projectile ends. What is deflected turns against those from whom it came: a projectile flies back as its
/// bearer's, with the stats and the struck list that it had; any other swing ends.
#[doc(alias("perfect block", "reflect projectiles"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Parry {
    /// The cosine of the angle about the bearer's forward within which it works.
    pub(crate) cosine: f32,
    /// The forms of attacks that it works against; all but touch if there are none.
    pub(crate) forms: Vec<FormKind>,
    /// Whether a swing that is parried ends.
    pub(crate) ends_swing: bool,
}

impl Hash for Parry {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        let Parry { cosine, forms, ends_swing } = self;
        (cosine.to_bits(), forms, ends_swing).hash(hasher);
    }
}

impl Parry {
    /// Against what comes from within `degrees` of the bearer's forward, looked at from above.
    pub fn within(degrees: f32) -> Parry {
        let cosine = libm::cosf(degrees * (std::f32::consts::PI / 180.0));
        Parry { cosine, forms: Vec::new(), ends_swing: false }
    }

    /// Only against this form of attacks. Called again, against all that were named.
    pub fn against(mut self, form: FormKind) -> Parry {
        self.forms.push(form);
        self
    }

    /// A swing that is parried ends at once.
    pub fn ends_swing(mut self) -> Parry {
        self.ends_swing = true;
        self
    }

    /// Whether it works against attacks of a form.
    pub(crate) fn is_against(&self, form: FormKind) -> bool {
        if self.forms.is_empty() { form != FormKind::Touch } else { self.forms.contains(&form) }
    }
}

/// What keeps its bearer alive at a lethal moment.
#[doc(alias("cheat death", "last stand"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct PreventsDeath {
    /// Health that it leaves, or what there was, if that was less.
    pub leaves: i64,
    /// How often in one life.
    pub limit: u32,
    /// Whether the status ends with it.
    pub ends: bool,
}

/// Damage that goes on to someone else.
#[doc(alias("thorns", "reflect", "damage link"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct SharedDamage {
    /// The share of what was dealt, to the whole point below.
    pub share: Fixed,
    /// Only of this damage type, if one is named.
    pub damage_type: Option<DamageTypeId>,
    /// For damage that is transferred: not to the source of the status, but to all others who bear it from the same source, evenly. So bearers
    /// are linked.
    pub linked: bool,
}

/// When a template or a status gives another status.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Trigger {
    /// Its bearer was struck, and lives. What deals no damage does not count.
    Struck,
    /// Its bearer struck someone, who lives. What deals no damage does not count.
    Hits,
    /// Its bearer joined.
    Joins,
    /// Its bearer returned.
    Returns,
    /// Its bearer's death was prevented. The source of what is given is the one who would have killed it.
    Spared,
    /// The status expired. Only for statuses.
    Expiry,
    /// Its bearer parried an attack; the other side is the attacker.
    Parries,
    /// Its bearer deflected an attack; the other side is the one whose attack it was.
    Deflects,
}

impl Trigger {
    /// Whether it comes of a hit.
    pub(crate) const fn is_of_a_hit(self) -> bool {
        matches!(self, Trigger::Struck | Trigger::Hits)
    }

    /// All occasions.
    pub const ALL: [Trigger; 8] = [
        Trigger::Struck,
        Trigger::Hits,
        Trigger::Joins,
        Trigger::Returns,
        Trigger::Spared,
        Trigger::Expiry,
        Trigger::Parries,
        Trigger::Deflects,
    ];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Trigger::Struck => "struck",
            Trigger::Hits => "hits",
            Trigger::Joins => "joins",
            Trigger::Returns => "returns",
            Trigger::Spared => "spared",
            Trigger::Expiry => "expiry",
            Trigger::Parries => "parries",
            Trigger::Deflects => "deflects",
        }
    }
}

/// A status that is given on an occasion, to the bearer or to the other side of a blow. Its source is the bearer.
#[doc(alias("proc", "trigger"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, PartialEq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Grant {
    /// When.
    pub on: Trigger,
    /// Which status.
    pub status: StatusId,
    /// How strong.
    pub strength: Fixed,
    /// Whether the other side of the blow gets it.
    pub to_other: bool,
    pub(crate) when: Vec<Condition>,
}

impl Grant {
    /// The bearer gets `status`.
    pub const fn new(on: Trigger, status: StatusId) -> Grant {
        Grant { on, status, strength: Fixed::ONE, to_other: false, when: Vec::new() }
    }

    /// The other side gets it.
    pub fn to_other(mut self) -> Grant {
        self.to_other = true;
        self
    }

    /// At this strength.
    pub fn strength(mut self, strength: Fixed) -> Grant {
        self.strength = strength;
        self
    }

    /// Only if this holds, too. The subject is the bearer, the other party the other side. For what is given to one who was struck or who
    /// struck, the fact is `hit.landed`, with three fields more: [`OF_A_HIT`](crate::flow::OF_A_HIT); else there is no fact to ask about.
    pub fn when(mut self, condition: Condition) -> Grant {
        self.when.push(condition);
        Condition::chances_last(&mut self.when);
        self
    }

    /// All that must hold.
    pub fn conditions(&self) -> &[Condition] {
        &self.when
    }
}
