//! What can be known of a file without running it: not wrong, but hardly meant.

use std::collections::BTreeMap;
use std::ops::Range;

use hammerstone_rules::excerpt::{Excerpt, shown};
use miette::{Diagnostic, SourceSpan};
use toml::de::{DeTable, DeValue};

mod mentions;
mod motion;
mod pool;
mod rules;
mod scenario;

pub use motion::check_skeleton;
pub use pool::{Looked, Pool};
pub use rules::check_rules;

/// A sort of finding.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Finding {
    /// Its number, which stays.
    pub number: u16,
    /// What it is.
    pub name: &'static str,
    /// Why it matters.
    pub reason: &'static str,
    /// Whether it depends on what fights make of a ruleset: in one fight alone it may mean nothing.
    pub of_use: bool,
}

const fn finding(number: u16, name: &'static str, reason: &'static str) -> Finding {
    Finding { number, name, reason, of_use: false }
}

/// A finding that depends on what fights make of the ruleset.
const fn of_use(number: u16, name: &'static str, reason: &'static str) -> Finding {
    Finding { number, name, reason, of_use: true }
}

/// All sorts of findings, by number.
pub const FINDINGS: [Finding; 32] = [
    finding(1, "an attack that no template uses", "it is tuned, but never used"),
    finding(2, "an attack that strikes no team", "it is refused at every target"),
    finding(
        3,
        "a pair that can never meet, by layer",
        "one side was set up without the other: no damage is dealt, and no error is shown",
    ),
    finding(4, "rules that set each other off within a tick", "only the limit on cascades ends it"),
    of_use(5, "an attack that no combatant starts", "it is available, but never used"),
    of_use(6, "a rule that waits for a flag that is never raised", "it never fires"),
    of_use(7, "a rule that waits for waves that are never started", "it never fires"),
    of_use(
        8,
        "a rule that hears a topic of the host that is never published",
        "it never fires, unless the game publishes it",
    ),
    finding(
        9,
        "an attack that never leaves its attacker's body",
        "it can only hit a target inside of that body",
    ),
    finding(
        10,
        "a part on a layer that no attack meets",
        "one side was set up without the other: it cannot be hit",
    ),
    of_use(11, "a status that is never applied", "it is tuned, but never used"),
    of_use(12, "a status without an end that is never lifted", "its bearer keeps it for good"),
    of_use(13, "a rule that hears a topic that is never published", "it never fires"),
    of_use(14, "a rule that asks for a threshold that no combatant has", "it never fires"),
    of_use(15, "a rule that asks for a template that never comes", "it never fires"),
    of_use(16, "a flag or a counter that no rule asks for", "it is unheard, unless the game reads it"),
    finding(17, "statuses that bring each other back within a tick", "only the limit on cascades ends it"),
    finding(18, "combatants that follow each other in a circle", "the last of them is refused its leader"),
    finding(
        19,
        "damage, a damaging status or an attack of a rule without credit",
        "a kill by it is credited to no one",
    ),
    finding(20, "a chain that can go on before its attack strikes", "an early press cuts every hit off"),
    finding(
        21,
        "a path that turns about two axes",
        "between the two it takes the shorter way, whatever was meant",
    ),
    finding(
        22,
        "a window beyond the end of its animation",
        "the body stands still there, with an open hitbox",
    ),
    finding(23, "an animated hitbox beyond the limit on moves", "its poses are refused, and it stays behind"),
    finding(
        24,
        "an attack with the animation of another skeleton",
        "the body does not play it, and its hitboxes never move",
    ),
    finding(25, "a window before its animation has begun", "the first ticks of the window strike no target"),
    finding(26, "something odd in a skeleton's file", "joints jump, are not found, or have the wrong size"),
    finding(27, "an attack by touch of a bearer without parts", "it strikes with parts, and there is none"),
    finding(
        28,
        "a path beside its windows",
        "the hitbox moves while it is closed; a startup and a path are changed together",
    ),
    finding(29, "lives without grace", "one who returns among foes is struck before it can move"),
    finding(30, "an `allow` that fits no finding", "what it allowed is gone, or is called otherwise by now"),
    finding(31, "tactics that no combatant has", "no combatant moves or fights by them"),
    finding(32, "a choice that always fits, before others", "those after it are never taken"),
];

/// Something in a file that is hardly meant, with its place and a fix.
#[derive(Debug, thiserror::Error, Diagnostic)]
#[error("finding {}: {message}", finding.number)]
#[diagnostic(severity(warning))]
pub struct Doubt {
    /// What sort of thing.
    pub finding: &'static Finding,
    /// What it is.
    pub message: String,
    /// What to do about it.
    #[help]
    pub fix: String,
    /// The file.
    file: String,
    #[source_code]
    code: Option<Excerpt>,
    #[label("here")]
    span: Option<SourceSpan>,
}

impl Doubt {
    /// The file that it is about, and the line in it, from 1.
    pub fn place(&self) -> (&str, usize) {
        let line = self.code.as_ref().zip(self.span).map(|(code, span)| code.place(span.offset()).1);
        (&self.file, line.unwrap_or(1))
    }
}

fn doubt(number: u16, code: &Excerpt, span: Range<usize>, message: String, fix: &str) -> Doubt {
    let (file, ..) = code.place(span.start);
    let span = Some(shown(&code.text, span).into());
    Doubt { code: Some(code.clone()), span, ..doubt_of(number, file, message, fix) }
}

/// A doubt about a file that has no lines.
fn doubt_of(number: u16, file: &str, message: String, fix: &str) -> Doubt {
    let finding = FINDINGS.iter().find(|finding| finding.number == number).unwrap_or(&FINDINGS[0]);
    Doubt { finding, message, fix: fix.to_owned(), file: file.to_owned(), code: None, span: None }
}

/// Where the keys of tables stand, one within the other, down to the fourth.
pub(crate) fn places_of(text: &str) -> BTreeMap<Vec<String>, Range<usize>> {
    fn walk(table: &DeTable<'_>, keys: &mut Vec<String>, places: &mut BTreeMap<Vec<String>, Range<usize>>) {
        for (key, value) in table {
            keys.push(key.get_ref().to_string());
            places.insert(keys.clone(), key.span());
            if let DeValue::Table(within) = value.get_ref()
                && keys.len() < 4
            {
                walk(within, keys, places);
            }
            keys.pop();
        }
    }
    let mut places = BTreeMap::new();
    if let Ok(table) = DeTable::parse(text) {
        walk(table.get_ref(), &mut Vec::new(), &mut places);
    }
    places
}
