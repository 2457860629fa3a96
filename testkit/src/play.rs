//! Playing a generated fight tick by tick.

use hammerstone::Fixed;
use hammerstone::amount::{Keep, Luck, Modifier};
use hammerstone::attack::Damage;
use hammerstone::event::CombatantJoined;
use hammerstone::event::{Event, HostValue};
use hammerstone::flow::{Count, Group, Healing, Reaction, Rule, Target, Waves};
use hammerstone::geometry::{Axis, Frame, Obstacle};
use hammerstone::ids::ObstacleId;
use hammerstone::orders::{Marker, Touch, Unsubscribe};
use hammerstone::prelude::*;
use hammerstone::status::Pulse;
use hammerstone::template::Lives;

use crate::build::build;
use crate::hooks::{World, hooks};
use crate::sheet::{Fight, Op};

/// What a host knows of the fight that it plays.
#[derive(Default)]
struct Known {
    all: Vec<CombatantId>,
    /// How many parts each of them has.
    parts: Vec<usize>,
    swings: Vec<SwingId>,
    obstacles: Vec<ObstacleId>,
}

/// Plays a fight. `after` sees the encounter after each tick and may change it (to save and restore it).
pub fn play(fight: &Fight, ledgers: bool, after: impl FnMut(&mut Encounter)) -> Encounter {
    play_under(&build(&fight.sheet), fight, |encounter| encounter.keep_ledgers(ledgers), after)
}

/// As [`play`], under a ruleset of one's own, with an encounter that `prepare` has prepared.
pub fn play_under(
    rules: &Ruleset,
    fight: &Fight,
    prepare: impl FnOnce(&mut Encounter),
    mut after: impl FnMut(&mut Encounter),
) -> Encounter {
    play_ticking(rules, fight, prepare, |encounter, hooks, world| {
        encounter.tick_with(hooks, world).expect("nothing ends or interrupts the fight");
        encounter.confirm(hooks, world);
        after(encounter);
    })
}

/// As [`play_under`]; each tick is run by `run`.
pub fn play_ticking(
    rules: &Ruleset,
    fight: &Fight,
    prepare: impl FnOnce(&mut Encounter),
    mut run: impl FnMut(&mut Encounter, &Hooks<World>, &mut World),
) -> Encounter {
    let hooks = hooks();
    let mut world = World::new(rules);
    let mut encounter = Encounter::new(rules, fight.seed);
    prepare(&mut encounter);
    let mut known = Known::default();
    let mut tick = |encounter: &mut Encounter| run(encounter, &hooks, &mut world);
    for op in &fight.ops {
        if let Op::Wait(ticks) = op {
            for _ in 0..*ticks {
                tick(&mut encounter);
            }
        } else if let Op::Preview(who, attack, target) = op {
            preview(&encounter, &known.all, [*who, *target], *attack);
        } else {
            order(rules, encounter.orders(), op, &mut known);
        }
    }
    for _ in 0..40 {
        tick(&mut encounter);
    }
    encounter.orders().end(rules.find_outcome("dawn").unwrap());
    tick(&mut encounter);
    encounter
}

/// A preview changes nothing, and its ledgers join up.
fn preview(encounter: &Encounter, all: &[CombatantId], [who, target]: [usize; 2], attack: usize) {
    let rules = encounter.rules();
    let attack = rules.find_attack(rules.attacks()[attack % rules.attacks().len()].name()).unwrap();
    let (who, target) = (all[who % all.len()], all[target % all.len()]);
    let before = encounter.checksum();
    for luck in [Luck::Next, Luck::Least, Luck::Most] {
        if let Ok(preview) = encounter.preview(who, attack, target, 0, luck) {
            for damage_type in &preview.damage_types {
                let lines = &damage_type.ledger;
                assert!(lines.windows(2).all(|pair| pair[0].after == pair[1].before), "{lines:?}");
                let end = damage_type.amount + damage_type.absorbed;
                assert_eq!(lines.last().map(|line| line.after), Some(Fixed::whole(end)), "{lines:?}");
            }
            assert_eq!(preview.deaths, preview.health.1 == 0);
        }
    }
    assert_eq!(encounter.checksum(), before);
}

