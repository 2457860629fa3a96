//! Whether conditions hold, and what was read for it.

mod fields;
mod readings;

use std::cell::Cell;

use crate::Fixed;
use crate::event::{Crossing, Event, GaugeCrossed, HealthCrossed, Loss};
use crate::ids::*;
use crate::level::Level;
use crate::rolls::{Occasion, Purpose};
use crate::ruleset::{Condition, Crossings, Group, Held, Party, Rules, Ruleset, SwingPhase};
use crate::sheet;
use crate::state::State;
use crate::terms::Life;
use crate::view::{Phase, View};

/// Where conditions are looked at, and on what occasion.
#[derive(Clone, Copy)]
pub(crate) struct Setting<'a> {
    pub(crate) ruleset: &'a Ruleset,
    pub(crate) rules: &'a Rules,
    pub(crate) state: &'a State,
    pub(crate) level: &'a Level,
    pub(crate) subject: Option<CombatantId>,
    pub(crate) other: Option<CombatantId>,
    /// The fact that is heard.
    pub(crate) fact: Option<&'a Event>,
    /// The hit for which a status is given.
    pub(crate) hit: Option<OfAHit>,
    /// What a roll depends on; to its ordinal comes the place of the condition.
    pub(crate) occasion: Occasion,
}

/// What a hit is known to be beside its fact, as in [`OF_A_HIT`](crate::ruleset::OF_A_HIT).
#[derive(Clone, Copy, Debug)]
pub(crate) struct OfAHit {
    pub(crate) critical: bool,
    pub(crate) charge: Fixed,
    pub(crate) amount: i64,
}

/// The conditions of one list, looked at one after the other.
pub(crate) struct Looking<'a> {
    setting: Setting<'a>,
    /// The number of the next condition.
    number: Cell<u16>,
    /// Whether anything was rolled.
    pub(crate) rolled: Cell<bool>,
}

impl<'a> Setting<'a> {
    /// The party, if the fact has one.
    fn party(&self, party: Party) -> Option<CombatantId> {
        match party {
            Party::Subject => self.subject,
            Party::Other => self.other,
        }
    }

    /// The place of a party that is in the encounter.
    fn slot(&self, party: Party) -> Option<usize> {
        self.party(party).filter(|&who| self.state.combatants.has_place(who)).map(CombatantId::slot)
    }

    pub(crate) fn look(self) -> Looking<'a> {
        Looking { setting: self, number: Cell::new(0), rolled: Cell::new(false) }
    }

    /// Whether a party, which may be gone since, is one of a group. Tags that statuses add count while they do.
    fn is_of(&self, party: Party, group: &Group) -> bool {
        let Some(slot) = self.slot(party) else { return false };
        let untagged = Group { tags: 0, ..*group };
        self.state.combatants.is_of(self.rules, slot, &untagged)
            && (group.tags == 0 || sheet::tags(self.rules, self.state, slot) & group.tags == group.tags)
    }

    /// Whether none of a group stands or returns by itself.
    fn is_out(&self, group: &Group) -> bool {
        let combatants = &self.state.combatants;
        let comes_back =
            |slot: usize| combatants.afterlife(slot).is_some_and(|afterlife| afterlife.back.is_some());
        !(0..combatants.slots()).filter(|&slot| combatants.is_of(self.rules, slot, group)).any(|slot| {
            match combatants.life[slot] {
                Life::Standing => true,
                Life::Dead | Life::Away => comes_back(slot),
                Life::Gone => false,
            }
        })
    }

    /// Whether a party is at a phase of any swing, or has none.
    fn is_at(&self, party: Party, wanted: SwingPhase) -> bool {
        let Some(who) = self.party(party) else { return false };
        let mut swings = View::of(self.ruleset, self.state).swings_of(who);
        match wanted {
            SwingPhase::Idle => swings.next().is_none(),
            _ => swings.any(|swing| phase_of(swing.phase) == wanted),
        }
    }

    /// How many ticks ago there was a fact of a topic; none if there was none yet.
    fn since(&self, topic: WordId) -> Option<u32> {
        let place = self.rules.remembered.iter().position(|(path, _)| *path == topic)?;
        match self.state.last_facts[place] {
            0 => None,
            last => Some(self.state.tick.saturating_sub(last)),
        }
    }

    /// The threshold that the fact says was crossed, and the direction.
    fn crossing(&self) -> Option<(ThresholdId, Crossing)> {
        match *self.fact? {
            Event::HealthCrossed(HealthCrossed { threshold, direction, .. })
            | Event::GaugeCrossed(GaugeCrossed { threshold, direction, .. }) => Some((threshold, direction)),
            _ => None,
        }
    }

    /// From where to where the fact says that a number went.
    fn crossed(&self) -> Option<[Fixed; 2]> {
        let number = |key| self.field(key)?.number();
        Some([number("from")?, number("to")?])
    }
}

fn phase_of(phase: Phase) -> SwingPhase {
    match phase {
        Phase::Charging => SwingPhase::Charging,
        Phase::Startup => SwingPhase::Startup,
        Phase::Active(_) => SwingPhase::Active,
        Phase::Between => SwingPhase::Between,
        Phase::Recovery => SwingPhase::Recovery,
    }
}

