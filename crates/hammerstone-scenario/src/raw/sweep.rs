//! Sweeps as they are written.

use hammerstone_rules::problem::Reading;
use hammerstone_rules::read::{Node, Read, Value};
use hammerstone_rules::tables;
use toml::Spanned;
use toml::de::DeValue;

use super::{Name, Named};

tables! {
    pub(crate) struct SweepFile {
        /// Fights that are run with many seeds and values, all of it one night's work.
        sweep: SweepHeading,
    }

    pub(crate) struct SweepHeading {
        /// What it is called.
        title: String,
        /// Scenarios, relative to this file; each by its name, or with what is said of it alone.
        fights: Vec<Spanned<SweptFightOf>>,
        /// How many seeds each fight has with each of its values, counted up from the first; 100 unless said.
        seeds: Option<Spanned<i64>>,
        /// The first seed; that of each scenario unless said.
        seed: Option<u64>,
        /// The length of each fight in ticks; that of its scenario unless said.
        ticks: Option<Spanned<i64>>,
        /// Other values at paths of the scenarios or their rulesets, as `"8..16/2"` or a list; several cross each other.
        values: Named<Spanned<Value>>,
        /// What is kept of each run beside its outcome, its length and its hits: `teams`, `combatants`, `means`; all of it unless said.
        keep: Option<Vec<Name>>,
    }

    pub(crate) struct SweptFight {
        /// The scenario's file, relative to this one.
        file: Name,
        /// What it is called in tables and names of files; as its file unless said.
        name: Option<Name>,
        /// As for all fights.
        seeds: Option<Spanned<i64>>,
        /// As for all fights.
        seed: Option<u64>,
        /// As for all fights.
        ticks: Option<Spanned<i64>>,
        /// Beside those of all fights; a path that both have is as it is here.
        values: Named<Spanned<Value>>,
        /// As for all fights.
        keep: Option<Vec<Name>>,
    }
}

/// A fight by its file, or with what is said of it alone.
#[derive(Debug)]
pub(crate) enum SweptFightOf {
    Plain(String),
    With(Box<SweptFight>),
}

impl Read for SweptFightOf {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::String(_) => Read::read(value, reading).map(SweptFightOf::Plain),
            DeValue::Table(_) => Read::read(value, reading).map(|own| SweptFightOf::With(Box::new(own))),
            _ => reading.mistaken(value, "the name of a scenario's file, or { file = \"…\", seeds = 500 }"),
        }
    }
}
