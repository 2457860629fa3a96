//! A log, and what is expected of it: what is left of a fight in which something went wrong.

use std::ops::Range;

use hammerstone::hooks::Hooks;
use hammerstone::ids::CombatantId;
use hammerstone_record::{Log, LogError, Names, Replay, ReplayError, Run};

use super::expect::{self, Expectation, Tested, Verdict};
use super::vary::table_has;
use crate::raw;
use hammerstone_rules::problem::{Reading, Unusable};
use hammerstone_rules::rules::Ids;

/// The longest that expectations without a time look, in ticks.
const ALL: u32 = u32::MAX - 1;

/// A scenario with a log as its fight: it is run again, and held against what the file expects.
#[derive(Clone, Debug)]
pub struct Case {
    /// The file's name.
    pub file: String,
    /// Its title.
    pub title: String,
    /// The log.
    pub log: Log,
    expectations: Vec<Expectation>,
    /// Who is in it, by name.
    who: Vec<(String, CombatantId)>,
}

impl Case {
    /// Whether a text is such a scenario: one that names a log. What is wrong with the text is no matter here.
    pub fn is_one(text: &str) -> bool {
        table_has(text, "scenario", "log")
    }

    /// Reads one. `file` is its name, for messages; `open` gives the bytes of the log that it names, relative to itself, or says why it cannot.
    ///
    /// *Errors:* everything that is wrong with it, each with its place; a log that cannot be read or does not run again.
    pub fn read(
        file: &str,
        text: &str,
        open: &dyn Fn(&str) -> Result<Vec<u8>, String>,
    ) -> Result<Case, Box<Unusable>> {
        let (raw, mut reading): (raw::CaseFile, _) = Reading::new(file, text).parse()?;
        let name = &raw.scenario.log;
        let read = |bytes| Log::read(bytes).map_err(|error: LogError| error.to_string());
        let played = |log: Log| who(&log).map(|who| (log, who)).map_err(|error| error.to_string());
        let (log, who) = match open(name.as_ref()).and_then(read).and_then(played) {
            Ok(found) => found,
            Err(why) => {
                let message = format!("the log `{}` cannot be run: {why}", name.as_ref());
                let fix = "name a log, relative to this file".to_owned();
                reading.problem(name.span(), "this file", message, Some(fix));
                return Err(reading.unusable());
            }
        };
        let mut groups: Ids<Range<usize>> = Ids::default();
        for (place, (name, _)) in who.iter().enumerate() {
            groups.push((name.clone(), place..place + 1));
        }
        let mut expectations = Vec::new();
        for expectation in &raw.expect {
            expectations.extend(expect::resolve(&mut reading, log.rules(), &groups, expectation, ALL));
        }
        let (file, title) = (file.to_owned(), raw.scenario.title.clone());
        reading.done(Some(Case { file, title, log, expectations, who }))
    }

    /// Runs the log again, and holds it against the expectations.
    pub fn test(&self) -> Result<Vec<Verdict>, ReplayError> {
        Ok(self.tested()?.verdicts)
    }

    /// As [`test`](Self::test), and how the fight ended.
    pub fn tested(&self) -> Result<Tested, ReplayError> {
        self.test_by(|replay, names| replay.tick_named(names).map(|ran| ran.is_some()))
    }

    /// As [`test`](Self::test), with the game's own code in place of what it answered then: for code that was mended.
    pub fn test_with<W>(&self, hooks: &Hooks<W>, world: &mut W) -> Result<Vec<Verdict>, ReplayError> {
        let tested = self
            .test_by(|replay, names| replay.tick_for(names, &mut hooks.with(world)).map(|ran| ran.is_some()));
        Ok(tested?.verdicts)
    }

    fn test_by(
        &self,
        mut tick: impl FnMut(&mut Replay<'_>, &mut Names) -> Result<bool, ReplayError>,
    ) -> Result<Tested, ReplayError> {
        let mut clock = 0;
        let mut found: Vec<Option<i64>> = vec![None; self.expectations.len()];
        let called = |of: &str| self.who.iter().find(|(name, _)| name == of).map(|(_, who)| *who);
        let (mut replay, mut run) = (Replay::of_branch(&self.log), Run::new());
        while tick(&mut replay, &mut run.names)? {
            let seen = run.observe(replay.fight());
            clock = seen.clock;
            expect::look(&self.expectations, &seen, &called, &mut found);
        }
        let (outcome, seconds) = expect::ended(replay.fight(), clock);
        Ok(Tested { verdicts: expect::verdicts(&self.expectations, found), outcome, seconds })
    }
}

/// Who is in a log, by name.
fn who(log: &Log) -> Result<Vec<(String, CombatantId)>, ReplayError> {
    let (mut replay, mut run) = (Replay::of_branch(log), Run::new());
    let mut all: Vec<CombatantId> = log.start().view().combatants().collect();
    while replay.tick_named(&mut run.names)?.is_some() {
        run.observe(replay.fight());
        all.extend(replay.fight().view().combatants());
        all.sort_unstable();
        all.dedup();
    }
    let names: &Names = &run.names;
    Ok(all.into_iter().map(|who| (names.of(who).to_owned(), who)).collect())
}
