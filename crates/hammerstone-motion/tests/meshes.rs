//! Meshes from files: what is written comes back, in every way of writing it, and what is damaged is told with its line.

use hammerstone::geometry::Axis;
use hammerstone_motion::{Axes, ObjError, read_obj};
use proptest::prelude::*;
use testkit::cases;

fn axis() -> impl Strategy<Value = Axis> {
    prop_oneof![Just(Axis::X), Just(Axis::Y), Just(Axis::Z)]
}

fn cross(a: [f32; 3], b: [f32; 3]) -> [f32; 3] {
    [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}

proptest! {
    #![proptest_config(cases(200))]

    /// Points and faces are read as they were written, counted from the front or from the back, with what else stands at a corner.
    #[test]
    fn what_is_written_is_read(
        points in proptest::collection::vec([-500i32..500, -500..500, -500..500], 3..20),
        faces in proptest::collection::vec(proptest::collection::vec(any::<prop::sample::Index>(), 3..7), 1..20),
        ways in proptest::collection::vec(0usize..5, 1..7),
        scale in prop_oneof![Just(1.0f32), Just(0.01)],
    ) {
        let mut text = String::from("# made by hand\no slab\nvn 0 1 0\nvt 0 0\n");
        for [x, y, z] in &points {
            text += &format!("v {x} {y}.0 {z}e0 \n");
        }
        let mut wanted = Vec::new();
        for face in &faces {
            let corners: Vec<u32> = face.iter().map(|corner| corner.index(points.len()) as u32).collect();
            text += "f";
            for (place, corner) in corners.iter().enumerate() {
                let (front, back) = (corner + 1, i64::from(*corner) - points.len() as i64);
                text += &match ways[place % ways.len()] {
                    0 => format!(" {front}"),
                    1 => format!(" {front}/1"),
                    2 => format!(" {front}//1"),
                    3 => format!(" {front}/1/1"),
                    _ => format!(" {back}"),
                };
            }
            text += "\r\n";
            wanted.extend((1..corners.len() - 1).map(|i| [corners[0], corners[i], corners[i + 1]]));
        }
        let mesh = read_obj(&text, Axes { scale, ..Axes::same(Axis::Y) }).unwrap();
        prop_assert_eq!(mesh.triangles, wanted);
        let wanted: Vec<[f32; 3]> = points.iter().map(|point| point.map(|x| x as f32 * scale)).collect();
        prop_assert_eq!(mesh.points, wanted);
    }

    /// What was up is up, lengths scale, and nothing is mirrored.
    #[test]
    fn a_frame_is_turned_and_not_mirrored(from in axis(), to in axis(), a in [-9i8..9, -9..9, -9..9], b in [-9i8..9, -9..9, -9..9]) {
        let axes = Axes { from, to, turn: 0.0, scale: 1.0 };
        prop_assert_eq!(axes.point(from.vector()), to.vector());
        let back = Axes { from: to, to: from, turn: 0.0, scale: 1.0 };
        prop_assert_eq!(back.point(axes.point(a.map(f32::from))), a.map(f32::from));
        let [a, b] = [a, b].map(|vector| vector.map(f32::from));
        prop_assert_eq!(cross(axes.point(a), axes.point(b)), axes.point(cross(a, b)));
    }

    /// Whatever the bytes, there is a mesh or an error with a line of the text.
    #[test]
    fn no_text_breaks_it(text in "(v|f|#| |-|[0-9]|/|\\.|e|\n){0,200}") {
        match read_obj(&text, Axes::same(Axis::Z)) {
            Ok(mesh) => {
                let points = mesh.points.len() as u32;
                prop_assert!(mesh.triangles.iter().flatten().all(|&corner| corner < points));
            }
            Err(error) => prop_assert!((1..=text.lines().count() + 1).contains(&error.line)),
        }
    }
}

#[test]
fn what_is_damaged_is_told_with_its_line() {
    let told = |text: &str| read_obj(text, Axes::same(Axis::Y)).unwrap_err();
    let error = |line: usize, problem: &str| ObjError { line, problem: problem.to_owned() };
    assert_eq!(
        told(""),
        error(1, "there is no face (`f 1 2 3`) in the file; export the mesh with its faces")
    );
    assert_eq!(told("v 1 2\n"), error(1, "a point has fewer than three numbers; give `v x y z`"));
    assert_eq!(told("\nv 1 2 one\n"), error(2, "`one` is no number"));
    assert_eq!(told("v 1 2 inf\n"), error(1, "`inf` is no number"));
    let three = "v 0 0 0\nv 1 0 0\nv 0 1 0\n";
    assert_eq!(told(&format!("{three}f 1 2\n")), error(4, "a face has 2 corners; give three, or up to 1024"));
    let beyond = "a face names point 4, and 3 points stand before it; name one of these";
    assert_eq!(told(&format!("{three}f 1 2 4\n")), error(4, beyond));
    assert_eq!(told(&format!("{three}f 1 2 0\n")).line, 4);
    assert_eq!(told(&format!("{three}f 1 2 -4\n")).line, 4);
    assert_eq!(told(&format!("{three}f 1 2 x\n")), error(4, "`x` names no point; count them from 1"));
}
