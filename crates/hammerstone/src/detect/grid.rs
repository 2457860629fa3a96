//! The broad phase: which boxes of hitboxes and bodies meet.
//!
//! Bodies are sorted by counting into the cells of wrapped grids over the level plane, one grid for each order of size, so that
//! a few giants do not make the cells of all others large. A hitbox looks at the cells about its box, row by row, where bodies
//! lie side by side in memory.

use std::ops::Range;

use glam::Vec3;

use crate::geometry::{Motion, larger};
use crate::ruleset::Rules;
use crate::side_by_side;

use super::{Body, OpenHitbox};

/// How much larger the bodies of one grid may be than those of the one below.
const STEP: f32 = 4.0;
const GRIDS: usize = 8;

/// All bodies of a tick, found by place.
#[derive(Clone, Debug, Default)]
pub(crate) struct Grid {
    boxes: Vec<Item>,
    levels: [Level; GRIDS],
    up: usize,
}

/// A body with the box about the way of all its parts.
#[derive(Clone, Copy, Debug, Default)]
struct Item {
    middle: Vec3,
    half: Vec3,
    layers: u32,
    level: u8,
}

/// One wrapped grid. `start[cell]..start[cell + 1]` are the bodies of a cell, in columns.
#[derive(Clone, Debug, Default)]
struct Level {
    count: usize,
    cell: f32,
    /// Cells along each side, a power of two.
    side: usize,
    /// The largest half edge of its bodies along each axis.
    largest: Vec3,
    start: Vec<u32>,
    items: Vec<u32>,
    x: Vec<f32>,
    y: Vec<f32>,
    z: Vec<f32>,
    half_x: Vec<f32>,
    half_y: Vec<f32>,
    half_z: Vec<f32>,
    layers: Vec<u32>,
    cells: Vec<u32>,
}

impl Grid {
    /// Takes in all bodies, in so many shares.
    pub(crate) fn fill(&mut self, rules: &Rules, bodies: &[Body], ways: &[Motion], shares: usize) {
        let up = rules.up as usize;
        self.up = up;
        self.boxes.resize(bodies.len(), Item::default());
        let length = bodies.len().div_ceil(shares).max(1);
        side_by_side::fill(&mut self.boxes, bodies, length, |body: &Body, item| {
            let template = rules.template_plan(body.template);
            let (middle, half) = body.bounds(template, ways, up);
            *item = Item { middle, half, layers: template.layers, level: 0 };
        });
        let mut smallest = f32::INFINITY;
        for item in &self.boxes {
            let size = longest(item.half);
            smallest = if size < smallest { size } else { smallest };
        }
        // Sizes below the first step share the lowest grid.
        let floor = if smallest > 0.25 { smallest } else { 0.25 };
        for level in &mut self.levels {
            (level.count, level.largest) = (0, Vec3::ZERO);
        }
        for item in &mut self.boxes {
            let mut level = 0;
            let mut limit = floor * STEP;
            while longest(item.half) > limit && level + 1 < GRIDS {
                level += 1;
                limit *= STEP;
            }
            item.level = level as u8;
            let grid = &mut self.levels[level];
            grid.count += 1;
            grid.largest = larger(grid.largest, item.half);
        }
        let (u, v) = level_axes(self.up);
        for (number, level) in self.levels.iter_mut().enumerate() {
            level.sort_in(&self.boxes, number as u8, u, v);
        }
    }

    /// All pairs of a hitbox of the run and a body, with boxes that meet and layers that allow it, by hitbox.
    pub(crate) fn find_pairs(&self, run: Range<usize>, all: &[OpenHitbox], pairs: &mut Vec<(u32, u32)>) {
        let (u, v) = level_axes(self.up);
        for number in run {
            let open = &all[number];
            let (middle, half) = open.bounds;
            for level in self.levels.iter().filter(|level| level.count > 0) {
                level.find(middle, half, open.layers, u, v, number as u32, pairs);
            }
        }
    }
}

/// The two axes that are not up.
fn level_axes(up: usize) -> (usize, usize) {
    match up {
        0 => (1, 2),
        1 => (0, 2),
        _ => (0, 1),
    }
}

fn longest(half: Vec3) -> f32 {
    let xy = if half.x > half.y { half.x } else { half.y };
    if half.z > xy { half.z } else { xy }
}

