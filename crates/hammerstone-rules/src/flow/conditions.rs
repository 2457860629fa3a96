//! What must hold for a rule to fire.

use hammerstone::Fixed;
use hammerstone::flow::{
    Comparison, Condition, Crossings, Held, Party, Portion, Reading as Read, SwingPhase,
};
use toml::Spanned;

use crate::raw;
use crate::rules::Resolver;

impl Resolver<'_, '_> {
    /// The conditions of a table, all of which must hold.
    pub fn when(&mut self, raw: &raw::Conditions) -> Vec<Condition> {
        let mut all = Vec::new();
        for (party, holds) in [(Party::Subject, &raw.subject), (Party::Other, &raw.other)] {
            if let Some(holds) = holds {
                self.party_holds(party, holds, &mut all);
            }
        }
        if let Some(health) = &raw.health {
            all.extend(self.between(Read::Health(Party::Subject, Portion::Share), health));
        }
        self.about_the_fact(raw, &mut all);
        self.about_the_encounter(raw, &mut all);
        for compare in &raw.compare {
            all.extend(self.compare(compare));
        }
        all.extend(raw.line_of_sight.map(Condition::Sight));
        self.fact_holds(&raw.fact, &mut all);
        if let Some(of) = &raw.all {
            all.extend(of.iter().flat_map(|of| self.when(of)).collect::<Vec<_>>());
        }
        if let Some(of) = &raw.any {
            let of = of.iter().map(|of| together(self.when(of))).collect();
            all.push(Condition::Any(of));
        }
        if let Some(not) = &raw.not {
            all.push(together(self.when(not)).negated());
        }
        if let Some(chance) = &raw.chance {
            all.extend(self.reading.exact(chance).map(Condition::Chance));
        }
        all
    }

    fn party_holds(&mut self, party: Party, raw: &raw::PartyHolds, all: &mut Vec<Condition>) {
        if raw.team.is_some() || raw.template.is_some() || !raw.tags.is_empty() {
            let group = self.group(raw.team.as_ref(), raw.template.as_ref(), &raw.tags);
            all.push(Condition::Is(party, group));
        }
        if let Some(health) = &raw.health {
            all.extend(self.between(Read::Health(party, Portion::Share), health));
        }
        for (name, between) in &raw.stats {
            if let Some(stat) = self.reading.find_id("stat", name, &self.known.stats) {
                all.extend(self.between(Read::Stat(party, stat), between));
            }
        }
        for (name, between) in &raw.gauges {
            if let Some(gauge) = self.reading.find_id("gauge", name, &self.known.gauges) {
                all.extend(self.between(Read::Gauge(party, gauge, Portion::Points), between));
            }
        }
        for (names, up) in [(&raw.flags_up, true), (&raw.flags_down, false)] {
            for name in names {
                let flag = self.reading.find_id("flag of combatants", name, &self.known.combatant_flags);
                all.extend(flag.map(|flag| Condition::CombatantFlag(party, flag, up)));
            }
        }
        for (name, between) in &raw.counters {
            let counter = self.reading.find_id("counter of combatants", name, &self.known.combatant_counters);
            let (least, most) = whole(between);
            all.extend(
                counter.map(|of| Condition::Between(Read::CombatantCounter(party, of), least, most)),
            );
        }
        if let Some(name) = &raw.phase {
            let known = SwingPhase::ALL.map(|phase| (phase.name(), phase));
            let phase = self.reading.find("phase", name, known);
            all.extend(phase.map(|phase| Condition::Phase(party, phase)));
        }
    }

    fn about_the_fact(&mut self, raw: &raw::Conditions, all: &mut Vec<Condition>) {
        if let Some(name) = &raw.threshold {
            all.extend(self.reading.find_id("threshold", name, &self.known.thresholds).map(Condition::Threshold));
        }
        if let Some(name) = &raw.direction {
            let known = [("down", true), ("up", false)];
            all.extend(self.reading.find("direction", name, known).map(Condition::Downwards));
        }
        if let Some(crosses) = &raw.crosses {
            let at = self.reading.exact(&crosses.at);
            let known = Crossings::ALL.map(|how| (how.name(), how));
            let how = crosses.direction.as_ref();
            let how = how.map_or(Some(Crossings::Both), |how| self.reading.find("direction", how, known));
            all.extend(at.zip(how).map(|(at, how)| Condition::Crossed(at, how)));
        }
        if let Some(name) = &raw.status {
            all.extend(self.status_named(name).map(Condition::Status));
        }
        if let Some(name) = &raw.attack {
            all.extend(self.reading.find_id("attack", name, &self.known.attacks).map(Condition::Attack));
        }
    }

