//! What an expectation looks at that is no fact: health and other gauges, flags, counters, scores, lives, statuses.

use std::ops::Range;

use hammerstone::ids::{
    CombatantCounterId, CombatantFlagId, CombatantId, CounterId, FlagId, GaugeId, ScoreId, StatusId, TeamId,
    WaveId,
};
use hammerstone::{Ruleset, View};

use crate::raw;
use hammerstone_rules::problem::Reading;
use hammerstone_rules::rules::Ids;

/// A number of the state.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Watched {
    Health,
    Gauge(GaugeId),
    /// Lives that are left beside the present one.
    Lives,
    /// How often it counts; 0 for one that is not borne.
    Status(StatusId),
    CombatantFlag(CombatantFlagId),
    CombatantCounter(CombatantCounterId),
    Flag(FlagId),
    Counter(CounterId),
    Score(ScoreId),
    /// How many of a team stand.
    Standing(TeamId),
    /// How many waves have come.
    Waves(WaveId),
    Round,
}

impl Watched {
    /// Whether it is of one combatant.
    fn is_of_one(self) -> bool {
        use Watched::{CombatantCounter, CombatantFlag, Gauge, Health, Lives, Status};
        matches!(self, Health | Gauge(_) | Lives | Status(_) | CombatantFlag(_) | CombatantCounter(_))
    }

    /// What it is; none where the combatant is not there.
    pub(crate) fn value(self, view: &View<'_>, who: Option<CombatantId>) -> Option<i64> {
        Some(match self {
            Watched::Health => view.health(who?)?.0,
            Watched::Gauge(gauge) => view.gauge(who?, gauge)?.0,
            Watched::Lives => view.lives(who?)?.0.into(),
            Watched::Status(status) => {
                view.team(who?)?;
                view.statuses_of(who?)
                    .filter(|one| one.status == status)
                    .map(|one| i64::from(one.stacks))
                    .sum()
            }
            Watched::CombatantFlag(flag) => {
                view.team(who?)?;
                view.combatant_flag(who?, flag).into()
            }
            Watched::CombatantCounter(counter) => {
                view.team(who?)?;
                view.combatant_counter(who?, counter)
            }
            Watched::Flag(flag) => view.flag(flag)?.into(),
            Watched::Counter(counter) => view.counter(counter)?,
            Watched::Score(score) => view.score(score)?,
            Watched::Standing(team) => view.standing(team) as i64,
            Watched::Waves(waves) => view.waves(waves)?.0.into(),
            Watched::Round => view.round().into(),
        })
    }
}

/// What an expectation watches, and of whom; nothing if it is about facts.
pub(crate) fn watched(
    reading: &mut Reading<'_>,
    rules: &Ruleset,
    groups: &Ids<Range<usize>>,
    raw: &raw::Expect,
) -> Option<Option<(Watched, Option<String>, String)>> {
    let mut found: Vec<(Watched, &raw::Name, &'static str)> = Vec::new();
    if let Some(name) = &raw.gauge {
        found.push((
            Watched::Gauge(reading.known("gauge", name, rules.find_gauge(name.as_ref()))?),
            name,
            "gauge",
        ));
    }
    if let Some(name) = &raw.status {
        found.push((
            Watched::Status(reading.known("status", name, rules.find_status(name.as_ref()))?),
            name,
            "status",
        ));
    }
    if let Some(name) = &raw.flag {
        let own = rules.find_combatant_flag(name.as_ref()).map(Watched::CombatantFlag);
        let flag = own.or_else(|| rules.find_flag(name.as_ref()).map(Watched::Flag));
        found.push((reading.known("flag", name, flag)?, name, "flag"));
    }
    if let Some(name) = &raw.counter {
        let own = rules.find_combatant_counter(name.as_ref()).map(Watched::CombatantCounter);
        let counter = own.or_else(|| rules.find_counter(name.as_ref()).map(Watched::Counter));
        found.push((reading.known("counter", name, counter)?, name, "counter"));
    }
    if let Some(name) = &raw.score {
        found.push((
            Watched::Score(reading.known("score", name, rules.find_score(name.as_ref()))?),
            name,
            "score",
        ));
    }
    if let Some(name) = &raw.standing {
        let team = reading.known("team", name, rules.find_team(name.as_ref()))?;
        found.push((Watched::Standing(team), name, "standing"));
    }
    if let Some(name) = &raw.waves {
        found.push((
            Watched::Waves(reading.known("sequence of waves", name, rules.find_waves(name.as_ref()))?),
            name,
            "waves",
        ));
    }
    let mut all: Vec<(Watched, Option<raw::Name>, String)> = found
        .into_iter()
        .map(|(watched, name, what)| (watched, raw.of.clone(), format!("{what} {}", name.as_ref())))
        .collect();
    all.extend(raw.health_of.as_ref().map(|of| (Watched::Health, Some(of.clone()), "health".to_owned())));
    all.extend(raw.lives_of.as_ref().map(|of| (Watched::Lives, Some(of.clone()), "lives".to_owned())));
    if raw.round {
        all.push((Watched::Round, None, "the round".to_owned()));
    }
    if all.is_empty() {
        return Some(None);
    }
    if all.len() + usize::from(raw.topic.is_some()) > 1 {
        let span = raw.of.as_ref().or(raw.topic.as_ref()).or(raw.health_of.as_ref());
        let fix = Some("write one [[expect]] for each".to_owned());
        let message = "the expectation is about more than one thing".to_owned();
        reading.problem(span.map_or(0..0, toml::Spanned::span), "here", message, fix);
        return None;
    }
    let (watched, of, text) = all.remove(0);
    match of {
        Some(of) if watched.is_of_one() => {
            let several = reading.find_id("combatant", &of, groups)?;
            if several.len() > 1 {
                let fix = Some(format!("name one of them, such as `{}#1`", of.as_ref()));
                let message = format!("`{}` stands for {}", of.as_ref(), several.len());
                reading.problem(of.span(), "several", message, fix);
            }
            Some(Some((watched, Some(of.as_ref().clone()), format!("{text} of {}", of.as_ref()))))
        }
        Some(of) => {
            let fix = Some("take `of` out".to_owned());
            reading.problem(of.span(), "here", format!("{text} is of no one combatant"), fix);
            None
        }
        None if watched.is_of_one() => {
            let fix = Some("add `of = \"…\"`".to_owned());
            let place =
                raw.gauge.as_ref().or(raw.status.as_ref()).or(raw.flag.as_ref()).or(raw.counter.as_ref());
            let message = format!("{text} is of one combatant");
            reading.problem(place.map_or(0..0, toml::Spanned::span), "here", message, fix);
            None
        }
        None => Some(Some((watched, None, text))),
    }
}
