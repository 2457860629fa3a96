//! See `hostile::game`.
#![no_main]

libfuzzer_sys::fuzz_target!(|data: &[u8]| hostile::game(data));
