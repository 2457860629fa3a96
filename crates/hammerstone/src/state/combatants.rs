//! The combatants, a column for each thing that is known of them.

mod rows;

pub(crate) use rows::{Afterlife, Contributor, GaugeRow, HostChange, ShieldRow, UsesRow};

use super::Lists;
use crate::Fixed;
use crate::columns::columns;
use crate::event::Cause;
use crate::geometry::Pose;
use crate::ids::*;
use crate::ruleset::Rules;
use crate::ruleset::def::{Group, Modifier};
use crate::terms::{Life, Refusal};

/// How many times as large as its template says a combatant may be, from and to.
pub(crate) const SIZES: (Fixed, Fixed) = (Fixed::raw(100), Fixed::raw(1_000_000));

/// How many are remembered for assists.
const MOST_CONTRIBUTORS: usize = 32;

columns! {
    /// All combatants by slot, standing or not, and the empty places between them.
    pub(crate) struct Combatants {
        pub(crate) generation: Vec<Generation>,
        pub(crate) life: Vec<Life>,
        /// Which life, from 1.
        pub(crate) lives: Vec<u32>,
        pub(crate) template: Vec<TemplateId>,
        pub(crate) team: Vec<TeamId>,
        pub(crate) health: Vec<i32>,
        pub(crate) max: Vec<i32>,
        /// The maximum without what a stat adds.
        pub(crate) own_max: Vec<i32>,
        /// Where each was when the tick began.
        pub(crate) pose_before: Vec<Pose>,
        pub(crate) pose: Vec<Pose>,
        /// Where a move leads, and how many ticks of it are left.
        pub(crate) goal: Vec<Pose>,
        pub(crate) goal_ticks: Vec<u32>,
        /// The tick of the last death.
        pub(crate) died: Vec<u32>,
        /// The stable key for rolls.
        pub(crate) key: Vec<u64>,
        /// The root owner, who gets credit; itself if no one called it in.
        pub(crate) credit: Vec<CombatantId>,
        /// What the host labelled each with.
        pub(crate) label: Vec<u64>,
        /// How many swings are running.
        pub(crate) running: Vec<u16>,
        /// Until the end of which tick each stands still after a hit.
        pub(crate) stopped_until: Vec<u32>,
        /// Damage gathered for stagger, and the tick up to which it has waned.
        pub(crate) gathered: Vec<Fixed>,
        pub(crate) gathered_at: Vec<u32>,
        /// Parts that are broken: bit `n` for part number `n`.
        pub(crate) broken: Vec<u64>,
        /// Parts that an order hides, or the template until one shows them, likewise.
        pub(crate) off: Vec<u64>,
        /// Parts that were hidden when the last tick was detected, by orders and statuses.
        pub(crate) hidden: Vec<u64>,
        /// How many times as large each is as its template says.
        pub(crate) size: Vec<Fixed>,
        /// What parts with points of their own have lost.
        pub(crate) part_losses: Lists<(u16, i32)>,
        pub(crate) shields: Lists<ShieldRow>,
        pub(crate) gauges: Lists<GaugeRow>,
        /// By the key of each cooldown, until when it lasts.
        pub(crate) cooldowns: Lists<(u16, u32)>,
        pub(crate) uses: Lists<UsesRow>,
        pub(crate) host_changes: Lists<HostChange>,
        /// How often what has kept each alive in this life.
        pub(crate) prevented_deaths: Lists<(Cause, u32)>,
        /// The statuses that each bears.
        pub(crate) statuses_of: Lists<ApplicationId>,
        /// For those who have several lives: one each.
        pub(crate) afterlives: Lists<Afterlife>,
        /// The leader of each; a place past the last stands for none.
        pub(crate) leader: Vec<CombatantId>,
        pub(crate) followers: Lists<CombatantId>,
        /// What the host attached, in place of what the template says.
        pub(crate) values: Lists<(ValueId, i64)>,
        /// The flags of each that are up.
        pub(crate) flags: Lists<CombatantFlagId>,
        /// The counters of each that are not 0.
        pub(crate) counters: Lists<(CombatantCounterId, i64)>,
        /// How often each attack was started, over all lives.
        pub(crate) starts: Lists<(AttackId, u32)>,
        pub(crate) contributors: Lists<Contributor>,
        /// Where the parts of those are that have been posed, in the frame of the body: one for each part, in their order.
        pub(crate) part_poses: Lists<Pose>,
        /// How many were spawned of each template.
        pub(crate) spawned: Vec<u32>,
    }
}

