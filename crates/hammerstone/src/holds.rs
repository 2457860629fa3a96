//! Holds: one combatant has another, which goes where it goes.
//!
//! A hit begins one. Each has one holder and one who is held, and one end: its time is up, its holder has lost so much, either dies or leaves,
//! it is let go, or its holder is held in turn. No one is held twice, and no one who is held holds.

use crate::detect::Detection;
use crate::event::{HoldBegan, HoldEnded, Why};
use crate::geometry::{Placement, Pose};
use crate::ids::*;
use crate::ruleset::{Grip, Rules};
use crate::state::{Hold, State, StatusAt, Swing, next};
use crate::statuses::{self, Giving};
use crate::terms::Life;
use crate::work::Work;

/// A hit that landed, and that its target survived, holds it if the attack says so and nothing is in the way of that.
pub(crate) fn begin(work: &mut Work<'_>, swing: &Swing, held: CombatantId) {
    let Some(Grip { lasts, status, .. }) = work.rules.attack(swing.attack).holds else { return };
    let Some(holder) = swing.attacker.filter(|&holder| holder != held) else { return };
    let state = &*work.state;
    let stand = [holder, held].iter().all(|&who| state.combatants.life_of(who) == Life::Standing);
    if !stand || state.holds.iter().any(|hold| hold.held == held || hold.held == holder) {
        return;
    }
    // One who is held lets go first.
    while let Some(place) = work.state.holds.iter().position(|hold| hold.holder == held) {
        end(work, place, Why::Superseded);
    }
    let (attack, since) = (swing.attack, work.state.tick);
    let number = next(&mut work.state.next_hold);
    let ends = lasts.map(|ticks| since.saturating_add(ticks));
    work.state.combatants.goal_ticks[held.slot()] = 0;
    work.state.holds.push(Hold { number, held, holder, attack, since, ends, lost: 0 });
    work.log.publish(HoldBegan { hold: number, held, holder, attack });
    if let Some(status) = status {
        statuses::apply(work, Giving::plain(held, status, Some(holder)));
    }
}

/// Those who are held go with their holders.
pub(crate) fn carry(state: &mut State, rules: &Rules, detection: &mut Detection) {
    let tick = state.tick;
    for &Hold { held, holder, attack, since, .. } in &state.holds {
        let Some(Grip { at, .. }) = rules.attack(attack).holds else { continue };
        let combatants = &mut state.combatants;
        let (from, to) = (holder.slot(), held.slot());
        combatants.pose_before[to] = carried(combatants.pose_before[from], at);
        combatants.pose[to] = carried(combatants.pose[from], at);
        combatants.goal_ticks[to] = 0;
        if since + 1 == tick {
            detection.posed.arrive(to);
        }
    }
}

/// A pose in the frame of a holder, in the world.
fn carried(holder: Pose, at: Pose) -> Pose {
    let place = Placement::from(holder).with_inner(Placement::from(at));
    Pose::from(place).settled().unwrap_or(holder)
}

/// Holds whose time is up end.
pub(crate) fn expire(work: &mut Work<'_>) {
    let tick = work.state.tick;
    while let Some(place) =
        work.state.holds.iter().position(|hold| hold.ends.is_some_and(|ends| ends <= tick))
    {
        work.log.begin_root();
        end(work, place, Why::Done);
    }
    work.log.source.root = 0;
}

/// A combatant has lost health, and lives: what it holds may break free.
pub(crate) fn note_loss(work: &mut Work<'_>, holder: CombatantId, points: i64) {
    if work.state.holds.is_empty() {
        return;
    }
    let mut place = 0;
    while let Some(hold) = work.state.holds.get_mut(place) {
        if hold.holder == holder {
            hold.lost = hold.lost.saturating_add(points);
            let breaks_after = work.rules.attack(hold.attack).holds.and_then(|grip| grip.breaks_after);
            if breaks_after.is_some_and(|points| hold.lost >= points) {
                end(work, place, Why::Broken);
                // Its status may have brought about the end of others.
                place = 0;
                continue;
            }
        }
        place += 1;
    }
}

/// Holds between a combatant and others end, in the order in which they began.
pub(crate) fn end_of(work: &mut Work<'_>, who: CombatantId, why: Why) {
    while let Some(place) = work.state.holds.iter().position(|hold| hold.held == who || hold.holder == who) {
        end(work, place, why);
    }
}

/// All holds end.
pub(crate) fn end_all(work: &mut Work<'_>, why: Why) {
    while !work.state.holds.is_empty() {
        end(work, 0, why);
    }
}

fn end(work: &mut Work<'_>, place: usize, why: Why) {
    let Hold { number, held, holder, attack, since, .. } = work.state.holds.remove(place);
    let lasted = work.state.tick - since;
    work.log.publish(HoldEnded { hold: number, held, holder, lasted, why });
    let status = work.rules.attack(attack).holds.and_then(|grip| grip.status);
    let Some(status) = status else { return };
    // Not the same status from another source, which the one who is held bore before.
    let own = |at: &StatusAt| {
        let application = &work.state.applications[*at];
        application.status == status && application.source == Some(holder) && application.runs()
    };
    let given = work.state.statuses_on(held).find(own);
    if let Some(index) = given {
        statuses::lift(work, index, Why::Done);
    }
}
