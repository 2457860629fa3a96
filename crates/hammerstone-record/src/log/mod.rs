//! Logs: what a host asked of a fight and answered it, tick by tick, from which everything runs again.

mod bytes;
mod content;
mod flight;
mod frame;
mod reading;
mod recorder;
mod reduce;
mod replay;
mod rolled_back;
#[cfg(test)]
mod tests;

pub use flight::FlightRecorder;
pub use frame::seal_log_again;
pub use reading::{Log, LogEnd, LogError};
pub use recorder::{Flush, LogOptions, Named, Recorder};
pub use reduce::{ReduceError, ReduceOptions, Reduced, ReducedFact, reduce, reduce_with};
pub use replay::{Differs, Replay, ReplayError};
pub use rolled_back::{RollbackCheck, RollbackError};
