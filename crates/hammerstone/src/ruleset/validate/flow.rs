//! What can be wrong with rules, waves, lives and topics of the host's own.

use super::conditions::{About, nearest};
use super::*;
use crate::Fixed;
use crate::geometry::FARTHEST;
use crate::ids::*;
use crate::ruleset::def::On;
use crate::terms::{HostTopic, HostValue, Text, ValueSort};
use crate::topic::Topics;

/// So many conditions a rule may have, with those that lie in others, and so many readings: they are numbered.
pub(super) const MOST_OF_A_RULE: usize = 1000;

impl Check {
    /// Everything about the flow of an encounter.
    pub(in crate::ruleset) fn flow(&mut self, rules: &Definitions, topics: &Topics) {
        let sizes = Sizes::of(rules);
        self.host_topics(rules);
        for spot in &rules.spots {
            self.turn_to("spot", &spot.name);
            if spot.pose.settled().is_none() {
                self.find("", Problem::NoTurn);
            }
        }
        for line in &rules.lines {
            self.turn_to("line", &line.text);
            self.line(line, rules, &sizes);
        }
        for waves in &rules.waves {
            self.waves(waves, rules, &sizes);
        }
        for template in &rules.templates {
            self.turn_to("template", &template.name);
            self.afterlife(template, rules);
        }
        for (place, rule) in rules.rule_book.iter().enumerate() {
            let before = place.checked_sub(1).map(|place| &rules.rule_book[place]);
            if let Some(before) =
                before.filter(|before| before.choice.is_some() && before.choice == rule.choice)
                && (before.on != rule.on || before.priority != rule.priority)
            {
                self.turn_to("rule", &rule.name);
                self.find("on", Problem::OtherCase);
            }
            self.rule(rule, rules, topics, &sizes);
        }
        for filter in &rules.filters {
            self.filter(filter, rules, topics);
        }
    }

    fn host_topics(&mut self, rules: &Definitions) {
        for (i, host) in rules.host_topics.iter().enumerate() {
            self.turn_to("topic", &host.path);
            let sound = host.path.strip_prefix("host.").is_some_and(|rest| {
                rest.split('.')
                    .all(|word| !word.is_empty() && word.chars().all(|c| c.is_alphanumeric() || c == '-'))
            });
            if !sound || rules.host_topics[..i].iter().any(|other| other.path == host.path) {
                self.find("", Problem::NotOfHost);
            }
            if host.fields.len() > 4 {
                self.find("fields", Problem::TooMany { count: host.fields.len(), most: 4 });
            }
            for (j, (name, _)) in host.fields.iter().enumerate() {
                if host.fields[..j].iter().any(|(other, _)| other == name) {
                    self.find("fields", Problem::Twice(name.clone()));
                }
            }
        }
    }

    fn line(&mut self, line: &Line, rules: &Definitions, sizes: &Sizes) {
        if !line.is_whole() {
            self.find("", Problem::StrayBrace);
        }
        let count = line.numbers().count();
        if count > Line::MOST_NUMBERS {
            self.find("", Problem::TooMany { count, most: Line::MOST_NUMBERS });
        }
        if let Some(ticks) = line.lasts {
            self.range("lasts", ticks.into(), 1, LONGEST);
        }
        if let Some(word) = line.category {
            self.id("category", "word", word.index(), rules.words.len());
        }
        if let Audience::Team(team) = line.audience {
            self.id("audience", "team", team.index(), sizes.teams);
        }
    }

