//! Skeletons from glTF 2.0, as text with buffers beside it or in one binary file.

mod channels;
mod joints;
mod numbers;

use base64::Engine;

use crate::Axes;
use crate::skeleton::{Joint, MOST_NUMBERS, MotionError, Skeleton};
use joints::Tree;

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
        let mut skeleton = Skeleton::new(joints.collect(), animations, axes.to)?;
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
