//! A host of one's own: a type of the game that borrows what it needs for a tick, and another that is wrapped around it.
//!
//! Run it with `cargo run -p hammerstone --example own_host`.

use hammerstone::event::{Event, HitLanded};
use hammerstone::hooks::{DeathAttempt, HitContext, HookSort, Terms, Verdict};
use hammerstone::ids::{HookId, ReasonId};
use hammerstone::prelude::*;

/// What the game holds, and lends for a tick.
struct Game<'a> {
    /// Who is standing in a doorway, where no blow reaches.
    in_doorways: &'a [CombatantId],
    /// Who may not die in this scene.
    protected: CombatantId,
    reason: ReasonId,
    sounds: &'a mut Vec<String>,
}

const SOUNDS: HookId = HookId::numbered(0);
const DOORWAYS: HookId = HookId::numbered(1);
const SCENE: HookId = HookId::numbered(2);

impl Host for Game<'_> {
    fn hook(&self, hook: HookId) -> Option<HookSort> {
        (hook == SOUNDS).then_some(HookSort::Reacts)
    }

    fn hear(&mut self, _hook: HookId, heard: &Heard<'_>, _orders: &mut Orders<'_>) {
        if let Event::HitLanded(HitLanded { hit, .. }) = heard.fact.event {
            self.sounds.push(format!("thud {}", hit));
        }
    }

    fn intercept(&mut self, attempt: &HitContext<'_>, terms: &mut Terms<'_>) -> Verdict {
        terms.by(DOORWAYS);
        if self.in_doorways.contains(&attempt.target) {
            Verdict::Refuse(self.reason)
        } else {
            Verdict::Proceed
        }
    }

    fn prevent_death(&mut self, attempt: &DeathAttempt<'_>) -> Option<(HookId, i64)> {
        (attempt.target == self.protected).then_some((SCENE, 1))
    }
}

/// Wraps any host and counts what it is asked, as a recorder does.
struct Counted<H> {
    inner: H,
    asked: u32,
}

impl<H: Host> Host for Counted<H> {
    fn hook(&self, hook: HookId) -> Option<HookSort> {
        self.inner.hook(hook)
    }

    fn hear(&mut self, hook: HookId, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        self.inner.hear(hook, heard, orders);
    }

    fn intercept(&mut self, attempt: &HitContext<'_>, terms: &mut Terms<'_>) -> Verdict {
        self.asked += 1;
        self.inner.intercept(attempt, terms)
    }

    fn prevent_death(&mut self, attempt: &DeathAttempt<'_>) -> Option<(HookId, i64)> {
        self.asked += 1;
        self.inner.prevent_death(attempt)
    }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 100).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 10).part(trunk));
    let maul = b.attack(
        Attack::melee("maul")
            .timeline(2, 4, 2)
            .damage(crush, 40, 40)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 1.0 }),
    );
    let reason = b.reason("doorway");
    let rules = b.build()?;

    let mut fight = Encounter::new(&rules, 7);
    let mut orders = fight.orders();
    let odo = orders.spawn(mason, Pose::IDENTITY);
    let [open, sheltered, leader] = [-0.8, 0.0, 0.8].map(|x| orders.spawn(hound, Pose::at([x, 0.0, 1.0])));
    orders.subscribe(SOUNDS, Listen::to(topic::HIT_LANDED));
    orders.start(odo, maul);

    let (mut sounds, mut asked) = (Vec::new(), 0);
    for _ in 0..10 {
        // Lent for this tick only: the game goes on using what it owns in between.
        let game = Game { in_doorways: &[sheltered], protected: leader, reason, sounds: &mut sounds };
        let mut host = Counted { inner: game, asked: 0 };
        fight.tick_for(&mut host)?;
        asked += host.asked;
    }
    let health = [open, sheltered, leader].map(|who| fight.view().health(who).map(|(points, _)| points));
    println!("health {health:?}, heard {sounds:?}, asked {asked} times");
    assert_eq!(health, [Some(0), Some(10), Some(1)]);
    assert_eq!(sounds.len(), 2);
    Ok(())
}
