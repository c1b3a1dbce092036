//! Whatever the bytes, they are text or they are not; text in UTF-8 goes back to the bytes that it was.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tideline_core::internal::text::encoding::{Decoded, decode};

fuzz_target!(|bytes: &[u8]| {
    let Decoded::Text { text, written } = decode(bytes, None) else { return };
    if std::str::from_utf8(bytes).is_ok() && written.name() == "UTF-8" {
        assert_eq!(written.encoded(&text).as_deref(), Some(bytes));
    }
});
