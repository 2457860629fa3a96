//! Rulesets as bytes.

use super::compile::Rules;
use super::validate::Check;
use super::{Findings, Ruleset};
use crate::ruleset::def::Definitions;

/// How these bytes begin: what they are, and the version of their layout.
const MAGIC: [u8; 8] = *b"HMRULES8";

/// Why bytes are no ruleset.
#[derive(Clone, PartialEq, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum BytesError {
    /// They do not begin as a ruleset of this version does.
    #[error("these bytes are no ruleset that this version of the library wrote")]
    OtherSort,
    /// They end too early, go on too long, or hold what no ruleset holds.
    #[error("the bytes of the ruleset are damaged; write them anew")]
    Damaged,
    /// They were changed after they were written: their fingerprint does not fit.
    #[error("the bytes of the ruleset were changed after they were written: their fingerprint does not fit")]
    Changed,
    /// They hold a ruleset in which something is wrong.
    #[error(transparent)]
    Unsound(#[from] Findings),
}

impl Ruleset {
    /// Everything that was defined, as canonical bytes: of two rulesets that were defined alike they are alike, on every machine.
    ///
    /// *Layout:* eight bytes that name the sort and the version, the [fingerprint](Self::fingerprint) in little-endian order, then the
    /// definitions. Another version of the library may lay them out otherwise, and says so when it reads them.
    pub fn to_bytes(&self) -> Vec<u8> {
        let mut bytes = MAGIC.to_vec();
        bytes.extend(self.fingerprint().to_le_bytes());
        // Plain data of known lengths, written to memory: there is nothing that could fail.
        postcard::to_extend(self.compiled().definitions(), bytes).unwrap_or_default()
    }

    /// The ruleset of bytes that [`to_bytes`](Self::to_bytes) gave. It is checked whole, as if it was built.
    ///
    /// ```
    /// use hammerstone::prelude::*;
    /// let mut b = Ruleset::builder(60);
    /// b.team("masons");
    /// let rules = b.build().unwrap();
    /// let read = Ruleset::from_bytes(&rules.to_bytes()).unwrap();
    /// assert_eq!(read.fingerprint(), rules.fingerprint());
    /// ```
    pub fn from_bytes(bytes: &[u8]) -> Result<Ruleset, BytesError> {
        let rest = bytes.strip_prefix(&MAGIC).ok_or(BytesError::OtherSort)?;
        let (fingerprint, rest) = rest.split_first_chunk::<8>().ok_or(BytesError::Damaged)?;
        let (def, left) = postcard::take_from_bytes::<Definitions>(rest).map_err(|_| BytesError::Damaged)?;
        if !left.is_empty() {
            return Err(BytesError::Damaged);
        }
        let found = Check::of(&def).found;
        if !found.is_empty() {
            return Err(Findings(found).into());
        }
        let rules = Rules::new(def);
        if rules.fingerprint != u64::from_le_bytes(*fingerprint) {
            return Err(BytesError::Changed);
        }
        Ok(Ruleset::new(rules))
    }
}
