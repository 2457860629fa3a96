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
    cascade: (u16, u32, u32),
    both_land: bool,
    statuses: Vec<u64>,
    numbers: u64,
    rules: Vec<u64>,
}

/// Many small choices out of one number; 0 is the plainest of all.
struct Dice(u64);

impl Dice {
    fn roll(&mut self, sides: u64) -> u64 {
        let rolled = self.0 % sides;
        self.0 /= sides;
        rolled
    }

    fn comes(&mut self, one_in: u64) -> bool {
        self.roll(one_in) == one_in - 1
    }
}

/// A number for dice, half the time none.
fn dice() -> impl Strategy<Value = u64> {
    prop_oneof![1 => Just(0), 2 => any::<u64>()]
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
    numbers: u64,
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
    numbers: u64,
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
    Give(usize, usize, Option<usize>, i64),
    LiftFamily(usize),
    Change(usize, u8, i64),
    Unchange(usize, u8),
    SetMaximum(usize, u32, bool),
    RaiseShield(usize, u32),
    Preview(usize, usize, usize),
    Flow(u8, usize, usize),
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
    prop_oneof![30 => (x.clone(), x).prop_map(|(x, z)| [x, 0.0, z]), 1 => Just([f32::NAN, 0.0, 0.0]), 1 => Just([1.0e9, 0.0, 0.0]), 1 => Just([5.0e4, 0.0, 0.0])]
}

