//! Which hooks a fact reaches.

use crate::event::FactKey;
use crate::ids::*;

/// A subscription, by its place in the table, and its hook.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Ear {
    pub(crate) subscription: u32,
    pub(crate) hook: HookId,
    /// The number that is bound to the subscription.
    pub(crate) bound: u64,
}

/// Who may hear a topic.
#[derive(Clone, Debug, Default)]
pub(crate) struct Audience {
    /// By hooks, in the order of hearing.
    pub(crate) ears: Vec<Ear>,
    /// Whether all of them hear every fact from now on; none has a condition or has only just begun.
    pub(crate) all_plain: bool,
    /// Whether any rule or hook hears it, or conditions remember it.
    pub(crate) wanted: bool,
}

/// A fact, by its place, that reached a hook, with the number that is bound to the subscription.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Reached {
    pub(crate) fact: u32,
    pub(crate) hook: HookId,
    pub(crate) bound: u64,
}

/// A fact, by its place, and the hooks that react to it: all who listen to its topic, or so many that were picked.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Reach {
    pub(crate) fact: u32,
    pub(crate) ears: Ears,
}

#[derive(Clone, Copy, Debug)]
pub(crate) enum Ears {
    All(TopicId),
    Picked { first: u32, count: u32 },
}

/// What reached a hook that does not react; with the key of the fact for one that shows.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Kept {
    pub(crate) reached: Reached,
    pub(crate) key: Option<FactKey>,
}
