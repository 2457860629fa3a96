//! What stands in the frames of a log.

use hammerstone::Fixed;
use hammerstone::geometry::{Frame, Pose};
use hammerstone::hooks::{Amendment, GivenPoses, Verdict};
use hammerstone::ids::{CombatantId, HookId, OrderId};
use hammerstone::orders::{IdSort, Input, Inputs, Moved, Order};

use super::bytes::{Damaged, Differs, PoseStream, Reading, put, put_bytes, put_plain};

/// Poses of three sorts, each told by what came in the tick before.
#[derive(Clone, Debug, Default)]
pub(super) struct Streams {
    moves: PoseStream,
    parts: PoseStream,
    pulled: PoseStream,
}

impl Streams {
    pub(super) fn begin(&mut self) {
        self.moves.begin();
        self.parts.begin();
        self.pulled.begin();
    }
}

/// How inputs begin.
mod tag {
    pub(super) const RESERVE: u8 = 0;
    pub(super) const ORDER: u8 = 4;
    pub(super) const MOVE: u8 = 5;
    pub(super) const POSES: u8 = 6;
    pub(super) const TEXT: u8 = 7;
    pub(super) const DROP: u8 = 8;
    pub(super) const DROP_ALL: u8 = 9;
}

const SORTS: [IdSort; 4] = [IdSort::Combatant, IdSort::Swing, IdSort::Obstacle, IdSort::Subscription];

/// Writes what was asked.
pub(super) fn put_inputs(bytes: &mut Vec<u8>, streams: &mut Streams, inputs: &Inputs) {
    put(bytes, inputs.len() as u64);
    let (mut moves, mut poses, mut text) = (&inputs.moves[..], &inputs.poses[..], &inputs.text[..]);
    for input in &inputs.list {
        match input {
            Input::Reserve(sort) => bytes.push(tag::RESERVE + *sort as u8),
            &Input::Order(Order::Move { subject, pose, ticks }) => {
                let moved = Moved { subject, pose, ticks };
                put_move(bytes, &moved, streams.moves.next(&pose));
            }
            Input::Moves(count) => {
                let (first, rest) = moves.split_at(moves.len().min(*count as usize));
                moves = rest;
                let mut differ = [Differs::default(); 32];
                for some in first.chunks(differ.len()) {
                    for (moved, differs) in some.iter().zip(&mut differ) {
                        *differs = streams.moves.next(&moved.pose);
                    }
                    some.iter().zip(&differ).for_each(|(moved, differs)| put_move(bytes, moved, *differs));
                }
            }
            Input::Order(order) => {
                bytes.push(tag::ORDER);
                put_plain(bytes, order);
            }
            Input::Poses(count) => {
                let (first, rest) = poses.split_at(poses.len().min(*count as usize));
                poses = rest;
                bytes.push(tag::POSES);
                put(bytes, first.len() as u64);
                first.iter().for_each(|pose| streams.parts.put(bytes, pose));
            }
            Input::Text(count) => {
                let (first, rest) = text.split_at(text.len().min(*count as usize));
                text = rest;
                bytes.push(tag::TEXT);
                put_bytes(bytes, first);
            }
            Input::Drop(number) => {
                bytes.push(tag::DROP);
                put_plain(bytes, number);
            }
            Input::DropAll => bytes.push(tag::DROP_ALL),
        }
    }
}

/// Its numbers are short nearly always: then all of it is put together first.
#[inline]
fn put_move(bytes: &mut Vec<u8>, moved: &Moved, differs: Differs) {
    let who = moved.subject.to_bits();
    let (place, generation, ticks) = (who & u64::from(u32::MAX), who >> 32, u64::from(moved.ticks));
    let short = place < 1 << 14 && generation < 1 << 7 && ticks < 1 << 7;
    if let (true, Some((told, length))) = (short, differs.short()) {
        let wide = u32::from(place >= 0x80);
        let place = place & 0x7f | u64::from(wide) << 7 | place >> 7 << 8;
        let begin = u64::from(tag::MOVE) | place << 8 | (generation | ticks << 8) << (16 + 8 * wide);
        let all = u128::from(begin) | u128::from(told) << (32 + 8 * wide);
        bytes.extend_from_slice(&all.to_le_bytes());
        bytes.truncate(bytes.len() - (12 - wide - length) as usize);
    } else {
        bytes.push(tag::MOVE);
        put(bytes, place);
        put(bytes, generation);
        put(bytes, ticks);
        differs.put(bytes);
    }
}

