//! Generated fights: rulesets, orders and hooks from a few small numbers, so that what fails shrinks well.

#![allow(dead_code)]

use hammerstone::*;
use proptest::collection::vec;
use proptest::prelude::*;

/// So many cases, or as many as the environment's `HAMMERSTONE_CASES` says.
pub(crate) fn cases(usual: u32) -> ProptestConfig {
    let cases = std::env::var("HAMMERSTONE_CASES").ok().and_then(|text| text.parse().ok()).unwrap_or(usual);
    ProptestConfig { cases, failure_persistence: None, ..ProptestConfig::default() }
}

/// A ruleset in small numbers.
#[derive(Clone, Debug)]
pub(crate) struct Sheet {
    attacks: Vec<AttackSheet>,
    casts: Vec<CastSheet>,
    beat: (u32, u32, bool, i64),
    steps: Vec<Step>,
    limits: (i64, i64),
    rounding: Rounding,
    cascade: (u16, u32),
    both_land: bool,
}

#[derive(Clone, Debug)]
struct AttackSheet {
    timeline: (u32, u32, u32),
    again: Option<(u32, u32)>,
    harm: (i64, i64),
    reach: f32,
    turn: f32,
    both_layers: bool,
    strikes_all: bool,
    gives: bool,
    traits: Traits,
}

/// What an attack may be beside the ordinary, each from a small number.
#[derive(Clone, Debug)]
struct Traits {
    form: u8,
    policy: u8,
    sharing: u8,
    prefer: u8,
    most: u8,
    pierce: u16,
    pellets: u16,
    direction: u8,
    timing: u8,
    child: u8,
    flags: u16,
}

fn traits() -> impl Strategy<Value = Traits> {
    ((0u8..8, 0u8..5, 0u8..6, 0u8..3, 0u8..6), (0u16..3, 1u16..4), (0u8..8, 0u8..8, 0u8..8, any::<u16>()))
        .prop_map(
            |(
                (form, policy, sharing, prefer, most),
                (pierce, pellets),
                (direction, timing, child, flags),
            )| {
                Traits {
                    form,
                    policy,
                    sharing,
                    prefer,
                    most,
                    pierce,
                    pellets,
                    direction,
                    timing,
                    child,
                    flags,
                }
            },
        )
}

#[derive(Clone, Debug)]
struct CastSheet {
    team: bool,
    health: i64,
    parts: Vec<(f32, f32, bool, i64)>,
    resistance: i64,
    lies: Option<u32>,
}

/// One thing that is ordered. Combatants are numbers, taken around.
#[derive(Clone, Debug)]
pub(crate) enum Op {
    Spawn(usize, [f32; 3], Option<usize>),
    Move(usize, [f32; 3], u32),
    Place(usize, [f32; 3]),
    Start(usize, usize),
    Cancel(usize),
    Report(usize, usize, u16),
    Harm(usize, i64),
    Heal(usize, u32),
    Apply(usize, Option<usize>),
    Lift(usize),
    SendAway(usize),
    Return(usize, [f32; 3]),
    Remove(usize),
    Listen(usize, usize),
    StartAt(usize, usize, [f32; 3]),
    Unleash(usize, [f32; 3]),
    Mark(usize, u8),
    Release(usize),
    Guide(usize, [f32; 3]),
    Obstruct(u8, [f32; 3]),
    Clear(usize),
    Protect(usize, bool),
    Wait(u8),
}

#[derive(Clone, Debug)]
pub(crate) struct Fight {
    pub(crate) sheet: Sheet,
    pub(crate) ops: Vec<Op>,
    pub(crate) seed: u64,
}

fn place() -> impl Strategy<Value = [f32; 3]> {
    let x = -2.5f32..2.5;
    // Now and then something that is no place at all.
    prop_oneof![30 => (x.clone(), x).prop_map(|(x, z)| [x, 0.0, z]), 1 => Just([f32::NAN, 0.0, 0.0]), 1 => Just([1.0e9, 0.0, 0.0])]
}