    fn about_the_encounter(&mut self, raw: &raw::Conditions, all: &mut Vec<Condition>) {
        for (names, up) in [(&raw.flags_up, true), (&raw.flags_down, false)] {
            for name in names {
                let flag = self.reading.find_id("flag", name, &self.known.flags);
                all.extend(flag.map(|flag| Condition::Flag(flag, up)));
            }
        }
        for (name, between) in &raw.counters {
            let counter = self.reading.find_id("counter", name, &self.known.counters);
            let (least, most) = whole(between);
            all.extend(counter.map(|of| Condition::Between(Read::Counter(of), least, most)));
        }
        for (name, between) in &raw.scores {
            let score = self.reading.find_id("score", name, &self.known.scores);
            let (least, most) = whole(between);
            all.extend(score.map(|of| Condition::Between(Read::Score(of), least, most)));
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
        for standing in &raw.standing.0 {
            let raw::Standing { team, template, tags, at_least, at_most, is } = standing;
            let group = self.group(team.as_ref(), template.as_ref(), tags);
            let between = raw::Between { at_least: *at_least, at_most: *at_most, is: *is };
            let (least, most) = between.range(0, u32::MAX);
            all.push(Condition::Alive(group, least, most));
        }
        if let Some(raw::Group { team, template, tags }) = &raw.out_of_lives {
            all.push(Condition::OutOfLives(self.group(team.as_ref(), template.as_ref(), tags)));
        }
        for name in &raw.waves_over {
            all.extend(
                self.reading.find_id("sequence of waves", name, &self.known.waves).map(Condition::WavesOver),
            );
        }
        for since in &raw.since.0 {
            let topics = self.builder.topics();
            let known = topics.paths().iter().map(|path| (path.as_str(), ()));
            let found = self.reading.find("topic", &since.topic, known);
            let time = |time: &Option<raw::Time>, other| time.as_ref().map_or(Some(other), |time| self.reading.time(time, self.rate));
            let mut time = time;
            let (least, most) = (time(&since.at_least, 0), time(&since.at_most, u32::MAX));
            if let (Some(()), Some(least), Some(most)) = (found, least, most) {
                all.push(Condition::Since(self.builder.word(since.topic.as_ref()), least, most));
            }
        }
    }

    /// A reading from one number to another.
    fn between(&mut self, reading: Read, between: &raw::Between<f64>) -> Option<Condition> {
        let open = matches!(reading, Read::Health(_, Portion::Share)).then_some((Fixed::ZERO, Fixed::ONE));
        let (bottom, top) = open.unwrap_or((Fixed::MIN, Fixed::MAX));
        let exact = |number: Option<f64>, open| number.map_or(Some(open), Fixed::from_decimal);
        let least = exact(between.is.or(between.at_least), bottom)?;
        let most = exact(between.is.or(between.at_most), top)?;
        Some(Condition::Between(reading, least, most))
    }

    /// One reading against another, or against a number.
    fn compare(&mut self, spanned: &Spanned<raw::Compare>) -> Option<Condition> {
        let raw = spanned.as_ref();
        let given = [
            (Comparison::Below, &raw.below),
            (Comparison::AtMost, &raw.at_most),
            (Comparison::Equals, &raw.is),
            (Comparison::AtLeast, &raw.at_least),
            (Comparison::Above, &raw.above),
        ];
        let given: Vec<_> = given.into_iter().filter_map(|(how, right)| Some((how, right.as_ref()?))).collect();
        let left = self.reading_named(&raw.left);
        let [(how, right)] = given[..] else {
            let message = format!("`{}` is compared {} times here", raw.left.as_ref(), given.len());
            let fix = "give one of below, at-most, is, at-least, above".to_owned();
            self.reading.problem(spanned.span(), "here", message, Some(fix));
            return None;
        };
        match right.as_ref() {
            raw::Right::Reading(name) => {
                let right = self.reading_named(&Spanned::new(right.span(), name.clone()))?;
                Some(Condition::Compare(left?, how, right))
            }
            raw::Right::Number(number) => {
                let number = self.reading.exact(&Spanned::new(right.span(), *number))?;
                let step = Fixed::raw(1);
                let (least, most) = match how {
                    Comparison::Below => (Fixed::MIN, number - step),
                    Comparison::AtMost => (Fixed::MIN, number),
                    Comparison::Equals => (number, number),
                    Comparison::AtLeast => (number, Fixed::MAX),
                    Comparison::Above => (number + step, Fixed::MAX),
                };
                Some(Condition::Between(left?, least, most))
            }
        }
    }

    /// What fields of the fact must hold.
    fn fact_holds(&mut self, fact: &raw::Named<Spanned<raw::Held>>, all: &mut Vec<Condition>) {
        for (name, held) in fact {
            if self.heard.path.is_empty() {
                let fix = Some("ask about the parties or the encounter, or let a rule that hears a fact act".to_owned());
                self.reading.problem(name.span(), "here", "there is no fact to ask about".to_owned(), fix);
                return;
            }
            let key = Spanned::new(name.span(), name.as_ref().replace('-', "_"));
            let known = self.heard.fields.iter().map(|field| (field.name.as_str(), ()));
            if self.reading.find(&format!("field of {}", self.heard.path), &key, known).is_none() {
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
    }
}

/// Several conditions as one.
fn together(mut conditions: Vec<Condition>) -> Condition {
    match conditions.len() {
        1 => conditions.remove(0),
        _ => Condition::All(conditions),
    }
}

/// A range of whole numbers; one without an end goes as far as numbers can be held.
fn whole(between: &raw::Between<i64>) -> (Fixed, Fixed) {
    let (least, most) = between.range(i64::MIN, i64::MAX);
    (Fixed::whole(least), Fixed::whole(most))
}
