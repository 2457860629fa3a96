//! Values in words, for the feed and for people.

use hammerstone::flow::Spoken;
use hammerstone::gauge::Pool;
use std::borrow::Cow;

use hammerstone::amount::Modifier;
use hammerstone::event::{BarredBy, Cause, CutAt, LedgerStep, LimitOf, Listener, Note, Operand, Via};
use hammerstone::gauge::NEVER;
use hammerstone::orders::Refusal;
use hammerstone::{Fixed, Ruleset};

use hammerstone::event::FieldValue;

use crate::Names;

/// The sorts of what deals damage.
pub(crate) const VIA: [&str; 4] = ["attack", "status", "host", "rule"];

/// The sort of what deals damage, and its name.
pub(crate) fn via_name(via: Via, rules: &Ruleset) -> (&'static str, &str) {
    match via {
        Via::Attack(attack) => ("attack", rules.attack_name(attack).unwrap_or_default()),
        Via::Status(status) => ("status", rules.status_name(status).unwrap_or_default()),
        Via::Host(reason) => ("host", rules.reason_name(reason).unwrap_or_default()),
        Via::Rule(rule) => ("rule", rules.rule_name(rule).unwrap_or_default()),
    }
}

/// The name of what a field names: a combatant, an attack, a status, …; none for what is no name.
pub(crate) fn named<'a>(value: FieldValue, rules: &'a Ruleset, names: &'a Names) -> Option<&'a str> {
    Some(match value {
        FieldValue::Combatant(who) => names.of(who),
        FieldValue::Attack(attack) => rules.attack_name(attack).unwrap_or_default(),
        FieldValue::Status(status) => rules.status_name(status).unwrap_or_default(),
        FieldValue::Gauge(gauge) => rules.gauge_name(gauge).unwrap_or_default(),
        FieldValue::Shield(shield) => rules.shield_name(shield).unwrap_or_default(),
        FieldValue::Team(team) => rules.team_name(team).unwrap_or_default(),
        FieldValue::Template(template) => rules.template_name(template).unwrap_or_default(),
        FieldValue::DamageType(damage_type) => rules.damage_type_name(damage_type).unwrap_or_default(),
        FieldValue::Threshold(threshold) => rules.threshold_name(threshold).unwrap_or_default(),
        FieldValue::Outcome(outcome) => rules.outcome_name(outcome).unwrap_or_default(),
        FieldValue::Flag(flag) => rules.flag_name(flag).unwrap_or_default(),
        FieldValue::Counter(counter) => rules.counter_name(counter).unwrap_or_default(),
        FieldValue::CombatantFlag(flag) => rules.combatant_flag_name(flag).unwrap_or_default(),
        FieldValue::CombatantCounter(counter) => rules.combatant_counter_name(counter).unwrap_or_default(),
        FieldValue::Score(score) => rules.score_name(score).unwrap_or_default(),
        FieldValue::Waves(waves) => rules.waves_name(waves).unwrap_or_default(),
        FieldValue::Rule(rule) => rules.rule_name(rule).unwrap_or_default(),
        FieldValue::Topic(topic) => rules.topics().path(topic).unwrap_or_default(),
        _ => return None,
    })
}

/// What is said, with names and numbers.
pub(crate) fn spoken(spoken: &Spoken, rules: &Ruleset, names: &Names) -> String {
    rules.spoken(spoken, |who| names.of(who).to_owned())
}

/// The sort of a cause, and its name.
pub(crate) fn cause_name<'a>(cause: Cause, rules: &'a Ruleset, names: &'a Names) -> (&'static str, &'a str) {
    match cause {
        Cause::Template(template) => ("template", rules.template_name(template).unwrap_or_default()),
        Cause::Status(status) => ("status", rules.status_name(status).unwrap_or_default()),
        Cause::Host(reason) => ("host", rules.reason_name(reason).unwrap_or_default()),
        Cause::Hook(hook) => ("hook", names.of_hook(hook)),
    }
}

/// Why an order was refused. Gauges are named.
pub(crate) fn refusal(why: Refusal, rules: &Ruleset) -> String {
    match why {
        Refusal::NotEnough { gauge, wanted, found, ticks } => {
            let name = rules.gauge_name(gauge).unwrap_or_default();
            let when = if ticks == NEVER {
                String::new()
            } else {
                format!("; it could be started in {ticks} ticks")
            };
            format!("it costs {wanted} {name}, and {found} is there{when}")
        }
        Refusal::PoolFull(pool) => {
            let (name, most) = (rules.pool_name(pool).unwrap_or_default(), Pool::MOST);
            format!("{most} combatants share the health of {name}, and no more may; remove one first")
        }
        other => other.to_string(),
    }
}

