//! Hitboxes and parts that are lines, looked at side by side.
//!
//! A pair has the same answer, bit for bit, as by itself: its looks are the same, each in a lane of its own. Pairs that need another look wait
//! until there is one for each lane.

use super::look::{Line, Look, Mover, Two};
use super::number::{Lanes, Number, Triple};
use super::sweep::MOST_LOOKS;

/// Where the hitboxes and parts of a batch are, and where its touches go.
pub(crate) trait Pairs {
    /// Tells of a pair.
    type Tag: Copy + std::fmt::Debug;

    /// Where the two of a pair are at `t`, seen from the part's place; no point of the part moves faster about its carrier's place than `whirl`.
    fn lines(&self, tag: Self::Tag, t: f32, whirl: f32) -> Option<[Line<f32>; 2]>;
    /// The two of a pair touch at `t`, where they are at these lines, as a look tells.
    fn found(&mut self, tag: Self::Tag, t: f32, lines: [Line<f32>; 2], look: &Look<f32>);
}

/// Pairs that wait until there is one for each lane: those that have not been looked at, and those that have.
#[derive(Clone, Debug)]
pub(crate) struct Batch<N: Lanes, T> {
    new: Hand<N, T>,
    again: Hand<N, T>,
}

/// Some pairs, one for each lane at most.
#[derive(Clone, Debug)]
struct Hand<N: Lanes, T> {
    pairs: Vec<Looked<T>>,
    rows: Rows<N>,
}

/// A pair, when its next look is, and how many it has had.
#[derive(Clone, Copy, Debug)]
struct Looked<T> {
    tag: T,
    t: f32,
    looks: u32,
}

/// What a look asks of so many pairs, number by number: the two movers, how thick they are, how near counts; then the two lines and the time,
/// which are others in each look.
#[derive(Clone, Debug)]
struct Rows<N: Lanes>([N::Row; ROWS]);

const MOVER: usize = 12;
const LINE: usize = 6;
const LASTING: usize = 2 * MOVER + 2;
const ROWS: usize = LASTING + 2 * LINE + 1;
/// Of the part's whirl.
const WHIRL: usize = MOVER + 10;

impl<N: Lanes> Rows<N> {
    #[inline(always)]
    fn put(&mut self, lane: usize, two: &Two<f32>) {
        let mut row = 0;
        let mut put = |number: f32| {
            self.0[row].as_mut()[lane] = number;
            row += 1;
        };
        for mover in [&two.hitbox, &two.part] {
            for Triple { x, y, z } in [mover.place, mover.travel, mover.axis] {
                [x, y, z].into_iter().for_each(&mut put);
            }
            [mover.spin, mover.whirl, mover.size].into_iter().for_each(&mut put);
        }
        put(two.thick);
        put(two.skin);
    }

    #[inline(always)]
    fn place(&mut self, lane: usize, [one, other]: &[Line<f32>; 2], t: f32) {
        let mut row = LASTING;
        let mut put = |number: f32| {
            self.0[row].as_mut()[lane] = number;
            row += 1;
        };
        for Triple { x, y, z } in [one.from, one.to, other.from, other.to] {
            [x, y, z].into_iter().for_each(&mut put);
        }
        put(t);
    }

    #[inline(always)]
    fn get(&self) -> (Two<N>, [Line<N>; 2], N) {
        let one = |row: usize| N::load(&self.0[row]);
        (lasting(one), lines(one), one(LASTING + 2 * LINE))
    }

    /// The lasting numbers of one lane.
    fn two(&self, lane: usize) -> Two<f32> {
        lasting(|row| self.0[row].as_ref()[lane])
    }

    /// The two lines of one lane.
    fn lines(&self, lane: usize) -> [Line<f32>; 2] {
        lines(|row| self.0[row].as_ref()[lane])
    }
}

#[inline(always)]
fn triple<N: Number>(one: &impl Fn(usize) -> N, row: usize) -> Triple<N> {
    Triple { x: one(row), y: one(row + 1), z: one(row + 2) }
}

/// What stays the same in all looks, from where each number is.
#[inline(always)]
fn lasting<N: Number>(one: impl Fn(usize) -> N) -> Two<N> {
    let mover = |row: usize| Mover {
        place: triple(&one, row),
        travel: triple(&one, row + 3),
        axis: triple(&one, row + 6),
        spin: one(row + 9),
        whirl: one(row + 10),
        size: one(row + 11),
    };
    let (thick, skin) = (one(2 * MOVER), one(2 * MOVER + 1));
    Two { hitbox: mover(0), part: mover(MOVER), thick, skin, until: N::all(1.0) }
}

/// The two lines.
#[inline(always)]
fn lines<N: Number>(one: impl Fn(usize) -> N) -> [Line<N>; 2] {
    let line = |row: usize| Line { from: triple(&one, row), to: triple(&one, row + 3) };
    [line(LASTING), line(LASTING + LINE)]
}

impl<N: Lanes, T> Default for Batch<N, T> {
    fn default() -> Batch<N, T> {
        let hand = || Hand { pairs: Vec::new(), rows: Rows([N::all(0.0).store(); ROWS]) };
        Batch { new: hand(), again: hand() }
    }
}

