//! Checks Hammerstone from outside, by other means than its own.

pub mod feed;
