//! Rules, waves, spots and topics of the host's own, as they are written.

use indexmap::IndexMap;
use serde::Deserialize;
use toml::Spanned;

use super::*;

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Spot {
    pub(crate) at: Vector,
    pub(crate) facing: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Waves {
    pub(crate) template: Name,
    pub(crate) team: Option<Name>,
    pub(crate) size: Spanned<u32>,
    pub(crate) times: Spanned<u32>,
    pub(crate) adds: Option<Spanned<u32>>,
    pub(crate) grows: Option<Number>,
    #[serde(default)]
    pub(crate) at: Vec<Name>,
    pub(crate) apart: Option<Vector>,
    pub(crate) delay: Option<Time>,
    pub(crate) next_when: Option<NextWhen>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct NextWhen {
    pub(crate) left: u32,
    pub(crate) team: Option<Name>,
    pub(crate) template: Option<Name>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
}

/// Which combatants are meant.
#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Group {
    pub(crate) team: Option<Name>,
    pub(crate) template: Option<Name>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Lives {
    pub(crate) count: Spanned<u32>,
    pub(crate) delay: Option<Time>,
    pub(crate) at: Option<Name>,
    pub(crate) health: Option<Number>,
    pub(crate) last: Option<Name>,
}

/// A share of health, or that and what becomes of it in a blow that kills.
#[derive(Debug, Deserialize)]
#[serde(
    untagged,
    expecting = "expected a share of health, such as 0.5, or { share = 0.5, if-it-kills = \"fire\" }"
)]
pub(crate) enum Threshold {
    Plain(f64),
    Declared {
        share: f64,
        #[serde(rename = "if-it-kills")]
        if_it_kills: String,
    },
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Rule {
    pub(crate) on: Option<Name>,
    pub(crate) on_family: Option<Name>,
    #[serde(default)]
    pub(crate) when: Provided,
    #[serde(rename = "do")]
    pub(crate) does: Vec<Spanned<Reaction>>,
    pub(crate) limit: Option<Name>,
    pub(crate) priority: Option<i16>,
}

#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Provided {
    pub(crate) subject: Option<Group>,
    pub(crate) other: Option<Group>,
    pub(crate) health: Option<Between<f64>>,
    pub(crate) threshold: Option<Name>,
    pub(crate) direction: Option<Name>,
    pub(crate) status: Option<Name>,
    pub(crate) attack: Option<Name>,
    #[serde(default)]
    pub(crate) flags_up: Vec<Name>,
    #[serde(default)]
    pub(crate) flags_down: Vec<Name>,
    #[serde(default = "IndexMap::new")]
    pub(crate) counters: Named<Between<i64>>,
    #[serde(default = "IndexMap::new")]
    pub(crate) scores: Named<Between<i64>>,
    pub(crate) time: Option<Span>,
    pub(crate) round: Option<Between<u32>>,
    #[serde(default)]
    pub(crate) alive: Vec<Alive>,
    #[serde(default)]
    pub(crate) waves_over: Vec<Name>,
}

/// From one number to another; either may be left out.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Between<T> {
    pub(crate) at_least: Option<T>,
    pub(crate) at_most: Option<T>,
    pub(crate) is: Option<T>,
}

impl<T: Copy> Between<T> {
    /// The range, with what stands for a bound that is left out.
    pub(crate) fn range(&self, least: T, most: T) -> (T, T) {
        (self.is.or(self.at_least).unwrap_or(least), self.is.or(self.at_most).unwrap_or(most))
    }
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Span {
    pub(crate) from: Option<Time>,
    pub(crate) to: Option<Time>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Alive {
    pub(crate) team: Option<Name>,
    pub(crate) template: Option<Name>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
    pub(crate) at_least: Option<u32>,
    pub(crate) at_most: Option<u32>,
    pub(crate) is: Option<u32>,
}

/// One thing that a rule does. Exactly one of the verbs is given.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Reaction {
    pub(crate) after: Option<Time>,
    pub(crate) to: Option<Spanned<To>>,
    pub(crate) raise_flag: Option<Name>,
    pub(crate) lower_flag: Option<Name>,
    pub(crate) count: Option<Count>,
    pub(crate) score: Option<Score>,
    pub(crate) start_waves: Option<Name>,
    #[serde(default)]
    pub(crate) next_round: bool,
    pub(crate) apply: Option<Name>,
    pub(crate) strength: Option<Number>,
    pub(crate) by: Option<Name>,
    pub(crate) lift: Option<Name>,
    pub(crate) damage: Option<Named<Number>>,
    pub(crate) heal: Option<u32>,
    pub(crate) reason: Option<Name>,
    pub(crate) start: Option<Name>,
    pub(crate) spawn_attack: Option<SpawnAttackAt>,
    #[serde(default)]
    pub(crate) send_away: bool,
    pub(crate) bring_back: Option<Name>,
    #[serde(default)]
    pub(crate) remove: bool,
    pub(crate) publish: Option<Name>,
    #[serde(default = "IndexMap::new")]
    pub(crate) with: Named<Spanned<toml::Value>>,
    pub(crate) say: Option<String>,
    pub(crate) end: Option<Name>,
    #[serde(default)]
    pub(crate) reset: bool,
}

/// The target of a reaction.
#[derive(Debug, Deserialize)]
#[serde(
    untagged,
    expecting = "expected \"subject\", \"other\", \"followers\", or { team = \"…\" }, with template or tags"
)]
pub(crate) enum To {
    One(String),
    Group(PlainGroup),
}

/// As [`Group`], where the place of each name is that of the whole.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct PlainGroup {
    pub(crate) team: Option<String>,
    pub(crate) template: Option<String>,
    #[serde(default)]
    pub(crate) tags: Vec<String>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Count {
    pub(crate) of: Name,
    pub(crate) add: Option<i64>,
    pub(crate) set: Option<i64>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Score {
    pub(crate) of: Name,
    pub(crate) points: Option<i64>,
    pub(crate) value: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct SpawnAttackAt {
    pub(crate) attack: Name,
    pub(crate) team: Name,
    pub(crate) at: Name,
}
