//! From the frame of a file to that of a game.

use std::ops::Neg;

use hammerstone::geometry::Axis;

use crate::turns::{Local, Place, Turn, UNTURNED, about, rotated, times};

/// Which way is up in a file, which way it is to be, which way it is turned, and how long a unit of the file is.
///
/// *Frame:* right-handed before and after, so that nothing is mirrored.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Axes {
    /// Up in the file.
    pub from: Axis,
    /// Up in the game.
    pub to: Axis,
    /// Degrees about the up axis of the game, after that: what faces backwards is turned by 180.
    pub turn: f32,
    /// Metres in a unit of the file: 0.01 for centimetres.
    pub scale: f32,
}

impl Axes {
    /// Nothing changes: metres, with the same way up.
    pub const fn same(up: Axis) -> Axes {
        Axes { from: up, to: up, turn: 0.0, scale: 1.0 }
    }

    /// A point of the file, in metres in the frame of the game.
    pub fn point(&self, point: [f32; 3]) -> [f32; 3] {
        self.turned(point).map(|x| x * self.scale + 0.0)
    }

    /// A direction of the file, in the frame of the game: a quarter turn about the axis that is up in neither, so that it stays as it is,
    /// and then the turn about the up axis. From z up to y up, `[x, y, z]` is `[x, z, -y]`.
    pub fn turned(&self, direction: [f32; 3]) -> [f32; 3] {
        match self.turn == 0.0 {
            true => self.raised(direction),
            false => rotated(self.about_up(), self.raised(direction.map(f64::from))).map(|x| x as f32),
        }
    }

    /// What carries the same, in the frame of the game: places and axes of turns.
    pub(crate) fn local(&self, local: Local) -> Local {
        Local { at: self.place(local.at), turn: self.turn(local.turn) }
    }

    pub(crate) fn place(&self, place: Place) -> Place {
        let place = self.raised(place).map(|x| x * f64::from(self.scale));
        if self.turn == 0.0 { place } else { rotated(self.about_up(), place) }
    }

    pub(crate) fn turn(&self, turn: Turn) -> Turn {
        let [x, y, z, w] = turn;
        let [x, y, z] = self.raised([x, y, z]);
        if self.turn == 0.0 {
            return [x, y, z, w];
        }
        let [ux, uy, uz, uw] = self.about_up();
        times(times([ux, uy, uz, uw], [x, y, z, w]), [-ux, -uy, -uz, uw])
    }

    fn about_up(&self) -> Turn {
        if self.turn == 0.0 { UNTURNED } else { about(self.to.vector().map(f64::from), self.turn.into()) }
    }

    fn raised<T: Neg<Output = T>>(&self, [x, y, z]: [T; 3]) -> [T; 3] {
        match (self.from, self.to) {
            (Axis::X, Axis::Y) => [-y, x, z],
            (Axis::X, Axis::Z) => [-z, y, x],
            (Axis::Y, Axis::X) => [y, -x, z],
            (Axis::Y, Axis::Z) => [x, -z, y],
            (Axis::Z, Axis::X) => [z, y, -x],
            (Axis::Z, Axis::Y) => [x, z, -y],
            (Axis::X, Axis::X) | (Axis::Y, Axis::Y) | (Axis::Z, Axis::Z) => [x, y, z],
        }
    }
}
