//! What is authored about an attack.

mod says;

use super::form::{ChainTo, Within};
use super::path::{Key, Path};
use super::{
    Beam, Cancel, Charge, Clash, ClosingSpeed, Condition, Cooldown, Cost, Critical, FallOff, Form, Grip,
    HitStop, Knockback, Limits, Prefer, Projectile, Relation, Relations, Scaling, Sharing, Side, Uses, When,
};
use crate::Fixed;
use crate::geometry::{Pose, Shape};
use crate::ids::*;

/// How often one swing may strike one target.
#[doc(alias("once per attack", "multi-hit", "hit once"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Policy {
    /// Once in the whole swing, whatever becomes of the target in between.
    #[default]
    Once,
    /// Once in each window.
    Window,
    /// Again after so many ticks, at least 1.
    Interval(u32),
    /// Once in each life of the target.
    Life,
    /// Again each time that the target is entered anew after it was left, and at least so many ticks after the last time. A target that is
    /// entered earlier is not struck until it is left and entered again.
    Entry(u32),
}

impl Policy {
    /// The policy's name in files and in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            Policy::Once => "once",
            Policy::Window => "window",
            Policy::Interval(_) => "interval",
            Policy::Life => "life",
            Policy::Entry(_) => "entry",
        }
    }
}

/// A base amount of one damage type: drawn evenly from the whole points `low..=high`.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Damage {
    /// The damage type.
    pub damage_type: DamageTypeId,
    /// The least amount, in points.
    pub low: i64,
    /// The greatest amount, in points.
    pub high: i64,
}

/// Whether a blow may be critical.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Chance {
    /// As the ruleset says.
    #[default]
    Usual,
    Never,
    Own(Critical),
}

/// A status with the strength at which it is given, and what must hold for it.
#[derive(Clone, PartialEq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Given {
    pub(crate) status: StatusId,
    pub(crate) strength: Fixed,
    pub(crate) when: Vec<Condition>,
}

impl Given {
    pub(crate) fn always(status: StatusId, strength: Fixed) -> Given {
        Given { status, strength, when: Vec::new() }
    }
}

/// A status that the attacker bears for a stretch of the swing, in ticks from its start.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Bears {
    pub(crate) from: u32,
    pub(crate) to: u32,
    pub(crate) status: StatusId,
}

/// A hitbox of an attack, and the group whose struck list it shares.
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Hitbox {
    pub(crate) shape: Shape,
    pub(crate) group: u16,
}

/// An authored attack: what touches which targets, when, and what comes of it.
///
/// *Units:* ticks, metres, points. *Frame:* hitboxes and path are in the attacker's frame, or in that of a projectile
/// or of the place; +Z is forward.
///
/// ```
/// use hammerstone::prelude::*;
/// use hammerstone::geometry::Axis;
/// let mut b = Ruleset::builder(60);
/// let crush = b.damage_type("crush");
/// b.attack(
///     Attack::melee("maul")
///         .timeline(12, 10, 20) // startup, active, recovery
///         .damage(crush, 12, 16)
///         .hitbox(Shape::Capsule { from: [0.0, 1.2, 0.5], to: [0.0, 1.2, 1.6], radius: 0.2 })
///         .key(12, Pose::IDENTITY.facing(Axis::Y, -80.0))
///         .key(22, Pose::IDENTITY.facing(Axis::Y, 80.0)),
/// );
/// ```
#[doc(alias("move", "skill", "ability"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Attack {
    pub(crate) name: String,
    pub(crate) form: Form,
    /// Ticks before each window, and in it.
    pub(crate) gaps: Vec<[u32; 2]>,
    pub(crate) recovery: u32,
    pub(crate) marked: Option<u32>,
    /// After how many ticks a window closes that a marker opened.
    pub(crate) windows_last: Option<u32>,
    pub(crate) charge: Option<Charge>,
    pub(crate) chain: Option<ChainTo>,
    pub(crate) hitboxes: Vec<Hitbox>,
    pub(crate) path: Path,
    pub(crate) guided: bool,
    pub(crate) meets: Option<u32>,
    pub(crate) strikes: Relations,
    pub(crate) needs_tags: u64,
    pub(crate) spares_tags: u64,
    pub(crate) direction: Option<Within>,
    pub(crate) clear_line: bool,
    pub(crate) policy: Policy,
    pub(crate) sharing: Sharing,
    pub(crate) prefer: Prefer,
    pub(crate) max_targets: Option<u16>,
    pub(crate) ignores: Vec<StatusId>,
    pub(crate) passing_spends: bool,
    pub(crate) tells_held: bool,
    pub(crate) alongside: bool,
    pub(crate) outlives: bool,
    pub(crate) clash: Option<Clash>,
    pub(crate) children: Vec<(When, String)>,
    pub(crate) damage: Vec<Damage>,
    pub(crate) heals: Option<(i64, i64)>,
    pub(crate) tags: u64,
    pub(crate) scaling: Vec<Scaling>,
    pub(crate) critical: Chance,
    pub(crate) fall_off: Option<FallOff>,
    pub(crate) closing_speed: Option<ClosingSpeed>,
    pub(crate) absolute: bool,
    pub(crate) live: bool,
    pub(crate) inflicts: Vec<Given>,
    pub(crate) inflicts_self: Vec<Given>,
    pub(crate) aura: Vec<Given>,
    pub(crate) self_status: Vec<Bears>,
    pub(crate) push: Option<Knockback>,
    pub(crate) stop: HitStop,
    pub(crate) stagger_damage: Fixed,
    /// What a hit takes from gauges of the target.
    pub(crate) drains: Vec<(GaugeId, i64)>,
    pub(crate) costs: Vec<Cost>,
    pub(crate) cooldown: Option<Cooldown>,
    pub(crate) uses: Option<Uses>,
    /// For how many ticks a start waits that comes too early.
    pub(crate) buffer: u32,
    pub(crate) cancels: Vec<Cancel>,
    /// What it may deal.
    pub(crate) limits: Option<Limits>,
    /// What a hit holds.
    pub(crate) holds: Option<Grip>,
}

