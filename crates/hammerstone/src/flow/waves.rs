//! Waves: so many come; when few enough are left, more.

use glam::Vec3;

use crate::event::Event;
use crate::geometry::Pose;
use crate::ids::*;
use crate::lifecycle;
use crate::ruleset::{Group, Waves};
use crate::state::{Flow, WavesState};
use crate::work::Work;

/// A sequence begins: its first wave comes after its delay.
pub(crate) fn start(work: &mut Work<'_>, waves: WaveId) {
    let due = Some(work.state.tick.saturating_add(work.rules.waves[waves.index()].delay));
    work.state.waves[waves.index()] = WavesState { running: true, come: 0, due };
}

/// Waves whose time has come join. After one, the next is settled when few enough of the group are left.
pub(crate) fn advance(work: &mut Work<'_>) {
    if work.state.flow != Flow::Running {
        return;
    }
    let rules = work.rules;
    for (place, waves) in rules.waves.iter().enumerate() {
        let mut state = work.state.waves[place];
        if !state.running {
            continue;
        }
        if state.due.is_none() {
            let team = waves.team.unwrap_or(rules.cast(waves.cast).team);
            let group = waves.of.unwrap_or(Group::team(team));
            if work.state.standing(rules, &group) <= waves.left as usize {
                state.due = Some(work.state.tick.saturating_add(waves.delay));
            }
        }
        if state.due.is_some_and(|due| due <= work.state.tick) {
            state = WavesState { running: state.come + 1 < waves.times, come: state.come + 1, due: None };
            come(work, WaveId::new(place), waves, state.come);
        }
        work.state.waves[place] = state;
    }
}

fn come(work: &mut Work<'_>, id: WaveId, waves: &Waves, wave: u32) {
    let count = waves.size_of(wave);
    work.begin_root();
    work.publish(Event::EncounterWave { waves: id, wave, count });
    let spots = waves.spots.len();
    for i in 0..count as usize {
        let Some(&spot) = waves.spots.get(i % spots) else { return };
        let pose = work.rules.spot(spot);
        let apart = Vec3::from_array(waves.apart) * (i / spots) as f32;
        let at = Vec3::from_array(pose.at) + apart + 0.0;
        work.begin_root();
        let who = work.state.registrar.reserve();
        lifecycle::join(work, who, waves.cast, waves.team, Pose { at: at.to_array(), ..pose }, None);
    }
}
