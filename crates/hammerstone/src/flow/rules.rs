//! Which rules hear a fact, and whether they fire.

use crate::Fixed;
use crate::budget::Source;
use crate::event::{Crossing, CutAt, Declined, Delivery, Event, Fact, FieldValue, HealthCrossed, Listener};
use crate::ids::*;
use crate::log::Log;
use crate::orders::Order;
use crate::orders::Pending;
use crate::ruleset::{Condition, Group, Held, Limit, Rule, Rules};
use crate::sheet;
use crate::state::State;

/// Rules that hear the fact and whose conditions hold fire: each gives one order, which waits for the next pass.
pub(crate) fn hear(rules: &Rules, state: &mut State, log: &mut Log, fact: &Fact, place: usize) {
    for &id in &rules.rules_by_topic[fact.event.topic().index()] {
        let rule = &rules.rule_book[id.index()];
        let (subject, other) = (fact.event.subject(), fact.event.other());
        let holds = |condition: &Condition| holds(rules, state, condition, &fact.event);
        let failed = rule.when.iter().position(|condition| !holds(condition));
        if failed.is_some() || !may_fire(state, rule, id, subject) {
            if log.keep_deliveries {
                let found = failed.and_then(|place| found(rules, state, &rule.when[place], &fact.event));
                let condition = failed.map(|place| place as u16);
                log.tick.declined.push(Declined { seq: fact.seq, rule: id, condition, found });
            }
            continue;
        }
        let listener = Listener::Rule(id);
        let topic = fact.event.topic();
        let (heard, depth) = (Some((fact.seq, listener)), fact.depth + 1);
        let root = log.root_of(place);
        let source = Source { heard, pass: fact.pass, depth, root };
        if !log.budget.allows(source, || CutAt::Heard(listener, Some(topic))) {
            continue;
        }
        note(state, rule, id, subject);
        log.tick.facts[place].reached += 1;
        if log.keep_deliveries {
            let (seq, pass) = (fact.seq, fact.pass);
            log.tick.deliveries.push(Delivery { seq, listener, subscription: None, pass });
        }
        let (order, number) = (Order::Fire { rule: id, subject, other }, state.registrar.next_order());
        state.pending.push(Pending { order, number, heard, depth, root });
    }
}

fn may_fire(state: &State, rule: &Rule, id: RuleId, subject: Option<CombatantId>) -> bool {
    let fired = &state.fired[id.index()];
    match (rule.limit, subject) {
        (Limit::Always, _) => true,
        (Limit::Once, _) => !fired.ever,
        (Limit::PerRound, _) => fired.round != state.round,
        (Limit::PerLife, None) => false,
        (Limit::PerLife, Some(subject)) => {
            place_in_life(state, subject, id)
                .is_ok_and(|place| state.fired_in_life[place].2 != life_of(state, subject))
                || place_in_life(state, subject, id).is_err()
        }
    }
}

fn place_in_life(state: &State, subject: CombatantId, id: RuleId) -> Result<usize, usize> {
    state.fired_in_life.binary_search_by_key(&(subject, id), |&(who, rule, _)| (who, rule))
}

fn life_of(state: &State, who: CombatantId) -> u32 {
    state.combatants.lives.get(who.slot()).copied().unwrap_or(0)
}

fn note(state: &mut State, rule: &Rule, id: RuleId, subject: Option<CombatantId>) {
    let round = state.round;
    let fired = &mut state.fired[id.index()];
    (fired.ever, fired.round) = (true, round);
    if let (Limit::PerLife, Some(subject)) = (rule.limit, subject) {
        let life = life_of(state, subject);
        match place_in_life(state, subject, id) {
            Ok(place) => state.fired_in_life[place].2 = life,
            Err(place) => state.fired_in_life.insert(place, (subject, id, life)),
        }
    }
}

/// The number that a condition looks at, if it is one.
fn found(rules: &Rules, state: &State, condition: &Condition, event: &Event) -> Option<Fixed> {
    match *condition {
        Condition::Health(..) => share_of(state, event),
        Condition::Flag(flag, _) => Some(Fixed::whole(state.flags[flag.index()].into())),
        Condition::Counter(counter, ..) => Some(Fixed::whole(state.counters[counter.index()])),
        Condition::Score(score, ..) => Some(Fixed::whole(state.scores[score.index()])),
        Condition::Time(..) => Some(Fixed::whole(state.tick.into())),
        Condition::Round(..) => Some(Fixed::whole(state.round.into())),
        Condition::Alive(ref group, ..) => Some(Fixed::whole(state.standing(rules, group) as i64)),
        Condition::WavesOver(waves) => Some(Fixed::whole(state.waves[waves.index()].come.into())),
        Condition::Field(name, Held::Between(..)) => field_of(rules, event, name)?.number(),
        _ => None,
    }
}

