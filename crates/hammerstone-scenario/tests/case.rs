//! Scenarios with a log as their fight: held against what they expect, as it was recorded and with the code of today.

use hammerstone::Fixed;
use hammerstone::event::CombatantJoined;
use hammerstone::prelude::*;
use hammerstone_record::{LogOptions, Named, Recorder};
use hammerstone_scenario::{Case, Scenario, Unusable, Wanted};

/// A hook that hurts each one who comes.
fn hooks(points: i64) -> Hooks<()> {
    let mut hooks = Hooks::new();
    hooks.on("greets", move |(), joined: &CombatantJoined, heard, orders| {
        let rules = heard.view.rules();
        let (crush, tide) = (rules.find_damage_type("crush"), rules.find_reason("tide"));
        if let Some((crush, tide)) = crush.zip(tide) {
            orders.damage(joined.subject, crush, Fixed::whole(points), tide);
        }
    });
    hooks
}

/// Odo comes, is hurt by 3 points, and stands a while.
fn log() -> Vec<u8> {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    b.damage_type("crush");
    b.reason("tide");
    let mason = b.template(Template::new("mason", masons, 40));
    let rules = b.build().expect("sound rules");
    let mut fight = Encounter::new(&rules, 7);
    let hooks = hooks(3);
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &LogOptions::at_rate(60));
    fight.orders().subscribe(hooks.find("greets").expect("it is there"), Listen::to(topic::COMBATANT_JOINED));
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    recorder.name(Named::Combatant(odo), "odo");
    for _ in 0..30 {
        recorder.tick_with(&mut fight, &hooks, &mut ()).expect("it ticks");
    }
    recorder.finish().expect("memory")
}

fn case(expect: &str) -> Result<Case, String> {
    let text = format!("[scenario]\ntitle = \"Odo comes\"\nlog = \"odo.log\"\n{expect}");
    assert!(Case::is_one(&text));
    let open = |name: &str| if name == "odo.log" { Ok(log()) } else { Err("it is not there".to_owned()) };
    Case::read("odo.toml", &text, &open).map_err(|wrong| told(&wrong))
}

/// Everything that is wrong.
fn told(wrong: &Unusable) -> String {
    wrong.problems().iter().map(ToString::to_string).collect::<Vec<_>>().join("; ")
}

const EXPECTS: &str = "
[[expect]]
health-of = \"odo\"
at = \"0.2s\"
is = 37
[[expect]]
topic = \"damage.dealt\"
with = { target = \"odo\" }
sum = \"amount\"
is = 3
[[expect]]
topic = \"combatant.died\"
never = true
";

#[test]
fn a_case_is_tested_as_recorded_and_with_the_code_of_today() {
    let case = case(EXPECTS).expect("it is right");
    assert_eq!((case.title.as_str(), case.log.len()), ("Odo comes", 30));
    let wrong = |verdicts: Vec<hammerstone_scenario::Verdict>| -> Vec<String> {
        verdicts.into_iter().filter(|verdict| !verdict.holds).map(|verdict| verdict.to_string()).collect()
    };
    assert_eq!(wrong(case.test().expect("it runs")), Vec::<String>::new());
    assert_eq!(wrong(case.test_with(&hooks(3), &mut ()).expect("it runs")), Vec::<String>::new());
    let other = wrong(case.test_with(&hooks(50), &mut ()).expect("it runs"));
    assert_eq!(other.len(), 3, "{other:?}");
    assert!(other[1].ends_with("found 40"), "{other:?}");
}

#[test]
fn what_is_wrong_with_a_case_is_told_at_its_place() {
    for (expect, said) in [
        ("\n[[expect]]\nhealth-of = \"bram\"\nat = \"0s\"\nis = 1\n", "bram"),
        ("\n[[expect]]\ntopic = \"hits\"\nis = 1\n", "hits"),
        ("rules = \"a.rules.toml\"\n", "rules"),
        ("\n[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n", "combatant"),
    ] {
        let error = case(expect).expect_err(said);
        assert!(error.contains(said), "{error}");
    }
    let open = |_: &str| Err("it is not there".to_owned());
    let text = "[scenario]\ntitle = \"x\"\nlog = \"odo.log\"\n";
    let error = told(&Case::read("odo.toml", text, &open).map(drop).expect_err("it is not there"));
    assert!(error.contains("the log `odo.log` cannot be run: it is not there"), "{error}");
    for text in ["", "[scenario]\ntitle = \"x\"\n", "log = \"odo.log\"", "scenario = \"log\"", "[scenario"] {
        assert!(!Case::is_one(text), "{text}");
    }
}

/// A start that is rewound further than the ruleset says is found when the file is read.
#[test]
fn a_start_is_rewound_no_further_than_the_ruleset_says() {
    let rules = std::fs::read("../../scenarios/craft/lag.rules.toml").expect("it is shipped");
    let fight = std::fs::read_to_string("../../scenarios/craft/lag.toml").expect("it is shipped");
    let open = |_: Wanted<'_>| Ok(("lag.rules.toml".to_owned(), rules.clone()));
    assert!(Scenario::read("lag.toml", &fight, &open).is_ok());
    let far = fight.replacen("rewind = \"6 ticks\"\n\n", "rewind = \"0.25s\"\n\n", 1);
    assert_ne!(far, fight);
    let error = told(&Scenario::read("lag.toml", &far, &open).map(drop).expect_err("it is too far"));
    assert!(error.contains("15 ticks is further back than the ruleset rewinds swings: 12 ticks"), "{error}");
}
