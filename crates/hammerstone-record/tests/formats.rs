//! Reads saves, rulesets, levels and logs by nothing but `docs/formats.md` and `docs/records.md`, as a program without the library would.

use std::cell::RefCell;
use std::collections::HashMap;

use hammerstone::Saved;
use hammerstone::level::Level;
use hammerstone::prelude::*;
use hammerstone_record::{LogOptions, Recorder};
use proptest::prelude::*;
use proptest::test_runner::TestRunner;
use testkit::{Fight, build, fights, play_ticking};
use xxhash_rust::xxh3::xxh3_64_with_seed;

/// A type of the document.
#[derive(Clone, PartialEq, Debug)]
enum Type {
    Named(String),
    List(Box<Type>),
    Option(Box<Type>),
    Tuple(Vec<Type>),
}

impl Type {
    fn read(text: &str) -> Type {
        let (of, rest) = Type::one(text);
        assert!(rest.is_empty(), "{text:?} is more than a type");
        of
    }

    fn one(text: &str) -> (Type, &str) {
        if let Some(rest) = text.strip_prefix("list of ") {
            let (of, rest) = Type::one(rest);
            return (Type::List(Box::new(of)), rest);
        }
        if let Some(rest) = text.strip_prefix("option of ") {
            let (of, rest) = Type::one(rest);
            return (Type::Option(Box::new(of)), rest);
        }
        if let Some(mut rest) = text.strip_prefix('(') {
            let mut parts = Vec::new();
            while !rest.starts_with(')') {
                let (of, after) = Type::one(rest);
                parts.push(of);
                rest = after.strip_prefix(", ").unwrap_or(after);
            }
            return (Type::Tuple(parts), &rest[1..]);
        }
        let end = text.find(|c: char| !c.is_alphanumeric()).unwrap_or(text.len());
        let (name, rest) = text.split_at(end);
        match (name.parse::<usize>(), rest.strip_prefix(" of ")) {
            (Ok(count), Some(rest)) => {
                let (of, rest) = Type::one(rest);
                (Type::Tuple(vec![of; count]), rest)
            }
            _ => (Type::Named(name.to_owned()), rest),
        }
    }
}

/// What stands behind a name.
#[derive(Debug)]
enum Named {
    Same(Type),
    Struct(Vec<(String, Type)>),
    Enum(Vec<(String, Named)>),
}

/// The document.
struct Formats {
    sections: Vec<(String, Type)>,
    plain: HashMap<String, Type>,
    types: HashMap<String, Named>,
}

/// A value that was read.
#[derive(Clone, PartialEq, Debug)]
enum Value {
    Number(i128),
    Float(f64),
    Text(String),
    List(Vec<Value>),
    Option(Option<Box<Value>>),
    Struct(Vec<(String, Value)>),
    Variant(String, Box<Value>),
}

impl Value {
    fn field(&self, name: &str) -> &Value {
        let Value::Struct(fields) = self else { panic!("{self:?} is no struct") };
        &fields.iter().find(|(field, _)| field == name).unwrap_or_else(|| panic!("no {name} in {fields:?}")).1
    }

    fn number(&self) -> i128 {
        let Value::Number(number) = self else { panic!("{self:?} is no number") };
        *number
    }

    fn list(&self) -> &[Value] {
        let Value::List(list) = self else { panic!("{self:?} is no list") };
        list
    }
}

impl Formats {
    fn read() -> Formats {
        let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/formats.md");
        let text = std::fs::read_to_string(path).expect("docs/formats.md");
        let mut blocks =
            text.split("```text\n").skip(1).map(|block| block.split_once("```").expect("its end").0);
        let mut pairs = || {
            let lines = blocks.next().expect("a list").lines();
            lines
                .map(|line| line.split_once(": ").expect("a type"))
                .map(|(name, of)| (name.to_owned(), Type::read(of)))
        };
        let (sections, plain) = (pairs().collect(), pairs().collect());
        let mut types: HashMap<String, Named> = HashMap::new();
        let mut last = String::new();
        for line in blocks.next().expect("the types").lines() {
            let text = line.trim_start();
            let deep = (line.len() - text.len()) / 4;
            if deep == 0 {
                let (name, named) = match (text.split_once(" = "), text.strip_suffix(", one of")) {
                    (Some((name, of)), _) => (name, Named::Same(Type::read(of))),
                    (None, Some(name)) => (name, Named::Enum(Vec::new())),
                    (None, None) => (text, Named::Struct(Vec::new())),
                };
                last = name.to_owned();
                assert!(types.insert(last.clone(), named).is_none(), "{name} stands there once");
                continue;
            }
            let field = || {
                let (name, of) = text.split_once(": ").expect("a field and its type");
                (name.to_owned(), Type::read(of))
            };
            match types.get_mut(&last).expect("it was said") {
                Named::Struct(fields) => fields.push(field()),
                Named::Enum(variants) if deep == 1 => {
                    let (number, rest) = text.split_once(' ').expect("a number and a name");
                    assert_eq!(number.parse(), Ok(variants.len()), "{last}");
                    variants.push(match rest.split_once(" = ") {
                        Some((name, of)) => (name.to_owned(), Named::Same(Type::read(of))),
                        None => (rest.to_owned(), Named::Struct(Vec::new())),
                    });
                }
                Named::Enum(variants) => match variants.last_mut() {
                    Some((_, Named::Struct(fields))) => fields.push(field()),
                    other => panic!("a field of {other:?}"),
                },
                Named::Same(of) => panic!("a field of {of:?}"),
            }
        }
        Formats { sections, plain, types }
    }
}

