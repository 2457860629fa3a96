//! How a level is made, and what can be wrong with it.

use std::hash::{Hash, Hasher};
use std::sync::Arc;

use glam::Vec3;

use super::tree::Tree;
use super::{InLevel, Inner, Level, Stone};
use crate::checksum::checksum;
use crate::geometry::{Axis, Obstacle, across, in_bounds};

/// No level has more triangles and solids than this.
const MOST: usize = 1 << 26;

/// One shape of a level.
#[derive(Clone, PartialEq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum LevelShape {
    /// A box, a ball, a capsule or a half-space.
    Solid(Obstacle),
    /// Triangles.
    Mesh(Mesh),
    /// Ground.
    HeightField(HeightField),
}

/// Triangles between points. They stop what comes from either side, and have no inside.
#[derive(Clone, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Mesh {
    /// In metres in the world.
    pub points: Vec<[f32; 3]>,
    /// Three points each, by their numbers from 0. Those without area meet nothing.
    pub triangles: Vec<[u32; 3]>,
}

/// Heights over an even grid. Like a mesh, it stops what comes from above or below, and has no inside.
#[derive(Clone, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct HeightField {
    /// Where the first height of the first row stands, with height 0: metres in the world.
    pub corner: [f32; 3],
    /// Which way heights go. Columns go along the first of the other two axes, in the order X, Y, Z; rows along the second.
    pub up: Axis,
    /// From one column or row to the next, in metres.
    pub step: f32,
    /// How many heights a row has, at least 2.
    pub columns: u32,
    /// Row by row, in metres; at least two rows.
    pub heights: Vec<f32>,
}

/// Why there is no such level.
#[derive(Clone, Copy, PartialEq, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum LevelError {
    /// A solid that is none.
    #[error(
        "shape {shape} of the level has a number that is not finite or beyond 1 000 000 metres, or a size or normal of nothing; give ordinary numbers"
    )]
    NoSolid {
        /// Its number, from 0.
        shape: usize,
    },
    /// A point of a mesh.
    #[error(
        "point {point} of mesh {shape} of the level is not finite, or beyond 1 000 000 metres; give ordinary numbers"
    )]
    Point {
        /// The number of the shape, from 0.
        shape: usize,
        /// The number of the point.
        point: usize,
    },
    /// A triangle of a mesh.
    #[error(
        "triangle {triangle} of mesh {shape} of the level names point {point}, and there are {points}, from 0; name one of these"
    )]
    NoPoint {
        /// The number of the shape, from 0.
        shape: usize,
        /// The number of the triangle.
        triangle: usize,
        /// The point that it names.
        point: u32,
        /// How many there are.
        points: usize,
    },
    /// A height field whose numbers do not fit.
    #[error(
        "height field {shape} of the level has {heights} heights in rows of {columns}; give at least two whole rows of at least two"
    )]
    Rows {
        /// The number of the shape, from 0.
        shape: usize,
        /// How many heights it has.
        heights: usize,
        /// How many a row has.
        columns: u32,
    },
    /// A height field that is too large, has no step, or a height that is no number.
    #[error(
        "height field {shape} of the level has a number that is not finite, reaches beyond 1 000 000 metres, or has no step; give ordinary numbers"
    )]
    Field {
        /// The number of the shape, from 0.
        shape: usize,
    },
    /// More than there may be.
    #[error("the level has more than {most} triangles and solids; leave some out, or make two levels")]
    TooMany {
        /// How many there may be.
        most: usize,
    },
}

/// A level in the making.
#[derive(Clone, Debug, Default)]
pub struct LevelBuilder {
    shapes: Vec<LevelShape>,
}

impl LevelBuilder {
    /// Another shape. Gives its number, by which answers name it.
    pub fn shape(&mut self, shape: LevelShape) -> u32 {
        self.shapes.push(shape);
        self.shapes.len() as u32 - 1
    }

    /// A solid.
    pub fn solid(&mut self, solid: Obstacle) -> u32 {
        self.shape(LevelShape::Solid(solid))
    }

    /// Triangles between points, by their numbers.
    pub fn mesh(&mut self, points: &[[f32; 3]], triangles: &[[u32; 3]]) -> u32 {
        self.shape(LevelShape::Mesh(Mesh { points: points.to_vec(), triangles: triangles.to_vec() }))
    }

    /// Ground.
    pub fn height_field(&mut self, field: HeightField) -> u32 {
        self.shape(LevelShape::HeightField(field))
    }

