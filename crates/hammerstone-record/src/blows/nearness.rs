//! How near the hitboxes of swings come to parts.

use std::collections::BTreeMap;

use hammerstone::Life;
use hammerstone::attack::Attack;
use hammerstone::event::Operand;
use hammerstone::geometry::nearest_approach_below;
use hammerstone::ids::{CombatantId, SwingId};
use hammerstone::scene::{Scene, SceneHitbox};
use hammerstone::team::Relation;

use super::swing_results::{Near, Seen, Swung, TargetResult};
use crate::Tick;
use crate::feed::OperandText;

/// How near the swings of an attacker come in this tick to a target; or, if none is given, to the target that is nearest to each.
pub(super) fn look(
    swings: &mut BTreeMap<SwingId, Swung>,
    tick: &Tick<'_>,
    attacker: CombatantId,
    target: Option<CombatantId>,
) {
    let (Tick { encounter, names, clock: now, .. }, scene) = (*tick, tick.scene());
    let hitboxes: Vec<SceneHitbox> =
        scene.hitboxes().filter(|hitbox| hitbox.attacker == Some(attacker)).collect();
    let looking = Looking { tick, attacker, scene: &scene };
    let runs = |swung: &Swung| swung.called == names.of(attacker) && swung.to.is_none_or(|(to, _)| to == now);
    for (swing, swung) in swings.iter_mut().filter(|(_, swung)| runs(swung)) {
        let hitboxes = || hitboxes.iter().filter(|hitbox| hitbox.swing == *swing);
        // What shut in this tick was open until now.
        let open = swung.windows.last().is_some_and(|(_, to)| to.is_none_or(|to| to == now));
        let seen = Seen { hitbox: hitboxes().next().is_some(), ..Seen::default() };
        match target {
            Some(target) => {
                let one = swung.at(target, names);
                looking.take_in(one, *swing, target, hitboxes(), Seen { stood: open, ..seen });
            }
            None if swung.targets.is_empty() => {
                for other in encounter.view().combatants().filter(|&other| other != attacker) {
                    let of_another = swung.nearest.as_ref().filter(|(at, _)| *at != other);
                    if of_another
                        .is_some_and(|(_, one)| !looking.is_nearer(*swing, other, hitboxes(), rank(one)))
                    {
                        continue;
                    }
                    let known = swung.nearest.take();
                    let mut one = match &known {
                        Some((at, one)) if *at == other => one.clone(),
                        _ => TargetResult::new(names.of(other)),
                    };
                    looking.take_in(&mut one, *swing, other, hitboxes(), Seen { stood: open, ..seen });
                    let nearer =
                        known.as_ref().is_none_or(|(at, known)| *at == other || rank(&one) < rank(known));
                    swung.nearest = if nearer { Some((other, one)) } else { known };
                }
            }
            None => {}
        }
    }
}

/// What came nearest to being a hit, the least first: open hitboxes before closed ones, at foes before others, then by distance.
fn rank(one: &TargetResult) -> (bool, bool, f64) {
    let near = one.near.iter().min_by(|a, b| of(a).partial_cmp(&of(b)).unwrap_or(std::cmp::Ordering::Equal));
    fn of(near: &Near) -> (bool, f64) {
        (near.obstacle != "distance", near.distance)
    }
    near.map_or((true, true, f64::INFINITY), |near| {
        (one.also.is_some(), near.obstacle != "distance", near.distance)
    })
}

struct Looking<'a> {
    tick: &'a Tick<'a>,
    attacker: CombatantId,
    scene: &'a Scene<'a>,
}

impl Looking<'_> {
    /// How the attacker stands to a target, if the gate of teams would refuse that.
    fn refused(&self, attack: &Attack, target: CombatantId) -> Option<Relation> {
        let view = self.scene.view();
        let teams = view.team(self.attacker).zip(view.team(target));
        let relation = teams.and_then(|(one, other)| self.tick.rules.relation(one, other));
        relation.filter(|&relation| !attack.strikes_relation(relation))
    }

    /// Whether the hitboxes of a swing come nearer to being a hit at a target than what was nearest so far, by [`rank`].
    fn is_nearer<'h>(
        &self,
        swing: SwingId,
        target: CombatantId,
        hitboxes: impl Iterator<Item = &'h SceneHitbox>,
        (known_refused, known_closed, known): (bool, bool, f64),
    ) -> bool {
        let parts = self.scene.parts_met_by(swing, target);
        for hitbox in hitboxes {
            let attack = &self.tick.rules.attacks()[hitbox.attack.index()];
            let refused = self.refused(attack, target).is_some();
            if refused != known_refused {
                return known_refused;
            }
            for part in &parts {
                let closed = !(hitbox.open && attack.meets_layer(part.layer));
                if closed && !known_closed {
                    continue;
                }
                let limit = if closed == known_closed { known as f32 } else { f32::INFINITY };
                let until = hitbox.held.unwrap_or(1.0);
                let moving = (hitbox.moving.until(until), part.moving.until(until));
                if nearest_approach_below(&moving.0, &moving.1, limit).is_some() {
                    return true;
                }
            }
        }
        false
    }

    /// How near the hitboxes of a swing come to a target in this tick.
    fn take_in<'h>(
        &self,
        one: &mut TargetResult,
        swing: SwingId,
        target: CombatantId,
        hitboxes: impl Iterator<Item = &'h SceneHitbox>,
        seen: Seen,
    ) {
        let Looking { tick, scene, .. } = *self;
        let Tick { rules, names, clock, .. } = *tick;
        let view = scene.view();
        let stands = view.life(target) == Life::Standing;
        let parts = scene.parts_met_by(swing, target);
        one.seen.stood |= seen.stood && stands;
        one.seen.hitbox |= seen.stood && seen.hitbox;
        one.seen.part |= seen.stood && !parts.is_empty();
        for hitbox in hitboxes {
            let attack = &rules.attacks()[hitbox.attack.index()];
            if let Some(relation) = self.refused(attack, target) {
                let wanted = OperandText(Operand::Relations(attack.struck_relations()), rules, names);
                let found = relation.name();
                one.also = Some(format!("the gate team would refuse: wanted {wanted}, found {found}"));
            }
            for part in parts.iter().filter(|_| stands) {
                let obstacle = match (hitbox.open, attack.meets_layer(part.layer)) {
                    (true, true) => "distance",
                    (true, false) => "layer",
                    (false, true) => "window",
                    (false, false) => continue,
                };
                // What something held came no nearer than until then.
                let until = hitbox.held.unwrap_or(1.0);
                let known = one.near.iter().position(|known| known.obstacle == obstacle);
                let limit = known.map_or(f32::INFINITY, |place| one.near[place].distance as f32);
                let moving = (hitbox.moving.until(until), part.moving.until(until));
                let Some(mut approach) = nearest_approach_below(&moving.0, &moving.1, limit) else {
                    continue;
                };
                approach.time *= until;
                let near = Near {
                    obstacle,
                    tick: clock,
                    time: tick.begins() + f64::from(approach.time) / f64::from(rules.rate()),
                    distance: f64::from(approach.distance),
                    hitbox: hitbox.hitbox + 1,
                    body: hitbox.body,
                    part: names.part(rules, target, part.part).unwrap_or_default().to_owned(),
                    layer: rules.layer_name(part.layer).unwrap_or_default().to_owned(),
                    on_hitbox: approach.on_first,
                    on_part: approach.on_second,
                };
                match known {
                    Some(place) => one.near[place] = near,
                    None => one.near.push(near),
                }
            }
        }
    }
}