impl Level {
    fn sort_in(&mut self, boxes: &[Item], number: u8, u: usize, v: usize) {
        if self.count == 0 {
            return;
        }
        // A cell as large as the largest body; about one cell a body.
        let size = if self.largest[u] > self.largest[v] { self.largest[u] } else { self.largest[v] } * 2.0;
        self.cell = if size > 0.5 { size } else { 0.5 };
        let mut side = 8usize;
        while side * side < self.count && side < 1024 {
            side *= 2;
        }
        self.side = side;
        self.start.clear();
        self.start.resize(side * side + 1, 0);
        self.cells.clear();
        for item in boxes.iter().filter(|item| item.level == number) {
            let cell = self.wrap(self.index(item.middle[u])) + self.wrap(self.index(item.middle[v])) * side;
            self.cells.push(cell as u32);
            self.start[cell + 1] += 1;
        }
        for cell in 0..side * side {
            self.start[cell + 1] += self.start[cell];
        }
        for column in
            [&mut self.x, &mut self.y, &mut self.z, &mut self.half_x, &mut self.half_y, &mut self.half_z]
        {
            column.resize(self.count, 0.0);
        }
        for column in [&mut self.items, &mut self.layers] {
            column.resize(self.count, 0);
        }
        let own = boxes.iter().enumerate().filter(|(_, item)| item.level == number);
        for ((i, item), &cell) in own.zip(&self.cells) {
            let cell = cell as usize;
            let place = self.start[cell] as usize;
            self.start[cell] += 1;
            self.items[place] = i as u32;
            self.layers[place] = item.layers;
            (self.x[place], self.y[place], self.z[place]) = item.middle.into();
            (self.half_x[place], self.half_y[place], self.half_z[place]) = item.half.into();
        }
        // Filling has moved each start to the next cell's; back by one.
        self.start.rotate_right(1);
        self.start[0] = 0;
    }

    /// The cell along one axis, before wrapping. Far out all lie in one cell, which is slow and not wrong.
    fn index(&self, x: f32) -> i32 {
        let along = x / self.cell;
        let whole = along as i32;
        // Rounded down; without a call, which the floor of a number is on some machines.
        if along < whole as f32 { whole.saturating_sub(1) } else { whole }
    }

    fn wrap(&self, index: i32) -> usize {
        index as usize & (self.side - 1)
    }

    #[expect(clippy::too_many_arguments, reason = "the innermost step, kept flat")]
    fn find(
        &self,
        middle: Vec3,
        half: Vec3,
        layers: u32,
        u: usize,
        v: usize,
        hitbox: u32,
        pairs: &mut Vec<(u32, u32)>,
    ) {
        let reach = half + self.largest;
        let span = |axis: usize| {
            let (low, high) =
                (self.index(middle[axis] - reach[axis]), self.index(middle[axis] + reach[axis]));
            let cells = (high as i64 - low as i64 + 1).min(self.side as i64) as usize;
            (self.wrap(low), cells)
        };
        let ((column, columns), (row, rows)) = (span(u), span(v));
        for r in 0..rows {
            let line = ((row + r) & (self.side - 1)) * self.side;
            let end = column + columns;
            self.test(line + column, line + end.min(self.side), middle, half, layers, hitbox, pairs);
            if end > self.side {
                self.test(line, line + end - self.side, middle, half, layers, hitbox, pairs);
            }
        }
    }

    /// The bodies of a run of cells, tested side by side.
    #[expect(clippy::too_many_arguments, reason = "the innermost step, kept flat")]
    fn test(
        &self,
        first: usize,
        last: usize,
        middle: Vec3,
        half: Vec3,
        layers: u32,
        hitbox: u32,
        pairs: &mut Vec<(u32, u32)>,
    ) {
        let run = self.start[first] as usize..self.start[last] as usize;
        let items = &self.items[run.clone()];
        let (x, half_x) = (&self.x[run.clone()], &self.half_x[run.clone()]);
        let (y, half_y) = (&self.y[run.clone()], &self.half_y[run.clone()]);
        let (z, half_z) = (&self.z[run.clone()], &self.half_z[run.clone()]);
        let mask = &self.layers[run];
        for i in 0..items.len() {
            let meets = ((x[i] - middle.x).abs() <= half_x[i] + half.x)
                & ((y[i] - middle.y).abs() <= half_y[i] + half.y)
                & ((z[i] - middle.z).abs() <= half_z[i] + half.z)
                & (mask[i] & layers != 0);
            if meets {
                pairs.push((hitbox, items[i]));
            }
        }
    }
}
