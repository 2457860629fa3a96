//! A reduced log, and what is expected of it.

use std::collections::BTreeMap;
use std::fmt::Write;

use hammerstone::Ruleset;
use hammerstone::event::Tag;
use hammerstone::orders::Order;
use serde_json::Value;

use super::ReduceOptions;
use crate::feed::sentence;
use crate::{Line, Names};

/// A part of a log, no longer than it has to be.
#[derive(Clone, Debug)]
pub struct Reduced {
    /// The part, as a log of its own: the state at its beginning, the orders that are left, what the host answered.
    pub log: Vec<u8>,
    /// The facts that it shows: their ticks and lines.
    pub facts: Vec<ReducedFact>,
    /// Orders that are left, with when they were given, in seconds; and how many there were.
    pub orders: (Vec<(f64, String)>, usize),
    /// How many combatants of its beginning are left, and how many there were.
    pub combatants: (usize, usize),
    /// Runs that it took to find out.
    pub runs: usize,
    pub(super) title: String,
    pub(super) wanted: ReduceOptions,
}

/// A fact that a reduced log shows.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct ReducedFact {
    /// Its tick.
    pub tick: u32,
    /// Its topic.
    pub topic: String,
    /// What it says, as a sentence; empty for facts that are told by others.
    pub sentence: String,
    /// Who and what it is about: names by the fields of the feed.
    pub fields: BTreeMap<String, String>,
    /// Its amount, if it has one.
    pub amount: Option<i64>,
}

impl ReducedFact {
    pub(super) fn of(tick: u32, line: &Line<'_>) -> ReducedFact {
        let Line { fact, rules, .. } = *line;
        let topic = rules.topics().path(fact.event.topic()).unwrap_or_default().to_owned();
        let values = serde_json::to_value(line).unwrap_or_default();
        let identity = fact.event.info().fields.iter().filter(|field| field.is(Tag::Identity));
        let keys = identity.flat_map(|field| field.keys());
        let named = keys.filter_map(|key| Some((key.to_owned(), values.get(key)?.as_str()?.to_owned())));
        let amount = values.get("amount").and_then(Value::as_i64);
        let sentence = sentence(line).map(|(.., text)| text).unwrap_or_default();
        ReducedFact { tick, topic, sentence, fields: named.collect(), amount }
    }
}

impl ReducedFact {
    /// Its sentence, or its topic and what it is about.
    fn said(&self) -> String {
        if !self.sentence.is_empty() {
            return self.sentence.clone();
        }
        let fields = self.fields.iter().map(|(key, value)| format!(", {key} {value}"));
        let amount = self.amount.map(|amount| format!(", amount {amount}"));
        self.topic.clone() + &fields.chain(amount).collect::<String>()
    }
}

impl Reduced {
    /// The case as a scenario's file: its fight is the log, which lies beside it under the name `log`. It expects each fact as often as it is
    /// shown, and the sums of amounts; or, for a fault that is to be mended, that none of them comes.
    pub fn to_toml(&self, log: &str, never: bool) -> String {
        let Reduced {
            title,
            wanted: ReduceOptions { about, from, to, .. },
            orders: (left, given),
            combatants,
            ..
        } = self;
        let (stay, were) = combatants;
        let (of, title) = match title.as_str() {
            "" => (String::new(), about.clone()),
            title => (format!(", out of the log of {title}"), format!("{about} in {title}")),
        };
        let mut text = String::new();
        let mut comment = |said: String| _ = writeln!(text, "# {}", said.replace(char::is_control, " "));
        comment(format!("{about} from {from:.2} to {to:.2} s{of}."));
        comment(format!(
            "What is left of it: {} of {given} orders, {stay} of {were} combatants that were there.",
            left.len()
        ));
        comment(format!("The state at its beginning, the orders and the game's answers are in {log}."));
        for (at, order) in left {
            comment(format!("  {at:.2}s {order}"));
        }
        comment("What it shows:".to_owned());
        for fact in &self.facts {
            comment(format!("  tick {}: {}", fact.tick, fact.said()));
        }
        _ = writeln!(text, "\n[scenario]\ntitle = {}\nlog = {}", quoted(&title), quoted(log));
        let mut groups = BTreeMap::<_, (usize, Option<i64>)>::new();
        for fact in &self.facts {
            // A fault is of what it comes to; as often as it comes, and all of it together, otherwise.
            let key = (fact.topic.as_str(), &fact.fields, fact.amount.filter(|_| never));
            let (count, sum) = groups.entry(key).or_default();
            *count += 1;
            *sum = fact.amount.map(|amount| amount + sum.unwrap_or_default()).or(*sum);
        }
        for ((topic, fields, amount), (count, sum)) in groups {
            let named = fields.iter().map(|(key, value)| format!("{key} = {}", quoted(value)));
            let with: Vec<String> = named.chain(amount.map(|amount| format!("amount = {amount}"))).collect();
            let head = format!("\n[[expect]]\ntopic = {}\nwith = {{ {} }}", quoted(topic), with.join(", "));
            _ = match (never, sum) {
                (true, _) => writeln!(text, "{head}\nnever = true"),
                (false, None) => writeln!(text, "{head}\nis = {count}"),
                (false, Some(sum)) => {
                    writeln!(text, "{head}\nis = {count}\n{head}\nsum = \"amount\"\nis = {sum}")
                }
            };
        }
        text
    }
}

/// An order in words.
pub(super) fn said(order: &Order, names: &Names, rules: &Ruleset) -> String {
    let mut text = order.name().to_owned();
    if let Some(who) = order.subject() {
        text.push_str(&format!(", {}", names.of(who)));
    }
    let about = match *order {
        Order::Start { attack, .. } | Order::SpawnAttack { attack, .. } => rules.attack_name(attack),
        Order::Apply { status, .. } | Order::Lift { status, .. } => rules.status_name(status),
        Order::Spawn { template, .. } | Order::SpawnKeyed { template, .. } => {
            rules.templates().get(template.index()).map(|template| template.name())
        }
        _ => None,
    };
    about.map_or(text.clone(), |about| format!("{text}: {about}"))
}

/// A text as TOML has it.
fn quoted(text: &str) -> String {
    let mut quoted = String::from("\"");
    for letter in text.chars() {
        match letter {
            '"' | '\\' => quoted.extend(['\\', letter]),
            letter if letter.is_control() => _ = write!(quoted, "\\u{:04X}", u32::from(letter)),
            letter => quoted.push(letter),
        }
    }
    quoted.push('"');
    quoted
}
