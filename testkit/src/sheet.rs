//! What a generated fight is made of, in small numbers, and the strategies that make them.

use hammerstone::amount::{Rounding, Step};
use proptest::collection::vec;
use proptest::prelude::*;
use proptest::test_runner::RngSeed;

/// So many cases, the same in every run; or as many others as the environment's `HAMMERSTONE_CASES` says.
pub fn cases(usual: u32) -> ProptestConfig {
    let asked = std::env::var("HAMMERSTONE_CASES").ok().and_then(|text| text.parse().ok());
    let rng_seed = if asked.is_some() { RngSeed::Random } else { RngSeed::Fixed(u64::from(usual)) };
    ProptestConfig {
        cases: asked.unwrap_or(usual),
        failure_persistence: None,
        rng_seed,
        ..ProptestConfig::default()
    }
}

/// A ruleset in small numbers.
#[derive(Clone, Debug)]
pub struct Sheet {
    pub(crate) attacks: Vec<AttackSheet>,
    pub(crate) templates: Vec<TemplateSheet>,
    pub(crate) pulse: (u32, u32, bool, i64),
    pub(crate) steps: Vec<Step>,
    pub(crate) limits: (i64, i64),
    pub(crate) rounding: Rounding,
    pub(crate) cascade: (u16, u32, u32),
    pub(crate) both_land: bool,
    pub(crate) statuses: Vec<u64>,
    pub(crate) numbers: u64,
    pub(crate) rules: Vec<u64>,
}

impl Sheet {
    /// The same with other numbers, as a designer tunes them; a wild one is also put together otherwise.
    pub fn tuned(&self, seed: u64, wild: bool) -> Sheet {
        let mut dice = Dice(seed);
        let mut other = self.clone();
        for attack in &mut other.attacks {
            let (startup, active, recovery) = attack.timeline;
            attack.timeline = match dice.roll(3) {
                0 => (startup, active, recovery),
                1 => (startup / 2, active, recovery / 2),
                _ => (startup + 1, active + 2, recovery + 3),
            };
            attack.damage.1 += dice.roll(4) as i64;
            if wild && dice.comes(3) {
                attack.numbers = attack.numbers.rotate_left(9) ^ seed;
                attack.traits.form = (attack.traits.form + 1) % 8;
            }
        }
        for template in &mut other.templates {
            template.health = (template.health + dice.roll(40) as i64 - 10).max(1);
            if wild && dice.comes(3) {
                template.numbers = template.numbers.rotate_left(7) ^ seed;
                template.parts.truncate(1);
            }
        }
        other.pulse.0 = (other.pulse.0 + dice.roll(3) as u32).max(1);
        other
    }
}

/// Many small choices out of one number; 0 is the plainest of all.
pub(crate) struct Dice(pub(crate) u64);

impl Dice {
    pub(crate) fn roll(&mut self, sides: u64) -> u64 {
        let rolled = self.0 % sides;
        self.0 /= sides;
        rolled
    }

    pub(crate) fn comes(&mut self, one_in: u64) -> bool {
        self.roll(one_in) == one_in - 1
    }
}

/// A number for dice, half the time none.
pub(crate) fn dice() -> impl Strategy<Value = u64> {
    prop_oneof![1 => Just(0), 2 => any::<u64>()]
}

#[derive(Clone, Debug)]
pub(crate) struct AttackSheet {
    pub(crate) timeline: (u32, u32, u32),
    pub(crate) again: Option<(u32, u32)>,
    pub(crate) damage: (i64, i64),
    pub(crate) reach: f32,
    pub(crate) turn: f32,
    pub(crate) both_layers: bool,
    pub(crate) strikes_all: bool,
    pub(crate) inflicts: bool,
    pub(crate) traits: Traits,
    pub(crate) numbers: u64,
}

/// What an attack may be beside the ordinary, each from a small number.
#[derive(Clone, Debug)]
pub(crate) struct Traits {
    pub(crate) form: u8,
    pub(crate) policy: u8,
    pub(crate) sharing: u8,
    pub(crate) prefer: u8,
    pub(crate) most: u8,
    pub(crate) pierce: u16,
    pub(crate) pellets: u16,
    pub(crate) direction: u8,
    pub(crate) timing: u8,
    pub(crate) child: u8,
    pub(crate) flags: u16,
}

pub(crate) fn traits() -> impl Strategy<Value = Traits> {
    ((0u8..8, 0u8..5, 0u8..6, 0u8..3, 0u8..6), (0u16..3, 1u16..4), (0u8..8, 0u8..8, 0u8..8, any::<u16>()))
        .prop_map(
            |(
                (form, policy, sharing, prefer, most),
                (pierce, pellets),
                (direction, timing, child, flags),
            )| {
                Traits {
                    form,
                    policy,
                    sharing,
                    prefer,
                    most,
                    pierce,
                    pellets,
                    direction,
                    timing,
                    child,
                    flags,
                }
            },
        )
}

