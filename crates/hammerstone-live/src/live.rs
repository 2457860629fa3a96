//! A running game, as a page shows it.

use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use hammerstone::Encounter;
use hammerstone::audit::Auditor;
use hammerstone::ids::{CombatantId, HookId};
use hammerstone_record::{Names, Record, Run};
use hammerstone_view::{Checked, Heading, Reporter, page_shell};
use serde::Deserialize;
use serde_json::json;

use crate::server::{Answer, Asked, CannotServe, Server, Site};
use crate::stops::Stops;

/// How long after it asked last a page counts as open. It asks several times a second.
const OPEN: Duration = Duration::from_secs(3);
/// How many seconds of the game a page shows at least, once they have gone by.
const SHOWN: u32 = 60;
/// How many ticks a page may let run at once.
const MOST_STEPS: u32 = 100_000;
/// How long a page waits for a log.
const LOG: Duration = Duration::from_secs(5);

/// The page of a running game.
#[derive(Debug)]
pub struct Live {
    shared: Arc<Shared>,
    run: Run,
    /// The ruleset of the fight that was seen last.
    fingerprint: Option<u64>,
    /// How many breaches were found so far.
    breaches: usize,
    server: Server,
}

/// What the game and the server both use.
#[derive(Debug)]
struct Shared {
    began: Instant,
    /// When a page asked last, in milliseconds since the beginning, from 1; 0 before the first.
    asked: AtomicU64,
    /// The number of the tick that was gathered last.
    version: AtomicU64,
    title: Mutex<String>,
    control: Mutex<Control>,
    gathered: Mutex<Option<Gathered>>,
    wants_log: AtomicBool,
    log: Mutex<Option<Vec<u8>>>,
    given: Condvar,
}

/// What a page wants of the game.
#[derive(Debug, Default)]
struct Control {
    held: bool,
    /// So many ticks may still run while it is held.
    steps: u32,
    stops: Stops,
    /// Why it is held.
    why: Option<String>,
    /// The fact at which it is held: its tick, counted on through resets, and its number.
    fact: Option<(u32, u64)>,
    checks: Vec<Checked>,
}

impl Control {
    fn set(&mut self, held: bool, steps: u32, why: Option<String>, fact: Option<(u32, u64)>) {
        (self.held, self.steps, self.why, self.fact) = (held, steps, why, fact);
    }
}

/// What was gathered since a page was opened.
#[derive(Debug)]
struct Gathered {
    names: Names,
    rules: hammerstone::Ruleset,
    seed: u64,
    current: Reporter,
    /// Begun later, to come after it: a page always shows a whole minute.
    next: Option<Reporter>,
    /// The ticks of the current.
    ticks: u32,
}

