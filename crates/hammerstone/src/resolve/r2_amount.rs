//! The amount of one kind in one blow: the ruleset's steps, each a line of the ledger where one is kept.

use crate::Fixed;
use crate::event::{LedgerLine, LedgerStep, Note};
use crate::rolls::{Occasion, Purpose};
use crate::ruleset::{Harm, Rounding, Rules, Step};

/// What the base step starts from.
#[derive(Clone, Copy, Debug)]
pub(super) enum Start {
    /// A range, and the occasion of its roll.
    Rolled(Harm, Occasion),
    /// An amount that an order named.
    Named(Fixed),
}

/// What the steps look at beside the amount.
#[derive(Clone, Copy, Debug)]
pub(super) struct Target {
    pub(super) seed: u64,
    /// The stable key of the kind of harm.
    pub(super) kind: u64,
    /// The multiplier of the part that was struck, for blows.
    pub(super) part: Option<Fixed>,
    /// What the base amount is multiplied by, for attacks that are charged.
    pub(super) charge: Option<Fixed>,
    pub(super) resistance: Fixed,
}

/// Takes in the lines of a ledger, or lets them go.
pub(super) trait Sink {
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

/// The amount in whole points, after all steps. Steps that have nothing to look at leave no line.
pub(super) fn work_out(rules: &Rules, start: Start, target: Target, ledger: &mut impl Sink) -> i64 {
    let mut amount = Fixed::ZERO;
    for &step in &rules.steps {
        let Some((after, note)) = take(rules, step, amount, start, target) else { continue };
        let line = match (step, start) {
            (Step::Base, Start::Named(_)) => LedgerStep::Named,
            _ => LedgerStep::Step(step),
        };
        ledger.line(line, amount, after, note);
        amount = after;
        if let (Step::Base, Some(charge)) = (step, target.charge) {
            ledger.line(LedgerStep::Charge, amount, amount * charge, Note::Times(charge));
            amount = amount * charge;
        }
    }
    // The last step is rounding, which leaves a whole number.
    amount.floor()
}

fn take(rules: &Rules, step: Step, amount: Fixed, start: Start, target: Target) -> Option<(Fixed, Note)> {
    let outcome = match step {
        Step::Base => match start {
            Start::Named(named) => (named, Note::None),
            Start::Rolled(Harm { low, high, .. }, _) if low == high => (Fixed::whole(low), Note::None),
            Start::Rolled(Harm { low, high, .. }, occasion) => {
                let rolled = occasion.whole(target.seed, target.kind, Purpose::Base, low, high);
                (Fixed::whole(rolled), Note::Rolled { low, high })
            }
        },
        Step::Part => {
            let multiplier = target.part?;
            (amount * multiplier, Note::Times(multiplier))
        }
        Step::Resistance => {
            let share = Fixed::ONE - target.resistance;
            (amount * share, Note::Times(share))
        }
        Step::Limits => {
            let (floor, cap) = (Fixed::whole(rules.floor), Fixed::whole(rules.cap));
            if amount > cap {
                (cap, Note::Cap(rules.cap))
            } else if amount < floor && amount > Fixed::ZERO {
                (floor, Note::Floor(rules.floor))
            } else {
                (amount, Note::None)
            }
        }
        Step::Rounding => {
            let whole = match rules.rounding {
                Rounding::Nearest => amount.nearest(),
                Rounding::Down => amount.floor(),
                Rounding::Up => amount.ceil(),
            };
            (Fixed::whole(whole), Note::None)
        }
    };
    Some(outcome)
}
