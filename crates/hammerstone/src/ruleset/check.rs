//! Everything that can be wrong with a ruleset, looked for at once.

use std::collections::{BTreeMap, BTreeSet};

use super::*;
use crate::Fixed;
use crate::geometry::{FARTHEST, Pose, Shape, in_bounds};
use crate::ruleset::attack::Window;
use crate::ruleset::form::Direction;

/// Limits that ids and masks set.
const MOST_PARTS: usize = 255;
/// The most of what has ids of 16 bits.
const MOST_ENTRIES: usize = 65_535;
/// The most of what a rule or a fact may name.
const MOST_OF_FLOW: usize = 4096;
/// How many parts may have points of their own: the first so many.
const BREAKABLE: usize = 64;
/// The most reactions that may be allowed for a tick.
const MOST_REACTIONS: i64 = 1_000_000;
/// The longest time that may be authored, in ticks.
pub(super) const LONGEST: i64 = 10_000_000;
/// How far a path may turn in one tick.
const MOST_DEGREES: f32 = 3600.0;
/// The largest amount that may be authored, in points.
pub(super) const LARGEST: i64 = 1_000_000_000;

/// How many of each there are, for checking ids.
pub(super) struct Sizes {
    pub(super) damage_types: usize,
    pub(super) teams: usize,
    layers: usize,
    pub(super) statuses: usize,
    stats: usize,
    shields: usize,
    own_steps: usize,
}

impl Sizes {
    pub(super) fn of(rules: &Rules) -> Sizes {
        Sizes {
            damage_types: rules.damage_types.len(),
            teams: rules.teams.len(),
            layers: rules.layers.len(),
            statuses: rules.statuses.len(),
            stats: rules.stats.len(),
            shields: rules.shields.len(),
            own_steps: rules.own_steps.len(),
        }
    }
}

/// What was found so far, and the entry that is being looked at.
pub(super) struct Check {
    pub(super) found: Vec<Finding>,
    sort: &'static str,
    name: String,
}

impl Check {
    pub(super) fn new() -> Check {
        Check { found: Vec::new(), sort: "rules", name: String::new() }
    }

    /// Turns to the entry of `sort` named `name`.
    pub(super) fn turn_to(&mut self, sort: &'static str, name: &str) {
        (self.sort, self.name) = (sort, name.to_owned());
    }

    pub(super) fn find(&mut self, field: &str, problem: Problem) {
        let place = Place { sort: self.sort, name: self.name.clone(), field: field.to_owned() };
        self.found.push(Finding { place, problem });
    }

    pub(super) fn rules(&mut self, rules: &Rules) {
        self.range("rate", rules.rate.into(), 1, 100_000);
        self.within("move limit", rules.move_limit, FARTHEST);
        if rules.move_limit <= 0.0 {
            self.find("move limit", Problem::NotFinite { value: rules.move_limit });
        }
        self.range("cascade limit, depth", rules.cascade_depth.into(), 0, 64);
        self.range("cascade limit, per root", rules.cascade_per_root.into(), 0, MOST_REACTIONS);
        self.range("cascade limit, per tick", rules.cascade_per_tick.into(), 0, MOST_REACTIONS);
        self.turn_to("amount", "");
        self.range("floor", rules.floor, 0, LARGEST);
        self.range("cap", rules.cap, 0, LARGEST);
        if rules.floor > rules.cap {
            self.find("floor", Problem::Reversed { low: rules.floor, high: rules.cap });
        }
        self.steps(rules);
        self.numbers(rules, &Sizes::of(rules));
    }

