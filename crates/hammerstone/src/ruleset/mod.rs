//! Everything that a designer may tune, as data: built once, checked whole, then never changed.

mod answer;
mod attack;
mod builder;
mod findings;
mod flow;
mod form;
mod loops;
mod path;
mod rule;
mod stat;
mod status;
mod steps;
mod teams;
mod template;
mod timing;
mod validate;

use std::collections::BTreeMap;
use std::sync::Arc;

pub use answer::{Away, FallOff, HitStop, Knockback, Stagger};
pub use attack::{Attack, Damage, Policy};
pub(crate) use attack::{Chance, Given};
pub use builder::RulesetBuilder;
pub use findings::{Finding, Findings, Place, Problem};
pub use flow::{Growth, IfItKills, Lives, ReturnTo, Waves};
pub(crate) use flow::{MOST_IN_A_WAVE, Spot, Threshold};
pub use form::{Beam, Charge, Clash, Form, FormKind, Prefer, Projectile, Sharing, Side, Tie, When};
pub(crate) use rule::On;
pub use rule::{Condition, Count, Credit, Group, Limit, Reaction, Rule, RuleValue, ScoreValue, Target};
pub(crate) use stat::Stat;
pub use stat::{AmountChange, Direction, Modifier, Role, Scaling, StatChange};
pub use status::{
    FirstPulse, Grant, Guard, PreventsDeath, Pulse, SharedDamage, Stacking, Status, Strength, Trigger,
};
pub use steps::{Armour, Critical, HealStep, Keep, Overheal, Rounding, Shield, Step};
pub use teams::{Relation, Relations};
pub(crate) use template::Bounds;
pub use template::{Broken, Part, Template};
pub use timing::Timings;

use crate::Fixed;
use crate::event::{HostTopic, ValueSort};
use crate::geometry::{Axis, Pose};
use crate::ids::*;
use crate::topic::Topics;

/// A checked ruleset. Cloning it shares it: one ruleset may serve any number of encounters and threads.
///
/// Made by [`Ruleset::builder`]; all that is asked by name is asked here, so that nothing is looked up
/// while a fight runs.
#[derive(Clone, Debug)]
pub struct Ruleset(Arc<Rules>);

/// The contents of a [`Ruleset`], read through it.
#[derive(Clone, Debug)]
pub struct Rules {
    pub(crate) rate: u32,
    pub(crate) up: Axis,
    pub(crate) damage_types: Vec<String>,
    pub(crate) damage_type_keys: Vec<u64>,
    pub(crate) teams: Vec<String>,
    pub(crate) relations: Vec<Relation>,
    pub(crate) layers: Vec<String>,
    pub(crate) tags: Vec<String>,
    pub(crate) reasons: Vec<String>,
    pub(crate) outcomes: Vec<String>,
    pub(crate) attacks: Vec<Attack>,
    pub(crate) templates: Vec<Template>,
    pub(crate) statuses: Vec<Status>,
    pub(crate) stats: Vec<Stat>,
    pub(crate) shields: Vec<Shield>,
    pub(crate) own_steps: Vec<String>,
    pub(crate) steps: Vec<Step>,
    pub(crate) heal_steps: Vec<HealStep>,
    pub(crate) critical: Option<Critical>,
    /// The share of damage, by relation.
    pub(crate) relation_shares: [Fixed; 4],
    pub(crate) armour: Armour,
    pub(crate) overheal: Option<Overheal>,
    /// A stat whose whole points are added to everybody's maximum of health, and what health keeps when that changes.
    pub(crate) maximum: Option<(StatId, Keep)>,
    /// Damage without a source is credited to whoever damaged last within so many ticks.
    pub(crate) death_credit: Option<u32>,
    /// By how many ticks stops may put off the end of a swing in all.
    pub(crate) hit_stop_limit: u32,
    pub(crate) uses: Uses,
    pub(crate) floor: i64,
    pub(crate) cap: i64,
    pub(crate) rounding: Rounding,
    pub(crate) assist_window: u32,
    pub(crate) cascade_depth: u16,
    pub(crate) cascade_per_root: u32,
    pub(crate) cascade_per_tick: u32,
    pub(crate) move_limit: f32,
    pub(crate) both_land: bool,
    pub(crate) child_limit: u16,
    pub(crate) host_topics: Vec<HostTopic>,
    pub(crate) flags: Vec<String>,
    pub(crate) counters: Vec<String>,
    pub(crate) scores: Vec<String>,
    pub(crate) values: Vec<String>,
    pub(crate) thresholds: Vec<String>,
    pub(crate) lines: Vec<String>,
    pub(crate) spots: Vec<Spot>,
    pub(crate) waves: Vec<Waves>,
    pub(crate) rule_book: Vec<Rule>,
    /// For each topic the rules that hear it, in the order in which they do.
    pub(crate) rules_by_topic: Vec<Vec<RuleId>>,
    pub(crate) topics: Topics,
    pub(crate) fingerprint: u64,
    /// Where each name of each list stands.
    pub(crate) places: BTreeMap<&'static str, BTreeMap<String, usize>>,
}

