//! Which open volumes touch which parts in a tick.
//!
//! *Gather:* every open volume and every part, with a box about its whole way. *Grid:* the pairs whose boxes meet.
//! *Sweep:* which of these touch, and when. The order of what comes out does not depend on the grid.

mod gather;
mod grid;
mod obstacles;

pub(crate) use gather::{gather_bodies, gather_volumes};
pub(crate) use obstacles::{first_in_the_way, reach_of_beam};

use glam::Vec3;

use crate::geometry::{Impact, Motion, Swept, sweep};
use crate::ids::*;
use crate::ruleset::{Attack, Form, Prefer, Rules, Sharing};
use crate::state::Contact;

use grid::Grid;

/// A beam as it stood at the end of a tick, for drawing.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct BeamLine {
    /// Its swing.
    pub swing: SwingId,
    /// Where it begins, in metres in the world.
    pub from: [f32; 3],
    /// Where it stops: at its reach, or at an obstacle, or at the last target that it struck.
    pub to: [f32; 3],
}

/// Scratch memory of detection.
#[derive(Clone, Debug, Default)]
pub(crate) struct Detection {
    pub(crate) bodies: Vec<Body>,
    pub(crate) volumes: Vec<OpenVolume>,
    grid: Grid,
    pairs: Vec<(u32, u32)>,
    pub(crate) touches: Vec<Touching>,
    pub(crate) clashes: Vec<Clashing>,
    pub(crate) beams: Vec<BeamLine>,
    /// Contacts that are being parted.
    pub(crate) parted: Vec<Contact>,
    /// Combatants whose place is free when the tick is over.
    pub(crate) leaving: Vec<CombatantId>,
}

/// A standing combatant with parts, on its way through the tick.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Body {
    pub(crate) id: CombatantId,
    pub(crate) cast: CastId,
    pub(crate) motion: Motion,
}

/// A volume of a swing on its way through the tick.
#[derive(Clone, Copy, Debug)]
pub(crate) struct OpenVolume {
    /// The place of its swing.
    pub(crate) swing: u32,
    pub(crate) attack: AttackId,
    pub(crate) attacker: Option<CombatantId>,
    /// The thrown body, from 1; 0 if there is none; and its place.
    pub(crate) body: u16,
    pub(crate) flying: u32,
    pub(crate) volume: u16,
    pub(crate) group: u16,
    pub(crate) layers: u32,
    pub(crate) swept: Swept,
    /// The time from which an obstacle holds it; above 1 if none does.
    pub(crate) held_from: f32,
}

/// A volume and a part that touch.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Touching {
    pub(crate) volume: u32,
    pub(crate) body: u32,
    pub(crate) part: u16,
    pub(crate) impact: Impact,
    /// How far along a beam, in metres; 0 for what is none.
    pub(crate) depth: f32,
}

/// Two swings whose volumes touch, by their places; the lower is named first.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Clashing {
    pub(crate) swings: [SwingId; 2],
    pub(crate) toi: f32,
    pub(crate) point: Vec3,
}

impl OpenVolume {
    /// The struck list that it is on.
    pub(crate) fn list(&self, attack: &Attack) -> u16 {
        match attack.sharing {
            Sharing::Swing => 0,
            Sharing::Group => self.group,
            Sharing::Body => self.body,
        }
    }
}

impl Detection {
    /// Finds all touches, in the order of volumes, then of bodies, then of parts.
    pub(crate) fn find_touches(&mut self, rules: &Rules) {
        self.touches.clear();
        if self.volumes.is_empty() {
            return;
        }
        self.grid.fill(rules, &self.bodies);
        self.pairs.clear();
        self.grid.find_pairs(&self.volumes, &mut self.pairs);
        for &(volume, item) in &self.pairs {
            let open = &self.volumes[volume as usize];
            let (body, part) = self.grid.owner(item);
            let target = &self.bodies[body as usize];
            if open.attacker == Some(target.id) {
                continue;
            }
            let core = rules.cast(target.cast).parts[usize::from(part)].core;
            if let Some(impact) = sweep(&open.swept, &Swept::fixed(core, target.motion))
                && impact.toi <= open.held_from
            {
                self.touches.push(Touching { volume, body, part, impact, depth: 0.0 });
            }
        }
        self.touches.sort_unstable_by_key(|touch| (touch.volume, touch.body, touch.part));
    }

    /// Finds which volumes of attacks that meet others touch each other: the first touch of each two swings.
    pub(crate) fn find_clashes(&mut self, rules: &Rules, swings: impl Fn(u32) -> SwingId) {
        self.clashes.clear();
        let may = |open: &OpenVolume| rules.attack(open.attack).clash;
        if self.volumes.iter().filter(|open| may(open).is_some()).count() < 2 {
            return;
        }
        for (i, one) in self.volumes.iter().enumerate() {
            let Some(clash) = may(one) else { continue };
            for other in &self.volumes[i + 1..] {
                let Some(against) = may(other).filter(|_| other.swing != one.swing) else { continue };
                let meet = clash.meets >> against.layer & 1 == 1 || against.meets >> clash.layer & 1 == 1;
                let own = one.attacker.is_some() && one.attacker == other.attacker;
                if !meet || own || !boxes_meet(one.swept.bounds(), other.swept.bounds()) {
                    continue;
                }
                if let Some(impact) = sweep(&one.swept, &other.swept) {
                    let swings = [swings(one.swing), swings(other.swing)];
                    self.clashes.push(Clashing { swings, toi: impact.toi, point: impact.point });
                }
            }
        }
        self.clashes.sort_unstable_by_key(|clash| (clash.swings, clash.toi.to_bits()));
        self.clashes.dedup_by_key(|clash| clash.swings);
        self.clashes.sort_unstable_by_key(|clash| (clash.toi.to_bits(), clash.swings));
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
    open: &OpenVolume,
    target: &Body,
    touch: &Touching,
) -> i64 {
    match attack.prefer {
        Prefer::First => touch.impact.toi.to_bits().into(),
        Prefer::Multiplier => -rules.cast(target.cast).parts[usize::from(touch.part)].multiplier.to_raw(),
        Prefer::Nearest => {
            let from = match attack.form {
                Form::Beam(_) => return touch.depth.to_bits().into(),
                _ => open.swept.carrier.at(touch.impact.toi).at,
            };
            (touch.impact.point - from).length().to_bits().into()
        }
    }
}
