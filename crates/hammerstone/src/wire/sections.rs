//! Sections of bytes, each under its name, so that what is written may change and still be read.

use serde::Serialize;
use serde::de::DeserializeOwned;

use super::{Damaged, Table, Writer, read};

/// Writes sections: the length of a name in one byte, the name, the length of the rest in four bytes, the rest.
pub(crate) struct SectionWriter<'a, M> {
    writer: Writer<'a, M>,
    /// What the name of each section begins with.
    prefix: String,
    /// Whether something could not be written.
    failed: bool,
}

impl<'a, M: Table> SectionWriter<'a, M> {
    pub(crate) fn new(bytes: &'a mut Vec<u8>, map: M) -> SectionWriter<'a, M> {
        SectionWriter { writer: Writer::new(bytes, map), prefix: String::new(), failed: false }
    }

    /// All sections that `write` writes have names that begin with this one.
    pub(crate) fn within(&mut self, name: &str, write: impl FnOnce(&mut Self)) {
        let before = self.prefix.len();
        self.prefix.push_str(name);
        self.prefix.push('.');
        write(self);
        self.prefix.truncate(before);
    }

    pub(crate) fn section(&mut self, name: &str, data: &impl Serialize) {
        let bytes = &mut *self.writer.bytes;
        bytes.push((self.prefix.len() + name.len()) as u8);
        bytes.extend_from_slice(self.prefix.as_bytes());
        bytes.extend_from_slice(name.as_bytes());
        let length = bytes.len();
        bytes.extend([0; 4]);
        self.writer.map.enters(name);
        self.failed |= data.serialize(&mut self.writer).is_err();
        let bytes = &mut *self.writer.bytes;
        let written = bytes.len() - length - 4;
        self.failed |= u32::try_from(written).is_err();
        bytes[length..length + 4].copy_from_slice(&(written as u32).to_le_bytes());
    }

    /// What became of ids, if all was written.
    pub(crate) fn finish(self) -> Option<M> {
        (!self.failed).then_some(self.writer.map)
    }
}

/// Finds sections by their names.
pub(crate) struct SectionReader<'a> {
    sections: Vec<(&'a str, &'a [u8])>,
    /// How many were taken.
    taken: usize,
    /// Where the next is looked for first: they stand in the order of writing, mostly.
    next: usize,
    prefix: String,
}

impl<'a> SectionReader<'a> {
    /// The most sections that there may be.
    const MOST: usize = 1000;

    /// Of bytes that are nothing but sections.
    pub(crate) fn new(mut bytes: &'a [u8]) -> Result<SectionReader<'a>, Damaged> {
        let mut sections = Vec::new();
        while let Some((&length, rest)) = bytes.split_first() {
            let (name, rest) = rest.split_at_checked(length.into()).ok_or(Damaged)?;
            let (length, rest) = rest.split_first_chunk::<4>().ok_or(Damaged)?;
            let length = u32::from_le_bytes(*length) as usize;
            let (content, rest) = rest.split_at_checked(length).ok_or(Damaged)?;
            sections.push((std::str::from_utf8(name).map_err(|_| Damaged)?, content));
            if sections.len() > SectionReader::MOST {
                return Err(Damaged);
            }
            bytes = rest;
        }
        Ok(SectionReader { sections, taken: 0, next: 0, prefix: String::new() })
    }

    pub(crate) fn within<T>(&mut self, name: &str, read: impl FnOnce(&mut Self) -> T) -> T {
        let before = self.prefix.len();
        self.prefix.push_str(name);
        self.prefix.push('.');
        let found = read(self);
        self.prefix.truncate(before);
        found
    }

    /// What stands in a section; none if there is no such.
    pub(crate) fn find(&mut self, name: &str) -> Option<&'a [u8]> {
        let is = |(known, _): &&(&str, &[u8])| {
            known.strip_prefix(self.prefix.as_str()).is_some_and(|rest| rest == name)
        };
        let place = match self.sections.get(self.next).filter(is) {
            Some(_) => self.next,
            None => self.sections.iter().position(|section| is(&section))?,
        };
        self.next = place + 1;
        self.taken += 1;
        Some(self.sections[place].1)
    }

    /// The data of a section that must be there.
    pub(crate) fn section<T: DeserializeOwned>(&mut self, name: &str) -> Result<T, Damaged> {
        read(self.find(name).ok_or(Damaged)?)
    }

    /// The data of a section that is left out where there is nothing to say.
    pub(crate) fn optional<T: DeserializeOwned + Default>(&mut self, name: &str) -> Result<T, Damaged> {
        self.find(name).map_or_else(|| Ok(T::default()), read)
    }

    /// All of them, in the order of writing.
    pub(crate) fn all(&self) -> &[(&'a str, &'a [u8])] {
        &self.sections
    }

    /// Whether as many were taken as there are.
    pub(crate) fn is_at_end(&self) -> bool {
        self.taken == self.sections.len()
    }

    /// There are no other sections, and none twice.
    pub(crate) fn end(&self) -> Result<(), Damaged> {
        if self.is_at_end() { Ok(()) } else { Err(Damaged) }
    }
}
