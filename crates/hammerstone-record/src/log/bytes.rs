//! Numbers, texts and poses as bytes.

use hammerstone::geometry::Pose;
use serde::Serialize;
use serde::de::DeserializeOwned;

/// Bytes end early, go on too long, or hold what nothing is written as.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Damaged;

/// Writes a number in groups of seven bits, the lowest first; all but the last have the eighth bit set.
pub(super) fn put(bytes: &mut Vec<u8>, mut number: u64) {
    while number >= 0x80 {
        bytes.push(number as u8 | 0x80);
        number >>= 7;
    }
    bytes.push(number as u8);
}

/// Writes a text, or other bytes, after their number.
pub(super) fn put_bytes(bytes: &mut Vec<u8>, more: &[u8]) {
    put(bytes, more.len() as u64);
    bytes.extend_from_slice(more);
}

/// Writes plain data.
pub(super) fn put_plain(bytes: &mut Vec<u8>, plain: &impl Serialize) {
    // Plain data of known lengths, written to memory: there is nothing that could fail.
    if let Ok(written) = postcard::to_extend(plain, std::mem::take(bytes)) {
        *bytes = written;
    }
}

/// Bytes that are being read, from the front.
#[derive(Clone, Copy, Debug)]
pub(super) struct Reading<'a>(pub(super) &'a [u8]);

impl<'a> Reading<'a> {
    pub(super) fn byte(&mut self) -> Result<u8, Damaged> {
        let (&first, rest) = self.0.split_first().ok_or(Damaged)?;
        self.0 = rest;
        Ok(first)
    }

    pub(super) fn number(&mut self) -> Result<u64, Damaged> {
        let mut number = 0;
        for shift in (0..70).step_by(7) {
            let byte = self.byte()?;
            let bits = u64::from(byte & 0x7f);
            if shift == 63 && bits > 1 {
                return Err(Damaged);
            }
            number |= bits << shift;
            if byte < 0x80 {
                return Ok(number);
            }
        }
        Err(Damaged)
    }

    /// A number of things that follow, each of one byte or more.
    pub(super) fn count(&mut self) -> Result<usize, Damaged> {
        let count = usize::try_from(self.number()?).map_err(|_| Damaged)?;
        if count > self.0.len() { Err(Damaged) } else { Ok(count) }
    }

    pub(super) fn take(&mut self, count: usize) -> Result<&'a [u8], Damaged> {
        let (first, rest) = self.0.split_at_checked(count).ok_or(Damaged)?;
        self.0 = rest;
        Ok(first)
    }

    pub(super) fn bytes(&mut self) -> Result<&'a [u8], Damaged> {
        let count = self.count()?;
        self.take(count)
    }

    pub(super) fn text(&mut self) -> Result<&'a str, Damaged> {
        std::str::from_utf8(self.bytes()?).map_err(|_| Damaged)
    }

    pub(super) fn eight(&mut self) -> Result<u64, Damaged> {
        let (first, rest) = self.0.split_first_chunk::<8>().ok_or(Damaged)?;
        self.0 = rest;
        Ok(u64::from_le_bytes(*first))
    }

    pub(super) fn plain<T: DeserializeOwned>(&mut self) -> Result<T, Damaged> {
        let (plain, rest) = postcard::take_from_bytes(self.0).map_err(|_| Damaged)?;
        self.0 = rest;
        Ok(plain)
    }

    /// There is nothing more.
    pub(super) fn end(self) -> Result<(), Damaged> {
        if self.0.is_empty() { Ok(()) } else { Err(Damaged) }
    }
}

/// A pose as seven numbers, exact to the bit, each as a whole number that rises with it: its place and a zero, its turn.
type Numbers = [[i32; 4]; 2];

#[inline]
fn numbers(pose: &Pose) -> Numbers {
    let [x, y, z] = pose.at;
    [[x, y, z, 0.0], pose.turn].map(|half| half.map(|number| rising(number.to_bits() as i32)))
}

