//! What stand-ins cost beside the tick that they play in: `cargo run --profile measured --bin minds` in this folder.

use std::time::{Duration, Instant};

use hammerstone_bench::median;
use hammerstone_scenario::{Minds, Options, Play, Scenario, Wanted};

/// So many on each side.
const EACH: usize = 150;

const RULES: &str = r#"
[rules]
rate = 60
damage-types = ["crush"]
outcomes = ["over"]
[team.masons]
[team.beasts]
[attack.poke]
form = "melee"
startup = "0.3s"
active = "0.1s"
recovery = "0.3s"
damage = { crush = 3 }
hitboxes = [{ capsule = { from = [0, 1, 0.4], to = [0, 1, 1.5], radius = 0.15 } }]
[attack.sidestep]
form = "melee"
startup = "0.05s"
active = "0.05s"
recovery = "0.3s"
strikes = []
self-status = [{ status = "sidestepping", from = "0s", to = "0.3s" }]
hitboxes = [{ sphere = { at = [0, 1, 0], radius = 0.1 } }]
[status.sidestepping]
invulnerable = true
[template.mason]
team = "masons"
health = 100000
attacks = ["poke", "sidestep"]
[template.mason.part.head]
sphere = { at = [0, 1.65, 0], radius = 0.16 }
[template.mason.part.trunk]
capsule = { from = [0, 0.4, 0], to = [0, 1.35, 0], radius = 0.26 }
[template.hound]
based-on = "mason"
team = "beasts"
"#;

fn fight() -> Scenario {
    let text = format!(
        r#"
[scenario]
title = "Three hundred"
rules = "rules"
lasts = "60s"
outcome = "over"
[combatant.mason]
template = "mason"
count = {EACH}
at = [-45, 0, 0]
apart = [0.6, 0, 0]
[combatant.hound]
template = "hound"
count = {EACH}
at = [-45, 0, 8]
apart = [0.6, 0, 0]
facing = 180
[tactics.all]
for = {{}}
reaction = ["0.15s", "0.3s"]
skill = 0.5
[[tactics.all.choice]]
do = {{ start = "sidestep", lead = "0.1s" }}
[[tactics.all.choice]]
when = {{ chance = 0.4 }}
do = {{ start = "poke" }}
[[tactics.all.choice]]
when = {{ compare = [{{ left = "distance", above = 2 }}] }}
do = {{ approach = 1.3 }}
[[tactics.all.choice]]
do = {{ circle = 1.6 }}
"#
    );
    let open = |_: Wanted<'_>| Ok(("rules".to_owned(), RULES.as_bytes().to_vec()));
    Scenario::read("three-hundred.toml", &text, &open).unwrap_or_else(|unusable| panic!("{}", unusable.text()))
}

fn main() {
    let scenario = fight();
    let mut play = Play::new(&scenario, Options::default());
    let (encounter, names) = (&mut play.encounter, play.run.names.clone());
    let mut minds = Minds::of(&scenario);
    let (mut thought, mut ticked, mut swings) = (Vec::new(), Vec::new(), 0);
    let millis = |time: Duration| time.as_secs_f64() * 1000.0;
    for tick in 0..1800 {
        let begun = Instant::now();
        minds.think(encounter, &names);
        let middle = Instant::now();
        encounter.tick().expect("it ticks");
        let end = Instant::now();
        // They need three seconds to meet.
        if tick >= 240 {
            thought.push(millis(middle - begun));
            ticked.push(millis(end - middle));
            swings += encounter.view().swings().count();
        }
    }
    let swings = swings as f64 / thought.len() as f64;
    let (thought, ticked) = (median(thought), median(ticked));
    println!("{} stand-ins, {swings:.0} swings under way", 2 * EACH);
    println!("thinking {thought:.3} ms, the tick {ticked:.3} ms: {:.2} of it", thought / ticked);
}
