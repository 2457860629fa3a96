//! Rules, waves, spots, lives and topics of the host's own, out of a ruleset's file.

use hammerstone::Fixed;
use hammerstone::event::{HostValue, ValueSort};
use hammerstone::flow::{
    Condition, Count, Credit, Group, Growth, Limit, Reaction, Rule, RuleValue, ScoreValue, Target, Waves,
};
use hammerstone::geometry::Pose;
use hammerstone::ids::{OutcomeId, ReasonId, SpotId};
use hammerstone::template::{IfItKills, Lives, ReturnTo, Template};
use toml::{Spanned, Value};

use crate::raw;
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
                raw::Threshold::Declared { share, if_it_kills } => {
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
            let mend = Some("keep one of `adds` and `grows`".to_owned());
            self.reading.problem(adds.span(), "here", "the waves grow in two ways".to_owned(), mend);
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
                let mend = Some(
                    "write `on = \"combatant.died\"`, or `on-family = \"combatant\"` for all below it"
                        .to_owned(),
                );
                let message = format!("rule `{entry}` says not once what it hears");
                return self.reading.problem(name.span(), "here", message, mend);
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

    fn reactions(&mut self, spanned: &Spanned<raw::Reaction>) -> Vec<Reaction> {
        let raw = spanned.as_ref();
        let whom = match &raw.to {
            None => Target::Subject,
            Some(to) => match to.as_ref() {
                raw::To::One(name) => {
                    let known = [
                        ("subject", Target::Subject),
                        ("other", Target::Other),
                        ("followers", Target::Followers),
                    ];
                    let name = Spanned::new(to.span(), name.clone());
                    self.reading.find("party", &name, known).unwrap_or(Target::Subject)
                }
                raw::To::Group(raw::PlainGroup { team, template, tags }) => {
                    let here = |name: &String| Spanned::new(to.span(), name.clone());
                    let (team, template) = (team.as_ref().map(here), template.as_ref().map(here));
                    let tags: Vec<raw::Name> = tags.iter().map(here).collect();
                    Target::Each(self.group(team.as_ref(), template.as_ref(), &tags))
                }
            },
        };
        let mut verbs = Vec::new();
        let mut acts = Vec::new();
        for (verb, name, up) in
            [("raise-flag", &raw.raise_flag, true), ("lower-flag", &raw.lower_flag, false)]
        {
            if let Some(name) = name {
                verbs.push(verb);
                let flag = self.reading.find_id("flag", name, &self.flags);
                acts.extend(flag.map(|flag| Reaction::Flag(flag, up)));
            }
        }
        if let Some(count) = &raw.count {
            verbs.push("count");
            let counter = self.reading.find_id("counter", &count.of, &self.counters);
            let how = count.set.map_or(Count::Add(count.add.unwrap_or(1)), Count::Set);
            acts.extend(counter.map(|counter| Reaction::Count(counter, how)));
        }
        if let Some(score) = &raw.score {
            verbs.push("score");
            let id = self.reading.find_id("score", &score.of, &self.scores);
            let values = match (&score.points, &score.value) {
                (_, Some(name)) => self.reading.find_id("value", name, &self.values).map(ScoreValue::Value),
                (points, None) => Some(ScoreValue::Points(points.unwrap_or(1))),
            };
            acts.extend(id.zip(values).map(|(id, values)| Reaction::Score(id, values)));
        }
        if let Some(name) = &raw.start_waves {
            verbs.push("start-waves");
            acts.extend(self.reading.find_id("sequence of waves", name, &self.waves).map(Reaction::Waves));
        }
        if let Some(name) = &raw.apply {
            verbs.push("apply");
            let strength =
                raw.strength.as_ref().map_or(Some(Fixed::ONE), |number| self.reading.exact(number));
            let known = Credit::ALL.map(|credit| (credit.name(), credit));
            let by = raw.by.as_ref().map(|name| self.reading.find("party", name, known));
            let credit = by.flatten().unwrap_or_default();
            let status = self.status_named(name).zip(strength);
            acts.extend(status.map(|(status, strength)| Reaction::Apply(whom, status, strength, credit)));
        } else if let Some(by) = &raw.by {
            let mend = Some("take it out, or give an `apply`".to_owned());
            self.reading.problem(by.span(), "here", "`by` is for a status that is applied".to_owned(), mend);
        }
        if let Some(name) = &raw.lift {
            verbs.push("lift");
            acts.extend(self.status_named(name).map(|status| Reaction::Lift(whom, status)));
        }
        if let Some(damage) = &raw.damage {
            verbs.push("damage");
            let reason = self.reason(spanned);
            for (name, amount) in damage {
                let (damage_type, amount) = (self.damage_type(name), self.reading.exact(amount));
                if let (Some(damage_type), Some(amount), Some(reason)) = (damage_type, amount, reason) {
                    acts.push(Reaction::Damage(whom, damage_type, amount, reason));
                }
            }
        }
        if let Some(points) = raw.heal {
            verbs.push("heal");
            acts.extend(self.reason(spanned).map(|reason| Reaction::Heal(whom, points, reason)));
        }
        if let Some(name) = &raw.start {
            verbs.push("start");
            let attack = self.reading.find_id("attack", name, &self.attacks);
            acts.extend(attack.map(|attack| Reaction::Start(whom, attack)));
        }
        if let Some(spawn_attack) = &raw.spawn_attack {
            verbs.push("spawn-attack");
            let attack = self.reading.find_id("attack", &spawn_attack.attack, &self.attacks);
            let team = self.reading.find_id("team", &spawn_attack.team, &self.teams);
            if let (Some(attack), Some(team), Some(spot)) = (attack, team, self.spot(&spawn_attack.at)) {
                acts.push(Reaction::SpawnAttack(attack, team, spot));
            }
        }
        if let Some(name) = &raw.bring_back {
            verbs.push("bring-back");
            acts.extend(self.spot(name).map(|spot| Reaction::BringBack(whom, spot)));
        }
        if let Some(name) = &raw.publish {
            verbs.push("publish");
            acts.extend(self.publication(name, &raw.with));
        }
        if let Some(text) = &raw.say {
            verbs.push("say");
            // Said by nobody, unless somebody is named.
            acts.push(Reaction::Say(raw.to.as_ref().map(|_| whom), self.builder.line(text)));
        }
        if let Some(name) = &raw.end {
            verbs.push("end");
            acts.extend(self.outcome(name).map(Reaction::End));
        }
        for (verb, given, act) in [
            ("next-round", raw.next_round, Reaction::NextRound),
            ("send-away", raw.send_away, Reaction::SendAway(whom)),
            ("remove", raw.remove, Reaction::Remove(whom)),
            ("reset", raw.reset, Reaction::Reset),
        ] {
            if given {
                verbs.push(verb);
                acts.push(act);
            }
        }
        if verbs.len() != 1 {
            let message = match verbs.as_slice() {
                [] => "this does nothing".to_owned(),
                several => format!("this does {} things: {}", several.len(), several.join(", ")),
            };
            let mend = "give one of raise-flag, lower-flag, count, score, start-waves, next-round, apply, lift, damage, heal, start, spawn-attack, send-away, bring-back, remove, publish, say, end, reset";
            self.reading.problem(spanned.span(), "here", message, Some(mend.to_owned()));
        }
        acts
    }

    fn reason(&mut self, spanned: &Spanned<raw::Reaction>) -> Option<ReasonId> {
        match &spanned.as_ref().reason {
            Some(name) => self.reading.find_id("reason", name, &self.reasons),
            None => {
                let mend = Some("add `reason = \"…\"`".to_owned());
                let message = "damage and healing by a rule need a reason".to_owned();
                self.reading.problem(spanned.span(), "no reason", message, mend);
                None
            }
        }
    }

    /// What a rule publishes: values by the names of the topic's fields.
    fn publication(&mut self, name: &raw::Name, with: &raw::Named<Spanned<Value>>) -> Option<Reaction> {
        let known = self.topics.iter().enumerate().map(|(place, (path, ..))| (path.as_str(), place));
        let place = self.reading.find("topic of the host's own", name, known)?;
        let (_, id, fields) = self.topics[place].clone();
        let mut values = [RuleValue::Value(HostValue::Nothing); 4];
        for (field, value) in with {
            let known =
                fields.iter().enumerate().map(|(place, (name, sort))| (name.as_str(), (place, *sort)));
            let Some((place, sort)) = self.reading.find("field of the topic", field, known) else { continue };
            match rule_value(sort, value.as_ref(), &self.counters) {
                Some(value) => values[place] = value,
                None => {
                    let message = format!("field `{}` holds {}", field.as_ref(), sort.name());
                    self.reading.problem(value.span(), "here", message, Some(mend(sort).to_owned()));
                }
            }
        }
        Some(Reaction::Publish(id, values))
    }
}

/// How a value of a sort is written.
pub fn mend(sort: ValueSort) -> &'static str {
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
        (ValueSort::Whole, Value::String(name)) => counters.get(name).map(RuleValue::Counter),
        (ValueSort::Who, Value::String(name)) => match name.as_str() {
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
        (ValueSort::Whole, Value::Integer(whole)) => HostValue::Whole(*whole),
        (ValueSort::Exact, Value::Integer(whole)) => HostValue::Exact(Fixed::whole(*whole)),
        (ValueSort::Exact, Value::Float(exact)) => HostValue::Exact(Fixed::from_decimal(*exact)?),
        (ValueSort::Truth, Value::Boolean(truth)) => HostValue::Truth(*truth),
        (ValueSort::At, Value::Array(numbers)) => {
            let number = |value: &Value| value.as_float().or(value.as_integer().map(|whole| whole as f64));
            let numbers: Option<Vec<f32>> =
                numbers.iter().map(|value| number(value).map(|x| x as f32)).collect();
            HostValue::At(numbers?.try_into().ok()?)
        }
        _ => return None,
    })
}
