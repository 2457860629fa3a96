//! What a command looks at: a scenario, which is played, or a log, which is run again.

use std::path::Path;

use hammerstone::{Encounter, Ruleset, Summary, TickError};
use hammerstone_record::{Log, LogEnd, Names, Record, Replay, Run, Tick};
use hammerstone_scenario::{Options, Play, Scenario};
use miette::{IntoDiagnostic, miette};

use crate::{Failure, files, output};

/// A fight in a file.
pub(crate) enum Fight {
    Scenario(Box<Scenario>),
    Log(Box<Log>),
}

impl Fight {
    /// Of a file, or the fight that comes with the command.
    pub(crate) fn of(path: Option<&Path>) -> Result<Fight, Failure> {
        let Some(path) = path else { return Ok(Fight::Scenario(Box::new(files::demo()?))) };
        match files::log(path)? {
            Some(log) => {
                warn(&log, path);
                Ok(Fight::Log(Box::new(log)))
            }
            None => Ok(Fight::Scenario(Box::new(files::scenario(path)?))),
        }
    }

    /// The scenario, if it is one.
    pub(crate) fn scenario(&self) -> Option<&Scenario> {
        match self {
            Fight::Scenario(scenario) => Some(scenario),
            Fight::Log(_) => None,
        }
    }

    pub(crate) fn title(&self) -> &str {
        match self {
            Fight::Scenario(scenario) => &scenario.title,
            Fight::Log(log) => &log.title,
        }
    }

    pub(crate) fn rules(&self) -> &Ruleset {
        match self {
            Fight::Scenario(scenario) => &scenario.rules.ruleset,
            Fight::Log(log) => log.rules(),
        }
    }

    /// Whether it is a log that begins in the middle of a fight.
    pub(crate) fn begins_in_the_middle(&self) -> bool {
        match self {
            Fight::Scenario(_) => false,
            Fight::Log(log) => log.start().view().tick() > 0,
        }
    }

    /// The seed of its rolls, unless another is asked for.
    pub(crate) fn seed(&self) -> u64 {
        match self {
            Fight::Scenario(scenario) => scenario.seed,
            Fight::Log(log) => log.start().seed(),
        }
    }

    /// Plays it, or runs what counts of it again. *Errors:* a log has its seed.
    pub(crate) fn play(&self, options: Options) -> Result<Playing<'_>, Failure> {
        Ok(match self {
            Fight::Scenario(scenario) => Playing::Scenario(Box::new(Play::new(scenario, options))),
            Fight::Log(log) => {
                if options.seed.is_some() {
                    let help = "leave --seed out, or name the scenario";
                    return Err(miette!(help = help, "a log has the rolls of its own seed"));
                }
                let mut replay = Replay::of_branch(log);
                replay.fight_mut().keep_ledgers(options.ledgers);
                Playing::Log(Box::new((replay, Run::new(), options.ticks)))
            }
        })
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
pub(crate) enum Playing<'a> {
    Scenario(Box<Play<'a>>),
    /// With how many of its ticks are run.
    Log(Box<(Replay<'a>, Run, Option<u32>)>),
}

impl Playing<'_> {
    pub(crate) fn encounter(&self) -> &Encounter {
        match self {
            Playing::Scenario(play) => &play.encounter,
            Playing::Log(log) => log.0.fight(),
        }
    }

    pub(crate) fn encounter_mut(&mut self) -> &mut Encounter {
        match self {
            Playing::Scenario(play) => &mut play.encounter,
            Playing::Log(log) => log.0.fight_mut(),
        }
    }

    pub(crate) fn names(&self) -> &Names {
        match self {
            Playing::Scenario(play) => &play.run.names,
            Playing::Log(log) => &log.1.names,
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
        match self {
            Playing::Scenario(play) => play.tick_by(run).into_diagnostic(),
            Playing::Log(log) => {
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
        match self {
            Playing::Scenario(play) => play.seen(),
            Playing::Log(log) => log.1.tick(log.0.fight()),
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
