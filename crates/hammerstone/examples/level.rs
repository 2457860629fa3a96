//! A level of triangles, a door that moves, and a thrown charge that bursts where it meets either: `cargo run --example level`.
//!
//! The game's level is handed over once, as arrays, and shared by every fight. What moves is an obstacle.

use std::error::Error;

use hammerstone::attack::{Projectile, When};
use hammerstone::event::{Event, ProjectileStopped};
use hammerstone::geometry::{Axis, Obstacle};
use hammerstone::level::{HeightField, Level};
use hammerstone::prelude::*;

/// A yard with uneven ground, and a wall of triangles with a gate in it, two metres wide, at z = 6.
fn yard() -> Result<Level, Box<dyn Error>> {
    let mut b = Level::builder();
    let heights = (0..81).map(|i| if (i / 9 + i % 9) % 2 == 0 { 0.0 } else { -0.1 }).collect();
    b.height_field(HeightField { corner: [-8.0, 0.0, -2.0], up: Axis::Y, step: 2.0, columns: 9, heights });
    let posts = [-8.0f32, -1.0, 1.0, 8.0];
    let points: Vec<[f32; 3]> = posts.iter().flat_map(|&x| [[x, -1.0, 6.0], [x, 4.0, 6.0]]).collect();
    // Left and right of the gate, two triangles each.
    b.mesh(&points, &[[0, 2, 1], [1, 2, 3], [4, 6, 5], [5, 6, 7]]);
    Ok(b.build()?)
}

fn main() -> Result<(), Box<dyn Error>> {
    let level = yard()?;
    let mut b = Ruleset::builder(60);
    let heat = b.damage_type("heat");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    b.attack(
        Attack::area("blast")
            .timeline(0, 1, 0)
            .damage(heat, 30, 30)
            .hitbox(Shape::Sphere { at: [0.0; 3], radius: 3.0 })
            .needs_clear_line(),
    );
    let thrown = Projectile { from: [0.0, 1.5, 0.3], gravity: 9.81, ..Projectile::new(14.0, 240) };
    let throw = b.attack(
        Attack::projectile("blasting-charge", thrown)
            .timeline(12, 1, 20)
            .hitbox(Shape::Sphere { at: [0.0; 3], radius: 0.12 })
            .child(When::Obstacle, "blast"),
    );
    let trunk = Shape::Capsule { from: [0.0, 0.4, 0.0], to: [0.0, 1.4, 0.0], radius: 0.35 };
    let mason = b.template(Template::new("mason", masons, 60).part(Part::new("trunk", trunk)));
    let crab = b.template(Template::new("crab", beasts, 60).part(Part::new("trunk", trunk)));
    let rules = b.build()?;

    // Thrown straight ahead, over twelve metres: through an open gate, at a closed one, and at one that falls shut on its way.
    for (gate, falls_at) in [("open", None), ("shut", Some(0)), ("falling", Some(18))] {
        let mut fight = Encounter::in_level(&rules, &level, 1);
        let door = Obstacle::Box { pose: Pose::at([0.0, 1.5, 6.0]), half: [1.0, 1.5, 0.1] };
        let door = fight.orders().add_obstacle(door);
        fight.orders().place_obstacle(door, Pose::at([0.0, 3.0, 0.0]));
        let odo = fight.orders().spawn(mason, Pose::IDENTITY);
        let behind = fight.orders().spawn(crab, Pose::at([0.0, 0.0, 9.0]));
        fight.orders().start(odo, throw);
        let mut met: Option<ProjectileStopped> = None;
        for tick in 0..180 {
            if falls_at == Some(tick) {
                // A third of a second for three metres. Poses are those of the frame in which the door was given.
                fight.orders().move_obstacle_over(door, Pose::IDENTITY, 20);
            }
            fight.tick()?;
            met = met.or_else(|| {
                fight.facts().events().find_map(|event| match event {
                    Event::ProjectileStopped(stopped) => Some(*stopped),
                    _ => None,
                })
            });
        }
        let met = met.ok_or("it meets the gate or the ground")?;
        let [_, height, far] = met.point;
        let at = match (met.obstacle, met.shape) {
            (Some(id), _) if id == door => "the door",
            (_, Some(place)) if place.shape == 0 => "the ground",
            _ => "the wall",
        };
        let (health, _) = fight.view().health(behind).ok_or("the crab is there")?;
        println!(
            "gate {gate}: the charge meets {at} {far:.2} m away, {height:.2} m up; the crab behind has {health} health"
        );
        match gate {
            "open" => assert!(at == "the ground" && far > 6.0 && health == 30),
            _ => assert!(at == "the door" && health == 60, "the blast has no clear line through the door"),
        }
    }

    // What a host asks of the level itself.
    let sees = level.ray([0.0, 1.6, 0.0], [0.0, 1.6, 9.0]).is_none();
    let wall = level.ray([3.0, 1.6, 0.0], [3.0, 1.6, 9.0]).ok_or("there is a wall")?;
    assert!(sees && (wall.distance - 6.0).abs() < 1e-4 && wall.place.shape == 1);
    println!("the level has the fingerprint {:016x}, which saved states carry", level.fingerprint());
    Ok(())
}