    fn waves(&mut self, waves: &Waves, rules: &Definitions, sizes: &Sizes) {
        self.turn_to("waves", &waves.name);
        self.id("template", "template", waves.template.index(), rules.templates.len());
        if let Some(team) = waves.team {
            self.id("team", "team", team.index(), sizes.teams);
        }
        self.range("size", waves.size.into(), 1, MOST_IN_A_WAVE.into());
        self.range("times", waves.times_of().unwrap_or(1).into(), 1, 10_000);
        self.range("delay", waves.delay.into(), 0, LONGEST);
        match waves.growth {
            Growth::Compounding(times) => self.share("growth", times, Fixed::ZERO, Fixed::whole(1000)),
            Growth::List(ref sizes) => {
                if sizes.is_empty() {
                    self.find("growth", Problem::NoSizes);
                }
                for &size in sizes {
                    self.range("growth", size.into(), 0, MOST_IN_A_WAVE.into());
                }
            }
            Growth::Counter(counter) => {
                self.id("growth", "counter", counter.index(), rules.counters.len());
            }
            Growth::Added(_) | Growth::Rising(..) => {}
        }
        if let Some(ticks) = waves.every {
            self.range("every", ticks.into(), 1, LONGEST);
        }
        if let Some(Metres(metres)) = waves.clear {
            self.within("free-within", metres, 1000.0);
        }
        if let Some(WaveLeader::Of(group)) = waves.leader {
            self.group("follow", &group, rules);
        }
        let last = waves.size_of(waves.times.clamp(1, 10_000));
        self.range("growth", last.into(), 0, MOST_IN_A_WAVE.into());
        // The last row stands as far from its spot as there are rows before it.
        let rows = last.max(waves.size) / (waves.spots.len().max(1) as u32);
        for value in waves.apart {
            self.within("apart", value * rows.max(1) as f32, FARTHEST);
        }
        if waves.spots.is_empty() {
            self.find("spots", Problem::NoSpot);
        }
        for spot in &waves.spots {
            self.id("spots", "spot", spot.index(), rules.spots.len());
        }
        if let Some(of) = waves.of {
            self.group("next when", &of, rules);
        }
    }

    fn afterlife(&mut self, template: &Template, rules: &Definitions) {
        if let Some(lives) = template.lives {
            self.range("lives", lives.count.into(), 1, LARGEST);
            self.range("lives", lives.delay.into(), 0, LONGEST);
            self.share("lives", lives.health, Fixed::raw(1), Fixed::ONE);
            if let ReturnTo::Spot(spot) = lives.to {
                self.id("lives", "spot", spot.index(), rules.spots.len());
            }
            if let Some(outcome) = lives.last {
                self.id("lives", "outcome", outcome.index(), rules.outcomes.len());
            }
        }
        for (i, threshold) in template.thresholds.iter().enumerate() {
            self.id("thresholds", "threshold", threshold.id.index(), rules.thresholds.len());
            self.share("thresholds", threshold.share, Fixed::ZERO, Fixed::raw(9_999));
            if template.thresholds[..i].iter().any(|other| other.id == threshold.id) {
                let known = rules.thresholds.get(threshold.id.index());
                self.find("thresholds", Problem::Twice(known.cloned().unwrap_or_default()));
            }
        }
        for (value, amount) in &template.values {
            self.id("values", "value", value.index(), rules.values.len());
            self.range("values", *amount, -LARGEST, LARGEST);
        }
    }

    pub(super) fn group(&mut self, field: &str, group: &Group, rules: &Definitions) {
        if let Some(team) = group.team {
            self.id(field, "team", team.index(), rules.teams.len());
        }
        if let Some(template) = group.template {
            self.id(field, "template", template.index(), rules.templates.len());
        }
    }

    fn rule(&mut self, rule: &Rule, rules: &Definitions, topics: &Topics, sizes: &Sizes) {
        self.turn_to("rule", &rule.name);
        let Some(heard) = self.heard(&rule.on, topics) else { return };
        let about = |is: &dyn Fn(TopicId) -> bool| heard.iter().any(|&topic| is(topic));
        let readings: usize =
            rule.does.iter().flat_map(|one| one.action.amounts()).map(|a| a.terms.len()).sum();
        for (field, count) in [("when", rule.all_conditions().len()), ("do", readings)] {
            if count > MOST_OF_A_RULE {
                self.find(field, Problem::TooMany { count, most: MOST_OF_A_RULE });
            }
        }
        self.conditions(&rule.when, rules, topics, &about);
        let has_subject = about(&|topic| topics.has_subject(topic));
        if rule.limit == Limit::PerLife && !has_subject {
            let why =
                "its limit counts the lives of the fact's subject, and the facts that it hears have none";
            self.find("limit", Problem::NeverFires { why });
        }
        if rule.does.is_empty() {
            self.find("do", Problem::DoesNothing);
        }
        for one in &rule.does {
            self.range("do", one.after.into(), 0, LONGEST);
            self.action(&one.action, rules, sizes);
            for amount in one.action.amounts() {
                self.amount_of_rule(amount, rules, topics, &about);
            }
            if let Reaction::Say(_, line, _) = one.action
                && let Some(line) = rules.lines.get(line.index())
            {
                for (party, there) in
                    [("subject", has_subject), ("other", about(&|topic| topics.has_other(topic)))]
                {
                    let audience = if party == "subject" { Audience::Subject } else { Audience::Other };
                    if !there && (line.names(party) || line.audience == audience) {
                        self.find("do", Problem::ForNobody { action: "say", party });
                    }
                }
            }
            let parties = [
                (Target::Subject, "subject", has_subject),
                (Target::Other, "other party", about(&|topic| topics.has_other(topic))),
            ];
            for (target, party, there) in parties {
                if one.action.target() == Some(target) && !there {
                    self.find("do", Problem::ForNobody { action: one.action.name(), party });
                }
                let by = if target == Target::Subject { Credit::Subject } else { Credit::Other };
                if one.action.credit() == Some(by) && !there {
                    self.find("do", Problem::ByNobody { action: one.action.name(), party });
                }
            }
        }
    }

