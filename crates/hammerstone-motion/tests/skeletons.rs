//! Skeletons from files, against another computation of the same: matrices and quaternions of a vector crate.

use base64::Engine;
use glam::{DAffine3, DQuat, DVec3};
use hammerstone::geometry::{Axis, Pose};
use hammerstone_motion::{Animator, Axes, Clip, Skeleton};
use proptest::collection::vec;
use proptest::prelude::*;
use serde_json::{Value, json};

const SAME: Axes = Axes::same(Axis::Y);

fn shipped(name: &str) -> Vec<u8> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../scenarios/bones/");
    std::fs::read(format!("{folder}{name}")).expect("it is shipped")
}

fn alone(name: &str) -> Result<Vec<u8>, String> {
    Err(format!("{name} is not there"))
}

fn read(bytes: &[u8], axes: Axes) -> Skeleton {
    Skeleton::from_bytes(bytes, "moves", axes, &mut alone).expect("it can be read")
}

fn near(pose: Pose, wanted: DAffine3, within: f64) -> bool {
    let [x, y, z] = pose.at.map(f64::from);
    let place =
        DVec3::new(x, y, z).distance(wanted.translation) <= within * (1.0 + wanted.translation.length());
    let [x, y, z, w] = pose.turn.map(f64::from);
    let (_, turn, _) = wanted.to_scale_rotation_translation();
    place && DQuat::from_xyzw(x, y, z, w).dot(turn).abs() >= 1.0 - within
}

/// A tree: of each joint but the first, which of those before it carries it; offsets; three angles for each key of each joint.
#[derive(Clone, Debug)]
struct Tree {
    carriers: Vec<usize>,
    offsets: Vec<[f64; 3]>,
    /// By joint, by key.
    angles: Vec<Vec<[f64; 3]>>,
    scales: Vec<f64>,
}

fn trees() -> impl Strategy<Value = Tree> {
    (1..9usize, 1..5usize).prop_flat_map(|(joints, keys)| {
        let carriers = (0..joints).map(|joint| 0..joint.max(1)).collect::<Vec<_>>();
        let offsets = vec(prop::array::uniform3(-2.0..2.0f64), joints);
        let angles = vec(vec(prop::array::uniform3(-170.0..170.0f64), keys), joints);
        // Joints at one place are a part of it.
        let scales = vec(prop_oneof![Just(1.0), 0.01..3.0f64], joints);
        (carriers, offsets, angles, scales).prop_map(|(carriers, mut offsets, angles, scales)| {
            if offsets.len() > 3 {
                offsets[3] = [0.0; 3];
            }
            Tree { carriers, offsets, angles, scales }
        })
    })
}

impl Tree {
    fn children(&self, of: usize) -> impl Iterator<Item = usize> {
        (1..self.carriers.len()).filter(move |&joint| self.carriers[joint] == of)
    }

    /// In the order in which a text names them, each before those that it carries.
    fn order(&self) -> Vec<usize> {
        let (mut order, mut waiting) = (Vec::new(), vec![0]);
        while let Some(joint) = waiting.pop() {
            order.push(joint);
            let mut children: Vec<usize> = self.children(joint).collect();
            children.reverse();
            waiting.extend(children);
        }
        order
    }

    fn bvh(&self) -> String {
        fn joint(tree: &Tree, number: usize, text: &mut String) {
            let [x, y, z] = tree.offsets[number];
            let word = if number == 0 { "ROOT" } else { "JOINT" };
            *text += &format!(
                "{word} j{number}\n{{\nOFFSET {x} {y} {z}\nCHANNELS 3 Zrotation Xrotation Yrotation\n"
            );
            for child in tree.children(number) {
                joint(tree, child, text);
            }
            *text += "}\n";
        }
        let mut text = "HIERARCHY\n".to_owned();
        joint(self, 0, &mut text);
        let keys = self.angles[0].len();
        text += &format!("MOTION\nFrames: {keys}\nFrame Time: 0.5\n");
        for key in 0..keys {
            let angles = self.order().into_iter().flat_map(|joint| self.angles[joint][key]);
            text += &(angles.map(|angle| angle.to_string()).collect::<Vec<_>>().join(" ") + "\n");
        }
        text
    }

