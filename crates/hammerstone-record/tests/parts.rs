//! Parts of surveys: what is written is read; what is cut is found out, and goes on; any parts together are the whole.

use std::collections::BTreeMap;
use std::io::Cursor;

use hammerstone_record::{
    COLUMNS, FighterRan, GatherError, Kept, MeansCounts, MeansRan, PartError, PartHead, PartReader,
    PartWriter, Point, PointTally, Ran, Surveyed, SurveyedFight, TeamRan, fingerprint, gather,
};
use proptest::collection::vec;
use proptest::prelude::*;
use testkit::cases;

/// A name as a file may have it, with all that a table must put in quotation marks.
fn name() -> impl Strategy<Value = String> {
    prop::sample::select(vec!["odo", "ilse", "a, b", "the \"maul\"", "two\nlines", "", "grey hound", "ü"])
        .prop_map(str::to_owned)
}

fn fighter() -> impl Strategy<Value = FighterRan> {
    (
        name(),
        0..5000i64,
        -20..5000i64,
        prop::option::of((0..4000u32, name(), prop::option::of(0..4000u32))),
        0..60u32,
    )
        .prop_map(|(name, dealt, taken, died, stunned)| {
            let (died, died_of, time_to_kill) = match died {
                Some((died, of, time)) => (Some(died), Some(of), time),
                None => (None, None, None),
            };
            FighterRan { name, dealt, taken, died, died_of, time_to_kill, stunned }
        })
}

fn means() -> impl Strategy<Value = MeansRan> {
    let sort = prop::sample::select(vec!["attack", "status", "rule", "host"]);
    (name(), sort, name(), prop::array::uniform9(0..900u64)).prop_map(|(team, sort, name, n)| {
        let [starts, landed, hits, dodged, blocked, turned_away, dealt, overkill, kills] = n;
        let (dealt, overkill) = (dealt as i64, overkill as i64);
        let counts =
            MeansCounts { starts, landed, hits, dodged, blocked, turned_away, dealt, overkill, kills };
        MeansRan { team, sort, name, counts }
    })
}

fn ran() -> impl Strategy<Value = Ran> {
    let teams = (0..900i64, 0..5u32, 0..4usize)
        .prop_map(|(dealt, deaths, stand)| vec![TeamRan { name: "masons".to_owned(), dealt, deaths, stand }]);
    (any::<u64>(), name(), 1..4000u32, 0..90u64, teams, vec(fighter(), 0..4), vec(means(), 0..4)).prop_map(
        |(seed, outcome, ticks, hits, teams, fighters, means)| Ran {
            seed,
            outcome,
            rate: 60,
            ticks,
            hits,
            teams,
            fighters,
            means,
        },
    )
}

fn surveyed(runs: usize) -> Surveyed {
    let fight = SurveyedFight {
        name: "duel".to_owned(),
        title: "A \"duel\", at night".to_owned(),
        tactics: true,
        seed: 1,
        seeds: runs as u64,
        varied: vec!["attack.maul.startup".to_owned()],
        points: vec![vec!["0.3s".to_owned()]],
        kept: Kept::ALL,
    };
    Surveyed {
        version: "1".to_owned(),
        fingerprint: fingerprint([&b"rules"[..]]),
        title: "Duel".to_owned(),
        sweep: false,
        fights: vec![fight],
    }
}

fn written(head: &PartHead, runs: &[Ran]) -> Vec<u8> {
    let mut part = PartWriter::new(Vec::new(), head.clone()).unwrap();
    for number in head.first..=head.last {
        part.write(number, &runs[number as usize - 1]).unwrap();
    }
    part.finish().unwrap()
}

fn open(bytes: &[u8]) -> Result<PartReader<Cursor<Vec<u8>>>, PartError> {
    PartReader::open(Cursor::new(bytes.to_vec()))
}

fn numbers(heads: &[PartHead]) -> Vec<std::ops::RangeInclusive<u64>> {
    heads.iter().map(PartHead::numbers).collect()
}

/// All whole runs of a part, what is wrong after them, and which run comes next, at which byte.
type Found = (Vec<(u64, Ran)>, Option<PartError>, (u64, u64));

fn read(bytes: &[u8]) -> Result<Found, PartError> {
    let mut part = open(bytes)?;
    let mut found = Vec::new();
    loop {
        match part.next_run() {
            Ok(Some(run)) => found.push(run),
            Ok(None) => return Ok((found, None, part.sound())),
            Err(error) => return Ok((found, Some(error), part.sound())),
        }
    }
}

