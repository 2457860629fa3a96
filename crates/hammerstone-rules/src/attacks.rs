//! Attacks out of a ruleset's file.

mod timeline;

use hammerstone::attack::{
    Attack, Away, Beam, Clash, ClosingSpeed, FallOff, HitStop, Knockback, Policy, Prefer, Projectile,
    Sharing, Side, Tie, When,
};
use hammerstone::ids::AttackId;
use hammerstone::team::{Relation, Relations};
use toml::Spanned;

use crate::motion::{Bound, Played};
use crate::raw;
use crate::rules::Resolver;
use crate::values::{Shapes, Turned};

impl Resolver<'_, '_> {
    pub(crate) fn attack(&mut self, name: &raw::Name, raw: &raw::Attack) -> AttackId {
        let entry = name.as_ref();
        self.note("attack", entry, "", name.span());
        self.note("attack", entry, "timeline", raw.active.as_ref().map_or(name.span(), Spanned::span));
        let Some(attack) = self.form(name, raw) else {
            return self.builder.attack(Attack::melee(entry));
        };
        let plays = self.plays(raw);
        let attack = self.timeline(name, raw, attack, plays);
        let attack = self.targets(raw, attack);
        let attack = self.counting(raw, attack);
        let (mut attack, joints) = self.candidates(name, raw, attack, plays);
        for damage in self.damage("attack", entry, &raw.damage) {
            attack = attack.damage(damage.damage_type, damage.low, damage.high);
        }
        attack = self.amounts_of(entry, raw, attack);
        attack = self.statuses_of(entry, raw, attack);
        attack = self.answers(entry, raw, attack);
        attack = self.readiness(entry, raw, attack);
        type Flag = fn(Attack) -> Attack;
        let flags: [(bool, Flag); 8] = [
            (raw.absolute, Attack::absolute),
            (raw.live, Attack::live),
            (raw.never_critical, Attack::never_critical),
            (raw.passing_spends, Attack::passing_spends),
            (raw.tells_held, Attack::tells_held),
            (raw.alongside, Attack::alongside),
            (raw.guided, Attack::guided),
            (raw.clear_line, Attack::needs_clear_line),
        ];
        for (_, flag) in flags.into_iter().filter(|(given, _)| *given) {
            attack = flag(attack);
        }
        if let Some(outlives) = raw.outlives {
            attack = attack.outlives(outlives);
        }
        let id = self.builder.attack(attack);
        if let Some(((rig, animation), plays)) = plays.zip(raw.animation.as_ref()) {
            let bound = Bound { rig, joints };
            self.motion.attacks.push((id, Played { animation, bound, span: plays.name.span() }));
        }
        id
    }

    /// What the amounts look at beside the base.
    fn amounts_of(&mut self, entry: &str, raw: &raw::Attack, mut attack: Attack) -> Attack {
        if let Some(heals) = &raw.heals {
            self.note("attack", entry, "heals", heals.span());
            let (low, high) = heals.as_ref().bounds();
            attack = attack.heals(low, high);
        }
        for draw in &raw.scaling {
            self.note("attack", entry, "scaling", draw.span());
            if let Some(draw) = self.draw(draw.as_ref()) {
                attack = attack.scaling(draw);
            }
        }
        if let Some(critical) = &raw.critical {
            self.note("attack", entry, "critical", critical.chance.span());
            if let Some(critical) = self.critical(critical) {
                attack = attack.critical(critical);
            }
        }
        if let Some(fall_off) = &raw.fall_off {
            self.note("attack", entry, "fall-off", fall_off.far.span());
            let (near, far) = (self.reading.exact(&fall_off.near), self.reading.exact(&fall_off.far));
            if let (Some(near), Some(far), Some(least)) = (near, far, self.reading.exact(&fall_off.least)) {
                attack = attack.fall_off(FallOff { near, far, least });
            }
        }
        if let Some(speed) = &raw.closing_speed {
            self.note("attack", entry, "closing-speed", speed.full.span());
            let (from, full) = (self.reading.exact(&speed.from), self.reading.exact(&speed.full));
            if let (Some(from), Some(full), Some(least)) = (from, full, self.reading.exact(&speed.least)) {
                attack = attack.closing_speed(ClosingSpeed { from, full, least });
            }
        }
        self.tags_named(&raw.tags).into_iter().fold(attack, Attack::tag)
    }

