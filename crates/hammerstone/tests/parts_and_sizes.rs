//! Parts that are hidden and shown, and combatants that are larger or smaller than their template.

use hammerstone::Fixed;
use hammerstone::attack::{Policy, Sharing};
use hammerstone::event::{Event, HitLanded, OrderRefused};
use hammerstone::geometry::{Axis, Frame};
use hammerstone::ids;
use hammerstone::orders::{Quantity, Refusal};
use hammerstone::prelude::*;
use proptest::prelude::*;

/// A maul that is always open, once in a tick, at the height of a body and of a wing beside it.
struct Yard {
    rules: Ruleset,
    mason: ids::TemplateId,
    gaunt: ids::TemplateId,
    maul: ids::AttackId,
    folded: ids::StatusId,
    spread: ids::StatusId,
}

fn ball(at: [f32; 3], radius: f32) -> Shape {
    Shape::Sphere { at, radius }
}

fn yard() -> Yard {
    let mut b = Ruleset::builder(60);
    b.reason("tide");
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let (wings, tail) = (b.tag("wings"), b.tag("tail"));
    let folded = b.status(Status::new("folded").hides_parts(wings));
    let spread = b.status(Status::new("spread").shows_parts(wings).shows_parts(tail));
    let maul = Attack::melee("maul").timeline(0, 100, 0).policy(Policy::Interval(1)).sharing(Sharing::Group);
    let maul = maul.damage(crush, 1, 1).hitbox_of(ball([0.0, 1.0, 2.0], 0.2), 0);
    let maul = maul.hitbox_of(ball([3.0, 1.0, 2.0], 0.2), 1).hitbox_of(ball([-3.0, 1.0, 2.0], 0.2), 2);
    let maul = b.attack(maul);
    let mason = b.template(Template::new("mason", masons, 40));
    let gaunt = Template::new("gaunt", beasts, 4000).posed(20.0);
    let gaunt = gaunt.part(Part::new("trunk", ball([0.0; 3], 0.3)).rest(Pose::at([0.0, 1.0, 0.0])));
    let gaunt = gaunt.part(Part::new("wing", ball([0.0; 3], 0.3)).rest(Pose::at([3.0, 1.0, 0.0])).tag(wings));
    let tail = Part::new("tail", ball([0.0; 3], 0.3)).rest(Pose::at([-3.0, 1.0, 0.0])).tag(tail).hidden();
    let gaunt = b.template(gaunt.part(tail));
    Yard { rules: b.build().unwrap(), mason, gaunt, maul, folded, spread }
}

/// The parts that are struck in a tick.
fn struck(fight: &mut Encounter) -> Vec<u16> {
    fight.tick().unwrap();
    let mut parts: Vec<u16> = fight
        .facts()
        .events()
        .filter_map(|event| match event {
            Event::HitLanded(HitLanded { part, .. }) => Some(*part),
            _ => None,
        })
        .collect();
    parts.sort_unstable();
    parts
}

fn refused(fight: &mut Encounter) -> Vec<Refusal> {
    fight.tick().unwrap();
    let events = fight.facts().events();
    events
        .filter_map(
            |event| if let Event::OrderRefused(OrderRefused { why, .. }) = event { Some(*why) } else { None },
        )
        .collect()
}

fn set_up(yard: &Yard) -> (Encounter, CombatantId) {
    let mut fight = Encounter::new(&yard.rules, 1);
    let mason = fight.orders().spawn(yard.mason, Pose::IDENTITY);
    let gaunt = fight.orders().spawn(yard.gaunt, Pose::at([0.0, 0.0, 2.0]));
    fight.orders().start(mason, yard.maul);
    (fight, gaunt)
}

#[test]
fn parts_are_hidden_by_template_order_and_status() {
    let yard = yard();
    let (mut fight, gaunt) = set_up(&yard);
    assert_eq!(struck(&mut fight), [0, 1], "the tail is hidden at first");
    assert_eq!(fight.scene().parts(gaunt).map(|part| part.part).collect::<Vec<_>>(), [0, 1]);
    fight.orders().show_part(gaunt, 2, true);
    fight.orders().show_part(gaunt, 0, false);
    assert_eq!(struck(&mut fight), [1, 2]);
    fight.orders().apply(gaunt, yard.folded, None);
    assert_eq!(struck(&mut fight), [2]);
    // What a status shows is shown, whatever was ordered; what another hides is hidden all the same.
    fight.orders().show_part(gaunt, 2, false);
    fight.orders().apply(gaunt, yard.spread, None);
    assert_eq!(struck(&mut fight), [2]);
    fight.orders().lift(gaunt, yard.folded);
    fight.orders().lift(gaunt, yard.spread);
    assert_eq!(struck(&mut fight), [1]);
    fight.orders().show_part(gaunt, 0, true);
    assert_eq!(struck(&mut fight), [0, 1]);
}

