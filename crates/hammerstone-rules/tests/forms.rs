//! The forms of a ruleset's tables: whatever is wrong with them is told at once, each at its place, and nothing else is.

use hammerstone_rules::{RulesFile, Unusable};
use proptest::prelude::*;
use proptest::sample::Index;
use testkit::forms::{Places, beside, replaced, shipped, some};

/// Whether keys lead to a field; entries of topics are named by the author.
fn is_field(keys: &[&str]) -> bool {
    let entries = ["team", "shield", "status", "attack", "template", "spot", "waves", "rule"];
    match keys {
        [section, _, _] => entries.contains(section),
        [section, _] => ["rules", "amount"].contains(section),
        _ => false,
    }
}

fn refused(text: &str) -> Box<Unusable> {
    RulesFile::read("changed.toml", text).map(|_| ()).expect_err("the file is wrong")
}

/// A line for each problem: what it says, and of what.
fn told(error: &Unusable, text: &str) -> Vec<(String, String)> {
    error.problems().iter().map(|problem| (problem.to_string(), text[problem.span()].to_owned())).collect()
}

const SMALL: &str = r#"
[rules]
rate = 60

[team.masons]

[attack.maul]
form = "melee"
active = "10 ticks"
hitboxes = [{ sphere = { at = [0, 1, 0.5], radius = 0.4 } }]
strikes = ["foe"]

[template.mason]
team = "masons"
health = 40
attacks = ["maul"]

[rule.bell]
on = "combatant.died"
do = [{ say = "the bell" }]
"#;

/// The small file with `from` replaced, and what is told of it.
fn changed(from: &str, to: &str) -> Vec<(String, String)> {
    assert!(SMALL.contains(from), "{from}");
    let text = SMALL.replacen(from, to, 1);
    told(&refused(&text), &text)
}

fn says(message: &str, of: &str) -> Vec<(String, String)> {
    vec![(message.to_owned(), of.to_owned())]
}

#[test]
fn the_shipped_files_have_places_and_are_sound() {
    let (mut fields, mut values) = (0, 0);
    for (path, text) in shipped(".rules.toml") {
        let read = RulesFile::read_with("shipped.toml", &text, &beside(&path));
        assert_eq!(
            read.is_ok(),
            cfg!(feature = "motion") || !text.contains("[skeleton"),
            "{}",
            path.display()
        );
        let places = Places::of(&text, is_field);
        fields += places.fields.len();
        values += places.values.len();
    }
    assert!(fields > 1_000 && values > 2_000, "{fields} fields and {values} values");
}

#[test]
fn a_field_that_is_needed_is_asked_for_where_its_table_stands() {
    assert_eq!(changed("rate = 60", ""), says("the field `rate` is missing", "[rules]"));
    assert_eq!(changed("health = 40", ""), says("template `mason` has no health", "mason"));
    assert_eq!(
        changed("do = [{ say = \"the bell\" }]", ""),
        says("the field `do` is missing", "[rule.bell]")
    );
    let sphere = "{ at = [0, 1, 0.5] }";
    assert_eq!(
        changed("{ at = [0, 1, 0.5], radius = 0.4 }", sphere),
        says("the field `radius` is missing", sphere)
    );
    // One that may be left out is not.
    assert!(RulesFile::read("small.toml", &SMALL.replace("strikes = [\"foe\"]", "")).is_ok());
}

#[test]
fn numbers_have_their_ranges() {
    assert_eq!(
        changed("rate = 60", "rate = -1"),
        says("expected a whole number from 0 to 4294967295, found the number -1", "-1")
    );
    assert_eq!(
        changed("health = 40", "health = 4.5"),
        says("expected a whole number, found the number 4.5", "4.5")
    );
    let priority = |number: &str| format!("do = [{{ say = \"the bell\" }}]\npriority = {number}");
    assert_eq!(
        changed("do = [{ say = \"the bell\" }]", &priority("0x8000")),
        says("expected a whole number from -32768 to 32767, found the number 0x8000", "0x8000")
    );
    // Whole numbers do for any number, and in any radix.
    for radius in ["1", "0x1", "1e0", "1_0.0_0"] {
        let text = SMALL.replace("radius = 0.4", &format!("radius = {radius}"));
        let read = RulesFile::read("small.toml", &text);
        assert!(read.is_ok(), "{}", read.map_or_else(|error| error.text(), |_| String::new()));
    }
}

