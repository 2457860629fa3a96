//! Writes plain data.

use serde::{Serialize, ser};

use super::{Damaged, Table};

/// Appends data to bytes.
pub(crate) struct Writer<'a, M> {
    pub(crate) bytes: &'a mut Vec<u8>,
    pub(crate) map: M,
    /// Whether the number that comes is an id that becomes another.
    maps: bool,
    /// Whether the number that comes is a set of ids that becomes another.
    sets: bool,
}

impl<'a, M: Table> Writer<'a, M> {
    pub(crate) fn new(bytes: &'a mut Vec<u8>, map: M) -> Writer<'a, M> {
        Writer { bytes, map, maps: false, sets: false }
    }

    #[inline]
    fn length(&mut self, length: usize) -> Result<(), Damaged> {
        let length = u32::try_from(length).map_err(|_| Damaged)?;
        self.bytes.extend_from_slice(&length.to_le_bytes());
        Ok(())
    }

    #[inline]
    fn variant(&mut self, number: u32) -> Result<(), Damaged> {
        self.bytes.push(u8::try_from(number).map_err(|_| Damaged)?);
        Ok(())
    }

    /// Another number for an id.
    fn mapped(&mut self, number: u64) -> Result<u64, Damaged> {
        self.maps = false;
        self.map.number(number)
    }
}

macro_rules! numbers {
    ($($method:ident($type:ty)),*) => {$(
        #[inline]
        fn $method(self, number: $type) -> Result<(), Damaged> {
            self.bytes.extend_from_slice(&number.to_le_bytes());
            Ok(())
        }
    )*};
}

macro_rules! ids {
    ($($method:ident($type:ty)),*) => {$(
        #[inline]
        fn $method(self, mut number: $type) -> Result<(), Damaged> {
            if M::MAPS && self.maps {
                number = <$type>::try_from(self.mapped(number.into())?).map_err(|_| Damaged)?;
            }
            self.bytes.extend_from_slice(&number.to_le_bytes());
            Ok(())
        }
    )*};
}

impl<M: Table> ser::Serializer for &mut Writer<'_, M> {
    type Ok = ();
    type Error = Damaged;
    type SerializeSeq = Self;
    type SerializeTuple = Self;
    type SerializeTupleStruct = Self;
    type SerializeTupleVariant = Self;
    type SerializeMap = ser::Impossible<(), Damaged>;
    type SerializeStruct = Self;
    type SerializeStructVariant = Self;

    numbers!(
        serialize_i8(i8),
        serialize_i16(i16),
        serialize_i32(i32),
        serialize_i64(i64),
        serialize_i128(i128),
        serialize_u128(u128),
        serialize_f32(f32),
        serialize_f64(f64)
    );

    ids!(serialize_u8(u8), serialize_u16(u16));

    #[inline]
    fn serialize_u32(self, mut number: u32) -> Result<(), Damaged> {
        if M::MAPS && self.sets {
            number = self.map.set(number.into()) as u32;
        }
        self.bytes.extend_from_slice(&number.to_le_bytes());
        Ok(())
    }

    #[inline]
    fn serialize_u64(self, mut number: u64) -> Result<(), Damaged> {
        if M::MAPS && self.sets {
            number = self.map.set(number);
        }
        self.bytes.extend_from_slice(&number.to_le_bytes());
        Ok(())
    }

    #[inline]
    fn serialize_bool(self, truth: bool) -> Result<(), Damaged> {
        self.bytes.push(truth.into());
        Ok(())
    }

    fn serialize_char(self, letter: char) -> Result<(), Damaged> {
        self.serialize_u32(letter.into())
    }

    fn serialize_str(self, text: &str) -> Result<(), Damaged> {
        self.serialize_bytes(text.as_bytes())
    }

    fn serialize_bytes(self, bytes: &[u8]) -> Result<(), Damaged> {
        self.length(bytes.len())?;
        self.bytes.extend_from_slice(bytes);
        Ok(())
    }

