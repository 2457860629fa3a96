//! A fight that is played before all inputs are there, and corrected when they come.
//!
//! A [`Rollback`] runs an [`Encounter`] tick by tick. Inputs of players are given by tick; where one lacks, the [game](Game) may predict
//! it. One that comes late brings the fight back to its tick, and runs it forward again. Hooks that [show](crate::hooks::Hooks::show) hear what
//! that changes: each fact is shown once, corrected where it has to be, and retracted or confirmed in the end.
//!
//! *Determinism:* as that of an encounter, if the game keeps what decides in what it saves. After all inputs have come the fight stands as one
//! that had them at once, bit for bit.

mod inputs;
mod showing;

pub use inputs::{InputError, TickInputs};

use std::collections::VecDeque;

use crate::encounter::{Encounter, Saved, Summary, TickError};
use crate::hooks::Hooks;
use inputs::Inputs;
use showing::{Showing, ShownTick};

/// The game's side of a fight that is rolled back: what players ask, and what of the game's own is saved and restored with the fight.
///
/// Only what decides belongs into what is saved. What was shown (sounds that play, numbers on the screen) does not: it is corrected by hooks
/// that [show](crate::hooks::Hooks::show).
pub trait Game {
    /// What one player asks in one tick.
    type Input: Clone + PartialEq;
    /// What is saved of the game itself.
    type Saved: Default;

    /// Turns the inputs of a tick into orders, and moves on what is the game's own. Called before each tick, also where it is run again: it
    /// must do the same then, for the same inputs.
    fn play(&mut self, fight: &mut Encounter, inputs: TickInputs<'_, Self::Input>);

    /// What a player probably asks in a tick without an input of theirs, who asked `last` some ticks before. Unless said, nothing.
    fn predict(_last: &Self::Input) -> Option<Self::Input> {
        None
    }

    /// Saves what decides.
    fn save_into(&self, saved: &mut Self::Saved);

    /// Goes back to what was saved.
    fn restore(&mut self, saved: &Self::Saved);
}

/// How far a fight may be rolled back, and for how many players.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct RollbackOptions {
    /// How many players give inputs.
    pub players: usize,
    /// How many ticks are kept, so that they can be run again; at least 1.
    pub ticks: u32,
    /// How many ticks ahead inputs are taken.
    pub ahead: u32,
}

impl RollbackOptions {
    /// For so many players: 8 ticks are kept, and inputs are taken 60 ticks ahead.
    pub const fn of(players: usize) -> RollbackOptions {
        RollbackOptions { players, ticks: 8, ahead: 60 }
    }
}

/// What came of a call that runs a fight.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Ran {
    /// How many ticks there have been.
    pub tick: u64,
    /// How many of them were run again.
    pub again: u32,
    /// The last tick that is sure.
    pub confirmed: u64,
    /// What the last tick came to; none if the fight had ended before it, or if no tick ran.
    pub summary: Option<Summary>,
}

/// A tick that may be run again.
#[derive(Debug, Default)]
struct KeptTick<S> {
    /// As it began.
    fight: Saved,
    game: S,
    shown: ShownTick,
}

