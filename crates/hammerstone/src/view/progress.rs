//! How far things have come: what animation, displays and sounds follow, also after a state was restored.

use super::View;
use crate::Fixed;
use crate::ids::*;
use crate::ruleset::{Attack, AttackPlan};
use crate::state::{Charging, Swing};
use crate::terms::Life;

/// Ticks that have passed of something that lasts.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct Progress {
    /// How many have passed, with the present one.
    pub passed: u32,
    /// Of how many in all, if that is known.
    pub of: Option<u32>,
}

impl Progress {
    /// How many are left, if that is known.
    pub fn left(self) -> Option<u32> {
        self.of.map(|of| of.saturating_sub(self.passed))
    }

    /// The share that has passed, from 0 to 1, if it is known how long it lasts.
    pub fn share(self) -> Option<f32> {
        self.of.map(|of| if self.passed >= of { 1.0 } else { self.passed as f32 / of as f32 })
    }
}

/// What a swing is at.
#[doc(alias("animation state", "attack phase"))]
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Phase {
    /// It is being charged.
    Charging,
    /// Before its first window.
    Startup,
    /// A window is open, counted from 1.
    Active(u16),
    /// Between two windows.
    Between,
    /// After its last window.
    Recovery,
}

/// A swing that runs.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct SwingView {
    /// Its id.
    pub id: SwingId,
    /// Its attack.
    pub attack: AttackId,
    /// Who swings, if anyone does.
    pub attacker: Option<CombatantId>,
    /// What it is at.
    pub phase: Phase,
    /// How far it is in that phase. Phases that the host's markers end have no known length.
    pub in_phase: Progress,
    /// How far it is from its start to its end, without a charge.
    pub whole: Progress,
    /// The share of the full charge with which it was released, for attacks that are charged.
    pub charge: Option<Fixed>,
    /// Whether it stood still in this tick, with its attacker.
    pub stopped: bool,
    /// Whether it binds its attacker's hands.
    pub busy: bool,
    /// How many targets it has struck.
    pub targets: u16,
    /// By how many ticks its targets are rewound ([`crate::orders::Orders::rewind`]).
    pub rewound: u16,
}

impl<'a> View<'a> {
    /// A swing that runs; none if it has ended, or has not begun.
    pub fn swing(&self, id: SwingId) -> Option<SwingView> {
        let place = self.swings.binary_search_by_key(&id, |swing| swing.id).ok()?;
        Some(&self.swings[place]).filter(|swing| swing.ended.is_none()).map(|swing| self.seen(swing))
    }

