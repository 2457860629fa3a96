//! Waves: so many come; when few enough are left, more.

use crate::event::EncounterWave;
use glam::Vec3;

use crate::geometry::Pose;
use crate::ids::*;
use crate::lifecycle;
use crate::ruleset::{Group, Rules, Waves};
use crate::state::{Flow, State, WavesState};
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
        if state.due.is_some_and(|due| due <= work.state.tick) {
            let come = state.come + 1;
            work.state.waves[place] = WavesState { running: come < waves.times, come, due: None };
            send(work, WaveId::new(place), waves, come);
            settle(work.rules, work.state, place, waves);
        }
    }
}

/// The next wave of a sequence is due its delay after few enough are left.
fn settle(rules: &Rules, state: &mut State, place: usize, waves: &Waves) {
    let WavesState { running, due, .. } = state.waves[place];
    if running && due.is_none() {
        let team = waves.team.unwrap_or(rules.template(waves.template).team);
        let group = waves.of.unwrap_or(Group::team(team));
        if state.standing(rules, &group) <= waves.left as usize {
            state.waves[place].due = Some(state.tick.saturating_add(waves.delay));
        }
    }
}

fn send(work: &mut Work<'_>, id: WaveId, waves: &Waves, wave: u32) {
    let count = waves.size_of(wave);
    work.log.begin_root();
    work.log.publish(EncounterWave { waves: id, wave, count });
    let spots = waves.spots.len();
    for i in 0..count as usize {
        let Some(&spot) = waves.spots.get(i % spots) else { return };
        let pose = work.rules.pose_of(spot);
        let apart = Vec3::from_array(waves.apart) * (i / spots) as f32;
        let at = Vec3::from_array(pose.at) + apart + 0.0;
        work.log.begin_root();
        let Some(who) = work.state.registrar.place() else { return };
        lifecycle::join(work, who, waves.template, waves.team, Pose { at: at.to_array(), ..pose }, None);
    }
}
