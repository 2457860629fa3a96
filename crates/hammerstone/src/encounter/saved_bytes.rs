//! Saved states as bytes: sections under their names, sealed over all of it.

use std::sync::{Arc, OnceLock};

use xxhash_rust::xxh3::xxh3_64_with_seed;

use super::save::{Known, Saved};
use crate::columns::Fills;
use crate::ruleset::{NameList, Ruleset};
use crate::state::State;
use crate::wire::{self, NoMap, SectionReader, SectionWriter};

/// How the bytes of a saved state begin.
const MAGIC: [u8; 6] = *b"HMSAVE";

/// The version of their layout.
const VERSION: u16 = 1;

/// What stands before the sections: what it is, its version, the seal, the fingerprints of ruleset and level.
const HEAD: usize = 8 + 3 * 8;

/// Why bytes are no saved state.
#[derive(Clone, Copy, PartialEq, Eq, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum SavedBytesError {
    /// They do not begin as a saved state does.
    #[error("these bytes are no saved state: they do not begin with `HMSAVE`")]
    OtherSort,
    /// A later version of the library wrote them.
    #[error(
        "the saved state has version {found} of the layout, and this library reads up to {known}; read it with a newer one"
    )]
    Newer {
        /// Their version.
        found: u16,
        /// The latest that is known here.
        known: u16,
    },
    /// They end too early, go on too long, hold what no saved state holds, or were changed after they were written.
    #[error(
        "the bytes of the saved state are damaged, or were changed after they were written; take an earlier save"
    )]
    Damaged,
}

impl From<wire::Damaged> for SavedBytesError {
    fn from(_: wire::Damaged) -> SavedBytesError {
        SavedBytesError::Damaged
    }
}

/// The names of each list of a ruleset, in the order of their ids.
#[derive(Clone, PartialEq, Eq, Debug, Default, serde::Serialize, serde::Deserialize)]
pub(crate) struct NameLists(pub(crate) Vec<(String, Vec<String>)>);

impl NameLists {
    /// Those that this library knows, with the sorts of their ids.
    pub(crate) fn known(&self, rules: &Ruleset) -> Vec<NameList> {
        let sorts = rules.name_lists().into_iter();
        let known = sorts.map(|NameList { list, ids, .. }| {
            let names = self.0.iter().find(|(known, _)| known == list);
            NameList { list, ids, names: names.map(|(_, names)| names.clone()).unwrap_or_default() }
        });
        known.collect()
    }
}

impl Saved {
    /// As bytes: a version, a seal over all of it, the names that its ids mean, and every part of the state under its name. Of two saves of
    /// the same state under the same ruleset they are the same, on every machine. The layout is in `docs/records.md`.
    pub fn to_bytes(&self) -> Vec<u8> {
        let mut bytes = Vec::with_capacity(HEAD + self.state.bytes() * 5 / 4 + 4096);
        self.write(&mut bytes);
        bytes
    }

    /// As [`to_bytes`](Self::to_bytes), into memory that was used before; what stood there is gone.
    pub fn write_into(&self, bytes: &mut Vec<u8>) {
        bytes.clear();
        self.write(bytes);
    }

    fn write(&self, bytes: &mut Vec<u8>) {
        bytes.extend(MAGIC);
        bytes.extend(VERSION.to_le_bytes());
        bytes.extend([0; 8]);
        bytes.extend(self.ruleset.to_le_bytes());
        bytes.extend(self.level.to_le_bytes());
        let mut out = SectionWriter::new(bytes, NoMap);
        match &self.names {
            Known::No => {}
            Known::Of(rules) => {
                let lists: Vec<_> =
                    rules.name_lists().into_iter().map(|list| (list.list, list.names)).collect();
                out.section("names", &lists);
            }
            Known::Read(lists) => out.section("names", &**lists),
        }
        self.state.put("state", &mut out);
        if let Some(first) = &self.first {
            first.put("first", &mut out);
        }
        // Plain data of known lengths, written to memory: there is nothing that could fail.
        out.finish();
        let seal = seal(&bytes[16..]);
        bytes[8..16].copy_from_slice(&seal.to_le_bytes());
    }

    /// The saved state of bytes that [`to_bytes`](Self::to_bytes) gave, in this version of the library or an earlier one.
    ///
    /// The seal finds what was changed by accident; it is no secret. What was read is looked through once, against the ruleset, when it is
    /// first restored.
    ///
    /// ```
    /// use hammerstone::Saved;
    /// use hammerstone::prelude::*;
    /// # let rules = Ruleset::builder(60).build().unwrap();
    /// let mut fight = Encounter::new(&rules, 7);
    /// fight.tick()?;
    /// let bytes = fight.save()?.to_bytes();
    /// fight.tick()?;
    /// fight.restore(&Saved::from_bytes(&bytes)?)?;
    /// assert_eq!(fight.view().tick(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn from_bytes(bytes: &[u8]) -> Result<Saved, SavedBytesError> {
        let rest = bytes.strip_prefix(&MAGIC).ok_or(SavedBytesError::OtherSort)?;
        let version = rest.first_chunk::<2>().map(|two| u16::from_le_bytes(*two));
        match version {
            Some(1..=VERSION) => {}
            Some(found) if found > VERSION => {
                return Err(SavedBytesError::Newer { found, known: VERSION });
            }
            _ => return Err(SavedBytesError::Damaged),
        }
        let sealed = bytes.get(16..).filter(|_| bytes.len() >= HEAD).ok_or(SavedBytesError::Damaged)?;
        if u64_at(bytes, 8) != Some(seal(sealed)) {
            return Err(SavedBytesError::Damaged);
        }
        let numbers = u64_at(bytes, 16).zip(u64_at(bytes, 24));
        let (ruleset, level) = numbers.ok_or(SavedBytesError::Damaged)?;
        let mut from = SectionReader::new(&bytes[HEAD..])?;
        let names = match from.find("names") {
            Some(names) => Known::Read(Arc::new(wire::read(names)?)),
            None => Known::No,
        };
        let state = State::take("state", &mut from)?;
        let first = if from.is_at_end() { None } else { Some(Arc::new(State::take("first", &mut from)?)) };
        from.end()?;
        Ok(Saved { state, first, ruleset, level, sound: OnceLock::new(), origin: None, names })
    }
}

fn seal(bytes: &[u8]) -> u64 {
    xxh3_64_with_seed(bytes, VERSION.into())
}

fn u64_at(bytes: &[u8], place: usize) -> Option<u64> {
    bytes.get(place..)?.first_chunk::<8>().map(|eight| u64::from_le_bytes(*eight))
}

/// Seals bytes of a saved state that were changed: for tests of what becomes of those that are read nevertheless.
#[cfg(feature = "audit")]
pub fn seal_again(bytes: &mut [u8]) {
    if bytes.len() >= HEAD {
        let seal = seal(&bytes[16..]);
        bytes[8..16].copy_from_slice(&seal.to_le_bytes());
    }
}
