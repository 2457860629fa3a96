//! Building a ruleset and checking it whole.

use std::collections::BTreeMap;

use super::*;
use crate::Fixed;
use crate::geometry::Axis;
use crate::geometry::Pose;
use crate::ids::*;
use crate::ruleset::def::{Definitions, Metres, Rewind};
use crate::ruleset::validate::LARGEST;
use crate::terms::{HostTopic, ValueSort};
use crate::topic::Topics;

/// Collects a ruleset; made by [`Ruleset::builder`].
///
/// The simple lists (damage types, teams, layers, tags, reasons, outcomes) give the same id for the same name;
/// attacks, templates and statuses must each have a name of their own.
/// Nothing is checked until [`build`](RulesetBuilder::build), which then names everything at once.
#[derive(Clone, Debug)]
pub struct RulesetBuilder {
    def: Definitions,
    /// Statuses, attacks, templates and waves whose ids were asked for before they were added, by sort and name.
    promised: BTreeMap<(&'static str, String), usize>,
    /// Where the names of the simple lists stand in them, and those of statuses.
    places: BTreeMap<(&'static str, String), usize>,
}

impl RulesetBuilder {
    pub(super) fn new(rate: u32) -> RulesetBuilder {
        let def = Definitions {
            rate,
            up: Axis::Y,
            damage_types: Vec::new(),
            teams: Vec::new(),
            layers: vec!["body".to_owned()],
            tags: Vec::new(),
            reasons: Vec::new(),
            outcomes: Vec::new(),
            attacks: Vec::new(),
            templates: Vec::new(),
            statuses: Vec::new(),
            stats: Vec::new(),
            shields: Vec::new(),
            gauges: Vec::new(),
            own_steps: Vec::new(),
            steps: Step::ALL.to_vec(),
            heal_steps: HealStep::ALL.to_vec(),
            critical: None,
            relation_shares: [Fixed::ONE; 4],
            armour: Armour::default(),
            overheal: None,
            maximum: None,
            attack_speed: None,
            movement: None,
            death_credit: None,
            hit_stop_limit: rate.saturating_mul(10),
            floor: 0,
            cap: LARGEST,
            rounding: Rounding::Nearest,
            assist_window: rate.saturating_mul(5),
            cascade_depth: 8,
            cascade_per_root: 4096,
            cascade_per_tick: 32_768,
            move_limit: Metres(100.0),
            both_land: false,
            rewind: Rewind(0),
            child_limit: 4,
            host_topics: Vec::new(),
            flags: Vec::new(),
            counters: Vec::new(),
            combatant_flags: Vec::new(),
            combatant_counters: Vec::new(),
            scores: Vec::new(),
            values: Vec::new(),
            thresholds: Vec::new(),
            lines: Vec::new(),
            pools: Vec::new(),
            filters: Vec::new(),
            spots: Vec::new(),
            obstacle_names: Vec::new(),
            words: Vec::new(),
            waves: Vec::new(),
            rule_book: Vec::new(),
            choices: Vec::new(),
            stances: Vec::new(),
        };
        // The layer that is always there.
        let places = BTreeMap::from([(("layers", "body".to_owned()), 0)]);
        RulesetBuilder { def, promised: BTreeMap::new(), places }
    }

    /// So many seconds in ticks, as files have them: the nearest whole tick ([`Ruleset::ticks`]).
    ///
    /// ```
    /// use hammerstone::prelude::*;
    /// let mut b = Ruleset::builder(60);
    /// let [startup, active, recovery] = [0.3, 0.15, 0.4].map(|seconds| b.ticks(seconds));
    /// b.attack(Attack::melee("maul").timeline(startup, active, recovery).hitbox(Shape::Sphere { at: [0.0; 3], radius: 0.1 }));
    /// assert_eq!((startup, active, recovery), (18, 9, 24));
    /// ```
    pub fn ticks(&self, seconds: f64) -> u32 {
        super::read::ticks_of(seconds, self.def.rate)
    }

    /// A damage type.
    pub fn damage_type(&mut self, name: &str) -> DamageTypeId {
        DamageTypeId::new(listed(&mut self.places, "damage-types", &mut self.def.damage_types, name))
    }

    /// A team. Two teams are foes unless [`relate`](Self::relate) says otherwise.
    pub fn team(&mut self, name: &str) -> TeamId {
        TeamId::new(listed(&mut self.places, "teams", &mut self.def.teams, name))
    }

    /// A layer for parts. The first, `body`, is always there.
    pub fn layer(&mut self, name: &str) -> LayerId {
        LayerId::new(listed(&mut self.places, "layers", &mut self.def.layers, name))
    }

    /// A tag.
    pub fn tag(&mut self, name: &str) -> TagId {
        TagId::new(listed(&mut self.places, "tags", &mut self.def.tags, name))
    }

    /// A reason for damage or healing that comes from the host.
    pub fn reason(&mut self, name: &str) -> ReasonId {
        ReasonId::new(listed(&mut self.places, "reasons", &mut self.def.reasons, name))
    }

    /// An outcome with which an encounter may end.
    pub fn outcome(&mut self, name: &str) -> OutcomeId {
        OutcomeId::new(listed(&mut self.places, "outcomes", &mut self.def.outcomes, name))
    }

    /// A topic of the host's own, with the names and sorts of its fields: at most four. Its path begins with `host.`.
    pub fn host_topic(&mut self, path: &str, fields: &[(&str, ValueSort)]) -> HostTopicId {
        let fields = fields.iter().map(|&(name, sort)| (name.to_owned(), sort)).collect();
        self.def.host_topics.push(HostTopic { path: path.to_owned(), fields });
        HostTopicId::new(self.def.host_topics.len() - 1)
    }

    /// A flag, which is down when an encounter begins.
    pub fn flag(&mut self, name: &str) -> FlagId {
        FlagId::new(listed(&mut self.places, "flags", &mut self.def.flags, name))
    }

    /// A name that obstacles may have ([`crate::orders::Orders::name_obstacle`]), for rules that move and clear them.
    pub fn obstacle_name(&mut self, name: &str) -> ObstacleNameId {
        ObstacleNameId::new(listed(&mut self.places, "obstacles", &mut self.def.obstacle_names, name))
    }

    /// A word for conditions of rules: the name of a field as the feed has it, or what it holds
    /// ([`Condition::Field`](crate::flow::Condition::Field)).
    pub fn word(&mut self, word: &str) -> WordId {
        WordId::new(listed(&mut self.places, "words", &mut self.def.words, word))
    }

    /// A counter, which begins at 0.
    pub fn counter(&mut self, name: &str) -> CounterId {
        CounterId::new(listed(&mut self.places, "counters", &mut self.def.counters, name))
    }

    /// A flag that each combatant has, down when it joins. It stays through its lives.
    pub fn combatant_flag(&mut self, name: &str) -> CombatantFlagId {
        let flags = &mut self.def.combatant_flags;
        CombatantFlagId::new(listed(&mut self.places, "combatant-flags", flags, name))
    }

    /// A counter that each combatant has, 0 when it joins. It stays through its lives.
    pub fn combatant_counter(&mut self, name: &str) -> CombatantCounterId {
        let counters = &mut self.def.combatant_counters;
        CombatantCounterId::new(listed(&mut self.places, "combatant-counters", counters, name))
    }

    /// A score, which begins at 0.
    pub fn score(&mut self, name: &str) -> ScoreId {
        ScoreId::new(listed(&mut self.places, "scores", &mut self.def.scores, name))
    }

    /// A value that is attached to combatants, and stands in the record of their death.
    pub fn value(&mut self, name: &str) -> ValueId {
        ValueId::new(listed(&mut self.places, "values", &mut self.def.values, name))
    }

    /// A threshold of health; templates say at which share they have it.
    pub fn threshold(&mut self, name: &str) -> ThresholdId {
        ThresholdId::new(listed(&mut self.places, "thresholds", &mut self.def.thresholds, name))
    }

    /// A line that rules may let someone say.
    pub fn line(&mut self, line: impl Into<Line>) -> LineId {
        let (line, lines) = (line.into(), &mut self.def.lines);
        let known = lines.iter().position(|known| *known == line);
        LineId::new(known.unwrap_or_else(|| {
            lines.push(line);
            lines.len() - 1
        }))
    }

    /// A named place of the ground.
    pub fn spot(&mut self, name: &str, pose: Pose) -> SpotId {
        self.def.spots.push(Spot { name: name.to_owned(), pose });
        SpotId::new(self.def.spots.len() - 1)
    }

    /// A sequence of waves.
    pub fn waves(&mut self, waves: Waves) -> WaveId {
        let promised = self.promised.remove(&("waves", waves.name.clone()));
        WaveId::new(keep_promise(promised, &mut self.def.waves, waves))
    }

    /// A rule.
    pub fn rule(&mut self, rule: Rule) -> RuleId {
        self.def.rule_book.push(rule);
        RuleId::new(self.def.rule_book.len() - 1)
    }

    /// Rules of which at most one fires for a fact: the first that fits, from the top. They hear the same, at one priority. A case whose limit
    /// is spent does not fit.
    pub fn choice(&mut self, name: &str, cases: impl IntoIterator<Item = Rule>) -> Vec<RuleId> {
        let choice = ChoiceId::new(self.def.choices.len());
        self.def.choices.push(name.to_owned());
        cases.into_iter().map(|case| self.rule(Rule { choice: Some(choice), ..case })).collect()
    }

    /// Both teams stand in `relation` to each other.
    pub fn relate(&mut self, one: TeamId, other: TeamId, relation: Relation) -> &mut Self {
        self.def.stances.push((one, other, relation));
        self
    }

    /// An attack.
    pub fn attack(&mut self, attack: Attack) -> AttackId {
        let promised = self.promised.remove(&("attack", attack.name.clone()));
        AttackId::new(keep_promise(promised, &mut self.def.attacks, attack))
    }

    /// A template.
    pub fn template(&mut self, template: Template) -> TemplateId {
        let promised = self.promised.remove(&("template", template.name.clone()));
        TemplateId::new(keep_promise(promised, &mut self.def.templates, template))
    }

    /// The id of a status that is added later, for others that name it first.
    pub fn promise_status(&mut self, name: &str) -> StatusId {
        if let Some(&known) = self.places.get(&("status", name.to_owned())) {
            return StatusId::new(known);
        }
        let id = StatusId::new(self.def.statuses.len());
        self.places.insert(("status", name.to_owned()), id.index());
        self.def.statuses.push(Status::new(name));
        self.promised.insert(("status", name.to_owned()), id.index());
        id
    }

    /// The id of an attack that is added later, for conditions that name it first.
    pub fn promise_attack(&mut self, name: &str) -> AttackId {
        let attack = Attack::melee(name);
        AttackId::new(promise(&mut self.promised, ("attack", name), &mut self.def.attacks, attack))
    }

    /// The id of a template that is added later, for conditions that name it first.
    pub fn promise_template(&mut self, name: &str) -> TemplateId {
        let template = Template::new(name, TeamId::new(0), 1);
        TemplateId::new(promise(&mut self.promised, ("template", name), &mut self.def.templates, template))
    }

    /// The id of a sequence of waves that is added later, for conditions that name it first.
    pub fn promise_waves(&mut self, name: &str) -> WaveId {
        let waves = Waves::new(name, TemplateId::new(0), 1, 1);
        WaveId::new(promise(&mut self.promised, ("waves", name), &mut self.def.waves, waves))
    }

    /// A status.
    pub fn status(&mut self, status: Status) -> StatusId {
        if let Some(place) = self.promised.remove(&("status", status.name.clone())) {
            self.def.statuses[place] = status;
            return StatusId::new(place);
        }
        let place = self.def.statuses.len();
        self.places.entry(("status", status.name.clone())).or_insert(place);
        self.def.statuses.push(status);
        StatusId::new(place)
    }

    /// A stat, and what it is for those whose template says nothing of it.
    pub fn stat(&mut self, name: &str, base: Fixed) -> StatId {
        self.def.stats.push(Stat { name: name.to_owned(), base });
        StatId::new(self.def.stats.len() - 1)
    }

    /// A sort of shield. Of several that someone has, the one that was added first is spent first.
    pub fn shield(&mut self, shield: Shield) -> ShieldId {
        self.def.shields.push(shield);
        ShieldId::new(self.def.shields.len() - 1)
    }

    /// A gauge beside health, for templates that name it.
    pub fn gauge(&mut self, gauge: Gauge) -> GaugeId {
        self.def.gauges.push(gauge);
        GaugeId::new(self.def.gauges.len() - 1)
    }

    /// A pool of health, for templates that [share](Template::pool) it.
    pub fn pool(&mut self, pool: Pool) -> PoolId {
        self.def.pools.push(pool);
        PoolId::new(self.def.pools.len() - 1)
    }

    /// A filter, for subscriptions that [fit](crate::hooks::Listen::fitting) it.
    pub fn filter(&mut self, filter: Filter) -> FilterId {
        self.def.filters.push(filter);
        FilterId::new(self.def.filters.len() - 1)
    }

    /// A step that the host's code takes ([`crate::hooks::Hooks::step`]); its place is among [`steps`](Self::steps).
    pub fn own_step(&mut self, name: &str) -> OwnStepId {
        OwnStepId::new(listed(&mut self.places, "own_steps", &mut self.def.own_steps, name))
    }

    /// The axis that points up; +Y unless said.
    pub fn up(&mut self, axis: Axis) -> &mut Self {
        self.def.up = axis;
        self
    }

    /// The steps of the amount, in their order. Base comes first and rounding last, but for shields.
    pub fn steps(&mut self, steps: &[Step]) -> &mut Self {
        self.def.steps = steps.to_vec();
        self
    }

    /// The steps of healing, in their order. Base comes first and rounding last.
    pub fn heal_steps(&mut self, steps: &[HealStep]) -> &mut Self {
        self.def.heal_steps = steps.to_vec();
        self
    }

    /// Chance and weight of critical blows, for attacks that have none of their own. None unless said.
    pub fn critical(&mut self, critical: Critical) -> &mut Self {
        self.def.critical = Some(critical);
        self
    }

    /// The share of damage that teams in `relation` do each other; 1 unless said.
    pub fn relation_share(&mut self, relation: Relation, share: Fixed) -> &mut Self {
        self.def.relation_shares[relation as usize] = share;
        self
    }

    /// What armour is.
    pub fn armour(&mut self, armour: Armour) -> &mut Self {
        self.def.armour = armour;
        self
    }

    /// What becomes of healing beyond the maximum.
    pub fn overheal(&mut self, overheal: Overheal) -> &mut Self {
        self.def.overheal = Some(overheal);
        self
    }

    /// A stat is the speed of its bearer's swings: at 1 they go as they are written, at 0.5 half as fast, at 2 (the most) twice. Its base should
    /// be 1. It is read in each tick, for swings that have not left the hand.
    pub fn attack_speed(&mut self, stat: StatId) -> &mut Self {
        self.def.attack_speed = Some(stat);
        self
    }

    /// A stat says how fast its bearer goes, against how it goes by itself. The host moves combatants, and reads it with
    /// [`View::pace`](crate::View::pace). Its base should be 1.
    pub fn movement(&mut self, stat: StatId) -> &mut Self {
        self.def.movement = Some(stat);
        self
    }

    /// The whole points of a stat are added to everyone's maximum of health. The stat's base should be 0.
    pub fn maximum(&mut self, stat: StatId, keep: Keep) -> &mut Self {
        self.def.maximum = Some((stat, keep));
        self
    }

    /// A death by damage without a source is credited to the one who damaged the dead last, within `ticks`. No one unless said.
    pub fn death_credit(&mut self, ticks: u32) -> &mut Self {
        self.def.death_credit = Some(ticks);
        self
    }

    /// By how many ticks stops may put off the end of a swing in all; ten seconds unless said. Then it expires.
    pub fn hit_stop_limit(&mut self, ticks: u32) -> &mut Self {
        self.def.hit_stop_limit = ticks;
        self
    }

    /// The least and the most that damage of one damage type in one blow may be, in points.
    pub fn limits(&mut self, floor: i64, cap: i64) -> &mut Self {
        (self.def.floor, self.def.cap) = (floor, cap);
        self
    }

    /// How exact amounts become whole points.
    pub fn rounding(&mut self, rounding: Rounding) -> &mut Self {
        self.def.rounding = rounding;
        self
    }

    /// All that damaged the dead within `ticks` before the death get an assist, except the killer.
    pub fn assist_window(&mut self, ticks: u32) -> &mut Self {
        self.def.assist_window = ticks;
        self
    }

    /// How deep facts may lead to orders that lead to facts; and how many reactions may follow from one root and in one tick.
    ///
    /// A root is what begins by itself: an order of the host, a blow, a pulse, an expiry, a delayed action, a wave. Reactions are
    /// statuses that are given on an occasion, prevented deaths, damage that is passed on, firings and reactions of rules, orders of hooks
    /// and child attacks, one for each single target. What an attack or a status declares for its own hit is free, and endings are
    /// never cut. What goes beyond a limit does not begin, and is reported once for each place (`encounter.cut`).
    ///
    /// Unless said 8, 4096 and 32 768. As many delayed reactions may wait at a time as may follow in one tick.
    pub fn cascade_limit(&mut self, depth: u16, per_root: u32, per_tick: u32) -> &mut Self {
        let rules = &mut self.def;
        (rules.cascade_depth, rules.cascade_per_root, rules.cascade_per_tick) = (depth, per_root, per_tick);
        self
    }

    /// How far one move may go in one tick, in metres. What must go farther is teleported.
    pub fn move_limit(&mut self, metres: f32) -> &mut Self {
        self.def.move_limit = Metres(metres);
        self
    }

    /// What becomes of two blows of one tick whose attackers killed each other. Unless said, the earlier impact wins: the
    /// dead one's swing has ended. If both land, meetings that were found from swings running at stage 4 resolve
    /// although their attacker died in this tick; nothing else of the dead does.
    pub fn both_land(&mut self, both: bool) -> &mut Self {
        self.def.both_land = both;
        self
    }

    /// By how many ticks swings may be rewound ([`crate::orders::Orders::rewind`]), at most 1000; unless said, none. The encounter then keeps where all
    /// who can be struck were in so many ticks: that is part of its state, and of saves.
    pub fn rewind(&mut self, ticks: u32) -> &mut Self {
        self.def.rewind = Rewind(ticks);
        self
    }

    /// How many attacks may start each other in a row ([`Attack::child`]); the next is cut.
    pub fn child_limit(&mut self, limit: u16) -> &mut Self {
        self.def.child_limit = limit;
        self
    }

    /// The topics of facts as they are declared so far.
    pub fn topics(&self) -> Topics {
        Topics::new(&self.def.damage_types, &self.def.host_topics)
    }

    /// Checks everything and makes the ruleset.
    ///
    /// *Errors:* all [`Findings`] at once, each with its place and fix.
    pub fn build(self) -> Result<Ruleset, Findings> {
        let mut found = Check::of(&self.def);
        for (sort, name) in self.promised.into_keys() {
            found.promised(sort, &name);
        }
        if found.found.is_empty() {
            Ok(Ruleset::new(Rules::new(self.def)))
        } else {
            Err(Findings(found.found))
        }
    }
}

/// The place of what is added later; until then a stand-in is there.
fn promise<T>(
    promised: &mut BTreeMap<(&'static str, String), usize>,
    (sort, name): (&'static str, &str),
    list: &mut Vec<T>,
    stand_in: T,
) -> usize {
    *promised.entry((sort, name.to_owned())).or_insert_with(|| {
        list.push(stand_in);
        list.len() - 1
    })
}

/// Puts one in the place that was promised, or at the end.
fn keep_promise<T>(promised: Option<usize>, list: &mut Vec<T>, one: T) -> usize {
    match promised {
        Some(place) => {
            list[place] = one;
            place
        }
        None => {
            list.push(one);
            list.len() - 1
        }
    }
}

/// The place of `name` in a list, at whose end it is added if it is not there.
fn listed(
    places: &mut BTreeMap<(&'static str, String), usize>,
    sort: &'static str,
    list: &mut Vec<String>,
    name: &str,
) -> usize {
    *places.entry((sort, name.to_owned())).or_insert_with(|| {
        list.push(name.to_owned());
        list.len() - 1
    })
}
