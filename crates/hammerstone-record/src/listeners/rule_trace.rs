//! What a rule heard in a run, and why it did not fire where it did not.

use crate::{Record, Tick};
use hammerstone::event::Listener;
use hammerstone::flow::{Condition, Group, Held, Limit};
use hammerstone::ids::RuleId;
use hammerstone::{Fixed, Ruleset};
use serde::Serialize;

use crate::feed::Short;
use crate::feed::{begins, sentence};

/// A fact that a rule listens to, and what came of it.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Hearing {
    /// The tick.
    pub tick: u32,
    /// When it begins, in seconds.
    pub time: f64,
    /// The fact.
    pub seq: u64,
    /// What it says, or its topic.
    pub fact: String,
    /// Whether the rule fired.
    pub fired: bool,
    /// If it did not: what it wanted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wanted: Option<String>,
    /// And what it found, where that is a number.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub found: Option<String>,
}

/// Gathers what one rule hears. Facts must come with their deliveries ([`keep_deliveries`](hammerstone::Encounter::keep_deliveries)).
#[derive(Clone, Debug)]
pub struct RuleTrace {
    rule: RuleId,
    all: Vec<Hearing>,
}

impl RuleTrace {
    /// Of a rule.
    pub fn new(rule: RuleId) -> RuleTrace {
        RuleTrace { rule, all: Vec::new() }
    }

    /// Everything that it heard, in order.
    pub fn all(&self) -> &[Hearing] {
        &self.all
    }
}

impl Record for RuleTrace {
    fn observe(&mut self, tick: &Tick<'_>) {
        let (facts, rules) = (&tick.facts, tick.rules);
        let rule = &rules.rules()[self.rule.index()];
        let first = self.all.len();
        let new = |seq: u64| {
            let fact = facts.of(seq)?;
            let told = sentence(&tick.line(fact));
            let fact = told.map_or(
                rules.topics().path(fact.event.topic()).unwrap_or_default().to_owned(),
                |(.., text)| text,
            );
            let time = begins(facts.tick, rules);
            Some(Hearing { tick: facts.tick, time, seq, fact, fired: true, wanted: None, found: None })
        };
        let heard = facts.deliveries.iter().filter(|delivery| delivery.listener == Listener::Rule(self.rule));
        self.all.extend(heard.filter_map(|delivery| new(delivery.seq)));
        for declined in facts.declined.iter().filter(|declined| declined.rule == self.rule) {
            let condition = declined.condition.and_then(|place| rule.conditions().get(usize::from(place)));
            let wanted = match (condition, rule.limit_of()) {
                (Some(condition), _) => wanted(condition, rules),
                (None, Limit::Once) => "to fire once only".to_owned(),
                (None, Limit::PerRound) => "to fire once a round".to_owned(),
                (None, _) => "to fire once a life of the subject".to_owned(),
            };
            let found = declined.found.map(|found| match condition {
                Some(Condition::Flag(..)) => if found > Fixed::ZERO { "up" } else { "down" }.to_owned(),
                _ => Short(found).to_string(),
            });
            self.all.extend(new(declined.seq).map(|hearing| Hearing {
                fired: false,
                wanted: Some(wanted),
                found,
                ..hearing
            }));
        }
        self.all[first..].sort_by_key(|hearing| hearing.seq);
    }
}

/// A condition in words.
fn wanted(condition: &Condition, rules: &Ruleset) -> String {
    let between = |least: String, most: String, open: bool| match (least == most, open) {
        (true, _) => least,
        (false, true) => format!("at least {least}"),
        (false, false) => format!("{least} to {most}"),
    };
    let range = |least: i64, most: i64, top: i64| match (least, most) {
        (i64::MIN, most) => format!("at most {most}"),
        (least, most) => between(least.to_string(), most.to_string(), most >= top),
    };
    match *condition {
        Condition::Subject(ref of) => format!("about {}", group(of, rules)),
        Condition::Other(ref of) => format!("by {}", group(of, rules)),
        Condition::Health(least, most) => {
            let share = between(Short(least).to_string(), Short(most).to_string(), most >= Fixed::ONE);
            format!("a share of health of {share}")
        }
        Condition::Threshold(threshold) => {
            format!("the threshold {}", rules.threshold_name(threshold).unwrap_or_default())
        }
        Condition::Downwards(true) => "crossed downwards".to_owned(),
        Condition::Downwards(false) => "crossed upwards".to_owned(),
        Condition::Status(status) => format!("the status {}", rules.status_name(status).unwrap_or_default()),
        Condition::Attack(attack) => format!("the attack {}", rules.attack_name(attack).unwrap_or_default()),
        Condition::Flag(flag, up) => {
            format!("flag {} {}", rules.flag_name(flag).unwrap_or_default(), if up { "up" } else { "down" })
        }
        Condition::Counter(counter, least, most) => {
            format!(
                "counter {} {}",
                rules.counter_name(counter).unwrap_or_default(),
                range(least, most, i64::MAX)
            )
        }
        Condition::Score(score, least, most) => {
            format!("score {} {}", rules.score_name(score).unwrap_or_default(), range(least, most, i64::MAX))
        }
        Condition::Time(least, most) => {
            format!("tick {}", range(least.into(), most.into(), u32::MAX.into()))
        }
        Condition::Round(least, most) => {
            format!("round {}", range(least.into(), most.into(), u32::MAX.into()))
        }
        Condition::Alive(ref of, least, most) => {
            let count = range(least.into(), most.into(), u32::MAX.into());
            format!("{count} standing of {}", group(of, rules))
        }
        Condition::Field(name, held) => {
            let word = |id| rules.word(id).unwrap_or_default();
            let held = match held {
                Held::Between(least, most) if most == Fixed::MAX => format!("at least {}", Short(least)),
                Held::Between(least, most) if least == Fixed::MIN => format!("at most {}", Short(most)),
                Held::Between(least, most) if least == most => Short(least).to_string(),
                Held::Between(least, most) => format!("{} to {}", Short(least), Short(most)),
                Held::Truth(truth) => truth.to_string(),
                Held::Word(id) => word(id).to_owned(),
            };
            format!("`{}` {held}", word(name))
        }
        Condition::WavesOver(waves) => {
            let times = rules.waves()[waves.index()].times_of();
            format!("all {times} waves of {}", rules.waves_name(waves).unwrap_or_default())
        }
    }
}

fn group(of: &Group, rules: &Ruleset) -> String {
    let mut words = Vec::new();
    words.extend(of.template.map(|template| rules.template_name(template).unwrap_or_default().to_owned()));
    words.extend(of.team.map(|team| format!("the {}", rules.team_name(team).unwrap_or_default())));
    let tags: Vec<&str> = rules.tags_in(of.tags).map(|tag| rules.tag_name(tag).unwrap_or_default()).collect();
    if !tags.is_empty() {
        words.push(format!("those with {}", tags.join(" and ")));
    }
    if words.is_empty() { "anyone".to_owned() } else { words.join(", ") }
}
