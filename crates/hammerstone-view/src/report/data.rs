//! What a page shows, as one set of data that its script reads.

use hammerstone::Ruleset;
use hammerstone::event::Gate;
use hammerstone_record::{
    Account, Bore, Dealt, Diagram, Fall, GaugeLine, Hearing, InFlow, Lane, Moment, Names, Near, Playback,
    RefusedStart, Results, Row, Sort, StateHistory, SwingResult, Told, Transcript,
};
use serde::ser::{Serialize, SerializeSeq, Serializer};
use std::collections::HashMap;

use super::{Checked, Heading, Reporter};

/// How many sentences a page has, at most; what says least is left out first.
const MOST_LINES: usize = 250_000;
/// How many of the facts that a rule heard a page has, at most.
const MOST_HEARINGS: usize = 400;
/// How many deaths and how many sums of damage are told to readers without scripts, at most.
const MOST_WORDS: usize = 60;
/// How many amounts a page takes apart, at most: beyond, the first of the fight.
const MOST_ACCOUNTS: usize = 60_000;

/// Everything that a page shows. Ticks are counted on through resets.
#[derive(Debug, serde::Serialize)]
pub(super) struct Data<'a> {
    title: &'a str,
    seed: u64,
    /// Ticks of a second.
    rate: u32,
    began: u32,
    ticks: u32,
    outcome: Option<&'a str>,
    counts: Counts,
    /// The names of the teams, by their numbers.
    teams: Vec<&'a str>,
    checks: &'a [Checked],
    dealt: Vec<Dealt>,
    deaths: &'a [Fall],
    standing: &'a [(u32, Vec<usize>)],
    playback: &'a Playback,
    state: &'a StateHistory,
    lanes: Vec<OfLane<'a>>,
    moments: &'a [Moment],
    /// The marks of sentences, and what they stand for.
    marks: [(&'static str, &'static str); Transcript::MARKS.len()],
    topics: &'a [String],
    /// The names that sentences are about.
    names: &'a [String],
    lines: Vec<Sentence<'a>>,
    left_out: Vec<LeftOut>,
    words: Vec<&'a str>,
    rules: Vec<OfRule<'a>>,
    waves: Vec<OfWaves<'a>>,
    wiring: Diagram,
}

/// What the page shows of one blow or one swing that is chosen: most of the data of a long fight, and not needed for the first look.
#[derive(Debug, serde::Serialize)]
pub(super) struct Details<'a> {
    words: Vec<&'a str>,
    accounts: Vec<Apart<'a>>,
    results: Vec<OfSwing>,
    refused_starts: &'a [RefusedStart],
}

impl<'a> Details<'a> {
    pub(super) fn of(reporter: &'a Reporter, results: &'a Results) -> Details<'a> {
        let mut words = Words::default();
        let accounts = first_accounts(reporter).iter().map(|account| apart(account, &mut words)).collect();
        let of_swings = results.swings.iter().map(|result| of_swing(result, &mut words)).collect();
        Details { accounts, results: of_swings, refused_starts: &results.refused_starts, words: words.all }
    }
}

/// The accounts for which there is room.
fn first_accounts(reporter: &Reporter) -> &[Account] {
    let all = reporter.accounts.all();
    &all[..all.len().min(MOST_ACCOUNTS)]
}

#[derive(Debug, serde::Serialize)]
struct Counts {
    attempts: u64,
    hits: u64,
    refusals: u64,
    gates: Vec<(&'static str, u64)>,
}

/// A sort of sentences that the page has no room for.
#[derive(Debug, serde::Serialize)]
struct LeftOut {
    words: &'static str,
    count: usize,
}

/// One sentence: a row of numbers and its text.
#[derive(Debug)]
struct Sentence<'a> {
    told: &'a Told,
    mark: usize,
    parties: [Option<usize>; 2],
    /// Its place among the accounts.
    account: Option<usize>,
}

