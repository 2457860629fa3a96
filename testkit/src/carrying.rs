//! Rules whose reactions carry amounts, and choices with conditions of every sort.

use hammerstone::Fixed;
use hammerstone::amount::Step;
use hammerstone::attack::Grip;
use hammerstone::flow::{
    Amount, Comparison, Condition, Counting, Credit, Crossings, Dealing, Group, Healing, Held, Party,
    Portion, Reaction, Reading, Rule, ScoreValue, SwingPhase, Tactic, Target,
};
use hammerstone::gauge::{AtEnd, Cancel, CancelOn, Cooldown, Cost, Gauge, GaugeChange, Uses};
use hammerstone::ids::{GaugeId, StatId, WordId};
use hammerstone::prelude::*;

use crate::build::Names;
use crate::sheet::{Dice, Sheet};

/// For each rule of the sheet a choice of two cases.
pub(crate) fn carrying(b: &mut RulesetBuilder, sheet: &Sheet, names: &Names, cloud: AttackId, wind: GaugeId) {
    let made = Made {
        flag: b.combatant_flag("marked"),
        counter: b.combatant_counter("bells"),
        falls: b.counter("falls"),
        score: b.score("tally"),
        wind,
        words: ["amount", "absorbed", "overkill", "critical", "combatant.died"].map(|word| b.word(word)),
        team: b.team("beasts"),
    };
    let hears = [
        "combatant.died",
        "health.changed",
        "hit.landed",
        "status.applied",
        "combatant.counted",
        "contact.met",
        "attack.started",
        "gauge.changed",
    ];
    for (i, &numbers) in sheet.rules.iter().enumerate() {
        let dice = &mut Dice(numbers.rotate_left(29) ^ numbers);
        let family = dice.comes(3);
        let hears = hears[dice.roll(8) as usize];
        let cases: Vec<Rule> = (0..2)
            .map(|case| {
                let name = format!("choice {i}.{case}");
                let rule = if family { Rule::on_family(&name, "damage") } else { Rule::on(&name, hears) };
                let condition = made.condition(dice, family, hears, 0);
                let rule = rule.when(condition);
                let after = if dice.comes(4) { 3 } else { 0 };
                rule.does_after(after, made.reaction(dice, names, family, cloud))
            })
            .collect();
        b.choice(&format!("choice {i}"), cases);
    }
}

/// What the choices name.
struct Made {
    flag: hammerstone::ids::CombatantFlagId,
    counter: hammerstone::ids::CombatantCounterId,
    wind: GaugeId,
    falls: hammerstone::ids::CounterId,
    score: hammerstone::ids::ScoreId,
    words: [hammerstone::ids::WordId; 5],
    team: TeamId,
}

impl Made {
    fn party(&self, dice: &mut Dice, hears: &str) -> Party {
        let alone = ["combatant.counted", "health.changed", "attack.started"].contains(&hears);
        if !alone && dice.comes(2) { Party::Other } else { Party::Subject }
    }

    fn reading(&self, dice: &mut Dice, family: bool, hears: &str) -> Reading {
        let party = self.party(dice, if family { "damage" } else { hears });
        match dice.roll(9) {
            7 => Reading::Gauge(party, self.wind, Portion::Points),
            0 if family => Reading::Field(self.words[dice.roll(3) as usize]),
            1 => Reading::Health(party, Portion::Points),
            2 => Reading::Health(party, Portion::Share),
            3 => Reading::Health(party, Portion::Maximum),
            4 => Reading::CombatantCounter(party, self.counter),
            5 => Reading::Score(self.score),
            _ => Reading::Counter(self.falls),
        }
    }

    fn condition(&self, dice: &mut Dice, family: bool, hears: &str, depth: u32) -> Condition {
        let party = self.party(dice, if family { "damage" } else { hears });
        let inner = |dice: &mut Dice| self.condition(dice, family, hears, depth + 1);
        match dice.roll(12) {
            0 if depth < 2 => Condition::All(vec![inner(dice), inner(dice)]),
            1 if depth < 2 => Condition::Any(vec![inner(dice), inner(dice)]),
            2 if depth < 2 => inner(dice).negated(),
            3 => Condition::Compare(
                self.reading(dice, family, hears),
                Comparison::ALL[dice.roll(5) as usize],
                self.reading(dice, family, hears),
            ),
            4 => Condition::CombatantFlag(party, self.flag, dice.comes(2)),
            5 => Condition::Phase(party, SwingPhase::ALL[dice.roll(6) as usize]),
            6 => Condition::OutOfLives(Group::team(self.team)),
            7 => Condition::Since(self.words[4], 0, 1 + dice.roll(20) as u32),
            8 => Condition::Chance(Fixed::ratio(1, 2)),
            9 if family => Condition::Field(self.words[3], Held::Truth(dice.comes(2))),
            10 if !family && ["combatant.counted", "health.changed"].contains(&hears) => {
                Condition::Crossed(Fixed::whole(2), Crossings::ALL[dice.roll(3) as usize])
            }
            _ => Condition::Between(self.reading(dice, family, hears), Fixed::ZERO, Fixed::whole(9)),
        }
    }

