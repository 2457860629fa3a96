//! Skeletons from glTF 2.0, as text with buffers beside it or in one binary file.

use base64::Engine;
use gltf::accessor::{DataType, Dimensions};
use gltf::animation::{Interpolation, Property};

use crate::Axes;
use crate::remarks::Remark;
use crate::skeleton::{
    Animation, Between, Joint, LONGEST, MOST_JOINTS, MOST_NUMBERS, Marker, MotionError, Skeleton, Track,
    Tracks, sound,
};
use crate::turns::{Local, Place, Turn, UNTURNED, unit};

/// How many bytes a file may have.
const MOST_BYTES: usize = 1 << 30;

impl Skeleton {
    /// A skeleton with its animations from glTF 2.0: the text, or the binary file. `open` gives the bytes of a buffer that the text names
    /// beside itself.
    ///
    /// Where the file has skins, joints are those of the skins, what carries them and what they carry; otherwise all nodes of the scene.
    /// Sizes of nodes that stand still are worked into places. Markers of an animation are what its `extras` name:
    /// `"markers": { "opens": 0.3 }`, in seconds. A file of this sort has y up, and metres; `axes` says what is to be otherwise.
    ///
    /// *Errors:* what is damaged or not there, with its place in the file.
    pub fn from_gltf(
        bytes: &[u8],
        axes: Axes,
        open: &mut dyn FnMut(&str) -> Result<Vec<u8>, String>,
    ) -> Result<Skeleton, MotionError> {
        if bytes.len() > MOST_BYTES {
            return Err(MotionError::new(
                "file",
                format!("it has more than {MOST_BYTES} bytes; take meshes and pictures out"),
            ));
        }
        let (text, body) = chunks(bytes)?;
        let parsed = gltf::Gltf::from_slice(text);
        let document =
            parsed.map_err(|error| MotionError::new("file", format!("it is no glTF 2.0: {error}")))?.document;
        paths(document.as_json())?;
        let mut buffers = Vec::new();
        for buffer in document.buffers() {
            buffers.push(self::buffer(&buffer, body, open)?);
        }
        let mut tree = Tree::of(&document)?;
        let mut animations = Vec::new();
        let mut budget = MOST_NUMBERS;
        for animation in document.animations() {
            animations.push(tree.animation(&animation, &buffers, &mut budget, axes)?);
        }
        let joints = tree.joints.iter().map(|joint| Joint { rest: axes.local(joint.rest), ..joint.clone() });
        let mut skeleton = Skeleton::new(joints.collect(), animations, axes.to);
        skeleton.remarks.splice(0..0, tree.remarks);
        Ok(skeleton)
    }
}

/// Every channel moves something that there is: what the crate that reads the file leaves to those who ask.
fn paths(root: &gltf::json::Root) -> Result<(), MotionError> {
    for (number, animation) in root.animations.iter().enumerate() {
        for (channel, of) in animation.channels.iter().enumerate() {
            if !matches!(of.target.path, gltf::json::validation::Checked::Valid(_)) {
                let name = animation.name.clone().unwrap_or_else(|| format!("animation {number}"));
                let problem = "it moves no translation, rotation or scale; export the file again";
                return Err(MotionError::new(format!("animation `{name}`, channel {channel}"), problem));
            }
        }
    }
    Ok(())
}

/// The text of a file, and its binary buffer if it has one.
fn chunks(bytes: &[u8]) -> Result<(&[u8], Option<&[u8]>), MotionError> {
    let wrong = |at: usize, problem: &str| Err(MotionError::new(format!("byte {at}"), problem));
    let word = |at: usize| {
        let word = bytes.get(at..at.checked_add(4)?)?;
        Some(u32::from_le_bytes(word.try_into().ok()?))
    };
    if !bytes.starts_with(b"glTF") {
        return Ok((bytes, None));
    }
    match word(4) {
        Some(2) => {}
        Some(version) => return wrong(4, &format!("it is of version {version}; export it as glTF 2.0")),
        None => return wrong(4, "the file ends here; export it again"),
    }
    let (mut text, mut body) = (None, None);
    let mut at = 12;
    while at < bytes.len() {
        let (Some(long), Some(sort)) = (word(at), word(at + 4)) else {
            return wrong(at, "the file ends within the head of a chunk; export it again");
        };
        let from = at + 8;
        let Some(chunk) = from.checked_add(long as usize).and_then(|to| bytes.get(from..to)) else {
            return wrong(
                at,
                &format!("a chunk of {long} bytes goes beyond the end of the file; export it again"),
            );
        };
        match sort {
            0x4E4F_534A if text.is_none() => text = Some(chunk),
            0x004E_4942 if body.is_none() => body = Some(chunk),
            _ => {}
        }
        at = from + long as usize;
    }
    match text {
        Some(text) => Ok((text, body)),
        None => wrong(12, "there is no chunk of text; export it again"),
    }
}

