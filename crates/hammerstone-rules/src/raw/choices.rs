//! What can be written in more than one way.

use toml::de::DeValue;

use crate::problem::Reading;
use crate::read::{Fields, Node, Read};

use super::*;

/// A number of points, or from the least to the most.
#[derive(Clone, Copy, Debug)]
pub enum Range {
    One(i64),
    Between([i64; 2]),
}

impl Read for Range {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Integer(_) => Read::read(value, reading).map(Range::One),
            DeValue::Array(both) if both.len() == 2 => Read::read(value, reading).map(Range::Between),
            _ => reading.mistaken(value, "a whole number of points, or two: [least, most]"),
        }
    }
}

/// A status, or a status with its strength and its conditions.
#[derive(Debug)]
pub enum Given {
    Plain(String),
    Strong(Strong),
}

tables! {
    /// A status with a strength; its place is that of the whole.
    pub struct Strong {
        /// The status.
        status: String,
        /// How strong; from 0; 1 unless said.
        strength: Option<f64>,
        /// Only if this holds.
        when: Option<Box<Conditions>>,
    }
}

impl Read for Given {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::String(_) => Read::read(value, reading).map(Given::Plain),
            DeValue::Table(_) => Read::read(value, reading).map(Given::Strong),
            _ => {
                reading.mistaken(value, "the name of a status, or { status = \"…\", strength = 2, when = { … } }")
            }
        }
    }
}

/// A share of health, or that and what becomes of it in a blow that kills.
#[derive(Debug)]
pub enum Threshold {
    Plain(f64),
    Declared(Declared),
}

tables! {
    /// A share of health, and what becomes of it in a blow that kills.
    pub struct Declared {
        /// From 0, below 1.
        share: f64,
        /// Whether it is crossed by a blow that kills: `fire` or `skip`.
        if_it_kills: String,
    }
}

impl Read for Threshold {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Integer(_) | DeValue::Float(_) => Read::read(value, reading).map(Threshold::Plain),
            DeValue::Table(_) => Read::read(value, reading).map(Threshold::Declared),
            _ => {
                let expected = "a share of health, such as 0.5, or { share = 0.5, if-it-kills = \"fire\" }";
                reading.mistaken(value, expected)
            }
        }
    }
}

/// What a field of a fact holds: a number or a range of them, yes or no, a word.
#[derive(Debug)]
pub enum Held {
    Number(f64),
    Between(Between<f64>),
    Truth(bool),
    Word(String),
}

impl Read for Held {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Integer(_) | DeValue::Float(_) => Read::read(value, reading).map(Held::Number),
            DeValue::Boolean(_) => Read::read(value, reading).map(Held::Truth),
            DeValue::String(_) => Read::read(value, reading).map(Held::Word),
            DeValue::Table(_) => Read::read(value, reading).map(Held::Between),
            _ => {
                let expected = "a number, { at-least = 2, at-most = 5 }, true, false, or a word";
                reading.mistaken(value, expected)
            }
        }
    }
}

/// The sort of value of a field, or the names that it may hold.
#[derive(Debug)]
pub enum SortOf {
    One(Name),
    Names(Vec<Name>),
}

impl Read for SortOf {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::String(_) => Read::read(value, reading).map(SortOf::One),
            DeValue::Array(_) => Read::read(value, reading).map(SortOf::Names),
            _ => reading.mistaken(value, "a sort of value, or a list of the names that it may be"),
        }
    }
}

/// Points, or the stat that a gauge's maximum is.
#[derive(Debug)]
pub enum GaugeMax {
    Points(i64),
    Of(GaugeMaxOf),
}

impl Read for GaugeMax {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Integer(_) => Read::read(value, reading).map(GaugeMax::Points),
            DeValue::Table(_) => Read::read(value, reading).map(GaugeMax::Of),
            _ => reading.mistaken(value, "a whole number of points, or { stat = \"…\" }"),
        }
    }
}

/// A number, or a sum of readings.
#[derive(Debug)]
pub enum AmountOf {
    Plain(f64),
    Sum(Sum),
}

impl Read for AmountOf {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Integer(_) | DeValue::Float(_) => Read::read(value, reading).map(AmountOf::Plain),
            DeValue::Table(_) => Read::read(value, reading).map(AmountOf::Sum),
            _ => {
                let expected = "a number, or a sum such as { terms = [{ of = \"fact.amount\", times = 0.25 }] }";
                reading.mistaken(value, expected)
            }
        }
    }
}

/// A value that a rule publishes: as it is written, or a sum of readings.
#[derive(Debug)]
pub enum Published {
    Plain(Value),
    Sum(Sum),
}

impl Read for Published {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Table(_) => Read::read(value, reading).map(Published::Sum),
            _ => Read::read(value, reading).map(Published::Plain),
        }
    }
}

/// What a reading is compared with.
#[derive(Debug)]
pub enum Right {
    Number(f64),
    Reading(String),
}

impl Read for Right {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Integer(_) | DeValue::Float(_) => Read::read(value, reading).map(Right::Number),
            DeValue::String(_) => Read::read(value, reading).map(Right::Reading),
            _ => reading.mistaken(value, "a number, or a reading such as \"other.health\""),
        }
    }
}

/// One of something, or a list of them.
#[derive(Debug)]
pub struct OneOrMore<T>(pub Vec<T>);

impl<T> Default for OneOrMore<T> {
    fn default() -> Self {
        OneOrMore(Vec::new())
    }
}

impl<T: Read> Read for OneOrMore<T> {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Array(_) => Read::read(value, reading).map(OneOrMore),
            _ => T::read(value, reading).map(|one| OneOrMore(vec![one])),
        }
    }

    fn absent() -> Option<Self> {
        Some(OneOrMore::default())
    }
}

/// The target of a reaction.
#[derive(Debug)]
pub enum To {
    One(String),
    Group(PlainGroup),
}

impl Read for To {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::String(_) => Read::read(value, reading).map(To::One),
            DeValue::Table(_) => Read::read(value, reading).map(To::Group),
            _ => {
                let expected =
                    "\"subject\", \"other\", \"followers\", or { team = \"…\" }, with template or tags";
                reading.mistaken(value, expected)
            }
        }
    }
}

/// When an attack can hit: a time, or several windows.
#[derive(Debug)]
pub enum Active {
    For(Time),
    Windows(Vec<Window>),
}

impl Read for Active {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::String(_) | DeValue::Integer(_) | DeValue::Float(_) => {
                Read::read(value, reading).map(Active::For)
            }
            DeValue::Array(_) => Read::read(value, reading).map(Active::Windows),
            _ => {
                let expected = "a time, such as \"0.2s\", or a list of windows, such as [{ after = \"0s\", lasts = \"0.2s\" }]";
                reading.mistaken(value, expected)
            }
        }
    }
}

/// From one number to another; either may be left out.
#[derive(Clone, Copy, Debug)]
pub struct Between<T> {
    pub at_least: Option<T>,
    pub at_most: Option<T>,
    pub is: Option<T>,
}

impl<T: Read> Read for Between<T> {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        let fields = Fields::of(value, &["at-least", "at-most", "is"], reading)?;
        let [at_least, at_most, is] = [0, 1, 2].map(|number| fields.get(number, reading));
        Some(Between { at_least: at_least?, at_most: at_most?, is: is? })
    }
}

impl<T: Copy> Between<T> {
    /// The range, with what stands for a bound that is left out.
    pub fn range(&self, least: T, most: T) -> (T, T) {
        (self.is.or(self.at_least).unwrap_or(least), self.is.or(self.at_most).unwrap_or(most))
    }
}
