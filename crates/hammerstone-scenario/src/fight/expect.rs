//! What a scenario expects, and whether it came.

use std::fmt;
use std::ops::{Range, RangeInclusive};

use hammerstone::ids::CombatantId;
use hammerstone::{Encounter, Ruleset, TickError};
use hammerstone_record::{Line, Tick, fields_of};
use serde_json::Value;
use toml::Spanned;

use super::play::{Options, Play};
use super::scenario::Scenario;
use super::watched::{Watched, watched};
use crate::raw;
use hammerstone_rules::problem::Reading;
use hammerstone_rules::rules::Ids;

/// How much is expected.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Bound {
    Is(i64),
    AtLeast(i64),
    AtMost(i64),
    Between(i64, i64),
}

impl Bound {
    fn holds(self, found: i64) -> bool {
        match self {
            Bound::Is(wanted) => found == wanted,
            Bound::AtLeast(least) => found >= least,
            Bound::AtMost(most) => found <= most,
            Bound::Between(least, most) => (least..=most).contains(&found),
        }
    }
}

impl fmt::Display for Bound {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Bound::Is(wanted) => write!(f, "{wanted}"),
            Bound::AtLeast(least) => write!(f, "at least {least}"),
            Bound::AtMost(most) => write!(f, "at most {most}"),
            Bound::Between(least, most) => write!(f, "{least} to {most}"),
        }
    }
}

/// One field of a line and the values of which it must have one.
type With = (String, Vec<Value>);

/// One expectation of a scenario.
#[derive(Clone, Debug)]
pub(crate) enum Expectation {
    /// So many lines of the feed, or so much in one of their fields.
    Lines {
        topic: String,
        with: Vec<With>,
        during: RangeInclusive<u32>,
        sum: Option<String>,
        bound: Bound,
        text: String,
    },
    /// A number of the state when a tick is over, throughout a stretch of ticks, or when the fight is over.
    State {
        watched: Watched,
        of: Option<String>,
        during: Option<RangeInclusive<u32>>,
        bound: Bound,
        text: String,
    },
}

/// What became of one expectation.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Verdict {
    /// Whether it came as expected.
    pub holds: bool,
    /// What was expected.
    pub wanted: String,
    /// What was found instead, if it was something else.
    pub found: Option<String>,
    /// The last tick that it is about, counted on through resets; none where that is the end of the fight.
    pub until: Option<u32>,
}

impl fmt::Display for Verdict {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match &self.found {
            None => f.write_str(&self.wanted),
            Some(found) => write!(f, "{}; found {found}", self.wanted),
        }
    }
}

/// What became of all expectations of a fight.
#[derive(Clone, PartialEq, Debug)]
pub struct Tested {
    /// One for each expectation, in their order.
    pub verdicts: Vec<Verdict>,
    /// With what the fight ended; none if its time was up.
    pub outcome: Option<String>,
    /// How long it was, in seconds.
    pub seconds: f64,
}

/// How a fight ended after so many ticks.
pub(super) fn ended(encounter: &Encounter, clock: u32) -> (Option<String>, f64) {
    let rules = encounter.rules();
    let outcome = encounter.outcome().and_then(|outcome| rules.outcome_name(outcome));
    (outcome.map(str::to_owned), f64::from(clock) / f64::from(rules.rate()))
}

impl Scenario {
    /// Plays the scenario as its file says, and holds it against its expectations.
    pub fn test(&self) -> Result<Vec<Verdict>, TickError> {
        Ok(self.tested()?.verdicts)
    }

    /// As [`test`](Self::test), and how the fight ended.
    pub fn tested(&self) -> Result<Tested, TickError> {
        let mut found: Vec<Option<i64>> = vec![None; self.expectations.len()];
        let mut play = Play::new(self, Options::default());
        while play.tick()? {
            look(&self.expectations, &play.seen(), &|of| play.combatant(of), &mut found);
        }
        let (outcome, seconds) = ended(&play.encounter, play.clock);
        Ok(Tested { verdicts: verdicts(&self.expectations, found), outcome, seconds })
    }
}