    fn turn(&self, joint: usize, key: usize) -> DQuat {
        let [z, x, y] = self.angles[joint][key].map(f64::to_radians);
        DQuat::from_rotation_z(z) * DQuat::from_rotation_x(x) * DQuat::from_rotation_y(y)
    }

    /// Where joints are between two keys, of turns, with sizes or without.
    fn placed(&self, key: usize, share: f64, sized: bool) -> Vec<DAffine3> {
        let mut placed: Vec<DAffine3> = Vec::new();
        for joint in 0..self.carriers.len() {
            let next = (key + 1).min(self.angles[joint].len() - 1);
            let (from, mut to) = (self.turn(joint, key), self.turn(joint, next));
            if from.dot(to) < 0.0 {
                to = -to;
            }
            let scale = DVec3::splat(if sized { self.scales[joint] } else { 1.0 });
            let turn = from.slerp(to, share);
            let local = DAffine3::from_scale_rotation_translation(
                scale,
                turn,
                DVec3::from_array(self.offsets[joint]),
            );
            let carrier = if joint == 0 { DAffine3::IDENTITY } else { placed[self.carriers[joint]] };
            placed.push(carrier * local);
        }
        placed
    }

    /// The same as glTF, with a buffer in the text.
    fn gltf(&self) -> Value {
        let joints = self.carriers.len();
        let keys = self.angles[0].len();
        let times: Vec<f32> = (0..keys).map(|key| key as f32 * 0.5).collect();
        let mut bytes: Vec<u8> = times.iter().flat_map(|time| time.to_le_bytes()).collect();
        let mut views = vec![json!({ "buffer": 0, "byteLength": bytes.len() })];
        let mut accessors = vec![json!({
            "bufferView": 0, "componentType": 5126, "count": keys, "type": "SCALAR", "min": [0.0], "max": [times[keys - 1]],
        })];
        let (mut channels, mut samplers) = (Vec::new(), Vec::new());
        for joint in 0..joints {
            let from = bytes.len();
            for key in 0..keys {
                bytes.extend(self.turn(joint, key).to_array().iter().flat_map(|&x| (x as f32).to_le_bytes()));
            }
            views.push(json!({ "buffer": 0, "byteOffset": from, "byteLength": bytes.len() - from }));
            accessors.push(json!({ "bufferView": views.len() - 1, "componentType": 5126, "count": keys, "type": "VEC4" }));
            channels.push(json!({ "sampler": joint, "target": { "node": joint, "path": "rotation" } }));
            samplers.push(json!({ "input": 0, "output": accessors.len() - 1 }));
        }
        let nodes: Vec<Value> = (0..joints)
            .map(|joint| {
                let (at, scale) = (self.offsets[joint], [self.scales[joint]; 3]);
                let mut node = json!({ "name": format!("j{joint}"), "translation": at, "scale": scale });
                let children: Vec<usize> = self.children(joint).collect();
                if !children.is_empty() {
                    node["children"] = json!(children);
                }
                node
            })
            .collect();
        let coded = base64::engine::general_purpose::STANDARD.encode(&bytes);
        json!({
            "asset": { "version": "2.0" }, "scenes": [{ "nodes": [0] }], "scene": 0, "nodes": nodes,
            "animations": [{ "name": "moves", "channels": channels, "samplers": samplers }],
            "buffers": [{ "byteLength": bytes.len(), "uri": format!("data:application/octet-stream;base64,{coded}") }],
            "bufferViews": views, "accessors": accessors,
        })
    }
}