fn pose(numbers: Numbers) -> Pose {
    let [[x, y, z, _], turn] = numbers.map(|half| half.map(|number| f32::from_bits(rising(number) as u32)));
    Pose { at: [x, y, z], turn }
}

/// The bits of an `f32` as a whole number that rises with it; and back.
const fn rising(bits: i32) -> i32 {
    bits ^ (((bits >> 31) as u32) >> 1) as i32
}

/// What a half of a pose is expected to be, of the last and the one before.
#[inline]
fn gone_on(last: [i32; 4], before: [i32; 4]) -> [i32; 4] {
    std::array::from_fn(|place| last[place].wrapping_add(last[place].wrapping_sub(before[place])))
}

/// By how much a half of a pose differs from what was expected: small differences are small numbers, whatever their sign.
#[inline]
fn folded(numbers: [i32; 4], expected: [i32; 4]) -> [u32; 4] {
    std::array::from_fn(|place| {
        let differs = numbers[place].wrapping_sub(expected[place]);
        ((differs << 1) ^ (differs >> 31)) as u32
    })
}

/// By how much a pose differs from what was expected.
#[derive(Clone, Copy, Default)]
pub(super) struct Differs([[u32; 4]; 2]);

impl Differs {
    /// What [`put`](Self::put) writes, if it is no more than eight bytes, the first of them the lowest; and how many. So it is for most.
    #[inline]
    pub(super) fn short(&self) -> Option<(u64, u32)> {
        let [[x, y, z, _], turn] = self.0;
        if turn != [0; 4] || (x | y | z) > 0xffff {
            return None;
        }
        let (mut told, mut end) = (0, 8 * HEAD as u32);
        for (folded, place) in [x, y, z].into_iter().zip(0..) {
            let length = u32::from(folded > 0) + u32::from(folded > 0xff);
            told |= u64::from(length) << (2 * place) | u64::from(folded) << end;
            end += 8 * length;
        }
        Some((told, end / 8))
    }

    /// Two bits tell of each of the seven differences in how many bytes it follows: none, one, two or four.
    #[inline]
    pub(super) fn put(&self, bytes: &mut Vec<u8>) {
        let [at, turn] = self.0;
        let begin = bytes.len();
        bytes.extend_from_slice(&[0; 32]);
        let (told, mut end, mut head) = (&mut bytes[begin..], HEAD, 0);
        // Without branches: each is written whole, and the next over what is too much of it.
        let mut tell = |folded: &[u32], place: usize| {
            for (folded, place) in folded.iter().zip(place..) {
                let length = u16::from(*folded > 0) + u16::from(*folded > 0xff) + u16::from(*folded > 0xffff);
                head |= length << (2 * place);
                if let Some(four) = told.get_mut(end..end + 4) {
                    four.copy_from_slice(&folded.to_le_bytes());
                }
                end += BYTES[usize::from(length & 3)];
            }
        };
        tell(&at[..3], 0);
        // Most turn evenly, or not at all.
        if turn != [0; 4] {
            tell(&turn, 3);
        }
        told[..HEAD].copy_from_slice(&head.to_le_bytes());
        bytes.truncate(begin + end);
    }
}

/// Poses of one sort, each told by what it differs from the one that had its place in the tick before and went on as it did.
#[derive(Clone, Debug, Default)]
pub(super) struct PoseStream {
    /// By place in the tick: the last, and the one before.
    known: Vec<[Numbers; 2]>,
    next: usize,
}

/// Bytes that tell of each of seven numbers in how many bytes it follows.
const HEAD: usize = 2;

impl PoseStream {
    /// The most places that are remembered; those beyond are told whole.
    const MOST: usize = 1 << 20;

    /// A tick begins.
    pub(super) fn begin(&mut self) {
        self.next = 0;
    }

    /// What is expected of the next; and a place for it.
    #[inline]
    fn expected(&mut self) -> (Numbers, Option<&mut [Numbers; 2]>) {
        let known = self.known.get_mut(self.next);
        self.next += 1;
        match known {
            Some(known) => {
                let [[at, turn], [at_before, turn_before]] = *known;
                ([gone_on(at, at_before), gone_on(turn, turn_before)], Some(known))
            }
            None => ([[0; 4]; 2], None),
        }
    }

