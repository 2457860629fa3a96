//! Where output goes, and what happens when no one takes it.

use std::fmt;
use std::fs::File;
use std::io::{self, BufWriter, IsTerminal, Write};
use std::path::Path;
use std::sync::OnceLock;
use std::time::{Duration, Instant};

use miette::{GraphicalReportHandler, GraphicalTheme, miette};
use serde::Serialize;

use crate::args::{Colours, How, Out, ReportFormat};
use crate::{Failure, files};

/// What is said beside answers, for the whole command.
struct Said {
    how: How,
    began: Instant,
}

static SAID: OnceLock<Said> = OnceLock::new();

/// Settles what is said beside answers.
pub(crate) fn begin(how: How) {
    let choice = match how.color {
        Colours::Auto => anstream::ColorChoice::Auto,
        Colours::Always => anstream::ColorChoice::AlwaysAnsi,
        Colours::Never => anstream::ColorChoice::Never,
    };
    choice.write_global();
    SAID.get_or_init(|| Said { how, began: Instant::now() });
}

pub(crate) fn is_quiet() -> bool {
    SAID.get().is_some_and(|said| said.how.quiet)
}

/// Says something on standard error that was asked for with `--verbose`.
pub(crate) fn detail(text: impl FnOnce() -> String) {
    if let Some(Said { how, began }) = SAID.get()
        && how.verbose
    {
        let _ = writeln!(io::stderr(), "[{:>7.3} s] {}", began.elapsed().as_secs_f64(), text());
    }
}

/// Says what was written where, on standard error.
pub(crate) fn wrote(what: &str, path: &Path) {
    if !is_quiet() {
        let _ = writeln!(io::stderr(), "wrote {what} to {}", path.display());
    }
}

/// Says something on standard error, unless nothing is to be said beside answers.
pub(crate) fn say(text: &str) {
    if !is_quiet() {
        let _ = writeln!(io::stderr(), "{text}");
    }
}

/// A duration as people say it.
pub(crate) fn duration(duration: Duration) -> String {
    let seconds = duration.as_secs_f64();
    match seconds {
        ..10.0 => format!("{seconds:.1} s"),
        ..120.0 => format!("{seconds:.0} s"),
        ..7200.0 => format!("{:.0} min", seconds / 60.0),
        ..172_800.0 => format!("{:.1} hours", seconds / 3600.0),
        _ => format!("{:.1} days", seconds / 86_400.0),
    }
}

/// Standard output or a file, buffered; colours only where a terminal takes them.
pub(crate) fn open(path: Option<&Path>) -> Result<Box<dyn Write>, Failure> {
    match path {
        None => Ok(Box::new(BufWriter::with_capacity(1 << 16, anstream::AutoStream::auto(io::stdout())))),
        Some(path) => {
            let file = File::create(path).map_err(|error| files::unwritable(path, &error))?;
            Ok(Box::new(BufWriter::with_capacity(1 << 16, anstream::StripStream::new(file))))
        }
    }
}

/// As [`open`], for text without any colours in it.
pub(crate) fn open_plain(path: Option<&Path>) -> Result<Box<dyn Write>, Failure> {
    match path {
        None => Ok(Box::new(BufWriter::with_capacity(1 << 16, io::stdout().lock()))),
        Some(_) => open(path),
    }
}

/// A failure of writing; but no one reading on is no error.
pub(crate) fn written(result: io::Result<()>) -> Result<(), Failure> {
    match result {
        Err(error) if error.kind() == io::ErrorKind::BrokenPipe => Ok(()),
        Err(error) => Err(miette!("the output cannot be written: {error}")),
        Ok(()) => Ok(()),
    }
}

/// Reports a failure, or a doubt, on standard error.
pub(crate) fn complain(failure: &Failure) {
    // A doubt is none that must be told.
    if failure.severity() == Some(miette::Severity::Warning) && is_quiet() {
        return;
    }
    let _ = writeln!(io::stderr(), "{}", rendered(failure.as_ref(), io::stderr().is_terminal()));
}

/// A report as text.
pub(crate) fn rendered(report: &dyn miette::Diagnostic, terminal: bool) -> String {
    let colours = match SAID.get().map(|said| said.how.color) {
        Some(Colours::Always) => true,
        Some(Colours::Never) => false,
        _ => terminal && std::env::var_os("NO_COLOR").is_none_or(|value| value.is_empty()),
    };
    let theme = if colours { GraphicalTheme::unicode() } else { GraphicalTheme::unicode_nocolor() };
    let mut text = String::new();
    let handler = GraphicalReportHandler::new_themed(theme).with_width(100).with_context_lines(1);
    render(&handler, &mut text, Alone { report, source: None });
    text
}