fn stands_as(skeleton: &Skeleton, seconds: f64, wanted: &[DAffine3]) -> bool {
    let poses = skeleton.poses(&skeleton.stance(0, seconds));
    skeleton.joints().iter().zip(&poses).all(|(joint, &pose)| {
        let number: usize = joint.name[1..].parse().expect("it is named by its number");
        near(pose, wanted[number], 2.0e-5)
    })
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    #[test]
    fn motion_capture_stands_where_matrices_put_it(tree in trees(), key in 0..4usize, share in 0.0..1.0f64) {
        let skeleton = read(tree.bvh().as_bytes(), SAME);
        let last = tree.angles[0].len() - 1;
        let (key, share) = if key < last { (key, share) } else { (last, 0.0) };
        prop_assert_eq!(skeleton.joints().len(), tree.carriers.len());
        prop_assert!(stands_as(&skeleton, (key as f64 + share) * 0.5, &tree.placed(key, share, false)));
        // A test that can fail: a tenth of a second later it stands elsewhere.
        let elsewhere = tree.placed(key, share, false).iter().map(|placed| DAffine3::from_translation(DVec3::X * 0.01) * *placed).collect::<Vec<_>>();
        prop_assert!(!stands_as(&skeleton, (key as f64 + share) * 0.5, &elsewhere));
    }

    #[test]
    fn scenes_stand_where_matrices_put_them(tree in trees(), key in 0..4usize, share in 0.0..1.0f64) {
        let skeleton = read(tree.gltf().to_string().as_bytes(), SAME);
        let last = tree.angles[0].len() - 1;
        let (key, share) = if key < last { (key, share) } else { (last, 0.0) };
        prop_assert!(stands_as(&skeleton, (key as f64 + share) * 0.5, &tree.placed(key, share, true)));
    }

    /// The same skeleton in centimetres with z up stands where it stands in metres with y up.
    #[test]
    fn the_frame_of_a_file_changes_where_and_not_how(tree in trees(), seconds in 0.0..2.0f64, turn in -180.0..180.0f32) {
        let text = tree.bvh();
        let plain = read(text.as_bytes(), SAME);
        let axes = Axes { from: Axis::Z, to: Axis::Y, turn, scale: 0.01 };
        let other = read(text.as_bytes(), axes);
        prop_assert_eq!(other.up(), Axis::Y);
        let turned = DQuat::from_rotation_y(f64::from(turn).to_radians()) * DQuat::from_rotation_x(-std::f64::consts::FRAC_PI_2);
        let poses = [&plain, &other].map(|skeleton| skeleton.poses(&skeleton.stance(0, seconds)));
        for (pose, changed) in poses[0].iter().zip(&poses[1]) {
            let [x, y, z] = pose.at.map(f64::from);
            let [qx, qy, qz, qw] = pose.turn.map(f64::from);
            let own = DQuat::from_xyzw(qx, qy, qz, qw);
            let wanted = DAffine3::from_rotation_translation(turned * own * turned.inverse(), turned * DVec3::new(x, y, z) * 0.01);
            prop_assert!(near(*changed, wanted, 2.0e-5));
        }
    }

    /// Whatever is cut off or changed: an error with a place, or a skeleton, and no panic.
    #[test]
    fn damaged_files_are_errors_with_a_place(
        binary in any::<bool>(),
        cut in 0.0..1.0f64,
        changes in vec((0.0..1.0f64, any::<u8>()), 0..6),
    ) {
        let mut bytes = shipped(if binary { "mason.glb" } else { "gaunt-ducks.bvh" });
        let whole = bytes.clone();
        if cut > 0.3 {
            bytes.truncate((bytes.len() as f64 * cut) as usize);
        }
        for (place, byte) in changes {
            // Half of them in the first kilobytes, where it is described.
            let long = if byte & 1 == 0 { bytes.len() } else { bytes.len().min(3000) };
            if long > 0 {
                bytes[(long as f64 * place) as usize] = byte;
            }
        }
        match Skeleton::from_bytes(&bytes, "moves", SAME, &mut alone) {
            Err(error) => prop_assert!(!error.place.is_empty() && !error.problem.is_empty()),
            Ok(skeleton) => {
                prop_assert!(bytes.len() > whole.len() / 4);
                for animation in 0..skeleton.animations().len() {
                    let poses = skeleton.poses(&skeleton.stance(animation, 0.5));
                    prop_assert!(poses.iter().all(|pose| pose.at.iter().chain(&pose.turn).all(|x| !x.is_nan())));
                }
            }
        }
    }

    /// In the `n`th of `b` steps after a change the share of what is new is `n / (b + 1)`; then all of it is.
    #[test]
    fn clips_lead_over_by_the_rule(blend in 0..12u32, before in 1..20u32) {
        let skeleton = read(&shipped("mason.glb"), SAME);
        let [stand, sweep] = ["stand", "sweep"].map(|name| skeleton.animation(name));
        let at = |step: u32| f64::from(step) / 60.0;
        let mut animator = Animator::default();
        for step in 0..before {
            animator.play(&skeleton, Clip::again(stand, at(step)), blend);
        }
        let held = skeleton.stance(stand.unwrap(), at(before - 1));
        prop_assert_eq!(animator.poses(&skeleton), skeleton.poses(&held));
        for step in 1..=blend + 2 {
            animator.play(&skeleton, Clip { of: 7, ..Clip::once(sweep, at(step)) }, blend);
            let new = skeleton.stance(sweep.unwrap(), at(step));
            let share = f64::from(step) / f64::from(blend + 1);
            let wanted = if step > blend { new } else { skeleton.between(&held, &new, share) };
            prop_assert_eq!(animator.poses(&skeleton), skeleton.poses(&wanted));
        }
    }
}