    /// The first at its place.
    #[cold]
    fn first(&mut self, numbers: Numbers) {
        if self.known.len() < PoseStream::MOST {
            self.known.push([numbers; 2]);
        }
    }

    /// By how much the next differs from what was expected.
    #[inline]
    pub(super) fn next(&mut self, of: &Pose) -> Differs {
        let numbers = numbers(of);
        let (expected, known) = self.expected();
        match known {
            Some([last, before]) => {
                *before = *last;
                *last = numbers;
            }
            None => self.first(numbers),
        }
        Differs([folded(numbers[0], expected[0]), folded(numbers[1], expected[1])])
    }

    pub(super) fn put(&mut self, bytes: &mut Vec<u8>, of: &Pose) {
        self.next(of).put(bytes);
    }

    pub(super) fn take(&mut self, from: &mut Reading<'_>) -> Result<Pose, Damaged> {
        let lengths = u16::from_le_bytes([from.byte()?, from.byte()?]);
        let (mut numbers, known) = self.expected();
        for place in 0..7 {
            let count = BYTES[usize::from(lengths >> (2 * place) & 3)];
            let mut folded = [0; 4];
            folded[..count].copy_from_slice(from.take(count)?);
            let folded = u32::from_le_bytes(folded);
            let number = if place < 3 { &mut numbers[0][place] } else { &mut numbers[1][place - 3] };
            *number = number.wrapping_add((folded >> 1) as i32 ^ -((folded & 1) as i32));
        }
        numbers[0][3] = 0;
        match known {
            Some([last, before]) => (*last, *before) = (numbers, *last),
            None => self.first(numbers),
        }
        Ok(pose(numbers))
    }
}

/// How many bytes the four lengths stand for.
const BYTES: [usize; 4] = [0, 1, 2, 4];

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_and_poses_come_back_bit_for_bit() {
        let odd = [0.0, -0.0, 1.0, -1.5e-38, f32::NAN, f32::INFINITY, f32::MIN, 3.25, -2e9];
        let (mut writes, mut reads) = (PoseStream::default(), PoseStream::default());
        for turn in 0..50usize {
            let mut bytes = Vec::new();
            let any = |place: usize| odd[(turn * 5 + place * turn) % odd.len()] * (1.0 + turn as f32 * 0.01);
            let poses: Vec<Pose> = (0..turn % 7)
                .map(|of| Pose {
                    at: [0, 1, 2].map(|axis| any(of + axis)),
                    turn: [3, 4, 5, 6].map(|axis| any(of * axis)),
                })
                .collect();
            writes.begin();
            poses.iter().for_each(|pose| writes.put(&mut bytes, pose));
            reads.begin();
            let mut from = Reading(&bytes);
            for pose in &poses {
                let read = reads.take(&mut from).expect("it was written");
                assert_eq!(numbers(&read), numbers(pose));
            }
            assert_eq!(from.end(), Ok(()));
        }
        for number in [0, 1, 127, 128, 16_383, 16_384, u64::MAX / 2, u64::MAX] {
            let mut bytes = Vec::new();
            put(&mut bytes, number);
            assert_eq!(Reading(&bytes).number(), Ok(number));
            assert_eq!(Reading(&bytes[..bytes.len() - 1]).number(), Err(Damaged));
        }
        assert_eq!(Reading(&[0xff; 10]).number(), Err(Damaged), "more than 64 bits");
    }

    #[test]
    fn what_goes_on_evenly_is_short() {
        let (mut stream, mut bytes) = (PoseStream::default(), Vec::new());
        for tick in 0..100 {
            stream.begin();
            stream.put(&mut bytes, &Pose::at([tick as f32 * 0.25, 1.0, -3.0]));
        }
        assert!(bytes.len() < 100 * 6, "{} bytes", bytes.len());
    }
}
