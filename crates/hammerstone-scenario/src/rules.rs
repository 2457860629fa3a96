//! A ruleset out of a file.

use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::{Arc, OnceLock};

use hammerstone::{
    AttackId, Axis, Broken, Cast, CastId, CounterId, FlagId, Harm, HostTopicId, Keep, KindId, LayerId,
    OutcomeId, OwnStepId, Part, ReasonId, Relation, Ruleset, RulesetBuilder, ScoreId, Shield, ShieldId,
    SpotId, Stagger, StatId, StatusId, TagId, TeamId, ThresholdId, ValueId, ValueSort, WaveId,
};
use toml::Spanned;

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
    pub(crate) text: Arc<str>,
    /// Where its keys stand, once that has been asked.
    pub(crate) places: OnceLock<BTreeMap<Vec<String>, Range<usize>>>,
    /// By cast entry, the attacks that it uses.
    pub(crate) uses: Vec<Vec<AttackId>>,
    pub(crate) attack_spans: Vec<Range<usize>>,
    pub(crate) rule_spans: Vec<Range<usize>>,
    /// By attack, whether it is meant to be nobody's.
    pub(crate) unleashed: Vec<bool>,
    /// What scripts or the game give, read or publish; checks do not ask.
    pub(crate) outside: Vec<String>,
}

impl RulesFile {
    /// Reads a ruleset. `file` is its name, for messages.
    ///
    /// *Errors:* everything that is wrong with it, each with its place.
    pub fn read(file: &str, text: &str) -> Result<RulesFile, Box<Unusable>> {
        let (raw, mut reading): (raw::RulesFile, _) = Reading::new(file, text).parse()?;
        let resolved = Resolver::new(&mut reading, &raw).resolve();
        reading.done(resolved.map(|(ruleset, uses)| RulesFile {
            file: file.to_owned(),
            ruleset,
            text: text.into(),
            places: OnceLock::new(),
            uses,
            attack_spans: raw.attack.keys().map(Spanned::span).collect(),
            rule_spans: raw.rule.keys().map(Spanned::span).collect(),
            unleashed: raw.attack.values().map(|attack| attack.unleashed).collect(),
            outside: raw.rules.outside.iter().map(|name| name.as_ref().to_string()).collect(),
        }))
    }
}

/// The fields of a topic of the host's own.
type Fields = Vec<(String, ValueSort)>;

/// Names and their ids, in the order of declaring, and found at once.
pub(crate) struct Ids<T> {
    list: Vec<(String, T)>,
    places: BTreeMap<String, usize>,
}

impl<T> Default for Ids<T> {
    fn default() -> Self {
        Ids { list: Vec::new(), places: BTreeMap::new() }
    }
}

impl<T: Clone> Ids<T> {
    pub(crate) fn push(&mut self, (name, id): (String, T)) {
        self.places.entry(name.clone()).or_insert(self.list.len());
        self.list.push((name, id));
    }

