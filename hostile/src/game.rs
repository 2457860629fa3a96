//! Whole games: a ruleset, orders, wild ids, hooks that order again, resets, and saves restored at random, under the auditor's eyes.

use hammerstone::amount::{Keep, Modifier, Role, Shield};
use hammerstone::attack::{Beam, Damage, Projectile, Scaling, When};
use hammerstone::audit::Auditor;
use hammerstone::flow::{Count, Credit, Dealing, Group, Healing, Reaction, Rule, Target, Waves};
use hammerstone::geometry::{Axis, Frame, Obstacle};
use hammerstone::hooks::Verdict;
use hammerstone::ids::{ObstacleId, OrderId, ShieldId, StatId, TagId};
use hammerstone::level::{HeightField, Level};
use hammerstone::orders::{Poses, Touch};
use hammerstone::prelude::*;
use hammerstone::status::{Grant, PreventsDeath, Pulse, SharedDamage, Stacking, Trigger};
use hammerstone::team::Relations;
use hammerstone::template::{IfItKills, Lives};
use hammerstone::{Fixed, Saved};

use crate::bytes::Bytes;

/// So many reactions may follow in a tick of these games.
const PER_TICK: u32 = 300;
/// No tick of them publishes more facts.
const MOST_FACTS: usize = 40_000;

/// The parts of a ruleset by their names, in the order in which they are made.
pub(crate) struct Game;

impl Game {
    /// A ruleset out of bytes; none if these make no sound one.
    pub(crate) fn rules(bytes: &mut Bytes<'_>) -> Option<Ruleset> {
        let mut b = Ruleset::builder(10);
        let damage_types = [b.damage_type("crush"), b.damage_type("heat")];
        let teams = [b.team("masons"), b.team("beasts")];
        let tags = [b.tag("wet"), b.tag("down"), b.tag("stone")];
        b.reason("tide");
        b.outcome("dawn");
        let bell = b.counter("bell");
        let flag = b.flag("open");
        let might = b.stat("might", Fixed::ZERO);
        let glass = b.shield(Shield::new("glass"));
        let half = b.threshold("half");
        let spot = b.spot("ramp", Pose::at([0.5, 0.0, 0.5]));
        let count = 1 + bytes.below(5);
        let ids: Vec<StatusId> = (0..count).map(|i| b.promise_status(&format!("s{i}"))).collect();
        for i in 0..count {
            let status = status(bytes, i, &ids, (&damage_types, &tags), (might, glass));
            b.status(status);
        }
        let attacks = 1 + bytes.below(4);
        let attacks: Vec<AttackId> =
            (0..attacks).map(|i| b.attack(attack(bytes, (i, attacks), &ids, &damage_types, might))).collect();
        let mut templates = Vec::new();
        for i in 0..1 + bytes.below(3) {
            let ball = Shape::Sphere { at: [0.0; 3], radius: 0.3 };
            let mut template = Template::new(&format!("c{i}"), teams[i % 2], 1 + i64::from(bytes.byte()));
            template = template.part(Part::new("trunk", ball)).tag(tags[bytes.below(3)]);
            if i % 2 == 1 {
                template = template.part(Part::new("arm", ball)).posed(6.0);
            }
            template = template.threshold(half, Fixed::ratio(1, 2), IfItKills::Fire);
            for _ in 0..bytes.below(4) {
                let on = bytes.pick(&Trigger::ALL).filter(|on| *on != Trigger::Expiry);
                template =
                    template.grant(Grant::new(on.unwrap_or(Trigger::Returns), ids[bytes.below(count)]));
            }
            if bytes.comes(3) {
                template = template.lives(Lives::new(1 + bytes.below(3) as u32, bytes.below(4) as u32));
            }
            if bytes.comes(2) {
                template = template.corpse_time(bytes.below(5) as u32);
            }
            templates.push(b.template(template));
        }
        let waves = Waves::new("w0", templates[0], 1 + bytes.below(3) as u32, 1 + bytes.below(3) as u32);
        let waves = b.waves(waves.at(spot).delay(bytes.below(3) as u32));
        let topics = b.topics();
        for i in 0..bytes.below(6) {
            let on = topics.paths()[bytes.below(topics.paths().len())].clone();
            let group = Target::Each(Group::team(teams[bytes.below(2)]));
            let whom = match bytes.below(4) {
                0 => Target::Subject,
                1 => Target::Other,
                2 => Target::Followers,
                _ => group,
            };
            let status = ids[bytes.below(count)];
            let credit = bytes.pick(&Credit::ALL).unwrap_or_default();
            let action = match bytes.below(14) {
                0 => Reaction::Damage(whom, Dealing::of(damage_types[0], Fixed::whole(7)).by(credit)),
                1 => Reaction::Apply(whom, status, bytes.fixed(), credit),
                2 => Reaction::Lift(whom, status),
                3 => Reaction::BringBack(group, spot),
                4 => Reaction::Count(bell, Count::Add(1)),
                5 => Reaction::Heal(whom, Healing::of(Fixed::whole(5)).by(credit)),
                6 => Reaction::Start(whom, attacks[bytes.below(attacks.len())]),
                7 => Reaction::Flag(flag, bytes.comes(2)),
                8 => Reaction::Waves(waves),
                9 => Reaction::NextRound,
                10 => Reaction::SendAway(whom),
                11 => Reaction::Remove(whom),
                12 => Reaction::SpawnAttack(attacks[bytes.below(attacks.len())], teams[0], spot, credit),
                _ if bytes.comes(8) => Reaction::Reset,
                _ => Reaction::Count(bell, Count::Set(0)),
            };
            b.rule(Rule::on(&format!("r{i}"), &on).does_after(bytes.below(3) as u32, action));
        }
        b.cascade_limit(bytes.below(9) as u16, PER_TICK / 3, PER_TICK);
        b.both_land(bytes.comes(2)).rewind(u32::from(bytes.byte()) % 8);
        b.build().ok()
    }
}