#[derive(Clone, Debug)]
pub(crate) struct TemplateSheet {
    pub(crate) team: bool,
    pub(crate) health: i64,
    pub(crate) parts: Vec<(f32, f32, bool, i64)>,
    pub(crate) resistance: i64,
    pub(crate) corpse_time: Option<u32>,
    pub(crate) numbers: u64,
}

/// One thing that is ordered. Combatants are numbers, taken around.
#[derive(Clone, Debug)]
pub enum Op {
    Spawn(usize, [f32; 3], Option<usize>),
    Move(usize, [f32; 3], u32),
    Teleport(usize, [f32; 3]),
    Start(usize, usize),
    Cancel(usize),
    Report(usize, usize, u16),
    Damage(usize, i64),
    Heal(usize, u32),
    Apply(usize, Option<usize>),
    Lift(usize),
    SendAway(usize),
    Return(usize, [f32; 3]),
    Remove(usize),
    Listen(usize, usize),
    StartAt(usize, usize, [f32; 3]),
    SpawnAttack(usize, [f32; 3]),
    Mark(usize, u8),
    Release(usize),
    Guide(usize, [f32; 3]),
    AddObstacle(u8, [f32; 3]),
    RemoveObstacle(usize),
    Protect(usize, bool),
    Give(usize, usize, Option<usize>, i64),
    LiftFamily(usize),
    Change(usize, u8, i64),
    Unchange(usize, u8),
    SetMaximum(usize, u32, bool),
    RaiseShield(usize, u32),
    Preview(usize, usize, usize),
    Flow(u8, usize, usize),
    /// Poses for all parts of one, or for some number of them; in the world's frame or the body's.
    Pose(usize, [f32; 3], u8),
    GuideEach(usize, [f32; 3], u8),
    ShowPart(usize, u16, bool),
    Resize(usize, i64),
    MoveObstacle(usize, [f32; 3], u32),
    Wait(u8),
}

#[derive(Clone, Debug)]
pub struct Fight {
    pub sheet: Sheet,
    pub ops: Vec<Op>,
    pub seed: u64,
}

pub(crate) fn place() -> impl Strategy<Value = [f32; 3]> {
    let x = -2.5f32..2.5;
    // Now and then something that is no place at all.
    prop_oneof![30 => (x.clone(), x).prop_map(|(x, z)| [x, 0.0, z]), 1 => Just([f32::NAN, 0.0, 0.0]), 1 => Just([1.0e9, 0.0, 0.0]), 1 => Just([5.0e4, 0.0, 0.0])]
}

pub(crate) fn sheet() -> impl Strategy<Value = Sheet> {
    let attack = (
        (0u32..4, 1u32..8, 0u32..4),
        proptest::option::of((0u32..3, 1u32..4)),
        (0i64..12, 0i64..6),
        (0.4f32..2.0, -170f32..170.0),
        (any::<bool>(), any::<bool>(), any::<bool>()),
        (traits(), dice()),
    )
        .prop_map(
            |(
                timeline,
                again,
                (low, more),
                (reach, turn),
                (both_layers, strikes_all, inflicts),
                (traits, numbers),
            )| {
                AttackSheet {
                    timeline,
                    again,
                    damage: (low, low + more),
                    reach,
                    turn,
                    both_layers,
                    strikes_all,
                    inflicts,
                    traits,
                    numbers,
                }
            },
        );
    let part = (-0.5f32..0.5, 0.1f32..0.7, any::<bool>(), 0i64..30_000);
    let resistance = -20_000i64..20_000;
    let corpse_time = proptest::option::of(0u32..20);
    let template = (any::<bool>(), 1i64..40, vec(part, 0..4), resistance, corpse_time, dice()).prop_map(
        |(team, health, parts, resistance, corpse_time, numbers)| TemplateSheet {
            team,
            health,
            parts,
            resistance,
            corpse_time,
            numbers,
        },
    );
    // Every step between the first and the last, in any order.
    let middle: Vec<Step> = Step::ALL[1..Step::ALL.len() - 2].to_vec();
    let steps = Just(middle)
        .prop_shuffle()
        .prop_map(|middle| [&[Step::Base], middle.as_slice(), &[Step::Rounding, Step::Shields]].concat());
    let rounding = prop_oneof![Just(Rounding::Nearest), Just(Rounding::Down), Just(Rounding::Up)];
    (
        vec(attack, 1..4),
        vec(template, 1..4),
        (1u32..30, 1u32..8, any::<bool>(), 0i64..8),
        steps,
        (0i64..4, 4i64..30),
        rounding,
        (0u16..5, 1u32..40, any::<bool>()),
        (vec(dice(), 1..5), dice(), vec(any::<u64>(), 0..6)),
    )
        .prop_map(
            |(
                attacks,
                templates,
                pulse,
                steps,
                limits,
                rounding,
                (depth, orders, both_land),
                (statuses, numbers, rules),
            )| Sheet {
                attacks,
                templates,
                pulse,
                steps,
                limits,
                rounding,
                cascade: (depth, orders / 2, orders),
                both_land,
                statuses,
                numbers,
                rules,
            },
        )
}

