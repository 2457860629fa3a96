//! The topics of facts: one table, from which ids, names and families come.

use crate::event::HostTopic;
use crate::ids::{DamageTypeId, FamilyId, HostTopicId, TopicId};

macro_rules! topics {
    ($($name:ident = $path:literal),* $(,)?) => {
        #[allow(non_camel_case_types, clippy::upper_case_acronyms)]
        enum Order { $($name,)* KINDS }
        $(
            #[doc = concat!("`", $path, "`")]
            pub const $name: TopicId = TopicId(Order::$name as u16);
        )*
        const PATHS: &[&str] = &[$($path),*];
        /// Topics from here on are `damage.dealt.KIND`, one for each damage type, and then those of the host.
        const KINDS: u16 = Order::KINDS as u16;
    };
}

topics! {
    ENCOUNTER_STARTED = "encounter.started",
    ENCOUNTER_ENDED = "encounter.ended",
    ENCOUNTER_CUT = "encounter.cut",
    ORDER_REFUSED = "order.refused",
    COMBATANT_JOINED = "combatant.joined",
    COMBATANT_AWAY = "combatant.away",
    COMBATANT_RETURNED = "combatant.returned",
    COMBATANT_REMOVED = "combatant.removed",
    ATTACK_STARTED = "attack.started",
    ATTACK_OPENED = "attack.opened",
    ATTACK_CLOSED = "attack.closed",
    ATTACK_CHAINED = "attack.chained",
    ATTACK_LAPSED = "attack.lapsed",
    ATTACK_ENDED = "attack.ended",
    CONTACT_MET = "contact.met",
    CONTACT_HELD = "contact.held",
    CONTACT_PARTED = "contact.parted",
    HIT_LANDED = "hit.landed",
    HIT_REFUSED = "hit.refused",
    HIT_CLASHED = "hit.clashed",
    HIT_DEFLECTED = "hit.deflected",
    HIT_PUSHED = "hit.pushed",
    HIT_STAGGERED = "hit.staggered",
    HIT_STOPPED = "hit.stopped",
    HEAL_APPLIED = "heal.applied",
    HEALTH_CHANGED = "health.changed",
    SHIELD_RAISED = "shield.raised",
    SHIELD_ABSORBED = "shield.absorbed",
    SHIELD_BROKEN = "shield.broken",
    SHIELD_LAPSED = "shield.lapsed",
    GUARD_BROKEN = "guard.broken",
    PART_BROKEN = "part.broken",
    STATUS_APPLIED = "status.applied",
    STATUS_REFRESHED = "status.refreshed",
    STATUS_STACKED = "status.stacked",
    STATUS_PULSED = "status.pulsed",
    STATUS_REFUSED = "status.refused",
    STATUS_SUSPENDED = "status.suspended",
    STATUS_RESUMED = "status.resumed",
    STATUS_EXPIRED = "status.expired",
    STATUS_LIFTED = "status.lifted",
    COMBATANT_SPARED = "combatant.spared",
    COMBATANT_DIED = "combatant.died",
    ENCOUNTER_ROUND = "encounter.round",
    ENCOUNTER_WAVE = "encounter.wave",
    ENCOUNTER_RESET = "encounter.reset",
    LEADER_LOST = "leader.lost",
    HEALTH_CROSSED = "health.crossed",
    FLAG_CHANGED = "flag.changed",
    COUNTER_CHANGED = "counter.changed",
    SCORE_CHANGED = "score.changed",
    SAID = "said",
    RULE_FIRED = "rule.fired",
}

/// The topic of damage of `damage type`: `damage.dealt.KIND`.
pub(crate) fn damage(damage_type: DamageTypeId) -> TopicId {
    TopicId(KINDS + damage_type.0)
}

/// Whether facts of a topic may be about somebody.
pub(crate) fn may_have_subject(path: &str) -> bool {
    let about_nobody = ["encounter.", "flag.", "counter."];
    !about_nobody.iter().any(|stem| path.starts_with(stem))
}

