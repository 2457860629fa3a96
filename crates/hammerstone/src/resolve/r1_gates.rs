//! The gates that a meeting passes, in their order.

use crate::event::{Gate, HitRefused, Operand, SwingEnd};
use crate::log::Log;
use glam::Vec3;

use crate::detect::HitCandidate;
use crate::detect::reach_of_beam;
use crate::geometry::Pose;
use crate::ids::*;
use crate::ruleset::{Attack, Form, Policy, Rules, Sharing, Side};
use crate::sheet;
use crate::state::{Life, State, StruckEntry, Swing};
use crate::work::Work;

/// The gate that refused, what it wanted, and what it found.
pub(super) struct Refused {
    pub(super) gate: Gate,
    pub(super) wanted: Operand,
    pub(super) found: Operand,
}

fn refuse_by(gate: Gate, wanted: Operand, found: Operand) -> Result<(), Refused> {
    Err(Refused { gate, wanted, found })
}

/// Lets the meeting in as far as the struck list, or says which gate refuses it.
pub(super) fn admit(
    rules: &Rules,
    state: &State,
    log: &Log,
    index: usize,
    candidate: &HitCandidate,
) -> Result<(), Refused> {
    let swing = &state.swings[index];
    let attack = rules.attack(swing.attack);
    swing_goes_on(rules, log, swing, candidate)?;
    target_is_there(state, candidate)?;
    target_may_be_struck(rules, state, swing, attack, candidate)?;
    comes_the_right_way(rules, state, swing, attack, candidate)
}

/// Lets what was admitted pass, or says which gate refuses it. The last gate, the intercepts, is asked elsewhere.
pub(super) fn pass(
    rules: &Rules,
    state: &State,
    index: usize,
    mark: usize,
    candidate: &HitCandidate,
) -> Result<(), Refused> {
    let swing = &state.swings[index];
    let attack = rules.attack(swing.attack);
    turn_has_come(state, swing, attack, state.marks.get(mark), candidate)?;
    is_vulnerable(rules, state, attack, candidate)
}

fn swing_goes_on(rules: &Rules, log: &Log, swing: &Swing, candidate: &HitCandidate) -> Result<(), Refused> {
    if Some(candidate.target) == swing.attacker {
        return refuse_by(Gate::OwnBody, Operand::OtherBody, Operand::OwnBody);
    }
    if let Some(why) = swing.ended {
        // Where both land, what was found before the attacker died still counts.
        let lands = rules.both_land && why == SwingEnd::Died && log.source.pass == 0;
        if lands {
            return Ok(());
        }
        return refuse_by(Gate::Ended, Operand::Running, Operand::SwingEnded(why));
    }
    if swing.window == 0 {
        return refuse_by(Gate::Closed, Operand::OpenWindow, Operand::Clock(swing.clock));
    }
    Ok(())
}

fn target_is_there(state: &State, candidate: &HitCandidate) -> Result<(), Refused> {
    let life = state.combatants.life_of(candidate.target);
    let gate = match life {
        Life::Standing => return Ok(()),
        Life::Dead => Gate::Dead,
        Life::Away => Gate::Away,
        Life::Gone => Gate::Gone,
    };
    refuse_by(gate, Operand::Life(Life::Standing), Operand::Life(life))
}

/// Layer, team and tags.
fn target_may_be_struck(
    rules: &Rules,
    state: &State,
    swing: &Swing,
    attack: &Attack,
    candidate: &HitCandidate,
) -> Result<(), Refused> {
    let (rules, combatants) = (rules, &state.combatants);
    let slot = candidate.target.slot();
    let template = rules.template(combatants.template[slot]);
    let layer = template.parts[usize::from(candidate.part)].layer;
    if !attack.meets_layer(layer) {
        return refuse_by(Gate::Layer, Operand::Layers(attack.layers()), Operand::Layer(layer));
    }
    let relation = rules.stance(swing.team, combatants.team[slot]);
    if !attack.strikes.has(relation) {
        return refuse_by(Gate::Team, Operand::Relations(attack.strikes), Operand::Relation(relation));
    }
    if attack.needs_tags | attack.spares_tags == 0 {
        return Ok(());
    }
    // Its own, what statuses lend it, and those of the part.
    let part = &template.parts[usize::from(candidate.part)];
    let tags = sheet::tags(rules, state, slot) | part.tags_when(combatants.is_broken(slot, candidate.part));
    if tags & attack.needs_tags != attack.needs_tags {
        return refuse_by(Gate::Tags, Operand::AllTags(attack.needs_tags), Operand::Tags(tags));
    }
    if tags & attack.spares_tags != 0 {
        let melee = tags & attack.spares_tags;
        return refuse_by(Gate::Tags, Operand::NoTags(attack.spares_tags), Operand::Tags(melee));
    }
    Ok(())
}

/// Direction, and obstacles between.
fn comes_the_right_way(
    rules: &Rules,
    state: &State,
    swing: &Swing,
    attack: &Attack,
    candidate: &HitCandidate,
) -> Result<(), Refused> {
    let from = Vec3::from_array(origin(state, swing, candidate).at);
    if let Some(direction) = attack.direction {
        let up = Vec3::from_array(rules.up.vector());
        let cosine = match direction.side {
            Side::Above => candidate.impact.normal.dot(up),
            Side::Before | Side::Behind => {
                let before = sheet::before(rules, state, candidate.target.slot(), from);
                if direction.side == Side::Before { before } else { -before }
            }
        };
        if cosine < direction.cosine {
            let wanted = Operand::Side(direction.side, direction.cosine);
            return refuse_by(Gate::Direction, wanted, Operand::Cosine(cosine));
        }
    }
    if attack.clear_line {
        // To just before the point, which may lie on an obstacle's own surface.
        let way = candidate.impact.point - from;
        let length = way.length();
        let reach = length - 0.01;
        if reach > 0.0
            && let (_, Some(obstacle)) = reach_of_beam(&state.obstacles, from, way / length, reach)
        {
            return refuse_by(Gate::Obstacle, Operand::ClearLine, Operand::Behind(obstacle));
        }
    }
    Ok(())
}

