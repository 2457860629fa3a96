//! Plays a scenario through the library.

use hammerstone::event::HostValue;
use hammerstone::geometry::Pose;
use hammerstone::ids::{CombatantId, ObstacleId, SwingId};
use hammerstone::orders::Order;
use hammerstone::{Encounter, Fixed, Life, Summary, TickError};
use hammerstone_record::{Named, Record, Run, Tick};

use super::bones::Bones;
use super::level::PlacedObstacle;
use super::scenario::Scenario;
use super::script::{Act, Line, TakesTo, Value};
use crate::Minds;

/// What a run is given beside the scenario.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub struct Options {
    /// The seed, if not the scenario's.
    pub seed: Option<u64>,
    /// The length in ticks, if not the scenario's.
    pub ticks: Option<u32>,
    /// Whether damage carries its ledger.
    pub ledgers: bool,
    /// Whether stand-ins tell what they choose, and why not something else: `tactics.chose`, `tactics.dropped`.
    pub choices: bool,
}

/// A scenario that is being played, tick by tick.
#[derive(Clone, Debug)]
pub struct Play<'a> {
    scenario: &'a Scenario,
    /// The encounter, as it stands.
    pub encounter: Encounter,
    /// What its combatants are called, and the clock over resets.
    pub run: Run,
    ids: Vec<CombatantId>,
    obstacles: Vec<ObstacleId>,
    /// The next leg of each combatant that walks.
    legs: Vec<(usize, usize)>,
    bones: Bones,
    minds: Minds,
    next_line: usize,
    /// How many ticks have run.
    pub(crate) clock: u32,
    ticks: u32,
}

impl<'a> Play<'a> {
    /// Sets everyone in their places; no tick has run.
    pub fn new(scenario: &'a Scenario, options: Options) -> Play<'a> {
        Play::prepared(scenario, options, |_| ())
    }

    /// As [`new`](Self::new), with an encounter that `prepare` sees before anything is asked of it: to begin a log.
    pub fn prepared(
        scenario: &'a Scenario,
        options: Options,
        prepare: impl FnOnce(&mut Encounter),
    ) -> Play<'a> {
        let rules = &scenario.rules.ruleset;
        let mut encounter =
            Encounter::in_level(rules, &scenario.level, options.seed.unwrap_or(scenario.seed));
        encounter.keep_ledgers(options.ledgers);
        prepare(&mut encounter);
        let mut run = Run::new();
        (0..).zip(&scenario.shapes).for_each(|(shape, name)| run.names.call_shape(shape, name));
        let mut obstacles = Vec::new();
        for PlacedObstacle { name, obstacle, pose, open } in &scenario.obstacles {
            let id = encounter.orders().add_obstacle(*obstacle);
            if *open {
                encounter.orders().open_obstacle(id);
            }
            if *pose != Pose::IDENTITY {
                encounter.orders().place_obstacle(id, *pose);
            }
            run.names.call_obstacle(id, name);
            if let Some(named) = rules.find_obstacle_name(name) {
                encounter.orders().name_obstacle(id, named);
            }
            obstacles.push(id);
        }
        let mut ids = Vec::new();
        for placed in &scenario.placed {
            let id = encounter.orders().spawn_as(placed.template, placed.pose, placed.team, None);
            run.names.call(id, &placed.name);
            if placed.size != Fixed::ONE {
                encounter.orders().resize(id, placed.size);
            }
            ids.push(id);
        }
        for (place, placed) in scenario.placed.iter().enumerate() {
            if let Some(leader) = placed.follows {
                encounter.orders().follow(ids[place], Some(ids[leader]));
            }
        }
        let walkers = (0..ids.len()).filter(|&who| !scenario.placed[who].path.is_empty());
        let legs = walkers.map(|who| (who, 0)).collect();
        let ticks = options.ticks.unwrap_or(scenario.ticks);
        let bones = Bones::default();
        let mut minds = Minds::of(scenario);
        minds.tell(options.choices);
        for (&id, placed) in ids.iter().zip(&scenario.placed) {
            if placed.tactics.is_some() {
                minds.give(id, placed.tactics);
            }
            if let Some(skill) = placed.skill {
                minds.give_skill(id, skill);
            }
        }
        Play { scenario, encounter, run, ids, obstacles, legs, bones, minds, next_line: 0, clock: 0, ticks }
    }

    /// Runs one tick. Gives whether it ran: not when the fight is over.
    pub fn tick(&mut self) -> Result<bool, TickError> {
        self.tick_by(Encounter::tick)
    }

