//! Time scales: what is slow comes later by just so much, and what is fast skips nothing.

use hammerstone::Fixed;
use hammerstone::amount::Modifier;
use hammerstone::event::{Event, HitLanded, StatusExpired};
use hammerstone::prelude::*;
use proptest::prelude::*;

/// Where the fight is: a maul, its bearer with a status for `lasts` ticks, and a hound in reach.
struct Scene {
    fight: Encounter,
    odo: CombatantId,
}

fn scene(startup: u32, window: u32, lasts: u32, haste: Fixed) -> Scene {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let (speed, pace) = (b.stat("haste", Fixed::ONE), b.stat("pace", Fixed::ONE));
    b.attack_speed(speed).movement(pace);
    let brine =
        b.status(Status::new("brine").lasts(lasts).changes(pace, Modifier::Multiply(Fixed::ratio(1, 2))));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.5 });
    let mason = Template::new("mason", masons, 10).stat(speed, haste);
    let mason = b.template(mason.part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 99).part(trunk));
    let reach = Shape::Sphere { at: [0.0, 0.0, 1.0], radius: 0.4 };
    let maul = Attack::melee("maul").timeline(startup, window, 3).damage(crush, 1, 1).hitbox(reach);
    let maul = b.attack(maul);
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().spawn(hound, Pose::at([0.0, 0.0, 1.2]));
    fight.orders().start(odo, maul);
    fight.orders().apply(odo, brine, None);
    Scene { fight, odo }
}

/// The ticks in which the maul hits and the status ends.
fn times(mut scene: Scene, sixteenths: u8) -> (Vec<u32>, Option<u32>) {
    scene.fight.orders().scale_time(scene.odo, sixteenths);
    let (mut hits, mut ends) = (Vec::new(), None);
    for _ in 0..700 {
        scene.fight.tick().unwrap();
        let facts = scene.fight.facts();
        for event in facts.events() {
            match event {
                Event::HitLanded(HitLanded { .. }) => hits.push(facts.tick),
                Event::StatusExpired(StatusExpired { .. }) => ends = Some(facts.tick),
                _ => {}
            }
        }
    }
    (hits, ends)
}

proptest! {
    /// A maul opens with the tick in which its startup has passed for its bearer; in each swing it hits once, however short its window is and
    /// however fast it goes. By a stat or by the time scale, it is the same.
    #[test]
    fn a_swing_hits_once_when_its_own_time_has_come(startup in 0..30u32, window in 1..6u32, sixteenths in 1..=32u8) {
        let (by_time, _) = times(scene(startup, window, 9, Fixed::ONE), sixteenths);
        let haste = Fixed::ratio(i64::from(sixteenths), 16);
        let (by_stat, _) = times(scene(startup, window, 9, haste), 16);
        prop_assert_eq!(&by_time, &by_stat);
        prop_assert_eq!(by_time.len(), 1);
        // The first tick at whose end more than the startup has passed; an edge may hold a fast one up by a tick.
        let passed = (u32::from(sixteenths) * by_time[0]) / 16;
        let before = (u32::from(sixteenths) * (by_time[0] - 1)) / 16;
        prop_assert!(passed > startup && before <= startup + 1, "tick {} of {startup}", by_time[0]);
    }

    /// A status ends when so many ticks have passed for its bearer; the first of these goes by as usual.
    #[test]
    fn a_status_ends_when_its_own_time_has_passed(lasts in 1..40u32, sixteenths in 1..=32u8) {
        let (_, usual) = times(scene(2, 1, lasts, Fixed::ONE), 16);
        let (_, ends) = times(scene(2, 1, lasts, Fixed::ONE), sixteenths);
        let (usual, ends) = (usual.unwrap(), ends.unwrap());
        let own = |tick: u32| 1 + u32::from(sixteenths) * (tick - 1) / 16;
        prop_assert!(own(ends) >= usual && own(ends - 1) < usual.max(2), "{usual} {ends}");
    }
}

#[test]
fn the_host_reads_how_one_goes_and_how_fast() {
    let Scene { mut fight, odo } = scene(2, 1, 5, Fixed::ONE);
    fight.orders().scale_time(odo, 8);
    fight.tick().unwrap();
    let half = Fixed::ratio(1, 2);
    assert_eq!((fight.view().time_scale(odo), fight.view().pace(odo)), (half, half * half));
    fight.orders().scale_time(odo, 16);
    fight.run_for(9);
    assert_eq!((fight.view().time_scale(odo), fight.view().pace(odo)), (Fixed::ONE, Fixed::ONE));
    // Frozen, it does nothing and nothing comes to an end; then it goes on.
    let mut frozen = scene(2, 1, 5, Fixed::ONE);
    frozen.fight.orders().scale_time(frozen.odo, 0);
    frozen.fight.run_for(100);
    assert_eq!(frozen.fight.view().statuses(frozen.odo).count(), 1);
    assert_eq!(frozen.fight.view().swings_of(frozen.odo).count(), 1);
    assert_eq!(times(frozen, 16).0.len(), 1);
}

trait RunFor {
    fn run_for(&mut self, ticks: u32);
}

impl RunFor for Encounter {
    fn run_for(&mut self, ticks: u32) {
        for _ in 0..ticks {
            self.tick().unwrap();
        }
    }
}
