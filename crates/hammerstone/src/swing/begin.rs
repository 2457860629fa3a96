//! How swings begin: by order, as no one's, as another's child.

use crate::Fixed;
use crate::budget::Source;
use crate::event::{AttackStarted, CutAt, CutBy, SwingEnd};
use crate::geometry::Pose;
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::{Chance, Direction, Role, Rules, When};
use crate::sheet;
use crate::state::{Application, Back, Captured, Chain, ChainStep, Charging, Child, State, Swing, SwingAt};
use crate::terms::Life;

use super::{Known, flight};

/// A combatant starts an attack; it was seen to be able to.
pub(crate) fn begin_ordered(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    id: SwingId,
    subject: CombatantId,
    attack: AttackId,
    aim: Option<Pose>,
) {
    let combatants = &mut state.combatants;
    let slot = subject.slot();
    let busy = !rules.attack(attack).alongside;
    combatants.running[slot] += u16::from(busy);
    let whose = StatsOf {
        attacker: Some(subject),
        team: combatants.team[slot],
        credit: Some(combatants.credit[slot]),
        key: combatants.key[slot],
    };
    begin(rules, state, log, Beginning { id, attack, whose, anchor: aim, busy, links: 0 });
    note_chain(rules, state, slot, attack);
}

/// Whose an attack is that has no attacker: the team that it counts for, and who gets the credit.
#[derive(Clone, Copy)]
pub(crate) struct Spawned {
    pub(crate) team: TeamId,
    pub(crate) credit: Option<CombatantId>,
}

/// An attack starts without an attacker.
pub(crate) fn begin_spawned(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    id: SwingId,
    attack: AttackId,
    Spawned { team, credit }: Spawned,
    pose: Pose,
) {
    let credit = credit.map(|who| state.combatants.root_owner(who));
    let whose = StatsOf { attacker: None, team, credit, key: 0 };
    begin(rules, state, log, Beginning { id, attack, whose, anchor: Some(pose), busy: false, links: 0 });
}

/// Children of the last tick begin.
pub(crate) fn begin_children(rules: &Rules, state: &mut State, log: &mut Log, known: &mut Known) {
    let born = state.children.len();
    for place in 0..born {
        let child = state.children[place];
        log.begin_root();
        // What would not outlive its attacker does not begin without them.
        let stands = |who| state.combatants.life_of(who) == Life::Standing;
        if !rules.attack(child.attack).outlives && child.attacker.is_some_and(|who| !stands(who)) {
            if let Some(mut back) = child.back {
                state.captured.clear(&mut back.captured);
                state.struck.clear(&mut back.struck);
            }
            continue;
        }
        let id = state.registrar.next_swing();
        let Child { attacker, team, credit, key, .. } = child;
        let whose = StatsOf { attacker, team, credit, key };
        let (attack, anchor, links) = (child.attack, Some(child.pose), child.links);
        begin(rules, state, log, Beginning { id, attack, whose, anchor, busy: false, links });
        if let Some(back) = child.back
            && let Some(index) = state.swing_index(id)
        {
            take_back(state, known, index, &back);
            flight::launch_back(rules, state, index, child.pose, back.velocity);
        }
    }
    state.children.drain(..born);
}

/// What was deflected keeps the stats and the struck list that it had.
fn take_back(state: &mut State, known: &mut Known, index: SwingAt, back: &Back) {
    let mut own = std::mem::replace(&mut state.swings[index].captured, back.captured);
    state.captured.clear(&mut own);
    let swing = &mut state.swings[index];
    (swing.charging, swing.template, swing.targets) = (back.charging, back.template, back.targets);
    swing.struck = back.struck;
    let id = swing.id;
    let places: Vec<usize> = state.struck.places(back.struck).collect();
    // The table gives the latest first.
    for place in places.into_iter().rev() {
        known.struck.add(id, state.struck.get(place).target, place);
    }
}

/// The attack of the swing at `index` starts others `when` something has come of it, at `pose`.
pub(crate) fn child(rules: &Rules, state: &mut State, log: &mut Log, index: SwingAt, when: When, pose: Pose) {
    let swing = state.swings[index];
    for &(_, attack) in rules.attack_plan(swing.attack).children.iter().filter(|(on, _)| *on == when) {
        let links = swing.links + 1;
        if links > rules.child_limit {
            let source = Source { depth: links, ..log.source };
            log.budget.note(source, CutBy::Links, CutAt::Child(attack, when));
            continue;
        }
        if !log.allows(|| CutAt::Child(attack, when)) {
            continue;
        }
        let Swing { attacker, team, credit, key, .. } = swing;
        state.children.push(Child { attack, attacker, team, credit, key, pose, links, back: None });
    }
}

/// Whose a swing is.
struct StatsOf {
    attacker: Option<CombatantId>,
    team: TeamId,
    credit: Option<CombatantId>,
    key: u64,
}

/// A swing that begins.
struct Beginning {
    id: SwingId,
    attack: AttackId,
    whose: StatsOf,
    /// Where it is, unless it is with its attacker.
    anchor: Option<Pose>,
    /// Whether it binds its attacker's hands.
    busy: bool,
    links: u16,
}

fn begin(rules: &Rules, state: &mut State, log: &mut Log, beginning: Beginning) {
    let Beginning { id, attack, whose, anchor, busy, links } = beginning;
    let authored = rules.attack(attack);
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
    let longest = rules.attack_plan(attack).total.saturating_add(held).saturating_add(rules.hit_stop_limit);
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
        steps: 0,
        left_over: 0,
        window: 0,
        ended: None,
        busy,
        charging,
        markers: (0, 0, false),
        opened_at: 0,
        anchor,
        guided: Chain::default(),
        bodies: 0,
        launched: false,
        last_end: SwingEnd::Done,
        guarded: false,
        targets: 0,
        taken: 0,
        links,
        captured: Chain::default(),
        struck: Chain::default(),
        contacts: Chain::default(),
    };
    // Ids rise, but for presses of a chain that waited while others began.
    let place = SwingAt::new(state.swings.partition_point(|other| other.id < id));
    state.swings.insert(place.number(), swing);
    if let Some(attacker) = present {
        capture(rules, state, place, attacker);
    }
    log.publish(AttackStarted {
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
fn capture(rules: &Rules, state: &mut State, place: SwingAt, attacker: CombatantId) {
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
        let mut last = None;
        while let Some(at) = { state.statuses_on(attacker) }.filter(|&at| Some(at) > last).min() {
            last = Some(at);
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
fn note_chain(rules: &Rules, state: &mut State, slot: usize, attack: AttackId) {
    let Some(chain) = &rules.attack(attack).chain else { return };
    let Some(next) = rules.attack_plan(attack).next else { return };
    let who = state.combatants.id(slot);
    let known = state.step_of(who);
    // In the middle of a chain its first attack is remembered.
    let opener = known.filter(|step| step.next == attack).map_or(attack, |step| step.opener);
    let opens = state.tick + chain.opens;
    let lapses = state.tick + chain.lapses;
    state.set_step(who, Some(ChainStep { opener, from: attack, next, opens, lapses, pressed: None }));
}
