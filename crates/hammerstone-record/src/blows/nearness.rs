//! How near the hitboxes of swings come to parts.

use std::collections::BTreeMap;

use hammerstone::Life;
use hammerstone::event::Operand;
use hammerstone::geometry::nearest_approach;
use hammerstone::ids::{CombatantId, SwingId};
use hammerstone::scene::{Scene, SceneHitbox};

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
    /// How near the hitboxes of a swing come to a target in this tick.
    fn take_in<'h>(
        &self,
        one: &mut TargetResult,
        swing: SwingId,
        target: CombatantId,
        hitboxes: impl Iterator<Item = &'h SceneHitbox>,
        seen: Seen,
    ) {
        let Looking { tick, attacker, scene } = *self;
        let Tick { rules, names, clock, .. } = *tick;
        let view = scene.view();
        let stands = view.life(target) == Life::Standing;
        let parts = scene.parts_met_by(swing, target);
        one.seen.stood |= seen.stood && stands;
        one.seen.hitbox |= seen.stood && seen.hitbox;
        one.seen.part |= seen.stood && !parts.is_empty();
        for hitbox in hitboxes {
            let attack = &rules.attacks()[hitbox.attack.index()];
            let teams = view.team(attacker).zip(view.team(target));
            let relation = teams.and_then(|(one, other)| rules.relation(one, other));
            if let Some(relation) = relation.filter(|&relation| !attack.strikes_relation(relation)) {
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
                let mut approach = nearest_approach(&hitbox.moving.until(until), &part.moving.until(until));
                approach.time *= until;
                let known = one.near.iter().position(|known| known.obstacle == obstacle);
                if known.is_some_and(|place| one.near[place].distance <= f64::from(approach.distance)) {
                    continue;
                }
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
