//! Skeletons from BVH motion capture: a hierarchy of joints with offsets and channels, and a line of numbers for each frame.

use std::iter::Peekable;

use hammerstone::geometry::Axis;

use crate::Axes;
use crate::skeleton::{
    Animation, Between, Joint, LONGEST, MOST_JOINTS, MOST_NUMBERS, MotionError, Places, Skeleton, Track,
    Tracks, Turns, sound,
};
use crate::turns::{Local, Place, UNTURNED, about, times, unit};

/// One of the numbers of a frame.
#[derive(Clone, Copy, PartialEq, Debug)]
enum Channel {
    Moves(usize),
    Turns(Axis),
}

const CHANNELS: [(&str, Channel); 6] = [
    ("Xposition", Channel::Moves(0)),
    ("Yposition", Channel::Moves(1)),
    ("Zposition", Channel::Moves(2)),
    ("Xrotation", Channel::Turns(Axis::X)),
    ("Yrotation", Channel::Turns(Axis::Y)),
    ("Zrotation", Channel::Turns(Axis::Z)),
];

/// Words with their lines, from 1.
struct Words<'a, I: Iterator<Item = (usize, &'a str)>> {
    words: Peekable<I>,
    line: usize,
}

impl<'a, I: Iterator<Item = (usize, &'a str)>> Words<'a, I> {
    fn next(&mut self, wanted: &str) -> Result<&'a str, MotionError> {
        let Some((line, word)) = self.words.next() else {
            return Err(self.wrong(format!("the file ends here; {wanted} should follow")));
        };
        self.line = line;
        Ok(word)
    }

    fn is_next(&mut self, word: &str) -> bool {
        self.words.peek().is_some_and(|(_, next)| next.eq_ignore_ascii_case(word))
    }

    fn keyword(&mut self, wanted: &str) -> Result<(), MotionError> {
        let word = self.next(&format!("`{wanted}`"))?;
        if word.eq_ignore_ascii_case(wanted) {
            return Ok(());
        }
        Err(self.wrong(format!("`{word}` stands where `{wanted}` should")))
    }

    fn number(&mut self, wanted: &str) -> Result<f64, MotionError> {
        let word = self.next(wanted)?;
        let value: Option<f64> = word.parse().ok().filter(|&value| sound(value));
        value.ok_or_else(|| self.wrong(format!("`{word}` stands where {wanted} should, a finite number")))
    }

    fn count(&mut self, wanted: &str, most: usize) -> Result<usize, MotionError> {
        let word = self.next(wanted)?;
        let value: Option<usize> = word.parse().ok().filter(|&value| value <= most);
        value.ok_or_else(|| {
            self.wrong(format!("`{word}` stands where {wanted} should, a whole number up to {most}"))
        })
    }

    fn wrong(&self, problem: String) -> MotionError {
        MotionError::new(format!("line {}", self.line), problem)
    }
}

impl Skeleton {
    /// A skeleton and its one animation, which gets this name, from a text in BVH. An end site is a joint called after the one that carries
    /// it: `hand.l end`. Angles are in degrees; they turn in the order in which the channels of a joint stand.
    ///
    /// *Errors:* the first word that cannot be read, with its line; a frame with too few or too many numbers.
    pub fn from_bvh(text: &str, animation: &str, axes: Axes) -> Result<Skeleton, MotionError> {
        let lines = (1..).zip(text.lines());
        let words = lines.flat_map(|(number, line)| line.split_whitespace().map(move |word| (number, word)));
        let mut words = Words { words: words.peekable(), line: 1 };
        words.keyword("HIERARCHY")?;
        let (mut joints, mut channels) = (Vec::new(), Vec::new());
        while words.is_next("ROOT") {
            words.keyword("ROOT")?;
            hierarchy(&mut words, &mut joints, &mut channels)?;
        }
        if joints.is_empty() {
            let word = words.next("`ROOT`")?;
            return Err(words.wrong(format!("`{word}` stands where `ROOT` should")));
        }
        words.keyword("MOTION")?;
        words.keyword("Frames:")?;
        let frames = words.count("the number of frames", MOST_NUMBERS)?;
        words.keyword("Frame")?;
        words.keyword("Time:")?;
        let step = words.number("the time of a frame in seconds")?;
        if step < 1.0e-6 {
            return Err(words.wrong("the time of a frame is not above zero; give seconds".to_owned()));
        }
        let seconds = step * (frames.max(1) - 1) as f64;
        if seconds > LONGEST {
            return Err(
                words.wrong(format!("the animation lasts {seconds:.0} s; cut it to {LONGEST} s at most"))
            );
        }
        if frames * channels.len() > MOST_NUMBERS {
            return Err(words.wrong(format!("the animation has more than {MOST_NUMBERS} numbers; cut it")));
        }
        let tracks = motion(&mut words, &joints, &channels, frames, step, axes)?;
        for joint in &mut joints {
            joint.rest = axes.local(joint.rest);
        }
        let animation = Animation { name: animation.to_owned(), seconds, markers: Vec::new(), tracks };
        Skeleton::new(joints, if frames == 0 { Vec::new() } else { vec![animation] }, axes.to)
    }
}