fn sheet() -> impl Strategy<Value = Sheet> {
    let attack = (
        (0u32..4, 1u32..8, 0u32..4),
        proptest::option::of((0u32..3, 1u32..4)),
        (0i64..12, 0i64..6),
        (0.4f32..2.0, -170f32..170.0),
        (any::<bool>(), any::<bool>(), any::<bool>()),
        traits(),
    )
        .prop_map(
            |(timeline, again, (low, more), (reach, turn), (both_layers, strikes_all, gives), traits)| {
                AttackSheet {
                    timeline,
                    again,
                    harm: (low, low + more),
                    reach,
                    turn,
                    both_layers,
                    strikes_all,
                    gives,
                    traits,
                }
            },
        );
    let part = (-0.5f32..0.5, 0.1f32..0.7, any::<bool>(), 0i64..30_000);
    let cast = (any::<bool>(), 1i64..40, vec(part, 0..4), -20_000i64..10_001, proptest::option::of(0u32..20))
        .prop_map(|(team, health, parts, resistance, lies)| CastSheet {
            team,
            health,
            parts,
            resistance,
            lies,
        });
    let steps = Just([Step::Part, Step::Resistance, Step::Limits])
        .prop_shuffle()
        .prop_map(|middle| [&[Step::Base], middle.as_slice(), &[Step::Rounding]].concat());
    let rounding = prop_oneof![Just(Rounding::Nearest), Just(Rounding::Down), Just(Rounding::Up)];
    (
        vec(attack, 1..4),
        vec(cast, 1..4),
        (1u32..30, 1u32..8, any::<bool>(), 0i64..8),
        steps,
        (0i64..4, 4i64..30),
        rounding,
        (0u16..5, 1u32..40, any::<bool>()),
    )
        .prop_map(|(attacks, casts, beat, steps, limits, rounding, (depth, orders, both_land))| Sheet {
            attacks,
            casts,
            beat,
            steps,
            limits,
            rounding,
            cascade: (depth, orders),
            both_land,
        })
}

fn op() -> impl Strategy<Value = Op> {
    let who = 0usize..12;
    prop_oneof![
        4 => (0usize..4, place(), proptest::option::of(who.clone())).prop_map(|(c, p, o)| Op::Spawn(c, p, o)),
        4 => (who.clone(), place(), 0u32..6).prop_map(|(w, p, t)| Op::Move(w, p, t)),
        1 => (who.clone(), place()).prop_map(|(w, p)| Op::Place(w, p)),
        8 => (who.clone(), 0usize..5).prop_map(|(w, a)| Op::Start(w, a)),
        1 => (0usize..20).prop_map(Op::Cancel),
        4 => (0usize..20, who.clone(), 0u16..4).prop_map(|(s, w, p)| Op::Report(s, w, p)),
        2 => (who.clone(), -2i64..20).prop_map(|(w, a)| Op::Harm(w, a)),
        2 => (who.clone(), 0u32..20).prop_map(|(w, a)| Op::Heal(w, a)),
        2 => (who.clone(), proptest::option::of(who.clone())).prop_map(|(w, by)| Op::Apply(w, by)),
        1 => who.clone().prop_map(Op::Lift),
        1 => who.clone().prop_map(Op::SendAway),
        3 => (who.clone(), place()).prop_map(|(w, p)| Op::Return(w, p)),
        1 => who.clone().prop_map(Op::Remove),
        2 => (0usize..4, who.clone()).prop_map(|(h, w)| Op::Listen(h, w)),
        3 => (who.clone(), 0usize..5, place()).prop_map(|(w, a, p)| Op::StartAt(w, a, p)),
        2 => (0usize..5, place()).prop_map(|(a, p)| Op::Unleash(a, p)),
        2 => (0usize..4, 0u8..3).prop_map(|(s, m)| Op::Mark(s, m)),
        2 => (0usize..4).prop_map(Op::Release),
        1 => (0usize..4, place()).prop_map(|(s, p)| Op::Guide(s, p)),
        3 => (0u8..3, place()).prop_map(|(o, p)| Op::Obstruct(o, p)),
        1 => (0usize..4).prop_map(Op::Clear),
        1 => (who, any::<bool>()).prop_map(|(w, stun)| Op::Protect(w, stun)),
        8 => (1u8..6).prop_map(Op::Wait),
    ]
}

/// Fights of every sort, with hooks that answer blows with blows.
pub(crate) fn fights() -> impl Strategy<Value = Fight> {
    (sheet(), vec(op(), 20..120), any::<u64>()).prop_map(|(sheet, ops, seed)| {
        // Two to begin with, so that most fights are fights.
        let mut all = vec![Op::Spawn(0, [0.0; 3], None), Op::Spawn(1, [0.0, 0.0, 1.0], None)];
        all.extend(ops);
        Fight { sheet, ops: all, seed }
    })
}

