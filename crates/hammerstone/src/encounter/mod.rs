//! One fight: a ruleset, a state, and memory that decides nothing.

#[cfg(feature = "serde")]
mod adopt;
#[cfg(feature = "serde")]
mod differ;
#[cfg(feature = "figures")]
mod figures;
mod journal;
mod load;
mod save;
#[cfg(feature = "serde")]
mod saved_bytes;

#[cfg(feature = "serde")]
pub use adopt::{AdoptError, RemovedName};
#[cfg(feature = "serde")]
pub use differ::StateDifference;
pub use journal::Restored;
#[cfg(all(feature = "serde", feature = "audit"))]
pub use save::AnySeal;
pub use save::{RestoreError, Saved};
#[cfg(feature = "serde")]
pub use saved_bytes::SavedBytesError;
#[cfg(all(feature = "serde", feature = "audit"))]
pub use saved_bytes::seal_again;

use journal::Journal;
use load::load;

use crate::event::{Facts, TickFacts};
use std::sync::Arc;

use crate::checksum::{checksum, same_bits};
use crate::columns::Fills;
use crate::conditions::{self, Setting};
use crate::detect::{BeamLine, Division, InTheWay};
use crate::event::{Counts, Loss};
use crate::flow;
use crate::geometry::{FirstTouch, Moving, Pose};
use crate::hooks::{Hooks, Host, Kept, Looking};
use crate::ids::*;
use crate::level::Level;
use crate::orders::{Order, Poses};
use crate::resolve::{self, Luck, Preview};
use crate::rolls::{Occasion, Purpose, name_key};
use crate::ruleset::{Question, Ruleset};
use crate::scene::Scene;
use crate::spans;
use crate::state::{Flow, LAST_TICK, State, Subscription};
use crate::terms::Refusal;

use crate::hub::Unconfirmed;
use crate::log::{Load, Log};
use crate::tick;
use crate::view::View;
use crate::work::{Rooms, Work};

/// Why a tick did not run. The encounter is as it was before the call.
#[derive(Clone, Copy, PartialEq, Eq, Debug, thiserror::Error)]
pub enum TickError {
    /// The encounter has ended.
    #[error("the encounter has ended; make a new one, or restore a state from before its end")]
    Ended,
    /// A hook panicked in an earlier tick, so that the tick was left half done.
    #[error("a hook panicked in tick {tick}, which was left half done; restore a saved state")]
    Interrupted {
        /// The tick.
        tick: u32,
    },
    /// Running numbers, of which there are some 10¹² between two resets, or ticks, of which there are 4·10⁹, are used up. None ever
    /// means two things.
    #[error(
        "there are no more numbers for swings, orders, contacts, statuses or ticks; reset, or make a new encounter"
    )]
    NoMoreNumbers,
    /// A subscription calls a hook that was not given for this tick, or that is none that reacts.
    #[error(
        "a subscription calls hook number {hook}, which was not given; tick with the hooks that subscribed"
    )]
    UnknownHook {
        /// The hook's number.
        hook: usize,
    },
}

/// What happened in a tick, in short.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Summary {
    /// The tick, from 1.
    pub tick: u32,
    /// How many facts were published.
    pub facts: usize,
    /// Hits that landed in this tick.
    pub hits: u64,
    /// Whether the encounter has ended.
    pub ended: bool,
    /// Whether it began anew when the tick was over.
    pub reset: bool,
    /// What the tick had to do.
    pub load: Load,
}

/// One fight.
///
/// *Determinism:* the same ruleset, seed and orders give the same bytes of state and the same facts,
/// on every machine, in debug and release, after any saving and restoring, and whatever is recorded.
/// Every encounter is on its own: any number may run side by side in any number of threads.
///
/// ```
/// # use hammerstone::prelude::*;
/// # let mut b = Ruleset::builder(60);
/// # let masons = b.team("masons");
/// # let mason = b.template(Template::new("mason", masons, 40));
/// # let rules = b.build().unwrap();
/// let mut fight = Encounter::new(&rules, 7);
/// let odo = fight.orders().spawn(mason, Pose::IDENTITY);
/// let summary = fight.tick()?;
/// assert_eq!(summary.tick, 1);
/// assert_eq!(fight.view().health(odo), Some((40, 40)));
/// # Ok::<(), TickError>(())
/// ```
#[doc(alias("fight", "battle", "combat", "simulation"))]
#[derive(Clone, Debug)]
pub struct Encounter {
    rules: Ruleset,
    level: Level,
    state: State,
    log: Log,
    rooms: Rooms,
    /// The state with which the first tick began.
    first: Option<Arc<State>>,
    unconfirmed: Unconfirmed,
    interrupted: bool,
    journal: Journal,
}

