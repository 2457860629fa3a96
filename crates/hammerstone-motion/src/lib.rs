//! What modelling programs write, for Hammerstone: meshes of levels from Wavefront OBJ.
//!
//! Nothing here opens a file: a host reads it, and hands over its bytes.

mod axes;
mod obj;

pub use axes::Axes;
pub use obj::{ObjError, read_obj};
