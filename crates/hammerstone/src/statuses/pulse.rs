//! Pulses, and strengths that follow a stat.

use crate::event::{StatusPulsed, Via};
use crate::log::Log;
use crate::resolve::{self, AmountContext, Start};
use crate::rolls::Occasion;
use crate::ruleset::{Rules, Strength};
use crate::sheet::{self, StatsOf};
use crate::state::{Application, State, StatusAt};
use crate::terms::Life;
use crate::work::Work;

use super::apply;

/// Strengths that follow a stat of their source are those of this moment.
pub(crate) fn follow_stats(rules: &Rules, state: &mut State, log: &mut Log) {
    if !rules.uses.live {
        return;
    }
    for place in 0..state.applications.len() {
        let Application { status, source, given, strength, subject, .. } = state.applications[place];
        let authored = rules.status(status);
        if let (Strength::Live(stat), Some(source)) = (authored.strength, source)
            && state.applications[place].runs()
            && state.combatants.is_present(source)
        {
            let now = (given * sheet::stat(rules, &*state, source.slot(), stat)).or_nothing();
            if now != strength {
                state.applications[place].strength = now;
                apply::changed(rules, state, log, authored, subject);
            }
        }
    }
}

/// One pulse of the status at `index`: damage of all its damage types, then healing, if its bearer lives.
pub(crate) fn pulse(work: &mut Work<'_>, index: StatusAt) {
    let rules = work.rules;
    let application = &mut work.state.applications[index];
    let authored = rules.status(application.status);
    let Some(pulse) = &authored.pulse else { return };
    application.due = application.due.map(|due| due + pulse.every);
    application.pulses += 1;
    let Application { id, subject, status, source, credit, team, strength, stacks, .. } = *application;
    let occasion = Occasion {
        attacker: application.source_key,
        via: rules.status_keys[application.status.index()],
        start: application.applied.into(),
        target: work.state.combatants.key[subject.slot()],
        ordinal: application.pulses.into(),
    };
    work.log.publish(StatusPulsed { application: id, subject, status, strength, stacks });
    let blow = AmountContext {
        credit,
        team: team.or(work.state.team_of(source)),
        dealer: StatsOf::of(work.state, source),
        strength: Some((strength, stacks)),
        occasion: Some(occasion.drawn(work.state.seed)),
        absolute: pulse.absolute,
        ..AmountContext::plain(subject, source, Via::Status(status))
    };
    if !pulse.damage.is_empty() {
        work.rooms.blows.terms.clear();
        let damages =
            pulse.damage.iter().map(|damage| (damage.damage_type, Start::Rolled(damage.low, damage.high)));
        resolve::deal(work, &blow, damages);
        resolve::deal_echoes(work);
    }
    if let Some((low, high)) = pulse.heal
        && work.state.combatants.life_of(subject) == Life::Standing
    {
        resolve::heal(work, &blow, Start::Rolled(low, high));
    }
}
