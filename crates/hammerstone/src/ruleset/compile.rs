//! A ruleset as a tick uses it: what was defined, and what is worked out from it once.

use std::collections::BTreeMap;
use std::ops::Deref;

use glam::Vec3;

use super::steps_taken::StepsTaken;
use super::*;
use crate::checksum::checksum;
use crate::geometry::{Core, Placement, Pose, Shape};
use crate::ids::*;
use crate::rolls::name_key;
use crate::ruleset::def::{Definitions, On, Path, Threshold};
use crate::topic::Topics;

/// The contents of a [`Ruleset`].
#[derive(Clone, Debug)]
pub(crate) struct Rules {
    /// What was defined.
    def: Definitions,
    attack_plans: Vec<AttackPlan>,
    template_plans: Vec<TemplatePlan>,
    /// Stable keys of statuses and damage types, for rolls.
    pub(crate) status_keys: Vec<u64>,
    pub(crate) damage_type_keys: Vec<u64>,
    /// How each team stands to each, by rows.
    relations: Vec<Relation>,
    spot_poses: Vec<Pose>,
    pub(crate) uses: Uses,
    pub(crate) steps_taken: StepsTaken,
    /// For each topic the rules that hear it, in the order in which they do.
    pub(crate) rules_by_topic: Vec<Vec<RuleId>>,
    /// By filter and topic, whether facts of that may fit.
    pub(crate) filters_by_topic: Vec<Vec<bool>>,
    /// Thresholds of gauges, the highest first.
    pub(crate) gauge_thresholds: Vec<Vec<Threshold>>,
    /// What rules read and roll.
    pub(crate) rule_plans: Vec<RulePlan>,
    /// The topics of which conditions ask how long ago a fact was; and for each topic its place among them.
    pub(crate) remembered: Vec<(WordId, TopicId)>,
    pub(crate) remembers: Vec<Option<u16>>,
    pub(crate) topics: Topics,
    pub(crate) fingerprint: u64,
    /// Where each name of each list stands.
    pub(super) places: Names,
}

impl Deref for Rules {
    type Target = Definitions;

    fn deref(&self) -> &Definitions {
        &self.def
    }
}

/// An attack as the tick uses it.
#[derive(Clone, Debug)]
pub(crate) struct AttackPlan {
    /// The stable key of its name, for rolls.
    pub(crate) key: u64,
    pub(crate) windows: Vec<Window>,
    /// From start to end where the clock decides, and the guaranteed end where markers do; without a charge.
    pub(crate) total: u32,
    /// When the attacker's hands are free again.
    pub(crate) frees: u32,
    pub(crate) path: Path,
    /// Its hitboxes, each with its group.
    pub(crate) cores: Vec<(Core, u16)>,
    /// The attack that follows it in a chain.
    pub(crate) next: Option<AttackId>,
    pub(crate) children: Vec<(When, AttackId)>,
    /// The key of its cooldown, which attacks of one group share.
    pub(crate) cooldown: Option<u16>,
    pub(crate) cancels: Vec<CancelPlan>,
}

/// A stretch of a swing in which others may take its place.
#[derive(Clone, Debug)]
pub(crate) struct CancelPlan {
    pub(crate) into: Vec<AttackId>,
    pub(crate) from: u32,
    pub(crate) to: u32,
    pub(crate) on: CancelOn,
}

/// A rule as the tick uses it.
#[derive(Clone, Debug)]
pub(crate) struct RulePlan {
    /// The stable key of its name, for rolls.
    pub(crate) key: u64,
    /// From which of its conditions on they roll.
    pub(crate) rolls_from: usize,
    /// What its amounts are made of, in the order of what it does.
    pub(crate) readings: Vec<Reading>,
    /// For each thing that it does the first of them.
    pub(crate) firsts: Vec<u16>,
}

impl RulePlan {
    fn of(rule: &Rule) -> RulePlan {
        let (mut readings, mut firsts) = (Vec::new(), Vec::new());
        for one in &rule.does {
            firsts.push(readings.len() as u16);
            readings.extend(one.action.amounts().flat_map(Amount::readings));
        }
        let rolls_from = rule.when.iter().position(Condition::rolls).unwrap_or(rule.when.len());
        RulePlan { key: name_key(&rule.name), rolls_from, readings, firsts }
    }
}