    fn steps(&mut self, rules: &Rules) {
        for (i, step) in rules.steps.iter().enumerate() {
            if rules.steps[..i].contains(step) {
                self.find("steps", Problem::StepTwice(step.name()));
            }
        }
        // Shields are whole points, and so come after rounding; nothing else does.
        let exact = rules.steps.strip_suffix(&[Step::Shields]).unwrap_or(&rules.steps);
        if exact.contains(&Step::Shields) {
            self.find("steps", Problem::StepMissing { step: "shields", place: "last" });
        }
        let edges =
            [(Step::Base, exact.first(), "first"), (Step::Rounding, exact.last(), "last, but for shields")];
        for (step, found, place) in edges {
            if found != Some(&step) {
                self.find("steps", Problem::StepMissing { step: step.name(), place });
            }
        }
        for (i, step) in rules.heal_steps.iter().enumerate() {
            if rules.heal_steps[..i].contains(step) {
                self.find("heal steps", Problem::StepTwice(step.name()));
            }
        }
        let (first, last) = (rules.heal_steps.first(), rules.heal_steps.last());
        for (step, found, place) in [(HealStep::Base, first, "first"), (HealStep::Rounding, last, "last")] {
            if found != Some(&step) {
                self.find("heal steps", Problem::StepMissing { step: step.name(), place });
            }
        }
    }

    /// What the ruleset as a whole says about amounts.
    fn numbers(&mut self, rules: &Rules, sizes: &Sizes) {
        let own = |step: &Step| if let Step::Own(own) = step { Some(*own) } else { None };
        let own_heal = |step: &HealStep| if let HealStep::Own(own) = step { Some(*own) } else { None };
        for own in rules.steps.iter().filter_map(own).chain(rules.heal_steps.iter().filter_map(own_heal)) {
            self.id("steps", "own step", own.index(), sizes.own_steps);
        }
        if let Some(critical) = rules.critical {
            self.critical(&critical, sizes);
        }
        for share in rules.relation_shares {
            self.share("share of a relation", share, Fixed::ZERO, Fixed::whole(1000));
        }
        for stat in rules.armour.flat.into_iter().chain(rules.armour.curve.map(|(stat, _)| stat)) {
            self.id("armour", "stat", stat.index(), sizes.stats);
        }
        if let Some((_, half)) = rules.armour.curve {
            self.share("armour", half, Fixed::raw(1), Fixed::whole(LARGEST));
        }
        for damage_type in &rules.armour.damage_types {
            self.id("armour", "damage type", damage_type.index(), sizes.damage_types);
        }
        if let Some(overheal) = rules.overheal {
            self.id("overheal", "shield", overheal.shield.index(), sizes.shields);
            self.share("overheal", overheal.share, Fixed::ZERO, Fixed::whole(1000));
            self.range("overheal", overheal.most.into(), 1, LARGEST);
        }
        if let Some((stat, _)) = rules.maximum {
            self.id("maximum", "stat", stat.index(), sizes.stats);
        }
        for stat in &rules.stats {
            self.turn_to("stat", &stat.name);
            self.amount("", stat.base);
        }
        for shield in &rules.shields {
            self.turn_to("shield", &shield.name);
            for damage_type in &shield.damage_types {
                self.id("damage-types", "damage type", damage_type.index(), sizes.damage_types);
            }
        }
    }

    fn critical(&mut self, critical: &Critical, sizes: &Sizes) {
        self.share("critical", critical.chance, Fixed::ZERO, Fixed::ONE);
        self.share("critical", critical.times, Fixed::ZERO, Fixed::whole(1000));
        for stat in critical.chance_stat.into_iter().chain(critical.times_stat) {
            self.id("critical", "stat", stat.index(), sizes.stats);
        }
    }

    /// An amount that may be below 0.
    fn amount(&mut self, field: &str, amount: Fixed) {
        self.share(field, amount, Fixed::whole(-LARGEST), Fixed::whole(LARGEST));
    }

    fn by(&mut self, field: &str, by: Modifier) {
        match by {
            Modifier::Add(value) | Modifier::Set(value) => self.amount(field, value),
            Modifier::AddShare(value) => self.share(field, value, Fixed::whole(-1000), Fixed::whole(1000)),
            Modifier::Multiply(value) => self.share(field, value, Fixed::ZERO, Fixed::whole(1000)),
        }
    }