    /// Checks it, and makes it ready to be searched. 100 000 triangles take some tens of milliseconds.
    ///
    /// *Errors:* the first shape that is none, with its number.
    pub fn build(self) -> Result<Level, LevelError> {
        let LevelBuilder { mut shapes } = self;
        let (mut stones, mut planes) = (Vec::new(), Vec::new());
        for (number, shape) in shapes.iter_mut().enumerate() {
            let place = InLevel { shape: number as u32, triangle: None };
            match shape {
                LevelShape::Solid(solid) => {
                    *solid = solid.settled().ok_or(LevelError::NoSolid { shape: number })?;
                    match solid {
                        Obstacle::HalfSpace { .. } => planes.push(place.shape),
                        _ => stones.push((place, Stone::Solid(*solid))),
                    }
                }
                LevelShape::Mesh(mesh) => mesh.gather(number, &mut stones)?,
                LevelShape::HeightField(field) => field.gather(number, &mut stones)?,
            }
            if stones.len() + planes.len() > MOST {
                return Err(LevelError::TooMany { most: MOST });
            }
        }
        let fingerprint = fingerprint_of(&shapes);
        Ok(Level(Arc::new(Inner { tree: Tree::of(stones), planes, shapes, fingerprint })))
    }
}

/// Of a level without shapes it is 0, as of an encounter without a level.
pub(super) fn fingerprint_of(shapes: &[LevelShape]) -> u64 {
    if shapes.is_empty() { 0 } else { checksum(&shapes) }
}

type Stones = Vec<(InLevel, Stone)>;

fn add_triangle(stones: &mut Stones, shape: usize, triangle: usize, corners: [Vec3; 3]) {
    // Nothing has room to touch a triangle without area.
    if across(&corners).length_squared() > 1.0e-24 {
        let place = InLevel { shape: shape as u32, triangle: Some(triangle as u32) };
        stones.push((place, Stone::Triangle(corners)));
    }
}

impl Mesh {
    fn gather(&mut self, shape: usize, stones: &mut Stones) -> Result<(), LevelError> {
        if let Some(point) = self.points.iter().position(|point| !in_bounds(point)) {
            return Err(LevelError::Point { shape, point });
        }
        if self.triangles.len() > MOST {
            return Err(LevelError::TooMany { most: MOST });
        }
        self.points.iter_mut().for_each(|point| *point = point.map(|x| x + 0.0));
        for (triangle, corners) in self.triangles.iter().enumerate() {
            let points = self.points.len();
            if let Some(&point) = corners.iter().find(|&&point| point as usize >= points) {
                return Err(LevelError::NoPoint { shape, triangle, point, points });
            }
            let corners = corners.map(|point| Vec3::from_array(self.points[point as usize]));
            add_triangle(stones, shape, triangle, corners);
        }
        Ok(())
    }
}

impl HeightField {
    /// How many rows there are.
    pub fn rows(&self) -> u32 {
        (self.heights.len() / self.columns.max(1) as usize) as u32
    }

    fn gather(&mut self, shape: usize, stones: &mut Stones) -> Result<(), LevelError> {
        let (columns, heights) = (self.columns as usize, self.heights.len());
        if columns < 2 || heights < 2 * columns || !heights.is_multiple_of(columns) {
            return Err(LevelError::Rows { shape, heights, columns: self.columns });
        }
        if heights > MOST / 2 {
            return Err(LevelError::TooMany { most: MOST });
        }
        self.corner = self.corner.map(|x| x + 0.0);
        self.heights.iter_mut().for_each(|height| *height += 0.0);
        let rows = heights / columns;
        let ends = self.point(columns - 1, rows - 1).to_array();
        let sound = self.step > 0.0 && in_bounds(&self.corner) && in_bounds(&ends) && in_bounds(&[self.step]);
        let up = self.up as usize;
        if !sound || !self.heights.iter().all(|height| in_bounds(&[*height, self.corner[up] + height])) {
            return Err(LevelError::Field { shape });
        }
        for row in 0..rows - 1 {
            for column in 0..columns - 1 {
                let [a, b, c, d] =
                    [(0, 0), (1, 0), (0, 1), (1, 1)].map(|(right, on)| self.point(column + right, row + on));
                let first = (row * (columns - 1) + column) * 2;
                add_triangle(stones, shape, first, [a, b, c]);
                add_triangle(stones, shape, first + 1, [b, d, c]);
            }
        }
        Ok(())
    }

    /// Where a height stands.
    fn point(&self, column: usize, row: usize) -> Vec3 {
        let up = self.up as usize;
        let [along, across] = match self.up {
            Axis::X => [1, 2],
            Axis::Y => [0, 2],
            Axis::Z => [0, 1],
        };
        let mut point = Vec3::from_array(self.corner);
        point[along] += self.step * column as f32;
        point[across] += self.step * row as f32;
        point[up] += self.heights[row * self.columns as usize + column];
        point
    }
}

impl Hash for Mesh {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        hasher.write_usize(self.points.len());
        self.points.iter().for_each(|point| point.map(f32::to_bits).hash(hasher));
        self.triangles.hash(hasher);
    }
}

impl Hash for HeightField {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        (self.corner.map(f32::to_bits), self.up, self.step.to_bits(), self.columns).hash(hasher);
        hasher.write_usize(self.heights.len());
        self.heights.iter().for_each(|height| height.to_bits().hash(hasher));
    }
}
