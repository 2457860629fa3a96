//! When an attack does what, and how far it reaches: for tables and checks.

use glam::Vec3;

use super::{Attack, AttackPlan, Rules, Ruleset};
use crate::geometry::{Axis, Placement};
use crate::ids::*;

/// The times of an attack, in ticks from the start of a swing; a charge comes before.
#[derive(Clone, Debug, PartialEq)]
pub struct Timings {
    /// The least and the most that it is held, for attacks that are charged.
    pub charge: Option<(u32, u32)>,
    /// Ticks before the first window; none where the host's markers decide.
    pub startup: Option<u32>,
    /// First and last tick of each window, counted from 1.
    pub windows: Vec<(u32, u32)>,
    /// Ticks from the end of the last window until the attacker's hands are free; from the first, for what leaves the hand.
    pub recovery: u32,
    /// Ticks until the swing is over; the guaranteed end where the host's markers decide.
    pub total: u32,
    /// Ticks until the attacker's hands are free.
    pub frees: u32,
    /// Ticks from one start to the next of the same attacker, as its hands and the attack's cooldown allow.
    pub again: u32,
    /// Whether it starts only while its attacker's hands are free: not alongside, without a wait, and no chain or cancel leads to it.
    pub free_hands: bool,
    /// The ticks in which a press goes on with the chain, counted from 1, and the attack that comes next.
    pub chain: Option<(u32, u32, String)>,
    /// For attacks that stun whom they strike: by how many ticks the stun of a hit in the window's first tick outlasts the attacker's
    /// bound hands; below 0 the target is free first. What staggers only after several hits is not foreseen.
    pub advantage: Option<i64>,
    /// The farthest from the up axis through the attacker's place, in metres, that it touches while it is open; for a projectile
    /// as far as it flies on the level. None where only the host or the bearer's own parts know.
    pub reach: Option<f32>,
}

impl Timings {
    /// Whether a press may go on with the chain before the first window opens: then it cuts every hit off.
    pub fn is_cut_off(&self) -> bool {
        let opens = self.windows.first().map(|(first, _)| *first);
        self.chain.as_ref().zip(opens).is_some_and(|((press, ..), opens)| *press <= opens)
    }
}

impl Ruleset {
    /// When `attack` does what; none for one that this ruleset does not have.
    pub fn timings(&self, attack: AttackId) -> Option<Timings> {
        let rules = &*self.0;
        let authored = rules.attacks.get(attack.index())?;
        let plan = rules.attack_plan(attack);
        let windows: Vec<(u32, u32)> = match authored.marked {
            Some(_) => Vec::new(),
            None => plan.windows.iter().map(|window| (window.opens + 1, window.closes)).collect(),
        };
        let chain = authored.chain.as_ref();
        let cooldown = authored.cooldown.as_ref().map_or(0, |cooldown| match cooldown.from_end {
            true => plan.total.saturating_add(cooldown.lasts),
            false => cooldown.lasts,
        });
        Some(Timings {
            charge: authored.charge.map(|charge| (charge.least, charge.most)),
            startup: windows.first().map(|(first, _)| first - 1),
            windows,
            recovery: authored.recovery,
            total: plan.total,
            frees: plan.frees,
            again: plan.frees.max(cooldown),
            free_hands: !rules.leads_to(attack) && !authored.alongside && authored.buffer == 0,
            chain: chain.map(|chain| (chain.opens + 1, chain.lapses, chain.next.clone())),
            advantage: rules.advantage(authored, plan),
            reach: authored.form.ways().reach(rules, authored, plan),
        })
    }
}

impl Rules {
    /// Whether a chain or a cancel leads to an attack while hands are bound.
    fn leads_to(&self, attack: AttackId) -> bool {
        (0..self.attacks.len()).map(AttackId::new).any(|from| {
            let plan = self.attack_plan(from);
            let chains = plan.next.is_some_and(|next| next == attack || from == attack);
            chains || plan.cancels.iter().any(|cancel| cancel.into.contains(&attack))
        })
    }

    fn advantage(&self, attack: &Attack, plan: &AttackPlan) -> Option<i64> {
        let given = attack.inflicts.iter().map(|given| self.status(given.status));
        let stun = given.filter(|status| status.stuns).filter_map(|status| status.lasts).max()?;
        let first = plan.windows.first().filter(|_| attack.marked.is_none())?.opens + 1;
        let bound = i64::from(plan.frees) + i64::from(attack.stop.attacker) - i64::from(first);
        Some(i64::from(stun) - bound)
    }

    /// How far a point is from the up axis, in metres.
    pub(crate) fn level(&self, at: Vec3) -> f32 {
        let Vec3 { x, y, z } = at;
        match self.up {
            Axis::X => Vec3::new(0.0, y, z).length(),
            Axis::Y => Vec3::new(x, 0.0, z).length(),
            Axis::Z => Vec3::new(x, y, 0.0).length(),
        }
    }

    /// The farthest that the hitboxes of an attack reach from the up axis while they are open, in metres.
    pub(crate) fn reach_of_hitboxes(&self, attack: &Attack, plan: &AttackPlan) -> f32 {
        // After the last key they are at rest.
        let last = plan.path.0.last().map_or(0, |key| key.at);
        let until = |from: u32, to: u32| from..=to.min(last.max(from));
        let clocks = plan.windows.iter().flat_map(|window| until(window.opens, window.closes));
        // Where markers decide, the window may open at any time.
        let clocks = clocks.chain(attack.marked.into_iter().flat_map(|end| until(0, end)));
        let reach = clocks.map(|clock| self.farthest(plan, clock));
        reach.fold(0.0, |most, reach| if reach > most { reach } else { most })
    }

    /// The farthest that any hitbox reaches at `clock`: the corners of its core, and its thickness.
    fn farthest(&self, plan: &AttackPlan, clock: u32) -> f32 {
        let placement = Placement::from(plan.path.at(clock));
        let mut most = 0.0;
        for (core, _) in &plan.cores {
            let (middle, half) = core.at(placement).bounds();
            for corner in 0..8 {
                let side = |axis: usize| if corner >> axis & 1 == 0 { half[axis] } else { -half[axis] };
                let at = middle + Vec3::new(side(0), side(1), side(2));
                let reach = self.level(at) + core.radius;
                most = if reach > most { reach } else { most };
            }
        }
        most
    }
}
