//! The page of all fields, held against the reader: `docs/files.md` has for each field its type, whether it is required, what it is unless
//! said, what is refused, and an example out of a shipped file. `HAMMERSTONE_WRITE=1` writes it anew.

use std::collections::BTreeMap;
use std::fmt::Write;
use std::path::{Path, PathBuf};

use hammerstone_rules::read::Field;
use hammerstone_scenario::{Scenario, Sweep, Wanted};
use testkit::forms::shipped;
use toml::de::{DeTable, DeValue};

const BEGIN: &str = "<!-- Every field: written by the test `fields` of hammerstone-scenario. -->\n";

/// What no shipped file shows: examples that are read all the same.
const REST: [(&str, &str); 4] = [
    ("rest.rules.toml", include_str!("fields/rest.rules.toml")),
    ("rest-of-it.rules.toml", include_str!("fields/rest-of-it.rules.toml")),
    ("rest.toml", include_str!("fields/rest.toml")),
    ("rest.sweep.toml", include_str!("fields/rest.sweep.toml")),
];

type Forms = BTreeMap<&'static str, Vec<Field>>;

/// A type as it is declared, without what says nothing of how a value is written.
fn plain(written: &str) -> String {
    let mut written: String = written.chars().filter(|c| !c.is_whitespace()).collect();
    for outer in ["Option<", "Spanned<", "Box<"] {
        while let Some(inner) = written.strip_prefix(outer).and_then(|rest| rest.strip_suffix('>')) {
            written = inner.to_owned();
        }
    }
    let again = ["Option<", "Spanned<", "Box<"].iter().any(|outer| written.starts_with(outer));
    if again { plain(&written) } else { written }
}

/// What lies in a type: the form of a table, and how it is reached.
fn inner(written: &str) -> (String, &'static str) {
    let written = plain(written);
    let parts = [("Named<", ".NAME"), ("Vec<", ""), ("OneOrMore<", "")];
    for (outer, step) in parts {
        if let Some(rest) = written.strip_prefix(outer).and_then(|rest| rest.strip_suffix('>')) {
            let (form, further) = inner(rest);
            return (form, if step.is_empty() { further } else { step });
        }
    }
    let form = match written.as_str() {
        "Given" => "Strong",
        "SweptFightOf" => "SweptFight",
        "Threshold" => "Declared",
        "GaugeMax" => "GaugeMaxOf",
        "AmountOf" | "Published" => "Sum",
        "Speed" => "SpeedOf",
        "To" => "PlainGroup",
        "Active" => "Window",
        form => form,
    };
    (form.to_owned(), "")
}

/// How a value is written, in words.
fn told(written: &str, forms: &Forms) -> String {
    let written = plain(written);
    if written == "Named<Named<SortOf>>" {
        return "fields, each a sort or a list of names, by name".to_owned();
    }
    for (outer, before, after) in
        [("Vec<", "list of ", ""), ("OneOrMore<", "", ", or a list"), ("Named<", "", ", by name")]
    {
        if let Some(rest) = written.strip_prefix(outer).and_then(|rest| rest.strip_suffix('>')) {
            let each = told(rest, forms);
            let several = match before {
                "" => each,
                _ if each == "name" => "names".to_owned(),
                _ => each.replace("[table]", "[tables]"),
            };
            return format!("{before}{several}{after}");
        }
    }
    let table = |form: &str| format!("[table](#{})", form.to_lowercase());
    match written.as_str() {
        "Name" => "name".to_owned(),
        "String" => "text".to_owned(),
        "Time" => "time".to_owned(),
        "Number" | "f64" => "number".to_owned(),
        "Vector" => "[x, y, z]".to_owned(),
        "bool" => "true or false".to_owned(),
        "i16" | "i64" | "u8" | "u16" | "u32" | "u64" => "whole number".to_owned(),
        "[Time;2]" => "[time, time]".to_owned(),
        "Damage" => "points, or [least, most], by damage type".to_owned(),
        "Range" => "points, or [least, most]".to_owned(),
        "Given" => format!("status, or {}", table("Strong")),
        "SweptFightOf" => format!("file, or {}", table("SweptFight")),
        "Threshold" => format!("share, or {}", table("Declared")),
        "Held" => "number, range, true or false, or word".to_owned(),
        "SortOf" => "sort, or list of names".to_owned(),
        "GaugeMax" => format!("points, or {}", table("GaugeMaxOf")),
        "Speed" => format!("number, or {}", table("SpeedOf")),
        "[f64;2]" => "[number, number]".to_owned(),
        "AmountOf" => format!("number, or {}", table("Sum")),
        "Published" => format!("value of the field, reading, or {}", table("Sum")),
        "Right" => "number or reading".to_owned(),
        "To" => format!("name, or {}", table("PlainGroup")),
        "Active" => format!("time, or list of {}", table("Window")),
        "Value" => "any value".to_owned(),
        range if range.starts_with("Between<") => "{ at-least, at-most, is }".to_owned(),
        form => {
            assert!(
                forms.contains_key(form),
                "`{form}` is neither a form nor a way of writing that is known"
            );
            table(form)
        }
    }
}

