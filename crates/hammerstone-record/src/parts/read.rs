//! Reads a part.

use std::io::{self, Read};
use std::str::FromStr;

use super::{COLUMNS, Check, Column, FORM, MOST_BYTES, MOST_ROWS, PartHead};
use crate::{FighterRan, MeansCounts, MeansRan, Ran, TeamRan};

/// Why a part cannot be read.
#[derive(Debug, thiserror::Error)]
pub enum PartError {
    /// It does not begin as parts do.
    #[error("it is no part of a survey: {0}")]
    NoPart(String),
    /// It was written by a version that writes parts in another form.
    #[error("its form is {found}, and this version reads form {FORM}")]
    OtherForm {
        /// The form.
        found: u32,
    },
    /// It ends before its last run.
    #[error("it ends after run {after}, and its last is {last}")]
    Cut {
        /// The last run that is whole; one before its first if none is.
        after: u64,
        /// The last that it should have.
        last: u64,
    },
    /// A row is not as it was written.
    #[error("line {line}: {why}")]
    Broken {
        /// The line, from 1.
        line: u64,
        /// What is wrong there.
        why: String,
    },
    /// It cannot be read.
    #[error("{0}")]
    Unreadable(#[from] std::io::Error),
}

/// Reads a part, run by run, in constant memory. Each run is held against its seal.
pub struct PartReader<R> {
    rows: csv::Reader<Tail<R>>,
    head: PartHead,
    row: csv::ByteRecord,
    /// The run that comes next, and the byte at which it begins.
    next: u64,
    byte: u64,
    /// The byte at which the run before it begins.
    before: u64,
    ended: bool,
}

/// Knows how much was read, and whether that ends a line; and reads no farther than a row may go.
struct Tail<R> {
    from: R,
    read: u64,
    last: u8,
    until: u64,
    /// Whether a row went on beyond that.
    is_too_long: bool,
}

/// A row goes on beyond [`MOST_BYTES`].
#[derive(Debug, thiserror::Error)]
#[error("it is longer than {} MB", MOST_BYTES >> 20)]
struct LongRow;

impl<R: Read> Read for Tail<R> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        if self.read >= self.until {
            self.is_too_long = true;
            return Err(io::Error::other(LongRow));
        }
        let count = self.from.read(into)?;
        self.read += count as u64;
        if let Some(last) = into[..count].last() {
            self.last = *last;
        }
        Ok(count)
    }
}

impl<R: Read> PartReader<R> {
    /// Reads the columns and the head.
    pub fn open(from: R) -> Result<PartReader<R>, PartError> {
        let tail = Tail { from, read: 0, last: 0, until: 0, is_too_long: false };
        let mut rows = csv::ReaderBuilder::new().has_headers(false).from_reader(tail);
        let mut row = csv::ByteRecord::new();
        let no_part = |why: &str| PartError::NoPart(why.to_owned());
        if !read_row(&mut rows, &mut row)? {
            return Err(no_part("it is empty"));
        }
        if !row.iter().eq(COLUMNS.iter().map(|column| column.as_bytes())) {
            return Err(no_part("its columns are other ones"));
        }
        if !read_row(&mut rows, &mut row)? {
            return Err(no_part("it has no head"));
        }
        #[derive(serde::Deserialize)]
        struct Form {
            form: u32,
        }
        let survey = row.get(Column::survey as usize).unwrap_or_default();
        let form: Form = serde_json::from_slice(survey).map_err(|_| no_part("its head cannot be read"))?;
        if form.form != FORM {
            return Err(PartError::OtherForm { found: form.form });
        }
        let head: PartHead = serde_json::from_slice(survey)
            .map_err(|error| PartError::NoPart(format!("its head: {error}")))?;
        if head.first == 0 || head.last > head.survey.runs() || head.last + 1 < head.first {
            return Err(no_part("its head names runs that its survey does not have"));
        }
        let (next, byte) = (head.first, rows.position().byte());
        let tail = rows.get_ref();
        if tail.read == byte && tail.last != b'\n' {
            return Err(no_part("its head is cut"));
        }
        Ok(PartReader { rows, head, row, next, byte, before: byte, ended: false })
    }