proptest! {
    #![proptest_config(cases(60))]

    /// What is written is read, each row with as many cells as there are columns.
    #[test]
    fn what_is_written_is_read(runs in vec(ran(), 1..6)) {
        let head = PartHead::new(surveyed(runs.len()), 1, 1);
        let bytes = written(&head, &runs);
        let (found, error, _) = read(&bytes).unwrap();
        prop_assert!(error.is_none());
        prop_assert_eq!(found.into_iter().map(|(_, ran)| ran).collect::<Vec<_>>(), runs);
        let again = open(&bytes).unwrap();
        prop_assert_eq!(again.head(), &head);
    }

    /// A part that is cut at any byte is refused, or says how far it is whole; what is written from there on is the part as it would have been.
    #[test]
    fn a_part_that_is_cut_anywhere_goes_on(runs in vec(ran(), 1..5), at in any::<prop::sample::Index>()) {
        let head = PartHead::new(surveyed(runs.len()), 1, 1);
        let whole = written(&head, &runs);
        let cut = &whole[..at.index(whole.len())];
        let Ok((found, error, (next, byte))) = read(cut) else { return Ok(()) };
        let ends_in_a_line = cut.ends_with(b"\n");
        prop_assert!(next as usize == found.len() + 1 || (next as usize == found.len() && !ends_in_a_line));
        match error {
            // Only the end of the last line is missing.
            None => prop_assert!(cut.len() + 1 == whole.len() && next as usize == runs.len()),
            Some(PartError::Cut { after, last }) => {
                prop_assert_eq!((after, last), (found.len() as u64, runs.len() as u64));
            }
            Some(error) => prop_assert!(false, "{error:?}"),
        }
        let mut more = PartWriter::go_on(cut[..byte as usize].to_vec(), head);
        for number in next..=runs.len() as u64 {
            more.write(number, &runs[number as usize - 1]).unwrap();
        }
        prop_assert!(more.finish().unwrap() == whole);
    }

    /// Another byte anywhere after the head is found out, or changes nothing that is read.
    #[test]
    fn another_byte_is_found_out(runs in vec(ran(), 1..4), at in any::<prop::sample::Index>(), byte in any::<u8>()) {
        let head = PartHead::new(surveyed(runs.len()), 1, 1);
        let mut bytes = written(&head, &runs);
        let from = PartWriter::new(Vec::new(), head).unwrap().finish().unwrap().len();
        let place = from + at.index(bytes.len() - from);
        bytes[place] = byte;
        let (found, error, _) = read(&bytes).unwrap();
        let same = found.iter().zip(&runs).all(|((_, found), ran)| found == ran);
        prop_assert!(same && (error.is_some() || found.len() == runs.len()));
    }

    /// Shards of any number, in any order, are the whole: each run once, in its order. Of those that are left out or there twice it is said
    /// which runs they have.
    #[test]
    fn any_parts_together_are_the_whole(
        runs in vec(ran(), 0..40),
        of in 1..70u64,
        other in 1..9u64,
        left_out in any::<u64>(),
        order in any::<u64>(),
    ) {
        let survey = surveyed(runs.len());
        let mut heads: Vec<PartHead> = (1..=of).map(|shard| PartHead::new(survey.clone(), shard, of)).collect();
        let kept = |shard: u64| of == 1 || shard % 7 != left_out % 7;
        heads.retain(|head| kept(head.shard));
        heads.push(PartHead::new(survey.clone(), 1 + left_out % other, other));
        heads.sort_by_key(|head| head.shard.wrapping_mul(order | 1));
        let bytes: Vec<Vec<u8>> = heads.iter().map(|head| written(head, &runs)).collect();
        let mut found = Vec::new();
        let told = gather(&numbers(&heads), heads[0].survey.runs(), |part| open(&bytes[part]), |number, ran| found.push((number, ran))).unwrap();
        let mut times: BTreeMap<u64, usize> = (1..=runs.len() as u64).map(|number| (number, 0)).collect();
        for number in heads.iter().flat_map(|head| head.first..=head.last) {
            *times.get_mut(&number).unwrap() += 1;
        }
        let wanted: Vec<(u64, Ran)> = times
            .iter()
            .filter(|(_, times)| **times > 0)
            .map(|(number, _)| (*number, runs[*number as usize - 1].clone()))
            .collect();
        prop_assert_eq!(told.runs, wanted.len() as u64);
        prop_assert_eq!(found, wanted);
        let listed = |ranges: Vec<std::ops::RangeInclusive<u64>>| -> Vec<u64> { ranges.into_iter().flatten().collect() };
        let all = |is: fn(usize) -> bool| -> Vec<u64> {
            times.iter().filter(|(_, times)| is(**times)).map(|(number, _)| *number).collect()
        };
        prop_assert_eq!(listed(told.missing), all(|times| times == 0));
        prop_assert_eq!(listed(told.twice), all(|times| times > 1));
    }

    /// The order of runs changes nothing of what they come to but the order in which combatants are told; and quantiles are values of runs.
    #[test]
    fn a_point_is_the_same_in_any_order(mut runs in vec(ran(), 1..50), turn in any::<prop::sample::Index>()) {
        let by_name = |mut point: Point| {
            point.fighters.sort_by(|one, other| one.name.cmp(&other.name));
            point
        };
        let one = by_name(Point::of(Vec::new(), &runs).unwrap());
        let by = turn.index(runs.len());
        runs.rotate_left(by);
        runs.reverse();
        prop_assert_eq!(&by_name(Point::of(Vec::new(), &runs).unwrap()), &one);
        let mut ticks: Vec<u32> = runs.iter().map(|ran| ran.ticks).collect();
        ticks.sort_unstable();
        prop_assert_eq!(one.seconds.middle, f64::from(ticks[ticks.len().div_ceil(2) - 1]) / 60.0);
        prop_assert_eq!(one.outcomes.iter().map(|of| of.share).sum::<f64>().round(), 1.0);
        let mut tally = PointTally::default();
        prop_assert!(tally.finish(Vec::new()).is_none() && tally.uncertainty() == 1.0);
        runs.iter().for_each(|ran| tally.add(ran));
        prop_assert_eq!(tally.runs(), runs.len() as u64);
        let widest = one.outcomes.iter().map(|of| of.interval.half()).fold(0.0, f64::max);
        prop_assert_eq!(tally.uncertainty(), widest);
    }

    /// All shards of any number have each run once, as evenly as may be.
    #[test]
    fn shards_have_each_run_once(runs in 0..5000usize, of in 1..300u64) {
        let survey = surveyed(runs);
        let all: Vec<u64> = (1..=of).flat_map(|shard| survey.shard(shard, of)).collect();
        prop_assert!(all.iter().copied().eq(1..=runs as u64));
        let sizes = (1..=of).map(|shard| survey.shard(shard, of).count());
        let (least, most) = (sizes.clone().min().unwrap(), sizes.max().unwrap());
        prop_assert!(most - least <= 1);
    }
}

