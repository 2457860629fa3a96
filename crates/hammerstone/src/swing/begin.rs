//! How swings begin: by order, as nobody's, as another's child.

use crate::Fixed;
use crate::budget::Source;
use crate::event::{AttackStarted, CutAt, CutBy, SwingEnd};
use crate::geometry::Pose;
use crate::ids::*;
use crate::ruleset::{Chance, Direction, Role, When};
use crate::sheet;
use crate::state::{Application, Captured, Chain, ChainStep, Charging, Child, Life, Swing};
use crate::work::Work;

use super::flight;

/// A combatant starts an attack; it was seen to be able to.
pub(crate) fn begin_ordered(
    work: &mut Work<'_>,
    id: SwingId,
    subject: CombatantId,
    attack: AttackId,
    aim: Option<Pose>,
) {
    let rules = work.rules;
    let combatants = &mut work.state.combatants;
    let slot = subject.slot();
    let busy = !rules.attack(attack).alongside;
    combatants.running[slot] += u16::from(busy);
    let who = Whose {
        attacker: Some(subject),
        team: combatants.team[slot],
        credit: Some(combatants.credit[slot]),
        key: combatants.key[slot],
    };
    begin(work, id, attack, &who, aim, busy, 0);
    note_chain(work, slot, attack);
}

/// An attack starts that is nobody's.
pub(crate) fn begin_spawned(work: &mut Work<'_>, id: SwingId, attack: AttackId, team: TeamId, pose: Pose) {
    let who = Whose { attacker: None, team, credit: None, key: 0 };
    begin(work, id, attack, &who, Some(pose), false, 0);
}

/// Children of the last tick begin.
pub(crate) fn begin_children(work: &mut Work<'_>) {
    let mut children = std::mem::take(&mut work.state.children);
    for child in children.drain(..) {
        work.log.begin_root();
        // What would not outlive its attacker does not begin without them.
        let stands = |who| work.state.combatants.life_of(who) == Life::Standing;
        if !work.rules.attack(child.attack).outlives && child.attacker.is_some_and(|who| !stands(who)) {
            continue;
        }
        let id = work.state.registrar.next_swing();
        let Child { attacker, team, credit, key, .. } = child;
        begin(
            work,
            id,
            child.attack,
            &Whose { attacker, team, credit, key },
            Some(child.pose),
            false,
            child.links,
        );
        if let Some(velocity) = child.velocity
            && let Some(index) = work.state.swing_index(id)
        {
            flight::launch_back(work, index, child.pose, velocity);
        }
    }
    work.state.children = children;
}

/// The attack of the swing at `index` starts others `when` something has come of it, at `pose`.
pub(crate) fn child(work: &mut Work<'_>, index: usize, when: When, pose: Pose) {
    let rules = work.rules;
    let swing = work.state.swings[index];
    for &(_, attack) in rules.attack(swing.attack).child_ids.iter().filter(|(on, _)| *on == when) {
        let links = swing.links + 1;
        if links > rules.child_limit {
            let source = Source { depth: links, ..work.log.source };
            work.log.budget.note(source, CutBy::Links, CutAt::Child(attack, when));
            continue;
        }
        if !work.log.allows(|| CutAt::Child(attack, when)) {
            continue;
        }
        let Swing { attacker, team, credit, key, .. } = swing;
        work.state.children.push(Child { attack, attacker, team, credit, key, pose, links, velocity: None });
    }
}

/// Whose a swing is.
struct Whose {
    attacker: Option<CombatantId>,
    team: TeamId,
    credit: Option<CombatantId>,
    key: u64,
}

