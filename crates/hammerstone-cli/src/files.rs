//! Finds and reads files.

use std::cell::RefCell;
use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, OnceLock};

use hammerstone::Ruleset;
use hammerstone::geometry::Axis;
use hammerstone_motion::{Axes, Skeleton};
use hammerstone_record::Log;
use hammerstone_scenario::{
    CannotVary, Case, RulesFile, Scenario, Sweep, Wanted, has_key, value_paths, with_literal,
};
use miette::miette;

use crate::Failure;
use crate::args::{FrameOptions, Up, With};
use crate::output;

/// Ends the names of ruleset files; every other TOML file is taken for a scenario.
const RULES: &str = ".rules.toml";

/// The fight that comes with the command, and its ruleset.
const DEMO: [(&str, &str); 2] = [
    ("skirmish.toml", include_str!("../shipped/skirmish.toml")),
    ("quarry.rules.toml", include_str!("../shipped/quarry.rules.toml")),
];

/// Ends the names of sweeps.
const SWEEP: &str = ".sweep.toml";

/// Whether a file is a sweep, by its name.
pub(crate) fn is_sweep(path: &Path) -> bool {
    path.file_name().is_some_and(|name| name == &SWEEP[1..]) || path.to_string_lossy().ends_with(SWEEP)
}

/// How names of skeletons' files end.
const SKELETONS: [&str; 3] = [".glb", ".gltf", ".bvh"];

/// Whether a file is a skeleton's, by its name.
pub(crate) fn is_skeleton(path: &Path) -> bool {
    let name = path.to_string_lossy().to_lowercase();
    SKELETONS.iter().any(|ending| name.ends_with(ending))
}

/// A skeleton's file, with y up.
pub(crate) fn skeleton(path: &Path, frame: FrameOptions) -> Result<Skeleton, Failure> {
    let from = match frame.up {
        Up::X => Axis::X,
        Up::Y => Axis::Y,
        Up::Z => Axis::Z,
    };
    let axes = Axes { from, to: Axis::Y, turn: 0.0, scale: frame.scale };
    let bytes = fs::read(path).map_err(|error| unreadable(path, &error))?;
    let stem = path.file_stem().unwrap_or_default().to_string_lossy();
    let mut beside = |name: &str| {
        fs::read(path.parent().unwrap_or(Path::new("")).join(name)).map_err(|error| error.to_string())
    };
    Skeleton::from_bytes(&bytes, &stem, axes, &mut beside)
        .map_err(|error| miette!(help = "export it again as glTF 2.0 or BVH", "{}, {error}", path.display()))
}

/// A file of either sort.
pub(crate) enum Authored {
    Ruleset(Box<RulesFile>),
    Scenario(Box<Scenario>),
}

/// A scenario and its ruleset as texts, with their names.
pub(crate) struct Texts {
    pub(crate) scenario: (String, String),
    pub(crate) rules: (String, String),
    /// The meshes of its level and the skeletons of its ruleset, by where they are.
    others: BTreeMap<PathBuf, (String, Vec<u8>)>,
}

impl Texts {
    /// Of the fight in a file, or of the one that comes with the command; with what is other for this run.
    pub(crate) fn of(path: Option<&Path>, with: &With) -> Result<Texts, Failure> {
        let mut texts = match path {
            Some(path) => Texts::at(path, with.rules.as_deref())?,
            None => {
                let [scenario, mut rules] = DEMO.map(|(file, text)| (file.to_owned(), text.to_owned()));
                if let Some(other) = &with.rules {
                    rules = (other.display().to_string(), read(other)?);
                }
                Texts { scenario, rules, others: BTreeMap::new() }
            }
        };
        for (path, value) in &with.set {
            texts.set(path, |text| with_literal(text, path, value))?;
        }
        Ok(texts)
    }

