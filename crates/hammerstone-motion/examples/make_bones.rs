//! Makes the skeletons that the shipped fights use: `mason.glb`, a mason with a maul and four animations, in metres with y up; and
//! `gaunt-ducks.bvh`, a gaunt that ducks and rises, in centimetres with z up.
//!
//! Run it with `cargo run -p hammerstone-motion --example make_bones [FOLDER]`; without a folder, it holds those that are shipped against
//! what it makes.

use std::path::Path;

use serde_json::{Value, json};

/// A joint: its name, what carries it, and where it is in the frame of that, in metres. All are unturned at rest, and arms hang down.
type Joint = (&'static str, Option<&'static str>, [f64; 3]);

const MASON: [Joint; 19] = [
    ("pelvis", None, [0.0, 0.95, 0.0]),
    ("spine", Some("pelvis"), [0.0, 0.12, 0.0]),
    ("chest", Some("spine"), [0.0, 0.2, 0.0]),
    ("neck", Some("chest"), [0.0, 0.22, 0.0]),
    ("head", Some("neck"), [0.0, 0.12, 0.02]),
    ("arm.l", Some("chest"), [0.2, 0.17, 0.0]),
    ("forearm.l", Some("arm.l"), [0.0, -0.3, 0.0]),
    ("hand.l", Some("forearm.l"), [0.0, -0.27, 0.0]),
    ("arm.r", Some("chest"), [-0.2, 0.17, 0.0]),
    ("forearm.r", Some("arm.r"), [0.0, -0.3, 0.0]),
    ("hand.r", Some("forearm.r"), [0.0, -0.27, 0.0]),
    ("maul", Some("hand.r"), [0.0, 0.0, 0.1]),
    ("maul.head", Some("maul"), [0.0, 0.0, 0.9]),
    ("thigh.l", Some("pelvis"), [0.1, -0.05, 0.0]),
    ("shin.l", Some("thigh.l"), [0.0, -0.42, 0.0]),
    ("foot.l", Some("shin.l"), [0.0, -0.4, 0.05]),
    ("thigh.r", Some("pelvis"), [-0.1, -0.05, 0.0]),
    ("shin.r", Some("thigh.r"), [0.0, -0.42, 0.0]),
    ("foot.r", Some("shin.r"), [0.0, -0.4, 0.05]),
];

/// At a time in seconds, joints with their turns about x, then y, then z, in degrees. A joint that is not named is unturned.
type Stance = (f64, &'static [(&'static str, [f64; 3])]);

const GUARD: &[(&str, [f64; 3])] = &[
    ("arm.r", [-25.0, 0.0, -8.0]),
    ("forearm.r", [-60.0, 0.0, 0.0]),
    ("hand.r", [20.0, 0.0, 0.0]),
    ("arm.l", [-30.0, 0.0, 8.0]),
    ("forearm.l", [-70.0, -30.0, 0.0]),
];

/// The same with a chest that rises.
const BREATH: &[(&str, [f64; 3])] = &[
    ("chest", [-3.0, 0.0, 0.0]),
    ("head", [2.0, 0.0, 0.0]),
    ("arm.r", [-27.0, 0.0, -9.0]),
    ("forearm.r", [-61.0, 0.0, 0.0]),
    ("hand.r", [20.0, 0.0, 0.0]),
    ("arm.l", [-32.0, 0.0, 9.0]),
    ("forearm.l", [-71.0, -30.0, 0.0]),
];

const STEP_LEFT: &[(&str, [f64; 3])] = &[
    ("thigh.l", [-28.0, 0.0, 0.0]),
    ("shin.l", [8.0, 0.0, 0.0]),
    ("thigh.r", [22.0, 0.0, 0.0]),
    ("shin.r", [18.0, 0.0, 0.0]),
    ("spine", [4.0, -5.0, 0.0]),
    ("arm.r", [-40.0, 0.0, -8.0]),
    ("forearm.r", [-60.0, 0.0, 0.0]),
    ("hand.r", [20.0, 0.0, 0.0]),
    ("arm.l", [10.0, 0.0, 8.0]),
    ("forearm.l", [-50.0, -10.0, 0.0]),
];

