//! From the frame of a file to that of a game.

use hammerstone::geometry::Axis;

/// Which way is up in a file, which way it is to be, and how long a unit of the file is.
///
/// *Frame:* right-handed before and after, so that nothing is mirrored.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Axes {
    /// Up in the file.
    pub from: Axis,
    /// Up in the game.
    pub to: Axis,
    /// Metres in a unit of the file: 0.01 for centimetres.
    pub scale: f32,
}

impl Axes {
    /// Nothing changes: metres, with the same way up.
    pub const fn same(up: Axis) -> Axes {
        Axes { from: up, to: up, scale: 1.0 }
    }

    /// A point of the file, in metres in the frame of the game.
    pub fn point(&self, point: [f32; 3]) -> [f32; 3] {
        self.turned(point).map(|x| x * self.scale + 0.0)
    }

    /// A direction of the file, in the frame of the game: a quarter turn about the axis that is up in neither, so that it stays as it is.
    /// From z up to y up, `[x, y, z]` is `[x, z, -y]`.
    pub fn turned(&self, [x, y, z]: [f32; 3]) -> [f32; 3] {
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
