//! How many looks a sweep takes, over pairs as hostile as bounds allow.

use super::*;
use crate::geometry::number::Lanes;
use crate::geometry::{Batch, FARTHEST, Obstacle, Pairs, Shape};
use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::RngSeed;

fn power(power: f32) -> f32 {
    10.0f32.powf(power)
}

/// A length from a millimetre to as far as anything may be, each size as likely as the next.
fn length() -> impl Strategy<Value = f32> + Clone {
    (-3.0f32..6.0).prop_map(power as fn(f32) -> f32)
}

fn place() -> impl Strategy<Value = [f32; 3]> {
    let one = || (length(), -1.0f32..1.0).prop_map(|(far, share)| far * share);
    [one(), one(), one()]
}

fn shape() -> impl Strategy<Value = Shape> {
    prop_oneof![
        (place(), length()).prop_map(|(at, radius)| Shape::Sphere { at, radius }),
        (place(), place(), length()).prop_map(|(from, to, radius)| Shape::Capsule { from, to, radius }),
        (place(), turn(), [length(), length(), length()]).prop_map(|(at, (axis, degrees), half)| {
            Shape::Box { pose: Pose::at(at).turned(axis, degrees), half }
        }),
    ]
}

fn turn() -> impl Strategy<Value = ([f32; 3], f32)> {
    ([-1.0f32..1.0, -1.0f32..1.0, -1.0f32..1.0], -180.0f32..180.0)
}

fn pose() -> impl Strategy<Value = Pose> {
    (place(), turn()).prop_map(|(at, (axis, degrees))| Pose::at(at).turned(axis, degrees))
}

/// A carrier that moves as far as a move may by default, and turns by up to half a turn.
fn swept() -> impl Strategy<Value = Swept> {
    (shape(), pose(), [-60.0f32..60.0, -60.0f32..60.0, -60.0f32..60.0], turn()).prop_map(
        |(shape, from, way, (axis, degrees))| {
            let at = std::array::from_fn(|i| from.at[i] + way[i]);
            let to = Pose { at, ..from }.then_turned(axis, degrees);
            Swept::fixed(shape.into(), Motion::between(from, to))
        },
    )
}

/// Two that swing past each other at arm's length: what takes the most looks.
fn arms() -> impl Strategy<Value = (Swept, Swept)> {
    let arm = || (length(), 0.001f32..2.0, turn(), -170.0f32..170.0);
    (arm(), arm(), 0.0f32..2.2).prop_map(|(one, other, apart)| {
        let swept = |(reach, radius, (axis, start), degrees): (f32, f32, ([f32; 3], f32), f32), x: f32| {
            let from = Pose::at([x, 0.0, 0.0]).turned(axis, start);
            let to = from.then_turned([0.0, 1.0, 0.0], degrees);
            let shape = Shape::Sphere { at: [0.0, 0.0, reach], radius };
            Swept::fixed(shape.into(), Motion::between(from, to))
        };
        (swept(one, 0.0), swept(other, (one.0 + other.0) * apart))
    })
}

/// A blade or a fist that swings about its bearer, who moves and turns; or a body that does.
fn blade() -> impl Strategy<Value = Swept> {
    blade_within(2.5)
}

/// One with a bearer that stands no farther out than this.
fn blade_within(far: f32) -> impl Strategy<Value = Swept> {
    let metres = |most: f32| [-most..most, -most..most, -most..most];
    let ends = (metres(2.0), metres(2.0), any::<bool>(), 0.05f32..0.5);
    (ends, metres(far), metres(3.0), turn(), turn(), any::<bool>()).prop_map(
        |((from, to, ball, radius), at, way, (about, start), (axis, degrees), inner)| {
            let shape =
                if ball { Shape::Sphere { at: from, radius } } else { Shape::Capsule { from, to, radius } };
            let begin = Pose::at(at).turned(about, start);
            let end = Pose { at: std::array::from_fn(|i| at[i] + way[i]), ..begin }
                .then_turned(axis, degrees * 0.95);
            let motion = Motion::between(begin, end);
            match inner {
                true => Swept::on_path(
                    shape.into(),
                    motion,
                    Motion::resting(Pose::at(at).turned(about, start).into()),
                ),
                false => Swept::fixed(shape.into(), motion),
            }
        },
    )
}

fn ground() -> impl Strategy<Value = Swept> {
    ([-1.5f32..1.5, -1.5f32..1.5, -1.5f32..1.5], turn()).prop_map(|(at, (about, degrees))| {
        let normal = Pose::IDENTITY.turned(about, degrees).direction([0.0, 1.0, 0.0]);
        Swept::still(Obstacle::HalfSpace { at, normal }.into())
    })
}