    fn reaction(&self, dice: &mut Dice, names: &Names, family: bool, cloud: AttackId) -> Reaction {
        // What every topic has.
        let hears = "health.changed";
        let reading = self.reading(dice, family, if family { "damage" } else { hears });
        let amount = Amount::of(reading, Fixed::ratio(1 + dice.roll(3) as i64, 2)).cap(9);
        let amount = if dice.comes(2) { amount.floor(1) } else { amount };
        let credit = if dice.comes(2) { Credit::Subject } else { Credit::Nobody };
        match dice.roll(17) {
            14 => Reaction::ScaleTime(Target::Subject, dice.roll(33) as u8),
            15 => Reaction::Transform(Target::Subject, names.template),
            16 => Reaction::LetGo(Target::Subject),
            9 => Reaction::Teleport(Target::Subject, names.spot),
            10 => Reaction::Push(Target::Subject, Fixed::ONE, 3),
            11 => Reaction::ChangeTeam(Target::Subject, self.team),
            12 => Reaction::Request(Target::Subject, Tactic::ALL[dice.roll(3) as usize]),
            7 => Reaction::Gauge(
                Target::Subject,
                self.wind,
                GaugeChange::ALL[dice.roll(3) as usize],
                amount,
                credit,
            ),
            0 => {
                let dealing = Dealing::of(names.damage_types[0], amount).by(credit);
                let dealing = if dice.comes(2) { dealing.skips(Step::Armour) } else { dealing };
                Reaction::Damage(Target::Subject, dealing)
            }
            1 => Reaction::Heal(Target::Subject, Healing::of(amount).by(credit)),
            2 => Reaction::CountAmount(self.falls, Counting::Set, amount),
            3 => Reaction::CombatantFlag(Target::Subject, self.flag, dice.comes(2)),
            4 => Reaction::Score(self.score, ScoreValue::Amount(amount)),
            5 => Reaction::SpawnAttack(cloud, self.team, names.spot, credit),
            _ => Reaction::CombatantCount(Target::Subject, self.counter, Counting::Add, amount),
        }
    }
}

/// A gauge that fills by itself, gives a status when it is empty, and is full then, or is not.
pub(crate) fn wind(b: &mut RulesetBuilder, sheet: &Sheet, burn: StatusId, stat: StatId) -> GaugeId {
    let dice = &mut Dice(sheet.numbers.rotate_left(11));
    let mut wind = Gauge::new("wind", 9);
    if dice.comes(3) {
        wind = wind.of_stat(stat);
    }
    if dice.comes(2) {
        wind = wind
            .refill(Fixed::whole(25) * Fixed::whole(if dice.comes(3) { -1 } else { 1 }), dice.roll(6) as u32);
    }
    let low = b.threshold("low");
    let at_empty = AtEnd { grants: dice.comes(2).then_some(burn), turns: dice.comes(3) };
    let at_full = AtEnd { grants: dice.comes(4).then_some(burn), turns: dice.comes(4) };
    b.gauge(wind.threshold(low, Fixed::ratio(1, 2)).at_empty(at_empty).at_full(at_full))
}

/// An attack may drain and cost, cool down, have uses, wait, and be cancelled into others.
pub(crate) fn costly(
    mut attack: Attack,
    dice: &mut Dice,
    wind: GaugeId,
    stunned: StatusId,
    word: WordId,
) -> Attack {
    let charged = attack.is_charged();
    if dice.comes(3) {
        attack = attack.drains(wind, dice.roll(5) as i64);
    }
    if dice.comes(4) {
        let held = if charged { Fixed::whole(60) } else { Fixed::ZERO };
        let (start, landed) = (dice.roll(4) as i64, dice.roll(3) as i64);
        attack = attack.costs(Cost { gauge: wind, start, landed, held });
    }
    if dice.comes(6) {
        let group = dice.comes(2).then(|| "group".to_owned());
        attack = attack.cooldown(Cooldown { lasts: 1 + dice.roll(9) as u32, from_end: dice.comes(2), group });
    }
    if dice.comes(6) {
        let refill = dice.comes(2).then_some(1 + dice.roll(9) as u32);
        attack = attack.uses(Uses { max: 1 + dice.roll(3) as u16, refill });
    }
    if dice.comes(5) {
        let mut grip = Grip::at(Pose::at([0.0, 0.0, 0.4])).lasts(1 + dice.roll(12) as u32);
        if dice.comes(2) {
            grip = grip.breaks_after(1 + dice.roll(5) as i64);
        }
        attack = attack.holds(if dice.comes(2) { grip.status(stunned) } else { grip });
    }
    if dice.comes(4) {
        let critical = Condition::Field(word, Held::Truth(dice.comes(2)));
        let when = if dice.comes(2) { critical } else { Condition::Chance(Fixed::ratio(1, 2)) };
        attack = attack.inflicts_when(stunned, Fixed::ONE, vec![when]);
    }
    if dice.comes(3) {
        attack = attack.buffer(dice.roll(5) as u32);
    }
    if dice.comes(3) {
        let on = CancelOn::ALL[dice.roll(4) as usize];
        attack = attack.cancels(Cancel { into: vec!["attack 0".to_owned()], from: 0, to: 9, on });
    }
    attack
}
