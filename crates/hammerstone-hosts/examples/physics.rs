//! A game with a physics engine: rigid bodies for bones, boulders and walls.
//!
//! A gaunt of sixteen bones stands until a boulder kills it, and falls as the engine lets it fall. The engine finds the contacts of the
//! boulder and tells how fast they close in, for each pair of shapes in each step; the library counts one hit, and takes its damage from the
//! speed. Bones are posed from the engine's bodies, alive and dead. An arrow flies by itself, and ends at a wall that
//! only the engine knows.
//!
//! Run it with `cargo run -p hammerstone-hosts --example physics`.

use hammerstone::Fixed;
use hammerstone::attack::{ClosingSpeed, Projectile};
use hammerstone::event::{CombatantDied, DamageDealt, Event, HitLanded, OrderRefused, ProjectileStopped};
use hammerstone::geometry::Frame;
use hammerstone::orders::Touch;
use hammerstone::prelude::{Attack, Encounter, Part, Pose, Ruleset, Shape, Template};
use rapier3d::prelude::*;

/// Bones by their names, what they hang on, and where they are while it stands, in metres in the frame of the body.
const BONES: [(&str, usize, [f32; 3]); 16] = [
    ("pelvis", 0, [0.0, 1.0, 0.0]),
    ("spine", 0, [0.0, 1.25, 0.0]),
    ("chest", 1, [0.0, 1.5, 0.0]),
    ("neck", 2, [0.0, 1.75, 0.0]),
    ("skull", 3, [0.0, 1.95, 0.0]),
    ("arm.l", 2, [0.3, 1.5, 0.0]),
    ("forearm.l", 5, [0.55, 1.5, 0.0]),
    ("hand.l", 6, [0.8, 1.5, 0.0]),
    ("arm.r", 2, [-0.3, 1.5, 0.0]),
    ("forearm.r", 8, [-0.55, 1.5, 0.0]),
    ("hand.r", 9, [-0.8, 1.5, 0.0]),
    ("thigh.l", 0, [0.15, 0.75, 0.0]),
    ("shin.l", 11, [0.15, 0.4, 0.0]),
    ("thigh.r", 0, [-0.15, 0.75, 0.0]),
    ("shin.r", 13, [-0.15, 0.4, 0.0]),
    ("tail", 0, [0.0, 0.9, -0.3]),
];
const BONE: f32 = 0.11;
/// Where the gaunt stands.
const PLACE: [f32; 3] = [0.0, 0.0, 4.0];

fn vector([x, y, z]: [f32; 3]) -> Vector {
    Vector::new(x, y, z)
}

fn numbers(v: Vector) -> [f32; 3] {
    [v.x, v.y, v.z]
}

/// A pose of the engine's as the library has it.
fn pose_of(body: &RigidBody) -> Pose {
    let turn = body.rotation();
    Pose { at: numbers(body.translation()), turn: [turn.x, turn.y, turn.z, turn.w] }
}

/// The engine's side: the bones, held until they are let go, a boulder in the air, the ground and a wall.
struct Yard {
    world: PhysicsWorld,
    bones: Vec<RigidBodyHandle>,
    colliders: Vec<ColliderHandle>,
    boulder: (RigidBodyHandle, ColliderHandle),
}

impl Yard {
    fn new() -> Yard {
        let mut world = PhysicsWorld::new();
        let ground = ColliderBuilder::cuboid(30.0, 0.5, 30.0);
        world.insert(RigidBodyBuilder::fixed().translation(Vector::new(0.0, -0.5, 0.0)), ground);
        let wall = ColliderBuilder::cuboid(0.2, 3.0, 3.0);
        world.insert(RigidBodyBuilder::fixed().translation(Vector::new(8.0, 3.0, 0.0)), wall);
        let (mut bones, mut colliders) = (Vec::new(), Vec::new());
        for (_, on, at) in BONES {
            let body = RigidBodyBuilder::kinematic_position_based().translation(vector(PLACE) + vector(at));
            let (bone, collider) = world.insert(
                body,
                // Bones do not push each other apart.
                ColliderBuilder::ball(BONE).density(400.0).collision_groups(InteractionGroups::new(
                    Group::GROUP_1,
                    !Group::GROUP_1,
                    InteractionTestMode::And,
                )),
            );
            bones.push(bone);
            colliders.push(collider);
            if on != bones.len() - 1 {
                let between = (vector(at) - vector(BONES[on].2)) * 0.5;
                let joint = SphericalJointBuilder::new().local_anchor1(between).local_anchor2(-between);
                world.insert_impulse_joint(bones[on], bone, joint);
            }
        }
        let boulder = RigidBodyBuilder::dynamic()
            .translation(Vector::new(0.05, 1.6, 0.0))
            .linvel(Vector::new(0.0, 1.0, 14.0))
            .ccd_enabled(true);
        let stone = ColliderBuilder::ball(0.3).density(2500.0).restitution(0.4);
        let boulder = world.insert(boulder, stone);
        Yard { world, bones, colliders, boulder }
    }

    /// One step: which bones the boulder touches, where, and how fast they closed in.
    fn step(&mut self) -> Vec<(u16, Touch)> {
        let before = self.world.bodies[self.boulder.0].linvel();
        self.world.step();
        let mut touches = Vec::new();
        for pair in self.world.contact_pairs_with(self.boulder.1).filter(|pair| pair.has_any_active_contact())
        {
            let ends = [pair.collider1, pair.collider2];
            let Some(bone) = self.colliders.iter().position(|bone| ends.contains(bone)) else { continue };
            let centre = self.world.bodies[self.bones[bone]].translation();
            // Out of the target, and where its surface is.
            let out = (self.world.bodies[self.boulder.0].translation() - centre).normalize();
            let point = centre + out * BONE;
            let closing = -before.dot(out);
            touches.push((bone as u16, Touch::new(numbers(point), numbers(out)).closing(closing)));
        }
        touches
    }

