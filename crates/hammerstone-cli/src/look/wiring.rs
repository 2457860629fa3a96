//! `wiring`: who publishes what, who listens, and how often each was published and heard in a run.

use std::io::{self, Write};

use hammerstone::template::Template;
use hammerstone_record::{About, Diagram, Ear, Wired, Wiring, never_fired};
use miette::miette;

use crate::args::{Asked, Out, ReportFormat, WiringFormat};
use crate::source::Fight;
use crate::{Failure, Outcome, files, output};

pub(crate) fn wiring(asked: &Asked, (format, to): (WiringFormat, &Out)) -> Result<Outcome, Failure> {
    let fight = Fight::of(asked)?;
    let diagram = diagram(&fight)?;
    match format {
        WiringFormat::Text => {
            output::answer((ReportFormat::Text, to), &diagram, |out| text(out, &fight, &diagram))?;
        }
        WiringFormat::Json => output::answer((ReportFormat::Json, to), &diagram, |_| Ok(()))?,
        WiringFormat::Dot => {
            let mut out = output::open_plain(to.out.as_deref())?;
            output::written(diagram.write_dot(&mut out).and_then(|()| out.flush()))?;
        }
    }
    Ok(Outcome::Fine)
}

/// What combatants of a template publish, and what answers them.
pub(crate) fn about(
    asked: &Asked,
    template: &str,
    (format, to): (WiringFormat, &Out),
) -> Result<Outcome, Failure> {
    let fight = Fight::of(asked)?;
    let rules = fight.rules();
    let Some(id) = rules.find_template(template) else {
        let names = rules.templates().iter().map(Template::name);
        let help = match files::nearest(template, names.clone()) {
            Some(nearest) => format!("did you mean `{nearest}`?"),
            None => format!("there are: {}", names.collect::<Vec<_>>().join(", ")),
        };
        return Err(miette!(help = help, "there is no template `{template}`"));
    };
    let mut play = fight.play(false)?;
    play.encounter_mut().keep_deliveries(true);
    let mut about = About::new(id);
    play.through(&mut [&mut about])?;
    let topics = about.topics(rules);
    let format = match format {
        WiringFormat::Text => ReportFormat::Text,
        WiringFormat::Json => ReportFormat::Json,
        WiringFormat::Dot => {
            return Err(miette!(help = "take `--format text` or `json`", "`--about` draws no graph"));
        }
    };
    output::answer((format, to), &topics, |out| {
        writeln!(out, "{}: what {template} publishes, and what answers it\n", fight.title())?;
        let mut rows = Vec::new();
        for topic in &topics {
            let answers = topic.answers.iter().map(|(rule, often)| format!("rule {rule}: {often}"));
            let mut answers: Vec<String> = answers.collect();
            if answers.is_empty() {
                answers.push(String::new());
            }
            let counts = [topic.subject, topic.other].map(|count| count.to_string());
            let [subject, other] = counts;
            let mut head = [topic.topic.clone(), subject, other];
            for answer in answers {
                let [topic, subject, other] = std::mem::take(&mut head);
                rows.push([topic, subject, other, answer]);
            }
        }
        if rows.is_empty() {
            return writeln!(out, "no fact of the run is about one, and no rule asks for it");
        }
        output::table(out, &OF_TEMPLATE, &rows, "")
    })?;
    Ok(Outcome::Fine)
}

