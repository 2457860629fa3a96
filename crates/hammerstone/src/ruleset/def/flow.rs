//! Spots, waves, lives and thresholds: what the flow of an encounter is made of.

use std::hash::{Hash, Hasher};

use super::{Group, Metres};
use crate::Fixed;
use crate::geometry::Pose;
use crate::ids::*;

/// A named place of the ground.
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Spot {
    pub(crate) name: String,
    pub(crate) pose: Pose,
}

impl Spot {
    pub(crate) fn name(&self) -> &str {
        &self.name
    }
}

/// How waves grow.
#[derive(Clone, PartialEq, Eq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Growth {
    /// Each has so many more than the one before.
    Added(u32),
    /// The second has so many more than the first, and each after it so many more than were added before: by a rising increment.
    Rising(u32, u32),
    /// Each has so many times as many as the one before, rounded down at each.
    Compounding(Fixed),
    /// So many come in each; after the last of the list as many as in that.
    List(Vec<u32>),
    /// As many come as a counter says when they come, at least 0: rules let it grow.
    Counter(CounterId),
}

/// The leader of those who come in a wave.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum WaveLeader {
    /// The first of them leads the others.
    First,
    /// The first of a group that stands, by place.
    Of(Group),
}

/// A sequence of waves: so many come, then, when few enough are left, so many more.
#[doc(alias("spawner", "enemy waves"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Waves {
    pub(crate) name: String,
    pub(crate) template: TemplateId,
    pub(crate) team: Option<TeamId>,
    pub(crate) size: u32,
    pub(crate) growth: Growth,
    pub(crate) times: u32,
    pub(crate) spots: Vec<SpotId>,
    pub(crate) apart: [f32; 3],
    pub(crate) delay: u32,
    pub(crate) left: u32,
    pub(crate) of: Option<Group>,
    /// For waves on a timer: ticks from one to the next.
    pub(crate) every: Option<u32>,
    pub(crate) leader: Option<WaveLeader>,
    /// How far a place is free around, in metres, where free ones are taken.
    pub(crate) clear: Option<Metres>,
}

impl Hash for Waves {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        let Waves { name, template, team, size, growth, times, spots, apart, delay, left, of, .. } = self;
        let Waves { every, leader, clear, .. } = self;
        (name, template, team, size, growth, times, spots).hash(hasher);
        (apart.map(f32::to_bits), delay, left, of).hash(hasher);
        (every, leader, clear).hash(hasher);
    }
}

impl Waves {
    pub(crate) const ENDLESS: u32 = u32::MAX;

    /// So many waves, the first of `size` combatants. The next comes when none of their team stands.
    pub fn new(name: &str, template: TemplateId, size: u32, times: u32) -> Waves {
        Waves {
            name: name.to_owned(),
            template,
            team: None,
            size,
            growth: Growth::Added(0),
            times,
            spots: Vec::new(),
            apart: [0.0; 3],
            delay: 0,
            left: 0,
            of: None,
            every: None,
            leader: None,
            clear: None,
        }
    }

    /// How they grow.
    pub fn grows(mut self, growth: Growth) -> Waves {
        self.growth = growth;
        self
    }

    /// Where they come: the first at the first spot, the second at the second, and around again. At least one is needed.
    pub fn at(mut self, spot: SpotId) -> Waves {
        self.spots.push(spot);
        self
    }

    /// From one to the next at the same spot, in metres.
    pub fn apart(mut self, metres: [f32; 3]) -> Waves {
        self.apart = metres;
        self
    }

    /// For another team than the template's.
    pub fn team(mut self, team: TeamId) -> Waves {
        self.team = Some(team);
        self
    }

    /// They come without an end, until they are stopped.
    pub fn endless(mut self) -> Waves {
        self.times = Waves::ENDLESS;
        self
    }

    /// They come on a timer, even if some are left: so many ticks from one to the next. The first comes after the delay.
    pub fn every(mut self, ticks: u32) -> Waves {
        self.every = Some(ticks);
        self
    }

    /// Those who come follow one.
    pub fn follow(mut self, leader: WaveLeader) -> Waves {
        self.leader = Some(leader);
        self
    }

    /// Each takes the first place, spot by spot and row by row, around which no one stands within so many metres. Where all are taken, it
    /// comes to its own.
    pub fn at_free_places(mut self, metres: f32) -> Waves {
        self.clear = Some(Metres(metres));
        self
    }

