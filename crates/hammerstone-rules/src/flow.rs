//! Rules, waves, spots, lives and topics of the host's own, out of a ruleset's file.

mod conditions;
mod reactions;
mod readings;

pub use readings::Heard;

use std::ops::Range;

use hammerstone::Fixed;
use hammerstone::event::{HostValue, ValueSort};
use hammerstone::flow::{Filter, Group, Growth, Limit, Reaction, Rule, RuleValue, Target, WaveLeader, Waves};
use hammerstone::geometry::Pose;
use hammerstone::ids::{OutcomeId, SpotId};
use hammerstone::template::{IfItKills, Lives, ReturnTo, Template};
use toml::Spanned;

use crate::problem::Reading;
use crate::raw::{self, Value};
use crate::rules::{Resolver, pairs};

impl Resolver<'_, '_> {
    /// Flags, counters, topics and spots: what others name.
    pub fn flow_names(&mut self) {
        let general = &self.raw.rules;
        for name in &general.flags {
            self.known.flags.push((name.as_ref().clone(), self.builder.flag(name.as_ref())));
        }
        for name in &general.counters {
            self.known.counters.push((name.as_ref().clone(), self.builder.counter(name.as_ref())));
        }
        for name in &general.combatant_flags {
            self.known.combatant_flags.push((name.as_ref().clone(), self.builder.combatant_flag(name.as_ref())));
        }
        for name in &general.combatant_counters {
            let id = self.builder.combatant_counter(name.as_ref());
            self.known.combatant_counters.push((name.as_ref().clone(), id));
        }
        let both = [(&general.flags, &general.combatant_flags), (&general.counters, &general.combatant_counters)];
        for (of_all, of_each) in both {
            for name in of_each.iter().filter(|name| of_all.iter().any(|other| other.as_ref() == name.as_ref())) {
                let message = format!("`{}` is of the encounter and of each combatant", name.as_ref());
                let fix = Some("keep it in one of the two lists".to_owned());
                self.reading.problem(name.span(), "here", message, fix);
            }
        }
        for name in &general.scores {
            self.known.scores.push((name.as_ref().clone(), self.builder.score(name.as_ref())));
        }
        for name in &general.values {
            self.known.values.push((name.as_ref().clone(), self.builder.value(name.as_ref())));
        }
        for (path, fields) in &self.raw.topic {
            self.note("topic", path.as_ref(), "", path.span());
            let known = || ValueSort::ALL.map(|sort| (sort.name(), sort));
            let mut sorts = Vec::new();
            for (name, sort) in fields {
                let sort = match sort {
                    raw::SortOf::One(sort) => self.reading.find("sort of value", sort, known()),
                    raw::SortOf::Names(names) => {
                        for name in names {
                            self.builder.word(name.as_ref());
                        }
                        Some(ValueSort::Name)
                    }
                };
                sorts.extend(sort.map(|sort| (name.as_ref().clone(), sort)));
            }
            let given: Vec<(&str, ValueSort)> =
                sorts.iter().map(|(name, sort)| (name.as_str(), *sort)).collect();
            let id = self.builder.host_topic(path.as_ref(), &given);
            self.known.topics.push((path.as_ref().clone(), id, sorts));
        }
        let up = self.up;
        for (name, spot) in &self.raw.spot {
            self.note("spot", name.as_ref(), "", name.span());
            let pose = self.reading.pose(&spot.at, spot.facing.as_ref(), up).unwrap_or(Pose::IDENTITY);
            self.known.spots.push((name.as_ref().clone(), self.builder.spot(name.as_ref(), pose)));
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
            if !self.known.thresholds.iter().any(|(known, _)| known == name.as_ref()) {
                self.known.thresholds.push((name.as_ref().clone(), id));
            }
            template = template.threshold(id, share.unwrap_or(Fixed::ZERO), if_it_kills);
        }
        for (name, amount) in &raw.values {
            self.note("template", entry, "values", amount.span());
            if let Some(value) = self.reading.find_id("value", name, &self.known.values) {
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
                let spots = pairs(&self.known.spots).map(|(name, spot)| (name, ReturnTo::Spot(spot)));
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
        self.reading.find_id("outcome", name, &self.known.outcomes)
    }

    fn spot(&mut self, name: &raw::Name) -> Option<SpotId> {
        self.reading.find_id("spot", name, &self.known.spots)
    }

    fn group(&mut self, team: Option<&raw::Name>, template: Option<&raw::Name>, tags: &[raw::Name]) -> Group {
        let group = Group {
            team: team.and_then(|name| self.reading.find_id("team", name, &self.known.teams)),
            template: template.and_then(|name| self.reading.find_id("template", name, &self.known.templates)),
            ..Group::default()
        };
        self.tags_named(tags).into_iter().fold(group, Group::tagged)
    }

    pub fn waves(&mut self, name: &raw::Name, raw: &raw::Waves) {
        let entry = name.as_ref();
        self.note("waves", entry, "", name.span());
        let Some(template) = self.reading.find_id("template", &raw.template, &self.known.templates) else { return };
        let Some((size, growth)) = self.sizes(name, raw) else { return };
        let listed = raw.sizes.as_ref().map(|sizes| sizes.as_ref().len() as u32);
        let times = raw.times.as_ref().map(|times| *times.as_ref());
        if let Some(times) = &raw.times {
            self.note("waves", entry, "times", times.span());
        }
        let ends = times.or(listed).is_some();
        if (raw.endless && times.is_some()) || (!raw.endless && !ends) {
            let message = format!("waves `{entry}` say not once how many come");
            let fix = Some("give `times = 4`, `sizes = [2, 3, 5]`, or `endless = true`".to_owned());
            self.reading.problem(name.span(), "here", message, fix);
        }
        let mut waves = Waves::new(entry, template, size, times.or(listed).unwrap_or(1)).grows(growth);
        if raw.endless {
            waves = waves.endless();
        }
        if let Some(ticks) = raw.every.as_ref().and_then(|every| self.reading.time(every, self.rate)) {
            self.note("waves", entry, "every", name.span());
            waves = waves.every(ticks);
        }
        if let Some(follow) = &raw.follow {
            let leader = match follow.as_ref() {
                raw::To::One(one) => {
                    let one = Spanned::new(follow.span(), one.clone());
                    self.reading.find("leader", &one, [("first", WaveLeader::First)])
                }
                raw::To::Group(raw::PlainGroup { team, template, tags }) => {
                    let here = |name: &String| Spanned::new(follow.span(), name.clone());
                    let (team, template) = (team.as_ref().map(here), template.as_ref().map(here));
                    let tags: Vec<raw::Name> = tags.iter().map(here).collect();
                    Some(WaveLeader::Of(self.group(team.as_ref(), template.as_ref(), &tags)))
                }
            };
            waves = leader.into_iter().fold(waves, Waves::follow);
        }
        if let Some(metres) = raw.free_within.as_ref().and_then(|metres| self.reading.number(metres)) {
            waves = waves.at_free_places(metres);
        }
        if let Some(team) = raw.team.as_ref().and_then(|team| self.reading.find_id("team", team, &self.known.teams))
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
        self.builder.waves(waves);
    }

    /// How many come first, and how that grows: in one way.
    fn sizes(&mut self, name: &raw::Name, raw: &raw::Waves) -> Option<(u32, Growth)> {
        let entry = name.as_ref();
        let given = [raw.size.is_some(), raw.sizes.is_some(), raw.size_of.is_some()];
        let ways = [raw.adds.is_some(), raw.grows.is_some(), raw.sizes.is_some(), raw.size_of.is_some()];
        if let (Some(adds), Some(_)) = (&raw.adds, &raw.grows) {
            let fix = Some("keep one of `adds` and `grows`".to_owned());
            self.reading.problem(adds.span(), "here", "the waves grow in two ways".to_owned(), fix);
            return None;
        }
        let once = given.iter().filter(|given| **given).count() == 1;
        if !once || ways.iter().filter(|way| **way).count() > 1 || (raw.adds_more.is_some() && raw.adds.is_none()) {
            let message = format!("waves `{entry}` say not once how many come in each");
            let fix = "give `size` (with `adds`, and with that `adds-more`, or with `grows`), `sizes`, or `size-of` a counter";
            self.reading.problem(name.span(), "here", message, Some(fix.to_owned()));
            return None;
        }
        if let Some(sizes) = &raw.sizes {
            self.note("waves", entry, "growth", sizes.span());
            let sizes = sizes.as_ref().clone();
            return Some((sizes.first().copied().unwrap_or(1).max(1), Growth::List(sizes)));
        }
        if let Some(counter) = &raw.size_of {
            let counter = self.reading.find_id("counter", counter, &self.known.counters)?;
            return Some((1, Growth::Counter(counter)));
        }
        let size = raw.size.as_ref()?;
        self.note("waves", entry, "size", size.span());
        let growth = match (&raw.adds, &raw.grows) {
            (Some(adds), _) => match &raw.adds_more {
                Some(more) => Growth::Rising(*adds.as_ref(), *more.as_ref()),
                None => Growth::Added(*adds.as_ref()),
            },
            (None, Some(grows)) => {
                self.note("waves", entry, "growth", grows.span());
                Growth::Compounding(self.reading.exact(grows).unwrap_or(Fixed::ONE))
            }
            (None, None) => Growth::Added(0),
        };
        Some((*size.as_ref(), growth))
    }

    pub fn rule(&mut self, name: &raw::Name, raw: &raw::Rule) {
        let on = [&raw.on, &raw.on_family].map(Option::as_ref);
        let Some(path) = self.listens("rule", name, name.as_ref(), on) else { return };
        let mut rule = path.either(name.as_ref(), Rule::on, Rule::on_family);
        for condition in self.when(&raw.when) {
            rule = rule.when(condition);
        }
        rule = self.does(name, rule, &raw.does, raw.limit.as_ref());
        self.builder.rule(rule.priority(raw.priority.unwrap_or(0)));
    }

    /// Facts that subscriptions of the game may ask for by name.
    pub fn filter(&mut self, name: &raw::Name, raw: &raw::Filter) {
        let entry = name.as_ref();
        let on = [&raw.on, &raw.on_family].map(Option::as_ref);
        let Some(path) = self.listens("filter", name, entry, on) else { return };
        let mut filter = path.either(entry, Filter::on, Filter::on_family);
        for condition in self.when(&raw.when) {
            filter = filter.when(condition);
        }
        for field in ["", "when"] {
            self.note("filter", entry, field, name.span());
        }
        self.builder.filter(filter);
    }

    /// The cases of a choice are rules of their own, named after it.
    pub fn choice(&mut self, name: &raw::Name, raw: &raw::Choice) {
        let mut cases = Vec::new();
        for (place, case) in raw.case.iter().enumerate() {
            let own = case.as_ref().name.as_ref().map_or((place + 1).to_string(), |own| own.as_ref().clone());
            let name = Spanned::new(case.span(), format!("{}.{own}", name.as_ref()));
            let on = [&raw.on, &raw.on_family].map(Option::as_ref);
            let Some(path) = self.listens("rule", &name, name.as_ref(), on) else { return };
            let mut rule = path.either(name.as_ref(), Rule::on, Rule::on_family);
            for condition in self.when(&case.as_ref().when) {
                rule = rule.when(condition);
            }
            rule = self.does(&name, rule, &case.as_ref().does, case.as_ref().limit.as_ref());
            cases.push(rule.priority(raw.priority.unwrap_or(0)));
        }
        if cases.is_empty() {
            let fix = Some("add a `[[choice.NAME.case]]` with `do`".to_owned());
            let message = format!("choice `{}` has no case", name.as_ref());
            self.reading.problem(name.span(), "here", message, fix);
        }
        self.builder.choice(name.as_ref(), cases);
    }

    /// What a rule or a filter hears, for which conditions are read from now on.
    fn listens<'n>(
        &mut self,
        sort: &'static str,
        name: &raw::Name,
        entry: &str,
        [on, on_family]: [Option<&'n raw::Name>; 2],
    ) -> Option<Path<'n>> {
        let listens = match (on, on_family) {
            (Some(path), None) => Path { path: path.as_ref(), family: false },
            (None, Some(path)) => Path { path: path.as_ref(), family: true },
            _ => {
                let fix = Some(
                    "write `on = \"combatant.died\"`, or `on-family = \"combatant\"` for all below it"
                        .to_owned(),
                );
                let message = format!("{sort} `{entry}` does not say, or says twice, which facts it hears");
                self.reading.problem(name.span(), "here", message, fix);
                return None;
            }
        };
        // The ruleset looks at `on` as well; here the nearest of all names is proposed.
        let path = on.or(on_family)?;
        self.note(sort, entry, "on", path.span());
        let topics = self.builder.topics();
        let known: Vec<&str> = if on.is_some() {
            topics.paths().iter().map(String::as_str).collect()
        } else {
            topics.family_paths().collect()
        };
        self.reading.find("topic", path, known.into_iter().map(|path| (path, ())));
        self.hears(&topics, path.as_ref(), on.is_some());
        Some(listens)
    }

    /// What a rule does, and how often.
    fn does(
        &mut self,
        name: &raw::Name,
        mut rule: Rule,
        does: &[Spanned<raw::Reaction>],
        limit: Option<&raw::Name>,
    ) -> Rule {
        let entry = name.as_ref();
        for action in does {
            self.note("rule", entry, "do", action.span());
            let after =
                action.as_ref().after.as_ref().map_or(Some(0), |after| self.reading.time(after, self.rate));
            for act in self.reactions(action) {
                rule = rule.does_after(after.unwrap_or(0), act);
            }
        }
        if let Some(name) = limit {
            self.note("rule", entry, "limit", name.span());
            let known = Limit::ALL.map(|limit| (limit.name(), limit));
            rule = rule.limit(self.reading.find("limit", name, known).unwrap_or_default());
        }
        // The rule as a whole, for what has no place of its own.
        for field in ["", "when", "do", "limit"] {
            self.note("rule", entry, field, name.span());
        }
        rule
    }
}

/// Facts that are heard, as they are written.
struct Path<'n> {
    path: &'n str,
    family: bool,
}

