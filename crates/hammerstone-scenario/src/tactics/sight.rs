//! What there is to see in a tick: where everyone is, and which attacks are under way.

use hammerstone::attack::SwingView;
use hammerstone::flow::{Condition, Question};
use hammerstone::geometry::Pose;
use hammerstone::ids::{CombatantId, SwingId, TeamId};
use hammerstone::team::Relation;
use hammerstone::{Encounter, Life, Ruleset};

use super::attacks::Lore;
use super::def::{Pick, Side, TargetRule};
use super::plane::{Flat, Plane, angle_of, dot, from_to, length, turn_between};

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
    /// Their places, from one side to the other.
    sorted: Vec<usize>,
    widest: f32,
    swings: Vec<SwingView>,
    flying: Vec<Flies>,
    dangers: Vec<Danger>,
    /// Whether anything may cover anything.
    pub(crate) solids: bool,
}

/// A swing that will strike, from where, and how far.
#[derive(Clone, Copy, Debug)]
struct Danger {
    swing: SwingId,
    team: TeamId,
    pose: Pose,
    at: Flat,
    girth: f32,
    reach: f32,
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
        self.swings.clear();
        self.flying.clear();
        self.dangers.clear();
        self.solids = !encounter.level().is_empty() || encounter.scene().obstacles().next().is_some();
        for who in view.combatants() {
            let life = view.life(who);
            if !matches!(life, Life::Standing | Life::Dead) {
                continue;
            }
            let (Some(pose), Some(team), Some(template)) =
                (view.pose(who), view.team(who), view.template(who))
            else {
                continue;
            };
            let template = template.index();
            let size = view.size(who).map_or(1.0, |size| size.to_f64() as f32);
            let girth = lore.girths.get(template).copied().unwrap_or(0.0) * size;
            let stands = life == Life::Standing;
            let at = plane.flat(pose.at);
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
        self.swings.extend(view.swings().filter_map(|(swing, ..)| view.swing(swing)));
        for swing in self.swings.iter().filter(|swing| swing.busy) {
            let place = swing.attacker.map(|who| self.bodies.binary_search_by_key(&who, |seen| seen.who));
            if let Some(Ok(place)) = place {
                self.bodies[place].busy = true;
            }
        }
        for swing in &self.swings {
            let known = &lore.attacks[swing.attack.index()];
            let Some(attacker) = swing.attacker.and_then(|who| self.of(who)) else { continue };
            if known.flies || known.reach <= 0.0 {
                continue;
            }
            let Some(arrives) = known.strikes_in(swing) else { continue };
            let passed = known.timings.windows.iter().filter(|(first, _)| *first <= swing.whole.passed);
            self.dangers.push(Danger {
                swing: swing.id,
                team: attacker.team,
                pose: attacker.pose,
                at: attacker.at,
                girth: attacker.girth,
                reach: known.reach * attacker.size,
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

    pub(crate) fn of(&self, who: CombatantId) -> Option<&Seen> {
        let place = self.bodies.binary_search_by_key(&who, |seen| seen.who).ok()?;
        Some(&self.bodies[place])
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
        let mut best: Option<(f32, CombatantId)> = None;
        for other in &self.bodies {
            let far = length(from_to(me.at, other.at));
            if other.who == me.who || other.stands == rule.dead || far > rule.within {
                continue;
            }
            if !fits(encounter, me.team, other, rule) {
                continue;
            }
            let health = || encounter.view().health(other.who).map_or(0.0, |(points, _)| points as f32);
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
        for danger in self.dangers.iter().filter(|danger| hostile(Some(danger.team))) {
            let way = from_to(danger.at, me.at);
            // Most are far away: which way they face is asked of those that are near.
            if dot(way, way) > square(danger.reach + me.girth + DANGER) {
                continue;
            }
            let off = turn_between(plane.facing(danger.pose), angle_of(way)).abs();
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

    /// How far another is, in metres, how far off one's facing, in radians, and how far it is when both touch.
    pub(crate) fn off(&self, plane: &Plane, me: &Seen, other: &Seen) -> [f32; 3] {
        let way = from_to(me.at, other.at);
        let off = turn_between(plane.facing(me.pose), angle_of(way)).abs();
        [length(way), off, me.girth + other.girth]
    }

    /// Sorts the bodies for [`near`](Self::near).
    pub(crate) fn sort(&mut self) {
        self.sorted.clear();
        self.sorted.extend(0..self.bodies.len());
        let bodies = &self.bodies;
        self.sorted.sort_by(|&a, &b| bodies[a].at[0].total_cmp(&bodies[b].at[0]).then(a.cmp(&b)));
        self.widest = bodies.iter().fold(0.0, |most, body| if body.room > most { body.room } else { most });
    }

    /// Everyone who stands and whose room may meet that of one, from one side to the other.
    pub(crate) fn near(&self, me: &Seen, mut each: impl FnMut(&Seen)) {
        let reach = me.room + self.widest;
        let first = self.sorted.partition_point(|&place| self.bodies[place].at[0] < me.at[0] - reach);
        for &place in &self.sorted[first..] {
            let other = &self.bodies[place];
            if other.at[0] > me.at[0] + reach {
                break;
            }
            if other.stands && other.who != me.who {
                each(other);
            }
        }
    }
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
