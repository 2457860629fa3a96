//! Files in which one value is another: what surveys are made of.

use std::fmt;

use toml::Spanned;
use toml::de::{DeTable, DeValue};

/// Why a value cannot be varied.
#[derive(Clone, PartialEq, Eq, Debug, thiserror::Error)]
pub enum CannotVary {
    /// Nothing stands at the path.
    #[error("there is no `{key}` in {}{}", place_of(.within), meant(.nearest))]
    NotThere {
        /// The part of the path that leads nowhere.
        key: String,
        /// The path as far as it led.
        within: String,
        /// What is like it there.
        nearest: Option<String>,
    },
    /// What stands there is no number, nor a time.
    #[error("`{path}` is {found}, and no number")]
    NoNumber {
        /// The path.
        path: String,
        /// What stands there.
        found: &'static str,
    },
    /// What stands there is a whole number, and the other is none.
    #[error("`{path}` takes whole numbers, and {value} is none")]
    NotWhole {
        /// The path.
        path: String,
        /// What was to stand there.
        value: Decimal,
    },
    /// What was to stand there is no value.
    #[error("`{value}` is no value for `{path}`; write it as it would stand in the file")]
    NoValue {
        /// The path.
        path: String,
        /// What was to stand there.
        value: String,
    },
    /// The text is no TOML.
    #[error("it cannot be read: {0}")]
    Unreadable(String),
}

fn place_of(path: &str) -> String {
    if path.is_empty() { "the files".to_owned() } else { format!("`{path}`") }
}

fn meant(nearest: &Option<String>) -> String {
    nearest.as_ref().map_or(String::new(), |nearest| format!("; did you mean `{nearest}`?"))
}

/// A number with up to four decimals, in ten-thousandths: counted, so that steps do not drift.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub struct Decimal(pub i64);

impl Decimal {
    const ONE: i64 = 10_000;

    /// A number as it is written, such as `0.25`; nothing for what is none, or has more than four decimals.
    pub fn parse(text: &str) -> Option<Decimal> {
        let (negative, digits) = match text.strip_prefix('-') {
            Some(digits) => (true, digits),
            None => (false, text),
        };
        let (whole, part) = digits.split_once('.').unwrap_or((digits, ""));
        let plain = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
        if whole.is_empty() || part.len() > 4 || !plain(whole) || !plain(part) {
            return None;
        }
        let part: i64 = format!("{part:0<4}").parse().ok()?;
        let value = whole.parse::<i64>().ok()?.checked_mul(Self::ONE)?.checked_add(part)?;
        Some(Decimal(if negative { -value } else { value }))
    }

    /// The number.
    pub fn value(self) -> f64 {
        self.0 as f64 / Self::ONE as f64
    }
}

impl fmt::Display for Decimal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let (sign, size) = (if self.0 < 0 { "-" } else { "" }, self.0.unsigned_abs());
        let (whole, part) = (size / Self::ONE as u64, size % Self::ONE as u64);
        match part {
            0 => write!(f, "{sign}{whole}"),
            part => write!(f, "{sign}{whole}.{}", format!("{part:04}").trim_end_matches('0')),
        }
    }
}

/// A path with the values that stand there in turn.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Varied {
    /// The path: keys of the scenario or of its ruleset, with dots between.
    pub path: String,
    /// As they would be written; a number alone keeps the unit of what stands there.
    pub values: Vec<String>,
}

impl Varied {
    /// How many values one path may have.
    const MOST: i128 = 1000;

