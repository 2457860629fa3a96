//! Whether facts of two runs say the same.

use super::{Event, Fact, Facts, FieldInfo, FieldValue, HostValue, Tag};

impl Facts<'_> {
    /// Whether a fact of this tick says the same as a fact of a tick of another run: all fields that say how it went, and what they name in the
    /// tables of their ticks. Which thing it is about is told by the [keys](Facts::keys) of both.
    pub fn says_the_same(&self, fact: &Fact, other: &Facts<'_>, other_fact: &Fact) -> bool {
        self.agrees((fact, other, other_fact), |info| info.is(Tag::Content))
    }

    /// As [`says_the_same`](Self::says_the_same), and names the same ids, but for the running numbers of the encounter, which other facts
    /// move on.
    pub(crate) fn names_and_says(&self, fact: &Fact, other: &Facts<'_>, other_fact: &Fact) -> bool {
        self.agrees((fact, other, other_fact), |info| !matches!(info.name, "hit" | "blow" | "hold" | "order"))
    }

    fn agrees(
        &self,
        (fact, other, other_fact): (&Fact, &Facts<'_>, &Fact),
        asks: impl Fn(&FieldInfo) -> bool,
    ) -> bool {
        if fact.event.topic() != other_fact.event.topic() {
            return false;
        }
        let both = fields_of(&fact.event).into_iter().zip(fields_of(&other_fact.event));
        both.into_iter().all(|fields| match fields {
            (Some((info, a)), Some((of_other, b))) => {
                info.name == of_other.name && (!asks(info) || same_field((a, self), (b, other)))
            }
            (a, b) => a.is_none() && b.is_none(),
        })
    }
}

/// The fields of an event; no fact has more than 24.
type Fields = [Option<(&'static FieldInfo, FieldValue)>; 24];

fn fields_of(event: &Event) -> Fields {
    let mut fields = [None; 24];
    let mut rest = fields.iter_mut();
    event.visit(|info, value| {
        if let Some(field) = rest.next() {
            *field = Some((info, value));
        }
    });
    fields
}

fn same_field((a, of_a): (FieldValue, &Facts<'_>), (b, of_b): (FieldValue, &Facts<'_>)) -> bool {
    match (a, b) {
        (FieldValue::Ledger(a), FieldValue::Ledger(b)) => of_a.ledger_of(a) == of_b.ledger_of(b),
        (FieldValue::Assists(a), FieldValue::Assists(b)) => of_a.assists_of(a) == of_b.assists_of(b),
        (FieldValue::Values(a), FieldValue::Values(b)) => of_a.values_of(a) == of_b.values_of(b),
        (FieldValue::Chain(a), FieldValue::Chain(b)) => of_a.chain_of(a) == of_b.chain_of(b),
        (FieldValue::Host(a), FieldValue::Host(b)) => {
            a.into_iter().zip(b).all(|(a, b)| same_value((a, of_a), (b, of_b)))
        }
        (FieldValue::Text(a), FieldValue::Text(b)) => of_a.text_of(a) == of_b.text_of(b),
        _ => a == b,
    }
}

fn same_value((a, of_a): (HostValue, &Facts<'_>), (b, of_b): (HostValue, &Facts<'_>)) -> bool {
    match (a, b) {
        (HostValue::Text(a), HostValue::Text(b)) => of_a.text_of(a) == of_b.text_of(b),
        _ => a == b,
    }
}

#[cfg(test)]
mod tests {
    use super::super::TOPICS;

    #[test]
    fn no_fact_has_more_fields_than_are_compared() {
        assert!(TOPICS.iter().all(|topic| topic.fields.len() <= 24));
    }
}
