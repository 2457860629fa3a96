//! The gates that a meeting passes, in their order.
//!
//! Each is judged in one place, [`Meeting::judge`], which says what the gate wants and what it finds. The tick stops at the first that
//! refuses; explanations are given the same answers for those that let a hit pass.

use crate::event::{Gate, GatePassed, HitRefused, Operand, SwingEnd};
use glam::Vec3;

use crate::detect::{Barrier, HitCandidate, InTheWay, obstacles_of};
use crate::geometry::Pose;
use crate::ids::*;
use crate::level::Level;
use crate::ruleset::{Attack, Parry, Policy, Rules, Sharing, Side, Status};
use crate::sheet;
use crate::state::{EntryAt, State, StruckEntry, Swing, SwingAt};
use crate::terms::Life;
use crate::work::Work;

/// The gates as far as the struck list: they decide who is within an attack.
const ADMIT: [Gate; 11] = [
    Gate::OwnBody,
    Gate::Ended,
    Gate::Closed,
    Gate::Dead,
    Gate::Away,
    Gate::Gone,
    Gate::Layer,
    Gate::Team,
    Gate::Tags,
    Gate::Direction,
    Gate::Obstacle,
];

/// The gates from the struck list on. Intercepts come after them and are the host's.
const PASS: [Gate; 6] =
    [Gate::Struck, Gate::Interval, Gate::MaxTargets, Gate::Parried, Gate::Deflected, Gate::Invulnerable];

/// The gate that refused, what it wanted, and what it found.
pub(super) struct Refused {
    pub(super) gate: Gate,
    pub(super) wanted: Operand,
    pub(super) found: Operand,
}

/// What a gate wants, what it finds, and whether it lets the meeting pass.
struct Answer {
    wanted: Operand,
    found: Operand,
    passes: bool,
}

impl Answer {
    fn new(wanted: Operand, found: Operand, passes: bool) -> [Option<Answer>; 2] {
        [Some(Answer { wanted, found, passes }), None]
    }

    fn if_any(wanted: Option<(Operand, Operand, bool)>) -> Option<Answer> {
        wanted.map(|(wanted, found, passes)| Answer { wanted, found, passes })
    }
}

/// So near to both ends of a line of sight nothing is between, in metres.
const NEAR: f32 = 0.01;

/// The answer of a gate that asks nothing of this attack.
const NONE: [Option<Answer>; 2] = [None, None];

/// A swing and a target that met, and what the swing remembers of the target.
pub(super) struct Meeting<'a> {
    rules: &'a Rules,
    level: &'a Level,
    state: &'a State,
    swing: &'a Swing,
    attack: &'a Attack,
    entry: &'a StruckEntry,
    candidate: &'a HitCandidate,
    /// The pass of the tick.
    pass: u16,
}

