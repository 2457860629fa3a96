//! What rules do.

use hammerstone::amount::Step;
use hammerstone::event::Text;
use hammerstone::gauge::GaugeChange;
use hammerstone::flow::{Amount, Audience, Counting, Credit, Dealing, Healing, Line, ScoreValue, Tactic};

use super::*;

impl Resolver<'_, '_> {
    pub(super) fn reactions(&mut self, spanned: &Spanned<raw::Reaction>) -> Vec<Reaction> {
        let raw = spanned.as_ref();
        let mut found = Found { target: self.target(raw), verbs: Vec::new(), acts: Vec::new() };
        self.on_the_encounter(raw, &mut found);
        self.on_combatants(spanned, &mut found);
        self.in_the_world(raw, &mut found);
        let Found { verbs, acts, .. } = found;
        if verbs.len() != 1 {
            let message = match verbs.as_slice() {
                [] => "this does nothing".to_owned(),
                several => format!("this does {} things: {}", several.len(), several.join(", ")),
            };
            let fix = "give one of raise-flag, lower-flag, count, score, start-waves, next-round, apply, lift, damage, heal, drain, fill, set-gauge, start, spawn-attack, send-away, teleport, push, change-team, time-scale, transform, let-go, request, stop-waves, bring-back, remove, move-obstacle, place-obstacle, open-obstacle, close-obstacle, remove-obstacle, publish, say, end, reset";
            self.reading.problem(spanned.span(), "here", message, Some(fix.to_owned()));
        }
        acts
    }

    /// The combatants that a reaction is for.
    fn target(&mut self, raw: &raw::Reaction) -> Target {
        let Some(to) = &raw.to else { return Target::Subject };
        match to.as_ref() {
            raw::To::One(name) => {
                let known = [
                    ("subject", Target::Subject),
                    ("other", Target::Other),
                    ("followers", Target::Followers),
                ];
                let name = Spanned::new(to.span(), name.clone());
                self.reading.find("party", &name, known).unwrap_or(Target::Subject)
            }
            raw::To::Group(raw::PlainGroup { team, template, tags }) => {
                let here = |name: &String| Spanned::new(to.span(), name.clone());
                let (team, template) = (team.as_ref().map(here), template.as_ref().map(here));
                let tags: Vec<raw::Name> = tags.iter().map(here).collect();
                Target::Each(self.group(team.as_ref(), template.as_ref(), &tags))
            }
        }
    }

    /// Flags, counters, scores, waves, lines and the end.
    fn on_the_encounter(&mut self, raw: &raw::Reaction, found: &mut Found) {
        for (verb, name, up) in
            [("raise-flag", &raw.raise_flag, true), ("lower-flag", &raw.lower_flag, false)]
        {
            if let Some(name) = name {
                let act = match self.known.combatant_flags.get(name.as_ref()) {
                    Some(flag) => Some(Reaction::CombatantFlag(found.target, flag, up)),
                    None => {
                        let flag = self.reading.find_id("flag", name, &self.known.flags);
                        flag.map(|flag| Reaction::Flag(flag, up))
                    }
                };
                found.add(verb, act);
            }
        }
        if let Some(count) = &raw.count {
            let act = self.count(count, found.target);
            found.add("count", act);
        }
        if let Some(score) = &raw.score {
            let id = self.reading.find_id("score", &score.of, &self.known.scores);
            let values = match (&score.points, &score.value) {
                (_, Some(name)) => self.reading.find_id("value", name, &self.known.values).map(ScoreValue::Value),
                (None, None) => Some(ScoreValue::Points(1)),
                (Some(points), None) => self.amount_of(points).map(|amount| match plain(points) {
                    Some(points) => ScoreValue::Points(points),
                    None => ScoreValue::Amount(amount),
                }),
            };
            found.add("score", id.zip(values).map(|(id, values)| Reaction::Score(id, values)));
        }
        if let Some(name) = &raw.start_waves {
            let waves = self.reading.find_id("sequence of waves", name, &self.known.waves);
            found.add("start-waves", waves.map(Reaction::Waves));
        }
        if let Some(name) = &raw.publish {
            let publication = self.publication(name, &raw.with);
            found.add("publish", publication);
        }
        if let Some(text) = &raw.say {
            // Without a combatant unless one is named.
            let act = self.say(text, raw, raw.to.as_ref().map(|_| found.target));
            found.add("say", Some(act));
        } else if let Some(name) = raw.category.as_ref().or(raw.audience.as_ref()) {
            let fix = Some("take it out, or `say` something".to_owned());
            self.reading.problem(name.span(), "here", "this is for lines that are said".to_owned(), fix);
        }
        if let Some(name) = &raw.end {
            let outcome = self.outcome(name);
            found.add("end", outcome.map(Reaction::End));
        }
        for (verb, given, act) in
            [("next-round", raw.next_round, Reaction::NextRound), ("reset", raw.reset, Reaction::Reset)]
        {
            if given {
                found.add(verb, Some(act));
            }
        }
    }