#[test]
fn what_can_be_written_in_several_ways_names_them() {
    for (from, to, expected) in [
        ("active = \"10 ticks\"", "active = 10", "a time, found the number 10"),
        ("active = \"10 ticks\"", "active = true", "a time, such as \"0.2s\", or a list of windows"),
        ("health = 40", "health = 40\nthresholds = { low = true }", "a share of health, such as 0.5"),
        ("form = \"melee\"", "form = \"melee\"\ninflicts = [7]", "the name of a status, or { status ="),
        (
            "form = \"melee\"",
            "form = \"melee\"\ndamage = { crush = [1, 2, 3] }",
            "[least, most], found a list of 3",
        ),
        ("{ say = \"the bell\" }", "{ to = 1, say = \"the bell\" }", "\"subject\", \"other\", \"followers\""),
        ("[0, 1, 0.5]", "[0, 1]", "a list of 3, found a list of 2"),
        ("team = \"masons\"", "team = [\"masons\"]", "a text in quotation marks, found a list of 1"),
        ("[team.masons]", "[team]\nmasons = 1\n[shield.stone]", "a table, found the number 1"),
    ] {
        let told = changed(from, to);
        assert_eq!(told.len(), 1, "{told:?}");
        assert!(told[0].0.starts_with("expected ") && told[0].0.contains(expected), "{told:?}");
    }
    // What stands within one of the ways is looked at like everything else.
    assert_eq!(
        changed("health = 40", "health = 40\nthresholds = { low = { share = 0.5, if-it-kill = \"fire\" } }")
            .iter()
            .map(|(message, _)| message.as_str())
            .collect::<Vec<_>>(),
        ["the field `if-it-kills` is missing", "unknown field `if-it-kill`"]
    );
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    /// Fields that are not there are all told, each at its place, with nothing else but what is missing for it.
    #[test]
    fn every_field_that_is_unknown_is_told(
        which: Index,
        chosen in proptest::collection::vec(any::<Index>(), 1..12),
    ) {
        let files = shipped(".rules.toml");
        let (_, text) = which.get(&files);
        let fields = some(&Places::of(text, is_field).fields, &chosen);
        let (changed, now) = replaced(text, &fields, |field| format!("{}-zz", field.trim_matches('"')));
        let error = refused(&changed);
        let told = told(&error, &changed);
        prop_assert_eq!(error.count(), told.len());
        let (unknown, missing): (Vec<_>, Vec<_>) =
            error.problems().iter().partition(|problem| problem.to_string().starts_with("unknown field"));
        let spans: Vec<_> = unknown.iter().map(|problem| problem.span()).collect();
        prop_assert_eq!(&spans, &now, "{:?}", told);
        for problem in missing {
            let field = problem.to_string();
            let field = field.split('`').nth(1).unwrap_or_default();
            // Without its base an entry lacks what it had from there.
            let of_ours = fields.iter().any(|place| [field, "based-on"].contains(&&text[place.clone()]));
            prop_assert!(problem.to_string().ends_with("is missing") && of_ours, "{}", problem);
        }
        prop_assert!(error.problems().is_sorted_by_key(|problem| problem.span().start));
    }

    /// Values of the wrong sort are all told, each at its place, with nothing else.
    #[test]
    fn every_value_of_the_wrong_sort_is_told(
        which: Index,
        chosen in proptest::collection::vec(any::<Index>(), 1..40),
    ) {
        let files = shipped(".rules.toml");
        let (_, text) = which.get(&files);
        // Without its base an entry lacks what it had from there.
        let mut values = Places::of(text, is_field).values;
        values.retain(|place| !text[..place.start].ends_with("based-on = "));
        // No field holds a date.
        let (changed, now) = replaced(text, &some(&values, &chosen), |_| "1871-03-09".to_owned());
        let error = refused(&changed);
        let spans: Vec<_> = error.problems().iter().map(|problem| problem.span()).collect();
        prop_assert_eq!(&spans, &now, "{:?}", told(&error, &changed));
        for problem in error.problems() {
            let message = problem.to_string();
            prop_assert!(message.starts_with("expected ") && message.ends_with(", found the date 1871-03-09"));
        }
    }
}