pub(crate) fn build(sheet: &Sheet) -> Ruleset {
    let mut b = Ruleset::builder(60);
    let crush = b.kind("crush");
    let heat = b.kind("heat");
    let teams = [b.team("masons"), b.team("beasts")];
    let layers = [b.layer("body"), b.layer("ghost")];
    b.reason("tide");
    b.outcome("dawn");
    let (lasts, every, at_once, harm) = sheet.beat;
    let first = if at_once { FirstBeat::AtOnce } else { FirstBeat::After };
    let harm = vec![Harm { kind: heat, low: harm, high: harm + 2 }];
    let burn = b.status(Status::new("burn").lasts(lasts).beat(Beat { every, first, harm }));
    let shield = b.status(Status::new("shield").lasts(4).protects());
    b.status(Status::new("stun").lasts(3).stuns());
    let tag = b.tag("stone");
    for (i, sheet) in sheet.attacks.iter().enumerate() {
        b.attack(attack(sheet, i, [crush, heat], layers[0], tag, [burn, shield]));
    }
    // What any attack may start: one that stays, and one that starts itself, for ever but for the limit.
    let ball = Shape::Sphere { at: [0.0, 0.0, 0.0], radius: 0.6 };
    b.attack(Attack::placed("splinters").timeline(0, 2, 0).harm(crush, 1, 2).volume(ball));
    let spread = Throw { spread: 90.0, pellets: 2, ..Throw::new(30.0, 3) };
    b.attack(
        Attack::thrown("sparks", spread)
            .timeline(0, 1, 0)
            .harm(heat, 1, 1)
            .volume(Shape::Sphere { at: [0.0; 3], radius: 0.1 })
            .child(When::Expiry, "sparks")
            .child(When::Hit, "splinters"),
    );
    for (i, sheet) in sheet.casts.iter().enumerate() {
        let mut cast = Cast::new(&format!("cast {i}"), teams[usize::from(sheet.team)], sheet.health)
            .resistance(crush, Fixed::raw(sheet.resistance));
        for (j, &(x, radius, ghost, multiplier)) in sheet.parts.iter().enumerate() {
            let part = Part::new(&format!("part {j}"), Shape::Sphere { at: [x, 0.5, 0.0], radius });
            cast = cast.part(part.layer(layers[usize::from(ghost)]).multiplier(Fixed::raw(multiplier)));
        }
        if i == 1 {
            let pose = Pose::at([0.0, 0.4, 0.3]).turned([1.0, 1.0, 0.0], 40.0);
            cast = cast.tag(tag).part(Part::new("slab", Shape::Box { pose, half: [0.3, 0.2, 0.4] }));
        }
        if let Some(lies) = sheet.lies {
            cast = cast.lies(lies);
        }
        b.cast(cast);
    }
    b.steps(&sheet.steps).limits(sheet.limits.0, sheet.limits.1).rounding(sheet.rounding);
    b.cascade_limit(sheet.cascade.0, sheet.cascade.1).both_land(sheet.both_land);
    b.build().expect("generated rulesets are sound")
}

