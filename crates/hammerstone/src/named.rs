//! Closed lists of words: an enum, all of its variants, and their names in files and feeds, declared at once.

/// Declares an enum whose variants have names. It is `Copy`, in the order of its variants, and has `ALL` and `name`.
macro_rules! named {
    ($(#[$meta:meta])* pub enum $name:ident {
        $($(#[$doc:meta])* $variant:ident = $word:literal),* $(,)?
    }) => {
        $(#[$meta])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub enum $name {
            $($(#[$doc])* $variant,)*
        }

        impl $name {
            /// All of them, in order.
            pub const ALL: [$name; [$($word),*].len()] = [$($name::$variant),*];

            /// Their names, in order.
            pub const NAMES: [&'static str; [$($word),*].len()] = [$($word),*];

            /// Its name in files and in the feed.
            pub const fn name(self) -> &'static str {
                Self::NAMES[self as usize]
            }
        }
    };
}

pub(crate) use named;