#[test]
fn the_shipped_mason_has_what_fights_use() {
    let mason = read(&shipped("mason.glb"), SAME);
    assert!(mason.remarks().is_empty(), "{:?}", mason.remarks());
    let names: Vec<&str> = mason.animations().iter().map(|animation| animation.name.as_str()).collect();
    assert_eq!(names, ["stand", "walk", "sweep", "overhead"]);
    let sweep = mason.animation("sweep").unwrap();
    let animation = &mason.animations()[sweep];
    assert!((animation.seconds - 1.25).abs() < 1e-6);
    assert_eq!(
        [animation.marker("opens"), animation.marker("shuts"), animation.marker("none")],
        [Some(0.45), Some(0.75), None]
    );
    // Where the maul's head is fast, its window is open.
    let fastest = mason.fastest_ends(sweep, 60)[0];
    assert_eq!(mason.joints()[fastest.joint].name, "maul.head");
    assert!(
        fastest.at > 0.45 && fastest.at < 0.75 && fastest.fast[0] >= 0.45 && fastest.fast[1] <= 0.75,
        "{fastest:?}"
    );
    // From the hand to the head of the maul it is a metre.
    let [hand, head] = ["hand.r", "maul.head"].map(|name| mason.joint(name).unwrap());
    assert_eq!(mason.offset(hand, head), Some([0.0, 0.0, 1.0]));
    assert!(
        mason.animations()[sweep].moves(hand)
            && !mason.animations()[sweep].moves(mason.joint("foot.l").unwrap())
    );
}

#[test]
fn text_and_binary_file_and_a_buffer_beside_it_read_alike() {
    let binary = shipped("mason.glb");
    let long = u32::from_le_bytes(binary[12..16].try_into().unwrap()) as usize;
    let mut text: Value = serde_json::from_slice(&binary[20..20 + long]).unwrap();
    let body = binary[20 + long + 8..].to_vec();
    text["buffers"][0]["uri"] = json!("mason.bin");
    let mut asked = Vec::new();
    let mut open = |name: &str| {
        asked.push(name.to_owned());
        Ok(body.clone())
    };
    let read_text = Skeleton::from_bytes(text.to_string().as_bytes(), "", SAME, &mut open).unwrap();
    assert_eq!(read_text, read(&binary, SAME));
    assert_eq!(asked, ["mason.bin"]);
    let error = Skeleton::from_bytes(text.to_string().as_bytes(), "", SAME, &mut alone).unwrap_err();
    assert_eq!(error.to_string(), "buffer 0: `mason.bin` cannot be read: mason.bin is not there");
}

