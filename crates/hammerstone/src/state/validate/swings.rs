//! Swings, what they touched, and what flies.

use super::*;
use crate::ruleset::MOST_REWOUND;

impl Check<'_> {
    pub(super) fn swings(&self) -> Found {
        let State { swings, struck, contacts, captured, registrar, .. } = self.state;
        must(rises(swings.iter().map(|swing| swing.id)), "swings are out of order")?;
        let back = || self.state.children.iter().filter_map(|child| child.back.as_ref());
        let heads = swings.iter().map(|swing| swing.captured).chain(back().map(|back| back.captured));
        must(captured.is_sound(heads), "a list is not whole")?;
        let heads = swings.iter().map(|swing| swing.struck).chain(back().map(|back| back.struck));
        must(struck.is_sound(heads), "a list is not whole")?;
        must(contacts.is_sound(swings.iter().map(|swing| swing.contacts)), "a list is not whole")?;
        let mut running: BTreeMap<CombatantId, u16> = BTreeMap::new();
        let mut bodies: BTreeMap<SwingId, u16> = BTreeMap::new();
        for body in &self.state.flying {
            *bodies.entry(body.swing).or_default() += 1;
        }
        let mut met = BTreeSet::new();
        for swing in swings {
            self.swing(swing, registrar)?;
            let flies = bodies.get(&swing.id).copied().unwrap_or(0);
            must(swing.bodies == flies && (flies == 0 || swing.launched), "a swing has lost a body")?;
            if let (true, Some(attacker)) = (swing.busy, swing.attacker) {
                must(self.state.combatants.is_present(attacker), "hands are bound that are gone")?;
                *running.entry(attacker).or_default() += 1;
            }
            must(!swing.busy || swing.attacker.is_some(), "hands are bound, and no attacker is named")?;
            for contact in contacts.items(swing.contacts) {
                self.contact(swing, contact)?;
                must(met.insert(contact.id), "a contact comes twice")?;
            }
        }
        let c = &self.state.combatants;
        for slot in 0..self.slots {
            let bound = running.get(&c.id(slot)).copied().unwrap_or(0);
            let counted = c.life[slot] == Life::Gone || c.running[slot] == bound;
            must(counted, "hands are bound by no swing")?;
        }
        Ok(())
    }

    pub(super) fn swing(&self, swing: &Swing, registrar: &Registrar) -> Found {
        let (rules, state) = (self.rules, self.state);
        must((1..=registrar.swings).contains(&swing.id.number()), "a swing was never reserved")?;
        must(swing.attack.index() < rules.attacks.len(), "an attack is none of the ruleset")?;
        let attack = rules.attack(swing.attack);
        let whose = self.placed_if(swing.attacker)
            && swing.team.index() < rules.teams.len()
            && swing.template.is_none_or(|template| template.index() < rules.templates.len());
        must(whose, "a swing names an attacker, a team or a template that is not there")?;
        // What is carried by one who is gone would move with another.
        let left = attack.form.leaves_the_hand() || swing.anchor.is_some() || swing.launched;
        let there = swing.attacker.is_none_or(|who| state.combatants.is_present(who));
        must(there || left, "the attacker of a swing is gone")?;
        let windows = if attack.marked.is_some() {
            u16::MAX as usize
        } else {
            self.rules.attack_plan(swing.attack).windows.len()
        };
        must(usize::from(swing.window) <= windows, "a window is none of the attack's")?;
        let short = [swing.clock, swing.age].into_iter().all(|ticks| ticks < LONGEST);
        must(swing.opened_at <= swing.clock, "a window opened after its swing")?;
        must(short && self.later(swing.last_tick) && swing.ended.is_none(), "a swing never ends")?;
        must(usize::from(swing.links) <= usize::from(u16::MAX) - 2, "a swing has too many before it")?;
        must(swing.start < u32::MAX / 2, "a count of starts is out of bounds")?;
        match swing.charging {
            Charging::Held(held, _) => must(held < LONGEST && attack.charge.is_some(), "a charge is wrong")?,
            Charging::Released(share) => {
                must((Fixed::ZERO..=Fixed::ONE).contains(&share), "a charge is wrong")?
            }
        }
        let guided = || state.hitbox_poses.items(swing.guided);
        let may = swing.guided.is_empty() || attack.guided && guided().count() == attack.hitboxes.len();
        must(may, "hitboxes are guided that cannot be")?;
        must(guided().chain(&swing.anchor).all(|pose| near_settled(*pose)), "a pose is out of bounds")?;
        self.memory(swing.captured, swing.struck, swing.age)
    }

    /// What a swing knows: stats with which it began, and whom it has struck.
    fn memory(&self, captured: Chain, struck: Chain, age: u32) -> Found {
        let (rules, state) = (self.rules, self.state);
        for captured in state.captured.items(captured) {
            let known = match *captured {
                Captured::Stat(stat, _) => stat.index() < rules.stats.len(),
                Captured::Status(status, ..) => status.index() < rules.statuses.len(),
            };
            must(known, "what a swing knows is none of the ruleset")?;
        }
        for mark in state.struck.items(struck) {
            let few = [mark.hits, mark.turns, mark.turns_in_window].into_iter().all(|count| count < LONGEST);
            must(self.placed(mark.target) && few && mark.last <= age, "a struck entry is wrong")?;
        }
        Ok(())
    }

    /// What was deflected, and begins in the next tick.
    fn back(&self, attack: AttackId, back: &Back) -> Found {
        let flies = matches!(self.rules.attack(attack).form, Form::Projectile(_));
        must(flies && fast(back.velocity.0), "what flies back is out of bounds")?;
        let template = back.template.is_none_or(|template| template.index() < self.rules.templates.len());
        let charging = match back.charging {
            Charging::Released(share) => (Fixed::ZERO..=Fixed::ONE).contains(&share),
            Charging::Held(..) => false,
        };
        must(template && charging, "what flies back is none of the ruleset")?;
        self.memory(back.captured, back.struck, 0)
    }

    pub(super) fn contact(&self, swing: &Swing, contact: &Contact) -> Found {
        let c = &self.state.combatants;
        let number = (1..self.state.next_contact).contains(&contact.id.number());
        must(number && self.placed(contact.target) && self.earlier(contact.seen), "a contact is wrong")?;
        let slot = contact.target.slot();
        let part = usize::from(contact.part) < self.rules.template(c.template[slot]).parts.len();
        let there = contact.over || (c.is_present(contact.target) && part);
        must(there && swing.attacker != Some(contact.target), "a contact is with one who is not there")
    }

    fn obstacles(&self, obstacles: &[Raised]) -> Found {
        for raised in obstacles {
            must(raised.obstacle.is_solid(), "an obstacle is no solid")?;
            let known = raised.name.is_none_or(|name| name.index() < self.rules.obstacle_names.len());
            must(known, "an obstacle has a name that is none")?;
            let poses = [raised.before, raised.pose, raised.goal];
            must(poses.into_iter().all(near_settled), "an obstacle is out of bounds")?;
        }
        Ok(())
    }

    /// The ticks that are kept follow each other up to the last.
    pub(super) fn past(&self) -> Found {
        let State { past, tick, .. } = self.state;
        let kept = past.ticks.len() as u32;
        must(kept <= MOST_REWOUND + 1 && kept <= *tick, "it keeps too many ticks")?;
        for (place, past) in (0..kept).zip(&past.ticks) {
            must(past.tick == tick - (kept - 1 - place), "the ticks that it keeps are out of order")?;
            must(rises(past.bodies.iter().map(|body| body.id.slot)), "what it keeps is out of order")?;
            for body in &past.bodies {
                let known = body.template.index() < self.rules.templates.len() && self.placed(body.id);
                must(known, "it keeps one that is not there")?;
                let parts = self.rules.template(body.template).parts.len();
                let of_parts = |first: u32| past.ways.len().checked_sub(first as usize) >= Some(parts);
                let near = near_settled(body.before) && near_settled(body.pose);
                let size = (SIZES.0..=SIZES.1).contains(&body.size);
                must(near && size && body.posed.is_none_or(of_parts), "what it keeps is out of bounds")?;
            }
            let near = past.ways.iter().flatten().all(|pose| near_settled(*pose));
            must(near, "what it keeps is out of bounds")?;
            self.obstacles(&past.obstacles)?;
        }
        let rewound = &past.rewound;
        must(rises(rewound.iter().map(|(swing, _)| *swing)), "swings that are rewound are out of order")?;
        let known = |&(swing, ticks): &(SwingId, u16)| {
            (1..=self.state.registrar.swings).contains(&swing.number()) && (1..kept).contains(&ticks.into())
        };
        must(rewound.iter().all(known), "a swing is rewound that cannot be")
    }

    pub(super) fn flying_and_children(&self) -> Found {
        let State { flying, children, obstacles, steps, presses, .. } = self.state;
        must(rises(flying.iter().map(|body| (body.swing, body.body))), "bodies are out of order")?;
        for body in flying {
            let Some(index) = self.state.swing_index(body.swing) else { return Err("a body has no swing") };
            let form = self.rules.attack(self.state.swings[index].attack).form;
            must(matches!(form, Form::Projectile(_)) && body.body > 0, "a body flies that cannot")?;
            let sound = near_settled(body.pose) && near_settled(body.before) && fast(body.velocity.0);
            must(sound && body.ended.is_none() && body.struck < u16::MAX, "a body is out of bounds")?;
        }
        for child in children {
            let known = child.attack.index() < self.rules.attacks.len()
                && child.team.index() < self.rules.teams.len();
            must(known && self.placed_if(child.attacker), "a swing is to begin that cannot")?;
            let sound = near_settled(child.pose) && child.links < u16::MAX - 2;
            must(sound, "a swing is out of bounds")?;
            if let Some(back) = &child.back {
                self.back(child.attack, back)?;
            }
        }
        for obstacles in [obstacles, &self.state.opened.0] {
            must(rises(obstacles.iter().map(|raised| raised.id)), "obstacles are out of order")?;
            self.obstacles(obstacles)?;
        }
        must(rises(steps.iter().map(|(who, _)| *who)), "chains are out of order")?;
        for (who, step) in steps {
            let attacks = [step.opener, step.from, step.next];
            let known = attacks.iter().all(|attack| attack.index() < self.rules.attacks.len());
            must(
                known && self.state.combatants.is_present(*who),
                "a chain belongs to a combatant that is not there",
            )?;
            must(self.later(step.opens) && self.later(step.lapses), "a chain never lapses")?;
            let pressed = step.pressed.is_none_or(|swing| {
                let given = (1..=self.state.registrar.swings).contains(&swing.number());
                given && self.state.swing_index(swing).is_none()
            });
            must(pressed, "a press waits for what runs")?;
        }
        must(rises(presses.iter().map(|(who, _)| *who)), "starts that wait are out of order")?;
        for (who, press) in presses {
            let known =
                press.attack.index() < self.rules.attacks.len() && self.state.combatants.is_present(*who);
            must(known && self.later(press.until), "a start waits that cannot")?;
            must(press.aim.is_none_or(near_settled), "a start that waits is out of bounds")?;
            let given = (1..=self.state.registrar.swings).contains(&press.swing.number());
            must(given && self.state.swing_index(press.swing).is_none(), "a start waits for what runs")?;
        }
        let of_chains = steps.iter().filter_map(|(_, step)| step.pressed);
        let all: Vec<SwingId> = of_chains.chain(presses.iter().map(|(_, press)| press.swing)).collect();
        must(all.iter().collect::<BTreeSet<_>>().len() == all.len(), "two presses are one")
    }
}
