//! Who publishes what, and who hears it, as a graph.

use std::collections::BTreeMap;

use hammerstone_record::{Diagram, Wired};
use svg::node::element::{Group, Path, Rectangle};

use crate::labels::{Area, Held, Labels, width};
use crate::look::Look;
use crate::page::{self, AddSome, HIGH, WIDE, fitted, wrapped};

const MARGIN: f32 = 16.0;
const TOP: f32 = 92.0;
/// Left edges and widths of the three columns.
const PUBLISHERS: (f32, f32) = (MARGIN, 250.0);
const TOPICS: (f32, f32) = (470.0, 290.0);
const LISTENERS: (f32, f32) = (944.0, 320.0);
/// Rows of a column, at most.
const ROWS: usize = 34;
const ROW: f32 = 22.0;

/// A box of a column.
struct Node {
    text: String,
    count: String,
    /// Whether nothing ever came through it.
    idle: bool,
    /// Its middle.
    y: f32,
}

/// An edge from a row of one column to a row of the next, with how often.
struct Edge {
    from: usize,
    to: usize,
    often: u64,
}

/// Draws who publishes what and who hears it: publishers, topics that somebody listens to, listeners, from left to right. A line is
/// the thicker the more often something was heard along it, and dotted where nothing was.
///
/// Topics that nobody listens to are named below, as far as there is room. Beyond 34 in a column, the rest, those of which least came,
/// share one box.
pub fn wiring(diagram: &Diagram, title: &str, look: &Look) -> String {
    let mut labels = Labels::default();
    let page: Area = [0.0, 0.0, WIDE, HIGH];
    let mut document = page::blank(title, HIGH, look);
    let mut words = Group::new().set("fill", look.ink);
    words = words.add_some(labels.place(
        &fitted(&format!("{title}: who hears what"), 16.0, WIDE - 40.0),
        (MARGIN, 26.0),
        16.0,
        Held::Start,
        page,
    ));
    let mut quiet = Group::new().set("fill", look.quiet);
    quiet = quiet.add_some(labels.place(
        "from left to right: publishers, topics, listeners; numbers say how often in this run; dotted: never",
        (MARGIN, 46.0),
        10.0,
        Held::Start,
        page,
    ));
    let mut heard: Vec<&Wired> = diagram.topics.iter().filter(|topic| !topic.listeners.is_empty()).collect();
    heard.sort_by_key(|topic| std::cmp::Reverse((topic.heard, topic.published)));
    let shown = heard.len().min(if heard.len() > ROWS { ROWS - 1 } else { ROWS });
    heard[..shown].sort_by(|one, other| one.topic.cmp(&other.topic));
    let row_of = |place: usize| place.min(shown);

    let (mut publishers, mut listeners) = (BTreeMap::new(), BTreeMap::new());
    let (mut left, mut right): (Vec<Edge>, Vec<Edge>) = (Vec::new(), Vec::new());
    for (place, topic) in heard.iter().enumerate() {
        for publisher in &topic.publishers {
            let next = publishers.len();
            let from = *publishers.entry(publisher.clone()).or_insert(next);
            let rule = publisher.starts_with("rule ");
            // Who of several published it is not told; a rule that never fired did not.
            let often = if rule && !fired(diagram, publisher) { 0 } else { topic.published };
            left.push(Edge { from, to: row_of(place), often });
        }
        for ear in &topic.listeners {
            let next = listeners.len();
            let name = format!("{} {}", ear.sort, ear.name);
            let to = *listeners.entry(name).or_insert(next);
            right.push(Edge { from: row_of(place), to, often: ear.heard });
        }
    }
    let mut topics: Vec<Node> = heard[..shown]
        .iter()
        .map(|topic| Node {
            text: topic.topic.clone(),
            count: topic.published.to_string(),
            idle: topic.published == 0,
            y: 0.0,
        })
        .collect();
    if shown < heard.len() {
        let rest = &heard[shown..];
        let published: u64 = rest.iter().map(|topic| topic.published).sum();
        let (text, count) = (format!("{} more topics", rest.len()), published.to_string());
        topics.push(Node { text, count, idle: published == 0, y: 0.0 });
    }
    let rows = topics.len().max(publishers.len().min(ROWS)).max(listeners.len().min(ROWS)).max(1);
    let pitch = ((HIGH - TOP - 100.0) / rows as f32).min(44.0);
    spread(&mut topics, rows, pitch);
    let at: Vec<f32> = topics.iter().map(|node| node.y).collect();
    let mut from = column(&publishers, &mut left, |edge| (&mut edge.from, edge.to), &at, None);
    let mut to = column(&listeners, &mut right, |edge| (&mut edge.to, edge.from), &at, Some("heard"));
    spread(&mut from, rows, pitch);
    spread(&mut to, rows, pitch);

    let lines = |edges: &[Edge], from: &[Node], to: &[Node], x: f32, until: f32| {
        let mut group = Group::new().set("fill", "none");
        for edge in edges {
            let (y, end) = (from[edge.from].y, to[edge.to].y);
            let bend = (until - x) * 0.5;
            let d = format!(
                "M{x:.1} {y:.1}C{:.1} {y:.1} {:.1} {end:.1} {until:.1} {end:.1}",
                x + bend,
                until - bend
            );
            let path = Path::new().set("d", d);
            group = group.add(if edge.often == 0 {
                path.set("stroke", look.quiet).set("stroke-dasharray", "1 4")
            } else {
                let thick = 0.8 + (edge.often as f32).ln().max(0.0) * 0.5;
                path.set("stroke", look.side(0))
                    .set("stroke-width", format!("{thick:.1}"))
                    .set("stroke-opacity", 0.55)
            });
        }
        group
    };
    document = document.add(lines(&left, &from, &topics, PUBLISHERS.0 + PUBLISHERS.1, TOPICS.0)).add(lines(
        &right,
        &topics,
        &to,
        TOPICS.0 + TOPICS.1,
        LISTENERS.0,
    ));
    let heads = [
        ("publishers", PUBLISHERS),
        ("topics, and how often published", TOPICS),
        ("listeners, and how often heard", LISTENERS),
    ];
    for (head, (x, _)) in heads {
        words = words.add_some(labels.place(head, (x + 2.0, TOP - 20.0), 12.0, Held::Start, page));
    }
    for (nodes, (x, wide)) in [(&from, PUBLISHERS), (&topics, TOPICS), (&to, LISTENERS)] {
        for node in nodes {
            let high = (pitch - 4.0).min(ROW - 2.0);
            let frame = Rectangle::new()
                .set("x", x)
                .set("y", node.y - high / 2.0)
                .set("width", wide)
                .set("height", high)
                .set("rx", 3)
                .set("fill", look.paper)
                .set("stroke", if node.idle { look.quiet } else { look.ink });
            document = document.add(if node.idle { frame.set("stroke-dasharray", "1 3") } else { frame });
            let counted = width(&node.count, 10.0);
            words = words.add_some(labels.place(
                &fitted(&node.text, 11.0, wide - counted - 22.0),
                (x + 8.0, node.y + 4.0),
                11.0,
                Held::Start,
                page,
            ));
            quiet = quiet.add_some(labels.place(
                &node.count,
                (x + wide - 6.0, node.y + 4.0),
                10.0,
                Held::End,
                page,
            ));
        }
    }
    if heard.is_empty() {
        words = words.add_some(labels.place(
            "there are no listeners",
            (TOPICS.0, TOP + 20.0),
            12.0,
            Held::Start,
            page,
        ));
    }
    let deaf: Vec<String> = diagram
        .topics
        .iter()
        .filter(|topic| topic.listeners.is_empty())
        .map(|topic| format!("{} {}", topic.topic, topic.published))
        .collect();
    let deaf = format!(
        "published, but unheard: {}",
        if deaf.is_empty() { "nothing".to_owned() } else { deaf.join(", ") }
    );
    let lines = wrapped(&deaf, 10.0, WIDE - 2.0 * MARGIN - 20.0);
    const MOST: usize = 5;
    for (number, line) in lines.iter().take(MOST).enumerate() {
        let cut = number + 1 == MOST && lines.len() > MOST;
        let line = if cut { format!("{line} …") } else { line.clone() };
        let y = HIGH - 74.0 + number as f32 * 14.0;
        quiet = quiet.add_some(labels.place(&line, (MARGIN, y), 10.0, Held::Start, page));
    }
    document.add(quiet).add(words).to_string()
}

