//! Reading a ruleset: names, lists and numbers.

use crate::terms::Spoken;
use std::collections::BTreeMap;

use super::compile::topics_of;
use super::*;
use crate::geometry::{Axis, Pose};
use crate::ids::*;
use crate::ruleset::def::Definitions;
use crate::terms::{HostTopic, ValueSort};
use crate::topic::Topics;

/// The names of a list, in the order of their ids.
#[cfg(feature = "serde")]
#[derive(Clone, PartialEq, Eq, Debug)]
pub(crate) struct NameList {
    /// What it is a list of.
    pub(crate) list: &'static str,
    /// The sort of its ids; empty where its numbers are none.
    pub(crate) ids: &'static str,
    pub(crate) names: Vec<String>,
}

/// Names, of which a second one of the same (two lines may have one text) has its number with it, after a sign that no name has.
#[cfg(feature = "serde")]
fn told_apart(names: impl Iterator<Item = String>) -> Vec<String> {
    let mut seen: BTreeMap<String, u32> = BTreeMap::new();
    let one = |name: String| {
        let count = seen.entry(name.clone()).or_default();
        *count += 1;
        if *count == 1 { name } else { format!("{name}\u{1f}{count}") }
    };
    names.map(one).collect()
}

/// Where each name of each list stands.
pub(super) type Names = BTreeMap<&'static str, BTreeMap<String, usize>>;

