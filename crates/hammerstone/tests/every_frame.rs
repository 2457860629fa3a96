//! What a host asks every frame: how far swings, statuses, bodies and waves are, whether one may attack, whose entity it is.

use hammerstone::Fixed;
use hammerstone::attack::{Charge, Phase, Progress};
use hammerstone::event::{CombatantJoined, CombatantReturned, DamageDealt, Event};
use hammerstone::flow::Waves;
use hammerstone::geometry::Axis;
use hammerstone::orders::{Marker, Refusal};
use hammerstone::prelude::*;
use hammerstone::template::Lives;
use proptest::prelude::*;

const BALL: Shape = Shape::Sphere { at: [0.0, 0.0, 1.0], radius: 0.4 };

fn progress(passed: u32, of: u32) -> Progress {
    Progress { passed, of: Some(of) }
}

/// Ticks before each window and of each window, and of the recovery.
fn timeline() -> impl Strategy<Value = (Vec<(u32, u32)>, u32)> {
    (proptest::collection::vec((0..5u32, 1..5u32), 1..4), 0..5u32).prop_map(|(mut windows, recovery)| {
        // Two windows that touch would be one.
        windows.iter_mut().skip(1).for_each(|(gap, _)| *gap += 1);
        (windows, recovery)
    })
}

/// What a swing is at in each of its ticks, by counting.
fn counted(windows: &[(u32, u32)], recovery: u32) -> Vec<(Phase, Progress)> {
    let mut all = Vec::new();
    for (number, &(gap, open)) in windows.iter().enumerate() {
        let before = if number == 0 { Phase::Startup } else { Phase::Between };
        all.extend((1..=gap).map(|tick| (before, progress(tick, gap))));
        all.extend((1..=open).map(|tick| (Phase::Active(number as u16 + 1), progress(tick, open))));
    }
    all.extend((1..=recovery).map(|tick| (Phase::Recovery, progress(tick, recovery))));
    all
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    /// In each tick a swing is at what its timeline says, also in an encounter that was restored; the stops of its attacker do not count.
    #[test]
    fn a_swing_is_at_what_its_timeline_says((windows, recovery) in timeline(), stop in any::<Option<prop::sample::Index>>()) {
        let mut b = Ruleset::builder(60);
        let masons = b.team("masons");
        let spans = windows.iter().map(|&(gap, open)| [gap, open]).collect::<Vec<_>>();
        let attack = spans.iter().skip(1).fold(
            Attack::melee("maul").timeline(spans[0][0], spans[0][1], recovery),
            |attack, &[gap, open]| attack.again(gap, open),
        );
        let maul = b.attack(attack.hitbox(BALL));
        let mason = b.template(Template::new("mason", masons, 40));
        let rules = b.build().expect("a sound ruleset");
        let mut fight = Encounter::new(&rules, 7);
        let odo = fight.orders().spawn(mason, Pose::IDENTITY);
        prop_assert_eq!(fight.can_start(odo, maul), Err(Refusal::Unknown));
        fight.tick().unwrap();
        prop_assert_eq!(fight.can_start(odo, maul), Ok(()));
        let swing = fight.orders().start(odo, maul);
        prop_assert_eq!(fight.view().swing(swing), None);
        let expected = counted(&windows, recovery);
        let saved_at = stop.map_or(0, |stop| stop.index(expected.len()));
        for (tick, (phase, in_phase)) in expected.iter().enumerate() {
            // With its last tick the attacker's hands are free for the next.
            let last = tick + 1 == expected.len();
            fight.tick().unwrap();
            if tick == saved_at {
                let saved = fight.save().unwrap();
                fight = Encounter::new(&rules, 1);
                fight.restore(&saved).unwrap();
            }
            let seen = fight.view().swing(swing).expect("it runs");
            prop_assert_eq!((seen.phase, seen.in_phase), (*phase, *in_phase), "tick {} of {:?}", tick + 1, windows);
            prop_assert_eq!(seen.whole, progress(tick as u32 + 1, expected.len() as u32));
            prop_assert_eq!(seen.whole.left(), Some((expected.len() - tick - 1) as u32));
            prop_assert!((0.0..=1.0).contains(&seen.in_phase.share().unwrap()));
            prop_assert_eq!((seen.id, seen.attack, seen.attacker, seen.busy, seen.stopped), (swing, maul, Some(odo), !last, false));
            prop_assert_eq!(fight.view().swings_of(odo).collect::<Vec<_>>(), [seen]);
            prop_assert_eq!(fight.can_start(odo, maul), if last { Ok(()) } else { Err(Refusal::Busy { ticks: (expected.len() - tick - 1) as u32 }) });
        }
        fight.tick().unwrap();
        prop_assert_eq!(fight.view().swing(swing), None);
        prop_assert_eq!(fight.can_start(odo, maul), Ok(()));
    }

    /// Ids come back from their bits, and bits that no id had are nowhere.
    #[test]
    fn ids_come_back_from_their_bits(spawned in 1..20usize, bits in any::<u64>()) {
        let mut b = Ruleset::builder(60);
        let masons = b.team("masons");
        let mason = b.template(Template::new("mason", masons, 40));
        let rules = b.build().unwrap();
        let mut fight = Encounter::new(&rules, 7);
        let all: Vec<_> = (0..spawned).map(|_| fight.orders().spawn(mason, Pose::IDENTITY)).collect();
        fight.tick().unwrap();
        let mut distinct: Vec<u64> = all.iter().map(|id| id.to_bits()).collect();
        distinct.dedup();
        prop_assert_eq!(distinct.len(), spawned);
        for id in &all {
            prop_assert_eq!(CombatantId::from_bits(id.to_bits()), *id);
        }
        let stranger = CombatantId::from_bits(bits);
        prop_assert_eq!(fight.view().life(stranger) == Life::Gone, !all.contains(&stranger));
        prop_assert_eq!(SwingId::from_bits(bits).to_bits(), bits);
        prop_assert_eq!(fight.view().swing(SwingId::from_bits(bits)), None);
    }
}

