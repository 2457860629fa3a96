//! What the stages of a tick work with: the rules, the state, the log of facts, and the buffers of the rooms.

use crate::detect::{Detection, InTheWay, obstacles_of};
use crate::flow::Reacting;
use crate::hooks::Host;
use crate::hub::Listeners;
use crate::ids::*;
use crate::level::Level;
use crate::log::Log;
use crate::resolve::Blows;
use crate::ruleset::{Rules, Ruleset};
use crate::state::State;
use crate::statuses::Queue;
use crate::swing::Known;

/// The parts that a tick borrows.
///
/// Functions that may lead to a death take all of it, since a death ends swings and statuses, which may lead to another. All others
/// take the parts that they use.
pub(crate) struct Work<'a> {
    /// For what hooks see.
    pub(crate) ruleset: &'a Ruleset,
    pub(crate) rules: &'a Rules,
    pub(crate) level: &'a Level,
    pub(crate) state: &'a mut State,
    pub(crate) log: &'a mut Log,
    pub(crate) rooms: &'a mut Rooms,
    pub(crate) host: &'a mut dyn Host,
}

/// The buffers of the rooms, each described where it is used. They are memory that is used again each tick, and decide nothing.
#[derive(Clone, Debug, Default)]
pub(crate) struct Rooms {
    pub(crate) detection: Detection,
    pub(crate) known: Known,
    pub(crate) blows: Blows,
    pub(crate) statuses: Queue,
    pub(crate) listeners: Listeners,
    pub(crate) reacting: Reacting,
    pub(crate) departures: Departures,
}

/// Combatants who have been removed.
#[derive(Clone, Debug, Default)]
pub(crate) struct Departures {
    /// Those whose place is free when the tick is over.
    pub(crate) leaving: Vec<CombatantId>,
    /// The same by their places, while the places are freed.
    pub(crate) gone: Vec<CombatantId>,
}

impl Work<'_> {
    /// Everything that may be in the way of a swing that is rewound by so many ticks.
    pub(crate) fn in_the_way_of(&self, back: u16) -> InTheWay<'_> {
        let past = obstacles_of(&self.state.past, self.state.tick, back);
        let (obstacles, stops) = (past.unwrap_or(&self.state.obstacles), &self.rooms.detection.stops[..]);
        InTheWay { level: self.level, obstacles, stops }
    }
}

impl Rooms {
    /// Forgets everything that belongs to another state, and keeps the memory.
    pub(crate) fn forget(&mut self) {
        self.detection.forget();
        self.known.forget();
        self.blows.forget();
        self.listeners.current = false;
        self.departures.leaving.clear();
    }
}