fn buffer(
    buffer: &gltf::Buffer<'_>,
    body: Option<&[u8]>,
    open: &mut dyn FnMut(&str) -> Result<Vec<u8>, String>,
) -> Result<Vec<u8>, MotionError> {
    let wrong = |problem: String| MotionError::new(format!("buffer {}", buffer.index()), problem);
    let bytes = match buffer.source() {
        gltf::buffer::Source::Bin => {
            body.map(<[u8]>::to_vec).ok_or_else(|| wrong("the file has no chunk of bytes".to_owned()))?
        }
        gltf::buffer::Source::Uri(uri) => match uri.strip_prefix("data:") {
            Some(data) => {
                let Some((_, coded)) = data.split_once(";base64,") else {
                    return Err(wrong("its bytes are not coded as base64; export the file again".to_owned()));
                };
                let bytes = base64::engine::general_purpose::STANDARD.decode(coded);
                bytes.map_err(|error| wrong(format!("its bytes cannot be decoded: {error}")))?
            }
            None => open(uri).map_err(|why| wrong(format!("`{uri}` cannot be read: {why}")))?,
        },
    };
    if bytes.len() < buffer.length() {
        return Err(wrong(format!(
            "it has {} bytes where {} are named; export the file again",
            bytes.len(),
            buffer.length()
        )));
    }
    Ok(bytes)
}

/// The nodes of a file that are joints.
struct Tree {
    joints: Vec<Joint>,
    /// By node, its joint.
    of_node: Vec<Option<usize>>,
    /// By joint, how much what it carries is stretched, along its axes.
    stretch: Vec<Place>,
    remarks: Vec<Remark>,
}

impl Tree {
    fn of(document: &gltf::Document) -> Result<Tree, MotionError> {
        let nodes: Vec<gltf::Node<'_>> = document.nodes().collect();
        let mut parents: Vec<Option<usize>> = vec![None; nodes.len()];
        for node in &nodes {
            for child in node.children() {
                if let Some(other) = parents[child.index()].replace(node.index()) {
                    let place = format!("node {}", child.index());
                    return Err(MotionError::new(
                        place,
                        format!("nodes {other} and {} both carry it; let one do so", node.index()),
                    ));
                }
            }
        }
        let kept = kept(document, &nodes, &parents)?;
        let mut tree = Tree {
            joints: Vec::new(),
            of_node: vec![None; nodes.len()],
            stretch: Vec::new(),
            remarks: Vec::new(),
        };
        // Roots first, and what they carry behind them, in the order of the file.
        let mut waiting: Vec<usize> =
            (0..nodes.len()).filter(|&node| kept[node] && parents[node].is_none()).rev().collect();
        while let Some(number) = waiting.pop() {
            tree.joint(&nodes[number], parents[number])?;
            let children: Vec<usize> = nodes[number].children().map(|child| child.index()).collect();
            waiting.extend(children.into_iter().rev().filter(|&child| kept[child]));
        }
        if tree.joints.is_empty() {
            return Err(MotionError::new("file", "it has no nodes; export it with its skeleton"));
        }
        Ok(tree)
    }

    fn joint(&mut self, node: &gltf::Node<'_>, parent: Option<usize>) -> Result<(), MotionError> {
        let number = self.joints.len();
        let place = format!("node {}", node.index());
        if number == MOST_JOINTS {
            return Err(MotionError::new(
                place,
                format!("there are more than {MOST_JOINTS} joints; take some out"),
            ));
        }
        let (at, turn, scale) = parts_of(node.transform());
        let all = at.iter().chain(&turn).chain(&scale);
        let turn = unit(turn).filter(|_| all.into_iter().all(|&x| sound(x)));
        let Some(turn) = turn else {
            return Err(MotionError::new(
                place,
                "it is at no place: a number is not finite, or its turn has no length",
            ));
        };
        let name = node.name().map_or_else(|| format!("node {}", node.index()), str::to_owned);
        let parent = parent.and_then(|parent| self.of_node[parent]);
        let stretch = parent.map_or([1.0; 3], |parent| self.stretch[parent]);
        let at = [0, 1, 2].map(|axis| at[axis] * stretch[axis]);
        let own = [0, 1, 2].map(|axis| scale[axis] * stretch[axis]);
        let uneven = (scale[0] - scale[1]).abs().max((scale[1] - scale[2]).abs()) > 1.0e-3 * scale[0].abs();
        if uneven {
            self.remark(
                &format!("joint `{name}`"),
                "it is stretched unevenly, and what it carries only moves",
                "scale it evenly, or apply its scale",
            );
        }
        self.of_node[node.index()] = Some(number);
        self.stretch.push(own);
        self.joints.push(Joint { name, parent, rest: Local { at, turn } });
        Ok(())
    }

