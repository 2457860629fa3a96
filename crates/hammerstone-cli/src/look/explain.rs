//! `explain`: the blows of a fight, and what one of them is made of.

use std::io::{self, Write};

use hammerstone_record::{Account, Accounts, Amount, Contact};
use miette::miette;

use super::{state, swing_results, why};
use crate::args::{Asked, ExplainOptions};
use crate::source::Fight;
use crate::{Failure, Outcome, output, part};

pub(crate) fn explain(asked: &Asked, options: &ExplainOptions) -> Result<Outcome, Failure> {
    let fight = Fight::of(asked)?;
    let ExplainOptions { attacker, target, at, between, only, .. } = options;
    if options.state {
        return state::state(&fight, options);
    }
    if attacker.is_some() || target.is_some() || at.is_some() || (between.is_some() && only.is_empty()) {
        return swing_results::swing_results(&fight, options);
    }
    if let Some(rule) = &options.rule {
        return why::rule(&fight, rule, options);
    }
    if let Some(waves) = &options.wave {
        return why::wave(&fight, waves, options);
    }
    if let Some(name) = &options.death {
        return why::death(&fight, name, options);
    }
    let to = (options.format, &options.out);
    let accounts = accounts(&fight)?;
    let chosen = find(options, accounts.all())?;
    match chosen {
        Some(account) => output::answer(to, account, |out| take_apart(out, account))?,
        None => {
            let all: Vec<&Account> = accounts.all().iter().collect();
            let names = all.iter().flat_map(|account| account.source.iter().chain([&account.target]));
            part::must_be_there(only, &names.map(String::as_str).collect::<Vec<_>>())?;
            let asked: Vec<&Account> = all.into_iter().filter(|account| is_asked(account, options)).collect();
            output::answer(to, &asked, |out| list(out, &fight, &asked))?;
        }
    }
    Ok(Outcome::Fine)
}

/// Whether a blow is in the part that is asked for.
fn is_asked(account: &Account, options: &ExplainOptions) -> bool {
    let ExplainOptions { between, only, .. } = options;
    let mut parties = account.source.iter().chain([&account.target]);
    between.is_none_or(|(from, to)| from <= account.time && account.time <= to)
        && (only.is_empty() || parties.any(|name| only.iter().any(|wanted| part::fits(wanted, name))))
}

/// Plays the fight with its ledgers.
pub(crate) fn accounts(fight: &Fight) -> Result<Accounts, Failure> {
    let mut accounts = Accounts::new();
    let mut play = fight.play(true)?;
    play.encounter_mut().keep_deliveries(true);
    play.encounter_mut().keep_gates(true);
    play.through(&mut [&mut accounts])?;
    Ok(accounts)
}

/// The account that is asked for, if one is.
fn find<'a>(options: &ExplainOptions, all: &'a [Account]) -> Result<Option<&'a Account>, Failure> {
    type Number = fn(&Account) -> Option<u64>;
    let asked: [(&str, Option<u64>, Number); 3] = [
        ("hit", options.hit, |account| account.hit),
        ("blow", options.blow, |account| account.blow),
        ("fact", options.seq, |account| Some(account.seq)),
    ];
    let Some((what, number, of)) = asked.into_iter().find_map(|(what, number, of)| Some((what, number?, of)))
    else {
        return Ok(None);
    };
    if let Some(account) = all.iter().find(|account| of(account) == Some(number)) {
        return Ok(Some(account));
    }
    let known = all.iter().filter_map(of);
    let fix = match (known.clone().min(), known.max()) {
        (Some(first), Some(last)) if what == "fact" => {
            format!(
                "`explain` without `--seq` lists them; they are numbered from {first} to {last}, with holes"
            )
        }
        (Some(first), Some(last)) => format!("they are numbered from {first} to {last}"),
        _ => "no one was hit, damaged or healed in this fight".to_owned(),
    };
    let message = match what {
        "fact" => format!("no blow and no healing begins with fact {number}"),
        _ => format!("there is no {what} {number}"),
    };
    Err(miette!(help = fix, "{message}"))
}

const LIST: [output::Column<'static>; 9] = [
    ("time", true),
    ("fact", true),
    ("blow", true),
    ("hit", true),
    ("by", false),
    ("with", false),
    ("to", false),
    ("amount", false),
    ("health", false),
];

/// A row for each blow and each healing.
fn list(out: &mut dyn Write, fight: &Fight, all: &[&Account]) -> io::Result<()> {
    if all.is_empty() {
        return writeln!(out, "{}: no one was hit, damaged or healed", fight.title());
    }
    writeln!(out, "{}: {} blows and healings\n", fight.title(), all.len())?;
    rows(out, all.iter().copied())?;
    writeln!(out, "\n`--hit`, `--blow` or `--seq` (the fact) with a number takes one apart.")
}

pub(crate) fn rows<'a>(out: &mut dyn Write, all: impl Iterator<Item = &'a Account>) -> io::Result<()> {
    let or_none = |number: Option<u64>| number.map_or(String::new(), |number| number.to_string());
    let rows: Vec<[String; 9]> = all
        .map(|account| {
            let part = account.part.as_ref().map_or(String::new(), |part| format!(", {part}"));
            let health = account.health.map_or(String::new(), |[from, to, _]| format!("{from} to {to}"));
            let dies = if account.health.is_some_and(|[_, to, _]| to == 0) { ", dies" } else { "" };
            [
                format!("{:.2}s", account.time),
                account.seq.to_string(),
                or_none(account.blow),
                or_none(account.hit),
                account.source.clone().unwrap_or_else(|| "-".to_owned()),
                account.name.clone(),
                format!("{}{part}", account.target),
                amounts(account),
                format!("{health}{dies}"),
            ]
        })
        .collect();
    output::table(out, &LIST, &rows, "")
}