#[test]
fn charges_and_markers_are_phases_of_their_own() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let ram = b.attack(Attack::melee("ram").timeline(1, 2, 1).hitbox(BALL).charge(Charge {
        least: 2,
        most: 6,
        full: Fixed::ONE,
    }));
    let dance = b.attack(Attack::melee("dance").marked(50).hitbox(BALL));
    let mason = b.template(Template::new("mason", masons, 40));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 7);
    let [odo, bram] = [0, 1].map(|_| fight.orders().spawn(mason, Pose::IDENTITY));
    let (charged, marked) = (fight.orders().start(odo, ram), fight.orders().start(bram, dance));
    let seen = |fight: &Encounter, swing| fight.view().swing(swing).map(|seen| (seen.phase, seen.in_phase));
    fight.tick().unwrap();
    assert_eq!(seen(&fight, charged), Some((Phase::Charging, progress(1, 6))));
    assert_eq!(seen(&fight, marked).unwrap().0, Phase::Startup);
    assert_eq!(fight.view().swing(marked).unwrap().whole, Progress { passed: 1, of: None });
    assert_eq!(fight.view().swing(marked).unwrap().whole.share(), None);
    fight.tick().unwrap();
    fight.tick().unwrap();
    assert_eq!(fight.view().swing(charged).unwrap().charge, None);
    fight.orders().release(charged);
    fight.orders().marker(marked, Marker::Open);
    fight.tick().unwrap();
    let released = fight.view().swing(charged).unwrap();
    assert_eq!((released.phase, released.charge), (Phase::Startup, Some(Fixed::ratio(1, 4))));
    assert_eq!(seen(&fight, marked).unwrap().0, Phase::Active(1));
    fight.orders().marker(marked, Marker::Close);
    fight.tick().unwrap();
    assert_eq!(seen(&fight, marked).unwrap().0, Phase::Recovery);
}

/// A window that a marker opens closes by itself, or with a marker before; each opening counts anew.
#[test]
fn a_window_that_a_marker_opens_closes_by_itself() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let dance = b.attack(Attack::melee("dance").marked(50).windows_last(3).hitbox(BALL));
    let mason = b.template(Template::new("mason", masons, 40));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 7);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let swing = fight.orders().start(odo, dance);
    let mut phases = Vec::new();
    for tick in 0..14 {
        match tick {
            2 | 7 | 8 => _ = fight.orders().marker(swing, Marker::Open),
            9 => _ = fight.orders().marker(swing, Marker::Close),
            _ => {}
        }
        fight.tick().unwrap();
        let seen = fight.view().swing(swing).unwrap();
        let passed = seen.in_phase.of.map(|of| (seen.in_phase.passed, of));
        phases.push((seen.phase, passed));
    }
    let open = |window, passed| (Phase::Active(window), Some((passed, 3)));
    let (startup, shut) = ((Phase::Startup, None), (Phase::Recovery, None));
    let expected =
        [startup, startup, open(1, 1), open(1, 2), open(1, 3), shut, shut, open(2, 1), open(3, 1), shut];
    assert_eq!(phases[..10], expected);
    assert!(phases[10..].iter().all(|phase| *phase == shut));
    // It is for attacks that are marked.
    let mut b = Ruleset::builder(60);
    b.attack(Attack::melee("maul").timeline(1, 2, 3).windows_last(3).hitbox(BALL));
    assert!(b.build().unwrap_err().to_string().contains("windows_last"));
}

