//! How the contents of files are compared, as plain values.

use std::ops::Range;
use std::sync::Arc;

use super::data::format_of;
use super::document::{ReadAs, ReadDocuments};
use super::kind_options::KindOptions;
use super::known::KnownComparisons;
use super::table::is_delimited_name;
use super::text::TextOptions;
use crate::internal::model::Kind;
use crate::internal::patch::is_patch_text;
use crate::internal::rules::{FilePatterns, FileRules, Rules};
use crate::internal::text::encoding::WantedEncodings;

/// How contents are to be compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum WantedKind {
    /// As what their name and contents say they are.
    Auto,
    /// As this, whatever they hold.
    As(Kind),
}

impl WantedKind {
    /// Whether contents may be equal by what they mean, though their bytes and lines differ.
    pub(super) fn goes_by_meaning(self) -> bool {
        matches!(self, Self::Auto | Self::As(Kind::Table | Kind::Data))
    }
}

/// A table or data.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum KindChosen {
    /// A table.
    Table,
    /// Data.
    Data,
}

/// How files of certain names are read.
#[derive(Clone, Debug)]
pub struct Assignment {
    /// The files.
    pub files: FilePatterns,
    /// How they are compared; as text if they are text, if nothing is said.
    pub kind: Option<WantedKind>,
    /// How tables and data of them are compared.
    pub how: KindOptions,
    /// What they are written in; what is found, if nothing is said.
    pub encodings: WantedEncodings,
    /// What of them is compared; all of it, if nothing is said.
    pub read: Option<ReadAs>,
}

/// How the contents of files are compared. Unchanging once built.
#[derive(Clone, Debug, Default)]
pub struct ContentOptions {
    text: TextOptions,
    rules: Rules,
    assignments: Vec<Assignment>,
    encodings: WantedEncodings,
    kind: Option<WantedKind>,
    how: KindOptions,
    known: Option<Arc<KnownComparisons>>,
    holes: Option<Arc<[Range<usize>]>>,
    documents: Option<Arc<dyn ReadDocuments>>,
    is_by_bytes: bool,
}

/// How one file is to be read.
#[derive(Clone, Copy, Debug)]
pub(super) struct Reading {
    /// What both sides are written in.
    pub(super) encodings: WantedEncodings,
    /// What both sides are.
    pub(super) kind: Option<WantedKind>,
    /// Whether that was told for all files alike.
    pub(super) is_told: bool,
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
    pub fn kind(mut self, kind: Option<WantedKind>) -> Self {
        self.kind = kind;
        self
    }

    /// How tables and data are compared, where an assignment does not say otherwise.
    pub fn how(mut self, how: KindOptions) -> Self {
        self.how = how;
        self
    }

    /// How tables and data of a file are compared: what is said for all files goes before what is assigned.
    pub(crate) fn how_of(&self, path: &[u8]) -> KindOptions {
        match self.assigned(path) {
            Some(assigned) => self.how.over(&assigned.how),
            None => self.how.clone(),
        }
    }

    /// The same for whoever works on lines: what would be a table or data is text.
    pub fn lines_only(mut self) -> Self {
        let lines = |kind: Option<WantedKind>| kind.filter(|kind| !kind.goes_by_meaning());
        self.kind = lines(self.kind);
        self.assignments.iter_mut().for_each(|assigned| assigned.kind = lines(assigned.kind));
        self
    }

    /// Whether a file is to be taken as a table or as data; nothing where it is text.
    pub(crate) fn chosen_kind(&self, path: &[u8], text: &[u8]) -> Option<KindChosen> {
        let name = String::from_utf8_lossy(path);
        match self.reading_of(path).kind? {
            WantedKind::As(Kind::Table) => Some(KindChosen::Table),
            WantedKind::As(Kind::Data) => Some(KindChosen::Data),
            WantedKind::As(Kind::Text | Kind::Image | Kind::Bytes) => None,
            WantedKind::Auto if is_delimited_name(&name) => Some(KindChosen::Table),
            WantedKind::Auto => format_of(&name, text).map(|_| KindChosen::Data),
        }
    }

