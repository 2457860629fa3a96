//! The mind of one stand-in: what it knows, what it has chosen, and what it is at.

use hammerstone::attack::Phase;
use hammerstone::flow::{Question, Tactic};
use hammerstone::geometry::Pose;
use hammerstone::ids::{AttackId, CombatantId, SwingId};
use hammerstone::{Encounter, Fixed, Life, View};

use super::attacks::Lore;
use super::def::*;
use super::plane::{Flat, Plane, from_to, length, times, turn_between, unit};
use super::sight::{Seen, Sight, Threat};
use super::told::{Unfit, told};

/// What a stand-in asks of the fight.
#[derive(Clone, Debug)]
pub(crate) enum Ask {
    Move(Pose),
    Start(AttackId),
    Release(SwingId),
    Revive(CombatantId, Pose, Fixed),
    /// Tells of a choice: its target, its place, and which earlier choices did not fit.
    Chose(Option<CombatantId>, usize, String),
    /// Tells that a choice is dropped, and why.
    Dropped(Option<CombatantId>, usize, String),
}

/// What all minds look at in a tick.
#[derive(Clone, Copy)]
pub(crate) struct Around<'a> {
    pub(crate) encounter: &'a Encounter,
    pub(crate) view: View<'a>,
    pub(crate) sight: &'a Sight,
    pub(crate) lore: &'a Lore,
    pub(crate) plane: Plane,
    pub(crate) line: Option<&'a Question>,
    /// The tick that ran last; what is asked now is carried out in the next.
    pub(crate) now: u32,
    /// Whether choices are told.
    pub(crate) tells: bool,
    /// What combatants are called, for what is told.
    pub(crate) names: &'a dyn Fn(CombatantId) -> String,
}

/// A target, and where it was seen last.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Target {
    pub(crate) who: CombatantId,
    pub(crate) at: Flat,
    since: u32,
    seen: u32,
    pub(crate) in_sight: bool,
}

/// What was chosen and waits for its time.
#[derive(Clone, Copy, Debug)]
struct Pending {
    choice: usize,
    target: Option<Target>,
    due: u32,
}

/// A combo that goes on.
#[derive(Clone, Copy, Debug)]
struct Combo {
    choice: usize,
    /// The attack of the next swing; presses are for the first.
    awaits: Option<AttackId>,
    /// When the next press comes.
    due: Option<u32>,
    until: u32,
}

/// A way that goes on by itself for a while.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Carried {
    /// Metres a tick.
    pub(crate) way: [f32; 3],
    pub(crate) until: u32,
}

#[derive(Clone, Debug)]
pub(crate) struct Mind {
    pub(crate) who: CombatantId,
    /// Those that it has now.
    pub(crate) tactics: Option<usize>,
    /// Its own, if it has any.
    pub(crate) skill: Option<i64>,
    next_look: u32,
    rolls: u64,
    target: Option<Target>,
    /// The choice by which it moves, and the target of that.
    pub(crate) moving: Option<usize>,
    pub(crate) moving_at: Option<Target>,
    /// Until then it moves in no other way.
    moves_until: u32,
    pending: Option<Pending>,
    combo: Option<Combo>,
    charge: Option<(AttackId, u32)>,
    /// The attack that it started last: to start it again while it goes on is a press.
    started: Option<AttackId>,
    reviving: Option<(CombatantId, Fixed, u32)>,
    judged: Vec<(SwingId, u16, usize)>,
    pub(crate) dash: Option<Carried>,
    pub(crate) pushed: Option<Carried>,
    /// Where it joined.
    pub(crate) home: Flat,
    pub(crate) patrol: usize,
    /// Round which way it circles.
    pub(crate) left: bool,
    pub(crate) last_attacker: Option<CombatantId>,
    /// Whether a status stuns it in this tick.
    pub(crate) is_stunned: bool,
    /// The request of a rule, and its other party.
    pub(crate) asked: Option<(Tactic, Option<CombatantId>)>,
}

impl Mind {
    pub(crate) fn new(who: CombatantId, home: Flat, skill: Option<i64>) -> Mind {
        Mind {
            who,
            tactics: None,
            skill,
            next_look: 0,
            rolls: 0,
            target: None,
            moving: None,
            moving_at: None,
            moves_until: 0,
            pending: None,
            combo: None,
            charge: None,
            started: None,
            reviving: None,
            judged: Vec::new(),
            dash: None,
            pushed: None,
            home,
            patrol: 0,
            left: false,
            last_attacker: None,
            is_stunned: false,
            asked: None,
        }
    }

