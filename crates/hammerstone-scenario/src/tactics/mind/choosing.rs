//! Choices: the target that it keeps or picks, the first choice that fits, and the time at which that is carried out.

use hammerstone::ids::CombatantId;

use super::super::def::*;
use super::super::plane::{from_to, length, turn_between};
use super::super::sight::{Seen, Threat};
use super::super::told::{Unfit, told};
use super::{Around, Ask, Mind, Pending, Target};

impl Mind {
    /// Keeps to its target while it may, or picks another.
    pub(super) fn keep_or_pick(&mut self, around: &Around<'_>, me: &Seen, rule: &TargetRule) {
        let Around { encounter, sight, line, now, .. } = *around;
        if let Some(target) = &mut self.target {
            let other = sight.of(target.who).filter(|other| sight.may_be(encounter, me, rule, other));
            match other {
                Some(other) => {
                    target.in_sight = sight.sees(encounter, line, me.who, target.who);
                    if target.in_sight {
                        (target.at, target.seen) = (other.at, now);
                    }
                }
                None => self.target = None,
            }
        }
        let keeps = |target: &Target| {
            let since = if target.in_sight { target.since } else { target.seen };
            now < since.saturating_add(rule.keep)
        };
        if self.target.as_ref().is_some_and(keeps) {
            return;
        }
        self.target =
            sight.pick(encounter, line, me, rule, self.last_attacker).and_then(|who| seen(around, who));
    }

    /// Takes the first choice that fits.
    pub(super) fn choose(
        &mut self,
        around: &Around<'_>,
        me: &Seen,
        tactics: &Tactics,
        asks: &mut Vec<(CombatantId, Ask)>,
    ) {
        let mut passed = Vec::new();
        for (place, choice) in tactics.choices.iter().enumerate() {
            // While it keeps to its way of moving, it may act.
            if around.now < self.moves_until && choice.act.is_none() {
                continue;
            }
            let target = match &choice.target {
                None => self.target,
                Some(rule) => {
                    let Around { encounter, sight, line, .. } = *around;
                    let picked = sight.pick(encounter, line, me, rule, self.last_attacker);
                    picked.and_then(|who| seen(around, who))
                }
            };
            match self.fits(around, me, tactics, place, target) {
                Ok(threat) => {
                    let known = (self.moving == Some(place)).then_some(self.moving_at.map(|at| at.who));
                    if choice.act.is_none() && known == Some(target.map(|target| target.who)) {
                        self.moving_at = target;
                        return;
                    }
                    self.decide(around, tactics, place, target, threat, asks);
                    if around.tells {
                        let passed = told(around, self.who, tactics, &passed);
                        let at = target.filter(|target| target.in_sight).map(|target| target.who);
                        asks.push((self.who, Ask::Chose(at, place, passed)));
                    }
                    return;
                }
                Err(unfit) if around.tells => passed.push((place, target, unfit)),
                Err(_) => {}
            }
        }
    }

