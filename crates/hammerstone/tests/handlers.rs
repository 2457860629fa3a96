//! What `hammerstone wiring --handler TOPIC` prints, for every topic: it compiles, and its subscriptions are accepted.

#![allow(unused_variables, missing_docs, reason = "these hooks are to be filled")]

include!("handlers/written.rs");
