//! When an attack does what: by times, by the host's markers, or by those of the animation that it plays.

use hammerstone::attack::{Attack, Charge};

use crate::raw;
use crate::rules::Resolver;

impl Resolver<'_, '_> {
    /// The skeleton and the animation of an attack that plays one.
    pub(super) fn plays(&mut self, raw: &raw::Attack) -> Option<(usize, usize)> {
        let plays = raw.animation.as_ref()?;
        let rig = self.rig(&plays.skeleton)?;
        Some((rig, self.animation(rig, &plays.name)?))
    }

    /// From a marker of an animation to another, in ticks from its start; and the ticks of the whole.
    fn between_markers(&mut self, window: &raw::Window, plays: Option<(usize, usize)>) -> Option<[u32; 3]> {
        let (from, to) = window.from.as_ref().zip(window.to.as_ref())?;
        let Some((rig, animation)) = plays else {
            let fix = "add `animation = { skeleton = \"mason\", name = \"sweep\" }`".to_owned();
            self.reading.problem(
                from.span(),
                "here",
                "markers are of an animation, and there is none".to_owned(),
                Some(fix),
            );
            return None;
        };
        let rate = f64::from(self.rate);
        let markers = self.motion.rigs[rig].markers(animation);
        let known = || markers.iter().map(|(name, at)| (name.as_str(), *at));
        let ends = [from, to].map(|name| self.reading.find("marker", name, known()));
        let [opens, shuts] = [ends[0]?, ends[1]?].map(|at| (at * rate).round() as u32);
        if shuts <= opens {
            let message = format!("the window shuts at tick {shuts} and opens at tick {opens}");
            let fix = "let the first marker be before the second, by a tick at least".to_owned();
            self.reading.problem(to.span(), "here", message, Some(fix));
            return None;
        }
        let whole = (self.motion.rigs[rig].length(animation) * rate - 1.0e-3).ceil().max(0.0) as u32;
        Some([opens, shuts, whole])
    }

    /// Windows from markers of the animation: first opening after the start, and what follows the last to the end of the animation.
    fn marked_windows(
        &mut self,
        raw: &raw::Attack,
        windows: &[raw::Window],
        plays: Option<(usize, usize)>,
        attack: Attack,
    ) -> Option<Attack> {
        if let Some(startup) = &raw.startup {
            let fix = Some("take it out".to_owned());
            self.reading.problem(
                startup.span(),
                "here",
                "the markers say when the first window opens".to_owned(),
                fix,
            );
            return None;
        }
        let mut ends = Vec::new();
        for window in windows {
            ends.push(self.between_markers(window, plays)?);
        }
        let [opens, shuts, whole] = *ends.first()?;
        let last = ends.last()?[1];
        let recovery = match &raw.recovery {
            Some(recovery) => self.reading.time(recovery, self.rate)?,
            None => whole.saturating_sub(last),
        };
        let mut attack = attack.timeline(opens, shuts - opens, recovery);
        for (pair, window) in ends.windows(2).zip(&windows[1..]) {
            let Some(after) = pair[1][0].checked_sub(pair[0][1]) else {
                let span = window.from.as_ref().map_or(0..0, raw::Name::span);
                let fix = Some("name the windows in the order in which they open".to_owned());
                self.reading.problem(
                    span,
                    "here",
                    "the window opens before the one before it shuts".to_owned(),
                    fix,
                );
                return None;
            };
            attack = attack.again(after, pair[1][1] - pair[1][0]);
        }
        Some(attack)
    }

    pub(super) fn timeline(
        &mut self,
        name: &raw::Name,
        raw: &raw::Attack,
        attack: Attack,
        plays: Option<(usize, usize)>,
    ) -> Attack {
        let rate = self.rate;
        let ticks = |reading: &mut crate::problem::Reading<'_>, time: &raw::Time| {
            reading.time(time, rate).unwrap_or(1)
        };
        let or_none = |reading: &mut crate::problem::Reading<'_>, time: &Option<raw::Time>| {
            time.as_ref().map_or(0, |time| ticks(reading, time))
        };
        let (startup, recovery) = (or_none(self.reading, &raw.startup), or_none(self.reading, &raw.recovery));
        let active = raw.active.as_ref().map(|active| (active.as_ref(), active.span()));
        let mut attack = match (active, &raw.marked) {
            (Some((raw::Active::For(time), _)), None) => {
                attack.timeline(startup, ticks(self.reading, time), recovery)
            }
            (Some((raw::Active::Windows(windows), span)), None) if !windows.is_empty() => {
                let by_markers = windows.iter().filter(|window| window.from.is_some() && window.to.is_some());
                let mixed = windows.iter().any(|window| {
                    let markers = [&window.from, &window.to].into_iter().flatten().count();
                    let times = [&window.after, &window.lasts].into_iter().flatten().count();
                    (markers, times) != (2, 0) && (markers, times) != (0, 2)
                });
                let by_markers = by_markers.count();
                if mixed || (by_markers > 0 && by_markers < windows.len()) {
                    let message =
                        "a window has either `after` and `lasts`, or `from` and `to`, and all are alike"
                            .to_owned();
                    let fix = "write `{ after = \"0s\", lasts = \"0.2s\" }`, or `{ from = \"opens\", to = \"shuts\" }` with markers of the animation";
                    self.reading.problem(span, "here", message, Some(fix.to_owned()));
                    return attack;
                }
                if by_markers > 0 {
                    return self.marked_windows(raw, windows, plays, attack.clone()).unwrap_or(attack);
                }
                let [first, rest @ ..] = windows.as_slice() else { return attack };
                let (after, lasts) =
                    (or_none(self.reading, &first.after), or_none(self.reading, &first.lasts));
                let first = attack.timeline(startup + after, lasts, recovery);
                rest.iter().fold(first, |attack, window| {
                    attack.again(or_none(self.reading, &window.after), or_none(self.reading, &window.lasts))
                })
            }
            (None, Some(end)) => attack.marked(ticks(self.reading, end)),
            // Markers open windows, and they close after that time.
            (Some((raw::Active::For(time), _)), Some(end)) => {
                attack.marked(ticks(self.reading, end)).windows_last(ticks(self.reading, time))
            }
            // A projectile is open as long as it flies.
            (None, None) if raw.projectile.is_some() => attack.timeline(startup, 1, recovery),
            _ => {
                let message = format!("attack `{}` needs `active` or `marked`", name.as_ref());
                let fix = "write `active = \"0.2s\"`, `active = [{ after = \"0s\", lasts = \"0.2s\" }]`, or `marked = \"2s\"` for a guaranteed end";
                self.reading.problem(name.span(), "here", message, Some(fix.to_owned()));
                attack
            }
        };
        if let Some(charge) = &raw.charge {
            self.note("attack", name.as_ref(), "charge", charge.most.span());
            let (least, most) = (ticks(self.reading, &charge.least), ticks(self.reading, &charge.most));
            if let Some(full) = self.reading.exact(&charge.full) {
                attack = attack.charge(Charge { least, most, full });
            }
        }
        if let Some(chain) = &raw.chain {
            self.note("attack", name.as_ref(), "chain", chain.next.span());
            let (opens, lapses) = (ticks(self.reading, &chain.opens), ticks(self.reading, &chain.lapses));
            attack = attack.chain(chain.next.as_ref(), opens, lapses);
        }
        attack
    }
}