/// What anything in a ruleset does at all, so that nobody looks for what is not there.
#[derive(Clone, Debug, Default)]
pub(crate) struct Uses {
    /// Flows that are changed.
    pub(crate) flows: [bool; 4],
    /// Stats that statuses change.
    pub(crate) stats: Vec<bool>,
    pub(crate) adds_tags: bool,
    pub(crate) invulnerable: bool,
    pub(crate) guards: bool,
    pub(crate) prevented_deaths: bool,
    pub(crate) reflects: bool,
    pub(crate) transfers: bool,
    pub(crate) grants: bool,
    pub(crate) live: bool,
}

impl Uses {
    pub(crate) fn of(rules: &Rules) -> Uses {
        let statuses = &rules.statuses;
        let any = |does: fn(&Status) -> bool| statuses.iter().any(does);
        let mut uses = Uses {
            flows: [false; 4],
            stats: vec![false; rules.stats.len()],
            adds_tags: any(|status| status.adds_tags != 0),
            invulnerable: any(|status| status.invulnerable),
            guards: any(|status| status.guard.is_some()),
            prevented_deaths: any(|status| status.prevents_death.is_some()),
            reflects: any(|status| status.reflects.is_some()),
            transfers: any(|status| status.transfers.is_some()),
            grants: any(|status| !status.grants.is_empty())
                || rules.templates.iter().any(|template| !template.grants.is_empty()),
            live: any(|status| matches!(status.strength, Strength::Live(_))),
        };
        let amounts = rules
            .templates
            .iter()
            .map(|template| &template.amounts)
            .chain(statuses.iter().map(|s| &s.amounts));
        for change in amounts.flatten() {
            uses.flows[change.flow as usize] = true;
        }
        for change in statuses.iter().flat_map(|status| &status.stats) {
            uses.stats[change.stat.index()] = true;
        }
        uses
    }
}

impl Ruleset {
    /// Starts an empty ruleset in which one second has `rate` ticks.
    ///
    /// ```
    /// use hammerstone::*;
    /// let mut b = Ruleset::builder(60);
    /// let crush = b.damage_type("crush");
    /// let masons = b.team("masons");
    /// b.template(Template::new("mason", masons, 40).part(Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.4 })));
    /// let rules = b.build()?;
    /// assert_eq!(rules.damage_type_name(crush), Some("crush"));
    /// # Ok::<(), Findings>(())
    /// ```
    pub fn builder(rate: u32) -> RulesetBuilder {
        RulesetBuilder::new(rate)
    }

    pub(crate) fn new(rules: Rules) -> Ruleset {
        Ruleset(Arc::new(rules))
    }
}

impl std::ops::Deref for Ruleset {
    type Target = Rules;
    fn deref(&self) -> &Rules {
        &self.0
    }
}

