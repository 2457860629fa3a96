//! Tactics out of a file.

use std::sync::Arc;

use hammerstone::Fixed;
use hammerstone::flow::Question;
use toml::Spanned;

use super::def::*;
use super::plane::{Plane, Turning};
use crate::fight::Resolver;
use crate::raw;

/// A whole in ten-thousandths.
const WHOLE: i64 = 10_000;

impl Resolver<'_, '_> {
    pub(crate) fn tactics(&mut self, name: &raw::Name, raw: &raw::Tactics) -> Option<Tactics> {
        let when = match &raw.when {
            Some(when) => Some(self.rules.question(self.reading, when)?),
            None => None,
        };
        let rate = self.rules.ruleset.rate();
        let every = raw.every.as_ref().map_or(Some((rate / 10).max(1)), |every| self.at_least_a_tick(every));
        let reaction = raw.reaction.as_ref().map_or(Some((0, 0)), |times| self.drawn(times));
        let skill = raw.skill.as_ref().map_or(Some(WHOLE), |skill| self.share(skill));
        let speed = match &raw.speed {
            None => Some(Speed::Plain(3.0 / rate as f32)),
            Some(raw::Speed::Plain(speed)) => {
                self.within(speed, 0.0, 1000.0).map(|speed| Speed::Plain(speed / rate as f32))
            }
            Some(raw::Speed::Of(of)) => {
                let rules = &self.rules.ruleset;
                let known = rules.stats().filter_map(|stat| Some((rules.stat_name(stat)?, stat)));
                let stat = self.reading.find("stat", &of.stat, known);
                let times = of.times.as_ref().map_or(Some(1.0), |times| self.within(times, 0.0, 1000.0));
                stat.zip(times).map(|(stat, times)| Speed::Of(stat, times / rate as f32))
            }
        };
        let while_swinging =
            raw.while_swinging.as_ref().map_or(Some(0.0), |share| self.within(share, 0.0, 1.0));
        let turns = raw.turns.as_ref().map_or(Some(540.0), |turns| self.within(turns, 0.0, 100_000.0));
        let room = raw.room.as_ref().map_or(Some(0.4), |room| self.within(room, 0.0, 1000.0));
        let target = self.target(raw.target.as_ref());
        let choices: Option<Vec<Choice>> =
            raw.choice.iter().map(|choice| self.choice(choice)).collect::<Vec<_>>().into_iter().collect();
        if raw.choice.is_empty() {
            let fix = Some(format!("add [[tactics.{}.choice]] with `do = {{ … }}`", name.as_ref()));
            self.reading.problem(name.span(), "here", "the tactics have no choices".to_owned(), fix);
        }
        let group = raw.group.as_ref().map(|group| self.group(group));
        let choices = choices?;
        for (choice, raw) in choices.iter().zip(&raw.choice) {
            if let (Some(template), Some(Act::Start(start))) =
                (group.and_then(|group| group.template), &choice.act)
            {
                self.must_list(template, start.attack, raw.as_ref().does.as_ref().start.as_ref());
            }
        }
        Some(Tactics {
            name: name.as_ref().clone(),
            group,
            when,
            every: every?,
            reaction: reaction?,
            skill: skill?,
            speed: speed?,
            while_swinging: while_swinging?,
            turns: Turning::by(turns?.to_radians() / rate as f32),
            room: room?,
            target: target?,
            choices,
        })
    }

    fn at_least_a_tick(&mut self, time: &raw::Time) -> Option<u32> {
        let ticks = self.time(time)?;
        if ticks == 0 {
            let fix = Some("give at least one tick".to_owned());
            self.reading.problem(time.span(), "here", "no time at all".to_owned(), fix);
            return None;
        }
        Some(ticks)
    }

    /// One time, or two of which the first is not later.
    fn drawn(&mut self, times: &Spanned<raw::OneOrMore<raw::Time>>) -> Option<Ticks> {
        let given = &times.as_ref().0;
        let ticks: Vec<u32> = given.iter().filter_map(|time| self.time(time)).collect();
        match *ticks.as_slice() {
            [one] if given.len() == 1 => Some((one, one)),
            [least, most] if given.len() == 2 && least <= most => Some((least, most)),
            _ if ticks.len() < given.len() => None,
            _ => {
                let fix = Some("give one time, or two: [\"0.1s\", \"0.3s\"]".to_owned());
                let message = "not one time, nor the shortest and the longest".to_owned();
                self.reading.problem(times.span(), "here", message, fix);
                None
            }
        }
    }

    /// A number from one to another.
    fn within(&mut self, number: &raw::Number, least: f32, most: f32) -> Option<f32> {
        let found = self.reading.number(number)?;
        if (least..=most).contains(&found) {
            return Some(found);
        }
        let fix = Some(format!("give a number from {least} to {most}"));
        self.reading.problem(number.span(), "here", format!("{found} is out of range"), fix);
        None
    }

