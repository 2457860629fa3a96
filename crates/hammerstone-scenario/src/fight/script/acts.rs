//! What lines of a script order.

use super::*;

impl Resolver<'_, '_> {
    /// An attack by its name.
    pub(crate) fn attack_named(&mut self, name: &raw::Name) -> Option<AttackId> {
        let rules = &self.rules.ruleset;
        let known = rules.attacks().iter().map(|attack| (attack.name(), rules.find_attack(attack.name())));
        self.reading.find("attack", name, known).flatten()
    }

    /// By how many ticks a swing is rewound.
    fn rewind(&mut self, back: &raw::Time) -> Option<u16> {
        let (ticks, limit) = (self.time(back)?, self.rules.ruleset.rewind());
        if ticks > limit {
            let message =
                format!("{ticks} ticks is further back than the ruleset rewinds swings: {limit} ticks");
            let fix = "raise `rewind` in `[rules]`, or take less".to_owned();
            self.reading.problem(back.span(), "this time", message, Some(fix));
            return None;
        }
        u16::try_from(ticks).ok()
    }

    /// What a line orders; of parts, those of this template.
    pub(super) fn acts(
        &mut self,
        spanned: &Spanned<raw::Entry>,
        by: Option<usize>,
        template: Option<TemplateId>,
    ) -> Vec<Act> {
        let rules = &self.rules.ruleset;
        let entry = spanned.as_ref();
        let mut verbs = Vec::new();
        let mut acts = Vec::new();
        if let Some(name) = &entry.start {
            verbs.push("start");
            let up = rules.up();
            let aim = entry.aim.as_ref().map(|aim| self.reading.stand(aim, up));
            let attack = self.attack_named(name);
            let back = entry.rewind.as_ref().and_then(|back| self.rewind(back)).unwrap_or_default();
            acts.extend(attack.map(|attack| Act::Start(attack, aim.flatten(), back)));
        }
        for (verb, flag, act) in [
            ("cancel", &entry.cancel, Act::Swings(OfSwing::Cancel)),
            ("release", &entry.release, Act::Swings(OfSwing::Release)),
            ("send-away", &entry.send_away, Act::SendAway),
            ("remove", &entry.remove, Act::Remove),
        ] {
            if flag.as_ref().is_some_and(|flag| *flag.as_ref()) {
                verbs.push(verb);
                acts.push(act);
            }
        }
        for (verb, stand, act) in [
            ("teleport", &entry.teleport, Act::Teleport as fn(Pose) -> Act),
            ("bring-back", &entry.bring_back, Act::BringBack as fn(Pose) -> Act),
        ] {
            if let Some(stand) = stand {
                verbs.push(verb);
                acts.extend(self.reading.stand(stand, rules.up()).map(act));
            }
        }
        if let Some(name) = &entry.tactics {
            verbs.push("tactics");
            let takes_to = match name.as_ref().as_str() {
                "none" => Some(TakesTo::None),
                "usual" => Some(TakesTo::Usual),
                _ => self.tactics_named(name).map(TakesTo::Named),
            };
            acts.extend(takes_to.map(Act::Tactics));
        }
        if let Some(walk) = &entry.moves {
            verbs.push("move");
            let (pose, ticks) = (self.pose(&walk.to, walk.facing.as_ref()), self.time(&walk.over));
            acts.extend(pose.zip(ticks).map(|(pose, ticks)| Act::Move(pose, ticks)));
        }
        self.body_acts(entry, template, &mut verbs, &mut acts);
        self.swing_acts(entry, by, &mut verbs, &mut acts);
        self.effect_acts(spanned, by, &mut verbs, &mut acts);
        self.number_acts(spanned, &mut verbs, &mut acts);
        self.flow_acts(spanned, &mut verbs, &mut acts);
        if let Some(name) = &entry.end {
            verbs.push("end");
            acts.extend(self.outcome(name).map(Act::End));
        }
        if verbs.len() != 1 {
            let message = match verbs.as_slice() {
                [] => "the line orders nothing".to_owned(),
                several => format!("the line orders {} things: {}", several.len(), several.join(", ")),
            };
            let fix = "give one of start, spawn-attack, marker, release, guide, cancel, report, teleport, move, hide-part, show-part, resize, damage, heal, drain, fill, set-gauge, apply, lift, lift-family, change, unchange, set-maximum, raise-shield, send-away, bring-back, remove, remove-obstacle, move-obstacle, place-obstacle, open-obstacle, close-obstacle, follow, attach, raise-flag, lower-flag, count, score, start-waves, stop-waves, change-team, time-scale, transform, let-go, tactics, next-round, say, publish, reset, end";
            self.reading.problem(spanned.span(), "this line", message, Some(fix.to_owned()));
        }
        acts
    }