    /// Whether a choice fits; for an answer, to which attack.
    fn fits(
        &mut self,
        around: &Around<'_>,
        me: &Seen,
        tactics: &Tactics,
        place: usize,
        target: Option<Target>,
    ) -> Result<Option<Threat>, Unfit> {
        let choice = &tactics.choices[place];
        let Around { encounter, sight, .. } = *around;
        let visible = target.filter(|target| target.in_sight).map(|target| target.who);
        if let Some(question) = &choice.when
            && encounter.holds(question, Some(self.who), visible) != Some(true)
        {
            let losses =
                if around.tells { encounter.losses(question, Some(self.who), visible) } else { None };
            return Err(Unfit::Conditions(losses.unwrap_or_default()));
        }
        match choice.moves {
            Some(Moves::Approach(_) | Moves::KeepDistance(..) | Moves::Circle(..) | Moves::Flee(_)) => {
                target.ok_or(Unfit::NoTarget)?;
            }
            Some(Moves::Follow(_)) => {
                around.view.leader(self.who).ok_or(Unfit::NoLeader)?;
            }
            _ => {}
        }
        let mut threat = None;
        match &choice.act {
            Some(Act::Start(start)) => {
                let who = self.who;
                let may_start = || encounter.can_start(who, start.attack).map_err(Unfit::Refused);
                // Whether it may start at all takes longest, and is asked first where it is told.
                if around.tells {
                    may_start()?;
                }
                // Presses come of `press-on` alone.
                let known = &around.lore.attacks[start.attack.index()];
                if me.busy && (known.timings.free_hands || self.started == Some(start.attack)) {
                    return Err(Unfit::Busy);
                }
                if start.answer.is_some() {
                    threat = Some(self.next_threat(around, me, place)?);
                } else {
                    let reach = start.within.or(around.lore.reach(start.attack, me.size));
                    if let Some(reach) = reach {
                        let target = target.ok_or(Unfit::NoTarget)?;
                        let other =
                            sight.of(target.who).filter(|_| target.in_sight).ok_or(Unfit::OutOfSight)?;
                        let way = from_to(me.at, other.at);
                        let far = length(way);
                        let reach = if start.within.is_some() { reach } else { reach + other.girth };
                        if far > reach {
                            return Err(Unfit::Far(far, reach));
                        }
                        let off = turn_between(around.plane.facing(me.pose), way).abs();
                        if off > start.arc && far > me.girth + other.girth {
                            return Err(Unfit::Aside(off, start.arc));
                        }
                    }
                }
                may_start()?;
            }
            Some(Act::Revive { within, .. }) => {
                let target = target.ok_or(Unfit::NoTarget)?;
                let far = length(from_to(me.at, target.at));
                if far > *within {
                    return Err(Unfit::Far(far, *within));
                }
                if me.busy {
                    return Err(Unfit::Busy);
                }
            }
            None => {}
        }
        if let Some(threat) = threat {
            // Once for each attack.
            self.judged.push((threat.swing, threat.which, place));
            let skill = self.skill.unwrap_or(tactics.skill);
            if self.roll(around, "tactics skill", 0, 9_999) >= skill {
                return Err(Unfit::Unskilled);
            }
        }
        if let Some(chance) = choice.chance
            && self.roll(around, "tactics chance", 0, 9_999) >= chance.to_raw()
        {
            return Err(Unfit::Chance(chance));
        }
        Ok(threat)
    }

    /// The next attack that would strike, and that was not judged for this choice.
    fn next_threat(&mut self, around: &Around<'_>, me: &Seen, place: usize) -> Result<Threat, Unfit> {
        let Around { encounter, view, sight, plane, line, .. } = *around;
        self.judged.retain(|(swing, ..)| view.swing(*swing).is_some());
        let seen = |threat: &Threat| {
            let attacker = view.swing(threat.swing).and_then(|swing| swing.attacker);
            attacker.is_none_or(|attacker| sight.sees(encounter, line, me.who, attacker))
        };
        let threats = sight.threats(encounter, &plane, me);
        let new = |threat: &&Threat| !self.judged.contains(&(threat.swing, threat.which, place));
        threats.iter().filter(new).find(|threat| seen(threat)).copied().ok_or(Unfit::NoAttack)
    }

    /// Sets the time at which a choice is carried out.
    fn decide(
        &mut self,
        around: &Around<'_>,
        tactics: &Tactics,
        place: usize,
        target: Option<Target>,
        threat: Option<Threat>,
        asks: &mut Vec<(CombatantId, Ask)>,
    ) {
        let soonest = around.now + self.ticks(around, "tactics reaction", tactics.reaction);
        let mut pending = Pending { choice: place, target, due: soonest };
        if let (Some(threat), Some(Act::Start(Start { answer: Some(answer), .. }))) =
            (threat, &tactics.choices[place].act)
        {
            let error = i64::from(answer.error);
            let late = self.roll(around, "tactics error", -error, error);
            let arrives = around.now + threat.arrives;
            if soonest >= arrives {
                self.drop(around, pending, "it came too late", asks);
                return;
            }
            // What is asked in a tick begins with the next.
            let wanted = i64::from(arrives) - i64::from(answer.lead) - 1 + late;
            pending.due = u32::try_from(wanted).unwrap_or(0).max(soonest);
        }
        self.pending = Some(pending);
    }
}

/// A target that is seen now.
fn seen(around: &Around<'_>, who: CombatantId) -> Option<Target> {
    let at = around.sight.of(who)?.at;
    Some(Target { who, at, since: around.now, seen: around.now, in_sight: true })
}
