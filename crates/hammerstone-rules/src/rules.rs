//! A ruleset out of a file.

mod template;

use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::{Arc, OnceLock};

use hammerstone::amount::{Keep, Shield};
use hammerstone::attack::Damage;
use hammerstone::event::ValueSort;
use hammerstone::flow::{Condition, Question};
use hammerstone::geometry::Axis;
use hammerstone::ids::{
    AttackId, CombatantCounterId, CombatantFlagId, CounterId, DamageTypeId, FlagId, GaugeId, HostTopicId, LayerId, ObstacleNameId, OutcomeId, OwnStepId, PoolId, ReasonId, ScoreId,
    ShieldId, SpotId, StatId, StatusId, TagId, TeamId, TemplateId, ThresholdId, ValueId, WaveId,
};
use hammerstone::team::Relation;
use hammerstone::template::{Broken, Part, Stagger, Template};
use hammerstone::{Fixed, Ruleset, RulesetBuilder};
use toml::Spanned;

use crate::excerpt::Excerpt;
use crate::flow::Heard;
use crate::include::Joined;
use crate::motion::{Motion, Opener, Rigs};
use crate::problem::{Reading, Unusable};
use crate::raw;
use crate::values::Shapes;

/// A ruleset that was read from a file, with what only files say.
#[derive(Clone, Debug)]
pub struct RulesFile {
    /// The file's name.
    pub file: String,
    /// The ruleset.
    pub ruleset: Ruleset,
    /// The text of the file, and of those that it includes.
    pub code: Excerpt,
    /// Where its keys stand, once that has been asked.
    pub places: OnceLock<BTreeMap<Vec<String>, Range<usize>>>,
    /// Its names, for conditions that are read with it.
    known: Arc<Known>,
    /// By template, the attacks that it uses.
    pub uses: Vec<Vec<AttackId>>,
    pub attack_spans: Vec<Range<usize>>,
    pub rule_spans: Vec<Range<usize>>,
    /// By attack, whether it is meant to be no one's.
    pub ownerless: Vec<bool>,
    /// Skeletons, and what follows their joints.
    pub motion: Motion,
    /// What scripts or the game give, read or publish; checks do not ask.
    pub outside: Vec<String>,
    /// Findings that are meant so.
    pub allow: Vec<Allowed>,
}

/// A finding of a check that is meant so.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Allowed {
    /// The number of the finding.
    pub finding: u16,
    /// A name that the finding says; all of that number if it is left out.
    pub about: Option<String>,
    /// Why it is meant so.
    pub because: String,
    /// Where it stands in the text.
    pub span: Range<usize>,
}

impl Allowed {
    fn of(raw: &raw::Allow) -> Allowed {
        Allowed {
            finding: *raw.finding.as_ref(),
            about: raw.about.as_ref().map(|name| name.as_ref().clone()),
            because: raw.because.as_ref().clone(),
            span: raw.finding.span(),
        }
    }
}

impl RulesFile {
    /// Reads a ruleset. `file` is its name, for messages.
    ///
    /// *Errors:* everything that is wrong with it, each with its place.
    pub fn read(file: &str, text: &str) -> Result<RulesFile, Box<Unusable>> {
        RulesFile::read_with(file, text, &|_| Err("no other file is read with it".to_owned()))
    }

    /// The same for a ruleset that names files: others that it includes, and those of its skeletons. `open` gives what stands in one, by its
    /// name relative to the ruleset.
    ///
    /// *Errors:* everything that is wrong with it, each with its place.
    pub fn read_with(file: &str, text: &str, open: &Opener<'_>) -> Result<RulesFile, Box<Unusable>> {
        let joined = Joined::of(file, text, open);
        let (raw, mut reading): (raw::RulesFile, _) = joined.reading().parse()?;
        let resolved = Resolver::new(&mut reading, &raw, open).resolve();
        reading.done(resolved.map(|Resolved { ruleset, known, uses, motion }| RulesFile {
            file: file.to_owned(),
            ruleset,
            known: Arc::new(known),
            motion,
            code: joined.code.clone(),
            places: OnceLock::new(),
            uses,
            attack_spans: raw.attack.keys().map(Spanned::span).collect(),
            rule_spans: rule_spans(&raw),
            ownerless: raw.attack.values().map(|attack| attack.ownerless).collect(),
            outside: raw.rules.outside.iter().map(|name| name.as_ref().to_string()).collect(),
            allow: raw.rules.allow.iter().map(Allowed::of).collect(),
        }))
    }
}