impl Serialize for Sentence<'_> {
    /// The tick, the place of the mark, the place of the topic, the first and last fact, the text, the places of two names, the swing, the place of
    /// the account, the fact that led to it, the place of the rule, that of the waves; -1 for what is not there, and nothing after the last that is.
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let Told { clock, seq, topic, text, cause, swing, flow, .. } = self.told;
        let number = |place: Option<usize>| place.map_or(-1, |place| place as i64);
        let (rule, waves) = match flow {
            Some(InFlow::Rule(rule)) => (Some(rule.index()), None),
            Some(InFlow::Waves(waves)) => (None, Some(waves.index())),
            None => (None, None),
        };
        let mut row = serializer.serialize_seq(None)?;
        row.serialize_element(clock)?;
        row.serialize_element(&self.mark)?;
        row.serialize_element(&topic.index())?;
        row.serialize_element(&seq.0)?;
        row.serialize_element(&seq.1)?;
        row.serialize_element(text)?;
        let swing = swing.map_or(-1, |swing| swing.number() as i64);
        let cause = cause.map_or(-1, |cause| cause as i64);
        let [subject, other] = self.parties.map(number);
        let rest = [subject, other, swing, number(self.account), cause, number(rule), number(waves)];
        let last = rest.iter().rposition(|value| *value >= 0).map_or(0, |place| place + 1);
        rest[..last].iter().try_for_each(|value| row.serialize_element(value))?;
        row.end()
    }
}

/// An account; texts are places among the words of the page, in the order of the fields of [`Account`].
#[derive(Debug, serde::Serialize)]
struct Apart<'a> {
    #[serde(skip_serializing_if = "Option::is_none")]
    hit: Option<u64>,
    target: usize,
    #[serde(skip_serializing_if = "Option::is_none")]
    part: Option<usize>,
    #[serde(skip_serializing_if = "Option::is_none")]
    rewound: Option<u16>,
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    critical: bool,
    amounts: Vec<OfType>,
    #[serde(skip_serializing_if = "Option::is_none")]
    health: Option<[i64; 3]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    contact: &'a Option<hammerstone_record::Contact>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    gates: Vec<usize>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    followed: Vec<usize>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    heard: Vec<(usize, Vec<usize>)>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    answered: Vec<usize>,
}

/// A step, its amount before and after, and its note: places among the words.
type Step = [usize; 4];

/// Of a damage type: the type, none for healing; the amount; what healing was too much; and the steps.
type OfType = (Option<usize>, i64, Option<i64>, Vec<Step>);

/// The tick, the hit, the part, and the gate with what it wanted, what it found, and the change that would let it pass.
type OfAnswer = (u32, Option<u64>, usize, Option<[usize; 4]>);

/// The number, the attack, first and last tick, windows, why it ended.
type Swing<'a> = (u64, usize, u32, Option<u32>, &'a [(u32, Option<u32>)], Option<&'static str>);

/// What came of a swing: its number, the sentence, and its targets.
type OfSwing = (u64, usize, Vec<OfTarget>);

/// What came of a swing at a target; texts are places among the words.
#[derive(Debug, serde::Serialize)]
struct OfTarget {
    target: usize,
    outcome: usize,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    answers: Vec<OfAnswer>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    near: Vec<Near>,
    #[serde(skip_serializing_if = "Option::is_none")]
    fix: Option<usize>,
    #[serde(skip_serializing_if = "Option::is_none")]
    also: Option<usize>,
}

/// A lane; what happened and what was swung as rows, which are shorter.
#[derive(Debug, serde::Serialize)]
struct OfLane<'a> {
    name: &'a str,
    template: &'a str,
    team: &'a str,
    side: usize,
    from: u32,
    to: Option<u32>,
    health: &'a [(u32, i64, i64)],
    gauges: &'a [GaugeLine],
    swings: Vec<Swing<'a>>,
    statuses: &'a [Bore],
    /// The tick, the sort, the text.
    marks: Vec<(u32, Sort, usize)>,
    down: &'a [(u32, Option<u32>)],
    /// The tick, the choice, the target, why it was dropped.
    choices: Vec<(u32, usize, Option<usize>, Option<usize>)>,
}

/// A rule, and what it heard.
#[derive(Debug, serde::Serialize)]
struct OfRule<'a> {
    name: &'a str,
    listens: String,
    heard: usize,
    fired: usize,
    /// How many facts of each topic came that it waits for.
    topics: Vec<(&'a str, u64)>,
    hearings: &'a [Hearing],
}

/// A sequence of waves, and what became of it.
#[derive(Debug, serde::Serialize)]
struct OfWaves<'a> {
    name: &'a str,
    template: &'a str,
    steps: Vec<(f64, String)>,
}

/// Each word once.
#[derive(Default)]
struct Words<'a> {
    all: Vec<&'a str>,
    places: HashMap<&'a str, usize>,
}

impl<'a> Words<'a> {
    fn place(&mut self, word: &'a str) -> usize {
        *self.places.entry(word).or_insert_with(|| {
            self.all.push(word);
            self.all.len() - 1
        })
    }

    fn places(&mut self, words: &'a [String]) -> Vec<usize> {
        words.iter().map(|word| self.place(word)).collect()
    }
}