#[test]
fn what_is_no_part_is_told() {
    let says = |bytes: &[u8]| open(bytes).err().unwrap().to_string();
    assert_eq!(says(b""), "it is no part of a survey: it is empty");
    assert_eq!(says(b"a,b\n1,2\n"), "it is no part of a survey: its columns are other ones");
    let columns = COLUMNS.join(",");
    assert_eq!(says(columns.as_bytes()), "it is no part of a survey: it has no head");
    let head = PartHead::new(surveyed(3), 1, 1);
    let text =
        String::from_utf8(PartWriter::new(Vec::new(), head.clone()).unwrap().finish().unwrap()).unwrap();
    assert_eq!(
        says(text.replace("form\"\":1", "form\"\":2").as_bytes()),
        "its form is 2, and this version reads form 1"
    );
    let beyond = text.replace("\"\"last\"\":3", "\"\"last\"\":4");
    assert!(says(beyond.as_bytes()).contains("names runs that its survey does not have"));
    assert!(says(text.replace("fights", "sights").as_bytes()).contains("missing field `fights`"));
    // A seal is of its survey: rows of another one do not fit.
    let ran = Ran {
        seed: 1,
        outcome: "over".to_owned(),
        rate: 60,
        ticks: 9,
        hits: 0,
        teams: Vec::new(),
        fighters: Vec::new(),
        means: Vec::new(),
    };
    let bytes = String::from_utf8(written(&head, &vec![ran.clone(); 3])).unwrap();
    let (first, second) = (fingerprint([&b"rules"[..]]), fingerprint([&b"rulez"[..]]));
    assert_ne!(first, second);
    assert_ne!(fingerprint([&b"ab"[..], b"c"]), fingerprint([&b"a"[..], b"bc"]));
    let (found, error, _) = read(bytes.replace(&first, &second).as_bytes()).unwrap();
    assert!(found.is_empty() && matches!(error, Some(PartError::Broken { line: 3, .. })), "{error:?}");
    // Runs that do not follow each other.
    let lines: Vec<&str> = bytes.lines().collect();
    let swapped = [lines[0], lines[1], lines[3], lines[2], lines[4]].join("\n");
    let (_, error, _) = read(swapped.as_bytes()).unwrap();
    assert_eq!(error.unwrap().to_string(), "line 3: run 2 stands where run 1 should");
    // The same run that came out differently is no run twice.
    let other = vec![Ran { ticks: 10, ..ran.clone() }; 3];
    let parts = [written(&head, &vec![ran; 3]), written(&head, &other)];
    let heads = [head.clone(), head];
    let told = gather(&numbers(&heads), heads[0].survey.runs(), |part| open(&parts[part]), |_, _| ());
    assert!(matches!(told, Err(GatherError::Differs { run: 1, parts: [0, 1] })), "{told:?}");
}

