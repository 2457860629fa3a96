//! A fight out of a file: who is in it, what they do when, and what is expected of it.

use std::ops::Range;

use hammerstone::{AttackId, CastId, Fixed, KindId, OutcomeId, Pose, ReasonId, StatusId, TeamId};
use toml::Spanned;

use crate::expect::{self, Expectation};
use crate::problem::{Reading, Unusable};
use crate::raw;
use crate::rules::RulesFile;

/// How many combatants one file may place.
const MOST_COMBATANTS: i64 = 100_000;
/// How many lines of script one line may stand for.
const MOST_TIMES: i64 = 1_000_000;

/// Gives the full name and the text of a file that another names, or says why it cannot.
pub type Opener<'a> = dyn Fn(&str) -> Result<(String, String), String> + 'a;

/// A fight that was read from a file, with every name resolved.
#[derive(Clone, Debug)]
pub struct Scenario {
    /// The file's name.
    pub file: String,
    /// Its title.
    pub title: String,
    /// The rules that it is fought under.
    pub rules: RulesFile,
    /// The seed, unless a run is given another.
    pub seed: u64,
    /// How long it lasts, in ticks, unless a run is given another length.
    pub ticks: u32,
    /// What it ends with when its time is up.
    pub(crate) outcome: OutcomeId,
    pub(crate) placed: Vec<Placed>,
    /// In order of time.
    pub(crate) script: Vec<Line>,
    pub(crate) expectations: Vec<Expectation>,
}

/// A combatant that is there from the start.
#[derive(Clone, Debug)]
pub(crate) struct Placed {
    pub(crate) name: String,
    pub(crate) cast: CastId,
    pub(crate) team: Option<TeamId>,
    pub(crate) pose: Pose,
    /// Legs of its way, one after the other.
    pub(crate) path: Vec<Leg>,
}

/// One stretch of a way: from tick `from` on, evenly until the end of tick `by`.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Leg {
    pub(crate) from: u32,
    pub(crate) by: u32,
    pub(crate) pose: Pose,
}

/// What the script orders. Combatants are named by their place among the placed.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Act {
    Start(AttackId),
    Cancel,
    Place(Pose),
    Move(Pose, u32),
    Harm { kind: KindId, amount: Fixed, reason: ReasonId, by: Option<usize> },
    Heal { points: u32, reason: ReasonId, by: Option<usize> },
    Apply { status: StatusId, by: Option<usize> },
    Lift(StatusId),
    SendAway,
    BringBack(Pose),
    Remove,
    End(OutcomeId),
}

/// One order of the script.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Line {
    /// The tick in which it is carried out.
    pub(crate) tick: u32,
    /// Whether it comes back in a rhythm, and so stops with its combatant.
    pub(crate) repeated: bool,
    pub(crate) who: usize,
    pub(crate) act: Act,
}

impl Scenario {
    /// Reads a scenario. `file` is its name, for messages; `open` gives the text of the ruleset file
    /// that it names, relative to itself, or says why it cannot.
    ///
    /// *Errors:* everything that is wrong with it, or with its ruleset, each with its place.
    pub fn read(file: &str, text: &str, open: &Opener<'_>) -> Result<Scenario, Box<Unusable>> {
        let (raw, mut reading): (raw::ScenarioFile, _) = Reading::new(file, text).parse()?;
        let rules_name = &raw.scenario.rules;
        let rules = match open(rules_name.as_ref()) {
            Ok((name, text)) => RulesFile::read(&name, &text)?,
            Err(why) => {
                let message = format!("the ruleset `{}` cannot be read: {why}", rules_name.as_ref());
                let mend = "name a file, relative to this one".to_owned();
                reading.problem(rules_name.span(), "this file", message, Some(mend));
                return Err(reading.unusable());
            }
        };
        let resolver =
            Resolver { reading: &mut reading, rules: &rules, placed: Vec::new(), groups: Vec::new() };
        let resolved = resolver.resolve(&raw);
        let file = file.to_owned();
        reading.done(resolved.map(|parts| Scenario {
            file,
            title: raw.scenario.title.clone(),
            seed: raw.scenario.seed.unwrap_or(1),
            ticks: parts.ticks,
            outcome: parts.outcome,
            placed: parts.placed,
            script: parts.script,
            expectations: parts.expectations,
            rules,
        }))
    }

