//! What swings came to: hits, refusals, and where nothing met, how near they came.

use crate::{Record, Tick};
use hammerstone::attack::Phase;
use hammerstone::event::{
    AttackClosed, AttackEnded, AttackLapsed, AttackOpened, AttackStarted, CombatantJoined, HitLanded,
    HitRefused, OrderRefused, ProjectileStopped,
};
use std::collections::{BTreeMap, BTreeSet};

use hammerstone::Encounter;
use hammerstone::Ruleset;
use hammerstone::event::{Event, SwingEnd};
use hammerstone::ids::{AttackId, CombatantId, SwingId};
use hammerstone::orders::OrderKind;
use serde::Serialize;

use super::gates::fix;
use super::nearness::look;
use super::starts::{RefusedStart, Starts};
use super::verdict::verdict;
use crate::Names;
use crate::feed::{OperandText, begins, refusal};

/// What swings came to, and starts that came to none.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Results {
    /// The swings, in the order in which they began.
    pub swings: Vec<SwingResult>,
    /// Starts that were refused, in the order of time.
    pub refused_starts: Vec<RefusedStart>,
}

/// One swing, and what came of it.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct SwingResult {
    /// The swing's number.
    pub swing: u64,
    /// Its attack.
    pub attack: String,
    /// The attacker.
    pub attacker: String,
    /// When it began, in seconds.
    pub from: f64,
    /// When it ended, in seconds, if it did.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub to: Option<f64>,
    /// When each of its windows opened, and when it shut again.
    pub windows: Vec<(f64, f64)>,
    /// By how many ticks its targets were rewound, if they were.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rewound: Option<u16>,
    /// What stopped a projectile of it, the first if it has several; or its beam.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stopped: Option<Stopped>,
    /// What came of it as a whole, in a sentence.
    pub outcome: String,
    /// Those that it met, in that order; where it met none, the one that is asked about, or the nearest one.
    pub targets: Vec<TargetResult>,
    #[serde(skip)]
    pub(crate) why: Option<SwingEnd>,
}

/// One swing at one target, and what came of it.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct TargetResult {
    /// The target.
    pub target: String,
    /// Hits and refusals, in order.
    pub answers: Vec<Answer>,
    /// Where nothing met: how near its hitboxes came, the obstacle first.
    pub near: Vec<Near>,
    /// What came of it, in a sentence.
    pub outcome: String,
    /// What would let it strike, where it did not.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fix: Option<String>,
    /// The gate that would also refuse, if it met; only how the teams stand to each other is looked at.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub also: Option<String>,
    #[serde(skip)]
    pub(crate) seen: Seen,
}

/// What was there of a swing and a target while its windows were open.
#[derive(Clone, Copy, PartialEq, Debug, Default)]
pub(crate) struct Seen {
    /// Whether the target stood.
    pub(crate) stood: bool,
    /// Whether the swing had a hitbox.
    pub(crate) hitbox: bool,
    /// Whether the target had a part.
    pub(crate) part: bool,
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
    /// The tick, counted on through resets.
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
    /// The tick, counted on through resets.
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

/// Gathers what swings come to tick by tick, of those that are asked about.
#[derive(Clone, Debug)]
pub struct SwingResults {
    attacker: Option<String>,
    target: Option<String>,
    /// Of how many combatants at most it is looked at how near the swings of each come, where none is named.
    distances_of: usize,
    joined: BTreeSet<String>,
    swings: BTreeMap<SwingId, Swung>,
    starts: Starts,
    ticks: u32,
}

/// A swing of the attacker's.
#[derive(Clone, Debug)]
pub(super) struct Swung {
    pub(super) attack: AttackId,
    pub(super) called: String,
    from: u32,
    pub(super) to: Option<(u32, SwingEnd)>,
    pub(super) windows: Vec<(u32, Option<u32>)>,
    /// By how many ticks it is rewound.
    rewound: u16,
    /// What stopped the first of its projectiles that was stopped, and when, in seconds.
    pub(super) stopped: Option<Stopped>,
    /// Those that it met, and the one that is asked about.
    pub(super) targets: Vec<(CombatantId, TargetResult)>,
    /// While it has met none, and none is asked about: the one that was nearest so far.
    pub(super) nearest: Option<(CombatantId, TargetResult)>,
}

impl Swung {
    /// What came of it at a target; made when it is first asked for.
    pub(super) fn at(&mut self, target: CombatantId, names: &Names) -> &mut TargetResult {
        let place = self.targets.iter().position(|(at, _)| *at == target).unwrap_or_else(|| {
            self.targets.push((target, TargetResult::new(names.of(target))));
            self.targets.len() - 1
        });
        &mut self.targets[place].1
    }
}

impl TargetResult {
    pub(super) fn new(target: &str) -> TargetResult {
        TargetResult {
            target: target.to_owned(),
            answers: Vec::new(),
            near: Vec::new(),
            outcome: String::new(),
            fix: None,
            also: None,
            seen: Seen::default(),
        }
    }
}

impl SwingResults {
    /// Of everyone, or of one by name; at everyone, or at one. How near what missed came is looked at where the attacker is named.
    pub fn new(attacker: Option<&str>, target: Option<&str>) -> SwingResults {
        SwingResults {
            attacker: attacker.map(str::to_owned),
            target: target.map(str::to_owned),
            distances_of: 0,
            joined: BTreeSet::new(),
            swings: BTreeMap::new(),
            starts: Starts::default(),
            ticks: 0,
        }
    }

