//! `demo` and `run`: a fight, written as it goes; and its log.

use std::collections::BTreeSet;
use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::Path;

use hammerstone::Encounter;
use hammerstone_record::{
    Feed, Flush, Format, Log, LogEnd, LogOptions, Recorder, Replay, StateLine, StateTable,
};
use miette::miette;

use crate::args::{Asked, OutputFormat, RunOptions, With};
use crate::source::{Fight, Playing};
use crate::{Failure, Outcome, files, output, part};

pub(crate) fn demo(with: &With, options: &RunOptions) -> Result<Outcome, Failure> {
    if options.verify {
        return Err(no_log("the fight that comes with the command is"));
    }
    run(&Fight::demo(with)?, options)
}

pub(crate) fn file(asked: &Asked, options: &RunOptions) -> Result<Outcome, Failure> {
    if options.verify {
        let path = &asked.file;
        let log = files::log(path)?.ok_or_else(|| no_log(&format!("{} is", path.display())))?;
        return verify(path, &log);
    }
    run(&Fight::of(asked)?, options)
}

fn no_log(what: &str) -> Failure {
    miette!(help = "`run FILE --log LOG` writes one", "{what} no log, and has no checksums")
}

/// The log that is written of a scenario.
type Recording = Recorder<BufWriter<File>>;

fn run(fight: &Fight, options: &RunOptions) -> Result<Outcome, Failure> {
    let path = options.out.out.as_deref();
    options.part.must_be_topics(fight.rules())?;
    let (format, mut out) = match options.format {
        OutputFormat::Text => (Format::Text, output::open(path)?),
        OutputFormat::Jsonl => (Format::JsonLines, output::open_plain(path)?),
    };
    let (mut playing, mut recording) = match &options.log {
        None => (fight.play(!options.no_ledgers)?, None),
        Some(log) => {
            let (playing, recording) = recorded(fight, !options.no_ledgers, log, options.compress)?;
            (playing, Some(recording))
        }
    };
    if format == Format::Text {
        let (title, rate) = (fight.title(), fight.rules().rate());
        let heading = writeln!(out, "{title}\n{rate} ticks a second, seed {}\n", fight.seed());
        if let Err(error) = heading {
            return output::written(Err(error)).map(|()| Outcome::Fine);
        }
    }
    let mut feed = Feed::new(out, format);
    if options.contacts {
        feed = feed.show_contacts();
    }
    if options.every {
        feed = feed.show_repeated();
    }
    let part = &options.part;
    let mut joined: BTreeSet<String> = BTreeSet::new();
    let mut last = None;
    while playing.tick_by(|fight| match &mut recording {
        Some(recording) => recording.tick(fight),
        None => fight.tick(),
    })? {
        let seen = playing.seen();
        let written = match part.is_all() {
            true => feed.write(&seen),
            false => feed.write_some(&seen, |fact| part.shows(&seen, fact)),
        };
        if let Err(error) = written {
            return output::written(Err(error)).map(|()| Outcome::Fine);
        }
        if !part.only.is_empty() {
            joined.extend(seen.view().combatants().map(|who| seen.names.of(who).to_owned()));
        }
        last = Some(());
    }
    part::must_be_there(&part.only, &joined.iter().map(String::as_str).collect::<Vec<_>>())?;
    let finished = feed.finish(fight.rules(), playing.names());
    let finished = finished.and_then(|mut out| match (format, last) {
        (Format::Text, Some(())) => stands(&mut out, &StateTable::of(&playing.seen())),
        _ => Ok(()),
    });
    output::written(finished)?;
    if let Some(path) = path {
        output::wrote("the fight", path);
    }
    if let (Some(recording), Some(path)) = (recording, &options.log) {
        let finished = recording.finish().and_then(|mut file| file.flush());
        finished.map_err(|error| files::unwritable(path, &error))?;
        output::wrote("its log", path);
    }
    Ok(Outcome::Fine)
}

/// How many are told of in the end.
const MOST_STANDING: usize = 40;

