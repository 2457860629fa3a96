//! Which part of a fight is shown: names and topics with `*` for anything.

use hammerstone::event::Fact;
use hammerstone_record::Tick;
use miette::miette;

use crate::args::Part;
use crate::{Failure, files};

/// Whether a name is one that was asked for; `*` stands for anything.
pub(crate) fn fits(wanted: &str, name: &str) -> bool {
    let (mut pieces, mut rest) = (wanted.split('*'), name);
    let Some(first) = pieces.next().and_then(|first| rest.strip_prefix(first)) else { return false };
    rest = first;
    let pieces: Vec<&str> = pieces.collect();
    let Some((last, inner)) = pieces.split_last() else { return rest.is_empty() };
    for piece in inner {
        let Some(at) = rest.find(piece) else { return false };
        rest = &rest[at + piece.len()..];
    }
    rest.ends_with(last)
}

/// Says so if a name that was asked for is no one's.
pub(crate) fn must_be_there(wanted: &[String], names: &[&str]) -> Result<(), Failure> {
    match wanted.iter().find(|wanted| !names.iter().any(|name| fits(wanted, name))) {
        Some(unknown) => Err(files::unknown(unknown, names.iter().copied())),
        None => Ok(()),
    }
}

impl Part {
    /// Whether all is shown.
    pub(crate) fn is_all(&self) -> bool {
        self.between.is_none() && self.only.is_empty() && self.topics.is_empty()
    }

    /// Whether a fact of the tick is shown.
    pub(crate) fn shows(&self, tick: &Tick<'_>, fact: &Fact) -> bool {
        let time = tick.begins();
        if self.between.is_some_and(|(from, to)| time < from || time > to) {
            return false;
        }
        let path = || tick.rules.topics().path(fact.event.topic()).unwrap_or_default();
        if !self.topics.is_empty() && !self.topics.iter().any(|wanted| fits(wanted, path())) {
            return false;
        }
        let parties = [fact.event.subject(), fact.event.other()];
        let is_asked = |name: &str| self.only.iter().any(|wanted| fits(wanted, name));
        self.only.is_empty() || parties.into_iter().flatten().any(|who| is_asked(tick.names.of(who)))
    }

    /// Says so if a topic that was asked for is none.
    pub(crate) fn must_be_topics(&self, rules: &hammerstone::Ruleset) -> Result<(), Failure> {
        let paths = rules.topics().paths();
        match self.topics.iter().find(|wanted| !paths.iter().any(|path| fits(wanted, path))) {
            None => Ok(()),
            Some(unknown) => {
                let nearest = files::nearest(unknown, paths.iter().map(String::as_str));
                let help = match nearest {
                    Some(nearest) => format!("did you mean `{nearest}`?"),
                    None => "`wiring --topics` lists them; `combatant.*` stands for a family".to_owned(),
                };
                Err(miette!(help = help, "no topic fits `{unknown}`"))
            }
        }
    }
}
