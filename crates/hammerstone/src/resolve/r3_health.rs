//! What harm and healing do to health, and statuses that last.

use crate::Fixed;
use crate::event::{Event, HealthChange, LedgerStep, Means, Note, Range};
use crate::ids::*;
use crate::lifecycle;
use crate::rolls::Occasion;
use crate::ruleset::{FirstBeat, Rules};
use crate::state::{Application, Life, next};
use crate::work::Work;

use super::r2_amount::{self, Sink, Start, Target};
use super::r4_fall;

/// Harm on its way to a target that stands.
#[derive(Clone, Copy, Debug)]
pub(super) struct Blow {
    pub(super) target: CombatantId,
    pub(super) source: Option<CombatantId>,
    /// Who gets the credit, where that was settled when the swing began.
    pub(super) credit: Option<CombatantId>,
    pub(super) means: Means,
    pub(super) hit: Option<u64>,
    /// The multiplier of the part that was struck.
    pub(super) part: Option<Fixed>,
    /// What the base amount is multiplied by, for attacks that are charged.
    pub(super) charge: Option<Fixed>,
}

/// Deals one blow: each kind with its own ledger, then one change of health, and the fall if it is gone.
/// Gives whether the target lives.
pub(super) fn deal(work: &mut Work<'_>, blow: &Blow, harms: impl Iterator<Item = (KindId, Start)>) -> bool {
    let Blow { target, source, means, hit, part, charge, .. } = *blow;
    let slot = target.slot();
    let cast = work.state.combatants.cast[slot];
    let from = i64::from(work.state.combatants.health[slot]);
    let (mut left, mut overkill) = (from, 0i64);
    let number = next(&mut work.state.next_blow);
    for (kind, start) in harms {
        let resistance = work.rules.cast(cast).resistance_to(kind);
        let kind_key = work.rules.kind_keys[kind.index()];
        let facing = Target { seed: work.state.seed, kind: kind_key, part, charge, resistance };
        let first = work.scratch.ledger.len() as u32;
        let amount = if work.scratch.keep_ledgers {
            work_out_and_cut(work.rules, start, facing, left, &mut work.scratch.ledger, &mut overkill)
        } else {
            work_out_and_cut(work.rules, start, facing, left, &mut (), &mut overkill)
        };
        left -= amount;
        let ledger = Range { start: first, end: work.scratch.ledger.len() as u32 };
        work.publish(Event::DamageDealt { kind, blow: number, hit, source, target, means, amount, ledger });
    }
    if left == from {
        return true;
    }
    work.state.combatants.health[slot] = left as i32;
    let max = work.state.combatants.max[slot].into();
    work.publish(Event::HealthChanged { subject: target, from, to: left, max, why: HealthChange::Damage });
    if left == 0 {
        r4_fall::fall(work, blow, overkill);
        return false;
    }
    if let Some(source) = source.filter(|&source| source != target) {
        work.state.combatants.note_harmer(slot, source, work.state.tick);
    }
    true
}

/// The amount that health loses: all of it, or what is left of health. What goes beyond is added to `overkill`.
fn work_out_and_cut(
    rules: &Rules,
    start: Start,
    facing: Target,
    left: i64,
    ledger: &mut impl Sink,
    overkill: &mut i64,
) -> i64 {
    let amount = r2_amount::work_out(rules, start, facing, ledger);
    if amount <= left {
        return amount;
    }
    ledger.line(LedgerStep::Health, Fixed::whole(amount), Fixed::whole(left), Note::Left(left));
    *overkill = overkill.saturating_add(amount - left);
    left
}

/// Harm that no attack and no status deals; the target was seen to stand.
pub(crate) fn host_harm(
    work: &mut Work<'_>,
    target: CombatantId,
    kind: KindId,
    amount: Fixed,
    reason: ReasonId,
    source: Option<CombatantId>,
) {
    let means = Means::Host(reason);
    let blow = Blow { target, source, credit: None, means, hit: None, part: None, charge: None };
    deal(work, &blow, std::iter::once((kind, Start::Named(amount))));
}

/// Healing; the target was seen to stand.
pub(crate) fn heal(
    work: &mut Work<'_>,
    target: CombatantId,
    points: u32,
    means: Means,
    source: Option<CombatantId>,
) {
    let slot = target.slot();
    let combatants = &mut work.state.combatants;
    let (from, max) = (i64::from(combatants.health[slot]), i64::from(combatants.max[slot]));
    let amount = i64::from(points).min(max - from);
    let (to, excess) = (from + amount, i64::from(points) - amount);
    combatants.health[slot] = to as i32;
    work.publish(Event::HealApplied { source, target, means, amount, excess });
    if amount > 0 {
        work.publish(Event::HealthChanged { subject: target, from, to, max, why: HealthChange::Heal });
    }
}

/// Applies a status, or renews it where it lasts already; the subject was seen to stand.
pub(crate) fn apply_status(
    work: &mut Work<'_>,
    subject: CombatantId,
    status: StatusId,
    source: Option<CombatantId>,
) {
    let authored = work.rules.status(status);
    let state = &mut *work.state;
    let tick = state.tick;
    let ends = authored.lasts.map(|lasts| tick + lasts);
    let known = { state.borne_by(subject) }.find(|&place| state.applications[place].status == status);
    if let Some(place) = known {
        let known = &mut state.applications[place];
        known.ends = ends;
        let application = known.id;
        work.publish(Event::StatusRenewed { application, subject, status, ends });
        return;
    }
    let id = ApplicationId(next(&mut state.next_application));
    let due = authored.beat.as_ref().map(|beat| match beat.first {
        FirstBeat::After => tick + beat.every,
        FirstBeat::AtOnce => tick,
    });
    let source_key = source
        .filter(|&source| state.combatants.life_of(source) != Life::Gone)
        .map_or(0, |source| state.combatants.key[source.slot()]);
    let application = Application {
        id,
        subject,
        status,
        source,
        source_key,
        applied: tick,
        ends,
        due,
        beats: 0,
        over: false,
    };
    state.applications.push(application);
    let combatants = &mut state.combatants;
    combatants.borne_lists.push(&mut combatants.borne[subject.slot()], id);
    work.publish(Event::StatusApplied { application: id, subject, source, status, ends });
    if authored.stuns {
        lifecycle::stun(work, subject);
    }
}

/// One beat of the status at `index`.
pub(crate) fn beat(work: &mut Work<'_>, index: usize) {
    let rules = work.rules;
    let application = &mut work.state.applications[index];
    let authored = rules.status(application.status);
    let Some(beat) = &authored.beat else { return };
    application.due = application.due.map(|due| due + beat.every);
    application.beats += 1;
    let Application { id, subject, status, source, .. } = *application;
    let occasion = Occasion {
        attacker: application.source_key,
        means: authored.key,
        start: application.applied.into(),
        target: work.state.combatants.key[subject.slot()],
        ordinal: application.beats.into(),
    };
    work.publish(Event::StatusBeat { application: id, subject, status });
    let (target, means) = (subject, Means::Status(status));
    let blow = Blow { target, source, credit: None, means, hit: None, part: None, charge: None };
    deal(work, &blow, beat.harm.iter().map(|&harm| (harm.kind, Start::Rolled(harm, occasion))));
}
