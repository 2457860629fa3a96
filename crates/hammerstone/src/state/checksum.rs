//! One number for a whole state.

use std::hash::{Hash, Hasher};

use xxhash_rust::xxh3::Xxh3Default;

/// The checksum of plain data: 64 bits that differ, but for chance, wherever a single bit differs.
///
/// *Determinism:* the same on machines of any word length, since lengths and variants are written as 64 bits;
/// the same for debug and release builds.
pub(crate) fn checksum(data: &impl Hash) -> u64 {
    let mut hasher = Even(Xxh3Default::new());
    data.hash(&mut hasher);
    hasher.finish()
}

struct Even(Xxh3Default);

macro_rules! little_endian {
    ($($method:ident($type:ty)),*) => {$(
        fn $method(&mut self, value: $type) {
            self.0.update(&value.to_le_bytes());
        }
    )*};
}

impl Hasher for Even {
    fn write(&mut self, bytes: &[u8]) {
        self.0.update(bytes);
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
        self.0.digest()
    }
}