const STEP_RIGHT: &[(&str, [f64; 3])] = &[
    ("thigh.r", [-28.0, 0.0, 0.0]),
    ("shin.r", [8.0, 0.0, 0.0]),
    ("thigh.l", [22.0, 0.0, 0.0]),
    ("shin.l", [18.0, 0.0, 0.0]),
    ("spine", [4.0, 5.0, 0.0]),
    ("arm.r", [-15.0, 0.0, -8.0]),
    ("forearm.r", [-60.0, 0.0, 0.0]),
    ("hand.r", [20.0, 0.0, 0.0]),
    ("arm.l", [-40.0, 0.0, 8.0]),
    ("forearm.l", [-60.0, -10.0, 0.0]),
];

/// Wound up to the right, for a sweep.
const WOUND: &[(&str, [f64; 3])] = &[
    ("pelvis", [0.0, -15.0, 0.0]),
    ("spine", [0.0, -25.0, 0.0]),
    ("chest", [0.0, -30.0, 0.0]),
    ("head", [0.0, 50.0, 0.0]),
    ("arm.r", [-80.0, -25.0, 0.0]),
    ("forearm.r", [-25.0, 0.0, 0.0]),
    ("hand.r", [95.0, 0.0, 0.0]),
    ("arm.l", [-75.0, -40.0, 0.0]),
    ("forearm.l", [-40.0, -30.0, 0.0]),
];

/// Swept through to the left.
const SWEPT: &[(&str, [f64; 3])] = &[
    ("pelvis", [0.0, 15.0, 0.0]),
    ("spine", [4.0, 25.0, 0.0]),
    ("chest", [4.0, 35.0, 0.0]),
    ("head", [0.0, -45.0, 0.0]),
    ("arm.r", [-80.0, 20.0, 0.0]),
    ("forearm.r", [-10.0, 0.0, 0.0]),
    ("hand.r", [90.0, 0.0, 0.0]),
    ("arm.l", [-70.0, 10.0, 0.0]),
    ("forearm.l", [-40.0, -20.0, 0.0]),
];

/// The maul above the head.
const RAISED: &[(&str, [f64; 3])] = &[
    ("spine", [-8.0, 0.0, 0.0]),
    ("chest", [-10.0, 0.0, 0.0]),
    ("arm.r", [-165.0, 0.0, 15.0]),
    ("forearm.r", [-25.0, 0.0, 0.0]),
    ("hand.r", [60.0, 0.0, 0.0]),
    ("arm.l", [-160.0, 0.0, -15.0]),
    ("forearm.l", [-35.0, 0.0, 0.0]),
];

/// The maul on the ground in front.
const DOWN: &[(&str, [f64; 3])] = &[
    ("spine", [22.0, 0.0, 0.0]),
    ("chest", [18.0, 0.0, 0.0]),
    ("head", [-25.0, 0.0, 0.0]),
    ("arm.r", [-75.0, 0.0, 12.0]),
    ("forearm.r", [-8.0, 0.0, 0.0]),
    ("hand.r", [85.0, 0.0, 0.0]),
    ("arm.l", [-75.0, 0.0, -12.0]),
    ("forearm.l", [-12.0, 0.0, 0.0]),
    ("thigh.l", [-20.0, 0.0, 0.0]),
    ("shin.l", [30.0, 0.0, 0.0]),
    ("thigh.r", [12.0, 0.0, 0.0]),
    ("shin.r", [10.0, 0.0, 0.0]),
];

/// Its name, its stances, and its markers.
type Played = (&'static str, &'static [Stance], &'static [(&'static str, f64)]);

const PLAYED: [Played; 4] = [
    ("stand", &[(0.0, GUARD), (1.0, BREATH), (2.0, GUARD)], &[]),
    ("walk", &[(0.0, STEP_LEFT), (0.5, STEP_RIGHT), (1.0, STEP_LEFT)], &[]),
    (
        "sweep",
        &[(0.0, GUARD), (0.35, WOUND), (0.45, WOUND), (0.75, SWEPT), (0.85, SWEPT), (1.25, GUARD)],
        &[("opens", 0.45), ("shuts", 0.75)],
    ),
    (
        "overhead",
        &[(0.0, GUARD), (0.4, RAISED), (0.5, RAISED), (0.75, DOWN), (0.95, DOWN), (1.4, GUARD)],
        &[("opens", 0.5), ("shuts", 0.8)],
    ),
];

/// How many keys are written for a second.
const KEYS: f64 = 30.0;

