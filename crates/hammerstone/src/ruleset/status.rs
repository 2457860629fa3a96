//! What is authored about a status.

use crate::Fixed;
use crate::ids::*;
use crate::ruleset::{AmountChange, By, Harm, StatChange};

/// When the first beat of a status comes.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
pub enum FirstBeat {
    /// One rhythm after it was applied.
    #[default]
    After,
    /// In the tick in which it was applied.
    AtOnce,
}

/// Harm or healing that comes back in a rhythm while a status lasts.
#[derive(Clone, PartialEq, Eq, Hash, Debug, Default)]
pub struct Beat {
    /// Ticks from one beat to the next, at least 1.
    pub every: u32,
    /// When the first one comes.
    pub first: FirstBeat,
    /// What each beat deals.
    pub harm: Vec<Harm>,
    /// What each beat heals, in points: the least and the most.
    pub heal: Option<(i64, i64)>,
    /// Whether no reprieve can stop its harm.
    pub absolute: bool,
}

impl Beat {
    /// A beat of harm every so many ticks, the first one rhythm after the status was applied.
    pub fn harm(every: u32, harm: Vec<Harm>) -> Beat {
        Beat { every, harm, ..Beat::default() }
    }

    /// A beat of healing.
    pub fn heal(every: u32, low: i64, high: i64) -> Beat {
        Beat { every, heal: Some((low, high)), ..Beat::default() }
    }

    /// The first beat comes in the tick in which the status is applied.
    pub fn at_once(mut self) -> Beat {
        self.first = FirstBeat::AtOnce;
        self
    }
}

/// What becomes of a status that is applied to one who bears it. Its beats go on as they were.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
pub enum Again {
    /// Its end moves to a whole duration from now; strength and credit stay those of the first.
    #[default]
    Renew,
    /// Its end moves on by a whole duration; strength and credit stay those of the first.
    Lengthen,
    /// If the new one is stronger, it takes the old one's place, with its strength, its credit and a whole duration;
    /// otherwise it is refused.
    Stronger,
    /// It counts once more, up to so many times, and its end moves to a whole duration from now.
    Pile(u16),
    /// Each source has an application of its own, which it renews.
    Apart,
}

impl Again {
    /// All ways, with a pile of 2.
    pub const ALL: [Again; 5] =
        [Again::Renew, Again::Lengthen, Again::Stronger, Again::Pile(2), Again::Apart];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Again::Renew => "renew",
            Again::Lengthen => "lengthen",
            Again::Stronger => "stronger",
            Again::Pile(_) => "pile",
            Again::Apart => "apart",
        }
    }
}

/// What the strength of a status is. It multiplies beats, raises, shares and scales.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
pub enum Strength {
    /// What whoever gives it says, 1 unless said.
    #[default]
    Given,
    /// That, times a stat of its source when it is applied.
    Captured(StatId),
    /// That, times a stat of its source at the beginning of stage 5 of each tick, as long as the source is in the encounter.
    Live(StatId),
}

/// A guard: it takes a share of blows that come from before its bearer.
#[derive(Clone, PartialEq, Debug)]
pub struct Guard {
    /// The share that it takes off, 0 to 1.
    pub takes: Fixed,
    /// The cosine of the angle about the bearer's forward within which it guards.
    pub(crate) cosine: f32,
    /// It breaks after having taken so much; never, if nothing is said.
    pub breaks_after: Option<i64>,
    /// The kinds that it is good against; every kind if there are none.
    pub kinds: Vec<KindId>,
}

impl Guard {
    /// A guard that takes the share `takes` off what comes from within `degrees` of the bearer's forward, looked at from above.
    pub fn new(takes: Fixed, degrees: f32) -> Guard {
        let cosine = libm::cosf(degrees * (std::f32::consts::PI / 180.0));
        Guard { takes, cosine, breaks_after: None, kinds: Vec::new() }
    }

    /// It breaks after having taken `points`.
    pub fn breaks_after(mut self, points: i64) -> Guard {
        self.breaks_after = Some(points);
        self
    }

    /// Only against `kind`. Called again, against all that were named.
    pub fn against(mut self, kind: KindId) -> Guard {
        self.kinds.push(kind);
        self
    }
}

/// What keeps its bearer alive at a lethal moment.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct Reprieve {
    /// Health that it leaves, or what there was, if that was less.
    pub leaves: i64,
    /// How often in one life.
    pub limit: u32,
    /// Whether the status ends with it.
    pub ends: bool,
}

