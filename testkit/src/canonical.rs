//! A hash of facts that knows no names: numbers, truths and the numbers of variants, in the order of the fields.
//!
//! Renamed types and fields, structs that wrap others and the order of events leave it as it is; an outcome that differs in one bit changes
//! it. Text is left out, and so is what [`ADDED`] lists: it was text, or could be asked for elsewhere, when the corpus was made.

use hammerstone::event::{Facts, Gate, SwingEnd};
use hammerstone::ids::TopicId;
use hammerstone::topic;
use serde::ser::*;
use xxhash_rust::xxh3::Xxh3Default;

/// Fields that the hash passes over: `Struct.field`, or `Enum.field` of all its variants, or `Enum::Variant.field`, or
/// `Enum::Variant.place` where they have no name.
const ADDED: [&str; 41] = [
    "AttackStarted.form",
    "AttackStarted.max_targets",
    "AttackStarted.outlives",
    "CombatantJoined.pose",
    "CombatantJoined.tags",
    "CombatantRemoved.label",
    "CombatantReturned.pose",
    "ContactHeld.attack",
    "ContactHeld.depth",
    "ContactHeld.hitbox",
    "ContactHeld.speed",
    "ContactMet.attack",
    "ContactMet.depth",
    "ContactMet.from_start",
    "ContactMet.hitbox",
    "ContactMet.moved",
    "ContactMet.speed",
    "ContactParted.attack",
    "ContactParted.hitbox",
    "ContactParted.lasted",
    "DamageDealt.absorbed",
    "DamageDealt.overkill",
    "DamageDealt.point",
    "EncounterEnded.counts",
    "HitPushed.attack",
    "HitStaggered.attack",
    "HitStopped.attack",
    "Note.note",
    "Operand::Refused.1",
    "OrderRefused.attack",
    "OrderRefused.kind",
    "Refusal::Busy.ticks",
    "Refusal::Stunned.ticks",
    "Refusal::NotInRuleset.0",
    "Refusal::NotSo.0",
    "Refusal::OutOfRange.0",
    "Said.listener",
    "Spoken.parties",
    "Spoken.values",
    "StatusExpired.why",
    "TickFacts.guards",
];

/// Topics that were added since.
const ADDED_TOPICS: [TopicId; 16] = [
    topic::PROJECTILE_STOPPED,
    topic::COMBATANT_FLAGGED,
    topic::COMBATANT_COUNTED,
    topic::GAUGE_CHANGED,
    topic::GAUGE_CROSSED,
    topic::GAUGE_EMPTY,
    topic::GAUGE_FULL,
    topic::COMBATANT_SWITCHED,
    topic::TACTICS_REQUESTED,
    topic::COMBATANT_RETIMED,
    topic::COMBATANT_TRANSFORMED,
    topic::HOLD_BEGAN,
    topic::HOLD_ENDED,
    topic::ENCOUNTER_ADOPTED,
    topic::TACTICS_CHOSE,
    topic::TACTICS_DROPPED,
];

/// The number that a topic had when the corpus was made; those that were added come after all of these.
fn topic_then(number: u16) -> u64 {
    let before = ADDED_TOPICS.iter().filter(|added| added.index() < usize::from(number)).count() as u64;
    match ADDED_TOPICS.iter().position(|added| added.index() == usize::from(number)) {
        Some(place) => 1 << 32 | place as u64,
        None => u64::from(number) - before,
    }
}

/// Gates that were added since.
const ADDED_GATES: [Gate; 2] = [Gate::Parried, Gate::Deflected];

/// The number that a variant had when the corpus was made; those that were added come after all.
fn variant_then(name: &str, index: u32) -> u64 {
    let added: &[u32] = match name {
        "Gate" => &ADDED_GATES.map(|gate| gate as u32),
        "SwingEnd" => &[SwingEnd::Parried as u32],
        _ => &[],
    };
    match added.contains(&index) {
        true => 1 << 32 | u64::from(index),
        false => u64::from(index) - added.iter().filter(|&&added| added < index).count() as u64,
    }
}

/// The variants of an event are known by their topics.
const EVENT: &str = "Event";

