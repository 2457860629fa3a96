//! Orders about the poses of parts and hitboxes. They are carried out when the moves of the tick are over.

use crate::detect::Posed;
use crate::geometry::{Placement, Pose};
use crate::orders::{Order, in_body};
use crate::state::State;

/// Carries out an order that was looked at before. A pose of the world is turned into the frame of its body.
pub(super) fn carry_out(state: &mut State, posed: &mut Posed, order: Order) {
    let State { combatants, given_poses, swings, hitbox_poses, .. } = state;
    match order {
        Order::PoseParts { subject, frame, poses } => {
            let body = Placement::from(combatants.pose[subject.slot()]);
            let poses = poses.of(given_poses).unwrap_or_default().iter();
            posed.pose(combatants, subject.slot(), poses.map(|&pose| in_body(body, frame, pose)));
        }
        Order::GuideHitboxes { swing, frame, poses } => {
            let Ok(place) = swings.binary_search_by_key(&swing, |swing| swing.id) else { return };
            let attacker = swings[place].attacker.map(|attacker| combatants.pose[attacker.slot()]);
            let body = Placement::from(attacker.unwrap_or(Pose::IDENTITY));
            let poses = poses.of(given_poses).unwrap_or_default().iter();
            posed.guide(hitbox_poses, &mut swings[place], poses.map(|&pose| in_body(body, frame, pose)));
        }
        _ => {}
    }
}
