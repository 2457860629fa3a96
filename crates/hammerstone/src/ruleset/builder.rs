//! Building a ruleset and checking it whole.

use super::*;
use crate::Fixed;
use crate::geometry::{Pose, Shape};
use crate::ruleset::attack::Window;

/// Limits that ids and masks set.
const MOST: [(&str, usize); 6] =
    [("kinds", 1024), ("teams", 64), ("layers", 32), ("tags", 64), ("entries", 65_535), ("parts", 255)];
/// The longest time that may be authored, in ticks.
const LONGEST: i64 = 10_000_000;
/// The largest amount that may be authored, in points.
const LARGEST: i64 = 1_000_000_000;

/// Collects a ruleset; made by [`Ruleset::builder`].
///
/// The simple lists (kinds, teams, layers, tags, reasons, outcomes) give the same id for the same name;
/// attacks, cast entries and statuses must each have a name of their own.
/// Nothing is checked until [`build`](RulesetBuilder::build), which then names everything at once.
#[derive(Clone, Debug)]
pub struct RulesetBuilder {
    rules: Rules,
    stances: Vec<(TeamId, TeamId, Relation)>,
}

impl RulesetBuilder {
    pub(super) fn new(rate: u32) -> RulesetBuilder {
        let rules = Rules {
            rate,
            up: Axis::Y,
            kinds: Vec::new(),
            kind_keys: Vec::new(),
            teams: Vec::new(),
            relations: Vec::new(),
            layers: vec!["body".to_owned()],
            tags: Vec::new(),
            reasons: Vec::new(),
            outcomes: Vec::new(),
            attacks: Vec::new(),
            casts: Vec::new(),
            statuses: Vec::new(),
            steps: Step::ALL.to_vec(),
            floor: 0,
            cap: LARGEST,
            rounding: Rounding::Nearest,
            assist_window: rate.saturating_mul(5),
            cascade_limit: 8,
            cascade_orders: 65_536,
            move_limit: 100.0,
            topics: Topics::new(&[]),
            print: 0,
        };
        RulesetBuilder { rules, stances: Vec::new() }
    }

    /// A kind of harm.
    pub fn kind(&mut self, name: &str) -> KindId {
        KindId::new(listed(&mut self.rules.kinds, name))
    }

    /// A team. Two teams are foes unless [`relate`](Self::relate) says otherwise.
    pub fn team(&mut self, name: &str) -> TeamId {
        TeamId::new(listed(&mut self.rules.teams, name))
    }

    /// A layer for parts. The first, `body`, is always there.
    pub fn layer(&mut self, name: &str) -> LayerId {
        LayerId::new(listed(&mut self.rules.layers, name))
    }

    /// A tag.
    pub fn tag(&mut self, name: &str) -> TagId {
        TagId::new(listed(&mut self.rules.tags, name))
    }

    /// A reason for harm or healing that comes from the host.
    pub fn reason(&mut self, name: &str) -> ReasonId {
        ReasonId::new(listed(&mut self.rules.reasons, name))
    }

    /// An outcome with which an encounter may end.
    pub fn outcome(&mut self, name: &str) -> OutcomeId {
        OutcomeId::new(listed(&mut self.rules.outcomes, name))
    }

    /// Both teams stand in `relation` to each other.
    pub fn relate(&mut self, one: TeamId, other: TeamId, relation: Relation) -> &mut Self {
        self.stances.push((one, other, relation));
        self
    }

    /// An attack.
    pub fn attack(&mut self, attack: Attack) -> AttackId {
        self.rules.attacks.push(attack);
        AttackId::new(self.rules.attacks.len() - 1)
    }

    /// A cast entry.
    pub fn cast(&mut self, cast: Cast) -> CastId {
        self.rules.casts.push(cast);
        CastId::new(self.rules.casts.len() - 1)
    }

    /// A status.
    pub fn status(&mut self, status: Status) -> StatusId {
        self.rules.statuses.push(status);
        StatusId::new(self.rules.statuses.len() - 1)
    }

    /// The axis that points up; +Y unless said.
    pub fn up(&mut self, axis: Axis) -> &mut Self {
        self.rules.up = axis;
        self
    }