/// Where an attack comes from: where it was placed, where its body was when the tick began, or its attacker.
pub(super) fn origin(state: &State, swing: &Swing, candidate: &HitCandidate) -> Pose {
    let body = state.flying_index(candidate.swing, candidate.body).map(|place| state.flying[place]);
    let attacker = || swing.attacker.map(|attacker| state.combatants.pose[attacker.slot()]);
    body.map(|body| body.before).or(swing.anchor).or_else(attacker).unwrap_or(Pose::IDENTITY)
}

/// Struck list, interval and maximum of targets.
fn turn_has_come(
    state: &State,
    swing: &Swing,
    attack: &Attack,
    mark: &StruckEntry,
    candidate: &HitCandidate,
) -> Result<(), Refused> {
    let turns = match attack.policy {
        Policy::Once | Policy::Life => mark.turns,
        Policy::Window if mark.window == swing.window => mark.turns_in_window,
        Policy::Window => 0,
        Policy::Interval(every) => {
            let since = swing.age - mark.last;
            if mark.turns > 0 && since < every {
                return refuse_by(Gate::Interval, Operand::Ticks(every), Operand::Ticks(since));
            }
            0
        }
    };
    if turns > 0 {
        return refuse_by(Gate::Struck, Operand::Turns(0), Operand::Turns(turns));
    }
    if let Some(most) = attack.max_targets
        && mark.hits == 0
        && swing.targets >= most
    {
        return refuse_by(
            Gate::MaxTargets,
            Operand::Targets(most.into()),
            Operand::Targets(swing.targets.into()),
        );
    }
    if let Some((may, has)) = went_through(state, swing, attack, candidate)
        && has >= may
    {
        return refuse_by(Gate::MaxTargets, Operand::Targets(may), Operand::Targets(has));
    }
    Ok(())
}

/// How many targets a beam in this tick, or a projectile, may go through and stop in, and how many it has.
fn went_through(
    state: &State,
    swing: &Swing,
    attack: &Attack,
    candidate: &HitCandidate,
) -> Option<(u32, u32)> {
    match attack.form {
        Form::Beam(beam) => Some((u32::from(beam.pierce) + 1, swing.taken.into())),
        Form::Projectile(projectile) => {
            let body = &state.flying[state.flying_index(candidate.swing, candidate.body)?];
            let struck =
                if body.ended.is_some() { u32::from(projectile.pierce) + 1 } else { body.struck.into() };
            Some((u32::from(projectile.pierce) + 1, struck))
        }
        _ => None,
    }
}

pub(super) fn is_vulnerable(
    rules: &Rules,
    state: &State,
    attack: &Attack,
    candidate: &HitCandidate,
) -> Result<(), Refused> {
    if !rules.uses.invulnerable {
        return Ok(());
    }
    let invulnerable = |status: StatusId| {
        let authored = rules.status(status);
        authored.invulnerable && authored.lets & attack.tags == 0 && !attack.ignores.contains(&status)
    };
    let statuses_of = state.running_on(candidate.target.slot()).map(|application| application.status);
    match { statuses_of }.find(|&status| invulnerable(status)) {
        Some(status) => refuse_by(Gate::Invulnerable, Operand::Vulnerable, Operand::Status(status)),
        None => Ok(()),
    }
}

/// Counts a refusal, and publishes it if it is this gate's first for the swing and the target.
pub(super) fn refuse(
    work: &mut Work<'_>,
    index: usize,
    mark: usize,
    candidate: &HitCandidate,
    refused: Refused,
) {
    let Refused { gate, wanted, found } = refused;
    work.state.counts.refused[gate as usize] += 1;
    // A target between two turns stops a beam as it does at its turn.
    if matches!(gate, Gate::Struck | Gate::Interval) {
        super::take_target(work.rules, work.state, &mut work.rooms.detection, index, candidate);
    }
    let swing = &work.state.swings[index];
    let (swing, attack, attacker) = (swing.id, swing.attack, swing.attacker);
    let HitCandidate { target, part, .. } = *candidate;
    if first_of_its_gate(work, index, mark, gate) {
        work.log.publish(HitRefused { swing, attack, attacker, target, part, gate, wanted, found });
    }
}

/// Whether this gate of the swing has not refused the target before, in any life and on any struck list.
fn first_of_its_gate(work: &mut Work<'_>, index: usize, mark: usize, gate: Gate) -> bool {
    let bit = 1 << gate as u16;
    let target = work.state.marks.get(mark).target;
    let shared = work.rules.attack(work.state.swings[index].attack).sharing == Sharing::Swing;
    let mark = if shared {
        mark
    } else {
        super::entry_of(work.state, &mut work.rooms.known, index, target, StruckEntry::OF_ALL_LISTS)
    };
    let refused = &mut work.state.marks.get_mut(mark).refused;
    let first = *refused & bit == 0;
    *refused |= bit;
    first
}