impl Path<'_> {
    /// What hears one topic, or all below a path.
    fn either<T>(self, name: &str, one: fn(&str, &str) -> T, family: fn(&str, &str) -> T) -> T {
        if self.family { family(name, self.path) } else { one(name, self.path) }
    }
}

/// That a value is of another sort than its field, and how one of that sort is written.
pub fn other_sort(reading: &mut Reading<'_>, span: Range<usize>, field: &str, sort: ValueSort) {
    let (holds, fix) = match sort {
        ValueSort::Whole => (
            "a whole number",
            "give a whole number; a rule may name a counter or a reading such as \"fact.amount\"",
        ),
        ValueSort::Exact => (
            "an exact number",
            "give a number with at most four decimals; a rule may name a reading such as \"fact.amount\"",
        ),
        ValueSort::Truth => ("true or false", "give true or false"),
        ValueSort::Who => {
            ("a combatant", "give the name of a combatant; a rule gives \"subject\" or \"other\"")
        }
        ValueSort::At => ("a place", "give a place, such as [0, 1, 0]"),
        ValueSort::Text => ("a text", "give a text of at most 4096 bytes"),
        ValueSort::Name => ("a name", "give one of the names that the ruleset knows, as text"),
    };
    reading.problem(span, "here", format!("field `{field}` holds {holds}"), Some(fix.to_owned()));
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