/// The topics of which conditions ask how long ago a fact was. What names no topic is a finding.
fn remembered(def: &Definitions, topics: &Topics) -> Vec<(WordId, TopicId)> {
    let mut all: Vec<(WordId, TopicId)> = Vec::new();
    let of_filters = def.filters.iter().flat_map(|filter| &filter.when);
    let of_rules = def.rule_book.iter().flat_map(|rule| &rule.when).chain(of_filters);
    let inflicted = def.attacks.iter().flat_map(|attack| attack.inflicts.iter().chain(&attack.inflicts_self));
    let of_templates = def.templates.iter().flat_map(|template| &template.grants);
    let granted = of_templates.chain(def.statuses.iter().flat_map(|status| &status.grants));
    let given = inflicted.flat_map(|given| &given.when).chain(granted.flat_map(|grant| &grant.when));
    for condition in of_rules.chain(given).flat_map(Condition::with_inner) {
        if let Condition::Since(path, ..) = *condition
            && let Some(topic) = def.words.get(path.index()).and_then(|path| topics.find(path))
            && !all.iter().any(|(known, _)| *known == path)
        {
            all.push((path, topic));
        }
    }
    all
}

/// A stretch of a swing in which its hitboxes are open, in ticks from the swing's start.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub(crate) struct Window {
    pub(crate) opens: u32,
    pub(crate) closes: u32,
}

/// A template as the tick uses it.
#[derive(Clone, Debug)]
pub(crate) struct TemplatePlan {
    /// The stable key of its name, for rolls.
    pub(crate) key: u64,
    pub(crate) parts: Vec<PartPlan>,
    /// The layers of its parts: bit `n` for layer number `n`.
    pub(crate) layers: u32,
    pub(crate) bounds: Bounds,
    /// Thresholds of health, the highest first.
    pub(crate) thresholds: Vec<Threshold>,
}

impl TemplatePlan {
    /// The farthest that any part reaches from the origin of its own frame, in metres.
    pub(crate) fn about(&self) -> f32 {
        self.parts.iter().fold(0.0, |most, part| if part.about > most { part.about } else { most })
    }
}

/// A part as detection uses it.
#[derive(Clone, Debug)]
pub(crate) struct PartPlan {
    pub(crate) layer: LayerId,
    core: Core,
    /// What it is once it is broken; none if it is gone then.
    broken: Option<Core>,
    /// Both, in the frame of the body, while the part has not been posed.
    still: (Core, Option<Core>),
    /// The radius of a ball about the origin of its frame that holds it, whole or broken, whatever way it is turned. A little wider than
    /// need be, so that no touch is lost to rounding.
    pub(crate) about: f32,
}

impl PartPlan {
    /// Its hitbox in the frame of its pose; none if it is broken and gone.
    pub(crate) fn core_when(&self, broken: bool) -> Option<&Core> {
        if broken { self.broken.as_ref() } else { Some(&self.core) }
    }

    /// Its hitbox in the frame of a body that has not been posed; none if it is broken and gone.
    pub(crate) fn still_when(&self, broken: bool) -> Option<&Core> {
        if broken { self.still.1.as_ref() } else { Some(&self.still.0) }
    }
}

/// What holds every part of a template, in metres about the combatant's place. A little wider than need be, so that no touch is
/// lost to rounding.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Bounds {
    /// Whatever way it is turned.
    pub(crate) reach: f32,
    /// From the up axis through its place, and from where to where along it, if it is turned about that axis alone.
    pub(crate) wide: f32,
    pub(crate) low: f32,
    pub(crate) high: f32,
}

impl Bounds {
    /// So many times as large.
    pub(crate) fn scaled(&self, size: f32) -> Bounds {
        Bounds {
            reach: self.reach * size,
            wide: self.wide * size,
            low: self.low * size,
            high: self.high * size,
        }
    }

    fn of(parts: &[PartPlan], up: usize) -> Bounds {
        const SLACK: f32 = 0.002;
        let mut bounds = Bounds::default();
        let broken = parts.iter().filter_map(|part| part.still_when(true));
        for (i, core) in parts.iter().map(|part| &part.still.0).chain(broken).enumerate() {
            let slack = core.radius + SLACK + core.size * 0.002;
            let (middle, half) = core.at(Placement::from(Pose::IDENTITY)).bounds();
            let (low, high) = (middle - half - Vec3::splat(slack), middle + half + Vec3::splat(slack));
            let corner = |axis: usize| if axis == up { 0.0 } else { farther(low[axis], high[axis]) };
            let wide = Vec3::new(corner(0), corner(1), corner(2)).length();
            bounds.reach = farther(bounds.reach, core.reach + slack);
            bounds.wide = farther(bounds.wide, wide);
            bounds.low = if i == 0 || low[up] < bounds.low { low[up] } else { bounds.low };
            bounds.high = if i == 0 || high[up] > bounds.high { high[up] } else { bounds.high };
        }
        bounds
    }
}

