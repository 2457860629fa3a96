//! Rules, waves, spots, lives and topics of the host's own, out of a ruleset's file.

mod reactions;

use hammerstone::Fixed;
use hammerstone::event::{HostValue, ValueSort};
use hammerstone::flow::{
    Condition, Count, Credit, Group, Growth, Held, Limit, Reaction, Rule, RuleValue, ScoreValue, Target, Waves,
};
use hammerstone::geometry::Pose;
use hammerstone::ids::{OutcomeId, ReasonId, SpotId};
use hammerstone::template::{IfItKills, Lives, ReturnTo, Template};
use toml::Spanned;

use crate::raw::{self, Value};
use crate::rules::{Ids, Resolver, pairs};

impl Resolver<'_, '_> {
    /// Flags, counters, topics and spots: what others name.
    pub fn flow_names(&mut self) {
        let general = &self.raw.rules;
        for name in &general.flags {
            self.flags.push((name.as_ref().clone(), self.builder.flag(name.as_ref())));
        }
        for name in &general.counters {
            self.counters.push((name.as_ref().clone(), self.builder.counter(name.as_ref())));
        }
        for name in &general.scores {
            self.scores.push((name.as_ref().clone(), self.builder.score(name.as_ref())));
        }
        for name in &general.values {
            self.values.push((name.as_ref().clone(), self.builder.value(name.as_ref())));
        }
        for (path, fields) in &self.raw.topic {
            self.note("topic", path.as_ref(), "", path.span());
            let known = || ValueSort::ALL.map(|sort| (sort.name(), sort));
            let mut sorts = Vec::new();
            for (name, sort) in fields {
                if let Some(sort) = self.reading.find("sort of value", sort, known()) {
                    sorts.push((name.as_ref().clone(), sort));
                }
            }
            let given: Vec<(&str, ValueSort)> =
                sorts.iter().map(|(name, sort)| (name.as_str(), *sort)).collect();
            let id = self.builder.host_topic(path.as_ref(), &given);
            self.topics.push((path.as_ref().clone(), id, sorts));
        }
        let up = self.up;
        for (name, spot) in &self.raw.spot {
            self.note("spot", name.as_ref(), "", name.span());
            let pose = self.reading.pose(&spot.at, spot.facing.as_ref(), up).unwrap_or(Pose::IDENTITY);
            self.spots.push((name.as_ref().clone(), self.builder.spot(name.as_ref(), pose)));
        }
    }

    /// Lives, thresholds and values of a template.
    pub fn flow_of(&mut self, entry: &str, raw: &raw::Template, mut template: Template) -> Template {
        if let Some(lives) = &raw.lives {
            self.note("template", entry, "lives", lives.count.span());
            if let Some(lives) = self.lives(lives) {
                template = template.lives(lives);
            }
        }
        for (name, threshold) in &raw.thresholds {
            self.note("template", entry, "thresholds", name.span());
            let (share, if_it_kills) = match threshold.as_ref() {
                raw::Threshold::Plain(share) => (*share, IfItKills::Skip),
                raw::Threshold::Declared(raw::Declared { share, if_it_kills }) => {
                    let given = Spanned::new(threshold.span(), if_it_kills.clone());
                    let known = IfItKills::ALL.map(|way| (way.name(), way));
                    let way = self.reading.find("answer to a blow that kills", &given, known);
                    (*share, way.unwrap_or_default())
                }
            };
            let share = self.reading.exact(&Spanned::new(threshold.span(), share));
            let id = self.builder.threshold(name.as_ref());
            if !self.thresholds.iter().any(|(known, _)| known == name.as_ref()) {
                self.thresholds.push((name.as_ref().clone(), id));
            }
            template = template.threshold(id, share.unwrap_or(Fixed::ZERO), if_it_kills);
        }
        for (name, amount) in &raw.values {
            self.note("template", entry, "values", amount.span());
            if let Some(value) = self.reading.find_id("value", name, &self.values) {
                template = template.values(value, *amount.as_ref());
            }
        }
        template
    }

