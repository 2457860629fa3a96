//! Who publishes what, who listens to what, and how often each was published and heard in a run.

use crate::{Record, Tick};
use std::collections::{BTreeMap, BTreeSet};
use std::io::{self, Write};

use hammerstone::Ruleset;
use hammerstone::event::{Delivery, Listener};
use hammerstone::flow::{Condition, Held, Limit, Reaction, Rule};
use hammerstone::hooks::{Listen, Topical};
use hammerstone::ids::{HookId, RuleId, StatusId, SubscriptionId, TopicId};
use serde::Serialize;

use crate::Names;

/// What a run shows of the wiring. Facts must come with their deliveries ([`keep_deliveries`](hammerstone::Encounter::keep_deliveries)).
#[derive(Clone, Debug)]
pub struct Wiring {
    published: Vec<u64>,
    /// How often rules and hooks led to facts of a topic.
    led: BTreeMap<(Listener, TopicId), u64>,
    rules: BTreeMap<(RuleId, TopicId), Count>,
    /// Every subscription that there was.
    subscriptions: Vec<Subscribed>,
}

/// A subscription, and what became of the facts for which it asks.
#[derive(Clone, Debug)]
struct Subscribed {
    id: SubscriptionId,
    hook: HookId,
    listen: Listen,
    counts: BTreeMap<TopicId, Count>,
}

/// How often a listener heard facts of one topic, and how often it did not.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
struct Count {
    heard: u64,
    /// Of those that did not fit what it asks for.
    unfit: u64,
    paused: u64,
}

/// The wiring, ready to be written.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Diagram {
    /// Topics that were published or that someone listens to, in their order.
    pub topics: Vec<Wired>,
    /// Topics that were never published, and that no one listens to.
    pub unused: Vec<String>,
    /// Rules that may set each other off.
    pub loops: Vec<Loop>,
}

/// A topic with both of its sides.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Wired {
    /// The topic's path.
    pub topic: String,
    /// Who publishes it: stages of the tick, and rules.
    pub publishers: Vec<String>,
    /// How often rules and hooks led to it, by publisher; the rest comes of the stages themselves.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub led: BTreeMap<String, u64>,
    /// How often it was published.
    pub published: u64,
    /// How often it was heard.
    pub heard: u64,
    /// Who listens.
    pub listeners: Vec<Ear>,
    /// `silent`: someone listens, and it was never published. `deaf`: it was published, and no one heard it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mark: Option<&'static str>,
}

/// Someone who listens to a topic.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Ear {
    /// `rule` or `hook`.
    pub sort: &'static str,
    /// Its name.
    pub name: String,
    /// `exact`, `family` or `everything`.
    pub how: &'static str,
    /// How often at most, and under which conditions, in words.
    pub terms: Vec<String>,
    /// Higher hears first.
    pub priority: i16,
    /// With whom it ends.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub owner: Option<String>,
    /// How often it heard, or, for a rule, fired.
    pub heard: u64,
    /// How often a fact of the topic did not fit what it asks for: its parties, its filter, the conditions or the limit of a rule.
    #[serde(skip_serializing_if = "is_none")]
    pub unfit: u64,
    /// How often one came while it was paused.
    #[serde(skip_serializing_if = "is_none")]
    pub paused: u64,
}

fn is_none(count: &u64) -> bool {
    *count == 0
}

impl Ear {
    /// Whether facts came, and none of them ever fitted.
    pub fn never_fitted(&self) -> bool {
        self.heard == 0 && self.unfit > 0
    }
}

/// Rules that may set each other off, each the next, the last the first.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Loop {
    /// Their names.
    pub rules: Vec<String>,
    /// Whether it may go round within one tick, where only the ruleset's limit on cascades ends it; else it takes its time.
    pub within_a_tick: bool,
}

impl Wiring {
    /// Nothing published, no one heard.
    pub fn new(rules: &Ruleset) -> Wiring {
        Wiring {
            published: vec![0; rules.topics().count()],
            led: BTreeMap::new(),
            rules: BTreeMap::new(),
            subscriptions: Vec::new(),
        }
    }

    /// The whole, by topic.
    pub fn diagram(&self, rules: &Ruleset, names: &Names) -> Diagram {
        let mut topics = Vec::new();
        let mut unused = Vec::new();
        for (place, path) in rules.topics().paths().iter().enumerate() {
            let Some(topic) = rules.topics().find(path) else { continue };
            let published = self.published[place];
            let listeners = self.ears(rules, names, topic);
            if published == 0 && listeners.is_empty() {
                unused.push(path.clone());
                continue;
            }
            let heard = listeners.iter().map(|ear| ear.heard).sum();
            let mark = match (published, heard) {
                (0, _) => Some("never-published"),
                (_, 0) => Some("unheard"),
                _ => None,
            };
            let publishers = publishers(rules, topic);
            let led = self.led.iter().filter(|((_, of), _)| *of == topic);
            let led =
                led.map(|((listener, _), count)| (publisher(rules, names, *listener), *count)).collect();
            topics.push(Wired { topic: path.clone(), publishers, led, published, heard, listeners, mark });
        }
        Diagram { topics, unused, loops: loops(rules) }
    }

