//! What a scene shows is what detection saw.

use hammerstone::attack::Form;
use hammerstone::event::Event;
use hammerstone::event::{CombatantReturned, CombatantTransformed, ContactMet};
use hammerstone::geometry::{first_touch, nearest_approach};
use hammerstone::prelude::*;
use hammerstone::scene::{SceneHitbox, ScenePart};
use proptest::prelude::*;
use testkit::{fights, play};

proptest! {
    #![proptest_config(testkit::cases(150))]

    /// Every contact that met is the first touch of an open hitbox of its swing and a part of its target, at the same time.
    #[test]
    fn every_contact_is_a_touch_in_the_scene(fight in fights()) {
        let mut strange = Vec::new();
        play(&fight, false, |encounter| {
            let (scene, rules) = (encounter.scene(), encounter.rules());
            let view = scene.view();
            for event in encounter.facts().events() {
                let Event::ContactMet(ContactMet { swing, attacker, target, toi, .. }) = *event else { continue };
                let hitboxes: Vec<_> = scene.hitboxes().filter(|v| v.open && v.swing == swing).collect();
                let beam = |v: &SceneHitbox| matches!(rules.attacks()[v.attack.index()].form(), Form::Beam(_));
                let breaks = (0..4).any(|part| view.part(target, part).is_some_and(|(_, broken)| broken));
                let returned = |event: &Event| match *event {
                    Event::CombatantReturned(CombatantReturned { subject, .. }) => subject == target,
                    Event::CombatantTransformed(CombatantTransformed { subject, .. }) => {
                        subject == target || Some(subject) == attacker
                    }
                    _ => false,
                };
                // Rules teleport to the one spot that there is, and no fact tells of it.
                let at_spot = view.pose(target).is_some_and(|pose| pose.at == [0.5, 0.0, 0.5]);
                let moved = at_spot || encounter.facts().events().any(returned);
                // A beam may come out from behind an obstacle later in the tick; what broke in the tick is another shape by now; one who
                // died and was brought back in it stands elsewhere, and
                // one who became another has other parts.
                if view.life(target) != Life::Standing || breaks || moved || hitboxes.iter().any(beam) {
                    continue;
                }
                let touch = |v: &SceneHitbox, p: &ScenePart| first_touch(&v.moving, &p.moving);
                let tois = hitboxes.iter().flat_map(|v| scene.parts(target).filter_map(move |p| touch(v, &p)));
                if !tois.map(|touch| touch.toi).any(|found| (found - toi).abs() < 1.0e-4) {
                    strange.push((encounter.view().tick(), *event));
                }
            }
        });
        prop_assert!(strange.is_empty(), "{strange:?}");
    }
}

/// A swing shows its hitboxes before its window opens and after it shuts; how near they come can be asked.
#[test]
fn volumes_are_shown_while_their_window_is_shut() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ball = |at| Shape::Sphere { at, radius: 0.5 };
    let poke =
        b.attack(Attack::melee("poke").timeline(2, 1, 2).hitbox(ball([0.0, 0.0, 2.0])).damage(crush, 1, 1));
    let mason = b.template(Template::new("mason", masons, 10).part(Part::new("trunk", ball([0.0; 3]))));
    let hound = b.template(Template::new("hound", beasts, 10).part(Part::new("trunk", ball([0.0; 3]))));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let grey = fight.orders().spawn(hound, Pose::at([0.0, 0.0, 3.25]));
    fight.orders().start(odo, poke);
    let mut open = Vec::new();
    for _ in 0..5 {
        fight.tick().unwrap();
        let scene = fight.scene();
        let [part] = scene.parts(grey).collect::<Vec<_>>()[..] else { panic!("a hound has one part") };
        for hitbox in scene.hitboxes() {
            assert_eq!((hitbox.attacker, hitbox.attack), (Some(odo), poke));
            let near = nearest_approach(&hitbox.moving, &part.moving);
            assert!((near.distance - 0.25).abs() < 0.002, "{near:?}");
            assert_eq!(part.moving.at(1.0), Shape::Sphere { at: [0.0, 0.0, 3.25], radius: 0.5 });
            open.push(hitbox.open);
        }
    }
    assert_eq!(open.iter().filter(|open| **open).count(), 1, "{open:?}");
    assert!(open.len() >= 4, "{open:?}");
    assert_eq!(fight.counts().attempts, 0);
}
