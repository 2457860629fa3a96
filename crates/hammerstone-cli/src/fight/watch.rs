//! `watch`: a fight in the terminal, tick by tick.

use std::io::{self, IsTerminal};
use std::time::{Duration, Instant};

use hammerstone_record::{Account, Accounts, Frame, StateTable, Told, Transcript};
use hammerstone_view::{Screen, screen};
use miette::{IntoDiagnostic, miette};
use ratatui::DefaultTerminal;
use ratatui::crossterm::event::{self, Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers};

use crate::args::Asked;
use crate::source::{Fight, Playing};
use crate::{Failure, Outcome};

/// How many ticks lie between two states that are kept to go back to.
const BETWEEN: u32 = 60;
const SPEEDS: [f64; 7] = [0.05, 0.1, 0.25, 0.5, 1.0, 2.0, 4.0];

pub(crate) fn watch(asked: &Asked) -> Result<Outcome, Failure> {
    let fight = Fight::of(asked)?;
    if !io::stdout().is_terminal() || !io::stdin().is_terminal() {
        return Err(miette!(
            help = "`draw` and `report` show a fight without one",
            "there is no terminal to watch it in"
        ));
    }
    let mut show = Show::new(&fight)?;
    // Sets up the terminal, and puts it back also where something panics.
    let mut terminal = ratatui::try_init().into_diagnostic()?;
    let shown = show.run(&mut terminal);
    ratatui::try_restore().into_diagnostic()?;
    shown?;
    Ok(Outcome::Fine)
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
}

impl<'a> Show<'a> {
    /// Plays it once through, and goes to its beginning.
    fn new(fight: &'a Fight) -> Result<Show<'a>, Failure> {
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
            from_the_side: false,
            help: false,
            state: None,
        };
        show.go(1)?;
        Ok(show)
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
        let found = if on {
            (self.chosen + 1..self.told.len()).find(|&place| self.told[place].mark == mark)
        } else {
            (0..self.chosen).rev().find(|&place| self.told[place].mark == mark)
        };
        found.map_or(Ok(()), |place| self.choose(place))
    }

    /// What the chosen line is made of.
    fn account(&self) -> Option<&Account> {
        let told = self.told.get(self.chosen)?;
        let fits = |account: &&Account| {
            account.clock == told.clock && (told.seq.0..=told.seq.1).contains(&account.seq)
        };
        self.accounts.iter().find(fits)
    }

    fn run(&mut self, terminal: &mut DefaultTerminal) -> Result<(), Failure> {
        let colours = std::env::var_os("NO_COLOR").is_none_or(|value| value.is_empty());
        let mut due = Instant::now();
        loop {
            let view = Screen {
                title: self.title,
                frame: &self.frame,
                clock: (self.tick, self.last, self.rate),
                told: &self.told,
                chosen: self.chosen,
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
            let wait = if self.playing {
                due.saturating_duration_since(Instant::now())
            } else {
                Duration::from_secs(3600)
            };
            if event::poll(wait).into_diagnostic()? {
                match event::read().into_diagnostic()? {
                    Event::Key(key) if key.kind != KeyEventKind::Release => {
                        if !self.key(key)? {
                            return Ok(());
                        }
                        due = Instant::now() + pause;
                    }
                    // What was resized is drawn anew.
                    _ => {}
                }
            } else if self.playing {
                self.go(self.tick + ticks as u32)?;
                self.playing = self.tick < self.last;
                due = Instant::now() + pause;
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
        match key.code {
            KeyCode::Char('q') | KeyCode::Esc => return Ok(false),
            KeyCode::Char('?') => self.help = true,
            KeyCode::Char('c') => {
                std::mem::swap(&mut self.told, &mut self.other);
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
                    KeyCode::Down => self.choose(self.chosen + 1)?,
                    KeyCode::Up => self.choose(self.chosen.saturating_sub(1))?,
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
}