    /// How many combatants are there from the start.
    pub fn combatants(&self) -> usize {
        self.placed.len()
    }

    /// How many expectations it has.
    pub fn expectations(&self) -> usize {
        self.expectations.len()
    }
}

struct Parts {
    ticks: u32,
    outcome: OutcomeId,
    placed: Vec<Placed>,
    script: Vec<Line>,
    expectations: Vec<Expectation>,
}

struct Resolver<'r, 't> {
    reading: &'r mut Reading<'t>,
    rules: &'r RulesFile,
    placed: Vec<Placed>,
    /// Names that stand for one or more of the placed.
    groups: Vec<(String, Range<usize>)>,
}

impl Resolver<'_, '_> {
    fn resolve(mut self, raw: &raw::ScenarioFile) -> Option<Parts> {
        let ticks = self.time(&raw.scenario.lasts)?;
        if ticks == 0 {
            let mend = Some("give at least one tick".to_owned());
            self.reading.problem(
                raw.scenario.lasts.span(),
                "here",
                "the fight has no length".to_owned(),
                mend,
            );
        }
        let outcome = match &raw.scenario.outcome {
            Some(name) => self.outcome(name),
            None => self.rules.ruleset.find_outcome("time"),
        };
        for (name, combatant) in &raw.combatant {
            self.combatant(name, combatant);
        }
        let mut script = Vec::new();
        for entry in &raw.script {
            self.entry(entry, ticks, &mut script);
        }
        script.sort_by_key(|line| line.tick);
        let mut expectations = Vec::new();
        for expectation in &raw.expect {
            let rules = &self.rules.ruleset;
            expectations.extend(expect::resolve(self.reading, rules, &self.groups, expectation, ticks));
        }
        Some(Parts { ticks, outcome: outcome?, placed: self.placed, script, expectations })
    }

    fn time(&mut self, time: &raw::Time) -> Option<u32> {
        self.reading.time(time, self.rules.ruleset.rate())
    }

    fn pose(&mut self, at: &raw::Vector, facing: Option<&raw::Number>) -> Option<Pose> {
        self.reading.pose(at, facing, self.rules.ruleset.up())
    }

    fn combatant(&mut self, name: &raw::Name, raw: &raw::Combatant) {
        let rules = &self.rules.ruleset;
        let first = self.placed.len();
        let count = raw.count.as_ref().map_or(Some(1), |count| self.reading.whole(count, 1, MOST_COMBATANTS));
        let known = || rules.casts().iter().map(|cast| (cast.name(), rules.find_cast(cast.name())));
        let cast = self.reading.find("cast entry", &raw.cast, known()).flatten();
        let teams = || rules.teams().map(|team| (rules.team_name(team), team));
        let team = raw.team.as_ref().map(|team| self.reading.find("team", team, teams()));
        let pose = self.pose(&raw.at, raw.facing.as_ref());
        let apart = raw.apart.as_ref().map_or(Some([0.0; 3]), |apart| self.reading.vector(apart));
        let path = self.path(&raw.path);
        let number = |i: i64| {
            if raw.count.is_some() { format!("{}#{i}", name.as_ref()) } else { name.as_ref().clone() }
        };
        if let (Some(count), Some(cast), Some(pose), Some(apart)) = (count, cast, pose, apart) {
            for i in 0..count {
                let shift = |pose: Pose| {
                    let mut at = pose.at;
                    for (at, apart) in at.iter_mut().zip(apart) {
                        *at += apart * i as f32;
                    }
                    Pose { at, ..pose }
                };
                let path = path.iter().map(|leg| Leg { pose: shift(leg.pose), ..*leg }).collect();
                let (name, team) = (number(i + 1), team.flatten());
                self.placed.push(Placed { name, cast, team, pose: shift(pose), path });
            }
        }
        // Even if nobody could be placed, so that what names them is not found wrong as well.
        self.groups.push((name.as_ref().clone(), first..self.placed.len()));
        if raw.count.is_some() {
            for place in first..self.placed.len() {
                self.groups.push((self.placed[place].name.clone(), place..place + 1));
            }
        }
    }

