//! The files of two trees, read and compared one pair at a time.

use tideline_core::internal::kinds::{self, ContentOptions};
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{Pair, PairTexts, Tree, TreeError, pair_texts};
use tideline_views::report::Body;
use tideline_views::{Labels, PairView, Title, encoding_note};

/// Two trees and how their files are compared.
pub(crate) struct Trees {
    pub(crate) before: Box<dyn Tree>,
    pub(crate) after: Box<dyn Tree>,
    pub(crate) labels: Labels,
    pub(crate) contents: ContentOptions,
    /// Whether each is a folder on the disk as it stands there: only then it can be written to, and copied from.
    pub(crate) on_disk: (bool, bool),
}

impl Trees {
    pub(crate) fn both(&self) -> (&dyn Tree, &dyn Tree) {
        (&*self.before, &*self.after)
    }

    /// Reads and compares a pair of files; a side that is not there is empty.
    pub(crate) fn with_pair<R>(&self, pair: &Pair, then: impl FnOnce(Body<'_>) -> R) -> R {
        let texts = match self.texts_of(pair) {
            Ok(texts) => texts,
            Err(problem) => return then(Body::Nothing(format!("cannot be read: {problem}"))),
        };
        let (before, after) = texts.bytes();
        let mut comparison = kinds::compare_named((pair.path_before(), &pair.path), (before, after), &self.contents);
        comparison.tell_moved_blocks(&pair.moved_blocks);
        let mut notes = Vec::new();
        if let Some(from) = &pair.moved_from {
            notes.push(format!("moved from {}", String::from_utf8_lossy(from)));
        }
        if matches!(pair.status, Status::Gone | Status::New) {
            notes.push(format!("{} file", pair.status.name()));
        } else {
            notes.extend(encoding_note(&comparison));
        }
        let note = notes.join(", ");
        let path = String::from_utf8_lossy(&pair.path);
        let note = (!note.is_empty()).then_some(&*note);
        let title = Title { name: &path, type_name: &path, labels: &self.labels, note };
        then(Body::Pair(PairView::new(&comparison, title)))
    }

    fn texts_of(&self, pair: &Pair) -> Result<PairTexts, TreeError> {
        let before = (pair.status != Status::New).then_some((&*self.before, pair.path_before()));
        let after = (pair.status != Status::Gone).then_some((&*self.after, &pair.path));
        pair_texts(before, after)
    }
}
