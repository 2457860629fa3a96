//! What a command looks at: a scenario, which is played, or a log, which is run again.

use std::path::Path;

use hammerstone::{Encounter, Ruleset, Summary, TickError};
use hammerstone_record::{Log, LogEnd, Names, Record, Replay, Run, Tick};
use hammerstone_scenario::{Options, Play, Scenario};
use miette::{IntoDiagnostic, miette};

use crate::args::{Asked, With};
use crate::files::Texts;
use crate::progress::Progress;
use crate::{Failure, files, output};

/// A fight in a file, and what is other for this run.
pub(crate) struct Fight {
    sort: Sort,
    seed: Option<u64>,
    ticks: Option<u32>,
    /// Whether stand-ins tell what they choose.
    choices: bool,
}

enum Sort {
    Scenario(Box<Scenario>),
    Log(Box<Log>),
}

impl Fight {
    /// The fight that is asked for.
    pub(crate) fn of(asked: &Asked) -> Result<Fight, Failure> {
        Fight::at(&asked.file, &asked.with)
    }

    /// Of a file.
    pub(crate) fn at(path: &Path, with: &With) -> Result<Fight, Failure> {
        let sort = match files::log(path)? {
            Some(log) => {
                let other = [(with.rules.is_some(), "--rules"), (!with.set.is_empty(), "--set")];
                if let Some((_, option)) = other.into_iter().find(|(given, _)| *given) {
                    let help = format!("leave {option} out, or name the scenario");
                    return Err(miette!(help = help, "a log has its ruleset in it, and no files"));
                }
                if with.choices {
                    let help =
                        "write the log with --choices, too: `hammerstone run FIGHT --choices --log FILE`";
                    return Err(miette!(
                        help = help,
                        "a log has the choices that were told when it was written"
                    ));
                }
                warn(&log, path);
                Sort::Log(Box::new(log))
            }
            None => Sort::Scenario(Box::new(Texts::of(Some(path), with)?.read()?)),
        };
        Ok(Fight::with(sort, with))
    }

    fn with(sort: Sort, with: &With) -> Fight {
        Fight { sort, seed: with.seed, ticks: with.ticks, choices: with.choices }
    }

    /// The same fight, in which stand-ins tell what they choose.
    pub(crate) fn telling_choices(self) -> Fight {
        Fight { choices: true, ..self }
    }

    /// A scenario that was read.
    pub(crate) fn of_scenario(scenario: Scenario, with: &With) -> Fight {
        Fight::with(Sort::Scenario(Box::new(scenario)), with)
    }

    /// The fight that comes with the command.
    pub(crate) fn demo(with: &With) -> Result<Fight, Failure> {
        let scenario = Texts::of(None, with)?.read()?;
        Ok(Fight::with(Sort::Scenario(Box::new(scenario)), with))
    }

    /// The scenario, if it is one.
    pub(crate) fn scenario(&self) -> Option<&Scenario> {
        match &self.sort {
            Sort::Scenario(scenario) => Some(scenario),
            Sort::Log(_) => None,
        }
    }

    pub(crate) fn title(&self) -> &str {
        match &self.sort {
            Sort::Scenario(scenario) => &scenario.title,
            Sort::Log(log) => &log.title,
        }
    }

    pub(crate) fn rules(&self) -> &Ruleset {
        match &self.sort {
            Sort::Scenario(scenario) => &scenario.rules.ruleset,
            Sort::Log(log) => log.rules(),
        }
    }

    /// Whether it is a log that begins in the middle of a fight.
    pub(crate) fn begins_in_the_middle(&self) -> bool {
        match &self.sort {
            Sort::Scenario(_) => false,
            Sort::Log(log) => log.start().view().tick() > 0,
        }
    }

    /// Whether it runs as its file says, with no other seed, and to its end.
    pub(crate) fn is_as_written(&self) -> bool {
        self.seed.is_none() && self.ticks.is_none()
    }

    /// The seed of its rolls.
    pub(crate) fn seed(&self) -> u64 {
        self.seed.unwrap_or(match &self.sort {
            Sort::Scenario(scenario) => scenario.seed,
            Sort::Log(log) => log.start().seed(),
        })
    }

    /// How it is played.
    pub(crate) fn options(&self, ledgers: bool) -> Options {
        Options { seed: self.seed, ticks: self.ticks, ledgers, choices: self.choices }
    }

