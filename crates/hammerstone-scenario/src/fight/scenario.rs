//! A fight out of a file: who is in it, what they do when, and what is expected of it.

use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use hammerstone::flow::{Group, Question};
use hammerstone::geometry::Pose;
use hammerstone::ids::{OutcomeId, TeamId, TemplateId};
use hammerstone::level::Level;
use hammerstone::{Fixed, Ruleset};
use toml::Spanned;

use super::expect::{self, Expectation};
use super::level::PlacedObstacle;
use super::script::Line;
use crate::raw;
use crate::tactics::Tactics;
use hammerstone_rules::problem::{Reading, Unusable, text_of};
use hammerstone_rules::rules::{Ids, RulesFile};

/// How many combatants one file may place.
const MOST_COMBATANTS: i64 = 100_000;

/// A file that a scenario names, as it stands there.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Wanted<'a> {
    /// Its ruleset.
    Ruleset(&'a str),
    /// A mesh of its level.
    Mesh(&'a str),
    /// What its ruleset, which has this full name, names: a ruleset that it includes, a skeleton, or a buffer of one.
    OfRules(&'a str, &'a str),
}

impl<'a> Wanted<'a> {
    /// The name, as it stands in the file that names it.
    pub const fn name(self) -> &'a str {
        match self {
            Wanted::Ruleset(name) | Wanted::Mesh(name) | Wanted::OfRules(_, name) => name,
        }
    }

    /// Where it is: beside the scenario, which has this full name, or beside the ruleset.
    pub fn path(self, scenario: &Path) -> PathBuf {
        let file = match self {
            Wanted::Ruleset(_) | Wanted::Mesh(_) => scenario,
            Wanted::OfRules(rules, _) => Path::new(rules),
        };
        file.parent().unwrap_or(Path::new("")).join(self.name())
    }
}

/// Gives the full name and the bytes of a file that another names, or says why it cannot.
pub type Opener<'a> = dyn Fn(Wanted<'_>) -> Result<(String, Vec<u8>), String> + 'a;

/// The same as text.
pub(super) fn open_text(open: &Opener<'_>, wanted: Wanted<'_>) -> Result<(String, String), String> {
    let (name, bytes) = open(wanted)?;
    Ok((name, text_of(bytes)?))
}

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
    pub(crate) obstacles: Vec<PlacedObstacle>,
    pub(crate) level: Level,
    /// What the shapes of the level are called.
    pub(crate) shapes: Vec<String>,
    /// In order of time.
    pub(crate) script: Vec<Line>,
    /// What lines of the script ask.
    pub(crate) questions: Vec<Question>,
    /// What they publish as text.
    pub(crate) texts: Vec<String>,
    pub(crate) tactics: Arc<[Tactics]>,
    pub(crate) expectations: Vec<Expectation>,
    pub(crate) text: String,
}

/// A combatant that is there from the start.
#[derive(Clone, Debug)]
pub(crate) struct Placed {
    pub(crate) name: String,
    pub(crate) template: TemplateId,
    pub(crate) team: Option<TeamId>,
    pub(crate) pose: Pose,
    /// Legs of its way, one after the other.
    pub(crate) path: Vec<Leg>,
    /// Its leader, by their place.
    pub(crate) follows: Option<usize>,
    pub(crate) size: Fixed,
    /// Its own tactics, by their place.
    pub(crate) tactics: Option<usize>,
    /// In ten-thousandths.
    pub(crate) skill: Option<i64>,
}

impl Placed {
    /// Whether it is one of a group when it joins.
    pub(crate) fn is_of(&self, rules: &Ruleset, group: &Group) -> bool {
        let template = &rules.templates()[self.template.index()];
        group.team.is_none_or(|team| self.team.unwrap_or(template.team()) == team)
            && group.template.is_none_or(|wanted| wanted == self.template)
            && rules.tags_in(group.tags).all(|tag| template.has_tag(tag))
    }
}

/// One stretch of a way: from tick `from` on, evenly until the end of tick `by`.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Leg {
    pub(crate) from: u32,
    pub(crate) by: u32,
    pub(crate) pose: Pose,
}