/// A place at which reactions were cut: its sort, its name, and the topic or the occasion.
pub(crate) fn cut_at<'a>(
    place: CutAt,
    rules: &'a Ruleset,
    names: &'a Names,
) -> (&'static str, Cow<'a, str>, Option<&'a str>) {
    match place {
        CutAt::Heard(listener, topic) => {
            let (sort, name) = listener_name(listener, rules, names);
            (sort, name, topic.map(|topic| rules.topics().path(topic).unwrap_or_default()))
        }
        CutAt::Given(status, on) => {
            ("status", rules.status_name(status).unwrap_or_default().into(), Some(on.name()))
        }
        CutAt::AtEnd(status) => {
            ("status", rules.status_name(status).unwrap_or_default().into(), Some("gauge"))
        }
        CutAt::Spared(cause) => {
            let (sort, name) = cause_name(cause, rules, names);
            (sort, name.into(), Some("spared"))
        }
        CutAt::PassedOn(status, echo) => {
            ("status", rules.status_name(status).unwrap_or_default().into(), Some(echo.name()))
        }
        CutAt::Child(attack, when) => {
            ("attack", rules.attack_name(attack).unwrap_or_default().into(), Some(when.name()))
        }
        CutAt::Deflected(attack) => {
            ("attack", rules.attack_name(attack).unwrap_or_default().into(), Some("deflected"))
        }
    }
}

/// The sort of a listener, and its name; its number for a hook that was not named.
pub(crate) fn listener_name<'a>(
    listener: Listener,
    rules: &'a Ruleset,
    names: &'a Names,
) -> (&'static str, Cow<'a, str>) {
    match listener {
        Listener::Rule(rule) => ("rule", rules.rule_name(rule).unwrap_or_default().into()),
        Listener::Hook(hook) => match names.of_hook(hook) {
            "" => ("hook", hook.index().to_string().into()),
            name => ("hook", name.into()),
        },
    }
}

/// The name of a ledger's line; the host's own steps have names of their own.
pub(crate) fn step_name(step: LedgerStep, rules: &Ruleset) -> &str {
    step.own().map_or(step.name(), |own| rules.own_step_name(own).unwrap_or_default())
}

/// A ledger's note in words.
pub(crate) struct NoteText<'a> {
    pub(crate) note: Note,
    pub(crate) rules: &'a Ruleset,
    pub(crate) names: &'a Names,
}

impl std::fmt::Display for NoteText<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let rules = self.rules;
        match self.note {
            Note::None => Ok(()),
            Note::Rolled { low, high } => write!(f, "rolled from {low} to {high}"),
            Note::Times(factor) => write!(f, "times {}", Short(factor)),
            Note::Stat { of, stat, value, by } => {
                let (of, stat, value) = (of.name(), rules.stat_name(stat).unwrap_or_default(), Short(value));
                match by {
                    Modifier::Add(by) => write!(f, "{of}'s {stat} {value}, {} a point", Short(by)),
                    by => write!(f, "{of}'s {stat} {value}, a share of {} a point", Short(by.value())),
                }
            }
            Note::Critical { chance, times } => {
                write!(f, "a chance of {}, times {}", Short(chance), Short(times))
            }
            Note::Changed { cause, by, note } => {
                let value = Short(by.value());
                match by {
                    Modifier::Add(_) => write!(f, "plus {value}")?,
                    Modifier::AddShare(_) => write!(f, "a share of {value}")?,
                    Modifier::Multiply(_) => write!(f, "times {value}")?,
                    Modifier::Set(_) => write!(f, "set to {value}")?,
                }
                let (_, name) = cause_name(cause, rules, self.names);
                match (name, note.and_then(|note| rules.reason_name(note))) {
                    ("", Some(note)) => write!(f, " ({note})"),
                    (name, None) => write!(f, " ({name})"),
                    (name, Some(note)) => write!(f, " ({name}: {note})"),
                }
            }
            Note::Speed { speed, share } => write!(f, "{} m/s, times {}", Short(speed), Short(share)),
            Note::Relation(relation, share) => write!(f, "times {} ({})", Short(share), relation.name()),
            Note::Guard(status, share) => {
                write!(
                    f,
                    "{} takes a share of {}",
                    rules.status_name(status).unwrap_or_default(),
                    Short(share)
                )
            }
            Note::Armour { stat, value, half: None } => {
                write!(f, "less {} {}", rules.stat_name(stat).unwrap_or_default(), Short(value))
            }
            Note::Armour { stat, value, half: Some(half) } => {
                let (stat, half, value) =
                    (rules.stat_name(stat).unwrap_or_default(), Short(half), Short(value));
                write!(f, "{stat} {value}: times {half} / ({half} + {value})")
            }
            Note::Distance { metres, share } => {
                write!(f, "times {} at {} m", Short(share), Short(metres))
            }
            Note::NoCode => write!(f, "the host gave no code for it"),
            Note::Floor(floor) => write!(f, "raised to the floor of {floor}"),
            Note::Cap(cap) => write!(f, "cut to the cap of {cap}"),
            Note::Shield(shield, 0) => {
                write!(f, "{} absorbs and breaks", rules.shield_name(shield).unwrap_or_default())
            }
            Note::Shield(shield, left) => {
                write!(f, "{} absorbs and has {left} left", rules.shield_name(shield).unwrap_or_default())
            }
            Note::Transferred(status, to) => {
                write!(
                    f,
                    "{} takes the rest ({})",
                    self.names.of(to),
                    rules.status_name(status).unwrap_or_default()
                )
            }
            Note::PreventsDeath(cause) => {
                let (_, name) = cause_name(cause, rules, self.names);
                write!(f, "kept alive by {}", if name.is_empty() { "the host" } else { name })
            }
            Note::Left(left) => write!(f, "only {left} was left"),
            Note::Reading { of, value, times } => {
                write!(f, "{} {}", rules.reading_name(of), Short(value))?;
                if times == Fixed::ONE { Ok(()) } else { write!(f, ", times {}", Short(times)) }
            }
            Note::Limited { by, points } => {
                let name = match by {
                    LimitOf::Attack(attack) => rules.attack_name(attack),
                    LimitOf::Status(status) => rules.status_name(status),
                    LimitOf::Template(template) => rules.template_name(template),
                };
                write!(f, "to the limit of {points} of {}", name.unwrap_or_default())
            }
            Note::Saturated => write!(f, "kept at the largest number that can be held"),
        }
    }
}

