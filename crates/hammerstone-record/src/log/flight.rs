//! The last seconds of a fight, kept in memory until something goes wrong.

use hammerstone::hooks::Hooks;
use hammerstone::prelude::Host;
use hammerstone::{Encounter, Summary, TickError};

use super::frame::{FrameReader, FrameWriter, sort};
use super::{Flush, LogOptions, Named, Recorder};

/// Keeps the log of the last seconds of a fight in memory, with the state at its beginning. What it holds is a [log](super::Log) like any other:
/// written when a check fails, when a tick panics, or when a key says so, it shows what led there.
///
/// It holds what a [recorder](Recorder) would have written in the time asked for, and in as much before that at most.
///
/// ```
/// use hammerstone::prelude::*;
/// use hammerstone_record::{FlightRecorder, Log, LogOptions};
/// # let mut b = Ruleset::builder(60);
/// # let masons = b.team("masons");
/// # let mason = b.template(Template::new("mason", masons, 40));
/// # let rules = b.build().unwrap();
/// let mut fight = Encounter::new(&rules, 7);
/// let mut recorder = FlightRecorder::begin(&mut fight, 600, LogOptions::at_rate(60));
/// fight.orders().spawn(mason, Pose::IDENTITY);
/// for _ in 0..2000 {
///     recorder.tick(&mut fight)?;
/// }
/// let log = Log::read(recorder.log())?;
/// assert_eq!((log.start().view().tick(), log.len()), (1200, 800));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct FlightRecorder {
    options: LogOptions,
    ticks: u32,
    names: Vec<(Named, String)>,
    /// The log since the last time that it began anew, and that of the stretch before.
    current: Recorder<Vec<u8>>,
    before: Option<Vec<u8>>,
    since: u32,
}

impl FlightRecorder {
    /// Keeps so many ticks, or up to twice as many. From now on the encounter [keeps](Encounter::keep_inputs) what it is asked.
    pub fn begin(fight: &mut Encounter, ticks: u32, options: LogOptions) -> FlightRecorder {
        let inner = LogOptions { packed: false, flush: Flush::EachTick, ..options.clone() };
        let current = Recorder::begin(fight, Vec::new(), &inner);
        FlightRecorder { options, ticks: ticks.max(1), names: Vec::new(), current, before: None, since: 0 }
    }

    /// From the next tick on, something goes by a name.
    pub fn name(&mut self, named: Named, name: &str) {
        self.names.push((named, name.to_owned()));
        self.current.name(named, name);
    }

    /// Runs and records one tick with hooks.
    pub fn tick_with<V>(
        &mut self,
        fight: &mut Encounter,
        hooks: &Hooks<V>,
        world: &mut V,
    ) -> Result<Summary, TickError> {
        self.tick_for(fight, &mut hooks.with(world))
    }

    /// Runs and records one tick without hooks.
    pub fn tick(&mut self, fight: &mut Encounter) -> Result<Summary, TickError> {
        self.tick_for(fight, &mut ())
    }

    /// Runs and records one tick for a host of any sort.
    pub fn tick_for(&mut self, fight: &mut Encounter, host: &mut dyn Host) -> Result<Summary, TickError> {
        let asked = fight.inputs().is_none_or(|inputs| !inputs.is_empty()) || fight.restored().is_some();
        if self.since >= self.ticks && !asked {
            self.begin_anew(fight);
        } else if self.since >= 2 * self.ticks {
            // Something is asked in every tick: what is asked now is part of the state that it begins with, and of no log before.
            self.begin_anew(fight);
            self.before = None;
        }
        let summary = self.current.tick_for(fight, host)?;
        self.since += 1;
        Ok(summary)
    }

    /// A new stretch begins; the one before the last is forgotten.
    fn begin_anew(&mut self, fight: &mut Encounter) {
        let inner = LogOptions { packed: false, flush: Flush::EachTick, ..self.options.clone() };
        let next = Recorder::begin(fight, Vec::new(), &inner);
        let last = std::mem::replace(&mut self.current, next);
        self.before = last.out().cloned();
        self.names.iter().for_each(|(named, name)| self.current.name(*named, name));
        self.since = 0;
    }

    /// What it holds, as a log. A tick that panicked is its end, and can be run again ([`Replay::unfinished`](super::Replay::unfinished)).
    pub fn log(&self) -> Vec<u8> {
        let current = self.current.out().map_or(&[][..], Vec::as_slice);
        let stretches = self.before.iter().map(Vec::as_slice).chain([current]);
        let Ok(mut out) = FrameWriter::new(Vec::new(), self.options.packed) else { return Vec::new() };
        for (place, stretch) in stretches.enumerate() {
            let Some(mut frames) = FrameReader::new(stretch) else { continue };
            if place > 0 {
                // Its header is of use only where it is the first.
                _ = (frames.next(), out.write(sort::ANEW, &[]));
            }
            while let Ok(frame) = frames.next() {
                // To memory, where there is nothing that could fail.
                _ = out.write(frame.sort, &frame.content);
            }
        }
        _ = out.flush();
        out.into_out()
    }
}