/// Bytes that are read from the front.
struct Reading<'a> {
    formats: &'a Formats,
    bytes: &'a [u8],
    /// Whether numbers are short, as they are everywhere but in saves.
    short: bool,
}

impl<'a> Reading<'a> {
    fn fixed(formats: &'a Formats, bytes: &'a [u8]) -> Reading<'a> {
        Reading { formats, bytes, short: false }
    }

    fn short(formats: &'a Formats, bytes: &'a [u8]) -> Reading<'a> {
        Reading { formats, bytes, short: true }
    }

    fn take(&mut self, count: usize) -> &'a [u8] {
        let (first, rest) = self.bytes.split_at(count);
        self.bytes = rest;
        first
    }

    fn byte(&mut self) -> u8 {
        self.take(1)[0]
    }

    fn wide(&mut self, bytes: usize) -> u64 {
        self.take(bytes).iter().rev().fold(0, |number, &byte| number << 8 | u64::from(byte))
    }

    /// A short number.
    fn groups(&mut self) -> u64 {
        let mut number = 0;
        for shift in (0..).step_by(7) {
            let byte = self.byte();
            number |= u64::from(byte & 0x7f) << shift;
            if byte < 0x80 {
                break;
            }
        }
        number
    }

    fn number(&mut self, bytes: usize) -> u64 {
        if self.short && bytes > 1 { self.groups() } else { self.wide(bytes) }
    }

    fn signed(&mut self, bytes: usize) -> i64 {
        let number = self.number(bytes);
        if self.short && bytes > 1 {
            return (number >> 1) as i64 ^ -((number & 1) as i64);
        }
        let beside = 64 - 8 * bytes as u32;
        (number << beside) as i64 >> beside
    }

    fn text(&mut self) -> String {
        let count = self.number(4) as usize;
        String::from_utf8(self.take(count).to_vec()).expect("UTF-8")
    }

    fn value(&mut self, of: &Type) -> Value {
        match of {
            Type::List(of) => {
                let count = self.number(4);
                Value::List((0..count).map(|_| self.value(of)).collect())
            }
            Type::Option(of) => match self.byte() {
                0 => Value::Option(None),
                1 => Value::Option(Some(Box::new(self.value(of)))),
                other => panic!("{other} in an option of {of:?}"),
            },
            Type::Tuple(parts) => Value::List(parts.iter().map(|of| self.value(of)).collect()),
            Type::Named(name) => match name.as_str() {
                "bool" => {
                    let truth = self.byte();
                    assert!(truth < 2, "{truth} as a truth");
                    Value::Number(truth.into())
                }
                "u8" => Value::Number(self.number(1).into()),
                "u16" => Value::Number(self.number(2).into()),
                "u32" => Value::Number(self.number(4).into()),
                "u64" => Value::Number(self.number(8).into()),
                "i8" => Value::Number(self.signed(1).into()),
                "i16" => Value::Number(self.signed(2).into()),
                "i32" => Value::Number(self.signed(4).into()),
                "i64" => Value::Number(self.signed(8).into()),
                "f32" => Value::Float(f32::from_bits(self.wide(4) as u32).into()),
                "f64" => Value::Float(f64::from_bits(self.wide(8))),
                "text" => Value::Text(self.text()),
                name => {
                    let formats = self.formats;
                    self.named(
                        formats.types.get(name).unwrap_or_else(|| panic!("{name} is not written down")),
                    )
                }
            },
        }
    }

    fn named(&mut self, named: &Named) -> Value {
        match named {
            Named::Same(of) => self.value(of),
            Named::Struct(fields) => {
                Value::Struct(fields.iter().map(|(name, of)| (name.clone(), self.value(of))).collect())
            }
            Named::Enum(variants) => {
                let number = if self.short { self.groups() as usize } else { self.byte().into() };
                let (name, of) = &variants[number];
                Value::Variant(name.clone(), Box::new(self.named(of)))
            }
        }
    }

    /// Plain data, under its name in the document.
    fn plain(&mut self, name: &str) -> Value {
        let formats = self.formats;
        self.value(formats.plain.get(name).unwrap_or_else(|| panic!("{name} is not written down")))
    }

    fn end(&self) {
        assert!(self.bytes.is_empty(), "{} bytes are left", self.bytes.len());
    }
}