/// A long blade that comes down on the ground, of which a point near its bearer is told.
fn chop() -> impl Strategy<Value = (Swept, Swept)> {
    (1.0f32..3.0, -60.0f32..20.0, 20.0f32..150.0, 0.1f32..1.0, -3.0f32..3.0).prop_map(
        |(long, start, degrees, deep, way)| {
            let blade = Shape::Capsule { from: [0.0, 0.0, 0.2], to: [0.0, 0.0, long], radius: 0.05 };
            let from = Pose::IDENTITY.turned([1.0, 0.0, 0.0], start);
            let to = Pose { at: [0.0, 0.0, way], ..from }.then_turned([1.0, 0.0, 0.0], degrees);
            let floor = Obstacle::HalfSpace { at: [0.0, -deep, 0.0], normal: [0.0, 1.0, 0.0] };
            (Swept::fixed(blade.into(), Motion::between(from, to)), Swept::still(floor.into()))
        },
    )
}

/// What a blade may meet: another, the ground, a box.
fn met() -> impl Strategy<Value = Swept> {
    let near = || [-1.5f32..1.5, -1.5f32..1.5, -1.5f32..1.5];
    let block =
        (near(), turn(), [0.1f32..1.0, 0.1f32..1.0, 0.1f32..1.0]).prop_map(|(at, (about, degrees), half)| {
            Swept::still(Shape::Box { pose: Pose::at(at).turned(about, degrees), half }.into())
        });
    prop_oneof![3 => blade(), 1 => ground(), 1 => block]
}

/// How far two are apart at `t`, in metres.
fn gap(one: &Swept, other: &Swept, t: f32) -> f32 {
    let (a, b) = nearest(&one.at(t, Vec3::ZERO), &other.at(t, Vec3::ZERO));
    (a - b).length() - one.core.radius - other.core.radius
}

fn looks(one: &Swept, other: &Swept) -> u32 {
    counted(one, other).1
}

fn counted(one: &Swept, other: &Swept) -> (Option<Impact>, u32) {
    sweep_counted(&one.way(), &other.way(), one.start(), other.start(), 1.0)
}

/// Pairs to be looked at side by side, and what comes of each.
struct Side<'a> {
    pairs: &'a [(Swept, Swept)],
    met: Vec<Option<Impact>>,
}

impl Pairs for Side<'_> {
    type Tag = usize;

    fn lines(&self, tag: usize, t: f32, _: f32) -> Option<[Line<f32>; 2]> {
        let (one, other) = &self.pairs[tag];
        let origin = other.carrier.from.at;
        Some([one.way().line_at(t, origin)?, other.way().line_at(t, origin)?])
    }

    fn found(&mut self, tag: usize, t: f32, [one, other]: [Line<f32>; 2], look: &Look<f32>) {
        assert!(self.met[tag].is_none(), "pair {tag} touches twice");
        self.met[tag] = Some(impact(t, (&one.into(), &other.into()), &self.pairs[tag].1.way(), look));
    }
}

/// What comes of pairs of lines in so many lanes.
fn side_by_side<N: Lanes>(pairs: &[(Swept, Swept)]) -> Vec<Option<Impact>> {
    let mut side = Side { pairs, met: vec![None; pairs.len()] };
    let mut batch = Batch::<N, usize>::default();
    for (tag, (one, other)) in pairs.iter().enumerate() {
        let lines = side.lines(tag, 0.0, 0.0).expect("both are lines");
        batch.add(&mut side, tag, &one.way().beside(&other.way(), 1.0), &lines);
    }
    batch.finish(&mut side);
    side.met
}

/// All bits of a touch.
fn bits(impact: &Option<Impact>) -> Option<[u32; 7]> {
    let Impact { toi, point, normal } = (*impact)?;
    let numbers = [toi, point.x, point.y, point.z, normal.x, normal.y, normal.z];
    Some(numbers.map(f32::to_bits))
}

/// Two lines: near each other, as large as may be, or arms of any length.
fn lines() -> impl Strategy<Value = (Swept, Swept)> {
    prop_oneof![3 => (blade(), blade()), 5 => (blade_within(0.5), blade_within(1.0)), 1 => (swept(), swept()), 1 => arms()]
        .prop_filter("both are lines", |(one, other)| one.start().line().and(other.start().line()).is_some())
}

