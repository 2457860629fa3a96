//! `live`: the page of a fight, served; it follows each save of its files, and says what each changed value did.

mod edits;
mod shown;
mod tune;

use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::Ordering;
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::Duration;

use hammerstone_live::Server;
use hammerstone_scenario::Scenario;
use hammerstone_view::Heading;
use miette::miette;
use notify::{RecommendedWatcher, RecursiveMode, Watcher};

use crate::args::{Asked, LiveOptions, With};
use crate::files::{self, Texts};
use crate::look::{Gathered, gather};
use crate::source::Fight;
use crate::{Failure, Outcome, output, progress};
use edits::{Edits, line_to_paste};
use shown::{Said, Shown, Tried};
use tune::Tuning;

/// How long files must be left alone before they are read: a save may be several writes.
const SETTLED: Duration = Duration::from_millis(40);
/// How often it is looked whether an end was asked for.
const LOOKS: Duration = Duration::from_millis(100);

/// What the loop is told.
enum News {
    /// A file was written, or may have been.
    Written,
    /// The page said something.
    Said(Said),
}

pub(crate) fn live(asked: &Asked, options: &LiveOptions) -> Result<Outcome, Failure> {
    if asked.file == Path::new("-") {
        return Err(miette!(help = "name the file", "standard input comes once, and does not change"));
    }
    if files::log(&asked.file)?.is_some() {
        let help = "`report` shows a log on the same page";
        return Err(miette!(help = help, "{} is a log, which does not change", asked.file.display()));
    }
    let first = Version::read(asked)?;
    let (send, news) = channel();
    let said = send.clone();
    let shown = Arc::new(Shown::new(move |one| drop(said.send(News::Said(one)))));
    let site: Arc<dyn hammerstone_live::Site> = Arc::clone(&shown) as _;
    let server = Server::bind(&format!("127.0.0.1:{}", options.port), site)
        .map_err(|error| miette!(help = "choose another with --port, or leave it out", "{error}"))?;
    let mut watcher = notify::recommended_watcher(move |event: notify::Result<notify::Event>| {
        // That something was only read is no news.
        if event.is_ok_and(|event| !event.kind.is_access()) {
            let _ = send.send(News::Written);
        }
    })
    .map_err(|error| miette!("files cannot be watched here: {error}"))?;
    let mut served = Served {
        asked,
        shown,
        tuning: Tuning::new(options.seeds),
        base: first.clone(),
        files: first,
        edits: Edits::default(),
    };
    served.watch(&mut watcher);
    served.show();
    output::written(writeln!(io::stdout(), "live at {}\nCtrl-C ends it", server.address()))?;
    served.follow(&news, &mut watcher);
    Ok(Outcome::Fine)
}

/// What is wrong in a sentence: of several problems the first.
fn first_problem(failure: &Failure) -> String {
    let first = failure.related().and_then(|mut all| all.next());
    first.map_or_else(|| failure.to_string(), ToString::to_string)
}

/// A fight as its files have it at a time.
#[derive(Clone)]
struct Version {
    texts: Arc<Texts>,
    scenario: Arc<Scenario>,
}

impl Version {
    fn read(asked: &Asked) -> Result<Version, Failure> {
        Version::of(Texts::of(Some(&asked.file), &asked.with)?)
    }

    fn of(texts: Texts) -> Result<Version, Failure> {
        let scenario = texts.read()?;
        Ok(Version { texts: Arc::new(texts), scenario: Arc::new(scenario) })
    }
}

struct Served<'a> {
    asked: &'a Asked,
    shown: Arc<Shown>,
    tuning: Tuning,
    /// What is held against.
    base: Version,
    /// As the files have it.
    files: Version,
    /// What is tried on top, in memory.
    edits: Edits,
}