/// All that is in a save.
fn read_save(formats: &Formats, bytes: &[u8]) -> HashMap<String, Value> {
    assert_eq!(&bytes[..8], b"HMSAVE\x01\x00");
    let mut head = Reading::fixed(formats, &bytes[8..]);
    assert_eq!(head.wide(8), xxh3_64_with_seed(&bytes[16..], 1), "the seal");
    head.take(16);
    let names = Type::read("list of (text, list of text)");
    let mut found = HashMap::new();
    let mut places = Vec::new();
    while !head.bytes.is_empty() {
        let length = head.byte().into();
        let name = std::str::from_utf8(head.take(length)).expect("UTF-8");
        let length = head.wide(4) as usize;
        let mut content = Reading::fixed(formats, head.take(length));
        let known = name.replacen("first.", "state.", 1);
        let of = match formats.sections.iter().position(|(section, _)| *section == known) {
            Some(place) => {
                places.push((!name.starts_with("state."), place));
                &formats.sections[place].1
            }
            None => {
                assert_eq!(name, "names", "a section that is not written down");
                &names
            }
        };
        let value = content.value(of);
        content.end();
        assert!(found.insert(name.to_owned(), value).is_none(), "{name} comes once");
    }
    assert!(places.is_sorted(), "sections come in the order of the document");
    found
}

/// What a stream of poses remembers: the last of each place, and the one before.
#[derive(Default)]
struct Stream {
    known: Vec<[[i32; 7]; 2]>,
    next: usize,
}

impl Stream {
    fn pose(&mut self, from: &mut Reading<'_>) -> [f32; 7] {
        let lengths = from.wide(2);
        let rises = |bits: i32| if bits < 0 { bits ^ 0x7fff_ffff } else { bits };
        let mut numbers = [0i32; 7];
        for (place, number) in numbers.iter_mut().enumerate() {
            let folded = from.wide([0, 1, 2, 4][(lengths >> (2 * place) & 3) as usize]) as u32;
            let expected = self
                .known
                .get(self.next)
                .map_or(0, |[last, before]| last[place].wrapping_mul(2).wrapping_sub(before[place]));
            *number = expected.wrapping_add((folded >> 1) as i32 ^ -((folded & 1) as i32));
        }
        match self.known.get_mut(self.next) {
            Some([last, before]) => (*last, *before) = (numbers, *last),
            None => self.known.push([numbers; 2]),
        }
        self.next += 1;
        numbers.map(|number| f32::from_bits(rises(number) as u32))
    }
}

/// What a log says, so far as the tests ask.
#[derive(Default)]
struct Said {
    frames: usize,
    /// Of each tick that ran: its number, and how many facts it had.
    ran: Vec<(u64, u64)>,
    orders: Vec<Value>,
    moves: Vec<[f32; 7]>,
    /// How often each sort of answer came.
    answers: [u64; 12],
    finished: bool,
}

/// The streams of a log: moves, posed parts, answered poses.
type Streams = [Stream; 3];

fn read_inputs(from: &mut Reading<'_>, streams: &mut Streams, said: &mut Said) {
    for _ in 0..from.groups() {
        match from.byte() {
            0..=3 => {}
            4 => said.orders.push(from.plain("order")),
            5 => {
                let (_place, _generation, _ticks) = (from.groups(), from.groups(), from.groups());
                said.moves.push(streams[0].pose(from));
            }
            6 => {
                for _ in 0..from.groups() {
                    streams[1].pose(from);
                }
            }
            7 => _ = from.text(),
            8 => _ = from.plain("order taken back"),
            9 => {}
            other => panic!("an input of sort {other}"),
        }
    }
}

