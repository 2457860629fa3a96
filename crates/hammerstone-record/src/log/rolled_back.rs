//! Runs every tick again, from some ticks back, and holds it against what it came to.

use std::collections::VecDeque;

use hammerstone::hooks::Hooks;
use hammerstone::orders::Inputs;
use hammerstone::{Encounter, Saved, StateDifference, Summary, TickError};

/// Why a checked tick is not as it should be.
#[derive(Clone, PartialEq, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum RollbackError {
    /// It did not run.
    #[error(transparent)]
    Tick(#[from] TickError),
    /// Run again, a tick comes to another state: something decides that is neither in the state nor in the world.
    #[error(
        "tick {tick}, rolled back by {back} and run again, comes to another state: {}; what hooks remember belongs into the world that is lent to them",
        parts(.differences)
    )]
    Differs {
        /// The tick.
        tick: u32,
        /// By how many ticks it was rolled back.
        back: u32,
        /// What differs, the first as it was and the second as it is.
        differences: Vec<StateDifference>,
    },
}

fn parts(differences: &[StateDifference]) -> String {
    let one = |difference: &StateDifference| match difference.combatant {
        Some(who) => format!("{difference} (of the combatant in place {})", who.slot()),
        None => difference.to_string(),
    };
    differences.iter().map(one).collect::<Vec<_>>().join("; ")
}

/// A tick that ran: with what it began, and what it came to.
#[derive(Debug)]
struct Ran<W> {
    /// The state that the tick before left.
    before: Saved,
    world: W,
    inputs: Inputs,
    after: Saved,
}

/// Runs a fight, and after each tick rolls a copy of it back by some ticks and runs it forward again, with the same hooks and a copy of the
/// world as it was then. Any part of the state that differs stops it, with the tick and the name of the part. For the tests of a game
/// that rolls back: it costs so many ticks for each.
///
/// ```
/// use hammerstone::prelude::*;
/// use hammerstone_record::RollbackCheck;
/// # let mut b = Ruleset::builder(60);
/// # let masons = b.team("masons");
/// # let mason = b.template(Template::new("mason", masons, 40));
/// # let rules = b.build().unwrap();
/// # let (hooks, mut world) = (Hooks::<u32>::new(), 0);
/// let mut fight = Encounter::new(&rules, 7);
/// let mut check = RollbackCheck::begin(&mut fight, 8)?;
/// fight.orders().spawn(mason, Pose::IDENTITY);
/// for _ in 0..100 {
///     check.tick_with(&mut fight, &hooks, &mut world)?;
/// }
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct RollbackCheck<W> {
    back: usize,
    ran: VecDeque<Ran<W>>,
    last: Saved,
    again: Encounter,
}

impl<W: Clone> RollbackCheck<W> {
    /// Checks so many ticks back. From now on the encounter [keeps](Encounter::keep_inputs) what it is asked.
    ///
    /// *Errors:* a hook's panic left the encounter half done.
    pub fn begin(fight: &mut Encounter, back: u32) -> Result<RollbackCheck<W>, TickError> {
        let (last, again) = (fight.save()?, fight.clone());
        fight.keep_inputs(true);
        Ok(RollbackCheck { back: back.max(1) as usize, ran: VecDeque::new(), last, again })
    }

    /// Runs one tick, and those before it once more.
    ///
    /// *Errors:* a tick that does not run, or comes to something else when it is run again. A state that was restored meanwhile begins anew.
    pub fn tick_with(
        &mut self,
        fight: &mut Encounter,
        hooks: &Hooks<W>,
        world: &mut W,
    ) -> Result<Summary, RollbackError> {
        if fight.restored().is_some() {
            self.ran.clear();
            // What was asked since is in it, and is asked no more.
            self.last = fight.save()?;
        }
        let restored = fight.restored().is_some();
        let inputs = fight.inputs().filter(|_| !restored).cloned().unwrap_or_default();
        let (before, world_before) = (self.last.clone(), world.clone());
        let summary = fight.tick_with(hooks, world)?;
        fight.save_into(&mut self.last)?;
        self.ran.push_back(Ran { before, world: world_before, inputs, after: self.last.clone() });
        if self.ran.len() > self.back {
            self.ran.pop_front();
        }
        self.check(fight, hooks)?;
        Ok(summary)
    }

    fn check(&mut self, fight: &Encounter, hooks: &Hooks<W>) -> Result<(), RollbackError> {
        let Some(first) = self.ran.front() else { return Ok(()) };
        // Of the ruleset that holds now, since that is the one that the states are of.
        let restored = self.again.restore_under(fight.rules(), &first.before);
        debug_assert!(restored.is_ok(), "a state of this fight");
        let mut world = first.world.clone();
        for (place, ran) in self.ran.iter().enumerate() {
            // What the inputs name is in them: they were noted.
            _ = self.again.repeat(&ran.inputs);
            let summary = self.again.tick_with(hooks, &mut world)?;
            let differences = ran.after.differences(&self.again.save()?);
            if !differences.is_empty() {
                let back = (self.ran.len() - place) as u32;
                return Err(RollbackError::Differs { tick: summary.tick, back, differences });
            }
        }
        Ok(())
    }
}
