//! What hostile hosts and files do. Each function takes any bytes; none may panic, hang, or eat memory.
//!
//! The fuzz targets of `fuzz/` call these, and so does a plain test over the committed corpora, so that what was found stays found.

mod bytes;
mod files;
mod game;
mod record;
mod save;

pub use files::{ruleset, scenario, skeleton};
pub use game::game;
pub use record::{large_records, record, seed_records};
pub use save::{save, seed_saves};

/// A target: its name, which is its corpus's folder too, and what it does with bytes.
pub type Target = (&'static str, fn(&[u8]));

/// All targets.
pub const TARGETS: [Target; 6] = [
    ("ruleset", ruleset),
    ("scenario", scenario),
    ("skeleton", skeleton),
    ("save", save),
    ("record", record),
    ("game", game),
];
