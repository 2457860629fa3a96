//! Orders about subscriptions and the host's own facts: why they would be refused.

use super::{in_ruleset, reserved, standing};
use crate::event::HostValue;
use crate::geometry::in_bounds;
use crate::orders::Order;
use crate::ruleset::Rules;
use crate::state::State;
use crate::terms::Topical;
use crate::terms::{Definition, Refusal};

pub(super) fn refusal(rules: &Rules, state: &State, order: &Order) -> Result<(), Refusal> {
    match *order {
        Order::Subscribe { listen, .. } => {
            match listen.topical {
                Topical::To(topic) => in_ruleset(Definition::Topic, topic.index(), rules.topics.count())?,
                Topical::Under(family) if rules.topics.members(family).is_empty() => {
                    return Err(Refusal::NotInRuleset(Definition::Family));
                }
                Topical::Under(_) | Topical::All => {}
            }
            if let Some(team) = listen.team {
                in_ruleset(Definition::Team, team.index(), rules.teams.len())?;
            }
            if let Some(filter) = listen.filter {
                in_ruleset(Definition::Filter, filter.index(), rules.filters.len())?;
            }
            listen.owner().map_or(Ok(()), |owner| standing(state, owner))?;
            reserved(state, order)
        }
        // What is not there, or belongs to another ruleset, ends nothing.
        Order::Unsubscribe { .. } | Order::Pause { .. } | Order::Resume { .. } => Ok(()),
        Order::Publish { topic, values } => {
            in_ruleset(Definition::Topic, topic.index(), rules.host_topics.len())?;
            let fields = &rules.host_topics[topic.index()].fields;
            for (i, value) in values.iter().enumerate() {
                let sort = fields.get(i).map(|(_, sort)| *sort);
                let fits = value.sort().is_none_or(|found| Some(found) == sort);
                if !fits {
                    return Err(Refusal::WrongValue(i + 1));
                }
                if matches!(value, HostValue::Name(name) if name.index() >= rules.words.len()) {
                    return Err(Refusal::WrongValue(i + 1));
                }
                if matches!(value, HostValue::Text(text) if text.of(&state.given_text).is_none()) {
                    return Err(Refusal::WrongValue(i + 1));
                }
                if let HostValue::At(at) = value
                    && !in_bounds(at)
                {
                    return Err(Refusal::NotFinite);
                }
            }
            Ok(())
        }
        _ => Ok(()),
    }
}