    /// The steps of the amount, in their order. Base comes first and rounding last.
    pub fn steps(&mut self, steps: &[Step]) -> &mut Self {
        self.rules.steps = steps.to_vec();
        self
    }

    /// The least and the most that harm of one kind in one blow may be, in points.
    pub fn limits(&mut self, floor: i64, cap: i64) -> &mut Self {
        (self.rules.floor, self.rules.cap) = (floor, cap);
        self
    }

    /// How exact amounts become whole points.
    pub fn rounding(&mut self, rounding: Rounding) -> &mut Self {
        self.rules.rounding = rounding;
        self
    }

    /// Whoever harmed the fallen within `ticks` before the fall, and is not the killer, gets an assist.
    pub fn assist_window(&mut self, ticks: u32) -> &mut Self {
        self.rules.assist_window = ticks;
        self
    }

    /// How deep orders from hooks may lead to facts that lead to orders, and how many orders
    /// one tick's hooks may give in all; what goes beyond is refused as a cascade.
    pub fn cascade_limit(&mut self, depth: u16, orders: u32) -> &mut Self {
        (self.rules.cascade_limit, self.rules.cascade_orders) = (depth, orders);
        self
    }

    /// How far one move may go in one tick, in metres. What must go farther is placed.
    pub fn move_limit(&mut self, metres: f32) -> &mut Self {
        self.rules.move_limit = metres;
        self
    }

    /// Checks everything and makes the ruleset.
    ///
    /// *Errors:* all [`Findings`] at once, each with its place and mend.
    pub fn build(self) -> Result<Ruleset, Findings> {
        let mut rules = self.rules;
        let mut check = Check { found: Vec::new(), sort: "rules", name: String::new() };
        check.rules(&rules);
        check.names(&rules);
        let sizes = Sizes::of(&rules);
        for attack in &mut rules.attacks {
            check.attack(attack, &sizes);
        }
        for cast in &mut rules.casts {
            check.cast(cast, &sizes);
        }
        for status in &rules.statuses {
            check.status(status, &sizes);
        }
        rules.relations = check.relations(&self.stances, &rules);
        if !check.found.is_empty() {
            return Err(Findings(check.found));
        }
        rules.kind_keys = rules.kinds.iter().map(|kind| crate::rolls::name_key(kind)).collect();
        rules.topics = Topics::new(&rules.kinds);
        // The debugging text holds every number and name of the contents, floats to their last bit.
        rules.print = xxhash_rust::xxh3::xxh3_64(format!("{rules:?}").as_bytes());
        Ok(Ruleset::new(rules))
    }
}

fn listed(list: &mut Vec<String>, name: &str) -> usize {
    list.iter().position(|known| known == name).unwrap_or_else(|| {
        list.push(name.to_owned());
        list.len() - 1
    })
}

/// How many of each there are, for checking ids.
struct Sizes {
    kinds: usize,
    teams: usize,
    layers: usize,
    statuses: usize,
}

impl Sizes {
    fn of(rules: &Rules) -> Sizes {
        Sizes {
            kinds: rules.kinds.len(),
            teams: rules.teams.len(),
            layers: rules.layers.len(),
            statuses: rules.statuses.len(),
        }
    }
}

/// What was found so far, and the entry that is being looked at.
struct Check {
    found: Vec<Finding>,
    sort: &'static str,
    name: String,
}

impl Check {
    /// Turns to the entry of `sort` named `name`.
    fn turn_to(&mut self, sort: &'static str, name: &str) {
        (self.sort, self.name) = (sort, name.to_owned());
    }

    fn find(&mut self, field: &str, problem: Problem) {
        let place = Place { sort: self.sort, name: self.name.clone(), field: field.to_owned() };
        self.found.push(Finding { place, problem });
    }

