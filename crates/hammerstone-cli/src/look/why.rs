//! `explain --death`, `--rule` and `--wave`: why someone died or did not, why a rule fired or did not, what became of waves.

use hammerstone::Ruleset;
use hammerstone::event::CombatantDied;
use std::io::{self, Write};

use hammerstone::event::Event;
use hammerstone::flow::WaveState;
use hammerstone_record::{Account, Accounts, Hearing, Lost, RuleTrace, SwingResult, SwingResults, WaveTrace};
use miette::miette;
use serde::Serialize;

use super::explain;
use crate::args::ExplainOptions;
use crate::source::Fight;
use crate::{Failure, Outcome, files, output};

/// How many lines are written before the rest is counted.
const MOST: usize = 40;

pub(crate) fn rule(fight: &Fight, name: &str, options: &ExplainOptions) -> Result<Outcome, Failure> {
    let rules = fight.rules();
    let Some(id) = rules.find_rule(name) else {
        let names = rules.rules().iter().map(|rule| rule.name());
        return Err(match files::nearest(name, names) {
            Some(nearest) => {
                miette!(help = format!("did you mean `{nearest}`?"), "there is no rule `{name}`")
            }
            None => miette!(help = "`wiring` shows the rules", "there is no rule `{name}`"),
        });
    };
    let mut play = fight.play(false)?;
    play.encounter_mut().keep_deliveries(true);
    let mut rule_trace = RuleTrace::new(id);
    play.through(&mut [&mut rule_trace])?;
    let (topic, family) = rules.rules()[id.index()].listens_to();
    let listens = if family { format!("{topic} and all below it") } else { topic.to_owned() };
    output::answer((options.format, &options.out), rule_trace.all(), |out| {
        rule_text(out, name, &listens, &rule_trace, rules)
    })?;
    Ok(Outcome::Fine)
}

fn rule_text(
    out: &mut dyn Write,
    name: &str,
    listens: &str,
    trace: &RuleTrace,
    rules: &Ruleset,
) -> io::Result<()> {
    let all = trace.all();
    let fired = all.iter().filter(|hearing| hearing.fired).count();
    let times = |count: usize| if count == 1 { "once".to_owned() } else { format!("{count} times") };
    if all.is_empty() {
        writeln!(out, "rule {name} listens to {listens}, which was never published: it never fired")?;
        let waits: Vec<&str> = trace.topics(rules).into_iter().map(|(path, _)| path).collect();
        writeln!(out, "it waits for {}", waits.join(", "))?;
        let near = trace.near(rules).into_iter().map(|(path, came)| format!("{path} ({came})"));
        let near: Vec<String> = near.collect();
        if !near.is_empty() {
            writeln!(out, "of its family came {}", near.join(", "))?;
        }
        return writeln!(out, "`check` says whether anything could publish it, `wiring` what was published");
    }
    writeln!(
        out,
        "rule {name} listens to {listens}: published {}, fired {}\n",
        times(all.len()),
        if fired == 0 { "never".to_owned() } else { times(fired) }
    )?;
    let came = trace.topics(rules);
    if came.len() > 1 {
        let of_each: Vec<String> = { came.iter().filter(|(_, came)| *came > 0) }
            .map(|(path, came)| format!("{path} {came}"))
            .collect();
        writeln!(out, "  {}\n", of_each.join(", "))?;
    }
    let groups: Vec<&[Hearing]> = all.chunk_by(same_again).collect();
    for group in groups.iter().take(MOST) {
        let Hearing { time, seq, fact, fired, lost, .. } = &group[0];
        let mark = if *fired { "\x1b[1mfired\x1b[0m" } else { "not" };
        writeln!(out, "{time:>8.2}s  {mark}: {fact} \x1b[2m(fact {seq})\x1b[0m")?;
        for (place, Lost { wanted, found }) in lost.iter().enumerate() {
            let found = found.as_ref().map_or(String::new(), |found| format!(", found {found}"));
            let wanted_as = if place == 0 { "wanted" } else { "    or" };
            writeln!(out, "           {wanted_as} {wanted}{found}")?;
        }
        if let [_, more @ .., last] = group {
            let count = more.len() + 1;
            writeln!(out, "           \x1b[2mand the same {} until {:.2}s\x1b[0m", again(count), last.time)?;
        }
    }
    match groups.len().saturating_sub(MOST) {
        0 => Ok(()),
        more => writeln!(out, "and {more} more; --format json has them all"),
    }
}

