//! `survey`: many seeds and values, in parallel, and what they came to.

mod asked;
mod found;
mod gather;
mod part;
mod plan;
mod runs;
mod text;

use std::sync::atomic::AtomicBool;

use hammerstone_record::{PointTally, RunOf};
use hammerstone_scenario::check_rules;
use miette::{Severity, miette};

use crate::args::{SurveyAsked, SurveyOptions};
use crate::look::ending;
use crate::progress::{self, Told};
use crate::{Failure, Outcome, output};

use asked::Work;
use found::Found;
use runs::Runner;
pub(crate) use runs::{pool, ran};

/// What is said of a fight in which all goes by legs and script.
pub(crate) const NO_TACTICS: &str = "no combatant reacts: this fight has no [tactics], so all goes by legs and script, and only rolls differ from run to run";

pub(crate) fn survey(asked: &SurveyAsked, options: &SurveyOptions) -> Result<Outcome, Failure> {
    if options.shard.is_none()
        && let Some(out) = &options.out
    {
        ending(out)?;
    }
    if let Some(parts) = &options.gather {
        return gather::gathered(parts, options);
    }
    let work = Work::of(&asked.file.clone().unwrap_or_default(), &asked.with, options)?;
    if options.plan {
        return plan::plan(&work, asked, options);
    }
    if let Some(shard) = options.shard {
        return part::shard(&work, shard, options);
    }
    found::must_be_writable(&work.survey, options)?;
    warn_of_paths(&work)?;
    let stop = progress::stop();
    whole(&work, options, &stop)
}

/// Every run of a survey in this process.
fn whole(work: &Work, options: &SurveyOptions, stop: &AtomicBool) -> Result<Outcome, Failure> {
    let survey = &work.survey;
    let told = Told::of(survey.runs(), "runs", false);
    let mut runner = Runner::new(work, options.threads, stop, told)?;
    let mut found = Found::new(survey, options.csv.as_deref());
    match options.until {
        None => drop(runner.through(1..=survey.runs(), &mut |ran| {
            ran.iter().try_for_each(|(_, of, ran)| found.add(*of, ran))
        })?),
        Some(until) => enough(work, &mut runner, until, &mut found)?,
    }
    runner.end();
    found.finish()?;
    let (done, wanted) = (found.runs, survey.runs());
    let last = options.until.filter(|_| done < wanted).map(|until| {
        let until = (until * 1000.0).round() / 10.0;
        format!("every share is known to within {until} % after {done} of {wanted} runs")
    });
    text::answer(survey, &found, options, last)?;
    if done < wanted && runner.is_stopped() {
        output::complain(&miette!(
            severity = Severity::Warning,
            "interrupted: {done} of {wanted} runs were made, and what they came to is kept"
        ));
    }
    Ok(Outcome::Fine)
}

/// How many seeds of each point run before it is looked at whether that is enough.
const BATCH: u64 = 50;

/// Point by point, until the share of each outcome is known to within so much, at 95 %.
fn enough(work: &Work, runner: &mut Runner<'_>, until: f64, found: &mut Found<'_>) -> Result<(), Failure> {
    for (fight, of) in work.survey.fights.iter().enumerate() {
        for point in 0..of.points.len() {
            let (mut tally, mut next) = (PointTally::default(), 0);
            while next < of.seeds && tally.uncertainty() > until && !runner.is_stopped() {
                let to = (next + BATCH).min(of.seeds);
                let wanted: Vec<RunOf> = (next..to).map(|number| RunOf { fight, point, number }).collect();
                for (of, ran) in wanted.iter().zip(runner.run(&wanted)?) {
                    tally.add(&ran);
                    found.add(*of, &ran)?;
                }
                next = to;
            }
        }
    }
    Ok(())
}

/// Says where a varied value leaves a path beside its windows: what comes of it is a swing that sweeps while it is closed.
fn warn_of_paths(work: &Work) -> Result<(), Failure> {
    for (fight, of) in work.survey.fights.iter().enumerate() {
        let mut first = None;
        let mut count = 0;
        for point in 0..of.points.len() {
            // Each point is read before the first run, so that what is wrong with one is said now.
            let scenario = work.scenario(fight, point)?;
            let mut doubts = check_rules(&scenario.rules).into_iter();
            if let Some(doubt) = doubts.find(|doubt| doubt.finding.number == BESIDE) {
                count += 1;
                first.get_or_insert((point, doubt.message));
            }
        }
        if let Some((point, message)) = first.filter(|_| count < of.points.len()) {
            let values = of.varied.iter().zip(&of.points[point]);
            let values = values.map(|(path, value)| format!("{path} = {value}"));
            output::complain(&miette!(
                severity = Severity::Warning,
                help = "move the keys of the path by as much, or vary them too",
                "with {}, and at {count} of {} values in all, {message}",
                values.collect::<Vec<String>>().join(", "),
                of.points.len()
            ));
        }
    }
    Ok(())
}

/// The finding about paths beside their windows.
const BESIDE: u16 = 28;
