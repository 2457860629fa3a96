//! What swings of one came to at another: hits, refusals, and where nothing met, how near they came.

use crate::{Record, Tick};
use hammerstone::attack::Phase;
use hammerstone::event::{
    AttackClosed, AttackEnded, AttackOpened, AttackStarted, CombatantJoined, HitLanded, HitRefused,
    ProjectileStopped,
};
use std::collections::{BTreeMap, BTreeSet};

use hammerstone::event::{Event, Operand, SwingEnd};
use hammerstone::geometry::nearest_approach;
use hammerstone::ids::{CombatantId, SwingId};
use hammerstone::{Encounter, Life};
use serde::Serialize;

use super::gates::fix;
use super::verdict::verdict;
use crate::Names;
use crate::feed::OperandText;
use crate::feed::begins;

/// One swing at one target, and what came of it.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct SwingResult {
    /// The swing's number.
    pub swing: u64,
    /// Its attack.
    pub attack: String,
    /// Who swung.
    pub attacker: String,
    /// At whom.
    pub target: String,
    /// When it began, and when it ended, in seconds.
    pub from: f64,
    /// When it ended, in seconds, if it did.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub to: Option<f64>,
    /// When each of its windows opened, and when it shut again.
    pub windows: Vec<(f64, f64)>,
    /// Hits and refusals, in order.
    pub answers: Vec<Answer>,
    /// Where nothing met: how near its hitboxes came, the obstacle first.
    pub near: Vec<Near>,
    /// By how many ticks its targets were rewound, if they were.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rewound: Option<u16>,
    /// What stopped a projectile of it, the first if it has several; or its beam.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stopped: Option<Stopped>,
    /// What came of it, in a sentence.
    pub outcome: String,
    /// What would let it strike, where it did not.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fix: Option<String>,
    /// The gate that would also refuse, if it met; only how the teams stand to each other is looked at.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub also: Option<String>,
    #[serde(skip)]
    pub(crate) why: Option<SwingEnd>,
    /// Whether the target stood while a window was open.
    #[serde(skip)]
    pub(crate) stood: bool,
}

/// What stopped a projectile or a beam.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Stopped {
    /// The obstacle or the shape of the level, by its name.
    pub by: String,
    /// When, in seconds, within the tick.
    pub time: f64,
    /// Where, in metres in the world.
    pub point: [f32; 3],
}

/// A hit, or a gate that refused.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Answer {
    /// The tick.
    pub tick: u32,
    /// When it begins, in seconds.
    pub time: f64,
    /// The hit's number, if it was one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hit: Option<u64>,
    /// The part that was met.
    pub part: String,
    /// The gate that refused, if one did; once for each gate of a swing.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub gate: Option<&'static str>,
    /// What the gate wanted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wanted: Option<String>,
    /// What it found.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub found: Option<String>,
    /// The change that would have let it pass.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fix: Option<String>,
}

/// How near a hitbox came to a part.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Near {
    /// `distance`: open, and on a layer that it meets. `layer`: open, on another layer. `window`: no window was open.
    pub obstacle: &'static str,
    /// The tick.
    pub tick: u32,
    /// When, in seconds, within the tick.
    pub time: f64,
    /// How far apart, in metres; 0 where they overlapped.
    pub distance: f64,
    /// Which hitbox of the attack, from 1.
    pub hitbox: u16,
    /// The projectile, from 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub body: Option<u16>,
    /// The part.
    pub part: String,
    /// The layer of the part.
    pub layer: String,
    /// The nearest point of the hitbox, in metres in the world.
    pub on_hitbox: [f32; 3],
    /// The nearest point of the part.
    pub on_part: [f32; 3],
}

/// Gathers tries tick by tick, of those who are asked about.
#[derive(Clone, Debug)]
pub struct SwingResults {
    attacker: Option<String>,
    target: Option<String>,
    joined: BTreeSet<String>,
    all: Vec<(SwingId, CombatantId, SwingResult)>,
    swings: BTreeMap<SwingId, Swung>,
    ticks: u32,
}

