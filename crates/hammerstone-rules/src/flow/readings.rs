//! Numbers that rules read, and amounts that are made of them.

use hammerstone::Fixed;
use hammerstone::event::ValueSort;
use hammerstone::flow::{Amount, Condition, OF_A_HIT, Party, Portion, Reading as Read};
use hammerstone::topic::Topics;
use toml::Spanned;

use crate::raw;
use crate::rules::Resolver;

/// What a rule hears: the path that it names, and the fields that all of its facts have.
#[derive(Default)]
pub struct Heard {
    pub path: String,
    pub fields: Vec<Field>,
}

/// A field of a fact.
#[derive(Clone, PartialEq)]
pub struct Field {
    pub name: String,
    /// Whether it holds a number.
    pub is_number: bool,
}

impl Resolver<'_, '_> {
    /// Notes the fields of what a rule hears.
    pub(super) fn hears(&mut self, topics: &Topics, path: &str, exact: bool) {
        let heard = match topics.find(path).filter(|_| exact) {
            Some(topic) => vec![topic],
            None => topics.family(path).map(|family| topics.members(family).to_vec()).unwrap_or_default(),
        };
        let of = |topic: &_| -> Vec<Field> {
            if topics.host_topic(*topic).is_some() {
                let path = topics.path(*topic).unwrap_or_default();
                let own = self.known.topics.iter().find(|(known, ..)| known == path);
                let fields = own.map(|(_, _, fields)| fields.as_slice()).unwrap_or_default();
                let field = |(name, sort): &(String, ValueSort)| {
                    let is_number = matches!(sort, ValueSort::Whole | ValueSort::Exact);
                    Field { name: name.clone(), is_number }
                };
                return fields.iter().map(field).collect();
            }
            let info = topics.info(*topic);
            let fields = info.into_iter().flat_map(|info| info.fields.iter());
            fields.map(|f| Field { name: f.key.to_owned(), is_number: f.is_number() }).collect()
        };
        let mut fields = heard.first().map(of).unwrap_or_default();
        fields.retain(|field| heard.iter().all(|topic| of(topic).contains(field)));
        self.heard = Heard { path: path.to_owned(), fields };
    }

    /// The conditions under which a hit gives a status.
    pub(crate) fn when_a_hit(&mut self, raw: &raw::Conditions) -> Vec<Condition> {
        let topics = self.builder.topics();
        self.hears(&topics, "hit.landed", true);
        let own = OF_A_HIT.map(|(name, sort)| Field { name: name.to_owned(), is_number: sort != ValueSort::Truth });
        self.heard.fields.extend(own);
        self.when(raw)
    }

    /// The conditions under which a status is given without a hit: there is no fact to ask about.
    pub(crate) fn when_given(&mut self, raw: &raw::Conditions) -> Vec<Condition> {
        self.heard = Heard::default();
        self.when(raw)
    }

    /// A reading by its name, such as `subject.health.share`.
    pub(super) fn reading_named(&mut self, name: &raw::Name) -> Option<Read> {
        let mut words = name.as_ref().splitn(3, '.');
        let words = [words.next(), words.next(), words.next()];
        let part = |text: &str| Spanned::new(name.span(), text.to_owned());
        let reading = &mut *self.reading;
        match words {
            [Some("distance"), None, _] => Some(Read::Distance),
            [Some("counter"), Some(own), None] => {
                reading.find_id("counter", &part(own), &self.known.counters).map(Read::Counter)
            }
            [Some("score"), Some(own), None] => {
                reading.find_id("score", &part(own), &self.known.scores).map(Read::Score)
            }
            [Some("fact"), Some(_), None] if self.heard.path.is_empty() => {
                let fix = Some("read the parties or the encounter".to_owned());
                reading.problem(name.span(), "here", "there is no fact to read".to_owned(), fix);
                None
            }
            [Some("fact"), Some(field), None] => {
                let known = self.heard.fields.iter().filter(|field| field.is_number);
                let known = known.map(|field| (field.name.as_str(), ()));
                let field = field.replace('-', "_");
                let what = format!("number in {}", self.heard.path);
                reading.find(&what, &part(&field), known)?;
                Some(Read::Field(self.builder.word(&field)))
            }
            [Some(who @ ("subject" | "other")), Some(what), rest] => {
                let party = if who == "subject" { Party::Subject } else { Party::Other };
                match (what, rest) {
                    ("health", portion) => {
                        let known = [("share", Portion::Share), ("max", Portion::Maximum)];
                        let portion = match portion {
                            None => Some(Portion::Points),
                            Some(portion) => reading.find("reading of health", &part(portion), known),
                        };
                        portion.map(|portion| Read::Health(party, portion))
                    }
                    ("stat", Some(stat)) => {
                        reading.find_id("stat", &part(stat), &self.known.stats).map(|stat| Read::Stat(party, stat))
                    }
                    ("counter", Some(counter)) => {
                        let counters = &self.known.combatant_counters;
                        let counter = reading.find_id("counter of combatants", &part(counter), counters);
                        counter.map(|counter| Read::CombatantCounter(party, counter))
                    }
                    (gauge, portion) => {
                        let known = [("share", Portion::Share), ("max", Portion::Maximum)];
                        let Some(gauge) = self.known.gauges.get(gauge) else { return self.no_reading(name) };
                        let portion = match portion {
                            None => Some(Portion::Points),
                            Some(portion) => self.reading.find("reading of a gauge", &part(portion), known),
                        };
                        portion.map(|portion| Read::Gauge(party, gauge, portion))
                    }
                }
            }
            _ => self.no_reading(name),
        }
    }

    fn no_reading(&mut self, name: &raw::Name) -> Option<Read> {
        let message = format!("`{}` is nothing that can be read", name.as_ref());
        let fix = "give fact.FIELD, subject.health, subject.health.share, subject.health.max, subject.GAUGE, subject.stat.NAME, subject.counter.NAME, the same of `other`, counter.NAME, score.NAME, or distance";
        self.reading.problem(name.span(), "here", message, Some(fix.to_owned()));
        None
    }

    /// An amount: a number, or a sum of readings.
    pub(super) fn amount_of(&mut self, spanned: &Spanned<raw::AmountOf>) -> Option<Amount> {
        match spanned.as_ref() {
            raw::AmountOf::Plain(number) => {
                self.reading.exact(&Spanned::new(spanned.span(), *number)).map(Amount::from)
            }
            raw::AmountOf::Sum(sum) => self.sum(sum),
        }
    }

    /// A sum of readings.
    pub(super) fn sum(&mut self, sum: &raw::Sum) -> Option<Amount> {
        let base = sum.base.as_ref().map_or(Some(Fixed::ZERO), |base| self.reading.exact(base));
        let mut amount = Amount::from(base?);
        for term in &sum.terms {
            let reading = self.reading_named(&term.of);
            let times = term.times.as_ref().map_or(Some(Fixed::ONE), |times| self.reading.exact(times));
            amount = amount.plus(reading?, times?);
        }
        if let Some(floor) = sum.floor {
            amount = amount.floor(floor);
        }
        if let Some(cap) = sum.cap {
            amount = amount.cap(cap);
        }
        Some(amount)
    }
}
