//! The gates in words: what each wanted and found, and the change that would let a refused meeting pass.

use hammerstone::Ruleset;
use hammerstone::attack::{Attack, Policy};
use hammerstone::event::{Facts, Gate, GatePassed, Operand};
use serde::Serialize;

use crate::Names;
use crate::feed::OperandText;

/// A gate that was passed.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Passed {
    /// The gate.
    pub gate: &'static str,
    /// What it wanted.
    pub wanted: String,
    /// What it found.
    pub found: String,
}

/// The gates that a hit passed, in their order, as the tick judged them; those that ask nothing of its attack are left out. Empty where
/// they are not kept.
pub(crate) fn passed(facts: &Facts<'_>, seq: u64, rules: &Ruleset, names: &Names) -> Vec<Passed> {
    let text = |operand| OperandText(operand, rules, names).to_string();
    let one = |&GatePassed { gate, wanted, found, .. }: &GatePassed| Passed {
        gate: gate.name(),
        wanted: text(wanted),
        found: text(found),
    };
    facts.gates_of(seq).iter().map(one).collect()
}

/// The change that would have let a refused meeting pass.
pub(crate) fn fix(
    (gate, wanted, found): (Gate, Operand, Operand),
    attack: &Attack,
    rules: &Ruleset,
    names: &Names,
) -> String {
    let text = |operand| OperandText(operand, rules, names).to_string();
    let name = attack.name();
    match (gate, wanted, found) {
        (Gate::OwnBody, ..) => {
            "let another combatant start it: an attack never strikes the body that carries it".to_owned()
        }
        (Gate::Ended, _, Operand::SwingEnded(hammerstone::event::SwingEnd::Died)) => {
            format!("`outlives = true` in `{name}` would let it go on when its attacker dies")
        }
        (Gate::Ended, ..) => "nothing: the swing was over; let it meet earlier".to_owned(),
        (Gate::Closed, _, Operand::Clock(clock)) => {
            format!(
                "let a window of `{name}` be open at tick {clock} of the swing, or report the contact while one is"
            )
        }
        (Gate::Dead, ..) => {
            "nothing: the dead react to nothing; strike before the death, or after a return".to_owned()
        }
        (Gate::Away, ..) => "strike before it goes away, or after it returns".to_owned(),
        (Gate::Gone, ..) => "nothing: the target was removed".to_owned(),
        (Gate::Layer, _, found) => {
            format!("add `{}` to `meets` of `{name}`, or put the part on a layer that it meets", text(found))
        }
        (Gate::Team, _, found) => {
            format!(
                "add `{}` to `strikes` of `{name}`, or change how the teams stand to each other",
                text(found)
            )
        }
        (Gate::Tags, Operand::AllTags(needs), Operand::Tags(has)) => {
            let lacks = text(Operand::AllTags(needs & !has));
            format!("give the target {lacks}, or take {lacks} out of `needs-tags` of `{name}`")
        }
        (Gate::Tags, _, found) => {
            let has = text(found);
            format!(
                "strike when the target has no longer {has}, or take {has} out of `spares-tags` of `{name}`"
            )
        }
        (Gate::Direction, _, Operand::Cosine(cosine)) => {
            let degrees = cosine.clamp(-1.0, 1.0).acos().to_degrees().ceil();
            format!(
                "`only-from` of `{name}` within {degrees} degrees would let it pass; or strike from where it asks"
            )
        }
        (Gate::Obstacle, ..) => {
            format!("take `clear-line` out of `{name}`, or have nothing stand between")
        }
        (Gate::Struck, ..) => match attack.policy_of() {
            Policy::Once => format!(
                "nothing, if once is meant; `policy = \"window\"`, `\"interval\"` or `\"life\"` in `{name}` would strike again"
            ),
            Policy::Life => "nothing, if once in a life is meant".to_owned(),
            Policy::Entry(0) => "it strikes again when it has left the target and enters it anew".to_owned(),
            Policy::Entry(least) => format!(
                "it strikes again when it has left the target and enters it anew, {least} ticks after the last time or later; a smaller `every` of `{name}` brings that earlier"
            ),
            _ => {
                format!("nothing, if once a window is meant; a further window of `{name}` would strike again")
            }
        },
        (Gate::Interval, Operand::Ticks(every), Operand::Ticks(since)) => {
            let wait = every.saturating_sub(since);
            format!("its next turn comes {wait} ticks later; a smaller `every` of `{name}` brings it earlier")
        }
        (Gate::MaxTargets, ..) => {
            format!("raise `max-targets` or `pierce` of `{name}`: it strikes no more than that")
        }
        (Gate::Parried | Gate::Deflected, _, found) => {
            let status = text(found);
            format!(
                "strike before or after `{status}`, from outside its arc, or name it in `ignores` of `{name}`"
            )
        }
        (Gate::Invulnerable, _, found) => {
            let status = text(found);
            format!("strike when `{status}` has ended, or name it in `ignores` of `{name}`")
        }
        (Gate::Intercepted, _, found) => format!("the host's intercept decided it ({})", text(found)),
        _ => "strike otherwise".to_owned(),
    }
}