fn read_answers(from: &mut Reading<'_>, streams: &mut Streams, said: &mut Said) {
    while !from.bytes.is_empty() {
        let sort = from.byte();
        said.answers[usize::from(sort)] += 1;
        match sort {
            0 | 2 | 4 | 6 | 8 | 10 => assert!(from.groups() > 0),
            1 => {
                from.groups();
                read_inputs(from, streams, said);
            }
            3 => {
                from.groups();
                if matches!(from.byte(), 1 | 2) {
                    from.plain("reason");
                }
                from.plain("amendments and costs");
            }
            5 => {
                from.groups();
                from.plain("points that are left");
            }
            7 => _ = from.groups(),
            9 => {
                assert!(from.byte() < 2);
                for _ in 0..2 * from.groups() {
                    streams[2].pose(from);
                }
            }
            11 => _ = from.plain("amount"),
            other => panic!("an answer of sort {other}"),
        }
    }
}

fn bytes_of<'a>(from: &mut Reading<'a>) -> &'a [u8] {
    let count = from.groups() as usize;
    from.take(count)
}

fn read_ruleset(formats: &Formats, bytes: &[u8]) -> Value {
    assert_eq!(&bytes[..7], b"HMRULES");
    let mut from = Reading::short(formats, &bytes[16..]);
    let rules = from.plain("ruleset");
    from.end();
    rules
}

fn read_log(formats: &Formats, bytes: &[u8]) -> Said {
    let (magic, rest) = bytes.split_at(8);
    assert_eq!(magic, b"HMSTLOG1");
    let (mut said, mut streams) = (Said::default(), Streams::default());
    let mut frames = Reading::short(formats, rest);
    let mut sum = u64::from(frames.byte());
    assert_eq!(sum, 0, "it is not compressed");
    while !frames.bytes.is_empty() {
        said.frames += 1;
        let (sort, length) = (frames.byte(), frames.wide(4));
        let content = frames.take(length as usize);
        sum = xxh3_64_with_seed(content, sum ^ u64::from(sort) ^ length << 8);
        assert_eq!(frames.wide(8), sum, "the checksum of frame {}", said.frames);
        let mut from = Reading::short(formats, content);
        match sort {
            1 => {
                let _title_build_version = [from.text(), from.text(), from.text()];
                read_ruleset(formats, bytes_of(&mut from));
                let level = bytes_of(&mut from);
                assert_eq!(&level[..7], b"HMLEVEL");
                let mut shapes = Reading::short(formats, &level[16..]);
                shapes.plain("level");
                shapes.end();
                let _rate = from.groups();
                from.take(8);
                if from.byte() == 1 {
                    read_save(formats, bytes_of(&mut from));
                }
            }
            2 => {
                match from.byte() {
                    0 => {}
                    1 => _ = from.groups(),
                    2 => _ = read_save(formats, bytes_of(&mut from)),
                    3 => {
                        from.groups();
                        read_ruleset(formats, bytes_of(&mut from));
                        read_save(formats, bytes_of(&mut from));
                    }
                    other => panic!("it began from a state of sort {other}"),
                }
                streams.iter_mut().for_each(|stream| stream.next = 0);
                read_inputs(&mut from, &mut streams, &mut said);
            }
            3 => {
                let flags = from.byte();
                said.ran.push((from.groups(), from.groups()));
                if flags & 4 != 0 {
                    from.take(8);
                }
                for _ in 0..from.groups() {
                    from.groups();
                    assert!(from.byte() < 4);
                    from.text();
                }
                read_answers(&mut from, &mut streams, &mut said);
            }
            4 => {
                for _ in 0..from.groups() {
                    match from.byte() {
                        0 => _ = from.plain("combatant"),
                        1 | 3 => _ = from.groups(),
                        2 => _ = from.plain("obstacle"),
                        other => panic!("a name for a thing of sort {other}"),
                    }
                    from.text();
                }
            }
            5 => said.finished = true,
            7 => streams = Streams::default(),
            other => panic!("a frame of sort {other}"),
        }
        from.end();
    }
    said
}

