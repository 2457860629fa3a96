//! Meshes from Wavefront OBJ: points and faces. Everything else in such a file is passed over.

use hammerstone::level::Mesh;

use crate::Axes;

/// No face has more corners than this.
const MOST_CORNERS: usize = 1024;
/// No file has more triangles.
const MOST: usize = 1 << 24;

/// Why a file is no mesh.
#[derive(Clone, PartialEq, Eq, Debug, thiserror::Error)]
#[error("line {line}: {problem}")]
pub struct ObjError {
    /// The line, from 1; that after the last for what is wrong with the whole.
    pub line: usize,
    /// What is wrong there, and how to mend it.
    pub problem: String,
}

/// The triangles of a text in Wavefront OBJ, in metres in the frame of a game. Faces with more corners become fans of triangles.
///
/// *Errors:* the first line that cannot be read, a corner that names no point, a file without faces.
///
/// ```
/// use hammerstone::geometry::Axis;
/// use hammerstone_motion::{Axes, read_obj};
/// let slab = "v 0 0 0\nv 200 0 0\nv 200 0 100\nv 0 0 100\nf 1 2 3 4\n";
/// let mesh = read_obj(slab, Axes { scale: 0.01, ..Axes::same(Axis::Y) }).unwrap();
/// assert_eq!((mesh.points[2], mesh.triangles.len()), ([2.0, 0.0, 1.0], 2));
/// ```
pub fn read_obj(text: &str, axes: Axes) -> Result<Mesh, ObjError> {
    let mut mesh = Mesh { points: Vec::new(), triangles: Vec::new() };
    let mut corners = Vec::new();
    let mut last = 0;
    for (number, line) in (1..).zip(text.lines()) {
        last = number;
        let wrong = |problem: String| ObjError { line: number, problem };
        let line = line.split('#').next().unwrap_or_default();
        let mut words = line.split_whitespace();
        match words.next() {
            Some("v") => {
                let mut point = [0.0f32; 3];
                for axis in &mut point {
                    let word = words.next().ok_or_else(|| {
                        wrong("a point has fewer than three numbers; give `v x y z`".to_owned())
                    })?;
                    let value: Option<f32> = word.parse().ok().filter(|value: &f32| value.is_finite());
                    *axis = value.ok_or_else(|| wrong(format!("`{word}` is no number")))?;
                }
                mesh.points.push(axes.point(point));
            }
            Some("f") => {
                corners.clear();
                for word in words {
                    let corner = corner(word, mesh.points.len()).map_err(wrong)?;
                    corners.push(corner);
                }
                if corners.len() < 3 || corners.len() > MOST_CORNERS {
                    let count = corners.len();
                    return Err(wrong(format!(
                        "a face has {count} corners; give three, or up to {MOST_CORNERS}"
                    )));
                }
                mesh.triangles.extend(corners.windows(2).skip(1).map(|pair| [corners[0], pair[0], pair[1]]));
                if mesh.triangles.len() > MOST {
                    return Err(wrong(format!("the mesh has more than {MOST} triangles; make it simpler")));
                }
            }
            _ => {}
        }
    }
    if mesh.triangles.is_empty() {
        let problem = "there is no face (`f 1 2 3`) in the file; export the mesh with its faces".to_owned();
        return Err(ObjError { line: last + 1, problem });
    }
    Ok(mesh)
}

/// The number of a point, from 0: of `7`, `7/2`, `7//3` or `7/2/3`, counted from 1, or back from the last point where it is below zero.
fn corner(word: &str, points: usize) -> Result<u32, String> {
    let number = word.split('/').next().unwrap_or_default();
    let number: i64 = number.parse().map_err(|_| format!("`{word}` names no point; count them from 1"))?;
    let place = if number < 0 { points as i64 + number } else { number - 1 };
    if number != 0 && (0..points as i64).contains(&place) {
        return Ok(place as u32);
    }
    Err(format!("a face names point {number}, and {points} points stand before it; name one of these"))
}
