//! The files as they are written, before any name is looked up. Every value that can be wrong knows its place.

mod choices;
mod flow;
mod ruleset;

use toml::Spanned;
use toml::de::{DeString, DeTable};

pub use crate::read::Value;
pub use choices::*;
pub use flow::*;
pub use ruleset::*;

use crate::problem::Reading;
use crate::read::{Node, Read};

pub type Name = Spanned<String>;
/// A time as it is written: `"0.4s"` or `"24 ticks"`.
pub type Time = Spanned<String>;
pub type Number = Spanned<f64>;
pub type Vector = Spanned<[f64; 3]>;
/// A table by names, in the order in which they are written. No name stands there twice: the reader of the file sees to that.
#[derive(Clone, Debug)]
pub struct Named<T>(Vec<(Name, T)>);

impl<T> Named<T> {
    pub fn new() -> Named<T> {
        Named(Vec::new())
    }

    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    pub fn len(&self) -> usize {
        self.0.len()
    }

    pub fn iter(&self) -> impl ExactSizeIterator<Item = (&Name, &T)> + DoubleEndedIterator {
        self.0.iter().map(|(name, value)| (name, value))
    }

    pub fn keys(&self) -> impl ExactSizeIterator<Item = &Name> {
        self.0.iter().map(|(name, _)| name)
    }

    pub fn values(&self) -> impl ExactSizeIterator<Item = &T> {
        self.0.iter().map(|(_, value)| value)
    }
}

impl<T> Default for Named<T> {
    fn default() -> Self {
        Named::new()
    }
}

impl<'a, T> IntoIterator for &'a Named<T> {
    type Item = (&'a Name, &'a T);
    type IntoIter = std::iter::Map<std::slice::Iter<'a, (Name, T)>, fn(&'a (Name, T)) -> (&'a Name, &'a T)>;

    fn into_iter(self) -> Self::IntoIter {
        self.0.iter().map(|(name, value)| (name, value))
    }
}

impl<T: Read> Read for Named<T> {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        let Some(table) = value.get_ref().as_table() else { return reading.mistaken(value, "a table") };
        let mut entries = Vec::new();
        for (key, value) in as_written(table) {
            let name = Spanned::new(key.span(), key.get_ref().to_string());
            entries.extend(T::read(value, reading).map(|value| (name, value)));
        }
        (entries.len() == table.len()).then_some(Named(entries))
    }

    fn absent() -> Option<Self> {
        Some(Named::new())
    }
}

/// The entries of a table in the order in which they are written; the parser sorts them by name.
fn as_written<'a, 'v>(table: &'a DeTable<'v>) -> Vec<(&'a Spanned<DeString<'v>>, &'a Node<'v>)> {
    let mut entries: Vec<_> = table.iter().collect();
    entries.sort_by_key(|(key, _)| key.span().start);
    entries
}

/// One amount or a range of amounts, by damage type: `{ crush = 14, heat = [2, 5] }`.
pub type Damage = Named<Spanned<Range>>;

tables! {
    pub struct Block {
        at: Vector,
        half: Vector,
        turn: Option<Turn>,
    }

    pub struct Sphere {
        at: Vector,
        radius: Number,
    }

    pub struct Capsule {
        from: Vector,
        to: Vector,
        radius: Number,
    }

    pub struct Turn {
        about: Vector,
        degrees: Number,
    }

    /// By how much something changes a number: one of these.
    pub struct Change {
        stat: Name,
        add: Option<Number>,
        add_share: Option<Number>,
        multiply: Option<Number>,
        set: Option<Number>,
    }

    pub struct Stand {
        at: Vector,
        facing: Option<Number>,
        /// Degrees by which it looks up, after it is turned.
        raised: Option<Number>,
    }
}