    /// Parts and size.
    fn body_acts(
        &mut self,
        entry: &raw::Entry,
        template: Option<TemplateId>,
        verbs: &mut Vec<&'static str>,
        acts: &mut Vec<Act>,
    ) {
        for (verb, name, shown) in
            [("hide-part", &entry.hide_part, false), ("show-part", &entry.show_part, true)]
        {
            let Some(name) = name else { continue };
            verbs.push(verb);
            let Some(template) = template else {
                let fix = Some("name its template: `each = { template = \"mason\" }`".to_owned());
                let message = "parts are those of a template, and the line names none".to_owned();
                self.reading.problem(name.span(), "here", message, fix);
                continue;
            };
            let parts = self.rules.ruleset.templates()[template.index()].parts();
            let known = parts.iter().enumerate().map(|(number, part)| (part.name(), number as u16));
            acts.extend(self.reading.find("part", name, known).map(|part| Act::ShowPart(part, shown)));
        }
        if let Some(size) = &entry.resize {
            verbs.push("resize");
            acts.extend(self.size(size).map(Act::Resize));
        }
    }

    /// How many times as large something is as it was made.
    pub(crate) fn size(&mut self, size: &raw::Number) -> Option<Fixed> {
        let value = self.reading.exact(size)?;
        if (Fixed::raw(100)..=Fixed::whole(100)).contains(&value) {
            return Some(value);
        }
        let fix = Some("give how many times as large, from 0.01 to 100".to_owned());
        self.reading.problem(size.span(), "here", format!("{value} is no size"), fix);
        None
    }

    /// Damage, healing and statuses.
    pub(super) fn effect_acts(
        &mut self,
        spanned: &Spanned<raw::Entry>,
        by: Option<usize>,
        verbs: &mut Vec<&'static str>,
        acts: &mut Vec<Act>,
    ) {
        let (rules, entry) = (&self.rules.ruleset, spanned.as_ref());
        if let Some(damage) = &entry.damage {
            verbs.push("damage");
            let reason = self.reason(spanned);
            for (name, range) in damage {
                let points = match *range.as_ref() {
                    raw::Range::One(points) if points >= 0 => points,
                    _ => {
                        let message = "the script damages by one whole amount, not below 0".to_owned();
                        self.reading.problem(
                            range.span(),
                            "here",
                            message,
                            Some("give one number".to_owned()),
                        );
                        continue;
                    }
                };
                let known = rules.damage_types().map(|damage_type| {
                    (rules.damage_type_name(damage_type).unwrap_or_default(), damage_type)
                });
                let damage_type = self.reading.find("damage type", name, known);
                if let (Some(damage_type), Some(reason)) = (damage_type, reason) {
                    let (amount, absolute) = (Fixed::whole(points), entry.absolute);
                    acts.push(Act::Damage { damage_type, amount, reason, by, absolute });
                }
            }
        }
        if let Some(points) = &entry.heal {
            verbs.push("heal");
            let reason = self.reason(spanned);
            let points = self.reading.whole(points, 0, 1_000_000_000);
            acts.extend(points.zip(reason).map(|(points, reason)| Act::Heal {
                points: points as u32,
                reason,
                by,
            }));
        }
        let changes = [
            (GaugeChange::Drain, &entry.drain),
            (GaugeChange::Fill, &entry.fill),
            (GaugeChange::Set, &entry.set_gauge),
        ];
        for (change, given) in changes {
            let Some(given) = given else { continue };
            verbs.push(change.name());
            for (name, points) in given {
                let gauge = self.reading.known("gauge", name, rules.find_gauge(name.as_ref()));
                let points = self.reading.whole(points, 0, 1_000_000_000);
                acts.extend(gauge.zip(points).map(|(gauge, points)| Act::Gauge(gauge, change, points, by)));
            }
        }
        let strength = entry.strength.as_ref().map_or(Some(Fixed::ONE), |number| {
            let sound = self.reading.is_within(number, 0.0, 1_000_000.0);
            self.reading.exact(number).filter(|_| sound)
        });
        for (verb, name) in [("apply", &entry.apply), ("lift", &entry.lift)] {
            if let Some(name) = name {
                verbs.push(verb);
                let known =
                    rules.statuses().iter().map(|status| (status.name(), rules.find_status(status.name())));
                let status = self.reading.find("status", name, known).flatten();
                acts.extend(status.zip(strength).map(|(status, strength)| match verb {
                    "apply" => Act::Apply { status, by, strength },
                    _ => Act::Lift(status),
                }));
            }
        }
    }

