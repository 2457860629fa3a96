//! Two alike spar: neither is favoured, damage and skill pay, and few fights run out of time. With `HAMMERSTONE_LONG=1`, over 10,000 seeds.

use hammerstone_record::{Ran, Running};
use hammerstone_scenario::{Options, Play, Scenario, Wanted};

const SPAR: &str = include_str!("../../../scenarios/spar.toml");
const RULES: &str = include_str!("../../../scenarios/spar.rules.toml");

/// How fights of many seeds end.
#[derive(Clone, Copy, Debug, Default)]
struct Ends {
    odo: u32,
    ilse: u32,
    undecided: u32,
}

impl Ends {
    fn share_of_odo(self) -> f64 {
        f64::from(self.odo) / f64::from(self.odo + self.ilse)
    }

    /// Where the share lies, at 99 %. *Source:* Wilson, 1927.
    fn interval(self) -> (f64, f64) {
        let (n, z) = (f64::from(self.odo + self.ilse), 2.576);
        let share = self.share_of_odo();
        let middle = share + z * z / (2.0 * n);
        let half = z * (share * (1.0 - share) / n + z * z / (4.0 * n * n)).sqrt();
        let whole = 1.0 + z * z / n;
        ((middle - half) / whole, (middle + half) / whole)
    }
}

fn seeds() -> u64 {
    match (std::env::var_os("HAMMERSTONE_LONG"), cfg!(debug_assertions)) {
        (Some(_), _) => 10_000,
        (None, false) => 1000,
        // Without optimisation each takes fifty times as long.
        (None, true) => 60,
    }
}

fn ran(scenario: &Scenario, seed: u64) -> Ran {
    let options = Options { seed: Some(seed), ..Options::default() };
    let (mut play, mut running) = (Play::new(scenario, options), Running::new());
    play.through(&mut [&mut running]).unwrap();
    running.finish(&play.encounter, &play.run.names, seed)
}

fn fought(text: &str, rules: &str) -> Ends {
    let open = |_: Wanted<'_>| Ok(("spar.rules.toml".to_owned(), rules.as_bytes().to_vec()));
    let scenario =
        Scenario::read("spar.toml", text, &open).unwrap_or_else(|unusable| panic!("{}", unusable.text()));
    let of = |from: u64| {
        let mut ends = Ends::default();
        for seed in (from..seeds()).step_by(2) {
            match ran(&scenario, seed).outcome.as_str() {
                "odo-wins" => ends.odo += 1,
                "ilse-wins" => ends.ilse += 1,
                _ => ends.undecided += 1,
            }
        }
        ends
    };
    let [one, two] = std::thread::scope(|scope| {
        let other = scope.spawn(|| of(1));
        [of(0), other.join().unwrap()]
    });
    Ends { odo: one.odo + two.odo, ilse: one.ilse + two.ilse, undecided: one.undecided + two.undecided }
}

/// The same fight, in which Ilse joins first.
fn the_other_way_round() -> String {
    let tables: Vec<usize> = ["[combatant.odo]", "[combatant.ilse]", "[tactics.sparring]"]
        .map(|table| SPAR.find(table).unwrap())
        .to_vec();
    let [head, odo, ilse, rest] =
        [&SPAR[..tables[0]], &SPAR[tables[0]..tables[1]], &SPAR[tables[1]..tables[2]], &SPAR[tables[2]..]];
    [head, ilse, odo, rest].concat()
}

fn with_skill(of_odo: f64) -> String {
    let (head, rest) = SPAR.split_once("[combatant.ilse]").unwrap();
    let head = head.replacen("skill = 0.5", &format!("skill = {of_odo}"), 1);
    assert!(head.contains(&format!("skill = {of_odo}")));
    format!("{head}[combatant.ilse]{rest}")
}

#[test]
fn neither_of_two_alike_is_favoured() {
    for text in [SPAR.to_owned(), the_other_way_round()] {
        let ends = fought(&text, RULES);
        let (low, high) = ends.interval();
        println!("{ends:?}: {low:.4} to {high:.4}");
        assert!((low..=high).contains(&0.5), "{ends:?}: {low:.3} to {high:.3}");
        assert!(u64::from(ends.undecided) * 50 < seeds(), "{ends:?}");
    }
}

#[test]
fn damage_and_skill_pay() {
    let plain = fought(SPAR, RULES).share_of_odo();
    // A fifth more damage, for one of the two.
    let rules =
        RULES.to_owned() + "\n[template.strong]\nbased-on = \"sparrer\"\ndeals = [{ multiply = 1.2 }]\n";
    let strong =
        SPAR.replacen("template = \"sparrer\"\nat = [0, 0, -2]", "template = \"strong\"\nat = [0, 0, -2]", 1);
    let strong = strong.replace("for = { template = \"sparrer\" }", "for = {}");
    let strong = fought(&strong, &rules).share_of_odo();
    let [none, all] = [0.0, 1.0].map(|skill| fought(&with_skill(skill), RULES).share_of_odo());
    println!("plain {plain:.4}, a fifth more damage {strong:.4}, skill from {none:.4} to {all:.4}");
    assert!(strong > plain + 0.02, "{strong:.3} and {plain:.3}");
    assert!(all - none >= 0.2, "{none:.3} to {all:.3}");
    assert!(none < plain && plain < all, "{none:.3}, {plain:.3}, {all:.3}");
}