/// Far below the limit, which is a last defence only.
const NATURAL: u32 = 25_000;

/// Looked at in a thousand moments: a touch is reported where they touch, and at none of the moments before did they overlap; of those
/// that do not touch, at none.
fn touch_as_said(one: &Swept, other: &Swept) -> Result<(), TestCaseError> {
    let impact = sweep(one, other);
    let until = impact.map_or(1.0, |impact| impact.toi);
    let skin = one.way().skin(&other.way());
    if impact.is_some() {
        let apart = gap(one, other, until);
        prop_assert!(apart <= skin + 1.0e-5, "{apart} m apart at {until}");
    }
    for moment in 0..1_000u16 {
        let t = f32::from(moment) / 1_000.0;
        if t >= until {
            break;
        }
        let apart = gap(one, other, t);
        prop_assert!(apart > -1.0e-5, "{apart} m apart at {t}, before {until}");
    }
    Ok(())
}

proptest! {
    #![proptest_config(cases(3_000))]

    /// The ground has no end, so nothing bounds how fast a turning blade sees it come by.
    #[test]
    fn blades_touch_the_ground_when_they_are_said_to((one, other) in (blade(), ground()), (blade, floor) in chop()) {
        touch_as_said(&one, &other)?;
        touch_as_said(&blade, &floor)?;
    }
}

proptest! {
    #![proptest_config(cases(1_000))]

    /// In four lanes and in eight, as many as there are: each pair has the bits that it has by itself.
    #[test]
    fn pairs_side_by_side_meet_as_by_themselves(pairs in proptest::collection::vec(lines(), 1..40)) {
        let alone: Vec<_> = pairs.iter().map(|(one, other)| bits(&sweep(one, other))).collect();
        for met in [side_by_side::<wide::f32x4>(&pairs), side_by_side::<wide::f32x8>(&pairs)] {
            prop_assert_eq!(met.iter().map(bits).collect::<Vec<_>>(), alone.clone());
        }
    }
}

/// What the law above looks at has touches of every sort: none, at once, and after several looks.
#[test]
fn pairs_side_by_side_meet_early_and_late() {
    let mut runner = proptest::test_runner::TestRunner::deterministic();
    let (mut never, mut at_once, mut late) = (0, 0, 0);
    for _ in 0..1_000 {
        let (one, other) = lines().new_tree(&mut runner).expect("a pair").current();
        match counted(&one, &other) {
            (None, _) => never += 1,
            (Some(Impact { toi: 0.0, .. }), _) => at_once += 1,
            (Some(_), looks) => late += u32::from(looks > 2),
        }
    }
    assert!(never > 100 && at_once > 20 && late > 20, "{never}, {at_once}, {late}");
}

proptest! {
    #![proptest_config(cases(3_000))]

    #[test]
    fn any_two_within_bounds_end_by_their_nature(one in swept(), other in swept()) {
        prop_assert!(looks(&one, &other) < NATURAL);
    }

    #[test]
    fn long_arms_end_by_their_nature((one, other) in arms()) {
        let took = looks(&one, &other);
        prop_assert!(took < NATURAL, "{took}");
    }

    #[test]
    fn blades_touch_when_they_are_said_to((one, other) in (blade(), met())) {
        touch_as_said(&one, &other)?;
    }

    /// What is left out before any look never touches.
    #[test]
    fn parts_that_touch_were_near((one, other) in lines()) {
        let spin = other.carrier.whirling().map_or(0.0, |(_, spin)| spin);
        let middle = other.carrier.from.apply(other.core.middle);
        let size = other.core.size + spin * other.core.middle.length();
        if other.local.is_none() && sweep(&one, &other).is_some() {
            prop_assert!(one.may_reach(&one.start(), middle, size, other.carrier.travel()));
        }
    }

    /// What the nearest points are said to be lies on the two, so that no distance is too small and no hit is invented.
    #[test]
    fn nearest_points_of_huge_and_tiny_boxes_lie_on_them(one in swept(), other in swept()) {
        let (one, other) = (one.at(0.0, Vec3::ZERO), other.at(0.0, Vec3::ZERO));
        let (on_one, on_other) = nearest(&one, &other);
        prop_assert!(on_one.is_finite() && on_other.is_finite());
        for (point, solid) in [(on_one, &one), (on_other, &other)] {
            let (middle, half) = solid.bounds();
            let slack = (half.length() + middle.length()) * 1.0e-5 + 1.0e-4;
            let out = ((point - middle).abs() - half).max_element();
            prop_assert!(out <= slack, "{out} outside");
        }
    }
}