pub(super) fn verdicts(expectations: &[Expectation], found: Vec<Option<i64>>) -> Vec<Verdict> {
    expectations.iter().zip(found).map(|(expectation, found)| expectation.verdict(found)).collect()
}

/// Takes in a tick that ran.
pub(super) fn look(
    expectations: &[Expectation],
    tick: &Tick<'_>,
    called: &dyn Fn(&str) -> Option<CombatantId>,
    found: &mut [Option<i64>],
) {
    let Tick { rules, names, ref facts, clock, .. } = *tick;
    let view = tick.view();
    for (expectation, found) in expectations.iter().zip(found) {
        match expectation {
            Expectation::State { watched, of, during, bound, .. } => {
                // What was otherwise stays found; at the end, the last that was.
                let broken = during.is_some() && found.is_some_and(|found| !bound.holds(found));
                let now = during.as_ref().is_none_or(|during| during.contains(&clock));
                if now && !broken {
                    let who = of.as_ref().and_then(|of| called(of));
                    *found = watched.value(&view, who);
                }
            }
            Expectation::Lines { topic, with, during, sum, .. } => {
                let found = found.get_or_insert(0);
                if !during.contains(&clock) {
                    continue;
                }
                for fact in facts.facts {
                    let path = rules.topics().path(fact.event.topic()).unwrap_or_default();
                    let below = path.strip_prefix(topic.as_str());
                    if !below.is_some_and(|rest| rest.is_empty() || rest.starts_with('.')) {
                        continue;
                    }
                    let line = Line { fact, facts, rules, names, before: 0 };
                    let Ok(Value::Object(line)) = serde_json::to_value(line) else { continue };
                    let matches =
                        |(field, values): &With| line.get(field).is_some_and(|v| values.contains(v));
                    if with.iter().all(matches) {
                        *found += match sum {
                            Some(field) => line.get(field).and_then(Value::as_i64).unwrap_or(0),
                            None => 1,
                        };
                    }
                }
            }
        }
    }
}

impl Expectation {
    fn verdict(&self, found: Option<i64>) -> Verdict {
        let until = match self {
            Expectation::Lines { during, .. } => Some(*during.end()).filter(|to| *to < u32::MAX),
            Expectation::State { during, .. } => during.as_ref().map(|during| *during.end()),
        };
        let (wanted, bound) = match self {
            Expectation::Lines { text, bound, .. } => (format!("{text}: {bound}"), *bound),
            Expectation::State { during, bound, text, .. } => {
                let when = match during.as_ref().map(|during| (during.start(), during.end())) {
                    None => "at the end".to_owned(),
                    Some((from, to)) if from == to => format!("after tick {to}"),
                    Some((from, to)) => format!("from tick {from} to {to}"),
                };
                (format!("{text} {when}: {bound}"), *bound)
            }
        };
        match found {
            Some(found) if bound.holds(found) => Verdict { holds: true, wanted, found: None, until },
            Some(found) => Verdict { holds: false, wanted, found: Some(found.to_string()), until },
            None => {
                let found = "the combatant was not there, or the fight was over".to_owned();
                Verdict { holds: false, wanted, found: Some(found), until }
            }
        }
    }
}

