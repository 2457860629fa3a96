//! Findings that need to know what is mentioned where: one-sided set-up, statuses, and rules that can never fire.

use std::collections::BTreeMap;

use hammerstone::Ruleset;
use hammerstone::attack::{Attack, Form};
use hammerstone::geometry::Shape;
use hammerstone::ids::{GaugeId, LayerId};
use hammerstone::team::Relations;
use hammerstone::template::Template;
use toml::de::{DeTable, DeValue};

use super::rules::Checked;
use super::{Doubt, Pool};

/// Every value of a file, with the keys that lead to it; found by a key, by a text, and by where it stands.
#[derive(Default)]
struct Mentions {
    all: Vec<(Vec<String>, Option<String>)>,
    by_key: BTreeMap<String, Vec<usize>>,
    by_text: BTreeMap<String, Vec<usize>>,
    by_start: BTreeMap<[String; 2], Vec<usize>>,
}

impl Mentions {
    fn of<'t>(texts: impl IntoIterator<Item = &'t str>) -> Mentions {
        let mut all = Mentions::default();
        for text in texts {
            if let Ok(table) = DeTable::parse(text) {
                all.walk(&mut Vec::new(), &DeValue::Table(table.into_inner()));
            }
        }
        all
    }

    fn walk(&mut self, keys: &mut Vec<String>, value: &DeValue<'_>) {
        match value {
            DeValue::Table(table) => {
                for (key, value) in table {
                    keys.push(key.get_ref().to_string());
                    self.walk(keys, value.get_ref());
                    keys.pop();
                }
            }
            DeValue::Array(list) => list.iter().for_each(|value| self.walk(keys, value.get_ref())),
            DeValue::String(text) => self.add(keys, Some(text.to_string())),
            _ => self.add(keys, None),
        }
    }

    fn add(&mut self, keys: &[String], text: Option<String>) {
        let place = self.all.len();
        for key in keys {
            let places = self.by_key.entry(key.clone()).or_default();
            if places.last() != Some(&place) {
                places.push(place);
            }
        }
        if let [first, second, ..] = keys {
            self.by_start.entry([first.clone(), second.clone()]).or_default().push(place);
        }
        if let Some(text) = &text {
            self.by_text.entry(text.clone()).or_default().push(place);
        }
        self.all.push((keys.to_vec(), text));
    }

    fn at<'a>(
        &'a self,
        places: Option<&'a Vec<usize>>,
    ) -> impl Iterator<Item = &'a (Vec<String>, Option<String>)> {
        places.into_iter().flatten().map(|&place| &self.all[place])
    }

    /// Whether any value stands under a key of that name.
    fn key(&self, wanted: &str) -> bool {
        self.by_key.contains_key(wanted)
    }

    /// Whether a text stands somewhere, where the keys that lead there are of the right sort.
    fn text(&self, wanted: &str, right: impl Fn(&[String]) -> bool) -> bool {
        self.at(self.by_text.get(wanted)).any(|(keys, _)| right(keys))
    }

    /// Whether a number is read by its name anywhere: in a condition, an amount, a line.
    fn reads(&self, reading: &str) -> bool {
        let blank = format!("{{{reading}}}");
        self.by_text.keys().any(|text| text == reading || text.contains(&blank))
    }

    /// What stands under some keys, two or more, from the root on: the keys that go on from there, and the text.
    fn under<'a>(&'a self, first: &'a [&str]) -> impl Iterator<Item = (&'a [String], Option<&'a str>)> {
        let starts = move |keys: &[String]| {
            keys.len() >= first.len() && keys.iter().zip(first).all(|(key, wanted)| key == wanted)
        };
        let start = [first[0].to_owned(), first[1].to_owned()];
        self.at(self.by_start.get(&start))
            .filter(move |(keys, _)| starts(keys))
            .map(|(keys, text)| (&keys[first.len()..], text.as_deref()))
    }

    /// Whether a key stands somewhere within another.
    fn within(&self, outer: &str, inner: &str) -> bool {
        self.at(self.by_key.get(inner)).any(|(keys, _)| {
            let outer = keys.iter().position(|key| key == outer);
            outer.is_some_and(|outer| keys[outer + 1..].iter().any(|key| key == inner))
        })
    }
}

