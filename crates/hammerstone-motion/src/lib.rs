//! What modelling programs write, for Hammerstone: skeletons and their animations from glTF 2.0 and BVH motion capture, and meshes of levels
//! from Wavefront OBJ.
//!
//! Nothing here opens a file: a host reads it, and hands over its bytes. What comes out is in metres in the frame of a game; places and turns
//! are computed in double precision in a fixed order, with the elementary functions of `libm`, so that every machine gets the same bits.
//!
//! ```
//! use hammerstone::geometry::Axis;
//! use hammerstone_motion::{Animator, Axes, Clip, Skeleton};
//! # fn main() -> Result<(), hammerstone_motion::MotionError> {
//! let lever = "HIERARCHY\nROOT pivot\n{\n OFFSET 0 100 0\n CHANNELS 1 Xrotation\n End Site\n {\n  OFFSET 0 0 50\n }\n}\n\
//!              MOTION\nFrames: 3\nFrame Time: 0.5\n0\n45\n90\n";
//! let centimetres = Axes { scale: 0.01, ..Axes::same(Axis::Y) };
//! let skeleton = Skeleton::from_bvh(lever, "pull", centimetres)?;
//! let tip = skeleton.joint("pivot end").expect("it is there");
//!
//! // A second later it has turned by a quarter, and points down.
//! let mut animator = Animator::default();
//! animator.play(&skeleton, Clip::once(skeleton.animation("pull"), 1.0), 0);
//! let at = animator.poses(&skeleton)[tip].at;
//! assert!((at[1] - 0.5).abs() < 1e-6 && at[2].abs() < 1e-6);
//! # Ok(())
//! # }
//! ```

mod animator;
mod axes;
mod bvh;
mod gltf_file;
mod obj;
mod remarks;
mod skeleton;
mod speeds;
mod turns;

pub use animator::{Animator, Clip};
pub use axes::Axes;
pub use obj::{ObjError, read_obj};
pub use remarks::Remark;
pub use skeleton::{Animation, Joint, Marker, MotionError, Skeleton, Stance};
pub use speeds::Speed;
