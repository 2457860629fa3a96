//! What running swings know of their targets, at hand.

use super::lookup::Lookup;
use crate::state::Contact;

/// Where struck entries and contacts stand in the state.
#[derive(Clone, Debug, Default)]
pub(crate) struct Known {
    pub(crate) struck: Lookup,
    pub(crate) contacts: Lookup,
    /// Contacts that are being parted.
    pub(super) parted: Vec<Contact>,
}

impl Known {
    /// Forgets everything that belongs to another state, and keeps the memory.
    pub(crate) fn forget(&mut self) {
        self.struck.forget();
        self.contacts.forget();
    }
}
