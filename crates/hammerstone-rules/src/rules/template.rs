//! Templates and their parts.

use super::*;
use hammerstone::ids::PoolId;
use crate::motion::Bound;

impl Resolver<'_, '_> {
    pub(super) fn template(&mut self, name: &raw::Name, raw: &raw::Template) -> Vec<AttackId> {
        let entry = name.as_ref();
        self.note("template", entry, "", name.span());
        let health = self.own_or_pooled(name, raw);
        let team = self.reading.find_id("team", &raw.team, &self.known.teams);
        let mut uses = Vec::new();
        for attack in &raw.attacks {
            uses.extend(self.reading.find_id("attack", attack, &self.known.attacks));
        }
        let Some(team) = team else { return uses };
        let rig = match &raw.skeleton {
            Some(name) => match self.rig(name) {
                Some(rig) => Some(rig),
                None => return uses,
            },
            None => None,
        };
        let mut template = Template::new(entry, team, 1);
        template = match health {
            Some(Ok(points)) => Template::new(entry, team, points),
            Some(Err(pool)) => template.pool(pool),
            None => template,
        };
        if let Some(corpse_time) = &raw.corpse_time
            && let Some(ticks) = self.reading.time(corpse_time, self.rate)
        {
            template = template.corpse_time(ticks);
        }
        for tag in &raw.tags {
            if let Some(tag) = self.reading.find_id("tag", tag, &self.known.tags) {
                template = template.tag(tag);
            }
        }
        for (damage_type, share) in &raw.resistance {
            self.note("template", entry, "resistance", share.span());
            let damage_type = self.reading.find_id("damage type", damage_type, &self.known.damage_types);
            if let Some((damage_type, share)) = damage_type.zip(self.reading.exact(share)) {
                template = template.resistance(damage_type, share);
            }
        }
        if let Some(posed) = &raw.posed {
            self.note("template", entry, "posed", posed.reach.span());
            if let Some(reach) = self.reading.number(&posed.reach) {
                template = template.posed(reach);
            }
        }
        template = self.numbers_of(entry, raw, template);
        let mut joints = Vec::new();
        for (name, part) in &raw.part {
            self.note("template", entry, &format!("part `{}`", name.as_ref()), name.span());
            if let Some((part, joint)) = self.part(entry, name, part, rig) {
                template = template.part(part);
                joints.push(joint);
            }
        }
        if let Some(rig) = rig
            && raw.posed.is_none()
        {
            template = template.posed(self.reach_of(rig, &joints));
        }
        template = self.flow_of(entry, raw, template);
        let id = self.builder.template(template);
        if let Some(rig) = rig {
            self.motion.templates.push((id, Bound { rig, joints }));
        }
        uses
    }

    /// The health that a template has, or the pool that it shares. It names one of the two.
    fn own_or_pooled(&mut self, name: &raw::Name, raw: &raw::Template) -> Option<Result<i64, PoolId>> {
        let entry = name.as_ref();
        match (&raw.health, &raw.pool) {
            (Some(health), None) => {
                self.note("template", entry, "health", health.span());
                Some(Ok(*health.as_ref()))
            }
            (None, Some(pool)) => {
                self.note("template", entry, "pool", pool.span());
                let known = self.raw.pool.keys().map(|name| name.as_ref().as_str()).zip(&self.known.pools);
                self.reading.find("pool", pool, known.map(|(name, id)| (name, *id))).map(Err)
            }
            (Some(_), Some(pool)) => {
                let message = format!("template `{entry}` has health of its own, and shares a pool");
                let fix = Some("take `health` out, or `pool`".to_owned());
                self.reading.problem(pool.span(), "here", message, fix);
                None
            }
            (None, None) => {
                let message = format!("template `{entry}` has no health");
                let fix = Some("add `health = 40`, or `pool = \"NAME\"` for one that several share".to_owned());
                self.reading.problem(name.span(), "here", message, fix);
                None
            }
        }
    }

    /// How far poses of parts may be from the body: half as far again as they get in any animation, since mixed ones reach farther.
    fn reach_of(&self, rig: usize, joints: &[Option<usize>]) -> f32 {
        let joints: Vec<usize> = joints.iter().flatten().copied().collect();
        self.motion.rigs[rig].farthest(&joints) * 1.5 + 0.5
    }

