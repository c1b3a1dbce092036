//! Three versions of a file merged.

use super::Options;
use crate::internal::merge::{FileMerge, Marks, MergeOptions, Three, WholeMerge, merge_files};

/// What comes of three versions of a file.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Merged {
    /// All that both sides changed went together.
    Clean(Vec<u8>),
    /// Conflicts are left, so many of them; those in the lines are marked in the bytes.
    Conflicts(Vec<u8>, usize),
    /// At least one version is not text, and both sides changed it.
    NotText,
}

/// Brings together what two sides changed since a base. Labels name the base, mine and theirs in the marks of a conflict; the name of the file tells which
/// rules hold for it.
///
/// ```
/// use tideline_core::{Merged, Options, merge};
///
/// let base = "every = 60\n\nunit = \"mm\"\n";
/// let (mine, theirs) = (base.replace("60", "30"), base.replace("mm", "cm"));
/// let labels = ["spring", "keeper", "office"];
/// let versions = [base.as_bytes(), mine.as_bytes(), theirs.as_bytes()];
/// assert_eq!(
///     merge("gauge.toml", versions, labels, &Options::new()),
///     Merged::Clean(b"every = 30\n\nunit = \"cm\"\n".to_vec())
/// );
/// ```
pub fn merge(name: &str, [base, mine, theirs]: [&[u8]; 3], labels: [&str; 3], options: &Options) -> Merged {
    let versions = Three::new(base, mine, theirs);
    let contents = options.contents();
    let text = match merge_files(name.as_bytes(), versions, &contents, &MergeOptions::default()) {
        FileMerge::Text(text) => text,
        FileMerge::Whole(WholeMerge::Mine | WholeMerge::Alike) => return Merged::Clean(mine.to_vec()),
        FileMerge::Whole(WholeMerge::Theirs) => return Merged::Clean(theirs.to_vec()),
        FileMerge::Whole(WholeMerge::Conflict) => return Merged::NotText,
    };
    let [base, mine, theirs] = labels.map(str::to_owned);
    let marked = text.merge.marked(&Marks { labels: Three::new(base, mine, theirs), base_text: true });
    match (text.encoded(&marked), text.conflicts()) {
        (Some(bytes), 0) => Merged::Clean(bytes),
        (Some(bytes), conflicts) => Merged::Conflicts(bytes, conflicts),
        // The encoding of one side lacks letters of the other.
        (None, conflicts) => Merged::Conflicts(marked, conflicts.max(1)),
    }
}
