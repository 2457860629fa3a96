//! A tree of boxes about what can be met, and the search for what is met first.
//!
//! *Method:* each node is split where the boxes of both halves have the least surface for what is in them (MacDonald and Booth, "Heuristics
//! for ray tracing using space subdivision", 1990), looked at in sixteen places along each axis (Wald, "On fast construction of SAH-based
//! bounding volume hierarchies", 2007). What is near is looked at first, and nothing beyond the best.

use glam::Vec3;

use super::{InLevel, Stone};
use crate::geometry::{Solid, Swept, larger, smaller};

/// So many stay together.
const IN_A_LEAF: usize = 4;
/// In how many places a split is looked at, along each axis.
const BINS: usize = 16;
/// From this depth on halves are even, so that no tree is deeper than the stack of a search.
const EVEN_FROM: u32 = 30;
const STACK: usize = 64;

#[derive(Debug, Default)]
pub(super) struct Tree {
    nodes: Vec<Node>,
    /// In the order of the leaves.
    stones: Vec<(InLevel, Stone)>,
}

#[derive(Clone, Copy, Debug)]
struct Node {
    low: Vec3,
    high: Vec3,
    /// Of a leaf, its first stone; of another, its second half. The first half comes right after it.
    first: u32,
    /// How many stones a leaf has; 0 for what is none.
    count: u32,
}

/// A stone while the tree is built.
#[derive(Clone, Copy)]
struct Laid {
    low: Vec3,
    high: Vec3,
    /// Twice its middle.
    middle: Vec3,
    stone: u32,
}

impl Tree {
    pub(super) fn of(stones: Vec<(InLevel, Stone)>) -> Tree {
        let mut laid: Vec<Laid> = stones
            .iter()
            .enumerate()
            .map(|(number, (_, stone))| {
                let (low, high) = stone.bounds();
                Laid { low, high, middle: low + high, stone: number as u32 }
            })
            .collect();
        let mut nodes = Vec::with_capacity(laid.len());
        if !laid.is_empty() {
            split(&mut laid, 0, 0, &mut nodes);
        }
        Tree { nodes, stones: laid.iter().map(|laid| stones[laid.stone as usize]).collect() }
    }

    /// Everything in it.
    pub(super) fn stones(&self) -> impl Iterator<Item = &(InLevel, Stone)> {
        self.stones.iter()
    }

    /// Gives everything that a path may meet to `meet`, which gives back the least time so far: from 0 to 1 along the path, or more if
    /// there is none. `most` is the least time when the search begins.
    pub(super) fn seek(&self, path: &Path, most: f32, mut meet: impl FnMut(InLevel, &Stone) -> f32) {
        let Some(root) = self.nodes.first() else { return };
        let mut most = most;
        let mut stack = [(0u32, 0.0f32); STACK];
        let mut height = 0;
        let mut next = path.enters(root.low, root.high).map(|time| (0, time));
        while let Some((place, time)) = next {
            next = None;
            let node = &self.nodes[place as usize];
            if time > most {
                // What comes later is of no interest.
            } else if node.count > 0 {
                let first = node.first as usize;
                for (at, stone) in &self.stones[first..first + node.count as usize] {
                    let (low, high) = stone.bounds();
                    if path.enters(low, high).is_some_and(|time| time <= most) {
                        most = meet(*at, stone);
                    }
                }
            } else {
                let halves = [place + 1, node.first].map(|place| {
                    let node = &self.nodes[place as usize];
                    Some((place, path.enters(node.low, node.high)?))
                });
                next = match halves {
                    [Some(one), Some(other)] => {
                        let (near, far) = if other.1 < one.1 { (other, one) } else { (one, other) };
                        stack[height] = far;
                        height += 1;
                        Some(near)
                    }
                    [one, other] => one.or(other),
                };
            }
            if next.is_none() && height > 0 {
                height -= 1;
                next = Some(stack[height]);
            }
        }
    }
}

/// Puts a node and all below it behind `nodes`, and the stones in the order of its leaves.
fn split(laid: &mut [Laid], first: u32, depth: u32, nodes: &mut Vec<Node>) {
    let (low, high) = about(laid);
    let place = nodes.len();
    nodes.push(Node { low, high, first, count: laid.len() as u32 });
    if laid.len() <= IN_A_LEAF {
        return;
    }
    let half = best_split(laid, depth);
    let (one, other) = laid.split_at_mut(half);
    split(one, first, depth + 1, nodes);
    (nodes[place].first, nodes[place].count) = (nodes.len() as u32, 0);
    split(other, first + half as u32, depth + 1, nodes);
}

