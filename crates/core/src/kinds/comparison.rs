//! Two contents and what differs in them, whatever their kind.

use std::borrow::Cow;

use super::ContentOptions;
use super::bytes::compare_bytes;
use super::document::{ExtractedPair, FromDocuments, PACKING, SheetsPair, compare_documents};
use super::image::ImagePair;
use super::pictured::pictured;
use super::read::read_texts;
use super::structured::{DataPair, Structured, TablePair, converted, not_text, structured};
use super::text::compare_masked;
use super::unparsed::Unparsed;
use crate::internal::align::ByteBounds;
use crate::internal::model::ranges::BytesComparison;
use crate::internal::model::{Extent, Kind, MovedBlock, Status, TextComparison, Unit};
use crate::internal::rules::{Account, Counted, Effect, MaskedText};
use crate::internal::text::encoding::TextEncoding;

/// Two contents and what differs in them. Every kind has an arm, and whoever shows or uses a comparison says what it does with each.
#[derive(Clone, Debug)]
pub enum Comparison<'b> {
    /// Two texts, line by line.
    Text(Box<TextPair<'b>>),
    /// Two tables, row by row and cell by cell.
    Table(Box<TablePair<'b>>),
    /// Two documents, node by node.
    Data(Box<DataPair<'b>>),
    /// Two documents with sheets, each a table.
    Sheets(Box<SheetsPair>),
    /// Two images, pixel by pixel.
    Image(Box<ImagePair<'b>>),
    /// Two contents of which at least one is not text, or not taken for one.
    Bytes(Box<BytesPair<'b>>),
}

/// Two texts.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct TextPair<'b> {
    /// The text before, under the rules.
    pub before: MaskedText<'b>,
    /// The text after.
    pub after: MaskedText<'b>,
    /// What they are written in.
    pub encodings: (TextEncoding, TextEncoding),
    /// The bytes that they were decoded from, of a text that does not give them back when it is written in its encoding again.
    pub originals: (Option<&'b [u8]>, Option<&'b [u8]>),
    /// What differs.
    pub found: TextComparison,
    /// Why they were not compared as the kind that they should be, where that was so.
    pub unparsed: Option<Unparsed>,
    /// What the documents are that they were taken out of, where they were.
    pub extracted: Option<Box<ExtractedPair>>,
}

/// Two contents that are compared byte by byte.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct BytesPair<'b> {
    /// The bytes before.
    pub before: &'b [u8],
    /// The bytes after.
    pub after: &'b [u8],
    /// What differs.
    pub found: BytesComparison,
    /// Why they were not compared as the kind that was told, where one was.
    pub unparsed: Option<Unparsed>,
}

/// Compares two contents, as what they are and as the options want it. Rules and options go by the path of the file.
///
/// ```
/// use tideline_core::internal::kinds::{Comparison, ContentOptions, compare};
///
/// let options = ContentOptions::default();
/// let comparison = compare(b"levels.txt", (b"mouth 1.2\n", b"mouth 1.4\n"), &options);
/// let Comparison::Text(texts) = &comparison else { panic!("both are text") };
/// assert_eq!(texts.found.changes.len(), 1);
/// assert_eq!(comparison.extent().counted, 1);
/// ```
pub fn compare<'b>(path: &[u8], bytes: (&'b [u8], &'b [u8]), options: &ContentOptions) -> Comparison<'b> {
    compare_named((path, path), bytes, options)
}

/// The same of two files with paths of their own: rules hold if they hold for either, and each is read by its own name. How they are compared goes
/// by the path after.
pub fn compare_named<'b>(
    (path_before, path): (&[u8], &[u8]),
    bytes: (&'b [u8], &'b [u8]),
    options: &ContentOptions,
) -> Comparison<'b> {
    match compare_documents((path_before, path), bytes, options) {
        FromDocuments::None => {}
        FromDocuments::Failed(unparsed) => return unread(bytes, unparsed),
        FromDocuments::Sheets(mut sheets) => {
            if !sheets.differs() {
                put_packing(&mut sheets.account, &sheets.extracted);
            }
            return Comparison::Sheets(sheets);
        }
        FromDocuments::Texts((before, after), extracted) => {
            let written = (TextEncoding::UTF8, TextEncoding::UTF8);
            let mut pair = texts_of((path_before, path), (before, after), written, options);
            if !pair.found.differs() {
                put_packing(&mut pair.found.account, &extracted);
            }
            pair.extracted = Some(extracted);
            return Comparison::Text(Box::new(pair));
        }
        FromDocuments::Converted((before, after), kind) => {
            return match converted(kind, (path_before, path), (before, after), options) {
                Structured::Table(tables) => Comparison::Table(tables),
                Structured::Data(documents) => Comparison::Data(documents),
                Structured::Texts { before, after, unparsed } => {
                    let written = (TextEncoding::UTF8, TextEncoding::UTF8);
                    let pair = texts_of((path_before, path), (before, after), written, options);
                    Comparison::Text(Box::new(TextPair { unparsed, ..pair }))
                }
            };
        }
    }
    let texts = if options.is_as(Kind::Image) { None } else { read_texts(path, bytes, options) };
    let Some((before, after, encodings)) = texts else {
        let (before, after) = bytes;
        let unparsed = match pictured((path_before, path), bytes, options) {
            Some(Ok(images)) => return Comparison::Image(Box::new(images)),
            Some(Err(unparsed)) => Some(unparsed),
            None => not_text((path_before, path), bytes, options),
        };
        if let Some(unparsed) = unparsed.clone().filter(|unparsed| unparsed.is_fatal) {
            return unread(bytes, unparsed);
        }
        let found = compare_bytes(before, after, options.shared_holes(), &ByteBounds::default());
        return Comparison::Bytes(Box::new(BytesPair { before, after, found, unparsed }));
    };
    let (before, after, unparsed) = match structured((path_before, path), (before, after), encodings, options) {
        Structured::Table(tables) => return Comparison::Table(tables),
        Structured::Data(documents) => return Comparison::Data(documents),
        Structured::Texts { before, after, unparsed } => (before, after, unparsed),
    };
    let original =
        |bytes: &'b [u8], text: &[u8], written: TextEncoding| (!written.gives_back(bytes, text)).then_some(bytes);
    let originals = (original(bytes.0, &before, encodings.0), original(bytes.1, &after, encodings.1));
    let pair = texts_of((path_before, path), (before, after), encodings, options);
    Comparison::Text(Box::new(TextPair { originals, unparsed, ..pair }))
}

