//! From one animation to the next.

use hammerstone::geometry::Pose;

use crate::skeleton::{Skeleton, Stance};

/// A moment of an animation that a body plays.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Clip {
    /// The animation, by its number; the stance at rest if there is none.
    pub animation: Option<usize>,
    /// The time in it, in seconds.
    pub seconds: f64,
    /// Whether it begins again behind its end; otherwise the end stays.
    pub repeats: bool,
    /// What it is played for: the number of a swing. Another number is another clip, even with the same animation.
    pub of: u64,
}

impl Clip {
    /// A moment of an animation that is played once.
    pub const fn once(animation: Option<usize>, seconds: f64) -> Clip {
        Clip { animation, seconds, repeats: false, of: 0 }
    }

    /// A moment of an animation that begins again behind its end.
    pub const fn again(animation: Option<usize>, seconds: f64) -> Clip {
        Clip { animation, seconds, repeats: true, of: 0 }
    }
}

/// What one body plays, mixed with what it stood in before.
///
/// *Rule:* when a body goes over to another clip, the stance in which it stands is held; in the `n`th step after that, of `blend`, the share
/// of the new clip is `n / (blend + 1)`, and then all. Places are mixed along lines, turns evenly along the shorter arcs, each joint in the
/// frame of the one that carries it. A body that has played nothing yet begins with its first clip at once. It is the same for every start,
/// end and interruption.
#[derive(Clone, PartialEq, Debug, Default)]
pub struct Animator {
    playing: Option<(Option<usize>, u64)>,
    stance: Stance,
    held: Stance,
    /// Steps since the change, of how many.
    since: u32,
    over: u32,
}

impl Animator {
    /// One step, with the clip that is played at its end; `blend` steps lead over to a clip that is new.
    pub fn play(&mut self, skeleton: &Skeleton, clip: Clip, blend: u32) {
        let wanted = (clip.animation, clip.of);
        if self.playing != Some(wanted) {
            let first = self.playing.is_none();
            self.playing = Some(wanted);
            (self.since, self.over) = (0, if first { 0 } else { blend });
            self.held = std::mem::take(&mut self.stance);
        }
        self.since = self.since.saturating_add(1);
        let stance = match clip.animation {
            Some(animation) => {
                let length = skeleton.animations().get(animation).map_or(0.0, |animation| animation.seconds);
                let seconds = match clip.repeats && length > 0.0 {
                    true => clip.seconds % length,
                    false => clip.seconds,
                };
                skeleton.stance(animation, seconds)
            }
            None => skeleton.rest(),
        };
        self.stance = match self.since <= self.over {
            true => {
                let share = f64::from(self.since) / (f64::from(self.over) + 1.0);
                skeleton.between(&self.held, &stance, share)
            }
            false => stance,
        };
    }

    /// Where the joints are now, in the frame of the body; none before the first step.
    pub fn poses(&self, skeleton: &Skeleton) -> Vec<Pose> {
        skeleton.poses(&self.stance)
    }
}
