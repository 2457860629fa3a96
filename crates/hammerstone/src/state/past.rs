//! Where targets and obstacles were in the last ticks, for swings that are rewound. Absent unless the ruleset declares it.

use std::collections::VecDeque;
use std::hash::{Hash, Hasher};

use super::{Raised, State};
use crate::columns::Fills;
use crate::geometry::Pose;
use crate::ids::*;
#[cfg(feature = "serde")]
use crate::wire::{Damaged, SectionReader, SectionWriter, Table};

/// A combatant that could be struck, as it was in a tick.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct PastBody {
    pub(crate) id: CombatantId,
    pub(crate) template: TemplateId,
    pub(crate) before: Pose,
    pub(crate) pose: Pose,
    pub(crate) broken: u64,
    pub(crate) hidden: u64,
    pub(crate) size: crate::Fixed,
    /// Where the ways of its parts begin, if it was posed.
    pub(crate) posed: Option<u32>,
}

/// What a tick was like.
#[derive(PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct PastTick {
    pub(crate) tick: u32,
    /// By their places.
    pub(crate) bodies: Vec<PastBody>,
    /// Where parts that were posed began and ended, in the frames of their bodies.
    pub(crate) ways: Vec<[Pose; 2]>,
    pub(crate) obstacles: Vec<Raised>,
}

impl Clone for PastTick {
    fn clone(&self) -> PastTick {
        let mut copy = PastTick::default();
        copy.clone_from(self);
        copy
    }

    fn clone_from(&mut self, from: &PastTick) {
        self.tick = from.tick;
        self.bodies.clone_from(&from.bodies);
        self.ways.clone_from(&from.ways);
        self.obstacles.clone_from(&from.obstacles);
    }
}

/// The last ticks, the oldest first, and by how many ticks swings are rewound.
#[derive(PartialEq, Eq, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Past {
    pub(crate) ticks: VecDeque<PastTick>,
    /// By rising id.
    pub(crate) rewound: Vec<(SwingId, u16)>,
}

impl Past {
    pub(crate) fn is_empty(&self) -> bool {
        self.ticks.is_empty() && self.rewound.is_empty()
    }

    /// By how many ticks a swing is rewound.
    pub(crate) fn of(&self, swing: SwingId) -> u16 {
        if self.rewound.is_empty() {
            return 0;
        }
        let place = self.rewound.binary_search_by_key(&swing, |(swing, _)| *swing);
        place.map_or(0, |place| self.rewound[place].1)
    }

    /// A swing is rewound by so many ticks from now on.
    pub(crate) fn rewind(&mut self, swing: SwingId, ticks: u16) {
        match self.rewound.binary_search_by_key(&swing, |(swing, _)| *swing) {
            Ok(place) if ticks == 0 => _ = self.rewound.remove(place),
            Ok(place) => self.rewound[place].1 = ticks,
            Err(place) if ticks > 0 => self.rewound.insert(place, (swing, ticks)),
            Err(_) => {}
        }
    }

    /// The tick that was so many before `now`, if it is kept.
    pub(crate) fn before(&self, now: u32, ticks: u16) -> Option<&PastTick> {
        let tick = now.checked_sub(ticks.into())?;
        let place = self.ticks.binary_search_by_key(&tick, |past| past.tick).ok()?;
        self.ticks.get(place)
    }

    /// A combatant as it was so many ticks before `now`.
    pub(crate) fn body(&self, now: u32, ticks: u16, who: CombatantId) -> Option<(&PastTick, &PastBody)> {
        let past = self.before(now, ticks)?;
        let place = past.bodies.binary_search_by_key(&who.slot, |body| body.id.slot).ok()?;
        Some((past, &past.bodies[place])).filter(|(_, body)| body.id == who)
    }

    /// Room for a tick that is kept, where no more than `most` are.
    pub(crate) fn next(&mut self, most: u32) -> Option<&mut PastTick> {
        let mut used = None;
        while self.ticks.len() >= most as usize {
            used = self.ticks.pop_front();
            used.as_ref()?;
        }
        let mut next = used.unwrap_or_default();
        next.bodies.clear();
        next.ways.clear();
        next.obstacles.clear();
        self.ticks.push_back(next);
        self.ticks.back_mut()
    }
}

impl State {
    /// Where one is, or was so many ticks ago.
    pub(crate) fn pose_rewound(&self, who: CombatantId, ticks: u16) -> Pose {
        let past = if ticks > 0 { self.past.body(self.tick, ticks, who) } else { None };
        past.map_or_else(|| self.combatants.pose[who.slot()], |(_, body)| body.pose)
    }
}

/// What is absent adds nothing, so that states without it have the checksum that they had before there was such a thing.
impl Hash for Past {
    fn hash<H: Hasher>(&self, state: &mut H) {
        if !self.is_empty() {
            self.ticks.hash(state);
            self.rewound.hash(state);
        }
    }
}

impl Clone for Past {
    fn clone(&self) -> Past {
        Past { ticks: self.ticks.clone(), rewound: self.rewound.clone() }
    }

    fn clone_from(&mut self, from: &Past) {
        self.rewound.clone_from(&from.rewound);
        self.ticks.truncate(from.ticks.len());
        let known = self.ticks.len();
        self.ticks.iter_mut().zip(&from.ticks).for_each(|(tick, from)| tick.clone_from(from));
        self.ticks.extend(from.ticks.iter().skip(known).cloned());
    }
}

impl Fills for Past {
    fn bytes(&self) -> usize {
        let of = |tick: &PastTick| {
            size_of_val(&tick.bodies[..]) + size_of_val(&tick.ways[..]) + size_of_val(&tick.obstacles[..])
        };
        self.ticks.iter().map(of).sum::<usize>() + size_of_val(&self.rewound[..])
    }

    /// A section that is there only if there is something in it.
    #[cfg(feature = "serde")]
    fn put<M: Table>(&self, name: &str, out: &mut SectionWriter<'_, M>) {
        if !self.is_empty() {
            out.section(name, self);
        }
    }

    #[cfg(feature = "serde")]
    fn take(name: &str, from: &mut SectionReader<'_>) -> Result<Past, Damaged> {
        from.optional(name)
    }
}
