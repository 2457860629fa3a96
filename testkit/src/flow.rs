//! Waves, and rules of every sort.

use hammerstone::Fixed;
use hammerstone::event::{HostValue, ValueSort};
use hammerstone::flow::{
    Condition, Count, Credit, Dealing, Group, Growth, Healing, Limit, Reaction, Rule, RuleValue, ScoreValue,
    Target, Waves,
};
use hammerstone::prelude::*;

use crate::build::Names;
use crate::sheet::{Dice, Sheet};

/// Waves, and rules of every sort that is sound.
pub(crate) fn flow(b: &mut RulesetBuilder, sheet: &Sheet, names: &Names, burn: StatusId, attack: AttackId) {
    let (flag, counter, score) = (b.flag("sluice"), b.counter("falls"), b.score("tally"));
    let line = b.line("The tide is in.");
    let signal = b.host_topic("host.signal", &[("who", ValueSort::Who), ("height", ValueSort::Exact)]);
    b.reason("tide");
    let [first, team] = ["masons", "beasts"].map(|name| b.team(name));
    let template = b.template(Template::new("straggler", team, 3));
    let size = 1 + sheet.numbers as u32 % 3;
    let waves = Waves::new("stragglers", template, size, 3).at(names.spot).apart([0.3, 0.0, 0.0]).delay(size);
    let waves = b.waves(waves.grows(Growth::Added(1)).next_when(size, Group::team(team)));
    let about_somebody = [
        "combatant.died",
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
            1 => rule.when(Condition::Flag(flag, dice.comes(2))),
            2 => rule.when(Condition::counter(counter, -3, 3)),
            3 => rule.when(Condition::Alive(Group::team(team), 0, 2)),
            4 => rule.when(Condition::Round(1, 2)),
            5 if !nobody => rule.when(Condition::subject(Group::team(first))),
            6 if !nobody => rule.when(Condition::health(Fixed::ZERO, Fixed::ratio(1, 2))),
            _ => rule,
        };
        for _ in 0..=dice.roll(2) {
            let whom = match dice.roll(3) {
                0 => Target::Each(Group::team(team)),
                1 if !nobody => Target::Followers,
                _ if nobody => Target::Each(Group::default().tagged(names.tags[0])),
                _ => Target::Subject,
            };
            let action = match dice.roll(16) {
                0 => Reaction::Flag(flag, dice.comes(2)),
                1 => Reaction::Count(counter, Count::Add(1)),
                2 => Reaction::Score(
                    score,
                    if nobody { ScoreValue::Points(2) } else { ScoreValue::Value(names.bounty) },
                ),
                3 => Reaction::Waves(waves),
                4 => Reaction::NextRound,
                5 => Reaction::Apply(
                    whom,
                    burn,
                    Fixed::ONE,
                    // Of a family, some facts have an other party.
                    match (nobody, rule.listens_to().1) {
                        (true, _) => Credit::Unsaid,
                        (_, true) => Credit::Other,
                        _ => Credit::Subject,
                    },
                ),
                6 => Reaction::Lift(whom, burn),
                7 => Reaction::Damage(whom, Dealing::of(names.damage_types[0], Fixed::whole(3))),
                8 => Reaction::Heal(whom, Healing::of(Fixed::whole(2))),
                9 => Reaction::Start(whom, attack),
                10 => Reaction::SendAway(whom),
                11 => Reaction::BringBack(whom, names.spot),
                12 => Reaction::Remove(whom),
                13 if !nobody => Reaction::Publish(
                    signal,
                    [
                        RuleValue::Subject,
                        RuleValue::Value(HostValue::Nothing),
                        RuleValue::Value(HostValue::Nothing),
                        RuleValue::Value(HostValue::Nothing),
                    ],
                ),
                14 if dice.comes(6) => Reaction::Reset,
                _ => Reaction::say(dice.comes(2).then_some(whom), line),
            };
            rule = rule.does_after(if dice.comes(3) { 2 } else { 0 }, action);
        }
        b.rule(rule.priority(dice.roll(3) as i16));
    }
}
