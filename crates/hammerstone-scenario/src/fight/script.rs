//! The script of a scenario: what is ordered when.

mod acts;

use std::ops::Range;

use hammerstone::Fixed;
use hammerstone::amount::{Keep, Modifier};
use hammerstone::event::{HostValue, Text, ValueSort};
use hammerstone::flow::{Count, Group};
use hammerstone::gauge::GaugeChange;
use hammerstone::geometry::Pose;
use hammerstone::ids::{
    AttackId, CombatantCounterId, CombatantFlagId, DamageTypeId, GaugeId, HostTopicId, OutcomeId, ReasonId,
    ShieldId, StatId, StatusId, TagId, TeamId, TemplateId, ValueId,
};
use hammerstone::orders::{Marker, Order, Touch};
use toml::Spanned;

use super::scenario::Resolver;
use crate::raw;
use hammerstone_rules::flow;
use hammerstone_rules::numbers::Ways;

/// How many lines of script one line may stand for.
const MOST_TIMES: i64 = 1_000_000;

/// What the script orders. Combatants are named by their place among the placed.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Act {
    /// With by how many ticks its targets are rewound.
    Start(AttackId, Option<Pose>, u16),
    SpawnAttack(AttackId, TeamId, Pose, Option<usize>),
    /// What is done to each running swing of a combatant.
    Swings(OfSwing),
    /// A swing of the combatant touches a part of another.
    Report(usize, u16, Touch),
    /// An obstacle, by its place, is cleared.
    RemoveObstacle(usize),
    /// An obstacle lets everything through, or is in the way again.
    OpenObstacle(usize, bool),
    /// An obstacle goes to a pose, over so many ticks.
    MoveObstacle(usize, Pose, u32),
    PlaceObstacle(usize, Pose),
    Teleport(Pose),
    Move(Pose, u32),
    Damage {
        damage_type: DamageTypeId,
        amount: Fixed,
        reason: ReasonId,
        by: Option<usize>,
        absolute: bool,
    },
    Heal {
        points: u32,
        reason: ReasonId,
        by: Option<usize>,
    },
    Apply {
        status: StatusId,
        by: Option<usize>,
        strength: Fixed,
    },
    LiftFamily(TagId),
    Change(StatId, Modifier, ReasonId),
    Unchange(StatId, ReasonId),
    SetMaximum(u32, Keep),
    RaiseShield(ShieldId, u32),
    Lift(StatusId),
    SendAway,
    BringBack(Pose),
    Remove,
    End(OutcomeId),
    /// An order that is about no one.
    Order(Order),
    /// The placed are followed, or a fact of the host's own names them.
    Follow(usize),
    Publish(HostTopicId, [Value; 4]),
    Attach(ValueId, i64),
    Gauge(GaugeId, GaugeChange, i64, Option<usize>),
    Flag(CombatantFlagId, bool),
    ChangeTeam(TeamId),
    ScaleTime(u8),
    Transform(TemplateId),
    LetGo,
    Count(CombatantCounterId, Count),
    ShowPart(u16, bool),
    Resize(Fixed),
    Tactics(TakesTo),
}

/// The tactics that a combatant takes to.
#[derive(Clone, Copy, Debug)]
pub(crate) enum TakesTo {
    None,
    /// Those of its group.
    Usual,
    /// By their place.
    Named(usize),
}

impl Act {
    /// Whether it is about no combatant.
    pub(crate) fn is_nobodys(self) -> bool {
        matches!(
            self,
            Act::SpawnAttack(..)
                | Act::RemoveObstacle(_)
                | Act::OpenObstacle(..)
                | Act::MoveObstacle(..)
                | Act::PlaceObstacle(..)
                | Act::End(_)
                | Act::Order(_)
                | Act::Publish(..)
        )
    }
}

/// A value that the script publishes; combatants by their place among the placed.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Value {
    Plain(HostValue),
    /// By its place among the scenario's texts.
    Text(u32),
    Who(usize),
}

