//! What the animations of a file do with its joints.

use gltf::animation::{Interpolation, Property};

use super::joints::Tree;
use super::numbers::Reader;
use crate::Axes;
use crate::skeleton::{Animation, Between, LONGEST, Marker, MotionError, Track, Tracks};
use crate::turns::unit;

impl Tree {
    pub(super) fn animation(
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
