//! Two documents compared by what was taken out of them.

use std::borrow::Cow;

use super::extracted::{Extracted, ExtractedContents, ExtractedPair};
use super::places::Places;
use super::sheets::{SheetsPair, compare_sheets};
use crate::internal::kinds::options::{ContentOptions, WantedKind};
use crate::internal::kinds::read::read_text;
use crate::internal::kinds::unparsed::Unparsed;
use crate::internal::model::Kind;

/// The texts before and after.
type BothTexts<'b> = (Cow<'b, [u8]>, Cow<'b, [u8]>);

/// What became of two contents that may be documents.
pub(in crate::internal::kinds) enum FromDocuments<'b> {
    /// They are none, or are not to be read as such.
    None,
    /// One of them cannot be read.
    Failed(Unparsed),
    /// Two texts, and what the documents are.
    Texts(BothTexts<'b>, Box<ExtractedPair>),
    /// Two texts that are to be taken as a table or as data.
    Converted(BothTexts<'b>, Kind),
    /// Two documents with sheets.
    Sheets(Box<SheetsPair>),
}

/// Compares two contents as documents, if they are.
pub(in crate::internal::kinds) fn compare_documents<'b>(
    names: (&[u8], &[u8]),
    bytes: (&'b [u8], &'b [u8]),
    options: &ContentOptions,
) -> FromDocuments<'b> {
    let Some(readers) = options.documents() else { return FromDocuments::None };
    // What is to be taken as another kind is not taken apart.
    match options.reading_of(names.1).kind {
        Some(WantedKind::As(Kind::Text | Kind::Image | Kind::Bytes)) => return FromDocuments::None,
        Some(WantedKind::As(Kind::Table | Kind::Data) | WantedKind::Auto) | None => {}
    }
    let read = |path: &[u8], bytes: &[u8]| readers.read(path, bytes, options.read_as(path));
    let (before, after) = rayon::join(|| read(names.0, bytes.0), || read(names.1, bytes.1));
    let (before, after) = match (before, after) {
        (None, None) => return FromDocuments::None,
        (Some(Err(reason)), _) => return failed(reason, true),
        (_, Some(Err(reason))) => return failed(reason, false),
        (Some(Ok(before)), Some(Ok(after))) => (before, after),
        // A document may be compared with a text.
        (Some(Ok(before)), None) => match as_text(names.1, bytes.1, false, options) {
            Some(after) => (before, after),
            None => return FromDocuments::None,
        },
        (None, Some(Ok(after))) => match as_text(names.0, bytes.0, true, options) {
            Some(before) => (before, after),
            None => return FromDocuments::None,
        },
    };
    together(names, before, after, options)
}

fn failed<'b>(reason: String, is_before: bool) -> FromDocuments<'b> {
    FromDocuments::Failed(Unparsed { kind: Kind::Text, is_before, place: None, reason, is_fatal: true })
}

/// A text by itself, to be compared with that of a document.
fn as_text(path: &[u8], bytes: &[u8], is_before: bool, options: &ContentOptions) -> Option<Extracted> {
    let (text, _) = read_text(path, bytes, is_before, options)?;
    let contents =
        ExtractedContents::Text { text: text.into_owned(), places: Places::default(), type_name: "text.txt" };
    Some(Extracted { what: "text".to_owned(), contents, left_out: Vec::new() })
}

fn together<'b>(
    names: (&[u8], &[u8]),
    before: Extracted,
    after: Extracted,
    options: &ContentOptions,
) -> FromDocuments<'b> {
    let places = |extracted: &Extracted| match &extracted.contents {
        ExtractedContents::Text { places, .. } => places.clone(),
        _ => Places::default(),
    };
    let pair = ExtractedPair::of(&before, &after, (places(&before), places(&after)));
    match (before.contents, after.contents) {
        (ExtractedContents::Text { text: old, .. }, ExtractedContents::Text { text: new, .. }) => {
            FromDocuments::Texts((Cow::Owned(old), Cow::Owned(new)), Box::new(pair))
        }
        (ExtractedContents::Sheets(old), ExtractedContents::Sheets(new)) => {
            let rules = options.file_rules_of_both(names.0, names.1);
            let how = options.how_of(names.1);
            let counted_only = options.text_options().leaves_muted_out();
            match compare_sheets((&old, &new), pair, (&how, (&rules.0, &rules.1), counted_only)) {
                Ok(sheets) => FromDocuments::Sheets(Box::new(sheets)),
                Err((is_before, failure)) => failed(failure.reason, is_before),
            }
        }
        (ExtractedContents::Converted { text: old, kind }, ExtractedContents::Converted { text: new, kind: other })
            if kind == other =>
        {
            FromDocuments::Converted((Cow::Owned(old), Cow::Owned(new)), kind)
        }
        _ => FromDocuments::None,
    }
}
