//! What a combatant comes to at the moment: its stats, its tags, what it changes in amounts.

use crate::Fixed;
use crate::event::Cause;
use crate::geometry::Pose;
use crate::ids::*;
use crate::ruleset::{AmountChange, Direction, Modifier, Rules};
use crate::state::{Application, Bearers, Captured, Chain, State};

/// A number with all that changes it, taken together: (number + raises) × (1 + shares) × scales, then the latest pin.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Sum {
    raises: Fixed,
    shares: Fixed,
    scales: Fixed,
    pin: Option<Fixed>,
}

impl Sum {
    pub(crate) const NONE: Sum =
        Sum { raises: Fixed::ZERO, shares: Fixed::ONE, scales: Fixed::ONE, pin: None };

    pub(crate) fn take(&mut self, by: Modifier) {
        match by {
            Modifier::Add(value) => self.raises += value,
            Modifier::AddShare(value) => self.shares += value,
            Modifier::Multiply(value) => self.scales *= value,
            Modifier::Set(value) => self.pin = Some(value),
        }
    }

    pub(crate) fn of(&self, base: Fixed) -> Fixed {
        self.pin.unwrap_or((base + self.raises) * self.shares * self.scales)
    }
}

/// What a stat is and what makes it so.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct StatAccount {
    /// What the template, or the ruleset, says.
    pub base: Fixed,
    /// Each change with its cause, in the order of applying; those of the host come last.
    pub changes: Vec<(Cause, Modifier)>,
    /// What it comes to: (base + raises) × (1 + shares) × scales, then the latest pin.
    pub value: Fixed,
}

/// Hands every change of `stat` to `each`, in the order of applying; those of the host last.
fn stat_changes(
    rules: &Rules,
    bearers: Bearers<'_>,
    slot: usize,
    stat: StatId,
    mut each: impl FnMut(Cause, Modifier, u64),
) {
    let statuses_of = rules.uses.stats[stat.index()].then(|| bearers.running_on(slot));
    for application in statuses_of.into_iter().flatten() {
        let authored = rules.status(application.status);
        for change in authored.stats.iter().filter(|change| change.stat == stat) {
            let by = change.by.at(application.strength, application.stacks);
            each(Cause::Status(application.status), by, application.id.number());
        }
    }
    let combatants = bearers.combatants;
    for change in combatants.host_changes.iter(slot) {
        if change.stat == stat {
            each(Cause::Host(change.reason), change.by, u64::MAX);
        }
    }
}

fn stat_base(rules: &Rules, template: TemplateId, stat: StatId) -> Fixed {
    let own = rules.template(template).stats.iter().find(|(of, _)| *of == stat);
    own.map_or(rules.stats[stat.index()].base, |&(_, base)| base)
}

/// What the stat of the combatant in `slot` comes to.
pub(crate) fn stat<'a>(rules: &Rules, bearers: impl Into<Bearers<'a>>, slot: usize, stat: StatId) -> Fixed {
    let bearers = bearers.into();
    let base = stat_base(rules, bearers.combatants.template[slot], stat);
    if !rules.uses.stats[stat.index()] && bearers.combatants.host_changes.is_empty(slot) {
        return base;
    }
    let mut sum = Sum::NONE;
    // The lists give the latest first, and the latest pin holds; the host's comes over those of statuses.
    let (mut pin, mut host_pin) = (None, None);
    stat_changes(rules, bearers, slot, stat, |cause, by, _| match (by, cause) {
        (Modifier::Set(value), Cause::Host(_)) => host_pin = host_pin.or(Some(value)),
        (Modifier::Set(value), _) => pin = pin.or(Some(value)),
        _ => sum.take(by),
    });
    sum.pin = host_pin.or(pin);
    sum.of(base)
}

/// The stat with everything that makes it what it is.
pub(crate) fn stat_account(rules: &Rules, bearers: Bearers<'_>, slot: usize, which: StatId) -> StatAccount {
    let mut changes = Vec::new();
    stat_changes(rules, bearers, slot, which, |cause, by, order| changes.push((order, cause, by)));
    changes.reverse();
    changes.sort_by_key(|(order, ..)| *order);
    StatAccount {
        base: stat_base(rules, bearers.combatants.template[slot], which),
        changes: changes.into_iter().map(|(_, cause, by)| (cause, by)).collect(),
        value: stat(rules, bearers, slot, which),
    }
}

/// Whether a status roots the combatant in `slot`.
pub(crate) fn is_rooted<'a>(rules: &Rules, bearers: impl Into<Bearers<'a>>, slot: usize) -> bool {
    rules.uses.roots
        && bearers.into().running_on(slot).any(|application| rules.status(application.status).roots)
}