/// Whether facts of a topic may have another party.
pub fn may_have_other(path: &str) -> bool {
    let between_two = ["contact.", "hit.", "damage.", "heal.", "leader.", "host.", "score.", "rule."];
    let more = ["status.applied", "status.refused", "combatant.died"];
    between_two.iter().any(|stem| path.starts_with(stem)) || more.contains(&path)
}

/// All topics and families of a ruleset.
#[derive(Clone, Debug)]
pub struct Topics {
    paths: Vec<String>,
    families: Vec<(String, Vec<TopicId>)>,
    first_of_host: usize,
}

impl Topics {
    pub(crate) fn new(damage_types: &[String], host: &[HostTopic]) -> Topics {
        let mut paths: Vec<String> = PATHS.iter().map(|&path| path.to_owned()).collect();
        paths.extend(damage_types.iter().map(|damage_type| format!("damage.dealt.{damage_type}")));
        let first_of_host = paths.len();
        paths.extend(host.iter().map(|topic| topic.path.clone()));
        let mut families: Vec<(String, Vec<TopicId>)> = Vec::new();
        for (i, path) in paths.iter().enumerate() {
            let stems = path.match_indices('.').map(|(end, _)| &path[..end]).chain([path.as_str()]);
            for stem in stems {
                match families.iter_mut().find(|(name, _)| name == stem) {
                    Some((_, members)) => members.push(TopicId::new(i)),
                    None => families.push((stem.to_owned(), vec![TopicId::new(i)])),
                }
            }
        }
        Topics { paths, families, first_of_host }
    }

    /// The topic of the host's own under its number.
    pub fn of_host(&self, topic: HostTopicId) -> TopicId {
        TopicId::new(self.first_of_host + topic.index())
    }

    /// Which topic of the host's own it is, if it is one.
    pub fn host_topic(&self, topic: TopicId) -> Option<HostTopicId> {
        let known = topic.index() < self.paths.len();
        topic.index().checked_sub(self.first_of_host).filter(|_| known).map(HostTopicId::new)
    }

    /// How many topics there are.
    pub fn count(&self) -> usize {
        self.paths.len()
    }

    /// The path of a topic, such as `damage.dealt.heat`; none for one that this ruleset does not have.
    pub fn path(&self, topic: TopicId) -> Option<&str> {
        self.paths.get(topic.index()).map(String::as_str)
    }

    /// The topic of damage of a type, `damage.dealt.KIND`; none for a damage type that this ruleset does not have.
    pub fn damage(&self, damage_type: DamageTypeId) -> Option<TopicId> {
        Some(damage(damage_type)).filter(|topic| topic.index() < self.first_of_host)
    }

    /// All paths, in the order of their topics.
    pub fn paths(&self) -> &[String] {
        &self.paths
    }

    /// The topic of a path.
    pub fn find(&self, path: &str) -> Option<TopicId> {
        self.paths.iter().position(|known| known == path).map(TopicId::new)
    }

    /// The family of a path: the topic of that path, if there is one, and all below it.
    pub fn family(&self, path: &str) -> Option<FamilyId> {
        self.families.iter().position(|(known, _)| known == path).map(FamilyId::new)
    }

    /// All paths that name a family or a topic.
    pub fn family_paths(&self) -> impl Iterator<Item = &str> {
        self.families.iter().map(|(path, _)| path.as_str())
    }

    /// The topics of a family.
    pub fn members(&self, family: FamilyId) -> &[TopicId] {
        self.families.get(family.index()).map_or(&[], |(_, members)| members)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_family_holds_its_path_and_all_below() {
        let topics = Topics::new(&["crush".to_owned(), "heat".to_owned()], &[]);
        let damage_family = topics.members(topics.family("damage").unwrap());
        assert_eq!(damage_family, [damage(DamageTypeId(0)), damage(DamageTypeId(1))]);
        assert_eq!(topics.members(topics.family("combatant.died").unwrap()), [COMBATANT_DIED]);
        assert_eq!(topics.path(damage(DamageTypeId(1))).unwrap_or_default(), "damage.dealt.heat");
        assert_eq!(topics.family("dama"), None);
    }
}