/// How everything stands in the end: a line for the encounter, and one for each combatant.
fn stands(out: &mut dyn Write, table: &StateTable) -> io::Result<()> {
    writeln!(out, "\n\x1b[1mIn the end\x1b[0m \x1b[2m(explain --state has it in full)\x1b[0m")?;
    let mut rows: Vec<[String; 2]> = Vec::new();
    for StateLine { of, what, value } in &table.lines {
        let of = of.as_deref().unwrap_or("encounter");
        // What everybody has and the table of the file says is no news.
        if what == "team" {
            continue;
        }
        let text = if what == "life" { value.clone() } else { format!("{what} {value}") };
        match rows.last_mut().filter(|row| row[0] == of) {
            Some(row) => row[1].push_str(&format!(" · {text}")),
            None => rows.push([of.to_owned(), text]),
        }
    }
    let shown = rows.len().min(MOST_STANDING + 1);
    let width = rows[..shown].iter().map(|row| row[0].chars().count()).max().unwrap_or(0);
    for [of, text] in &rows[..shown] {
        writeln!(out, "  {of:width$}  {text}")?;
    }
    if shown < rows.len() {
        writeln!(out, "  and {} more", rows.len() - shown)?;
    }
    out.flush()
}

/// A scenario that is played, with its log begun.
fn recorded<'a>(
    fight: &'a Fight,
    ledgers: bool,
    log: &Path,
    packed: bool,
) -> Result<(Playing<'a>, Recording), Failure> {
    let Some(scenario) = fight.scenario() else {
        return Err(miette!(help = "copy the file", "a log is run again as it is, and gives no other log"));
    };
    let file = File::create(log).map_err(|error| files::unwritable(log, &error))?;
    let options = LogOptions {
        title: scenario.title.clone(),
        build: format!("hammerstone {}", env!("CARGO_PKG_VERSION")),
        checksums: 1,
        packed,
        flush: Flush::After(fight.rules().rate()),
    };
    let mut recording = None;
    let begin = |encounter: &mut Encounter| {
        recording = Some(Recorder::begin(encounter, BufWriter::new(file), &options));
    };
    let playing = fight.prepared(ledgers, begin).ok_or_else(|| miette!("there is no scenario"))?;
    let mut recording = recording.ok_or_else(|| miette!("the log was never begun"))?;
    for (named, name) in playing.play().into_iter().flat_map(|play| play.named()) {
        recording.name(named, name);
    }
    Ok((playing, recording))
}

/// Runs every tick of a log again, and says whether all came to the same.
fn verify(path: &Path, log: &Log) -> Result<Outcome, Failure> {
    let mut out = output::open(None)?;
    let (rate, all) = (f64::from(log.rules().rate()), log.len());
    let (rolled_back, sums) = (all - log.branch().len(), log.checksums());
    let mut text = format!("{}: {all} ticks, {:.2} s at {rate} a second", path.display(), all as f64 / rate);
    if rolled_back > 0 {
        text.push_str(&format!("; {rolled_back} of them were rolled back"));
    }
    text.push_str(&format!("\nwritten by {}, with version {} of the library", build(log), log.library));
    let own = env!("CARGO_PKG_VERSION");
    if log.library != own {
        text.push_str(&format!("; this is {own}, and the checksums decide"));
    }
    let mut fine = true;
    match log.end {
        LogEnd::Finished => {}
        LogEnd::Open => text.push_str("\nit has no end: what wrote it stopped there"),
        LogEnd::Damaged(byte) => {
            fine = false;
            text.push_str(&format!(
                "\nit is cut or damaged at byte {byte}; it was read up to there, and what comes after is not guessed"
            ));
        }
    }
    let replayed = Replay::of(log).and_then(|mut replay| {
        while replay.tick()?.is_some() {}
        Ok(())
    });
    match replayed {
        Ok(()) => text.push_str(&format!("\nevery tick ran as it was recorded; {sums} checksums fit")),
        Err(error) => {
            fine = false;
            text.push_str(&format!("\n{error}"));
        }
    }
    output::written(writeln!(out, "{text}").and_then(|()| out.flush()))?;
    Ok(if fine { Outcome::Fine } else { Outcome::Failed })
}

fn build(log: &Log) -> &str {
    if log.build.is_empty() { "a build without a name" } else { &log.build }
}
