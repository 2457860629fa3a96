// Written by a test of hammerstone-record; HAMMERSTONE_WRITE=1 writes it anew.

mod encounter_started {
    use super::World;
    use hammerstone::event::EncounterStarted;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `encounter.started`: The first tick begins, or the first after a reset.
    fn on_encounter_started(world: &mut World, fact: &EncounterStarted, heard: &Heard<'_>, orders: &mut Orders<'_>) {
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_encounter_started(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("encounter-started", on_encounter_started);
        fight.orders().subscribe(hook, Listen::to(topic::ENCOUNTER_STARTED));
        hook
    }
}

mod encounter_adopted {
    use super::World;
    use hammerstone::event::EncounterAdopted;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `encounter.adopted`: The encounter goes on under a ruleset that was tuned. What follows from that comes next: swings that end, and changed maxima.
    fn on_encounter_adopted(world: &mut World, fact: &EncounterAdopted, heard: &Heard<'_>, orders: &mut Orders<'_>) {
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_encounter_adopted(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("encounter-adopted", on_encounter_adopted);
        fight.orders().subscribe(hook, Listen::to(topic::ENCOUNTER_ADOPTED));
        hook
    }
}

mod encounter_ended {
    use super::World;
    use hammerstone::event::EncounterEnded;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `encounter.ended`: The encounter is over. All that ran has ended before it.
    fn on_encounter_ended(world: &mut World, fact: &EncounterEnded, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // OutcomeId. How it ended.
        let outcome = fact.outcome;
        // CountsSoFar. Attempts, hits, and refusals by gate, since the start.
        let counts = fact.counts;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_encounter_ended(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("encounter-ended", on_encounter_ended);
        fight.orders().subscribe(hook, Listen::to(topic::ENCOUNTER_ENDED));
        hook
    }
}

mod encounter_cut {
    use super::World;
    use hammerstone::event::EncounterCut;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `encounter.cut`: Reactions at one place exceeded a limit and did not begin. It comes once a tick for each place, and no rule and no hook hears it.
    fn on_encounter_cut(world: &mut World, fact: &EncounterCut, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CutAt. The rule, hook, status or attack whose reactions were cut, and the topic or the occasion.
        let place = fact.place;
        // CutBy. The limit that cut them off.
        let limit = fact.limit;
        // u32. How many did not begin.
        let left_out = fact.left_out;
        // u16. How deep the first of them lay.
        let depth = fact.depth;
        // Range. What led to the first of them, the latest first.
        let chain = fact.chain;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_encounter_cut(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("encounter-cut", on_encounter_cut);
        fight.orders().subscribe(hook, Listen::to(topic::ENCOUNTER_CUT));
        hook
    }
}

mod order_refused {
    use super::World;
    use hammerstone::event::OrderRefused;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `order.refused`: An order was refused, and changed nothing.
    fn on_order_refused(world: &mut World, fact: &OrderRefused, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // OrderId. The number of the order.
        let order = fact.order;
        // OrderKind. Which order it was.
        let kind = fact.kind;
        // Option<AttackId>. The attack that would have started, if it was an order for that.
        let attack = fact.attack;
        // Option<CombatantId>. The combatant that the order is about.
        let subject = fact.subject;
        // Refusal. Why it was refused.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_order_refused(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("order-refused", on_order_refused);
        fight.orders().subscribe(hook, Listen::to(topic::ORDER_REFUSED));
        hook
    }
}

mod combatant_joined {
    use super::World;
    use hammerstone::event::CombatantJoined;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.joined`: A combatant joins.
    fn on_combatant_joined(world: &mut World, fact: &CombatantJoined, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who joins.
        let subject = fact.subject;
        // TemplateId. What it is made from.
        let template = fact.template;
        // TeamId. Its team.
        let team = fact.team;
        // u64. The tags of its template.
        let tags = fact.tags;
        // i64. Its health. (points)
        let health = fact.health;
        // i64. Its maximum of health. (points)
        let max = fact.max;
        // u32. Its life, from 1.
        let life = fact.life;
        // Pose. Where it stands.
        let pose = fact.pose;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_joined(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-joined", on_combatant_joined);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_JOINED));
        hook
    }
}

mod combatant_away {
    use super::World;
    use hammerstone::event::CombatantAway;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.away`: A combatant leaves for a time.
    fn on_combatant_away(world: &mut World, fact: &CombatantAway, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who leaves.
        let subject = fact.subject;
        // Why. The reason.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_away(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-away", on_combatant_away);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_AWAY));
        hook
    }
}

mod combatant_returned {
    use super::World;
    use hammerstone::event::CombatantReturned;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.returned`: A combatant stands again.
    fn on_combatant_returned(world: &mut World, fact: &CombatantReturned, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who returns.
        let subject = fact.subject;
        // i64. Its health. (points)
        let health = fact.health;
        // i64. Its maximum of health. (points)
        let max = fact.max;
        // u32. Its life, from 1.
        let life = fact.life;
        // Why. The reason: `ordered`; `died` where a life was spent; `lifted-up` where it was down, and stood all the time.
        let why = fact.why;
        // Pose. Where it stands.
        let pose = fact.pose;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_returned(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-returned", on_combatant_returned);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_RETURNED));
        hook
    }
}

mod combatant_removed {
    use super::World;
    use hammerstone::event::CombatantRemoved;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.removed`: A combatant leaves for good.
    fn on_combatant_removed(world: &mut World, fact: &CombatantRemoved, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who leaves.
        let subject = fact.subject;
        // Why. The reason.
        let why = fact.why;
        // Option<u64>. The label that the host gave it, if any.
        let label = fact.label;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_removed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-removed", on_combatant_removed);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_REMOVED));
        hook
    }
}

mod attack_started {
    use super::World;
    use hammerstone::event::AttackStarted;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `attack.started`: A swing begins.
    fn on_attack_started(world: &mut World, fact: &AttackStarted, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // Option<CombatantId>. The attacker; absent where the swing has none.
        let subject = fact.subject;
        // AttackId. The attack.
        let attack = fact.attack;
        // SwingId. The swing.
        let swing = fact.swing;
        // FormKind. The form of the attack.
        let form = fact.form;
        // Policy. How often it strikes a target; for an interval with its ticks.
        let policy = fact.policy;
        // Option<u16>. How many different targets it strikes at most.
        let max_targets = fact.max_targets;
        // bool. Whether it goes on when its attacker dies.
        let outlives = fact.outlives;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_attack_started(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("attack-started", on_attack_started);
        fight.orders().subscribe(hook, Listen::to(topic::ATTACK_STARTED));
        hook
    }
}

mod attack_opened {
    use super::World;
    use hammerstone::event::AttackOpened;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `attack.opened`: A window of a swing opens: from now on it can hit.
    fn on_attack_opened(world: &mut World, fact: &AttackOpened, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // Option<CombatantId>. The attacker.
        let subject = fact.subject;
        // AttackId. The attack.
        let attack = fact.attack;
        // SwingId. The swing.
        let swing = fact.swing;
        // u16. The window, from 1.
        let window = fact.window;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_attack_opened(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("attack-opened", on_attack_opened);
        fight.orders().subscribe(hook, Listen::to(topic::ATTACK_OPENED));
        hook
    }
}

mod attack_closed {
    use super::World;
    use hammerstone::event::AttackClosed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `attack.closed`: A window of a swing closes, also where it is cut short.
    fn on_attack_closed(world: &mut World, fact: &AttackClosed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // Option<CombatantId>. The attacker.
        let subject = fact.subject;
        // AttackId. The attack.
        let attack = fact.attack;
        // SwingId. The swing.
        let swing = fact.swing;
        // u16. The window, from 1.
        let window = fact.window;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_attack_closed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("attack-closed", on_attack_closed);
        fight.orders().subscribe(hook, Listen::to(topic::ATTACK_CLOSED));
        hook
    }
}

mod attack_chained {
    use super::World;
    use hammerstone::event::AttackChained;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `attack.chained`: A chain goes on: the next attack begins.
    fn on_attack_chained(world: &mut World, fact: &AttackChained, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. The attacker.
        let subject = fact.subject;
        // AttackId. The attack that begins.
        let attack = fact.attack;
        // SwingId. Its swing.
        let swing = fact.swing;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_attack_chained(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("attack-chained", on_attack_chained);
        fight.orders().subscribe(hook, Listen::to(topic::ATTACK_CHAINED));
        hook
    }
}

mod attack_lapsed {
    use super::World;
    use hammerstone::event::AttackLapsed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `attack.lapsed`: The input window of a chain closes without a press.
    fn on_attack_lapsed(world: &mut World, fact: &AttackLapsed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. The attacker.
        let subject = fact.subject;
        // AttackId. The attack that would have been next.
        let attack = fact.attack;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_attack_lapsed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("attack-lapsed", on_attack_lapsed);
        fight.orders().subscribe(hook, Listen::to(topic::ATTACK_LAPSED));
        hook
    }
}

mod attack_ended {
    use super::World;
    use hammerstone::event::AttackEnded;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `attack.ended`: A swing is over. Its contacts have parted before it.
    fn on_attack_ended(world: &mut World, fact: &AttackEnded, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // Option<CombatantId>. The attacker.
        let subject = fact.subject;
        // AttackId. The attack.
        let attack = fact.attack;
        // SwingId. The swing.
        let swing = fact.swing;
        // SwingEnd. The reason.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_attack_ended(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("attack-ended", on_attack_ended);
        fight.orders().subscribe(hook, Listen::to(topic::ATTACK_ENDED));
        hook
    }
}

mod projectile_stopped {
    use super::World;
    use hammerstone::event::ProjectileStopped;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `projectile.stopped`: A projectile meets something in its way: the level, an obstacle, or a wall that the host found. It ends there.
    fn on_projectile_stopped(world: &mut World, fact: &ProjectileStopped, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // SwingId. The swing.
        let swing = fact.swing;
        // AttackId. The attack.
        let attack = fact.attack;
        // Option<CombatantId>. The attacker.
        let attacker = fact.attacker;
        // u16. Which projectile of the swing, from 1.
        let body = fact.body;
        // Option<ObstacleId>. The obstacle that it meets.
        let obstacle = fact.obstacle;
        // Option<InLevel>. The shape of the level that it meets. Of a wall that the host found there is neither.
        let shape = fact.shape;
        // [f32; 3]. Where. (metres, in the world)
        let point = fact.point;
        // [f32; 3]. Out of what it meets. (of length 1, in the world)
        let normal = fact.normal;
        // f32. The time of impact. (0 to 1 of the tick)
        let toi = fact.toi;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_projectile_stopped(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("projectile-stopped", on_projectile_stopped);
        fight.orders().subscribe(hook, Listen::to(topic::PROJECTILE_STOPPED));
        hook
    }
}

mod contact_met {
    use super::World;
    use hammerstone::event::ContactMet;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `contact.met`: An open hitbox begins to touch a target, whatever the gates say.
    fn on_contact_met(world: &mut World, fact: &ContactMet, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ContactId. The contact.
        let contact = fact.contact;
        // SwingId. The swing.
        let swing = fact.swing;
        // AttackId. The attack.
        let attack = fact.attack;
        // u16. The attacker's hitbox; for attacks by touch, the part of the attacker. (from 1)
        let hitbox = fact.hitbox;
        // Option<CombatantId>. The attacker.
        let attacker = fact.attacker;
        // CombatantId. The target.
        let target = fact.target;
        // u16. The part that is touched.
        let part = fact.part;
        // [f32; 3]. Where. (metres, in the world)
        let point = fact.point;
        // [f32; 3]. Out of the target. (of length 1, in the world)
        let normal = fact.normal;
        // f32. The time of impact. (0 to 1 of the tick)
        let toi = fact.toi;
        // bool. Whether they touched as the tick began, and had not before: one of them was put there, or a window opened.
        let from_start = fact.from_start;
        // f32. How deep the hitbox is in the part as they meet, as far as the surfaces tell. (metres)
        let depth = fact.depth;
        // f32. How fast they close in where they touch; below zero where they move apart. (metres a second)
        let speed = fact.speed;
        // Moved. Which of the two moved in the tick.
        let moved = fact.moved;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_contact_met(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("contact-met", on_contact_met);
        fight.orders().subscribe(hook, Listen::to(topic::CONTACT_MET));
        hook
    }
}

mod contact_held {
    use super::World;
    use hammerstone::event::ContactHeld;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `contact.held`: A contact goes on. Only for attacks that ask for it (`tells-held`).
    fn on_contact_held(world: &mut World, fact: &ContactHeld, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ContactId. The contact.
        let contact = fact.contact;
        // SwingId. The swing.
        let swing = fact.swing;
        // AttackId. The attack.
        let attack = fact.attack;
        // u16. The attacker's hitbox; for attacks by touch, the part of the attacker. (from 1)
        let hitbox = fact.hitbox;
        // Option<CombatantId>. The attacker.
        let attacker = fact.attacker;
        // CombatantId. The target.
        let target = fact.target;
        // u16. The part that is touched.
        let part = fact.part;
        // [f32; 3]. Where. (metres, in the world)
        let point = fact.point;
        // [f32; 3]. Out of the target. (of length 1, in the world)
        let normal = fact.normal;
        // f32. How deep the hitbox is in the part, as far as the surfaces tell. (metres)
        let depth = fact.depth;
        // f32. How fast they close in where they touch; below zero where they move apart. (metres a second)
        let speed = fact.speed;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_contact_held(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("contact-held", on_contact_held);
        fight.orders().subscribe(hook, Listen::to(topic::CONTACT_HELD));
        hook
    }
}

mod contact_parted {
    use super::World;
    use hammerstone::event::ContactParted;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `contact.parted`: A contact is over.
    fn on_contact_parted(world: &mut World, fact: &ContactParted, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ContactId. The contact.
        let contact = fact.contact;
        // SwingId. The swing.
        let swing = fact.swing;
        // AttackId. The attack.
        let attack = fact.attack;
        // u16. The attacker's hitbox; for attacks by touch, the part of the attacker. (from 1)
        let hitbox = fact.hitbox;
        // Option<CombatantId>. The attacker.
        let attacker = fact.attacker;
        // CombatantId. The target.
        let target = fact.target;
        // u16. The part that was touched.
        let part = fact.part;
        // u32. How many ticks it lasted. (ticks)
        let lasted = fact.lasted;
        // Why. The reason.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_contact_parted(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("contact-parted", on_contact_parted);
        fight.orders().subscribe(hook, Listen::to(topic::CONTACT_PARTED));
        hook
    }
}

mod hit_landed {
    use super::World;
    use hammerstone::event::HitLanded;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `hit.landed`: A swing hits a target: all gates let it pass. Damage, statuses and reactions follow.
    fn on_hit_landed(world: &mut World, fact: &HitLanded, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // u64. The hit, from 1 in each epoch.
        let hit = fact.hit;
        // SwingId. The swing.
        let swing = fact.swing;
        // AttackId. The attack.
        let attack = fact.attack;
        // Option<CombatantId>. The attacker; absent where the swing has none.
        let attacker = fact.attacker;
        // CombatantId. The target.
        let target = fact.target;
        // u32. The life of the target, from 1.
        let life = fact.life;
        // u16. The part that is struck.
        let part = fact.part;
        // u16. The window, from 1.
        let window = fact.window;
        // Option<u16>. The group of hitboxes, where groups have struck lists of their own.
        let group = fact.group;
        // Option<u16>. The projectile, from 1. The feed has it where bodies have struck lists of their own.
        let body = fact.body;
        // [f32; 3]. Where. (metres, in the world)
        let point = fact.point;
        // [f32; 3]. Out of the target. (of length 1, in the world)
        let normal = fact.normal;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_hit_landed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("hit-landed", on_hit_landed);
        fight.orders().subscribe(hook, Listen::to(topic::HIT_LANDED));
        hook
    }
}

mod hit_refused {
    use super::World;
    use hammerstone::event::HitRefused;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `hit.refused`: A gate refuses a swing at a target: once for each swing, target and gate. All refusals are counted.
    fn on_hit_refused(world: &mut World, fact: &HitRefused, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // SwingId. The swing.
        let swing = fact.swing;
        // AttackId. The attack.
        let attack = fact.attack;
        // Option<CombatantId>. The attacker.
        let attacker = fact.attacker;
        // CombatantId. The target.
        let target = fact.target;
        // u16. The part that was touched.
        let part = fact.part;
        // Gate. The first gate that refused.
        let gate = fact.gate;
        // Operand. What the gate asks for.
        let wanted = fact.wanted;
        // Operand. What it found.
        let found = fact.found;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_hit_refused(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("hit-refused", on_hit_refused);
        fight.orders().subscribe(hook, Listen::to(topic::HIT_REFUSED));
        hook
    }
}

mod hit_clashed {
    use super::World;
    use hammerstone::event::HitClashed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `hit.clashed`: Two swings meet. The end of one or both follows, if they end.
    fn on_hit_clashed(world: &mut World, fact: &HitClashed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // SwingId. The swing.
        let swing = fact.swing;
        // AttackId. Its attack.
        let attack = fact.attack;
        // Option<CombatantId>. Its attacker.
        let attacker = fact.attacker;
        // SwingId. The other swing.
        let against = fact.against;
        // Option<CombatantId>. The attacker of the other swing.
        let target = fact.target;
        // [f32; 3]. Where. (metres, in the world)
        let point = fact.point;
        // f32. The time of impact. (0 to 1 of the tick)
        let toi = fact.toi;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_hit_clashed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("hit-clashed", on_hit_clashed);
        fight.orders().subscribe(hook, Listen::to(topic::HIT_CLASHED));
        hook
    }
}

mod hit_deflected {
    use super::World;
    use hammerstone::event::HitDeflected;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `hit.deflected`: An intercept turns a swing round. A projectile flies back from the next tick on.
    fn on_hit_deflected(world: &mut World, fact: &HitDeflected, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // SwingId. The swing.
        let swing = fact.swing;
        // AttackId. The attack.
        let attack = fact.attack;
        // Option<CombatantId>. The attacker.
        let attacker = fact.attacker;
        // CombatantId. Who deflects.
        let target = fact.target;
        // u16. The part that was touched.
        let part = fact.part;
        // Option<u16>. The projectile, from 1.
        let body = fact.body;
        // [f32; 3]. Where. (metres, in the world)
        let point = fact.point;
        // [f32; 3]. Out of the target. (of length 1, in the world)
        let normal = fact.normal;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_hit_deflected(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("hit-deflected", on_hit_deflected);
        fight.orders().subscribe(hook, Listen::to(topic::HIT_DEFLECTED));
        hook
    }
}

mod hit_pushed {
    use super::World;
    use hammerstone::event::HitPushed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `hit.pushed`: A hit pushes its target, for the host to act on.
    fn on_hit_pushed(world: &mut World, fact: &HitPushed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // u64. The hit.
        let hit = fact.hit;
        // AttackId. Its attack.
        let attack = fact.attack;
        // Option<CombatantId>. The attacker.
        let attacker = fact.attacker;
        // CombatantId. Who is pushed.
        let target = fact.target;
        // [f32; 3]. How far, over all its ticks. (metres, in the world)
        let impulse = fact.impulse;
        // u32. How long it takes. (ticks)
        let ticks = fact.ticks;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_hit_pushed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("hit-pushed", on_hit_pushed);
        fight.orders().subscribe(hook, Listen::to(topic::HIT_PUSHED));
        hook
    }
}

mod hit_staggered {
    use super::World;
    use hammerstone::event::HitStaggered;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `hit.staggered`: Enough stagger damage has gathered.
    fn on_hit_staggered(world: &mut World, fact: &HitStaggered, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // u64. The hit.
        let hit = fact.hit;
        // AttackId. Its attack.
        let attack = fact.attack;
        // Option<CombatantId>. The attacker.
        let attacker = fact.attacker;
        // CombatantId. Who staggers.
        let target = fact.target;
        // Fixed. How much had gathered.
        let gathered = fact.gathered;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_hit_staggered(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("hit-staggered", on_hit_staggered);
        fight.orders().subscribe(hook, Listen::to(topic::HIT_STAGGERED));
        hook
    }
}

mod hit_stopped {
    use super::World;
    use hammerstone::event::HitStopped;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `hit.stopped`: The clock of one side of a hit stands still: hit-stop, once for each side.
    fn on_hit_stopped(world: &mut World, fact: &HitStopped, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // u64. The hit.
        let hit = fact.hit;
        // AttackId. Its attack.
        let attack = fact.attack;
        // CombatantId. Whose clock stands.
        let subject = fact.subject;
        // Option<CombatantId>. The other side.
        let other = fact.other;
        // u32. How long. (ticks)
        let ticks = fact.ticks;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_hit_stopped(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("hit-stopped", on_hit_stopped);
        fight.orders().subscribe(hook, Listen::to(topic::HIT_STOPPED));
        hook
    }
}

mod heal_applied {
    use super::World;
    use hammerstone::event::HealApplied;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `heal.applied`: Healing, also where it goes beyond the maximum.
    fn on_heal_applied(world: &mut World, fact: &HealApplied, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // Option<CombatantId>. Who heals.
        let source = fact.source;
        // CombatantId. Who is healed.
        let target = fact.target;
        // Via. How it came about.
        let via = fact.via;
        // i64. What health gained. (points)
        let amount = fact.amount;
        // i64. What went beyond the maximum. (points)
        let excess = fact.excess;
        // Range. Its ledger.
        let ledger = fact.ledger;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_heal_applied(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("heal-applied", on_heal_applied);
        fight.orders().subscribe(hook, Listen::to(topic::HEAL_APPLIED));
        hook
    }
}

mod health_changed {
    use super::World;
    use hammerstone::event::HealthChanged;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `health.changed`: Health, or its maximum, changed.
    fn on_health_changed(world: &mut World, fact: &HealthChanged, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Whose.
        let subject = fact.subject;
        // i64. What it was. (points)
        let from = fact.from;
        // i64. What it is. (points)
        let to = fact.to;
        // i64. Its maximum. (points)
        let max = fact.max;
        // HealthChange. The reason.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_health_changed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("health-changed", on_health_changed);
        fight.orders().subscribe(hook, Listen::to(topic::HEALTH_CHANGED));
        hook
    }
}

mod shield_raised {
    use super::World;
    use hammerstone::event::ShieldRaised;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `shield.raised`: A shield gains points.
    fn on_shield_raised(world: &mut World, fact: &ShieldRaised, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // ShieldId. The shield.
        let shield = fact.shield;
        // i64. How many points more. (points)
        let amount = fact.amount;
        // i64. How many in all. (points)
        let left = fact.left;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_shield_raised(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("shield-raised", on_shield_raised);
        fight.orders().subscribe(hook, Listen::to(topic::SHIELD_RAISED));
        hook
    }
}

mod shield_absorbed {
    use super::World;
    use hammerstone::event::ShieldAbsorbed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `shield.absorbed`: A shield takes damage.
    fn on_shield_absorbed(world: &mut World, fact: &ShieldAbsorbed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // ShieldId. The shield.
        let shield = fact.shield;
        // i64. How many points it took. (points)
        let amount = fact.amount;
        // i64. How many are left. (points)
        let left = fact.left;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_shield_absorbed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("shield-absorbed", on_shield_absorbed);
        fight.orders().subscribe(hook, Listen::to(topic::SHIELD_ABSORBED));
        hook
    }
}

mod shield_broken {
    use super::World;
    use hammerstone::event::ShieldBroken;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `shield.broken`: A shield has no points left.
    fn on_shield_broken(world: &mut World, fact: &ShieldBroken, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // ShieldId. The shield.
        let shield = fact.shield;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_shield_broken(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("shield-broken", on_shield_broken);
        fight.orders().subscribe(hook, Listen::to(topic::SHIELD_BROKEN));
        hook
    }
}

mod shield_lapsed {
    use super::World;
    use hammerstone::event::ShieldLapsed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `shield.lapsed`: A shield ends with what brought it.
    fn on_shield_lapsed(world: &mut World, fact: &ShieldLapsed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // ShieldId. The shield.
        let shield = fact.shield;
        // i64. The points that went with it. (points)
        let amount = fact.amount;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_shield_lapsed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("shield-lapsed", on_shield_lapsed);
        fight.orders().subscribe(hook, Listen::to(topic::SHIELD_LAPSED));
        hook
    }
}

mod guard_broken {
    use super::World;
    use hammerstone::event::GuardBroken;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `guard.broken`: A guard has taken so much that it breaks.
    fn on_guard_broken(world: &mut World, fact: &GuardBroken, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // StatusId. The status that guards.
        let status = fact.status;
        // Fixed. How much it took.
        let amount = fact.amount;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_guard_broken(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("guard-broken", on_guard_broken);
        fight.orders().subscribe(hook, Listen::to(topic::GUARD_BROKEN));
        hook
    }
}

mod part_broken {
    use super::World;
    use hammerstone::event::PartBroken;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `part.broken`: A part loses its last points.
    fn on_part_broken(world: &mut World, fact: &PartBroken, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // u16. The part.
        let part = fact.part;
        // i64. What the last blow came to. (points)
        let amount = fact.amount;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_part_broken(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("part-broken", on_part_broken);
        fight.orders().subscribe(hook, Listen::to(topic::PART_BROKEN));
        hook
    }
}

mod status_applied {
    use super::World;
    use hammerstone::event::StatusApplied;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `status.applied`: A status begins.
    fn on_status_applied(world: &mut World, fact: &StatusApplied, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ApplicationId. The application.
        let application = fact.application;
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // Option<CombatantId>. Who applied it.
        let source = fact.source;
        // StatusId. The status.
        let status = fact.status;
        // Fixed. Its strength.
        let strength = fact.strength;
        // u16. How many times it counts.
        let stacks = fact.stacks;
        // Option<u32>. The tick of its end. (tick, from 1)
        let ends = fact.ends;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_status_applied(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("status-applied", on_status_applied);
        fight.orders().subscribe(hook, Listen::to(topic::STATUS_APPLIED));
        hook
    }
}

mod status_refreshed {
    use super::World;
    use hammerstone::event::StatusRefreshed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `status.refreshed`: A status that runs already lasts longer.
    fn on_status_refreshed(world: &mut World, fact: &StatusRefreshed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ApplicationId. The application.
        let application = fact.application;
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // StatusId. The status.
        let status = fact.status;
        // Fixed. Its strength.
        let strength = fact.strength;
        // u16. How many times it counts.
        let stacks = fact.stacks;
        // Option<u32>. The tick of its end. (tick, from 1)
        let ends = fact.ends;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_status_refreshed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("status-refreshed", on_status_refreshed);
        fight.orders().subscribe(hook, Listen::to(topic::STATUS_REFRESHED));
        hook
    }
}

mod status_stacked {
    use super::World;
    use hammerstone::event::StatusStacked;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `status.stacked`: A status that runs already counts once more.
    fn on_status_stacked(world: &mut World, fact: &StatusStacked, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ApplicationId. The application.
        let application = fact.application;
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // StatusId. The status.
        let status = fact.status;
        // Fixed. Its strength.
        let strength = fact.strength;
        // u16. How many times it counts.
        let stacks = fact.stacks;
        // Option<u32>. The tick of its end. (tick, from 1)
        let ends = fact.ends;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_status_stacked(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("status-stacked", on_status_stacked);
        fight.orders().subscribe(hook, Listen::to(topic::STATUS_STACKED));
        hook
    }
}

mod status_pulsed {
    use super::World;
    use hammerstone::event::StatusPulsed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `status.pulsed`: A status takes effect again, as it does every so many ticks.
    fn on_status_pulsed(world: &mut World, fact: &StatusPulsed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ApplicationId. The application.
        let application = fact.application;
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // StatusId. The status.
        let status = fact.status;
        // Fixed. Its strength.
        let strength = fact.strength;
        // u16. How many times it counts.
        let stacks = fact.stacks;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_status_pulsed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("status-pulsed", on_status_pulsed);
        fight.orders().subscribe(hook, Listen::to(topic::STATUS_PULSED));
        hook
    }
}

mod status_refused {
    use super::World;
    use hammerstone::event::StatusRefused;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `status.refused`: A status is not applied.
    fn on_status_refused(world: &mut World, fact: &StatusRefused, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. The combatant that would have had it.
        let subject = fact.subject;
        // Option<CombatantId>. Who applied it.
        let source = fact.source;
        // StatusId. The status.
        let status = fact.status;
        // Fixed. Its strength.
        let strength = fact.strength;
        // BarredBy. The reason.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_status_refused(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("status-refused", on_status_refused);
        fight.orders().subscribe(hook, Listen::to(topic::STATUS_REFUSED));
        hook
    }
}

mod status_suspended {
    use super::World;
    use hammerstone::event::StatusSuspended;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `status.suspended`: The bearer of a status that outlasts a life died or went away; the status waits for the return.
    fn on_status_suspended(world: &mut World, fact: &StatusSuspended, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ApplicationId. The application.
        let application = fact.application;
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // StatusId. The status.
        let status = fact.status;
        // Why. The reason.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_status_suspended(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("status-suspended", on_status_suspended);
        fight.orders().subscribe(hook, Listen::to(topic::STATUS_SUSPENDED));
        hook
    }
}

mod status_resumed {
    use super::World;
    use hammerstone::event::StatusResumed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `status.resumed`: The bearer has returned, and the status goes on.
    fn on_status_resumed(world: &mut World, fact: &StatusResumed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ApplicationId. The application.
        let application = fact.application;
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // StatusId. The status.
        let status = fact.status;
        // Option<u32>. The tick of its end. (tick, from 1)
        let ends = fact.ends;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_status_resumed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("status-resumed", on_status_resumed);
        fight.orders().subscribe(hook, Listen::to(topic::STATUS_RESUMED));
        hook
    }
}

mod status_expired {
    use super::World;
    use hammerstone::event::StatusExpired;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `status.expired`: The time of a status is up.
    fn on_status_expired(world: &mut World, fact: &StatusExpired, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ApplicationId. The application.
        let application = fact.application;
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // StatusId. The status.
        let status = fact.status;
        // Why. The reason: always `done`.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_status_expired(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("status-expired", on_status_expired);
        fight.orders().subscribe(hook, Listen::to(topic::STATUS_EXPIRED));
        hook
    }
}

mod status_lifted {
    use super::World;
    use hammerstone::event::StatusLifted;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `status.lifted`: A status ends before its time.
    fn on_status_lifted(world: &mut World, fact: &StatusLifted, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ApplicationId. The application.
        let application = fact.application;
        // CombatantId. Its bearer.
        let subject = fact.subject;
        // StatusId. The status.
        let status = fact.status;
        // Why. The reason.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_status_lifted(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("status-lifted", on_status_lifted);
        fight.orders().subscribe(hook, Listen::to(topic::STATUS_LIFTED));
        hook
    }
}

mod combatant_spared {
    use super::World;
    use hammerstone::event::CombatantSpared;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.spared`: A death is prevented.
    fn on_combatant_spared(world: &mut World, fact: &CombatantSpared, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who lives on.
        let subject = fact.subject;
        // Cause. What prevented it.
        let by = fact.by;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_spared(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-spared", on_combatant_spared);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_SPARED));
        hook
    }
}

mod combatant_died {
    use super::World;
    use hammerstone::event::CombatantDied;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.died`: A combatant dies. From now on it reacts to nothing, until it returns.
    fn on_combatant_died(world: &mut World, fact: &CombatantDied, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who dies.
        let subject = fact.subject;
        // TeamId. Its team.
        let team = fact.team;
        // u32. The life that ends, from 1.
        let life = fact.life;
        // Option<CombatantId>. Who killed it.
        let killer = fact.killer;
        // Option<CombatantId>. The root owner of the killer.
        let credit = fact.credit;
        // Via. How it came about.
        let via = fact.via;
        // Range. Who damaged it lately, beside the killer.
        let assists = fact.assists;
        // i64. What damage exceeded the health that was left. (points)
        let overkill = fact.overkill;
        // [f32; 3]. Where it died. (metres, in the world)
        let at = fact.at;
        // Option<u32>. How many lives are left, for those who have several.
        let lives = fact.lives;
        // Range. What was attached to it.
        let values = fact.values;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_died(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-died", on_combatant_died);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_DIED));
        hook
    }
}

mod encounter_round {
    use super::World;
    use hammerstone::event::EncounterRound;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `encounter.round`: A round begins.
    fn on_encounter_round(world: &mut World, fact: &EncounterRound, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // u32. The round, from 1.
        let round = fact.round;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_encounter_round(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("encounter-round", on_encounter_round);
        fight.orders().subscribe(hook, Listen::to(topic::ENCOUNTER_ROUND));
        hook
    }
}

mod encounter_wave {
    use super::World;
    use hammerstone::event::EncounterWave;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `encounter.wave`: A wave comes.
    fn on_encounter_wave(world: &mut World, fact: &EncounterWave, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // WaveId. The sequence of waves.
        let waves = fact.waves;
        // u32. Its wave, from 1.
        let wave = fact.wave;
        // u32. How many come.
        let count = fact.count;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_encounter_wave(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("encounter-wave", on_encounter_wave);
        fight.orders().subscribe(hook, Listen::to(topic::ENCOUNTER_WAVE));
        hook
    }
}

mod encounter_reset {
    use super::World;
    use hammerstone::event::EncounterReset;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `encounter.reset`: The encounter begins again: the next tick is the first.
    fn on_encounter_reset(world: &mut World, fact: &EncounterReset, heard: &Heard<'_>, orders: &mut Orders<'_>) {
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_encounter_reset(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("encounter-reset", on_encounter_reset);
        fight.orders().subscribe(hook, Listen::to(topic::ENCOUNTER_RESET));
        hook
    }
}

mod leader_lost {
    use super::World;
    use hammerstone::event::LeaderLost;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `leader.lost`: The leader of a follower died or was removed. It comes once, and the follower follows no one from then on.
    fn on_leader_lost(world: &mut World, fact: &LeaderLost, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. The follower.
        let subject = fact.subject;
        // CombatantId. The leader.
        let leader = fact.leader;
        // Why. The reason.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_leader_lost(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("leader-lost", on_leader_lost);
        fight.orders().subscribe(hook, Listen::to(topic::LEADER_LOST));
        hook
    }
}

mod health_crossed {
    use super::World;
    use hammerstone::event::HealthCrossed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `health.crossed`: Health crosses a threshold.
    fn on_health_crossed(world: &mut World, fact: &HealthCrossed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Whose.
        let subject = fact.subject;
        // ThresholdId. The threshold.
        let threshold = fact.threshold;
        // Crossing. The direction.
        let direction = fact.direction;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_health_crossed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("health-crossed", on_health_crossed);
        fight.orders().subscribe(hook, Listen::to(topic::HEALTH_CROSSED));
        hook
    }
}

mod gauge_changed {
    use super::World;
    use hammerstone::event::GaugeChanged;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `gauge.changed`: A gauge beside health changes.
    fn on_gauge_changed(world: &mut World, fact: &GaugeChanged, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Whose.
        let subject = fact.subject;
        // GaugeId. The gauge.
        let gauge = fact.gauge;
        // i64. What it held. (points)
        let from = fact.from;
        // i64. What it holds. (points)
        let to = fact.to;
        // i64. Its maximum. (points)
        let max = fact.max;
        // GaugeWhy. The reason.
        let why = fact.why;
        // Option<CombatantId>. Who brought it about, if that was someone.
        let source = fact.source;
        // Option<NonZeroU32>. What a status kept of what would have been lost, if it kept anything. (points)
        let kept = fact.kept;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_gauge_changed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("gauge-changed", on_gauge_changed);
        fight.orders().subscribe(hook, Listen::to(topic::GAUGE_CHANGED));
        hook
    }
}

mod gauge_crossed {
    use super::World;
    use hammerstone::event::GaugeCrossed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `gauge.crossed`: A gauge beside health crosses a threshold.
    fn on_gauge_crossed(world: &mut World, fact: &GaugeCrossed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Whose.
        let subject = fact.subject;
        // GaugeId. The gauge.
        let gauge = fact.gauge;
        // ThresholdId. The threshold.
        let threshold = fact.threshold;
        // Crossing. The direction.
        let direction = fact.direction;
        // Option<CombatantId>. Who brought it about, if that was someone.
        let source = fact.source;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_gauge_crossed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("gauge-crossed", on_gauge_crossed);
        fight.orders().subscribe(hook, Listen::to(topic::GAUGE_CROSSED));
        hook
    }
}

mod gauge_empty {
    use super::World;
    use hammerstone::event::GaugeEmpty;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `gauge.empty`: A gauge beside health is empty.
    fn on_gauge_empty(world: &mut World, fact: &GaugeEmpty, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Whose.
        let subject = fact.subject;
        // GaugeId. The gauge.
        let gauge = fact.gauge;
        // Option<CombatantId>. Who emptied it, if that was someone.
        let source = fact.source;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_gauge_empty(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("gauge-empty", on_gauge_empty);
        fight.orders().subscribe(hook, Listen::to(topic::GAUGE_EMPTY));
        hook
    }
}

mod gauge_full {
    use super::World;
    use hammerstone::event::GaugeFull;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `gauge.full`: A gauge beside health is full.
    fn on_gauge_full(world: &mut World, fact: &GaugeFull, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Whose.
        let subject = fact.subject;
        // GaugeId. The gauge.
        let gauge = fact.gauge;
        // Option<CombatantId>. Who filled it, if that was someone.
        let source = fact.source;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_gauge_full(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("gauge-full", on_gauge_full);
        fight.orders().subscribe(hook, Listen::to(topic::GAUGE_FULL));
        hook
    }
}

mod combatant_switched {
    use super::World;
    use hammerstone::event::CombatantSwitched;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.switched`: A combatant goes over to another team.
    fn on_combatant_switched(world: &mut World, fact: &CombatantSwitched, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who.
        let subject = fact.subject;
        // TeamId. The team before.
        let from = fact.from;
        // TeamId. The team from now on.
        let to = fact.to;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_switched(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-switched", on_combatant_switched);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_SWITCHED));
        hook
    }
}

mod combatant_retimed {
    use super::World;
    use hammerstone::event::CombatantRetimed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.retimed`: The time of a combatant goes slower or faster.
    fn on_combatant_retimed(world: &mut World, fact: &CombatantRetimed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Whose.
        let subject = fact.subject;
        // Fixed. How it went, against the encounter's: 1 is as usual.
        let from = fact.from;
        // Fixed. How it goes.
        let to = fact.to;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_retimed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-retimed", on_combatant_retimed);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_RETIMED));
        hook
    }
}

mod combatant_transformed {
    use super::World;
    use hammerstone::event::CombatantTransformed;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.transformed`: A combatant becomes one of another template.
    fn on_combatant_transformed(world: &mut World, fact: &CombatantTransformed, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who.
        let subject = fact.subject;
        // TemplateId. What it was.
        let from = fact.from;
        // TemplateId. What it is.
        let to = fact.to;
        // i64. Health, whose share stays as it was. (points)
        let health = fact.health;
        // i64. Its maximum. (points)
        let max = fact.max;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_transformed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-transformed", on_combatant_transformed);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_TRANSFORMED));
        hook
    }
}

mod hold_began {
    use super::World;
    use hammerstone::event::HoldBegan;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `hold.began`: A hit begins a hold: from now on the one who is held goes where its holder goes.
    fn on_hold_began(world: &mut World, fact: &HoldBegan, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // u64. The hold, from 1 in each epoch.
        let hold = fact.hold;
        // CombatantId. Who is held.
        let held = fact.held;
        // CombatantId. Who holds.
        let holder = fact.holder;
        // AttackId. The attack whose hit began it.
        let attack = fact.attack;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_hold_began(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("hold-began", on_hold_began);
        fight.orders().subscribe(hook, Listen::to(topic::HOLD_BEGAN));
        hook
    }
}

mod hold_ended {
    use super::World;
    use hammerstone::event::HoldEnded;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `hold.ended`: A hold ends. Each has one end.
    fn on_hold_ended(world: &mut World, fact: &HoldEnded, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // u64. The hold.
        let hold = fact.hold;
        // CombatantId. Who was held.
        let held = fact.held;
        // CombatantId. Who held.
        let holder = fact.holder;
        // u32. How long it lasted. (ticks)
        let lasted = fact.lasted;
        // Why. Why it ends.
        let why = fact.why;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_hold_ended(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("hold-ended", on_hold_ended);
        fight.orders().subscribe(hook, Listen::to(topic::HOLD_ENDED));
        hook
    }
}

mod tactics_requested {
    use super::World;
    use hammerstone::event::TacticsRequested;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `tactics.requested`: The game's own minds are asked to do something with a combatant.
    fn on_tactics_requested(world: &mut World, fact: &TacticsRequested, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who.
        let subject = fact.subject;
        // Tactic. What is asked.
        let tactic = fact.tactic;
        // Option<CombatantId>. Whom it is about, if it is about anyone.
        let other = fact.other;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_tactics_requested(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("tactics-requested", on_tactics_requested);
        fight.orders().subscribe(hook, Listen::to(topic::TACTICS_REQUESTED));
        hook
    }
}

mod flag_changed {
    use super::World;
    use hammerstone::event::FlagChanged;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `flag.changed`: A flag changes.
    fn on_flag_changed(world: &mut World, fact: &FlagChanged, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // FlagId. The flag.
        let flag = fact.flag;
        // bool. Whether it is up.
        let to = fact.to;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_flag_changed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("flag-changed", on_flag_changed);
        fight.orders().subscribe(hook, Listen::to(topic::FLAG_CHANGED));
        hook
    }
}

mod counter_changed {
    use super::World;
    use hammerstone::event::CounterChanged;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `counter.changed`: A counter changes.
    fn on_counter_changed(world: &mut World, fact: &CounterChanged, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CounterId. The counter.
        let counter = fact.counter;
        // i64. What it was.
        let from = fact.from;
        // i64. What it is.
        let to = fact.to;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_counter_changed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("counter-changed", on_counter_changed);
        fight.orders().subscribe(hook, Listen::to(topic::COUNTER_CHANGED));
        hook
    }
}

mod combatant_flagged {
    use super::World;
    use hammerstone::event::CombatantFlagged;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.flagged`: A flag of a combatant goes up or down.
    fn on_combatant_flagged(world: &mut World, fact: &CombatantFlagged, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. The combatant.
        let subject = fact.subject;
        // CombatantFlagId. The flag.
        let flag = fact.flag;
        // bool. Whether it is up.
        let to = fact.to;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_flagged(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-flagged", on_combatant_flagged);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_FLAGGED));
        hook
    }
}

mod combatant_counted {
    use super::World;
    use hammerstone::event::CombatantCounted;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `combatant.counted`: A counter of a combatant changes.
    fn on_combatant_counted(world: &mut World, fact: &CombatantCounted, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. The combatant.
        let subject = fact.subject;
        // CombatantCounterId. The counter.
        let counter = fact.counter;
        // i64. What it was.
        let from = fact.from;
        // i64. What it is.
        let to = fact.to;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_combatant_counted(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("combatant-counted", on_combatant_counted);
        fight.orders().subscribe(hook, Listen::to(topic::COMBATANT_COUNTED));
        hook
    }
}

mod score_changed {
    use super::World;
    use hammerstone::event::ScoreChanged;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `score.changed`: A score changes.
    fn on_score_changed(world: &mut World, fact: &ScoreChanged, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // ScoreId. The score.
        let score = fact.score;
        // i64. What it was.
        let from = fact.from;
        // i64. What it is.
        let to = fact.to;
        // Option<CombatantId>. Who is credited.
        let credit = fact.credit;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_score_changed(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("score-changed", on_score_changed);
        fight.orders().subscribe(hook, Listen::to(topic::SCORE_CHANGED));
        hook
    }
}

mod said {
    use super::World;
    use hammerstone::event::Said;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `said`: A line is said.
    fn on_said(world: &mut World, fact: &Said, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // Spoken. The line, with names and numbers filled in; beside it what the ruleset says of it: the team that it is for, for how many ticks it is shown, and its category.
        let spoken = fact.spoken;
        // Option<CombatantId>. Who says it; absent for a narrator.
        let subject = fact.subject;
        // Option<CombatantId>. To whom, if it is said to one.
        let listener = fact.listener;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_said(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("said", on_said);
        fight.orders().subscribe(hook, Listen::to(topic::SAID));
        hook
    }
}

mod rule_fired {
    use super::World;
    use hammerstone::event::RuleFired;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `rule.fired`: A rule fires. Its reactions follow.
    fn on_rule_fired(world: &mut World, fact: &RuleFired, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // RuleId. The rule.
        let rule = fact.rule;
        // Option<CombatantId>. The subject of the fact that it heard.
        let subject = fact.subject;
        // Option<CombatantId>. The other party of that fact.
        let other = fact.other;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_rule_fired(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("rule-fired", on_rule_fired);
        fight.orders().subscribe(hook, Listen::to(topic::RULE_FIRED));
        hook
    }
}

mod tactics_chose {
    use super::World;
    use hammerstone::event::TacticsChose;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `tactics.chose`: A stand-in has chosen something to do; told only by those that are asked to tell.
    fn on_tactics_chose(world: &mut World, fact: &TacticsChose, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who.
        let subject = fact.subject;
        // Option<CombatantId>. Its target, if it has one.
        let other = fact.other;
        // Text. The name of its tactics.
        let tactics = fact.tactics;
        // Text. The name of the choice.
        let choice = fact.choice;
        // Text. The choices before it, each with why it did not fit.
        let passed = fact.passed;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_tactics_chose(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("tactics-chose", on_tactics_chose);
        fight.orders().subscribe(hook, Listen::to(topic::TACTICS_CHOSE));
        hook
    }
}

mod tactics_dropped {
    use super::World;
    use hammerstone::event::TacticsDropped;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `tactics.dropped`: A stand-in does not do what it had chosen.
    fn on_tactics_dropped(world: &mut World, fact: &TacticsDropped, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // CombatantId. Who.
        let subject = fact.subject;
        // Option<CombatantId>. Its target, if it has one.
        let other = fact.other;
        // Text. The name of its tactics.
        let tactics = fact.tactics;
        // Text. The name of the choice.
        let choice = fact.choice;
        // Text. Why.
        let reason = fact.reason;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_tactics_dropped(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("tactics-dropped", on_tactics_dropped);
        fight.orders().subscribe(hook, Listen::to(topic::TACTICS_DROPPED));
        hook
    }
}

mod damage_dealt {
    use super::World;
    use hammerstone::event::DamageDealt;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `damage.dealt`: Damage of one type is dealt, also where shields absorbed all of it.
    fn on_damage_dealt(world: &mut World, fact: &DamageDealt, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // DamageTypeId. The damage type.
        let damage_type = fact.damage_type;
        // u64. The blow, from 1 in each epoch; all its damage types share it.
        let blow = fact.blow;
        // Option<u64>. The hit, for blows of attacks.
        let hit = fact.hit;
        // Option<CombatantId>. Who deals it.
        let source = fact.source;
        // CombatantId. Who is damaged.
        let target = fact.target;
        // Via. How it came about.
        let via = fact.via;
        // i64. What health lost. (points)
        let amount = fact.amount;
        // Option<NonZeroU32>. What shields took, if they took anything. (points)
        let absorbed = fact.absorbed;
        // Option<NonZeroU32>. What went beyond the health that was left, if anything did. (points)
        let overkill = fact.overkill;
        // bool. Whether the blow was critical.
        let critical = fact.critical;
        // Option<Echo>. How it was passed on, if it was.
        let echo = fact.echo;
        // Option<[f32; 3]>. Where the blow touched, for damage by attacks that was not passed on. (metres, in the world)
        let point = fact.point;
        // Range. Its ledger.
        let ledger = fact.ledger;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_damage_dealt(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("damage-dealt", on_damage_dealt);
        if let Some(family) = fight.rules().topics().family("damage.dealt") {
            fight.orders().subscribe(hook, Listen::under(family));
        }
        hook
    }
}

mod host {
    use super::World;
    use hammerstone::event::HostFact;
    use hammerstone::ids::HookId;
    use hammerstone::prelude::*;

