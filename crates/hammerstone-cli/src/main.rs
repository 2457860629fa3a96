//! The command `hammerstone`.

mod args;
mod fight;
mod files;
mod look;
mod output;
mod rules;
mod source;

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
        Command::Demo(options) => fight::demo(&options),
        Command::Run { file, options } => fight::file(&file, &options),
        Command::Test { paths, allow_empty } => fight::test(&paths, allow_empty),
        Command::Reduce { log, options } => fight::reduce(&log, &options),
        Command::Timings { file, frame } => rules::timings(&file, frame),
        Command::Explain { file, options } => look::explain(file.as_deref(), &options),
        Command::Compare { first, second, options } => look::compare(&first, second.as_deref(), &options),
        Command::Draw { file, options } => look::draw(file.as_deref(), &options),
        Command::Report { file, out, seed } => look::report(file.as_deref(), &out, seed),
        Command::Survey { file, options } => fight::survey(file.as_deref(), &options),
        Command::Watch { file, seed } => fight::watch(file.as_deref(), seed),
        Command::Wiring { handler: Some(topic), .. } => rules::handler(&topic),
        Command::Wiring { file, topics: true, format, .. } => rules::topics(file.as_deref(), format),
        Command::Wiring { file, about: Some(template), format, seed, .. } => {
            look::about(file.as_deref(), &template, format, seed)
        }
        Command::Wiring { file, format, seed, .. } => look::wiring(file.as_deref(), format, seed),
        Command::Check { files, options } => rules::check(&files, &options),
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
