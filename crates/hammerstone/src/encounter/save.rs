//! Saved states, in memory and on their way through a file.

use std::sync::{Arc, OnceLock};

use super::journal::Origin;
use super::{Encounter, TickError};
use crate::columns::Fills;
use crate::ruleset::Ruleset;
use crate::state::State;

/// Why a saved state was not restored. The encounter is as it was before the call.
#[derive(Clone, Copy, PartialEq, Eq, Debug, thiserror::Error)]
pub enum RestoreError {
    /// The state was saved under another ruleset.
    #[error("the state was saved under another ruleset (fingerprint {saved:016x}, this one is {own:016x})")]
    OtherRuleset {
        /// The print of the ruleset that it was saved under.
        saved: u64,
        /// The print of this encounter's ruleset.
        own: u64,
    },
    /// The state belongs to another level.
    #[error(
        "the state was saved in another level (its fingerprint is {saved:016x}, this one is {own:016x}); restore it in an encounter in that level"
    )]
    OtherLevel {
        /// The print of the level that it was saved in; 0 for none.
        saved: u64,
        /// The print of this encounter's level.
        own: u64,
    },
    /// The state was read from bytes that no encounter wrote: it contradicts itself or the ruleset.
    #[error("the saved state is not sound: {what}; take one that an encounter wrote")]
    Unsound {
        /// What is wrong with it.
        what: &'static str,
    },
}

/// A saved state. Saving into the same one again allocates nothing once it is large enough.
///
/// With the feature `serde` it can be written and read. It is then sealed with a checksum over all of it, and reading one that was changed
/// on the way is an error. The seal is no secret: what was read is looked through once, when it is first restored, so that nothing that
/// is accepted can make a later tick panic.
#[doc(alias("snapshot", "rollback", "save game"))]
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Deserialize), serde(try_from = "Sealed<State>"))]
pub struct Saved {
    pub(crate) state: State,
    pub(crate) first: Option<Arc<State>>,
    pub(crate) ruleset: u64,
    pub(crate) level: u64,
    /// Set for what an encounter saved, and for what was read and found sound.
    pub(crate) sound: OnceLock<()>,
    /// Where it comes from, for records of what a host does.
    pub(crate) origin: Option<Origin>,
    /// What the ids in it mean.
    #[cfg(feature = "serde")]
    pub(crate) names: Known,
}

/// The names that a saved state was saved under.
#[cfg(feature = "serde")]
#[derive(Clone, Debug, Default)]
pub(crate) enum Known {
    /// Not known: it was read in a way that has no names.
    #[default]
    No,
    /// Those of a ruleset.
    Of(Ruleset),
    /// Those that stood in its bytes.
    Read(Arc<super::saved_bytes::NameLists>),
}

impl Saved {
    /// How many bytes of memory its rows and columns fill.
    pub fn bytes(&self) -> usize {
        self.state.bytes()
    }

    /// What was read is looked through, once.
    #[cfg(feature = "serde")]
    pub(crate) fn look_through(&self, rules: &crate::ruleset::Rules) -> Result<(), RestoreError> {
        if self.sound.get().is_none() {
            let unsound = |what| RestoreError::Unsound { what };
            crate::state::validate(&self.state, self.first.as_deref(), rules).map_err(unsound)?;
            self.sound.get_or_init(|| ());
        }
        Ok(())
    }
}

/// A saved state on its way through a file.
#[cfg(feature = "serde")]
#[derive(serde::Serialize, serde::Deserialize)]
struct Sealed<S> {
    ruleset: u64,
    level: u64,
    seal: u64,
    state: S,
    first: Option<S>,
}

#[cfg(feature = "serde")]
impl serde::Serialize for Saved {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let (state, first) = (&self.state, self.first.as_deref());
        let seal = crate::checksum::seal(&(self.ruleset, self.level, state, first));
        Sealed { ruleset: self.ruleset, level: self.level, seal, state, first }.serialize(serializer)
    }
}

#[cfg(feature = "serde")]
impl TryFrom<Sealed<State>> for Saved {
    type Error = &'static str;