    pub(crate) fn get(&self, name: &str) -> Option<T> {
        self.places.get(name).map(|&place| self.list[place].1.clone())
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = &(String, T)> {
        self.list.iter()
    }
}

pub(crate) struct Resolver<'r, 't> {
    pub(crate) reading: &'r mut Reading<'t>,
    pub(crate) raw: &'r raw::RulesFile,
    pub(crate) builder: RulesetBuilder,
    pub(crate) rate: u32,
    pub(crate) kinds: Ids<KindId>,
    pub(crate) layers: Ids<LayerId>,
    pub(crate) tags: Ids<TagId>,
    pub(crate) teams: Ids<TeamId>,
    pub(crate) stats: Ids<StatId>,
    pub(crate) shields: Ids<ShieldId>,
    pub(crate) own_steps: Ids<OwnStepId>,
    pub(crate) statuses: Ids<StatusId>,
    pub(crate) attacks: Ids<AttackId>,
    pub(crate) casts: Ids<CastId>,
    pub(crate) reasons: Ids<ReasonId>,
    pub(crate) outcomes: Ids<OutcomeId>,
    pub(crate) flags: Ids<FlagId>,
    pub(crate) counters: Ids<CounterId>,
    pub(crate) scores: Ids<ScoreId>,
    pub(crate) values: Ids<ValueId>,
    pub(crate) thresholds: Ids<ThresholdId>,
    pub(crate) spots: Ids<SpotId>,
    pub(crate) waves: Ids<WaveId>,
    /// With their fields.
    pub(crate) topics: Vec<(String, HostTopicId, Fields)>,
    pub(crate) up: Axis,
    /// Where each field of each entry stands, for what the ruleset itself finds wrong.
    pub(crate) places: BTreeMap<[String; 3], Range<usize>>,
}

pub(crate) fn pairs<T: Clone>(ids: &Ids<T>) -> impl Iterator<Item = (&str, T)> {
    ids.list.iter().map(|(name, id)| (name.as_str(), id.clone()))
}

impl<'r, 't> Resolver<'r, 't> {
    fn new(reading: &'r mut Reading<'t>, raw: &'r raw::RulesFile) -> Resolver<'r, 't> {
        let rate = *raw.rules.rate.as_ref();
        Resolver {
            reading,
            raw,
            builder: Ruleset::builder(rate),
            rate: rate.max(1),
            kinds: Ids::default(),
            layers: Ids::default(),
            tags: Ids::default(),
            teams: Ids::default(),
            stats: Ids::default(),
            shields: Ids::default(),
            own_steps: Ids::default(),
            statuses: Ids::default(),
            attacks: Ids::default(),
            casts: Ids::default(),
            reasons: Ids::default(),
            outcomes: Ids::default(),
            flags: Ids::default(),
            counters: Ids::default(),
            scores: Ids::default(),
            values: Ids::default(),
            thresholds: Ids::default(),
            spots: Ids::default(),
            waves: Ids::default(),
            topics: Vec::new(),
            up: Axis::Y,
            places: BTreeMap::new(),
        }
    }