    /// Values as they are written: `8..16/2` for every second number, or a list with commas between.
    ///
    /// *Errors:* why it is none, in words; empty where it is of neither form.
    pub fn parse(path: &str, text: &str) -> Result<Varied, String> {
        if !text.contains("..") {
            return Varied::listed(path, listed(text));
        }
        let neither = String::new;
        let (range, step) = text.split_once('/').ok_or_else(neither)?;
        let (from, to) = range.split_once("..").ok_or_else(neither)?;
        let number = |text: &str| {
            Decimal::parse(text.trim())
                .ok_or_else(|| format!("`{text}` is no number with at most four decimals"))
        };
        let (from, to, step) = (number(from)?, number(to)?, number(step)?);
        if step.0 <= 0 || to < from {
            return Err("the step must be above 0, and the last value no less than the first".to_owned());
        }
        // The span of two numbers may be more than one of them can hold.
        let count = (i128::from(to.0) - i128::from(from.0)) / i128::from(step.0) + 1;
        if count > Varied::MOST {
            return Err(format!("these are {count} values; {} at most", Varied::MOST));
        }
        let values = (0..count as i64).map(|place| Decimal(from.0 + place * step.0).to_string()).collect();
        Ok(Varied { path: path.to_owned(), values })
    }

    /// These values.
    ///
    /// *Errors:* there are none, too many, or an empty one.
    pub fn listed(path: &str, values: Vec<String>) -> Result<Varied, String> {
        if values.len() > Varied::MOST as usize {
            return Err(format!("these are {} values; {} at most", values.len(), Varied::MOST));
        }
        if values.is_empty() || values.iter().any(String::is_empty) {
            return Err(String::new());
        }
        Ok(Varied { path: path.to_owned(), values })
    }
}

/// The entries of a list, at commas that stand in no quotation marks and no brackets.
fn listed(text: &str) -> Vec<String> {
    let (mut all, mut depth, mut quoted) = (vec![String::new()], 0i32, false);
    for letter in text.chars() {
        match letter {
            '"' => quoted = !quoted,
            '[' | '{' if !quoted => depth += 1,
            ']' | '}' if !quoted => depth -= 1,
            ',' if !quoted && depth == 0 => {
                all.push(String::new());
                continue;
            }
            _ => {}
        }
        if let Some(last) = all.last_mut() {
            last.push(letter);
        }
    }
    all.into_iter().map(|value| value.trim().to_owned()).collect()
}

/// The first key of a path, if the text has it.
pub fn has_key(text: &str, path: &str) -> bool {
    let first = path.split('.').next().unwrap_or_default();
    DeTable::parse(text).is_ok_and(|table| table.get_ref().contains_key(first))
}

/// Whether a table of the text has a key.
pub(super) fn table_has(text: &str, table: &str, key: &str) -> bool {
    let of = |value: &Spanned<DeValue<'_>>| matches!(value.get_ref(), DeValue::Table(table) if table.contains_key(key));
    DeTable::parse(text).is_ok_and(|all| all.get_ref().get(table).is_some_and(of))
}

/// What stands at a path of a text.
fn at_path<'v>(root: &'v Spanned<DeValue<'v>>, path: &str) -> Result<&'v Spanned<DeValue<'v>>, CannotVary> {
    let (mut at, mut left) = (root, path);
    while !left.is_empty() {
        let (next, rest) = below(at.get_ref(), left).map_err(|nearest| CannotVary::NotThere {
            key: left.split('.').next().unwrap_or_default().to_owned(),
            within: path[..path.len() - left.len()].trim_end_matches('.').to_owned(),
            nearest,
        })?;
        (at, left) = (next, rest);
    }
    Ok(at)
}

/// The text as one value.
fn rooted(text: &str) -> Result<Spanned<DeValue<'_>>, CannotVary> {
    let table = DeTable::parse(text).map_err(|error| CannotVary::Unreadable(error.message().to_owned()))?;
    Ok(Spanned::new(table.span(), DeValue::Table(table.into_inner())))
}

/// What stands at a path of a text, as it is written there.
pub fn literal_at<'t>(text: &'t str, path: &str) -> Result<&'t str, CannotVary> {
    let root = rooted(text)?;
    let span = at_path(&root, path)?.span();
    Ok(text.get(span).unwrap_or_default())
}

