//! What a subscription asks for.

use crate::ids::*;

/// Which facts a subscription asks for.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Topical {
    /// One topic.
    To(TopicId),
    /// A path and all below it.
    Under(FamilyId),
    /// Every fact.
    All,
}

/// A subscription: what to hear, when, and for how long. Two that are equal are one.
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Listen {
    pub(crate) topical: Topical,
    pub(crate) subject: Option<CombatantId>,
    pub(crate) other: Option<CombatantId>,
    pub(crate) once: bool,
    pub(crate) priority: i16,
    pub(crate) owner: Option<Owner>,
    pub(crate) team: Option<TeamId>,
    pub(crate) tag: Option<TagId>,
    pub(crate) key: Option<u32>,
    pub(crate) stays: bool,
    pub(crate) filter: Option<FilterId>,
    /// A number of 64 bits, in halves so that it takes no more room than it needs.
    pub(crate) bound: [u32; 2],
}

/// With whom a subscription ends.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Owner {
    Combatant(CombatantId),
    /// A number of the host's, in halves.
    Number([u32; 2]),
}

const fn halves(number: u64) -> [u32; 2] {
    [number as u32, (number >> 32) as u32]
}

const fn whole([low, high]: [u32; 2]) -> u64 {
    (high as u64) << 32 | low as u64
}

impl Listen {
    const fn new(topical: Topical) -> Listen {
        Listen {
            topical,
            subject: None,
            other: None,
            once: false,
            priority: 0,
            owner: None,
            team: None,
            tag: None,
            key: None,
            stays: false,
            filter: None,
            bound: [0; 2],
        }
    }

    /// Which facts it asks for.
    pub const fn topical(&self) -> Topical {
        self.topical
    }

    /// About whom, if about one only.
    pub const fn subject(&self) -> Option<CombatantId> {
        self.subject
    }

    /// By whom, if by one only.
    pub const fn other_party(&self) -> Option<CombatantId> {
        self.other
    }

    /// Of which team, if of one only.
    pub const fn team(&self) -> Option<TeamId> {
        self.team
    }

    /// With which tag, if with one only.
    pub const fn tag(&self) -> Option<TagId> {
        self.tag
    }

    /// Whether it asks for the first such fact only.
    pub const fn is_once(&self) -> bool {
        self.once
    }

    /// The combatant with whom it ends.
    pub const fn owner(&self) -> Option<CombatantId> {
        match self.owner {
            Some(Owner::Combatant(owner)) => Some(owner),
            _ => None,
        }
    }

    /// The host's number with which it ends.
    pub const fn owner_number(&self) -> Option<u64> {
        match self.owner {
            Some(Owner::Number(owner)) => Some(whole(owner)),
            _ => None,
        }
    }

    /// The filter that facts must fit.
    pub const fn filter(&self) -> Option<FilterId> {
        self.filter
    }

    /// The number that is bound to it; 0 unless said.
    pub const fn bound_number(&self) -> u64 {
        whole(self.bound)
    }

    /// Higher hears first.
    pub const fn priority_of(&self) -> i16 {
        self.priority
    }

    /// To one topic.
    pub const fn to(topic: TopicId) -> Listen {
        Listen::new(Topical::To(topic))
    }

    /// To a path and all below it; see [`crate::topic::Topics::family`].
    pub const fn under(family: FamilyId) -> Listen {
        Listen::new(Topical::Under(family))
    }

    /// To every fact.
    pub const fn all() -> Listen {
        Listen::new(Topical::All)
    }

    /// Only where the event is about `subject`.
    pub const fn about(mut self, subject: CombatantId) -> Listen {
        self.subject = Some(subject);
        self
    }

    /// Only where the other party of the event is `other`.
    pub const fn by(mut self, other: CombatantId) -> Listen {
        self.other = Some(other);
        self
    }

    /// Only where the subject of the event is of this team.
    pub const fn of_team(mut self, team: TeamId) -> Listen {
        self.team = Some(team);
        self
    }

    /// Only where the subject of the event carries this tag when it is heard, of its own or lent.
    pub const fn tagged(mut self, tag: TagId) -> Listen {
        self.tag = Some(tag);
        self
    }

    /// Under a key: a second subscription of the hook under the same key changes nothing, whatever it asks for.
    pub const fn keyed(mut self, key: u32) -> Listen {
        self.key = Some(key);
        self
    }

    /// It stays through resets.
    pub const fn stays(mut self) -> Listen {
        self.stays = true;
        self
    }

    /// Only the first such fact.
    pub const fn once(mut self) -> Listen {
        self.once = true;
        self
    }

    /// Higher hears first; equals hear in the order of subscribing.
    pub const fn priority(mut self, priority: i16) -> Listen {
        self.priority = priority;
        self
    }

    /// Ends when `owner` dies or leaves; what came up to that moment is still heard.
    pub const fn owned_by(mut self, owner: CombatantId) -> Listen {
        self.owner = Some(Owner::Combatant(owner));
        self
    }

    /// Belongs to something of the host's that has this number, such as an entity or a screen: [all of it](crate::orders::Orders::unsubscribe_number) end at once.
    pub const fn owned_by_number(mut self, owner: u64) -> Listen {
        self.owner = Some(Owner::Number(halves(owner)));
        self
    }

    /// Only facts that fit a filter of the ruleset; so none of topics that the filter is not for.
    pub const fn fitting(mut self, filter: FilterId) -> Listen {
        self.filter = Some(filter);
        self
    }

    /// Bound to a number, which the hook is called with ([`Heard::bound`](crate::hooks::Heard::bound)): one hook may serve many subscriptions.
    pub const fn bound_to(mut self, number: u64) -> Listen {
        self.bound = halves(number);
        self
    }
}
