//! What tests of pages share: a real browser that they steer, where there is one, and plain requests to servers of ours.

mod ask;
mod browser;

pub use ask::ask;
pub use browser::Browser;
