//! Reads an encounter, between ticks and in hooks.

mod progress;

pub use progress::{Phase, Progress, SwingView};

use crate::Fixed;
use crate::geometry::Pose;
use crate::ids::*;
use crate::orders::Queue;
use crate::ruleset::{Group, Rules, Ruleset};
use crate::sheet::{self, StatAccount};
use crate::state::{self, Bearers, Hold, Past, Pause, Tempo};
use crate::state::{Application, Combatants, Flying, State, StatusAt, Subscription, Swing, WavesState};
use crate::tempo;
use crate::terms::Listen;
use crate::terms::NORMAL;
use crate::terms::{Life, WaveState};

/// Reads an encounter, between ticks and in hooks.
#[derive(Clone, Copy, Debug)]
pub struct View<'a> {
    pub(crate) ruleset: &'a Ruleset,
    pub(crate) rules: &'a Rules,
    pub(crate) tick: u32,
    pub(crate) combatants: &'a Combatants,
    pub(crate) swings: &'a [Swing],
    pub(crate) flying: &'a [Flying],
    pub(crate) applications: &'a [Application],
    pub(crate) flow: FlowView<'a>,
}

/// What a view shows of the flow of the encounter.
#[derive(Clone, Copy, Debug)]
pub(crate) struct FlowView<'a> {
    subscriptions: &'a [Subscription],
    round: u32,
    flags: &'a [bool],
    counters: &'a [i64],
    scores: &'a [i64],
    waves: &'a [WavesState],
    tempos: &'a [Tempo],
    holds: &'a [Hold],
    pauses: &'a [Pause],
    pools: &'a [(PoolId, CombatantId)],
    pub(crate) past: &'a Past,
}

/// One who stands, or lies where it died.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct BodyView {
    /// Which combatant.
    pub who: CombatantId,
    /// Whether it stands; else it is dead, and lies there.
    pub stands: bool,
    /// Where it is.
    pub pose: Pose,
    /// Its team.
    pub team: TeamId,
    /// Its template.
    pub template: TemplateId,
    /// How many times as large it is as its template says.
    pub size: Fixed,
}

/// A status that someone bears.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct ActiveStatus {
    /// Its application.
    pub application: ApplicationId,
    /// The status.
    pub status: StatusId,
    /// Who gave it, if anyone; they may be gone.
    pub source: Option<CombatantId>,
    /// How strong it is.
    pub strength: Fixed,
    /// How often it counts.
    pub stacks: u16,
    /// The last tick in which it still pulses.
    pub ends: Option<u32>,
    /// How long it has run, of how long in all.
    pub time: Progress,
}

/// A projectile on its way, for drawing.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct FlyingBody {
    /// Its swing.
    pub swing: SwingId,
    /// Which body of the swing, from 1.
    pub body: u16,
    /// Where it was when the tick began.
    pub before: Pose,
    /// Where it is now.
    pub pose: Pose,
}

