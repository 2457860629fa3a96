//! The topics of facts: one table, from which ids, names and families come.

use crate::event::{Tag, TopicInfo, damage_topic, fixed_paths, info_of};
use crate::ids::{DamageTypeId, FamilyId, HostTopicId, TopicId};
use crate::terms::HostTopic;

pub use crate::event::topics::*;

/// All topics and families of a ruleset.
#[derive(Clone, Debug)]
pub struct Topics {
    paths: Vec<String>,
    families: Vec<(String, Vec<TopicId>)>,
    first_of_host: usize,
}

impl Topics {
    pub(crate) fn new(damage_types: &[String], host: &[HostTopic]) -> Topics {
        let mut paths: Vec<String> = fixed_paths().map(str::to_owned).collect();
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

    /// What is known of a topic; none for one that this ruleset does not have.
    pub fn info(&self, topic: TopicId) -> Option<&'static TopicInfo> {
        let damage_types = self.first_of_host - usize::from(COUNT);
        (topic.index() < self.paths.len()).then(|| info_of(topic, damage_types))
    }

    /// Whether facts of a topic have a subject; those of the host's own have one if a field holds a combatant.
    pub fn has_subject(&self, topic: TopicId) -> bool {
        self.has(topic, Tag::Subject)
    }

    /// Whether facts of a topic have another party; as for [`has_subject`](Self::has_subject).
    pub fn has_other(&self, topic: TopicId) -> bool {
        self.has(topic, Tag::Other)
    }

    fn has(&self, topic: TopicId, tag: Tag) -> bool {
        topic.index() >= self.first_of_host || self.info(topic).is_some_and(|info| info.field(tag).is_some())
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
        Some(damage_topic(damage_type)).filter(|topic| topic.index() < self.first_of_host)
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
        assert_eq!(damage_family, [damage_topic(DamageTypeId(0)), damage_topic(DamageTypeId(1))]);
        assert_eq!(topics.members(topics.family("combatant.died").unwrap()), [COMBATANT_DIED]);
        assert_eq!(topics.path(damage_topic(DamageTypeId(1))).unwrap_or_default(), "damage.dealt.heat");
        assert_eq!(topics.family("dama"), None);
    }
}