impl Looking<'_> {
    /// Whether a condition holds.
    pub(crate) fn holds(&self, condition: &Condition) -> bool {
        let setting = &self.setting;
        let (rules, state) = (setting.rules, setting.state);
        let number = self.number.get();
        self.number.set(number + 1);
        match *condition {
            Condition::All(ref inner) => self.each(inner, |holds| !holds).is_none(),
            Condition::Any(ref inner) => self.each(inner, |holds| holds).is_some(),
            Condition::Not(ref inner) => !self.holds(inner),
            Condition::Is(party, ref group) => setting.is_of(party, group),
            Condition::Between(reading, least, most) => {
                setting.read(reading).is_some_and(|found| (least..=most).contains(&found))
            }
            Condition::Compare(left, how, right) => {
                let both = setting.read(left).zip(setting.read(right));
                both.is_some_and(|(left, right)| how.holds(left, right))
            }
            Condition::CombatantFlag(party, flag, up) => {
                let slot = setting.slot(party);
                slot.is_some_and(|slot| state.combatants.flags.iter(slot).any(|has| *has == flag) == up)
            }
            Condition::Phase(party, phase) => setting.is_at(party, phase),
            Condition::Sight(clear) => setting.sees() == Some(clear),
            Condition::Threshold(wanted) => {
                setting.crossing().is_some_and(|(threshold, _)| threshold == wanted)
            }
            Condition::Downwards(wanted) => {
                let wanted = if wanted { Crossing::Down } else { Crossing::Up };
                setting.crossing().is_some_and(|(_, direction)| direction == wanted)
            }
            Condition::Crossed(at, how) => setting.crossed().is_some_and(|[from, to]| {
                let (up, down) = (from < at && to >= at, from >= at && to < at);
                match how {
                    Crossings::Up => up,
                    Crossings::Down => down,
                    Crossings::Both => up || down,
                }
            }),
            Condition::Status(wanted) => setting.fact.and_then(Event::status) == Some(wanted),
            Condition::Attack(wanted) => setting.fact.and_then(Event::attack) == Some(wanted),
            Condition::Flag(flag, up) => state.flags[flag.index()] == up,
            Condition::Time(least, most) => (least..=most).contains(&state.tick),
            Condition::Round(least, most) => (least..=most).contains(&state.round),
            Condition::Alive(ref group, least, most) => {
                let standing = state.standing(rules, group);
                (least as usize..=most as usize).contains(&standing)
            }
            Condition::OutOfLives(ref group) => setting.is_out(group),
            Condition::WavesOver(waves) => {
                Some(state.waves[waves.index()].come) == rules.waves[waves.index()].times_of()
            }
            Condition::Since(topic, least, most) => {
                let since = setting.since(topic);
                since.map_or(most == u32::MAX, |since| (least..=most).contains(&since))
            }
            Condition::Field(name, held) => match setting.field(&rules.words[name.index()]) {
                Some(value) => setting.is_held(value, held),
                // Some are there only where they are true.
                None => held == Held::Truth(false),
            },
            Condition::Chance(chance) => {
                self.rolled.set(true);
                let most = Fixed::ONE.to_raw() - 1;
                let ordinal = setting.occasion.ordinal << 16 | u64::from(number);
                let occasion = Occasion { ordinal, ..setting.occasion };
                occasion.whole(state.seed, 0, Purpose::Chance, 0, most) < chance.to_raw()
            }
        }
    }

    /// The place of the first condition of a list that `ends` the looking. The numbers of all of them are used up.
    fn each(&self, conditions: &[Condition], ends: impl Fn(bool) -> bool) -> Option<usize> {
        for (place, condition) in conditions.iter().enumerate() {
            if ends(self.holds(condition)) {
                let rest = conditions[place + 1..].iter().map(count).sum::<u16>();
                self.number.set(self.number.get() + rest);
                return Some(place);
            }
        }
        None
    }

    /// The place of the first condition that does not hold.
    pub(crate) fn first_lost(&self, conditions: &[Condition]) -> Option<usize> {
        self.each(conditions, |holds| !holds)
    }

    /// Notes why a condition, which does not hold although it should, or the other way about, is lost: the innermost ones that decide it, with
    /// what they found. Rolls fall as they did.
    pub(crate) fn note_losses(&self, condition: &Condition, wanted: bool, losses: &mut Vec<Loss>) {
        let number = self.number.get();
        match condition {
            Condition::Not(inner) => {
                self.number.set(number + 1);
                self.note_losses(inner, !wanted, losses);
            }
            Condition::All(inner) | Condition::Any(inner) => {
                self.number.set(number + 1);
                // Where one decides it, the others were not looked at.
                let one_decides = matches!(condition, Condition::All(_)) == wanted;
                for one in inner {
                    let before = self.number.get();
                    if self.holds(one) != wanted {
                        self.number.set(before);
                        self.note_losses(one, wanted, losses);
                        if one_decides {
                            break;
                        }
                        // It may have left some of its own out.
                        self.number.set(before + count(one));
                    }
                }
            }
            _ => {
                self.number.set(number + 1);
                losses.push(Loss { condition: number, wanted, found: self.setting.found(condition) });
            }
        }
    }

    /// From which number on conditions are looked at.
    pub(crate) fn begin_at(&self, number: u16) {
        self.number.set(number);
    }
}

/// How many conditions there are in one, with itself.
pub(crate) fn count(condition: &Condition) -> u16 {
    condition.inner().iter().map(count).sum::<u16>() + 1
}