    /// A share, in ten-thousandths.
    pub(crate) fn share(&mut self, number: &raw::Number) -> Option<i64> {
        self.within(number, 0.0, 1.0)?;
        self.reading.exact(number).map(Fixed::to_raw)
    }

    fn target(&mut self, raw: Option<&raw::TacticsTarget>) -> Option<TargetRule> {
        let second = self.rules.ruleset.rate();
        let Some(raw) = raw else {
            let group = hammerstone::flow::Group::default();
            let pick = Pick::Nearest;
            return Some(TargetRule {
                pick,
                group,
                side: Side::Foes,
                dead: false,
                within: 40.0,
                keep: second,
            });
        };
        let pick = raw
            .pick
            .as_ref()
            .map_or(Some(Pick::Nearest), |pick| self.reading.find("way to pick a target", pick, Pick::ALL));
        let plain =
            raw::Group { team: raw.team.clone(), template: raw.template.clone(), tags: raw.tags.clone() };
        let group = self.group(&plain);
        let side = match (raw.friends, &raw.team) {
            (true, _) => Side::Friends,
            (false, Some(_)) => Side::Any,
            (false, None) => Side::Foes,
        };
        let within = raw.within.as_ref().map_or(Some(40.0), |within| self.within(within, 0.0, 1.0e6));
        let keep = raw.keep.as_ref().map_or(Some(second), |keep| self.time(keep));
        Some(TargetRule { pick: pick?, group, side, dead: raw.dead, within: within?, keep: keep? })
    }

    fn choice(&mut self, spanned: &Spanned<raw::TacticsChoice>) -> Option<Choice> {
        let raw = spanned.as_ref();
        let asked: Option<(Option<Question>, Option<Fixed>)> = match &raw.when {
            Some(when) => self
                .rules
                .question_with_chance(self.reading, when)
                .map(|(asked, chance)| (Some(asked), chance)),
            None => Some((None, None)),
        };
        let target = match &raw.target {
            Some(target) => Some(self.target(Some(target))?),
            None => None,
        };
        let deed = raw.does.as_ref();
        let moves = self.moves(&raw.does);
        let pace = deed.pace.as_ref().map_or(Some(1.0), |pace| self.within(pace, 0.0, 4.0));
        let act = self.act(&raw.does);
        let lasts = raw.lasts.as_ref().map_or(Some(0), |lasts| self.time(lasts));
        let ((moved, moves), (acted, act)) = (moves?, act?);
        let name = match (&raw.name, acted, moved) {
            (Some(name), ..) => name.as_ref().clone(),
            (None, Some(acted), _) => acted,
            (None, None, Some(moved)) => moved.to_owned(),
            (None, None, None) => {
                let fix = Some("give a way of moving, `start` or `revive`".to_owned());
                self.reading.problem(raw.does.span(), "here", "the choice does nothing".to_owned(), fix);
                return None;
            }
        };
        let (when, chance) = asked?;
        Some(Choice { name, when, chance, target, moves, lasts: lasts?, pace: pace?, act })
    }

