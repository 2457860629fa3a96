//! Hosts of one's own: they borrow, they wrap others, and a tick asks them what it asks closures.

use hammerstone::Fixed;
use hammerstone::amount::Step;
use hammerstone::event::CombatantDied;
use hammerstone::event::{Delivery, Event, Gate, Listener, Operand};
use hammerstone::hooks::{DeathAttempt, HitContext, HookSort, StepCall, Terms, Verdict};
use hammerstone::ids::{HookId, OwnStepId, ReasonId};
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;
use proptest::prelude::*;
use testkit::{build, cases, facts_hash, fights, play_ticking, play_under};

/// How often each method was called.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
struct Calls {
    heard: u64,
    watched: u64,
    intercepts: u64,
    deaths: u64,
    steps: u64,
}

/// A host around another, as a recorder is; it borrows both the other and its own account.
struct Counting<'a, H> {
    inner: H,
    calls: &'a mut Calls,
}

impl<H: Host> Host for Counting<'_, H> {
    fn has_hooks(&self) -> bool {
        self.inner.has_hooks()
    }

    fn hook(&self, hook: HookId) -> Option<HookSort> {
        self.inner.hook(hook)
    }

    fn any_watches(&self) -> bool {
        self.inner.any_watches()
    }

    fn takes(&self, hook: HookId) -> Option<&'static str> {
        self.inner.takes(hook)
    }

    fn hear(&mut self, hook: HookId, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        self.calls.heard += 1;
        self.inner.hear(hook, heard, orders);
    }

    fn watch(&mut self, hook: HookId, heard: &Heard<'_>) {
        self.calls.watched += 1;
        self.inner.watch(hook, heard);
    }

    fn intercept(&mut self, attempt: &HitContext<'_>, terms: &mut Terms<'_>) -> Verdict {
        self.calls.intercepts += 1;
        self.inner.intercept(attempt, terms)
    }

    fn prevent_death(&mut self, attempt: &DeathAttempt<'_>) -> Option<(HookId, i64)> {
        self.calls.deaths += 1;
        self.inner.prevent_death(attempt)
    }

    fn may_prevent_death(&self, attempt: &DeathAttempt<'_>) -> Option<HookId> {
        self.inner.may_prevent_death(attempt)
    }

    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        self.calls.steps += 1;
        self.inner.own_step(step, call)
    }
}

proptest! {
    #![proptest_config(cases(80))]

    /// A fight whose host is wrapped is the same fight, and every delivery to a hook was one call.
    #[test]
    fn a_wrapped_host_changes_nothing(fight in fights()) {
        let rules = build(&fight.sheet);
        let mut plain = Vec::new();
        play_under(
            &rules,
            &fight,
            |_| (),
            |encounter| plain.push((facts_hash(&encounter.facts()), encounter.checksum())),
        );
        let (mut wrapped, mut calls, mut delivered) = (Vec::new(), Calls::default(), 0);
        let keep = |encounter: &mut Encounter| encounter.keep_deliveries(true);
        play_ticking(&rules, &fight, keep, |encounter, hooks, world| {
            let mut host = Counting { inner: hooks.with(world), calls: &mut calls };
            encounter.tick_for(&mut host).expect("a tick");
            encounter.confirm_for(&mut host);
            let facts = encounter.facts();
            let to_hooks = |delivery: &&Delivery| matches!(delivery.listener, Listener::Hook(_));
            delivered += facts.deliveries.iter().filter(to_hooks).count() as u64;
            wrapped.push((facts_hash(&facts), encounter.checksum()));
        });
        prop_assert_eq!(wrapped, plain);
        prop_assert_eq!(calls.heard + calls.watched, delivered);
    }
}

/// A small yard: a mason with a maul, a hound in its reach, and a step of the host's own.
struct Yard {
    fight: Encounter,
    mason: CombatantId,
    hound: CombatantId,
    maul: AttackId,
    tide: ReasonId,
}

fn yard() -> Yard {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, hounds) = (b.team("masons"), b.team("hounds"));
    let tide = b.reason("high tide");
    let own = b.own_step("spray");
    let mut steps = Step::ALL.to_vec();
    steps.insert(1, Step::Own(own));
    b.steps(&steps);
    let ball = Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.5 };
    let maul = b.attack(Attack::melee("maul").timeline(0, 1, 0).damage(crush, 10, 10).hitbox(ball));
    let mason = b.template(Template::new("mason", masons, 40).part(Part::new("trunk", ball)));
    let hound = b.template(Template::new("hound", hounds, 15).part(Part::new("trunk", ball)));
    let mut fight = Encounter::new(&b.build().expect("a sound ruleset"), 1);
    let mason = fight.orders().spawn(mason, Pose::IDENTITY);
    let hound = fight.orders().spawn(hound, Pose::at([0.4, 0.0, 0.0]));
    Yard { fight, mason, hound, maul, tide }
}

const DEATHS: HookId = HookId::numbered(3);
const PARRY: HookId = HookId::numbered(9);
const NURSE: HookId = HookId::numbered(12);

