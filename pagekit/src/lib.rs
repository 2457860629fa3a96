//! What tests of pages and terminals share: a real browser and a real terminal that they steer, where there are such, and plain requests to servers of ours.

mod ask;
mod browser;
mod terminal;

pub use ask::ask;
pub use browser::Browser;
pub use terminal::{Left, Terminal};
