//! Plain data whose copies keep their memory, and how much that is.

/// How much memory something fills.
pub(crate) trait Fills {
    fn bytes(&self) -> usize;
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
        }
    };
}
pub(crate) use {columns, fills_its_size};
