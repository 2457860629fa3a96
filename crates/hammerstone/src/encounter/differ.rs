//! Where two states differ, by name.

use super::save::Saved;
use crate::columns::Fills;
use crate::ids::CombatantId;
use crate::state::State;
use crate::wire::{NoMap, SectionReader, SectionWriter};

/// A part in which two states differ.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct StateDifference {
    /// Its name, as in the [bytes](Saved::to_bytes) of a save: `combatants.health`, `swings`, `tick`.
    pub field: String,
    /// Of which combatant, where it is of one.
    pub combatant: Option<CombatantId>,
    /// Which row of it, from 0, where it has rows.
    pub row: Option<usize>,
    /// The bytes of that row, or of all of it, in both.
    pub bytes: [Vec<u8>; 2],
}

impl StateDifference {
    /// What stands there in both: a whole number where it has no more than eight bytes, else its bytes as they are.
    pub fn values(&self) -> [String; 2] {
        self.bytes.each_ref().map(|bytes| {
            const MOST: usize = 32;
            match bytes.len() {
                1..=8 => {
                    let mut eight =
                        [if bytes.last().is_some_and(|last| *last >= 0x80) { 0xff } else { 0 }; 8];
                    eight[..bytes.len()].copy_from_slice(bytes);
                    i64::from_le_bytes(eight).to_string()
                }
                length => {
                    let text: String = bytes.iter().take(MOST).map(|byte| format!("{byte:02x}")).collect();
                    if length > MOST { format!("{text}… ({length} bytes)") } else { text }
                }
            }
        })
    }
}

impl std::fmt::Display for StateDifference {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let StateDifference { field, row, .. } = self;
        write!(f, "`{field}`")?;
        if let Some(row) = row {
            write!(f, ", row {row}")?;
        }
        let [first, second] = self.values();
        write!(f, ": {first} in the first, {second} in the second")
    }
}

/// All parts of a state under their names.
fn sections(state: &State) -> Vec<u8> {
    let mut bytes = Vec::new();
    let mut out = SectionWriter::new(&mut bytes, NoMap);
    state.put("", &mut out);
    bytes
}

/// The first row that differs of two lists whose rows are all of one width, and its bytes.
fn row(one: &[u8], other: &[u8]) -> Option<(usize, [Vec<u8>; 2])> {
    let count = |bytes: &[u8]| bytes.first_chunk::<4>().map(|four| u32::from_le_bytes(*four) as usize);
    let (count, rows) = (count(one)?, one.len() - 4);
    if one.len() != other.len() || one[..4] != other[..4] || count == 0 || !rows.is_multiple_of(count) {
        return None;
    }
    let width = rows / count;
    let pairs = one[4..].chunks(width).zip(other[4..].chunks(width)).enumerate();
    let (row, (one, other)) = { pairs }.find(|(_, (one, other))| one != other)?;
    Some((row, [one.to_vec(), other.to_vec()]))
}

impl Saved {
    /// The parts in which two states differ, in the order of a save: for a fight that comes to another state than it should, on another machine
    /// or run again. Of each part the first row.
    pub fn differences(&self, other: &Saved) -> Vec<StateDifference> {
        let bytes = [self, other].map(|saved| sections(&saved.state));
        let [Ok(one), Ok(another)] = bytes.each_ref().map(|bytes| SectionReader::new(bytes)) else {
            return Vec::new();
        };
        let pairs = one.all().iter().zip(another.all());
        let differing = pairs.filter(|((_, one), (_, other))| one != other);
        differing.map(|(&(name, one), &(_, other))| self.difference(name, one, other)).collect()
    }

    fn difference(&self, name: &str, one: &[u8], other: &[u8]) -> StateDifference {
        let field = name.trim_start_matches('.').to_owned();
        let found = row(one, other);
        let slot = found.as_ref().map(|(row, _)| *row).filter(|_| field.starts_with("combatants."));
        let combatants = &self.state.combatants;
        let combatant = slot.filter(|&slot| slot < combatants.slots()).map(|slot| combatants.id(slot));
        let (row, bytes) = match found {
            Some((row, bytes)) => (Some(row), bytes),
            None => (None, [one.to_vec(), other.to_vec()]),
        };
        StateDifference { field, combatant, row, bytes }
    }
}
