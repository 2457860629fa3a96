//! What a run leaves behind: the feed, in JSON Lines for programs and in lines for people, and a summary.
//!
//! Everything here reads facts and writes to any [`std::io::Write`]; nothing opens a file.
//!
//! ```
//! use hammerstone::*;
//! use hammerstone_record::{Feed, Format, Names};
//! let mut b = Ruleset::builder(60);
//! let masons = b.team("masons");
//! let mason = b.template(Template::new("mason", masons, 40));
//! let rules = b.build().unwrap();
//! let mut fight = Encounter::new(&rules, 7);
//! fight.orders().spawn(mason, Pose::IDENTITY);
//! let (mut names, mut feed) = (Names::new(), Feed::new(Vec::new(), Format::JsonLines));
//! fight.tick()?;
//! names.learn(&rules, &fight.facts());
//! feed.write(&rules, &names, &fight.facts())?;
//! let text = String::from_utf8(feed.finish(&rules, &names)?).unwrap();
//! assert!(text.starts_with(r#"{"tick":1,"seq":0,"topic":"encounter.started"}"#));
//! assert!(text.contains(r#""subject":"mason","template":"mason","team":"masons""#));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

#![warn(clippy::print_stdout, clippy::print_stderr)]

mod account;
mod compare;
mod feed;
mod fields;
mod frames;
mod gates;
mod lanes;
mod line;
mod names;
mod playback;
mod rule_trace;
mod sentence;
mod summary;
mod survey;
mod swing_results;
mod tally;
mod text;
mod topics;
mod transcript;
mod verdict;
mod wiring;
mod words;

pub use account::{Account, Accounts, Amount, Contact, Heard, Row};
pub use compare::{Comparison, Difference, Digest, DigestEntry, Total};
pub use feed::{Feed, Format};
pub use fields::fields_of;
pub use frames::{Came, Figure, Frame, Hitbox, Touched};
pub use gates::Passed;
pub use lanes::{Bore, Lane, Lanes, Moment, Sort, Swung, TimelineMark};
pub use line::Line;
pub use names::Names;
pub use playback::{Playback, PlaybackFrame, Solid};
pub use rule_trace::{Hearing, RuleTrace};
pub use summary::Summary;
pub use survey::{FighterPoint, FighterRan, Point, Ran, Running, Spread, TeamPoint, TeamRan};
pub use swing_results::{Answer, Near, SwingResult, SwingResults};
pub use tally::{Dealt, Fall, Tally};
pub use topics::{FieldRow, TopicRow, handler, topics, topics_as_markdown};
pub use transcript::{Told, Transcript, told};
pub use wiring::{Diagram, Ear, Loop, Wired, Wiring, loops, never_fired, status_loops};
