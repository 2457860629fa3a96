//! Reads plain data.

use serde::de::{self, DeserializeOwned, DeserializeSeed, IntoDeserializer, Visitor};

use super::Damaged;

/// Reads data that fills all of these bytes.
pub(crate) fn read<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, Damaged> {
    let mut reader = Reader(bytes);
    let data = T::deserialize(&mut reader)?;
    if reader.0.is_empty() { Ok(data) } else { Err(Damaged) }
}

/// Takes data from the front of bytes.
struct Reader<'de>(&'de [u8]);

impl<'de> Reader<'de> {
    #[inline]
    fn array<const N: usize>(&mut self) -> Result<[u8; N], Damaged> {
        let (first, rest) = self.0.split_first_chunk::<N>().ok_or(Damaged)?;
        self.0 = rest;
        Ok(*first)
    }

    #[inline]
    fn byte(&mut self) -> Result<u8, Damaged> {
        self.array().map(|[byte]| byte)
    }

    /// A number of things that follow; no more than there are bytes.
    #[inline]
    fn length(&mut self) -> Result<usize, Damaged> {
        let length = u32::from_le_bytes(self.array()?) as usize;
        if length > self.0.len() { Err(Damaged) } else { Ok(length) }
    }

    fn bytes(&mut self) -> Result<&'de [u8], Damaged> {
        let length = self.length()?;
        let (first, rest) = self.0.split_at_checked(length).ok_or(Damaged)?;
        self.0 = rest;
        Ok(first)
    }
}

macro_rules! numbers {
    ($($method:ident => $visit:ident($type:ty)),*) => {$(
        #[inline]
        fn $method<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Damaged> {
            visitor.$visit(<$type>::from_le_bytes(self.array()?))
        }
    )*};
}

impl<'de> de::Deserializer<'de> for &mut Reader<'de> {
    type Error = Damaged;

    numbers!(
        deserialize_i8 => visit_i8(i8),
        deserialize_i16 => visit_i16(i16),
        deserialize_i32 => visit_i32(i32),
        deserialize_i64 => visit_i64(i64),
        deserialize_i128 => visit_i128(i128),
        deserialize_u8 => visit_u8(u8),
        deserialize_u16 => visit_u16(u16),
        deserialize_u32 => visit_u32(u32),
        deserialize_u64 => visit_u64(u64),
        deserialize_u128 => visit_u128(u128),
        deserialize_f32 => visit_f32(f32),
        deserialize_f64 => visit_f64(f64)
    );

    fn deserialize_any<V: Visitor<'de>>(self, _: V) -> Result<V::Value, Damaged> {
        Err(Damaged)
    }

    fn deserialize_ignored_any<V: Visitor<'de>>(self, _: V) -> Result<V::Value, Damaged> {
        Err(Damaged)
    }

    fn deserialize_identifier<V: Visitor<'de>>(self, _: V) -> Result<V::Value, Damaged> {
        Err(Damaged)
    }

    #[inline]
    fn deserialize_bool<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Damaged> {
        match self.byte()? {
            0 => visitor.visit_bool(false),
            1 => visitor.visit_bool(true),
            _ => Err(Damaged),
        }
    }

    fn deserialize_char<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Damaged> {
        let letter = char::from_u32(u32::from_le_bytes(self.array()?)).ok_or(Damaged)?;
        visitor.visit_char(letter)
    }

    fn deserialize_str<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Damaged> {
        visitor.visit_borrowed_str(std::str::from_utf8(self.bytes()?).map_err(|_| Damaged)?)
    }

    fn deserialize_string<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Damaged> {
        self.deserialize_str(visitor)
    }

    fn deserialize_bytes<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Damaged> {
        visitor.visit_borrowed_bytes(self.bytes()?)
    }

    fn deserialize_byte_buf<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Damaged> {
        self.deserialize_bytes(visitor)
    }

    #[inline]
    fn deserialize_option<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Damaged> {
        match self.byte()? {
            0 => visitor.visit_none(),
            1 => visitor.visit_some(self),
            _ => Err(Damaged),
        }
    }

    fn deserialize_unit<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Damaged> {
        visitor.visit_unit()
    }

    fn deserialize_unit_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        visitor: V,
    ) -> Result<V::Value, Damaged> {
        visitor.visit_unit()
    }

    #[inline]
    fn deserialize_newtype_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        visitor: V,
    ) -> Result<V::Value, Damaged> {
        visitor.visit_newtype_struct(self)
    }

    #[inline]
    fn deserialize_seq<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Damaged> {
        let left = self.length()?;
        visitor.visit_seq(Items { reader: self, left })
    }

    #[inline]
    fn deserialize_tuple<V: Visitor<'de>>(self, left: usize, visitor: V) -> Result<V::Value, Damaged> {
        visitor.visit_seq(Items { reader: self, left })
    }

    #[inline]
    fn deserialize_tuple_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        left: usize,
        visitor: V,
    ) -> Result<V::Value, Damaged> {
        visitor.visit_seq(Items { reader: self, left })
    }

    fn deserialize_map<V: Visitor<'de>>(self, _: V) -> Result<V::Value, Damaged> {
        Err(Damaged)
    }

    #[inline]
    fn deserialize_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        fields: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Damaged> {
        visitor.visit_seq(Items { reader: self, left: fields.len() })
    }

    #[inline]
    fn deserialize_enum<V: Visitor<'de>>(
        self,
        _: &'static str,
        _: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Damaged> {
        visitor.visit_enum(self)
    }

    fn is_human_readable(&self) -> bool {
        false
    }
}

/// Things one after the other.
struct Items<'r, 'de> {
    reader: &'r mut Reader<'de>,
    left: usize,
}

impl<'de> de::SeqAccess<'de> for Items<'_, 'de> {
    type Error = Damaged;

    #[inline]
    fn next_element_seed<T: DeserializeSeed<'de>>(&mut self, seed: T) -> Result<Option<T::Value>, Damaged> {
        if self.left == 0 {
            return Ok(None);
        }
        self.left -= 1;
        seed.deserialize(&mut *self.reader).map(Some)
    }

    fn size_hint(&self) -> Option<usize> {
        Some(self.left)
    }
}

impl<'de> de::EnumAccess<'de> for &mut Reader<'de> {
    type Error = Damaged;
    type Variant = Self;

    #[inline]
    fn variant_seed<V: DeserializeSeed<'de>>(self, seed: V) -> Result<(V::Value, Self), Damaged> {
        let number = u32::from(self.byte()?);
        let variant = seed.deserialize(IntoDeserializer::<Damaged>::into_deserializer(number))?;
        Ok((variant, self))
    }
}

impl<'de> de::VariantAccess<'de> for &mut Reader<'de> {
    type Error = Damaged;

    #[inline]
    fn unit_variant(self) -> Result<(), Damaged> {
        Ok(())
    }

    #[inline]
    fn newtype_variant_seed<T: DeserializeSeed<'de>>(self, seed: T) -> Result<T::Value, Damaged> {
        seed.deserialize(self)
    }

    #[inline]
    fn tuple_variant<V: Visitor<'de>>(self, left: usize, visitor: V) -> Result<V::Value, Damaged> {
        visitor.visit_seq(Items { reader: self, left })
    }

    #[inline]
    fn struct_variant<V: Visitor<'de>>(
        self,
        fields: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Damaged> {
        visitor.visit_seq(Items { reader: self, left: fields.len() })
    }
}
