//! Rulesets as they are written.

use serde::Deserialize;
use toml::Spanned;

use super::*;

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct RulesFile {
    pub rules: General,
    #[serde(default)]
    pub amount: Amount,
    #[serde(default = "Named::new")]
    pub team: Named<Team>,
    #[serde(default = "Named::new")]
    pub shield: Named<Shield>,
    #[serde(default = "Named::new")]
    pub status: Named<Status>,
    #[serde(default = "Named::new")]
    pub attack: Named<Attack>,
    #[serde(default = "Named::new")]
    pub template: Named<Template>,
    #[serde(default = "Named::new")]
    pub topic: Named<Named<Name>>,
    #[serde(default = "Named::new")]
    pub spot: Named<Spot>,
    #[serde(default = "Named::new")]
    pub waves: Named<Waves>,
    #[serde(default = "Named::new")]
    pub rule: Named<Rule>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct General {
    pub rate: Spanned<u32>,
    pub up: Option<Name>,
    pub move_limit: Option<Number>,
    pub assist_window: Option<Time>,
    pub cascade: Option<Cascade>,
    #[serde(default)]
    pub both_land: bool,
    pub child_limit: Option<u16>,
    pub death_credit: Option<Time>,
    pub hit_stop_limit: Option<Time>,
    pub maximum: Option<Maximum>,
    #[serde(default = "Named::new")]
    pub stats: Named<Number>,
    #[serde(default)]
    pub own_steps: Vec<Name>,
    #[serde(default)]
    pub damage_types: Vec<Name>,
    #[serde(default)]
    pub layers: Vec<Name>,
    #[serde(default)]
    pub tags: Vec<Name>,
    #[serde(default)]
    pub reasons: Vec<Name>,
    #[serde(default)]
    pub outcomes: Vec<Name>,
    #[serde(default)]
    pub flags: Vec<Name>,
    #[serde(default)]
    pub counters: Vec<Name>,
    #[serde(default)]
    pub scores: Vec<Name>,
    #[serde(default)]
    pub values: Vec<Name>,
    #[serde(default)]
    pub outside: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Cascade {
    pub depth: u16,
    pub per_root: u32,
    pub per_tick: u32,
}

#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Amount {
    pub steps: Option<Vec<Name>>,
    pub floor: Option<Spanned<i64>>,
    pub cap: Option<Spanned<i64>>,
    pub rounding: Option<Name>,
    pub heal_steps: Option<Vec<Name>>,
    pub critical: Option<Critical>,
    #[serde(default = "Named::new")]
    pub relations: Named<Number>,
    pub armour: Option<Armour>,
    pub overheal: Option<Overheal>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Maximum {
    pub stat: Name,
    pub keep: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Critical {
    pub chance: Number,
    pub times: Number,
    pub chance_stat: Option<Name>,
    pub times_stat: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Armour {
    pub flat: Option<Name>,
    pub curve: Option<Curve>,
    #[serde(default)]
    pub damage_types: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Curve {
    pub stat: Name,
    pub half: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Overheal {
    pub shield: Name,
    pub share: Number,
    pub max: Spanned<i64>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Shield {
    #[serde(default)]
    pub damage_types: Vec<Name>,
}

/// A change of amounts: which, and by how much.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct AmountChange {
    pub damage_type: Option<Name>,
    #[serde(default)]
    pub against: Vec<Name>,
    pub add: Option<Number>,
    pub add_share: Option<Number>,
    pub multiply: Option<Number>,
    pub set: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Grant {
    pub on: Name,
    pub status: Name,
    pub strength: Option<Number>,
    #[serde(default)]
    pub to_other: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Scaling {
    pub of: Name,
    pub stat: Name,
    pub adds: Option<Number>,
    pub shares: Option<Number>,
    pub damage_type: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct FallOff {
    pub near: Number,
    pub far: Number,
    pub least: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct SelfStatus {
    pub status: Name,
    pub from: Time,
    pub to: Time,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Knockback {
    pub metres: Number,
    pub over: Time,
    pub lift: Option<Number>,
    pub away: Option<Name>,
    #[serde(default)]
    pub moves: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct HitStop {
    pub attacker: Option<Time>,
    pub target: Option<Time>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Stagger {
    pub at: Number,
    pub recovers: Option<Number>,
    pub status: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Guard {
    pub takes: Number,
    pub within: Number,
    pub breaks_after: Option<Spanned<i64>>,
    #[serde(default)]
    pub damage_types: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct ShieldOf {
    pub of: Name,
    pub points: Spanned<i64>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct PreventsDeath {
    pub leaves: Spanned<i64>,
    pub limit: Spanned<i64>,
    #[serde(default)]
    pub ends: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct SharedDamage {
    pub share: Number,
    pub damage_type: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Strength {
    pub captured: Option<Name>,
    pub live: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Broken {
    #[serde(default)]
    pub gone: bool,
    pub multiplier: Option<Number>,
    #[serde(default)]
    pub tags: Vec<Name>,
    pub sphere: Option<Sphere>,
    pub capsule: Option<Capsule>,
    #[serde(rename = "box")]
    pub block: Option<Block>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Team {
    #[serde(default)]
    pub allies: Vec<Name>,
    #[serde(default)]
    pub neutral: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Status {
    pub lasts: Option<Time>,
    pub pulse: Option<Pulse>,
    #[serde(default)]
    pub stuns: bool,
    #[serde(default)]
    pub invulnerable: bool,
    #[serde(default)]
    pub lets_through: Vec<Name>,
    pub stacking: Option<Name>,
    pub max_stacks: Option<Spanned<i64>>,
    pub strength: Option<Strength>,
    pub guard: Option<Guard>,
    pub shield: Option<ShieldOf>,
    pub prevents_death: Option<PreventsDeath>,
    pub reflects: Option<SharedDamage>,
    pub transfers: Option<SharedDamage>,
    #[serde(default)]
    pub changes: Vec<Spanned<Change>>,
    #[serde(default)]
    pub deals: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub takes: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub gives_healing: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub takes_healing: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub grants: Vec<Grant>,
    #[serde(default)]
    pub tags: Vec<Name>,
    #[serde(default)]
    pub adds_tags: Vec<Name>,
    #[serde(default)]
    pub barred_by: Vec<Name>,
    #[serde(default)]
    pub lifted_by: Vec<Name>,
    #[serde(default)]
    pub lifts: Vec<Name>,
    #[serde(default)]
    pub across_lives: bool,
    pub kills_on_expiry: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Pulse {
    pub every: Time,
    pub first: Option<Name>,
    #[serde(default = "Named::new")]
    pub damage: Damage,
    pub heal: Option<Spanned<Range>>,
    #[serde(default)]
    pub absolute: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Attack {
    pub form: Name,
    pub startup: Option<Time>,
    pub active: Option<Spanned<Active>>,
    pub recovery: Option<Time>,
    pub marked: Option<Time>,
    pub projectile: Option<Spanned<Projectile>>,
    pub beam: Option<Spanned<Beam>>,
    pub charge: Option<Charge>,
    pub chain: Option<ChainTo>,
    pub every: Option<Time>,
    pub sharing: Option<Name>,
    pub prefer: Option<Name>,
    pub max_targets: Option<Spanned<i64>>,
    #[serde(default)]
    pub needs_tags: Vec<Name>,
    #[serde(default)]
    pub spares_tags: Vec<Name>,
    pub only_from: Option<OnlyFrom>,
    #[serde(default)]
    pub clear_line: bool,
    #[serde(default)]
    pub ignores: Vec<Name>,
    #[serde(default)]
    pub passing_spends: bool,
    #[serde(default)]
    pub tells_held: bool,
    #[serde(default)]
    pub alongside: bool,
    pub outlives: Option<bool>,
    #[serde(default)]
    pub guided: bool,
    /// It is no one's: a trap, the weather.
    #[serde(default)]
    pub ownerless: bool,
    pub clash: Option<Clash>,
    #[serde(default)]
    pub children: Vec<Child>,
    #[serde(default = "Named::new")]
    pub damage: Damage,
    pub meets: Option<Vec<Name>>,
    pub strikes: Option<Vec<Name>>,
    pub policy: Option<Name>,
    #[serde(default)]
    pub inflicts: Vec<Spanned<Given>>,
    #[serde(default)]
    pub inflicts_self: Vec<Spanned<Given>>,
    #[serde(default)]
    pub aura: Vec<Spanned<Given>>,
    #[serde(default)]
    pub self_status: Vec<SelfStatus>,
    pub heals: Option<Spanned<Range>>,
    #[serde(default)]
    pub tags: Vec<Name>,
    #[serde(default)]
    pub scaling: Vec<Spanned<Scaling>>,
    pub critical: Option<Critical>,
    #[serde(default)]
    pub never_critical: bool,
    pub fall_off: Option<FallOff>,
    #[serde(default)]
    pub absolute: bool,
    #[serde(default)]
    pub live: bool,
    pub knockback: Option<Knockback>,
    pub hit_stop: Option<HitStop>,
    pub stagger_damage: Option<Number>,
    #[serde(default)]
    pub hitboxes: Vec<Spanned<Hitbox>>,
    #[serde(default)]
    pub path: Vec<Spanned<Key>>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Projectile {
    pub from: Option<Vector>,
    pub speed: Number,
    pub gravity: Option<Number>,
    pub lifetime: Time,
    pub pierce: Option<u16>,
    pub pellets: Option<u16>,
    pub spread: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Beam {
    pub from: Option<Vector>,
    pub reach: Number,
    pub radius: Option<Number>,
    pub pierce: Option<u16>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Charge {
    pub least: Time,
    pub most: Time,
    pub full: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct ChainTo {
    pub next: Name,
    pub opens: Time,
    pub lapses: Time,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct OnlyFrom {
    pub side: Name,
    pub within: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Clash {
    pub layer: u8,
    pub meets: Vec<u8>,
    pub priority: Option<i16>,
    pub tie: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Child {
    pub when: Name,
    pub start: Name,
}

/// When an attack can hit: a time, or several windows.
#[derive(Debug)]
pub enum Active {
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
pub struct Window {
    pub after: Time,
    pub lasts: Time,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Hitbox {
    pub group: Option<u16>,
    pub sphere: Option<Sphere>,
    pub capsule: Option<Capsule>,
    #[serde(rename = "box")]
    pub block: Option<Block>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Key {
    pub at: Time,
    pub place: Option<Vector>,
    pub turn: Option<Turn>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Template {
    pub team: Name,
    pub health: Spanned<i64>,
    pub corpse_time: Option<Time>,
    pub lives: Option<Lives>,
    #[serde(default = "Named::new")]
    pub thresholds: Named<Spanned<Threshold>>,
    #[serde(default = "Named::new")]
    pub values: Named<Spanned<i64>>,
    #[serde(default)]
    pub tags: Vec<Name>,
    #[serde(default)]
    pub attacks: Vec<Name>,
    #[serde(default = "Named::new")]
    pub resistance: Named<Number>,
    #[serde(default = "Named::new")]
    pub stats: Named<Number>,
    #[serde(default = "Named::new")]
    pub shields: Named<Spanned<i64>>,
    #[serde(default)]
    pub deals: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub takes: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub gives_healing: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub takes_healing: Vec<Spanned<AmountChange>>,
    #[serde(default)]
    pub grants: Vec<Grant>,
    pub stagger: Option<Stagger>,
    #[serde(default)]
    pub never_critical: bool,
    #[serde(default = "Named::new")]
    pub part: Named<Part>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Part {
    pub layer: Option<Name>,
    pub multiplier: Option<Number>,
    #[serde(default)]
    pub tags: Vec<Name>,
    pub points: Option<Spanned<i64>>,
    pub broken: Option<Broken>,
    pub sphere: Option<Sphere>,
    pub capsule: Option<Capsule>,
    #[serde(rename = "box")]
    pub block: Option<Block>,
}
