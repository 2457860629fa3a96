//! A run by combatant: what each did, what was done to it, and how its health went. What timelines are drawn from.

use crate::{Record, Tick};
use hammerstone::event::{
    AttackClosed, AttackEnded, AttackOpened, AttackStarted, CombatantAway, CombatantDied, CombatantJoined,
    CombatantRemoved, CombatantRetimed, CombatantReturned, CombatantSpared, EncounterEnded, EncounterRound,
    EncounterWave, FlagChanged, GaugeChanged, GaugeCrossed, HealthChanged, HealthCrossed, HitLanded,
    HitRefused, HoldBegan, HoldEnded, OrderRefused, Said, StatusApplied, StatusExpired, StatusLifted,
    TacticsChose, TacticsDropped,
};
use std::collections::BTreeMap;

use hammerstone::Ruleset;
use hammerstone::event::{Event, HealthChange};
use hammerstone::ids::{ApplicationId, AttackId, CombatantId, SwingId, TeamId, TemplateId};
use hammerstone::orders::OrderKind;
use serde::Serialize;

use crate::Names;
use crate::feed::refusal;

/// All lanes of a run, in the order in which their combatants joined.
#[derive(Clone, Debug, Default)]
pub struct Lanes {
    lanes: Vec<Lane>,
    by_id: BTreeMap<CombatantId, usize>,
    swings: BTreeMap<SwingId, (usize, usize)>,
    statuses: BTreeMap<ApplicationId, (usize, usize)>,
    /// By hold, the places of what is drawn of it.
    holds: BTreeMap<u64, Vec<(usize, usize)>>,
    /// By lane, the time scale that is drawn and not over.
    retimed: BTreeMap<usize, usize>,
    ticks: u32,
    began: u32,
    /// Whether the encounter has begun anew.
    reset: bool,
    moments: Vec<Moment>,
}

/// Something of the whole encounter.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Moment {
    /// The tick, from 1, counted on through resets.
    pub tick: u32,
    /// What it was.
    pub text: String,
}

/// What a gauge of a combatant held.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct GaugeLine {
    /// The gauge's name.
    pub name: String,
    /// From each tick on, what it held and its maximum.
    pub held: Vec<(u32, i64, i64)>,
}

/// One combatant's run.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Lane {
    /// Who it is; after a reset, who it was before the first.
    #[serde(skip)]
    pub id: CombatantId,
    /// Its name.
    pub name: String,
    /// What it is made from.
    pub template: String,
    /// Its team.
    pub team: String,
    /// The team's number in the ruleset.
    pub side: usize,
    /// When it joined, and when it was removed, if it was.
    pub from: u32,
    /// The last tick in which it was there.
    pub to: Option<u32>,
    /// Health over its maximum, from each tick on.
    pub health: Vec<(u32, i64, i64)>,
    /// Gauges beside health that ever changed, likewise, by name.
    pub gauges: Vec<GaugeLine>,
    /// What it swung.
    pub swings: Vec<Swung>,
    /// What it bore.
    pub statuses: Vec<Bore>,
    /// What happened to it, in order.
    pub marks: Vec<TimelineMark>,
    /// From when to when it did not stand.
    pub down: Vec<(u32, Option<u32>)>,
    /// What it chose by its tactics, where that is told.
    pub choices: Vec<Chosen>,
}

/// What a combatant chose by its tactics.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Chosen {
    /// The tick.
    pub tick: u32,
    /// The choice.
    pub choice: String,
    /// Its target, if it had one in sight.
    pub at: Option<String>,
    /// Why it was dropped, if it was.
    pub dropped: Option<String>,
}

/// One swing.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Swung {
    /// The swing's number.
    pub swing: u64,
    /// The attack.
    pub attack: String,
    /// Its first tick.
    pub from: u32,
    /// Its last.
    pub to: Option<u32>,
    /// First and last tick of each window.
    pub windows: Vec<(u32, Option<u32>)>,
    /// Why it ended, if not since its time was up.
    pub why: Option<&'static str>,
}

/// One application of a status.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Bore {
    /// The status.
    pub status: String,
    /// Its first tick.
    pub from: u32,
    /// Its last.
    pub to: Option<u32>,
}

