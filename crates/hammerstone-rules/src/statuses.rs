//! Statuses out of a ruleset's file.

use hammerstone::attack::FormKind;
use hammerstone::ids::{StatusId, TagId};
use hammerstone::status::{FirstPulse, Guard, Parry, PreventsDeath, Pulse, Stacking, Status, Strength};

use crate::numbers::Ways;
use crate::raw;
use crate::rules::Resolver;

impl Resolver<'_, '_> {
    pub(crate) fn status(&mut self, name: &raw::Name, raw: &raw::Status) -> StatusId {
        let entry = name.as_ref();
        self.note("status", entry, "", name.span());
        let status = self.lasting(entry, raw);
        let status = self.standing(entry, raw, status);
        let status = self.changing(entry, raw, status);
        let status = self.tagged(raw, status);
        self.builder.status(status)
    }

    /// How long, how strong, how often.
    fn lasting(&mut self, entry: &str, raw: &raw::Status) -> Status {
        let mut status = Status::new(entry);
        if let Some(lasts) = &raw.lasts {
            self.note("status", entry, "lasts", lasts.span());
            if let Some(ticks) = self.reading.time(lasts, self.rate) {
                status = status.lasts(ticks);
            }
        }
        let stacks = match &raw.max_stacks {
            Some(stacks) => {
                self.note("status", entry, "stacking", stacks.span());
                self.reading.whole(stacks, 2, 1000).unwrap_or(2)
            }
            None => 2,
        };
        if let Some(name) = &raw.stacking {
            let ways = Stacking::ALL.map(|again| match again {
                Stacking::Stack(_) => (again.name(), Stacking::Stack(stacks as u16)),
                again => (again.name(), again),
            });
            let again = self.reading.find("way of stacking", name, ways).unwrap_or_default();
            if matches!(again, Stacking::Stack(_)) != raw.max_stacks.is_some() {
                let fix =
                    Some("write both `stacking = \"stack\"` and `max-stacks = 3`, or neither".to_owned());
                let message = "`stack` needs a limit".to_owned();
                self.reading.problem(name.span(), "here", message, fix);
            }
            status = status.stacking(again);
        } else if let Some(stacks) = &raw.max_stacks {
            let fix = Some("add `stacking = \"stack\"`".to_owned());
            self.reading.problem(
                stacks.span(),
                "here",
                "`max-stacks` is for statuses that stack".to_owned(),
                fix,
            );
        }
        if let Some(strength) = &raw.strength {
            status = match (&strength.captured, &strength.live) {
                (Some(stat), None) => match self.stat(stat) {
                    Some(stat) => status.strength(Strength::Captured(stat)),
                    None => status,
                },
                (None, Some(stat)) => match self.stat(stat) {
                    Some(stat) => status.strength(Strength::Live(stat)),
                    None => status,
                },
                _ => {
                    let span = raw.lasts.as_ref().map_or(0..0, |lasts| lasts.span());
                    let fix =
                        Some("write `strength = { captured = \"…\" }` or `{ live = \"…\" }`".to_owned());
                    let message =
                        format!("the strength of status `{entry}` is neither captured nor live, or both");
                    self.reading.problem(span, "of this status", message, fix);
                    status
                }
            };
        }
        if let Some(pulse) = &raw.pulse {
            self.note("status", entry, "pulse", pulse.every.span());
            let every = self.reading.time(&pulse.every, self.rate).unwrap_or(1);
            let firsts = [("after", FirstPulse::After), ("at-once", FirstPulse::AtOnce)];
            let first = pulse.first.as_ref().and_then(|name| self.reading.find("first pulse", name, firsts));
            let damage = self.damage("status", entry, &pulse.damage);
            let heal = pulse.heal.as_ref().map(|range| range.as_ref().bounds());
            let (first, absolute) = (first.unwrap_or_default(), pulse.absolute);
            status = status.pulse(Pulse { every, first, damage, heal, absolute });
        }
        status
    }

    fn parry(&mut self, entry: &str, field: &str, raw: &raw::Parry) -> Option<Parry> {
        self.note("status", entry, field, raw.within.span());
        let mut parry = Parry::within(self.reading.number(&raw.within)?);
        for form in &raw.forms {
            let known = FormKind::ALL.map(|form| (form.name(), form));
            parry = self.reading.find("form", form, known).into_iter().fold(parry, Parry::against);
        }
        if raw.ends_swing && field == "deflects" {
            let message = "a swing that is deflected ends by itself".to_owned();
            self.reading.problem(
                raw.within.span(),
                "here",
                message,
                Some("leave `ends-swing` out".to_owned()),
            );
        }
        Some(if raw.ends_swing { parry.ends_swing() } else { parry })
    }

