//! Whatever is hardly meant in skeletons, and in what follows them.

use hammerstone::ids::AttackId;
use hammerstone_motion::{Remark, Skeleton};
use hammerstone_rules::{Played, Rig};

use super::rules::Checked;
use super::{Doubt, doubt_of};

/// No joint is farther from where it began, in metres, when an animation begins again.
const CLOSED: f32 = 0.05;

/// Looks through a skeleton that was read from a file: finding 26.
pub fn check_skeleton(file: &str, skeleton: &Skeleton) -> Vec<Doubt> {
    skeleton.remarks().iter().map(|remark| doubt_of(26, file, told(remark), &remark.fix)).collect()
}

fn told(remark: &Remark) -> String {
    format!("{}: {}", remark.place, remark.text)
}

impl Checked<'_> {
    /// Findings 22 to 26.
    pub(super) fn skeletons(&self) -> Vec<Doubt> {
        let mut doubts = Vec::new();
        for rig in &self.motion.rigs {
            for remark in rig.skeleton.remarks() {
                doubts.push(self.doubt_of_rig(
                    26,
                    rig,
                    format!("`{}`, {}", rig.file, told(remark)),
                    &remark.fix,
                ));
            }
            doubts.extend(self.repeats(rig));
        }
        for (attack, played) in self.motion.attacks() {
            doubts.extend(self.times_of(attack, played));
            doubts.extend(self.far_hitboxes(attack, played));
            doubts.extend(self.bodies_of(attack, played));
        }
        doubts
    }

    /// Animations that begin again elsewhere than they end.
    fn repeats(&self, rig: &Rig) -> Vec<Doubt> {
        let mut doubts = Vec::new();
        for number in rig.idle.into_iter().chain(rig.walk) {
            let animation = &rig.skeleton.animations()[number];
            let ends =
                [0.0, animation.seconds].map(|at| rig.skeleton.poses(&rig.skeleton.stance(number, at)));
            let apart = ends[0].iter().zip(&ends[1]).map(|(one, other)| {
                let square: f32 = one.at.iter().zip(other.at).map(|(a, b)| (a - b) * (a - b)).sum();
                square.sqrt()
            });
            let far = apart.enumerate().max_by(|a, b| a.1.total_cmp(&b.1));
            if let Some((joint, far)) = far.filter(|(_, far)| *far > CLOSED) {
                let message = format!(
                    "animation `{}` of skeleton `{}` begins again, and joint `{}` is {far:.2} m from where it began",
                    animation.name,
                    rig.name,
                    rig.skeleton.joints()[joint].name
                );
                let fix = "let its last key be as its first; between them it jumps in a tick";
                doubts.push(self.doubt_of_rig(26, rig, message, fix));
            }
        }
        doubts
    }

    /// Windows outside of the animation, or before it has begun.
    fn times_of(&self, attack: AttackId, played: &Played) -> Vec<Doubt> {
        let rules = &self.ruleset;
        let mut doubts = Vec::new();
        let animation = &self.motion.rigs[played.bound.rig].skeleton.animations()[played.animation];
        let name = rules.attacks()[attack.index()].name();
        let Some(times) = rules.timings(attack) else { return doubts };
        let long = (animation.seconds * f64::from(rules.rate()) - 1.0e-3).ceil() as u32;
        if let Some((first, last)) = times.windows.iter().find(|(_, last)| *last > long) {
            let message = format!(
                "a window of `{name}` is open in ticks {first} to {last}, and its animation `{}` ends with tick {long}",
                animation.name
            );
            let fix =
                "behind its end the body stands still: open the window earlier, or take a longer animation";
            doubts.push(self.doubt(22, attack, message, fix));
        }
        let follows = played.bound.joints.iter().any(Option::is_some);
        if follows && times.windows.first().is_some_and(|(first, _)| *first <= 2) {
            let message =
                format!("a window of `{name}` opens in its first two ticks, before its animation moves it");
            let fix = "give it two ticks of `startup`, or let its first marker be later";
            doubts.push(self.doubt(25, attack, message, fix));
        }
        doubts
    }

    /// Hitboxes that get farther from their body, or in a tick, than they may.
    fn far_hitboxes(&self, attack: AttackId, played: &Played) -> Vec<Doubt> {
        let rules = &self.ruleset;
        let skeleton = &self.motion.rigs[played.bound.rig].skeleton;
        let name = rules.attacks()[attack.index()].name();
        let limit = rules.move_limit();
        let joints: Vec<usize> = played.bound.joints.iter().flatten().copied().collect();
        let speeds = skeleton.speeds(played.animation, rules.rate());
        let in_a_tick = |joint: usize| speeds[joint].most as f32 / rules.rate() as f32;
        let fastest =
            joints.iter().map(|&joint| (joint, in_a_tick(joint))).max_by(|a, b| a.1.total_cmp(&b.1));
        let mut doubts = Vec::new();
        let mut find = |message: String| {
            let fix = "raise `move-limit` in `[rules]`, or look at the animation";
            doubts.push(self.doubt(23, attack, message, fix));
        };
        if let Some((joint, far)) = fastest.filter(|(_, far)| *far > limit) {
            let joint = &skeleton.joints()[joint].name;
            find(format!(
                "joint `{joint}` of `{name}` moves {far:.2} m in a tick, and the limit is {limit} m"
            ));
        }
        let reach = skeleton.reach(&joints);
        if reach > limit {
            find(format!("a hitbox of `{name}` gets {reach:.2} m from its body, and the limit is {limit} m"));
        }
        doubts
    }

    /// Templates that use an attack with the animation of a skeleton that is not theirs.
    fn bodies_of(&self, attack: AttackId, played: &Played) -> Vec<Doubt> {
        let rules = &self.ruleset;
        let rig = &self.motion.rigs[played.bound.rig].name;
        let name = rules.attacks()[attack.index()].name();
        let users = &self.users()[attack.index()];
        let others = users
            .iter()
            .filter(|&&user| self.motion.template(user).is_none_or(|bound| bound.rig != played.bound.rig));
        others
            .map(|user| {
                let user = rules.templates()[user.index()].name();
                let message = format!("`{user}` uses attack `{name}`, which plays an animation of skeleton `{rig}`");
                let fix = format!("give `{user}` that skeleton: `skeleton = \"{rig}\"`; without it, nothing moves the attack's hitboxes");
                self.doubt(24, attack, message, &fix)
            })
            .collect()
    }

    fn doubt_of_rig(&self, number: u16, rig: &Rig, message: String, fix: &str) -> Doubt {
        super::doubt(number, &self.code, rig.span.clone(), message, fix)
    }
}