    fn lives(&mut self, raw: &raw::Lives) -> Option<Lives> {
        let delay = raw.delay.as_ref().map_or(Some(0), |delay| self.reading.time(delay, self.rate))?;
        let to = match &raw.at {
            None => ReturnTo::Home,
            Some(name) => {
                let own = [("home", ReturnTo::Home), ("where-it-died", ReturnTo::WhereItDied)];
                let spots = pairs(&self.spots).map(|(name, spot)| (name, ReturnTo::Spot(spot)));
                self.reading.find("spot", name, own.into_iter().chain(spots))?
            }
        };
        let health = raw.health.as_ref().map_or(Some(Fixed::ONE), |share| self.reading.exact(share))?;
        let last = match &raw.last {
            Some(name) => Some(self.outcome(name)?),
            None => None,
        };
        Some(Lives { to, health, last, ..Lives::new(*raw.count.as_ref(), delay) })
    }

    fn outcome(&mut self, name: &raw::Name) -> Option<OutcomeId> {
        self.reading.find_id("outcome", name, &self.outcomes)
    }

    fn spot(&mut self, name: &raw::Name) -> Option<SpotId> {
        self.reading.find_id("spot", name, &self.spots)
    }

    fn group(&mut self, team: Option<&raw::Name>, template: Option<&raw::Name>, tags: &[raw::Name]) -> Group {
        let group = Group {
            team: team.and_then(|name| self.reading.find_id("team", name, &self.teams)),
            template: template.and_then(|name| self.reading.find_id("template", name, &self.templates)),
            ..Group::default()
        };
        self.tags_named(tags).into_iter().fold(group, Group::tagged)
    }

    pub fn waves(&mut self, name: &raw::Name, raw: &raw::Waves) {
        let entry = name.as_ref();
        self.note("waves", entry, "", name.span());
        self.note("waves", entry, "size", raw.size.span());
        self.note("waves", entry, "times", raw.times.span());
        let Some(template) = self.reading.find_id("template", &raw.template, &self.templates) else { return };
        let mut waves = Waves::new(entry, template, *raw.size.as_ref(), *raw.times.as_ref());
        if let (Some(adds), Some(_)) = (&raw.adds, &raw.grows) {
            let fix = Some("keep one of `adds` and `grows`".to_owned());
            self.reading.problem(adds.span(), "here", "the waves grow in two ways".to_owned(), fix);
        }
        if let Some(adds) = &raw.adds {
            waves = waves.grows(Growth::Added(*adds.as_ref()));
        }
        if let Some(grows) = &raw.grows {
            self.note("waves", entry, "growth", grows.span());
            waves = waves.grows(Growth::Compounding(self.reading.exact(grows).unwrap_or(Fixed::ONE)));
        }
        if let Some(team) = raw.team.as_ref().and_then(|team| self.reading.find_id("team", team, &self.teams))
        {
            waves = waves.team(team);
        }
        for name in &raw.at {
            if let Some(spot) = self.spot(name) {
                waves = waves.at(spot);
            }
        }
        if let Some(metres) = raw.apart.as_ref().and_then(|apart| self.reading.vector(apart)) {
            waves = waves.apart(metres);
        }
        if let Some(ticks) = raw.delay.as_ref().and_then(|delay| self.reading.time(delay, self.rate)) {
            waves = waves.delay(ticks);
        }
        if let Some(next) = &raw.next_when {
            let of = self.group(next.team.as_ref(), next.template.as_ref(), &next.tags);
            waves = waves.next_when(next.left, of);
        }
        self.waves.push((entry.clone(), self.builder.waves(waves)));
    }