    /// Whether it was said how a file is to be compared.
    pub(super) fn says_kind(&self, path: &[u8]) -> bool {
        self.reading_of(path).kind.is_some()
    }

    /// Whether contents that are not the same bytes differ whatever they mean: no rule and no kind may say otherwise.
    pub fn goes_by_bytes(&self) -> bool {
        let means = |kind: Option<WantedKind>| kind.is_some_and(WantedKind::goes_by_meaning);
        self.rules.is_empty() && !means(self.kind) && !self.assignments.iter().any(|assigned| means(assigned.kind))
    }

    /// Whether a kind was told for all files.
    pub(super) fn is_told(&self) -> bool {
        self.kind.is_some()
    }

    /// For which files it was said how a file is read, if it was.
    pub(super) fn patterns_of(&self, path: &[u8]) -> Option<&[String]> {
        let assigned = self.assigned(path)?;
        (assigned.kind.is_some() || assigned.read.is_some()).then(|| assigned.files.patterns())
    }

    /// Whether this kind was told for all files.
    pub(super) fn is_as(&self, kind: Kind) -> bool {
        self.kind == Some(WantedKind::As(kind))
    }

    fn assigned(&self, path: &[u8]) -> Option<&Assignment> {
        self.assignments.iter().find(|assigned| assigned.files.fit(path))
    }

    /// Whether the contents of a file can be lines of a patch: text, or what is to be read as text.
    pub fn reads_as_lines(&self, path: &[u8], bytes: &[u8]) -> bool {
        match self.reading_of(path).kind {
            Some(WantedKind::As(Kind::Text)) => true,
            Some(WantedKind::As(Kind::Image | Kind::Bytes)) => false,
            Some(WantedKind::As(Kind::Table | Kind::Data) | WantedKind::Auto) | None => is_patch_text(bytes),
        }
    }

    /// What is found between two contents is held for whoever asks for it a second time, as far as memory allows: copies of these options share
    /// it. Default: it is not.
    pub fn compared_once(mut self) -> Self {
        self.known = Some(Arc::default());
        self
    }

    /// Ranges, in order, that hold nothing but zeros at the same offsets of both contents, so that they need not be read. They are about the one
    /// pair that is compared next. Default: none is known.
    pub fn holes(mut self, holes: Vec<Range<usize>>) -> Self {
        self.holes = (!holes.is_empty()).then(|| holes.into());
        self
    }

    /// Who takes text and tables out of documents. Default: nobody, they are bytes.
    pub fn read_documents(mut self, readers: Arc<dyn ReadDocuments>) -> Self {
        self.documents = Some(readers);
        self
    }

    pub(super) fn documents(&self) -> Option<&dyn ReadDocuments> {
        self.documents.as_deref()
    }

    /// The same for whoever writes: images and documents are bytes, whatever they show.
    pub fn by_bytes(mut self) -> Self {
        self.is_by_bytes = true;
        self.documents = None;
        self
    }

    pub(super) fn is_by_bytes(&self) -> bool {
        self.is_by_bytes
    }

    /// What of a file is compared, where that was said.
    pub(super) fn read_as(&self, path: &[u8]) -> Option<ReadAs> {
        self.assigned(path)?.read
    }

    pub(super) fn shared_holes(&self) -> &[Range<usize>] {
        self.holes.as_deref().unwrap_or_default()
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
        let assigned = self.assigned(path);
        let (before, after) = assigned.map_or((None, None), |assigned| assigned.encodings);
        Reading {
            encodings: (self.encodings.0.or(before), self.encodings.1.or(after)),
            kind: self.kind.or(assigned.and_then(|assigned| assigned.kind)),
            is_told: self.kind.is_some(),
        }
    }
}
