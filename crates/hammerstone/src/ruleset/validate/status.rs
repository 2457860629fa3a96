//! What can be wrong with a status, alone and together with others.

use super::*;

impl Check {
    pub(in crate::ruleset) fn status(&mut self, status: &Status, sizes: &Sizes) {
        self.turn_to("status", &status.name);
        self.limits("limits", status.limits);
        self.limits("limits-taken", status.limits_taken);
        for &(gauge, share) in &status.protects {
            self.id("protects", "gauge", gauge.index(), sizes.gauges);
            self.share("protects", share, Fixed::ZERO, Fixed::ONE);
        }
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

    /// One whose id was asked for and that was never added.
    pub(in crate::ruleset) fn promised(&mut self, sort: &'static str, name: &str) {
        self.turn_to(sort, name);
        self.find("", Problem::Promised);
    }

    /// Statuses that bring each other without end, by expiring: what is left when those have been taken away, again and again, that lead
    /// to none of the rest, and those to which none of the rest leads.
    pub(in crate::ruleset) fn circles(&mut self, statuses: &[Status]) {
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
}
