//! Plain data whose copies keep their memory, and how much that is.

#[cfg(feature = "serde")]
use crate::wire::{Damaged, SectionReader, SectionWriter, Table};

/// How much memory something fills, and how it is written.
pub(crate) trait Fills {
    fn bytes(&self) -> usize;

    /// Writes it as a section; a struct of columns, each of them.
    #[cfg(feature = "serde")]
    fn put<M: Table>(&self, name: &str, out: &mut SectionWriter<'_, M>)
    where
        Self: serde::Serialize + Sized,
    {
        out.section(name, self);
    }

    /// Reads what [`put`](Self::put) wrote.
    #[cfg(feature = "serde")]
    fn take(name: &str, from: &mut SectionReader<'_>) -> Result<Self, Damaged>
    where
        Self: serde::de::DeserializeOwned,
    {
        from.section(name)
    }

    /// What [`put`](Self::put) writes, section by section: for the document of the layout.
    #[cfg(all(test, feature = "serde"))]
    fn lay_out(name: &str, sheet: &mut crate::wire::LayoutSheet)
    where
        Self: serde::de::DeserializeOwned,
    {
        sheet.section::<Self>(name);
    }
}

impl<T> Fills for Vec<T> {
    fn bytes(&self) -> usize {
        size_of_val(self.as_slice())
    }
}

macro_rules! fills_its_size {
    ($($type:ty),*) => {
        $(impl $crate::columns::Fills for $type {
            fn bytes(&self) -> usize {
                size_of::<$type>()
            }
        })*
    };
}

fills_its_size!(u32, u64, bool);

/// A struct whose `clone_from` keeps the memory of every field: saving into an existing copy is plain copying.
macro_rules! columns {
    (
        $(#[$doc:meta])*
        pub(crate) struct $name:ident { $($(#[$field_doc:meta])* pub(crate) $field:ident: $type:ty,)* }
    ) => {
        $(#[$doc])*
        #[derive(PartialEq, Eq, Hash, Debug, Default)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub(crate) struct $name { $($(#[$field_doc])* pub(crate) $field: $type,)* }

        impl Clone for $name {
            fn clone(&self) -> Self {
                $name { $($field: self.$field.clone(),)* }
            }

            fn clone_from(&mut self, from: &Self) {
                $(self.$field.clone_from(&from.$field);)*
            }
        }

        impl $crate::columns::Fills for $name {
            fn bytes(&self) -> usize {
                0 $(+ $crate::columns::Fills::bytes(&self.$field))*
            }

            #[cfg(feature = "serde")]
            fn put<M: $crate::wire::Table>(&self, name: &str, out: &mut $crate::wire::SectionWriter<'_, M>) {
                out.within(name, |out| {
                    $($crate::columns::Fills::put(&self.$field, stringify!($field), out);)*
                });
            }

            #[cfg(feature = "serde")]
            fn take(
                name: &str,
                from: &mut $crate::wire::SectionReader<'_>,
            ) -> Result<Self, $crate::wire::Damaged> {
                from.within(name, |from| {
                    Ok($name { $($field: $crate::columns::Fills::take(stringify!($field), from)?,)* })
                })
            }

            #[cfg(all(test, feature = "serde"))]
            fn lay_out(name: &str, sheet: &mut $crate::wire::LayoutSheet) {
                sheet.within(name, |sheet| {
                    $(<$type as $crate::columns::Fills>::lay_out(stringify!($field), sheet);)*
                });
            }
        }
    };
}
pub(crate) use {columns, fills_its_size};
