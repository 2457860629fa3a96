//! The feed for people: one sentence a line.
//!
//! A blow and what it did to health are one line. Windows that open and close are left to the JSON Lines, and
//! so are contacts unless they are asked for: a person reads what came of them.

use std::fmt::Write as _;

use anstyle::{AnsiColor, Style};
use hammerstone::amount::Step;
use hammerstone::event::{Event, HostValue, LedgerLine, LedgerStep, Note, SwingEnd, Via};
use hammerstone::event::{HostFact, Shown};
use hammerstone::{Fixed, Ruleset};

use super::sentence::Told;
use crate::Line;
use crate::feed::{Short, step_name};

const PLAIN: Style = Style::new();
pub(crate) const QUIET: Style = Style::new().dimmed();
const STRONG: Style = Style::new().bold();
const DEATH: Style = Style::new().bold().fg_color(Some(anstyle::Color::Ansi(AnsiColor::BrightRed)));
const STATUS: Style = Style::new().fg_color(Some(anstyle::Color::Ansi(AnsiColor::Cyan)));
const LIFE: Style = Style::new().fg_color(Some(anstyle::Color::Ansi(AnsiColor::Green)));
const TROUBLE: Style = Style::new().fg_color(Some(anstyle::Color::Ansi(AnsiColor::Yellow)));

/// The mark before a line, which tells sorts of facts apart without colour.
pub(crate) mod mark {
    pub(crate) const FRAME: &str = "=";
    pub(crate) const CAME: &str = "+";
    pub(crate) const LEFT: &str = "-";
    pub(crate) const SWING: &str = "/";
    pub(crate) const HIT: &str = "*";
    pub(crate) const REFUSED: &str = "o";
    pub(crate) const DIED: &str = "X";
    pub(crate) const STATUS: &str = "~";
    pub(crate) const CROSSED: &str = "%";
    pub(crate) const RULE: &str = "&";
    pub(crate) const SAID: &str = ">";
    pub(crate) const CONTACT: &str = ".";
}

/// When a tick begins, in seconds.
pub(crate) fn begins(tick: u32, rules: &Ruleset) -> f64 {
    f64::from(tick.saturating_sub(1)) / f64::from(rules.rate())
}

/// The mark and the style of what is shown so; none for what is left out.
fn look(shown: Shown) -> Option<(&'static str, Style)> {
    Some(match shown {
        Shown::Frame => (mark::FRAME, QUIET),
        Shown::Headline => (mark::FRAME, STRONG),
        Shown::Trouble => (mark::REFUSED, TROUBLE),
        Shown::Came => (mark::CAME, PLAIN),
        Shown::Left => (mark::LEFT, QUIET),
        Shown::LeftPlain => (mark::LEFT, PLAIN),
        Shown::Swing => (mark::SWING, PLAIN),
        Shown::SwingOver => (mark::SWING, QUIET),
        Shown::HitLine => (mark::HIT, STRONG),
        Shown::HitPlain => (mark::HIT, PLAIN),
        Shown::HitQuiet => (mark::HIT, QUIET),
        Shown::RefusedLine => (mark::REFUSED, QUIET),
        Shown::StatusLine => (mark::STATUS, STATUS),
        Shown::StatusOver => (mark::STATUS, QUIET),
        Shown::Healed => (mark::CAME, LIFE),
        Shown::Death => (mark::DIED, DEATH),
        Shown::Crossed => (mark::CROSSED, TROUBLE),
        Shown::RuleLoud => (mark::RULE, LIFE),
        Shown::RuleLine => (mark::RULE, PLAIN),
        Shown::RuleQuiet => (mark::RULE, QUIET),
        Shown::Speech => (mark::SAID, STRONG),
        Shown::Contact => (mark::CONTACT, QUIET),
        _ => return None,
    })
}

/// Damage that no line of a hit or a pulse has, such as that of a status that kills as it expires.
pub(crate) fn damage_alone(line: &Line<'_>) -> Option<(&'static str, Style, String)> {
    let info = line.fact.event.info();
    let (mark, style) = look(info.shown)?;
    let is_damage = matches!(line.fact.event, Event::DamageDealt(_));
    is_damage.then(|| (mark, style, Told::new(line).fill(info.sentence)))
}

