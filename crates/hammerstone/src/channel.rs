//! A channel for a host's own events outside combat, of any Rust type, with the guarantees of an encounter's hub.
//!
//! Each listener hears each event at most once, the higher priority first, of equals the one that began to listen first; nothing
//! from before it began, and nothing after its end. What listeners ask for while an event is delivered (to publish, to listen, to
//! end someone's listening, their own too) takes place when that event has reached everyone. Publishing to no one is safe.
//!
//! *Determinism:* the order of calls follows from the order of what was asked for alone.
//!
//! ```
//! use hammerstone::channel::{Channel, Listening};
//!
//! enum Tide {
//!     Rises(u32),
//!     Ebbs,
//! }
//!
//! let mut tides = Channel::new(8);
//! tides.listen(Listening::new(|heights: &mut Vec<u32>, tide: &Tide, replies| match tide {
//!     Tide::Rises(metres) => {
//!         heights.push(*metres);
//!         replies.publish(Tide::Ebbs);
//!     }
//!     Tide::Ebbs => heights.push(0),
//! }));
//! let mut heights = Vec::new();
//! let reached = tides.publish(&mut heights, Tide::Rises(3));
//! assert_eq!((heights, reached.events, reached.calls), (vec![3, 0], 2, 2));
//! ```

use std::collections::VecDeque;

/// What a listener is called with: the host's world, the event, and the way to ask for more.
type Hear<E, W> = Box<dyn Fn(&mut W, &E, &mut Replies<E, W>) + Send + Sync>;

type Wanted<E> = Box<dyn Fn(&E) -> bool + Send + Sync>;

/// Whoever listens, and to what.
pub struct Listening<E, W> {
    hear: Hear<E, W>,
    only: Option<Wanted<E>>,
    priority: i16,
    once: bool,
    owner: Option<u64>,
    key: Option<u64>,
    /// Whether it has heard the one event that it asked for.
    spent: bool,
}

impl<E, W> Listening<E, W> {
    /// To every event of the channel.
    pub fn new<F>(hear: F) -> Listening<E, W>
    where
        F: Fn(&mut W, &E, &mut Replies<E, W>) + Send + Sync + 'static,
    {
        Listening {
            hear: Box::new(hear),
            only: None,
            priority: 0,
            once: false,
            owner: None,
            key: None,
            spent: false,
        }
    }

    /// Only to events for which `wanted` says so.
    pub fn only(mut self, wanted: impl Fn(&E) -> bool + Send + Sync + 'static) -> Self {
        self.only = Some(Box::new(wanted));
        self
    }

    /// Higher hears first.
    pub fn priority(mut self, priority: i16) -> Self {
        self.priority = priority;
        self
    }

    /// Only to the first such event.
    pub fn once(mut self) -> Self {
        self.once = true;
        self
    }

    /// It ends with its owner: a number of the host's own.
    pub fn owned_by(mut self, owner: u64) -> Self {
        self.owner = Some(owner);
        self
    }

    /// Under a key: to listen again under the same key changes nothing.
    pub fn keyed(mut self, key: u64) -> Self {
        self.key = Some(key);
        self
    }
}

/// Ends one listening.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub struct Handle(u64);

/// Which listening ends. To end what is not there is harmless.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub enum EndOf {
    /// The one of a handle.
    Handle(Handle),
    /// The one under a key.
    Key(u64),
    /// All of an owner.
    Owner(u64),
}

/// What a publication came to.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub struct Reached {
    /// Events that were delivered: the one that was published, and those that listeners published in answer.
    pub events: usize,
    /// How often a listener was called.
    pub calls: usize,
    /// Events that were dropped, since they lay deeper than the channel allows.
    pub cut: usize,
}

enum Reply<E, W> {
    Publish(E),
    Listen(Handle, Listening<E, W>),
    End(EndOf),
}

