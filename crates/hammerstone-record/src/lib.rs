//! What a run leaves behind: the feed, in JSON Lines for programs and in lines for people, and a summary.
//!
//! Everything here reads facts and writes to any [`std::io::Write`]; nothing opens a file.
//!
//! ```
//! use hammerstone::prelude::*;
//! use hammerstone_record::{Feed, Format, Run};
//! let mut b = Ruleset::builder(60);
//! let masons = b.team("masons");
//! let mason = b.template(Template::new("mason", masons, 40));
//! let rules = b.build().unwrap();
//! let mut fight = Encounter::new(&rules, 7);
//! fight.orders().spawn(mason, Pose::IDENTITY);
//! let (mut run, mut feed) = (Run::new(), Feed::new(Vec::new(), Format::JsonLines));
//! fight.tick()?;
//! feed.write(&run.observe(&fight))?;
//! let text = String::from_utf8(feed.finish(&rules, &run.names)?).unwrap();
//! assert!(text.starts_with(r#"{"tick":1,"seq":0,"topic":"encounter.started"}"#));
//! assert!(text.contains(r#""subject":"mason","template":"mason","team":"masons""#));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

#![warn(clippy::print_stdout, clippy::print_stderr)]

/// The code on the page runs.
#[cfg(doctest)]
#[doc = include_str!("../../../docs/records.md")]
mod pages {}

mod blows;
mod feed;
mod listeners;
mod log;
mod names;
mod parts;
mod run;
mod scenes;
mod totals;

pub use blows::*;
pub use feed::*;
pub use listeners::*;
pub use log::*;
pub use names::Names;
pub use parts::*;
pub use run::{Record, Run, Tick};
pub use scenes::*;
pub use totals::*;