    /// All swings that run, in the order in which they began.
    #[inline]
    pub fn swing_views(&self) -> impl Iterator<Item = SwingView> + use<'a> {
        let view = *self;
        self.swings.iter().filter(|swing| swing.ended.is_none()).map(move |swing| view.seen(swing))
    }

    /// The swings of a combatant that run, in the order in which they began.
    pub fn swings_of(&self, who: CombatantId) -> impl Iterator<Item = SwingView> + use<'a> {
        let view = *self;
        let of = move |swing: &&Swing| swing.attacker == Some(who) && swing.ended.is_none();
        self.swings.iter().filter(of).map(move |swing| view.seen(swing))
    }

    /// The swings that are rewound, and those that were and ended in the last tick, each with by how many ticks ([`crate::orders::Orders::rewind`]), by rising id.
    pub fn rewound(&self) -> impl Iterator<Item = (SwingId, u16)> + use<'a> {
        self.flow.past.rewound.iter().copied()
    }

    // Inlined, so that what the caller does not look at is not worked out.
    #[inline(always)]
    fn seen(&self, swing: &Swing) -> SwingView {
        let (attack, plan) = (self.rules.attack(swing.attack), self.rules.attack_plan(swing.attack));
        let (phase, in_phase) = phase(swing, attack, plan);
        let charge = match swing.charging {
            Charging::Released(share) => attack.charge.map(|_| share),
            Charging::Held(..) => None,
        };
        SwingView {
            id: swing.id,
            attack: swing.attack,
            attacker: swing.attacker,
            phase,
            in_phase,
            whole: Progress { passed: swing.clock, of: attack.marked.is_none().then_some(plan.total) },
            charge,
            stopped: swing.steps == 0 && swing.age > 0,
            busy: swing.busy,
            targets: swing.targets,
            rewound: self.flow.past.of(swing.id),
        }
    }

    /// How long the body of one who is dead has lain, of how long until it is removed; none for one who is not dead.
    pub fn lying(&self, who: CombatantId) -> Option<Progress> {
        let slot = self.slot(who).filter(|&slot| self.combatants.life[slot] == Life::Dead)?;
        let corpse_time = self.rules.template(self.combatants.template[slot]).corpse_time;
        let removed = self.combatants.afterlife(slot).is_none_or(|afterlife| afterlife.back.is_none());
        let passed = self.tick - self.combatants.died[slot];
        Some(Progress { passed, of: corpse_time.filter(|_| removed) })
    }

    /// In how many ticks one who is dead or away returns; none for one who stands, or does not return by itself.
    pub fn returns_in(&self, who: CombatantId) -> Option<u32> {
        let (_, back) = self.lives(who)?;
        back.map(|back| back.saturating_sub(self.tick))
    }

    /// In how many ticks the next wave of a sequence comes; none while that is not settled.
    pub fn next_wave_in(&self, waves: WaveId) -> Option<u32> {
        let due = self.flow.waves.get(waves.index()).filter(|waves| waves.running)?.due?;
        Some(due.saturating_sub(self.tick))
    }

    /// How many times as large a combatant is as its template says ([`crate::orders::Orders::resize`]). None for one who is gone.
    pub fn size(&self, who: CombatantId) -> Option<Fixed> {
        Some(self.combatants.size[self.slot(who)?])
    }

    /// Whether a part of a combatant was hidden in the tick that ran last, by its template, by order or by a status. None for one who is
    /// gone, and for what is no part.
    pub fn is_hidden(&self, who: CombatantId, part: u16) -> Option<bool> {
        let slot = self.slot(who)?;
        let parts = self.rules.template(self.combatants.template[slot]).parts.len();
        (usize::from(part) < parts).then(|| part < 64 && self.combatants.hidden[slot] >> part & 1 == 1)
    }

    /// The label that the host gave a combatant ([`crate::orders::Orders::label`]); 0 unless it did. None for one who is gone.
    pub fn label(&self, who: CombatantId) -> Option<u64> {
        Some(self.combatants.label[self.slot(who)?])
    }
}

/// What a swing is at, and how far in it.
#[inline(always)]
fn phase(swing: &Swing, attack: &Attack, plan: &AttackPlan) -> (Phase, Progress) {
    let open = |passed, of| Progress { passed, of };
    if let Charging::Held(held, _) = swing.charging {
        return (Phase::Charging, open(held, attack.charge.map(|charge| charge.most)));
    }
    let clock = swing.clock;
    if attack.marked.is_some() {
        let (window, opened, _) = swing.markers;
        let phase = match (window, opened) {
            (0, 0) => Phase::Startup,
            (0, _) => Phase::Recovery,
            _ => Phase::Active(window),
        };
        let in_phase = match phase {
            Phase::Active(_) => open(clock - swing.opened_at, attack.windows_last),
            _ => open(clock, None),
        };
        return (phase, in_phase);
    }
    let mut from = 0;
    for (number, window) in plan.windows.iter().enumerate() {
        if clock <= window.opens {
            let phase = if number == 0 { Phase::Startup } else { Phase::Between };
            return (phase, open(clock - from, Some(window.opens - from)));
        }
        if clock <= window.closes && swing.window == number as u16 + 1 {
            let length = window.closes - window.opens;
            return (Phase::Active(swing.window), open(clock - window.opens, Some(length)));
        }
        from = window.closes.min(clock);
    }
    (Phase::Recovery, open(clock - from, plan.total.checked_sub(from)))
}