    fn changes(&mut self, amounts: &[AmountChange], grants: &[Grant], sizes: &Sizes) {
        for change in amounts {
            self.by("amounts", change.by);
            if let Some(damage_type) = change.damage_type {
                self.id("amounts", "damage type", damage_type.index(), sizes.damage_types);
            }
        }
        for grant in grants {
            self.id("grants", "status", grant.status.index(), sizes.statuses);
            self.strength("grants", grant.strength);
        }
    }

    pub(super) fn strength(&mut self, field: &str, strength: Fixed) {
        self.share(field, strength, Fixed::ZERO, Fixed::whole(1_000_000));
    }

    fn given(&mut self, field: &str, given: &[Given], sizes: &Sizes) {
        for one in given {
            self.id(field, "status", one.status.index(), sizes.statuses);
            self.strength(field, one.strength);
        }
    }

    /// A status whose id was asked for and that was never added.
    pub(super) fn promised(&mut self, status: &Status) {
        self.turn_to("status", &status.name);
        self.find("", Problem::Promised);
    }

    /// Statuses that bring each other without end, by expiring: what is left when those have been taken away, again and again, that lead
    /// to none of the rest, and those to which none of the rest leads.
    pub(super) fn circles(&mut self, statuses: &[Status]) {
        let next = |status: &Status| -> Vec<usize> {
            let expiring = status.grants.iter().filter(|grant| grant.on == Trigger::Expiry);
            expiring.map(|grant| grant.status.index()).filter(|&next| next < statuses.len()).collect()
        };
        let after: Vec<Vec<usize>> = statuses.iter().map(next).collect();
        let mut before = vec![Vec::new(); statuses.len()];
        for (of, all) in after.iter().enumerate() {
            all.iter().for_each(|&to| before[to].push(of));
        }
        let mut left = vec![true; statuses.len()];
        for (leads, led) in [(&after, &before), (&before, &after)] {
            let mut ways: Vec<usize> =
                leads.iter().map(|to| to.iter().filter(|&&to| left[to]).count()).collect();
            let mut open: Vec<usize> = (0..ways.len()).filter(|&of| left[of] && ways[of] == 0).collect();
            while let Some(of) = open.pop() {
                left[of] = false;
                for &from in &led[of] {
                    ways[from] -= 1;
                    if left[from] && ways[from] == 0 {
                        open.push(from);
                    }
                }
            }
        }
        for (status, _) in statuses.iter().zip(left).filter(|(_, left)| *left) {
            self.turn_to("status", &status.name);
            self.find("grants", Problem::Circle);
        }
    }

