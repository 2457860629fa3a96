//! What becomes of one blow: gates, intercepts, amount, health, and the death if health is gone.
//!
//! The files sort in the order of what they do.

mod answers;
mod breaks;
mod buffers;
mod preview;
mod r1_gates;
mod r2_amount;
mod r2_steps;
mod r3_deal;
mod r3_heal;
mod r3_passed;
mod r3_spared;
mod r4_death;
mod turned_away;

pub(crate) use buffers::Blows;
pub(crate) use preview::preview;
#[cfg(feature = "figures")]
pub(crate) use preview::work_out_again;
pub use preview::{Preview, PreviewDamage};
pub use r2_amount::Luck;
pub(crate) use r2_amount::{AmountContext, Start};
pub(crate) use r3_deal::{By, deal, host_damage, kill_on_expiry, rule_damage};
pub(crate) use r3_heal::{heal, host_heal, rule_heal};
pub(crate) use r3_passed::deal_echoes;

use crate::Fixed;
use crate::budget::Source;
use crate::detect::{Detection, HitCandidate};
use crate::event::{CutAt, Gate, GaugeWhy, HitLanded, Listener, Operand, SwingEnd, Via};
use crate::gauges::Gauging;
use crate::geometry::Pose;
use crate::hooks::{HitContext, Terms, Verdict};
use crate::ids::*;
use crate::log::Log;
use crate::orders::Pending;
use crate::rolls::Occasion;
use crate::ruleset::{Form, Policy, Rules, Sharing, Trigger, When};
use crate::sheet::StatsOf;
use crate::state::{Charging, Contact, EntryAt, State, StruckEntry, Swing, SwingAt, next};
use crate::statuses::{Because, Granting};
use crate::swing::Known;
use crate::terms::Life;
use crate::topic;
use crate::view::View;
use crate::work::Work;
use crate::{gauges, holds, statuses, swing};

use r1_gates::{Meeting, Refused};
use r3_deal::Outcome;

/// One meeting of a swing and a target: it lands, or the first gate that does not let it through refuses it.
pub(crate) fn blow(work: &mut Work<'_>, candidate: &HitCandidate) {
    let Some(index) = work.state.swing_index(candidate.swing) else { return };
    work.state.counts.attempts += 1;
    let entry = entry_in_life(work.rules, work.state, &mut work.rooms.known, index, candidate);
    note_stay(work, index, entry);
    let admitted = meeting(work, index, entry, candidate).admit();
    if admitted.is_ok() {
        keep_aura(work, index, entry, candidate);
    }
    match admitted.and_then(|()| meeting(work, index, entry, candidate).pass()) {
        Ok(()) => match ask_intercepts(work, index, candidate) {
            None => land(work, index, entry, candidate),
            Some((hook, verdict)) => intercepted(work, index, entry, candidate, hook, verdict),
        },
        Err(refused) => {
            let Refused { gate, found, .. } = refused;
            r1_gates::refuse(work, index, entry, candidate, refused);
            match gate {
                Gate::Invulnerable => {
                    let attack = work.rules.attack(work.state.swings[index].attack);
                    if attack.passing_spends {
                        spend_turn(work.state, index, entry);
                    }
                }
                Gate::Parried | Gate::Deflected => {
                    spend_turn(work.state, index, entry);
                    turned_away::turn_away(work, index, candidate, gate, found);
                }
                _ => {}
            }
        }
    }
}

fn meeting<'a>(
    work: &'a Work<'_>,
    index: SwingAt,
    entry: EntryAt,
    candidate: &'a HitCandidate,
) -> Meeting<'a> {
    Meeting::of(work.rules, work.level, work.state, work.log.source.pass, index, entry, candidate)
}

/// Whoever is inside an aura and vulnerable bears its statuses.
fn keep_aura(work: &mut Work<'_>, index: SwingAt, entry: EntryAt, candidate: &HitCandidate) {
    let swing = work.state.swings[index];
    let attack = work.rules.attack(swing.attack);
    if attack.aura.is_empty() || !meeting(work, index, entry, candidate).is_vulnerable() {
        return;
    }
    // Without a contact there would be no leaving.
    let target = candidate.target;
    let Work { state, rooms, .. } = work;
    let touches = |contact: &Contact| !contact.over;
    if rooms.known.contacts.find(&state.contacts, &state.swings, index, target, touches).is_some() {
        statuses::give(work, &attack.aura, target, swing.attacker, swing.credit, Some(swing.id));
    }
}

