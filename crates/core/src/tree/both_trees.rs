//! Two trees, and their entries compared one pair at a time.

use super::blocks::FileLines;
use super::contents::{pair_texts, same_contents};
use super::inspect::Inspect;
use super::options::{Attributes, TreeOptions, Trust};
use super::progress::Progress;
use super::{
    Attribute, ContentId, EntryMetadata, EntryType, Note, Opened, Pair, Tree, TreeError, TreeErrorKind, TreePath,
};
use crate::internal::kinds::text::LineEdits;
use crate::internal::kinds::{self, Comparison, Read};
use crate::internal::model::{Extent, Form, Kind, Status};
use crate::internal::rules::{Account, MaskedText};

/// Lines of gone and new files are counted up to this size.
const COUNTED_UPTO: u64 = 4 << 20;

/// Two trees that are compared, and how.
#[derive(Clone, Copy)]
pub(super) struct BothTrees<'a> {
    pub(super) before: &'a dyn Tree,
    pub(super) after: &'a dyn Tree,
    pub(super) options: &'a TreeOptions,
    pub(super) progress: &'a Progress,
}

/// What is not known of a pair yet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Unknown {
    /// Everything is known.
    Nothing,
    /// How much differs in its contents.
    Difference,
    /// The same, if they can be read: that they differ is known without.
    DifferenceIfReadable,
    /// Of a gone or new file, its lines.
    Lines,
}

/// A pair, and what is not known of it yet.
pub(super) struct Found {
    pub(super) pair: Pair,
    pub(super) unknown: Unknown,
}

/// What the comparison of two contents tells beside the pair.
#[derive(Default)]
pub(super) struct Measured {
    /// What was made of it.
    pub(super) made: Vec<u8>,
    /// The edits in its lines.
    pub(super) edits: LineEdits,
    /// The lines that are gone or new, where they are wanted.
    pub(super) lines: FileLines,
}