fn attack(
    sheet: &AttackSheet,
    number: usize,
    kinds: [KindId; 2],
    layer: LayerId,
    tag: TagId,
    statuses: [StatusId; 2],
) -> Attack {
    let traits = &sheet.traits;
    let flag = |bit: u8| traits.flags >> bit & 1 == 1;
    let name = format!("attack {number}");
    let (wind_up, window, recovery) = sheet.timeline;
    let throw = Throw {
        from: [0.0, 0.5, 0.3],
        speed: 12.0 + sheet.reach * 30.0,
        gravity: if flag(0) { 9.0 } else { 0.0 },
        lifetime: window + 4,
        pierce: traits.pierce,
        pellets: traits.pellets,
        spread: 40.0,
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
        0 => Attack::thrown(&name, throw).volume(Shape::Sphere { at: [0.0; 3], radius: 0.15 }),
        1 => Attack::beam(&name, beam),
        2 => Attack::placed(&name).volume_of(ball, 0).volume_of(slab, 1),
        3 => Attack::touch(&name),
        _ => Attack::carried(&name).volume_of(rod, 0).volume_of(ball, 1),
    };
    let carried = traits.form > 3;
    let held = traits.form != 0 && traits.form != 2;
    match traits.timing {
        0 if held => attack = attack.marked(12),
        _ => attack = attack.timeline(wind_up, window, recovery),
    }
    if carried && traits.timing == 1 {
        attack = attack.guided();
    } else if carried {
        attack = attack
            .key(0, Pose::IDENTITY.facing(Axis::Y, -sheet.turn))
            .key(8, Pose::IDENTITY.facing(Axis::Y, sheet.turn));
    }
    if let (Some((gap, length)), false) = (sheet.again, held && traits.timing == 0) {
        attack = attack.again(gap, length);
    }
    attack = attack.policy(match traits.policy {
        0 => Policy::Window,
        1 => Policy::Rhythm(1 + u32::from(traits.most)),
        _ => Policy::Once,
    });
    attack = match traits.sharing {
        0 => attack.sharing(Sharing::Group),
        1 if traits.form == 0 => attack.sharing(Sharing::Body),
        _ => attack,
    };
    attack = attack.prefer(Prefer::ALL[usize::from(traits.prefer)]);
    if traits.most == 0 {
        attack = attack.most(1);
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
    if sheet.gives {
        attack = attack.gives(statuses[0]);
    }
    attack.harm(kinds[0], sheet.harm.0, sheet.harm.1).harm(kinds[1], 0, 1)
}

/// What hooks know: nothing but the rules and the count of calls.
pub(crate) struct World {
    pub(crate) rules: Ruleset,
    pub(crate) calls: u64,
}

/// Hooks that answer: a blow with harm, harm with healing and a swing, a fall with a return, anything with a status.
pub(crate) fn hooks() -> Hooks<World> {
    let mut hooks = Hooks::new();
    hooks.react("answer blows", |world: &mut World, heard, orders| {
        world.calls += 1;
        if let Event::HitLanded { attacker: Some(attacker), .. } = *heard.event {
            let (kind, reason) =
                (world.rules.find_kind("heat").unwrap(), world.rules.find_reason("tide").unwrap());
            orders.harm(attacker, kind, Fixed::whole(1), reason);
        }
    });
    hooks.react("answer harm", |world: &mut World, heard, orders| {
        world.calls += 1;
        if let Event::HealthChanged { subject, .. } = *heard.event {
            orders.heal(subject, 1, world.rules.find_reason("tide").unwrap());
            if let Some(attack) = world.rules.find_attack("attack 0") {
                orders.start(subject, attack);
            }
        }
    });
    hooks.react("answer falls", |world: &mut World, heard, orders| {
        world.calls += 1;
        if let Event::DeathFell { subject, at, .. } = *heard.event {
            orders.bring_back(subject, Pose::at(at));
        }
    });
    hooks.react("answer anything", |world: &mut World, heard, orders| {
        world.calls += 1;
        if let (Some(subject), Some(status)) = (heard.event.subject(), world.rules.find_status("burn")) {
            orders.apply(subject, status, heard.event.other());
        }
    });
    hooks.intercept("fickle", 0, |world: &mut World, attempt| {
        world.calls += 1;
        // A pure answer, so that a tick can be run again.
        match (attempt.swing.number() + u64::from(attempt.view.tick())) % 7 {
            0 => Verdict::Refuse,
            1 => Verdict::Retry,
            2 => Verdict::Deflect,
            _ => Verdict::Pass,
        }
    });
    hooks
}

/// What a host knows of the fight that it plays.
#[derive(Default)]
struct Known {
    all: Vec<CombatantId>,
    swings: Vec<SwingId>,
    obstacles: Vec<ObstacleId>,
}

/// Plays a fight. `after` sees the encounter after each tick and may change it (to save and restore it).
pub(crate) fn play(fight: &Fight, ledgers: bool, mut after: impl FnMut(&mut Encounter)) -> Encounter {
    let rules = build(&fight.sheet);
    let hooks = hooks();
    let mut world = World { rules: rules.clone(), calls: 0 };
    let mut encounter = Encounter::new(&rules, fight.seed);
    encounter.keep_ledgers(ledgers);
    let mut known = Known::default();
    let mut tick = |encounter: &mut Encounter| {
        encounter.tick_with(&hooks, &mut world).expect("nothing ends or interrupts the fight");
        after(encounter);
    };
    for op in &fight.ops {
        if let Op::Wait(ticks) = op {
            for _ in 0..*ticks {
                tick(&mut encounter);
            }
        } else {
            order(&rules, encounter.orders(), op, &mut known);
        }
    }
    for _ in 0..40 {
        tick(&mut encounter);
    }
    encounter.orders().end(rules.find_outcome("dawn").unwrap());
    tick(&mut encounter);
    encounter
}

/// One of the latest swings, which are the likeliest to run.
fn latest(swings: &[SwingId], i: usize) -> SwingId {
    swings[swings.len() - 1 - i % swings.len().min(4)]
}

fn order(rules: &Ruleset, mut orders: Orders<'_>, op: &Op, known: &mut Known) {
    let Known { all, swings, obstacles } = known;
    let who = |i: usize| all[i % all.len()];
    let cast = |i: usize| rules.find_cast(&format!("cast {}", i % rules.casts().len())).unwrap();
    let attack = |i: usize| rules.find_attack(rules.attacks()[i % rules.attacks().len()].name()).unwrap();
    let burn = rules.find_status("burn").unwrap();
    let tide = rules.find_reason("tide").unwrap();
    match *op {
        Op::Spawn(c, at, owner) => {
            let owner = owner.filter(|_| !all.is_empty()).map(who);
            let id = orders.spawn_as(cast(c), Pose::at(at), None, owner);
            all.push(id);
        }
        Op::Move(w, at, ticks) => {
            orders.move_over(who(w), Pose::at(at).facing(Axis::Y, at[0] * 90.0), ticks);
        }
        Op::Place(w, at) => {
            orders.place(who(w), Pose::at(at));
        }
        Op::Start(w, a) => swings.push(orders.start(who(w), attack(a))),
        Op::Cancel(s) if !swings.is_empty() => {
            orders.cancel(swings[s % swings.len()]);
        }
        Op::Report(s, w, part) if !swings.is_empty() => {
            orders.report(
                latest(swings, s),
                who(w),
                part,
                Touch { point: [0.0; 3], normal: [0.0, 2.0, 0.0] },
            );
        }
        Op::Harm(w, amount) => {
            orders.harm(who(w), rules.find_kind("crush").unwrap(), Fixed::whole(amount), tide);
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
                0 => Listen::exact(topic::HIT_LANDED).about(who(w)),
                1 => Listen::family(topics.family("health").unwrap()).priority(w as i16 - 6),
                2 => Listen::exact(topic::DEATH_FELL).owned_by(who(w)),
                _ => Listen::everything().once(),
            };
            let names = ["answer blows", "answer harm", "answer falls", "answer anything"];
            let hook = hooks().find(names[h]).unwrap();
            orders.subscribe(hook, listen);
        }
        Op::StartAt(w, a, at) => swings.push(orders.start_at(who(w), attack(a), Pose::at(at))),
        Op::Unleash(a, at) => {
            let team = rules.teams().next().unwrap();
            swings.push(orders.unleash(attack(a), team, Pose::at(at)));
        }
        Op::Mark(s, marker) if !swings.is_empty() => {
            let marker = [Marker::Open, Marker::Close, Marker::End][usize::from(marker)];
            orders.mark(latest(swings, s), marker);
        }
        Op::Release(s) if !swings.is_empty() => {
            orders.release(latest(swings, s));
        }
        Op::Guide(s, at) if !swings.is_empty() => {
            orders.guide(latest(swings, s), Pose::at(at).facing(Axis::Y, at[2] * 50.0));
        }
        Op::Obstruct(sort, at) => {
            let id = orders.obstruct(match sort {
                0 => Obstacle::Sphere { at, radius: 0.5 },
                1 => Obstacle::Box { pose: Pose::at(at).facing(Axis::Y, 30.0), half: [0.5, 1.0, 0.1] },
                _ => Obstacle::HalfSpace { at: [0.0, -0.1, 0.0], normal: [0.0, 1.0, at[0] * 0.1] },
            });
            obstacles.push(id);
        }
        Op::Clear(o) if !obstacles.is_empty() => {
            orders.clear(obstacles[o % obstacles.len()]);
        }
        Op::Protect(w, stun) => {
            let status = rules.find_status(if stun { "stun" } else { "shield" }).unwrap();
            orders.apply(who(w), status, None);
        }
        Op::Cancel(_) | Op::Report(..) | Op::Wait(_) => {}
        Op::Mark(..) | Op::Release(_) | Op::Guide(..) | Op::Clear(_) => {}
    }
}
