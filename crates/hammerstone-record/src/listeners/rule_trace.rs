//! What a rule heard in a run, and why it did not fire where it did not.

use hammerstone::event::{Fact, Listener, Loss, NotFired};
use hammerstone::flow::{
    Condition, Crossings, Group, Held, Limit, Party, Portion, Question, Reading, SwingPhase,
};
use hammerstone::ids::RuleId;
use hammerstone::{Fixed, Ruleset};
use serde::Serialize;

use crate::feed::Short;
use crate::feed::sentence;
use crate::{Record, Tick};

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
    /// If it did not: what decided it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub lost: Vec<Lost>,
}

/// What a rule wanted and did not have.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Lost {
    /// What it wanted.
    pub wanted: String,
    /// What it found, where that is a number.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub found: Option<String>,
}

/// Gathers what one rule hears. Facts must come with their deliveries ([`keep_deliveries`](hammerstone::Encounter::keep_deliveries)).
#[derive(Clone, Debug)]
pub struct RuleTrace {
    rule: RuleId,
    all: Vec<Hearing>,
    /// How many facts there were of each topic.
    came: Vec<u64>,
}

impl RuleTrace {
    /// Of a rule.
    pub fn new(rule: RuleId) -> RuleTrace {
        RuleTrace { rule, all: Vec::new(), came: Vec::new() }
    }

    /// Everything that it heard, in order.
    pub fn all(&self) -> &[Hearing] {
        &self.all
    }

    /// How many facts there were of each topic that the rule waits for, by path.
    pub fn topics<'a>(&self, rules: &'a Ruleset) -> Vec<(&'a str, u64)> {
        let heard = rules.topics_of(&rules.rules()[self.rule.index()]);
        let path = |topic| rules.topics().path(topic).unwrap_or_default();
        heard
            .into_iter()
            .map(|topic| (path(topic), self.came.get(topic.index()).copied().unwrap_or(0)))
            .collect()
    }

    /// Topics of the same first word that came, although the rule does not wait for them.
    pub fn near<'a>(&self, rules: &'a Ruleset) -> Vec<(&'a str, u64)> {
        let first = |path: &'a str| path.split('.').next().unwrap_or_default();
        let waits = self.topics(rules);
        let paths = rules.topics().paths().iter().map(String::as_str).zip(self.came.iter().copied());
        let near = paths.filter(|(path, came)| {
            let related = waits.iter().any(|(wanted, _)| first(wanted) == first(path));
            *came > 0 && related && !waits.iter().any(|(wanted, _)| wanted == path)
        });
        near.collect()
    }
}

impl Record for RuleTrace {
    fn observe(&mut self, tick: &Tick<'_>) {
        let (facts, rules) = (&tick.facts, tick.rules);
        self.came.resize(rules.topics().count(), 0);
        for event in facts.events() {
            self.came[event.topic().index()] += 1;
        }
        let rule = &rules.rules()[self.rule.index()];
        let first = self.all.len();
        let new = |seq: u64| {
            let fact = facts.of(seq)?;
            let told = sentence(&tick.line(fact));
            let fact = told.map_or(
                rules.topics().path(fact.event.topic()).unwrap_or_default().to_owned(),
                |(.., text)| text,
            );
            let time = tick.begins();
            Some(Hearing { tick: facts.tick, time, seq, fact, fired: true, lost: Vec::new() })
        };
        let heard = facts.deliveries.iter().filter(|delivery| delivery.listener == Listener::Rule(self.rule));
        self.all.extend(heard.filter_map(|delivery| new(delivery.seq)));
        let conditions = rule.all_conditions();
        for declined in facts.declined.iter().filter(|declined| declined.rule == self.rule) {
            let Some(fact) = facts.of(declined.seq) else { continue };
            let parties = [fact.event.subject(), fact.event.other()];
            let parties = parties.map(|who| who.map_or("no one", |who| tick.names.of(who)));
            let words = Words { rules, parties };
            let only = |wanted: String| vec![Lost { wanted, found: None }];
            let lost = match declined.why {
                NotFired::Conditions => {
                    let losses = facts.losses_of(declined).iter();
                    losses
                        .map(|loss| {
                            let condition = conditions[usize::from(loss.condition)];
                            let mut lost = words.lost(condition, loss);
                            lost.found = lost.found.or_else(|| words.of_fact(condition, fact, tick));
                            lost
                        })
                        .collect()
                }
                NotFired::EarlierCase(case) => {
                    only(format!("no earlier case to fit; {} did", rules.rule_name(case).unwrap_or_default()))
                }
                NotFired::Limit => only(match rule.limit_of() {
                    Limit::Once => "to fire once only".to_owned(),
                    Limit::PerRound => "to fire once a round".to_owned(),
                    _ => "to fire once a life of the subject".to_owned(),
                }),
            };
            self.all.extend(new(declined.seq).map(|hearing| Hearing { fired: false, lost, ..hearing }));
        }
        self.all[first..].sort_by_key(|hearing| hearing.seq);
    }
}

