//! Which open hitboxes touch which parts in a tick.
//!
//! *Gather:* every open hitbox and every part, with a box about its whole way. *Grid:* the pairs whose boxes meet.
//! *Sweep:* which of these touch, and when. The order of what comes out does not depend on the grid.

mod beam_line;
mod bodies;
mod candidate;
mod grid;
mod obstacles;
mod parts;
mod past;
mod posed;
mod share;

pub use beam_line::BeamLine;
pub(crate) use candidate::HitCandidate;
pub(crate) use obstacles::{Barrier, InTheWay, Stop, held_at};
pub(crate) use parts::{PartsNow, hide_parts};
pub(crate) use past::{keep_past, obstacles_of, past_body};
pub(crate) use posed::Posed;
pub(crate) use share::{Division, Share};

use glam::Vec3;

use crate::geometry::{Core, Impact, Motion, Solid, Swept, Way, sweep};
use crate::ids::*;
use crate::ruleset::{Attack, Form, Prefer, Rules, TemplatePlan};
use crate::side_by_side;
use crate::state::{BodyAt, SwingAt};

use bodies::Standing;
use grid::Grid;
use posed::{box_of_way, posed_bounds};

/// The buffers of the room.
#[derive(Clone, Debug, Default)]
pub(crate) struct Detection {
    pub(crate) bodies: Vec<Body>,
    pub(crate) posed: Posed,
    /// Bodies that the host stops in this tick.
    pub(crate) stops: Vec<Stop>,
    /// Changes of hidden parts in this tick, by slot.
    pub(crate) hidden: Vec<(u32, u64)>,
    /// The ways of the parts of posed bodies, body after body.
    pub(crate) ways: Vec<Motion>,
    pub(crate) hitboxes: Vec<OpenHitbox>,
    standing: Vec<Standing>,
    grid: Grid,
    pub(crate) division: Division,
    pub(crate) shares: Vec<Share>,
    pub(crate) touches: Vec<Touching>,
    pub(crate) clashes: Vec<Clashing>,
    pub(crate) beams: Vec<BeamLine>,
    /// Swings and targets that met, for stage 4.
    pub(crate) candidates: Vec<HitCandidate>,
}

/// A standing combatant with parts, on its way through the tick.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Body {
    pub(crate) id: CombatantId,
    pub(crate) template: TemplateId,
    pub(crate) motion: Motion,
    /// Which of its parts are broken or hidden, and how large they are.
    pub(crate) now: PartsNow,
    /// Where its parts begin among those of posed bodies, if it is one.
    pub(crate) posed: Option<u32>,
    /// The farthest that its parts may be, where the host is asked for them when a hitbox comes near.
    pub(crate) asked: Option<f32>,
    /// So many ticks ago; only hitboxes that are rewound as far touch it.
    pub(crate) back: u16,
}

/// A hitbox of a swing on its way through the tick.
#[derive(Clone, Copy, Debug)]
pub(crate) struct OpenHitbox {
    /// Its swing, and the swing's place.
    pub(crate) id: SwingId,
    pub(crate) swing: SwingAt,
    pub(crate) attack: AttackId,
    pub(crate) attacker: Option<CombatantId>,
    /// The projectile, from 1; 0 if there is none; and its place.
    pub(crate) body: u16,
    pub(crate) flying: BodyAt,
    pub(crate) hitbox: u16,
    pub(crate) group: u16,
    pub(crate) layers: u32,
    pub(crate) swept: Swept,
    /// Its core as the tick begins, seen from its carrier's place.
    pub(crate) start: Solid,
    /// A box about its whole way: its middle and half of its edges.
    pub(crate) bounds: (Vec3, Vec3),
    /// How far a point of it gets from where it starts, at most.
    pub(crate) farthest: f32,
    /// The time from which an obstacle holds it; above 1 if none does.
    pub(crate) held_from: f32,
    /// By how many ticks its targets are rewound.
    pub(crate) back: u16,
}

/// A hitbox and a part that touch.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Touching {
    pub(crate) hitbox: u32,
    pub(crate) body: u32,
    pub(crate) part: u16,
    pub(crate) impact: Impact,
    /// How far along a beam, in metres; 0 for what is none.
    pub(crate) depth: f32,
}

/// Two swings whose hitboxes touch, by their places; the lower is named first.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Clashing {
    pub(crate) swings: [SwingId; 2],
    pub(crate) toi: f32,
    pub(crate) point: Vec3,
}

