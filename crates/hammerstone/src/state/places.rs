//! Places in the rows of the state, each of its own type, so that none is taken for another. They are good until rows are taken out, at the
//! end of a tick.

use std::ops::{Index, IndexMut};

use super::{Application, Chains, Flying, StruckEntry, Swing};

macro_rules! places {
    ($($(#[$doc:meta])* $name:ident of $row:ty),* $(,)?) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
        pub(crate) struct $name(u32);

        impl $name {
            pub(crate) const fn new(place: usize) -> $name {
                $name(place as u32)
            }

            /// The number of the row, from 0.
            pub(crate) const fn number(self) -> usize {
                self.0 as usize
            }

            /// The places of all rows that there are now.
            pub(crate) fn all(rows: &[$row]) -> impl Iterator<Item = $name> + use<> {
                (0..rows.len()).map($name::new)
            }
        }

        impl Index<$name> for [$row] {
            type Output = $row;

            fn index(&self, place: $name) -> &$row {
                &self[place.number()]
            }
        }

        impl Index<$name> for Vec<$row> {
            type Output = $row;

            fn index(&self, place: $name) -> &$row {
                &self[place.number()]
            }
        }

        impl IndexMut<$name> for Vec<$row> {
            fn index_mut(&mut self, place: $name) -> &mut $row {
                &mut self[place.number()]
            }
        }
    )*};
}

places! {
    /// A swing's place in `swings`.
    SwingAt of Swing,
    /// A projectile body's place in `flying`.
    BodyAt of Flying,
    /// A status' place in `applications`.
    StatusAt of Application,
}

/// The place of what a swing remembers of a target, in the struck lists.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) struct EntryAt(usize);

impl EntryAt {
    pub(crate) const fn new(place: usize) -> EntryAt {
        EntryAt(place)
    }
}

impl Index<EntryAt> for Chains<StruckEntry> {
    type Output = StruckEntry;

    fn index(&self, place: EntryAt) -> &StruckEntry {
        self.get(place.0)
    }
}

impl IndexMut<EntryAt> for Chains<StruckEntry> {
    fn index_mut(&mut self, place: EntryAt) -> &mut StruckEntry {
        self.get_mut(place.0)
    }
}
