//! Why choices did not fit, in words.

use hammerstone::Fixed;
use hammerstone::event::Loss;
use hammerstone::ids::CombatantId;
use hammerstone::orders::Refusal;
use hammerstone_record::{Lost, why_not};

use super::def::Tactics;
use super::mind::{Around, Target};

/// Why a choice does not fit.
pub(super) enum Unfit {
    Conditions(Vec<Loss>),
    Chance(Fixed),
    NoTarget,
    OutOfSight,
    NoLeader,
    Far(f32, f32),
    Aside(f32, f32),
    Refused(Refusal),
    Busy,
    NoAttack,
    Unskilled,
}

/// The choices that did not fit, each with why.
pub(super) fn told(
    around: &Around<'_>,
    who: CombatantId,
    tactics: &Tactics,
    passed: &[(usize, Option<Target>, Unfit)],
) -> String {
    let mut text = String::new();
    for (place, target, unfit) in passed {
        let choice = &tactics.choices[*place];
        let why = match unfit {
            Unfit::Conditions(losses) => {
                let name =
                    |who: Option<CombatantId>| who.map_or("no one".to_owned(), |who| (around.names)(who));
                let parties = [name(Some(who)), name(target.map(|target| target.who))];
                let rules = around.encounter.rules();
                let lost = choice.when.as_ref().map_or(Vec::new(), |question| {
                    why_not(rules, question, losses, [&parties[0], &parties[1]])
                });
                let one = |lost: &Lost| match &lost.found {
                    Some(found) => format!("wanted {}, found {found}", lost.wanted),
                    None => format!("wanted {}", lost.wanted),
                };
                lost.iter().map(one).collect::<Vec<_>>().join(", ")
            }
            Unfit::Chance(chance) => format!("no luck, at a chance of {chance}"),
            Unfit::NoTarget => "no target".to_owned(),
            Unfit::OutOfSight => "its target is out of sight".to_owned(),
            Unfit::NoLeader => "no leader".to_owned(),
            Unfit::Far(far, reach) => format!("{far:.2} m away, wanted at most {reach:.2} m"),
            Unfit::Aside(off, arc) => {
                format!("{:.0}° off its facing, wanted at most {:.0}°", off.to_degrees(), arc.to_degrees())
            }
            Unfit::Refused(refusal) => refusal.to_string(),
            Unfit::Busy => "another swing is still running".to_owned(),
            Unfit::NoAttack => "no new attack comes".to_owned(),
            Unfit::Unskilled => "it did not manage".to_owned(),
        };
        let between = if text.is_empty() { "" } else { "; " };
        text.push_str(&format!("{between}{} ({why})", choice.name));
    }
    // Texts are bounded; what is longer says less.
    if text.len() > 1000 {
        let end = (0..=1000).rev().find(|&end| text.is_char_boundary(end)).unwrap_or(0);
        text.truncate(end);
        text.push('…');
    }
    text
}
