//! The files as they are written, before any name is looked up. Every value that can be wrong knows its place.

use indexmap::IndexMap;
use serde::Deserialize;
use toml::Spanned;

pub(crate) type Name = Spanned<String>;
/// A time as it is written: `"0.4s"` or `"24 ticks"`.
pub(crate) type Time = Spanned<String>;
pub(crate) type Number = Spanned<f64>;
pub(crate) type Vector = Spanned<[f64; 3]>;
pub(crate) type Named<T> = IndexMap<Name, T>;

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct RulesFile {
    pub(crate) rules: General,
    #[serde(default)]
    pub(crate) amount: Amount,
    #[serde(default = "IndexMap::new")]
    pub(crate) team: Named<Team>,
    #[serde(default = "IndexMap::new")]
    pub(crate) status: Named<Status>,
    #[serde(default = "IndexMap::new")]
    pub(crate) attack: Named<Attack>,
    #[serde(default = "IndexMap::new")]
    pub(crate) cast: Named<Cast>,
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
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Cascade {
    pub(crate) depth: u16,
    pub(crate) orders: u32,
}

#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Amount {
    pub(crate) steps: Option<Vec<Name>>,
    pub(crate) floor: Option<Spanned<i64>>,
    pub(crate) cap: Option<Spanned<i64>>,
    pub(crate) rounding: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Team {
    #[serde(default)]
    pub(crate) allies: Vec<Name>,
    #[serde(default)]
    pub(crate) neutral: Vec<Name>,
}

/// One amount or a range of amounts, by kind: `{ crush = 14, heat = [2, 5] }`.
pub(crate) type Harm = Named<Spanned<Range>>;

#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(untagged, expecting = "expected a whole number of points, or two: [least, most]")]
pub(crate) enum Range {
    One(i64),
    Between([i64; 2]),
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
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Beat {
    pub(crate) every: Time,
    pub(crate) first: Option<Name>,
    pub(crate) harm: Harm,
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
    pub(crate) gives: Vec<Name>,
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
pub(crate) struct Block {
    pub(crate) at: Vector,
    pub(crate) half: Vector,
    pub(crate) turn: Option<Turn>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Sphere {
    pub(crate) at: Vector,
    pub(crate) radius: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Capsule {
    pub(crate) from: Vector,
    pub(crate) to: Vector,
    pub(crate) radius: Number,
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
pub(crate) struct Turn {
    pub(crate) about: Vector,
    pub(crate) degrees: Number,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Cast {
    pub(crate) team: Name,
    pub(crate) health: Spanned<i64>,
    pub(crate) lies: Option<Time>,
    #[serde(default)]
    pub(crate) tags: Vec<Name>,
    #[serde(default)]
    pub(crate) attacks: Vec<Name>,
    #[serde(default = "IndexMap::new")]
    pub(crate) resistance: Named<Number>,
    #[serde(default = "IndexMap::new")]
    pub(crate) part: Named<Part>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Part {
    pub(crate) layer: Option<Name>,
    pub(crate) multiplier: Option<Number>,
    pub(crate) sphere: Option<Sphere>,
    pub(crate) capsule: Option<Capsule>,
    #[serde(rename = "box")]
    pub(crate) block: Option<Block>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct ScenarioFile {
    pub(crate) scenario: Heading,
    #[serde(default = "IndexMap::new")]
    pub(crate) combatant: Named<Combatant>,
    #[serde(default = "IndexMap::new")]
    pub(crate) obstacle: Named<Obstacle>,
    #[serde(default)]
    pub(crate) script: Vec<Spanned<Entry>>,
    #[serde(default)]
    pub(crate) expect: Vec<Spanned<Expect>>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Heading {
    pub(crate) title: String,
    pub(crate) rules: Name,
    pub(crate) lasts: Time,
    pub(crate) seed: Option<u64>,
    pub(crate) outcome: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Combatant {
    pub(crate) cast: Name,
    pub(crate) team: Option<Name>,
    pub(crate) at: Vector,
    pub(crate) facing: Option<Number>,
    pub(crate) count: Option<Spanned<i64>>,
    pub(crate) apart: Option<Vector>,
    #[serde(default)]
    pub(crate) path: Vec<Spanned<Leg>>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Leg {
    pub(crate) by: Time,
    pub(crate) to: Vector,
    pub(crate) facing: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Obstacle {
    pub(crate) sphere: Option<Sphere>,
    #[serde(rename = "box")]
    pub(crate) block: Option<Block>,
    pub(crate) ground: Option<Ground>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Ground {
    pub(crate) at: Vector,
    pub(crate) normal: Vector,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Unleash {
    pub(crate) attack: Name,
    pub(crate) team: Name,
    pub(crate) at: Vector,
    pub(crate) facing: Option<Number>,
}

/// One line of the script. Exactly one of the verbs is given.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Entry {
    pub(crate) at: Time,
    pub(crate) every: Option<Time>,
    pub(crate) times: Option<Spanned<i64>>,
    pub(crate) who: Option<Name>,
    pub(crate) by: Option<Name>,
    pub(crate) start: Option<Name>,
    pub(crate) aim: Option<Stand>,
    pub(crate) unleash: Option<Unleash>,
    pub(crate) mark: Option<Name>,
    pub(crate) release: Option<Spanned<bool>>,
    pub(crate) guide: Option<Guide>,
    pub(crate) report: Option<Report>,
    pub(crate) clear: Option<Name>,
    pub(crate) cancel: Option<Spanned<bool>>,
    pub(crate) place: Option<Stand>,
    #[serde(rename = "move")]
    pub(crate) moves: Option<Walk>,
    pub(crate) harm: Option<Harm>,
    pub(crate) heal: Option<Spanned<i64>>,
    pub(crate) reason: Option<Name>,
    pub(crate) apply: Option<Name>,
    pub(crate) lift: Option<Name>,
    pub(crate) send_away: Option<Spanned<bool>>,
    pub(crate) bring_back: Option<Stand>,
    pub(crate) remove: Option<Spanned<bool>>,
    pub(crate) end: Option<Name>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Stand {
    pub(crate) at: Vector,
    pub(crate) facing: Option<Number>,
    /// Degrees by which it looks up, after it is turned.
    pub(crate) raised: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Guide {
    pub(crate) place: Option<Vector>,
    pub(crate) turn: Option<Turn>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Report {
    pub(crate) target: Name,
    pub(crate) part: Name,
    pub(crate) point: Vector,
    pub(crate) normal: Vector,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Walk {
    pub(crate) to: Vector,
    pub(crate) over: Time,
    pub(crate) facing: Option<Number>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub(crate) struct Expect {
    pub(crate) topic: Option<Name>,
    #[serde(default = "IndexMap::new")]
    pub(crate) with: Named<toml::Value>,
    pub(crate) during: Option<[Time; 2]>,
    pub(crate) sum: Option<Name>,
    pub(crate) health_of: Option<Name>,
    pub(crate) at: Option<Time>,
    pub(crate) is: Option<i64>,
    pub(crate) at_least: Option<i64>,
    pub(crate) at_most: Option<i64>,
}