impl<N: Lanes, T: Copy + std::fmt::Debug> Batch<N, T> {
    /// Takes in a pair and how its two move, with their lines as the tick begins, seen from the part's place. Looks at the pairs where there are
    /// enough.
    #[inline]
    pub(crate) fn add<P: Pairs<Tag = T>>(
        &mut self,
        pairs: &mut P,
        tag: T,
        two: &Two<f32>,
        lines: &[Line<f32>; 2],
    ) {
        let Hand { pairs: new, rows } = &mut self.new;
        let lane = new.len();
        rows.put(lane, two);
        rows.place(lane, lines, 0.0);
        new.push(Looked { tag, t: 0.0, looks: 0 });
        if lane + 1 == N::COUNT {
            self.look(pairs);
        }
    }

    /// Looks at all that are left until none is.
    pub(crate) fn finish<P: Pairs<Tag = T>>(&mut self, pairs: &mut P) {
        self.look(pairs);
        while !self.again.pairs.is_empty() {
            self.again.look_again(pairs);
        }
    }

    /// One look at the new pairs. Those that need another wait.
    fn look<P: Pairs<Tag = T>>(&mut self, pairs: &mut P) {
        let Batch { new, again } = self;
        let (next, times) = new.look(pairs);
        let mut left = next;
        while left != 0 {
            let lane = left.trailing_zeros() as usize;
            left &= left - 1;
            while again.pairs.len() == N::COUNT {
                again.look_again(pairs);
            }
            let Looked { tag, looks, .. } = new.pairs[lane];
            let looked = Looked { tag, t: times.as_ref()[lane], looks: looks + 1 };
            again.take(pairs, looked, |row| new.rows.0[row].as_ref()[lane]);
        }
        new.pairs.clear();
    }
}

impl<N: Lanes, T: Copy + std::fmt::Debug> Hand<N, T> {
    /// Takes in a pair with these lasting numbers.
    #[inline]
    fn take<P: Pairs<Tag = T>>(&mut self, pairs: &P, looked: Looked<T>, lasting: impl Fn(usize) -> f32) {
        let lane = self.pairs.len();
        for row in 0..LASTING {
            self.rows.0[row].as_mut()[lane] = lasting(row);
        }
        if let Some(lines) = pairs.lines(looked.tag, looked.t, lasting(WHIRL)) {
            self.rows.place(lane, &lines, looked.t);
            self.pairs.push(looked);
        }
    }

    /// One look at all of its pairs. Those that need another stay.
    fn look_again<P: Pairs<Tag = T>>(&mut self, pairs: &mut P) {
        let (mut left, times) = self.look(pairs);
        let mut kept = 0;
        while left != 0 {
            let lane = left.trailing_zeros() as usize;
            left &= left - 1;
            let Looked { tag, looks, .. } = self.pairs[lane];
            let looked = Looked { tag, t: times.as_ref()[lane], looks: looks + 1 };
            for row in &mut self.rows.0[..LASTING] {
                row.as_mut()[kept] = row.as_ref()[lane];
            }
            let whirl = self.rows.0[WHIRL].as_ref()[kept];
            if looked.looks < MOST_LOOKS
                && let Some(lines) = pairs.lines(tag, looked.t, whirl)
            {
                self.rows.place(kept, &lines, looked.t);
                self.pairs[kept] = looked;
                kept += 1;
            }
        }
        self.pairs.truncate(kept);
    }

    /// One look at all of its pairs. Those that touch are told; gives those that need another look, by lane, and when.
    fn look<P: Pairs<Tag = T>>(&self, pairs: &mut P) -> (u32, N::Row) {
        // One or two have theirs sooner by themselves.
        if self.pairs.len() <= 2 {
            return self.look_at_each(pairs);
        }
        let (two, [here, there], t) = self.rows.get();
        let look = two.look(t, &here, &there);
        let all = (1u32 << self.pairs.len()) - 1;
        let (touch, apart) = (N::bits(look.touch), N::bits(look.apart));
        if touch & all != 0 {
            self.tell(touch & all, &look, pairs);
        }
        (!(touch | apart) & all, look.next.store())
    }

    /// As [`look`](Self::look), one after the other.
    fn look_at_each<P: Pairs<Tag = T>>(&self, pairs: &mut P) -> (u32, N::Row) {
        let (mut again, mut times) = (0, N::all(0.0).store());
        for (lane, &Looked { tag, t, .. }) in self.pairs.iter().enumerate() {
            let lines @ [here, there] = self.rows.lines(lane);
            let look = self.rows.two(lane).look(t, &here, &there);
            if look.touch {
                pairs.found(tag, t, lines, &look);
            } else if !look.apart {
                again |= 1 << lane;
                times.as_mut()[lane] = look.next;
            }
        }
        (again, times)
    }

    /// Tells those that touch.
    #[inline(never)]
    fn tell<P: Pairs<Tag = T>>(&self, mut touch: u32, look: &Look<N>, pairs: &mut P) {
        let stored = |triple: Triple<N>| [triple.x, triple.y, triple.z].map(N::store);
        let (near, away) = (stored(look.near_part), stored(look.away));
        let (distance, next) = (look.distance.store(), look.next.store());
        while touch != 0 {
            let lane = touch.trailing_zeros() as usize;
            touch &= touch - 1;
            let number = |row: &N::Row| row.as_ref()[lane];
            let triple = |[x, y, z]: &[N::Row; 3]| Triple { x: number(x), y: number(y), z: number(z) };
            let Looked { tag, t, .. } = self.pairs[lane];
            let (near_part, away, distance) = (triple(&near), triple(&away), number(&distance));
            let look = Look { apart: false, touch: true, next: number(&next), near_part, away, distance };
            pairs.found(tag, t, self.rows.lines(lane), &look);
        }
    }
}