    /// Of which survey it is, and which runs it has.
    pub fn head(&self) -> &PartHead {
        &self.head
    }

    /// The run that comes next, and the byte at which it begins: all before it is whole, to the ends of its lines.
    pub fn sound(&self) -> (u64, u64) {
        let tail = self.rows.get_ref();
        // The run before it was cut at the very end of its last line.
        let is_open = self.byte == tail.read && tail.last != b'\n' && self.next > self.head.first;
        if is_open { (self.next - 1, self.before) } else { (self.next, self.byte) }
    }

    /// The next run, with its number; none after the last. After an error there is none, either.
    pub fn next_run(&mut self) -> Result<Option<(u64, Ran)>, PartError> {
        if self.ended || self.next > self.head.last {
            return Ok(None);
        }
        let run = self.run();
        match run {
            Ok(ran) => {
                let number = self.next;
                self.before = self.byte;
                (self.next, self.byte) = (number + 1, self.rows.position().byte());
                Ok(Some((number, ran)))
            }
            Err(error) => {
                self.ended = true;
                Err(error)
            }
        }
    }

    fn cut(&self) -> PartError {
        PartError::Cut { after: self.next - 1, last: self.head.last }
    }

    fn broken(&self, why: impl Into<String>) -> PartError {
        let line = self.row.position().map_or(0, csv::Position::line);
        PartError::Broken { line, why: why.into() }
    }

    fn run(&mut self) -> Result<Ran, PartError> {
        let mut check = Check::of(&self.head);
        let (mut teams, mut fighters, mut means) = (Vec::new(), Vec::new(), Vec::new());
        loop {
            match read_row(&mut self.rows, &mut self.row) {
                Ok(true) => {}
                Ok(false) => return Err(self.cut()),
                Err(long) if self.rows.get_ref().is_too_long => return Err(long),
                // A row that is too short, with nothing after it.
                Err(broken @ PartError::Broken { .. }) => return Err(self.or_cut(broken)),
                Err(other) => return Err(other),
            }
            if teams.len() + fighters.len() + means.len() > MOST_ROWS {
                return Err(self.broken(format!("run {} has more than {MOST_ROWS} rows", self.next)));
            }
            let cells = self.row.len() - 1;
            let found: u64 = match self.number(Column::run) {
                Ok(found) => found,
                Err(error) => return Err(self.or_cut(error)),
            };
            if found != self.next {
                let why = format!("run {found} stands where run {} should", self.next);
                let broken = self.broken(why);
                return Err(self.or_cut(broken));
            }
            match self.cell(Column::row) {
                b"team" => {
                    check.row(self.row.iter());
                    teams.push(self.team()?);
                }
                b"combatant" => {
                    check.row(self.row.iter());
                    fighters.push(self.fighter()?);
                }
                b"means" => {
                    check.row(self.row.iter());
                    means.push(self.means()?);
                }
                b"run" => {
                    check.row(self.row.iter().take(cells).chain([&[][..]]));
                    if self.cell(Column::check) != check.told().as_bytes() {
                        let broken = self.broken(format!("run {found} is not as it was written"));
                        return Err(self.or_cut(broken));
                    }
                    return Ok(Ran {
                        seed: self.number(Column::seed)?,
                        outcome: self.text(Column::outcome)?,
                        rate: self.number(Column::rate)?,
                        ticks: self.number(Column::ticks)?,
                        hits: self.number(Column::hits)?,
                        teams,
                        fighters,
                        means,
                    });
                }
                _ => {
                    let broken = self.broken("there is no such sort of row");
                    return Err(self.or_cut(broken));
                }
            }
        }
    }

