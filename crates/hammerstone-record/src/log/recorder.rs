//! Writes the log of a fight while it runs.

use std::cell::RefCell;
use std::io::{self, Write};

use hammerstone::hooks::{
    DeathAttempt, GivenPoses, Heard, HitContext, HookSort, Hooks, PoseAnswer, PoseRequest, StepCall, Terms,
    Verdict,
};
use hammerstone::ids::{CombatantId, HookId, ObstacleId, OwnStepId};
use hammerstone::orders::{Inputs, Orders};
use hammerstone::prelude::Host;
use hammerstone::{Encounter, Fixed, Restored, Summary, TickError};

use super::bytes::{put, put_bytes, put_plain};
use super::content::{AnswerWriter, MOST_INPUTS, Streams, put_inputs};
use super::frame::{FrameWriter, sort};

/// When what was written is handed on, so that a crash of the game loses no more.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Flush {
    /// Before and after each tick.
    EachTick,
    /// After so many ticks.
    After(u32),
}

/// How a log is written.
#[derive(Clone, PartialEq, Debug)]
pub struct LogOptions {
    /// What the fight is called.
    pub title: String,
    /// Which build of the game it is.
    pub build: String,
    /// After how many ticks there is a checksum of the state; 0 for none.
    pub checksums: u32,
    /// Whether it is compressed.
    pub packed: bool,
    /// When it is flushed.
    pub flush: Flush,
}

impl LogOptions {
    /// For a fight of so many ticks a second: a checksum and a flush every second, not compressed.
    pub fn at_rate(rate: u32) -> LogOptions {
        LogOptions {
            title: String::new(),
            build: String::new(),
            checksums: rate,
            packed: false,
            flush: Flush::After(rate),
        }
    }
}

/// What a fight is recorded of that has a name.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Named {
    /// A combatant.
    Combatant(CombatantId),
    /// A hook.
    Hook(HookId),
    /// An obstacle.
    Obstacle(ObstacleId),
    /// A shape of the level, by its number.
    Shape(u32),
}

/// Writes the log of a fight: all that its host asks and answers, so that it can be run again without that host.
///
/// A game calls the recorder's [`tick_with`](Self::tick_with) in place of the encounter's. What the host asked is written before the tick
/// runs, so that a tick that panics can be run again; then its answers, in the order of the calls. Restored states are noticed, also
/// those from elsewhere. A log that cannot be written lets the fight go on, and says so at the end.
///
/// ```
/// use hammerstone::prelude::*;
/// use hammerstone_record::{Log, LogOptions, Recorder, Replay};
/// # let mut b = Ruleset::builder(60);
/// # let masons = b.team("masons");
/// # let mason = b.template(Template::new("mason", masons, 40));
/// # let rules = b.build().unwrap();
/// # let (hooks, mut world) = (Hooks::<()>::new(), ());
/// let mut fight = Encounter::new(&rules, 7);
/// let mut log = Recorder::begin(&mut fight, Vec::new(), &LogOptions::at_rate(60));
/// fight.orders().spawn(mason, Pose::IDENTITY);
/// for _ in 0..90 {
///     log.tick_with(&mut fight, &hooks, &mut world)?;
/// }
/// let bytes = log.finish()?;
///
/// let log = Log::read(bytes)?;
/// let mut replay = Replay::of(&log)?;
/// while replay.tick()?.is_some() {}
/// assert!(replay.fight().same_state(&fight));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[doc(alias("replay", "demo", "recording"))]
#[derive(Debug)]
pub struct Recorder<W: Write> {
    frames: Option<FrameWriter<W>>,
    failed: Option<io::Error>,
    streams: Streams,
    names: Vec<(Named, String)>,
    hooks: RefCell<KnownHooks>,
    answers: AnswerWriter,
    heard: Inputs,
    given: GivenPoses,
    content: Vec<u8>,
    checksums: u32,
    flush: Flush,
    ticks: u32,
}

