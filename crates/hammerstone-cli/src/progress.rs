//! How far something is that takes longer than a second, on a terminal; and an end that is asked for.

use std::io::{self, IsTerminal};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::{Duration, Instant};

use indicatif::{ProgressBar, ProgressStyle};

use crate::output;

/// How long something takes before it is said how far it is.
const PATIENCE: Duration = Duration::from_secs(1);
/// Between how many ticks the clock is looked at.
const BETWEEN: u64 = 64;

/// Whether something else has the terminal.
static HIDDEN: AtomicBool = AtomicBool::new(false);

/// From now on nothing is shown: something else has the terminal.
pub(crate) fn hide() {
    HIDDEN.store(true, Ordering::Relaxed);
}

/// How far a fight is.
#[derive(Clone)]
pub(crate) struct Progress {
    began: Instant,
    done: u64,
    all: u64,
    bar: Option<ProgressBar>,
}

impl Progress {
    /// Of so many ticks.
    pub(crate) fn of(all: u64) -> Progress {
        Progress { began: Instant::now(), done: 0, all, bar: None }
    }

    pub(crate) fn tick(&mut self) {
        self.done += 1;
        if !self.done.is_multiple_of(BETWEEN) {
            return;
        }
        if self.bar.is_none() && self.began.elapsed() >= PATIENCE {
            self.bar = Some(bar(self.all, "ticks"));
        }
        if let Some(bar) = &self.bar {
            bar.set_position(self.done);
        }
    }
}

impl Drop for Progress {
    fn drop(&mut self) {
        if let Some(bar) = &self.bar {
            bar.finish_and_clear();
        }
    }
}

/// A bar with the time that is left; hidden where no one would see it, or where it is not wanted.
pub(crate) fn bar(all: u64, of: &str) -> ProgressBar {
    if !io::stderr().is_terminal() || output::is_quiet() || HIDDEN.load(Ordering::Relaxed) {
        return ProgressBar::hidden();
    }
    let bar = ProgressBar::new(all);
    if let Ok(style) =
        ProgressStyle::with_template(&format!("{{bar:40}} {{pos}} of {{len}} {of}, {{eta}} left"))
    {
        bar.set_style(style);
    }
    bar
}

/// Whether an end was asked for, by Ctrl-C: what is done until then is kept. Where no handler can be set, it ends at once.
pub(crate) fn stop() -> Arc<AtomicBool> {
    let stop = Arc::new(AtomicBool::new(false));
    let asked = Arc::clone(&stop);
    let _ = ctrlc::set_handler(move || asked.store(true, Ordering::Relaxed));
    stop
}

/// How far a survey is: a bar on a terminal, and lines in a log where one is kept, seldom enough for one.
pub(crate) struct Told {
    bar: ProgressBar,
    log: Option<LogLines>,
}

/// Lines after 2, 4, 8 … seconds, and then once a minute.
struct LogLines {
    began: Instant,
    all: u64,
    of: &'static str,
    done: AtomicU64,
    /// When the next is due, in seconds after the begin.
    due: AtomicU64,
}

impl Told {
    /// Of so many; with lines on standard error if that is no terminal and they are wanted.
    pub(crate) fn of(all: u64, of: &'static str, lines: bool) -> Told {
        let log = lines && !io::stderr().is_terminal() && !output::is_quiet();
        let log = log.then(|| LogLines {
            began: Instant::now(),
            all,
            of,
            done: AtomicU64::new(0),
            due: AtomicU64::new(2),
        });
        Told { bar: bar(all, of), log }
    }

    pub(crate) fn done(&self, more: u64) {
        self.bar.inc(more);
        if let Some(log) = &self.log {
            log.done(more);
        }
    }

    pub(crate) fn end(&self) {
        self.bar.finish_and_clear();
    }
}

impl LogLines {
    fn done(&self, more: u64) {
        let done = self.done.fetch_add(more, Ordering::Relaxed) + more;
        let (passed, due) = (self.began.elapsed().as_secs_f64(), self.due.load(Ordering::Relaxed));
        if passed < due as f64 {
            return;
        }
        let next = due + due.min(60);
        // One of all threads tells it.
        if self.due.compare_exchange(due, next, Ordering::Relaxed, Ordering::Relaxed).is_ok() {
            let rate = done as f64 / passed;
            let left = Duration::from_secs_f64(self.all.saturating_sub(done) as f64 / rate);
            output::say(&format!(
                "{done} of {} {}, {rate:.0} a second, {} left",
                self.all,
                self.of,
                output::duration(left)
            ));
        }
    }
}
