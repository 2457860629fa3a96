//! Steps: where a stand-in goes in a tick.

use hammerstone::Fixed;
use hammerstone::flow::Tactic;
use hammerstone::geometry::{Moving, Pose, Shape};

use super::def::{Moves, Speed, Tactics};
use super::mind::{Around, Mind};
use super::plane::{Flat, dot, from_to, length, length_and_unit, sum, times, unit};
use super::sight::Seen;

/// What a body keeps between itself and what is solid, in metres.
const SKIN: f32 = 0.01;
/// The farthest that others push a body aside in a tick, in metres.
const ASIDE: f32 = 0.05;
/// It is there when it is so near, in metres.
const THERE: f32 = 0.05;

/// Which way it wants to go, in metres of this tick, and which way to face.
struct Wish {
    step: Flat,
    facing: Option<Flat>,
}

impl Mind {
    /// The pose at which it wants to be after the next tick; none where that is where it is.
    pub(crate) fn step(
        &mut self,
        around: &Around<'_>,
        me: &Seen,
        place: usize,
        tactics: &Tactics,
    ) -> Option<Pose> {
        // Nothing where something else moves it, holds it, or stops its clock.
        let pace = around.view.free_pace(me.who)?;
        if let Some(pushed) = self.pushed.filter(|pushed| around.now < pushed.until) {
            let way = around.plane.flat(pushed.way);
            let rise = around.plane.height(pushed.way);
            return Some(self.walked(around, me, way, None, rise));
        }
        self.pushed = None;
        if self.is_stunned {
            return pressed_aside(around, place).map(|way| self.walked(around, me, way, None, 0.0));
        }
        if let Some(dash) = self.dash.filter(|dash| around.now < dash.until) {
            let way = around.plane.flat(dash.way);
            return Some(self.walked(around, me, way, None, 0.0));
        }
        self.dash = None;
        if let Some(Moves::Drift(by, wrap)) = self.moves(tactics) {
            return Some(drifted(me.pose, *by, *wrap));
        }
        let wish = self.wish(around, me, tactics, pace);
        let aside = pressed_aside(around, place).unwrap_or_default();
        let step = sum(wish.step, aside);
        let facing = wish.facing.and_then(|way| turned(around, me, way, tactics));
        (step != [0.0; 2] || facing.is_some()).then(|| self.walked(around, me, step, facing, 0.0))
    }

    /// The way of moving that it has chosen, if no rule asks for another.
    fn moves<'t>(&self, tactics: &'t Tactics) -> Option<&'t Moves> {
        static FOLLOWS: Moves = Moves::Follow(1.5);
        static FLEES: Moves = Moves::Flee(1000.0);
        static WAITS: Moves = Moves::Wait;
        match self.asked {
            Some((Tactic::Follow, _)) => Some(&FOLLOWS),
            Some((Tactic::Flee, _)) => Some(&FLEES),
            Some((Tactic::HoldPlace, _)) => Some(&WAITS),
            _ => tactics.choices.get(self.moving?)?.moves.as_ref(),
        }
    }

    fn wish(&mut self, around: &Around<'_>, me: &Seen, tactics: &Tactics, free: Fixed) -> Wish {
        let view = &around.view;
        let target = if self.asked.is_none() { self.moving_at } else { None }.or(self.target());
        let to_target = target.map(|target| from_to(me.at, target.at));
        let stay = Wish { step: [0.0; 2], facing: to_target };
        if self.is_reviving() {
            return stay;
        }
        let asked = self.asked.and_then(|(_, other)| other).and_then(|other| around.sight.of(other));
        let Some(moves) = self.moves(tactics) else { return stay };
        let pace = self.asked.map_or_else(
            || self.moving.and_then(|place| tactics.choices.get(place)).map_or(1.0, |choice| choice.pace),
            |_| 1.0,
        );
        let per_tick = match tactics.speed {
            Speed::Plain(metres) => metres,
            Speed::Of(stat, factor) => {
                view.stat(me.who, stat).map_or(0.0, |stat| stat.to_f64() as f32) * factor
            }
        };
        let slower = if me.busy { tactics.while_swinging } else { 1.0 };
        let speed = per_tick * pace * slower * free.to_f64() as f32;
        let speed = if speed > 0.0 { speed } else { 0.0 };
        // Straight to a place, and no farther than it.
        let to = |place: Flat, near: f32| {
            let (far, way) = length_and_unit(from_to(me.at, place));
            let left = far - near;
            match way {
                Some(way) if left > THERE => times(way, if left < speed { left } else { speed }),
                _ => [0.0; 2],
            }
        };
        let ahead = |step: Flat| Wish { step, facing: Some(step) };
        match *moves {
            Moves::Wait | Moves::Drift(..) => stay,
            Moves::Approach(near) => {
                let step = target.map_or([0.0; 2], |target| {
                    // Out of sight, it goes to where it saw it last.
                    to(target.at, if target.in_sight { near } else { 0.0 })
                });
                Wish { step, facing: to_target }
            }
            Moves::KeepDistance(least, most) => {
                let Some(way) = to_target else { return stay };
                let (far, way) = length_and_unit(way);
                let step = match way {
                    Some(way) if far > most => times(way, speed),
                    Some(way) if far < least => times(way, -speed),
                    _ => [0.0; 2],
                };
                Wish { step, facing: to_target }
            }
            Moves::Circle(metres, _) => {
                let Some((far, Some(unit))) = to_target.map(length_and_unit) else { return stay };
                let side = if self.left { [unit[1], -unit[0]] } else { [-unit[1], unit[0]] };
                let off = far - metres;
                let off = off.clamp(-1.0, 1.0);
                let around = sum(times(side, 1.0 - off.abs() * 0.7), times(unit, off));
                let step = unit_or_zero(around);
                Wish { step: times(step, speed), facing: to_target }
            }
            Moves::Patrol(ref places) => {
                let place = places[self.patrol % places.len().max(1)];
                if length(from_to(me.at, place)) <= THERE + speed {
                    self.patrol = (self.patrol + 1) % places.len();
                }
                ahead(to(places[self.patrol % places.len()], 0.0))
            }
            Moves::GoTo(place) => ahead(to(place, 0.0)),
            Moves::HoldPlace => {
                let step = to(self.home, 0.0);
                Wish { step, facing: if step == [0.0; 2] { to_target } else { Some(step) } }
            }
            Moves::Follow(near) => {
                let leader = view.leader(me.who).and_then(|leader| around.sight.of(leader));
                ahead(asked.or(leader).map_or([0.0; 2], |leader| to(leader.at, near)))
            }
            Moves::Flee(metres) => {
                let from = asked.map(|other| other.at).or(target.map(|target| target.at));
                let away = from.map(|from| from_to(from, me.at)).filter(|way| length(*way) < metres);
                ahead(away.map_or([0.0; 2], |way| times(unit(way).unwrap_or([0.0, 1.0]), speed)))
            }
        }
    }

    /// The pose after a step, which slides along what is solid.
    fn walked(&self, around: &Around<'_>, me: &Seen, step: Flat, facing: Option<Flat>, rise: f32) -> Pose {
        let step = if around.sight.solids { slid(around, me, step) } else { step };
        let height = around.plane.height(me.pose.at) + rise;
        let at = around.plane.place(sum(me.at, step), height);
        match facing {
            Some(way) => around.plane.pose(at, way),
            None => Pose { at, ..me.pose },
        }
    }
}

