//! What is authored about an attack.

use crate::geometry::{Core, Pose, Shape, between};
use crate::ids::*;
use crate::ruleset::{Relation, Relations};

/// How often one swing may strike one target.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
pub enum Policy {
    /// Once in the whole swing.
    #[default]
    Once,
    /// Once in each window.
    Window,
}

impl Policy {
    /// All policies.
    pub const ALL: [Policy; 2] = [Policy::Once, Policy::Window];

    /// The policy's name in files and in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            Policy::Once => "once",
            Policy::Window => "window",
        }
    }
}

/// A base amount of one kind: drawn evenly from the whole points `low..=high`.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct Harm {
    /// The kind.
    pub kind: KindId,
    /// The least amount, in points.
    pub low: i64,
    /// The greatest amount, in points.
    pub high: i64,
}

/// A stretch of a swing in which its volumes are open, in ticks from the swing's start.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub(crate) struct Window {
    pub(crate) opens: u32,
    pub(crate) closes: u32,
}

/// The path of an attack's volumes in their carrier's frame: poses at ticks from the swing's start.
#[derive(Clone, PartialEq, Eq, Hash, Debug, Default)]
pub(crate) struct Path(pub(crate) Vec<(u32, Pose)>);

impl Path {
    /// The pose `clock` ticks after the start: between two keys on the way, beyond the ends at rest.
    pub(crate) fn at(&self, clock: u32) -> Pose {
        let after = self.0.partition_point(|&(at, _)| at <= clock);
        match (after.checked_sub(1).map(|i| self.0[i]), self.0.get(after)) {
            (None, None) => Pose::IDENTITY,
            (None, Some(&(_, first))) => first,
            (Some((_, last)), None) => last,
            (Some((start, from)), Some(&(end, to))) => between(from, to, clock - start, end - start),
        }
    }
}

/// An authored attack: volumes that its attacker carries through the air, open for a while.
///
/// *Units:* ticks, metres, points. *Frame:* volumes and path are in the attacker's frame.
///
/// ```
/// use hammerstone::*;
/// let mut b = Ruleset::builder(60);
/// let crush = b.kind("crush");
/// b.attack(
///     Attack::carried("maul")
///         .timeline(12, 10, 20) // wind-up, window, recovery
///         .harm(crush, 12, 16)
///         .volume(Shape::Capsule { from: [0.0, 1.2, 0.5], to: [0.0, 1.2, 1.6], radius: 0.2 })
///         .key(12, Pose::IDENTITY.facing(Axis::Y, -80.0))
///         .key(22, Pose::IDENTITY.facing(Axis::Y, 80.0)),
/// );
/// ```
#[derive(Clone, Debug)]
pub struct Attack {
    pub(crate) name: String,
    pub(crate) windows: Vec<Window>,
    pub(crate) total: u32,
    pub(crate) volumes: Vec<Shape>,
    pub(crate) cores: Vec<Core>,
    pub(crate) path: Path,
    pub(crate) meets: Option<u32>,
    pub(crate) strikes: Relations,
    pub(crate) policy: Policy,
    pub(crate) harm: Vec<Harm>,
    pub(crate) gives: Vec<StatusId>,
    pub(crate) key: u64,
    pub(crate) gaps: Vec<[u32; 2]>,
}

impl Attack {
    /// An attack whose volumes its attacker carries. It strikes foes, once in a swing, on every layer.
    pub fn carried(name: &str) -> Attack {
        Attack {
            name: name.to_owned(),
            windows: Vec::new(),
            total: 0,
            volumes: Vec::new(),
            cores: Vec::new(),
            path: Path::default(),
            meets: None,
            strikes: Relations::FOES,
            policy: Policy::Once,
            harm: Vec::new(),
            gives: Vec::new(),
            key: crate::rolls::name_key(name),
            gaps: Vec::new(),
        }
    }

    /// Wind-up, one window, recovery: each in ticks. A window of `n` ticks sweeps `n` whole ticks.
    pub fn timeline(mut self, wind_up: u32, window: u32, recovery: u32) -> Attack {
        self.gaps = vec![[wind_up, window]];
        self.total = recovery;
        self
    }

    /// A further window of `window` ticks, `gap` ticks after the one before; recovery follows the last.
    pub fn again(mut self, gap: u32, window: u32) -> Attack {
        self.gaps.push([gap, window]);
        self
    }

    /// Adds an amount of `kind` between `low` and `high` whole points.
    pub fn harm(mut self, kind: KindId, low: i64, high: i64) -> Attack {
        self.harm.push(Harm { kind, low, high });
        self
    }

    /// Adds a volume, in the frame of the path.
    pub fn volume(mut self, shape: Shape) -> Attack {
        self.volumes.push(shape);
        self
    }

    /// The volumes' pose in the attacker's frame `at` ticks after the swing's start. Keys come in order of time;
    /// without any, the volumes rest in the attacker's frame.
    pub fn key(mut self, at: u32, pose: Pose) -> Attack {
        self.path.0.push((at, pose));
        self
    }

    /// Meets parts on `layer`. The first call replaces *every layer*, later ones add.
    ///
    /// The one rule for layers: a part lies on one layer, an attack names the layers that it meets.
    pub fn meets(mut self, layer: LayerId) -> Attack {
        let bit = 1u32.checked_shl(layer.0.into()).unwrap_or(0);
        self.meets = Some(self.meets.unwrap_or(0) | bit);
        self
    }

    /// Whom it strikes, instead of foes only.
    pub fn strikes(mut self, relations: Relations) -> Attack {
        self.strikes = relations;
        self
    }

    /// How often one swing may strike one target.
    pub fn policy(mut self, policy: Policy) -> Attack {
        self.policy = policy;
        self
    }

    /// Gives `status` to whom it strikes, if they live through it.
    pub fn gives(mut self, status: StatusId) -> Attack {
        self.gives.push(status);
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Ticks from the start of a swing to its end.
    pub fn ticks(&self) -> u32 {
        self.total
    }

    /// The declared policy.
    pub fn policy_of(&self) -> Policy {
        self.policy
    }

    /// Whether it meets parts on `layer`.
    pub fn meets_layer(&self, layer: LayerId) -> bool {
        self.layers() & 1u32.checked_shl(layer.0.into()).unwrap_or(0) != 0
    }

    /// Whether it strikes those who stand in `relation` to the attacker.
    pub fn strikes_relation(&self, relation: Relation) -> bool {
        self.strikes.has(relation)
    }

    pub(crate) fn layers(&self) -> u32 {
        self.meets.unwrap_or(u32::MAX)
    }

    /// The window that is open in the tick that begins `clock` ticks after the start, from 0.
    pub(crate) fn open_window(&self, clock: u32) -> Option<u16> {
        let open = self.windows.iter().position(|w| (w.opens..w.closes).contains(&clock))?;
        Some(open as u16)
    }
}