    /// It forgets what it was at: it has died, or takes to other tactics.
    pub(crate) fn rest(&mut self) {
        *self = Mind {
            skill: self.skill,
            rolls: self.rolls,
            asked: self.asked,
            tactics: self.tactics,
            ..Mind::new(self.who, self.home, self.skill)
        };
    }

    pub(crate) fn looks_at(&self, now: u32) -> bool {
        now >= self.next_look
    }

    fn roll(&mut self, around: &Around<'_>, purpose: &str, low: i64, high: i64) -> i64 {
        self.rolls += 1;
        around.encounter.roll(Some(self.who), purpose, self.rolls, low, high)
    }

    fn ticks(&mut self, around: &Around<'_>, purpose: &str, (least, most): Ticks) -> u32 {
        if least == most {
            return least;
        }
        self.roll(around, purpose, least.into(), most.into()) as u32
    }

    /// The next look; at first at a tick that is drawn, so that not all look at once.
    pub(crate) fn next_look(&mut self, around: &Around<'_>, every: u32) {
        let first = self.next_look == 0;
        let wait = if first { self.ticks(around, "tactics first look", (1, every)) } else { every };
        self.next_look = around.now + wait;
    }

    /// All that it does in a tick but for its steps.
    pub(crate) fn think(
        &mut self,
        around: &Around<'_>,
        me: &Seen,
        tactics: &Tactics,
        asks: &mut Vec<(CombatantId, Ask)>,
    ) {
        self.is_stunned = around.view.is_stunned(self.who);
        if self.is_stunned {
            if let Some(pending) = self.pending.take() {
                self.drop(around, pending, "it is stunned", asks);
            }
            (self.combo, self.charge, self.dash, self.reviving) = (None, None, None, None);
            return;
        }
        self.go_on(around, me, tactics, asks);
        if self.looks_at(around.now) {
            self.next_look(around, tactics.every);
            self.keep_or_pick(around, me, &tactics.target);
            if self.pending.is_none() && self.reviving.is_none() {
                self.choose(around, me, tactics, asks);
            }
        } else if let Some(target) = &mut self.target {
            follow(around, target);
        }
        if let Some(target) = &mut self.moving_at {
            follow(around, target);
        }
        if let Some(pending) = self.pending.filter(|pending| pending.due <= around.now) {
            self.pending = None;
            self.carry_out(around, me, tactics, pending, asks);
        }
    }