#[test]
fn in_a_new_life_parts_are_as_the_template_says() {
    let yard = yard();
    let (mut fight, gaunt) = set_up(&yard);
    fight.orders().show_part(gaunt, 2, true);
    fight.orders().show_part(gaunt, 1, false);
    fight.orders().resize(gaunt, Fixed::raw(10_500));
    assert_eq!(struck(&mut fight), [0, 2]);
    fight.orders().send_away(gaunt);
    struck(&mut fight);
    fight.orders().bring_back(gaunt, Pose::at([0.0, 0.0, 2.0]));
    assert_eq!(struck(&mut fight), [0, 2], "it was away, and lives the same life");
    let (crush, tide) =
        (yard.rules.find_damage_type("crush").unwrap(), yard.rules.find_reason("tide").unwrap());
    fight.orders().damage(gaunt, crush, Fixed::whole(9000), tide);
    struck(&mut fight);
    fight.orders().bring_back(gaunt, Pose::at([0.0, 0.0, 2.0]));
    assert_eq!(struck(&mut fight), [0, 1], "and this is the next");
}

#[test]
fn a_restored_fight_hides_the_same() {
    let yard = yard();
    let (mut fight, gaunt) = set_up(&yard);
    fight.orders().show_part(gaunt, 2, true);
    fight.orders().apply(gaunt, yard.folded, None);
    fight.orders().resize(gaunt, Fixed::raw(11_000));
    struck(&mut fight);
    let saved = fight.save().unwrap();
    let mut other = Encounter::new(&yard.rules, 99);
    other.restore(&saved).unwrap();
    for _ in 0..5 {
        assert_eq!(struck(&mut fight), struck(&mut other));
        assert_eq!(fight.checksum(), other.checksum());
    }
    let before = fight.checksum();
    fight.orders().show_part(gaunt, 2, false);
    fight.tick().unwrap();
    other.tick().unwrap();
    assert_ne!((before, fight.checksum()), (before, other.checksum()), "what is hidden is in the state");
}

/// A posed part that comes back begins its way where it is; one that was there all the while is swept.
#[test]
fn what_comes_back_was_not_on_its_way() {
    let yard = yard();
    let landed = |hidden: bool| {
        let (mut fight, gaunt) = set_up(&yard);
        let pose = |fight: &mut Encounter, side: f32| {
            // The trunk goes far past the middle hitbox, the wing stays away.
            let poses = [[side, 1.0, 0.0], [9.0, 1.0, 0.0], [-9.0, 1.0, 0.0]].map(Pose::at);
            fight.orders().pose_parts(gaunt, Frame::Body, &poses);
        };
        pose(&mut fight, 6.0);
        struck(&mut fight);
        fight.orders().show_part(gaunt, 0, !hidden);
        pose(&mut fight, 6.0);
        assert_eq!(struck(&mut fight), Vec::<u16>::new());
        fight.orders().show_part(gaunt, 0, true);
        pose(&mut fight, -6.0);
        struck(&mut fight)
    };
    // Past two hitboxes of different groups, and the middle one.
    assert_eq!(landed(false), [0, 0, 0]);
    assert_eq!(landed(true), Vec::<u16>::new());
}

#[test]
fn what_cannot_be_shown_or_sized_is_refused() {
    let yard = yard();
    let (mut fight, gaunt) = set_up(&yard);
    fight.tick().unwrap();
    fight.orders().show_part(gaunt, 3, false);
    fight.orders().resize(gaunt, Fixed::raw(99));
    fight.orders().resize(gaunt, Fixed::raw(1_000_001));
    let size = Refusal::OutOfRange(Quantity::Size);
    assert_eq!(refused(&mut fight), [Refusal::NoSuchPart, size, size]);
    fight.orders().resize(gaunt, Fixed::whole(2));
    fight.tick().unwrap();
    // Its poses may be twice as far, too.
    let far = |x: f32| [[x, 0.0, 0.0], [0.0; 3], [0.0; 3]].map(Pose::at);
    fight.orders().pose_parts(gaunt, Frame::Body, &far(39.0));
    fight.orders().pose_parts(gaunt, Frame::Body, &far(41.0));
    assert_eq!(refused(&mut fight), [Refusal::OutOfReach { pose: 0, metres: 41.0, limit: 40.0 }]);
    let parts = (0..65).map(|number| Part::new(&format!("p{number}"), ball([0.0; 3], 0.1)));
    let mut b = Ruleset::builder(60);
    let team = b.team("beasts");
    let many = parts.fold(Template::new("many", team, 4), |many, part| many.part(part.hidden()));
    b.template(many);
    let told = b.build().unwrap_err().to_string();
    assert!(told.contains("part `p64`"), "{told}");
}