    fn remark(&mut self, place: &str, text: &str, fix: &str) {
        self.remarks.push(Remark { place: place.to_owned(), text: text.to_owned(), fix: fix.to_owned() });
    }

    fn animation(
        &mut self,
        animation: &gltf::Animation<'_>,
        buffers: &[Vec<u8>],
        budget: &mut usize,
        axes: Axes,
    ) -> Result<Animation, MotionError> {
        let name = animation.name().map_or_else(|| format!("animation {}", animation.index()), str::to_owned);
        let mut tracks: Vec<Tracks> = Vec::new();
        tracks.resize_with(self.joints.len(), Tracks::default);
        let (mut seconds, mut scaled) = (0.0f64, None);
        for channel in animation.channels() {
            let Some(joint) = self.of_node[channel.target().node().index()] else { continue };
            let reader =
                Reader { place: format!("animation `{name}`, channel {}", channel.index()), buffers };
            let sampler = channel.sampler();
            let between = match sampler.interpolation() {
                Interpolation::Step => Between::Stays,
                Interpolation::Linear => Between::Evenly,
                Interpolation::CubicSpline => Between::Cubic,
            };
            let times = || reader.times(&sampler.input());
            match channel.target().property() {
                Property::Translation => {
                    let mut track = Track {
                        between,
                        times: times()?,
                        values: reader.values::<3>(&sampler.output(), budget)?,
                    };
                    let stretch = self.joints[joint].parent.map_or([1.0; 3], |parent| self.stretch[parent]);
                    for value in &mut track.values {
                        *value = axes.place([0, 1, 2].map(|axis| value[axis] * stretch[axis]));
                    }
                    tracks[joint].at = Some(reader.track(track)?);
                }
                Property::Rotation => {
                    let mut track = Track {
                        between,
                        times: times()?,
                        values: reader.values::<4>(&sampler.output(), budget)?,
                    };
                    let cubic = between == Between::Cubic;
                    for (i, value) in track.values.iter_mut().enumerate() {
                        // Slopes of a cubic have any length.
                        let settled = if cubic && i % 3 != 1 { Some(*value) } else { unit(*value) };
                        *value = axes
                            .turn(settled.ok_or_else(|| reader.wrong("a turn has no length".to_owned()))?);
                    }
                    tracks[joint].turn = Some(reader.track(track)?);
                }
                Property::Scale => scaled = Some(joint),
                Property::MorphTargetWeights => continue,
            }
            let ends = [
                &tracks[joint].at.as_ref().map(|track| &track.times),
                &tracks[joint].turn.as_ref().map(|track| &track.times),
            ];
            for last in ends.into_iter().flatten().filter_map(|times| times.last()) {
                seconds = seconds.max(*last);
            }
        }
        if let Some(joint) = scaled {
            let text = format!("it scales joint `{}`, which is not followed", self.joints[joint].name);
            self.remark(
                &format!("animation `{name}`"),
                &text,
                "let shapes keep their size, or use other parts",
            );
        }
        let markers = markers(&name, animation)?;
        for marker in markers.iter().filter(|marker| marker.at > seconds) {
            let text = format!(
                "marker `{}` is at {} s, and the animation ends at {seconds:.3} s",
                marker.name, marker.at
            );
            self.remark(&format!("animation `{name}`"), &text, "put it within the animation");
        }
        Ok(Animation { name, seconds, markers, tracks })
    }
}