/// The place of what the swing remembers of the target, on the meeting's struck list: whatever life the target is in.
fn entry_in_life(
    rules: &Rules,
    state: &mut State,
    known: &mut Known,
    index: SwingAt,
    candidate: &HitCandidate,
) -> EntryAt {
    let place = entry_of(state, known, index, candidate.target, candidate.list);
    let target = candidate.target;
    let same_tenant = state.combatants.has_place(target);
    let life = if same_tenant { state.combatants.lives[target.slot()] } else { 0 };
    let anew = rules.attack(state.swings[index].attack).policy == Policy::Life;
    let entry = &mut state.struck[place];
    if entry.life != life {
        entry.life = life;
        if anew {
            (entry.turns, entry.turns_in_window) = (0, 0);
        }
    }
    place
}

/// The place of what the swing remembers of a target on one of its struck lists.
fn entry_of(state: &mut State, known: &mut Known, index: SwingAt, target: CombatantId, list: u16) -> EntryAt {
    let is = |entry: &StruckEntry| entry.list == list;
    if let Some(place) = known.struck.find(&state.struck, &state.swings, index, target, is) {
        return EntryAt::new(place);
    }
    let swing = &mut state.swings[index];
    let place = state.struck.push(&mut swing.struck, StruckEntry::new(target, list));
    known.struck.add(swing.id, target, place);
    EntryAt::new(place)
}

fn ask_intercepts(
    work: &mut Work<'_>,
    index: SwingAt,
    candidate: &HitCandidate,
) -> Option<(HookId, Verdict)> {
    let swing = &work.state.swings[index];
    let attempt = HitContext {
        swing: swing.id,
        attack: swing.attack,
        attacker: swing.attacker,
        target: candidate.target,
        part: candidate.part,
        window: swing.window,
        point: candidate.impact.point.to_array(),
        normal: candidate.impact.normal.to_array(),
        view: View::of(work.ruleset, work.state),
    };
    let kept = &mut work.rooms.blows.terms;
    kept.clear();
    let mut terms = Terms { hook: HookId::numbered(0), kept };
    let verdict = work.host.intercept(&attempt, &mut terms);
    let hook = terms.hook;
    if verdict == Verdict::Proceed {
        return None;
    }
    kept.clear();
    Some((hook, verdict))
}

fn intercepted(
    work: &mut Work<'_>,
    index: SwingAt,
    entry: EntryAt,
    candidate: &HitCandidate,
    hook: HookId,
    verdict: Verdict,
) {
    let deflected = verdict == Verdict::Deflect;
    let found = match verdict {
        Verdict::Refuse(why) | Verdict::Retry(why) => Operand::Refused(hook, why),
        Verdict::Proceed | Verdict::Deflect => Operand::Deflected(hook),
    };
    let refused = Refused { gate: Gate::Intercepted, wanted: Operand::Passed, found };
    r1_gates::refuse(work, index, entry, candidate, refused);
    if !matches!(verdict, Verdict::Retry(_)) {
        spend_turn(work.state, index, entry);
    }
    if deflected {
        turned_away::deflect(work, index, candidate);
    }
}

/// For a policy by entry: whether the target has stayed since it was last met, and whether it came back too early for a turn in this stay.
fn note_stay(work: &mut Work<'_>, index: SwingAt, entry: EntryAt) {
    let state = &mut *work.state;
    let Swing { attack, age, .. } = state.swings[index];
    let Policy::Entry(least) = work.rules.attack(attack).policy else { return };
    let (tick, entry) = (state.tick, &mut state.struck[entry]);
    if entry.seen + 1 < tick {
        entry.stay_spent = entry.turns > 0 && age - entry.last < least;
    }
    entry.seen = tick;
}

/// The swing has used up a turn at the target.
fn spend_turn(state: &mut State, index: SwingAt, entry: EntryAt) {
    let Swing { window, age, .. } = state.swings[index];
    let entry = &mut state.struck[entry];
    if entry.window != window {
        (entry.window, entry.turns_in_window) = (window, 0);
    }
    entry.turns += 1;
    entry.turns_in_window += 1;
    entry.last = age;
    entry.stay_spent = true;
}