/// The most that is asked in one tick, so that bytes of strangers cannot fill the memory.
pub(super) const MOST_INPUTS: usize = 1 << 20;

/// Reads what was asked, into memory that was used before.
pub(super) fn take_inputs(
    from: &mut Reading<'_>,
    streams: &mut Streams,
    inputs: &mut Inputs,
) -> Result<(), Damaged> {
    let count = from.count()?;
    if count > MOST_INPUTS {
        return Err(Damaged);
    }
    for _ in 0..count {
        let input = match from.byte()? {
            sort @ tag::RESERVE..tag::ORDER => Input::Reserve(SORTS[usize::from(sort)]),
            tag::ORDER => Input::Order(from.plain()?),
            tag::MOVE => {
                let (slot, generation) = (from.number()?, from.number()?);
                let bits = (slot < 1 << 32 && generation < 1 << 32).then_some(generation << 32 | slot);
                let subject = bits.map(CombatantId::from_bits).ok_or(Damaged)?;
                let ticks = u32::try_from(from.number()?).map_err(|_| Damaged)?;
                inputs.push_move(Moved { subject, pose: streams.moves.take(from)?, ticks });
                continue;
            }
            tag::POSES => {
                let count = from.count()?;
                take_poses(from, &mut streams.parts, count, &mut inputs.poses)?;
                Input::Poses(count as u32)
            }
            tag::TEXT => {
                let text = from.text()?;
                inputs.text.extend_from_slice(text.as_bytes());
                Input::Text(text.len() as u32)
            }
            tag::DROP => Input::Drop(from.plain::<OrderId>()?),
            tag::DROP_ALL => Input::DropAll,
            _ => return Err(Damaged),
        };
        inputs.list.push(input);
    }
    Ok(())
}

fn take_poses(
    from: &mut Reading<'_>,
    stream: &mut PoseStream,
    count: usize,
    poses: &mut Vec<Pose>,
) -> Result<(), Damaged> {
    // A pose fills two bytes or more.
    if count > from.0.len() / 2 {
        return Err(Damaged);
    }
    poses.reserve(count);
    for _ in 0..count {
        poses.push(stream.take(from)?);
    }
    Ok(())
}

/// What a host answered to one call of a tick.
#[derive(Clone, PartialEq, Debug)]
pub(super) enum Answer {
    /// A hook heard a fact, and asked this.
    Heard(HookId, Inputs),
    /// What becomes of a hit, which hook decided, and what all that were asked attached.
    Verdict(HookId, Verdict, Vec<Amendment>, Vec<(HookId, Order)>),
    PreventedDeath(Option<(HookId, i64)>),
    MayPrevent(Option<HookId>),
    Poses(GivenPoses),
    OwnStep(Option<Fixed>),
}

impl Answer {
    pub(super) const HEARD: &str = "a hook that hears a fact";
    pub(super) const VERDICT: &str = "an intercept";
    pub(super) const PREVENTS: &str = "a prevention of death";
    pub(super) const POSES: &str = "a source of poses";
    pub(super) const STEP: &str = "a step of the host's own";

    /// The call that it answers, in words.
    pub(super) fn call(&self) -> &'static str {
        match self {
            Answer::Heard(..) => Answer::HEARD,
            Answer::Verdict(..) => Answer::VERDICT,
            Answer::PreventedDeath(_) | Answer::MayPrevent(_) => Answer::PREVENTS,
            Answer::Poses(_) => Answer::POSES,
            Answer::OwnStep(_) => Answer::STEP,
        }
    }
}