    pub(super) fn names(&mut self, rules: &Rules) {
        self.turn_to("rules", "");
        let counts = [
            ("damage-types", rules.damage_types.len(), 1024),
            ("teams", rules.teams.len(), 64),
            ("layers", rules.layers.len(), 32),
            ("tags", rules.tags.len(), 64),
            ("attacks", rules.attacks.len(), MOST_ENTRIES),
            ("templates", rules.templates.len(), MOST_ENTRIES),
            ("statuses", rules.statuses.len(), MOST_ENTRIES),
            ("stats", rules.stats.len(), MOST_ENTRIES),
            ("shields", rules.shields.len(), MOST_ENTRIES),
            ("own steps", rules.own_steps.len(), MOST_ENTRIES),
            ("reasons", rules.reasons.len(), MOST_ENTRIES),
            ("outcomes", rules.outcomes.len(), MOST_ENTRIES),
            ("spots", rules.spots.len(), MOST_ENTRIES),
            ("waves", rules.waves.len(), MOST_OF_FLOW),
            ("flags", rules.flags.len(), MOST_OF_FLOW),
            ("counters", rules.counters.len(), MOST_OF_FLOW),
            ("scores", rules.scores.len(), MOST_OF_FLOW),
            ("values", rules.values.len(), MOST_OF_FLOW),
            ("thresholds", rules.thresholds.len(), MOST_OF_FLOW),
            ("lines", rules.lines.len(), MOST_OF_FLOW),
            ("topics", rules.host_topics.len(), MOST_OF_FLOW),
            ("rules", rules.rule_book.len(), MOST_OF_FLOW),
        ];
        for (what, count, most) in counts {
            if count > most {
                self.find(what, Problem::TooMany { count, most });
            }
        }
        let attacks: Vec<&str> = rules.attacks.iter().map(Attack::name).collect();
        let templates: Vec<&str> = rules.templates.iter().map(Template::name).collect();
        let statuses: Vec<&str> = rules.statuses.iter().map(Status::name).collect();
        let stats: Vec<&str> = rules.stats.iter().map(Stat::name).collect();
        let shields: Vec<&str> = rules.shields.iter().map(Shield::name).collect();
        let spots: Vec<&str> = rules.spots.iter().map(Spot::name).collect();
        let waves: Vec<&str> = rules.waves.iter().map(Waves::name).collect();
        let book: Vec<&str> = rules.rule_book.iter().map(Rule::name).collect();
        let sorts = [
            ("attack", attacks),
            ("template", templates),
            ("status", statuses),
            ("stat", stats),
            ("shield", shields),
            ("spot", spots),
            ("waves", waves),
            ("rule", book),
        ];
        for (sort, names) in sorts {
            let mut known = BTreeSet::new();
            for name in &names {
                if !known.insert(*name) {
                    self.turn_to(sort, name);
                    self.find("", Problem::TakenName);
                }
            }
        }
        let lists =
            [&rules.damage_types, &rules.teams, &rules.layers, &rules.tags, &rules.reasons, &rules.outcomes];
        let named = [
            rules.attacks.iter().any(|a| a.name.is_empty()),
            rules.templates.iter().any(|c| c.name.is_empty()),
            rules.statuses.iter().any(|s| s.name.is_empty()),
            lists.iter().any(|list| list.iter().any(String::is_empty)),
        ];
        for (sort, _) in
            ["attack", "template", "status", "rules"].into_iter().zip(named).filter(|&(_, empty)| empty)
        {
            self.turn_to(sort, "");
            self.find("", Problem::NoName);
        }
    }

    pub(super) fn attack(
        &mut self,
        attack: &mut Attack,
        names: &BTreeMap<String, (AttackId, Form)>,
        sizes: &Sizes,
    ) {
        self.turn_to("attack", &attack.name);
        let own_hitboxes = matches!(attack.form, Form::Melee | Form::Projectile(_) | Form::Area);
        if own_hitboxes && attack.hitboxes.is_empty() {
            self.find("hitboxes", Problem::NoHitbox);
        }
        if !own_hitboxes && !attack.hitboxes.is_empty() {
            self.find("hitboxes", Problem::HitboxesUnused(attack.form.name()));
        }
        for hitbox in &attack.hitboxes {
            self.range("group", hitbox.group.into(), 0, i64::from(u16::MAX) - 1);
            self.shape("hitboxes", hitbox.shape);
        }
        match attack.form {
            Form::Projectile(projectile) => self.projectile(&projectile),
            Form::Beam(beam) => self.beam(&beam),
            Form::Melee | Form::Area | Form::Touch => {}
        }
        self.timeline(attack);
        self.path(attack);
        if let Policy::Interval(every) = attack.policy {
            self.range("policy", every.into(), 1, LONGEST);
        }
        if attack.sharing == Sharing::Body && !matches!(attack.form, Form::Projectile(_)) {
            self.find("sharing", Problem::OnlyProjectiles);
        }
        if let Some(most) = attack.max_targets {
            self.range("max-targets", most.into(), 1, u16::MAX.into());
        }
        if let Some(Direction { cosine, .. }) = attack.direction
            && !cosine.is_finite()
        {
            self.find("only from", Problem::NotFinite { value: cosine });
        }
        if let Some(clash) = attack.clash {
            self.range("clash", clash.layer.into(), 0, 31);
        }
        self.damage(&attack.damage, sizes);
        self.answers(attack, sizes);
        for status in &attack.ignores {
            self.id("ignores", "status", status.index(), sizes.statuses);
        }
        attack.child_ids.clear();
        for (when, child) in &attack.children {
            match names.get(child) {
                None => self.find("children", Problem::UnknownAttack(child.clone())),
                Some((_, form)) if form.needs_body() => {
                    self.find("children", Problem::NeedsBody(child.clone()))
                }
                Some((id, _)) => attack.child_ids.push((*when, *id)),
            }
        }
        if let Some(chain) = &mut attack.chain {
            chain.next_id = names.get(&chain.next).map(|(id, _)| *id);
            let (next, opens, lapses) = (chain.next.clone(), chain.opens, chain.lapses);
            if chain.next_id.is_none() {
                self.find("chain", Problem::UnknownAttack(next));
            }
            self.range("chain", lapses.into(), i64::from(opens) + 1, LONGEST);
        }
    }

