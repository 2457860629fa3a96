//! Writes down the layout of everything that is written as bytes: `docs/formats.md`. Types are asked through serde how they are read, so
//! that the document cannot say anything else than the code.

use std::collections::BTreeMap;
use std::fmt::Write;

use serde::de::value::U32Deserializer;
use serde::de::{self, DeserializeOwned, IntoDeserializer, Visitor};

use crate::columns::Fills;
use crate::hooks::Amendment;
use crate::ids::*;
use crate::level::LevelShape;
use crate::orders::Order;
use crate::ruleset::def::Definitions;
use crate::state::State;

/// How a value is laid out.
#[derive(Clone, PartialEq, Debug)]
enum Format {
    /// Of an empty list that was read: its items were not seen.
    Unknown,
    Plain(&'static str),
    List(Box<Format>),
    Option(Box<Format>),
    Tuple(Vec<Format>),
}

impl Format {
    /// What two readings of one type say together. *Panics:* if they contradict each other.
    fn unify(&mut self, other: Format) {
        match (&mut *self, other) {
            (_, Format::Unknown) => {}
            (Format::Unknown, other) => *self = other,
            (Format::List(own), Format::List(other)) | (Format::Option(own), Format::Option(other)) => {
                own.unify(*other);
            }
            (Format::Tuple(own), Format::Tuple(other)) if own.len() == other.len() => {
                own.iter_mut().zip(other).for_each(|(own, other)| own.unify(other));
            }
            (own, other) => assert_eq!(*own, other, "two types with one name, or one with two layouts"),
        }
    }

    fn is_known(&self) -> bool {
        match self {
            Format::Unknown => false,
            Format::Plain(_) => true,
            Format::List(of) | Format::Option(of) => of.is_known(),
            Format::Tuple(of) => of.iter().all(Format::is_known),
        }
    }
}

impl std::fmt::Display for Format {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Format::Unknown => f.write_str("?"),
            Format::Plain(name) => f.write_str(name),
            Format::List(of) => write!(f, "list of {of}"),
            Format::Option(of) => write!(f, "option of {of}"),
            Format::Tuple(of) => match &of[..] {
                [first, rest @ ..] if !rest.is_empty() && rest.iter().all(|other| other == first) => {
                    write!(f, "{} of {first}", of.len())
                }
                _ => {
                    let parts: Vec<_> = of.iter().map(Format::to_string).collect();
                    write!(f, "({})", parts.join(", "))
                }
            },
        }
    }
}

/// A type with a name.
#[derive(Clone, PartialEq, Debug)]
enum Named {
    Same(Format),
    Struct(Vec<(&'static str, Format)>),
    Enum { variants: &'static [&'static str], formats: Vec<Option<Named>>, next: usize },
}

impl Named {
    fn unify(&mut self, other: Named) {
        match (self, other) {
            (Named::Same(own), Named::Same(other)) => own.unify(other),
            (Named::Struct(own), Named::Struct(other)) => {
                assert_eq!(own.len(), other.len(), "two structs with one name");
                for ((name, own), (other_name, other)) in own.iter_mut().zip(other) {
                    assert_eq!(*name, other_name, "two structs with one name");
                    own.unify(other);
                }
            }
            (own, other) => assert_eq!(*own, other, "two types with one name"),
        }
    }

    fn is_known(&self) -> bool {
        match self {
            Named::Same(format) => format.is_known(),
            Named::Struct(fields) => fields.iter().all(|(_, format)| format.is_known()),
            Named::Enum { formats, .. } => {
                formats.iter().flatten().filter(|of| of.is_known()).count() == formats.len()
            }
        }
    }
}

/// All types that were seen, by their names.
#[derive(Default)]
struct Types {
    known: BTreeMap<&'static str, Named>,
    /// The enums that are being read, from the outside in.
    within: Vec<&'static str>,
    depth: usize,
}

impl Types {
    fn learn(&mut self, name: &'static str, named: Named) {
        match self.known.get_mut(name) {
            Some(known) => known.unify(named),
            None => _ = self.known.insert(name, named),
        }
    }

    /// Reads a type again and again, until all variants of all enums in it were seen.
    fn trace<T: DeserializeOwned>(&mut self) -> Format {
        let mut format = Format::Unknown;
        for _ in 0..20_000 {
            let mut found = Format::Unknown;
            T::deserialize(Trace { types: self, format: &mut found }).expect("plain data");
            format.unify(found);
            if format.is_known() && self.known.values().all(Named::is_known) {
                return format;
            }
        }
        let open = self.known.iter().filter(|(_, named)| !named.is_known());
        panic!("not all of it was seen: {:?}", open.collect::<Vec<_>>());
    }
}

/// Reads made-up values of a type, and notes what it asked for.
struct Trace<'a> {
    types: &'a mut Types,
    format: &'a mut Format,
}

