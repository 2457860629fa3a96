//! One fact as one line of the feed.

use hammerstone::{
    ApplicationId, AttackId, CombatantId, Counts, Event, Fact, Facts, HostValue, LedgerLine, Link, Note,
    Policy, Range, Rules, Sharing, ShieldId, StatusId, SwingId, TopicId, ValueId, Via,
};
use serde::ser::{Serialize, SerializeMap, Serializer};

use crate::words::{BarredByText, NoteText, OperandText, cause_name, means_name, step_name};
use crate::{Names, words};

/// A fact with all that is needed to write it: serialises as one object of the feed.
#[derive(Clone, Copy, Debug)]
pub struct Line<'a> {
    /// The fact.
    pub fact: &'a Fact,
    /// The facts that it stands among.
    pub facts: &'a Facts<'a>,
    /// The rules, for names.
    pub rules: &'a Rules,
    /// The names of combatants.
    pub names: &'a Names,
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
        Fields { line: self, map: &mut map }.event(&self.fact.event)?;
        map.end()
    }
}

/// Writes the fields of an event, by their names in the feed.
struct Fields<'a, M> {
    line: &'a Line<'a>,
    map: &'a mut M,
}

impl<M: SerializeMap> Fields<'_, M> {
    fn event(mut self, event: &Event) -> Result<(), M::Error> {
        match *event {
            Event::EncounterStarted => Ok(()),
            Event::EncounterEnded { outcome } => {
                let counts = self.line.facts.counts;
                self.put("outcome", self.line.rules.outcome_name(outcome).unwrap_or_default())?;
                self.put("attempts", &counts.attempts)?;
                self.put("hits", &counts.hits)?;
                self.put("refusals", &ByGate(&counts))
            }
            Event::EncounterCut { place, by, left_out, depth, chain } => {
                let links = self.line.facts.chain_of(chain);
                let (sort, name, on) = words::cut_at(place, self.line.rules, self.line.names);
                self.put(sort, &name)?;
                if let Some(on) = on {
                    self.put("on", on)?;
                }
                self.put("limit", by.name())?;
                self.put("left_out", &left_out)?;
                self.put("depth", &depth)?;
                self.put("chain", &Each(links, |link| ChainLink { link, line: self.line }))
            }
            Event::OrderRefused { what, subject, why, .. } => {
                self.put("order", what)?;
                self.who_maybe("subject", subject)?;
                self.put("why", &Text(why))
            }
            Event::CombatantJoined { subject, template, team, health, max, life } => {
                let rules = self.line.rules;
                self.who("subject", subject)?;
                self.put("template", rules.template_name(template).unwrap_or_default())?;
                self.put("team", rules.team_name(team).unwrap_or_default())?;
                let tags: Vec<&str> =
                    rules.tags_of(template).map(|tag| rules.tag_name(tag).unwrap_or_default()).collect();
                if !tags.is_empty() {
                    self.put("tags", &tags)?;
                }
                self.put("health", &health)?;
                self.put("max", &max)?;
                self.put("life", &life)
            }
            Event::CombatantReturned { subject, health, max, life, why } => {
                self.who("subject", subject)?;
                self.put("health", &health)?;
                self.put("max", &max)?;
                self.put("life", &life)?;
                self.put("why", why.name())
            }
            Event::CombatantAway { subject, why } | Event::CombatantRemoved { subject, why } => {
                self.who("subject", subject)?;
                self.put("why", why.name())
            }
            Event::AttackStarted { subject, attack, swing, policy } => {
                let authored = &self.line.rules.attacks()[attack.index()];
                self.swing_of(subject, attack, swing)?;
                self.put("form", authored.form().name())?;
                self.put("policy", policy.name())?;
                if let Policy::Interval(every) = policy {
                    self.put("every", &every)?;
                }
                authored.targets_limit().map_or(Ok(()), |most| self.put("max_targets", &most))
            }
            Event::AttackChained { subject, attack, swing } => self.swing_of(Some(subject), attack, swing),
            Event::AttackLapsed { subject, attack } => {
                self.who("subject", subject)?;
                self.put("attack", self.line.rules.attack_name(attack).unwrap_or_default())
            }
            Event::ContactHeld { contact, swing, attacker, target, part, point, normal } => {
                self.put("contact", &contact.number())?;
                self.put("swing", &swing.number())?;
                self.parties(attacker, target, part)?;
                self.put("point", &point)?;
                self.put("normal", &normal)
            }
            Event::HitClashed { swing, attack, attacker, against, target, point, toi } => {
                self.put("swing", &swing.number())?;
                self.put("attack", self.line.rules.attack_name(attack).unwrap_or_default())?;
                self.who_maybe("attacker", attacker)?;
                self.put("against", &against.number())?;
                self.who_maybe("target", target)?;
                self.put("point", &point)?;
                self.put("toi", &toi)
            }
            Event::HitDeflected { swing, attack, attacker, target, part, body, point, normal } => {
                self.put("swing", &swing.number())?;
                self.put("attack", self.line.rules.attack_name(attack).unwrap_or_default())?;
                self.parties(attacker, target, part)?;
                body.map_or(Ok(()), |body| self.put("body", &body))?;
                self.put("point", &point)?;
                self.put("normal", &normal)
            }
            Event::AttackOpened { subject, attack, swing, window }
            | Event::AttackClosed { subject, attack, swing, window } => {
                self.swing_of(subject, attack, swing)?;
                self.put("window", &window)
            }
            Event::AttackEnded { subject, attack, swing, why } => {
                self.swing_of(subject, attack, swing)?;
                self.put("why", why.name())
            }
            Event::ContactMet { contact, swing, attacker, target, part, point, normal, toi } => {
                self.put("contact", &contact.number())?;
                self.put("swing", &swing.number())?;
                self.parties(attacker, target, part)?;
                self.put("point", &point)?;
                self.put("normal", &normal)?;
                self.put("toi", &toi)
            }
            Event::ContactParted { contact, swing, attacker, target, part, why } => {
                self.put("contact", &contact.number())?;
                self.put("swing", &swing.number())?;
                self.parties(attacker, target, part)?;
                self.put("why", why.name())
            }
            Event::HitLanded {
                hit,
                swing,
                attack,
                attacker,
                target,
                life,
                part,
                window,
                group,
                body,
                point,
                normal,
            } => {
                self.put("hit", &hit)?;
                self.put("swing", &swing.number())?;
                self.put("attack", self.line.rules.attack_name(attack).unwrap_or_default())?;
                self.who_maybe("attacker", attacker)?;
                self.who("target", target)?;
                self.put("life", &life)?;
                self.part(target, part)?;
                self.put("window", &window)?;
                group.map_or(Ok(()), |group| self.put("group", &group))?;
                // As for groups: where bodies have struck lists of their own.
                let own = self.line.rules.attacks()[attack.index()].sharing_of() == Sharing::Body;
                body.filter(|_| own).map_or(Ok(()), |body| self.put("body", &body))?;
                self.put("point", &point)?;
                self.put("normal", &normal)
            }
            Event::HitRefused { swing, attack, attacker, target, part, gate, wanted, found } => {
                self.put("swing", &swing.number())?;
                self.put("attack", self.line.rules.attack_name(attack).unwrap_or_default())?;
                self.parties(attacker, target, part)?;
                self.put("gate", gate.name())?;
                self.put("wanted", &Text(OperandText(wanted, self.line.rules)))?;
                self.put("found", &Text(OperandText(found, self.line.rules)))
            }
            Event::HitPushed { hit, attacker, target, impulse, ticks } => {
                self.hit_between(hit, attacker, target)?;
                self.put("impulse", &impulse)?;
                self.put("ticks", &ticks)
            }
            Event::HitStaggered { hit, attacker, target, gathered } => {
                self.hit_between(hit, attacker, target)?;
                self.put("gathered", &Text(gathered))
            }
            Event::HitStopped { hit, subject, other, ticks } => {
                self.put("hit", &hit)?;
                self.who("subject", subject)?;
                self.who_maybe("other", other)?;
                self.put("ticks", &ticks)
            }
            Event::ShieldRaised { subject, shield, amount, left }
            | Event::ShieldAbsorbed { subject, shield, amount, left } => {
                self.shield(subject, shield)?;
                self.put("amount", &amount)?;
                self.put("left", &left)
            }
            Event::ShieldBroken { subject, shield } => self.shield(subject, shield),
            Event::ShieldLapsed { subject, shield, amount } => {
                self.shield(subject, shield)?;
                self.put("amount", &amount)
            }
            Event::GuardBroken { subject, status, amount } => {
                self.who("subject", subject)?;
                self.put("status", self.line.rules.status_name(status).unwrap_or_default())?;
                self.put("amount", &Text(amount))
            }
            Event::PartBroken { subject, part, amount } => {
                self.who("subject", subject)?;
                self.part(subject, part)?;
                self.put("amount", &amount)
            }
            Event::CombatantSpared { subject, by } => {
                let (sort, name) = cause_name(by, self.line.rules, self.line.names);
                self.who("subject", subject)?;
                self.put("by", sort)?;
                self.put("name", name)
            }
            Event::DamageDealt { blow, hit, source, target, via, amount, critical, echo, ledger, .. } => {
                self.put("blow", &blow)?;
                if let Some(hit) = hit {
                    self.put("hit", &hit)?;
                }
                self.who_maybe("source", source)?;
                self.who("target", target)?;
                self.via(via)?;
                self.put("amount", &amount)?;
                if critical {
                    self.put("critical", &true)?;
                }
                echo.map_or(Ok(()), |echo| self.put("echo", echo.name()))?;
                self.ledger(ledger)
            }
            Event::HealApplied { source, target, via, amount, excess, ledger } => {
                self.who_maybe("source", source)?;
                self.who("target", target)?;
                self.via(via)?;
                self.put("amount", &amount)?;
                self.put("excess", &excess)?;
                self.ledger(ledger)
            }
            Event::HealthChanged { subject, from, to, max, why } => {
                self.who("subject", subject)?;
                self.put("from", &from)?;
                self.put("to", &to)?;
                self.put("max", &max)?;
                self.put("why", why.name())
            }
            Event::StatusApplied { application, subject, source, status, strength, stacks, ends } => {
                self.put("application", &application.number())?;
                self.who("subject", subject)?;
                self.who_maybe("source", source)?;
                self.put("status", self.line.rules.status_name(status).unwrap_or_default())?;
                self.put("strength", &Text(strength))?;
                self.put("stacks", &stacks)?;
                ends.map_or(Ok(()), |ends| self.put("ends", &ends))
            }
            Event::StatusRefreshed { application, subject, status, strength, stacks, ends }
            | Event::StatusStacked { application, subject, status, strength, stacks, ends } => {
                self.application(application, subject, status)?;
                self.put("strength", &Text(strength))?;
                self.put("stacks", &stacks)?;
                ends.map_or(Ok(()), |ends| self.put("ends", &ends))
            }
            Event::StatusPulsed { application, subject, status, strength, stacks } => {
                self.application(application, subject, status)?;
                self.put("strength", &Text(strength))?;
                self.put("stacks", &stacks)
            }
            Event::StatusRefused { subject, source, status, strength, why } => {
                self.who("subject", subject)?;
                self.who_maybe("source", source)?;
                self.put("status", self.line.rules.status_name(status).unwrap_or_default())?;
                self.put("strength", &Text(strength))?;
                self.put("why", &Text(BarredByText(why, self.line.rules)))
            }
            Event::StatusResumed { application, subject, status, ends } => {
                self.application(application, subject, status)?;
                ends.map_or(Ok(()), |ends| self.put("ends", &ends))
            }
            Event::StatusExpired { application, subject, status } => {
                self.application(application, subject, status)?;
                self.put("why", "done")
            }
            Event::StatusSuspended { application, subject, status, why }
            | Event::StatusLifted { application, subject, status, why } => {
                self.application(application, subject, status)?;
                self.put("why", why.name())
            }
            Event::CombatantDied {
                subject,
                team,
                life,
                killer,
                credit,
                via,
                assists,
                overkill,
                at,
                lives,
                values,
            } => {
                self.who("subject", subject)?;
                self.put("team", self.line.rules.team_name(team).unwrap_or_default())?;
                self.put("life", &life)?;
                self.who_maybe("killer", killer)?;
                self.who_maybe("credit", credit)?;
                self.via(via)?;
                let names = self.line.names;
                self.put("assists", &Each(self.line.facts.assists_of(assists), |&who| names.of(who)))?;
                self.put("overkill", &overkill)?;
                self.put("at", &at)?;
                lives.map_or(Ok(()), |lives| self.put("lives", &lives))?;
                match self.line.facts.values_of(values) {
                    [] => Ok(()),
                    values => self.put("values", &Attached(values, self.line.rules)),
                }
            }
            Event::EncounterRound { round } => self.put("round", &round),
            Event::EncounterWave { waves, wave, count } => {
                self.put("name", self.line.rules.waves_name(waves).unwrap_or_default())?;
                self.put("wave", &wave)?;
                self.put("count", &count)
            }
            Event::EncounterReset => Ok(()),
            Event::LeaderLost { subject, leader, why } => {
                self.who("subject", subject)?;
                self.who("leader", leader)?;
                self.put("why", why.name())
            }
            Event::HealthCrossed { subject, threshold, downwards } => {
                self.who("subject", subject)?;
                self.put("threshold", self.line.rules.threshold_name(threshold).unwrap_or_default())?;
                self.put("direction", if downwards { "down" } else { "up" })
            }
            Event::FlagChanged { flag, to } => {
                self.put("name", self.line.rules.flag_name(flag).unwrap_or_default())?;
                self.put("to", &to)
            }
            Event::CounterChanged { counter, from, to } => {
                self.put("name", self.line.rules.counter_name(counter).unwrap_or_default())?;
                self.put("from", &from)?;
                self.put("to", &to)
            }
            Event::ScoreChanged { score, from, to, credit } => {
                self.put("name", self.line.rules.score_name(score).unwrap_or_default())?;
                self.put("from", &from)?;
                self.put("to", &to)?;
                self.who_maybe("credit", credit)
            }
            Event::Said { line, subject } => {
                self.who_maybe("subject", subject)?;
                self.put("text", self.line.rules.line_text(line).unwrap_or_default())
            }
            Event::RuleFired { rule, subject, other } => {
                self.put("name", self.line.rules.rule_name(rule).unwrap_or_default())?;
                self.who_maybe("subject", subject)?;
                self.who_maybe("other", other)
            }
            Event::Host { topic, values } => self.host(topic, &values),
        }
    }

    /// The fields of a topic of the host's own, by their names.
    fn host(&mut self, topic: TopicId, values: &[HostValue; 4]) -> Result<(), M::Error> {
        let rules = self.line.rules;
        let Some(host) = rules.topics().host_topic(topic) else { return Ok(()) };
        for ((name, _), value) in rules.host_fields(host).zip(values) {
            match value {
                HostValue::Nothing => {}
                HostValue::Whole(whole) => self.map.serialize_entry(name, whole)?,
                HostValue::Exact(exact) => self.map.serialize_entry(name, &Text(exact))?,
                HostValue::Truth(truth) => self.map.serialize_entry(name, truth)?,
                HostValue::Who(who) => self.map.serialize_entry(name, self.line.names.of(*who))?,
                HostValue::At(at) => self.map.serialize_entry(name, at)?,
            }
        }
        Ok(())
    }

    fn put<T: Serialize + ?Sized>(&mut self, name: &'static str, value: &T) -> Result<(), M::Error> {
        self.map.serialize_entry(name, value)
    }

    fn who(&mut self, name: &'static str, who: CombatantId) -> Result<(), M::Error> {
        self.put(name, self.line.names.of(who))
    }

    fn who_maybe(&mut self, name: &'static str, who: Option<CombatantId>) -> Result<(), M::Error> {
        who.map_or(Ok(()), |who| self.who(name, who))
    }

    fn parties(
        &mut self,
        attacker: Option<CombatantId>,
        target: CombatantId,
        part: u16,
    ) -> Result<(), M::Error> {
        self.who_maybe("attacker", attacker)?;
        self.who("target", target)?;
        self.part(target, part)
    }

    fn part(&mut self, target: CombatantId, part: u16) -> Result<(), M::Error> {
        match self.line.names.part(self.line.rules, target, part) {
            Some(name) => self.put("part", name),
            None => Ok(()),
        }
    }

    fn swing_of(
        &mut self,
        subject: Option<CombatantId>,
        attack: AttackId,
        swing: SwingId,
    ) -> Result<(), M::Error> {
        self.who_maybe("subject", subject)?;
        self.put("attack", self.line.rules.attack_name(attack).unwrap_or_default())?;
        self.put("swing", &swing.number())
    }

    fn application(
        &mut self,
        id: ApplicationId,
        subject: CombatantId,
        status: StatusId,
    ) -> Result<(), M::Error> {
        self.put("application", &id.number())?;
        self.who("subject", subject)?;
        self.put("status", self.line.rules.status_name(status).unwrap_or_default())
    }

    fn hit_between(
        &mut self,
        hit: u64,
        attacker: Option<CombatantId>,
        target: CombatantId,
    ) -> Result<(), M::Error> {
        self.put("hit", &hit)?;
        self.who_maybe("attacker", attacker)?;
        self.who("target", target)
    }

    fn shield(&mut self, subject: CombatantId, shield: ShieldId) -> Result<(), M::Error> {
        self.who("subject", subject)?;
        self.put("shield", self.line.rules.shield_name(shield).unwrap_or_default())
    }

    fn ledger(&mut self, ledger: Range) -> Result<(), M::Error> {
        let (rules, names) = (self.line.rules, self.line.names);
        match self.line.facts.ledger_of(ledger) {
            [] => Ok(()),
            lines => self.put("ledger", &Each(lines, |line| LedgerRow { line, rules, names })),
        }
    }

    fn via(&mut self, via: Via) -> Result<(), M::Error> {
        let (sort, name) = means_name(via, self.line.rules);
        self.put("via", sort)?;
        self.put("name", name)
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
struct Attached<'a>(&'a [(ValueId, i64)], &'a Rules);

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
    pub(crate) rules: &'a Rules,
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
