//! One blow through every step of the amount, beside the same arithmetic written by hand.

use std::hint::black_box;

use hammerstone::Fixed;
use hammerstone::amount::{AmountChange, Armour, Direction, Modifier, Role, Shield};
use hammerstone::attack::{Critical, FallOff, Scaling};
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone::status::Guard;
use hammerstone::team::Relation;

/// A fight in which one blow meets every step.
pub struct AllSteps {
    pub fight: Encounter,
    pub odo: CombatantId,
    pub stone: CombatantId,
    pub maul: AttackId,
    hand: ByHand,
}

impl AllSteps {
    pub fn new() -> AllSteps {
        let mut b = Ruleset::builder(60);
        let crush = b.damage_type("crush");
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let [might, ward, plates, hide] =
            ["might", "ward", "plates", "hide"].map(|name| b.stat(name, Fixed::ZERO));
        let shale = b.shield(Shield::new("shale"));
        let tenth = Fixed::ratio(1, 10);
        b.relation_share(Relation::Foe, Fixed::ratio(9, 10));
        b.armour(Armour {
            flat: Some(plates),
            curve: Some((hide, Fixed::whole(50))),
            damage_types: Vec::new(),
        });
        b.limits(1, 500);
        let lit = b.status(
            Status::new("lit")
                .changes_amounts(AmountChange::new(Direction::DealsDamage, Modifier::Add(Fixed::whole(2)))),
        );
        let braced = b.status(Status::new("braced").guard(Guard::new(Fixed::ratio(1, 4), 80.0)));
        let cracked = b.status(Status::new("cracked").changes_amounts(AmountChange::new(
            Direction::TakesDamage,
            Modifier::AddShare(Fixed::ratio(1, 5)),
        )));
        let draw = |of, stat, adds, shares| Scaling { of, stat, adds, shares, damage_type: None };
        let maul = b.attack(
            Attack::melee("maul")
                .timeline(0, 2, 2)
                .damage(crush, 20, 40)
                .scaling(draw(Role::Attacker, might, Fixed::ratio(1, 2), Fixed::ZERO))
                .scaling(draw(Role::Target, ward, Fixed::ZERO, Fixed::ZERO - tenth))
                .critical(Critical::new(Fixed::ratio(1, 4), Fixed::ratio(3, 2)))
                .fall_off(FallOff { near: Fixed::ONE, far: Fixed::whole(5), least: Fixed::ratio(1, 2) })
                .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.4 }),
        );
        let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
        let mason = b.template(
            Template::new("mason", masons, 60)
                .stat(might, Fixed::whole(12))
                .changes_amounts(AmountChange::new(Direction::DealsDamage, Modifier::AddShare(tenth)))
                .part(trunk.clone()),
        );
        let cairn = b.template(
            Template::new("cairn", beasts, 1_000_000)
                .stat(ward, Fixed::whole(2))
                .stat(plates, Fixed::whole(3))
                .stat(hide, Fixed::whole(20))
                .resistance(crush, Fixed::ratio(1, 4))
                .shield(shale, 5)
                .part(trunk.multiplier(Fixed::ratio(3, 2))),
        );
        let rules = b.build().expect("the ruleset of the bench is sound");
        let mut fight = Encounter::new(&rules, 7);
        let odo = fight.orders().spawn(mason, Pose::IDENTITY);
        let stone = fight.orders().spawn(cairn, Pose::at([0.0, 0.0, 2.0]).facing(Axis::Y, 180.0));
        for (who, status) in [(odo, lit), (stone, braced), (stone, cracked)] {
            fight.orders().apply(who, status, None);
        }
        fight.tick().expect("the fight begins");
        AllSteps { fight, odo, stone, maul, hand: ByHand::new() }
    }

    /// So many blows by the library, and as many by hand; gives whether both come to the same.
    pub fn library(&mut self, times: usize, with_ledger: bool) -> i64 {
        self.fight.amounts_again(self.odo, self.maul, self.stone, (times, with_ledger))
    }

    /// The same by hand. The rolls are the same work, not the same numbers: the sums are held against each other over many starts.
    pub fn by_hand(&self, times: usize) -> i64 {
        (0..times).map(|i| self.hand.blow(black_box(i as u64))).sum()
    }
}