/// Two contents that were not compared.
fn unread<'b>((before, after): (&'b [u8], &'b [u8]), unparsed: Unparsed) -> Comparison<'b> {
    let found = BytesComparison::default();
    Comparison::Bytes(Box::new(BytesPair { before, after, found, unparsed: Some(unparsed) }))
}

/// Puts down to the packing of documents that nothing else tells why they are not the same bytes.
fn put_packing(account: &mut Account, extracted: &ExtractedPair) {
    if account.is_empty() && extracted.differing.is_empty() {
        *account = Account::counting(Counted::Places);
        account.put(PACKING, Effect::Mute, 1);
    }
}

/// Compares two texts by lines.
fn texts_of<'b>(
    (path_before, path): (&[u8], &[u8]),
    (before, after): (Cow<'b, [u8]>, Cow<'b, [u8]>),
    encodings: (TextEncoding, TextEncoding),
    options: &ContentOptions,
) -> TextPair<'b> {
    let (of_before, of_after) = options.file_rules_of_both(path_before, path);
    let (before, after) = MaskedText::both((before, &of_before), (after, &of_after));
    let (before, after) = options.text_options().prepared(before, after);
    let find = || compare_masked(&before, &after, options.text_options());
    let found = match options.known() {
        Some(known) => known.found((path_before, path), (&before, &after), find),
        None => find(),
    };
    TextPair { before, after, encodings, originals: (None, None), found, unparsed: None, extracted: None }
}

