//! Whole games: a ruleset, orders, wild ids, hooks that order again, resets, and saves restored at random, under the auditor's eyes.

use hammerstone::audit::Auditor;
use hammerstone::*;

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
        let kinds = [b.kind("crush"), b.kind("heat")];
        let teams = [b.team("masons"), b.team("beasts")];
        let tags = [b.tag("wet"), b.tag("down"), b.tag("stone")];
        let tide = b.reason("tide");
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
            let status = status(bytes, i, &ids, (&kinds, &tags), (might, glass));
            b.status(status);
        }
        let attacks = 1 + bytes.below(4);
        let attacks: Vec<AttackId> =
            (0..attacks).map(|i| b.attack(attack(bytes, (i, attacks), &ids, &kinds, might))).collect();
        let mut casts = Vec::new();
        for i in 0..1 + bytes.below(3) {
            let ball = Shape::Sphere { at: [0.0; 3], radius: 0.3 };
            let mut cast = Cast::new(&format!("c{i}"), teams[i % 2], 1 + i64::from(bytes.byte()));
            cast = cast.part(Part::new("trunk", ball)).tag(tags[bytes.below(3)]);
            cast = cast.threshold(half, Fixed::ratio(1, 2), IfItKills::Fire);
            for _ in 0..bytes.below(4) {
                let upon = bytes.pick(&Upon::ALL).filter(|upon| *upon != Upon::Expiry);
                cast = cast.gift(Gift::new(upon.unwrap_or(Upon::Returns), ids[bytes.below(count)]));
            }
            if bytes.comes(3) {
                cast = cast.lives(Lives::new(1 + bytes.below(3) as u32, bytes.below(4) as u32));
            }
            if bytes.comes(2) {
                cast = cast.lies(bytes.below(5) as u32);
            }
            casts.push(b.cast(cast));
        }
        let waves = Waves::new("w0", casts[0], 1 + bytes.below(3) as u32, 1 + bytes.below(3) as u32);
        let waves = b.waves(waves.at(spot).delay(bytes.below(3) as u32));
        let topics = b.topics();
        for i in 0..bytes.below(6) {
            let on = topics.paths()[bytes.below(topics.paths().len())].clone();
            let group = Whom::Each(Group::team(teams[bytes.below(2)]));
            let whom = match bytes.below(4) {
                0 => Whom::Subject,
                1 => Whom::Other,
                2 => Whom::Followers,
                _ => group,
            };
            let status = ids[bytes.below(count)];
            let credit = bytes.pick(&Credit::ALL).unwrap_or_default();
            let action = match bytes.below(14) {
                0 => Action::Harm(whom, kinds[0], Fixed::whole(7), tide),
                1 => Action::Apply(whom, status, bytes.fixed(), credit),
                2 => Action::Lift(whom, status),
                3 => Action::BringBack(group, spot),
                4 => Action::Count(bell, Count::Add(1)),
                5 => Action::Heal(whom, 5, tide),
                6 => Action::Start(whom, attacks[bytes.below(attacks.len())]),
                7 => Action::Flag(flag, bytes.comes(2)),
                8 => Action::Waves(waves),
                9 => Action::NextRound,
                10 => Action::SendAway(whom),
                11 => Action::Remove(whom),
                12 => Action::Unleash(attacks[bytes.below(attacks.len())], teams[0], spot),
                _ if bytes.comes(8) => Action::Reset,
                _ => Action::Count(bell, Count::Set(0)),
            };
            b.rule(Rule::on(&format!("r{i}"), &on).does_after(bytes.below(3) as u32, action));
        }
        b.cascade_limit(bytes.below(9) as u16, PER_TICK / 3, PER_TICK);
        b.both_land(bytes.comes(2));
        b.build().ok()
    }
}

