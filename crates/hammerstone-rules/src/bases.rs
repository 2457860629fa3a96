//! Entries that are based on others: what one does not say itself is as its base says it.

use std::collections::BTreeMap;

use toml::Spanned;
use toml::de::{DeTable, DeValue};

use crate::problem::Reading;

/// The sections whose entries may have a base.
const SECTIONS: [&str; 3] = ["attack", "status", "template"];

/// Gives each entry with `based-on` the fields of its base, and of that one's base, that it does not have. Fields are taken whole.
pub(crate) fn inherit(root: &mut DeTable<'_>, reading: &mut Reading<'_>) {
    for section in SECTIONS {
        let Some(DeValue::Table(entries)) = root.get_mut(section).map(Spanned::get_mut) else { continue };
        let mut bases: BTreeMap<String, Spanned<String>> = BTreeMap::new();
        for (name, entry) in entries.iter_mut() {
            let DeValue::Table(fields) = entry.get_mut() else { continue };
            let Some(base) = fields.remove("based-on") else { continue };
            match base.get_ref() {
                DeValue::String(text) => {
                    let base = Spanned::new(base.span(), text.to_string());
                    bases.insert(name.get_ref().to_string(), base);
                }
                _ => _ = reading.mistaken::<()>(&base, &format!("the name of another {section}")),
            }
        }
        if bases.is_empty() {
            continue;
        }
        let known: Vec<String> = entries.keys().map(|name| name.get_ref().to_string()).collect();
        let mut chains: Vec<(String, Vec<String>)> = Vec::new();
        for (name, base) in &bases {
            let found = reading.find(section, base, known.iter().map(|known| (known.as_str(), ())));
            if found.is_some()
                && let Some(chain) = chain_of(name, &bases, reading)
            {
                chains.push((name.clone(), chain));
            }
        }
        let before = entries.clone();
        for (name, chain) in chains {
            let Some(DeValue::Table(fields)) = entries.get_mut(name.as_str()).map(Spanned::get_mut) else {
                continue;
            };
            for base in chain {
                let Some(DeValue::Table(others)) = before.get(base.as_str()).map(Spanned::get_ref) else {
                    continue;
                };
                // Health of its own and a pool are two answers to one question.
                let answered = ["health", "pool"].iter().any(|key| fields.contains_key(*key));
                for (key, value) in others {
                    if answered && ["health", "pool"].contains(&key.get_ref().as_ref()) {
                        continue;
                    }
                    if !fields.contains_key(key.get_ref().as_ref()) {
                        fields.insert(key.clone(), value.clone());
                    }
                }
            }
        }
    }
}

/// The bases of an entry, the nearest first; none if they lead back to it.
fn chain_of(
    name: &str,
    bases: &BTreeMap<String, Spanned<String>>,
    reading: &mut Reading<'_>,
) -> Option<Vec<String>> {
    let mut chain = Vec::new();
    let mut at = name.to_owned();
    while let Some(base) = bases.get(&at) {
        let next = base.get_ref();
        if next == name || chain.contains(next) {
            // Each of a circle would say the same: the first in the order of the alphabet does.
            if chain.iter().all(|other: &String| other.as_str() >= name) {
                let span = bases.get(name).map_or(0..0, Spanned::span);
                let message = format!("`{name}` is based on itself, by way of others or directly");
                let fix = Some("take one `based-on` out of the circle".to_owned());
                reading.problem(span, "here", message, fix);
            }
            return None;
        }
        chain.push(next.clone());
        at = next.clone();
    }
    Some(chain)
}