/// What a field is if it is left out; why not in words where its text says so.
fn unless_said(field: &Field) -> &'static str {
    let written: String = field.written.chars().filter(|c| !c.is_whitespace()).collect();
    match written.as_str() {
        _ if field.required => "**required**",
        "bool" => "false",
        written if written.starts_with("Option<") => "",
        _ => "none",
    }
}

/// Examples of fields, the first that is short enough of each, by form and name.
struct Examples<'f> {
    forms: &'f Forms,
    found: BTreeMap<(String, &'static str), String>,
}

impl Examples<'_> {
    fn of(&mut self, form: &str, table: &DeTable<'_>, text: &str, path: &str) {
        let Some(fields) = self.forms.get(form) else { return };
        for (key, value) in table {
            let Some(field) = fields.iter().find(|field| field.name == key.get_ref().as_ref()) else {
                continue;
            };
            let at = if path.is_empty() { field.name.to_owned() } else { format!("{path}.{}", field.name) };
            let written = &text[value.span()];
            let inline = written.starts_with('{') || value.get_ref().as_table().is_none();
            let headed = value.get_ref().as_array().is_some() && !text[..value.span().start].ends_with("= ");
            let shown = match value.get_ref() {
                DeValue::Table(within) if !inline => within.keys().next().map(|name| {
                    let named = inner(field.written).1;
                    if named.is_empty() { format!("[{at}]") } else { format!("[{at}.{}]", name.get_ref()) }
                }),
                DeValue::Array(_) if headed => Some(format!("[[{at}]]")),
                _ => Some(format!("{} = {written}", field.name)),
            };
            let shown = shown.filter(|shown| !shown.contains('\n') && !shown.contains('|'));
            if let Some(shown) = shown {
                let best = self.found.entry((form.to_owned(), field.name)).or_insert_with(|| shown.clone());
                // One of a good length says more than one that is cut.
                if best.chars().count() > 60 && shown.chars().count() < best.chars().count() {
                    *best = shown;
                }
            }
            let (form, step) = inner(field.written);
            self.within(&form, value.get_ref(), text, &at, !step.is_empty());
        }
    }

    fn within(&mut self, form: &str, value: &DeValue<'_>, text: &str, path: &str, named: bool) {
        match value {
            DeValue::Array(list) => {
                list.iter().for_each(|entry| self.within(form, entry.get_ref(), text, path, false));
            }
            DeValue::Table(table) if named => {
                for (name, value) in table {
                    self.within(form, value.get_ref(), text, &format!("{path}.{}", name.get_ref()), false);
                }
            }
            DeValue::Table(table) => self.of(form, table, text, path),
            _ => {}
        }
    }
}

