//! Parts of a survey that runs on many machines: each a table with commas between its cells, which any tool for tables reads.
//!
//! The columns are [`COLUMNS`]; `docs/formats.md` says what each holds. The first row tells the survey and which of its runs the part has.
//! Then come the rows of each run: teams, combatants, means, and last the run itself, which seals them.

mod gather;
mod read;
mod write;

use std::ops::RangeInclusive;

use serde::{Deserialize, Serialize};
use xxhash_rust::xxh3::Xxh3Default;

pub use gather::{GatherError, Gathered, gather};
pub use read::{PartError, PartReader};
pub use write::PartWriter;

use crate::Ran;

/// So many bytes a row may have, so that a file without line ends does not fill the memory.
const MOST_BYTES: u64 = 16 << 20;
/// So many rows a run may have: teams, combatants, attacks.
const MOST_ROWS: usize = 1 << 20;

/// The form of parts; it is raised when a column is.
pub(crate) const FORM: u32 = 1;

macro_rules! columns {
    ($($column:ident),* $(,)?) => {
        #[derive(Clone, Copy, PartialEq, Eq, Debug)]
        #[allow(non_camel_case_types)]
        pub(crate) enum Column { $($column),* }

        /// The columns of a part, in their order. Numbers are whole; a cell is empty where a row has nothing of it.
        pub const COLUMNS: &[&str] = &[$(stringify!($column)),*];
    };
}

columns! {
    run, row, name, team, sort, fight, values, seed, outcome, rate, ticks, hits, dealt, taken, deaths, standing, died, died_of,
    time_to_kill, stunned, starts, landed, dodged, blocked, turned_away, overkill, kills, survey, check,
}

/// What is kept of each run, beside how it ended, how long it took and its hits.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct Kept {
    /// What each team came to.
    pub teams: bool,
    /// What each combatant came to.
    pub combatants: bool,
    /// What each attack came to, and what else dealt damage.
    pub means: bool,
}

impl Kept {
    /// All of it.
    pub const ALL: Kept = Kept { teams: true, combatants: true, means: true };

    /// Takes off a run what is not kept.
    pub fn strip(self, ran: &mut Ran) {
        if !self.teams {
            ran.teams.clear();
        }
        if !self.combatants {
            ran.fighters.clear();
        }
        if !self.means {
            ran.means.clear();
        }
    }
}

/// A fight of a survey, and how often it is run.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct SurveyedFight {
    /// What it is called among the fights of the survey.
    pub name: String,
    /// Its title.
    pub title: String,
    /// Whether any of its combatants have tactics.
    pub tactics: bool,
    /// The first seed.
    pub seed: u64,
    /// How many seeds, counted up from the first, with each of the values.
    pub seeds: u64,
    /// The paths of values that are varied.
    pub varied: Vec<String>,
    /// The values at these paths, of each point.
    pub points: Vec<Vec<String>>,
    /// What is kept of each run.
    pub kept: Kept,
}

impl SurveyedFight {
    /// How many runs it takes.
    pub fn runs(&self) -> u64 {
        self.seeds.saturating_mul(self.points.len() as u64)
    }
}

/// A survey as a whole: what its runs are of. All parts of it say the same.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct Surveyed {
    /// The version of the program that runs it.
    pub version: String,
    /// Of the files and values, as sixteen digits in base sixteen.
    pub fingerprint: String,
    /// Its title.
    pub title: String,
    /// Whether it is one of a sweep's file, which may have several fights.
    pub sweep: bool,
    /// The fights, in the order in which they are run.
    pub fights: Vec<SurveyedFight>,
}

/// What a run of a survey is of.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct RunOf {
    /// Which fight, from 0.
    pub fight: usize,
    /// Which values, from 0.
    pub point: usize,
    /// How many seeds after the first.
    pub number: u64,
}

impl Surveyed {
    /// How many runs it takes. They are numbered from 1: all seeds of the first values of the first fight, then those of the next values.
    pub fn runs(&self) -> u64 {
        self.fights.iter().fold(0, |sum, fight| sum.saturating_add(fight.runs()))
    }

    /// What the run of a number is of; none if there is no such run.
    pub fn run(&self, number: u64) -> Option<RunOf> {
        let mut left = number.checked_sub(1)?;
        for (fight, of) in self.fights.iter().enumerate() {
            if left < of.runs() {
                return Some(RunOf { fight, point: (left / of.seeds) as usize, number: left % of.seeds });
            }
            left -= of.runs();
        }
        None
    }

    /// The runs of one of so many shards, counted from 1: as many as the others have, or one more. All shards together have each run once.
    pub fn shard(&self, shard: u64, of: u64) -> RangeInclusive<u64> {
        let runs = u128::from(self.runs());
        let until = |shard: u64| (runs * u128::from(shard) / u128::from(of.max(1))) as u64;
        until(shard.saturating_sub(1)) + 1..=until(shard)
    }
}

/// The fingerprint of what a survey is made of, over all of it in order.
pub fn fingerprint<'b>(of: impl IntoIterator<Item = &'b [u8]>) -> String {
    let mut all = Xxh3Default::new();
    for bytes in of {
        all.update(&(bytes.len() as u64).to_le_bytes());
        all.update(bytes);
    }
    format!("{:016x}", all.digest())
}

/// The head of a part: of which survey it is, and which runs it has.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct PartHead {
    form: u32,
    /// Which shard it is, from 1.
    pub shard: u64,
    /// Of how many.
    pub of: u64,
    /// The first run.
    pub first: u64,
    /// The last run; one before the first for a part without any.
    pub last: u64,
    /// The survey.
    #[serde(flatten)]
    pub survey: Surveyed,
}

impl PartHead {
    /// Of one of so many shards, counted from 1.
    pub fn new(survey: Surveyed, shard: u64, of: u64) -> PartHead {
        let runs = survey.shard(shard, of);
        PartHead { form: FORM, shard, of, first: *runs.start(), last: *runs.end(), survey }
    }

    /// The runs that it has.
    pub fn numbers(&self) -> RangeInclusive<u64> {
        self.first..=self.last
    }

    /// Whether the other is a part of the same survey, of the same files and the same version.
    pub fn is_of_one_survey(&self, other: &PartHead) -> bool {
        self.form == other.form && self.survey == other.survey
    }
}

/// The seal over the rows of a run: each cell, and where it ends.
#[derive(Clone)]
struct Check(Xxh3Default);

impl Check {
    fn of(head: &PartHead) -> Check {
        let mut all = Xxh3Default::new();
        all.update(head.survey.fingerprint.as_bytes());
        all.update(head.survey.version.as_bytes());
        Check(all)
    }

    fn row<'c>(&mut self, cells: impl IntoIterator<Item = &'c [u8]>) {
        for cell in cells {
            self.0.update(cell);
            self.0.update(b"\x1f");
        }
        self.0.update(b"\x1e");
    }

    fn told(&self) -> String {
        format!("{:016x}", self.0.digest())
    }
}