/// How answers begin.
mod answer {
    /// So many calls of hooks that asked nothing.
    pub(super) const QUIET: u8 = 0;
    pub(super) const HEARD: u8 = 1;
    /// So many hits that went on as they were.
    pub(super) const PROCEEDED: u8 = 2;
    pub(super) const VERDICT: u8 = 3;
    pub(super) const NOT_PREVENTED: u8 = 4;
    pub(super) const PREVENTED: u8 = 5;
    pub(super) const NONE_MAY: u8 = 6;
    pub(super) const MAY: u8 = 7;
    pub(super) const NO_POSES: u8 = 8;
    pub(super) const POSES: u8 = 9;
    pub(super) const NO_STEP: u8 = 10;
    pub(super) const STEP: u8 = 11;
}

/// Writes answers in the order of their calls; runs of those that say nothing are counted.
#[derive(Debug, Default)]
pub(super) struct AnswerWriter {
    pub(super) bytes: Vec<u8>,
    /// The sort of the run that is being counted, and how long it is.
    run: Option<(u8, u64)>,
}

impl AnswerWriter {
    pub(super) fn clear(&mut self) {
        self.bytes.clear();
        self.run = None;
    }

    fn again(&mut self, tag: u8) {
        match &mut self.run {
            Some((of, count)) if *of == tag => *count += 1,
            _ => {
                self.end_run();
                self.run = Some((tag, 1));
            }
        }
    }

    /// Writes the run that was counted. All is in `bytes` then.
    pub(super) fn end_run(&mut self) {
        if let Some((tag, count)) = self.run.take() {
            self.bytes.push(tag);
            put(&mut self.bytes, count);
        }
    }

    fn begin(&mut self, tag: u8) -> &mut Vec<u8> {
        self.end_run();
        self.bytes.push(tag);
        &mut self.bytes
    }

    pub(super) fn heard(&mut self, streams: &mut Streams, hook: HookId, inputs: &Inputs) {
        if inputs.is_empty() {
            return self.again(answer::QUIET);
        }
        let bytes = self.begin(answer::HEARD);
        put(bytes, hook.index() as u64);
        put_inputs(bytes, streams, inputs);
    }

    pub(super) fn verdict(
        &mut self,
        by: HookId,
        verdict: Verdict,
        amendments: &[Amendment],
        costs: &[(HookId, Order)],
    ) {
        if verdict == Verdict::Proceed && amendments.is_empty() && costs.is_empty() {
            return self.again(answer::PROCEEDED);
        }
        let bytes = self.begin(answer::VERDICT);
        put(bytes, by.index() as u64);
        match verdict {
            Verdict::Proceed => bytes.push(0),
            Verdict::Refuse(reason) => {
                bytes.push(1);
                put_plain(bytes, &reason);
            }
            Verdict::Retry(reason) => {
                bytes.push(2);
                put_plain(bytes, &reason);
            }
            Verdict::Deflect => bytes.push(3),
        }
        put_plain(bytes, &(amendments, costs));
    }

    pub(super) fn prevented_death(&mut self, answered: Option<(HookId, i64)>) {
        match answered {
            None => self.again(answer::NOT_PREVENTED),
            Some((hook, points)) => {
                let bytes = self.begin(answer::PREVENTED);
                put(bytes, hook.index() as u64);
                put_plain(bytes, &points);
            }
        }
    }

    pub(super) fn may_prevent(&mut self, answered: Option<HookId>) {
        match answered {
            None => self.again(answer::NONE_MAY),
            Some(hook) => {
                let bytes = self.begin(answer::MAY);
                put(bytes, hook.index() as u64);
            }
        }
    }

    pub(super) fn poses(&mut self, streams: &mut Streams, given: &GivenPoses) {
        let Some(frame) = given.frame else { return self.again(answer::NO_POSES) };
        let bytes = self.begin(answer::POSES);
        bytes.push((frame == Frame::World).into());
        put(bytes, given.start.len() as u64);
        for pose in given.start.iter().chain(&given.end) {
            streams.pulled.put(bytes, pose);
        }
    }

    pub(super) fn own_step(&mut self, answered: Option<Fixed>) {
        match answered {
            None => self.again(answer::NO_STEP),
            Some(amount) => {
                let bytes = self.begin(answer::STEP);
                put_plain(bytes, &amount);
            }
        }
    }
}