/// The paths of all values of a text that are no tables and no lists, in the order of their names; none of a text that cannot be read.
pub fn value_paths(text: &str) -> Vec<String> {
    fn below(value: &DeValue<'_>, path: &str, paths: &mut Vec<String>) {
        let with = |key: &str| if path.is_empty() { key.to_owned() } else { format!("{path}.{key}") };
        match value {
            DeValue::Table(table) => {
                table.iter().for_each(|(key, value)| below(value.get_ref(), &with(key.get_ref()), paths));
            }
            DeValue::Array(all) => {
                let numbered = all.iter().enumerate();
                numbered.for_each(|(place, value)| below(value.get_ref(), &with(&place.to_string()), paths));
            }
            _ => paths.push(path.to_owned()),
        }
    }
    let mut paths = Vec::new();
    if let Ok(root) = rooted(text) {
        below(root.get_ref(), "", &mut paths);
    }
    paths
}

/// The text with another value at a path, as it would be written there. Where a text stands, quotation marks may be left out.
///
/// *Errors:* nothing there, a table there, or no value that could be written.
pub fn with_literal(text: &str, path: &str, literal: &str) -> Result<String, CannotVary> {
    let root = rooted(text)?;
    let at = at_path(&root, path)?;
    let is_text = matches!(at.get_ref(), DeValue::String(_));
    let span = at.span();
    if matches!(at.get_ref(), DeValue::Table(_)) && !text[span.clone()].starts_with('{') {
        let found = "a table: go on with one of its keys";
        return Err(CannotVary::NoNumber { path: path.to_owned(), found });
    }
    let quoted = literal.starts_with(['"', '\'', '[', '{']);
    let literal = if is_text && !quoted { format!("{literal:?}") } else { literal.to_owned() };
    // What is no value by itself would change what stands around it.
    if DeTable::parse(&format!("value = {literal}")).map_or(true, |table| table.get_ref().len() != 1) {
        return Err(CannotVary::NoValue { path: path.to_owned(), value: literal });
    }
    Ok(format!("{}{literal}{}", &text[..span.start], &text[span.end..]))
}

/// The text with another number at a path, such as `attack.maul-sweep.damage.crush.0`: keys of tables, and places in lists from 0. A
/// number stays a number, a time such as `"0.4s"` a time in its unit.
///
/// *Errors:* nothing there, no number there, or not a whole one where it must be.
pub fn with_value(text: &str, path: &str, value: Decimal) -> Result<String, CannotVary> {
    let root = rooted(text)?;
    let at = at_path(&root, path)?;
    let whole = value.0 % Decimal::ONE == 0;
    let literal = match at.get_ref() {
        DeValue::Integer(_) if !whole => {
            return Err(CannotVary::NotWhole { path: path.to_owned(), value });
        }
        DeValue::Integer(_) => value.to_string(),
        DeValue::Float(_) if whole => format!("{value}.0"),
        DeValue::Float(_) => value.to_string(),
        DeValue::String(text) => {
            let unit =
                text.trim_start_matches(|letter: char| letter.is_ascii_digit() || "+-.".contains(letter));
            if unit.len() == text.len() || !["s", "ms", "ticks", "tick"].contains(&unit.trim()) {
                return Err(CannotVary::NoNumber { path: path.to_owned(), found: "a text" });
            }
            format!("\"{value}{unit}\"")
        }
        other => {
            let found = match other {
                DeValue::Array(_) => "a list: go on with the place of an entry, from 0",
                DeValue::Table(_) => "a table: go on with one of its keys",
                DeValue::Boolean(_) => "yes or no",
                _ => "something else",
            };
            return Err(CannotVary::NoNumber { path: path.to_owned(), found });
        }
    };
    let span = at.span();
    Ok(format!("{}{literal}{}", &text[..span.start], &text[span.end..]))
}

/// What a path leads to in a value, and the rest of the path; or what is most like its first key there. Keys of tables may have dots:
/// the longest that fits counts.
fn below<'v, 'p>(
    value: &'v DeValue<'_>,
    path: &'p str,
) -> Result<(&'v Spanned<DeValue<'v>>, &'p str), Option<String>> {
    let first = path.split('.').next().unwrap_or_default();
    let rest_after = |end: usize| path[end..].strip_prefix('.').unwrap_or_default();
    match value {
        DeValue::Table(table) => {
            let ends = path.match_indices('.').map(|(end, _)| end).chain([path.len()]);
            let longest =
                ends.filter_map(|end| Some((table.get(&path[..end])?, rest_after(end)))).next_back();
            longest.ok_or_else(|| nearest(table, first))
        }
        DeValue::Array(list) => {
            let entry = first.parse::<usize>().ok().and_then(|place| list.get(place));
            entry
                .map(|entry| (entry, rest_after(first.len())))
                .ok_or_else(|| (!list.is_empty()).then(|| format!("0 to {}", list.len() - 1)))
        }
        _ => Err(None),
    }
}

