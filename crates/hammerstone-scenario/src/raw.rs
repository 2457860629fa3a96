//! Scenarios as they are written.

use serde::Deserialize;
use toml::Spanned;

pub(crate) use hammerstone_rules::raw::*;

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct ScenarioFile {
    pub(crate) scenario: Heading,
    #[serde(default = "Named::new")]
    pub(crate) combatant: Named<Combatant>,
    #[serde(default = "Named::new")]
    pub(crate) obstacle: Named<Obstacle>,
    #[serde(default)]
    pub(crate) script: Vec<Spanned<Entry>>,
    #[serde(default)]
    pub(crate) expect: Vec<Spanned<Expect>>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Heading {
    pub(crate) title: String,
    pub(crate) rules: Name,
    pub(crate) lasts: Time,
    pub(crate) seed: Option<u64>,
    pub(crate) outcome: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Combatant {
    pub(crate) template: Name,
    pub(crate) team: Option<Name>,
    pub(crate) at: Vector,
    pub(crate) facing: Option<Number>,
    pub(crate) count: Option<Spanned<i64>>,
    pub(crate) apart: Option<Vector>,
    #[serde(default)]
    pub(crate) path: Vec<Spanned<Leg>>,
    pub(crate) follows: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Leg {
    pub(crate) by: Time,
    pub(crate) to: Vector,
    pub(crate) facing: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Obstacle {
    pub(crate) sphere: Option<Sphere>,
    #[serde(rename = "box")]
    pub(crate) block: Option<Block>,
    pub(crate) ground: Option<Ground>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Ground {
    pub(crate) at: Vector,
    pub(crate) normal: Vector,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct SpawnAttack {
    pub(crate) attack: Name,
    pub(crate) team: Name,
    pub(crate) at: Vector,
    pub(crate) facing: Option<Number>,
}

/// One line of the script. Exactly one of the verbs is given.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Entry {
    pub(crate) at: Time,
    pub(crate) every: Option<Time>,
    pub(crate) times: Option<Spanned<i64>>,
    pub(crate) who: Option<Name>,
    pub(crate) each: Option<Group>,
    pub(crate) by: Option<Name>,
    pub(crate) start: Option<Name>,
    pub(crate) aim: Option<Stand>,
    pub(crate) spawn_attack: Option<SpawnAttack>,
    pub(crate) marker: Option<Name>,
    pub(crate) release: Option<Spanned<bool>>,
    pub(crate) guide: Option<Guide>,
    pub(crate) report: Option<Report>,
    pub(crate) remove_obstacle: Option<Name>,
    pub(crate) cancel: Option<Spanned<bool>>,
    pub(crate) teleport: Option<Stand>,
    #[serde(rename = "move")]
    pub(crate) moves: Option<Walk>,
    pub(crate) damage: Option<Damage>,
    pub(crate) heal: Option<Spanned<i64>>,
    pub(crate) reason: Option<Name>,
    #[serde(default)]
    pub(crate) absolute: bool,
    pub(crate) apply: Option<Name>,
    pub(crate) strength: Option<Number>,
    pub(crate) lift_family: Option<Name>,
    pub(crate) change: Option<Spanned<Change>>,
    pub(crate) unchange: Option<Name>,
    pub(crate) set_maximum: Option<SetMaximum>,
    pub(crate) raise_shield: Option<ShieldOf>,
    pub(crate) lift: Option<Name>,
    pub(crate) send_away: Option<Spanned<bool>>,
    pub(crate) bring_back: Option<Stand>,
    pub(crate) remove: Option<Spanned<bool>>,
    pub(crate) end: Option<Name>,
    pub(crate) raise_flag: Option<Name>,
    pub(crate) lower_flag: Option<Name>,
    pub(crate) count: Option<Count>,
    pub(crate) score: Option<Score>,
    pub(crate) start_waves: Option<Name>,
    pub(crate) next_round: Option<Spanned<bool>>,
    pub(crate) say: Option<Spanned<String>>,
    pub(crate) publish: Option<Name>,
    #[serde(default = "Named::new")]
    pub(crate) with: Named<Spanned<toml::Value>>,
    pub(crate) follow: Option<Name>,
    pub(crate) attach: Option<Attach>,
    pub(crate) reset: Option<Spanned<bool>>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Attach {
    pub(crate) value: Name,
    pub(crate) amount: i64,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct SetMaximum {
    pub(crate) points: Spanned<i64>,
    pub(crate) keep: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Guide {
    pub(crate) place: Option<Vector>,
    pub(crate) turn: Option<Turn>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Report {
    pub(crate) target: Name,
    pub(crate) part: Name,
    pub(crate) point: Vector,
    pub(crate) normal: Vector,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Walk {
    pub(crate) to: Vector,
    pub(crate) over: Time,
    pub(crate) facing: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Expect {
    pub(crate) topic: Option<Name>,
    #[serde(default = "Named::new")]
    pub(crate) with: Named<toml::Value>,
    pub(crate) during: Option<[Time; 2]>,
    pub(crate) sum: Option<Name>,
    pub(crate) health_of: Option<Name>,
    pub(crate) at: Option<Time>,
    pub(crate) is: Option<i64>,
    pub(crate) at_least: Option<i64>,
    pub(crate) at_most: Option<i64>,
}