impl<'a> View<'a> {
    pub(crate) fn of(ruleset: &'a Ruleset, state: &'a State) -> View<'a> {
        let State { tick, combatants, swings, flying, applications, .. } = state;
        let State { subscriptions, round, flags, counters, scores, waves, .. } = state;
        let State { tempos, holds, pauses, pools, past, .. } = state;
        let round = *round;
        let flow = FlowView {
            subscriptions,
            round,
            flags,
            counters,
            scores,
            waves,
            tempos,
            holds,
            pauses,
            pools,
            past,
        };
        View {
            ruleset,
            rules: ruleset.compiled(),
            tick: *tick,
            combatants,
            swings,
            flying,
            applications,
            flow,
        }
    }

    /// A view of the state, and what orders are given through: hooks have both at once.
    pub(crate) fn beside_orders(ruleset: &'a Ruleset, state: &'a mut State) -> (View<'a>, Queue<'a>) {
        let State { tick, combatants, swings, flying, applications, pending, registrar, .. } = state;
        let State { given_poses, given_text, .. } = state;
        let State { subscriptions, round, flags, counters, scores, waves, .. } = state;
        let State { tempos, holds, pauses, pools, past, .. } = state;
        let view = View {
            ruleset,
            rules: ruleset.compiled(),
            tick: *tick,
            combatants,
            swings,
            flying,
            applications,
            flow: FlowView {
                subscriptions,
                round: *round,
                flags,
                counters,
                scores,
                waves,
                tempos,
                holds,
                pauses,
                pools,
                past,
            },
        };
        (view, Queue { pending, registrar, given_poses, given_text })
    }

    /// The round, from 1.
    pub fn round(&self) -> u32 {
        self.flow.round
    }

    /// Whether a flag is up; none for one that the ruleset does not have.
    pub fn flag(&self, flag: FlagId) -> Option<bool> {
        self.flow.flags.get(flag.index()).copied()
    }

    /// What a counter holds; none for one that the ruleset does not have.
    pub fn counter(&self, counter: CounterId) -> Option<i64> {
        self.flow.counters.get(counter.index()).copied()
    }

    /// What was scored; none for a score that the ruleset does not have.
    pub fn score(&self, score: ScoreId) -> Option<i64> {
        self.flow.scores.get(score.index()).copied()
    }

    /// How many waves of a sequence have come, and whether more will; none for one that the ruleset does not have.
    pub fn waves(&self, waves: WaveId) -> Option<(u32, bool)> {
        self.flow.waves.get(waves.index()).map(|state| (state.come, state.running))
    }

    /// What a sequence of waves waits for; none for one of another ruleset.
    pub fn wave_state(&self, waves: WaveId) -> Option<WaveState> {
        let (authored, state) = (self.rules.waves.get(waves.index())?, self.flow.waves.get(waves.index())?);
        Some(match (state.running, state.due) {
            (false, _) => WaveState::NotComing { come: state.come },
            (true, Some(tick)) => WaveState::Due { come: state.come, tick },
            (true, None) => {
                let standing = self.all_of(&self.rules.waits_for(authored)).count();
                WaveState::Waits { come: state.come, standing, left: authored.left }
            }
        })
    }

    /// The subscriptions that have not ended, in the order of subscribing, with their hooks.
    pub fn subscriptions(&self) -> impl Iterator<Item = (SubscriptionId, HookId, Listen)> + use<'a> {
        let lasting = self.flow.subscriptions.iter().filter(|subscription| subscription.until.is_none());
        lasting.map(|subscription| (subscription.id, subscription.hook, subscription.listen))
    }

    /// Whether a subscription is paused.
    pub fn is_paused(&self, subscription: SubscriptionId) -> bool {
        Pause::of(self.flow.pauses, subscription).iter().any(|pause| pause.to.is_none())
    }

    /// What is left of a pool of health, and its maximum, while any who share it stand.
    pub fn pool(&self, pool: PoolId) -> Option<(i64, i64)> {
        let who = self.sharers(pool).find(|&who| self.combatants.life_of(who) == Life::Standing)?;
        let slot = who.slot();
        Some((self.combatants.health[slot].into(), self.combatants.max[slot].into()))
    }

    /// Who shares a pool, whether it stands or not, by rising id.
    pub fn sharers(&self, pool: PoolId) -> impl Iterator<Item = CombatantId> + use<'a> {
        state::sharers(self.flow.pools, pool)
    }

    /// What a gauge of a combatant holds, and its maximum; none if it has none of that name.
    pub fn gauge(&self, who: CombatantId, gauge: GaugeId) -> Option<(i64, i64)> {
        let slot = self.slot(who)?;
        let row = self.combatants.gauges.iter(slot).find(|row| row.gauge == gauge)?;
        Some((row.points.into(), row.max.into()))
    }

    /// The gauges of a combatant, in the order of its template, with what each holds and its maximum.
    pub fn gauges(&self, who: CombatantId) -> impl Iterator<Item = (GaugeId, i64, i64)> + use<'a> {
        let view = *self;
        let slot = self.slot(who);
        let of = slot.map(|slot| view.rules.template(view.combatants.template[slot]).gauges.as_slice());
        of.unwrap_or_default().iter().filter_map(move |&gauge| {
            let (points, max) = view.gauge(who, gauge)?;
            Some((gauge, points, max))
        })
    }

    /// Whether a flag of a combatant is up.
    pub fn combatant_flag(&self, who: CombatantId, flag: CombatantFlagId) -> bool {
        self.slot(who).is_some_and(|slot| self.combatants.flags.iter(slot).any(|has| *has == flag))
    }

    /// What a counter of a combatant holds.
    pub fn combatant_counter(&self, who: CombatantId, counter: CombatantCounterId) -> i64 {
        self.slot(who).map_or(0, |slot| self.combatants.counted(slot, counter))
    }

    /// All of a group who stand, by their place.
    pub fn all_of(&self, group: &Group) -> impl Iterator<Item = CombatantId> + use<'a> {
        let (view, group) = (*self, *group);
        let stands = move |who: &CombatantId| view.life(*who) == Life::Standing;
        self.combatants()
            .filter(stands)
            .filter(move |who| view.combatants.is_of(view.rules, who.slot(), &group))
    }

    /// The leader of a combatant, as long as it is in the encounter.
    pub fn leader(&self, who: CombatantId) -> Option<CombatantId> {
        self.combatants.leader_of(self.slot(who)?)
    }

    /// How many lives are left after this one, and the tick of the return of one who is dead or away and will; none for those who
    /// have no number of lives.
    pub fn lives(&self, who: CombatantId) -> Option<(u32, Option<u32>)> {
        let afterlife = self.combatants.afterlife(self.slot(who)?)?;
        Some((afterlife.spare, afterlife.back))
    }

    /// The projectiles that fly, by swing and number.
    pub fn flying(&self) -> impl Iterator<Item = FlyingBody> + use<'a> {
        let body = |b: &Flying| FlyingBody { swing: b.swing, body: b.body, before: b.before, pose: b.pose };
        self.flying.iter().filter(|b| b.ended.is_none()).map(body)
    }

    /// The ruleset.
    pub fn rules(&self) -> &'a Ruleset {
        self.ruleset
    }

    /// The tick that runs or ran last; 0 before the first.
    pub fn tick(&self) -> u32 {
        self.tick
    }

    /// Where a combatant stands between joining and removal; `Gone` for one that was never there.
    pub fn life(&self, who: CombatantId) -> Life {
        self.combatants.life_of(who)
    }

    fn slot(&self, who: CombatantId) -> Option<usize> {
        (self.life(who) != Life::Gone).then_some(who.slot())
    }

    /// Health and maximum, in points; none for one who is gone.
    pub fn health(&self, who: CombatantId) -> Option<(i64, i64)> {
        let slot = self.slot(who)?;
        Some((self.combatants.health[slot].into(), self.combatants.max[slot].into()))
    }

    /// The pose at the end of the tick.
    pub fn pose(&self, who: CombatantId) -> Option<Pose> {
        Some(self.combatants.pose[self.slot(who)?])
    }

    /// The team.
    pub fn team(&self, who: CombatantId) -> Option<TeamId> {
        Some(self.combatants.team[self.slot(who)?])
    }

    /// The template.
    pub fn template(&self, who: CombatantId) -> Option<TemplateId> {
        Some(self.combatants.template[self.slot(who)?])
    }

    /// Which life, from 1.
    pub fn life_number(&self, who: CombatantId) -> Option<u32> {
        Some(self.combatants.lives[self.slot(who)?])
    }

    /// All who are not gone, by their place.
    pub fn combatants(&self) -> impl Iterator<Item = CombatantId> + use<'a> {
        let combatants = self.combatants;
        (0..combatants.slots())
            .filter(|&slot| combatants.life[slot] != Life::Gone)
            .map(|slot| combatants.id(slot))
    }

    /// All who stand, or lie where they died, by their place: what a host looks at in each tick.
    pub fn bodies(&self) -> impl Iterator<Item = BodyView> + use<'a> {
        let combatants = self.combatants;
        let there = move |&slot: &usize| matches!(combatants.life[slot], Life::Standing | Life::Dead);
        (0..combatants.slots()).filter(there).map(move |slot| BodyView {
            who: combatants.id(slot),
            stands: combatants.life[slot] == Life::Standing,
            pose: combatants.pose[slot],
            team: combatants.team[slot],
            template: combatants.template[slot],
            size: combatants.size[slot],
        })
    }

    /// How many of `team` stand.
    pub fn standing(&self, team: TeamId) -> usize {
        let combatants = self.combatants;
        (0..combatants.slots())
            .filter(|&slot| combatants.life[slot] == Life::Standing && combatants.team[slot] == team)
            .count()
    }

    /// The swings that run, in the order in which they began, with their attacker, if they have one, and attack.
    pub fn swings(&self) -> impl Iterator<Item = (SwingId, Option<CombatantId>, AttackId)> + use<'a> {
        self.swings.iter().filter(|s| s.ended.is_none()).map(|s| (s.id, s.attacker, s.attack))
    }

    /// The statuses that run on a combatant, in the order in which they were applied.
    pub fn statuses(&self, who: CombatantId) -> impl Iterator<Item = StatusId> + use<'a> {
        self.statuses_of(who).map(|statuses_of| statuses_of.status)
    }

    /// The same with all that is known of them.
    pub fn statuses_of(&self, who: CombatantId) -> impl Iterator<Item = ActiveStatus> + use<'a> {
        let (applications, tick) = (self.applications, self.tick);
        // The latest comes first in the list of its bearer.
        let mut places: Vec<StatusAt> = self.bearers().statuses_on(who).collect();
        places.reverse();
        places.into_iter().map(move |place| &applications[place]).filter(|a| a.runs()).map(move |a| {
            ActiveStatus {
                application: a.id,
                status: a.status,
                source: a.source,
                strength: a.strength,
                stacks: a.stacks,
                ends: a.ends,
                time: Progress {
                    passed: tick.saturating_sub(a.applied),
                    of: a.ends.map(|ends| ends.saturating_sub(a.applied)),
                },
            }
        })
    }

    fn bearers(&self) -> Bearers<'a> {
        Bearers { combatants: self.combatants, applications: self.applications }
    }

    /// What a stat comes to; none for one who is gone, or a stat that the ruleset does not have.
    pub fn stat(&self, who: CombatantId, stat: StatId) -> Option<Fixed> {
        let slot = self.slot(who).filter(|_| stat.index() < self.rules.stats.len())?;
        Some(sheet::stat(self.rules, self.bearers(), slot, stat))
    }

    /// What a stat comes to, with everything that makes it so.
    pub fn stat_account(&self, who: CombatantId, stat: StatId) -> Option<StatAccount> {
        let slot = self.slot(who).filter(|_| stat.index() < self.rules.stats.len())?;
        Some(sheet::stat_account(self.rules, self.bearers(), slot, stat))
    }

    /// Whether one carries a tag, of its own or lent.
    pub fn has_tag(&self, who: CombatantId, tag: TagId) -> bool {
        self.slot(who).is_some_and(|slot| sheet::tags(self.rules, self.bearers(), slot) & tag.bit() != 0)
    }

    /// The points of each shield, in the order in which they are spent.
    pub fn shields(&self, who: CombatantId) -> Vec<(ShieldId, i64)> {
        let Some(slot) = self.slot(who) else { return Vec::new() };
        let pools = self.combatants.shields.iter(slot);
        let mut pools: Vec<_> =
            pools.map(|pool| (pool.shield, pool.application, i64::from(pool.points))).collect();
        pools.sort_unstable();
        pools.into_iter().map(|(shield, _, points)| (shield, points)).collect()
    }

    /// What is left of the points of a part that has some of its own, and whether it is broken.
    pub fn part(&self, who: CombatantId, part: u16) -> Option<(i64, bool)> {
        let slot = self.slot(who)?;
        let template = self.rules.template(self.combatants.template[slot]);
        let points = template.parts.get(usize::from(part))?.points?;
        let mut losses = self.combatants.part_losses.iter(slot);
        let lost = losses.find(|(of, _)| *of == part).map_or(0, |(_, lost)| i64::from(*lost));
        Some(((points - lost).clamp(0, points), self.combatants.is_broken(slot, part)))
    }

    /// How the time of one goes, against the encounter's: 1 unless it was ordered otherwise.
    pub fn time_scale(&self, who: CombatantId) -> Fixed {
        match self.flow.tempos.is_empty() {
            true => Fixed::ONE,
            false => Fixed::ratio(tempo::scale_of(self.flow.tempos, who).into(), NORMAL.into()),
        }
    }

    /// How fast one goes, against how it goes by itself: its time scale times the stat that is its
    /// [movement](crate::RulesetBuilder::movement), at least 0. The host moves combatants, and reads this.
    pub fn pace(&self, who: CombatantId) -> Fixed {
        let stat = self.rules.movement.zip(self.slot(who));
        let speed =
            stat.map_or(Fixed::ONE, |(stat, slot)| sheet::stat(self.rules, self.bearers(), slot, stat));
        (self.time_scale(who) * speed).or_nothing()
    }

    /// How fast one may go by itself now, as its [pace](View::pace): none while it [is bound](View::is_bound), its clock
    /// [stands](View::stopped), or a move [carries it](View::moves_on), and for one who is gone. A stun does not show here.
    #[inline]
    pub fn free_pace(&self, who: CombatantId) -> Option<Fixed> {
        let slot = self.slot(who)?;
        let combatants = self.combatants;
        let carried = combatants.goal_ticks[slot] > 0 || combatants.stopped_until[slot] > self.tick;
        let bound = || {
            let held = self.flow.holds.iter().any(|hold| hold.held == who);
            held || (self.rules.uses.roots && sheet::is_rooted(self.rules, self.bearers(), slot))
        };
        if carried || bound() {
            return None;
        }
        let as_usual = self.flow.tempos.is_empty() && self.rules.movement.is_none();
        Some(if as_usual { Fixed::ONE } else { self.pace(who) })
    }

    /// Who is held: the holder, and the one who is held, in the order in which the holds began.
    pub fn holds(&self) -> impl Iterator<Item = (CombatantId, CombatantId)> {
        self.flow.holds.iter().map(|hold| (hold.holder, hold.held))
    }

    /// Whether a status stuns one, so that it starts nothing.
    #[inline]
    pub fn is_stunned(&self, who: CombatantId) -> bool {
        let stuns = |slot| sheet::is_stunned(self.rules, self.bearers(), slot);
        self.rules.uses.stuns && !self.applications.is_empty() && self.slot(who).is_some_and(stuns)
    }

    /// Whether one stays where it is: a status roots it, or it is held.
    pub fn is_bound(&self, who: CombatantId) -> bool {
        let held = || self.flow.holds.iter().any(|hold| hold.held == who);
        self.slot(who).is_some_and(|slot| sheet::is_rooted(self.rules, self.bearers(), slot) || held())
    }

    /// For how many ticks more a move of one goes on, such as a knockback that moves it; 0 for one that goes nowhere by itself.
    pub fn moves_on(&self, who: CombatantId) -> u32 {
        self.slot(who).map_or(0, |slot| self.combatants.goal_ticks[slot])
    }

    /// For how many ticks more the clock of one stands.
    pub fn stopped(&self, who: CombatantId) -> u32 {
        self.slot(who).map_or(0, |slot| self.combatants.stopped_until[slot].saturating_sub(self.tick))
    }
}