pub(crate) fn wave(fight: &Fight, name: &str, options: &ExplainOptions) -> Result<Outcome, Failure> {
    let rules = fight.rules();
    let Some(id) = rules.find_waves(name) else {
        let names: Vec<&str> = rules.waves().iter().map(|waves| waves.name()).collect();
        let help = match files::nearest(name, names.iter().copied()) {
            Some(nearest) => format!("did you mean `{nearest}`?"),
            None if names.is_empty() => "its ruleset has none".to_owned(),
            None => format!("there are: {}", names.join(", ")),
        };
        return Err(miette!(help = help, "there is no sequence of waves `{name}`"));
    };
    let mut play = fight.play(false)?;
    let mut trace = WaveTrace::new(id);
    play.through(&mut [&mut trace])?;
    output::answer((options.format, &options.out), trace.all(), |out| {
        let waves = &rules.waves()[id.index()];
        let template = rules.template_name(waves.template()).unwrap_or_default();
        let times = match waves.times_of() {
            None => "without an end".to_owned(),
            Some(1) => "once".to_owned(),
            Some(times) => format!("{times} times"),
        };
        writeln!(out, "waves {name}: {template}, {times}\n")?;
        for step in trace.all() {
            writeln!(out, "{:>8.2}s  {}", step.time, step.text(template, waves.times_of()))?;
        }
        match trace.state() {
            WaveState::NotComing { .. } if trace.all().is_empty() => {
                writeln!(out, "it never began: no rule and no order started it")
            }
            WaveState::NotComing { .. } => Ok(()),
            WaveState::Due { come, .. } => {
                writeln!(out, "\nat the end {come} had come, and the next was due")
            }
            WaveState::Waits { come, standing, left } => {
                let most = if left == 0 { "none".to_owned() } else { format!("no more than {left}") };
                writeln!(
                    out,
                    "\nat the end {come} had come; the next waited: {standing} stood, and {most} may be left"
                )
            }
        }
    })?;
    Ok(Outcome::Fine)
}

/// Whether a rule heard the like once more and did not fire for the same reason, so that one line will do.
fn same_again(one: &Hearing, next: &Hearing) -> bool {
    let wanted = |hearing: &Hearing| hearing.lost.iter().map(|lost| lost.wanted.clone()).collect::<Vec<_>>();
    !one.fired && !next.fired && wanted(one) == wanted(next)
}

fn again(count: usize) -> String {
    if count == 1 { "once more".to_owned() } else { format!("{count} times more") }
}

/// One life of someone, or as much of it as there was.
#[derive(Serialize)]
struct LifeStory {
    /// From 1.
    life: usize,
    /// How it died, if it did.
    died: Option<Dead>,
    /// What it took and was healed by.
    accounts: Vec<Account>,
}

#[derive(Serialize)]
struct Dead {
    time: f64,
    text: String,
}

pub(crate) fn death(fight: &Fight, name: &str, options: &ExplainOptions) -> Result<Outcome, Failure> {
    let mut play = fight.play(true)?;
    play.encounter_mut().keep_deliveries(true);
    let (mut accounts, mut swing_results, mut lives) =
        (Accounts::new(), SwingResults::new(None, Some(name)), Vec::new());
    let (mut taken, mut health) = (0, None);
    let mut story = LifeStory { life: 1, died: None, accounts: Vec::new() };
    while play.tick()? {
        let seen = play.seen();
        seen.show(&mut [&mut swing_results, &mut accounts]);
        let (names, facts) = (seen.names, &seen.facts);
        let of_it = |account: &&Account| account.target == name;
        story.accounts.extend(accounts.all()[taken..].iter().filter(of_it).cloned());
        taken = accounts.all().len();
        for fact in facts.facts {
            match fact.event {
                Event::CombatantDied(CombatantDied { subject, .. }) if names.of(subject) == name => {
                    let time = seen.begins();
                    let text = hammerstone_record::told(&seen.line(fact)).unwrap_or_default();
                    let next = LifeStory { life: story.life + 1, died: None, accounts: Vec::new() };
                    let mut whole = std::mem::replace(&mut story, next);
                    whole.died = Some(Dead { time, text });
                    lives.push(whole);
                }
                _ => {}
            }
        }
        let view = play.encounter().view();
        let who = view.combatants().find(|&who| names.of(who) == name);
        health = who.and_then(|who| view.health(who)).or(health);
    }
    if !swing_results.joined().any(|joined| joined == name) {
        return Err(files::unknown(name, swing_results.joined()));
    }
    let stands = play.encounter().view();
    let stands = stands
        .combatants()
        .any(|who| play.names().of(who) == name && stands.life(who) == hammerstone::Life::Standing);
    if stands || lives.is_empty() {
        lives.push(story);
    }
    let swing_results = swing_results.finish(play.encounter()).swings;
    output::answer((options.format, &options.out), &lives, |out| {
        death_text(out, name, &lives, &swing_results, health)
    })?;
    Ok(Outcome::Fine)
}

