//! The stable keys of facts, worked out as they are heard: all that they name still has its place then.

use crate::event::{
    DamageDealt, Event, Fact, FactKey, FieldValue, HealApplied, HitLanded, StatusPulsed, Tag, Via, topics,
};
use crate::ids::*;
use crate::rolls;
use crate::ruleset::{Rules, Sharing};
use crate::state::{State, StruckEntry};
use crate::swing::Known;
use crate::work::Work;

/// So far back it is looked for what led to a fact: it follows soon after, and many facts may have come in the tick.
const NEAR: usize = 256;

/// What a key is made of.
struct Keying<'a> {
    rules: &'a Rules,
    state: &'a State,
    known: &'a mut Known,
    /// The facts of the tick so far.
    facts: &'a [Fact],
    so_far: u64,
    /// Whether what is in it says which thing it is, whatever tick it happens in.
    is_one: bool,
}

/// The key of the fact at `place`.
pub(crate) fn key_of(
    rules: &Rules,
    state: &State,
    known: &mut Known,
    facts: &[Fact],
    place: usize,
) -> FactKey {
    let so_far = u64::from(state.registrar.epoch.0);
    let mut keying = Keying { rules, state, known, facts, so_far, is_one: false };
    let event = &facts[place].event;
    keying.event(event, place);
    if !keying.is_one {
        keying.put(u64::from(state.tick));
    }
    FactKey(keying.so_far)
}

/// Keeps the keys of all facts of the tick, where they are kept.
pub(crate) fn keep_keys(work: &mut Work<'_>) {
    let Work { rules, state, log, rooms, .. } = work;
    if log.keep_keys {
        for place in log.tick.keys.len()..log.tick.facts.len() {
            let key = key_of(rules, state, &mut rooms.known, &log.tick.facts, place);
            log.tick.keys.push(key);
        }
    }
}

/// Facts that come once in an epoch, or in their order, for the encounter or for a combatant.
fn is_one_of_its_sort(topic: TopicId) -> bool {
    [
        topics::ENCOUNTER_STARTED,
        topics::ENCOUNTER_ENDED,
        topics::ENCOUNTER_ROUND,
        topics::ENCOUNTER_RESET,
        topics::COMBATANT_REMOVED,
        topics::LEADER_LOST,
    ]
    .contains(&topic)
}