impl Default for AllSteps {
    fn default() -> AllSteps {
        AllSteps::new()
    }
}

/// Everything that the blow looks at, where one would keep it: as fields, at hand.
struct ByHand {
    seed: u64,
    keys: [u64; 5],
    low: i64,
    high: i64,
    might: i64,
    ward: i64,
    plates: i64,
    hide: i64,
    attacker: [f32; 3],
    target: [f32; 3],
    forward: [f32; 3],
    shield: i64,
}

const ONE: i64 = 10_000;

fn times(a: i64, b: i64) -> i64 {
    match a.checked_mul(b) {
        Some(product) => (product + if product < 0 { -5_000 } else { 5_000 }) / ONE,
        None => ((i128::from(a) * i128::from(b)) / i128::from(ONE)) as i64,
    }
}

fn mix(value: u64) -> u64 {
    let z = value.wrapping_add(0x9E37_79B9_7F4A_7C15);
    let z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    let z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    z ^ (z >> 31)
}

impl ByHand {
    fn new() -> ByHand {
        ByHand {
            seed: 7,
            keys: [11, 12, 1, 13, 1],
            low: 20,
            high: 40,
            might: 12 * ONE,
            ward: 2 * ONE,
            plates: 3 * ONE,
            hide: 20 * ONE,
            attacker: [0.0; 3],
            target: [0.0, 0.0, 2.0],
            forward: [0.0, 0.0, -1.0],
            shield: 5,
        }
    }

    fn roll(&self, start: u64, purpose: u64, low: i64, high: i64) -> i64 {
        let [attacker, via, _, target, ordinal] = self.keys;
        let parts = [attacker, via, start, target, ordinal, 21, purpose];
        let bits = parts.iter().fold(mix(self.seed), |so_far, &part| mix(so_far ^ mix(part)));
        let span = (high - low + 1) as u128;
        low + ((u128::from(bits) * span) >> 64) as i64
    }

    fn blow(&self, start: u64) -> i64 {
        let mut amount = self.roll(start, 1, self.low, self.high) * ONE;
        amount += times(self.might, 5_000);
        amount = times(amount, ONE + times(self.ward, -1_000));
        if self.roll(start, 2, 0, ONE - 1) < 2_500 {
            amount = times(amount, 15_000);
        }
        amount = times(amount, 15_000);
        amount += 2 * ONE;
        amount += times(amount, 1_000);
        amount = times(amount, 9_000);
        let [x, _, z] = [0, 1, 2].map(|i| self.attacker[i] - self.target[i]);
        let length = (x * x + z * z).sqrt();
        let before = if length > 0.0 { (x * self.forward[0] + z * self.forward[2]) / length } else { 0.0 };
        if before >= 0.173_648 {
            amount = times(amount, 7_500);
        }
        amount = times(amount, 7_500);
        amount = if amount > self.plates { amount - self.plates } else { 0 };
        let half = 50 * ONE;
        amount = times(amount, (half * ONE + (half + self.hide) / 2) / (half + self.hide));
        amount += times(amount, 2_000);
        let [x, y, z] = [0, 1, 2].map(|i| self.target[i] - self.attacker[i]);
        let metres = ((x * x + y * y + z * z).sqrt() * 100.0) as i64 * 100;
        let share = match metres {
            near if near <= ONE => ONE,
            far if far >= 5 * ONE => 5_000,
            between => ONE - times(5_000, (between - ONE) * ONE / (4 * ONE)),
        };
        amount = times(amount, share).clamp(ONE, 500 * ONE);
        let whole = (amount + ONE / 2) / ONE;
        let absorbed = if whole < self.shield { whole } else { self.shield };
        whole - absorbed
    }
}
