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
    pub(crate) cast: Named<Cast>,
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
    pub(crate) fall_credit: Option<Time>,
    pub(crate) stop_limit: Option<Time>,
    pub(crate) maximum: Option<Maximum>,
    #[serde(default = "IndexMap::new")]
    pub(crate) stats: Named<Number>,
    #[serde(default)]
    pub(crate) own_steps: Vec<Name>,
    #[serde(default)]
    pub(crate) kinds: Vec<Name>,
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
    pub(crate) kinds: Vec<Name>,
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
    pub(crate) most: Spanned<i64>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Shield {
    #[serde(default)]
    pub(crate) kinds: Vec<Name>,
}

/// A change of amounts: which, and by how much.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct AmountChange {
    pub(crate) kind: Option<Name>,
    #[serde(default)]
    pub(crate) against: Vec<Name>,
    pub(crate) raise: Option<Number>,
    pub(crate) share: Option<Number>,
    pub(crate) scale: Option<Number>,
    pub(crate) pin: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Gift {
    pub(crate) upon: Name,
    pub(crate) give: Name,
    pub(crate) strength: Option<Number>,
    #[serde(default)]
    pub(crate) to_other: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Draw {
    pub(crate) of: Name,
    pub(crate) stat: Name,
    pub(crate) adds: Option<Number>,
    pub(crate) shares: Option<Number>,
    pub(crate) kind: Option<Name>,
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
pub(crate) struct Bears {
    pub(crate) status: Name,
    pub(crate) from: Time,
    pub(crate) to: Time,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Push {
    pub(crate) metres: Number,
    pub(crate) over: Time,
    pub(crate) lift: Option<Number>,
    pub(crate) away: Option<Name>,
    #[serde(default)]
    pub(crate) moves: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Stop {
    pub(crate) attacker: Option<Time>,
    pub(crate) target: Option<Time>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Stagger {
    pub(crate) at: Number,
    pub(crate) wanes: Option<Number>,
    pub(crate) give: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Guard {
    pub(crate) takes: Number,
    pub(crate) within: Number,
    pub(crate) breaks_after: Option<Spanned<i64>>,
    #[serde(default)]
    pub(crate) kinds: Vec<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct ShieldOf {
    pub(crate) of: Name,
    pub(crate) points: Spanned<i64>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Reprieve {
    pub(crate) leaves: Spanned<i64>,
    pub(crate) limit: Spanned<i64>,
    #[serde(default)]
    pub(crate) ends: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Passing {
    pub(crate) share: Number,
    pub(crate) kind: Option<Name>,
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
    pub(crate) beat: Option<Beat>,
    #[serde(default)]
    pub(crate) stuns: bool,
    #[serde(default)]
    pub(crate) protects: bool,
    #[serde(default)]
    pub(crate) lets_through: Vec<Name>,
    pub(crate) again: Option<Name>,
    pub(crate) pile: Option<Spanned<i64>>,
    pub(crate) strength: Option<Strength>,
    pub(crate) guard: Option<Guard>,
    pub(crate) shield: Option<ShieldOf>,
    pub(crate) reprieve: Option<Reprieve>,
    pub(crate) reflects: Option<Passing>,
    pub(crate) transfers: Option<Passing>,
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
    pub(crate) when: Vec<Gift>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
    #[serde(default)]
    pub(crate) lends: Vec<Name>,
    #[serde(default)]
    pub(crate) barred_by: Vec<Name>,
    #[serde(default)]
    pub(crate) lifted_by: Vec<Name>,
    #[serde(default)]
    pub(crate) lifts: Vec<Name>,
    #[serde(default)]
    pub(crate) across_lives: bool,
    pub(crate) dooms: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Beat {
    pub(crate) every: Time,
    pub(crate) first: Option<Name>,
    #[serde(default = "IndexMap::new")]
    pub(crate) harm: Harm,
    pub(crate) heal: Option<Spanned<Range>>,
    #[serde(default)]
    pub(crate) absolute: bool,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Attack {
    pub(crate) form: Name,
    pub(crate) wind_up: Option<Time>,
    pub(crate) window: Option<Time>,
    pub(crate) windows: Option<Vec<Window>>,
    pub(crate) recovery: Option<Time>,
    pub(crate) marked: Option<Time>,
    pub(crate) thrown: Option<Spanned<Throw>>,
    pub(crate) beam: Option<Spanned<Beam>>,
    pub(crate) charge: Option<Charge>,
    pub(crate) chain: Option<ChainTo>,
    pub(crate) every: Option<Time>,
    pub(crate) sharing: Option<Name>,
    pub(crate) prefer: Option<Name>,
    pub(crate) most: Option<Spanned<i64>>,
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
    pub(crate) unleashed: bool,
    pub(crate) clash: Option<Clash>,
    #[serde(default)]
    pub(crate) children: Vec<Child>,
    #[serde(default = "IndexMap::new")]
    pub(crate) harm: Harm,
    pub(crate) meets: Option<Vec<Name>>,
    pub(crate) strikes: Option<Vec<Name>>,
    pub(crate) policy: Option<Name>,
    #[serde(default)]
    pub(crate) gives: Vec<Spanned<Given>>,
    #[serde(default)]
    pub(crate) gives_self: Vec<Spanned<Given>>,
    #[serde(default)]
    pub(crate) aura: Vec<Spanned<Given>>,
    #[serde(default)]
    pub(crate) bears: Vec<Bears>,
    pub(crate) heals: Option<Spanned<Range>>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
    #[serde(default)]
    pub(crate) draws: Vec<Spanned<Draw>>,
    pub(crate) critical: Option<Critical>,
    #[serde(default)]
    pub(crate) never_critical: bool,
    pub(crate) fall_off: Option<FallOff>,
    #[serde(default)]
    pub(crate) absolute: bool,
    #[serde(default)]
    pub(crate) live: bool,
    pub(crate) pushes: Option<Push>,
    pub(crate) stops: Option<Stop>,
    pub(crate) staggers: Option<Number>,
    #[serde(default)]
    pub(crate) volumes: Vec<Spanned<Volume>>,
    #[serde(default)]
    pub(crate) path: Vec<Spanned<Key>>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Throw {
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

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Window {
    pub(crate) after: Time,
    pub(crate) lasts: Time,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Volume {
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
pub(crate) struct Cast {
    pub(crate) team: Name,
    pub(crate) health: Spanned<i64>,
    pub(crate) lies: Option<Time>,
    pub(crate) lives: Option<Lives>,
    #[serde(default = "IndexMap::new")]
    pub(crate) thresholds: Named<Spanned<Threshold>>,
    #[serde(default = "IndexMap::new")]
    pub(crate) worth: Named<Spanned<i64>>,
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
    pub(crate) when: Vec<Gift>,
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
