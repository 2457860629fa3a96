//! One number for a whole state.

use std::hash::{Hash, Hasher};

use xxhash_rust::xxh3::Xxh3Default;

/// The checksum of plain data: 64 bits that differ, but for chance, wherever a single bit differs.
///
/// *Determinism:* the same on machines of any word length, since lengths and variants are written as 64 bits;
/// the same for debug and release builds.
pub(crate) fn checksum(data: &impl Hash) -> u64 {
    let mut hasher = Even { bits: Blocks::new(), epochs: false };
    data.hash(&mut hasher);
    hasher.finish()
}

/// As [`checksum`], with the epochs of ids: for what is written and read again.
#[cfg(feature = "serde")]
pub(crate) fn seal(data: &impl Hash) -> u64 {
    let mut hasher = Even { bits: Blocks::new(), epochs: true };
    data.hash(&mut hasher);
    hasher.finish()
}

/// Whether two states are the same, bit for bit, but for the epoch.
pub(crate) fn same_bits<T: Hash>(a: &T, b: &T) -> bool {
    let bytes = |data: &T| {
        let mut hasher = Even { bits: Bytes(Vec::new()), epochs: false };
        data.hash(&mut hasher);
        hasher.bits.0
    };
    bytes(a) == bytes(b)
}

/// Takes in bytes, to hold them against others or to make one number of them.
trait Bits {
    fn observe(&mut self, bytes: &[u8]);
    fn number(&self) -> u64;
}

/// Bytes on their way to one number, in blocks: the fields of a state are small, and each call costs more than its bytes.
struct Blocks {
    all: Xxh3Default,
    block: [u8; BLOCK],
    filled: usize,
}

const BLOCK: usize = 4096;

impl Blocks {
    fn new() -> Blocks {
        Blocks { all: Xxh3Default::new(), block: [0; BLOCK], filled: 0 }
    }

    #[cold]
    fn take_long(&mut self, bytes: &[u8]) {
        self.all.update(&self.block[..self.filled]);
        self.filled = 0;
        match self.block.get_mut(..bytes.len()) {
            Some(place) => {
                place.copy_from_slice(bytes);
                self.filled = bytes.len();
            }
            None => self.all.update(bytes),
        }
    }
}

impl Bits for Blocks {
    #[inline(always)]
    fn observe(&mut self, bytes: &[u8]) {
        match self.block.get_mut(self.filled..self.filled + bytes.len()) {
            Some(place) => {
                place.copy_from_slice(bytes);
                self.filled += bytes.len();
            }
            None => self.take_long(bytes),
        }
    }

    fn number(&self) -> u64 {
        let mut all = self.all.clone();
        all.update(&self.block[..self.filled]);
        all.digest()
    }
}

struct Bytes(Vec<u8>);

impl Bits for Bytes {
    fn observe(&mut self, bytes: &[u8]) {
        self.0.extend_from_slice(bytes);
    }

    fn number(&self) -> u64 {
        self.0.len() as u64
    }
}

/// Writes lengths and variants as 64 bits.
struct Even<B> {
    bits: B,
    /// Whether epochs count, which ids write as 128 bits and nothing else does.
    epochs: bool,
}

macro_rules! little_endian {
    ($($method:ident($type:ty)),*) => {$(
        fn $method(&mut self, value: $type) {
            self.bits.observe(&value.to_le_bytes());
        }
    )*};
}

impl<B: Bits> Hasher for Even<B> {
    fn write(&mut self, bytes: &[u8]) {
        self.bits.observe(bytes);
    }

    fn write_u128(&mut self, epoch: u128) {
        if self.epochs {
            self.bits.observe(&epoch.to_le_bytes());
        }
    }

    little_endian!(
        write_u16(u16),
        write_u32(u32),
        write_u64(u64),
        write_i16(i16),
        write_i32(i32),
        write_i64(i64)
    );

    fn write_usize(&mut self, value: usize) {
        self.write_u64(value as u64);
    }

    fn write_isize(&mut self, value: isize) {
        self.write_i64(value as i64);
    }

    fn finish(&self) -> u64 {
        self.bits.number()
    }
}
