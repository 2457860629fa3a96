//! The tables of a report: damage, refusals, who stood, checks.

use std::io::{self, Write};

use hammerstone_record::Tally;

use super::{Checked, Plain, Report};
use crate::look::Look;
use crate::page::WIDE;
use crate::timeline::SPAN;

/// How many rows a table has, at most.
const MOST_ROWS: usize = 60;

/// A cell of a table.
enum Cell {
    Text(String),
    Number(i64),
    /// A number with a bar of a share.
    Bar(i64, f64),
}

fn table(out: &mut impl Write, heads: &[&str], rows: &[Vec<Cell>]) -> io::Result<()> {
    if rows.is_empty() {
        return writeln!(out, "<p>none</p>");
    }
    write!(out, "<div class=\"scroll\"><table><tr>")?;
    for (head, cell) in heads.iter().zip(&rows[0]) {
        let class = if matches!(cell, Cell::Number(_)) { " class=\"number\"" } else { "" };
        write!(out, "<th{class}>{}</th>", Plain(head))?;
    }
    writeln!(out, "</tr>")?;
    for row in rows.iter().take(MOST_ROWS) {
        write!(out, "<tr>")?;
        for cell in row {
            match cell {
                Cell::Text(text) => write!(out, "<td>{}</td>", Plain(text))?,
                Cell::Number(number) => write!(out, "<td class=\"number\">{number}</td>")?,
                Cell::Bar(number, share) => {
                    let wide = share * 9.0;
                    write!(
                        out,
                        "<td><span class=\"bar\" style=\"width:{wide:.2}rem\"></span> {number}</td>"
                    )?;
                }
            }
        }
        writeln!(out, "</tr>")?;
    }
    writeln!(out, "</table></div>")?;
    match rows.len().saturating_sub(MOST_ROWS) {
        0 => Ok(()),
        more => writeln!(out, "<p class=\"quiet\">and {more} more</p>"),
    }
}

/// Sums of a run's damage under some heading, the most first.
fn sums(tally: &Tally, of: impl Fn(&hammerstone_record::Dealt) -> String) -> Vec<Vec<Cell>> {
    let mut sums: Vec<(String, i64)> = Vec::new();
    for dealt in tally.dealt() {
        let name = of(&dealt);
        match sums.iter_mut().find(|(known, _)| *known == name) {
            Some((_, sum)) => *sum += dealt.amount,
            None => sums.push((name, dealt.amount)),
        }
    }
    sums.sort_by_key(|(_, sum)| std::cmp::Reverse(*sum));
    let most = sums.first().map_or(1, |(_, sum)| *sum).max(1) as f64;
    sums.into_iter()
        .map(|(name, sum)| vec![Cell::Text(name), Cell::Bar(sum, (sum as f64 / most).max(0.0))])
        .collect()
}

pub(super) fn damage(out: &mut impl Write, tally: &Tally) -> io::Result<()> {
    let named = |source: &Option<String>| source.clone().unwrap_or_else(|| "environment".to_owned());
    writeln!(out, "<section id=\"damage\"><h2>Damage</h2>\n<div class=\"columns\">\n<div>")?;
    table(out, &["dealt by", "points"], &sums(tally, |dealt| named(&dealt.source)))?;
    writeln!(out, "</div>\n<div>")?;
    table(out, &["taken by", "points"], &sums(tally, |dealt| dealt.target.clone()))?;
    writeln!(out, "</div>\n<div>")?;
    table(out, &["damage type", "points"], &sums(tally, |dealt| dealt.damage_type.clone()))?;
    writeln!(out, "</div>\n<div>")?;
    table(out, &["by", "points"], &sums(tally, |dealt| dealt.by.clone()))?;
    writeln!(out, "</div>\n</div>\n<details><summary>by source, target, cause and damage type</summary>")?;
    let rows: Vec<Vec<Cell>> = tally
        .dealt()
        .into_iter()
        .map(|dealt| {
            let source = named(&dealt.source);
            let times = i64::try_from(dealt.times).unwrap_or(i64::MAX);
            let texts = [source, dealt.target, dealt.by, dealt.damage_type].map(Cell::Text);
            texts.into_iter().chain([Cell::Number(times), Cell::Number(dealt.amount)]).collect()
        })
        .collect();
    table(out, &["source", "target", "by", "damage type", "times", "points"], &rows)?;
    writeln!(out, "</details>\n</section>")
}