/// Runs a fight before all inputs are there, and again when they come.
///
/// ```
/// use hammerstone::prelude::*;
/// use hammerstone::rollback::{Game, Rollback, RollbackOptions, TickInputs};
///
/// struct Duel {
///     players: [CombatantId; 2],
/// }
///
/// impl Game for Duel {
///     /// Where the player wants to stand.
///     type Input = Pose;
///     type Saved = ();
///
///     fn play(&mut self, fight: &mut Encounter, inputs: TickInputs<'_, Pose>) {
///         for (player, &pose) in inputs.iter() {
///             fight.orders().move_to(self.players[player], pose);
///         }
///     }
///
///     fn save_into(&self, _: &mut ()) {}
///     fn restore(&mut self, _: &()) {}
/// }
///
/// # let mut b = Ruleset::builder(60);
/// # let masons = b.team("masons");
/// # let mason = b.template(Template::new("mason", masons, 40));
/// # let rules = b.build()?;
/// let mut fight = Encounter::new(&rules, 7);
/// let at = |x| Pose::at([x, 0.0, 0.0]);
/// let mut spawn = |x, key| fight.orders().spawn_keyed(mason, at(x), None, None, key);
/// let mut duel = Duel { players: [spawn(0.0, 1), spawn(2.0, 2)] };
/// let hooks = Hooks::new();
///
/// let mut rollback = Rollback::begin(fight, RollbackOptions::of(2))?;
/// rollback.give(2, 0, at(0.5))?;
/// for _ in 0..4 {
///     rollback.advance(&hooks, &mut duel)?;
/// }
/// // The other player's input was on its way for two ticks.
/// rollback.give(3, 1, at(1.9))?;
/// let ran = rollback.advance(&hooks, &mut duel)?;
/// assert_eq!((ran.tick, ran.again), (5, 2));
/// assert_eq!(rollback.fight().view().pose(duel.players[1]), Some(at(1.9)));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[doc(alias("netcode", "prediction", "resimulation"))]
#[derive(Debug)]
pub struct Rollback<G: Game> {
    fight: Encounter,
    options: RollbackOptions,
    inputs: Inputs<G::Input>,
    /// Ticks that ran and are not sure, the oldest first.
    kept: VecDeque<KeptTick<G::Saved>>,
    /// The tick that runs. It stays here where it fails, and is begun anew then.
    running: Option<KeptTick<G::Saved>>,
    spare: Vec<KeptTick<G::Saved>>,
    /// After how many ticks the fight stands.
    at: u64,
    /// How many ticks there have been: more, where one that is run again failed.
    present: u64,
    /// The first tick that ran and may have to be run again.
    from: Option<u64>,
    showing: Showing,
}

/// Runs one tick of a fight, for [`Rollback::advance_by`].
pub type RunTick<'a, G> = &'a mut dyn FnMut(&mut Encounter, &Hooks<G>, &mut G) -> Result<Summary, TickError>;

impl<G: Game> Rollback<G> {
    /// Drives a fight from here on: its next tick is tick 1. What it was asked before is done in that tick.
    ///
    /// *Errors:* a hook's panic left the encounter half done.
    pub fn begin(fight: Encounter, options: RollbackOptions) -> Result<Rollback<G>, TickError> {
        // So that nothing that is half done is driven.
        fight.save()?;
        Ok(Rollback {
            fight,
            options: RollbackOptions { ticks: options.ticks.max(1), ..options },
            inputs: Inputs::new(options.players),
            kept: VecDeque::new(),
            running: None,
            spare: Vec::new(),
            at: 0,
            present: 0,
            from: None,
            showing: Showing::default(),
        })
    }

    /// The fight as it stands.
    pub fn fight(&self) -> &Encounter {
        &self.fight
    }

    /// How many ticks there have been.
    pub fn tick(&self) -> u64 {
        self.present
    }

    /// The first tick for which inputs are taken. Those before it are sure.
    pub fn oldest(&self) -> u64 {
        self.inputs.first()
    }

    /// The last tick up to which all players have given their inputs.
    pub fn known(&self) -> u64 {
        self.inputs.known()
    }

    /// Takes what a player asks in a tick. A tick that ran without it is run again by the next call that runs the fight; where it was
    /// predicted rightly, that costs nothing. The same input may come again as long as its tick is not sure.
    ///
    /// *Errors:* a tick that is sure or too far ahead, another input for the same tick, a player that there is not. Then nothing has changed.
    pub fn give(&mut self, tick: u64, player: usize, input: G::Input) -> Result<(), InputError> {
        let latest = self.present + u64::from(self.options.ahead.max(1));
        self.inputs.give(tick, player, input, latest)?;
        if tick <= self.at {
            self.from = Some(self.from.map_or(tick, |from| from.min(tick)));
        }
        Ok(())
    }

    /// Runs again what has to be, and then the next tick.
    ///
    /// *Errors:* as of [`Encounter::tick_with`], but for a fight that has ended: a late input may change that, so its ticks go on, and nothing
    /// happens in them. A tick that failed, or in which a hook panicked, is begun anew by the next call.
    pub fn advance(&mut self, hooks: &Hooks<G>, game: &mut G) -> Result<Ran, TickError> {
        self.advance_by(hooks, game, &mut Encounter::tick_with)
    }

    /// As [`advance`](Self::advance), with ticks that something else runs, such as a recorder.
    pub fn advance_by(
        &mut self,
        hooks: &Hooks<G>,
        game: &mut G,
        run: RunTick<'_, G>,
    ) -> Result<Ran, TickError> {
        self.run_to(self.present + 1, hooks, game, run)
    }

