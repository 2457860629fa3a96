//! Which fields a line of the feed may have.

use hammerstone::event::TOPICS;

/// The fields that lines of `topic` may have; for a family, those of any of its topics. Empty for what is neither.
pub fn fields_of(topic: &str) -> Vec<&'static str> {
    let below = |path: &str, stem: &str| {
        path == stem || path.strip_prefix(stem).is_some_and(|rest| rest.starts_with('.'))
    };
    let mut fields = Vec::new();
    for info in TOPICS.iter().filter(|info| below(info.path, topic) || below(topic, info.path)) {
        for key in info.keys() {
            if !fields.contains(&key) {
                fields.push(key);
            }
        }
    }
    fields
}
