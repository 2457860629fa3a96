//! Pictures of what a run leaves behind: pure functions from a record to SVG, PNG from that, a page, and the cells of a terminal.
//!
//! Nothing here reads files or clocks; the font is part of the crate, so that a picture looks the same everywhere.

#![warn(clippy::print_stdout, clippy::print_stderr)]

mod frame;
mod labels;
mod look;
mod outline;
mod page;
mod png;
mod report;
mod survey;
mod terminal;
mod timeline;
mod wiring;

pub use frame::{frame, strip};
pub use look::Look;
pub use png::{NoPicture, png};
pub use report::{Checked, Reporter};
pub use survey::survey;
pub use terminal::{Screen, screen};
pub use timeline::timeline;
pub use wiring::wiring;
