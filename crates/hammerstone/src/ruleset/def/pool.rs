//! Health that several combatants share.

/// A pool of health: whoever has a template that [names](crate::template::Template::pool) it has this health in place of its own.
///
/// What one of them loses or gains, all have lost or gained; each change is a fact for each. When it is empty, all of them die in the order
/// of their ids, with the credit of the blow that emptied it. It is full again when the first of them stands after none did.
/// At most [`Pool::MOST`] combatants of the encounter share one, also while they lie dead.
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Pool {
    pub(crate) name: String,
    pub(crate) max: i64,
}

impl Pool {
    /// How many combatants may share one.
    pub const MOST: usize = 64;

    /// A pool of `max` points of health.
    pub fn new(name: &str, max: i64) -> Pool {
        Pool { name: name.to_owned(), max }
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// What it holds at most, unless an order sets another maximum.
    pub fn max(&self) -> i64 {
        self.max
    }
}
