//! How the contents of files are compared, as plain values.

use std::sync::Arc;

use super::known::KnownComparisons;
use super::text::TextOptions;
use crate::internal::model::Kind;
use crate::internal::patch::is_patch_text;
use crate::internal::rules::{FilePatterns, FileRules, Rules};
use crate::internal::text::encoding::WantedEncodings;

/// How files of certain names are read.
#[derive(Clone, Debug)]
pub struct Assignment {
    /// The files.
    pub files: FilePatterns,
    /// How they are compared; by what they hold, if nothing is said.
    pub kind: Option<Kind>,
    /// What they are written in; what is found, if nothing is said.
    pub encodings: WantedEncodings,
}

/// How the contents of files are compared. Unchanging once built.
#[derive(Clone, Debug, Default)]
pub struct ContentOptions {
    text: TextOptions,
    rules: Rules,
    assignments: Vec<Assignment>,
    encodings: WantedEncodings,
    kind: Option<Kind>,
    known: Option<Arc<KnownComparisons>>,
}

/// How one file is to be read.
#[derive(Clone, Copy, Debug)]
pub(super) struct Reading {
    /// What both sides are written in.
    pub(super) encodings: WantedEncodings,
    /// What both sides are, whatever they hold.
    pub(super) kind: Option<Kind>,
}

impl ContentOptions {
    /// How texts are compared.
    pub fn text(mut self, text: TextOptions) -> Self {
        self.text = text;
        self
    }

    /// What does not count. Default: everything counts.
    pub fn rules(mut self, rules: Rules) -> Self {
        self.rules = rules;
        self
    }

    /// How files of certain names are read; the first that fits a name holds for it.
    pub fn assignments(mut self, assignments: Vec<Assignment>) -> Self {
        self.assignments = assignments;
        self
    }

    /// What both sides are written in, whatever the assignments say. Default: what is found.
    pub fn encodings(mut self, encodings: WantedEncodings) -> Self {
        self.encodings = encodings;
        self
    }

    /// How all files are read, whatever they hold and whatever the assignments say. Default: as what they hold.
    pub fn kind(mut self, kind: Option<Kind>) -> Self {
        self.kind = kind;
        self
    }

    /// Whether the contents of a file can be lines of a patch: text, or what is to be read as text.
    pub fn reads_as_lines(&self, path: &[u8], bytes: &[u8]) -> bool {
        match self.reading_of(path).kind {
            Some(Kind::Text) => true,
            Some(Kind::Bytes) => false,
            None => is_patch_text(bytes),
        }
    }

    /// What is found between two contents is held for whoever asks for it a second time, as far as memory allows: copies of these options share
    /// it. Default: it is not.
    pub fn compared_once(mut self) -> Self {
        self.known = Some(Arc::default());
        self
    }

    pub(super) fn known(&self) -> Option<&KnownComparisons> {
        self.known.as_deref()
    }

    /// How texts are compared.
    pub fn text_options(&self) -> &TextOptions {
        &self.text
    }

    /// All rules.
    pub fn all_rules(&self) -> &Rules {
        &self.rules
    }

    /// The rules that hold for a file.
    pub fn file_rules(&self, path: &[u8]) -> Arc<FileRules> {
        self.rules.file_rules(path)
    }

    /// The rules that hold for two files: those that hold for either.
    pub fn file_rules_of_both(&self, before: &[u8], after: &[u8]) -> (Arc<FileRules>, Arc<FileRules>) {
        self.rules.file_rules_of_both(before, after)
    }

    /// How a file is to be read.
    pub(super) fn reading_of(&self, path: &[u8]) -> Reading {
        let assigned = self.assignments.iter().find(|assigned| assigned.files.fit(path));
        let (before, after) = assigned.map_or((None, None), |assigned| assigned.encodings);
        Reading {
            encodings: (self.encodings.0.or(before), self.encodings.1.or(after)),
            kind: self.kind.or(assigned.and_then(|assigned| assigned.kind)),
        }
    }
}
