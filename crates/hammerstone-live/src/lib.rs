//! The page of a running game: where everyone stands, what happened in the last minute, each blow taken apart, and who hears what. It stops the
//! game where one wants to look, and goes on tick by tick.
//!
//! ```
//! use hammerstone::prelude::*;
//! use hammerstone_live::Live;
//! # let mut b = Ruleset::builder(60);
//! # let masons = b.team("masons");
//! # let mason = b.template(Template::new("mason", masons, 40));
//! # let rules = b.build().unwrap();
//! # let mut fight = Encounter::new(&rules, 7);
//! # fight.orders().spawn(mason, Pose::IDENTITY);
//! let mut live = Live::bind("127.0.0.1:0")?;
//! println!("see {}", live.address());
//! for _ in 0..60 {
//!     // In a frame of the game: draw, read keys, and so on; and unless someone wants to look,
//!     if !live.held() {
//!         fight.tick()?;
//!         live.observe(&fight);
//!     }
//! }
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! With no page open it costs next to nothing: nothing is gathered until a page asks, and the last minute begins then. The encounter is only
//! looked at; what it does, and every byte of it, is the same. Amounts come with their ledgers if the encounter
//! [keeps](hammerstone::Encounter::keep_ledgers) them, listeners and gates likewise.
//!
//! The page is served on the loopback address, behind a random token in the address; the `Host` and `Origin` of each request are checked.
//! What a page sends stops the game and lets it go on, and reaches nothing else.

#![warn(clippy::print_stdout, clippy::print_stderr)]

mod live;
mod server;
mod stops;

pub use live::Live;
pub use server::{Answer, Asked, CannotServe, Server, Site};