macro_rules! name_lookups {
    ($($(#[$doc:meta])* $name:ident, $find:ident: $id:ident in $list:ident as $text:expr);* $(;)?) => {
        /// Where each name of each list stands, of two of one name the first.
        pub(super) fn places_of_names(def: &Definitions) -> Names {
                let mut all = BTreeMap::new();
                $(
                    let names = def.$list.iter().enumerate().rev();
                    let names = names.map(|(place, entry)| ($text(entry).to_owned(), place)).collect();
                    all.insert(stringify!($list), names);
                )*
                all
        }

        impl Ruleset {
            /// The names of each list, with the sort of its ids.
            #[cfg(feature = "serde")]
            pub(super) fn defined_names(&self) -> Vec<NameList> {
                let mut all = Vec::new();
                $(
                    let names = told_apart(self.0.$list.iter().map(|entry| $text(entry).to_owned()));
                    all.push(NameList { list: stringify!($list), ids: stringify!($id), names });
                )*
                all
            }

            /// Definitions in another order: by list, for each the place at which it stands here.
            #[cfg(feature = "serde")]
            pub(super) fn reordered(&self, places: &BTreeMap<&str, Vec<usize>>) -> Definitions {
                let mut def = self.0.definitions().clone();
                $(
                    if let Some(places) = places.get(stringify!($list)) {
                        def.$list = places.iter().map(|&place| self.0.$list[place].clone()).collect();
                    }
                )*
                def
            }
        $(
            $(#[$doc])*
            ///
            /// None for an id that this ruleset does not have.
            pub fn $name(&self, id: $id) -> Option<&str> {
                self.0.$list.get(id.index()).map(|entry| $text(entry))
            }

            /// The id of a name, if this ruleset has it.
            pub fn $find(&self, name: &str) -> Option<$id> {
                let places = self.0.places.get(stringify!($list))?;
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
    /// The name of a gauge beside health.
    gauge_name, find_gauge: GaugeId in gauges as Gauge::name;
    /// The name of a filter.
    filter_name, find_filter: FilterId in filters as Filter::name;
    /// The name of a pool of health.
    pool_name, find_pool: PoolId in pools as Pool::name;
    /// The name of a step that the host's code takes.
    own_step_name, find_own_step: OwnStepId in own_steps as String::as_str;
    /// The name of a flag.
    flag_name, find_flag: FlagId in flags as String::as_str;
    /// The name of a counter.
    counter_name, find_counter: CounterId in counters as String::as_str;
    /// The name of a flag that each combatant has.
    combatant_flag_name, find_combatant_flag: CombatantFlagId in combatant_flags as String::as_str;
    /// The name of a counter that each combatant has.
    combatant_counter_name, find_combatant_counter: CombatantCounterId in combatant_counters as String::as_str;
    /// The name of a choice.
    choice_name, find_choice: ChoiceId in choices as String::as_str;
    /// The name of a score.
    score_name, find_score: ScoreId in scores as String::as_str;
    /// The name of a value that is attached to combatants.
    value_name, find_value: ValueId in values as String::as_str;
    /// The name of a threshold of health.
    threshold_name, find_threshold: ThresholdId in thresholds as String::as_str;
    /// The text of a line.
    line_text, find_line: LineId in lines as Line::text;
    /// The name of a spot.
    word, find_word: WordId in words as String::as_str;
    /// A name that obstacles may have.
    obstacle_name, find_obstacle_name: ObstacleNameId in obstacle_names as String::as_str;
    /// The name of a spot.
    spot_name, find_spot: SpotId in spots as Spot::name;
    /// The name of a sequence of waves.
    waves_name, find_waves: WaveId in waves as Waves::name;
    /// The name of a rule.
    rule_name, find_rule: RuleId in rule_book as Rule::name;
    /// The path of a topic of the host's own.
    host_topic_path, find_host_topic: HostTopicId in host_topics as HostTopic::path;
}

impl Ruleset {
    /// All words that rules, filters and topics name, in the order of their ids.
    pub fn words(&self) -> impl Iterator<Item = &str> {
        self.0.words.iter().map(String::as_str)
    }

    /// Whether a filter is for facts of a topic.
    pub fn lets(&self, filter: FilterId, topic: TopicId) -> bool {
        let by_topic = self.0.filters_by_topic.get(filter.index());
        by_topic.and_then(|topics| topics.get(topic.index())).copied().unwrap_or(false)
    }

    /// A line.
    pub fn line(&self, id: LineId) -> Option<&Line> {
        self.0.lines.get(id.index())
    }

    /// The text of what is said, with names and numbers filled in. `name` gives the name of a combatant.
    pub fn spoken(&self, spoken: &Spoken, name: impl FnMut(CombatantId) -> String) -> String {
        self.line(spoken.line).map_or_else(String::new, |line| line.filled(spoken, name))
    }

    /// What combatants of a template have of health at most when they join: its own, or that of its pool. 0 for an id of another ruleset.
    pub fn health_of(&self, template: TemplateId) -> i64 {
        self.0.templates.get(template.index()).map_or(0, |_| self.0.own_health(template))
    }

    /// Ticks in one second.
    pub fn rate(&self) -> u32 {
        self.0.rate
    }

    /// How far anyone may move in a tick, and a guided hitbox be from its body, in metres.
    pub fn move_limit(&self) -> f32 {
        self.0.move_limit.0
    }

    /// By how many ticks swings may be rewound.
    pub fn rewind(&self) -> u32 {
        self.0.rewind.0
    }

    /// So many seconds in ticks, as files have them: the nearest whole tick. A time that is negative or no number is 0, one beyond all ticks the
    /// last.
    ///
    /// ```
    /// use hammerstone::prelude::*;
    /// let rules = Ruleset::builder(60).build().unwrap();
    /// assert_eq!(rules.ticks(0.4), 24);
    /// ```
    pub fn ticks(&self, seconds: f64) -> u32 {
        ticks_of(seconds, self.rate())
    }

    /// So many ticks in seconds.
    pub fn seconds(&self, ticks: u32) -> f64 {
        f64::from(ticks) / f64::from(self.rate())
    }

    /// The axis that points up.
    pub fn up(&self) -> Axis {
        self.0.up
    }

    /// All attacks, in the order of their ids.
    pub fn attacks(&self) -> &[Attack] {
        &self.0.attacks
    }

    /// All templates, in the order of their ids.
    pub fn templates(&self) -> &[Template] {
        &self.0.templates
    }

    /// All statuses, in the order of their ids.
    pub fn statuses(&self) -> &[Status] {
        &self.0.statuses
    }

    /// All teams, in the order of their ids.
    pub fn teams(&self) -> impl ExactSizeIterator<Item = TeamId> + use<> {
        (0..self.0.teams.len()).map(TeamId::new)
    }

    /// All damage types, in the order of their ids.
    pub fn damage_types(&self) -> impl ExactSizeIterator<Item = DamageTypeId> + use<> {
        (0..self.0.damage_types.len()).map(DamageTypeId::new)
    }

    /// All layers, in the order of their ids.
    pub fn layers(&self) -> impl ExactSizeIterator<Item = LayerId> + use<> {
        (0..self.0.layers.len()).map(LayerId::new)
    }

    /// The tags of a template.
    pub fn tags_of(&self, template: TemplateId) -> impl Iterator<Item = TagId> + '_ {
        let template = self.0.templates.get(template.index());
        (0..self.0.tags.len())
            .map(TagId::new)
            .filter(move |&tag| template.is_some_and(|template| template.has_tag(tag)))
    }

    /// All stats, in the order of their ids.
    pub fn stats(&self) -> impl ExactSizeIterator<Item = StatId> + use<> {
        (0..self.0.stats.len()).map(StatId::new)
    }

    /// All sorts of shields, in the order of their ids.
    pub fn shields(&self) -> impl ExactSizeIterator<Item = ShieldId> + use<> {
        (0..self.0.shields.len()).map(ShieldId::new)
    }

    /// The tags of a set: bit `n` for tag number `n`.
    pub fn tags_in(&self, set: u64) -> impl Iterator<Item = TagId> + use<> {
        (0..self.0.tags.len()).filter(move |&tag| set >> tag & 1 == 1).map(TagId::new)
    }

    /// How `team` stands towards `other`; none for teams that this ruleset does not have.
    pub fn relation(&self, team: TeamId, other: TeamId) -> Option<Relation> {
        let known = other.index() < self.0.teams.len();
        (known && team.index() < self.0.teams.len()).then(|| self.0.stance(team, other))
    }

    /// The topics of this ruleset's facts: the fixed ones and one for each damage type.
    pub fn topics(&self) -> &Topics {
        &self.0.topics
    }

    /// A number that differs between rulesets whose contents differ. States can be restored only
    /// under the ruleset, by this print, that they were saved under.
    pub fn fingerprint(&self) -> u64 {
        self.0.fingerprint
    }

    /// All rules, in the order of their ids.
    pub fn rules(&self) -> &[Rule] {
        &self.0.rule_book
    }

    /// All flags, in the order of their ids.
    pub fn flags(&self) -> impl ExactSizeIterator<Item = FlagId> + use<> {
        (0..self.0.flags.len()).map(FlagId::new)
    }

    /// All counters, in the order of their ids.
    pub fn counters(&self) -> impl ExactSizeIterator<Item = CounterId> + use<> {
        (0..self.0.counters.len()).map(CounterId::new)
    }

    /// All scores, in the order of their ids.
    pub fn scores(&self) -> impl ExactSizeIterator<Item = ScoreId> + use<> {
        (0..self.0.scores.len()).map(ScoreId::new)
    }

    /// All flags that each combatant has, in the order of their ids.
    pub fn combatant_flags(&self) -> impl ExactSizeIterator<Item = CombatantFlagId> + use<> {
        (0..self.0.combatant_flags.len()).map(CombatantFlagId::new)
    }

    /// All counters that each combatant has, in the order of their ids.
    pub fn combatant_counters(&self) -> impl ExactSizeIterator<Item = CombatantCounterId> + use<> {
        (0..self.0.combatant_counters.len()).map(CombatantCounterId::new)
    }

    /// All gauges, in the order of their ids.
    pub fn gauges(&self) -> impl ExactSizeIterator<Item = GaugeId> + use<> {
        (0..self.0.gauges.len()).map(GaugeId::new)
    }

    /// A reading as files write it, such as `subject.health.share` or `fact.amount`.
    pub fn reading_name(&self, reading: Reading) -> String {
        let name = |name: Option<&str>| name.unwrap_or_default().to_owned();
        match reading {
            Reading::Field(word) => format!("fact.{}", name(self.word(word))),
            Reading::Health(party, Portion::Points) => format!("{}.health", party.name()),
            Reading::Health(party, Portion::Share) => format!("{}.health.share", party.name()),
            Reading::Health(party, Portion::Maximum) => format!("{}.health.max", party.name()),
            Reading::Stat(party, stat) => format!("{}.stat.{}", party.name(), name(self.stat_name(stat))),
            Reading::Counter(counter) => format!("counter.{}", name(self.counter_name(counter))),
            Reading::CombatantCounter(party, counter) => {
                format!("{}.counter.{}", party.name(), name(self.combatant_counter_name(counter)))
            }
            Reading::Score(score) => format!("score.{}", name(self.score_name(score))),
            Reading::Gauge(party, gauge, portion) => {
                let portion = match portion {
                    Portion::Points => "",
                    Portion::Share => ".share",
                    Portion::Maximum => ".max",
                };
                format!("{}.{}{portion}", party.name(), name(self.gauge_name(gauge)))
            }
            Reading::Distance => "distance".to_owned(),
        }
    }

    /// All sequences of waves, in the order of their ids.
    pub fn waves(&self) -> &[Waves] {
        &self.0.waves
    }

    /// Where a spot is; none for one that this ruleset does not have.
    pub fn spot(&self, spot: SpotId) -> Option<Pose> {
        self.0.spots.get(spot.index()).map(|_| self.0.pose_of(spot))
    }

    /// The names and sorts of the fields of a topic of the host's own; none for one that this ruleset does not have.
    pub fn host_fields(&self, topic: HostTopicId) -> impl Iterator<Item = (&str, ValueSort)> {
        let fields = self.0.host_topics.get(topic.index()).map(|topic| &topic.fields);
        fields.into_iter().flatten().map(|(name, sort)| (name.as_str(), *sort))
    }

    /// The steps of the amount, in their order.
    pub fn steps(&self) -> &[Step] {
        &self.0.steps
    }

    /// The topics that a rule of this ruleset hears.
    pub fn topics_of(&self, rule: &Rule) -> Vec<TopicId> {
        topics_of(&rule.on, &self.0.topics).unwrap_or_default()
    }
}

/// The nearest whole tick; casting keeps what is out of range at the nearest end.
pub(super) fn ticks_of(seconds: f64, rate: u32) -> u32 {
    (seconds * f64::from(rate)).round() as u32
}
