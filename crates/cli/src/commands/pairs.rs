//! The files of two trees, read and compared one pair at a time.

use tideline_core::kinds::ContentOptions;
use tideline_core::kinds::text::compare_masked;
use tideline_core::model::Status;
use tideline_core::rules::MaskedText;
use tideline_core::tree::{Pair, PairTexts, Tree, TreeError, pair_texts};
use tideline_views::report::Body;
use tideline_views::{FileView, Labels};

use super::texts::encoding_note;

/// Two trees and how their files are compared.
pub(super) struct Trees {
    pub(super) before: Box<dyn Tree>,
    pub(super) after: Box<dyn Tree>,
    pub(super) labels: Labels,
    pub(super) contents: ContentOptions,
}

impl Trees {
    pub(super) fn both(&self) -> (&dyn Tree, &dyn Tree) {
        (&*self.before, &*self.after)
    }

    /// Reads and compares a pair of files; a side that is not there is empty.
    pub(super) fn with_pair<R>(&self, pair: &Pair, then: impl FnOnce(Body<'_>) -> R) -> R {
        let texts = match self.texts_of(pair) {
            Ok(texts) => texts,
            Err(problem) => return then(Body::Nothing(format!("cannot be read: {problem}"))),
        };
        let (before, after) = texts.bytes();
        let Some((before, after, written)) = self.contents.decoded(&pair.path, (before, after)) else {
            return then(Body::Bytes(before, after));
        };
        let mut notes = Vec::new();
        if let Some(from) = &pair.moved_from {
            notes.push(format!("moved from {}", String::from_utf8_lossy(from)));
        }
        if matches!(pair.status, Status::Gone | Status::New) {
            notes.push(format!("{} file", pair.status.name()));
        } else {
            notes.extend(encoding_note(written));
        }
        let note = notes.join(", ");
        let file_rules = self.contents.file_rules(&pair.path);
        let (before, after) = (MaskedText::new(&before, &file_rules), MaskedText::new(&after, &file_rules));
        let comparison = compare_masked(&before, &after, self.contents.text_options());
        let path = String::from_utf8_lossy(&pair.path);
        then(Body::Text(FileView {
            name: &path,
            type_name: &path,
            labels: &self.labels,
            note: (!note.is_empty()).then_some(&note),
            before: &before,
            after: &after,
            comparison: &comparison,
            first: (0, 0),
        }))
    }

    fn texts_of(&self, pair: &Pair) -> Result<PairTexts, TreeError> {
        let before = (pair.status != Status::New).then_some((&*self.before, pair.path_before()));
        let after = (pair.status != Status::Gone).then_some((&*self.after, &pair.path[..]));
        pair_texts(before, after)
    }
}
