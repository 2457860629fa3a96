//! How fast the time of a combatant may go.

/// Sixteenths of a tick in a tick: time goes as usual.
pub(crate) const NORMAL: u8 = 16;
/// The fastest that time may go: two ticks in one.
pub(crate) const FASTEST: u8 = 32;
