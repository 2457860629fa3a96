//! Waves: so many come; when few enough are left, more.

use crate::event::EncounterWave;
use glam::Vec3;

use crate::geometry::Pose;
use crate::ids::*;
use crate::lifecycle;
use crate::ruleset::{Group, Growth, MOST_IN_A_WAVE, Metres, Rules, WaveLeader, Waves};
use crate::state::{Flow, State, WavesState};
use crate::terms::Life;
use crate::work::Work;

/// A sequence begins: its first wave comes after its delay.
pub(crate) fn start(rules: &Rules, state: &mut State, waves: WaveId) {
    let due = Some(state.tick.saturating_add(rules.waves[waves.index()].delay));
    state.waves[waves.index()] = WavesState { running: true, come: 0, due };
}

/// Waves whose time has come join. The next is settled as soon as few enough of the group are left, which may be at once.
pub(crate) fn advance(work: &mut Work<'_>) {
    if work.state.flow != Flow::Running {
        return;
    }
    let rules = work.rules;
    for (place, waves) in rules.waves.iter().enumerate() {
        if !work.state.waves[place].running {
            continue;
        }
        settle(work.rules, work.state, place, waves);
        let state = work.state.waves[place];
        if let Some(due) = state.due.filter(|due| *due <= work.state.tick) {
            let come = state.come.saturating_add(1);
            let endless = waves.times_of().is_none();
            // The count of endless ones stays where it can be held.
            let come = if endless { come.min(Waves::ENDLESS - 1) } else { come };
            let running = endless || come < waves.times;
            // On a timer the next is due so long after this one was.
            let next = waves.every.filter(|_| running).map(|every| due.saturating_add(every));
            work.state.waves[place] = WavesState { running, come, due: next };
            send(work, WaveId::new(place), waves, come);
            settle(work.rules, work.state, place, waves);
        }
    }
}

/// The next wave of a sequence is due its delay after few enough are left.
fn settle(rules: &Rules, state: &mut State, place: usize, waves: &Waves) {
    let WavesState { running, due, .. } = state.waves[place];
    if running
        && due.is_none()
        && waves.every.is_none()
        && state.standing(rules, &rules.waits_for(waves)) <= waves.left as usize
    {
        state.waves[place].due = Some(state.tick.saturating_add(waves.delay));
    }
}

fn send(work: &mut Work<'_>, id: WaveId, waves: &Waves, wave: u32) {
    let count = match waves.growth {
        Growth::Counter(counter) => {
            work.state.counters[counter.index()].clamp(0, MOST_IN_A_WAVE.into()) as u32
        }
        _ => waves.size_of(wave),
    };
    work.log.begin_root();
    work.log.publish(EncounterWave { waves: id, wave, count });
    let mut leader = match waves.leader {
        Some(WaveLeader::Of(group)) => first_of(work.rules, work.state, &group),
        _ => None,
    };
    let mut next = 0;
    for i in 0..count as usize {
        let Some(pose) = place_for(work.rules, work.state, waves, i, &mut next) else { return };
        work.log.begin_root();
        let Some(who) = work.state.registrar.place() else { return };
        lifecycle::join(work, who, waves.template, waves.team, pose, None, None);
        if waves.leader.is_some() {
            if let Some(leader) =
                leader.filter(|&leader| stands(work.state, leader) && stands(work.state, who))
            {
                work.state.combatants.follow(who.slot(), Some(leader));
            } else if waves.leader == Some(WaveLeader::First) {
                leader = Some(who);
            }
        }
    }
}

fn stands(state: &State, who: CombatantId) -> bool {
    state.combatants.life_of(who) == Life::Standing
}

/// The one of a group that stands in the lowest place.
fn first_of(rules: &Rules, state: &State, group: &Group) -> Option<CombatantId> {
    let combatants = &state.combatants;
    let is = |slot: &usize| combatants.life[*slot] == Life::Standing && combatants.is_of(rules, *slot, group);
    (0..combatants.slots()).find(is).map(|slot| combatants.id(slot))
}

/// Where number `i` of a wave comes, from 0: to its own place, or to the next that is free.
fn place_for(rules: &Rules, state: &State, waves: &Waves, i: usize, next: &mut usize) -> Option<Pose> {
    let spots = waves.spots.len();
    let place = |i: usize| {
        let pose = rules.pose_of(*waves.spots.get(i % spots.max(1))?);
        let apart = Vec3::from_array(waves.apart) * (i / spots) as f32;
        let at = Vec3::from_array(pose.at) + apart + 0.0;
        Some(Pose { at: at.to_array(), ..pose })
    };
    let Some(Metres(clear)) = waves.clear else { return place(i) };
    let combatants = &state.combatants;
    let is_free = |pose: &Pose| {
        let at = Vec3::from_array(pose.at);
        let near = |slot: usize| (Vec3::from_array(combatants.pose[slot].at) - at).length() <= clear;
        !(0..combatants.slots()).any(|slot| combatants.life[slot] == Life::Standing && near(slot))
    };
    // Everyone who stands may be in the way of one place each; rows without a way apart are all one.
    let rows = if waves.apart == [0.0; 3] { 1 } else { combatants.slots() + 1 };
    while *next < rows * spots {
        let pose = place(*next)?;
        *next += 1;
        if is_free(&pose) {
            return Some(pose);
        }
    }
    place(i)
}
