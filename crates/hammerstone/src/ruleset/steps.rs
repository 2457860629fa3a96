//! The steps by which an amount is worked out.

/// One step of the amount; the ruleset says which there are and in what order.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub enum Step {
    /// The attack's or the beat's own amount, drawn from its range.
    Base,
    /// Times the multiplier of the part that was struck. Only for blows.
    Part,
    /// Less the target's resistance to the kind: ×(1 − resistance).
    Resistance,
    /// Not below the ruleset's floor, not above its cap. What resistance brought to nothing stays nothing.
    Limits,
    /// To whole points.
    Rounding,
}

impl Step {
    /// All steps, in the order that a ruleset has unless it says otherwise.
    pub const ALL: [Step; 5] = [Step::Base, Step::Part, Step::Resistance, Step::Limits, Step::Rounding];

    /// The step's name in files, ledgers and the feed.
    pub const fn name(self) -> &'static str {
        match self {
            Step::Base => "base",
            Step::Part => "part",
            Step::Resistance => "resistance",
            Step::Limits => "limits",
            Step::Rounding => "rounding",
        }
    }
}

/// How an exact amount becomes whole points.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
pub enum Rounding {
    /// To the nearest, halves up.
    #[default]
    Nearest,
    /// To the whole number at or below.
    Down,
    /// To the whole number at or above.
    Up,
}

impl Rounding {
    /// All ways of rounding.
    pub const ALL: [Rounding; 3] = [Rounding::Nearest, Rounding::Down, Rounding::Up];

    /// The name in files and ledgers.
    pub const fn name(self) -> &'static str {
        match self {
            Rounding::Nearest => "nearest",
            Rounding::Down => "down",
            Rounding::Up => "up",
        }
    }
}