impl<'a> Data<'a> {
    /// The most of it in words, for readers without scripts.
    pub(super) fn in_words(&self) -> String {
        let Counts { attempts, hits, refusals, .. } = self.counts;
        let time = f64::from(self.ticks) / f64::from(self.rate);
        let mut text = format!(
            "{}\n{} after {time:.2} s, seed {}\n{attempts} attempts = {hits} hits + {refusals} refusals\n",
            self.title,
            self.outcome.unwrap_or("no outcome"),
            self.seed
        );
        for Fall { time, who, to, by, .. } in self.deaths.iter().take(MOST_WORDS) {
            let to = to.as_ref().map_or(String::new(), |to| format!(" to {to}"));
            text.push_str(&format!("{time:.2} s: {who} died{to} by {by}\n"));
        }
        for Dealt { source, target, by, damage_type, amount, .. } in self.dealt.iter().take(MOST_WORDS) {
            let source = source.as_deref().unwrap_or("the environment");
            text.push_str(&format!("{source} dealt {amount} {damage_type} to {target} with {by}\n"));
        }
        for check in self.checks {
            text.push_str(&format!("{}: {}\n", if check.fine { "fine" } else { "to look at" }, check.text));
        }
        text + "This page needs a script to show more; `hammerstone run` and `hammerstone explain` say all of it in text."
    }

    pub(super) fn of(
        reporter: &'a Reporter,
        heading: &Heading<'a>,
        rules: &'a Ruleset,
        names: &Names,
    ) -> Data<'a> {
        let Reporter { lanes, transcript, accounts, tally, playback, history, .. } = reporter;
        let counts = tally.counts();
        let gates = counts.refusals_by_gate().map(|(gate, count): (Gate, u64)| (gate.name(), count));
        let all = first_accounts(reporter);
        let (lines, mut left_out) = sentences(transcript, &reporter.parties, all);
        if accounts.all().len() > all.len() {
            left_out.push(LeftOut { words: "ledgers", count: accounts.all().len() - all.len() });
        }
        let mut words = Words::default();
        let of_lanes = lanes.all().iter().map(|lane| of_lane(lane, &mut words)).collect();
        Data {
            title: heading.title,
            seed: heading.seed,
            rate: rules.rate(),
            began: lanes.began(),
            ticks: lanes.ticks(),
            outcome: tally.outcome(),
            counts: Counts {
                attempts: counts.attempts,
                hits: counts.hits,
                refusals: counts.refusals(),
                gates: gates.collect(),
            },
            teams: rules.teams().filter_map(|team| rules.team_name(team)).collect(),
            checks: heading.checks,
            dealt: tally.dealt(),
            deaths: tally.deaths(),
            standing: tally.standing(),
            playback,
            state: history,
            lanes: of_lanes,
            moments: lanes.moments(),
            marks: Transcript::MARKS,
            topics: rules.topics().paths(),
            names: &reporter.names,
            lines,
            left_out,
            words: words.all,
            rules: reporter
                .rules
                .iter()
                .zip(rules.rules())
                .map(|(trace, rule)| {
                    let (topic, family) = rule.listens_to();
                    let heard = trace.all();
                    OfRule {
                        name: rule.name(),
                        listens: if family { format!("{topic} and all below it") } else { topic.to_owned() },
                        heard: heard.len(),
                        fired: heard.iter().filter(|hearing| hearing.fired).count(),
                        topics: trace.topics(rules),
                        hearings: &heard[..heard.len().min(MOST_HEARINGS)],
                    }
                })
                .collect(),
            waves: reporter
                .waves
                .iter()
                .zip(rules.waves())
                .map(|(trace, waves)| {
                    let template = rules.template_name(waves.template()).unwrap_or_default();
                    let step = |step: &hammerstone_record::WaveStep| {
                        (step.time, step.text(template, waves.times_of()))
                    };
                    OfWaves { name: waves.name(), template, steps: trace.all().iter().map(step).collect() }
                })
                .collect(),
            wiring: reporter.wiring.diagram(rules, names),
        }
    }
}