impl Keying<'_> {
    fn put(&mut self, part: u64) {
        self.so_far = rolls::fold(self.so_far, part);
    }

    fn event(&mut self, event: &Event, place: usize) {
        let topic = event.topic();
        self.put(topic.index() as u64);
        self.is_one |= is_one_of_its_sort(topic);
        let mut of_contact = false;
        event.visit(|info, value| {
            if let FieldValue::Contact(_) = value {
                of_contact = true;
            } else if info.is(Tag::Identity) || (of_contact && matches!(info.name, "hitbox" | "part")) {
                self.field(info.name, value, place);
            }
        });
        match event {
            Event::HitLanded(hit) => self.ordinal(hit),
            Event::StatusPulsed(pulse) => {
                let known = self.state.application_index(pulse.application);
                self.put(known.map_or(0, |known| self.state.applications[known].pulses.into()));
            }
            Event::DamageDealt(DamageDealt { via: Via::Status(status), target, .. })
            | Event::HealApplied(HealApplied { via: Via::Status(status), target, .. }) => {
                self.pulse(*status, *target, place);
            }
            Event::HostFact(_) => {
                for who in [event.subject(), event.other()].into_iter().flatten() {
                    self.combatant(who);
                }
            }
            _ => {}
        }
    }

    fn field(&mut self, name: &'static str, value: FieldValue, place: usize) {
        // One that is absent must not make room for the next.
        self.put(rolls::name_key(name));
        let part = match value {
            FieldValue::Combatant(who) => return self.combatant(who),
            FieldValue::Swing(swing) => return self.swing(swing),
            FieldValue::Application(application) => return self.application(application),
            FieldValue::Number(number) => match name {
                "hit" => return self.hit(number, place),
                // Running numbers of the encounter.
                "blow" | "hold" => return,
                _ => {
                    self.is_one |= matches!(name, "life" | "wave");
                    number
                }
            },
            FieldValue::Via(via) => return self.via(via),
            FieldValue::Word(word) => rolls::name_key(word),
            FieldValue::Attack(id) => id.index() as u64,
            FieldValue::Status(id) => id.index() as u64,
            FieldValue::Shield(id) => id.index() as u64,
            FieldValue::DamageType(id) => id.index() as u64,
            FieldValue::Gauge(id) => id.index() as u64,
            FieldValue::Threshold(id) => id.index() as u64,
            FieldValue::Flag(id) => id.index() as u64,
            FieldValue::Counter(id) => id.index() as u64,
            FieldValue::CombatantFlag(id) => id.index() as u64,
            FieldValue::CombatantCounter(id) => id.index() as u64,
            FieldValue::Score(id) => id.index() as u64,
            FieldValue::Waves(id) => id.index() as u64,
            FieldValue::Rule(id) => id.index() as u64,
            FieldValue::Part(part) => part.into(),
            // Orders are numbered as they come, and no hook hears of a cut; nothing else says which thing a fact is about.
            _ => return,
        };
        self.put(part);
    }

    fn combatant(&mut self, who: CombatantId) {
        let combatants = &self.state.combatants;
        let key = if combatants.has_place(who) { combatants.key[who.slot()] } else { 0 };
        self.put(key);
    }

    fn swing(&mut self, swing: SwingId) {
        if let Some(known) = self.state.swing_index(swing) {
            let swing = &self.state.swings[known];
            let attack = self.rules.attack_plan(swing.attack).key;
            [swing.key, attack, swing.start.into()].into_iter().for_each(|part| self.put(part));
            self.is_one = true;
        }
    }

    fn application(&mut self, application: ApplicationId) {
        if let Some(known) = self.state.application_index(application) {
            let known = &self.state.applications[known];
            let status = self.rules.status_keys[known.status.index()];
            let bearer = self.state.combatants.key[known.subject.slot()];
            // Not when it was applied: one that comes a tick later is the same.
            [known.source_key, status, bearer].into_iter().for_each(|part| self.put(part));
            self.is_one = true;
        }
    }

    fn via(&mut self, via: Via) {
        let (sort, number) = match via {
            Via::Attack(id) => (1, id.index()),
            Via::Status(id) => (2, id.index()),
            Via::Host(id) => (3, id.index()),
            Via::Rule(id) => (4, id.index()),
        };
        self.put(sort);
        self.put(number as u64);
    }

    /// What follows from a hit is of the swing that hit, if that was written down.
    fn hit(&mut self, number: u64, place: usize) {
        let landed = self.facts[..place].iter().rev().take(NEAR).find_map(|fact| match &fact.event {
            Event::HitLanded(hit) if hit.hit == number => Some(hit),
            _ => None,
        });
        if let Some(hit) = landed {
            self.swing(hit.swing);
            self.ordinal(hit);
        }
    }

    /// Which hit of its swing at its target this is, on its struck list.
    fn ordinal(&mut self, hit: &HitLanded) {
        let Some(index) = self.state.swing_index(hit.swing) else { return };
        let State { struck, swings, .. } = self.state;
        let list = match self.rules.attack(swings[index].attack).sharing {
            Sharing::Swing => None,
            Sharing::Group => hit.group,
            Sharing::Body => hit.body,
        };
        let is = |entry: &StruckEntry| list.is_none_or(|list| entry.list == list);
        let entry = self.known.struck.find(struck, swings, index, hit.target, is);
        self.put(entry.map_or(0, |place| struck.get(place).hits.into()));
    }

    /// What follows from a pulse is of the application that pulsed.
    fn pulse(&mut self, status: StatusId, bearer: CombatantId, place: usize) {
        let pulse = self.facts[..place].iter().rev().take(NEAR).find_map(|fact| match fact.event {
            Event::StatusPulsed(StatusPulsed { application, status: of, subject, .. })
                if of == status && subject == bearer =>
            {
                Some(application)
            }
            _ => None,
        });
        if let Some(application) = pulse {
            self.application(application);
            let known = self.state.application_index(application);
            self.put(known.map_or(0, |known| self.state.applications[known].pulses.into()));
        }
    }
}