pub(crate) fn op() -> impl Strategy<Value = Op> {
    let who = 0usize..12;
    prop_oneof![
        4 => (0usize..4, place(), proptest::option::of(who.clone())).prop_map(|(c, p, o)| Op::Spawn(c, p, o)),
        4 => (who.clone(), place(), 0u32..6).prop_map(|(w, p, t)| Op::Move(w, p, t)),
        1 => (who.clone(), place()).prop_map(|(w, p)| Op::Teleport(w, p)),
        8 => (who.clone(), 0usize..5).prop_map(|(w, a)| Op::Start(w, a)),
        1 => (0usize..20).prop_map(Op::Cancel),
        4 => (0usize..20, who.clone(), 0u16..4).prop_map(|(s, w, p)| Op::Report(s, w, p)),
        2 => (who.clone(), -2i64..20).prop_map(|(w, a)| Op::Damage(w, a)),
        2 => (who.clone(), 0u32..20).prop_map(|(w, a)| Op::Heal(w, a)),
        2 => (who.clone(), proptest::option::of(who.clone())).prop_map(|(w, by)| Op::Apply(w, by)),
        1 => who.clone().prop_map(Op::Lift),
        1 => who.clone().prop_map(Op::SendAway),
        3 => (who.clone(), place()).prop_map(|(w, p)| Op::Return(w, p)),
        1 => who.clone().prop_map(Op::Remove),
        3 => (0usize..7, who.clone()).prop_map(|(h, w)| Op::Listen(h, w)),
        5 => (0u8..55, who.clone(), who.clone()).prop_map(|(f, w, o)| Op::Flow(f, w, o)),
        3 => (who.clone(), 0usize..5, place()).prop_map(|(w, a, p)| Op::StartAt(w, a, p)),
        2 => (0usize..5, place()).prop_map(|(a, p)| Op::SpawnAttack(a, p)),
        2 => (0usize..4, 0u8..3).prop_map(|(s, m)| Op::Mark(s, m)),
        2 => (0usize..4).prop_map(Op::Release),
        1 => (0usize..4, place()).prop_map(|(s, p)| Op::Guide(s, p)),
        3 => (0u8..3, place()).prop_map(|(o, p)| Op::AddObstacle(o, p)),
        1 => (0usize..4).prop_map(Op::RemoveObstacle),
        1 => (who.clone(), any::<bool>()).prop_map(|(w, stun)| Op::Protect(w, stun)),
        6 => (who.clone(), 0usize..4, proptest::option::of(who.clone()), -1i64..30_000)
            .prop_map(|(w, s, by, strength)| Op::Give(w, s, by, strength)),
        1 => who.clone().prop_map(Op::LiftFamily),
        2 => (who.clone(), 0u8..16, -20_000i64..40_000).prop_map(|(w, c, v)| Op::Change(w, c, v)),
        1 => (who.clone(), 0u8..16).prop_map(|(w, c)| Op::Unchange(w, c)),
        1 => (who.clone(), 0u32..60, any::<bool>()).prop_map(|(w, p, k)| Op::SetMaximum(w, p, k)),
        1 => (who.clone(), 0u32..9).prop_map(|(w, p)| Op::RaiseShield(w, p)),
        1 => (who.clone(), 0usize..5, who.clone()).prop_map(|(w, a, t)| Op::Preview(w, a, t)),
        5 => (who.clone(), place(), any::<u8>()).prop_map(|(w, p, n)| Op::Pose(w, p, n)),
        2 => (0usize..4, place(), any::<u8>()).prop_map(|(s, p, n)| Op::GuideEach(s, p, n)),
        2 => (who.clone(), 0u16..6, any::<bool>()).prop_map(|(w, p, shown)| Op::ShowPart(w, p, shown)),
        1 => (who, -1i64..30_000).prop_map(|(w, size)| Op::Resize(w, size)),
        1 => (0usize..4, place(), 0u32..4).prop_map(|(o, p, t)| Op::MoveObstacle(o, p, t)),
        8 => (1u8..6).prop_map(Op::Wait),
    ]
}

/// Fights of every sort, with hooks that answer blows with blows.
pub fn fights() -> impl Strategy<Value = Fight> {
    (sheet(), vec(op(), 20..120), any::<u64>()).prop_map(|(sheet, ops, seed)| {
        // Two to begin with, so that most fights are fights.
        let mut all = vec![Op::Spawn(0, [0.0; 3], None), Op::Spawn(1, [0.0, 0.0, 1.0], None)];
        all.extend(ops);
        Fight { sheet, ops: all, seed }
    })
}
