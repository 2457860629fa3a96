//! What is authored about a status.

use crate::ruleset::Harm;

/// When the first beat of a status comes.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
pub enum FirstBeat {
    /// One rhythm after it was applied.
    #[default]
    After,
    /// In the tick in which it was applied.
    AtOnce,
}

/// Harm that comes back in a rhythm while a status lasts.
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
pub struct Beat {
    /// Ticks from one beat to the next, at least 1.
    pub every: u32,
    /// When the first one comes.
    pub first: FirstBeat,
    /// What each beat deals.
    pub harm: Vec<Harm>,
}

/// An authored status. Applied again while it lasts, it is *renewed*: its end moves, its beats go on as they were.
#[derive(Clone, Debug)]
pub struct Status {
    pub(crate) name: String,
    pub(crate) lasts: Option<u32>,
    pub(crate) beat: Option<Beat>,
    pub(crate) stuns: bool,
    pub(crate) protects: bool,
    pub(crate) key: u64,
}

impl Status {
    /// A status that lasts until it is lifted and does nothing.
    pub fn new(name: &str) -> Status {
        Status {
            name: name.to_owned(),
            lasts: None,
            beat: None,
            stuns: false,
            protects: false,
            key: crate::rolls::name_key(name),
        }
    }

    /// Expires `ticks` after it was applied or renewed.
    pub fn lasts(mut self, ticks: u32) -> Status {
        self.lasts = Some(ticks);
        self
    }

    /// Deals harm in a rhythm.
    pub fn beat(mut self, beat: Beat) -> Status {
        self.beat = Some(beat);
        self
    }

    /// Whoever bears it starts nothing; what they carry is cancelled when it is applied.
    pub fn stuns(mut self) -> Status {
        self.stuns = true;
        self
    }

    /// Whoever bears it is invulnerable: attacks pass, except those that [ignore](crate::Attack::ignores) it.
    pub fn protects(mut self) -> Status {
        self.protects = true;
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }
}
