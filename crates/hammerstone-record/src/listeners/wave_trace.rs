//! What became of one sequence of waves: when each came, and for what the next waited.

use hammerstone::Ruleset;
use hammerstone::event::{CombatantJoined, EncounterWave, Event, RuleFired};
use hammerstone::flow::{Growth, Reaction, WaveState};
use hammerstone::ids::WaveId;
use serde::Serialize;

use crate::{Record, Tick};

/// Gathers what became of one sequence of waves.
#[derive(Clone, Debug)]
pub struct WaveTrace {
    waves: WaveId,
    before: WaveState,
    all: Vec<WaveStep>,
}

/// One thing that became of a sequence of waves.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct WaveStep {
    /// When it began, in seconds.
    pub time: f64,
    /// What it is.
    #[serde(flatten)]
    pub step: WaveStage,
}

/// What becomes of a sequence of waves.
#[derive(Clone, PartialEq, Debug, Serialize)]
#[serde(tag = "is", rename_all = "kebab-case")]
pub enum WaveStage {
    /// It began.
    Began {
        /// The rule that did it, if one did; else an order.
        rule: Option<String>,
        /// When the first wave is due, in seconds.
        due: f64,
    },
    /// A wave came.
    Came {
        /// Which, from 1.
        wave: u32,
        /// How many came.
        count: u32,
        /// Why so many, where that is no plain size.
        because: Option<String>,
        /// The leader of those who came, if they follow one.
        leader: Option<String>,
    },
    /// The next waits until few enough are left.
    Waited {
        /// Until when, in seconds.
        until: f64,
        /// The fewest and the most that stood meanwhile.
        standing: [usize; 2],
        /// How many may be left.
        left: u32,
    },
    /// The next is due.
    Due {
        /// When, in seconds.
        due: f64,
    },
    /// No more come.
    Ended {
        /// How many waves had come.
        come: u32,
        /// The rule that stopped it, if one did.
        rule: Option<String>,
        /// Whether it was stopped before all had come.
        stopped: bool,
    },
}

impl WaveStep {
    /// What became of the waves, in a sentence: of a template, and so many times, if their number is limited.
    pub fn text(&self, template: &str, times: Option<u32>) -> String {
        let by = |rule: &Option<String>| match rule {
            Some(rule) => format!(" by rule {rule}"),
            None => String::new(),
        };
        match &self.step {
            WaveStage::Began { rule, due } => format!("begins{}; the first is due at {due:.2}s", by(rule)),
            WaveStage::Came { wave, count, because, leader } => {
                let of = times.map_or(String::new(), |times| format!(" of {times}"));
                let because = because.as_ref().map_or(String::new(), |because| format!(" ({because})"));
                let leader = leader.as_ref().map_or(String::new(), |leader| format!(", behind {leader}"));
                format!("wave {wave}{of}: {count} x {template}{because}{leader}")
            }
            WaveStage::Waited { until, standing: [least, most], left } => {
                let stood = if least == most { most.to_string() } else { format!("{least} to {most}") };
                let may = if *left == 0 { "none".to_owned() } else { format!("no more than {left}") };
                format!("the next waits until {until:.2}s: wanted {may} left, found {stood}")
            }
            WaveStage::Due { due } => format!("the next is due at {due:.2}s"),
            WaveStage::Ended { come, rule, stopped: true } => format!("stopped{} after {come}", by(rule)),
            WaveStage::Ended { come, .. } => format!("{come} have come, and that is all"),
        }
    }
}

impl WaveTrace {
    /// Of a sequence; nothing was seen yet.
    pub fn new(waves: WaveId) -> WaveTrace {
        WaveTrace { waves, before: WaveState::NotComing { come: 0 }, all: Vec::new() }
    }

    /// All that became of it, in order.
    pub fn all(&self) -> &[WaveStep] {
        &self.all
    }

    /// How it stands now.
    pub fn state(&self) -> WaveState {
        self.before
    }

    /// The rule that fired in a tick and does something to the sequence.
    fn rule(&self, tick: &Tick<'_>, does: impl Fn(&Reaction) -> bool) -> Option<String> {
        let rules = tick.rules;
        let fired = tick.facts.events().filter_map(|event| match *event {
            Event::RuleFired(RuleFired { rule, .. }) => Some(rule),
            _ => None,
        });
        let mut fired = fired.filter_map(|rule| rules.rules().get(rule.index()));
        let found = fired.find(|rule| rule.reactions().any(|(_, reaction)| does(reaction)));
        found.map(|rule| rule.name().to_owned())
    }