/// What is done to a running swing.
#[derive(Clone, Copy, Debug)]
pub(crate) enum OfSwing {
    Cancel,
    Mark(Marker),
    Release,
    Guide(Pose),
}

impl OfSwing {
    pub(crate) fn order(self, swing: hammerstone::ids::SwingId) -> Order {
        match self {
            OfSwing::Cancel => Order::Cancel { swing },
            OfSwing::Mark(marker) => Order::Marker { swing, marker },
            OfSwing::Release => Order::Release { swing },
            OfSwing::Guide(pose) => Order::Guide { swing, pose },
        }
    }
}

/// Whether a line orders what no one does.
fn is_nobodys(entry: &raw::Entry) -> bool {
    let named = [
        &entry.end,
        &entry.remove_obstacle,
        &entry.open_obstacle,
        &entry.close_obstacle,
        &entry.raise_flag,
        &entry.lower_flag,
        &entry.start_waves,
        &entry.stop_waves,
        &entry.publish,
    ];
    let flags = [&entry.next_round, &entry.reset];
    let moves_obstacles = entry.move_obstacle.is_some() || entry.place_obstacle.is_some();
    moves_obstacles
        || named.iter().any(|name| name.is_some())
        || flags.iter().any(|flag| flag.is_some())
        || entry.spawn_attack.is_some()
        || entry.count.is_some()
        || entry.score.is_some()
        || entry.say.is_some()
}

/// One order of the script.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Line {
    /// The tick in which it is carried out.
    pub(crate) tick: u32,
    /// Whether it comes back at an interval, and so stops with its combatant.
    pub(crate) repeated: bool,
    pub(crate) who: usize,
    /// In place of one: all who stand then and are of the group.
    pub(crate) each: Option<Group>,
    /// What must hold for it, by its place among the scenario's questions, and the other party of that.
    pub(crate) when: Option<u32>,
    pub(crate) by: Option<usize>,
    pub(crate) act: Act,
}

impl Resolver<'_, '_> {
    pub(crate) fn outcome(&mut self, name: &raw::Name) -> Option<OutcomeId> {
        let rules = &self.rules.ruleset;
        let found = rules.find_outcome(name.as_ref());
        if found.is_none() {
            let fix = Some("list it under `outcomes` of the ruleset".to_owned());
            let message = format!("there is no outcome `{}`", name.as_ref());
            self.reading.problem(name.span(), "no such outcome", message, fix);
        }
        found
    }

    fn reason(&mut self, entry: &Spanned<raw::Entry>) -> Option<ReasonId> {
        match &entry.as_ref().reason {
            Some(name) => {
                let found = self.rules.ruleset.find_reason(name.as_ref());
                if found.is_none() {
                    let fix = Some("list it under `reasons` of the ruleset".to_owned());
                    let message = format!("there is no reason `{}`", name.as_ref());
                    self.reading.problem(name.span(), "no such reason", message, fix);
                }
                found
            }
            None => {
                let fix = Some("add `reason = \"…\"`".to_owned());
                let message = "damage and healing by the script need a reason".to_owned();
                self.reading.problem(entry.span(), "no reason", message, fix);
                None
            }
        }
    }

