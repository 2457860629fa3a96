//! Words that practitioners bring along, and the fields that they mean: the first of a row that is known where the word stands is proposed.

/// A word, and our fields for it, the likeliest first.
const SYNONYMS: &[(&str, &[&str])] = &[
    ("actions", &["do"]),
    ("active-frames", &["active"]),
    ("again", &["stacking"]),
    ("anticipation", &["startup"]),
    ("archetype", &["template"]),
    ("armor", &["armour", "resistance"]),
    ("beat", &["pulse"]),
    ("bounty", &["values"]),
    ("cast", &["template"]),
    ("collider", &["hitboxes"]),
    ("colliders", &["hitboxes"]),
    ("combo", &["chain"]),
    ("condition", &["when"]),
    ("conditions", &["when"]),
    ("corpse", &["corpse-time"]),
    ("crit", &["critical"]),
    ("damage-over-time", &["pulse"]),
    ("defence", &["resistance", "armour"]),
    ("defense", &["resistance", "armour"]),
    ("despawn", &["corpse-time"]),
    ("dmg", &["damage"]),
    ("dot", &["pulse"]),
    ("draws", &["scaling"]),
    ("duration", &["lasts", "active"]),
    ("effects", &["inflicts", "do"]),
    ("element", &["damage-type"]),
    ("elements", &["damage-types"]),
    ("event", &["on"]),
    ("faction", &["team"]),
    ("factor", &["multiply", "multiplier"]),
    ("freeze", &["hit-stop"]),
    ("gives", &["inflicts"]),
    ("harm", &["damage"]),
    ("hitbox", &["hitboxes"]),
    ("hitstop", &["hit-stop"]),
    ("hp", &["health"]),
    ("hurtbox", &["part"]),
    ("hurtboxes", &["part"]),
    ("i-frames", &["invulnerable", "self-status"]),
    ("iframes", &["invulnerable", "self-status"]),
    ("immune", &["invulnerable"]),
    ("invincible", &["invulnerable"]),
    ("invulnerability", &["invulnerable", "self-status"]),
    ("kind", &["damage-type", "template"]),
    ("kinds", &["damage-types"]),
    ("knock-back", &["knockback"]),
    ("max-health", &["health"]),
    ("most", &["max-targets", "max"]),
    ("parts", &["part"]),
    ("pile", &["max-stacks"]),
    ("pin", &["set"]),
    ("poise", &["stagger", "stagger-damage"]),
    ("prefab", &["template"]),
    ("provided", &["when"]),
    ("push", &["knockback"]),
    ("pushes", &["knockback"]),
    ("raise", &["add"]),
    ("resist", &["resistance"]),
    ("resistances", &["resistance"]),
    ("scale", &["multiply", "scaling"]),
    ("share", &["add-share"]),
    ("stack", &["max-stacks"]),
    ("stack-limit", &["max-stacks"]),
    ("statuses", &["inflicts"]),
    ("stops", &["hit-stop"]),
    ("telegraph", &["startup"]),
    ("then", &["do"]),
    ("thrown", &["projectile"]),
    ("trigger", &["on"]),
    ("unleash", &["spawn-attack"]),
    ("upon", &["on"]),
    ("volumes", &["hitboxes"]),
    ("wind-up", &["startup"]),
    ("window", &["active"]),
    ("windows", &["active"]),
    ("windup", &["startup"]),
    ("worth", &["values"]),
];

/// What is meant by a word of the trade, among the fields that are known where it stands.
pub(crate) fn meant<'a>(word: &str, known: &[&'a str]) -> Option<&'a str> {
    let word = word.to_lowercase().replace('_', "-");
    let (_, ours) = SYNONYMS.iter().find(|(theirs, _)| *theirs == word)?;
    ours.iter().find_map(|field| known.iter().find(|known| *known == field)).copied()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_stand_in_order_and_once() {
        assert!(SYNONYMS.is_sorted_by(|(one, _), (next, _)| one < next));
    }

    #[test]
    fn the_first_field_that_is_known_is_meant() {
        assert_eq!(meant("Wind_Up", &["active", "startup"]), Some("startup"));
        assert_eq!(meant("iframes", &["stuns", "self-status"]), Some("self-status"));
        assert_eq!(meant("iframes", &["stuns"]), None);
        assert_eq!(meant("startup", &["startup"]), None);
    }
}