/// The sentences for which there is room, each with its account; and what is left out.
fn sentences<'a>(
    transcript: &'a Transcript,
    parties: &[[Option<usize>; 2]],
    accounts: &[Account],
) -> (Vec<Sentence<'a>>, Vec<LeftOut>) {
    let told = transcript.told();
    let mark_of =
        |told: &Told| Transcript::MARKS.iter().position(|(mark, _)| *mark == told.mark).unwrap_or_default();
    let mut counts = [0; Transcript::MARKS.len()];
    told.iter().for_each(|told| counts[mark_of(told)] += 1);
    // Of what is most, and says least, nothing is shown where not all can be.
    let (mut left, mut left_out) = (told.len(), Vec::new());
    let mut hidden = [false; Transcript::MARKS.len()];
    for mark in [".", "o", "/", "~"] {
        let Some(place) = Transcript::MARKS.iter().position(|(known, _)| *known == mark) else { continue };
        if left > MOST_LINES && counts[place] > 0 {
            left -= counts[place];
            hidden[place] = true;
            left_out.push(LeftOut { words: Transcript::MARKS[place].1, count: counts[place] });
        }
    }
    if left > MOST_LINES {
        left_out.push(LeftOut { words: "of the last", count: left - MOST_LINES });
    }
    let mut next = accounts.iter().enumerate().peekable();
    let mut lines = Vec::with_capacity(left.min(MOST_LINES));
    for (told, &parties) in told.iter().zip(parties) {
        let mark = mark_of(told);
        if hidden[mark] {
            continue;
        }
        if lines.len() == MOST_LINES {
            break;
        }
        // Both come in the order of the run.
        while next.next_if(|(_, account)| account.clock < told.clock).is_some() {}
        let now = next.clone().take_while(|(_, account)| account.clock == told.clock);
        let found = now.into_iter().find(|(_, account)| (told.seq.0..=told.seq.1).contains(&account.seq));
        lines.push(Sentence { told, mark, parties, account: found.map(|(place, _)| place) });
    }
    (lines, left_out)
}

fn apart<'a>(account: &'a Account, words: &mut Words<'a>) -> Apart<'a> {
    let amounts = account.amounts.iter().map(|amount| {
        let step = |row: &'a Row| {
            [&row.step, &row.before, &row.after, &row.note].map(|word| words.place(word.as_str()))
        };
        let steps = amount.ledger.iter().map(step).collect();
        (amount.damage_type.as_deref().map(|word| words.place(word)), amount.amount, amount.excess, steps)
    });
    Apart {
        amounts: amounts.collect(),
        hit: account.hit,
        target: words.place(&account.target),
        part: account.part.as_deref().map(|part| words.place(part)),
        rewound: account.rewound,
        critical: account.critical,
        health: account.health,
        contact: &account.contact,
        gates: account.gates.iter().map(|gate| words.place(gate.gate)).collect(),
        followed: words.places(&account.followed),
        heard: { account.heard.iter() }
            .map(|heard| (words.place(&heard.topic), words.places(&heard.by)))
            .collect(),
        answered: words.places(&account.answered),
    }
}

fn of_swing<'a>(result: &'a SwingResult, words: &mut Words<'a>) -> OfSwing {
    let targets = result.targets.iter().map(|one| OfTarget {
        target: words.place(&one.target),
        outcome: words.place(&one.outcome),
        answers: { one.answers.iter() }
            .map(|answer| {
                let text = |text: &'a Option<String>| text.as_deref().unwrap_or_default();
                let gate = answer.gate.map(|gate| {
                    let texts = [gate, text(&answer.wanted), text(&answer.found), text(&answer.fix)];
                    texts.map(|text| words.place(text))
                });
                (answer.tick, answer.hit, words.place(&answer.part), gate)
            })
            .collect(),
        near: one.near.clone(),
        fix: one.fix.as_deref().map(|fix| words.place(fix)),
        also: one.also.as_deref().map(|also| words.place(also)),
    });
    let targets = targets.collect();
    (result.swing, words.place(&result.outcome), targets)
}

fn of_lane<'a>(lane: &'a Lane, words: &mut Words<'a>) -> OfLane<'a> {
    OfLane {
        name: &lane.name,
        template: &lane.template,
        team: &lane.team,
        side: lane.side,
        from: lane.from,
        to: lane.to,
        health: &lane.health,
        gauges: &lane.gauges,
        swings: { lane.swings.iter() }
            .map(|one| {
                (one.swing, words.place(&one.attack), one.from, one.to, one.windows.as_slice(), one.why)
            })
            .collect(),
        statuses: &lane.statuses,
        marks: lane.marks.iter().map(|mark| (mark.tick, mark.sort, words.place(&mark.text))).collect(),
        down: &lane.down,
        choices: { lane.choices.iter() }
            .map(|chosen| {
                let mut word = |word: &'a Option<String>| word.as_deref().map(|word| words.place(word));
                let (at, dropped) = (word(&chosen.at), word(&chosen.dropped));
                (chosen.tick, words.place(&chosen.choice), at, dropped)
            })
            .collect(),
    }
}