/// So deep in each other, lists are empty and options are none.
const DEEP: usize = 24;

/// Structs of any items: written down as their fields, for the name does not say which items.
const GENERIC: [&str; 3] = ["Chains", "Lists", "Reserved"];

impl Trace<'_> {
    fn inner<'b>(types: &'b mut Types, format: &'b mut Format) -> Trace<'b> {
        Trace { types, format }
    }

    /// Reads so many values one after the other, and gives what each was.
    fn parts<'de, V: Visitor<'de>>(
        types: &mut Types,
        count: usize,
        visitor: V,
    ) -> Result<(V::Value, Vec<Format>), de::value::Error> {
        let mut formats = Vec::new();
        types.depth += 1;
        let value = visitor.visit_seq(Parts { types, formats: &mut formats, left: count })?;
        types.depth -= 1;
        assert_eq!(formats.len(), count);
        Ok((value, formats))
    }
}

struct Parts<'a> {
    types: &'a mut Types,
    formats: &'a mut Vec<Format>,
    left: usize,
}

impl<'de> de::SeqAccess<'de> for Parts<'_> {
    type Error = de::value::Error;

    fn next_element_seed<T: de::DeserializeSeed<'de>>(
        &mut self,
        seed: T,
    ) -> Result<Option<T::Value>, Self::Error> {
        if self.left == 0 {
            return Ok(None);
        }
        self.left -= 1;
        let mut format = Format::Unknown;
        let value = seed.deserialize(Trace::inner(self.types, &mut format))?;
        self.formats.push(format);
        Ok(Some(value))
    }
}

macro_rules! plain {
    ($($method:ident $visit:ident($value:expr) $name:literal),*) => {$(
        fn $method<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Self::Error> {
            self.format.unify(Format::Plain($name));
            visitor.$visit($value)
        }
    )*};
}

