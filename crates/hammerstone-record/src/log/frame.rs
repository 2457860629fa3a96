//! Frames: pieces of a log, each with its length and a checksum, so that a log may be cut or damaged anywhere and is good up to there.

use std::borrow::Cow;
use std::io::{self, Write};

use flate2::{Compress, Compression, Decompress, FlushCompress, FlushDecompress, Status};
use xxhash_rust::xxh3::xxh3_64_with_seed;

/// How a log begins: what it is, and the version of its layout.
pub(super) const MAGIC: [u8; 8] = *b"HMSTLOG1";

/// The most bytes of one frame, as they are read.
const MOST: usize = 1 << 28;

/// Bytes of a frame beside what it holds: sort, length, checksum.
const AROUND: usize = 1 + 4 + 8;

/// The sorts of frames.
pub(super) mod sort {
    pub(crate) const HEADER: u8 = 1;
    pub(crate) const INPUTS: u8 = 2;
    pub(crate) const RAN: u8 = 3;
    pub(crate) const NAMES: u8 = 4;
    pub(crate) const CLOSED: u8 = 5;
    /// Several frames, compressed together.
    pub(super) const PACK: u8 = 6;
    /// Streams of poses begin anew, and ticks are counted from here.
    pub(crate) const ANEW: u8 = 7;
}

/// How many bytes are compressed together at most.
const PACK: usize = 1 << 20;

/// Writes frames. Compressed ones wait until they are flushed, and go together.
#[derive(Debug)]
pub(super) struct FrameWriter<W> {
    out: W,
    packs: Option<Box<Compress>>,
    /// Frames that wait, each with its sort and length.
    waiting: Vec<u8>,
    packed: Vec<u8>,
    /// The checksum of the frame before.
    last: u64,
}

/// The checksum of a frame: over its sort and what stands in it, seeded with that of the frame before, so that none can be lost.
fn checksum(sort: u8, stored: &[u8], last: u64) -> u64 {
    xxh3_64_with_seed(stored, last ^ u64::from(sort) ^ ((stored.len() as u64) << 8))
}

impl<W: Write> FrameWriter<W> {
    /// Begins a log.
    pub(super) fn new(mut out: W, packed: bool) -> io::Result<FrameWriter<W>> {
        out.write_all(&MAGIC)?;
        out.write_all(&[packed.into()])?;
        let packs = packed.then(|| Box::new(Compress::new(Compression::fast(), false)));
        Ok(FrameWriter { out, packs, waiting: Vec::new(), packed: Vec::new(), last: u64::from(packed) })
    }

    pub(super) fn write(&mut self, sort: u8, content: &[u8]) -> io::Result<()> {
        if content.len() > MOST {
            return Err(io::Error::new(io::ErrorKind::InvalidInput, "a frame of more than 256 MB"));
        }
        if self.packs.is_none() {
            return put_frame(&mut self.out, &mut self.last, sort, content);
        }
        self.waiting.push(sort);
        self.waiting.extend((content.len() as u32).to_le_bytes());
        self.waiting.extend_from_slice(content);
        if self.waiting.len() < PACK { Ok(()) } else { self.pack() }
    }

    /// Writes the frames that wait.
    fn pack(&mut self) -> io::Result<()> {
        let Some(packs) = self.packs.as_mut().filter(|_| !self.waiting.is_empty()) else { return Ok(()) };
        self.packed.clear();
        self.packed.extend((self.waiting.len() as u32).to_le_bytes());
        pack(packs, &self.waiting, &mut self.packed)?;
        self.waiting.clear();
        put_frame(&mut self.out, &mut self.last, sort::PACK, &self.packed)
    }

    pub(super) fn flush(&mut self) -> io::Result<()> {
        self.pack()?;
        self.out.flush()
    }

    pub(super) fn out(&self) -> &W {
        &self.out
    }

    pub(super) fn into_out(self) -> W {
        self.out
    }
}

fn put_frame(out: &mut impl Write, last: &mut u64, sort: u8, stored: &[u8]) -> io::Result<()> {
    *last = checksum(sort, stored, *last);
    out.write_all(&[sort])?;
    out.write_all(&(stored.len() as u32).to_le_bytes())?;
    out.write_all(stored)?;
    out.write_all(&last.to_le_bytes())
}

/// Packs a piece, so that it can be unpacked without what comes later.
fn pack(packs: &mut Compress, mut content: &[u8], packed: &mut Vec<u8>) -> io::Result<()> {
    loop {
        packed.reserve(content.len() / 2 + 64);
        let before = packs.total_in();
        let status = packs.compress_vec(content, packed, FlushCompress::Sync)?;
        content = &content[(packs.total_in() - before) as usize..];
        if content.is_empty() && packed.len() < packed.capacity() && status != Status::StreamEnd {
            return Ok(());
        }
    }
}

/// Reads frames out of bytes.
#[derive(Debug)]
pub(super) struct FrameReader<'a> {
    bytes: &'a [u8],
    place: usize,
    packs: Option<Box<Decompress>>,
    /// Frames that were compressed together, and where the next of them begins.
    unpacked: (Vec<u8>, usize),
    /// Where the frame began that was read last.
    began: usize,
    last: u64,
}