impl Body {
    /// The ways of its parts in its own frame, if it is posed.
    fn ways<'a>(&self, template: &TemplatePlan, ways: &'a [Motion]) -> Option<&'a [Motion]> {
        let first = self.posed? as usize;
        ways.get(first..first + template.parts.len())
    }

    /// A part of it on its way; none if it is broken and gone.
    pub(crate) fn part(&self, rules: &Rules, ways: &[Motion], part: usize) -> Option<Swept> {
        let template = rules.template_plan(self.template);
        let plan = &template.parts[part];
        Some(match self.ways(template, ways) {
            Some(ways) => Swept::on_path(self.now.posed(plan, part)?, ways[part], self.motion),
            None => Swept::fixed(self.now.still(plan, part)?, self.motion),
        })
    }

    /// A box along the axes that holds the whole way of all its parts: its middle and half of its edges.
    fn bounds(&self, template: &TemplatePlan, ways: &[Motion], up: usize) -> (Vec3, Vec3) {
        if let Some(reach) = self.asked {
            let half_way = self.motion.travel() * 0.5;
            return (self.motion.from.at + half_way, half_way.abs() + Vec3::splat(reach));
        }
        let size = self.now.size();
        let posed = self.ways(template, ways).map(|ways| posed_bounds(template, ways, up, size));
        let grown = if size == 1.0 { template.bounds } else { template.bounds.scaled(size) };
        let parts = posed.unwrap_or(grown);
        let half_way = self.motion.travel() * 0.5;
        let mut middle = self.motion.from.at + half_way;
        let mut half = half_way.abs();
        if self.motion.is_upright(up) {
            middle[up] += (parts.low + parts.high) * 0.5;
            for axis in 0..3 {
                half[axis] += if axis == up { (parts.high - parts.low) * 0.5 } else { parts.wide };
            }
        } else {
            half += Vec3::splat(parts.reach);
        }
        (middle, half)
    }
}

impl OpenHitbox {
    /// Whether a part that is carried by `motion`, which turns by at most `spin`, comes near: neither stays far from the box about the hitbox's
    /// way, nor too far from where the hitbox starts for both to meet in the tick.
    fn is_near(&self, core: &Core, motion: &Motion, spin: f32) -> bool {
        let (middle, half) = self.bounds;
        let start = motion.from.apply(core.middle);
        let travel = motion.travel();
        // No point of it strays farther from the way of its middle, straight beside its carrier's.
        let size = core.size + spin * core.middle.length();
        let half_way = travel * 0.5;
        let apart = (start + half_way - middle).abs();
        let near = half + half_way.abs() + Vec3::splat(size * 1.002 + 0.002);
        let meets = apart.x <= near.x && apart.y <= near.y && apart.z <= near.z;
        meets && self.swept.may_reach(&self.start, start, size, travel)
    }
}

impl Detection {
    /// Forgets everything that belongs to another state, and keeps the memory.
    pub(crate) fn forget(&mut self) {
        self.candidates.clear();
        self.beams.clear();
        self.hitboxes.clear();
        self.bodies.clear();
        self.begin_tick();
        self.posed.waiting.clear();
    }

    /// Forgets what the last tick left.
    pub(crate) fn begin_tick(&mut self) {
        self.posed.begin_tick();
        self.stops.clear();
    }

    /// A body that the host was asked about in this tick, if it answered.
    pub(crate) fn answered(&self, who: CombatantId) -> Option<&Body> {
        if self.hitboxes.is_empty() {
            return None;
        }
        self.bodies.iter().find(|body| body.id == who && body.asked.is_some() && body.posed.is_some())
    }

    /// Finds the pairs of hitboxes and bodies whose boxes meet.
    pub(crate) fn find_pairs(&mut self, rules: &Rules) {
        let Detection { division, shares, grid, hitboxes, bodies, ways, .. } = self;
        let shares = division.deal(hitboxes.len(), shares);
        if !hitboxes.is_empty() {
            let past = hitboxes.iter().any(|open| open.back > 0);
            grid.fill(rules, bodies, ways, division.count(hitboxes.len()));
            side_by_side::each(shares, |share| share.find_pairs(grid, hitboxes, bodies, past));
        }
    }

    /// The places of bodies that the host is asked about, by rising id; each once.
    pub(crate) fn asked(&mut self) -> Vec<u32> {
        if self.bodies.iter().all(|body| body.asked.is_none()) {
            return Vec::new();
        }
        let asked = |&(_, body): &(u32, u32)| self.bodies[body as usize].asked.map(|_| body);
        let pairs = self.shares.iter().flat_map(|share| &share.pairs);
        let mut asked: Vec<u32> = pairs.filter_map(asked).collect();
        asked.sort_unstable_by_key(|&body| self.bodies[body as usize].id);
        asked.dedup();
        asked
    }