/// One of the latest swings, which are the likeliest to run.
fn latest(swings: &[SwingId], i: usize) -> SwingId {
    swings[swings.len() - 1 - i % swings.len().min(4)]
}

/// So many poses around a place, each turned otherwise.
fn poses([x, y, z]: [f32; 3], count: usize) -> Vec<Pose> {
    let one = |number: usize| {
        let aside = 0.3 * number as f32;
        Pose::at([x * 0.4 + aside, y + 0.4, z * 0.4]).turned([0.3, 1.0, 0.0], x * 40.0 + aside * 100.0)
    };
    (0..count).map(one).collect()
}

fn order(rules: &Ruleset, mut orders: Orders<'_>, op: &Op, known: &mut Known) {
    let Known { all, parts, swings, obstacles } = known;
    let who = |i: usize| all[i % all.len()];
    let template =
        |i: usize| rules.find_template(&format!("cast {}", i % (rules.templates().len() - 1))).unwrap();
    let attack = |i: usize| rules.find_attack(rules.attacks()[i % rules.attacks().len()].name()).unwrap();
    let burn = rules.find_status("burn").unwrap();
    let tide = rules.find_reason("tide").unwrap();
    match *op {
        Op::Spawn(c, at, owner) => {
            let owner = owner.filter(|_| !all.is_empty()).map(who);
            let id = orders.spawn_as(template(c), Pose::at(at), None, owner);
            all.push(id);
            parts.push(rules.templates()[template(c).index()].parts().len());
        }
        Op::Move(w, at, ticks) => {
            orders.move_over(who(w), Pose::at(at).facing(Axis::Y, at[0] * 90.0), ticks);
        }
        Op::Teleport(w, at) => {
            orders.teleport(who(w), Pose::at(at));
        }
        Op::Start(w, a) => swings.push(orders.start(who(w), attack(a))),
        Op::Cancel(s) if !swings.is_empty() => {
            orders.cancel(swings[s % swings.len()]);
        }
        Op::Report(s, w, part) if !swings.is_empty() => {
            orders.report(latest(swings, s), who(w), part, Touch::new([0.0; 3], [0.0, 2.0, 0.0]));
        }
        Op::Damage(w, amount) => {
            orders.damage(who(w), rules.find_damage_type("crush").unwrap(), Fixed::whole(amount), tide);
        }
        Op::Heal(w, points) => {
            orders.heal(who(w), points, tide);
        }
        Op::Apply(w, by) => {
            orders.apply(who(w), burn, by.map(who));
        }
        Op::Lift(w) => {
            orders.lift(who(w), burn);
        }
        Op::SendAway(w) => {
            orders.send_away(who(w));
        }
        Op::Return(w, at) => {
            orders.bring_back(who(w), Pose::at(at));
        }
        Op::Remove(w) => {
            orders.remove(who(w));
        }
        Op::Listen(h, w) => {
            let topics = rules.topics();
            let listen = match h {
                0 => Listen::to(topic::HIT_LANDED).about(who(w)),
                1 => Listen::under(topics.family("health").unwrap()).priority(w as i16 - 6),
                2 => Listen::to(topic::COMBATANT_DIED).owned_by(who(w)),
                3 => Listen::all().once(),
                4 => Listen::all().of_team(rules.teams().next().unwrap()).keyed(w as u32),
                5 => Listen::under(topics.family("status").unwrap())
                    .tagged(rules.find_tag("wet").unwrap())
                    .stays(),
                _ => Listen::to(topic::COMBATANT_DIED).once(),
            };
            let names = [
                "answer blows",
                "answer harm",
                "answer falls",
                "answer anything",
                "watch anything",
                "answer anything",
                "watch anything",
            ];
            let hook = hooks().find(names[h]).unwrap();
            orders.subscribe(hook, listen);
        }
        Op::StartAt(w, a, at) => swings.push(orders.start_at(who(w), attack(a), Pose::at(at))),
        Op::SpawnAttack(a, at) => {
            let team = rules.teams().next().unwrap();
            swings.push(orders.spawn_attack(attack(a), team, Pose::at(at)));
        }
        Op::Mark(s, marker) if !swings.is_empty() => {
            let marker = [Marker::Open, Marker::Close, Marker::End][usize::from(marker)];
            orders.marker(latest(swings, s), marker);
        }
        Op::Release(s) if !swings.is_empty() => {
            orders.release(latest(swings, s));
        }
        Op::Guide(s, at) if !swings.is_empty() => {
            orders.guide(latest(swings, s), Pose::at(at).facing(Axis::Y, at[2] * 50.0));
        }
        Op::AddObstacle(sort, at) => {
            let id = orders.add_obstacle(match sort {
                0 => Obstacle::Sphere { at, radius: 0.5 },
                1 => Obstacle::Box { pose: Pose::at(at).facing(Axis::Y, 30.0), half: [0.5, 1.0, 0.1] },
                _ => Obstacle::HalfSpace { at: [0.0, -0.1, 0.0], normal: [0.0, 1.0, at[0] * 0.1] },
            });
            obstacles.push(id);
        }
        Op::RemoveObstacle(o) if !obstacles.is_empty() => {
            orders.remove_obstacle(obstacles[o % obstacles.len()]);
        }
        Op::MoveObstacle(o, at, ticks) if !obstacles.is_empty() => {
            let (id, pose) = (obstacles[o % obstacles.len()], Pose::at(at).facing(Axis::Y, at[2] * 20.0));
            match ticks {
                0 => orders.place_obstacle(id, pose),
                ticks => orders.move_obstacle_over(id, pose, ticks),
            };
        }
        Op::Pose(w, at, number) => {
            // Mostly one for each part, now and then another number of them.
            let count = if number % 16 == 15 { 2 } else { parts[w % parts.len()] };
            let frame = if number % 3 == 0 { Frame::World } else { Frame::Body };
            orders.pose_parts(who(w), frame, &poses(at, count));
        }
        Op::GuideEach(s, at, number) if !swings.is_empty() => {
            let frame = if number % 3 == 0 { Frame::World } else { Frame::Body };
            orders.guide_hitboxes(latest(swings, s), frame, &poses(at, usize::from(number % 4)));
        }
        Op::ShowPart(w, part, shown) => {
            orders.show_part(who(w), part, shown);
        }
        Op::Resize(w, size) => {
            orders.resize(who(w), Fixed::raw(size));
        }
        Op::Protect(w, stun) => {
            let status = rules.find_status(if stun { "stun" } else { "shield" }).unwrap();
            orders.apply(who(w), status, None);
        }
        Op::Give(w, s, by, strength) => {
            let status = rules.find_status(&format!("status {}", s % (rules.statuses().len() - 3))).unwrap();
            orders.apply_at(who(w), status, by.map(who), Fixed::raw(strength));
        }
        Op::LiftFamily(w) => {
            orders.lift_family(who(w), rules.find_tag("fire").unwrap());
        }
        Op::Change(w, c, value) => {
            let stat = rules.stats().nth(usize::from(c) % 4).unwrap();
            let value = Fixed::raw(value);
            let by = [
                Modifier::Add(value),
                Modifier::AddShare(value),
                Modifier::Multiply(value),
                Modifier::Set(value),
            ][usize::from(c) / 4];
            orders.change(who(w), stat, by, tide);
        }
        Op::Unchange(w, c) => {
            orders.unchange(who(w), rules.stats().nth(usize::from(c) % 4).unwrap(), tide);
        }
        Op::SetMaximum(w, points, share) => {
            orders.set_maximum(who(w), points, if share { Keep::Share } else { Keep::Points });
        }
        Op::RaiseShield(w, points) => {
            orders.raise_shield(who(w), rules.find_shield("glass").unwrap(), points);
        }
        Op::Flow(sort, w, other) => {
            let line = rules.find_line("The tide is in.").unwrap();
            let signal = rules.find_host_topic("host.signal").unwrap();
            match sort % 11 {
                // Now and then, so that most fights are long.
                0 if sort == 11 => orders.reset(),
                0 => orders.set_flag(rules.find_flag("sluice").unwrap(), w % 2 == 0),
                1 => orders.count(rules.find_counter("falls").unwrap(), Count::Set(w as i64)),
                2 => orders.score(rules.find_score("tally").unwrap(), 1, Some(who(w))),
                3 => orders.start_waves(rules.find_waves("stragglers").unwrap()),
                4 => orders.next_round(),
                5 => orders.say(line, Some(who(w))),
                6 | 7 => orders.follow(who(w), Some(who(other))),
                8 => orders.attach(who(w), rules.find_value("bounty").unwrap(), other as i64),
                9 => orders.publish(signal, &[HostValue::Who(who(w)), HostValue::Exact(Fixed::ONE)]),
                _ => {
                    let hook = hooks().find("answer anything").unwrap();
                    orders.unsubscribe(if other % 2 == 0 {
                        Unsubscribe::Hook(hook)
                    } else {
                        Unsubscribe::Owner(who(w))
                    })
                }
            };
        }
        Op::Preview(..) => {}
        Op::Cancel(_) | Op::Report(..) | Op::Wait(_) => {}
        Op::Mark(..)
        | Op::Release(_)
        | Op::Guide(..)
        | Op::GuideEach(..)
        | Op::RemoveObstacle(_)
        | Op::MoveObstacle(..) => {}
    }
}