    /// A line: its blanks are `{subject}`, `{other}`, readings, and fields of the fact.
    fn say(&mut self, text: &raw::Name, raw: &raw::Reaction, speaker: Option<Target>) -> Reaction {
        let mut line = Line::new(text.as_ref());
        if let Some(ticks) = raw.lasts.as_ref().and_then(|lasts| self.reading.time(lasts, self.rate)) {
            line = line.lasts(ticks);
        }
        if let Some(category) = &raw.category {
            line = line.category(self.builder.word(category.as_ref()));
        }
        if let Some(name) = &raw.audience {
            let own = [("all", Audience::All), ("subject", Audience::Subject), ("other", Audience::Other)];
            let teams = pairs(&self.known.teams).map(|(name, team)| (name, Audience::Team(team)));
            let audience = self.reading.find("team or party", name, own.into_iter().chain(teams));
            line = line.to(audience.unwrap_or_default());
        }
        let blanks: Vec<String> = line.numbers().map(str::to_owned).collect();
        let mut numbers = Vec::new();
        for blank in blanks {
            let of_fact = if blank.contains('.') || blank == "distance" { blank } else { format!("fact.{blank}") };
            let reading = self.reading_named(&Spanned::new(text.span(), of_fact));
            numbers.extend(reading.map(|reading| Amount::of(reading, Fixed::ONE)));
        }
        Reaction::Say(speaker, self.builder.line(line), numbers)
    }

    /// Statuses, damage and healing.
    fn on_combatants(&mut self, spanned: &Spanned<raw::Reaction>, found: &mut Found) {
        let (raw, target) = (spanned.as_ref(), found.target);
        let by = self.credit(raw);
        if let Some(name) = &raw.apply {
            let strength =
                raw.strength.as_ref().map_or(Some(Fixed::ONE), |number| self.reading.exact(number));
            let status = self.status_named(name).zip(strength);
            let act = status.map(|(status, strength)| Reaction::Apply(target, status, strength, by));
            found.add("apply", act);
        }
        if let Some(name) = &raw.lift {
            let status = self.status_named(name);
            found.add("lift", status.map(|status| Reaction::Lift(target, status)));
        }
        if let Some(damage) = &raw.damage {
            let mut dealing: Option<Dealing> = None;
            for (name, amount) in damage {
                let (damage_type, amount) = (self.damage_type(name), self.amount_of(amount));
                if let Some((damage_type, amount)) = damage_type.zip(amount) {
                    dealing = Some(match dealing {
                        None => Dealing::of(damage_type, amount),
                        Some(dealing) => dealing.and(damage_type, amount),
                    });
                }
            }
            let mut dealing = dealing.map(|dealing| dealing.by(by));
            let own = self.known.own_steps.iter().map(|(name, id)| (name.clone(), Step::Own(*id)));
            let steps = Step::ALL.iter().map(|step| (step.name().to_owned(), *step));
            let known: Vec<(String, Step)> = steps.chain(own).collect();
            for name in &raw.skip {
                let step = self.reading.find("step", name, known.iter().map(|(name, step)| (name.as_str(), *step)));
                dealing = dealing.zip(step).map(|(dealing, step)| dealing.skips(step));
            }
            found.add("damage", dealing.map(|dealing| Reaction::Damage(target, dealing)));
        } else if let Some(name) = raw.skip.first() {
            let fix = Some("take it out, or give a `damage`".to_owned());
            self.reading.problem(name.span(), "here", "`skip` is for damage".to_owned(), fix);
        }
        if let Some(amount) = &raw.heal {
            let amount = self.amount_of(amount);
            found.add("heal", amount.map(|amount| Reaction::Heal(target, Healing::of(amount).by(by))));
        }
        let changes = [
            (GaugeChange::Drain, &raw.drain),
            (GaugeChange::Fill, &raw.fill),
            (GaugeChange::Set, &raw.set_gauge),
        ];
        for (change, given) in changes {
            let Some(given) = given else { continue };
            let mut acts = Vec::new();
            for (name, amount) in given {
                let gauge = self.reading.find_id("gauge", name, &self.known.gauges);
                if let Some((gauge, amount)) = gauge.zip(self.amount_of(amount)) {
                    acts.push(Reaction::Gauge(target, gauge, change, amount, by));
                }
            }
            found.add(change.name(), acts);
        }
        let needed = ["apply", "damage", "heal", "drain", "fill", "set-gauge", "spawn-attack"];
        if let Some(by) = &raw.by
            && raw.spawn_attack.is_none()
            && !found.verbs.iter().any(|verb| needed.contains(verb))
        {
            let fix = Some("take it out, or give one of them".to_owned());
            let message = format!("`by` is for what may have a source: {}", needed.join(", "));
            self.reading.problem(by.span(), "here", message, fix);
        }
    }

