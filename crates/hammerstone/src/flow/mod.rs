//! What becomes of the whole encounter: rules, waves, lives, and beginning anew.

mod afterlife;
mod reacting;
mod reactions;
mod reset;
mod rules;
mod waves;

pub use crate::ruleset::{
    Amount, Audience, Comparison, Condition, Count, Counting, Credit, Crossings, Dealing, Filter, Group,
    Growth, Healing, Held, Limit, Line, OF_A_HIT, Party, Portion, Question, Reaction, Reading, Rule,
    RuleValue, ScoreValue, SwingPhase, Tactic, Target, Term, WaveLeader, Waves,
};

pub use crate::terms::{Spoken, WaveState};

pub(crate) use afterlife::{arise, lay_to_rest, note_death};
pub(crate) use reacting::Reacting;
pub(crate) use reactions::{fire, forget_readings, undelay};
pub(crate) use reset::{begin_anew, end_everything, startup};
pub(crate) use rules::hear;
pub(crate) use waves::{advance as advance_waves, start as start_waves};