    pub(crate) fn entry(&mut self, spanned: &Spanned<raw::Entry>, ticks: u32, script: &mut Vec<Line>) {
        let entry = spanned.as_ref();
        let at = self.time(&entry.at);
        let every = entry.every.as_ref().map(|every| self.time(every));
        let times = match (&entry.times, every) {
            (Some(times), _) => self.reading.whole(times, 1, MOST_TIMES),
            (None, Some(_)) => Some(MOST_TIMES),
            (None, None) => Some(1),
        };
        if let Some(Some(0)) = every {
            let fix = Some("give at least one tick".to_owned());
            self.reading.problem(spanned.span(), "here", "an interval of no ticks".to_owned(), fix);
            return;
        }
        let by = entry.by.as_ref().map(|name| self.who(name));
        let nobodys = is_nobodys(entry);
        let who = match (&entry.who, nobodys) {
            (Some(name), _) if entry.each.is_none() => self.who(name),
            (Some(name), _) => {
                let fix = Some("keep one of `who` and `each`".to_owned());
                self.reading.problem(name.span(), "here", "the line names someone twice".to_owned(), fix);
                None
            }
            (None, nobodys) if nobodys || entry.each.is_some() => Some(0..1),
            (None, _) => {
                let fix = Some("add `who = \"…\"`".to_owned());
                self.reading.problem(
                    spanned.span(),
                    "no combatant",
                    "the line names no combatant".to_owned(),
                    fix,
                );
                None
            }
        };
        let each = entry.each.as_ref().map(|group| self.group(group));
        let template = match (&each, &who) {
            (Some(group), _) => group.template,
            (None, Some(who)) => self.placed.get(who.start).map(|placed| placed.template),
            (None, None) => None,
        };
        let by = by.flatten().map(|range| range.start);
        let acts = self.acts(spanned, by, template);
        let when = match &entry.when {
            Some(when) => match self.rules.question(self.reading, when) {
                Some(question) => {
                    self.questions.push(question);
                    Some(self.questions.len() as u32 - 1)
                }
                None => return,
            },
            None => None,
        };
        let (Some(at), Some(times), Some(who)) = (at, times, who) else { return };
        let started = |act: &Act| if let Act::Start(attack, ..) = act { Some(*attack) } else { None };
        if let (Some(attack), None) = (acts.iter().find_map(started), &each) {
            self.must_use(entry, who.clone(), attack);
        }
        let every = every.flatten().unwrap_or(0);
        for time in 0..times {
            let tick = i64::from(at) + time * i64::from(every) + 1;
            if tick > i64::from(ticks) {
                break;
            }
            for who in who.clone() {
                for &act in &acts {
                    script.push(Line { tick: tick as u32, repeated: time > 0, who, each, when, by, act });
                }
            }
        }
    }

    pub(crate) fn group(&mut self, raw: &raw::Group) -> Group {
        let rules = &self.rules.ruleset;
        let mut group = Group {
            team: { raw.team.as_ref() }
                .and_then(|name| self.reading.known("team", name, rules.find_team(name.as_ref()))),
            template: { raw.template.as_ref() }
                .and_then(|name| self.reading.known("template", name, rules.find_template(name.as_ref()))),
            ..Group::default()
        };
        for name in &raw.tags {
            if let Some(tag) = self.reading.known("tag", name, rules.find_tag(name.as_ref())) {
                group = group.tagged(tag);
            }
        }
        group
    }

    /// The template of a combatant that starts an attack must list it.
    fn must_use(&mut self, entry: &raw::Entry, who: Range<usize>, attack: AttackId) {
        let stranger = who.into_iter().find(|&who| {
            let uses = self.rules.uses.get(self.placed[who].template.index());
            !uses.is_some_and(|uses| uses.contains(&attack))
        });
        if let Some(who) = stranger {
            self.must_list(self.placed[who].template, attack, entry.start.as_ref());
        }
    }

    /// A template must list an attack that is started by this name.
    pub(crate) fn must_list(&mut self, template: TemplateId, attack: AttackId, name: Option<&raw::Name>) {
        let uses = self.rules.uses.get(template.index());
        if let Some(name) = name.filter(|_| !uses.is_some_and(|uses| uses.contains(&attack))) {
            let template = self.rules.ruleset.template_name(template).unwrap_or_default();
            let message = format!("template `{template}` does not list attack `{}`", name.as_ref());
            let fix = Some(format!("add it to `attacks` of [template.{template}] in {}", self.rules.file));
            self.reading.problem(name.span(), "not listed", message, fix);
        }
    }
}