/// Something that happened to a combatant, or that it did.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct TimelineMark {
    /// The tick.
    pub tick: u32,
    /// What sort of thing.
    pub sort: Sort,
    /// In a word or a number.
    pub text: String,
}

/// Sorts of marks.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Sort {
    /// It struck someone.
    Struck,
    /// It was damaged: by so much.
    Damaged,
    /// It was healed: by so much.
    Healed,
    /// It would have been struck, and a gate refused.
    Refused,
    /// Its health went through a threshold.
    Crossed,
    /// Something kept it from falling.
    Spared,
    /// It died.
    Died,
    /// It returned.
    Returned,
    /// It said something.
    Said,
    /// It would have started an attack, and could not.
    NotStarted,
}

impl Sort {
    /// All sorts.
    pub const ALL: [Sort; 10] = [
        Sort::Struck,
        Sort::Damaged,
        Sort::Healed,
        Sort::Refused,
        Sort::Crossed,
        Sort::Spared,
        Sort::Died,
        Sort::Returned,
        Sort::Said,
        Sort::NotStarted,
    ];
}

impl Lanes {
    /// No lanes.
    pub fn new() -> Lanes {
        Lanes::default()
    }

    /// The lanes.
    pub fn all(&self) -> &[Lane] {
        &self.lanes
    }

    /// How many ticks ran.
    pub fn ticks(&self) -> u32 {
        self.ticks
    }

    /// What happened to the encounter as a whole.
    pub fn moments(&self) -> &[Moment] {
        &self.moments
    }

    /// Leaves out all lanes but those that fit.
    pub fn keep_only(&mut self, fits: impl Fn(&Lane) -> bool) {
        self.lanes.retain(fits);
        // What was told by place is over.
        (self.by_id, self.swings, self.statuses) = Default::default();
    }

    /// Leaves out what is over before the first of these ticks, or begins after the last: a picture begins and ends there.
    pub fn keep_between(&mut self, from: u32, to: u32) {
        let to = to.min(self.ticks).max(from);
        let within = |begins: u32, ends: Option<u32>| begins <= to && ends.is_none_or(|ends| ends >= from);
        self.lanes.retain(|lane| within(lane.from, lane.to));
        for lane in &mut self.lanes {
            lane.marks.retain(|mark| (from..=to).contains(&mark.tick));
            lane.swings.retain(|swung| within(swung.from, swung.to));
            lane.statuses.retain(|bore| within(bore.from, bore.to));
            lane.down.retain(|&(down, up)| within(down, up));
            lane.choices.retain(|chosen| (from..=to).contains(&chosen.tick));
            // What was last before the first tick holds in it.
            let last = |ticks: &mut dyn Iterator<Item = u32>| ticks.take_while(|tick| *tick <= from).count();
            let before = last(&mut lane.health.iter().map(|(tick, ..)| *tick)).saturating_sub(1);
            lane.health.drain(..before);
            lane.health.retain(|(tick, ..)| *tick <= to);
            for gauge in &mut lane.gauges {
                let before = last(&mut gauge.held.iter().map(|(tick, ..)| *tick)).saturating_sub(1);
                gauge.held.drain(..before);
                gauge.held.retain(|(tick, ..)| *tick <= to);
            }
        }
        self.moments.retain(|moment| (from..=to).contains(&moment.tick));
        (self.by_id, self.swings, self.statuses) = Default::default();
        (self.began, self.ticks) = (from.saturating_sub(1), to);
    }

    fn lane(&mut self, who: CombatantId) -> Option<&mut Lane> {
        let place = *self.by_id.get(&who)?;
        self.lanes.get_mut(place)
    }

    fn mark(&mut self, who: CombatantId, sort: Sort, text: String) {
        let tick = self.ticks;
        if let Some(lane) = self.lane(who) {
            lane.marks.push(TimelineMark { tick, sort, text });
        }
    }

    fn moment(&mut self, text: String) {
        self.moments.push(Moment { tick: self.ticks, text });
    }

    fn event(&mut self, rules: &Ruleset, names: &Names, event: &Event) {
        self.of_combatants(rules, names, event);
        self.of_health(rules, names, event);
        self.of_swings(rules, event);
        self.of_gauges_and_holds(rules, names, event);
        self.of_encounter(rules, event);
    }

