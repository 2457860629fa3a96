//! What an order is about, and orders that are kept.

use super::*;
use crate::terms::with_order_kinds;

macro_rules! declare_kind_of {
    ($($kind:ident $name:literal,)*) => {
        const fn kind_of(order: &Order) -> OrderKind {
            match order {
                $(Order::$kind { .. } => OrderKind::$kind,)*
            }
        }
    };
}

with_order_kinds!(declare_kind_of);

fn tame(numbers: &mut [f32]) {
    numbers.iter_mut().filter(|x| !x.is_finite()).for_each(|x| *x = f32::MAX);
}

fn pose(pose: &mut Pose) {
    // Only what is finite times zero is zero.
    let zeros = pose.at.iter().chain(&pose.turn).map(|x| x * 0.0);
    if zeros.fold(0.0, |sum, zero| sum + zero) != 0.0 {
        tame(&mut pose.at);
        tame(&mut pose.turn);
    }
}

/// A pose as [`Order::tame`] leaves it.
pub(crate) fn tamed(mut given: Pose) -> Pose {
    pose(&mut given);
    given
}

impl Order {
    /// Which order it is, without what it says.
    pub const fn kind(&self) -> OrderKind {
        kind_of(self)
    }

    /// The order's name in the feed.
    pub const fn name(&self) -> &'static str {
        self.kind().name()
    }

    /// Puts the largest number there is in place of each that is not finite: an order waits in the state, which is written and read, and
    /// is refused when its time comes, since that is out of bounds.
    #[inline]
    pub(crate) fn tame(&mut self) {
        match self {
            Order::Spawn { pose: at, .. }
            | Order::SpawnKeyed { pose: at, .. }
            | Order::Move { pose: at, .. }
            | Order::Teleport { pose: at, .. }
            | Order::SpawnAttack { pose: at, .. }
            | Order::Guide { pose: at, .. }
            | Order::Return { pose: at, .. }
            | Order::MoveObstacle { pose: at, .. }
            | Order::PlaceObstacle { pose: at, .. }
            | Order::Start { aim: Some(at), .. } => pose(at),
            Order::Report { touch, .. } | Order::StopBody { touch, .. } => {
                tame(&mut touch.point);
                tame(&mut touch.normal);
                tame(std::slice::from_mut(&mut touch.toi));
                tame(std::slice::from_mut(&mut touch.speed));
            }
            Order::AddObstacle { obstacle, .. } => match obstacle {
                Obstacle::Box { pose: at, half } => {
                    pose(at);
                    tame(half);
                }
                Obstacle::Sphere { at, radius } => {
                    tame(at);
                    tame(std::slice::from_mut(radius));
                }
                Obstacle::Capsule { from, to, radius } => {
                    tame(from);
                    tame(to);
                    tame(std::slice::from_mut(radius));
                }
                Obstacle::HalfSpace { at, normal } => {
                    tame(at);
                    tame(normal);
                }
            },
            Order::Publish { values, .. } => {
                for value in values {
                    if let HostValue::At(at) = value {
                        tame(at);
                    }
                }
            }
            _ => {}
        }
    }

    /// As [`tame`](Self::tame), where these poses are there: an order that names others names none.
    #[inline]
    pub(crate) fn tame_among(&mut self, given: &[Pose]) {
        if let Some(poses) = self.poses()
            && poses.of(given).is_none()
        {
            *poses = Poses::NONE;
        }
        self.tame();
    }

    /// Whether it brings something into being whose id it names.
    #[inline]
    pub(crate) fn brings_an_id(&self) -> bool {
        matches!(
            self,
            Order::Spawn { .. }
                | Order::SpawnKeyed { .. }
                | Order::Start { .. }
                | Order::SpawnAttack { .. }
                | Order::AddObstacle { .. }
                | Order::Subscribe { .. }
        )
    }

    /// The poses that it names, if it names any.
    #[inline]
    pub(crate) fn poses(&mut self) -> Option<&mut Poses> {
        match self {
            Order::PoseParts { poses, .. } | Order::GuideHitboxes { poses, .. } => Some(poses),
            _ => None,
        }
    }

    /// The same with the ids of swings as of another epoch: what is ordered again is another swing.
    pub(crate) fn in_epoch(mut self, epoch: Epoch) -> Order {
        match &mut self {
            Order::Start { swing, .. }
            | Order::SpawnAttack { swing, .. }
            | Order::Marker { swing, .. }
            | Order::StopBody { swing, .. }
            | Order::Release { swing }
            | Order::Guide { swing, .. }
            | Order::GuideHitboxes { swing, .. }
            | Order::Cancel { swing }
            | Order::Rewind { swing, .. }
            | Order::Report { swing, .. } => *swing = SwingId::new(swing.number(), epoch),
            _ => {}
        }
        self
    }

    /// The attack that the order would start, if it would start one.
    pub const fn attack(&self) -> Option<AttackId> {
        match *self {
            Order::Start { attack, .. } | Order::SpawnAttack { attack, .. } => Some(attack),
            _ => None,
        }
    }

    /// The combatant that the order is about, if there is one.
    pub const fn subject(&self) -> Option<CombatantId> {
        match *self {
            Order::Spawn { id, .. } | Order::SpawnKeyed { id, .. } => Some(id),
            Order::Move { subject, .. }
            | Order::Teleport { subject, .. }
            | Order::Start { subject, .. }
            | Order::Apply { subject, .. }
            | Order::Lift { subject, .. }
            | Order::LiftFamily { subject, .. }
            | Order::Change { subject, .. }
            | Order::Unchange { subject, .. }
            | Order::SetMaximum { subject, .. }
            | Order::RaiseShield { subject, .. }
            | Order::SendAway { subject }
            | Order::Return { subject, .. }
            | Order::Attach { subject, .. }
            | Order::ChangeGauge { subject, .. }
            | Order::ChangeTeam { subject, .. }
            | Order::ScaleTime { subject, .. }
            | Order::Transform { subject, .. }
            | Order::LetGo { subject }
            | Order::Request { subject, .. }
            | Order::TellChoice { subject, .. }
            | Order::FlagCombatant { subject, .. }
            | Order::CountCombatant { subject, .. }
            | Order::Follow { subject, .. }
            | Order::Label { subject, .. }
            | Order::PoseParts { subject, .. }
            | Order::ShowPart { subject, .. }
            | Order::Resize { subject, .. }
            | Order::Remove { subject } => Some(subject),
            Order::Report { target, .. } | Order::Damage { target, .. } | Order::Heal { target, .. } => {
                Some(target)
            }
            Order::Say { subject, .. } | Order::Fire { subject, .. } => subject,
            Order::Score { credit, .. } => credit,
            Order::Cancel { .. }
            | Order::Rewind { .. }
            | Order::Publish { .. }
            | Order::SetFlag { .. }
            | Order::Count { .. }
            | Order::StartWaves { .. }
            | Order::StopWaves { .. }
            | Order::NextRound
            | Order::Reset
            | Order::SpawnAttack { .. }
            | Order::Marker { .. }
            | Order::Release { .. }
            | Order::Guide { .. }
            | Order::GuideHitboxes { .. }
            | Order::AddObstacle { .. }
            | Order::MoveObstacle { .. }
            | Order::PlaceObstacle { .. }
            | Order::NameObstacle { .. }
            | Order::OpenObstacle { .. }
            | Order::StopBody { .. }
            | Order::RemoveObstacle { .. }
            | Order::Subscribe { .. }
            | Order::Unsubscribe { .. }
            | Order::Pause { .. }
            | Order::Resume { .. }
            | Order::End { .. } => None,
        }
    }
}
