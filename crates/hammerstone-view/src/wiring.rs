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

/// Draws who publishes what and who hears it: publishers, topics that someone listens to, listeners, from left to right. A line is
/// the thicker the more often something was heard along it, and dotted where nothing was.
///
/// Topics that no one listens to are named below, as far as there is room. Beyond 34 in a column, the rest, those of which least came,
/// share one box.
pub fn wiring(diagram: &Diagram, title: &str, look: &Look) -> String {
    let mut sheet = Sheet::new(title, look);
    let mut heard: Vec<&Wired> = diagram.topics.iter().filter(|topic| !topic.listeners.is_empty()).collect();
    heard.sort_by_key(|topic| std::cmp::Reverse((topic.heard, topic.published)));
    let shown = heard.len().min(if heard.len() > ROWS { ROWS - 1 } else { ROWS });
    heard[..shown].sort_by(|one, other| one.topic.cmp(&other.topic));

    let mut edges = Edges::of(diagram, &heard, shown);
    let mut topics = topic_nodes(&heard, shown);
    let rows = topics.len().max(edges.publishers.len().min(ROWS)).max(edges.listeners.len().min(ROWS)).max(1);
    let pitch = ((HIGH - TOP - 100.0) / rows as f32).min(44.0);
    spread(&mut topics, rows, pitch);
    let at: Vec<f32> = topics.iter().map(|node| node.y).collect();
    let mut from = column(&edges.publishers, &mut edges.left, |edge| (&mut edge.from, edge.to), &at, None);
    let mut to =
        column(&edges.listeners, &mut edges.right, |edge| (&mut edge.to, edge.from), &at, Some("heard"));
    spread(&mut from, rows, pitch);
    spread(&mut to, rows, pitch);

    sheet.lines(&edges.left, (&from, &topics), (PUBLISHERS.0 + PUBLISHERS.1, TOPICS.0));
    sheet.lines(&edges.right, (&topics, &to), (TOPICS.0 + TOPICS.1, LISTENERS.0));
    for (head, nodes, column) in [
        ("publishers", &from, PUBLISHERS),
        ("topics, and how often published", &topics, TOPICS),
        ("listeners, and how often heard", &to, LISTENERS),
    ] {
        sheet.word(head, (column.0 + 2.0, TOP - 20.0), 12.0);
        nodes.iter().for_each(|node| sheet.node(node, column, pitch));
    }
    if heard.is_empty() {
        sheet.word("there are no listeners", (TOPICS.0, TOP + 20.0), 12.0);
    }
    sheet.unheard(diagram);
    let page = sheet.shapes.into_iter().fold(page::blank(title, HIGH, look), |page, shape| page.add(shape));
    page.add(sheet.quiet).add(sheet.words).to_string()
}

/// The links from stages and rules to topics, and from topics to listeners, by their places in the columns.
struct Edges {
    publishers: BTreeMap<String, usize>,
    listeners: BTreeMap<String, usize>,
    left: Vec<Edge>,
    right: Vec<Edge>,
}

impl Edges {
    /// Of the topics that are heard; those from `shown` on share one box.
    fn of(diagram: &Diagram, heard: &[&Wired], shown: usize) -> Edges {
        let row_of = |place: usize| place.min(shown);
        let (mut publishers, mut listeners) = (BTreeMap::new(), BTreeMap::new());
        let (mut left, mut right): (Vec<Edge>, Vec<Edge>) = (Vec::new(), Vec::new());
        for (place, topic) in heard.iter().enumerate() {
            let stages = topic.publishers.iter().filter(|publisher| !publisher.starts_with("rule ")).count();
            for publisher in &topic.publishers {
                let next = publishers.len();
                let from = *publishers.entry(publisher.clone()).or_insert(next);
                // What rules led to is theirs.
                let led = topic.led.values().sum::<u64>();
                let often = match publisher.strip_prefix("rule ") {
                    // What it led to later, such as the end of a swing that it started, is not counted: the line is thin.
                    Some(rule) => topic.led.get(publisher).copied().unwrap_or(fired(diagram, rule).into()),
                    None if stages == 1 => topic.published.saturating_sub(led),
                    // Of several stages it is not told which published it how often: their lines are thin.
                    None => topic.published.saturating_sub(led).min(1),
                };
                left.push(Edge { from, to: row_of(place), often });
            }
            for ear in &topic.listeners {
                let next = listeners.len();
                let name = format!("{} {}", ear.sort, ear.name);
                let to = *listeners.entry(name).or_insert(next);
                right.push(Edge { from: row_of(place), to, often: ear.heard });
            }
        }
        Edges { publishers, listeners, left, right }
    }
}

/// The boxes of the middle column.
fn topic_nodes(heard: &[&Wired], shown: usize) -> Vec<Node> {
    let node = |text: String, published: u64| Node {
        text,
        count: published.to_string(),
        idle: published == 0,
        y: 0.0,
    };
    let mut topics: Vec<Node> =
        heard[..shown].iter().map(|topic| node(topic.topic.clone(), topic.published)).collect();
    if shown < heard.len() {
        let rest = &heard[shown..];
        let published: u64 = rest.iter().map(|topic| topic.published).sum();
        topics.push(node(format!("{} more topics", rest.len()), published));
    }
    topics
}

