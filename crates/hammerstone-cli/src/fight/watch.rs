//! `watch`: a fight in the terminal, tick by tick.

use std::fs;
use std::io::{self, IsTerminal};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant, SystemTime};

use hammerstone::Ruleset;
use hammerstone_record::{Account, Accounts, Frame, StateTable, Told, Transcript};
use hammerstone_view::{Screen, screen};
use miette::{IntoDiagnostic, miette};
use ratatui::DefaultTerminal;
use ratatui::crossterm::event::{self, Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers};

use crate::args::Asked;
use crate::source::{Fight, Playing};
use crate::{Failure, Outcome, progress};

/// How many ticks lie between two states that are kept to go back to.
const BETWEEN: u32 = 60;
/// How often it is looked whether a file is another.
const LOOKS: Duration = Duration::from_millis(500);
const SPEEDS: [f64; 7] = [0.05, 0.1, 0.25, 0.5, 1.0, 2.0, 4.0];

pub(crate) fn watch(asked: &Asked) -> Result<Outcome, Failure> {
    let mut fight = Fight::of(asked)?.telling_choices();
    if !io::stdout().is_terminal() || !io::stdin().is_terminal() {
        return Err(miette!(
            help = "`draw` and `report` show a fight without one",
            "there is no terminal to watch it in"
        ));
    }
    let mut files = Watched::of(asked, &fight);
    let mut kept = Kept::default();
    // The fight before the files were read again.
    let mut before: Option<Fight> = None;
    let mut terminal: Option<DefaultTerminal> = None;
    let shown = loop {
        let as_before = kept.clone();
        let ended = Show::new(&fight, kept).and_then(|mut show| {
            let terminal = match &mut terminal {
                Some(terminal) => terminal,
                // Once it has been played: until then it is said how far it is. It is put back also where something panics.
                None => {
                    progress::hide();
                    terminal.insert(ratatui::try_init().into_diagnostic()?)
                }
            };
            let ended = show.run(terminal, &mut files)?;
            Ok((ended, show.kept()))
        });
        match ended {
            Ok((Ended::Left, _)) => break Ok(()),
            // The files as they are now, if they can be used; else those of before, and what is wrong with the new.
            Ok((Ended::Changed, now)) => {
                kept = now;
                match Fight::of(asked).map(Fight::telling_choices) {
                    Ok(now) => {
                        files = Watched::of(asked, &now);
                        before = Some(std::mem::replace(&mut fight, now));
                        kept.note = Some("the files were read again".to_owned());
                    }
                    Err(failure) => {
                        // Of several problems the first; `run` shows them all, with their places.
                        let first = failure.related().and_then(|mut all| all.next());
                        let text =
                            first.map_or(failure.to_string(), |first| format!("{first}; `run` shows where"));
                        kept.note = Some(format!("the files as they are now: {text}"));
                    }
                }
            }
            // What can be read, but not played, is shown as it was.
            Err(failure) => match before.take() {
                Some(last) => {
                    fight = last;
                    let note = Some(format!("the files as they are now cannot be played: {failure}"));
                    kept = Kept { note, ..as_before };
                }
                None => break Err(failure),
            },
        }
    };
    if terminal.is_some() {
        ratatui::try_restore().into_diagnostic()?;
    }
    shown?;
    Ok(Outcome::Fine)
}

/// Why the view ended.
enum Ended {
    Left,
    /// A file is another.
    Changed,
}

/// What stays when the files are read again.
#[derive(Clone, Default)]
struct Kept {
    tick: u32,
    scrolled: usize,
    speed: Option<usize>,
    from_the_side: bool,
    wanted: String,
    only: String,
    stops: String,
    note: Option<String>,
}

/// The files of a fight, and when they were written last.
struct Watched(Vec<(PathBuf, Option<SystemTime>)>);

impl Watched {
    fn of(asked: &Asked, fight: &Fight) -> Watched {
        let rules = fight.scenario().map(|scenario| PathBuf::from(&scenario.rules.file));
        let files = [Some(asked.file.clone()), rules];
        Watched(files.into_iter().flatten().map(|file| (file.clone(), written(&file))).collect())
    }

    /// Whether one of them was written since.
    fn changed(&mut self) -> bool {
        let mut changed = false;
        for (file, last) in &mut self.0 {
            let now = written(file);
            // One that is not there is about to be written anew.
            if now.is_some() && now != *last {
                *last = now;
                changed = true;
            }
        }
        changed
    }
}

fn written(file: &Path) -> Option<SystemTime> {
    fs::metadata(file).and_then(|file| file.modified()).ok()
}

