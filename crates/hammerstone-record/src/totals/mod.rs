//! Numbers of a whole run: a summary, a tally, a digest for comparing, points of a survey.

mod compare;
mod histogram;
mod history;
mod intervals;
mod means;
mod paired;
mod points;
mod ran;
mod state;
mod summary;
mod tally;

pub use compare::{Comparison, Difference, Digest, DigestEntry, Total};
pub use history::StateHistory;
pub use intervals::Interval;
pub use means::{MeansCounts, MeansPoint, MeansRan};
pub use paired::{Paired, PairedRow};
pub use points::{FighterPoint, OutcomePoint, Point, PointTally, Spread, TeamPoint};
pub use ran::{FighterRan, Ran, Running, TeamRan};
pub(crate) use state::between;
pub use state::{StateChange, StateLine, StateTable};
pub use summary::Summary;
pub use tally::{Dealt, Fall, Tally};
