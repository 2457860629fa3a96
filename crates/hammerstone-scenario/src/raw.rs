//! Scenarios as they are written.

use hammerstone_rules::tables;
use toml::Spanned;

pub(crate) use hammerstone_rules::raw::*;

tables! {
    pub(crate) struct ScenarioFile {
        scenario: Heading,
        combatant: Named<Combatant>,
        obstacle: Named<Obstacle>,
        level: Named<LevelShape>,
        script: Vec<Spanned<Entry>>,
        expect: Vec<Spanned<Expect>>,
    }

    pub(crate) struct Heading {
        title: String,
        rules: Name,
        lasts: Time,
        seed: Option<u64>,
        outcome: Option<Name>,
    }

    pub(crate) struct Combatant {
        template: Name,
        team: Option<Name>,
        at: Vector,
        facing: Option<Number>,
        count: Option<Spanned<i64>>,
        apart: Option<Vector>,
        path: Vec<Spanned<Leg>>,
        follows: Option<Name>,
        size: Option<Number>,
    }

    pub(crate) struct Leg {
        by: Time,
        to: Vector,
        facing: Option<Number>,
    }

    pub(crate) struct Obstacle {
        sphere: Option<Sphere>,
        capsule: Option<Capsule>,
        block as "box": Option<Block>,
        ground: Option<Ground>,
        at: Option<Vector>,
        facing: Option<Number>,
    }

    pub(crate) struct LevelShape {
        sphere: Option<Sphere>,
        capsule: Option<Capsule>,
        block as "box": Option<Block>,
        ground: Option<Ground>,
        mesh: Option<Name>,
        scale: Option<Number>,
        up: Option<Name>,
    }

    pub(crate) struct ObstacleMove {
        obstacle: Name,
        to: Vector,
        facing: Option<Number>,
        over: Time,
    }

    pub(crate) struct ObstaclePlace {
        obstacle: Name,
        at: Vector,
        facing: Option<Number>,
    }

    pub(crate) struct Ground {
        at: Vector,
        normal: Vector,
    }

    pub(crate) struct SpawnAttack {
        attack: Name,
        team: Name,
        at: Vector,
        facing: Option<Number>,
    }

    /// One line of the script. Exactly one of the verbs is given.
    pub(crate) struct Entry {
        at: Time,
        every: Option<Time>,
        times: Option<Spanned<i64>>,
        who: Option<Name>,
        each: Option<Group>,
        by: Option<Name>,
        when: Option<Spanned<Conditions>>,
        start: Option<Name>,
        aim: Option<Stand>,
        spawn_attack: Option<SpawnAttack>,
        marker: Option<Name>,
        release: Option<Spanned<bool>>,
        guide: Option<Guide>,
        report: Option<Report>,
        remove_obstacle: Option<Name>,
        move_obstacle: Option<ObstacleMove>,
        place_obstacle: Option<ObstaclePlace>,
        cancel: Option<Spanned<bool>>,
        teleport: Option<Stand>,
        moves as "move": Option<Walk>,
        damage: Option<Damage>,
        heal: Option<Spanned<i64>>,
        drain: Option<Named<Spanned<i64>>>,
        fill: Option<Named<Spanned<i64>>>,
        set_gauge: Option<Named<Spanned<i64>>>,
        reason: Option<Name>,
        absolute: bool,
        apply: Option<Name>,
        strength: Option<Number>,
        lift_family: Option<Name>,
        change: Option<Spanned<Change>>,
        unchange: Option<Name>,
        set_maximum: Option<SetMaximum>,
        raise_shield: Option<ShieldOf>,
        lift: Option<Name>,
        send_away: Option<Spanned<bool>>,
        bring_back: Option<Stand>,
        remove: Option<Spanned<bool>>,
        end: Option<Name>,
        raise_flag: Option<Name>,
        lower_flag: Option<Name>,
        count: Option<PlainCount>,
        score: Option<PlainScore>,
        start_waves: Option<Name>,
        stop_waves: Option<Name>,
        change_team: Option<Name>,
        time_scale: Option<Number>,
        transform: Option<Name>,
        let_go: Option<Spanned<bool>>,
        next_round: Option<Spanned<bool>>,
        say: Option<Spanned<String>>,
        publish: Option<Name>,
        with: Named<Spanned<Value>>,
        follow: Option<Name>,
        attach: Option<Attach>,
        hide_part: Option<Name>,
        show_part: Option<Name>,
        resize: Option<Number>,
        reset: Option<Spanned<bool>>,
    }

    pub(crate) struct PlainCount {
        of: Name,
        add: Option<i64>,
        set: Option<i64>,
    }

    pub(crate) struct PlainScore {
        of: Name,
        points: Option<i64>,
    }

    pub(crate) struct Attach {
        value: Name,
        amount: i64,
    }

    pub(crate) struct SetMaximum {
        points: Spanned<i64>,
        keep: Option<Name>,
    }

    pub(crate) struct Guide {
        place: Option<Vector>,
        turn: Option<Turn>,
    }

    pub(crate) struct Report {
        target: Name,
        part: Name,
        point: Vector,
        normal: Vector,
        toi: Option<Number>,
        hitbox: Option<Spanned<i64>>,
        body: Option<Spanned<i64>>,
        speed: Option<Number>,
    }

    pub(crate) struct Walk {
        to: Vector,
        over: Time,
        facing: Option<Number>,
    }

    pub(crate) struct Expect {
        topic: Option<Name>,
        with: Named<Value>,
        during: Option<[Time; 2]>,
        sum: Option<Name>,
        health_of: Option<Name>,
        gauge: Option<Name>,
        status: Option<Name>,
        flag: Option<Name>,
        counter: Option<Name>,
        score: Option<Name>,
        standing: Option<Name>,
        waves: Option<Name>,
        lives_of: Option<Name>,
        round: bool,
        of: Option<Name>,
        up: Option<bool>,
        never: bool,
        at: Option<Time>,
        is: Option<i64>,
        at_least: Option<i64>,
        at_most: Option<i64>,
    }
}