fn land(work: &mut Work<'_>, index: SwingAt, entry: EntryAt, candidate: &HitCandidate) {
    let rules = work.rules;
    if work.log.keep_gates {
        // The next fact is that of the hit.
        let Work { level, state, log, .. } = &mut *work;
        let (seq, pass) = (log.next(), log.source.pass);
        Meeting::of(rules, level, state, pass, index, entry, candidate).note(seq, &mut log.tick.gates);
    }
    spend_turn(work.state, index, entry);
    let state = &mut *work.state;
    let swing = &mut state.swings[index];
    let attack = rules.attack(swing.attack);
    let target = candidate.target;
    let entry = &mut state.struck[entry];
    let first = swing.targets == 0;
    swing.targets = swing.targets.saturating_add(u16::from(entry.hits == 0));
    entry.hits += 1;
    let (ordinal, life) = (entry.hits, entry.life);
    state.counts.hits += 1;
    take_target(work.rules, work.state, &mut work.rooms.detection, index, candidate);
    let hit = next(&mut work.state.next_hit);
    let swing = work.state.swings[index];
    let landed = HitLanded {
        hit,
        swing: swing.id,
        attack: swing.attack,
        attacker: swing.attacker,
        target,
        life,
        part: candidate.part,
        window: swing.window,
        group: (attack.sharing == Sharing::Group).then_some(candidate.list),
        body: (candidate.body > 0).then_some(candidate.body),
        point: candidate.impact.point.to_array(),
        normal: candidate.impact.normal.to_array(),
    };
    let seq = work.log.publish(landed);
    order_costs(work.state, work.log, &mut work.rooms.blows, seq);
    let from = r1_gates::origin(work.state, &swing, candidate);
    answers::push(work.rules, work.state, work.log, &swing, hit, candidate, from);
    answers::stop(work.rules, work.state, work.log, swing.attack, swing.attacker, target, hit);
    let blow = blow_of(work.rules, work.state, &swing, candidate, hit, ordinal, from);
    let damages =
        attack.damage.iter().map(|damage| (damage.damage_type, Start::Rolled(damage.low, damage.high)));
    let charge = match swing.charging {
        Charging::Released(share) => share,
        _ => Fixed::ZERO,
    };
    let mut because =
        Because::of(landed, charge, occasion_of(work.rules, work.state, &swing, target, ordinal));
    let mut lives = true;
    if !attack.damage.is_empty() {
        let Outcome { lives: lived, lost, critical } = deal(work, &blow, damages);
        lives = lived;
        (because.hit.amount, because.hit.critical) = (lost, critical);
        work.state.swings[index].guarded |= work.rooms.blows.tally.guard.is_some();
        if lived && lost > 0 {
            gauges::wear_part(work.rules, work.state, work.log, target, candidate.part, lost);
            answers::stagger(work, &blow, hit, lost, attack.stagger_damage);
        }
    }
    work.rooms.blows.terms.clear();
    if lives {
        for &(gauge, points) in &attack.drains {
            let gauging = Gauging { subject: target, gauge, why: GaugeWhy::Hit, source: swing.attacker };
            statuses::gauge_by(work, gauging, -points);
        }
        lives = work.state.combatants.life_of(target) == Life::Standing;
    }
    if let Some(attacker) = swing.attacker.filter(|_| first && !attack.costs.is_empty()) {
        statuses::pay_landed(work, attacker, swing.attack);
    }
    // Only damaging hits trigger these statuses.
    let strikes = !attack.damage.is_empty();
    if lives {
        if let Some((low, high)) = attack.heals {
            heal(work, &blow, Start::Rolled(low, high));
        }
        statuses::give_for(work, &attack.inflicts, target, &swing, &because);
        if strikes {
            let other = swing.attacker;
            let because = Some(&because);
            statuses::grants(work, Granting { on: Trigger::Struck, bearer: target, other, because });
        }
    }
    if lives {
        holds::begin(work, &swing, target);
    }
    if let Some(attacker) = swing.attacker {
        statuses::give_for(work, &attack.inflicts_self, attacker, &swing, &because);
        if lives && strikes {
            let (other, because) = (Some(target), Some(&because));
            statuses::grants(work, Granting { on: Trigger::Hits, bearer: attacker, other, because });
        }
    }
    deal_echoes(work);
    let pose = Pose { at: candidate.impact.point.to_array(), ..Pose::IDENTITY };
    swing::child(work.rules, work.state, work.log, index, When::Hit, pose);
    count_body_hit(work, candidate, attack.form);
}

