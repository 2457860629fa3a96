//! What an encounter holds in memory. Alone in its process, since it counts every piece.

use stats_alloc::{INSTRUMENTED_SYSTEM, StatsAlloc};
use std::alloc::System;
use testkit::busy;

#[global_allocator]
static ALLOCATIONS: &StatsAlloc<System> = &INSTRUMENTED_SYSTEM;

/// Pieces and bytes of memory that are held now.
fn live() -> (usize, isize) {
    let stats = ALLOCATIONS.stats();
    let bytes = stats.bytes_allocated as isize - stats.bytes_deallocated as isize;
    (stats.allocations - stats.deallocations, bytes)
}

#[test]
fn a_thousand_resets_hold_no_more_memory_than_one() {
    let (rules, hooks, mut fight) = busy();
    let maul = rules.find_attack("maul").unwrap();
    let mut calls = 0;
    let mut after_ten = None;
    for round in 0..1_000 {
        for tick in 0..30 {
            if tick % 8 == 3 {
                let mason = fight.view().combatants().next().unwrap();
                fight.orders().start(mason, maul);
            }
            fight.tick_with(&hooks, &mut calls).unwrap();
        }
        fight.orders().reset();
        fight.tick_with(&hooks, &mut calls).unwrap();
        if round == 9 {
            after_ten = Some(live());
        }
    }
    assert_eq!(Some(live()), after_ten, "pieces and bytes of memory that are held");
}