    fn ears(&self, rules: &Ruleset, names: &Names, topic: TopicId) -> Vec<Ear> {
        let mut ears = Vec::new();
        for (place, rule) in rules.rules().iter().enumerate() {
            if let Some(id) = rules.find_rule(rule.name())
                && rules.topics_of(rule).contains(&topic)
            {
                debug_assert_eq!(id.index(), place);
                let Count { heard, unfit, paused } =
                    self.rules.get(&(id, topic)).copied().unwrap_or_default();
                ears.push(Ear {
                    sort: "rule",
                    name: rule.name().to_owned(),
                    how: if rule.listens_to().1 { "under" } else { "to" },
                    terms: terms(rule.limit_of(), rule.conditions().iter().map(|one| one.name())),
                    priority: rule.priority_of(),
                    owner: None,
                    heard,
                    unfit,
                    paused,
                });
            }
        }
        for Subscribed { hook, listen, counts, .. } in &self.subscriptions {
            let (hook, listen) = (*hook, *listen);
            if listen.filter().is_some_and(|filter| !rules.lets(filter, topic)) {
                continue;
            }
            let how = match listen.topical() {
                Topical::To(exact) if exact == topic => "to",
                Topical::Under(family) if rules.topics().members(family).contains(&topic) => "under",
                Topical::All => "all",
                _ => continue,
            };
            let name = hook_name(names, hook);
            let mut terms = Vec::new();
            terms.extend(listen.is_once().then(|| "once".to_owned()));
            terms.extend(listen.subject().map(|who| format!("about {}", names.of(who))));
            terms.extend(listen.other_party().map(|who| format!("by {}", names.of(who))));
            terms.extend(
                listen.team().map(|team| format!("team {}", rules.team_name(team).unwrap_or_default())),
            );
            terms.extend(listen.tag().map(|tag| format!("tag {}", rules.tag_name(tag).unwrap_or_default())));
            terms.extend(
                listen
                    .filter()
                    .map(|filter| format!("fitting {}", rules.filter_name(filter).unwrap_or_default())),
            );
            terms.extend((listen.bound_number() != 0).then(|| format!("bound to {}", listen.bound_number())));
            let owner = listen.owner().map(|who| names.of(who).to_owned());
            let owner = owner.or_else(|| listen.owner_number().map(|number| format!("number {number}")));
            let priority = listen.priority_of();
            let Count { heard, unfit, paused } = counts.get(&topic).copied().unwrap_or_default();
            ears.push(Ear { sort: "hook", name, how, terms, priority, owner, heard, unfit, paused });
        }
        ears.sort_by_key(|ear| (ear.sort == "hook", std::cmp::Reverse(ear.priority)));
        ears
    }
}

impl Record for Wiring {
    fn observe(&mut self, tick: &Tick<'_>) {
        let (facts, view) = (&tick.facts, tick.view());
        // Those that were there before the tick, and still are, hear each of its facts or do not.
        let all_along: Vec<usize> = (0..self.subscriptions.len())
            .filter(|&place| view.subscriptions().any(|(id, ..)| id == self.subscriptions[place].id))
            .collect();
        for (id, hook, listen) in view.subscriptions() {
            if !self.subscriptions.iter().any(|known| known.id == id) {
                self.subscriptions.push(Subscribed { id, hook, listen, counts: BTreeMap::new() });
            }
        }
        for fact in facts.facts {
            let topic = fact.event.topic();
            self.published[topic.index()] += 1;
            if let Some(by) = fact.by {
                *self.led.entry((by, topic)).or_default() += 1;
            }
        }
        let of = |seq| facts.of(seq).map(|fact| fact.event.topic());
        for delivery in facts.deliveries {
            let Some(topic) = of(delivery.seq) else { continue };
            match (delivery.listener, delivery.subscription) {
                (Listener::Rule(rule), _) => self.rules.entry((rule, topic)).or_default().heard += 1,
                (Listener::Hook(_), id) => {
                    let known = self.subscriptions.iter_mut().find(|known| Some(known.id) == id);
                    if let Some(known) = known {
                        known.counts.entry(topic).or_default().heard += 1;
                    }
                }
            }
        }
        for declined in facts.declined {
            if let Some(topic) = of(declined.seq) {
                self.rules.entry((declined.rule, topic)).or_default().unfit += 1;
            }
        }
        for place in all_along {
            let Subscribed { id, listen, counts, .. } = &mut self.subscriptions[place];
            let heard = |seq| {
                let of_it = |delivery: &&Delivery| delivery.subscription == Some(*id);
                facts.deliveries.iter().filter(of_it).any(|delivery| delivery.seq == seq)
            };
            for fact in facts.facts.iter().filter(|fact| asks(view.rules(), listen, fact.event.topic())) {
                if !heard(fact.seq) {
                    let count = counts.entry(fact.event.topic()).or_default();
                    if view.is_paused(*id) { count.paused += 1 } else { count.unfit += 1 }
                }
            }
        }
    }
}

