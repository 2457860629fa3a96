//! Pictures of what a run leaves behind: pure functions from a record to SVG, PNG from that, a page, and the cells of a terminal.
//!
//! Nothing here reads files or clocks; the font is part of the crate, so that a picture looks the same everywhere.
//!
//! ```
//! use hammerstone::prelude::*;
//! use hammerstone_record::{Frame, Lanes, Run};
//! use hammerstone_view::{Heading, Look, Reporter, frame, png, timeline};
//! let mut b = Ruleset::builder(60);
//! let masons = b.team("masons");
//! let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
//! let mason = b.template(Template::new("mason", masons, 40).part(trunk));
//! let rules = b.build().unwrap();
//! let mut fight = Encounter::new(&rules, 7);
//! fight.orders().spawn(mason, Pose::IDENTITY);
//! let (mut run, mut lanes, mut report) = (Run::new(), Lanes::new(), Reporter::new(&rules));
//! for _ in 0..60 {
//!     fight.tick()?;
//!     run.observe(&fight).show(&mut [&mut lanes, &mut report]);
//! }
//! let moment = frame(&Frame::of(&run.tick(&fight)), "A quiet night", &Look::LIGHT);
//! assert!(moment.contains(">\nmason\n</text>"));
//! let picture: Vec<u8> = png(&timeline(&lanes, "A quiet night", rules.rate(), &Look::DARK), 1.0)?;
//! assert_eq!(&picture[1..4], b"PNG");
//! let mut page = Vec::new();
//! report.write(&mut page, &Heading { title: "A quiet night", seed: 7, checks: &[] }, &rules, &run.names)?;
//! assert!(page.starts_with(b"<!DOCTYPE html>"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

#![warn(clippy::print_stdout, clippy::print_stderr)]

mod column;
mod frame;
mod labels;
mod look;
mod outline;
mod page;
mod panel;
mod png;
mod report;
mod skeleton;
mod survey;
mod terminal;
mod timeline;
mod wiring;

pub use frame::{frame, strip};
pub use look::Look;
pub use png::{NoPicture, png};
pub use report::{Checked, Heading, Reporter, page_shell};
pub use skeleton::skeleton;
pub use survey::survey;
pub use terminal::{Screen, screen};
pub use timeline::timeline;
pub use wiring::wiring;