/// The one that is farther from 0, without its sign.
fn farther(one: f32, other: f32) -> f32 {
    let (one, other) = (one.abs(), other.abs());
    if other > one { other } else { one }
}

/// What anything in a ruleset does at all, so that no one looks for what is not there.
#[derive(Clone, Debug, Default)]
pub(crate) struct Uses {
    /// Flows that are changed.
    pub(crate) flows: [bool; 4],
    /// Stats that statuses change.
    pub(crate) stats: Vec<bool>,
    pub(crate) adds_tags: bool,
    /// Whether a status hides or shows parts.
    pub(crate) hides_parts: bool,
    pub(crate) invulnerable: bool,
    /// Whether any parries or deflects.
    pub(crate) parries: bool,
    /// Whether a status protects a gauge, a gauge follows a stat or fills by itself.
    pub(crate) protects: bool,
    pub(crate) limits_taken: bool,
    pub(crate) roots: bool,
    pub(crate) stuns: bool,
    pub(crate) gauge_stats: bool,
    pub(crate) refills: bool,
    /// Whether an attack costs anything, cools down, has uses, waits, or may be cancelled into others.
    pub(crate) readiness: bool,
    pub(crate) guards: bool,
    pub(crate) prevented_deaths: bool,
    pub(crate) reflects: bool,
    pub(crate) transfers: bool,
    pub(crate) grants: bool,
    pub(crate) live: bool,
}