    fn rules(&mut self, rules: &Rules) {
        self.range("rate", rules.rate.into(), 1, 100_000);
        if !(rules.move_limit.is_finite() && rules.move_limit > 0.0) {
            self.find("move limit", Problem::NotFinite { value: rules.move_limit });
        }
        self.range("cascade limit", rules.cascade_limit.into(), 0, 64);
        self.turn_to("amount", "");
        self.range("floor", rules.floor, 0, LARGEST);
        self.range("cap", rules.cap, 0, LARGEST);
        if rules.floor > rules.cap {
            self.find("floor", Problem::Reversed { low: rules.floor, high: rules.cap });
        }
        for (i, step) in rules.steps.iter().enumerate() {
            if rules.steps[..i].contains(step) {
                self.find("steps", Problem::StepTwice(step.name()));
            }
        }
        let edges =
            [(Step::Base, rules.steps.first(), "first"), (Step::Rounding, rules.steps.last(), "last")];
        for (step, found, place) in edges {
            if found != Some(&step) {
                self.find("steps", Problem::StepMissing { step: step.name(), place });
            }
        }
    }

    fn names(&mut self, rules: &Rules) {
        self.turn_to("rules", "");
        let counts = [
            rules.kinds.len(),
            rules.teams.len(),
            rules.layers.len(),
            rules.tags.len(),
            rules.attacks.len().max(rules.casts.len()).max(rules.statuses.len()),
        ];
        for ((what, most), count) in MOST.into_iter().zip(counts) {
            if count > most {
                self.find(what, Problem::TooMany { count, most });
            }
        }
        let attacks: Vec<&str> = rules.attacks.iter().map(Attack::name).collect();
        let casts: Vec<&str> = rules.casts.iter().map(Cast::name).collect();
        let statuses: Vec<&str> = rules.statuses.iter().map(Status::name).collect();
        for (sort, names) in [("attack", attacks), ("cast", casts), ("status", statuses)] {
            for (i, name) in names.iter().enumerate() {
                if names[..i].contains(name) {
                    self.turn_to(sort, name);
                    self.find("", Problem::TakenName);
                }
            }
        }
        let lists = [&rules.kinds, &rules.teams, &rules.layers, &rules.tags, &rules.reasons, &rules.outcomes];
        let named = [
            rules.attacks.iter().any(|a| a.name.is_empty()),
            rules.casts.iter().any(|c| c.name.is_empty()),
            rules.statuses.iter().any(|s| s.name.is_empty()),
            lists.iter().any(|list| list.iter().any(String::is_empty)),
        ];
        for (sort, _) in
            ["attack", "cast", "status", "rules"].into_iter().zip(named).filter(|&(_, empty)| empty)
        {
            self.turn_to(sort, "");
            self.find("", Problem::NoName);
        }
    }

    fn attack(&mut self, attack: &mut Attack, sizes: &Sizes) {
        self.turn_to("attack", &attack.name);
        if attack.volumes.is_empty() {
            self.find("volumes", Problem::NoVolume);
        }
        for shape in &attack.volumes {
            self.shape("volumes", *shape);
        }
        attack.cores = attack.volumes.iter().map(|&shape| shape.into()).collect();
        if attack.gaps.is_empty() {
            self.find("timeline", Problem::NoWindow);
        }
        let mut clock = 0u32;
        attack.windows.clear();
        for &[gap, window] in &attack.gaps {
            self.range("timeline", gap.into(), 0, LONGEST);
            self.range("timeline", window.into(), 1, LONGEST);
            let opens = clock.saturating_add(gap);
            clock = opens.saturating_add(window);
            attack.windows.push(Window { opens, closes: clock });
        }
        self.range("timeline", attack.total.into(), 0, LONGEST);
        attack.total = clock.saturating_add(attack.total);
        let mut before: Option<u32> = None;
        for (at, pose) in &mut attack.path.0 {
            match pose.settled() {
                Some(settled) => *pose = settled,
                None => self.find("path", Problem::NoTurn),
            }
            if let Some(before) = before.filter(|&before| before >= *at) {
                self.find("path", Problem::KeyOutOfOrder { at: *at, before });
            }
            before = Some(*at);
        }
        self.harm(&attack.harm, sizes);
        for status in &attack.gives {
            self.id("gives", "status", status.index(), sizes.statuses);
        }
    }

