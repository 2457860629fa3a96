//! The files as they are written, before any name is looked up. Every value that can be wrong knows its place.

mod flow;
mod ruleset;
mod scenario;

use indexmap::IndexMap;
use serde::Deserialize;
use toml::Spanned;

pub(crate) use flow::*;
pub(crate) use ruleset::*;
pub(crate) use scenario::*;

pub(crate) type Name = Spanned<String>;
/// A time as it is written: `"0.4s"` or `"24 ticks"`.
pub(crate) type Time = Spanned<String>;
pub(crate) type Number = Spanned<f64>;
pub(crate) type Vector = Spanned<[f64; 3]>;
pub(crate) type Named<T> = IndexMap<Name, T>;

/// One amount or a range of amounts, by damage type: `{ crush = 14, heat = [2, 5] }`.
pub(crate) type Damage = Named<Spanned<Range>>;

#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(untagged, expecting = "expected a whole number of points, or two: [least, most]")]
pub(crate) enum Range {
    One(i64),
    Between([i64; 2]),
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Block {
    pub(crate) at: Vector,
    pub(crate) half: Vector,
    pub(crate) turn: Option<Turn>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Sphere {
    pub(crate) at: Vector,
    pub(crate) radius: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Capsule {
    pub(crate) from: Vector,
    pub(crate) to: Vector,
    pub(crate) radius: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Turn {
    pub(crate) about: Vector,
    pub(crate) degrees: Number,
}

/// By how much something changes a number: one of these.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Change {
    pub(crate) stat: Name,
    pub(crate) add: Option<Number>,
    pub(crate) add_share: Option<Number>,
    pub(crate) multiply: Option<Number>,
    pub(crate) set: Option<Number>,
}

/// A status, or a status and its strength.
#[derive(Debug, Deserialize)]
#[serde(untagged, expecting = "expected the name of a status, or { status = \"…\", strength = 2 }")]
pub(crate) enum Given {
    Plain(String),
    Strong { status: String, strength: f64 },
}