/// A scene of one joint that moves along x by these keys.
fn slider(between: &str, times: &[f32], values: &[f32]) -> Value {
    let mut bytes: Vec<u8> = times.iter().flat_map(|time| time.to_le_bytes()).collect();
    let from = bytes.len();
    bytes.extend(values.iter().flat_map(|&x| [x, 0.0, 0.0]).flat_map(f32::to_le_bytes));
    let coded = base64::engine::general_purpose::STANDARD.encode(&bytes);
    json!({
        "asset": { "version": "2.0" }, "scenes": [{ "nodes": [0] }], "nodes": [{ "name": "slide" }],
        "animations": [{
            "channels": [{ "sampler": 0, "target": { "node": 0, "path": "translation" } }],
            "samplers": [{ "input": 0, "output": 1, "interpolation": between }],
            "extras": { "markers": { "late": 9.0, "early": 0.25 } },
        }],
        "buffers": [{ "byteLength": bytes.len(), "uri": format!("data:;base64,{coded}") }],
        "bufferViews": [{ "buffer": 0, "byteLength": from }, { "buffer": 0, "byteOffset": from, "byteLength": bytes.len() - from }],
        "accessors": [
            { "bufferView": 0, "componentType": 5126, "count": times.len(), "type": "SCALAR", "min": [0.0], "max": [9.0] },
            { "bufferView": 1, "componentType": 5126, "count": values.len(), "type": "VEC3" },
        ],
    })
}

#[test]
fn keys_are_joined_as_the_file_says() {
    let x = |file: &Value, seconds: f64| {
        let skeleton = read(file.to_string().as_bytes(), SAME);
        skeleton.poses(&skeleton.stance(0, seconds))[0].at[0]
    };
    let steps = slider("STEP", &[0.0, 1.0, 2.0], &[1.0, 5.0, 2.0]);
    assert_eq!([0.0, 0.99, 1.0, 1.5, 2.0, 7.0].map(|at| x(&steps, at)), [1.0, 1.0, 5.0, 5.0, 2.0, 2.0]);
    let lines = slider("LINEAR", &[0.5, 1.0, 2.0], &[1.0, 5.0, 2.0]);
    assert_eq!([0.0, 0.75, 1.0, 1.5, 3.0].map(|at| x(&lines, at)), [1.0, 3.0, 5.0, 3.5, 2.0]);
    // Slopes and values of t³ - 2t: a cubic goes through all of it.
    let cube = |t: f32| t * t * t - 2.0 * t;
    let slope = |t: f32| 3.0 * t * t - 2.0;
    let times = [0.0f32, 1.0, 2.5];
    let values: Vec<f32> = times.iter().flat_map(|&t| [slope(t), cube(t), slope(t)]).collect();
    let cubic = slider("CUBICSPLINE", &times, &values);
    for t in [0.0f32, 0.3, 0.9, 1.0, 1.7, 2.5] {
        assert!((x(&cubic, t.into()) - cube(t)).abs() < 1e-5, "{t}");
    }
}

#[test]
fn what_is_odd_is_said() {
    let told = |file: &Value| -> Vec<String> {
        let skeleton = read(file.to_string().as_bytes(), SAME);
        skeleton.remarks().iter().map(|remark| format!("{}: {}", remark.place, remark.text)).collect()
    };
    assert_eq!(
        told(&slider("LINEAR", &[0.0, 1.0], &[0.0, 0.2])),
        ["animation `animation 0`: marker `late` is at 9 s, and the animation ends at 1.000 s"]
    );
    let far = told(&slider("LINEAR", &[0.0, 10.0], &[0.0, 8.0]));
    assert!(far[0].contains("root `slide` goes 8.00 m from where it begins"), "{far:?}");
    let torn = told(&slider("STEP", &[0.0, 10.0], &[0.0, 8.0]));
    assert!(torn[0].contains("joint `slide` moves at 480 m/s at 10.00 s"), "{torn:?}");
    let mut twice = slider("LINEAR", &[0.0, 9.0], &[0.0, 0.1]);
    twice["nodes"] = json!([{ "name": "slide", "children": [1] }, { "name": "slide", "translation": [0, 900, 0], "scale": [1, 2, 1] }]);
    let twice = told(&twice);
    assert!(twice[0].contains("it is stretched unevenly"), "{twice:?}");
    assert!(
        twice[1].contains("2 joints have this name") && twice[2].contains("it is 900 m long"),
        "{twice:?}"
    );
}