    /// What it gives, and what its attacker bears.
    fn statuses_of(&mut self, entry: &str, raw: &raw::Attack, mut attack: Attack) -> Attack {
        for (status, strength, when) in self.given("attack", entry, "inflicts", &raw.inflicts) {
            attack = attack.inflicts_when(status, strength, when);
        }
        for (status, strength, when) in self.given("attack", entry, "inflicts-self", &raw.inflicts_self) {
            attack = attack.inflicts_self_when(status, strength, when);
        }
        let auras = self.given("attack", entry, "aura", &raw.aura);
        for ((status, strength, when), given) in auras.into_iter().zip(&raw.aura) {
            if !when.is_empty() {
                let message = "an aura has no conditions: it holds for all who are inside".to_owned();
                let fix = "leave `when` out, or give the status by a rule on `contact.met`".to_owned();
                self.reading.problem(given.span(), "here", message, Some(fix));
            }
            attack = attack.aura(status, strength);
        }
        for self_status in &raw.self_status {
            self.note("attack", entry, "self-status", self_status.status.span());
            let (from, to) = (
                self.reading.time(&self_status.from, self.rate),
                self.reading.time(&self_status.to, self.rate),
            );
            if let (Some(status), Some(from), Some(to)) = (self.status_named(&self_status.status), from, to) {
                attack = attack.self_status(from, to, status);
            }
        }
        attack
    }

    /// Push, stop, stagger.
    fn answers(&mut self, entry: &str, raw: &raw::Attack, mut attack: Attack) -> Attack {
        if let Some(push) = &raw.knockback {
            self.note("attack", entry, "push", push.metres.span());
            let known = Away::ALL.map(|away| (away.name(), away));
            let away = push.away.as_ref().and_then(|name| self.reading.find("way", name, known));
            let lift = push.lift.as_ref().map_or(Some(0.0), |lift| self.reading.number(lift));
            let (metres, ticks) =
                (self.reading.number(&push.metres), self.reading.time(&push.over, self.rate));
            if let (Some(metres), Some(ticks), Some(lift)) = (metres, ticks, lift) {
                let (away, moves) = (away.unwrap_or_default(), push.moves);
                attack = attack.knockback(Knockback { metres, lift, away, ticks, moves });
            }
        }
        if let Some(stop) = &raw.hit_stop {
            let mut ticks = |time: &Option<raw::Time>| {
                time.as_ref().and_then(|time| self.reading.time(time, self.rate)).unwrap_or(0)
            };
            attack =
                attack.hit_stop(HitStop { attacker: ticks(&stop.attacker), target: ticks(&stop.target) });
        }
        if let Some(share) = &raw.stagger_damage
            && let Some(share) = self.reading.exact(share)
        {
            attack = attack.stagger_damage(share);
        }
        attack
    }

    fn form(&mut self, name: &raw::Name, raw: &raw::Attack) -> Option<Attack> {
        let entry = name.as_ref();
        let forms = ["melee", "projectile", "beam", "area", "touch"];
        let form = self.reading.find("form of attack", &raw.form, forms.map(|form| (form, form)))?;
        let extra = [
            ("projectile", raw.projectile.as_ref().map(Spanned::span)),
            ("beam", raw.beam.as_ref().map(Spanned::span)),
        ];
        for (field, span) in extra {
            if let (Some(span), true) = (span, field != form) {
                let fix = Some(format!("take it out, or write `form = \"{field}\"`"));
                self.reading.problem(span, "here", format!("`{field}` is for attacks of that form"), fix);
            }
        }
        match form {
            "projectile" => {
                let Some(projectile) = &raw.projectile else {
                    return self.lacks(raw, "projectile", "speed = 20, lifetime = \"1s\"");
                };
                self.note("attack", entry, "projectile", projectile.span());
                Some(Attack::projectile(entry, self.projectile(projectile.as_ref())?))
            }
            "beam" => {
                let Some(beam) = &raw.beam else { return self.lacks(raw, "beam", "reach = 12") };
                self.note("attack", entry, "beam", beam.span());
                Some(Attack::beam(entry, self.beam(beam.as_ref())?))
            }
            "area" => Some(Attack::area(entry)),
            "touch" => Some(Attack::touch(entry)),
            _ => Some(Attack::melee(entry)),
        }
    }

