//! How fast joints move: where a window would open, and what is too fast.

use crate::skeleton::Skeleton;
use crate::turns::distance;

/// How many moments of a second are looked at, where no rate is given.
pub(crate) const RATE: u32 = 60;

/// How fast a joint moves in an animation, in the frame of the body.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Speed {
    /// The joint, by its number.
    pub joint: usize,
    /// The most, in metres a second, over a step.
    pub most: f64,
    /// When that step begins, in seconds from the start.
    pub at: f64,
    /// The first and the last moment at which it is faster than half of the most, around that moment.
    pub fast: [f64; 2],
    /// How far it goes in all, in metres.
    pub way: f64,
}

impl Skeleton {
    /// How fast each joint moves in an animation, looked at so many times a second; empty for an animation that is not there.
    pub fn speeds(&self, animation: usize, rate: u32) -> Vec<Speed> {
        let rate = rate.max(1);
        if animation >= self.animations.len() {
            return Vec::new();
        }
        let moments: Vec<f64> = self.moments(animation, rate).collect();
        let mut ways = vec![Vec::with_capacity(moments.len()); self.joints.len()];
        let mut before = None;
        for &seconds in &moments {
            let placed = self.placed(&self.stance(animation, seconds));
            if let Some(before) = before.replace(placed.clone()) {
                let before: Vec<crate::turns::Local> = before;
                for ((ways, now), then) in ways.iter_mut().zip(&placed).zip(&before) {
                    ways.push(distance(now.at, then.at));
                }
            }
        }
        let rate = f64::from(rate);
        ways.iter()
            .enumerate()
            .map(|(joint, ways)| {
                let most =
                    ways.iter().copied().fold(0.0, |most: f64, way| if way > most { way } else { most });
                let top = ways.iter().position(|&way| way == most).unwrap_or(0);
                let first = ways[..top].iter().rposition(|&way| way < most * 0.5).map_or(0, |slow| slow + 1);
                let last = ways[top.min(ways.len())..].iter().position(|&way| way < most * 0.5);
                let last = last.map_or(ways.len(), |slow| top + slow);
                let moment = |step: usize| moments.get(step).copied().unwrap_or(0.0);
                let fast = [moment(first), moment(last)];
                Speed { joint, most: most * rate, at: moment(top), fast, way: ways.iter().sum() }
            })
            .collect()
    }

    /// The joints that an animation moves fastest and that carry no other, by their speed: hands, feet, tips of weapons.
    pub fn fastest_ends(&self, animation: usize, rate: u32) -> Vec<Speed> {
        let mut carries = vec![false; self.joints.len()];
        for parent in self.joints.iter().filter_map(|joint| joint.parent) {
            carries[parent] = true;
        }
        let mut ends = self.speeds(animation, rate);
        ends.retain(|speed| !carries[speed.joint]);
        ends.sort_by(|a, b| b.most.total_cmp(&a.most).then(a.joint.cmp(&b.joint)));
        ends
    }
}
