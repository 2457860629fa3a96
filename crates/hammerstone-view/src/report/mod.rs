//! A run as one page that can be sent to someone: nothing is loaded from elsewhere.

mod numbers;

mod feed;

use feed::feed;

use std::fmt::Display;
use std::io::{self, Write};

use hammerstone::Ruleset;
use hammerstone::event::Event;
use hammerstone_record::{
    Account, Accounts, Diagram, Frame, Lanes, Names, Playback, Row, StateHistory, Tally, Told, Transcript,
    Wiring,
};
use hammerstone_record::{Record, Tick};
use serde_json::json;

use crate::look::Look;
use crate::page::WIDE;
use crate::timeline::{SPAN, timeline};
use crate::{frame, wiring};

const STYLE: &str = include_str!("report.css");
const SCRIPT: &str = include_str!("report.js");

/// How many lines of the feed a page has, at most; refusals are left out first.
const MOST_LINES: usize = 6000;

/// What a page is made of.
#[derive(Clone, Copy, Debug)]
struct Report<'a> {
    /// What the fight is called.
    title: &'a str,
    /// The seed of its rolls.
    seed: u64,
    /// Its rules, for names.
    rules: &'a Ruleset,
    /// The run by combatant.
    lanes: &'a Lanes,
    /// The run in sentences.
    transcript: &'a Transcript,
    /// The blows, taken apart.
    accounts: &'a [Account],
    /// The run in numbers.
    tally: &'a Tally,
    /// Where everything was.
    playback: &'a Playback,
    /// How everything stood.
    history: &'a StateHistory,
    /// One moment, for readers without scripts.
    moment: Option<&'a Frame>,
    /// Who hears what.
    wiring: &'a Diagram,
    /// What was checked, and what came of it.
    checks: &'a [Checked],
}

/// Something that was checked.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Checked {
    /// Whether all is well.
    pub fine: bool,
    /// What was looked at, and what was found.
    pub text: String,
}

/// Gathers all that a page shows, tick by tick, and writes it.
///
/// Amounts come with their ledgers if the encounter keeps them, and listeners are named if it keeps deliveries.
#[derive(Clone, Debug)]
pub struct Reporter {
    lanes: Lanes,
    transcript: Transcript,
    accounts: Accounts,
    tally: Tally,
    playback: Playback,
    history: StateHistory,
    wiring: Wiring,
    moment: Option<Frame>,
    first: Option<Frame>,
}

impl Reporter {
    /// Of an encounter in which no tick has run.
    pub fn new(rules: &Ruleset) -> Reporter {
        Reporter {
            lanes: Lanes::new(),
            transcript: Transcript::with_contacts(),
            accounts: Accounts::new(),
            tally: Tally::new(),
            playback: Playback::new(),
            history: StateHistory::new(),
            wiring: Wiring::new(rules),
            moment: None,
            first: None,
        }
    }

    /// Writes the page: what the fight is called, its seed, and what was checked. *Errors:* those of the writer.
    pub fn write(
        &self,
        out: &mut impl Write,
        title: &str,
        seed: u64,
        (rules, names): (&Ruleset, &Names),
        checks: &[Checked],
    ) -> io::Result<()> {
        let wiring = self.wiring.diagram(rules, names);
        let page = Report {
            title,
            seed,
            rules,
            lanes: &self.lanes,
            transcript: &self.transcript,
            accounts: self.accounts.all(),
            tally: &self.tally,
            playback: &self.playback,
            history: &self.history,
            moment: self.moment.as_ref().or(self.first.as_ref()),
            wiring: &wiring,
            checks,
        };
        report(out, &page)
    }
}

impl Record for Reporter {
    fn observe(&mut self, tick: &Tick<'_>) {
        let Reporter { lanes, transcript, accounts, tally, playback, history, wiring, .. } = self;
        tick.show(&mut [lanes, transcript, accounts, tally, playback, history, wiring]);
        if self.first.is_none() {
            self.first = Some(Frame::of(tick));
        }
        // Readers without scripts see the first tick in which someone was hit.
        if self.moment.is_none() && tick.facts.events().any(|event| matches!(event, Event::HitLanded(_))) {
            self.moment = Some(Frame::of(tick));
        }
    }
}

fn report(out: &mut impl Write, report: &Report<'_>) -> io::Result<()> {
    let Report { title, lanes, playback, rules, .. } = *report;
    write!(
        out,
        "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n\
         <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>{}</title>\n<style>\n\
         :root {{ color-scheme: light dark; {} }}\n@media (prefers-color-scheme: dark) {{ :root {{ {} }} }}\n{STYLE}</style>\n\
         </head>\n<body>\n",
        Plain(title),
        Look::LIGHT.variables(),
        Look::DARK.variables(),
    )?;
    head(out, report)?;
    writeln!(out, "<main>\n<section id=\"timeline-part\"><h2>The whole fight</h2>\n<div id=\"timeline\">")?;
    writeln!(out, "{}\n</div>", inline(&timeline(lanes, title, rules.rate(), &Look::PAGE)))?;
    controls(out, playback)?;
    writeln!(out, "</section>\n<section id=\"moment\"><h2>The moment at the cursor</h2>")?;
    writeln!(
        out,
        "<svg id=\"stage\" role=\"img\" aria-label=\"Where everyone stands at the cursor\"></svg>"
    )?;
    if let Some(moment) = report.moment {
        writeln!(out, "<div class=\"plain\">{}</div>", inline(&frame(moment, title, &Look::PAGE)))?;
    }
    if playback.step() > 1 {
        let step = playback.step();
        writeln!(
            out,
            "<p class=\"quiet\">The page holds every {step}th tick; the nearest before the cursor is shown.</p>"
        )?;
    }
    writeln!(
        out,
        "<details class=\"scripted-only\" open><summary>How everything stands at the cursor</summary>\n\
         <div class=\"scroll\"><table id=\"state\"></table></div></details>"
    )?;
    writeln!(out, "</section>")?;
    feed(out, report)?;
    numbers::damage(out, report.tally)?;
    numbers::refusals(out, report)?;
    numbers::standing(out, report)?;
    writeln!(out, "<section id=\"wiring\"><h2>Who hears what</h2>")?;
    writeln!(out, "{}\n</section>", inline(&wiring(report.wiring, title, &Look::PAGE)))?;
    numbers::checks(out, report.checks)?;
    writeln!(out, "</main>")?;
    script(out, report)?;
    writeln!(out, "</body>\n</html>")
}