/// Harm that goes on to somebody else.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct Passing {
    /// The share of what was dealt, to the whole point below.
    pub share: Fixed,
    /// Only of this kind, if one is named.
    pub kind: Option<KindId>,
}

/// When a cast entry or a status gives another status.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Upon {
    /// Its bearer was struck, and lives. What deals no harm does not count.
    Struck,
    /// Its bearer struck somebody, who lives. What deals no harm does not count.
    Hits,
    /// Its bearer joined.
    Joins,
    /// Its bearer returned.
    Returns,
    /// Its bearer was kept from falling. The source of what is given is whoever would have felled it.
    Averted,
    /// The status expired. Only for statuses.
    Expiry,
}

impl Upon {
    /// All occasions.
    pub const ALL: [Upon; 6] =
        [Upon::Struck, Upon::Hits, Upon::Joins, Upon::Returns, Upon::Averted, Upon::Expiry];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Upon::Struck => "struck",
            Upon::Hits => "hits",
            Upon::Joins => "joins",
            Upon::Returns => "returns",
            Upon::Averted => "averted",
            Upon::Expiry => "expiry",
        }
    }
}

/// A status that is given on an occasion, to the bearer or to the other side of a blow. Its source is the bearer.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct Gift {
    /// When.
    pub upon: Upon,
    /// Which status.
    pub status: StatusId,
    /// How strong.
    pub strength: Fixed,
    /// Whether the other side of the blow gets it.
    pub to_other: bool,
}

impl Gift {
    /// The bearer gets `status`.
    pub const fn new(upon: Upon, status: StatusId) -> Gift {
        Gift { upon, status, strength: Fixed::ONE, to_other: false }
    }

    /// The other side gets it.
    pub const fn to_other(mut self) -> Gift {
        self.to_other = true;
        self
    }

    /// At this strength.
    pub const fn strength(mut self, strength: Fixed) -> Gift {
        self.strength = strength;
        self
    }
}

/// An authored status.
#[derive(Clone, Debug)]
pub struct Status {
    pub(crate) name: String,
    pub(crate) key: u64,
    pub(crate) lasts: Option<u32>,
    pub(crate) again: Again,
    pub(crate) strength: Strength,
    pub(crate) beat: Option<Beat>,
    pub(crate) stuns: bool,
    pub(crate) protects: bool,
    /// Tags of attacks that its protection and its guard let through.
    pub(crate) lets: u64,
    pub(crate) guard: Option<Guard>,
    pub(crate) shield: Option<(ShieldId, i64)>,
    pub(crate) reprieve: Option<Reprieve>,
    pub(crate) reflects: Option<Passing>,
    pub(crate) transfers: Option<Passing>,
    pub(crate) stats: Vec<StatChange>,
    pub(crate) amounts: Vec<AmountChange>,
    pub(crate) gifts: Vec<Gift>,
    pub(crate) tags: u64,
    pub(crate) lends: u64,
    pub(crate) barred_by: u64,
    pub(crate) lifted_by: u64,
    pub(crate) lifts: u64,
    pub(crate) across_lives: bool,
    pub(crate) dooms: Option<KindId>,
}

impl Status {
    /// Whether it deals damage or kills.
    pub fn hurts(&self) -> bool {
        self.dooms.is_some() || self.beat.as_ref().is_some_and(|beat| !beat.harm.is_empty())
    }

    /// A status that lasts until it is lifted and does nothing.
    pub fn new(name: &str) -> Status {
        Status {
            name: name.to_owned(),
            key: crate::rolls::name_key(name),
            lasts: None,
            again: Again::Renew,
            strength: Strength::Given,
            beat: None,
            stuns: false,
            protects: false,
            lets: 0,
            guard: None,
            shield: None,
            reprieve: None,
            reflects: None,
            transfers: None,
            stats: Vec::new(),
            amounts: Vec::new(),
            gifts: Vec::new(),
            tags: 0,
            lends: 0,
            barred_by: 0,
            lifted_by: 0,
            lifts: 0,
            across_lives: false,
            dooms: None,
        }
    }

    /// Expires `ticks` after it was applied or renewed.
    pub fn lasts(mut self, ticks: u32) -> Status {
        self.lasts = Some(ticks);
        self
    }