fn status(
    bytes: &mut Bytes<'_>,
    i: usize,
    ids: &[StatusId],
    (kinds, tags): (&[KindId; 2], &[TagId; 3]),
    (might, glass): (StatId, ShieldId),
) -> Status {
    let mut status = Status::new(&format!("s{i}")).lasts(1 + bytes.below(9) as u32).tag(tags[bytes.below(3)]);
    let has = u16::from(bytes.byte()) << 8 | u16::from(bytes.byte());
    let bit = |n: u16| has >> n & 1 == 1;
    if bit(0) {
        status = status.dooms(kinds[0]);
    }
    if bit(1) {
        let harm = vec![Harm { kind: kinds[1], low: 1, high: 1 + i64::from(bytes.byte()) }];
        let beat = Beat::harm(1 + bytes.below(3) as u32, harm);
        status = status.beat(if bit(2) { beat.at_once() } else { beat });
    }
    if bit(3) {
        let limit = if bit(4) { 1_000_000 } else { 1 };
        status = status.reprieve(Reprieve { leaves: 1, limit, ends: bit(5) });
    }
    if bit(6) {
        status = status.lifts(tags[bytes.below(3)]);
    }
    if bit(7) {
        status = status.reflects(Passing { share: Fixed::ratio(1, 2), kind: None });
    }
    if bit(8) {
        status = status.transfers(Passing { share: Fixed::ratio(1, 3), kind: None });
    }
    if bit(9) {
        status = status.shield(glass, 3);
    }
    if bit(10) {
        status = status.changes(might, By::Raise(Fixed::whole(2)));
    }
    if bit(11) {
        status = status.stuns();
    }
    if bit(12) {
        status = status.across_lives();
    }
    if bit(13) {
        status = status.protects();
    }
    if bit(14) {
        status = status.again(Again::ALL[bytes.below(Again::ALL.len())]);
    }
    for _ in 0..bytes.below(3) {
        let (upon, given) = (bytes.pick(&Upon::ALL).unwrap_or(Upon::Struck), bytes.below(ids.len()));
        // Statuses that give each other by expiring are no ruleset.
        let upon = if upon == Upon::Expiry && given <= i { Upon::Struck } else { upon };
        let mut gift = Gift::new(upon, ids[given]);
        if bytes.comes(3) {
            gift = gift.to_other();
        }
        status = status.gift(gift);
    }
    status
}

