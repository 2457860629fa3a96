//! What the table of facts is made with.

use super::field::{FieldInfo, FieldValue};
use super::{Event, Shown};
use crate::named::named;

named! {
    /// A stage of the tick, or what runs in it.
    pub enum Stage {
        /// Orders are carried out.
        Orders = "orders",
        /// Swings begin, go on and end.
        Swings = "swings",
        /// Open hitboxes meet parts.
        Contacts = "contacts",
        /// Hits, refusals and clashes, one by one.
        Blows = "blows",
        /// Statuses pulse and expire.
        Statuses = "statuses",
        /// Rules and hooks hear, and their orders are carried out.
        Passes = "passes",
        /// Combatants leave, return and come; the encounter ends.
        Departures = "departures",
    }
}

/// What a reaction of a rule brings about; see [`Reaction::effect`](crate::flow::Reaction::effect).
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Effect {
    /// A flag changes.
    Flag,
    /// A combatant is elsewhere, or waves stop: no fact tells of it.
    Place,
    /// A combatant goes over to another team.
    Team,
    /// The time of a combatant goes otherwise.
    Time,
    /// A combatant becomes one of another template.
    Transform,
    /// Holds end.
    LetGo,
    /// The game's minds are asked to do something.
    Request,
    /// A stand-in tells of a choice.
    TellChoice,
    /// A gauge changes.
    Gauge,
    /// A flag of a combatant changes.
    CombatantFlag,
    /// A counter changes.
    Count,
    /// A counter of a combatant changes.
    CombatantCount,
    /// A score changes.
    Score,
    /// Waves come, from a later tick on.
    Waves,
    /// A round begins.
    Round,
    /// A status is applied.
    Apply,
    /// Statuses are lifted.
    Lift,
    /// Damage is dealt.
    Damage,
    /// Health is restored.
    Heal,
    /// A swing begins, from the next tick on.
    Start,
    /// A combatant goes away.
    SendAway,
    /// A combatant returns.
    BringBack,
    /// A combatant is removed.
    Remove,
    /// A fact of the host's own is published.
    Publish,
    /// A line is said.
    Say,
    /// The encounter ends when the tick is over.
    End,
    /// The encounter begins again when the tick is over.
    Reset,
    /// Obstacles move, or are cleared.
    Obstacle,
    /// In the table: any that may be refused, which are those for a combatant, and waves. No reaction has it.
    Targeted,
    /// In the table: any at all. No reaction has it.
    Every,
}

impl Effect {
    /// Whether it is there within the tick; the others take their time.
    pub const fn is_at_once(self) -> bool {
        !matches!(self, Effect::Waves | Effect::Start | Effect::End | Effect::Reset)
    }

    /// Whether facts of a topic may come of it.
    pub fn leads_to(self, info: &TopicInfo) -> bool {
        let targeted = matches!(
            self,
            Effect::Apply
                | Effect::Lift
                | Effect::Damage
                | Effect::Heal
                | Effect::Start
                | Effect::SendAway
                | Effect::BringBack
                | Effect::Remove
                | Effect::Say
                | Effect::Place
                | Effect::Team
                | Effect::Request
                | Effect::Time
                | Effect::Transform
                | Effect::LetGo
                | Effect::Gauge
                | Effect::CombatantFlag
                | Effect::CombatantCount
                | Effect::Score
                | Effect::Waves
                | Effect::Obstacle
        );
        info.after.iter().any(|&of| of == self || of == Effect::Every || (of == Effect::Targeted && targeted))
    }
}

/// What is known of the facts of a topic, or of all topics of damage or of the host's own.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct TopicInfo {
    /// The topic's path; its beginning for damage (`damage.dealt`) and for the host's own (`host`).
    pub path: &'static str,
    /// The name of the struct that holds the fields, and of the variant of [`Event`].
    pub payload: &'static str,
    pub(super) doc: &'static str,
    /// The stages of the tick that publish it.
    pub stages: &'static [Stage],
    /// The effects of rules' reactions that may lead to it.
    pub after: &'static [Effect],
    /// The fields, in the order of the feed.
    pub fields: &'static [FieldInfo],
    /// How it is shown to people.
    pub shown: Shown,
    /// The sentence that tells it. `{field}` is a field in words, `{field|text}` text in place of an absent one, `{field?yes:no}` one of two
    /// texts; what stands in `[ ]` is left out where one of its fields is absent, 0 or empty, for what stands after a `|` in it.
    pub sentence: &'static str,
}

impl TopicInfo {
    /// What the fact says.
    pub fn meaning(&self) -> &'static str {
        self.doc.trim()
    }

    /// The field that has a tag, if one has it.
    pub fn field(&self, tag: super::Tag) -> Option<&'static FieldInfo> {
        self.fields.iter().find(|field| field.is(tag))
    }

    /// The names under which the feed writes its fields.
    pub fn keys(&self) -> impl Iterator<Item = &'static str> {
        self.fields.iter().flat_map(FieldInfo::keys)
    }
}