/// Why there is no further frame.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum NoFrame {
    /// The bytes end with a whole frame.
    End,
    /// A frame begins at this place, and is cut or damaged.
    Damaged(usize),
}

/// A frame as it was read.
#[derive(Clone, PartialEq, Debug)]
pub(super) struct Frame<'a> {
    pub(super) sort: u8,
    pub(super) content: Cow<'a, [u8]>,
}

impl<'a> FrameReader<'a> {
    /// Of bytes that begin as a log of this version does.
    pub(super) fn new(bytes: &'a [u8]) -> Option<FrameReader<'a>> {
        let rest = bytes.strip_prefix(&MAGIC)?;
        let packed = match rest.first()? {
            0 => false,
            1 => true,
            _ => return None,
        };
        let packs = packed.then(|| Box::new(Decompress::new(false)));
        let (place, unpacked) = (MAGIC.len() + 1, (Vec::new(), 0));
        Some(FrameReader { bytes, place, packs, unpacked, began: place, last: u64::from(packed) })
    }

    /// Where the frame begins that was read last, or those with which it was compressed.
    pub(super) fn began(&self) -> usize {
        self.began
    }

    /// How many bytes were read.
    pub(super) fn read(&self) -> usize {
        self.place
    }

    /// Whether there is nothing after the frame that was read last.
    pub(super) fn is_at_end(&self) -> bool {
        self.place == self.bytes.len() && self.unpacked.1 == self.unpacked.0.len()
    }

    pub(super) fn next(&mut self) -> Result<Frame<'a>, NoFrame> {
        if self.packs.is_none() {
            let (sort, stored) = self.stored()?;
            return Ok(Frame { sort, content: stored.into() });
        }
        if self.unpacked.1 == self.unpacked.0.len() {
            let (sort, stored) = self.stored()?;
            let damaged = NoFrame::Damaged(self.began);
            let packs = self.packs.as_mut().filter(|_| sort == sort::PACK).ok_or(damaged)?;
            self.unpacked = (unpack(packs, stored).ok_or(damaged)?, 0);
        }
        let damaged = NoFrame::Damaged(self.began);
        let (all, place) = &mut self.unpacked;
        let (sort, content) = split(&all[*place..]).ok_or(damaged)?;
        *place += 5 + content.len();
        Ok(Frame { sort, content: content.to_vec().into() })
    }

    /// The next frame as it stands in the bytes.
    fn stored(&mut self) -> Result<(u8, &'a [u8]), NoFrame> {
        let rest = &self.bytes[self.place..];
        if rest.is_empty() {
            return Err(NoFrame::End);
        }
        let damaged = NoFrame::Damaged(self.place);
        let (sort, stored) = split(rest).ok_or(damaged)?;
        let sum = rest[5 + stored.len()..].first_chunk::<8>().ok_or(damaged)?;
        let expected = checksum(sort, stored, self.last);
        if u64::from_le_bytes(*sum) != expected {
            return Err(damaged);
        }
        self.last = expected;
        self.began = self.place;
        self.place += AROUND + stored.len();
        Ok((sort, stored))
    }
}

/// The sort of a frame, and what stands in it.
fn split(bytes: &[u8]) -> Option<(u8, &[u8])> {
    let (&sort, rest) = bytes.split_first()?;
    let (length, rest) = rest.split_first_chunk::<4>()?;
    Some((sort, rest.get(..u32::from_le_bytes(*length) as usize)?))
}

/// Seals the frames of a log that was changed: for tests of what becomes of those that are read nevertheless. Frames whose lengths do not fit
/// are left alone, and so is what follows them.
#[doc(hidden)]
pub fn seal_log_again(bytes: &mut [u8]) {
    let (mut place, mut last) = (MAGIC.len() + 1, bytes.get(MAGIC.len()).map_or(0, |&packed| packed.into()));
    while let Some((sort, stored)) = bytes.get(place..).and_then(split) {
        let end = place + 5 + stored.len();
        last = checksum(sort, stored, last);
        let Some(sum) = bytes.get_mut(end..end + 8) else { return };
        sum.copy_from_slice(&last.to_le_bytes());
        place = end + 8;
    }
}

/// Unpacks a piece. What it says of its length is not believed before it is seen that so few bytes can hold so many.
fn unpack(packs: &mut Decompress, stored: &[u8]) -> Option<Vec<u8>> {
    /// No byte holds more than this many.
    const DENSEST: usize = 1100;
    let (length, mut rest) = stored.split_first_chunk::<4>()?;
    let length = u32::from_le_bytes(*length) as usize;
    if length > MOST || length > rest.len().saturating_mul(DENSEST) {
        return None;
    }
    let mut content = Vec::with_capacity(length);
    loop {
        let before = packs.total_in();
        let room = content.len();
        packs.decompress_vec(rest, &mut content, FlushDecompress::Sync).ok()?;
        rest = &rest[(packs.total_in() - before) as usize..];
        if rest.is_empty() {
            break;
        }
        if content.len() == content.capacity() {
            // What follows gives nothing more, or the length was a lie.
            content.reserve(1);
        }
        if content.len() > length || (content.len() == room && packs.total_in() == before) {
            return None;
        }
    }
    (content.len() == length).then_some(content)
}