/// By node, whether it is a joint. Nodes that carry themselves in a circle are errors.
fn kept(
    document: &gltf::Document,
    nodes: &[gltf::Node<'_>],
    parents: &[Option<usize>],
) -> Result<Vec<bool>, MotionError> {
    let scene = document.default_scene().or_else(|| document.scenes().next());
    let mut kept = vec![false; nodes.len()];
    let mut waiting: Vec<usize> = Vec::new();
    let skinned: Vec<usize> = document
        .skins()
        .flat_map(|skin| skin.joints().map(|joint| joint.index()).collect::<Vec<_>>())
        .collect();
    match (&scene, skinned.is_empty()) {
        (_, false) => waiting.extend(&skinned),
        (Some(scene), true) => waiting.extend(scene.nodes().map(|node| node.index())),
        (None, true) => waiting.extend((0..nodes.len()).filter(|&node| parents[node].is_none())),
    }
    while let Some(number) = waiting.pop() {
        if !std::mem::replace(&mut kept[number], true) {
            waiting.extend(nodes[number].children().map(|child| child.index()));
        }
    }
    for start in skinned {
        let mut above = parents[start];
        let mut steps = 0;
        while let Some(number) = above {
            kept[number] = true;
            above = parents[number];
            steps += 1;
            if steps > nodes.len() {
                return Err(MotionError::new(
                    format!("node {start}"),
                    "nodes carry each other in a circle; cut it",
                ));
            }
        }
    }
    Ok(kept)
}

/// Place, turn and size of a node, of a matrix by its columns.
fn parts_of(transform: gltf::scene::Transform) -> (Place, Turn, Place) {
    match transform {
        gltf::scene::Transform::Decomposed { translation, rotation, scale } => {
            (translation.map(f64::from), rotation.map(f64::from), scale.map(f64::from))
        }
        gltf::scene::Transform::Matrix { matrix } => {
            let [x, y, z, at] = matrix.map(|column| column.map(f64::from));
            let long = |v: [f64; 4]| (v[0] * v[0] + v[1] * v[1] + v[2] * v[2]).sqrt();
            let scale = [long(x), long(y), long(z)];
            let axis = |v: [f64; 4], long: f64| [v[0] / long, v[1] / long, v[2] / long];
            ([at[0], at[1], at[2]], turn_of(axis(x, scale[0]), axis(y, scale[1]), axis(z, scale[2])), scale)
        }
    }
}

/// The turn that brings the axes to these.
fn turn_of(x: Place, y: Place, z: Place) -> Turn {
    let trace = x[0] + y[1] + z[2];
    let turn = if trace > 0.0 {
        [y[2] - z[1], z[0] - x[2], x[1] - y[0], 1.0 + trace]
    } else if x[0] >= y[1] && x[0] >= z[2] {
        [1.0 + x[0] - y[1] - z[2], x[1] + y[0], z[0] + x[2], y[2] - z[1]]
    } else if y[1] >= z[2] {
        [x[1] + y[0], 1.0 + y[1] - x[0] - z[2], y[2] + z[1], z[0] - x[2]]
    } else {
        [z[0] + x[2], y[2] + z[1], 1.0 + z[2] - x[0] - y[1], x[1] - y[0]]
    };
    unit(turn).unwrap_or(UNTURNED)
}

/// The markers in the `extras` of an animation, if they are there.
fn markers(name: &str, animation: &gltf::Animation<'_>) -> Result<Vec<Marker>, MotionError> {
    let Some(extras) = animation.extras() else { return Ok(Vec::new()) };
    let place = || format!("animation `{name}`, markers");
    let extras: serde_json::Value =
        serde_json::from_str(extras.get()).map_err(|error| MotionError::new(place(), error.to_string()))?;
    let Some(given) = extras.get("markers") else { return Ok(Vec::new()) };
    let wrong = || {
        MotionError::new(place(), "give them with their times in seconds: `\"markers\": { \"opens\": 0.3 }`")
    };
    let mut markers = Vec::new();
    for (name, at) in given.as_object().ok_or_else(wrong)? {
        let at = at.as_f64().filter(|&at| (0.0..=LONGEST).contains(&at)).ok_or_else(wrong)?;
        markers.push(Marker { name: name.clone(), at });
    }
    markers.sort_by(|a, b| a.at.total_cmp(&b.at));
    Ok(markers)
}

/// Reads the numbers of a channel.
struct Reader<'a> {
    place: String,
    buffers: &'a [Vec<u8>],
}