    #[inline]
    fn serialize_none(self) -> Result<(), Damaged> {
        self.bytes.push(0);
        Ok(())
    }

    #[inline]
    fn serialize_some<T: Serialize + ?Sized>(self, value: &T) -> Result<(), Damaged> {
        self.bytes.push(1);
        value.serialize(self)
    }

    fn serialize_unit(self) -> Result<(), Damaged> {
        Ok(())
    }

    fn serialize_unit_struct(self, _: &'static str) -> Result<(), Damaged> {
        Ok(())
    }

    #[inline]
    fn serialize_unit_variant(self, _: &'static str, number: u32, _: &'static str) -> Result<(), Damaged> {
        self.variant(number)
    }

    #[inline]
    fn serialize_newtype_struct<T: Serialize + ?Sized>(
        self,
        name: &'static str,
        value: &T,
    ) -> Result<(), Damaged> {
        if M::MAPS {
            self.maps = self.map.knows(name);
        }
        value.serialize(self)
    }

    #[inline]
    fn serialize_newtype_variant<T: Serialize + ?Sized>(
        self,
        _: &'static str,
        number: u32,
        _: &'static str,
        value: &T,
    ) -> Result<(), Damaged> {
        self.variant(number)?;
        value.serialize(self)
    }

    #[inline]
    fn serialize_seq(self, length: Option<usize>) -> Result<Self, Damaged> {
        self.length(length.ok_or(Damaged)?)?;
        Ok(self)
    }

    #[inline]
    fn serialize_tuple(self, _: usize) -> Result<Self, Damaged> {
        Ok(self)
    }

    #[inline]
    fn serialize_tuple_struct(self, _: &'static str, _: usize) -> Result<Self, Damaged> {
        Ok(self)
    }

    #[inline]
    fn serialize_tuple_variant(
        self,
        _: &'static str,
        number: u32,
        _: &'static str,
        _: usize,
    ) -> Result<Self, Damaged> {
        self.variant(number)?;
        Ok(self)
    }

    fn serialize_map(self, _: Option<usize>) -> Result<Self::SerializeMap, Damaged> {
        Err(Damaged)
    }

    #[inline]
    fn serialize_struct(self, _: &'static str, _: usize) -> Result<Self, Damaged> {
        Ok(self)
    }

    #[inline]
    fn serialize_struct_variant(
        self,
        _: &'static str,
        number: u32,
        _: &'static str,
        _: usize,
    ) -> Result<Self, Damaged> {
        self.variant(number)?;
        Ok(self)
    }

    fn is_human_readable(&self) -> bool {
        false
    }
}

macro_rules! parts {
    ($($part:ident::$method:ident),*) => {$(
        impl<M: Table> ser::$part for &mut Writer<'_, M> {
            type Ok = ();
            type Error = Damaged;

            #[inline]
            fn $method<T: Serialize + ?Sized>(&mut self, value: &T) -> Result<(), Damaged> {
                value.serialize(&mut **self)
            }

            #[inline]
            fn end(self) -> Result<(), Damaged> {
                Ok(())
            }
        }
    )*};
}

parts!(
    SerializeSeq::serialize_element,
    SerializeTuple::serialize_element,
    SerializeTupleStruct::serialize_field,
    SerializeTupleVariant::serialize_field
);

macro_rules! fields {
    ($($part:ident),*) => {$(
        impl<M: Table> ser::$part for &mut Writer<'_, M> {
            type Ok = ();
            type Error = Damaged;

            #[inline]
            fn serialize_field<T: Serialize + ?Sized>(
                &mut self,
                field: &'static str,
                value: &T,
            ) -> Result<(), Damaged> {
                if !M::MAPS {
                    return value.serialize(&mut **self);
                }
                self.sets = self.map.has_sets(field);
                let written = value.serialize(&mut **self);
                self.sets = false;
                written
            }

            #[inline]
            fn end(self) -> Result<(), Damaged> {
                Ok(())
            }
        }
    )*};
}

fields!(SerializeStruct, SerializeStructVariant);
