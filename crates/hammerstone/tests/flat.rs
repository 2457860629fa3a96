//! Games in a plane: headings and places come back, and circles, rods and rectangles touch as they do on paper.

use hammerstone::attack::Projectile;
use hammerstone::event::{ContactMet, Event};
use hammerstone::geometry::{Flat, Moving, first_touch};
use hammerstone::prelude::*;
use proptest::prelude::*;
use testkit::cases;

fn flat() -> impl Strategy<Value = Flat> {
    prop_oneof![Just(Flat::Y_DOWN), Just(Flat::Y_UP)]
}

fn place() -> impl Strategy<Value = [f32; 2]> {
    [-9.0f32..9.0, -9.0f32..9.0]
}

fn still(shape: Shape, pose: Pose) -> Moving {
    Moving::new(shape, pose, pose).unwrap()
}

/// A place in the frame of one with a heading, in the plane: x ahead, y where a right angle takes it.
fn carried([x, y]: [f32; 2], degrees: f32, [ahead, aside]: [f32; 2]) -> [f32; 2] {
    let (sine, cosine) = degrees.to_radians().sin_cos();
    [x + ahead * cosine - aside * sine, y + ahead * sine + aside * cosine]
}

fn apart([a, b]: [f32; 2], [c, d]: [f32; 2]) -> f32 {
    (a - c).hypot(b - d)
}

proptest! {
    #![proptest_config(cases(300))]

    #[test]
    fn places_and_headings_come_back(flat in flat(), at in place(), degrees in -179.0f32..179.0, local in place()) {
        let pose = flat.pose(at, degrees);
        let (read, heading) = flat.read(pose);
        prop_assert_eq!(read, at);
        prop_assert!((heading - degrees).abs() < 1.0e-2, "{heading} is not {degrees}");
        // What is carried is where the plane says.
        let point = still(flat.circle(local, 0.1), pose).at(0.0);
        let Shape::Sphere { at: point, .. } = point else { panic!("a circle is a ball") };
        prop_assert!(apart(flat.read_point(point), carried(at, degrees, local)) < 1.0e-3 && point[1] == 0.0);
    }

    /// Circles touch where they are nearer than their radii, and rectangles where the circle is nearer to the rectangle.
    #[test]
    fn shapes_touch_as_on_paper(
        flat in flat(), at in place(), other in place(), degrees in -179.0f32..179.0,
        local in [-2.0f32..2.0, -2.0f32..2.0], half in [0.2f32..2.0, 0.2f32..2.0], radius in 0.1f32..2.0, turn in -90.0f32..90.0,
    ) {
        let pose = flat.pose(at, degrees);
        let ball = still(flat.circle([0.0; 2], radius), flat.pose(other, 0.0));
        let middle = carried(at, degrees, local);
        // The other's place in the frame of the rectangle.
        let [x, y] = [other[0] - middle[0], other[1] - middle[1]];
        let (sine, cosine) = (degrees + turn).to_radians().sin_cos();
        let inner = [x * cosine + y * sine, y * cosine - x * sine];
        let outside = [(inner[0].abs() - half[0]).max(0.0), (inner[1].abs() - half[1]).max(0.0)];
        let ends = [[0.0, 0.0], local].map(|end| carried(at, degrees, end));
        let along = [ends[1][0] - ends[0][0], ends[1][1] - ends[0][1]];
        let long = along[0] * along[0] + along[1] * along[1];
        let share = (((other[0] - ends[0][0]) * along[0] + (other[1] - ends[0][1]) * along[1]) / long.max(1.0e-6)).clamp(0.0, 1.0);
        let on_rod = [ends[0][0] + along[0] * share, ends[0][1] + along[1] * share];
        let cases = [
            ("circle", flat.circle(local, half[0]), apart(middle, other) - half[0]),
            ("rectangle", flat.rectangle(local, half, turn), outside[0].hypot(outside[1])),
            ("capsule", flat.capsule([0.0; 2], local, half[1]), apart(on_rod, other) - half[1]),
        ];
        for (name, shape, distance) in cases {
            let gap = distance - radius;
            if gap.abs() > 0.01 {
                prop_assert_eq!(first_touch(&still(shape, pose), &ball).is_some(), gap < 0.0, "{}: {} apart", name, gap);
            }
        }
    }

    /// What is shot flies along the heading.
    #[test]
    fn a_shot_flies_along_the_heading(flat in flat(), at in place(), degrees in -179.0f32..179.0, far in 2.0f32..20.0, aside in -1.0f32..1.0) {
        let mut b = Ruleset::builder(60);
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let shot = Projectile { from: flat.local([0.5, aside]), ..Projectile::new(60.0, 60) };
        let shot = b.attack(Attack::projectile("shot", shot).timeline(0, 1, 0).hitbox(flat.circle([0.0; 2], 0.1)));
        let mason = b.template(Template::new("mason", masons, 40));
        let crate_ = b.template(Template::new("crate", beasts, 40).part(Part::new("planks", flat.circle([0.0; 2], 0.4))));
        let rules = b.build().unwrap();
        let mut fight = Encounter::new(&rules, 1);
        let mason = fight.orders().spawn(mason, flat.pose(at, degrees));
        fight.orders().spawn(crate_, flat.pose(carried(at, degrees, [far, aside]), 0.0));
        fight.orders().start(mason, shot);
        let mut met = None;
        for _ in 0..40 {
            fight.tick().unwrap();
            let of = |event: &Event| if let Event::ContactMet(met) = event { Some(*met) } else { None };
            met = met.or_else(|| fight.facts().events().find_map(of));
        }
        let ContactMet { point, .. } = met.expect("it flies straight at the crate");
        let wanted = carried(at, degrees, [far - 0.4, aside]);
        prop_assert!(apart(flat.read_point(point), wanted) < 0.02, "{:?} is not {wanted:?}", flat.read_point(point));
    }

    /// Seconds are the nearest ticks, and ticks come back.
    #[test]
    fn seconds_are_ticks(rate in 1u32..240, ticks in 0u32..100_000, off in -0.49f64..0.49) {
        let builder = Ruleset::builder(rate);
        prop_assert_eq!(builder.ticks((f64::from(ticks) + off) / f64::from(rate)), ticks);
        let rules = builder.build().unwrap();
        prop_assert_eq!(rules.ticks(rules.seconds(ticks)), ticks);
        for none in [f64::NAN, -1.0, f64::NEG_INFINITY] {
            prop_assert_eq!(rules.ticks(none), 0);
        }
    }
}