/// Bodies that lie, lives that return, statuses that run, waves that come.
#[test]
fn everything_that_lasts_says_how_far_it_is() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let tide = b.reason("tide");
    let masons = b.team("masons");
    let damp = b.status(Status::new("damp").lasts(10));
    let cold = b.status(Status::new("cold"));
    let mason = b.template(Template::new("mason", masons, 40).corpse_time(8));
    let sworn = b.template(Template::new("sworn", masons, 40).lives(Lives::new(2, 6)));
    let spot = b.spot("ramp", Pose::at([9.0, 0.0, 0.0]).facing(Axis::Y, 90.0));
    let waves = b.waves(Waves::new("tide", mason, 1, 2).at(spot).delay(5));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 7);
    let [odo, bram] = [0, 1].map(|_| fight.orders().spawn(mason, Pose::IDENTITY));
    let ilse = fight.orders().spawn(sworn, Pose::IDENTITY);
    fight.orders().start_waves(waves);
    fight.tick().unwrap();
    assert_eq!(fight.view().next_wave_in(waves), Some(5));
    fight.orders().apply(odo, damp, None);
    fight.orders().apply(odo, cold, None);
    fight.orders().damage(bram, crush, Fixed::whole(99), tide);
    fight.orders().damage(ilse, crush, Fixed::whole(99), tide);
    for tick in 0..5u32 {
        fight.tick().unwrap();
        let view = fight.view();
        let times: Vec<Progress> = view.statuses_of(odo).map(|status| status.time).collect();
        assert_eq!(times, [progress(tick, 10), Progress { passed: tick, of: None }]);
        assert_eq!(view.lying(bram), Some(progress(tick, 8)));
        assert_eq!((view.lying(odo), view.returns_in(odo), view.returns_in(bram)), (None, None, None));
        assert_eq!(view.returns_in(ilse), Some(6 - tick));
    }
    assert_eq!(fight.view().next_wave_in(waves), None, "one has come, and the next waits until few are left");
    // Who comes says where, and so does who returns.
    let mut came = Vec::new();
    for _ in 0..4 {
        fight.tick().unwrap();
        came.extend(fight.facts().events().filter_map(|event| match *event {
            Event::CombatantReturned(CombatantReturned { subject, pose, .. }) => Some((subject, pose)),
            _ => None,
        }));
    }
    assert_eq!(came, [(ilse, fight.view().pose(ilse).unwrap())]);
    let mut again = Encounter::new(&rules, 7);
    again.orders().start_waves(waves);
    let mut joined = Vec::new();
    for _ in 0..8 {
        again.tick().unwrap();
        joined.extend(again.facts().events().filter_map(|event| match *event {
            Event::CombatantJoined(CombatantJoined { pose, .. }) => Some(pose),
            _ => None,
        }));
    }
    assert_eq!(joined[0], rules.spot(spot).unwrap());
}

/// A label stays with its combatant through death, save and return, and is not that of the next who has its place.
#[test]
fn labels_stay_with_their_combatants() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let tide = b.reason("tide");
    let masons = b.team("masons");
    let mason = b.template(Template::new("mason", masons, 40));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 7);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().label(odo, u64::MAX);
    assert_eq!(fight.view().label(odo), None, "nobody is there yet");
    fight.tick().unwrap();
    assert_eq!(fight.view().label(odo), Some(u64::MAX));
    fight.orders().damage(odo, crush, Fixed::whole(99), tide);
    fight.tick().unwrap();
    fight.orders().label(odo, 5);
    fight.tick().unwrap();
    let saved = fight.save().unwrap();
    let mut other = Encounter::new(&rules, 1);
    other.restore(&saved).unwrap();
    assert_eq!(other.view().label(odo), Some(5));
    fight.orders().remove(odo);
    fight.tick().unwrap();
    let told = fight.facts().events().find_map(|event| match event {
        Event::CombatantRemoved(removed) => Some(removed.label),
        _ => None,
    });
    assert_eq!(told, Some(Some(5)), "the fact says whose entity goes");
    let next = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.tick().unwrap();
    assert_eq!((next.slot(), fight.view().label(next), fight.view().label(odo)), (odo.slot(), Some(0), None));
}