fn has(keys: &[String], any: &[&str]) -> bool {
    keys.iter().any(|key| any.contains(&key.as_str()))
}

/// Keys under which a status is named without being given.
const NAMED_ONLY: [&str; 6] = ["ignores", "when", "lift", "expect", "lifted-by", "barred-by"];

impl Checked<'_> {
    /// Attacks that stay within the body, parts that nothing meets.
    pub(crate) fn check_set_up(&self) -> Vec<Doubt> {
        let rules: &Ruleset = &self.ruleset;
        let ruleset = Mentions::of([self.code.text.as_ref()]);
        let mut doubts = Vec::new();
        let users = self.users();
        // What strikes no one is a stance, and need reach nowhere.
        let strikes = |attack: &&Attack| attack.struck_relations() != Relations::NONE;
        for attack in rules.attacks().iter().filter(|attack| attack.form() == Form::Melee).filter(strikes) {
            let Some(id) = rules.find_attack(attack.name()) else { continue };
            let reach = rules.timings(id).and_then(|times| times.reach);
            for &user in &users[id.index()] {
                let user = &rules.templates()[user.index()];
                let own = girth(user, rules);
                // What comes from above or below leaves the body that way.
                let only_from = ["attack", attack.name(), "only-from"];
                let level = ruleset.under(&only_from).next().is_none();
                if let Some(reach) = reach.filter(|&reach| level && reach <= own) {
                    let message = format!(
                        "attack `{}` reaches {reach:.2} m, and the body of `{}` is {own:.2} m wide",
                        attack.name(),
                        user.name()
                    );
                    let fix = "let its hitboxes or its path lead out of the body";
                    doubts.push(self.doubt_at(9, &["attack", attack.name()], message, fix));
                }
            }
        }
        let meets = |layer: &LayerId| rules.attacks().iter().any(|attack| attack.meets_layer(*layer));
        let met: Vec<LayerId> = rules.layers().filter(meets).collect();
        for template in rules.templates() {
            for part in template.parts() {
                let layer = part.layer_of();
                if !rules.attacks().is_empty() && !met.contains(&layer) {
                    let name = rules.layer_name(layer).unwrap_or_default();
                    let message = format!(
                        "the {} of `{}` lies on the layer `{name}`, which no attack meets",
                        part.name(),
                        template.name()
                    );
                    let fix =
                        format!("add `{name}` to the `meets` of an attack, or put the part on another layer");
                    doubts.push(self.doubt_at(
                        10,
                        &["template", template.name(), "part", part.name()],
                        message,
                        &fix,
                    ));
                }
            }
        }
        doubts
    }
}

/// How far the parts of a template reach from its axis, in metres, seen from above.
fn girth(template: &Template, rules: &Ruleset) -> f32 {
    let level = |[x, y, z]: [f32; 3]| match rules.up() {
        hammerstone::geometry::Axis::X => y.hypot(z),
        hammerstone::geometry::Axis::Y => x.hypot(z),
        hammerstone::geometry::Axis::Z => x.hypot(y),
    };
    let of = |shape: Shape| match shape {
        Shape::Sphere { at, radius } => level(at) + radius,
        Shape::Capsule { from, to, radius } => level(from).max(level(to)) + radius,
        Shape::Box { pose, half } => level(pose.at) + level(half),
    };
    template.parts().iter().map(|part| of(part.shape_of())).fold(0.0, f32::max)
}

