//! The command `hammerstone`.

mod args;
mod fight;
mod files;
mod generate;
mod help;
mod live;
mod look;
mod new;
mod output;
mod part;
mod progress;
mod rules;
mod source;

use std::process::ExitCode;

use clap::Parser;

use args::{Args, Asked, Command};

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
    output::begin(args.how);
    let Some(command) = args.command else {
        let _ = help::print();
        return ExitCode::SUCCESS;
    };
    let outcome = match command {
        Command::New { folder, like } => new::new(&folder, like),
        Command::Demo { with, options } => fight::demo(&with, &options),
        Command::Run { asked, options } => fight::file(&asked, &options),
        Command::Test { paths, options } => fight::test(&paths, &options),
        Command::Reduce { log, options } => fight::reduce(&log, &options),
        Command::Timings { file, frame, options } => rules::timings(&file, frame, &options),
        Command::Explain { asked, options } => look::explain(&asked, &options),
        Command::Compare { first, second, options } => look::compare(&first, second.as_deref(), &options),
        Command::Draw { asked, options } => look::draw(&asked, &options),
        Command::Report { asked, out } => look::report(&asked, &out),
        Command::Survey { asked, options } => fight::survey(&asked, &options),
        Command::Watch { asked } => fight::watch(&asked),
        Command::Live { asked, options } => live::live(&asked, &options),
        Command::Wiring { handler: Some(topic), out, .. } => rules::handler(&topic, &out),
        Command::Wiring { file, topics: true, format, out, .. } => {
            rules::topics(file.as_deref(), (format, &out))
        }
        Command::Wiring { file, with, about, format, out, .. } => {
            let asked = Asked { file: file.unwrap_or_default(), with };
            match about {
                Some(template) => look::about(&asked, &template, (format, &out)),
                None => look::wiring(&asked, (format, &out)),
            }
        }
        Command::Generate { what } => generate::generate(&what),
        Command::Check { files, options } => rules::check(&files, &options),
    };
    output::detail(|| "done".to_owned());
    match outcome {
        Ok(Outcome::Fine) => ExitCode::SUCCESS,
        Ok(Outcome::Failed) => ExitCode::from(1),
        Err(failure) => {
            output::complain(&failure);
            ExitCode::from(2)
        }
    }
}