/// The picture while it is drawn: lines and boxes, words, and quieter words.
struct Sheet<'a> {
    look: &'a Look,
    labels: Labels,
    shapes: Vec<Box<dyn svg::Node>>,
    words: Group,
    quiet: Group,
}

const PAGE: Area = [0.0, 0.0, WIDE, HIGH];

impl<'a> Sheet<'a> {
    fn new(title: &str, look: &'a Look) -> Sheet<'a> {
        let (words, quiet) = (Group::new().set("fill", look.ink), Group::new().set("fill", look.quiet));
        let mut sheet = Sheet { look, labels: Labels::default(), shapes: Vec::new(), words, quiet };
        let head = format!("{title}: who hears what");
        sheet.word(&fitted(&head, 16.0, WIDE - 40.0), (MARGIN, 26.0), 16.0);
        sheet.quietly(
            "from left to right: publishers, topics, listeners; numbers say how often in this run; dotted: never",
            (MARGIN, 46.0),
            Held::Start,
        );
        sheet
    }

    fn word(&mut self, text: &str, at: (f32, f32), size: f32) {
        let label = self.labels.place(text, at, size, Held::Start, PAGE);
        self.words = std::mem::take(&mut self.words).add_some(label);
    }

    fn quietly(&mut self, text: &str, at: (f32, f32), held: Held) {
        let label = self.labels.place(text, at, 10.0, held, PAGE);
        self.quiet = std::mem::take(&mut self.quiet).add_some(label);
    }

    fn add(&mut self, node: impl Into<Box<dyn svg::Node>>) {
        self.shapes.push(node.into());
    }

    fn lines(&mut self, edges: &[Edge], (from, to): (&[Node], &[Node]), (x, until): (f32, f32)) {
        let mut group = Group::new().set("fill", "none");
        for edge in edges {
            let (y, end) = (from[edge.from].y, to[edge.to].y);
            let bend = (until - x) * 0.5;
            let (out, back) = (x + bend, until - bend);
            let d = format!("M{x:.1} {y:.1}C{out:.1} {y:.1} {back:.1} {end:.1} {until:.1} {end:.1}");
            let path = Path::new().set("d", d);
            group = group.add(if edge.often == 0 {
                path.set("stroke", self.look.quiet).set("stroke-dasharray", "1 4")
            } else {
                let thick = 0.8 + (edge.often as f32).ln().max(0.0) * 0.5;
                path.set("stroke", self.look.side(0))
                    .set("stroke-width", format!("{thick:.1}"))
                    .set("stroke-opacity", 0.55)
            });
        }
        self.add(group);
    }

    fn node(&mut self, node: &Node, (x, wide): (f32, f32), pitch: f32) {
        let high = (pitch - 4.0).min(ROW - 2.0);
        let frame = Rectangle::new()
            .set("x", x)
            .set("y", node.y - high / 2.0)
            .set("width", wide)
            .set("height", high)
            .set("rx", 3)
            .set("fill", self.look.paper)
            .set("stroke", if node.idle { self.look.quiet } else { self.look.ink });
        self.add(if node.idle { frame.set("stroke-dasharray", "1 3") } else { frame });
        let counted = width(&node.count, 10.0);
        self.word(&fitted(&node.text, 11.0, wide - counted - 22.0), (x + 8.0, node.y + 4.0), 11.0);
        self.quietly(&node.count, (x + wide - 6.0, node.y + 4.0), Held::End);
    }

    /// Names the topics without listeners, as far as there is room.
    fn unheard(&mut self, diagram: &Diagram) {
        const MOST: usize = 5;
        let unheard = diagram.topics.iter().filter(|topic| topic.listeners.is_empty());
        let unheard: Vec<String> =
            unheard.map(|topic| format!("{} {}", topic.topic, topic.published)).collect();
        let unheard = if unheard.is_empty() { "nothing".to_owned() } else { unheard.join(", ") };
        let lines = wrapped(&format!("published, but unheard: {unheard}"), 10.0, WIDE - 2.0 * MARGIN - 20.0);
        for (number, line) in lines.iter().take(MOST).enumerate() {
            let cut = number + 1 == MOST && lines.len() > MOST;
            let line = if cut { format!("{line} …") } else { line.clone() };
            self.quietly(&line, (MARGIN, HIGH - 74.0 + number as f32 * 14.0), Held::Start);
        }
    }
}

/// Whether a rule fired in the run.
fn fired(diagram: &Diagram, rule: &str) -> bool {
    let mut ears = diagram.topics.iter().flat_map(|topic| &topic.listeners);
    ears.any(|ear| ear.heard > 0 && ear.sort == "rule" && ear.name == rule)
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
