//! Attacks of every form.

use hammerstone::Fixed;
use hammerstone::amount::Role;
use hammerstone::attack::{
    Beam, Charge, Clash, Critical, FallOff, HitStop, Knockback, Prefer, Projectile, Scaling, Sharing, Side,
    Tie, When,
};
use hammerstone::geometry::Axis;
use hammerstone::ids::{LayerId, TagId};
use hammerstone::prelude::*;
use hammerstone::team::Relations;

use crate::build::Names;
use crate::sheet::{AttackSheet, Dice};

pub(crate) fn numbered_attack(mut attack: Attack, dice: &mut Dice, names: &Names) -> Attack {
    for _ in 0..3 {
        let status = names.status(dice.roll(4));
        attack = match dice.roll(15) {
            1 => attack.scaling(Scaling {
                of: Role::ALL[dice.roll(2) as usize],
                stat: names.stats[0],
                adds: Fixed::ONE,
                shares: Fixed::ratio(-1, 4),
                damage_type: None,
            }),
            2 => attack.critical(Critical {
                chance_stat: Some(names.stats[0]),
                ..Critical::new(Fixed::ratio(1, 4), Fixed::whole(2))
            }),
            3 => {
                attack.fall_off(FallOff { near: Fixed::ONE, far: Fixed::whole(2), least: Fixed::ratio(1, 4) })
            }
            4 => attack.absolute(),
            5 => attack.live(),
            6 => attack.inflicts_at(status, Fixed::ratio(3, 2)),
            7 => attack.inflicts_self(status, Fixed::ONE),
            8 => attack.aura(status, Fixed::ONE),
            9 => attack.self_status(0, 3, status),
            10 => attack.knockback(Knockback { moves: dice.comes(2), lift: 0.1, ..Knockback::new(0.5, 3) }),
            11 => attack.hit_stop(HitStop { attacker: 2, target: 3 }),
            12 => attack.heals(0, 4).strikes(Relations::ANY),
            13 => attack.tag(names.tags[0]).stagger_damage(Fixed::whole(2)),
            14 => attack.never_critical(),
            _ => attack,
        };
    }
    attack
}

pub(crate) fn attack(
    sheet: &AttackSheet,
    number: usize,
    damage_types: [DamageTypeId; 2],
    layer: LayerId,
    tag: TagId,
    statuses: [StatusId; 2],
) -> Attack {
    let traits = &sheet.traits;
    let flag = |bit: u8| traits.flags >> bit & 1 == 1;
    let name = format!("attack {number}");
    let (startup, window, recovery) = sheet.timeline;
    let projectile = Projectile {
        from: [0.0, 0.5, 0.3],
        speed: 12.0 + sheet.reach * 30.0,
        gravity: if flag(0) { 9.0 } else { 0.0 },
        lifetime: window + 4,
        pierce: traits.pierce,
        pellets: traits.pellets,
        spread: 40.0,
        aligned: false,
    };
    let beam = Beam {
        from: [0.0, 0.5, 0.2],
        reach: sheet.reach * 2.0,
        radius: if flag(0) { 0.1 } else { 0.0 },
        pierce: traits.pierce,
    };
    let rod = Shape::Capsule { from: [0.0, 0.5, 0.2], to: [0.0, 0.5, 0.2 + sheet.reach], radius: 0.1 };
    let ball = Shape::Sphere { at: [0.3, 0.5, sheet.reach], radius: 0.3 };
    let slab = Shape::Box { pose: Pose::at([0.0, 0.5, 0.5]), half: [0.2, 0.1, 0.3] };
    let mut attack = match traits.form {
        0 => Attack::projectile(&name, projectile).hitbox(Shape::Sphere { at: [0.0; 3], radius: 0.15 }),
        1 => Attack::beam(&name, beam),
        2 => Attack::area(&name).hitbox_of(ball, 0).hitbox_of(slab, 1),
        3 => Attack::touch(&name),
        _ => Attack::melee(&name).hitbox_of(rod, 0).hitbox_of(ball, 1),
    };
    let melee = traits.form > 3;
    let held = traits.form != 0 && traits.form != 2;
    match traits.timing {
        0 if held => attack = attack.marked(12),
        _ => attack = attack.timeline(startup, window, recovery),
    }
    if melee && traits.timing == 1 {
        attack = attack.guided();
    } else if melee {
        attack = attack
            .key(0, Pose::IDENTITY.facing(Axis::Y, -sheet.turn))
            .key(8, Pose::IDENTITY.facing(Axis::Y, sheet.turn));
    }
    if let (Some((gap, length)), false) = (sheet.again, held && traits.timing == 0) {
        attack = attack.again(gap, length);
    }
    attack = attack.policy(match traits.policy {
        0 => Policy::Window,
        1 => Policy::Interval(1 + u32::from(traits.most)),
        2 => Policy::Life,
        _ => Policy::Once,
    });
    attack = match traits.sharing {
        0 => attack.sharing(Sharing::Group),
        1 if traits.form == 0 => attack.sharing(Sharing::Body),
        _ => attack,
    };
    attack = attack.prefer(Prefer::ALL[usize::from(traits.prefer)]);
    if traits.most == 0 {
        attack = attack.max_targets(1);
    }
    attack = match traits.direction {
        0 => attack.only_from(Side::Above, 60.0),
        1 => attack.only_from(Side::Behind, 90.0),
        2 | 5 => attack.needs_clear_line(),
        3 => attack.needs_tag(tag),
        4 => attack.spares_tag(tag),
        _ => attack,
    };
    attack = match traits.timing {
        2 => attack.charge(Charge { least: 1, most: 5, full: Fixed::whole(2) }),
        3 => attack.chain("attack 0", 2, 6 + window),
        _ => attack,
    };
    attack = match traits.child {
        0 => attack.child(When::Hit, "splinters"),
        1 => attack.child(When::Obstacle, "splinters").child(When::Expiry, "sparks"),
        2 => attack.child(When::End, "splinters"),
        _ => attack,
    };
    if flag(1) {
        attack = attack.tells_held();
    }
    if flag(2) {
        attack = attack.alongside();
    }
    if flag(3) {
        attack = attack.outlives(flag(4));
    }
    if flag(5) {
        let tie = if flag(6) { Tie::Both } else { Tie::Neither };
        attack = attack.clash(Clash { layer: 0, meets: 1, priority: i16::from(flag(7)), tie });
    }
    if flag(8) {
        attack = attack.ignores(statuses[1]);
    }
    if flag(9) {
        attack = attack.passing_spends();
    }
    if !sheet.both_layers {
        attack = attack.meets(layer);
    }
    if sheet.strikes_all {
        attack = attack.strikes(Relations::ANY);
    }
    if sheet.inflicts {
        attack = attack.inflicts(statuses[0]);
    }
    attack.damage(damage_types[0], sheet.damage.0, sheet.damage.1).damage(damage_types[1], 0, 1)
}
