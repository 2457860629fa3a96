//! `draw`: the timeline of a fight as a picture.

use std::fs;
use std::path::Path;

use hammerstone_record::Lanes;
use hammerstone_scenario::{Options, Play};
use hammerstone_view::{Look, png, timeline};
use miette::{IntoDiagnostic, miette};

use crate::{Failure, Outcome, files};

/// How many times as large as the SVG a PNG is.
const SCALE: f32 = 1.0;

pub(crate) fn draw(
    path: Option<&Path>,
    out: &Path,
    dark: bool,
    seed: Option<u64>,
) -> Result<Outcome, Failure> {
    let ending = out.extension().map(|ending| ending.to_string_lossy().into_owned()).unwrap_or_default();
    if !["svg", "png"].contains(&ending.as_str()) {
        return Err(miette!(
            help = "name a file that ends in .svg or .png",
            "{} is no picture",
            out.display()
        ));
    }
    let scenario = match path {
        Some(path) => files::scenario(path)?,
        None => files::demo()?,
    };
    let rules = &scenario.rules.ruleset;
    let mut play = Play::new(&scenario, Options { seed, ..Options::default() });
    let mut lanes = Lanes::new();
    while play.tick().into_diagnostic()? {
        lanes.take_in(rules, &play.names, &play.encounter.facts());
    }
    let look = if dark { Look::DARK } else { Look::LIGHT };
    let svg = timeline(&lanes, &scenario.title, rules.rate(), &look);
    let bytes = if ending == "png" { png(&svg, SCALE).into_diagnostic()? } else { svg.into_bytes() };
    fs::write(out, bytes).map_err(|error| {
        miette!(
            help = "name a file in a folder that is there",
            "{} cannot be written: {error}",
            out.display()
        )
    })?;
    Ok(Outcome::Fine)
}
