//! Saves and facts as JSON. The code for it is long and made for each type anew: here it is built once, and not again in every test.

use hammerstone::Saved;
use hammerstone::audit::AnySeal;
use hammerstone::event::{Event, TickFacts};
use serde_json::{Error, Value};

/// A save as a document.
pub fn save_value(saved: &Saved) -> Value {
    serde_json::to_value(saved).unwrap()
}

/// A save as a text.
pub fn save_text(saved: &Saved) -> String {
    serde_json::to_string(saved).unwrap()
}

/// A save from a document.
pub fn read_save(value: Value) -> Result<Saved, Error> {
    serde_json::from_value(value)
}

/// A save from a text.
pub fn read_save_text(text: &str) -> Result<Saved, Error> {
    serde_json::from_str(text)
}

/// A save from a document, whether or not its seal fits.
pub fn read_unsealed(value: Value) -> Result<Saved, Error> {
    serde_json::from_value(value).map(|AnySeal(saved)| saved)
}

/// The facts of a tick, to a text and back.
pub fn facts_and_back(facts: &TickFacts) -> TickFacts {
    serde_json::from_str(&serde_json::to_string(facts).unwrap()).unwrap()
}

/// An event from a document.
pub fn read_event(value: Value) -> Result<Event, Error> {
    serde_json::from_value(value)
}