    fn try_from(sealed: Sealed<State>) -> Result<Saved, &'static str> {
        let seal =
            crate::checksum::seal(&(sealed.ruleset, sealed.level, &sealed.state, sealed.first.as_ref()));
        if seal == sealed.seal {
            Ok(Saved::from(Unsealed(sealed)))
        } else {
            Err("the saved state was changed after it was written: its seal does not fit")
        }
    }
}

/// What was written as a saved state, whatever its seal: for tests of what becomes of states that were changed and sealed again.
#[cfg(all(feature = "serde", feature = "audit"))]
#[derive(serde::Deserialize)]
pub struct AnySeal(#[serde(deserialize_with = "unsealed")] pub Saved);

#[cfg(all(feature = "serde", feature = "audit"))]
fn unsealed<'de, D: serde::Deserializer<'de>>(deserializer: D) -> Result<Saved, D::Error> {
    serde::Deserialize::deserialize(deserializer).map(|sealed| Saved::from(Unsealed(sealed)))
}

#[cfg(feature = "serde")]
struct Unsealed(Sealed<State>);

#[cfg(feature = "serde")]
impl From<Unsealed> for Saved {
    fn from(Unsealed(sealed): Unsealed) -> Saved {
        let Sealed { ruleset, level, state, first, .. } = sealed;
        Saved {
            state,
            first: first.map(Arc::new),
            ruleset,
            level,
            sound: OnceLock::new(),
            origin: None,
            names: Known::No,
        }
    }
}

impl Encounter {
    /// Saves the state. *Errors:* after a hook's panic there is no whole state to save.
    pub fn save(&self) -> Result<Saved, TickError> {
        let mut saved = Saved::default();
        self.save_into(&mut saved)?;
        Ok(saved)
    }

    /// Saves the state into memory that was used for saving before.
    pub fn save_into(&self, saved: &mut Saved) -> Result<(), TickError> {
        if self.interrupted {
            return Err(TickError::Interrupted { tick: self.state.tick });
        }
        saved.state.clone_from(&self.state);
        saved.first.clone_from(&self.first);
        saved.ruleset = self.rules.fingerprint();
        saved.level = self.level.fingerprint();
        saved.sound.get_or_init(|| ());
        saved.origin = self.journal.origin();
        #[cfg(feature = "serde")]
        {
            saved.names = Known::Of(self.rules.clone());
        }
        Ok(())
    }

    /// As [`restore`](Self::restore), under the ruleset that the state was saved under, which becomes that of the fight.
    pub fn restore_under(&mut self, rules: &Ruleset, saved: &Saved) -> Result<(), RestoreError> {
        let before = std::mem::replace(&mut self.rules, rules.clone());
        let restored = self.restore(saved);
        if restored.is_err() {
            self.rules = before;
        } else if before.fingerprint() != rules.fingerprint() {
            self.journal.restored_under(rules);
        }
        restored
    }

    /// Goes back, or forward, to a saved state. Facts of the last tick are forgotten, and so are ids that were given since.
    ///
    /// *Errors:* a state of another ruleset or level; one that was read from bytes that no encounter wrote.
    pub fn restore(&mut self, saved: &Saved) -> Result<(), RestoreError> {
        if saved.ruleset != self.rules.fingerprint() {
            return Err(RestoreError::OtherRuleset { saved: saved.ruleset, own: self.rules.fingerprint() });
        }
        let (theirs, own) = (saved.level, self.level.fingerprint());
        if theirs != own {
            return Err(RestoreError::OtherLevel { saved: theirs, own });
        }
        #[cfg(feature = "serde")]
        saved.look_through(self.rules.compiled())?;
        self.state.clone_from(&saved.state);
        self.first.clone_from(&saved.first);
        self.log.forget(self.state.counts);
        self.rooms.forget();
        self.unconfirmed.forget_from((self.state.registrar.epoch.0, self.state.tick + 1));
        self.interrupted = false;
        self.journal.restored(saved);
        Ok(())
    }
}
