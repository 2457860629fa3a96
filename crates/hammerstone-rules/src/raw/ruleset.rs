//! Rulesets as they are written.

use toml::Spanned;

use super::*;

tables! {
    pub struct RulesFile {
        include: Vec<Name>,
        rules: General,
        amount: Amount = or_default,
        team: Named<Team>,
        shield: Named<Shield>,
        gauge: Named<Gauge>,
        pool: Named<Pool>,
        status: Named<Status>,
        attack: Named<Attack>,
        template: Named<Template>,
        topic: Named<Named<SortOf>>,
        skeleton: Named<Skeleton>,
        spot: Named<Spot>,
        waves: Named<Waves>,
        rule: Named<Rule>,
        choice: Named<Choice>,
        filter: Named<Filter>,
    }

    pub struct General {
        rate: Spanned<u32>,
        up: Option<Name>,
        move_limit: Option<Number>,
        assist_window: Option<Time>,
        cascade: Option<Cascade>,
        both_land: bool,
        child_limit: Option<u16>,
        death_credit: Option<Time>,
        hit_stop_limit: Option<Time>,
        maximum: Option<Maximum>,
        attack_speed: Option<Name>,
        movement: Option<Name>,
        stats: Named<Number>,
        own_steps: Vec<Name>,
        damage_types: Vec<Name>,
        layers: Vec<Name>,
        tags: Vec<Name>,
        reasons: Vec<Name>,
        outcomes: Vec<Name>,
        flags: Vec<Name>,
        counters: Vec<Name>,
        combatant_flags: Vec<Name>,
        combatant_counters: Vec<Name>,
        scores: Vec<Name>,
        values: Vec<Name>,
        obstacles: Vec<Name>,
        outside: Vec<Name>,
    }

    /// Either may be left out.
    pub struct Limits {
        floor: Option<Spanned<i64>>,
        cap: Option<Spanned<i64>>,
    }

    pub struct Gauge {
        max: GaugeMax,
        start: Option<Number>,
        refill: Option<Refill>,
        thresholds: Named<Number>,
        on_empty: Option<AtEnd>,
        on_full: Option<AtEnd>,
    }

    pub struct Pool {
        max: Spanned<i64>,
        gauge: Option<Name>,
    }

    pub struct GaugeMaxOf {
        stat: Name,
    }

    pub struct Refill {
        per_second: Number,
        after: Option<Time>,
    }

    pub struct AtEnd {
        grants: Option<Name>,
        becomes: Option<Name>,
    }

    pub struct Cost {
        start: Option<i64>,
        landed: Option<i64>,
        held: Option<Number>,
    }

    pub struct Cooldown {
        lasts: Time,
        from: Option<Name>,
        group: Option<Name>,
    }

    pub struct Uses {
        max: Spanned<u16>,
        refill: Option<Time>,
    }

    pub struct Cancel {
        into: Vec<Name> = required,
        from: Option<Time>,
        to: Option<Time>,
        on: Option<Name>,
    }

    pub struct Cascade {
        depth: u16,
        per_root: u32,
        per_tick: u32,
    }

    #[derive(Default)]
    pub struct Amount {
        steps: Option<Vec<Name>>,
        floor: Option<Spanned<i64>>,
        cap: Option<Spanned<i64>>,
        rounding: Option<Name>,
        heal_steps: Option<Vec<Name>>,
        critical: Option<Critical>,
        relations: Named<Number>,
        armour: Option<Armour>,
        overheal: Option<Overheal>,
    }

    pub struct Maximum {
        stat: Name,
        keep: Option<Name>,
    }

    pub struct Critical {
        chance: Number,
        times: Number,
        chance_stat: Option<Name>,
        times_stat: Option<Name>,
    }

    pub struct Armour {
        flat: Option<Name>,
        curve: Option<Curve>,
        damage_types: Vec<Name>,
    }

    pub struct Curve {
        stat: Name,
        half: Number,
    }

    pub struct Overheal {
        shield: Name,
        share: Number,
        max: Spanned<i64>,
    }

    pub struct Shield {
        damage_types: Vec<Name>,
    }

    /// A change of amounts: which, and by how much.
    pub struct AmountChange {
        damage_type: Option<Name>,
        against: Vec<Name>,
        add: Option<Number>,
        add_share: Option<Number>,
        multiply: Option<Number>,
        set: Option<Number>,
    }

    pub struct Grant {
        on: Name,
        status: Name,
        strength: Option<Number>,
        to_other: bool,
        when: Option<Conditions>,
    }

    pub struct Scaling {
        of: Name,
        stat: Name,
        adds: Option<Number>,
        shares: Option<Number>,
        damage_type: Option<Name>,
    }

    pub struct FallOff {
        near: Number,
        far: Number,
        least: Number,
    }

    pub struct ClosingSpeed {
        from: Number,
        full: Number,
        least: Number,
    }

    pub struct SelfStatus {
        status: Name,
        from: Time,
        to: Time,
    }

    pub struct Knockback {
        metres: Number,
        over: Time,
        lift: Option<Number>,
        away: Option<Name>,
        moves: bool,
    }

    pub struct HitStop {
        attacker: Option<Time>,
        target: Option<Time>,
    }

    pub struct Stagger {
        at: Number,
        recovers: Option<Number>,
        status: Option<Name>,
    }

    pub struct Guard {
        takes: Number,
        within: Number,
        breaks_after: Option<Spanned<i64>>,
        damage_types: Vec<Name>,
    }

    pub struct Parry {
        within: Number,
        forms: Vec<Name>,
        ends_swing: bool,
    }

    pub struct ShieldOf {
        of: Name,
        points: Spanned<i64>,
    }

    pub struct PreventsDeath {
        leaves: Spanned<i64>,
        limit: Spanned<i64>,
        ends: bool,
    }

    pub struct SharedDamage {
        share: Number,
        damage_type: Option<Name>,
        linked: bool,
    }

    pub struct Strength {
        captured: Option<Name>,
        live: Option<Name>,
    }

    pub struct Broken {
        gone: bool,
        multiplier: Option<Number>,
        tags: Vec<Name>,
        sphere: Option<Sphere>,
        capsule: Option<Capsule>,
        block as "box": Option<Block>,
    }

    pub struct Team {
        allies: Vec<Name>,
        neutral: Vec<Name>,
    }

    pub struct Status {
        lasts: Option<Time>,
        pulse: Option<Pulse>,
        roots: bool,
        stuns: bool,
        invulnerable: bool,
        lets_through: Vec<Name>,
        stacking: Option<Name>,
        max_stacks: Option<Spanned<i64>>,
        strength: Option<Strength>,
        guard: Option<Guard>,
        parries: Option<Parry>,
        deflects: Option<Parry>,
        shield: Option<ShieldOf>,
        prevents_death: Option<PreventsDeath>,
        reflects: Option<SharedDamage>,
        transfers: Option<SharedDamage>,
        changes: Vec<Spanned<Change>>,
        deals: Vec<Spanned<AmountChange>>,
        takes: Vec<Spanned<AmountChange>>,
        gives_healing: Vec<Spanned<AmountChange>>,
        takes_healing: Vec<Spanned<AmountChange>>,
        grants: Vec<Grant>,
        tags: Vec<Name>,
        adds_tags: Vec<Name>,
        hides_parts: Vec<Name>,
        shows_parts: Vec<Name>,
        barred_by: Vec<Name>,
        lifted_by: Vec<Name>,
        lifts: Vec<Name>,
        across_lives: bool,
        kills_on_expiry: Option<Name>,
        protects: Named<Number>,
        limits: Option<Limits>,
        limits_taken: Option<Limits>,
    }

    pub struct Pulse {
        every: Time,
        first: Option<Name>,
        damage: Damage,
        heal: Option<Spanned<Range>>,
        absolute: bool,
    }

    pub struct Attack {
        form: Name,
        startup: Option<Time>,
        active: Option<Spanned<Active>>,
        recovery: Option<Time>,
        marked: Option<Time>,
        projectile: Option<Spanned<Projectile>>,
        beam: Option<Spanned<Beam>>,
        charge: Option<Charge>,
        chain: Option<ChainTo>,
        every: Option<Time>,
        sharing: Option<Name>,
        prefer: Option<Name>,
        max_targets: Option<Spanned<i64>>,
        needs_tags: Vec<Name>,
        spares_tags: Vec<Name>,
        only_from: Option<OnlyFrom>,
        clear_line: bool,
        ignores: Vec<Name>,
        passing_spends: bool,
        tells_held: bool,
        alongside: bool,
        outlives: Option<bool>,
        guided: bool,
        animation: Option<Plays>,
        /// It is no one's: a trap, the weather.
        ownerless: bool,
        clash: Option<Clash>,
        children: Vec<Child>,
        damage: Damage,
        meets: Option<Vec<Name>>,
        strikes: Option<Vec<Name>>,
        policy: Option<Name>,
        inflicts: Vec<Spanned<Given>>,
        inflicts_self: Vec<Spanned<Given>>,
        aura: Vec<Spanned<Given>>,
        self_status: Vec<SelfStatus>,
        heals: Option<Spanned<Range>>,
        tags: Vec<Name>,
        scaling: Vec<Spanned<Scaling>>,
        critical: Option<Critical>,
        never_critical: bool,
        fall_off: Option<FallOff>,
        closing_speed: Option<ClosingSpeed>,
        absolute: bool,
        live: bool,
        knockback: Option<Knockback>,
        hit_stop: Option<HitStop>,
        stagger_damage: Option<Number>,
        hitboxes: Vec<Spanned<Hitbox>>,
        path: Vec<Spanned<Key>>,
        drains: Named<Spanned<i64>>,
        costs: Named<Cost>,
        cooldown: Option<Cooldown>,
        uses: Option<Uses>,
        buffer: Option<Time>,
        cancels: Vec<Spanned<Cancel>>,
        limits: Option<Limits>,
        holds: Option<Grip>,
    }

    pub struct Grip {
        at: Vector,
        facing: Option<Number>,
        lasts: Option<Time>,
        breaks_after: Option<Spanned<i64>>,
        status: Option<Name>,
    }

    pub struct Projectile {
        from: Option<Vector>,
        speed: Number,
        gravity: Option<Number>,
        lifetime: Time,
        pierce: Option<u16>,
        pellets: Option<u16>,
        spread: Option<Number>,
        aligned: bool,
    }

    pub struct Beam {
        from: Option<Vector>,
        reach: Number,
        radius: Option<Number>,
        pierce: Option<u16>,
    }

    pub struct Charge {
        least: Time,
        most: Time,
        full: Number,
    }

    pub struct ChainTo {
        next: Name,
        opens: Time,
        lapses: Time,
    }

    pub struct OnlyFrom {
        side: Name,
        within: Number,
    }

    pub struct Clash {
        layer: u8,
        meets: Vec<u8> = required,
        priority: Option<i16>,
        tie: Option<Name>,
    }

    pub struct Child {
        when: Name,
        start: Name,
    }

    /// A time after what was before, or from one marker of the animation to another.
    pub struct Window {
        after: Option<Time>,
        lasts: Option<Time>,
        from: Option<Name>,
        to: Option<Name>,
    }

    pub struct Hitbox {
        group: Option<u16>,
        joint: Option<Name>,
        bone: Option<Bone>,
        sphere: Option<Sphere>,
        capsule: Option<Capsule>,
        block as "box": Option<Block>,
    }

    pub struct Key {
        at: Time,
        place: Option<Vector>,
        turn: Option<Turn>,
    }

    pub struct Template {
        team: Name,
        health: Option<Spanned<i64>>,
        pool: Option<Name>,
        corpse_time: Option<Time>,
        lives: Option<Lives>,
        thresholds: Named<Spanned<Threshold>>,
        values: Named<Spanned<i64>>,
        tags: Vec<Name>,
        attacks: Vec<Name>,
        resistance: Named<Number>,
        stats: Named<Number>,
        shields: Named<Spanned<i64>>,
        gauges: Vec<Name>,
        deals: Vec<Spanned<AmountChange>>,
        takes: Vec<Spanned<AmountChange>>,
        gives_healing: Vec<Spanned<AmountChange>>,
        takes_healing: Vec<Spanned<AmountChange>>,
        grants: Vec<Grant>,
        stagger: Option<Stagger>,
        never_critical: bool,
        posed: Option<Posed>,
        skeleton: Option<Name>,
        part: Named<Part>,
        limits_taken: Option<Limits>,
    }

    /// A skeleton's file, and what its bodies do by themselves.
    pub struct Skeleton {
        file: Name,
        up: Option<Name>,
        scale: Option<Number>,
        turn: Option<Number>,
        idle: Option<Name>,
        walk: Option<Name>,
        walk_speed: Option<Number>,
        blend: Option<Time>,
        animations: Named<Animated>,
    }

    /// What a file does not say of an animation, or where it is if it has a file of its own.
    pub struct Animated {
        file: Option<Name>,
        markers: Named<Time>,
    }

    /// The animation of an attack.
    pub struct Plays {
        skeleton: Name,
        name: Name,
    }

    /// A capsule from a joint to another, as they are at rest.
    pub struct Bone {
        to: Name,
        radius: Number,
    }

    /// Parts follow a skeleton of the host's.
    pub struct Posed {
        reach: Number,
    }

    pub struct Part {
        hidden: bool,
        joint: Option<Name>,
        bone: Option<Bone>,
        layer: Option<Name>,
        multiplier: Option<Number>,
        tags: Vec<Name>,
        points: Option<Spanned<i64>>,
        broken: Option<Broken>,
        sphere: Option<Sphere>,
        capsule: Option<Capsule>,
        block as "box": Option<Block>,
    }
}
