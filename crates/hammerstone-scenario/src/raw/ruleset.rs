//! Rulesets as they are written.

use indexmap::IndexMap;
use serde::Deserialize;
use toml::Spanned;

use super::*;

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct RulesFile {
    pub(crate) rules: General,
    #[serde(default)]
    pub(crate) amount: Amount,
    #[serde(default = "IndexMap::new")]
    pub(crate) team: Named<Team>,
    #[serde(default = "IndexMap::new")]
    pub(crate) shield: Named<Shield>,
    #[serde(default = "IndexMap::new")]
    pub(crate) status: Named<Status>,
    #[serde(default = "IndexMap::new")]
    pub(crate) attack: Named<Attack>,
    #[serde(default = "IndexMap::new")]
    pub(crate) template: Named<Template>,
    #[serde(default = "IndexMap::new")]
    pub(crate) topic: Named<Named<Name>>,
    #[serde(default = "IndexMap::new")]
    pub(crate) spot: Named<Spot>,
    #[serde(default = "IndexMap::new")]
    pub(crate) waves: Named<Waves>,
    #[serde(default = "IndexMap::new")]
    pub(crate) rule: Named<Rule>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct General {
    pub(crate) rate: Spanned<u32>,
    pub(crate) up: Option<Name>,
    pub(crate) move_limit: Option<Number>,
    pub(crate) assist_window: Option<Time>,
    pub(crate) cascade: Option<Cascade>,
    #[serde(default)]
    pub(crate) both_land: bool,
    pub(crate) child_limit: Option<u16>,
    pub(crate) death_credit: Option<Time>,
    pub(crate) hit_stop_limit: Option<Time>,
    pub(crate) maximum: Option<Maximum>,
    #[serde(default = "IndexMap::new")]
    pub(crate) stats: Named<Number>,
    #[serde(default)]
    pub(crate) own_steps: Vec<Name>,
    #[serde(default)]
    pub(crate) damage_types: Vec<Name>,
    #[serde(default)]
    pub(crate) layers: Vec<Name>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
    #[serde(default)]
    pub(crate) reasons: Vec<Name>,
    #[serde(default)]
    pub(crate) outcomes: Vec<Name>,
    #[serde(default)]
    pub(crate) flags: Vec<Name>,
    #[serde(default)]
    pub(crate) counters: Vec<Name>,
    #[serde(default)]
    pub(crate) scores: Vec<Name>,
    #[serde(default)]
    pub(crate) values: Vec<Name>,
    #[serde(default)]
    pub(crate) outside: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Cascade {
    pub(crate) depth: u16,
    pub(crate) per_root: u32,
    pub(crate) per_tick: u32,
}

#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Amount {
    pub(crate) steps: Option<Vec<Name>>,
    pub(crate) floor: Option<Spanned<i64>>,
    pub(crate) cap: Option<Spanned<i64>>,
    pub(crate) rounding: Option<Name>,
    pub(crate) heal_steps: Option<Vec<Name>>,
    pub(crate) critical: Option<Critical>,
    #[serde(default = "IndexMap::new")]
    pub(crate) relations: Named<Number>,
    pub(crate) armour: Option<Armour>,
    pub(crate) overheal: Option<Overheal>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Maximum {
    pub(crate) stat: Name,
    pub(crate) keep: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Critical {
    pub(crate) chance: Number,
    pub(crate) times: Number,
    pub(crate) chance_stat: Option<Name>,
    pub(crate) times_stat: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Armour {
    pub(crate) flat: Option<Name>,
    pub(crate) curve: Option<Curve>,
    #[serde(default)]
    pub(crate) damage_types: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Curve {
    pub(crate) stat: Name,
    pub(crate) half: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Overheal {
    pub(crate) shield: Name,
    pub(crate) share: Number,
    pub(crate) max: Spanned<i64>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Shield {
    #[serde(default)]
    pub(crate) damage_types: Vec<Name>,
}

/// A change of amounts: which, and by how much.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct AmountChange {
    pub(crate) damage_type: Option<Name>,
    #[serde(default)]
    pub(crate) against: Vec<Name>,
    pub(crate) add: Option<Number>,
    pub(crate) add_share: Option<Number>,
    pub(crate) multiply: Option<Number>,
    pub(crate) set: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Grant {
    pub(crate) on: Name,
    pub(crate) status: Name,
    pub(crate) strength: Option<Number>,
    #[serde(default)]
    pub(crate) to_other: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Scaling {
    pub(crate) of: Name,
    pub(crate) stat: Name,
    pub(crate) adds: Option<Number>,
    pub(crate) shares: Option<Number>,
    pub(crate) damage_type: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct FallOff {
    pub(crate) near: Number,
    pub(crate) far: Number,
    pub(crate) least: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct SelfStatus {
    pub(crate) status: Name,
    pub(crate) from: Time,
    pub(crate) to: Time,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Knockback {
    pub(crate) metres: Number,
    pub(crate) over: Time,
    pub(crate) lift: Option<Number>,
    pub(crate) away: Option<Name>,
    #[serde(default)]
    pub(crate) moves: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct HitStop {
    pub(crate) attacker: Option<Time>,
    pub(crate) target: Option<Time>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Stagger {
    pub(crate) at: Number,
    pub(crate) recovers: Option<Number>,
    pub(crate) status: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Guard {
    pub(crate) takes: Number,
    pub(crate) within: Number,
    pub(crate) breaks_after: Option<Spanned<i64>>,
    #[serde(default)]
    pub(crate) damage_types: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct ShieldOf {
    pub(crate) of: Name,
    pub(crate) points: Spanned<i64>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct PreventsDeath {
    pub(crate) leaves: Spanned<i64>,
    pub(crate) limit: Spanned<i64>,
    #[serde(default)]
    pub(crate) ends: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct SharedDamage {
    pub(crate) share: Number,
    pub(crate) damage_type: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Strength {
    pub(crate) captured: Option<Name>,
    pub(crate) live: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Broken {
    #[serde(default)]
    pub(crate) gone: bool,
    pub(crate) multiplier: Option<Number>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
    pub(crate) sphere: Option<Sphere>,
    pub(crate) capsule: Option<Capsule>,
    #[serde(rename = "box")]
    pub(crate) block: Option<Block>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Team {
    #[serde(default)]
    pub(crate) allies: Vec<Name>,
    #[serde(default)]
    pub(crate) neutral: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Status {
    pub(crate) lasts: Option<Time>,
    pub(crate) pulse: Option<Pulse>,
    #[serde(default)]
    pub(crate) stuns: bool,
    #[serde(default)]
    pub(crate) invulnerable: bool,
    #[serde(default)]
    pub(crate) lets_through: Vec<Name>,
    pub(crate) stacking: Option<Name>,
    pub(crate) max_stacks: Option<Spanned<i64>>,
    pub(crate) strength: Option<Strength>,
    pub(crate) guard: Option<Guard>,
    pub(crate) shield: Option<ShieldOf>,
    pub(crate) prevents_death: Option<PreventsDeath>,
    pub(crate) reflects: Option<SharedDamage>,
    pub(crate) transfers: Option<SharedDamage>,
    #[serde(default)]
    pub(crate) changes: Vec<Spanned<Change>>,
    #[serde(default)]
    pub(crate) deals: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub(crate) takes: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub(crate) gives_healing: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub(crate) takes_healing: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub(crate) grants: Vec<Grant>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
    #[serde(default)]
    pub(crate) adds_tags: Vec<Name>,
    #[serde(default)]
    pub(crate) barred_by: Vec<Name>,
    #[serde(default)]
    pub(crate) lifted_by: Vec<Name>,
    #[serde(default)]
    pub(crate) lifts: Vec<Name>,
    #[serde(default)]
    pub(crate) across_lives: bool,
    pub(crate) kills_on_expiry: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Pulse {
    pub(crate) every: Time,
    pub(crate) first: Option<Name>,
    #[serde(default = "IndexMap::new")]
    pub(crate) damage: Damage,
    pub(crate) heal: Option<Spanned<Range>>,
    #[serde(default)]
    pub(crate) absolute: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Attack {
    pub(crate) form: Name,
    pub(crate) startup: Option<Time>,
    pub(crate) active: Option<Spanned<Active>>,
    pub(crate) recovery: Option<Time>,
    pub(crate) marked: Option<Time>,
    pub(crate) projectile: Option<Spanned<Projectile>>,
    pub(crate) beam: Option<Spanned<Beam>>,
    pub(crate) charge: Option<Charge>,
    pub(crate) chain: Option<ChainTo>,
    pub(crate) every: Option<Time>,
    pub(crate) sharing: Option<Name>,
    pub(crate) prefer: Option<Name>,
    pub(crate) max_targets: Option<Spanned<i64>>,
    #[serde(default)]
    pub(crate) needs_tags: Vec<Name>,
    #[serde(default)]
    pub(crate) spares_tags: Vec<Name>,
    pub(crate) only_from: Option<OnlyFrom>,
    #[serde(default)]
    pub(crate) clear_line: bool,
    #[serde(default)]
    pub(crate) ignores: Vec<Name>,
    #[serde(default)]
    pub(crate) passing_spends: bool,
    #[serde(default)]
    pub(crate) tells_held: bool,
    #[serde(default)]
    pub(crate) alongside: bool,
    pub(crate) outlives: Option<bool>,
    #[serde(default)]
    pub(crate) guided: bool,
    /// It is nobody's: a trap, the weather.
    #[serde(default)]
    pub(crate) ownerless: bool,
    pub(crate) clash: Option<Clash>,
    #[serde(default)]
    pub(crate) children: Vec<Child>,
    #[serde(default = "IndexMap::new")]
    pub(crate) damage: Damage,
    pub(crate) meets: Option<Vec<Name>>,
    pub(crate) strikes: Option<Vec<Name>>,
    pub(crate) policy: Option<Name>,
    #[serde(default)]
    pub(crate) inflicts: Vec<Spanned<Given>>,
    #[serde(default)]
    pub(crate) inflicts_self: Vec<Spanned<Given>>,
    #[serde(default)]
    pub(crate) aura: Vec<Spanned<Given>>,
    #[serde(default)]
    pub(crate) self_status: Vec<SelfStatus>,
    pub(crate) heals: Option<Spanned<Range>>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
    #[serde(default)]
    pub(crate) scaling: Vec<Spanned<Scaling>>,
    pub(crate) critical: Option<Critical>,
    #[serde(default)]
    pub(crate) never_critical: bool,
    pub(crate) fall_off: Option<FallOff>,
    #[serde(default)]
    pub(crate) absolute: bool,
    #[serde(default)]
    pub(crate) live: bool,
    pub(crate) knockback: Option<Knockback>,
    pub(crate) hit_stop: Option<HitStop>,
    pub(crate) stagger_damage: Option<Number>,
    #[serde(default)]
    pub(crate) hitboxes: Vec<Spanned<Hitbox>>,
    #[serde(default)]
    pub(crate) path: Vec<Spanned<Key>>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Projectile {
    pub(crate) from: Option<Vector>,
    pub(crate) speed: Number,
    pub(crate) gravity: Option<Number>,
    pub(crate) lifetime: Time,
    pub(crate) pierce: Option<u16>,
    pub(crate) pellets: Option<u16>,
    pub(crate) spread: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Beam {
    pub(crate) from: Option<Vector>,
    pub(crate) reach: Number,
    pub(crate) radius: Option<Number>,
    pub(crate) pierce: Option<u16>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Charge {
    pub(crate) least: Time,
    pub(crate) most: Time,
    pub(crate) full: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct ChainTo {
    pub(crate) next: Name,
    pub(crate) opens: Time,
    pub(crate) lapses: Time,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct OnlyFrom {
    pub(crate) side: Name,
    pub(crate) within: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Clash {
    pub(crate) layer: u8,
    pub(crate) meets: Vec<u8>,
    pub(crate) priority: Option<i16>,
    pub(crate) tie: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Child {
    pub(crate) when: Name,
    pub(crate) start: Name,
}

/// When an attack can hit: a time, or several windows.
#[derive(Debug)]
pub(crate) enum Active {
    For(String),
    Windows(Vec<Window>),
}

/// By hand, so that each window knows its place in the file.
impl<'de> Deserialize<'de> for Active {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Active, D::Error> {
        struct Visitor;

        impl<'de> serde::de::Visitor<'de> for Visitor {
            type Value = Active;

            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("a time, such as \"0.2s\", or a list of windows, such as [{ after = \"0s\", lasts = \"0.2s\" }]")
            }

            fn visit_str<E: serde::de::Error>(self, time: &str) -> Result<Active, E> {
                Ok(Active::For(time.to_owned()))
            }

            fn visit_seq<A: serde::de::SeqAccess<'de>>(self, mut list: A) -> Result<Active, A::Error> {
                let mut windows = Vec::new();
                while let Some(window) = list.next_element()? {
                    windows.push(window);
                }
                Ok(Active::Windows(windows))
            }
        }

        deserializer.deserialize_any(Visitor)
    }
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Window {
    pub(crate) after: Time,
    pub(crate) lasts: Time,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Hitbox {
    pub(crate) group: Option<u16>,
    pub(crate) sphere: Option<Sphere>,
    pub(crate) capsule: Option<Capsule>,
    #[serde(rename = "box")]
    pub(crate) block: Option<Block>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Key {
    pub(crate) at: Time,
    pub(crate) place: Option<Vector>,
    pub(crate) turn: Option<Turn>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Template {
    pub(crate) team: Name,
    pub(crate) health: Spanned<i64>,
    pub(crate) corpse_time: Option<Time>,
    pub(crate) lives: Option<Lives>,
    #[serde(default = "IndexMap::new")]
    pub(crate) thresholds: Named<Spanned<Threshold>>,
    #[serde(default = "IndexMap::new")]
    pub(crate) values: Named<Spanned<i64>>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
    #[serde(default)]
    pub(crate) attacks: Vec<Name>,
    #[serde(default = "IndexMap::new")]
    pub(crate) resistance: Named<Number>,
    #[serde(default = "IndexMap::new")]
    pub(crate) stats: Named<Number>,
    #[serde(default = "IndexMap::new")]
    pub(crate) shields: Named<Spanned<i64>>,
    #[serde(default)]
    pub(crate) deals: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub(crate) takes: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub(crate) gives_healing: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub(crate) takes_healing: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub(crate) grants: Vec<Grant>,
    pub(crate) stagger: Option<Stagger>,
    #[serde(default)]
    pub(crate) never_critical: bool,
    #[serde(default = "IndexMap::new")]
    pub(crate) part: Named<Part>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Part {
    pub(crate) layer: Option<Name>,
    pub(crate) multiplier: Option<Number>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
    pub(crate) points: Option<Spanned<i64>>,
    pub(crate) broken: Option<Broken>,
    pub(crate) sphere: Option<Sphere>,
    pub(crate) capsule: Option<Capsule>,
    #[serde(rename = "box")]
    pub(crate) block: Option<Block>,
}