/// What a combatant starts with.
pub(crate) struct Newcomer {
    pub(crate) template: TemplateId,
    pub(crate) team: TeamId,
    pub(crate) health: i32,
    pub(crate) pose: Pose,
    pub(crate) key: u64,
    pub(crate) credit: CombatantId,
}

impl Combatants {
    pub(crate) fn slots(&self) -> usize {
        self.life.len()
    }

    /// Where `id` stands; `Gone` for one that was never there.
    pub(crate) fn life_of(&self, id: CombatantId) -> Life {
        match self.generation.get(id.slot()) {
            Some(&generation) if generation == id.generation => self.life[id.slot()],
            _ => Life::Gone,
        }
    }

    /// Whether the place of `who` is still theirs: they are in the encounter, or were removed in this tick.
    pub(crate) fn has_place(&self, who: CombatantId) -> bool {
        self.generation.get(who.slot()) == Some(&who.generation)
    }

    /// Whether an id was ever given a place here.
    pub(crate) fn was_here(&self, id: CombatantId) -> bool {
        self.generation.get(id.slot()).is_some_and(|&generation| id.generation <= generation)
    }

    /// Whether the one who is in `slot` is one of a group.
    pub(crate) fn is_of(&self, rules: &Rules, slot: usize, group: &Group) -> bool {
        let (team, template) = (self.team[slot], self.template[slot]);
        group.team.is_none_or(|wanted| wanted == team)
            && group.template.is_none_or(|wanted| wanted == template)
            && rules.template(template).tags & group.tags == group.tags
    }

    /// Whether one stands, or why not.
    pub(crate) fn standing(&self, id: CombatantId) -> Result<(), Refusal> {
        match self.life_of(id) {
            Life::Standing => Ok(()),
            Life::Dead => Err(Refusal::Dead),
            Life::Away => Err(Refusal::Away),
            Life::Gone if self.was_here(id) => Err(Refusal::Gone),
            Life::Gone => Err(Refusal::Unknown),
        }
    }

    /// Whether one is in the encounter, standing or not.
    pub(crate) fn is_present(&self, id: CombatantId) -> bool {
        self.life_of(id) != Life::Gone
    }

    pub(crate) fn id(&self, slot: usize) -> CombatantId {
        CombatantId { slot: slot as u32, generation: self.generation[slot] }
    }

    /// Who gets the credit for what `who` does.
    pub(crate) fn root_owner(&self, who: CombatantId) -> CombatantId {
        match self.life_of(who) {
            Life::Gone => who,
            _ => self.credit[who.slot()],
        }
    }

    pub(crate) fn seat(&mut self, id: CombatantId, new: Newcomer) {
        let slot = id.slot();
        if self.slots() <= slot {
            self.grow(slot + 1);
        }
        self.generation[slot] = id.generation;
        self.life[slot] = Life::Standing;
        self.lives[slot] = 1;
        self.template[slot] = new.template;
        self.team[slot] = new.team;
        self.health[slot] = new.health;
        self.max[slot] = new.health;
        self.own_max[slot] = new.health;
        self.be_at_rest(slot);
        self.stand_still(slot, new.pose);
        self.died[slot] = 0;
        self.key[slot] = new.key;
        self.credit[slot] = new.credit;
        self.running[slot] = 0;
        self.label[slot] = 0;
        self.size[slot] = Fixed::ONE;
    }