    /// How near what missed came is looked at for the swings of everyone, in ticks in which no more than so many combatants are there.
    pub fn with_distances_of(mut self, most: usize) -> SwingResults {
        self.distances_of = most;
        self
    }

    /// The names of all who have joined so far.
    pub fn joined(&self) -> impl Iterator<Item = &str> {
        self.joined.iter().map(String::as_str)
    }

    /// A swing runs, and has perhaps not been seen before.
    fn meet(&mut self, swing: SwingId, attacker: Option<CombatantId>, attack: AttackId, tick: &Tick<'_>) {
        if is_asked(&self.attacker, attacker, tick.names) {
            let called = || attacker.map_or("environment", |who| tick.names.of(who)).to_owned();
            self.swings.entry(swing).or_insert_with(|| Swung {
                attack,
                called: called(),
                from: tick.clock,
                to: None,
                windows: Vec::new(),
                rewound: 0,
                stopped: None,
                targets: Vec::new(),
                nearest: None,
            });
        }
    }

    fn answered(&mut self, swing: SwingId, target: CombatantId, answer: Answer, names: &Names) {
        if is_asked(&self.target, Some(target), names)
            && let Some(swung) = self.swings.get_mut(&swing)
        {
            swung.nearest = None;
            swung.at(target, names).answers.push(answer);
        }
    }

    /// How near the swings of the attacker come to the target, or to anybody, in this tick.
    fn look(&mut self, tick: &Tick<'_>) {
        let Tick { encounter, names, .. } = *tick;
        let called = |name: &str| encounter.view().combatants().find(|&who| names.of(who) == name);
        let attackers: Vec<CombatantId> = match &self.attacker {
            Some(name) => called(name).into_iter().collect(),
            None if encounter.view().combatants().count() <= self.distances_of => {
                let mut attackers: Vec<_> =
                    encounter.view().swings().filter_map(|(_, attacker, _)| attacker).collect();
                attackers.sort_unstable();
                attackers.dedup();
                attackers
            }
            None => return,
        };
        if attackers.is_empty() {
            return;
        }
        let target = match &self.target {
            Some(name) => match called(name) {
                Some(target) => Some(target),
                None => return,
            },
            None => None,
        };
        for line in encounter.beams() {
            let by = { line.obstacle.map(|id| names.of_obstacle(id)) }
                .or(line.shape.map(|place| names.of_shape(place)));
            if let (Some(by), Some(swung)) = (by, self.swings.get_mut(&line.swing)) {
                let (by, time) = (by.into_owned(), tick.begins());
                swung.stopped.get_or_insert(Stopped { by, time, point: line.to });
            }
        }
        attackers.into_iter().for_each(|attacker| look(&mut self.swings, tick, attacker, target));
    }

    /// Every swing that is asked about, in order, with what came of it; and starts that were refused.
    pub fn finish(self, encounter: &Encounter) -> Results {
        self.finished(encounter.rules())
    }

    /// As [`finish`](Self::finish), of a fight that may go on.
    pub fn results(&self, rules: &Ruleset) -> Results {
        self.clone().finished(rules)
    }

