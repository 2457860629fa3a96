//! Tactics as they are carried out: every name looked up.

use std::sync::Arc;

use hammerstone::Fixed;
use hammerstone::flow::{Group, Question};
use hammerstone::ids::{AttackId, StatId};

use super::plane::{Flat, Turning};

/// From one number of ticks to another; drawn evenly.
pub(crate) type Ticks = (u32, u32);

/// How a stand-in moves and fights.
#[derive(Clone, Debug)]
pub(crate) struct Tactics {
    pub(crate) name: String,
    /// The combatants that have these tactics without a word in the script.
    pub(crate) group: Option<Group>,
    pub(crate) when: Option<Question>,
    pub(crate) every: u32,
    pub(crate) reaction: Ticks,
    /// Out of 10,000.
    pub(crate) skill: i64,
    pub(crate) speed: Speed,
    pub(crate) while_swinging: f32,
    pub(crate) turns: Turning,
    pub(crate) room: f32,
    pub(crate) target: TargetRule,
    pub(crate) choices: Vec<Choice>,
}

impl Tactics {
    /// The attacks that its choices start.
    pub(crate) fn starts(&self) -> impl Iterator<Item = AttackId> {
        self.choices.iter().filter_map(|choice| match &choice.act {
            Some(Act::Start(start)) => Some(start.attack),
            _ => None,
        })
    }

    /// The first choice that fits whatever it sees, if others come after it.
    pub(crate) fn last_reached(&self) -> Option<&Choice> {
        let (_, before) = self.choices.split_last()?;
        before.iter().find(|choice| choice.always_fits())
    }
}

impl Choice {
    /// Whether it fits whatever is seen.
    fn always_fits(&self) -> bool {
        let moves = matches!(
            self.moves,
            Some(Moves::Wait | Moves::Patrol(_) | Moves::GoTo(_) | Moves::HoldPlace | Moves::Drift(..))
        );
        moves && self.act.is_none() && self.when.is_none() && self.chance.is_none()
    }
}

/// Metres a tick, or a stat that is metres a second.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Speed {
    Plain(f32),
    Of(StatId, f32),
}

/// How a target is chosen.
#[derive(Clone, Debug)]
pub(crate) struct TargetRule {
    pub(crate) pick: Pick,
    pub(crate) group: Group,
    pub(crate) side: Side,
    pub(crate) dead: bool,
    pub(crate) within: f32,
    pub(crate) keep: u32,
}

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Pick {
    Nearest,
    Weakest,
    Strongest,
    LastAttacker,
}

impl Pick {
    pub(crate) const ALL: [(&'static str, Pick); 4] = [
        ("nearest", Pick::Nearest),
        ("weakest", Pick::Weakest),
        ("strongest", Pick::Strongest),
        ("last-attacker", Pick::LastAttacker),
    ];
}

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Side {
    Foes,
    Friends,
    /// Of the group alone.
    Any,
}

#[derive(Clone, Debug)]
pub(crate) struct Choice {
    pub(crate) name: String,
    pub(crate) when: Option<Question>,
    pub(crate) chance: Option<Fixed>,
    pub(crate) target: Option<TargetRule>,
    pub(crate) moves: Option<Moves>,
    /// So long it keeps to that, in ticks.
    pub(crate) lasts: u32,
    /// The share of the speed.
    pub(crate) pace: f32,
    pub(crate) act: Option<Act>,
}

/// A way of moving.
#[derive(Clone, Debug)]
pub(crate) enum Moves {
    Wait,
    Approach(f32),
    KeepDistance(f32, f32),
    Circle(f32, Way),
    Patrol(Arc<[Flat]>),
    GoTo(Flat),
    HoldPlace,
    Follow(f32),
    Flee(f32),
    /// Metres a tick, and the box with joined sides.
    Drift([f32; 3], Option<[[f32; 3]; 2]>),
}

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Way {
    Left,
    Right,
    Either,
}

impl Way {
    pub(crate) const ALL: [(&'static str, Way); 3] =
        [("left", Way::Left), ("right", Way::Right), ("either", Way::Either)];
}

#[derive(Clone, Debug)]
pub(crate) enum Act {
    Start(Start),
    /// With a share of health, from so near, in so many ticks.
    Revive {
        share: Fixed,
        within: f32,
        takes: u32,
    },
}

#[derive(Clone, Debug)]
pub(crate) struct Start {
    pub(crate) attack: AttackId,
    /// As near as this, if the attack does not say.
    pub(crate) within: Option<f32>,
    /// Radians.
    pub(crate) arc: f32,
    pub(crate) hold: Option<Ticks>,
    /// Out of 10,000.
    pub(crate) press_on: i64,
    pub(crate) answer: Option<Answer>,
    pub(crate) dash: Option<Dash>,
}

/// A start in answer to an attack.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Answer {
    pub(crate) lead: u32,
    pub(crate) error: u32,
}

#[derive(Clone, Copy, Debug)]
pub(crate) struct Dash {
    pub(crate) metres: f32,
    pub(crate) ticks: u32,
    pub(crate) way: DashWay,
}

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum DashWay {
    Back,
    Aside,
    Ahead,
}

impl DashWay {
    pub(crate) const ALL: [(&'static str, DashWay); 3] =
        [("back", DashWay::Back), ("aside", DashWay::Aside), ("ahead", DashWay::Ahead)];
}
