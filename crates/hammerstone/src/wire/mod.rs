//! Plain data as bytes of fixed widths, in named sections: how states are written and read.
//!
//! Whole numbers and floats are written in as many bytes as they have in memory, the lowest first; a bool in one byte, 0 or 1; a value
//! that may be missing after a byte that says whether it is there; the variant of an enum as one byte; the length of a list or a text in four bytes,
//! before it. Structs, tuples and arrays are their fields, one after the other.

#[cfg(test)]
mod layout_tests;
mod map;
mod read;
mod sections;
mod write;

#[cfg(test)]
pub(crate) use layout_tests::LayoutSheet;
pub(crate) use map::{IdMap, Missing, NoMap, Table};
pub(crate) use read::read;
pub(crate) use sections::{SectionReader, SectionWriter};
pub(crate) use write::Writer;

/// Bytes end early, go on too long, or hold what nothing is written as; or an id was not to be found in its table.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) struct Damaged;

impl std::fmt::Display for Damaged {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("the bytes are damaged")
    }
}

impl std::error::Error for Damaged {}

impl serde::ser::Error for Damaged {
    fn custom<T: std::fmt::Display>(_: T) -> Damaged {
        Damaged
    }
}

impl serde::de::Error for Damaged {
    fn custom<T: std::fmt::Display>(_: T) -> Damaged {
        Damaged
    }
}
