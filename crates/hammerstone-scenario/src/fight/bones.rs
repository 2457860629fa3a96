//! Bodies whose parts follow the joints of a skeleton: what each plays, tick by tick.

use std::collections::BTreeMap;

use hammerstone::attack::SwingView;
use hammerstone::geometry::{Frame, Pose};
use hammerstone::ids::CombatantId;
use hammerstone::{Encounter, Life, View};
use hammerstone_motion::{Animator, Clip};
use hammerstone_rules::{Bound, Motion, Rig};

/// Slower than this a body stands, in metres a second.
const STANDS: f32 = 0.05;

/// What one body plays, and how far it has walked.
#[derive(Clone, Debug, Default)]
struct Puppet {
    animator: Animator,
    /// Where it was at the last step.
    at: Option<[f32; 3]>,
    /// Seconds of its walk.
    walked: f64,
}

/// What all bodies with a skeleton play.
#[derive(Clone, Debug, Default)]
pub(super) struct Bones(BTreeMap<CombatantId, Puppet>);

impl Bones {
    /// Orders the poses of the coming tick for everyone who stands and has a skeleton: parts, and hitboxes of swings.
    ///
    /// *Rule:* a body plays the animation of its latest swing that has one, at the time that the swing has reached; one that moves walks;
    /// any other is idle. In the tick in which it joins, a body is at rest; in that in which a swing begins, it goes on with what it did
    /// before. The dead stay as they lie.
    pub(super) fn pose(&mut self, motion: &Motion, encounter: &mut Encounter) {
        if motion.rigs.is_empty() {
            return;
        }
        let mut orders = Vec::new();
        let view = encounter.view();
        let seconds = 1.0 / f64::from(view.rules().rate());
        let standing: Vec<CombatantId> =
            view.combatants().filter(|&who| view.life(who) == Life::Standing).collect();
        self.0.retain(|who, _| standing.binary_search(who).is_ok());
        for &who in &standing {
            let Some(bound) = view.template(who).and_then(|template| motion.template(template)) else {
                continue;
            };
            let rig = &motion.rigs[bound.rig];
            let puppet = self.0.entry(who).or_default();
            let swings: Vec<SwingView> = view.swings_of(who).collect();
            let clip = puppet.clip(motion, bound, &view, who, &swings, seconds);
            puppet.animator.play(&rig.skeleton, clip, rig.blend);
            let joints = puppet.animator.poses(&rig.skeleton);
            // A body that is larger has longer bones, too.
            let size = view.size(who).map_or(1.0, |size| size.to_f64() as f32);
            let grown = |pose: Pose| Pose { at: pose.at.map(|x| x * size), ..pose };
            let poses = |bound: &Bound| -> Vec<Pose> {
                let of = |joint: &Option<usize>| joint.map_or(Pose::IDENTITY, |joint| grown(joints[joint]));
                bound.joints.iter().map(of).collect()
            };
            let mut hitboxes = Vec::new();
            for swing in &swings {
                let played = motion.attack(swing.attack).filter(|played| played.bound.rig == bound.rig);
                if let Some(played) = played.filter(|played| played.bound.joints.iter().any(Option::is_some))
                {
                    hitboxes.push((swing.id, poses(&played.bound)));
                }
            }
            orders.push((who, poses(bound), hitboxes));
        }
        for (who, parts, hitboxes) in &orders {
            encounter.orders().pose_parts(*who, Frame::Body, parts);
            for (swing, poses) in hitboxes {
                encounter.orders().guide_hitboxes(*swing, Frame::Body, poses);
            }
        }
    }
}

impl Puppet {
    /// What it plays at the end of the coming tick.
    fn clip(
        &mut self,
        motion: &Motion,
        bound: &Bound,
        view: &View<'_>,
        who: CombatantId,
        swings: &[SwingView],
        tick: f64,
    ) -> Clip {
        let rig: &Rig = &motion.rigs[bound.rig];
        let at = view.pose(who).map(|pose| pose.at);
        let speed = self.at.zip(at).map_or(0.0, |(before, at)| {
            let square: f32 =
                before.iter().zip(at).fold(0.0, |sum, (before, at)| sum + (at - before) * (at - before));
            f64::from(square.sqrt()) / tick
        });
        self.at = at;
        for swing in swings.iter().rev() {
            if let Some(played) = motion.attack(swing.attack).filter(|played| played.bound.rig == bound.rig) {
                let seconds = f64::from(swing.whole.passed + 1) * tick;
                return Clip { of: swing.id.number() + 1, ..Clip::once(Some(played.animation), seconds) };
            }
        }
        if rig.walk.is_some() && speed > f64::from(STANDS) {
            let pace = rig.walk_speed.map_or(1.0, |walk| speed / f64::from(walk));
            self.walked += tick * pace;
            return Clip::again(rig.walk, self.walked);
        }
        Clip::again(rig.idle, f64::from(view.tick() + 1) * tick)
    }
}