const OF_TEMPLATE: [output::Column<'static>; 4] =
    [("topic", false), ("as subject", true), ("as other", true), ("answered by", false)];

/// Plays the fight, and gathers who heard what.
pub(crate) fn diagram(fight: &Fight) -> Result<Diagram, Failure> {
    let rules = fight.rules();
    let mut play = fight.play(false)?;
    play.encounter_mut().keep_deliveries(true);
    let mut wiring = Wiring::new(rules);
    play.through(&mut [&mut wiring])?;
    Ok(wiring.diagram(rules, play.names()))
}

const COLUMNS: [output::Column<'static>; 5] =
    [("topic", false), ("published", true), ("heard", true), ("", false), ("heard by", false)];

fn text(out: &mut dyn Write, fight: &Fight, diagram: &Diagram) -> io::Result<()> {
    let rules = fight.rules();
    writeln!(out, "{}: what was published, and who heard it\n", fight.title())?;
    let mut rows = Vec::new();
    for topic in diagram.topics.iter().filter(|topic| !topic.listeners.is_empty()) {
        let mut first = true;
        for ear in &topic.listeners {
            let [topic, published, heard, mark] =
                if std::mem::take(&mut first) { of_topic(topic) } else { [const { String::new() }; 4] };
            rows.push([topic, published, heard, mark, of_ear(ear)]);
        }
    }
    if rows.is_empty() {
        writeln!(out, "there are no listeners")?;
    } else {
        output::table(out, &COLUMNS, &rows, "")?;
        if diagram.topics.iter().any(|topic| topic.mark == Some("never-published")) {
            writeln!(out, "\x1b[2mnever-published: a listener waits, but it was never published\x1b[0m")?;
        }
    }

    writeln!(out, "\n\x1b[1mUnheard\x1b[0m \x1b[2m(published, but no listener heard it; how often)\x1b[0m")?;
    let deaf = diagram.topics.iter().filter(|topic| topic.mark == Some("unheard"));
    list(out, deaf.map(|topic| format!("{} {}", topic.topic, topic.published)))?;

    writeln!(out, "\n\x1b[1mRules that publish\x1b[0m")?;
    let mut any = false;
    for topic in &diagram.topics {
        let rules = topic.publishers.iter().filter(|publisher| publisher.starts_with("rule "));
        // What a rule leads to later, such as the waves that it starts, is not counted.
        let told = |publisher: &String| {
            let name = &publisher["rule ".len()..];
            topic.led.get(publisher).map_or(name.to_owned(), |often| format!("{name} {often}"))
        };
        let by: Vec<String> = rules.map(told).collect();
        // What blows and orders publish all the time says little; what only rules and orders do says much.
        let of_rules = ["flag", "counter", "score", "said", "host", "encounter"];
        if !by.is_empty() && of_rules.contains(&topic.topic.split('.').next().unwrap_or_default()) {
            any = true;
            writeln!(out, "  {}: {}", topic.topic, by.join(", "))?;
        }
    }
    if !any {
        writeln!(out, "  none")?;
    }

    writeln!(out, "\n\x1b[1mRules that never fired\x1b[0m")?;
    list(
        out,
        never_fired(rules, diagram)
            .into_iter()
            .map(|rule| rules.rule_name(rule).unwrap_or_default().to_owned()),
    )?;

    writeln!(out, "\n\x1b[1mLoops\x1b[0m \x1b[2m(conditions are not looked at)\x1b[0m")?;
    for one in &diagram.loops {
        let round = match one.rules.as_slice() {
            [alone] => format!("{alone} sets itself off"),
            several => format!("{} and the first again", several.join(", then ")),
        };
        let how =
            if one.within_a_tick { "within a tick: only the limit on cascades ends it" } else { "over time" };
        writeln!(out, "  {round} ({how})")?;
    }
    if diagram.loops.is_empty() {
        writeln!(out, "  none")?;
    }
    writeln!(out, "\n\x1b[1mNeither published nor listened to\x1b[0m")?;
    list(out, diagram.unused.iter().cloned())
}

/// A list in lines that fit a page.
fn list(out: &mut dyn Write, items: impl Iterator<Item = String>) -> io::Result<()> {
    const WIDTH: usize = 100;
    let mut line = String::new();
    let mut any = false;
    for item in items {
        if any {
            line.push(',');
        }
        if any && line.len() + 1 + item.len() > WIDTH {
            writeln!(out, " {line}")?;
            line.clear();
        }
        line.push(' ');
        line.push_str(&item);
        any = true;
    }
    writeln!(out, " {}", if any { &line } else { " none" })
}

fn of_topic(topic: &Wired) -> [String; 4] {
    let mark = topic.mark.unwrap_or_default().to_owned();
    [topic.topic.clone(), topic.published.to_string(), topic.heard.to_string(), mark]
}

fn of_ear(ear: &Ear) -> String {
    let mut text = format!("{} {}", ear.sort, ear.name);
    let mut terms = Vec::new();
    if ear.how != "to" {
        terms.push(ear.how.to_owned());
    }
    terms.extend(ear.terms.iter().cloned());
    if ear.priority != 0 {
        terms.push(format!("priority {}", ear.priority));
    }
    terms.extend(ear.owner.as_ref().map(|owner| format!("owned by {owner}")));
    if !terms.is_empty() {
        text.push_str(&format!(" ({})", terms.join(", ")));
    }
    let mut counts = vec![ear.heard.to_string()];
    if ear.never_fitted() {
        counts.push(format!("none of {} fitted", ear.unfit));
    } else if ear.unfit > 0 {
        counts.push(format!("{} did not fit", ear.unfit));
    }
    if ear.paused > 0 {
        counts.push(format!("{} while paused", ear.paused));
    }
    format!("{text}: {}", counts.join(", "))
}
