//! A run in sentences: a blow and what it did to health are one.

use crate::{Record, Tick};
use hammerstone::event::{
    AttackChained, AttackStarted, DamageDealt, EncounterWave, FieldValue, Gate, HealthChange, HealthChanged,
    HitRefused, OrderRefused, RuleFired,
};
use hammerstone::ids::{AttackId, CombatantId, RuleId, SwingId, TopicId, WaveId};
use hammerstone::orders::OrderKind;
use std::collections::BTreeSet;
use std::fmt::Write as _;
use std::io::{self, Write};

use anstyle::Style;
use hammerstone::Ruleset;
use hammerstone::event::Event;

use crate::Line;
use crate::feed::{QUIET, account, begins, contact, damage_alone, mark, sentence};

/// A sentence of the feed for people.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Told {
    /// The tick.
    pub tick: u32,
    /// The tick, counted on through resets.
    pub clock: u32,
    /// The first and the last of the facts that it tells.
    pub seq: (u64, u64),
    /// Its mark, which tells sorts of facts apart without colour.
    pub mark: &'static str,
    /// The topic of the first of them.
    pub topic: TopicId,
    /// The sentence.
    pub text: String,
    /// The fact that led to the first of them.
    pub cause: Option<u64>,
    /// The subject and the other party of the first of them.
    pub parties: [Option<CombatantId>; 2],
    /// The swing that the first of them belongs to.
    pub swing: Option<SwingId>,
    /// The rule or the waves that the first of them names.
    pub flow: Option<InFlow>,
    style: Style,
}

/// What a sentence is about that is no combatant.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum InFlow {
    /// A rule, which fired.
    Rule(RuleId),
    /// A sequence of waves, one of which came.
    Waves(WaveId),
}

/// A sentence whose end is still to come.
#[derive(Clone, Debug)]
struct Open {
    told: Told,
    amounts: usize,
    /// The blow whose amounts it takes.
    blow: Option<u64>,
    /// Whether others were named who share the health.
    shared: bool,
    /// What comes between the hit and its amounts, for lines of their own after it.
    between: Vec<Told>,
}

/// Makes sentences out of facts.
#[derive(Clone, Debug, Default)]
pub(crate) struct TextFeed {
    /// Whether contacts are told.
    pub(crate) contacts: bool,
    /// Where what repeats is told once: what was told.
    pub(crate) folded: Option<Folded>,
    open: Option<Open>,
}

/// What was told of what may repeat.
#[derive(Clone, Debug, Default)]
pub(crate) struct Folded {
    hits: BTreeSet<(Option<CombatantId>, AttackId, CombatantId, Gate)>,
    orders: BTreeSet<(OrderKind, Option<AttackId>, Option<CombatantId>, String)>,
    /// The swing with which a chain went on last.
    chained: Option<SwingId>,
}

impl Folded {
    /// Whether a fact says what was said before.
    fn is_repeated(&mut self, event: &Event) -> bool {
        match *event {
            Event::HitRefused(HitRefused { attack, attacker, target, gate, .. }) => {
                !self.hits.insert((attacker, attack, target, gate))
            }
            Event::OrderRefused(OrderRefused { kind, attack, subject, why, .. }) => {
                !self.orders.insert((kind, attack, subject, why.timeless().to_string()))
            }
            // That a chain goes on is told once.
            Event::AttackChained(AttackChained { swing, .. }) => {
                self.chained = Some(swing);
                false
            }
            Event::AttackStarted(AttackStarted { swing, .. }) => self.chained == Some(swing),
            _ => false,
        }
    }
}

impl TextFeed {
    /// One that tells once what repeats.
    pub(crate) fn folding() -> TextFeed {
        TextFeed { folded: Some(Folded::default()), ..TextFeed::default() }
    }

    /// Takes in a fact; sentences that are whole by now go to `out`.
    pub(crate) fn observe(&mut self, line: &Line<'_>, out: &mut Vec<Told>) {
        if self.goes_on(line) {
            return;
        }
        if let Some((mark, style, text)) = contact(line) {
            if self.contacts {
                let told = of(line, mark, style, text);
                match &mut self.open {
                    Some(open) => open.between.push(told),
                    None => out.push(told),
                }
            }
            return;
        }
        if self.folded.as_mut().is_some_and(|folded| folded.is_repeated(&line.fact.event)) {
            return;
        }
        self.end_tick(out);
        let Some(told) = tell(line) else { return };
        if matches!(line.fact.event, Event::HitLanded(_) | Event::StatusPulsed(_) | Event::DamageDealt(_)) {
            self.open = Some(Open { told, amounts: 0, blow: None, shared: false, between: Vec::new() });
            self.goes_on(line);
        } else {
            out.push(told);
        }
    }