    /// The topics that are heard, if what is written names any.
    fn heard(&mut self, on: &On, topics: &Topics) -> Option<Vec<TopicId>> {
        match topics_of(on, topics) {
            Ok(heard) => Some(heard),
            Err(path) => {
                // A family is named where one topic is meant: the first of it.
                let member = topics.family(path).and_then(|family| topics.members(family).first().copied());
                let nearest = match member {
                    Some(member) => topics.path(member).unwrap_or_default().to_owned(),
                    None => nearest(path, topics.family_paths()),
                };
                self.find("on", Problem::UnknownTopic { path: path.clone(), nearest });
                None
            }
        }
    }

    fn conditions(&mut self, when: &[Condition], rules: &Definitions, topics: &Topics, about: About<'_>) {
        for condition in when {
            if condition.depth() >= DEEPEST {
                self.find("when", Problem::TooDeep { most: DEEPEST });
                continue;
            }
            if let Some(why) = self.condition(condition, rules, topics, about) {
                self.find("when", Problem::NeverFires { why });
            }
        }
    }

    fn filter(&mut self, filter: &Filter, rules: &Definitions, topics: &Topics) {
        self.turn_to("filter", &filter.name);
        let Some(heard) = self.heard(&filter.on, topics) else { return };
        let count = filter.when.iter().map(|condition| condition.with_inner().len()).sum();
        if count > MOST_OF_A_RULE {
            self.find("when", Problem::TooMany { count, most: MOST_OF_A_RULE });
        }
        if filter.when.iter().any(Condition::rolls) {
            self.find("when", Problem::NeverFires { why: "a subscription rolls no chance" });
        }
        self.conditions(&filter.when, rules, topics, &|is| heard.iter().any(|&topic| is(topic)));
    }

