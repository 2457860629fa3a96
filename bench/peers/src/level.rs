//! A ball over ground of triangles, beside the geometry crate's own mesh and casts.

use std::hint::black_box;

use hammerstone::geometry::{Moving, Pose, Shape};
use hammerstone::level::Level;
use hammerstone_bench::interleaved;
use hammerstone_bench::level::{PEBBLE, hills, ways};
use parry3d::math::{Pose3, Vec3};
use parry3d::query::{Ray, RayCast, ShapeCastOptions, cast_shapes};
use parry3d::shape::{Ball, TriMesh};

fn v(at: [f32; 3]) -> Vec3 {
    Vec3::new(at[0], at[1], at[2])
}

pub fn print() {
    println!(
        "| triangles | ways | ours, a way | theirs | ours ÷ theirs | met: ours, theirs | rays: ours ÷ theirs |"
    );
    println!("|---|---|---|---|---|---|---|");
    for triangles in [1_000, 10_000, 100_000] {
        let (points, corners, wide) = hills(triangles);
        let mut b = Level::builder();
        b.mesh(&points, &corners);
        let level = b.build().expect("hills are sound");
        let mesh = TriMesh::new(points.iter().map(|&point| v(point)).collect(), corners.clone())
            .expect("hills are a mesh");
        let ways = ways(wide, 2_000);
        let ball = Ball::new(PEBBLE);
        let sphere = Shape::Sphere { at: [0.0; 3], radius: PEBBLE };
        let mut met = [0; 2];
        let [ours, theirs] = &mut met;
        let times = interleaved(
            15,
            &mut [
                &mut || {
                    let meets = |&&[from, to]: &&[[f32; 3]; 2]| {
                        let moving =
                            Moving::new(sphere, Pose::at(from), Pose::at(to)).expect("within bounds");
                        level.sweep(&moving).is_some()
                    };
                    *ours = black_box(ways.iter().filter(meets).count());
                },
                &mut || {
                    let meets = |&&[from, to]: &&[[f32; 3]; 2]| {
                        let options =
                            ShapeCastOptions { max_time_of_impact: 1.0, ..ShapeCastOptions::default() };
                        let at = Pose3::from_translation(v(from));
                        let cast = cast_shapes(
                            &at,
                            v(to) - v(from),
                            &ball,
                            &Pose3::IDENTITY,
                            Vec3::ZERO,
                            &mesh,
                            options,
                        );
                        cast.expect("these shapes can be cast").is_some()
                    };
                    *theirs = black_box(ways.iter().filter(meets).count());
                },
                &mut || {
                    _ = black_box(ways.iter().filter(|[from, to]| level.ray(*from, *to).is_some()).count())
                },
                &mut || {
                    let meets = |&&[from, to]: &&[[f32; 3]; 2]| {
                        let ray = Ray::new(v(from), v(to) - v(from));
                        mesh.cast_local_ray(&ray, 1.0, false).is_some()
                    };
                    black_box(ways.iter().filter(meets).count());
                },
            ],
        );
        let count = ways.len() as f64;
        println!(
            "| {} | {} | {:.0} ns | {:.0} ns | {:.2} | {}, {} | {:.2} |",
            corners.len(),
            ways.len(),
            times[0] / count * 1e9,
            times[1] / count * 1e9,
            times[0] / times[1],
            met[0],
            met[1],
            times[2] / times[3],
        );
    }
    println!();
}