    /// Of the fight in a file, with another ruleset if one is named.
    fn at(path: &Path, rules: Option<&Path>) -> Result<Texts, Failure> {
        must_be_a_fight(path)?;
        let (file, text) = (path.display().to_string(), read(path)?);
        let other = rules.map(|rules| Ok::<_, Failure>((rules, read(rules)?))).transpose()?;
        // Whatever is wrong with either is said here.
        let (found, others) = (RefCell::new(None), RefCell::new(BTreeMap::new()));
        let open = |wanted: Wanted<'_>| {
            let (name, bytes) = match (wanted, &other) {
                (Wanted::Ruleset(_), Some((rules, text))) => {
                    (rules.display().to_string(), text.clone().into_bytes())
                }
                _ => opened(wanted, path)?,
            };
            match wanted {
                Wanted::Ruleset(_) => drop(found.replace(Some((name.clone(), bytes.clone())))),
                Wanted::Mesh(_) | Wanted::OfRules(..) => {
                    others.borrow_mut().insert(wanted.path(path), (name.clone(), bytes.clone()));
                }
            }
            Ok((name, bytes))
        };
        let scenario = Scenario::read(&file, &text, &open).map_err(|unusable| *unusable)?;
        let (name, _) = found.take().unwrap_or_default();
        let rules = (name, scenario.rules.code.text.to_string());
        Ok(Texts { scenario: (file, text), rules, others: others.into_inner() })
    }

    /// Sets another value at a path, in the scenario if it has the first key of it, or else in the ruleset.
    pub(crate) fn set(
        &mut self,
        path: &str,
        with: impl FnOnce(&str) -> Result<String, CannotVary>,
    ) -> Result<(), Failure> {
        let (file, text) = if has_key(&self.scenario.1, path) { &mut self.scenario } else { &mut self.rules };
        *text = with(text).map_err(|why| {
            miette!(
                help = format!("a path names keys of {file} or of the scenario, with dots between"),
                "{why}"
            )
        })?;
        Ok(())
    }

    pub(crate) fn read(&self) -> Result<Scenario, Failure> {
        let (file, text) = &self.scenario;
        let open = |wanted: Wanted<'_>| match wanted {
            Wanted::Ruleset(_) => Ok((self.rules.0.clone(), self.rules.1.clone().into_bytes())),
            Wanted::Mesh(_) | Wanted::OfRules(..) => {
                let path = wanted.path(Path::new(file));
                self.others.get(&path).cloned().ok_or_else(|| "it was not there".to_owned())
            }
        };
        Ok(Scenario::read(file, text, &open).map_err(|unusable| *unusable)?)
    }

    /// All files that it is made of.
    pub(crate) fn files(&self, with: &With) -> Vec<PathBuf> {
        let own = [&self.scenario.0, &self.rules.0].map(PathBuf::from);
        own.into_iter().chain(self.others.keys().cloned()).chain(with.rules.clone()).collect()
    }

    /// All that it is made of, without where it lies: for a fingerprint.
    pub(crate) fn contents(&self) -> impl Iterator<Item = &[u8]> {
        let texts = [self.scenario.1.as_bytes(), self.rules.1.as_bytes()];
        texts.into_iter().chain(self.others.values().map(|(_, bytes)| bytes.as_slice()))
    }

    /// Whether both say the same, to the letter.
    pub(crate) fn same(&self, other: &Texts) -> bool {
        (&self.scenario, &self.rules, &self.others) == (&other.scenario, &other.rules, &other.others)
    }

    /// The paths of all values, those of the ruleset first.
    pub(crate) fn value_paths(&self) -> Vec<String> {
        [&self.rules.1, &self.scenario.1].into_iter().flat_map(|text| value_paths(text)).collect()
    }

    /// Copies, for other values in them.
    pub(crate) fn copy(&self) -> Texts {
        Texts { scenario: self.scenario.clone(), rules: self.rules.clone(), others: self.others.clone() }
    }
}

/// A file that a scenario or its ruleset names.
fn opened(wanted: Wanted<'_>, scenario: &Path) -> Result<(String, Vec<u8>), String> {
    let found = wanted.path(scenario);
    note(&found);
    let bytes = fs::read(&found).map_err(|error| error.to_string())?;
    Ok((found.display().to_string(), bytes))
}

/// The log in a file: one that begins as logs do, or that of a scenario with a log as its fight.
pub(crate) fn log(path: &Path) -> Result<Option<Log>, Failure> {
    let bytes = bytes(path)?;
    if !Log::is_one(&bytes) {
        let case = case(path)?;
        return Ok(case.map(|mut case| {
            case.log.title = case.title;
            case.log
        }));
    }
    match Log::read(bytes) {
        Ok(mut log) => {
            if log.title.is_empty() {
                log.title = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
            }
            Ok(Some(log))
        }
        Err(error) => Err(miette!(
            help = "run it with the build that wrote it, or record it anew",
            "{}: {error}",
            path.display()
        )),
    }
}

