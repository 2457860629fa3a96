//! Commands that let fights run: once, to test them, before one's eyes, or many times.

mod reduce;
mod run;
mod survey;
mod test;
mod watch;

pub(crate) use reduce::reduce;
pub(crate) use run::{demo, file};
pub(crate) use survey::{NO_TACTICS, pool, ran, survey};
pub(crate) use test::test;
pub(crate) use watch::watch;
