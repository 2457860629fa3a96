//! Obstacles that are open: they are kept, and nothing meets them.

use std::hash::{Hash, Hasher};

use super::{Raised, State};
use crate::columns::Fills;
use crate::ids::ObstacleId;
#[cfg(feature = "serde")]
use crate::wire::{Damaged, SectionReader, SectionWriter, Table};

/// By rising number.
#[derive(PartialEq, Eq, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Opened(pub(crate) Vec<Raised>);

impl State {
    /// The obstacles that are there, open ones last.
    pub(crate) fn all_raised(&self) -> impl Iterator<Item = &Raised> {
        self.obstacles.iter().chain(&self.opened.0)
    }

    /// The same, to move them.
    pub(crate) fn all_raised_mut(&mut self) -> impl Iterator<Item = &mut Raised> {
        self.obstacles.iter_mut().chain(&mut self.opened.0)
    }

    /// An obstacle that is there, open or not.
    pub(crate) fn raised(&self, id: ObstacleId) -> Option<&Raised> {
        let of = |raised: &[Raised]| raised.binary_search_by_key(&id, |raised| raised.id).ok();
        match of(&self.obstacles) {
            Some(place) => Some(&self.obstacles[place]),
            None => of(&self.opened.0).map(|place| &self.opened.0[place]),
        }
    }

    /// The same, to change it.
    pub(crate) fn raised_mut(&mut self, id: ObstacleId) -> Option<&mut Raised> {
        let of = |raised: &[Raised]| raised.binary_search_by_key(&id, |raised| raised.id).ok();
        match of(&self.obstacles) {
            Some(place) => Some(&mut self.obstacles[place]),
            None => of(&self.opened.0).map(|place| &mut self.opened.0[place]),
        }
    }

    /// An obstacle lets everything through from now on, or nothing.
    pub(crate) fn open_obstacle(&mut self, id: ObstacleId, open: bool) {
        let State { obstacles, opened: Opened(opened), .. } = self;
        let (from, to) = if open { (obstacles, opened) } else { (opened, obstacles) };
        if let Ok(place) = from.binary_search_by_key(&id, |raised| raised.id) {
            let raised = from.remove(place);
            to.insert(to.partition_point(|known| known.id < id), raised);
        }
    }
}

/// What is absent adds nothing, so that states without it have the checksum that they had before there was such a thing.
impl Hash for Opened {
    fn hash<H: Hasher>(&self, state: &mut H) {
        if !self.0.is_empty() {
            self.0.hash(state);
        }
    }
}

impl Clone for Opened {
    fn clone(&self) -> Opened {
        Opened(self.0.clone())
    }

    fn clone_from(&mut self, from: &Opened) {
        self.0.clone_from(&from.0);
    }
}

impl Fills for Opened {
    fn bytes(&self) -> usize {
        self.0.bytes()
    }

    /// A section that is there only if there is something in it.
    #[cfg(feature = "serde")]
    fn put<M: Table>(&self, name: &str, out: &mut SectionWriter<'_, M>) {
        if !self.0.is_empty() {
            out.section(name, self);
        }
    }

    #[cfg(feature = "serde")]
    fn take(name: &str, from: &mut SectionReader<'_>) -> Result<Opened, Damaged> {
        from.optional(name)
    }
}
