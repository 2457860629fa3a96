//! Ids of one ruleset as those of another.

use super::Damaged;

/// What becomes of ids as they are written.
pub(crate) trait Table {
    /// Whether any becomes another: what never asks is faster.
    const MAPS: bool;

    /// By a sort of ids, whether they are others; then [`number`](Self::number) says which.
    fn knows(&mut self, sort: &'static str) -> bool;

    /// Another number for an id of the sort that was asked for last.
    fn number(&mut self, number: u64) -> Result<u64, Damaged>;

    /// Whether the numbers of a field are sets of ids, one bit for each, that become others; then [`set`](Self::set) says which.
    fn has_sets(&mut self, field: &'static str) -> bool;

    /// Another set for one of the field that was asked for last.
    fn set(&mut self, set: u64) -> u64;

    /// The section of this name is written.
    fn enters(&mut self, section: &str);
}

/// Ids stay as they are.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct NoMap;

impl Table for NoMap {
    const MAPS: bool = false;

    #[inline]
    fn knows(&mut self, _: &'static str) -> bool {
        false
    }

    #[inline]
    fn number(&mut self, number: u64) -> Result<u64, Damaged> {
        Ok(number)
    }

    #[inline]
    fn has_sets(&mut self, _: &'static str) -> bool {
        false
    }

    #[inline]
    fn set(&mut self, set: u64) -> u64 {
        set
    }

    #[inline]
    fn enters(&mut self, _: &str) {}
}

/// Fields of definitions that are sets of tags, and of layers.
const SETS: [(&str, &str); 12] = [
    ("needs_tags", "TagId"),
    ("spares_tags", "TagId"),
    ("tags", "TagId"),
    ("lets", "TagId"),
    ("adds_tags", "TagId"),
    ("hides_parts", "TagId"),
    ("shows_parts", "TagId"),
    ("barred_by", "TagId"),
    ("lifted_by", "TagId"),
    ("lifts", "TagId"),
    ("against", "TagId"),
    ("meets", "LayerId"),
];

/// An id that is not there any longer, and was written: its sort and number, and in which section.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(crate) struct Missing {
    pub(crate) sort: &'static str,
    pub(crate) number: u64,
    pub(crate) section: String,
}

/// By the sort of an id, what each number becomes; none for one that is not there any longer.
#[derive(Clone, Debug, Default)]
pub(crate) struct IdMap {
    pub(crate) sorts: Vec<(&'static str, Vec<Option<usize>>)>,
    /// The place of the sort that was asked for last.
    asked: usize,
    section: String,
    pub(crate) missing: Vec<Missing>,
}

impl IdMap {
    pub(crate) fn new(sorts: Vec<(&'static str, Vec<Option<usize>>)>) -> IdMap {
        IdMap { sorts, ..IdMap::default() }
    }
}

impl Table for IdMap {
    const MAPS: bool = true;

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
            Some(Some(other)) => Ok(*other as u64),
            // Written on, so that all of them are found.
            Some(None) => {
                let missing = Missing { sort, number, section: self.section.clone() };
                if !self.missing.contains(&missing) {
                    self.missing.push(missing);
                }
                Ok(number)
            }
            // A number that never was an id: the place of none.
            None => Ok(number),
        }
    }

    fn has_sets(&mut self, field: &'static str) -> bool {
        SETS.iter().find(|(known, _)| *known == field).is_some_and(|(_, sort)| self.knows(sort))
    }

    fn set(&mut self, set: u64) -> u64 {
        let (_, numbers) = &self.sorts[self.asked];
        let bits = (0..64usize).filter(|bit| set & 1 << bit != 0);
        bits.fold(0, |other, bit| other | 1 << numbers.get(bit).copied().flatten().unwrap_or(bit).min(63))
    }

    fn enters(&mut self, section: &str) {
        section.clone_into(&mut self.section);
    }
}
