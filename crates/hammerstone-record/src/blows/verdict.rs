//! The outcome of a swing at a target: the obstacle in the way of a miss, and the change that would let it strike.

use hammerstone::Ruleset;
use hammerstone::attack::{Attack, Form};
use hammerstone::event::SwingEnd;

use crate::blows::{Near, Stopped, SwingResult, TargetResult};

/// What came of a swing at each of its targets, and as a whole; at the one target that is asked about, it is the same.
pub(crate) fn verdict(swing: &mut SwingResult, asked: bool, attack: &Attack, rules: &Ruleset) {
    let mut targets = std::mem::take(&mut swing.targets);
    targets.iter_mut().for_each(|one| at_target(one, swing, attack, rules));
    swing.outcome = match targets.as_slice() {
        [one] if asked => one.outcome.clone(),
        targets => whole(targets),
    };
    swing.targets = targets;
}

/// What came of a swing as a whole.
fn whole(targets: &[TargetResult]) -> String {
    let met: Vec<&TargetResult> = targets.iter().filter(|one| !one.answers.is_empty()).collect();
    let struck: Vec<&str> = { met.iter() }
        .filter(|one| one.answers.iter().any(|answer| answer.hit.is_some()))
        .map(|one| one.target.as_str())
        .collect();
    match (met.len(), struck.len()) {
        (0, _) => "it met no target".to_owned(),
        (1, 0) => format!("it was refused at {}", met[0].target),
        (met, 0) => format!("it was refused at all {met} that it met"),
        (met, struck_count) if met > struck_count && struck_count > 3 => {
            format!("it struck {struck_count} of {met} that it met")
        }
        (_, struck_count) if struck_count > 3 => format!("it struck {struck_count}"),
        _ => format!("it struck {}", struck.join(" and ")),
    }
}

/// The outcome of a swing at a target, in a sentence, with the change that would let it strike.
fn at_target(one: &mut TargetResult, swing: &SwingResult, attack: &Attack, rules: &Ruleset) {
    let hits = one.answers.iter().filter(|answer| answer.hit.is_some()).count();
    if hits > 0 {
        let times = if hits == 1 { "once".to_owned() } else { format!("{hits} times") };
        one.outcome = format!("it struck {times}");
        (one.near, one.also) = (Vec::new(), None);
        return;
    }
    if let Some(answer) = one.answers.first() {
        one.outcome =
            format!("it met the {}, and was refused: {}", answer.part, answer.gate.unwrap_or_default());
        one.fix.clone_from(&answer.fix);
        (one.near, one.also) = (Vec::new(), None);
        return;
    }
    let (obstacle, outcome, fix) = cause(one, swing, attack, rules);
    one.near.sort_by_key(|near| near.obstacle != obstacle);
    // What was no nearer than the obstacle itself says nothing more.
    let least = one.near.first().map_or(0.0, |near| near.distance);
    let mut first = true;
    one.near.retain(|near| std::mem::take(&mut first) || near.distance < least);
    (one.outcome, one.fix) = (outcome, Some(fix));
}