fn death_text(
    out: &mut dyn Write,
    name: &str,
    lives: &[LifeStory],
    swing_results: &[SwingResult],
    health: Option<(i64, i64)>,
) -> io::Result<()> {
    for story in lives {
        let LifeStory { life, died, accounts } = story;
        match died {
            Some(Dead { time, text }) => writeln!(out, "\x1b[1mlife {life}: {text}, at {time:.2}s\x1b[0m")?,
            None => {
                let health = health
                    .map_or(String::new(), |(now, most)| format!(", with {now} of {most} health at the end"));
                writeln!(out, "\x1b[1mlife {life}: {name} did not die{health}\x1b[0m")?;
            }
        }
        if accounts.is_empty() {
            writeln!(out, "nothing damaged it")?;
        } else {
            explain::rows(out, accounts.iter())?;
        }
        for text in
            accounts.iter().flat_map(|account| &account.followed).filter(|text| text.contains("alive"))
        {
            writeln!(out, "{text}")?;
        }
        let spared = spared(accounts);
        if died.is_none() && !spared.is_empty() {
            writeln!(out, "what its blows lost on the way: {}", spared.join(", "))?;
        }
        writeln!(out)?;
    }
    if let Some(last) =
        lives.iter().rev().find(|story| story.died.is_some()).and_then(|story| story.accounts.last())
    {
        writeln!(out, "the last of it:")?;
        explain::take_apart(out, last)?;
    }
    // What might have killed it, and was refused.
    let mut gates: Vec<(&str, usize)> = Vec::new();
    let targets = swing_results.iter().flat_map(|swing| &swing.targets);
    for gate in targets.flat_map(|one| &one.answers).filter_map(|answer| answer.gate) {
        match gates.iter_mut().find(|(known, _)| *known == gate) {
            Some((_, count)) => *count += 1,
            None => gates.push((gate, 1)),
        }
    }
    let stands = lives.last().is_some_and(|story| story.died.is_none());
    if stands && !gates.is_empty() {
        let gates: Vec<String> = gates.into_iter().map(|(gate, count)| format!("{gate} {count}")).collect();
        writeln!(
            out,
            "swings at it that gates refused: {} (explain them with --target {name})",
            gates.join(", ")
        )?;
    }
    Ok(())
}

/// How many points each step took off the blows, the most first.
fn spared(accounts: &[Account]) -> Vec<String> {
    let mut steps: Vec<(&str, i128)> = Vec::new();
    let damage =
        accounts.iter().flat_map(|account| &account.amounts).filter(|amount| amount.damage_type.is_some());
    for row in damage.flat_map(|amount| &amount.ledger) {
        let less = explain::exact(&row.before) - explain::exact(&row.after);
        match steps.iter_mut().find(|(step, _)| *step == row.step) {
            Some((_, sum)) => *sum += less.max(0),
            None => steps.push((&row.step, less.max(0))),
        }
    }
    steps.retain(|&(step, sum)| sum > 0 && step != "rounding");
    steps.sort_by_key(|&(_, sum)| std::cmp::Reverse(sum));
    let points = |sum: i128| format!("{}.{:02}", sum / 10_000, sum % 10_000 / 100);
    steps.into_iter().map(|(step, sum)| format!("{step} {}", points(sum))).collect()
}