/// What the fact says, with its mark and style; nothing for facts that a person need not read.
pub(crate) fn sentence(line: &Line<'_>) -> Option<(&'static str, Style, String)> {
    let event = &line.fact.event;
    if event.info().shown == Shown::Contact {
        return None;
    }
    let (mark, style) = look(event.info().shown)?;
    let text = match event {
        // The ordinary end of a swing, and damage that the line of its hit or its pulse has.
        Event::AttackEnded(ended) if ended.why == SwingEnd::Done => return None,
        Event::DamageDealt(dealt)
            if dealt.echo.is_none() && !matches!(dealt.via, Via::Host(_) | Via::Rule(_)) =>
        {
            return None;
        }
        Event::HostFact(fact) => host(line, fact),
        _ => Told::new(line).fill(event.info().sentence),
    };
    Some((mark, style, text))
}

/// What a fact says about what touches what, with its mark and style: for those who ask.
pub(crate) fn contact(line: &Line<'_>) -> Option<(&'static str, Style, String)> {
    let info = line.fact.event.info();
    let (mark, style) = look(info.shown).filter(|_| info.shown == Shown::Contact)?;
    Some((mark, style, Told::new(line).fill(info.sentence)))
}

/// A fact of the host's own: its path and its values.
fn host(line: &Line<'_>, fact: &HostFact) -> String {
    let (rules, names) = (line.rules, line.names);
    let HostFact { topic, values, .. } = *fact;
    let mut text = rules.topics().path(topic).unwrap_or_default().to_owned();
    let Some(host) = rules.topics().host_topic(topic) else { return text };
    let mut between = ": ";
    for ((name, _), value) in rules.host_fields(host).zip(&values) {
        let _ = match value {
            HostValue::Nothing => continue,
            HostValue::Whole(whole) => write!(text, "{between}{name} {whole}"),
            HostValue::Exact(exact) => write!(text, "{between}{name} {}", Short(*exact)),
            HostValue::Truth(truth) => write!(text, "{between}{name} {}", if *truth { "yes" } else { "no" }),
            HostValue::Who(who) => write!(text, "{between}{name} {}", names.of(*who)),
            HostValue::Text(said) => write!(text, "{between}{name} \"{}\"", line.facts.text_of(*said)),
            HostValue::Name(word) => {
                write!(text, "{between}{name} {}", rules.word(*word).unwrap_or_default())
            }
            HostValue::At([x, y, z]) => write!(text, "{between}{name} [{x}, {y}, {z}]"),
        };
        between = ", ";
    }
    text
}

/// The account of an amount in brackets, if anything but the base made it.
pub(crate) fn account(ledger: &[LedgerLine], rules: &Ruleset) -> String {
    let mut text = String::new();
    let mut changes = 0;
    for line in ledger {
        let put = |text: &mut String, change: std::fmt::Arguments<'_>| {
            let between = if text.is_empty() { "" } else { ", " };
            let _ = write!(text, "{between}{change}");
        };
        let changed = line.before != line.after;
        match (line.step, line.note) {
            (LedgerStep::Step(Step::Base) | LedgerStep::Named, _) => {
                put(&mut text, format_args!("{} {}", line.step.name(), Short(line.after)));
                continue;
            }
            (LedgerStep::Step(Step::Rounding), _) => continue,
            (step, Note::Times(factor)) if factor != Fixed::ONE => {
                put(&mut text, format_args!("{} x{}", step_name(step, rules), Short(factor)));
            }
            (_, Note::Left(_)) => {
                put(&mut text, format_args!("{} clamped to remaining health", Short(line.before)))
            }
            (step, _) if changed => {
                put(&mut text, format_args!("{} {}", step_name(step, rules), Short(line.after)));
            }
            _ => continue,
        }
        changes += 1;
    }
    if changes == 0 { String::new() } else { format!(" ({text})") }
}
