//! Whatever is hardly meant in one fight.

use super::{Doubt, Pool, doubt, places_of};
use crate::fight::Scenario;
use hammerstone_rules::excerpt::Excerpt;

impl Scenario {
    /// What is hardly meant in the ruleset, and in the scenario under it: every sort of [`FINDINGS`](crate::FINDINGS), as if no other
    /// fight used the ruleset. [`Pool`] looks through several fights of one.
    pub fn check(&self) -> Vec<Doubt> {
        Pool::of(&self.rules, [self]).check().found
    }

    /// Combatants that follow each other in a circle, one doubt for each.
    pub(super) fn circles(&self) -> Vec<Doubt> {
        let mut doubts = Vec::new();
        let mut known = vec![false; self.placed.len()];
        for start in 0..self.placed.len() {
            let mut way = Vec::new();
            let mut at = Some(start);
            while let Some(place) = at.filter(|&place| !std::mem::replace(&mut known[place], true)) {
                way.push(place);
                at = self.placed[place].follows;
            }
            let Some(first) = at.and_then(|back| way.iter().position(|&place| place == back)) else {
                continue;
            };
            let names: Vec<String> =
                way[first..].iter().map(|&place| format!("`{}`", self.placed[place].name)).collect();
            let message = format!("{} follow each other in a circle", names.join(", "));
            let name = self.placed[way[first]].name.as_str();
            let own = name.split('#').next().unwrap_or(name);
            let places = places_of(&self.text);
            let key = |name: &str| places.get(&vec!["combatant".to_owned(), name.to_owned()]).cloned();
            let span = key(name).or_else(|| key(own)).unwrap_or(0..0);
            let fix = "take `follows` out of one of them";
            doubts.push(doubt(18, &Excerpt::new(&self.file, self.text.as_str()), span, message, fix));
        }
        doubts
    }
}