    fn resolve(mut self) -> Option<(Ruleset, Vec<Vec<AttackId>>)> {
        self.general();
        self.numbers();
        self.amount();
        self.relations();
        self.flow_names();
        for name in self.raw.status.keys() {
            self.statuses.push((name.as_ref().clone(), self.builder.promise_status(name.as_ref())));
        }
        for (name, status) in &self.raw.status {
            self.status(name, status);
        }
        for (name, attack) in &self.raw.attack {
            let id = self.attack(name, attack);
            self.attacks.push((name.as_ref().clone(), id));
        }
        let mut uses = Vec::new();
        for (name, cast) in &self.raw.cast {
            uses.push(self.cast(name, cast));
        }
        for (name, waves) in &self.raw.waves {
            self.waves(name, waves);
        }
        for (name, rule) in &self.raw.rule {
            self.rule(name, rule);
        }
        for name in &self.raw.rules.outside {
            let named = pairs(&self.statuses).map(|(name, _)| name);
            let flow =
                self.flags.iter().map(|(name, _)| name).chain(self.counters.iter().map(|(name, _)| name));
            let flow = flow.chain(self.topics.iter().map(|(name, ..)| name)).map(String::as_str);
            self.reading.find(
                "status, flag, counter or topic",
                name,
                named.chain(flow).map(|name| (name, ())),
            );
        }
        // Without the rest, what the ruleset would find wrong may only follow from what was left out.
        if !self.reading.is_sound() {
            return None;
        }
        match self.builder.build() {
            Ok(ruleset) => Some((ruleset, uses)),
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

    pub(crate) fn note(&mut self, sort: &str, name: &str, field: &str, span: Range<usize>) {
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
        if let Some(limit) = general.child_limit {
            self.builder.child_limit(limit);
        }
        if let Some(cascade) = &general.cascade {
            self.builder.cascade_limit(cascade.depth, cascade.per_root, cascade.per_tick);
        }
        self.layers.push(("body".to_owned(), self.builder.layer("body")));
        for name in &general.kinds {
            self.kinds.push((name.as_ref().clone(), self.builder.kind(name.as_ref())));
        }
        for name in &general.layers {
            self.layers.push((name.as_ref().clone(), self.builder.layer(name.as_ref())));
        }
        for name in &general.tags {
            self.tags.push((name.as_ref().clone(), self.builder.tag(name.as_ref())));
        }
        for name in &general.reasons {
            self.reasons.push((name.as_ref().clone(), self.builder.reason(name.as_ref())));
        }
        self.outcomes.push(("time".to_owned(), self.builder.outcome("time")));
        for name in &general.outcomes {
            self.outcomes.push((name.as_ref().clone(), self.builder.outcome(name.as_ref())));
        }
        for name in self.raw.team.keys() {
            self.teams.push((name.as_ref().clone(), self.builder.team(name.as_ref())));
        }
    }

    /// Stats, shields, and what the ruleset as a whole makes of them.
    fn numbers(&mut self) {
        let general = &self.raw.rules;
        for (name, base) in &general.stats {
            self.note("stat", name.as_ref(), "", base.span());
            if let Some(base) = self.reading.exact(base) {
                self.stats.push((name.as_ref().clone(), self.builder.stat(name.as_ref(), base)));
            }
        }
        for (name, shield) in &self.raw.shield {
            self.note("shield", name.as_ref(), "", name.span());
            let new = Shield::new(name.as_ref());
            let new = self.kinds_named(&shield.kinds).into_iter().fold(new, Shield::against);
            self.shields.push((name.as_ref().clone(), self.builder.shield(new)));
        }
        for name in &general.own_steps {
            self.own_steps.push((name.as_ref().clone(), self.builder.own_step(name.as_ref())));
        }
        if let Some(maximum) = &general.maximum {
            let known = Keep::ALL.map(|keep| (keep.name(), keep));
            let keep =
                maximum.keep.as_ref().and_then(|name| self.reading.find("way of keeping", name, known));
            if let Some(stat) = self.stat(&maximum.stat) {
                self.builder.maximum(stat, keep.unwrap_or_default());
            }
        }
        if let Some(credit) = &general.fall_credit
            && let Some(ticks) = self.reading.time(credit, self.rate)
        {
            self.builder.fall_credit(ticks);
        }
        if let Some(limit) = &general.stop_limit
            && let Some(ticks) = self.reading.time(limit, self.rate)
        {
            self.builder.stop_limit(ticks);
        }
    }

    fn relations(&mut self) {
        for (name, team) in &self.raw.team {
            let own = self.builder.team(name.as_ref());
            let lists = [(&team.allies, Relation::Ally), (&team.neutral, Relation::Neutral)];
            for (names, relation) in lists {
                for other in names {
                    if let Some(other) = self.reading.find_id("team", other, &self.teams) {
                        self.builder.relate(own, other, relation);
                    }
                }
            }
        }
    }

    pub(crate) fn harm(&mut self, sort: &str, entry: &str, harm: &raw::Harm) -> Vec<Harm> {
        let mut list = Vec::new();
        for (name, range) in harm {
            self.note(sort, entry, "harm", range.span());
            let (low, high) = range.as_ref().bounds();
            if let Some(kind) = self.kind(name) {
                list.push(Harm { kind, low, high });
            }
        }
        list
    }

    fn cast(&mut self, name: &raw::Name, raw: &raw::Cast) -> Vec<AttackId> {
        let entry = name.as_ref();
        self.note("cast", entry, "", name.span());
        self.note("cast", entry, "health", raw.health.span());
        let team = self.reading.find_id("team", &raw.team, &self.teams);
        let mut uses = Vec::new();
        for attack in &raw.attacks {
            uses.extend(self.reading.find_id("attack", attack, &self.attacks));
        }
        let Some(team) = team else { return uses };
        let mut cast = Cast::new(entry, team, *raw.health.as_ref());
        if let Some(lies) = &raw.lies
            && let Some(ticks) = self.reading.time(lies, self.rate)
        {
            cast = cast.lies(ticks);
        }
        for tag in &raw.tags {
            if let Some(tag) = self.reading.find_id("tag", tag, &self.tags) {
                cast = cast.tag(tag);
            }
        }
        for (kind, share) in &raw.resistance {
            self.note("cast", entry, "resistance", share.span());
            let kind = self.reading.find_id("kind of harm", kind, &self.kinds);
            if let Some((kind, share)) = kind.zip(self.reading.exact(share)) {
                cast = cast.resistance(kind, share);
            }
        }
        cast = self.numbers_of(entry, raw, cast);
        for (name, part) in &raw.part {
            self.note("cast", entry, &format!("part `{}`", name.as_ref()), name.span());
            if let Some(part) = self.part(entry, name, part) {
                cast = cast.part(part);
            }
        }
        cast = self.flow_of(entry, raw, cast);
        self.casts.push((entry.clone(), self.builder.cast(cast)));
        uses
    }

    /// Stats, shields, changes, gifts, stagger.
    fn numbers_of(&mut self, entry: &str, raw: &raw::Cast, mut cast: Cast) -> Cast {
        for (name, base) in &raw.stats {
            self.note("cast", entry, "stats", base.span());
            let stat = self.stat(name);
            if let Some((stat, base)) = stat.zip(self.reading.exact(base)) {
                cast = cast.stat(stat, base);
            }
        }
        for (name, points) in &raw.shields {
            self.note("cast", entry, "shields", points.span());
            if let Some(shield) = self.reading.find_id("shield", name, &self.shields) {
                cast = cast.shield(shield, *points.as_ref());
            }
        }
        let lists = [
            raw.deals.as_slice(),
            raw.takes.as_slice(),
            raw.gives_healing.as_slice(),
            raw.takes_healing.as_slice(),
        ];
        for change in self.amounts("cast", entry, lists) {
            cast = cast.changes_amounts(change);
        }
        for gift in self.gifts("cast", entry, &raw.when) {
            cast = cast.gift(gift);
        }
        if let Some(stagger) = &raw.stagger {
            self.note("cast", entry, "stagger", stagger.at.span());
            let wanes =
                stagger.wanes.as_ref().map_or(Some(hammerstone::Fixed::ZERO), |n| self.reading.exact(n));
            let status = stagger.give.as_ref().and_then(|name| self.status_named(name));
            if let Some((at, wanes)) = self.reading.exact(&stagger.at).zip(wanes) {
                cast = cast.stagger(Stagger { at, wanes, status });
            }
        }
        if raw.never_critical { cast.never_critical() } else { cast }
    }

    fn part(&mut self, entry: &str, name: &raw::Name, raw: &raw::Part) -> Option<Part> {
        let what = format!("part `{}` of cast `{entry}`", name.as_ref());
        let (sphere, capsule, block) = (raw.sphere.as_ref(), raw.capsule.as_ref(), raw.block.as_ref());
        let shape = self.reading.shape(&what, name.span(), Shapes { sphere, capsule, block });
        let layer = match &raw.layer {
            Some(layer) => self.reading.find_id("layer", layer, &self.layers),
            // The first, which is always there.
            None => self.layers.get("body"),
        };
        let multiplier = match &raw.multiplier {
            Some(multiplier) => self.reading.exact(multiplier),
            None => Some(hammerstone::Fixed::ONE),
        };
        let part = Part::new(name.as_ref(), shape?).layer(layer?).multiplier(multiplier?);
        let part = self.tags_named(&raw.tags).into_iter().fold(part, Part::tag);
        match (&raw.points, &raw.broken) {
            (Some(points), broken) => {
                let broken = match broken {
                    Some(broken) => self.broken(&what, broken)?,
                    None => Broken::default(),
                };
                Some(part.points(*points.as_ref(), broken))
            }
            (None, Some(_)) => {
                let mend = Some("add `points = 20`, or take `broken` out".to_owned());
                let message = format!("{what} has no points, and so never breaks");
                self.reading.problem(name.span(), "here", message, mend);
                None
            }
            (None, None) => Some(part),
        }
    }

    fn broken(&mut self, what: &str, raw: &raw::Broken) -> Option<Broken> {
        let mut broken = if raw.gone { Broken::gone() } else { Broken::default() };
        let (sphere, capsule, block) = (raw.sphere.as_ref(), raw.capsule.as_ref(), raw.block.as_ref());
        if sphere.is_some() || capsule.is_some() || block.is_some() {
            broken = broken.shape(self.reading.shape(what, 0..0, Shapes { sphere, capsule, block })?);
        }
        if let Some(multiplier) = &raw.multiplier {
            broken = broken.multiplier(self.reading.exact(multiplier)?);
        }
        Some(self.tags_named(&raw.tags).into_iter().fold(broken, Broken::tag))
    }
}
