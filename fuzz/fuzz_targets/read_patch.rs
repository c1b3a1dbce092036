//! Whatever the bytes, a patch is read or refused, and its hunks are placed or not; nothing panics.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tideline_core::internal::patch::{PlaceOptions, place, read_patch};

fuzz_target!(|input: (&[u8], &[u8])| {
    let (patch, target) = input;
    let Ok(patch) = read_patch(patch) else { return };
    for file in patch.files {
        let placement = place(target, &file.hunks, &PlaceOptions::default().mark_conflicts(Some("x".to_owned())));
        assert_eq!(placement.fits.len(), file.hunks.len());
        place(target, &file.reversed().hunks, &PlaceOptions::default());
    }
});
