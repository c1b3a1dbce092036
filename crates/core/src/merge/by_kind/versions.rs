//! Three texts that differ in nothing but what both sides changed.

use super::tables::merge_tables;
use super::three::{ByKind, Versions};
use crate::internal::kinds::data::{DataMerge, format_of, merge_documents};
use crate::internal::kinds::{ContentOptions, KindChosen};
use crate::internal::model::Kind;

/// Merges three texts by their kind, if one was chosen for them; nothing where it was not, or they cannot be merged so.
pub(in crate::internal::merge) fn versions_by_kind(
    path: &[u8],
    (base, mine, theirs): (&[u8], &[u8], &[u8]),
    contents: &ContentOptions,
) -> Option<Versions> {
    let name = String::from_utf8_lossy(path);
    match contents.chosen_kind(path, mine)? {
        KindChosen::Table => merge_tables(&name, (base, mine, theirs), &contents.how_of(path)),
        KindChosen::Data => {
            let DataMerge { base, mine, theirs, taken, conflicts } =
                merge_documents(format_of(&name, mine)?, base, mine, theirs)?;
            let by = ByKind { kind: Kind::Data, taken, conflicts: conflicts.len() };
            Some(Versions { base, mine, theirs, by })
        }
    }
}
