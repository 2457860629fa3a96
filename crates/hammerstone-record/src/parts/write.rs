//! Writes a part.

use std::fmt::{Display, Write as _};
use std::io::{self, Write};

use super::{COLUMNS, Check, Column, MOST_ROWS, PartHead};
use crate::{FighterRan, MeansRan, Ran, TeamRan};

/// Writes a part, run by run, in the order of their numbers.
pub struct PartWriter<W: Write> {
    rows: csv::Writer<W>,
    head: PartHead,
    row: Vec<String>,
    check: Check,
}

impl<W: Write> PartWriter<W> {
    /// Begins a part with its columns and its head.
    pub fn new(out: W, head: PartHead) -> io::Result<PartWriter<W>> {
        let mut writer = PartWriter::go_on(out, head);
        writer.rows.write_record(COLUMNS)?;
        let survey = serde_json::to_string(&writer.head).map_err(io::Error::from)?;
        writer.set(Column::row, "survey");
        writer.set(Column::survey, survey);
        writer.end_row()?;
        Ok(writer)
    }

    /// Goes on with a part that has its columns, its head and some whole runs.
    pub fn go_on(out: W, head: PartHead) -> PartWriter<W> {
        let row = vec![String::new(); COLUMNS.len()];
        let check = Check::of(&head);
        PartWriter { rows: csv::Writer::from_writer(out), head, row, check }
    }

    /// Writes a run of the survey.
    ///
    /// *Errors:* what writing gives; and a run of more than a million teams, combatants and attacks, of which nothing is written.
    pub fn write(&mut self, number: u64, ran: &Ran) -> io::Result<()> {
        let rows = ran.teams.len() + ran.fighters.len() + ran.means.len();
        if rows > MOST_ROWS {
            let why = format!(
                "run {number} has {rows} rows, and a part takes {MOST_ROWS} of a run; keep less of it"
            );
            return Err(io::Error::other(why));
        }
        self.check = Check::of(&self.head);
        for TeamRan { name, dealt, deaths, stand } in &ran.teams {
            self.begin(number, "team");
            self.set(Column::name, name);
            self.set(Column::dealt, dealt);
            self.set(Column::deaths, deaths);
            self.set(Column::standing, stand);
            self.end_row()?;
        }
        for fighter in &ran.fighters {
            let FighterRan { name, dealt, taken, died, died_of, time_to_kill, stunned } = fighter;
            self.begin(number, "combatant");
            self.set(Column::name, name);
            self.set(Column::dealt, dealt);
            self.set(Column::taken, taken);
            self.set_some(Column::died, died.as_ref());
            self.set_some(Column::died_of, died_of.as_ref());
            self.set_some(Column::time_to_kill, time_to_kill.as_ref());
            self.set(Column::stunned, stunned);
            self.end_row()?;
        }
        for MeansRan { team, sort, name, counts } in &ran.means {
            self.begin(number, "means");
            self.set(Column::name, name);
            self.set(Column::team, team);
            self.set(Column::sort, sort);
            self.set(Column::hits, counts.hits);
            self.set(Column::dealt, counts.dealt);
            self.set(Column::starts, counts.starts);
            self.set(Column::landed, counts.landed);
            self.set(Column::dodged, counts.dodged);
            self.set(Column::blocked, counts.blocked);
            self.set(Column::turned_away, counts.turned_away);
            self.set(Column::overkill, counts.overkill);
            self.set(Column::kills, counts.kills);
            self.end_row()?;
        }
        self.begin(number, "run");
        if let Some(of) = self.head.survey.run(number) {
            let fight = &self.head.survey.fights[of.fight];
            self.row[Column::fight as usize].push_str(&fight.name);
            let values = fight.varied.iter().zip(&fight.points[of.point]);
            for (place, (path, value)) in values.enumerate() {
                let between = if place > 0 { "; " } else { "" };
                let _ = write!(self.row[Column::values as usize], "{between}{path} = {value}");
            }
        }
        self.set(Column::seed, ran.seed);
        self.set(Column::outcome, &ran.outcome);
        self.set(Column::rate, ran.rate);
        self.set(Column::ticks, ran.ticks);
        self.set(Column::hits, ran.hits);
        self.check.row(self.row.iter().map(String::as_bytes));
        let check = self.check.told();
        self.set(Column::check, check);
        self.rows.write_record(&self.row).map_err(io::Error::from)?;
        self.clear();
        Ok(())
    }

    /// Hands on what is written so far.
    pub fn flush(&mut self) -> io::Result<()> {
        self.rows.flush()
    }

    /// Where it is written; what was not [handed on](Self::flush) is not there yet.
    pub fn inner(&self) -> &W {
        self.rows.get_ref()
    }

    /// Ends the part.
    pub fn finish(mut self) -> io::Result<W> {
        self.rows.flush()?;
        self.rows.into_inner().map_err(|error| io::Error::other(error.to_string()))
    }

    fn begin(&mut self, number: u64, row: &str) {
        self.set(Column::run, number);
        self.set(Column::row, row);
    }

    fn set(&mut self, column: Column, value: impl Display) {
        // Writing to a string does not fail.
        let _ = write!(self.row[column as usize], "{value}");
    }

    fn set_some(&mut self, column: Column, value: Option<impl Display>) {
        if let Some(value) = value {
            self.set(column, value);
        }
    }

    fn end_row(&mut self) -> io::Result<()> {
        self.check.row(self.row.iter().map(String::as_bytes));
        self.rows.write_record(&self.row)?;
        self.clear();
        Ok(())
    }

    fn clear(&mut self) {
        self.row.iter_mut().for_each(String::clear);
    }
}
