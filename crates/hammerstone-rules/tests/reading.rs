//! Rulesets as files: what is read, in which order, and what a file that is wrong is told.

use std::path::Path;

use hammerstone::prelude::*;
use hammerstone_rules::{RulesFile, Unusable};
use proptest::prelude::*;

use testkit::forms;

/// A small ruleset that is sound.
const YARD: &str = r#"
[rules]
rate = 60
damage-types = ["crush", "cut"]
layers = ["ghost"]
tags = ["stone"]
stats = { might = 2 }

[team.masons]
[team.hounds]

[status.wet]
lasts = "2s"

[attack.maul]
form = "melee"
startup = "12 ticks"
active = "10 ticks"
recovery = "20 ticks"
damage = { crush = [3, 5] }
hitboxes = [{ capsule = { from = [0, 1, 0.5], to = [0, 1, 1.5], radius = 0.2 } }]
inflicts = ["wet"]

[attack.adze]
form = "melee"
startup = "2 ticks"
active = "1 ticks"
recovery = "3 ticks"
damage = { cut = 1 }
hitboxes = [{ sphere = { at = [0, 1, 0.5], radius = 0.4 } }]

[template.mason]
team = "masons"
health = 40
attacks = ["maul", "adze"]
part.trunk = { sphere = { at = [0, 1, 0], radius = 0.4 } }

[template.hound]
team = "hounds"
health = 12
part.skull = { sphere = { at = [0, 0.5, 0], radius = 0.3 } }
"#;

fn read(text: &str) -> Result<Ruleset, Box<Unusable>> {
    RulesFile::read("yard.toml", text).map(|file| file.ruleset)
}

/// What is wrong with the yard once `from` in it has become `to`.
fn wrong(from: &str, to: &str) -> String {
    assert!(YARD.contains(from), "{from}");
    read(&YARD.replacen(from, to, 1)).expect_err("something is wrong").text()
}

/// The names and texts of all rulesets that are shipped.
fn shipped() -> Vec<(String, String)> {
    let all = forms::shipped(".rules.toml");
    assert!(all.len() >= 6, "{}", all.len());
    all.into_iter().map(|(path, text)| (path.to_string_lossy().into_owned(), text)).collect()
}

#[test]
fn names_have_their_ids_in_the_order_of_writing() {
    let rules = read(YARD).expect("a sound ruleset");
    let names: Vec<&str> = rules.attacks().iter().map(|attack| attack.name()).collect();
    assert_eq!(names, ["maul", "adze"]);
    let names: Vec<&str> = rules.templates().iter().map(|template| template.name()).collect();
    assert_eq!(names, ["mason", "hound"]);
    let teams: Vec<Option<&str>> = rules.teams().map(|team| rules.team_name(team)).collect();
    assert_eq!(teams, [Some("masons"), Some("hounds")]);
}

/// A ruleset that was read is the one that its file says: the fight goes as written.
#[test]
fn a_ruleset_from_a_file_plays() {
    let rules = read(YARD).expect("a sound ruleset");
    let mut fight = Encounter::new(&rules, 7);
    let mason = fight.orders().spawn(rules.find_template("mason").expect("a mason"), Pose::IDENTITY);
    let hound =
        fight.orders().spawn(rules.find_template("hound").expect("a hound"), Pose::at([0.0, 0.5, 1.0]));
    fight.orders().start(mason, rules.find_attack("maul").expect("a maul"));
    for _ in 0..20 {
        fight.tick().expect("a tick");
    }
    assert_eq!(fight.counts().hits, 1);
    let (health, most) = fight.view().health(hound).expect("it stands");
    assert!((12 - 5..=12 - 3).contains(&health) && most == 12, "{health}");
    assert_eq!(fight.view().statuses_of(hound).count(), 1);
}

#[test]
fn comments_and_the_order_of_fields_change_nothing() {
    let plain = read(YARD).expect("a sound ruleset").fingerprint();
    let other = YARD.replace("team = \"masons\"\nhealth = 40", "# A mason.\nhealth = 40\nteam = \"masons\"");
    assert_ne!(other, YARD);
    assert_eq!(read(&other).expect("a sound ruleset").fingerprint(), plain);
    let heavier = YARD.replace("crush = [3, 5]", "crush = [3, 6]");
    assert_ne!(read(&heavier).expect("a sound ruleset").fingerprint(), plain);
}

