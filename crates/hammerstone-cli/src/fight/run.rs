//! `demo` and `run`: a fight, written as it goes; and its log.

use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::Path;

use hammerstone::Encounter;
use hammerstone_record::{Feed, Flush, Format, Log, LogEnd, LogOptions, Recorder, Replay};
use hammerstone_scenario::{Options, Play};
use miette::miette;

use crate::args::{OutputFormat, RunOptions};
use crate::source::{Fight, Playing};
use crate::{Failure, Outcome, files, output};

pub(crate) fn demo(options: &RunOptions) -> Result<Outcome, Failure> {
    if options.verify {
        return Err(no_log("the fight that comes with the command is"));
    }
    run(&Fight::of(None)?, options)
}

pub(crate) fn file(path: &Path, options: &RunOptions) -> Result<Outcome, Failure> {
    if options.verify {
        let log = files::log(path)?.ok_or_else(|| no_log(&format!("{} is", path.display())))?;
        return verify(path, &log);
    }
    run(&Fight::of(Some(path))?, options)
}

fn no_log(what: &str) -> Failure {
    miette!(help = "`run FILE --log LOG` writes one", "{what} no log, and has no checksums")
}

/// The log that is written of a scenario.
type Recording = Recorder<BufWriter<File>>;

fn run(fight: &Fight, options: &RunOptions) -> Result<Outcome, Failure> {
    let path = options.out.as_deref();
    let (format, mut out) = match options.format {
        OutputFormat::Text => (Format::Text, output::open(path)?),
        OutputFormat::Jsonl => (Format::JsonLines, output::open_plain(path)?),
    };
    let play = Options { seed: options.seed, ticks: options.ticks, ledgers: !options.no_ledgers };
    let (mut playing, mut recording) = match &options.log {
        None => (fight.play(play)?, None),
        Some(log) => {
            let (playing, recording) = recorded(fight, play, log, options.compress)?;
            (playing, Some(recording))
        }
    };
    if format == Format::Text {
        let (title, rate) = (fight.title(), fight.rules().rate());
        let seed = options.seed.unwrap_or(fight.seed());
        let heading = writeln!(out, "{title}\n{rate} ticks a second, seed {seed}\n");
        if let Err(error) = heading {
            return output::written(Err(error)).map(|()| Outcome::Fine);
        }
    }
    let mut feed = Feed::new(out, format);
    if options.contacts {
        feed = feed.show_contacts();
    }
    while playing.tick_by(|fight| match &mut recording {
        Some(recording) => recording.tick(fight),
        None => fight.tick(),
    })? {
        let written = feed.write(&playing.seen());
        if let Err(error) = written {
            return output::written(Err(error)).map(|()| Outcome::Fine);
        }
    }
    let finished = feed.finish(fight.rules(), playing.names());
    output::written(finished.map(|_| ()) as io::Result<()>)?;
    if let (Some(recording), Some(path)) = (recording, &options.log) {
        let finished = recording.finish().and_then(|mut file| file.flush());
        finished.map_err(|error| files::unwritable(path, &error))?;
    }
    Ok(Outcome::Fine)
}

/// A scenario that is played, with its log begun.
fn recorded<'a>(
    fight: &'a Fight,
    play: Options,
    log: &Path,
    packed: bool,
) -> Result<(Playing<'a>, Recording), Failure> {
    let Fight::Scenario(scenario) = fight else {
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
    let play = Play::prepared(scenario, play, begin);
    let mut recording = recording.ok_or_else(|| miette!("the log was never begun"))?;
    play.named().for_each(|(named, name)| recording.name(named, name));
    Ok((Playing::Scenario(Box::new(play)), recording))
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