/// The path at which each form is first met, from a root.
fn paths(forms: &Forms, root: &'static str) -> Vec<(String, String)> {
    let mut met: Vec<(String, String)> = vec![(root.to_owned(), String::new())];
    let mut at = 0;
    while at < met.len() {
        let (form, path) = met[at].clone();
        for field in &forms[form.as_str()] {
            let (next, step) = inner(field.written);
            if forms.contains_key(next.as_str()) && !met.iter().any(|(known, _)| *known == next) {
                let dot = if path.is_empty() { "" } else { "." };
                met.push((next, format!("{path}{dot}{}{step}", field.name)));
            }
        }
        at += 1;
    }
    met
}

fn page() -> (String, Vec<String>) {
    let [rules, scenario] = hammerstone_scenario::forms();
    let forms: Forms = rules.into_iter().chain(scenario).collect();
    let mut examples = Examples { forms: &forms, found: BTreeMap::new() };
    let rest = REST.map(|(name, text)| (PathBuf::from(name), text.to_owned()));
    // Of a shipped ruleset that includes another, the text has both.
    let sweep = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../sweeps/night.sweep.toml");
    let sweep = (sweep.clone(), std::fs::read_to_string(sweep).expect("the shipped sweep"));
    let files = shipped(".rules.toml").into_iter().chain(shipped(".toml")).chain([sweep]).chain(rest);
    for (path, text) in files {
        let form = match path.to_string_lossy() {
            name if name.ends_with(".rules.toml") => "RulesFile",
            name if name.ends_with(".sweep.toml") => "SweepFile",
            _ => "ScenarioFile",
        };
        let table = DeTable::parse(&text).expect("it is shipped");
        examples.of(form, table.get_ref(), &text, "");
    }
    let (mut page, mut lacking, mut told_of) = (String::from(BEGIN), Vec::new(), Vec::new());
    page += "\n# Every field\n\nA time is `\"0.4s\"` or `\"24 ticks\"`; *by name* means that each entry has a name of its own. What is left out is as the column says, or as\nthe text does. Ranges are refused beyond their ends. Examples are from the shipped files.\n";
    for (title, root) in
        [("Of a ruleset", "RulesFile"), ("Of a scenario", "ScenarioFile"), ("Of a sweep", "SweepFile")]
    {
        let _ = write!(page, "\n## {title}\n");
        for (form, path) in paths(&forms, root) {
            if told_of.contains(&form) {
                continue;
            }
            told_of.push(form.clone());
            let heading = if path.is_empty() { "The file".to_owned() } else { format!("`{path}`") };
            let _ = write!(page, "\n<a id=\"{}\"></a>\n\n### {heading}\n\n", form.to_lowercase());
            page += "| field | is written | unless said | what it is | example |\n|---|---|---|---|---|\n";
            for field in &forms[form.as_str()] {
                let example = examples.found.get(&(form.clone(), field.name));
                if example.is_none() || field.text.is_empty() {
                    lacking.push(format!("{form}.{}", field.name));
                }
                let example = example.map_or_else(String::new, |shown| {
                    let short: String = shown.chars().take(70).collect();
                    if short.len() < shown.len() { format!("`{short}…`") } else { format!("`{short}`") }
                });
                let (kind, unless) = (told(field.written, &forms), unless_said(field));
                let _ =
                    writeln!(page, "| `{}` | {kind} | {unless} | {} | {example} |", field.name, field.text);
            }
        }
    }
    for form in forms.keys() {
        assert!(told_of.iter().any(|told| told == form), "no field leads to `{form}`");
    }
    (page, lacking)
}