    fn path(&mut self, legs: &[Spanned<raw::Leg>]) -> Vec<Leg> {
        let mut path: Vec<Leg> = Vec::new();
        for spanned in legs {
            let leg = spanned.as_ref();
            let from = path.last().map_or(0, |leg| leg.by);
            let (Some(by), Some(pose)) = (self.time(&leg.by), self.pose(&leg.to, leg.facing.as_ref())) else {
                continue;
            };
            if by <= from {
                let message = format!("the leg ends at tick {by}, and the one before at tick {from}");
                let mend = Some("give a later time".to_owned());
                self.reading.problem(leg.by.span(), "not later", message, mend);
                continue;
            }
            path.push(Leg { from, by, pose });
        }
        path
    }

    fn who(&mut self, name: &raw::Name) -> Option<Range<usize>> {
        let known = self.groups.iter().map(|(name, range)| (name.as_str(), range.clone()));
        self.reading.find("combatant", name, known)
    }

    fn outcome(&mut self, name: &raw::Name) -> Option<OutcomeId> {
        let rules = &self.rules.ruleset;
        let found = rules.find_outcome(name.as_ref());
        if found.is_none() {
            let mend = Some("list it under `outcomes` of the ruleset".to_owned());
            let message = format!("there is no outcome `{}`", name.as_ref());
            self.reading.problem(name.span(), "no such outcome", message, mend);
        }
        found
    }

    fn reason(&mut self, entry: &Spanned<raw::Entry>) -> Option<ReasonId> {
        match &entry.as_ref().reason {
            Some(name) => {
                let found = self.rules.ruleset.find_reason(name.as_ref());
                if found.is_none() {
                    let mend = Some("list it under `reasons` of the ruleset".to_owned());
                    let message = format!("there is no reason `{}`", name.as_ref());
                    self.reading.problem(name.span(), "no such reason", message, mend);
                }
                found
            }
            None => {
                let mend = Some("add `reason = \"…\"`".to_owned());
                let message = "harm and healing by the script need a reason".to_owned();
                self.reading.problem(entry.span(), "no reason", message, mend);
                None
            }
        }
    }

    fn entry(&mut self, spanned: &Spanned<raw::Entry>, ticks: u32, script: &mut Vec<Line>) {
        let entry = spanned.as_ref();
        let at = self.time(&entry.at);
        let every = entry.every.as_ref().map(|every| self.time(every));
        let times = match (&entry.times, every) {
            (Some(times), _) => self.reading.whole(times, 1, MOST_TIMES),
            (None, Some(_)) => Some(MOST_TIMES),
            (None, None) => Some(1),
        };
        if let Some(Some(0)) = every {
            let mend = Some("give at least one tick".to_owned());
            self.reading.problem(spanned.span(), "here", "a rhythm of no ticks".to_owned(), mend);
            return;
        }
        let by = entry.by.as_ref().map(|name| self.who(name));
        let who = match (&entry.who, &entry.end) {
            (Some(name), _) => self.who(name),
            (None, Some(_)) => Some(0..1),
            (None, None) => {
                let mend = Some("add `who = \"…\"`".to_owned());
                self.reading.problem(spanned.span(), "nobody", "the line names nobody".to_owned(), mend);
                None
            }
        };
        let acts = self.acts(spanned, by.flatten().map(|range| range.start));
        let (Some(at), Some(times), Some(who)) = (at, times, who) else { return };
        if let Some(attack) =
            acts.iter().find_map(|act| if let Act::Start(attack) = act { Some(*attack) } else { None })
        {
            self.must_use(entry, who.clone(), attack);
        }
        let every = every.flatten().unwrap_or(0);
        for time in 0..times {
            let tick = i64::from(at) + time * i64::from(every) + 1;
            if tick > i64::from(ticks) {
                break;
            }
            for who in who.clone() {
                for &act in &acts {
                    script.push(Line { tick: tick as u32, repeated: time > 0, who, act });
                }
            }
        }
    }