/// The scenario in a file, if its fight is a log.
pub(crate) fn case(path: &Path) -> Result<Option<Case>, Failure> {
    let text = String::from_utf8(bytes(path)?).ok().filter(|text| Case::is_one(text));
    let Some(text) = text else { return Ok(None) };
    let open = |name: &str| {
        let log = path.parent().unwrap_or(Path::new("")).join(name);
        fs::read(log).map_err(|error| error.to_string())
    };
    let case = Case::read(&path.display().to_string(), &text, &open).map_err(|unusable| *unusable)?;
    Ok(Some(case))
}

/// The sweep in a file.
pub(crate) fn sweep(path: &Path) -> Result<Sweep, Failure> {
    Ok(Sweep::read(&path.display().to_string(), &read(path)?).map_err(|unusable| *unusable)?)
}

pub(crate) fn scenario(path: &Path) -> Result<Scenario, Failure> {
    must_be_a_fight(path)?;
    let open = |wanted: Wanted<'_>| opened(wanted, path);
    Ok(Scenario::read(&path.display().to_string(), &read(path)?, &open).map_err(|unusable| *unusable)?)
}

/// Says of a file that is no fight what it is.
fn must_be_a_fight(path: &Path) -> Result<(), Failure> {
    if is_skeleton(path) {
        let help = "`timings`, `check` and `draw` take it; a fight is a scenario (.toml) or a log";
        return Err(miette!(help = help, "{} is a skeleton, and no fight", path.display()));
    }
    if is_sweep(path) && path.exists() {
        let help = "`survey` takes it; a fight is one of the scenarios that it names";
        return Err(miette!(help = help, "{} is a sweep, and no fight", path.display()));
    }
    if path.to_string_lossy().ends_with(RULES) && path.exists() {
        let name = path.file_name().unwrap_or_default().to_string_lossy();
        let help = format!(
            "`timings` and `check` take it; a fight is a scenario that names it: [scenario] rules = \"{name}\""
        );
        return Err(miette!(help = help, "{} is a ruleset, and no fight", path.display()));
    }
    Ok(())
}

pub(crate) fn authored(path: &Path) -> Result<Authored, Failure> {
    if path.to_string_lossy().ends_with(RULES) {
        let (file, text) = (path.display().to_string(), read(path)?);
        let open = |wanted: &str| opened(Wanted::OfRules(&file, wanted), path);
        let rules = RulesFile::read_with(&file, &text, &open).map_err(|unusable| *unusable)?;
        return Ok(Authored::Ruleset(Box::new(rules)));
    }
    Ok(Authored::Scenario(Box::new(scenario(path)?)))
}

/// The ruleset of a file of any sort.
pub(crate) fn rules_of(path: &Path) -> Result<Ruleset, Failure> {
    if let Some(log) = log(path)? {
        return Ok(log.rules().clone());
    }
    Ok(match authored(path)? {
        Authored::Ruleset(rules) => rules.ruleset.clone(),
        Authored::Scenario(scenario) => scenario.rules.ruleset.clone(),
    })
}

/// Says with `--verbose` that a file is read, once.
fn note(path: &Path) {
    static SAID: Mutex<BTreeSet<PathBuf>> = Mutex::new(BTreeSet::new());
    if SAID.lock().is_ok_and(|mut said| said.insert(path.to_owned())) {
        output::detail(|| format!("reads {}", path.display()));
    }
}

/// What stands in a file, or comes from standard input where it is called `-`.
fn bytes(path: &Path) -> Result<Vec<u8>, Failure> {
    /// Standard input, which can be read once.
    static INPUT: OnceLock<Vec<u8>> = OnceLock::new();
    if path != Path::new("-") {
        note(path);
        return fs::read(path).map_err(|error| unreadable(path, &error));
    }
    if let Some(known) = INPUT.get() {
        return Ok(known.clone());
    }
    let mut all = Vec::new();
    io::stdin().lock().read_to_end(&mut all).map_err(|error| unreadable(path, &error))?;
    Ok(INPUT.get_or_init(|| all).clone())
}

