//! What there is to see in a tick: where everyone is, and which attacks are under way.

use hammerstone::flow::{Condition, Question};
use hammerstone::geometry::Pose;
use hammerstone::ids::{CombatantId, SwingId, TeamId};
use hammerstone::team::Relation;
use hammerstone::{BodyView, Encounter, Ruleset};

use super::attacks::Lore;
use super::def::{Pick, Side, TargetRule};
use super::plane::{Flat, Plane, dot, from_to, length, sum, times, turn_between, unit, way_at};

/// So much farther than an attack reaches one is taken to be in danger; metres.
const DANGER: f32 = 0.3;
/// Bodies that fly are dangerous for so many ticks ahead.
const FORESIGHT: f32 = 90.0;

/// A body that can be seen.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Seen {
    pub(crate) who: CombatantId,
    pub(crate) team: TeamId,
    pub(crate) template: usize,
    pub(crate) pose: Pose,
    pub(crate) at: Flat,
    pub(crate) size: f32,
    pub(crate) girth: f32,
    /// The room around it; its girth for those without tactics.
    pub(crate) room: f32,
    pub(crate) stands: bool,
    /// Whether a swing binds its hands.
    pub(crate) busy: bool,
}

/// An attack under way, and when it strikes.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Threat {
    pub(crate) swing: SwingId,
    /// The body that flies, or the window.
    pub(crate) which: u16,
    pub(crate) arrives: u32,
}

/// All that there is to see before a tick.
#[derive(Clone, Debug, Default)]
pub(crate) struct Sight {
    /// By rising id.
    pub(crate) bodies: Vec<Seen>,
    /// The place of each body, by its slot.
    places: Vec<u32>,
    /// Those who stand, from one side to the other, and how they are sorted.
    across: Vec<Across>,
    keys: Vec<u64>,
    /// Which way those who are too near press each, in metres; as the bodies.
    pressed: Vec<Flat>,
    flying: Vec<Flies>,
    dangers: Vec<Danger>,
    /// Where each danger is, and within which distance of a target of no girth it counts.
    dangers_at: Vec<(Flat, f32)>,
    /// Whether anything may cover anything.
    pub(crate) solids: bool,
}

/// The room of one who stands.
#[derive(Clone, Copy, Debug)]
struct Across {
    at: Flat,
    room: f32,
    /// Among the bodies.
    place: u32,
}

/// A swing that will strike, from where, and how far.
#[derive(Clone, Copy, Debug)]
struct Danger {
    swing: SwingId,
    team: TeamId,
    pose: Pose,
    girth: f32,
    arc: f32,
    /// The window, from 0.
    which: u16,
    arrives: u32,
}

#[derive(Clone, Copy, Debug)]
struct Flies {
    swing: SwingId,
    body: u16,
    team: Option<TeamId>,
    attacker: Option<CombatantId>,
    at: Flat,
    /// Metres a tick.
    way: Flat,
}

/// The question whether the line between two is clear.
pub(crate) fn clear_line(rules: &Ruleset) -> Option<Question> {
    rules.question(vec![Condition::Sight(true)]).ok()
}

impl Sight {
    /// Looks around, into memory that was used before.
    pub(crate) fn look(&mut self, encounter: &Encounter, lore: &Lore, plane: &Plane) {
        let view = encounter.view();
        self.bodies.clear();
        self.flying.clear();
        self.dangers.clear();
        self.dangers_at.clear();
        self.solids = !encounter.level().is_empty() || encounter.scene().obstacles().next().is_some();
        for BodyView { who, stands, pose, team, template, size } in view.bodies() {
            let template = template.index();
            let size = size.to_f64() as f32;
            let girth = lore.girths.get(template).copied().unwrap_or(0.0) * size;
            let at = plane.flat(pose.at);
            if self.places.len() <= who.slot() {
                self.places.resize(who.slot() + 1, 0);
            }
            self.places[who.slot()] = self.bodies.len() as u32;
            self.bodies.push(Seen {
                who,
                team,
                template,
                pose,
                at,
                size,
                girth,
                room: girth,
                stands,
                busy: false,
            });
        }
        for swing in view.swing_views() {
            let Some(place) = swing.attacker.and_then(|who| self.place(who)) else { continue };
            self.bodies[place].busy |= swing.busy;
            let (known, attacker) = (&lore.attacks[swing.attack.index()], &self.bodies[place]);
            if known.flies || known.reach <= 0.0 {
                continue;
            }
            let Some(arrives) = known.strikes_in(&swing) else { continue };
            let passed = known.timings.windows.iter().filter(|(first, _)| *first <= swing.whole.passed);
            self.dangers_at.push((attacker.at, known.reach * attacker.size + DANGER));
            self.dangers.push(Danger {
                swing: swing.id,
                team: attacker.team,
                pose: attacker.pose,
                girth: attacker.girth,
                arc: known.arc,
                which: passed.count() as u16,
                arrives,
            });
        }
        for body in view.flying() {
            let attacker = view.swing(body.swing).and_then(|swing| swing.attacker);
            let team = attacker.and_then(|who| view.team(who));
            let (before, at) = (plane.flat(body.before.at), plane.flat(body.pose.at));
            let way = from_to(before, at);
            self.flying.push(Flies { swing: body.swing, body: body.body, team, attacker, at, way });
        }
    }

