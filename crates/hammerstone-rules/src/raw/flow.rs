//! Rules, waves, spots and topics of the host's own, as they are written.

use serde::Deserialize;
use toml::Spanned;

use super::*;

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Spot {
    pub at: Vector,
    pub facing: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Waves {
    pub template: Name,
    pub team: Option<Name>,
    pub size: Spanned<u32>,
    pub times: Spanned<u32>,
    pub adds: Option<Spanned<u32>>,
    pub grows: Option<Number>,
    #[serde(default)]
    pub at: Vec<Name>,
    pub apart: Option<Vector>,
    pub delay: Option<Time>,
    pub next_when: Option<NextWhen>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct NextWhen {
    pub left: u32,
    pub team: Option<Name>,
    pub template: Option<Name>,
    #[serde(default)]
    pub tags: Vec<Name>,
}

/// Which combatants are meant.
#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Group {
    pub team: Option<Name>,
    pub template: Option<Name>,
    #[serde(default)]
    pub tags: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Lives {
    pub count: Spanned<u32>,
    pub delay: Option<Time>,
    pub at: Option<Name>,
    pub health: Option<Number>,
    pub last: Option<Name>,
}

/// A share of health, or that and what becomes of it in a blow that kills.
#[derive(Debug, Deserialize)]
#[serde(
    untagged,
    expecting = "expected a share of health, such as 0.5, or { share = 0.5, if-it-kills = \"fire\" }"
)]
pub enum Threshold {
    Plain(f64),
    Declared {
        share: f64,
        #[serde(rename = "if-it-kills")]
        if_it_kills: String,
    },
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Rule {
    pub on: Option<Name>,
    pub on_family: Option<Name>,
    #[serde(default)]
    pub when: Provided,
    #[serde(rename = "do")]
    pub does: Vec<Spanned<Reaction>>,
    pub limit: Option<Name>,
    pub priority: Option<i16>,
}

#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Provided {
    pub subject: Option<Group>,
    pub other: Option<Group>,
    pub health: Option<Between<f64>>,
    pub threshold: Option<Name>,
    pub direction: Option<Name>,
    pub status: Option<Name>,
    pub attack: Option<Name>,
    #[serde(default)]
    pub flags_up: Vec<Name>,
    #[serde(default)]
    pub flags_down: Vec<Name>,
    #[serde(default = "Named::new")]
    pub counters: Named<Between<i64>>,
    #[serde(default = "Named::new")]
    pub scores: Named<Between<i64>>,
    pub time: Option<Span>,
    pub round: Option<Between<u32>>,
    #[serde(default)]
    pub alive: Vec<Alive>,
    #[serde(default)]
    pub waves_over: Vec<Name>,
}

/// From one number to another; either may be left out.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Between<T> {
    pub at_least: Option<T>,
    pub at_most: Option<T>,
    pub is: Option<T>,
}

impl<T: Copy> Between<T> {
    /// The range, with what stands for a bound that is left out.
    pub fn range(&self, least: T, most: T) -> (T, T) {
        (self.is.or(self.at_least).unwrap_or(least), self.is.or(self.at_most).unwrap_or(most))
    }
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Span {
    pub from: Option<Time>,
    pub to: Option<Time>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Alive {
    pub team: Option<Name>,
    pub template: Option<Name>,
    #[serde(default)]
    pub tags: Vec<Name>,
    pub at_least: Option<u32>,
    pub at_most: Option<u32>,
    pub is: Option<u32>,
}

/// One thing that a rule does. Exactly one of the verbs is given.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Reaction {
    pub after: Option<Time>,
    pub to: Option<Spanned<To>>,
    pub raise_flag: Option<Name>,
    pub lower_flag: Option<Name>,
    pub count: Option<Count>,
    pub score: Option<Score>,
    pub start_waves: Option<Name>,
    #[serde(default)]
    pub next_round: bool,
    pub apply: Option<Name>,
    pub strength: Option<Number>,
    pub by: Option<Name>,
    pub lift: Option<Name>,
    pub damage: Option<Named<Number>>,
    pub heal: Option<u32>,
    pub reason: Option<Name>,
    pub start: Option<Name>,
    pub spawn_attack: Option<SpawnAttackAt>,
    #[serde(default)]
    pub send_away: bool,
    pub bring_back: Option<Name>,
    #[serde(default)]
    pub remove: bool,
    pub publish: Option<Name>,
    #[serde(default = "Named::new")]
    pub with: Named<Spanned<toml::Value>>,
    pub say: Option<String>,
    pub end: Option<Name>,
    #[serde(default)]
    pub reset: bool,
}

/// The target of a reaction.
#[derive(Debug, Deserialize)]
#[serde(
    untagged,
    expecting = "expected \"subject\", \"other\", \"followers\", or { team = \"…\" }, with template or tags"
)]
pub enum To {
    One(String),
    Group(PlainGroup),
}

/// As [`Group`], where the place of each name is that of the whole.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct PlainGroup {
    pub team: Option<String>,
    pub template: Option<String>,
    #[serde(default)]
    pub tags: Vec<String>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Count {
    pub of: Name,
    pub add: Option<i64>,
    pub set: Option<i64>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Score {
    pub of: Name,
    pub points: Option<i64>,
    pub value: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct SpawnAttackAt {
    pub attack: Name,
    pub team: Name,
    pub at: Name,
}
