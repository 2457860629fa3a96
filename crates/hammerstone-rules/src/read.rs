//! From the parser's values to the forms of a file, by hand: everything that is wrong with a form is told at once, at its place.
//!
//! A form is declared by `tables!`. A trait of our own stands here in place of a framework for any format: there is one
//! format, and one reader of each form is compiled.

use std::fmt;
use std::ops::Range;

use toml::Spanned;
use toml::de::{DeArray, DeInteger, DeTable, DeValue};

use crate::problem::Reading;
use crate::raw::Named;

/// A value of a file at its place.
pub type Node<'v> = Spanned<DeValue<'v>>;

/// What can be read from a value.
pub trait Read: Sized {
    /// What the value holds; none if something is wrong with it, which is noted.
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self>;

    /// What stands for a field that is left out; none if it may not be.
    fn absent() -> Option<Self> {
        None
    }
}

/// A form of tables, for the page that lists all fields.
pub trait Form {
    /// The name of its type.
    const NAME: &'static str;

    /// Its fields, in their order.
    fn fields() -> Vec<Field>;
}

/// What is told of a field of a form.
#[derive(Clone, Copy, Debug)]
pub struct Field {
    pub name: &'static str,
    /// Its type, as it is declared.
    pub written: &'static str,
    /// What it is, with its unit, and what is refused.
    pub text: &'static str,
    pub required: bool,
}

/// A table whose fields are read one by one.
pub struct Fields<'a, 'v> {
    table: &'a DeTable<'v>,
    span: Range<usize>,
    names: &'static [&'static str],
}

impl<'a, 'v> Fields<'a, 'v> {
    /// The fields of a table. Those that are not among the names are noted.
    pub fn of(
        value: &'a Node<'v>,
        names: &'static [&'static str],
        reading: &mut Reading<'_>,
    ) -> Option<Fields<'a, 'v>> {
        let Some(table) = value.get_ref().as_table() else { return reading.mistaken(value, "a table") };
        for key in table.keys().filter(|key| !names.contains(&key.get_ref().as_ref())) {
            reading.unknown_field(key.get_ref(), key.span(), names);
        }
        Some(Fields { table, span: value.span(), names })
    }

    /// The field of that number.
    #[inline(never)]
    pub fn get<T: Read>(&self, number: usize, reading: &mut Reading<'_>) -> Option<T> {
        match self.given(number) {
            Some(value) => T::read(value, reading),
            None => T::absent().or_else(|| self.missing(number, reading)),
        }
    }

    /// As [`get`](Self::get), for a field that may not be left out, although others of its type may.
    pub fn required<T: Read>(&self, number: usize, reading: &mut Reading<'_>) -> Option<T> {
        match self.given(number) {
            Some(value) => T::read(value, reading),
            None => self.missing(number, reading),
        }
    }

    /// As [`get`](Self::get), for a field that may be left out, although others of its type may not.
    pub fn or_default<T: Read + Default>(&self, number: usize, reading: &mut Reading<'_>) -> Option<T> {
        match self.given(number) {
            Some(value) => T::read(value, reading),
            None => Some(T::default()),
        }
    }

    fn given(&self, number: usize) -> Option<&'a Node<'v>> {
        self.table.get(self.names[number])
    }

    fn missing<T>(&self, number: usize, reading: &mut Reading<'_>) -> Option<T> {
        let message = format!("the field `{}` is missing", self.names[number]);
        let has = |name: &str| self.names.contains(&name);
        let fix = match self.names[number] {
            "rules" if has("include") => Some(
                "begin with `[rules]` and `rate = 60`; a file that another includes is read by way of that one",
            ),
            "scenario" if has("combatant") => {
                Some("begin with `[scenario]`, and say its `title`, `rules` (the ruleset's file) and `lasts`")
            }
            _ => None,
        };
        reading.problem(self.span.clone(), "in this table", message, fix.map(str::to_owned));
        None
    }
}

/// A field's name in a file, where words are joined with hyphens.
pub const fn hyphenated<const LENGTH: usize>(field: &str) -> [u8; LENGTH] {
    let (field, mut name, mut at) = (field.as_bytes(), [0; LENGTH], 0);
    while at < LENGTH {
        name[at] = if field[at] == b'_' { b'-' } else { field[at] };
        at += 1;
    }
    name
}

impl Reading<'_> {
    /// A value is not what was expected.
    pub fn mistaken<T>(&mut self, value: &Node<'_>, expected: &str) -> Option<T> {
        let found = match value.get_ref() {
            DeValue::String(text) => format!("the text {text:?}"),
            DeValue::Integer(number) => format!("the number {number}"),
            DeValue::Float(number) => format!("the number {number}"),
            DeValue::Boolean(truth) => format!("`{truth}`"),
            DeValue::Datetime(date) => format!("the date {date}"),
            DeValue::Array(list) => format!("a list of {}", list.len()),
            DeValue::Table(_) => "a table".to_owned(),
        };
        self.problem(value.span(), "here", format!("expected {expected}, found {found}"), None);
        None
    }

    /// A value is no time.
    pub(crate) fn no_time<T>(&mut self, value: &Node<'_>) -> Option<T> {
        let number = match value.get_ref() {
            DeValue::Integer(number) => number.as_str().to_owned(),
            DeValue::Float(number) => number.as_str().to_owned(),
            _ => return self.mistaken(value, "a time in quotation marks, such as \"0.4s\" or \"24 ticks\""),
        };
        let fix = match number.contains('.') {
            true => format!("write \"{number}s\""),
            false => format!("write \"{number}s\" for seconds, or \"{number} ticks\""),
        };
        let message = format!("expected a time, found the number {number}");
        self.problem(value.span(), "here", message, Some(fix));
        None
    }
}

