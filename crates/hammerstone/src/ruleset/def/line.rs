//! Lines that are said.

use crate::Fixed;
use crate::ids::*;
use crate::terms::Spoken;

/// To whom a line is said. The game shows it to them, or has them hear it.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Audience {
    /// To all.
    #[default]
    All,
    /// To a team.
    Team(TeamId),
    /// To the first combatant that it is about: for a rule the subject of the fact.
    Subject,
    /// To the second: for a rule the other party of the fact.
    Other,
}

/// A line that is said.
///
/// In its text stand blanks in braces: `{subject}` and `{other}` for the names of the two combatants that it is about, any other for a
/// number, in the order in which they are given; at most four.
#[doc(alias("dialogue", "bark", "subtitle"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Line {
    pub(crate) text: String,
    pub(crate) lasts: Option<u32>,
    pub(crate) category: Option<WordId>,
    pub(crate) audience: Audience,
}

/// A piece of a line's text.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Piece<'a> {
    Text(&'a str),
    Blank(&'a str),
    /// A brace without its like.
    Stray,
}

impl From<&str> for Line {
    fn from(text: &str) -> Line {
        Line::new(text)
    }
}

impl Line {
    /// So many numbers a line may have.
    pub(crate) const MOST_NUMBERS: usize = 4;

    /// A line that is said to all.
    pub fn new(text: &str) -> Line {
        Line { text: text.to_owned(), lasts: None, category: None, audience: Audience::All }
    }

    /// The game shows it for so many ticks.
    pub fn lasts(mut self, ticks: u32) -> Line {
        self.lasts = Some(ticks);
        self
    }

    /// A sort of lines of the game's own, such as a warning: a word of the ruleset.
    pub fn category(mut self, word: WordId) -> Line {
        self.category = Some(word);
        self
    }

    /// To whom it is said.
    pub fn to(mut self, audience: Audience) -> Line {
        self.audience = audience;
        self
    }

    /// The text as it is written.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// How long the game shows it, in ticks.
    pub fn duration(&self) -> Option<u32> {
        self.lasts
    }

    /// Its category, a word of the ruleset.
    pub fn category_of(&self) -> Option<WordId> {
        self.category
    }

    /// To whom it is said.
    pub fn audience(&self) -> Audience {
        self.audience
    }

    /// The names of the blanks that stand for numbers, in their order.
    pub fn numbers(&self) -> impl Iterator<Item = &str> {
        self.pieces().filter_map(|piece| match piece {
            Piece::Blank(name) if !matches!(name, "subject" | "other") => Some(name),
            _ => None,
        })
    }

    /// Whether it names the first or the second combatant.
    pub(crate) fn names(&self, party: &str) -> bool {
        self.pieces().any(|piece| piece == Piece::Blank(party))
    }

    /// Whether each brace has its like.
    pub(crate) fn is_whole(&self) -> bool {
        self.pieces().all(|piece| piece != Piece::Stray)
    }

    /// The text with its blanks filled in, numbers without zeros at their end. A blank without a combatant reads *no one*.
    pub fn filled(&self, spoken: &Spoken, mut name: impl FnMut(CombatantId) -> String) -> String {
        let mut values = spoken.values.iter();
        let mut who = |party: Option<CombatantId>| party.map_or("no one".to_owned(), &mut name);
        let mut text = String::new();
        for piece in self.pieces() {
            match piece {
                Piece::Text(piece) => text.push_str(piece),
                Piece::Blank("subject") => text.push_str(&who(spoken.parties[0])),
                Piece::Blank("other") => text.push_str(&who(spoken.parties[1])),
                Piece::Blank(_) => {
                    let value = values.next().copied().unwrap_or(Fixed::ZERO);
                    let exact = value.to_string();
                    text.push_str(exact.trim_end_matches('0').trim_end_matches('.'));
                }
                Piece::Stray => {}
            }
        }
        text
    }

    fn pieces(&self) -> impl Iterator<Item = Piece<'_>> {
        let mut left = self.text.as_str();
        std::iter::from_fn(move || {
            let piece;
            (piece, left) = match left.find(['{', '}'])? {
                0 if left.starts_with('{') => match left[1..].split_once('}') {
                    Some((name, rest)) if !name.is_empty() && !name.contains('{') => {
                        (Piece::Blank(name), rest)
                    }
                    _ => (Piece::Stray, &left[1..]),
                },
                0 => (Piece::Stray, &left[1..]),
                brace => (Piece::Text(&left[..brace]), &left[brace..]),
            };
            Some(piece)
        })
        .chain(self.text.rsplit(['{', '}']).next().filter(|rest| !rest.is_empty()).map(Piece::Text))
    }
}
