//! Scenarios as they are written.

use hammerstone_rules::tables;
use toml::Spanned;

mod sweep;
mod tactics;

pub(crate) use hammerstone_rules::raw::*;
pub(crate) use sweep::*;
pub(crate) use tactics::*;

tables! {
    pub(crate) struct ScenarioFile {
        /// The fight as a whole.
        scenario: Heading,
        /// Who is there from the start, by name.
        combatant: Named<Combatant>,
        /// What stands in the way and may move, by name.
        obstacle: Named<Obstacle>,
        /// What never moves, by name.
        level: Named<LevelShape>,
        /// How combatants move and fight by themselves, by name.
        tactics: Named<Tactics>,
        /// What is ordered when.
        script: Vec<Spanned<Entry>>,
        /// What must come of it.
        expect: Vec<Spanned<Expect>>,
    }

    pub(crate) struct Heading {
        /// What it is called.
        title: String,
        /// The ruleset; the name of a file, relative to this one.
        rules: Name,
        /// How long the fight goes; at least a tick.
        lasts: Time,
        /// The seed of all rolls; 1 unless said.
        seed: Option<u64>,
        /// How it ends when its time is up; `time` unless said.
        outcome: Option<Name>,
    }

    pub(crate) struct CaseFile {
        /// The fight as a whole.
        scenario: CaseHeading,
        /// What must come of it.
        expect: Vec<Spanned<Expect>>,
    }

    pub(crate) struct CaseHeading {
        /// What it is called.
        title: String,
        /// The log that is run again; the name of a file, relative to this one.
        log: Name,
    }

    pub(crate) struct Combatant {
        /// What it is made from.
        template: Name,
        /// Its team; the template's unless said.
        team: Option<Name>,
        /// Where it stands; metres.
        at: Vector,
        /// Degrees about the up axis; 0 unless said.
        facing: Option<Number>,
        /// So many, called NAME#1 and so on; from 1 to 100000.
        count: Option<Spanned<i64>>,
        /// From one to the next; metres.
        apart: Option<Vector>,
        /// Where it walks.
        path: Vec<Spanned<Leg>>,
        /// Its leader.
        follows: Option<Name>,
        /// Its tactics, whatever group it is of.
        tactics: Option<Name>,
        /// Its skill, in place of that of its tactics; from 0 to 1.
        skill: Option<Number>,
        /// Times as large as its template says; from 0.01 to 100; 1 unless said.
        size: Option<Number>,
    }

    pub(crate) struct Leg {
        /// When it is there.
        by: Time,
        /// Where; metres.
        to: Vector,
        /// Degrees about the up axis then.
        facing: Option<Number>,
    }

    pub(crate) struct Obstacle {
        /// Its shape.
        sphere: Option<Sphere>,
        /// Its shape.
        capsule: Option<Capsule>,
        /// Its shape.
        block as "box": Option<Block>,
        /// A half-space.
        ground: Option<Ground>,
        /// Where its frame is; metres; the origin unless said.
        at: Option<Vector>,
        /// Degrees about the up axis; 0 unless said.
        facing: Option<Number>,
        /// It lets everything through at first.
        open: bool,
    }

    pub(crate) struct LevelShape {
        /// Its shape.
        sphere: Option<Sphere>,
        /// Its shape.
        capsule: Option<Capsule>,
        /// Its shape.
        block as "box": Option<Block>,
        /// A half-space.
        ground: Option<Ground>,
        /// An OBJ or glTF file, relative to the scenario.
        mesh: Option<Name>,
        /// Metres of one unit of the mesh; 1 unless said.
        scale: Option<Number>,
        /// The axis that points up in the mesh.
        up: Option<Name>,
    }

    pub(crate) struct ObstacleMove {
        /// Its name.
        obstacle: Name,
        /// Where; metres.
        to: Vector,
        /// Degrees about the up axis.
        facing: Option<Number>,
        /// In what time; at least a tick.
        over: Time,
    }

    pub(crate) struct ObstaclePlace {
        /// Its name.
        obstacle: Name,
        /// Where; metres.
        at: Vector,
        /// Degrees about the up axis.
        facing: Option<Number>,
    }

    pub(crate) struct Ground {
        /// A point of its surface; metres.
        at: Vector,
        /// Out of it; its length means nothing.
        normal: Vector,
    }

    pub(crate) struct SpawnAttack {
        /// An attack that needs no body.
        attack: Name,
        /// For which team it counts.
        team: Name,
        /// Where; metres.
        at: Vector,
        /// Degrees about the up axis; 0 unless said.
        facing: Option<Number>,
    }

    /// One line of the script. Exactly one of the verbs is given.
    pub(crate) struct Entry {
        /// When.
        at: Time,
        /// Again after so long; at least a tick.
        every: Option<Time>,
        /// How often in all; from 1.
        times: Option<Spanned<i64>>,
        /// The combatant that it is about.
        who: Option<Name>,
        /// In place of one: all who stand then and are of the group.
        each: Option<Group>,
        /// The combatant that does it; the other party of `when`.
        by: Option<Name>,
        /// Only if this holds then, before the orders of the tick; of the combatant as `subject`.
        when: Option<Spanned<Conditions>>,
        /// An attack starts.
        start: Option<Name>,
        /// Where a start is aimed from.
        aim: Option<Stand>,
        /// The swing that starts is tested against where its targets were so long ago; no further back than `rewind` of the ruleset.
        rewind: Option<Time>,
        /// An attack without an attacker.
        spawn_attack: Option<SpawnAttack>,
        /// A marker of its running swings: open, close or end.
        marker: Option<Name>,
        /// Its charged swings are released.
        release: Option<Spanned<bool>>,
        /// Where the hitboxes of its guided swings are.
        guide: Option<Guide>,
        /// One of its swings touches a part.
        report: Option<Report>,
        /// An obstacle is taken away.
        remove_obstacle: Option<Name>,
        /// An obstacle lets everything through.
        open_obstacle: Option<Name>,
        /// An obstacle that was open is in the way again.
        close_obstacle: Option<Name>,
        /// An obstacle moves.
        move_obstacle: Option<ObstacleMove>,
        /// An obstacle is somewhere else.
        place_obstacle: Option<ObstaclePlace>,
        /// Its swings are cancelled.
        cancel: Option<Spanned<bool>>,
        /// It is somewhere else.
        teleport: Option<Stand>,
        /// It moves.
        moves as "move": Option<Walk>,
        /// Points by damage type; needs a reason.
        damage: Option<Damage>,
        /// Points of health; needs a reason.
        heal: Option<Spanned<i64>>,
        /// Points that gauges lose.
        drain: Option<Named<Spanned<i64>>>,
        /// Points that gauges gain.
        fill: Option<Named<Spanned<i64>>>,
        /// Points that gauges come to.
        set_gauge: Option<Named<Spanned<i64>>>,
        /// Why, for damage, healing and changes.
        reason: Option<Name>,
        /// The damage skips every step.
        absolute: bool,
        /// A status is given.
        apply: Option<Name>,
        /// How strong, for apply; from 0; 1 unless said.
        strength: Option<Number>,
        /// All its statuses of a family are lifted.
        lift_family: Option<Name>,
        /// A stat changes.
        change: Option<Spanned<Change>>,
        /// Such a change ends.
        unchange: Option<Name>,
        /// The maximum of its health.
        set_maximum: Option<SetMaximum>,
        /// A shield gets points.
        raise_shield: Option<ShieldOf>,
        /// A status is lifted.
        lift: Option<Name>,
        /// It leaves the fight for now.
        send_away: Option<Spanned<bool>>,
        /// It stands again.
        bring_back: Option<Stand>,
        /// It leaves for good.
        remove: Option<Spanned<bool>>,
        /// The outcome with which the fight ends.
        end: Option<Name>,
        /// A flag, of the encounter or of its own.
        raise_flag: Option<Name>,
        /// Likewise.
        lower_flag: Option<Name>,
        /// A counter changes, of the encounter or of its own.
        count: Option<PlainCount>,
        /// A score changes.
        score: Option<PlainScore>,
        /// A sequence of waves begins.
        start_waves: Option<Name>,
        /// No more waves of a sequence come.
        stop_waves: Option<Name>,
        /// Its team.
        change_team: Option<Name>,
        /// Its time; from 0 to 2, in sixteenths.
        time_scale: Option<Number>,
        /// The template that it becomes.
        transform: Option<Name>,
        /// It lets go, or is let go.
        let_go: Option<Spanned<bool>>,
        /// The next round begins.
        next_round: Option<Spanned<bool>>,
        /// A line that the ruleset knows.
        say: Option<Spanned<String>>,
        /// A topic of the game's own.
        publish: Option<Name>,
        /// The values of its fields.
        with: Named<Spanned<Value>>,
        /// Its leader.
        follow: Option<Name>,
        /// A value is attached to it.
        attach: Option<Attach>,
        /// A part cannot be touched.
        hide_part: Option<Name>,
        /// A part can be touched.
        show_part: Option<Name>,
        /// Times as large as its template says; from 0.01 to 100.
        resize: Option<Number>,
        /// It takes to these tactics; `none` for none, `usual` for those of its group again.
        tactics: Option<Name>,
        /// Everything begins anew.
        reset: Option<Spanned<bool>>,
    }

    pub(crate) struct PlainCount {
        /// The counter.
        of: Name,
        /// What is added.
        add: Option<i64>,
        /// What it is then.
        set: Option<i64>,
    }

    pub(crate) struct PlainScore {
        /// The score.
        of: Name,
        /// What is added.
        points: Option<i64>,
    }

    pub(crate) struct Attach {
        /// The value.
        value: Name,
        /// How much.
        amount: i64,
    }

    pub(crate) struct SetMaximum {
        /// From 1.
        points: Spanned<i64>,
        /// What health keeps: `share` or `points`; `share` unless said.
        keep: Option<Name>,
    }

    pub(crate) struct Guide {
        /// Where; metres.
        place: Option<Vector>,
        /// How it is turned.
        turn: Option<Turn>,
    }

    pub(crate) struct Report {
        /// Who is touched.
        target: Name,
        /// Which part.
        part: Name,
        /// Where; metres.
        point: Vector,
        /// Out of the target; its length means nothing.
        normal: Vector,
        /// When within the tick; from 0 to 1; 0 unless said.
        toi: Option<Number>,
        /// By which hitbox, from 1.
        hitbox: Option<Spanned<i64>>,
        /// By which projectile, from 1.
        body: Option<Spanned<i64>>,
        /// Metres a second at which they met.
        speed: Option<Number>,
    }

    pub(crate) struct Walk {
        /// Where; metres.
        to: Vector,
        /// In what time; at least a tick.
        over: Time,
        /// Degrees about the up axis then.
        facing: Option<Number>,
    }

    pub(crate) struct Expect {
        /// Facts of this topic, or of all below a path, are counted.
        topic: Option<Name>,
        /// Only those with these fields.
        with: Named<Value>,
        /// Only from one time to another.
        during: Option<[Time; 2]>,
        /// The sum of a field, in place of the number of facts.
        sum: Option<Name>,
        /// The health of a combatant.
        health_of: Option<Name>,
        /// A gauge of the one in `of`.
        gauge: Option<Name>,
        /// Whether the one in `of` has a status, or its stacks.
        status: Option<Name>,
        /// A flag, of the encounter or of the one in `of`.
        flag: Option<Name>,
        /// A counter, of the encounter or of the one in `of`.
        counter: Option<Name>,
        /// A score.
        score: Option<Name>,
        /// How many of a team stand.
        standing: Option<Name>,
        /// How many waves of a sequence have come.
        waves: Option<Name>,
        /// The lives that are left to a combatant.
        lives_of: Option<Name>,
        /// The round.
        round: bool,
        /// The combatant that has the gauge, status, flag or counter.
        of: Option<Name>,
        /// Whether it is up, or there.
        up: Option<bool>,
        /// It never is, at no time.
        never: bool,
        /// At the end of this time; at the end of the fight unless said.
        at: Option<Time>,
        /// Just this.
        is: Option<i64>,
        /// Not below.
        at_least: Option<i64>,
        /// Not above.
        at_most: Option<i64>,
    }
}

/// All forms of a scenario's file that a ruleset's does not have.
pub(crate) fn forms() -> Vec<Described> {
    hammerstone_rules::described![
        ScenarioFile,
        Heading,
        Combatant,
        Leg,
        Obstacle,
        LevelShape,
        ObstacleMove,
        ObstaclePlace,
        Ground,
        SpawnAttack,
        Entry,
        PlainCount,
        PlainScore,
        Attach,
        SetMaximum,
        Guide,
        Report,
        Walk,
        Expect,
        Tactics,
        SpeedOf,
        TacticsTarget,
        TacticsChoice,
        Deed,
        Wrap,
        Dash,
        SweepFile,
        SweepHeading,
        SweptFight,
    ]
}