/// A root with all that it carries; the word before it has been read.
fn hierarchy<'a>(
    words: &mut Words<'a, impl Iterator<Item = (usize, &'a str)>>,
    joints: &mut Vec<Joint>,
    channels: &mut Vec<(usize, Channel)>,
) -> Result<(), MotionError> {
    // The joints with open braces.
    let mut open: Vec<usize> = Vec::new();
    let mut name = words.next("the name of the root")?.to_owned();
    loop {
        let number = joints.len();
        if number == MOST_JOINTS {
            return Err(words.wrong(format!("there are more than {MOST_JOINTS} joints; take some out")));
        }
        words.keyword("{")?;
        words.keyword("OFFSET")?;
        let mut at: Place = [0.0; 3];
        for axis in &mut at {
            *axis = words.number("a coordinate of the offset")?;
        }
        joints.push(Joint { name, parent: open.last().copied(), rest: Local { at, turn: UNTURNED } });
        open.push(number);
        if words.is_next("CHANNELS") {
            words.keyword("CHANNELS")?;
            for _ in 0..words.count("the number of channels", 6)? {
                let word = words.next("a channel")?;
                let known = CHANNELS.iter().find(|(name, _)| name.eq_ignore_ascii_case(word));
                let Some((_, channel)) = known else {
                    let names = CHANNELS.map(|(name, _)| name).join(", ");
                    return Err(words.wrong(format!("`{word}` is no channel; there are {names}")));
                };
                channels.push((number, *channel));
            }
        }
        // Closes what ends here, until something begins.
        name = loop {
            let word = words.next("`JOINT`, `End Site` or `}`")?;
            if word == "}" {
                open.pop();
                if open.is_empty() {
                    return Ok(());
                }
            } else if word.eq_ignore_ascii_case("JOINT") {
                break words.next("the name of a joint")?.to_owned();
            } else if word.eq_ignore_ascii_case("End") {
                words.keyword("Site")?;
                let carrier = open.last().map_or("", |&carrier| joints[carrier].name.as_str());
                break format!("{carrier} end");
            } else {
                return Err(words.wrong(format!("`{word}` stands where `JOINT`, `End Site` or `}}` should")));
            }
        };
    }
}

fn motion<'a>(
    words: &mut Words<'a, impl Iterator<Item = (usize, &'a str)>>,
    joints: &[Joint],
    channels: &[(usize, Channel)],
    frames: usize,
    step: f64,
    axes: Axes,
) -> Result<Vec<Tracks>, MotionError> {
    let mut places: Vec<Places> = vec![Vec::new(); joints.len()];
    let mut turns: Vec<Turns> = vec![Vec::new(); joints.len()];
    let mut frame: Vec<Local> = Vec::new();
    for number in 1..=frames {
        frame.clear();
        frame.extend(joints.iter().map(|joint| joint.rest));
        let mut line = None;
        for &(joint, channel) in channels {
            let value = words.number(&format!("a number of frame {number} of {frames}"))?;
            if *line.get_or_insert(words.line) != words.line {
                let long = channels.len();
                words.line -= 1;
                return Err(words.wrong(format!("frame {number} has fewer numbers than its {long} channels")));
            }
            let local = &mut frame[joint];
            match channel {
                Channel::Moves(axis) => local.at[axis] = value,
                Channel::Turns(axis) => {
                    local.turn = times(local.turn, about(axis.vector().map(f64::from), value));
                }
            }
        }
        if let (Some(line), Some(&(next, word))) = (line, words.words.peek())
            && next == line
        {
            let long = channels.len();
            return Err(
                words.wrong(format!("frame {number} goes on with `{word}` behind its {long} numbers"))
            );
        }
        for (joint, local) in frame.iter().enumerate() {
            let local = axes.local(*local);
            places[joint].push(local.at);
            turns[joint].push(unit(local.turn).unwrap_or(UNTURNED));
        }
    }
    if let Some((line, word)) = words.words.next() {
        words.line = line;
        return Err(words
            .wrong(format!("`{word}` stands behind the last of {frames} frames; count them in `Frames:`")));
    }
    let keys: Vec<f64> = (0..frames).map(|frame| step * frame as f64).collect();
    let moved = |joint: usize, moves: bool| {
        channels.iter().any(|&(of, channel)| of == joint && matches!(channel, Channel::Moves(_)) == moves)
    };
    let sides = places.into_iter().zip(turns).enumerate();
    Ok(sides
        .map(|(joint, (places, turns))| Tracks {
            at: track(moved(joint, true), &keys, places),
            turn: track(moved(joint, false), &keys, turns),
        })
        .collect())
}

fn track<const N: usize>(given: bool, times: &[f64], values: Vec<[f64; N]>) -> Option<Track<N>> {
    (given && !values.is_empty()).then(|| Track { between: Between::Evenly, times: times.to_vec(), values })
}
