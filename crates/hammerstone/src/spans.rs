//! What a tick tells to `tracing`, where the feature is on: a span for the tick with what it had to do, one for each stage, and an event for
//! each refused order and each hit. Where it is off, nothing of this is there.

#[cfg(feature = "tracing")]
pub(crate) use on::{begin_stage, begin_tick, end_tick};

#[cfg(not(feature = "tracing"))]
pub(crate) use off::{begin_stage, begin_tick, end_tick};

#[cfg(feature = "tracing")]
mod on {
    use tracing::field::Empty;
    use tracing::span::EnteredSpan;

    use crate::event::{Event, Facts, Stage};
    use crate::log::Load;
    use crate::ruleset::Ruleset;

    pub(crate) fn begin_tick(tick: u32) -> EnteredSpan {
        tracing::debug_span!(
            target: "hammerstone",
            "tick",
            tick,
            orders = Empty,
            refused_orders = Empty,
            swings = Empty,
            hitboxes = Empty,
            bodies = Empty,
            touches = Empty,
            attempts = Empty,
            statuses = Empty,
            facts = Empty,
            heard = Empty,
            passes = Empty,
        )
        .entered()
    }

    pub(crate) fn begin_stage(stage: Stage) -> EnteredSpan {
        tracing::trace_span!(target: "hammerstone", "stage", name = stage.name()).entered()
    }

    pub(crate) fn end_tick(span: &EnteredSpan, load: &Load, facts: &Facts<'_>, rules: &Ruleset) {
        let Load {
            orders,
            refused_orders,
            swings,
            hitboxes,
            bodies,
            touches,
            attempts,
            statuses,
            facts: count,
            heard,
            passes,
        } = *load;
        let counts = [
            ("orders", orders),
            ("refused_orders", refused_orders),
            ("swings", swings),
            ("hitboxes", hitboxes),
            ("bodies", bodies),
            ("touches", touches),
            ("attempts", attempts),
            ("statuses", statuses),
            ("facts", count),
            ("heard", heard),
            ("passes", passes),
        ];
        counts.into_iter().for_each(|(name, count)| _ = span.record(name, count));
        if !tracing::enabled!(target: "hammerstone", tracing::Level::DEBUG) {
            return;
        }
        for event in facts.events() {
            match event {
                Event::OrderRefused(refused) => tracing::debug!(
                    target: "hammerstone",
                    order = refused.kind.name(),
                    number = refused.order.number(),
                    why = %refused.why,
                    "order refused"
                ),
                Event::HitLanded(hit) => tracing::debug!(
                    target: "hammerstone",
                    swing = hit.swing.number(),
                    attack = rules.attack_name(hit.attack).unwrap_or_default(),
                    target_slot = hit.target.slot(),
                    part = hit.part,
                    "hit"
                ),
                _ => {}
            }
        }
    }
}

#[cfg(not(feature = "tracing"))]
mod off {
    use crate::event::{Facts, Stage};
    use crate::log::Load;
    use crate::ruleset::Ruleset;

    /// No span.
    pub(crate) struct NoSpan;

    pub(crate) fn begin_tick(_tick: u32) -> NoSpan {
        NoSpan
    }

    pub(crate) fn begin_stage(_stage: Stage) -> NoSpan {
        NoSpan
    }

    pub(crate) fn end_tick(_span: &NoSpan, _load: &Load, _facts: &Facts<'_>, _rules: &Ruleset) {}
}