impl RulesFile {
    /// Conditions that stand in another file, such as a script, and ask without a fact.
    pub fn question(&self, reading: &mut Reading<'_>, raw: &Spanned<raw::Conditions>) -> Option<Question> {
        self.asked(reading, raw, None)
    }

    /// The same, where a chance may stand beside the others, which the one who asks rolls.
    pub fn question_with_chance(
        &self,
        reading: &mut Reading<'_>,
        raw: &Spanned<raw::Conditions>,
    ) -> Option<(Question, Option<Fixed>)> {
        let mut chance = None;
        let question = self.asked(reading, raw, Some(&mut chance))?;
        Some((question, chance))
    }

    /// A chance that stands beside the others is taken out where it is asked for.
    fn asked(
        &self,
        reading: &mut Reading<'_>,
        raw: &Spanned<raw::Conditions>,
        chance: Option<&mut Option<Fixed>>,
    ) -> Option<Question> {
        let (empty, _): (raw::RulesFile, _) = Reading::new("", "[rules]\nrate = 1").parse().ok()?;
        let mut resolver = Resolver::new(reading, &empty, &|_| Err(String::new()));
        resolver.known = (*self.known).clone();
        resolver.rate = self.ruleset.rate();
        // Words get the ids that they have in the ruleset.
        for word in self.ruleset.words() {
            resolver.builder.word(word);
        }
        for (name, _) in resolver.known.damage_types.iter() {
            resolver.builder.damage_type(name);
        }
        for (path, _, fields) in &resolver.known.topics {
            let fields: Vec<(&str, ValueSort)> =
                fields.iter().map(|(name, sort)| (name.as_str(), *sort)).collect();
            resolver.builder.host_topic(path, &fields);
        }
        let before = resolver.reading.count();
        let mut when = resolver.when_given(raw.as_ref());
        if reading.count() > before {
            return None;
        }
        // It comes last.
        if let (Some(chance), Some(&Condition::Chance(given))) = (chance, when.last()) {
            *chance = Some(given);
            when.pop();
        }
        match self.ruleset.question(when) {
            Ok(question) => Some(question),
            Err(findings) => {
                for finding in findings.0 {
                    reading.problem(raw.span(), "here", finding.problem.to_string(), None);
                }
                None
            }
        }
    }
}

/// Where each rule stands: those that stand alone, then the cases of choices.
fn rule_spans(raw: &raw::RulesFile) -> Vec<Range<usize>> {
    let cases = raw.choice.values().flat_map(|choice| choice.case.iter().map(Spanned::span));
    raw.rule.keys().map(Spanned::span).chain(cases).collect()
}

struct Resolved {
    ruleset: Ruleset,
    known: Known,
    uses: Vec<Vec<AttackId>>,
    motion: Motion,
}

/// The fields of a topic of the host's own.
pub type Fields = Vec<(String, ValueSort)>;

/// Names and their ids, in the order of declaring, and found at once.
#[derive(Clone)]
pub struct Ids<T> {
    list: Vec<(String, T)>,
    places: BTreeMap<String, usize>,
}

impl<T> Default for Ids<T> {
    fn default() -> Self {
        Ids { list: Vec::new(), places: BTreeMap::new() }
    }
}

impl<T: Clone> Ids<T> {
    pub fn push(&mut self, (name, id): (String, T)) {
        self.places.entry(name.clone()).or_insert(self.list.len());
        self.list.push((name, id));
    }

    pub fn get(&self, name: &str) -> Option<T> {
        self.places.get(name).map(|&place| self.list[place].1.clone())
    }