/// The key of a table that is most like one, if any is like it.
fn nearest(table: &DeTable<'_>, key: &str) -> Option<String> {
    let near = table.keys().map(|known| {
        let known: &str = known.get_ref();
        (strsim::damerau_levenshtein(key, known), known.to_owned())
    });
    near.min().filter(|(distance, _)| *distance <= 1 + key.chars().count() / 3).map(|(_, known)| known)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn any_value_is_set_as_it_would_be_written() {
        let text = "[attack.maul]\nstartup = \"0.4s\" # slow\nmeets = [\"body\"]\nposed = true\n[attack.maul.damage]\ncrush = 5\n";
        let with = |path: &str, value: &str| with_literal(text, path, value);
        assert_eq!(with("attack.maul.startup", "0.2s").unwrap(), text.replace("0.4s", "0.2s"));
        assert_eq!(with("attack.maul.startup", "\"0.2s\"").unwrap(), text.replace("0.4s", "0.2s"));
        assert_eq!(with("attack.maul.meets", "[\"stone\"]").unwrap(), text.replace("body", "stone"));
        assert_eq!(with("attack.maul.posed", "false").unwrap(), text.replace("true", "false"));
        assert_eq!(with("attack.maul.damage.crush", "[1, 2]").unwrap(), text.replace("= 5", "= [1, 2]"));
        for (path, value, said) in [
            ("attack.maul.damage", "5", "is a table"),
            ("attack.maul.damage.crush", "5\nheat = 7", "is no value"),
            ("attack.maul.damage.crush", "five", "is no value"),
            ("attack.maul.damage.crash", "5", "did you mean `crush`?"),
        ] {
            let error = with(path, value).unwrap_err().to_string();
            assert!(error.contains(said), "{error}");
        }
    }

    #[test]
    fn a_value_is_replaced_where_it_stands_and_nothing_else_is() {
        let text = "[attack.maul]\nstartup = \"0.4s\" # slow\ndamage = { crush = [12, 16] }\nreach = 1.5\nname = \"maul\"\n[topic.\"host.bells\"]\nrung = 1\n";
        let with = |path: &str, value: &str| with_value(text, path, Decimal::parse(value).unwrap());
        assert_eq!(with("attack.maul.startup", "0.25").unwrap(), text.replace("\"0.4s\"", "\"0.25s\""));
        assert_eq!(with("attack.maul.damage.crush.1", "20").unwrap(), text.replace("16]", "20]"));
        assert_eq!(with("attack.maul.reach", "2").unwrap(), text.replace("1.5", "2.0"));
        assert_eq!(with("topic.host.bells.rung", "3").unwrap(), text.replace("rung = 1", "rung = 3"));
        for (path, value, said) in [
            ("topic.host.bell.rung", "3", "there is no `host` in `topic`"),
            ("attack.mall.reach", "1", "there is no `mall` in `attack`; did you mean `maul`?"),
            ("attack.maul.damage.crush.7", "1", "did you mean `0 to 1`?"),
            ("attack.maul.damage.crush", "1", "is a list"),
            ("attack.maul.name", "1", "is a text, and no number"),
            ("attack.maul.damage.crush.0", "1.5", "takes whole numbers, and 1.5 is none"),
        ] {
            let error = with(path, value).unwrap_err().to_string();
            assert!(error.contains(said), "{error}");
        }
        for (text, number) in
            [("0.25", Some(2500)), ("-3", Some(-30000)), ("1.23456", None), ("x", None), ("", None)]
        {
            assert_eq!(Decimal::parse(text).map(|number| number.0), number, "{text}");
        }
        assert_eq!(Decimal(-12500).to_string(), "-1.25");
    }
}