    /// Plays it, or runs what counts of it again; with the ledgers of its amounts or without. *Errors:* a log has its seed.
    pub(crate) fn play(&self, ledgers: bool) -> Result<Playing<'_>, Failure> {
        let (options, most) = (self.options(ledgers), self.ticks);
        Ok(match &self.sort {
            Sort::Scenario(scenario) => {
                let play = Play::new(scenario, options);
                let progress = Progress::of(most.unwrap_or(scenario.ticks).into());
                Playing { sort: PlayingSort::Scenario(Box::new(play)), progress }
            }
            Sort::Log(log) => {
                if options.seed.is_some() {
                    let help = "leave --seed out, or name the scenario";
                    return Err(miette!(help = help, "a log has the rolls of its own seed"));
                }
                let mut replay = Replay::of_branch(log);
                replay.fight_mut().keep_ledgers(options.ledgers);
                let progress = Progress::of(most.map_or(log.branch().len() as u64, u64::from));
                Playing { sort: PlayingSort::Log(Box::new((replay, Run::new(), options.ticks))), progress }
            }
        })
    }

    /// A scenario that is played with an encounter that `prepare` sees first.
    pub(crate) fn prepared(
        &self,
        ledgers: bool,
        prepare: impl FnOnce(&mut Encounter),
    ) -> Option<Playing<'_>> {
        let scenario = self.scenario()?;
        let play = Play::prepared(scenario, self.options(ledgers), prepare);
        let progress = Progress::of(self.ticks.unwrap_or(scenario.ticks).into());
        Some(Playing { sort: PlayingSort::Scenario(Box::new(play)), progress })
    }
}

/// Says if a log is not whole.
fn warn(log: &Log, path: &Path) {
    if let LogEnd::Damaged(byte) = log.end {
        let (ticks, rate) = (log.len(), f64::from(log.rules().rate()));
        output::complain(&miette!(
            severity = miette::Severity::Warning,
            help = "what comes after cannot be relied on, and was not read",
            "{} is cut or damaged at byte {byte}; it was read up to there: {ticks} ticks, {:.2} s",
            path.display(),
            ticks as f64 / rate
        ));
    }
}

/// A fight that is being played, or run again.
#[derive(Clone)]
pub(crate) struct Playing<'a> {
    sort: PlayingSort<'a>,
    progress: Progress,
}

#[derive(Clone)]
enum PlayingSort<'a> {
    Scenario(Box<Play<'a>>),
    /// With how many of its ticks are run.
    Log(Box<(Replay<'a>, Run, Option<u32>)>),
}

impl<'a> Playing<'a> {
    /// The play of a scenario, if it is one.
    pub(crate) fn play(&self) -> Option<&Play<'a>> {
        match &self.sort {
            PlayingSort::Scenario(play) => Some(play),
            PlayingSort::Log(_) => None,
        }
    }

    pub(crate) fn encounter(&self) -> &Encounter {
        match &self.sort {
            PlayingSort::Scenario(play) => &play.encounter,
            PlayingSort::Log(log) => log.0.fight(),
        }
    }

    pub(crate) fn encounter_mut(&mut self) -> &mut Encounter {
        match &mut self.sort {
            PlayingSort::Scenario(play) => &mut play.encounter,
            PlayingSort::Log(log) => log.0.fight_mut(),
        }
    }

    pub(crate) fn names(&self) -> &Names {
        match &self.sort {
            PlayingSort::Scenario(play) => &play.run.names,
            PlayingSort::Log(log) => &log.1.names,
        }
    }

    /// Runs one tick. Gives whether it ran: not when the fight is over.
    pub(crate) fn tick(&mut self) -> Result<bool, Failure> {
        self.tick_by(Encounter::tick)
    }

    /// As [`tick`](Self::tick); one of a scenario is run by `run`.
    pub(crate) fn tick_by(
        &mut self,
        run: impl FnOnce(&mut Encounter) -> Result<Summary, TickError>,
    ) -> Result<bool, Failure> {
        self.progress.tick();
        match &mut self.sort {
            PlayingSort::Scenario(play) => play.tick_by(run).into_diagnostic(),
            PlayingSort::Log(log) => {
                let (replay, run, most) = &mut **log;
                if let Some(most) = most {
                    let Some(left) = most.checked_sub(1) else { return Ok(false) };
                    *most = left;
                }
                let ran = replay.tick_named(&mut run.names).map_err(|error| {
                    let help =
                        "it was recorded by another build, or something decides that is not in the log";
                    miette!(help = help, "{error}")
                })?;
                if ran.is_some() {
                    run.observe(replay.fight());
                }
                Ok(ran.is_some())
            }
        }
    }

    /// The tick that ran last, for records to look at.
    pub(crate) fn seen(&self) -> Tick<'_> {
        match &self.sort {
            PlayingSort::Scenario(play) => play.seen(),
            PlayingSort::Log(log) => log.1.tick(log.0.fight()),
        }
    }

    /// Runs it to its end and shows each tick to these records.
    pub(crate) fn through(&mut self, records: &mut [&mut dyn Record]) -> Result<(), Failure> {
        while self.tick()? {
            self.seen().show(records);
        }
        Ok(())
    }
}
