//! Rules whose reactions carry amounts, and choices with conditions of every sort.

use hammerstone::Fixed;
use hammerstone::amount::Step;
use hammerstone::flow::{
    Amount, Comparison, Condition, Counting, Credit, Crossings, Dealing, Group, Healing, Held, Party,
    Portion, Reaction, Reading, Rule, ScoreValue, SwingPhase, Target,
};
use hammerstone::prelude::*;

use crate::build::Names;
use crate::sheet::{Dice, Sheet};

/// For each rule of the sheet a choice of two cases.
pub(crate) fn carrying(b: &mut RulesetBuilder, sheet: &Sheet, names: &Names, cloud: AttackId) {
    let made = Made {
        flag: b.combatant_flag("marked"),
        counter: b.combatant_counter("bells"),
        falls: b.counter("falls"),
        score: b.score("tally"),
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
    ];
    for (i, &numbers) in sheet.rules.iter().enumerate() {
        let dice = &mut Dice(numbers.rotate_left(29) ^ numbers);
        let family = dice.comes(3);
        let hears = hears[dice.roll(7) as usize];
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
        match dice.roll(7) {
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
        match dice.roll(7) {
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