    /// The party that is the source of what is done.
    fn credit(&mut self, raw: &raw::Reaction) -> Credit {
        let known = Credit::ALL.map(|credit| (credit.name(), credit));
        let by = raw.by.as_ref().map(|name| self.reading.find("party", name, known));
        by.flatten().unwrap_or_default()
    }

    /// A counter of the encounter, or of each target.
    fn count(&mut self, count: &raw::Count, target: Target) -> Option<Reaction> {
        let (how, amount) = match (&count.set, &count.add) {
            (Some(set), _) => (Counting::Set, Some(set)),
            (None, add) => (Counting::Add, add.as_ref()),
        };
        let worked_out = amount.map_or(Some(Fixed::ONE.into()), |amount| self.amount_of(amount));
        if let Some(counter) = self.known.combatant_counters.get(count.of.as_ref()) {
            return worked_out.map(|amount| Reaction::CombatantCount(target, counter, how, amount));
        }
        let counter = self.reading.find_id("counter", &count.of, &self.known.counters);
        let whole = amount.map_or(Some(1), plain);
        counter.zip(worked_out).map(|(counter, amount)| match whole {
            Some(number) => Reaction::Count(counter, how.by(number)),
            None => Reaction::CountAmount(counter, how, amount),
        })
    }

    /// Attacks, leaving and returning.
    fn in_the_world(&mut self, raw: &raw::Reaction, found: &mut Found) {
        let target = found.target;
        if let Some(name) = &raw.start {
            let attack = self.reading.find_id("attack", name, &self.known.attacks);
            found.add("start", attack.map(|attack| Reaction::Start(target, attack)));
        }
        if let Some(spawn_attack) = &raw.spawn_attack {
            let attack = self.reading.find_id("attack", &spawn_attack.attack, &self.known.attacks);
            let team = self.reading.find_id("team", &spawn_attack.team, &self.known.teams);
            let spot = self.spot(&spawn_attack.at);
            let all = attack.zip(team).zip(spot);
            let by = self.credit(raw);
            let act = all.map(|((attack, team), spot)| Reaction::SpawnAttack(attack, team, spot, by));
            found.add("spawn-attack", act);
        }
        if let Some(to) = &raw.move_obstacle {
            let name = self.reading.find_id("obstacle", &to.obstacle, &self.known.obstacle_names);
            let (spot, ticks) = (self.spot(&to.to), self.reading.time(&to.over, self.rate));
            let all = name.zip(spot).zip(ticks);
            found.add("move-obstacle", all.map(|((name, spot), ticks)| Reaction::MoveObstacle(name, spot, ticks)));
        }
        if let Some(place) = &raw.place_obstacle {
            let name = self.reading.find_id("obstacle", &place.obstacle, &self.known.obstacle_names);
            let both = name.zip(self.spot(&place.at));
            found.add("place-obstacle", both.map(|(name, spot)| Reaction::PlaceObstacle(name, spot)));
        }
        if let Some(name) = &raw.remove_obstacle {
            let name = self.reading.find_id("obstacle", name, &self.known.obstacle_names);
            found.add("remove-obstacle", name.map(Reaction::RemoveObstacle));
        }
        for (verb, name, open) in
            [("open-obstacle", &raw.open_obstacle, true), ("close-obstacle", &raw.close_obstacle, false)]
        {
            if let Some(name) = name {
                let name = self.reading.find_id("obstacle", name, &self.known.obstacle_names);
                found.add(verb, name.map(|name| Reaction::OpenObstacle(name, open)));
            }
        }
        if let Some(name) = &raw.teleport {
            let spot = self.spot(name);
            found.add("teleport", spot.map(|spot| Reaction::Teleport(target, spot)));
        }
        if let Some(push) = &raw.push {
            let both = self.reading.exact(&push.metres).zip(self.reading.time(&push.over, self.rate));
            found.add("push", both.map(|(metres, ticks)| Reaction::Push(target, metres, ticks)));
        }
        if let Some(name) = &raw.change_team {
            let team = self.reading.find_id("team", name, &self.known.teams);
            found.add("change-team", team.map(|team| Reaction::ChangeTeam(target, team)));
        }
        if let Some(scale) = &raw.time_scale {
            let sixteenths = self.reading.sixteenths(scale);
            found.add("time-scale", sixteenths.map(|sixteenths| Reaction::ScaleTime(target, sixteenths)));
        }
        if let Some(name) = &raw.transform {
            let template = self.reading.find_id("template", name, &self.known.templates);
            found.add("transform", template.map(|template| Reaction::Transform(target, template)));
        }
        if raw.let_go {
            found.add("let-go", Some(Reaction::LetGo(target)));
        }
        if let Some(name) = &raw.request {
            let known = Tactic::ALL.map(|tactic| (tactic.name(), tactic));
            let tactic = self.reading.find("tactic", name, known);
            found.add("request", tactic.map(|tactic| Reaction::Request(target, tactic)));
        }
        if let Some(name) = &raw.stop_waves {
            let waves = self.reading.find_id("sequence of waves", name, &self.known.waves);
            found.add("stop-waves", waves.map(Reaction::StopWaves));
        }
        if let Some(name) = &raw.bring_back {
            let spot = self.spot(name);
            found.add("bring-back", spot.map(|spot| Reaction::BringBack(target, spot)));
        }
        for (verb, given, act) in [
            ("send-away", raw.send_away, Reaction::SendAway(target)),
            ("remove", raw.remove, Reaction::Remove(target)),
        ] {
            if given {
                found.add(verb, Some(act));
            }
        }
    }