    /// Runs again what has to be, and no further: for a game that waits.
    ///
    /// *Errors:* as of [`advance`](Self::advance).
    pub fn correct(&mut self, hooks: &Hooks<G>, game: &mut G) -> Result<Ran, TickError> {
        self.correct_by(hooks, game, &mut Encounter::tick_with)
    }

    /// As [`correct`](Self::correct), with ticks that something else runs.
    pub fn correct_by(
        &mut self,
        hooks: &Hooks<G>,
        game: &mut G,
        run: RunTick<'_, G>,
    ) -> Result<Ran, TickError> {
        self.run_to(self.present, hooks, game, run)
    }

    /// Ends the driving, and confirms all that is shown. Late inputs are taken in first; where ticks are recorded,
    /// [`correct_by`](Self::correct_by) comes before it.
    ///
    /// *Errors:* as of [`advance`](Self::advance).
    pub fn finish(mut self, hooks: &Hooks<G>, game: &mut G) -> Result<Encounter, TickError> {
        self.correct(hooks, game)?;
        while !self.kept.is_empty() {
            self.confirm_first(hooks, game);
        }
        Ok(self.fight)
    }

    fn run_to(
        &mut self,
        last: u64,
        hooks: &Hooks<G>,
        game: &mut G,
        run: RunTick<'_, G>,
    ) -> Result<Ran, TickError> {
        self.go_back(game);
        let again = self.present - self.at;
        let mut summary = None;
        while self.at < last {
            summary = self.run_one(hooks, game, run)?;
        }
        let shown = self.kept.iter_mut().map(|kept| &mut kept.shown);
        self.showing.tell(shown, self.fight.view(), &mut hooks.with(game));
        let known = self.inputs.known();
        while !self.kept.is_empty()
            && (self.inputs.first() <= known || self.kept.len() > self.options.ticks as usize)
        {
            self.confirm_first(hooks, game);
        }
        Ok(Ran { tick: self.at, again: again as u32, confirmed: self.inputs.first() - 1, summary })
    }

    /// Before the tick that failed, or the first one with other inputs than those that it ran with.
    fn go_back(&mut self, game: &mut G) {
        let from = self.from.take();
        let changed =
            from.and_then(|from| (from..=self.at).find(|&tick| self.inputs.settle(tick, G::predict)));
        let kept = self.running.take();
        let first = match (changed, kept) {
            (Some(tick), failed) => {
                self.spare.extend(failed);
                let place = (tick - self.inputs.first()) as usize;
                let mut first = None;
                while self.kept.len() > place
                    && let Some(mut kept) = self.kept.pop_back()
                {
                    self.showing.take_back(&mut kept.shown);
                    self.spare.extend(first.replace(kept));
                }
                self.at = tick - 1;
                first
            }
            (None, failed) => failed,
        };
        if let Some(first) = first {
            let rules = self.fight.rules().clone();
            let restored = self.fight.restore_under(&rules, &first.fight);
            debug_assert!(restored.is_ok(), "a state of this fight");
            game.restore(&first.game);
            self.spare.push(first);
        }
    }

    fn run_one(
        &mut self,
        hooks: &Hooks<G>,
        game: &mut G,
        run: RunTick<'_, G>,
    ) -> Result<Option<Summary>, TickError> {
        let mut kept = self.spare.pop().unwrap_or_default();
        self.fight.save_into(&mut kept.fight)?;
        game.save_into(&mut kept.game);
        kept.shown.clear();
        self.running = Some(kept);
        let tick = self.at + 1;
        self.inputs.settle(tick, G::predict);
        game.play(&mut self.fight, self.inputs.of(tick));
        let summary = match self.fight.drive(|fight| run(fight, hooks, game)) {
            Ok(summary) => Some(summary),
            Err(TickError::Ended) => {
                self.fight.orders().take_all_back();
                None
            }
            Err(error) => return Err(error),
        };
        if let Some(mut kept) = self.running.take() {
            if summary.is_some() {
                let (facts, reached) = self.fight.kept();
                kept.shown.keep(tick, facts, reached);
            }
            self.kept.push_back(kept);
        }
        self.at = tick;
        self.present = self.present.max(tick);
        Ok(summary)
    }

    fn confirm_first(&mut self, hooks: &Hooks<G>, game: &mut G) {
        if let Some(kept) = self.kept.pop_front() {
            self.showing.confirm(&kept.shown, self.fight.view(), &mut hooks.with(game));
            self.inputs.forget_first();
            self.spare.push(kept);
        }
    }
}