/// Resolves an expectation as it is written.
pub(crate) fn resolve(
    reading: &mut Reading<'_>,
    rules: &Ruleset,
    groups: &Ids<Range<usize>>,
    spanned: &Spanned<raw::Expect>,
    ticks: u32,
) -> Option<Expectation> {
    let raw = spanned.as_ref();
    let given = match (raw.up, raw.never) {
        (Some(up), false) => Some(i64::from(up)),
        (None, true) => Some(0),
        _ => raw.is,
    };
    let bound = match (given, raw.at_least, raw.at_most) {
        (Some(wanted), None, None) => Bound::Is(wanted),
        (None, Some(least), None) => Bound::AtLeast(least),
        (None, None, Some(most)) => Bound::AtMost(most),
        (None, Some(least), Some(most)) => Bound::Between(least, most),
        _ => {
            let fix =
                Some("give `is`, or `at-least`, `at-most` or both; `up` for a flag, or `never`".to_owned());
            reading.problem(spanned.span(), "here", "the expectation does not say how much".to_owned(), fix);
            return None;
        }
    };
    let watched = watched(reading, rules, groups, raw)?;
    if let (Some(_), Some(at)) = (&raw.topic, &raw.at) {
        let fix = Some("write `during = [\"0s\", \"4s\"]`".to_owned());
        let message = "facts are counted over a stretch of time".to_owned();
        reading.problem(at.span(), "here", message, fix);
        return None;
    }
    match (&raw.topic, watched) {
        (Some(topic), None) => lines(reading, rules, groups, raw, topic, ticks, bound),
        (None, Some((watched, of, text))) => {
            let rate = rules.rate();
            let during = match (&raw.during, &raw.at) {
                (Some([from, to]), _) => Some(reading.time(from, rate)?.max(1)..=reading.time(to, rate)?),
                (None, Some(at)) => Some(reading.time(at, rate).map(|at| at..=at)?),
                (None, None) => None,
            };
            Some(Expectation::State { watched, of, during, bound, text })
        }
        _ => {
            let fix = "give one of topic, health-of, lives-of, gauge, status, flag, counter, score, standing, waves, round";
            let message = "the expectation does not say of what".to_owned();
            reading.problem(spanned.span(), "here", message, Some(fix.to_owned()));
            None
        }
    }
}

fn lines(
    reading: &mut Reading<'_>,
    rules: &Ruleset,
    groups: &Ids<Range<usize>>,
    raw: &raw::Expect,
    topic: &raw::Name,
    ticks: u32,
    bound: Bound,
) -> Option<Expectation> {
    reading.find("topic", topic, rules.topics().family_paths().map(|path| (path, ())))?;
    let mut fields = fields_of(topic.as_ref());
    if let Some(family) = rules.topics().family(topic.as_ref()) {
        let hosts =
            rules.topics().members(family).iter().filter_map(|&topic| rules.topics().host_topic(topic));
        fields.extend(hosts.flat_map(|host| rules.host_fields(host)).map(|(name, _)| name));
    }
    let mut with = Vec::new();
    let mut text = topic.as_ref().clone();
    for (field, value) in &raw.with {
        reading.find(
            &format!("field of {}", topic.as_ref()),
            field,
            fields.iter().map(|&field| (field, ())),
        )?;
        text.push_str(&format!(", {} {}", field.as_ref(), value));
        let value = as_written(value);
        // The name of several stands for any of them.
        let several: Vec<Value> = groups
            .iter()
            .filter(|(name, range)| range.len() > 1 && name.as_str() == value)
            .flat_map(|(name, range)| (1..=range.len()).map(move |i| Value::from(format!("{name}#{i}"))))
            .collect();
        with.push((field.as_ref().clone(), if several.is_empty() { vec![value] } else { several }));
    }
    let sum = match &raw.sum {
        Some(field) => {
            reading.find(
                &format!("field of {}", topic.as_ref()),
                field,
                fields.iter().map(|&field| (field, ())),
            )?;
            text = format!("sum of {} over {text}", field.as_ref());
            Some(field.as_ref().clone())
        }
        None => None,
    };
    let during = match &raw.during {
        Some([from, to]) => reading.time(from, rules.rate())? + 1..=reading.time(to, rules.rate())?,
        None => 1..=ticks,
    };
    Some(Expectation::Lines { topic: topic.as_ref().clone(), with, during, sum, bound, text })
}

/// A value as lines of the feed have it.
fn as_written(value: &raw::Value) -> Value {
    match value {
        raw::Value::Truth(truth) => (*truth).into(),
        raw::Value::Whole(number) => (*number).into(),
        raw::Value::Real(number) => (*number).into(),
        raw::Value::Text(text) => text.as_str().into(),
        raw::Value::List(values) => values.iter().map(as_written).collect(),
        raw::Value::Table(fields) => {
            fields.iter().map(|(name, value)| (name.as_ref().clone(), as_written(value))).collect()
        }
    }
}