    /// A run is followed from its middle on: those who are there have joined before, and swings run.
    fn meet(&mut self, tick: &Tick<'_>) {
        let (rules, names, view) = (tick.rules, tick.names, tick.view());
        for who in view.combatants() {
            let made = view.template(who).zip(view.team(who)).zip(view.health(who));
            let joins =
                |event: &Event| matches!(event, Event::CombatantJoined(joined) if joined.subject == who);
            if let Some(((template, team), (health, max))) = made
                && !tick.facts.events().any(joins)
            {
                self.begin((rules, names), who, template, team, (self.began, health, max));
            }
        }
        for (swing, attacker, attack) in view.swings() {
            let starts =
                |event: &Event| matches!(event, Event::AttackStarted(started) if started.swing == swing);
            if let Some(attacker) = attacker
                && !tick.facts.events().any(starts)
            {
                self.swings_from(rules, self.began, attacker, attack, swing);
            }
        }
    }

    /// The lane of one who joins, with its health.
    fn begin(
        &mut self,
        (rules, names): (&Ruleset, &Names),
        subject: CombatantId,
        template: TemplateId,
        team: TeamId,
        health: (u32, i64, i64),
    ) {
        self.by_id.insert(subject, self.lanes.len());
        self.lanes.push(Lane {
            id: subject,
            name: names.of(subject).to_owned(),
            template: rules.template_name(template).unwrap_or_default().to_owned(),
            team: rules.team_name(team).unwrap_or_default().to_owned(),
            side: team.index(),
            from: health.0,
            to: None,
            health: vec![health],
            gauges: Vec::new(),
            swings: Vec::new(),
            statuses: Vec::new(),
            marks: Vec::new(),
            down: Vec::new(),
            choices: Vec::new(),
        });
    }

    fn swings_from(
        &mut self,
        rules: &Ruleset,
        from: u32,
        subject: CombatantId,
        attack: AttackId,
        swing: SwingId,
    ) {
        let Some(&place) = self.by_id.get(&subject) else { return };
        let swings = &mut self.lanes[place].swings;
        self.swings.insert(swing, (place, swings.len()));
        let attack = rules.attack_name(attack).unwrap_or_default().to_owned();
        swings.push(Swung { swing: swing.number(), attack, from, to: None, windows: Vec::new(), why: None });
    }

    /// After how many ticks the run begins that was followed; 0 from its beginning on.
    pub fn began(&self) -> u32 {
        self.began
    }

    /// Joining, leaving, dying and returning.
    fn of_combatants(&mut self, rules: &Ruleset, names: &Names, event: &Event) {
        let tick = self.ticks;
        match *event {
            Event::CombatantJoined(CombatantJoined { subject, template, team, health, max, .. }) => {
                // After a reset one who joins again goes on in the lane of that name.
                let name = names.of(subject);
                let again = |lane: &Lane| lane.name == name && lane.to.is_some();
                if let Some(place) = self.lanes.iter().position(again).filter(|_| self.reset) {
                    self.by_id.insert(subject, place);
                    let lane = &mut self.lanes[place];
                    let left = lane.to.take().unwrap_or(tick);
                    lane.down.retain(|(_, to)| to.is_some());
                    lane.down.push((left, Some(tick)));
                    lane.health.push((tick, health, max));
                    return;
                }
                self.begin((rules, names), subject, template, team, (tick, health, max));
            }
            Event::CombatantRemoved(CombatantRemoved { subject, .. }) => {
                if let Some(lane) = self.lane(subject) {
                    lane.to = Some(tick);
                }
            }
            Event::CombatantAway(CombatantAway { subject, .. }) => {
                if let Some(lane) = self.lane(subject)
                    && lane.down.last().is_none_or(|(_, to)| to.is_some())
                {
                    lane.down.push((tick, None));
                }
            }
            Event::CombatantReturned(CombatantReturned { subject, health, max, .. }) => {
                if let Some(lane) = self.lane(subject) {
                    lane.health.push((tick, health, max));
                    if let Some((_, to @ None)) = lane.down.last_mut() {
                        *to = Some(tick);
                    }
                }
                self.mark(subject, Sort::Returned, String::new());
            }
            Event::CombatantDied(CombatantDied { subject, .. }) => {
                if let Some(lane) = self.lane(subject) {
                    lane.down.push((tick, None));
                }
                self.mark(subject, Sort::Died, String::new());
            }
            Event::CombatantSpared(CombatantSpared { subject, .. }) => {
                self.mark(subject, Sort::Spared, String::new())
            }
            _ => {}
        }
    }

