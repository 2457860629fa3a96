//! The sentences of the table of facts, filled with the fields of one fact.
//!
//! `{field}` is the field in words, `{field|text}` the text where there is none, `{field?yes:no}` one of two texts. What stands in `[ ]` is
//! left out where a field in it is absent, 0 or empty; what stands after a `|` in it comes instead.

use hammerstone::event::{FieldInfo, FieldValue, Tag};

use super::words;
use crate::Line;
use crate::feed::begins;
use crate::feed::{BarredByText, OperandText, Short};

/// The fields of one fact, by name, to be told.
pub(crate) struct Told<'a> {
    line: &'a Line<'a>,
    fields: Vec<(&'static FieldInfo, FieldValue)>,
}

impl<'a> Told<'a> {
    pub(crate) fn new(line: &'a Line<'a>) -> Told<'a> {
        let mut fields = Vec::new();
        line.fact.event.visit(|info, value| fields.push((info, value)));
        Told { line, fields }
    }

    /// The sentence, filled.
    pub(crate) fn fill(&self, sentence: &str) -> String {
        self.piece(sentence, false).0
    }

    /// A piece of a sentence, filled, and whether all of its fields are there.
    fn piece(&self, piece: &str, in_brackets: bool) -> (String, bool) {
        let (mut text, mut whole) = (String::new(), true);
        let mut rest = piece;
        while let Some(at) = rest.find(['{', '[']) {
            text.push_str(&rest[..at]);
            let optional = rest[at..].starts_with('[');
            let end = at + rest[at..].find(if optional { ']' } else { '}' }).unwrap_or(rest.len() - at - 1);
            let inner = &rest[at + 1..end];
            rest = &rest[end + 1..];
            if optional {
                let (first, otherwise) = inner.rsplit_once('|').unwrap_or((inner, ""));
                let (filled, all) = self.piece(first, true);
                text.push_str(if all { &filled } else { otherwise });
            } else {
                match self.words(inner).filter(|words| !(in_brackets && words == "0")) {
                    Some(words) => text.push_str(&words),
                    None => whole = false,
                }
            }
        }
        text.push_str(rest);
        (text, whole)
    }

    /// What stands in braces; none where the field is absent, 0 or empty, and nothing is said in its place.
    fn words(&self, braces: &str) -> Option<String> {
        let (name, otherwise) = match braces.split_once('|') {
            Some((name, otherwise)) => (name, Some(otherwise)),
            None => (braces, None),
        };
        let (name, choice) = match name.split_once('?') {
            Some((name, choice)) => (name, choice.split_once(':')),
            None => (name, None),
        };
        let field = self.fields.iter().find(|(info, _)| info.name == name);
        if let (Some((yes, no)), Some((_, FieldValue::Truth(truth)))) = (choice, field) {
            return Some(if *truth { yes } else { no }.to_owned());
        }
        let text =
            field.and_then(|(info, value)| self.in_words(info, *value)).filter(|text| !text.is_empty());
        text.or(otherwise.map(str::to_owned))
    }

    /// A field in words; none for what has no name.
    fn in_words(&self, info: &FieldInfo, value: FieldValue) -> Option<String> {
        let Line { facts, rules, names, fact, before } = *self.line;
        let text = match value {
            FieldValue::Number(tick) if info.is(Tag::Tick) => {
                format!("{:.2}s", begins(before.saturating_add(tick as u32), rules))
            }
            FieldValue::Number(number) => number.to_string(),
            FieldValue::Whole(whole) => whole.to_string(),
            FieldValue::Exact(exact) => Short(exact).to_string(),
            FieldValue::Share(share) => rounded(share),
            FieldValue::Pose(pose) => format!("{:?}", pose.at),
            FieldValue::Vector([x, y, z]) => format!("{:.2}", (x * x + y * y + z * z).sqrt()),
            FieldValue::Word(word) => word.to_owned(),
            FieldValue::Text(text) => facts.text_of(text).to_owned(),
            FieldValue::Spoken(spoken) => words::spoken(&spoken, rules, names),
            FieldValue::Truth(truth) => if truth { "yes" } else { "no" }.to_owned(),
            FieldValue::Obstacle(obstacle) => names.of_obstacle(obstacle).into_owned(),
            FieldValue::InLevel(place) => names.of_shape(place).into_owned(),
            FieldValue::Swing(swing) => swing.number().to_string(),
            FieldValue::Contact(contact) => contact.number().to_string(),
            FieldValue::Application(application) => application.number().to_string(),
            FieldValue::Refusal(why) => super::words::refusal(why, rules),
            FieldValue::Operand(operand) => OperandText(operand, rules, names).to_string(),
            FieldValue::BarredBy(why) => BarredByText(why, rules).to_string(),
            FieldValue::Policy(policy) => policy.name().to_owned(),
            FieldValue::Part(part) => names.part(rules, fact.event.subject()?, part)?.to_owned(),
            FieldValue::Via(via) => words::via_name(via, rules).1.to_owned(),
            FieldValue::Cause(cause) => words::cause_name(cause, rules, names).1.to_owned(),
            FieldValue::CutAt(place) => {
                let (sort, name, on) = words::cut_at(place, rules, names);
                format!("{sort} {name}{}", on.map_or(String::new(), |on| format!(" on {on}")))
            }
            FieldValue::Assists(range) => {
                let helpers: Vec<&str> = facts.assists_of(range).iter().map(|&who| names.of(who)).collect();
                helpers.join(", ")
            }
            FieldValue::Values(range) => {
                let value = |(id, amount): &(_, i64)| {
                    format!("{} {amount}", rules.value_name(*id).unwrap_or_default())
                };
                facts.values_of(range).iter().map(value).collect::<Vec<_>>().join(", ")
            }
            value => words::named(value, rules, names)?.to_owned(),
        };
        Some(text)
    }
}

/// With two decimals, or fewer where these are none.
fn rounded(number: f32) -> String {
    let text = format!("{number:.2}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" { "0".to_owned() } else { text.to_owned() }
}