    /// What is wrong in the last row of all is that it was cut.
    fn or_cut(&mut self, error: PartError) -> PartError {
        match read_row(&mut self.rows, &mut csv::ByteRecord::new()) {
            Ok(false) => self.cut(),
            _ => error,
        }
    }

    fn team(&self) -> Result<TeamRan, PartError> {
        Ok(TeamRan {
            name: self.text(Column::name)?,
            dealt: self.number(Column::dealt)?,
            deaths: self.number(Column::deaths)?,
            stand: self.number(Column::standing)?,
        })
    }

    fn fighter(&self) -> Result<FighterRan, PartError> {
        let some = |column: Column| -> Result<Option<u32>, PartError> {
            if self.cell(column).is_empty() { Ok(None) } else { self.number(column).map(Some) }
        };
        let died = some(Column::died)?;
        Ok(FighterRan {
            name: self.text(Column::name)?,
            dealt: self.number(Column::dealt)?,
            taken: self.number(Column::taken)?,
            died,
            died_of: died.map(|_| self.text(Column::died_of)).transpose()?,
            time_to_kill: some(Column::time_to_kill)?,
            stunned: self.number(Column::stunned)?,
        })
    }

    fn means(&self) -> Result<MeansRan, PartError> {
        let sort = self.cell(Column::sort);
        let known = crate::feed::VIA.into_iter().find(|known| known.as_bytes() == sort);
        Ok(MeansRan {
            team: self.text(Column::team)?,
            sort: known.ok_or_else(|| self.broken("there is no such sort of means"))?,
            name: self.text(Column::name)?,
            counts: MeansCounts {
                starts: self.number(Column::starts)?,
                landed: self.number(Column::landed)?,
                hits: self.number(Column::hits)?,
                dodged: self.number(Column::dodged)?,
                blocked: self.number(Column::blocked)?,
                turned_away: self.number(Column::turned_away)?,
                dealt: self.number(Column::dealt)?,
                overkill: self.number(Column::overkill)?,
                kills: self.number(Column::kills)?,
            },
        })
    }

    fn cell(&self, column: Column) -> &[u8] {
        self.row.get(column as usize).unwrap_or_default()
    }

    fn text(&self, column: Column) -> Result<String, PartError> {
        let text = std::str::from_utf8(self.cell(column));
        text.map(str::to_owned)
            .map_err(|_| self.broken(format!("`{}` is not UTF-8", COLUMNS[column as usize])))
    }

    fn number<T: FromStr>(&self, column: Column) -> Result<T, PartError> {
        let text = std::str::from_utf8(self.cell(column)).ok();
        let number = text.and_then(|text| text.parse().ok());
        number.ok_or_else(|| {
            let found = String::from_utf8_lossy(self.cell(column));
            self.broken(format!("`{}` is `{found}`, and no number that fits", COLUMNS[column as usize]))
        })
    }
}

/// The next row, if there is one.
fn read_row<R: Read>(rows: &mut csv::Reader<Tail<R>>, row: &mut csv::ByteRecord) -> Result<bool, PartError> {
    rows.get_mut().until = rows.position().byte() + MOST_BYTES;
    rows.read_byte_record(row).map_err(|error| unreadable(error, rows.position().line()))
}

/// A fault of a row, or of what it is read from.
fn unreadable(error: csv::Error, line: u64) -> PartError {
    let line = error.position().map_or(line, csv::Position::line);
    match error.into_kind() {
        csv::ErrorKind::Io(error) if error.get_ref().is_some_and(|inner| inner.is::<LongRow>()) => {
            PartError::Broken { line, why: LongRow.to_string() }
        }
        csv::ErrorKind::Io(error) => PartError::Unreadable(error),
        csv::ErrorKind::UnequalLengths { expected_len, len, .. } => {
            PartError::Broken { line, why: format!("{len} cells, and not {expected_len}") }
        }
        _ => PartError::Broken { line, why: "it cannot be read".to_owned() },
    }
}
