//! Levels as bytes.

use super::builder::fingerprint_of;
use super::{Level, LevelBuilder, LevelError, LevelShape};

/// How these bytes begin: what they are, and the version of their layout.
const MAGIC: [u8; 8] = *b"HMLEVEL1";

/// Why bytes are no level.
#[derive(Clone, Copy, PartialEq, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum LevelBytesError {
    /// They do not begin as a level of this version does.
    #[error("these bytes are no level that this version of the library wrote")]
    OtherSort,
    /// They end too early, go on too long, or hold what no level holds.
    #[error("the bytes of the level are damaged; write them anew")]
    Damaged,
    /// They were changed after they were written: their fingerprint does not fit.
    #[error("the bytes of the level were changed after they were written: their fingerprint does not fit")]
    Changed,
    /// They hold a shape that is none.
    #[error(transparent)]
    Unsound(#[from] LevelError),
}

impl Level {
    /// The level as canonical bytes: of two levels that were made alike they are alike, on every machine.
    ///
    /// *Layout:* eight bytes that name the sort and the version, the [fingerprint](Self::fingerprint) in little-endian order, then the
    /// shapes.
    pub fn to_bytes(&self) -> Vec<u8> {
        let mut bytes = MAGIC.to_vec();
        bytes.extend(self.fingerprint().to_le_bytes());
        // Plain data of known lengths, written to memory: there is nothing that could fail.
        postcard::to_extend(self.shapes(), bytes).unwrap_or_default()
    }

    /// The level of bytes that [`to_bytes`](Self::to_bytes) gave. It is checked whole, as if it was built.
    pub fn from_bytes(bytes: &[u8]) -> Result<Level, LevelBytesError> {
        let rest = bytes.strip_prefix(&MAGIC).ok_or(LevelBytesError::OtherSort)?;
        let (fingerprint, rest) = rest.split_first_chunk::<8>().ok_or(LevelBytesError::Damaged)?;
        let (shapes, left) =
            postcard::take_from_bytes::<Vec<LevelShape>>(rest).map_err(|_| LevelBytesError::Damaged)?;
        if !left.is_empty() {
            return Err(LevelBytesError::Damaged);
        }
        if fingerprint_of(&shapes) != u64::from_le_bytes(*fingerprint) {
            return Err(LevelBytesError::Changed);
        }
        let mut builder = LevelBuilder::default();
        shapes.into_iter().for_each(|shape| _ = builder.shape(shape));
        Ok(builder.build()?)
    }
}