    /// Numbers, statuses and answers of an attack.
    fn answers(&mut self, attack: &Attack, sizes: &Sizes) {
        if let Some((low, high)) = attack.heals {
            self.points("heals", low, high);
        }
        for draw in &attack.scaling {
            self.id("scaling", "stat", draw.stat.index(), sizes.stats);
            self.amount("scaling", draw.adds);
            self.amount("scaling", draw.shares);
            if let Some(damage_type) = draw.damage_type {
                self.id("scaling", "damage type", damage_type.index(), sizes.damage_types);
            }
        }
        if let Chance::Own(critical) = attack.critical {
            self.critical(&critical, sizes);
        }
        if let Some(fall_off) = attack.fall_off {
            self.share("fall-off", fall_off.least, Fixed::ZERO, Fixed::ONE);
            self.share("fall-off", fall_off.near, Fixed::ZERO, Fixed::whole(100_000));
            self.share("fall-off", fall_off.far, fall_off.near + Fixed::raw(100), Fixed::whole(100_000));
        }
        self.given("inflicts", &attack.inflicts, sizes);
        self.given("inflicts-self", &attack.inflicts_self, sizes);
        self.given("aura", &attack.aura, sizes);
        for self_status in &attack.self_status {
            self.id("self-status", "status", self_status.status.index(), sizes.statuses);
            self.range("self-status", self_status.to.into(), i64::from(self_status.from) + 1, LONGEST);
        }
        if let Some(push) = attack.push {
            self.within("push", push.metres, FARTHEST);
            self.within("push", push.lift, FARTHEST);
            self.range("push", push.ticks.into(), 1, LONGEST);
        }
        self.range("stop", attack.stop.attacker.into(), 0, LONGEST);
        self.range("stop", attack.stop.target.into(), 0, LONGEST);
        self.share("stagger-damage", attack.stagger_damage, Fixed::ZERO, Fixed::whole(1000));
    }

    fn points(&mut self, field: &str, low: i64, high: i64) {
        self.range(field, low, 0, LARGEST);
        self.range(field, high, 0, LARGEST);
        if low > high {
            self.find(field, Problem::Reversed { low, high });
        }
    }

    fn projectile(&mut self, projectile: &Projectile) {
        let numbers = [
            projectile.speed,
            projectile.gravity,
            projectile.spread,
            projectile.from[0],
            projectile.from[1],
            projectile.from[2],
        ];
        for value in numbers {
            self.within("projectile", value, FARTHEST);
        }
        self.range("projectile, lifetime", projectile.lifetime.into(), 1, LONGEST);
        self.range("projectile, pellets", projectile.pellets.into(), 1, 1024);
    }

    fn beam(&mut self, beam: &Beam) {
        let numbers = [beam.reach, beam.radius, beam.from[0], beam.from[1], beam.from[2]];
        for value in numbers {
            self.within("beam", value, FARTHEST);
        }
        if beam.reach <= 0.0 || beam.radius < 0.0 {
            self.find("beam", Problem::NoReach { reach: beam.reach, radius: beam.radius });
        }
    }