    /// Changes of health, hits and lines that were said.
    fn of_health(&mut self, rules: &Ruleset, names: &Names, event: &Event) {
        let tick = self.ticks;
        match *event {
            Event::HealthChanged(HealthChanged { subject, from, to, max, why, .. }) => {
                if let Some(lane) = self.lane(subject) {
                    lane.health.push((tick, to, max));
                }
                match why {
                    HealthChange::Damage => self.mark(subject, Sort::Damaged, (from - to).to_string()),
                    HealthChange::Heal => self.mark(subject, Sort::Healed, (to - from).to_string()),
                    HealthChange::Maximum | HealthChange::Return | HealthChange::Pool => {}
                }
            }
            Event::HealthCrossed(HealthCrossed { subject, threshold, .. }) => {
                self.mark(
                    subject,
                    Sort::Crossed,
                    rules.threshold_name(threshold).unwrap_or_default().to_owned(),
                );
            }
            Event::HitLanded(HitLanded { attacker: Some(attacker), target, .. }) => {
                self.mark(attacker, Sort::Struck, names.of(target).to_owned());
            }
            Event::HitRefused(HitRefused { target, gate, .. }) => {
                self.mark(target, Sort::Refused, gate.name().to_owned());
            }
            Event::Said(Said { spoken, subject: Some(subject), .. }) => {
                self.mark(subject, Sort::Said, crate::feed::spoken(&spoken, rules, names));
            }
            _ => {}
        }
    }

    /// Swings and statuses.
    fn of_swings(&mut self, rules: &Ruleset, event: &Event) {
        let tick = self.ticks;
        match *event {
            Event::OrderRefused(OrderRefused {
                kind: OrderKind::Start,
                attack: Some(attack),
                subject: Some(subject),
                why,
                ..
            }) => {
                let attack = rules.attack_name(attack).unwrap_or_default();
                self.mark(subject, Sort::NotStarted, format!("{attack}: {}", refusal(why, rules)));
            }
            Event::AttackStarted(AttackStarted { subject: Some(subject), attack, swing, .. }) => {
                self.swings_from(rules, tick, subject, attack, swing);
            }
            Event::AttackOpened(AttackOpened { swing, .. }) => {
                if let Some(swung) = self.swung(swing) {
                    swung.windows.push((tick, None));
                }
            }
            Event::AttackClosed(AttackClosed { swing, .. }) => {
                if let Some((_, to)) = self.swung(swing).and_then(|swung| swung.windows.last_mut()) {
                    *to = Some(tick);
                }
            }
            Event::AttackEnded(AttackEnded { swing, why, .. }) => {
                if let Some(swung) = self.swung(swing) {
                    swung.to = Some(tick);
                    swung.why = (why != hammerstone::event::SwingEnd::Done).then_some(why.name());
                }
            }
            Event::StatusApplied(StatusApplied { application, subject, status, .. }) => {
                let Some(&place) = self.by_id.get(&subject) else { return };
                let statuses = &mut self.lanes[place].statuses;
                self.statuses.insert(application, (place, statuses.len()));
                statuses.push(Bore {
                    status: rules.status_name(status).unwrap_or_default().to_owned(),
                    from: tick,
                    to: None,
                });
            }
            Event::StatusExpired(StatusExpired { application, .. })
            | Event::StatusLifted(StatusLifted { application, .. }) => {
                if let Some(&(lane, place)) = self.statuses.get(&application) {
                    self.lanes[lane].statuses[place].to = Some(tick);
                }
            }
            _ => {}
        }
    }

    /// What stand-ins choose, and what they drop.
    fn of_choices(&mut self, tick: &Tick<'_>, event: &Event) {
        let (now, text) = (self.ticks, |text| tick.facts.text_of(text).to_owned());
        let (subject, other, choice, dropped) = match *event {
            Event::TacticsChose(TacticsChose { subject, other, choice, .. }) => {
                (subject, other, choice, None)
            }
            Event::TacticsDropped(TacticsDropped { subject, other, choice, reason, .. }) => {
                (subject, other, choice, Some(text(reason)))
            }
            _ => return,
        };
        let at = other.map(|other| tick.names.of(other).to_owned());
        if let Some(lane) = self.lane(subject) {
            lane.choices.push(Chosen { tick: now, choice: text(choice), at, dropped });
        }
    }