impl<'a> Meeting<'a> {
    /// The meeting of the swing at `index`, with its struck entry at `entry`.
    pub(super) fn of(
        rules: &'a Rules,
        level: &'a Level,
        state: &'a State,
        pass: u16,
        index: SwingAt,
        entry: EntryAt,
        candidate: &'a HitCandidate,
    ) -> Meeting<'a> {
        let swing = &state.swings[index];
        let (attack, entry) = (rules.attack(swing.attack), &state.struck[entry]);
        Meeting { rules, level, state, swing, attack, entry, candidate, pass }
    }

    /// Lets the meeting in as far as the struck list, or says which gate refuses it.
    pub(super) fn admit(&self) -> Result<(), Refused> {
        ADMIT.into_iter().try_for_each(|gate| self.ask(gate))
    }

    /// Lets a meeting that was admitted pass, or says which gate refuses it. The last gate, the intercepts, is asked elsewhere.
    pub(super) fn pass(&self) -> Result<(), Refused> {
        PASS.into_iter().try_for_each(|gate| self.ask(gate))
    }

    /// Whether no status of the target makes it invulnerable to this attack.
    pub(super) fn is_vulnerable(&self) -> bool {
        self.ask(Gate::Invulnerable).is_ok()
    }

    fn ask(&self, gate: Gate) -> Result<(), Refused> {
        for Answer { wanted, found, passes } in self.judge(gate).into_iter().flatten() {
            if !passes {
                return Err(Refused { gate, wanted, found });
            }
        }
        Ok(())
    }

    /// Notes what each gate that lets a hit pass wants and finds, for the fact of the number `seq`.
    pub(super) fn note(&self, seq: u64, gates: &mut Vec<GatePassed>) {
        for gate in ADMIT.into_iter().chain(PASS) {
            // Standing is one answer to three gates.
            if matches!(gate, Gate::Away | Gate::Gone) {
                continue;
            }
            let answers = self.judge(gate).into_iter().flatten();
            gates.extend(answers.map(|Answer { wanted, found, .. }| GatePassed { seq, gate, wanted, found }));
        }
        let (wanted, found) = (Operand::Passed, Operand::Passed);
        gates.push(GatePassed { seq, gate: Gate::Intercepted, wanted, found });
    }

    /// What a gate wants and finds; the first answer that does not pass refuses.
    fn judge(&self, gate: Gate) -> [Option<Answer>; 2] {
        let Meeting { attack, swing, candidate, .. } = *self;
        match gate {
            Gate::OwnBody if Some(candidate.target) == swing.attacker => {
                Answer::new(Operand::OtherBody, Operand::OwnBody, false)
            }
            Gate::OwnBody => Answer::new(Operand::OtherBody, Operand::OtherBody, true),
            Gate::Ended => self.goes_on(),
            // What still lands after its end was within a window when it met.
            Gate::Closed if swing.ended.is_some() => NONE,
            Gate::Closed if swing.window == 0 => {
                Answer::new(Operand::OpenWindow, Operand::Clock(swing.clock), false)
            }
            Gate::Closed => Answer::new(Operand::OpenWindow, Operand::Window(swing.window), true),
            Gate::Dead => self.is_not(Life::Dead),
            Gate::Away => self.is_not(Life::Away),
            Gate::Gone => self.is_not(Life::Gone),
            Gate::Layer => self.layer(),
            Gate::Team => self.team(),
            Gate::Tags => self.tags(),
            Gate::Direction => self.direction(),
            Gate::Obstacle => self.obstacle(),
            Gate::Struck => self.turns(),
            Gate::Interval => match attack.policy {
                Policy::Interval(every) if self.entry.turns > 0 => {
                    let since = swing.age - self.entry.last;
                    Answer::new(Operand::Ticks(every), Operand::Ticks(since), since >= every)
                }
                Policy::Interval(every) => Answer::new(Operand::Ticks(every), Operand::Turns(0), true),
                _ => NONE,
            },
            Gate::MaxTargets => self.targets(),
            Gate::Parried => self.parried(|status| status.parries.as_ref()),
            Gate::Deflected => self.parried(|status| status.deflects.as_ref()),
            Gate::Invulnerable => self.vulnerable(),
            Gate::Intercepted => NONE,
        }
    }

    fn slot(&self) -> usize {
        self.candidate.target.slot()
    }

    fn goes_on(&self) -> [Option<Answer>; 2] {
        let Some(why) = self.swing.ended else {
            return Answer::new(Operand::Running, Operand::Running, true);
        };
        // Where both land, what was found before the attacker died still counts.
        let lands = self.rules.both_land && why == SwingEnd::Died && self.pass == 0;
        Answer::new(Operand::Running, Operand::SwingEnded(why), lands)
    }

    fn is_not(&self, life: Life) -> [Option<Answer>; 2] {
        let found = self.state.combatants.life_of(self.candidate.target);
        Answer::new(Operand::Life(Life::Standing), Operand::Life(found), found != life)
    }

    fn layer(&self) -> [Option<Answer>; 2] {
        let Some(layers) = self.attack.meets else { return NONE };
        let template = self.rules.template(self.state.combatants.template[self.slot()]);
        let layer = template.parts[usize::from(self.candidate.part)].layer;
        Answer::new(Operand::Layers(layers), Operand::Layer(layer), self.attack.meets_layer(layer))
    }

    fn team(&self) -> [Option<Answer>; 2] {
        let strikes = self.attack.strikes;
        let relation = self.rules.stance(self.swing.team, self.state.combatants.team[self.slot()]);
        Answer::new(Operand::Relations(strikes), Operand::Relation(relation), strikes.has(relation))
    }

    /// Its own tags, those that statuses add, and those of the part.
    fn tags(&self) -> [Option<Answer>; 2] {
        let Attack { needs_tags: needs, spares_tags: spares, .. } = *self.attack;
        if needs | spares == 0 {
            return NONE;
        }
        let (slot, part) = (self.slot(), self.candidate.part);
        let combatants = &self.state.combatants;
        let authored = &self.rules.template(combatants.template[slot]).parts[usize::from(part)];
        let of_part = authored.tags_when(combatants.is_broken(slot, part));
        let tags = sheet::tags(self.rules, self.state, slot) | of_part;
        let needed = (Operand::AllTags(needs), Operand::Tags(tags), tags & needs == needs);
        let found = if tags & spares != 0 { tags & spares } else { tags };
        let spared = (Operand::NoTags(spares), Operand::Tags(found), tags & spares == 0);
        [Answer::if_any((needs != 0).then_some(needed)), Answer::if_any((spares != 0).then_some(spared))]
    }

    fn from(&self) -> Vec3 {
        Vec3::from_array(origin(self.state, self.swing, self.candidate).at)
    }

    fn direction(&self) -> [Option<Answer>; 2] {
        let Some(direction) = self.attack.direction else { return NONE };
        let cosine = match direction.side {
            Side::Above => self.candidate.impact.normal.dot(Vec3::from_array(self.rules.up.vector())),
            Side::Before => self.before(),
            Side::Behind => -self.before(),
        };
        let wanted = Operand::Side(direction.side, direction.cosine);
        Answer::new(wanted, Operand::Cosine(cosine), cosine >= direction.cosine)
    }

    fn in_the_way(&self) -> InTheWay<'_> {
        let State { past, tick, obstacles, .. } = self.state;
        let obstacles = obstacles_of(past, *tick, past.of(self.swing.id)).unwrap_or(obstacles);
        InTheWay { level: self.level, obstacles, stops: &[] }
    }

    /// As [`sheet::before`], where the target is for this swing.
    fn before(&self) -> f32 {
        let back = self.state.past.of(self.swing.id);
        sheet::before(self.rules, self.state.pose_rewound(self.candidate.target, back), self.from())
    }

    fn obstacle(&self) -> [Option<Answer>; 2] {
        if !self.attack.clear_line {
            return NONE;
        }
        // From just beyond where it comes from to just before the point: either may lie on the surface of what stands there.
        let way = self.candidate.impact.point - self.from();
        let length = way.length();
        let reach = length - 2.0 * NEAR;
        let from = self.from() + way * (NEAR / length);
        if reach > 0.0
            && let (_, Some(barrier)) =
                self.in_the_way().reach_of_line(from, way / length, reach, self.candidate.impact.toi)
        {
            let found = match barrier {
                Barrier::Obstacle(obstacle) => Operand::Behind(obstacle),
                Barrier::Level(shape) => Operand::BehindShape(shape),
                Barrier::Host => Operand::ClearLine,
            };
            return Answer::new(Operand::ClearLine, found, false);
        }
        Answer::new(Operand::ClearLine, Operand::ClearLine, true)
    }

    fn turns(&self) -> [Option<Answer>; 2] {
        let turns = match self.attack.policy {
            Policy::Once | Policy::Life => self.entry.turns,
            Policy::Window if self.entry.window == self.swing.window => self.entry.turns_in_window,
            Policy::Window => 0,
            Policy::Entry(_) => u32::from(self.entry.stay_spent),
            Policy::Interval(_) => return NONE,
        };
        Answer::new(Operand::Turns(0), Operand::Turns(turns), turns == 0)
    }

    /// How many targets the swing may strike, and how many its beam in this tick, or its body, may go through and stop in.
    fn targets(&self) -> [Option<Answer>; 2] {
        let Meeting { attack, swing, .. } = *self;
        let answer = |most: u32, has: u32| (Operand::Targets(most), Operand::Targets(has), has < most);
        // A target that was struck before counts once.
        let most = attack.max_targets.filter(|_| self.entry.hits == 0);
        let of_swing = most.map(|most| answer(most.into(), swing.targets.into()));
        [Answer::if_any(of_swing), Answer::if_any(self.went_through().map(|(may, has)| answer(may, has)))]
    }

    fn went_through(&self) -> Option<(u32, u32)> {
        let Meeting { state, swing, candidate, .. } = *self;
        let body = state.flying_index(candidate.swing, candidate.body).map(|place| &state.flying[place]);
        self.attack.form.ways().went_through(swing, body)
    }

    /// Whether no status of the target parries it, or none deflects it.
    fn parried(&self, way: impl Fn(&Status) -> Option<&Parry>) -> [Option<Answer>; 2] {
        if !self.rules.uses.parries {
            return NONE;
        }
        let (attack, slot) = (self.attack, self.slot());
        let parries = |id: StatusId| {
            let status = self.rules.status(id);
            let parry = way(status)?;
            let through = status.lets & attack.tags != 0 || attack.ignores.contains(&id);
            let against = !through && parry.is_against(attack.form.kind());
            (against && self.before() >= parry.cosine).then_some(id)
        };
        match self.state.running_on(slot).find_map(|application| parries(application.status)) {
            Some(status) => Answer::new(Operand::NotParried, Operand::Status(status), false),
            None => Answer::new(Operand::NotParried, Operand::NotParried, true),
        }
    }

    fn vulnerable(&self) -> [Option<Answer>; 2] {
        let attack = self.attack;
        let invulnerable = |status: &StatusId| {
            let authored = self.rules.status(*status);
            authored.invulnerable && authored.lets & attack.tags == 0 && !attack.ignores.contains(status)
        };
        let mut running = { self.rules.uses.invulnerable.then(|| self.state.running_on(self.slot())) }
            .into_iter()
            .flatten()
            .map(|application| application.status);
        match running.find(invulnerable) {
            Some(status) => Answer::new(Operand::Vulnerable, Operand::Status(status), false),
            None => Answer::new(Operand::Vulnerable, Operand::Vulnerable, true),
        }
    }
}

