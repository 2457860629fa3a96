//! Hitboxes of a tick in shares, which may be looked at side by side.

use std::ops::Range;

use crate::geometry::Motion;
use crate::ruleset::Rules;

use super::grid::Grid;
use super::{Body, OpenHitbox, Touching, touch_parts};

/// How detection is divided.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Division {
    /// Into how many shares at most.
    pub(crate) shares: usize,
    /// How many hitboxes a share has at least.
    pub(crate) least: usize,
}

impl Default for Division {
    fn default() -> Division {
        Division { shares: 1, least: 1 }
    }
}

/// A run of swings and their hitboxes; then a run of all hitboxes, and what they meet.
#[derive(Clone, Debug, Default)]
pub(crate) struct Share {
    pub(crate) run: Range<usize>,
    pub(crate) hitboxes: Vec<OpenHitbox>,
    /// Hitboxes and bodies with boxes that meet, by hitbox.
    pub(super) pairs: Vec<(u32, u32)>,
    pub(super) touches: Vec<Touching>,
}

impl Division {
    /// How many shares so many hitboxes make, or swings.
    pub(super) fn count(self, hitboxes: usize) -> usize {
        self.shares.min(hitboxes / self.least.max(1)).max(1)
    }

    /// Deals out so many, as evenly as they go, and gives the shares that have some.
    pub(crate) fn deal(self, whole: usize, shares: &mut Vec<Share>) -> &mut [Share] {
        let count = self.count(whole);
        if shares.len() < count {
            shares.resize_with(count, Share::default);
        }
        let begin = |place: usize| whole * place / count;
        for (place, share) in shares.iter_mut().enumerate() {
            let Share { run, hitboxes, pairs, touches } = share;
            *run = if place < count { begin(place)..begin(place + 1) } else { 0..0 };
            hitboxes.clear();
            pairs.clear();
            touches.clear();
        }
        &mut shares[..count]
    }
}

impl Share {
    /// Finds the bodies with boxes that meet those of its hitboxes; of one time, where there are any of the past.
    pub(super) fn find_pairs(&mut self, grid: &Grid, hitboxes: &[OpenHitbox], bodies: &[Body], past: bool) {
        let Share { run, pairs, .. } = self;
        grid.find_pairs(run.clone(), hitboxes, pairs);
        if past {
            pairs.retain(|&(open, body)| hitboxes[open as usize].back == bodies[body as usize].back);
        }
    }

    /// Finds all touches among its pairs, in the order of hitboxes, then of bodies, then of parts.
    pub(super) fn find_touches(
        &mut self,
        rules: &Rules,
        hitboxes: &[OpenHitbox],
        (bodies, ways): (&[Body], &[Motion]),
    ) {
        let Share { pairs, touches, .. } = self;
        let mut first = 0;
        for run in pairs.chunk_by(|(one, _), (other, _)| one == other) {
            let hitbox = run[0].0;
            for &(_, body) in run {
                touch_parts(rules, &hitboxes[hitbox as usize], hitbox, (bodies, ways), body, touches);
            }
            // The grid gives a hitbox's bodies in any order.
            touches[first..].sort_unstable_by_key(|touch| (touch.body, touch.part));
            first = touches.len();
        }
    }
}
