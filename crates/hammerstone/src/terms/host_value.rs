//! Facts of the host's own: what their fields may hold.

use crate::Fixed;
use crate::ids::CombatantId;
use crate::ids::WordId;

/// A value of a fact of the host's own.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum HostValue {
    /// There is none: the topic has no such field, or it is absent.
    #[default]
    Nothing,
    /// A whole number.
    Whole(i64),
    /// An exact number.
    Exact(Fixed),
    /// Yes or no.
    Truth(bool),
    /// A combatant.
    Who(CombatantId),
    /// A place, in metres in the world.
    At([f32; 3]),
    /// Text, which orders hand over ([`Orders::text`](crate::orders::Orders::text)) and facts hold ([`Facts::text_of`](crate::event::Facts::text_of)).
    Text(Text),
    /// A name that the ruleset knows ([`RulesetBuilder::word`](crate::RulesetBuilder::word)).
    Name(WordId),
}

impl HostValue {
    /// What sort of value it is; none for nothing, which every field takes.
    pub const fn sort(&self) -> Option<ValueSort> {
        match self {
            HostValue::Nothing => None,
            HostValue::Whole(_) => Some(ValueSort::Whole),
            HostValue::Exact(_) => Some(ValueSort::Exact),
            HostValue::Truth(_) => Some(ValueSort::Truth),
            HostValue::Who(_) => Some(ValueSort::Who),
            HostValue::At(_) => Some(ValueSort::At),
            HostValue::Name(_) => Some(ValueSort::Name),
            HostValue::Text(_) => Some(ValueSort::Text),
        }
    }

    /// Its bits: the sort and what it holds.
    fn bits(&self) -> (u8, [u64; 3]) {
        match *self {
            HostValue::Nothing => (0, [0; 3]),
            HostValue::Whole(whole) => (1, [whole as u64, 0, 0]),
            HostValue::Exact(exact) => (2, [exact.to_raw() as u64, 0, 0]),
            HostValue::Truth(truth) => (3, [truth.into(), 0, 0]),
            HostValue::Who(who) => (4, [who.slot() as u64, who.generation().into(), 0]),
            HostValue::At(at) => (5, at.map(|x| x.to_bits().into())),
            HostValue::Name(name) => (6, [name.index() as u64, 0, 0]),
            HostValue::Text(text) => (7, [text.start.into(), text.len.into(), 0]),
        }
    }
}

impl PartialEq for HostValue {
    fn eq(&self, other: &HostValue) -> bool {
        match (self, other) {
            (HostValue::Who(one), HostValue::Who(another)) => one == another,
            _ => self.bits() == other.bits(),
        }
    }
}

impl Eq for HostValue {}

impl std::hash::Hash for HostValue {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        self.bits().hash(state);
    }
}

/// Where a text lies among those that were handed over, or in the facts of a tick, so that a value stays small. It means nothing elsewhere.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Text {
    pub(crate) start: u32,
    pub(crate) len: u32,
}

impl Text {
    /// One that lies nowhere.
    pub(crate) const NONE: Text = Text { start: u32::MAX, len: u32::MAX };

    /// So many bytes one text may have.
    pub const MOST: usize = 4096;

    /// Puts a text behind those that were handed over; one that is too long lies nowhere.
    pub(crate) fn hand_over(text: &str, all: &mut Vec<u8>) -> Text {
        match u32::try_from(all.len()) {
            Ok(start) if text.len() <= Text::MOST && start < u32::MAX - Text::MOST as u32 => {
                all.extend_from_slice(text.as_bytes());
                Text { start, len: text.len() as u32 }
            }
            _ => Text::NONE,
        }
    }

    /// The text, if it lies there.
    pub(crate) fn of(self, all: &[u8]) -> Option<&str> {
        let text = all.get(self.start as usize..)?.get(..self.len as usize)?;
        std::str::from_utf8(text).ok()
    }
}

/// What a field of a topic of the host's own holds.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum ValueSort {
    /// A whole number.
    Whole,
    /// An exact number.
    Exact,
    /// Yes or no.
    Truth,
    /// A combatant.
    Who,
    /// A place.
    At,
    /// A name.
    Name,
    /// Text.
    Text,
}

impl ValueSort {
    /// Whether it is a number.
    pub(crate) const fn is_number(self) -> bool {
        matches!(self, ValueSort::Whole | ValueSort::Exact)
    }

    /// All sorts.
    pub const ALL: [ValueSort; 7] = [
        ValueSort::Whole,
        ValueSort::Exact,
        ValueSort::Truth,
        ValueSort::Who,
        ValueSort::At,
        ValueSort::Name,
        ValueSort::Text,
    ];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            ValueSort::Whole => "whole",
            ValueSort::Exact => "exact",
            ValueSort::Truth => "truth",
            ValueSort::Who => "who",
            ValueSort::At => "at",
            ValueSort::Name => "name",
            ValueSort::Text => "text",
        }
    }
}

/// A topic of the host's own, and what its facts hold.
#[derive(Clone, PartialEq, Eq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct HostTopic {
    pub(crate) path: String,
    pub(crate) fields: Vec<(String, ValueSort)>,
}

impl HostTopic {
    pub(crate) fn path(&self) -> &str {
        &self.path
    }
}