fn begin(
    work: &mut Work<'_>,
    id: SwingId,
    attack: AttackId,
    whose: &Whose,
    anchor: Option<Pose>,
    busy: bool,
    links: u16,
) {
    let authored = work.rules.attack(attack);
    let state = &mut *work.state;
    let present = whose.attacker.filter(|&who| state.combatants.life_of(who) != Life::Gone);
    let start = match present {
        Some(attacker) => state.combatants.count_start(attacker.slot(), attack),
        None => {
            let count = &mut state.unowned_starts[attack.index()];
            *count += 1;
            *count
        }
    };
    let held = authored.charge.map_or(0, |charge| charge.most);
    let longest = authored.total.saturating_add(held).saturating_add(work.rules.hit_stop_limit);
    let charging =
        if authored.charge.is_some() { Charging::Held(0, false) } else { Charging::Released(Fixed::ZERO) };
    let swing = Swing {
        id,
        attack,
        attacker: whose.attacker,
        team: whose.team,
        credit: whose.credit,
        key: whose.key,
        start,
        template: present.map(|attacker| state.combatants.template[attacker.slot()]),
        clock: 0,
        age: 0,
        last_tick: state.tick.saturating_add(longest),
        stands: false,
        window: 0,
        ended: None,
        busy,
        charging,
        markers: (0, 0, false),
        anchor,
        guided: [Pose::IDENTITY; 2],
        was_guided: false,
        bodies: 0,
        launched: false,
        last_end: SwingEnd::Done,
        targets: 0,
        taken: 0,
        links,
        captured: Chain::default(),
        marks: Chain::default(),
        contacts: Chain::default(),
    };
    // Ids rise, but for presses of a chain that waited while others began.
    let place = state.swings.partition_point(|other| other.id < id);
    state.swings.insert(place, swing);
    if let Some(attacker) = present {
        capture(work, place, attacker);
    }
    work.log.publish(AttackStarted {
        subject: whose.attacker,
        attack,
        swing: id,
        form: authored.form.kind(),
        policy: authored.policy,
        max_targets: authored.max_targets,
        outlives: authored.outlives,
    });
}

/// The swing at `place` remembers what its attacker's stats and changes are as it begins.
fn capture(work: &mut Work<'_>, place: usize, attacker: CombatantId) {
    let (rules, state) = (work.rules, &mut *work.state);
    let attack = rules.attack(state.swings[place].attack);
    let mut chain = Chain::default();
    let critical = match attack.critical {
        Chance::Usual => rules.critical,
        Chance::Own(critical) => Some(critical),
        Chance::Never => None,
    };
    let drawn = attack.scaling.iter().filter(|draw| draw.of == Role::Attacker).map(|draw| draw.stat);
    let rolled = critical.into_iter().flat_map(|c| c.chance_stat.into_iter().chain(c.times_stat));
    for stat in drawn.chain(rolled) {
        let known = |captured: &Captured| matches!(captured, Captured::Stat(of, _) if *of == stat);
        if state.captured.find(chain, known).is_none() {
            let value = sheet::stat(rules, &*state, attacker.slot(), stat);
            state.captured.push(&mut chain, Captured::Stat(stat, value));
        }
    }
    if rules.uses.flows[Direction::DealsDamage as usize] || rules.uses.flows[Direction::GivesHealing as usize]
    {
        // The earliest first, so that the list, which gives the latest first, gives them in the order of a bearer's own.
        let mut next = 0;
        while let Some(at) = { state.borne_by(attacker) }.filter(|&at| at >= next).min() {
            next = at + 1;
            let application = state.applications[at];
            if application.runs() && !rules.status(application.status).amounts.is_empty() {
                let Application { status, strength, stacks, .. } = application;
                state.captured.push(&mut chain, Captured::Status(status, strength, stacks));
            }
        }
    }
    state.swings[place].captured = chain;
}

/// Remembers that the attacker in `slot` may follow `attack` up, if it may.
fn note_chain(work: &mut Work<'_>, slot: usize, attack: AttackId) {
    let Some(chain) = &work.rules.attack(attack).chain else { return };
    let Some(next) = chain.next_id else { return };
    let state = &mut *work.state;
    let who = state.combatants.id(slot);
    let known = state.step_of(who);
    // In the middle of a chain its first attack is remembered.
    let opener = known.filter(|step| step.next == attack).map_or(attack, |step| step.opener);
    let opens = state.tick + chain.opens;
    let lapses = state.tick + chain.lapses;
    state.set_step(who, Some(ChainStep { opener, from: attack, next, opens, lapses, pressed: None }));
}