    fn action(&mut self, action: &Reaction, rules: &Definitions, sizes: &Sizes) {
        if let Some(Target::Each(group)) = action.target() {
            self.group("do", &group, rules);
        }
        let mut id = |what, index, count| {
            self.id("do", what, index, count);
        };
        match *action {
            Reaction::Flag(flag, _) => id("flag", flag.index(), rules.flags.len()),
            Reaction::Count(counter, _) => id("counter", counter.index(), rules.counters.len()),
            Reaction::Score(score, ref values) => {
                id("score", score.index(), rules.scores.len());
                if let ScoreValue::Value(value) = *values {
                    id("value", value.index(), rules.values.len());
                }
            }
            Reaction::Waves(waves) => id("waves", waves.index(), rules.waves.len()),
            Reaction::Apply(_, status, strength, _) => {
                id("status", status.index(), sizes.statuses);
                self.strength("do", strength);
            }
            Reaction::Lift(_, status) => id("status", status.index(), sizes.statuses),
            Reaction::Damage(_, ref dealing) => {
                for (damage_type, _) in &dealing.amounts {
                    id("damage type", damage_type.index(), sizes.damage_types);
                }
                if dealing.amounts.is_empty() {
                    self.find("do", Problem::DoesNothing);
                }
                for step in &dealing.skips {
                    if matches!(step, Step::Base | Step::Rounding) {
                        self.find("do", Problem::NotSkipped { step: step.name() });
                    }
                }
            }
            Reaction::CountAmount(counter, ..) => id("counter", counter.index(), rules.counters.len()),
            Reaction::CombatantFlag(_, flag, _) => {
                id("flag of combatants", flag.index(), rules.combatant_flags.len());
            }
            Reaction::CombatantCount(_, counter, ..) => {
                id("counter of combatants", counter.index(), rules.combatant_counters.len());
            }
            Reaction::Teleport(_, spot) => id("spot", spot.index(), rules.spots.len()),
            Reaction::Push(_, metres, ticks) => {
                self.share("do", metres, Fixed::whole(-1000), Fixed::whole(1000));
                self.range("do", ticks.into(), 1, LONGEST);
            }
            Reaction::ChangeTeam(_, team) => id("team", team.index(), sizes.teams),
            Reaction::ScaleTime(_, sixteenths) => {
                self.range("do", sixteenths.into(), 0, crate::terms::FASTEST.into());
            }
            Reaction::Transform(_, template) => id("template", template.index(), rules.templates.len()),
            Reaction::Request(..) | Reaction::LetGo(_) => {}
            Reaction::StopWaves(waves) => id("waves", waves.index(), rules.waves.len()),
            Reaction::Gauge(_, gauge, ..) => id("gauge", gauge.index(), rules.gauges.len()),
            Reaction::Heal(..) => {}
            Reaction::Start(_, attack) => id("attack", attack.index(), rules.attacks.len()),
            Reaction::SpawnAttack(attack, team, spot, _) => {
                id("attack", attack.index(), rules.attacks.len());
                id("team", team.index(), sizes.teams);
                id("spot", spot.index(), rules.spots.len());
                if let Some(attack) = rules.attacks.get(attack.index()).filter(|a| a.form.needs_body()) {
                    self.find("do", Problem::NeedsBody(attack.name.clone()));
                }
            }
            Reaction::MoveObstacle(name, spot, ticks) => {
                id("obstacle", name.index(), rules.obstacle_names.len());
                id("spot", spot.index(), rules.spots.len());
                self.range("do", ticks.into(), 1, LONGEST);
            }
            Reaction::PlaceObstacle(name, spot) => {
                id("obstacle", name.index(), rules.obstacle_names.len());
                id("spot", spot.index(), rules.spots.len());
            }
            Reaction::RemoveObstacle(name) | Reaction::OpenObstacle(name, _) => {
                id("obstacle", name.index(), rules.obstacle_names.len())
            }
            Reaction::BringBack(_, spot) => id("spot", spot.index(), rules.spots.len()),
            Reaction::Publish(host, ref values) => {
                id("topic", host.index(), rules.host_topics.len());
                if let Some(host) = rules.host_topics.get(host.index()) {
                    self.values(host, values, &rules.words);
                }
            }
            Reaction::Say(_, line, ref numbers) => {
                id("line", line.index(), rules.lines.len());
                if let Some(line) = rules.lines.get(line.index()) {
                    let count = line.numbers().count();
                    if count != numbers.len() {
                        self.find("do", Problem::OtherBlanks { count, given: numbers.len() });
                    }
                }
            }
            Reaction::End(outcome) => id("outcome", outcome.index(), rules.outcomes.len()),
            Reaction::NextRound | Reaction::SendAway(_) | Reaction::Remove(_) | Reaction::Reset => {}
        }
    }

    fn values(&mut self, host: &HostTopic, values: &[RuleValue; 4], words: &[String]) {
        for (i, value) in values.iter().enumerate() {
            let field = host.fields.get(i).map(|(_, sort)| *sort);
            let sort = match value {
                RuleValue::Value(HostValue::Nothing) => continue,
                RuleValue::Value(HostValue::Name(name)) if name.index() >= words.len() => None,
                RuleValue::Value(value) => value.sort(),
                RuleValue::Subject | RuleValue::Other => Some(ValueSort::Who),
                RuleValue::Counter(_) => Some(ValueSort::Whole),
                RuleValue::Amount(_) => field.filter(|sort| sort.is_number()),
                RuleValue::Text(word) => {
                    let text = words.get(word.index()).filter(|text| text.len() <= Text::MOST);
                    text.map(|_| ValueSort::Text)
                }
            };
            if field != sort || sort.is_none() {
                let fields: Vec<String> =
                    host.fields.iter().map(|(name, sort)| format!("{name} ({})", sort.name())).collect();
                self.find("do", Problem::WrongValue { place: i + 1, fields: fields.join(", ") });
            }
        }
    }
}