/// A fight that is looked at.
struct Show<'a> {
    title: &'a str,
    rate: u32,
    told: Vec<Told>,
    /// The same with contacts, or without them: the other of the two.
    other: Vec<Told>,
    accounts: Vec<Account>,
    /// The fight before its first tick, and after each so many.
    kept: Vec<Playing<'a>>,
    /// The fight after the tick that is shown.
    now: Playing<'a>,
    frame: Frame,
    tick: u32,
    last: u32,
    chosen: usize,
    playing: bool,
    speed: usize,
    from_the_side: bool,
    help: bool,
    /// How everything stands, while that is shown.
    state: Option<StateTable>,
    rules: &'a Ruleset,
    /// What is looked for, what lines must have, and where to stop; empty for nothing.
    wanted: String,
    only: String,
    stops: String,
    /// The places of the lines that are shown, if not all are.
    shown: Option<Vec<usize>>,
    /// What is being typed.
    typed: Option<(Typed, String)>,
    note: Option<String>,
    scrolled: usize,
}

/// What is typed for.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Typed {
    Wanted,
    Only,
    Stops,
}

impl Typed {
    fn words(self) -> &'static str {
        match self {
            Typed::Wanted => "look for",
            Typed::Only => "only lines with",
            Typed::Stops => "stop at",
        }
    }
}

