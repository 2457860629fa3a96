//! The amount of one damage type in one blow, and of healing: the ruleset's steps, each a line of the ledger where one is kept.
//!
//! Nothing here changes the state: what guards and shields take is noted in the [`Tally`], for the blow to settle.

use glam::Vec3;

use crate::Fixed;
use crate::event::{Cause, Echo, LedgerLine, LedgerStep, Note, Via};
use crate::hooks::{Amendment, Host};
use crate::ids::*;
use crate::rolls::{Drawn, Purpose};
use crate::ruleset::{Amount, Attack, Chance, Modifier, Rules, Ruleset, Step};
use crate::sheet::StatsOf;
use crate::state::State;

/// One blow, pulse or other damage, or healing, on its way to a target that stands.
#[derive(Clone, Copy, Debug)]
pub(crate) struct AmountContext {
    pub(crate) target: CombatantId,
    pub(crate) source: Option<CombatantId>,
    /// Who gets the credit, where that was settled when the swing or the status began.
    pub(crate) credit: Option<CombatantId>,
    /// The team that it counts for.
    pub(crate) team: Option<TeamId>,
    pub(crate) via: Via,
    pub(crate) hit: Option<u64>,
    pub(crate) part: Option<u16>,
    /// What the base amount is multiplied by: charge, strength, stack.
    pub(crate) charge: Option<Fixed>,
    pub(crate) strength: Option<(Fixed, u16)>,
    /// Where it comes from, and where it touches, for blows.
    pub(crate) way: Option<(Vec3, Vec3)>,
    /// By how many ticks its target is rewound.
    pub(crate) back: u16,
    /// How fast hitbox and part close in where they touch, in metres a second; none where there was no touch.
    pub(crate) speed: Option<f32>,
    /// Whose stats and changes count on the side of the attacker.
    pub(crate) dealer: StatsOf,
    pub(crate) occasion: Option<Drawn>,
    /// Chance and multiplier, if the blow is critical.
    pub(crate) critical: Option<(Fixed, Fixed)>,
    pub(crate) absolute: bool,
    pub(crate) echo: Option<Echo>,
    pub(crate) luck: Luck,
    /// The steps that it does not take, as a set by the place of each among the ruleset's steps.
    pub(crate) skips: u64,
}

impl AmountContext {
    /// The attack that strikes it, if one does.
    pub(super) fn attack<'a>(&self, rules: &'a Rules) -> Option<&'a Attack> {
        match self.via {
            Via::Attack(attack) => Some(rules.attack(attack)),
            _ => None,
        }
    }

    /// Damage or healing by `via` and nothing else.
    pub(crate) fn plain(target: CombatantId, source: Option<CombatantId>, via: Via) -> AmountContext {
        AmountContext {
            target,
            source,
            credit: None,
            team: None,
            via,
            back: 0,
            hit: None,
            part: None,
            charge: None,
            strength: None,
            way: None,
            speed: None,
            dealer: StatsOf::NoCombatant,
            occasion: None,
            critical: None,
            absolute: false,
            echo: None,
            luck: Luck::Next,
            skips: 0,
        }
    }
}

/// How rolls fall in a preview.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
pub enum Luck {
    /// As they would if it were the attacker's next start of the attack.
    #[default]
    Next,
    /// The least of every range, and critical only where it is certain.
    Least,
    /// The most of every range, and critical wherever it may be.
    Most,
}

/// What the base step starts from.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Start<'a> {
    /// From so many points to so many.
    Rolled(i64, i64),
    /// An amount that an order named.
    Named(Fixed),
    /// So many points, whatever the steps would make of it.
    Bare(i64),
    /// An amount of a rule, and what was read for its terms.
    Read(&'a Amount, &'a [Fixed]),
}

/// What amounts are worked out on.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Ground<'a> {
    /// For what the host's code sees.
    pub(crate) ruleset: &'a Ruleset,
    pub(crate) rules: &'a Rules,
    pub(crate) state: &'a State,
    pub(crate) amends: &'a [Amendment],
}

impl<'a> Ground<'a> {
    pub(crate) fn new(ruleset: &'a Ruleset, state: &'a State, amends: &'a [Amendment]) -> Ground<'a> {
        Ground { ruleset, rules: ruleset.compiled(), state, amends }
    }
}

/// What was taken on the way to one blow's amounts, over all its damage types.
#[derive(Clone, Debug, Default)]
pub(crate) struct Tally {
    /// The guard that took, and how much.
    pub(crate) guard: Option<(ApplicationId, Fixed)>,
    /// What shields absorbed, in the order in which they did.
    pub(crate) shields: Vec<Absorbed>,
    /// The changes of the step that is being taken.
    pub(super) changes: Vec<(Cause, Modifier, Option<ReasonId>)>,
}

impl Tally {
    /// What shields absorbed so far.
    pub(super) fn absorbed(&self) -> i64 {
        self.shields.iter().map(|absorbed| absorbed.amount).sum()
    }

