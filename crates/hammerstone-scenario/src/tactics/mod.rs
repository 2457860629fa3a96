//! Tactics: how combatants of a scenario move and fight by themselves.
//!
//! Stand-ins for players and for the minds that a game brings: enough to ask whether a fight is fair. A stand-in looks every so many ticks, takes the
//! first of its choices that fits what it sees, and carries it out after its reaction time, if that is still legal. It gives orders like any host, knows
//! nothing that a player could not see (no rolls, no cooldowns of others, nothing behind what is solid), and all its chances are
//! [rolls of the fight](hammerstone::Encounter::roll), so that the same seed gives the same bits everywhere.

mod attacks;
mod def;
mod mind;
mod minds;
mod plane;
mod resolve;
mod sight;
mod steps;
mod told;

pub(crate) use def::Tactics;
pub use minds::Minds;
