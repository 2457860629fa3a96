//! Each step of an amount, in the order in which a ruleset has them unless it says otherwise.

use crate::Fixed;
use crate::event::{Cause, LedgerStep, LimitOf, Note, Via};
use crate::hooks::StepCall;
use crate::ids::*;
use crate::rolls::Purpose;
use crate::ruleset::{Amount, Direction, HealStep, Limits, Modifier, Role, Step, Term};
use crate::sheet::{self, StatsOf};
use crate::state::ShieldRow;
use crate::view::View;

use super::r2_amount::{Absorbed, Account, AmountContext, Luck, Sink, Start};

impl<S: Sink> Account<'_, S> {
    pub(super) fn take(&mut self, step: Step, start: Start<'_>) {
        let line = LedgerStep::Step(step);
        match step {
            Step::Base => self.base(line, start),
            Step::Stats => self.stats(line),
            Step::Critical => {
                if let Some((chance, times)) = self.blow.critical {
                    self.times(line, times, Note::Critical { chance, times });
                }
            }
            Step::Part => self.part(line),
            Step::Attacker => {
                self.change_by(line, self.blow.dealer, Direction::DealsDamage, Some(self.blow.target))
            }
            Step::Relation => self.relation(line),
            Step::Guard => self.guard(line),
            Step::Resistance => self.resistance(line),
            Step::Armour => self.armour(line),
            Step::Target => {
                self.change_by(
                    line,
                    StatsOf::Present(self.slot()),
                    Direction::TakesDamage,
                    self.present_source(),
                );
            }
            Step::Distance => self.distance(line),
            Step::Amended => self.amended(line),
            Step::Own(own) => self.own(line, own),
            Step::Limits => self.limits(line),
            Step::Rounding => self.round(line),
            Step::Shields => self.shields(line),
        }
    }

    pub(super) fn take_heal(&mut self, step: HealStep, start: Start<'_>) {
        let line = LedgerStep::Heal(step);
        match step {
            HealStep::Base => self.base(line, start),
            HealStep::Stats => self.stats(line),
            HealStep::Given => {
                self.change_by(line, self.blow.dealer, Direction::GivesHealing, Some(self.blow.target));
            }
            HealStep::Taken => {
                self.change_by(
                    line,
                    StatsOf::Present(self.slot()),
                    Direction::TakesHealing,
                    self.present_source(),
                );
            }
            HealStep::Own(own) => self.own(line, own),
            HealStep::Rounding => self.round(line),
        }
    }

    fn to(&mut self, step: LedgerStep, after: Fixed, note: Note) {
        self.sink.line(step, self.amount, after, note);
        self.amount = after;
    }

    fn times(&mut self, step: LedgerStep, factor: Fixed, note: Note) {
        self.to(step, self.amount * factor, note);
    }

    fn slot(&self) -> usize {
        self.blow.target.slot()
    }

    /// Whoever deals or heals, as long as they are in the encounter.
    fn present_source(&self) -> Option<CombatantId> {
        self.blow.source.filter(|&who| self.ground.state.combatants.is_present(who))
    }

    /// A number, and what was read; then the floor and the cap.
    fn read(&mut self, amount: &Amount, values: &[Fixed]) {
        if amount.base != Fixed::ZERO || amount.terms.is_empty() {
            self.to(LedgerStep::Named, amount.base, Note::None);
        }
        for (&Term { of, times }, &value) in amount.terms.iter().zip(values) {
            self.to(LedgerStep::Reading, self.amount + value * times, Note::Reading { of, value, times });
        }
        let floor = amount.floor.unwrap_or(0);
        if self.amount < Fixed::whole(floor) {
            self.to(LedgerStep::AmountLimits, Fixed::whole(floor), Note::Floor(floor));
        }
        if let Some(cap) = amount.cap.filter(|&cap| self.amount > Fixed::whole(cap)) {
            self.to(LedgerStep::AmountLimits, Fixed::whole(cap), Note::Cap(cap));
        }
    }

    fn base(&mut self, line: LedgerStep, start: Start<'_>) {
        match start {
            Start::Named(named) => self.to(LedgerStep::Named, named, Note::None),
            Start::Read(amount, values) => self.read(amount, values),
            Start::Bare(points) => self.to(LedgerStep::Named, Fixed::whole(points), Note::None),
            Start::Rolled(low, high) if low == high => self.to(line, Fixed::whole(low), Note::None),
            Start::Rolled(low, high) => {
                let rolled = self.rolled(low, high);
                self.to(line, Fixed::whole(rolled), Note::Rolled { low, high });
            }
        }
        if let Some(charge) = self.blow.charge {
            self.times(LedgerStep::Charge, charge, Note::Times(charge));
        }
        let by_speed = self.blow.attack(self.ground.rules).and_then(|attack| attack.closing_speed);
        if let (Some(by), Some(speed)) = (by_speed, self.blow.speed) {
            // Whole centimetres a second, as for distances.
            let speed = Fixed::ratio((speed * 100.0) as i64, 100);
            let share = Fixed::ONE + by.least - share_left(speed, by.from, by.full, by.least);
            self.times(LedgerStep::Speed, share, Note::Speed { speed, share });
        }
        if let Some((strength, stacks)) = self.blow.strength {
            if strength != Fixed::ONE {
                self.times(LedgerStep::Strength, strength, Note::Times(strength));
            }
            if stacks != 1 {
                let stacks = Fixed::whole(stacks.into());
                self.times(LedgerStep::Pile, stacks, Note::Times(stacks));
            }
        }
    }

    fn rolled(&self, low: i64, high: i64) -> i64 {
        let (damage_type, purpose) = match self.damage_type {
            Some(damage_type) => (self.ground.rules.damage_type_keys[damage_type.index()], Purpose::Base),
            None => (0, Purpose::Heal),
        };
        match (self.blow.luck, self.blow.occasion) {
            (Luck::Most, _) => high,
            (Luck::Next, Some(occasion)) => occasion.whole(damage_type, purpose, low, high),
            _ => low,
        }
    }

    /// What stats of both sides add.
    fn stats(&mut self, line: LedgerStep) {
        let (rules, state, damage_type) = (self.ground.rules, self.ground.state, self.damage_type);
        let Some(attack) = self.blow.attack(rules) else { return };
        for draw in
            attack.scaling.iter().filter(|draw| draw.damage_type.is_none() || draw.damage_type == damage_type)
        {
            let value = match draw.of {
                Role::Attacker => self.blow.dealer.stat(rules, state, draw.stat),
                Role::Target => Some(sheet::stat(rules, state, self.slot(), draw.stat)),
            };
            let Some(value) = value else { continue };
            let note = |by| Note::Stat { of: draw.of, stat: draw.stat, value, by };
            if draw.adds != Fixed::ZERO {
                let after = (self.amount + value * draw.adds).or_nothing();
                self.to(line, after, note(Modifier::Add(draw.adds)));
            }
            if draw.shares != Fixed::ZERO {
                let factor = (Fixed::ONE + value * draw.shares).or_nothing();
                self.times(line, factor, note(Modifier::AddShare(draw.shares)));
            }
        }
    }

    fn part(&mut self, line: LedgerStep) {
        if let Some(part) = self.blow.part {
            let combatants = &self.ground.state.combatants;
            let template = self.ground.rules.template(combatants.template[self.slot()]);
            let broken = combatants.is_broken(self.slot(), part);
            let multiplier = template.parts[usize::from(part)].multiplier_when(broken);
            self.times(line, multiplier, Note::Times(multiplier));
        }
    }

    /// What template and statuses of one side change.
    fn change_by(&mut self, line: LedgerStep, whose: StatsOf, flow: Direction, other: Option<CombatantId>) {
        let (rules, state, damage_type) = (self.ground.rules, self.ground.state, self.damage_type);
        if !rules.uses.flows[flow as usize] {
            return;
        }
        let changes = &mut self.tally.changes;
        changes.clear();
        let mut tags = None;
        whose.changes(rules, state, flow, |cause, change, by| {
            let of_damage_type = change.damage_type.is_none() || change.damage_type == damage_type;
            let melee = |tags: &mut Option<u64>| {
                *tags.get_or_insert_with(|| other.map_or(0, |other| sheet::tags(rules, state, other.slot())))
            };
            if of_damage_type && (change.against == 0 || melee(&mut tags) & change.against == change.against)
            {
                changes.push((cause, by, None));
            }
        });
        // Statuses came the latest first, after the template.
        let own = changes.iter().take_while(|(cause, ..)| matches!(cause, Cause::Template(_))).count();
        changes[own..].reverse();
        self.change(line);
    }

    /// What intercepts amend.
    fn amended(&mut self, line: LedgerStep) {
        let damage_type = self.damage_type;
        let changes = &mut self.tally.changes;
        changes.clear();
        let mine = self
            .ground
            .amends
            .iter()
            .filter(|amend| amend.damage_type.is_none() || amend.damage_type == damage_type);
        changes.extend(mine.map(|amend| (Cause::Hook(amend.hook), amend.by, Some(amend.note))));
        self.change(line);
    }

    /// Additions, then shares of what that comes to, then multiplications, then the latest set: a line for each change in the tally.
    fn change(&mut self, step: LedgerStep) {
        if self.tally.changes.is_empty() {
            return;
        }
        self.each_change(step, |by| matches!(by, Modifier::Add(_)), |amount, value| amount + value);
        let whole = self.amount;
        self.each_change(
            step,
            |by| matches!(by, Modifier::AddShare(_)),
            |amount, value| amount + whole * value,
        );
        if self.amount < Fixed::ZERO {
            self.to(step, Fixed::ZERO, Note::Floor(0));
        }
        self.each_change(step, |by| matches!(by, Modifier::Multiply(_)), |amount, value| amount * value);
        let sets = |(_, by, _): &&(Cause, Modifier, Option<ReasonId>)| matches!(by, Modifier::Set(_));
        if let Some(&(cause, by, note)) = self.tally.changes.iter().rfind(sets) {
            self.to(step, by.value().or_nothing(), Note::Changed { cause, by, note });
        }
    }

    fn each_change(
        &mut self,
        step: LedgerStep,
        is: impl Fn(Modifier) -> bool,
        after: impl Fn(Fixed, Fixed) -> Fixed,
    ) {
        for place in 0..self.tally.changes.len() {
            let (cause, by, note) = self.tally.changes[place];
            if is(by) {
                self.to(step, after(self.amount, by.value()), Note::Changed { cause, by, note });
            }
        }
    }

    fn relation(&mut self, line: LedgerStep) {
        if let Some(team) = self.blow.team {
            let (rules, combatants) = (self.ground.rules, &self.ground.state.combatants);
            let relation = rules.stance(team, combatants.team[self.slot()]);
            let share = rules.relation_shares[relation as usize];
            if share != Fixed::ONE {
                self.times(line, share, Note::Relation(relation, share));
            }
        }
    }

    /// The guard that was applied first, of those that guard against this.
    fn guard(&mut self, line: LedgerStep) {
        let (rules, state) = (self.ground.rules, self.ground.state);
        if !rules.uses.guards {
            return;
        }
        let (Some(attack), Some((from, _))) = (self.blow.attack(rules), self.blow.way) else { return };
        let slot = self.slot();
        let pose = state.pose_rewound(self.blow.target, self.blow.back);
        let guards = state.running_on(slot).filter_map(|application| {
            let status = rules.status(application.status);
            let guard = status.guard.as_ref()?;
            let good = guard.damage_types.is_empty()
                || self.damage_type.is_some_and(|damage_type| guard.damage_types.contains(&damage_type));
            let through = status.lets & attack.tags != 0 || attack.ignores.contains(&application.status);
            (good && !through && sheet::before(rules, pose, from) >= guard.cosine)
                .then_some((application, guard))
        });
        if let Some((application, guard)) = guards.min_by_key(|(application, _)| application.id) {
            let before = self.amount;
            self.times(line, Fixed::ONE - guard.takes, Note::Guard(application.status, guard.takes));
            let took = before - self.amount;
            match &mut self.tally.guard {
                Some((id, so_far)) if *id == application.id => *so_far += took,
                other => *other = Some((application.id, took)),
            }
        }
    }

    fn resistance(&mut self, line: LedgerStep) {
        if let Some(damage_type) = self.damage_type {
            let template = self.ground.state.combatants.template[self.slot()];
            let share = Fixed::ONE - self.ground.rules.template(template).resistance_to(damage_type);
            self.times(line, share, Note::Times(share));
        }
    }

    /// Flat first, then on its curve.
    fn armour(&mut self, line: LedgerStep) {
        let (rules, state, slot) = (self.ground.rules, self.ground.state, self.slot());
        let armour = &rules.armour;
        let good = self.damage_type.is_some_and(|damage_type| armour.is_good_against(damage_type));
        let worn = |stat| Some(sheet::stat(rules, state, slot, stat)).filter(|&value| value > Fixed::ZERO);
        if let Some(stat) = armour.flat.filter(|_| good)
            && let Some(value) = worn(stat)
        {
            let after = (self.amount - value).or_nothing();
            self.to(line, after, Note::Armour { stat, value, half: None });
        }
        if let Some((stat, half)) = armour.curve.filter(|_| good)
            && let Some(value) = worn(stat)
        {
            let share = half.share_of(half + value);
            self.times(line, share, Note::Armour { stat, value, half: Some(half) });
        }
    }

    fn distance(&mut self, line: LedgerStep) {
        let attack = self.blow.attack(self.ground.rules);
        let Some(fall_off) = attack.and_then(|attack| attack.fall_off) else { return };
        if let Some((from, at)) = self.blow.way {
            // Whole centimetres: so far, and no farther, does a float come.
            let metres = Fixed::ratio(((at - from).length() * 100.0) as i64, 100);
            let share = share_left(metres, fall_off.near, fall_off.far, fall_off.least);
            self.times(line, share, Note::Distance { metres, share });
        }
    }

    fn own(&mut self, line: LedgerStep, own: OwnStepId) {
        let AmountContext { source, target, via, part, .. } = *self.blow;
        let view = View::of(self.ground.ruleset, self.ground.state);
        let call =
            StepCall { amount: self.amount, damage_type: self.damage_type, source, target, via, part, view };
        match self.host.own_step(own, &call) {
            Some(after) => self.to(line, after.or_nothing(), Note::None),
            None => self.to(line, self.amount, Note::NoCode),
        }
    }

    fn limits(&mut self, line: LedgerStep) {
        let (floor, cap) = (self.ground.rules.floor, self.ground.rules.cap);
        let (after, note) = if self.amount > Fixed::whole(cap) {
            (Fixed::whole(cap), Note::Cap(cap))
        } else if self.amount < Fixed::whole(-cap) {
            (Fixed::whole(-cap), Note::Cap(-cap))
        } else if self.amount < Fixed::whole(floor) && self.amount > Fixed::ZERO {
            (Fixed::whole(floor), Note::Floor(floor))
        } else {
            (self.amount, Note::None)
        };
        self.to(line, after, note);
        let rules = self.ground.rules;
        match self.blow.via {
            Via::Attack(attack) => self.limit(line, LimitOf::Attack(attack), rules.attack(attack).limits),
            Via::Status(status) => self.limit(line, LimitOf::Status(status), rules.status(status).limits),
            Via::Host(_) | Via::Rule(_) => {}
        }
        let template = self.ground.state.combatants.template[self.slot()];
        self.limit(line, LimitOf::Template(template), rules.template(template).limits_taken);
        if rules.uses.limits_taken {
            let (mut last, slot, state) = (None, self.slot(), self.ground.state);
            let limits = |id: StatusId| rules.status(id).limits_taken;
            let next = |last| {
                let borne = state.running_on(slot).filter(|a| limits(a.status).is_some());
                borne.map(|a| (a.id, a.status)).filter(|&(id, _)| Some(id) > last).min()
            };
            // In the order of applying.
            while let Some((id, status)) = next(last) {
                last = Some(id);
                self.limit(line, LimitOf::Status(status), limits(status));
            }
        }
    }

    /// An amount above 0 within limits of something's own.
    fn limit(&mut self, line: LedgerStep, by: LimitOf, limits: Option<Limits>) {
        let Some(Limits { floor, cap }) = limits.filter(|_| self.amount > Fixed::ZERO) else { return };
        let points = if self.amount < Fixed::whole(floor) { floor.min(cap) } else { cap };
        if self.amount < Fixed::whole(floor) || self.amount > Fixed::whole(cap) {
            self.to(line, Fixed::whole(points), Note::Limited { by, points });
        }
    }

    fn round(&mut self, line: LedgerStep) {
        // The largest whole number that there is, where the amount itself stands at the limit.
        let most = Fixed::MAX.floor();
        let whole = self.ground.rules.rounding.whole(self.amount).clamp(-most, most);
        self.to(line, Fixed::whole(whole), Note::None);
    }

    /// Each shield against the damage type takes what it has, in the ruleset's order; of one sort, the one without a status first, then
    /// in the order of applying.
    fn shields(&mut self, line: LedgerStep) {
        let (rules, combatants) = (self.ground.rules, &self.ground.state.combatants);
        let (slot, damage_type) = (self.slot(), self.damage_type);
        let is_against = |pool: &ShieldRow| {
            damage_type.is_some_and(|damage_type| rules.shields[pool.shield.index()].is_against(damage_type))
        };
        let order = |pool: &ShieldRow| (pool.shield, pool.application);
        let mut last = None;
        while self.amount > Fixed::ZERO {
            let places = combatants.shields.places(slot).map(|(place, pool)| (place, *pool));
            let next = places.filter(|(_, pool)| is_against(pool) && Some(order(pool)) > last);
            let Some((place, pool)) = next.min_by_key(|(_, pool)| order(pool)) else { return };
            last = Some(order(&pool));
            let known = self.tally.shields.iter().position(|absorbed| absorbed.place == place);
            let has = known.map_or(i64::from(pool.points), |known| self.tally.shields[known].left);
            let wanted = self.amount.floor();
            let amount = if wanted < has { wanted } else { has };
            if amount == 0 {
                continue;
            }
            let left = has - amount;
            self.to(line, self.amount - Fixed::whole(amount), Note::Shield(pool.shield, left));
            match known {
                Some(known) => {
                    self.tally.shields[known].amount += amount;
                    self.tally.shields[known].left = left;
                }
                None => {
                    let ShieldRow { shield, application, .. } = pool;
                    self.tally.shields.push(Absorbed { place, shield, application, amount, left });
                }
            }
        }
    }
}

/// 1 up to `near`, `least` from `far` on, evenly in between.
fn share_left(metres: Fixed, near: Fixed, far: Fixed, least: Fixed) -> Fixed {
    if metres <= near {
        Fixed::ONE
    } else if metres >= far {
        least
    } else {
        Fixed::ONE - (Fixed::ONE - least) * (metres - near).share_of(far - near)
    }
}