impl<'de> de::Deserializer<'de> for Trace<'_> {
    type Error = de::value::Error;

    plain!(
        deserialize_bool visit_bool(true) "bool",
        deserialize_i8 visit_i8(1) "i8",
        deserialize_i16 visit_i16(1) "i16",
        deserialize_i32 visit_i32(1) "i32",
        deserialize_i64 visit_i64(1) "i64",
        deserialize_i128 visit_i128(1) "i128",
        deserialize_u8 visit_u8(1) "u8",
        deserialize_u16 visit_u16(1) "u16",
        deserialize_u32 visit_u32(1) "u32",
        deserialize_u64 visit_u64(1) "u64",
        deserialize_u128 visit_u128(1) "u128",
        deserialize_f32 visit_f32(1.0) "f32",
        deserialize_f64 visit_f64(1.0) "f64",
        deserialize_char visit_char('a') "char",
        deserialize_str visit_str("") "text",
        deserialize_string visit_str("") "text",
        deserialize_bytes visit_bytes(&[]) "bytes",
        deserialize_byte_buf visit_bytes(&[]) "bytes"
    );

    fn deserialize_any<V: Visitor<'de>>(self, _: V) -> Result<V::Value, Self::Error> {
        panic!("a layout must not depend on the data")
    }

    fn deserialize_ignored_any<V: Visitor<'de>>(self, _: V) -> Result<V::Value, Self::Error> {
        panic!("a layout must not depend on the data")
    }

    fn deserialize_identifier<V: Visitor<'de>>(self, _: V) -> Result<V::Value, Self::Error> {
        panic!("fields have no names in the data")
    }

    fn deserialize_map<V: Visitor<'de>>(self, _: V) -> Result<V::Value, Self::Error> {
        panic!("there are no maps in the data")
    }

    fn deserialize_option<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Self::Error> {
        let mut of = Format::Unknown;
        let value = if self.types.depth < DEEP {
            visitor.visit_some(Trace::inner(self.types, &mut of))
        } else {
            visitor.visit_none()
        };
        self.format.unify(Format::Option(Box::new(of)));
        value
    }

    fn deserialize_unit<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Self::Error> {
        self.format.unify(Format::Tuple(Vec::new()));
        visitor.visit_unit()
    }

    fn deserialize_unit_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        visitor: V,
    ) -> Result<V::Value, Self::Error> {
        self.deserialize_unit(visitor)
    }

    fn deserialize_newtype_struct<V: Visitor<'de>>(
        self,
        name: &'static str,
        visitor: V,
    ) -> Result<V::Value, Self::Error> {
        let mut of = Format::Unknown;
        let value = visitor.visit_newtype_struct(Trace::inner(self.types, &mut of))?;
        if GENERIC.contains(&name) {
            self.format.unify(of);
        } else {
            self.types.learn(name, Named::Same(of));
            self.format.unify(Format::Plain(name));
        }
        Ok(value)
    }

    fn deserialize_seq<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Self::Error> {
        let count = usize::from(self.types.depth < DEEP);
        let (value, mut formats) = Trace::parts(self.types, count, visitor)?;
        self.format.unify(Format::List(Box::new(formats.pop().unwrap_or(Format::Unknown))));
        Ok(value)
    }

    fn deserialize_tuple<V: Visitor<'de>>(self, count: usize, visitor: V) -> Result<V::Value, Self::Error> {
        let (value, formats) = Trace::parts(self.types, count, visitor)?;
        self.format.unify(Format::Tuple(formats));
        Ok(value)
    }

    fn deserialize_tuple_struct<V: Visitor<'de>>(
        self,
        name: &'static str,
        count: usize,
        visitor: V,
    ) -> Result<V::Value, Self::Error> {
        let (value, formats) = Trace::parts(self.types, count, visitor)?;
        self.types.learn(name, Named::Same(Format::Tuple(formats)));
        self.format.unify(Format::Plain(name));
        Ok(value)
    }

    fn deserialize_struct<V: Visitor<'de>>(
        self,
        name: &'static str,
        fields: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Self::Error> {
        let (value, formats) = Trace::parts(self.types, fields.len(), visitor)?;
        if GENERIC.contains(&name) {
            self.format.unify(Format::Tuple(formats));
        } else {
            self.types.learn(name, Named::Struct(fields.iter().copied().zip(formats).collect()));
            self.format.unify(Format::Plain(name));
        }
        Ok(value)
    }

    fn deserialize_enum<V: Visitor<'de>>(
        self,
        name: &'static str,
        variants: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Self::Error> {
        let formats = vec![None; variants.len()];
        let known = self.types.known.entry(name).or_insert(Named::Enum { variants, formats, next: 0 });
        let Named::Enum { variants: before, next, .. } = known else { panic!("two types are called {name}") };
        assert_eq!(*before, variants, "two enums are called {name}");
        // Within itself, the first variant with no items: there it must come to an end.
        let recurs = self.types.within.contains(&name);
        let variant = if recurs { 0 } else { *next };
        if !recurs {
            *next = (variant + 1) % variants.len();
        }
        let depth = self.types.depth;
        if recurs {
            self.types.depth = DEEP;
        }
        self.types.within.push(name);
        let mut found = None;
        let value = visitor.visit_enum(TraceVariant { types: self.types, variant, found: &mut found })?;
        self.types.within.pop();
        self.types.depth = depth;
        let found = found.expect("a variant was read");
        if let Some(Named::Enum { formats, .. }) = self.types.known.get_mut(name) {
            match &mut formats[variant] {
                Some(known) => known.unify(found),
                unknown => *unknown = Some(found),
            }
        }
        self.format.unify(Format::Plain(name));
        Ok(value)
    }

    fn is_human_readable(&self) -> bool {
        false
    }
}

/// Reads one variant of an enum.
struct TraceVariant<'a> {
    types: &'a mut Types,
    variant: usize,
    found: &'a mut Option<Named>,
}

impl<'de> de::EnumAccess<'de> for TraceVariant<'_> {
    type Error = de::value::Error;
    type Variant = Self;

    fn variant_seed<V: de::DeserializeSeed<'de>>(self, seed: V) -> Result<(V::Value, Self), Self::Error> {
        let number: U32Deserializer<Self::Error> = (self.variant as u32).into_deserializer();
        Ok((seed.deserialize(number)?, self))
    }
}

