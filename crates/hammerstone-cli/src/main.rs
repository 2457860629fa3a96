//! The command `hammerstone`.

mod args;
mod check;
mod compare;
mod draw;
mod explain;
mod files;
mod output;
mod report;
mod run;
mod survey;
mod swing_results;
mod test;
mod timings;
mod topics;
mod watch;
mod why;
mod wiring;

use std::process::ExitCode;

use clap::Parser;

use args::{Args, Command};

/// What a command came to.
enum Outcome {
    Fine,
    /// The thing asked about failed: a test, a check.
    Failed,
}

/// Why a command could not do its work; its report is for people.
type Failure = miette::Report;

fn main() -> ExitCode {
    let args = match Args::try_parse() {
        Ok(args) => args,
        Err(error) => {
            // Help and version are not errors; clap knows which is which, and where each goes.
            let _ = error.print();
            return ExitCode::from(if error.use_stderr() { 2 } else { 0 });
        }
    };
    let outcome = match args.command {
        Command::Demo(options) => run::demo(&options),
        Command::Run { file, options } => run::file(&file, &options),
        Command::Test { paths } => test::test(&paths),
        Command::Timings { file } => timings::timings(&file),
        Command::Explain { file, options } => explain::explain(file.as_deref(), &options),
        Command::Compare { first, second, options } => compare::compare(&first, second.as_deref(), &options),
        Command::Draw { file, options } => draw::draw(file.as_deref(), &options),
        Command::Report { file, out, seed } => report::report(file.as_deref(), &out, seed),
        Command::Survey { file, options } => survey::survey(file.as_deref(), &options),
        Command::Watch { file, seed } => watch::watch(file.as_deref(), seed),
        Command::Wiring { handler: Some(topic), .. } => topics::handler(&topic),
        Command::Wiring { file, topics: true, format, .. } => topics::topics(file.as_deref(), format),
        Command::Wiring { file, format, seed, .. } => wiring::wiring(file.as_deref(), format, seed),
        Command::Check { files, options } => check::check(&files, &options),
    };
    match outcome {
        Ok(Outcome::Fine) => ExitCode::SUCCESS,
        Ok(Outcome::Failed) => ExitCode::from(1),
        Err(failure) => {
            output::complain(&failure);
            ExitCode::from(2)
        }
    }
}
