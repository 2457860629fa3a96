//! Every input that the fuzz targets have kept, as a plain test.

use std::fs;
use std::path::Path;

use hostile::TARGETS;

fn corpus(name: &str) -> Vec<(String, Vec<u8>)> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../fuzz/corpus").join(name);
    let mut files: Vec<_> = fs::read_dir(&folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    files.sort();
    files.into_iter().map(|path| (path.display().to_string(), fs::read(path).unwrap())).collect()
}

#[test]
fn no_input_of_any_corpus_breaks_anything() {
    for (name, run) in TARGETS {
        let inputs = corpus(name);
        assert!(inputs.len() > 3, "the corpus of {name} has {} inputs", inputs.len());
        for (path, data) in inputs {
            let went = std::panic::catch_unwind(|| run(&data));
            assert!(went.is_ok(), "{path}");
        }
    }
}

/// Halves, and bytes turned over: what a corpus looks like to a careless disk.
#[test]
fn damaged_inputs_break_nothing_either() {
    for (name, run) in TARGETS {
        for (path, data) in corpus(name).into_iter().take(40) {
            let places = (0..data.len()).step_by(data.len() / 8 + 1);
            for place in places {
                let mut other = data.clone();
                other[place] ^= 0x55;
                let went = std::panic::catch_unwind(|| (run(&other), run(&data[..place])));
                assert!(went.is_ok(), "{path}, at {place}");
            }
        }
    }
}

/// Games out of random bytes; `HAMMERSTONE_CASES` says how many.
#[test]
fn random_games_break_nothing() {
    let cases = std::env::var("HAMMERSTONE_CASES").ok().and_then(|text| text.parse().ok()).unwrap_or(100);
    let mut numbers = 88_172_645_463_325_252u64;
    let mut byte = move || {
        numbers ^= numbers << 13;
        numbers ^= numbers >> 7;
        numbers ^= numbers << 17;
        (numbers >> 24) as u8
    };
    for case in 0..cases {
        let data: Vec<u8> = (0..1500).map(|_| byte()).collect();
        let ran = std::panic::catch_unwind(|| hostile::game(&data));
        assert!(ran.is_ok(), "case {case} of {cases}");
    }
}
