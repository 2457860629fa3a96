//! What players ask, by tick and player: given, or predicted from what they asked last.

use std::collections::VecDeque;

/// Why an input is not taken. Nothing has changed.
#[derive(Clone, Copy, PartialEq, Eq, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum InputError {
    /// Its tick is confirmed, or further back than is kept.
    #[error(
        "an input for tick {tick} comes too late: {oldest} is the first that can be run again; keep more ticks, or let the game wait for its players"
    )]
    TooLate {
        /// Of which tick it is.
        tick: u64,
        /// The first tick that can be run again.
        oldest: u64,
    },
    /// Its tick is further ahead than inputs are kept.
    #[error(
        "an input for tick {tick} comes too early: {latest} is the last that is taken now; give it again later"
    )]
    TooEarly {
        /// Of which tick it is.
        tick: u64,
        /// The last tick that is taken now.
        latest: u64,
    },
    /// The player has given another input for the tick.
    #[error("player {player} has given another input for tick {tick}; each gives one a tick, which stays")]
    GivenBefore {
        /// The player.
        player: usize,
        /// The tick.
        tick: u64,
    },
    /// There is no such player.
    #[error("there is no player {player}; {players} play, and they are counted from 0")]
    NoSuchPlayer {
        /// The player.
        player: usize,
        /// How many there are.
        players: usize,
    },
}

/// What one player asks in one tick.
#[derive(Clone, Debug)]
struct Slot<I> {
    given: Option<I>,
    /// What the tick ran with: what was given, or what was predicted.
    used: Option<I>,
}

/// The inputs of one tick, as the game plays them.
#[derive(Debug)]
pub struct TickInputs<'a, I> {
    tick: u64,
    players: &'a [Slot<I>],
}

impl<I> Clone for TickInputs<'_, I> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<I> Copy for TickInputs<'_, I> {}

impl<'a, I> TickInputs<'a, I> {
    /// Which tick they are of, from 1.
    pub fn tick(&self) -> u64 {
        self.tick
    }

    /// What a player asks: what was given, or what is predicted; none if neither is there.
    pub fn of(&self, player: usize) -> Option<&'a I> {
        self.players.get(player)?.used.as_ref()
    }

    /// Whether the player's input has been given.
    pub fn is_given(&self, player: usize) -> bool {
        self.players.get(player).is_some_and(|slot| slot.given.is_some())
    }

    /// All that is asked, by player.
    pub fn iter(&self) -> impl Iterator<Item = (usize, &'a I)> + use<'a, I> {
        let used = |(player, slot): (usize, &'a Slot<I>)| Some((player, slot.used.as_ref()?));
        self.players.iter().enumerate().filter_map(used)
    }
}

/// The inputs of the ticks that may still run.
#[derive(Debug)]
pub(super) struct Inputs<I> {
    players: usize,
    /// The tick of the first row.
    first: u64,
    rows: VecDeque<Vec<Slot<I>>>,
    /// What each player gave last before the first row.
    last: Vec<Option<I>>,
}

impl<I: Clone + PartialEq> Inputs<I> {
    pub(super) fn new(players: usize) -> Inputs<I> {
        Inputs { players, first: 1, rows: VecDeque::new(), last: vec![None; players] }
    }

    /// The first tick for which inputs are taken.
    pub(super) fn first(&self) -> u64 {
        self.first
    }

    /// Takes an input, for a tick no later than `latest`.
    pub(super) fn give(&mut self, tick: u64, player: usize, input: I, latest: u64) -> Result<(), InputError> {
        let players = self.players;
        if player >= players {
            return Err(InputError::NoSuchPlayer { player, players });
        }
        if tick < self.first {
            return Err(InputError::TooLate { tick, oldest: self.first });
        }
        if tick > latest {
            return Err(InputError::TooEarly { tick, latest });
        }
        let given = &mut self.row(tick)[player].given;
        match given {
            Some(before) if *before != input => Err(InputError::GivenBefore { player, tick }),
            _ => {
                *given = Some(input);
                Ok(())
            }
        }
    }

    fn row(&mut self, tick: u64) -> &mut Vec<Slot<I>> {
        let place = (tick - self.first) as usize;
        while self.rows.len() <= place {
            self.rows.push_back(vec![Slot { given: None, used: None }; self.players]);
        }
        &mut self.rows[place]
    }

    /// The last tick up to which all players have given theirs; `first` - 1 if the first lacks one.
    pub(super) fn known(&self) -> u64 {
        let whole = |row: &&Vec<Slot<I>>| row.iter().all(|slot| slot.given.is_some());
        self.first - 1 + self.rows.iter().take_while(whole).count() as u64
    }

    /// What each player asks in a tick: given, or predicted from the last that was given before.
    fn wanted(&self, tick: u64, player: usize, predict: impl Fn(&I) -> Option<I>) -> Option<I> {
        let place = (tick - self.first) as usize;
        let given = |row: &Vec<Slot<I>>| row[player].given.clone();
        if let Some(given) = self.rows.get(place).and_then(given) {
            return Some(given);
        }
        let rows = self.rows.iter().take(place).rev();
        let last = rows.filter_map(|row| row[player].given.as_ref()).next().or(self.last[player].as_ref());
        last.and_then(predict)
    }

    /// Settles what the tick runs with, and gives whether that is other than what it ran with.
    pub(super) fn settle(&mut self, tick: u64, predict: impl Fn(&I) -> Option<I>) -> bool {
        let mut other = false;
        for player in 0..self.players {
            let wanted = self.wanted(tick, player, &predict);
            let used = &mut self.row(tick)[player].used;
            if *used != wanted {
                *used = wanted;
                other = true;
            }
        }
        other
    }

    /// What the tick runs with.
    pub(super) fn of(&mut self, tick: u64) -> TickInputs<'_, I> {
        let players = self.row(tick);
        TickInputs { tick, players }
    }

    /// The first tick is sure: no input for it is taken any more.
    pub(super) fn forget_first(&mut self) {
        self.first += 1;
        if let Some(row) = self.rows.pop_front() {
            for (last, slot) in self.last.iter_mut().zip(row) {
                if slot.given.is_some() {
                    *last = slot.given;
                }
            }
        }
    }
}
