//! A combatant becomes one of another template.

use crate::Fixed;
use crate::event::{CombatantTransformed, HealthChange, SwingEnd, Why};
use crate::gauges;
use crate::ids::*;
use crate::state::SwingAt;
use crate::swing;
use crate::work::Work;

/// Ends what hangs on the old template: swings, contacts, shields and parts. Life, team, statuses, what others have struck, and the shares of
/// health and gauges stay. Health stays at 1 point at least. One who comes to share a pool has what is left of that.
pub(crate) fn transform(work: &mut Work<'_>, subject: CombatantId, to: TemplateId) {
    let slot = subject.slot();
    let from = work.state.combatants.template[slot];
    if from == to {
        return;
    }
    work.state.set_step(subject, None);
    swing::drop_press(work.state, subject);
    for index in SwingAt::all(&work.state.swings) {
        if work.state.swings[index].attacker == Some(subject) {
            if swing::lives_on(work.rules, work.state, index) {
                swing::free_hands(work.state, index);
            } else {
                swing::end_swing(work, index, SwingEnd::Cancelled);
            }
        }
    }
    for index in SwingAt::all(&work.state.swings) {
        swing::part_from(work, index, subject, Why::Superseded);
    }
    gauges::lapse_own_shields(work.state, work.log, subject);
    let entry = work.rules.template(to);
    gauges::share_pool(work.rules, work.state, subject, false);
    work.state.combatants.template[slot] = to;
    gauges::share_pool(work.rules, work.state, subject, true);
    let combatants = &mut work.state.combatants;
    combatants.own_max[slot] = work.rules.own_health(to) as i32;
    combatants.be_whole(slot, entry.hidden_at_first());
    combatants.part_poses.clear(slot);
    work.rooms.detection.posed.arrive(slot);
    let (health, old) = (i64::from(combatants.health[slot]), i64::from(combatants.max[slot]));
    let pooled = gauges::pooled(work.rules, work.state, subject);
    let max = pooled.map_or_else(|| gauges::maximum_of(work.rules, work.state, subject), |(_, max)| max);
    let own = Fixed::ratio(health * max, old).nearest().clamp(1, max);
    let kept = pooled.map_or(own, |(left, _)| left);
    let combatants = &mut work.state.combatants;
    combatants.max[slot] = max as i32;
    if pooled.is_some() {
        combatants.own_max[slot] = max as i32;
    }
    work.log.publish(CombatantTransformed { subject, from, to, health: kept, max });
    if kept != health || max != old {
        gauges::set_health(work.rules, work.state, work.log, subject, kept, old, HealthChange::Maximum);
    }
    gauges::change_gauges(work.rules, work.state, work.log, subject);
    for &(shield, points) in &work.rules.template(to).shields {
        gauges::raise_shield(work.state, work.log, subject, shield, points, None);
    }
}