/// The bodies of the dead go where the host puts them; nothing else comes of it.
#[test]
fn bodies_of_the_dead_are_moved_without_a_refusal() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let tide = b.reason("tide");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let poke = b.attack(Attack::melee("poke").timeline(0, 5, 0).damage(crush, 1, 1).hitbox(BALL));
    let mason = b.template(Template::new("mason", masons, 40));
    let ball = Part::new("ball", Shape::Sphere { at: [0.0; 3], radius: 0.4 });
    let hound = b.template(Template::new("hound", beasts, 40).part(ball));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 7);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let hound = fight.orders().spawn(hound, Pose::at([5.0, 0.0, 1.0]));
    fight.orders().damage(hound, crush, Fixed::whole(99), tide);
    fight.tick().unwrap();
    fight.orders().start(odo, poke);
    for x in [3.0f32, 1.0, 0.0, -2.0] {
        fight.orders().move_to(hound, Pose::at([x, 0.0, 1.0]));
        fight.tick().unwrap();
        assert_eq!(fight.view().pose(hound).unwrap().at[0], x);
        let quiet = |event: &Event| {
            !matches!(event, Event::OrderRefused(_) | Event::ContactMet(_) | Event::HitRefused(_))
        };
        assert!(fight.facts().events().all(quiet));
    }
    fight.orders().teleport(hound, Pose::at([40.0, 0.0, 0.0]));
    fight.tick().unwrap();
    assert_eq!(fight.view().pose(hound).unwrap().at[0], 40.0);
    assert_eq!((fight.counts().hits, fight.counts().attempts), (0, 0));
    // Up again, it stands where it is told to, and can be struck.
    fight.orders().bring_back(hound, Pose::at([0.0, 0.0, 1.0]));
    fight.orders().start(odo, poke);
    fight.tick().unwrap();
    let dealt = fight.facts().events().find_map(|event| match *event {
        Event::DamageDealt(DamageDealt { point, .. }) => Some(point),
        _ => None,
    });
    let point = dealt.expect("it is damaged").expect("a blow touches somewhere");
    assert!((point[2] - 1.0).abs() < 0.5 && point[0].abs() < 0.5, "{point:?}");
    // Damage that is no blow has no place.
    fight.orders().damage(hound, crush, Fixed::ONE, tide);
    fight.tick().unwrap();
    let dealt = fight.facts().events().find_map(|event| match *event {
        Event::DamageDealt(DamageDealt { point, .. }) => Some(point),
        _ => None,
    });
    assert_eq!(dealt, Some(None));
}

proptest! {
    #![proptest_config(testkit::cases(80))]

    /// What a tick had to do is what its facts show of it.
    #[test]
    fn the_load_of_a_tick_is_what_its_facts_show(fight in testkit::fights()) {
        let rules = testkit::build(&fight.sheet);
        let mut before = 0;
        let (mut orders, mut touched) = (0, 0);
        testkit::play_ticking(&rules, &fight, |fight| fight.keep_deliveries(true), |fight, hooks, world| {
            let waiting = fight.pending_orders().len() as u32;
            let summary = fight.tick_with(hooks, world).expect("nothing ends or interrupts the fight");
            fight.confirm(hooks, world);
            let (load, facts) = (summary.load, fight.facts());
            let count = |is: fn(&Event) -> bool| facts.events().filter(|event| is(event)).count() as u32;
            assert_eq!(load.refused_orders, count(|event| matches!(event, Event::OrderRefused(_))));
            assert_eq!(load.facts as usize, facts.facts.len());
            assert_eq!(load.heard as usize, facts.deliveries.len());
            assert_eq!(u64::from(load.attempts), facts.counts.attempts - before);
            let pass = facts.facts.iter().map(|fact| u32::from(fact.pass)).max().unwrap_or(0);
            assert!(load.passes >= pass && load.orders >= load.refused_orders && load.orders >= waiting);
            assert!(load.touches == 0 || (load.hitboxes > 0 && load.bodies > 0), "{load:?}");
            before = if summary.reset { 0 } else { facts.counts.attempts };
            orders += load.orders;
            touched += load.touches;
        });
        prop_assert!(orders > 0 || touched == 0);
    }
}