/// An exact number without the zeros at its end.
pub(crate) struct Short(pub(crate) Fixed);

impl std::fmt::Display for Short {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let text = self.0.to_string();
        f.write_str(text.trim_end_matches('0').trim_end_matches('.'))
    }
}

/// Why a status was not applied, in words.
pub(crate) struct BarredByText<'a>(pub(crate) BarredBy, pub(crate) &'a Ruleset);

impl std::fmt::Display for BarredByText<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self.0 {
            BarredBy::Tags(tags) => {
                write!(f, "barred by ")?;
                join(f, " and ", self.1.tags_in(tags).map(|tag| self.1.tag_name(tag).unwrap_or_default()))
            }
            BarredBy::Weaker => write!(f, "not stronger"),
        }
    }
}

/// A value at a gate, in words.
pub(crate) struct OperandText<'a>(pub(crate) Operand, pub(crate) &'a Ruleset, pub(crate) &'a Names);

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
            Operand::Layer(layer) => f.write_str(rules.layer_name(layer).unwrap_or_default()),
            Operand::Layers(layers) => {
                let met = rules.layers().filter(|layer| layers >> layer.index() & 1 == 1);
                join(f, " or ", met.map(|layer| rules.layer_name(layer).unwrap_or_default()))
            }
            Operand::Relations(relations) => {
                join(f, " or ", relations.iter().map(|relation| relation.name()))
            }
            Operand::Relation(relation) => f.write_str(relation.name()),
            Operand::Turns(0) => write!(f, "not struck yet"),
            Operand::Turns(1) => write!(f, "struck once"),
            Operand::Turns(turns) => write!(f, "struck {turns} times"),
            Operand::AllTags(tags) => {
                join(f, " and ", rules.tags_in(tags).map(|tag| rules.tag_name(tag).unwrap_or_default()))
            }
            Operand::NoTags(tags) => {
                write!(f, "not ")?;
                join(f, " nor ", rules.tags_in(tags).map(|tag| rules.tag_name(tag).unwrap_or_default()))
            }
            Operand::Tags(0) => write!(f, "no tags"),
            Operand::Tags(tags) => {
                join(f, ", ", rules.tags_in(tags).map(|tag| rules.tag_name(tag).unwrap_or_default()))
            }
            Operand::Side(side, cosine) => {
                write!(f, "from {} within {:.0} degrees", side.name(), degrees(cosine))
            }
            Operand::Cosine(cosine) => write!(f, "{:.0} degrees away from it", degrees(cosine)),
            Operand::ClearLine => write!(f, "a clear line"),
            Operand::Behind(obstacle) => write!(f, "{} between", self.2.of_obstacle(obstacle)),
            Operand::BehindShape(shape) => write!(f, "{} between", self.2.of_shape(shape)),
            Operand::Ticks(1) => write!(f, "1 tick since the last hit"),
            Operand::Ticks(ticks) => write!(f, "{ticks} ticks since the last hit"),
            Operand::Targets(1) => write!(f, "one target"),
            Operand::Targets(targets) => write!(f, "{targets} targets"),
            Operand::Vulnerable => write!(f, "vulnerable"),
            Operand::NotParried => write!(f, "not parried"),
            Operand::Status(status) => f.write_str(rules.status_name(status).unwrap_or_default()),
            Operand::Passed => write!(f, "passed"),
            Operand::Refused(_, why) => write!(f, "refused: {}", rules.reason_name(why).unwrap_or_default()),
            Operand::Deflected(_) => write!(f, "deflected"),
            Operand::Window(window) => write!(f, "window {window}"),
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
