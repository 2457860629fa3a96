//! What a tick full of reactions holds in memory. Alone in its process, since it counts every byte.

use hammerstone::Fixed;
use hammerstone::flow::{Dealing, Group, Reaction, Rule, Target};
use hammerstone::prelude::*;
use stats_alloc::{INSTRUMENTED_SYSTEM, Region, StatsAlloc};

#[global_allocator]
static MEMORY: &StatsAlloc<std::alloc::System> = &INSTRUMENTED_SYSTEM;

/// Three hundred combatants, each of whose wounds damages all of them, at the limits that hold unless said.
#[test]
fn a_storm_of_reactions_stays_below_fifty_megabytes() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let team = b.team("masons");
    let tide = b.reason("tide");
    let all = Target::Each(Group::team(team));
    b.rule(Rule::on("surge", "health.changed").does(Reaction::Damage(all, Dealing::of(crush, Fixed::ONE))));
    let mason = b.template(Template::new("mason", team, 1_000_000_000));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let region = Region::new(MEMORY);
    let all: Vec<CombatantId> = (0..300).map(|_| fight.orders().spawn(mason, Pose::IDENTITY)).collect();
    fight.tick().unwrap();
    for _ in 0..3 {
        for &who in &all {
            fight.orders().damage(who, crush, Fixed::ONE, tide);
        }
        assert!(fight.tick().unwrap().facts > 32_768);
        let memory = region.change();
        let held = memory.bytes_allocated - memory.bytes_deallocated;
        assert!(held < 50_000_000, "{held} bytes");
    }
}