    fn place(&self, who: CombatantId) -> Option<usize> {
        let place = *self.places.get(who.slot())? as usize;
        self.bodies.get(place).filter(|body| body.who == who).map(|_| place)
    }

    pub(crate) fn of(&self, who: CombatantId) -> Option<&Seen> {
        self.place(who).map(|place| &self.bodies[place])
    }

    /// Whether one sees another.
    pub(crate) fn sees(
        &self,
        encounter: &Encounter,
        line: Option<&Question>,
        who: CombatantId,
        other: CombatantId,
    ) -> bool {
        let clear = |line| encounter.holds(line, Some(who), Some(other)) == Some(true);
        !self.solids || line.is_none_or(clear)
    }

    /// The target that a rule picks; of equals the one of the lowest id.
    pub(crate) fn pick(
        &self,
        encounter: &Encounter,
        line: Option<&Question>,
        me: &Seen,
        rule: &TargetRule,
        last_attacker: Option<CombatantId>,
    ) -> Option<CombatantId> {
        let view = encounter.view();
        if rule.pick == Pick::Nearest && !rule.dead {
            return self.nearest(encounter, line, me, rule);
        }
        let mut best: Option<(f32, CombatantId)> = None;
        for other in &self.bodies {
            let far = length(from_to(me.at, other.at));
            if other.who == me.who || other.stands == rule.dead || far > rule.within {
                continue;
            }
            if !fits(encounter, me.team, other, rule) {
                continue;
            }
            let health = || view.health(other.who).map_or(0.0, |(points, _)| points as f32);
            let value = match rule.pick {
                Pick::Nearest => far,
                Pick::Weakest => health(),
                Pick::Strongest => -health(),
                Pick::LastAttacker if last_attacker == Some(other.who) => -1.0,
                Pick::LastAttacker => far,
            };
            let better = best.is_none_or(|(least, _)| value < least);
            if better && self.sees(encounter, line, me.who, other.who) {
                best = Some((value, other.who));
            }
        }
        best.map(|(_, who)| who)
    }

    /// The nearest of those who stand: looked for from where one is to both sides, until it can only be farther off.
    fn nearest(
        &self,
        encounter: &Encounter,
        line: Option<&Question>,
        me: &Seen,
        rule: &TargetRule,
    ) -> Option<CombatantId> {
        let mut best: Option<(f32, CombatantId)> = None;
        let middle = self.across.partition_point(|other| other.at[0] < me.at[0]);
        let (left, right) = self.across.split_at(middle);
        let mut look = |other: &Across| {
            let way = from_to(me.at, other.at);
            let beyond = best.map_or(rule.within, |(least, _)| least);
            // No one farther to this side is nearer.
            if way[0].abs() > beyond {
                return false;
            }
            let far = length(way);
            let body = &self.bodies[other.place as usize];
            let is_better = best.is_none_or(|(least, who)| far < least || (far == least && body.who < who));
            if far <= rule.within
                && is_better
                && body.who != me.who
                && fits(encounter, me.team, body, rule)
                && self.sees(encounter, line, me.who, body.who)
            {
                best = Some((far, body.who));
            }
            true
        };
        let (mut to_left, mut to_right) = (left.iter().rev(), right.iter());
        let (mut goes_left, mut goes_right) = (true, true);
        while goes_left || goes_right {
            goes_left = goes_left && to_left.next().is_some_and(&mut look);
            goes_right = goes_right && to_right.next().is_some_and(&mut look);
        }
        best.map(|(_, who)| who)
    }

    /// Whether a combatant may still be the target of a rule.
    pub(crate) fn may_be(&self, encounter: &Encounter, me: &Seen, rule: &TargetRule, other: &Seen) -> bool {
        other.stands != rule.dead && fits(encounter, me.team, other, rule)
    }