fn status(
    bytes: &mut Bytes<'_>,
    i: usize,
    ids: &[StatusId],
    (damage_types, tags): (&[DamageTypeId; 2], &[TagId; 3]),
    (might, glass): (StatId, ShieldId),
) -> Status {
    let mut status = Status::new(&format!("s{i}")).lasts(1 + bytes.below(9) as u32).tag(tags[bytes.below(3)]);
    let has = u16::from(bytes.byte()) << 8 | u16::from(bytes.byte());
    let bit = |n: u16| has >> n & 1 == 1;
    if bit(0) {
        status = status.kills_on_expiry(damage_types[0]);
    }
    if bit(1) {
        let damage = vec![Damage { damage_type: damage_types[1], low: 1, high: 1 + i64::from(bytes.byte()) }];
        let pulse = Pulse::damage(1 + bytes.below(3) as u32, damage);
        status = status.pulse(if bit(2) { pulse.at_once() } else { pulse });
    }
    if bit(3) {
        let limit = if bit(4) { 1_000_000 } else { 1 };
        status = status.prevents_death(PreventsDeath { leaves: 1, limit, ends: bit(5) });
    }
    if bit(6) {
        status = status.lifts(tags[bytes.below(3)]);
    }
    if bit(7) {
        status =
            status.reflects(SharedDamage { share: Fixed::ratio(1, 2), damage_type: None, linked: false });
    }
    if bit(8) {
        status =
            status.transfers(SharedDamage { share: Fixed::ratio(1, 3), damage_type: None, linked: false });
    }
    if bit(9) {
        status = status.shield(glass, 3);
    }
    if bit(10) {
        status = status.changes(might, Modifier::Add(Fixed::whole(2)));
    }
    if bit(11) {
        status = status.stuns();
    }
    if bit(12) {
        status = status.across_lives();
    }
    if bit(13) {
        status = status.invulnerable();
    }
    if bit(14) {
        status = status.stacking(Stacking::ALL[bytes.below(Stacking::ALL.len())]);
    }
    for _ in 0..bytes.below(3) {
        let (on, given) = (bytes.pick(&Trigger::ALL).unwrap_or(Trigger::Struck), bytes.below(ids.len()));
        // Statuses that give each other by expiring are no ruleset.
        let on = if on == Trigger::Expiry && given <= i { Trigger::Struck } else { on };
        let mut grant = Grant::new(on, ids[given]);
        if bytes.comes(3) {
            grant = grant.to_other();
        }
        status = status.grant(grant);
    }
    status
}

