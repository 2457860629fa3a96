//! Logs and saves that were damaged, half of them before they were sealed again: nothing panics or hangs, and reading needs no more
//! memory than so much beyond what the whole one needs. Alone in its process, since it counts every byte.

use hammerstone::Saved;
use hammerstone::audit::seal_again;
use hammerstone_record::{Log, seal_log_again};
use stats_alloc::{INSTRUMENTED_SYSTEM, Region, StatsAlloc};

#[global_allocator]
static MEMORY: &StatsAlloc<std::alloc::System> = &INSTRUMENTED_SYSTEM;

/// What may be needed beyond what the whole one needs, in bytes.
const BEYOND: usize = 64 << 20;

/// A repeatable source of numbers.
struct Numbers(u64);

impl Numbers {
    fn next(&mut self) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 16) as usize
    }

    fn below(&mut self, most: usize) -> usize {
        self.next() % most.max(1)
    }
}

fn damage(numbers: &mut Numbers, bytes: &[u8]) -> Vec<u8> {
    let mut other = bytes.to_vec();
    for _ in 0..1 + numbers.below(3) {
        if other.is_empty() {
            break;
        }
        let place = numbers.below(other.len());
        match numbers.below(6) {
            0 => other[place] ^= 1 << numbers.below(8),
            1 => other[place] = numbers.next() as u8,
            2 => other.truncate(place),
            3 => other[place..].rotate_left(1),
            4 => {
                let end = (place + 4).min(other.len());
                other[place..end].fill(0xff);
            }
            _ => {
                let (from, to) = (place, (place + 1 + numbers.below(64)).min(other.len()));
                let piece = other[from..to].to_vec();
                let at = numbers.below(other.len());
                other.splice(at..at, piece);
            }
        }
    }
    other
}

/// Bytes that reading allocates in all; no less than what it holds at a time.
fn allocated(read: impl FnOnce()) -> usize {
    let region = Region::new(MEMORY);
    read();
    region.change().bytes_allocated
}

fn read(bytes: &[u8]) {
    if Log::is_one(bytes) {
        drop(Log::read(bytes.to_vec()));
    } else {
        drop(Saved::from_bytes(bytes));
    }
}

/// `HAMMERSTONE_CASES` says how many; a million take some twelve minutes.
#[test]
fn damaged_records_break_nothing() {
    let cases = std::env::var("HAMMERSTONE_CASES").ok().and_then(|text| text.parse().ok()).unwrap_or(1500);
    let (mut sources, large) = (hostile::seed_records(), hostile::large_records());
    assert!(sources.iter().filter(|source| Log::is_one(source)).count() == 2 && sources.len() > 4);
    let small = sources.len();
    sources.extend(large);
    let whole: Vec<usize> = sources.iter().map(|source| allocated(|| read(source))).collect();
    let mut numbers = Numbers(88_172_645_463_325_252);
    let mut good = [0; 2];
    for case in 0..cases {
        // Large ones take their time.
        let which = if matches!(case % 250, 9 | 10) { small + case / 250 % 3 } else { numbers.below(small) };
        let mut bytes = damage(&mut numbers, &sources[which]);
        let sealed = case % 2 == 0;
        if sealed {
            seal_log_again(&mut bytes);
            if !Log::is_one(&bytes) {
                seal_again(&mut bytes);
            }
        }
        let needs = allocated(|| read(&bytes));
        assert!(
            needs < whole[which] + BEYOND,
            "case {case}: {needs} bytes, and {} for the whole",
            whole[which]
        );
        let went = std::panic::catch_unwind(|| hostile::record(&bytes));
        assert!(went.is_ok(), "case {case} of source {which}");
        good[usize::from(sealed)] += usize::from(Log::read(bytes).is_ok_and(|log| log.len() > 10));
    }
    // What is damaged is read up to the damage; so some is read.
    assert!(good[0] > 0 && good[1] > 0, "{good:?}");
}