    /// How many waves come, if they have an end.
    pub fn times_of(&self) -> Option<u32> {
        Some(self.times).filter(|&times| times != Waves::ENDLESS)
    }

    /// So many ticks pass before each of them.
    pub fn delay(mut self, ticks: u32) -> Waves {
        self.delay = ticks;
        self
    }

    /// The next comes when no more than `left` of a group stand.
    pub fn next_when(mut self, left: u32, of: Group) -> Waves {
        (self.left, self.of) = (left, Some(of));
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// How their size grows.
    pub fn growth(&self) -> &Growth {
        &self.growth
    }

    /// The template of those who come.
    pub fn template(&self) -> TemplateId {
        self.template
    }

    /// How many may be left when the next comes.
    pub fn left(&self) -> u32 {
        self.left
    }

    /// How many come in wave `number`, from 1; of endless ones never more than 10 000. Where a counter says how many, it is none of these.
    pub fn size_of(&self, number: u32) -> u32 {
        let before = number.saturating_sub(1);
        let size = match self.growth {
            Growth::Added(more) => self.size.saturating_add(more.saturating_mul(before)),
            Growth::Rising(first, more) => {
                let before = u64::from(before);
                let rises = before.saturating_mul(before.saturating_sub(1)) / 2;
                let added = (u64::from(first) * before).saturating_add(rises.saturating_mul(more.into()));
                u32::try_from(added.saturating_add(self.size.into())).unwrap_or(u32::MAX)
            }
            Growth::Compounding(times) => {
                let mut size = self.size;
                for _ in 0..before {
                    let grown = (Fixed::whole(size.into()) * times).floor();
                    let grown = u32::try_from(grown).unwrap_or(u32::MAX);
                    // It grows no more, or is larger than any may be.
                    if grown == size || grown > MOST_IN_A_WAVE {
                        size = grown;
                        break;
                    }
                    size = grown;
                }
                size
            }
            Growth::List(ref sizes) => {
                let place = (before as usize).min(sizes.len().saturating_sub(1));
                sizes.get(place).copied().unwrap_or(0)
            }
            Growth::Counter(_) => 0,
        };
        if self.times == Waves::ENDLESS { size.min(MOST_IN_A_WAVE) } else { size }
    }
}

/// The most that may come in one wave.
pub(crate) const MOST_IN_A_WAVE: u32 = 10_000;

/// Where one returns.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum ReturnTo {
    /// Where it joined.
    #[default]
    Home,
    /// Where it died.
    WhereItDied,
    /// At a spot.
    Spot(SpotId),
}

/// Several lives: after each death but the last the combatant returns.
#[doc(alias("respawn", "revive"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Copy, PartialEq, Eq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Lives {
    /// How many in all, at least 1.
    pub count: u32,
    /// For how many ticks it is away, once it has lain its time.
    pub delay: u32,
    /// Where it returns, at rest.
    pub to: ReturnTo,
    /// The share of health with which it returns, above 0 to 1; at least 1 point.
    pub health: Fixed,
    /// With what the encounter ends when the last life is gone, if with anything.
    pub last: Option<OutcomeId>,
}

impl Lives {
    /// So many lives, each with full health, at home, after so many ticks away.
    pub fn new(count: u32, delay: u32) -> Lives {
        Lives { count, delay, to: ReturnTo::Home, health: Fixed::ONE, last: None }
    }
}

/// What becomes of a threshold that the blow passes which also kills.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum IfItKills {
    /// It is not crossed: no one is told.
    #[default]
    Skip,
    /// It is crossed, before the death.
    Fire,
}

impl IfItKills {
    /// Both.
    pub const ALL: [IfItKills; 2] = [IfItKills::Skip, IfItKills::Fire];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            IfItKills::Skip => "skip",
            IfItKills::Fire => "fire",
        }
    }
}

/// A share of health that is crossed: downwards when health is at it or below and was above, upwards when it is above again.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Threshold {
    pub(crate) id: ThresholdId,
    pub(crate) share: Fixed,
    pub(crate) if_it_kills: IfItKills,
}

impl Threshold {
    /// Whether so much health of so much is at it or below.
    pub(crate) fn is_below(&self, health: i64, max: i64) -> bool {
        i128::from(health) * i128::from(Fixed::ONE.to_raw())
            <= i128::from(self.share.to_raw()) * i128::from(max)
    }
}
