//! What a scenario expects, and whether it came.

use std::fmt;
use std::ops::{Range, RangeInclusive};

use hammerstone::ids::GaugeId;
use hammerstone::{Ruleset, TickError};
use hammerstone_record::{Line, fields_of};
use serde_json::Value;
use toml::Spanned;

use super::play::{Options, Play};
use super::scenario::Scenario;
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
    /// Health of a combatant, or another gauge, when a tick is over.
    Health { of: String, gauge: Option<GaugeId>, at: u32, bound: Bound, text: String },
}

/// What became of one expectation.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Verdict {
    /// Whether it came as expected.
    pub holds: bool,
    /// What was expected, and what was seen instead if that was something else.
    pub text: String,
}

impl Scenario {
    /// Plays the scenario as its file says, and holds it against its expectations.
    pub fn test(&self) -> Result<Vec<Verdict>, TickError> {
        let mut found: Vec<Option<i64>> = vec![None; self.expectations.len()];
        let mut play = Play::new(self, Options::default());
        while play.tick()? {
            self.look(&play, &mut found);
        }
        Ok(self
            .expectations
            .iter()
            .zip(found)
            .map(|(expectation, found)| expectation.verdict(found))
            .collect())
    }

    fn look(&self, play: &Play<'_>, found: &mut [Option<i64>]) {
        let rules: &Ruleset = &self.rules.ruleset;
        let (facts, view) = (play.encounter.facts(), play.encounter.view());
        for (expectation, found) in self.expectations.iter().zip(found) {
            match expectation {
                Expectation::Health { of, gauge, at, .. } => {
                    if *at == play.clock {
                        let held = play.combatant(of).and_then(|who| match gauge {
                            None => view.health(who),
                            Some(gauge) => view.gauge(who, *gauge),
                        });
                        *found = held.map(|(points, _)| points);
                    }
                }
                Expectation::Lines { topic, with, during, sum, .. } => {
                    let found = found.get_or_insert(0);
                    if !during.contains(&play.clock) {
                        continue;
                    }
                    for fact in facts.facts {
                        let path = rules.topics().path(fact.event.topic()).unwrap_or_default();
                        let below = path.strip_prefix(topic.as_str());
                        if !below.is_some_and(|rest| rest.is_empty() || rest.starts_with('.')) {
                            continue;
                        }
                        let line = Line { fact, facts: &facts, rules, names: &play.run.names };
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
}

impl Expectation {
    fn verdict(&self, found: Option<i64>) -> Verdict {
        let (wanted, bound) = match self {
            Expectation::Lines { text, bound, .. } => (format!("{text}: {bound}"), *bound),
            Expectation::Health { of, at, bound, text, .. } => {
                (format!("{text} of {of} after tick {at}: {bound}"), *bound)
            }
        };
        match found {
            Some(found) if bound.holds(found) => Verdict { holds: true, text: wanted },
            Some(found) => Verdict { holds: false, text: format!("{wanted}; seen {found}") },
            None => Verdict {
                holds: false,
                text: format!("{wanted}; the combatant was not there, or the fight was over"),
            },
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
    let bound = match (raw.is, raw.at_least, raw.at_most) {
        (Some(wanted), None, None) => Bound::Is(wanted),
        (None, Some(least), None) => Bound::AtLeast(least),
        (None, None, Some(most)) => Bound::AtMost(most),
        (None, Some(least), Some(most)) => Bound::Between(least, most),
        _ => {
            let fix = Some("give `is`, or `at-least`, `at-most` or both".to_owned());
            reading.problem(spanned.span(), "here", "the expectation does not say how much".to_owned(), fix);
            return None;
        }
    };
    let gauge = match &raw.gauge {
        None => None,
        Some(name) => {
            let known = rules.gauges().map(|id| (rules.gauge_name(id).unwrap_or_default(), id));
            Some((reading.find("gauge", name, known)?, name.as_ref().clone()))
        }
    };
    let (of, gauge, text) = match (&raw.health_of, gauge, &raw.of) {
        (of, None, None) => (of, None, "health".to_owned()),
        (None, Some((gauge, name)), Some(of)) => (&Some(of.clone()), Some(gauge), name),
        _ => {
            let fix = Some("write `gauge = \"poise\"` with `of = \"mason\"`".to_owned());
            let message = "a gauge is expected of one combatant".to_owned();
            reading.problem(spanned.span(), "here", message, fix);
            return None;
        }
    };
    match (&raw.topic, of) {
        (Some(topic), None) => lines(reading, rules, groups, raw, topic, ticks, bound),
        (None, Some(name)) => {
            let of = reading.find_id("combatant", name, groups)?;
            if of.len() > 1 {
                let fix = Some(format!("name one of them, such as `{}#1`", name.as_ref()));
                reading.problem(
                    name.span(),
                    "several",
                    format!("`{}` stands for {}", name.as_ref(), of.len()),
                    fix,
                );
            }
            let at = raw.at.as_ref().map_or(Some(ticks), |at| reading.time(at, rules.rate()))?;
            Some(Expectation::Health { of: name.as_ref().clone(), gauge, at, bound, text })
        }
        _ => {
            let fix = Some("give one of `topic`, `health-of`, and `gauge` with `of`".to_owned());
            reading.problem(spanned.span(), "here", "the expectation does not say of what".to_owned(), fix);
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