    fn finished(self, rules: &Ruleset) -> Results {
        let (last, of_target) = (self.ticks, self.target.is_some() && self.attacker.is_none());
        let asked = self.target.is_some();
        let finished = |(swing, swung): (SwingId, Swung)| {
            let last = swung.to.map_or(last, |(to, _)| to);
            let window =
                |&(from, to): &(u32, Option<u32>)| (begins(from, rules), begins(to.unwrap_or(last), rules));
            let targets = swung.targets.into_iter().chain(swung.nearest).map(|(_, at)| at);
            let mut one = SwingResult {
                swing: swing.number(),
                attack: rules.attack_name(swung.attack).unwrap_or_default().to_owned(),
                attacker: swung.called,
                from: begins(swung.from, rules),
                to: swung.to.map(|(to, _)| begins(to, rules)),
                windows: swung.windows.iter().map(window).collect(),
                rewound: (swung.rewound > 0).then_some(swung.rewound),
                stopped: swung.stopped,
                outcome: String::new(),
                targets: targets.collect(),
                why: swung.to.map(|(_, why)| why),
            };
            verdict(&mut one, asked, &rules.attacks()[swung.attack.index()], rules);
            one
        };
        // Of those at one target: by everybody what met it, by one what ran while it was there.
        let is_shown = |(_, swung): &(SwingId, Swung)| !asked || !swung.targets.is_empty();
        let swings = self.swings.into_iter().filter(is_shown).map(finished).collect();
        Results { swings, refused_starts: if of_target { Vec::new() } else { self.starts.finish(rules) } }
    }
}

impl Record for SwingResults {
    fn observe(&mut self, tick: &Tick<'_>) {
        let Tick { encounter, facts, rules, names, clock, .. } = *tick;
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
                    swung.windows.push((clock, None));
                }
            }
        }
        self.ticks = clock;
        let text = |operand| OperandText(operand, rules, names).to_string();
        for event in facts.events() {
            match *event {
                Event::CombatantJoined(CombatantJoined { subject, .. }) => {
                    self.joined.insert(names.of(subject).to_owned());
                }
                Event::AttackStarted(AttackStarted { subject, attack, swing, .. }) => {
                    self.meet(swing, subject, attack, tick);
                    self.starts.begun(subject, attack);
                }
                Event::OrderRefused(OrderRefused {
                    kind: OrderKind::Start,
                    subject,
                    attack: Some(attack),
                    why,
                    ..
                }) if is_asked(&self.attacker, subject, names) => {
                    let text = refusal(why, rules);
                    self.starts.refused(subject, attack, (clock, why, text), names);
                }
                Event::AttackLapsed(AttackLapsed { subject, attack, .. })
                    if is_asked(&self.attacker, Some(subject), names) =>
                {
                    self.starts.lapsed(subject, attack, clock, names);
                }
                Event::AttackOpened(AttackOpened { swing, subject, attack, .. }) => {
                    self.meet(swing, subject, attack, tick);
                    if let Some(swung) = self.swings.get_mut(&swing) {
                        swung.windows.push((clock, None));
                    }
                }
                Event::AttackClosed(AttackClosed { swing, .. }) => {
                    if let Some((_, to)) =
                        self.swings.get_mut(&swing).and_then(|swung| swung.windows.last_mut())
                    {
                        *to = Some(clock);
                    }
                }
                Event::ProjectileStopped(ProjectileStopped {
                    swing, obstacle, shape, point, toi, ..
                }) => {
                    let by =
                        obstacle.map(|id| names.of_obstacle(id)).or(shape.map(|place| names.of_shape(place)));
                    let by = by.map_or("a wall that the host found".to_owned(), |name| name.into_owned());
                    let time = tick.begins() + f64::from(toi) / f64::from(rules.rate());
                    if let Some(swung) = self.swings.get_mut(&swing) {
                        swung.stopped.get_or_insert(Stopped { by, time, point });
                    }
                }
                Event::AttackEnded(AttackEnded { swing, subject, attack, why, .. }) => {
                    self.meet(swing, subject, attack, tick);
                    if let Some(swung) = self.swings.get_mut(&swing) {
                        swung.to = Some((clock, why));
                    }
                }
                Event::HitLanded(HitLanded { swing, target, part, hit, .. }) => {
                    let answer = Answer { hit: Some(hit), ..answer(tick, target, part) };
                    self.answered(swing, target, answer, names);
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
                        ..answer(tick, target, part)
                    };
                    self.answered(swing, target, answer, names);
                }
                _ => {}
            }
        }
        for swing in encounter.view().rewound() {
            if let Some(swung) = self.swings.get_mut(&swing.0) {
                swung.rewound = swing.1;
            }
        }
        self.look(tick);
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

fn answer(tick: &Tick<'_>, target: CombatantId, part: u16) -> Answer {
    let Tick { names, rules, .. } = *tick;
    Answer {
        tick: tick.clock,
        time: tick.begins(),
        hit: None,
        part: names.part(rules, target, part).unwrap_or_default().to_owned(),
        gate: None,
        wanted: None,
        found: None,
        fix: None,
    }
}