macro_rules! name_lookups {
    ($($(#[$doc:meta])* $name:ident, $find:ident: $id:ident in $list:ident as $text:expr);* $(;)?) => {
        impl Rules {
            /// Where each name of each list stands, of two of one name the first.
            pub(crate) fn places_of_names(&self) -> BTreeMap<&'static str, BTreeMap<String, usize>> {
                let mut all = BTreeMap::new();
                $(
                    let names = self.$list.iter().enumerate().rev();
                    let names = names.map(|(place, entry)| ($text(entry).to_owned(), place)).collect();
                    all.insert(stringify!($list), names);
                )*
                all
            }
        $(
            $(#[$doc])*
            ///
            /// None for an id that this ruleset does not have.
            pub fn $name(&self, id: $id) -> Option<&str> {
                self.$list.get(id.index()).map(|entry| $text(entry))
            }

            /// The id of a name, if this ruleset has it.
            pub fn $find(&self, name: &str) -> Option<$id> {
                let places = self.places.get(stringify!($list))?;
                places.get(name).copied().map($id::new)
            }
        )*}
    };
}

name_lookups! {
    /// The name of a damage type.
    damage_type_name, find_damage_type: DamageTypeId in damage_types as String::as_str;
    /// The name of a team.
    team_name, find_team: TeamId in teams as String::as_str;
    /// The name of a layer.
    layer_name, find_layer: LayerId in layers as String::as_str;
    /// The name of a tag.
    tag_name, find_tag: TagId in tags as String::as_str;
    /// The name of a reason.
    reason_name, find_reason: ReasonId in reasons as String::as_str;
    /// The name of an outcome.
    outcome_name, find_outcome: OutcomeId in outcomes as String::as_str;
    /// The name of an attack.
    attack_name, find_attack: AttackId in attacks as Attack::name;
    /// The name of a template.
    template_name, find_template: TemplateId in templates as Template::name;
    /// The name of a status.
    status_name, find_status: StatusId in statuses as Status::name;
    /// The name of a stat.
    stat_name, find_stat: StatId in stats as Stat::name;
    /// The name of a sort of shield.
    shield_name, find_shield: ShieldId in shields as Shield::name;
    /// The name of a step that the host's code takes.
    own_step_name, find_own_step: OwnStepId in own_steps as String::as_str;
    /// The name of a flag.
    flag_name, find_flag: FlagId in flags as String::as_str;
    /// The name of a counter.
    counter_name, find_counter: CounterId in counters as String::as_str;
    /// The name of a score.
    score_name, find_score: ScoreId in scores as String::as_str;
    /// The name of a value that is attached to combatants.
    value_name, find_value: ValueId in values as String::as_str;
    /// The name of a threshold of health.
    threshold_name, find_threshold: ThresholdId in thresholds as String::as_str;
    /// The text of a line.
    line_text, find_line: LineId in lines as String::as_str;
    /// The name of a spot.
    spot_name, find_spot: SpotId in spots as Spot::name;
    /// The name of a sequence of waves.
    waves_name, find_waves: WaveId in waves as Waves::name;
    /// The name of a rule.
    rule_name, find_rule: RuleId in rule_book as Rule::name;
    /// The path of a topic of the host's own.
    host_topic_path, find_host_topic: HostTopicId in host_topics as HostTopic::path;
}

impl Rules {
    /// Ticks in one second.
    pub fn rate(&self) -> u32 {
        self.rate
    }

    /// The axis that points up.
    pub fn up(&self) -> Axis {
        self.up
    }

    /// All attacks, in the order of their ids.
    pub fn attacks(&self) -> &[Attack] {
        &self.attacks
    }

    /// All templates, in the order of their ids.
    pub fn templates(&self) -> &[Template] {
        &self.templates
    }

    /// All statuses, in the order of their ids.
    pub fn statuses(&self) -> &[Status] {
        &self.statuses
    }

    /// All teams, in the order of their ids.
    pub fn teams(&self) -> impl ExactSizeIterator<Item = TeamId> + use<> {
        (0..self.teams.len()).map(TeamId::new)
    }

    /// All damage types, in the order of their ids.
    pub fn damage_types(&self) -> impl ExactSizeIterator<Item = DamageTypeId> + use<> {
        (0..self.damage_types.len()).map(DamageTypeId::new)
    }

    /// All layers, in the order of their ids.
    pub fn layers(&self) -> impl ExactSizeIterator<Item = LayerId> + use<> {
        (0..self.layers.len()).map(LayerId::new)
    }

    /// The tags of a template.
    pub fn tags_of(&self, template: TemplateId) -> impl Iterator<Item = TagId> + '_ {
        let template = self.templates.get(template.index());
        (0..self.tags.len())
            .map(TagId::new)
            .filter(move |&tag| template.is_some_and(|template| template.has_tag(tag)))
    }

    /// All stats, in the order of their ids.
    pub fn stats(&self) -> impl ExactSizeIterator<Item = StatId> + use<> {
        (0..self.stats.len()).map(StatId::new)
    }

    /// All sorts of shields, in the order of their ids.
    pub fn shields(&self) -> impl ExactSizeIterator<Item = ShieldId> + use<> {
        (0..self.shields.len()).map(ShieldId::new)
    }

    /// The tags of a set: bit `n` for tag number `n`.
    pub fn tags_in(&self, set: u64) -> impl Iterator<Item = TagId> + use<> {
        (0..self.tags.len()).filter(move |&tag| set >> tag & 1 == 1).map(TagId::new)
    }

    /// How `team` stands towards `other`; none for teams that this ruleset does not have.
    pub fn relation(&self, team: TeamId, other: TeamId) -> Option<Relation> {
        let known = other.index() < self.teams.len();
        known.then(|| self.relations.get(team.index() * self.teams.len() + other.index()).copied())?
    }

    /// The topics of this ruleset's facts: the fixed ones and one for each damage type.
    pub fn topics(&self) -> &Topics {
        &self.topics
    }

    /// A number that differs between rulesets whose contents differ. States can be restored only
    /// under the ruleset, by this print, that they were saved under.
    pub fn fingerprint(&self) -> u64 {
        self.fingerprint
    }

    /// All rules, in the order of their ids.
    pub fn rules(&self) -> &[Rule] {
        &self.rule_book
    }

    /// All sequences of waves, in the order of their ids.
    pub fn waves(&self) -> &[Waves] {
        &self.waves
    }

    /// Where a spot is; none for one that this ruleset does not have.
    pub fn spot(&self, spot: SpotId) -> Option<Pose> {
        self.spots.get(spot.index()).map(|spot| spot.pose)
    }

    /// The names and sorts of the fields of a topic of the host's own; none for one that this ruleset does not have.
    pub fn host_fields(&self, topic: HostTopicId) -> impl Iterator<Item = (&str, ValueSort)> {
        let fields = self.host_topics.get(topic.index()).map(|topic| &topic.fields);
        fields.into_iter().flatten().map(|(name, sort)| (name.as_str(), *sort))
    }

    /// The steps of the amount, in their order.
    pub fn steps(&self) -> &[Step] {
        &self.steps
    }

    /// Where a spot of a checked ruleset is.
    pub(crate) fn pose_of(&self, spot: SpotId) -> Pose {
        self.spots[spot.index()].pose
    }

    /// How two teams of a running fight stand to each other.
    pub(crate) fn stance(&self, team: TeamId, other: TeamId) -> Relation {
        self.relations[team.index() * self.teams.len() + other.index()]
    }

    pub(crate) fn attack(&self, id: AttackId) -> &Attack {
        &self.attacks[id.index()]
    }

    pub(crate) fn template(&self, id: TemplateId) -> &Template {
        &self.templates[id.index()]
    }

    pub(crate) fn status(&self, id: StatusId) -> &Status {
        &self.statuses[id.index()]
    }
}