impl Uses {
    fn of(rules: &Definitions) -> Uses {
        let statuses = &rules.statuses;
        let any = |does: fn(&Status) -> bool| statuses.iter().any(does);
        let mut uses = Uses {
            flows: [false; 4],
            stats: vec![false; rules.stats.len()],
            adds_tags: any(|status| status.adds_tags != 0),
            hides_parts: any(|status| status.hides_parts | status.shows_parts != 0),
            limits_taken: any(|status| status.limits_taken.is_some()),
            roots: any(|status| status.roots),
            stuns: any(|status| status.stuns),
            protects: any(|status| !status.protects.is_empty()),
            gauge_stats: rules.gauges.iter().any(|gauge| matches!(gauge.maximum, GaugeMaximum::Stat(_))),
            refills: rules.gauges.iter().any(|gauge| gauge.refill.is_some()),
            readiness: rules.attacks.iter().any(|attack| {
                let answers = !attack.costs.is_empty() || !attack.cancels.is_empty() || attack.buffer > 0;
                answers || attack.cooldown.is_some() || attack.uses.is_some()
            }),
            invulnerable: any(|status| status.invulnerable),
            parries: any(|status| status.parries.is_some() || status.deflects.is_some()),
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

impl AttackPlan {
    /// The window that is open in the tick that begins `clock` ticks after the start, from 0.
    pub(crate) fn open_window(&self, clock: u32) -> Option<u16> {
        let open = self.windows.iter().position(|w| (w.opens..w.closes).contains(&clock))?;
        Some(open as u16)
    }

    fn of(attack: &Attack, ids: &BTreeMap<&str, AttackId>) -> AttackPlan {
        let mut clock = 0u32;
        let windows = attack.gaps.iter().map(|&[gap, window]| {
            let opens = clock.saturating_add(gap);
            clock = opens.saturating_add(window);
            Window { opens, closes: clock }
        });
        let windows = windows.collect();
        let end = attack.marked.unwrap_or(clock.saturating_add(attack.recovery));
        let mut plan = AttackPlan {
            key: name_key(&attack.name),
            windows,
            total: end,
            frees: end,
            path: attack.path.settled(),
            cores: attack.hitboxes.iter().map(|hitbox| (hitbox.shape.into(), hitbox.group)).collect(),
            next: attack.chain.as_ref().and_then(|chain| ids.get(chain.next.as_str()).copied()),
            children: Vec::new(),
            cooldown: None,
            cancels: Vec::new(),
        };
        for Cancel { into, from, to, on } in &attack.cancels {
            let into = into.iter().filter_map(|name| ids.get(name.as_str()).copied()).collect();
            plan.cancels.push(CancelPlan { into, from: *from, to: *to, on: *on });
        }
        for (when, child) in &attack.children {
            plan.children.extend(ids.get(child.as_str()).map(|&id| (*when, id)));
        }
        attack.form.ways().lay_out(attack, &mut plan);
        plan
    }
}

impl TemplatePlan {
    fn of(template: &Template, up: usize) -> TemplatePlan {
        let ball = |core: &Core| (core.middle.length() + core.size) * 1.002 + 0.002;
        let plan = |part: &Part| {
            let broken = (!part.broken.gone).then(|| part.broken.shape.unwrap_or(part.shape));
            let at_rest = |shape: Shape| part.rest.map_or(shape, |rest| shape.moved(rest)).into();
            let still = (at_rest(part.shape), broken.map(at_rest));
            let (core, broken) = (part.shape.into(), broken.map(Core::from));
            let about = farther(ball(&core), broken.as_ref().map_or(0.0, ball));
            PartPlan { layer: part.layer, core, broken, still, about }
        };
        let parts: Vec<PartPlan> = template.parts.iter().map(plan).collect();
        TemplatePlan {
            key: name_key(&template.name),
            layers: parts
                .iter()
                .fold(0, |layers, part| layers | 1u32.checked_shl(part.layer.0.into()).unwrap_or(0)),
            bounds: Bounds::of(&parts, up),
            parts,
            thresholds: highest_first(&template.thresholds),
        }
    }
}

/// All attacks as the tick uses them. Cooldowns have keys, which attacks of one group share.
fn attack_plans(def: &Definitions, ids: &BTreeMap<&str, AttackId>) -> Vec<AttackPlan> {
    let mut groups: Vec<(bool, &str)> = Vec::new();
    let plan = |attack: &'_ Attack| AttackPlan::of(attack, ids);
    let mut plans: Vec<AttackPlan> = def.attacks.iter().map(plan).collect();
    for (plan, attack) in plans.iter_mut().zip(&def.attacks) {
        let Some(cooldown) = &attack.cooldown else { continue };
        let group = cooldown.group.as_deref();
        let name = (group.is_some(), group.unwrap_or(&attack.name));
        let known = groups.iter().position(|known| *known == name);
        plan.cooldown = Some(known.unwrap_or_else(|| {
            groups.push(name);
            groups.len() - 1
        }) as u16);
    }
    plans
}

/// Thresholds, the highest first.
fn highest_first(thresholds: &[Threshold]) -> Vec<Threshold> {
    let mut thresholds = thresholds.to_vec();
    thresholds.sort_by_key(|threshold| std::cmp::Reverse(threshold.share));
    thresholds
}

/// The topics that a rule hears, or a filter lets through; the path that it names if there are none of it.
pub(super) fn topics_of<'a>(on: &'a On, topics: &Topics) -> Result<Vec<TopicId>, &'a String> {
    match on {
        On::Exact(path) => topics.find(path).map(|topic| vec![topic]).ok_or(path),
        On::Family(path) => topics.family(path).map(|family| topics.members(family).to_vec()).ok_or(path),
    }
}

/// The ids of attacks by name; of two of one name, which is a finding, the first.
pub(super) fn attacks_by_name(def: &Definitions) -> BTreeMap<&str, AttackId> {
    let all = def.attacks.iter().enumerate().rev();
    all.map(|(place, attack)| (attack.name.as_str(), AttackId::new(place))).collect()
}

impl Rules {
    /// Works everything out. What was defined was checked before, or is being checked: nothing here fails.
    pub(super) fn new(mut def: Definitions) -> Rules {
        if !def.steps.contains(&Step::Amended) {
            let last = |step: &Step| matches!(step, Step::Limits | Step::Rounding);
            let place = def.steps.iter().position(last).unwrap_or(def.steps.len());
            def.steps.insert(place, Step::Amended);
        }
        let ids = attacks_by_name(&def);
        let keys = |names: &mut dyn Iterator<Item = &String>| names.map(|name| name_key(name)).collect();
        let topics = Topics::new(&def.damage_types, &def.host_topics);
        let heard = def.rule_book.iter().map(|rule| topics_of(&rule.on, &topics).unwrap_or_default());
        let heard: Vec<Vec<TopicId>> = heard.collect();
        let remembered = remembered(&def, &topics);
        let mut remembers = vec![None; topics.count()];
        for (place, (_, topic)) in remembered.iter().enumerate() {
            remembers[topic.index()] = Some(place as u16);
        }
        let uses = Uses::of(&def);
        Rules {
            attack_plans: attack_plans(&def, &ids),
            template_plans: def.templates.iter().map(|t| TemplatePlan::of(t, def.up as usize)).collect(),
            status_keys: keys(&mut def.statuses.iter().map(|status| &status.name)),
            damage_type_keys: keys(&mut def.damage_types.iter()),
            relations: relations(&def),
            spot_poses: def.spots.iter().map(|spot| spot.pose.settled().unwrap_or(spot.pose)).collect(),
            steps_taken: StepsTaken::of(&def, &uses),
            uses,
            rules_by_topic: rules_by_topic(&def, &heard, topics.count()),
            filters_by_topic: filters_by_topic(&def, &topics),
            gauge_thresholds: def.gauges.iter().map(|gauge| highest_first(&gauge.thresholds)).collect(),
            rule_plans: def.rule_book.iter().map(RulePlan::of).collect(),
            remembered,
            remembers,
            topics,
            fingerprint: checksum(&def),
            places: places_of_names(&def),
            def,
        }
    }

