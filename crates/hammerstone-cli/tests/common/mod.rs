//! Runs the command as a process.

#![allow(dead_code)]

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

pub(crate) fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

pub(crate) fn hammerstone(args: &[&str]) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_hammerstone"));
    command.args(args).current_dir(root()).env("NO_COLOR", "1");
    command
}

/// The exit status, the answer, and what is said beside it, but for what was written where.
pub(crate) fn run(args: &[&str]) -> (i32, String, String) {
    answered(hammerstone(args).output().unwrap())
}

fn answered(Output { status, stdout, stderr }: Output) -> (i32, String, String) {
    let text = |bytes| String::from_utf8(bytes).unwrap();
    let beside = text(stderr);
    let beside = beside.split_inclusive('\n').filter(|line| !line.starts_with("wrote ")).collect();
    (status.code().unwrap(), text(stdout), beside)
}

/// A message in one line: where it was folded depends on how long the paths in it are.
pub(crate) fn unfolded(message: &str) -> String {
    message.split_whitespace().filter(|&word| word != "│").collect::<Vec<_>>().join(" ")
}

pub(crate) fn demo_feed() -> String {
    let (status, feed, errors) = run(&["demo", "--format", "jsonl"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    feed
}

/// Writes files into a folder of their own and runs the command there, where names are short.
pub(crate) fn in_folder(files: &[(&str, &str)], args: &[&str]) -> (i32, String, String) {
    let folder = tempfile::tempdir().unwrap();
    for (name, text) in files {
        fs::write(folder.path().join(name), text).unwrap();
    }
    answered(hammerstone(args).current_dir(folder.path()).output().unwrap())
}

pub(crate) fn rules(extra: &str) -> String {
    format!(
        "[rules]\nrate = 60\ndamage-types = [\"crush\"]\nlayers = [\"ghost\"]\nreasons = [\"tide\"]\n\n\
         [team.masons]\n[team.beasts]\n\n\
         [attack.maul]\nform = \"melee\"\nstartup = \"0.1s\"\nactive = \"6 ticks\"\nrecovery = \"0s\"\n\
         damage = {{ crush = 5 }}\nhitboxes = [{{ sphere = {{ at = [0, 0, 1], radius = 0.5 }} }}]\n\n\
         [template.mason]\nteam = \"masons\"\nhealth = 20\nattacks = [\"maul\"]\n\
         [template.mason.part.trunk]\nsphere = {{ at = [0, 0, 0], radius = 0.4 }}\n{extra}"
    )
}

pub(crate) const FIGHT: &str = "[scenario]\ntitle = \"Two\"\nrules = \"a.rules.toml\"\nlasts = \"1s\"\n\n\
    [combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n\n\
    [combatant.bram]\ntemplate = \"mason\"\nteam = \"beasts\"\nat = [0, 0, 1]\n\n\
    [[script]]\nat = \"0.2s\"\nwho = \"odo\"\nstart = \"maul\"\n";

/// What stands behind a fence, and the lines.
pub(crate) type Block = (String, Vec<String>);

/// The fenced blocks of a page.
pub(crate) fn blocks(text: &str) -> Vec<Block> {
    let (mut blocks, mut open) = (Vec::new(), None::<Block>);
    for line in text.lines() {
        match (&mut open, line.strip_prefix("```")) {
            (None, Some(sort)) => open = Some((sort.to_owned(), Vec::new())),
            (Some(_), Some(_)) => blocks.extend(open.take()),
            (Some((_, lines)), None) => lines.push(line.to_owned()),
            (None, None) => {}
        }
    }
    assert!(open.is_none(), "a block is not closed");
    blocks
}

/// A block of a page that begins with the name of a file stands in that file.
pub(crate) fn in_its_file<'a>(page: &str, lines: &'a [String]) -> &'a str {
    let file = lines[0].strip_prefix("# in ").unwrap_or_else(|| panic!("{page}: {lines:?}"));
    let of = fs::read_to_string(root().join(file)).unwrap();
    assert!(of.contains(&lines[1..].join("\n")), "{page}: not in {file}: {lines:#?}");
    file
}
