//! Runs a log again, without the host that it was recorded with.

use std::cell::RefCell;
use std::collections::BTreeMap;

use hammerstone::hooks::{
    Amendment, DeathAttempt, Heard, HitContext, HookSort, PoseAnswer, PoseRequest, StepCall, Terms, Verdict,
};
use hammerstone::ids::{HookId, OwnStepId};
use hammerstone::orders::{Inputs, Order, Orders};
use hammerstone::prelude::Host;
use hammerstone::{Encounter, Fixed, RestoreError, Ruleset, Saved, Summary, TickError};

use super::content::{Answer, AnswerReader, Streams};
use super::reading::{Entry, Log, Origin, Ran};
use super::recorder::Named;
use crate::Names;

/// Why a log does not run again as it ran. The fight stands at the end of the tick that differs.
#[derive(Clone, PartialEq, Debug, thiserror::Error)]
#[error("tick {tick} of round {epoch} (number {number} of the log) does not run as it was recorded: {what}")]
pub struct ReplayError {
    /// The tick as the log counts, from 1: those that were rolled back as well.
    pub number: u64,
    /// The tick, as the fight counts.
    pub tick: u32,
    /// How many resets there were before.
    pub epoch: u32,
    /// What is wrong.
    pub what: Differs,
}

/// How a tick differs from the one that was recorded.
#[derive(Clone, PartialEq, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum Differs {
    /// The host was called, and the log has no answer left.
    #[error("call {call} of the host, to {wanted}, has no answer in the log")]
    Missing {
        /// The call, from 1.
        call: u64,
        /// To what.
        wanted: &'static str,
    },
    /// The host was called for one thing, and the log has the answer to another.
    #[error("call {call} of the host is to {wanted}, and the log has the answer of {found}")]
    Unfitting {
        /// The call, from 1.
        call: u64,
        /// To what.
        wanted: &'static str,
        /// Whose answer is there.
        found: &'static str,
    },
    /// The log has answers to calls that did not come.
    #[error("the host was called {calls} times, and the log has answers to more calls")]
    Surplus {
        /// How often it was called.
        calls: u64,
    },
    /// It is another tick, or has another number of facts.
    #[error("it is tick {found} with {found_facts} facts, and was tick {wanted} with {wanted_facts}")]
    Facts {
        /// The tick that was recorded.
        wanted: u32,
        /// Its facts.
        wanted_facts: u64,
        /// The tick that ran.
        found: u32,
        /// Its facts.
        found_facts: u64,
    },
    /// The state is another.
    #[error("the checksum of its state is {found:016x}, and was {wanted:016x}")]
    Checksum {
        /// That of the log.
        wanted: u64,
        /// That of the tick.
        found: u64,
    },
    /// The tick did not run.
    #[error("it does not run: {0}")]
    Tick(#[from] TickError),
    /// The state with which it began cannot be restored.
    #[error("the state with which it began cannot be restored: {0}")]
    Restore(#[from] RestoreError),
    /// The log restores a state that no tick left.
    #[error("it began with the state after tick number {0} of the log, which is not there any longer")]
    Gone(u64),
}

/// A log that is run again, tick by tick.
///
/// Nothing of the host is called: its answers are in the log. Where a tick asks for another answer than the log has, comes to another
/// number of facts, or leaves another state, it stops with an error. Another build of the library may run it; the checksums decide.
#[derive(Clone, Debug)]
pub struct Replay<'a> {
    log: &'a Log,
    fight: Encounter,
    streams: Streams,
    inputs: Inputs,
    /// The next entry, and how many ticks ran before.
    next: usize,
    ticks: u64,
    /// Which ticks are run: all, or those that count in the end.
    only: Option<Vec<u64>>,
    /// Whether each checksum is looked at.
    checks: bool,
    hooks: BTreeMap<HookId, (Option<HookSort>, Option<&'static str>)>,
    /// States to which the log goes back, and the last entry that does.
    saved: BTreeMap<u64, (Ruleset, Saved, usize)>,
    last_uses: BTreeMap<u64, usize>,
    failed: Option<ReplayError>,
}

/// Runs a tick of a fight for a host.
pub(super) type RunTick<'a> = &'a mut dyn FnMut(&mut Encounter, &mut dyn Host) -> Result<Summary, TickError>;

impl<'a> Replay<'a> {
    /// Runs every tick of a log, also those that were rolled back.
    pub fn of(log: &'a Log) -> Result<Replay<'a>, ReplayError> {
        let mut replay = Replay::new(log, None, log.last_uses());
        replay.keep();
        Ok(replay)
    }

    /// Runs the ticks that count: where a state was restored, the later branch.
    pub fn of_branch(log: &'a Log) -> Replay<'a> {
        Replay::new(log, Some(log.branch()), BTreeMap::new())
    }

    fn new(log: &'a Log, only: Option<Vec<u64>>, last_uses: BTreeMap<u64, usize>) -> Replay<'a> {
        Replay {
            log,
            fight: log.start.clone(),
            streams: Streams::default(),
            inputs: Inputs::new(),
            next: 0,
            ticks: 0,
            only,
            checks: true,
            hooks: BTreeMap::new(),
            saved: BTreeMap::new(),
            last_uses,
            failed: None,
        }
    }

    /// Checksums are not looked at: for a fight that is to be run with other eyes.
    pub fn unchecked(mut self) -> Replay<'a> {
        self.checks = false;
        self
    }

    /// The fight, as it stands.
    pub fn fight(&self) -> &Encounter {
        &self.fight
    }

    /// The fight, for what changes nothing of it: ledgers that are kept, and the like.
    pub fn fight_mut(&mut self) -> &mut Encounter {
        &mut self.fight
    }

    /// How many ticks of the log have run or were passed over.
    pub fn ticks(&self) -> u64 {
        self.ticks
    }

    /// Runs the next tick; none after the last.
    pub fn tick(&mut self) -> Result<Option<Summary>, ReplayError> {
        self.tick_named(&mut Names::new())
    }

    /// As [`tick`](Self::tick), and takes in the names that the log has.
    pub fn tick_named(&mut self, names: &mut Names) -> Result<Option<Summary>, ReplayError> {
        self.tick_through(names, &mut |fight, host| fight.tick_for(host))
    }

    /// As [`tick_named`](Self::tick_named), run by `run` for the host that answers from the log.
    pub(super) fn tick_through(
        &mut self,
        names: &mut Names,
        run: RunTick<'_>,
    ) -> Result<Option<Summary>, ReplayError> {
        let Some((entry, ran)) = self.next_tick(names)? else { return Ok(None) };
        let came = self.run(entry, ran, run);
        self.told(ran, came)
    }

    /// Runs the next tick with the host's own code: the log says what was asked, and what came of it is not held against the log. For code that
    /// was mended, and for worlds that stand as they stood then.
    pub fn tick_for(
        &mut self,
        names: &mut Names,
        host: &mut dyn Host,
    ) -> Result<Option<Summary>, ReplayError> {
        let Some((entry, ran)) = self.next_tick(names)? else { return Ok(None) };
        _ = self.log.answers(ran).pass_over(&mut self.streams);
        let came = self.begin(entry).and_then(|()| {
            // What it names is in it: it was read whole. What another run did not bring about is refused.
            _ = self.fight.repeat(&self.inputs);
            Ok(self.fight.tick_for(host)?)
        });
        self.told(ran, came)
    }

    /// The next tick that is run; none after the last.
    fn next_tick(&mut self, names: &mut Names) -> Result<Option<(&'a Entry, &'a Ran)>, ReplayError> {
        if let Some(failed) = &self.failed {
            return Err(failed.clone());
        }
        let log = self.log;
        while let Some(entry) = log.entries.get(self.next) {
            name(names, &entry.names);
            if self.next == 0 {
                // Who was there when the log began.
                names.meet(self.fight.rules(), self.fight.view());
            }
            self.next += 1;
            log.inputs(entry, &mut self.streams, &mut self.inputs);
            let Some(ran) = &entry.ran else { continue };
            self.ticks += 1;
            for (hook, sort, takes) in &ran.hooks {
                self.hooks.insert(*hook, (*sort, *takes));
            }
            if self.only.as_ref().is_some_and(|only| only.binary_search(&self.ticks).is_err()) {
                // It was read once already.
                _ = log.answers(ran).pass_over(&mut self.streams);
                continue;
            }
            return Ok(Some((entry, ran)));
        }
        Ok(None)
    }

    /// What came of a tick.
    fn told(&mut self, ran: &Ran, came: Result<Summary, Differs>) -> Result<Option<Summary>, ReplayError> {
        match came {
            Ok(summary) => {
                self.keep();
                Ok(Some(summary))
            }
            Err(what) => {
                let (tick, epoch) = (ran.tick, self.fight.epoch());
                let failed = ReplayError { number: self.ticks, tick, epoch, what };
                self.failed = Some(failed.clone());
                Err(failed)
            }
        }
    }

    /// What was asked in the tick that ran last.
    pub(super) fn inputs(&self) -> &Inputs {
        &self.inputs
    }

    /// Whether the tick that ran last began with a state from elsewhere, or under another ruleset than the one before.
    pub(super) fn began_elsewhere(&self) -> bool {
        let entry = self.next.checked_sub(1).and_then(|last| self.log.entries.get(last));
        entry.is_some_and(|entry| matches!(entry.restored, Origin::Elsewhere(_) | Origin::Adopted(..)))
    }

    /// After the last tick: the fight as it stood before one that was asked for and did not end, with the orders given. It can be run
    /// with the host's own hooks. None if the log ends with a whole tick.
    pub fn unfinished(mut self) -> Option<Encounter> {
        let last = self.log.entries.last().filter(|entry| entry.ran.is_none())?;
        if self.next < self.log.entries.len() || self.failed.is_some() {
            return None;
        }
        self.begin(last).ok()?;
        self.fight.repeat(&self.inputs).ok()?;
        Some(self.fight)
    }

    /// Brings the fight to where a tick begins.
    fn begin(&mut self, entry: &Entry) -> Result<(), Differs> {
        match &entry.restored {
            Origin::Before => {}
            // The ticks between were not run.
            Origin::After(_) if self.only.is_some() => {}
            Origin::After(tick) => {
                let (rules, saved, last) = self.saved.get(tick).ok_or(Differs::Gone(*tick))?;
                self.fight.restore_under(rules, saved)?;
                if *last < self.next {
                    self.saved.remove(tick);
                }
            }
            Origin::Elsewhere(saved) => self.fight.restore_under(&entry.rules, saved)?,
            Origin::Adopted(_, adopted) => self.fight.restore_under(&adopted.0, &adopted.1)?,
        }
        Ok(())
    }

    fn run(&mut self, entry: &Entry, ran: &Ran, run: RunTick<'_>) -> Result<Summary, Differs> {
        self.begin(entry)?;
        // What it names is in it: it was read whole.
        _ = self.fight.repeat(&self.inputs);
        let mut answering = Answering {
            answers: RefCell::new(self.log.answers(ran)),
            streams: RefCell::new(&mut self.streams),
            hooks: &self.hooks,
            ran,
            calls: 0.into(),
            wrong: RefCell::new(None),
        };
        let summary = run(&mut self.fight, &mut answering);
        let Answering { answers, calls, wrong, .. } = answering;
        if let Some(wrong) = wrong.into_inner() {
            return Err(wrong);
        }
        let summary = summary?;
        if !answers.into_inner().is_empty() {
            return Err(Differs::Surplus { calls: calls.get() });
        }
        if (summary.tick, u64::from(summary.load.facts)) != (ran.tick, ran.facts) {
            return Err(Differs::Facts {
                wanted: ran.tick,
                wanted_facts: ran.facts,
                found: summary.tick,
                found_facts: summary.load.facts.into(),
            });
        }
        if let Some(wanted) = ran.checksum.filter(|_| self.checks) {
            let found = self.fight.checksum();
            if wanted != found {
                return Err(Differs::Checksum { wanted, found });
            }
        }
        Ok(summary)
    }

    /// Keeps the state if the log goes back to it.
    fn keep(&mut self) {
        if let Some(last) = self.last_uses.remove(&self.ticks)
            && let Ok(saved) = self.fight.save()
        {
            self.saved.insert(self.ticks, (self.fight.rules().clone(), saved, last));
        }
    }
}

fn name(names: &mut Names, new: &[(Named, String)]) {
    for (named, name) in new {
        match *named {
            Named::Combatant(who) => names.call(who, name),
            Named::Hook(hook) => names.call_hook(hook, name),
            Named::Obstacle(obstacle) => names.call_obstacle(obstacle, name),
            Named::Shape(shape) => names.call_shape(shape, name),
        }
    }
}

/// Attaches what was attached to a verdict, as it was.
pub(super) fn answer_again(
    terms: &mut Terms<'_>,
    by: HookId,
    amendments: Vec<Amendment>,
    costs: Vec<(HookId, Order)>,
) {
    amendments.into_iter().for_each(|amendment| terms.attach(amendment));
    for (hook, cost) in costs {
        terms.by(hook);
        terms.cost(cost);
    }
    terms.by(by);
}

/// A host that answers what the log says.
struct Answering<'a, 'b> {
    answers: RefCell<AnswerReader<'a>>,
    streams: RefCell<&'b mut Streams>,
    hooks: &'b BTreeMap<HookId, (Option<HookSort>, Option<&'static str>)>,
    ran: &'a Ran,
    calls: std::cell::Cell<u64>,
    wrong: RefCell<Option<Differs>>,
}

impl Answering<'_, '_> {
    /// The answer to the next call, to `wanted`, if `fits` takes it.
    fn answer<T>(
        &self,
        wanted: &'static str,
        fits: impl FnOnce(Answer) -> Result<T, &'static str>,
    ) -> Option<T> {
        if self.wrong.borrow().is_some() {
            return None;
        }
        let call = self.calls.get() + 1;
        self.calls.set(call);
        let next = self.answers.borrow_mut().next(&mut self.streams.borrow_mut());
        let wrong = match next {
            Ok(Some(answer)) => match fits(answer) {
                Ok(answer) => return Some(answer),
                Err(found) => Differs::Unfitting { call, wanted, found },
            },
            Ok(None) | Err(_) => Differs::Missing { call, wanted },
        };
        self.wrong.borrow_mut().get_or_insert(wrong);
        None
    }
}

impl Host for Answering<'_, '_> {
    fn has_hooks(&self) -> bool {
        self.ran.has_hooks
    }

    fn hook(&self, hook: HookId) -> Option<HookSort> {
        self.hooks.get(&hook)?.0
    }

    fn any_watches(&self) -> bool {
        self.ran.any_watches
    }

    fn takes(&self, hook: HookId) -> Option<&'static str> {
        self.hooks.get(&hook)?.1
    }

    fn hear(&mut self, hook: HookId, _: &Heard<'_>, orders: &mut Orders<'_>) {
        let heard = self.answer(Answer::HEARD, |answer| match answer {
            Answer::Heard(of, inputs) if inputs.is_empty() || of == hook => Ok(inputs),
            Answer::Heard(..) => Err("another hook that hears a fact"),
            other => Err(other.call()),
        });
        if let Some(inputs) = heard {
            // What it names is in it: it was read whole.
            _ = orders.repeat(&inputs);
        }
    }

    fn intercept(&mut self, _: &HitContext<'_>, terms: &mut Terms<'_>) -> Verdict {
        let answered = self.answer(Answer::VERDICT, |answer| match answer {
            Answer::Verdict(by, verdict, amendments, costs) => Ok((by, verdict, amendments, costs)),
            other => Err(other.call()),
        });
        let Some((by, verdict, amendments, costs)) = answered else { return Verdict::Proceed };
        answer_again(terms, by, amendments, costs);
        verdict
    }

    fn prevent_death(&mut self, _: &DeathAttempt<'_>) -> Option<(HookId, i64)> {
        self.answer(Answer::PREVENTS, |answer| match answer {
            Answer::PreventedDeath(answered) => Ok(answered),
            other => Err(other.call()),
        })?
    }

    fn may_prevent_death(&self, _: &DeathAttempt<'_>) -> Option<HookId> {
        self.answer(Answer::PREVENTS, |answer| match answer {
            Answer::MayPrevent(answered) => Ok(answered),
            other => Err(other.call()),
        })?
    }

    fn poses(&mut self, _: &PoseRequest<'_>, answer: &mut PoseAnswer<'_>) {
        let given = self.answer(Answer::POSES, |answer| match answer {
            Answer::Poses(given) => Ok(given),
            other => Err(other.call()),
        });
        if let Some(given) = given
            && let Some(frame) = given.frame
        {
            // It was taken once; a fight that differs is found by its checksum.
            _ = answer.give(frame, &given.start, &given.end);
        }
    }

    fn own_step(&mut self, _: OwnStepId, _: &StepCall<'_>) -> Option<Fixed> {
        self.answer(Answer::STEP, |answer| match answer {
            Answer::OwnStep(answered) => Ok(answered),
            other => Err(other.call()),
        })?
    }
}