impl Scenario {
    /// The file's text.
    pub fn text(&self) -> &str {
        &self.text
    }
}

impl Scenario {
    /// Reads a scenario. `file` is its name, for messages; `open` gives the text of the ruleset file
    /// that it names, relative to itself, or says why it cannot.
    ///
    /// *Errors:* everything that is wrong with it, or with its ruleset, each with its place.
    pub fn read(file: &str, text: &str, open: &Opener<'_>) -> Result<Scenario, Box<Unusable>> {
        let (raw, mut reading): (raw::ScenarioFile, _) = Reading::new(file, text).parse()?;
        let rules_name = &raw.scenario.rules;
        let rules = match open_text(open, Wanted::Ruleset(rules_name.as_ref())) {
            Ok((name, text)) => {
                let beside = |wanted: &str| open(Wanted::OfRules(&name, wanted));
                RulesFile::read_with(&name, &text, &beside)?
            }
            Err(why) => {
                let message = format!("the ruleset `{}` cannot be read: {why}", rules_name.as_ref());
                let fix = "name a file, relative to this one".to_owned();
                reading.problem(rules_name.span(), "this file", message, Some(fix));
                return Err(reading.unusable());
            }
        };
        let resolver = Resolver {
            reading: &mut reading,
            rules: &rules,
            open,
            placed: Vec::new(),
            obstacles: Vec::new(),
            groups: Ids::default(),
            questions: Vec::new(),
            texts: Vec::new(),
            tactics: Vec::new(),
        };
        let resolved = resolver.resolve(&raw);
        let file = file.to_owned();
        reading.done(resolved.map(|parts| Scenario {
            file,
            title: raw.scenario.title.clone(),
            seed: raw.scenario.seed.unwrap_or(1),
            ticks: parts.ticks,
            outcome: parts.outcome,
            placed: parts.placed,
            obstacles: parts.obstacles,
            level: parts.level.0,
            shapes: parts.level.1,
            script: parts.script,
            questions: parts.questions,
            texts: parts.texts,
            tactics: parts.tactics,
            expectations: parts.expectations,
            text: text.to_owned(),
            rules,
        }))
    }

    /// How many combatants are there from the start.
    pub fn combatants(&self) -> usize {
        self.placed.len()
    }

    /// The level in which it is fought.
    pub fn level(&self) -> &Level {
        &self.level
    }