/// Nothing that is kept here is left half done where something panics.
fn locked<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Live {
    /// Serves a page at an address of this machine that no other reaches; with port 0 at one that is free.
    pub fn bind(at: &str) -> Result<Live, CannotServe> {
        Live::served(|site| Server::bind(at, site))
    }

    /// Serves a page at any address of this machine. All who know its whole address can stop the game.
    pub fn bind_anywhere(at: &str) -> Result<Live, CannotServe> {
        Live::served(|site| Server::bind_anywhere(at, site))
    }

    fn served(bind: impl FnOnce(Arc<dyn Site>) -> Result<Server, CannotServe>) -> Result<Live, CannotServe> {
        let shared = Arc::new(Shared {
            began: Instant::now(),
            asked: AtomicU64::new(0),
            version: AtomicU64::new(0),
            title: Mutex::new("a running game".to_owned()),
            control: Mutex::default(),
            gathered: Mutex::default(),
            wants_log: AtomicBool::new(false),
            log: Mutex::default(),
            given: Condvar::new(),
        });
        let server = bind(Arc::clone(&shared) as Arc<dyn Site>)?;
        Ok(Live { shared, run: Run::new(), fingerprint: None, breaches: 0, server })
    }

    /// Where a browser finds the page, with its token.
    pub fn address(&self) -> &str {
        self.server.address()
    }

    /// What stands at the top of the page.
    pub fn title(&mut self, title: &str) {
        title.clone_into(&mut locked(&self.shared.title));
    }

    /// Calls a combatant so; without a name it is called after its template.
    pub fn name(&mut self, who: CombatantId, name: &str) {
        self.run.names.call(who, name);
    }

    /// Calls a hook so, among those that hear.
    pub fn name_hook(&mut self, hook: HookId, name: &str) {
        self.run.names.call_hook(hook, name);
    }

    /// Whether a page is open.
    pub fn is_watched(&self) -> bool {
        self.shared.is_watched()
    }

    /// Whether the game should not run its next tick, since someone looks. It goes on once the page says so, or is closed.
    pub fn held(&mut self) -> bool {
        let mut control = locked(&self.shared.control);
        if control.held && !self.shared.is_watched() {
            control.set(false, 0, None, None);
        }
        control.held && control.steps == 0
    }

    /// Holds the game from now on, if a page is open, and says there why.
    pub fn hold(&mut self, why: &str) {
        self.shared.hold(why.to_owned(), None);
    }

    /// Takes in a tick, after it ran. Where a game goes back and runs ticks again, the page begins anew with each time; show it those that are
    /// confirmed.
    pub fn observe(&mut self, fight: &Encounter) {
        let shared = &*self.shared;
        let fingerprint = fight.rules().fingerprint();
        if self.fingerprint.replace(fingerprint).is_some_and(|before| before != fingerprint) {
            // Another game: its combatants and rules are others.
            self.run = Run::new();
            *locked(&shared.gathered) = None;
        }
        let tick = self.run.observe(fight);
        if !shared.is_watched() {
            // What was gathered for a page that is gone would have a hole.
            if shared.version.swap(0, Ordering::AcqRel) > 0 {
                *locked(&shared.gathered) = None;
            }
            return;
        }
        let mut gathered = locked(&shared.gathered);
        // A fight that was taken back, or another one of the same rules, is told anew.
        if u64::from(tick.clock) <= shared.version.load(Ordering::Acquire) {
            *gathered = None;
        }
        let gathered = gathered.get_or_insert_with(|| Gathered {
            names: Names::new(),
            rules: fight.rules().clone(),
            seed: fight.seed(),
            current: Reporter::new(fight.rules()),
            next: None,
            ticks: 0,
        });
        let minute = SHOWN * fight.rules().rate();
        gathered.ticks += 1;
        gathered.current.observe(&tick);
        if let Some(next) = &mut gathered.next {
            next.observe(&tick);
        }
        if gathered.ticks == minute {
            gathered.next = Some(Reporter::new(fight.rules()));
        } else if gathered.ticks == 2 * minute {
            let next = gathered.next.replace(Reporter::new(fight.rules()));
            gathered.current = next.unwrap_or_else(|| Reporter::new(fight.rules()));
            gathered.ticks = minute;
        }
        gathered.names.clone_from(tick.names);
        shared.version.store(u64::from(tick.clock), Ordering::Release);
        let found = {
            let mut control = locked(&shared.control);
            control.steps = control.steps.saturating_sub(1);
            control.stops.found(&tick)
        };
        if let Some((fact, why)) = found {
            shared.hold(why, Some((tick.clock, fact)));
        }
    }

    /// Takes in what the game's own auditor found. The game stops at a new breach if the page asks for it.
    pub fn audit(&mut self, auditor: &Auditor) {
        let breaches = auditor.breaches();
        if breaches.len() <= self.breaches {
            self.breaches = breaches.len();
            return;
        }
        let new: Vec<String> = breaches.iter().skip(self.breaches).map(ToString::to_string).collect();
        self.breaches = breaches.len();
        let mut control = locked(&self.shared.control);
        let stops = control.stops.breaches;
        control.checks.extend(new.iter().map(|text| Checked { fine: false, text: text.clone(), at: None }));
        drop(control);
        if let Some(first) = new.into_iter().next().filter(|_| stops) {
            self.shared.hold(first, None);
        }
    }

    /// Gives the log of the game, such as that of a [`FlightRecorder`](hammerstone_record::FlightRecorder), where a page asks for it; else it
    /// is not made.
    pub fn log(&mut self, log: impl FnOnce() -> Vec<u8>) {
        if self.shared.wants_log.swap(false, Ordering::AcqRel) {
            *locked(&self.shared.log) = Some(log());
            self.shared.given.notify_all();
        }
    }
}

