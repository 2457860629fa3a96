//! The nodes of a file that are joints, at rest.

use crate::remarks::Remark;
use crate::skeleton::{Joint, MOST_JOINTS, MotionError, sound};
use crate::turns::{Local, Place, Turn, UNTURNED, unit};

/// The nodes of a file that are joints.
pub(super) struct Tree {
    pub(super) joints: Vec<Joint>,
    /// By node, its joint.
    pub(super) of_node: Vec<Option<usize>>,
    /// By joint, how much what it carries is stretched, along its axes.
    pub(super) stretch: Vec<Place>,
    pub(super) remarks: Vec<Remark>,
}

impl Tree {
    pub(super) fn of(document: &gltf::Document) -> Result<Tree, MotionError> {
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

    pub(super) fn remark(&mut self, place: &str, text: &str, fix: &str) {
        self.remarks.push(Remark { place: place.to_owned(), text: text.to_owned(), fix: fix.to_owned() });
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