/// Why conditions that were asked of two parties do not hold, in words: from what [`losses`](hammerstone::Encounter::losses) says.
pub fn why_not(rules: &Ruleset, question: &Question, losses: &[Loss], parties: [&str; 2]) -> Vec<Lost> {
    let conditions: Vec<&Condition> = question.conditions().iter().flat_map(Condition::with_inner).collect();
    let words = Words { rules, parties };
    let lost = |loss: &Loss| conditions.get(usize::from(loss.condition)).map(|of| words.lost(of, loss));
    losses.iter().filter_map(lost).collect()
}

/// Conditions in words.
struct Words<'a> {
    rules: &'a Ruleset,
    /// The names of subject and other party.
    parties: [&'a str; 2],
}

impl Words<'_> {
    fn lost(&self, condition: &Condition, loss: &Loss) -> Lost {
        let wanted = self.wanted(condition);
        let wanted = if loss.wanted { wanted } else { format!("not: {wanted}") };
        let number = |found: Fixed| match condition {
            Condition::Flag(..) | Condition::CombatantFlag(..) => {
                if found > Fixed::ZERO { "up" } else { "down" }.to_owned()
            }
            Condition::Since(..) => format!("{} ticks", Short(found)),
            _ => Short(found).to_string(),
        };
        let found = match loss.found {
            [Some(left), Some(right)] => Some(format!("{} and {}", number(left), number(right))),
            [Some(one), None] => Some(number(one)),
            [None, Some(right)] => Some(format!("nothing to read, and {}", number(right))),
            [None, None] => None,
        };
        Lost { wanted, found }
    }

    /// What a condition found that asks for no number: a party, or a word of the fact.
    fn of_fact(&self, condition: &Condition, fact: &Fact, tick: &Tick<'_>) -> Option<String> {
        let rules = self.rules;
        match *condition {
            Condition::Is(party, _) => Some(self.party(party).to_owned()),
            Condition::Attack(_) => {
                Some(fact.event.attack().and_then(|id| rules.attack_name(id)).unwrap_or("none").to_owned())
            }
            Condition::Status(_) => {
                Some(fact.event.status().and_then(|id| rules.status_name(id)).unwrap_or("none").to_owned())
            }
            Condition::Field(word, Held::Word(_)) => {
                let line = serde_json::to_value(tick.line(fact)).ok()?;
                let found = line.get(rules.word(word)?);
                Some(found.and_then(|found| found.as_str()).unwrap_or("none").to_owned())
            }
            _ => None,
        }
    }

    fn party(&self, party: Party) -> &str {
        self.parties[party as usize]
    }

    /// A reading with the name of the one of whom it is.
    fn reading(&self, reading: Reading) -> String {
        let rules = self.rules;
        match reading {
            Reading::Field(word) => format!("`{}`", rules.word(word).unwrap_or_default()),
            Reading::Health(party, Portion::Points) => format!("health of {}", self.party(party)),
            Reading::Health(party, Portion::Share) => format!("the share of health of {}", self.party(party)),
            Reading::Health(party, Portion::Maximum) => {
                format!("the maximum of health of {}", self.party(party))
            }
            Reading::Gauge(party, gauge, portion) => {
                let name = rules.gauge_name(gauge).unwrap_or_default();
                let of = self.party(party);
                match portion {
                    Portion::Points => format!("{name} of {of}"),
                    Portion::Share => format!("the share of {name} of {of}"),
                    Portion::Maximum => format!("the maximum of {name} of {of}"),
                }
            }
            Reading::Stat(party, stat) => {
                format!("{} of {}", rules.stat_name(stat).unwrap_or_default(), self.party(party))
            }
            Reading::Counter(counter) => {
                format!("counter {}", rules.counter_name(counter).unwrap_or_default())
            }
            Reading::CombatantCounter(party, counter) => {
                let name = rules.combatant_counter_name(counter).unwrap_or_default();
                format!("counter {name} of {}", self.party(party))
            }
            Reading::Score(score) => format!("score {}", rules.score_name(score).unwrap_or_default()),
            Reading::Distance => format!("the metres between {} and {}", self.parties[0], self.parties[1]),
        }
    }

    /// A condition.
    fn wanted(&self, condition: &Condition) -> String {
        let rules = self.rules;
        let range =
            |least: i64, most: i64, top: i64| between(Fixed::whole(least), Fixed::whole(most), most >= top);
        let top = i64::from(u32::MAX);
        match *condition {
            // Of these only what lies in them is lost.
            Condition::All(_) | Condition::Any(_) | Condition::Not(_) => condition.name().to_owned(),
            Condition::Is(Party::Subject, ref of) => format!("about {}", group(of, rules)),
            Condition::Is(Party::Other, ref of) => format!("by {}", group(of, rules)),
            Condition::Between(reading, least, most) => {
                let share = matches!(reading, Reading::Health(_, Portion::Share)) && most >= Fixed::ONE;
                format!("{} {}", self.reading(reading), between(least, most, share))
            }
            Condition::Compare(left, how, right) => {
                let how = match how.name() {
                    "is" => "equal to".to_owned(),
                    name => name.replace('-', " "),
                };
                format!("{} {how} {}", self.reading(left), self.reading(right))
            }
            Condition::CombatantFlag(party, flag, up) => {
                let name = rules.combatant_flag_name(flag).unwrap_or_default();
                format!("flag {name} of {} {}", self.party(party), if up { "up" } else { "down" })
            }
            Condition::Phase(party, SwingPhase::Idle) => format!("no swing of {}", self.party(party)),
            Condition::Phase(party, phase) => {
                format!("a swing of {} at its phase `{}`", self.party(party), phase.name())
            }
            Condition::Sight(clear) => {
                let clear = if clear { "a clear line" } else { "something solid" };
                format!("{clear} between {} and {}", self.parties[0], self.parties[1])
            }
            Condition::Threshold(threshold) => {
                format!("the threshold {}", rules.threshold_name(threshold).unwrap_or_default())
            }
            Condition::Downwards(true) => "crossed downwards".to_owned(),
            Condition::Downwards(false) => "crossed upwards".to_owned(),
            Condition::Crossed(at, how) => {
                let how = match how {
                    Crossings::Up => "upwards",
                    Crossings::Down => "downwards",
                    Crossings::Both => "in either direction",
                };
                format!("{} crossed {how}", Short(at))
            }
            Condition::Status(status) => {
                format!("the status {}", rules.status_name(status).unwrap_or_default())
            }
            Condition::Attack(attack) => {
                format!("the attack {}", rules.attack_name(attack).unwrap_or_default())
            }
            Condition::Flag(flag, up) => {
                let name = rules.flag_name(flag).unwrap_or_default();
                format!("flag {name} {}", if up { "up" } else { "down" })
            }
            Condition::Time(least, most) => format!("tick {}", range(least.into(), most.into(), top)),
            Condition::Round(least, most) => format!("round {}", range(least.into(), most.into(), top)),
            Condition::Alive(ref of, least, most) => {
                let count = range(least.into(), most.into(), top);
                format!("{count} standing of {}", group(of, rules))
            }
            Condition::OutOfLives(ref of) => {
                format!("none of {} standing or coming back", group(of, rules))
            }
            Condition::Since(path, least, most) => {
                let ticks = range(least.into(), most.into(), top);
                format!("{ticks} ticks since `{}`", rules.word(path).unwrap_or_default())
            }
            Condition::Field(name, held) => {
                let word = |id| rules.word(id).unwrap_or_default();
                let held = match held {
                    Held::Between(least, most) => between(least, most, most == Fixed::MAX),
                    Held::Truth(truth) => truth.to_string(),
                    Held::Word(id) => word(id).to_owned(),
                };
                format!("`{}` {held}", word(name))
            }
            Condition::Chance(chance) => format!("luck, at a chance of {}", Short(chance)),
            Condition::WavesOver(waves) => {
                let times = rules.waves()[waves.index()].times_of();
                let times = times.map_or("endless".to_owned(), |times| times.to_string());
                format!("all {times} waves of {}", rules.waves_name(waves).unwrap_or_default())
            }
        }
    }
}

/// A range in words; one that is open has no end that matters.
fn between(least: Fixed, most: Fixed, open: bool) -> String {
    // What is written without an end stands at the limit of what can be held.
    let (bottom, top) = (Fixed::whole(i64::MIN), Fixed::whole(i64::MAX));
    match (least == most, least <= bottom, open || most >= top) {
        (true, ..) => Short(least).to_string(),
        (_, true, _) => format!("at most {}", Short(most)),
        (_, _, true) => format!("at least {}", Short(least)),
        _ => format!("{} to {}", Short(least), Short(most)),
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
