//! Every topic with its fields, from the table of facts: for people, for programs, for the page on the feed, and as code to begin with.

use std::fmt::Write as _;

use hammerstone::Ruleset;
use hammerstone::event::{FieldInfo, TOPICS, Tag, TopicInfo};
use serde::Serialize;

/// A topic, and what its facts hold.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct TopicRow {
    /// Its path.
    pub topic: String,
    /// What its facts say.
    pub meaning: String,
    /// The struct that holds the fields.
    pub payload: &'static str,
    /// The stages of the tick that publish it.
    pub published_by: Vec<&'static str>,
    /// The field whose combatant is the subject.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub subject: Option<String>,
    /// The field whose combatant is the other party.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub other: Option<String>,
    /// Its fields, in the order of the feed.
    pub fields: Vec<FieldRow>,
}

/// A field of a topic.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct FieldRow {
    /// Its names in the feed; several where one value is written in parts, none where the feed does not write it.
    pub keys: Vec<String>,
    /// Its name in code.
    pub name: String,
    /// What it holds.
    pub sort: String,
    /// Its unit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unit: Option<&'static str>,
    /// The words that it may hold, where there is a closed list.
    #[serde(skip_serializing_if = "<[_]>::is_empty")]
    pub words: &'static [&'static str],
    /// Whether it may be absent.
    pub optional: bool,
    /// Whether it says which thing the fact is about; the others say how it went.
    pub identity: bool,
    /// What it means.
    pub meaning: String,
}

/// Every topic: the fixed ones, and where a ruleset is given one for each damage type and those of the host's own.
pub fn topics(rules: Option<&Ruleset>) -> Vec<TopicRow> {
    let Some(rules) = rules else { return TOPICS.iter().map(|info| row(info.path, info)).collect() };
    let topics = rules.topics();
    let known = topics.paths().iter().filter_map(|path| Some((path, topics.find(path)?)));
    known
        .filter_map(|(path, topic)| {
            let mut row = row(path, topics.info(topic)?);
            if let Some(host) = topics.host_topic(topic) {
                row.fields =
                    rules.host_fields(host).map(|(name, sort)| host_field(name, sort.name())).collect();
            }
            Some(row)
        })
        .collect()
}

fn row(path: &str, info: &TopicInfo) -> TopicRow {
    let named = |tag| info.field(tag).map(|field| field.key.to_owned());
    TopicRow {
        topic: path.to_owned(),
        meaning: info.meaning().to_owned(),
        payload: info.payload,
        published_by: info.stages.iter().map(|stage| stage.name()).collect(),
        subject: named(Tag::Subject),
        other: named(Tag::Other),
        fields: info.fields.iter().map(field).collect(),
    }
}

fn field(info: &FieldInfo) -> FieldRow {
    FieldRow {
        keys: info.keys().map(str::to_owned).collect(),
        name: info.name.to_owned(),
        sort: info.sort().to_owned(),
        unit: info.unit(),
        words: info.words,
        optional: info.optional || info.is(Tag::WhenTrue),
        identity: info.is(Tag::Identity),
        meaning: info.meaning().to_owned(),
    }
}

fn host_field(name: &str, sort: &str) -> FieldRow {
    FieldRow {
        keys: vec![name.to_owned()],
        name: name.to_owned(),
        sort: sort.to_owned(),
        unit: None,
        words: &[],
        optional: true,
        identity: false,
        meaning: "As the ruleset declares it.".to_owned(),
    }
}

/// The rows of the table of topics for the page on the feed.
pub fn topics_as_markdown() -> String {
    let mut text = String::from("| topic | meaning | fields |\n|---|---|---|\n");
    for info in TOPICS {
        let path = match info.path {
            "damage.dealt" => "damage.dealt.TYPE",
            "host" => "host.…",
            path => path,
        };
        let mut fields: Vec<String> = info.fields.iter().filter_map(markdown_field).collect();
        if info.path == "host" {
            fields.push(
                "those that the topic declares: exact numbers as strings, combatants by name".to_owned(),
            );
        }
        let _ = writeln!(text, "| `{path}` | {} | {} |", info.meaning(), fields.join("; "));
    }
    text
}