#[test]
fn the_page_of_fields_is_that_of_the_reader() {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/files.md");
    let text = std::fs::read_to_string(&path).expect("the page of files");
    let guide = text.split(BEGIN).next().unwrap_or_default().trim_end();
    let (page, lacking) = page();
    assert!(lacking.is_empty(), "no text, or no example in a shipped file: {}", lacking.join(", "));
    let whole = format!("{guide}\n\n{page}");
    if std::env::var_os("HAMMERSTONE_WRITE").is_some() {
        std::fs::write(&path, &whole).expect("it can be written");
    }
    assert!(text == whole, "docs/files.md is not what the reader has; HAMMERSTONE_WRITE=1 writes it anew");
}

/// The examples are no mere text: they are read, and the fight comes out as it says.
#[test]
fn the_rest_of_the_examples_are_sound() {
    let open = |wanted: Wanted<'_>| {
        let found = REST.iter().find(|(name, _)| *name == wanted.name());
        let (name, text) = found.ok_or_else(|| "there is no such file".to_owned())?;
        Ok(((*name).to_owned(), text.as_bytes().to_vec()))
    };
    let read = Scenario::read("rest.toml", REST[2].1, &open);
    let scenario = read.unwrap_or_else(|unusable| panic!("{}", unusable.text()));
    assert!(scenario.test().expect("it ticks").iter().all(|verdict| verdict.holds));
    let sweep =
        Sweep::read("rest.sweep.toml", REST[3].1).unwrap_or_else(|unusable| panic!("{}", unusable.text()));
    let [fight] = &sweep.fights[..] else { panic!("it has one fight: {sweep:?}") };
    assert_eq!(
        (fight.name.as_str(), fight.seeds, fight.seed, fight.ticks),
        ("all-of-it", 3, Some(2), Some(60))
    );
    assert_eq!(fight.values[0].values, ["1", "2", "3"]);
}

/// The ends of a range that a text tells: `from 1 to 1000`, `from 0, below 1`, `metres above 0`, `at least a tick`.
#[derive(Clone, Copy, PartialEq, Debug, Default)]
struct Ends {
    least: Option<f64>,
    above: Option<f64>,
    most: Option<f64>,
    below: Option<f64>,
}

impl Ends {
    fn told(text: &str) -> Ends {
        let words: Vec<&str> =
            text.split_whitespace().map(|word| word.trim_end_matches([';', ',', '.'])).collect();
        let mut ends = Ends::default();
        for pair in words.windows(2) {
            let number = pair[1].parse::<f64>().ok();
            match pair[0] {
                "from" if number.is_some() => ends.least = number,
                // The last is the farthest: `from 0 to 1 for transfers, to 1000 for reflects`.
                "to" if ends.least.is_some() && number.is_some() => ends.most = number,
                "below" if ends.least.is_some() && number.is_some() => ends.below = number,
                "above" if number.is_some() => ends.above = number,
                _ => {}
            }
        }
        ends
    }

    /// Numbers just beyond the ends, of a field that holds whole ones or not.
    fn beyond(self, whole: bool) -> Vec<String> {
        let step = if whole { 1.0 } else { 0.5 };
        let just = [self.least.map(|least| least - step), self.most.map(|most| most + step)];
        just.into_iter().chain([self.above, self.below]).flatten().map(|number| format!("{number}")).collect()
    }
}

/// Where numbers with ends stand in a file: form and name of the field, the place of the number, and those beyond its ends.
struct Bounded<'f> {
    forms: &'f Forms,
    found: Vec<(String, &'static str, std::ops::Range<usize>, Vec<String>)>,
}

