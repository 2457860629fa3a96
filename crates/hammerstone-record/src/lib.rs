//! What a run leaves behind: the feed, in JSON Lines for programs and in lines for people, and a summary.
//!
//! Everything here reads facts and writes to any [`std::io::Write`]; nothing opens a file.
//!
//! ```
//! use hammerstone::*;
//! use hammerstone_record::{Feed, Format, Names};
//! let mut b = Ruleset::builder(60);
//! let masons = b.team("masons");
//! let mason = b.cast(Cast::new("mason", masons, 40));
//! let rules = b.build().unwrap();
//! let mut fight = Encounter::new(&rules, 7);
//! fight.orders().spawn(mason, Pose::IDENTITY);
//! let (mut names, mut feed) = (Names::new(), Feed::new(Vec::new(), Format::JsonLines));
//! fight.tick()?;
//! names.learn(&rules, &fight.facts());
//! feed.write(&rules, &names, &fight.facts())?;
//! let text = String::from_utf8(feed.finish(&rules, &names)?).unwrap();
//! assert!(text.starts_with(r#"{"tick":1,"seq":0,"topic":"encounter.started"}"#));
//! assert!(text.contains(r#""subject":"mason","cast":"mason","team":"masons""#));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

#![warn(clippy::print_stdout, clippy::print_stderr)]

mod account;
mod compare;
mod feed;
mod fields;
mod frames;
mod gates;
mod hearings;
mod lanes;
mod line;
mod names;
mod reel;
mod summary;
mod survey;
mod tale;
mod tally;
mod text;
mod tries;
mod verdict;
mod wiring;
mod words;

pub use account::{Account, Accounts, Amount, Contact, Heard, Row};
pub use compare::{Comparison, Deed, Deeds, Difference, Total};
pub use feed::{Feed, Format};
pub use fields::fields_of;
pub use frames::{Came, Figure, Frame, Touched, Volume};
pub use gates::Passed;
pub use hearings::{Hearing, Hearings};
pub use lanes::{Bore, Lane, Lanes, Mark, Moment, Sort, Swung};
pub use line::Line;
pub use names::Names;
pub use reel::{Reel, ReelFrame, Solid};
pub use summary::Summary;
pub use survey::{FighterPoint, FighterRan, Point, Ran, Running, Spread, TeamPoint, TeamRan};
pub use tale::{Tale, Told, told};
pub use tally::{Dealt, Fall, Tally};
pub use tries::{Answer, Near, Tries, Try};
pub use wiring::{Diagram, Ear, Loop, Wired, Wiring, loops, never_fired, status_loops};
