//! What more may be said of an attack: which targets it strikes, how often, and what comes of it.

use super::*;

impl Attack {
    /// How often one swing may strike one target.
    pub fn policy(mut self, policy: Policy) -> Attack {
        self.policy = policy;
        self
    }

    /// Whose struck list it is, instead of the swing's.
    pub fn sharing(mut self, sharing: Sharing) -> Attack {
        self.sharing = sharing;
        self
    }

    /// Which part a blow is on, of those that were touched in one tick.
    pub fn prefer(mut self, prefer: Prefer) -> Attack {
        self.prefer = prefer;
        self
    }

    /// Strikes no more than so many different targets in a swing.
    #[doc(alias("cleave"))]
    pub fn max_targets(mut self, targets: u16) -> Attack {
        self.max_targets = Some(targets);
        self
    }

    /// Strikes only those who carry `tag`. Called again, they must carry all.
    pub fn needs_tag(mut self, tag: TagId) -> Attack {
        self.needs_tags |= tag.bit();
        self
    }

    /// Does not strike those who carry `tag`.
    pub fn spares_tag(mut self, tag: TagId) -> Attack {
        self.spares_tags |= tag.bit();
        self
    }

    /// Strikes only from one side, within so many degrees of it.
    pub fn only_from(mut self, side: Side, degrees: f32) -> Attack {
        let cosine = libm::cosf(degrees * (std::f32::consts::PI / 180.0));
        self.direction = Some(Within { side, cosine });
        self
    }

    /// Strikes only where no obstacle is between where it comes from and the point that it touches.
    #[doc(alias("line of sight"))]
    pub fn needs_clear_line(mut self) -> Attack {
        self.clear_line = true;
        self
    }

    /// Strikes also those whom `status` makes invulnerable.
    pub fn ignores(mut self, status: StatusId) -> Attack {
        self.ignores.push(status);
        self
    }

    /// Passing through an invulnerable target spends this swing's turn at it. Unless said, it is struck once it can be.
    pub fn passing_spends(mut self) -> Attack {
        self.passing_spends = true;
        self
    }

    /// Publishes `contact.held` for each contact in each tick in which it goes on.
    pub fn tells_held(mut self) -> Attack {
        self.tells_held = true;
        self
    }

    /// May run beside other swings of its attacker.
    pub fn alongside(mut self) -> Attack {
        self.alongside = true;
        self
    }

    /// Whether a projectile or an area lives on when its attacker dies.
    pub fn outlives(mut self, outlives: bool) -> Attack {
        self.outlives = outlives;
        self
    }

    /// Meets other attacks.
    pub fn clash(mut self, clash: Clash) -> Attack {
        self.clash = Some(clash);
        self
    }

    /// Starts the attack named `child` there, with the same credit, in the tick after. It must be one that needs no body.
    #[doc(alias("explosion", "on-hit spawn"))]
    pub fn child(mut self, when: When, child: &str) -> Attack {
        self.children.push((when, child.to_owned()));
        self
    }

    /// Gives `status` to the targets that it strikes and that live through it.
    pub fn inflicts(self, status: StatusId) -> Attack {
        self.inflicts_at(status, Fixed::ONE)
    }

    /// As [`inflicts`](Self::inflicts), at a strength of your choosing.
    pub fn inflicts_at(mut self, status: StatusId, strength: Fixed) -> Attack {
        self.inflicts.push(Given::always(status, strength));
        self
    }

    /// As [`inflicts_at`](Self::inflicts_at), if all of these hold. The subject is the target, the other party the attacker, the fact
    /// `hit.landed`; and three fields more may be asked for: [`OF_A_HIT`](crate::flow::OF_A_HIT).
    pub fn inflicts_when(mut self, status: StatusId, strength: Fixed, mut when: Vec<Condition>) -> Attack {
        Condition::chances_last(&mut when);
        self.inflicts.push(Given { status, strength, when });
        self
    }

    /// A hit holds its target, if that lives, is not held yet, and the attacker is there and not held itself.
    #[doc(alias("grab", "throw", "command grab"))]
    pub fn holds(mut self, grip: Grip) -> Attack {
        self.holds = Some(grip);
        self
    }

    /// Gives `status` to its attacker when it strikes, while they stand.
    pub fn inflicts_self(mut self, status: StatusId, strength: Fixed) -> Attack {
        self.inflicts_self.push(Given::always(status, strength));
        self
    }