impl Bounded<'_> {
    fn of(&mut self, form: &str, value: &DeValue<'_>, named: bool) {
        let table = match value {
            DeValue::Array(list) => return list.iter().for_each(|one| self.of(form, one.get_ref(), false)),
            DeValue::Table(table) if named => {
                return table.iter().for_each(|(_, one)| self.of(form, one.get_ref(), false));
            }
            DeValue::Table(table) => table,
            _ => return,
        };
        let Some(fields) = self.forms.get(form) else { return };
        for (key, value) in table {
            let Some(field) = fields.iter().find(|field| field.name == key.get_ref().as_ref()) else {
                continue;
            };
            let whole = plain(field.written).starts_with(['u', 'i']);
            if (whole || matches!(plain(field.written).as_str(), "Number" | "f64"))
                && matches!(value.get_ref(), DeValue::Integer(_) | DeValue::Float(_))
            {
                let beyond = Ends::told(field.text).beyond(whole);
                self.found.push((form.to_owned(), field.name, value.span(), beyond));
            }
            let (form, step) = inner(field.written);
            self.of(&form, value.get_ref(), !step.is_empty());
        }
    }
}

/// What the page says of ranges is so: a number just beyond an end, in the place of a sound one in a shipped file, is refused, and the
/// refusal names the field or shows the number.
#[test]
fn ranges_are_refused_beyond_their_ends() {
    assert_eq!(Ends::told("How many bodies; from 1 to 1024; 1 unless said.").beyond(true), ["0", "1025"]);
    assert_eq!(Ends::told("From there, from 0, below 1.").beyond(false), ["-0.5", "1"]);
    assert_eq!(Ends::told("Metres a second; above 0.").beyond(false), ["0"]);
    let [rules, scenario] = hammerstone_scenario::forms();
    let forms: Forms = rules.into_iter().chain(scenario).collect();
    let rest = REST[..3].iter().map(|(name, text)| (PathBuf::from(name), (*text).to_owned()));
    let files = shipped(".rules.toml").into_iter().chain(shipped(".toml")).chain(rest);
    let (mut tried, mut wrong) = (BTreeMap::<_, usize>::new(), Vec::new());
    for (path, text) in files {
        let name = path.to_string_lossy().into_owned();
        if name.ends_with(".sweep.toml") {
            continue;
        }
        let is_rules = name.ends_with(".rules.toml");
        let beside = |name: &str| match REST.iter().find(|(known, _)| *known == name) {
            Some((_, text)) => Ok((name.to_owned(), text.as_bytes().to_vec())),
            None => {
                let path = path.with_file_name(name);
                let bytes = std::fs::read(&path).map_err(|error| error.to_string())?;
                Ok((name.to_owned(), bytes))
            }
        };
        let read = |text: &str| -> Result<(), String> {
            let open = |wanted: Wanted<'_>| beside(wanted.name());
            if is_rules {
                let open = |name: &str| beside(name);
                let read = hammerstone_rules::RulesFile::read_with(&name, text, &open);
                read.map(|_| ()).map_err(|unusable| unusable.text())
            } else {
                Scenario::read(&name, text, &open).map(|_| ()).map_err(|unusable| unusable.text())
            }
        };
        let table = DeTable::parse(&text).expect("it is shipped");
        let root = DeValue::Table(table.into_inner());
        let mut bounded = Bounded { forms: &forms, found: Vec::new() };
        bounded.of(if is_rules { "RulesFile" } else { "ScenarioFile" }, &root, false);
        let mut sound = None;
        for (form, field, span, beyond) in bounded.found {
            for number in beyond {
                let times = tried.entry((form.clone(), field, number.clone())).or_default();
                // Once is enough, and a second file shows that it was not for another reason.
                if *times == 2 {
                    continue;
                }
                if !*sound.get_or_insert_with(|| read(&text).is_ok()) {
                    break;
                }
                *times += 1;
                let changed = format!("{}{number}{}", &text[..span.start], &text[span.end..]);
                match read(&changed) {
                    Ok(()) => wrong.push(format!("{name}: {form}.{field} = {number} is taken")),
                    Err(told) if told.contains(field) || told.contains(&number) => {}
                    Err(told) => wrong.push(format!("{name}: {form}.{field} = {number} is told so:\n{told}")),
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    let tried = tried.values().filter(|times| **times > 0).count();
    assert!(tried > 80, "only {tried} ends were tried");
}
