//! Values in words, for the feed and for people.

use hammerstone::{Means, Note, Operand, Rules};

/// The sort of the means, and its name.
pub(crate) fn means_name(means: Means, rules: &Rules) -> (&'static str, &str) {
    match means {
        Means::Attack(attack) => ("attack", rules.attack_name(attack)),
        Means::Status(status) => ("status", rules.status_name(status)),
        Means::Host(reason) => ("host", rules.reason_name(reason)),
    }
}

/// A ledger's note in words.
pub(crate) struct NoteText(pub(crate) Note);

impl std::fmt::Display for NoteText {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self.0 {
            Note::None => Ok(()),
            Note::Rolled { low, high } => write!(f, "rolled from {low} to {high}"),
            Note::Times(factor) => write!(f, "times {factor}"),
            Note::Floor(floor) => write!(f, "raised to the floor of {floor}"),
            Note::Cap(cap) => write!(f, "cut to the cap of {cap}"),
            Note::Left(left) => write!(f, "only {left} health was left"),
            Note::Saturated => write!(f, "kept at the largest number that can be held"),
        }
    }
}

/// A value at a gate, in words.
pub(crate) struct OperandText<'a>(pub(crate) Operand, pub(crate) &'a Rules);

impl std::fmt::Display for OperandText<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let rules = self.1;
        match self.0 {
            Operand::OtherBody => write!(f, "another body"),
            Operand::OwnBody => write!(f, "the attacker's own body"),
            Operand::Running => write!(f, "a running swing"),
            Operand::SwingEnded(why) => write!(f, "a swing that ended ({})", why.name()),
            Operand::OpenWindow => write!(f, "an open window"),
            Operand::Clock(clock) => write!(f, "none open at tick {clock} of the swing"),
            Operand::Life(life) => f.write_str(life.name()),
            Operand::Layer(layer) => f.write_str(rules.layer_name(layer)),
            Operand::Layers(layers) => {
                let met = rules.layers().filter(|layer| layers >> layer.index() & 1 == 1);
                join(f, " or ", met.map(|layer| rules.layer_name(layer)))
            }
            Operand::Relations(relations) => {
                join(f, " or ", relations.iter().map(|relation| relation.name()))
            }
            Operand::Relation(relation) => f.write_str(relation.name()),
            Operand::Turns(0) => write!(f, "not struck yet"),
            Operand::Turns(1) => write!(f, "struck once"),
            Operand::Turns(turns) => write!(f, "struck {turns} times"),
            Operand::AllTags(tags) => join(f, " and ", rules.tags_in(tags).map(|tag| rules.tag_name(tag))),
            Operand::NoTags(tags) => {
                write!(f, "not ")?;
                join(f, " nor ", rules.tags_in(tags).map(|tag| rules.tag_name(tag)))
            }
            Operand::Tags(0) => write!(f, "no tags"),
            Operand::Tags(tags) => join(f, ", ", rules.tags_in(tags).map(|tag| rules.tag_name(tag))),
            Operand::Side(side, cosine) => {
                write!(f, "from {} within {:.0} degrees", side.name(), degrees(cosine))
            }
            Operand::Cosine(cosine) => write!(f, "{:.0} degrees away from it", degrees(cosine)),
            Operand::ClearLine => write!(f, "a clear line"),
            Operand::Behind(obstacle) => write!(f, "obstacle {} between", obstacle.number()),
            Operand::Ticks(1) => write!(f, "1 tick since the last turn"),
            Operand::Ticks(ticks) => write!(f, "{ticks} ticks since the last turn"),
            Operand::Targets(1) => write!(f, "one target"),
            Operand::Targets(targets) => write!(f, "{targets} targets"),
            Operand::Vulnerable => write!(f, "vulnerable"),
            Operand::Status(status) => f.write_str(rules.status_name(status)),
            Operand::Passed => write!(f, "passed"),
            Operand::Refused(_) => write!(f, "refused by an intercept"),
            Operand::Deflected(_) => write!(f, "deflected"),
        }
    }
}

fn join<'a>(
    f: &mut std::fmt::Formatter<'_>,
    between: &str,
    words: impl Iterator<Item = &'a str>,
) -> std::fmt::Result {
    for (i, word) in words.enumerate() {
        if i > 0 {
            f.write_str(between)?;
        }
        f.write_str(word)?;
    }
    Ok(())
}

/// The angle of a cosine, for people.
fn degrees(cosine: f32) -> f32 {
    cosine.clamp(-1.0, 1.0).acos().to_degrees()
}
