//! The feed on the page, with amounts taken apart.

use super::*;

pub(super) fn feed(out: &mut impl Write, report: &Report<'_>) -> io::Result<()> {
    let told = report.transcript.told();
    let mut left_out: Vec<&str> = Vec::new();
    let count = |left_out: &[&str]| told.iter().filter(|told| !left_out.contains(&told.mark)).count();
    // Of what is most, and says least, nothing is shown where not all can be.
    for (mark, _) in Transcript::MARKS.iter().filter(|(mark, _)| [".", "o", "/", "~"].contains(mark)) {
        if count(&left_out) > MOST_LINES {
            left_out.push(mark);
        }
    }
    writeln!(
        out,
        "<section id=\"feed\"><h2>Events</h2>\n<fieldset class=\"filters\" aria-label=\"What is shown\">"
    )?;
    for (mark, words) in Transcript::MARKS {
        let count = told.iter().filter(|told| told.mark == mark).count();
        if count > 0 && !left_out.contains(&mark) {
            // Contacts are there for who asks.
            let checked = if mark == "." { "" } else { " checked" };
            let mark = Plain(mark);
            writeln!(
                out,
                "<label><input type=\"checkbox\" data-shows=\"{mark}\"{checked}> {mark} {words} {count}</label>"
            )?;
        }
    }
    writeln!(
        out,
        "<label>with <input type=\"search\" id=\"search\" placeholder=\"a name, a word\"></label> <output id=\"shown\" class=\"quiet\"></output>\n</fieldset>"
    )?;
    if !left_out.is_empty() || count(&left_out) > MOST_LINES {
        let words: Vec<&str> = Transcript::MARKS
            .iter()
            .filter(|(mark, _)| left_out.contains(mark))
            .map(|(_, words)| *words)
            .collect();
        writeln!(
            out,
            "<p class=\"quiet\">There are more than {MOST_LINES} lines: {} left out; <code>run</code> has them all.</p>",
            if words.is_empty() { "the last are".to_owned() } else { format!("{} are", words.join(", ")) }
        )?;
    }
    writeln!(
        out,
        "<p class=\"quiet\">Lines with a triangle open into their ledgers.</p>\n<ol id=\"feed-list\">"
    )?;
    let mut accounts = report.accounts.iter().peekable();
    let shown = told.iter().filter(|told| !left_out.contains(&told.mark)).take(MOST_LINES);
    for told in shown {
        // Both come in the order of the run.
        while accounts.next_if(|account| account.clock < told.clock).is_some() {}
        let now = accounts.clone().take_while(|account| account.clock == told.clock);
        let found = now.into_iter().find(|account| (told.seq.0..=told.seq.1).contains(&account.seq));
        line(out, told, found, report.rules.rate())?;
    }
    writeln!(out, "</ol>\n</section>")
}

/// One line of the feed, with what its amounts are made of.
fn line(out: &mut impl Write, told: &Told, account: Option<&Account>, rate: u32) -> io::Result<()> {
    let Told { clock, mark, text, .. } = told;
    let class = match *mark {
        "*" => "hit",
        "o" => "refusal",
        "X" => "death",
        _ => "other",
    };
    let seconds = f64::from(clock.saturating_sub(1)) / f64::from(rate);
    let hidden = if *mark == "." { " hidden" } else { "" };
    let (mark, text) = (Plain(mark), Plain(text));
    write!(
        out,
        "<li data-tick=\"{clock}\" data-mark=\"{mark}\" class=\"{class}\"{hidden}><button class=\"time\">{seconds:.2} s</button><span class=\"mark\">{mark}</span>"
    )?;
    match account.filter(|account| !account.amounts.is_empty() || !account.gates.is_empty()) {
        Some(account) => {
            write!(out, "<details><summary>{text}</summary><div>")?;
            taken_apart(out, account)?;
            write!(out, "</div></details>")?;
        }
        None => write!(out, "<span>{text}</span>")?,
    }
    writeln!(out, "</li>")
}

fn taken_apart(out: &mut impl Write, account: &Account) -> io::Result<()> {
    if let Some(contact) = &account.contact {
        let [x, y, z] = contact.point;
        write!(
            out,
            "<p>hit {}, swing {}, window {}, at [{x:.2}, {y:.2}, {z:.2}] m</p>",
            account.hit.unwrap_or_default(),
            contact.swing,
            contact.window
        )?;
    }
    if !account.gates.is_empty() {
        let gates: Vec<&str> = account.gates.iter().map(|gate| gate.gate).collect();
        write!(out, "<p class=\"quiet\">passed {}</p>", Plain(&gates.join(", ")))?;
    }
    for amount in &account.amounts {
        let damage_type = amount.damage_type.as_deref().unwrap_or("healing");
        let critical = if account.critical { ", critical" } else { "" };
        write!(out, "<p><b>{}</b> {}{critical}</p>", amount.amount, Plain(damage_type))?;
        if amount.ledger.is_empty() {
            continue;
        }
        write!(
            out,
            "<table><tr><th>step</th><th class=\"number\">before</th><th class=\"number\">after</th><th>because</th></tr>"
        )?;
        for Row { step, before, after, note } in &amount.ledger {
            let (step, note) = (Plain(step), Plain(note));
            write!(
                out,
                "<tr><td>{step}</td><td class=\"number\">{before}</td><td class=\"number\">{after}</td><td>{note}</td></tr>"
            )?;
        }
        write!(out, "</table>")?;
    }
    if let Some([from, to, max]) = account.health {
        write!(out, "<p>health {from} to {to}, of {max}</p>")?;
    }
    for text in &account.followed {
        write!(out, "<p>then {}</p>", Plain(text))?;
    }
    for heard in &account.heard {
        write!(
            out,
            "<p class=\"quiet\">{} heard by {}</p>",
            Plain(&heard.topic),
            Plain(&heard.by.join(", "))
        )?;
    }
    Ok(())
}
