//! Conditions that a host asks at any time.

use super::validate::Check;
use super::{Condition, Findings, Ruleset};

/// Conditions that were checked against a ruleset, for [`Encounter::holds`](crate::Encounter::holds): what rules ask of a fact, asked at any time.
#[derive(Clone, Debug)]
pub struct Question {
    pub(crate) when: Vec<Condition>,
    /// Of the ruleset.
    pub(crate) fingerprint: u64,
}

impl Question {
    /// What must hold, all of it.
    pub fn conditions(&self) -> &[Condition] {
        &self.when
    }
}

impl Ruleset {
    /// Checks conditions that are asked without a fact: of two parties, the flow, and how long ago facts were of topics that a rule or a
    /// filter asks for.
    ///
    /// *Errors:* all that is wrong with them: ids of another ruleset, what asks for a fact, a chance, more than a rule may have.
    pub fn question(&self, when: Vec<Condition>) -> Result<Question, Findings> {
        let found = Check::question(&self.0, &when, &self.0.remembered, &self.0.topics);
        if found.is_empty() {
            Ok(Question { when, fingerprint: self.fingerprint() })
        } else {
            Err(Findings(found))
        }
    }
}