/// Text in a page.
struct Plain<'a>(&'a str);

impl Display for Plain<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        for letter in self.0.chars() {
            match letter {
                '&' => f.write_str("&amp;")?,
                '<' => f.write_str("&lt;")?,
                '>' => f.write_str("&gt;")?,
                '"' => f.write_str("&quot;")?,
                letter => write!(f, "{letter}")?,
            }
        }
        Ok(())
    }
}

/// A picture within a page: as wide as the page lets it be.
fn inline(svg: &str) -> String {
    svg.replacen(&format!(" width=\"{WIDE}\""), "", 1)
}

fn head(out: &mut impl Write, report: &Report<'_>) -> io::Result<()> {
    let Report { title, seed, rules, tally, .. } = *report;
    let (counts, ticks) = (tally.counts(), tally.ticks());
    let seconds = f64::from(ticks) / f64::from(rules.rate());
    let damage: i64 = tally.dealt().iter().map(|dealt| dealt.amount).sum();
    writeln!(out, "<header>\n<h1>{}</h1>", Plain(title))?;
    writeln!(
        out,
        "<p class=\"quiet\">{} ticks a second, seed {seed}</p>\n<ul class=\"tiles\">",
        rules.rate()
    )?;
    let mut tile = |value: String, words: &str| {
        writeln!(out, "<li><b>{}</b> <span>{}</span></li>", Plain(&value), Plain(words))
    };
    tile(tally.outcome().unwrap_or("still running").to_owned(), "outcome")?;
    tile(format!("{seconds:.2} s"), &format!("{ticks} ticks"))?;
    tile(counts.attempts.to_string(), "attempts")?;
    tile(counts.hits.to_string(), "hits")?;
    tile(counts.refusals().to_string(), "refusals")?;
    tile(damage.to_string(), "points of damage")?;
    tile(tally.deaths().len().to_string(), "deaths")?;
    let troubled = report.checks.iter().filter(|check| !check.fine).count();
    let (value, words) = match troubled {
        0 => ("fine".to_owned(), "checks"),
        troubled => (format!("{troubled} to look at"), "checks"),
    };
    tile(value, words)?;
    writeln!(out, "</ul>\n</header>\n<nav aria-label=\"Parts of this page\">")?;
    for (part, words) in [
        ("timeline-part", "The whole fight"),
        ("moment", "The moment"),
        ("feed", "Events"),
        ("damage", "Damage"),
        ("refusals", "Refusals"),
        ("standing", "Who stood"),
        ("wiring", "Who hears what"),
        ("checks", "Checks"),
    ] {
        writeln!(out, "<a href=\"#{part}\">{words}</a>")?;
    }
    writeln!(out, "</nav>")
}

fn controls(out: &mut impl Write, playback: &Playback) -> io::Result<()> {
    writeln!(
        out,
        "<div class=\"controls\">\n<button id=\"play\">Play</button>\n\
         <label>speed <select id=\"speed\"><option value=\"0.1\">a tenth</option><option value=\"0.5\">half</option>\
         <option value=\"1\" selected>normal</option><option value=\"4\">four times</option></select></label>"
    )?;
    for (mark, words) in [("*", "hit"), ("o", "refusal"), ("X", "death")] {
        writeln!(
            out,
            "<button data-jump=\"{mark}\" data-way=\"-1\" aria-label=\"{words} before\">‹ {words}</button>\
             <button data-jump=\"{mark}\" data-way=\"1\" aria-label=\"next {words}\">{words} ›</button>"
        )?;
    }
    writeln!(
        out,
        "<input type=\"range\" id=\"tick\" min=\"1\" max=\"{}\" value=\"1\" aria-label=\"Tick\">\n<output id=\"moment-words\"></output>\n</div>\n\
         <p class=\"controls quiet\">Keys: ← → a tick, with shift a second; h, r, d the next hit, refusal, death, with shift the one before; space plays. The timeline can be dragged; the address of the page holds the moment.</p>",
        playback.last_tick().max(1)
    )
}

fn script(out: &mut impl Write, report: &Report<'_>) -> io::Result<()> {
    let mut playback = serde_json::to_value(report.playback).map_err(io::Error::from)?;
    if let Some(playback) = playback.as_object_mut() {
        let history = serde_json::to_value(report.history).map_err(io::Error::from)?;
        playback.insert("state".to_owned(), history);
        playback.insert("rate".to_owned(), json!(report.rules.rate()));
        playback.insert("left".to_owned(), json!(SPAN.0));
        playback.insert("right".to_owned(), json!(SPAN.1));
    }
    // Nothing in it may end the element that it stands in.
    let playback = playback.to_string().replace('<', "\\u003c");
    writeln!(
        out,
        "<script type=\"application/json\" id=\"playback\">{playback}</script>\n<script>\n{SCRIPT}</script>"
    )
}
