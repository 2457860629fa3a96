//! What a host does with an encounter between ticks, noted for records that are run again. It decides nothing.

use std::sync::Arc;

use super::Encounter;
use super::save::Saved;
use crate::orders::{Inputs, MissingInput, Notes, Orders, Queue};
use crate::ruleset::Ruleset;
use crate::state::State;

/// How an encounter came to stand as it does, if not by its last tick.
#[derive(Clone, Debug)]
pub enum Restored {
    /// It was restored to how it stood after so many [noted](Encounter::keep_inputs) ticks.
    To(u64),
    /// It was restored to a state from elsewhere.
    Elsewhere(Box<Saved>),
    /// It goes on under another ruleset.
    Adopted {
        /// The ruleset.
        rules: Ruleset,
        /// The state in which it goes on.
        saved: Box<Saved>,
        /// After how many [noted](Encounter::keep_inputs) ticks it stood; none where it had been restored to a state from elsewhere.
        after: Option<u64>,
    },
}

/// After which noted tick of which encounter a state was saved.
#[derive(Clone, Debug)]
pub(crate) struct Origin {
    notes: Arc<()>,
    tick: u64,
}

/// Off unless asked for; a copy of an encounter keeps no notes.
#[derive(Debug, Default)]
pub(super) struct Journal(Option<Box<Kept>>);

#[derive(Debug, Default)]
struct Kept {
    /// Tells these notes from all others.
    this: Arc<()>,
    inputs: Inputs,
    restored: Option<Restored>,
    /// Noted ticks, those that were rolled back as well.
    ticks: u64,
    /// After which of them the encounter stands, if it was not restored from elsewhere.
    at: Option<u64>,
}

impl Clone for Journal {
    fn clone(&self) -> Journal {
        Journal::default()
    }
}

impl Journal {
    pub(super) fn notes(&mut self) -> Notes<'_> {
        self.0.as_mut().map_or(Notes::Off, |kept| Notes::Kept(&mut kept.inputs))
    }

    /// A tick ran.
    pub(super) fn ran(&mut self) {
        if let Some(kept) = &mut self.0 {
            kept.inputs.clear();
            kept.restored = None;
            kept.ticks += 1;
            kept.at = Some(kept.ticks);
        }
    }

    /// The encounter was restored.
    pub(super) fn restored(&mut self, saved: &Saved) {
        if let Some(kept) = &mut self.0 {
            kept.inputs.clear();
            let own = saved.origin.as_ref().filter(|origin| Arc::ptr_eq(&origin.notes, &kept.this));
            kept.at = own.map(|origin| origin.tick);
            kept.restored = Some(match kept.at {
                Some(tick) => Restored::To(tick),
                None => Restored::Elsewhere(Box::new(saved.clone())),
            });
        }
    }

    /// It was restored under another ruleset than it had: a record needs that, too, unless it knows the state.
    pub(super) fn restored_under(&mut self, rules: &Ruleset) {
        if let Some(restored) = self.0.as_mut().and_then(|kept| kept.restored.as_mut())
            && let Restored::Elsewhere(saved) = restored
        {
            let saved = std::mem::take(saved);
            *restored = Restored::Adopted { rules: rules.clone(), saved, after: None };
        }
    }

    /// The encounter goes on under another ruleset.
    #[cfg(feature = "serde")]
    fn adopted(&mut self, rules: &Ruleset, saved: Saved) {
        if let Some(kept) = &mut self.0 {
            kept.inputs.clear();
            let after = kept.at.take();
            kept.restored = Some(Restored::Adopted { rules: rules.clone(), saved: Box::new(saved), after });
        }
    }

    /// Where a state comes from that is saved now.
    pub(super) fn origin(&self) -> Option<Origin> {
        let kept = self.0.as_ref().filter(|kept| kept.inputs.is_empty())?;
        Some(Origin { notes: kept.this.clone(), tick: kept.at? })
    }
}

impl Encounter {
    /// Notes that it has adopted a ruleset.
    #[cfg(feature = "serde")]
    pub(super) fn note_adopted(&mut self) {
        if self.journal.0.is_some()
            && let Ok(saved) = self.save()
        {
            self.journal.adopted(&self.rules, saved);
        }
    }

    /// Whether it is noted what the host asks between two ticks, from now on; off unless said. Each time it is switched on the notes begin
    /// anew. For records that are run again; changes no byte of the state.
    ///
    /// What was asked before is no part of the notes: begin in an encounter that has just been made, or [save](Self::save) first.
    pub fn keep_inputs(&mut self, keep: bool) {
        self.journal.0 = keep.then(|| Box::new(Kept { at: Some(0), ..Kept::default() }));
    }

    /// What the host has asked since the last tick, or since a state was restored; none unless they are [kept](Self::keep_inputs).
    pub fn inputs(&self) -> Option<&Inputs> {
        self.journal.0.as_ref().map(|kept| &kept.inputs)
    }

    /// How many ticks have run since inputs are [kept](Self::keep_inputs), those that were rolled back as well.
    pub fn noted_ticks(&self) -> u64 {
        self.journal.0.as_ref().map_or(0, |kept| kept.ticks)
    }

    /// The state that was restored since the last tick, if one was and inputs are [kept](Self::keep_inputs). Of several the last.
    pub fn restored(&self) -> Option<&Restored> {
        self.journal.0.as_ref()?.restored.as_ref()
    }

    /// Asks again what was asked of an encounter that stood as this one stands.
    ///
    /// *Errors:* inputs that do not hold what they name; then those before it have been asked.
    pub fn repeat(&mut self, inputs: &Inputs) -> Result<(), MissingInput> {
        self.orders().repeat(inputs)
    }

    /// The door for orders; they are carried out at the start of the next tick.
    pub fn orders(&mut self) -> Orders<'_> {
        let State { pending, registrar, given_poses, given_text, .. } = &mut self.state;
        let queue = Queue { pending, registrar, given_poses, given_text };
        Orders { queue, answer: None, notes: self.journal.notes() }
    }
}
