//! See `hostile::save`.
#![no_main]

libfuzzer_sys::fuzz_target!(|data: &[u8]| hostile::save(data));