/// What is not kept is in no part, and in nothing that runs come to.
/// What has no end: the same bytes, again and again, and how many of them were read.
struct Endless {
    bytes: Vec<u8>,
    read: u64,
}

impl std::io::Read for Endless {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        for byte in into.iter_mut() {
            *byte = self.bytes[self.read as usize % self.bytes.len()];
            self.read += 1;
        }
        Ok(into.len())
    }
}

/// A row, or a run, that does not end is told before it fills the memory; and a run with as many rows is not written.
#[test]
fn what_has_no_end_is_not_read_to_it() {
    let head = PartHead::new(surveyed(3), 1, 1);
    let sound = PartWriter::new(Vec::new(), head.clone()).unwrap().finish().unwrap();
    let mut team = vec![Vec::new(); COLUMNS.len()];
    for (column, cell) in [("run", "1"), ("row", "team"), ("name", "masons")] {
        team[COLUMNS.iter().position(|known| *known == column).unwrap()] = cell.into();
    }
    for column in ["dealt", "deaths", "standing"] {
        team[COLUMNS.iter().position(|known| *known == column).unwrap()] = b"0".to_vec();
    }
    let row = [team.join(&b','), b"\n".to_vec()].concat();
    for (before, again, told, most) in [
        (vec![], b"survey".to_vec(), "longer than 16 MB", 17 << 20),
        (sound.clone(), b"a".to_vec(), "longer than 16 MB", 17 << 20),
        (sound.clone(), b"\"".to_vec(), "longer than 16 MB", 17 << 20),
        (sound.clone(), row, "run 1 has more than 1048576 rows", 1 << 26),
    ] {
        let mut endless = Endless { bytes: again, read: 0 };
        let from = std::io::Read::chain(Cursor::new(before), &mut endless);
        let error = match PartReader::open(from) {
            Ok(mut reader) => reader.next_run().map(|_| ()).unwrap_err(),
            Err(error) => error,
        };
        assert!(error.to_string().contains(told), "{error}");
        assert!(endless.read <= most, "{} bytes were read", endless.read);
    }
    let fighter = TeamRan { name: String::new(), dealt: 0, deaths: 0, stand: 0 };
    let ran = Ran {
        seed: 1,
        outcome: String::new(),
        rate: 60,
        ticks: 1,
        hits: 0,
        teams: vec![fighter; (1 << 20) + 1],
        fighters: Vec::new(),
        means: Vec::new(),
    };
    let mut writer = PartWriter::new(Vec::new(), head).unwrap();
    let error = writer.write(1, &ran).unwrap_err();
    assert!(error.to_string().contains("run 1 has 1048577 rows"), "{error}");
    assert_eq!(writer.finish().unwrap(), sound);
}

#[test]
fn what_is_not_kept_is_gone() {
    let mut ran = Ran {
        seed: 1,
        outcome: "over".to_owned(),
        rate: 60,
        ticks: 9,
        hits: 0,
        teams: vec![TeamRan { name: "masons".to_owned(), dealt: 4, deaths: 0, stand: 1 }],
        fighters: Vec::new(),
        means: Vec::new(),
    };
    Kept { teams: true, combatants: false, means: false }.strip(&mut ran);
    assert_eq!(ran.teams.len(), 1);
    Kept { teams: false, combatants: false, means: false }.strip(&mut ran);
    let point = Point::of(Vec::new(), [&ran]).unwrap();
    assert!(point.teams.is_empty() && point.fighters.is_empty() && point.means.is_empty());
}