fn turn(degrees: [f64; 3]) -> [f64; 4] {
    let half = degrees.map(|degrees| degrees * (std::f64::consts::PI / 360.0));
    let [[sx, sy, sz], [cx, cy, cz]] = [half.map(libm::sin), half.map(libm::cos)];
    // About x, then about y, then about z of the outer frame.
    [
        sx * cy * cz - cx * sy * sz,
        cx * sy * cz + sx * cy * sz,
        cx * cy * sz - sx * sy * cz,
        cx * cy * cz + sx * sy * sz,
    ]
}

fn degrees_of(joint: &str, stance: &[(&str, [f64; 3])]) -> [f64; 3] {
    stance.iter().find(|(name, _)| *name == joint).map_or([0.0; 3], |(_, degrees)| *degrees)
}

/// The turns of a joint at a time: it leaves a stance slowly and comes into the next one slowly.
fn eased(joint: &str, stances: &[Stance], at: f64) -> [f64; 3] {
    let next = stances.iter().position(|(time, _)| *time > at).unwrap_or(stances.len() - 1);
    let ((from, before), (to, after)) = (stances[next - 1], stances[next]);
    let share = ((at - from) / (to - from)).clamp(0.0, 1.0);
    let share = share * share * (3.0 - 2.0 * share);
    let (before, after) = (degrees_of(joint, before), degrees_of(joint, after));
    [0, 1, 2].map(|axis| before[axis] + (after[axis] - before[axis]) * share)
}

/// Numbers of a file, and where they stand in it.
#[derive(Default)]
struct Body {
    bytes: Vec<u8>,
    views: Vec<Value>,
    accessors: Vec<Value>,
}

impl Body {
    fn push(&mut self, sort: &str, each: usize, numbers: &[f32]) -> usize {
        let offset = self.bytes.len();
        self.bytes.extend(numbers.iter().flat_map(|number| number.to_le_bytes()));
        let length = self.bytes.len() - offset;
        self.views.push(json!({ "buffer": 0, "byteOffset": offset, "byteLength": length }));
        let mut accessor = json!({
            "bufferView": self.views.len() - 1, "componentType": 5126, "count": numbers.len() / each, "type": sort,
        });
        if each == 1 {
            (accessor["min"], accessor["max"]) = (json!([numbers[0]]), json!([numbers[numbers.len() - 1]]));
        }
        self.accessors.push(accessor);
        self.accessors.len() - 1
    }
}

fn mason() -> Vec<u8> {
    let number = |name: &str| MASON.iter().position(|joint| joint.0 == name);
    let nodes: Vec<Value> = MASON
        .iter()
        .map(|(name, _, at)| {
            let carries =
                MASON.iter().filter(|joint| joint.1 == Some(name)).filter_map(|joint| number(joint.0));
            let carries: Vec<usize> = carries.collect();
            match carries.is_empty() {
                true => json!({ "name": name, "translation": at }),
                false => json!({ "name": name, "translation": at, "children": carries }),
            }
        })
        .collect();
    let mut body = Body::default();
    let mut animations = Vec::new();
    for (name, stances, markers) in PLAYED {
        let long = stances[stances.len() - 1].0;
        let count = (long * KEYS).round() as usize;
        let times: Vec<f64> = (0..=count).map(|key| long * key as f64 / count as f64).collect();
        let input = body.push("SCALAR", 1, &times.iter().map(|&time| time as f32).collect::<Vec<_>>());
        let (mut channels, mut samplers) = (Vec::new(), Vec::new());
        for (node, (joint, ..)) in MASON.iter().enumerate() {
            if stances.iter().all(|(_, stance)| degrees_of(joint, stance) == [0.0; 3]) {
                continue;
            }
            let turns = times.iter().flat_map(|&at| turn(eased(joint, stances, at)));
            let output = body.push("VEC4", 4, &turns.map(|x| x as f32).collect::<Vec<_>>());
            channels
                .push(json!({ "sampler": samplers.len(), "target": { "node": node, "path": "rotation" } }));
            samplers.push(json!({ "input": input, "output": output, "interpolation": "LINEAR" }));
        }
        let mut animation = json!({ "name": name, "channels": channels, "samplers": samplers });
        if !markers.is_empty() {
            let markers: serde_json::Map<String, Value> =
                markers.iter().map(|(name, at)| ((*name).to_owned(), json!(at))).collect();
            animation["extras"] = json!({ "markers": markers });
        }
        animations.push(animation);
    }
    let text = json!({
        "asset": { "version": "2.0", "generator": "make_bones of hammerstone-motion" },
        "scene": 0,
        "scenes": [{ "nodes": [0] }],
        "nodes": nodes,
        "animations": animations,
        "buffers": [{ "byteLength": body.bytes.len() }],
        "bufferViews": body.views,
        "accessors": body.accessors,
    });
    let mut text = text.to_string().into_bytes();
    text.resize(text.len().next_multiple_of(4), b' ');
    body.bytes.resize(body.bytes.len().next_multiple_of(4), 0);
    let mut file = b"glTF".to_vec();
    let word = |file: &mut Vec<u8>, word: usize| file.extend((word as u32).to_le_bytes());
    word(&mut file, 2);
    word(&mut file, 12 + 8 + text.len() + 8 + body.bytes.len());
    word(&mut file, text.len());
    file.extend(b"JSON");
    file.extend(&text);
    word(&mut file, body.bytes.len());
    file.extend(b"BIN\0");
    file.extend(&body.bytes);
    file
}

