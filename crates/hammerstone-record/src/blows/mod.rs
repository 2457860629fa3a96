//! Single blows: amounts with their ledgers, gates, and the results of swings.

mod account;
mod gates;
mod nearness;
mod starts;
mod swing_results;
mod verdict;

pub use account::{Account, Accounts, Amount, Contact, Heard, Row};
pub use gates::Passed;
pub use starts::RefusedStart;
pub use swing_results::{Answer, Near, Results, Stopped, SwingResult, SwingResults, TargetResult};
