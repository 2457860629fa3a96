//! Rulesets as they are written.

use toml::Spanned;

use super::*;

tables! {
    pub struct RulesFile {
        /// Other rulesets: their entries are as if they stood here; names of files, relative to this one; at most 256, each once.
        include: Vec<Name>,
        /// What holds for all.
        rules: General,
        /// How amounts of damage and healing are worked out.
        amount: Amount = or_default,
        /// The teams; at most 64.
        team: Named<Team>,
        /// Sorts of shields.
        shield: Named<Shield>,
        /// Gauges beside health.
        gauge: Named<Gauge>,
        /// Health that several share.
        pool: Named<Pool>,
        /// The statuses.
        status: Named<Status>,
        /// The attacks.
        attack: Named<Attack>,
        /// What combatants are made from.
        template: Named<Template>,
        /// Topics of the game's own, each with the sorts of its fields (whole, exact, truth, who, at, text) or the names that one may hold; at most 4 fields.
        topic: Named<Named<SortOf>>,
        /// Files of skeletons.
        skeleton: Named<Skeleton>,
        /// Named places.
        spot: Named<Spot>,
        /// Sequences of waves.
        waves: Named<Waves>,
        /// Rules.
        rule: Named<Rule>,
        /// Rules of which at most one fires for a fact.
        choice: Named<Choice>,
        /// Facts that subscriptions of the game may ask for by name.
        filter: Named<Filter>,
    }

    pub struct General {
        /// Ticks in one second; from 1 to 100000.
        rate: Spanned<u32>,
        /// The axis that points up: x, y or z; y unless said.
        up: Option<Name>,
        /// How far one move may go in a tick, and a guided hitbox be from its body; metres above 0; 100 unless said.
        move_limit: Option<Number>,
        /// An assist goes to those who damaged the dead so lately; 5 s unless said.
        assist_window: Option<Time>,
        /// How far reactions may lead to reactions.
        cascade: Option<Cascade>,
        /// Of two who kill each other in one tick, both blows land; else the earlier impact wins.
        both_land: bool,
        /// By how much swings may be rewound for lag, at most 1000 ticks; by nothing unless said.
        rewind: Option<Time>,
        /// How many attacks may start each other in a row; 4 unless said.
        child_limit: Option<u16>,
        /// A death without a killer so soon after a blow is credited to the attacker of that blow; to no one unless said.
        death_credit: Option<Time>,
        /// By how much hit-stops may put off the end of one swing in all; 10 s unless said.
        hit_stop_limit: Option<Time>,
        /// A stat whose whole points are added to every maximum of health.
        maximum: Option<Maximum>,
        /// A stat that is the speed of swings: 1 is as written, 2 the most.
        attack_speed: Option<Name>,
        /// A stat that is the speed of moves, for the host to read.
        movement: Option<Name>,
        /// Stats, with what they are unless a template says otherwise; exact numbers.
        stats: Named<Number>,
        /// Steps of the amount that the host's code takes.
        own_steps: Vec<Name>,
        /// The damage types; at most 1024.
        damage_types: Vec<Name>,
        /// Layers of parts beside `body`, which is always there; at most 32 in all.
        layers: Vec<Name>,
        /// Tags of combatants, parts, attacks and statuses; at most 64.
        tags: Vec<Name>,
        /// Reasons for what the host or a script does, and of intercepts.
        reasons: Vec<Name>,
        /// How a fight may end, beside `time`, which is always there.
        outcomes: Vec<Name>,
        /// Flags of the encounter, down when it begins.
        flags: Vec<Name>,
        /// Counters of the encounter, 0 when it begins.
        counters: Vec<Name>,
        /// Flags that each combatant has.
        combatant_flags: Vec<Name>,
        /// Counters that each combatant has.
        combatant_counters: Vec<Name>,
        /// Scores, 0 when it begins.
        scores: Vec<Name>,
        /// What may be attached to combatants, such as a bounty.
        values: Vec<Name>,
        /// Names of obstacles that rules move or take away.
        obstacles: Vec<Name>,
        /// Statuses, flags, counters and topics that the game or a script gives, reads or publishes: `check` does not ask about them.
        outside: Vec<Name>,
        /// Findings of `check` that are meant so.
        allow: Vec<Allow>,
    }

    pub struct Allow {
        /// The number of the finding; from 1.
        finding: Spanned<u16>,
        /// A name that the finding says between backticks; all of that number unless said.
        about: Option<Name>,
        /// Why it is meant so, for who reads the file.
        because: Spanned<String>,
    }

    /// Either may be left out.
    pub struct Limits {
        /// The least points of one damage type in one blow, if any come through at all; from 0.
        floor: Option<Spanned<i64>>,
        /// The most points of one damage type in one blow; not below the floor.
        cap: Option<Spanned<i64>>,
    }

    pub struct Gauge {
        /// Points that it holds at most, or a stat whose whole points are that; from 1.
        max: GaugeMax,
        /// The share of it that is there when a life begins; from 0 to 1; 1 unless said.
        start: Option<Number>,
        /// What comes by itself.
        refill: Option<Refill>,
        /// Shares of it whose crossing is a fact; from 0, below 1.
        thresholds: Named<Number>,
        /// What follows when it is empty.
        on_empty: Option<AtEnd>,
        /// What follows when it is full.
        on_full: Option<AtEnd>,
    }

    pub struct Pool {
        /// Points of health; from 1.
        max: Spanned<i64>,
        /// What is shared: `health`, the only one so far.
        gauge: Option<Name>,
    }

    pub struct GaugeMaxOf {
        /// A stat of the ruleset.
        stat: Name,
    }

    pub struct Refill {
        /// Points a second; below 0 it drains by itself.
        per_second: Number,
        /// So long after the last loss; 0 s unless said.
        after: Option<Time>,
    }

    pub struct AtEnd {
        /// A status for its bearer.
        grants: Option<Name>,
        /// What it is then: `full` for an empty one, `empty` for a full one; as it is unless said.
        becomes: Option<Name>,
    }

    pub struct Cost {
        /// Points that a start takes, and without which it is refused; from 0; 0 unless said.
        start: Option<i64>,
        /// Points that the first hit of a swing takes; from 0; 0 unless said.
        landed: Option<i64>,
        /// Points a second while it is charged; from 0; 0 unless said.
        held: Option<Number>,
    }

    pub struct Cooldown {
        /// How long.
        lasts: Time,
        /// From when on it counts: `start` or `end` of the swing; `start` unless said.
        from: Option<Name>,
        /// Attacks of one group cool down together.
        group: Option<Name>,
    }

    pub struct Uses {
        /// How often it may be used; from 1.
        max: Spanned<u16>,
        /// The time in which one use comes back; none does unless said.
        refill: Option<Time>,
    }

    pub struct Cancel {
        /// Attacks that may be started in place of what is left of the swing.
        into: Vec<Name> = required,
        /// From this time of the swing on; 0 s unless said.
        from: Option<Time>,
        /// Up to this time; to its end unless said.
        to: Option<Time>,
        /// After what: `hit`, `guarded`, `miss` or `any`; `any` unless said.
        on: Option<Name>,
    }

    pub struct Cascade {
        /// How deep one reaction may lead to the next; from 0 to 64.
        depth: u16,
        /// How many may follow from one root; from 0 to 1000000.
        per_root: u32,
        /// How many may follow in one tick; from 0 to 1000000.
        per_tick: u32,
    }

    #[derive(Default)]
    pub struct Amount {
        /// The steps of damage, in their order, each once; `base` is the first, `rounding` the last, but for `shields`.
        steps: Option<Vec<Name>>,
        /// The least points of one damage type in one blow; from 0; 0 unless said.
        floor: Option<Spanned<i64>>,
        /// The most; not below the floor.
        cap: Option<Spanned<i64>>,
        /// Down, up or nearest; nearest unless said.
        rounding: Option<Name>,
        /// The steps of healing, likewise.
        heal_steps: Option<Vec<Name>>,
        /// Critical blows of all attacks; none unless said.
        critical: Option<Critical>,
        /// The share of damage to own, ally, foe and neutral; from 0 to 1000; 1 unless said.
        relations: Named<Number>,
        /// What armour takes off.
        armour: Option<Armour>,
        /// A share of healing that was too much becomes a shield.
        overheal: Option<Overheal>,
    }

    pub struct Maximum {
        /// A stat of the ruleset.
        stat: Name,
        /// What health keeps when its maximum changes: `share` or `points`; `share` unless said.
        keep: Option<Name>,
    }

    pub struct Critical {
        /// From 0 to 1.
        chance: Number,
        /// What a critical blow is multiplied by; from 0 to 1000.
        times: Number,
        /// A stat that is added to the chance.
        chance_stat: Option<Name>,
        /// A stat that is added to the multiplier.
        times_stat: Option<Name>,
    }

    pub struct Armour {
        /// A stat whose points come off.
        flat: Option<Name>,
        /// A stat that takes a share off.
        curve: Option<Curve>,
        /// For which damage types; all unless said.
        damage_types: Vec<Name>,
    }

    pub struct Curve {
        /// A stat of the ruleset.
        stat: Name,
        /// The points of it that take half off; above 0.
        half: Number,
    }

    pub struct Overheal {
        /// A sort of shield.
        shield: Name,
        /// The share of what was too much; from 0 to 1000.
        share: Number,
        /// The most points that it may come to; from 1.
        max: Spanned<i64>,
    }

    pub struct Shield {
        /// Against which damage types; all unless said.
        damage_types: Vec<Name>,
    }

    /// A change of amounts: which, and by how much.
    pub struct AmountChange {
        /// For one damage type; for all unless said.
        damage_type: Option<Name>,
        /// Only against those with all of these tags.
        against: Vec<Name>,
        /// Points; one of the four ways.
        add: Option<Number>,
        /// A share that is added to others of the same sort, then all multiply once; 0.25 is a quarter more.
        add_share: Option<Number>,
        /// A factor; from 0 to 1000.
        multiply: Option<Number>,
        /// In place of what it was.
        set: Option<Number>,
    }

    pub struct Grant {
        /// The occasion: struck, hits, joins, returns, spared, expiry, parries or deflects.
        on: Name,
        /// The status that is given.
        status: Name,
        /// How strong; from 0; 1 unless said.
        strength: Option<Number>,
        /// To the other side of the occasion, not to the bearer.
        to_other: bool,
        /// Only if this holds.
        when: Option<Conditions>,
    }

    pub struct Scaling {
        /// The side that has the stat: `attacker` or `target`.
        of: Name,
        /// A stat of the ruleset.
        stat: Name,
        /// Points for each point of the stat.
        adds: Option<Number>,
        /// A share for each point of the stat.
        shares: Option<Number>,
        /// For one damage type; for all unless said.
        damage_type: Option<Name>,
    }

    pub struct FallOff {
        /// Up to this distance all of it; metres.
        near: Number,
        /// From here on the least; metres, beyond near.
        far: Number,
        /// The share that is left there; from 0 to 1.
        least: Number,
    }

    pub struct ClosingSpeed {
        /// Below this speed the least; metres a second.
        from: Number,
        /// From here on all of it; metres a second, above from.
        full: Number,
        /// The share that is left below; from 0 to 1.
        least: Number,
    }

    pub struct SelfStatus {
        /// The status that the attacker bears while it swings.
        status: Name,
        /// From this time of the swing on.
        from: Time,
        /// Up to this time.
        to: Time,
    }

    pub struct Knockback {
        /// How far the target is moved; metres; below 0 towards where the blow comes from.
        metres: Number,
        /// In what time; at least a tick.
        over: Time,
        /// How far up as well; metres; 0 unless said.
        lift: Option<Number>,
        /// Which way: from-attacker, from-contact or forward; from-attacker unless said.
        away: Option<Name>,
        /// The core moves the target itself; else the host does.
        moves: bool,
    }

    pub struct HitStop {
        /// How long the attacker's clock stands; 0 s unless said.
        attacker: Option<Time>,
        /// How long the target's clock stands; 0 s unless said.
        target: Option<Time>,
    }

    pub struct Stagger {
        /// So much stagger damage staggers; points above 0.
        at: Number,
        /// Points a second that wane; 0 unless said.
        recovers: Option<Number>,
        /// A status that comes with it.
        status: Option<Name>,
    }

    pub struct Guard {
        /// The share of damage that it takes off; from 0 to 1.
        takes: Number,
        /// How far from its front, to each side; degrees.
        within: Number,
        /// Points that it takes off before it breaks; never unless said.
        breaks_after: Option<Spanned<i64>>,
        /// Against which damage types; all unless said.
        damage_types: Vec<Name>,
    }

    pub struct Parry {
        /// How far from its front, to each side; degrees.
        within: Number,
        /// Which forms of attacks; all that it can turn away unless said.
        forms: Vec<Name>,
        /// The swing that is parried ends.
        ends_swing: bool,
    }

    pub struct ShieldOf {
        /// A sort of shield.
        of: Name,
        /// From 1.
        points: Spanned<i64>,
    }

    pub struct PreventsDeath {
        /// The health that is left; points from 1.
        leaves: Spanned<i64>,
        /// How often in one life; from 1.
        limit: Spanned<i64>,
        /// It ends when it has prevented one.
        ends: bool,
    }

    pub struct SharedDamage {
        /// The share that is passed on; from 0 to 1 for transfers, to 1000 for reflects.
        share: Number,
        /// Of one damage type; of all unless said.
        damage_type: Option<Name>,
        /// To all who bear the status from the same source, in equal parts; else to the source.
        linked: bool,
    }

    pub struct Strength {
        /// A stat of the source as it was when the status was given.
        captured: Option<Name>,
        /// A stat of the source as it is.
        live: Option<Name>,
    }

    pub struct Broken {
        /// It can be touched no longer.
        gone: bool,
        /// What damage is multiplied by then.
        multiplier: Option<Number>,
        /// Its tags then.
        tags: Vec<Name>,
        /// Its shape then.
        sphere: Option<Sphere>,
        /// Its shape then.
        capsule: Option<Capsule>,
        /// Its shape then.
        block as "box": Option<Block>,
    }

    pub struct Team {
        /// Teams that are its allies; all others are foes.
        allies: Vec<Name>,
        /// Teams that are neither.
        neutral: Vec<Name>,
    }

    pub struct Status {
        /// How long; until it is lifted unless said.
        lasts: Option<Time>,
        /// What it does again and again.
        pulse: Option<Pulse>,
        /// Its bearer cannot move.
        roots: bool,
        /// Its bearer can neither move nor start anything.
        stuns: bool,
        /// Hits on its bearer are refused as `invulnerable`.
        invulnerable: bool,
        /// Damage types that an invulnerable bearer still takes.
        lets_through: Vec<Name>,
        /// What a second one does: refresh, extend, strongest, stack or per-source; refresh unless said.
        stacking: Option<Name>,
        /// The most stacks, for `stack`; from 2 to 1000.
        max_stacks: Option<Spanned<i64>>,
        /// A stat that strengthens it.
        strength: Option<Strength>,
        /// It guards.
        guard: Option<Guard>,
        /// It parries hits.
        parries: Option<Parry>,
        /// It sends projectiles back.
        deflects: Option<Parry>,
        /// A shield that comes and goes with it.
        shield: Option<ShieldOf>,
        /// It keeps its bearer alive.
        prevents_death: Option<PreventsDeath>,
        /// A share of damage goes back to the attacker.
        reflects: Option<SharedDamage>,
        /// A share of damage goes to its source, or to all who are linked.
        transfers: Option<SharedDamage>,
        /// Changes of stats.
        changes: Vec<Spanned<Change>>,
        /// Changes of what its bearer deals.
        deals: Vec<Spanned<AmountChange>>,
        /// Changes of what its bearer takes.
        takes: Vec<Spanned<AmountChange>>,
        /// Changes of healing by its bearer.
        gives_healing: Vec<Spanned<AmountChange>>,
        /// Changes of healing that its bearer gets.
        takes_healing: Vec<Spanned<AmountChange>>,
        /// Statuses that it gives on occasions.
        grants: Vec<Grant>,
        /// The families that it belongs to.
        tags: Vec<Name>,
        /// Tags that its bearer has while it does.
        adds_tags: Vec<Name>,
        /// Parts that cannot be touched while it does.
        hides_parts: Vec<Name>,
        /// Parts that can be touched while it does.
        shows_parts: Vec<Name>,
        /// It is not given to one with any of these tags or statuses.
        barred_by: Vec<Name>,
        /// It ends when one of these statuses is given.
        lifted_by: Vec<Name>,
        /// Statuses that end when it is given.
        lifts: Vec<Name>,
        /// It waits while its bearer is dead, and goes on.
        across_lives: bool,
        /// Its bearer dies when it expires, of this damage type.
        kills_on_expiry: Option<Name>,
        /// The share of what gauges would lose that is kept, by gauge; from 0 to 1.
        protects: Named<Number>,
        /// Limits of what its bearer deals.
        limits: Option<Limits>,
        /// Limits of what its bearer takes.
        limits_taken: Option<Limits>,
    }

    pub struct Pulse {
        /// The time between two; at least a tick.
        every: Time,
        /// The first comes `after` the time, or `at-once`; after unless said.
        first: Option<Name>,
        /// Points by damage type, rolled between two.
        damage: Damage,
        /// Points that are healed.
        heal: Option<Spanned<Range>>,
        /// Its damage skips every step.
        absolute: bool,
    }

    pub struct Attack {
        /// Melee, projectile, beam, area or touch.
        form: Name,
        /// The time before its first window; 0 s unless said.
        startup: Option<Time>,
        /// How long it can hit: a time, or several windows; not for a beam or projectile that says it otherwise.
        active: Option<Spanned<Active>>,
        /// The time after its last window; 0 s unless said.
        recovery: Option<Time>,
        /// Markers of the host's animation open and close its windows; the longest that it may run.
        marked: Option<Time>,
        /// How its bodies fly.
        projectile: Option<Spanned<Projectile>>,
        /// How it reaches.
        beam: Option<Spanned<Beam>>,
        /// It is held, and grows.
        charge: Option<Charge>,
        /// The attack that follows on a second press.
        chain: Option<ChainTo>,
        /// It strikes a target again after so long.
        every: Option<Time>,
        /// What has a struck list of its own: `swing`, `group` or `body`; swing unless said.
        sharing: Option<Name>,
        /// Which part of several it strikes: first, multiplier or nearest; first unless said.
        prefer: Option<Name>,
        /// The most targets of one swing; from 1.
        max_targets: Option<Spanned<i64>>,
        /// Only those with all of these tags.
        needs_tags: Vec<Name>,
        /// Not those with any of these tags.
        spares_tags: Vec<Name>,
        /// Only from one side.
        only_from: Option<OnlyFrom>,
        /// Nothing solid may stand between.
        clear_line: bool,
        /// Statuses that make others invulnerable, but not to it.
        ignores: Vec<Name>,
        /// Passing through an invulnerable target uses up its turn; else it strikes once it can.
        passing_spends: bool,
        /// Each contact is told in every tick in which it goes on.
        tells_held: bool,
        /// It runs beside other swings of its attacker.
        alongside: bool,
        /// Whether a projectile or an area goes on when its attacker dies; it does unless said.
        outlives: Option<bool>,
        /// The host poses its hitboxes.
        guided: bool,
        /// The animation that its body plays.
        animation: Option<Plays>,
        /// It is no one's: a trap, the weather.
        ownerless: bool,
        /// How it meets other attacks.
        clash: Option<Clash>,
        /// Attacks that it starts.
        children: Vec<Child>,
        /// Points by damage type, rolled between two.
        damage: Damage,
        /// Layers of parts that it meets; all unless said.
        meets: Option<Vec<Name>>,
        /// Own, ally, foe, neutral; foes unless said.
        strikes: Option<Vec<Name>>,
        /// Once, window, interval, entry or life; once unless said.
        policy: Option<Name>,
        /// Statuses for its targets.
        inflicts: Vec<Spanned<Given>>,
        /// Statuses for its attacker when it hits.
        inflicts_self: Vec<Spanned<Given>>,
        /// Statuses for those who are within it, as long as they are.
        aura: Vec<Spanned<Given>>,
        /// Statuses of its attacker for a part of the swing.
        self_status: Vec<SelfStatus>,
        /// Points that its targets are healed by.
        heals: Option<Spanned<Range>>,
        /// Its tags.
        tags: Vec<Name>,
        /// Stats that its damage grows with.
        scaling: Vec<Spanned<Scaling>>,
        /// Its own critical blows, in place of the ruleset's.
        critical: Option<Critical>,
        /// It is never critical.
        never_critical: bool,
        /// It deals less from afar.
        fall_off: Option<FallOff>,
        /// It deals less when it is slow.
        closing_speed: Option<ClosingSpeed>,
        /// Its damage skips every step.
        absolute: bool,
        /// Stats and team are those of the moment, not of the start.
        live: bool,
        /// It moves its targets.
        knockback: Option<Knockback>,
        /// Clocks stand when it hits.
        hit_stop: Option<HitStop>,
        /// Of what it deals, the share that staggers; from 0 to 1000; 1 unless said.
        stagger_damage: Option<Number>,
        /// What strikes; in the attacker's frame.
        hitboxes: Vec<Spanned<Hitbox>>,
        /// How its hitboxes move in the attacker's frame, by time since the start.
        path: Vec<Spanned<Key>>,
        /// Points that its targets lose, by gauge.
        drains: Named<Spanned<i64>>,
        /// What it costs, by gauge.
        costs: Named<Cost>,
        /// How soon it can be started again.
        cooldown: Option<Cooldown>,
        /// How often it can be started.
        uses: Option<Uses>,
        /// An early press waits so long.
        buffer: Option<Time>,
        /// Attacks that it can be cancelled into.
        cancels: Vec<Spanned<Cancel>>,
        /// Limits of what it deals.
        limits: Option<Limits>,
        /// It takes hold of the first that it hits.
        holds: Option<Grip>,
    }

    pub struct Grip {
        /// Where the one who is held is, in the holder's frame; metres.
        at: Vector,
        /// How it is turned; degrees.
        facing: Option<Number>,
        /// How long; until one lets go unless said.
        lasts: Option<Time>,
        /// Points that the holder may lose before it lets go; from 1.
        breaks_after: Option<Spanned<i64>>,
        /// A status of the one who is held.
        status: Option<Name>,
    }

    pub struct Projectile {
        /// Where it starts, in the attacker's frame; metres.
        from: Option<Vector>,
        /// Metres a second; 0 for one that only falls.
        speed: Number,
        /// Metres a second, each second; 0 unless said.
        gravity: Option<Number>,
        /// How long it flies; at least a tick.
        lifetime: Time,
        /// How many targets it goes through; 0 unless said.
        pierce: Option<u16>,
        /// How many bodies; from 1 to 1024; 1 unless said.
        pellets: Option<u16>,
        /// The angle over which they are spread; degrees; 0 unless said.
        spread: Option<Number>,
        /// Its bodies turn with their way.
        aligned: bool,
    }

    pub struct Beam {
        /// Where it begins, in the attacker's frame; metres.
        from: Option<Vector>,
        /// How far; metres above 0.
        reach: Number,
        /// How thick; metres; 0 unless said.
        radius: Option<Number>,
        /// How many targets it goes through; 0 unless said.
        pierce: Option<u16>,
    }

    pub struct Charge {
        /// It cannot be released before.
        least: Time,
        /// It is released by itself then; not before least.
        most: Time,
        /// What damage is multiplied by at the most; from 0 to 1000.
        full: Number,
    }

    pub struct ChainTo {
        /// The attack.
        next: Name,
        /// From this time of the swing on.
        opens: Time,
        /// Up to this time after its start.
        lapses: Time,
    }

    pub struct OnlyFrom {
        /// The side of the target: before, behind or above.
        side: Name,
        /// How far from that, to each side; degrees.
        within: Number,
    }

    pub struct Clash {
        /// The layer on which it is met; from 0 to 31.
        layer: u8,
        /// The layers that it meets.
        meets: Vec<u8> = required,
        /// The higher goes on; 0 unless said.
        priority: Option<i16>,
        /// Which of equals end: `both` or `neither`; both unless said.
        tie: Option<Name>,
    }

    pub struct Child {
        /// The occasion: hit, obstacle, expiry or end.
        when: Name,
        /// The attack.
        start: Name,
    }

    /// A time after what was before, or from one marker of the animation to another.
    pub struct Window {
        /// The time since what was before.
        after: Option<Time>,
        /// How long.
        lasts: Option<Time>,
        /// The marker at which it opens, in place of times.
        from: Option<Name>,
        /// The marker at which it closes.
        to: Option<Name>,
    }

    pub struct Hitbox {
        /// Its group; from 0; 0 unless said.
        group: Option<u16>,
        /// The joint that it follows.
        joint: Option<Name>,
        /// A capsule from its joint to another.
        bone: Option<Bone>,
        /// Its shape.
        sphere: Option<Sphere>,
        /// Its shape.
        capsule: Option<Capsule>,
        /// Its shape.
        block as "box": Option<Block>,
    }

    pub struct Key {
        /// The time since the start.
        at: Time,
        /// Where; metres.
        place: Option<Vector>,
        /// How it is turned.
        turn: Option<Turn>,
    }

    pub struct Template {
        /// Its team.
        team: Name,
        /// Points from 1; or it names a pool.
        health: Option<Spanned<i64>>,
        /// The pool that it shares, in place of health of its own.
        pool: Option<Name>,
        /// How long its body lies; until it is removed unless said.
        corpse_time: Option<Time>,
        /// How often it returns.
        lives: Option<Lives>,
        /// Shares of health whose crossing is a fact; from 0, below 1.
        thresholds: Named<Spanned<Threshold>>,
        /// What it is worth, by value.
        values: Named<Spanned<i64>>,
        /// Its tags.
        tags: Vec<Name>,
        /// The attacks that it may start.
        attacks: Vec<Name>,
        /// The share of damage that it takes off, by damage type; from -1000 to 1000; 1 takes all, beyond that it heals.
        resistance: Named<Number>,
        /// Its stats, where they are not those of the ruleset.
        stats: Named<Number>,
        /// Points of shields that it joins with.
        shields: Named<Spanned<i64>>,
        /// The gauges that it has.
        gauges: Vec<Name>,
        /// Changes of what it deals.
        deals: Vec<Spanned<AmountChange>>,
        /// Changes of what it takes.
        takes: Vec<Spanned<AmountChange>>,
        /// Changes of healing by it.
        gives_healing: Vec<Spanned<AmountChange>>,
        /// Changes of healing that it gets.
        takes_healing: Vec<Spanned<AmountChange>>,
        /// Statuses that it gives on occasions.
        grants: Vec<Grant>,
        /// It can be staggered.
        stagger: Option<Stagger>,
        /// It is never struck critically.
        never_critical: bool,
        /// Its parts follow poses of the host's.
        posed: Option<Posed>,
        /// Its parts follow a skeleton.
        skeleton: Option<Name>,
        /// Its parts; at most 255.
        part: Named<Part>,
        /// Limits of what it takes.
        limits_taken: Option<Limits>,
    }

    /// A skeleton's file, and what its bodies do by themselves.
    pub struct Skeleton {
        /// A glTF or BVH file, relative to the ruleset.
        file: Name,
        /// The axis that points up in it; that of its format unless said.
        up: Option<Name>,
        /// Metres of one unit in it; 1 unless said.
        scale: Option<Number>,
        /// Degrees about the up axis; 0 unless said.
        turn: Option<Number>,
        /// The animation of one who stands.
        idle: Option<Name>,
        /// The animation of one who moves.
        walk: Option<Name>,
        /// Metres a second at which that is as written.
        walk_speed: Option<Number>,
        /// The time from one animation to the next.
        blend: Option<Time>,
        /// What its files do not say of animations.
        animations: Named<Animated>,
    }

    /// What a file does not say of an animation, or where it is if it has a file of its own.
    pub struct Animated {
        /// A file of its own.
        file: Option<Name>,
        /// Markers by name, with their times.
        markers: Named<Time>,
    }

    /// The animation of an attack.
    pub struct Plays {
        /// A skeleton of the ruleset.
        skeleton: Name,
        /// The animation.
        name: Name,
    }

    /// A capsule from a joint to another, as they are at rest.
    pub struct Bone {
        /// The other joint.
        to: Name,
        /// Metres above 0.
        radius: Number,
    }

    /// Parts follow a skeleton of the host's.
    pub struct Posed {
        /// How far a pose may be from the body; metres above 0.
        reach: Number,
    }

    pub struct Part {
        /// It cannot be touched until it is shown; for the first 64 parts.
        hidden: bool,
        /// The joint that it follows.
        joint: Option<Name>,
        /// A capsule from its joint to another.
        bone: Option<Bone>,
        /// Its layer; body unless said.
        layer: Option<Name>,
        /// What damage is multiplied by; from 0 to 1000; 1 unless said.
        multiplier: Option<Number>,
        /// Its tags, as if its bearer had them.
        tags: Vec<Name>,
        /// Points of its own, after which it is broken; from 1; for the first 64 parts.
        points: Option<Spanned<i64>>,
        /// What it is then.
        broken: Option<Broken>,
        /// Its shape.
        sphere: Option<Sphere>,
        /// Its shape.
        capsule: Option<Capsule>,
        /// Its shape.
        block as "box": Option<Block>,
    }
}