impl Shared {
    fn is_watched(&self) -> bool {
        let asked = self.asked.load(Ordering::Relaxed);
        asked > 0 && self.now().saturating_sub(asked) < OPEN.as_millis() as u64
    }

    fn now(&self) -> u64 {
        self.began.elapsed().as_millis() as u64 + 1
    }

    fn hold(&self, why: String, fact: Option<(u32, u64)>) {
        locked(&self.control).set(true, 0, Some(why), fact);
    }

    fn state(&self) -> Answer {
        let control = locked(&self.control);
        let Control { held, steps, stops, why, fact, .. } = &*control;
        let game = json!({ "held": *held && *steps == 0, "why": why, "fact": fact, "stops": stops });
        json_of(&json!({ "version": self.version.load(Ordering::Acquire), "game": game }))
    }

    /// What was gathered. The game waits only while it is copied.
    fn data(&self) -> Answer {
        let (reporter, names, rules, seed) = match &*locked(&self.gathered) {
            Some(Gathered { current, names, rules, seed, .. }) => {
                (current.clone(), names.clone(), rules.clone(), *seed)
            }
            None => return Answer::Nothing,
        };
        let (title, checks) = (locked(&self.title).clone(), locked(&self.control).checks.clone());
        let heading = Heading { title: &title, seed, checks: &checks };
        let mut data = Vec::new();
        match reporter.write_data(&mut data, &heading, &rules, &names) {
            Ok(()) => Answer::Json(data),
            Err(error) => Answer::Wrong(error.to_string()),
        }
    }

    fn control(&self, sent: &[u8]) -> Answer {
        let wanted: Wanted = match serde_json::from_slice(sent) {
            Ok(wanted) => wanted,
            Err(error) => return Answer::Wrong(error.to_string()),
        };
        let mut control = locked(&self.control);
        match wanted {
            Wanted::Hold => control.set(true, 0, Some("asked for".to_owned()), None),
            Wanted::GoOn => control.set(false, 0, None, None),
            Wanted::Step(ticks) => {
                control.set(true, ticks.clamp(1, MOST_STEPS), Some("stepped".to_owned()), None)
            }
            Wanted::Stops(stops) => control.stops = stops,
        }
        Answer::Nothing
    }

    fn log(&self) -> Answer {
        let mut log = locked(&self.log);
        *log = None;
        self.wants_log.store(true, Ordering::Release);
        let waited = self.given.wait_timeout_while(log, LOG, |log| log.is_none());
        match waited.unwrap_or_else(PoisonError::into_inner).0.take() {
            Some(log) => Answer::File("fight.log", log),
            None => {
                Answer::Wrong("the game gives no log; it does with `live.log(|| recorder.log())`".to_owned())
            }
        }
    }
}

/// What a page sends.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case")]
enum Wanted {
    Hold,
    GoOn,
    /// So many ticks, and then no further.
    Step(u32),
    Stops(Stops),
}

fn json_of(value: &serde_json::Value) -> Answer {
    Answer::Json(value.to_string().into_bytes())
}

impl Site for Shared {
    fn answer(&self, asked: Asked<'_>) -> Answer {
        self.asked.store(self.now(), Ordering::Relaxed);
        match (asked.path, asked.sent) {
            ("", None) => Answer::Page(page_shell(&locked(&self.title))),
            ("state", None) => self.state(),
            ("data", None) => self.data(),
            ("log", None) => self.log(),
            ("control", Some(sent)) => self.control(sent),
            _ => Answer::Missing,
        }
    }
}