impl BothTrees<'_> {
    /// Two entries of one type, neither of them folders. Tells what is not known of them yet.
    pub(super) fn pair(&self, pair: &mut Pair) -> Unknown {
        match pair.types.0 {
            Some(EntryType::File) => return self.file(pair),
            Some(EntryType::Link) => self.link(pair),
            _ => self.special(pair),
        }
        Unknown::Nothing
    }

    /// Finds out what is not known of a pair yet.
    pub(super) fn complete(&self, found: &mut Found, inspect: Option<&Inspect<'_>>) -> Measured {
        match found.unknown {
            Unknown::Nothing => Measured::default(),
            Unknown::Difference => self.measure(&mut found.pair, inspect).unwrap_or_else(|problem| {
                found.pair.fail(Note::Unreadable(problem));
                Measured::default()
            }),
            Unknown::DifferenceIfReadable => self.measure(&mut found.pair, inspect).unwrap_or_else(|problem| {
                // What is elsewhere is not counted, and differs all the same.
                if problem.kind() != TreeErrorKind::Offline {
                    found.pair.fail(Note::Unreadable(problem));
                }
                Measured::default()
            }),
            Unknown::Lines => Measured { lines: self.count_lines(&mut found.pair), ..Measured::default() },
        }
    }

    fn link(&self, pair: &mut Pair) {
        self.progress.add(0);
        match (self.before.link_target(pair.path_before()), self.after.link_target(&pair.path)) {
            (Ok(one), Ok(other)) if one == other => {}
            (Ok(one), Ok(other)) => {
                pair.status = Status::Changed;
                pair.note = Some(Note::LinkTargets(one, other));
            }
            (Err(problem), _) | (_, Err(problem)) => pair.fail(Note::Unreadable(problem)),
        }
    }

    /// Contents of special files are never read: their type is all there is to compare, and their identity where there is one.
    fn special(&self, pair: &mut Pair) {
        self.progress.add(0);
        if let (Some(one), Some(other)) = (self.before.identity(pair.path_before()), self.after.identity(&pair.path))
            && one != other
        {
            pair.status = Status::Changed;
            pair.note = Some(Note::Commits(one.bytes, other.bytes));
        }
    }

    fn file(&self, pair: &mut Pair) -> Unknown {
        let known = (self.before.identity(pair.path_before()), self.after.identity(&pair.path));
        if let (Some(one), Some(other)) = &known
            && one.algorithm == other.algorithm
        {
            return self.identified(pair, one == other);
        }
        if let Some(trust) = self.options.trust
            && let Some(unknown) = self.trusted(pair, trust)
        {
            return unknown;
        }
        if let Some(identified) = self.identify(pair, &known) {
            return match identified {
                Ok(is_same) => self.identified(pair, is_same),
                Err(reason) => {
                    pair.fail(reason);
                    Unknown::Nothing
                }
            };
        }
        match (self.before.open(pair.path_before()), self.after.open(&pair.path)) {
            (Ok(one), Ok(other)) => return self.opened(pair, one, other),
            (Err(problem), _) => pair.fail(Note::UnreadableBefore(problem)),
            (_, Err(problem)) => pair.fail(Note::UnreadableAfter(problem)),
        }
        Unknown::Nothing
    }

    /// Whether a file whose contents one tree knows by an identity is the same in the other tree; nothing where no identity can tell.
    fn identify(&self, pair: &Pair, known: &(Option<ContentId>, Option<ContentId>)) -> Option<Result<bool, Note>> {
        if *known == (None, None) {
            return None;
        }
        // Files of different sizes need not be read to know that they differ. Where no listing tells a size, to ask for it may cost as
        // much as to read.
        let is_listed = pair.before.is_some() || pair.after.is_some();
        if is_listed && matches!(self.both_metadata(pair), (Ok(one), Ok(other)) if one.size != other.size) {
            return Some(Ok(false));
        }
        let asked = |one: &Option<ContentId>, tree: &dyn Tree, path: &TreePath| {
            let one = one.as_ref()?;
            Some(tree.identify(path, one.algorithm)?.map(|other| *one == other))
        };
        if let Some(found) = asked(&known.0, self.after, &pair.path) {
            return Some(found.map_err(Note::UnreadableAfter));
        }
        Some(asked(&known.1, self.before, pair.path_before())?.map_err(Note::UnreadableBefore))
    }

    /// What is known of both sides of a pair without reading them.
    fn both_metadata(&self, pair: &Pair) -> (Result<EntryMetadata, TreeError>, Result<EntryMetadata, TreeError>) {
        let ask = |known: Option<EntryMetadata>, tree: &dyn Tree, path: &TreePath| {
            known.map_or_else(|| tree.metadata(path), Ok)
        };
        (ask(pair.before, self.before, pair.path_before()), ask(pair.after, self.after, &pair.path))
    }

    /// Compares files whose contents are known to be the same, or not to be. They need not be readable for that.
    fn identified(&self, pair: &mut Pair, is_same: bool) -> Unknown {
        self.progress.add(0);
        // Of what is the same and will not be shown, nothing else need be known.
        if is_same && self.options.attributes == Attributes::default() && !self.options.wants(Status::Same) {
            return Unknown::Nothing;
        }
        let (one, other) = self.both_metadata(pair);
        (pair.before, pair.after) = (one.ok(), other.ok());
        self.compare_attributes(pair);
        if is_same {
            return Unknown::Nothing;
        }
        pair.status = Status::Changed;
        Unknown::DifferenceIfReadable
    }

    /// Compares by what is known without reading; nothing where that does not tell.
    fn trusted(&self, pair: &mut Pair, trust: Trust) -> Option<Unknown> {
        match self.both_metadata(pair) {
            (Ok(one), Ok(other)) => {
                let differs_in_time = if trust == Trust::Size { false } else { one.time_differs(&other)? };
                (pair.before, pair.after) = (Some(one), Some(other));
                if one.size == other.size && !differs_in_time {
                    self.compare_attributes(pair);
                } else {
                    pair.status = Status::Changed;
                }
            }
            (Err(problem), _) => pair.fail(Note::UnreadableBefore(problem)),
            (_, Err(problem)) => pair.fail(Note::UnreadableAfter(problem)),
        }
        self.progress.add(0);
        Some(Unknown::Nothing)
    }

    fn opened(&self, pair: &mut Pair, mut one: Opened, mut other: Opened) -> Unknown {
        (pair.before, pair.after) = (Some(one.metadata), Some(other.metadata));
        self.progress.add(one.metadata.size + other.metadata.size);
        let same =
            if one.metadata.size == other.metadata.size { same_contents(&mut one, &mut other) } else { Ok(false) };
        drop((one, other));
        match same {
            Ok(true) => self.compare_attributes(pair),
            Ok(false) => {
                self.compare_attributes(pair);
                pair.status = Status::Changed;
                return Unknown::Difference;
            }
            Err(error) => pair.fail(Note::Unreadable(TreeError::from(&error))),
        }
        Unknown::Nothing
    }

    fn compare_attributes(&self, pair: &mut Pair) {
        let (Some(one), Some(other)) = (pair.before, pair.after) else { return };
        let compared = [
            (self.options.attributes.mode, Attribute::Mode, one.mode_differs(&other)),
            (self.options.attributes.time, Attribute::Time, one.time_differs(&other)),
        ];
        for (_, attribute, differs) in compared.into_iter().filter(|(is_asked, ..)| *is_asked) {
            let in_part = attribute == Attribute::Mode && one.mode_unknown != other.mode_unknown;
            match differs {
                Some(true) => pair.attributes.push(attribute),
                Some(false) if !in_part => {}
                Some(false) | None => pair.uncompared.push(attribute),
            }
        }
        if !pair.attributes.is_empty() {
            pair.status = Status::Changed;
        }
    }

    /// Counts what differs in the contents of a pair. Where they cannot be read, nothing is counted.
    fn measure(&self, pair: &mut Pair, inspect: Option<&Inspect<'_>>) -> Result<Measured, TreeError> {
        let by_bytes;
        let contents = if self.options.counts || self.options.shown {
            &self.options.contents
        } else {
            by_bytes = self.options.contents.clone().by_bytes();
            &by_bytes
        };
        let differ = !self.options.counts && contents.goes_by_bytes();
        if differ && !self.options.shown {
            return Ok(Measured::default());
        }
        let texts = pair_texts(Some((self.before, pair.path_before())), Some((self.after, &pair.path)))?;
        if differ && !kinds::may_show_the_same((pair.path_before(), &pair.path), texts.bytes(), contents) {
            return Ok(Measured::default());
        }
        if texts.bytes().0 == texts.bytes().1 {
            return Ok(Measured::default());
        }
        let comparison = kinds::compare_named((pair.path_before(), &pair.path), texts.bytes(), contents);
        let made = inspect.map_or_else(Vec::new, |inspect| inspect(pair, &comparison));
        let (edits, lines) = match &comparison {
            Comparison::Text(texts) => {
                let (before, after, found) = (&texts.before, &texts.after, &texts.found);
                let lines = if self.options.moves { FileLines::of(before, after, found) } else { FileLines::default() };
                (LineEdits::of(before, after, found), lines)
            }
            _ => (LineEdits::default(), FileLines::default()),
        };
        texts.check()?;
        if let Some(unparsed) = comparison.unparsed().filter(|unparsed| unparsed.is_fatal) {
            pair.fail(Note::Unparsed(unparsed.clone()));
            return Ok(Measured { made, edits, lines });
        }
        pair.note = comparison.unparsed().cloned().map(Note::Unparsed).or(pair.note.take());
        if let Some(extracted) = comparison.only_beside() {
            pair.note = Some(Note::NotCompared(extracted.differing.clone()));
        }
        (pair.kind, pair.extent, pair.account) = (Some(comparison.kind()), comparison.extent(), comparison.account());
        if pair.status == Status::Changed && pair.attributes.is_empty() {
            pair.status = comparison.status(false);
        }
        Ok(Measured { made, edits, lines })
    }

    /// How many entries are in a folder that both trees know to be the same with all that is in it, where nothing else is asked of them.
    pub(super) fn same_folder(&self, path: &TreePath) -> Option<usize> {
        let options = self.options;
        let is_all = options.filter.takes_all() && options.pairs.is_empty();
        if !is_all || options.attributes != Attributes::default() || options.wants(Status::Same) {
            return None;
        }
        let (one, other) = (self.before.identity(path)?, self.after.identity(path)?);
        if one == other { self.before.entries_in(path) } else { None }
    }

    /// Whether two archives or compressed files are the same as the files that they are. Where that cannot be told, what is in them tells.
    pub(super) fn same_packing(&self, path: &TreePath) -> bool {
        let (Ok(mut one), Ok(mut other)) = (self.before.open_packed(path), self.after.open_packed(path)) else {
            return false;
        };
        one.metadata.size == other.metadata.size && same_contents(&mut one, &mut other).unwrap_or(false)
    }

    /// Looks at a gone or new file without reading it.
    pub(super) fn look_at(&self, pair: &mut Pair, tree: &dyn Tree) -> Unknown {
        let known = if pair.status == Status::Gone { pair.before } else { pair.after };
        let metadata = match known.map_or_else(|| tree.metadata(&pair.path), Ok) {
            Ok(metadata) => metadata,
            Err(problem) => {
                // What is elsewhere may be known by its identity alone.
                if problem.kind() != TreeErrorKind::Offline || tree.identity(&pair.path).is_none() {
                    pair.fail(Note::Unreadable(problem));
                }
                return Unknown::Nothing;
            }
        };
        *(if pair.status == Status::Gone { &mut pair.before } else { &mut pair.after }) = Some(metadata);
        if !self.options.counts || self.options.trust.is_some() || metadata.size > COUNTED_UPTO {
            return Unknown::Nothing;
        }
        Unknown::Lines
    }

    /// What is made of a pair whose comparison is known already, but for the blocks of it that moved.
    pub(super) fn make_again(&self, pair: &Pair, inspect: &Inspect<'_>) -> Vec<u8> {
        let Ok(texts) = pair_texts(Some((self.before, pair.path_before())), Some((self.after, &pair.path))) else {
            return Vec::new();
        };
        let mut comparison =
            kinds::compare_named((pair.path_before(), &pair.path), texts.bytes(), &self.options.contents);
        comparison.tell_moved_blocks(&pair.moved_blocks);
        inspect(pair, &comparison)
    }

    /// Counts the lines of a gone or new file, if it is text.
    fn count_lines(&self, pair: &mut Pair) -> FileLines {
        let tree = if pair.status == Status::Gone { self.before } else { self.after };
        match tree.contents(&pair.path) {
            Ok(contents) => {
                let is_before = pair.status == Status::Gone;
                match kinds::read(&pair.path, (*contents).as_ref(), is_before, &self.options.contents) {
                    Read::Text(text) => {
                        let (kind, unit, size) = kinds::size_of_one(&pair.path, &text, &self.options.contents);
                        pair.kind = Some(kind);
                        pair.extent = Extent { size, unit, ..Extent::default() };
                        if self.options.moves && kind == Kind::Text {
                            let form = if is_before { Form::Gone } else { Form::New };
                            let text = MaskedText::new(text, &self.options.contents.file_rules(&pair.path));
                            return FileLines::whole(&text, form);
                        }
                    }
                    Read::Bytes(_) => pair.kind = Some(Kind::Bytes),
                }
            }
            // What is known by its identity need not be readable.
            Err(problem) if problem.kind() == TreeErrorKind::Offline && tree.identity(&pair.path).is_some() => {}
            Err(problem) => pair.fail(Note::Unreadable(problem)),
        }
        FileLines::default()
    }
}

impl Pair {
    /// A pair of which nothing is known but its status.
    pub(super) fn new(path: TreePath, status: Status, types: (Option<EntryType>, Option<EntryType>)) -> Self {
        Self {
            path,
            moved_from: None,
            status,
            types,
            kind: None,
            extent: Extent::default(),
            account: Account::default(),
            moved_blocks: Vec::new(),
            before: None,
            after: None,
            attributes: Vec::new(),
            uncompared: Vec::new(),
            note: None,
        }
    }

    pub(super) fn fail(&mut self, reason: Note) {
        self.status = Status::Unreadable;
        self.note = Some(reason);
    }
}