/// What a host said of a hook.
type HookIs = (Option<HookSort>, Option<&'static str>);

/// What a host said of its hooks, by number: in which tick it was last asked, and what it said.
#[derive(Clone, PartialEq, Debug, Default)]
struct KnownHooks {
    said: Vec<Option<(u32, HookIs)>>,
    /// Of which it said something new.
    new: Vec<HookId>,
    tick: u32,
}

impl KnownHooks {
    /// Asks the host once a tick.
    fn ask(&mut self, host: &dyn Host, hook: HookId) -> HookIs {
        if self.said.len() <= hook.index() {
            self.said.resize(hook.index() + 1, None);
        }
        let known = &mut self.said[hook.index()];
        match *known {
            Some((tick, is)) if tick == self.tick => is,
            before => {
                let is = (host.hook(hook), host.takes(hook));
                if before.is_none_or(|(_, before)| before != is) {
                    self.new.push(hook);
                }
                *known = Some((self.tick, is));
                is
            }
        }
    }
}

impl<W: Write> Recorder<W> {
    /// Begins the log of a fight, which may be under way: what it stands at is embedded then. From now on the encounter
    /// [keeps](Encounter::keep_inputs) what it is asked.
    pub fn begin(fight: &mut Encounter, out: W, options: &LogOptions) -> Recorder<W> {
        let (frames, failed) = match FrameWriter::new(out, options.packed) {
            Ok(frames) => (Some(frames), None),
            Err(error) => (None, Some(error)),
        };
        let LogOptions { checksums, flush, .. } = *options;
        let mut recorder = Recorder {
            frames,
            failed,
            streams: Streams::default(),
            names: Vec::new(),
            hooks: RefCell::default(),
            answers: AnswerWriter::default(),
            heard: Inputs::new(),
            given: GivenPoses::default(),
            content: Vec::new(),
            checksums,
            flush,
            ticks: 0,
        };
        let mut header = Vec::new();
        for text in [&options.title, &options.build, env!("CARGO_PKG_VERSION")] {
            put_bytes(&mut header, text.as_bytes());
        }
        put_bytes(&mut header, &fight.rules().to_bytes());
        put_bytes(&mut header, &fight.level().to_bytes());
        put(&mut header, u64::from(fight.rules().rate()));
        header.extend(fight.seed().to_le_bytes());
        // Ids of one that was reset say so, which its state does not.
        let new = Encounter::in_level(fight.rules(), fight.level(), fight.seed());
        let fresh = fight.epoch() == 0 && new.same_state(fight);
        header.push((!fresh).into());
        if !fresh {
            match fight.save() {
                Ok(saved) => put_bytes(&mut header, &saved.to_bytes()),
                Err(error) => recorder.fail(io::Error::other(error)),
            }
        }
        recorder.write(sort::HEADER, &header);
        recorder.flush();
        fight.keep_inputs(true);
        recorder
    }

    /// From the next tick on, something goes by a name.
    pub fn name(&mut self, named: Named, name: &str) {
        self.names.push((named, name.to_owned()));
    }

    /// Names all hooks.
    pub fn name_hooks<V>(&mut self, hooks: &Hooks<V>) {
        hooks.names().for_each(|(hook, name)| self.name(Named::Hook(hook), name));
    }

    /// Runs and records one tick with hooks, as [`Encounter::tick_with`] does.
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

    /// Runs and records one tick for a host of any sort, as [`Encounter::tick_for`] does.
    pub fn tick_for(&mut self, fight: &mut Encounter, host: &mut dyn Host) -> Result<Summary, TickError> {
        if self.frames.is_none() {
            return fight.tick_for(host);
        }
        self.before(fight);
        self.answers.clear();
        let (answers, streams) = (&mut self.answers, &mut self.streams);
        let (heard, given, hooks) = (&mut self.heard, &mut self.given, &self.hooks);
        let answers = RefCell::new(answers);
        let summary = fight.tick_for(&mut Recording { host, answers, streams, heard, given, hooks })?;
        self.answers.end_run();
        let flags = u8::from(host.has_hooks()) | u8::from(host.any_watches()) << 1;
        self.after(fight, &summary, flags);
        Ok(summary)
    }

    /// Writes what the coming tick begins with.
    fn before(&mut self, fight: &Encounter) {
        let mut content = std::mem::take(&mut self.content);
        content.clear();
        if !self.names.is_empty() {
            put(&mut content, self.names.len() as u64);
            for (named, name) in self.names.drain(..) {
                put_named(&mut content, named);
                put_bytes(&mut content, name.as_bytes());
            }
            self.write(sort::NAMES, &content);
            content.clear();
        }
        let Some(inputs) = fight.inputs().filter(|inputs| inputs.len() <= MOST_INPUTS) else {
            self.content = content;
            let wrong =
                "the encounter is another than the log was begun with, or was asked too much in one tick";
            return self.fail(io::Error::other(wrong));
        };
        match fight.restored() {
            None => content.push(0),
            Some(Restored::To(tick)) => {
                content.push(1);
                put(&mut content, *tick);
            }
            Some(Restored::Elsewhere(saved)) => {
                content.push(2);
                put_bytes(&mut content, &saved.to_bytes());
            }
            Some(Restored::Adopted { rules, saved, after }) => {
                content.push(3);
                put(&mut content, after.map_or(0, |tick| tick + 1));
                put_bytes(&mut content, &rules.to_bytes());
                put_bytes(&mut content, &saved.to_bytes());
            }
        }
        self.streams.begin();
        put_inputs(&mut content, &mut self.streams, inputs);
        self.write(sort::INPUTS, &content);
        self.content = content;
        if self.flush == Flush::EachTick {
            self.flush();
        }
    }

    /// Writes what the host answered, and what came of it.
    fn after(&mut self, fight: &Encounter, summary: &Summary, flags: u8) {
        self.ticks += 1;
        let mut content = std::mem::take(&mut self.content);
        content.clear();
        let sums = self.checksums > 0 && self.ticks.is_multiple_of(self.checksums);
        content.push(flags | u8::from(sums) << 2);
        put(&mut content, u64::from(summary.tick));
        put(&mut content, u64::from(summary.load.facts));
        if sums {
            content.extend(fight.checksum().to_le_bytes());
        }
        let KnownHooks { said, new, tick } = self.hooks.get_mut();
        *tick += 1;
        put(&mut content, new.len() as u64);
        for hook in new.drain(..) {
            let (sort, takes) = said[hook.index()].map_or((None, None), |(_, is)| is);
            put(&mut content, hook.index() as u64);
            content.push(match sort {
                None => 0,
                Some(HookSort::Reacts) => 1,
                Some(HookSort::Watches) => 2,
                Some(HookSort::Shows) => 3,
            });
            put_bytes(&mut content, takes.unwrap_or_default().as_bytes());
        }
        content.extend_from_slice(&self.answers.bytes);
        self.write(sort::RAN, &content);
        self.content = content;
        let due = match self.flush {
            Flush::EachTick => true,
            Flush::After(ticks) => self.ticks.is_multiple_of(ticks.max(1)),
        };
        if due {
            self.flush();
        }
    }

    fn write(&mut self, sort: u8, content: &[u8]) {
        if let Some(Err(error)) = self.frames.as_mut().map(|frames| frames.write(sort, content)) {
            self.fail(error);
        }
    }

    fn flush(&mut self) {
        if let Some(Err(error)) = self.frames.as_mut().map(FrameWriter::flush) {
            self.fail(error);
        }
    }

    /// Nothing more is written; the fight goes on.
    fn fail(&mut self, error: io::Error) {
        self.frames = None;
        self.failed.get_or_insert(error);
    }

    /// Why nothing more is written, if that is so.
    pub fn failed(&self) -> Option<&io::Error> {
        self.failed.as_ref()
    }

    /// What it writes to, while it can.
    pub fn out(&self) -> Option<&W> {
        self.frames.as_ref().map(FrameWriter::out)
    }

    /// Ends the log, and gives what it was written to. *Errors:* the first that occurred.
    pub fn finish(mut self) -> io::Result<W> {
        self.write(sort::CLOSED, &[]);
        self.flush();
        match (self.frames, self.failed) {
            (Some(frames), _) => Ok(frames.into_out()),
            (None, Some(error)) => Err(error),
            (None, None) => Err(io::Error::other("the log was never begun")),
        }
    }
}

fn put_named(bytes: &mut Vec<u8>, named: Named) {
    match named {
        Named::Combatant(who) => {
            bytes.push(0);
            put_plain(bytes, &who);
        }
        Named::Hook(hook) => {
            bytes.push(1);
            put(bytes, hook.index() as u64);
        }
        Named::Obstacle(obstacle) => {
            bytes.push(2);
            put_plain(bytes, &obstacle);
        }
        Named::Shape(shape) => {
            bytes.push(3);
            put(bytes, u64::from(shape));
        }
    }
}

/// A host whose answers are written down.
struct Recording<'a> {
    host: &'a mut dyn Host,
    answers: RefCell<&'a mut AnswerWriter>,
    streams: &'a mut Streams,
    heard: &'a mut Inputs,
    given: &'a mut GivenPoses,
    hooks: &'a RefCell<KnownHooks>,
}

