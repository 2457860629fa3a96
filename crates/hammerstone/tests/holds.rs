//! Holds: the one who is held goes where its holder goes, and only what the hold gave ends with it.

use hammerstone::attack::Grip;
use hammerstone::event::{Event, HoldEnded, Why};
use hammerstone::prelude::*;
use hammerstone::status::Stacking;

#[test]
fn it_is_carried_and_keeps_the_same_status_from_another_source() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let mired = b.status(Status::new("mired").stacking(Stacking::PerSource));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.5 });
    let mason = b.template(Template::new("mason", masons, 10).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 99).part(trunk));
    let reach = Shape::Sphere { at: [0.0, 0.0, 1.0], radius: 0.4 };
    let grip = Grip::at(Pose::at([0.0, 0.5, 0.8])).lasts(10).status(mired);
    let clutch = Attack::melee("clutch").timeline(1, 1, 1).damage(crush, 1, 1).hitbox(reach).holds(grip);
    let clutch = b.attack(clutch);
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let mira = fight.orders().spawn(mason, Pose::at([9.0, 0.0, 0.0]));
    let beast = fight.orders().spawn(hound, Pose::at([0.0, 0.0, 1.2]));
    fight.tick().unwrap();
    fight.orders().apply(beast, mired, Some(mira));
    fight.orders().start(odo, clutch);
    for _ in 0..3 {
        fight.tick().unwrap();
    }
    assert_eq!(fight.view().holds().collect::<Vec<_>>(), [(odo, beast)]);
    assert_eq!(fight.view().statuses(beast).count(), 2);
    fight.orders().move_over(odo, Pose::at([2.0, 0.0, 0.0]), 4);
    for _ in 0..4 {
        fight.tick().unwrap();
    }
    assert_eq!(fight.view().pose(beast).unwrap().at, [2.0, 0.5, 0.8]);
    let mut ended = Vec::new();
    for _ in 0..10 {
        fight.tick().unwrap();
        ended.extend(fight.facts().events().filter_map(|event| match *event {
            Event::HoldEnded(HoldEnded { why, lasted, .. }) => Some((why, lasted)),
            _ => None,
        }));
    }
    assert_eq!(ended, [(Why::Done, 10)]);
    let left: Vec<_> = fight.view().statuses_of(beast).map(|status| status.source).collect();
    assert_eq!(left, [Some(mira)]);
}