    /// The attacks under way that would strike one, by when they arrive.
    pub(crate) fn threats(&self, encounter: &Encounter, plane: &Plane, me: &Seen) -> Vec<Threat> {
        let rules = encounter.rules();
        let mut found = Vec::new();
        let hostile = |team: Option<TeamId>| {
            team.is_some_and(|team| rules.relation(team, me.team) == Some(Relation::Foe))
        };
        for (danger, &(at, reach)) in self.dangers_at.iter().enumerate() {
            let way = from_to(at, me.at);
            // Most are far away: more is asked of those that are near.
            if dot(way, way) > square(reach + me.girth) {
                continue;
            }
            let danger = &self.dangers[danger];
            if !hostile(Some(danger.team)) {
                continue;
            }
            let off = turn_between(plane.facing(danger.pose), way).abs();
            if off <= danger.arc || length(way) <= me.girth + danger.girth {
                found.push(Threat { swing: danger.swing, which: danger.which, arrives: danger.arrives });
            }
        }
        for body in &self.flying {
            if body.attacker == Some(me.who) || !hostile(body.team) {
                continue;
            }
            let (to_me, speed) = (from_to(body.at, me.at), dot(body.way, body.way));
            let along = dot(to_me, body.way);
            if speed <= 0.0 || along <= 0.0 || along > FORESIGHT * speed {
                continue;
            }
            let time = along / speed;
            let nearest = [to_me[0] - body.way[0] * time, to_me[1] - body.way[1] * time];
            if length(nearest) <= me.girth + DANGER * 2.0 {
                found.push(Threat { swing: body.swing, which: body.body, arrives: time as u32 });
            }
        }
        found.sort_by_key(|threat| (threat.arrives, threat.swing));
        found
    }

    /// Works out how those who are too near each other press each other aside.
    pub(crate) fn press_aside(&mut self) {
        self.pressed.clear();
        self.pressed.resize(self.bodies.len(), [0.0; 2]);
        self.put_in_order();
        self.across.clear();
        self.across.extend(self.keys.iter().map(|&key| {
            let place = key as u32;
            let body = &self.bodies[place as usize];
            Across { at: body.at, room: body.room, place }
        }));
        let widest =
            self.across.iter().fold(0.0, |most, body| if body.room > most { body.room } else { most });
        for (first, one) in self.across.iter().enumerate() {
            let reach = one.room + widest;
            for other in &self.across[first + 1..] {
                let (way, wanted) = (from_to(other.at, one.at), one.room + other.room);
                if way[0] < -reach {
                    break;
                }
                if dot(way, way) >= wanted * wanted {
                    continue;
                }
                let half = (wanted - length(way)) * 0.5;
                // Two in one place part in the order of their ids.
                let off = if other.place < one.place { 1.0 } else { -1.0 };
                let [to_one, to_other] = match unit(way) {
                    Some(way) => [way, [-way[0], -way[1]]],
                    None => [way_at(off), way_at(-off)],
                };
                for (pressed, way) in [(one, to_one), (other, to_other)] {
                    let pressed = &mut self.pressed[pressed.place as usize];
                    *pressed = sum(*pressed, times(way, half));
                }
            }
        }
    }

    /// Sorts those who stand from one side to the other. They are nearly so from the tick before.
    fn put_in_order(&mut self) {
        let stand = self.bodies.iter().filter(|body| body.stands).count();
        let key = |place: usize, body: &Seen| u64::from(in_order(body.at[0])) << 32 | place as u64;
        let mut same = self.keys.len() == stand;
        for known in &mut self.keys {
            let place = *known as u32 as usize;
            match self.bodies.get(place).filter(|body| body.stands) {
                Some(body) => *known = key(place, body),
                None => same = false,
            }
        }
        if !same {
            self.keys.clear();
            let standing = self.bodies.iter().enumerate().filter(|(_, body)| body.stands);
            self.keys.extend(standing.map(|(place, body)| key(place, body)));
            self.keys.sort_unstable();
            return;
        }
        let mut patience = 16 * self.keys.len();
        for sorted in 1..self.keys.len() {
            let moved = self.keys[sorted];
            let mut place = sorted;
            while place > 0 && self.keys[place - 1] > moved {
                self.keys[place] = self.keys[place - 1];
                place -= 1;
            }
            self.keys[place] = moved;
            patience = patience.saturating_sub(sorted - place);
            if patience == 0 {
                return self.keys.sort_unstable();
            }
        }
    }

    /// Which way those who are too near press the body at a place, in metres.
    pub(crate) fn pressed_aside(&self, place: usize) -> Flat {
        self.pressed[place]
    }
}

/// Bits that sort as the numbers do.
fn in_order(x: f32) -> u32 {
    let bits = x.to_bits();
    if bits >> 31 == 0 { bits | 1 << 31 } else { !bits }
}

fn square(x: f32) -> f32 {
    x * x
}

fn fits(encounter: &Encounter, team: TeamId, other: &Seen, rule: &TargetRule) -> bool {
    let rules = encounter.rules();
    let relation = rules.relation(team, other.team);
    let side = match rule.side {
        Side::Foes => relation == Some(Relation::Foe),
        Side::Friends => matches!(relation, Some(Relation::Own | Relation::Ally)),
        Side::Any => true,
    };
    let group = &rule.group;
    side && group.team.is_none_or(|team| team == other.team)
        && group.template.is_none_or(|template| template.index() == other.template)
        && rules.tags_in(group.tags).all(|tag| encounter.view().has_tag(other.who, tag))
}