    fn lacks(&mut self, raw: &raw::Attack, field: &str, example: &str) -> Option<Attack> {
        let fix = Some(format!("add `{field} = {{ {example} }}`"));
        self.reading.problem(raw.form.span(), "here", format!("a {field} attack says how"), fix);
        None
    }

    fn projectile(&mut self, raw: &raw::Projectile) -> Option<Projectile> {
        let mut projectile =
            Projectile::new(self.reading.number(&raw.speed)?, self.reading.time(&raw.lifetime, self.rate)?);
        if let Some(from) = &raw.from {
            projectile.from = self.reading.vector(from)?;
        }
        if let Some(gravity) = &raw.gravity {
            projectile.gravity = self.reading.number(gravity)?;
        }
        if let Some(spread) = &raw.spread {
            projectile.spread = self.reading.number(spread)?;
        }
        projectile.pierce = raw.pierce.unwrap_or(0);
        projectile.pellets = raw.pellets.unwrap_or(1);
        projectile.aligned = raw.aligned;
        Some(projectile)
    }

    fn beam(&mut self, raw: &raw::Beam) -> Option<Beam> {
        let from = raw.from.as_ref().map_or(Some([0.0; 3]), |from| self.reading.vector(from))?;
        let radius = raw.radius.as_ref().map_or(Some(0.0), |radius| self.reading.number(radius))?;
        Some(Beam { from, reach: self.reading.number(&raw.reach)?, radius, pierce: raw.pierce.unwrap_or(0) })
    }

    /// Which targets it strikes, and from which side.
    fn targets(&mut self, raw: &raw::Attack, mut attack: Attack) -> Attack {
        for layer in raw.meets.iter().flatten() {
            if let Some(layer) = self.reading.find_id("layer", layer, &self.known.layers) {
                attack = attack.meets(layer);
            }
        }
        if let Some(names) = &raw.strikes {
            let known = || Relation::ALL.map(|relation| (relation.name(), relation));
            let found = names.iter().filter_map(|name| self.reading.find("relation", name, known()));
            attack = attack.strikes(found.fold(Relations::NONE, Relations::and));
        }
        for tag in &raw.needs_tags {
            if let Some(tag) = self.reading.find_id("tag", tag, &self.known.tags) {
                attack = attack.needs_tag(tag);
            }
        }
        for tag in &raw.spares_tags {
            if let Some(tag) = self.reading.find_id("tag", tag, &self.known.tags) {
                attack = attack.spares_tag(tag);
            }
        }
        if let Some(only) = &raw.only_from {
            let side = self.reading.find("side", &only.side, Side::ALL.map(|side| (side.name(), side)));
            if let Some((side, within)) = side.zip(self.reading.number(&only.within)) {
                attack = attack.only_from(side, within);
            }
        }
        for status in &raw.ignores {
            if let Some(status) = self.reading.find_id("status", status, &self.known.statuses) {
                attack = attack.ignores(status);
            }
        }
        attack
    }