    /// Keeps to its target while it may, or picks another.
    fn keep_or_pick(&mut self, around: &Around<'_>, me: &Seen, rule: &TargetRule) {
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
    fn choose(
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

    fn carry_out(
        &mut self,
        around: &Around<'_>,
        me: &Seen,
        tactics: &Tactics,
        pending: Pending,
        asks: &mut Vec<(CombatantId, Ask)>,
    ) {
        let Pending { choice: place, target, .. } = pending;
        let choice = &tactics.choices[place];
        if let Some(moves) = &choice.moves {
            (self.moving, self.moving_at, self.patrol) = (Some(place), target, 0);
            self.moves_until = around.now + choice.lasts;
            if let Moves::Circle(_, way) = moves {
                self.left = match way {
                    Way::Left => true,
                    Way::Right => false,
                    Way::Either => self.roll(around, "tactics way", 0, 1) == 0,
                };
            }
        }
        match &choice.act {
            Some(Act::Start(start)) => {
                if let Err(refusal) = around.encounter.can_start(self.who, start.attack) {
                    self.drop(around, pending, &refusal.to_string(), asks);
                    return;
                }
                asks.push((self.who, Ask::Start(start.attack)));
                self.started = Some(start.attack);
                self.began(around, me, start, place, target);
            }
            Some(Act::Revive { share, takes, .. }) => {
                if let Some(target) = target {
                    self.reviving = Some((target.who, *share, around.now + takes));
                }
            }
            None => {}
        }
    }

    /// What goes with an attack that begins in the next tick.
    fn began(&mut self, around: &Around<'_>, me: &Seen, start: &Start, place: usize, target: Option<Target>) {
        let known = &around.lore.attacks[start.attack.index()];
        if let Some((least, most)) = known.timings.charge {
            let hold = self.ticks(around, "tactics hold", start.hold.unwrap_or((least, least)));
            self.charge = Some((start.attack, around.now + hold.clamp(least, most)));
        }
        self.combo = (start.press_on > 0).then_some(Combo {
            choice: place,
            awaits: Some(start.attack),
            due: None,
            until: around.now + known.timings.total + 2,
        });
        if let Some(dash) = start.dash {
            let facing = around.plane.facing(me.pose);
            let away = target.and_then(|target| unit(from_to(target.at, me.at)));
            let back = away.unwrap_or([-facing[0], -facing[1]]);
            let way = match dash.way {
                DashWay::Back => back,
                DashWay::Ahead => facing,
                DashWay::Aside if self.roll(around, "tactics side", 0, 1) == 0 => [back[1], -back[0]],
                DashWay::Aside => [-back[1], back[0]],
            };
            let step = times(way, dash.metres / dash.ticks as f32);
            let way = around.plane.place(step, 0.0);
            self.dash = Some(Carried { way, until: around.now + dash.ticks });
        }
    }

    /// What is under way: presses of a combo, a charge that is let go, a friend who is brought back.
    fn go_on(
        &mut self,
        around: &Around<'_>,
        me: &Seen,
        tactics: &Tactics,
        asks: &mut Vec<(CombatantId, Ask)>,
    ) {
        let (view, now) = (&around.view, around.now);
        if let Some((attack, until)) = self.charge
            && now >= until
        {
            self.charge = None;
            let held = view
                .swings_of(self.who)
                .find(|swing| swing.attack == attack && swing.phase == Phase::Charging);
            asks.extend(held.map(|swing| (self.who, Ask::Release(swing.id))));
        }
        if let Some(combo) = self.combo {
            self.press(around, tactics, combo, asks);
        }
        if let Some((friend, share, until)) = self.reviving {
            let lies = view.life(friend) == Life::Dead;
            let near = around.sight.of(friend).is_some_and(|lying| length(from_to(me.at, lying.at)) < 3.0);
            if !lies || !near {
                self.reviving = None;
            } else if now >= until {
                self.reviving = None;
                let pose = view.pose(friend).unwrap_or(me.pose);
                asks.push((self.who, Ask::Revive(friend, pose, share)));
                // The friend still lies there, until the tick has run.
                self.next_look = self.next_look.max(now + 1);
            }
        }
    }

    /// Presses for the next step of a combo, once for each, if it manages.
    fn press(
        &mut self,
        around: &Around<'_>,
        tactics: &Tactics,
        combo: Combo,
        asks: &mut Vec<(CombatantId, Ask)>,
    ) {
        let now = around.now;
        self.combo = Some(combo).filter(|combo| now <= combo.until);
        let Some(Act::Start(start)) =
            tactics.choices.get(combo.choice).and_then(|choice| choice.act.as_ref())
        else {
            self.combo = None;
            return;
        };
        if combo.due.is_some_and(|due| now >= due) {
            asks.push((self.who, Ask::Start(start.attack)));
            self.combo = self.combo.map(|combo| Combo { due: None, ..combo });
            return;
        }
        let Some(awaits) = combo.awaits else { return };
        let Some(swing) = around.view.swings_of(self.who).find(|swing| swing.attack == awaits) else {
            return;
        };
        let known = &around.lore.attacks[awaits.index()];
        let Some((opens, lapses, next)) = known.timings.chain.clone() else {
            self.combo = None;
            return;
        };
        let skill = self.skill.unwrap_or(tactics.skill);
        let presses = self.roll(around, "tactics press", 0, 9_999) < start.press_on * skill / 10_000;
        let first = opens.max(swing.whole.passed + 1);
        if !presses || first > lapses {
            self.combo = None;
            return;
        }
        let press = self.ticks(around, "tactics press time", (first, lapses));
        let due = now + press - swing.whole.passed - 1;
        let awaits = around.encounter.rules().find_attack(&next);
        self.combo = Some(Combo { awaits, due: Some(due), until: due + known.timings.total + 2, ..combo });
    }

    fn drop(&self, around: &Around<'_>, pending: Pending, why: &str, asks: &mut Vec<(CombatantId, Ask)>) {
        if around.tells {
            let at = pending.target.map(|target| target.who);
            asks.push((self.who, Ask::Dropped(at, pending.choice, why.to_owned())));
        }
    }

    /// Whether it stands still to bring a friend back.
    pub(crate) fn is_reviving(&self) -> bool {
        self.reviving.is_some()
    }

    /// Its target, if it has one.
    pub(crate) fn target(&self) -> Option<Target> {
        self.target
    }
}

/// A target that is seen now.
fn seen(around: &Around<'_>, who: CombatantId) -> Option<Target> {
    let at = around.sight.of(who)?.at;
    Some(Target { who, at, since: around.now, seen: around.now, in_sight: true })
}

/// Where a target that was seen at the last look is now.
fn follow(around: &Around<'_>, target: &mut Target) {
    if let Some(other) = around.sight.of(target.who).filter(|_| target.in_sight) {
        (target.at, target.seen) = (other.at, around.now);
    }
}