pub(super) fn refusals(out: &mut impl Write, report: &Report<'_>) -> io::Result<()> {
    let counts = report.tally.counts();
    writeln!(out, "<section id=\"refusals\"><h2>Refusals, by gate</h2>")?;
    writeln!(
        out,
        "<p class=\"quiet\">{} attempts = {} hits + {} refusals; every one is counted, the feed tells the first of a swing, target and gate</p>",
        counts.attempts,
        counts.hits,
        counts.refusals()
    )?;
    let most = counts.refusals_by_gate().map(|(_, count)| count).max().unwrap_or(1) as f64;
    let rows: Vec<Vec<Cell>> = counts
        .refusals_by_gate()
        .map(|(gate, count)| {
            let said = format!(": {} (wanted", gate.name());
            let told =
                report.transcript.told().iter().find(|told| told.mark == "o" && told.text.contains(&said));
            let example = told.map_or(String::new(), |told| told.text.clone());
            let number = i64::try_from(count).unwrap_or(i64::MAX);
            vec![
                Cell::Text(gate.name().to_owned()),
                Cell::Bar(number, count as f64 / most),
                Cell::Text(example),
            ]
        })
        .collect();
    table(out, &["gate", "refused", "the first that the feed tells"], &rows)?;
    writeln!(out, "</section>")
}

/// Who died, and how many of each team stood, over time.
pub(super) fn standing(out: &mut impl Write, report: &Report<'_>) -> io::Result<()> {
    let Report { tally, rules, .. } = *report;
    writeln!(out, "<section id=\"standing\"><h2>Who stood, over time</h2>")?;
    let (left, right, top, low) = (SPAN.0, SPAN.1, 12.0f32, 150.0f32);
    let most = tally.standing().iter().flat_map(|(_, teams)| teams).copied().max().unwrap_or(0).max(1) as f32;
    let ticks = tally.ticks().max(1) as f32;
    let x = |tick: u32| left + (tick.saturating_sub(1)) as f32 / ticks * (right - left);
    let y = |count: usize| low - count as f32 / most * (low - top);
    write!(out, "<svg viewBox=\"0 0 {WIDE} 180\" role=\"img\" aria-label=\"How many of each team stood\">")?;
    for (number, team) in rules.teams().enumerate() {
        let mut way = String::new();
        for (tick, teams) in tally.standing() {
            let count = teams.get(number).copied().unwrap_or(0);
            if way.is_empty() {
                way = format!("M{:.1} {:.1}", x(*tick), y(count));
            } else {
                way.push_str(&format!("H{:.1}V{:.1}", x(*tick), y(count)));
            }
        }
        if way.is_empty() {
            continue;
        }
        way.push_str(&format!("H{right}"));
        let dash = ["", "6 3", "2 3", "8 3 2 3"][number % 4];
        let colour = Look::PAGE.side(number);
        write!(
            out,
            "<path d=\"{way}\" fill=\"none\" stroke=\"{colour}\" stroke-width=\"2.2\" stroke-dasharray=\"{dash}\"/>"
        )?;
        let row = 20.0 + number as f32 * 18.0;
        write!(
            out,
            "<path d=\"M16 {0}h26\" stroke=\"{colour}\" stroke-width=\"2.2\" stroke-dasharray=\"{dash}\"/><text x=\"48\" y=\"{1}\" font-size=\"11\" fill=\"var(--ink)\">{2}</text>",
            row,
            row + 4.0,
            Plain(rules.team_name(team).unwrap_or_default())
        )?;
    }
    write!(
        out,
        "<path d=\"M{left} {low}H{right}\" stroke=\"var(--quiet)\"/><text x=\"{0}\" y=\"{1}\" font-size=\"10\" fill=\"var(--quiet)\" text-anchor=\"end\">{most}</text>\
         <text x=\"{0}\" y=\"{2}\" font-size=\"10\" fill=\"var(--quiet)\" text-anchor=\"end\">0</text>\
         <text x=\"{left}\" y=\"{3}\" font-size=\"10\" fill=\"var(--quiet)\">0 s</text><text x=\"{right}\" y=\"{3}\" font-size=\"10\" fill=\"var(--quiet)\" text-anchor=\"end\">{4:.2} s</text></svg>",
        left - 6.0,
        top + 4.0,
        low + 2.0,
        low + 16.0,
        ticks / rules.rate() as f32
    )?;
    let rows: Vec<Vec<Cell>> = tally
        .deaths()
        .iter()
        .map(|death| {
            let texts = [
                format!("{:.2} s", death.time),
                death.who.clone(),
                death.to.clone().unwrap_or_default(),
                death.by.clone(),
            ];
            texts.map(Cell::Text).into_iter().chain([Cell::Number(death.overkill)]).collect()
        })
        .collect();
    table(out, &["when", "died", "killer", "by", "overkill"], &rows)?;
    writeln!(out, "</section>")
}

pub(super) fn checks(out: &mut impl Write, checks: &[Checked]) -> io::Result<()> {
    writeln!(out, "<section id=\"checks\"><h2>Checks</h2>\n<ul>")?;
    for check in checks {
        let mark = if check.fine { "fine" } else { "look" };
        writeln!(out, "<li>{mark}: <pre>{}</pre></li>", Plain(&check.text))?;
    }
    if checks.is_empty() {
        writeln!(out, "<li>nothing was checked</li>")?;
    }
    writeln!(out, "</ul>\n</section>")
}