fn attack(
    bytes: &mut Bytes<'_>,
    (i, count): (usize, usize),
    ids: &[StatusId],
    kinds: &[KindId; 2],
    might: StatId,
) -> Attack {
    let name = format!("a{i}");
    let ball = Shape::Sphere { at: [0.0, 0.0, 0.4], radius: 0.8 };
    let (gap, window, recovery) = (bytes.below(3) as u32, 1 + bytes.below(5) as u32, bytes.below(3) as u32);
    let mut attack = match bytes.below(5) {
        0 => Attack::thrown(&name, Throw::new(3.0, 1 + bytes.below(9) as u32)).volume(ball),
        1 => Attack::placed(&name).volume(ball),
        2 => Attack::beam(&name, Beam { from: [0.0; 3], reach: 6.0, radius: 0.1, pierce: 1 }),
        3 => Attack::touch(&name),
        _ => Attack::carried(&name).volume(ball),
    };
    attack =
        attack.timeline(gap, window, recovery).harm(kinds[bytes.below(2)], 0, 1 + i64::from(bytes.byte()));
    attack = attack.strikes(Relations::ANY);
    attack = attack.policy(match bytes.below(4) {
        0 => Policy::Once,
        1 => Policy::Window,
        2 => Policy::Rhythm(1 + bytes.below(3) as u32),
        _ => Policy::Life,
    });
    if bytes.comes(2) {
        attack = attack.gives(ids[bytes.below(ids.len())]);
    }
    if bytes.comes(3) {
        attack = attack.aura(ids[bytes.below(ids.len())], Fixed::ONE);
    }
    if bytes.comes(3) {
        attack = attack.bears(0, 2, ids[bytes.below(ids.len())]);
    }
    if bytes.comes(3) {
        attack = attack.child(When::ALL[bytes.below(When::ALL.len())], &format!("a{}", bytes.below(count)));
    }
    if bytes.comes(4) {
        attack = attack.chain(&format!("a{}", bytes.below(count)), bytes.below(4) as u32, 5);
    }
    if bytes.comes(4) {
        attack = attack.draws(Draw {
            of: Party::Attacker,
            stat: might,
            adds: Fixed::ONE,
            shares: Fixed::ZERO,
            kind: None,
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
                let cast = own.find_cast("c0").unwrap_or_else(|| unreachable!());
                let id = orders.spawn(cast, Pose::IDENTITY);
                orders.remove(id);
            }
            _ => {}
        }
    });
    hooks.intercept("asks", 0, |calls: &mut u64, attempt, terms| {
        *calls += 1;
        match attempt.swing.number() % 5 {
            0 => Verdict::Retry("later"),
            1 => Verdict::Deflect,
            2 => {
                terms.cost(Order::NextRound);
                Verdict::Pass
            }
            _ => Verdict::Pass,
        }
    });
    hooks.reprieve("breath", 2, |calls: &mut u64, lethal| {
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
}

/// A whole game.
pub fn game(data: &[u8]) {
    let mut bytes = Bytes(data);
    let Some(rules) = Game::rules(&mut bytes) else { return };
    let hooks = hooks(&rules);
    let answers = hooks.find("answers").expect("it was added");
    let mut encounter = Encounter::new(&rules, u64::from(bytes.byte()));
    let mut auditor = Auditor::new(&rules);
    let mut saved: Option<(Saved, Auditor)> = None;
    let mut known = Known::default();
    if bytes.comes(2) {
        encounter.orders().subscribe(answers, Listen::everything());
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
                let mut other = Encounter::new(&rules, 99);
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
    auditor.take_in(&encounter.facts());
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
    let cast = &rules.casts()[bytes.below(rules.casts().len())];
    let cast = rules.find_cast(cast.name()).expect("a template is found by its name");
    let kind = rules.kinds().next().expect("there is a kind");
    let tide = rules.find_reason("tide").expect("there is a reason");
    let team = rules.teams().next().expect("there is a team");
    let pose = bytes.pose();
    let mut orders = encounter.orders();
    match (bytes.byte() % 28, who, swing) {
        (0..=3, ..) => known.who.push(orders.spawn_as(cast, pose, None, other.filter(|_| bytes.comes(3)))),
        (4, Some(id), _) => _ = orders.give(Order::Spawn { id, cast, team: None, pose, owner: None }),
        (5 | 6, Some(who), _) => known.swings.push(orders.start(who, attack)),
        (7, ..) => known.swings.push(orders.unleash(attack, team, pose)),
        (8, Some(subject), Some(swing)) => {
            _ = orders.give(Order::Start { swing, subject, attack, aim: Some(pose) })
        }
        (9, _, Some(swing)) => _ = orders.cancel(swing),
        (10, _, Some(swing)) => _ = orders.guide(swing, pose),
        (11, Some(who), _) => _ = orders.move_over(who, pose, u32::from(bytes.byte() % 4)),
        (12, Some(who), _) => _ = orders.place(who, pose),
        (13, Some(who), _) => _ = orders.harm(who, kind, bytes.fixed(), tide),
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
            let touch = Touch { point: pose.at, normal: [bytes.number(), 1.0, 0.0] };
            orders.report(swing, target, u16::from(bytes.byte() % 3), touch);
        }
        (23, ..) => {
            let obstacle = Obstacle::Box { pose, half: [bytes.number(), 0.5, 0.5] };
            known.obstacles.push(orders.obstruct(obstacle));
        }
        (24, ..) => {
            if let Some(id) = bytes.pick(&known.obstacles) {
                orders.clear(id);
            }
        }
        (25, Some(who), _) => {
            let stat = rules.find_stat("might").expect("there is a stat");
            orders.change(who, stat, By::Raise(bytes.fixed()), tide);
        }
        (26, Some(who), _) => _ = orders.set_maximum(who, u32::from(bytes.byte()), Keep::Share),
        (27, ..) if bytes.comes(4) => _ = orders.reset(),
        _ => {}
    }
}