    pub fn rule(&mut self, name: &raw::Name, raw: &raw::Rule) {
        let entry = name.as_ref();
        let mut rule = match (&raw.on, &raw.on_family) {
            (Some(path), None) => {
                self.note("rule", entry, "on", path.span());
                Rule::on(entry, path.as_ref())
            }
            (None, Some(path)) => {
                self.note("rule", entry, "on", path.span());
                Rule::on_family(entry, path.as_ref())
            }
            _ => {
                let fix = Some(
                    "write `on = \"combatant.died\"`, or `on-family = \"combatant\"` for all below it"
                        .to_owned(),
                );
                let message = format!("rule `{entry}` says not once what it hears");
                return self.reading.problem(name.span(), "here", message, fix);
            }
        };
        // The ruleset looks at `on` as well; here the nearest of all names is proposed.
        if let Some(path) = raw.on.as_ref().or(raw.on_family.as_ref()) {
            let topics = self.builder.topics();
            let known: Vec<&str> = if raw.on.is_some() {
                topics.paths().iter().map(String::as_str).collect()
            } else {
                topics.family_paths().collect()
            };
            self.reading.find("topic", path, known.into_iter().map(|path| (path, ())));
        }
        for condition in self.when(&raw.when) {
            rule = rule.when(condition);
        }
        for condition in self.fact_holds(raw) {
            rule = rule.when(condition);
        }
        for action in &raw.does {
            self.note("rule", entry, "do", action.span());
            let after =
                action.as_ref().after.as_ref().map_or(Some(0), |after| self.reading.time(after, self.rate));
            for act in self.reactions(action) {
                rule = rule.does_after(after.unwrap_or(0), act);
            }
        }
        if let Some(name) = &raw.limit {
            self.note("rule", entry, "limit", name.span());
            let known = Limit::ALL.map(|limit| (limit.name(), limit));
            rule = rule.limit(self.reading.find("limit", name, known).unwrap_or_default());
        }
        // The rule as a whole, for what has no place of its own.
        for field in ["", "when", "do", "limit"] {
            self.note("rule", entry, field, name.span());
        }
        self.builder.rule(rule.priority(raw.priority.unwrap_or(0)));
    }

    fn when(&mut self, raw: &raw::Provided) -> Vec<Condition> {
        let mut all = Vec::new();
        if let Some(group) = &raw.subject {
            all.push(Condition::Subject(self.group(
                group.team.as_ref(),
                group.template.as_ref(),
                &group.tags,
            )));
        }
        if let Some(group) = &raw.other {
            all.push(Condition::Other(self.group(group.team.as_ref(), group.template.as_ref(), &group.tags)));
        }
        if let Some(health) = &raw.health {
            let (least, most) = health.range(0.0, 1.0);
            let exact = |share: f64| Fixed::from_decimal(share).unwrap_or(Fixed::ZERO);
            all.push(Condition::Health(exact(least), exact(most)));
        }
        if let Some(name) = &raw.threshold {
            all.extend(self.reading.find_id("threshold", name, &self.thresholds).map(Condition::Threshold));
        }
        if let Some(name) = &raw.direction {
            let known = [("down", true), ("up", false)];
            all.extend(self.reading.find("direction", name, known).map(Condition::Downwards));
        }
        if let Some(name) = &raw.status {
            all.extend(self.status_named(name).map(Condition::Status));
        }
        if let Some(name) = &raw.attack {
            all.extend(self.reading.find_id("attack", name, &self.attacks).map(Condition::Attack));
        }
        for (names, up) in [(&raw.flags_up, true), (&raw.flags_down, false)] {
            for name in names {
                let flag = self.reading.find_id("flag", name, &self.flags);
                all.extend(flag.map(|flag| Condition::Flag(flag, up)));
            }
        }
        for (name, between) in &raw.counters {
            let (least, most) = between.range(i64::MIN, i64::MAX);
            let counter = self.reading.find_id("counter", name, &self.counters);
            all.extend(counter.map(|counter| Condition::Counter(counter, least, most)));
        }
        for (name, between) in &raw.scores {
            let (least, most) = between.range(i64::MIN, i64::MAX);
            let score = self.reading.find_id("score", name, &self.scores);
            all.extend(score.map(|score| Condition::Score(score, least, most)));
        }
        if let Some(span) = &raw.time {
            let from = span.from.as_ref().map_or(Some(0), |time| self.reading.time(time, self.rate));
            let to = span.to.as_ref().map_or(Some(u32::MAX), |time| self.reading.time(time, self.rate));
            // A time is that at which a tick begins.
            all.extend(from.zip(to).map(|(from, to)| Condition::Time(from + 1, to)));
        }
        if let Some(round) = &raw.round {
            let (least, most) = round.range(0, u32::MAX);
            all.push(Condition::Round(least, most));
        }
        for alive in &raw.alive {
            let group = self.group(alive.team.as_ref(), alive.template.as_ref(), &alive.tags);
            let between = raw::Between { at_least: alive.at_least, at_most: alive.at_most, is: alive.is };
            let (least, most) = between.range(0, u32::MAX);
            all.push(Condition::Alive(group, least, most));
        }
        for name in &raw.waves_over {
            all.extend(
                self.reading.find_id("sequence of waves", name, &self.waves).map(Condition::WavesOver),
            );
        }
        all
    }

