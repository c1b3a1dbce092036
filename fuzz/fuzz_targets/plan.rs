//! Whatever stands in a saved plan, it is read or refused, and what is read is written and read again alike.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tideline_views::json::plan::{read_plan, write_plan};

fuzz_target!(|bytes: &[u8]| {
    let Ok((plan, from, into)) = read_plan(bytes) else { return };
    let mut written = Vec::new();
    write_plan(&plan, (&from, &into), &mut written).expect("a vector takes all");
    assert_eq!(read_plan(&written), Ok((plan, from, into)));
});
