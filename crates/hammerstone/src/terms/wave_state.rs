//! Where a sequence of waves stands.

/// What a sequence of waves waits for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum WaveState {
    /// None is to come: it has not begun, has been stopped, or all have come.
    NotComing {
        /// How many have come.
        come: u32,
    },
    /// The next comes at the end of a tick.
    Due {
        /// How many have come.
        come: u32,
        /// The tick.
        tick: u32,
    },
    /// The next is not due until few enough are left.
    Waits {
        /// How many have come.
        come: u32,
        /// How many of those stand of whom few enough must be left.
        standing: usize,
        /// How many may be left.
        left: u32,
    },
}