/// Each problem has its place and its fix, and all are told at once.
#[test]
fn problems_have_a_place_and_a_mend() {
    // What is written, what is written instead, what is marked of that, and what is said of it.
    let cases: [(&str, &str, &str, &[&str]); 6] = [
        (
            "team = \"masons\"",
            "team = \"mason\"",
            "\"mason\"",
            &["no team `mason`", "did you mean `masons`?"],
        ),
        ("[\"wet\"]", "[\"wett\"]", "\"wett\"", &["no status `wett`", "did you mean `wet`?"]),
        ("\"12 ticks\"", "\"12 furlongs\"", "\"12 furlongs\"", &["12 furlongs"]),
        ("{ cut = 1 }", "{ heat = 1 }", "heat", &["no damage type `heat`"]),
        (
            "recovery = \"20",
            "windup = \"20",
            "windup",
            &["unknown field `windup`", "it is called `startup` here"],
        ),
        ("health = 40", "health = \"much\"", "\"much\"", &["expected"]),
    ];
    for (from, to, marked, says) in cases {
        assert!(YARD.contains(from), "{from}");
        let text = YARD.replacen(from, to, 1);
        let error = read(&text).expect_err("something is wrong");
        assert_eq!(text[error.problems()[0].span()].trim(), marked, "{}", error.text());
        for said in says {
            assert!(error.text().contains(said), "{to}: no {said:?} in\n{}", error.text());
        }
    }
    for (from, to, says) in [
        ("health = 40", "health = -40", ["template `mason`", "health"]),
        ("radius = 0.2", "radius = -0.2", ["attack `maul`", "hitboxes"]),
        ("rate = 60", "rate = 0", ["yard.toml:", "rate"]),
    ] {
        let text = wrong(from, to);
        assert!(says.iter().all(|said| text.contains(said)), "{text}");
    }
    let both = YARD.replace("team = \"masons\"", "team = \"mason\"").replace("[\"wet\"]", "[\"dry\"]");
    let error = read(&both).expect_err("two things are wrong");
    assert_eq!((error.count(), error.problems().len()), (2, 2));
    assert_eq!(error.to_string(), "yard.toml cannot be used: 2 problems");
    for problem in error.problems() {
        let (line, column) = error.place(problem);
        let text = both.lines().nth(line - 1).expect("a line");
        let marked = &both[problem.span()];
        assert_eq!(text.chars().skip(column - 1).take(marked.chars().count()).collect::<String>(), marked);
    }
}

/// A file that is no TOML at all is told where it stops being some.
#[test]
fn what_is_no_toml_is_told_where() {
    let text = wrong("[team.hounds]", "[team.hounds");
    assert!(text.contains("yard.toml:10:13:"), "{text}");
    let empty = read("").expect_err("nothing is there").text();
    assert!(empty.contains("rules"), "{empty}");
}

/// What a rule asks of the fact must be a field of it.
#[test]
fn what_a_rule_publishes_is_of_the_sort_of_its_field() {
    const TOLD: &str = r#"
[topic."host.told"]
exact = "exact"
whole = "whole"
words = "text"
who = "who"
[rule.tells]
on-family = "damage.dealt"
do = [{ publish = "host.told", with = { FIELD } }]
"#;
    let read = |field: &str| {
        let general = "stats = { might = 2 }\ncounters = [\"blows\"]";
        read(&(YARD.replace("stats = { might = 2 }", general) + &TOLD.replace("FIELD", field)))
    };
    let sum = "{ terms = [{ of = \"fact.amount\", times = 0.5 }], base = 1, cap = 9 }";
    for sound in [
        "exact = \"fact.amount\"",
        "whole = \"other.health.share\", exact = 2.5",
        "whole = \"blows\", words = \"A blow.\", who = \"other\"",
        &format!("exact = {sum}, whole = {sum}"),
        "whole = \"distance\"",
    ] {
        assert!(read(sound).is_ok(), "{sound}: {}", read(sound).unwrap_err().text());
    }
    let long = format!("words = \"{}\"", "x".repeat(4097));
    for (wrong, told) in [
        ("exact = \"fact.amuont\"", "did you mean `amount`?"),
        ("exact = \"amount\"", "field `exact` holds an exact number"),
        ("whole = \"blow\"", "did you mean `blows`?"),
        ("words = 3", "field `words` holds a text"),
        (long.as_str(), "give a text of at most 4096 bytes"),
        ("who = \"odo\"", "a rule gives \"subject\" or \"other\""),
        (&format!("words = {sum}"), "field `words` holds a text"),
        (&format!("who = {sum}"), "field `who` holds a combatant"),
        ("wrods = \"A blow.\"", "did you mean `words`?"),
    ] {
        let text = read(wrong).map(|_| ()).unwrap_err().text();
        assert!(text.contains(told), "{wrong}: {text}");
    }
}

