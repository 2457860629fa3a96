//! A ruleset out of a file.

use std::ops::Range;

use hammerstone::{
    AttackId, Axis, Beat, Cast, FirstBeat, Harm, KindId, LayerId, Part, Relation, Rounding, Ruleset,
    RulesetBuilder, Status, StatusId, Step, TagId, TeamId,
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
    pub(crate) text: String,
    /// By cast entry, the attacks that it uses.
    pub(crate) uses: Vec<Vec<AttackId>>,
    pub(crate) attack_spans: Vec<Range<usize>>,
    /// By attack, whether it is meant to be nobody's.
    pub(crate) unleashed: Vec<bool>,
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
            text: text.to_owned(),
            uses,
            attack_spans: raw.attack.keys().map(Spanned::span).collect(),
            unleashed: raw.attack.values().map(|attack| attack.unleashed).collect(),
        }))
    }
}

pub(crate) type Ids<T> = Vec<(String, T)>;

pub(crate) struct Resolver<'r, 't> {
    pub(crate) reading: &'r mut Reading<'t>,
    pub(crate) raw: &'r raw::RulesFile,
    pub(crate) builder: RulesetBuilder,
    pub(crate) rate: u32,
    pub(crate) kinds: Ids<KindId>,
    pub(crate) layers: Ids<LayerId>,
    pub(crate) tags: Ids<TagId>,
    pub(crate) teams: Ids<TeamId>,
    pub(crate) statuses: Ids<StatusId>,
    pub(crate) attacks: Ids<AttackId>,
    /// Where each field of each entry stands, for what the ruleset itself finds wrong.
    pub(crate) places: Vec<([String; 3], Range<usize>)>,
}

pub(crate) fn pairs<T: Copy>(ids: &Ids<T>) -> impl Iterator<Item = (&str, T)> {
    ids.iter().map(|(name, id)| (name.as_str(), *id))
}

impl<'r, 't> Resolver<'r, 't> {
    fn new(reading: &'r mut Reading<'t>, raw: &'r raw::RulesFile) -> Resolver<'r, 't> {
        let rate = *raw.rules.rate.as_ref();
        Resolver {
            reading,
            raw,
            builder: Ruleset::builder(rate),
            rate: rate.max(1),
            kinds: Vec::new(),
            layers: Vec::new(),
            tags: Vec::new(),
            teams: Vec::new(),
            statuses: Vec::new(),
            attacks: Vec::new(),
            places: Vec::new(),
        }
    }

