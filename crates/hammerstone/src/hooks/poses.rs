//! Poses that a host is asked for, where parts come near an open hitbox.

use crate::geometry::{Frame, Motion, Placement, Pose};
use crate::ids::*;
use crate::orders::{all_within, in_body};
use crate::terms::Refusal;
use crate::view::View;

/// Asks for the poses of one combatant's parts.
#[derive(Clone, Copy, Debug)]
pub struct PoseRequest<'a> {
    /// The combatant.
    pub who: CombatantId,
    /// Its template.
    pub template: TemplateId,
    /// The host's own 64 bits on it.
    pub label: u64,
    /// How many parts it has.
    pub parts: usize,
    /// The encounter, in the middle of the tick: moves are over, contacts are still to be found.
    pub view: View<'a>,
}

/// Takes the poses of all parts of one combatant, as the tick begins and as it ends.
#[derive(Debug)]
pub struct PoseAnswer<'a> {
    pub(crate) ways: &'a mut Vec<Motion>,
    pub(crate) first: usize,
    pub(crate) parts: usize,
    pub(crate) limit: f32,
    pub(crate) carrier: Motion,
    /// The last answer, for one who wraps a host.
    pub(crate) given: Option<GivenPoses>,
}

/// The poses of one combatant's parts as a host gave them: the last answer ([`PoseAnswer::give`]).
#[derive(Clone, PartialEq, Debug, Default)]
pub struct GivenPoses {
    /// The frame; none while there is no answer.
    pub frame: Option<Frame>,
    /// As the tick begins.
    pub start: Vec<Pose>,
    /// As it ends.
    pub end: Vec<Pose>,
}

impl GivenPoses {
    /// No answer; keeps the memory.
    pub fn clear(&mut self) {
        self.frame = None;
        self.start.clear();
        self.end.clear();
    }
}

impl PoseAnswer<'_> {
    /// The parts go from these poses to those in the course of the tick: one for each part, in their order. The last answer counts; without
    /// one the parts are where the template has them.
    ///
    /// *Frame:* that of the body, or the world's; then `start` is for where the body was as the tick began, and `end` for where it is when
    /// it is over. *Errors:* too few or too many, a number that is not finite, one that is farther from the body than the template's
    /// [reach](crate::template::Template::posed). Then nothing is taken.
    pub fn give(&mut self, frame: Frame, start: &[Pose], end: &[Pose]) -> Result<(), Refusal> {
        let bodies = [self.carrier.from, self.carrier.end()];
        for (poses, body) in [start, end].into_iter().zip(bodies) {
            all_within(Some(poses), self.parts, Pose::from(body), frame, self.limit)?;
        }
        self.ways.truncate(self.first);
        let within = |body: Placement, pose: &Pose| in_body(body, frame, *pose);
        let ways = start
            .iter()
            .zip(end)
            .map(|(start, end)| Motion::between(within(bodies[0], start), within(bodies[1], end)));
        self.ways.extend(ways);
        if let Some(given) = &mut self.given {
            given.clear();
            given.frame = Some(frame);
            given.start.extend_from_slice(start);
            given.end.extend_from_slice(end);
        }
        Ok(())
    }

    /// Runs `answers`, and keeps in `given` what it answers: for hosts that wrap another.
    pub fn noting(&mut self, given: &mut GivenPoses, answers: impl FnOnce(&mut Self)) {
        given.clear();
        let before = self.given.replace(std::mem::take(given));
        answers(self);
        *given = std::mem::replace(&mut self.given, before).unwrap_or_default();
    }
}