/// Every byte of a save and of a log is accounted for by the documents; and answers of each sort that generated fights have came by.
#[test]
fn the_documents_say_all_that_is_in_a_save_and_in_a_log() {
    let formats = Formats::read();
    let answers = RefCell::new([0u64; 12]);
    let law = |(fight, back): (Fight, usize)| {
        let rules = build(&fight.sheet);
        let options = LogOptions { checksums: 7, ..LogOptions::at_rate(60) };
        let (mut recorder, mut ran, mut saves) = (None, Vec::new(), Vec::<Saved>::new());
        let last = play_ticking(
            &rules,
            &fight,
            |_| {},
            |encounter, hooks, world| {
                let log = recorder.get_or_insert_with(|| Recorder::begin(encounter, Vec::new(), &options));
                let summary = log.tick_with(encounter, hooks, world).expect("it ticks");
                ran.push((u64::from(summary.tick), encounter.facts().facts.len() as u64));
                saves.push(encounter.save().expect("it is whole"));
                if ran.len() == 20 {
                    let earlier = saves[back.min(19)].to_bytes();
                    encounter
                        .restore(&Saved::from_bytes(&earlier).expect("it was written"))
                        .expect("it is of this fight");
                }
            },
        );
        let said = read_log(&formats, &recorder.expect("there were ticks").finish().expect("memory"));
        prop_assert!(said.finished);
        answers.borrow_mut().iter_mut().zip(said.answers).for_each(|(sum, count)| *sum += count);
        prop_assert_eq!(said.ran, ran);

        let saved = last.save().expect("it is whole");
        let found = read_save(&formats, &saved.to_bytes());
        prop_assert_eq!(found["state.tick"].number(), i128::from(last.view().tick()));
        let health = found["state.combatants.health"].list();
        for who in last.view().combatants() {
            let held = health[(who.to_bits() & u64::from(u32::MAX)) as usize].number();
            prop_assert_eq!(Some(held), last.view().health(who).map(|(held, _)| i128::from(held)));
        }
        let read = read_ruleset(&formats, &rules.to_bytes());
        let names = read.field("templates").list().iter().map(|template| template.field("name").clone());
        let known = rules.templates().iter().map(|template| Value::Text(template.name().to_owned()));
        prop_assert!(names.eq(known));
        Ok(())
    };
    TestRunner::new(testkit::cases(60))
        .run(&(fights(), 0..40usize), law)
        .unwrap_or_else(|fails| panic!("{fails}"));
    let answers = answers.into_inner();
    assert!([0, 1, 2, 3, 4, 5, 8, 10].iter().all(|&sort: &usize| answers[sort] > 0), "{answers:?}");
}

/// The saves of all versions that are kept.
#[test]
fn kept_saves_are_what_the_document_says() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../hammerstone/tests/saves");
    let mut count = 0;
    for file in std::fs::read_dir(folder).expect("saves") {
        let bytes = std::fs::read(file.expect("a file").path()).expect("a save");
        let found = read_save(&Formats::read(), &bytes);
        assert!(found["state.tick"].number() > 0 && found.contains_key("first.tick"));
        count += 1;
    }
    assert!(count > 0);
}

/// Moves come out of the log as they were ordered, to the bit; and so does a level.
#[test]
fn poses_and_shapes_are_read_exactly() {
    let formats = Formats::read();
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let mason = b.template(Template::new("mason", masons, 40));
    let rules = b.build().expect("sound");
    let mut shapes = Level::builder();
    shapes.mesh(&[[1.5, -2.0, 3.25], [0.0; 3], [4.0, 0.0, 0.0]], &[[0, 1, 2]]);
    let level = shapes.build().expect("sound");
    let mut fight = Encounter::in_level(&rules, &level, 7);
    let mut log = Recorder::begin(&mut fight, Vec::new(), &LogOptions::at_rate(60));
    let runs: Vec<_> = (0..3).map(|_| fight.orders().spawn(mason, Pose::IDENTITY)).collect();
    let mut moved = Vec::new();
    for tick in 0..40u32 {
        for (place, &who) in runs.iter().enumerate() {
            let way = (tick as f32 * 0.37 + place as f32).sin() * 10.0f32.powi(place as i32 * 3 - 3);
            let pose = Pose {
                at: [way, -way * 0.5, 1.0 / 3.0],
                turn: [0.0, (way * 0.1).sin(), 0.0, (way * 0.1).cos()],
            };
            fight.orders().move_to(who, pose);
            let ([x, y, z], [i, j, k, w]) = (pose.at, pose.turn);
            moved.push([x, y, z, i, j, k, w]);
        }
        log.tick(&mut fight).expect("it ticks");
    }
    let said = read_log(&formats, &log.finish().expect("memory"));
    assert_eq!(said.orders.len(), 3, "spawns: {:?}", said.orders);
    assert!(said.moves.iter().flatten().map(|n| n.to_bits()).eq(moved.iter().flatten().map(|n| n.to_bits())));

    let bytes = level.to_bytes();
    let mut shapes = Reading::short(&formats, &bytes[16..]);
    let shapes = shapes.plain("level");
    let text = format!("{shapes:?}");
    assert!(text.contains("Float(1.5), Float(-2.0), Float(3.25)"), "{text}");
}
