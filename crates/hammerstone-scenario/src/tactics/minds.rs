//! All minds of a fight.

use std::collections::BTreeMap;
use std::sync::Arc;

use hammerstone::event::{Event, HitLanded, HitPushed, TacticsRequested};
use hammerstone::flow::{Question, Tactic};
use hammerstone::ids::CombatantId;
use hammerstone::{Encounter, Life};
use hammerstone_record::Names;

use super::attacks::Lore;
use super::def::Tactics;
use super::mind::{Around, Ask, Carried, Mind};
use super::plane::Plane;
use super::sight::{Sight, clear_line};
use crate::Scenario;

/// The minds of stand-ins, beside an encounter: each tick they look at it, and give their orders.
///
/// They are no part of the encounter's state, nor of its saves; a log has their orders. After a reset they begin anew.
///
/// ```
/// # use hammerstone_scenario::{Minds, Scenario};
/// # fn run(scenario: &Scenario, encounter: &mut hammerstone::Encounter, names: &hammerstone_record::Names) -> Result<(), hammerstone::TickError> {
/// let mut minds = Minds::of(scenario);
/// loop {
///     minds.think(encounter, names);
///     encounter.tick()?;
/// #   break Ok(());
/// }
/// # }
/// ```
#[derive(Clone, Debug)]
pub struct Minds {
    set: Arc<[Tactics]>,
    lore: Arc<Lore>,
    line: Option<Question>,
    plane: Plane,
    tells: bool,
    epoch: u32,
    /// By rising id.
    minds: Vec<Mind>,
    /// Tactics that were given to one, in place of those of its group; none for none.
    given: BTreeMap<CombatantId, Option<usize>>,
    skills: BTreeMap<CombatantId, i64>,
    sight: Sight,
    asks: Vec<(CombatantId, Ask)>,
}

impl Minds {
    /// The minds of a scenario's stand-ins.
    pub fn of(scenario: &Scenario) -> Minds {
        let rules = &scenario.rules.ruleset;
        Minds {
            set: scenario.tactics.clone(),
            lore: Arc::new(Lore::of(rules)),
            line: clear_line(rules),
            plane: Plane::across(rules.up()),
            tells: false,
            epoch: 0,
            minds: Vec::new(),
            given: BTreeMap::new(),
            skills: BTreeMap::new(),
            sight: Sight::default(),
            asks: Vec::new(),
        }
    }

    /// Whether there are any tactics at all.
    pub fn is_empty(&self) -> bool {
        self.set.is_empty()
    }

    /// Choices are told from now on, as facts: `tactics.chose` and `tactics.dropped`.
    pub fn tell(&mut self, tells: bool) {
        self.tells = tells;
    }

    /// One takes to tactics by their name, in place of those of its group; with none it is left to the host. Gives whether there are such.
    pub fn assign(&mut self, who: CombatantId, tactics: Option<&str>) -> bool {
        let place = tactics.map(|name| self.set.iter().position(|of| of.name == name));
        match place {
            Some(None) => false,
            Some(place @ Some(_)) => {
                self.give(who, place);
                true
            }
            None => {
                self.give(who, None);
                true
            }
        }
    }

    /// One has the tactics of its group again.
    pub fn unassign(&mut self, who: CombatantId) {
        self.given.remove(&who);
        if let Some(mind) = of(&mut self.minds, who) {
            mind.rest();
        }
    }

    pub(crate) fn give(&mut self, who: CombatantId, tactics: Option<usize>) {
        self.given.insert(who, tactics);
        if let Some(mind) = of(&mut self.minds, who) {
            mind.rest();
            mind.tactics = tactics;
        }
    }

    /// The skill of one, in ten-thousandths, in place of that of its tactics.
    pub(crate) fn give_skill(&mut self, who: CombatantId, skill: i64) {
        self.skills.insert(who, skill);
    }

    /// Looks at an encounter before its next tick, and gives the orders of all stand-ins.
    pub fn think(&mut self, encounter: &mut Encounter, names: &Names) {
        if self.set.is_empty() {
            return;
        }
        if encounter.epoch() != self.epoch {
            self.epoch = encounter.epoch();
            self.minds.clear();
        }
        self.hear(encounter);
        self.sight.look(encounter, &self.lore, &self.plane);
        self.meet(encounter);
        self.sight.press_aside();
        let called = |who: CombatantId| names.of(who).to_owned();
        let around = Around {
            encounter,
            view: encounter.view(),
            sight: &self.sight,
            lore: &self.lore,
            plane: self.plane,
            line: self.line.as_ref(),
            now: encounter.view().tick(),
            tells: self.tells,
            names: &called,
        };
        let asks = &mut self.asks;
        let mut minds = self.minds.iter_mut();
        for (place, me) in self.sight.bodies.iter().enumerate() {
            let Some(mind) = minds.find(|mind| mind.who == me.who) else { break };
            if !me.stands {
                mind.rest();
                continue;
            }
            if mind.looks_at(around.now) {
                let tactics = match self.given.get(&me.who) {
                    Some(given) => *given,
                    None => fitting(&self.set, &around, me.who),
                };
                if tactics != mind.tactics {
                    mind.rest();
                    mind.tactics = tactics;
                }
            }
            let Some(tactics) = mind.tactics.and_then(|place| self.set.get(place)) else {
                mind.next_look(&around, AGAIN);
                continue;
            };
            mind.think(&around, me, tactics, asks);
            if let Some(pose) = mind.step(&around, me, place, tactics) {
                asks.push((me.who, Ask::Move(pose)));
            }
        }
        self.order(encounter);
    }

