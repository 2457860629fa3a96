//! Ids of one ruleset as those of another.

use super::Damaged;

/// What becomes of ids as they are written.
pub(crate) trait Table {
    /// By a sort of ids, whether they are others; then [`number`](Self::number) says which.
    fn knows(&mut self, sort: &'static str) -> bool;

    /// Another number for an id of the sort that was asked for last.
    fn number(&mut self, number: u64) -> Result<u64, Damaged>;
}

/// Ids stay as they are.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct NoMap;

impl Table for NoMap {
    #[inline]
    fn knows(&mut self, _: &'static str) -> bool {
        false
    }

    #[inline]
    fn number(&mut self, number: u64) -> Result<u64, Damaged> {
        Ok(number)
    }
}

/// By the sort of an id, what each number becomes; none for one that is not there any longer.
#[derive(Clone, Debug, Default)]
pub(crate) struct IdMap {
    pub(crate) sorts: Vec<(&'static str, Vec<Option<u64>>)>,
    /// The place of the sort that was asked for last.
    asked: usize,
    /// Ids that are not there any longer, and were written: by the place of their sort, and their numbers.
    pub(crate) missing: Vec<(&'static str, u64)>,
}

impl Table for IdMap {
    fn knows(&mut self, sort: &'static str) -> bool {
        match self.sorts.iter().position(|(of, _)| *of == sort) {
            Some(place) => {
                self.asked = place;
                true
            }
            None => false,
        }
    }

    fn number(&mut self, number: u64) -> Result<u64, Damaged> {
        let (sort, numbers) = &self.sorts[self.asked];
        match numbers.get(number as usize) {
            Some(Some(other)) => Ok(*other),
            // Written on, so that all of them are found.
            Some(None) => {
                if !self.missing.contains(&(*sort, number)) {
                    self.missing.push((*sort, number));
                }
                Ok(number)
            }
            // A number that never was an id: the place of none.
            None => Ok(number),
        }
    }
}
