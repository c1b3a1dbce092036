//! Tables and documents: which contents are one, and what differs in them.

use std::borrow::Cow;
use std::sync::Arc;

use super::data::{DataFormat, Document, Failure, compare_data, format_of, read_pair};
use super::kind_options::KindOptions;
use super::options::{ContentOptions, Reading, WantedKind};
use super::read::read_text;
use super::table::{Table, compare_both, is_delimited_name, is_plain_table, read_table};
use super::unparsed::Unparsed;
use crate::internal::model::data::DataComparison;
use crate::internal::model::table::TableComparison;
use crate::internal::model::{Kind, Unit};
use crate::internal::rules::FileRules;
use crate::internal::text::bytes::count_lines;
use crate::internal::text::encoding::TextEncoding;

/// Two tables.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct TablePair<'b> {
    /// The table before.
    pub before: Arc<Table<'b>>,
    /// The table after.
    pub after: Arc<Table<'b>>,
    /// What they are written in.
    pub encodings: (TextEncoding, TextEncoding),
    /// The rules that hold for each.
    pub rules: (Arc<FileRules>, Arc<FileRules>),
    /// What differs.
    pub found: TableComparison,
}

/// Two documents.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct DataPair<'b> {
    /// The document before.
    pub before: Arc<Document<'b>>,
    /// The document after.
    pub after: Arc<Document<'b>>,
    /// What they are written in.
    pub encodings: (TextEncoding, TextEncoding),
    /// The rules that hold for each.
    pub rules: (Arc<FileRules>, Arc<FileRules>),
    /// What differs.
    pub found: DataComparison,
}

/// What became of two texts.
pub(super) enum Structured<'b> {
    /// They are tables.
    Table(Box<TablePair<'b>>),
    /// They are documents.
    Data(Box<DataPair<'b>>),
    /// They are texts; maybe because they could not be read as they should.
    Texts { before: Cow<'b, [u8]>, after: Cow<'b, [u8]>, unparsed: Option<Unparsed> },
}

/// Why two texts are not compared as a table or data.
enum Declined {
    /// They are none, and nobody said they were.
    None,
    /// One side cannot be read (true: before).
    Failed(Kind, bool, Failure),
}

/// Compares two texts as a table or as data, if they are to be compared so.
pub(super) fn structured<'b>(
    names: (&[u8], &[u8]),
    (before, after): (Cow<'b, [u8]>, Cow<'b, [u8]>),
    encodings: (TextEncoding, TextEncoding),
    options: &ContentOptions,
) -> Structured<'b> {
    let Reading { kind, is_told, .. } = options.reading_of(names.1);
    // Most files are text, and need nothing of what follows.
    let Some(wanted) = kind.filter(|wanted| wanted.goes_by_meaning()) else {
        return Structured::Texts { before, after, unparsed: None };
    };
    let lossy = |name: &[u8]| String::from_utf8_lossy(name).into_owned();
    let names_in_words = (lossy(names.0), lossy(names.1));
    let what = Contents {
        names: (&names_in_words.0, &names_in_words.1),
        texts: (&before, &after),
        how: options.how_of(names.1),
        rules: options.file_rules_of_both(names.0, names.1),
        counted_only: options.text_options().leaves_muted_out(),
        encodings,
    };
    let found = match wanted {
        WantedKind::As(Kind::Table) => what.tables(),
        WantedKind::As(Kind::Data) => what.documents(),
        WantedKind::Auto => what.by_themselves(),
        WantedKind::As(Kind::Text | Kind::Image | Kind::Bytes) => Err(Declined::None),
    };
    or_texts(found, (before, after), |kind| is_told && options.is_as(kind))
}

/// Compares two texts that a program wrote, as what it was said to write.
pub(super) fn converted<'b>(
    kind: Kind,
    names: (&[u8], &[u8]),
    (before, after): (Cow<'b, [u8]>, Cow<'b, [u8]>),
    options: &ContentOptions,
) -> Structured<'b> {
    let name = if kind == Kind::Table { "converted.csv" } else { "converted.json" };
    let what = Contents {
        names: (name, name),
        texts: (&before, &after),
        how: options.how_of(names.1),
        rules: options.file_rules_of_both(names.0, names.1),
        counted_only: options.text_options().leaves_muted_out(),
        encodings: (TextEncoding::UTF8, TextEncoding::UTF8),
    };
    let found = match kind {
        Kind::Table => what.tables(),
        Kind::Data => what.documents(),
        Kind::Text | Kind::Image | Kind::Bytes => Err(Declined::None),
    };
    or_texts(found, (before, after), |_| false)
}

/// What was found, or the texts as they are and why nothing else was; `is_fatal` tells of a kind whether that is an error.
fn or_texts<'b>(
    found: Result<Structured<'b>, Declined>,
    (before, after): (Cow<'b, [u8]>, Cow<'b, [u8]>),
    is_fatal: impl FnOnce(Kind) -> bool,
) -> Structured<'b> {
    let unparsed = match found {
        Ok(compared) => return compared,
        Err(Declined::None) => None,
        Err(Declined::Failed(kind, is_before, failure)) => {
            let place = failure.line_and_column(if is_before { &before } else { &after });
            let is_fatal = is_fatal(kind);
            Some(Unparsed { kind, is_before, place: Some(place), reason: failure.reason, is_fatal })
        }
    };
    Structured::Texts { before, after, unparsed }
}

