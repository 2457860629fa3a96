//! Entries that are based on others are what they would be, written out.

use hammerstone_rules::RulesFile;
use proptest::prelude::*;

const HEAD: &str = r#"
[rules]
rate = 60
damage-types = ["crush"]
[team.masons]
[template.mason]
team = "masons"
health = 10
attacks = ["third", "second", "first"]
part.body = { sphere = { at = [0, 1, 0], radius = 0.3 } }
"#;

/// The fields of an attack, of which each entry says some.
const FIELDS: [&str; 6] = [
    r#"form = "melee""#,
    r#"active = "0.1s""#,
    "hitboxes = [{ sphere = { at = [0, 1, 0.5], radius = 0.4 } }]",
    r#"startup = "0.2s""#,
    "damage = { crush = 3 }",
    r#"recovery = "0.3s""#,
];

/// Another value of the same field.
fn other(field: usize) -> String {
    FIELDS[field]
        .replace("0.1s", "0.4s")
        .replace("0.4 }", "0.7 }")
        .replace("0.2s", "0.6s")
        .replace("= 3", "= 5")
        .replace("0.3s", "0s")
}

fn entry(name: &str, base: Option<&str>, says: &[(usize, String)]) -> String {
    let mut text = format!("[attack.{name}]\n");
    text.extend(base.map(|base| format!("based-on = \"{base}\"\n")));
    text.extend(says.iter().map(|(_, field)| format!("{field}\n")));
    text
}

fn fingerprint(text: &str) -> u64 {
    match RulesFile::read("quarry.rules.toml", text) {
        Ok(file) => file.ruleset.fingerprint(),
        Err(error) => panic!("{text}\n{error}"),
    }
}

fn refused(text: &str) -> Vec<(String, String)> {
    let error = RulesFile::read("quarry.rules.toml", text).map(|_| ()).expect_err("it is wrong");
    error.problems().iter().map(|problem| (problem.to_string(), text[problem.span()].to_owned())).collect()
}

proptest! {
    /// Whatever each of three says itself, in whatever order they stand: the same ruleset comes of it.
    #[test]
    fn it_is_the_ruleset_written_out(own in prop::collection::vec(prop::collection::vec(any::<bool>(), 6), 2), last_first: bool) {
        let all: Vec<(usize, String)> = FIELDS.iter().map(|field| (*field).to_owned()).enumerate().collect();
        let says = |own: &[bool]| -> Vec<(usize, String)> {
            (0..6).filter(|&field| own[field]).map(|field| (field, other(field))).collect()
        };
        let (second, third) = (says(&own[0]), says(&own[1]));
        let with = |base: &[(usize, String)], own: &[(usize, String)]| -> Vec<(usize, String)> {
            let said = |field: usize| own.iter().any(|(said, _)| *said == field);
            let inherited = base.iter().filter(|(field, _)| !said(*field)).cloned();
            own.iter().cloned().chain(inherited).collect()
        };
        let second_whole = with(&all, &second);
        let third_whole = with(&second_whole, &third);
        let mut short = [
            entry("first", None, &all),
            entry("second", Some("first"), &second),
            entry("third", Some("second"), &third),
        ];
        let mut long = [
            entry("first", None, &all),
            entry("second", None, &second_whole),
            entry("third", None, &third_whole),
        ];
        if last_first {
            short.reverse();
            long.reverse();
        }
        prop_assert_eq!(fingerprint(&format!("{HEAD}{}", short.concat())), fingerprint(&format!("{HEAD}{}", long.concat())));
    }
}

#[test]
fn a_base_that_is_not_there_a_circle_and_a_number_are_told_at_their_places() {
    let all = FIELDS.join("\n");
    let first = format!("{HEAD}[attack.first]\n{all}\n");
    let [(message, marked)] =
        &refused(&format!("{first}[attack.second]\nbased-on = \"frist\"\n{all}\n[attack.third]\n{all}"))[..]
    else {
        panic!()
    };
    assert!(message.contains("frist") && marked == "\"frist\"", "{message} {marked}");
    let circle = format!(
        "{first}[attack.second]\nbased-on = \"third\"\n{all}\n[attack.third]\nbased-on = \"second\"\n{all}"
    );
    let [(message, _)] = &refused(&circle)[..] else { panic!("{:?}", refused(&circle)) };
    assert!(message.contains("based on itself"), "{message}");
    let [(message, marked)] =
        &refused(&format!("{first}[attack.second]\nbased-on = 3\n{all}\n[attack.third]\n{all}"))[..]
    else {
        panic!()
    };
    assert!(message.contains("the name of another attack") && marked == "3", "{message} {marked}");
}

#[test]
fn statuses_and_templates_have_bases_too() {
    let all: Vec<(usize, String)> = FIELDS.iter().map(|field| (*field).to_owned()).enumerate().collect();
    let attacks: String = ["first", "second", "third"].map(|name| entry(name, None, &all)).concat();
    let head = format!("{HEAD}{attacks}");
    let short = r#"
[status.brine]
lasts = "2s"
stuns = true
[status.long-brine]
based-on = "brine"
lasts = "4s"
[template.keeper]
based-on = "mason"
health = 30
"#;
    let long = short
        .replace("based-on = \"brine\"\n", "stuns = true\n")
        .replace("based-on = \"mason\"\n", "team = \"masons\"\nattacks = [\"third\", \"second\", \"first\"]\npart.body = { sphere = { at = [0, 1, 0], radius = 0.3 } }\n");
    assert_ne!(short, long);
    assert_eq!(fingerprint(&format!("{head}{short}")), fingerprint(&format!("{head}{long}")));
}
