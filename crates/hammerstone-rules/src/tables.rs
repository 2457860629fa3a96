//! How the forms of tables are declared.

/// Declares forms of tables: structs whose fields have the struct's visibility and are read from those of the same names, with hyphens.
/// What stands above a field as documentation is told of it in the page of all fields. `field as "name"` reads another name; `= required` and `= or_default` say whether a field may be left out, where its type says otherwise.
#[doc(hidden)]
#[macro_export]
macro_rules! tables {
    ($(
        $(#[$attribute:meta])*
        $vis:vis struct $form:ident {
            $($(#[doc = $about:literal])* $field:ident $(as $name:literal)? : $type:ty $(= $how:ident)?),* $(,)?
        }
    )*) => {$(
        $(#[$attribute])*
        #[derive(Debug)]
        $vis struct $form {
            $($(#[doc = $about])* $vis $field: $type),*
        }

        impl $crate::read::Read for $form {
            fn read(value: &$crate::read::Node<'_>, reading: &mut $crate::problem::Reading<'_>) -> Option<Self> {
                const NAMES: &[&str] = &[$($crate::tables!(@name $field $($name)?)),*];
                let fields = $crate::read::Fields::of(value, NAMES, reading)?;
                let mut number = 0..;
                $(let $field = $crate::tables!(@read fields, number.next()?, reading $(, $how)?);)*
                Some($form { $($field: $field?),* })
            }
        }

        impl $crate::read::Form for $form {
            const NAME: &'static str = stringify!($form);

            fn fields() -> Vec<$crate::read::Field> {
                vec![$($crate::read::Field {
                    name: $crate::tables!(@name $field $($name)?),
                    written: stringify!($type),
                    text: concat!($($about),*).trim(),
                    required: $crate::tables!(@required $type $(, $how)?),
                }),*]
            }
        }
    )*};
    (@required $type:ty) => { <$type as $crate::read::Read>::absent().is_none() };
    (@required $type:ty, required) => { true };
    (@required $type:ty, or_default) => { false };
    (@name $field:ident $name:literal) => { $name };
    (@name $field:ident) => {{
        const FIELD: &str = stringify!($field);
        const NAME: [u8; FIELD.len()] = $crate::read::hyphenated(FIELD);
        match ::std::str::from_utf8(&NAME) {
            Ok(name) => name,
            Err(_) => FIELD,
        }
    }};
    (@read $fields:ident, $number:expr, $reading:ident) => { $fields.get($number, $reading) };
    (@read $fields:ident, $number:expr, $reading:ident, $how:ident) => { $fields.$how($number, $reading) };
}
