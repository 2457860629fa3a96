//! Stage 4: the meetings of the tick, each alone through *resolve*, so that a death takes effect before the next;
//! and clashes, in the same order. Then projectiles end that an obstacle held or whose time is up.

use crate::detect::{Clashing, HitCandidate, held_at};
use crate::event::{Event, HitClashed, SwingEnd};
use crate::geometry::Swept;
use crate::ids::SwingId;
use crate::resolve;
use crate::ruleset::Tie;
use crate::state::BodyAt;
use crate::swing;
use crate::work::Work;

/// In order of impact; of what comes at one time, clashes first, then by how far along a beam, then the swing that began first,
/// then the target in the lower place.
pub(super) fn resolve_in_order_of_impact(work: &mut Work<'_>) {
    let candidates = &mut work.rooms.detection.candidates;
    one_for_each_list_and_target(candidates);
    candidates.sort_unstable_by_key(|m| {
        (m.impact.toi.to_bits(), m.depth.to_bits(), m.swing, m.target, m.list, m.body)
    });
    let mut clash = 0;
    for place in 0..work.rooms.detection.candidates.len() {
        let candidate = work.rooms.detection.candidates[place];
        resolve_clashes(work, &mut clash, candidate.impact.toi);
        work.log.begin_root();
        resolve::blow(work, &candidate);
    }
    resolve_clashes(work, &mut clash, f32::INFINITY);
    work.rooms.detection.candidates.clear();
    end_bodies(work);
    work.log.source.root = 0;
}

/// Several hitboxes, parts and reports of one swing and target are one meeting, at the time of the first, on the part that is
/// preferred. Times are not negative, so that their bits sort as they do.
fn one_for_each_list_and_target(candidates: &mut Vec<HitCandidate>) {
    candidates.sort_unstable_by_key(|m| {
        (m.swing, m.target, m.list, m.impact.toi.to_bits(), m.body, m.part, m.rank)
    });
    candidates.dedup_by(|later, first| {
        let same = (later.swing, later.target, later.list) == (first.swing, first.target, first.list);
        if same && later.rank < first.rank {
            let (toi, body) = (first.impact.toi, first.body);
            *first = *later;
            (first.impact.toi, first.body) = (toi, body);
        }
        same
    });
}

/// Resolves the clashes from the one at `next` on, up to the time `until`.
fn resolve_clashes(work: &mut Work<'_>, next: &mut usize, until: f32) {
    while let Some(&clash) = work.rooms.detection.clashes.get(*next)
        && clash.toi <= until
    {
        *next += 1;
        resolve_clash(work, &clash);
    }
}

fn resolve_clash(work: &mut Work<'_>, clash: &Clashing) {
    let place = |id: SwingId| work.state.swing_index(id);
    let [Some(one), Some(other)] = clash.swings.map(place) else { return };
    let both = [one, other].map(|place| work.state.swings[place]);
    if both.iter().any(|swing| swing.ended.is_some() || swing.window == 0) {
        return;
    }
    let attacks = both.map(|swing| work.rules.attack(swing.attack).clash);
    let [Some(first), Some(second)] = attacks else { return };
    let (swing, attack, attacker) = (both[0].id, both[0].attack, both[0].attacker);
    let (against, target, point) = (both[1].id, both[1].attacker, clash.point.to_array());
    work.log.begin_root();
    let event =
        Event::HitClashed(HitClashed { swing, attack, attacker, against, target, point, toi: clash.toi });
    work.log.publish(event);
    let tied = first.tie == Tie::Both && second.tie == Tie::Both;
    if first.priority < second.priority || (first.priority == second.priority && tied) {
        swing::end_swing(work, one, SwingEnd::Clashed);
    }
    if second.priority < first.priority || (first.priority == second.priority && tied) {
        swing::end_swing(work, other, SwingEnd::Clashed);
    }
}

fn end_bodies(work: &mut Work<'_>) {
    for i in 0..work.rooms.detection.hitboxes.len() {
        let open = work.rooms.detection.hitboxes[i];
        if open.body > 0 && open.held_from <= 1.0 && work.state.flying[open.flying].ended.is_none() {
            let cores = work.rules.attack_plan(open.attack).cores.iter();
            let ways = cores.map(|&(core, _)| Swept::fixed(core, open.swept.carrier));
            let Some((impact, by)) = work.in_the_way_of(open.back).holds((open.id, open.body), ways) else {
                continue;
            };
            work.log.begin_root();
            let at = held_at(&open.swept.carrier, &impact, by);
            swing::stop_body(work, open.flying, &impact, by, at);
        }
    }
    for index in BodyAt::all(&work.state.flying) {
        let body = work.state.flying[index];
        if body.left == 0 {
            work.log.begin_root();
            swing::end_body(work, index, SwingEnd::Expired, body.pose);
        }
    }
}