    /// How often it strikes, and on which part.
    fn counting(&mut self, raw: &raw::Attack, mut attack: Attack) -> Attack {
        let every = raw.every.as_ref().and_then(|every| self.reading.time(every, self.rate));
        let policies = [
            ("once", Policy::Once),
            ("window", Policy::Window),
            ("interval", Policy::Interval(every.unwrap_or(1))),
            ("life", Policy::Life),
            ("entry", Policy::Entry(every.unwrap_or(0))),
        ];
        if let Some(name) = &raw.policy
            && let Some(policy) = self.reading.find("policy", name, policies)
        {
            let interval = matches!(policy, Policy::Interval(_));
            let entry = matches!(policy, Policy::Entry(_));
            if !entry && interval != raw.every.is_some() {
                let fix =
                    Some("write both `policy = \"interval\"` and `every = \"0.5s\"`, or neither".to_owned());
                self.reading.problem(name.span(), "here", "an interval says how often".to_owned(), fix);
            }
            attack = attack.policy(policy);
        } else if let Some(every) = &raw.every
            && raw.policy.is_none()
        {
            let fix = Some("add `policy = \"interval\"`".to_owned());
            self.reading.problem(every.span(), "here", "`every` is for an interval".to_owned(), fix);
        }
        if let Some(name) = &raw.sharing {
            let known = Sharing::ALL.map(|sharing| (sharing.name(), sharing));
            attack = attack.sharing(self.reading.find("sharing", name, known).unwrap_or_default());
        }
        if let Some(name) = &raw.prefer {
            let known = Prefer::ALL.map(|prefer| (prefer.name(), prefer));
            attack = attack.prefer(self.reading.find("preference", name, known).unwrap_or_default());
        }
        if let Some(most) = &raw.max_targets
            && let Some(most) = self.reading.whole(most, 1, u16::MAX.into())
        {
            attack = attack.max_targets(most as u16);
        }
        attack
    }

    /// Hitboxes, path, clashes and children.
    fn candidates(
        &mut self,
        name: &raw::Name,
        raw: &raw::Attack,
        mut attack: Attack,
        plays: Option<(usize, usize)>,
    ) -> (Attack, Vec<Option<usize>>) {
        let mut joints = Vec::new();
        let entry = name.as_ref();
        for (i, spanned) in raw.hitboxes.iter().enumerate() {
            self.note("attack", entry, "hitboxes", spanned.span());
            let what = format!("hitbox {} of attack `{entry}`", i + 1);
            let hitbox = spanned.as_ref();
            let (sphere, capsule, block) =
                (hitbox.sphere.as_ref(), hitbox.capsule.as_ref(), hitbox.block.as_ref());
            let shapes = Shapes { sphere, capsule, block };
            let rig = plays.map(|(rig, _)| rig);
            let following =
                self.following(rig, (&what, spanned.span()), shapes, (&hitbox.joint, &hitbox.bone));
            if let Some(following) = following {
                attack = attack.hitbox_of(following.shape, hitbox.group.unwrap_or(0));
                joints.push(following.joint);
            }
        }
        // Hitboxes that follow joints are moved by them.
        if joints.iter().any(Option::is_some) {
            attack = attack.guided();
        }
        for key in &raw.path {
            self.note("attack", entry, "path", key.span());
            if let Some((at, place, (axis, degrees))) = self.key(key.as_ref()) {
                attack = attack.key_turned(at, place, axis, degrees);
            }
        }
        if let Some(clash) = &raw.clash {
            let ties = [("both", Tie::Both), ("neither", Tie::Neither)];
            let tie = clash.tie.as_ref().and_then(|tie| self.reading.find("tie", tie, ties));
            let meets = clash
                .meets
                .iter()
                .fold(0, |mask, layer| mask | 1u32.checked_shl((*layer).into()).unwrap_or(0));
            let (layer, priority) = (clash.layer, clash.priority.unwrap_or(0));
            attack = attack.clash(Clash { layer, meets, priority, tie: tie.unwrap_or_default() });
        }
        for child in &raw.children {
            self.note("attack", entry, "children", child.start.span());
            let known = When::ALL.map(|when| (when.name(), when));
            if let Some(when) = self.reading.find("occasion", &child.when, known) {
                attack = attack.child(when, child.start.as_ref());
            }
        }
        (attack, joints)
    }

    fn key(&mut self, key: &raw::Key) -> Option<(u32, [f32; 3], Turned)> {
        let at = self.reading.time(&key.at, self.rate)?;
        let place = key.place.as_ref().map_or(Some([0.0; 3]), |place| self.reading.vector(place))?;
        // Without a turn it is turned by nothing, about any axis.
        let turn = key.turn.as_ref().map_or(Some(([0.0, 1.0, 0.0], 0.0)), |turn| self.reading.turn(turn))?;
        Some((at, place, turn))
    }
}