    pub fn iter(&self) -> impl Iterator<Item = &(String, T)> {
        self.list.iter()
    }
}

/// All names that a ruleset declares, with their ids.
#[derive(Clone, Default)]
pub struct Known {
    pub damage_types: Ids<DamageTypeId>,
    pub layers: Ids<LayerId>,
    pub tags: Ids<TagId>,
    pub teams: Ids<TeamId>,
    pub stats: Ids<StatId>,
    pub shields: Ids<ShieldId>,
    pub gauges: Ids<GaugeId>,
    pub(crate) pools: Vec<PoolId>,
    pub own_steps: Ids<OwnStepId>,
    pub statuses: Ids<StatusId>,
    pub attacks: Ids<AttackId>,
    pub templates: Ids<TemplateId>,
    pub reasons: Ids<ReasonId>,
    pub outcomes: Ids<OutcomeId>,
    pub flags: Ids<FlagId>,
    pub counters: Ids<CounterId>,
    pub combatant_flags: Ids<CombatantFlagId>,
    pub combatant_counters: Ids<CombatantCounterId>,
    pub scores: Ids<ScoreId>,
    pub values: Ids<ValueId>,
    pub thresholds: Ids<ThresholdId>,
    pub spots: Ids<SpotId>,
    pub obstacle_names: Ids<ObstacleNameId>,
    pub waves: Ids<WaveId>,
    /// With their fields.
    pub topics: Vec<(String, HostTopicId, Fields)>,
}

impl std::fmt::Debug for Known {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Known").finish_non_exhaustive()
    }
}

pub struct Resolver<'r, 't> {
    pub reading: &'r mut Reading<'t>,
    pub raw: &'r raw::RulesFile,
    pub(crate) open: &'r Opener<'r>,
    pub builder: RulesetBuilder,
    pub(crate) motion: Motion,
    pub(crate) rigs: Rigs,
    pub rate: u32,
    pub known: Known,
    pub heard: Heard,
    pub up: Axis,
    /// Where each field of each entry stands, for what the ruleset itself finds wrong.
    pub places: BTreeMap<[String; 3], Range<usize>>,
}

pub fn pairs<T: Clone>(ids: &Ids<T>) -> impl Iterator<Item = (&str, T)> {
    ids.list.iter().map(|(name, id)| (name.as_str(), id.clone()))
}

impl<'r, 't> Resolver<'r, 't> {
    fn new(
        reading: &'r mut Reading<'t>,
        raw: &'r raw::RulesFile,
        open: &'r Opener<'r>,
    ) -> Resolver<'r, 't> {
        let rate = *raw.rules.rate.as_ref();
        Resolver {
            reading,
            raw,
            open,
            builder: Ruleset::builder(rate),
            motion: Motion::default(),
            rigs: Rigs::default(),
            rate: rate.max(1),
            known: Known::default(),
            heard: Heard::default(),
            up: Axis::Y,
            places: BTreeMap::new(),
        }
    }