impl Pool<'_> {
    /// Statuses that nothing gives or lifts, rules that can never fire, flags and counters that no one asks for: by what the ruleset
    /// and the scripts mention.
    pub(crate) fn check_what_comes(&self) -> Vec<Doubt> {
        let ruleset = Mentions::of([self.rules.code.text.as_ref()]);
        let script = Mentions::of(self.scenarios.iter().map(|one| one.text.as_str()));
        let (ruleset, script) = (&ruleset, &script);
        let mut doubts = self.statuses(ruleset, script);
        let rules: &Ruleset = &self.rules.ruleset;
        for rule in rules.rules() {
            let name = rule.name();
            let paths = || {
                rules.topics_of(rule).into_iter().map(|topic| rules.topics().path(topic).unwrap_or_default())
            };
            let own = rules.topics_of(rule).iter().any(|&topic| rules.topics().host_topic(topic).is_some());
            if !own && paths().all(|path| !can_come(path, ruleset, script)) {
                let message = format!(
                    "rule `{name}` hears `{}`, but no stage, rule or host publishes it",
                    rule.listens_to().0
                );
                let fix = "let something publish it, or take the rule out";
                doubts.push(self.rules.doubt_at(13, &["rule", name], message, fix));
            }
            let when = ["rule", name, "when"];
            for (keys, wanted) in ruleset.under(&when) {
                let (Some(last), Some(wanted)) = (keys.last(), wanted) else { continue };
                let comes = |template: &str| {
                    script.text(template, |keys| has(keys, &["combatant"]))
                        || ruleset.text(template, |keys| has(keys, &["waves"]))
                };
                let has_it = |template: &Template| {
                    ruleset.under(&["template", template.name(), "thresholds", wanted]).next().is_some()
                };
                let of_gauge = |gauge: GaugeId| {
                    let name = rules.gauge_name(gauge).unwrap_or_default();
                    ruleset.under(&["gauge", name, "thresholds", wanted]).next().is_some()
                };
                if last == "threshold"
                    && !rules.gauges().any(of_gauge)
                    && !rules.templates().iter().any(|template| has_it(template) && comes(template.name()))
                {
                    let message =
                        format!("rule `{name}` asks for the threshold `{wanted}`, but no combatant has it");
                    let fix = format!("add `{wanted}` to the `thresholds` of a template that comes");
                    doubts.push(self.rules.doubt_at(14, &["rule", name], message, &fix));
                }
                // That there is none may be just what a rule waits for.
                if last == "template" && !has(keys, &["alive"]) && !comes(wanted) {
                    let message = format!(
                        "rule `{name}` asks for `{wanted}`, which is neither placed nor in any waves"
                    );
                    let fix = "place one, let waves bring it, or take the condition out";
                    doubts.push(self.rules.doubt_at(15, &["rule", name], message, fix));
                }
            }
        }
        doubts.extend(self.unasked(ruleset, script));
        doubts
    }

    fn statuses(&self, ruleset: &Mentions, script: &Mentions) -> Vec<Doubt> {
        let rules: &Ruleset = &self.rules.ruleset;
        let mut doubts = Vec::new();
        for status in rules.statuses().iter().filter(|status| !self.is_outside(status.name())) {
            let name = status.name();
            let inflicts = |keys: &[String]| !has(keys, &NAMED_ONLY);
            let given = ruleset.text(name, inflicts) || script.text(name, inflicts);
            if !given {
                let message = format!("the status `{name}` is never applied");
                let fix = "let an attack, a status, a template, a rule or the script give it, or name it under `outside` of [rules] if your game or another scenario does";
                doubts.push(self.rules.doubt_at(11, &["status", name], message, fix));
            }
            let own = ["status", name];
            let of_it = |keys: &[&str]| {
                ruleset.under(&own).any(|(rest, _)| rest.iter().any(|key| keys.contains(&key.as_str())))
            };
            let tagged = ["status", name, "tags"];
            let mut tags = ruleset.under(&tagged).filter_map(|(_, tag)| tag);
            let lifted = |text: &str| {
                let lifts = |keys: &[String]| has(keys, &["lift", "lifts", "lift-family"]);
                ruleset.text(text, lifts) || script.text(text, lifts)
            };
            let tied = ruleset.text(name, |keys| has(keys, &["self-status", "aura"]));
            let ends = of_it(&["lasts", "lifted-by", "breaks-after", "ends", "kills-on-expiry", "shield"])
                || tied
                || lifted(name)
                || tags.any(lifted);
            if given && !ends {
                let message =
                    format!("nothing ends the status `{name}`: it has no `lasts`, and nothing lifts it");
                let fix = "say how long it `lasts` or what it is `lifted-by`, or name it under `outside` of [rules] if your game ends it";
                doubts.push(self.rules.doubt_at(12, &["status", name], message, fix));
            }
        }
        doubts
    }

    fn is_outside(&self, name: &str) -> bool {
        self.rules.outside.iter().any(|outside| outside == name)
    }

    /// Flags and counters that are changed, and that no rule asks for or hears.
    fn unasked(&self, ruleset: &Mentions, script: &Mentions) -> Vec<Doubt> {
        let rules: &Ruleset = &self.rules.ruleset;
        let mut doubts = Vec::new();
        let hears = |topic: &str| {
            let heard = |path: &str| path == topic;
            rules.rules().iter().any(|rule| {
                rules
                    .topics_of(rule)
                    .iter()
                    .any(|&topic| heard(rules.topics().path(topic).unwrap_or_default()))
            })
        };
        for (sort, changing, topic) in [
            ("flags", &["raise-flag", "lower-flag"][..], "flag.changed"),
            ("counters", &["count"], "counter.changed"),
        ] {
            let declared = ["rules", sort];
            for name in ruleset.under(&declared).filter_map(|(_, name)| name) {
                let changes = |keys: &[String]| has(keys, changing);
                let changed = ruleset.text(name, changes) || script.text(name, changes);
                // Whatever names it, but where it is declared or changed, asks for it.
                let asks = |keys: &[String]| !has(keys, changing) && !has(keys, &["rules"]);
                let reading = format!("counter.{name}");
                let read = sort == "counters" && (ruleset.reads(&reading) || script.reads(&reading));
                let asked = read || ruleset.text(name, asks) || ruleset.within("when", name);
                if changed && !asked && !hears(topic) && !self.is_outside(name) {
                    let message = format!("`{name}` of the {sort} is changed, and no rule asks for it");
                    let fix =
                        "let a rule ask for it, or name it under `outside` of [rules] if your game reads it";
                    doubts.push(self.rules.doubt_at(16, &["rules", sort], message, fix));
                }
            }
        }
        doubts
    }
}