    /// Why so many come, where that is not as before.
    fn because(&self, rules: &Ruleset, count: u32) -> Option<String> {
        let before = self.all.iter().rev().find_map(|step| match step.step {
            WaveStage::Came { count, .. } => Some(count),
            _ => None,
        });
        match rules.waves()[self.waves.index()].growth() {
            Growth::Counter(counter) => {
                Some(format!("as counter {} says", rules.counter_name(*counter).unwrap_or_default()))
            }
            Growth::List(_) => Some("as the list says".to_owned()),
            _ => before.filter(|&before| before != count).map(|before| format!("{before} before it")),
        }
    }

    /// Whom those of a wave follow, by the first who follows anyone.
    fn leader(&self, tick: &Tick<'_>, number: u32) -> Option<String> {
        let mut own = false;
        let mut leaders = tick.facts.events().filter_map(|event| match *event {
            Event::EncounterWave(EncounterWave { waves, wave, .. }) => {
                own = waves == self.waves && wave == number;
                None
            }
            Event::CombatantJoined(CombatantJoined { subject, .. }) if own => tick.view().leader(subject),
            _ => None,
        });
        leaders.next().map(|leader| tick.names.of(leader).to_owned())
    }
}

impl Record for WaveTrace {
    fn observe(&mut self, tick: &Tick<'_>) {
        let (rules, view) = (tick.rules, tick.view());
        let seconds = |ticks: u32| f64::from(ticks.saturating_sub(1)) / f64::from(rules.rate());
        let time = tick.begins();
        let due_at = |due: u32| time + seconds(due.saturating_sub(view.tick()) + 1);
        let Some(now) = view.wave_state(self.waves) else { return };
        let runs = |state: WaveState| !matches!(state, WaveState::NotComing { .. });
        let add = |step: WaveStage, all: &mut Vec<WaveStep>| all.push(WaveStep { time, step });
        let came: Vec<(u32, u32)> = tick
            .facts
            .events()
            .filter_map(|event| match *event {
                Event::EncounterWave(EncounterWave { waves, wave, count, .. }) if waves == self.waves => {
                    Some((wave, count))
                }
                _ => None,
            })
            .collect();
        if !runs(self.before) && (runs(now) || !came.is_empty()) {
            let own = |reaction: &Reaction| matches!(reaction, Reaction::Waves(id) if *id == self.waves);
            let due = match now {
                WaveState::Due { tick, .. } if came.is_empty() => due_at(tick),
                _ => time,
            };
            let rule = self.rule(tick, own);
            add(WaveStage::Began { rule, due }, &mut self.all);
        }
        for &(wave, count) in &came {
            let leader = self.leader(tick, wave);
            let because = self.because(rules, count);
            add(WaveStage::Came { wave, count, because, leader }, &mut self.all);
        }
        match (now, self.all.last_mut().map(|last| &mut last.step)) {
            (WaveState::Waits { standing, .. }, Some(WaveStage::Waited { until, standing: known, .. }))
                if came.is_empty() =>
            {
                *until = time;
                *known = [known[0].min(standing), known[1].max(standing)];
            }
            (WaveState::Waits { standing, left, .. }, _) => {
                add(WaveStage::Waited { until: time, standing: [standing; 2], left }, &mut self.all);
            }
            (WaveState::Due { tick: due, .. }, last) => {
                let due = due_at(due);
                let told = match last {
                    Some(WaveStage::Began { due: known, .. } | WaveStage::Due { due: known }) => {
                        came.is_empty() && (*known - due).abs() < 1e-9
                    }
                    _ => false,
                };
                if !told {
                    add(WaveStage::Due { due }, &mut self.all);
                }
            }
            (WaveState::NotComing { come }, _) if runs(self.before) || !came.is_empty() => {
                let own =
                    |reaction: &Reaction| matches!(reaction, Reaction::StopWaves(id) if *id == self.waves);
                let rule = self.rule(tick, own);
                let all = rules.waves()[self.waves.index()].times_of();
                let stopped = all.is_none_or(|all| come < all);
                add(WaveStage::Ended { come, rule, stopped }, &mut self.all);
            }
            _ => {}
        }
        self.before = now;
    }
}
