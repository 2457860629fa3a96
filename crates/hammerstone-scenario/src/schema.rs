//! The sorts of files as JSON Schema, so that editors complete and check them: out of the same declarations as the reader and the page
//! of all fields.

use hammerstone_rules::raw::Described;
use hammerstone_rules::read::Field;
use serde_json::{Map, Value, json};

/// A sort of file.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum FileSort {
    /// A ruleset.
    Ruleset,
    /// A scenario.
    Scenario,
    /// A sweep.
    Sweep,
}

/// The schema of a sort of file, of JSON Schema's draft 2020-12.
///
/// It says which fields there are, how each is written and which must be there. Names, ranges and what fits together are not in it:
/// reading a file looks at these.
pub fn schema(sort: FileSort) -> Value {
    let [rules, scenario] = crate::forms();
    let (root, title) = match sort {
        FileSort::Ruleset => ("RulesFile", "A ruleset of Hammerstone"),
        FileSort::Scenario => ("ScenarioFile", "A scenario of Hammerstone"),
        FileSort::Sweep => ("SweepFile", "A sweep of Hammerstone"),
    };
    let all: Vec<Described> = rules.into_iter().chain(scenario).collect();
    // Only the forms to which the root leads.
    let mut forms: Map<String, Value> = Map::new();
    let mut open = vec![root.to_owned()];
    while let Some(name) = open.pop() {
        let Some((_, fields)) = all.iter().find(|(known, _)| *known == name) else { continue };
        if forms.contains_key(&name) {
            continue;
        }
        let mut table = table(fields, &all, &mut open);
        if BASED.contains(&name.as_str()) {
            may_be_based(&mut table);
        }
        forms.insert(name, table);
    }
    forms.sort_keys();
    let part = |name: &str| json!({ "$ref": format!("#/$defs/{name}") });
    let mut schema = json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": title,
    });
    if let (Some(schema), Value::Object(root)) = (schema.as_object_mut(), part(root)) {
        schema.extend(root);
        schema.insert("$defs".to_owned(), Value::Object(forms));
    }
    schema
}

/// Forms of entries that may be based on another, and have what they do not say from there.
const BASED: [&str; 3] = ["Attack", "Status", "Template"];

fn may_be_based(table: &mut Value) {
    let text = "Another entry: what this one does not say is as that one says it.";
    table["properties"]["based-on"] = json!({ "type": "string", "description": text });
    let required = table["required"].take();
    if let Some(table) = table.as_object_mut() {
        table.remove("required");
        table.insert("anyOf".to_owned(), json!([{ "required": ["based-on"] }, { "required": required }]));
    }
}

/// A table with these fields.
fn table(fields: &[Field], all: &[Described], open: &mut Vec<String>) -> Value {
    let mut properties = Map::new();
    for field in fields {
        let mut value = written(field.written, all, open);
        if let Some(value) = value.as_object_mut()
            && !field.text.is_empty()
        {
            value.insert("description".to_owned(), field.text.into());
        }
        properties.insert(field.name.to_owned(), value);
    }
    let required: Vec<&str> = fields.iter().filter(|field| field.required).map(|field| field.name).collect();
    json!({ "type": "object", "properties": properties, "required": required, "additionalProperties": false })
}

/// How a value of a type is written.
fn written(type_name: &str, all: &[Described], open: &mut Vec<String>) -> Value {
    let type_name: String = type_name.chars().filter(|letter| !letter.is_whitespace()).collect();
    let within = |outer: &str| type_name.strip_prefix(outer).and_then(|rest| rest.strip_suffix('>'));
    for outer in ["Option<", "Spanned<", "Box<"] {
        if let Some(inner) = within(outer) {
            return written(inner, all, open);
        }
    }
    if let Some(inner) = within("Vec<") {
        return json!({ "type": "array", "items": written(inner, all, open) });
    }
    if let Some(inner) = within("Named<") {
        return json!({ "type": "object", "additionalProperties": written(inner, all, open) });
    }
    if let Some(inner) = within("OneOrMore<") {
        let one = written(inner, all, open);
        return json!({ "anyOf": [one, { "type": "array", "items": one }] });
    }
    let mut any = |types: &[&str]| {
        let all: Vec<Value> = types.iter().map(|one| written(one, all, open)).collect();
        json!({ "anyOf": all })
    };
    match type_name.as_str() {
        "Name" | "String" => json!({ "type": "string" }),
        "Time" => json!({
            "type": "string",
            "pattern": "^\\s*[+-]?[0-9.]+([eE][+-]?[0-9]+)?\\s*(s|ticks?)\\s*$",
        }),
        "bool" => json!({ "type": "boolean" }),
        "Number" | "f64" => json!({ "type": "number" }),
        "i16" | "i64" => json!({ "type": "integer" }),
        "u8" | "u16" | "u32" | "u64" => json!({ "type": "integer", "minimum": 0 }),
        "Vector" | "[f64;3]" => {
            json!({ "type": "array", "items": { "type": "number" }, "minItems": 3, "maxItems": 3 })
        }
        "[f64;2]" => {
            json!({ "type": "array", "items": { "type": "number" }, "minItems": 2, "maxItems": 2 })
        }
        "[Time;2]" => {
            json!({ "type": "array", "items": written("Time", all, open), "minItems": 2, "maxItems": 2 })
        }
        "Range" => json!({ "anyOf": [
            { "type": "integer" },
            { "type": "array", "items": { "type": "integer" }, "minItems": 2, "maxItems": 2 },
        ] }),
        "Damage" => written("Named<Range>", all, open),
        "Value" => json!({}),
        "SweptFightOf" => any(&["Name", "SweptFight"]),
        "Given" => any(&["Name", "Strong"]),
        "Threshold" => any(&["Number", "Declared"]),
        "Held" => any(&["Number", "bool", "Name", "Between<f64>"]),
        "SortOf" => any(&["Name", "Vec<Name>"]),
        "GaugeMax" => any(&["i64", "GaugeMaxOf"]),
        "AmountOf" => any(&["Number", "Sum"]),
        "Published" => any(&["Name", "Number", "bool", "Vector", "Sum"]),
        "Speed" => any(&["Number", "SpeedOf"]),
        "Right" => any(&["Number", "Name"]),
        "To" => any(&["Name", "PlainGroup"]),
        "Active" => any(&["Time", "Vec<Window>"]),
        range if range.starts_with("Between<") => json!({
            "type": "object",
            "properties": {
                "at-least": { "type": "number" }, "at-most": { "type": "number" }, "is": { "type": "number" },
            },
            "additionalProperties": false,
        }),
        form if all.iter().any(|(known, _)| *known == form) => {
            open.push(form.to_owned());
            json!({ "$ref": format!("#/$defs/{form}") })
        }
        // What is written in a way of its own may be anything.
        _ => json!({}),
    }
}
