//! `new`: a folder with a fight that runs, to begin with.

use std::fs;
use std::io::{self, Write};
use std::path::Path;

use clap::ValueEnum;
use miette::{IntoDiagnostic, WrapErr, miette};

use crate::{Failure, Outcome, files, output};

/// What the fight is like.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum Like {
    /// Two fight each other
    Duel,
    /// Three against a boss of three phases
    Boss,
    /// Two hold out against waves, with lives and a score
    Waves,
    /// One shoots at what drifts by
    Shots,
    /// A game in a plane, seen from above
    Flat,
}

const FIGHT: &str = "fight.toml";
const RULES: &str = "fight.rules.toml";

macro_rules! starter {
    ($fight:literal, $rules:literal) => {
        (include_str!($fight), include_str!($rules))
    };
}

impl Like {
    /// The fight, and its rules.
    fn texts(self) -> (String, &'static str) {
        let (fight, rules) = match self {
            Like::Duel => starter!("../starters/duel.toml", "../starters/duel.rules.toml"),
            Like::Waves => starter!("../starters/waves.toml", "../starters/waves.rules.toml"),
            Like::Shots => starter!("../starters/shots.toml", "../starters/shots.rules.toml"),
            Like::Flat => starter!("../starters/flat.toml", "../starters/flat.rules.toml"),
            // The fight against the keeper, under the names of all.
            Like::Boss => starter!("../shipped/keeper.toml", "../shipped/keeper.rules.toml"),
        };
        (fight.replace("\"keeper.rules.toml\"", &format!("\"{RULES}\"")), rules)
    }
}

/// Writes the two files, and says which three commands come next.
pub(crate) fn new(folder: &Path, like: Like) -> Result<Outcome, Failure> {
    let (fight, rules) = like.texts();
    let all = [(FIGHT, fight.as_str()), (RULES, rules)];
    let there = all.iter().map(|(name, _)| folder.join(name)).find(|path| path.exists());
    if let Some(path) = there {
        let help = "name a folder that is not there yet, or move the file away";
        return Err(miette!(help = help, "`{}` is there already, and would be lost", path.display()));
    }
    let made = fs::create_dir_all(folder).into_diagnostic();
    made.wrap_err_with(|| format!("the folder `{}` cannot be made", folder.display()))?;
    for (name, text) in all {
        let path = folder.join(name);
        fs::write(&path, text).map_err(|error| files::unwritable(&path, &error))?;
    }
    output::wrote("a fight and its rules", folder);
    let fight = folder.join(FIGHT);
    let fight = fight.display();
    let next = [
        (format!("hammerstone run {fight}"), "what happens, line by line"),
        (format!("hammerstone live {fight}"), "its page in a browser, which follows each save of the files"),
        (
            format!("hammerstone survey {fight} --seeds 1000"),
            "what a thousand seeds say: how it ends, who dies of what",
        ),
    ];
    let wide = next.iter().map(|(command, _)| command.chars().count()).max().unwrap_or(0);
    let mut out = io::stdout().lock();
    let written = writeln!(out, "next:").and_then(|()| {
        next.iter().try_for_each(|(command, what)| writeln!(out, "  {command:wide$}  {what}"))
    });
    output::written(written)?;
    Ok(Outcome::Fine)
}