/// Which way one faces after the tick; none where it need not turn.
fn turned(around: &Around<'_>, me: &Seen, way: Flat, tactics: &Tactics) -> Option<Flat> {
    tactics.turns.turned(around.plane.facing(me.pose), unit(way)?)
}

/// How others press one aside who are too near.
fn pressed_aside(around: &Around<'_>, place: usize) -> Option<Flat> {
    let aside = around.sight.pressed_aside(place);
    let far = length(aside);
    let most = if far > ASIDE { ASIDE / far } else { 1.0 };
    (far > 1.0e-4).then(|| times(aside, most))
}

fn unit_or_zero(way: Flat) -> Flat {
    unit(way).unwrap_or_default()
}

/// Straight on, and through the sides of the box that are joined.
fn drifted(pose: Pose, by: [f32; 3], wrap: Option<[[f32; 3]; 2]>) -> Pose {
    let mut at = pose.at;
    for (axis, x) in at.iter_mut().enumerate() {
        *x += by[axis];
        if let Some([low, high]) = wrap {
            let (low, high) = (low[axis], high[axis]);
            if *x > high {
                *x += low - high;
            } else if *x < low {
                *x += high - low;
            }
        }
    }
    Pose { at, ..pose }
}

/// As much of a step as what is solid leaves: up to it, then along it.
fn slid(around: &Around<'_>, me: &Seen, step: Flat) -> Flat {
    let plane = &around.plane;
    let radius = if me.room > 0.05 { me.room } else { 0.05 };
    let middle = around.lore.middles.get(me.template).copied().unwrap_or(0.0) * me.size;
    // Not so low that it touches the ground on which it stands.
    let middle = if middle > radius + SKIN { middle } else { radius + SKIN };
    let height = plane.height(me.pose.at) + middle;
    let (mut left, mut gone) = (step, [0.0; 2]);
    for _ in 0..3 {
        let long = length(left);
        let Some(way) = unit(left) else { break };
        let from = plane.place(sum(me.at, gone), height);
        let to = plane.place(sum(sum(me.at, gone), times(way, long + SKIN)), height);
        let shape = Shape::Sphere { at: [0.0; 3], radius };
        let Ok(moving) = Moving::new(shape, Pose::at(from), Pose::at(to)) else { return [0.0; 2] };
        let Some(touch) = around.encounter.first_solid(&moving) else {
            gone = sum(gone, left);
            break;
        };
        let normal = plane.flat(touch.normal);
        let Some(normal) = unit(normal).filter(|_| length(normal) > 0.3) else {
            // A floor or a ceiling.
            gone = sum(gone, left);
            break;
        };
        let free = (long + SKIN) * touch.toi - SKIN;
        let free = if free > 0.0 { free } else { 0.0 };
        gone = sum(gone, times(way, free));
        left = times(way, long - free);
        let into = dot(left, normal);
        if into < 0.0 {
            left = [left[0] - normal[0] * into, left[1] - normal[1] * into];
        } else {
            // It is leaving.
            gone = sum(gone, left);
            break;
        }
    }
    gone
}