fn amounts(account: &Account) -> String {
    let of = |amount: &Amount| match &amount.damage_type {
        Some(damage_type) => format!("{} {damage_type}", amount.amount),
        None => format!("+{}", amount.amount),
    };
    let mut text = account.amounts.iter().map(of).collect::<Vec<_>>().join(", ");
    if text.is_empty() {
        text.push_str("no damage");
    }
    if account.critical {
        text.push_str(" critical");
    }
    if let Some(echo) = account.echo {
        text.push_str(&format!(" {echo}"));
    }
    text
}

const LEDGER: [output::Column<'static>; 5] =
    [("step", false), ("before", true), ("change", true), ("after", true), ("because", false)];

/// One blow: who, what, and each amount step by step.
pub(crate) fn take_apart(out: &mut dyn Write, account: &Account) -> io::Result<()> {
    let Account { tick, time, blow, hit, source, target, via, name, part, .. } = account;
    let mut head = match (blow, hit) {
        (Some(blow), Some(hit)) => format!("Blow {blow}, hit {hit}"),
        (Some(blow), None) => format!("Blow {blow}"),
        (None, Some(hit)) => format!("Hit {hit}"),
        (None, None) => "Healing".to_owned(),
    };
    head.push_str(&format!(", at {time:.2}s (tick {tick}): "));
    let source = source.as_deref().unwrap_or("environment");
    head.push_str(&match *via {
        "attack" => format!("{source}'s {name} on {target}"),
        "status" => format!("{name} on {target}, from {source}"),
        _ => format!("{name} on {target}"),
    });
    if let Some(part) = part {
        head.push_str(&format!(", {part}"));
    }
    if let Some(echo) = account.echo {
        head.push_str(&format!(" ({echo})"));
    }
    writeln!(out, "\x1b[1m{head}\x1b[0m")?;
    if let Some(contact) = &account.contact {
        met(out, contact)?;
    }
    if let Some(ticks) = account.rewound {
        writeln!(out, "{}", swing_results::rewound_by(ticks))?;
    }
    if !account.gates.is_empty() {
        writeln!(
            out,
            "\n\x1b[1mGates\x1b[0m \x1b[2m(all passed; those that ask nothing of it are left out)\x1b[0m"
        )?;
        let gates = account.gates.iter();
        let rows: Vec<[String; 3]> =
            gates.map(|gate| [gate.gate.to_owned(), gate.wanted.clone(), gate.found.clone()]).collect();
        output::table(out, &GATES, &rows, "  ")?;
    }
    for amount in &account.amounts {
        let critical = if account.critical { ", critical" } else { "" };
        match &amount.damage_type {
            Some(damage_type) => writeln!(out, "\n{damage_type}: {}{critical}", amount.amount)?,
            None => writeln!(out, "\nhealing: {}", amount.amount)?,
        }
        let rows: Vec<[String; 5]> = amount
            .ledger
            .iter()
            .map(|row| {
                let cells = [&row.step, &row.before, &row.after, &row.note].map(String::clone);
                let [step, before, after, note] = cells;
                let change = change(&before, &after);
                [step, before, change, after, note]
            })
            .collect();
        output::table(out, &LEDGER, &rows, "  ")?;
        if let Some(excess) = amount.excess {
            writeln!(out, "  overheal {excess}")?;
        }
    }
    if let Some([from, to, max]) = account.health {
        writeln!(out, "\nhealth {from} to {to}, of {max}")?;
    }
    account.followed.iter().try_for_each(|text| writeln!(out, "then {text}"))?;
    if !account.heard.is_empty() {
        writeln!(out, "\n\x1b[1mHeard\x1b[0m")?;
        for heard in &account.heard {
            writeln!(out, "  {} (fact {}): {}", heard.topic, heard.seq, heard.by.join(", "))?;
        }
    } else {
        writeln!(out, "\nno listener hears any of it")?;
    }
    if !account.answered.is_empty() {
        writeln!(out, "\n\x1b[1mAnswered in the same tick\x1b[0m")?;
    }
    account.answered.iter().try_for_each(|text| writeln!(out, "  {text}"))
}

const GATES: [output::Column<'static>; 3] = [("gate", false), ("wanted", false), ("found", false)];

/// What met: which swing, where, when.
fn met(out: &mut dyn Write, contact: &Contact) -> io::Result<()> {
    let Contact { swing, window, body, life, point, normal, toi } = contact;
    write!(out, "met in window {window} of swing {swing}")?;
    if let Some(body) = body {
        write!(out, ", by body {body}")?;
    }
    let place = |[x, y, z]: &[f32; 3]| format!("[{x:.2}, {y:.2}, {z:.2}]");
    write!(out, ", at {} m, facing {}", place(point), place(normal))?;
    match toi {
        Some(toi) => write!(out, ", {toi:.2} of the tick in")?,
        None => write!(out, ", touching since before")?,
    }
    writeln!(out, "; life {life} of the target")
}

/// An exact amount in ten-thousandths.
pub(crate) fn exact(text: &str) -> i128 {
    text.replace('.', "").parse().unwrap_or(0)
}

/// By how much an exact amount changed; nothing if it did not.
fn change(before: &str, after: &str) -> String {
    let by = exact(after) - exact(before);
    match by {
        0 => String::new(),
        by => {
            let (sign, size) = (if by < 0 { '-' } else { '+' }, by.unsigned_abs());
            format!("{sign}{}.{:04}", size / 10_000, size % 10_000)
        }
    }
}
