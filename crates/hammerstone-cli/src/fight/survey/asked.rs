//! What a survey runs: fights, each with its values and seeds, and which of their runs.

use std::path::{Path, PathBuf};

use hammerstone_record::{Kept, Surveyed, SurveyedFight, fingerprint};
use hammerstone_scenario::{Decimal, Scenario, Sweep, SweptFight, Varied, with_literal, with_value};
use miette::{WrapErr, miette};

use crate::args::{SurveyOptions, With};
use crate::files::Texts;
use crate::{Failure, files};

/// How many runs there may be.
const MOST_RUNS: u64 = 10_000_000_000;
/// How many points a survey may have: each is kept until the end.
const MOST_POINTS: usize = 100_000;

/// A fight that is run many times.
pub(super) struct Fight {
    texts: Texts,
    vary: Vec<Varied>,
    pub(super) with: With,
}

/// All that is run, and what it is called.
pub(super) struct Work {
    pub(super) survey: Surveyed,
    pub(super) fights: Vec<Fight>,
}

impl Work {
    /// Of a fight or of a sweep of several.
    pub(super) fn of(file: &Path, with: &With, options: &SurveyOptions) -> Result<Work, Failure> {
        if files::is_sweep(file) {
            return Work::of_sweep(file, with, options);
        }
        let name = file.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        let swept = SweptFight {
            name,
            file: file.display().to_string(),
            values: options.vary.clone(),
            seeds: options.seeds.unwrap_or(SEEDS),
            seed: with.seed,
            ticks: with.ticks,
            kept: Kept::ALL,
        };
        Work::put_together(String::new(), false, vec![(file.to_owned(), swept)], with)
    }

    fn of_sweep(file: &Path, with: &With, options: &SurveyOptions) -> Result<Work, Failure> {
        if let Some(given) = given(with, options) {
            return Err(miette!(
                help = format!("say it in {}", file.display()),
                "{given} is for one fight, and a sweep says it for each of its fights"
            ));
        }
        let sweep: Sweep = files::sweep(file)?;
        let folder = file.parent().unwrap_or(Path::new(""));
        let fights = sweep.fights.into_iter().map(|fight| (folder.join(&fight.file), fight)).collect();
        Work::put_together(sweep.title, true, fights, with)
    }

    fn put_together(
        title: String,
        sweep: bool,
        swept: Vec<(PathBuf, SweptFight)>,
        with: &With,
    ) -> Result<Work, Failure> {
        let (mut fights, mut surveyed, mut sealed) = (Vec::new(), Vec::new(), Vec::new());
        for (path, fight) in swept {
            let SweptFight { name, values: vary, seeds, seed, ticks, kept, .. } = fight;
            let with = With { seed, ticks, ..with.clone() };
            let texts = Texts::of(Some(&path), &with)?;
            let points = crossed(&vary);
            if points.len() > MOST_POINTS || points.len() as u64 * u64::from(seeds) > MOST_RUNS {
                return Err(miette!(
                    help = "take fewer seeds, or larger steps",
                    "{} values with {seeds} seeds each are more than {MOST_POINTS} values or {MOST_RUNS} runs",
                    points.len()
                ));
            }
            let fight = Fight { texts, vary, with };
            let first = fight.scenario(&points[0])?;
            sealed.extend(fight.texts.contents().map(<[u8]>::to_vec));
            let varied: Vec<String> = fight.vary.iter().map(|varied| varied.path.clone()).collect();
            let other = (seed.unwrap_or(first.seed), seeds, ticks, &varied, &points, kept);
            sealed.push(format!("{other:?}").into_bytes());
            surveyed.push(SurveyedFight {
                name,
                title: first.title.clone(),
                tactics: first.has_tactics(),
                seed: seed.unwrap_or(first.seed),
                seeds: seeds.into(),
                varied,
                points,
                kept,
            });
            fights.push(fight);
        }
        let title = if sweep { title } else { surveyed[0].title.clone() };
        let survey = Surveyed {
            version: env!("CARGO_PKG_VERSION").to_owned(),
            fingerprint: fingerprint(sealed.iter().map(Vec::as_slice)),
            title,
            sweep,
            fights: surveyed,
        };
        Ok(Work { survey, fights })
    }

    /// The fight with the values of a point.
    pub(super) fn scenario(&self, fight: usize, point: usize) -> Result<Scenario, Failure> {
        self.fights[fight].scenario(&self.survey.fights[fight].points[point])
    }
}

/// How many seeds unless it is said.
pub(super) const SEEDS: u32 = 100;

/// An option that a sweep has no use for.
fn given(with: &With, options: &SurveyOptions) -> Option<&'static str> {
    [
        (with.seed.is_some(), "--seed"),
        (with.rules.is_some(), "--rules"),
        (!with.set.is_empty(), "--set"),
        (with.ticks.is_some(), "--ticks"),
        (!options.vary.is_empty(), "--vary"),
        (options.seeds.is_some(), "--seeds"),
    ]
    .into_iter()
    .find_map(|(given, name)| given.then_some(name))
}

impl Fight {
    /// With other values in its files.
    fn scenario(&self, values: &[String]) -> Result<Scenario, Failure> {
        let mut with = self.texts.copy();
        for (varied, value) in self.vary.iter().zip(values) {
            let path = varied.path.as_str();
            // A number keeps the unit that stands there.
            with.set(path, |text| match Decimal::parse(value) {
                Some(number) => with_value(text, path, number),
                None => with_literal(text, path, value),
            })?;
        }
        let of = || self.vary.iter().zip(values).map(|(varied, value)| format!("{} = {value}", varied.path));
        with.read().wrap_err_with(|| format!("with {}", of().collect::<Vec<String>>().join(", ")))
    }
}

/// Every value of each path with every value of the others; one point without any if nothing is varied.
fn crossed(vary: &[Varied]) -> Vec<Vec<String>> {
    vary.iter().fold(vec![Vec::new()], |points, varied| {
        let with = |point: &Vec<String>| {
            let with = |value: &String| point.iter().chain([value]).cloned().collect::<Vec<String>>();
            varied.values.iter().map(with).collect::<Vec<_>>()
        };
        points.iter().flat_map(with).take(MOST_POINTS + 1).collect()
    })
}
