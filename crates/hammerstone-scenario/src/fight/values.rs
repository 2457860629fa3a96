//! Values of two files that differ.

use std::collections::BTreeSet;

use serde::Serialize;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

/// A value that is another in another file, by its path, as [`with_value`](crate::with_value) takes it.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct ChangedValue {
    /// The path: keys of tables and places in lists from 0, between dots.
    pub path: String,
    /// As it is written in the first file; none if it is not there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub first: Option<String>,
    /// As it is written in the second.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub second: Option<String>,
}

impl std::fmt::Display for ChangedValue {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let side = |value: &Option<String>| value.clone().unwrap_or_else(|| "not there".to_owned());
        write!(f, "{} {} → {}", self.path, side(&self.first), side(&self.second))
    }
}

/// Where two texts of TOML have other values, in the order of their paths. Comments, order and spaces count for nothing. Of tables and
/// lists that only one has, the whole is one value. Texts that cannot be read have none.
pub fn changed_values(first: &str, second: &str) -> Vec<ChangedValue> {
    let read = |text| DeTable::parse(text).ok().map(|table| DeValue::Table(table.into_inner()));
    let mut changed = Vec::new();
    if let (Some(one), Some(two)) = (read(first), read(second)) {
        let texts = Texts { first, second };
        texts.compare(&mut String::new(), Some((&one, "")), Some((&two, "")), &mut changed);
    }
    changed
}

struct Texts<'a> {
    first: &'a str,
    second: &'a str,
}

/// A value, and how it is written.
type Side<'v> = Option<(&'v DeValue<'v>, &'v str)>;

impl Texts<'_> {
    fn compare(&self, path: &mut String, one: Side<'_>, two: Side<'_>, changed: &mut Vec<ChangedValue>) {
        match (one, two) {
            (Some((DeValue::Table(first), _)), Some((DeValue::Table(second), _))) => {
                let keys: BTreeSet<&str> =
                    { first.keys().chain(second.keys()) }.map(|key| key.get_ref().as_ref()).collect();
                for key in keys {
                    let (one, two) = (self.side(first.get(key), true), self.side(second.get(key), false));
                    self.below(path, key, one, two, changed);
                }
            }
            (Some((DeValue::Array(first), _)), Some((DeValue::Array(second), _)))
                if first.len() == second.len() || first.iter().chain(second.iter()).any(is_table) =>
            {
                for place in 0..first.len().max(second.len()) {
                    let (one, two) = (self.side(first.get(place), true), self.side(second.get(place), false));
                    self.below(path, &place.to_string(), one, two, changed);
                }
            }
            _ => {
                if one.map(|(value, _)| same(value)) != two.map(|(value, _)| same(value)) {
                    let [first, second] = [one, two].map(|side| side.map(|(value, text)| short(value, text)));
                    changed.push(ChangedValue { path: path.clone(), first, second });
                }
            }
        }
    }

    fn below(
        &self,
        path: &mut String,
        key: &str,
        one: Side<'_>,
        two: Side<'_>,
        changed: &mut Vec<ChangedValue>,
    ) {
        let before = path.len();
        if before > 0 {
            path.push('.');
        }
        path.push_str(key);
        self.compare(path, one, two, changed);
        path.truncate(before);
    }

    fn side<'v>(&'v self, value: Option<&'v Spanned<DeValue<'v>>>, first: bool) -> Side<'v> {
        let text = if first { self.first } else { self.second };
        value.map(|value| (value.get_ref(), text.get(value.span()).unwrap_or_default()))
    }
}

fn is_table(value: &Spanned<DeValue<'_>>) -> bool {
    matches!(value.get_ref(), DeValue::Table(_))
}

/// A value by what it means and not by how it is written: numbers alone are the same however they are.
fn same(value: &DeValue<'_>) -> String {
    match value {
        DeValue::Integer(number) => i64::from_str_radix(&number.as_str().replace('_', ""), number.radix())
            .map_or_else(|_| number.as_str().to_owned(), |number| number.to_string()),
        DeValue::Float(number) => {
            let plain = number.as_str().replace('_', "");
            plain.parse::<f64>().map_or(plain, |number| number.to_string())
        }
        DeValue::String(text) => format!("{text:?}"),
        DeValue::Boolean(truth) => truth.to_string(),
        DeValue::Datetime(time) => time.to_string(),
        DeValue::Array(list) => {
            let all: Vec<String> = list.iter().map(|value| same(value.get_ref())).collect();
            format!("[{}]", all.join(","))
        }
        DeValue::Table(table) => {
            let mut all: Vec<String> = table
                .iter()
                .map(|(key, value)| format!("{}={}", key.get_ref(), same(value.get_ref())))
                .collect();
            all.sort();
            format!("{{{}}}", all.join(","))
        }
    }
}

/// How a value is written, on one line and not too long.
fn short(value: &DeValue<'_>, text: &str) -> String {
    const MOST: usize = 60;
    match value {
        DeValue::Table(_) if !text.starts_with('{') => return "a table".to_owned(),
        DeValue::Array(list) if list.iter().any(is_table) => return format!("a list of {}", list.len()),
        _ => {}
    }
    let one_line = text.split_whitespace().collect::<Vec<_>>().join(" ");
    match one_line.char_indices().nth(MOST) {
        None => one_line,
        Some((end, _)) => format!("{}…", &one_line[..end]),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn changed(first: &str, second: &str) -> Vec<String> {
        changed_values(first, second).iter().map(ToString::to_string).collect()
    }

    #[test]
    fn values_are_named_by_the_paths_at_which_they_can_be_set() {
        let first = "[attack.maul]\nstartup = \"0.4s\" # slow\ndamage = { crush = [12, 16] }\nreach = 1.50\nmeets = [\"body\"]\n";
        let second = first
            .replace("0.4s", "0.3s")
            .replace("16]", "18]")
            .replace("1.50", "1.5")
            .replace("[\"body\"]", "[\"body\", \"stone\"]\nmax-targets = 2");
        let found = changed_values(first, &second);
        assert_eq!(
            changed(first, &second),
            [
                "attack.maul.damage.crush.1 16 → 18",
                "attack.maul.max-targets not there → 2",
                "attack.maul.meets [\"body\"] → [\"body\", \"stone\"]",
                "attack.maul.startup \"0.4s\" → \"0.3s\"",
            ]
        );
        // The path of a number is one at which it can be set: from the one file comes the other.
        let number = crate::Decimal::parse("18").unwrap();
        let set = crate::with_value(first, &found[0].path, number).unwrap();
        assert_eq!(changed(&set, &second).len(), 3);
        assert_eq!(changed(first, first), [""; 0]);
        assert_eq!(changed("a = 1\nb = 0x10\n", "# said\nb = 16\na=1"), [""; 0]);
    }

    #[test]
    fn what_only_one_has_is_one_value() {
        let first = "[attack.maul]\nstartup = 1\n[[script]]\nat = \"1s\"\n";
        let second = "[attack.maul]\nstartup = 1\n[attack.wedge]\nstartup = 1\n[[script]]\nat = \"1s\"\n[[script]]\nat = \"2s\"\n";
        assert_eq!(
            changed(first, second),
            ["attack.wedge not there → a table", "script.1 not there → a table"]
        );
        assert_eq!(changed("broken = ", second), [""; 0]);
    }
}