fn sheet() -> impl Strategy<Value = Sheet> {
    let attack = (
        (0u32..4, 1u32..8, 0u32..4),
        proptest::option::of((0u32..3, 1u32..4)),
        (0i64..12, 0i64..6),
        (0.4f32..2.0, -170f32..170.0),
        (any::<bool>(), any::<bool>(), any::<bool>()),
        (traits(), dice()),
    )
        .prop_map(
            |(
                timeline,
                again,
                (low, more),
                (reach, turn),
                (both_layers, strikes_all, gives),
                (traits, numbers),
            )| {
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
                    numbers,
                }
            },
        );
    let part = (-0.5f32..0.5, 0.1f32..0.7, any::<bool>(), 0i64..30_000);
    let resistance = -20_000i64..20_000;
    let lies = proptest::option::of(0u32..20);
    let cast = (any::<bool>(), 1i64..40, vec(part, 0..4), resistance, lies, dice()).prop_map(
        |(team, health, parts, resistance, lies, numbers)| CastSheet {
            team,
            health,
            parts,
            resistance,
            lies,
            numbers,
        },
    );
    // Every step between the first and the last, in any order.
    let middle: Vec<Step> = Step::ALL[1..Step::ALL.len() - 2].to_vec();
    let steps = Just(middle)
        .prop_shuffle()
        .prop_map(|middle| [&[Step::Base], middle.as_slice(), &[Step::Rounding, Step::Shields]].concat());
    let rounding = prop_oneof![Just(Rounding::Nearest), Just(Rounding::Down), Just(Rounding::Up)];
    (
        vec(attack, 1..4),
        vec(cast, 1..4),
        (1u32..30, 1u32..8, any::<bool>(), 0i64..8),
        steps,
        (0i64..4, 4i64..30),
        rounding,
        (0u16..5, 1u32..40, any::<bool>()),
        (vec(dice(), 1..5), dice(), vec(any::<u64>(), 0..6)),
    )
        .prop_map(
            |(
                attacks,
                casts,
                beat,
                steps,
                limits,
                rounding,
                (depth, orders, both_land),
                (statuses, numbers, rules),
            )| Sheet {
                attacks,
                casts,
                beat,
                steps,
                limits,
                rounding,
                cascade: (depth, orders / 2, orders),
                both_land,
                statuses,
                numbers,
                rules,
            },
        )
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
        3 => (0usize..7, who.clone()).prop_map(|(h, w)| Op::Listen(h, w)),
        5 => (0u8..55, who.clone(), who.clone()).prop_map(|(f, w, o)| Op::Flow(f, w, o)),
        3 => (who.clone(), 0usize..5, place()).prop_map(|(w, a, p)| Op::StartAt(w, a, p)),
        2 => (0usize..5, place()).prop_map(|(a, p)| Op::Unleash(a, p)),
        2 => (0usize..4, 0u8..3).prop_map(|(s, m)| Op::Mark(s, m)),
        2 => (0usize..4).prop_map(Op::Release),
        1 => (0usize..4, place()).prop_map(|(s, p)| Op::Guide(s, p)),
        3 => (0u8..3, place()).prop_map(|(o, p)| Op::Obstruct(o, p)),
        1 => (0usize..4).prop_map(Op::Clear),
        1 => (who.clone(), any::<bool>()).prop_map(|(w, stun)| Op::Protect(w, stun)),
        6 => (who.clone(), 0usize..4, proptest::option::of(who.clone()), -1i64..30_000)
            .prop_map(|(w, s, by, strength)| Op::Give(w, s, by, strength)),
        1 => who.clone().prop_map(Op::LiftFamily),
        2 => (who.clone(), 0u8..16, -20_000i64..40_000).prop_map(|(w, c, v)| Op::Change(w, c, v)),
        1 => (who.clone(), 0u8..16).prop_map(|(w, c)| Op::Unchange(w, c)),
        1 => (who.clone(), 0u32..60, any::<bool>()).prop_map(|(w, p, k)| Op::SetMaximum(w, p, k)),
        1 => (who.clone(), 0u32..9).prop_map(|(w, p)| Op::RaiseShield(w, p)),
        1 => (who.clone(), 0usize..5, who).prop_map(|(w, a, t)| Op::Preview(w, a, t)),
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
    let names = Names {
        kinds: [crush, heat],
        stats: ["might", "plates", "vigour", "hide"].map(|name| b.stat(name, Fixed::ZERO)),
        shields: [b.shield(Shield::new("glass")), b.shield(Shield::new("brine").against(heat))],
        tags: [b.tag("stone"), b.tag("wet"), b.tag("fire")],
        statuses: (0..sheet.statuses.len()).map(|i| b.promise_status(&format!("status {i}"))).collect(),
        thresholds: [b.threshold("low"), b.threshold("half")],
        spot: b.spot("ramp", Pose::at([0.5, 0.0, 0.5])),
        bounty: b.value("bounty"),
    };
    let burn =
        b.status(Status::new("burn").lasts(lasts).beat(Beat { every, first, harm, ..Beat::default() }));
    let shield = b.status(Status::new("shield").lasts(4).protects());
    b.status(Status::new("stun").lasts(3).stuns());
    for (i, &numbers) in sheet.statuses.iter().enumerate() {
        b.status(status(i, &mut Dice(numbers), &names));
    }
    let tag = names.tags[0];
    let mut first_attack = None;
    for (i, sheet) in sheet.attacks.iter().enumerate() {
        let attack = attack(sheet, i, [crush, heat], layers[0], tag, [burn, shield]);
        let attack = b.attack(numbered_attack(attack, &mut Dice(sheet.numbers), &names));
        first_attack.get_or_insert(attack);
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
        let mut dice = Dice(sheet.numbers);
        cast = numbered_cast(cast, &mut dice, &names);
        for (j, &(x, radius, ghost, multiplier)) in sheet.parts.iter().enumerate() {
            let mut part = Part::new(&format!("part {j}"), Shape::Sphere { at: [x, 0.5, 0.0], radius });
            if dice.comes(3) {
                let broken = Broken::default().multiplier(Fixed::whole(2)).tag(tag);
                let shape = Shape::Sphere { at: [x, 0.4, 0.1], radius: radius * 0.5 };
                part = part.points(4, if dice.comes(2) { Broken::gone() } else { broken.shape(shape) });
            }
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
    if let Some(first) = first_attack {
        flow(&mut b, sheet, &names, burn, first);
    }
    numbered_rules(&mut b, &mut Dice(sheet.numbers), &names, &sheet.steps);
    b.limits(sheet.limits.0, sheet.limits.1).rounding(sheet.rounding);
    b.cascade_limit(sheet.cascade.0, sheet.cascade.1, sheet.cascade.2).both_land(sheet.both_land);
    b.build().expect("generated rulesets are sound")
}

/// What numbers and statuses are about.
struct Names {
    kinds: [KindId; 2],
    stats: [StatId; 4],
    shields: [ShieldId; 2],
    tags: [TagId; 3],
    statuses: Vec<StatusId>,
    thresholds: [ThresholdId; 2],
    spot: SpotId,
    bounty: ValueId,
}

impl Names {
    fn status(&self, number: u64) -> StatusId {
        self.statuses[number as usize % self.statuses.len()]
    }
}

fn by(dice: &mut Dice) -> By {
    let value = dice.roll(9) as i64 - 3;
    match dice.roll(4) {
        0 => By::Raise(Fixed::whole(value)),
        1 => By::Share(Fixed::ratio(value, 4)),
        2 => By::Scale(Fixed::ratio(value.abs(), 2)),
        _ => By::Pin(Fixed::whole(value)),
    }
}

fn change(dice: &mut Dice, names: &Names) -> AmountChange {
    let change = AmountChange::new(Flow::ALL[dice.roll(4) as usize], by(dice));
    let change = if dice.comes(3) { change.kind(names.kinds[0]) } else { change };
    if dice.comes(3) { change.against(names.tags[0]) } else { change }
}

fn status(number: usize, dice: &mut Dice, names: &Names) -> Status {
    let mut status = Status::new(&format!("status {number}"));
    let lasts = dice.roll(12);
    if lasts > 0 {
        status = status.lasts(lasts as u32);
        // Only later ones, so that there is no circle.
        if dice.comes(3) && number + 1 < names.statuses.len() {
            status = status.gift(Gift::new(Upon::Expiry, names.status(number as u64 + 1)));
        }
    }
    status = status.again(Again::ALL[dice.roll(5) as usize]);
    status = match dice.roll(4) {
        1 => status.strength(Strength::Captured(names.stats[0])),
        2 => status.strength(Strength::Live(names.stats[0])),
        _ => status,
    };
    status = match dice.roll(11) {
        1 | 10 => status.guard(Guard::new(Fixed::ratio(1, 2), 100.0).breaks_after(2)),
        2 => status.shield(names.shields[dice.roll(2) as usize], 5),
        3 => status.reprieve(Reprieve { leaves: 1, limit: 1, ends: dice.comes(2) }),
        4 => status.reflects(Passing { share: Fixed::ratio(1, 2), kind: None }),
        5 => status.transfers(Passing { share: Fixed::ratio(1, 2), kind: None }),
        6 => status.changes(names.stats[dice.roll(4) as usize], by(dice)),
        7 => status.changes_amounts(change(dice, names)),
        8 => status.beat(Beat::heal(2, 0, 3)),
        9 => status.beat(Beat {
            absolute: true,
            ..Beat::harm(3, vec![Harm { kind: names.kinds[1], low: 1, high: 4 }])
        }),
        _ => status,
    };
    match dice.roll(9) {
        8 if status.duration().is_some() => status.dooms(names.kinds[0]),
        1 => status.tag(names.tags[2]).lifted_by(names.tags[1]),
        2 => status.lends(names.tags[1]),
        3 => status.lends(names.tags[2]).barred_by(names.tags[2]),
        4 => status.lifts(names.tags[2]),
        5 => status.across_lives(),
        6 => status.protects().lets_through(names.tags[0]),
        7 => status.gift(Gift::new(Upon::Struck, names.status(dice.roll(8))).to_other()),
        _ => status,
    }
}

fn numbered_attack(mut attack: Attack, dice: &mut Dice, names: &Names) -> Attack {
    for _ in 0..3 {
        let status = names.status(dice.roll(4));
        attack = match dice.roll(15) {
            1 => attack.draws(Draw {
                of: Party::ALL[dice.roll(2) as usize],
                stat: names.stats[0],
                adds: Fixed::ONE,
                shares: Fixed::ratio(-1, 4),
                kind: None,
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
            6 => attack.gives_at(status, Fixed::ratio(3, 2)),
            7 => attack.gives_self(status, Fixed::ONE),
            8 => attack.aura(status, Fixed::ONE),
            9 => attack.bears(0, 3, status),
            10 => attack.pushes(Push { moves: dice.comes(2), lift: 0.1, ..Push::new(0.5, 3) }),
            11 => attack.stops(Stop { attacker: 2, target: 3 }),
            12 => attack.heals(0, 4).strikes(Relations::ANY),
            13 => attack.tag(names.tags[0]).staggers(Fixed::whole(2)),
            14 => attack.never_critical(),
            _ => attack,
        };
    }
    attack
}

fn numbered_cast(mut cast: Cast, dice: &mut Dice, names: &Names) -> Cast {
    for stat in names.stats {
        cast = cast.stat(stat, Fixed::whole(dice.roll(4) as i64));
    }
    if dice.comes(3) {
        let lives = Lives::new(1 + dice.roll(3) as u32, dice.roll(6) as u32);
        let to = [ReturnTo::Home, ReturnTo::WhereItFell, ReturnTo::Spot(names.spot)][dice.roll(3) as usize];
        cast = cast.lives(Lives { to, health: Fixed::ratio(1, 1 + dice.roll(2) as i64), ..lives });
    }
    for (i, threshold) in names.thresholds.into_iter().enumerate() {
        let kills = IfItKills::ALL[dice.roll(2) as usize];
        cast = cast.threshold(threshold, Fixed::ratio(2 + 3 * i as i64, 10), kills);
    }
    cast = cast.worth(names.bounty, dice.roll(3) as i64);
    for upon in [Upon::Struck, Upon::Hits, Upon::Joins, Upon::Returns, Upon::Averted] {
        if dice.comes(4) {
            cast = cast.gift(Gift::new(upon, names.status(dice.roll(4))));
        }
    }
    cast = match dice.roll(4) {
        1 => cast.shield(names.shields[dice.roll(2) as usize], 6),
        2 => cast.changes_amounts(change(dice, names)),
        3 => cast.never_critical(),
        _ => cast,
    };
    if dice.comes(3) {
        let status = Some(names.status(dice.roll(4)));
        cast = cast.stagger(Stagger { at: Fixed::whole(6), wanes: Fixed::whole(60), status });
    }
    cast
}

fn numbered_rules(b: &mut RulesetBuilder, dice: &mut Dice, names: &Names, steps: &[Step]) {
    let mut steps = steps.to_vec();
    let mut heal = HealStep::ALL.to_vec();
    if dice.comes(2) {
        let own = b.own_step("tide-pull");
        steps.insert(1 + dice.roll(4) as usize, Step::Own(own));
        heal.insert(1, HealStep::Own(own));
    }
    b.steps(&steps).heal_steps(&heal);
    if dice.comes(2) {
        b.critical(Critical::new(Fixed::ratio(1, 3), Fixed::ratio(3, 2)));
    }
    if dice.comes(2) {
        b.armour(Armour {
            flat: Some(names.stats[1]),
            curve: Some((names.stats[3], Fixed::whole(2))),
            kinds: vec![names.kinds[0]],
        });
    }
    if dice.comes(2) {
        b.overheal(Overheal { shield: names.shields[0], share: Fixed::ratio(1, 2), most: 6 });
    }
    if dice.comes(2) {
        b.maximum(names.stats[2], Keep::ALL[dice.roll(2) as usize]);
    }
    if dice.comes(2) {
        b.relation_share(Relation::Own, Fixed::ratio(1, 2)).fall_credit(30);
    }
    b.stop_limit(dice.roll(8) as u32);
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

/// Waves, and rules of every sort that is sound.
fn flow(b: &mut RulesetBuilder, sheet: &Sheet, names: &Names, burn: StatusId, attack: AttackId) {
    let (flag, counter, score) = (b.flag("sluice"), b.counter("falls"), b.score("tally"));
    let line = b.line("The tide is in.");
    let signal = b.host_topic("host.signal", &[("who", ValueSort::Who), ("height", ValueSort::Exact)]);
    let tide = b.reason("tide");
    let [first, team] = ["masons", "beasts"].map(|name| b.team(name));
    let cast = b.cast(Cast::new("straggler", team, 3));
    let size = 1 + sheet.numbers as u32 % 3;
    let waves = Waves::new("stragglers", cast, size, 3).at(names.spot).apart([0.3, 0.0, 0.0]).delay(size);
    let waves = b.waves(waves.grows(Growth::Added(1)).next_when(size, Group::team(team)));
    let about_somebody = [
        "death.fell",
        "health.changed",
        "health.crossed",
        "hit.landed",
        "status.applied",
        "combatant.joined",
        "leader.lost",
        "host.signal",
        "said",
        "rule.fired",
        "combatant.returned",
        "combatant.removed",
    ];
    let about_nobody =
        ["flag.changed", "counter.changed", "encounter.wave", "encounter.round", "encounter.reset"];
    for (i, &numbers) in sheet.rules.iter().enumerate() {
        let dice = &mut Dice(numbers);
        let name = format!("rule {i}");
        let nobody = dice.comes(4);
        let mut rule = if nobody {
            Rule::on(&name, about_nobody[dice.roll(5) as usize])
        } else if dice.comes(4) {
            Rule::on_family(&name, ["damage", "status", "combatant"][dice.roll(3) as usize])
        } else {
            Rule::on(&name, about_somebody[dice.roll(12) as usize])
        };
        let limit = Limit::ALL[dice.roll(4) as usize];
        rule = rule.limit(if nobody && limit == Limit::PerLife { Limit::Once } else { limit });
        rule = match dice.roll(8) {
            1 => rule.provided(Condition::Flag(flag, dice.comes(2))),
            2 => rule.provided(Condition::Counter(counter, -3, 3)),
            3 => rule.provided(Condition::Alive(Group::team(team), 0, 2)),
            4 => rule.provided(Condition::Round(1, 2)),
            5 if !nobody => rule.provided(Condition::Subject(Group::team(first))),
            6 if !nobody => rule.provided(Condition::Health(Fixed::ZERO, Fixed::ratio(1, 2))),
            _ => rule,
        };
        for _ in 0..=dice.roll(2) {
            let whom = match dice.roll(3) {
                0 => Whom::Each(Group::team(team)),
                1 if !nobody => Whom::Followers,
                _ if nobody => Whom::Each(Group::default().tagged(names.tags[0])),
                _ => Whom::Subject,
            };
            let action = match dice.roll(16) {
                0 => Action::Flag(flag, dice.comes(2)),
                1 => Action::Count(counter, Count::Add(1)),
                2 => Action::Score(score, if nobody { Worth::Points(2) } else { Worth::Value(names.bounty) }),
                3 => Action::Waves(waves),
                4 => Action::NextRound,
                5 => {
                    Action::Apply(whom, burn, Fixed::ONE, if nobody { Credit::Unsaid } else { Credit::Other })
                }
                6 => Action::Lift(whom, burn),
                7 => Action::Harm(whom, names.kinds[0], Fixed::whole(3), tide),
                8 => Action::Heal(whom, 2, tide),
                9 => Action::Start(whom, attack),
                10 => Action::SendAway(whom),
                11 => Action::BringBack(whom, names.spot),
                12 => Action::Remove(whom),
                13 if !nobody => Action::Publish(
                    signal,
                    [
                        RuleValue::Subject,
                        RuleValue::Value(HostValue::Nothing),
                        RuleValue::Value(HostValue::Nothing),
                        RuleValue::Value(HostValue::Nothing),
                    ],
                ),
                14 if dice.comes(6) => Action::Reset,
                _ => Action::Say(dice.comes(2).then_some(whom), line),
            };
            rule = rule.does_after(if dice.comes(3) { 2 } else { 0 }, action);
        }
        b.rule(rule.priority(dice.roll(3) as i16));
    }
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
    hooks.watch("watch anything", |world: &mut World, _| world.calls += 1);
    hooks.intercept("fickle", 0, |world: &mut World, attempt, terms| {
        world.calls += 1;
        // A pure answer, so that a tick can be run again.
        match (attempt.swing.number() + u64::from(attempt.view.tick())) % 7 {
            0 => Verdict::Refuse("fickle"),
            1 => Verdict::Retry("fickle"),
            2 => Verdict::Deflect,
            3 => {
                terms.amend(By::Raise(Fixed::ONE), "fickle");
                let (target, reason) = (attempt.target, world.rules.find_reason("tide").unwrap());
                terms.cost(Order::Heal { target, points: 1, reason, source: None });
                Verdict::Pass
            }
            _ => Verdict::Pass,
        }
    });
    hooks.reprieve("a second breath", 1, |world: &mut World, lethal| {
        world.calls += 1;
        (lethal.amount % 3 == 0).then_some(2)
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
        encounter.confirm(&hooks, &mut world);
        after(encounter);
    };
    for op in &fight.ops {
        if let Op::Wait(ticks) = op {
            for _ in 0..*ticks {
                tick(&mut encounter);
            }
        } else if let Op::Preview(who, attack, target) = op {
            preview(&encounter, &known.all, [*who, *target], *attack);
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

/// A preview changes nothing, and its ledgers join up.
fn preview(encounter: &Encounter, all: &[CombatantId], [who, target]: [usize; 2], attack: usize) {
    let rules = encounter.rules();
    let attack = rules.find_attack(rules.attacks()[attack % rules.attacks().len()].name()).unwrap();
    let (who, target) = (all[who % all.len()], all[target % all.len()]);
    let before = encounter.checksum();
    for luck in [Luck::Next, Luck::Least, Luck::Most] {
        if let Ok(preview) = encounter.preview(who, attack, target, 0, luck) {
            for kind in &preview.kinds {
                let lines = &kind.ledger;
                assert!(lines.windows(2).all(|pair| pair[0].after == pair[1].before), "{lines:?}");
                let end = kind.amount + kind.absorbed;
                assert_eq!(lines.last().map(|line| line.after), Some(Fixed::whole(end)), "{lines:?}");
            }
            assert_eq!(preview.falls, preview.health.1 == 0);
        }
    }
    assert_eq!(encounter.checksum(), before);
}

/// One of the latest swings, which are the likeliest to run.
fn latest(swings: &[SwingId], i: usize) -> SwingId {
    swings[swings.len() - 1 - i % swings.len().min(4)]
}

fn order(rules: &Ruleset, mut orders: Orders<'_>, op: &Op, known: &mut Known) {
    let Known { all, swings, obstacles } = known;
    let who = |i: usize| all[i % all.len()];
    let cast = |i: usize| rules.find_cast(&format!("cast {}", i % (rules.casts().len() - 1))).unwrap();
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
                3 => Listen::everything().once(),
                4 => Listen::everything().of_team(rules.teams().next().unwrap()).keyed(w as u32),
                5 => Listen::family(topics.family("status").unwrap())
                    .tagged(rules.find_tag("wet").unwrap())
                    .stays(),
                _ => Listen::family(topics.family("death").unwrap()).once(),
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
            let by =
                [By::Raise(value), By::Share(value), By::Scale(value), By::Pin(value)][usize::from(c) / 4];
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
                        Ending::Hook(hook)
                    } else {
                        Ending::Owner(who(w))
                    })
                }
            };
        }
        Op::Preview(..) => {}
        Op::Cancel(_) | Op::Report(..) | Op::Wait(_) => {}
        Op::Mark(..) | Op::Release(_) | Op::Guide(..) | Op::Clear(_) => {}
    }
}

/// A fight that fills everything: swings, statuses, waves, followers, subscriptions, delayed actions.
pub(crate) fn busy() -> (Ruleset, Hooks<u64>, Encounter) {
    let mut b = Ruleset::builder(60);
    let crush = b.kind("crush");
    let tide = b.reason("tide");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ramp = b.spot("ramp", Pose::at([0.0, 0.0, 1.0]));
    let line = b.line("Again.");
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let hound = b.cast(Cast::new("hound", beasts, 6).lies(5).part(trunk.clone()));
    let mason = b.cast(Cast::new("mason", masons, 40).lives(Lives::new(2, 5)).part(trunk));
    let burn = b.status(
        Status::new("burn").lasts(30).beat(Beat::harm(5, vec![Harm { kind: crush, low: 1, high: 2 }])),
    );
    b.attack(
        Attack::carried("maul")
            .timeline(1, 4, 2)
            .harm(crush, 3, 5)
            .gives(burn)
            .volume(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.6 }),
    );
    let waves = b.waves(Waves::new("hounds", hound, 2, 4).at(ramp).apart([0.2, 0.0, 0.0]));
    b.rule(Rule::on("again", "death.fell").does_after(3, Action::Say(None, line)).does(Action::Heal(
        Whom::Each(Group::team(masons)),
        1,
        tide,
    )));
    let rules = b.build().unwrap();
    let mut hooks = Hooks::<u64>::new();
    let answers = hooks.react("answers", |calls, heard, orders| {
        *calls += 1;
        if let Event::CombatantJoined { subject, .. } = *heard.event {
            let own = Listen::everything().about(subject).owned_by(subject);
            orders.subscribe(heard.view.subscriptions().next().unwrap().1, own);
        }
    });
    let mut fight = Encounter::new(&rules, 7);
    fight.orders().subscribe(answers, Listen::exact(topic::COMBATANT_JOINED));
    fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().start_waves(waves);
    (rules, hooks, fight)
}
