//! Many encounters that tick together, each with a world of its own: the matches of a server, or the fights of a survey.
//!
//! They share the code of their hooks and nothing else, so that each goes on as it would alone. With the feature `threads` they run side
//! by side, on the pool of rayon's that the tick is called in; a world is `Send` for that.
//!
//! ```
//! use hammerstone::hall::Hall;
//! use hammerstone::prelude::*;
//!
//! # let mut b = Ruleset::builder(60);
//! # let masons = b.team("masons");
//! # let mason = b.template(Template::new("mason", masons, 40));
//! # let rules = b.build().unwrap();
//! let mut hooks = Hooks::<u32>::new();
//! let counts = hooks.react("counts", |joined: &mut u32, _, _| *joined += 1);
//! let mut hall = Hall::new();
//! let mut matches = Vec::new();
//! for seed in 0..3 {
//!     let mut fight = Encounter::new(&rules, seed);
//!     fight.orders().subscribe(counts, Listen::to(topic::COMBATANT_JOINED));
//!     fight.orders().spawn(mason, Pose::IDENTITY);
//!     matches.push(hall.admit(fight, 0));
//! }
//! hall.tick(&hooks);
//! assert!(hall.iter().all(|(_, room)| *room.world() == 1));
//! let (fight, _) = hall.remove(matches[1]).unwrap();
//! assert_eq!((fight.view().tick(), hall.len()), (1, 2));
//! ```

use crate::hooks::Hooks;
use crate::side_by_side;
use crate::{Encounter, Summary, TickError};

/// Names an encounter of a hall. None is given twice by one hall.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub struct RoomId(u64);

/// An encounter of a hall with its world.
#[derive(Debug)]
pub struct Room<W> {
    id: RoomId,
    encounter: Encounter,
    world: W,
    last: Option<Result<Summary, TickError>>,
}

/// Many encounters that tick together.
#[derive(Debug)]
pub struct Hall<W> {
    /// By rising id.
    rooms: Vec<Room<W>>,
    next: u64,
}

impl<W> Default for Hall<W> {
    fn default() -> Hall<W> {
        Hall { rooms: Vec::new(), next: 0 }
    }
}

impl<W> Room<W> {
    /// The encounter.
    pub fn encounter(&self) -> &Encounter {
        &self.encounter
    }

    /// The world of its hooks.
    pub fn world(&self) -> &W {
        &self.world
    }

    /// Both, for orders and questions.
    pub fn parts(&mut self) -> (&mut Encounter, &mut W) {
        (&mut self.encounter, &mut self.world)
    }

    /// What came of the last tick of the hall: its summary, or why the encounter did not tick; none before the first.
    pub fn last(&self) -> Option<Result<Summary, TickError>> {
        self.last
    }

    /// Whether the encounter has ended. The hall leaves it as it is until orders reset it.
    pub fn is_over(&self) -> bool {
        self.encounter.outcome().is_some()
    }
}

impl<W> Hall<W> {
    /// An empty hall.
    pub fn new() -> Hall<W> {
        Hall::default()
    }

    /// Takes in an encounter with its world, at any time between two ticks; it may have run before.
    pub fn admit(&mut self, encounter: Encounter, world: W) -> RoomId {
        let id = RoomId(self.next);
        self.next += 1;
        self.rooms.push(Room { id, encounter, world, last: None });
        id
    }

    /// Gives an encounter and its world back, if it is here.
    pub fn remove(&mut self, id: RoomId) -> Option<(Encounter, W)> {
        let Room { encounter, world, .. } = self.rooms.remove(self.place(id)?);
        Some((encounter, world))
    }

    /// Gives back all encounters that have ended, in the order in which they were admitted.
    pub fn remove_ended(&mut self) -> Vec<(RoomId, Encounter, W)> {
        let ended = self.rooms.extract_if(.., |room| room.is_over());
        ended.map(|Room { id, encounter, world, .. }| (id, encounter, world)).collect()
    }

    /// How many encounters are here.
    pub fn len(&self) -> usize {
        self.rooms.len()
    }

    /// Whether none is here.
    pub fn is_empty(&self) -> bool {
        self.rooms.is_empty()
    }

    /// An encounter with its world, if it is here.
    pub fn get(&self, id: RoomId) -> Option<&Room<W>> {
        Some(&self.rooms[self.place(id)?])
    }

    /// The same, for orders.
    pub fn get_mut(&mut self, id: RoomId) -> Option<&mut Room<W>> {
        let place = self.place(id)?;
        self.rooms.get_mut(place)
    }

    /// All encounters, in the order in which they were admitted.
    pub fn iter(&self) -> impl ExactSizeIterator<Item = (RoomId, &Room<W>)> {
        self.rooms.iter().map(|room| (room.id, room))
    }

    /// The same, for orders.
    pub fn iter_mut(&mut self) -> impl ExactSizeIterator<Item = (RoomId, &mut Room<W>)> {
        self.rooms.iter_mut().map(|room| (room.id, room))
    }

    fn place(&self, id: RoomId) -> Option<usize> {
        self.rooms.binary_search_by_key(&id, |room| room.id).ok()
    }
}

impl<W: Send> Hall<W> {
    /// Runs one tick of each encounter that has not ended, or has an order that resets it. What came of each stands in [`Room::last`].
    ///
    /// *Panics:* if a hook panics, as in [`Encounter::tick_with`]; then some of the others have ticked and some have not.
    pub fn tick(&mut self, hooks: &Hooks<W>) {
        self.tick_by(|encounter, world| encounter.tick_with(hooks, world));
    }

    /// As [`tick`](Self::tick), where `run` runs the tick: for hosts of another sort, orders that are given at once, or more than one tick.
    pub fn tick_by(
        &mut self,
        run: impl Fn(&mut Encounter, &mut W) -> Result<Summary, TickError> + Send + Sync,
    ) {
        side_by_side::each(&mut self.rooms, |room| {
            room.last = Some(run(&mut room.encounter, &mut room.world));
        });
    }
}
