//! The forms that an attack may have: one file each, and the list of them.
//!
//! A form says how an attack of it is checked, laid out in time, how far it reaches, where its hitboxes are in a tick, and how many
//! targets stop it. Another form is a variant of [`Form`], a file here and a line in [`Form::ways`]; files read it in the crate of rulesets.

mod area;
mod beam;
mod melee;
mod projectile;
mod touch;

pub(crate) use beam::cut_beams;

use crate::detect::{Detection, InTheWay, OpenHitbox, Posed, Share, obstacles_of};
use crate::geometry::{Motion, Pose, Swept};
use crate::level::Level;
use crate::ruleset::{Attack, AttackPlan, Check, Form, Rules};
use crate::side_by_side;
use crate::state::{BodyAt, Flying, State, Swing, SwingAt};

/// What a form of attack does its own way. Unless a form says otherwise, its attacks have hitboxes of their own, need no body, and are
/// over with their recovery.
pub(crate) trait Ways {
    /// Whether its attacks have hitboxes of their own.
    fn has_hitboxes(&self) -> bool {
        true
    }

    /// Whether the attacker's body is needed to carry it.
    fn needs_body(&self) -> bool {
        false
    }

    /// Whether it goes its own way once it has left the attacker.
    fn leaves_the_hand(&self) -> bool {
        false
    }

    /// What can be wrong with the numbers of the form, and with an attack because of it.
    fn check(&self, _attack: &Attack, _check: &mut Check) {}

    /// The windows and ends of an attack, where they are not those of its timeline.
    fn lay_out(&self, _attack: &Attack, _plan: &mut AttackPlan) {}

    /// The farthest that an attack touches from the up axis through its attacker's place, in metres, if the ruleset knows.
    fn reach(&self, rules: &Rules, attack: &Attack, plan: &AttackPlan) -> Option<f32>;

    /// The hitboxes of a swing in this tick.
    fn gather(&self, swinging: &Swinging<'_>, hitboxes: &mut Vec<OpenHitbox>);

    /// How many targets a beam in this tick, or the body of a projectile, may go through and stop in, and how many it has.
    fn went_through(&self, _swing: &Swing, _body: Option<&Flying>) -> Option<(u32, u32)> {
        None
    }
}

impl Form {
    /// The list of forms.
    pub(crate) fn ways(&self) -> &dyn Ways {
        match self {
            Form::Melee => &melee::Melee,
            Form::Projectile(projectile) => projectile,
            Form::Beam(beam) => beam,
            Form::Area => &area::Area,
            Form::Touch => &touch::Touch,
        }
    }

    /// Whether the attacker's body is needed to carry it.
    pub fn needs_body(&self) -> bool {
        self.ways().needs_body()
    }

    /// Whether it goes its own way once it has left the attacker.
    pub fn leaves_the_hand(&self) -> bool {
        self.ways().leaves_the_hand()
    }
}

/// Every open hitbox, by swing, then by body, then by hitbox; and every body that could be struck, if any hitbox is open.
pub(crate) fn gather_open(rules: &Rules, level: &Level, state: &State, detection: &mut Detection) {
    let Detection { division, shares, hitboxes, posed, stops, .. } = detection;
    hitboxes.clear();
    let in_the_way = InTheWay { level, obstacles: &state.obstacles, stops };
    let shares = division.deal(state.swings.len(), shares);
    side_by_side::each(shares, |Share { run, hitboxes, .. }| {
        let run = run.clone().map(SwingAt::new);
        gather(rules, state, (posed, in_the_way), run, |swing| swing.window != 0, hitboxes);
    });
    match shares {
        [only] => std::mem::swap(hitboxes, &mut only.hitboxes),
        all => all.iter_mut().for_each(|share| hitboxes.append(&mut share.hitboxes)),
    }
    if hitboxes.is_empty() {
        return;
    }
    detection.gather_bodies(rules, state);
    detection.add_past(rules, state);
}

/// The hitboxes of swings that run while no window is open, where they would be if one was.
pub(crate) fn gather_closed(
    rules: &Rules,
    level: &Level,
    state: &State,
    posed: &Posed,
    hitboxes: &mut Vec<OpenHitbox>,
) {
    let in_the_way = InTheWay { level, obstacles: &state.obstacles, stops: &[] };
    let all = SwingAt::all(&state.swings);
    gather(rules, state, (posed, in_the_way), all, |swing| swing.window == 0, hitboxes);
}

fn gather(
    rules: &Rules,
    state: &State,
    (posed, in_the_way): (&Posed, InTheWay<'_>),
    places: impl Iterator<Item = SwingAt>,
    which: impl Fn(&Swing) -> bool,
    hitboxes: &mut Vec<OpenHitbox>,
) {
    for place in places {
        let swing = &state.swings[place];
        if which(swing) && swing.ended.is_none() {
            let (attack, plan) = (rules.attack(swing.attack), rules.attack_plan(swing.attack));
            let back = state.past.of(swing.id);
            let obstacles = obstacles_of(&state.past, state.tick, back).unwrap_or(in_the_way.obstacles);
            let in_the_way = InTheWay { obstacles, ..in_the_way };
            let swinging = Swinging { rules, state, posed, in_the_way, attack, plan, swing, place, back };
            attack.form.ways().gather(&swinging, hitboxes);
        }
    }
}

/// A swing whose hitboxes are gathered.
pub(crate) struct Swinging<'a> {
    rules: &'a Rules,
    state: &'a State,
    posed: &'a Posed,
    in_the_way: InTheWay<'a>,
    attack: &'a Attack,
    plan: &'a AttackPlan,
    swing: &'a Swing,
    place: SwingAt,
    back: u16,
}

impl Swinging<'_> {
    /// The way of what carries it: the place where it was started, or its attacker.
    fn carrier(&self) -> Option<Motion> {
        let still = |pose: Pose| Motion::between(pose, pose);
        self.swing.anchor.map(still).or_else(|| self.attacker())
    }

    /// The way of its attacker.
    fn attacker(&self) -> Option<Motion> {
        let combatants = &self.state.combatants;
        let slot = self.swing.attacker?.slot();
        Some(Motion::between(combatants.pose_before[slot], combatants.pose[slot]))
    }

    fn hitbox(&self, hitbox: usize, group: u16, swept: Swept) -> OpenHitbox {
        let start = swept.start();
        OpenHitbox {
            id: self.swing.id,
            swing: self.place,
            attack: self.swing.attack,
            attacker: self.swing.attacker,
            body: 0,
            flying: BodyAt::new(0),
            hitbox: hitbox as u16,
            group,
            layers: self.attack.layers(),
            swept,
            start,
            bounds: swept.bounds_from(&start),
            farthest: swept.farthest(),
            held_from: 2.0,
            back: self.back,
        }
    }

    /// Its own hitboxes, at rest in the frame of `carrier`.
    fn fixed(&self, carrier: Motion, hitboxes: &mut Vec<OpenHitbox>) {
        for (i, &(core, group)) in self.plan.cores.iter().enumerate() {
            hitboxes.push(self.hitbox(i, group, Swept::fixed(core, carrier)));
        }
    }
}
