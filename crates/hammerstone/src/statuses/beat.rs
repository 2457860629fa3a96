//! Beats, and strengths that follow a stat.

use crate::event::{Event, Means};
use crate::resolve::{self, Blow, Start};
use crate::rolls::Occasion;
use crate::ruleset::Strength;
use crate::sheet;
use crate::state::{Application, Life};
use crate::work::Work;

use super::apply;

/// Strengths that follow a stat of their source are those of this moment.
pub(crate) fn follow_stats(work: &mut Work<'_>) {
    if !work.rules.uses.live {
        return;
    }
    for place in 0..work.state.applications.len() {
        let Application { status, source, given, strength, subject, .. } = work.state.applications[place];
        let authored = work.rules.status(status);
        if let (Strength::Live(stat), Some(source)) = (authored.strength, source)
            && work.state.applications[place].runs()
            && work.state.combatants.is_present(source)
        {
            let now = (given * sheet::stat(work.rules, &*work.state, source.slot(), stat)).or_nothing();
            if now != strength {
                work.state.applications[place].strength = now;
                apply::changed(work, authored, subject);
            }
        }
    }
}

/// One beat of the status at `index`: harm of all its kinds, then healing, if its bearer lives.
pub(crate) fn beat(work: &mut Work<'_>, index: usize) {
    let rules = work.rules;
    let application = &mut work.state.applications[index];
    let authored = rules.status(application.status);
    let Some(beat) = &authored.beat else { return };
    application.due = application.due.map(|due| due + beat.every);
    application.beats += 1;
    let Application { id, subject, status, source, credit, team, strength, pile, .. } = *application;
    let occasion = Occasion {
        attacker: application.source_key,
        means: authored.key,
        start: application.applied.into(),
        target: work.state.combatants.key[subject.slot()],
        ordinal: application.beats.into(),
    };
    work.publish(Event::StatusBeat { application: id, subject, status, strength, pile });
    let blow = Blow {
        credit,
        team: team.or(work.state.team_of(source)),
        dealer: work.state.whose(source),
        strength: Some((strength, pile)),
        occasion: Some(occasion),
        absolute: beat.absolute,
        ..Blow::plain(subject, source, Means::Status(status))
    };
    if !beat.harm.is_empty() {
        work.scratch.terms.clear();
        let harms = beat.harm.iter().map(|harm| (harm.kind, Start::Rolled(harm.low, harm.high)));
        resolve::deal(work, &blow, harms);
        resolve::deal_echoes(work);
    }
    if let Some((low, high)) = beat.heal
        && work.state.combatants.life_of(subject) == Life::Standing
    {
        resolve::heal(work, &blow, Start::Rolled(low, high));
    }
}