    fn poses(&self) -> Vec<Pose> {
        self.bones.iter().map(|&bone| pose_of(&self.world.bodies[bone])).collect()
    }

    /// Nothing holds the bones any longer.
    fn let_go(&mut self) {
        for &bone in &self.bones {
            self.world.bodies[bone].set_body_type(RigidBodyType::Dynamic, true);
        }
    }

    /// Where a ray meets something, as a share of its way, with the normal there.
    fn ray(&self, from: [f32; 3], to: [f32; 3]) -> Option<(f32, [f32; 3], [f32; 3])> {
        let along = vector(to) - vector(from);
        let ray = Ray::new(vector(from), along);
        let fixed = QueryFilter::only_fixed();
        let (_, met) = self.world.cast_ray_and_get_normal(&ray, 1.0, true, fixed)?;
        Some((met.time_of_impact, numbers(ray.point_at(met.time_of_impact)), numbers(met.normal)))
    }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let (crush, rend) = (b.damage_type("crush"), b.damage_type("rend"));
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    // The shape is the engine's business: hitboxes of the boulder are never moved, and lie in no one's way.
    let nowhere = Shape::Sphere { at: [0.0, -500.0, 0.0], radius: 0.1 };
    let speed = ClosingSpeed { from: Fixed::whole(2), full: Fixed::whole(12), least: Fixed::ZERO };
    let thrown = Attack::melee("boulder").timeline(0, 120, 0).damage(crush, 60, 60).closing_speed(speed);
    let thrown = b.attack(thrown.hitbox(nowhere));
    let arrow = Projectile { aligned: true, ..Projectile::new(40.0, 120) };
    let arrow = Attack::projectile("arrow", arrow).timeline(1, 1, 1).damage(rend, 5, 5);
    let arrow = b.attack(arrow.hitbox(Shape::Sphere { at: [0.0; 3], radius: 0.05 }));
    let mason = b.template(Template::new("mason", masons, 40));
    let gaunt = BONES.iter().fold(Template::new("gaunt", beasts, 50).posed(12.0), |gaunt, (name, _, at)| {
        gaunt.part(Part::new(name, Shape::Sphere { at: [0.0; 3], radius: BONE }).rest(Pose::at(*at)))
    });
    let gaunt = b.template(gaunt);
    let rules = b.build()?;

    let mut yard = Yard::new();
    let mut fight = Encounter::new(&rules, 7);
    let slinger = fight.orders().spawn(mason, Pose::IDENTITY);
    let archer = fight.orders().spawn(mason, Pose::at([0.0, 1.0, 0.0]).turned([0.0, 1.0, 0.0], 90.0));
    let gaunt = fight.orders().spawn(gaunt, Pose::at(PLACE));
    let boulder = fight.orders().start(slinger, thrown);
    let arrow = fight.orders().start(archer, arrow);

    let (mut reports, mut hits, mut damage, mut died, mut refused, mut stopped) = (0, 0, 0, None, 0, None);
    for tick in 0..150 {
        // The engine's step first; what it found goes into the tick of the fight that it belongs to.
        for (bone, touch) in yard.step() {
            fight.orders().report(boulder, gaunt, bone, touch);
            reports += 1;
        }
        fight.orders().pose_parts(gaunt, Frame::World, &yard.poses());
        // What flies goes on as it did: where that leads into a wall of the engine's, the host says so.
        let flying: Vec<_> = fight.view().flying().filter(|body| body.swing == arrow).collect();
        for body in flying {
            let next = [0, 1, 2].map(|axis| 2.0 * body.pose.at[axis] - body.before.at[axis]);
            if let Some((toi, point, normal)) = yard.ray(body.pose.at, next) {
                fight.orders().stop_body(arrow, body.body, Touch::new(point, normal).at(toi));
            }
        }
        fight.tick()?;
        for event in fight.facts().events() {
            match *event {
                Event::HitLanded(HitLanded { part, .. }) => {
                    hits += 1;
                    println!(
                        "{:.2} s: the boulder hits the {}",
                        f64::from(tick) / 60.0,
                        BONES[usize::from(part)].0
                    );
                }
                Event::DamageDealt(DamageDealt { amount, .. }) => damage += amount,
                Event::CombatantDied(CombatantDied { .. }) => died = Some(tick),
                Event::OrderRefused(OrderRefused { .. }) => refused += 1,
                Event::ProjectileStopped(ProjectileStopped { point, .. }) => stopped = Some(point),
                _ => {}
            }
        }
        if died == Some(tick) {
            yard.let_go();
        }
    }
    println!("{reports} contacts were reported, {hits} hit counted, {damage} damage by its speed");
    assert!(reports > 1 && hits == 1, "each target is hit once per attack, however often they touch");
    assert!(damage > 30, "it came fast");
    assert!(died.is_some(), "and that was too much");
    assert_eq!(
        refused, 0,
        "the dead are posed like the living, and a swing that is over may still be reported"
    );
    let skull = yard.poses()[4].at;
    println!("the skull lies {:.2} m above the ground", skull[1]);
    assert!(skull[1] < 0.9, "it fell");
    let point = stopped.ok_or("the arrow met no wall")?;
    println!("the arrow ends at the wall, {:.2} m away", point[0]);
    assert!((point[0] - 7.8).abs() < 0.01);
    Ok(())
}
