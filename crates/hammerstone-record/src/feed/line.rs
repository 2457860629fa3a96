//! One fact as one line of the feed.

use hammerstone::attack::{Policy, Sharing};
use hammerstone::event::{Fact, Facts, HostValue, LedgerLine, Link, Note};
use hammerstone::event::{FieldInfo, FieldValue, HitLanded, Payload, Tag};
use hammerstone::flow::Audience;
use hammerstone::geometry::Pose;
use hammerstone::ids::{AttackId, ValueId};
use hammerstone::{Counts, Ruleset};
use serde::ser::{Serialize, SerializeMap, Serializer};

use super::words;
use crate::Names;
use crate::feed::{BarredByText, NoteText, OperandText, cause_name, step_name, via_name};

/// A fact with all that is needed to write it: serialises as one object of the feed.
#[derive(Clone, Copy, Debug)]
pub struct Line<'a> {
    /// The fact.
    pub fact: &'a Fact,
    /// The facts that it stands among.
    pub facts: &'a Facts<'a>,
    /// The rules, for names.
    pub rules: &'a Ruleset,
    /// The names of combatants.
    pub names: &'a Names,
    /// How many ticks ran before the last reset: times in sentences count on from there.
    pub before: u32,
}

impl Serialize for Line<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("tick", &self.facts.tick)?;
        map.serialize_entry("seq", &self.fact.seq)?;
        map.serialize_entry("topic", self.rules.topics().path(self.fact.event.topic()).unwrap_or_default())?;
        if let Some(cause) = self.fact.cause {
            map.serialize_entry("cause", &cause)?;
        }
        if self.facts.epoch > 0 {
            map.serialize_entry("epoch", &self.facts.epoch)?;
        }
        if self.fact.pass > 0 {
            map.serialize_entry("pass", &self.fact.pass)?;
        }
        let mut fields = Fields { line: self, map: &mut map };
        let mut result = Ok(());
        self.fact.event.visit(|info, value| {
            if result.is_ok() {
                result = fields.field(info, value);
            }
        });
        result?;
        map.end()
    }
}

/// Writes the fields of an event, by their names in the feed.
struct Fields<'a, M> {
    line: &'a Line<'a>,
    map: &'a mut M,
}