    fn resolve(mut self) -> Option<Resolved> {
        let rate = &self.raw.rules.rate;
        if !(1..=100_000).contains(rate.as_ref()) {
            // All times would be wrong, too.
            let message = format!("rate: {} is outside 1 to 100000", rate.as_ref());
            self.reading.problem(rate.span(), "here", message, None);
            return None;
        }
        self.general();
        self.numbers();
        self.amount();
        self.relations();
        self.flow_names();
        self.skeletons();
        for name in self.raw.status.keys() {
            self.known.statuses.push((name.as_ref().clone(), self.builder.promise_status(name.as_ref())));
        }
        for name in self.raw.attack.keys() {
            self.known.attacks.push((name.as_ref().clone(), self.builder.promise_attack(name.as_ref())));
        }
        for name in self.raw.template.keys() {
            self.known.templates.push((name.as_ref().clone(), self.builder.promise_template(name.as_ref())));
        }
        for name in self.raw.waves.keys() {
            self.known.waves.push((name.as_ref().clone(), self.builder.promise_waves(name.as_ref())));
        }
        self.gauges();
        self.pools();
        for (name, status) in &self.raw.status {
            self.status(name, status);
        }
        for (name, attack) in &self.raw.attack {
            self.attack(name, attack);
        }
        let mut uses = Vec::new();
        for (name, template) in &self.raw.template {
            uses.push(self.template(name, template));
        }
        for (name, waves) in &self.raw.waves {
            self.waves(name, waves);
        }
        for (name, rule) in &self.raw.rule {
            self.rule(name, rule);
        }
        for (name, choice) in &self.raw.choice {
            self.choice(name, choice);
        }
        for (name, filter) in &self.raw.filter {
            self.filter(name, filter);
        }
        for name in &self.raw.rules.outside {
            let named = pairs(&self.known.statuses).map(|(name, _)| name);
            let flow =
                self.known.flags.iter().map(|(name, _)| name).chain(self.known.counters.iter().map(|(name, _)| name));
            let flow = flow.chain(self.known.topics.iter().map(|(name, ..)| name)).map(String::as_str);
            self.reading.find(
                "status, flag, counter or topic",
                name,
                named.chain(flow).map(|name| (name, ())),
            );
        }
        for allowed in self.raw.rules.allow.iter().filter(|allowed| *allowed.finding.as_ref() == 0) {
            let fix = "give the number that `check` shows with it".to_owned();
            let message = "findings are numbered from 1, and this is 0".to_owned();
            self.reading.problem(allowed.finding.span(), "here", message, Some(fix));
        }
        for allowed in self.raw.rules.allow.iter().filter(|allowed| allowed.because.as_ref().trim().is_empty()) {
            self.reading.problem(allowed.because.span(), "here", "the reason is empty".to_owned(),
                Some("say why it is meant so".to_owned()),
            );
        }
        // Without the rest, what the ruleset would find wrong may only follow from what was left out.
        if !self.reading.is_sound() {
            return None;
        }
        match self.builder.build() {
            Ok(ruleset) => Some(Resolved { ruleset, known: self.known, uses, motion: self.motion }),
            Err(findings) => {
                for finding in findings.0 {
                    let place = &finding.place;
                    let named = [place.sort.to_owned(), place.name.clone(), place.field.clone()];
                    let entry = [place.sort.to_owned(), place.name.clone(), String::new()];
                    let span = [&named, &entry]
                        .into_iter()
                        .find_map(|wanted| self.places.get(wanted))
                        .map_or(self.raw.rules.rate.span(), Clone::clone);
                    self.reading.problem(span, "here", finding.to_string(), None);
                }
                None
            }
        }
    }

    pub fn note(&mut self, sort: &str, name: &str, field: &str, span: Range<usize>) {
        self.places.entry([sort, name, field].map(str::to_owned)).or_insert(span);
    }