    /// As [`inflicts_self`](Self::inflicts_self), if all of these hold, as in [`inflicts_when`](Self::inflicts_when).
    pub fn inflicts_self_when(
        mut self,
        status: StatusId,
        strength: Fixed,
        mut when: Vec<Condition>,
    ) -> Attack {
        Condition::chances_last(&mut when);
        self.inflicts_self.push(Given { status, strength, when });
        self
    }

    /// Every target inside its hitboxes that would not be refused but for having been struck bears `status` until it leaves.
    #[doc(alias("area buff"))]
    pub fn aura(mut self, status: StatusId, strength: Fixed) -> Attack {
        self.aura.push(Given::always(status, strength));
        self
    }

    /// Its attacker bears `status` from tick `from` of the swing until before tick `to`, or until it ends: a dodge, a guard.
    #[doc(alias("i-frames", "iframes", "dodge", "block", "super armor"))]
    pub fn self_status(mut self, from: u32, to: u32, status: StatusId) -> Attack {
        self.self_status.push(Bears { from, to, status });
        self
    }

    /// Heals the targets that it strikes by between `low` and `high` points; for friends, mostly ([`strikes`](Self::strikes)).
    pub fn heals(mut self, low: i64, high: i64) -> Attack {
        self.heals = Some((low, high));
        self
    }

    /// Carries `tag`, for what lets attacks of that tag through.
    pub fn tag(mut self, tag: TagId) -> Attack {
        self.tags |= tag.bit();
        self
    }

    /// A stat of one side adds to its amounts. The attacker's are those at the start of the swing,
    /// unless it is [`live`](Self::live).
    pub fn scaling(mut self, draw: Scaling) -> Attack {
        self.scaling.push(draw);
        self
    }

    /// Its own chance of a critical blow, instead of the ruleset's.
    pub fn critical(mut self, critical: Critical) -> Attack {
        self.critical = Chance::Own(critical);
        self
    }

    /// It is never critical.
    pub fn never_critical(mut self) -> Attack {
        self.critical = Chance::Never;
        self
    }

    /// The amount grows with the speed at which hitbox and part close in where they touch.
    pub fn closing_speed(mut self, closing_speed: ClosingSpeed) -> Attack {
        self.closing_speed = Some(closing_speed);
        self
    }

    /// Its amounts fall off with distance.
    pub fn fall_off(mut self, fall_off: FallOff) -> Attack {
        self.fall_off = Some(fall_off);
        self
    }

    /// No prevention of death can stop its damage.
    pub fn absolute(mut self) -> Attack {
        self.absolute = true;
        self
    }

    /// Stats and changes of its attacker are those at the blow, not those at the start of the swing.
    pub fn live(mut self) -> Attack {
        self.live = true;
        self
    }

    /// Pushes the targets that it strikes.
    pub fn knockback(mut self, push: Knockback) -> Attack {
        self.push = Some(push);
        self
    }

    /// Stops the clocks of both sides when it strikes.
    pub fn hit_stop(mut self, stop: HitStop) -> Attack {
        self.stop = stop;
        self
    }

    /// How much of what it deals is gathered for stagger; all of it unless said.
    pub fn stagger_damage(mut self, share: Fixed) -> Attack {
        self.stagger_damage = share;
        self
    }

    /// Each hit takes so many points from a gauge of the target.
    pub fn drains(mut self, gauge: GaugeId, points: i64) -> Attack {
        self.drains.push((gauge, points));
        self
    }

    /// It costs its attacker of a gauge.
    pub fn costs(mut self, cost: Cost) -> Attack {
        self.costs.push(cost);
        self
    }

    /// It cannot be started again for a while.
    pub fn cooldown(mut self, cooldown: Cooldown) -> Attack {
        self.cooldown = Some(cooldown);
        self
    }

    /// It can be started only so often, until its uses come back.
    pub fn uses(mut self, uses: Uses) -> Attack {
        self.uses = Some(uses);
        self
    }

    /// A start that comes too early, since hands are bound or the attack is not ready, waits for so many ticks.
    #[doc(alias("input buffer"))]
    pub fn buffer(mut self, ticks: u32) -> Attack {
        self.buffer = ticks;
        self
    }

    /// For a stretch of the swing others may take its place. It is cancelled, and what it cost is gone.
    pub fn cancels(mut self, cancel: Cancel) -> Attack {
        self.cancels.push(cancel);
        self
    }

    /// The least and the most that it deals of one damage type in one blow, within what the ruleset says.
    pub fn limits(mut self, limits: Limits) -> Attack {
        self.limits = Some(limits);
        self
    }
}