/// Whether a subscription asks for facts of a topic, whatever else it asks.
fn asks(rules: &Ruleset, listen: &Listen, topic: TopicId) -> bool {
    match listen.topical() {
        Topical::To(exact) => exact == topic,
        Topical::Under(family) => rules.topics().members(family).contains(&topic),
        Topical::All => true,
    }
}

fn hook_name(names: &Names, hook: HookId) -> String {
    match names.of_hook(hook) {
        "" => format!("hook {}", hook.index()),
        name => name.to_owned(),
    }
}

/// A rule or a hook, as it stands among publishers.
fn publisher(rules: &Ruleset, names: &Names, by: Listener) -> String {
    match by {
        Listener::Rule(rule) => format!("rule {}", rules.rule_name(rule).unwrap_or_default()),
        Listener::Hook(hook) => hook_name(names, hook),
    }
}

fn terms<'a>(limit: Limit, conditions: impl Iterator<Item = &'a str>) -> Vec<String> {
    let mut terms = Vec::new();
    if limit != Limit::Always {
        terms.push(limit.name().to_owned());
    }
    let conditions: BTreeSet<&str> = conditions.collect();
    if !conditions.is_empty() {
        let conditions: Vec<&str> = conditions.into_iter().collect();
        terms.push(format!("when {}", conditions.join(" and ")));
    }
    terms
}

/// Who publishes a topic: the stages of the tick that do, then the rules whose reactions may.
fn publishers(rules: &Ruleset, topic: TopicId) -> Vec<String> {
    let Some(info) = rules.topics().info(topic) else { return Vec::new() };
    let mut publishers: Vec<String> = info.stages.iter().map(|stage| stage.name().to_owned()).collect();
    for rule in rules.rules() {
        if rule.reactions().any(|(_, reaction)| leads_to(rules, reaction, topic)) {
            publishers.push(format!("rule {}", rule.name()));
        }
    }
    publishers
}

/// Whether facts of a topic may come of a reaction by itself.
fn leads_to(rules: &Ruleset, reaction: &Reaction, topic: TopicId) -> bool {
    match *reaction {
        Reaction::Publish(host, _) if rules.topics().host_topic(topic).is_some() => {
            rules.topics().of_host(host) == topic
        }
        _ => rules.topics().info(topic).is_some_and(|info| reaction.effect().leads_to(info)),
    }
}

/// Whether a rule hears only damage and healing that no rule brought about, and the reaction is damage or healing.
fn asks_for_other_damage(rules: &Ruleset, rule: &Rule, reaction: &Reaction) -> bool {
    let other = |condition: &Condition| match condition {
        Condition::Field(field, Held::Word(word)) => {
            rules.word(*field) == Some("via") && rules.word(*word) != Some("rule")
        }
        _ => false,
    };
    let (path, _) = rule.listens_to();
    let of_damage = ["damage", "heal"].contains(&path.split('.').next().unwrap_or_default());
    let deals = matches!(reaction, Reaction::Damage(..) | Reaction::Heal(..));
    deals && of_damage && rule.conditions().iter().any(other)
}

/// Rules that may set each other off. Conditions are not looked at: they may keep a loop from ever going round. A rule that fires once
/// in an encounter, a round or a life goes round no loop within a tick; the second time it is silent.
pub fn loops(rules: &Ruleset) -> Vec<Loop> {
    let count = rules.rules().len();
    let next = |of: usize, only_within: bool| -> BTreeSet<usize> {
        let rule = &rules.rules()[of];
        let mut next = BTreeSet::new();
        for (after, reaction) in rule.reactions() {
            if only_within && !(reaction.effect().is_at_once() && after == 0) {
                continue;
            }
            if rule.limit_of() != Limit::Always {
                continue;
            }
            let hears = |place: &usize| {
                let topics = rules.topics_of(&rules.rules()[*place]);
                topics.into_iter().any(|topic| leads_to(rules, reaction, topic))
                    && !asks_for_other_damage(rules, &rules.rules()[*place], reaction)
            };
            next.extend((0..count).filter(hears));
        }
        next
    };
    let mut found = Vec::new();
    for within in [true, false] {
        let edges: Vec<BTreeSet<usize>> = (0..count).map(|of| next(of, within)).collect();
        let mut taken = BTreeSet::new();
        for start in 0..count {
            if taken.contains(&start) {
                continue;
            }
            if let Some(round) = round_from(&edges, start) {
                taken.extend(round.iter().copied());
                let names: Vec<String> =
                    round.iter().map(|&place| rules.rules()[place].name().to_owned()).collect();
                // What goes round within a tick is not told again.
                let known =
                    found.iter().any(|known: &Loop| names.iter().all(|name| known.rules.contains(name)));
                if !known {
                    found.push(Loop { rules: names, within_a_tick: within });
                }
            }
        }
    }
    found
}