fn fired(diagram: &Diagram, publisher: &str) -> bool {
    let ears = diagram.topics.iter().flat_map(|topic| &topic.listeners);
    ears.into_iter().any(|ear| ear.heard > 0 && publisher.strip_prefix("rule ") == Some(ear.name.as_str()))
}

/// The nodes of an outer column, ordered so that few lines cross; the edges' ends are renumbered.
fn column(
    names: &BTreeMap<String, usize>,
    edges: &mut [Edge],
    ends: fn(&mut Edge) -> (&mut usize, usize),
    topics: &[f32],
    counted: Option<&str>,
) -> Vec<Node> {
    let count = names.len();
    let mut sums = vec![(0.0f32, 0.0f32, 0u64); count];
    for edge in edges.iter_mut() {
        let often = edge.often;
        let (own, topic) = ends(edge);
        let (sum, edges, heard) = &mut sums[*own];
        (*sum, *edges, *heard) = (*sum + topics[topic], *edges + 1.0, *heard + often);
    }
    let middle = |place: usize| sums[place].0 / sums[place].1.max(1.0);
    let mut order: Vec<(&String, usize)> = names.iter().map(|(name, &place)| (name, place)).collect();
    // Those of whom least came share the last box.
    let shown = if count > ROWS {
        order.sort_by_key(|&(_, place)| std::cmp::Reverse(sums[place].2));
        ROWS - 1
    } else {
        count
    };
    order[..shown].sort_by(|a, b| middle(a.1).total_cmp(&middle(b.1)).then(a.0.cmp(b.0)));
    let mut row = vec![shown; count];
    for (place, &(_, old)) in order[..shown].iter().enumerate() {
        row[old] = place;
    }
    for edge in edges.iter_mut() {
        let (own, _) = ends(edge);
        *own = row[*own];
    }
    let number = |heard: u64| if counted.is_some() { heard.to_string() } else { String::new() };
    let mut nodes: Vec<Node> = order[..shown]
        .iter()
        .map(|&(name, old)| {
            let heard = sums[old].2;
            Node { text: name.clone(), count: number(heard), idle: heard == 0, y: 0.0 }
        })
        .collect();
    if shown < count {
        let heard = order[shown..].iter().map(|&(_, old)| sums[old].2).sum();
        let text = format!("{} more", count - shown);
        nodes.push(Node { text, count: number(heard), idle: heard == 0, y: 0.0 });
    }
    nodes
}

/// Puts the nodes of a column evenly into the room that the longest takes.
fn spread(nodes: &mut [Node], rows: usize, pitch: f32) {
    let room = rows as f32 * pitch;
    let own = room / nodes.len().max(1) as f32;
    let own = own.min(pitch * 2.0);
    let from = TOP + (room - own * nodes.len() as f32) / 2.0;
    for (place, node) in nodes.iter_mut().enumerate() {
        node.y = from + own * (place as f32 + 0.5);
    }
}
