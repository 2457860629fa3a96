//! What the command is asked for.

use std::path::PathBuf;

use clap::{Parser, Subcommand, ValueEnum};
use hammerstone_scenario::Varied;

use crate::new::Like;

/// Each target is hit once per attack, and the dead react to nothing.
#[derive(Debug, Parser)]
#[command(name = "hammerstone", version, about, arg_required_else_help = false)]
pub(crate) struct Args {
    #[command(subcommand)]
    pub(crate) command: Option<Command>,
    #[command(flatten)]
    pub(crate) how: How,
}

/// What is said beside the answer, and how.
#[derive(Clone, Copy, Debug, clap::Args)]
pub(crate) struct How {
    /// Say nothing beside the answer: no progress, and not what was written
    #[arg(long, help_heading = "Everywhere", short, global = true, conflicts_with = "verbose")]
    pub(crate) quiet: bool,
    /// Say which files are read, and how long it took
    #[arg(long, help_heading = "Everywhere", short, global = true)]
    pub(crate) verbose: bool,
    /// Colours: where a terminal takes them, always, or never
    #[arg(long, help_heading = "Everywhere", global = true, value_name = "WHEN", value_enum, default_value_t = Colours::Auto)]
    pub(crate) color: Colours,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum Colours {
    Auto,
    Always,
    Never,
}

/// A fight, and what is other for this run.
#[derive(Debug, clap::Args)]
pub(crate) struct Asked {
    /// A scenario or a log; `-` for standard input
    pub(crate) file: PathBuf,
    #[command(flatten)]
    pub(crate) with: With,
}

/// What is other for this run than the files have it.
#[derive(Clone, Debug, Default, clap::Args)]
pub(crate) struct With {
    /// Seed for the rolls
    #[arg(long, help_heading = "For this run", value_name = "NUMBER")]
    pub(crate) seed: Option<u64>,
    /// A ruleset, instead of the scenario's
    #[arg(long, help_heading = "For this run", value_name = "FILE")]
    pub(crate) rules: Option<PathBuf>,
    /// Another value at a path of the scenario or its ruleset, such as attack.maul-sweep.startup=0.4s; may be given several times
    #[arg(long, help_heading = "For this run", value_name = "PATH=VALUE", value_parser = set)]
    pub(crate) set: Vec<(String, String)>,
    /// Length in ticks
    #[arg(long, help_heading = "For this run", value_name = "NUMBER", value_parser = clap::value_parser!(u32).range(1..=10_000_000))]
    pub(crate) ticks: Option<u32>,
    /// Let combatants with tactics tell what they choose, with their target, and why earlier choices did not fit
    #[arg(long, help_heading = "For this run")]
    pub(crate) choices: bool,
}

fn set(text: &str) -> Result<(String, String), String> {
    let (path, value) = text.split_once('=').ok_or("give PATH=VALUE, as in template.mason.health=40")?;
    Ok((path.trim().to_owned(), value.trim().to_owned()))
}

/// Which part of a fight is shown.
#[derive(Clone, Debug, Default, clap::Args)]
pub(crate) struct Part {
    /// What happens between two times
    #[arg(long, help_heading = "Only a part", value_name = "FROM..TO", value_parser = span)]
    pub(crate) between: Option<(f64, f64)>,
    /// What is about one of these, as subject or other party; `*` stands for anything
    #[arg(long, help_heading = "Only a part", value_name = "NAMES", value_delimiter = ',')]
    pub(crate) only: Vec<String>,
    /// Facts of these topics; `*` stands for anything
    #[arg(long, help_heading = "Only a part", value_name = "TOPICS", value_delimiter = ',')]
    pub(crate) topics: Vec<String>,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Write a fight and its rules into a folder, to begin with
    New {
        /// The folder; it is made if it is not there
        folder: PathBuf,
        /// What the fight is like
        #[arg(long, value_enum, default_value_t = Like::Duel)]
        like: Like,
    },
    /// Run the fight that comes with the command: a night at the tidal quarry
    Demo {
        #[command(flatten)]
        with: With,
        #[command(flatten)]
        options: RunOptions,
    },
    /// Run a fight and write its events
    Run {
        #[command(flatten)]
        asked: Asked,
        #[command(flatten)]
        options: RunOptions,
    },
    /// Hold scenarios against what they expect; exit status 1 if one fails
    Test {
        /// Scenarios, or folders that hold some
        #[arg(required = true)]
        paths: Vec<PathBuf>,
        #[command(flatten)]
        options: TestOptions,
    },
    /// Reduce a log to the smallest scenario that shows the same facts
    Reduce {
        /// A log
        log: PathBuf,
        #[command(flatten)]
        options: ReduceOptions,
    },
    /// Show when each attack does what, and how it fares against each template
    Timings {
        /// A ruleset, a scenario, or a skeleton's file (glTF, BVH): its joints, and how fast they move
        file: PathBuf,
        #[command(flatten)]
        frame: FrameOptions,
        #[command(flatten)]
        options: TimingsOptions,
    },
    /// Explain a blow, a death, a miss, a rule, a wave, step by step
    Explain {
        #[command(flatten)]
        asked: Asked,
        #[command(flatten)]
        options: ExplainOptions,
    },
    /// Hold two runs against each other, the cause first
    Compare {
        /// A scenario or a log; `-` for standard input
        first: PathBuf,
        /// Another; the same, if left out
        second: Option<PathBuf>,
        #[command(flatten)]
        options: CompareOptions,
    },
    /// Draw the timeline of a fight, a moment, a swing, or its wiring
    Draw {
        #[command(flatten)]
        asked: Asked,
        #[command(flatten)]
        options: DrawOptions,
    },
    /// Write a fight as one page for a browser
    Report {
        #[command(flatten)]
        asked: Asked,
        /// The page
        #[arg(short, long, value_name = "FILE", default_value = "report.html")]
        out: PathBuf,
    },
    /// Run a fight with many seeds and values: how it ends, who dies, when
    Survey {
        #[command(flatten)]
        asked: SurveyAsked,
        #[command(flatten)]
        options: SurveyOptions,
    },
    /// Serve the page of a fight: it follows each save, and says what each change did
    Live {
        #[command(flatten)]
        asked: Asked,
        #[command(flatten)]
        options: LiveOptions,
    },
    /// Step through a fight in the terminal
    Watch {
        #[command(flatten)]
        asked: Asked,
    },
    /// Show who publishes what, and who heard it how often
    Wiring {
        /// A scenario or a log; `-` for standard input. Not needed for --topics and --handler
        #[arg(required_unless_present_any = ["topics", "handler"])]
        file: Option<PathBuf>,
        #[command(flatten)]
        with: With,
        /// Instead: every topic with its fields, its subject and other party, and the stages that publish it; with FILE those of its ruleset
        #[arg(long, conflicts_with_all = ["seed", "set", "ticks"])]
        topics: bool,
        /// Instead: a hook in Rust for facts of a topic, ready to fill
        #[arg(long, value_name = "TOPIC", conflicts_with_all = ["file", "topics", "format", "seed"])]
        handler: Option<String>,
        /// Instead: what combatants of a template publish in the run, and which rules answer that
        #[arg(long, value_name = "TEMPLATE", conflicts_with_all = ["topics", "handler"])]
        about: Option<String>,
        /// For people, JSON for programs, or a graph in the DOT language
        #[arg(long, value_enum, default_value_t = WiringFormat::Text)]
        format: WiringFormat,
        #[command(flatten)]
        out: Out,
    },
    /// Write a schema of the files, completions of a shell, or the page of the manual
    Generate {
        #[command(subcommand)]
        what: Generated,
    },
    /// Find likely mistakes in files: one-sided set-up, rules that never fire
    Check {
        /// Scenarios, rulesets, folders that hold some, or skeletons' files (glTF, BVH)
        #[arg(required_unless_present = "list")]
        files: Vec<PathBuf>,
        #[command(flatten)]
        options: CheckOptions,
    },
}

/// What is generated.
#[derive(Debug, Subcommand)]
pub(crate) enum Generated {
    /// JSON Schema of a sort of file, with which editors complete and check it
    Schema {
        /// The sort of file
        sort: SchemaSort,
        #[command(flatten)]
        out: Out,
    },
    /// Completions of verbs and options for a shell
    Completions {
        /// The shell
        shell: clap_complete::Shell,
        #[command(flatten)]
        out: Out,
    },
    /// The page of the manual
    Man {
        #[command(flatten)]
        out: Out,
    },
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum SchemaSort {
    Ruleset,
    Scenario,
    Sweep,
}

/// How a skeleton's file is taken in; a ruleset says it for itself.
#[derive(Clone, Copy, Debug, clap::Args)]
pub(crate) struct FrameOptions {
    /// Of a skeleton's file: metres in a unit of it, such as 0.01 for centimetres
    #[arg(long, value_name = "METRES", value_parser = above_zero, default_value_t = 1.0)]
    pub(crate) scale: f32,
    /// Of a skeleton's file: the axis that is up in it
    #[arg(long, value_enum, default_value_t = Up::Y)]
    pub(crate) up: Up,
}

/// The axis that is up.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub(crate) enum Up {
    X,
    Y,
    Z,
}

fn above_zero(text: &str) -> Result<f32, String> {
    let number: Option<f32> = text.parse().ok().filter(|number| *number > 0.0 && *number <= 1.0e6);
    number.ok_or_else(|| format!("`{text}` is no number above 0"))
}

#[derive(Debug, clap::Args)]
pub(crate) struct CheckOptions {
    #[command(flatten)]
    pub(crate) frame: FrameOptions,
    /// Exit status 1 if anything is found, or anything with one of these numbers
    #[arg(long, value_name = "NUMBERS", num_args = 0.., require_equals = true, value_delimiter = ',')]
    pub(crate) deny: Option<Vec<u16>>,
    /// Leave out what has one of these numbers
    #[arg(long, value_name = "NUMBERS", require_equals = true, value_delimiter = ',')]
    pub(crate) allow: Vec<u16>,
    /// Show every sort of finding with its number and its reason
    #[arg(long)]
    pub(crate) list: bool,
    /// For people, or JSON for programs
    #[arg(long, value_enum, default_value_t = ReportFormat::Text)]
    pub(crate) format: ReportFormat,
    #[command(flatten)]
    pub(crate) out: Out,
}

#[derive(Debug, clap::Args)]
pub(crate) struct ExplainOptions {
    /// The hit with this number
    #[arg(long, value_name = "NUMBER", group = "which")]
    pub(crate) hit: Option<u64>,
    /// The blow with this number: pulses and other damage have one, too
    #[arg(long, value_name = "NUMBER", group = "which")]
    pub(crate) blow: Option<u64>,
    /// What begins with this fact: healing has no other number
    #[arg(long, value_name = "NUMBER", group = "which")]
    pub(crate) seq: Option<u64>,
    /// How NAME died, in each of its lives; or what damage it took, and what prevented its death
    #[arg(long, value_name = "NAME", group = "which")]
    pub(crate) death: Option<String>,
    /// What the rule NAME heard, and why it did not fire where it did not
    #[arg(long, value_name = "NAME", group = "which")]
    pub(crate) rule: Option<String>,
    /// What became of the sequence of waves NAME: when each came and with how many, and for what the next waited
    #[arg(long, value_name = "NAME", group = "which")]
    pub(crate) wave: Option<String>,
    /// What the swings of NAME came to: hits, and refusals with the gate and the change that would let them pass
    #[arg(long, value_name = "NAME", conflicts_with = "which")]
    pub(crate) attacker: Option<String>,
    /// What swings came to at NAME; with --attacker, also how near those came that met nothing
    #[arg(long, value_name = "NAME", conflicts_with = "which")]
    pub(crate) target: Option<String>,
    /// How everything stands: flags, counters, scores, waves, and each combatant with gauges and statuses; at the end unless --at says when
    #[arg(long, conflicts_with_all = ["which", "attacker", "target", "between"])]
    pub(crate) state: bool,
    /// With --state, what has changed since this time
    #[arg(long, value_name = "SECONDS", value_parser = seconds, requires = "state")]
    pub(crate) since: Option<f64>,
    /// Of swings that ran at this time; with --state, how everything stands then
    #[arg(long, value_name = "SECONDS", value_parser = seconds, conflicts_with_all = ["which", "between"])]
    pub(crate) at: Option<f64>,
    /// Of swings that ran between two times; with --only, blows and healings between them
    #[arg(long, value_name = "FROM..TO", value_parser = span, conflicts_with = "which")]
    pub(crate) between: Option<(f64, f64)>,
    /// Blows and healings that one of these dealt or took; `*` stands for anything
    #[arg(long, value_name = "NAMES", value_delimiter = ',', conflicts_with_all = ["which", "attacker", "target", "state", "at"])]
    pub(crate) only: Vec<String>,
    /// For people, or JSON for programs
    #[arg(long, value_enum, default_value_t = ReportFormat::Text)]
    pub(crate) format: ReportFormat,
    #[command(flatten)]
    pub(crate) out: Out,
}

/// Where the answer goes.
#[derive(Clone, Debug, Default, clap::Args)]
pub(crate) struct Out {
    /// Write to FILE instead of standard output
    #[arg(short, long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
}

#[derive(Debug, clap::Args)]
pub(crate) struct LiveOptions {
    /// The port of the page; 0 takes one that is free
    #[arg(long, value_name = "NUMBER", default_value_t = 0)]
    pub(crate) port: u16,
    /// Over how many seeds at most it is counted what each change does; 0 counts none
    #[arg(long, value_name = "NUMBER", default_value_t = 300)]
    pub(crate) seeds: u32,
}

#[derive(Debug, clap::Args)]
pub(crate) struct TestOptions {
    /// A scenario may expect nothing
    #[arg(long)]
    pub(crate) allow_empty: bool,
    /// For people, or JSON for programs
    #[arg(long, value_enum, default_value_t = ReportFormat::Text)]
    pub(crate) format: ReportFormat,
    /// What came of each to FILE as well, in the XML of JUnit, which machines that run tests read
    #[arg(long, value_name = "FILE")]
    pub(crate) junit: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) out: Out,
}

