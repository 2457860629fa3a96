//! Tactics of stand-ins, as they are written.

use hammerstone_rules::problem::Reading;
use hammerstone_rules::read::{Node, Read};
use hammerstone_rules::tables;
use toml::Spanned;
use toml::de::DeValue;

use super::*;

tables! {
    pub(crate) struct Tactics {
        /// Who has them: all of this group, placed or joining later. Of several that fit one combatant the first is taken.
        group as "for": Option<Group>,
        /// Only while this holds; of the combatant as `subject`, without a chance.
        when: Option<Spanned<Conditions>>,
        /// How often it looks; at least a tick; 0.1 s unless said.
        every: Option<Time>,
        /// The time from a look to what comes of it: one, or drawn evenly from the first to the second; none unless said.
        reaction: Option<Spanned<OneOrMore<Time>>>,
        /// From 0 to 1: the share of what takes skill that it manages, which are answers to attacks, and presses for the next step of a combo; 1 unless said.
        skill: Option<Number>,
        /// Metres a second, or a stat; 3 unless said.
        speed: Option<Speed>,
        /// The share of its speed while a swing binds its hands; from 0 to 1; 0 unless said.
        while_swinging: Option<Number>,
        /// Degrees a second; 540 unless said.
        turns: Option<Number>,
        /// Metres around it that others leave free; 0.4 unless said.
        room: Option<Number>,
        /// Its target; the nearest foe in sight unless said.
        target: Option<TacticsTarget>,
        /// What it does: the first that fits; at least one.
        choice: Vec<Spanned<TacticsChoice>> = required,
    }

    pub(crate) struct SpeedOf {
        /// A stat, as metres a second.
        stat: Name,
        /// Times so much; 1 unless said.
        times: Option<Number>,
    }

    pub(crate) struct TacticsTarget {
        /// Which of those in sight: `nearest`, `weakest`, `strongest` or `last-attacker`; nearest unless said.
        pick: Option<Name>,
        /// Of this team; foes unless said.
        team: Option<Name>,
        /// Of this template.
        template: Option<Name>,
        /// With all of these tags.
        tags: Vec<Name>,
        /// Friends in place of foes.
        friends: bool,
        /// The dead in place of those who stand.
        dead: bool,
        /// No farther than so; metres; 40 unless said.
        within: Option<Number>,
        /// How long it keeps to one, in sight or not, before it may choose another; 1 s unless said.
        keep: Option<Time>,
    }

    pub(crate) struct TacticsChoice {
        /// Its name; what it does unless said.
        name: Option<Name>,
        /// Only if this holds, of the combatant as `subject` and its target as `other`. A target that is out of sight is none. A chance is rolled last.
        when: Option<Spanned<Conditions>>,
        /// A target of its own.
        target: Option<TacticsTarget>,
        /// How long it keeps to its way of moving before it takes to another; until another fits unless said.
        lasts: Option<Time>,
        /// What it does: one way of moving, one act, or both.
        does as "do": Spanned<Deed>,
    }

    /// What a stand-in does. Of the ways of moving at most one, and of `start` and `revive` at most one.
    pub(crate) struct Deed {
        /// Goes up to its target, as near as this; metres.
        approach: Option<Number>,
        /// Stays so far from its target, from the first to the second; metres.
        keep_distance: Option<Spanned<[f64; 2]>>,
        /// Goes round its target, so far from it; metres.
        circle: Option<Number>,
        /// Round which way: `left`, `right`, or `either`, drawn anew each time; either unless said.
        way: Option<Name>,
        /// Goes from place to place and back to the first; metres.
        patrol: Option<Vec<Vector>>,
        /// Goes to a place; metres.
        go_to: Option<Vector>,
        /// Goes to where it joined, and stays there.
        hold_place: Option<Spanned<bool>>,
        /// Stays with its leader, as near as this; metres.
        follow: Option<Number>,
        /// Gets away from its target, as far as this; metres.
        flee: Option<Number>,
        /// Goes straight on without turning; metres a second.
        drift: Option<Vector>,
        /// A box with joined sides: what leaves it on one side comes in on the other. For drift.
        wrap: Option<Wrap>,
        /// Stays where it is.
        wait: Option<Spanned<bool>>,
        /// The share of its speed at which it goes; from 0 to 4; 1 unless said.
        pace: Option<Number>,
        /// Starts an attack, when it can, and when its target is within reach and arc.
        start: Option<Name>,
        /// How near its target must be; metres; as far as the attack reaches unless said.
        within: Option<Number>,
        /// How many degrees off its facing its target may be; 25 unless said.
        arc: Option<Number>,
        /// How long a charged attack is held: one time, or drawn from the first to the second; as short as it may be unless said.
        hold: Option<Spanned<OneOrMore<Time>>>,
        /// The chance, times its skill, that it presses on with each next step of a combo; 0 unless said.
        press_on: Option<Number>,
        /// Only in answer to an attack: it starts so long before the hitbox arrives. Whether it manages is rolled once for each attack, by its skill and the chance of `when`.
        lead: Option<Time>,
        /// By how much it is early or late at most; none unless said.
        error: Option<Time>,
        /// Moves with the start.
        dash: Option<Dash>,
        /// Brings a dead target back, with this share of its health.
        revive: Option<Number>,
        /// How long that takes, standing still; 1 s unless said.
        takes: Option<Time>,
    }

    pub(crate) struct Wrap {
        /// The corner with the lowest numbers; metres.
        from: Vector,
        /// The corner with the highest; metres.
        to: Vector,
    }

    pub(crate) struct Dash {
        /// How far; metres.
        metres: Number,
        /// In what time; at least a tick.
        over: Time,
        /// Which way: `back`, away from its target; `aside`, to a side that is drawn; or `ahead`; back unless said.
        way: Option<Name>,
    }
}

/// Metres a second, or a stat.
#[derive(Debug)]
pub(crate) enum Speed {
    Plain(Number),
    Of(SpeedOf),
}

impl Read for Speed {
    fn read(value: &Node<'_>, reading: &mut Reading<'_>) -> Option<Self> {
        match value.get_ref() {
            DeValue::Integer(_) | DeValue::Float(_) => Read::read(value, reading).map(Speed::Plain),
            DeValue::Table(_) => Read::read(value, reading).map(Speed::Of),
            _ => reading.mistaken(value, "metres a second, or { stat = \"…\", times = 0.1 }"),
        }
    }
}
