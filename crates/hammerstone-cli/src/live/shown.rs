//! What the page is told, and what it says.

use std::fmt::Debug;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use hammerstone_live::{Answer, Asked, Site};
use hammerstone_record::PairedRow;
use hammerstone_view::page_shell;
use serde::{Deserialize, Serialize};

/// What the page says.
pub(super) enum Said {
    /// A value at a path is tried; without a value no longer.
    Try { path: String, value: Option<String> },
    /// What is shown now is what is held against from now on.
    Pin,
}

/// What the page shows, and how it says something.
pub(super) struct Shown {
    now: Mutex<Now>,
    say: Box<dyn Fn(Said) + Send + Sync>,
}

#[derive(Default, Serialize)]
struct Now {
    /// The number of the run; 0 before the first.
    version: u64,
    /// What is wrong with the files as they are: the run is then the last before.
    mistakes: Vec<String>,
    /// Why what the page wanted last was not done.
    refused: Option<String>,
    changes: Changes,
    #[serde(skip)]
    data: Arc<Vec<u8>>,
}

#[derive(Default, Serialize)]
struct Changes {
    rows: Vec<Row>,
    tried: Vec<Tried>,
    baseline: String,
    paths: Vec<String>,
}

/// A value that is tried, and the line that keeps it.
#[derive(Clone, Debug, Serialize)]
pub(super) struct Tried {
    pub(super) path: String,
    pub(super) line: String,
    pub(super) place: String,
}

/// What one change, or all of them, did.
#[derive(Clone, Debug, Default, Serialize)]
pub(super) struct Row {
    pub(super) label: String,
    /// All changes together.
    pub(super) whole: bool,
    /// What became otherwise with this seed.
    pub(super) here: String,
    pub(super) running: bool,
    /// Over how many seeds the shares are.
    pub(super) seeds: usize,
    /// How much more often it ends as it did before, or how much longer it takes.
    pub(super) share: Option<PairedRow>,
    /// Everything that was compared.
    pub(super) rows: Vec<PairedRow>,
    /// What all changes but this did, in words.
    pub(super) without: Option<String>,
    /// Without a change: how it ends over many seeds, in words.
    pub(super) ends: Option<String>,
}

impl Debug for Shown {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Shown").finish_non_exhaustive()
    }
}

impl Shown {
    pub(super) fn new(say: impl Fn(Said) + Send + Sync + 'static) -> Shown {
        let mut now = Now::default();
        now.changes.baseline = "baseline: the files as this began".to_owned();
        Shown { now: Mutex::new(now), say: Box::new(say) }
    }

    fn now(&self) -> MutexGuard<'_, Now> {
        self.now.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Another run is shown; what its changes did is not known yet.
    pub(super) fn plays(&self, data: Vec<u8>, tried: Vec<Tried>, paths: Vec<String>) {
        let mut now = self.now();
        now.version += 1;
        now.mistakes.clear();
        now.refused = None;
        now.data = Arc::new(data);
        (now.changes.tried, now.changes.paths) = (tried, paths);
    }

    /// The files cannot be used as they are.
    pub(super) fn mistaken(&self, report: String) {
        self.now().mistakes = vec![report];
    }

    pub(super) fn is_mistaken(&self) -> bool {
        !self.now().mistakes.is_empty()
    }

    /// What the page wanted to try cannot be tried.
    pub(super) fn refused(&self, why: String) {
        self.now().refused = Some(format!("not tried: {why}"));
    }

    pub(super) fn pinned(&self) {
        self.now().changes.baseline = "baseline: as it was pinned".to_owned();
    }

    /// What changes did, as far as it is known.
    pub(super) fn rows(&self, rows: Vec<Row>) {
        self.now().changes.rows = rows;
    }
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Tries {
    path: String,
    value: Option<String>,
}

impl Site for Shown {
    fn answer(&self, asked: Asked<'_>) -> Answer {
        match (asked.path, asked.sent) {
            ("", None) => Answer::Page(page_shell("A fight, live")),
            ("state", None) => match serde_json::to_vec(&*self.now()) {
                Ok(state) => Answer::Json(state),
                Err(error) => Answer::Wrong(error.to_string()),
            },
            ("data", None) => {
                let (data, version) = {
                    let now = self.now();
                    (Arc::clone(&now.data), now.version)
                };
                if version == 0 { Answer::Nothing } else { Answer::Json(data.to_vec()) }
            }
            ("try", Some(sent)) => match serde_json::from_slice::<Tries>(sent) {
                Ok(Tries { path, value }) if !path.is_empty() && value.as_deref() != Some("") => {
                    (self.say)(Said::Try { path, value });
                    Answer::Nothing
                }
                Ok(_) => Answer::Wrong("write a path, `=` and a value".to_owned()),
                Err(error) => Answer::Wrong(error.to_string()),
            },
            ("pin", Some(_)) => {
                (self.say)(Said::Pin);
                Answer::Nothing
            }
            _ => Answer::Missing,
        }
    }
}
