//! What gates wanted and found that let a hit pass.

use hammerstone::event::{Event, Gate, GatePassed, Operand, SwingEnd};
use hammerstone::event::{HitLanded, HitRefused};
use hammerstone::prelude::*;
use hammerstone::team::{Relation, Relations};
use proptest::prelude::*;
use testkit::{build, cases, facts_hash, fights, play_under};

proptest! {
    #![proptest_config(cases(100))]

    /// Each hit has its gates, in their order, and each of them passes; keeping them changes no fact and no byte of the state.
    #[test]
    fn each_hit_has_its_gates(fight in fights()) {
        let rules = build(&fight.sheet);
        let run = |keep: bool| {
            let (mut hashes, mut hits) = (Vec::new(), 0);
            play_under(&rules, &fight, |encounter| encounter.keep_gates(keep), |encounter| {
                let facts = encounter.facts();
                hashes.push((facts_hash(&facts), encounter.checksum()));
                for fact in facts.facts {
                    let gates = facts.gates_of(fact.seq);
                    let Event::HitLanded(HitLanded { attack, window, .. }) = fact.event else {
                        assert!(gates.is_empty(), "only hits have gates");
                        continue;
                    };
                    hits += 1;
                    assert_eq!(gates.is_empty(), !keep);
                    if keep {
                        assert!(gates.is_sorted_by_key(|gate| gate.gate));
                        assert_eq!(gates[0].gate, Gate::OwnBody);
                        assert_eq!(gates[gates.len() - 1].gate, Gate::Intercepted);
                        check(&rules.attacks()[attack.index()], window, gates);
                    }
                }
                assert!(keep || facts.gates.is_empty());
            });
            (hashes, hits)
        };
        prop_assert_eq!(run(true), run(false));
    }
}

/// Each gate found what it wanted.
fn check(attack: &Attack, window: u16, gates: &[GatePassed]) {
    for &GatePassed { gate, wanted, found, .. } in gates {
        let passes = match (wanted, found) {
            (Operand::OpenWindow, Operand::Window(open)) => open == window && open > 0,
            (Operand::Layers(layers), Operand::Layer(layer)) => layers >> layer.index() & 1 == 1,
            (Operand::Relations(relations), Operand::Relation(relation)) => {
                relations.has(relation) && attack.strikes_relation(relation)
            }
            (Operand::AllTags(wanted), Operand::Tags(found)) => found & wanted == wanted,
            (Operand::NoTags(wanted), Operand::Tags(found)) => found & wanted == 0,
            (Operand::Side(_, least), Operand::Cosine(found)) => found >= least,
            (Operand::Ticks(least), Operand::Ticks(found)) => found >= least,
            (Operand::Ticks(_), Operand::Turns(turns)) => turns == 0,
            (Operand::Targets(most), Operand::Targets(found)) => found < most,
            (Operand::Running, Operand::SwingEnded(why)) => why == SwingEnd::Died,
            (wanted, found) => wanted == found,
        };
        assert!(passes, "{} let a hit pass: wanted {wanted:?}, found {found:?}", gate.name());
    }
}

/// A refusal names the first gate that did not find what it wanted: the same gate finds it once that is fixed.
#[test]
fn the_gate_that_refused_passes_once_it_is_mended() {
    let hit = |strikes: Relations| {
        let mut b = Ruleset::builder(60);
        let crush = b.damage_type("crush");
        let (masons, hounds) = (b.team("masons"), b.team("hounds"));
        b.relate(masons, hounds, Relation::Ally);
        let ball = Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.5 };
        let maul = b.attack(
            Attack::melee("maul").timeline(0, 2, 0).damage(crush, 1, 1).hitbox(ball).strikes(strikes),
        );
        let mason = b.template(Template::new("mason", masons, 40).part(Part::new("trunk", ball)));
        let hound = b.template(Template::new("hound", hounds, 40).part(Part::new("trunk", ball)));
        let mut fight = Encounter::new(&b.build().expect("a sound ruleset"), 1);
        fight.keep_gates(true);
        let odo = fight.orders().spawn(mason, Pose::IDENTITY);
        fight.orders().spawn(hound, Pose::at([0.4, 0.0, 0.0]));
        fight.orders().start(odo, maul);
        fight.tick().expect("a tick");
        let facts = fight.facts();
        let refused = facts.events().find_map(|event| match *event {
            Event::HitRefused(HitRefused { gate, wanted, found, .. }) => Some((gate, wanted, found)),
            _ => None,
        });
        let passed =
            facts.gates.iter().find(|gate| gate.gate == Gate::Team).map(|gate| (gate.wanted, gate.found));
        (refused, passed)
    };
    let found = Operand::Relation(Relation::Ally);
    let foes = Operand::Relations(Relations::FOES);
    assert_eq!(hit(Relations::FOES), (Some((Gate::Team, foes, found)), None));
    let all = Operand::Relations(Relations::ANY);
    assert_eq!(hit(Relations::ANY), (None, Some((all, found))));
}