    /// What each combatant has, if that is meant: then the line must name one.
    fn of_each<T>(&mut self, entry: &raw::Entry, name: &raw::Name, own: Option<T>) -> Option<T> {
        if own.is_some() && entry.who.is_none() && entry.each.is_none() {
            let message = format!("`{}` is of each combatant, and the line names none", name.as_ref());
            self.reading.problem(name.span(), "here", message, Some("add `who = \"…\"`".to_owned()));
        }
        own
    }

    /// The verbs that are about the flow of the encounter.
    pub(super) fn flow_acts(
        &mut self,
        spanned: &Spanned<raw::Entry>,
        verbs: &mut Vec<&'static str>,
        acts: &mut Vec<Act>,
    ) {
        let rules = &self.rules.ruleset;
        let entry = spanned.as_ref();
        for (verb, name, up) in
            [("raise-flag", &entry.raise_flag, true), ("lower-flag", &entry.lower_flag, false)]
        {
            if let Some(name) = name {
                verbs.push(verb);
                if let Some(flag) = self.of_each(entry, name, rules.find_combatant_flag(name.as_ref())) {
                    acts.push(Act::Flag(flag, up));
                    continue;
                }
                let flag = self.reading.known("flag", name, rules.find_flag(name.as_ref()));
                acts.extend(flag.map(|flag| Act::Order(Order::SetFlag { flag, up })));
            }
        }
        if let Some(count) = &entry.count {
            verbs.push("count");
            let how = count.set.map_or(Count::Add(count.add.unwrap_or(1)), Count::Set);
            let own = rules.find_combatant_counter(count.of.as_ref());
            if let Some(counter) = self.of_each(entry, &count.of, own) {
                acts.push(Act::Count(counter, how));
            } else {
                let known = rules.find_counter(count.of.as_ref());
                let counter = self.reading.known("counter", &count.of, known);
                acts.extend(counter.map(|counter| Act::Order(Order::Count { counter, count: how })));
            }
        }
        if let Some(score) = &entry.score {
            verbs.push("score");
            let (points, credit) = (score.points.unwrap_or(1), None);
            let score = self.reading.known("score", &score.of, rules.find_score(score.of.as_ref()));
            acts.extend(score.map(|score| Act::Order(Order::Score { score, points, credit })));
        }
        if let Some(name) = &entry.start_waves {
            verbs.push("start-waves");
            let waves = self.reading.known("sequence of waves", name, rules.find_waves(name.as_ref()));
            acts.extend(waves.map(|waves| Act::Order(Order::StartWaves { waves })));
        }
        if let Some(name) = &entry.stop_waves {
            verbs.push("stop-waves");
            let waves = self.reading.known("sequence of waves", name, rules.find_waves(name.as_ref()));
            acts.extend(waves.map(|waves| Act::Order(Order::StopWaves { waves })));
        }
        if let Some(name) = &entry.change_team {
            verbs.push("change-team");
            let team = self.reading.known("team", name, rules.find_team(name.as_ref()));
            acts.extend(team.map(Act::ChangeTeam));
        }
        if let Some(scale) = &entry.time_scale {
            verbs.push("time-scale");
            acts.extend(self.reading.sixteenths(scale).map(Act::ScaleTime));
        }
        if let Some(name) = &entry.transform {
            verbs.push("transform");
            let template = self.reading.known("template", name, rules.find_template(name.as_ref()));
            acts.extend(template.map(Act::Transform));
        }
        if entry.let_go.as_ref().is_some_and(|go| *go.as_ref()) {
            verbs.push("let-go");
            acts.push(Act::LetGo);
        }
        if let Some(text) = &entry.say {
            verbs.push("say");
            let line = rules.find_line(text.as_ref());
            if line.is_none() {
                let fix = Some("a script says what a rule of the ruleset says too".to_owned());
                let message = format!("no rule says `{}`", text.as_ref());
                self.reading.problem(text.span(), "no such line", message, fix);
            }
            acts.extend(line.map(|line| {
                Act::Order(Order::Say { spoken: hammerstone::flow::Spoken::plain(line), subject: None })
            }));
        }
        for (verb, flag, order) in
            [("next-round", &entry.next_round, Order::NextRound), ("reset", &entry.reset, Order::Reset)]
        {
            if flag.as_ref().is_some_and(|flag| *flag.as_ref()) {
                verbs.push(verb);
                acts.push(Act::Order(order));
            }
        }
        if let Some(name) = &entry.follow {
            verbs.push("follow");
            acts.extend(self.who(name).map(|range| Act::Follow(range.start)));
        }
        if let Some(attach) = &entry.attach {
            verbs.push("attach");
            let value = self.reading.known("value", &attach.value, rules.find_value(attach.value.as_ref()));
            acts.extend(value.map(|value| Act::Attach(value, attach.amount)));
        }
        if let Some(name) = &entry.publish {
            verbs.push("publish");
            acts.extend(self.publication(name, &entry.with));
        }
    }