    /// Whoever starts an attack must be of a cast entry that lists it.
    fn must_use(&mut self, entry: &raw::Entry, who: Range<usize>, attack: AttackId) {
        let rules = &self.rules.ruleset;
        let stranger = who.into_iter().find(|&who| {
            let uses = self.rules.uses.get(self.placed[who].cast.index());
            !uses.is_some_and(|uses| uses.contains(&attack))
        });
        if let (Some(who), Some(name)) = (stranger, &entry.start) {
            let cast = rules.cast_name(self.placed[who].cast);
            let message = format!("cast entry `{cast}` does not list attack `{}`", name.as_ref());
            let mend = Some(format!("add it to `attacks` of [cast.{cast}] in {}", self.rules.file));
            self.reading.problem(name.span(), "not listed", message, mend);
        }
    }

    fn acts(&mut self, spanned: &Spanned<raw::Entry>, by: Option<usize>) -> Vec<Act> {
        let rules = &self.rules.ruleset;
        let entry = spanned.as_ref();
        let mut verbs = Vec::new();
        let mut acts = Vec::new();
        if let Some(name) = &entry.start {
            verbs.push("start");
            let known =
                rules.attacks().iter().map(|attack| (attack.name(), rules.find_attack(attack.name())));
            acts.extend(self.reading.find("attack", name, known).flatten().map(Act::Start));
        }
        for (verb, flag, act) in [
            ("cancel", &entry.cancel, Act::Cancel),
            ("send-away", &entry.send_away, Act::SendAway),
            ("remove", &entry.remove, Act::Remove),
        ] {
            if flag.as_ref().is_some_and(|flag| *flag.as_ref()) {
                verbs.push(verb);
                acts.push(act);
            }
        }
        for (verb, stand, act) in [
            ("place", &entry.place, Act::Place as fn(Pose) -> Act),
            ("bring-back", &entry.bring_back, Act::BringBack as fn(Pose) -> Act),
        ] {
            if let Some(stand) = stand {
                verbs.push(verb);
                acts.extend(self.pose(&stand.at, stand.facing.as_ref()).map(act));
            }
        }
        if let Some(walk) = &entry.moves {
            verbs.push("move");
            let (pose, ticks) = (self.pose(&walk.to, walk.facing.as_ref()), self.time(&walk.over));
            acts.extend(pose.zip(ticks).map(|(pose, ticks)| Act::Move(pose, ticks)));
        }
        if let Some(harm) = &entry.harm {
            verbs.push("harm");
            let reason = self.reason(spanned);
            for (name, range) in harm {
                let points = match *range.as_ref() {
                    raw::Range::One(points) if points >= 0 => points,
                    _ => {
                        let message = "the script harms by one whole amount, not below 0".to_owned();
                        self.reading.problem(
                            range.span(),
                            "here",
                            message,
                            Some("give one number".to_owned()),
                        );
                        continue;
                    }
                };
                let known = rules.kinds().map(|kind| (rules.kind_name(kind), kind));
                let kind = self.reading.find("kind of harm", name, known);
                if let (Some(kind), Some(reason)) = (kind, reason) {
                    acts.push(Act::Harm { kind, amount: Fixed::whole(points), reason, by });
                }
            }
        }
        if let Some(points) = &entry.heal {
            verbs.push("heal");
            let reason = self.reason(spanned);
            let points = self.reading.whole(points, 0, 1_000_000_000);
            acts.extend(points.zip(reason).map(|(points, reason)| Act::Heal {
                points: points as u32,
                reason,
                by,
            }));
        }
        for (verb, name, act) in [
            (
                "apply",
                &entry.apply,
                (|status, by| Act::Apply { status, by }) as fn(StatusId, Option<usize>) -> Act,
            ),
            ("lift", &entry.lift, |status, _| Act::Lift(status)),
        ] {
            if let Some(name) = name {
                verbs.push(verb);
                let known =
                    rules.statuses().iter().map(|status| (status.name(), rules.find_status(status.name())));
                acts.extend(self.reading.find("status", name, known).flatten().map(|status| act(status, by)));
            }
        }
        if let Some(name) = &entry.end {
            verbs.push("end");
            acts.extend(self.outcome(name).map(Act::End));
        }
        if verbs.len() != 1 {
            let message = match verbs.as_slice() {
                [] => "the line orders nothing".to_owned(),
                several => format!("the line orders {} things: {}", several.len(), several.join(", ")),
            };
            let mend = "give one of start, cancel, place, move, harm, heal, apply, lift, send-away, bring-back, remove, end";
            self.reading.problem(spanned.span(), "this line", message, Some(mend.to_owned()));
        }
        acts
    }
}