/// Whether anything that is mentioned could publish a topic; where that cannot be told, it could.
fn can_come(path: &str, ruleset: &Mentions, script: &Mentions) -> bool {
    let any = |keys: &[&str]| keys.iter().any(|key| ruleset.key(key) || script.key(key));
    let family: Vec<&str> = path.split('.').collect();
    match family.as_slice() {
        ["encounter", "wave"] => any(&["start-waves"]),
        ["encounter", "round"] => any(&["next-round"]),
        ["encounter", "reset"] => any(&["reset"]),
        ["flag", _] => any(&["raise-flag", "lower-flag"]),
        ["counter", _] => any(&["count"]),
        ["score", _] => any(&["score"]),
        ["said"] => any(&["say"]),
        ["heal", _] => any(&["heal", "heals", "resistance"]),
        ["damage", "dealt", damage_type] => {
            let dealt = |mentions: &Mentions| {
                mentions.within("damage", damage_type)
                    || mentions.text(damage_type, |keys| has(keys, &["damage-type", "kills-on-expiry"]))
            };
            dealt(ruleset) || dealt(script)
        }
        ["shield", _] => any(&["shield", "shields", "raise-shield", "overheal"]),
        ["guard", _] => any(&["breaks-after"]),
        ["part", _] => any(&["broken", "points"]),
        ["leader", _] => any(&["follows", "follow", "leader"]),
        ["death", "spared"] => any(&["prevents-death"]),
        ["hit", "clashed"] => any(&["clash"]),
        ["hit", "pushed"] => any(&["knockback"]),
        ["hit", "stopped"] => any(&["hit-stop"]),
        ["hit", "staggered"] => any(&["stagger"]),
        ["attack", "chained" | "lapsed"] => any(&["chain"]),
        ["health", "crossed"] => any(&["thresholds"]),
        ["status", ..] => ruleset.key("status"),
        ["combatant", "away"] => any(&["send-away", "lives"]),
        ["combatant", "returned"] => any(&["bring-back", "lives", "kills-on-expiry"]),
        _ => true,
    }
}