    /// Stats, shields, changes, grants, stagger.
    pub(super) fn numbers_of(&mut self, entry: &str, raw: &raw::Template, mut template: Template) -> Template {
        for (name, base) in &raw.stats {
            self.note("template", entry, "stats", base.span());
            let stat = self.stat(name);
            if let Some((stat, base)) = stat.zip(self.reading.exact(base)) {
                template = template.stat(stat, base);
            }
        }
        if let Some(limits) = &raw.limits_taken {
            template = template.limits_taken(self.limits("template", entry, "limits-taken", limits));
        }
        for name in &raw.gauges {
            self.note("template", entry, "gauges", name.span());
            if let Some(gauge) = self.reading.find_id("gauge", name, &self.known.gauges) {
                template = template.gauge(gauge);
            }
        }
        for (name, points) in &raw.shields {
            self.note("template", entry, "shields", points.span());
            if let Some(shield) = self.reading.find_id("shield", name, &self.known.shields) {
                template = template.shield(shield, *points.as_ref());
            }
        }
        let lists = [
            raw.deals.as_slice(),
            raw.takes.as_slice(),
            raw.gives_healing.as_slice(),
            raw.takes_healing.as_slice(),
        ];
        for change in self.amounts("template", entry, lists) {
            template = template.changes_amounts(change);
        }
        for grant in self.grants("template", entry, &raw.grants) {
            template = template.grant(grant);
        }
        if let Some(stagger) = &raw.stagger {
            self.note("template", entry, "stagger", stagger.at.span());
            let recovers =
                stagger.recovers.as_ref().map_or(Some(hammerstone::Fixed::ZERO), |n| self.reading.exact(n));
            let status = stagger.status.as_ref().and_then(|name| self.status_named(name));
            if let Some((at, recovers)) = self.reading.exact(&stagger.at).zip(recovers) {
                template = template.stagger(Stagger { at, recovers, status });
            }
        }
        if raw.never_critical { template.never_critical() } else { template }
    }

    /// A part, and the joint that it follows.
    pub(super) fn part(
        &mut self,
        entry: &str,
        name: &raw::Name,
        raw: &raw::Part,
        rig: Option<usize>,
    ) -> Option<(Part, Option<usize>)> {
        let what = format!("part `{}` of template `{entry}`", name.as_ref());
        let (sphere, capsule, block) = (raw.sphere.as_ref(), raw.capsule.as_ref(), raw.block.as_ref());
        let shapes = Shapes { sphere, capsule, block };
        let following = self.following(rig, (&what, name.span()), shapes, (&raw.joint, &raw.bone));
        let layer = match &raw.layer {
            Some(layer) => self.reading.find_id("layer", layer, &self.known.layers),
            // The first, which is always there.
            None => self.known.layers.get("body"),
        };
        let multiplier = match &raw.multiplier {
            Some(multiplier) => self.reading.exact(multiplier),
            None => Some(hammerstone::Fixed::ONE),
        };
        let following = following?;
        let part = Part::new(name.as_ref(), following.shape).layer(layer?).multiplier(multiplier?);
        let mut part = self.tags_named(&raw.tags).into_iter().fold(part, Part::tag);
        if let Some(rest) = rig.zip(following.joint).and_then(|(rig, joint)| self.at_rest(rig, joint)) {
            part = part.rest(rest);
        }
        if raw.hidden {
            part = part.hidden();
        }
        let part = match (&raw.points, &raw.broken) {
            (Some(points), broken) => {
                let broken = match broken {
                    Some(broken) => self.broken(&what, broken)?,
                    None => Broken::default(),
                };
                Some(part.points(*points.as_ref(), broken))
            }
            (None, Some(_)) => {
                let fix = Some("add `points = 20`, or take `broken` out".to_owned());
                let message = format!("{what} has no points, and so never breaks");
                self.reading.problem(name.span(), "here", message, fix);
                None
            }
            (None, None) => Some(part),
        };
        Some((part?, following.joint))
    }

    pub(super) fn broken(&mut self, what: &str, raw: &raw::Broken) -> Option<Broken> {
        let mut broken = if raw.gone { Broken::gone() } else { Broken::default() };
        let (sphere, capsule, block) = (raw.sphere.as_ref(), raw.capsule.as_ref(), raw.block.as_ref());
        if sphere.is_some() || capsule.is_some() || block.is_some() {
            broken = broken.shape(self.reading.shape(what, 0..0, Shapes { sphere, capsule, block })?);
        }
        if let Some(multiplier) = &raw.multiplier {
            broken = broken.multiplier(self.reading.exact(multiplier)?);
        }
        Some(self.tags_named(&raw.tags).into_iter().fold(broken, Broken::tag))
    }
}