const GAUNT: &str = "\
HIERARCHY
ROOT hips
{
  OFFSET 0 0 110
  CHANNELS 4 Xposition Yposition Zposition Xrotation
  JOINT back
  {
    OFFSET 0 0 35
    CHANNELS 1 Xrotation
    JOINT skull
    {
      OFFSET 0 -5 45
      CHANNELS 1 Xrotation
      End Site
      {
        OFFSET 0 -10 30
      }
    }
    JOINT claw.l
    {
      OFFSET 35 0 30
      CHANNELS 2 Xrotation Zrotation
      End Site
      {
        OFFSET 10 -45 -50
      }
    }
    JOINT claw.r
    {
      OFFSET -35 0 30
      CHANNELS 2 Xrotation Zrotation
      End Site
      {
        OFFSET -10 -45 -50
      }
    }
  }
  JOINT leg.l
  {
    OFFSET 18 0 -5
    CHANNELS 1 Xrotation
    JOINT shank.l
    {
      OFFSET 0 0 -50
      CHANNELS 1 Xrotation
      End Site
      {
        OFFSET 0 0 -50
      }
    }
  }
  JOINT leg.r
  {
    OFFSET -18 0 -5
    CHANNELS 1 Xrotation
    JOINT shank.r
    {
      OFFSET 0 0 -50
      CHANNELS 1 Xrotation
      End Site
      {
        OFFSET 0 0 -50
      }
    }
  }
}
MOTION
";

/// It stands for half a second, goes down, stays there, and comes up again: two seconds at 25 frames a second.
fn gaunt() -> String {
    let mut text = GAUNT.to_owned();
    let frames = 51;
    text += &format!("Frames: {frames}\nFrame Time: 0.04\n");
    for frame in 0..frames {
        let at = f64::from(frame) * 0.04;
        let share = if at < 1.2 { (at - 0.5) / 0.35 } else { (1.9 - at) / 0.4 }.clamp(0.0, 1.0);
        let down = share * share * (3.0 - 2.0 * share);
        // It faces -y.
        let numbers = [
            0.0,
            0.0,
            110.0 - 64.0 * down,
            35.0 * down,
            38.0 * down,
            -50.0 * down,
            -30.0 * down,
            10.0 * down,
            -30.0 * down,
            -10.0 * down,
            -135.0 * down,
            130.0 * down,
            -135.0 * down,
            130.0 * down,
        ];
        let line: Vec<String> = numbers.iter().map(|number| format!("{number:.3}")).collect();
        text += &(line.join(" ") + "\n");
    }
    text
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let shipped = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../scenarios/bones");
    let folder = std::env::args().nth(1);
    for (name, made) in [("mason.glb", mason()), ("gaunt-ducks.bvh", gaunt().into_bytes())] {
        if let Some(folder) = &folder {
            std::fs::write(Path::new(folder).join(name), &made)?;
            println!("{name}: {} bytes", made.len());
            continue;
        }
        let there = std::fs::read(shipped.join(name))?;
        if there != made {
            return Err(format!("{name} is not what this makes; make it anew").into());
        }
        println!("{name}: as it is made, {} bytes", made.len());
    }
    Ok(())
}
