//! Fights: read, played, held against what they expect, and varied.

mod bones;
mod case;
mod expect;
mod level;
mod play;
mod scenario;
mod script;
mod sweep;
mod values;
mod vary;
mod watched;

pub use case::Case;
pub use expect::{Tested, Verdict};
pub use play::{Options, Play};
pub(crate) use scenario::Resolver;
pub use scenario::{Opener, Scenario, Wanted};
pub(crate) use script::{Act, Line, TakesTo};
pub use sweep::{Sweep, SweptFight};
pub use values::{ChangedValue, changed_values};
pub use vary::{CannotVary, Decimal, Varied, has_key, literal_at, value_paths, with_literal, with_value};