/// The subject's share of health.
fn share_of(state: &State, event: &Event) -> Option<Fixed> {
    let slot = event.subject().filter(|&who| state.combatants.is_present(who))?.slot();
    Some(Fixed::ratio(state.combatants.health[slot].into(), state.combatants.max[slot].into()))
}

fn holds(rules: &Rules, state: &State, condition: &Condition, event: &Event) -> bool {
    let is_of =
        |who: Option<CombatantId>, group: &Group| who.is_some_and(|who| is_of(rules, state, who, group));
    match *condition {
        Condition::Subject(ref group) => is_of(event.subject(), group),
        Condition::Other(ref group) => is_of(event.other(), group),
        Condition::Health(least, most) => {
            share_of(state, event).is_some_and(|share| (least..=most).contains(&share))
        }
        Condition::Threshold(wanted) => {
            matches!(*event, Event::HealthCrossed(HealthCrossed { threshold, .. }) if threshold == wanted)
        }
        Condition::Downwards(wanted) => {
            let wanted = if wanted { Crossing::Down } else { Crossing::Up };
            matches!(*event, Event::HealthCrossed(HealthCrossed { direction, .. }) if direction == wanted)
        }
        Condition::Status(wanted) => event.status() == Some(wanted),
        Condition::Attack(wanted) => event.attack() == Some(wanted),
        Condition::Flag(flag, up) => state.flags[flag.index()] == up,
        Condition::Counter(counter, least, most) => (least..=most).contains(&state.counters[counter.index()]),
        Condition::Score(score, least, most) => (least..=most).contains(&state.scores[score.index()]),
        Condition::Time(least, most) => (least..=most).contains(&state.tick),
        Condition::Round(least, most) => (least..=most).contains(&state.round),
        Condition::Alive(ref group, least, most) => {
            let standing = state.standing(rules, group);
            (least as usize..=most as usize).contains(&standing)
        }
        Condition::WavesOver(waves) => state.waves[waves.index()].come == rules.waves[waves.index()].times,
        Condition::Field(name, held) => match field_of(rules, event, name) {
            Some(value) => is_held(rules, state, event, value, held),
            // Some are there only where they are true.
            None => held == Held::Truth(false),
        },
    }
}

/// What a field of a fact holds, if it is there.
fn field_of(rules: &Rules, event: &Event, name: WordId) -> Option<FieldValue> {
    let name = rules.words[name.index()].as_str();
    let mut found = None;
    event.visit(|info, value| {
        if info.key == name {
            found = Some(value);
        }
    });
    found
}

fn is_held(rules: &Rules, state: &State, event: &Event, value: FieldValue, held: Held) -> bool {
    let word = |id: WordId| rules.words[id.index()].as_str();
    match (held, value) {
        (Held::Between(least, most), value) => {
            value.number().is_some_and(|number| (least..=most).contains(&number))
        }
        (Held::Truth(wanted), FieldValue::Truth(truth)) => truth == wanted,
        (Held::Word(wanted), FieldValue::Word(found)) => found == word(wanted),
        (Held::Word(wanted), FieldValue::Policy(policy)) => policy.name() == word(wanted),
        (Held::Word(wanted), FieldValue::Part(part)) => {
            let bearer = event.subject().filter(|&who| state.combatants.has_place(who));
            let template = bearer.map(|who| rules.template(state.combatants.template[who.slot()]));
            let part = template.and_then(|template| template.parts.get(usize::from(part)));
            part.is_some_and(|part| part.name == word(wanted))
        }
        _ => false,
    }
}

/// Whether someone, who may be gone since, is one of a group. Tags that statuses lend count while they do.
fn is_of(rules: &Rules, state: &State, who: CombatantId, group: &Group) -> bool {
    let slot = who.slot();
    let here = state.combatants.has_place(who);
    let untagged = Group { tags: 0, ..*group };
    here && state.combatants.is_of(rules, slot, &untagged)
        && (group.tags == 0 || sheet::tags(rules, state, slot) & group.tags == group.tags)
}