impl Attack {
    /// An attack whose hitboxes its attacker carries. It strikes foes, once in a swing, on every layer.
    pub fn melee(name: &str) -> Attack {
        Attack::new(name, Form::Melee)
    }

    /// An attack whose hitboxes fly. They live on when the attacker dies.
    pub fn projectile(name: &str, projectile: Projectile) -> Attack {
        Attack::new(name, Form::Projectile(projectile))
    }

    /// A beam; it needs no hitbox.
    pub fn beam(name: &str, beam: Beam) -> Attack {
        Attack::new(name, Form::Beam(beam))
    }

    /// An attack whose hitboxes stay where it is started. They live on when the attacker dies.
    pub fn area(name: &str) -> Attack {
        Attack::new(name, Form::Area)
    }

    /// An attack by the attacker's own parts; it needs no hitbox, and runs [`alongside`](Self::alongside) others.
    pub fn touch(name: &str) -> Attack {
        Attack::new(name, Form::Touch).alongside()
    }

    fn new(name: &str, form: Form) -> Attack {
        Attack {
            name: name.to_owned(),
            form,
            gaps: Vec::new(),
            recovery: 0,
            marked: None,
            windows_last: None,
            charge: None,
            chain: None,
            hitboxes: Vec::new(),
            path: Path::default(),
            guided: false,
            meets: None,
            strikes: Relations::FOES,
            needs_tags: 0,
            spares_tags: 0,
            direction: None,
            clear_line: false,
            policy: Policy::Once,
            sharing: Sharing::Swing,
            prefer: Prefer::First,
            max_targets: None,
            ignores: Vec::new(),
            passing_spends: false,
            tells_held: false,
            alongside: false,
            outlives: form.leaves_the_hand(),
            clash: None,
            children: Vec::new(),
            damage: Vec::new(),
            heals: None,
            tags: 0,
            scaling: Vec::new(),
            critical: Chance::Usual,
            fall_off: None,
            closing_speed: None,
            absolute: false,
            live: false,
            inflicts: Vec::new(),
            inflicts_self: Vec::new(),
            aura: Vec::new(),
            self_status: Vec::new(),
            push: None,
            stop: HitStop::default(),
            stagger_damage: Fixed::ONE,
            drains: Vec::new(),
            costs: Vec::new(),
            cooldown: None,
            uses: None,
            buffer: 0,
            cancels: Vec::new(),
            limits: None,
            holds: None,
        }
    }

    /// Startup, one window, recovery: each in ticks. A window of `n` ticks sweeps `n` whole ticks.
    #[doc(alias("startup", "active frames", "recovery"))]
    pub fn timeline(mut self, startup: u32, window: u32, recovery: u32) -> Attack {
        self.gaps = vec![[startup, window]];
        self.recovery = recovery;
        self
    }

    /// A further window of `window` ticks, `gap` ticks after the one before; recovery follows the last.
    pub fn again(mut self, gap: u32, window: u32) -> Attack {
        self.gaps.push([gap, window]);
        self
    }

    /// The host's own markers open and close windows and end the swing ([`crate::orders::Orders::marker`]), in place of a
    /// timeline. If the last marker never comes, the swing ends `guaranteed_end` ticks after its start.
    #[doc(alias("animation event", "notify"))]
    pub fn marked(mut self, guaranteed_end: u32) -> Attack {
        self.marked = Some(guaranteed_end);
        self
    }