/// Two texts, and how they are compared.
struct Contents<'c, 'b> {
    names: (&'c str, &'c str),
    texts: (&'c Cow<'b, [u8]>, &'c Cow<'b, [u8]>),
    how: KindOptions,
    rules: (Arc<FileRules>, Arc<FileRules>),
    counted_only: bool,
    encodings: (TextEncoding, TextEncoding),
}

impl<'b> Contents<'_, 'b> {
    /// Compares them as what their names and contents say they are.
    fn by_themselves(&self) -> Result<Structured<'b>, Declined> {
        if is_delimited_name(self.names.1) {
            return self.tables();
        }
        let format = format_of(self.names.1, self.texts.1).ok_or(Declined::None)?;
        let is_named = format_of(self.names.1, b"").is_some();
        if matches!(format, DataFormat::Json | DataFormat::JsonLines)
            && let Ok((before, after)) = self.read_tables()
            && is_plain_table(&before)
            && is_plain_table(&after)
        {
            return self.compared(before, after);
        }
        // What only looks like a document, and is none, is text like any other.
        self.documents().map_err(|declined| if is_named { declined } else { Declined::None })
    }

    fn read_tables(&self) -> Result<(Table<'b>, Table<'b>), Declined> {
        let read = |name: &str, text: &Cow<'b, [u8]>, is_before: bool| {
            read_table(name, text.clone(), &self.how, is_before)
                .map_err(|failure| Declined::Failed(Kind::Table, is_before, failure))
        };
        let (before, after) =
            rayon::join(|| read(self.names.0, self.texts.0, true), || read(self.names.1, self.texts.1, false));
        Ok((before?, after?))
    }

    fn tables(&self) -> Result<Structured<'b>, Declined> {
        let (before, after) = self.read_tables()?;
        self.compared(before, after)
    }

    fn compared(&self, before: Table<'b>, after: Table<'b>) -> Result<Structured<'b>, Declined> {
        let how = (&self.how, (&self.rules.0, &self.rules.1), self.counted_only);
        let found = compare_both(&before, &after, how)
            .map_err(|(is_before, failure)| Declined::Failed(Kind::Table, is_before, failure))?;
        let (before, after) = (Arc::new(before), Arc::new(after));
        let pair = TablePair { before, after, encodings: self.encodings, rules: self.rules.clone(), found };
        Ok(Structured::Table(Box::new(pair)))
    }

    fn documents(&self) -> Result<Structured<'b>, Declined> {
        let format = |name: &str, text: &Cow<'b, [u8]>, is_before: bool| {
            format_of(name, text).ok_or_else(|| {
                let reason = "neither its name nor its contents tell whether it is JSON, YAML, TOML or XML";
                Declined::Failed(Kind::Data, is_before, Failure { at: 0, reason: reason.to_owned() })
            })
        };
        let formats = (format(self.names.0, self.texts.0, true)?, format(self.names.1, self.texts.1, false)?);
        let read = read_pair((self.texts.0.clone(), formats.0), (self.texts.1.clone(), formats.1));
        let (before, after) = read.map_err(|(is_before, failure)| Declined::Failed(Kind::Data, is_before, failure))?;
        let found = compare_data(&before, &after, (&self.how, (&self.rules.0, &self.rules.1), self.counted_only));
        let (before, after) = (Arc::new(before), Arc::new(after));
        let pair = DataPair { before, after, encodings: self.encodings, rules: self.rules.clone(), found };
        Ok(Structured::Data(Box::new(pair)))
    }
}

/// Why contents that are not both text were not compared as the table or the data that they were told to be.
pub(super) fn not_text(names: (&[u8], &[u8]), bytes: (&[u8], &[u8]), options: &ContentOptions) -> Option<Unparsed> {
    let kind = [Kind::Table, Kind::Data].into_iter().find(|kind| options.is_as(*kind))?;
    let is_before = read_text(names.0, bytes.0, true, options).is_none();
    Some(Unparsed { kind, is_before, place: None, reason: "this is not text".to_owned(), is_fatal: true })
}

/// How a text that only one side has is compared, and how large it is in units of that.
pub fn size_of_one(path: &[u8], text: &[u8], options: &ContentOptions) -> (Kind, Unit, usize) {
    let name = String::from_utf8_lossy(path);
    let is_table = match options.reading_of(path).kind {
        Some(WantedKind::As(Kind::Table)) => true,
        Some(WantedKind::Auto) => is_delimited_name(&name),
        _ => false,
    };
    if is_table && let Ok(table) = read_table(&name, Cow::Borrowed(text), &options.how_of(path), true) {
        return (Kind::Table, Unit::Rows, table.len());
    }
    (Kind::Text, Unit::Lines, count_lines(text))
}