/// What a fact holds: one struct for each topic, all of damage, and all of the host's own.
pub trait Payload: Copy + Into<Event> {
    /// What is known of its topic.
    const INFO: TopicInfo;

    /// The payload of an event, if it is of this sort.
    fn of(event: &Event) -> Option<&Self>;

    /// Hands each field that is there to `each`, in the order of the feed.
    fn visit(&self, each: impl FnMut(&'static FieldInfo, FieldValue));
}

/// Does something if a list of tags has one.
macro_rules! with_tag {
    ($want:ident [] $then:block) => {};
    (Subject [Subject $($rest:ident)*] $then:block) => { $then };
    (Other [Other $($rest:ident)*] $then:block) => { $then };
    (Attack [Attack $($rest:ident)*] $then:block) => { $then };
    (Status [Status $($rest:ident)*] $then:block) => { $then };
    ($want:ident [$skip:ident $($rest:ident)*] $then:block) => { with_tag!($want [$($rest)*] $then) };
}

/// The name of a field in the feed: its own unless another is given.
macro_rules! key {
    ($field:ident) => {
        stringify!($field)
    };
    ($field:ident $key:literal) => {
        $key
    };
}

macro_rules! payloads {
    ($(
        $(#[doc = $doc:literal])+
        $name:ident = $path:literal, by [$($stage:ident)*], after [$($effect:ident)*], $shown:ident $sentence:literal {$(
            $(#[doc = $field_doc:literal])+
            $field:ident $(as $key:literal)? : $type:ty => $($tag:ident)+
        ),* $(,)?}
    )*) => {$(
        $(#[doc = $doc])+
        #[derive(Clone, Copy, PartialEq, Debug)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        #[non_exhaustive]
        pub struct $name {
            $($(#[doc = $field_doc])+ pub $field: $type),*
        }

        impl From<$name> for Event {
            fn from(payload: $name) -> Event {
                Event::$name(payload)
            }
        }

        impl Payload for $name {
            const INFO: TopicInfo = TopicInfo {
                path: $path,
                payload: stringify!($name),
                doc: concat!($($doc),+),
                stages: &[$(Stage::$stage),*],
                after: &[$(Effect::$effect),*],
                fields: &[$(FieldInfo {
                    name: stringify!($field),
                    key: key!($field $($key)?),
                    doc: concat!($($field_doc),+),
                    type_name: <$type as FieldType>::NAME,
                    code: <$type as FieldType>::CODE,
                    words: <$type as FieldType>::WORDS,
                    optional: <$type as FieldType>::OPTIONAL,
                    beside: <$type as FieldType>::BESIDE,
                    instead: <$type as FieldType>::INSTEAD,
                    tags: &[$(Tag::$tag),+],
                }),*],
                shown: Shown::$shown,
                sentence: $sentence,
            };

            fn of(event: &Event) -> Option<&$name> {
                match event {
                    Event::$name(payload) => Some(payload),
                    _ => None,
                }
            }

            #[allow(unused_mut, unused_variables, reason = "some have no fields")]
            fn visit(&self, mut each: impl FnMut(&'static FieldInfo, FieldValue)) {
                const FIELDS: &[FieldInfo] = <$name as Payload>::INFO.fields;
                let mut fields = FIELDS.iter();
                $(if let (Some(info), value) = (fields.next(), FieldType::value(self.$field))
                    && let Some(value) = value
                {
                    each(info, info.read(value));
                })*
            }
        }

        impl Roles for $name {
            #[allow(unreachable_code, reason = "a fact has one subject")]
            fn subject(&self) -> Option<CombatantId> {
                $(with_tag!(Subject [$($tag)+] { return FieldType::value(self.$field)?.combatant(); });)*
                None
            }

            #[allow(unreachable_code, reason = "a fact has one other party")]
            fn other(&self) -> Option<CombatantId> {
                $(with_tag!(Other [$($tag)+] { return FieldType::value(self.$field)?.combatant(); });)*
                None
            }

            #[allow(unreachable_code, reason = "a fact belongs to one attack")]
            fn attack(&self) -> Option<AttackId> {
                $(with_tag!(Attack [$($tag)+] { return FieldType::value(self.$field)?.attack(); });)*
                None
            }

            #[allow(unreachable_code, reason = "a fact belongs to one status")]
            fn status(&self) -> Option<StatusId> {
                $(with_tag!(Status [$($tag)+] { return FieldType::value(self.$field)?.status(); });)*
                None
            }
        }
    )*};
}

/// Who a payload is about, by the tags of its fields.
pub(super) trait Roles {
    fn subject(&self) -> Option<crate::ids::CombatantId>;
    fn other(&self) -> Option<crate::ids::CombatantId>;
    fn attack(&self) -> Option<crate::ids::AttackId>;
    fn status(&self) -> Option<crate::ids::StatusId>;
}

/// What is published: its topic is known before it is put together as an event.
pub(crate) trait Published: Into<Event> {
    fn topic(&self) -> crate::ids::TopicId;
}

impl Published for Event {
    fn topic(&self) -> crate::ids::TopicId {
        Event::topic(self)
    }
}

macro_rules! facts {
    (
        fixed {$(
            $(#[doc = $doc:literal])+
            $name:ident = $topic:ident $path:literal, by $stages:tt, after $effects:tt, $shown:ident $sentence:literal $fields:tt
        )*}
        by_damage_type {
            $(#[doc = $damage_doc:literal])+
            $damage:ident = $damage_path:literal, by $damage_stages:tt, after $damage_effects:tt, $damage_shown:ident $damage_sentence:literal $damage_fields:tt
        }
        of_the_host {
            $(#[doc = $host_doc:literal])+
            $host:ident = $host_path:literal, by $host_stages:tt, after $host_effects:tt, $host_shown:ident $host_sentence:literal $host_fields:tt
        }
    ) => {
        /// An event: what a fact says. Each topic has a struct of its own, with fixed fields.
        #[derive(Clone, Copy, PartialEq, Debug)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        #[non_exhaustive]
        pub enum Event {
            $($(#[doc = $doc])+ $name($name),)*
            $(#[doc = $damage_doc])+
            $damage($damage),
            $(#[doc = $host_doc])+
            $host($host),
        }

        payloads! {
            $($(#[doc = $doc])+ $name = $path, by $stages, after $effects, $shown $sentence $fields)*
            $(#[doc = $damage_doc])+
            $damage = $damage_path, by $damage_stages, after $damage_effects, $damage_shown $damage_sentence $damage_fields
            $(#[doc = $host_doc])+
            $host = $host_path, by $host_stages, after $host_effects, $host_shown $host_sentence $host_fields
        }

        /// The topics that every ruleset has, in the order of their ids.
        pub(crate) mod topics {
            use crate::ids::TopicId;

            #[allow(non_camel_case_types, clippy::upper_case_acronyms, reason = "they count the topics")]
            enum Order { $($topic,)* Count }

            $(
                #[doc = concat!("`", $path, "`")]
                pub const $topic: TopicId = TopicId(Order::$topic as u16);
            )*

            /// How many there are. `damage.dealt.TYPE` comes next, one for each damage type, and then those of the host.
            pub(crate) const COUNT: u16 = Order::Count as u16;
        }

        $(impl Published for $name {
            #[inline]
            fn topic(&self) -> TopicId {
                topics::$topic
            }
        })*

        impl Published for $damage {
            #[inline]
            fn topic(&self) -> TopicId {
                crate::event::damage_topic(self.damage_type)
            }
        }

        impl Published for $host {
            #[inline]
            fn topic(&self) -> TopicId {
                self.topic
            }
        }

        /// What is known of every topic, in the order of their ids; then of damage, and of the host's own topics.
        pub static TOPICS: &[TopicInfo] = &[
            $(<$name as Payload>::INFO,)*
            <$damage as Payload>::INFO,
            <$host as Payload>::INFO,
        ];

        impl Event {
            /// The topic that the event is published under.
            #[inline]
            pub fn topic(&self) -> TopicId {
                match self {
                    $(Event::$name(_) => topics::$topic,)*
                    Event::$damage(payload) => crate::event::damage_topic(payload.damage_type),
                    Event::$host(payload) => payload.topic,
                }
            }

            /// What is known of its topic.
            pub fn info(&self) -> &'static TopicInfo {
                let place = match self {
                    $(Event::$name(_) => topics::$topic.index(),)*
                    Event::$damage(_) => topics::COUNT as usize,
                    Event::$host(_) => topics::COUNT as usize + 1,
                };
                &TOPICS[place]
            }

            /// Hands each field that is there to `each`, in the order of the feed.
            pub fn visit(&self, each: impl FnMut(&'static FieldInfo, FieldValue)) {
                match self {
                    $(Event::$name(payload) => payload.visit(each),)*
                    Event::$damage(payload) => payload.visit(each),
                    Event::$host(payload) => payload.visit(each),
                }
            }

            /// The subject of the event: the one it happens to, or the attacker of an attack.
            pub fn subject(&self) -> Option<CombatantId> {
                match self {
                    $(Event::$name(payload) => payload.subject(),)*
                    Event::$damage(payload) => payload.subject(),
                    Event::$host(payload) => combatants_in(&payload.values).next(),
                }
            }

            /// The other party: the one who attacked, dealt, healed, applied or killed.
            pub fn other(&self) -> Option<CombatantId> {
                match self {
                    $(Event::$name(payload) => payload.other(),)*
                    Event::$damage(payload) => payload.other(),
                    Event::$host(payload) => combatants_in(&payload.values).nth(1),
                }
            }

            /// The attack that the event belongs to.
            pub fn attack(&self) -> Option<AttackId> {
                match self {
                    $(Event::$name(payload) => payload.attack(),)*
                    Event::$damage(payload) => payload.attack(),
                    Event::$host(_) => None,
                }
            }

            /// The status that the event belongs to.
            pub fn status(&self) -> Option<StatusId> {
                match self {
                    $(Event::$name(payload) => payload.status(),)*
                    Event::$damage(payload) => payload.status(),
                    Event::$host(_) => None,
                }
            }
        }
    };
}

pub(super) use {facts, key, payloads, with_tag};
