//! What can be wrong with conditions, readings and amounts of rules.

use super::*;
use crate::event::{FieldInfo, Tag};
use crate::ids::*;
use crate::terms::ValueSort;
use crate::topic::{GAUGE_CROSSED, HEALTH_CROSSED, Topics};

/// So many terms an amount may have.
const MOST_TERMS: usize = 8;

/// Whether any topic that a rule hears is of a sort.
pub(super) type About<'a> = &'a dyn Fn(&dyn Fn(TopicId) -> bool) -> bool;

impl Check {
    /// Why nothing can be asked of a party, if none of the facts has it.
    pub(super) fn without(
        &mut self,
        party: Party,
        topics: &Topics,
        about: About<'_>,
    ) -> Option<&'static str> {
        if let Asked::Grant { other } = self.asked {
            return (party == Party::Other && !other).then_some("there is no other side");
        }
        match party {
            Party::Subject => (!about(&|topic| topics.has_subject(topic)))
                .then_some("the facts that it hears have no subject"),
            Party::Other => (!about(&|topic| topics.has_other(topic)))
                .then_some("the facts that it hears have no other party"),
        }
    }

    /// The sort of a field that a hit has beside those of its fact, if conditions are asked for a hit.
    fn of_a_hit(&self, name: &str) -> Option<ValueSort> {
        let own = OF_A_HIT.iter().filter(|_| self.asked == Asked::Hit).find(|(own, _)| *own == name);
        own.map(|(_, sort)| *sort)
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
                if self.of_a_hit(name).is_some_and(|sort| sort != ValueSort::Truth) {
                    return None;
                }
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
    pub(super) fn amount_of_rule(
        &mut self,
        amount: &Amount,
        rules: &Definitions,
        topics: &Topics,
        about: About<'_>,
    ) {
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
    pub(super) fn condition(
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
                let own = self.of_a_hit(rules.words.get(name.index()).map_or("", String::as_str));
                if let Some(sort) = own
                    && matches!(held, Held::Truth(_)) == (sort == ValueSort::Truth)
                    && !matches!(held, Held::Word(_))
                {
                    return None;
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
                            | (Some(ValueSort::Name), Held::Word(_))
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
}

/// The path that shares the most with what was asked for: the longest beginning, then the longest end.
pub(super) fn nearest<'a>(path: &str, known: impl Iterator<Item = &'a str>) -> String {
    let common = |a: &mut dyn Iterator<Item = char>, b: &mut dyn Iterator<Item = char>| {
        a.zip(b).take_while(|(a, b)| a == b).count()
    };
    let likeness = |other: &&str| {
        common(&mut path.chars(), &mut other.chars())
            + common(&mut path.chars().rev(), &mut other.chars().rev())
    };
    known.max_by_key(likeness).unwrap_or_default().to_owned()
}