impl Reader<'_> {
    fn wrong(&self, problem: String) -> MotionError {
        MotionError::new(self.place.clone(), problem)
    }

    fn times(&self, accessor: &gltf::Accessor<'_>) -> Result<Vec<f64>, MotionError> {
        let mut budget = MOST_NUMBERS;
        let times: Vec<f64> =
            self.values::<1>(accessor, &mut budget)?.into_iter().map(|[time]| time).collect();
        if times.is_empty() {
            return Err(self.wrong("it has no keys; take it out".to_owned()));
        }
        if times.windows(2).any(|pair| pair[0] >= pair[1]) || times[0] < 0.0 {
            return Err(
                self.wrong("the times of its keys do not rise from 0; export the file again".to_owned())
            );
        }
        match times.last().filter(|&&last| last > LONGEST) {
            Some(last) => Err(self.wrong(format!("it lasts {last:.0} s; cut it to {LONGEST} s at most"))),
            None => Ok(times),
        }
    }

    fn track<const N: usize>(&self, track: Track<N>) -> Result<Track<N>, MotionError> {
        let each = if track.between == Between::Cubic { 3 } else { 1 };
        if track.values.len() != track.times.len() * each {
            let (values, keys) = (track.values.len(), track.times.len());
            return Err(self.wrong(format!("it has {values} values for {keys} keys; export the file again")));
        }
        Ok(track)
    }

    /// The values of an accessor: numbers in single precision, or whole numbers that stand for -1 to 1.
    fn values<const N: usize>(
        &self,
        accessor: &gltf::Accessor<'_>,
        budget: &mut usize,
    ) -> Result<Vec<[f64; N]>, MotionError> {
        let wanted = match N {
            1 => Dimensions::Scalar,
            3 => Dimensions::Vec3,
            _ => Dimensions::Vec4,
        };
        if accessor.dimensions() != wanted {
            return Err(
                self.wrong(format!("accessor {} does not hold {N} numbers for each key", accessor.index()))
            );
        }
        if accessor.sparse().is_some() {
            return Err(self.wrong(format!(
                "accessor {} is sparse, which is not read; export it in full",
                accessor.index()
            )));
        }
        let (width, whole): (usize, f64) = match accessor.data_type() {
            DataType::F32 => (4, 0.0),
            DataType::I8 => (1, 127.0),
            DataType::U8 => (1, 255.0),
            DataType::I16 => (2, 32767.0),
            DataType::U16 => (2, 65535.0),
            DataType::U32 => {
                return Err(
                    self.wrong(format!("accessor {} holds no numbers of this sort", accessor.index()))
                );
            }
        };
        let beyond = || {
            self.wrong(format!("accessor {} goes beyond its buffer; export the file again", accessor.index()))
        };
        let view = accessor
            .view()
            .ok_or_else(|| self.wrong(format!("accessor {} has no values", accessor.index())))?;
        let buffer = self.buffers.get(view.buffer().index()).ok_or_else(beyond)?;
        let end = view.offset().checked_add(view.length()).ok_or_else(beyond)?;
        let bytes = buffer
            .get(view.offset()..end)
            .and_then(|bytes| bytes.get(accessor.offset()..))
            .ok_or_else(beyond)?;
        let stride = view.stride().unwrap_or(width * N);
        let count = accessor.count();
        let last = count
            .checked_sub(1)
            .map(|last| last.checked_mul(stride).and_then(|at| at.checked_add(width * N)));
        if last.is_some_and(|long| long.is_none_or(|long| long > bytes.len())) || stride < width * N {
            return Err(beyond());
        }
        *budget = budget.checked_sub(count * N).ok_or_else(|| {
            self.wrong(format!("the animations have more than {MOST_NUMBERS} numbers; cut them"))
        })?;
        let mut values = Vec::with_capacity(count);
        for key in 0..count {
            let mut value = [0.0; N];
            for (i, value) in value.iter_mut().enumerate() {
                let number = &bytes[key * stride + i * width..][..width];
                let read = match (accessor.data_type(), number) {
                    (DataType::F32, &[a, b, c, d]) => f64::from(f32::from_le_bytes([a, b, c, d])),
                    (DataType::I8, &[a]) => (f64::from(a as i8) / whole).max(-1.0),
                    (DataType::U8, &[a]) => f64::from(a) / whole,
                    (DataType::I16, &[a, b]) => (f64::from(i16::from_le_bytes([a, b])) / whole).max(-1.0),
                    (DataType::U16, &[a, b]) => f64::from(u16::from_le_bytes([a, b])) / whole,
                    _ => f64::NAN,
                };
                if !sound(read) {
                    return Err(self.wrong(format!("key {} is not finite; export the file again", key + 1)));
                }
                *value = read;
            }
            values.push(value);
        }
        Ok(values)
    }
}