fn attack(
    bytes: &mut Bytes<'_>,
    (i, count): (usize, usize),
    ids: &[StatusId],
    damage_types: &[DamageTypeId; 2],
    might: StatId,
) -> Attack {
    let name = format!("a{i}");
    let ball = Shape::Sphere { at: [0.0, 0.0, 0.4], radius: 0.8 };
    let (gap, window, recovery) = (bytes.below(3) as u32, 1 + bytes.below(5) as u32, bytes.below(3) as u32);
    let mut attack = match bytes.below(6) {
        0 => Attack::projectile(&name, Projectile::new(3.0, 1 + bytes.below(9) as u32)).hitbox(ball),
        1 => Attack::area(&name).hitbox(ball),
        2 => Attack::beam(&name, Beam { from: [0.0; 3], reach: 6.0, radius: 0.1, pierce: 1 }),
        3 => Attack::touch(&name),
        4 => Attack::melee(&name).guided().hitbox(ball).hitbox(ball),
        _ => Attack::melee(&name).hitbox(ball),
    };
    attack = attack.timeline(gap, window, recovery).damage(
        damage_types[bytes.below(2)],
        0,
        1 + i64::from(bytes.byte()),
    );
    attack = attack.strikes(Relations::ANY);
    attack = attack.policy(match bytes.below(4) {
        0 => Policy::Once,
        1 => Policy::Window,
        2 => Policy::Interval(1 + bytes.below(3) as u32),
        _ => Policy::Life,
    });
    if bytes.comes(2) {
        attack = attack.inflicts(ids[bytes.below(ids.len())]);
    }
    if bytes.comes(3) {
        attack = attack.aura(ids[bytes.below(ids.len())], Fixed::ONE);
    }
    if bytes.comes(3) {
        attack = attack.self_status(0, 2, ids[bytes.below(ids.len())]);
    }
    if bytes.comes(3) {
        attack = attack.child(When::ALL[bytes.below(When::ALL.len())], &format!("a{}", bytes.below(count)));
    }
    if bytes.comes(4) {
        attack = attack.chain(&format!("a{}", bytes.below(count)), bytes.below(4) as u32, 5);
    }
    if bytes.comes(4) {
        attack = attack.scaling(Scaling {
            of: Role::Attacker,
            stat: might,
            adds: Fixed::ONE,
            shares: Fixed::ZERO,
            damage_type: None,
        });
    }
    attack
}

/// Hooks that answer what they hear with orders, as the fact's number says.
pub(crate) fn hooks(rules: &Ruleset) -> Hooks<u64> {
    let mut hooks = Hooks::new();
    let own = rules.clone();
    hooks.react("answers", move |calls: &mut u64, heard, orders| {
        *calls += 1;
        let subject = heard.event.subject();
        let status = own.find_status("s0");
        match (heard.fact.seq % 7, subject, status) {
            (0, ..) => _ = orders.next_round(),
            (1, Some(who), Some(status)) => _ = orders.apply(who, status, heard.event.other()),
            (2, Some(who), _) => _ = orders.bring_back(who, Pose::IDENTITY),
            (3, Some(who), _) => {
                _ = orders.start(who, own.find_attack("a0").unwrap_or_else(|| unreachable!()))
            }
            (4, ..) => {
                let template = own.find_template("c0").unwrap_or_else(|| unreachable!());
                let id = orders.spawn(template, Pose::IDENTITY);
                orders.remove(id);
            }
            _ => {}
        }
    });
    let later = rules.find_reason("tide").unwrap_or_else(|| unreachable!());
    hooks.intercept("asks", 0, move |calls: &mut u64, attempt, terms| {
        *calls += 1;
        match attempt.swing.number() % 5 {
            0 => Verdict::Retry(later),
            1 => Verdict::Deflect,
            2 => {
                terms.cost(Order::NextRound);
                Verdict::Proceed
            }
            _ => Verdict::Proceed,
        }
    });
    hooks.prevent_death("breath", 2, |calls: &mut u64, lethal| {
        *calls += 1;
        (lethal.amount % 3 == 0).then_some(1)
    });
    hooks
}

/// Ids that the host has met.
#[derive(Default)]
struct Known {
    who: Vec<CombatantId>,
    swings: Vec<SwingId>,
    obstacles: Vec<ObstacleId>,
    /// Poses that were handed over; in later ticks they are gone.
    poses: Vec<Poses>,
}

/// A level of a few shapes, some of which are none.
fn level(bytes: &mut Bytes<'_>) -> Level {
    let mut b = Level::builder();
    for _ in 0..bytes.byte() % 4 {
        let pose = bytes.pose();
        match bytes.byte() % 4 {
            0 => _ = b.solid(Obstacle::Box { pose, half: [bytes.number(), 0.5, 0.5] }),
            1 => _ = b.solid(Obstacle::HalfSpace { at: pose.at, normal: [0.0, bytes.number(), 0.1] }),
            2 => {
                let points: Vec<[f32; 3]> = (0..4).map(|_| bytes.pose().at).collect();
                b.mesh(&points, &[[0, 1, 2], [1, 2, u32::from(bytes.byte() % 5)]]);
            }
            _ => {
                let heights = (0..6).map(|_| bytes.number()).collect();
                let (corner, step) = (pose.at, bytes.number());
                b.height_field(HeightField { corner, up: Axis::Y, step, columns: 3, heights });
            }
        }
    }
    b.build().unwrap_or_default()
}