impl<'de> de::VariantAccess<'de> for TraceVariant<'_> {
    type Error = de::value::Error;

    fn unit_variant(self) -> Result<(), Self::Error> {
        *self.found = Some(Named::Struct(Vec::new()));
        Ok(())
    }

    fn newtype_variant_seed<T: de::DeserializeSeed<'de>>(self, seed: T) -> Result<T::Value, Self::Error> {
        let mut format = Format::Unknown;
        let value = seed.deserialize(Trace::inner(self.types, &mut format))?;
        *self.found = Some(Named::Same(format));
        Ok(value)
    }

    fn tuple_variant<V: Visitor<'de>>(self, count: usize, visitor: V) -> Result<V::Value, Self::Error> {
        let (value, formats) = Trace::parts(self.types, count, visitor)?;
        *self.found = Some(Named::Same(Format::Tuple(formats)));
        Ok(value)
    }

    fn struct_variant<V: Visitor<'de>>(
        self,
        fields: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Self::Error> {
        let (value, formats) = Trace::parts(self.types, fields.len(), visitor)?;
        *self.found = Some(Named::Struct(fields.iter().copied().zip(formats).collect()));
        Ok(value)
    }
}

/// The sections of a save in the order of writing, and the types of what is in them.
#[derive(Default)]
pub(crate) struct LayoutSheet {
    types: Types,
    prefix: Vec<String>,
    sections: Vec<(String, Format)>,
}

impl LayoutSheet {
    pub(crate) fn within(&mut self, name: &str, write: impl FnOnce(&mut Self)) {
        self.prefix.push(name.to_owned());
        write(self);
        self.prefix.pop();
    }

    pub(crate) fn section<T: DeserializeOwned>(&mut self, name: &str) {
        let format = self.types.trace::<T>();
        let mut path = self.prefix.clone();
        path.push(name.to_owned());
        self.sections.push((path.join("."), format));
    }
}

/// Where the document stands.
const DOCUMENT: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/formats.md");

/// What follows from here on is written by the test.
const WRITTEN: &str = "<!-- From here on written by a test; HAMMERSTONE_WRITE=1 writes it anew. -->\n";

/// The document is what the code does.
#[test]
fn the_document_of_the_layouts_is_current() {
    let mut sheet = LayoutSheet::default();
    State::lay_out("state", &mut sheet);
    let roots = [
        ("ruleset", sheet.types.trace::<Definitions>()),
        ("level", sheet.types.trace::<Vec<LevelShape>>()),
        ("order", sheet.types.trace::<Order>()),
        ("order taken back", sheet.types.trace::<OrderId>()),
        ("reason", sheet.types.trace::<ReasonId>()),
        ("amendments and costs", sheet.types.trace::<(Vec<Amendment>, Vec<(HookId, Order)>)>()),
        ("points that are left", sheet.types.trace::<i64>()),
        ("amount", sheet.types.trace::<crate::Fixed>()),
        ("combatant", sheet.types.trace::<CombatantId>()),
        ("obstacle", sheet.types.trace::<ObstacleId>()),
    ];
    let mut text = String::from("\n## Sections of a save\n\n```text\n");
    sheet.sections.iter().for_each(|(name, format)| writeln!(text, "{name}: {format}").unwrap());
    text.push_str("```\n\n## Plain data\n\n```text\n");
    roots.iter().for_each(|(name, format)| writeln!(text, "{name}: {format}").unwrap());
    text.push_str("```\n\n## Types\n\n```text\n");
    for (name, named) in &sheet.types.known {
        match named {
            Named::Same(format) => writeln!(text, "{name} = {format}").unwrap(),
            Named::Struct(fields) => {
                writeln!(text, "{name}").unwrap();
                fields.iter().for_each(|(field, format)| writeln!(text, "    {field}: {format}").unwrap());
            }
            Named::Enum { variants, formats, .. } => {
                writeln!(text, "{name}, one of").unwrap();
                for (number, (variant, format)) in variants.iter().zip(formats).enumerate() {
                    write!(text, "    {number} {variant}").unwrap();
                    match format.as_ref().expect("all were seen") {
                        Named::Same(format) => writeln!(text, " = {format}").unwrap(),
                        Named::Struct(fields) => {
                            text.push('\n');
                            fields.iter().for_each(|(field, format)| {
                                writeln!(text, "        {field}: {format}").unwrap();
                            });
                        }
                        Named::Enum { .. } => unreachable!("a variant is no enum"),
                    }
                }
            }
        }
    }
    text.push_str("```\n");
    let document = std::fs::read_to_string(DOCUMENT).expect("docs/formats.md");
    let (intro, written) = document.split_once(WRITTEN).expect("the line after which it is written");
    if std::env::var_os("HAMMERSTONE_WRITE").is_some() {
        std::fs::write(DOCUMENT, format!("{intro}{WRITTEN}{text}")).expect("docs/formats.md");
    } else {
        assert!(written == text, "docs/formats.md is not current; HAMMERSTONE_WRITE=1 writes it anew");
    }
}