    /// What becomes of it when it is applied again.
    pub fn again(mut self, again: Again) -> Status {
        self.again = again;
        self
    }

    /// What its strength is.
    pub fn strength(mut self, strength: Strength) -> Status {
        self.strength = strength;
        self
    }

    /// Harms or heals in a rhythm.
    pub fn beat(mut self, beat: Beat) -> Status {
        self.beat = Some(beat);
        self
    }

    /// Whoever bears it starts nothing; what they carry is cancelled when it is applied.
    pub fn stuns(mut self) -> Status {
        self.stuns = true;
        self
    }

    /// Whoever bears it is invulnerable: attacks pass, except those that [ignore](crate::Attack::ignores) it and those that
    /// [carry a tag](crate::Attack::tag) which it [lets through](Status::lets_through).
    pub fn protects(mut self) -> Status {
        self.protects = true;
        self
    }

    /// Attacks that carry `tag` go through its protection and its guard.
    pub fn lets_through(mut self, tag: TagId) -> Status {
        self.lets |= tag.bit();
        self
    }

    /// Guards its bearer.
    pub fn guard(mut self, guard: Guard) -> Status {
        self.guard = Some(guard);
        self
    }

    /// Brings `points` of a shield, times its strength, for each time that it counts. Where the shield is broken, the status ends.
    pub fn shield(mut self, shield: ShieldId, points: i64) -> Status {
        self.shield = Some((shield, points));
        self
    }

    /// Keeps its bearer alive at a lethal moment.
    pub fn reprieve(mut self, reprieve: Reprieve) -> Status {
        self.reprieve = Some(reprieve);
        self
    }

    /// Gives back a share of the harm that its bearer took and lived through, to whoever dealt it.
    pub fn reflects(mut self, passing: Passing) -> Status {
        self.reflects = Some(passing);
        self
    }

    /// Moves a share of the harm from its bearer to whoever applied the status, while that one stands.
    pub fn transfers(mut self, passing: Passing) -> Status {
        self.transfers = Some(passing);
        self
    }

    /// Changes a stat.
    pub fn changes(mut self, stat: StatId, by: By) -> Status {
        self.stats.push(StatChange { stat, by });
        self
    }

    /// Changes amounts.
    pub fn changes_amounts(mut self, change: AmountChange) -> Status {
        self.amounts.push(change);
        self
    }

    /// Gives another status on an occasion.
    pub fn gift(mut self, gift: Gift) -> Status {
        self.gifts.push(gift);
        self
    }

    /// Belongs to the family `tag`, for what lifts families.
    pub fn tag(mut self, tag: TagId) -> Status {
        self.tags |= tag.bit();
        self
    }

    /// Its bearer carries `tag` while it lasts.
    pub fn lends(mut self, tag: TagId) -> Status {
        self.lends |= tag.bit();
        self
    }

    /// Is refused by whoever carries `tag`.
    pub fn barred_by(mut self, tag: TagId) -> Status {
        self.barred_by |= tag.bit();
        self
    }

    /// Is lifted when its bearer is lent `tag`.
    pub fn lifted_by(mut self, tag: TagId) -> Status {
        self.lifted_by |= tag.bit();
        self
    }

    /// When it is applied, lifts every other status of the family `tag` from its bearer.
    pub fn lifts(mut self, tag: TagId) -> Status {
        self.lifts |= tag.bit();
        self
    }

    /// When its bearer falls or goes away it is suspended, and resumed with what was left when they return.
    pub fn across_lives(mut self) -> Status {
        self.across_lives = true;
        self
    }

    /// Its bearer falls when it expires, by as much harm of this kind as health is left: down, but not out. If it is lifted before,
    /// its bearer has returned.
    pub fn dooms(mut self, kind: KindId) -> Status {
        self.dooms = Some(kind);
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// What becomes of it when it is applied again.
    pub fn again_of(&self) -> Again {
        self.again
    }

    /// Whether its bearer starts nothing.
    pub fn is_stunning(&self) -> bool {
        self.stuns
    }

    /// What its strength is.
    pub fn strength_of(&self) -> Strength {
        self.strength
    }

    /// What it gives on which occasions.
    pub fn gifts(&self) -> &[Gift] {
        &self.gifts
    }

    /// How long it lasts, in ticks.
    pub fn duration(&self) -> Option<u32> {
        self.lasts
    }
}
