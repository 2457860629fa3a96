//! What runs come to, gathered in their order: points, and every run as a line if that is asked for.

use std::fs::File;
use std::io::{BufWriter, Write};
use std::path::{Path, PathBuf};

use hammerstone_record::{Point, PointTally, Ran, RunOf, Surveyed};

use crate::args::SurveyOptions;
use crate::{Failure, files, output};

/// Sums runs up, point by point, in memory that does not grow with their number.
pub(super) struct Found<'s> {
    survey: &'s Surveyed,
    /// Of each fight.
    pub(super) points: Vec<Vec<Point>>,
    pub(super) runs: u64,
    at: Option<(usize, usize)>,
    tally: PointTally,
    lines: Option<Lines>,
}

impl<'s> Found<'s> {
    /// With every run as a line of `csv` as well.
    pub(super) fn new(survey: &'s Surveyed, csv: Option<&Path>) -> Found<'s> {
        Found {
            survey,
            points: vec![Vec::new(); survey.fights.len()],
            runs: 0,
            at: None,
            tally: PointTally::default(),
            lines: csv.map(|file| Lines { file: file.to_owned(), fight: None, out: None }),
        }
    }

    /// Takes a run. Runs of one point follow each other.
    pub(super) fn add(&mut self, of: RunOf, ran: &Ran) -> Result<(), Failure> {
        if self.at != Some((of.fight, of.point)) {
            self.close();
            self.at = Some((of.fight, of.point));
        }
        self.tally.add(ran);
        self.runs += 1;
        match &mut self.lines {
            Some(lines) => lines.write(self.survey, of, ran),
            None => Ok(()),
        }
    }

    fn close(&mut self) {
        if let Some((fight, point)) = self.at.take() {
            let values = self.survey.fights[fight].points[point].clone();
            self.points[fight].extend(std::mem::take(&mut self.tally).finish(values));
        }
    }

    /// After the last run.
    pub(super) fn finish(&mut self) -> Result<(), Failure> {
        self.close();
        match &mut self.lines {
            Some(lines) => lines.finish(),
            None => Ok(()),
        }
    }
}

/// A file for one of several fights: its name before the ending. Where there is one fight, the file as it is.
pub(super) fn of_fight(file: &Path, survey: &Surveyed, fight: usize) -> PathBuf {
    if survey.fights.len() == 1 {
        return file.to_owned();
    }
    let stem = file.file_stem().unwrap_or_default().to_string_lossy();
    let ending = file.extension().unwrap_or_default().to_string_lossy();
    file.with_file_name(format!("{stem}-{}.{ending}", survey.fights[fight].name))
}

/// A long survey is not lost for a folder that is not there.
pub(super) fn must_be_writable(survey: &Surveyed, options: &SurveyOptions) -> Result<(), Failure> {
    for file in options.csv.iter().chain(&options.out) {
        for fight in 0..survey.fights.len() {
            files::must_be_writable(&of_fight(file, survey, fight))?;
        }
    }
    Ok(())
}

/// Every run as a line, its fields between commas; a file for each fight.
struct Lines {
    file: PathBuf,
    fight: Option<(usize, PathBuf)>,
    out: Option<BufWriter<File>>,
}

impl Lines {
    fn write(&mut self, survey: &Surveyed, of: RunOf, ran: &Ran) -> Result<(), Failure> {
        let fight = &survey.fights[of.fight];
        if self.fight.as_ref().is_none_or(|(known, _)| *known != of.fight) {
            self.finish()?;
            let path = of_fight(&self.file, survey, of.fight);
            let file = File::create(&path).map_err(|error| files::unwritable(&path, &error))?;
            self.fight = Some((of.fight, path));
            let out = self.out.insert(BufWriter::with_capacity(1 << 16, file));
            let mut heads: Vec<String> = fight.varied.iter().map(|path| output::quoted(path)).collect();
            heads.extend(["seed", "outcome", "seconds", "hits"].map(str::to_owned));
            for team in &ran.teams {
                let of = |what: &str| output::quoted(&format!("{} {what}", team.name));
                heads.extend(["dealt", "deaths", "standing"].map(of));
            }
            output::written(writeln!(out, "{}", heads.join(",")))?;
        }
        let mut cells: Vec<String> =
            fight.points[of.point].iter().map(|value| output::quoted(value)).collect();
        cells.extend([
            ran.seed.to_string(),
            output::quoted(&ran.outcome),
            format!("{:.4}", ran.seconds()),
            ran.hits.to_string(),
        ]);
        for team in &ran.teams {
            cells.extend([team.dealt.to_string(), team.deaths.to_string(), team.stand.to_string()]);
        }
        match &mut self.out {
            Some(out) => output::written(writeln!(out, "{}", cells.join(","))),
            None => Ok(()),
        }
    }

    fn finish(&mut self) -> Result<(), Failure> {
        if let (Some(mut out), Some((_, path))) = (self.out.take(), &self.fight) {
            output::written(out.flush())?;
            output::wrote("every run", path);
        }
        Ok(())
    }
}