/// A swing of the attacker's.
#[derive(Clone, Debug)]
struct Swung {
    attack: hammerstone::ids::AttackId,
    attacker: Option<CombatantId>,
    from: u32,
    to: Option<(u32, SwingEnd)>,
    windows: Vec<(u32, Option<u32>)>,
    /// By how many ticks it is rewound.
    rewound: u16,
    /// What stopped the first of its projectiles that was stopped, and when, in seconds.
    stopped: Option<Stopped>,
}

impl SwingResults {
    /// Of everyone, or of one by name; at everyone, or at one. How near what missed came is looked at where both are named.
    pub fn new(attacker: Option<&str>, target: Option<&str>) -> SwingResults {
        SwingResults {
            attacker: attacker.map(str::to_owned),
            target: target.map(str::to_owned),
            joined: BTreeSet::new(),
            all: Vec::new(),
            swings: BTreeMap::new(),
            ticks: 0,
        }
    }

    /// The names of all who have joined so far.
    pub fn joined(&self) -> impl Iterator<Item = &str> {
        self.joined.iter().map(String::as_str)
    }

    /// A swing runs, and has perhaps not been seen before.
    fn meet(
        &mut self,
        swing: SwingId,
        attacker: Option<CombatantId>,
        attack: hammerstone::ids::AttackId,
        tick: &Tick<'_>,
    ) {
        if is_asked(&self.attacker, attacker, tick.names) {
            let (from, windows) = (tick.facts.tick, Vec::new());
            let new = Swung { attack, attacker, from, to: None, windows, rewound: 0, stopped: None };
            self.swings.entry(swing).or_insert(new);
        }
    }

    fn answered(
        &mut self,
        swing: SwingId,
        target: CombatantId,
        answer: Answer,
        encounter: &Encounter,
        names: &Names,
    ) {
        if is_asked(&self.target, Some(target), names)
            && let Some(one) = self.of(swing, target, encounter, names)
        {
            one.answers.push(answer);
        }
    }

    /// The try of a swing at a target; made when it is first asked for.
    fn of(
        &mut self,
        swing: SwingId,
        target: CombatantId,
        encounter: &Encounter,
        names: &Names,
    ) -> Option<&mut SwingResult> {
        let place = self.all.iter().rposition(|(of, at, _)| (*of, *at) == (swing, target));
        let place = match place {
            Some(place) => place,
            None => {
                let swung = self.swings.get(&swing)?;
                let rules = encounter.rules();
                self.all.push((
                    swing,
                    target,
                    SwingResult {
                        swing: swing.number(),
                        attack: rules.attack_name(swung.attack).unwrap_or_default().to_owned(),
                        attacker: swung.attacker.map_or("environment", |who| names.of(who)).to_owned(),
                        target: names.of(target).to_owned(),
                        from: begins(swung.from, rules),
                        to: None,
                        windows: Vec::new(),
                        answers: Vec::new(),
                        near: Vec::new(),
                        rewound: None,
                        stopped: None,
                        outcome: String::new(),
                        fix: None,
                        also: None,
                        why: None,
                        stood: false,
                    },
                ));
                self.all.len() - 1
            }
        };
        Some(&mut self.all[place].2)
    }

