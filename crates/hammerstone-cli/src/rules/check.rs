//! `check`: files looked through without running them.

use std::collections::BTreeMap;
use std::fs;
use std::io::{self, IsTerminal, Write};
use std::path::PathBuf;

use hammerstone_scenario::{Doubt, FINDINGS, Looked, Pool, RulesFile, Scenario, check_skeleton};
use miette::miette;

use crate::args::{CheckOptions, ReportFormat};
use crate::files::Authored;
use crate::{Failure, Outcome, files, output};

/// Every doubt about every file; a file that cannot be used at all is reported too, and the others are still looked at.
pub(crate) fn check(paths: &[PathBuf], options: &CheckOptions) -> Result<Outcome, Failure> {
    let numbers = options.deny.iter().flatten().chain(&options.allow);
    if let Some(unknown) =
        numbers.into_iter().find(|number| FINDINGS.iter().all(|one| one.number != **number))
    {
        let (first, last) = (FINDINGS[0].number, FINDINGS[FINDINGS.len() - 1].number);
        let help = format!("they are numbered from {first} to {last}; `check --list` shows them");
        return Err(miette!(help = help, "there is no finding {unknown}"));
    }
    let json = options.format == ReportFormat::Json;
    let to = options.out.out.as_deref();
    let mut out = if json { output::open_plain(to)? } else { output::open(to)? };
    if options.list {
        output::written(list(&mut out, json).and_then(|()| out.flush()))?;
        return Ok(Outcome::Fine);
    }
    let terminal = io::stdout().is_terminal();
    let denied = |shown: &Shown| match options.deny.as_deref() {
        _ if shown.is_note => false,
        None => false,
        Some([]) => true,
        Some(numbers) => numbers.contains(&shown.doubt.finding.number),
    };
    let (looked, unusable) = look(paths, options)?;
    let mut failed = false;
    let mut all = Vec::new();
    for Seen { file, mut shown, allowed } in looked {
        shown.retain(|shown| !options.allow.contains(&shown.doubt.finding.number));
        failed |= shown.iter().any(denied);
        if json {
            all.extend(shown.iter().map(|shown| in_json(&file, shown)));
            continue;
        }
        let (notes, found): (Vec<&Shown>, Vec<&Shown>) = shown.iter().partition(|shown| shown.is_note);
        const SHOWN: usize = 100;
        for shown in found.iter().take(SHOWN) {
            output::written(write!(out, "{}", output::rendered(&shown.doubt, terminal)))?;
        }
        if found.len() > SHOWN {
            let more = found.len() - SHOWN;
            output::written(writeln!(
                out,
                "and {more} more; `--format json` has them all, `--allow` leaves some out"
            ))?;
        }
        let verdict = match found.len() {
            0 => "no problems found".to_owned(),
            count => format!("{count} to look at"),
        };
        let allowed = if allowed > 0 { format!(", {allowed} allowed in the file") } else { String::new() };
        output::written(writeln!(out, "{file}: {verdict}{allowed}"))?;
        output::written(write_notes(&mut out, &notes))?;
    }
    if json {
        let written = serde_json::to_writer_pretty(&mut out, &all).map_err(io::Error::from);
        output::written(written.and_then(|()| writeln!(out)))?;
    }
    output::written(out.flush())?;
    match unusable {
        Some(failure) => Err(failure),
        None if failed => Ok(Outcome::Failed),
        None => Ok(Outcome::Fine),
    }
}

/// What was found in one file, or in a ruleset with its fights.
struct Seen {
    file: String,
    shown: Vec<Shown>,
    /// How many are allowed in the files.
    allowed: usize,
}

/// Something that was found.
struct Shown {
    doubt: Doubt,
    /// Whether a fight that was not given may answer it.
    is_note: bool,
}

/// A ruleset that was given, or fights of one.
#[derive(Default)]
struct Group {
    /// Its file, where that was given.
    rules: Option<(String, Box<RulesFile>)>,
    fights: Vec<(String, Box<Scenario>)>,
}