    /// Hears `host`: A fact of the host's own. Its subject is the first combatant among the values, the other party the second.
    fn on_host_fact(world: &mut World, fact: &HostFact, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        // TopicId. Its topic.
        let topic = fact.topic;
        // [HostValue; 4]. Its values, in the order of the topic's fields.
        let values = fact.values;
    }

    /// Adds the hook and subscribes it. Call this once, before the first tick.
    pub(super) fn hear_host_fact(hooks: &mut Hooks<World>, fight: &mut Encounter) -> HookId {
        let hook = hooks.on("host-fact", on_host_fact);
        if let Some(family) = fight.rules().topics().family("host") {
            fight.orders().subscribe(hook, Listen::under(family));
        }
        hook
    }
}

struct World;

#[test]
fn every_hook_is_subscribed_and_heard() {
    let rules = rules();
    let mut fight = hammerstone::Encounter::new(&rules, 7);
    let mut hooks = hammerstone::hooks::Hooks::<World>::new();
    encounter_started::hear_encounter_started(&mut hooks, &mut fight);
    encounter_adopted::hear_encounter_adopted(&mut hooks, &mut fight);
    encounter_ended::hear_encounter_ended(&mut hooks, &mut fight);
    encounter_cut::hear_encounter_cut(&mut hooks, &mut fight);
    order_refused::hear_order_refused(&mut hooks, &mut fight);
    combatant_joined::hear_combatant_joined(&mut hooks, &mut fight);
    combatant_away::hear_combatant_away(&mut hooks, &mut fight);
    combatant_returned::hear_combatant_returned(&mut hooks, &mut fight);
    combatant_removed::hear_combatant_removed(&mut hooks, &mut fight);
    attack_started::hear_attack_started(&mut hooks, &mut fight);
    attack_opened::hear_attack_opened(&mut hooks, &mut fight);
    attack_closed::hear_attack_closed(&mut hooks, &mut fight);
    attack_chained::hear_attack_chained(&mut hooks, &mut fight);
    attack_lapsed::hear_attack_lapsed(&mut hooks, &mut fight);
    attack_ended::hear_attack_ended(&mut hooks, &mut fight);
    projectile_stopped::hear_projectile_stopped(&mut hooks, &mut fight);
    contact_met::hear_contact_met(&mut hooks, &mut fight);
    contact_held::hear_contact_held(&mut hooks, &mut fight);
    contact_parted::hear_contact_parted(&mut hooks, &mut fight);
    hit_landed::hear_hit_landed(&mut hooks, &mut fight);
    hit_refused::hear_hit_refused(&mut hooks, &mut fight);
    hit_clashed::hear_hit_clashed(&mut hooks, &mut fight);
    hit_deflected::hear_hit_deflected(&mut hooks, &mut fight);
    hit_pushed::hear_hit_pushed(&mut hooks, &mut fight);
    hit_staggered::hear_hit_staggered(&mut hooks, &mut fight);
    hit_stopped::hear_hit_stopped(&mut hooks, &mut fight);
    heal_applied::hear_heal_applied(&mut hooks, &mut fight);
    health_changed::hear_health_changed(&mut hooks, &mut fight);
    shield_raised::hear_shield_raised(&mut hooks, &mut fight);
    shield_absorbed::hear_shield_absorbed(&mut hooks, &mut fight);
    shield_broken::hear_shield_broken(&mut hooks, &mut fight);
    shield_lapsed::hear_shield_lapsed(&mut hooks, &mut fight);
    guard_broken::hear_guard_broken(&mut hooks, &mut fight);
    part_broken::hear_part_broken(&mut hooks, &mut fight);
    status_applied::hear_status_applied(&mut hooks, &mut fight);
    status_refreshed::hear_status_refreshed(&mut hooks, &mut fight);
    status_stacked::hear_status_stacked(&mut hooks, &mut fight);
    status_pulsed::hear_status_pulsed(&mut hooks, &mut fight);
    status_refused::hear_status_refused(&mut hooks, &mut fight);
    status_suspended::hear_status_suspended(&mut hooks, &mut fight);
    status_resumed::hear_status_resumed(&mut hooks, &mut fight);
    status_expired::hear_status_expired(&mut hooks, &mut fight);
    status_lifted::hear_status_lifted(&mut hooks, &mut fight);
    combatant_spared::hear_combatant_spared(&mut hooks, &mut fight);
    combatant_died::hear_combatant_died(&mut hooks, &mut fight);
    encounter_round::hear_encounter_round(&mut hooks, &mut fight);
    encounter_wave::hear_encounter_wave(&mut hooks, &mut fight);
    encounter_reset::hear_encounter_reset(&mut hooks, &mut fight);
    leader_lost::hear_leader_lost(&mut hooks, &mut fight);
    health_crossed::hear_health_crossed(&mut hooks, &mut fight);
    gauge_changed::hear_gauge_changed(&mut hooks, &mut fight);
    gauge_crossed::hear_gauge_crossed(&mut hooks, &mut fight);
    gauge_empty::hear_gauge_empty(&mut hooks, &mut fight);
    gauge_full::hear_gauge_full(&mut hooks, &mut fight);
    combatant_switched::hear_combatant_switched(&mut hooks, &mut fight);
    combatant_retimed::hear_combatant_retimed(&mut hooks, &mut fight);
    combatant_transformed::hear_combatant_transformed(&mut hooks, &mut fight);
    hold_began::hear_hold_began(&mut hooks, &mut fight);
    hold_ended::hear_hold_ended(&mut hooks, &mut fight);
    tactics_requested::hear_tactics_requested(&mut hooks, &mut fight);
    flag_changed::hear_flag_changed(&mut hooks, &mut fight);
    counter_changed::hear_counter_changed(&mut hooks, &mut fight);
    combatant_flagged::hear_combatant_flagged(&mut hooks, &mut fight);
    combatant_counted::hear_combatant_counted(&mut hooks, &mut fight);
    score_changed::hear_score_changed(&mut hooks, &mut fight);
    said::hear_said(&mut hooks, &mut fight);
    rule_fired::hear_rule_fired(&mut hooks, &mut fight);
    tactics_chose::hear_tactics_chose(&mut hooks, &mut fight);
    tactics_dropped::hear_tactics_dropped(&mut hooks, &mut fight);
    damage_dealt::hear_damage_dealt(&mut hooks, &mut fight);
    host::hear_host_fact(&mut hooks, &mut fight);
    fight.tick_with(&hooks, &mut World).unwrap();
    let refused = fight.facts().events().filter(|event| matches!(event, hammerstone::event::Event::OrderRefused(_)));
    assert_eq!(refused.count(), 0);
    assert_eq!(fight.view().subscriptions().count(), 71);
}

fn rules() -> hammerstone::Ruleset {
    let mut b = hammerstone::Ruleset::builder(60);
    b.damage_type("crush");
    b.host_topic("host.bell", &[("who", hammerstone::event::ValueSort::Who)]);
    b.build().unwrap()
}
