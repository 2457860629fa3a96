//! A run as one page that can be sent to someone: nothing is loaded from elsewhere.

mod data;
mod html;

use std::collections::BTreeMap;
use std::io::{self, Write};

use hammerstone::Ruleset;
use hammerstone::ids::CombatantId;
use hammerstone_record::{
    Accounts, Lanes, Names, Playback, Record, RuleTrace, StateHistory, SwingResults, Tally, Tick, Transcript,
    WaveTrace, Wiring,
};
use serde::Serialize;

use data::{Data, Details};

pub use html::page_shell;

/// How near what missed came is looked at in ticks with at most so many combatants: with more it would take longer than the fight.
const DISTANCES_OF: usize = 40;

/// Something that was checked.
#[derive(Clone, PartialEq, Eq, Debug, Default, Serialize)]
pub struct Checked {
    /// Whether all is well.
    pub fine: bool,
    /// What was looked at, and what was found.
    pub text: String,
    /// The tick that shows it, counted on through resets, if one does.
    pub at: Option<u32>,
}

/// What stands at the top of a page.
#[derive(Clone, Copy, Debug)]
pub struct Heading<'a> {
    /// What the fight is called.
    pub title: &'a str,
    /// The seed of its rolls.
    pub seed: u64,
    /// What was checked, and what came of it.
    pub checks: &'a [Checked],
}

/// Gathers all that a page shows, tick by tick, and writes it.
///
/// Amounts come with their ledgers if the encounter keeps them, listeners are named if it keeps deliveries, gates if it keeps gates.
#[derive(Clone, Debug)]
pub struct Reporter {
    lanes: Lanes,
    transcript: Transcript,
    accounts: Accounts,
    tally: Tally,
    playback: Playback,
    history: StateHistory,
    wiring: Wiring,
    results: SwingResults,
    rules: Vec<RuleTrace>,
    waves: Vec<WaveTrace>,
    /// The names that sentences are about, and where each stands among them.
    names: Vec<String>,
    places: BTreeMap<String, usize>,
    /// Of each sentence: the places of the names of its subject and other party.
    parties: Vec<[Option<usize>; 2]>,
}

impl Reporter {
    /// Of an encounter in which no tick has run.
    pub fn new(rules: &Ruleset) -> Reporter {
        let all_rules = rules.rules().iter().filter_map(|rule| rules.find_rule(rule.name()));
        let all_waves = rules.waves().iter().filter_map(|waves| rules.find_waves(waves.name()));
        Reporter {
            lanes: Lanes::new(),
            transcript: Transcript::with_contacts(),
            accounts: Accounts::new(),
            tally: Tally::new(),
            playback: Playback::new(),
            history: StateHistory::new(),
            wiring: Wiring::new(rules),
            results: SwingResults::new(None, None).with_distances_of(DISTANCES_OF),
            rules: all_rules.map(RuleTrace::new).collect(),
            waves: all_waves.map(WaveTrace::new).collect(),
            names: Vec::new(),
            places: BTreeMap::new(),
            parties: Vec::new(),
        }
    }

    /// Writes the page, whole, as HTML. *Errors:* those of the writer.
    pub fn write(
        &self,
        out: &mut impl Write,
        heading: &Heading<'_>,
        rules: &Ruleset,
        names: &Names,
    ) -> io::Result<()> {
        let results = self.results.results(rules);
        html::page(out, heading, &Data::of(self, heading, rules, names), &Details::of(self, &results))
    }

    /// The data of the page alone, as JSON: what is shown first, and the details of blows and swings. *Errors:* those of the writer.
    pub fn write_data(
        &self,
        out: &mut impl Write,
        heading: &Heading<'_>,
        rules: &Ruleset,
        names: &Names,
    ) -> io::Result<()> {
        let results = self.results.results(rules);
        let both = (Data::of(self, heading, rules, names), Details::of(self, &results));
        serde_json::to_writer(out, &both).map_err(io::Error::from)
    }

    fn place(&mut self, name: &str) -> usize {
        if let Some(&place) = self.places.get(name) {
            return place;
        }
        self.places.insert(name.to_owned(), self.names.len());
        self.names.push(name.to_owned());
        self.names.len() - 1
    }
}

impl Record for Reporter {
    fn observe(&mut self, tick: &Tick<'_>) {
        let Reporter { lanes, transcript, accounts, tally, playback, history, wiring, results, .. } = self;
        tick.show(&mut [lanes, transcript, accounts, tally, playback, history, wiring, results]);
        self.rules.iter_mut().for_each(|trace| trace.observe(tick));
        self.waves.iter_mut().for_each(|trace| trace.observe(tick));
        // Names are those of now: after a reset others may go by them.
        for told in self.parties.len()..self.transcript.told().len() {
            let of = self.transcript.told()[told].parties;
            let place = |who: Option<CombatantId>| who.map(|who| self.place(tick.names.of(who)));
            let places = of.map(place);
            self.parties.push(places);
        }
    }
}
