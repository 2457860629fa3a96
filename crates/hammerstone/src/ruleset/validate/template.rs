//! What can be wrong with a template.

use super::*;

impl Check {
    pub(in crate::ruleset) fn template(&mut self, template: &Template, sizes: &Sizes) {
        self.turn_to("template", &template.name);
        self.id("team", "team", template.team.index(), sizes.teams);
        self.range("health", template.health, 1, LARGEST);
        if template.parts.len() > MOST_PARTS {
            self.find("parts", Problem::TooMany { count: template.parts.len(), most: MOST_PARTS });
        }
        if let Some(reach) = template.posed {
            self.within("posed", reach.0, FARTHEST);
            if reach.0 <= 0.0 {
                self.find("posed", Problem::NoRadius { radius: reach.0 });
            }
        }
        for (i, part) in template.parts.iter().enumerate() {
            let field = format!("part `{}`", part.name);
            self.shape(&field, part.shape);
            if let Some(pose) = part.rest {
                self.shape(&field, Shape::Box { pose, half: [1.0; 3] });
            }
            self.id(&field, "layer", part.layer.index(), sizes.layers);
            self.share(&field, part.multiplier, Fixed::ZERO, Fixed::whole(1000));
            if template.parts[..i].iter().any(|other| other.name == part.name) {
                self.find(&field, Problem::TakenName);
            }
            if part.hidden && i >= BREAKABLE {
                self.find(&field, Problem::TooMany { count: i + 1, most: BREAKABLE });
            }
            if let Some(points) = part.points {
                self.range(&field, points, 1, LARGEST);
                if let Some(shape) = part.broken.shape {
                    self.shape(&field, shape);
                }
                if let Some(multiplier) = part.broken.multiplier {
                    self.share(&field, multiplier, Fixed::ZERO, Fixed::whole(1000));
                }
                if i >= BREAKABLE {
                    self.find(&field, Problem::TooMany { count: i + 1, most: BREAKABLE });
                }
            }
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
        if let Some(pool) = template.pool {
            self.id("pool", "pool", pool.index(), sizes.pools);
        }
        self.limits("limits-taken", template.limits_taken);
        for (i, gauge) in template.gauges.iter().enumerate() {
            self.id("gauges", "gauge", gauge.index(), sizes.gauges);
            if template.gauges[..i].contains(gauge) {
                self.find("gauges", Problem::Twice(format!("gauge number {}", gauge.index())));
            }
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
        if let Some(corpse_time) = template.corpse_time {
            self.range("corpse-time", corpse_time.into(), 0, LONGEST);
        }
    }
}
