//! The help of the bare command: the questions with which people come, and the verbs in groups.

use std::io::{self, Write};

use clap::CommandFactory;

use crate::args::Args;

/// What people come with, and the command that answers it.
const QUESTIONS: [(&str, &str); 5] = [
    ("How do I begin?", "hammerstone new FOLDER"),
    ("Why did it miss, or do nothing?", "hammerstone explain FIGHT --attacker NAME --target NAME"),
    ("Where does this number come from?", "hammerstone explain FIGHT --hit NUMBER"),
    ("What did my change do?", "hammerstone compare FIGHT --rules CHANGED.rules.toml"),
    ("Is it fair?", "hammerstone survey FIGHT --seeds 1000"),
];

/// The verbs, by what they are for.
const GROUPS: [(&str, &[&str]); 4] = [
    ("Write", &["new", "check", "timings", "wiring", "generate"]),
    ("Run", &["demo", "run", "test", "reduce"]),
    ("Look", &["explain", "draw", "report", "live", "watch"]),
    ("Tune", &["compare", "survey"]),
];

/// Writes it to standard output.
pub(crate) fn print() -> io::Result<()> {
    let mut out = anstream::AutoStream::auto(io::stdout().lock());
    let command = Args::command();
    writeln!(out, "{}\n", command.get_about().cloned().unwrap_or_default())?;
    writeln!(out, "\x1b[1mQuestions\x1b[0m")?;
    QUESTIONS.iter().try_for_each(|(question, answer)| writeln!(out, "  {question:35}{answer}"))?;
    for (group, verbs) in GROUPS {
        writeln!(out, "\n\x1b[1m{group}\x1b[0m")?;
        for verb in verbs {
            let about = command.find_subcommand(verb).and_then(|verb| verb.get_about().cloned());
            writeln!(out, "  {verb:10}{}", about.unwrap_or_default())?;
        }
    }
    writeln!(
        out,
        "\nA fight is a scenario (TOML) or a log; `-` is standard input. `demo` runs one that comes along.\n`hammerstone help VERB` has the options of one; --quiet, --verbose and --color are for all."
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_verb_is_in_one_group() {
        let mut grouped: Vec<&str> = GROUPS.iter().flat_map(|(_, verbs)| verbs.iter().copied()).collect();
        let command = Args::command();
        let mut verbs: Vec<&str> = command.get_subcommands().map(|verb| verb.get_name()).collect();
        grouped.sort_unstable();
        verbs.sort_unstable();
        assert_eq!(grouped, verbs);
    }
}