/// Whether a status stuns the combatant in `slot`.
pub(crate) fn is_stunned<'a>(rules: &Rules, bearers: impl Into<Bearers<'a>>, slot: usize) -> bool {
    rules.uses.stuns
        && bearers.into().running_on(slot).any(|application| rules.status(application.status).stuns)
}

/// The tick in which the last of the statuses ends that stun the combatant in `slot`; none if no time ends one of them.
pub(crate) fn stunned_until<'a>(rules: &Rules, bearers: impl Into<Bearers<'a>>, slot: usize) -> Option<u32> {
    let stuns = |application: &&Application| rules.status(application.status).stuns;
    let mut ends = bearers.into().running_on(slot).filter(stuns).map(|application| application.ends);
    ends.try_fold(0, |last, ends| ends.map(|ends| last.max(ends)))
}

/// The tags of the combatant in `slot`: those of its template, and those that statuses add.
pub(crate) fn tags<'a>(rules: &Rules, bearers: impl Into<Bearers<'a>>, slot: usize) -> u64 {
    let bearers = bearers.into();
    let own = rules.template(bearers.combatants.template[slot]).tags;
    if !rules.uses.adds_tags {
        return own;
    }
    bearers.running_on(slot).fold(own, |tags, application| tags | rules.status(application.status).adds_tags)
}

/// The combatant that stats and changes of amounts are asked of.
#[derive(Clone, Copy, Debug)]
pub(crate) enum StatsOf {
    NoCombatant,
    /// One that is in the encounter, as it stands.
    Present(usize),
    /// An attacker as it was when its swing began.
    Captured(Chain, Option<TemplateId>),
}

impl StatsOf {
    /// Whose stats and changes count for what `source` does, as it stands.
    pub(crate) fn of(state: &State, source: Option<CombatantId>) -> StatsOf {
        match source.filter(|&who| state.combatants.is_present(who)) {
            Some(who) => StatsOf::Present(who.slot()),
            None => StatsOf::NoCombatant,
        }
    }

    /// What a stat of theirs comes to.
    pub(crate) fn stat(self, rules: &Rules, state: &State, which: StatId) -> Option<Fixed> {
        match self {
            StatsOf::NoCombatant => None,
            StatsOf::Present(slot) => Some(stat(rules, state, slot, which)),
            StatsOf::Captured(chain, _) => state.captured.items(chain).find_map(|captured| match *captured {
                Captured::Stat(of, value) if of == which => Some(value),
                _ => None,
            }),
        }
    }

    /// Hands each of their changes of amounts that flow so to `each`: the template's, then those of statuses, the latest first.
    pub(crate) fn changes(
        self,
        rules: &Rules,
        state: &State,
        flow: Direction,
        mut each: impl FnMut(Cause, &AmountChange, Modifier),
    ) {
        if !rules.uses.flows[flow as usize] {
            return;
        }
        let template = match self {
            StatsOf::NoCombatant => return,
            StatsOf::Present(slot) => Some(state.combatants.template[slot]),
            StatsOf::Captured(_, template) => template,
        };
        if let Some(template) = template {
            for change in rules.template(template).amounts.iter().filter(|change| change.flow == flow) {
                each(Cause::Template(template), change, change.by);
            }
        }
        let mut of_status = |status: StatusId, strength: Fixed, stacks: u16| {
            for change in rules.status(status).amounts.iter().filter(|change| change.flow == flow) {
                each(Cause::Status(status), change, change.by.at(strength, stacks));
            }
        };
        match self {
            StatsOf::NoCombatant => {}
            StatsOf::Present(slot) => {
                state.running_on(slot).for_each(|a| of_status(a.status, a.strength, a.stacks));
            }
            StatsOf::Captured(chain, _) => {
                for captured in state.captured.items(chain) {
                    if let Captured::Status(status, strength, stacks) = *captured {
                        of_status(status, strength, stacks);
                    }
                }
            }
        }
    }
}

/// The cosine of the angle between where one looks who stands so and the way to `from`, looked at from above; 0 if it is right there.
pub(crate) fn before(rules: &Rules, pose: Pose, from: glam::Vec3) -> f32 {
    use glam::Vec3;
    let up = Vec3::from_array(rules.up.vector());
    let forward = Vec3::from_array(pose.direction(crate::geometry::Axis::Z.vector()));
    let towards = from - Vec3::from_array(pose.at);
    let level = towards - up * up.dot(towards);
    let length = level.length();
    if length > 0.0 { level.dot(forward) / length } else { 0.0 }
}
