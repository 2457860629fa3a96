//! The gates that a meeting passes, in their order.

use crate::event::{Event, Gate, Operand};
use crate::ruleset::Policy;
use crate::state::{Life, Mark};
use crate::work::{Meeting, Work};

/// The gate that refused, what it wanted, and what it found.
pub(super) struct Refused {
    gate: Gate,
    wanted: Operand,
    found: Operand,
}

/// Lets the meeting pass, or says which gate refuses it.
pub(super) fn pass(work: &Work<'_>, index: usize, mark: usize, meeting: &Meeting) -> Result<(), Refused> {
    let (rules, state) = (work.rules, &*work.state);
    let swing = &state.swings[index];
    let attack = rules.attack(swing.attack);
    let refuse = |gate, wanted, found| Err(Refused { gate, wanted, found });
    if meeting.target == swing.attacker {
        return refuse(Gate::OwnBody, Operand::OtherBody, Operand::OwnBody);
    }
    if let Some(why) = swing.ended {
        return refuse(Gate::Ended, Operand::Running, Operand::SwingEnded(why));
    }
    if swing.window == 0 {
        return refuse(Gate::Closed, Operand::OpenWindow, Operand::Clock(swing.clock));
    }
    let life = state.combatants.life_of(meeting.target);
    let gate = match life {
        Life::Standing => None,
        Life::Fallen => Some(Gate::Fallen),
        Life::Away => Some(Gate::Away),
        Life::Gone => Some(Gate::Gone),
    };
    if let Some(gate) = gate {
        return refuse(gate, Operand::Life(Life::Standing), Operand::Life(life));
    }
    let slot = meeting.target.slot();
    let layer = rules.cast(state.combatants.cast[slot]).parts[usize::from(meeting.part)].layer;
    if !attack.meets_layer(layer) {
        return refuse(Gate::Layer, Operand::Layers(attack.layers()), Operand::Layer(layer));
    }
    let relation = rules.relation(swing.team, state.combatants.team[slot]);
    if !attack.strikes.has(relation) {
        return refuse(Gate::Team, Operand::Relations(attack.strikes), Operand::Relation(relation));
    }
    let hits = struck(state.marks.get(mark), attack.policy, swing.window);
    if hits > 0 {
        return refuse(Gate::Struck, Operand::Hits(0), Operand::Hits(hits));
    }
    Ok(())
}

/// How often the swing has struck the target in the stretch in which its policy allows one hit.
fn struck(mark: &Mark, policy: Policy, window: u16) -> u32 {
    match policy {
        Policy::Once => mark.hits,
        Policy::Window if mark.window == window => mark.hits_in_window,
        Policy::Window => 0,
    }
}

/// Counts a refusal, and publishes it if it is this gate's first for the swing and the target.
pub(super) fn refuse(work: &mut Work<'_>, index: usize, mark: usize, meeting: &Meeting, refused: Refused) {
    let Refused { gate, wanted, found } = refused;
    work.state.counts.refused[gate as usize] += 1;
    let mark = work.state.marks.get_mut(mark);
    let bit = 1 << gate as u16;
    if mark.refused & bit == 0 {
        mark.refused |= bit;
        let swing = &work.state.swings[index];
        let (swing, attack, attacker) = (swing.id, swing.attack, swing.attacker);
        let Meeting { target, part, .. } = *meeting;
        work.publish(Event::HitRefused { swing, attack, attacker, target, part, gate, wanted, found });
    }
}