    /// Finds all touches among the pairs, in the order of hitboxes, then of bodies, then of parts.
    pub(crate) fn find_touches(&mut self, rules: &Rules) {
        let Detection { division, shares, hitboxes, bodies, ways, touches, .. } = self;
        let shares = &mut shares[..division.count(hitboxes.len())];
        side_by_side::each(shares, |share| share.find_touches(rules, hitboxes, (bodies, ways)));
        touches.clear();
        match shares {
            [only] => std::mem::swap(touches, &mut only.touches),
            all => all.iter_mut().for_each(|share| touches.append(&mut share.touches)),
        }
    }

    /// Finds which hitboxes of attacks that meet others touch each other: the first touch of each two swings.
    pub(crate) fn find_clashes(&mut self, rules: &Rules) {
        self.clashes.clear();
        let may = |open: &OpenHitbox| rules.attack(open.attack).clash;
        if self.hitboxes.iter().filter(|open| may(open).is_some()).count() < 2 {
            return;
        }
        for (i, one) in self.hitboxes.iter().enumerate() {
            let Some(clash) = may(one) else { continue };
            for other in &self.hitboxes[i + 1..] {
                let Some(against) = may(other).filter(|_| other.swing != one.swing) else { continue };
                let meet = clash.meets >> against.layer & 1 == 1 || against.meets >> clash.layer & 1 == 1;
                let own = one.attacker.is_some() && one.attacker == other.attacker;
                if !meet || own || !boxes_meet(one.bounds, other.bounds) {
                    continue;
                }
                if let Some(impact) = sweep(&one.swept, &other.swept) {
                    let swings = [one.id, other.id];
                    self.clashes.push(Clashing { swings, toi: impact.toi, point: impact.point });
                }
            }
        }
        self.clashes.sort_unstable_by_key(|clash| (clash.swings, clash.toi.to_bits()));
        self.clashes.dedup_by_key(|clash| clash.swings);
        self.clashes.sort_unstable_by_key(|clash| (clash.toi.to_bits(), clash.swings));
    }
}

/// The parts of a body that may touch a hitbox, on their way.
#[inline]
fn near_parts(
    rules: &Rules,
    open: &OpenHitbox,
    (bodies, ways): (&[Body], &[Motion]),
    body: u32,
    mut found: impl FnMut(u16, &Way<'_>),
) {
    let target = &bodies[body as usize];
    if open.attacker == Some(target.id) {
        return;
    }
    let template = rules.template_plan(target.template);
    if let Some(ways) = target.ways(template, ways) {
        let spin = target.motion.spin();
        for (part, (authored, way)) in template.parts.iter().zip(ways).enumerate() {
            if open.layers & 1 << authored.layer.index() == 0 {
                continue;
            }
            let about = authored.about * target.now.size();
            // The box is about a ball that holds the part all the while.
            let (middle, half) = box_of_way(about, way, &target.motion, spin);
            if boxes_meet(open.bounds, (middle, half))
                && open.swept.comes_near(&open.start, open.farthest, middle, half.x)
                && let Some(core) = target.now.posed(authored, part)
            {
                found(part as u16, &Swept::on_path(core, *way, target.motion).way());
            }
        }
        return;
    }
    let mut turning = None;
    for (part, authored) in template.parts.iter().enumerate() {
        if open.layers & 1 << authored.layer.index() == 0 {
            continue;
        }
        target.now.with_still(authored, part, |core| {
            let turning = *turning.get_or_insert_with(|| target.motion.whirling());
            if open.is_near(core, &target.motion, turning.map_or(0.0, |(_, spin)| spin)) {
                found(part as u16, &Way::carried(core, &target.motion, turning));
            }
        });
    }
}

fn boxes_meet((middle, half): (Vec3, Vec3), (other, other_half): (Vec3, Vec3)) -> bool {
    let (apart, near) = ((middle - other).abs(), half + other_half);
    apart.x <= near.x && apart.y <= near.y && apart.z <= near.z
}

/// What the attack prefers about a part; less is better.
pub(crate) fn rank(
    rules: &Rules,
    attack: &Attack,
    open: &OpenHitbox,
    target: &Body,
    touch: &Touching,
) -> i64 {
    match attack.prefer {
        Prefer::First => touch.impact.toi.to_bits().into(),
        Prefer::Multiplier => {
            let part = usize::from(touch.part);
            -rules.template(target.template).parts[part].multiplier_when(target.now.is_broken(part)).to_raw()
        }
        Prefer::Nearest => {
            let from = match attack.form {
                Form::Beam(_) => return touch.depth.to_bits().into(),
                _ => open.swept.carrier.at(touch.impact.toi).at,
            };
            (touch.impact.point - from).length().to_bits().into()
        }
    }
}