/// Orders the stones so that those of the first half come first, and gives how many these are.
fn best_split(laid: &mut [Laid], depth: u32) -> usize {
    let (mut low, mut high) = (laid[0].middle, laid[0].middle);
    for one in &*laid {
        (low, high) = (smaller(low, one.middle), larger(high, one.middle));
    }
    let wide = high - low;
    let mut best: Option<(f32, usize, usize)> = None;
    if depth < EVEN_FROM {
        for axis in 0..3 {
            if wide[axis] > 0.0 {
                cheapest(laid, axis, low[axis], wide[axis], &mut best);
            }
        }
    }
    if let Some((_, axis, bin)) = best {
        let is_first = |one: &Laid| bin_of(one, axis, low[axis], wide[axis]) <= bin;
        let (mut firsts, others): (Vec<Laid>, Vec<Laid>) = laid.iter().partition(|one| is_first(one));
        let half = firsts.len();
        firsts.extend(others);
        laid.copy_from_slice(&firsts);
        return half;
    }
    // Too deep, or all in one place: even halves, along the widest axis.
    let axis = (1..3).fold(0, |widest, axis| if wide[axis] > wide[widest] { axis } else { widest });
    laid.sort_unstable_by(|one, other| {
        let by = one.middle[axis].total_cmp(&other.middle[axis]);
        by.then(one.stone.cmp(&other.stone))
    });
    laid.len() / 2
}

fn bin_of(one: &Laid, axis: usize, low: f32, wide: f32) -> usize {
    let bin = ((one.middle[axis] - low) / wide * BINS as f32) as usize;
    if bin < BINS { bin } else { BINS - 1 }
}

/// The cheapest place to split along an axis, if it is cheaper than the best so far: its cost, the axis, and the last bin of the first half.
fn cheapest(laid: &[Laid], axis: usize, low: f32, wide: f32, best: &mut Option<(f32, usize, usize)>) {
    let mut bins: [Option<(Vec3, Vec3, usize)>; BINS] = [None; BINS];
    for one in laid {
        let bin = &mut bins[bin_of(one, axis, low, wide)];
        *bin = joined(*bin, Some((one.low, one.high, 1)));
    }
    let mut behind = [0.0; BINS];
    let mut all = None;
    for bin in (1..BINS).rev() {
        all = joined(all, bins[bin]);
        behind[bin] = cost(all);
    }
    let mut before = None;
    for bin in 0..BINS - 1 {
        before = joined(before, bins[bin]);
        let (one, other) = (cost(before), behind[bin + 1]);
        if one > 0.0 && other > 0.0 && best.is_none_or(|(least, ..)| one + other < least) {
            *best = Some((one + other, axis, bin));
        }
    }
}

type Bin = Option<(Vec3, Vec3, usize)>;

fn joined(one: Bin, other: Bin) -> Bin {
    match (one, other) {
        (Some((low, high, count)), Some((low2, high2, count2))) => {
            Some((smaller(low, low2), larger(high, high2), count + count2))
        }
        _ => one.or(other),
    }
}

/// The surface of a box for each stone in it; a little for the stones themselves, so that what has no surface costs as well.
fn cost(bin: Bin) -> f32 {
    bin.map_or(0.0, |(low, high, count)| {
        let edge = high - low;
        (edge.x * edge.y + edge.y * edge.z + edge.z * edge.x + 1.0e-6) * count as f32
    })
}

fn about(laid: &[Laid]) -> (Vec3, Vec3) {
    let (mut low, mut high) = (laid[0].low, laid[0].high);
    for one in laid {
        (low, high) = (smaller(low, one.low), larger(high, one.high));
    }
    (low, high)
}

/// A box on a straight way.
pub(super) struct Path {
    from: Vec3,
    half: Vec3,
    /// One over the way, along each axis.
    over: Vec3,
}

impl Path {
    pub(super) fn line(from: Vec3, way: Vec3) -> Path {
        Path::new(from, way, Vec3::ZERO)
    }

    /// Of a hitbox whose core at the start, as seen from its carrier's place, is `start`. What turns stays within its box.
    pub(super) fn of(hitbox: &Swept, start: &Solid) -> Path {
        let (middle, half) = hitbox.bounds_from(start);
        match hitbox.carrier.turns {
            true => Path::new(middle, Vec3::ZERO, half),
            false => {
                let way = hitbox.carrier.travel();
                Path::new(middle - way * 0.5, way, half - (way * 0.5).abs())
            }
        }
    }

    fn new(from: Vec3, way: Vec3, half: Vec3) -> Path {
        // So much is lost to rounding where the numbers are large.
        let lost = (from.abs() + way.abs() + half) * 4.0e-7;
        Path { from, half: half + lost, over: Vec3::ONE / way }
    }

    /// When it first meets a box, from 0 to 1, if it does.
    #[inline]
    fn enters(&self, low: Vec3, high: Vec3) -> Option<f32> {
        let one = (low - self.half - self.from) * self.over;
        let other = (high + self.half - self.from) * self.over;
        let (mut near, mut far) = (0.0, 1.0);
        for axis in 0..3 {
            let (enter, leave) =
                if self.over[axis] < 0.0 { (other[axis], one[axis]) } else { (one[axis], other[axis]) };
            // Where it does not move and a side is just at its edge, the time is no number, and the side is met.
            near = if enter > near { enter } else { near };
            far = if leave < far { leave } else { far };
        }
        (near <= far).then_some(near)
    }
}