impl<M: SerializeMap> Fields<'_, M> {
    fn field(&mut self, info: &FieldInfo, value: FieldValue) -> Result<(), M::Error> {
        if info.is(Tag::Unwritten) || info.is(Tag::DamageType) || self.is_left_out(info) {
            return Ok(());
        }
        let Line { facts, rules, names, .. } = *self.line;
        let key = info.key;
        match value {
            FieldValue::Truth(false) if info.is(Tag::WhenTrue) => Ok(()),
            FieldValue::Truth(truth) => self.put(key, &truth),
            FieldValue::Number(number) => self.put(key, &number),
            FieldValue::Whole(whole) => self.put(key, &whole),
            FieldValue::Exact(exact) => self.put(key, &Text(exact)),
            FieldValue::Share(share) => self.put(key, &share),
            FieldValue::Vector(vector) => self.put(key, &vector),
            FieldValue::Pose(Pose { at, turn }) => {
                self.put("at", &at)?;
                self.put("turn", &turn)
            }
            FieldValue::Word(word) => self.put(key, word),
            FieldValue::Spoken(spoken) => {
                self.put(key, &words::spoken(&spoken, rules, names))?;
                let Some(line) = rules.line(spoken.line) else { return Ok(()) };
                if let Audience::Team(team) = line.audience() {
                    self.put("team", rules.team_name(team).unwrap_or_default())?;
                }
                line.duration().map_or(Ok(()), |ticks| self.put("lasts", &ticks))?;
                let category = line.category_of().and_then(|word| rules.word(word));
                category.map_or(Ok(()), |category| self.put("category", category))
            }
            FieldValue::Obstacle(obstacle) => self.put(key, &names.of_obstacle(obstacle)),
            FieldValue::InLevel(place) => {
                self.put(key, &names.of_shape(place))?;
                place.triangle.map_or(Ok(()), |triangle| self.put("triangle", &triangle))
            }
            FieldValue::Swing(swing) => self.put(key, &swing.number()),
            FieldValue::Contact(contact) => self.put(key, &contact.number()),
            FieldValue::Application(application) => self.put(key, &application.number()),
            FieldValue::Refusal(why) => {
                self.put(key, &words::refusal(why.timeless(), rules))?;
                why.ticks().map_or(Ok(()), |ticks| self.put("ticks", &ticks))
            }
            FieldValue::Operand(operand) => self.put(key, &Text(OperandText(operand, rules, names))),
            FieldValue::BarredBy(why) => self.put(key, &Text(BarredByText(why, rules))),
            FieldValue::Part(part) => {
                let part = self.line.fact.event.subject().and_then(|who| names.part(rules, who, part));
                part.map_or(Ok(()), |part| self.put(key, part))
            }
            FieldValue::Tags(tags) => {
                let tags: Vec<&str> =
                    rules.tags_in(tags).map(|tag| rules.tag_name(tag).unwrap_or_default()).collect();
                if tags.is_empty() { Ok(()) } else { self.put(key, &tags) }
            }
            FieldValue::Policy(policy) => {
                self.put(key, policy.name())?;
                match policy {
                    Policy::Interval(every) | Policy::Entry(every) => self.put("every", &every),
                    Policy::Once | Policy::Window | Policy::Life => Ok(()),
                }
            }
            FieldValue::Via(via) => {
                let (sort, name) = via_name(via, rules);
                self.put(key, sort)?;
                self.put("name", name)
            }
            FieldValue::Cause(cause) => {
                let (sort, name) = cause_name(cause, rules, names);
                self.put(key, sort)?;
                self.put("name", name)
            }
            FieldValue::CutAt(place) => {
                let (sort, name, on) = words::cut_at(place, rules, names);
                self.put(sort, &name)?;
                on.map_or(Ok(()), |on| self.put("on", on))
            }
            FieldValue::Counts => {
                self.put("attempts", &facts.counts.attempts)?;
                self.put("hits", &facts.counts.hits)?;
                self.put("refusals", &ByGate(&facts.counts))
            }
            FieldValue::Ledger(range) => match facts.ledger_of(range) {
                [] => Ok(()),
                lines => self.put(key, &Each(lines, |line| LedgerRow { line, rules, names })),
            },
            FieldValue::Assists(range) => self.put(key, &Each(facts.assists_of(range), |&who| names.of(who))),
            FieldValue::Chain(range) => {
                let line = self.line;
                self.put(key, &Each(facts.chain_of(range), |link| ChainLink { link, line }))
            }
            FieldValue::Values(range) => match facts.values_of(range) {
                [] => Ok(()),
                values => self.put(key, &Attached(values, rules)),
            },
            FieldValue::Text(text) => match facts.text_of(text) {
                "" => Ok(()),
                text => self.put(key, text),
            },
            FieldValue::Host(values) => self.host(&values),
            value => match words::named(value, rules, names) {
                Some(name) => self.put(key, name),
                None => Ok(()),
            },
        }
    }

    /// The body of a hit is written where bodies have struck lists of their own, as for groups.
    fn is_left_out(&self, info: &FieldInfo) -> bool {
        let of_swing = |attack: AttackId| {
            self.line.rules.attacks().get(attack.index()).is_none_or(|a| a.sharing_of() != Sharing::Body)
        };
        info.name == "body" && HitLanded::of(&self.line.fact.event).is_some_and(|hit| of_swing(hit.attack))
    }

    /// The fields of a topic of the host's own, by their names.
    fn host(&mut self, values: &[HostValue; 4]) -> Result<(), M::Error> {
        let rules = self.line.rules;
        let topic = self.line.fact.event.topic();
        let Some(host) = rules.topics().host_topic(topic) else { return Ok(()) };
        for ((name, _), value) in rules.host_fields(host).zip(values) {
            match value {
                HostValue::Nothing => {}
                HostValue::Whole(whole) => self.map.serialize_entry(name, whole)?,
                HostValue::Exact(exact) => self.map.serialize_entry(name, &Text(exact))?,
                HostValue::Truth(truth) => self.map.serialize_entry(name, truth)?,
                HostValue::Who(who) => self.map.serialize_entry(name, self.line.names.of(*who))?,
                HostValue::Text(text) => {
                    self.map.serialize_entry(name, self.line.facts.text_of(*text))?;
                }
                HostValue::Name(word) => {
                    self.map.serialize_entry(name, rules.word(*word).unwrap_or_default())?;
                }
                HostValue::At(at) => self.map.serialize_entry(name, at)?,
            }
        }
        Ok(())
    }

    fn put<T: Serialize + ?Sized>(&mut self, name: &'static str, value: &T) -> Result<(), M::Error> {
        self.map.serialize_entry(name, value)
    }
}

/// Anything that displays, as a string.
struct Text<T>(T);

impl<T: std::fmt::Display> Serialize for Text<T> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(&self.0)
    }
}

/// A list of rows, each through a function.
struct Each<'a, T, F>(&'a [T], F);

impl<'a, T, R: Serialize, F: Fn(&'a T) -> R> Serialize for Each<'a, T, F> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_seq(self.0.iter().map(&self.1))
    }
}

/// What was attached to the dead: name to amount.
struct Attached<'a>(&'a [(ValueId, i64)], &'a Ruleset);

impl Serialize for Attached<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_map(
            self.0.iter().map(|(value, amount)| (self.1.value_name(*value).unwrap_or_default(), amount)),
        )
    }
}

struct ByGate<'a>(&'a Counts);

impl Serialize for ByGate<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_map(self.0.refusals_by_gate().map(|(gate, count)| (gate.name(), count)))
    }
}

/// One line of a ledger, as the feed writes it.
pub(crate) struct LedgerRow<'a> {
    pub(crate) line: &'a LedgerLine,
    pub(crate) rules: &'a Ruleset,
    pub(crate) names: &'a Names,
}

impl Serialize for LedgerRow<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let LedgerRow { line, rules, names } = *self;
        let LedgerLine { step, before, after, note } = *line;
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("step", step_name(step, rules))?;
        map.serialize_entry("before", &Text(before))?;
        map.serialize_entry("after", &Text(after))?;
        if note != Note::None {
            map.serialize_entry("note", &Text(NoteText { note, rules, names }))?;
        }
        map.end()
    }
}

struct ChainLink<'a> {
    link: &'a Link,
    line: &'a Line<'a>,
}

impl Serialize for ChainLink<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let (Link { seq, by, topic, subject }, names) = (*self.link, self.line.names);
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("seq", &seq)?;
        map.serialize_entry("topic", self.line.rules.topics().path(topic).unwrap_or_default())?;
        if let Some(subject) = subject {
            map.serialize_entry("subject", names.of(subject))?;
        }
        let (sort, name) = words::listener_name(by, self.line.rules, names);
        map.serialize_entry(sort, &name)?;
        map.end()
    }
}
