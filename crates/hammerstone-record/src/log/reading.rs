//! Reads the log of a fight.

use std::collections::BTreeMap;
use std::ops::Range;

use hammerstone::event::TOPICS;
use hammerstone::findings::BytesError;
use hammerstone::hooks::HookSort;
use hammerstone::ids::HookId;
use hammerstone::level::{Level, LevelBytesError};
use hammerstone::orders::Inputs;
use hammerstone::{Encounter, RestoreError, Ruleset, Saved, SavedBytesError};

use super::bytes::{Damaged, Reading};
use super::content::{AnswerReader, Streams, take_inputs};
use super::frame::{FrameReader, MAGIC, NoFrame, sort};
use super::recorder::Named;

/// Why bytes are no log.
#[derive(Clone, PartialEq, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum LogError {
    /// They do not begin as a log of this version does.
    #[error("these bytes are no log that this version wrote: they do not begin with `HMSTLOG1`")]
    OtherSort,
    /// Not even the header is whole.
    #[error("the log is cut or damaged in its header, so that nothing can be read of it")]
    NoHeader,
    /// Its ruleset cannot be read.
    #[error("the ruleset in the log cannot be read: {0}; the log was written by build {1} of the library")]
    Ruleset(BytesError, String),
    /// Its level cannot be read.
    #[error("the level in the log cannot be read: {0}")]
    Level(#[from] LevelBytesError),
    /// The state with which it begins cannot be read.
    #[error("the state with which the log begins cannot be read: {0}")]
    Saved(#[from] SavedBytesError),
    /// The state with which it begins does not fit.
    #[error("the state with which the log begins does not fit: {0}")]
    Restore(#[from] RestoreError),
}

/// How a log ends.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum LogEnd {
    /// It was [finished](super::Recorder::finish).
    Finished,
    /// The program that wrote it stopped between two frames.
    Open,
    /// It is cut or damaged at this byte; all that comes before is good, and nothing after it was read.
    Damaged(usize),
}

/// A log, read up to its last whole frame.
#[derive(Clone, Debug)]
pub struct Log {
    /// What the fight is called.
    pub title: String,
    /// Which build of the game wrote it.
    pub build: String,
    /// Which version of the library wrote it.
    pub library: String,
    /// How it ends.
    pub end: LogEnd,
    /// The fight as it stood when the log began.
    pub(super) start: Encounter,
    content: Vec<u8>,
    /// What was asked before each tick, also before those that did not run.
    pub(super) entries: Vec<Entry>,
    /// Those of the ticks that ran, by their places.
    pub(super) ticks: Vec<usize>,
}

/// What a log holds of one tick.
#[derive(Clone, Debug)]
pub(super) struct Entry {
    pub(super) restored: Origin,
    /// Under which ruleset it runs.
    pub(super) rules: Ruleset,
    /// Whether streams of poses begin anew with it.
    pub(super) anew: bool,
    pub(super) names: Vec<(Named, String)>,
    inputs: Range<usize>,
    pub(super) ran: Option<Ran>,
}

/// With what a tick began.
#[derive(Clone, Debug)]
pub(super) enum Origin {
    /// With how the one before left it.
    Before,
    /// With how this one left it, counted from 1; 0 is the beginning.
    After(u64),
    /// With a state from elsewhere.
    Elsewhere(Box<Saved>),
    /// With how this one left it, or a state from elsewhere, but under another ruleset: in this state.
    Adopted(Option<u64>, Box<(Ruleset, Saved)>),
}

/// What came of a tick.
#[derive(Clone, Debug)]
pub(super) struct Ran {
    pub(super) has_hooks: bool,
    pub(super) any_watches: bool,
    pub(super) tick: u32,
    pub(super) facts: u64,
    pub(super) checksum: Option<u64>,
    pub(super) hooks: Vec<(HookId, Option<HookSort>, Option<&'static str>)>,
    answers: Range<usize>,
}

impl Log {
    /// Whether bytes begin as a log does, whatever its version.
    pub fn is_one(bytes: &[u8]) -> bool {
        bytes.starts_with(&MAGIC[..7])
    }

    /// Reads a log up to its last whole frame; how it ends is in [`end`](Self::end). Nothing after damage is guessed.
    ///
    /// *Errors:* bytes that are no log, or of which not even the header is whole.
    pub fn read(bytes: Vec<u8>) -> Result<Log, LogError> {
        if !bytes.starts_with(&MAGIC) {
            return Err(LogError::OtherSort);
        }
        let mut frames = FrameReader::new(&bytes).ok_or(LogError::NoHeader)?;
        let header = frames.next().map_err(|_| LogError::NoHeader)?;
        if header.sort != sort::HEADER {
            return Err(LogError::NoHeader);
        }
        let mut log = Log::begun(Reading(&header.content))?;
        let (mut streams, mut names) = (Streams::default(), Vec::new());
        // Where ticks are counted from, and whether that begins with the next entry.
        let (mut from, mut anew) = (0, false);
        log.end = loop {
            let frame = match frames.next() {
                Ok(frame) => frame,
                Err(NoFrame::End) => break LogEnd::Open,
                Err(NoFrame::Damaged(place)) => break LogEnd::Damaged(place),
            };
            let (first, content) = (log.content.len(), &frame.content[..]);
            let asked = log.entries.last().is_some_and(|entry| entry.ran.is_none());
            let taken = match frame.sort {
                sort::NAMES => take_names(content, &mut names),
                sort::INPUTS => {
                    take_entry(content, first, &mut streams, (from, log.ticks.len())).map(|entry| {
                        let (names, anew) = (std::mem::take(&mut names), std::mem::take(&mut anew));
                        let rules = log.rules_of(&entry.0);
                        let (restored, inputs) = entry;
                        log.entries.push(Entry { restored, rules, names, anew, inputs, ran: None });
                    })
                }
                sort::ANEW if content.is_empty() => {
                    streams = Streams::default();
                    (from, anew) = (log.ticks.len(), true);
                    Ok(())
                }
                sort::RAN if asked => take_ran(content, first, &mut streams).map(|ran| {
                    log.ticks.push(log.entries.len() - 1);
                    if let Some(entry) = log.entries.last_mut() {
                        entry.ran = Some(ran);
                    }
                }),
                sort::CLOSED if content.is_empty() => break LogEnd::Finished,
                _ => Err(Damaged),
            };
            if taken.is_err() {
                break LogEnd::Damaged(frames.began());
            }
            if frame.sort != sort::NAMES {
                log.content.extend_from_slice(content);
            }
        };
        if log.end == LogEnd::Finished && !frames.is_at_end() {
            log.end = LogEnd::Damaged(frames.read());
        }
        Ok(log)
    }

    /// Of a header.
    fn begun(mut header: Reading<'_>) -> Result<Log, LogError> {
        let mut text = || header.text().map(str::to_owned).map_err(|_| LogError::NoHeader);
        let (title, build, library) = (text()?, text()?, text()?);
        let broken = |_| LogError::NoHeader;
        let rules = Ruleset::from_bytes(header.bytes().map_err(broken)?)
            .map_err(|error| LogError::Ruleset(error, library.clone()))?;
        let level = Level::from_bytes(header.bytes().map_err(broken)?)?;
        let rate = header.number().map_err(broken)?;
        let seed = header.eight().map_err(broken)?;
        let mut start = Encounter::in_level(&rules, &level, seed);
        match header.byte().map_err(broken)? {
            0 => {}
            1 => start.restore(&Saved::from_bytes(header.bytes().map_err(broken)?)?)?,
            _ => return Err(LogError::NoHeader),
        }
        if header.end().is_err() || rate != u64::from(rules.rate()) {
            return Err(LogError::NoHeader);
        }
        let (content, entries, ticks) = (Vec::new(), Vec::new(), Vec::new());
        Ok(Log { title, build, library, end: LogEnd::Open, start, content, entries, ticks })
    }

    /// The ruleset of the fight.
    pub fn rules(&self) -> &Ruleset {
        self.start.rules()
    }

    /// The fight as it stood when the log began.
    pub fn start(&self) -> &Encounter {
        &self.start
    }

    /// How many ticks it holds, those that were rolled back as well.
    pub fn len(&self) -> usize {
        self.ticks.len()
    }

    /// How many of its ticks have a checksum.
    pub fn checksums(&self) -> usize {
        let of =
            |&&place: &&usize| self.entries[place].ran.as_ref().is_some_and(|ran| ran.checksum.is_some());
        self.ticks.iter().filter(of).count()
    }

    /// Whether it holds no tick.
    pub fn is_empty(&self) -> bool {
        self.ticks.is_empty()
    }

    /// Which ticks of the log count, counted from 1: after a state was restored, the later branch. From the last state that was restored
    /// from elsewhere on, or from the beginning.
    pub fn branch(&self) -> Vec<u64> {
        let (mut branch, mut tick) = (Vec::new(), self.ticks.len() as u64);
        while tick > 0 {
            branch.push(tick);
            tick = match self.entries[self.ticks[tick as usize - 1]].restored {
                Origin::Before => tick - 1,
                Origin::After(other) | Origin::Adopted(Some(other), _) => other,
                Origin::Elsewhere(_) | Origin::Adopted(None, _) => break,
            };
        }
        branch.reverse();
        branch
    }

    /// The ruleset of a tick that begins so, after those that are known.
    fn rules_of(&self, origin: &Origin) -> Ruleset {
        let after = match origin {
            Origin::Adopted(_, adopted) => return adopted.0.clone(),
            Origin::After(tick) => *tick,
            Origin::Before | Origin::Elsewhere(_) => self.ticks.len() as u64,
        };
        let entry = after.checked_sub(1).and_then(|place| self.ticks.get(place as usize));
        entry.map_or_else(|| self.start.rules().clone(), |&entry| self.entries[entry].rules.clone())
    }

    /// For each tick to which the fight was restored, the last one that began so.
    pub(super) fn last_uses(&self) -> BTreeMap<u64, usize> {
        let mut uses = BTreeMap::new();
        for (place, entry) in self.entries.iter().enumerate() {
            if let Origin::After(tick) = entry.restored {
                uses.insert(tick, place);
            }
        }
        uses
    }

    /// What was asked before a tick, by the streams of poses as they stand then.
    pub(super) fn inputs(&self, entry: &Entry, streams: &mut Streams, inputs: &mut Inputs) {
        if entry.anew {
            *streams = Streams::default();
        }
        streams.begin();
        inputs.clear();
        // It was read once already.
        let read = take_inputs(&mut Reading(&self.content[entry.inputs.clone()]), streams, inputs);
        debug_assert!(read.is_ok(), "inputs that were read once");
    }

    pub(super) fn answers(&self, ran: &Ran) -> AnswerReader<'_> {
        AnswerReader::new(&self.content[ran.answers.clone()])
    }
}

fn take_names(content: &[u8], names: &mut Vec<(Named, String)>) -> Result<(), Damaged> {
    let mut from = Reading(content);
    for _ in 0..from.count()? {
        let named = match from.byte()? {
            0 => Named::Combatant(from.plain()?),
            1 => Named::Hook(hook(&mut from)?),
            2 => Named::Obstacle(from.plain()?),
            3 => Named::Shape(u32::try_from(from.number()?).map_err(|_| Damaged)?),
            _ => return Err(Damaged),
        };
        names.push((named, from.text()?.to_owned()));
    }
    from.end()
}

fn hook(from: &mut Reading<'_>) -> Result<HookId, Damaged> {
    u16::try_from(from.number()?).map(HookId::numbered).map_err(|_| Damaged)
}

/// Ticks are counted from the first of two numbers; so many are known as the second says.
fn take_entry(
    content: &[u8],
    first: usize,
    streams: &mut Streams,
    (counted, known): (usize, usize),
) -> Result<(Origin, Range<usize>), Damaged> {
    let mut from = Reading(content);
    let tick = |number: u64| {
        let tick = number.checked_add(counted as u64).filter(|&tick| tick <= known as u64);
        tick.ok_or(Damaged)
    };
    let restored = match from.byte()? {
        0 => Origin::Before,
        1 => Origin::After(tick(from.number()?)?),
        2 => Origin::Elsewhere(saved(&mut from)?),
        3 => {
            let after = from.number()?.checked_sub(1).map(tick).transpose()?;
            let rules = Ruleset::from_bytes(from.bytes()?).map_err(|_| Damaged)?;
            Origin::Adopted(after, Box::new((rules, *saved(&mut from)?)))
        }
        _ => return Err(Damaged),
    };
    let inputs = first + content.len() - from.0.len()..first + content.len();
    streams.begin();
    take_inputs(&mut from, streams, &mut Inputs::new())?;
    from.end()?;
    Ok((restored, inputs))
}

fn saved(from: &mut Reading<'_>) -> Result<Box<Saved>, Damaged> {
    Saved::from_bytes(from.bytes()?).map(Box::new).map_err(|_| Damaged)
}

fn take_ran(content: &[u8], first: usize, streams: &mut Streams) -> Result<Ran, Damaged> {
    let mut from = Reading(content);
    let flags = from.byte()?;
    if flags > 0b111 {
        return Err(Damaged);
    }
    let tick = u32::try_from(from.number()?).map_err(|_| Damaged)?;
    let facts = from.number()?;
    let checksum = if flags & 4 != 0 { Some(from.eight()?) } else { None };
    let mut hooks = Vec::new();
    for _ in 0..from.count()? {
        let hook = hook(&mut from)?;
        let sort = match from.byte()? {
            0 => None,
            1 => Some(HookSort::Reacts),
            2 => Some(HookSort::Watches),
            3 => Some(HookSort::Shows),
            _ => return Err(Damaged),
        };
        let takes = match from.text()? {
            "" => None,
            path => Some(TOPICS.iter().map(|topic| topic.path).find(|&known| known == path).ok_or(Damaged)?),
        };
        hooks.push((hook, sort, takes));
    }
    let answers = first + content.len() - from.0.len()..first + content.len();
    AnswerReader::new(from.0).pass_over(streams)?;
    let (has_hooks, any_watches) = (flags & 1 != 0, flags & 2 != 0);
    Ok(Ran { has_hooks, any_watches, tick, facts, checksum, hooks, answers })
}