/// A report, then those that belong to it, each by itself.
fn render(handler: &GraphicalReportHandler, text: &mut String, alone: Alone<'_>) {
    // Writing to a string does not fail.
    let _ = handler.render_report(text, &alone);
    for report in alone.report.related().into_iter().flatten() {
        text.push('\n');
        render(handler, text, Alone { report, source: alone.source_code() });
    }
}

/// A report without those that belong to it. One without a text of its own is about the text of the one to which it belongs.
struct Alone<'a> {
    report: &'a dyn miette::Diagnostic,
    source: Option<&'a dyn miette::SourceCode>,
}

impl<'a> Alone<'a> {
    fn source_code(&self) -> Option<&'a dyn miette::SourceCode> {
        self.report.source_code().or(self.source)
    }
}

impl fmt::Debug for Alone<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Debug::fmt(self.report, f)
    }
}

impl fmt::Display for Alone<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(self.report, f)
    }
}

impl std::error::Error for Alone<'_> {
    fn source(&self) -> Option<&(dyn std::error::Error + 'static)> {
        self.report.source()
    }
}

impl miette::Diagnostic for Alone<'_> {
    fn code<'s>(&'s self) -> Option<Box<dyn fmt::Display + 's>> {
        self.report.code()
    }

    fn severity(&self) -> Option<miette::Severity> {
        self.report.severity()
    }

    fn help<'s>(&'s self) -> Option<Box<dyn fmt::Display + 's>> {
        self.report.help()
    }

    fn source_code(&self) -> Option<&dyn miette::SourceCode> {
        Alone::source_code(self)
    }

    fn labels(&self) -> Option<Box<dyn Iterator<Item = miette::LabeledSpan> + '_>> {
        self.report.labels()
    }

    fn diagnostic_source(&self) -> Option<&dyn miette::Diagnostic> {
        self.report.diagnostic_source()
    }
}

/// Writes an answer for people, or what it is made of as JSON for programs; to standard output, or to a file.
pub(crate) fn answer(
    (format, to): (ReportFormat, &Out),
    json: &(impl Serialize + ?Sized),
    text: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Result<(), Failure> {
    let written = match format {
        ReportFormat::Text => {
            let mut out = open(to.out.as_deref())?;
            text(&mut out).and_then(|()| out.flush())
        }
        ReportFormat::Json => {
            let mut out = open_plain(to.out.as_deref())?;
            let written = serde_json::to_writer_pretty(&mut out, json).map_err(io::Error::from);
            written.and_then(|()| writeln!(out)).and_then(|()| out.flush())
        }
    };
    self::written(written)?;
    if let Some(path) = &to.out {
        wrote("the answer", path);
    }
    Ok(())
}

/// A cell of a table with commas between its cells.
pub(crate) fn quoted(text: &str) -> String {
    if text.contains([',', '"', '\n']) {
        format!("\"{}\"", text.replace('"', "\"\""))
    } else {
        text.to_owned()
    }
}

/// A column's head, and whether its cells stand to the right.
pub(crate) type Column<'a> = (&'a str, bool);

/// Rows under their heads, each column as wide as it must be.
pub(crate) fn table<R: AsRef<[String]>>(
    out: &mut (impl Write + ?Sized),
    columns: &[Column<'_>],
    rows: &[R],
    indent: &str,
) -> io::Result<()> {
    let width = |(column, (head, _)): (usize, &Column<'_>)| {
        let cells = rows.iter().map(|row| row.as_ref()[column].chars().count());
        cells.chain([head.chars().count()]).max().unwrap_or(0)
    };
    let widths: Vec<usize> = columns.iter().enumerate().map(width).collect();
    let line = |cells: &mut dyn Iterator<Item = &str>| {
        let mut line = indent.to_owned();
        for ((cell, &width), (_, right)) in cells.zip(&widths).zip(columns) {
            line.push_str(&if *right { format!("{cell:>width$}  ") } else { format!("{cell:width$}  ") });
        }
        line.trim_end().to_owned()
    };
    writeln!(out, "\x1b[2m{}\x1b[0m", line(&mut columns.iter().map(|(head, _)| *head)))?;
    rows.iter().try_for_each(|row| writeln!(out, "{}", line(&mut row.as_ref().iter().map(String::as_str))))
}