/// A whole game.
pub fn game(data: &[u8]) {
    let mut bytes = Bytes(data);
    let Some(rules) = Game::rules(&mut bytes) else { return };
    let hooks = hooks(&rules);
    let answers = hooks.find("answers").expect("it was added");
    let level = level(&mut bytes);
    let mut encounter = Encounter::in_level(&rules, &level, u64::from(bytes.byte()));
    let mut auditor = Auditor::new(&rules);
    let mut saved: Option<(Saved, Auditor)> = None;
    let mut known = Known::default();
    if bytes.comes(2) {
        encounter.orders().subscribe(answers, Listen::all());
    }
    let mut ticks = 0;
    while !bytes.is_over() && ticks < 80 {
        match bytes.byte() % 32 {
            0..=7 => {
                ticks += 1;
                if tick(&mut encounter, &hooks, &mut auditor).is_err() {
                    return;
                }
            }
            8 => saved = Some((encounter.save().expect("a whole tick can be saved"), auditor.clone())),
            9 => {
                if let Some((state, then)) = &saved {
                    encounter.restore(state).expect("what was saved here is sound");
                    auditor = then.clone();
                }
            }
            10 => {
                let text = serde_json::to_string(&encounter.save().expect("a whole tick can be saved"));
                let read: Saved = serde_json::from_str(&text.expect("a state can be written"))
                    .expect("what was written is read");
                let mut other = Encounter::in_level(&rules, &level, 99);
                other.restore(&read).expect("what an encounter wrote is sound");
                assert!(other.same_state(&encounter));
            }
            11 => encounter.drop_orders(),
            12 => {
                let pending: Vec<OrderId> = encounter.pending_orders().map(|(id, _)| id).collect();
                if let Some(id) = bytes.pick(&pending) {
                    assert!(encounter.drop_order(id).is_some());
                }
            }
            _ if encounter.pending_orders().len() < 40 => {
                order(&mut encounter, &rules, &mut bytes, &mut known)
            }
            _ => {}
        }
    }
    for _ in 0..12 {
        if tick(&mut encounter, &hooks, &mut auditor).is_err() {
            return;
        }
    }
}

fn tick(encounter: &mut Encounter, hooks: &Hooks<u64>, auditor: &mut Auditor) -> Result<(), TickError> {
    let crowded = encounter.view().combatants().count() > 400;
    let summary = encounter.tick_with(hooks, &mut 0)?;
    assert!(crowded || summary.facts < MOST_FACTS, "{} facts in a tick", summary.facts);
    auditor.observe(&encounter.facts());
    if !summary.reset {
        auditor.compare(&encounter.view());
    }
    assert!(auditor.breaches().is_empty(), "{:?}", auditor.breaches().first());
    Ok(())
}