    /// A window that a [marker](Self::marked) opens closes by itself after `ticks`, unless a marker closes it before.
    pub fn windows_last(mut self, ticks: u32) -> Attack {
        self.windows_last = Some(ticks);
        self
    }

    /// The swing waits to be released ([`crate::orders::Orders::release`]) before its timeline begins.
    pub fn charge(mut self, charge: Charge) -> Attack {
        self.charge = Some(charge);
        self
    }

    /// If the attacker starts this chain's first attack, or `next` itself, again between the ticks `opens` and `lapses`
    /// of a swing, the swing ends and `next` starts. An earlier press waits; without one the chain lapses.
    #[doc(alias("combo", "follow-up", "cancel window"))]
    pub fn chain(mut self, next: &str, opens: u32, lapses: u32) -> Attack {
        self.chain = Some(ChainTo { next: next.to_owned(), opens, lapses });
        self
    }

    /// Adds an amount of `damage type` between `low` and `high` whole points.
    pub fn damage(mut self, damage_type: DamageTypeId, low: i64, high: i64) -> Attack {
        self.damage.push(Damage { damage_type, low, high });
        self
    }

    /// Adds a hitbox, in the frame of the path.
    #[doc(alias("collider", "hit volume"))]
    pub fn hitbox(self, shape: Shape) -> Attack {
        self.hitbox_of(shape, 0)
    }

    /// Adds a hitbox to group `group`; groups count where struck lists are shared by [`Sharing::Group`].
    pub fn hitbox_of(mut self, shape: Shape, group: u16) -> Attack {
        self.hitboxes.push(Hitbox { shape, group });
        self
    }

    /// The hitboxes' pose in the attacker's frame `at` ticks after the swing's start. Keys come in order of time;
    /// without any, the hitboxes rest in the attacker's frame. From key to key they turn the shorter way.
    pub fn key(mut self, at: u32, pose: Pose) -> Attack {
        self.path.0.push(Key { at, pose, turn: None });
        self
    }

    /// As [`key`](Self::key), at `place`, turned by `degrees` about `axis`. Between two such keys about one axis the hitboxes turn through
    /// the degrees as written, however many: 0 and 360 are a whole turn. At most 3600 degrees in a tick.
    pub fn key_turned(mut self, at: u32, place: [f32; 3], axis: [f32; 3], degrees: f32) -> Attack {
        let pose = Pose::at(place).turned(axis, degrees);
        self.path.0.push(Key { at, pose, turn: Some((axis, degrees)) });
        self
    }

    /// The ticks of the first two keys of the path whose turns were written about different axes: the way between them is the shorter
    /// one, whatever was meant.
    pub fn unclear_turn(&self) -> Option<(u32, u32)> {
        self.path.unclear()
    }

    /// The host gives the hitboxes' pose in the attacker's frame in each tick ([`crate::orders::Orders::guide`]), in place of a path.
    pub fn guided(mut self) -> Attack {
        self.guided = true;
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

    /// Which targets it strikes, instead of foes only.
    pub fn strikes(mut self, relations: Relations) -> Attack {
        self.strikes = relations;
        self
    }

    /// Whether it is held before its timeline begins.
    pub fn is_charged(&self) -> bool {
        self.charge.is_some()
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The form.
    pub fn form(&self) -> Form {
        self.form
    }

    /// Whose struck list it is.
    pub fn sharing_of(&self) -> Sharing {
        self.sharing
    }

    /// The names of the attacks that it starts, as children or as the next of a chain.
    pub fn started(&self) -> impl Iterator<Item = &str> {
        let chained = self.chain.iter().map(|chain| chain.next.as_str());
        chained.chain(self.children.iter().map(|(_, child)| child.as_str()))
    }

    /// The first and the last tick of its path, from its start; none without a path of several keys.
    pub fn path_ticks(&self) -> Option<(u32, u32)> {
        let [first, .., last] = self.path.0.as_slice() else { return None };
        Some((first.at, last.at))
    }

    /// How many different targets a swing may strike, if that is limited.
    pub fn targets_limit(&self) -> Option<u16> {
        self.max_targets
    }

    /// The statuses of its attacker that it brings for a part of the swing.
    pub fn self_statuses(&self) -> impl Iterator<Item = StatusId> {
        self.self_status.iter().map(|bears| bears.status)
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

    /// The targets that it strikes, by how they stand to the attacker.
    pub fn struck_relations(&self) -> Relations {
        self.strikes
    }

    pub(crate) fn layers(&self) -> u32 {
        self.meets.unwrap_or(u32::MAX)
    }

    /// The struck list of a hitbox of this group, or of a projectile with this number.
    pub(crate) fn list_of(&self, group: u16, body: u16) -> u16 {
        match self.sharing {
            Sharing::Swing => 0,
            Sharing::Group => group,
            Sharing::Body => body,
        }
    }
}
