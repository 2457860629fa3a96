//! What a tick tells to `tracing`: spans of stages in their order, the counts of the summary, and each refused order and hit.
#![cfg(feature = "tracing")]

use std::fmt::Debug;
use std::sync::{Arc, Mutex};

use hammerstone::Load;
use hammerstone::event::Event;
use hammerstone::prelude::*;
use tracing::field::{Field, Visit};
use tracing::span::{Attributes, Id, Record};
use tracing::{Metadata, Subscriber};

/// Keeps everything that it is told, as text.
#[derive(Clone, Default)]
struct Kept(Arc<Mutex<Vec<String>>>);

struct Fields(String);

impl Visit for Fields {
    fn record_debug(&mut self, field: &Field, value: &dyn Debug) {
        self.0 += &format!(" {field}={value:?}");
    }
}

impl Kept {
    fn put(&self, head: &str, record: impl FnOnce(&mut Fields)) {
        let mut fields = Fields(head.to_owned());
        record(&mut fields);
        self.0.lock().unwrap().push(fields.0);
    }

    fn take(&self) -> Vec<String> {
        std::mem::take(&mut self.0.lock().unwrap())
    }
}

impl Subscriber for Kept {
    fn enabled(&self, metadata: &Metadata<'_>) -> bool {
        metadata.target() == "hammerstone"
    }

    fn new_span(&self, span: &Attributes<'_>) -> Id {
        self.put(&format!("begin {}", span.metadata().name()), |fields| span.record(fields));
        Id::from_u64(1)
    }

    fn record(&self, _: &Id, values: &Record<'_>) {
        self.put("record", |fields| values.record(fields));
    }

    fn event(&self, event: &tracing::Event<'_>) {
        self.put("event", |fields| event.record(fields));
    }

    fn record_follows_from(&self, _: &Id, _: &Id) {}

    fn enter(&self, _: &Id) {}

    fn exit(&self, _: &Id) {}
}

#[test]
fn a_tick_tells_its_stages_its_load_its_hits_and_refusals() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ball = Shape::Sphere { at: [0.0, 1.0, 0.5], radius: 0.6 };
    let maul = b.attack(Attack::melee("maul").timeline(0, 4, 0).damage(crush, 1, 1).hitbox(ball));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 40));
    let hound = b.template(Template::new("hound", beasts, 40).part(trunk));
    let rules = b.build().unwrap();
    let kept = Kept::default();
    tracing::subscriber::with_default(kept.clone(), || {
        let mut fight = Encounter::new(&rules, 1);
        let odo = fight.orders().spawn(mason, Pose::IDENTITY);
        fight.orders().spawn(hound, Pose::at([0.0, 0.0, 1.0]));
        for tick in 1..=6 {
            if tick > 1 {
                fight.orders().start(odo, maul);
            }
            let summary = fight.tick().unwrap();
            let told = kept.take();
            let begun: Vec<&str> = told.iter().filter_map(|line| line.strip_prefix("begin ")).collect();
            let stages = ["orders", "swings", "contacts", "blows", "statuses", "passes", "departures"];
            assert_eq!(begun[0], format!("tick tick={tick}"));
            let wanted = stages.map(|name| format!("stage name=\"{name}\""));
            assert_eq!(begun[1..], wanted);
            let Load { orders, refused_orders, touches, facts, .. } = summary.load;
            for (name, count) in [
                ("orders", orders),
                ("refused_orders", refused_orders),
                ("touches", touches),
                ("facts", facts),
            ] {
                assert!(told.contains(&format!("record {name}={count}")), "{name} {count}: {told:?}");
            }
            let of = |wanted: &str| {
                told.iter().filter(|line| line.starts_with(&format!("event message={wanted}"))).count()
            };
            let hits =
                { fight.facts().events() }.filter(|event| matches!(event, Event::HitLanded(_))).count();
            assert_eq!((of("hit"), of("order refused")), (hits, refused_orders as usize), "{told:?}");
            assert_eq!(
                (hits, refused_orders),
                match tick {
                    2 => (1, 0),
                    3..=5 => (0, 1),
                    _ => (hits, refused_orders),
                }
            );
        }
    });
    // A tick outside of it tells it nothing.
    Encounter::new(&rules, 1).tick().unwrap();
    assert!(kept.take().is_empty());
}
