//! Waves, and rules of every sort.

use hammerstone::*;

use crate::build::Names;
use crate::sheet::{Dice, Sheet};

/// Waves, and rules of every sort that is sound.
pub(crate) fn flow(b: &mut RulesetBuilder, sheet: &Sheet, names: &Names, burn: StatusId, attack: AttackId) {
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