    fn cast(&mut self, cast: &mut Cast, sizes: &Sizes) {
        self.turn_to("cast", &cast.name);
        self.id("team", "team", cast.team.index(), sizes.teams);
        self.range("health", cast.health, 1, LARGEST);
        if cast.parts.len() > MOST[5].1 {
            self.find("parts", Problem::TooMany { count: cast.parts.len(), most: MOST[5].1 });
        }
        let (mut layers, mut reach) = (0, 0.0);
        for (i, part) in cast.parts.iter().enumerate() {
            let field = format!("part `{}`", part.name);
            self.shape(&field, part.shape);
            self.id(&field, "layer", part.layer.index(), sizes.layers);
            self.share(&field, part.multiplier, Fixed::ZERO, Fixed::whole(1000));
            if cast.parts[..i].iter().any(|other| other.name == part.name) {
                self.find(&field, Problem::TakenName);
            }
            layers |= 1u32.checked_shl(part.layer.0.into()).unwrap_or(0);
            let far = part.core.reach() + part.core.radius;
            reach = if far > reach { far } else { reach };
        }
        (cast.layers, cast.reach) = (layers, reach);
        for (i, (kind, share)) in cast.resistance.iter().enumerate() {
            self.id("resistance", "kind", kind.index(), sizes.kinds);
            self.share("resistance", *share, Fixed::whole(-1000), Fixed::ONE);
            if cast.resistance[..i].iter().any(|(other, _)| other == kind) {
                self.find("resistance", Problem::Twice(format!("kind number {}", kind.index())));
            }
        }
        if let Some(lies) = cast.lies {
            self.range("lies", lies.into(), 0, LONGEST);
        }
    }

    fn status(&mut self, status: &Status, sizes: &Sizes) {
        self.turn_to("status", &status.name);
        if let Some(lasts) = status.lasts {
            self.range("lasts", lasts.into(), 1, LONGEST);
        }
        if let Some(beat) = &status.beat {
            self.range("beat", beat.every.into(), 1, LONGEST);
            self.harm(&beat.harm, sizes);
        }
    }

    fn relations(&mut self, stances: &[(TeamId, TeamId, Relation)], rules: &Rules) -> Vec<Relation> {
        self.turn_to("team", "");
        let count = rules.teams.len();
        let own = |i: usize| if i / count == i % count { Relation::Own } else { Relation::Foe };
        let mut relations: Vec<Relation> = (0..count * count).map(own).collect();
        for &(one, other, relation) in stances {
            let known = self.id("relation", "team", one.index(), count)
                && self.id("relation", "team", other.index(), count);
            if known {
                relations[one.index() * count + other.index()] = relation;
                relations[other.index() * count + one.index()] = relation;
            }
        }
        relations
    }

    fn harm(&mut self, harm: &[Harm], sizes: &Sizes) {
        for (i, one) in harm.iter().enumerate() {
            self.id("harm", "kind", one.kind.index(), sizes.kinds);
            self.range("harm", one.low, 0, LARGEST);
            self.range("harm", one.high, 0, LARGEST);
            if one.low > one.high {
                self.find("harm", Problem::Reversed { low: one.low, high: one.high });
            }
            if harm[..i].iter().any(|other| other.kind == one.kind) {
                self.find("harm", Problem::Twice(format!("kind number {}", one.kind.index())));
            }
        }
    }

    fn shape(&mut self, field: &str, shape: Shape) {
        let (ends, radius) = match shape {
            Shape::Sphere { at, radius } => ([at, at], radius),
            Shape::Capsule { from, to, radius } => ([from, to], radius),
        };
        let numbers = ends.iter().flatten().chain([&radius]);
        if let Some(&value) = numbers.into_iter().find(|x| !x.is_finite()) {
            return self.find(field, Problem::NotFinite { value });
        }
        if radius <= 0.0 {
            self.find(field, Problem::NoRadius { radius });
        }
        if matches!(shape, Shape::Capsule { from, to, .. } if Pose::at(from) == Pose::at(to)) {
            self.find(field, Problem::NoLength);
        }
    }

    fn id(&mut self, field: &str, what: &'static str, index: usize, count: usize) -> bool {
        if index >= count {
            self.find(field, Problem::UnknownId { what, index });
        }
        index < count
    }

    fn range(&mut self, field: &str, value: i64, least: i64, most: i64) {
        if !(least..=most).contains(&value) {
            self.find(field, Problem::OutOfRange { value, least, most });
        }
    }

    fn share(&mut self, field: &str, value: Fixed, least: Fixed, most: Fixed) {
        if !(least..=most).contains(&value) {
            self.find(field, Problem::ShareOutOfRange { value, least, most });
        }
    }
}