    /// What fields of the fact must hold.
    fn fact_holds(&mut self, raw: &raw::Rule) -> Vec<Condition> {
        let mut all = Vec::new();
        if raw.when.fact.is_empty() {
            return all;
        }
        let topics = self.builder.topics();
        let path = raw.on.as_ref().or(raw.on_family.as_ref()).map_or("", |path| path.as_ref().as_str());
        let heard: Vec<_> = match topics.find(path).filter(|_| raw.on.is_some()) {
            Some(topic) => vec![topic],
            None => topics.family(path).map(|family| topics.members(family).to_vec()).unwrap_or_default(),
        };
        // All of them must have the field.
        let of = |topic: &_| -> Vec<&'static str> {
            topics.info(*topic).map(|info| info.fields.iter().map(|field| field.key).collect()).unwrap_or_default()
        };
        let mut fields = heard.first().map(of).unwrap_or_default();
        fields.retain(|field| heard.iter().all(|topic| of(topic).contains(field)));
        for (name, held) in &raw.when.fact {
            let key = Spanned::new(name.span(), name.as_ref().replace('-', "_"));
            if self.reading.find(&format!("field of {path}"), &key, fields.iter().map(|field| (*field, ()))).is_none() {
                continue;
            }
            let mut exact = |number: f64| {
                let spanned = Spanned::new(held.span(), number);
                self.reading.exact(&spanned)
            };
            let held = match held.as_ref() {
                raw::Held::Number(number) => exact(*number).map(|number| Held::Between(number, number)),
                raw::Held::Between(between) => {
                    let least = between.is.or(between.at_least).map_or(Some(Fixed::MIN), &mut exact);
                    let most = between.is.or(between.at_most).map_or(Some(Fixed::MAX), &mut exact);
                    least.zip(most).map(|(least, most)| Held::Between(least, most))
                }
                raw::Held::Truth(truth) => Some(Held::Truth(*truth)),
                raw::Held::Word(word) => Some(Held::Word(self.builder.word(word))),
            };
            let name = self.builder.word(key.as_ref());
            all.extend(held.map(|held| Condition::Field(name, held)));
        }
        all
    }
}

/// How a value of a sort is written.
pub fn fix(sort: ValueSort) -> &'static str {
    match sort {
        ValueSort::Whole => "give a whole number; a rule may name a counter",
        ValueSort::Exact => "give a number with at most four decimals",
        ValueSort::Truth => "give true or false",
        ValueSort::Who => "give the name of a combatant; a rule gives \"subject\" or \"other\"",
        ValueSort::At => "give a place, such as [0, 1, 0]",
    }
}

fn rule_value(
    sort: ValueSort,
    value: &Value,
    counters: &Ids<hammerstone::ids::CounterId>,
) -> Option<RuleValue> {
    match (sort, value) {
        (ValueSort::Whole, Value::Text(name)) => counters.get(name).map(RuleValue::Counter),
        (ValueSort::Who, Value::Text(name)) => match name.as_str() {
            "subject" => Some(RuleValue::Subject),
            "other" => Some(RuleValue::Other),
            _ => None,
        },
        _ => host_value(sort, value).map(RuleValue::Value),
    }
}

/// A value as it is written, if it is of that sort. Combatants are named, and so are none of these.
pub fn host_value(sort: ValueSort, value: &Value) -> Option<HostValue> {
    Some(match (sort, value) {
        (ValueSort::Whole, Value::Whole(whole)) => HostValue::Whole(*whole),
        (ValueSort::Exact, Value::Whole(whole)) => HostValue::Exact(Fixed::whole(*whole)),
        (ValueSort::Exact, Value::Real(exact)) => HostValue::Exact(Fixed::from_decimal(*exact)?),
        (ValueSort::Truth, Value::Truth(truth)) => HostValue::Truth(*truth),
        (ValueSort::At, Value::List(numbers)) => {
            let number = |value: &Value| match value {
                Value::Real(number) => Some(*number as f32),
                Value::Whole(number) => Some(*number as f32),
                _ => None,
            };
            let numbers: Option<Vec<f32>> = numbers.iter().map(number).collect();
            HostValue::At(numbers?.try_into().ok()?)
        }
        _ => return None,
    })
}