/// Statuses that may bring each other back within a tick, by name. At least one of them lifts another of them, so that it can begin anew. Conditions and limits are not looked at.
pub fn status_loops(rules: &Ruleset) -> Vec<Vec<&str>> {
    let ids: Vec<StatusId> = rules.statuses().iter().filter_map(|s| rules.find_status(s.name())).collect();
    let edges: Vec<BTreeSet<usize>> =
        ids.iter().map(|&id| rules.brings(id).iter().map(|next| next.index()).collect()).collect();
    let mut found: Vec<Vec<&str>> = Vec::new();
    let mut taken = BTreeSet::new();
    for start in (0..ids.len()).filter(|&start| !edges[start].is_empty()) {
        if taken.contains(&start) {
            continue;
        }
        let Some(round) = round_from(&edges, start) else { continue };
        let mut brought: BTreeSet<usize> = round.iter().copied().collect();
        brought.extend(round.iter().flat_map(|&one| &edges[one]).copied());
        let lifts = |one: usize, other: usize| one != other && rules.lifts(ids[one], ids[other]);
        let anew = brought.iter().any(|&one| brought.iter().any(|&other| lifts(one, other)));
        if anew {
            found.push(brought.iter().map(|&place| rules.statuses()[place].name()).collect());
            taken.extend(brought);
        }
    }
    found
}

/// The shortest way from a rule back to itself.
fn round_from(edges: &[BTreeSet<usize>], start: usize) -> Option<Vec<usize>> {
    let mut before: Vec<Option<usize>> = vec![None; edges.len()];
    let mut open = vec![start];
    let mut seen: BTreeSet<usize> = BTreeSet::new();
    while !open.is_empty() {
        let mut further = Vec::new();
        for at in open {
            for &next in &edges[at] {
                if next == start {
                    let mut round = vec![at];
                    while let Some(earlier) = before[round[round.len() - 1]] {
                        round.push(earlier);
                    }
                    round.reverse();
                    return Some(round);
                }
                if seen.insert(next) {
                    before[next] = Some(at);
                    further.push(next);
                }
            }
        }
        open = further;
    }
    None
}

impl Diagram {
    /// Writes it as a graph in the DOT language: publishers, topics, listeners, from left to right.
    ///
    /// *Errors:* those of the writer.
    pub fn write_dot(&self, out: &mut impl Write) -> io::Result<()> {
        let quoted = |text: &str| format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\""));
        writeln!(out, "digraph wiring {{")?;
        writeln!(out, "  rankdir = LR;\n  node [fontname = \"sans-serif\"];")?;
        for topic in &self.topics {
            let style = match topic.mark {
                Some("never-published") => ", style = dotted",
                Some(_) => ", style = dashed",
                None => "",
            };
            let label =
                quoted(&format!("{}\n{} published, {} heard", topic.topic, topic.published, topic.heard))
                    .replace('\n', "\\n");
            writeln!(out, "  {} [shape = box, label = {label}{style}];", quoted(&topic.topic))?;
            for publisher in &topic.publishers {
                writeln!(out, "  {} -> {};", quoted(publisher), quoted(&topic.topic))?;
            }
            for ear in &topic.listeners {
                let name = quoted(&format!("{} {}", ear.sort, ear.name));
                let style = if ear.heard == 0 { ", style = dotted" } else { "" };
                writeln!(out, "  {} -> {name} [label = {}{style}];", quoted(&topic.topic), ear.heard)?;
            }
        }
        writeln!(out, "}}")
    }
}

/// The rule of a name that hears nothing in a run, for those who write reports.
pub fn never_fired(rules: &Ruleset, diagram: &Diagram) -> Vec<RuleId> {
    let fired = |name: &str| {
        let mut ears = diagram.topics.iter().flat_map(|topic| &topic.listeners);
        ears.any(|ear| ear.sort == "rule" && ear.name == name && ear.heard > 0)
    };
    rules
        .rules()
        .iter()
        .filter(|rule| !fired(rule.name()))
        .filter_map(|rule| rules.find_rule(rule.name()))
        .collect()
}
