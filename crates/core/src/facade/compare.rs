//! Two contents or two trees compared.

use super::Options;
use crate::internal::kinds::{self, Comparison};
use crate::internal::tree::{self, Progress, Tree, TreeComparison};

/// Compares two contents, as what they are. The name of the file tells which rules hold for it and which language it is in; it need
/// not exist.
///
/// ```
/// use tideline_core::{Comparison, Form, Options, compare};
///
/// let comparison = compare("gauge.toml", b"interval = 60\n", b"interval = 30\n", &Options::new());
/// let Comparison::Text(texts) = comparison else { panic!("both sides are text") };
/// let change = &texts.found.changes[0];
/// assert_eq!((change.number, change.form), (1, Form::Edited));
/// ```
pub fn compare<'b>(name: &str, before: &'b [u8], after: &'b [u8], options: &Options) -> Comparison<'b> {
    kinds::compare(name.as_bytes(), (before, after), &options.contents())
}

/// Compares two trees: folders, archives, or whatever else lists names and opens files. What cannot be read is a pair with a reason,
/// and the rest goes on.
///
/// ```
/// use tideline_core::{MemoryTree, Options, Status, compare_trees};
///
/// let before = MemoryTree::new().file("mouth.txt", "1.2\n").file("quay.txt", "0.8\n");
/// let after = MemoryTree::new().file("mouth.txt", "1.4\n");
/// let comparison = compare_trees(&before, &after, &Options::new());
/// let found: Vec<_> = comparison.pairs.iter().map(|pair| (pair.path.to_text(), pair.status)).collect();
/// assert_eq!(found, [("mouth.txt".to_owned(), Status::Changed), ("quay.txt".to_owned(), Status::Gone)]);
/// ```
pub fn compare_trees(before: &dyn Tree, after: &dyn Tree, options: &Options) -> TreeComparison {
    tree::compare(before, after, &options.trees(), &Progress::default())
}