    fn grow(&mut self, slots: usize) {
        self.generation.resize(slots, Generation::default());
        self.life.resize(slots, Life::Gone);
        self.lives.resize(slots, 0);
        self.template.resize(slots, TemplateId(0));
        self.team.resize(slots, TeamId(0));
        self.health.resize(slots, 0);
        self.max.resize(slots, 0);
        self.own_max.resize(slots, 0);
        self.stopped_until.resize(slots, 0);
        self.gathered.resize(slots, Fixed::ZERO);
        self.gathered_at.resize(slots, 0);
        self.broken.resize(slots, 0);
        self.off.resize(slots, 0);
        self.hidden.resize(slots, 0);
        self.size.resize(slots, Fixed::ONE);
        for poses in [&mut self.pose_before, &mut self.pose, &mut self.goal] {
            poses.resize(slots, Pose::IDENTITY);
        }
        self.goal_ticks.resize(slots, 0);
        self.died.resize(slots, 0);
        self.key.resize(slots, 0);
        self.credit.resize(slots, CombatantId::NONE);
        self.leader.resize(slots, CombatantId::NONE);
        self.running.resize(slots, 0);
        self.label.resize(slots, 0);
        self.part_losses.grow(slots);
        self.shields.grow(slots);
        self.host_changes.grow(slots);
        self.prevented_deaths.grow(slots);
        self.statuses_of.grow(slots);
        self.afterlives.grow(slots);
        self.followers.grow(slots);
        self.values.grow(slots);
        self.starts.grow(slots);
        // Lists of what few games have grow as they are filled.
        self.contributors.grow(slots);
        self.part_poses.grow(slots);
    }

    /// Where one stands who has several lives.
    pub(crate) fn afterlife(&self, slot: usize) -> Option<Afterlife> {
        self.afterlives.iter(slot).next().copied()
    }

    pub(crate) fn set_afterlife(&mut self, slot: usize, afterlife: Option<Afterlife>) {
        self.afterlives.clear(slot);
        if let Some(afterlife) = afterlife {
            self.afterlives.push(slot, afterlife);
        }
    }

    /// The leader of a combatant, while it is in the encounter.
    pub(crate) fn leader_of(&self, slot: usize) -> Option<CombatantId> {
        Some(self.leader[slot]).filter(|&leader| self.is_present(leader))
    }

    /// One follows another from now on, or no one.
    pub(crate) fn follow(&mut self, slot: usize, leader: Option<CombatantId>) {
        let id = self.id(slot);
        if let Some(before) = self.leader_of(slot) {
            self.followers.take(before.slot(), |follower| *follower == id, |_| ());
        }
        self.leader[slot] = leader.unwrap_or(CombatantId::NONE);
        if let Some(leader) = leader {
            self.followers.push(leader.slot(), id);
        }
    }

    /// What a gauge of a combatant holds; none if it has none of that name.
    pub(crate) fn points_of(&self, slot: usize, gauge: GaugeId) -> Option<i64> {
        self.gauges.iter(slot).find(|row| row.gauge == gauge).map(|row| row.points.into())
    }

    /// What a gauge of a combatant holds at most; 0 if it has none of that name.
    pub(crate) fn max_of(&self, slot: usize, gauge: GaugeId) -> i64 {
        self.gauges.iter(slot).find(|row| row.gauge == gauge).map_or(0, |row| row.max.into())
    }

    /// What a counter of a combatant is at.
    pub(crate) fn counted(&self, slot: usize, counter: CombatantCounterId) -> i64 {
        self.counters.iter(slot).find(|(of, _)| *of == counter).map_or(0, |&(_, count)| count)
    }

    pub(crate) fn set_count(&mut self, slot: usize, counter: CombatantCounterId, count: i64) {
        self.counters.take(slot, |(of, _)| *of == counter, |_| ());
        if count != 0 {
            self.counters.push(slot, (counter, count));
        }
    }

    /// Raises or lowers a flag of a combatant. Gives whether that changed it.
    pub(crate) fn set_flag(&mut self, slot: usize, flag: CombatantFlagId, up: bool) -> bool {
        let was = self.flags.find(slot, |has| *has == flag).is_some();
        match (was, up) {
            (false, true) => _ = self.flags.push(slot, flag),
            (true, false) => self.flags.take(slot, |has| *has == flag, |_| ()),
            _ => {}
        }
        was != up
    }

    /// The host attaches a value.
    pub(crate) fn attach(&mut self, slot: usize, value: ValueId, amount: i64) {
        self.values.take(slot, |(of, _)| *of == value, |_| ());
        self.values.push(slot, (value, amount));
    }

    /// Puts a combatant at `pose`, without a sweep and without a move under way.
    pub(crate) fn stand_still(&mut self, slot: usize, pose: Pose) {
        (self.pose_before[slot], self.pose[slot], self.goal[slot]) = (pose, pose, pose);
        self.goal_ticks[slot] = 0;
    }