/// A host with a lifetime that answers by itself.
struct Quarry<'a> {
    /// Who has died.
    died: &'a mut Vec<CombatantId>,
    /// Whether blows are refused.
    refuses: Option<ReasonId>,
    /// How many deaths of one combatant in one life are prevented.
    nurses: u32,
    /// What each amount is multiplied by.
    spray: Fixed,
}

impl Host for Quarry<'_> {
    fn hook(&self, hook: HookId) -> Option<HookSort> {
        (hook == DEATHS).then_some(HookSort::Reacts)
    }

    fn takes(&self, _hook: HookId) -> Option<&'static str> {
        Some("combatant.died")
    }

    fn hear(&mut self, hook: HookId, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        assert_eq!(hook, DEATHS);
        if let Event::CombatantDied(CombatantDied { subject, .. }) = *heard.event {
            self.died.push(subject);
            orders.remove(subject);
        }
    }

    fn intercept(&mut self, _attempt: &HitContext<'_>, terms: &mut Terms<'_>) -> Verdict {
        terms.by(PARRY);
        self.refuses.map_or(Verdict::Proceed, Verdict::Refuse)
    }

    fn prevent_death(&mut self, attempt: &DeathAttempt<'_>) -> Option<(HookId, i64)> {
        (attempt.prevented(NURSE) < self.nurses).then_some((NURSE, 0))
    }

    fn own_step(&mut self, _step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        Some(call.amount * self.spray)
    }
}

/// Plays blow after blow until the hound has died or six have been struck; gives what died and the health after each blow.
fn struck(refuses: bool, nurses: u32, spray: i64) -> (Vec<CombatantId>, Vec<Option<i64>>, CombatantId) {
    let Yard { mut fight, mason, hound, maul, tide } = yard();
    fight.orders().subscribe(DEATHS, Listen::to(topic::COMBATANT_DIED));
    let mut died = Vec::new();
    let refuses = refuses.then_some(tide);
    let mut host = Quarry { died: &mut died, refuses, nurses, spray: Fixed::whole(spray) };
    let mut health = Vec::new();
    for _ in 0..6 {
        fight.orders().start(mason, maul);
        fight.tick_for(&mut host).expect("a tick");
        health.push(fight.view().health(hound).map(|(points, _)| points));
    }
    (died, health, hound)
}

#[test]
fn a_host_of_ones_own_answers_everything() {
    let (died, health, hound) = struck(false, 0, 1);
    assert_eq!((died, &health[..3]), (vec![hound], &[Some(5), None, None][..]));
    let (died, health, _) = struck(true, 0, 1);
    assert_eq!((died, health), (vec![], vec![Some(15); 6]));
    // A prevention that says less than 1 leaves 1, and it is counted by life.
    let (died, health, hound) = struck(false, 2, 1);
    assert_eq!((died, &health[..5]), (vec![hound], &[Some(5), Some(1), Some(1), None, None][..]));
    let (died, health, hound) = struck(false, 0, 2);
    assert_eq!((died, health[0]), (vec![hound], None));
}

#[test]
fn the_hook_that_decided_is_named() {
    let Yard { mut fight, mason, maul, tide, .. } = yard();
    fight.orders().start(mason, maul);
    let mut died = Vec::new();
    let mut host = Quarry { died: &mut died, refuses: Some(tide), nurses: 0, spray: Fixed::ONE };
    fight.tick_for(&mut host).expect("a tick");
    let found = fight.facts().events().find_map(|event| match event {
        Event::HitRefused(refused) => Some((refused.gate, refused.found)),
        _ => None,
    });
    assert_eq!(found, Some((Gate::Intercepted, Operand::Refused(PARRY, tide))));
}

/// A subscription to a hook that the host does not have, or to facts that it does not take, is refused; and a host without hooks cannot
/// run what has subscribed.
#[test]
fn subscriptions_are_held_against_the_host() {
    let refusals = |fight: &Encounter| -> Vec<Refusal> {
        let refused = |event: &Event| match event {
            Event::OrderRefused(refused) => Some(refused.why),
            _ => None,
        };
        fight.facts().events().filter_map(refused).collect()
    };
    let mut fight = yard().fight;
    fight.orders().subscribe(PARRY, Listen::to(topic::COMBATANT_DIED));
    fight.orders().subscribe(DEATHS, Listen::to(topic::HIT_LANDED));
    fight.orders().subscribe(DEATHS, Listen::to(topic::COMBATANT_DIED));
    let mut died = Vec::new();
    let mut host = Quarry { died: &mut died, refuses: None, nurses: 0, spray: Fixed::ONE };
    fight.tick_for(&mut host).expect("a tick");
    assert_eq!(refusals(&fight), [Refusal::NoSuchHook, Refusal::OtherPayload]);
    assert_eq!(fight.tick(), Err(TickError::UnknownHook { hook: DEATHS.index() }));
    assert!(fight.tick_for(&mut host).is_ok());
}
