//! The patch between two texts goes into a third: no panic, every hunk is told of, and what goes into the first text makes the second,
//! unless lines that tell nothing make it look as if it were in already.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tideline_core::internal::align::{Bounds, align};
use tideline_core::internal::patch::{FileLabel, HunkPlacement, PatchOptions, PlaceOptions, place, read_patch, write_file_patch};

fuzz_target!(|input: (&[u8], &[u8], &[u8], u8)| {
    let (before, after, target, context) = input;
    let edits = align(before, after, &Bounds::default());
    let (label, options) = (FileLabel::new("x"), PatchOptions::default().context(usize::from(context % 5)));
    let mut patch = Vec::new();
    write_file_patch((&label, &label), (before, after), &edits, &options, &mut patch).expect("a vector takes all");
    let patch = read_patch(&patch).expect("what is written is read");
    for file in patch.files {
        let placement = place(before, &file.hunks, &PlaceOptions::default());
        if placement.fits.iter().all(|fit| matches!(fit, HunkPlacement::Placed(_))) {
            assert_eq!(placement.text, after);
        }
        let options = PlaceOptions::default().tolerance(usize::from(context % 4)).mark_conflicts(Some("x".to_owned()));
        assert_eq!(place(target, &file.hunks, &options).fits.len(), file.hunks.len());
        place(target, &file.reversed().hunks, &options);
    }
});
