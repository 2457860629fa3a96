//! See `hostile::skeleton`.
#![no_main]

libfuzzer_sys::fuzz_target!(|data: &[u8]| hostile::skeleton(data));