    /// The verbs that are about numbers.
    pub(super) fn number_acts(
        &mut self,
        spanned: &Spanned<raw::Entry>,
        verbs: &mut Vec<&'static str>,
        acts: &mut Vec<Act>,
    ) {
        let rules = &self.rules.ruleset;
        let entry = spanned.as_ref();
        let stats = || rules.stats().map(|stat| (rules.stat_name(stat).unwrap_or_default(), stat));
        if let Some(name) = &entry.lift_family {
            verbs.push("lift-family");
            let tag = rules.find_tag(name.as_ref());
            let known = tag.iter().map(|tag| (rules.tag_name(*tag).unwrap_or_default(), *tag));
            acts.extend(self.reading.find("tag", name, known).map(Act::LiftFamily));
        }
        if let Some(change) = &entry.change {
            verbs.push("change");
            let raw = change.as_ref();
            let ways =
                Ways { add: &raw.add, add_share: &raw.add_share, multiply: &raw.multiply, set: &raw.set };
            let stat = self.reading.find("stat", &raw.stat, stats());
            let (by, reason) = (self.reading.by(change.span(), ways), self.reason(spanned));
            if let (Some(stat), Some(by), Some(reason)) = (stat, by, reason) {
                acts.push(Act::Change(stat, by, reason));
            }
        }
        if let Some(name) = &entry.unchange {
            verbs.push("unchange");
            let stat = self.reading.find("stat", name, stats());
            acts.extend(stat.zip(self.reason(spanned)).map(|(stat, reason)| Act::Unchange(stat, reason)));
        }
        if let Some(maximum) = &entry.set_maximum {
            verbs.push("set-maximum");
            let known = Keep::ALL.map(|keep| (keep.name(), keep));
            let keep =
                maximum.keep.as_ref().and_then(|name| self.reading.find("way of keeping", name, known));
            let points = self.reading.whole(&maximum.points, 1, 1_000_000_000);
            acts.extend(points.map(|points| Act::SetMaximum(points as u32, keep.unwrap_or_default())));
        }
        if let Some(shield) = &entry.raise_shield {
            verbs.push("raise-shield");
            let known = rules.shields().map(|shield| (rules.shield_name(shield).unwrap_or_default(), shield));
            let id = self.reading.find("shield", &shield.of, known);
            let points = self.reading.whole(&shield.points, 0, 1_000_000_000);
            acts.extend(id.zip(points).map(|(id, points)| Act::RaiseShield(id, points as u32)));
        }
    }

    /// The verbs that are about swings and obstacles.
    pub(super) fn swing_acts(
        &mut self,
        entry: &raw::Entry,
        by: Option<usize>,
        verbs: &mut Vec<&'static str>,
        acts: &mut Vec<Act>,
    ) {
        let rules = &self.rules.ruleset;
        if let Some(spawn_attack) = &entry.spawn_attack {
            verbs.push("spawn-attack");
            let attack = self.attack_named(&spawn_attack.attack);
            let teams = rules.teams().map(|team| (rules.team_name(team).unwrap_or_default(), team));
            let team = self.reading.find("team", &spawn_attack.team, teams);
            let pose = self.pose(&spawn_attack.at, spawn_attack.facing.as_ref());
            if let (Some(attack), Some(team), Some(pose)) = (attack, team, pose) {
                acts.push(Act::SpawnAttack(attack, team, pose, by));
            }
        }
        if let Some(name) = &entry.marker {
            verbs.push("marker");
            let markers = [("open", Marker::Open), ("close", Marker::Close), ("end", Marker::End)];
            let marker = self.reading.find("marker", name, markers);
            acts.extend(marker.map(|marker| Act::Swings(OfSwing::Mark(marker))));
        }
        if let Some(guide) = &entry.guide {
            verbs.push("guide");
            let place = guide.place.as_ref().map_or(Some([0.0; 3]), |place| self.reading.vector(place));
            let pose = place.and_then(|place| self.reading.turned(Pose::at(place), guide.turn.as_ref()));
            acts.extend(pose.map(|pose| Act::Swings(OfSwing::Guide(pose))));
        }
        if let Some(report) = &entry.report {
            verbs.push("report");
            acts.extend(self.report(report));
        }
        if let Some(name) = &entry.remove_obstacle {
            verbs.push("remove-obstacle");
            acts.extend(self.find_obstacle(name).map(Act::RemoveObstacle));
        }
        for (verb, name, open) in
            [("open-obstacle", &entry.open_obstacle, true), ("close-obstacle", &entry.close_obstacle, false)]
        {
            if let Some(name) = name {
                verbs.push(verb);
                acts.extend(self.find_obstacle(name).map(|which| Act::OpenObstacle(which, open)));
            }
        }
        if let Some(to) = &entry.move_obstacle {
            verbs.push("move-obstacle");
            let (which, pose) = (self.find_obstacle(&to.obstacle), self.pose(&to.to, to.facing.as_ref()));
            if let (Some(which), Some(pose), Some(ticks)) = (which, pose, self.time(&to.over)) {
                acts.push(Act::MoveObstacle(which, pose, ticks));
            }
        }
        if let Some(place) = &entry.place_obstacle {
            verbs.push("place-obstacle");
            let which = self.find_obstacle(&place.obstacle);
            let pose = self.pose(&place.at, place.facing.as_ref());
            acts.extend(which.zip(pose).map(|(which, pose)| Act::PlaceObstacle(which, pose)));
        }
    }