impl<'a> Show<'a> {
    /// Plays it once through, and goes to its beginning.
    fn new(fight: &'a Fight, kept_before: Kept) -> Result<Show<'a>, Failure> {
        let rules = fight.rules();
        let mut play = fight.play(true)?;
        play.encounter_mut().keep_deliveries(true);
        play.encounter_mut().keep_gates(true);
        let (mut transcript, mut accounts) = (Transcript::new(), Accounts::new());
        let mut contacts = Transcript::with_contacts();
        let mut kept = vec![play.clone()];
        let mut last = 0;
        while play.tick()? {
            last += 1;
            play.seen().show(&mut [&mut transcript, &mut contacts, &mut accounts]);
            if last % BETWEEN == 0 {
                kept.push(play.clone());
            }
        }
        let first = kept[0].clone();
        let frame = Frame::of(&first.seen());
        let mut show = Show {
            title: fight.title(),
            rate: rules.rate(),
            told: transcript.told().to_vec(),
            other: contacts.told().to_vec(),
            accounts: accounts.all().to_vec(),
            kept,
            now: first,
            frame,
            tick: 0,
            last,
            chosen: 0,
            playing: false,
            speed: 4,
            from_the_side: kept_before.from_the_side,
            help: false,
            state: None,
            rules,
            wanted: kept_before.wanted,
            only: kept_before.only,
            stops: kept_before.stops,
            shown: None,
            typed: None,
            note: kept_before.note,
            scrolled: kept_before.scrolled,
        };
        show.speed = kept_before.speed.unwrap_or(show.speed);
        show.filter();
        show.go(kept_before.tick.max(1))?;
        Ok(show)
    }

    /// What stays when the files are read again.
    fn kept(self) -> Kept {
        let Show { tick, scrolled, speed, from_the_side, wanted, only, stops, .. } = self;
        Kept { tick, scrolled, speed: Some(speed), from_the_side, wanted, only, stops, note: None }
    }

    /// Whether a line has a text, or its topic does.
    fn has(&self, told: &Told, text: &str) -> bool {
        let topic = self.rules.topics().path(told.topic).unwrap_or_default();
        topic.contains(text) || told.text.to_lowercase().contains(&text.to_lowercase())
    }

    /// Gathers the lines that are shown.
    fn filter(&mut self) {
        let fits = |&place: &usize| self.has(&self.told[place], &self.only);
        self.shown = (!self.only.is_empty()).then(|| (0..self.told.len()).filter(fits).collect());
    }

    /// Whether a line is shown.
    fn is_shown(&self, place: usize) -> bool {
        self.shown.as_ref().is_none_or(|shown| shown.binary_search(&place).is_ok())
    }

    /// The next line that is shown and fits, or the one before.
    fn next(&self, on: bool, fits: impl Fn(&Told) -> bool) -> Option<usize> {
        let fits = |&place: &usize| self.is_shown(place) && fits(&self.told[place]);
        match on {
            true => (self.chosen + 1..self.told.len()).find(fits),
            false => (0..self.chosen).rev().find(fits),
        }
    }

    /// Goes to the next line with what is looked for, or the one before; says so if there is none.
    fn find(&mut self, on: bool) -> Result<(), Failure> {
        if self.wanted.is_empty() {
            self.note = Some("/ says what to look for".to_owned());
            return Ok(());
        }
        match self.next(on, |told| self.has(told, &self.wanted)) {
            Some(place) => self.choose(place),
            None => {
                let way = if on { "after" } else { "before" };
                self.note = Some(format!("no line {way} this has `{}`", self.wanted));
                Ok(())
            }
        }
    }

    /// Shows a tick: on from where it stands, or from the nearest state that was kept.
    fn go(&mut self, tick: u32) -> Result<(), Failure> {
        let tick = tick.clamp(1, self.last.max(1));
        if tick < self.tick || tick > self.tick + BETWEEN {
            let place = ((tick / BETWEEN) as usize).min(self.kept.len() - 1);
            self.now = self.kept[place].clone();
            self.tick = place as u32 * BETWEEN;
        }
        while self.tick < tick && self.now.tick()? {
            self.tick += 1;
        }
        self.tick = self.tick.max(1);
        self.frame = Frame::of(&self.now.seen());
        if self.state.is_some() {
            self.state = Some(StateTable::of(&self.now.seen()));
        }
        // The last line that is told by then.
        self.chosen = self.told.partition_point(|told| told.clock <= self.tick).saturating_sub(1);
        Ok(())
    }

    /// Goes to a line of the feed.
    fn choose(&mut self, place: usize) -> Result<(), Failure> {
        if let Some(told) = self.told.get(place) {
            self.go(told.clock)?;
            self.chosen = place;
        }
        Ok(())
    }

    /// Goes to the next line with a mark, or the one before.
    fn jump(&mut self, mark: &str, on: bool) -> Result<(), Failure> {
        self.next(on, |told| told.mark == mark).map_or(Ok(()), |place| self.choose(place))
    }

    /// The first tick after this, up to another, in which it is to stop.
    fn stop_before(&self, until: u32) -> Option<u32> {
        if self.stops.is_empty() {
            return None;
        }
        let from = self.told.partition_point(|told| told.clock <= self.tick);
        let coming = self.told[from..].iter().take_while(|told| told.clock <= until);
        coming.into_iter().find(|told| self.has(told, &self.stops)).map(|told| told.clock)
    }

    /// What the chosen line is made of.
    fn account(&self) -> Option<&Account> {
        let told = self.told.get(self.chosen)?;
        let fits = |account: &&Account| {
            account.clock == told.clock && (told.seq.0..=told.seq.1).contains(&account.seq)
        };
        self.accounts.iter().find(fits)
    }

    fn run(&mut self, terminal: &mut DefaultTerminal, files: &mut Watched) -> Result<Ended, Failure> {
        let colours = std::env::var_os("NO_COLOR").is_none_or(|value| value.is_empty());
        let (mut due, mut looked, mut pressed) = (Instant::now(), Instant::now(), false);
        loop {
            let view = Screen {
                title: self.title,
                frame: &self.frame,
                clock: (self.tick, self.last, self.rate),
                told: &self.told,
                chosen: self.chosen,
                shown: self.shown.as_deref(),
                wanted: &self.wanted,
                typed: self.typed.as_ref().map(|(what, text)| (what.words(), text.as_str())),
                note: self.note.as_deref(),
                scrolled: self.scrolled,
                account: self.account(),
                state: self.state.as_ref(),
                playing: self.playing,
                speed: SPEEDS[self.speed],
                from_the_side: self.from_the_side,
                help: self.help,
                colours,
            };
            terminal.draw(|cells| screen(&view, cells.area(), cells.buffer_mut())).into_diagnostic()?;
            // A picture has its time: faster than thirty in a second no one sees.
            let ticks = (SPEEDS[self.speed] * f64::from(self.rate) / 30.0).ceil().max(1.0);
            let pause = Duration::from_secs_f64(ticks / (SPEEDS[self.speed] * f64::from(self.rate)));
            let wait = if self.playing { due.saturating_duration_since(Instant::now()) } else { LOOKS };
            // Of keys and the next step that both wait, each has its turn.
            let steps = std::mem::take(&mut pressed) && self.playing && wait.is_zero();
            if !steps && event::poll(wait).into_diagnostic()? {
                pressed = true;
                match event::read().into_diagnostic()? {
                    Event::Key(key) if key.kind != KeyEventKind::Release => {
                        if self.typed.is_none() && key.code == KeyCode::Char('l') {
                            return Ok(Ended::Changed);
                        }
                        self.note = None;
                        let played = self.playing;
                        if !self.key(key)? {
                            return Ok(Ended::Left);
                        }
                        // What plays keeps its pace while keys are pressed.
                        if !played {
                            due = Instant::now() + pause;
                        }
                    }
                    // What was resized is drawn anew.
                    _ => {}
                }
            } else if self.playing {
                let to = self.tick + ticks as u32;
                let stop = self.stop_before(to);
                self.go(stop.unwrap_or(to))?;
                self.playing = self.tick < self.last && stop.is_none();
                if let Some(place) = stop.and_then(|tick| {
                    self.told.iter().position(|told| told.clock == tick && self.has(told, &self.stops))
                }) {
                    self.chosen = place;
                    self.note = Some(format!("stopped at `{}`", self.stops));
                }
                due = Instant::now() + pause;
            }
            if looked.elapsed() >= LOOKS {
                looked = Instant::now();
                if files.changed() {
                    return Ok(Ended::Changed);
                }
            }
        }
    }

    /// Does what a key asks for. Gives whether to go on.
    fn key(&mut self, key: KeyEvent) -> Result<bool, Failure> {
        if key.modifiers.contains(KeyModifiers::CONTROL) {
            return Ok(key.code != KeyCode::Char('c'));
        }
        if std::mem::take(&mut self.help) {
            return Ok(true);
        }
        if let Some((what, mut text)) = self.typed.take() {
            match key.code {
                KeyCode::Enter => self.typed_whole(what, text)?,
                KeyCode::Esc => {}
                KeyCode::Backspace => {
                    text.pop();
                    self.typed = Some((what, text));
                }
                KeyCode::Char(letter) if text.len() < 200 => {
                    text.push(letter);
                    self.typed = Some((what, text));
                }
                _ => self.typed = Some((what, text)),
            }
            return Ok(true);
        }
        match key.code {
            KeyCode::Char('/') => self.typed = Some((Typed::Wanted, String::new())),
            KeyCode::Char('f') => self.typed = Some((Typed::Only, self.only.clone())),
            KeyCode::Char('t') => self.typed = Some((Typed::Stops, self.stops.clone())),
            KeyCode::Char('j') => self.scrolled = (self.scrolled + 1).min(self.frame.figures.len()),
            KeyCode::Char('k') => self.scrolled = self.scrolled.saturating_sub(1),
            KeyCode::Char('q') | KeyCode::Esc => return Ok(false),
            KeyCode::Char('?') => self.help = true,
            KeyCode::Char('c') => {
                std::mem::swap(&mut self.told, &mut self.other);
                self.filter();
                self.go(self.tick)?;
            }
            KeyCode::Char('s') => {
                self.state = match self.state {
                    Some(_) => None,
                    None => Some(StateTable::of(&self.now.seen())),
                };
            }
            KeyCode::Char('v') => self.from_the_side = !self.from_the_side,
            KeyCode::Char('+' | '=') => self.speed = (self.speed + 1).min(SPEEDS.len() - 1),
            KeyCode::Char('-') => self.speed = self.speed.saturating_sub(1),
            KeyCode::Char(' ') => {
                self.playing = !self.playing;
                if self.playing && self.tick >= self.last {
                    self.go(1)?;
                }
            }
            code => {
                self.playing = false;
                match code {
                    KeyCode::Right => self.go(self.tick + 1)?,
                    KeyCode::Left => self.go(self.tick.saturating_sub(1))?,
                    KeyCode::Char(']') | KeyCode::PageDown => self.go(self.tick + self.rate)?,
                    KeyCode::Char('[') | KeyCode::PageUp => self.go(self.tick.saturating_sub(self.rate))?,
                    KeyCode::Home => self.go(1)?,
                    KeyCode::End => self.go(self.last)?,
                    KeyCode::Down => self.next(true, |_| true).map_or(Ok(()), |place| self.choose(place))?,
                    KeyCode::Up => self.next(false, |_| true).map_or(Ok(()), |place| self.choose(place))?,
                    KeyCode::Char('n') => self.find(true)?,
                    KeyCode::Char('N') => self.find(false)?,
                    KeyCode::Char('h') => self.jump("*", true)?,
                    KeyCode::Char('H') => self.jump("*", false)?,
                    KeyCode::Char('r') => self.jump("o", true)?,
                    KeyCode::Char('R') => self.jump("o", false)?,
                    KeyCode::Char('d') => self.jump("X", true)?,
                    KeyCode::Char('D') => self.jump("X", false)?,
                    _ => {}
                }
            }
        }
        Ok(true)
    }

    /// What was typed is whole.
    fn typed_whole(&mut self, what: Typed, text: String) -> Result<(), Failure> {
        match what {
            Typed::Wanted => {
                self.wanted = text;
                // The line at hand counts as well.
                match self.told.get(self.chosen) {
                    Some(told) if !self.wanted.is_empty() && self.has(told, &self.wanted) => Ok(()),
                    _ => self.find(true),
                }
            }
            Typed::Only => {
                self.only = text;
                self.filter();
                if self.shown.as_ref().is_some_and(Vec::is_empty) {
                    self.note = Some(format!("no line has `{}`", std::mem::take(&mut self.only)));
                    self.filter();
                }
                Ok(())
            }
            Typed::Stops => {
                self.stops = text;
                Ok(())
            }
        }
    }
}