#[test]
fn fields_of_facts_are_looked_up() {
    let rule = |when: &str| {
        let rule = format!(
            "\n[rule.hears]\non = \"contact.met\"\nwhen = {{ fact = {{ {when} }} }}\ndo = [{{ say = \"Ho!\" }}]\n"
        );
        read(&(YARD.to_owned() + &rule)).map_err(|error| error.text())
    };
    assert!(
        rule("speed = { at-least = 2.5, at-most = 9 }, from-start = false, moved = \"both\", hitbox = 2")
            .is_ok()
    );
    let told = rule("sped = 2").expect_err("there is no such field");
    assert!(
        told.contains("there is no field of contact.met `sped`") && told.contains("did you mean `speed`?"),
        "{told}"
    );
    let told = rule("speed = [1, 2]").expect_err("it is a list");
    assert!(
        told.contains("expected a number, { at-least = 2, at-most = 5 }, true, false, or a word"),
        "{told}"
    );
    let told = rule("moved = 3").expect_err("it is a word");
    assert!(told.contains("the field of that name holds nothing of that sort"), "{told}");
    let told = rule("speed = 1.00001").expect_err("it is too exact");
    assert!(told.contains("cannot be kept exactly"), "{told}");
}

/// Everything that is shipped is read, and comes back the same through its bytes.
#[test]
fn everything_shipped_is_read_and_comes_back_from_bytes() {
    for (name, text) in shipped() {
        let read = RulesFile::read_with(&name, &text, &forms::beside(Path::new(&name)));
        if !cfg!(feature = "motion") && text.contains("[skeleton") {
            let told = read.expect_err("skeletons are not read").text();
            assert!(told.contains("this program reads no skeletons"), "{told}");
            continue;
        }
        let file = read.unwrap_or_else(|error| panic!("{}", error.text()));
        let bytes = file.ruleset.to_bytes();
        let read = Ruleset::from_bytes(&bytes).unwrap_or_else(|error| panic!("{name}: {error}"));
        assert_eq!(read.fingerprint(), file.ruleset.fingerprint(), "{name}");
        assert_eq!(read.to_bytes(), bytes, "{name}");
        assert!(bytes.len() < text.len().max(400), "{name}: {} bytes of {}", bytes.len(), text.len());
    }
}

proptest! {
    #![proptest_config(testkit::cases(400))]

    /// Whatever becomes of one line of a shipped file, it is read or refused, with places that lie in it.
    #[test]
    fn a_line_that_is_changed_is_read_or_refused_at_its_place(
        which in 0..100usize,
        line in 0..10_000usize,
        change in 0..5usize,
        word in "[a-z]{1,8}",
    ) {
        let all = shipped();
        let (name, text) = &all[which % all.len()];
        let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
        let place = line % lines.len();
        match change {
            0 => drop(lines.remove(place)),
            1 => lines[place] = lines[place].replace('"', ""),
            2 => lines[place] = lines[place].replace(|c: char| c.is_ascii_digit(), "9"),
            3 => lines[place] = lines[place].replacen(" = ", &format!("{word} = "), 1),
            _ => lines.insert(place, format!("{word} = \"{word}\"")),
        }
        let changed = lines.join("\n");
        if let Err(error) = RulesFile::read(name, &changed) {
            prop_assert!(error.count() > 0 && !error.problems().is_empty());
            for problem in error.problems() {
                let span = problem.span();
                prop_assert!(changed.get(span.clone()).is_some(), "{span:?} of {}", changed.len());
                let (at, column) = error.place(problem);
                prop_assert!(at >= 1 && at <= changed.lines().count() + 1 && column >= 1);
            }
            let text = error.text();
            prop_assert!(text.lines().count() > error.problems().len(), "{text}");
        }
    }
}