/// Looks through all files: a ruleset and its fights together. A file that cannot be used at all is said, and the others are still looked
/// at; gives the last of those.
fn look(paths: &[PathBuf], options: &CheckOptions) -> Result<(Vec<Seen>, Option<Failure>), Failure> {
    let (mut looked, mut unusable) = (Vec::new(), None);
    let mut groups: Vec<(PathBuf, Group)> = Vec::new();
    for path in files::authored_files(paths)? {
        let file = path.display().to_string();
        let read = match files::is_skeleton(&path) {
            true => files::skeleton(&path, options.frame).map(|skeleton| {
                let found = check_skeleton(&file, &skeleton);
                let shown = found.into_iter().map(|doubt| Shown { doubt, is_note: false }).collect();
                looked.push(Seen { file: file.clone(), shown, allowed: 0 });
                None
            }),
            false => files::authored(&path).map(Some),
        };
        let authored = match read {
            Ok(Some(authored)) => authored,
            Ok(None) => continue,
            Err(failure) => {
                if let Some(earlier) = unusable.replace(failure) {
                    output::complain(&earlier);
                }
                continue;
            }
        };
        let name = match &authored {
            Authored::Ruleset(rules) => &rules.file,
            Authored::Scenario(scenario) => &scenario.rules.file,
        };
        // One file is one ruleset, whatever it is called from.
        let key = fs::canonicalize(name).unwrap_or_else(|_| PathBuf::from(name));
        let place = groups.iter().position(|(known, _)| *known == key).unwrap_or_else(|| {
            groups.push((key, Group::default()));
            groups.len() - 1
        });
        match authored {
            Authored::Ruleset(rules) => groups[place].1.rules = Some((file, rules)),
            Authored::Scenario(scenario) => groups[place].1.fights.push((file, scenario)),
        }
    }
    looked.extend(groups.into_iter().filter_map(|(_, group)| seen(group)));
    Ok((looked, unusable))
}

/// What is found in a ruleset and its fights. Of one fight alone, without its ruleset, other fights may use what it does not.
fn seen(Group { rules, fights }: Group) -> Option<Seen> {
    let alone = rules.is_none() && fights.len() == 1;
    let file = match (&rules, fights.as_slice()) {
        (Some((file, _)), []) => file.clone(),
        (None, [(file, _)]) => file.clone(),
        (Some((file, _)), [(fight, _)]) => format!("{file} with {fight}"),
        (Some((file, _)), fights) => format!("{file} with {} fights", fights.len()),
        (None, [(first, _), rest @ ..]) => format!("{first} and {} more", rest.len()),
        (None, []) => return None,
    };
    let known: &RulesFile = match &rules {
        Some((_, rules)) => rules,
        None => &fights.first()?.1.rules,
    };
    let Looked { found, allowed } = Pool::of(known, fights.iter().map(|(_, fight)| &**fight)).check();
    let shown = found.into_iter().map(|doubt| Shown { is_note: alone && doubt.finding.of_use, doubt });
    Some(Seen { file, shown: shown.collect(), allowed: allowed.len() })
}

/// One note for everything that other fights may use.
fn write_notes(out: &mut impl Write, notes: &[&Shown]) -> io::Result<()> {
    if notes.is_empty() {
        return Ok(());
    }
    let mut sorts: BTreeMap<u16, usize> = BTreeMap::new();
    notes.iter().for_each(|shown| *sorts.entry(shown.doubt.finding.number).or_default() += 1);
    let sorts: Vec<String> =
        sorts.into_iter().map(|(number, count)| format!("{count} of finding {number}")).collect();
    writeln!(
        out,
        "  note: {} of its ruleset may be used by other fights ({}); give them too, or the ruleset, to look at these",
        notes.len(),
        sorts.join(", ")
    )
}

fn in_json(asked: &str, Shown { doubt, is_note }: &Shown) -> serde_json::Value {
    let (file, line) = doubt.place();
    serde_json::json!({
        "finding": doubt.finding.number,
        "name": doubt.finding.name,
        "asked": asked,
        "file": file,
        "line": line,
        "message": doubt.message,
        "reason": doubt.finding.reason,
        "fix": doubt.fix,
        "note": is_note,
    })
}

const LIST: [output::Column<'static>; 3] = [("number", true), ("finding", false), ("why it matters", false)];

fn list(out: &mut impl Write, json: bool) -> io::Result<()> {
    if json {
        let all: Vec<serde_json::Value> = FINDINGS
            .iter()
            .map(|one| serde_json::json!({ "finding": one.number, "name": one.name, "reason": one.reason }))
            .collect();
        serde_json::to_writer_pretty(&mut *out, &all)?;
        return writeln!(out);
    }
    let rows: Vec<[String; 3]> = FINDINGS
        .iter()
        .map(|one| [one.number.to_string(), one.name.to_owned(), one.reason.to_owned()])
        .collect();
    output::table(out, &LIST, &rows, "")
}
