//! Fields of the fact that is heard.

use crate::Fixed;
use crate::event::{Event, FieldValue, HostValue, Via};
use crate::ruleset::Held;

use super::Setting;
use super::readings::number_of;

impl Setting<'_> {
    /// What a field of the fact holds, by its name in the feed; none if it is not there.
    pub(super) fn field(&self, name: &str) -> Option<FieldValue> {
        if let Some(hit) = self.hit {
            match name {
                "critical" => return Some(FieldValue::Truth(hit.critical)),
                "charge" => return Some(FieldValue::Exact(hit.charge)),
                "amount" => return Some(FieldValue::Exact(Fixed::whole(hit.amount))),
                _ => {}
            }
        }
        let event = self.fact?;
        if let Event::HostFact(fact) = event {
            let topic = self.rules.host_topics.get(self.rules.topics.host_topic(fact.topic)?.index())?;
            let place = topic.fields.iter().position(|(field, _)| field == name)?;
            return of_host(*fact.values.get(place)?);
        }
        let mut found = None;
        event.visit(|info, value| {
            if info.key == name {
                found = Some(value);
            }
        });
        found
    }

    /// Whether a field holds what is wanted.
    pub(super) fn is_held(&self, value: FieldValue, held: Held) -> bool {
        match held {
            Held::Between(least, most) => {
                value.number().is_some_and(|number| (least..=most).contains(&number))
            }
            Held::Truth(wanted) => value == FieldValue::Truth(wanted),
            Held::Word(word) => self.word_of(value) == Some(self.rules.words[word.index()].as_str()),
        }
    }

    /// The word that a field holds, or the name of what it names.
    fn word_of(&self, value: FieldValue) -> Option<&str> {
        let rules = self.ruleset;
        match value {
            FieldValue::Word(word) => Some(word),
            FieldValue::Name(name) => rules.word(name),
            FieldValue::Policy(policy) => Some(policy.name()),
            FieldValue::Via(via) => Some(match via {
                Via::Attack(_) => "attack",
                Via::Status(_) => "status",
                Via::Host(_) => "host",
                Via::Rule(_) => "rule",
            }),
            FieldValue::Part(part) => {
                let bearer =
                    self.fact.and_then(Event::subject).filter(|&who| self.state.combatants.has_place(who))?;
                let template = self.rules.template(self.state.combatants.template[bearer.slot()]);
                template.parts.get(usize::from(part)).map(|part| part.name.as_str())
            }
            FieldValue::Attack(attack) => rules.attack_name(attack),
            FieldValue::Status(status) => rules.status_name(status),
            FieldValue::Gauge(gauge) => rules.gauge_name(gauge),
            FieldValue::Shield(shield) => rules.shield_name(shield),
            FieldValue::Team(team) => rules.team_name(team),
            FieldValue::Template(template) => rules.template_name(template),
            FieldValue::DamageType(damage_type) => rules.damage_type_name(damage_type),
            FieldValue::Threshold(threshold) => rules.threshold_name(threshold),
            FieldValue::Outcome(outcome) => rules.outcome_name(outcome),
            FieldValue::Flag(flag) => rules.flag_name(flag),
            FieldValue::Counter(counter) => rules.counter_name(counter),
            FieldValue::CombatantFlag(flag) => rules.combatant_flag_name(flag),
            FieldValue::CombatantCounter(counter) => rules.combatant_counter_name(counter),
            FieldValue::Score(score) => rules.score_name(score),
            FieldValue::Waves(waves) => rules.waves_name(waves),
            FieldValue::Spoken(spoken) => rules.line_text(spoken.line),
            FieldValue::Rule(rule) => rules.rule_name(rule),
            _ => None,
        }
    }
}

/// A value of a topic of the host's own, as other fields have it.
fn of_host(value: HostValue) -> Option<FieldValue> {
    match value {
        // What a text says is for people.
        HostValue::Nothing | HostValue::Text(_) => None,
        HostValue::Truth(truth) => Some(FieldValue::Truth(truth)),
        HostValue::Who(who) => Some(FieldValue::Combatant(who)),
        HostValue::At(at) => Some(FieldValue::Vector(at)),
        HostValue::Name(name) => Some(FieldValue::Name(name)),
        HostValue::Whole(_) | HostValue::Exact(_) => number_of(value).map(FieldValue::Exact),
    }
}