impl Host for Recording<'_> {
    fn has_hooks(&self) -> bool {
        self.host.has_hooks()
    }

    fn hook(&self, hook: HookId) -> Option<HookSort> {
        self.hooks.borrow_mut().ask(self.host, hook).0
    }

    fn any_watches(&self) -> bool {
        self.host.any_watches()
    }

    fn takes(&self, hook: HookId) -> Option<&'static str> {
        self.hooks.borrow_mut().ask(self.host, hook).1
    }

    fn hear(&mut self, hook: HookId, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        let host = &mut *self.host;
        self.heard.clear();
        orders.noting(self.heard, |orders| host.hear(hook, heard, orders));
        self.answers.get_mut().heard(self.streams, hook, self.heard);
    }

    fn watch(&mut self, hook: HookId, heard: &Heard<'_>) {
        self.host.watch(hook, heard);
    }

    fn intercept(&mut self, attempt: &HitContext<'_>, terms: &mut Terms<'_>) -> Verdict {
        let before = (terms.amendments().len(), terms.costs().len());
        let verdict = self.host.intercept(attempt, terms);
        let (amendments, costs) = (&terms.amendments()[before.0..], &terms.costs()[before.1..]);
        self.answers.get_mut().verdict(terms.decides(), verdict, amendments, costs);
        verdict
    }

    fn prevent_death(&mut self, attempt: &DeathAttempt<'_>) -> Option<(HookId, i64)> {
        let answered = self.host.prevent_death(attempt);
        self.answers.get_mut().prevented_death(answered);
        answered
    }

    fn may_prevent_death(&self, attempt: &DeathAttempt<'_>) -> Option<HookId> {
        let answered = self.host.may_prevent_death(attempt);
        self.answers.borrow_mut().may_prevent(answered);
        answered
    }

    fn poses(&mut self, request: &PoseRequest<'_>, answer: &mut PoseAnswer<'_>) {
        let host = &mut *self.host;
        answer.noting(self.given, |answer| host.poses(request, answer));
        self.answers.get_mut().poses(self.streams, self.given);
    }

    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        let answered = self.host.own_step(step, call);
        self.answers.get_mut().own_step(answered);
        answered
    }
}