    /// Whether the fact belongs to the sentence that is open, and was added to it.
    fn goes_on(&mut self, line: &Line<'_>) -> bool {
        let Some(open) = &mut self.open else { return false };
        match line.fact.event {
            Event::DamageDealt(DamageDealt { damage_type, blow, amount, critical, ledger, .. }) => {
                if *open.blow.get_or_insert(blow) != blow {
                    return false;
                }
                if critical && open.amounts == 0 {
                    open.told.text.push_str(", critically");
                }
                let between = if open.amounts == 0 { ": " } else { ", " };
                open.amounts += 1;
                let damage_type = line.rules.damage_type_name(damage_type).unwrap_or_default();
                open.told.seq.1 = line.fact.seq;
                let _ = write!(
                    open.told.text,
                    "{between}{amount} {damage_type}{}",
                    account(line.facts.ledger_of(ledger), line.rules)
                );
                true
            }
            Event::HealthChanged(HealthChanged { subject, why: HealthChange::Pool, .. }) => {
                open.told.seq.1 = line.fact.seq;
                let between = if std::mem::replace(&mut open.shared, true) { ", " } else { ", shared with " };
                let _ = write!(open.told.text, "{between}{}", line.names.of(subject));
                true
            }
            Event::HealthChanged(HealthChanged { from, to, .. }) => {
                open.told.seq.1 = line.fact.seq;
                let _ = write!(open.told.text, ", health {from} to {to}");
                true
            }
            Event::HitPushed(_)
            | Event::HitStopped(_)
            | Event::ShieldAbsorbed(_)
            | Event::ShieldBroken(_)
            | Event::GuardBroken(_) => {
                open.between.extend(tell(line));
                true
            }
            _ => false,
        }
    }

    /// Ends the sentence that is open.
    pub(crate) fn end_tick(&mut self, out: &mut Vec<Told>) {
        if let Some(open) = self.open.take() {
            out.push(open.told);
            out.extend(open.between);
        }
    }
}

/// What a fact says to a person; nothing for facts that no one need read.
pub fn told(line: &Line<'_>) -> Option<String> {
    sentence(line).map(|(.., text)| text)
}

/// The sentence of one fact.
fn tell(line: &Line<'_>) -> Option<Told> {
    let (mark, style, text) = sentence(line).or_else(|| damage_alone(line))?;
    Some(of(line, mark, style, text))
}

fn of(line: &Line<'_>, mark: &'static str, style: Style, text: String) -> Told {
    let (seq, tick) = (line.fact.seq, line.facts.tick);
    let event = &line.fact.event;
    let mut swing = None;
    event.visit(|_, value| {
        if let FieldValue::Swing(of) = value {
            swing = Some(of);
        }
    });
    let flow = match *event {
        Event::RuleFired(RuleFired { rule, .. }) => Some(InFlow::Rule(rule)),
        Event::EncounterWave(EncounterWave { waves, .. }) => Some(InFlow::Waves(waves)),
        _ => None,
    };
    Told {
        tick,
        clock: line.before + tick,
        seq: (seq, seq),
        mark,
        topic: event.topic(),
        text,
        cause: line.fact.cause,
        parties: [event.subject(), event.other()],
        swing,
        flow,
        style,
    }
}

impl Told {
    /// Writes it as a line. *Errors:* those of the writer.
    pub(crate) fn write(&self, out: &mut impl Write, rules: &Ruleset) -> io::Result<()> {
        let Told { clock, mark, text, style, .. } = self;
        let time = begins(*clock, rules);
        writeln!(out, "{QUIET}{time:>7.2}s{QUIET:#} {style}{mark} {text}{style:#}")
    }
}

/// Gathers the sentences of a run.
#[derive(Clone, Debug, Default)]
pub struct Transcript {
    feed: TextFeed,
    told: Vec<Told>,
}

impl Transcript {
    /// Nothing told yet.
    pub fn new() -> Transcript {
        Transcript::default()
    }

    /// Nothing told yet; contacts will be, too.
    pub fn with_contacts() -> Transcript {
        let feed = TextFeed { contacts: true, ..TextFeed::default() };
        Transcript { feed, ..Transcript::default() }
    }

    /// The marks of sentences, and what they stand for.
    pub const MARKS: [(&'static str, &'static str); 12] = [
        (mark::HIT, "hits"),
        (mark::REFUSED, "refusals"),
        (mark::DIED, "deaths"),
        (mark::STATUS, "statuses"),
        (mark::SWING, "swings"),
        (mark::CROSSED, "thresholds"),
        (mark::RULE, "rules"),
        (mark::SAID, "said"),
        (mark::CAME, "joined, healed"),
        (mark::LEFT, "left"),
        (mark::FRAME, "encounter"),
        (mark::CONTACT, "contacts"),
    ];

    /// Everything that was told, in order.
    pub fn told(&self) -> &[Told] {
        &self.told
    }
}

impl Record for Transcript {
    fn observe(&mut self, tick: &Tick<'_>) {
        for fact in tick.facts.facts {
            self.feed.observe(&tick.line(fact), &mut self.told);
        }
        self.feed.end_tick(&mut self.told);
    }
}
