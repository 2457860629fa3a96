//! The feed for people: one sentence a line.
//!
//! A blow and what it did to health are one line. Contacts, and windows that open and close, are left to the
//! JSON Lines: a person reads what came of them.

use std::fmt::Write as _;

use anstyle::{AnsiColor, Style};
use hammerstone::{
    Event, Fixed, HostValue, LedgerLine, LedgerStep, Note, Rules, Step, SwingEnd, TopicId, Via,
};

use crate::words::{BarredByText, OperandText, Short, cause_name, means_name, step_name};
use crate::{Line, words};

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
    pub(crate) const FELL: &str = "X";
    pub(crate) const STATUS: &str = "~";
    pub(crate) const CROSSED: &str = "%";
    pub(crate) const RULE: &str = "&";
    pub(crate) const SAID: &str = ">";
}

/// When a tick begins, in seconds.
pub(crate) fn begins(tick: u32, rules: &Rules) -> f64 {
    f64::from(tick.saturating_sub(1)) / f64::from(rules.rate())
}

/// What the fact says, with its mark and style; nothing for facts that a person need not read.
pub(crate) fn sentence(line: &Line<'_>) -> Option<(&'static str, Style, String)> {
    let (rules, names) = (line.rules, line.names);
    let who = |who| names.of(who);
    let attacker_name = |who: Option<_>| who.map_or("the environment", |who| names.of(who));
    let by = |source: Option<_>| source.map_or(String::new(), |source| format!(" from {}", who(source)));
    let until = |ends: Option<u32>| match ends {
        Some(ends) => format!(", until {:.2}s", begins(ends, rules)),
        None => ", until it is lifted".to_owned(),
    };
    let told = match line.fact.event {
        Event::EncounterStarted => (mark::FRAME, QUIET, "the encounter starts".to_owned()),
        Event::EncounterEnded { outcome } => (
            mark::FRAME,
            STRONG,
            format!("the encounter ends: {}", rules.outcome_name(outcome).unwrap_or_default()),
        ),
        Event::EncounterCut { place, by, left_out, depth, .. } => {
            let (sort, name, on) = words::cut_at(place, rules, names);
            let on = on.map_or(String::new(), |on| format!(" on {on}"));
            let limit = words::limit(by, depth);
            let what = if left_out == 1 { "reaction" } else { "reactions" };
            let text = format!("{sort} {name}{on}: {left_out} {what} did not begin, {limit}");
            (mark::REFUSED, TROUBLE, text)
        }
        Event::OrderRefused { what, subject, why, .. } => {
            let whose = subject.map_or(String::new(), |subject| format!(" for {}", who(subject)));
            (mark::REFUSED, TROUBLE, format!("order {what}{whose} refused: {why}"))
        }
        Event::CombatantJoined { subject, team, health, .. } => {
            let text = format!(
                "{} joins the {} with {health} health",
                who(subject),
                rules.team_name(team).unwrap_or_default()
            );
            (mark::CAME, PLAIN, text)
        }
        Event::CombatantReturned { subject, health, life, .. } => {
            (mark::CAME, LIFE, format!("{} returns with {health} health, life {life}", who(subject)))
        }
        Event::CombatantAway { subject, .. } => (mark::LEFT, QUIET, format!("{} goes away", who(subject))),
        Event::CombatantRemoved { subject, why } => {
            (mark::LEFT, QUIET, format!("{} is removed ({})", who(subject), why.name()))
        }
        Event::AttackStarted { subject, attack, swing, .. } => {
            let text = format!(
                "{} starts {} (swing {})",
                attacker_name(subject),
                rules.attack_name(attack).unwrap_or_default(),
                swing.number()
            );
            (mark::SWING, PLAIN, text)
        }
        Event::AttackEnded { subject, attack, swing, why } if why != SwingEnd::Done => {
            let attack = rules.attack_name(attack).unwrap_or_default();
            let text = format!(
                "{}'s {attack} (swing {}) ends: {}",
                attacker_name(subject),
                swing.number(),
                why.name()
            );
            (mark::SWING, QUIET, text)
        }
        Event::HitLanded { attack, attacker, target, part, .. } => {
            let part = names.part(rules, target, part).unwrap_or_default();
            let attack = rules.attack_name(attack).unwrap_or_default();
            (
                mark::HIT,
                STRONG,
                format!("{} hits {} on the {part} with {attack}", attacker_name(attacker), who(target)),
            )
        }
        Event::HitRefused { attack, attacker, target, gate, wanted, found, .. } => {
            let (wanted, found) = (OperandText(wanted, rules), OperandText(found, rules));
            let attack = rules.attack_name(attack).unwrap_or_default();
            let text = format!(
                "{}'s {attack} is refused at {}: {} (wanted {wanted}, found {found})",
                attacker_name(attacker),
                who(target),
                gate.name()
            );
            (mark::REFUSED, QUIET, text)
        }
        Event::AttackChained { subject, attack, swing } => {
            let attack = rules.attack_name(attack).unwrap_or_default();
            (mark::SWING, PLAIN, format!("{} goes on with {attack} (swing {})", who(subject), swing.number()))
        }
        Event::AttackLapsed { subject, attack } => {
            let text = format!(
                "{}'s chain lapses before {}",
                who(subject),
                rules.attack_name(attack).unwrap_or_default()
            );
            (mark::SWING, QUIET, text)
        }
        Event::HitClashed { attack, attacker, swing, against, target, .. } => {
            let (attack, swing, against) =
                (rules.attack_name(attack).unwrap_or_default(), swing.number(), against.number());
            let (one, other) = (attacker_name(attacker), attacker_name(target));
            (
                mark::HIT,
                STRONG,
                format!("{one}'s {attack} (swing {swing}) clashes with {other}'s swing {against}"),
            )
        }
        Event::HitDeflected { attack, attacker, target, .. } => {
            let attack = rules.attack_name(attack).unwrap_or_default();
            (mark::HIT, STRONG, format!("{} deflects {}'s {attack}", who(target), attacker_name(attacker)))
        }
        Event::DamageDealt { source, target, via, echo: Some(echo), .. } => {
            let (_, name) = means_name(via, rules);
            let text = format!("{name} ({}) damages {}{}", echo.name(), who(target), by(source));
            (mark::HIT, STRONG, text)
        }
        Event::DamageDealt { source, target, via: via @ Via::Host(_), .. } => {
            let (_, name) = means_name(via, rules);
            (mark::HIT, STRONG, format!("{name} damages {}{}", who(target), by(source)))
        }
        Event::HealApplied { source, target, via, amount, excess, .. } => {
            let (_, name) = means_name(via, rules);
            let beyond = if excess > 0 { format!(", overheal {excess}") } else { String::new() };
            (mark::CAME, LIFE, format!("{name} heals {} by {amount}{}{beyond}", who(target), by(source)))
        }
        Event::StatusApplied { subject, source, status, ends, .. } => {
            let status = rules.status_name(status).unwrap_or_default();
            (mark::STATUS, STATUS, format!("{status} on {}{}{}", who(subject), by(source), until(ends)))
        }
        Event::StatusRefreshed { subject, status, ends, .. } => {
            let status = rules.status_name(status).unwrap_or_default();
            (mark::STATUS, STATUS, format!("{status} on {} is refreshed{}", who(subject), until(ends)))
        }
        Event::StatusStacked { subject, status, stacks, ends, .. } => {
            let status = rules.status_name(status).unwrap_or_default();
            let text = format!("{status} on {} counts {stacks} times{}", who(subject), until(ends));
            (mark::STATUS, STATUS, text)
        }
        Event::StatusRefused { subject, status, why, .. } => {
            let (status, why) = (rules.status_name(status).unwrap_or_default(), BarredByText(why, rules));
            (mark::REFUSED, QUIET, format!("{status} is refused by {}: {why}", who(subject)))
        }
        Event::StatusSuspended { subject, status, .. } => {
            let text = format!(
                "{} on {} waits for its return",
                rules.status_name(status).unwrap_or_default(),
                who(subject)
            );
            (mark::STATUS, QUIET, text)
        }
        Event::StatusResumed { subject, status, ends, .. } => {
            let status = rules.status_name(status).unwrap_or_default();
            (mark::STATUS, STATUS, format!("{status} on {} goes on{}", who(subject), until(ends)))
        }
        Event::HitPushed { target, impulse, .. } => {
            let [x, y, z] = impulse;
            let metres = (x * x + y * y + z * z).sqrt();
            (mark::HIT, QUIET, format!("{} is pushed by {metres:.2} m", who(target)))
        }
        Event::HitStaggered { target, gathered, .. } => {
            (mark::HIT, STRONG, format!("{} staggers after {}", who(target), Short(gathered)))
        }
        Event::ShieldRaised { subject, shield, amount, left } => {
            let shield = rules.shield_name(shield).unwrap_or_default();
            (mark::CAME, LIFE, format!("{shield} of {} rises by {amount} to {left}", who(subject)))
        }
        Event::ShieldAbsorbed { subject, shield, amount, left } => {
            let shield = rules.shield_name(shield).unwrap_or_default();
            (mark::HIT, PLAIN, format!("{shield} of {} absorbs {amount}, {left} left", who(subject)))
        }
        Event::ShieldBroken { subject, shield } => (
            mark::HIT,
            STRONG,
            format!("{} of {} breaks", rules.shield_name(shield).unwrap_or_default(), who(subject)),
        ),
        Event::ShieldLapsed { subject, shield, amount } => {
            let shield = rules.shield_name(shield).unwrap_or_default();
            (mark::STATUS, QUIET, format!("{shield} of {} is gone, with {amount} points", who(subject)))
        }
        Event::GuardBroken { subject, status, amount } => {
            let (status, amount) = (rules.status_name(status).unwrap_or_default(), Short(amount));
            (mark::HIT, STRONG, format!("{status} of {} breaks, having taken {amount}", who(subject)))
        }
        Event::PartBroken { subject, part, .. } => {
            let part = names.part(rules, subject, part).unwrap_or_default();
            (mark::HIT, STRONG, format!("the {part} of {} breaks", who(subject)))
        }
        Event::CombatantSpared { subject, by } => {
            let (_, name) = cause_name(by, rules, names);
            let name = if name.is_empty() { "the host" } else { name };
            (mark::CAME, LIFE, format!("{name} keeps {} alive", who(subject)))
        }
        Event::StatusPulsed { subject, status, .. } => (
            mark::STATUS,
            STATUS,
            format!("{} on {} pulses", rules.status_name(status).unwrap_or_default(), who(subject)),
        ),
        Event::StatusExpired { subject, status, .. } => (
            mark::STATUS,
            QUIET,
            format!("{} on {} expires", rules.status_name(status).unwrap_or_default(), who(subject)),
        ),
        Event::StatusLifted { subject, status, why, .. } => {
            let status = rules.status_name(status).unwrap_or_default();
            (mark::STATUS, QUIET, format!("{status} on {} is lifted ({})", who(subject), why.name()))
        }
        Event::CombatantDied { subject, killer, via, assists, overkill, lives, values, .. } => {
            let (_, name) = means_name(via, rules);
            let mut text = format!("{} dies", who(subject));
            if let Some(killer) = killer {
                let _ = write!(text, " to {}", who(killer));
            }
            let _ = write!(text, " by {name}");
            if overkill > 0 {
                let _ = write!(text, ", overkill {overkill}");
            }
            let assists: Vec<&str> =
                line.facts.assists_of(assists).iter().map(|&helper| who(helper)).collect();
            if !assists.is_empty() {
                let _ = write!(text, ", assisted by {}", assists.join(", "));
            }
            if let Some(lives) = lives {
                let _ = write!(text, ", {lives} {} left", if lives == 1 { "life" } else { "lives" });
            }
            for (value, amount) in line.facts.values_of(values) {
                let _ = write!(text, ", {} {amount}", rules.value_name(*value).unwrap_or_default());
            }
            (mark::FELL, DEATH, text)
        }
        Event::EncounterRound { round } => (mark::FRAME, STRONG, format!("round {round}")),
        Event::EncounterWave { waves, wave, count } => {
            let text = format!("wave {wave} of {}: {count}", rules.waves_name(waves).unwrap_or_default());
            (mark::FRAME, STRONG, text)
        }
        Event::EncounterReset => (mark::FRAME, STRONG, "the encounter begins anew".to_owned()),
        Event::LeaderLost { subject, leader, .. } => {
            (mark::LEFT, PLAIN, format!("{} has lost its leader, {}", who(subject), who(leader)))
        }
        Event::HealthCrossed { subject, threshold, downwards } => {
            let way = if downwards { "drops to" } else { "rises above" };
            let threshold = rules.threshold_name(threshold).unwrap_or_default();
            (mark::CROSSED, TROUBLE, format!("the health of {} {way} {threshold}", who(subject)))
        }
        Event::FlagChanged { flag, to } => {
            let way = if to { "up" } else { "down" };
            (mark::RULE, LIFE, format!("flag {} is {way}", rules.flag_name(flag).unwrap_or_default()))
        }
        Event::CounterChanged { counter, from, to } => (
            mark::RULE,
            QUIET,
            format!("counter {}: {from} to {to}", rules.counter_name(counter).unwrap_or_default()),
        ),
        Event::ScoreChanged { score, from, to, credit } => {
            let whose = credit.map_or(String::new(), |credit| format!(", for {}", who(credit)));
            (
                mark::RULE,
                LIFE,
                format!("score {}: {from} to {to}{whose}", rules.score_name(score).unwrap_or_default()),
            )
        }
        Event::Said { line, subject } => {
            let text = rules.line_text(line).unwrap_or_default();
            let speaker = subject.map_or(String::new(), |subject| format!("{}: ", who(subject)));
            (mark::SAID, STRONG, format!("{speaker}{text}"))
        }
        Event::RuleFired { rule, subject, .. } => {
            let whose = subject.map_or(String::new(), |subject| format!(" for {}", who(subject)));
            (mark::RULE, QUIET, format!("rule {} fires{whose}", rules.rule_name(rule).unwrap_or_default()))
        }
        Event::Host { topic, .. } => (mark::RULE, PLAIN, host(line, topic)),
        _ => return None,
    };
    Some(told)
}

/// A fact of the host's own: its path and its values.
fn host(line: &Line<'_>, topic: TopicId) -> String {
    let (rules, names) = (line.rules, line.names);
    let mut text = rules.topics().path(topic).unwrap_or_default().to_owned();
    let Event::Host { values, .. } = line.fact.event else { return text };
    let Some(host) = rules.topics().host_topic(topic) else { return text };
    let mut between = ": ";
    for ((name, _), value) in rules.host_fields(host).zip(&values) {
        let _ = match value {
            HostValue::Nothing => continue,
            HostValue::Whole(whole) => write!(text, "{between}{name} {whole}"),
            HostValue::Exact(exact) => write!(text, "{between}{name} {}", Short(*exact)),
            HostValue::Truth(truth) => write!(text, "{between}{name} {}", if *truth { "yes" } else { "no" }),
            HostValue::Who(who) => write!(text, "{between}{name} {}", names.of(*who)),
            HostValue::At([x, y, z]) => write!(text, "{between}{name} [{x}, {y}, {z}]"),
        };
        between = ", ";
    }
    text
}

/// The account of an amount in brackets, if anything but the base made it.
pub(crate) fn account(ledger: &[LedgerLine], rules: &Rules) -> String {
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