fn markdown_field(info: &FieldInfo) -> Option<String> {
    let keys: Vec<String> = info.keys().map(|key| format!("`{key}`")).collect();
    if keys.is_empty() {
        return None;
    }
    let meaning = info.meaning().trim_end_matches('.');
    let unit = info.unit().map_or(String::new(), |unit| format!(" ({unit})"));
    let maybe = if info.optional || info.is(Tag::WhenTrue) { "?" } else { "" };
    let words: Vec<String> = info.words.iter().map(|word| format!("`{word}`")).collect();
    let words = if words.is_empty() { String::new() } else { format!(" ({})", words.join(", ")) };
    Some(format!("{}{maybe}: {}{unit}{words}", keys.join(", "), lower(meaning)))
}

/// With a small letter at its beginning, but for what is code.
fn lower(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |first| first.to_lowercase().chain(letters).collect())
}

/// A hook for facts of a topic in Rust, ready to fill: the function, and how it is added and subscribed. None if there is no such topic.
///
/// `path` is that of a fixed topic, `damage.dealt` or one below it, or one below `host`.
pub fn handler(path: &str) -> Option<String> {
    let is = |info: &&TopicInfo| path == info.path || is_below(path, info);
    let info = TOPICS.iter().find(is)?;
    let payload = info.payload;
    let name = snake(payload);
    let mut text = format!(
        "use hammerstone::event::{payload};\nuse hammerstone::ids::HookId;\nuse hammerstone::prelude::*;\n\n",
    );
    let _ = writeln!(text, "/// Hears `{path}`: {}", info.meaning());
    let _ = writeln!(
        text,
        "fn on_{name}(world: &mut World, fact: &{payload}, heard: &Heard<'_>, orders: &mut Orders<'_>) {{"
    );
    for field in info.fields {
        let code = if field.optional { format!("Option<{}>", field.code) } else { field.code.to_owned() };
        let unit = field.unit().map_or(String::new(), |unit| format!(" ({unit})"));
        let _ = writeln!(text, "    // {code}. {}{unit}", field.meaning());
        let _ = writeln!(text, "    let {} = fact.{};", field.name, field.name);
    }
    let _ = writeln!(text, "}}\n");
    let _ = writeln!(text, "/// Adds the hook and subscribes it. Call this once, before the first tick.");
    let _ = writeln!(text, "fn hear_{name}(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {{");
    let _ = writeln!(text, "    let hook = hooks.on(\"{}\", on_{name});", name.replace('_', "-"));
    if is_fixed(info) {
        let constant = topic_constant(info);
        let _ = writeln!(text, "    fight.orders().subscribe(hook, Listen::to(topic::{constant}));");
    } else {
        let _ = writeln!(text, "    if let Some(family) = fight.rules().topics().family(\"{path}\") {{");
        let _ = writeln!(text, "        fight.orders().subscribe(hook, Listen::under(family));\n    }}");
    }
    let _ = writeln!(text, "    hook\n}}");
    Some(text)
}

/// Whether it is one topic, and not all of damage or all of the host's own.
fn is_fixed(info: &TopicInfo) -> bool {
    !matches!(info.path, "damage.dealt" | "host")
}

fn is_below(path: &str, info: &TopicInfo) -> bool {
    !is_fixed(info)
        && path.strip_prefix(info.path).is_some_and(|rest| rest.len() > 1 && rest.starts_with('.'))
}

/// The constant of a fixed topic.
fn topic_constant(info: &TopicInfo) -> String {
    info.path.replace('.', "_").to_uppercase()
}

/// `HitLanded` as `hit_landed`.
fn snake(name: &str) -> String {
    let mut text = String::new();
    for letter in name.chars() {
        if letter.is_uppercase() && !text.is_empty() {
            text.push('_');
        }
        text.extend(letter.to_lowercase());
    }
    text
}