#[derive(Debug, clap::Args)]
pub(crate) struct TimingsOptions {
    /// Instead: every attack against every template that it may strike: damage, hits and time to kill
    #[arg(long)]
    pub(crate) matchups: bool,
    /// For people, JSON for programs, or a table with commas between its cells
    #[arg(long, value_enum, default_value_t = TableFormat::Text)]
    pub(crate) format: TableFormat,
    #[command(flatten)]
    pub(crate) out: Out,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum TableFormat {
    Text,
    Json,
    Csv,
}

#[derive(Debug, clap::Args)]
pub(crate) struct ReduceOptions {
    /// The combatant that the facts are about, as subject or as other party
    #[arg(long, value_name = "NAME")]
    pub(crate) about: String,
    /// Facts between two times, in seconds
    #[arg(long, value_name = "FROM..TO", value_parser = span)]
    pub(crate) between: (f64, f64),
    /// Only facts of this topic, or of those below it; may be given several times
    #[arg(long, value_name = "TOPIC")]
    pub(crate) topic: Vec<String>,
    /// The scenario expects that these facts do not come, so that it fails until the fault is mended
    #[arg(long)]
    pub(crate) never: bool,
    /// The scenario; its log has the same name, and ends in .log
    #[arg(short, long, value_name = "FILE", default_value = "case.toml")]
    pub(crate) out: PathBuf,
}

#[derive(Debug, clap::Args)]
pub(crate) struct CompareOptions {
    /// Seed for the rolls of both runs, instead of the scenarios'
    #[arg(long, value_name = "NUMBER")]
    pub(crate) seed: Option<u64>,
    /// Seed for the rolls of the second run
    #[arg(long, value_name = "NUMBER")]
    pub(crate) other_seed: Option<u64>,
    /// The ruleset of the second run, instead of the scenario's
    #[arg(long, value_name = "FILE")]
    pub(crate) rules: Option<PathBuf>,
    /// Another value in the second run, at a path of the scenario or its ruleset; may be given several times
    #[arg(long, value_name = "PATH=VALUE", value_parser = set)]
    pub(crate) set: Vec<(String, String)>,
    /// Length of both runs in ticks
    #[arg(long, value_name = "NUMBER", value_parser = clap::value_parser!(u32).range(1..=10_000_000))]
    pub(crate) ticks: Option<u32>,
    #[command(flatten)]
    pub(crate) out: Out,
    /// For people, or JSON for programs
    #[arg(long, value_enum, default_value_t = ReportFormat::Text)]
    pub(crate) format: ReportFormat,
    /// Instead: both with so many seeds, and what the change makes of them: shares and means with the 95 % interval of the difference
    #[arg(long, value_name = "NUMBER", value_parser = clap::value_parser!(u32).range(2..=1_000_000), conflicts_with_all = ["other_seed", "states"])]
    pub(crate) seeds: Option<u32>,
    /// Hold the states against each other, tick by tick, and say where they first differ: the tick, the part by name, the combatant
    #[arg(long)]
    pub(crate) states: bool,
    /// Differences between two times of the first run, or of the second where it is there only
    #[arg(long, help_heading = "Only a part", value_name = "FROM..TO", value_parser = span, conflicts_with_all = ["seeds", "states"])]
    pub(crate) between: Option<(f64, f64)>,
    /// Differences in what these do or suffer; `*` stands for anything
    #[arg(long, help_heading = "Only a part", value_name = "NAMES", value_delimiter = ',', conflicts_with_all = ["seeds", "states"])]
    pub(crate) only: Vec<String>,
    /// Exit status 1 if they differ
    #[arg(long)]
    pub(crate) expect_same: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct DrawOptions {
    #[command(flatten)]
    pub(crate) frame: FrameOptions,
    /// The picture: FILE.svg or FILE.png
    #[arg(short, long, value_name = "FILE", default_value = "fight.svg")]
    pub(crate) out: PathBuf,
    /// The whole fight, a lane for each combatant: what is drawn if nothing else is asked for
    #[arg(long, conflicts_with_all = ["at", "strip", "wiring"])]
    pub(crate) timeline: bool,
    /// Of the timeline, between two times
    #[arg(long, value_name = "FROM..TO", value_parser = span, conflicts_with_all = ["at", "strip", "wiring"])]
    pub(crate) between: Option<(f64, f64)>,
    /// Of the timeline, the lanes of these; `*` stands for anything
    #[arg(long, value_name = "NAMES", value_delimiter = ',', conflicts_with_all = ["at", "strip", "wiring"])]
    pub(crate) only: Vec<String>,
    /// The moment, in seconds: from above and from the side, with open hitboxes and what they touch
    #[arg(long, value_name = "SECONDS", value_parser = seconds)]
    pub(crate) at: Option<f64>,
    /// So many moments of a swing side by side: the one at --at, or the first that opens
    #[arg(long, value_name = "NUMBER", value_parser = clap::value_parser!(u32).range(2..=24))]
    pub(crate) strip: Option<u32>,
    /// Who publishes what, and who hears it, as a graph
    #[arg(long, conflicts_with_all = ["at", "strip"])]
    pub(crate) wiring: bool,
    /// Whose swing
    #[arg(long, value_name = "NAME", requires = "strip")]
    pub(crate) attacker: Option<String>,
    /// Light ink on dark paper
    #[arg(long)]
    pub(crate) dark: bool,
}

/// A fight or a sweep that is run many times, and what is other for these runs.
#[derive(Debug, clap::Args)]
pub(crate) struct SurveyAsked {
    /// A scenario, or a sweep of several (.sweep.toml); `-` for standard input
    #[arg(required_unless_present = "gather")]
    pub(crate) file: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) with: With,
}

#[derive(Debug, clap::Args)]
pub(crate) struct SurveyOptions {
    /// How many seeds, counted up from the first; 100 unless said
    #[arg(long, value_name = "NUMBER", value_parser = clap::value_parser!(u32).range(1..=1_000_000_000))]
    pub(crate) seeds: Option<u32>,
    /// Other values at a path of the scenario or its ruleset, such as attack.maul-sweep.damage.crush.0=8..16/2, or attack.maul-sweep.startup=0.3s,0.5s;
    /// several cross each other
    #[arg(long, value_name = "PATH=VALUES", value_parser = varied)]
    pub(crate) vary: Vec<Varied>,
    /// No more runs than it takes to know the share of each outcome to within this, at 95 %; such as 2% or 0.02
    #[arg(long, value_name = "SHARE", value_parser = share)]
    pub(crate) until: Option<f64>,
    /// How many threads; as many as there are processors, if left out. What comes out is the same
    #[arg(long, value_name = "NUMBER", value_parser = clap::value_parser!(u16).range(1..=1024))]
    pub(crate) threads: Option<u16>,
    /// For people, or JSON for programs
    #[arg(long, value_enum, default_value_t = ReportFormat::Text)]
    pub(crate) format: ReportFormat,
    /// Every run as a line of FILE, its fields between commas
    #[arg(long, value_name = "FILE")]
    pub(crate) csv: Option<PathBuf>,
    /// A picture: FILE.svg or FILE.png; with --shard the part: FILE.csv
    #[arg(short, long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// Light ink on dark paper
    #[arg(long)]
    pub(crate) dark: bool,
    /// Instead: one of several parts of the runs, as 3/8 (the third of eight), into the file of -o; 8 alone or nothing takes the number from a
    /// scheduler's array. The same command goes on where a part stopped
    #[arg(long, help_heading = "On many machines", value_name = "I/N", num_args = 0..=1, default_missing_value = "", value_parser = shard,
        conflicts_with_all = ["until", "csv", "format", "dark", "plan", "gather"])]
    pub(crate) shard: Option<Shard>,
    /// Instead: what these parts came to together; exit status 1 if runs are missing, or there twice
    #[arg(long, help_heading = "On many machines", value_name = "PART", num_args = 1..,
        conflicts_with_all = ["file", "seeds", "vary", "until", "threads", "plan", "seed", "rules", "set", "ticks"])]
    pub(crate) gather: Option<Vec<PathBuf>>,
    /// Instead: how many runs it takes, how long and how much disk, from a sample that is timed
    #[arg(long, help_heading = "On many machines", conflicts_with_all = ["until", "csv", "out", "dark"])]
    pub(crate) plan: bool,
    /// Of the plan: how long on so many processors
    #[arg(long, help_heading = "On many machines", value_name = "NUMBER", requires = "plan", value_parser = clap::value_parser!(u32).range(1..=1_000_000))]
    pub(crate) processors: Option<u32>,
}

