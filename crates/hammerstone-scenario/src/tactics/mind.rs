//! The mind of one stand-in: what it knows, what it has chosen, and what it is at.

mod choosing;
mod doing;

use hammerstone::flow::{Question, Tactic};
use hammerstone::geometry::Pose;
use hammerstone::ids::{AttackId, CombatantId, SwingId};
use hammerstone::{Encounter, Fixed, View};

use super::attacks::Lore;
use super::def::*;
use super::plane::{Flat, Plane};
use super::sight::{Seen, Sight};

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

/// Where a target that was seen at the last look is now.
fn follow(around: &Around<'_>, target: &mut Target) {
    if let Some(other) = around.sight.of(target.who).filter(|_| target.in_sight) {
        (target.at, target.seen) = (other.at, around.now);
    }
}
