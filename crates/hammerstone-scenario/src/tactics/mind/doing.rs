//! What it does about a choice: starts, presses of combos, charges, dashes, a friend who is brought back.

use hammerstone::Life;
use hammerstone::attack::Phase;
use hammerstone::ids::CombatantId;

use super::super::def::*;
use super::super::plane::{from_to, length, times, unit};
use super::super::sight::Seen;
use super::{Around, Ask, Carried, Combo, Mind, Pending, Target};

impl Mind {
    pub(super) fn carry_out(
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
    pub(super) fn go_on(
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
}
