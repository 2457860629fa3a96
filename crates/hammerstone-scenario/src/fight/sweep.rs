//! Many fights with many values, as one file: a night's work.

use hammerstone_record::Kept;
use hammerstone_rules::problem::{Reading, Unusable};
use hammerstone_rules::read::Value;
use toml::Spanned;

use super::vary::Varied;
use crate::raw;

/// A sweep: fights, each with values and seeds of its own or of all.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Sweep {
    /// Its title.
    pub title: String,
    /// The fights, in the order in which they are run.
    pub fights: Vec<SweptFight>,
}

/// A fight of a sweep.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct SweptFight {
    /// What it is called: by its file, unless that is said.
    pub name: String,
    /// The scenario's file, relative to that of the sweep.
    pub file: String,
    /// Other values in its files. Each value of a path is run with each of the others.
    pub values: Vec<Varied>,
    /// How many seeds, counted up from the first.
    pub seeds: u32,
    /// The first seed; the scenario's if it is not said.
    pub seed: Option<u64>,
    /// Its length in ticks; the scenario's if it is not said.
    pub ticks: Option<u32>,
    /// What is kept of each run.
    pub kept: Kept,
}

/// How many seeds unless it is said.
const SEEDS: u32 = 100;
/// How many seeds there may be.
const MOST_SEEDS: i64 = 1_000_000_000;
/// The longest fight, in ticks.
const MOST_TICKS: i64 = 10_000_000;

impl Sweep {
    /// Reads one. `file` is its name, for messages. The fights that it names are not looked at.
    ///
    /// *Errors:* everything that is wrong with it, each with its place.
    pub fn read(file: &str, text: &str) -> Result<Sweep, Box<Unusable>> {
        let (raw, mut reading): (raw::SweepFile, _) = Reading::new(file, text).parse()?;
        let all = &raw.sweep;
        let given = Given::of(&mut reading, &all.seeds, &all.seed, &all.ticks, &all.keep);
        let values = values(&mut reading, &all.values);
        let mut fights: Vec<SweptFight> = Vec::new();
        for of in &all.fights {
            let (mut of_fight, mut own_given, mut own_name) = (values.clone(), Given::default(), None);
            let file = match of.as_ref() {
                raw::SweptFightOf::Plain(file) => file.clone(),
                raw::SweptFightOf::With(own) => {
                    own_given = Given::of(&mut reading, &own.seeds, &own.seed, &own.ticks, &own.keep);
                    own_name = own.name.as_ref();
                    for varied in self::values(&mut reading, &own.values) {
                        match of_fight.iter_mut().find(|known| known.path == varied.path) {
                            Some(known) => *known = varied,
                            None => of_fight.push(varied),
                        }
                    }
                    own.file.as_ref().clone()
                }
            };
            let stem = file.rsplit(['/', '\\']).next().unwrap_or_default();
            let stem = stem.strip_suffix(".toml").unwrap_or(stem);
            let name = own_name.map_or(stem, |name| name.as_ref().as_str()).to_owned();
            let is_plain =
                !name.is_empty() && !name.contains(['/', '\\', ':']) && name != "." && name != "..";
            if !is_plain {
                let message = format!("`{name}` cannot be a part of a file's name");
                reading.problem(of.span(), "here", message, Some("give it a `name`".to_owned()));
            }
            if fights.iter().any(|known| known.name == name) {
                let message = format!("two fights are called `{name}`");
                reading.problem(of.span(), "the second", message, Some("give one a `name`".to_owned()));
            }
            fights.push(SweptFight {
                name,
                file,
                values: of_fight,
                seeds: own_given.seeds.or(given.seeds).unwrap_or(SEEDS),
                seed: own_given.seed.or(given.seed),
                ticks: own_given.ticks.or(given.ticks),
                kept: own_given.kept.or(given.kept).unwrap_or(Kept::ALL),
            });
        }
        if fights.is_empty() {
            let fix = Some("name scenarios: fights = [\"duel.toml\"]".to_owned());
            reading.problem(0..0, "here", "it has no fights".to_owned(), fix);
        }
        reading.done(Some(Sweep { title: all.title.clone(), fights }))
    }
}

/// What may be said of all fights, and of each.
#[derive(Default)]
struct Given {
    seeds: Option<u32>,
    seed: Option<u64>,
    ticks: Option<u32>,
    kept: Option<Kept>,
}

impl Given {
    fn of(
        reading: &mut Reading<'_>,
        seeds: &Option<Spanned<i64>>,
        seed: &Option<u64>,
        ticks: &Option<Spanned<i64>>,
        keep: &Option<Vec<raw::Name>>,
    ) -> Given {
        let mut within = |number: &Option<Spanned<i64>>, most: i64| {
            let number = number.as_ref()?;
            let found = *number.as_ref();
            if (1..=most).contains(&found) {
                return Some(found as u32);
            }
            let message = format!("{found} is not from 1 to {most}");
            reading.problem(number.span(), "here", message, None);
            None
        };
        let (seeds, ticks) = (within(seeds, MOST_SEEDS), within(ticks, MOST_TICKS));
        let kept = keep.as_ref().map(|keep| kept(reading, keep));
        Given { seeds, seed: *seed, ticks, kept }
    }
}

fn kept(reading: &mut Reading<'_>, keep: &[raw::Name]) -> Kept {
    let mut kept = Kept { teams: false, combatants: false, means: false };
    for name in keep {
        let known = ["teams", "combatants", "means"].map(|known| (known, known));
        match reading.find("thing to keep", name, known) {
            Some("teams") => kept.teams = true,
            Some("combatants") => kept.combatants = true,
            _ => kept.means = true,
        }
    }
    kept
}

fn values(reading: &mut Reading<'_>, all: &raw::Named<Spanned<Value>>) -> Vec<Varied> {
    let mut found = Vec::new();
    for (path, value) in all {
        let path_of = path.as_ref();
        let varied = match value.as_ref() {
            Value::Text(text) => Varied::parse(path_of, text),
            Value::List(list) => Varied::listed(path_of, list.iter().map(written).collect()),
            one => Varied::listed(path_of, vec![written(one)]),
        };
        match varied {
            Ok(varied) => found.push(varied),
            Err(why) => {
                let message = if why.is_empty() { "these are no values".to_owned() } else { why };
                let fix = Some("write \"8..16/2\", \"0.3s, 0.5s\" or [8, 12]".to_owned());
                reading.problem(value.span(), "here", message, fix);
            }
        }
    }
    found
}

/// A value of a list as it would stand in a file; a text alone without its quotation marks, as times are written on the command line.
fn written(value: &Value) -> String {
    match value {
        Value::Text(text) => text.clone(),
        other => literal(other),
    }
}

fn literal(value: &Value) -> String {
    match value {
        Value::Text(text) => format!("{text:?}"),
        Value::List(all) => format!("[{}]", all.iter().map(literal).collect::<Vec<String>>().join(", ")),
        other => other.to_string(),
    }
}