    /// Every amount takes every step.
    #[cfg(feature = "audit")]
    pub(super) fn take_all_steps(&mut self) {
        self.steps_taken.take_all();
    }

    /// What was defined.
    #[cfg(feature = "serde")]
    pub(super) fn definitions(&self) -> &Definitions {
        &self.def
    }

    /// Where a spot is.
    pub(crate) fn pose_of(&self, spot: SpotId) -> Pose {
        self.spot_poses[spot.index()]
    }

    /// How two teams of a running fight stand to each other.
    pub(crate) fn stance(&self, team: TeamId, other: TeamId) -> Relation {
        self.relations[team.index() * self.teams.len() + other.index()]
    }

    /// An attack as it was written.
    pub(crate) fn attack(&self, id: AttackId) -> &Attack {
        &self.attacks[id.index()]
    }

    /// The same as the tick uses it.
    pub(crate) fn attack_plan(&self, id: AttackId) -> &AttackPlan {
        &self.attack_plans[id.index()]
    }

    /// Whether any attack starts this one as a child.
    #[cfg(feature = "audit")]
    pub(crate) fn starts_as_child(&self, attack: AttackId) -> bool {
        self.attack_plans.iter().flat_map(|plan| &plan.children).any(|&(_, child)| child == attack)
    }

    /// A template as it was written.
    pub(crate) fn template(&self, id: TemplateId) -> &Template {
        &self.templates[id.index()]
    }

    /// What combatants of a template have of health at most, before any order or stat: its own, or that of its pool.
    pub(crate) fn own_health(&self, id: TemplateId) -> i64 {
        let template = self.template(id);
        template.pool.map_or(template.health, |pool| self.pools[pool.index()].max)
    }

    /// Those of whom few enough must be left for the next of these waves: of a group, or of the team that comes.
    pub(crate) fn waits_for(&self, waves: &Waves) -> Group {
        let team = waves.team.unwrap_or(self.template(waves.template).team);
        waves.of.unwrap_or_else(|| Group::team(team))
    }

    /// The same as the tick uses it.
    pub(crate) fn template_plan(&self, id: TemplateId) -> &TemplatePlan {
        &self.template_plans[id.index()]
    }

    /// A status.
    pub(crate) fn status(&self, id: StatusId) -> &Status {
        &self.statuses[id.index()]
    }
}

/// How each team stands to each: its own, and foes unless it was said.
fn relations(def: &Definitions) -> Vec<Relation> {
    let count = def.teams.len();
    let own = |i: usize| if i / count == i % count { Relation::Own } else { Relation::Foe };
    let mut relations: Vec<Relation> = (0..count * count).map(own).collect();
    for &(one, other, relation) in &def.stances {
        if one.index() < count && other.index() < count {
            relations[one.index() * count + other.index()] = relation;
            relations[other.index() * count + one.index()] = relation;
        }
    }
    relations
}

/// For each topic the rules that hear it: the higher priority first, of equals the one that was added first.
fn filters_by_topic(def: &Definitions, topics: &Topics) -> Vec<Vec<bool>> {
    let lets = |filter: &Filter| {
        let heard = topics_of(&filter.on, topics).unwrap_or_default();
        (0..topics.count()).map(|topic| heard.contains(&TopicId::new(topic))).collect()
    };
    def.filters.iter().map(lets).collect()
}

fn rules_by_topic(def: &Definitions, heard: &[Vec<TopicId>], topics: usize) -> Vec<Vec<RuleId>> {
    let mut by_topic = vec![Vec::new(); topics];
    let mut order: Vec<usize> = (0..def.rule_book.len()).collect();
    order.sort_by_key(|&place| std::cmp::Reverse(def.rule_book[place].priority));
    for place in order {
        for topic in &heard[place] {
            by_topic[topic.index()].push(RuleId::new(place));
        }
    }
    by_topic
}