    fn general(&mut self) {
        let general = &self.raw.rules;
        self.note("rules", "", "rate", general.rate.span());
        if let Some(up) = &general.up {
            let axes = [("x", Axis::X), ("y", Axis::Y), ("z", Axis::Z)];
            if let Some(axis) = self.reading.find("axis", up, axes) {
                self.builder.up(axis);
                self.up = axis;
            }
        }
        if let Some(limit) = &general.move_limit {
            self.note("rules", "", "move limit", limit.span());
            if let Some(metres) = self.reading.number(limit) {
                self.builder.move_limit(metres);
            }
        }
        if let Some(window) = &general.assist_window
            && let Some(ticks) = self.reading.time(window, self.rate)
        {
            self.builder.assist_window(ticks);
        }
        self.builder.both_land(general.both_land);
        if let Some(rewind) = &general.rewind {
            self.note("rules", "", "rewind", rewind.span());
            if let Some(ticks) = self.reading.time(rewind, self.rate) {
                self.builder.rewind(ticks);
            }
        }
        if let Some(limit) = general.child_limit {
            self.builder.child_limit(limit);
        }
        if let Some(cascade) = &general.cascade {
            self.builder.cascade_limit(cascade.depth, cascade.per_root, cascade.per_tick);
        }
        self.known.layers.push(("body".to_owned(), self.builder.layer("body")));
        for name in &general.damage_types {
            self.known.damage_types.push((name.as_ref().clone(), self.builder.damage_type(name.as_ref())));
        }
        for name in &general.layers {
            self.known.layers.push((name.as_ref().clone(), self.builder.layer(name.as_ref())));
        }
        for name in &general.tags {
            self.known.tags.push((name.as_ref().clone(), self.builder.tag(name.as_ref())));
        }
        for name in &general.reasons {
            self.known.reasons.push((name.as_ref().clone(), self.builder.reason(name.as_ref())));
        }
        self.known.outcomes.push(("time".to_owned(), self.builder.outcome("time")));
        for name in &general.outcomes {
            self.known.outcomes.push((name.as_ref().clone(), self.builder.outcome(name.as_ref())));
        }
        for name in &general.obstacles {
            self.known.obstacle_names.push((name.as_ref().clone(), self.builder.obstacle_name(name.as_ref())));
        }
        for name in self.raw.team.keys() {
            self.known.teams.push((name.as_ref().clone(), self.builder.team(name.as_ref())));
        }
    }

    /// Stats, shields, and what the ruleset as a whole makes of them.
    fn numbers(&mut self) {
        let general = &self.raw.rules;
        for (name, base) in &general.stats {
            self.note("stat", name.as_ref(), "", base.span());
            if let Some(base) = self.reading.exact(base) {
                self.known.stats.push((name.as_ref().clone(), self.builder.stat(name.as_ref(), base)));
            }
        }
        for (name, shield) in &self.raw.shield {
            self.note("shield", name.as_ref(), "", name.span());
            let new = Shield::new(name.as_ref());
            let new = self.damage_types_named(&shield.damage_types).into_iter().fold(new, Shield::against);
            self.known.shields.push((name.as_ref().clone(), self.builder.shield(new)));
        }
        for name in &general.own_steps {
            self.known.own_steps.push((name.as_ref().clone(), self.builder.own_step(name.as_ref())));
        }
        if let Some(stat) = general.attack_speed.as_ref().and_then(|name| self.stat(name)) {
            self.builder.attack_speed(stat);
        }
        if let Some(stat) = general.movement.as_ref().and_then(|name| self.stat(name)) {
            self.builder.movement(stat);
        }
        if let Some(maximum) = &general.maximum {
            let known = Keep::ALL.map(|keep| (keep.name(), keep));
            let keep =
                maximum.keep.as_ref().and_then(|name| self.reading.find("way of keeping", name, known));
            if let Some(stat) = self.stat(&maximum.stat) {
                self.builder.maximum(stat, keep.unwrap_or_default());
            }
        }
        if let Some(credit) = &general.death_credit
            && let Some(ticks) = self.reading.time(credit, self.rate)
        {
            self.builder.death_credit(ticks);
        }
        if let Some(limit) = &general.hit_stop_limit
            && let Some(ticks) = self.reading.time(limit, self.rate)
        {
            self.builder.hit_stop_limit(ticks);
        }
    }

    fn relations(&mut self) {
        for (name, team) in &self.raw.team {
            let own = self.builder.team(name.as_ref());
            let lists = [(&team.allies, Relation::Ally), (&team.neutral, Relation::Neutral)];
            for (names, relation) in lists {
                for other in names {
                    if let Some(other) = self.reading.find_id("team", other, &self.known.teams) {
                        self.builder.relate(own, other, relation);
                    }
                }
            }
        }
    }

    pub fn damage(&mut self, sort: &str, entry: &str, damage: &raw::Damage) -> Vec<Damage> {
        let mut list = Vec::new();
        for (name, range) in damage {
            self.note(sort, entry, "damage", range.span());
            let (low, high) = range.as_ref().bounds();
            if let Some(damage_type) = self.damage_type(name) {
                list.push(Damage { damage_type, low, high });
            }
        }
        list
    }
}