    /// Gauges beside health, holds and time scales.
    fn of_gauges_and_holds(&mut self, rules: &Ruleset, names: &Names, event: &Event) {
        let tick = self.ticks;
        match *event {
            Event::GaugeChanged(GaugeChanged { subject, gauge, from, to, max, .. }) => {
                let Some(lane) = self.lane(subject) else { return };
                let name = rules.gauge_name(gauge).unwrap_or_default();
                let place = lane.gauges.iter().position(|known| known.name == name).unwrap_or_else(|| {
                    // What it held until now is in no fact but this.
                    let held = vec![(lane.from, from, max)];
                    lane.gauges.push(GaugeLine { name: name.to_owned(), held });
                    lane.gauges.len() - 1
                });
                lane.gauges[place].held.push((tick, to, max));
            }
            Event::GaugeCrossed(GaugeCrossed { subject, threshold, .. }) => {
                let name = rules.threshold_name(threshold).unwrap_or_default();
                self.mark(subject, Sort::Crossed, name.to_owned());
            }
            Event::HoldBegan(HoldBegan { hold, held, holder, .. }) => {
                for (who, text) in [
                    (held, format!("held by {}", names.of(holder))),
                    (holder, format!("holds {}", names.of(held))),
                ] {
                    if let Some(&place) = self.by_id.get(&who) {
                        let statuses = &mut self.lanes[place].statuses;
                        self.holds.entry(hold).or_default().push((place, statuses.len()));
                        statuses.push(Bore { status: text, from: tick, to: None });
                    }
                }
            }
            Event::HoldEnded(HoldEnded { hold, .. }) => {
                for (lane, place) in self.holds.remove(&hold).unwrap_or_default() {
                    self.lanes[lane].statuses[place].to = Some(tick);
                }
            }
            Event::CombatantRetimed(CombatantRetimed { subject, to, .. }) => {
                let Some(&lane) = self.by_id.get(&subject) else { return };
                if let Some(place) = self.retimed.remove(&lane) {
                    self.lanes[lane].statuses[place].to = Some(tick);
                }
                if to != hammerstone::Fixed::ONE {
                    let statuses = &mut self.lanes[lane].statuses;
                    self.retimed.insert(lane, statuses.len());
                    let status = format!("time x {}", crate::feed::Short(to));
                    statuses.push(Bore { status, from: tick, to: None });
                }
            }
            _ => {}
        }
    }

    /// What concerns everyone.
    fn of_encounter(&mut self, rules: &Ruleset, event: &Event) {
        match *event {
            Event::EncounterWave(EncounterWave { waves, wave, .. }) => {
                self.moment(format!("{} {wave}", rules.waves_name(waves).unwrap_or_default()));
            }
            Event::EncounterRound(EncounterRound { round, .. }) => self.moment(format!("round {round}")),
            Event::EncounterReset(_) => self.moment("anew".to_owned()),
            Event::FlagChanged(FlagChanged { flag, to: true, .. }) => {
                self.moment(rules.flag_name(flag).unwrap_or_default().to_owned())
            }
            Event::EncounterEnded(EncounterEnded { outcome, .. }) => {
                self.moment(rules.outcome_name(outcome).unwrap_or_default().to_owned())
            }
            _ => {}
        }
    }

    fn swung(&mut self, swing: SwingId) -> Option<&mut Swung> {
        let &(lane, place) = self.swings.get(&swing)?;
        self.lanes[lane].swings.get_mut(place)
    }
}

impl Record for Lanes {
    fn observe(&mut self, tick: &Tick<'_>) {
        if self.ticks == 0 && tick.clock > 1 {
            self.began = tick.clock - 1;
            self.meet(tick);
        }
        self.ticks = tick.clock;
        if tick.anew {
            self.reset = true;
            self.by_id.clear();
        }
        for event in tick.facts.events() {
            self.event(tick.rules, tick.names, event);
            self.of_choices(tick, event);
        }
    }
}
