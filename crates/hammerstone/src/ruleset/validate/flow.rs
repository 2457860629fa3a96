//! What can be wrong with rules, waves, lives and topics of the host's own.

use super::*;
use crate::Fixed;
use crate::event::{FieldInfo, Tag};
use crate::geometry::FARTHEST;
use crate::ids::*;
use crate::terms::{HostTopic, HostValue, ValueSort};
use crate::topic::{GAUGE_CROSSED, HEALTH_CROSSED, Topics};

/// So many terms an amount may have.
const MOST_TERMS: usize = 8;

/// Whether any topic that a rule hears is of a sort.
type About<'a> = &'a dyn Fn(&dyn Fn(TopicId) -> bool) -> bool;

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

    fn waves(&mut self, waves: &Waves, rules: &Definitions, sizes: &Sizes) {
        self.turn_to("waves", &waves.name);
        self.id("template", "template", waves.template.index(), rules.templates.len());
        if let Some(team) = waves.team {
            self.id("team", "team", team.index(), sizes.teams);
        }
        self.range("size", waves.size.into(), 1, MOST_IN_A_WAVE.into());
        self.range("times", waves.times.into(), 1, 10_000);
        self.range("delay", waves.delay.into(), 0, LONGEST);
        if let Growth::Compounding(times) = waves.growth {
            self.share("growth", times, Fixed::ZERO, Fixed::whole(1000));
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

    fn group(&mut self, field: &str, group: &Group, rules: &Definitions) {
        if let Some(team) = group.team {
            self.id(field, "team", team.index(), rules.teams.len());
        }
        if let Some(template) = group.template {
            self.id(field, "template", template.index(), rules.templates.len());
        }
    }

    fn rule(&mut self, rule: &Rule, rules: &Definitions, topics: &Topics, sizes: &Sizes) {
        self.turn_to("rule", &rule.name);
        let heard = match topics_of(rule, topics) {
            Ok(heard) => heard,
            Err(path) => {
                // A family is named where one topic is meant: the first of it.
                let member = topics.family(path).and_then(|family| topics.members(family).first().copied());
                let nearest = match member {
                    Some(member) => topics.path(member).unwrap_or_default().to_owned(),
                    None => nearest(path, topics.family_paths()),
                };
                return self.find("on", Problem::UnknownTopic { path: path.clone(), nearest });
            }
        };
        let about = |is: &dyn Fn(TopicId) -> bool| heard.iter().any(|&topic| is(topic));
        for condition in &rule.when {
            if condition.depth() >= DEEPEST {
                self.find("when", Problem::TooDeep { most: DEEPEST });
                continue;
            }
            let never = self.condition(condition, rules, topics, &about);
            if let Some(why) = never {
                self.find("when", Problem::NeverFires { why });
            }
        }
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
            let parties = [
                (Target::Subject, "subject", has_subject),
                (Target::Other, "other party", about(&|topic| topics.has_other(topic))),
            ];
            for (target, party, there) in parties {
                if one.action.target() == Some(target) && !there {
                    self.find("do", Problem::ForNobody { action: one.action.name(), party });
                }
            }
        }
    }

    /// Why nothing can be asked of a party, if none of the facts has it.
    fn without(&mut self, party: Party, topics: &Topics, about: About<'_>) -> Option<&'static str> {
        match party {
            Party::Subject => (!about(&|topic| topics.has_subject(topic)))
                .then_some("the facts that it hears have no subject"),
            Party::Other => (!about(&|topic| topics.has_other(topic)))
                .then_some("the facts that it hears have no other party"),
        }
    }

    /// Whether a reading is sound; and why there is never anything to read, if there is not.
    fn reading(
        &mut self,
        field: &str,
        reading: Reading,
        rules: &Definitions,
        topics: &Topics,
        about: About<'_>,
    ) -> Option<&'static str> {
        match reading {
            Reading::Field(name) => {
                self.id(field, "word", name.index(), rules.words.len());
                let name = rules.words.get(name.index()).map_or("", String::as_str);
                let is_number = |topic| {
                    let info = topics.info(topic);
                    let own = info.and_then(|info| info.fields.iter().find(|field| field.key == name));
                    let host = topics.host_topic(topic).and_then(|host| rules.host_topics.get(host.index()));
                    let of_host = host.and_then(|host| host.fields.iter().find(|(field, _)| field == name));
                    own.is_some_and(FieldInfo::is_number)
                        || of_host
                            .is_some_and(|(_, sort)| matches!(sort, ValueSort::Whole | ValueSort::Exact))
                };
                (!about(&is_number)).then_some("the facts that it hears have no number of that name")
            }
            Reading::Health(party, _) => self.without(party, topics, about),
            Reading::Gauge(party, gauge, _) => {
                self.id(field, "gauge", gauge.index(), rules.gauges.len());
                self.without(party, topics, about)
            }
            Reading::Stat(party, stat) => {
                self.id(field, "stat", stat.index(), rules.stats.len());
                self.without(party, topics, about)
            }
            Reading::Counter(counter) => {
                self.id(field, "counter", counter.index(), rules.counters.len());
                None
            }
            Reading::CombatantCounter(party, counter) => {
                self.id(field, "counter of combatants", counter.index(), rules.combatant_counters.len());
                self.without(party, topics, about)
            }
            Reading::Score(score) => {
                self.id(field, "score", score.index(), rules.scores.len());
                None
            }
            Reading::Distance => {
                let never = self.without(Party::Subject, topics, about);
                never.or(self.without(Party::Other, topics, about))
            }
        }
    }

    /// Everything about an amount of a rule.
    fn amount_of_rule(&mut self, amount: &Amount, rules: &Definitions, topics: &Topics, about: About<'_>) {
        self.amount("do", amount.base);
        if amount.terms.len() > MOST_TERMS {
            self.find("do", Problem::TooMany { count: amount.terms.len(), most: MOST_TERMS });
        }
        for term in &amount.terms {
            self.share("do", term.times, Fixed::whole(-1000), Fixed::whole(1000));
            if let Some(why) = self.reading("do", term.of, rules, topics, about) {
                self.find("do", Problem::NeverRead { why });
            }
        }
        for limit in [amount.floor, amount.cap].into_iter().flatten() {
            self.range("do", limit, 0, LARGEST);
        }
        if let (Some(low), Some(high)) = (amount.floor, amount.cap)
            && low > high
        {
            self.find("do", Problem::Reversed { low, high });
        }
    }

    /// Why a condition can never hold, if it cannot.
    fn condition(
        &mut self,
        condition: &Condition,
        rules: &Definitions,
        topics: &Topics,
        about: About<'_>,
    ) -> Option<&'static str> {
        let crosses = |topic: TopicId| topic == HEALTH_CROSSED || topic == GAUGE_CROSSED;
        const EMPTY: &str = "the range of a condition begins after its end";
        match *condition {
            // Of several that must hold each, of those of which any may only what is wrong with all.
            Condition::All(ref inner) => {
                let whys: Vec<_> =
                    inner.iter().map(|one| self.condition(one, rules, topics, about)).collect();
                whys.into_iter().flatten().next()
            }
            Condition::Any(ref inner) => {
                let whys: Vec<_> =
                    inner.iter().map(|one| self.condition(one, rules, topics, about)).collect();
                match whys.iter().all(Option::is_some) {
                    true => whys.into_iter().flatten().next().or(Some("an empty list has none that holds")),
                    false => None,
                }
            }
            Condition::Not(ref inner) => {
                self.condition(inner, rules, topics, about);
                None
            }
            Condition::Is(party, group) => {
                self.group("when", &group, rules);
                self.without(party, topics, about)
            }
            Condition::Between(reading, least, most) => {
                let never = self.reading("when", reading, rules, topics, about);
                never.or((least > most).then_some(EMPTY))
            }
            Condition::Compare(left, _, right) => {
                let never = self.reading("when", left, rules, topics, about);
                never.or(self.reading("when", right, rules, topics, about))
            }
            Condition::CombatantFlag(party, flag, _) => {
                self.id("when", "flag of combatants", flag.index(), rules.combatant_flags.len());
                self.without(party, topics, about)
            }
            Condition::Phase(party, _) => self.without(party, topics, about),
            Condition::Sight(_) => {
                let never = self.without(Party::Subject, topics, about);
                never.or(self.without(Party::Other, topics, about))
            }
            Condition::Crossed(..) => {
                let has = |topic, key| {
                    topics.info(topic).is_some_and(|info| info.fields.iter().any(|field| field.key == key))
                };
                let both = |topic| has(topic, "from") && has(topic, "to");
                (!about(&both))
                    .then_some("the facts that it hears do not say from where to where a number went")
            }
            Condition::OutOfLives(group) => {
                self.group("when", &group, rules);
                None
            }
            Condition::Since(path, least, most) => {
                self.id("when", "word", path.index(), rules.words.len());
                let path = rules.words.get(path.index()).map_or("", String::as_str);
                if topics.find(path).is_none() {
                    let nearest = nearest(path, topics.paths().iter().map(String::as_str));
                    self.find("when", Problem::UnknownTopic { path: path.to_owned(), nearest });
                }
                (least > most).then_some(EMPTY)
            }
            Condition::Chance(chance) => {
                self.share("when", chance, Fixed::ZERO, Fixed::ONE);
                (chance == Fixed::ZERO).then_some("a chance of 0 never comes")
            }
            Condition::Threshold(id) => {
                self.id("when", "threshold", id.index(), rules.thresholds.len());
                (!about(&crosses))
                    .then_some("only `health.crossed` and `gauge.crossed` are about a threshold")
            }
            Condition::Downwards(_) => {
                (!about(&crosses)).then_some("only `health.crossed` and `gauge.crossed` have a direction")
            }
            Condition::Status(id) => {
                self.id("when", "status", id.index(), rules.statuses.len());
                let of = |topic| topics.info(topic).is_some_and(|info| info.field(Tag::Status).is_some());
                (!about(&of)).then_some("the facts that it hears belong to no status")
            }
            Condition::Attack(id) => {
                self.id("when", "attack", id.index(), rules.attacks.len());
                let of = |topic| topics.info(topic).is_some_and(|info| info.field(Tag::Attack).is_some());
                (!about(&of)).then_some("the facts that it hears belong to no attack")
            }
            Condition::Flag(id, _) => {
                self.id("when", "flag", id.index(), rules.flags.len());
                None
            }
            Condition::Time(least, most) | Condition::Round(least, most) => (least > most).then_some(EMPTY),
            Condition::Alive(group, least, most) => {
                self.group("when", &group, rules);
                (least > most).then_some(EMPTY)
            }
            Condition::WavesOver(id) => {
                self.id("when", "waves", id.index(), rules.waves.len());
                None
            }
            Condition::Field(name, held) => {
                self.id("when", "word", name.index(), rules.words.len());
                if let Held::Word(word) = held {
                    self.id("when", "word", word.index(), rules.words.len());
                }
                if matches!(held, Held::Between(least, most) if least > most) {
                    return Some(EMPTY);
                }
                let word = |id: WordId| rules.words.get(id.index()).map_or("", String::as_str);
                let of = |topic| {
                    let info = topics.info(topic)?;
                    info.fields.iter().find(|field| field.key == word(name))
                };
                // Fields of the host's own topics have sorts of their own.
                let sort = |topic| {
                    let host = rules.host_topics.get(topics.host_topic(topic)?.index())?;
                    host.fields.iter().find(|(field, _)| field == word(name)).map(|(_, sort)| *sort)
                };
                let of_host = |topic| {
                    matches!(
                        (sort(topic), held),
                        (Some(ValueSort::Whole | ValueSort::Exact), Held::Between(..))
                            | (Some(ValueSort::Truth), Held::Truth(_))
                    )
                };
                if about(&of_host) {
                    return None;
                }
                if !about(&|topic| of(topic).is_some()) {
                    return Some("the facts that it hears have no field of that name");
                }
                let fits = |field: &FieldInfo| match held {
                    Held::Between(..) => field.is_number(),
                    Held::Truth(_) => field.code == "bool",
                    Held::Word(id) => {
                        let open = field.words.is_empty() && field.code == "Why"
                            || field.is_named() && field.words.is_empty();
                        open || field.tags.contains(&Tag::Part) || field.words.contains(&word(id))
                    }
                };
                (!about(&|topic| of(topic).is_some_and(fits)))
                    .then_some("the field of that name holds nothing of that sort")
            }
        }
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
            Reaction::Request(..) => {}
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
            Reaction::RemoveObstacle(name) => id("obstacle", name.index(), rules.obstacle_names.len()),
            Reaction::BringBack(_, spot) => id("spot", spot.index(), rules.spots.len()),
            Reaction::Publish(host, values) => {
                id("topic", host.index(), rules.host_topics.len());
                if let Some(host) = rules.host_topics.get(host.index()) {
                    self.values(host, &values);
                }
            }
            Reaction::Say(_, line) => id("line", line.index(), rules.lines.len()),
            Reaction::End(outcome) => id("outcome", outcome.index(), rules.outcomes.len()),
            Reaction::NextRound | Reaction::SendAway(_) | Reaction::Remove(_) | Reaction::Reset => {}
        }
    }

    fn values(&mut self, host: &HostTopic, values: &[RuleValue; 4]) {
        for (i, value) in values.iter().enumerate() {
            let sort = match value {
                RuleValue::Value(HostValue::Nothing) => continue,
                RuleValue::Value(value) => value.sort(),
                RuleValue::Subject | RuleValue::Other => Some(ValueSort::Who),
                RuleValue::Counter(_) => Some(ValueSort::Whole),
            };
            if host.fields.get(i).map(|(_, sort)| *sort) != sort {
                let fields: Vec<String> =
                    host.fields.iter().map(|(name, sort)| format!("{name} ({})", sort.name())).collect();
                self.find("do", Problem::WrongValue { place: i + 1, fields: fields.join(", ") });
            }
        }
    }
}

/// The path that shares the most with what was asked for: the longest beginning, then the longest end.
fn nearest<'a>(path: &str, known: impl Iterator<Item = &'a str>) -> String {
    let common = |a: &mut dyn Iterator<Item = char>, b: &mut dyn Iterator<Item = char>| {
        a.zip(b).take_while(|(a, b)| a == b).count()
    };
    let likeness = |other: &&str| {
        common(&mut path.chars(), &mut other.chars())
            + common(&mut path.chars().rev(), &mut other.chars().rev())
    };
    known.max_by_key(likeness).unwrap_or_default().to_owned()
}