    /// As [`tick`](Self::tick); the tick of the encounter is run by `run`, which may record it.
    pub fn tick_by(
        &mut self,
        run: impl FnOnce(&mut Encounter) -> Result<Summary, TickError>,
    ) -> Result<bool, TickError> {
        // After a reset the encounter counts anew; the script goes on.
        let tick = self.clock + 1;
        if tick > self.ticks || self.encounter.outcome().is_some() {
            return Ok(false);
        }
        self.clock = tick;
        // First, so that swings which the script ends in this tick are still there to be posed.
        self.bones.pose(&self.scenario.rules.motion, &mut self.encounter);
        self.minds.think(&mut self.encounter, &self.run.names);
        self.walk(tick);
        while let Some(&line) = self.scenario.script.get(self.next_line).filter(|line| line.tick <= tick) {
            self.next_line += 1;
            self.order(line);
        }
        if tick == self.ticks {
            self.encounter.orders().end(self.scenario.outcome);
        }
        run(&mut self.encounter)?;
        self.run.observe(&self.encounter);
        Ok(true)
    }

    /// The tick that ran last, for records to look at.
    pub fn seen(&self) -> Tick<'_> {
        self.run.tick(&self.encounter)
    }

    /// Runs it to its end and shows each tick to these records.
    pub fn through(&mut self, records: &mut [&mut dyn Record]) -> Result<(), TickError> {
        while self.tick()? {
            self.seen().show(records);
        }
        Ok(())
    }

    /// Whoever stands begins the next leg of their way when its time has come.
    fn walk(&mut self, tick: u32) {
        let (scenario, ids, encounter) = (self.scenario, &self.ids, &mut self.encounter);
        self.legs.retain_mut(|(who, leg)| {
            let path = &scenario.placed[*who].path;
            if path[*leg].from < tick {
                // In the first tick no one has joined yet, and all will stand.
                if tick == 1 || encounter.view().life(ids[*who]) == Life::Standing {
                    let ticks = path[*leg].by - path[*leg].from;
                    encounter.orders().move_over(ids[*who], path[*leg].pose, ticks);
                }
                *leg += 1;
            }
            *leg < path.len()
        });
    }

    /// Whether what a line asks holds now, before its orders and those of its tick are carried out.
    fn holds(&self, line: &Line, subject: Option<CombatantId>) -> bool {
        let other = line.by.map(|by| self.ids[by]);
        let asked = line.when.map(|place| &self.scenario.questions[place as usize]);
        asked.is_none_or(|question| self.encounter.holds(question, subject, other) == Some(true))
    }

    fn order(&mut self, line: Line) {
        if line.act.is_nobodys() && !self.holds(&line, None) {
            return;
        }
        // Orders that are about no one come first.
        match line.act {
            Act::SpawnAttack(attack, team, pose, by) => {
                let credit = by.map(|place| self.ids[place]);
                self.encounter.orders().spawn_attack_by(attack, team, pose, credit);
                return;
            }
            Act::RemoveObstacle(place) => {
                self.encounter.orders().remove_obstacle(self.obstacles[place]);
                return;
            }
            Act::OpenObstacle(place, open) => {
                let (id, mut orders) = (self.obstacles[place], self.encounter.orders());
                if open {
                    orders.open_obstacle(id)
                } else {
                    orders.close_obstacle(id)
                };
                return;
            }
            Act::MoveObstacle(place, pose, ticks) => {
                self.encounter.orders().move_obstacle_over(self.obstacles[place], pose, ticks);
                return;
            }
            Act::PlaceObstacle(place, pose) => {
                self.encounter.orders().place_obstacle(self.obstacles[place], pose);
                return;
            }
            Act::End(outcome) => {
                self.encounter.orders().end(outcome);
                return;
            }
            Act::Order(order) => {
                self.encounter.orders().give(order);
                return;
            }
            Act::Publish(topic, values) => {
                let mut orders = self.encounter.orders();
                let values = values.map(|value| match value {
                    Value::Plain(value) => value,
                    Value::Who(place) => HostValue::Who(self.ids[place]),
                    Value::Text(place) => orders.text(&self.scenario.texts[place as usize]),
                });
                orders.publish(topic, &values);
                return;
            }
            _ => {}
        }
        let Some(group) = line.each else {
            if let Some(&subject) = self.ids.get(line.who) {
                self.order_for(line, subject);
            }
            return;
        };
        let view = self.encounter.view();
        // Before the first tick no one has joined yet, and all who are placed will stand.
        let all: Vec<CombatantId> = if view.tick() == 0 {
            { self.scenario.placed.iter().zip(&self.ids) }
                .filter(|(placed, _)| placed.is_of(&self.scenario.rules.ruleset, &group))
                .map(|(_, id)| *id)
                .collect()
        } else {
            view.all_of(&group).collect()
        };
        for subject in all {
            self.order_for(line, subject);
        }
    }

    fn order_for(&mut self, line: Line, subject: CombatantId) {
        let view = self.encounter.view();
        // An interval stops with who keeps it; what stands once in the script is ordered, come what may.
        if line.repeated && view.life(subject) != Life::Standing {
            return;
        }
        if !self.holds(&line, Some(subject)) {
            return;
        }
        let source = |by: Option<usize>| by.map(|by| self.ids[by]);
        let order = match line.act {
            Act::Tactics(TakesTo::None) => return self.minds.give(subject, None),
            Act::Tactics(TakesTo::Usual) => return self.minds.unassign(subject),
            Act::Tactics(TakesTo::Named(place)) => return self.minds.give(subject, Some(place)),
            Act::Start(attack, aim, back) => {
                let swing = match aim {
                    Some(aim) => self.encounter.orders().start_at(subject, attack, aim),
                    None => self.encounter.orders().start(subject, attack),
                };
                if back > 0 {
                    self.encounter.orders().rewind(swing, back);
                }
                return;
            }
            Act::Swings(what) => {
                for swing in self.swings_of(subject) {
                    self.encounter.orders().give(what.order(swing));
                }
                return;
            }
            Act::Report(target, part, touch) => {
                let target = self.ids[target];
                for swing in self.swings_of(subject) {
                    self.encounter.orders().report(swing, target, part, touch);
                }
                return;
            }
            Act::SpawnAttack(..)
            | Act::RemoveObstacle(_)
            | Act::OpenObstacle(..)
            | Act::MoveObstacle(..)
            | Act::PlaceObstacle(..)
            | Act::End(_)
            | Act::Order(_)
            | Act::Publish(..) => return,
            Act::Follow(leader) => Order::Follow { subject, leader: Some(self.ids[leader]) },
            Act::Gauge(gauge, change, points, by) => {
                Order::ChangeGauge { subject, gauge, change, points, source: source(by) }
            }
            Act::ChangeTeam(team) => Order::ChangeTeam { subject, team },
            Act::ScaleTime(sixteenths) => Order::ScaleTime { subject, sixteenths },
            Act::Transform(template) => Order::Transform { subject, template },
            Act::LetGo => Order::LetGo { subject },
            Act::Flag(flag, up) => Order::FlagCombatant { subject, flag, up },
            Act::Count(counter, count) => Order::CountCombatant { subject, counter, count },
            Act::Attach(value, amount) => Order::Attach { subject, value, amount },
            Act::Teleport(pose) => Order::Teleport { subject, pose },
            Act::Move(pose, ticks) => {
                // As fast as its time and its movement go; one whose time stands stays.
                let pace = self.encounter.view().pace(subject).to_raw();
                if pace <= 0 {
                    return;
                }
                let one = hammerstone::Fixed::ONE.to_raw();
                let ticks = (i64::from(ticks) * one + pace - 1) / pace;
                let ticks = u32::try_from(ticks).unwrap_or(u32::MAX);
                Order::Move { subject, pose, ticks }
            }
            Act::Damage { damage_type, amount, reason, by, absolute } => {
                Order::Damage { target: subject, damage_type, amount, reason, source: source(by), absolute }
            }
            Act::Heal { points, reason, by } => {
                Order::Heal { target: subject, points, reason, source: source(by) }
            }
            Act::Apply { status, by, strength } => {
                Order::Apply { subject, status, source: source(by), strength }
            }
            Act::LiftFamily(tag) => Order::LiftFamily { subject, tag },
            Act::Change(stat, by, reason) => Order::Change { subject, stat, by, reason },
            Act::Unchange(stat, reason) => Order::Unchange { subject, stat, reason },
            Act::SetMaximum(points, keep) => Order::SetMaximum { subject, points, keep },
            Act::RaiseShield(shield, points) => Order::RaiseShield { subject, shield, points },
            Act::Lift(status) => Order::Lift { subject, status },
            Act::ShowPart(part, shown) => Order::ShowPart { subject, part, shown },
            Act::Resize(size) => Order::Resize { subject, size },
            Act::SendAway => Order::SendAway { subject },
            Act::BringBack(pose) => Order::Return { subject, pose, share: Fixed::ONE },
            Act::Remove => Order::Remove { subject },
        };
        self.encounter.orders().give(order);
    }

    fn swings_of(&self, who: CombatantId) -> Vec<SwingId> {
        self.encounter
            .view()
            .swings()
            .filter(|(_, of, _)| *of == Some(who))
            .map(|(swing, ..)| swing)
            .collect()
    }

    /// What the scenario names that is in the encounter from the beginning.
    pub fn named(&self) -> impl Iterator<Item = (Named, &str)> {
        let Scenario { placed, obstacles, shapes, .. } = self.scenario;
        let combatants = self.ids.iter().map(|&id| Named::Combatant(id));
        let obstacle_ids = self.obstacles.iter().map(|&id| Named::Obstacle(id));
        let shape_numbers = (0..).map(Named::Shape);
        (combatants.zip(placed.iter().map(|placed| placed.name.as_str())))
            .chain(obstacle_ids.zip(obstacles.iter().map(|placed| placed.name.as_str())))
            .chain(shape_numbers.zip(shapes.iter().map(String::as_str)))
    }

    /// The combatant of a name, if the scenario placed one.
    pub fn combatant(&self, name: &str) -> Option<CombatantId> {
        let place = self.scenario.placed.iter().position(|placed| placed.name == name)?;
        Some(self.ids[place])
    }
}
