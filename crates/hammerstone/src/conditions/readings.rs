//! What is read in a fight.

use glam::Vec3;

use crate::Fixed;
use crate::detect::InTheWay;
use crate::event::HostValue;
use crate::ruleset::{Condition, Held, Party, Portion, Reading};
use crate::sheet;

use super::Setting;

impl Setting<'_> {
    /// The value of a reading; none where there is nothing to read.
    pub(crate) fn read(&self, reading: Reading) -> Option<Fixed> {
        let state = self.state;
        let combatants = &state.combatants;
        Some(match reading {
            Reading::Field(name) => self.field(&self.rules.words[name.index()])?.number()?,
            Reading::Health(party, portion) => {
                let slot = self.slot(party)?;
                portion_of(portion, combatants.health[slot].into(), combatants.max[slot].into())
            }
            Reading::Gauge(party, gauge, portion) => {
                let row = combatants.gauges.iter(self.slot(party)?).find(|row| row.gauge == gauge)?;
                portion_of(portion, row.points.into(), row.max.into())
            }
            Reading::Stat(party, stat) => sheet::stat(self.rules, state, self.slot(party)?, stat),
            Reading::Counter(counter) => Fixed::whole(state.counters[counter.index()]),
            Reading::CombatantCounter(party, counter) => {
                Fixed::whole(combatants.counted(self.slot(party)?, counter))
            }
            Reading::Score(score) => Fixed::whole(state.scores[score.index()]),
            Reading::Distance => {
                let at = |party| Some(Vec3::from_array(combatants.pose[self.slot(party)?].at));
                let metres = (at(Party::Subject)? - at(Party::Other)?).length();
                // Whole centimetres, as in amounts.
                Fixed::ratio((f64::from(metres) * 100.0).round() as i64, 100)
            }
        })
    }

    /// Whether nothing solid stands between the parties.
    pub(super) fn sees(&self) -> Option<bool> {
        let [from, to] = [self.middle(Party::Subject)?, self.middle(Party::Other)?];
        let way = to - from;
        let length = way.length();
        if length == 0.0 {
            return Some(true);
        }
        let in_the_way = InTheWay { level: self.level, obstacles: &self.state.obstacles, stops: &[] };
        let (_, barrier) = in_the_way.reach_of_line(from, way / length, length, 1.0);
        Some(barrier.is_none())
    }

    /// The middle of a party between the lowest and the highest point of its parts.
    fn middle(&self, party: Party) -> Option<Vec3> {
        let slot = self.slot(party)?;
        let combatants = &self.state.combatants;
        let bounds = &self.rules.template_plan(combatants.template[slot]).bounds;
        let size = combatants.size[slot].to_f64() as f32;
        let raised = Vec3::from_array(self.rules.up.vector()) * ((bounds.low + bounds.high) * 0.5 * size);
        Some(Vec3::from_array(combatants.pose[slot].at) + raised)
    }

    /// The numbers that a condition looked at: the left one, and the right one where two are compared.
    pub(super) fn found(&self, condition: &Condition) -> [Option<Fixed>; 2] {
        let state = self.state;
        let one = match *condition {
            Condition::Between(reading, ..) => self.read(reading),
            Condition::Compare(left, _, right) => return [self.read(left), self.read(right)],
            Condition::Flag(flag, _) => Some(Fixed::whole(state.flags[flag.index()].into())),
            Condition::CombatantFlag(party, flag, _) => self
                .slot(party)
                .map(|slot| Fixed::whole(state.combatants.flags.iter(slot).any(|has| *has == flag).into())),
            Condition::Crossed(..) => return self.crossed().map_or([None; 2], |both| both.map(Some)),
            Condition::Time(..) => Some(Fixed::whole(state.tick.into())),
            Condition::Round(..) => Some(Fixed::whole(state.round.into())),
            Condition::Alive(ref group, ..) => Some(Fixed::whole(state.standing(self.rules, group) as i64)),
            Condition::OutOfLives(ref group) => Some(Fixed::whole(state.standing(self.rules, group) as i64)),
            Condition::WavesOver(waves) => Some(Fixed::whole(state.waves[waves.index()].come.into())),
            Condition::Since(topic, ..) => self.since(topic).map(|ticks| Fixed::whole(ticks.into())),
            Condition::Field(name, Held::Between(..)) => {
                self.field(&self.rules.words[name.index()]).and_then(|value| value.number())
            }
            _ => None,
        };
        [one, None]
    }
}

/// What is read of a gauge with so many points of so many.
fn portion_of(portion: Portion, points: i64, maximum: i64) -> Fixed {
    match portion {
        Portion::Points => Fixed::whole(points),
        Portion::Share if maximum == 0 => Fixed::ZERO,
        Portion::Share => Fixed::ratio(points, maximum),
        Portion::Maximum => Fixed::whole(maximum),
    }
}

/// The number that a value of the host's own holds.
pub(super) fn number_of(value: HostValue) -> Option<Fixed> {
    match value {
        HostValue::Whole(whole) => Some(Fixed::whole(whole)),
        HostValue::Exact(exact) => Some(exact),
        _ => None,
    }
}
