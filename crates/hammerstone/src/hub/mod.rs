//! The hub: who hears what, in which order, and what waits until the host confirms a tick.

mod deliver;
mod keys;
mod listeners;
mod watch;

pub(crate) use deliver::deliver;
#[cfg(feature = "figures")]
pub(crate) use deliver::deliver_again;
pub(crate) use keys::keep_keys;
pub(crate) use listeners::Listeners;
pub(crate) use watch::Unconfirmed;