/// The facts of a tick, with their tables.
pub fn facts_hash(facts: &Facts<'_>) -> u64 {
    let mut words = Words::default();
    for fact in facts.facts {
        words.take(&(fact.seq, fact.cause, fact.by, fact.pass, fact.depth, fact.event.topic(), fact.event));
    }
    words.take(&(facts.epoch, facts.tick, facts.ledger, facts.assists, facts.chains, facts.values));
    words.take(&(facts.counts.attempts, facts.counts.hits));
    for gate in Gate::ALL {
        let count = facts.counts.refused_by(gate);
        if count > 0 || !ADDED_GATES.contains(&gate) {
            words.take(&count);
        }
    }
    words.hash.digest()
}

#[derive(Default)]
struct Words {
    hash: Xxh3Default,
    /// The next number is that of a topic.
    is_topic: bool,
}

impl Words {
    fn take(&mut self, value: &impl Serialize) {
        value.serialize(self).unwrap_or(());
    }

    fn variant(&mut self, name: &str, index: u32) -> Result<(), std::fmt::Error> {
        if name == EVENT { Ok(()) } else { self.word(variant_then(name, index)) }
    }

    fn word(&mut self, word: u64) -> Result<(), std::fmt::Error> {
        self.hash.update(&word.to_le_bytes());
        Ok(())
    }
}

/// A list, a struct or a variant whose elements are being taken in, under its name.
struct Within<'a> {
    words: &'a mut Words,
    name: &'static str,
    variant: &'static str,
    place: usize,
}

impl<'a> Within<'a> {
    fn new(words: &'a mut Words, name: &'static str, variant: &'static str) -> Within<'a> {
        Within { words, name, variant, place: 0 }
    }
}

fn is_added(path: &str) -> bool {
    ADDED.contains(&path)
}

macro_rules! numbers {
    ($($method:ident: $type:ty => $as:expr),* $(,)?) => {
        $(fn $method(self, value: $type) -> Result<(), Self::Error> {
            self.word(($as)(value))
        })*
    };
}

macro_rules! open {
    ($($method:ident($($arg:ident: $type:ty),*) -> $compound:ident $name:expr;)*) => {
        $(fn $method(self, $($arg: $type),*) -> Result<Within<'a>, Self::Error> {
            Ok(Within::new(self, $name, ""))
        })*
    };
}

impl<'a> Serializer for &'a mut Words {
    type Ok = ();
    type Error = std::fmt::Error;
    type SerializeSeq = Within<'a>;
    type SerializeTuple = Within<'a>;
    type SerializeTupleStruct = Within<'a>;
    type SerializeTupleVariant = Within<'a>;
    type SerializeMap = Within<'a>;
    type SerializeStruct = Within<'a>;
    type SerializeStructVariant = Within<'a>;

    numbers! {
        serialize_bool: bool => u64::from,
        serialize_i8: i8 => |value| value as u64,
        serialize_i16: i16 => |value| value as u64,
        serialize_i32: i32 => |value| value as u64,
        serialize_i64: i64 => |value| value as u64,
        serialize_u8: u8 => u64::from,
        serialize_u32: u32 => u64::from,
        serialize_u64: u64 => |value| value,
        serialize_f32: f32 => |value: f32| u64::from(value.to_bits()),
        serialize_f64: f64 => f64::to_bits,
        serialize_char: char => |value| u64::from(u32::from(value)),
    }

    fn serialize_u16(self, value: u16) -> Result<(), Self::Error> {
        let word = if std::mem::take(&mut self.is_topic) { topic_then(value) } else { value.into() };
        self.word(word)
    }

    fn serialize_str(self, _: &str) -> Result<(), Self::Error> {
        Ok(())
    }

    fn serialize_bytes(self, bytes: &[u8]) -> Result<(), Self::Error> {
        self.hash.update(bytes);
        Ok(())
    }

    fn serialize_none(self) -> Result<(), Self::Error> {
        self.word(0)
    }

    fn serialize_some<T: Serialize + ?Sized>(self, value: &T) -> Result<(), Self::Error> {
        self.word(1)?;
        value.serialize(self)
    }

    fn serialize_unit(self) -> Result<(), Self::Error> {
        Ok(())
    }