    /// What stands before its bearer's health, or keeps it alive.
    fn standing(&mut self, entry: &str, raw: &raw::Status, mut status: Status) -> Status {
        if raw.roots {
            status = status.roots();
        }
        if raw.stuns {
            status = status.stuns();
        }
        if raw.invulnerable {
            status = status.invulnerable();
        }
        status = self.tags_named(&raw.lets_through).into_iter().fold(status, Status::lets_through);
        if let Some(guard) = &raw.guard {
            self.note("status", entry, "guard", guard.takes.span());
            let (takes, within) = (self.reading.exact(&guard.takes), self.reading.number(&guard.within));
            if let Some((takes, within)) = takes.zip(within) {
                let mut new = Guard::new(takes, within);
                if let Some(points) = &guard.breaks_after {
                    new = new.breaks_after(*points.as_ref());
                }
                new = self.damage_types_named(&guard.damage_types).into_iter().fold(new, Guard::against);
                status = status.guard(new);
            }
        }
        if let Some(parry) = &raw.parries
            && let Some(parry) = self.parry(entry, "parries", parry)
        {
            status = status.parries(parry);
        }
        if let Some(parry) = &raw.deflects
            && let Some(parry) = self.parry(entry, "deflects", parry)
        {
            status = status.deflects(parry);
        }
        if let Some(limits) = &raw.limits {
            status = status.limits(self.limits("status", entry, "limits", limits));
        }
        if let Some(limits) = &raw.limits_taken {
            status = status.limits_taken(self.limits("status", entry, "limits-taken", limits));
        }
        for (name, share) in &raw.protects {
            self.note("status", entry, "protects", share.span());
            let gauge = self.reading.find_id("gauge", name, &self.known.gauges);
            if let Some((gauge, share)) = gauge.zip(self.reading.exact(share)) {
                status = status.protects(gauge, share);
            }
        }
        if let Some(shield) = &raw.shield {
            self.note("status", entry, "shield", shield.points.span());
            if let Some(id) = self.reading.find_id("shield", &shield.of, &self.known.shields) {
                status = status.shield(id, *shield.points.as_ref());
            }
        }
        if let Some(prevents_death) = &raw.prevents_death {
            self.note("status", entry, "prevents-death", prevents_death.leaves.span());
            let limit = self.reading.whole(&prevents_death.limit, 1, 1_000_000_000).unwrap_or(1) as u32;
            status = status.prevents_death(PreventsDeath {
                leaves: *prevents_death.leaves.as_ref(),
                limit,
                ends: prevents_death.ends,
            });
        }
        if let Some(passing) = &raw.reflects {
            self.note("status", entry, "reflects", passing.share.span());
            if passing.linked {
                let message = "what is thrown back goes to the one who dealt it".to_owned();
                let fix = Some("leave `linked` out, or give it to `transfers`".to_owned());
                self.reading.problem(passing.share.span(), "here", message, fix);
            }
            if let Some(passing) = self.passing(passing) {
                status = status.reflects(passing);
            }
        }
        if let Some(passing) = &raw.transfers {
            self.note("status", entry, "transfers", passing.share.span());
            if let Some(passing) = self.passing(passing) {
                status = status.transfers(passing);
            }
        }
        status
    }

    /// What it changes, and what it gives.
    fn changing(&mut self, entry: &str, raw: &raw::Status, mut status: Status) -> Status {
        for spanned in &raw.changes {
            self.note("status", entry, "changes", spanned.span());
            let change = spanned.as_ref();
            let ways = Ways {
                add: &change.add,
                add_share: &change.add_share,
                multiply: &change.multiply,
                set: &change.set,
            };
            let stat = self.stat(&change.stat);
            if let Some((stat, by)) = stat.zip(self.reading.by(spanned.span(), ways)) {
                status = status.changes(stat, by);
            }
        }
        let lists = [
            raw.deals.as_slice(),
            raw.takes.as_slice(),
            raw.gives_healing.as_slice(),
            raw.takes_healing.as_slice(),
        ];
        for change in self.amounts("status", entry, lists) {
            status = status.changes_amounts(change);
        }
        if let Some(damage_type) = raw.kills_on_expiry.as_ref().and_then(|name| self.damage_type(name)) {
            self.note(
                "status",
                entry,
                "kills-on-expiry",
                raw.kills_on_expiry.as_ref().map_or(0..0, toml::Spanned::span),
            );
            status = status.kills_on_expiry(damage_type);
        }
        for grant in self.grants("status", entry, &raw.grants) {
            status = status.grant(grant);
        }
        status
    }

    fn tagged(&mut self, raw: &raw::Status, mut status: Status) -> Status {
        type Tagged = fn(Status, TagId) -> Status;
        let lists: [(&[raw::Name], Tagged); 7] = [
            (&raw.tags, Status::tag),
            (&raw.adds_tags, Status::adds_tags),
            (&raw.hides_parts, Status::hides_parts),
            (&raw.shows_parts, Status::shows_parts),
            (&raw.barred_by, Status::barred_by),
            (&raw.lifted_by, Status::lifted_by),
            (&raw.lifts, Status::lifts),
        ];
        for (names, tagged) in lists {
            status = self.tags_named(names).into_iter().fold(status, tagged);
        }
        if raw.across_lives { status.across_lives() } else { status }
    }
}

impl raw::Range {
    /// The least and the most.
    pub(crate) fn bounds(&self) -> (i64, i64) {
        match *self {
            raw::Range::One(points) => (points, points),
            raw::Range::Between([low, high]) => (low, high),
        }
    }
}