    pub(crate) fn clear(&mut self) {
        self.guard = None;
        self.shields.clear();
    }
}

/// What one shield absorbed.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Absorbed {
    /// The place of its pool.
    pub(crate) place: usize,
    pub(crate) shield: ShieldId,
    pub(crate) application: Option<ApplicationId>,
    pub(crate) amount: i64,
    pub(crate) left: i64,
}

/// Takes in the lines of a ledger, or lets them go.
pub(crate) trait Sink {
    fn line(&mut self, step: LedgerStep, before: Fixed, after: Fixed, note: Note);
}

impl Sink for () {
    fn line(&mut self, _: LedgerStep, _: Fixed, _: Fixed, _: Note) {}
}

impl Sink for Vec<LedgerLine> {
    fn line(&mut self, step: LedgerStep, before: Fixed, after: Fixed, note: Note) {
        let note = if after.is_saturated() { Note::Saturated } else { note };
        self.push(LedgerLine { step, before, after, note });
    }
}

/// An amount on its way through the steps.
pub(super) struct Account<'a, S> {
    pub(super) ground: Ground<'a>,
    pub(super) blow: &'a AmountContext,
    /// The damage type; none for healing.
    pub(super) damage_type: Option<DamageTypeId>,
    pub(super) amount: Fixed,
    pub(super) tally: &'a mut Tally,
    pub(super) host: &'a mut dyn Host,
    pub(super) sink: &'a mut S,
}

/// Chance and multiplier of a blow that is critical. One roll for the whole blow.
pub(super) fn critical(ground: &Ground<'_>, blow: &AmountContext) -> Option<(Fixed, Fixed)> {
    let Ground { rules, state, .. } = *ground;
    let attack = blow.attack(rules)?;
    let critical = match attack.critical {
        Chance::Usual => rules.critical?,
        Chance::Own(critical) => critical,
        Chance::Never => return None,
    };
    if rules.template(state.combatants.template[blow.target.slot()]).never_critical {
        return None;
    }
    let with = |base: Fixed, stat: Option<StatId>| {
        base + stat.and_then(|stat| blow.dealer.stat(rules, state, stat)).unwrap_or(Fixed::ZERO)
    };
    let chance = with(critical.chance, critical.chance_stat).clamp(Fixed::ZERO, Fixed::ONE);
    let times = with(critical.times, critical.times_stat).or_nothing();
    let comes = match (blow.luck, blow.occasion) {
        _ if chance == Fixed::ZERO => false,
        (Luck::Most, _) => true,
        (Luck::Next, Some(occasion)) => {
            let most = Fixed::ONE.to_raw() - 1;
            occasion.whole(0, Purpose::Critical, 0, most) < chance.to_raw()
        }
        _ => chance == Fixed::ONE,
    };
    comes.then_some((chance, times))
}

impl<S: Sink> Account<'_, S> {
    /// The amount of damage in whole points, after all steps. Below 0 it is absorbed: it heals. Steps that have nothing to look at
    /// leave no line. What is absorbed takes no further step but limits and rounding.
    pub(super) fn of_damage(mut self, start: Start<'_>) -> i64 {
        let rules = self.ground.rules;
        let taken = self.damage_type.map_or(u64::MAX, |of| rules.steps_taken.by(self.blow.via, of));
        let mut left = taken & !self.blow.skips;
        while let Some(&step) = rules.steps.get(left.trailing_zeros() as usize) {
            left &= left - 1;
            if self.amount >= Fixed::ZERO || matches!(step, Step::Limits | Step::Rounding) {
                self.take(step, start);
            }
        }
        // The last exact step is rounding, and shields leave whole points whole.
        self.amount.floor()
    }

    /// An amount without any step.
    pub(super) fn bare(self, points: i64) -> i64 {
        self.sink.line(LedgerStep::Named, self.amount, Fixed::whole(points), Note::None);
        points
    }

    /// The amount of healing in whole points, after all steps.
    pub(super) fn of_healing(mut self, start: Start<'_>) -> i64 {
        for &step in &self.ground.rules.heal_steps {
            self.take_heal(step, start);
        }
        self.amount.floor()
    }
}
