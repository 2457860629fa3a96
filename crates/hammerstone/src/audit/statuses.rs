//! Statuses: each begins and ends once.

use super::*;

impl Auditor {
    /// Statuses.
    pub(super) fn of_statuses(&mut self, event: &Event) {
        match *event {
            Event::StatusSuspended(StatusSuspended { application, .. }) => {
                let new = self.suspended.insert(application);
                self.must(new, Law::BegunAndEnded, "a status was suspended twice");
            }
            Event::StatusResumed(StatusResumed { application, .. }) => {
                let waited = self.suspended.remove(&application);
                self.must(waited, Law::BegunAndEnded, "a status was resumed that was not suspended");
            }
            Event::StatusApplied(StatusApplied { application, subject, .. }) => {
                let new = self.applications.insert(application, subject).is_none();
                self.must(new, Law::BegunAndEnded, "an application's number came again");
            }
            Event::StatusExpired(StatusExpired { application, .. })
            | Event::StatusLifted(StatusLifted { application, .. }) => {
                let ran = self.applications.contains_key(&application)
                    && self.ended_applications.insert(application);
                self.must(ran, Law::BegunAndEnded, "a status ended that was not running");
            }
            _ => {}
        }
    }
}