    fn resolve(mut self) -> Option<(Ruleset, Vec<Vec<AttackId>>)> {
        self.general();
        self.amount();
        self.relations();
        for (name, status) in &self.raw.status {
            let id = self.status(name, status);
            self.statuses.push((name.as_ref().clone(), id));
        }
        for (name, attack) in &self.raw.attack {
            let id = self.attack(name, attack);
            self.attacks.push((name.as_ref().clone(), id));
        }
        let mut uses = Vec::new();
        for (name, cast) in &self.raw.cast {
            uses.push(self.cast(name, cast));
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
                        .find_map(|wanted| self.places.iter().find(|(place, _)| place == wanted))
                        .map_or(self.raw.rules.rate.span(), |(_, span)| span.clone());
                    self.reading.problem(span, "here", finding.to_string(), None);
                }
                None
            }
        }
    }

    pub(crate) fn note(&mut self, sort: &str, name: &str, field: &str, span: Range<usize>) {
        self.places.push(([sort.to_owned(), name.to_owned(), field.to_owned()], span));
    }

    fn general(&mut self) {
        let general = &self.raw.rules;
        self.note("rules", "", "rate", general.rate.span());
        if let Some(up) = &general.up {
            let axes = [("x", Axis::X), ("y", Axis::Y), ("z", Axis::Z)];
            if let Some(axis) = self.reading.find("axis", up, axes) {
                self.builder.up(axis);
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
            self.builder.cascade_limit(cascade.depth, cascade.orders);
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
            self.builder.reason(name.as_ref());
        }
        self.builder.outcome("time");
        for name in &general.outcomes {
            self.builder.outcome(name.as_ref());
        }
        for name in self.raw.team.keys() {
            self.teams.push((name.as_ref().clone(), self.builder.team(name.as_ref())));
        }
    }

    fn amount(&mut self) {
        let amount = &self.raw.amount;
        if let Some(names) = &amount.steps {
            let known = || Step::ALL.map(|step| (step.name(), step));
            let steps: Vec<Step> =
                names.iter().filter_map(|name| self.reading.find("step", name, known())).collect();
            self.builder.steps(&steps);
            let span =
                names.first().map_or(0..0, |first| first.span().start..names[names.len() - 1].span().end);
            self.note("amount", "", "steps", span);
        }
        let limits = [("floor", &amount.floor, 0), ("cap", &amount.cap, 1_000_000_000)];
        let [floor, cap] = limits.map(|(field, limit, otherwise)| match limit {
            Some(limit) => {
                self.note("amount", "", field, limit.span());
                *limit.as_ref()
            }
            None => otherwise,
        });
        self.builder.limits(floor, cap);
        if let Some(name) = &amount.rounding {
            let known = Rounding::ALL.map(|rounding| (rounding.name(), rounding));
            if let Some(rounding) = self.reading.find("rounding", name, known) {
                self.builder.rounding(rounding);
            }
        }
    }

    fn relations(&mut self) {
        for (name, team) in &self.raw.team {
            let own = self.builder.team(name.as_ref());
            let lists = [(&team.allies, Relation::Ally), (&team.neutral, Relation::Neutral)];
            for (names, relation) in lists {
                for other in names {
                    if let Some(other) = self.reading.find("team", other, pairs(&self.teams)) {
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
            let (low, high) = match *range.as_ref() {
                raw::Range::One(points) => (points, points),
                raw::Range::Between([low, high]) => (low, high),
            };
            if let Some(kind) = self.reading.find("kind of harm", name, pairs(&self.kinds)) {
                list.push(Harm { kind, low, high });
            }
        }
        list
    }

    fn status(&mut self, name: &raw::Name, raw: &raw::Status) -> StatusId {
        let entry = name.as_ref();
        self.note("status", entry, "", name.span());
        let mut status = Status::new(entry);
        if let Some(lasts) = &raw.lasts {
            self.note("status", entry, "lasts", lasts.span());
            if let Some(ticks) = self.reading.time(lasts, self.rate) {
                status = status.lasts(ticks);
            }
        }
        if raw.stuns {
            status = status.stuns();
        }
        if raw.protects {
            status = status.protects();
        }
        if let Some(beat) = &raw.beat {
            self.note("status", entry, "beat", beat.every.span());
            let every = self.reading.time(&beat.every, self.rate).unwrap_or(1);
            let firsts = [("after", FirstBeat::After), ("at-once", FirstBeat::AtOnce)];
            let first = beat.first.as_ref().and_then(|name| self.reading.find("first beat", name, firsts));
            let harm = self.harm("status", entry, &beat.harm);
            status = status.beat(Beat { every, first: first.unwrap_or_default(), harm });
        }
        self.builder.status(status)
    }

    fn cast(&mut self, name: &raw::Name, raw: &raw::Cast) -> Vec<AttackId> {
        let entry = name.as_ref();
        self.note("cast", entry, "", name.span());
        self.note("cast", entry, "health", raw.health.span());
        let team = self.reading.find("team", &raw.team, pairs(&self.teams));
        let mut uses = Vec::new();
        for attack in &raw.attacks {
            uses.extend(self.reading.find("attack", attack, pairs(&self.attacks)));
        }
        let Some(team) = team else { return uses };
        let mut cast = Cast::new(entry, team, *raw.health.as_ref());
        if let Some(lies) = &raw.lies
            && let Some(ticks) = self.reading.time(lies, self.rate)
        {
            cast = cast.lies(ticks);
        }
        for tag in &raw.tags {
            if let Some(tag) = self.reading.find("tag", tag, pairs(&self.tags)) {
                cast = cast.tag(tag);
            }
        }
        for (kind, share) in &raw.resistance {
            self.note("cast", entry, "resistance", share.span());
            let kind = self.reading.find("kind of harm", kind, pairs(&self.kinds));
            if let Some((kind, share)) = kind.zip(self.reading.exact(share)) {
                cast = cast.resistance(kind, share);
            }
        }
        for (name, part) in &raw.part {
            self.note("cast", entry, &format!("part `{}`", name.as_ref()), name.span());
            if let Some(part) = self.part(entry, name, part) {
                cast = cast.part(part);
            }
        }
        self.builder.cast(cast);
        uses
    }

    fn part(&mut self, entry: &str, name: &raw::Name, raw: &raw::Part) -> Option<Part> {
        let what = format!("part `{}` of cast `{entry}`", name.as_ref());
        let (sphere, capsule, block) = (raw.sphere.as_ref(), raw.capsule.as_ref(), raw.block.as_ref());
        let shape = self.reading.shape(&what, name.span(), Shapes { sphere, capsule, block });
        let layer = match &raw.layer {
            Some(layer) => self.reading.find("layer", layer, pairs(&self.layers)),
            None => Some(self.layers[0].1),
        };
        let multiplier = match &raw.multiplier {
            Some(multiplier) => self.reading.exact(multiplier),
            None => Some(hammerstone::Fixed::ONE),
        };
        Some(Part::new(name.as_ref(), shape?).layer(layer?).multiplier(multiplier?))
    }
}
