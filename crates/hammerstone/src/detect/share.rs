//! Hitboxes of a tick in shares, which may be looked at side by side.

use std::ops::Range;

use crate::geometry::{Batch, Impact, Line, Look, Motion, Pairs, Way, impact, sweep_ways};
use crate::ruleset::Rules;

use super::grid::Grid;
use super::{Body, OpenHitbox, Touching, near_parts};

/// A hitbox and a part, by their places.
#[derive(Clone, Copy, Debug)]
pub(super) struct Place {
    hitbox: u32,
    body: u32,
    part: u16,
}

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
    batch: Batch<wide::f32x8, Place>,
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
            let Share { run, hitboxes, pairs, touches, .. } = share;
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
        let Share { pairs, batch, touches, .. } = self;
        let mut looking = Looking { rules, hitboxes, bodies, ways, touches };
        for &(hitbox, body) in pairs.iter() {
            let open = &hitboxes[hitbox as usize];
            near_parts(rules, open, (bodies, ways), body, |part, way| {
                let place = Place { hitbox, body, part };
                let swing = open.swept.way();
                let (start, target) = (open.start.shifted(swing.place() - way.place()), way.start());
                match (start.line(), target.line()) {
                    (Some(one), Some(other)) => {
                        batch.add(&mut looking, place, &swing.beside(way, 1.0), &[one, other]);
                    }
                    _ => {
                        if let Some(impact) = sweep_ways(&swing, way, open.start, target) {
                            looking.touch(place, impact);
                        }
                    }
                }
            });
        }
        batch.finish(&mut looking);
        // The grid gives a hitbox's bodies in any order, and a batch the touches.
        let place = |touch: &Touching| (u64::from(touch.hitbox) << 32 | u64::from(touch.body), touch.part);
        touches.sort_unstable_by_key(place);
    }
}

/// What a share looks at, and what it finds.
struct Looking<'a> {
    rules: &'a Rules,
    hitboxes: &'a [OpenHitbox],
    bodies: &'a [Body],
    ways: &'a [Motion],
    touches: &'a mut Vec<Touching>,
}

impl Looking<'_> {
    fn touch(&mut self, Place { hitbox, body, part }: Place, impact: Impact) {
        if impact.toi <= self.hitboxes[hitbox as usize].held_from {
            self.touches.push(Touching { hitbox, body, part, impact, depth: 0.0 });
        }
    }

    /// A part on its way, as far as it asks where it is.
    fn with_part<T>(&self, place: Place, whirl: f32, ask: impl FnOnce(&Way<'_>) -> T) -> Option<T> {
        let target = &self.bodies[place.body as usize];
        let template = self.rules.template_plan(target.template);
        let part = usize::from(place.part);
        let plan = &template.parts[part];
        let Some(ways) = target.ways(template, self.ways) else {
            return target.now.with_still(plan, part, |core| ask(&Way::whirled(core, &target.motion, whirl)));
        };
        target.now.with_posed(plan, part, |core| match target.motion.turns {
            true => ask(&Way::within(core, &ways[part], &target.motion, whirl)),
            // As in a path within a carrier that does not turn, both ways are one.
            false => ask(&Way::whirled(core, &target.motion.with_inner(&ways[part]), whirl)),
        })
    }
}

impl Pairs for Looking<'_> {
    type Tag = Place;

    fn lines(&self, place: Place, t: f32, whirl: f32) -> Option<[Line<f32>; 2]> {
        let swing = self.hitboxes[place.hitbox as usize].swept.way();
        let lines = self.with_part(place, whirl, |part| {
            let origin = part.place();
            Some([swing.line_at(t, origin)?, part.line_at(t, origin)?])
        });
        lines.flatten()
    }

    fn found(&mut self, place: Place, t: f32, [one, other]: [Line<f32>; 2], look: &Look<f32>) {
        let lines = (&one.into(), &other.into());
        if let Some(impact) = self.with_part(place, 0.0, |part| impact(t, lines, part, look)) {
            self.touch(place, impact);
        }
    }
}