impl Comparison<'_> {
    /// Tells which blocks of the texts stand in other files.
    pub fn tell_moved_blocks(&mut self, blocks: &[MovedBlock]) {
        if let Self::Text(texts) = self {
            texts.found.tell_moved_blocks(blocks);
        }
    }

    /// How the contents were compared.
    pub fn kind(&self) -> Kind {
        match self {
            Self::Text(_) => Kind::Text,
            Self::Table(_) => Kind::Table,
            Self::Data(_) => Kind::Data,
            Self::Sheets(_) => Kind::Table,
            Self::Image(_) => Kind::Image,
            Self::Bytes(_) => Kind::Bytes,
        }
    }

    /// How much differs.
    pub fn extent(&self) -> Extent {
        match self {
            Self::Text(texts) => match &texts.extracted {
                Some(_) => Extent { unit: Unit::Paragraphs, ..texts.found.extent() },
                None => texts.found.extent(),
            },
            Self::Table(tables) => tables.found.extent(),
            Self::Data(documents) => documents.found.extent(),
            Self::Sheets(sheets) => sheets.extent(),
            Self::Image(images) => images.found.extent(),
            Self::Bytes(bytes) => bytes.found.extent(),
        }
    }

    /// What became of the pair: the same when the bytes of both sides are, or when rules ignore all that differs.
    pub fn status(&self, same_bytes: bool) -> Status {
        match self {
            _ if same_bytes => Status::Same,
            Self::Text(texts) => match &texts.extracted {
                Some(extracted) => by_document(texts.found.differs(), extracted, &texts.found.account),
                None => texts.found.status(texts.encodings.0 != texts.encodings.1),
            },
            Self::Sheets(sheets) => by_document(sheets.differs(), &sheets.extracted, &sheets.account),
            Self::Table(tables) => {
                by_account(tables.found.differs() || tables.encodings.0 != tables.encodings.1, &tables.found.account)
            }
            Self::Data(documents) => by_account(
                documents.found.differs() || documents.encodings.0 != documents.encodings.1,
                &documents.found.account,
            ),
            Self::Image(images) => by_account(images.found.differs(), &images.found.account),
            Self::Bytes(_) => Status::Changed,
        }
    }

    /// Why the contents were not compared as the kind that they should be, where that was so.
    pub fn unparsed(&self) -> Option<&Unparsed> {
        match self {
            Self::Text(texts) => texts.unparsed.as_ref(),
            Self::Bytes(bytes) => bytes.unparsed.as_ref(),
            Self::Table(_) | Self::Data(_) | Self::Sheets(_) | Self::Image(_) => None,
        }
    }

    /// What the documents are that it was taken out of, where it was.
    pub fn extracted(&self) -> Option<&ExtractedPair> {
        match self {
            Self::Text(texts) => texts.extracted.as_deref(),
            Self::Sheets(sheets) => Some(&sheets.extracted),
            Self::Table(_) | Self::Data(_) | Self::Image(_) | Self::Bytes(_) => None,
        }
    }

    /// What two documents are, if nothing differs in them but what was not taken out of them.
    pub fn only_beside(&self) -> Option<&ExtractedPair> {
        let differs = match self {
            Self::Text(texts) => texts.found.differs(),
            Self::Sheets(sheets) => sheets.differs(),
            Self::Table(_) | Self::Data(_) | Self::Image(_) | Self::Bytes(_) => return None,
        };
        self.extracted().filter(|extracted| !differs && !extracted.differing.is_empty())
    }

    /// What the rules masked.
    pub fn account(&self) -> Account {
        match self {
            Self::Text(texts) => texts.found.account.clone(),
            Self::Table(tables) => tables.found.account.clone(),
            Self::Data(documents) => documents.found.account.clone(),
            Self::Sheets(sheets) => sheets.account.clone(),
            Self::Image(images) => images.found.account.clone(),
            Self::Bytes(_) => Account::default(),
        }
    }
}

/// The status of documents that are not the same bytes. What was not compared may differ too.
fn by_document(differs: bool, extracted: &ExtractedPair, account: &Account) -> Status {
    by_account(differs || !extracted.differing.is_empty(), account)
}

/// The status of contents that are not the same bytes.
fn by_account(differs: bool, account: &Account) -> Status {
    match differs {
        true => Status::Changed,
        false if account.total(Effect::Mute) > 0 => Status::Muted,
        false if account.is_empty() => Status::Changed,
        false => Status::Same,
    }
}
