//! Every fact, declared once. The enum [`Event`], the structs of what facts hold, the constants of topics, who is subject and other party,
//! the lines of the feed, the sentences of `run`, the tables in the documents and the skeletons of hooks come from here.
//!
//! A row: what the fact says; its name, its topic, by which stages of the tick it is published, after which reactions of rules it comes,
//! how it is shown and in which sentence; and its fields with their types, meanings and [tags](super::Tag).
//!
//! In a sentence `{field}` is the field in words. What stands in `[ ]` is left out where one of its fields is absent, 0 or empty; after a `|` in it
//! stands what comes instead.

use crate::terms::Spoken;
use std::num::NonZeroU32;

use super::facts::{Roles, facts, key, payloads, with_tag};
use super::*;
use crate::Fixed;
use crate::geometry::Pose;
use crate::ids::*;
use crate::level::InLevel;
use crate::ruleset::def::{FormKind, Policy, Tactic};
use crate::terms::{OrderKind, Refusal};

facts! {
    fixed {
        /// The first tick begins, or the first after a reset.
        EncounterStarted = ENCOUNTER_STARTED "encounter.started", by [Orders], after [Reset], Frame "the encounter starts" {}

        /// The encounter goes on under a ruleset that was tuned. What follows from that comes next: swings that end, and changed maxima.
        EncounterAdopted = ENCOUNTER_ADOPTED "encounter.adopted", by [Orders], after [], Frame "the encounter goes on under a tuned ruleset" {}

        /// The encounter is over. All that ran has ended before it.
        EncounterEnded = ENCOUNTER_ENDED "encounter.ended", by [Departures], after [End], Headline "the encounter ends: {outcome}" {
            /// How it ended.
            outcome: OutcomeId => Content,
            /// Attempts, hits, and refusals by gate, since the start.
            counts: CountsSoFar => Content,
        }

        /// Reactions at one place exceeded a limit and did not begin. It comes once a tick for each place, and no rule and no hook hears it.
        EncounterCut = ENCOUNTER_CUT "encounter.cut", by [Passes Departures], after [], Trouble "reactions of {place} cut: {left_out}, limit {limit}, depth {depth}" {
            /// The rule, hook, status or attack whose reactions were cut, and the topic or the occasion.
            place: CutAt => Identity,
            /// The limit that cut them off.
            limit: CutBy => Content,
            /// How many did not begin.
            left_out: u32 => Content,
            /// How deep the first of them lay.
            depth: u16 => Content,
            /// What led to the first of them, the latest first.
            chain: Range => Content Chain,
        }

        /// An order was refused, and changed nothing.
        OrderRefused = ORDER_REFUSED "order.refused", by [Orders Swings Passes Departures], after [Targeted], Trouble "order {kind}[ of {attack}][ for {subject}] refused: {why}" {
            /// The number of the order.
            order: OrderId => Identity Unwritten,
            /// Which order it was.
            kind as "order": OrderKind => Identity,
            /// The attack that would have started, if it was an order for that.
            attack: Option<AttackId> => Identity,
            /// The combatant that the order is about.
            subject: Option<CombatantId> => Identity Subject,
            /// Why it was refused.
            why: Refusal => Content,
        }

        /// A combatant joins.
        CombatantJoined = COMBATANT_JOINED "combatant.joined", by [Orders Passes Departures], after [Waves Reset], Came "{subject} joins the {team} with {health} health" {
            /// Who joins.
            subject: CombatantId => Identity Subject,
            /// What it is made from.
            template: TemplateId => Content,
            /// Its team.
            team: TeamId => Content,
            /// The tags of its template.
            tags: u64 => Content TagBits,
            /// Its health.
            health: i64 => Content Points,
            /// Its maximum of health.
            max: i64 => Content Points,
            /// Its life, from 1.
            life: u32 => Identity,
            /// Where it stands.
            pose: Pose => Content,
        }

        /// A combatant leaves for a time.
        CombatantAway = COMBATANT_AWAY "combatant.away", by [Orders Passes Departures], after [SendAway], Left "{subject} goes away" {
            /// Who leaves.
            subject: CombatantId => Identity Subject,
            /// The reason.
            why: Why => Content,
        }

        /// A combatant stands again.
        CombatantReturned = COMBATANT_RETURNED "combatant.returned", by [Orders Swings Contacts Blows Statuses Passes Departures], after [BringBack Apply Lift Damage], Healed "{subject} returns with {health} health, life {life}" {
            /// Who returns.
            subject: CombatantId => Identity Subject,
            /// Its health.
            health: i64 => Content Points,
            /// Its maximum of health.
            max: i64 => Content Points,
            /// Its life, from 1.
            life: u32 => Identity,
            /// The reason: `ordered`; `died` where a life was spent; `lifted-up` where it was down, and stood all the time.
            why: Why => Content,
            /// Where it stands.
            pose: Pose => Content,
        }

        /// A combatant leaves for good.
        CombatantRemoved = COMBATANT_REMOVED "combatant.removed", by [Orders Passes Departures], after [Remove Reset], Left "{subject} is removed ({why})" {
            /// Who leaves.
            subject: CombatantId => Identity Subject,
            /// The reason.
            why: Why => Content,
            /// The label that the host gave it, if any.
            label: Option<u64> => Content,
        }

        /// A swing begins.
        AttackStarted = ATTACK_STARTED "attack.started", by [Orders Swings Blows Passes], after [Start], Swing "{subject|the environment} starts {attack} (swing {swing})" {
            /// The attacker; absent where the swing has none.
            subject: Option<CombatantId> => Identity Subject,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The swing.
            swing: SwingId => Identity,
            /// The form of the attack.
            form: FormKind => Content,
            /// How often it strikes a target; for an interval with its ticks.
            policy: Policy => Content,
            /// How many different targets it strikes at most.
            max_targets: Option<u16> => Content,
            /// Whether it goes on when its attacker dies.
            outlives: bool => Content WhenTrue,
        }

        /// A window of a swing opens: from now on it can hit.
        AttackOpened = ATTACK_OPENED "attack.opened", by [Orders Swings Passes], after [Start], Hidden "" {
            /// The attacker.
            subject: Option<CombatantId> => Identity Subject,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The swing.
            swing: SwingId => Identity,
            /// The window, from 1.
            window: u16 => Identity,
        }

        /// A window of a swing closes, also where it is cut short.
        AttackClosed = ATTACK_CLOSED "attack.closed", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Start Apply Damage SendAway Remove Reset Transform], Hidden "" {
            /// The attacker.
            subject: Option<CombatantId> => Identity Subject,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The swing.
            swing: SwingId => Identity,
            /// The window, from 1.
            window: u16 => Identity,
        }

        /// A chain goes on: the next attack begins.
        AttackChained = ATTACK_CHAINED "attack.chained", by [Swings], after [Start], Swing "{subject} goes on with {attack} (swing {swing})" {
            /// The attacker.
            subject: CombatantId => Identity Subject,
            /// The attack that begins.
            attack: AttackId => Identity Attack,
            /// Its swing.
            swing: SwingId => Identity,
        }

        /// The input window of a chain closes without a press.
        AttackLapsed = ATTACK_LAPSED "attack.lapsed", by [Orders Swings Passes], after [Start], SwingOver "{subject}'s chain lapses before {attack}" {
            /// The attacker.
            subject: CombatantId => Identity Subject,
            /// The attack that would have been next.
            attack: AttackId => Identity Attack,
        }

        /// A swing is over. Its contacts have parted before it.
        AttackEnded = ATTACK_ENDED "attack.ended", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Start Apply Damage SendAway Remove Reset Transform], SwingOver "{subject|the environment}'s {attack} (swing {swing}) ends: {why}" {
            /// The attacker.
            subject: Option<CombatantId> => Identity Subject,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The swing.
            swing: SwingId => Identity,
            /// The reason.
            why: SwingEnd => Content,
        }

        /// A projectile meets something in its way: the level, an obstacle, or a wall that the host found. It ends there.
        ProjectileStopped = PROJECTILE_STOPPED "projectile.stopped", by [Blows Passes], after [], SwingOver "{attacker|the environment}'s {attack} (swing {swing}) is stopped[ by {obstacle}][ by {shape}]" {
            /// The swing.
            swing: SwingId => Identity,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The attacker.
            attacker: Option<CombatantId> => Identity Subject,
            /// Which projectile of the swing, from 1.
            body: u16 => Identity,
            /// The obstacle that it meets.
            obstacle: Option<ObstacleId> => Content,
            /// The shape of the level that it meets. Of a wall that the host found there is neither.
            shape: Option<InLevel> => Content,
            /// Where.
            point: [f32; 3] => Content Metres,
            /// Out of what it meets.
            normal: [f32; 3] => Content Direction,
            /// The time of impact.
            toi: f32 => Content TickShare,
        }

        /// An open hitbox begins to touch a target, whatever the gates say.
        ContactMet = CONTACT_MET "contact.met", by [Contacts], after [], Contact "{attacker|the environment}'s {attack} touches {target} on the {part} with hitbox {hitbox}, closing at {speed} m/s[, {depth} m deep]" {
            /// The contact.
            contact: ContactId => Identity,
            /// The swing.
            swing: SwingId => Identity,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The attacker's hitbox; for attacks by touch, the part of the attacker.
            hitbox: u16 => Content FromOne,
            /// The attacker.
            attacker: Option<CombatantId> => Identity Other,
            /// The target.
            target: CombatantId => Identity Subject,
            /// The part that is touched.
            part: u16 => Content Part,
            /// Where.
            point: [f32; 3] => Content Metres,
            /// Out of the target.
            normal: [f32; 3] => Content Direction,
            /// The time of impact.
            toi: f32 => Content TickShare,
            /// Whether they touched as the tick began, and had not before: one of them was put there, or a window opened.
            from_start: bool => Content WhenTrue,
            /// How deep the hitbox is in the part as they meet, as far as the surfaces tell.
            depth: f32 => Content Length,
            /// How fast they close in where they touch; below zero where they move apart.
            speed: f32 => Content Speed,
            /// Which of the two moved in the tick.
            moved: Moved => Content,
        }

        /// A contact goes on. Only for attacks that ask for it (`tells-held`).
        ContactHeld = CONTACT_HELD "contact.held", by [Contacts], after [], Hidden "" {
            /// The contact.
            contact: ContactId => Identity,
            /// The swing.
            swing: SwingId => Identity,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The attacker's hitbox; for attacks by touch, the part of the attacker.
            hitbox: u16 => Content FromOne,
            /// The attacker.
            attacker: Option<CombatantId> => Identity Other,
            /// The target.
            target: CombatantId => Identity Subject,
            /// The part that is touched.
            part: u16 => Content Part,
            /// Where.
            point: [f32; 3] => Content Metres,
            /// Out of the target.
            normal: [f32; 3] => Content Direction,
            /// How deep the hitbox is in the part, as far as the surfaces tell.
            depth: f32 => Content Length,
            /// How fast they close in where they touch; below zero where they move apart.
            speed: f32 => Content Speed,
        }

        /// A contact is over.
        ContactParted = CONTACT_PARTED "contact.parted", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Start Apply Damage SendAway Remove Reset Transform], Contact "{attacker|the environment}'s {attack} touches {target} no more, hitbox {hitbox}: held {lasted} ticks ({why})" {
            /// The contact.
            contact: ContactId => Identity,
            /// The swing.
            swing: SwingId => Identity,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The attacker's hitbox; for attacks by touch, the part of the attacker.
            hitbox: u16 => Content FromOne,
            /// The attacker.
            attacker: Option<CombatantId> => Identity Other,
            /// The target.
            target: CombatantId => Identity Subject,
            /// The part that was touched.
            part: u16 => Content Part,
            /// How many ticks it lasted.
            lasted: u32 => Content Ticks,
            /// The reason.
            why: Why => Content,
        }

        /// A swing hits a target: all gates let it pass. Damage, statuses and reactions follow.
        HitLanded = HIT_LANDED "hit.landed", by [Blows], after [], HitLine "{attacker|the environment} hits {target} on the {part} with {attack}" {
            /// The hit, from 1 in each epoch.
            hit: u64 => Identity,
            /// The swing.
            swing: SwingId => Identity,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The attacker; absent where the swing has none.
            attacker: Option<CombatantId> => Identity Other,
            /// The target.
            target: CombatantId => Identity Subject,
            /// The life of the target, from 1.
            life: u32 => Identity,
            /// The part that is struck.
            part: u16 => Content Part,
            /// The window, from 1.
            window: u16 => Identity,
            /// The group of hitboxes, where groups have struck lists of their own.
            group: Option<u16> => Identity,
            /// The projectile, from 1. The feed has it where bodies have struck lists of their own.
            body: Option<u16> => Identity,
            /// Where.
            point: [f32; 3] => Content Metres,
            /// Out of the target.
            normal: [f32; 3] => Content Direction,
        }

        /// A gate refuses a swing at a target: once for each swing, target and gate. All refusals are counted.
        HitRefused = HIT_REFUSED "hit.refused", by [Blows], after [], RefusedLine "{attacker|the environment}'s {attack} is refused at {target}: {gate} (wanted {wanted}, found {found})" {
            /// The swing.
            swing: SwingId => Identity,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The attacker.
            attacker: Option<CombatantId> => Identity Other,
            /// The target.
            target: CombatantId => Identity Subject,
            /// The part that was touched.
            part: u16 => Content Part,
            /// The first gate that refused.
            gate: Gate => Identity,
            /// What the gate asks for.
            wanted: Operand => Content,
            /// What it found.
            found: Operand => Content,
        }

        /// Two swings meet. The end of one or both follows, if they end.
        HitClashed = HIT_CLASHED "hit.clashed", by [Blows], after [], HitLine "{attacker|the environment}'s {attack} (swing {swing}) clashes with {target|the environment}'s swing {against}" {
            /// The swing.
            swing: SwingId => Identity,
            /// Its attack.
            attack: AttackId => Identity Attack,
            /// Its attacker.
            attacker: Option<CombatantId> => Identity Other,
            /// The other swing.
            against: SwingId => Identity,
            /// The attacker of the other swing.
            target: Option<CombatantId> => Identity Subject,
            /// Where.
            point: [f32; 3] => Content Metres,
            /// The time of impact.
            toi: f32 => Content TickShare,
        }

        /// An intercept turns a swing round. A projectile flies back from the next tick on.
        HitDeflected = HIT_DEFLECTED "hit.deflected", by [Blows], after [], HitLine "{target} deflects {attacker|the environment}'s {attack}" {
            /// The swing.
            swing: SwingId => Identity,
            /// The attack.
            attack: AttackId => Identity Attack,
            /// The attacker.
            attacker: Option<CombatantId> => Identity Other,
            /// Who deflects.
            target: CombatantId => Identity Subject,
            /// The part that was touched.
            part: u16 => Content Part,
            /// The projectile, from 1.
            body: Option<u16> => Identity,
            /// Where.
            point: [f32; 3] => Content Metres,
            /// Out of the target.
            normal: [f32; 3] => Content Direction,
        }

        /// A hit pushes its target, for the host to act on.
        HitPushed = HIT_PUSHED "hit.pushed", by [Blows], after [], HitQuiet "{target} is pushed by {impulse} m" {
            /// The hit.
            hit: u64 => Identity,
            /// Its attack.
            attack: AttackId => Identity Attack,
            /// The attacker.
            attacker: Option<CombatantId> => Identity Other,
            /// Who is pushed.
            target: CombatantId => Identity Subject,
            /// How far, over all its ticks.
            impulse: [f32; 3] => Content Metres,
            /// How long it takes.
            ticks: u32 => Content Ticks,
        }

        /// Enough stagger damage has gathered.
        HitStaggered = HIT_STAGGERED "hit.staggered", by [Blows], after [], HitLine "{target} staggers after {gathered}" {
            /// The hit.
            hit: u64 => Identity,
            /// Its attack.
            attack: AttackId => Identity Attack,
            /// The attacker.
            attacker: Option<CombatantId> => Identity Other,
            /// Who staggers.
            target: CombatantId => Identity Subject,
            /// How much had gathered.
            gathered as "stagger_damage": Fixed => Content,
        }

        /// The clock of one side of a hit stands still: hit-stop, once for each side.
        HitStopped = HIT_STOPPED "hit.stopped", by [Blows], after [], Hidden "" {
            /// The hit.
            hit: u64 => Identity,
            /// Its attack.
            attack: AttackId => Identity Attack,
            /// Whose clock stands.
            subject: CombatantId => Identity Subject,
            /// The other side.
            other: Option<CombatantId> => Identity Other,
            /// How long.
            ticks: u32 => Content Ticks,
        }

        /// Healing, also where it goes beyond the maximum.
        HealApplied = HEAL_APPLIED "heal.applied", by [Orders Blows Statuses Passes], after [Heal Damage], Healed "{via} heals {target} by {amount}[ from {source}][, overheal {excess}]" {
            /// Who heals.
            source: Option<CombatantId> => Identity Other,
            /// Who is healed.
            target: CombatantId => Identity Subject,
            /// How it came about.
            via: Via => Identity,
            /// What health gained.
            amount: i64 => Content Points,
            /// What went beyond the maximum.
            excess: i64 => Content Points,
            /// Its ledger.
            ledger: Range => Content Ledger,
        }

        /// Health, or its maximum, changed.
        HealthChanged = HEALTH_CHANGED "health.changed", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Damage Heal BringBack Apply Lift Transform], Hidden "" {
            /// Whose.
            subject: CombatantId => Identity Subject,
            /// What it was.
            from: i64 => Content Points,
            /// What it is.
            to: i64 => Content Points,
            /// Its maximum.
            max: i64 => Content Points,
            /// The reason.
            why: HealthChange => Content,
        }

        /// A shield gains points.
        ShieldRaised = SHIELD_RAISED "shield.raised", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Apply Heal Damage BringBack Lift Waves Reset Transform], Healed "{shield} of {subject} rises by {amount} to {left}" {
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The shield.
            shield: ShieldId => Identity,
            /// How many points more.
            amount: i64 => Content Points,
            /// How many in all.
            left: i64 => Content Points,
        }

        /// A shield takes damage.
        ShieldAbsorbed = SHIELD_ABSORBED "shield.absorbed", by [Orders Blows Statuses Passes], after [Damage], HitPlain "{shield} of {subject} absorbs {amount}, {left} left" {
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The shield.
            shield: ShieldId => Identity,
            /// How many points it took.
            amount: i64 => Content Points,
            /// How many are left.
            left: i64 => Content Points,
        }

        /// A shield has no points left.
        ShieldBroken = SHIELD_BROKEN "shield.broken", by [Orders Blows Statuses Passes], after [Damage], HitLine "{shield} of {subject} breaks" {
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The shield.
            shield: ShieldId => Identity,
        }

        /// A shield ends with what brought it.
        ShieldLapsed = SHIELD_LAPSED "shield.lapsed", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Apply Lift Damage SendAway Remove Reset Transform], StatusOver "{shield} of {subject} is gone, with {amount} points" {
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The shield.
            shield: ShieldId => Identity,
            /// The points that went with it.
            amount: i64 => Content Points,
        }

        /// A guard has taken so much that it breaks.
        GuardBroken = GUARD_BROKEN "guard.broken", by [Orders Blows Statuses Passes], after [Damage], HitLine "{status} of {subject} breaks, having taken {amount}" {
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The status that guards.
            status: StatusId => Identity Status,
            /// How much it took.
            amount: Fixed => Content,
        }

        /// A part loses its last points.
        PartBroken = PART_BROKEN "part.broken", by [Blows], after [], HitLine "the {part} of {subject} breaks" {
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The part.
            part: u16 => Identity Part,
            /// What the last blow came to.
            amount: i64 => Content Points,
        }

        /// A status begins.
        StatusApplied = STATUS_APPLIED "status.applied", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Apply Lift Damage BringBack Waves], StatusLine "{status} on {subject}[ from {source}][, until {ends}|, until it is lifted]" {
            /// The application.
            application: ApplicationId => Identity,
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// Who applied it.
            source: Option<CombatantId> => Identity Other,
            /// The status.
            status: StatusId => Identity Status,
            /// Its strength.
            strength: Fixed => Content,
            /// How many times it counts.
            stacks: u16 => Content,
            /// The tick of its end.
            ends: Option<u32> => Content Tick,
        }

        /// A status that runs already lasts longer.
        StatusRefreshed = STATUS_REFRESHED "status.refreshed", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Apply Lift Damage BringBack Waves], StatusLine "{status} on {subject} is refreshed[, until {ends}|, until it is lifted]" {
            /// The application.
            application: ApplicationId => Identity,
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The status.
            status: StatusId => Identity Status,
            /// Its strength.
            strength: Fixed => Content,
            /// How many times it counts.
            stacks: u16 => Content,
            /// The tick of its end.
            ends: Option<u32> => Content Tick,
        }

        /// A status that runs already counts once more.
        StatusStacked = STATUS_STACKED "status.stacked", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Apply Lift Damage BringBack Waves], StatusLine "{status} on {subject} counts {stacks} times[, until {ends}|, until it is lifted]" {
            /// The application.
            application: ApplicationId => Identity,
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The status.
            status: StatusId => Identity Status,
            /// Its strength.
            strength: Fixed => Content,
            /// How many times it counts.
            stacks: u16 => Content,
            /// The tick of its end.
            ends: Option<u32> => Content Tick,
        }

        /// A status takes effect again, as it does every so many ticks.
        StatusPulsed = STATUS_PULSED "status.pulsed", by [Orders Contacts Blows Statuses Passes], after [], StatusLine "{status} on {subject} pulses" {
            /// The application.
            application: ApplicationId => Identity,
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The status.
            status: StatusId => Identity Status,
            /// Its strength.
            strength: Fixed => Content,
            /// How many times it counts.
            stacks: u16 => Content,
        }

        /// A status is not applied.
        StatusRefused = STATUS_REFUSED "status.refused", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Apply Lift Damage BringBack Waves], RefusedLine "{status} is refused by {subject}: {why}" {
            /// The combatant that would have had it.
            subject: CombatantId => Identity Subject,
            /// Who applied it.
            source: Option<CombatantId> => Identity Other,
            /// The status.
            status: StatusId => Identity Status,
            /// Its strength.
            strength: Fixed => Content,
            /// The reason.
            why: BarredBy => Content,
        }

        /// The bearer of a status that outlasts a life died or went away; the status waits for the return.
        StatusSuspended = STATUS_SUSPENDED "status.suspended", by [Orders Blows Statuses Passes Departures], after [Damage SendAway Transform], StatusOver "{status} on {subject} waits for its return" {
            /// The application.
            application: ApplicationId => Identity,
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The status.
            status: StatusId => Identity Status,
            /// The reason.
            why: Why => Content,
        }

        /// The bearer has returned, and the status goes on.
        StatusResumed = STATUS_RESUMED "status.resumed", by [Orders Passes Departures], after [BringBack], StatusLine "{status} on {subject} goes on[, until {ends}|, until it is lifted]" {
            /// The application.
            application: ApplicationId => Identity,
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The status.
            status: StatusId => Identity Status,
            /// The tick of its end.
            ends: Option<u32> => Content Tick,
        }

        /// The time of a status is up.
        StatusExpired = STATUS_EXPIRED "status.expired", by [Orders Blows Statuses Passes], after [], StatusOver "{status} on {subject} expires" {
            /// The application.
            application: ApplicationId => Identity,
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The status.
            status: StatusId => Identity Status,
            /// The reason: always `done`.
            why: Why => Content,
        }

        /// A status ends before its time.
        StatusLifted = STATUS_LIFTED "status.lifted", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Apply Lift Damage SendAway Remove Reset BringBack Waves Transform], StatusOver "{status} on {subject} is lifted ({why})" {
            /// The application.
            application: ApplicationId => Identity,
            /// Its bearer.
            subject: CombatantId => Identity Subject,
            /// The status.
            status: StatusId => Identity Status,
            /// The reason.
            why: Why => Content,
        }

        /// A death is prevented.
        CombatantSpared = COMBATANT_SPARED "combatant.spared", by [Orders Blows Statuses Passes], after [Damage], Healed "{by|the host} keeps {subject} alive" {
            /// Who lives on.
            subject: CombatantId => Identity Subject,
            /// What prevented it.
            by: Cause => Content,
        }

        /// A combatant dies. From now on it reacts to nothing, until it returns.
        CombatantDied = COMBATANT_DIED "combatant.died", by [Orders Blows Statuses Passes], after [Damage], Death "{subject} dies[, killed by {killer}] with {via}[, overkill {overkill}][, assisted by {assists}][, lives left: {lives}][, {values}]" {
            /// Who dies.
            subject: CombatantId => Identity Subject,
            /// Its team.
            team: TeamId => Content,
            /// The life that ends, from 1.
            life: u32 => Identity,
            /// Who killed it.
            killer: Option<CombatantId> => Identity Other,
            /// The root owner of the killer.
            credit: Option<CombatantId> => Content,
            /// How it came about.
            via: Via => Content,
            /// Who damaged it lately, beside the killer.
            assists: Range => Content Assists,
            /// What damage exceeded the health that was left.
            overkill: i64 => Content Points,
            /// Where it died.
            at: [f32; 3] => Content Metres,
            /// How many lives are left, for those who have several.
            lives: Option<u32> => Content,
            /// What was attached to it.
            values: Range => Content Values,
        }

        /// A round begins.
        EncounterRound = ENCOUNTER_ROUND "encounter.round", by [Orders Passes], after [Round], Headline "round {round}" {
            /// The round, from 1.
            round: u32 => Content,
        }

        /// A wave comes.
        EncounterWave = ENCOUNTER_WAVE "encounter.wave", by [Departures], after [Waves], Headline "wave {wave} of {waves}: {count}" {
            /// The sequence of waves.
            waves as "name": WaveId => Identity,
            /// Its wave, from 1.
            wave: u32 => Identity,
            /// How many come.
            count: u32 => Content,
        }

        /// The encounter begins again: the next tick is the first.
        EncounterReset = ENCOUNTER_RESET "encounter.reset", by [Departures], after [Reset], Headline "the encounter begins again" {}

        /// The leader of a follower died or was removed. It comes once, and the follower follows no one from then on.
        LeaderLost = LEADER_LOST "leader.lost", by [Orders Blows Statuses Passes Departures], after [Damage Remove Reset], LeftPlain "{subject} has lost its leader, {leader}" {
            /// The follower.
            subject: CombatantId => Identity Subject,
            /// The leader.
            leader: CombatantId => Identity Other,
            /// The reason.
            why: Why => Content,
        }

        /// Health crosses a threshold.
        HealthCrossed = HEALTH_CROSSED "health.crossed", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Damage Heal Apply Lift Transform], Crossed "the health of {subject} goes {direction} through {threshold}" {
            /// Whose.
            subject: CombatantId => Identity Subject,
            /// The threshold.
            threshold: ThresholdId => Identity,
            /// The direction.
            direction: Crossing => Content,
        }

        /// A gauge beside health changes.
        GaugeChanged = GAUGE_CHANGED "gauge.changed", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Gauge Start Apply Lift BringBack Damage Heal Transform], Hidden "" {
            /// Whose.
            subject: CombatantId => Identity Subject,
            /// The gauge.
            gauge as "name": GaugeId => Identity,
            /// What it held.
            from: i64 => Content Points,
            /// What it holds.
            to: i64 => Content Points,
            /// Its maximum.
            max: i64 => Content Points,
            /// The reason.
            why: GaugeWhy => Content,
            /// Who brought it about, if that was someone.
            source: Option<CombatantId> => Content Other,
            /// What a status kept of what would have been lost, if it kept anything.
            kept: Option<NonZeroU32> => Content Points,
        }

        /// A gauge beside health crosses a threshold.
        GaugeCrossed = GAUGE_CROSSED "gauge.crossed", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Gauge Start Apply Lift Damage Heal Transform], Crossed "{gauge} of {subject} goes {direction} through {threshold}" {
            /// Whose.
            subject: CombatantId => Identity Subject,
            /// The gauge.
            gauge as "name": GaugeId => Identity,
            /// The threshold.
            threshold: ThresholdId => Identity,
            /// The direction.
            direction: Crossing => Content,
            /// Who brought it about, if that was someone.
            source: Option<CombatantId> => Content Other,
        }

        /// A gauge beside health is empty.
        GaugeEmpty = GAUGE_EMPTY "gauge.empty", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Gauge Start Apply Lift Damage Heal Transform], Crossed "{gauge} of {subject} is empty[, by {source}]" {
            /// Whose.
            subject: CombatantId => Identity Subject,
            /// The gauge.
            gauge as "name": GaugeId => Identity,
            /// Who emptied it, if that was someone.
            source: Option<CombatantId> => Content Other,
        }

        /// A gauge beside health is full.
        GaugeFull = GAUGE_FULL "gauge.full", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Gauge Start Apply Lift Damage Heal Transform], Crossed "{gauge} of {subject} is full[, by {source}]" {
            /// Whose.
            subject: CombatantId => Identity Subject,
            /// The gauge.
            gauge as "name": GaugeId => Identity,
            /// Who filled it, if that was someone.
            source: Option<CombatantId> => Content Other,
        }

        /// A combatant goes over to another team.
        CombatantSwitched = COMBATANT_SWITCHED "combatant.switched", by [Orders Passes], after [Team], RuleLoud "{subject} goes over from the {from} to the {to}" {
            /// Who.
            subject: CombatantId => Identity Subject,
            /// The team before.
            from: TeamId => Content,
            /// The team from now on.
            to: TeamId => Content,
        }

        /// The time of a combatant goes slower or faster.
        CombatantRetimed = COMBATANT_RETIMED "combatant.retimed", by [Orders Passes], after [Time], RuleLoud "the time of {subject} goes {to} times as fast, after {from}" {
            /// Whose.
            subject: CombatantId => Identity Subject,
            /// How it went, against the encounter's: 1 is as usual.
            from: Fixed => Content,
            /// How it goes.
            to: Fixed => Content,
        }

        /// A combatant becomes one of another template.
        CombatantTransformed = COMBATANT_TRANSFORMED "combatant.transformed", by [Orders Passes], after [Transform], RuleLoud "{subject} becomes a {to}, with {health} of {max} health" {
            /// Who.
            subject: CombatantId => Identity Subject,
            /// What it was.
            from: TemplateId => Content,
            /// What it is.
            to: TemplateId => Content,
            /// Health, whose share stays as it was.
            health: i64 => Content Points,
            /// Its maximum.
            max: i64 => Content Points,
        }

        /// A hit begins a hold: from now on the one who is held goes where its holder goes.
        HoldBegan = HOLD_BEGAN "hold.began", by [Blows], after [], RuleLoud "{holder} holds {held}" {
            /// The hold, from 1 in each epoch.
            hold: u64 => Identity,
            /// Who is held.
            held: CombatantId => Identity Subject,
            /// Who holds.
            holder: CombatantId => Identity Other,
            /// The attack whose hit began it.
            attack: AttackId => Identity Attack,
        }

        /// A hold ends. Each has one end.
        HoldEnded = HOLD_ENDED "hold.ended", by [Orders Swings Contacts Blows Statuses Passes Departures], after [Damage LetGo Transform SendAway Remove End Reset], RuleLoud "{holder} lets {held} go ({why})" {
            /// The hold.
            hold: u64 => Identity,
            /// Who was held.
            held: CombatantId => Identity Subject,
            /// Who held.
            holder: CombatantId => Identity Other,
            /// How long it lasted.
            lasted: u32 => Content Ticks,
            /// Why it ends.
            why: Why => Content,
        }

        /// The game's own minds are asked to do something with a combatant.
        TacticsRequested = TACTICS_REQUESTED "tactics.requested", by [Orders Passes], after [Request], RuleLoud "{subject} is asked to {tactic}[, as to {other}]" {
            /// Who.
            subject: CombatantId => Identity Subject,
            /// What is asked.
            tactic: Tactic => Identity,
            /// Whom it is about, if it is about anyone.
            other: Option<CombatantId> => Identity Other,
        }

        /// A flag changes.
        FlagChanged = FLAG_CHANGED "flag.changed", by [Orders Passes], after [Flag], RuleLoud "flag {flag} is {to?up:down}" {
            /// The flag.
            flag as "name": FlagId => Identity,
            /// Whether it is up.
            to: bool => Content,
        }

        /// A counter changes.
        CounterChanged = COUNTER_CHANGED "counter.changed", by [Orders Passes], after [Count], RuleQuiet "counter {counter}: {from} to {to}" {
            /// The counter.
            counter as "name": CounterId => Identity,
            /// What it was.
            from: i64 => Content,
            /// What it is.
            to: i64 => Content,
        }

        /// A flag of a combatant goes up or down.
        CombatantFlagged = COMBATANT_FLAGGED "combatant.flagged", by [Orders Passes], after [CombatantFlag], RuleQuiet "{subject}: flag {flag} is {to?up:down}" {
            /// The combatant.
            subject: CombatantId => Identity Subject,
            /// The flag.
            flag as "name": CombatantFlagId => Identity,
            /// Whether it is up.
            to: bool => Content,
        }

        /// A counter of a combatant changes.
        CombatantCounted = COMBATANT_COUNTED "combatant.counted", by [Orders Passes], after [CombatantCount], RuleQuiet "{subject}: counter {counter}: {from} to {to}" {
            /// The combatant.
            subject: CombatantId => Identity Subject,
            /// The counter.
            counter as "name": CombatantCounterId => Identity,
            /// What it was.
            from: i64 => Content,
            /// What it is.
            to: i64 => Content,
        }

        /// A score changes.
        ScoreChanged = SCORE_CHANGED "score.changed", by [Orders Passes], after [Score], RuleLoud "score {score}: {from} to {to}[, for {credit}]" {
            /// The score.
            score as "name": ScoreId => Identity,
            /// What it was.
            from: i64 => Content,
            /// What it is.
            to: i64 => Content,
            /// Who is credited.
            credit: Option<CombatantId> => Content Subject,
        }

        /// A line is said.
        Said = SAID "said", by [Orders Passes], after [Say], Speech "[{subject}: ]{spoken}[ (to {listener})]" {
            /// The line, with names and numbers filled in; beside it what the ruleset says of it: the team that it is for, for how many ticks it is shown, and its category.
            spoken as "text": Spoken => Content,
            /// Who says it; absent for a narrator.
            subject: Option<CombatantId> => Identity Subject,
            /// To whom, if it is said to one.
            listener: Option<CombatantId> => Content,
        }

        /// A rule fires. Its reactions follow.
        RuleFired = RULE_FIRED "rule.fired", by [Orders Passes], after [Every], RuleQuiet "rule {rule} fires[ for {subject}]" {
            /// The rule.
            rule as "name": RuleId => Identity,
            /// The subject of the fact that it heard.
            subject: Option<CombatantId> => Identity Subject,
            /// The other party of that fact.
            other: Option<CombatantId> => Identity Other,
        }

        /// A stand-in has chosen something to do; told only by those that are asked to tell.
        TacticsChose = TACTICS_CHOSE "tactics.chose", by [Orders Passes], after [TellChoice], RuleLine "{subject} ({tactics}) chooses {choice}[, at {other}][; not {passed}]" {
            /// Who.
            subject: CombatantId => Identity Subject,
            /// Its target, if it has one.
            other: Option<CombatantId> => Identity Other,
            /// The name of its tactics.
            tactics: Text => Content,
            /// The name of the choice.
            choice: Text => Content,
            /// The choices before it, each with why it did not fit.
            passed: Text => Content,
        }

        /// A stand-in does not do what it had chosen.
        TacticsDropped = TACTICS_DROPPED "tactics.dropped", by [Orders Passes], after [TellChoice], RuleLine "{subject} ({tactics}) drops {choice}: {reason}" {
            /// Who.
            subject: CombatantId => Identity Subject,
            /// Its target, if it has one.
            other: Option<CombatantId> => Identity Other,
            /// The name of its tactics.
            tactics: Text => Content,
            /// The name of the choice.
            choice: Text => Content,
            /// Why.
            reason: Text => Content,
        }
    }

    by_damage_type {
        /// Damage of one type is dealt, also where shields absorbed all of it.
        DamageDealt = "damage.dealt", by [Orders Blows Statuses Passes], after [Damage], HitLine "{via}[ ({echo})] damages {target}[ from {source}]" {
            /// The damage type.
            damage_type: DamageTypeId => Identity DamageType,
            /// The blow, from 1 in each epoch; all its damage types share it.
            blow: u64 => Identity,
            /// The hit, for blows of attacks.
            hit: Option<u64> => Identity,
            /// Who deals it.
            source: Option<CombatantId> => Identity Other,
            /// Who is damaged.
            target: CombatantId => Identity Subject,
            /// How it came about.
            via: Via => Identity Attack Status,
            /// What health lost.
            amount: i64 => Content Points,
            /// What shields took, if they took anything.
            absorbed: Option<NonZeroU32> => Content Points,
            /// What went beyond the health that was left, if anything did.
            overkill: Option<NonZeroU32> => Content Points,
            /// Whether the blow was critical.
            critical: bool => Content WhenTrue,
            /// How it was passed on, if it was.
            echo: Option<Echo> => Identity,
            /// Where the blow touched, for damage by attacks that was not passed on.
            point: Option<[f32; 3]> => Content Metres,
            /// Its ledger.
            ledger: Range => Content Ledger,
        }
    }

    of_the_host {
        /// A fact of the host's own. Its subject is the first combatant among the values, the other party the second.
        HostFact = "host", by [Orders Passes], after [Publish], RuleLine "" {
            /// Its topic.
            topic: TopicId => Identity Unwritten,
            /// Its values, in the order of the topic's fields.
            values: [HostValue; 4] => Content,
        }
    }
}
