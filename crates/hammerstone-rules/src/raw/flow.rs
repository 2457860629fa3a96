//! Rules, waves, spots and topics of the host's own, as they are written.

use toml::Spanned;

use super::*;

tables! {
    pub struct Spot {
        at: Vector,
        facing: Option<Number>,
    }

    pub struct Waves {
        template: Name,
        team: Option<Name>,
        size: Option<Spanned<u32>>,
        sizes: Option<Spanned<Vec<u32>>>,
        size_of: Option<Name>,
        times: Option<Spanned<u32>>,
        endless: bool,
        every: Option<Time>,
        follow: Option<Spanned<To>>,
        free_within: Option<Number>,
        adds: Option<Spanned<u32>>,
        adds_more: Option<Spanned<u32>>,
        grows: Option<Number>,
        at: Vec<Name>,
        apart: Option<Vector>,
        delay: Option<Time>,
        next_when: Option<NextWhen>,
    }

    pub struct NextWhen {
        left: u32,
        team: Option<Name>,
        template: Option<Name>,
        tags: Vec<Name>,
    }

    /// Which combatants are meant.
    #[derive(Default)]
    pub struct Group {
        team: Option<Name>,
        template: Option<Name>,
        tags: Vec<Name>,
    }

    pub struct Lives {
        count: Spanned<u32>,
        delay: Option<Time>,
        at: Option<Name>,
        health: Option<Number>,
        last: Option<Name>,
    }

    pub struct Rule {
        on: Option<Name>,
        on_family: Option<Name>,
        when: Conditions = or_default,
        does as "do": Vec<Spanned<Reaction>> = required,
        limit: Option<Name>,
        priority: Option<i16>,
    }

    /// Facts that subscriptions may ask for.
    pub struct Filter {
        on: Option<Name>,
        on_family: Option<Name>,
        when: Conditions = or_default,
    }

    /// Cases of which at most one fires for a fact, from the top.
    pub struct Choice {
        on: Option<Name>,
        on_family: Option<Name>,
        priority: Option<i16>,
        case: Vec<Spanned<Case>> = required,
    }

    pub struct Case {
        name: Option<Name>,
        when: Conditions = or_default,
        does as "do": Vec<Spanned<Reaction>> = required,
        limit: Option<Name>,
    }

    #[derive(Default)]
    pub struct Conditions {
        any: Option<Vec<Conditions>>,
        all: Option<Vec<Conditions>>,
        not: Option<Box<Conditions>>,
        subject: Option<PartyHolds>,
        other: Option<PartyHolds>,
        health: Option<Between<f64>>,
        compare: Vec<Spanned<Compare>>,
        line_of_sight: Option<bool>,
        threshold: Option<Name>,
        direction: Option<Name>,
        crosses: Option<Crosses>,
        status: Option<Name>,
        attack: Option<Name>,
        flags_up: Vec<Name>,
        flags_down: Vec<Name>,
        counters: Named<Between<i64>>,
        scores: Named<Between<i64>>,
        time: Option<Span>,
        round: Option<Between<u32>>,
        standing: OneOrMore<Standing>,
        out_of_lives: Option<Group>,
        waves_over: Vec<Name>,
        since: OneOrMore<Since>,
        fact: Named<Spanned<Held>>,
        chance: Option<Number>,
    }

    /// What must hold of a party of the fact.
    #[derive(Default)]
    pub struct PartyHolds {
        team: Option<Name>,
        template: Option<Name>,
        tags: Vec<Name>,
        health: Option<Between<f64>>,
        stats: Named<Between<f64>>,
        flags_up: Vec<Name>,
        gauges: Named<Between<f64>>,
        flags_down: Vec<Name>,
        counters: Named<Between<i64>>,
        phase: Option<Name>,
    }

    /// One reading against another, or against a number: one of the comparisons.
    pub struct Compare {
        left: Name,
        below: Option<Spanned<Right>>,
        at_most: Option<Spanned<Right>>,
        is: Option<Spanned<Right>>,
        at_least: Option<Spanned<Right>>,
        above: Option<Spanned<Right>>,
    }

    pub struct Crosses {
        at: Number,
        direction: Option<Name>,
    }

    /// So long ago was the last fact of a topic.
    pub struct Since {
        topic: Name,
        at_least: Option<Time>,
        at_most: Option<Time>,
    }

    /// A sum of readings.
    pub struct Sum {
        base: Option<Number>,
        terms: Vec<Term> = required,
        floor: Option<i64>,
        cap: Option<i64>,
    }

    pub struct Term {
        of: Name,
        times: Option<Number>,
    }

    pub struct Span {
        from: Option<Time>,
        to: Option<Time>,
    }

    pub struct Standing {
        team: Option<Name>,
        template: Option<Name>,
        tags: Vec<Name>,
        at_least: Option<u32>,
        at_most: Option<u32>,
        is: Option<u32>,
    }

    /// One thing that a rule does. Exactly one of the verbs is given.
    pub struct Reaction {
        after: Option<Time>,
        to: Option<Spanned<To>>,
        raise_flag: Option<Name>,
        lower_flag: Option<Name>,
        count: Option<Count>,
        score: Option<Score>,
        start_waves: Option<Name>,
        next_round: bool,
        apply: Option<Name>,
        strength: Option<Number>,
        by: Option<Name>,
        lift: Option<Name>,
        damage: Option<Named<Spanned<AmountOf>>>,
        skip: Vec<Name>,
        heal: Option<Spanned<AmountOf>>,
        drain: Option<Named<Spanned<AmountOf>>>,
        fill: Option<Named<Spanned<AmountOf>>>,
        set_gauge: Option<Named<Spanned<AmountOf>>>,
        start: Option<Name>,
        spawn_attack: Option<SpawnAttackAt>,
        send_away: bool,
        teleport: Option<Name>,
        push: Option<Push>,
        change_team: Option<Name>,
        time_scale: Option<Number>,
        transform: Option<Name>,
        let_go: bool,
        request: Option<Name>,
        stop_waves: Option<Name>,
        bring_back: Option<Name>,
        move_obstacle: Option<MoveObstacle>,
        place_obstacle: Option<PlaceObstacle>,
        remove_obstacle: Option<Name>,
        remove: bool,
        publish: Option<Name>,
        with: Named<Spanned<Value>>,
        say: Option<Spanned<String>>,
        lasts: Option<Time>,
        category: Option<Name>,
        audience: Option<Name>,
        end: Option<Name>,
        reset: bool,
    }

    /// As [`Group`], where the place of each name is that of the whole.
    pub struct PlainGroup {
        team: Option<String>,
        template: Option<String>,
        tags: Vec<String>,
    }

    pub struct Count {
        of: Name,
        add: Option<Spanned<AmountOf>>,
        set: Option<Spanned<AmountOf>>,
    }

    pub struct Score {
        of: Name,
        points: Option<Spanned<AmountOf>>,
        value: Option<Name>,
    }

    pub struct Push {
        metres: Number,
        over: Time,
    }

    pub struct MoveObstacle {
        obstacle: Name,
        to: Name,
        over: Time,
    }

    pub struct PlaceObstacle {
        obstacle: Name,
        at: Name,
    }

    pub struct SpawnAttackAt {
        attack: Name,
        team: Name,
        at: Name,
    }
}