fn order(encounter: &mut Encounter, rules: &Ruleset, bytes: &mut Bytes<'_>, known: &mut Known) {
    let who = bytes.pick(&known.who);
    let other = bytes.pick(&known.who);
    let swing = bytes.pick(&known.swings);
    let attack = &rules.attacks()[bytes.below(rules.attacks().len())];
    let attack = rules.find_attack(attack.name()).expect("an attack is found by its name");
    let status = &rules.statuses()[bytes.below(rules.statuses().len())];
    let status = rules.find_status(status.name()).expect("a status is found by its name");
    let template = &rules.templates()[bytes.below(rules.templates().len())];
    let template = rules.find_template(template.name()).expect("a template is found by its name");
    let damage_type = rules.damage_types().next().expect("there is a kind");
    let tide = rules.find_reason("tide").expect("there is a reason");
    let team = rules.teams().next().expect("there is a team");
    let pose = bytes.pose();
    let mut orders = encounter.orders();
    match (bytes.byte() % 37, who, swing) {
        (36, _, Some(swing)) => _ = orders.rewind(swing, u16::from(bytes.byte()) % 10),
        (0..=3, ..) => {
            known.who.push(orders.spawn_as(template, pose, None, other.filter(|_| bytes.comes(3))))
        }
        (4, Some(id), _) => {
            let (team, owner, key) = (None, None, pose.at[0].to_bits().into());
            _ = orders.give(match bytes.comes(2) {
                true => Order::Spawn { id, template, team, pose, owner },
                false => Order::SpawnKeyed { id, template, team, pose, owner, key },
            });
        }
        (5 | 6, Some(who), _) => known.swings.push(orders.start(who, attack)),
        (7, ..) => known.swings.push(orders.spawn_attack(attack, team, pose)),
        (8, Some(subject), Some(swing)) => {
            _ = orders.give(Order::Start { swing, subject, attack, aim: Some(pose) })
        }
        (9, _, Some(swing)) => _ = orders.cancel(swing),
        (10, _, Some(swing)) => _ = orders.guide(swing, pose),
        (11, Some(who), _) => _ = orders.move_over(who, pose, u32::from(bytes.byte() % 4)),
        (12, Some(who), _) => _ = orders.teleport(who, pose),
        (13, Some(who), _) => _ = orders.damage(who, damage_type, bytes.fixed(), tide),
        (14, Some(who), _) => _ = orders.heal(who, u32::from(bytes.byte()), tide),
        (15, Some(who), _) => _ = orders.apply_at(who, status, other, bytes.fixed()),
        (16, Some(who), _) => _ = orders.lift(who, status),
        (17, Some(who), _) => {
            let tag = rules.find_tag("down").expect("there is a tag");
            orders.lift_family(who, tag);
        }
        (18, Some(who), _) => _ = orders.send_away(who),
        (19, Some(who), _) => _ = orders.bring_back_with(who, pose, bytes.fixed()),
        (20, Some(who), _) => _ = orders.remove(who),
        (21, Some(who), _) => _ = orders.follow(who, other),
        (22, Some(target), Some(swing)) => {
            let touch = Touch::new(pose.at, [bytes.number(), 1.0, 0.0]).at(bytes.number());
            let touch = touch.by(u16::from(bytes.byte() % 4)).of_body(u16::from(bytes.byte() % 4));
            orders.report(swing, target, u16::from(bytes.byte() % 3), touch);
        }
        (23, ..) => {
            let obstacle = Obstacle::Box { pose, half: [bytes.number(), 0.5, 0.5] };
            known.obstacles.push(orders.add_obstacle(obstacle));
        }
        (24, ..) => {
            if let Some(id) = bytes.pick(&known.obstacles) {
                orders.remove_obstacle(id);
            }
        }
        (33 | 34, Some(who), _) if known.obstacles.is_empty() => _ = orders.resize(who, bytes.fixed()),
        (33 | 34, ..) => {
            if let Some(id) = bytes.pick(&known.obstacles) {
                match bytes.byte() % 3 {
                    0 => orders.place_obstacle(id, pose),
                    ticks => orders.move_obstacle_over(id, pose, u32::from(ticks)),
                };
            }
        }
        (35, Some(who), None) => _ = orders.show_part(who, u16::from(bytes.byte() % 4), bytes.comes(2)),
        (35, _, Some(swing)) => {
            let touch = Touch::new(pose.at, [bytes.number(), 1.0, 0.0]).at(bytes.number());
            orders.stop_body(swing, u16::from(bytes.byte() % 4), touch);
        }
        (25, Some(who), _) => {
            let stat = rules.find_stat("might").expect("there is a stat");
            orders.change(who, stat, Modifier::Add(bytes.fixed()), tide);
        }
        (26, Some(who), _) => _ = orders.set_maximum(who, u32::from(bytes.byte()), Keep::Share),
        (27, ..) if bytes.comes(4) => _ = orders.reset(),
        (28, Some(who), _) => {
            let poses: Vec<Pose> = (0..bytes.byte() % 4).map(|_| bytes.pose()).collect();
            orders.pose_parts(who, frame(bytes), &poses);
        }
        (29, _, Some(swing)) => {
            let poses: Vec<Pose> = (0..bytes.byte() % 4).map(|_| bytes.pose()).collect();
            orders.guide_hitboxes(swing, frame(bytes), &poses);
        }
        (30, Some(subject), _) => {
            known.poses.push(orders.poses(&[pose, pose]));
            // Also those of other ticks, and the same for several orders.
            if let Some(poses) = bytes.pick(&known.poses) {
                orders.give(Order::PoseParts { subject, frame: Frame::Body, poses });
            }
        }
        (31, _, Some(swing)) => {
            if let Some(poses) = bytes.pick(&known.poses) {
                orders.give(Order::GuideHitboxes { swing, frame: Frame::World, poses });
            }
        }
        (32, Some(who), _) => _ = orders.label(who, u64::from(bytes.byte())),
        _ => {}
    }
}

fn frame(bytes: &mut Bytes<'_>) -> Frame {
    if bytes.comes(2) { Frame::World } else { Frame::Body }
}
