//! Which rules hear a fact, and whether they fire.

use crate::budget::Source;
use crate::conditions::{self, Setting};
use crate::event::{CutAt, Declined, Delivery, Fact, Listener, NotFired, Range};
use crate::ids::*;
use crate::level::Level;
use crate::log::Log;
use crate::orders::Order;
use crate::orders::Pending;
use crate::rolls::Occasion;
use crate::ruleset::{Limit, Rule, Ruleset};
use crate::state::{Read, State};
use crate::work::Work;

/// Rules that hear the fact and whose conditions hold fire: each gives one order, which waits for the next pass.
pub(crate) fn hear(work: &mut Work<'_>, fact: &Fact, place: usize) {
    let rules = work.rules;
    let topic = fact.event.topic();
    // The case of a choice that fires for this fact.
    let mut case: Option<RuleId> = None;
    for &id in &rules.rules_by_topic[topic.index()] {
        let rule = &rules.rule_book[id.index()];
        let earlier =
            case.filter(|case| rule.choice.is_some() && rules.rule_book[case.index()].choice == rule.choice);
        if let Some(earlier) = earlier {
            decline(work.log, fact, id, NotFired::EarlierCase(earlier), 0);
            continue;
        }
        if !fits(work, fact, id) {
            continue;
        }
        case = Some(id);
        let (subject, other) = (fact.event.subject(), fact.event.other());
        let listener = Listener::Rule(id);
        let (heard, depth) = (Some((fact.seq, listener)), fact.depth + 1);
        let root = work.log.root_of(place);
        let source = Source { heard, pass: fact.pass, depth, root };
        if !work.log.budget.allows(source, || CutAt::Heard(listener, Some(topic))) {
            continue;
        }
        note(work.state, rule, id, subject);
        read_amounts(work, id, Some(fact), [subject, other], fact.seq);
        let log = &mut *work.log;
        log.tick.facts[place].reached += 1;
        if log.keep_deliveries {
            let (seq, pass) = (fact.seq, fact.pass);
            log.tick.deliveries.push(Delivery { seq, listener, subscription: None, pass });
        }
        let (order, number) = (Order::Fire { rule: id, subject, other }, work.state.registrar.next_order());
        work.state.pending.push(Pending { order, number, heard, depth, root });
    }
}

/// Whether the conditions of a rule hold for a fact, and its limit lets it. Notes why, where it does not.
fn fits(work: &mut Work<'_>, fact: &Fact, id: RuleId) -> bool {
    let rules = work.rules;
    let (rule, plan) = (&rules.rule_book[id.index()], &rules.rule_plans[id.index()]);
    if rule.when.is_empty() && rule.limit == Limit::Always {
        return true;
    }
    let subject = fact.event.subject();
    let Work { ruleset, level, state, log, .. } = &mut *work;
    let looking = setting(ruleset, level, state, id, Some(fact), [subject, fact.event.other()]).look();
    let (plain, rolling) = rule.when.split_at(plan.rolls_from);
    let mut lost = looking.first_lost(plain);
    let spent = lost.is_none() && !may_fire(state, rule, id, subject);
    if lost.is_none() && !spent {
        looking.begin_at(plain.iter().map(conditions::count).sum());
        lost = looking.first_lost(rolling).map(|place| place + plain.len());
    }
    let rolled = looking.rolled.get();
    let mut losses = 0;
    if let Some(lost) = lost.filter(|_| log.keep_deliveries) {
        let noted = &mut log.tick.losses;
        let before = noted.len();
        looking.begin_at(rule.when[..lost].iter().map(conditions::count).sum());
        looking.note_losses(&rule.when[lost], true, noted);
        losses = noted.len() - before;
    }
    if rolled {
        count_roll(state, id, subject);
    }
    if lost.is_some() || spent {
        let why = if spent { NotFired::Limit } else { NotFired::Conditions };
        decline(log, fact, id, why, losses);
        return false;
    }
    true
}

/// Notes that a rule heard a fact and does not fire; the last so many losses are why.
fn decline(log: &mut Log, fact: &Fact, rule: RuleId, why: NotFired, losses: usize) {
    if log.keep_deliveries {
        let end = log.tick.losses.len() as u32;
        let losses = Range { start: end - losses as u32, end };
        log.tick.declined.push(Declined { seq: fact.seq, rule, why, losses });
    }
}

/// Where a rule looks at its conditions, and reads.
fn setting<'a>(
    ruleset: &'a Ruleset,
    level: &'a Level,
    state: &'a State,
    rule: RuleId,
    fact: Option<&'a Fact>,
    [subject, other]: [Option<CombatantId>; 2],
) -> Setting<'a> {
    let rules = ruleset.compiled();
    let plan = &rules.rule_plans[rule.index()];
    let mut occasion = Occasion { attacker: 0, via: plan.key, start: 0, target: 0, ordinal: 0 };
    if plan.rolls_from < rules.rule_book[rule.index()].when.len() {
        let key = |who: Option<CombatantId>| {
            who.and_then(|who| state.combatants.key.get(who.slot())).copied().unwrap_or(0)
        };
        let rolled = state.rolled.binary_search_by_key(&(subject, rule), |&(who, rule, _)| (who, rule));
        let count = rolled.map_or(0, |place| state.rolled[place].2);
        occasion = Occasion { attacker: key(other), start: count.into(), target: key(subject), ..occasion };
    }
    let fact = fact.map(|fact| &fact.event);
    Setting { ruleset, rules, state, level, subject, other, fact, hit: None, occasion }
}

fn count_roll(state: &mut State, rule: RuleId, subject: Option<CombatantId>) {
    match state.rolled.binary_search_by_key(&(subject, rule), |&(who, rule, _)| (who, rule)) {
        Ok(place) => state.rolled[place].2 = state.rolled[place].2.wrapping_add(1),
        Err(place) => state.rolled.insert(place, (subject, rule, 1)),
    }
}

/// Reads what the amounts of a rule are made of, and keeps it until the rule has done what it does.
pub(super) fn read_amounts(
    work: &mut Work<'_>,
    rule: RuleId,
    fact: Option<&Fact>,
    parties: [Option<CombatantId>; 2],
    cause: u64,
) {
    let readings = &work.rules.rule_plans[rule.index()].readings;
    if readings.is_empty() {
        return;
    }
    let first = work.state.readings.partition_point(|read| read.cause <= cause);
    for (place, &reading) in readings.iter().enumerate() {
        let setting = setting(work.ruleset, work.level, work.state, rule, fact, parties);
        let value = setting.read(reading).unwrap_or_default();
        work.state.readings.insert(first + place, Read { cause, rule, value });
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
