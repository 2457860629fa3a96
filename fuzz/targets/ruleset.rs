//! See `hostile::ruleset`.
#![no_main]

libfuzzer_sys::fuzz_target!(|data: &[u8]| hostile::ruleset(data));
