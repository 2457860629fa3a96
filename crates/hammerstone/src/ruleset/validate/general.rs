//! What can be wrong with the whole: steps, limits, names, teams.

use std::collections::BTreeSet;

use super::*;

impl Check {
    pub(in crate::ruleset) fn rules(&mut self, rules: &Definitions) {
        self.range("rate", rules.rate.into(), 1, 100_000);
        self.within("move limit", rules.move_limit.0, FARTHEST);
        if rules.move_limit.0 <= 0.0 {
            self.find("move limit", Problem::NotFinite { value: rules.move_limit.0 });
        }
        self.range("rewind", rules.rewind.0.into(), 0, MOST_REWOUND.into());
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

    pub(in crate::ruleset) fn steps(&mut self, rules: &Definitions) {
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
    pub(in crate::ruleset) fn numbers(&mut self, rules: &Definitions, sizes: &Sizes) {
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
        for (field, stat) in [("attack-speed", rules.attack_speed), ("movement", rules.movement)] {
            if let Some(stat) = stat {
                self.id(field, "stat", stat.index(), sizes.stats);
            }
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

    pub(in crate::ruleset) fn critical(&mut self, critical: &Critical, sizes: &Sizes) {
        self.share("critical", critical.chance, Fixed::ZERO, Fixed::ONE);
        self.share("critical", critical.times, Fixed::ZERO, Fixed::whole(1000));
        for stat in critical.chance_stat.into_iter().chain(critical.times_stat) {
            self.id("critical", "stat", stat.index(), sizes.stats);
        }
    }

    pub(in crate::ruleset) fn names(&mut self, rules: &Definitions) {
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
            ("gauges", rules.gauges.len(), MOST_OF_FLOW),
            ("filters", rules.filters.len(), MOST_OF_FLOW),
            ("pools", rules.pools.len(), MOST_OF_FLOW),
            ("own steps", rules.own_steps.len(), MOST_ENTRIES),
            ("steps", rules.steps.len(), 63),
            ("reasons", rules.reasons.len(), MOST_ENTRIES),
            ("outcomes", rules.outcomes.len(), MOST_ENTRIES),
            ("spots", rules.spots.len(), MOST_ENTRIES),
            ("waves", rules.waves.len(), MOST_OF_FLOW),
            ("flags", rules.flags.len(), MOST_OF_FLOW),
            ("obstacles", rules.obstacle_names.len(), MOST_OF_FLOW),
            ("words", rules.words.len(), MOST_OF_FLOW),
            ("counters", rules.counters.len(), MOST_OF_FLOW),
            ("combatant-flags", rules.combatant_flags.len(), MOST_OF_FLOW),
            ("combatant-counters", rules.combatant_counters.len(), MOST_OF_FLOW),
            ("choices", rules.choices.len(), MOST_OF_FLOW),
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
        let gauges: Vec<&str> = rules.gauges.iter().map(Gauge::name).collect();
        let pools: Vec<&str> = rules.pools.iter().map(Pool::name).collect();
        let filters: Vec<&str> = rules.filters.iter().map(Filter::name).collect();
        let spots: Vec<&str> = rules.spots.iter().map(Spot::name).collect();
        let waves: Vec<&str> = rules.waves.iter().map(Waves::name).collect();
        let book: Vec<&str> = rules.rule_book.iter().map(Rule::name).collect();
        let sorts = [
            ("attack", attacks),
            ("template", templates),
            ("status", statuses),
            ("stat", stats),
            ("shield", shields),
            ("gauge", gauges),
            ("pool", pools),
            ("filter", filters),
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

    pub(in crate::ruleset) fn pools(&mut self, def: &Definitions) {
        for pool in &def.pools {
            self.turn_to("pool", &pool.name);
            self.range("max", pool.max, 1, LARGEST);
        }
    }

    pub(in crate::ruleset) fn relations(&mut self, def: &Definitions) {
        self.turn_to("team", "");
        for &(one, other, _) in &def.stances {
            if self.id("relation", "team", one.index(), def.teams.len()) {
                self.id("relation", "team", other.index(), def.teams.len());
            }
        }
    }
}