    /// What a rule publishes: values by the names of the topic's fields.
    pub(super) fn publication(
        &mut self,
        name: &raw::Name,
        with: &raw::Named<Spanned<raw::Published>>,
    ) -> Option<Reaction> {
        let known = self.known.topics.iter().enumerate().map(|(place, (path, ..))| (path.as_str(), place));
        let place = self.reading.find("topic of the host's own", name, known)?;
        let (_, id, fields) = self.known.topics[place].clone();
        let mut values = [const { RuleValue::Value(HostValue::Nothing) }; 4];
        for (field, value) in with {
            let known =
                fields.iter().enumerate().map(|(place, (name, sort))| (name.as_str(), (place, *sort)));
            let Some((place, sort)) = self.reading.find("field of the topic", field, known) else { continue };
            match self.published(sort, value) {
                Ok(value) => values[place] = value.unwrap_or(RuleValue::Value(HostValue::Nothing)),
                Err(OtherSort) => other_sort(self.reading, value.span(), field.as_ref(), sort),
            }
        }
        Some(Reaction::Publish(id, values))
    }

    /// A value of a field of that sort; none where a problem was told.
    fn published(
        &mut self,
        sort: ValueSort,
        spanned: &Spanned<raw::Published>,
    ) -> Result<Option<RuleValue>, OtherSort> {
        let is_number = matches!(sort, ValueSort::Whole | ValueSort::Exact);
        let text = match spanned.as_ref() {
            raw::Published::Sum(sum) if is_number => return Ok(self.sum(sum).map(RuleValue::Amount)),
            raw::Published::Sum(_) => return Err(OtherSort),
            raw::Published::Plain(Value::Text(text)) => text.as_str(),
            raw::Published::Plain(value) => {
                return host_value(sort, value).map(|value| Some(RuleValue::Value(value))).ok_or(OtherSort);
            }
        };
        Ok(Some(match (sort, text) {
            (ValueSort::Name, name) => RuleValue::Value(HostValue::Name(self.builder.word(name))),
            (ValueSort::Who, "subject") => RuleValue::Subject,
            (ValueSort::Who, "other") => RuleValue::Other,
            (ValueSort::Text, text) if text.len() <= Text::MOST => RuleValue::Text(self.builder.word(text)),
            (ValueSort::Whole | ValueSort::Exact, name) if name.contains('.') || name == "distance" => {
                let reading = self.reading_named(&Spanned::new(spanned.span(), name.to_owned()));
                return Ok(reading.map(|reading| RuleValue::Amount(Amount::of(reading, Fixed::ONE))));
            }
            (ValueSort::Whole, counter) => {
                let name = Spanned::new(spanned.span(), counter.to_owned());
                let counter = self.reading.find_id("counter", &name, &self.known.counters);
                return Ok(counter.map(RuleValue::Counter));
            }
            _ => return Err(OtherSort),
        }))
    }
}

/// A value is of another sort than its field.
struct OtherSort;

/// A whole number, if an amount is written as one.
fn plain(amount: &Spanned<raw::AmountOf>) -> Option<i64> {
    match amount.as_ref() {
        raw::AmountOf::Plain(number) if number.fract() == 0.0 => Some(*number as i64),
        _ => None,
    }
}

/// What a reaction in a file asks for: target it is for, the verbs that were given, and what they come to.
struct Found {
    target: Target,
    verbs: Vec<&'static str>,
    acts: Vec<Reaction>,
}

impl Found {
    fn add(&mut self, verb: &'static str, acts: impl IntoIterator<Item = Reaction>) {
        self.verbs.push(verb);
        self.acts.extend(acts);
    }
}
