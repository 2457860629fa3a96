//! What stands in the way in a scenario: obstacles, and the shapes of its level.

use hammerstone::geometry::{Axis, Obstacle, Pose};
use hammerstone::level::{Level, LevelBuilder};
use hammerstone_motion::{Axes, read_obj};

use super::scenario::{Resolver, Wanted, open_text};
use crate::raw;

/// What a solid may be given as.
struct Given<'a> {
    sphere: &'a Option<raw::Sphere>,
    capsule: &'a Option<raw::Capsule>,
    block: &'a Option<raw::Block>,
    ground: &'a Option<raw::Ground>,
}

impl Given<'_> {
    fn count(&self) -> usize {
        [self.sphere.is_some(), self.capsule.is_some(), self.block.is_some(), self.ground.is_some()]
            .into_iter()
            .filter(|given| *given)
            .count()
    }
}

/// An obstacle, with the pose at which it is placed.
#[derive(Clone, Debug)]
pub(crate) struct PlacedObstacle {
    pub(crate) name: String,
    pub(crate) obstacle: Obstacle,
    pub(crate) pose: Pose,
    /// Whether it lets everything through at first.
    pub(crate) open: bool,
}

const SOLIDS: &str = "`sphere`, `capsule`, `box` and `ground = { at = [0, 0, 0], normal = [0, 1, 0] }`";

impl Resolver<'_, '_> {
    /// An obstacle, in the frame of the pose at which it is placed.
    pub(super) fn obstacle(&mut self, name: &raw::Name, raw: &raw::Obstacle) -> Option<(Obstacle, Pose)> {
        let given =
            Given { sphere: &raw.sphere, capsule: &raw.capsule, block: &raw.block, ground: &raw.ground };
        let what = format!("obstacle `{}`", name.as_ref());
        if given.count() != 1 {
            let message = format!("{what} has {} shapes", given.count());
            self.reading.problem(name.span(), "here", message, Some(format!("give one of {SOLIDS}")));
            return None;
        }
        let pose = match &raw.at {
            Some(at) => self.pose(at, raw.facing.as_ref())?,
            None => Pose::IDENTITY,
        };
        Some((self.solid(name, &what, &given)?, pose))
    }

    fn solid(&mut self, name: &raw::Name, what: &str, given: &Given<'_>) -> Option<Obstacle> {
        let solid = if let Some(sphere) = given.sphere {
            Obstacle::Sphere {
                at: self.reading.vector(&sphere.at)?,
                radius: self.reading.number(&sphere.radius)?,
            }
        } else if let Some(capsule) = given.capsule {
            Obstacle::Capsule {
                from: self.reading.vector(&capsule.from)?,
                to: self.reading.vector(&capsule.to)?,
                radius: self.reading.number(&capsule.radius)?,
            }
        } else if let Some(block) = given.block {
            let (pose, half) = self.reading.block(block)?;
            Obstacle::Box { pose, half }
        } else {
            let ground = given.ground.as_ref()?;
            Obstacle::HalfSpace {
                at: self.reading.vector(&ground.at)?,
                normal: self.reading.vector(&ground.normal)?,
            }
        };
        if !solid.is_solid() {
            let fix = Some("give radius, half edges and normal a size above zero".to_owned());
            self.reading.problem(name.span(), "here", format!("{what} is no solid"), fix);
        }
        Some(solid)
    }

    /// The level, and what its shapes are called.
    pub(super) fn level(&mut self, raw: &raw::Named<raw::LevelShape>) -> (Level, Vec<String>) {
        let (mut builder, mut names) = (Level::builder(), Vec::new());
        for (name, shape) in raw {
            if self.level_shape(name, shape, &mut builder).is_some() {
                names.push(name.as_ref().clone());
            }
        }
        match builder.build() {
            Ok(level) => (level, names),
            // Solids were looked at before, and meshes have numbers out of a file.
            Err(error) => {
                if let Some((name, _)) = raw.iter().find(|(_, shape)| shape.mesh.is_some()) {
                    let fix = Some("check the `scale` of the mesh, and its file".to_owned());
                    self.reading.problem(name.span(), "this mesh", error.to_string(), fix);
                }
                (Level::default(), names)
            }
        }
    }

    fn level_shape(
        &mut self,
        name: &raw::Name,
        raw: &raw::LevelShape,
        builder: &mut LevelBuilder,
    ) -> Option<()> {
        let given =
            Given { sphere: &raw.sphere, capsule: &raw.capsule, block: &raw.block, ground: &raw.ground };
        let what = format!("shape `{}` of the level", name.as_ref());
        if given.count() + usize::from(raw.mesh.is_some()) != 1 {
            let message = format!("{what} has {} shapes", given.count() + usize::from(raw.mesh.is_some()));
            let fix = format!("give one of {SOLIDS}, or `mesh = \"file.obj\"`");
            self.reading.problem(name.span(), "here", message, Some(fix));
            return None;
        }
        let Some(file) = &raw.mesh else {
            if let Some(field) =
                raw.scale.as_ref().map(|scale| scale.span()).or(raw.up.as_ref().map(raw::Name::span))
            {
                let fix = Some("take it out, or give a `mesh`".to_owned());
                self.reading.problem(field, "for a mesh", format!("{what} is no mesh"), fix);
            }
            let solid = self.solid(name, &what, &given)?;
            if solid.is_solid() {
                builder.solid(solid);
            }
            return Some(());
        };
        let to = self.rules.ruleset.up();
        let from = match &raw.up {
            Some(up) => self.reading.find("axis", up, [("x", Axis::X), ("y", Axis::Y), ("z", Axis::Z)])?,
            None => to,
        };
        let scale = raw.scale.as_ref().map_or(Some(1.0), |scale| self.reading.number(scale))?;
        if scale <= 0.0 {
            let span = raw.scale.as_ref().map_or(0..0, |scale| scale.span());
            let fix = Some("give metres in a unit of the file, such as 0.01 for centimetres".to_owned());
            self.reading.problem(span, "here", format!("{what} has a scale that is not above zero"), fix);
            return None;
        }
        let told = match open_text(self.open, Wanted::Mesh(file.as_ref())) {
            Ok((full, text)) => read_obj(&text, Axes { from, to, turn: 0.0, scale })
                .map_err(|error| format!("`{full}`, {error}")),
            Err(why) => Err(format!("the mesh `{}` cannot be read: {why}", file.as_ref())),
        };
        match told {
            Ok(mesh) => {
                builder.mesh(&mesh.points, &mesh.triangles);
                Some(())
            }
            Err(message) => {
                let fix = Some("name a Wavefront OBJ file, relative to this one".to_owned());
                self.reading.problem(file.span(), "this file", message, fix);
                None
            }
        }
    }
}