    fn timeline(&mut self, attack: &mut Attack) {
        if let Some(guaranteed_end) = attack.marked {
            self.range("marked", guaranteed_end.into(), 1, LONGEST);
            if attack.recovery > 0 {
                self.find("recovery", Problem::RecoveryUnused);
            }
            if !attack.gaps.is_empty() {
                self.find("timeline", Problem::TwoTimelines);
            }
            if attack.form.leaves_the_hand() {
                self.find("marked", Problem::MarkedNeedsHand);
            }
        } else if attack.gaps.is_empty() {
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
        self.range("timeline", attack.recovery.into(), 0, LONGEST);
        let end = clock.saturating_add(attack.recovery);
        (attack.total, attack.frees) = (end, end);
        if let Some(guaranteed_end) = attack.marked {
            (attack.total, attack.frees) = (guaranteed_end, guaranteed_end);
        }
        let opens = attack.windows.first().map_or(0, |window| window.opens);
        match attack.form {
            // What left the hand needs no more of it; it lasts as long as it flies, or lies there.
            Form::Projectile(projectile) => {
                attack.frees = opens.saturating_add(attack.recovery);
                let flown = opens.saturating_add(projectile.lifetime);
                attack.total = if attack.frees > flown { attack.frees } else { flown };
                attack.windows.clear();
                attack.windows.push(Window { opens, closes: flown });
            }
            Form::Area => {
                attack.frees = opens.saturating_add(attack.recovery);
                attack.total = if attack.frees > clock { attack.frees } else { clock };
            }
            Form::Melee | Form::Beam(_) | Form::Touch => {}
        }
        if let Some(charge) = attack.charge {
            self.range("charge", charge.most.into(), i64::from(charge.least) + 1, LONGEST);
            self.share("charge", charge.full, Fixed::ZERO, Fixed::whole(1000));
        }
    }

    fn path(&mut self, attack: &mut Attack) {
        if !attack.path.0.is_empty() && (attack.form != Form::Melee || attack.guided) {
            self.find("path", Problem::PathUnused);
        }
        if attack.guided && attack.form != Form::Melee {
            self.find("guided", Problem::OnlyMelee);
        }
        let mut before: Option<u32> = None;
        for key in &mut attack.path.0 {
            let written = key.turn.is_none_or(|(axis, degrees)| {
                axis.iter().any(|&x| x != 0.0) && axis.iter().all(|x| x.is_finite()) && degrees.is_finite()
            });
            match key.pose.settled().filter(|_| written) {
                Some(settled) => key.pose = settled,
                None => self.find("path", Problem::NoTurn),
            }
            if let Some(before) = before.filter(|&before| before >= key.at) {
                self.find("path", Problem::KeyOutOfOrder { at: key.at, before });
            }
            before = Some(key.at);
        }
        if attack.path.0.is_sorted_by(|one, other| one.at < other.at) {
            self.within("path, degrees a tick", attack.path.fastest(), MOST_DEGREES);
        }
    }

    pub(super) fn template(&mut self, template: &mut Template, up: usize, sizes: &Sizes) {
        self.turn_to("template", &template.name);
        self.id("team", "team", template.team.index(), sizes.teams);
        self.range("health", template.health, 1, LARGEST);
        if template.parts.len() > MOST_PARTS {
            self.find("parts", Problem::TooMany { count: template.parts.len(), most: MOST_PARTS });
        }
        let mut layers = 0;
        for (i, part) in template.parts.iter().enumerate() {
            let field = format!("part `{}`", part.name);
            self.shape(&field, part.shape);
            self.id(&field, "layer", part.layer.index(), sizes.layers);
            self.share(&field, part.multiplier, Fixed::ZERO, Fixed::whole(1000));
            if template.parts[..i].iter().any(|other| other.name == part.name) {
                self.find(&field, Problem::TakenName);
            }
            if let Some(points) = part.points {
                self.range(&field, points, 1, LARGEST);
                if let Some((shape, _)) = part.broken.shape {
                    self.shape(&field, shape);
                }
                if let Some(multiplier) = part.broken.multiplier {
                    self.share(&field, multiplier, Fixed::ZERO, Fixed::whole(1000));
                }
                if i >= BREAKABLE {
                    self.find(&field, Problem::TooMany { count: i + 1, most: BREAKABLE });
                }
            }
            layers |= 1u32.checked_shl(part.layer.0.into()).unwrap_or(0);
        }
        for (i, (stat, base)) in template.stats.iter().enumerate() {
            self.id("stats", "stat", stat.index(), sizes.stats);
            self.amount("stats", *base);
            if template.stats[..i].iter().any(|(other, _)| other == stat) {
                self.find("stats", Problem::Twice(format!("stat number {}", stat.index())));
            }
        }
        for (shield, points) in &template.shields {
            self.id("shields", "shield", shield.index(), sizes.shields);
            self.range("shields", *points, 1, LARGEST);
        }
        self.changes(&template.amounts, &template.grants, sizes);
        if template.grants.iter().any(|grant| grant.on == Trigger::Expiry) {
            self.find("grants", Problem::NeverExpires);
        }
        if let Some(stagger) = template.stagger {
            self.share("stagger", stagger.at, Fixed::raw(1), Fixed::whole(LARGEST));
            self.share("stagger", stagger.recovers, Fixed::ZERO, Fixed::whole(LARGEST));
            if let Some(status) = stagger.status {
                self.id("stagger", "status", status.index(), sizes.statuses);
            }
        }
        template.layers = layers;
        template.bounds = Bounds::of(&template.parts, up);
        for (i, (damage_type, share)) in template.resistance.iter().enumerate() {
            self.id("resistance", "damage type", damage_type.index(), sizes.damage_types);
            self.share("resistance", *share, Fixed::whole(-1000), Fixed::whole(1000));
            if template.resistance[..i].iter().any(|(other, _)| other == damage_type) {
                self.find(
                    "resistance",
                    Problem::Twice(format!("damage type number {}", damage_type.index())),
                );
            }
        }
        template.thresholds.sort_by_key(|threshold| std::cmp::Reverse(threshold.share));
        if let Some(corpse_time) = template.corpse_time {
            self.range("corpse-time", corpse_time.into(), 0, LONGEST);
        }
    }

    pub(super) fn status(&mut self, status: &Status, sizes: &Sizes) {
        self.turn_to("status", &status.name);
        if let Some(lasts) = status.lasts {
            self.range("lasts", lasts.into(), 1, LONGEST);
        }
        if let Some(pulse) = &status.pulse {
            self.range("pulse", pulse.every.into(), 1, LONGEST);
            self.damage(&pulse.damage, sizes);
            if let Some((low, high)) = pulse.heal {
                self.points("pulse", low, high);
            }
        }
        if let Some(damage_type) = status.kills_on_expiry {
            self.id("kills-on-expiry", "damage type", damage_type.index(), sizes.damage_types);
            if status.lasts.is_none() {
                self.find("kills-on-expiry", Problem::NeverExpires);
            }
        }
        if let Stacking::Stack(most) = status.stacking {
            self.range("stacking", most.into(), 2, 1000);
        }
        if let Strength::Captured(stat) | Strength::Live(stat) = status.strength {
            self.id("strength", "stat", stat.index(), sizes.stats);
        }
        for change in &status.stats {
            self.id("changes", "stat", change.stat.index(), sizes.stats);
            self.by("changes", change.by);
        }
        self.changes(&status.amounts, &status.grants, sizes);
        if status.lasts.is_none() && status.grants.iter().any(|grant| grant.on == Trigger::Expiry) {
            self.find("grants", Problem::NeverExpires);
        }
        if let Some((shield, points)) = status.shield {
            self.id("shield", "shield", shield.index(), sizes.shields);
            self.range("shield", points, 1, LARGEST);
        }
        if let Some(guard) = &status.guard {
            self.share("guard", guard.takes, Fixed::ZERO, Fixed::ONE);
            if !guard.cosine.is_finite() {
                self.find("guard", Problem::NotFinite { value: guard.cosine });
            }
            if let Some(points) = guard.breaks_after {
                self.range("guard", points, 1, LARGEST);
            }
            for damage_type in &guard.damage_types {
                self.id("guard", "damage type", damage_type.index(), sizes.damage_types);
            }
        }
        if let Some(prevents_death) = status.prevents_death {
            self.range("prevents-death", prevents_death.leaves, 1, LARGEST);
            self.range("prevents-death", prevents_death.limit.into(), 1, LARGEST);
        }
        for (field, passing) in [("reflects", status.reflects), ("transfers", status.transfers)] {
            if let Some(passing) = passing {
                let most = if field == "transfers" { Fixed::ONE } else { Fixed::whole(1000) };
                self.share(field, passing.share, Fixed::ZERO, most);
                if let Some(damage_type) = passing.damage_type {
                    self.id(field, "damage type", damage_type.index(), sizes.damage_types);
                }
            }
        }
    }

    pub(super) fn relations(
        &mut self,
        stances: &[(TeamId, TeamId, Relation)],
        rules: &Rules,
    ) -> Vec<Relation> {
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

    fn damage(&mut self, damage: &[Damage], sizes: &Sizes) {
        for (i, one) in damage.iter().enumerate() {
            self.id("damage", "damage type", one.damage_type.index(), sizes.damage_types);
            self.range("damage", one.low, 0, LARGEST);
            self.range("damage", one.high, 0, LARGEST);
            if one.low > one.high {
                self.find("damage", Problem::Reversed { low: one.low, high: one.high });
            }
            if damage[..i].iter().any(|other| other.damage_type == one.damage_type) {
                self.find(
                    "damage",
                    Problem::Twice(format!("damage type number {}", one.damage_type.index())),
                );
            }
        }
    }

    fn shape(&mut self, field: &str, shape: Shape) {
        let (points, sizes) = match shape {
            Shape::Sphere { at, radius } => ([at, at], [radius; 3]),
            Shape::Capsule { from, to, radius } => ([from, to], [radius; 3]),
            Shape::Box { pose, half } => {
                if pose.settled().is_none() {
                    self.find(field, Problem::NoTurn);
                }
                ([pose.at, pose.at], half)
            }
        };
        if let Some(&value) = points.iter().flatten().chain(&sizes).find(|&&x| !in_bounds(&[x])) {
            return self.within(field, value, FARTHEST);
        }
        if let Some(&radius) = sizes.iter().find(|&&size| size <= 0.0) {
            self.find(field, Problem::NoRadius { radius });
        }
        if matches!(shape, Shape::Capsule { from, to, .. } if Pose::at(from) == Pose::at(to)) {
            self.find(field, Problem::NoLength);
        }
    }

    /// A number that is finite and no larger than `most`, whatever its sign.
    pub(super) fn within(&mut self, field: &str, value: f32, most: f32) {
        if !value.is_finite() {
            self.find(field, Problem::NotFinite { value });
        } else if value.abs() > most {
            self.find(field, Problem::TooLarge { value, most });
        }
    }

    pub(super) fn id(&mut self, field: &str, what: &'static str, index: usize, count: usize) -> bool {
        if index >= count {
            self.find(field, Problem::UnknownId { what, index });
        }
        index < count
    }

    pub(super) fn range(&mut self, field: &str, value: i64, least: i64, most: i64) {
        if !(least..=most).contains(&value) {
            self.find(field, Problem::OutOfRange { value, least, most });
        }
    }

    pub(super) fn share(&mut self, field: &str, value: Fixed, least: Fixed, most: Fixed) {
        if !(least..=most).contains(&value) {
            self.find(field, Problem::ShareOutOfRange { value, least, most });
        }
    }
}