    /// How near the hitboxes of the attacker's swings come to the target's parts in this tick.
    fn look(&mut self, encounter: &Encounter, names: &Names, attacker: CombatantId, target: CombatantId) {
        let (scene, rules) = (encounter.scene(), encounter.rules());
        let facts = encounter.facts();
        let stands = scene.view().life(target) == Life::Standing;
        let running: Vec<SwingId> = self
            .swings
            .iter()
            .filter(|(_, swung)| swung.to.is_none_or(|(to, _)| to == facts.tick))
            .map(|(&swing, _)| swing)
            .collect();
        for swing in running {
            self.of(swing, target, encounter, names);
        }
        for line in encounter.beams() {
            let by = { line.obstacle.map(|id| names.of_obstacle(id)) }
                .or(line.shape.map(|place| names.of_shape(place)));
            if let (Some(by), Some(swung)) = (by, self.swings.get_mut(&line.swing)) {
                let (by, time) = (by.into_owned(), begins(facts.tick, rules));
                swung.stopped.get_or_insert(Stopped { by, time, point: line.to });
            }
        }
        for hitbox in scene.hitboxes().filter(|hitbox| hitbox.attacker == Some(attacker)) {
            let attack = &rules.attacks()[hitbox.attack.index()];
            let Some(one) = self.of(hitbox.swing, target, encounter, names) else { continue };
            one.stood |= stands && hitbox.open;
            let view = scene.view();
            let relation = view
                .team(attacker)
                .zip(view.team(target))
                .and_then(|(one, other)| rules.relation(one, other));
            if let Some(relation) = relation.filter(|&relation| !attack.strikes_relation(relation)) {
                let wanted = OperandText(Operand::Relations(attack.struck_relations()), rules, names);
                let found = relation.name();
                one.also = Some(format!("the gate team would refuse: wanted {wanted}, found {found}"));
            }
            if !stands {
                continue;
            }
            for part in scene.parts_met_by(hitbox.swing, target) {
                let obstacle = match (hitbox.open, attack.meets_layer(part.layer)) {
                    (true, true) => "distance",
                    (true, false) => "layer",
                    (false, true) => "window",
                    (false, false) => continue,
                };
                // What something held came no nearer than until then.
                let until = hitbox.held.unwrap_or(1.0);
                let mut approach = nearest_approach(&hitbox.moving.until(until), &part.moving.until(until));
                approach.time *= until;
                let near = Near {
                    obstacle,
                    tick: facts.tick,
                    time: begins(facts.tick, rules) + f64::from(approach.time) / f64::from(rules.rate()),
                    distance: f64::from(approach.distance),
                    hitbox: hitbox.hitbox + 1,
                    body: hitbox.body,
                    part: names.part(rules, target, part.part).unwrap_or_default().to_owned(),
                    layer: rules.layer_name(part.layer).unwrap_or_default().to_owned(),
                    on_hitbox: approach.on_first,
                    on_part: approach.on_second,
                };
                match one.near.iter_mut().find(|known| known.obstacle == obstacle) {
                    Some(known) if known.distance <= near.distance => {}
                    Some(known) => *known = near,
                    None => one.near.push(near),
                }
            }
        }
    }

    /// Every try, in the order of their swings, with what came of it.
    pub fn finish(mut self, encounter: &Encounter) -> Vec<SwingResult> {
        let rules = encounter.rules();
        for (swing, _, one) in &mut self.all {
            let Some(swung) = self.swings.get(swing) else { continue };
            let last = swung.to.map_or(self.ticks, |(to, _)| to);
            one.why = swung.to.map(|(_, why)| why);
            one.stopped.clone_from(&swung.stopped);
            one.rewound = (swung.rewound > 0).then_some(swung.rewound);
            one.to = swung.to.map(|(to, _)| begins(to, rules));
            let window =
                |&(from, to): &(u32, Option<u32>)| (begins(from, rules), begins(to.unwrap_or(last), rules));
            one.windows = swung.windows.iter().map(window).collect();
            let attack = &rules.attacks()[swung.attack.index()];
            verdict(one, attack, rules);
        }
        self.all.sort_by_key(|(swing, ..)| *swing);
        self.all.into_iter().map(|(.., one)| one).collect()
    }
}