    /// Makes a mind for each body that is new, drops those of combatants who are gone, and gives bodies the room that their tactics ask for.
    fn meet(&mut self, encounter: &Encounter) {
        let known = self.minds.len();
        let mut place = 0;
        for body in &mut self.sight.bodies {
            while place < known && self.minds[place].who < body.who {
                place += 1;
            }
            match self.minds[..known].get(place).filter(|mind| mind.who == body.who) {
                Some(mind) => {
                    if let Some(tactics) = mind.tactics {
                        body.room = self.set[tactics].room * body.size;
                    }
                }
                None => {
                    let skill = self.skills.get(&body.who).copied();
                    self.minds.push(Mind::new(body.who, body.at, skill));
                }
            }
        }
        if self.minds.len() > known {
            let view = encounter.view();
            self.minds.retain(|mind| view.life(mind.who) != Life::Gone);
            self.minds.sort_by_key(|mind| mind.who);
        }
    }

    /// What the facts of the last tick mean to the stand-ins.
    fn hear(&mut self, encounter: &Encounter) {
        let (view, facts) = (encounter.view(), encounter.facts());
        for event in facts.events() {
            match *event {
                Event::HitLanded(HitLanded { attacker: Some(attacker), target, .. }) => {
                    if let Some(mind) = of(&mut self.minds, target) {
                        mind.last_attacker = Some(attacker);
                    }
                }
                // What the core does not move by itself.
                Event::HitPushed(HitPushed { target, impulse, ticks, .. }) if view.moves_on(target) == 0 => {
                    if let Some(mind) = of(&mut self.minds, target) {
                        let way = impulse.map(|x| x / ticks.max(1) as f32);
                        mind.pushed = Some(Carried { way, until: view.tick() + ticks.max(1) });
                    }
                }
                Event::TacticsRequested(TacticsRequested { subject, tactic, other, .. }) => {
                    if let Some(mind) = of(&mut self.minds, subject) {
                        mind.asked = (tactic != Tactic::AsUsual).then_some((tactic, other));
                    }
                }
                _ => {}
            }
        }
    }

    fn order(&mut self, encounter: &mut Encounter) {
        let mut orders = encounter.orders();
        for (who, ask) in self.asks.drain(..) {
            let mut told = |place: usize| -> [&str; 2] {
                let mind = of(&mut self.minds, who);
                let tactics = mind.and_then(|mind| self.set.get(mind.tactics?));
                tactics.map_or(["", ""], |tactics| [&tactics.name, &tactics.choices[place].name])
            };
            match ask {
                Ask::Move(pose) => {
                    orders.move_over(who, pose, 1);
                }
                Ask::Start(attack) => {
                    orders.start(who, attack);
                }
                Ask::Release(swing) => {
                    orders.release(swing);
                }
                Ask::Revive(friend, pose, share) => {
                    orders.bring_back_with(friend, pose, share);
                }
                Ask::Chose(at, place, passed) => {
                    let [tactics, choice] = told(place);
                    orders.tell_choice(who, at, [tactics, choice, &passed]);
                }
                Ask::Dropped(at, place, why) => {
                    let [tactics, choice] = told(place);
                    orders.tell_dropped(who, at, [tactics, choice, &why]);
                }
            }
        }
    }
}

/// After so many ticks it is looked at again whether one without tactics has any.
const AGAIN: u32 = 6;

/// The mind of one.
fn of(minds: &mut [Mind], who: CombatantId) -> Option<&mut Mind> {
    let place = minds.binary_search_by_key(&who, |mind| mind.who).ok()?;
    Some(&mut minds[place])
}

/// The first tactics for one.
fn fitting(set: &[Tactics], around: &Around<'_>, who: CombatantId) -> Option<usize> {
    let Around { encounter, ref view, .. } = *around;
    let rules = encounter.rules();
    set.iter().position(|tactics| {
        let Some(group) = &tactics.group else { return false };
        group.team.is_none_or(|team| view.team(who) == Some(team))
            && group.template.is_none_or(|template| view.template(who) == Some(template))
            && rules.tags_in(group.tags).all(|tag| view.has_tag(who, tag))
            && tactics.when.as_ref().is_none_or(|when| encounter.holds(when, Some(who), None) == Some(true))
    })
}
