//! See `hostile::scenario`.
#![no_main]

libfuzzer_sys::fuzz_target!(|data: &[u8]| hostile::scenario(data));