/// The obstacle that kept it from touching, the outcome, and the change that would let it strike.
fn cause(
    one: &TargetResult,
    swing: &SwingResult,
    attack: &Attack,
    rules: &Ruleset,
) -> (&'static str, String, String) {
    let of = |obstacle| one.near.iter().find(move |near| near.obstacle == obstacle);
    let (distance, layer, window) = (of("distance"), of("layer"), of("window"));
    let touched = |near: Option<&Near>| near.is_some_and(|near| near.distance <= 0.0);
    let name = &swing.attack;
    if swing.windows.is_empty() {
        let why = swing.why.map_or("not yet", SwingEnd::name);
        (
            "window",
            format!("no window of it opened: it ended before ({why})"),
            format!("let `{name}` run until its window opens"),
        )
    } else if !one.seen.stood {
        let outcome = format!("{} did not stand while its window was open", one.target);
        ("", outcome, "strike while the target stands".to_owned())
    } else if touched(distance) {
        let (outcome, fix) = match (attack.form(), &swing.stopped) {
            (Form::Beam(_), Some(Stopped { by, .. })) => {
                let outcome = format!("{by} stopped it before it came so far");
                return (
                    "distance",
                    outcome,
                    format!("move {by} out of its way, or strike from another side"),
                );
            }
            (Form::Beam(_), None) => (
                "it stopped at another target before it came so far",
                format!("raise `pierce` of `{name}`, or clear the way"),
            ),
            _ => (
                "it was over, or spent, in the very tick in which it would have touched",
                format!("let `{name}` last longer, or strike more"),
            ),
        };
        ("distance", outcome.to_owned(), fix)
    } else if let Some(near) = layer.filter(|_| touched(layer)) {
        let met: Vec<&str> = rules
            .layers()
            .filter(|&layer| attack.meets_layer(layer))
            .map(|layer| rules.layer_name(layer).unwrap_or_default())
            .collect();
        let outcome = format!(
            "it went through the {}, which lies on the layer `{}`; it meets `{}`",
            near.part,
            near.layer,
            met.join("`, `")
        );
        (
            "layer",
            outcome,
            format!(
                "add `{}` to `meets` of `{name}`, or put the {} on a layer that it meets",
                near.layer, near.part
            ),
        )
    } else if let Some(near) = window.filter(|_| touched(window)) {
        let (outcome, fix) = out_of_window(swing, near);
        ("window", outcome, fix)
    } else if let (Some(near), Some(stopped)) = (distance, &swing.stopped) {
        let Stopped { by, time, .. } = stopped;
        let outcome = format!("{by} stopped it at {time:.2}s, {:.2} m from the {}", near.distance, near.part);
        ("distance", outcome, format!("move {by} out of its way, or strike from another side"))
    } else if let Some(near) = distance {
        let outcome = format!("it missed the {} by {:.2} m, at {:.2}s", near.part, near.distance, near.time);
        (
            "distance",
            outcome,
            format!(
                "come nearer by {:.2} m, or make hitbox {} of `{name}` larger by that",
                near.distance, near.hitbox
            ),
        )
    } else if let Some(near) = layer {
        let outcome = format!(
            "it meets no layer of the target; it also missed the {} by {:.2} m",
            near.part, near.distance
        );
        ("layer", outcome, format!("add `{}` to `meets` of `{name}`", near.layer))
    } else if let (Form::Touch, false) = (attack.form(), one.seen.hitbox) {
        let outcome = format!("it strikes with the parts of its bearer, and {} has none", swing.attacker);
        ("", outcome, format!("give the template of {} a part", swing.attacker))
    } else if !one.seen.hitbox {
        ("", "it has no hitbox that could hit anything".to_owned(), format!("give `{name}` a hitbox"))
    } else if !one.seen.part {
        let outcome = format!("{} has no part that could be hit", one.target);
        (
            "",
            outcome,
            format!("give the template of {} a part, or let one stand that is hidden or broken", one.target),
        )
    } else {
        let outcome =
            format!("its hitboxes and the parts of {} were never there at the same time", one.target);
        ("", outcome, format!("let `{name}` last longer"))
    }
}

/// The hitbox went through while no window was open: how long before, or after.
fn out_of_window(one: &SwingResult, near: &Near) -> (String, String) {
    let opens = one.windows.iter().map(|&(from, _)| from).find(|&from| from > near.time);
    let shut = one.windows.iter().map(|&(_, to)| to).rfind(|&to| to <= near.time);
    let (part, at, name) = (&near.part, near.time, &one.attack);
    match (shut, opens) {
        (Some(shut), None) => (
            format!("it went through the {part} at {at:.2}s, {:.2}s after its window had shut", at - shut),
            format!("let the window of `{name}` stay open longer by that"),
        ),
        (None, Some(opens)) => (
            format!("it went through the {part} at {at:.2}s, {:.2}s before its window opened", opens - at),
            format!("let the window of `{name}` open earlier by that"),
        ),
        _ => (
            format!("it went through the {part} at {at:.2}s, between two windows"),
            format!("let the windows of `{name}` meet"),
        ),
    }
}
