//! What a blow would come to, without striking it.

use crate::Fixed;
use crate::budget::Budget;
use crate::budget::Source;
use crate::event::{LedgerLine, Via};
use crate::hooks::Host;
use crate::ids::*;
use crate::rolls::Occasion;
use crate::ruleset::Ruleset;
use crate::sheet::StatsOf;
use crate::state::State;
use crate::terms::{Definition, Refusal};

use super::r2_amount::{self, AmountContext, Ground, Luck, Start, Tally};
use super::r3_deal::{OnTheWay, Running, one_damage_type};
use super::r3_heal::amount_of_healing;

/// What a blow would come to.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Preview {
    /// Each damage type, with its ledger.
    pub damage_types: Vec<PreviewDamage>,
    /// What it would heal, before what is missing of the maximum, with its ledger.
    pub heals: Option<(i64, Vec<LedgerLine>)>,
    /// Health before and after; what is absorbed and healed comes on top.
    pub health: (i64, i64),
    /// Whether it would be critical.
    pub critical: bool,
    /// Whether the target would die.
    pub deaths: bool,
}

/// One damage type of a preview.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct PreviewDamage {
    /// The damage type.
    pub damage_type: DamageTypeId,
    /// What health would lose, in points.
    pub amount: i64,
    /// What would be absorbed and heal instead.
    pub absorbed: i64,
    /// What the amount is made of.
    pub ledger: Vec<LedgerLine>,
}

/// A blow of `attacker`, standing where it stands, on a part of `target`.
fn foreseen(
    ruleset: &Ruleset,
    state: &State,
    attacker: CombatantId,
    attack: AttackId,
    (target, part): (CombatantId, u16),
    luck: Luck,
) -> Result<AmountContext, Refusal> {
    let rules = ruleset.compiled();
    let standing = |who: CombatantId| state.combatants.standing(who).map(|()| who.slot());
    let authored = rules.attacks.get(attack.index()).ok_or(Refusal::NotInRuleset(Definition::Attack))?;
    let (own, slot) = (standing(attacker)?, standing(target)?);
    let combatants = &state.combatants;
    if usize::from(part) >= rules.template(combatants.template[slot]).parts.len() {
        return Err(Refusal::NoSuchPart);
    }
    let started = combatants.starts.iter(own).find(|(of, _)| *of == attack);
    let occasion = Occasion {
        attacker: combatants.key[own],
        via: rules.attack_plan(attack).key,
        start: started.map_or(0, |(_, count)| u64::from(*count)) + 1,
        target: combatants.key[slot],
        ordinal: 1,
    };
    let at = |slot: usize| glam::Vec3::from_array(combatants.pose[slot].at);
    let blow = AmountContext {
        credit: Some(combatants.credit[own]),
        team: Some(combatants.team[own]),
        part: Some(part),
        charge: authored.charge.map(|charge| if luck == Luck::Most { charge.full } else { Fixed::ONE }),
        way: Some((at(own), at(slot))),
        dealer: StatsOf::of(state, Some(attacker)),
        occasion: Some(occasion.drawn(state.seed)),
        absolute: authored.absolute,
        luck,
        ..AmountContext::plain(target, Some(attacker), Via::Attack(attack))
    };
    let critical = r2_amount::critical(&Ground::new(ruleset, state, &[]), &blow);
    Ok(AmountContext { critical, ..blow })
}

/// What the blow would come to, with its ledgers.
pub(crate) fn preview(
    ruleset: &Ruleset,
    state: &State,
    host: &mut dyn Host,
    attacker: CombatantId,
    attack: AttackId,
    struck: (CombatantId, u16),
    luck: Luck,
) -> Result<Preview, Refusal> {
    let blow = foreseen(ruleset, state, attacker, attack, struck, luck)?;
    let ground = Ground::new(ruleset, state, &[]);
    let authored = ruleset.compiled().attack(attack);
    let health = i64::from(state.combatants.health[blow.target.slot()]);
    let (mut running, mut tally, mut echoes) = (Running::new(health), Tally::default(), Vec::new());
    let (mut budget, cause) = (Budget::default(), Source::default());
    let mut damage_types = Vec::new();
    for damage in &authored.damage {
        let mut ledger = Vec::new();
        let (running, tally, echoes) = (&mut running, &mut tally, &mut echoes);
        let on_the_way = OnTheWay { running, tally, echoes, budget: &mut budget, cause };
        let start = Start::Rolled(damage.low, damage.high);
        let (amount, absorbed) =
            one_damage_type(&ground, &blow, damage.damage_type, start, on_the_way, host, &mut ledger);
        damage_types.push(PreviewDamage { damage_type: damage.damage_type, amount, absorbed, ledger });
    }
    let heals = authored.heals.map(|(low, high)| {
        let mut ledger = Vec::new();
        let start = Start::Rolled(low, high);
        let amount = amount_of_healing(ground, &blow, start, &mut tally, host, &mut ledger);
        (amount, ledger)
    });
    let (critical, deaths) = (blow.critical.is_some(), running.left == 0);
    Ok(Preview { damage_types, heals, health: (health, running.left), critical, deaths })
}

/// Works out the same blow so many times, and gives the sum of what it comes to; only for measuring.
#[cfg(feature = "figures")]
pub(crate) fn work_out_again(
    ruleset: &Ruleset,
    state: &State,
    blows: &mut super::Blows,
    attacker: CombatantId,
    attack: AttackId,
    target: CombatantId,
    (times, with_ledger): (usize, bool),
) -> i64 {
    let mut ledger = Vec::new();
    let ground = Ground::new(ruleset, state, &[]);
    let mut sum = 0;
    for _ in 0..times {
        let struck = std::hint::black_box((target, 0));
        let Ok(blow) = foreseen(ruleset, state, attacker, attack, struck, Luck::Next) else { return 0 };
        blows.tally.clear();
        let mut running = Running::new(state.combatants.health[target.slot()].into());
        for damage in &ruleset.compiled().attack(attack).damage {
            let (tally, echoes) = (&mut blows.tally, &mut blows.echoes);
            let (budget, cause) = (&mut Budget::default(), Source::default());
            let on_the_way = OnTheWay { running: &mut running, tally, echoes, budget, cause };
            let start = Start::Rolled(damage.low, damage.high);
            let deaf = &mut ();
            let damage_type = damage.damage_type;
            ledger.clear();
            sum += match with_ledger {
                true => one_damage_type(&ground, &blow, damage_type, start, on_the_way, deaf, &mut ledger).0,
                false => one_damage_type(&ground, &blow, damage_type, start, on_the_way, deaf, &mut ()).0,
            };
        }
    }
    sum
}
