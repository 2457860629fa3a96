//! The schemas of both sorts of files, held against the files: every shipped one fits, and what the reader refuses for its form does not.

use std::path::Path;

use hammerstone_scenario::{FileSort, RulesFile, schema};
use proptest::prelude::*;
use proptest::sample::Index;
use serde_json::{Value, json};
use testkit::forms::shipped;
use toml::de::{DeTable, DeValue};

/// Whether a value fits a schema, as far as these schemas go; what does not is told.
fn fits(schema: &Value, root: &Value, value: &Value, path: &str) -> Result<(), String> {
    if let Some(to) = schema["$ref"].as_str() {
        fits(&root["$defs"][to.trim_start_matches("#/$defs/")], root, value, path)?;
    }
    if let Some(any) = schema["anyOf"].as_array()
        && !any.iter().any(|one| fits(one, root, value, path).is_ok())
    {
        return Err(format!("{path}: {value} fits none of {any:?}"));
    }
    let right = match schema["type"].as_str() {
        None => true,
        Some("object") => value.is_object(),
        Some("array") => value.is_array(),
        Some("string") => value.is_string(),
        Some("boolean") => value.is_boolean(),
        Some("number") => value.is_number(),
        Some("integer") => value.is_i64() && value.as_i64() >= schema["minimum"].as_i64().or(Some(i64::MIN)),
        Some(other) => return Err(format!("{path}: no such type as {other}")),
    };
    if !right {
        return Err(format!("{path}: {value} is no {}", schema["type"]));
    }
    if let Some(table) = value.as_object() {
        for (key, value) in table {
            let path = format!("{path}.{key}");
            match (schema["properties"].get(key), &schema["additionalProperties"]) {
                (Some(schema), _) => fits(schema, root, value, &path)?,
                (None, Value::Bool(false)) => return Err(format!("{path}: there is no such field")),
                (None, Value::Null) => {}
                (None, schema) => fits(schema, root, value, &path)?,
            }
        }
        for required in schema["required"].as_array().into_iter().flatten().filter_map(Value::as_str) {
            if !table.contains_key(required) {
                return Err(format!("{path}: `{required}` is missing"));
            }
        }
    }
    if let Some(list) = value.as_array() {
        for (place, entry) in list.iter().enumerate() {
            fits(&schema["items"], root, entry, &format!("{path}.{place}"))?;
        }
        let count = list.len() as u64;
        if schema["minItems"].as_u64().is_some_and(|least| count < least)
            || schema["maxItems"].as_u64().is_some_and(|most| count > most)
        {
            return Err(format!("{path}: {count} entries"));
        }
    }
    Ok(())
}

/// A file as the JSON that an editor holds against the schema.
fn as_json(value: &DeValue<'_>) -> Value {
    match value {
        DeValue::String(text) => text.as_ref().into(),
        DeValue::Integer(number) => i64::from_str_radix(number.as_str(), number.radix()).unwrap().into(),
        DeValue::Float(number) => number.as_str().parse::<f64>().unwrap().into(),
        DeValue::Boolean(truth) => (*truth).into(),
        DeValue::Datetime(time) => time.to_string().into(),
        DeValue::Array(list) => list.iter().map(|value| as_json(value.get_ref())).collect(),
        DeValue::Table(table) => Value::Object(
            table.iter().map(|(key, value)| (key.get_ref().to_string(), as_json(value.get_ref()))).collect(),
        ),
    }
}

fn read(text: &str) -> Value {
    as_json(&DeValue::Table(DeTable::parse(text).unwrap().into_inner()))
}

fn is_part(value: &Value) -> bool {
    value.get("rules").is_none()
}

#[test]
fn every_shipped_file_fits_its_schema() {
    let (rules, fights) = (schema(FileSort::Ruleset), schema(FileSort::Scenario));
    let mut held = [0, 0];
    for (name, text) in shipped(".toml") {
        let value = read(&text);
        let is_rules = Path::new(&name).to_string_lossy().ends_with(".rules.toml");
        // What another includes is no whole ruleset.
        if is_rules && is_part(&value) || value.get("case").is_some() {
            continue;
        }
        let schema = if is_rules { &rules } else { &fights };
        if value["scenario"].get("log").is_some() {
            continue;
        }
        fits(schema, schema, &value, "").unwrap_or_else(|why| panic!("{}{why}", name.display()));
        held[usize::from(is_rules)] += 1;
        let other = if is_rules { &fights } else { &rules };
        assert!(fits(other, other, &value, "").is_err(), "{} is of the other sort", name.display());
    }
    assert!(held[0] > 40 && held[1] > 10, "{held:?}");
    let sweeps = schema(FileSort::Sweep);
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../sweeps/night.sweep.toml");
    let sweep = read(&std::fs::read_to_string(path).unwrap());
    fits(&sweeps, &sweeps, &sweep, "").unwrap();
    assert!(fits(&fights, &fights, &sweep, "").is_err() && fits(&sweeps, &sweeps, &json!({}), "").is_err());
}

/// Every field is in the schema, with its text: nothing is there that an editor would not know.
#[test]
fn every_field_has_its_text() {
    for (sort, least) in [(FileSort::Ruleset, 15), (FileSort::Scenario, 15), (FileSort::Sweep, 2)] {
        let schema = schema(sort);
        let forms = schema["$defs"].as_object().unwrap();
        assert!(forms.len() > least, "{sort:?}");
        for (form, table) in forms {
            for (field, value) in table["properties"].as_object().unwrap() {
                assert!(value["description"].is_string(), "{form}.{field} has no text");
            }
        }
    }
}

proptest! {
    #![proptest_config(testkit::cases(100))]

    /// A field that is renamed, or a value of another type, is refused by the reader and does not fit.
    #[test]
    fn what_the_reader_refuses_does_not_fit(which: Index, place: Index, rename: bool) {
        let files: Vec<_> = shipped(".rules.toml").into_iter().filter(|(_, text)| text.contains("[rules]")).collect();
        let (name, text) = which.get(&files);
        let lines: Vec<&str> = text.lines().collect();
        let plain: Vec<usize> = (0..lines.len())
            .filter(|&line| lines[line].split_once(" = ").is_some_and(|(key, value)| key.chars().all(|c| c.is_ascii_lowercase() || c == '-') && !value.ends_with(['[', '{', ','])))
            .collect();
        prop_assume!(!plain.is_empty());
        let line = *place.get(&plain);
        let (key, value) = lines[line].split_once(" = ").unwrap();
        let changed = if rename { format!("{key}-zz = {value}") } else { format!("{key} = 1979-05-27") };
        let mut now = lines.clone();
        now[line] = &changed;
        let now = now.join("\n");
        prop_assume!(DeTable::parse(&now).is_ok());
        let refused = RulesFile::read_with(&name.to_string_lossy(), &now, &|_| Err("not here".to_owned())).is_err();
        let schema = schema(FileSort::Ruleset);
        let mut value = read(&now);
        // A date is no text for an editor either.
        if !rename {
            let text = value.to_string().replace("\"1979-05-27\"", "null");
            value = serde_json::from_str(&text).unwrap();
        }
        let fit = fits(&schema, &schema, &value, "");
        prop_assert!(refused || fit.is_ok(), "{changed}: {fit:?}");
        // What stands where any name may stand is a name like any other.
        let named = matches!(&fit, Ok(()));
        prop_assert!(!named || rename || value == json!({}), "{changed} fits");
    }
}