    fn find_obstacle(&mut self, name: &raw::Name) -> Option<usize> {
        let known = self.obstacles.iter().enumerate().map(|(place, placed)| (placed.name.as_str(), place));
        self.reading.find("obstacle", name, known)
    }

    pub(super) fn report(&mut self, report: &raw::Report) -> Option<Act> {
        let target = self.who(&report.target)?.next()?;
        let template = &self.rules.ruleset.templates()[self.placed[target].template.index()];
        let known = template.parts().iter().enumerate().map(|(number, part)| (part.name(), number as u16));
        let part = self.reading.find("part", &report.part, known)?;
        let (point, normal) = (self.reading.vector(&report.point)?, self.reading.vector(&report.normal)?);
        let toi = report.toi.as_ref().map_or(Some(0.0), |toi| {
            let sound = self.reading.is_within(toi, 0.0, 1.0);
            self.reading.number(toi).filter(|_| sound)
        })?;
        let speed = report.speed.as_ref().map_or(Some(0.0), |speed| self.reading.number(speed))?;
        let most = i64::from(u16::MAX);
        let mut number = |given: &Option<Spanned<i64>>, otherwise: i64| match given {
            Some(given) => self.reading.whole(given, 1, most),
            None => Some(otherwise),
        };
        // Hitboxes are counted from 1 here, and from 0 in code.
        let (hitbox, body) = (number(&report.hitbox, 1)? - 1, number(&report.body, 0)?);
        let touch = Touch::new(point, normal).at(toi).by(hitbox as u16).of_body(body as u16).closing(speed);
        Some(Act::Report(target, part, touch))
    }

    /// A fact of the host's own: values by the names of the topic's fields, combatants by theirs.
    pub(super) fn publication(
        &mut self,
        name: &raw::Name,
        with: &raw::Named<Spanned<raw::Value>>,
    ) -> Option<Act> {
        let rules = &self.rules.ruleset;
        let topic =
            self.reading.known("topic of the host's own", name, rules.find_host_topic(name.as_ref()))?;
        let mut values = [Value::Plain(HostValue::Nothing); 4];
        for (field, value) in with {
            let known =
                rules.host_fields(topic).enumerate().map(|(place, (name, sort))| (name, (place, sort)));
            let Some((place, sort)) = self.reading.find("field of the topic", field, known) else { continue };
            let name = value.as_ref().as_text().filter(|_| sort == ValueSort::Who);
            if sort == ValueSort::Text
                && let Some(text) = value.as_ref().as_text().filter(|text| text.len() <= Text::MOST)
            {
                self.texts.push(text.to_owned());
                values[place] = Value::Text(self.texts.len() as u32 - 1);
                continue;
            }
            let word = value.as_ref().as_text().filter(|_| sort == ValueSort::Name);
            let word = word.and_then(|word| rules.find_word(word)).map(HostValue::Name);
            values[place] = match (name, word.or_else(|| flow::host_value(sort, value.as_ref()))) {
                (Some(name), _) => {
                    let name = Spanned::new(value.span(), name.to_owned());
                    Value::Who(self.who(&name)?.start)
                }
                (None, Some(value)) => Value::Plain(value),
                (None, None) => {
                    flow::other_sort(self.reading, value.span(), field.as_ref(), sort);
                    return None;
                }
            };
        }
        Some(Act::Publish(topic, values))
    }
}
