//! A run as records see it: tick by tick, with names and one clock.

use hammerstone::event::{Fact, Facts};
use hammerstone::scene::Scene;
use hammerstone::{Encounter, Ruleset, View};

use crate::feed::begins;
use crate::{Line, Names};

/// What is gathered of a run. Each record looks at every tick, after it ran.
pub trait Record {
    /// Takes in a tick.
    fn observe(&mut self, tick: &Tick<'_>);
}

/// A tick that ran, with everything that a record may ask.
#[derive(Clone, Copy, Debug)]
pub struct Tick<'a> {
    /// The encounter, as it stands after the tick.
    pub encounter: &'a Encounter,
    /// Its ruleset.
    pub rules: &'a Ruleset,
    /// What combatants and hooks are called.
    pub names: &'a Names,
    /// The facts of the tick, with their tables. Ledgers, deliveries and gates are there if the encounter keeps them.
    pub facts: Facts<'a>,
    /// How many ticks have run, counted on through resets.
    pub clock: u32,
    /// Whether it is the first since a reset.
    pub anew: bool,
}

impl<'a> Tick<'a> {
    /// A fact of the tick, as a line of the feed.
    pub fn line(&'a self, fact: &'a Fact) -> Line<'a> {
        let before = self.clock - self.facts.tick;
        Line { fact, facts: &self.facts, rules: self.rules, names: self.names, before }
    }

    /// The encounter as it stands after the tick.
    pub fn view(&self) -> View<'a> {
        self.encounter.view()
    }

    /// What stood where, and how it moved.
    pub fn scene(&self) -> Scene<'a> {
        self.encounter.scene()
    }

    /// When it begins, in seconds, counted on through resets.
    pub fn begins(&self) -> f64 {
        begins(self.clock, self.rules)
    }

    /// Shows it to each of these records.
    pub fn show(&self, records: &mut [&mut dyn Record]) {
        records.iter_mut().for_each(|record| record.observe(self));
    }
}

/// Follows a run: learns who joins, and keeps the clock.
///
/// ```
/// use hammerstone::prelude::*;
/// use hammerstone_record::{Lanes, Run, Transcript};
/// # let mut b = Ruleset::builder(60);
/// # let masons = b.team("masons");
/// # let mason = b.template(Template::new("mason", masons, 40));
/// # let rules = b.build().unwrap();
/// let mut fight = Encounter::new(&rules, 7);
/// let mut run = Run::new();
/// let (mut lanes, mut transcript) = (Lanes::new(), Transcript::new());
/// let odo = fight.orders().spawn(mason, Pose::IDENTITY);
/// run.names.call(odo, "odo");
/// for _ in 0..10 {
///     fight.tick()?;
///     run.observe(&fight).show(&mut [&mut lanes, &mut transcript]);
/// }
/// assert_eq!(lanes.all()[0].name, "odo");
/// # Ok::<(), TickError>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Run {
    /// What combatants and hooks are called.
    pub names: Names,
    clock: u32,
    /// Ticks of the epochs before this one.
    before: u32,
    epoch: u32,
    anew: bool,
}

impl Run {
    /// Of an encounter in which no tick has run.
    pub fn new() -> Run {
        Run::default()
    }

    /// Takes in a tick that ran, once, and gives it for records to look at.
    pub fn observe<'a>(&'a mut self, encounter: &'a Encounter) -> Tick<'a> {
        let facts = encounter.facts();
        self.names.learn(encounter.rules(), &facts);
        self.anew = facts.epoch != self.epoch;
        if self.anew {
            (self.epoch, self.before) = (facts.epoch, self.clock);
        }
        self.clock = self.before + facts.tick;
        self.tick(encounter)
    }

    /// The tick that was taken in last.
    pub fn tick<'a>(&'a self, encounter: &'a Encounter) -> Tick<'a> {
        let (rules, facts) = (encounter.rules(), encounter.facts());
        Tick { encounter, rules, names: &self.names, facts, clock: self.clock, anew: self.anew }
    }
}
