//! Which fields a line of the feed may have.

/// The fields that each topic may have, beside those of every line. What is absent is absent.
const FIELDS: &[(&str, &[&str])] = &[
    ("encounter.started", &[]),
    ("encounter.ended", &["outcome", "attempts", "hits", "refusals"]),
    (
        "encounter.cut",
        &[
            "rule", "hook", "status", "attack", "template", "host", "on", "limit", "left_out", "depth",
            "chain",
        ],
    ),
    ("order.refused", &["order", "subject", "why"]),
    ("combatant.joined", &["subject", "template", "team", "tags", "health", "max", "life"]),
    ("combatant.away", &["subject", "why"]),
    ("combatant.returned", &["subject", "health", "max", "life", "why"]),
    ("combatant.removed", &["subject", "why"]),
    ("attack.started", &["subject", "attack", "swing", "form", "policy", "every", "max_targets"]),
    ("attack.chained", &["subject", "attack", "swing"]),
    ("attack.lapsed", &["subject", "attack"]),
    ("attack.opened", &["subject", "attack", "swing", "window"]),
    ("attack.closed", &["subject", "attack", "swing", "window"]),
    ("attack.ended", &["subject", "attack", "swing", "why"]),
    ("contact.met", &["contact", "swing", "attacker", "target", "part", "point", "normal", "toi"]),
    ("contact.held", &["contact", "swing", "attacker", "target", "part", "point", "normal"]),
    ("contact.parted", &["contact", "swing", "attacker", "target", "part", "why"]),
    (
        "hit.landed",
        &[
            "hit", "swing", "attack", "attacker", "target", "life", "part", "window", "group", "body",
            "point", "normal",
        ],
    ),
    ("hit.clashed", &["swing", "attack", "attacker", "against", "target", "point", "toi"]),
    ("hit.deflected", &["swing", "attack", "attacker", "target", "part", "body", "point", "normal"]),
    ("hit.refused", &["swing", "attack", "attacker", "target", "part", "gate", "wanted", "found"]),
    ("hit.pushed", &["hit", "attacker", "target", "impulse", "ticks"]),
    ("hit.staggered", &["hit", "attacker", "target", "gathered"]),
    ("hit.stopped", &["hit", "subject", "other", "ticks"]),
    (
        "damage.dealt",
        &["blow", "hit", "source", "target", "via", "name", "amount", "critical", "echo", "ledger"],
    ),
    ("shield.raised", &["subject", "shield", "amount", "left"]),
    ("shield.absorbed", &["subject", "shield", "amount", "left"]),
    ("shield.broken", &["subject", "shield"]),
    ("shield.lapsed", &["subject", "shield", "amount"]),
    ("guard.broken", &["subject", "status", "amount"]),
    ("part.broken", &["subject", "part", "amount"]),
    ("heal.applied", &["source", "target", "via", "name", "amount", "excess", "ledger"]),
    ("health.changed", &["subject", "from", "to", "max", "why"]),
    ("status.applied", &["application", "subject", "source", "status", "strength", "stacks", "ends"]),
    ("status.refreshed", &["application", "subject", "status", "strength", "stacks", "ends"]),
    ("status.stacked", &["application", "subject", "status", "strength", "stacks", "ends"]),
    ("status.refused", &["subject", "source", "status", "strength", "why"]),
    ("status.suspended", &["application", "subject", "status", "why"]),
    ("status.resumed", &["application", "subject", "status", "ends"]),
    ("status.pulsed", &["application", "subject", "status", "strength", "stacks"]),
    ("status.expired", &["application", "subject", "status", "why"]),
    ("status.lifted", &["application", "subject", "status", "why"]),
    ("combatant.spared", &["subject", "by", "name"]),
    (
        "combatant.died",
        &[
            "subject", "team", "life", "killer", "credit", "via", "name", "assists", "overkill", "at",
            "lives", "values",
        ],
    ),
    ("encounter.round", &["round"]),
    ("encounter.wave", &["name", "wave", "count"]),
    ("encounter.reset", &[]),
    ("leader.lost", &["subject", "leader", "why"]),
    ("health.crossed", &["subject", "threshold", "direction"]),
    ("flag.changed", &["name", "to"]),
    ("counter.changed", &["name", "from", "to"]),
    ("score.changed", &["name", "from", "to", "credit"]),
    ("said", &["subject", "text"]),
    ("rule.fired", &["name", "subject", "other"]),
];

/// The fields that lines of `topic` may have; for a family, those of any of its topics. Empty for what is neither.
pub fn fields_of(topic: &str) -> Vec<&'static str> {
    let below = |path: &str, stem: &str| {
        path == stem || path.strip_prefix(stem).is_some_and(|rest| rest.starts_with('.'))
    };
    let mut fields = Vec::new();
    for (path, own) in FIELDS {
        if below(path, topic) || below(topic, path) {
            fields.extend(own.iter().filter(|field| !fields.contains(*field)).copied().collect::<Vec<_>>());
        }
    }
    fields
}