impl Record for SwingResults {
    fn observe(&mut self, tick: &Tick<'_>) {
        let Tick { encounter, facts, rules, names, .. } = *tick;
        if self.ticks == 0 {
            // A log may begin in the middle: who is there joined before, and swings run.
            let view = encounter.view();
            self.joined.extend(view.combatants().map(|who| names.of(who).to_owned()));
            for (swing, attacker, attack) in view.swings() {
                self.meet(swing, attacker, attack, tick);
                let opens =
                    |event: &Event| matches!(event, Event::AttackOpened(opened) if opened.swing == swing);
                if let Some(swung) = self.swings.get_mut(&swing)
                    && view.swing(swing).is_some_and(|swing| matches!(swing.phase, Phase::Active(_)))
                    && !facts.events().any(opens)
                {
                    swung.windows.push((facts.tick, None));
                }
            }
        }
        self.ticks = facts.tick;
        let text = |operand| OperandText(operand, rules, names).to_string();
        for event in facts.events() {
            match *event {
                Event::CombatantJoined(CombatantJoined { subject, .. }) => {
                    self.joined.insert(names.of(subject).to_owned());
                }
                Event::AttackStarted(AttackStarted { subject, attack, swing, .. }) => {
                    self.meet(swing, subject, attack, tick);
                }
                Event::AttackOpened(AttackOpened { swing, subject, attack, .. }) => {
                    self.meet(swing, subject, attack, tick);
                    if let Some(swung) = self.swings.get_mut(&swing) {
                        swung.windows.push((facts.tick, None));
                    }
                }
                Event::AttackClosed(AttackClosed { swing, .. }) => {
                    if let Some((_, to)) =
                        self.swings.get_mut(&swing).and_then(|swung| swung.windows.last_mut())
                    {
                        *to = Some(facts.tick);
                    }
                }
                Event::ProjectileStopped(ProjectileStopped {
                    swing, obstacle, shape, point, toi, ..
                }) => {
                    let by =
                        obstacle.map(|id| names.of_obstacle(id)).or(shape.map(|place| names.of_shape(place)));
                    let by = by.map_or("a wall that the host found".to_owned(), |name| name.into_owned());
                    let time = begins(facts.tick, rules) + f64::from(toi) / f64::from(rules.rate());
                    if let Some(swung) = self.swings.get_mut(&swing) {
                        swung.stopped.get_or_insert(Stopped { by, time, point });
                    }
                }
                Event::AttackEnded(AttackEnded { swing, subject, attack, why, .. }) => {
                    self.meet(swing, subject, attack, tick);
                    if let Some(swung) = self.swings.get_mut(&swing) {
                        swung.to = Some((facts.tick, why));
                    }
                }
                Event::HitLanded(HitLanded { swing, target, part, hit, .. }) => {
                    let answer = Answer { hit: Some(hit), ..answer(encounter, names, target, part) };
                    self.answered(swing, target, answer, encounter, names);
                }
                Event::HitRefused(HitRefused {
                    swing, attack, target, part, gate, wanted, found, ..
                }) => {
                    let authored = &rules.attacks()[attack.index()];
                    let answer = Answer {
                        gate: Some(gate.name()),
                        wanted: Some(text(wanted)),
                        found: Some(text(found)),
                        fix: Some(fix((gate, wanted, found), authored, rules, names)),
                        ..answer(encounter, names, target, part)
                    };
                    self.answered(swing, target, answer, encounter, names);
                }
                _ => {}
            }
        }
        for swing in encounter.view().rewound() {
            if let Some(swung) = self.swings.get_mut(&swing.0) {
                swung.rewound = swing.1;
            }
        }
        if let (Some(attacker), Some(target)) = (&self.attacker, &self.target) {
            let called = |name: &str| encounter.view().combatants().find(|&who| names.of(who) == name);
            if let (Some(attacker), Some(target)) = (called(attacker), called(target)) {
                self.look(encounter, names, attacker, target);
            }
        }
    }
}

fn is_asked(asked: &Option<String>, who: Option<CombatantId>, names: &Names) -> bool {
    asked.as_ref().is_none_or(|asked| who.is_some_and(|who| names.of(who) == asked))
}

impl SwingResult {
    /// Whether the swing ran at a time between these two, in seconds.
    pub fn runs_between(&self, from: f64, to: f64) -> bool {
        self.from <= to && self.to.is_none_or(|end| end >= from)
    }
}

fn answer(encounter: &Encounter, names: &Names, target: CombatantId, part: u16) -> Answer {
    let (tick, rules) = (encounter.facts().tick, encounter.rules());
    Answer {
        tick,
        time: begins(tick, rules),
        hit: None,
        part: names.part(rules, target, part).unwrap_or_default().to_owned(),
        gate: None,
        wanted: None,
        found: None,
        fix: None,
    }
}