/// Which part of the runs.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Shard {
    /// The one of so many, from 1.
    Told(u64, u64),
    /// Of so many; a scheduler says which.
    Of(u64),
    /// A scheduler says both.
    Scheduler,
}

fn shard(text: &str) -> Result<Shard, String> {
    let shape = || "give I/N, as 3/8 for the third of eight, or N".to_owned();
    let number = |text: &str| text.parse::<u64>().ok().filter(|number| (1..=1_000_000).contains(number));
    match text.split_once('/') {
        None if text.is_empty() => Ok(Shard::Scheduler),
        None => number(text).map(Shard::Of).ok_or_else(shape),
        Some((one, of)) => match (number(one), number(of)) {
            (Some(one), Some(of)) if one <= of => Ok(Shard::Told(one, of)),
            (Some(one), Some(of)) => Err(format!("there is no shard {one} of {of}")),
            _ => Err(shape()),
        },
    }
}

/// A share above 0 and below 1.
fn share(text: &str) -> Result<f64, String> {
    let number: Option<f64> = match text.strip_suffix('%') {
        Some(percent) => percent.trim().parse().ok().map(|percent: f64| percent / 100.0),
        None => text.parse().ok(),
    };
    let share = number.filter(|number| *number > 0.0 && *number < 1.0);
    share.ok_or_else(|| "give a share above 0 and below 1, such as 2% or 0.02".to_owned())
}