/// A fight that fills everything: swings, statuses, waves, followers, subscriptions, delayed reactions.
pub fn busy() -> (Ruleset, Hooks<u64>, Encounter) {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    b.reason("tide");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ramp = b.spot("ramp", Pose::at([0.0, 0.0, 1.0]));
    let line = b.line("Again.");
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let hound = b.template(Template::new("hound", beasts, 6).corpse_time(5).part(trunk.clone()));
    let mason = b.template(Template::new("mason", masons, 40).lives(Lives::new(2, 5)).part(trunk));
    let burn = b.status(
        Status::new("burn")
            .lasts(30)
            .pulse(Pulse::damage(5, vec![Damage { damage_type: crush, low: 1, high: 2 }])),
    );
    b.attack(
        Attack::melee("maul")
            .timeline(1, 4, 2)
            .damage(crush, 3, 5)
            .inflicts(burn)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.6 }),
    );
    let waves = b.waves(Waves::new("hounds", hound, 2, 4).at(ramp).apart([0.2, 0.0, 0.0]));
    b.rule(
        Rule::on("again", "combatant.died")
            .does_after(3, Reaction::say(None, line))
            .does(Reaction::Heal(Target::Each(Group::team(masons)), Healing::of(Fixed::ONE))),
    );
    let rules = b.build().unwrap();
    let mut hooks = Hooks::<u64>::new();
    let answers = hooks.react("answers", |calls, heard, orders| {
        *calls += 1;
        if let Event::CombatantJoined(CombatantJoined { subject, .. }) = *heard.event {
            let own = Listen::all().about(subject).owned_by(subject);
            orders.subscribe(heard.view.subscriptions().next().unwrap().1, own);
        }
    });
    let mut fight = Encounter::new(&rules, 7);
    fight.orders().subscribe(answers, Listen::to(topic::COMBATANT_JOINED));
    fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().start_waves(waves);
    (rules, hooks, fight)
}
