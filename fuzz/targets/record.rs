//! See `hostile::record`.
#![no_main]

libfuzzer_sys::fuzz_target!(|data: &[u8]| hostile::record(data));