/// Where an attack comes from: where it was placed, where its body was when the tick began, or its attacker.
pub(super) fn origin(state: &State, swing: &Swing, candidate: &HitCandidate) -> Pose {
    let body = state.flying_index(candidate.swing, candidate.body).map(|place| state.flying[place]);
    let attacker = || swing.attacker.map(|attacker| state.combatants.pose[attacker.slot()]);
    body.map(|body| body.before).or(swing.anchor).or_else(attacker).unwrap_or(Pose::IDENTITY)
}

/// Counts a refusal, and publishes it if it is this gate's first for the swing and the target.
pub(super) fn refuse(
    work: &mut Work<'_>,
    index: SwingAt,
    entry: EntryAt,
    candidate: &HitCandidate,
    refused: Refused,
) {
    let Refused { gate, wanted, found } = refused;
    work.state.counts.refused[gate as usize] += 1;
    // A target between two turns stops a beam as it does at its turn.
    if matches!(gate, Gate::Struck | Gate::Interval | Gate::Parried | Gate::Deflected) {
        super::take_target(work.rules, work.state, &mut work.rooms.detection, index, candidate);
    }
    let swing = &work.state.swings[index];
    let (swing, attack, attacker) = (swing.id, swing.attack, swing.attacker);
    let HitCandidate { target, part, .. } = *candidate;
    if first_of_its_gate(work, index, entry, gate) {
        work.log.publish(HitRefused { swing, attack, attacker, target, part, gate, wanted, found });
    }
}

/// Whether this gate of the swing has not refused the target before, in any life and on any struck list.
fn first_of_its_gate(work: &mut Work<'_>, index: SwingAt, entry: EntryAt, gate: Gate) -> bool {
    let bit = 1 << gate as u32;
    let target = work.state.struck[entry].target;
    let shared = work.rules.attack(work.state.swings[index].attack).sharing == Sharing::Swing;
    let entry = if shared {
        entry
    } else {
        super::entry_of(work.state, &mut work.rooms.known, index, target, StruckEntry::OF_ALL_LISTS)
    };
    let refused = &mut work.state.struck[entry].refused;
    let first = *refused & bit == 0;
    *refused |= bit;
    first
}