#[test]
fn what_is_wrong_has_a_place() {
    let good = shipped("gaunt-ducks.bvh");
    let good = std::str::from_utf8(&good).unwrap();
    let wrong = |text: &str| Skeleton::from_bvh(text, "moves", SAME).unwrap_err().to_string();
    assert_eq!(
        wrong(&good.replacen("OFFSET 0 0 35", "OFFSET 0 0 wide", 1)),
        "line 8: `wide` stands where a coordinate of the offset should, a finite number"
    );
    assert_eq!(
        wrong(&good.replacen("4 Xposition", "4 Xplace", 1)),
        "line 5: `Xplace` is no channel; there are Xposition, Yposition, Zposition, Xrotation, Yrotation, Zrotation"
    );
    let short = wrong(&good.replacen("Frames: 51", "Frames: 52", 1));
    assert!(short.ends_with("the file ends here; a number of frame 52 of 52 should follow"), "{short}");
    let more = wrong(&good.replacen("Frames: 51", "Frames: 50", 1));
    assert!(more.ends_with("stands behind the last of 50 frames; count them in `Frames:`"), "{more}");
    let line = good.lines().position(|line| line.starts_with("Frame Time")).unwrap() + 2;
    let cut = wrong(&good.replacen("0.000 0.000 110.000 0.000", "0.000 0.000 110.000", 1));
    assert_eq!(cut, format!("line {line}: frame 1 has fewer numbers than its 14 channels"));
    let long = wrong(&good.replacen("Frame Time: 0.04", "Frame Time: 400", 1));
    assert!(long.contains("the animation lasts 20000 s; cut it to 3600 s at most"), "{long}");

    let wrong = |file: &Value| {
        Skeleton::from_bytes(file.to_string().as_bytes(), "", SAME, &mut alone).unwrap_err().to_string()
    };
    let slide = slider("LINEAR", &[0.0, 1.0], &[0.0, 1.0]);
    let place = "animation `animation 0`, channel 0:";
    let mut other = slide.clone();
    other["animations"][0]["channels"][0]["target"]["path"] = json!("colour");
    assert_eq!(
        wrong(&other),
        format!("{place} it moves no translation, rotation or scale; export the file again")
    );
    let falling = slider("LINEAR", &[1.0, 0.5], &[0.0, 1.0]);
    assert_eq!(
        wrong(&falling),
        format!("{place} the times of its keys do not rise from 0; export the file again")
    );
    let fewer = slider("LINEAR", &[0.0, 1.0], &[0.0]);
    assert_eq!(wrong(&fewer), format!("{place} it has 1 values for 2 keys; export the file again"));
    let mut beyond = slide.clone();
    beyond["accessors"][1]["count"] = json!(4_000_000_000u32);
    assert_eq!(wrong(&beyond), format!("{place} accessor 1 goes beyond its buffer; export the file again"));
    let mut shared = slide.clone();
    shared["nodes"] = json!([{ "children": [2] }, { "children": [2] }, {}]);
    shared["scenes"][0]["nodes"] = json!([0, 1]);
    assert_eq!(wrong(&shared), "node 2: nodes 0 and 1 both carry it; let one do so");
    let mut circle = slide.clone();
    circle["nodes"] = json!([{ "children": [1] }, { "children": [0] }]);
    circle["skins"] = json!([{ "joints": [0, 1] }]);
    assert_eq!(wrong(&circle), "node 0: nodes carry each other in a circle; cut it");
    // An hour of stillness for a crowd of joints would be looked at moment by moment.
    let mut crowd = slider("LINEAR", &[0.0, 3600.0], &[0.0, 0.1]);
    crowd["nodes"] = json!((0..200).map(|node| json!({ "name": format!("j{node}") })).collect::<Vec<_>>());
    crowd["scenes"][0]["nodes"] = json!((0..200).collect::<Vec<_>>());
    let told = wrong(&crowd);
    assert!(
        told.starts_with("file: its animations last 3600 s with 200 joints")
            && told.ends_with("cut it, or split it"),
        "{told}"
    );
    assert!(wrong(&json!({ "asset": {} })).starts_with("file: it is no glTF 2.0"), "{}", wrong(&json!({})));
    let old = [b"glTF".as_slice(), &[1, 0, 0, 0], &[0; 8]].concat();
    let old = Skeleton::from_bytes(&old, "", SAME, &mut alone).unwrap_err().to_string();
    assert_eq!(old, "byte 4: it is of version 1; export it as glTF 2.0");
}