/// What intercepts ask for the hit is ordered now that it has landed.
fn order_costs(state: &mut State, log: &mut Log, blows: &mut Blows, seq: u64) {
    let Source { pass, depth, root, .. } = log.source;
    for (hook, mut order) in blows.terms.costs.drain(..) {
        let listener = Listener::Hook(hook);
        let source = Source { heard: Some((seq, listener)), pass, depth: depth + 1, root };
        if log.budget.allows(source, || CutAt::Heard(listener, Some(topic::HIT_LANDED))) {
            let number = state.registrar.next_order();
            let Source { heard, depth, root, .. } = source;
            state.registrar.reserve_named(&order);
            order.tame_among(&state.given_poses);
            state.pending.push(Pending { order, number, heard, depth, root });
        } else {
            state.registrar.lapse(&order);
        }
    }
}

/// What the rolls of a hit depend on.
fn occasion_of(rules: &Rules, state: &State, swing: &Swing, target: CombatantId, ordinal: u32) -> Occasion {
    Occasion {
        attacker: swing.key,
        via: rules.attack_plan(swing.attack).key,
        start: swing.start.into(),
        target: state.combatants.key[target.slot()],
        ordinal: ordinal.into(),
    }
}

/// The blow of a meeting that lands.
fn blow_of(
    rules: &Rules,
    state: &State,
    swing: &Swing,
    candidate: &HitCandidate,
    hit: u64,
    ordinal: u32,
    from: Pose,
) -> AmountContext {
    let attack = rules.attack(swing.attack);
    let occasion = occasion_of(rules, state, swing, candidate.target, ordinal);
    let charge = match (swing.charging, attack.charge) {
        (Charging::Released(share), Some(charge)) => Some(Fixed::ONE + share * (charge.full - Fixed::ONE)),
        _ => None,
    };
    let dealer = match StatsOf::of(state, swing.attacker) {
        present @ StatsOf::Present(_) if attack.live => present,
        _ => StatsOf::Captured(swing.captured, swing.template),
    };
    AmountContext {
        credit: swing.credit,
        team: Some(swing.team),
        hit: Some(hit),
        part: Some(candidate.part),
        charge,
        way: Some((glam::Vec3::from_array(from.at), candidate.impact.point)),
        back: state.past.of(swing.id),
        speed: Some(candidate.speed),
        dealer,
        occasion: Some(occasion.drawn(state.seed)),
        absolute: attack.absolute,
        ..AmountContext::plain(candidate.target, swing.attacker, Via::Attack(swing.attack))
    }
}

/// A beam went through one more target in this tick, or stops at it: then it is drawn no farther.
fn take_target(
    rules: &Rules,
    state: &mut State,
    detection: &mut Detection,
    index: SwingAt,
    candidate: &HitCandidate,
) {
    let swing = &mut state.swings[index];
    swing.taken = swing.taken.saturating_add(1);
    let Form::Beam(beam) = rules.attack(swing.attack).form else { return };
    if swing.taken == beam.pierce.saturating_add(1) {
        // They stand by rising swing.
        let beams = &mut detection.beams;
        let first = beams.partition_point(|line| line.swing < candidate.swing);
        for line in beams[first..].iter_mut().take_while(|line| line.swing == candidate.swing) {
            line.stop_at(candidate.depth);
        }
    }
}

/// A projectile that has struck as many as it can ends.
fn count_body_hit(work: &mut Work<'_>, candidate: &HitCandidate, form: Form) {
    let Form::Projectile(projectile) = form else { return };
    let Some(place) = work.state.flying_index(candidate.swing, candidate.body) else { return };
    let body = &mut work.state.flying[place];
    body.struck += 1;
    if body.struck > projectile.pierce {
        let pose = Pose { at: candidate.impact.point.to_array(), ..body.pose };
        swing::end_body(work, place, SwingEnd::Spent, pose);
    }
}