impl Served<'_> {
    /// Watches the folders of all files that belong to it: editors often write another file in place of the one that they change.
    fn watch(&self, watcher: &mut RecommendedWatcher) {
        let mut folders: Vec<PathBuf> = Vec::new();
        for file in self.files.texts.files(&self.asked.with) {
            let folder = file.parent().filter(|folder| !folder.as_os_str().is_empty());
            let folder = folder.unwrap_or(Path::new(".")).to_owned();
            if !folders.contains(&folder) {
                // A folder that cannot be watched may be gone; the others still are.
                let _ = watcher.watch(&folder, RecursiveMode::NonRecursive);
                folders.push(folder);
            }
        }
    }

    /// Goes on until an end is asked for.
    fn follow(&mut self, news: &Receiver<News>, watcher: &mut RecommendedWatcher) {
        let stop = progress::stop();
        while !stop.load(Ordering::Relaxed) {
            match news.recv_timeout(LOOKS) {
                Ok(News::Written) => {
                    let mut later = Vec::new();
                    while let Ok(more) = news.recv_timeout(SETTLED) {
                        if let News::Said(said) = more {
                            later.push(said);
                        }
                    }
                    self.read_again(watcher);
                    later.into_iter().for_each(|said| self.take_in(said));
                }
                Ok(News::Said(said)) => self.take_in(said),
                Err(RecvTimeoutError::Timeout) => {}
                Err(RecvTimeoutError::Disconnected) => return,
            }
        }
        self.tuning.stop();
    }

    fn read_again(&mut self, watcher: &mut RecommendedWatcher) {
        match Version::read(self.asked) {
            Ok(now) if now.texts.same(&self.files.texts) && !self.shown.is_mistaken() => {}
            Ok(now) => {
                self.files = now;
                self.watch(watcher);
                self.show();
            }
            Err(failure) => self.shown.mistaken(output::rendered(failure.as_ref(), false)),
        }
    }

    fn take_in(&mut self, said: Said) {
        match said {
            Said::Try { path, value } => {
                let before = self.edits.clone();
                self.edits.set(&path, value);
                if let Err(failure) = self.tried() {
                    self.edits = before;
                    self.shown.refused(first_problem(&failure));
                    return;
                }
                self.show();
            }
            Said::Pin => match self.tried() {
                Ok(now) => {
                    self.base = now;
                    self.shown.pinned();
                    self.show();
                }
                Err(failure) => self.shown.refused(first_problem(&failure)),
            },
        }
    }

    /// The fight with what is tried.
    fn tried(&self) -> Result<Version, Failure> {
        if self.edits.is_empty() {
            return Ok(self.files.clone());
        }
        let mut texts = self.files.texts.copy();
        self.edits.apply(&mut texts)?;
        Version::of(texts)
    }

    /// Plays it, and shows what it came to; then it is counted what each change did.
    fn show(&mut self) {
        let now = match self.tried() {
            Ok(now) => now,
            // A value that was tried no longer fits the files.
            Err(failure) => return self.shown.mistaken(output::rendered(failure.as_ref(), false)),
        };
        let with = With { seed: self.asked.with.seed, ticks: self.asked.with.ticks, ..With::default() };
        let fight = Fight::of_scenario(Scenario::clone(&now.scenario), &with).telling_choices();
        let data = gather(&fight).and_then(|Gathered { reporter, names, checks }| {
            let heading = Heading { title: fight.title(), seed: fight.seed(), checks: &checks };
            let mut data = Vec::new();
            let written = reporter.write_data(&mut data, &heading, fight.rules(), &names);
            written.map_err(|error| miette!("{error}")).map(|()| data)
        });
        match data {
            Ok(data) => {
                let tried = self.edits.all().map(|(path, value)| {
                    let (line, place) = line_to_paste(&self.files.texts, path, value);
                    Tried { path: path.to_owned(), line, place }
                });
                self.shown.plays(data, tried.collect(), now.texts.value_paths());
                self.tuning.begin(&self.base, &now, &with, &self.shown);
            }
            Err(failure) => self.shown.mistaken(output::rendered(failure.as_ref(), false)),
        }
    }
}