    fn serialize_unit_struct(self, _: &'static str) -> Result<(), Self::Error> {
        Ok(())
    }

    fn serialize_unit_variant(
        self,
        name: &'static str,
        index: u32,
        _: &'static str,
    ) -> Result<(), Self::Error> {
        self.variant(name, index)
    }

    fn serialize_newtype_struct<T: Serialize + ?Sized>(
        self,
        name: &'static str,
        value: &T,
    ) -> Result<(), Self::Error> {
        self.is_topic = name == "TopicId";
        value.serialize(self)
    }

    fn serialize_newtype_variant<T: Serialize + ?Sized>(
        self,
        name: &'static str,
        index: u32,
        variant: &'static str,
        value: &T,
    ) -> Result<(), Self::Error> {
        self.variant(name, index)?;
        if is_added(&format!("{name}::{variant}.0")) { Ok(()) } else { value.serialize(self) }
    }

    fn serialize_seq(self, length: Option<usize>) -> Result<Within<'a>, Self::Error> {
        self.word(length.unwrap_or(0) as u64)?;
        Ok(Within::new(self, "", ""))
    }

    fn serialize_tuple_variant(
        self,
        name: &'static str,
        index: u32,
        variant: &'static str,
        _: usize,
    ) -> Result<Within<'a>, Self::Error> {
        self.variant(name, index)?;
        Ok(Within::new(self, name, variant))
    }

    fn serialize_struct_variant(
        self,
        name: &'static str,
        index: u32,
        variant: &'static str,
        _: usize,
    ) -> Result<Within<'a>, Self::Error> {
        self.variant(name, index)?;
        Ok(Within::new(self, name, variant))
    }

    open! {
        serialize_tuple(_length: usize) -> SerializeTuple "";
        serialize_tuple_struct(name: &'static str, _length: usize) -> SerializeTupleStruct name;
        serialize_map(_length: Option<usize>) -> SerializeMap "";
        serialize_struct(name: &'static str, _length: usize) -> SerializeStruct name;
    }
}

macro_rules! elements {
    ($($compound:ident::$method:ident),* $(,)?) => {
        $(impl $compound for Within<'_> {
            type Ok = ();
            type Error = std::fmt::Error;

            fn $method<T: Serialize + ?Sized>(&mut self, value: &T) -> Result<(), Self::Error> {
                let path = format!("{}::{}.{}", self.name, self.variant, self.place);
                self.place += 1;
                if is_added(&path) { Ok(()) } else { value.serialize(&mut *self.words) }
            }

            fn end(self) -> Result<(), Self::Error> {
                Ok(())
            }
        })*
    };
}

elements! {
    SerializeSeq::serialize_element,
    SerializeTuple::serialize_element,
    SerializeTupleStruct::serialize_field,
    SerializeTupleVariant::serialize_field,
}

macro_rules! fields {
    ($($compound:ident),* $(,)?) => {
        $(impl $compound for Within<'_> {
            type Ok = ();
            type Error = std::fmt::Error;

            fn serialize_field<T: Serialize + ?Sized>(
                &mut self,
                field: &'static str,
                value: &T,
            ) -> Result<(), Self::Error> {
                let (of_any, variant) = (format!("{}.{field}", self.name), self.variant);
                let path = format!("{}::{variant}.{field}", self.name);
                if is_added(&of_any) || is_added(&path) { Ok(()) } else { value.serialize(&mut *self.words) }
            }

            fn end(self) -> Result<(), Self::Error> {
                Ok(())
            }
        })*
    };
}

fields!(SerializeStruct, SerializeStructVariant);

impl SerializeMap for Within<'_> {
    type Ok = ();
    type Error = std::fmt::Error;

    fn serialize_key<T: Serialize + ?Sized>(&mut self, key: &T) -> Result<(), Self::Error> {
        key.serialize(&mut *self.words)
    }

    fn serialize_value<T: Serialize + ?Sized>(&mut self, value: &T) -> Result<(), Self::Error> {
        value.serialize(&mut *self.words)
    }

    fn end(self) -> Result<(), Self::Error> {
        Ok(())
    }
}