impl<T: Read> Read for Option<T> {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        T::read(value, reading).map(Some)
    }

    fn absent() -> Option<Self> {
        Some(None)
    }
}

impl<T: Read> Read for Spanned<T> {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        T::read(value, reading).map(|read| Spanned::new(value.span(), read))
    }
}

impl<T: Read> Read for Box<T> {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        T::read(value, reading).map(Box::new)
    }
}

impl<T: Read> Read for Vec<T> {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        list(value.get_ref().as_array(), reading).or_else(|| match value.get_ref() {
            DeValue::Array(_) => None,
            _ => reading.mistaken(value, "a list"),
        })
    }

    fn absent() -> Option<Self> {
        Some(Vec::new())
    }
}

/// All entries of a list. Each is looked at, so that everything that is wrong is noted.
fn list<T: Read>(list: Option<&DeArray<'_>>, reading: &mut Reading<'_>) -> Option<Vec<T>> {
    let list = list?;
    let read: Vec<T> = list.iter().filter_map(|entry| T::read(entry, reading)).collect();
    (read.len() == list.len()).then_some(read)
}

impl<T: Read, const COUNT: usize> Read for [T; COUNT] {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref().as_array().filter(|entries| entries.len() == COUNT) {
            Some(entries) => list(Some(entries), reading)?.try_into().ok(),
            None => reading.mistaken(value, &format!("a list of {COUNT}")),
        }
    }
}

impl Read for String {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::String(text) => Some(text.to_string()),
            _ => reading.mistaken(value, "a text in quotation marks"),
        }
    }
}

impl Read for bool {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Boolean(truth) => Some(*truth),
            _ => reading.mistaken(value, "`true` or `false`"),
        }
    }

    fn absent() -> Option<Self> {
        Some(false)
    }
}

impl Read for f64 {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        let number = match value.get_ref() {
            DeValue::Float(number) => number.as_str().parse().ok(),
            DeValue::Integer(number) => whole(number).map(|number| number as f64),
            _ => None,
        };
        number.or_else(|| reading.mistaken(value, "a number"))
    }
}

fn whole(number: &DeInteger<'_>) -> Option<i128> {
    i128::from_str_radix(number.as_str(), number.radix()).ok()
}

/// Whole numbers, each within its range.
macro_rules! whole_numbers {
    ($($type:ident),*) => {$(
        impl Read for $type {
            fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
                let number = value.get_ref().as_integer().and_then(whole);
                number.and_then(|number| number.try_into().ok()).or_else(|| {
                    let expected = format!("a whole number from {} to {}", $type::MIN, $type::MAX);
                    reading.mistaken(value, if number.is_some() { &expected } else { "a whole number" })
                })
            }
        }
    )*};
}

whole_numbers!(i16, u8, u16, u32, i64, u64);

/// Any value but a date.
#[derive(Clone, Debug)]
pub enum Value {
    Truth(bool),
    Whole(i64),
    Real(f64),
    Text(String),
    List(Vec<Value>),
    Table(Named<Value>),
}

impl Read for Value {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Boolean(truth) => Some(Value::Truth(*truth)),
            DeValue::Integer(_) => Read::read(value, reading).map(Value::Whole),
            DeValue::Float(_) => Read::read(value, reading).map(Value::Real),
            DeValue::String(text) => Some(Value::Text(text.to_string())),
            DeValue::Array(_) => Read::read(value, reading).map(Value::List),
            DeValue::Table(_) => Read::read(value, reading).map(Value::Table),
            DeValue::Datetime(_) => reading.mistaken(value, "a number, a text, a list or a table"),
        }
    }
}

impl Value {
    /// The text, if it is one.
    pub fn as_text(&self) -> Option<&str> {
        match self {
            Value::Text(text) => Some(text),
            _ => None,
        }
    }
}

impl fmt::Display for Value {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Value::Truth(truth) => write!(f, "{truth}"),
            Value::Whole(number) => write!(f, "{number}"),
            Value::Real(number) => write!(f, "{number:?}"),
            Value::Text(text) => f.write_str(text),
            Value::List(values) => {
                let values: Vec<_> = values.iter().map(Value::to_string).collect();
                write!(f, "[{}]", values.join(", "))
            }
            Value::Table(fields) => {
                let fields: Vec<_> =
                    fields.iter().map(|(name, value)| format!("{} = {value}", name.as_ref())).collect();
                write!(f, "{{ {} }}", fields.join(", "))
            }
        }
    }
}