impl Encounter {
    /// A prepared encounter: no one in it, tick 0.
    pub fn new(rules: &Ruleset, seed: u64) -> Encounter {
        Encounter::in_level(rules, &Level::default(), seed)
    }

    /// As [`new`](Self::new), in a level, which stands in the way of projectiles, beams and lines of sight.
    pub fn in_level(rules: &Ruleset, level: &Level, seed: u64) -> Encounter {
        Encounter {
            rules: rules.clone(),
            level: level.clone(),
            state: State::new(seed, rules.compiled()),
            log: Log::default(),
            rooms: Rooms::default(),
            first: None,
            unconfirmed: Unconfirmed::default(),
            interrupted: false,
            journal: Journal::default(),
        }
    }

    /// Why an order would be refused in the next tick as things stand, if it would.
    pub fn would_refuse(&self, order: &Order) -> Option<Refusal> {
        self.refusal(order).err()
    }

    /// Whether `subject` may start `attack` in the next tick as things stand; if not, the refusal that an order would get, and
    /// [when](Refusal::ticks) it would no longer. No id is reserved.
    pub fn can_start(&self, subject: CombatantId, attack: AttackId) -> Result<(), Refusal> {
        let swing = self.state.registrar.coming_swing();
        let order = Order::Start { swing, subject, attack, aim: None };
        self.refusal(&order)
    }

    fn refusal(&self, order: &Order) -> Result<(), Refusal> {
        crate::execute::refusal(self.rules.compiled(), &self.state, order, self.state.tick + 1)
    }

    /// Runs one tick without hooks.
    pub fn tick(&mut self) -> Result<Summary, TickError> {
        self.tick_for(&mut ())
    }

    /// Runs one tick; `world` is given to the hooks that hear its facts.
    ///
    /// If a hook panics, the panic goes through to the caller and the encounter is marked: each later tick is
    /// [`TickError::Interrupted`] until a saved state is restored.
    pub fn tick_with<W>(&mut self, hooks: &Hooks<W>, world: &mut W) -> Result<Summary, TickError> {
        self.tick_for(&mut hooks.with(world))
    }

    /// The parts that a tick borrows.
    fn work<'a>(&'a mut self, host: &'a mut dyn Host) -> Work<'a> {
        let Encounter { rules, level, state, log, rooms, .. } = self;
        Work { ruleset: rules, rules: rules.compiled(), level, state, log, rooms, host }
    }

    /// Runs one tick for a host of any sort.
    pub fn tick_for(&mut self, host: &mut dyn Host) -> Result<Summary, TickError> {
        if self.interrupted {
            return Err(TickError::Interrupted { tick: self.state.tick });
        }
        let resets = || self.state.pending.iter().any(|pending| pending.order == Order::Reset);
        if matches!(self.state.flow, Flow::Ended(_)) && !resets() {
            return Err(TickError::Ended);
        }
        let counters = self.state.next_contact.max(self.state.next_application);
        let late = self.state.tick >= LAST_TICK;
        if self.state.registrar.is_exhausted() || counters > LAST_NUMBER || late {
            return Err(TickError::NoMoreNumbers);
        }
        self.all_hooks_given(host)?;
        self.interrupted = true;
        self.log.clear_facts();
        self.rooms.listeners.watched.clear();
        self.rooms.statuses.roots_of_new.clear();
        if self.state.flow == Flow::Prepared {
            // After a reset it is there already: orders that were given since are no part of it.
            let first = self.first.get_or_insert_with(|| {
                let mut first = self.state.clone();
                // A reset in the set-up would come again and again.
                first.pending.retain(|pending| pending.order != Order::Reset);
                Arc::new(first)
            });
            self.state.first_fingerprint = checksum(first.as_ref());
        }
        self.state.tick += 1;
        let (before, first_fact) = (self.state.counts, self.state.next_fact);
        self.log.load = Load::default();
        self.log.begin_tick(self.rules.compiled(), &self.state);
        let span = spans::begin_tick(self.state.tick);
        tick::run(&mut self.work(host));
        self.log.end_tick(&mut self.state);
        self.interrupted = false;
        let load = load(&self.state, &self.log, &self.rooms, before, first_fact);
        spans::end_tick(&span, &load, &self.log.tick.as_facts(), &self.rules);
        let summary = Summary {
            tick: self.state.tick,
            facts: self.log.tick.facts.len(),
            hits: self.state.counts.hits - before.hits,
            ended: matches!(self.state.flow, Flow::Ended(_)),
            reset: self.rooms.reacting.resets,
            load,
        };
        self.unconfirmed.observe(&self.log.tick, &self.rooms.listeners.watched);
        if std::mem::take(&mut self.rooms.reacting.resets)
            && let Some(first) = &self.first
        {
            flow::begin_anew(&mut self.state, first);
            self.log.forget_all_but_facts();
            self.rooms.forget();
        }
        self.journal.ran();
        Ok(summary)
    }