    /// Whether any combatant moves and fights by tactics; if not, all goes by legs and script.
    pub fn has_tactics(&self) -> bool {
        !self.tactics.is_empty()
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
    obstacles: Vec<PlacedObstacle>,
    level: (Level, Vec<String>),
    script: Vec<Line>,
    questions: Vec<Question>,
    texts: Vec<String>,
    tactics: Arc<[Tactics]>,
    expectations: Vec<Expectation>,
}

pub(crate) struct Resolver<'r, 't> {
    pub(crate) reading: &'r mut Reading<'t>,
    pub(crate) rules: &'r RulesFile,
    pub(crate) open: &'r Opener<'r>,
    pub(crate) placed: Vec<Placed>,
    pub(crate) obstacles: Vec<PlacedObstacle>,
    /// Names that stand for one or more of the placed.
    groups: Ids<Range<usize>>,
    /// What lines of the script ask.
    pub(crate) questions: Vec<Question>,
    pub(crate) texts: Vec<String>,
    /// All tactics, by their names.
    tactics: Vec<(String, usize)>,
}

impl Resolver<'_, '_> {
    fn resolve(mut self, raw: &raw::ScenarioFile) -> Option<Parts> {
        let ticks = self.time(&raw.scenario.lasts)?;
        if ticks == 0 {
            let fix = Some("give at least one tick".to_owned());
            self.reading.problem(
                raw.scenario.lasts.span(),
                "here",
                "the fight has no length".to_owned(),
                fix,
            );
        }
        let outcome = match &raw.scenario.outcome {
            Some(name) => self.outcome(name),
            None => self.rules.ruleset.find_outcome("time"),
        };
        for (name, obstacle) in &raw.obstacle {
            if let Some((solid, pose)) = self.obstacle(name, obstacle) {
                let (name, open) = (name.as_ref().clone(), obstacle.open);
                self.obstacles.push(PlacedObstacle { name, obstacle: solid, pose, open });
            }
        }
        let level = self.level(&raw.level);
        let names = raw.tactics.keys().enumerate();
        self.tactics = names.map(|(place, name)| (name.as_ref().clone(), place)).collect();
        let tactics: Vec<Tactics> =
            raw.tactics.iter().filter_map(|(name, tactics)| self.tactics(name, tactics)).collect();
        for (name, combatant) in &raw.combatant {
            self.combatant(name, combatant);
        }
        for (name, combatant) in &raw.combatant {
            if let Some(leader) = &combatant.follows
                && let (Some(who), Some(leader)) = (self.who(name), self.who(leader))
            {
                for place in who {
                    self.placed[place].follows = Some(leader.start);
                }
            }
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
        Some(Parts {
            ticks,
            outcome: outcome?,
            placed: self.placed,
            obstacles: self.obstacles,
            level,
            script,
            questions: self.questions,
            texts: self.texts,
            tactics: Arc::from(tactics),
            expectations,
        })
    }

    pub(crate) fn time(&mut self, time: &raw::Time) -> Option<u32> {
        self.reading.time(time, self.rules.ruleset.rate())
    }

    pub(crate) fn pose(&mut self, at: &raw::Vector, facing: Option<&raw::Number>) -> Option<Pose> {
        self.reading.pose(at, facing, self.rules.ruleset.up())
    }

    fn combatant(&mut self, name: &raw::Name, raw: &raw::Combatant) {
        let rules = &self.rules.ruleset;
        let first = self.placed.len();
        let count = raw.count.as_ref().map_or(Some(1), |count| self.reading.whole(count, 1, MOST_COMBATANTS));
        let known = || rules.templates().iter().map(|template| (template.name(), None));
        let template = rules.find_template(raw.template.as_ref());
        let template = template.or_else(|| self.reading.find("template", &raw.template, known()).flatten());
        let teams = || rules.teams().map(|team| (rules.team_name(team).unwrap_or_default(), team));
        let team = raw.team.as_ref().map(|team| self.reading.find("team", team, teams()));
        let pose = self.pose(&raw.at, raw.facing.as_ref());
        let apart = raw.apart.as_ref().map_or(Some([0.0; 3]), |apart| self.reading.vector(apart));
        let path = self.path(&raw.path);
        let size = raw.size.as_ref().map_or(Some(Fixed::ONE), |size| self.size(size));
        let tactics = raw.tactics.as_ref().and_then(|name| self.tactics_named(name));
        let skill = raw.skill.as_ref().and_then(|skill| self.share(skill));
        let number = |i: i64| {
            if raw.count.is_some() { format!("{}#{i}", name.as_ref()) } else { name.as_ref().clone() }
        };
        if let (Some(count), Some(template), Some(pose), Some(apart), Some(size)) =
            (count, template, pose, apart, size)
        {
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
                self.placed.push(Placed {
                    name,
                    template,
                    team,
                    pose: shift(pose),
                    path,
                    follows: None,
                    size,
                    tactics,
                    skill,
                });
            }
        }
        // Even if no one could be placed, so that what names them is not found wrong as well.
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
                let fix = Some("give a later time".to_owned());
                self.reading.problem(leg.by.span(), "not later", message, fix);
                continue;
            }
            path.push(Leg { from, by, pose });
        }
        path
    }

    /// Tactics by their name.
    pub(crate) fn tactics_named(&mut self, name: &raw::Name) -> Option<usize> {
        let known = self.tactics.iter().map(|(known, place)| (known.as_str(), *place));
        self.reading.find("tactics", name, known)
    }

    pub(crate) fn who(&mut self, name: &raw::Name) -> Option<Range<usize>> {
        self.reading.find_id("combatant", name, &self.groups)
    }
}