fn read(path: &Path) -> Result<String, Failure> {
    let bytes = bytes(path)?;
    if Log::is_one(&bytes) {
        return Err(miette!(
            help = "name a scenario or a ruleset here; `run`, `explain`, `draw`, `report`, `watch`, `compare` and `wiring` take logs",
            "{} is a log",
            path.display()
        ));
    }
    String::from_utf8(bytes).map_err(|error| {
        let (place, line) = not_utf8(&error);
        miette!(
            help = "save it as UTF-8; other encodings write letters outside ASCII as other bytes",
            "{} is not UTF-8: the byte at offset {place}, in line {line}, begins no letter",
            path.display()
        )
    })
}

/// The offset of the first byte that is no text, and its line.
fn not_utf8(error: &std::string::FromUtf8Error) -> (usize, usize) {
    let place = error.utf8_error().valid_up_to();
    let line = error.as_bytes()[..place].iter().filter(|&&byte| byte == b'\n').count() + 1;
    (place, line)
}

fn unreadable(path: &Path, error: &std::io::Error) -> Failure {
    miette!(help = "name a scenario or a ruleset that is there", "{} cannot be read: {error}", path.display())
}

/// Says so now if a file cannot be written later. What stands in it is left alone.
pub(crate) fn must_be_writable(path: &Path) -> Result<(), Failure> {
    let opened = fs::OpenOptions::new().write(true).create(true).truncate(false).open(path);
    opened.map(drop).map_err(|error| unwritable(path, &error))
}

pub(crate) fn unwritable(path: &Path, error: &std::io::Error) -> Failure {
    miette!(help = "name a file in a folder that is there", "{} cannot be written: {error}", path.display())
}

/// The scenarios among `paths`, folders searched whole; in order of name.
pub(crate) fn scenarios(paths: &[PathBuf]) -> Result<Vec<PathBuf>, Failure> {
    gathered(paths, "scenario", &|name| !name.ends_with(RULES) && !is_sweep(Path::new(name)))
}

/// The scenarios and rulesets among `paths`, folders searched whole; in order of name. Of folders, only what is a whole ruleset: what
/// others include has no `[rules]`.
pub(crate) fn authored_files(paths: &[PathBuf]) -> Result<Vec<PathBuf>, Failure> {
    let mut found = gathered(paths, "scenario and no ruleset", &|name| !is_sweep(Path::new(name)))?;
    let is_part = |path: &PathBuf| {
        path.to_string_lossy().ends_with(RULES)
            && !paths.contains(path)
            && fs::read_to_string(path).is_ok_and(|text| !has_key(&text, "rules"))
    };
    found.retain(|path| !is_part(path));
    Ok(found)
}

fn gathered(paths: &[PathBuf], sort: &str, wanted: &dyn Fn(&str) -> bool) -> Result<Vec<PathBuf>, Failure> {
    let mut found = Vec::new();
    for path in paths {
        if path.is_dir() {
            let before = found.len();
            search(path, wanted, &mut found)?;
            if found.len() == before {
                let help = "name a folder with scenarios in it";
                return Err(miette!(help = help, "{} holds no {sort}", path.display()));
            }
        } else {
            found.push(path.clone());
        }
    }
    Ok(found)
}

fn search(folder: &Path, wanted: &dyn Fn(&str) -> bool, found: &mut Vec<PathBuf>) -> Result<(), Failure> {
    let entries = fs::read_dir(folder).map_err(|error| unreadable(folder, &error))?;
    let mut paths = Vec::new();
    for entry in entries {
        paths.push(entry.map_err(|error| unreadable(folder, &error))?.path());
    }
    paths.sort();
    for path in paths {
        let name = path.to_string_lossy();
        if path.is_dir() {
            search(&path, wanted, found)?;
        } else if name.ends_with(".toml") && wanted(&name) {
            found.push(path);
        }
    }
    Ok(())
}

/// No one goes by that name; who is perhaps meant.
pub(crate) fn unknown<'a>(name: &str, names: impl Iterator<Item = &'a str>) -> Failure {
    match nearest(name, names) {
        Some(nearest) => {
            miette!(help = format!("did you mean `{nearest}`?"), "no combatant is called `{name}`")
        }
        None => miette!(help = "`run` says who joins, and when", "no combatant is called `{name}`"),
    }
}

/// Of the names, the one that is nearest to what was written, if any is near.
pub(crate) fn nearest<'a>(written: &str, names: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    let near = names.map(|name| (strsim::damerau_levenshtein(written, name), name)).min()?;
    (near.0 <= 1 + written.chars().count() / 3).then_some(near.1)
}
