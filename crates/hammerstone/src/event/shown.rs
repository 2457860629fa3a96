//! How facts are shown to people.

/// How a fact is shown: what sort of thing it tells, and how loudly. Writers choose marks and colours for it.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[non_exhaustive]
pub enum Shown {
    /// Left out: a person reads what came of it.
    Hidden,
    /// What touches what: left out unless asked for.
    Contact,
    /// The frame of the encounter.
    Frame,
    /// The frame, loudly: rounds, waves, the end.
    Headline,
    /// Something did not go as ordered.
    Trouble,
    /// A combatant comes.
    Came,
    /// A combatant leaves.
    Left,
    /// A combatant loses another.
    LeftPlain,
    /// A swing begins.
    Swing,
    /// A swing is over.
    SwingOver,
    /// A hit, or what breaks by it.
    HitLine,
    /// What a hit does to what stands before health.
    HitPlain,
    /// What a hit does beside damage.
    HitQuiet,
    /// A gate or a status refuses.
    RefusedLine,
    /// A status begins or goes on.
    StatusLine,
    /// A status ends.
    StatusOver,
    /// Healing, shields, returns.
    Healed,
    /// A death.
    Death,
    /// A threshold is crossed.
    Crossed,
    /// What rules change, loudly.
    RuleLoud,
    /// What rules change.
    RuleLine,
    /// What rules do, quietly.
    RuleQuiet,
    /// A line is said.
    Speech,
}