    /// Nothing stops the combatant or has been gathered against it.
    pub(crate) fn be_at_rest(&mut self, slot: usize) {
        self.stopped_until[slot] = 0;
        self.gathered[slot] = Fixed::ZERO;
        self.gathered_at[slot] = 0;
    }

    /// Parts are whole, those are hidden that the template hides, and what kept it alive before counts no longer.
    pub(crate) fn begin_life(&mut self, slot: usize, hidden: u64) {
        self.be_whole(slot, hidden);
        self.prevented_deaths.clear(slot);
    }

    /// Parts are whole, and those are hidden that the template hides.
    pub(crate) fn be_whole(&mut self, slot: usize, hidden: u64) {
        self.broken[slot] = 0;
        (self.off[slot], self.hidden[slot]) = (hidden, hidden);
        self.part_losses.clear(slot);
    }

    /// How many times as large the combatant in `slot` is as its template says.
    pub(crate) fn times(&self, slot: usize) -> f32 {
        match self.size[slot] {
            Fixed::ONE => 1.0,
            size => size.to_f64() as f32,
        }
    }

    pub(crate) fn is_broken(&self, slot: usize, part: u16) -> bool {
        part < 64 && self.broken[slot] >> part & 1 == 1
    }

    /// How often `cause` has kept the combatant alive in this life.
    pub(crate) fn prevents_death_by(&self, slot: usize, cause: Cause) -> u32 {
        let mut counts = self.prevented_deaths.iter(slot);
        counts.find(|(by, _)| *by == cause).map_or(0, |(_, count)| *count)
    }

    pub(crate) fn count_prevented_death(&mut self, slot: usize, cause: Cause) {
        let (_, count) = self.prevented_deaths.find_or_push(slot, |(by, _)| *by == cause, (cause, 0));
        *count += 1;
    }

    /// Counts a start of `attack` and gives which one it is, from 1.
    pub(crate) fn count_start(&mut self, slot: usize, attack: AttackId) -> u32 {
        let (_, count) = self.starts.find_or_push(slot, |(known, _)| *known == attack, (attack, 0));
        *count += 1;
        *count
    }

    /// Remembers who damaged the combatant in `slot`: the latest [`MOST_CONTRIBUTORS`], so that a blow in a crowd costs no more
    /// than a blow in a duel.
    pub(crate) fn note_contributor(&mut self, slot: usize, who: CombatantId, tick: u32) {
        let (mut known, mut count, mut oldest) = (None, 0, (u32::MAX, 0));
        for (place, contributor) in self.contributors.places(slot) {
            if contributor.who == who {
                known = Some(place);
                break;
            }
            count += 1;
            // Of equals the one that came first, which is the last of the list.
            if contributor.tick <= oldest.0 {
                oldest = (contributor.tick, place);
            }
        }
        let new = Contributor { who, tick };
        match known {
            Some(place) => *self.contributors.get_mut(place) = new,
            None if count >= MOST_CONTRIBUTORS => *self.contributors.get_mut(oldest.1) = new,
            None => {
                self.contributors.push(slot, new);
            }
        }
    }

    pub(crate) fn forget_contributors(&mut self, slot: usize) {
        self.contributors.clear(slot);
    }

    /// Frees the lists of one who is gone for good.
    pub(crate) fn unseat(&mut self, slot: usize) {
        self.forget_contributors(slot);
        self.gauges.clear(slot);
        self.cooldowns.clear(slot);
        self.uses.clear(slot);
        self.flags.clear(slot);
        self.counters.clear(slot);
        self.starts.clear(slot);
        self.begin_life(slot, 0);
        self.shields.clear(slot);
        self.host_changes.clear(slot);
        self.set_afterlife(slot, None);
        self.followers.clear(slot);
        self.values.clear(slot);
        self.part_poses.clear(slot);
    }

    /// The parts have these poses, in the frame of their body: as many as there are parts.
    pub(crate) fn pose_parts(
        &mut self,
        slot: usize,
        poses: impl DoubleEndedIterator<Item = Pose> + ExactSizeIterator,
    ) {
        self.part_poses.fill(slot, poses);
    }
}
