//! The files as they are written, before any name is looked up. Every value that can be wrong knows its place.

mod flow;
mod ruleset;

use serde::Deserialize;
use toml::Spanned;

pub use flow::*;
pub use ruleset::*;

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

impl<'de, T: Deserialize<'de>> Deserialize<'de> for Named<T> {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Entries<T>(std::marker::PhantomData<T>);

        impl<'de, T: Deserialize<'de>> serde::de::Visitor<'de> for Entries<T> {
            type Value = Named<T>;

            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("a table")
            }

            fn visit_map<A: serde::de::MapAccess<'de>>(self, mut map: A) -> Result<Named<T>, A::Error> {
                let mut entries: Vec<(Name, T)> = Vec::new();
                while let Some(entry) = map.next_entry()? {
                    entries.push(entry);
                }
                // The parser sorts tables by name; where a name stands says what was written first.
                entries.sort_by_key(|(name, _)| name.span().start);
                Ok(Named(entries))
            }
        }

        deserializer.deserialize_map(Entries(std::marker::PhantomData))
    }
}

/// One amount or a range of amounts, by damage type: `{ crush = 14, heat = [2, 5] }`.
pub type Damage = Named<Spanned<Range>>;

#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(untagged, expecting = "expected a whole number of points, or two: [least, most]")]
pub enum Range {
    One(i64),
    Between([i64; 2]),
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Block {
    pub at: Vector,
    pub half: Vector,
    pub turn: Option<Turn>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Sphere {
    pub at: Vector,
    pub radius: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Capsule {
    pub from: Vector,
    pub to: Vector,
    pub radius: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Turn {
    pub about: Vector,
    pub degrees: Number,
}

/// By how much something changes a number: one of these.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Change {
    pub stat: Name,
    pub add: Option<Number>,
    pub add_share: Option<Number>,
    pub multiply: Option<Number>,
    pub set: Option<Number>,
}

/// A status, or a status and its strength.
#[derive(Debug, Deserialize)]
#[serde(untagged, expecting = "expected the name of a status, or { status = \"…\", strength = 2 }")]
pub enum Given {
    Plain(String),
    Strong { status: String, strength: f64 },
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Stand {
    pub at: Vector,
    pub facing: Option<Number>,
    /// Degrees by which it looks up, after it is turned.
    pub raised: Option<Number>,
}
