//! The files as they are written, before any name is looked up. Every value that can be wrong knows its place.

mod choices;
mod flow;
mod ruleset;

use toml::Spanned;
use toml::de::{DeString, DeTable, DeValue};

pub use crate::read::Value;
pub use choices::*;
pub use flow::*;
pub use ruleset::*;

use crate::problem::Reading;
use crate::read::{Node, Read};

pub type Name = Spanned<String>;
/// A time as it is written: `"0.4s"` or `"24 ticks"`.
#[derive(Clone, Debug)]
pub struct Time(Spanned<String>);

impl std::ops::Deref for Time {
    type Target = Spanned<String>;

    fn deref(&self) -> &Spanned<String> {
        &self.0
    }
}

impl Read for Time {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::String(text) => Some(Time(Spanned::new(value.span(), text.to_string()))),
            _ => reading.no_time(value),
        }
    }
}
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
        /// Its middle; metres.
        at: Vector,
        /// Half its lengths along its axes; metres above 0.
        half: Vector,
        /// How it is turned.
        turn: Option<Turn>,
    }

    pub struct Sphere {
        /// Its middle; metres.
        at: Vector,
        /// Metres above 0.
        radius: Number,
    }

    pub struct Capsule {
        /// One end of its axis; metres.
        from: Vector,
        /// The other end; metres.
        to: Vector,
        /// Metres above 0.
        radius: Number,
    }

    pub struct Turn {
        /// The axis; its length means nothing.
        about: Vector,
        /// By the right hand.
        degrees: Number,
    }

    /// By how much something changes a number: one of these.
    pub struct Change {
        /// A stat of the ruleset.
        stat: Name,
        /// Points; one of the four ways.
        add: Option<Number>,
        /// A share that is added to others of the same sort, then all multiply once.
        add_share: Option<Number>,
        /// A factor; from 0 to 1000.
        multiply: Option<Number>,
        /// In place of what it was.
        set: Option<Number>,
    }

    pub struct Stand {
        /// Where; metres.
        at: Vector,
        /// Degrees about the up axis; 0 unless said.
        facing: Option<Number>,
        /// Degrees by which it looks up, after it is turned; 0 unless said.
        raised: Option<Number>,
    }
}

/// A form's name and its fields.
pub type Described = (&'static str, Vec<crate::read::Field>);

/// Describes forms, in this order.
#[macro_export]
#[doc(hidden)]
macro_rules! described {
    ($($form:ty),* $(,)?) => {
        vec![$((
            <$form as $crate::read::Form>::NAME,
            <$form as $crate::read::Form>::fields(),
        )),*]
    };
}

/// The tables of a ruleset that have a field of that name.
pub(crate) fn tables_with(field: &str) -> impl Iterator<Item = String> {
    let forms = forms();
    let tables = <RulesFile as crate::read::Form>::fields();
    let table = move |table: crate::read::Field| {
        let written: String = table.written.chars().filter(|c| !c.is_whitespace()).collect();
        let named = written.strip_prefix("Named<").and_then(|rest| rest.strip_suffix('>'));
        let form = named.unwrap_or(&written);
        let (_, fields) = forms.iter().find(|(name, _)| *name == form)?;
        fields.iter().any(|one| one.name == field).then(|| match named {
            Some(_) => format!("{}.NAME", table.name),
            None => table.name.to_owned(),
        })
    };
    tables.into_iter().filter_map(table).collect::<Vec<_>>().into_iter()
}

/// All forms of a ruleset's file.
#[doc(hidden)]
pub fn forms() -> Vec<Described> {
    described![
        RulesFile, General, Allow, Limits, Gauge, Pool, GaugeMaxOf, Refill, AtEnd, Cost, Cooldown, Uses, Cancel, Cascade, Amount, Maximum, Critical, Armour, Curve, Overheal, Shield, AmountChange, Grant, Scaling, FallOff, ClosingSpeed, SelfStatus, Knockback, HitStop, Stagger, Guard, Parry, ShieldOf, PreventsDeath, SharedDamage, Strength, Broken, Team, Status, Pulse, Attack, Grip, Projectile, Beam, Charge, ChainTo, OnlyFrom, Clash, Child, Window, Hitbox, Key, Template, Skeleton, Animated, Plays, Bone, Posed, Part, Spot, Waves, NextWhen, Group, Lives, Rule, Filter, Choice, Case, Conditions, PartyHolds, Compare, Crosses, Since, Sum, Term, Span, Standing, Reaction, PlainGroup, Count, Score, Push, MoveObstacle, PlaceObstacle, SpawnAttackAt, Strong, Declared, Block, Sphere, Capsule, Turn, Change, Stand,
    ]
}