/// What a listener asks for. It takes place when the event has reached everyone, in the order of asking.
pub struct Replies<E, W> {
    asked: Vec<Reply<E, W>>,
    next: u64,
}

impl<E, W> Replies<E, W> {
    /// Publishes an event, which is delivered after those that wait already.
    pub fn publish(&mut self, event: E) {
        self.asked.push(Reply::Publish(event));
    }

    /// Someone listens from then on.
    pub fn listen(&mut self, listening: Listening<E, W>) -> Handle {
        self.next += 1;
        let handle = Handle(self.next);
        self.asked.push(Reply::Listen(handle, listening));
        handle
    }

    /// Someone listens no longer, from then on.
    pub fn end(&mut self, which: EndOf) {
        self.asked.push(Reply::End(which));
    }
}

/// A channel of events of type `E`, whose listeners are lent a world of type `W`.
pub struct Channel<E, W> {
    /// In the order of hearing.
    listeners: Vec<(Handle, Listening<E, W>)>,
    replies: Replies<E, W>,
    queue: VecDeque<(E, u16)>,
    depth: u16,
}

impl<E, W> std::fmt::Debug for Channel<E, W> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Channel").field("listeners", &self.listeners.len()).finish_non_exhaustive()
    }
}

impl<E, W> Channel<E, W> {
    /// A channel to which no one listens. Events that answer events are delivered up to `depth` deep; what lies deeper is cut.
    pub fn new(depth: u16) -> Channel<E, W> {
        let replies = Replies { asked: Vec::new(), next: 0 };
        Channel { listeners: Vec::new(), replies, queue: VecDeque::new(), depth }
    }

    /// Someone listens from now on. Under a key that is there already nothing changes, and the handle ends nothing.
    pub fn listen(&mut self, listening: Listening<E, W>) -> Handle {
        let handle = self.replies.listen(listening);
        self.settle(0);
        handle
    }

    /// Someone listens no longer. To end what is not there is harmless.
    pub fn end(&mut self, which: EndOf) {
        self.listeners.retain(|(handle, listening)| match which {
            EndOf::Handle(ends) => *handle != ends,
            EndOf::Key(key) => listening.key != Some(key),
            EndOf::Owner(owner) => listening.owner != Some(owner),
        });
    }

    /// How many listen.
    pub fn listeners(&self) -> usize {
        self.listeners.len()
    }

    /// Publishes an event, and all that answers it.
    pub fn publish(&mut self, world: &mut W, event: E) -> Reached {
        let mut reached = Reached::default();
        self.queue.push_back((event, 0));
        while let Some((event, depth)) = self.queue.pop_front() {
            reached.events += 1;
            let mut spent = false;
            for (_, listening) in &mut self.listeners {
                if listening.only.as_ref().is_none_or(|only| only(&event)) {
                    (listening.hear)(world, &event, &mut self.replies);
                    reached.calls += 1;
                    listening.spent = listening.once;
                    spent |= listening.once;
                }
            }
            if spent {
                self.listeners.retain(|(_, listening)| !listening.spent);
            }
            reached.cut += self.settle(depth + 1);
        }
        reached
    }

    /// What was asked for takes place. Gives how many events lay too deep.
    fn settle(&mut self, depth: u16) -> usize {
        let mut cut = 0;
        for reply in std::mem::take(&mut self.replies.asked) {
            match reply {
                Reply::Publish(_) if depth > self.depth => cut += 1,
                Reply::Publish(event) => self.queue.push_back((event, depth)),
                Reply::End(which) => self.end(which),
                Reply::Listen(handle, new) => {
                    let known = |(_, l): &(Handle, Listening<E, W>)| new.key.is_some() && l.key == new.key;
                    if !self.listeners.iter().any(known) {
                        let before = |(_, l): &(Handle, Listening<E, W>)| l.priority >= new.priority;
                        let place = self.listeners.partition_point(before);
                        self.listeners.insert(place, (handle, new));
                    }
                }
            }
        }
        cut
    }
}