/// Reads answers, one after the other.
#[derive(Debug)]
pub(super) struct AnswerReader<'a> {
    from: Reading<'a>,
    /// The sort of the run that is being counted, and how much of it is left.
    run: (u8, u64),
}

impl<'a> AnswerReader<'a> {
    pub(super) fn new(bytes: &'a [u8]) -> AnswerReader<'a> {
        AnswerReader { from: Reading(bytes), run: (0, 0) }
    }

    /// Whether all were read.
    pub(super) fn is_empty(&self) -> bool {
        self.run.1 == 0 && self.from.0.is_empty()
    }

    /// Reads all that is left, for what the streams of poses remember of it.
    pub(super) fn pass_over(&mut self, streams: &mut Streams) -> Result<(), Damaged> {
        while !self.is_empty() {
            self.run.1 = self.run.1.min(1);
            self.next(streams)?;
        }
        Ok(())
    }

    /// The next answer; none after the last.
    pub(super) fn next(&mut self, streams: &mut Streams) -> Result<Option<Answer>, Damaged> {
        if self.run.1 == 0 {
            if self.from.0.is_empty() {
                return Ok(None);
            }
            let tag = self.from.byte()?;
            if let Some(one) = self.one(tag, streams)? {
                return Ok(Some(one));
            }
            self.run = (tag, self.from.number()?);
            if self.run.1 == 0 {
                return Err(Damaged);
            }
        }
        self.run.1 -= 1;
        Ok(Some(match self.run.0 {
            answer::QUIET => Answer::Heard(HookId::numbered(0), Inputs::new()),
            answer::PROCEEDED => {
                Answer::Verdict(HookId::numbered(0), Verdict::Proceed, Vec::new(), Vec::new())
            }
            answer::NOT_PREVENTED => Answer::PreventedDeath(None),
            answer::NONE_MAY => Answer::MayPrevent(None),
            answer::NO_POSES => Answer::Poses(GivenPoses::default()),
            answer::NO_STEP => Answer::OwnStep(None),
            _ => return Err(Damaged),
        }))
    }

    fn hook(&mut self) -> Result<HookId, Damaged> {
        let number = self.from.number()?;
        u16::try_from(number).map(HookId::numbered).map_err(|_| Damaged)
    }

    /// An answer that says something.
    fn one(&mut self, tag: u8, streams: &mut Streams) -> Result<Option<Answer>, Damaged> {
        Ok(Some(match tag {
            answer::HEARD => {
                let (hook, mut inputs) = (self.hook()?, Inputs::new());
                take_inputs(&mut self.from, streams, &mut inputs)?;
                Answer::Heard(hook, inputs)
            }
            answer::VERDICT => {
                let by = self.hook()?;
                let verdict = match self.from.byte()? {
                    0 => Verdict::Proceed,
                    1 => Verdict::Refuse(self.from.plain()?),
                    2 => Verdict::Retry(self.from.plain()?),
                    3 => Verdict::Deflect,
                    _ => return Err(Damaged),
                };
                let (amendments, costs) = self.from.plain()?;
                Answer::Verdict(by, verdict, amendments, costs)
            }
            answer::PREVENTED => Answer::PreventedDeath(Some((self.hook()?, self.from.plain()?))),
            answer::MAY => Answer::MayPrevent(Some(self.hook()?)),
            answer::POSES => {
                let frame = match self.from.byte()? {
                    0 => Frame::Body,
                    1 => Frame::World,
                    _ => return Err(Damaged),
                };
                let (count, mut given) = (self.from.count()?, GivenPoses::default());
                given.frame = Some(frame);
                take_poses(&mut self.from, &mut streams.pulled, count, &mut given.start)?;
                take_poses(&mut self.from, &mut streams.pulled, count, &mut given.end)?;
                Answer::Poses(given)
            }
            answer::STEP => Answer::OwnStep(Some(self.from.plain()?)),
            _ => return Ok(None),
        }))
    }
}