#[test]
fn long_captures_of_many_joints_are_read() {
    const JOINTS: usize = 60;
    const FRAMES: usize = 4000;
    let mut text = "HIERARCHY\nROOT j0\n{\nOFFSET 0 0 90\nCHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation\n".to_owned();
    for joint in 1..JOINTS {
        // Every tenth is where the one before it is.
        let long = if joint % 10 == 0 { 0 } else { 2 };
        text += &format!("JOINT j{joint}\n{{\nOFFSET 0 0 {long}\nCHANNELS 3 Zrotation Xrotation Yrotation\n");
    }
    text += &format!("{}MOTION\nFrames: {FRAMES}\nFrame Time: 0.008333\n", "}\n".repeat(JOINTS));
    for frame in 0..FRAMES {
        let numbers = (0..3 * JOINTS).map(|channel| ((frame + channel) % 7).to_string());
        text += &format!("0 0 90 {}\n", numbers.collect::<Vec<_>>().join(" "));
    }
    let skeleton = read(text.as_bytes(), Axes { from: Axis::Z, to: Axis::Y, turn: 0.0, scale: 0.01 });
    assert_eq!(skeleton.joints().len(), JOINTS);
    assert!((skeleton.animations()[0].seconds - 33.323).abs() < 0.001);
    let [above, there] = ["j9", "j10"].map(|name| skeleton.joint(name).unwrap());
    let poses = skeleton.poses(&skeleton.stance(0, 11.0));
    assert!((0..3).all(|axis| (poses[above].at[axis] - poses[there].at[axis]).abs() < 1e-6));
}

#[test]
fn animations_of_other_files_are_taken_in_by_name() {
    let lever = |joints: [&str; 2], degrees: f64| {
        let [base, arm] = joints;
        format!(
            "HIERARCHY\nROOT {base}\n{{\nOFFSET 0 0 0\nCHANNELS 1 Xrotation\nJOINT {arm}\n{{\nOFFSET 0 1 0\nCHANNELS 1 Xrotation\nEnd Site\n{{\nOFFSET 0 1 0\n}}\n}}\n}}\nMOTION\nFrames: 2\nFrame Time: 1\n0 0\n{degrees} {degrees}\n"
        )
    };
    let mut own = read(lever(["base", "arm"], 90.0).as_bytes(), SAME);
    let mut other = read(lever(["base", "wing"], 45.0).as_bytes(), SAME);
    other.rename(0, "half");
    own.take_in(other);
    assert_eq!(own.animations().len(), 2);
    let remarks: Vec<String> = own.remarks().iter().map(|remark| remark.text.clone()).collect();
    assert_eq!(remarks, ["it moves joint `wing`, which the skeleton does not have"]);
    let half = own.animation("half").unwrap();
    assert!(own.animations()[half].moves(0) && !own.animations()[half].moves(1));
    let at = own.poses(&own.stance(half, 1.0))[own.joint("arm end").unwrap()].at;
    let wanted = 2.0 * std::f32::consts::FRAC_1_SQRT_2;
    assert!((at[1] - wanted).abs() < 1e-6 && (at[2] - wanted).abs() < 1e-6, "{at:?}");
    assert!(own.mark("half", [hammerstone_motion::Marker { name: "there".to_owned(), at: 0.5 }]));
    assert!(!own.mark("whole", []));
    assert_eq!(own.animations()[half].marker("there"), Some(0.5));
}