    /// Confirms the ticks up to the last, as they ran: hooks that [watch](Hooks::watch) are called with what reached them, in order,
    /// and each tick once. Gives how many calls that were.
    ///
    /// A host that never runs a tick again confirms after each. One that rolls back confirms when it is sure; ticks that ran
    /// before a state was restored, and were not confirmed, are forgotten. The view that hooks see is the present one.
    pub fn confirm<W>(&mut self, hooks: &Hooks<W>, world: &mut W) -> usize {
        self.confirm_for(&mut hooks.with(world))
    }

    /// As [`confirm`](Self::confirm), for a host of any sort.
    pub fn confirm_for(&mut self, host: &mut dyn Host) -> usize {
        self.confirm_through(self.log.tick.epoch, self.log.tick.tick, host)
    }

    /// As [`confirm_for`](Self::confirm_for), up to a tick of an [epoch](Facts::epoch).
    pub fn confirm_through(&mut self, epoch: u32, tick: u32, host: &mut dyn Host) -> usize {
        let view = View::of(&self.rules, &self.state);
        self.unconfirmed.confirm((epoch, tick), host, view)
    }

    /// Runs a tick for a driver, which keeps what waits for being confirmed.
    pub(crate) fn drive<T>(&mut self, run: impl FnOnce(&mut Encounter) -> T) -> T {
        self.unconfirmed.driven = true;
        let ran = run(self);
        self.unconfirmed.driven = false;
        ran
    }

    /// The facts of the last tick, and what of them reached hooks that watch or show.
    pub(crate) fn kept(&self) -> (&TickFacts, &[Kept]) {
        (&self.log.tick, &self.rooms.listeners.watched)
    }

    /// The seed of its rolls.
    pub fn seed(&self) -> u64 {
        self.state.seed
    }

    /// How many resets there were.
    pub fn epoch(&self) -> u32 {
        self.state.registrar.epoch.0
    }

    /// What one blow of `attack` by `attacker` on a part of `target` would come to if it landed now, from where both stand; with its
    /// ledger. Changes nothing. It takes no gates and asks no intercepts; a step of the host's own leaves the amount as it is.
    ///
    /// *Errors:* as those of an order, where one of both does not stand or has no such part.
    #[doc(alias("damage preview"))]
    pub fn preview(
        &self,
        attacker: CombatantId,
        attack: AttackId,
        target: CombatantId,
        part: u16,
        luck: Luck,
    ) -> Result<Preview, Refusal> {
        resolve::preview(&self.rules, &self.state, &mut (), attacker, attack, (target, part), luck)
    }

    /// As [`preview`](Self::preview), with the host's own steps.
    pub fn preview_with<W>(
        &self,
        hooks: &Hooks<W>,
        world: &W,
        attacker: CombatantId,
        attack: AttackId,
        (target, part): (CombatantId, u16),
        luck: Luck,
    ) -> Result<Preview, Refusal> {
        let mut looking = Looking { hooks, world };
        resolve::preview(&self.rules, &self.state, &mut looking, attacker, attack, (target, part), luck)
    }

    /// Every hook that is subscribed, and will be when the tick has carried out its orders, is among the given ones. Without hooks
    /// nothing can be subscribed either.
    fn all_hooks_given(&self, host: &dyn Host) -> Result<(), TickError> {
        let ends = |subscription: &&Subscription| {
            self.state.pending.iter().any(|pending| match pending.order {
                Order::Unsubscribe { which } => subscription.ends_by(which),
                _ => false,
            })
        };
        let unknown = self.state.subscriptions.iter().filter(|one| host.hook(one.hook).is_none());
        let subscribed = unknown.filter(|one| !ends(one)).map(|one| one.hook);
        let subscribing = self.state.pending.iter().filter_map(|pending| match pending.order {
            Order::Subscribe { hook, .. } if !host.has_hooks() => Some(hook),
            _ => None,
        });
        match subscribed.chain(subscribing).next() {
            Some(hook) => Err(TickError::UnknownHook { hook: hook.index() }),
            None => Ok(()),
        }
    }