fn varied(text: &str) -> Result<Varied, String> {
    let shape =
        || "give PATH=FROM..TO/STEP, as in template.mason.health=20..60/10, or PATH=VALUE,VALUE,…".to_owned();
    let (path, values) = text.split_once('=').ok_or_else(shape)?;
    Varied::parse(path, values).map_err(|why| if why.is_empty() { shape() } else { why })
}

/// A time from 0 on.
fn seconds(text: &str) -> Result<f64, String> {
    let time: f64 =
        text.strip_suffix('s').unwrap_or(text).parse().map_err(|_| "no number of seconds".to_owned())?;
    if (0.0..1.0e7).contains(&time) { Ok(time) } else { Err("give a time from 0 on".to_owned()) }
}

/// Two times, the first no later than the second.
fn span(text: &str) -> Result<(f64, f64), String> {
    let (from, to) = text.split_once("..").ok_or("give two times, as in 1.5..3")?;
    let (from, to) = (seconds(from)?, seconds(to)?);
    if from <= to { Ok((from, to)) } else { Err("the first time comes after the second".to_owned()) }
}

#[derive(Debug, clap::Args)]
pub(crate) struct RunOptions {
    /// For people, or one JSON object a line for programs
    #[arg(long, value_enum, default_value_t = OutputFormat::Text)]
    pub(crate) format: OutputFormat,
    #[command(flatten)]
    pub(crate) part: Part,
    #[command(flatten)]
    pub(crate) out: Out,
    /// Leave out the ledgers, which say what each amount is made of
    #[arg(long)]
    pub(crate) no_ledgers: bool,
    /// Write what touches what as well, how fast, and how long it was held
    #[arg(long)]
    pub(crate) contacts: bool,
    /// Write the log of the fight to FILE as well: all that is asked of it, so that every command can run it again
    #[arg(long, value_name = "FILE")]
    pub(crate) log: Option<PathBuf>,
    /// Compress the log
    #[arg(long, requires = "log")]
    pub(crate) compress: bool,
    /// Run every tick of a log again, hold each against its checksum, and say where it first differs
    #[arg(long, conflicts_with_all = ["log", "ticks", "seed", "set", "rules", "contacts"])]
    pub(crate) verify: bool,
    /// Write every line, also those that repeat what came before
    #[arg(long)]
    pub(crate) every: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ReportFormat {
    Text,
    Json,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum WiringFormat {
    Text,
    Json,
    Dot,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum OutputFormat {
    Text,
    Jsonl,
}
