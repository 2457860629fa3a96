//! Gauges beside health: what combatants have so much of, and what attacks cost.

use super::Threshold;
use crate::Fixed;
use crate::ids::*;

/// What a gauge holds at most.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum GaugeMaximum {
    Points(i64),
    Stat(StatId),
}

/// How a gauge fills by itself.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Refill {
    /// Points a second; below 0 it runs out.
    pub per_second: Fixed,
    /// So many ticks after the last loss, except by itself.
    pub after: u32,
}

/// What follows when a gauge is empty, or full.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct AtEnd {
    /// A status that its bearer is given. Its source is the one who emptied or filled the gauge.
    pub grants: Option<StatusId>,
    /// An empty gauge is full again, a full one empty.
    pub turns: bool,
}

/// A gauge beside health, such as poise, wind or bolts: its templates name it. Only health kills.
///
/// *Units:* whole points; what fills it by itself is exact to four decimals. It is as its template says at the beginning of each life.
///
/// ```
/// use hammerstone::Fixed;
/// use hammerstone::gauge::Gauge;
/// let mut b = hammerstone::Ruleset::builder(60);
/// let poise = b.gauge(Gauge::new("poise", 40).refill(Fixed::whole(5), 120));
/// # let _ = poise;
/// ```
#[doc(alias("resource", "stamina", "mana", "energy", "poise"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Gauge {
    pub(crate) name: String,
    pub(crate) maximum: GaugeMaximum,
    /// As a share of the maximum.
    pub(crate) start: Fixed,
    pub(crate) refill: Option<Refill>,
    pub(crate) thresholds: Vec<Threshold>,
    pub(crate) at_empty: AtEnd,
    pub(crate) at_full: AtEnd,
}

impl Gauge {
    /// A gauge that holds so many points, and is full at first.
    pub fn new(name: &str, points: i64) -> Gauge {
        Gauge {
            name: name.to_owned(),
            maximum: GaugeMaximum::Points(points),
            start: Fixed::ONE,
            refill: None,
            thresholds: Vec::new(),
            at_empty: AtEnd::default(),
            at_full: AtEnd::default(),
        }
    }

    /// Its maximum is a stat of its bearer, in whole points, and changes with it. Points beyond it are lost.
    pub fn of_stat(mut self, stat: StatId) -> Gauge {
        self.maximum = GaugeMaximum::Stat(stat);
        self
    }

    /// The share of the maximum that it has at first.
    pub fn start(mut self, share: Fixed) -> Gauge {
        self.start = share;
        self
    }

    /// It fills by itself: so many points a second, evenly, from so many ticks after the last loss on. Below 0 it runs out.
    pub fn refill(mut self, per_second: Fixed, after: u32) -> Gauge {
        self.refill = Some(Refill { per_second, after });
        self
    }

    /// A threshold at a share of the maximum: `gauge.crossed` tells that it was crossed.
    pub fn threshold(mut self, id: ThresholdId, share: Fixed) -> Gauge {
        self.thresholds.push(Threshold { id, share, if_it_kills: super::IfItKills::Fire });
        self
    }

    /// What follows when it is empty.
    pub fn at_empty(mut self, at_end: AtEnd) -> Gauge {
        self.at_empty = at_end;
        self
    }

    /// What follows when it is full.
    pub fn at_full(mut self, at_end: AtEnd) -> Gauge {
        self.at_full = at_end;
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }
}

/// What an attack costs its attacker of one gauge.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Cost {
    /// Of which gauge.
    pub gauge: GaugeId,
    /// Points at its start, without which it does not start.
    pub start: i64,
    /// Points with the first hit of a swing, as far as they are there.
    pub landed: i64,
    /// Points a second while it is charged; without them it is released.
    pub held: Fixed,
}

/// How long an attack cannot be started again.
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Cooldown {
    /// Ticks.
    pub lasts: u32,
    /// From its end; from its start unless said.
    pub from_end: bool,
    /// Attacks of one group cool down together.
    pub group: Option<String>,
}

/// How often an attack can be started until its uses come back.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Uses {
    /// So often.
    pub max: u16,
    /// One comes back every so many ticks; none if they do not.
    pub refill: Option<u32>,
}

/// What must have become of a swing for it to be cancelled into another.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum CancelOn {
    /// Anything.
    #[default]
    Any,
    /// It hit, and no guard took from it.
    Hit,
    /// A guard took from it.
    Guarded,
    /// It has hit nothing so far.
    Miss,
}

impl CancelOn {
    /// All of them.
    pub const ALL: [CancelOn; 4] = [CancelOn::Any, CancelOn::Hit, CancelOn::Guarded, CancelOn::Miss];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            CancelOn::Any => "any",
            CancelOn::Hit => "hit",
            CancelOn::Guarded => "guarded",
            CancelOn::Miss => "miss",
        }
    }
}

/// A stretch of a swing in which others may take its place.
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Cancel {
    /// The names of the attacks that may.
    pub into: Vec<String>,
    /// From which tick of the swing on.
    pub from: u32,
    /// Before which tick.
    pub to: u32,
    /// What must have become of it.
    pub on: CancelOn,
}

/// What a rule does to a gauge.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum GaugeChange {
    /// It has so much more.
    Fill,
    /// It has so much less.
    Drain,
    /// It has just that.
    Set,
}

impl GaugeChange {
    /// All of them.
    pub const ALL: [GaugeChange; 3] = [GaugeChange::Fill, GaugeChange::Drain, GaugeChange::Set];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            GaugeChange::Fill => "fill",
            GaugeChange::Drain => "drain",
            GaugeChange::Set => "set-gauge",
        }
    }
}