    /// The way of moving, with its name.
    fn moves(&mut self, spanned: &Spanned<raw::Deed>) -> Option<(Option<&'static str>, Option<Moves>)> {
        let deed = spanned.as_ref();
        let plane = Plane::across(self.rules.ruleset.up());
        let rate = self.rules.ruleset.rate() as f32;
        let mut found: Vec<(&'static str, Option<Moves>)> = Vec::new();
        for (name, number, moves) in [
            ("approach", &deed.approach, Moves::Approach as fn(f32) -> Moves),
            ("follow", &deed.follow, Moves::Follow),
            ("flee", &deed.flee, Moves::Flee),
        ] {
            if let Some(number) = number {
                found.push((name, self.within(number, 0.0, 1.0e6).map(moves)));
            }
        }
        for (name, flag, moves) in
            [("wait", &deed.wait, Moves::Wait), ("hold-place", &deed.hold_place, Moves::HoldPlace)]
        {
            if flag.as_ref().is_some_and(|flag| *flag.as_ref()) {
                found.push((name, Some(moves)));
            }
        }
        if let Some(keep) = &deed.keep_distance {
            let number = |number: f64| Spanned::new(keep.span(), number);
            let [least, most] = keep.as_ref().map(|one| self.within(&number(one), 0.0, 1.0e6));
            found.push((
                "keep-distance",
                least.zip(most).map(|(least, most)| Moves::KeepDistance(least, most)),
            ));
        }
        if let Some(circle) = &deed.circle {
            let way = deed.way.as_ref();
            let way = way.map_or(Some(Way::Either), |way| self.reading.find("way round", way, Way::ALL));
            let metres = self.within(circle, 0.0, 1.0e6);
            found.push(("circle", metres.zip(way).map(|(metres, way)| Moves::Circle(metres, way))));
        }
        if let Some(patrol) = &deed.patrol {
            let places: Option<Vec<_>> =
                patrol.iter().map(|at| self.reading.vector(at).map(|at| plane.flat(at))).collect();
            if patrol.is_empty() {
                let fix = Some("name at least one place".to_owned());
                self.reading.problem(spanned.span(), "here", "a patrol without places".to_owned(), fix);
            }
            found.push(("patrol", places.map(|places| Moves::Patrol(Arc::from(places)))));
        }
        if let Some(go_to) = &deed.go_to {
            found.push(("go-to", self.reading.vector(go_to).map(|at| Moves::GoTo(plane.flat(at)))));
        }
        if let Some(drift) = &deed.drift {
            let wrap = match &deed.wrap {
                Some(raw::Wrap { from, to }) => {
                    let both = self.reading.vector(from).zip(self.reading.vector(to));
                    if both.is_some_and(|(from, to)| (0..3).any(|axis| from[axis] >= to[axis])) {
                        let fix = Some("give the lowest corner first".to_owned());
                        self.reading.problem(from.span(), "here", "the box has no room".to_owned(), fix);
                    }
                    Some(both)
                }
                None => None,
            };
            let by = self.reading.vector(drift).map(|by| by.map(|x| x / rate));
            let wrap = wrap.map_or(Some(None), |both| both.map(|(from, to)| Some([from, to])));
            found.push(("drift", by.zip(wrap).map(|(by, wrap)| Moves::Drift(by, wrap))));
        }
        if found.len() > 1 {
            let names: Vec<&str> = found.iter().map(|(name, _)| *name).collect();
            let message = format!("the choice moves in {} ways: {}", names.len(), names.join(", "));
            self.reading.problem(spanned.span(), "here", message, Some("keep one of them".to_owned()));
            return None;
        }
        match found.pop() {
            Some((name, moves)) => moves.map(|moves| (Some(name), Some(moves))),
            None => Some((None, None)),
        }
    }

    /// The act, with its name.
    fn act(&mut self, spanned: &Spanned<raw::Deed>) -> Option<(Option<String>, Option<Act>)> {
        let deed = spanned.as_ref();
        match (&deed.start, &deed.revive) {
            (Some(_), Some(_)) => {
                let fix = Some("keep one of them".to_owned());
                let message = "the choice does two things: start, revive".to_owned();
                self.reading.problem(spanned.span(), "here", message, fix);
                None
            }
            (None, None) => Some((None, None)),
            (None, Some(share)) => {
                self.within(share, 0.0001, 1.0)?;
                let share = self.reading.exact(share)?;
                let within =
                    deed.within.as_ref().map_or(Some(1.2), |within| self.within(within, 0.0, 1.0e6))?;
                let second = self.rules.ruleset.rate();
                let takes = deed.takes.as_ref().map_or(Some(second), |takes| self.time(takes))?;
                Some((Some("revive".to_owned()), Some(Act::Revive { share, within, takes })))
            }
            (Some(name), None) => {
                let attack = self.attack_named(name)?;
                let within = match &deed.within {
                    Some(within) => Some(self.within(within, 0.0, 1.0e6)?),
                    None => None,
                };
                let arc = deed.arc.as_ref().map_or(Some(25.0), |arc| self.within(arc, 0.0, 180.0))?;
                let hold = match &deed.hold {
                    Some(hold) => Some(self.drawn(hold)?),
                    None => None,
                };
                let press_on = deed.press_on.as_ref().map_or(Some(0), |chance| self.share(chance))?;
                let answer = match &deed.lead {
                    Some(lead) => {
                        let error = deed.error.as_ref().map_or(Some(0), |error| self.time(error))?;
                        Some(Answer { lead: self.time(lead)?, error })
                    }
                    None => None,
                };
                let dash = match &deed.dash {
                    Some(dash) => Some(self.dash(dash)?),
                    None => None,
                };
                let arc = arc.to_radians();
                let start = Start { attack, within, arc, hold, press_on, answer, dash };
                Some((Some(name.as_ref().clone()), Some(Act::Start(start))))
            }
        }
    }

    fn dash(&mut self, dash: &raw::Dash) -> Option<Dash> {
        let way = dash.way.as_ref();
        let way = way.map_or(Some(DashWay::Back), |way| self.reading.find("way to dash", way, DashWay::ALL));
        let metres = self.within(&dash.metres, 0.0, 1000.0);
        let ticks = self.at_least_a_tick(&dash.over);
        Some(Dash { metres: metres?, ticks: ticks?, way: way? })
    }
}