    /// The orders that wait for the next tick, in the order given, with their numbers.
    pub fn pending_orders(&self) -> impl ExactSizeIterator<Item = (OrderId, &Order)> {
        self.state.pending.iter().map(|pending| (pending.number, &pending.order))
    }

    /// The poses that an order which waits names, for those who record orders; none if they are not there any longer.
    pub fn poses(&self, poses: Poses) -> Option<&[Pose]> {
        poses.of(&self.state.given_poses)
    }

    /// Takes back an order that waits. An id that was reserved for it lapses.
    pub fn drop_order(&mut self, number: OrderId) -> Option<Order> {
        self.orders().take_back(number)
    }

    /// Takes back all orders that wait.
    pub fn drop_orders(&mut self) {
        self.orders().take_all_back();
    }

    /// The facts of the last tick.
    pub fn facts(&self) -> Facts<'_> {
        self.log.tick.as_facts()
    }

    /// The beams that were there in the last tick, from end to end as they stood when it was over, for drawing.
    pub fn beams(&self) -> &[BeamLine] {
        &self.rooms.detection.beams
    }

    /// What stood where in the last tick, and how it moved: for pictures and explanations.
    pub fn scene(&self) -> Scene<'_> {
        Scene::of(&self.rules, &self.level, &self.state, &self.rooms.detection)
    }

    /// The encounter as it stands.
    pub fn view(&self) -> View<'_> {
        View::of(&self.rules, &self.state)
    }

    /// The ruleset.
    pub fn rules(&self) -> &Ruleset {
        &self.rules
    }

    /// The level in which it takes place.
    pub fn level(&self) -> &Level {
        &self.level
    }

    /// The outcome, once the encounter has ended.
    pub fn outcome(&self) -> Option<OutcomeId> {
        match self.state.flow {
            Flow::Ended(outcome) => Some(outcome),
            _ => None,
        }
    }

    /// Attempts, hits and refusals since the start.
    pub fn counts(&self) -> Counts {
        self.state.counts
    }

    /// Whether facts of damage carry their ledgers from the next tick on; off unless said. Changes no byte of the state.
    pub fn keep_ledgers(&mut self, keep: bool) {
        self.log.keep_ledgers = keep;
    }

    /// Whether it is noted who heard which fact, from the next tick on; off unless said. Changes no byte of the state.
    pub fn keep_deliveries(&mut self, keep: bool) {
        self.log.keep_deliveries = keep;
    }

    /// Whether it is noted what each gate wanted and found that let a hit pass ([`Facts::gates`]), from the next tick on; off unless
    /// said. Refusals carry theirs always. Changes no byte of the state.
    pub fn keep_gates(&mut self, keep: bool) {
        self.log.keep_gates = keep;
    }

    /// Whether the stable keys of facts are kept ([`Facts::keys`]), from the next tick on; off unless said. Changes no byte of the state.
    pub fn keep_keys(&mut self, keep: bool) {
        self.log.keep_keys = keep;
    }

    /// Whether facts that neither a rule nor a hook listens to are counted and not written, from the next tick on; off unless said. For
    /// hosts that have hooks called and do not read the facts of a tick: those have holes then. Changes no byte of the state.
    pub fn write_only_what_is_heard(&mut self, only: bool) {
        self.log.only_heard = only;
    }

    /// Divides detection, from the next tick on, into up to `shares` shares of at least `least` hitboxes each; 1 unless said. With the
    /// feature `threads` they run side by side, on the pool of rayon's that the tick is run in. Nothing comes out otherwise, and no byte of
    /// the state changes.
    ///
    /// It pays where a hundred hitboxes and more are open at once: four shares for each thread, of 32 hitboxes and more, with the tick called on a
    /// thread of the pool (`pool.install`), so that it need not wake up two of them.
    pub fn divide_detection(&mut self, shares: usize, least: usize) {
        self.rooms.detection.division = Division { shares, least };
    }

    /// How many bytes of memory the rows and columns of its state fill, with the state that a reset returns to. Facts and buffers come to it,
    /// which are no more than the largest tick needed.
    pub fn state_bytes(&self) -> usize {
        self.state.bytes() + self.first.as_ref().map_or(0, |first| first.bytes())
    }

    /// Whether conditions hold as the encounter stands, for two parties of which either may be missing: what rules ask of a fact, at any time.
    /// None for conditions that were checked against another ruleset.
    ///
    /// ```
    /// use hammerstone::flow::{Condition, Group};
    /// use hammerstone::prelude::*;
    /// let mut b = Ruleset::builder(60);
    /// let masons = b.team("masons");
    /// let mason = b.template(Template::new("mason", masons, 40));
    /// let rules = b.build().unwrap();
    /// let alone = rules.question(vec![Condition::Alive(Group::team(masons), 1, 1)]).unwrap();
    /// let mut fight = Encounter::new(&rules, 7);
    /// fight.orders().spawn(mason, Pose::IDENTITY);
    /// fight.tick()?;
    /// assert_eq!(fight.holds(&alone, None, None), Some(true));
    /// # Ok::<(), TickError>(())
    /// ```
    pub fn holds(
        &self,
        question: &Question,
        subject: Option<CombatantId>,
        other: Option<CombatantId>,
    ) -> Option<bool> {
        let setting = self.asked(question, subject, other)?;
        Some(setting.look().first_lost(&question.when).is_none())
    }

    /// Why conditions do not hold now: the innermost ones that decide it, each with what it found, in the order of
    /// [`Condition::with_inner`](crate::flow::Condition::with_inner) over the question's conditions. Empty where they hold; none for conditions that were checked
    /// against another ruleset.
    pub fn losses(
        &self,
        question: &Question,
        subject: Option<CombatantId>,
        other: Option<CombatantId>,
    ) -> Option<Vec<Loss>> {
        let setting = self.asked(question, subject, other)?;
        let looking = setting.look();
        let mut losses = Vec::new();
        if let Some(lost) = looking.first_lost(&question.when) {
            looking.begin_at(question.when[..lost].iter().map(conditions::count).sum());
            looking.note_losses(&question.when[lost], true, &mut losses);
        }
        Some(losses)
    }

    fn asked<'a>(
        &'a self,
        question: &Question,
        subject: Option<CombatantId>,
        other: Option<CombatantId>,
    ) -> Option<Setting<'a>> {
        let ruleset = &self.rules;
        let occasion = Occasion { attacker: 0, via: 0, start: 0, target: 0, ordinal: 0 };
        let (rules, state, level) = (ruleset.compiled(), &self.state, &self.level);
        let setting =
            Setting { ruleset, rules, state, level, subject, other, fact: None, hit: None, occasion };
        (question.fingerprint == ruleset.fingerprint()).then_some(setting)
    }

    /// A whole number from `low` to `high`, both included, each equally likely: a roll of the fight's for the host's own use. It depends on nothing but the seed, the
    /// combatant's stable key, what it is for and its number, so that one more roll elsewhere changes nothing here. `low` where `high` is below it.
    pub fn roll(&self, who: Option<CombatantId>, purpose: &str, number: u64, low: i64, high: i64) -> i64 {
        let combatants = &self.state.combatants;
        let key = who.filter(|&who| combatants.has_place(who)).map_or(0, |who| combatants.key[who.slot()]);
        let occasion =
            Occasion { attacker: key, via: name_key(purpose), start: 0, target: 0, ordinal: number };
        occasion.whole(self.state.seed, 0, Purpose::Host, low, high.max(low))
    }

    /// What a shape on its way within a tick first touches of what is solid: the level, and obstacles as they stand.
    pub fn first_solid(&self, shape: &Moving) -> Option<FirstTouch> {
        let in_the_way = InTheWay { level: &self.level, obstacles: &self.state.obstacles, stops: &[] };
        let (impact, _) = in_the_way.first(&shape.swept)?;
        let (point, normal) = (impact.point.to_array(), impact.normal.to_array());
        Some(FirstTouch { toi: impact.toi, point, normal })
    }

    /// A number that differs, but for chance, wherever a single bit of the state differs.
    pub fn checksum(&self) -> u64 {
        checksum(&self.state)
    }

    /// Whether both encounters' states are the same, bit for bit.
    pub fn same_state(&self, other: &Encounter) -> bool {
        same_bits(&self.state, &other.state)
    }
}
