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

/// A pose as seven numbers, exact to the bit, each as a whole number that rises with it; and an eighth, so that they are a power of two.
type Numbers = [i32; 8];

fn numbers(pose: &Pose) -> Numbers {
    let ([x, y, z], [i, j, k, w]) = (pose.at, pose.turn);
    [x, y, z, i, j, k, w, 0.0].map(|number| rising(number.to_bits() as i32))
}

fn pose(numbers: Numbers) -> Pose {
    let [x, y, z, i, j, k, w, _] = numbers.map(|number| f32::from_bits(rising(number) as u32));
    Pose { at: [x, y, z], turn: [i, j, k, w] }
}

/// The bits of an `f32` as a whole number that rises with it; and back.
const fn rising(bits: i32) -> i32 {
    bits ^ (((bits >> 31) as u32) >> 1) as i32
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

    /// What the next is expected to be.
    fn expected(&self) -> Numbers {
        let Some([last, before]) = self.known.get(self.next) else { return [0; 8] };
        std::array::from_fn(|place| last[place].wrapping_add(last[place].wrapping_sub(before[place])))
    }

    fn came(&mut self, numbers: Numbers) {
        match self.known.get_mut(self.next) {
            Some([last, before]) => (*last, *before) = (numbers, *last),
            None if self.next < PoseStream::MOST => self.known.push([numbers; 2]),
            None => {}
        }
        self.next += 1;
    }

    /// Two bits tell of each of the seven differences in how many bytes it follows: none, one, two or four. Differences are folded, so that
    /// small ones are small numbers, whatever their sign.
    pub(super) fn put(&mut self, bytes: &mut Vec<u8>, of: &Pose) {
        let (expected, numbers) = (self.expected(), numbers(of));
        let folded: [u32; 8] = std::array::from_fn(|place| {
            let differs = numbers[place].wrapping_sub(expected[place]);
            ((differs << 1) ^ (differs >> 31)) as u32
        });
        self.came(numbers);
        let lengths: [u16; 8] = folded
            .map(|folded| u16::from(folded > 0) + u16::from(folded > 0xff) + u16::from(folded > 0xffff));
        // Without branches: each is written whole, and the next over what is too much of it.
        let (mut told, mut end, mut head) = ([0; 32], HEAD, 0);
        for place in 0..7 {
            head |= lengths[place] << (2 * place);
            if let Some(four) = told.get_mut(end..end + 4) {
                four.copy_from_slice(&folded[place].to_le_bytes());
            }
            end += BYTES[usize::from(lengths[place] & 3)];
        }
        told[..HEAD].copy_from_slice(&head.to_le_bytes());
        let length = bytes.len() + end;
        bytes.extend_from_slice(&told);
        bytes.truncate(length);
    }

    pub(super) fn take(&mut self, from: &mut Reading<'_>) -> Result<Pose, Damaged> {
        let mut numbers = self.expected();
        let lengths = u16::from_le_bytes([from.byte()?, from.byte()?]);
        for (place, number) in numbers[..7].iter_mut().enumerate() {
            let count = BYTES[usize::from(lengths >> (2 * place) & 3)];
            let mut folded = [0; 4];
            folded[..count].copy_from_slice(from.take(count)?);
            let folded = u32::from_le_bytes(folded);
            *number = number.wrapping_add((folded >> 1) as i32 ^ -((folded & 1) as i32));
        }
        numbers[7] = 0;
        self.came(numbers);
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
