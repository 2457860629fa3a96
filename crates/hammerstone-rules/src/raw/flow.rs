//! Rules, waves, spots and topics of the host's own, as they are written.

use toml::Spanned;

use super::*;

tables! {
    pub struct Spot {
        /// Where; metres.
        at: Vector,
        /// Degrees about the up axis; 0 unless said.
        facing: Option<Number>,
    }

    pub struct Waves {
        /// What comes.
        template: Name,
        /// Its team; the template's unless said.
        team: Option<Name>,
        /// How many come in each; from 1.
        size: Option<Spanned<u32>>,
        /// How many come in each, one after the other; in place of size and times.
        sizes: Option<Spanned<Vec<u32>>>,
        /// A counter that says how many come; in place of size.
        size_of: Option<Name>,
        /// How many waves; from 1.
        times: Option<Spanned<u32>>,
        /// They come until they are stopped; in place of times.
        endless: bool,
        /// On a timer, even if some are left.
        every: Option<Time>,
        /// The leader of each wave: `first`, or who stands of a group.
        follow: Option<Spanned<To>>,
        /// Each takes the next place around which no one stands within so many metres.
        free_within: Option<Number>,
        /// How many more come in each than in the one before.
        adds: Option<Spanned<u32>>,
        /// By how much that rises from wave to wave.
        adds_more: Option<Spanned<u32>>,
        /// A factor from wave to wave.
        grows: Option<Number>,
        /// The spots, taken in turns.
        at: Vec<Name>,
        /// How far they stand from each other; metres.
        apart: Option<Vector>,
        /// The time between one wave and the next; 0 s unless said.
        delay: Option<Time>,
        /// When the next may come: so many are left.
        next_when: Option<NextWhen>,
    }

    pub struct NextWhen {
        /// At most so many stand.
        left: u32,
        /// Of this team.
        team: Option<Name>,
        /// Of this template.
        template: Option<Name>,
        /// With all of these tags.
        tags: Vec<Name>,
    }

    /// Which combatants are meant.
    #[derive(Default)]
    pub struct Group {
        /// Of this team.
        team: Option<Name>,
        /// Of this template.
        template: Option<Name>,
        /// With all of these tags.
        tags: Vec<Name>,
    }

    pub struct Lives {
        /// How many lives; from 1.
        count: Spanned<u32>,
        /// The time until it returns; 0 s unless said.
        delay: Option<Time>,
        /// Where it returns: home, where-it-died or a spot; home, where it joined, unless said.
        at: Option<Name>,
        /// The share of health that it returns with; above 0, at most 1; 1 unless said.
        health: Option<Number>,
        /// The outcome with which the fight ends at the last death; it goes on unless said.
        last: Option<Name>,
    }

    pub struct Rule {
        /// The topic that it hears; one of the two.
        on: Option<Name>,
        /// The path that it hears, with all below it.
        on_family: Option<Name>,
        /// What must hold; always unless said.
        when: Conditions = or_default,
        /// What it does, in order; at least one.
        does as "do": Vec<Spanned<Reaction>> = required,
        /// How often: always, once, per-round or per-life; always unless said.
        limit: Option<Name>,
        /// The higher hears first; 0 unless said.
        priority: Option<i16>,
    }

    /// Facts that subscriptions may ask for.
    pub struct Filter {
        /// The topic of its facts; one of the two.
        on: Option<Name>,
        /// The path of its facts, with all below it.
        on_family: Option<Name>,
        /// What must hold; no chance.
        when: Conditions = or_default,
    }

    /// Cases of which at most one fires for a fact, from the top.
    pub struct Choice {
        /// The topic that it hears; one of the two.
        on: Option<Name>,
        /// The path that it hears, with all below it.
        on_family: Option<Name>,
        /// The higher hears first; 0 unless said.
        priority: Option<i16>,
        /// Its cases, from the top; at least one.
        case: Vec<Spanned<Case>> = required,
    }

    pub struct Case {
        /// Its name; its number unless said.
        name: Option<Name>,
        /// What must hold; always unless said.
        when: Conditions = or_default,
        /// What it does, in order; at least one.
        does as "do": Vec<Spanned<Reaction>> = required,
        /// How often; always unless said.
        limit: Option<Name>,
    }

    #[derive(Default)]
    pub struct Conditions {
        /// At least one of these holds; four deep at most.
        any: Option<Vec<Conditions>>,
        /// All of these hold.
        all: Option<Vec<Conditions>>,
        /// This does not hold.
        not: Option<Box<Conditions>>,
        /// What the subject is.
        subject: Option<PartyHolds>,
        /// What the other party is.
        other: Option<PartyHolds>,
        /// The share of health of the subject; from 0 to 1.
        health: Option<Between<f64>>,
        /// Readings against readings or numbers.
        compare: Vec<Spanned<Compare>>,
        /// Whether nothing solid stands between the two.
        line_of_sight: Option<bool>,
        /// The fact is about this threshold.
        threshold: Option<Name>,
        /// It was crossed `down` or `up`.
        direction: Option<Name>,
        /// What the fact counts went through a number.
        crosses: Option<Crosses>,
        /// The fact is about this status.
        status: Option<Name>,
        /// The fact is about this attack.
        attack: Option<Name>,
        /// Flags of the encounter that are up.
        flags_up: Vec<Name>,
        /// Flags that are down.
        flags_down: Vec<Name>,
        /// Counters of the encounter, by name.
        counters: Named<Between<i64>>,
        /// Scores, by name.
        scores: Named<Between<i64>>,
        /// From one time of the encounter to another.
        time: Option<Span>,
        /// The round, from 1.
        round: Option<Between<u32>>,
        /// How many of a group stand; one, or a list.
        standing: OneOrMore<Standing>,
        /// None of a group stands, and none returns by itself.
        out_of_lives: Option<Group>,
        /// Sequences of which all waves have come.
        waves_over: Vec<Name>,
        /// How long ago facts were; one, or a list.
        since: OneOrMore<Since>,
        /// Fields of the fact, by name.
        fact: Named<Spanned<Held>>,
        /// A roll, from 0 to 1, made last.
        chance: Option<Number>,
    }

    /// What must hold of a party of the fact.
    #[derive(Default)]
    pub struct PartyHolds {
        /// It is of this team.
        team: Option<Name>,
        /// It is of this template.
        template: Option<Name>,
        /// It has all of these tags.
        tags: Vec<Name>,
        /// Its share of health; from 0 to 1.
        health: Option<Between<f64>>,
        /// Its stats, by name.
        stats: Named<Between<f64>>,
        /// Flags of its own that are up.
        flags_up: Vec<Name>,
        /// Points of its gauges, by name.
        gauges: Named<Between<f64>>,
        /// Flags of its own that are down.
        flags_down: Vec<Name>,
        /// Counters of its own, by name.
        counters: Named<Between<i64>>,
        /// The phase of a swing of its own: idle, charging, startup, active, between or recovery.
        phase: Option<Name>,
    }

    /// One reading against another, or against a number: one of the comparisons.
    pub struct Compare {
        /// A reading; see Conditions.
        left: Name,
        /// The left is below; one of the five.
        below: Option<Spanned<Right>>,
        /// The left is not above.
        at_most: Option<Spanned<Right>>,
        /// They are equal.
        is: Option<Spanned<Right>>,
        /// The left is not below.
        at_least: Option<Spanned<Right>>,
        /// The left is above.
        above: Option<Spanned<Right>>,
    }

    pub struct Crosses {
        /// The number.
        at: Number,
        /// Up, down or both; both unless said.
        direction: Option<Name>,
    }

    /// So long ago was the last fact of a topic.
    pub struct Since {
        /// The topic.
        topic: Name,
        /// Not less long ago.
        at_least: Option<Time>,
        /// Not longer ago; one that has not come was endlessly long ago.
        at_most: Option<Time>,
    }

    /// A sum of readings.
    pub struct Sum {
        /// A number to begin with; 0 unless said.
        base: Option<Number>,
        /// Readings that are added; at most 8.
        terms: Vec<Term> = required,
        /// Not less than this; whole.
        floor: Option<i64>,
        /// Not more than this; whole.
        cap: Option<i64>,
    }

    pub struct Term {
        /// A reading; see Conditions.
        of: Name,
        /// What it is multiplied by; 1 unless said.
        times: Option<Number>,
    }

    pub struct Span {
        /// From this time on; the beginning unless said.
        from: Option<Time>,
        /// Up to this time; without an end unless said.
        to: Option<Time>,
    }

    pub struct Standing {
        /// Of this team.
        team: Option<Name>,
        /// Of this template.
        template: Option<Name>,
        /// With all of these tags.
        tags: Vec<Name>,
        /// At least so many.
        at_least: Option<u32>,
        /// At most so many.
        at_most: Option<u32>,
        /// Just so many.
        is: Option<u32>,
    }

    /// One thing that a rule does. Exactly one of the verbs is given.
    pub struct Reaction {
        /// So long after it fires; at once unless said.
        after: Option<Time>,
        /// Who: subject, other, followers, or all who stand of a group; the subject unless said.
        to: Option<Spanned<To>>,
        /// A flag of the encounter, or of the combatants of `to`.
        raise_flag: Option<Name>,
        /// Likewise.
        lower_flag: Option<Name>,
        /// A counter changes.
        count: Option<Count>,
        /// A score changes.
        score: Option<Score>,
        /// A sequence of waves begins.
        start_waves: Option<Name>,
        /// The next round begins.
        next_round: bool,
        /// A status is given.
        apply: Option<Name>,
        /// How strong, for apply; from 0; 1 unless said.
        strength: Option<Number>,
        /// The source: subject, other or nobody.
        by: Option<Name>,
        /// A status is lifted.
        lift: Option<Name>,
        /// Points by damage type.
        damage: Option<Named<Spanned<AmountOf>>>,
        /// Steps that this damage does not take; neither base nor rounding.
        skip: Vec<Name>,
        /// Points of health.
        heal: Option<Spanned<AmountOf>>,
        /// Points that gauges lose.
        drain: Option<Named<Spanned<AmountOf>>>,
        /// Points that gauges gain.
        fill: Option<Named<Spanned<AmountOf>>>,
        /// Points that gauges come to.
        set_gauge: Option<Named<Spanned<AmountOf>>>,
        /// An attack that they start.
        start: Option<Name>,
        /// An attack without an attacker.
        spawn_attack: Option<SpawnAttackAt>,
        /// They leave the fight for now.
        send_away: bool,
        /// The spot at which they are.
        teleport: Option<Name>,
        /// They move away from the other party.
        push: Option<Push>,
        /// Their team.
        change_team: Option<Name>,
        /// Their time; from 0 to 2, in sixteenths.
        time_scale: Option<Number>,
        /// The template that they become.
        transform: Option<Name>,
        /// They let go, or are let go.
        let_go: bool,
        /// What the game's minds are asked: follow, flee, hold-place, or as-usual.
        request: Option<Name>,
        /// No more waves of a sequence come.
        stop_waves: Option<Name>,
        /// The spot at which they stand again.
        bring_back: Option<Name>,
        /// An obstacle moves.
        move_obstacle: Option<MoveObstacle>,
        /// An obstacle is somewhere else.
        place_obstacle: Option<PlaceObstacle>,
        /// An obstacle lets everything through.
        open_obstacle: Option<Name>,
        /// An obstacle that was open is in the way again.
        close_obstacle: Option<Name>,
        /// An obstacle is taken away.
        remove_obstacle: Option<Name>,
        /// They leave for good.
        remove: bool,
        /// A topic of the game's own.
        publish: Option<Name>,
        /// The values of its fields: as they are, "subject" or "other", a reading such as "fact.amount", a sum of readings, or a counter.
        with: Named<Spanned<Published>>,
        /// A line, with blanks such as {subject}.
        say: Option<Spanned<String>>,
        /// How long it is shown.
        lasts: Option<Time>,
        /// What sort of line it is.
        category: Option<Name>,
        /// Who hears it: all, team, subject or other; all unless said.
        audience: Option<Name>,
        /// The outcome with which the fight ends.
        end: Option<Name>,
        /// Everything begins anew.
        reset: bool,
    }

    /// As [`Group`], where the place of each name is that of the whole.
    pub struct PlainGroup {
        /// Of this team.
        team: Option<String>,
        /// Of this template.
        template: Option<String>,
        /// With all of these tags.
        tags: Vec<String>,
    }

    pub struct Count {
        /// The counter.
        of: Name,
        /// What is added.
        add: Option<Spanned<AmountOf>>,
        /// What it is then.
        set: Option<Spanned<AmountOf>>,
    }

    pub struct Score {
        /// The score.
        of: Name,
        /// What is added.
        points: Option<Spanned<AmountOf>>,
        /// A value of the subject that is added.
        value: Option<Name>,
    }

    pub struct Push {
        /// How far; below 0 towards.
        metres: Number,
        /// In what time; at least a tick.
        over: Time,
    }

    pub struct MoveObstacle {
        /// Its name.
        obstacle: Name,
        /// The spot.
        to: Name,
        /// In what time; at least a tick.
        over: Time,
    }

    pub struct PlaceObstacle {
        /// Its name.
        obstacle: Name,
        /// The spot.
        at: Name,
    }

    pub struct SpawnAttackAt {
        /// An attack that needs no body.
        attack: Name,
        /// For which team it counts.
        team: Name,
        /// The spot.
        at: Name,
    }
}