/// A fight of two with shapes so many times as large, by the ruleset or by order.
fn sized(
    times: f32,
    by_order: bool,
    posed: bool,
    at: [f32; 3],
    turn: f32,
    steps: &[[f32; 3]],
) -> Vec<String> {
    let grown = if by_order { 1.0 } else { times };
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let long = |place: [f32; 3]| place.map(|x| x * grown);
    let sweep = Attack::melee("sweep").timeline(0, 12, 0).policy(Policy::Interval(2)).damage(crush, 1, 1);
    let sweep = sweep
        .hitbox(Shape::Capsule {
            from: long([0.0, 0.5, 0.5]),
            to: long([0.25, 0.75, 1.5]),
            radius: 0.125 * grown,
        })
        .hitbox(Shape::Box {
            pose: Pose::at(long([0.0, 0.5, 1.75])).turned([0.0, 1.0, 0.0], 30.0),
            half: long([0.25, 0.125, 0.25]),
        })
        .key_turned(0, long([-0.5, 0.0, 0.0]), [0.0, 1.0, 0.0], -60.0)
        .key_turned(6, long([0.5, 0.25, 0.0]), [0.0, 1.0, 0.0], 60.0);
    let sweep = b.attack(sweep);
    let mason = b.template(
        Template::new("mason", masons, 400)
            .part(Part::new("trunk", ball(long([0.0, 0.5, 0.0]), 0.25 * grown))),
    );
    let gaunt = Template::new("gaunt", beasts, 400)
        .part(Part::new(
            "trunk",
            Shape::Capsule { from: long([0.0, 0.25, 0.0]), to: long([0.0, 1.0, 0.25]), radius: 0.25 * grown },
        ))
        .part(Part::new(
            "skull",
            Shape::Box { pose: Pose::at(long([0.0, 1.25, 0.25])), half: long([0.25, 0.25, 0.125]) },
        ));
    let gaunt = b.template(if posed { gaunt.posed(50.0) } else { gaunt });
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let mason = fight.orders().spawn(mason, Pose::IDENTITY);
    let place = at.map(|x| x * times);
    let gaunt = fight.orders().spawn(gaunt, Pose::at(place).facing(Axis::Y, turn));
    if by_order {
        let size = Fixed::try_from(f64::from(times)).unwrap();
        fight.orders().resize(mason, size);
        fight.orders().resize(gaunt, size);
    }
    fight.orders().start(mason, sweep);
    let mut landed = Vec::new();
    for step in steps {
        if posed {
            let poses = [Pose::at(step.map(|x| x * times)), Pose::IDENTITY];
            fight.orders().pose_parts(gaunt, Frame::Body, &poses);
        }
        let to = [0, 1, 2].map(|axis| place[axis] + step[axis] * times);
        fight.orders().move_to(gaunt, Pose::at(to).facing(Axis::Y, turn));
        fight.tick().unwrap();
        for event in fight.facts().events() {
            if let Event::HitLanded(HitLanded { part, point, normal, .. }) = event {
                landed.push(format!("{} {part} {point:?} {normal:?}", fight.view().tick()));
            }
        }
    }
    landed
}

proptest! {
    #![proptest_config(testkit::cases(300))]

    /// Where the sizes are powers of two, nothing rounds otherwise: an order does to the bit what another ruleset would.
    #[test]
    fn a_size_by_order_is_a_size_by_ruleset(
        power in -2..3i32,
        posed in any::<bool>(),
        at in (-1.5..1.5f32, -0.5..0.5f32, 0.2..2.2f32),
        turn in -180.0..180.0f32,
        steps in prop::collection::vec(prop::array::uniform3(-0.4..0.4f32), 1..12),
    ) {
        let times = 2.0f32.powi(power);
        let at = [at.0, at.1, at.2];
        let by_ruleset = sized(times, false, posed, at, turn, &steps);
        prop_assert_eq!(sized(times, true, posed, at, turn, &steps), by_ruleset);
    }
}

/// The law above says something: most of its fights have hits, and a size changes them.
#[test]
fn sizes_change_fights() {
    let steps = [[0.0, 0.0, 0.0], [0.1, 0.0, 0.1], [0.2, 0.0, 0.0], [0.0, 0.1, 0.0]];
    let plain = sized(1.0, true, false, [0.1, 0.0, 1.4], 20.0, &steps);
    assert!(!plain.is_empty());
    assert_ne!(sized(2.0, true, false, [0.1, 0.0, 1.4], 20.0, &steps), plain);
}