fn cases(usual: u32) -> ProptestConfig {
    let asked = std::env::var("HAMMERSTONE_CASES").ok().and_then(|cases| cases.parse().ok());
    let rng_seed = if asked.is_some() { RngSeed::Random } else { RngSeed::Fixed(1) };
    ProptestConfig {
        cases: asked.unwrap_or(usual),
        failure_persistence: None,
        rng_seed,
        ..ProptestConfig::default()
    }
}

/// A hundred blades against a hundred bodies of an encounter: as many looks as were counted here, on every machine.
#[test]
fn a_touch_takes_few_looks() {
    let mut seed = 7u32;
    let mut any = |least: f32, most: f32| {
        seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        least + (most - least) * (seed >> 8) as f32 / (1 << 24) as f32
    };
    let mut pairs = Vec::new();
    for _ in 0..100 {
        let at = [any(-2.0, 2.0), 0.0, any(-2.0, 2.0)];
        let from = Pose::at(at).turned([0.0, 1.0, 0.0], any(-180.0, 180.0));
        let to = Pose { at: [at[0] + any(-0.1, 0.1), 0.0, at[2] + any(-0.1, 0.1)], ..from };
        let to = to.then_turned([0.0, 1.0, 0.0], any(-40.0, 40.0));
        let blade = Shape::Capsule { from: [0.0, 1.0, 0.3], to: [0.2, 1.2, 1.6], radius: 0.05 };
        let body = Shape::Capsule { from: [0.0, 0.3, 0.0], to: [0.0, 1.6, 0.0], radius: 0.25 };
        pairs.push([blade, body].map(|shape| Swept::fixed(shape.into(), Motion::between(from, to))));
    }
    let (mut touches, mut late, mut apart) = (0, [0; 2], [0; 2]);
    for (i, [blade, _]) in pairs.iter().enumerate() {
        for (_, [_, body]) in pairs.iter().enumerate().filter(|(j, _)| *j != i) {
            let (impact, looks) = counted(blade, body);
            let count = match impact {
                Some(impact) if impact.toi == 0.0 => {
                    touches += 1;
                    continue;
                }
                Some(_) => &mut late,
                None => &mut apart,
            };
            count[0] += 1;
            count[1] += looks;
        }
    }
    assert_eq!(
        (touches, late, apart),
        (505, [281, 1426], [9114, 10431]),
        "at once, later, never: how many, looks"
    );
}

/// A weapon of a metre on a floor of two thousand kilometres, and boxes as large as they may be, one in the other.
#[test]
fn floors_and_boxes_of_any_size_are_met() {
    let block = |at: [f32; 3], half: [f32; 3], degrees: f32| {
        let pose = Pose::at(at).turned([0.3, 1.0, 0.2], degrees);
        Swept::fixed(Shape::Box { pose, half }.into(), Motion::between(Pose::IDENTITY, Pose::IDENTITY))
    };
    let floor = block([0.0, -1.0, 0.0], [FARTHEST, 1.0, FARTHEST], 0.0);
    for step in 0..2_000 {
        let x = step as f32 * 0.37;
        let weapon = block([x, 0.3, -x * 1.7], [0.5, 0.1, 0.9], x * 7.0);
        assert!(sweep(&weapon, &floor).is_some(), "step {step}");
        let huge = block([x * 900.0, 0.0, 0.0], [FARTHEST * 0.9, FARTHEST, FARTHEST * 0.7], x);
        assert!(sweep(&huge, &block([0.0; 3], [FARTHEST; 3], x * 3.0)).is_some(), "step {step}");
    }
}

/// The bound would be noticed: with a tolerance of nearly nothing the same arms take millions of looks.
#[test]
fn looks_are_counted() {
    let reach = 1000.0;
    let arm = |x: f32, degrees: f32| {
        let from = Pose::at([x, 0.0, 0.0]).turned([0.0, 1.0, 0.0], -degrees);
        let to = Pose::at([x, 0.0, 0.0]).turned([0.0, 1.0, 0.0], degrees);
        let shape = Shape::Sphere { at: [0.0, 0.0, reach], radius: 0.1 };
        Swept::fixed(shape.into(), Motion::between(from, to))
    };
    let most = (0..400).map(|i| looks(&arm(0.0, 80.0), &arm(0.2 + i as f32 * 0.01, 80.0))).max().unwrap();
    assert!((20..NATURAL).contains(&most), "{most}");
}
